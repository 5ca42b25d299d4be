//! Highlight groups as they are kept: each by a number, with what is said of its parts.

use std::borrow::Cow;
use std::collections::HashMap;

use super::value::Value;

/// The number of a group of which anything was ever set.
pub(super) type Group = u32;

/// A part of a group: its text, its ground, what it links to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum Part {
    Text,
    Ground,
    /// Its attributes, in the program's words.
    Words,
    /// The color of lines under its text.
    Special,
    Link,
    /// Whether anything else is set of it.
    More,
    /// What it links to where nothing else is said.
    Otherwise,
    /// The background that it is by itself for, where that was said something of.
    Frozen,
    /// Whether a `:highlight` set it, which a change of the background leaves alone.
    Set,
    /// Whether anything was set of it before everything was cleared.
    Was,
    /// Whether its link came back when it was cleared.
    Back,
    /// The word of Normal that its text was given, where it keeps what that was.
    TextOf,
    /// The same of its ground.
    GroundOf,
}

/// The parts that one sees.
pub(super) const SHOWN: [Part; 4] = [Part::Text, Part::Ground, Part::Words, Part::Special];

/// A name in small letters, as groups are told apart.
pub(super) fn lower(name: &str) -> Cow<'_, str> {
    match name.bytes().any(|b| b.is_ascii_uppercase()) {
        true => name.to_ascii_lowercase().into(),
        false => name.into(),
    }
}

/// What the names of groups are numbers for, each as it was spelled first.
#[derive(Default)]
pub(super) struct Names {
    numbers: HashMap<Box<str>, Group>,
    spelled: Vec<Box<str>>,
}

impl Names {
    /// The number of a name, if anything was ever set of it.
    pub(super) fn number(&self, name: &str) -> Option<Group> {
        self.numbers.get(&*lower(name)).copied()
    }

    /// The number of a name, a new one where it has none.
    pub(super) fn numbered(&mut self, name: &str) -> Group {
        let lower = lower(name);
        if let Some(number) = self.numbers.get(&*lower) {
            return *number;
        }
        let number = self.spelled.len() as Group;
        self.spelled.push(name.into());
        self.numbers.insert(lower.into(), number);
        number
    }

    /// A name as it was spelled first.
    pub(super) fn spelled(&self, group: Group) -> &str {
        &self.spelled[group as usize]
    }
}

/// What is said of the parts of each group; what nothing is said of is not there, or nil.
#[derive(Default)]
pub(super) struct Parts(Vec<Vec<(Part, Value)>>);

impl Parts {
    pub(super) fn get(&self, group: Group, part: Part) -> Option<&Value> {
        let all = self.0.get(group as usize)?;
        all.iter().find(|p| p.0 == part).map(|p| &p.1)
    }

    /// Sets a part; what it was before.
    pub(super) fn set(&mut self, group: Group, part: Part, value: Value) -> Option<Value> {
        let group = group as usize;
        if self.0.len() <= group {
            self.0.resize_with(group + 1, Vec::new);
        }
        let all = &mut self.0[group];
        match all.iter_mut().find(|p| p.0 == part) {
            Some(known) => Some(std::mem::replace(&mut known.1, value)),
            None => {
                all.push((part, value));
                None
            }
        }
    }

    /// What is said of a group, nothing that is nil.
    pub(super) fn of(&self, group: Group) -> impl Iterator<Item = &(Part, Value)> {
        let all = self.0.get(group as usize).map_or(&[][..], Vec::as_slice);
        all.iter().filter(|p| !matches!(p.1, Value::Nil))
    }

    /// The groups with what is said of them.
    pub(super) fn all(
        &self,
    ) -> impl Iterator<Item = (Group, impl Iterator<Item = &(Part, Value)>)> {
        (0..self.0.len() as Group).map(|group| (group, self.of(group)))
    }
}
