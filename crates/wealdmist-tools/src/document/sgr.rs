//! Color escapes written out in shell strings: `\e[1;32m`, `\033[38;5;75m`, `\x1b[0m`.

use std::ops::Range;

use wealdmist_core::color::{Rgb, indexed};
use wealdmist_core::reading::Value;
use wealdmist_core::role::Slot;

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

/// What an escape sets.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Layer {
    /// The color of text.
    Text,
    /// The color of the ground.
    Ground,
}

/// One color, set by an escape.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SgrUse {
    /// Of text or of the ground.
    pub layer: Layer,
    /// The color; `None` where the layer goes back to the terminal's default.
    pub color: Option<SgrColor>,
    /// The parameters that say it, such as `38;5;75` or `32`.
    pub span: Range<usize>,
    /// Where the escape ends, so that what it colors begins.
    pub end: usize,
}

/// The spellings of the bytes that begin an escape.
pub const INTRODUCERS: [&[u8]; 7] = [
    b"\\e[",
    b"\\E[",
    b"\\033[",
    b"\\x1b[",
    b"\\x1B[",
    b"\\u001b[",
    b"\x1b[",
];

/// The spellings that bash takes in a prompt.
pub const IN_PROMPT: [&[u8]; 3] = [b"\\e[", b"\\033[", b"\x1b["];

/// The colors set by escapes within a part of a file, in their order.
#[must_use]
pub fn colors(bytes: &[u8], within: Range<usize>) -> Vec<SgrUse> {
    colors_of(bytes, within, &INTRODUCERS)
}

/// The same for escapes that begin in certain ways.
#[must_use]
pub fn colors_of(bytes: &[u8], within: Range<usize>, introducers: &[&[u8]]) -> Vec<SgrUse> {
    let mut out = Vec::new();
    let mut at = within.start;
    while at < within.end {
        let rest = &bytes[at..within.end];
        let Some(introducer) = introducers.iter().find(|i| rest.starts_with(i)) else {
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
        let through = |k: usize| {
            let last = (i + k).min(fields.len() - 1);
            fields[i].1.start..fields[last].1.end
        };
        let indexed = |n: Option<u8>| {
            n.map(|n| match n {
                0..=15 => SgrColor::Slot(n),
                n => SgrColor::Index(n),
            })
        };
        let rgb = || Some(SgrColor::Rgb(value(2)?, value(3)?, value(4)?));
        let layer = match value(0) {
            Some(40..=49 | 100..=107) => Layer::Ground,
            _ => Layer::Text,
        };
        // How many fields it takes, and whether it says a color, perhaps the default.
        let (taken, color) = match (value(0), value(1)) {
            (Some(n @ (30..=37 | 40..=47)), _) => (1, Some(Some(SgrColor::Slot(n % 10)))),
            (Some(n @ (90..=97 | 100..=107)), _) => (1, Some(Some(SgrColor::Slot(n % 10 + 8)))),
            (Some(38 | 48), Some(5)) => (3, indexed(value(2)).map(Some)),
            (Some(38 | 48), Some(2)) => (5, rgb().map(Some)),
            (Some(39 | 49), _) => (1, Some(None)),
            (Some(0), _) => {
                for layer in [Layer::Text, Layer::Ground] {
                    out.push(SgrUse {
                        layer,
                        color: None,
                        span: through(0),
                        end,
                    });
                }
                (1, None)
            }
            _ => (1, None),
        };
        if let Some(color) = color {
            out.push(SgrUse {
                layer,
                color,
                span: through(taken - 1),
                end,
            });
        }
        i += taken;
    }
}

/// A color of the escape as a value.
pub fn value_of(color: SgrColor) -> Option<Value> {
    match color {
        SgrColor::Slot(i) => Slot::from_ansi(i).map(Value::Slot),
        SgrColor::Index(i) => indexed(i).map(Value::Color),
        SgrColor::Rgb(r, g, b) => Some(Value::Color(Rgb::new(r, g, b))),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn every_spelling_is_found() {
        let text =
            br"\[\e[1;32m\]\u \033[38;5;75m\w \x1b[38;2;1;2;3m x \e[0m \e[38;5;4m \e[48;5;31;97m \e[49m";
        let found: Vec<_> = colors(text, 0..text.len())
            .into_iter()
            .map(|u| {
                let said = String::from_utf8(text[u.span].to_vec()).unwrap();
                (u.layer, u.color, said)
            })
            .collect();
        let t = |color, said: &str| (Layer::Text, Some(color), said.to_owned());
        assert_eq!(
            found,
            [
                t(SgrColor::Slot(2), "32"),
                t(SgrColor::Index(75), "38;5;75"),
                t(SgrColor::Rgb(1, 2, 3), "38;2;1;2;3"),
                (Layer::Text, None, "0".into()),
                (Layer::Ground, None, "0".into()),
                t(SgrColor::Slot(4), "38;5;4"),
                (Layer::Ground, Some(SgrColor::Index(31)), "48;5;31".into()),
                t(SgrColor::Slot(15), "97"),
                (Layer::Ground, None, "49".into()),
            ]
        );
    }

    proptest! {
        #[test]
        fn any_bytes_are_taken(bytes in proptest::collection::vec(prop_oneof![Just(b'\\'), Just(b'e'), Just(b'['), Just(b';'), Just(b'm'), b'0'..=b'9', any::<u8>()], 0..80)) {
            for found in colors(&bytes, 0..bytes.len()) {
                prop_assert!(found.span.end < found.end && found.end <= bytes.len());
            }
        }
    }
}
