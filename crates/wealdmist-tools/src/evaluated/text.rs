//! Text that knows, byte by byte, where it was written.

use std::ops::Range;
use std::sync::Arc;

use super::state::Why;

/// Where a byte was written: the visit of a file, and the byte in it.
type Origin = Option<(usize, usize)>;

/// A value, put together of what stands in one place or several.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Text {
    pub bytes: Vec<u8>,
    /// Shared, as values are copied far more often than they are put together.
    from: Arc<Vec<Origin>>,
    /// What of it is not known, where something is not; its source stands there.
    pub unknown: Option<Why>,
}

impl Text {
    /// A text that is written nowhere.
    pub fn nowhere(text: &str) -> Self {
        Self {
            bytes: text.as_bytes().to_vec(),
            from: vec![None; text.len()].into(),
            unknown: None,
        }
    }

    /// What stands in a file: its bytes, and where each was written.
    pub fn written(bytes: &[u8], visit: usize, at: impl Fn(usize) -> Option<usize>) -> Self {
        let origin = |i| at(i).map(|at| (visit, at));
        Self {
            bytes: bytes.to_vec(),
            from: Arc::new((0..bytes.len()).map(origin).collect()),
            unknown: None,
        }
    }

    /// What stands in a text.
    pub fn written_in(bytes: &[u8], outer: &Self, at: impl Fn(usize) -> Option<usize>) -> Self {
        let origin = |i| at(i).and_then(|at| outer.from.get(at).copied().flatten());
        Self {
            bytes: bytes.to_vec(),
            from: Arc::new((0..bytes.len()).map(origin).collect()),
            unknown: None,
        }
    }

    /// The same, with a part that is not known.
    pub fn not_known(mut self, why: &Why) -> Self {
        self.unknown.get_or_insert_with(|| Why::clone(why));
        self
    }

    /// The same, each of its bytes at one place.
    pub fn placed_at(&self, visit: usize, at: usize) -> Self {
        Self {
            from: vec![Some((visit, at)); self.bytes.len()].into(),
            ..self.clone()
        }
    }

    pub fn part(&self, range: Range<usize>) -> Self {
        Self {
            bytes: self.bytes[range.clone()].to_vec(),
            from: self.from[range].to_vec().into(),
            unknown: self.unknown.clone(),
        }
    }

    pub fn push(&mut self, other: &Self) {
        self.bytes.extend_from_slice(&other.bytes);
        Arc::make_mut(&mut self.from).extend_from_slice(&other.from);
        self.unknown = self.unknown.take().or_else(|| other.unknown.clone());
    }

    /// The same with the escapes worked out that are written out in it; `others` are further letters of that of
    /// the escape sign.
    pub fn unescaped(&self, others: &[u8]) -> Self {
        let (mut out, mut at) = (Self::default(), 0);
        out.unknown.clone_from(&self.unknown);
        while at < self.bytes.len() {
            let (byte, length) = match &self.bytes[at..] {
                [b'\\', b'e', ..] => (0x1b, 2),
                [b'\\', sign, ..] if others.contains(sign) => (0x1b, 2),
                [b'\\', b'n', ..] => (b'\n', 2),
                [b'\\', b't', ..] => (b'\t', 2),
                [b'\\', b'\\', ..] => (b'\\', 2),
                [b'\\', b'0', b'3', b'3', ..] => (0x1b, 4),
                [b'\\', b'x', b'1', b'b' | b'B', ..] => (0x1b, 4),
                [byte, ..] => (*byte, 1),
                [] => break,
            };
            let mut one = self.part(at..at + 1);
            one.bytes[0] = byte;
            out.push(&one);
            at += length;
        }
        out
    }

    pub fn lossy(&self) -> String {
        String::from_utf8_lossy(&self.bytes).into_owned()
    }

    /// Where a part of it is spelled as it is, all in one place.
    pub fn source(&self, part: Range<usize>) -> Option<(usize, Range<usize>)> {
        let from = self.from.get(part)?;
        let (visit, first) = (*from.first()?)?;
        let follows = |(i, origin): (usize, &Origin)| *origin == Some((visit, first + i));
        let together = from.iter().enumerate().all(follows);
        together.then_some((visit, first..first + from.len()))
    }

    /// Where a part of it is spelled, all in one place but for signs between that quote it.
    pub fn stretch(
        &self,
        part: Range<usize>,
        is_gap: impl Fn(usize, Range<usize>) -> bool,
    ) -> Option<(usize, Range<usize>)> {
        let from = self.from.get(part)?;
        let (visit, first) = (*from.first()?)?;
        let mut end = first;
        for origin in from {
            let (own, at) = (*origin)?;
            let follows = at == end || (at > end && is_gap(visit, end..at));
            if own != visit || !follows {
                return None;
            }
            end = at + 1;
        }
        Some((visit, first..end))
    }

    /// Whether each byte of a part stands in its file as itself, and not as an escape: of one that ends it only
    /// the beginning would be known.
    pub fn is_spelled<'a>(&self, part: Range<usize>, file: impl Fn(usize) -> &'a [u8]) -> bool {
        let bytes = self.bytes.get(part.clone()).unwrap_or_default();
        let from = self.from.get(part).unwrap_or_default();
        let same = |(byte, origin): (&u8, &Origin)| {
            origin.is_some_and(|(visit, at)| file(visit).get(at) == Some(byte))
        };
        bytes.last() != Some(&b'\\') && bytes.iter().zip(from).all(same)
    }

    /// The nearest place of a byte of it.
    pub fn nearest(&self, at: usize) -> Option<(usize, usize)> {
        let behind = self.from.get(at..).unwrap_or_default().iter();
        let before = self.from.get(..at.min(self.from.len())).unwrap_or_default();
        behind.chain(before.iter().rev()).find_map(|origin| *origin)
    }
}
