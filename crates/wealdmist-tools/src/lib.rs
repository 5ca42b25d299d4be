//! The dotfiles: lossless documents, and one adapter per tool. Text in, readings and edits out.
//!
//! This crate is pure: it never opens a file. What it needs of the machine it asks through
//! [`Access`], which `wealdmist-host` implements for a real home and tests implement in memory.
//! A tool's own vocabulary stays inside its adapter.

#![cfg_attr(test, allow(clippy::disallowed_methods))]

pub mod access;
pub mod document;
pub mod exchange;
pub mod table;
pub mod tools;

pub use access::{Access, Loaded};
pub use tools::{Adapter, Facts, Wanted, adapter, adapters, plan, read_all};
