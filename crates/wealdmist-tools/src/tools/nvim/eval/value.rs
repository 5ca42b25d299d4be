//! Values of the two languages, and the store that holds them: what depends on something unknown is
//! kept with what it depends on.

use std::collections::HashMap;
use std::rc::Rc;
use std::sync::Arc;

use super::parts::{Group, Part, Parts};
use crate::document::{lua, vim};
use crate::evaluated::Ground;
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;

/// The number of a table.
pub(super) type Table = u32;

/// What a field is called.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum Key {
    Text(Rc<str>),
    Number(i64),
}

impl Key {
    pub(super) fn text(text: &str) -> Self {
        Self::Text(text.into())
    }

    /// Whether it is a text.
    pub(super) fn is(&self, text: &str) -> bool {
        matches!(self, Self::Text(own) if **own == *text)
    }
}

/// A function of the person's.
#[derive(Debug)]
pub(super) enum Function {
    Lua {
        function: Arc<lua::Function>,
        /// The variables around it.
        scope: Table,
        ground: Ground,
    },
    Vim {
        function: Arc<vim::Function>,
        script: Table,
        ground: Ground,
    },
}

/// A value.
#[derive(Debug, Clone)]
pub(super) enum Value {
    Nil,
    Bool(bool),
    Number(f64),
    Text(Text),
    Table(Table),
    Function(Rc<Function>),
    /// Something of the program's own, by its path: `vim.api.nvim_set_hl`.
    Own(Rc<str>),
    /// It is not known, and why.
    Unknown(Why),
    /// One of several, each with what that depends on.
    Either(Rc<Vec<(Why, Value)>>),
}

/// Whether something holds.
#[derive(Debug, Clone)]
pub(super) enum Truth {
    Yes,
    No,
    /// It depends: when it does, and when it does not.
    Open(Why, Why),
}

/// The most values that are kept for one thing.
const MOST: usize = 6;

impl Value {
    pub(super) fn text(text: &str) -> Self {
        Self::Text(Text::nowhere(text))
    }

    pub(super) fn unknown(why: &str) -> Self {
        Self::Unknown(why.into())
    }

    /// Several values, each with what it depends on, as one.
    pub(super) fn either(all: Vec<(Why, Self)>) -> Self {
        let mut flat: Vec<(Why, Self)> = Vec::new();
        for (why, value) in all {
            match value {
                // What is not known under a condition may be anything at all.
                Self::Unknown(inner) => return Self::Unknown(inner),
                // What went the same way goes together.
                Self::Either(inner) => {
                    let goes = |(w, _): &&(Why, Self)| Arc::ptr_eq(w, &why);
                    match inner.iter().any(|one| goes(&one)) {
                        true => flat.extend(inner.iter().filter(goes).cloned()),
                        false => flat.extend(inner.iter().cloned()),
                    }
                }
                other => flat.push((why, other)),
            }
        }
        let Some((_, first)) = flat.first() else {
            return Self::Nil;
        };
        if flat.iter().all(|(_, v)| v.same(first)) {
            return first.clone();
        }
        if flat.len() > MOST {
            let mut apart: Vec<(Why, Self)> = Vec::new();
            for (why, value) in flat {
                if !apart.iter().any(|(_, known)| known.same(&value)) {
                    apart.push((why, value));
                }
            }
            flat = apart;
        }
        // Of what may be a great many things nothing is left out.
        match flat.len() > MOST {
            true => Self::unknown("more than is followed"),
            false => Self::Either(flat.into()),
        }
    }

