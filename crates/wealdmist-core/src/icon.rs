//! The table of icons of patched fonts: names, present places, and places of an older release.
//!
//! The table is made by `scripts/icon-table` from the published lists of the symbols' releases 3
//! and 2. The search knows names, meanings and code points.

use std::ops::RangeInclusive;
use std::sync::OnceLock;

use crate::meaning;
use crate::names::unicode_name;

/// The table: code point, name and, for the older release only, the present place or `-`.
const TABLE: &str = include_str!("../data/icons.tsv");

/// One icon at one place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Icon {
    /// Its code point.
    pub code: char,
    /// Its name, such as `md-account`: the set before the first dash.
    pub name: &'static str,
    /// Whether it is at this place today.
    pub state: State,
}

/// Whether an icon is still at its place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum State {
    /// It is.
    Present,
    /// It was in release 2 and is elsewhere since release 3.
    Moved(char),
    /// It was in release 2 and is gone.
    Gone,
}

/// A range of icons with one origin.
#[derive(Debug, PartialEq, Eq)]
pub struct Range {
    /// What it holds, and how the names of its icons begin.
    pub name: &'static str,
    /// Its code points.
    pub codes: RangeInclusive<u32>,
}

/// Every range of release 3, in the order of code points.
#[rustfmt::skip]
pub static RANGES: &[Range] = &[
    Range { name: "power (iec)", codes: 0x23fb..=0x23fe },
    Range { name: "power off (iec)", codes: 0x2b58..=0x2b58 },
    Range { name: "pomodoro (pom)", codes: 0xe000..=0xe00a },
    Range { name: "separators (pl, ple)", codes: 0xe0a0..=0xe0d7 },
    Range { name: "awesome, more (fae)", codes: 0xe200..=0xe2a9 },
    Range { name: "weather", codes: 0xe300..=0xe3e3 },
    Range { name: "file types (seti, custom)", codes: 0xe5fa..=0xe6b8 },
    Range { name: "development (dev)", codes: 0xe700..=0xe8ef },
    Range { name: "code editing (cod)", codes: 0xea60..=0xec1e },
    Range { name: "awesome, second part (fa)", codes: 0xed00..=0xefce },
    Range { name: "awesome (fa)", codes: 0xf000..=0xf2ff },
    Range { name: "systems (linux)", codes: 0xf300..=0xf381 },
    Range { name: "octicons (oct)", codes: 0xf400..=0xf533 },
    Range { name: "material (md)", codes: 0xf0001..=0xf1af0 },
];

/// Where release 2 kept the Material icons.
pub const OLD_MATERIAL: RangeInclusive<u32> = 0xf500..=0xfd46;

/// Every icon, sorted by code point; where two share one, the present one first.
#[must_use]
pub fn all() -> &'static [Icon] {
    static ALL: OnceLock<Vec<Icon>> = OnceLock::new();
    ALL.get_or_init(|| {
        let rows = TABLE.lines().filter(|l| !l.starts_with('#'));
        rows.filter_map(row).collect()
    })
}

fn row(line: &'static str) -> Option<Icon> {
    let mut fields = line.split('\t');
    let code = from_hex(fields.next()?)?;
    let name = fields.next()?;
    let state = match fields.next() {
        None => State::Present,
        Some("-") => State::Gone,
        Some(to) => State::Moved(from_hex(to)?),
    };
    Some(Icon { code, name, state })
}

fn from_hex(text: &str) -> Option<char> {
    char::from_u32(u32::from_str_radix(text, 16).ok()?)
}

/// The icons at their present places.
pub fn present() -> impl Iterator<Item = &'static Icon> {
    all().iter().filter(|i| i.state == State::Present)
}

/// What the table knows of a code point: the present icon, then one of an older release.
#[must_use]
pub fn at(code: char) -> &'static [Icon] {
    let all = all();
    let start = all.partition_point(|i| i.code < code);
    let end = all.partition_point(|i| i.code <= code);
    &all[start..end]
}

/// The icon at a place today.
#[must_use]
pub fn present_at(code: char) -> Option<&'static Icon> {
    at(code).iter().find(|i| i.state == State::Present)
}

/// The icon that an older release had at a place and today's has not, if it is now elsewhere or
/// gone.
#[must_use]
pub fn formerly_at(code: char) -> Option<&'static Icon> {
    at(code).iter().find(|i| i.state != State::Present)
}

/// The range a code point lies in.
#[must_use]
pub fn range_of(code: char) -> Option<&'static Range> {
    RANGES.iter().find(|r| r.codes.contains(&(code as u32)))
}

/// One answer of a search.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Found {
    /// The character.
    pub code: char,
    /// What it is called: an icon's name, or Unicode's.
    pub name: String,
    /// Whether it is at this place today; characters of Unicode always are.
    pub state: State,
}

