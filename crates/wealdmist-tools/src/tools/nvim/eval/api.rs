//! What the editor lends both languages: its options, variables, functions and calls.

use std::rc::Rc;
use std::sync::Arc;

use super::Editor;
use super::events::{Action, Autocommand};
use super::flow::{Run, Stop};
use super::library::commands;
use super::value::{Key, Table, Value, open};
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;

/// What came with a version: the parts of the program that older ones do not have.
const SINCE: &[(&str, (u32, u32))] = &[
    ("vim.cmd.", (0, 8)),
    ("vim.fs", (0, 8)),
    ("vim.secure", (0, 9)),
    ("vim.loader", (0, 9)),
    ("vim.version", (0, 9)),
    ("vim.iter", (0, 10)),
    ("vim.uv", (0, 10)),
    ("vim.snippet", (0, 10)),
    ("vim.system", (0, 10)),
    ("vim.ui.open", (0, 10)),
    ("vim.hl", (0, 11)),
    ("vim.api.nvim_cmd", (0, 8)),
    ("vim.api.nvim_get_hl", (0, 9)),
    ("vim.api.nvim_exec2", (0, 9)),
];

/// Where options are set.
const OPTIONS: &[&str] = &[
    "vim.o",
    "vim.opt",
    "vim.go",
    "vim.bo",
    "vim.wo",
    "vim.opt_local",
    "vim.opt_global",
];

