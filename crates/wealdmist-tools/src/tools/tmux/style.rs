//! Styles inside options and formats: which colors they name, and where.

use std::ops::Range;

use wealdmist_core::color::{Rgb, indexed, x11_color};
use wealdmist_core::reading::Value;
use wealdmist_core::role::Slot;

use super::format::skip;
use super::vocabulary::Kind;

/// The names of colors that are in no table of X11: those of CSS.
const CSS: [(&str, u32); 10] = [
    ("aqua", 0x00_ffff),
    ("crimson", 0xdc_143c),
    ("fuchsia", 0xff_00ff),
    ("indigo", 0x4b_0082),
    ("lime", 0x00_ff00),
    ("olive", 0x80_8000),
    ("rebeccapurple", 0x66_3399),
    ("silver", 0xc0_c0c0),
    ("teal", 0x00_8080),
    ("webgray", 0x80_8080),
];

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
    match lower.parse::<u8>() {
        Ok(code @ (90..=97)) if lower.len() == 2 => {
            return Slot::from_ansi(code - 90 + 8).map(Value::Slot);
        }
        Ok(code @ 0..=7) if lower.len() == 1 => return Slot::from_ansi(code).map(Value::Slot),
        _ => {}
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
        name => {
            // More than one of the table has a name of the web beside that of X11.
            let web = match name {
                "webgrey" => "webgray",
                "x11gray" | "x11grey" => "gray",
                "x11green" => "green1",
                "x11maroon" => "maroon",
                "x11purple" => "purple",
                _ => name,
            };
            let css = match name {
                "webgreen" => Some(0x00_8000),
                "webmaroon" => Some(0x80_0000),
                "webpurple" => Some(0x80_0080),
                _ => CSS.iter().find(|(n, _)| *n == web).map(|(_, c)| *c),
            };
            let color = css.map(Rgb::from_u32).or_else(|| x11_color(web));
            color.map(Value::Color)
        }
    }
}

/// The words of a style beside colors.
const ATTRIBUTES: [&str; 14] = [
    "acs",
    "bright",
    "bold",
    "dim",
    "underscore",
    "blink",
    "reverse",
    "hidden",
    "italics",
    "strikethrough",
    "double-underscore",
    "curly-underscore",
    "dotted-underscore",
    "dashed-underscore",
];

/// Whether the program takes a value for an option of a kind.
///
/// `open` says that variables in it are not known.
pub(super) fn is_valid(value: &[u8], kind: Kind, open: bool) -> bool {
    let Ok(text) = std::str::from_utf8(value) else {
        return kind == Kind::Text;
    };
    match kind {
        Kind::Style => memchr::memmem::find(value, b"#{").is_some() || is_style(text, open),
        Kind::Color => color(text).is_some() || (open && text.contains('$')),
        _ => true,
    }
}

/// Whether every word of a style is one.
fn is_style(text: &str, open: bool) -> bool {
    let mut words = text.split([' ', ',', '\n']).filter(|w| !w.is_empty());
    words.all(|word| is_style_word(word) || (open && word.contains('$')))
}

fn is_style_word(word: &str) -> bool {
    let lower = word.to_ascii_lowercase();
    let after = |prefix: &str| lower.strip_prefix(prefix);
    let is_attribute = |text: &str| {
        let mut parts = text.split('|').filter(|p| !p.is_empty()).peekable();
        parts.peek().is_some() && parts.all(|p| ATTRIBUTES.contains(&p) || p == "overline")
    };
    let plain = [
        "default",
        "none",
        "ignore",
        "noignore",
        "push-default",
        "pop-default",
        "nolist",
        "norange",
        "noalign",
    ];
    if lower.len() > 255 {
        return false;
    }
    if plain.contains(&lower.as_str()) {
        return true;
    }
    if let Some(name) = after("fg=")
        .or_else(|| after("bg="))
        .or_else(|| after("fill="))
    {
        return color(name).is_some();
    }
    if let Some(where_to) = after("align=") {
        return ["left", "centre", "right", "absolute-centre"].contains(&where_to);
    }
    if let Some(list) = after("list=") {
        return ["on", "focus", "left-marker", "right-marker"].contains(&list);
    }
    if let Some(range) = after("range=") {
        return !range.is_empty();
    }
    is_attribute(
        after("no")
            .filter(|rest| !rest.is_empty())
            .unwrap_or(&lower),
    )
}

/// When a part of a value is drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum When {
    /// As a rule.
    Always,
    /// While the prefix is pressed.
    Prefix,
    /// In some state of a pane, window or client.
    Sometimes,
}

/// One style inside an option's value: the whole of a style option, or one `#[…]` of a format.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Style {
    pub(super) text: Option<Found>,
    pub(super) ground: Option<Found>,
    /// When it is drawn.
    pub(super) when: When,
    /// Whether something that is seen follows it: letters, digits, a format.
    pub(super) seen: bool,
}

/// A color of a style.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Found {
    /// The color; a text where it cannot be told from the files.
    pub(super) value: Value,
    /// Its place in the option's value.
    pub(super) range: Range<usize>,
}

/// Tells whether a condition in a format holds, where that is known.
pub(super) type Knows<'a> = &'a dyn Fn(&[u8]) -> Option<bool>;

