//! Reading a table's files.

use std::collections::{HashMap, HashSet};
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use wealdmist_core::font::FeatureSetting;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::property::{Property, Unit};
use wealdmist_core::reading::{
    FileProblem, Place, Reading, SourceFile, Standing, ToolReport, Value,
};
use wealdmist_core::role::RoleId;
use wealdmist_core::text::visible;

use super::able::lacks;
use super::{ANY_WORD, Key, Means, OF_OTHERS, Part, Shipped, Sixteen, Table, Wins, Word, nth_word};
use crate::access::{Access, Loaded};
use crate::document::notation::Entry;
use crate::document::yaml;
use crate::glyphs;
use crate::shared::{self, Includer};
use crate::{Facts, Outer};

/// What a key's value says, with its place in the text.
pub(super) struct Said {
    pub role: RoleId,
    pub value: Value,
    pub span: Range<usize>,
    /// What of it we have no word for, though the program takes it.
    pub unread: Option<&'static str>,
}

impl Said {
    const fn new(role: RoleId, value: Value, span: Range<usize>) -> Self {
        Self {
            role,
            value,
            span,
            unread: None,
        }
    }
}

/// What the files of a row say by themselves.
pub(super) struct Gathered {
    pub report: ToolReport,
    /// The terminal type, where they say one.
    pub term: Option<String>,
}

impl Table {
    pub(super) fn read_files(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        let mut gathered = self.gather(&self.candidates(access), &[], access);
        self.tell_of_others(&mut gathered.report, access);
        self.finished(gathered, facts)
    }

    /// Tells of files that the program would read if the one that was read were not there: who edits them waits in vain.
    fn tell_of_others(&self, report: &mut ToolReport, access: &dyn Access) {
        let Some(main) = report.files.first() else {
            return;
        };
        let (main, target) = (main.path.clone(), main.target.clone());
        let of_others = |path: &PathBuf| {
            let below = path.strip_prefix(access.home()).unwrap_or(path);
            OF_OTHERS.iter().any(|p| below.starts_with(p))
        };
        let config = access.config_home();
        let places = self.candidates_in(access.home(), &config, &|name| access.env(name));
        for path in places.into_iter().filter(|p| !of_others(p)) {
            let Loaded::File { target: other, .. } = access.read(&path) else {
                continue;
            };
            let is_read = report.files.iter().any(|f| f.target == other);
            let is_told = report.problems.iter().any(|p| p.path == path);
            if path != *main && other != target && !is_read && !is_told {
                report.problems.push(FileProblem {
                    path,
                    at: None,
                    message: format!(
                        "this file is not read: {} comes before it",
                        access.contract(&main)
                    ),
                    help: "move what you need into that one, or remove it".to_owned(),
                    blocks_edits: false,
                });
            }
        }
    }

    /// Reads a file as the program would read its own, with what it includes.
    pub(crate) fn read_file(&self, path: &Path, access: &dyn Access) -> ToolReport {
        let gathered = self.gather(&[path.to_owned()], &[], access);
        self.finished(gathered, &mut Facts::default())
    }

    /// Reads the first of the files that is there; `chain` is what led to it.
    pub(super) fn gather(
        &self,
        paths: &[PathBuf],
        chain: &[Includer],
        access: &dyn Access,
    ) -> Gathered {
        let mut reader = Reader {
            table: self,
            keys: Keys::of(self),
            access,
            report: self.nothing(),
            commented: Vec::new(),
            term: None,
            told: Vec::new(),
            lists: HashMap::new(),
        };
        for path in paths {
            if reader.file(path, chain, false) {
                break;
            }
        }
        let mut report = reader.report;
        let is_its = |file: &SourceFile| (self.quirks.is_its)(&file.bytes);
        if !report.files.iter().any(is_its) {
            let problems = std::mem::take(&mut report.problems);
            report = self.nothing();
            // What is there and cannot be read is told all the same.
            report
                .problems
                .extend(problems.into_iter().filter(|p| p.blocks_edits));
        }
        let more = (self.quirks.problems)(self, &report, access);
        report.problems.extend(more);
        (self.quirks.more)(self, &mut report, access);
        report.mark_last_effective();
        self.add_defaults(access, &reader.commented, &mut report);
        let comments = Some(self.notation.comment()).filter(|sign| !sign.is_empty());
        glyphs::collect(&mut report, comments.as_slice(), |_| Syntax::Raw, |_| false);
        Gathered {
            report,
            term: reader.term,
        }
    }

