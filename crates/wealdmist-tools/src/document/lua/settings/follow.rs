//! What plain statements of a Lua file make of its tables.

use std::collections::{HashMap, HashSet};
use std::ops::Range;
use std::sync::Arc;

use super::Returned;
use crate::document::lua::{Block, Expression, Form, Function, Kind};

/// How deep tables lie in one another at most.
pub(super) const DEPTH: usize = 12;

/// How many statements of a file are followed, those of functions each time they are called.
const STEPS: usize = 300_000;

/// What something is.
#[derive(Clone)]
pub(super) enum Value {
    /// Written as it stands.
    Written(Expression),
    /// A table, by its number.
    Table(usize),
    /// A function of the file.
    Function(Arc<Function>),
    /// Something that only running the file would tell.
    Computed(Range<usize>),
}

/// What was given to a name in a table.
#[derive(Clone)]
pub(super) struct Given {
    pub(super) name: String,
    /// The bytes of the name.
    pub(super) key: Range<usize>,
    pub(super) value: Value,
    /// Under which condition.
    pub(super) under: Option<Arc<str>>,
}

/// A table that is put together.
#[derive(Default)]
pub(super) struct Table {
    pub(super) given: Vec<Given>,
    /// What was given last to each name.
    pub(super) latest: HashMap<String, usize>,
    /// Where its braces stand, and where its first element does.
    pub(super) braces: Option<(Range<usize>, Option<usize>)>,
}

impl Table {
    fn give(&mut self, given: Given) {
        self.latest.insert(given.name.clone(), self.given.len());
        self.given.push(given);
    }
}

/// What the file comes to.
pub(super) struct Followed {
    pub(super) tables: Vec<Table>,
    pub(super) names: HashMap<String, Value>,
    /// What is returned, and where that is said.
    pub(super) returned: Option<(Value, usize)>,
    /// The name of what is returned, where it has one.
    pub(super) called: Option<String>,
    /// Whether something is returned under a condition.
    pub(super) branched: bool,
    /// What was given to a name in a table of which nobody knows which it is.
    pub(super) loose: Vec<Given>,
    /// How many more statements and values are followed.
    pub(super) steps: usize,
    pub(super) builders: &'static [&'static str],
    pub(super) wrappers: &'static [&'static str],
}

impl Followed {
    pub(super) fn of(notation: &Returned, block: &Block) -> Self {
        let mut out = Self {
            tables: Vec::new(),
            names: HashMap::new(),
            returned: None,
            called: None,
            branched: false,
            loose: Vec::new(),
            steps: STEPS,
            builders: notation.builders,
            wrappers: notation.wrappers,
        };
        out.block(block, None, 0, 0);
        if let Some((Value::Table(table), _)) = out.returned {
            let loose = std::mem::take(&mut out.loose);
            loose
                .into_iter()
                .for_each(|given| out.tables[table].give(given));
        }
        out
    }

    /// Follows statements; what is returned so deep is what all of it returns.
    fn block(&mut self, block: &Block, under: Option<&Arc<str>>, depth: usize, base: usize) {
        if depth > DEPTH {
            return;
        }
        // Names that are new here are none behind it.
        let mut before: Vec<(String, Option<Value>)> = Vec::new();
        for statement in block {
            let Some(steps) = self.steps.checked_sub(1) else {
                return;
            };
            self.steps = steps;
            let mut named = |of: &mut Self, name: &str, value: Value| {
                before.push((name.to_owned(), of.names.insert(name.to_owned(), value)));
            };
            match &statement.kind {
                Kind::Local(names, all) => {
                    let value = |(n, _)| match all.get(n) {
                        Some(value) => self.value(value, depth),
                        None => Value::Computed(statement.at..statement.at),
                    };
                    let values: Vec<Value> = names.iter().enumerate().map(value).collect();
                    for (name, value) in names.iter().zip(values) {
                        named(self, name, value);
                    }
                }
                Kind::Function(name, function) => {
                    named(self, name, Value::Function(Arc::clone(function)));
                }
                Kind::Assign(targets, all) => {
                    let value = |(n, target): (usize, &Expression)| match all.get(n) {
                        Some(value) => self.value(value, depth),
                        None => Value::Computed(target.span.clone()),
                    };
                    let values: Vec<Value> = targets.iter().enumerate().map(value).collect();
                    for (target, value) in targets.iter().zip(values) {
                        self.assign(target, value, under);
                    }
                }
                Kind::Call(call) => {
                    self.call(call, under, depth);
                }
                Kind::Do(inner) => self.block(inner, under, depth + 1, base),
                Kind::If(branches, otherwise) => {
                    let why: Arc<str> = "a condition of the file".into();
                    for (_, branch) in branches {
                        self.block(branch, Some(&why), depth + 1, base);
                    }
                    self.block(otherwise, Some(&why), depth + 1, base);
                }
                Kind::While(_, inner)
                | Kind::Repeat(inner, _)
                | Kind::Count(_, _, _, inner)
                | Kind::Each(_, _, inner) => {
                    let why: Arc<str> = "a loop of the file".into();
                    self.block(inner, Some(&why), depth + 1, base);
                }
                Kind::Return(all) if depth == base => {
                    if let Some(first) = all.first() {
                        if let (Form::Name(name), 0) = (&first.form, base) {
                            self.called = Some(name.clone());
                        }
                        self.returned = Some((self.value(first, depth), statement.at));
                    }
                }
                Kind::Return(_) => self.branched = true,
                Kind::Break | Kind::Jump => {}
            }
        }
        if depth > 0 {
            for (name, value) in before.into_iter().rev() {
                match value {
                    Some(value) => self.names.insert(name, value),
                    None => self.names.remove(&name),
                };
            }
        }
    }

