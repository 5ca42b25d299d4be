//! Line-based files: settings of a key, blanks, and a value that runs to the end of the line.

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

/// A setting on a line.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Setting {
    /// The line it stands on.
    pub line: Line,
    /// The key.
    pub key: Range<usize>,
    /// The value, without blanks around it; empty where there is none.
    pub value: Range<usize>,
    /// The sign and blanks that comment it out, if it is.
    pub comment: Option<Range<usize>>,
}

/// Every `key value` line, also commented-out ones: a single `#`, at most one blank, and a word
/// that could be a key.
pub fn settings(bytes: &[u8]) -> impl Iterator<Item = Setting> + '_ {
    lines(bytes).filter_map(|line| {
        let text = trim(bytes, line.span.clone());
        let comment = (bytes.get(text.start) == Some(&b'#')).then(|| {
            let after = text.start + 1;
            let blank = usize::from(bytes.get(after) == Some(&b' '));
            text.start..(after + blank).min(text.end)
        });
        let body = comment.as_ref().map_or(text.start, |c| c.end)..text.end;
        let key_len = bytes[body.clone()]
            .iter()
            .position(|b| is_blank(*b))
            .unwrap_or(body.len());
        let key = body.start..body.start + key_len;
        let is_name = |b: &u8| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'-');
        if key.is_empty() || (comment.is_some() && !bytes[key.clone()].iter().all(is_name)) {
            return None;
        }
        let value = trim(bytes, key.end..body.end);
        Some(Setting {
            line,
            key,
            value,
            comment,
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

    #[test]
    fn settings_and_their_spans() {
        let text = b"  font_size\t 12.0  \r\n# color1 #aa\n#: prose here\n#color2 x\n\nbare";
        let found: Vec<_> = settings(text)
            .map(|s| {
                let part = |r: Range<usize>| std::str::from_utf8(&text[r]).unwrap().to_owned();
                (
                    part(s.key),
                    part(s.value),
                    s.comment.is_some(),
                    s.line.number,
                )
            })
            .collect();
        let row = |k: &str, v: &str, c, n| (k.to_owned(), v.to_owned(), c, n);
        assert_eq!(
            found,
            [
                row("font_size", "12.0", false, 1),
                row("color1", "#aa", true, 2),
                row("color2", "x", true, 4),
                row("bare", "", false, 6),
            ]
        );
    }

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

        #[test]
        fn spans_stay_inside_their_line(bytes in proptest::collection::vec(prop_oneof![Just(b'#'), Just(b' '), Just(b'\n'), Just(b'a'), any::<u8>()], 0..120)) {
            for s in settings(&bytes) {
                prop_assert!(s.line.span.start <= s.key.start && s.key.end <= s.value.start.max(s.key.end));
                prop_assert!(s.value.end <= s.line.span.end);
            }
        }
    }
}