    fn nothing(&self) -> ToolReport {
        ToolReport {
            is_terminal: self.kind == "terminal",
            can: self.properties().collect(),
            lacks: lacks(self.keys),
            ..ToolReport::new(self.id)
        }
    }

    /// What is drawn by what was read, and what it tells those after it.
    pub(super) fn finished(&self, gathered: Gathered, facts: &mut Facts) -> ToolReport {
        let mut report = gathered.report;
        if !report.files.is_empty() {
            let term = gathered.term.unwrap_or_else(|| self.term.own.to_owned());
            let ground = report.effective(&RoleId::known("background"));
            let ground = ground.filter(|g| g.is_sure()).and_then(|g| match g.value {
                Value::Color(color) => Some(color),
                _ => None,
            });
            facts.terminals.push(Outer {
                tool: self.id,
                term,
                ground,
            });
        }
        report.drawn = self.drawn(&report);
        report
    }

    /// Adds what the program does by itself where no line says anything. `commented` is what lines say
    /// that are commented out: where one says just that, it is the place to change.
    fn add_defaults(&self, access: &dyn Access, commented: &[Reading], report: &mut ToolReport) {
        let Some(main) = report.files.first().map(|f| f.path.clone()) else {
            return;
        };
        let mut set: HashSet<RoleId> = HashSet::new();
        for reading in &report.readings {
            if !set.contains(&reading.role) {
                set.insert(reading.role.clone());
            }
        }
        let known = self.defaults.known.iter();
        let known = known.map(|(path, value)| Entry::of_text(path, value));
        for entry in known.chain(self.shipped(access)) {
            let key = self.notation.shown(&entry.path);
            for said in self.said(&entry).unwrap_or_default() {
                if !set.insert(said.role.clone()) {
                    continue;
                }
                let same =
                    |r: &&Reading| r.role == said.role && r.key == key && r.value == said.value;
                let there = commented.iter().rfind(same);
                report.readings.push(Reading {
                    standing: Standing::Default,
                    editable: there.is_some_and(|r| r.editable),
                    place: there.map_or_else(|| Place::nowhere_in(&main), |r| r.place.clone()),
                    chain: there.map(|r| r.chain.clone()).unwrap_or_default(),
                    role: said.role,
                    key: key.clone(),
                    value: said.value,
                    effective: true,
                    asked: None,
                });
            }
        }
    }

    /// What the file says that the program came with.
    fn shipped(&self, access: &dyn Access) -> Vec<Entry> {
        let (path, in_blocks) = match self.defaults.shipped {
            Some(Shipped::Lines(path)) => (path, false),
            Some(Shipped::Blocks(path)) => (path, true),
            None => return Vec::new(),
        };
        let Loaded::File { bytes, .. } = access.read(Path::new(path)) else {
            return Vec::new();
        };
        if in_blocks {
            let entries = self.notation.entries(&yaml::uncommented(&bytes));
            return entries.unwrap_or_default();
        }
        let entries = self.notation.entries(&bytes).unwrap_or_default();
        // A pattern between angle brackets stands for what it may be.
        let says = |e: &Entry| e.off.is_some() && !e.text.starts_with('<');
        entries.into_iter().filter(says).collect()
    }

    /// What an entry says; `Err` tells what would be wrong with it for the program.
    fn said(&self, entry: &Entry) -> Result<Vec<Said>, String> {
        let keys: Vec<&Key> = self.keys_of(&entry.path).collect();
        self.said_by(entry, &keys)
    }

    /// The same, by the keys of its path.
    fn said_by(&self, entry: &Entry, keys: &[&Key]) -> Result<Vec<Said>, String> {
        let whole = 0..entry.text.len();
        if let (Some(_), Some(role)) = (self.sixteen.index(&entry.path), self.role_of(&entry.path))
        {
            return self.color(entry, &entry.text, role, whole);
        }
        let mut out = Vec::new();
        for key in keys {
            if let Means::Several(compound) = key.means {
                let unread = compound.unread(&entry.text);
                if let Some(why) = unread {
                    let said = || Value::Text(entry.text.clone());
                    out.extend(compound.holds().iter().map(|property| Said {
                        unread: Some(why),
                        ..Said::new((*property).into(), said(), whole.clone())
                    }));
                    continue;
                }
                let all = compound.read(&entry.text).into_iter();
                out.extend(all.map(|(role, value, span)| Said::new(role, value, span)));
                continue;
            }
            let span = match key.part {
                Part::Whole => whole.clone(),
                Part::Nth(n, of) => match nth_word(&entry.text, n, of) {
                    Some(span) => span,
                    None => {
                        return Err(format!(
                            "{} takes {of} values",
                            self.notation.shown(&entry.path)
                        ));
                    }
                },
            };
            match self.value(key, entry, span) {
                Ok(said) => out.extend(said),
                Err(message) => return Err(message),
            }
        }
        Ok(out)
    }