    /// Whether they are the same value, written in the same place.
    pub(super) fn same(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Nil, Self::Nil) => true,
            (Self::Bool(a), Self::Bool(b)) => a == b,
            (Self::Number(a), Self::Number(b)) => a == b,
            (Self::Text(a), Self::Text(b)) => a == b,
            (Self::Table(a), Self::Table(b)) => a == b,
            (Self::Function(a), Self::Function(b)) => Rc::ptr_eq(a, b),
            (Self::Own(a), Self::Own(b)) => a == b,
            (Self::Either(a), Self::Either(b)) => {
                Rc::ptr_eq(a, b)
                    || (a.len() == b.len()
                        && a.iter()
                            .zip(b.iter())
                            .all(|(a, b)| a.0 == b.0 && a.1.same(&b.1)))
            }
            _ => false,
        }
    }

    /// The value worked out further, for each of those it may be.
    pub(super) fn map(&self, of: &mut dyn FnMut(&Self) -> Self) -> Self {
        match self {
            Self::Either(all) => {
                let each = all.iter().map(|(why, v)| (Arc::clone(why), of(v)));
                Self::either(each.collect())
            }
            other => of(other),
        }
    }

    /// Whether it holds, as Lua sees it.
    pub(super) fn holds(&self) -> Truth {
        self.truth(&|v| match v {
            Self::Nil | Self::Bool(false) => Some(false),
            _ => Some(true),
        })
    }

    /// Whether it holds, by a rule for a value that is known.
    pub(super) fn truth(&self, rule: &dyn Fn(&Self) -> Option<bool>) -> Truth {
        let open = |why: &Why| {
            Truth::Open(
                format!("depending on {why}").into(),
                format!("depending on {why}, otherwise").into(),
            )
        };
        match self {
            Self::Unknown(why) => open(why),
            Self::Either(all) => {
                let mut sides: [Option<Why>; 2] = [None, None];
                for (why, value) in all.iter() {
                    match rule(value) {
                        Some(yes) => {
                            sides[usize::from(yes)].get_or_insert_with(|| Arc::clone(why));
                        }
                        None => return open(why),
                    }
                }
                match sides {
                    [Some(no), Some(yes)] => Truth::Open(yes, no),
                    [_, Some(_)] => Truth::Yes,
                    _ => Truth::No,
                }
            }
            known => match rule(known) {
                Some(true) => Truth::Yes,
                Some(false) => Truth::No,
                None => open(&"a value".into()),
            },
        }
    }

    /// Its text, where it is one or a number.
    pub(super) fn as_text(&self) -> Option<Text> {
        match self {
            Self::Text(text) => Some(text.clone()),
            Self::Number(n) => Some(Text::nowhere(&spelled(*n))),
            _ => None,
        }
    }

    pub(super) fn lossy(&self) -> Option<String> {
        self.as_text().map(|t| t.lossy())
    }

    /// As a number, as Lua takes a text for one.
    pub(super) fn as_number(&self) -> Option<f64> {
        match self {
            Self::Number(n) => Some(*n),
            Self::Text(text) if text.unknown.is_none() => {
                let text = text.lossy();
                let text = text.trim();
                match text.strip_prefix("0x") {
                    Some(digits) => u64::from_str_radix(digits, 16).ok().map(|n| n as f64),
                    None => text.parse().ok(),
                }
            }
            _ => None,
        }
    }

    pub(super) fn key(&self) -> Option<Key> {
        match self {
            Self::Text(text) if text.unknown.is_some() => None,
            Self::Text(text) => Some(Key::text(&text.lossy())),
            Self::Number(n) if n.fract() == 0.0 => Some(Key::Number(*n as i64)),
            Self::Number(n) => Some(Key::text(&spelled(*n))),
            Self::Bool(b) => Some(Key::text(if *b { "\0true" } else { "\0false" })),
            _ => None,
        }
    }
}

/// What is worked out of a value that is not known, or not one of those that are understood.
pub(super) fn open(value: &Value) -> Value {
    match value {
        Value::Unknown(why)
        | Value::Text(Text {
            unknown: Some(why), ..
        }) => Value::Unknown(Arc::clone(why)),
        Value::Either(all) => match all.first() {
            Some((why, _)) => Value::Unknown(Arc::clone(why)),
            None => Value::unknown("a value"),
        },
        _ => Value::unknown("what a calculation gives"),
    }
}

/// The same of two values: of the one that is not known.
pub(super) fn open_of(a: &Value, b: &Value) -> Value {
    let known = !matches!(
        a,
        Value::Unknown(_)
            | Value::Text(Text {
                unknown: Some(_),
                ..
            })
    );
    open(if known { b } else { a })
}

/// A number as both languages write it.
pub(super) fn spelled(n: f64) -> String {
    match n.fract() == 0.0 && n.abs() < 1e15 {
        true => format!("{n:.0}"),
        false => format!("{n}"),
    }
}

/// Where a value is kept: a field of a table, or a part of a highlight group.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum Kept {
    Field(Table, Key),
    Part(Group, Part),
}

/// What was written since a place in time: the values that were there before, or those that are.
pub(super) type Change = HashMap<Kept, Value>;

