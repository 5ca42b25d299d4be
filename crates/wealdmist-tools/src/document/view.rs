//! A view of trees some of whose values only count where others name them: the scheme that a profile chooses, the
//! profile that is the usual one, a color as three numbers. What counts has the names that a row gives it.

use std::collections::HashSet;
use std::ops::Range;

use wealdmist_core::color::Rgb;
use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting};

use super::json::{self, Deep, Json};
use crate::table::spelling;

use super::notation::{Damage, Datum, Entry, New, Notation, Spot, set_plainly, splice};

/// The view.
#[derive(Clone, Copy)]
pub struct View {
    /// What it is a view of.
    pub of: Json,
    /// What what counts is called, in the order of the entries; the others keep their names.
    pub names: fn(&[Entry]) -> Vec<Option<String>>,
    /// Where new values really go, by their number, and what has to be said beside them.
    pub places: Places,
    /// A path as people find it in the file.
    pub shown: fn(&str) -> String,
    /// The numbers of a color, where it is written as three, with what else such a color says.
    pub parts: Option<Parts>,
}

/// What has to be done for new values, by the number of each.
pub type Places = fn(&[Entry], &[New]) -> Vec<(usize, To)>;

/// What has to be done for a new value.
pub enum To {
    /// Something is added.
    Add(Deep),
    /// Something that stands there is replaced.
    Replace(Range<usize>, Code),
}

