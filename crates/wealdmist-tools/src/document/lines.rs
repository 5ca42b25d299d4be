//! Line-based files: lines, their ends, blanks.

use std::ops::Range;

/// A line: its bytes without the line end.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Line {
    /// The bytes, without `\n` or `\r\n`.
    pub span: Range<usize>,
    /// Its number, from 1.
    pub number: usize,
    /// Where the next line begins.
    pub next: usize,
}

/// The lines of a file.
pub fn lines(bytes: &[u8]) -> impl Iterator<Item = Line> + '_ {
    let (mut at, mut number) = (0, 0);
    std::iter::from_fn(move || {
        if at >= bytes.len() {
            return None;
        }
        number += 1;
        let start = at;
        let end = bytes[at..]
            .iter()
            .position(|b| *b == b'\n')
            .map_or(bytes.len(), |i| at + i);
        at = (end + 1).min(bytes.len());
        let text_end = if end > start && bytes[end - 1] == b'\r' {
            end - 1
        } else {
            end
        };
        Some(Line {
            span: start..text_end,
            number,
            next: at,
        })
    })
}

/// Whether a byte is a blank.
#[must_use]
pub const fn is_blank(b: u8) -> bool {
    matches!(b, b' ' | b'\t')
}

/// A range without the blanks at its ends.
#[must_use]
pub fn trim(bytes: &[u8], range: Range<usize>) -> Range<usize> {
    let text = &bytes[range.clone()];
    match text.iter().position(|b| !is_blank(*b)) {
        None => range.end..range.end,
        Some(first) => {
            let last = text.iter().rposition(|b| !is_blank(*b)).unwrap_or(first);
            range.start + first..range.start + last + 1
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn lines_put_together_are_the_file(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
            let mut out = Vec::new();
            let mut at = 0;
            for line in lines(&bytes) {
                prop_assert_eq!(at, line.span.start);
                out.extend_from_slice(&bytes[at..line.next]);
                at = line.next;
            }
            prop_assert_eq!(out, bytes);
        }
    }
}
