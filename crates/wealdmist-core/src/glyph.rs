//! Characters outside ASCII in dotfiles, and what stands in for one a font lacks.

use std::ops::Range;

use crate::setup::SymbolLevel;

/// Whether a character is private-use: it means nothing without a particular font.
#[must_use]
pub const fn is_private_use(c: char) -> bool {
    matches!(c as u32, 0xe000..=0xf8ff | 0xf_0000..=0xf_fffd | 0x10_0000..=0x10_fffd)
}

/// The symbol level a character needs.
#[must_use]
pub const fn level(c: char) -> SymbolLevel {
    if c.is_ascii() {
        SymbolLevel::Ascii
    } else if is_private_use(c) {
        SymbolLevel::Icons
    } else {
        SymbolLevel::Plain
    }
}

/// Whether the code point lies in the range where icon fonts kept Material symbols before they
/// moved to U+F0001 and above (font release 3); such icons are gone from newer fonts.
#[must_use]
pub const fn is_moved_range(c: char) -> bool {
    matches!(c as u32, 0xf500..=0xfd46)
}

/// Every non-ASCII character of a file with the bytes it stands in. Bytes that are not UTF-8 are
/// passed over.
pub fn scan(bytes: &[u8]) -> impl Iterator<Item = (char, Range<usize>)> + '_ {
    let mut at = 0;
    std::iter::from_fn(move || {
        loop {
            at += bytes.get(at..)?.iter().position(|b| !b.is_ascii())?;
            let rest = &bytes[at..bytes.len().min(at + 4)];
            let valid = match std::str::from_utf8(rest) {
                Ok(text) => text,
                Err(e) => std::str::from_utf8(&rest[..e.valid_up_to()]).unwrap_or_default(),
            };
            if let Some(c) = valid.chars().next() {
                let range = at..at + c.len_utf8();
                at = range.end;
                return Some((c, range));
            }
            at += 1;
        }
    })
}

/// A meaning with its signs: icons (present code point first), a plain sign, ASCII.
struct Meaning {
    icons: &'static [char],
    plain: &'static str,
    ascii: &'static str,
}

/// Common jobs of icons in prompts and bars. Code points are those of the Nerd Fonts releases 2
/// and 3; plain signs are ones that ordinary monospace fonts have.
#[rustfmt::skip]
static MEANINGS: &[Meaning] = &[
    Meaning { icons: &['\u{e725}', '\u{f126}', '\u{e0a0}', '\u{f418}', '\u{f062c}'], plain: "↳", ascii: "@" },
    Meaning { icons: &['\u{f07b}', '\u{f07c}', '\u{e5ff}', '\u{f024b}', '\u{f74a}'], plain: "▸", ascii: "/" },
    Meaning { icons: &['\u{f040}', '\u{f044}', '\u{f03eb}', '\u{f8ea}'], plain: "±", ascii: "*" },
    Meaning { icons: &['\u{f00d}', '\u{f467}', '\u{f0156}', '\u{f655}'], plain: "✗", ascii: "x" },
    Meaning { icons: &['\u{f00c}', '\u{f42e}', '\u{f012c}', '\u{f62b}'], plain: "✓", ascii: "+" },
    Meaning { icons: &['\u{f071}', '\u{f421}', '\u{f0026}', '\u{f525}'], plain: "!", ascii: "!" },
    Meaning { icons: &['\u{f05a}', '\u{f449}', '\u{f02fc}', '\u{f7fb}'], plain: "i", ascii: "i" },
    Meaning { icons: &['\u{f017}', '\u{f43a}', '\u{f0150}', '\u{f64f}'], plain: "◷", ascii: "" },
    Meaning { icons: &['\u{f073}', '\u{f455}', '\u{f00ed}', '\u{f5ec}'], plain: "▦", ascii: "" },
    Meaning { icons: &['\u{f120}', '\u{e795}', '\u{f489}', '\u{f018d}', '\u{f68c}'], plain: "▶", ascii: ">" },
    Meaning { icons: &['\u{f0e7}', '\u{f0241}', '\u{f740}'], plain: "↯", ascii: "!" },
    Meaning { icons: &['\u{f0f3}', '\u{f009a}', '\u{f599}'], plain: "◉", ascii: "!" },
    Meaning { icons: &['\u{f023}', '\u{f456}', '\u{f033e}', '\u{f83d}'], plain: "⊘", ascii: "#" },
    Meaning { icons: &['\u{f00e}', '\u{f531}', '\u{f034a}'], plain: "◎", ascii: "Z" },
    Meaning { icons: &['\u{f2db}', '\u{f4bc}', '\u{f061a}'], plain: "▣", ascii: "" },
    Meaning { icons: &['\u{f0a0}', '\u{f02ca}', '\u{f7c9}'], plain: "▤", ascii: "" },
    Meaning { icons: &['\u{f043}', '\u{e373}', '\u{f058c}'], plain: "◆", ascii: "~" },
    Meaning { icons: &['\u{e0b0}', '\u{e0b2}', '\u{e0b4}', '\u{e0b6}'], plain: "▌", ascii: "" },
    Meaning { icons: &['\u{e0b1}', '\u{e0b3}', '\u{e0b5}', '\u{e0b7}'], plain: "│", ascii: "|" },
];