impl Editor<'_> {
    /// A part of something of the program's own.
    pub(super) fn own_field(&mut self, path: &str, name: &str) -> Run<Value> {
        let whole = format!("{path}.{name}");
        let own = self.store.field(self.tables.own, &whole);
        if !matches!(own, Value::Nil) {
            return Ok(own);
        }
        if OPTIONS.contains(&path) {
            let name = super::options::full_name(name);
            if path.starts_with("vim.opt") {
                return Ok(Value::Own(format!("vim.opt.{name}").into()));
            }
            return Ok(match self.store.field(self.tables.options, name) {
                Value::Nil => self.option_by_itself(name),
                found => found,
            });
        }
        let since = SINCE.iter().find(|(p, _)| match p.strip_suffix('.') {
            Some(inner) => path == inner,
            None => whole == *p,
        });
        if let Some((_, since)) = since
            && self.version().is_some_and(|v| v < *since)
        {
            // The first `vim.cmd` was a function and nothing else.
            return match path == "vim.cmd" {
                true => Err(Stop::Error(
                    "'vim.cmd' has no fields in this version".into(),
                )),
                false => Ok(Value::Nil),
            };
        }
        Ok(match whole.as_str() {
            "vim.g" => Value::Table(self.tables.g),
            "vim.env" | "vim.v" | "vim.b" | "vim.w" | "vim.t" => Value::Own(whole.as_str().into()),
            "package.loaded" => Value::Table(self.tables.loaded),
            "package.path" => Value::text(""),
            "vim.v.vim_did_enter" => Value::Number(0.0),
            "math.huge" => Value::Number(f64::INFINITY),
            "vim.NIL" => Value::Nil,
            _ if path == "vim.env" => match self.environment(name) {
                Value::Text(text) if text.bytes.is_empty() => Value::Nil,
                found => found,
            },
            _ if matches!(path, "vim.v" | "vim.b" | "vim.w" | "vim.t") => {
                Value::unknown(&format!("the variable {}:{name}", &path[4..]))
            }
            _ => Value::Own(whole.as_str().into()),
        })
    }

    /// Sets a part of something of the program's own.
    pub(super) fn set_own_field(
        &mut self,
        path: &str,
        name: &str,
        value: Value,
        source: Option<Text>,
    ) -> Run<()> {
        if OPTIONS.contains(&path) {
            let local = matches!(path, "vim.bo" | "vim.wo" | "vim.opt_local");
            let global = matches!(
                super::options::full_name(name),
                "background" | "termguicolors" | "guifont"
            );
            return match local && !global {
                true => Ok(()),
                false => self.set_option(name, value, source),
            };
        }
        if path == "vim.env" {
            self.store
                .put(self.tables.own, &format!("env.{name}"), value);
            return Ok(());
        }
        if path == "vim" && name == "g" {
            return Ok(());
        }
        self.store
            .put(self.tables.own, &format!("{path}.{name}"), value);
        Ok(())
    }

    /// `vim.opt.x:append(…)` and its like.
    pub(super) fn option_method(
        &mut self,
        option: &str,
        name: &str,
        given: &[Value],
    ) -> Run<Value> {
        let now = self.store.field(self.tables.options, option);
        match name {
            "get" => Ok(match now {
                Value::Nil => Value::unknown(&format!("the option {option}")),
                found => found,
            }),
            "append" | "prepend" if option == "guifont" => {
                let added = given.first().and_then(Value::as_text).unwrap_or_default();
                let now = now.as_text().unwrap_or_default();
                let (mut first, second) = match name {
                    "append" => (now, added),
                    _ => (added, now),
                };
                if !first.bytes.is_empty() && !second.bytes.is_empty() {
                    first.push(&Text::nowhere(","));
                }
                first.push(&second);
                self.set_option(option, Value::Text(first), None)?;
                Ok(Value::Nil)
            }
            "append" | "prepend" if super::options::FOLDERS.contains(&option) => {
                self.set_option(option, Value::Nil, None)?;
                Ok(Value::Nil)
            }
            _ => Ok(Value::Nil),
        }
    }

    /// Calls a function of the editor's, named without `vim.`.
    pub(super) fn api(&mut self, name: &str, given: Vec<Value>) -> Run<Vec<Value>> {
        let first = given.first().cloned().unwrap_or(Value::Nil);
        let second = given.get(1).cloned().unwrap_or(Value::Nil);
        let one = match name {
            "cmd" | "api.nvim_command" | "api.nvim_exec" | "api.nvim_exec2" => {
                if let Value::Table(table) = first {
                    return self.command_table(table).map(|()| vec![Value::Nil]);
                }
                self.each_text(&first, &mut |this, text| this.lua_commands(text))?;
                Value::Nil
            }
            "api.nvim_cmd" => {
                if let Value::Table(table) = first {
                    self.command_table(table)?;
                }
                Value::Nil
            }
            n if n.starts_with("cmd.") => {
                let command = n[4..].to_owned();
                return self
                    .command_named(&command, &given)
                    .map(|()| vec![Value::Nil]);
            }
            "api.nvim_set_hl" => {
                let table = given.get(2).cloned().unwrap_or(Value::Nil);
                self.set_hl(&first, &second, &table)?;
                Value::Nil
            }
            "api.nvim_set_option" | "api.nvim_set_option_value" => {
                let name = first.lossy().unwrap_or_default();
                self.set_option(&name, second, None)?;
                Value::Nil
            }
            "api.nvim_get_option" | "api.nvim_get_option_value" => {
                let name = first.lossy().unwrap_or_default();
                return self.own_field("vim.o", &name).map(|v| vec![v]);
            }
            "api.nvim_set_var" => {
                if let Some(name) = first.lossy() {
                    self.store.put(self.tables.g, &name, second);
                }
                Value::Nil
            }
            "api.nvim_get_var" => match first.lossy() {
                Some(name) => match self.store.field(self.tables.g, &name) {
                    Value::Nil => {
                        return Err(Stop::Error(
                            format!("the variable {name} is not set").into(),
                        ));
                    }
                    found => found,
                },
                None => open(&first),
            },
            "api.nvim_create_augroup" => {
                let group = first.lossy().unwrap_or_default();
                let keeps = match &second {
                    Value::Table(table) => {
                        matches!(self.store.field(*table, "clear"), Value::Bool(false))
                    }
                    _ => false,
                };
                if !keeps {
                    self.forget(&group, &[], &[]);
                }
                self.augroups.push(group.clone());
                Value::text(&group)
            }
            "api.nvim_create_autocmd" => {
                self.create_autocommand(&first, &second)?;
                Value::Number(1.0)
            }
            "api.nvim_exec_autocmds" => {
                let events = self.texts(&first);
                let pattern = match &second {
                    Value::Table(table) => self.store.field(*table, "pattern"),
                    _ => Value::Nil,
                };
                let pattern = self.texts(&pattern).into_iter().next().unwrap_or_default();
                for event in events {
                    self.event(&event.to_ascii_lowercase(), &pattern)?;
                }
                Value::Nil
            }
            "api.nvim_clear_autocmds" => {
                if let Value::Table(table) = first {
                    let group = self.store.field(table, "group").lossy().unwrap_or_default();
                    self.forget(&group, &[], &[]);
                }
                Value::Nil
            }
            "api.nvim_call_function" => {
                let name = first.lossy().unwrap_or_default();
                let given = match &second {
                    Value::Table(table) => self.store.elements(*table),
                    _ => Vec::new(),
                };
                return self.vim_function(&name, given).map(|v| vec![v]);
            }
            "api.nvim_create_user_command" => {
                if let (Some(name), Value::Text(text)) = (first.lossy(), second) {
                    self.store
                        .put(self.tables.commands, &name, Value::Text(text));
                }
                Value::Nil
            }
            "schedule" | "defer_fn" => {
                // It is done as soon as the start is over.
                let why = self.whys.last().cloned();
                self.scheduled.push((first, why));
                Value::Nil
            }
            "schedule_wrap" => first,
            "tbl_extend" | "tbl_deep_extend" => {
                let out = self.store.table();
                let keeps = first.lossy().as_deref() == Some("keep");
                for one in given.iter().skip(1) {
                    match one {
                        Value::Table(table) => {
                            self.extend(out, *table, keeps, name == "tbl_deep_extend", 0)
                        }
                        Value::Nil => {}
                        other => return Ok(vec![open(other)]),
                    }
                }
                Value::Table(out)
            }
            "deepcopy" => match first {
                Value::Table(table) => {
                    let out = self.store.table();
                    self.extend(out, table, false, true, 0);
                    Value::Table(out)
                }
                other => other,
            },
            "tbl_keys" | "tbl_values" | "tbl_count" | "tbl_isempty" => match first {
                Value::Table(table) => {
                    let pairs = self.store.pairs(table);
                    match name {
                        "tbl_count" => Value::Number(pairs.len() as f64),
                        "tbl_isempty" => Value::Bool(pairs.is_empty()),
                        "tbl_values" => self.store.list(pairs.into_iter().map(|p| p.1).collect()),
                        _ => {
                            let of = |(key, _): (Key, Value)| match key {
                                Key::Text(text) => Value::text(&text),
                                Key::Number(n) => Value::Number(n as f64),
                            };
                            self.store.list(pairs.into_iter().map(of).collect())
                        }
                    }
                }
                other => open(&other),
            },
            "tbl_contains" => match &first {
                Value::Table(table) => {
                    let all = self.store.elements(*table);
                    let is = |v: &Value| match (v, &second) {
                        (Value::Text(a), Value::Text(b)) => a.bytes == b.bytes,
                        (a, b) => a.same(b),
                    };
                    Value::Bool(all.iter().any(is))
                }
                other => open(other),
            },
            "startswith" | "endswith" => match (first.lossy(), second.lossy()) {
                (Some(text), Some(end)) if name == "startswith" => {
                    Value::Bool(text.starts_with(&end))
                }
                (Some(text), Some(end)) => Value::Bool(text.ends_with(&end)),
                _ => open(&first),
            },
            n if n.starts_with("fn.") => {
                let function = n[3..].to_owned();
                return self.vim_function(&function, given).map(|v| vec![v]);
            }
            n => Value::unknown(&format!("what vim.{n} gives")),
        };
        Ok(vec![one])
    }

    /// Commands in a Lua string: an error in them is one of Lua.
    fn lua_commands(&mut self, text: &Text) -> Run<()> {
        if let Some(why) = &text.unknown {
            self.gap = Some(Arc::clone(why));
        }
        let mut placed = self.placed(text);
        placed.unknown = None;
        let ground = self.here.0.clone();
        self.run_text(&Rc::new(placed), &ground, true, None)
    }

    /// Does something with each text that a value may be.
    pub(super) fn each_text(
        &mut self,
        value: &Value,
        go: &mut dyn FnMut(&mut Self, &Text) -> Run<()>,
    ) -> Run<()> {
        match value {
            Value::Either(all) => {
                let whys: Vec<Why> = all.iter().map(|a| Arc::clone(&a.0)).collect();
                self.fork(&whys, &mut |this, side| match all[side].1.as_text() {
                    Some(text) => go(this, &text),
                    None => Ok(()),
                })
            }
            Value::Unknown(why) => {
                let why: Why = format!("commands, which depend on {why}").into();
                self.open(&why);
                Ok(())
            }
            other => match commands(other) {
                Some(text) => go(self, &text),
                None => Ok(()),
            },
        }
    }

    /// `vim.cmd { cmd = …, args = … }`
    fn command_table(&mut self, table: Table) -> Run<()> {
        let name = self.store.field(table, "cmd");
        let name = match name {
            Value::Nil => self.store.get(table, &Key::Number(1)),
            found => found,
        };
        let mut given = match self.store.field(table, "args") {
            Value::Table(args) => self.store.elements(args),
            _ => Vec::new(),
        };
        given.extend(self.store.elements(table).into_iter().skip(1));
        let bang = matches!(self.store.field(table, "bang"), Value::Bool(true));
        let name = name.lossy().unwrap_or_default();
        self.command_named(&format!("{name}{}", if bang { "!" } else { "" }), &given)
    }

    fn command_named(&mut self, name: &str, given: &[Value]) -> Run<()> {
        let mut text = Text::nowhere(name);
        let mut all = Vec::new();
        for value in given {
            match value {
                Value::Table(table) => {
                    if matches!(self.store.field(*table, "bang"), Value::Bool(true)) {
                        text.push(&Text::nowhere("!"));
                    }
                    if let Value::Table(args) = self.store.field(*table, "args") {
                        all.extend(self.store.elements(args));
                    }
                    all.extend(self.store.elements(*table));
                }
                other => all.push(other.clone()),
            }
        }
        for value in all {
            text.push(&Text::nowhere(" "));
            text.push(&super::expression::as_gap(&value));
        }
        self.lua_commands(&text)
    }

    pub(super) fn set_hl(&mut self, space: &Value, group: &Value, fields: &Value) -> Run<()> {
        // Other name spaces are for windows that choose them.
        if !matches!(space, Value::Number(n) if *n == 0.0) {
            return Ok(());
        }
        match (group, fields) {
            (Value::Text(group), Value::Table(table)) if group.unknown.is_none() => {
                self.set_group(&group.lossy(), *table)
            }
            (Value::Text(group), Value::Either(all)) if group.unknown.is_none() => {
                let whys: Vec<Why> = all.iter().map(|a| Arc::clone(&a.0)).collect();
                let group = group.lossy();
                self.fork(&whys, &mut |this, side| match &all[side].1 {
                    Value::Table(table) => this.set_group(&group, *table),
                    _ => Ok(()),
                })
            }
            (Value::Text(group), Value::Unknown(why)) => {
                self.group_unknown(&group.lossy(), why);
                Ok(())
            }
            (Value::Unknown(why), _) | (_, Value::Unknown(why)) => {
                let why: Why = format!("a highlight of {why}").into();
                self.nothing_known(&why);
                Ok(())
            }
            (Value::Either(all), _) => {
                let whys: Vec<Why> = all.iter().map(|a| Arc::clone(&a.0)).collect();
                self.fork(&whys, &mut |this, side| {
                    this.set_hl(space, &all[side].1, fields)
                })
            }
            _ => Err(Stop::Error(
                "a group and a table of its colors are wanted".into(),
            )),
        }
    }

    fn create_autocommand(&mut self, events: &Value, options: &Value) -> Run<()> {
        let Value::Table(table) = options else {
            return Ok(());
        };
        let events = self.texts(events);
        let pattern = self.store.field(*table, "pattern");
        let patterns = self.texts(&pattern);
        let group = self
            .store
            .field(*table, "group")
            .lossy()
            .unwrap_or_default();
        let nested = matches!(self.store.field(*table, "nested"), Value::Bool(true));
        let ground = self.here.0.clone();
        let action = match self.store.field(*table, "callback") {
            Value::Nil => match self.store.field(*table, "command") {
                Value::Text(text) => {
                    let script = self.store.table();
                    Action::Commands(Rc::new(self.placed(&text)), ground, script)
                }
                _ => return Ok(()),
            },
            callback => Action::Call(callback),
        };
        for event in events {
            self.autocommands.push(Autocommand {
                event: event.to_ascii_lowercase(),
                patterns: patterns.clone(),
                group: group.clone(),
                action: action.clone(),
                nested,
                why: self.whys.last().cloned(),
            });
        }
        Ok(())
    }

    /// A text, or the texts of a list.
    fn texts(&self, value: &Value) -> Vec<String> {
        match value {
            Value::Table(table) => self
                .store
                .elements(*table)
                .iter()
                .filter_map(Value::lossy)
                .collect(),
            other => other.lossy().into_iter().collect(),
        }
    }

    fn extend(&mut self, out: Table, table: Table, keeps: bool, deep: bool, depth: usize) {
        for (key, value) in self.store.pairs(table) {
            let now = self.store.get(out, &key);
            let value = match (&now, &value) {
                (Value::Table(a), Value::Table(b)) if deep && depth < 20 => {
                    self.extend(*a, *b, keeps, deep, depth + 1);
                    continue;
                }
                (Value::Nil, Value::Table(b)) if deep && depth < 20 => {
                    let copy = self.store.table();
                    self.extend(copy, *b, keeps, deep, depth + 1);
                    Value::Table(copy)
                }
                _ if keeps && !matches!(now, Value::Nil) => continue,
                _ => value,
            };
            self.store.set(out, key, value);
        }
    }
}
