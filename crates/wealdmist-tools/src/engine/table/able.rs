//! What a tool can be told at all.

use std::collections::{BTreeMap, BTreeSet};

use wealdmist_core::property::Property;

use super::{Key, Means, Table, Word};

impl Table {
    /// The properties its keys can say.
    pub(super) fn properties(&self) -> impl Iterator<Item = Property> + '_ {
        let of = |key: &Key| -> Vec<Property> {
            match key.means {
                Means::Several(compound) => compound.holds().to_vec(),
                Means::List(one, more) => vec![one, more],
                Means::Told(_) => Vec::new(),
                _ => {
                    let role = key.role(self.id, key.path);
                    let property = role.and_then(|r| Property::from_key(r.as_str()));
                    property.into_iter().collect()
                }
            }
        };
        let by_keys = self.keys.iter().flat_map(of);
        by_keys.chain(self.quirks.takes.iter().copied())
    }
}

/// The words of properties that none of some keys can say, of those that are said by words alone.
pub(super) fn lacks<'a>(keys: impl IntoIterator<Item = &'a Key>) -> Vec<(Property, &'static str)> {
    let mut said: BTreeMap<Property, Option<BTreeSet<&str>>> = BTreeMap::new();
    for key in keys {
        match key.means {
            Means::Word(property) | Means::Flag(property) => {
                let words = said
                    .entry(property)
                    .or_insert_with(|| Some(BTreeSet::new()));
                let ours = key.words.iter().filter_map(|(_, word)| match word {
                    Word::Says(word) => Some(*word),
                    _ => None,
                });
                if let Some(words) = words {
                    words.extend(ours);
                }
            }
            Means::Several(compound) => {
                said.extend(compound.holds().iter().map(|property| (*property, None)));
            }
            _ => {}
        }
    }
    let of = |(property, said): (Property, Option<BTreeSet<&str>>)| {
        let all = property.words().unwrap_or_default();
        let lacks = said.map(|said| all.iter().filter(move |w| !said.contains(**w)));
        lacks
            .into_iter()
            .flatten()
            .map(move |w| (property, *w))
            .collect::<Vec<_>>()
    };
    said.into_iter().flat_map(of).collect()
}