    fn value(&self, key: &Key, entry: &Entry, span: Range<usize>) -> Result<Vec<Said>, String> {
        let text = &entry.text[span.clone()];
        let Some(role) = key.role(self.id, &entry.path) else {
            return Ok(Vec::new());
        };
        let is = |value: Value| Ok(vec![Said::new(role.clone(), value, span.clone())]);
        let same = |word: &str| match self.color.any_case {
            true => word.eq_ignore_ascii_case(text),
            false => word == text,
        };
        let any = |word: &str| word == ANY_WORD;
        let word = key.words.iter().find(|(word, _)| same(word));
        let word = word.or_else(|| key.words.iter().find(|(word, _)| any(word)));
        match (key.means, word) {
            (_, Some((_, Word::Default))) => is(Value::Default),
            (_, Some((_, Word::Slot(slot)))) => is(Value::Slot(*slot)),
            (_, Some((_, Word::Says(ours)))) => is(Value::Text((*ours).to_owned())),
            (Means::Color(_) | Means::Own(_), None) => {
                let role = role.clone();
                self.color(entry, text, role, span.clone())
            }
            (Means::Number(_, scale), None) => match (scale.read(text), scale.unread(text)) {
                (Some(number), _) => is(Value::Number(number)),
                (None, Some(why)) if key.lenient => Ok(vec![Said {
                    unread: Some(why),
                    ..Said::new(role.clone(), Value::Text(text.to_owned()), span.clone())
                }]),
                (None, _) => Err(format!(
                    "'{text}' is not a number for {}",
                    self.notation.shown(&entry.path)
                )),
            },
            (Means::Name(_) | Means::Path(_) | Means::List(..), None) => {
                is(Value::Text(text.to_owned()))
            }
            (Means::Features, None) => {
                let features: Option<Vec<String>> = text
                    .split_whitespace()
                    .map(|t| Some(t.parse::<FeatureSetting>().ok()?.to_string()))
                    .collect();
                match features {
                    Some(features) => is(Value::Text(features.join(" "))),
                    None => Ok(Vec::new()),
                }
            }
            (Means::Word(_) | Means::Flag(_) | Means::Told(_) | Means::Several(_), None) => {
                Ok(Vec::new())
            }
        }
    }

    fn color(
        &self,
        entry: &Entry,
        text: &str,
        role: RoleId,
        span: Range<usize>,
    ) -> Result<Vec<Said>, String> {
        let Some(color) = (self.color.read)(text) else {
            let key = self.notation.shown(&entry.path);
            return Err(format!("'{text}' is not a color for {key}"));
        };
        Ok(vec![Said::new(role, Value::Color(color), span)])
    }
}

/// The keys of a table by their paths: a long file asks for them at every line.
struct Keys {
    exact: HashMap<&'static str, Vec<usize>>,
    /// Those of any path below another.
    wild: Vec<usize>,
}

impl Keys {
    fn of(table: &Table) -> Self {
        let mut out = Self {
            exact: HashMap::new(),
            wild: Vec::new(),
        };
        for (i, key) in table.keys.iter().enumerate() {
            match key.path.ends_with("/*") {
                true => out.wild.push(i),
                false => out.exact.entry(key.path).or_default().push(i),
            }
        }
        out
    }

    /// As [`Table::keys_of`].
    fn at(&self, table: &Table, path: &str) -> Vec<&'static Key> {
        let exact = self.exact.get(path).into_iter().flatten();
        let wild = self.wild.iter().filter(|i| table.keys[**i].is_of(path));
        let mut all: Vec<usize> = exact.chain(wild).copied().collect();
        all.sort_unstable();
        all.into_iter().map(|i| &table.keys[i]).collect()
    }
}