/// All tables with their fields, and the highlight groups.
#[derive(Default)]
pub(super) struct Store {
    fields: Vec<HashMap<Key, Value>>,
    /// The fields that a table ever had, in the order they came.
    keys: Vec<Vec<Key>>,
    parts: Parts,
    /// What was there before, for each doubt that is open.
    doubts: Vec<Change>,
}

impl Store {
    pub(super) fn table(&mut self) -> Table {
        self.keys.push(Vec::new());
        self.fields.push(HashMap::new());
        (self.keys.len() - 1) as Table
    }

    /// The table that would be made next: those from it on are not known yet.
    pub(super) fn next(&self) -> Table {
        self.keys.len() as Table
    }

    pub(super) fn get(&self, table: Table, key: &Key) -> Value {
        let found = self.fields[table as usize].get(key);
        found.cloned().unwrap_or(Value::Nil)
    }

    pub(super) fn field(&self, table: Table, key: &str) -> Value {
        self.get(table, &Key::text(key))
    }

    pub(super) fn has(&self, table: Table, key: &Key) -> bool {
        self.fields[table as usize].contains_key(key)
    }

    /// What is said of a part of a group; nil where nothing is.
    pub(super) fn part(&self, group: Group, part: Part) -> &Value {
        self.parts.get(group, part).unwrap_or(&Value::Nil)
    }

    /// The groups with what is said of them.
    pub(super) fn groups(
        &self,
    ) -> impl Iterator<Item = (Group, impl Iterator<Item = &(Part, Value)>)> {
        self.parts.all()
    }

    /// What is said of a group.
    pub(super) fn parts_of(&self, group: Group) -> impl Iterator<Item = &(Part, Value)> {
        self.parts.of(group)
    }

    /// What is said of all groups, to be compared.
    pub(super) fn said_of_groups(&self) -> Vec<(Group, &(Part, Value))> {
        let each = self.groups();
        each.flat_map(|(group, parts)| parts.map(move |part| (group, part)))
            .collect()
    }

    fn at(&self, place: &Kept) -> Option<&Value> {
        match place {
            Kept::Field(table, key) => self.fields[*table as usize].get(key),
            Kept::Part(group, part) => self.parts.get(*group, *part),
        }
    }

    /// Sets a value whatever is in doubt; what was there before.
    fn replace(&mut self, place: Kept, value: Value) -> Option<Value> {
        match place {
            Kept::Field(table, key) => self.fields[table as usize].insert(key, value),
            Kept::Part(group, part) => self.parts.set(group, part, value),
        }
    }

    fn set_at(&mut self, place: Kept, value: Value) {
        if let Some(doubt) = self.doubts.last()
            && !doubt.contains_key(&place)
        {
            let old = self.at(&place).cloned().unwrap_or(Value::Nil);
            if let Some(doubt) = self.doubts.last_mut() {
                doubt.insert(place.clone(), old);
            }
        }
        match place {
            Kept::Field(table, key) => {
                let fields = &mut self.fields[table as usize];
                match fields.get_mut(&key) {
                    Some(known) => *known = value,
                    None => {
                        self.keys[table as usize].push(key.clone());
                        fields.insert(key, value);
                    }
                }
            }
            Kept::Part(group, part) => {
                self.parts.set(group, part, value);
            }
        }
    }

    pub(super) fn set(&mut self, table: Table, key: Key, value: Value) {
        self.set_at(Kept::Field(table, key), value);
    }

    pub(super) fn set_part(&mut self, group: Group, part: Part, value: Value) {
        self.set_at(Kept::Part(group, part), value);
    }

    pub(super) fn put(&mut self, table: Table, key: &str, value: Value) {
        self.set(table, Key::text(key), value);
    }

    /// The fields that have a value, in their order.
    pub(super) fn pairs(&self, table: Table) -> Vec<(Key, Value)> {
        let all = self.keys[table as usize].iter();
        let pairs = all.map(|key| (key.clone(), self.get(table, key)));
        pairs.filter(|(_, v)| !matches!(v, Value::Nil)).collect()
    }

    /// How many elements a table has as a list.
    pub(super) fn length(&self, table: Table) -> i64 {
        let mut n = self.keys[table as usize].len() as i64;
        let is_there = |n: i64| !matches!(self.get(table, &Key::Number(n)), Value::Nil);
        while n > 0 && !is_there(n) {
            n -= 1;
        }
        n
    }

