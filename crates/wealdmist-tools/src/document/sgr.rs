//! Color escapes written out in shell strings: `\e[1;32m`, `\033[38;5;75m`, `\x1b[0m`.

use std::ops::Range;

/// A color found in an escape.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SgrColor {
    /// One of the 16 slots.
    Slot(u8),
    /// One of the fixed indices 16–255.
    Index(u8),
    /// A 24-bit color.
    Rgb(u8, u8, u8),
}

/// One foreground color, set by an escape.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SgrUse {
    /// The color.
    pub color: SgrColor,
    /// The parameters that say it, such as `38;5;75` or `32`.
    pub span: Range<usize>,
    /// Where the escape ends, so that what it colors begins.
    pub end: usize,
}

/// The foreground colors set by escapes within a part of a file.
#[must_use]
pub fn foregrounds(bytes: &[u8], within: Range<usize>) -> Vec<SgrUse> {
    const INTRODUCERS: [&[u8]; 7] = [
        b"\\e[",
        b"\\E[",
        b"\\033[",
        b"\\x1b[",
        b"\\x1B[",
        b"\\u001b[",
        b"\x1b[",
    ];
    let mut out = Vec::new();
    let mut at = within.start;
    while at < within.end {
        let rest = &bytes[at..within.end];
        let Some(introducer) = INTRODUCERS.iter().find(|i| rest.starts_with(i)) else {
            at += 1;
            continue;
        };
        let start = at + introducer.len();
        let is_parameter = |b: &u8| b.is_ascii_digit() || matches!(b, b';' | b':');
        let len = bytes[start..within.end]
            .iter()
            .position(|b| !is_parameter(b));
        let Some(len) = len else { break };
        let end = start + len;
        at = end + 1;
        if bytes[end] == b'm' {
            parameters(bytes, start..end, end + 1, &mut out);
        }
    }
    out
}

fn parameters(bytes: &[u8], span: Range<usize>, end: usize, out: &mut Vec<SgrUse>) {
    let mut fields: Vec<(Option<u8>, Range<usize>)> = Vec::new();
    let mut from = span.start;
    for i in span.start..=span.end {
        if i == span.end || matches!(bytes[i], b';' | b':') {
            let text = std::str::from_utf8(&bytes[from..i]).unwrap_or_default();
            fields.push((text.parse().ok(), from..i));
            from = i + 1;
        }
    }
    let mut i = 0;
    while i < fields.len() {
        let value = |k: usize| fields.get(i + k).and_then(|f| f.0);
        let through = |k: usize| fields[i].1.start..fields[i + k].1.end;
        let (taken, color) = match (value(0), value(1)) {
            (Some(n @ 30..=37), _) => (1, Some(SgrColor::Slot(n - 30))),
            (Some(n @ 90..=97), _) => (1, Some(SgrColor::Slot(n - 90 + 8))),
            (Some(38), Some(5)) => match value(2) {
                Some(n @ 0..=15) => (3, Some(SgrColor::Slot(n))),
                Some(n) => (3, Some(SgrColor::Index(n))),
                None => (3, None),
            },
            (Some(38), Some(2)) => match (value(2), value(3), value(4)) {
                (Some(r), Some(g), Some(b)) => (5, Some(SgrColor::Rgb(r, g, b))),
                _ => (5, None),
            },
            (Some(48), Some(5)) => (3, None),
            (Some(48), Some(2)) => (5, None),
            _ => (1, None),
        };
        if let Some(color) = color {
            out.push(SgrUse {
                color,
                span: through(taken - 1),
                end,
            });
        }
        i += taken;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn every_spelling_is_found() {
        let text =
            br"\[\e[1;32m\]\u \033[38;5;75m\w \x1b[38;2;1;2;3m x \e[0m \e[38;5;4m \e[48;5;31m";
        let found: Vec<_> = foregrounds(text, 0..text.len())
            .into_iter()
            .map(|u| (u.color, String::from_utf8(text[u.span].to_vec()).unwrap()))
            .collect();
        assert_eq!(
            found,
            [
                (SgrColor::Slot(2), "32".into()),
                (SgrColor::Index(75), "38;5;75".into()),
                (SgrColor::Rgb(1, 2, 3), "38;2;1;2;3".into()),
                (SgrColor::Slot(4), "38;5;4".into()),
            ]
        );
    }

    proptest! {
        #[test]
        fn any_bytes_are_taken(bytes in proptest::collection::vec(prop_oneof![Just(b'\\'), Just(b'e'), Just(b'['), Just(b';'), Just(b'm'), b'0'..=b'9', any::<u8>()], 0..80)) {
            for found in foregrounds(&bytes, 0..bytes.len()) {
                prop_assert!(found.span.end < found.end && found.end <= bytes.len());
            }
        }
    }
}