/// A color as three numbers from 0 to 1.
#[derive(Clone, Copy)]
pub struct Parts {
    /// Their names: red, green, blue.
    pub names: [&'static str; 3],
    /// What else a new one says.
    pub beside: &'static [(&'static str, &'static str)],
    /// What says in which space its numbers are, and the spaces in which they are those of the screen.
    pub space: (&'static str, &'static [&'static str]),
}

impl Parts {
    /// The entries of a color's parts become one.
    fn joined(&self, entries: Vec<Entry>) -> Vec<Entry> {
        let part = |e: &Entry| {
            let (above, name) = e.path.rsplit_once('/')?;
            let part = self.names.iter().position(|n| *n == name)?;
            Some((above.to_owned(), part))
        };
        let colors: HashSet<String> = entries.iter().filter_map(|e| Some(part(e)?.0)).collect();
        let mut out: Vec<Entry> = Vec::with_capacity(entries.len());
        let mut rest = entries.into_iter().peekable();
        while let Some(first) = rest.next() {
            let above = first
                .path
                .rsplit_once('/')
                .map(|(above, _)| above.to_owned());
            let Some(path) = above.filter(|above| colors.contains(above)) else {
                out.push(first);
                continue;
            };
            // All of one color stand together, whatever else is between them.
            let mut numbers = [None; 3];
            let (mut begin, mut end) = (None, 0);
            let mut between = Vec::new();
            let inside = format!("{path}/");
            let mut next = Some(first.clone());
            while let Some(entry) = next {
                match part(&entry).filter(|(above, _)| *above == path) {
                    Some((_, part)) => {
                        numbers[part] = entry.text.parse::<f64>().ok();
                        begin = begin.or(Some(entry.value.start));
                        end = entry.value.end;
                    }
                    None => between.push(entry),
                }
                next = rest.next_if(|e| e.path.starts_with(&inside));
            }
            let Some(begin) = begin else {
                out.extend(between);
                continue;
            };
            let span = begin..end;
            let is_space = |e: &&Entry| e.path[inside.len()..] == *self.space.0;
            let space = between.iter().find(is_space).map(|e| e.text.as_str());
            let usual = space.is_none_or(|s| self.space.1.contains(&s));
            let text = match (numbers.map(|n| n.filter(|_| usual)), space) {
                ([Some(red), Some(green), Some(blue)], _) => {
                    color_of([red, green, blue]).map(|c| c.to_string())
                }
                (_, Some(space)) if !usual => Some(format!("a color in the space {space}")),
                _ => None,
            };
            out.push(Entry {
                path,
                key: first.key.clone(),
                value: span.clone(),
                inner: span,
                text: text.unwrap_or_else(|| "a color that lacks a part".to_owned()),
                plain: false,
                bare: true,
                quoting: Quoting::Inert,
                ..first
            });
            out.extend(between);
        }
        out.sort_by_key(|e| e.value.start);
        out
    }
}

fn color_of(parts: [f64; 3]) -> Option<Rgb> {
    let channel = |n: f64| (0.0..=1.0).contains(&n).then(|| (n * 255.0).round() as u8);
    let [red, green, blue] = parts.map(channel);
    Some(Rgb::new(red?, green?, blue?))
}

/// The color that a value of ours says.
fn said_color(value: &Code) -> Option<Rgb> {
    let text = std::str::from_utf8(value).ok()?;
    spelling::hash(text.trim_matches('"'))
}

/// Whether something stands there.
fn is_there(entries: &[Entry], one: &Deep) -> bool {
    let path = Code::join(&one.names, "/").lossy();
    entries.iter().any(|e| e.path == path)
}

impl Notation for View {
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        let mut entries = self.of.entries(bytes)?;
        if let Some(parts) = &self.parts {
            entries = parts.joined(entries);
        }
        for (entry, name) in (self.names)(&entries).into_iter().enumerate() {
            if let Some(name) = name {
                entries[entry].path = name;
            }
        }
        Ok(entries)
    }

    fn value(&self, datum: &Datum) -> Option<Code> {
        self.of.value(datum)
    }

    fn insert(&self, bytes: &[u8], _: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        let Ok(real) = self.of.entries(bytes) else {
            return Vec::new();
        };
        let real = match &self.parts {
            Some(parts) => parts.joined(real),
            None => real,
        };
        let mut out = Vec::new();
        let (mut numbers, mut deep) = (Vec::new(), Vec::new());
        for (i, to) in (self.places)(&real, new) {
            match to {
                To::Replace(range, with) => {
                    let why = new[i].why.clone();
                    out.push((
                        i,
                        Splice {
                            range,
                            ..splice(0, with, why)
                        },
                    ));
                }
                To::Add(one) if is_there(&real, &one) => {}
                To::Add(one) => match (&self.parts, said_color(&one.value)) {
                    (Some(parts), Some(color)) => {
                        let channels = [color.r, color.g, color.b].map(Code::share);
                        let numbered = parts.names.into_iter().zip(channels);
                        let beside = parts.beside.iter().map(|(n, v)| (*n, Code::fixed(v)));
                        for (name, value) in beside.chain(numbered) {
                            let mut names = one.names.clone();
                            names.push(Code::fixed(name));
                            numbers.push(i);
                            deep.push(Deep {
                                names,
                                value,
                                ..one.clone()
                            });
                        }
                    }
                    _ => {
                        numbers.push(i);
                        deep.push(one);
                    }
                },
            }
        }
        let added = json::add(bytes, &deep).into_iter();
        out.extend(added.map(|(n, splice)| (numbers[n], splice)));
        out
    }

    fn set(
        &self,
        bytes: &[u8],
        entry: &Entry,
        part: &Range<usize>,
        to: &Datum,
    ) -> Option<(Range<usize>, Code)> {
        let (Some(parts), false, Datum::Literal(code)) = (&self.parts, entry.plain, to) else {
            return set_plainly(self, bytes, entry, part, to);
        };
        let color = said_color(code)?;
        let numbers = self.of.entries(bytes).ok()?;
        let mut out = Code::default();
        let mut at = entry.value.start;
        let inside = numbers
            .iter()
            .filter(|e| entry.value.contains(&e.value.start));
        for number in inside {
            let name = number.path.rsplit('/').next().unwrap_or_default();
            let Some(part) = parts.names.iter().position(|n| *n == name) else {
                continue;
            };
            let channel = [color.r, color.g, color.b][part];
            let same = number
                .text
                .parse::<f64>()
                .ok()
                .and_then(|n| color_of([n; 3]));
            out.push(&Code::kept(&bytes[at..number.value.start]));
            match same.is_some_and(|c| c.r == channel) {
                true => out.push(&Code::kept(&bytes[number.value.clone()])),
                false => out.push(&Code::share(channel)),
            }
            at = number.value.end;
        }
        Some((entry.value.clone(), out))
    }

    fn nests(&self) -> bool {
        false
    }

    fn comment(&self) -> &'static str {
        self.of.comment()
    }

    fn shown(&self, path: &str) -> String {
        (self.shown)(path)
    }

    fn line(&self, spot: &Spot, value: &Code) -> Code {
        self.of.line(spot, value)
    }
}
