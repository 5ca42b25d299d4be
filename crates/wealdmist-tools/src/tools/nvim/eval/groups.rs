//! What the program says of highlight groups by itself, and the words of them: names of colors, settings.

use std::collections::HashMap;
use std::sync::OnceLock;

use wealdmist_core::color::{Rgb, x11_color};

use super::flow::{Run, Stop};
use super::parts::lower;
use crate::document::vim::Line;

/// What a group is by itself.
#[derive(Debug, Clone, Copy)]
pub(super) struct Group {
    pub(super) name: &'static str,
    pub(super) link: &'static str,
    /// Text and ground, dark, then light.
    pub(super) colors: [[&'static str; 2]; 2],
    /// Its attributes.
    pub(super) words: &'static str,
}

/// The groups of version 0.7, as its `:hi` lists them: `groups.tsv`.
pub(super) fn groups() -> &'static HashMap<String, Group> {
    static GROUPS: OnceLock<HashMap<String, Group>> = OnceLock::new();
    GROUPS.get_or_init(|| {
        let lines = include_str!("../groups.tsv").lines();
        let of = |line: &'static str| {
            let mut parts = line.split('\t');
            let mut next = || parts.next().unwrap_or_default();
            let (name, link) = (next(), next());
            let colors = [[next(), next()], [next(), next()]];
            let group = Group {
                name,
                link,
                colors,
                words: next(),
            };
            (name.to_ascii_lowercase(), group)
        };
        lines.filter(|l| !l.starts_with('#')).map(of).collect()
    })
}

/// What a group is by itself that is one of the program's own.
pub(super) fn known(group: &str) -> Option<&'static Group> {
    groups().get(&*lower(group))
}

/// Names of colors that this program knows and the X Window System does not, or as another color.
const NAMES: &[(&str, u32)] = &[
    ("aqua", 0x00_ffff),
    ("crimson", 0xdc_143c),
    ("darkyellow", 0xbb_bb00),
    ("fuchsia", 0xff_00ff),
    ("gray", 0x80_8080),
    ("green", 0x00_8000),
    ("grey", 0x80_8080),
    ("indigo", 0x4b_0082),
    ("lightmagenta", 0xff_bbff),
    ("lightred", 0xff_bbbb),
    ("lime", 0x00_ff00),
    ("maroon", 0x80_0000),
    ("olive", 0x80_8000),
    ("purple", 0x80_0080),
    ("rebeccapurple", 0x66_3399),
    ("silver", 0xc0_c0c0),
    ("teal", 0x00_8080),
    ("webgray", 0x80_8080),
    ("webgreen", 0x00_8000),
    ("webgrey", 0x80_8080),
    ("webmaroon", 0x80_0000),
    ("webpurple", 0x80_0080),
    ("x11gray", 0xbe_bebe),
    ("x11green", 0x00_ff00),
    ("x11grey", 0xbe_bebe),
    ("x11maroon", 0xb0_3060),
    ("x11purple", 0xa0_20f0),
];

/// The color of a word as the program takes it.
pub(super) fn color(word: &str) -> Option<Rgb> {
    if word.starts_with('#') {
        return Rgb::from_hex(word).filter(|_| word.len() == 7);
    }
    let lower = word.to_ascii_lowercase();
    if let Ok(i) = NAMES.binary_search_by(|n| n.0.cmp(lower.as_str())) {
        return Some(Rgb::from_u32(NAMES[i].1));
    }
    x11_color(word).filter(|_| !word.contains(' '))
}

/// Groups of which the program says everything for each background.
pub(super) const WHOLE: &[&str] = &[
    "Comment",
    "Constant",
    "Special",
    "Identifier",
    "Statement",
    "PreProc",
    "Type",
    "Ignore",
    "Search",
];

/// Groups of which it says the same for each background, and says it again.
pub(super) const ALIKE: &[&str] = &["MoreMsg", "Title", "WarningMsg"];

/// Whether a group is another's by itself.
pub(super) fn is_linked(group: &str) -> bool {
    known(group).is_some_and(|g| !g.link.is_empty())
}

/// The attributes a group may have, in the words of `:highlight`.
pub(super) const WORDS: [&str; 11] = [
    "bold",
    "italic",
    "underline",
    "undercurl",
    "underdouble",
    "underdotted",
    "underdashed",
    "strikethrough",
    "standout",
    "reverse",
    "nocombine",
];

/// Other words for some of them.
pub(super) const ALSO: [(&str, &str); 2] =
    [("inverse", "reverse"), ("underlineline", "underdouble")];

/// The attributes of a list as `:highlight` takes it, in the order of [`WORDS`]; `None` where one is none
/// that is known.
pub(super) fn words(list: &str) -> Option<Vec<&'static str>> {
    let mut found = Vec::new();
    let list = list.to_ascii_lowercase();
    for word in list.split(',').filter(|w| !w.is_empty() && *w != "none") {
        let word = ALSO.iter().find(|a| a.0 == word).map_or(word, |a| a.1);
        found.push(WORDS.iter().position(|w| *w == word)?);
    }
    found.sort_unstable();
    found.dedup();
    Some(found.into_iter().map(|i| WORDS[i]).collect())
}

/// What an attribute is called that the program names so.
pub fn attribute(asked: &str) -> Option<&'static str> {
    let word = ALSO.iter().find(|a| a.0 == asked).map_or(asked, |a| a.1);
    WORDS.into_iter().find(|w| *w == word)
}

/// What may be said of a group.
pub(super) const KEYS: &[&str] = &[
    "fg",
    "bg",
    "sp",
    "foreground",
    "background",
    "special",
    "blend",
    "bold",
    "standout",
    "underline",
    "undercurl",
    "underdouble",
    "underdotted",
    "underdashed",
    "underline",
    "underlineline",
    "strikethrough",
    "italic",
    "reverse",
    "inverse",
    "nocombine",
    "link",
    "global_link",
    "default",
    "ctermfg",
    "ctermbg",
    "cterm",
    "fg_indexed",
    "bg_indexed",
    "force",
    "update",
    "altfont",
    "dim",
    "blink",
    "conceal",
    "overline",
];

/// The settings of a group: `key=value`, blanks around the sign allowed, the value perhaps in quotes.
pub(super) fn settings(given: &Line) -> Run<Vec<(String, Line)>> {
    let bytes = &given.bytes;
    let (mut out, mut at) = (Vec::new(), 0);
    let blanks = |mut at: usize| {
        while bytes.get(at).is_some_and(u8::is_ascii_whitespace) {
            at += 1;
        }
        at
    };
    loop {
        at = blanks(at);
        if at >= bytes.len() {
            return Ok(out);
        }
        let start = at;
        while at < bytes.len() && bytes[at] != b'=' && !bytes[at].is_ascii_whitespace() {
            at += 1;
        }
        let name = String::from_utf8_lossy(&bytes[start..at]).into_owned();
        at = blanks(at);
        if bytes.get(at) != Some(&b'=') {
            return Err(Stop::Error(format!("there is no = behind '{name}'").into()));
        }
        at = blanks(at + 1);
        let quoted = bytes.get(at) == Some(&b'\'');
        at += usize::from(quoted);
        let first = at;
        while at < bytes.len()
            && if quoted {
                bytes[at] != b'\''
            } else {
                !bytes[at].is_ascii_whitespace()
            }
        {
            at += 1;
        }
        if first == at {
            return Err(Stop::Error(
                format!("there is nothing behind '{name}='").into(),
            ));
        }
        out.push((name, given.between(first..at)));
        at += usize::from(quoted);
    }
}