/// The styles in an option's value. Colors are found by their place in it.
pub(super) fn styles(value: &[u8], format: bool, knows: Knows) -> Vec<Style> {
    let mut parts = Vec::new();
    split(value, 0..value.len(), When::Always, knows, &mut parts);
    if !format {
        // The parts of the same time are one style.
        let mut out: Vec<Style> = Vec::new();
        for (range, when) in parts {
            let style = one_style(value, range, when, false);
            match out
                .iter_mut()
                .find(|s| s.when == when && when == When::Always)
            {
                Some(there) => {
                    there.text = style.text.or(there.text.take());
                    there.ground = style.ground.or(there.ground.take());
                }
                None => out.push(style),
            }
        }
        out.retain(|s| s.text.is_some() || s.ground.is_some());
        return out;
    }
    let mut out: Vec<Style> = Vec::new();
    for (range, when) in parts {
        let mut at = range.start;
        while at < range.end {
            let rest = &value[at..range.end];
            let style = match rest {
                [b'#', b'#', ..] => {
                    at += 2;
                    continue;
                }
                [b'#', b'[', ..] => memchr::memchr(b']', rest),
                _ => None,
            };
            if let Some(length) = style {
                out.push(one_style(value, at + 2..at + length, when, true));
                at += length + 1;
                continue;
            }
            let is_seen = rest[0].is_ascii_alphanumeric()
                || matches!(rest, [b'#', b'{' | b'a'..=b'z' | b'A'..=b'Z', ..]);
            if let Some(last) = out.last_mut().filter(|_| is_seen) {
                last.seen = true;
            }
            at += 1;
        }
    }
    out.retain(|s| s.text.is_some() || s.ground.is_some());
    out
}

/// Splits a value at its conditions: the parts, each with when it is drawn.
fn split(
    value: &[u8],
    range: Range<usize>,
    when: When,
    knows: Knows,
    out: &mut Vec<(Range<usize>, When)>,
) {
    let mut start = range.start;
    let mut at = start;
    while at < range.end {
        let rest = &value[at..range.end];
        if rest.starts_with(b"##") {
            at += 2;
            continue;
        }
        if !rest.starts_with(b"#{?") {
            at += 1;
            continue;
        }
        let within = &value[..range.end];
        let first = skip(within, at + 3, b",");
        let second = skip(within, (first + 1).min(range.end), b",}");
        let end = match within.get(second) {
            Some(b',') => skip(within, second + 1, b"}"),
            _ => second,
        };
        let condition = &value[at + 3..first.min(range.end)];
        out.push((start..at, when));
        let yes = (first + 1).min(range.end)..second.min(range.end);
        let no = (second + 1).min(end)..end.min(range.end);
        let is = knows(condition);
        if is != Some(false) {
            let then = match (is, condition) {
                (Some(true), _) => when,
                (_, b"client_prefix") => When::Prefix,
                _ => When::Sometimes,
            };
            split(value, yes, then, knows, out);
        }
        if is != Some(true) {
            split(value, no, when, knows, out);
        }
        at = (end + 1).min(range.end);
        start = at;
    }
    out.push((start..range.end, when));
    out.retain(|(r, _)| r.start < r.end);
}

fn one_style(value: &[u8], range: Range<usize>, when: When, format: bool) -> Style {
    let nothing = Style {
        text: None,
        ground: None,
        when,
        seen: false,
    };
    let mut style = nothing.clone();
    for range in words(value, range) {
        // Places within a part are places in the value only where it is text.
        let Ok(word) = std::str::from_utf8(&value[range.clone()]) else {
            continue;
        };
        let lower = word.to_ascii_lowercase();
        let found = |name: &str| {
            let range = range.end - name.len()..range.end;
            let value = color(name).unwrap_or_else(|| Value::Text(name.to_owned()));
            Some(Found { value, range })
        };
        if lower.starts_with("fg=") {
            style.text = found(&word[3..]);
        } else if lower.starts_with("bg=") {
            style.ground = found(&word[3..]);
        } else if lower == "default" {
            (style.text, style.ground) = (None, None);
        }
        // What the program would not take, it leaves out as a whole.
        let open = word.contains("#{") || word.contains('$');
        if format && !open && !is_style_word(word) {
            return nothing;
        }
    }
    style
}

/// The words of a style.
fn words(value: &[u8], range: Range<usize>) -> Vec<Range<usize>> {
    let mut out = Vec::new();
    let mut at = range.start;
    while at < range.end {
        let rest = &value[at..range.end];
        if matches!(rest[0], b',' | b' ' | b'\n') {
            at += 1;
        } else if rest.starts_with(b"#,") {
            // A comma that belongs to the text of a condition.
            at += 2;
        } else {
            let start = at;
            let mut depth = 0usize;
            while at < range.end {
                let rest = &value[at..range.end];
                let is_end = matches!(rest[0], b',' | b' ' | b'\n') || rest.starts_with(b"#,");
                match rest {
                    [b'#', b'{', ..] => {
                        depth += 1;
                        at += 1;
                    }
                    [b'}', ..] if depth > 0 => depth -= 1,
                    _ if depth == 0 && is_end => break,
                    _ => {}
                }
                at += 1;
            }
            out.push(start..at.min(range.end));
        }
    }
    out
}
