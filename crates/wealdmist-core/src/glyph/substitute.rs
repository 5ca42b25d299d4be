//! What can stand in for a character: the present place of the same icon, another icon of the
//! same meaning, a plain sign, ASCII.

use std::collections::HashMap;
use std::sync::OnceLock;

use crate::icon::{self, State};
use crate::setup::SymbolLevel;

use super::{is_private_use, is_symbol, level};

/// Where a substitute comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Kind {
    /// The same icon at its present place.
    Present,
    /// Another icon that means the same.
    SameMeaning,
    /// A sign that ordinary fonts have.
    Plain,
    /// ASCII.
    Ascii,
}

impl Kind {
    /// In words.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Present => "the same icon's present place",
            Self::SameMeaning => "an icon of the same meaning",
            Self::Plain => "a plain sign",
            Self::Ascii => "ASCII",
        }
    }
}

/// What could stand for a character.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Substitute {
    /// What is written instead; empty where the character is better left out.
    pub text: String,
    /// Where it comes from.
    pub kind: Kind,
}

/// A meaning with its signs: icons (present code point first), a plain sign, ASCII.
struct Meaning {
    words: &'static str,
    icons: &'static [char],
    plain: &'static str,
    ascii: &'static str,
}

/// Common jobs of icons in prompts and bars. Code points are those of the icon table; plain signs
/// are ones that ordinary monospace fonts have.
#[rustfmt::skip]
static MEANINGS: &[Meaning] = &[
    Meaning { words: "branch git fork", icons: &['\u{e0a0}', '\u{e725}', '\u{f126}', '\u{f418}', '\u{f062c}'], plain: "↳", ascii: "@" },
    Meaning { words: "folder directory", icons: &['\u{f07b}', '\u{f07c}', '\u{e5ff}', '\u{f024b}'], plain: "▸", ascii: "/" },
    Meaning { words: "home", icons: &['\u{f015}', '\u{f46d}', '\u{f02dc}', '\u{eb06}'], plain: "⌂", ascii: "~" },
    Meaning { words: "edit modified changed pencil dirty", icons: &['\u{f040}', '\u{f044}', '\u{f03eb}'], plain: "±", ascii: "*" },
    Meaning { words: "error cross close failed no", icons: &['\u{f00d}', '\u{f467}', '\u{f0156}'], plain: "✗", ascii: "x" },
    Meaning { words: "check ok done yes", icons: &['\u{f00c}', '\u{f42e}', '\u{f012c}'], plain: "✓", ascii: "+" },
    Meaning { words: "warning alert attention", icons: &['\u{f071}', '\u{f421}', '\u{f0026}'], plain: "!", ascii: "!" },
    Meaning { words: "info hint note", icons: &['\u{f05a}', '\u{f449}', '\u{f02fc}'], plain: "i", ascii: "i" },
    Meaning { words: "clock time duration", icons: &['\u{f017}', '\u{f43a}', '\u{f0150}'], plain: "◷", ascii: "" },
    Meaning { words: "calendar date day", icons: &['\u{f073}', '\u{f455}', '\u{f00ed}'], plain: "▦", ascii: "" },
    Meaning { words: "terminal console prompt shell", icons: &['\u{f120}', '\u{e795}', '\u{f489}', '\u{f018d}'], plain: "▶", ascii: ">" },
    Meaning { words: "power bolt battery charge", icons: &['\u{f0e7}', '\u{f0241}'], plain: "↯", ascii: "!" },
    Meaning { words: "bell activity notification", icons: &['\u{f0f3}', '\u{f009a}'], plain: "◉", ascii: "!" },
    Meaning { words: "lock readonly private root", icons: &['\u{f023}', '\u{f456}', '\u{f033e}'], plain: "⊘", ascii: "^" },
    Meaning { words: "zoom search magnify find", icons: &['\u{f00e}', '\u{f002}', '\u{f034a}', '\u{f0349}'], plain: "◎", ascii: "Z" },
    Meaning { words: "cpu processor load", icons: &['\u{f2db}', '\u{f4bc}', '\u{f061a}'], plain: "▣", ascii: "" },
    Meaning { words: "disk drive storage", icons: &['\u{f0a0}', '\u{f02ca}'], plain: "▤", ascii: "" },
    Meaning { words: "water level drop", icons: &['\u{f043}', '\u{e373}', '\u{f058c}'], plain: "◆", ascii: "~" },
    Meaning { words: "solid separator right", icons: &['\u{e0b0}', '\u{e0b4}', '\u{e0b8}', '\u{e0bc}', '\u{e0c0}', '\u{e0c6}', '\u{e0c8}'], plain: "▌", ascii: "" },
    Meaning { words: "solid separator left", icons: &['\u{e0b2}', '\u{e0b6}', '\u{e0ba}', '\u{e0be}', '\u{e0c2}', '\u{e0c7}', '\u{e0ca}'], plain: "▐", ascii: "" },
    Meaning { words: "thin separator", icons: &['\u{e0b1}', '\u{e0b3}', '\u{e0b5}', '\u{e0b7}', '\u{e0b9}', '\u{e0bb}', '\u{e0bd}', '\u{e0bf}'], plain: "│", ascii: "|" },
];