    /// What a function does that is called with something, and what it returns.
    fn called(
        &mut self,
        function: &Function,
        given: Vec<Value>,
        under: Option<&Arc<str>>,
        depth: usize,
    ) -> Option<Value> {
        if depth >= DEPTH {
            return None;
        }
        let mut given = given.into_iter();
        let unknown = || Value::Computed(0..0);
        let before: Vec<_> = function
            .parameters
            .iter()
            .map(|name| {
                let value = given.next().unwrap_or_else(unknown);
                (name.clone(), self.names.insert(name.clone(), value))
            })
            .collect();
        let (returned, branched) = (self.returned.take(), self.branched);
        self.branched = false;
        self.block(&function.body, under, depth + 1, depth + 1);
        let value = self.returned.take().filter(|_| !self.branched);
        (self.returned, self.branched) = (returned, branched);
        for (name, value) in before.into_iter().rev() {
            match value {
                Some(value) => self.names.insert(name, value),
                None => self.names.remove(&name),
            };
        }
        value.map(|(value, _)| value)
    }

    /// A call: of a function of the file it is followed; another may call what it is given, and change it.
    fn call(&mut self, call: &Expression, under: Option<&Arc<str>>, depth: usize) -> Option<Value> {
        let (Form::Call(function, all) | Form::Method(function, _, all)) = &call.form else {
            return None;
        };
        let given: Vec<Value> = all.iter().map(|one| self.value(one, depth)).collect();
        if let (Form::Call(..), Some(Value::Function(function))) =
            (&call.form, self.found(function))
        {
            return self.called(&function, given, under, depth);
        }
        let why: Arc<str> = "a function of the file".into();
        for one in given {
            match one {
                Value::Function(function) => {
                    self.called(&function, Vec::new(), Some(&why), depth);
                }
                Value::Table(table) => self.doubt(table, 0),
                _ => {}
            }
        }
        None
    }

    fn doubt(&mut self, table: usize, depth: usize) {
        if depth > DEPTH {
            return;
        }
        let mut inner = Vec::new();
        for given in &mut self.tables[table].given {
            given
                .under
                .get_or_insert_with(|| "what a function does that is given the table".into());
            if let Value::Table(table) = given.value {
                inner.push(table);
            }
        }
        for table in inner {
            self.doubt(table, depth + 1);
        }
    }

    fn assign(&mut self, target: &Expression, value: Value, under: Option<&Arc<str>>) {
        match &target.form {
            Form::Name(name) => {
                let value = match under {
                    None => value,
                    Some(_) => Value::Computed(target.span.clone()),
                };
                self.names.insert(name.clone(), value);
            }
            Form::Index(table, key) => {
                let Some(name) = name_of(key) else { return };
                let mut given = Given {
                    name,
                    key: key.span.clone(),
                    value,
                    under: under.cloned(),
                };
                match self.found(table) {
                    Some(Value::Table(table)) => self.tables[table].give(given),
                    Some(Value::Written(_) | Value::Function(_)) => {}
                    Some(Value::Computed(_)) | None => {
                        given.under = Some("which table that is".into());
                        let possible = self.possible(table);
                        for table in &possible {
                            self.tables[*table].give(given.clone());
                        }
                        if possible.is_empty() {
                            self.loose.push(given);
                        }
                    }
                }
            }
            _ => {}
        }
    }

