//! The texts that say what is drawn, and how: parsed, each byte knowing where it was written.

use std::ops::Range;

use wealdmist_core::color::indexed;
use wealdmist_core::reading::Value;
use wealdmist_core::role::Slot;

use crate::evaluated::text::Text;
use crate::table::spelling;

/// A part of such a text.
#[derive(Debug, Clone, PartialEq)]
pub enum Node {
    /// Drawn as it is.
    Text(Text),
    /// What a name stands for.
    Variable(String),
    /// Drawn in a style.
    Group(Vec<Self>, Vec<Self>),
    /// Drawn where a name in it stands for something.
    Maybe(Vec<Self>),
}

/// How deep groups may nest.
const DEEPEST: usize = 32;

/// Parses a text; `Err` says where it is none.
pub fn parse(text: &Text) -> Result<Vec<Node>, usize> {
    let mut parser = Parser { text, at: 0 };
    let nodes = parser.nodes(None, 0)?;
    match parser.at == text.bytes.len() {
        true => Ok(nodes),
        false => Err(parser.at),
    }
}

struct Parser<'a> {
    text: &'a Text,
    at: usize,
}

impl Parser<'_> {
    fn peek(&self) -> Option<u8> {
        self.text.bytes.get(self.at).copied()
    }

    fn nodes(&mut self, end: Option<u8>, depth: usize) -> Result<Vec<Node>, usize> {
        let mut out = Vec::new();
        while let Some(byte) = self.peek() {
            if Some(byte) == end {
                break;
            }
            let node = match byte {
                b'$' => self.variable()?,
                b'[' | b'(' if depth >= DEEPEST => return Err(self.at),
                b'[' => {
                    self.at += 1;
                    let inner = self.nodes(Some(b']'), depth + 1)?;
                    self.take(b']')?;
                    self.take(b'(')?;
                    let style = self.style()?;
                    self.take(b')')?;
                    Node::Group(inner, style)
                }
                b'(' => {
                    self.at += 1;
                    let inner = self.nodes(Some(b')'), depth + 1)?;
                    self.take(b')')?;
                    Node::Maybe(inner)
                }
                b']' | b')' => return Err(self.at),
                _ => self.literal(b"$[]()\\")?,
            };
            out.push(node);
        }
        Ok(out)
    }

    fn style(&mut self) -> Result<Vec<Node>, usize> {
        let mut out = Vec::new();
        while let Some(byte) = self.peek().filter(|b| *b != b')') {
            out.push(match byte {
                b'$' => self.variable()?,
                b'[' | b']' | b'(' | b'\\' => return Err(self.at),
                _ => self.literal(b"$[]()\\")?,
            });
        }
        Ok(out)
    }

    fn take(&mut self, byte: u8) -> Result<(), usize> {
        match self.peek() == Some(byte) {
            true => self.at += 1,
            false => return Err(self.at),
        }
        Ok(())
    }

    fn variable(&mut self) -> Result<Node, usize> {
        self.at += 1;
        let bytes = &self.text.bytes;
        let is_name = |b: &&u8| b.is_ascii_alphanumeric() || **b == b'_';
        let (from, length, behind) = match self.peek() {
            Some(b'{') => {
                let from = self.at + 1;
                let length = memchr::memchr(b'}', &bytes[from..]).ok_or(self.at)?;
                (from, length, 1)
            }
            _ => {
                let length = bytes[self.at..].iter().take_while(is_name).count();
                (self.at, length, 0)
            }
        };
        if length == 0 {
            return Err(self.at);
        }
        self.at = from + length + behind;
        let name = String::from_utf8_lossy(&bytes[from..from + length]).into_owned();
        Ok(Node::Variable(name))
    }

    /// A text up to a sign that means something.
    fn literal(&mut self, signs: &[u8]) -> Result<Node, usize> {
        let bytes = &self.text.bytes;
        let mut out = Text::default();
        while let Some(byte) = bytes.get(self.at) {
            match byte {
                b'\\' => {
                    let next = bytes.get(self.at + 1).copied();
                    let known = next.is_some_and(|b| b"\\[]()$".contains(&b));
                    if !known {
                        return Err(self.at + 1);
                    }
                    out.push(&self.text.part(self.at + 1..self.at + 2));
                    self.at += 2;
                }
                byte if signs.contains(byte) => break,
                _ => {
                    let rest = bytes[self.at..].iter();
                    let length = rest.take_while(|b| !signs.contains(b)).count();
                    out.push(&self.text.part(self.at..self.at + length));
                    self.at += length;
                }
            }
        }
        Ok(Node::Text(out))
    }
}

/// A style: colors for text and for ground, each with what says it. What was drawn before may take their place.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Style {
    pub text: Option<(Value, Text)>,
    pub ground: Option<(Value, Text)>,
    /// The color of what was drawn before that text has, where that has one.
    pub text_before: Option<Before>,
    /// The same for ground.
    pub ground_before: Option<Before>,
}

/// Which color of what was drawn before.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Before {
    Text,
    Ground,
}

/// A color of the palette: what it is, where it is one, and what says so.
pub type Named = (Option<Value>, Text);

/// What is wrong with a style: which word.
#[derive(Debug, Clone, PartialEq)]
pub struct NoStyle(pub Text);

const ATTRIBUTES: [&str; 8] = [
    "bold",
    "italic",
    "underline",
    "dimmed",
    "inverted",
    "blink",
    "hidden",
    "strikethrough",
];

