//! Text that knows, byte by byte, where it was written.

use std::ops::Range;

use crate::document::commands::Word;

/// Where a byte was written: the visit of a file, and the byte in it.
type Origin = Option<(usize, usize)>;

/// A value, put together of what stands in one place or several.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct Text {
    pub(super) bytes: Vec<u8>,
    from: Vec<Origin>,
}

impl Text {
    /// A text that is written nowhere.
    pub(super) fn nowhere(text: &str) -> Self {
        Self {
            bytes: text.as_bytes().to_vec(),
            from: vec![None; text.len()],
        }
    }

    /// What a word of a file stands for.
    pub(super) fn of_word(word: &Word, visit: usize) -> Self {
        let origin = |at| word.origin(at).map(|at| (visit, at));
        Self {
            bytes: word.text.clone(),
            from: (0..word.text.len()).map(origin).collect(),
        }
    }

    /// What a word stands for that is part of a text.
    pub(super) fn of_word_in(word: &Word, outer: &Self) -> Self {
        let origin = |at| {
            word.origin(at)
                .and_then(|at| outer.from.get(at).copied().flatten())
        };
        Self {
            bytes: word.text.clone(),
            from: (0..word.text.len()).map(origin).collect(),
        }
    }

    pub(super) fn part(&self, range: Range<usize>) -> Self {
        Self {
            bytes: self.bytes[range.clone()].to_vec(),
            from: self.from[range].to_vec(),
        }
    }

    pub(super) fn push(&mut self, other: &Self) {
        self.bytes.extend_from_slice(&other.bytes);
        self.from.extend_from_slice(&other.from);
    }

    pub(super) fn lossy(&self) -> String {
        String::from_utf8_lossy(&self.bytes).into_owned()
    }

    /// Where a part of it is spelled as it is, all in one place.
    pub(super) fn source(&self, part: Range<usize>) -> Option<(usize, Range<usize>)> {
        let from = self.from.get(part)?;
        let (visit, first) = (*from.first()?)?;
        let follows = |(i, origin): (usize, &Origin)| *origin == Some((visit, first + i));
        let together = from.iter().enumerate().all(follows);
        together.then_some((visit, first..first + from.len()))
    }

    /// The nearest place of a byte of it.
    pub(super) fn nearest(&self, at: usize) -> Option<(usize, usize)> {
        let behind = self.from.get(at..).unwrap_or_default().iter();
        let before = self.from.get(..at.min(self.from.len())).unwrap_or_default();
        behind.chain(before.iter().rev()).find_map(|origin| *origin)
    }
}