    /// The tables that something may be.
    fn possible(&self, it: &Expression) -> Vec<usize> {
        let table = |value: &Value| match value {
            Value::Table(table) => Some(*table),
            _ => None,
        };
        match &it.form {
            Form::Name(name) => self.names.get(name).and_then(table).into_iter().collect(),
            Form::Index(inner, key) => {
                let name = name_of(key);
                let in_one = |outer: usize| {
                    let all = self.last(outer).into_iter();
                    let named = all.filter(|g| Some(&g.name) == name.as_ref());
                    named.filter_map(|g| table(&g.value)).collect::<Vec<_>>()
                };
                self.possible(inner).into_iter().flat_map(in_one).collect()
            }
            _ => Vec::new(),
        }
    }

    /// What a name, or a name within a table, stands for.
    fn found(&self, it: &Expression) -> Option<Value> {
        match &it.form {
            Form::Name(name) => self.names.get(name).cloned(),
            Form::Index(table, key) => {
                let Value::Table(table) = self.found(table)? else {
                    return None;
                };
                let name = name_of(key)?;
                let table = &self.tables[table];
                let given = &table.given[*table.latest.get(&name)?];
                Some(match given.under {
                    None => given.value.clone(),
                    Some(_) => Value::Computed(it.span.clone()),
                })
            }
            _ => None,
        }
    }

    fn value(&mut self, it: &Expression, depth: usize) -> Value {
        if depth > DEPTH {
            return Value::Computed(it.span.clone());
        }
        match &it.form {
            Form::Text(..) | Form::Number(_) | Form::Bool(_) => Value::Written(it.clone()),
            // A sign before a number is part of it.
            Form::Minus(inner) if matches!(inner.form, Form::Number(_)) => {
                Value::Written(it.clone())
            }
            Form::Table(fields) => {
                let first = fields
                    .first()
                    .map(|(key, value)| key.as_ref().map_or(value.span.start, |k| k.span.start));
                self.tables.push(Table {
                    braces: Some((it.span.clone(), first)),
                    ..Table::default()
                });
                let table = self.tables.len() - 1;
                let mut count = 0usize;
                for (key, value) in fields {
                    let (name, key) = match key {
                        Some(key) => (name_of(key), key.span.clone()),
                        None => {
                            count += 1;
                            (Some((count - 1).to_string()), value.span.clone())
                        }
                    };
                    let value = self.value(value, depth + 1);
                    if let Some(name) = name {
                        self.tables[table].give(Given {
                            name,
                            key,
                            value,
                            under: None,
                        });
                    }
                }
                Value::Table(table)
            }
            Form::Name(_) | Form::Index(..) => {
                let found = self.found(it);
                found.unwrap_or_else(|| Value::Computed(it.span.clone()))
            }
            Form::Function(function) => Value::Function(Arc::clone(function)),
            Form::Call(function, all) => {
                let name = match &function.form {
                    Form::Index(_, key) => name_of(key),
                    _ => None,
                };
                let is =
                    |names: &[&str]| name.as_ref().is_some_and(|n| names.contains(&n.as_str()));
                if is(self.builders) {
                    self.tables.push(Table::default());
                    return Value::Table(self.tables.len() - 1);
                }
                match all.first() {
                    Some(first) if is(self.wrappers) => self.value(first, depth + 1),
                    _ => {
                        let value = self.call(it, None, depth + 1);
                        value.unwrap_or_else(|| Value::Computed(it.span.clone()))
                    }
                }
            }
            _ => Value::Computed(it.span.clone()),
        }
    }

    /// What a table comes to: of what is given to a name the last that is sure, and all doubtful behind it.
    pub(super) fn last(&self, table: usize) -> Vec<&Given> {
        let mut sure: HashSet<&str> = HashSet::new();
        let mut out = Vec::new();
        for given in self.tables[table].given.iter().rev() {
            if !sure.contains(given.name.as_str()) {
                out.push(given);
            }
            if given.under.is_none() {
                sure.insert(&given.name);
            }
        }
        out.reverse();
        out
    }

    /// The table at a path, with how much of the path it is.
    pub(super) fn deepest(&self, names: &[&str]) -> Option<(usize, usize)> {
        let (Value::Table(mut table), _) = self.returned.as_ref()?.clone() else {
            return None;
        };
        for (n, name) in names.iter().enumerate() {
            let given = self.last(table).into_iter().rfind(|g| g.name == *name);
            match given.map(|g| &g.value) {
                None => return Some((table, n)),
                Some(Value::Table(inner)) => table = *inner,
                Some(_) => return None,
            }
        }
        None
    }
}

/// What a key is called; elements are counted from 0 here.
fn name_of(key: &Expression) -> Option<String> {
    match &key.form {
        Form::Text(bytes, _) => String::from_utf8(bytes.clone()).ok(),
        Form::Number(n) if *n >= 1.0 && n.fract() == 0.0 && *n < 1e6 => {
            Some(format!("{}", n - 1.0))
        }
        _ => None,
    }
}
