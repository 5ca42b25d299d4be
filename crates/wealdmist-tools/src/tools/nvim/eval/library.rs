//! What Lua has by itself.

use std::rc::Rc;
use std::sync::Arc;

use super::Editor;
use super::flow::{Run, Stop};
use super::value::{Key, Truth, Value, open, spelled};
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;

/// The variables that are there from the beginning.
pub(super) const GLOBALS: &[&str] = &[
    "vim",
    "require",
    "pcall",
    "xpcall",
    "ipairs",
    "pairs",
    "next",
    "type",
    "tostring",
    "tonumber",
    "print",
    "error",
    "assert",
    "select",
    "unpack",
    "setmetatable",
    "getmetatable",
    "rawget",
    "rawset",
    "rawequal",
    "dofile",
    "loadfile",
    "load",
    "loadstring",
    "string",
    "table",
    "math",
    "os",
    "io",
    "package",
    "debug",
    "jit",
    "bit",
    "coroutine",
    "collectgarbage",
    "_VERSION",
];

impl Editor<'_> {
    /// Calls something of the program's own.
    pub(super) fn own(&mut self, path: &str, given: Vec<Value>) -> Run<Vec<Value>> {
        let first = given.first().cloned().unwrap_or(Value::Nil);
        let second = given.get(1).cloned().unwrap_or(Value::Nil);
        Ok(vec![match path {
            "require" => return self.require(&first).map(|v| vec![v]),
            "pcall" | "xpcall" => {
                let rest = given
                    .into_iter()
                    .skip(if path == "pcall" { 1 } else { 2 })
                    .collect();
                return self.tried(&first, rest);
            }
            "pairs" => return Ok(vec![Value::Own("next".into()), first]),
            "ipairs" => return Ok(vec![Value::Own("\0inext".into()), first]),
            "next" => match &first {
                Value::Table(table) => {
                    let any = self.store.pairs(*table).into_iter().next();
                    match (any, second) {
                        (None, _) => Value::Nil,
                        (Some((Key::Text(text), _)), Value::Nil) => Value::text(&text),
                        (Some((Key::Number(n), _)), Value::Nil) => Value::Number(n as f64),
                        _ => Value::unknown("the next field"),
                    }
                }
                _ => open(&first),
            },
            "type" => first.map(&mut |v| match v {
                Value::Nil => Value::text("nil"),
                Value::Bool(_) => Value::text("boolean"),
                Value::Number(_) => Value::text("number"),
                Value::Text(_) => Value::text("string"),
                Value::Table(_) => Value::text("table"),
                Value::Function(_) => Value::text("function"),
                Value::Own(path)
                    if !path.contains('.')
                        && path.as_ref() != "require"
                        && path.as_ref() != "pcall" =>
                {
                    Value::text(if is_table(path) { "table" } else { "function" })
                }
                Value::Own(_) => Value::text("function"),
                other => other.clone(),
            }),
            "tostring" => first.map(&mut super::lua::written),
            "tonumber" => match second.as_number() {
                None => first.map(&mut |v| match v {
                    Value::Unknown(_) => v.clone(),
                    v => v.as_number().map_or(Value::Nil, Value::Number),
                }),
                Some(base) => {
                    let text = first.lossy().unwrap_or_default();
                    let number = u64::from_str_radix(
                        text.trim_start_matches("0x"),
                        (base as u32).clamp(2, 36),
                    );
                    number.map_or(Value::Nil, |n| Value::Number(n as f64))
                }
            },
            "error" => {
                let what = first.lossy().unwrap_or_else(|| "an error".to_owned());
                return Err(Stop::Error(what.into()));
            }
            "assert" => match first.holds() {
                Truth::No => return Err(Stop::Error("an assertion fails".into())),
                _ => return Ok(given),
            },
            "select" => match (first.lossy().as_deref(), first.as_number()) {
                (Some("#"), _) => Value::Number(given.len() as f64 - 1.0),
                (_, Some(n)) if n >= 1.0 => {
                    return Ok(given.into_iter().skip(n as usize).collect());
                }
                _ => open(&first),
            },
            "unpack" | "table.unpack" => match first {
                Value::Table(table) => return Ok(self.store.elements(table)),
                other => open(&other),
            },
            "setmetatable" => {
                if let (Value::Table(table), Value::Table(meta)) = (&first, &second) {
                    // What a table has that others lend it.
                    if let Value::Table(index) = self.store.field(*meta, "__index") {
                        for (key, value) in self.store.pairs(index) {
                            if !self.store.has(*table, &key) {
                                self.store.set(*table, key, value);
                            }
                        }
                    } else if !matches!(self.store.field(*meta, "__index"), Value::Nil) {
                        return Ok(vec![Value::unknown("a table with rules of its own")]);
                    }
                }
                first
            }
            "getmetatable" => Value::Nil,
            "rawget" => return self.index(&first, &second).map(|v| vec![v]),
            "rawset" => {
                let value = given.get(2).cloned().unwrap_or(Value::Nil);
                self.set_index(&first, &second, value, None)?;
                first
            }
            "dofile" => {
                let name = first.lossy().unwrap_or_default();
                return self
                    .source(&name)
                    .map(|()| vec![Value::unknown("what a file gives")]);
            }
            "print" | "collectgarbage" => Value::Nil,
            "string.format" => formatted(&given),
            "table.insert" => {
                if let Value::Table(table) = &first {
                    let n = self.store.length(*table);
                    match given.get(2) {
                        None => self.store.set(*table, Key::Number(n + 1), second),
                        Some(value) => {
                            let at = second.as_number().unwrap_or(0.0) as i64;
                            let mut i = n;
                            while i >= at.max(1) {
                                let moved = self.store.get(*table, &Key::Number(i));
                                self.store.set(*table, Key::Number(i + 1), moved);
                                i -= 1;
                            }
                            self.store.set(*table, Key::Number(at), value.clone());
                        }
                    }
                }
                Value::Nil
            }
            "table.concat" => match &first {
                Value::Table(table) => {
                    let between = second.as_text().unwrap_or_default();
                    Value::Text(self.store.joined(*table, &between))
                }
                other => open(other),
            },
            "table.remove" | "table.sort" => Value::unknown("an order"),
            "math.floor" => first.map(&mut |v| {
                v.as_number()
                    .map_or_else(|| open(v), |n| Value::Number(n.floor()))
            }),
            "math.ceil" => first.map(&mut |v| {
                v.as_number()
                    .map_or_else(|| open(v), |n| Value::Number(n.ceil()))
            }),
            "math.abs" => first.map(&mut |v| {
                v.as_number()
                    .map_or_else(|| open(v), |n| Value::Number(n.abs()))
            }),
            "math.max" | "math.min" => {
                let all: Option<Vec<f64>> = given.iter().map(Value::as_number).collect();
                match all {
                    Some(all) if path == "math.max" => {
                        Value::Number(all.into_iter().fold(f64::MIN, f64::max))
                    }
                    Some(all) => Value::Number(all.into_iter().fold(f64::MAX, f64::min)),
                    None => open(&first),
                }
            }
            "os.getenv" => {
                let name = first.lossy().unwrap_or_default();
                match self.environment(&name) {
                    Value::Text(text) if text.bytes.is_empty() => Value::Nil,
                    other => other,
                }
            }
            p if p.starts_with("string.") => self.of_text(&p[7..], &given),
            p if p.starts_with("vim.") => return self.api(&p[4..], given),
            p => Value::unknown(&format!("what {p} gives")),
        }])
    }

    /// A method of something.
    pub(super) fn method(
        &mut self,
        object: &Value,
        name: &str,
        given: Vec<Value>,
    ) -> Run<Vec<Value>> {
        if let Value::Own(path) = object
            && let Some(option) = path
                .strip_prefix("vim.opt.")
                .or_else(|| path.strip_prefix("vim.opt_global."))
        {
            return self.option_method(option, name, &given).map(|v| vec![v]);
        }
        let callee = match object {
            Value::Text(_) => Value::Own(format!("string.{name}").into()),
            Value::Number(_) => return Ok(vec![Value::unknown("a part of a number")]),
            other => self.index(other, &Value::text(name))?,
        };
        let mut all = vec![object.clone()];
        all.extend(given);
        self.call(&callee, all)
    }

    /// What is done with a text.
    fn of_text(&mut self, name: &str, given: &[Value]) -> Value {
        let first = given.first().cloned().unwrap_or(Value::Nil);
        let Some(text) = first.as_text() else {
            return open(&first);
        };
        if let Some(why) = &text.unknown {
            return Value::Unknown(Arc::clone(why));
        }
        let number = |i: usize| given.get(i).and_then(Value::as_number).map(|n| n as i64);
        match name {
            "upper" => Value::text(&text.lossy().to_uppercase()),
            "lower" => Value::text(&text.lossy().to_lowercase()),
            "len" => Value::Number(text.bytes.len() as f64),
            "rep" => {
                let mut out = Text::default();
                for _ in 0..number(1).unwrap_or(0).clamp(0, 1000) {
                    out.push(&text);
                }
                Value::Text(out)
            }
            "sub" => {
                let length = text.bytes.len() as i64;
                let place = |n: i64| {
                    if n < 0 {
                        (length + n + 1).max(1)
                    } else {
                        n.max(1)
                    }
                };
                let start = place(number(1).unwrap_or(1));
                let end = match number(2) {
                    Some(n) if n < 0 => length + n + 1,
                    Some(n) => n.min(length),
                    None => length,
                };
                match start <= end && start <= length {
                    true => Value::Text(text.part(start as usize - 1..end as usize)),
                    false => Value::text(""),
                }
            }
            "find" | "match" | "gsub" | "gmatch" => {
                let pattern = given.get(1).and_then(Value::lossy);
                let plain = |p: &str| {
                    p.chars().all(|c| {
                        c.is_ascii_alphanumeric() || matches!(c, ' ' | '_' | '/' | '#' | ':')
                    })
                };
                match pattern {
                    Some(pattern) if plain(&pattern) && name == "find" => {
                        let at = text.lossy().find(&pattern);
                        at.map_or(Value::Nil, |i| Value::Number(i as f64 + 1.0))
                    }
                    Some(pattern) if plain(&pattern) && name == "match" => {
                        match text.lossy().contains(&pattern) {
                            true => Value::text(&pattern),
                            false => Value::Nil,
                        }
                    }
                    Some(pattern) if plain(&pattern) && name == "gsub" => {
                        let with = given.get(2).and_then(Value::lossy);
                        with.map_or_else(
                            || Value::unknown("a replacement"),
                            |with| Value::text(&text.lossy().replace(&pattern, &with)),
                        )
                    }
                    _ => Value::unknown("a pattern"),
                }
            }
            _ => Value::unknown(&format!("what {name} makes of a text")),
        }
    }

    /// Calls something whose errors are caught.
    fn tried(&mut self, callee: &Value, given: Vec<Value>) -> Run<Vec<Value>> {
        let base = self.parked.len();
        let before = self.trying;
        self.trying += 1;
        let outcome = self.call(callee, given);
        self.trying = before;
        // What is given says first whether there was none.
        let told = |stop: Stop| match stop {
            Stop::Error(what) => Stop::Return(vec![Value::Bool(false), Value::text(&what)]),
            Stop::Return(mut values) => {
                values.insert(0, Value::Bool(true));
                Stop::Return(values)
            }
            other => other,
        };
        for park in &mut self.parked[base..] {
            park.stop = told(park.stop.clone());
        }
        let outcome = match outcome {
            // Whether a module is there may not be known.
            Ok(values) => match (values.as_slice(), callee) {
                ([Value::Unknown(why)], Value::Own(path)) if &**path == "require" => {
                    let open = Value::Unknown(Arc::clone(why));
                    Stop::Return(vec![open.clone(), open])
                }
                _ => told(Stop::Return(values)),
            },
            Err(stop) => told(stop),
        };
        match self.boundary(base, Err(outcome), &|s| matches!(s, Stop::Return(_))) {
            Ok(values) | Err(Stop::Return(values)) => Ok(values),
            Err(stop) => Err(stop),
        }
    }

    /// Loads a module.
    fn require(&mut self, name: &Value) -> Run<Value> {
        let Some(name) = name.as_text().filter(|t| t.unknown.is_none()) else {
            let why: Why = "a module, and it is not known which".into();
            self.open(&why);
            return Ok(Value::Unknown(why));
        };
        let name = name.lossy();
        let loaded = self.store.field(self.tables.loaded, &name);
        match loaded {
            Value::Nil => {}
            Value::Own(mark) if &*mark == LOADING => {
                return Err(Stop::Error(
                    format!("the module '{name}' loads itself").into(),
                ));
            }
            // Where it was not loaded before, it is loaded now.
            Value::Either(all) if all.iter().any(|(_, v)| matches!(v, Value::Nil)) => {
                let whys: Vec<Why> = all.iter().map(|(why, _)| Arc::clone(why)).collect();
                self.fork(&whys, &mut |this, side| {
                    let was = all[side].1.clone();
                    this.store.put(this.tables.loaded, &name, was);
                    this.require(&Value::text(&name)).map(|_| ())
                })?;
                return Ok(self.store.field(self.tables.loaded, &name));
            }
            loaded => return Ok(loaded),
        }
        if name == "vim" || name.starts_with("vim.") {
            return Ok(Value::Own(name.as_str().into()));
        }
        let relative = name.replace('.', "/");
        let chain = self.chain();
        for folder in [self.folder.clone(), self.folder.join("after")] {
            for end in [".lua", "/init.lua"] {
                let path = folder.join("lua").join(format!("{relative}{end}"));
                if !self.exists(&path) {
                    continue;
                }
                self.store
                    .put(self.tables.loaded, &name, Value::Own(LOADING.into()));
                let values = self.module(&path, &chain)?;
                let value = match values.into_iter().next() {
                    Some(Value::Nil) | None => Value::Bool(true),
                    Some(value) => value,
                };
                self.store.put(self.tables.loaded, &name, value.clone());
                return Ok(value);
            }
        }
        // A plugin may bring it.
        let data = self.data_home();
        let mut found = !self
            .access
            .glob(&data.join(format!("site/pack/*/*/*/lua/{relative}*")))
            .is_empty();
        found |= self
            .access
            .glob(&data.join(format!("*/*/lua/{relative}*")))
            .into_iter()
            .next()
            .is_some();
        if found || self.plugins.is_some() {
            let why: Why = format!("the module {name} of a plugin").into();
            self.open(&why);
            return Ok(Value::Unknown(why));
        }
        Err(Stop::Error(format!("there is no module '{name}'").into()))
    }
}

