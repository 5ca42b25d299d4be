//! Files of several schemes: which parts of a file they are.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use wealdmist_core::color::Rgb;
use wealdmist_core::role::Slot;

use super::{Codec, Entry, Format, ImportError, Imported, Place};
use crate::table::Table;
use crate::table::palette::{self as table, place};

/// How many schemes of one file there may be to choose from.
pub(super) const MOST: usize = 256;

/// How many colors of a palette a part of a file has at least to be a scheme.
const LEAST: usize = 4;

/// Why schemes cannot be told.
pub(super) enum Wrong {
    /// A value of one is broken, or one is empty.
    Import(ImportError),
    /// There are so many.
    TooMany(usize),
}

/// The section in which a program looks for its colors; empty where they stand among all else.
fn root(table: &Table) -> &'static str {
    let section = table.sixteen.spot(0).section;
    section.split('/').next().unwrap_or_default()
}

/// Entries of a program's own file with the part each is of, where the file has several schemes beside one another: below
/// other names, or in other sections, than those where the program looks for its colors.
pub(super) fn told_apart(table: &Table, mut entries: Vec<Entry>) -> Vec<Entry> {
    let root = root(table);
    if root.is_empty() {
        return entries;
    }
    let is_color = |path: &str| {
        matches!(
            place(table, path),
            table::Place::Numbered(_) | table::Place::Role(_)
        )
    };
    let below = |path: &str| path.split('/').next() == Some(root);
    // What it would be for if it stood where the program looks: the key, and the part before it.
    let moved = |path: &str| {
        let mut cuts = path.match_indices('/').map(|(at, _)| at);
        cuts.find_map(|at| {
            let key = format!("{root}{}", &path[at..]);
            is_color(&key).then(|| (key, path[..at].to_owned()))
        })
    };
    let found: Vec<Option<(String, String)>> = entries
        .iter()
        .map(|e| {
            (!below(&e.key) && !is_color(&e.key))
                .then(|| moved(&e.key))
                .flatten()
        })
        .collect();
    let mut counts: HashMap<String, usize> = HashMap::new();
    for (_, part) in found.iter().flatten() {
        *counts.entry(part.clone()).or_default() += 1;
    }
    let is_scheme = |part: &String| counts.get(part).is_some_and(|n| *n >= LEAST);
    let in_sections = entries.iter().any(|e| !e.scheme.is_empty());
    let several = in_sections || counts.keys().any(is_scheme);
    for (entry, found) in entries.iter_mut().zip(found) {
        match found.filter(|(_, part)| is_scheme(part)) {
            Some((key, part)) => {
                entry.key = key;
                entry.scheme = table.notation.shown(&part);
            }
            // What the program itself takes is one of them.
            None if several && entry.scheme.is_empty() && is_color(&entry.key) => {
                entry.scheme = root.to_owned();
            }
            None => {}
        }
    }
    entries
}

/// What each scheme gives: there are several where parts say different colors for one slot; what is of no part belongs to
/// each. `gathered` makes one of the entries of a part.
pub(super) fn of(
    format: &Format,
    entries: Vec<Entry>,
    gathered: impl Fn(Vec<Entry>) -> Result<Imported, ImportError>,
) -> Result<Vec<Imported>, Wrong> {
    // The parts in their order, and for each slot the colors that they say.
    let mut parts: Vec<(String, Vec<Entry>)> = Vec::new();
    let mut at: HashMap<String, usize> = HashMap::new();
    let mut said: BTreeMap<Slot, BTreeSet<Rgb>> = BTreeMap::new();
    let mut slots: HashMap<String, Vec<Slot>> = HashMap::new();
    for entry in entries {
        if let (Place::Slot(slot), Some(color)) =
            (format.place(&entry.key), format.said(entry.value.trim()))
        {
            said.entry(slot).or_default().insert(color);
            slots.entry(entry.scheme.clone()).or_default().push(slot);
        }
        let part = *at.entry(entry.scheme.clone()).or_insert_with(|| {
            parts.push((entry.scheme.clone(), Vec::new()));
            parts.len() - 1
        });
        parts[part].1.push(entry);
    }
    let is_disputed = |slot: &Slot| said.get(slot).is_some_and(|colors| colors.len() > 1);
    // One part may say a slot twice: the last counts, and that is no other scheme.
    if slots.len() < 2 || !said.keys().any(is_disputed) {
        let all = parts.into_iter().flat_map(|(_, entries)| entries);
        let mut all: Vec<Entry> = all.collect();
        all.sort_by_key(|e| e.line);
        return Ok(vec![gathered(all).map_err(Wrong::Import)?]);
    }
    if slots.len() > MOST {
        return Err(Wrong::TooMany(slots.len()));
    }
    let whole = parts.iter().find(|(part, _)| part.is_empty());
    let whole: Vec<Entry> = whole.map(|(_, own)| own.clone()).unwrap_or_default();
    let mut out: Vec<Imported> = Vec::new();
    for (part, own) in parts {
        let disputed = |slots: &Vec<Slot>| !part.is_empty() || slots.iter().any(is_disputed);
        if !slots.get(&part).is_some_and(disputed) {
            continue;
        }
        let own = match part.is_empty() {
            true => own,
            false => whole.iter().cloned().chain(own).collect(),
        };
        let mut found = gathered(own).map_err(Wrong::Import)?;
        let label = match part.is_empty() {
            true => "of the whole".to_owned(),
            false => part,
        };
        found.scheme = Some(found.name.clone().unwrap_or(label));
        out.push(found);
    }
    // The one that the program takes comes first, and by its own name where it stands for another.
    let Codec::Table(table) = format.codec else {
        return Ok(out);
    };
    let is_taken = |one: &Imported| one.scheme.as_deref() == Some(root(table));
    if let Some(taken) = out.iter().position(is_taken) {
        let taken = out.remove(taken);
        let twin = out
            .iter()
            .position(|one| one.slots == taken.slots && one.roles == taken.roles);
        let first = match twin {
            Some(twin) => out.remove(twin),
            None => taken,
        };
        out.insert(0, first);
    }
    Ok(out)
}