    /// A list of its elements.
    pub(super) fn elements(&self, table: Table) -> Vec<Value> {
        let all = 1..=self.length(table);
        all.map(|n| self.get(table, &Key::Number(n))).collect()
    }

    /// The elements of a list as one text.
    pub(super) fn joined(&self, table: Table, between: &Text) -> Text {
        let mut out = Text::default();
        for (i, value) in self.elements(table).iter().enumerate() {
            if i > 0 {
                out.push(between);
            }
            out.push(&super::expression::as_gap(value));
        }
        out
    }

    pub(super) fn list(&mut self, all: Vec<Value>) -> Value {
        let table = self.table();
        for (i, value) in all.into_iter().enumerate() {
            self.set(table, Key::Number(i as i64 + 1), value);
        }
        Value::Table(table)
    }

    /// Begins something that may happen or not.
    pub(super) fn doubt(&mut self) {
        self.doubts.push(Change::new());
    }

    /// Ends it: everything is as before; what it would have changed.
    pub(super) fn undo(&mut self) -> Change {
        let before = self.doubts.pop().unwrap_or_default();
        let mut after = Change::with_capacity(before.len());
        for (place, old) in before {
            let new = self.replace(place.clone(), old);
            after.insert(place, new.unwrap_or(Value::Nil));
        }
        after
    }

    /// What the doubt that is open has changed so far.
    pub(super) fn changed(&self) -> Change {
        let places = self.doubts.last().into_iter().flat_map(HashMap::keys);
        let now = |place: &Kept| {
            let now = self.at(place).cloned().unwrap_or(Value::Nil);
            (place.clone(), now)
        };
        places.map(now).collect()
    }

    /// Does again what was undone.
    pub(super) fn apply(&mut self, change: Change) {
        for (place, value) in change {
            self.set_at(place, value);
        }
    }

    /// What holds after one of several happened, or the one there is.
    pub(super) fn merge_or_apply(&mut self, mut all: Vec<(Why, Change)>, first: Table) {
        match all.len() {
            1 => self.apply(all.remove(0).1),
            _ => self.merge(&all, first),
        }
    }

    /// What holds after one of several happened. Tables from `first` on were made by one of them alone:
    /// whoever knows of one of these went that way.
    pub(super) fn merge(&mut self, all: &[(Why, Change)], first: Table) {
        let mut places: Vec<&Kept> = all.iter().flat_map(|(_, c)| c.keys()).collect();
        places.sort_unstable();
        places.dedup();
        for place in places {
            let is_new = matches!(place, Kept::Field(table, _) if *table >= first);
            let now = self.at(place).cloned().unwrap_or(Value::Nil);
            let mut with = all.iter().filter_map(|(_, change)| change.get(place));
            if let (true, Some(only), None) = (is_new, with.next(), with.next()) {
                self.set_at(place.clone(), only.clone());
                continue;
            }
            let of = |(why, change): &(Why, Change)| {
                let value = change.get(place).unwrap_or(&now);
                (Arc::clone(why), value.clone())
            };
            let value = Value::either(all.iter().map(of).collect());
            self.set_at(place.clone(), value);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_may_have_happened_is_one_of_two() {
        let mut store = Store::default();
        let table = store.table();
        store.put(table, "a", Value::Number(1.0));
        store.doubt();
        store.put(table, "a", Value::Number(2.0));
        store.put(table, "b", Value::Bool(true));
        let yes = store.undo();
        assert!(matches!(store.field(table, "a"), Value::Number(n) if n == 1.0));
        assert!(matches!(store.field(table, "b"), Value::Nil));
        store.doubt();
        store.put(table, "a", Value::Number(1.0));
        let no = store.undo();
        let first = store.next();
        store.merge(&[("x".into(), yes), ("not x".into(), no)], first);
        assert!(matches!(store.field(table, "a").holds(), Truth::Yes));
        assert!(matches!(store.field(table, "b").holds(), Truth::Open(yes, _) if &*yes == "x"));
    }

    #[test]
    fn a_list_has_the_length_that_it_has() {
        let mut store = Store::default();
        let Value::Table(list) =
            store.list(vec![Value::Nil, Value::Bool(true), Value::Bool(false)])
        else {
            panic!()
        };
        assert_eq!(store.length(list), 3);
        store.set(list, Key::Number(3), Value::Nil);
        assert_eq!(store.length(list), 2);
    }
}
