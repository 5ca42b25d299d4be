//! Lua: statements and expressions.

use std::rc::Rc;
use std::sync::Arc;

use super::Editor;
use super::flow::{Run, Stop};
use super::value::{Function, Key, Table, Truth, Value, open, spelled};
use crate::document::lua::{Block, Expression, Form, Kind, Sign};
use crate::evaluated::Ground;
use crate::evaluated::text::Text;

/// The variables around a block.
const UP: &str = "\0up";

/// What a function was given beyond its names.
pub(super) const MORE: &str = "\0more";

/// The most rounds of a loop.
const ROUNDS: usize = 20_000;

impl Editor<'_> {
    /// Runs a file's statements; what it gives.
    pub(super) fn chunk(
        &mut self,
        block: &Block,
        ground: &Ground,
        given: Vec<Value>,
    ) -> Run<Vec<Value>> {
        let scope = self.store.table();
        let more = self.store.list(given);
        self.store.put(scope, MORE, more);
        match self.deeper(|this| this.block(block, ground, scope)) {
            Some(Ok(())) | None => Ok(Vec::new()),
            Some(Err(stop)) => Err(stop),
        }
    }

    pub(super) fn scope(&mut self, up: Table) -> Table {
        let scope = self.store.table();
        self.store.put(scope, UP, Value::Table(up));
        scope
    }

    pub(super) fn block(&mut self, block: &Block, ground: &Ground, scope: Table) -> Run<()> {
        for statement in block {
            self.step()?;
            self.here = (ground.clone(), statement.at);
            self.statement(&statement.kind, ground, scope)?;
        }
        Ok(())
    }

    fn inner(&mut self, block: &Block, ground: &Ground, scope: Table) -> Run<()> {
        let own = self.scope(scope);
        self.deeper(|this| this.block(block, ground, own))
            .unwrap_or(Ok(()))
    }

    fn statement(&mut self, kind: &Kind, ground: &Ground, scope: Table) -> Run<()> {
        match kind {
            Kind::While(..) | Kind::Repeat(..) | Kind::Count(..) | Kind::Each(..) => {
                self.looped(&mut |this| this.repeated(kind, ground, scope))
            }
            _ => self.plain(kind, ground, scope),
        }
    }

    fn plain(&mut self, kind: &Kind, ground: &Ground, scope: Table) -> Run<()> {
        match kind {
            Kind::Local(names, all) => {
                let values = self.several(all, ground, scope)?;
                let mut values = values.into_iter();
                for name in names {
                    let value = values.next().unwrap_or(Value::Nil);
                    self.store.put(scope, name, value);
                }
            }
            Kind::Assign(targets, all) => {
                let values = self.several(all, ground, scope)?;
                let mut values = values.into_iter();
                for (i, target) in targets.iter().enumerate() {
                    let value = values.next().unwrap_or(Value::Nil);
                    // A word such as `true` is where an option's value can be changed.
                    let source = all
                        .get(i)
                        .filter(|e| matches!(e.form, Form::Bool(_) | Form::Number(_)));
                    let source = source.map(|e| ground.source(e.span.clone(), &self.visits));
                    self.assign(target, value, source, ground, scope)?;
                }
            }
            Kind::Call(call) => {
                self.values(call, ground, scope)?;
            }
            Kind::Do(block) => return self.inner(block, ground, scope),
            Kind::Function(name, function) => {
                self.store.put(scope, name, Value::Nil);
                let function = self.closure(function, ground, scope);
                self.store.put(scope, name, function);
            }
            Kind::If(branches, other) => return self.condition(branches, other, ground, scope),
            Kind::Return(all) => {
                let values = self.several(all, ground, scope)?;
                return Err(Stop::Return(values));
            }
            Kind::Break => return Err(Stop::Break),
            _ => {}
        }
        Ok(())
    }

    fn repeated(&mut self, kind: &Kind, ground: &Ground, scope: Table) -> Run<()> {
        match kind {
            Kind::While(condition, block) => {
                for _ in 0..ROUNDS {
                    self.step()?;
                    let truth = self.one(condition, ground, scope)?.holds();
                    match truth {
                        Truth::No => break,
                        Truth::Yes => {
                            if !self.round(block, ground, scope, &[])? {
                                break;
                            }
                        }
                        open @ Truth::Open(..) => {
                            return self.decide(open, &mut |this, yes| match yes {
                                true => this.round(block, ground, scope, &[]).map(|_| ()),
                                false => Ok(()),
                            });
                        }
                    }
                }
            }
            Kind::Repeat(block, condition) => {
                for _ in 0..ROUNDS {
                    self.step()?;
                    if !self.round(block, ground, scope, &[])? {
                        break;
                    }
                    match self.one(condition, ground, scope)?.holds() {
                        Truth::No => {}
                        _ => break,
                    }
                }
            }
            Kind::Count(name, ends, step, block) => {
                let first = self.one(&ends[0], ground, scope)?;
                let last = self.one(&ends[1], ground, scope)?;
                let step = match step {
                    Some(step) => self.one(step, ground, scope)?,
                    None => Value::Number(1.0),
                };
                let (Some(first), Some(last), Some(step)) =
                    (first.as_number(), last.as_number(), step.as_number())
                else {
                    let unknown = Value::unknown("how often a loop runs");
                    return self.maybe(block, ground, scope, &[(name, unknown)]);
                };
                let mut n = first;
                for _ in 0..ROUNDS {
                    if step == 0.0 || (step > 0.0 && n > last) || (step < 0.0 && n < last) {
                        break;
                    }
                    if !self.round(block, ground, scope, &[(name, Value::Number(n))])? {
                        break;
                    }
                    n += step;
                }
            }
            Kind::Each(names, all, block) => return self.each(names, all, block, ground, scope),
            _ => {}
        }
        Ok(())
    }

    fn condition(
        &mut self,
        branches: &[(Expression, Block)],
        other: &Block,
        ground: &Ground,
        scope: Table,
    ) -> Run<()> {
        let Some(((condition, block), rest)) = branches.split_first() else {
            return self.inner(other, ground, scope);
        };
        let truth = self.one(condition, ground, scope)?.holds();
        self.decide(truth, &mut |this, yes| match yes {
            true => this.inner(block, ground, scope),
            false => this.condition(rest, other, ground, scope),
        })
    }

    /// One round of a loop; whether there may be another.
    fn round(
        &mut self,
        block: &Block,
        ground: &Ground,
        scope: Table,
        given: &[(&String, Value)],
    ) -> Run<bool> {
        self.step()?;
        let own = self.scope(scope);
        for (name, value) in given {
            self.store.put(own, name, value.clone());
        }
        match self
            .deeper(|this| this.block(block, ground, own))
            .unwrap_or(Ok(()))
        {
            Err(Stop::Break) => Ok(false),
            Ok(()) => Ok(true),
            Err(stop) => Err(stop),
        }
    }

    /// A loop of which it is not known how often it runs.
    fn maybe(
        &mut self,
        block: &Block,
        ground: &Ground,
        scope: Table,
        given: &[(&String, Value)],
    ) -> Run<()> {
        let truth = Value::unknown("a loop").holds();
        self.decide(truth, &mut |this, yes| match yes {
            true => this.round(block, ground, scope, given).map(|_| ()),
            false => Ok(()),
        })
    }

    fn each(
        &mut self,
        names: &[String],
        all: &[Expression],
        block: &Block,
        ground: &Ground,
        scope: Table,
    ) -> Run<()> {
        let values = self.several(all, ground, scope)?;
        let table = match values.as_slice() {
            [Value::Own(next), Value::Table(table), ..] if &**next == "next" => {
                Some((*table, false))
            }
            [Value::Own(next), Value::Table(table), ..] if &**next == "\0inext" => {
                Some((*table, true))
            }
            _ => None,
        };
        let Some((table, in_order)) = table else {
            let unknown = Value::unknown("what a loop goes over");
            let given: Vec<(&String, Value)> = names.iter().map(|n| (n, unknown.clone())).collect();
            return self.maybe(block, ground, scope, &given);
        };
        let pairs = match in_order {
            true => {
                let all = self.store.elements(table).into_iter().enumerate();
                let all = all.take_while(|(_, v)| !matches!(v, Value::Nil));
                all.map(|(i, v)| (Key::Number(i as i64 + 1), v)).collect()
            }
            false => self.store.pairs(table),
        };
        for (key, value) in pairs {
            let key = match key {
                Key::Text(text) => Value::text(&text),
                Key::Number(n) => Value::Number(n as f64),
            };
            let given: Vec<(&String, Value)> = names.iter().zip([key, value]).collect();
            if !self.round(block, ground, scope, &given)? {
                break;
            }
        }
        Ok(())
    }

    pub(super) fn closure(
        &self,
        function: &Arc<crate::document::lua::Function>,
        ground: &Ground,
        scope: Table,
    ) -> Value {
        Value::Function(Rc::new(Function::Lua {
            function: Arc::clone(function),
            scope,
            ground: ground.clone(),
        }))
    }

    /// The values of expressions; the last may give several.
    fn several(&mut self, all: &[Expression], ground: &Ground, scope: Table) -> Run<Vec<Value>> {
        let mut out = Vec::with_capacity(all.len());
        for (i, expression) in all.iter().enumerate() {
            match i + 1 == all.len() {
                true => out.extend(self.values(expression, ground, scope)?),
                false => out.push(self.one(expression, ground, scope)?),
            }
        }
        Ok(out)
    }

    fn one(&mut self, expression: &Expression, ground: &Ground, scope: Table) -> Run<Value> {
        let values = self.values(expression, ground, scope)?;
        Ok(values.into_iter().next().unwrap_or(Value::Nil))
    }

    /// What an expression gives.
    fn values(&mut self, it: &Expression, ground: &Ground, scope: Table) -> Run<Vec<Value>> {
        self.deeper(|this| this.worked_out(it, ground, scope))
            .unwrap_or_else(|| {
                Ok(vec![Value::unknown(
                    "an expression that is nested too deeply",
                )])
            })
    }

    fn worked_out(&mut self, it: &Expression, ground: &Ground, scope: Table) -> Run<Vec<Value>> {
        let one = match &it.form {
            Form::Nil => Value::Nil,
            Form::Bool(b) => Value::Bool(*b),
            Form::Number(n) => Value::Number(*n),
            Form::Text(bytes, map) => Value::Text(ground.written(bytes, |i| map.get(i).copied())),
            Form::More => {
                return Ok(match self.variable(MORE, scope) {
                    Value::Table(list) => self.store.elements(list),
                    _ => Vec::new(),
                });
            }
            Form::Table(fields) => self.table(fields, ground, scope)?,
            Form::Function(function) => self.closure(function, ground, scope),
            Form::Name(name) => self.variable(name, scope),
            Form::Index(inner, key) => {
                let inner = self.one(inner, ground, scope)?;
                let key = self.one(key, ground, scope)?;
                self.index(&inner, &key)?
            }
            Form::Call(callee, given) => {
                let callee = self.one(callee, ground, scope)?;
                let given = self.several(given, ground, scope)?;
                return self.call(&callee, given);
            }
            Form::Method(object, name, given) => {
                let object = self.one(object, ground, scope)?;
                let given = self.several(given, ground, scope)?;
                return self.method(&object, name, given);
            }
            Form::Binary(left, sign, right) => self.binary(left, *sign, right, ground, scope)?,
            Form::Not(inner) => match self.one(inner, ground, scope)? {
                Value::Unknown(why) => Value::Unknown(why),
                known => {
                    known.map(&mut |v| Value::Bool(matches!(v, Value::Nil | Value::Bool(false))))
                }
            },
            Form::Minus(inner) => {
                let inner = self.one(inner, ground, scope)?;
                inner.map(&mut |v| v.as_number().map_or_else(|| open(v), |n| Value::Number(-n)))
            }
            Form::Length(inner) => {
                let inner = self.one(inner, ground, scope)?;
                let store = &self.store;
                inner.map(&mut |v| match v {
                    Value::Table(table) => Value::Number(store.length(*table) as f64),
                    Value::Text(text) if text.unknown.is_none() => {
                        Value::Number(text.bytes.len() as f64)
                    }
                    other => open(other),
                })
            }
            Form::Other => Value::unknown("what is not understood"),
        };
        Ok(vec![one])
    }

    fn table(
        &mut self,
        fields: &[(Option<Expression>, Expression)],
        ground: &Ground,
        scope: Table,
    ) -> Run<Value> {
        let table = self.store.table();
        let mut next = 1;
        for (i, (key, value)) in fields.iter().enumerate() {
            let Some(key) = key else {
                let all = match i + 1 == fields.len() {
                    true => self.values(value, ground, scope)?,
                    false => vec![self.one(value, ground, scope)?],
                };
                for value in all {
                    self.store.set(table, Key::Number(next), value);
                    next += 1;
                }
                continue;
            };
            let key = self.one(key, ground, scope)?;
            let value = self.one(value, ground, scope)?;
            if let Some(key) = key.key() {
                self.store.set(table, key, value);
            }
        }
        Ok(Value::Table(table))
    }

    /// A variable, in whatever block it is.
    fn variable(&self, name: &str, scope: Table) -> Value {
        let key = Key::text(name);
        let mut at = scope;
        loop {
            if self.store.has(at, &key) {
                return self.store.get(at, &key);
            }
            match self.store.field(at, UP) {
                Value::Table(up) => at = up,
                _ => break,
            }
        }
        match self.store.get(self.tables.globals, &key) {
            Value::Nil if name == "_G" => Value::Table(self.tables.globals),
            Value::Nil if super::library::GLOBALS.contains(&name) => Value::Own(name.into()),
            Value::Nil => match &self.plugins {
                Some(why) => Value::Unknown(Arc::clone(why)),
                None => Value::Nil,
            },
            other => other,
        }
    }

    fn assign(
        &mut self,
        target: &Expression,
        value: Value,
        source: Option<Text>,
        ground: &Ground,
        scope: Table,
    ) -> Run<()> {
        match &target.form {
            Form::Name(name) => {
                let key = Key::text(name);
                let mut at = scope;
                loop {
                    if self.store.has(at, &key) {
                        self.store.set(at, key, value);
                        return Ok(());
                    }
                    match self.store.field(at, UP) {
                        Value::Table(up) => at = up,
                        _ => break,
                    }
                }
                self.store.set(self.tables.globals, key, value);
                Ok(())
            }
            Form::Index(inner, key) => {
                let inner = self.one(inner, ground, scope)?;
                let key = self.one(key, ground, scope)?;
                self.set_index(&inner, &key, value, source)
            }
            _ => Ok(()),
        }
    }

    /// A field of something.
    pub(super) fn index(&mut self, inner: &Value, key: &Value) -> Run<Value> {
        match inner {
            Value::Table(table) => Ok(match key {
                Value::Either(all) => {
                    let of = |(why, k): &(crate::evaluated::state::Why, Value)| {
                        let field = k.key().map_or(Value::Nil, |k| self.store.get(*table, &k));
                        (Arc::clone(why), field)
                    };
                    Value::either(all.iter().map(of).collect())
                }
                Value::Unknown(why) => Value::Unknown(Arc::clone(why)),
                known => match known.key() {
                    Some(key) => self.store.get(*table, &key),
                    None => Value::Nil,
                },
            }),
            Value::Own(path) => match key.lossy() {
                Some(name) => self.own_field(path, &name),
                None => Ok(Value::unknown("a part of the program")),
            },
            Value::Either(all) => {
                let mut out = Vec::new();
                for (why, value) in all.iter() {
                    out.push((Arc::clone(why), self.index(value, key)?));
                }
                Ok(Value::either(out))
            }
            Value::Unknown(why) => Ok(Value::Unknown(Arc::clone(why))),
            Value::Text(_) => Ok(match key.lossy() {
                Some(name) => Value::Own(format!("string.{name}").into()),
                None => Value::Nil,
            }),
            Value::Nil => {
                let name = key.lossy().unwrap_or_default();
                Err(Stop::Error(
                    format!("'{name}' is looked for in what is nil").into(),
                ))
            }
            _ => Err(Stop::Error("a field is looked for in what has none".into())),
        }
    }

    pub(super) fn set_index(
        &mut self,
        inner: &Value,
        key: &Value,
        value: Value,
        source: Option<Text>,
    ) -> Run<()> {
        match inner {
            Value::Table(table) => {
                if let Some(key) = key.key() {
                    self.store.set(*table, key, value);
                }
                Ok(())
            }
            Value::Own(path) => {
                let Some(name) = key.lossy() else {
                    return Ok(());
                };
                self.set_own_field(&Rc::clone(path), &name, value, source)
            }
            Value::Nil => Err(Stop::Error("a field is set of what is nil".into())),
            _ => Ok(()),
        }
    }

    fn binary(
        &mut self,
        left: &Expression,
        sign: Sign,
        right: &Expression,
        ground: &Ground,
        scope: Table,
    ) -> Run<Value> {
        let a = self.one(left, ground, scope)?;
        if matches!(sign, Sign::And | Sign::Or) {
            let wants = sign == Sign::And;
            return match a.holds() {
                Truth::Yes if wants => self.one(right, ground, scope),
                Truth::No if !wants => self.one(right, ground, scope),
                Truth::Yes | Truth::No => Ok(a),
                Truth::Open(yes, no) => {
                    let b = self.one(right, ground, scope)?;
                    // What it is when the left side is what counts.
                    let kept = match (&a, wants) {
                        (Value::Either(all), _) => {
                            let fits = |v: &Value| matches!(v.holds(), Truth::Yes) != wants;
                            let kept = all.iter().filter(|(_, v)| fits(v)).cloned().collect();
                            Value::either(kept)
                        }
                        (_, true) => Value::Bool(false),
                        (other, false) => other.clone(),
                    };
                    if matches!((&kept, &b), (Value::Unknown(_), _)) && !wants {
                        return Ok(kept);
                    }
                    Ok(match wants {
                        true => Value::either(vec![(yes, b), (no, kept)]),
                        false => Value::either(vec![(yes, kept), (no, b)]),
                    })
                }
            };
        }
        let b = self.one(right, ground, scope)?;
        Ok(a.map(&mut |a| b.map(&mut |b| operation(a, sign, b))))
    }
}