struct Reader<'a> {
    table: &'a Table,
    keys: Keys,
    access: &'a dyn Access,
    report: ToolReport,
    /// What is commented out says.
    commented: Vec<Reading>,
    term: Option<String>,
    /// The keys of older releases that were told of.
    told: Vec<&'static str>,
    /// How often each key was given that may be given many times.
    lists: HashMap<String, usize>,
}

impl Reader<'_> {
    /// Reads a file and its includes; whether it exists.
    fn file(&mut self, path: &Path, chain: &[Includer], must_exist: bool) -> bool {
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, must_exist)
        else {
            return false;
        };
        let entries = match self.table.notation.entries(&file.bytes) {
            Ok(entries) => entries,
            Err(damage) => {
                self.report.problems.push(FileProblem {
                    path: file.path.clone(),
                    at: Some(file.position(damage.at)),
                    message: damage.message,
                    help: damage.help.to_owned(),
                    blocks_edits: true,
                });
                return true;
            }
        };
        let wins = self.table.includes.map(|i| i.wins);
        if wins == Some(Wins::Includer) {
            self.includes(&file, &entries, chain);
        }
        for entry in &entries {
            let one = std::slice::from_ref(entry);
            if wins == Some(Wins::WhereItStands) && self.includes(&file, one, chain) {
                continue;
            }
            self.entry(&file, chain, entry);
        }
        if wins == Some(Wins::Included) {
            self.includes(&file, &entries, chain);
        }
        true
    }

    /// Reads what entries include; whether there was any.
    fn includes(&mut self, file: &SourceFile, entries: &[Entry], chain: &[Includer]) -> bool {
        let Some(rule) = self.table.includes else {
            return false;
        };
        let names = |keys: &[&str], path: &str| {
            let is = |key: &&str| match key.strip_suffix("/*") {
                Some(above) => path.rsplit_once('/').is_some_and(|(p, _)| p == above),
                None => *key == path,
            };
            keys.iter().any(is)
        };
        let base = file.path.parent().unwrap_or(&file.path).to_owned();
        let mut any = false;
        for entry in entries
            .iter()
            .filter(|e| e.off.is_none() && !e.text.is_empty())
        {
            let pattern = names(rule.patterns, &entry.path);
            if !pattern && !names(rule.keys, &entry.path) {
                continue;
            }
            any = true;
            let mut deeper = chain.to_vec();
            deeper.push((file.path.clone(), entry.line));
            let mut name = entry.text.as_str();
            let mut told = rule.told;
            if let Some(rest) = rule.optional.and_then(|sign| name.strip_prefix(sign)) {
                (name, told) = (rest, false);
            }
            let target = self.access.expand(name, &base);
            if !rule.relative && base.join(name) == target && !Path::new(name).is_absolute() {
                self.tell(
                    file,
                    entry,
                    format!("'{name}' is not the whole path of a file"),
                    "write it from / or ~/ on",
                );
            } else if pattern {
                for target in self.access.glob(&target) {
                    self.file(&target, &deeper, told);
                }
            } else {
                self.file(&target, &deeper, told);
            }
        }
        any
    }

    fn tell(&mut self, file: &SourceFile, entry: &Entry, message: String, help: &str) {
        self.report.problems.push(FileProblem {
            path: file.path.clone(),
            at: Some(file.position(entry.value.start)),
            message,
            help: help.to_owned(),
            blocks_edits: false,
        });
    }

    fn entry(&mut self, file: &SourceFile, chain: &[Includer], entry: &Entry) {
        let keys = self.keys.at(self.table, &entry.path);
        let list = keys.iter().find_map(|k| match k.means {
            Means::List(_, rest) => Some(rest),
            _ => None,
        });
        if entry.text.is_empty() {
            // The list begins anew.
            if list.is_some() {
                self.lists.remove(&entry.path);
                let key = self.table.notation.shown(&entry.path);
                let counts = |r: &Reading| r.key == key || r.key.starts_with(&format!("{key} "));
                self.report.readings.retain(|r| !counts(r));
            }
            return;
        }
        let live = entry.off.is_none();
        if live {
            self.renamed(file, entry);
            self.mistaken(file, entry);
        }
        if live && self.table.term.key == Some(entry.path.as_str()) {
            self.term = Some(entry.text.clone());
        }
        if !live && self.table.defaults.is_unknown() {
            return;
        }
        if let Standing::Unread(why) = &entry.standing {
            return self.unread(file, chain, entry, why);
        }
        let all = match self.table.said_by(entry, &keys) {
            Ok(all) => all,
            Err(message) => {
                if live {
                    self.tell(file, entry, message, self.table.bad_value);
                }
                return;
            }
        };
        let mut key = self.table.notation.shown(&entry.path);
        let mut later = None;
        if let Some(rest) = list.filter(|_| live) {
            let count = self.lists.entry(entry.path.clone()).or_default();
            *count += 1;
            if *count > 1 {
                key = format!("{key} {count}");
                later = Some(RoleId::from(rest));
            }
        }
        let is_told = |k: &Key| matches!(k.means, Means::Told(_));
        let told = self.table.keys_of(&entry.path).any(is_told);
        for mut said in all {
            let role = later.clone().unwrap_or(said.role);
            let unit = Property::from_key(role.as_str()).map(Property::unit);
            if let (Some(Unit::Path), Value::Text(path)) = (unit, &said.value)
                && path.starts_with(['/', '~', '$'])
            {
                // Below the home as the setup would say it.
                let base = file.path.parent().unwrap_or(&file.path);
                let path = self.access.expand(path, base);
                said.value = Value::Text(self.access.contract(&path));
            }
            // What is not spelled as it is has no parts; it is changed as a whole.
            let span = match entry.plain {
                true => entry.inner.start + said.span.start..entry.inner.start + said.span.end,
                false => entry.inner.clone(),
            };
            let whole = said.span == (0..entry.text.len());
            let mut reading = shared::reading(file, chain, role, key.clone(), said.value, span);
            reading.editable = (entry.plain || whole) && said.unread.is_none() && !told;
            if entry.standing != Standing::Certain {
                reading.standing = entry.standing.clone();
            }
            if let Some(why) = said.unread {
                reading.standing = Standing::Unread(why.into());
            }
            match live {
                true => self.report.readings.push(reading),
                false => self.commented.push(reading),
            }
        }
    }

    /// Tells of a color of the list that does not say which.
    fn mistaken(&mut self, file: &SourceFile, entry: &Entry) {
        let is_list = matches!(self.table.sixteen, Sixteen::Indexed(key) if key == entry.path);
        if is_list {
            let shown = visible(entry.text.as_bytes());
            let message = format!("'{shown}' is not a number and a color");
            self.tell(file, entry, message, self.table.bad_value);
        }
    }

    /// Tells once of a key that is called something else now.
    fn renamed(&mut self, file: &SourceFile, entry: &Entry) {
        let is_it = |old: &str| {
            let rest = entry.path.strip_prefix(old);
            rest.is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
        };
        let found = self.table.quirks.renamed.iter().find(|(old, _)| is_it(old));
        let Some((old, new)) = found.filter(|(old, _)| !self.told.contains(old)) else {
            return;
        };
        self.told.push(old);
        let (old, new) = (
            self.table.notation.shown(old),
            self.table.notation.shown(new),
        );
        self.tell(
            file,
            entry,
            format!("'{old}' is a key of older releases: it is called {new} now"),
            "write it so, if your release knows that name: it tells when it starts",
        );
    }

    /// What cannot be read says something of all that stands there or below.
    fn unread(&mut self, file: &SourceFile, chain: &[Includer], entry: &Entry, why: &Arc<str>) {
        let table = self.table;
        let above = format!("{}/", entry.path);
        let here = |path: &str| path == entry.path || path.starts_with(&above);
        let keys = table.keys.iter().filter(|k| here(k.path));
        let keys = keys.filter_map(|k| Some((k.path.to_owned(), k.role(table.id, k.path)?)));
        let sixteen = (0..16).map(|n| table.sixteen.spot(n).path());
        let sixteen = sixteen.filter(|path| here(path));
        let sixteen = sixteen.filter_map(|path| Some((path.clone(), table.role_of(&path)?)));
        let all: Vec<(String, RoleId)> = keys.chain(sixteen).collect();
        for (path, role) in all {
            let key = table.notation.shown(&path);
            let value = Value::Text(entry.text.clone());
            let span = entry.inner.clone();
            let mut reading = shared::reading(file, chain, role, key, value, span);
            reading.standing = Standing::Unread(Arc::clone(why));
            reading.editable = false;
            self.report.readings.push(reading);
        }
    }
}
