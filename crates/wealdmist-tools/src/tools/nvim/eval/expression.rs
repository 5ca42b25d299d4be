//! The editor's own command language: expressions.

use std::sync::Arc;

use super::Editor;
use super::flow::{Run, Stop};
use super::script::{GAP, Place};
use super::value::{Key, Truth, Value, open, open_of};
use crate::access::Variable;
use crate::document::vim::Expression;
use crate::evaluated::text::Text;

/// Whether a value that is known holds.
pub(super) fn is_true(value: &Value) -> Option<bool> {
    match value {
        Value::Bool(b) => Some(*b),
        Value::Text(text) if text.unknown.is_some() => None,
        Value::Nil => Some(false),
        other => Some(number(other)? != 0.0),
    }
}

/// A value as a number: a text by the digits it begins with.
pub(super) fn number(value: &Value) -> Option<f64> {
    match value {
        Value::Number(n) => Some(*n),
        Value::Bool(b) => Some(f64::from(u8::from(*b))),
        Value::Text(text) if text.unknown.is_none() => {
            let text = text.lossy();
            let sign = usize::from(text.starts_with('-'));
            let digits = text[sign..].bytes().take_while(u8::is_ascii_digit).count();
            Some(text[..sign + digits].parse().unwrap_or(0.0))
        }
        _ => None,
    }
}

/// A value as text; what is not known of it leaves a gap.
pub(super) fn as_gap(value: &Value) -> Text {
    match value {
        Value::Bool(b) => Text::nowhere(if *b { "1" } else { "0" }),
        Value::Unknown(why) => Text::nowhere(&GAP.to_string()).not_known(why),
        Value::Either(all) => {
            let why = all
                .first()
                .map_or_else(|| "a value".into(), |a| Arc::clone(&a.0));
            Text::nowhere(&GAP.to_string()).not_known(&why)
        }
        other => other.as_text().unwrap_or_else(|| {
            Text::nowhere(&GAP.to_string()).not_known(&"a value that is no text".into())
        }),
    }
}

/// Two values and what stands between them.
pub(super) fn operation(a: &Value, sign: &str, b: &Value) -> Value {
    a.map(&mut |a| b.map(&mut |b| one(a, sign, b)))
}

fn one(a: &Value, sign: &str, b: &Value) -> Value {
    let truth = |b: bool| Value::Number(f64::from(u8::from(b)));
    if matches!(sign, "." | "..") {
        let mut text = as_gap(a);
        text.push(&as_gap(b));
        return Value::Text(text);
    }
    let unknown = |v: &Value| {
        matches!(
            v,
            Value::Unknown(_)
                | Value::Text(Text {
                    unknown: Some(_),
                    ..
                })
        )
    };
    if unknown(a) || unknown(b) {
        return open_of(a, b);
    }
    let plain = sign.trim_end_matches(['#', '?']);
    let compared = || match (a, b) {
        (Value::Text(a), Value::Text(b)) => {
            let (a, b) = (a.lossy(), b.lossy());
            match sign.ends_with('?') {
                true => Some(a.to_lowercase().cmp(&b.to_lowercase())),
                false => Some(a.cmp(&b)),
            }
        }
        (Value::Table(_), _) | (_, Value::Table(_)) => None,
        _ => number(a)?.partial_cmp(&number(b)?),
    };
    match plain {
        "==" | "!=" | ">" | ">=" | "<" | "<=" | "is" | "isnot" => {
            let Some(order) = compared() else {
                return open_of(a, b);
            };
            truth(match plain {
                "==" | "is" => order.is_eq(),
                "!=" | "isnot" => order.is_ne(),
                ">" => order.is_gt(),
                ">=" => order.is_ge(),
                "<" => order.is_lt(),
                _ => order.is_le(),
            })
        }
        "=~" | "!~" => match (a.lossy(), b.lossy()) {
            (Some(text), Some(pattern)) => match found(&pattern, &text, !sign.ends_with('?')) {
                Some(yes) => truth(yes == (plain == "=~")),
                None => Value::unknown("a pattern"),
            },
            _ => open_of(a, b),
        },
        "+" | "-" | "*" | "/" | "%" => {
            let (Some(a), Some(b)) = (number(a), number(b)) else {
                return open_of(a, b);
            };
            Value::Number(match plain {
                "+" => a + b,
                "-" => a - b,
                "*" => a * b,
                "/" if b == 0.0 => 0.0,
                "/" => (a / b).trunc(),
                _ if b == 0.0 => 0.0,
                _ => a % b,
            })
        }
        _ => open_of(a, b),
    }
}

