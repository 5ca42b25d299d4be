//! Settings written into the program's file.

use std::collections::BTreeMap;

use wealdmist_core::look::Look;
use wealdmist_core::plan::Splice;
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::role::RoleId;

use super::modules::KNOWN;
use crate::document::notation::{Datum, Entry, New, Notation, Spot};
use crate::document::toml::Toml;

/// The palette of ours, by whose name the file is known to hold our design.
pub const PALETTE: &str = "wealdmist";

/// A value of the file.
#[derive(Debug, Clone, PartialEq)]
pub enum Said {
    /// A text.
    Text(String),
    /// Yes or no.
    Is(bool),
    /// A whole number.
    Number(u32),
    /// Texts.
    List(Vec<String>),
}

/// All that the file is to say: the path of each value, in their order.
#[derive(Default)]
pub struct Settings {
    /// The values.
    pub values: Vec<(String, Said)>,
    /// The colors, by the roles that formats name.
    pub colors: BTreeMap<String, RoleId>,
    /// What of the design it cannot say, and why.
    pub left: Vec<(String, &'static str)>,
}
impl Said {
    /// Whether the entries below a path say it.
    fn is_said(&self, path: &str, entries: &[Entry]) -> bool {
        let at = |path: &str| entries.iter().rfind(|e| e.path == path);
        let says =
            |text: &str, bare: bool| at(path).is_some_and(|e| e.text == text && e.bare == bare);
        match self {
            Self::Text(text) => says(text, false),
            Self::Is(is) => says(if *is { "true" } else { "false" }, true),
            Self::Number(number) => says(&number.to_string(), true),
            // An empty list says nothing that could be seen.
            Self::List(all) => {
                let nth = |i: usize| at(&format!("{path}/{i}")).map(|e| &e.text);
                (0..=all.len()).all(|i| nth(i) == all.get(i))
            }
        }
    }

    fn datum(&self) -> Option<Datum> {
        Some(match self {
            Self::Text(text) if text.contains('\n') => {
                let lines = text.split('\n').map(|line| quote(line, &[Quoting::Json]));
                let lines: Option<Vec<Code>> = lines.collect();
                Datum::Bare(Code::of("\"{}\"", &[&Code::join(&lines?, "\\n")]))
            }
            Self::Text(text) => Datum::Text(text.clone()),
            Self::Is(is) => Datum::Bare(Code::fixed(if *is { "true" } else { "false" })),
            Self::Number(number) => Datum::Bare(Code::whole(*number)),
            Self::List(all) => {
                let one = |text: &String| Toml.value(&Datum::Text(text.clone()));
                let all: Option<Vec<Code>> = all.iter().map(one).collect();
                Datum::Bare(Code::of("[{}]", &[&Code::join(&all?, ", ")]))
            }
        })
    }
}

/// Where a value stands: the fixed names above it, and what is written behind those.
fn spot(path: &str) -> Option<Spot> {
    let mut steps = path.splitn(3, '/');
    let word = |text: &str| quote(text, &[Quoting::Word]);
    Some(match (steps.next()?, steps.next(), steps.next()) {
        (key, None, _) => Spot {
            section: "",
            name: word(key)?,
            sub: None,
        },
        ("palettes", Some(_), Some(name)) => Spot {
            section: "palettes/wealdmist",
            name: Code::of("\"{}\"", &[&quote(name, &[Quoting::Json])?]),
            sub: None,
        },
        ("env_var", Some(name), Some(key)) => Spot {
            section: "env_var",
            name: Code::of("{}.{}", &[&word(name)?, &word(key)?]),
            sub: None,
        },
        (module, Some(key), _) => Spot {
            section: KNOWN.modules.get_key_value(module)?.0,
            name: word(key)?,
            sub: None,
        },
    })
}

impl Settings {
    /// Everything that is to be said, the colors too.
    fn all(&self, look: &Look) -> Vec<(String, Said)> {
        let color = |(name, role): (&String, &RoleId)| {
            let path = format!("palettes/{PALETTE}/{name}");
            (path, Said::Text(look.color(role).to_string()))
        };
        let mut all = self.values.clone();
        all.extend(self.colors.iter().map(color));
        // What belongs to one table stands together.
        let table = |path: &str| {
            path.rsplit_once('/').map_or(0, |(table, _)| {
                let of = |(path, _): &(String, Said)| {
                    path.rsplit_once('/').is_some_and(|p| p.0 == table)
                };
                1 + self.values.iter().position(of).unwrap_or(usize::MAX - 1)
            })
        };
        all.sort_by_cached_key(|(path, _)| table(path));
        all
    }

    /// The change of a file that makes it say all of it, where it does not yet; `None` where it would not come to
    /// say that.
    pub fn change(&self, bytes: &[u8], look: &Look) -> Option<Option<Splice>> {
        let entries = Toml.entries(bytes).ok()?;
        let all = self.all(look);
        let says = |bytes: &[u8], with_lists: bool| {
            let entries = Toml.entries(bytes).unwrap_or_default();
            let is_said = |(path, said): &(String, Said)| {
                let is_list = matches!(said, Said::List(_));
                (is_list && !with_lists) || said.is_said(path, &entries)
            };
            all.iter().all(is_said)
        };
        // A list that stands there already, perhaps an empty one, stays.
        for with_lists in [true, false] {
            let splices = changes(bytes, &entries, &all, with_lists)?;
            if says(&wealdmist_core::plan::splice(bytes, &splices), with_lists) {
                return Some(together(bytes, &splices));
            }
        }
        None
    }
}

/// Changes as one, since some of them without the others would draw something else.
fn together(bytes: &[u8], splices: &[Splice]) -> Option<Splice> {
    let (first, last) = (splices.first()?, splices.last()?);
    let mut with = Code::default();
    let mut at = first.range.start;
    for splice in splices {
        with.push(&Code::kept(&bytes[at..splice.range.start]));
        with.push(&splice.with);
        at = splice.range.end;
    }
    Some(Splice {
        range: first.range.start..last.range.end,
        with,
        why: "the prompt's design".to_owned(),
        role: Some(RoleId::from(Property::Theme)),
        needs: None,
    })
}

fn changes(
    bytes: &[u8],
    entries: &[Entry],
    all: &[(String, Said)],
    with_lists: bool,
) -> Option<Vec<Splice>> {
    let mut out = Vec::new();
    let mut new = Vec::new();
    for (path, said) in all {
        let is_list = matches!(said, Said::List(_));
        let empty = matches!(said, Said::List(all) if all.is_empty());
        if (is_list && !with_lists) || (said.is_said(path, entries) && !empty) {
            continue;
        }
        let datum = said.datum()?;
        let why = String::new();
        if let Some(entry) = entries.iter().rfind(|e| e.path == *path) {
            let value = Toml.value(&datum)?;
            let (range, with) = match entry.plain {
                true => Toml.set(bytes, entry, &entry.inner, &datum)?,
                false => (entry.value.clone(), value),
            };
            out.push(Splice {
                range,
                with,
                why,
                role: None,
                needs: None,
            });
        } else {
            new.push(New {
                spot: spot(path)?,
                value: Toml.value(&datum)?,
                near: None,
                why,
            });
        }
    }
    let added = Toml.insert(bytes, entries, &new).into_iter();
    out.extend(added.map(|(_, splice)| splice));
    out.sort_by_key(|splice| splice.range.start);
    Some(out)
}
