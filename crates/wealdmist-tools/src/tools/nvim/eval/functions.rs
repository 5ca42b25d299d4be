//! The functions of the editor's own language, which Lua has as `vim.fn`.

use std::rc::Rc;
use std::sync::Arc;

use super::Editor;
use super::flow::Run;
use super::library::commands;
use super::value::{Key, Value, open};
use crate::evaluated::text::Text;

impl Editor<'_> {
    /// A function of the editor's own language, or one of the person's.
    pub(super) fn vim_function(&mut self, name: &str, given: Vec<Value>) -> Run<Value> {
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
                    Value::Text(self.store.joined(*table, &between))
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
