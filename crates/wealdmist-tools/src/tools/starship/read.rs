//! What the person's file says, and what the program would make of it.

use std::collections::HashMap;
use std::ops::Range;
use std::path::PathBuf;
use std::rc::Rc;

use wealdmist_core::reading::{FileProblem, SourceFile};

use super::format::{self, Named};
use super::modules::{KNOWN, Key};
use crate::document::notation::Entry;
use crate::document::{lines, toml};
use crate::evaluated::text::Text;

/// A module as it is in effect.
#[derive(Debug, Clone, Default)]
pub struct Module {
    /// The kind of module, whose keys it has.
    pub kind: String,
    /// Its texts that the file says.
    texts: HashMap<String, Text>,
    /// Its other values.
    values: HashMap<String, String>,
    /// Whether it has a value of a wrong type, for which the program takes none of its values.
    broken: bool,
}

impl Module {
    fn known(&self, key: &str) -> Option<&'static str> {
        KNOWN.modules.get(self.kind.as_str())?.get(key)?.value
    }

    /// A text of it, its own or the program's.
    pub fn text(&self, key: &str) -> Option<Text> {
        let own = self.texts.get(key).filter(|_| !self.broken);
        own.cloned().or_else(|| self.known(key).map(Text::nowhere))
    }

    /// Whether the file says a text of it.
    pub fn says(&self, key: &str) -> bool {
        !self.broken && self.texts.contains_key(key)
    }

    /// A value of it that is no text, its own or the program's.
    pub fn value(&self, key: &str) -> Option<&str> {
        let own = self.values.get(key).filter(|_| !self.broken);
        own.map(String::as_str).or_else(|| self.known(key))
    }

    /// Whether something is on.
    pub fn is(&self, key: &str) -> bool {
        self.value(key) == Some("true")
    }

    /// A whole number.
    pub fn number(&self, key: &str) -> Option<i64> {
        self.value(key)?.replace('_', "").parse().ok()
    }
}

/// All that a file says.
pub struct Config {
    /// The modules that the file speaks of, those of the person's own with their name behind a point.
    modules: HashMap<String, Rc<Module>>,
    /// Those of the person's own, in the order the program draws them.
    pub own: Vec<String>,
    top: Module,
    palette: Option<HashMap<String, Text>>,
    /// What is wrong with it.
    pub problems: Vec<FileProblem>,
    path: PathBuf,
}

/// The type of a value.
fn kind_of(entry: &Entry) -> char {
    let text = entry.text.as_bytes();
    match text {
        _ if !entry.bare => 's',
        b"true" | b"false" => 'b',
        _ if text
            .iter()
            .all(|b| b.is_ascii_digit() || b"+-_".contains(b)) =>
        {
            'i'
        }
        _ => '?',
    }
}

impl Config {
    /// What the entries of a file come to.
    pub fn of(file: &SourceFile, entries: &[Entry]) -> Self {
        let mut config = Self {
            modules: HashMap::new(),
            own: Vec::new(),
            top: Module::default(),
            palette: None,
            problems: Vec::new(),
            path: file.path.clone(),
        };
        let mut palettes: HashMap<String, HashMap<String, Text>> = HashMap::new();
        for entry in entries {
            let mut path = entry.path.splitn(4, '/');
            let steps = [path.next(), path.next(), path.next(), path.next()];
            let text = || text_of(file, entry);
            match steps {
                [Some(key), None, ..] if !entry.bare => {
                    config.top.texts.insert(key.to_owned(), text());
                }
                [Some(key), None, ..] => {
                    config.top.values.insert(key.to_owned(), entry.text.clone());
                }
                [Some("palettes"), Some(name), Some(key), None] => {
                    if key.chars().any(char::is_uppercase) {
                        config.tell(
                            file,
                            entry.key.clone(),
                            format!("'{key}' is never found: names of colors are looked up in small letters"),
                            "write it in small letters",
                        );
                    }
                    let palette = palettes.entry(name.to_owned()).or_default();
                    palette.insert(key.to_owned(), text());
                }
                [Some("palettes" | "profiles"), ..] => {}
                [
                    Some(kind @ ("custom" | "env_var")),
                    Some(name),
                    Some(key),
                    rest,
                ] => {
                    let name = format!("{kind}.{name}");
                    config.value(file, entry, [&name, kind, key], rest.is_some());
                }
                [Some(kind), Some(key), rest, _] => {
                    config.value(file, entry, [kind, kind, key], rest.is_some());
                }
                _ => {}
            }
        }
        for (kind, name) in headers(&file.bytes) {
            let module = config.modules.entry(format!("{kind}.{name}"));
            Rc::make_mut(module.or_default()).kind = kind;
        }
        config.own = config
            .modules
            .keys()
            .filter(|name| name.contains('.'))
            .cloned()
            .collect();
        config.own.sort();
        if let Some(name) = config.top.texts.get("palette").cloned() {
            config.palette = palettes.remove(&name.lossy());
            if config.palette.is_none() {
                config.tell_at(
                    file,
                    &name,
                    format!("there is no palette '{}'", name.lossy()),
                    "add it below [palettes], or name another one",
                );
            }
        }
        config
    }

