//! Text from outside, and how it may be written into a file that a program reads as a language.
//!
//! Names of fonts, signs, palettes and setups come from files of other people. This is the only
//! place that knows how such a text is written so that it stays a text: [`quote`] gives the bytes
//! for a place, or `None` where the place cannot hold it safely. What is written into dotfiles is
//! [`Code`], which can be made from our own fixed text, from values that have one spelling, from
//! bytes the file holds already, and from what [`quote`] returns; from nothing else.

use std::fmt;
use std::ops::Deref;

use crate::character::is_treacherous;
use crate::color::Rgb;
use crate::escape::Escape;
use crate::limits;

/// A name from a font, a setup, an import or a bundle. It holds no control character, no line end
/// and nothing that changes the direction of text, is not empty and not longer than [`limits::NAME`].
/// It is shown by [`Name::as_str`] and written into files only through [`quote`].
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Name(String);

/// Why a text is no name.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NotAName {
    /// It has a character that must not stand in a name.
    #[error("it has the character U+{:04X}, which cannot stand in a name", *.0 as u32)]
    Character(char),
    /// It is empty.
    #[error("it is empty")]
    Empty,
    /// It is too long.
    #[error("it has more than {} characters", limits::NAME)]
    TooLong,
}

impl Name {
    /// A text as a name; blanks around it are not part of it.
    ///
    /// # Errors
    /// When it is none, with the reason.
    pub fn new(text: &str) -> Result<Self, NotAName> {
        if let Some(c) = text.chars().find(|c| is_treacherous(*c)) {
            return Err(NotAName::Character(c));
        }
        let text = text.trim();
        match text.chars().count() {
            0 => Err(NotAName::Empty),
            n if n > limits::NAME => Err(NotAName::TooLong),
            _ => Ok(Self(text.to_owned())),
        }
    }

    /// The text, for comparing and showing.
    #[must_use]
    pub fn as_str(&self) -> &str {
        &self.0
    }
}

impl PartialEq<str> for Name {
    fn eq(&self, other: &str) -> bool {
        self.0 == other
    }
}

/// Bytes for a file that a program reads as a language. See the module for what they are made of.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Default)]
pub struct Code(Vec<u8>);

impl Code {
    /// Our own text.
    #[must_use]
    pub fn fixed(text: &'static str) -> Self {
        Self(text.as_bytes().to_vec())
    }

    /// Our own text in which each `{}` stands for a part, in order.
    #[must_use]
    pub fn of(text: &'static str, parts: &[&Self]) -> Self {
        let mut out = Self::default();
        let mut parts = parts.iter();
        for (i, piece) in text.split("{}").enumerate() {
            if i > 0
                && let Some(part) = parts.next()
            {
                out.0.extend_from_slice(&part.0);
            }
            out.0.extend_from_slice(piece.as_bytes());
        }
        out
    }

    /// A color as `#rrggbb`.
    #[must_use]
    pub fn color(color: Rgb) -> Self {
        Self(color.to_string().into_bytes())
    }

    /// A whole number.
    #[must_use]
    pub fn whole(number: impl Into<u64>) -> Self {
        Self(number.into().to_string().into_bytes())
    }

    /// A number with at most two digits behind the point and at least one.
    #[must_use]
    pub fn number(value: f64) -> Self {
        Self(decimal(value).into_bytes())
    }

    /// A number as [`Code::number`] writes it, without `.0`.
    #[must_use]
    pub fn short_number(value: f64) -> Self {
        Self(decimal(value).trim_end_matches(".0").as_bytes().to_vec())
    }

    /// A channel of a color, 0 to 255, as a share of 255, from 0 to 1; read again it is the same channel.
    #[must_use]
    pub fn share(channel: u8) -> Self {
        let text = format!("{:.10}", f64::from(channel) / 255.0);
        let text = text.trim_end_matches('0').trim_end_matches('.');
        Self(text.as_bytes().to_vec())
    }

    /// A number of the kind that names a thing: hexadecimal digits, at least so many.
    #[must_use]
    pub fn hex(value: u64, digits: usize) -> Self {
        Self(format!("{value:0digits$x}").into_bytes())
    }

    /// The same in capitals.
    #[must_use]
    pub fn hex_capitals(value: u64, digits: usize) -> Self {
        Self(format!("{value:0digits$X}").into_bytes())
    }

