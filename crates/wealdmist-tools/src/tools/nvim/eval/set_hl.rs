//! `nvim_set_hl`: a group is given everything at once.

use std::sync::Arc;

use wealdmist_core::color::Rgb;

use super::Editor;
use super::flow::{Run, Stop};
use super::groups::{ALSO, KEYS, WORDS, color};
use super::highlight::{alone, of_normal};
use super::parts::{Part, SHOWN};
use super::value::{Key, Truth, Value};
use crate::evaluated::text::Text;

impl Editor<'_> {
    /// `nvim_set_hl`
    pub(super) fn set_group(&mut self, group: &str, table: super::value::Table) -> Run<()> {
        let fields = self.store.pairs(table);
        let field = |name: &str| {
            let found = fields.iter().find(|(k, _)| k.is(name));
            found.map(|f| f.1.clone())
        };
        for (key, value) in &fields {
            let Key::Text(name) = key else {
                return Err(Stop::Error("a group's colors are fields with names".into()));
            };
            if !KEYS.contains(&&**name) {
                return Err(Stop::Error(format!("invalid key: {name}").into()));
            }
            let is_color = matches!(
                &**name,
                "fg" | "bg" | "sp" | "foreground" | "background" | "special"
            );
            let fits = |v: &Value| match v {
                Value::Text(text) => text.unknown.is_some() || self.fits(&text.lossy()),
                Value::Number(_) | Value::Unknown(_) | Value::Either(_) => true,
                _ => false,
            };
            if is_color && let Some(open) = self.fits_perhaps(value) {
                return self.decide(open, &mut |this, yes| match yes {
                    true => {
                        let settled = this.normal_settled(value);
                        let plain = this.store.table();
                        for (k, v) in &fields {
                            let v = if k == key { settled.clone() } else { v.clone() };
                            this.store.set(plain, k.clone(), v);
                        }
                        this.set_group(group, plain)
                    }
                    false => Err(Stop::Error("it is not a valid color".into())),
                });
            }
            if is_color && !fits(value) {
                let said = value.lossy().unwrap_or_default();
                return Err(Stop::Error(format!("'{said}' is not a valid color").into()));
            }
        }
        if matches!(field("default"), Some(Value::Bool(true))) {
            match self.has_settings(group, true) {
                Some(true) => return Ok(()),
                Some(false) => {}
                None => {
                    let plain = self.store.table();
                    for (key, value) in fields {
                        if !key.is("default") {
                            self.store.set(plain, key, value);
                        }
                    }
                    return self.fork(&alone(group), &mut |this, side| match side {
                        0 => this.set_group(group, plain),
                        _ => Ok(()),
                    });
                }
            }
        }
        if let Some(link) = field("link").or_else(|| field("global_link")) {
            if let Value::Text(text) = link {
                self.set_part(group, Part::Link, Value::Text(text));
            }
            return Ok(());
        }
        let mut before = [Value::Nil, Value::Nil];
        if group.eq_ignore_ascii_case("normal") {
            before = [Part::Text, Part::Ground].map(|p| self.part(group, p));
            self.keep_of_normal();
        }
        for part in SHOWN.into_iter().chain([Part::Link]) {
            self.set_part(group, part, Value::Bool(false));
        }
        self.set_part(group, Part::Frozen, Value::Nil);
        let words = self.words_of(&fields);
        self.set_part(group, Part::Words, words);
        if let Some(special) = field("sp").or_else(|| field("special")) {
            let special = match special {
                Value::Number(n) => {
                    let color = Rgb::from_u32(n.max(0.0) as u32 & 0x00ff_ffff);
                    Value::text(&color.to_string())
                }
                other => other,
            };
            self.set_part(group, Part::Special, special);
        }
        let plain = [
            "fg",
            "bg",
            "foreground",
            "background",
            "default",
            "sp",
            "special",
        ];
        let is_word = |k: &Key| {
            let all = WORDS.into_iter().chain(ALSO.map(|a| a.0));
            all.into_iter().any(|word| k.is(word))
        };
        // What is said by default counts as said, also where it says no color.
        let more = fields
            .iter()
            .any(|(k, _)| !plain.iter().any(|p| k.is(p)) && !is_word(k))
            || matches!(field("default"), Some(Value::Bool(true)));
        self.set_part(group, Part::More, Value::Bool(more));
        for (part, names) in [
            (Part::Text, ["fg", "foreground"]),
            (Part::Ground, ["bg", "background"]),
        ] {
            let Some(value) = field(names[0]).or_else(|| field(names[1])) else {
                continue;
            };
            let own = group.eq_ignore_ascii_case("normal");
            match value {
                // What Normal has of itself is what it had.
                value if own && of_normal(&value).is_some() => {
                    let side = of_normal(&value) == Some(Part::Ground);
                    self.set_part(group, part, before[usize::from(side)].clone());
                }
                Value::Text(text) => self.write(group, part, text),
                Value::Number(n) => {
                    let color = Rgb::from_u32(n.max(0.0) as u32 & 0x00ff_ffff).to_string();
                    let text = self.placed(&Text::nowhere(&color));
                    self.write(group, part, text);
                }
                other => {
                    let mut each = other.map(&mut |v| match v {
                        Value::Number(n) => {
                            Value::text(&Rgb::from_u32(n.max(0.0) as u32 & 0x00ff_ffff).to_string())
                        }
                        Value::Nil => Value::Bool(false),
                        v => v.clone(),
                    });
                    if let Value::Table(_) = each {
                        each = Value::Bool(false);
                    }
                    self.set_part(group, part, each);
                }
            }
        }
        Ok(())
    }

    /// On what it depends whether a color of Normal is one; `None` where it depends on nothing.
    fn fits_perhaps(&self, value: &Value) -> Option<Truth> {
        let side = of_normal(value)?;
        let is_one = self.normal(side).map(&mut |v| match v {
            Value::Text(text) => Value::Bool(color(&text.lossy()).is_some()),
            Value::Bool(_) => Value::Bool(false),
            Value::Unknown(why) => Value::Unknown(Arc::clone(why)),
            _ => Value::Bool(true),
        });
        match is_one.truth(&super::expression::is_true) {
            open @ Truth::Open(..) if matches!(is_one, Value::Either(_)) => Some(open),
            _ => None,
        }
    }

    /// A color of Normal where it is one.
    fn normal_settled(&self, value: &Value) -> Value {
        let side = of_normal(value).unwrap_or(Part::Text);
        match self.normal(side) {
            Value::Either(all) => {
                let one = all.iter().map(|(_, v)| v);
                let mut one = one.filter(|v| matches!(v, Value::Text(_) | Value::Own(_)));
                one.next().cloned().unwrap_or(Value::Nil)
            }
            other => other,
        }
    }

    /// The attributes that `nvim_set_hl` is given, in the words of `:highlight`, with the place of the call.
    fn words_of(&self, fields: &[(Key, Value)]) -> Value {
        let mut words = Vec::new();
        for word in WORDS.into_iter().chain(ALSO.map(|a| a.0)) {
            let found = fields.iter().find(|(k, _)| k.is(word));
            match found.map(|f| &f.1) {
                Some(Value::Bool(true)) => words.push(word),
                Some(Value::Number(n)) if *n != 0.0 => words.push(word),
                Some(Value::Unknown(why)) => return Value::Unknown(Arc::clone(why)),
                Some(Value::Either(_)) => return Value::unknown("attributes under a condition"),
                _ => {}
            }
        }
        match words.is_empty() {
            true => Value::Bool(false),
            false => Value::Text(self.placed(&Text::nowhere(&words.join(",")))),
        }
    }

    /// What others have of Normal stays, where that is set in this way.
    fn keep_of_normal(&mut self) {
        for name in self.touched() {
            for part in [Part::Text, Part::Ground] {
                let said = self.said(&name, part).clone();
                if of_normal(&said).is_some() && !name.eq_ignore_ascii_case("normal") {
                    let now = self.colored(&name, part);
                    self.keep_said(&name, part, now, said);
                }
            }
        }
    }
}