/// The icons of every meaning that all words speak of.
pub fn meanings_of<'a>(words: &'a [&str]) -> impl Iterator<Item = Vec<char>> + 'a {
    let answers = move |m: &&Meaning| {
        words.iter().all(|w| {
            m.words
                .split(' ')
                .any(|own| own == *w || (w.len() > 3 && own.starts_with(w)))
        })
    };
    MEANINGS.iter().filter(answers).map(|m| m.icons.to_vec())
}

/// Everything that could stand for a character, the nearest first: each icon is one the font
/// covers, and a plain sign is only given where it covers that too.
#[must_use]
pub fn substitutes(c: char, covers: impl Fn(char) -> bool) -> Vec<Substitute> {
    let mut out: Vec<Substitute> = Vec::new();
    let mut add = |text: String, kind: Kind| {
        if !out.iter().any(|s| s.text == text) && text != c.to_string() {
            out.push(Substitute { text, kind });
        }
    };
    let moved = icon::formerly_at(c).and_then(|i| match i.state {
        State::Moved(to) => Some(to),
        _ => None,
    });
    // What stood here before is meant only where nothing stands here now, or the font lacks it.
    let meant = moved.filter(|_| !covers(c)).unwrap_or(c);
    if meant != c && covers(meant) {
        add(meant.to_string(), Kind::Present);
    }
    let meaning = MEANINGS
        .iter()
        .find(|m| m.icons.contains(&meant) || m.icons.contains(&c));
    let same = meaning.map(|m| m.icons.to_vec()).unwrap_or_default();
    for icon in same.into_iter().chain(namesakes(meant)) {
        if icon != c && covers(icon) {
            add(icon.to_string(), Kind::SameMeaning);
        }
    }
    let (plain, ascii) = match meaning {
        Some(m) => (Some(m.plain.to_owned()), Some(m.ascii.to_owned())),
        None => (plain_of(c), ascii_of(c)),
    };
    if let Some(plain) = plain.filter(|p| p.chars().all(|p| p.is_ascii() || covers(p))) {
        let kind = if plain.is_ascii() {
            Kind::Ascii
        } else {
            Kind::Plain
        };
        add(plain, kind);
    }
    if let Some(ascii) = ascii {
        add(ascii, Kind::Ascii);
    }
    out
}

/// The nearest substitute that a symbol level allows. `None` where nothing is known of the
/// character's meaning.
#[must_use]
pub fn substitute(c: char, most: SymbolLevel, covers: impl Fn(char) -> bool) -> Option<Substitute> {
    let fits = |s: &Substitute| s.text.chars().all(|c| level(c) <= most);
    substitutes(c, covers).into_iter().find(fits)
}

/// Icons of other sets with the same name.
fn namesakes(c: char) -> Vec<char> {
    static BY_STEM: OnceLock<HashMap<&'static str, Vec<char>>> = OnceLock::new();
    let stem = |name: &'static str| name.split_once('-').map_or(name, |(_, rest)| rest);
    let by_stem = BY_STEM.get_or_init(|| {
        let mut map: HashMap<&'static str, Vec<char>> = HashMap::new();
        for icon in icon::present() {
            map.entry(stem(icon.name)).or_default().push(icon.code);
        }
        map
    });
    let own = icon::present_at(c).map(|i| stem(i.name));
    let others = own.and_then(|stem| by_stem.get(stem)).into_iter().flatten();
    others
        .copied()
        .filter(|other| *other != c)
        .take(8)
        .collect()
}

/// A plain sign for an icon of no listed meaning, so that something stands where it stood.
fn plain_of(c: char) -> Option<String> {
    (is_private_use(c) && !icon::describe(c).is_empty()).then(|| "•".to_owned())
}