    /// A code point as people write it behind `U+`: upper case, at least four digits.
    #[must_use]
    pub fn code_point(value: u32) -> Self {
        Self(format!("{value:04X}").into_bytes())
    }

    /// A character outside ASCII as an escape writes it.
    #[must_use]
    pub fn escaped(c: char, escape: Escape) -> Option<Self> {
        (!c.is_ascii() && !is_treacherous(c)).then(|| Self(escape.write(c).into_bytes()))
    }

    /// Bytes that the same file holds already: a line end, an indentation, a comment kept.
    #[must_use]
    pub fn kept(bytes: &[u8]) -> Self {
        Self(bytes.to_vec())
    }

    /// Blanks.
    #[must_use]
    pub fn blanks(count: usize) -> Self {
        Self(vec![b' '; count])
    }

    /// Adds more behind it.
    pub fn push(&mut self, more: &Self) {
        self.0.extend_from_slice(&more.0);
    }

    /// Adds our own text behind it.
    pub fn push_fixed(&mut self, text: &'static str) {
        self.0.extend_from_slice(text.as_bytes());
    }

    /// The same with our own text standing between the parts.
    #[must_use]
    pub fn join<'a>(parts: impl IntoIterator<Item = &'a Self>, between: &'static str) -> Self {
        let mut out = Self::default();
        for (i, part) in parts.into_iter().enumerate() {
            if i > 0 {
                out.push_fixed(between);
            }
            out.push(part);
        }
        out
    }

    /// A template of ours with each mark replaced by its part. A part that holds a mark is not
    /// looked at again.
    #[must_use]
    pub fn filled(template: &'static str, parts: &[(&'static str, Self)]) -> Self {
        let mut out = Self::default();
        let mut rest = template;
        loop {
            let found = parts
                .iter()
                .filter_map(|(mark, part)| Some((rest.find(mark)?, mark, part)));
            let Some((at, mark, part)) = found.min_by_key(|f| f.0) else {
                out.push_fixed(rest);
                return out;
            };
            out.push_fixed(&rest[..at]);
            out.push(part);
            rest = &rest[at + mark.len()..];
        }
    }

    /// The bytes.
    #[must_use]
    pub fn into_bytes(self) -> Vec<u8> {
        self.0
    }

    /// As text for people.
    #[must_use]
    pub fn lossy(&self) -> String {
        String::from_utf8_lossy(&self.0).into_owned()
    }
}

impl Deref for Code {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        &self.0
    }
}

impl fmt::Debug for Code {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:?}", self.lossy())
    }
}

/// A number as a person would write it.
fn decimal(value: f64) -> String {
    let text = format!("{value:.2}");
    let text = text.trim_end_matches('0');
    match text.ends_with('.') {
        true => format!("{text}0"),
        false => text.to_owned(),
    }
}

/// What reads a text where it stands. Several may do so one after another: the program's own
/// language takes the quotes off, and what it makes of the string is read again.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Quoting {
    /// Not known: the text must mean nothing to any of our languages. Letters, digits, signs
    /// outside ASCII, blanks, and `- _ . : + @ / =`.
    Inert,
    /// Text of a shell prompt, which the shell expands once more: no `\`, `$`, backtick.
    PromptText,
    /// Text of a bar's format, where `#`, braces, commas, quotes and `%` have a meaning.
    BarText,
    /// Text of a template with expressions in braces.
    Template,
    /// One font of a list with sizes: `Family:h12,Other:h12`.
    FontList,
    /// A value behind `set option=` in the editor's own language.
    SetValue,
    /// A name in a pattern that tells sizes and properties by punctuation; a whole word.
    Word,
    /// A place for exactly one character.
    OneCharacter,
    /// The rest of a line, taken as it is; blanks around it are dropped by the reader, and of several
    /// in a row all but one.
    Line,
    /// The same where a comment may stand behind the value.
    BeforeComment,
    /// The same where quotes around the whole would be taken off.
    Unquoted,
    /// A name in a font pattern, where punctuation tells sizes and properties.
    FontPattern,
    /// A shell-like word without quotes.
    Bare,
    /// Between single quotes in which nothing is special and a single quote cannot stand.
    Single,
    /// Between double quotes with `\` before what is special.
    Double,
    /// Between `$'` and `'`.
    Dollar,
    /// Between the single quotes of PowerShell, which takes curved ones for such, too.
    PowerShell,
    /// Between the double quotes of Lua.
    LuaDouble,
    /// Between the single quotes of Lua.
    LuaSingle,
    /// Between long brackets of Lua.
    LuaLong,
    /// Between the quotes of a TOML basic string, or of JSON.
    Json,
    /// Text or a quoted attribute of XML.
    Xml,
    /// A comment that goes to the end of its line or to `*/`.
    Comment,
}

