//! What programs that are configured by a language come to: texts that know where they were written, and
//! the values that something may have.

pub mod functions;
pub mod state;
pub mod text;

use std::ops::Range;
use std::sync::Arc;

use wealdmist_core::reading::SourceFile;

use crate::shared::Includer;
use text::Text;

/// A file as it was met, with the includes that led there.
pub struct Visit {
    pub file: SourceFile,
    pub chain: Vec<Includer>,
}

/// Where commands stand: in a file, or in a text that is run as commands.
#[derive(Debug, Clone)]
pub enum Ground {
    /// In a file, by its visit.
    File(usize),
    /// In a text, met in a file.
    Text(usize, Arc<Text>),
}

impl Ground {
    /// The visit of the file.
    pub const fn visit(&self) -> usize {
        match self {
            Self::File(visit) | Self::Text(visit, _) => *visit,
        }
    }

    /// Bytes that stand there, by where each does.
    pub fn written(&self, bytes: &[u8], at: impl Fn(usize) -> Option<usize>) -> Text {
        match self {
            Self::File(visit) => Text::written(bytes, *visit, at),
            Self::Text(_, outer) => Text::written_in(bytes, outer, at),
        }
    }

    /// What stands at a place, as it is written.
    pub fn source(&self, span: Range<usize>, visits: &[Visit]) -> Text {
        match self {
            Self::File(visit) => {
                let bytes = &visits[*visit].file.bytes[span.clone()];
                Text::written(bytes, *visit, |i| Some(span.start + i))
            }
            Self::Text(_, outer) => outer.part(span),
        }
    }
}