    fn value(&mut self, file: &SourceFile, entry: &Entry, names: [&str; 3], deeper: bool) {
        let [name, kind, key] = names;
        let found = kind_of(entry);
        let wanted = KNOWN.modules.get(kind).and_then(|keys| keys.get(key));
        let fits = |wanted: &Key| match wanted.kind {
            't' => deeper,
            'a' => deeper || found == 's',
            _ => !deeper && wanted.kind == found,
        };
        let is_wrong = wanted.is_some_and(|wanted| !fits(wanted));
        if is_wrong {
            self.tell(
                file,
                entry.value.clone(),
                format!("this is no value for {key}: none of [{name}] is taken"),
                "correct its type",
            );
        }
        let module = Rc::make_mut(self.modules.entry(name.to_owned()).or_default());
        kind.clone_into(&mut module.kind);
        module.broken |= is_wrong;
        let rest = entry.path.rsplit_once(key).map_or("", |(_, rest)| rest);
        let key = format!("{key}{rest}");
        match found {
            's' => drop(module.texts.insert(key, text_of(file, entry))),
            _ => drop(module.values.insert(key, entry.text.clone())),
        }
    }

    fn tell(&mut self, file: &SourceFile, span: Range<usize>, message: String, help: &str) {
        let problem = FileProblem {
            path: self.path.clone(),
            at: Some(file.position(span.start)),
            message,
            help: help.to_owned(),
            blocks_edits: false,
        };
        if !self.problems.contains(&problem) {
            self.problems.push(problem);
        }
    }

    /// Tells of what a text says; what the program says by itself is right.
    pub fn tell_at(&mut self, file: &SourceFile, text: &Text, message: String, help: &str) {
        if let Some((_, at)) = text.nearest(0) {
            self.tell(file, at..at, message, help);
        }
    }

    /// A module, as it is in effect; `None` where there is none of that name.
    pub fn module(&self, name: &str) -> Option<Rc<Module>> {
        let kind = name.split_once('.').map_or(name, |(kind, _)| kind);
        let is_own = kind.len() < name.len();
        if let Some(module) = self.modules.get(name) {
            return Some(Rc::clone(module));
        }
        let known = KNOWN.modules.contains_key(kind) && (!is_own || kind == "env_var");
        known.then(|| {
            Rc::new(Module {
                kind: kind.to_owned(),
                ..Module::default()
            })
        })
    }

    /// Whether the file speaks of a module.
    pub fn speaks_of(&self, name: &str) -> bool {
        self.modules.contains_key(name)
    }

    /// A text that belongs to no module.
    pub fn top(&self, key: &str) -> Option<Text> {
        self.top.texts.get(key).cloned()
    }

    /// A value that belongs to no module.
    pub fn top_value(&self, key: &str) -> Option<&str> {
        self.top.values.get(key).map(String::as_str)
    }

    /// A color of the palette: what it is, where it is one, and what says so.
    pub fn color(&self, name: &str) -> Option<Named> {
        let text = self.palette.as_ref()?.get(name)?;
        // Names of the palette mean nothing in it.
        Some((format::color(&text.lossy().to_lowercase()), text.clone()))
    }
}

/// The modules of the person's own that headers of tables name, which may hold nothing.
fn headers(bytes: &[u8]) -> Vec<(String, String)> {
    let of = |line: lines::Line| {
        let text = std::str::from_utf8(&bytes[line.span]).ok()?;
        let inner = text.trim().strip_prefix('[')?.split(']').next()?;
        let (kind, name) = inner.split_once('.')?;
        let is_name = |c: char| c.is_ascii_alphanumeric() || matches!(c, '_' | '-');
        let own = matches!(kind, "env_var" | "custom") && name.chars().all(is_name);
        own.then(|| (kind.to_owned(), name.to_owned()))
    };
    lines::lines(bytes).filter_map(of).collect()
}

/// What an entry says, each byte with the place where it is written.
fn text_of(file: &SourceFile, entry: &Entry) -> Text {
    let start = entry.value.start;
    match toml::string(&file.bytes[entry.value.clone()]) {
        Some(all) => {
            let bytes: Vec<u8> = all.iter().map(|b| b.0).collect();
            Text::written(&bytes, 0, |i| Some(start + all[i].1))
        }
        None => Text::nowhere(&entry.text).placed_at(0, start),
    }
}