/// A text as it is written where it is read by `places`, the last of which is the file's own
/// language: the first is the one that finally sees the text. `None` where it would not stay what
/// it is. Text that no [`Name`] could hold is never written.
#[must_use]
pub fn quote(text: &str, places: &[Quoting]) -> Option<Code> {
    if text.chars().any(is_treacherous) {
        return None;
    }
    let mut out = text.to_owned();
    for place in places {
        out = place.write(&out)?;
    }
    Some(Code(out.into_bytes()))
}

impl Quoting {
    fn write(self, text: &str) -> Option<String> {
        let refuse =
            |special: &str| (!text.contains(|c| special.contains(c))).then(|| text.to_owned());
        let escape = |special: &str| {
            let mut out = String::with_capacity(text.len() + 8);
            for c in text.chars() {
                if special.contains(c) {
                    out.push('\\');
                }
                out.push(c);
            }
            Some(out)
        };
        match self {
            Self::Inert => text.chars().all(is_inert).then(|| text.to_owned()),
            Self::PromptText => refuse("\\$`"),
            Self::BarText => refuse("#{},%$`\\\"'"),
            Self::Template => refuse("{}\\\"'"),
            // Front ends know no escape but that of the comma; `_` stands for a blank.
            Self::FontList => refuse("\\:*_").map(|t| t.replace(',', "\\,")),
            Self::SetValue => escape("\\ |\"\t"),
            Self::Word => text
                .chars()
                .all(|c| is_inert(c) && c != ' ')
                .then(|| text.to_owned())
                .filter(|t| !t.is_empty()),
            Self::OneCharacter => (text.chars().count() == 1).then(|| text.to_owned()),
            Self::Line => {
                let whole = !text.is_empty() && text.trim() == text && !text.contains("  ");
                whole.then(|| text.to_owned())
            }
            Self::BeforeComment => Self::Line.write(text).filter(|t| !t.contains('#')),
            Self::Unquoted => Self::Line.write(text).filter(|t| !t.contains('"')),
            // The list's own comma knows no escape.
            Self::FontPattern => match text.contains([',', '=']) {
                true => None,
                false => escape("\\-:"),
            },
            Self::Bare => {
                let plain =
                    |c: char| c.is_alphanumeric() || !c.is_ascii() || "@%+=:,./-_".contains(c);
                let mut out = String::with_capacity(text.len() + 8);
                for c in text.chars() {
                    if !plain(c) {
                        out.push('\\');
                    }
                    out.push(c);
                }
                Some(out)
            }
            Self::Single => refuse("'"),
            Self::Double => escape("\"\\$`"),
            Self::Dollar | Self::LuaSingle => escape("'\\"),
            Self::PowerShell => {
                let mut out = String::with_capacity(text.len() + 8);
                for c in text.chars() {
                    if matches!(c, '\'' | '\u{2018}'..='\u{201b}') {
                        out.push(c);
                    }
                    out.push(c);
                }
                Some(out)
            }
            Self::LuaDouble => escape("\"\\"),
            Self::LuaLong => refuse("]"),
            Self::Json => escape("\"\\"),
            Self::Xml => Some(
                text.replace('&', "&amp;")
                    .replace('<', "&lt;")
                    .replace('>', "&gt;")
                    .replace('"', "&quot;")
                    .replace('\'', "&apos;"),
            ),
            Self::Comment => (!text.contains("*/")).then(|| text.to_owned()),
        }
    }
}