/// What stands for a module while it is loaded.
const LOADING: &str = "\0loading";

/// Whether something of the program's own is a table of others.
fn is_table(path: &str) -> bool {
    matches!(
        path,
        "vim"
            | "string"
            | "table"
            | "math"
            | "os"
            | "io"
            | "package"
            | "debug"
            | "jit"
            | "bit"
            | "coroutine"
    )
}

/// `string.format` with the signs that colors need.
fn formatted(given: &[Value]) -> Value {
    let Some(Value::Text(format)) = given.first() else {
        return Value::unknown("a format");
    };
    let (mut out, mut at, mut next) = (Text::default(), 0, 1);
    let bytes = &format.bytes;
    while at < bytes.len() {
        if bytes[at] != b'%' {
            out.push(&format.part(at..at + 1));
            at += 1;
            continue;
        }
        let flags = bytes[at + 1..]
            .iter()
            .take_while(|b| b.is_ascii_digit() || **b == b'-')
            .count();
        let width = String::from_utf8_lossy(&bytes[at + 1..at + 1 + flags]).into_owned();
        let sign = bytes.get(at + 1 + flags).copied().unwrap_or(b'%');
        at += flags + 2;
        if sign == b'%' {
            out.push(&Text::nowhere("%"));
            continue;
        }
        let value = given.get(next).cloned().unwrap_or(Value::Nil);
        next += 1;
        if matches!(value, Value::Unknown(_) | Value::Either(_)) {
            return open(&value);
        }
        let padded = |text: String| {
            let least: usize = width.trim_start_matches('0').parse().unwrap_or(0);
            match width.starts_with('0') {
                true => format!("{text:0>least$}"),
                false => format!("{text:>least$}"),
            }
        };
        let text = match (sign, value.as_number(), value.as_text()) {
            (b's', _, Some(text)) => text,
            (b's', _, None) => match super::lua::written(&value) {
                Value::Text(text) => text,
                other => return open(&other),
            },
            (b'd', Some(n), _) => Text::nowhere(&padded(spelled(n.trunc()))),
            (b'x', Some(n), _) => Text::nowhere(&padded(format!("{:x}", n as i64))),
            (b'X', Some(n), _) => Text::nowhere(&padded(format!("{:X}", n as i64))),
            _ => return Value::unknown("a format"),
        };
        out.push(&text);
    }
    Value::Text(out)
}

/// Commands given to the editor as text.
pub(super) fn commands(value: &Value) -> Option<Rc<Text>> {
    value.as_text().map(Rc::new)
}