/// Whether a plain pattern is found: letters, `^`, `$`, `.*` and `\|`; `None` for others.
fn found(pattern: &str, text: &str, exact: bool) -> Option<bool> {
    let (pattern, text) = match exact {
        true => (pattern.to_owned(), text.to_owned()),
        false => (pattern.to_lowercase(), text.to_lowercase()),
    };
    let one = |pattern: &str| {
        let start = pattern.starts_with('^');
        let end = pattern.ends_with('$');
        let inner = pattern.trim_start_matches('^').trim_end_matches('$');
        let plain = |p: &str| {
            p.chars()
                .all(|c| c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | ' ' | ':'))
        };
        let parts: Vec<&str> = inner.split(".*").collect();
        if !parts.iter().all(|p| plain(p)) {
            return None;
        }
        let stars = |b: bool| if b { "" } else { "*" };
        let wild = format!("{}{}{}", stars(start), parts.join("*"), stars(end));
        Some(crate::access::wildcard(&wild, &text))
    };
    let all: Option<Vec<bool>> = pattern.split("\\|").map(one).collect();
    Some(all?.contains(&true))
}

impl Editor<'_> {
    /// What an expression gives.
    pub(super) fn work_out(&mut self, it: &Expression, place: Place) -> Run<Value> {
        self.step()?;
        self.deeper(|this| this.worked(it, place))
            .unwrap_or_else(|| Ok(Value::unknown("an expression that is nested too deeply")))
    }

    fn worked(&mut self, it: &Expression, place: Place) -> Run<Value> {
        Ok(match it {
            Expression::Number(n) => Value::Number(*n),
            Expression::Text(bytes, map) => {
                Value::Text(place.ground.written(bytes, |i| map.get(i).copied()))
            }
            Expression::Name(name) => self.value_of(name, place)?,
            Expression::Option(name) => {
                let name = super::options::full_name(name);
                match self.store.field(self.tables.options, name) {
                    Value::Nil => self.option_by_itself(name),
                    Value::Bool(b) => Value::Number(f64::from(u8::from(b))),
                    other => other,
                }
            }
            Expression::Environment(name) => self.environment(name),
            Expression::List(all) => {
                let mut values = Vec::new();
                for one in all {
                    values.push(self.work_out(one, place)?);
                }
                self.store.list(values)
            }
            Expression::Dictionary(all) => {
                let table = self.store.table();
                for (key, value) in all {
                    let key = self.work_out(key, place)?;
                    let value = self.work_out(value, place)?;
                    if let Some(key) = key.lossy() {
                        self.store.put(table, &key, value);
                    }
                }
                Value::Table(table)
            }
            Expression::Index(inner, key) => {
                let inner = self.work_out(inner, place)?;
                let key = self.work_out(key, place)?;
                self.member(&inner, &key)?
            }
            Expression::Dot(inner, name) => {
                let left = self.work_out(inner, place)?;
                match left {
                    Value::Table(_) | Value::Either(_) => self.member(&left, &Value::text(name))?,
                    Value::Unknown(_) => left,
                    text => {
                        let right = self.value_of(name, place)?;
                        operation(&text, ".", &right)
                    }
                }
            }
            Expression::Call(callee, given) => {
                let mut values = Vec::new();
                // `exists(…)` may be asked about what is not there.
                for one in given {
                    values.push(self.work_out(one, place)?);
                }
                match &**callee {
                    Expression::Name(name) => self.call_named(name, values, place)?,
                    _ => Value::unknown("what a function gives"),
                }
            }
            Expression::Method(first, name, given) => {
                let mut values = vec![self.work_out(first, place)?];
                for one in given {
                    values.push(self.work_out(one, place)?);
                }
                self.call_named(name, values, place)?
            }
            Expression::Not(inner) => {
                let inner = self.work_out(inner, place)?;
                inner.map(&mut |v| match is_true(v) {
                    Some(yes) => Value::Number(f64::from(u8::from(!yes))),
                    None => open(v),
                })
            }
            Expression::Minus(inner) => {
                let inner = self.work_out(inner, place)?;
                inner.map(&mut |v| number(v).map_or_else(|| open(v), |n| Value::Number(-n)))
            }
            Expression::Choice(condition, yes, no) => {
                let truth = self.work_out(condition, place)?.truth(&is_true);
                match truth {
                    Truth::Yes => self.work_out(yes, place)?,
                    Truth::No => self.work_out(no, place)?,
                    Truth::Open(when, unless) => {
                        let yes = self.work_out(yes, place)?;
                        let no = self.work_out(no, place)?;
                        Value::either(vec![(when, yes), (unless, no)])
                    }
                }
            }
            Expression::Binary(left, sign, right) if sign == "&&" || sign == "||" => {
                let wants = sign == "&&";
                let truth = |yes: bool| Value::Number(f64::from(u8::from(yes)));
                let a = self.work_out(left, place)?;
                match a.truth(&is_true) {
                    Truth::Yes if !wants => truth(true),
                    Truth::No if wants => truth(false),
                    Truth::Open(yes, no) => {
                        let b = self.work_out(right, place)?;
                        match (b.truth(&is_true), wants) {
                            (Truth::Yes, false) => truth(true),
                            (Truth::No, true) => truth(false),
                            _ => match wants {
                                true => Value::either(vec![(yes, b), (no, truth(false))]),
                                false => Value::either(vec![(yes, truth(true)), (no, b)]),
                            },
                        }
                    }
                    _ => {
                        let b = self.work_out(right, place)?;
                        b.map(&mut |b| is_true(b).map_or_else(|| open(b), truth))
                    }
                }
            }
            Expression::Binary(left, sign, right) => {
                let a = self.work_out(left, place)?;
                let b = self.work_out(right, place)?;
                operation(&a, sign, &b)
            }
            Expression::Other => Value::unknown("an expression that is not understood"),
        })
    }

    /// The value of a variable.
    fn value_of(&mut self, name: &str, place: Place) -> Run<Value> {
        match name {
            "v:true" => return Ok(Value::Bool(true)),
            "v:false" | "v:null" => return Ok(Value::Bool(false)),
            "v:version" => return Ok(Value::Number(801.0)),
            "version" if place.local == place.script => return Ok(Value::Number(801.0)),
            "v:vim_did_enter" => return Ok(Value::Number(0.0)),
            "g:" => return Ok(Value::Table(self.tables.g)),
            "s:" => return Ok(Value::Table(place.script)),
            _ => {}
        }
        if name.starts_with("v:") {
            return Ok(Value::unknown(&format!("the variable {name}")));
        }
        let (table, own) = self.variable_place(name, place);
        match self.store.field(table, &own) {
            Value::Nil if self.plugins.is_some() && table == self.tables.g => {
                Ok(Value::unknown(&format!("the variable {name}")))
            }
            Value::Nil => Err(Stop::Error(
                format!("the variable {name} is not set").into(),
            )),
            found => Ok(found),
        }
    }

    pub(super) fn environment(&self, name: &str) -> Value {
        let set = self.store.field(self.tables.own, &format!("env.{name}"));
        if !matches!(set, Value::Nil) {
            return set;
        }
        match name {
            "MYVIMRC" => {
                let first = self
                    .visits
                    .first()
                    .map(|v| v.file.path.display().to_string());
                return Value::text(&first.unwrap_or_default());
            }
            "VIMRUNTIME" => {
                let own = self
                    .runtime()
                    .map(|r| Value::text(&r.display().to_string()));
                return own.unwrap_or_else(|| Value::unknown("where the program's own files are"));
            }
            _ => {}
        }
        match self.access.variable(name) {
            Variable::Set(value) => Value::text(&value),
            Variable::Unset => Value::text(""),
            Variable::Unknown => Value::unknown(&format!("the variable {name}")),
        }
    }

    fn member(&mut self, inner: &Value, key: &Value) -> Run<Value> {
        match inner {
            Value::Table(table) => {
                let is_list = self.store.length(*table) > 0;
                let field = |key: &Value| {
                    let key = match key {
                        Value::Number(n) if is_list && *n >= 0.0 => {
                            Some(Key::Number(*n as i64 + 1))
                        }
                        Value::Number(n) if is_list => {
                            Some(Key::Number(self.store.length(*table) + *n as i64 + 1))
                        }
                        Value::Number(n) => Some(Key::text(&super::value::spelled(*n))),
                        other => other.key(),
                    };
                    key.map_or(Value::Nil, |key| self.store.get(*table, &key))
                };
                let value = key.map(&mut |k| match k {
                    Value::Unknown(why) => Value::Unknown(Arc::clone(why)),
                    known => field(known),
                });
                match value {
                    Value::Nil => Err(Stop::Error("a part is not there".into())),
                    found => Ok(found),
                }
            }
            Value::Either(all) => {
                let mut out = Vec::new();
                for (why, value) in all.iter() {
                    out.push((Arc::clone(why), self.member(value, key)?));
                }
                Ok(Value::either(out))
            }
            Value::Unknown(why) => Ok(Value::Unknown(Arc::clone(why))),
            _ => Ok(Value::unknown("a part of a text")),
        }
    }

    fn call_named(&mut self, name: &str, given: Vec<Value>, place: Place) -> Run<Value> {
        let own = self.function_name(name, place);
        let mut function = self.store.field(self.tables.functions, &own);
        if matches!(function, Value::Nil)
            && let Some((file, _)) = name.rsplit_once('#')
        {
            let path = self
                .folder
                .join("autoload")
                .join(format!("{}.vim", file.replace('#', "/")));
            let chain = self.chain();
            let _ = self.file(&path, &chain, false);
            function = self.store.field(self.tables.functions, &own);
        }
        match function {
            Value::Function(_) | Value::Either(_) => {
                let values = self.call(&function, given)?;
                Ok(values.into_iter().next().unwrap_or(Value::Number(0.0)))
            }
            Value::Unknown(why) => Ok(Value::Unknown(why)),
            _ => self.function(name, given),
        }
    }
}