/// An ASCII sign for a character.
fn ascii_of(c: char) -> Option<String> {
    let listed = match c {
        '→' | '▸' | '▶' | '›' | '»' | '❯' | '⟩' => ">",
        '←' | '◂' | '◀' | '‹' | '«' | '❮' | '⟨' => "<",
        '✗' | '✘' | '×' | '✖' | '❌' => "x",
        '✓' | '✔' | '✅' => "+",
        '…' => "...",
        '•' | '●' | '◉' | '◆' | '★' | '■' | '·' => "*",
        '↳' => "@",
        '±' => "+-",
        '↑' | '⇡' | '▲' | '▴' => "^",
        '↓' | '⇣' | '▼' | '▾' => "v",
        '⌂' => "~",
        '⚡' | '↯' | '⚠' => "!",
        'λ' => "\\",
        '“' | '”' => "\"",
        '‘' | '’' => "'",
        '–' | '—' | '−' => "-",
        _ => "",
    };
    if !listed.is_empty() {
        return Some(listed.to_owned());
    }
    match c as u32 {
        0x2500..=0x257f => Some(line_sign(c).to_owned()),
        0x2580..=0x259f => Some("#".to_owned()),
        _ if is_private_use(c) => icon::describe(c).first().map(|_| "*".to_owned()),
        _ if is_symbol(c) => Some("*".to_owned()),
        _ => None,
    }
}

/// The sign for a line or corner, told from its Unicode name.
fn line_sign(c: char) -> &'static str {
    let name = unicode_names2::name(c)
        .map(|n| n.to_string())
        .unwrap_or_default();
    let has = |word: &str| name.split([' ', '-']).any(|w| w == word);
    let across = has("HORIZONTAL") || has("LEFT") || has("RIGHT");
    let along = has("VERTICAL") || has("UP") || has("DOWN");
    match (across, along) {
        (true, false) => "-",
        (false, true) => "|",
        _ => "+",
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn best(c: char, most: SymbolLevel, covers: impl Fn(char) -> bool) -> Option<String> {
        substitute(c, most, covers).map(|s| s.text)
    }

    #[test]
    fn a_substitute_is_one_the_font_has() {
        let only_plain = |c: char| !is_private_use(c);
        let icons = SymbolLevel::Icons;
        assert_eq!(best('\u{e0a0}', icons, only_plain).as_deref(), Some("↳"));
        assert_eq!(
            best('\u{e0a0}', icons, |c| c == '\u{f126}').as_deref(),
            Some("\u{f126}")
        );
        assert_eq!(best('\u{e0a0}', icons, |_| false).as_deref(), Some("@"));
        assert_eq!(
            best('\u{e999}', icons, |_| true),
            None,
            "nobody knows what that was"
        );
    }

    #[test]
    fn what_moved_goes_to_its_present_place_first() {
        let new = |c: char| c as u32 >= 0xf_0000 || c.is_ascii();
        let all = substitutes('\u{f64f}', new);
        assert_eq!(
            all[0],
            Substitute {
                text: "\u{f0150}".into(),
                kind: Kind::Present
            }
        );
        assert_eq!(all.last().unwrap().kind, Kind::Ascii);
        // An icon of no listed meaning still has its namesakes of other sets.
        let database = substitutes('\u{f1c0}', |c| c as u32 >= 0xf_0000);
        assert_eq!(
            icon::name(database[0].text.chars().next().unwrap()).as_deref(),
            Some("md-database")
        );
    }

    #[test]
    fn a_lower_level_allows_less() {
        let all = |_| true;
        assert_eq!(
            best('\u{f07b}', SymbolLevel::Plain, all).as_deref(),
            Some("▸")
        );
        assert_eq!(
            best('\u{f07b}', SymbolLevel::Ascii, all).as_deref(),
            Some("/")
        );
        assert_eq!(
            best('\u{f1c0}', SymbolLevel::Plain, all).as_deref(),
            Some("•")
        );
        assert_eq!(best('┌', SymbolLevel::Ascii, all).as_deref(), Some("+"));
        assert_eq!(best('━', SymbolLevel::Ascii, all).as_deref(), Some("-"));
        assert_eq!(best('║', SymbolLevel::Ascii, all).as_deref(), Some("|"));
        assert_eq!(
            best('é', SymbolLevel::Ascii, all),
            None,
            "letters are text, not signs"
        );
    }

    #[test]
    fn no_meaning_is_listed_twice_and_every_icon_is_in_the_table() {
        let mut all: Vec<char> = MEANINGS.iter().flat_map(|m| m.icons).copied().collect();
        assert!(
            all.iter().all(|c| icon::present_at(*c).is_some()),
            "{:?}",
            all.iter().find(|c| icon::present_at(**c).is_none())
        );
        let count = all.len();
        all.sort_unstable();
        all.dedup();
        assert_eq!(all.len(), count);
    }
}
