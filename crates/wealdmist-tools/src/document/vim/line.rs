//! Text of a script, with the places it was written in. Parts of it are not copied.

use std::ops::{Deref, Range};
use std::sync::Arc;

/// A stretch of something that other stretches are parts of, too.
#[derive(Debug, Clone)]
pub struct Stretch<T> {
    all: Arc<[T]>,
    range: Range<usize>,
}

impl<T> Stretch<T> {
    /// A part of it; panics where that is not inside.
    fn part(&self, part: Range<usize>) -> Self {
        let _ = &self[part.clone()];
        Self {
            all: Arc::clone(&self.all),
            range: self.range.start + part.start..self.range.start + part.end,
        }
    }
}

impl<T> Deref for Stretch<T> {
    type Target = [T];

    fn deref(&self) -> &[T] {
        &self.all[self.range.clone()]
    }
}

impl<T> From<Vec<T>> for Stretch<T> {
    fn from(all: Vec<T>) -> Self {
        Self {
            range: 0..all.len(),
            all: all.into(),
        }
    }
}

impl<T> FromIterator<T> for Stretch<T> {
    fn from_iter<I: IntoIterator<Item = T>>(all: I) -> Self {
        Self::from(Vec::from_iter(all))
    }
}

impl<T> Default for Stretch<T> {
    fn default() -> Self {
        Self::from(Vec::new())
    }
}

impl<T: PartialEq> PartialEq for Stretch<T> {
    fn eq(&self, other: &Self) -> bool {
        **self == **other
    }
}

impl<T: Eq> Eq for Stretch<T> {}

/// Text of a command, and for each of its bytes the byte of the source it came from.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Line {
    /// The bytes.
    pub bytes: Stretch<u8>,
    /// Where each stands.
    pub map: Stretch<usize>,
}

impl Line {
    pub(super) fn part(&self, range: Range<usize>) -> Self {
        Self {
            bytes: self.bytes.part(range.clone()),
            map: self.map.part(range),
        }
    }

    /// Several as one.
    pub(super) fn joined(pieces: &[Self]) -> Self {
        if let [one] = pieces {
            return one.clone();
        }
        Self {
            bytes: pieces
                .iter()
                .flat_map(|p| p.bytes.iter().copied())
                .collect(),
            map: pieces.iter().flat_map(|p| p.map.iter().copied()).collect(),
        }
    }

    pub(super) fn trimmed(&self) -> Self {
        let blank = |b: &u8| b.is_ascii_whitespace();
        let start = self.bytes.iter().take_while(|b| blank(b)).count();
        let end = self
            .bytes
            .iter()
            .rposition(|b| !blank(b))
            .map_or(start, |i| i + 1);
        self.part(start..end.max(start))
    }

    /// Its words: what stands between blanks. A backslash keeps the blank behind it in the word.
    #[must_use]
    pub fn words(&self) -> Vec<Self> {
        let (mut out, mut at) = (Vec::new(), 0);
        let blank = |at: usize| matches!(self.bytes[at], b' ' | b'\t');
        while at < self.bytes.len() {
            if blank(at) {
                at += 1;
                continue;
            }
            let start = at;
            while at < self.bytes.len() && !blank(at) {
                at += if self.bytes[at] == b'\\' { 2 } else { 1 };
            }
            at = at.min(self.bytes.len());
            out.push(self.part(start..at));
        }
        out
    }

    /// As text.
    #[must_use]
    pub fn text(&self) -> String {
        String::from_utf8_lossy(&self.bytes).into_owned()
    }

    /// What follows the first bytes.
    #[must_use]
    pub fn behind(&self, length: usize) -> Self {
        self.part(length.min(self.bytes.len())..self.bytes.len())
            .trimmed()
    }

    /// The part of it, without the blanks around.
    #[must_use]
    pub fn between(&self, range: Range<usize>) -> Self {
        self.part(range).trimmed()
    }
}
