//! What the options come to: values, and where it depends on something unknown, each with what it
//! depends on.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::text::Text;

/// What something depends on.
pub type Why = Arc<str>;

/// One of the values that something may have.
#[derive(Debug, Clone, PartialEq)]
pub struct Alternative {
    /// The value; `None` for what it is when nothing sets it.
    pub value: Option<Text>,
    /// On what it depends; `None` where on nothing.
    pub why: Option<Why>,
}

impl Alternative {
    /// The same, depending on something.
    pub fn under(&self, why: Option<&Why>) -> Self {
        Self {
            value: self.value.clone(),
            why: self.why.clone().or_else(|| why.cloned()),
        }
    }
}

/// The most values that are kept for one thing.
const MOST: usize = 8;

/// Options and variables by their name, and arrays with all of their elements.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct State {
    values: BTreeMap<String, Vec<Alternative>>,
    lists: BTreeMap<String, Vec<Alternative>>,
}

const UNSET: &[Alternative] = &[Alternative {
    value: None,
    why: None,
}];

impl State {
    /// The values something may have.
    pub fn get(&self, name: &str) -> &[Alternative] {
        self.values.get(name).map_or(UNSET, Vec::as_slice)
    }

    /// Whether something says a value for sure; the value where it does.
    pub fn sure(&self, name: &str) -> Option<Option<&Text>> {
        match self.get(name) {
            [Alternative { value, why: None }] => Some(value.as_ref()),
            _ => None,
        }
    }

    pub fn set(&mut self, name: &str, value: Option<Text>) {
        self.set_all(name, vec![Alternative { value, why: None }]);
    }

    pub fn set_all(&mut self, name: &str, mut all: Vec<Alternative>) {
        all.truncate(MOST);
        self.values.insert(name.to_owned(), all);
    }

    /// Everything that is set by a name, in the order of the names.
    pub fn all(&self) -> impl Iterator<Item = (&String, &Vec<Alternative>)> {
        self.values.iter()
    }

    /// Every array.
    pub fn lists(&self) -> impl Iterator<Item = (&String, &Vec<Alternative>)> {
        self.lists.iter()
    }

    /// Forgets all names of which something holds.
    pub fn forget(&mut self, which: impl Fn(&str) -> bool) {
        self.values.retain(|name, _| !which(name));
    }

    /// The elements of an array.
    pub fn list(&self, name: &str) -> &[Alternative] {
        self.lists.get(name).map_or(&[], Vec::as_slice)
    }

    pub fn clear_list(&mut self, name: &str) {
        self.lists.insert(name.to_owned(), Vec::new());
    }

    pub fn add_to_list(&mut self, name: &str, value: Text) {
        let list = self.lists.entry(name.to_owned()).or_default();
        if list.len() < 256 {
            let value = Some(value);
            list.push(Alternative { value, why: None });
        }
    }

    /// Sets the first element of an array that there is.
    pub fn set_first(&mut self, name: &str, value: Text, why: Option<Why>) {
        if let Some(first) = self.lists.get_mut(name).and_then(|l| l.first_mut()) {
            *first = Alternative {
                value: Some(value),
                why,
            };
        }
    }

    /// What holds behind something that was left early under conditions: what held there each time, with its
    /// condition and the one under which it went on.
    pub fn with_left(self, left: Vec<(Why, Why, Self)>) -> Self {
        let rest = left.last().map(|l| Arc::clone(&l.1));
        let mut all: Vec<(Why, Self)> = left.into_iter().map(|l| (l.0, l.2)).collect();
        all.extend(rest.map(|why| (why, self)));
        Self::either(&all)
    }

    /// What holds after a condition that is not known: each of the branches, with its condition.
    pub fn either(branches: &[(Why, Self)]) -> Self {
        let mut out = Self::default();
        let names = branches.iter().flat_map(|(_, state)| state.values.keys());
        for name in names {
            if out.values.contains_key(name) {
                continue;
            }
            let first = branches[0].1.get(name);
            let all = match branches.iter().all(|(_, state)| state.get(name) == first) {
                true => first.to_vec(),
                false => {
                    let of = |(why, state): &(Why, Self)| {
                        let all = state.get(name).iter().map(|a| a.under(Some(why)));
                        all.collect::<Vec<_>>()
                    };
                    branches.iter().flat_map(of).collect()
                }
            };
            out.set_all(name, all);
        }
        for name in branches.iter().flat_map(|(_, state)| state.lists.keys()) {
            if out.lists.contains_key(name) {
                continue;
            }
            let mut list: Vec<Alternative> = Vec::new();
            for (why, state) in branches {
                for element in state.list(name) {
                    let everywhere = |(_, s): &(Why, Self)| s.list(name).contains(element);
                    let element = match branches.iter().all(everywhere) {
                        true => element.clone(),
                        false => element.under(Some(why)),
                    };
                    if !list.contains(&element) {
                        list.push(element);
                    }
                }
            }
            out.lists.insert(name.clone(), list);
        }
        out
    }
}