fn operation(a: &Value, sign: Sign, b: &Value) -> Value {
    for value in [a, b] {
        if matches!(value, Value::Unknown(_)) {
            return open(value);
        }
    }
    match sign {
        Sign::Equal | Sign::Unequal => {
            let same = match (a, b) {
                (Value::Text(a), Value::Text(b)) => a.bytes == b.bytes,
                _ => a.same(b),
            };
            Value::Bool(same == (sign == Sign::Equal))
        }
        Sign::Join => match (a.as_text(), b.as_text()) {
            (Some(mut a), Some(b)) => {
                a.push(&b);
                Value::Text(a)
            }
            _ => open(a),
        },
        Sign::Less | Sign::LessOrEqual | Sign::Greater | Sign::GreaterOrEqual => {
            let order = match (a, b) {
                (Value::Number(a), Value::Number(b)) => a.partial_cmp(b),
                (Value::Text(a), Value::Text(b)) => Some(a.bytes.cmp(&b.bytes)),
                _ => None,
            };
            let Some(order) = order else { return open(a) };
            Value::Bool(match sign {
                Sign::Less => order.is_lt(),
                Sign::LessOrEqual => order.is_le(),
                Sign::Greater => order.is_gt(),
                _ => order.is_ge(),
            })
        }
        _ => {
            let (Some(a), Some(b)) = (a.as_number(), b.as_number()) else {
                return open(a);
            };
            Value::Number(match sign {
                Sign::Add => a + b,
                Sign::Subtract => a - b,
                Sign::Multiply => a * b,
                Sign::Divide => a / b,
                Sign::Modulo => a - (a / b).floor() * b,
                _ => a.powf(b),
            })
        }
    }
}

/// A value as `tostring` writes it.
pub(super) fn written(value: &Value) -> Value {
    match value {
        Value::Nil => Value::text("nil"),
        Value::Bool(b) => Value::text(if *b { "true" } else { "false" }),
        Value::Number(n) => Value::text(&spelled(*n)),
        Value::Text(_) | Value::Unknown(_) => value.clone(),
        _ => Value::unknown("where something is kept"),
    }
}
