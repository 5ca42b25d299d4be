//! Styles inside options and formats: which colors they name, and where.

use std::ops::Range;

use wealdmist_core::color::{Rgb, indexed};
use wealdmist_core::reading::Value;
use wealdmist_core::role::Slot;

/// A color word.
pub(super) fn color(word: &str) -> Option<Value> {
    let lower = word.to_ascii_lowercase();
    if let Some(color) = Rgb::from_hex(&lower).filter(|_| lower.len() == 7) {
        return Some(Value::Color(color));
    }
    let index = lower
        .strip_prefix("colour")
        .or_else(|| lower.strip_prefix("color"));
    if let Some(index) = index.and_then(|i| i.parse::<u8>().ok()) {
        return Some(match Slot::from_ansi(index) {
            Some(slot) => Value::Slot(slot),
            None => Value::Color(indexed(index)?),
        });
    }
    if let Ok(code @ (90..=97)) = lower.parse::<u8>() {
        return Slot::from_ansi(code - 90 + 8).map(Value::Slot);
    }
    const NAMES: [&str; 8] = [
        "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
    ];
    let plain = lower.strip_prefix("bright").unwrap_or(&lower);
    if let Some(i) = NAMES.iter().position(|n| *n == plain) {
        let bright = if plain.len() < lower.len() { 8 } else { 0 };
        return Slot::from_ansi(i as u8 + bright).map(Value::Slot);
    }
    match lower.as_str() {
        "default" | "terminal" => Some(Value::Default),
        _ if !lower.is_empty() && lower.chars().all(|c| c.is_ascii_alphanumeric()) => {
            Some(Value::Text(word.to_owned()))
        }
        _ => None,
    }
}

/// One style inside an option's value: the whole of a style option, or one `#[…]` of a format.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Style {
    pub(super) text: Option<(Value, Range<usize>)>,
    pub(super) ground: Option<(Value, Range<usize>)>,
    /// Whether it is drawn only while the prefix is pressed.
    pub(super) prefix: bool,
    /// Whether it goes back to the option's own style.
    pub(super) reset: bool,
}

/// The styles in an option's decoded value. Colors are found by their place in it.
pub(super) fn styles(value: &[u8], format: bool) -> Vec<Style> {
    if !format {
        return conditional_parts(value, 0..value.len())
            .into_iter()
            .map(|(range, prefix)| one_style(value, range, prefix))
            .filter(|s| s.text.is_some() || s.ground.is_some())
            .collect();
    }
    let mut out = Vec::new();
    for (range, prefix) in conditional_parts(value, 0..value.len()) {
        let mut at = range.start;
        while at + 1 < range.end {
            if &value[at..at + 2] == b"##" {
                at += 2;
                continue;
            }
            if &value[at..at + 2] == b"#[" {
                let Some(len) = value[at..range.end].iter().position(|b| *b == b']') else {
                    break;
                };
                out.push(one_style(value, at + 2..at + len, prefix));
                at += len;
            }
            at += 1;
        }
    }
    out
}

/// Splits a value at conditions on the prefix key: the parts with whether they are drawn while
/// it is pressed. Other conditions are taken as a whole, both branches.
fn conditional_parts(value: &[u8], range: Range<usize>) -> Vec<(Range<usize>, bool)> {
    const OPEN: &[u8] = b"#{?client_prefix,";
    let find = |from: usize| {
        value[from..range.end]
            .windows(OPEN.len())
            .position(|w| w == OPEN)
            .map(|i| from + i)
    };
    let mut out = Vec::new();
    let mut at = range.start;
    while let Some(open) = find(at) {
        out.push((at..open, false));
        let (mut i, mut depth, mut comma) = (open + OPEN.len(), 1, None);
        while i < range.end {
            match value[i] {
                b'#' if value.get(i + 1) == Some(&b'{') => {
                    depth += 1;
                    i += 1;
                }
                // An escaped comma belongs to the text.
                b'#' if matches!(value.get(i + 1), Some(b',' | b'}' | b'#')) => i += 1,
                b'}' => {
                    depth -= 1;
                    if depth == 0 {
                        break;
                    }
                }
                b',' if depth == 1 && comma.is_none() => comma = Some(i),
                _ => {}
            }
            i += 1;
        }
        let close = i.min(range.end);
        let split = comma.unwrap_or(close);
        out.push((open + OPEN.len()..split, true));
        out.push(((split + 1).min(close)..close, false));
        at = (close + 1).min(range.end);
    }
    out.push((at..range.end, false));
    out.retain(|(r, _)| !r.is_empty());
    out
}

fn one_style(value: &[u8], range: Range<usize>, prefix: bool) -> Style {
    let mut style = Style {
        text: None,
        ground: None,
        prefix,
        reset: false,
    };
    let mut at = range.start;
    while at < range.end {
        // Separators: commas (also escaped ones) and blanks.
        let b = value[at];
        if matches!(b, b',' | b' ') || (b == b'#' && value.get(at + 1) == Some(&b',')) {
            at += 1;
            continue;
        }
        let is_end = |i: usize| {
            i >= range.end
                || matches!(value[i], b',' | b' ' | b']' | b'}')
                || (value[i] == b'#' && matches!(value.get(i + 1), Some(b',' | b'}')))
        };
        let start = at;
        // An indirection keeps its braces.
        let mut depth = 0;
        while at < range.end {
            if value[at..range.end].starts_with(b"#{") {
                depth += 1;
                at += 2;
                continue;
            }
            if depth > 0 {
                if value[at] == b'}' {
                    depth -= 1;
                }
                at += 1;
                continue;
            }
            if is_end(at) {
                break;
            }
            at += 1;
        }
        if at == start {
            at += 1;
            continue;
        }
        // Places within a part are places in the value only where it is text.
        let Ok(token) = std::str::from_utf8(&value[start..at]) else {
            continue;
        };
        let found = |word: &str| {
            let range = at - word.len()..at;
            let value = if word.starts_with("#{@") && word.ends_with('}') {
                Some(Value::Text(word.to_owned()))
            } else {
                color(word)
            };
            value.map(|v| (v, range))
        };
        let lower = token.to_ascii_lowercase();
        if lower.starts_with("fg=") {
            style.text = found(&token[3..]);
        } else if lower.starts_with("bg=") {
            style.ground = found(&token[3..]);
        } else if lower == "default" || lower == "none" {
            style.reset |= lower == "default";
        }
    }
    style
}
