//! What programs that are configured by a language come to: texts that know where they were written, and
//! the values that something may have.

pub mod state;
pub mod text;

use wealdmist_core::reading::SourceFile;

use crate::shared::Includer;

/// A file as it was met, with the includes that led there.
pub struct Visit {
    pub file: SourceFile,
    pub chain: Vec<Includer>,
}
