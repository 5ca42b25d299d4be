//! Document syntaxes: what stands where in a file, as spans of its bytes.
//!
//! Nothing here prints a document back: an edit is a splice of the original bytes, so whatever a
//! parser does not understand stays as it is.

pub mod commands;
pub mod lines;
pub mod lua;
pub(crate) mod lua_words;
pub mod sgr;
