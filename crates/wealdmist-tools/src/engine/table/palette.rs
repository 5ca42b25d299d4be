//! Palettes from and to a table's files, by the same keys.

use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::role::Slot;
use wealdmist_core::setup::Palette;

use super::{Key, Means, Part, Table, nth_word};
use crate::document::notation::{Damage, Datum, Spot, fresh};

/// A color in a file: its line, its path and the part of the value, its text.
pub(crate) struct Colored {
    pub line: usize,
    pub path: String,
    pub text: String,
    /// The section it stands in, where that is one of several with the same keys.
    pub section: Option<String>,
}

/// Whether a key says a color.
const fn is_color(key: &Key) -> bool {
    matches!(key.means, Means::Color(_) | Means::Own(_))
}

/// The values of a file whose keys say colors, and those whose keys are not known.
///
/// # Errors
/// Where the file cannot be read.
pub(crate) fn entries(table: &Table, bytes: &[u8]) -> Result<Vec<Colored>, Damage> {
    let mut out = Vec::new();
    for entry in table.notation.imported(bytes)? {
        if entry.off.is_some() || entry.text.is_empty() {
            continue;
        }
        let mut entry = entry;
        let mut section = None;
        if let Some(path) = (table.quirks.alias)(&entry.path) {
            section = entry.path.split('/').next().map(str::to_owned);
            entry.path = path;
        }
        let parts: Vec<(u8, u8)> = table
            .keys_of(&entry.path)
            .filter_map(|k| match k.part {
                Part::Nth(n, of) => Some((n, of)),
                Part::Whole => None,
            })
            .collect();
        for (n, of) in &parts {
            // A value of one word, as older versions had it, is the last.
            let word = nth_word(&entry.text, *n, *of);
            let last = || {
                (*n + 1 == *of)
                    .then(|| nth_word(&entry.text, 0, 1))
                    .flatten()
            };
            if let Some(word) = word.or_else(last) {
                out.push(Colored {
                    line: entry.line,
                    path: format!("{}#{n}", entry.path),
                    text: entry.text[word].to_owned(),
                    section: section.clone(),
                });
            }
        }
        if parts.is_empty() {
            out.push(Colored {
                line: entry.line,
                path: entry.path,
                text: entry.text,
                section,
            });
        }
    }
    Ok(out)
}

/// What stands at a path, as [`entries`] gives it.
pub(crate) enum Place {
    /// One of the terminal colors by its number.
    Numbered(u8),
    /// The color of a role.
    Role(&'static str),
    /// A color that only this program has.
    Own,
    /// No color.
    Nothing,
}

/// The place of a path.
pub(crate) fn place(table: &Table, path: &str) -> Place {
    if let Some(index) = table.sixteen.index(path) {
        return Place::Numbered(index);
    }
    let (path, nth) = match path.rsplit_once('#') {
        Some((path, n)) => (path, n.parse::<u8>().ok()),
        None => (path, None),
    };
    let part = |k: &&Key| match (k.part, nth) {
        (Part::Nth(n, _), Some(nth)) => n == nth,
        (Part::Whole, None) => true,
        _ => false,
    };
    match table.keys_of(path).filter(part).find(|k| is_color(k)) {
        Some(key) => match key.means {
            Means::Color(role) => Place::Role(role),
            _ => Place::Own,
        },
        // Beside the terminal colors stand colors, also those that are not known.
        None => match path.split_once('/') {
            Some((section, _))
                if table.sixteen.spot(0).section.split('/').next() == Some(section) =>
            {
                Place::Own
            }
            _ => Place::Nothing,
        },
    }
}

/// A palette as a file of the program.
pub(crate) fn write(table: &Table, palette: &Palette, title: &str) -> Vec<u8> {
    let color = |slot: Slot| Datum::Literal((table.color.write)(palette.slot(slot), None));
    let mut lines: Vec<(Spot, Code)> = Vec::new();
    let slot_of = |key: &Key| match key.means {
        Means::Color(role) => Slot::from_key(role),
        _ => None,
    };
    for key in table.keys.iter().filter(|k| k.added) {
        let Some(slot) = slot_of(key) else { continue };
        let value = match key.part {
            Part::Whole => table.notation.value(&color(slot)),
            Part::Nth(0, _) => {
                let words = table.keys.iter().filter(|k| k.path == key.path);
                let words: Option<Vec<Code>> = words
                    .map(|k| table.notation.value(&color(slot_of(k)?)))
                    .collect();
                words.map(|w| Code::join(&w, " "))
            }
            Part::Nth(..) => None,
        };
        lines.extend(value.map(|value| (Spot::of(key.path), value)));
    }
    for i in 0..16u8 {
        if let Some(slot) = Slot::from_ansi(i) {
            let value = table.notation.value(&color(slot));
            lines.extend(value.map(|value| (table.sixteen.spot(i), value)));
        }
    }
    let said = format!("{title} · {}", palette.name);
    let said = quote(&said, &[Quoting::Comment]).unwrap_or_default();
    let sign = Code::fixed(table.notation.comment());
    let mut out = match sign.is_empty() {
        // It knows none.
        true => Code::default(),
        false => Code::of("{} {}\n", &[&sign, &said]),
    };
    let body = fresh(table.notation, &lines);
    if body.starts_with(b"[") {
        out.push_fixed("\n");
    }
    out.push(&body);
    out.into_bytes()
}
