//! What can stand in for a character: the present place of the same icon, another icon of the
//! same meaning, a plain sign, ASCII.

use std::collections::HashMap;
use std::sync::OnceLock;

use unicode_normalization::UnicodeNormalization;

use crate::character::{SymbolLevel, is_private_use, is_symbol, level};
use crate::icon::{self, State};
use crate::meaning::MEANINGS;
use crate::names::unicode_name;

/// Where a substitute comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Kind {
    /// The same icon at its present place.
    Present,
    /// The same letter as one character.
    Composed,
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
            Self::Composed => "the same letter as one character",
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

/// Everything that could stand for what is drawn as one, the nearest first.
#[must_use]
pub fn substitutes_of(cluster: &str, covers: impl Fn(char) -> bool) -> Vec<Substitute> {
    let parts = parts(cluster);
    if parts.len() > 1 {
        let letters = parts.iter().filter_map(|c| ascii_of(*c)).collect();
        return vec![Substitute {
            text: letters,
            kind: Kind::Ascii,
        }];
    }
    let Some(first) = parts.first() else {
        return Vec::new();
    };
    let mut out = Vec::new();
    let composed: String = cluster.nfc().collect();
    if composed != cluster && composed.chars().all(&covers) {
        out.push(Substitute {
            text: composed,
            kind: Kind::Composed,
        });
    }
    // The same sign, not as a picture.
    if cluster.chars().eq([*first, PICTURE]) && covers(*first) {
        out.push(Substitute {
            text: first.to_string(),
            kind: Kind::Plain,
        });
    }
    out.extend(substitutes(*first, covers));
    out
}

/// The nearest of them that a symbol level allows.
#[must_use]
pub fn substitute_of(
    cluster: &str,
    most: SymbolLevel,
    covers: impl Fn(char) -> bool,
) -> Option<Substitute> {
    let fits = |s: &Substitute| s.text.chars().all(|c| level(c) <= most);
    substitutes_of(cluster, covers).into_iter().find(fits)
}

/// Asks for the character before it as a picture.
const PICTURE: char = '\u{fe0f}';

/// The characters of what is drawn as one for which something else can stand: the two letters of a flag, else the first.
#[must_use]
pub fn parts(cluster: &str) -> Vec<char> {
    let is_letter_of_flag = |c: char| matches!(c, '\u{1f1e6}'..='\u{1f1ff}');
    match cluster.chars().all(is_letter_of_flag) {
        true => cluster.chars().collect(),
        false => cluster.chars().take(1).collect(),
    }
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
        // Two of them are a flag, by the letters of its country.
        n @ 0x1f1e6..=0x1f1ff => Some(char::from(b'A' + (n - 0x1f1e6) as u8).to_string()),
        0x2500..=0x257f => Some(line_sign(c).to_owned()),
        0x2580..=0x259f => Some("#".to_owned()),
        _ if is_private_use(c) => icon::describe(c).first().map(|_| "*".to_owned()),
        _ if is_symbol(c) => Some("*".to_owned()),
        _ => None,
    }
}

/// The sign for a line or corner, told from its Unicode name.
fn line_sign(c: char) -> &'static str {
    let name = unicode_name(c).unwrap_or_default();
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
    fn what_is_drawn_as_one_keeps_its_meaning() {
        let all = |cluster: &str, covers: fn(char) -> bool| -> Vec<String> {
            let found = substitutes_of(cluster, covers).into_iter();
            found.map(|s| s.text).collect()
        };
        assert_eq!(all("\u{1f1e9}\u{1f1ea}", |_| true), ["DE"]);
        // A picture that is also a sign, where the font has that.
        assert_eq!(all("\u{2764}\u{fe0f}", |_| true)[0], "\u{2764}");
        assert_eq!(all("\u{2764}\u{fe0f}", |_| false), ["*"]);
        // A letter with marks is the same letter where the font has it as one.
        assert_eq!(all("e\u{301}", |c| c == '\u{e9}'), ["\u{e9}"]);
        assert_eq!(all("q\u{301}", |_| true), Vec::<String>::new());
        // Letters with marks, and digits on keys, are text.
        assert_eq!(all("e\u{301}", |_| false), Vec::<String>::new());
        assert_eq!(all("1\u{fe0f}\u{20e3}", |_| false), Vec::<String>::new());
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
