//! What the editor lends both languages: its options, variables, functions and calls.

use std::rc::Rc;
use std::sync::Arc;

use super::flow::{Run, Stop};
use super::library::{commands, open};
use super::value::{Key, Table, Value};
use super::{Action, Autocommand, Editor};
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
            let name = super::script::full_name(name);
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
                super::script::full_name(name),
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
            "append" | "prepend" if matches!(option, "rtp" | "runtimepath" | "packpath" | "pp") => {
                self.open(&"what is in folders that the files add to the runtime path".into());
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

    fn set_hl(&mut self, space: &Value, group: &Value, fields: &Value) -> Run<()> {
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

    /// A function of the editor's own language, or one of the person's.
    fn vim_function(&mut self, name: &str, given: Vec<Value>) -> Run<Value> {
        let function = self.store.field(self.tables.functions, name);
        match function {
            Value::Nil => self.function(name, given),
            known => {
                let values = self.call(&known, given)?;
                Ok(values.into_iter().next().unwrap_or(Value::Number(0.0)))
            }
        }
    }

    /// A function of the editor's own language.
    pub(super) fn function(&mut self, name: &str, given: Vec<Value>) -> Run<Value> {
        let first = given.first().cloned().unwrap_or(Value::Nil);
        let second = given.get(1).cloned().unwrap_or(Value::Nil);
        let text = first
            .as_text()
            .filter(|t| t.unknown.is_none())
            .map(|t| t.lossy());
        let truth = |yes: bool| Value::Number(f64::from(u8::from(yes)));
        let path = |this: &Self, text: &str| this.access.expand(text, this.access.home());
        Ok(match (name, text) {
            ("has", Some(what)) => self.has(&what),
            ("exists", Some(what)) => self.is_there(&what),
            ("executable", Some(program)) => truth(self.access.has_program(&program)),
            ("filereadable", Some(file)) => truth(self.exists(&path(self, &file))),
            ("isdirectory", Some(folder)) => {
                let inside = path(self, &folder).join("*");
                match self.access.glob(&inside).is_empty() {
                    true => Value::unknown("whether a folder is there"),
                    false => truth(true),
                }
            }
            ("expand", Some(what)) => match what.as_str() {
                "<sfile>" => Value::text(
                    &self.visits[self.here.0.visit()]
                        .file
                        .path
                        .display()
                        .to_string(),
                ),
                "<sfile>:h" | "<sfile>:p:h" => {
                    let file = self.visits[self.here.0.visit()].file.path.clone();
                    Value::text(&file.parent().unwrap_or(&file).display().to_string())
                }
                "<amatch>" => Value::unknown("what an event is about"),
                w if w.starts_with('$')
                    && w[1..]
                        .chars()
                        .all(|c| c.is_ascii_alphanumeric() || c == '_') =>
                {
                    self.environment(&w[1..])
                }
                w if w.starts_with('~') || w.starts_with("$HOME") => {
                    Value::text(&path(self, w).display().to_string())
                }
                w if !w.contains(['*', '?', '%', '#', '<', '$']) => first,
                _ => Value::unknown("a path"),
            },
            ("fnameescape" | "resolve" | "escape" | "shellescape", Some(_)) => first,
            ("fnamemodify", Some(what)) => match second.lossy().as_deref() {
                Some(":h" | ":p:h") => {
                    let path = std::path::Path::new(&what);
                    Value::text(&path.parent().unwrap_or(path).display().to_string())
                }
                _ => Value::unknown("a part of a path"),
            },
            ("stdpath", Some(what)) => match what.as_str() {
                "config" => Value::text(&self.folder.display().to_string()),
                "data" => Value::text(&self.data_home().display().to_string()),
                _ => Value::unknown("a folder of the program"),
            },
            ("getenv", Some(variable)) => match self.environment(&variable) {
                Value::Text(text) if text.bytes.is_empty() => Value::Nil,
                found => found,
            },
            ("empty", _) => first.map(&mut |v| match v {
                Value::Table(table) => truth(self.store.pairs(*table).is_empty()),
                Value::Unknown(_) => v.clone(),
                Value::Text(text) if text.unknown.is_none() => {
                    truth(text.bytes.is_empty() || text.bytes == b"0")
                }
                v => super::expression::is_true(v).map_or_else(|| open(v), |yes| truth(!yes)),
            }),
            ("get", _) => {
                let otherwise = given.get(2).cloned().unwrap_or(Value::Number(0.0));
                match &first {
                    Value::Table(table) => {
                        let key = match &second {
                            Value::Number(n) => Some(Key::Number(*n as i64 + 1)),
                            other => other.key(),
                        };
                        match key.map_or(Value::Nil, |k| self.store.get(*table, &k)) {
                            Value::Nil if *table == self.tables.g && self.plugins.is_some() => {
                                Value::unknown("a variable")
                            }
                            Value::Nil => otherwise,
                            found => found,
                        }
                    }
                    other => open(other),
                }
            }
            ("len" | "strlen", _) => match &first {
                Value::Table(table) => Value::Number(self.store.pairs(*table).len() as f64),
                Value::Text(text) if text.unknown.is_none() => {
                    Value::Number(text.bytes.len() as f64)
                }
                other => open(other),
            },
            ("keys" | "values" | "items", _) => match &first {
                Value::Table(table) => {
                    let pairs = self.store.pairs(*table);
                    let mut out = Vec::new();
                    for (key, value) in pairs {
                        let key = match key {
                            Key::Text(text) => Value::text(&text),
                            Key::Number(n) => Value::Number(n as f64),
                        };
                        out.push(match name {
                            "keys" => key,
                            "values" => value,
                            _ => self.store.list(vec![key, value]),
                        });
                    }
                    self.store.list(out)
                }
                other => open(other),
            },
            ("has_key", _) => match (&first, second.key()) {
                (Value::Table(table), Some(key)) => {
                    truth(!matches!(self.store.get(*table, &key), Value::Nil))
                }
                _ => open(&first),
            },
            ("add", _) => {
                if let Value::Table(table) = &first {
                    let n = self.store.length(*table);
                    self.store.set(*table, Key::Number(n + 1), second);
                }
                first
            }
            ("join", _) => match &first {
                Value::Table(table) => {
                    let between = second.as_text().unwrap_or_else(|| Text::nowhere(" "));
                    let mut out = Text::default();
                    for (i, value) in self.store.elements(*table).iter().enumerate() {
                        if i > 0 {
                            out.push(&between);
                        }
                        out.push(&super::expression::as_gap(value));
                    }
                    Value::Text(out)
                }
                other => open(other),
            },
            ("split", Some(what)) if matches!(second, Value::Nil) => {
                let parts = what.split_whitespace().map(Value::text).collect();
                self.store.list(parts)
            }
            ("tolower", Some(what)) => Value::text(&what.to_lowercase()),
            ("toupper", Some(what)) => Value::text(&what.to_uppercase()),
            ("str2nr", Some(_)) => {
                super::expression::number(&first).map_or_else(|| open(&first), Value::Number)
            }
            ("string" | "type" | "printf", _) if name == "printf" => {
                return self.own("string.format", given).map(|mut v| v.remove(0));
            }
            ("execute", Some(_)) => {
                let text = commands(&first).unwrap_or_default();
                let ground = self.here.0.clone();
                self.run_text(&Rc::new(self.placed(&text)), &ground, true, None)?;
                Value::unknown("what a command prints")
            }
            ("luaeval", _) => Value::unknown("what Lua gives"),
            ("nvim_set_hl", _) => {
                let fields = given.get(2).cloned().unwrap_or(Value::Nil);
                self.set_hl(&first, &second, &fields)?;
                Value::Number(0.0)
            }
            ("nvim_command" | "nvim_exec", _) => {
                return self
                    .api(&format!("api.{name}"), given)
                    .map(|mut v| v.remove(0));
            }
            ("sign_define" | "matchadd" | "timer_start" | "setenv" | "mkdir" | "histdel", _) => {
                Value::Number(0.0)
            }
            ("strftime" | "localtime" | "system" | "hostname", _) => {
                Value::unknown(&format!("what {name} gives"))
            }
            _ => match first {
                Value::Unknown(why) => Value::Unknown(why),
                _ => Value::unknown(&format!("what {name} gives")),
            },
        })
    }

    /// What the program was built with.
    fn has(&self, what: &str) -> Value {
        let truth = |yes: bool| Value::Number(f64::from(u8::from(yes)));
        if let Some(wanted) = what.strip_prefix("nvim-") {
            let mut numbers = wanted.split('.').map(|n| n.parse::<u32>().unwrap_or(0));
            let wanted = (
                numbers.next().unwrap_or(0),
                numbers.next().unwrap_or(0),
                numbers.next().unwrap_or(0),
            );
            return match self.version() {
                Some((major, minor)) if (major, minor) != (wanted.0, wanted.1) => {
                    truth((major, minor) > (wanted.0, wanted.1))
                }
                Some(_) if wanted.2 == 0 => truth(true),
                _ => Value::unknown("the version of the program"),
            };
        }
        match what {
            "nvim" | "syntax" | "termguicolors" | "autocmd" | "lua" | "timers" | "eval"
            | "unix" | "multi_byte" | "cmdline_info" | "statusline" | "folding" | "float"
            | "persistent_undo" | "vim_starting" => truth(true),
            "gui_running" | "gui" | "vim9script" | "win32" | "win64" | "windows" | "win16"
            | "compatible" | "ruby_dyn" => truth(false),
            _ => Value::unknown(&format!("has('{what}')")),
        }
    }

    /// Whether something is there: a variable, an option, a function, a command.
    fn is_there(&self, what: &str) -> Value {
        let truth = |yes: bool| Value::Number(f64::from(u8::from(yes)));
        let of = |value: Value, open: bool| match value {
            Value::Nil if open => Value::unknown(&format!("exists('{what}')")),
            Value::Nil => truth(false),
            Value::Either(all) => {
                let each = all
                    .iter()
                    .map(|(why, v)| (Arc::clone(why), truth(!matches!(v, Value::Nil))));
                Value::either(each.collect())
            }
            _ => truth(true),
        };
        if let Some(name) = what.strip_prefix("g:") {
            return of(
                self.store.field(self.tables.g, name),
                self.plugins.is_some(),
            );
        }
        if what == "syntax_on" {
            return Value::unknown("whether syntax is on");
        }
        if let Some(option) = what.strip_prefix(['&', '+']) {
            let known = [
                "termguicolors",
                "tgc",
                "background",
                "guifont",
                "cursorline",
                "pumblend",
                "winblend",
            ];
            return match known.contains(&option) {
                true => truth(true),
                false => Value::unknown(&format!("exists('{what}')")),
            };
        }
        if let Some(name) = what.strip_prefix('$') {
            return match self.environment(name) {
                Value::Text(text) => truth(!text.bytes.is_empty()),
                other => other,
            };
        }
        if let Some(name) = what.strip_prefix('*') {
            let own = self.store.field(self.tables.functions, name);
            return match own {
                Value::Nil => Value::unknown(&format!("exists('{what}')")),
                _ => truth(true),
            };
        }
        if what.starts_with(':') {
            return Value::unknown(&format!("exists('{what}')"));
        }
        if what.chars().all(|c| c.is_ascii_alphanumeric() || c == '_') {
            return of(
                self.store.field(self.tables.g, what),
                self.plugins.is_some(),
            );
        }
        Value::unknown(&format!("exists('{what}')"))
    }
}