/// What the words of a style come to: `None` where they say that there is none. One word that is none for the
/// program takes the whole style away.
pub fn style(
    text: &Text,
    palette: &dyn Fn(&str) -> Option<Named>,
) -> Result<Option<Style>, NoStyle> {
    let mut out = Style::default();
    for word in words(text) {
        let bare = |range: Range<usize>| text.part(range);
        let lower = String::from_utf8_lossy(&text.bytes[word.clone()]).to_lowercase();
        let (name, skip, on_ground) = match (lower.strip_prefix("fg:"), lower.strip_prefix("bg:")) {
            (Some(name), _) => (name, 3, false),
            (_, Some(name)) => (name, 3, true),
            _ => (lower.as_str(), 0, false),
        };
        if skip == 0 && ATTRIBUTES.contains(&name) {
            continue;
        }
        let said = match name {
            "none" if !on_ground => return Ok(None),
            "none" => {
                out.ground = None;
                continue;
            }
            "prev_fg" | "prev_bg" => {
                let before = match name {
                    "prev_fg" => Before::Text,
                    _ => Before::Ground,
                };
                match on_ground {
                    true => out.ground_before = Some(before),
                    false => out.text_before = Some(before),
                }
                continue;
            }
            _ => match palette(name) {
                Some((Some(value), source)) => (value, source),
                // A ground that is none is no ground.
                Some((None, _)) if on_ground => {
                    out.ground = None;
                    continue;
                }
                Some((None, source)) => return Err(NoStyle(source)),
                None => match color(name) {
                    Some(value) => (value, bare(word.start + skip..word.end)),
                    None if on_ground => {
                        out.ground = None;
                        continue;
                    }
                    None => return Err(NoStyle(bare(word))),
                },
            },
        };
        match on_ground {
            true => out.ground = Some(said),
            false => out.text = Some(said),
        }
    }
    Ok(Some(out))
}

/// The words of a style.
fn words(text: &Text) -> Vec<Range<usize>> {
    let mut out = Vec::new();
    let mut from = None;
    for (i, byte) in text.bytes.iter().chain(b" ").enumerate() {
        match (byte.is_ascii_whitespace(), from) {
            (true, Some(start)) => {
                out.push(start..i);
                from = None;
            }
            (false, None) => from = Some(i),
            _ => {}
        }
    }
    out
}

/// A color in the program's words, in small letters.
pub fn color(name: &str) -> Option<Value> {
    const NAMES: [&str; 8] = [
        "black", "red", "green", "yellow", "blue", "purple", "cyan", "white",
    ];
    let of = |name: &str| NAMES.iter().position(|n| *n == name);
    let number = match name.strip_prefix("bright-") {
        Some(name) => Some(of(name)? + 8),
        None => of(name),
    };
    if let Some(slot) = number.and_then(|n| Slot::from_ansi(n as u8)) {
        return Some(Value::Slot(slot));
    }
    if name.starts_with('#') {
        return spelling::hash(name).map(Value::Color);
    }
    let number: u8 = name.parse().ok()?;
    match Slot::from_ansi(number) {
        Some(slot) => Some(Value::Slot(slot)),
        None => indexed(number).map(Value::Color),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn parsed(text: &str) -> Option<String> {
        fn shown(nodes: &[Node]) -> String {
            let one = |node: &Node| match node {
                Node::Text(text) => text.lossy(),
                Node::Variable(name) => format!("<{name}>"),
                Node::Group(inner, style) => format!("{{{}|{}}}", shown(inner), shown(style)),
                Node::Maybe(inner) => format!("({})", shown(inner)),
            };
            nodes.iter().map(one).collect()
        }
        parse(&Text::nowhere(text)).ok().map(|n| shown(&n))
    }

    #[test]
    fn texts_are_parsed_as_the_program_does() {
        for (text, what) in [
            ("a$b-c${d.e}f", "a<b>-c<d.e>f"),
            ("[a [$b](bold)](red $style)", "{a {<b>|bold}|red <style>}"),
            (r"(\[$x\])\\\$", r"([<x>])\$"),
            ("[]()()", "{|}()"),
        ] {
            assert_eq!(parsed(text).as_deref(), Some(what), "{text}");
        }
        for text in [
            "$",
            "a]",
            "a)",
            "[a]",
            "[a] (b)",
            "[a](b(c))",
            r"\a",
            "[a](\\[)",
            "$ a",
            "[a",
        ] {
            assert_eq!(parsed(text), None, "{text}");
        }
        let deep = "[".repeat(1000);
        assert_eq!(parsed(&deep), None);
    }

    #[test]
    fn one_bad_word_takes_the_style_away() {
        let none = |_: &str| None;
        let of = |text: &str| style(&Text::nowhere(text), &none);
        let color = |text: &str| match of(text).unwrap().unwrap().text {
            Some((value, _)) => value.to_string(),
            other => format!("{other:?}"),
        };
        assert_eq!(color("bold RED"), "red");
        assert_eq!(color("fg:blue  bold 208"), "#ff8700");
        assert_eq!(color("#A0b0c0 underline"), "#a0b0c0");
        assert!(of("bold bogus").is_err() && of("#abc").is_err() && of("256").is_err());
        assert_eq!(of("red none").unwrap(), None);
        assert!(of("bg:none red").unwrap().unwrap().ground.is_none());
    }
}