/// Whether a character means nothing to any language we write, wherever it stands.
fn is_inert(c: char) -> bool {
    (!c.is_ascii() && !is_treacherous(c)) || c.is_ascii_alphanumeric() || " -_.:+@/=".contains(c)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn written(text: &str, places: &[Quoting]) -> Option<String> {
        quote(text, places).map(|c| c.lossy())
    }

    #[test]
    fn names_are_refused_with_the_reason() {
        assert_eq!(Name::new(" Reedbed Mono "), Ok(Name("Reedbed Mono".into())));
        assert_eq!(Name::new("a\nb"), Err(NotAName::Character('\n')));
        assert_eq!(
            Name::new("a\u{202e}b"),
            Err(NotAName::Character('\u{202e}'))
        );
        assert_eq!(Name::new("a\u{9b}b"), Err(NotAName::Character('\u{9b}')));
        assert_eq!(Name::new("  "), Err(NotAName::Empty));
        assert_eq!(Name::new(&"x".repeat(201)), Err(NotAName::TooLong));
        let said = Name::new("a\u{1b}").unwrap_err().to_string();
        assert!(said.contains("U+001B"), "{said}");
    }

    #[test]
    fn each_place_has_its_own_spelling() {
        use Quoting::*;
        let name = "Dad's \"Mono\", $(x) \\ `y`";
        assert_eq!(written("Dad's", &[LuaSingle]).unwrap(), "Dad\\'s");
        assert_eq!(written("Dad's", &[LuaDouble]).unwrap(), "Dad's");
        assert_eq!(written("Dad's", &[Single]), None);
        assert_eq!(written("a]]b", &[LuaLong]), None);
        assert_eq!(
            written("a, b", &[FontList, SetValue]).unwrap(),
            "a\\\\,\\ b"
        );
        assert_eq!(written("a, b", &[FontList, LuaDouble]).unwrap(), "a\\\\, b");
        assert_eq!(
            written("a b", &[FontList, SetValue, LuaSingle]).unwrap(),
            "a\\\\ b"
        );
        assert_eq!(
            written(name, &[Double]).unwrap(),
            "Dad's \\\"Mono\\\", \\$(x) \\\\ \\`y\\`"
        );
        assert_eq!(written("$(x)", &[PromptText, Double]), None);
        assert_eq!(written("> x", &[PromptText, Single]).unwrap(), "> x");
        assert_eq!(written("> x", &[Inert, Single]), None);
        assert_eq!(written("a\u{e0b0}b", &[Inert]).unwrap(), "a\u{e0b0}b");
        assert_eq!(written("a\n", &[Line]), None);
        assert_eq!(
            written("<&'\">", &[Xml]).unwrap(),
            "&lt;&amp;&apos;&quot;&gt;"
        );
        assert_eq!(written("x */ y", &[Comment]), None);
    }

    #[test]
    fn parts_are_put_in_once() {
        let name = quote("@B@ {}", &[Quoting::Line]).unwrap();
        let filled = Code::filled(
            "a @A@ b @B@ c",
            &[("@A@", name.clone()), ("@B@", Code::fixed("x"))],
        );
        assert_eq!(filled.lossy(), "a @B@ {} b x c");
        let of = Code::of("<{}|{}>", &[&name, &Code::whole(3u64)]);
        assert_eq!(of.lossy(), "<@B@ {}|3>");
        assert_eq!(Code::short_number(12.0).lossy(), "12");
        assert_eq!(Code::number(0.85).lossy(), "0.85");
    }

    proptest! {
        /// Taking the quotes off gives the text back, for the spellings that escape.
        #[test]
        fn escapes_are_taken_off_again(text in "\\PC{0,40}") {
            for place in [Quoting::Double, Quoting::Dollar, Quoting::LuaDouble, Quoting::LuaSingle, Quoting::Bare, Quoting::SetValue, Quoting::Json] {
                let Some(written) = written(&text, &[place]) else { continue };
                let mut back = String::new();
                let mut chars = written.chars();
                while let Some(c) = chars.next() {
                    back.push(if c == '\\' { chars.next().unwrap() } else { c });
                }
                prop_assert_eq!(&back, &text);
            }
        }

        #[test]
        fn nothing_that_controls_is_written(text in ".{0,20}", c in prop::sample::select(vec!['\n', '\r', '\u{1b}', '\u{9b}', '\u{202e}', '\u{2028}', '\0'])) {
            let text = format!("{text}{c}");
            for place in [Quoting::Line, Quoting::Double, Quoting::Single, Quoting::LuaLong, Quoting::Xml, Quoting::Json, Quoting::Inert] {
                prop_assert_eq!(quote(&text, &[place]), None);
            }
        }
    }
}