/// Looks for icons and signs by code point (`f101`, `U+F101`, `\uf101`), by the character itself,
/// by words of their names, or by meaning. The best come first; at most `limit` are given.
#[must_use]
pub fn search(query: &str, limit: usize) -> Vec<Found> {
    let query = query.trim().to_lowercase();
    let mut out: Vec<Found> = Vec::new();
    let mut add = |found: Found| {
        if !out
            .iter()
            .any(|f| f.code == found.code && f.name == found.name)
            && out.len() < limit
        {
            out.push(found);
        }
    };
    for code in code_points(&query) {
        describe(code).into_iter().for_each(&mut add);
    }
    let words: Vec<&str> = query
        .split([' ', '-', '_'])
        .filter(|w| !w.is_empty())
        .collect();
    if words.is_empty() || limit == 0 {
        return out;
    }
    for meaning in meaning::meanings_of(&words) {
        for code in meaning {
            describe(code).into_iter().take(1).for_each(&mut add);
        }
    }
    let mut named: Vec<(usize, &Icon)> = all()
        .iter()
        .filter(|i| i.state == State::Present)
        .filter_map(|i| Some((rank(i.name, &words)?, i)))
        .collect();
    named.sort_by_key(|(rank, i)| (*rank, i.name.len(), i.code));
    for (_, icon) in named.into_iter().take(limit) {
        add(found(icon));
    }
    out
}

/// How well a name answers to words: 0 for the same word, 1 for a beginning, 2 for a part; `None`
/// when a word is not in it.
fn rank(name: &str, words: &[&str]) -> Option<usize> {
    let mut worst = 0;
    for word in words {
        let of = name
            .split(['-', '_'])
            .filter_map(|part| match part.find(word)? {
                0 if part == *word => Some(0),
                0 => Some(1),
                _ => Some(2),
            })
            .min()?;
        worst = worst.max(of);
    }
    Some(worst)
}

fn found(icon: &Icon) -> Found {
    Found {
        code: icon.code,
        name: icon.name.to_owned(),
        state: icon.state,
    }
}

/// Everything a code point is or was called.
#[must_use]
pub fn describe(code: char) -> Vec<Found> {
    let mut out: Vec<Found> = at(code).iter().map(found).collect();
    if let Some(name) = unicode_name(code) {
        out.push(Found {
            code,
            name: name.to_lowercase(),
            state: State::Present,
        });
    }
    out
}

/// What a character is called, in one name.
#[must_use]
pub fn name(code: char) -> Option<String> {
    describe(code).into_iter().next().map(|f| f.name)
}

/// The code points a query may mean.
fn code_points(query: &str) -> Vec<char> {
    let mut out = Vec::new();
    let digits = query
        .trim_start_matches("u+")
        .trim_start_matches("0x")
        .trim_start_matches("\\u")
        .trim_matches(['{', '}']);
    if (4..=8).contains(&digits.len())
        && let Ok(code) = u32::from_str_radix(digits, 16)
    {
        out.extend(char::from_u32(code));
    }
    let mut signs = query.chars();
    if let (Some(c), None) = (signs.next(), signs.next())
        && !c.is_ascii()
    {
        out.push(c);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::character;

    #[test]
    fn the_table_is_sorted_and_every_line_of_it_is_read() {
        let lines = TABLE.lines().filter(|l| !l.starts_with('#')).count();
        assert_eq!(all().len(), lines);
        assert!(all().is_sorted_by_key(|i| i.code));
        assert!(present().count() > 10_000);
        let outside: Vec<_> = present()
            .filter(|i| range_of(i.code).is_none() && character::is_private_use(i.code))
            .collect();
        assert!(outside.is_empty(), "{outside:?}");
    }

    #[test]
    fn what_moved_is_found_at_its_present_place() {
        let old = formerly_at('\u{f503}').unwrap();
        assert_eq!(
            (old.name, old.state),
            ("mdi-account", State::Moved('\u{f0004}'))
        );
        // The place has another icon today.
        assert_eq!(present_at('\u{f503}').unwrap().name, "oct-project_roadmap");
        for icon in all() {
            if let State::Moved(to) = icon.state {
                assert!(present_at(to).is_some(), "{icon:?}");
            }
        }
    }

    #[test]
    fn icons_are_found_by_code_name_and_meaning() {
        let first = |query: &str| search(query, 20).first().map(|f| (f.code, f.name.clone()));
        assert_eq!(
            first("U+E0B0"),
            Some(('\u{e0b0}', "pl-left_hard_divider".into()))
        );
        assert_eq!(first("\\uf0004"), Some(('\u{f0004}', "md-account".into())));
        assert_eq!(first("→"), Some(('→', "rightwards arrow".into())));
        assert_eq!(search("md alarm check", 3)[0].name, "md-alarm_check");
        let branch: Vec<char> = search("branch", 10).iter().map(|f| f.code).collect();
        assert!(branch.contains(&'\u{e0a0}'), "{branch:?}");
        assert!(search("no such thing at all", 5).is_empty());
        assert!(search("", 5).is_empty() && search("a", 0).is_empty());
        assert_eq!(search("account", 7).len(), 7);
    }
}