/// What could stand for a character the font does not have: another icon of the same meaning
/// that it has, else a plain sign, else ASCII. `None` where the meaning is not known.
#[must_use]
pub fn substitute(c: char, covers: impl Fn(char) -> bool) -> Option<String> {
    if let Some(meaning) = MEANINGS.iter().find(|m| m.icons.contains(&c)) {
        if let Some(icon) = meaning.icons.iter().find(|i| **i != c && covers(**i)) {
            return Some(icon.to_string());
        }
        if meaning.plain.chars().all(&covers) {
            return Some(meaning.plain.to_owned());
        }
        return Some(meaning.ascii.to_owned());
    }
    let ascii = match c {
        '→' | '▸' | '▶' | '›' | '»' | '❯' => ">",
        '←' | '◂' | '◀' | '‹' | '«' => "<",
        '✗' | '✘' | '×' => "x",
        '✓' | '✔' => "+",
        '…' => "...",
        '│' | '┃' | '▏' | '▎' | '▌' => "|",
        '─' | '━' | '–' | '—' => "-",
        '•' | '●' | '◉' | '◆' => "*",
        '↳' => "@",
        '±' => "+-",
        '↑' => "^",
        '↓' => "v",
        _ => return None,
    };
    Some(ascii.to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn characters_are_found_with_their_bytes() {
        let text = "a\u{e0b0}b→".as_bytes();
        let found: Vec<_> = scan(text).collect();
        assert_eq!(found, [('\u{e0b0}', 1..4), ('→', 5..8)]);
        let broken = [b'a', 0xff, 0xe2, 0x86, b'x', 0xe2, 0x86, 0x92];
        assert_eq!(scan(&broken).map(|f| f.0).collect::<String>(), "→");
    }

    #[test]
    fn a_substitute_is_one_the_font_has() {
        let only_plain = |c: char| !is_private_use(c);
        assert_eq!(substitute('\u{e0a0}', only_plain).as_deref(), Some("↳"));
        assert_eq!(
            substitute('\u{e0a0}', |c| c == '\u{f126}').as_deref(),
            Some("\u{f126}")
        );
        assert_eq!(substitute('\u{e0a0}', |_| false).as_deref(), Some("@"));
        assert_eq!(substitute('\u{e999}', |_| true), None);
    }

    #[test]
    fn no_meaning_is_listed_twice() {
        let mut all: Vec<char> = MEANINGS.iter().flat_map(|m| m.icons).copied().collect();
        let count = all.len();
        all.sort_unstable();
        all.dedup();
        assert_eq!(all.len(), count);
        assert!(all.iter().all(|c| is_private_use(*c)));
    }

    proptest! {
        #[test]
        fn scanning_text_finds_exactly_its_characters(text in ".*") {
            let found: String = scan(text.as_bytes()).map(|f| f.0).collect();
            let want: String = text.chars().filter(|c| !c.is_ascii()).collect();
            prop_assert_eq!(found, want);
        }

        #[test]
        fn any_bytes_can_be_scanned(bytes in proptest::collection::vec(any::<u8>(), 0..100)) {
            for (c, range) in scan(&bytes) {
                prop_assert_eq!(std::str::from_utf8(&bytes[range]).unwrap().chars().next(), Some(c));
            }
        }
    }
}
