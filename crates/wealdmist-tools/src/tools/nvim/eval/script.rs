//! The editor's own command language: commands.

use std::path::PathBuf;
use std::rc::Rc;
use std::sync::Arc;

use super::flow::{Run, Stop};
use super::value::{Function, Key, Table, Value};
use super::{Editor, NO_THEME};
use crate::document;
pub(super) use crate::document::vim::is;
use crate::document::vim::{self, Command, Line, Node};
use crate::evaluated::Ground;
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;

/// What stands in a text for a part of it that is not known.
pub(super) const GAP: char = '\u{1a}';

/// The most rounds of a loop.
const ROUNDS: usize = 20_000;

/// Where commands stand: the variables of their script, and of the function they are in.
#[derive(Clone, Copy)]
pub(super) struct Place<'g> {
    pub(super) ground: &'g Ground,
    pub(super) script: Table,
    pub(super) local: Table,
}

impl Editor<'_> {
    /// Runs commands; an error ends the command it is in.
    pub(super) fn nodes(
        &mut self,
        nodes: &[Node],
        ground: &Ground,
        script: Table,
        local: Table,
    ) -> Run<()> {
        let place = Place {
            ground,
            script,
            local,
        };
        for node in nodes {
            let base = self.parked.len();
            // Nothing catches an error that is kept silent.
            let is_silent = matches!(node, Node::Command(c) if c.silent);
            let trying = self.trying;
            if is_silent {
                self.trying = 0;
            }
            let outcome = self.node(node, place);
            if self.blocks == 0 {
                self.errors_end(base);
            }
            self.trying = trying;
            match outcome {
                Err(Stop::Error(_)) if is_silent => {}
                Err(Stop::Error(what)) if self.trying == 0 => {
                    let is_command = matches!(node, Node::Command(_));
                    if is_command && what.contains(NO_THEME) {
                        self.fault(&what, "the line has no effect");
                    }
                    // An error in a block of a script ends the outermost one.
                    if self.blocks > 0 {
                        return Err(Stop::Error(what));
                    }
                }
                Ok(()) => {}
                Err(stop) => return Err(stop),
            }
        }
        Ok(())
    }

    /// Runs commands; the first error ends them all.
    pub(super) fn strictly(&mut self, nodes: &[Node], ground: &Ground, script: Table) -> Run<()> {
        self.trying += 1;
        let outcome = self.nodes(nodes, ground, script, script);
        self.trying -= 1;
        match outcome {
            Err(Stop::Finish) => Ok(()),
            other => other,
        }
    }

    fn body(&mut self, nodes: &[Node], place: Place) -> Run<()> {
        // In a function each line begins anew.
        let counts = usize::from(place.local == place.script);
        self.blocks += counts;
        let outcome = self
            .deeper(|this| this.nodes(nodes, place.ground, place.script, place.local))
            .unwrap_or(Ok(()));
        self.blocks -= counts;
        outcome
    }

    /// Runs what has blocks of its own: a file, a function.
    pub(super) fn apart<T>(&mut self, run: impl FnOnce(&mut Self) -> T) -> T {
        let blocks = std::mem::take(&mut self.blocks);
        let out = run(self);
        self.blocks = blocks;
        out
    }

    fn node(&mut self, node: &Node, place: Place) -> Run<()> {
        self.step()?;
        match node {
            Node::Command(command) => {
                self.here = (place.ground.clone(), command.at);
                self.command(command, place)
            }
            Node::If(branches, other, at) => {
                self.here = (place.ground.clone(), *at);
                self.branches(branches, other, place)
            }
            Node::While(condition, body, _) => self.looped(&mut |this| {
                for _ in 0..ROUNDS {
                    this.step()?;
                    let truth = this
                        .evaluate(condition, place)?
                        .truth(&super::expression::is_true);
                    match truth {
                        super::value::Truth::No => break,
                        super::value::Truth::Yes => this.turn(body, place)?,
                        open => {
                            return this.decide(open, &mut |this, yes| match yes {
                                true => this.turn(body, place),
                                false => Ok(()),
                            });
                        }
                    }
                }
                Ok(())
            }),
            Node::For(names, values, body, at) => {
                self.here = (place.ground.clone(), *at);
                let values = self.evaluate(values, place)?;
                self.looped(&mut |this| this.each_of(names, &values, body, place))
            }
            Node::Function(function, _) => {
                let name = self.function_name(&function.name, place);
                let value = Value::Function(Rc::new(Function::Vim {
                    function: Arc::clone(function),
                    script: place.script,
                    ground: place.ground.clone(),
                }));
                self.store.put(self.tables.functions, &name, value);
                Ok(())
            }
            Node::Try(tried, catches, last) => {
                self.trying += 1;
                let base = self.parked.len();
                let outcome = self.body(tried, place);
                let outcome = self.caught(base, outcome, &mut |this, what| {
                    let takes = |(pattern, _): &&(String, Vec<Node>)| catches_it(pattern, what);
                    match catches.iter().find(takes) {
                        Some((_, body)) => this.body(body, place),
                        None => Err(Stop::Error(Arc::clone(what))),
                    }
                });
                self.trying -= 1;
                if self.trying == 0 {
                    for park in &mut self.parked[base..] {
                        if matches!(park.stop, Stop::Error(_)) {
                            park.stop = Stop::Thrown;
                        }
                    }
                }
                self.body(last, place)?;
                match outcome {
                    // What nothing catches ends the script, and those that load it.
                    Err(Stop::Error(_)) if self.trying == 0 => Err(Stop::Thrown),
                    other => other,
                }
            }
        }
    }

    fn turn(&mut self, body: &[Node], place: Place) -> Run<()> {
        match self.body(body, place) {
            Err(Stop::Continue) => Ok(()),
            other => other,
        }
    }

    fn each_of(&mut self, names: &Line, values: &Value, body: &[Node], place: Place) -> Run<()> {
        let Value::Table(list) = values else {
            let unknown = Value::unknown("what a loop goes over");
            let truth = unknown.holds();
            let name = names.text();
            return self.decide(truth, &mut |this, yes| match yes {
                true => {
                    this.set_variable(&name, unknown.clone(), place);
                    this.turn(body, place)
                }
                false => Ok(()),
            });
        };
        let text = names.text();
        let several: Vec<&str> = text
            .strip_prefix('[')
            .and_then(|t| t.strip_suffix(']'))
            .map(|t| t.split([',', ';']).map(str::trim).collect())
            .unwrap_or_default();
        for value in self.store.elements(*list).into_iter().take(ROUNDS) {
            self.step()?;
            match (&value, several.as_slice()) {
                (_, []) => self.set_variable(text.trim(), value, place),
                (Value::Table(inner), names) => {
                    let all = self.store.elements(*inner);
                    for (name, value) in names.iter().zip(all) {
                        self.set_variable(name, value, place);
                    }
                }
                _ => {}
            }
            self.turn(body, place)?;
        }
        Ok(())
    }

    fn branches(
        &mut self,
        branches: &[(Line, Vec<Node>)],
        other: &[Node],
        place: Place,
    ) -> Run<()> {
        let Some(((condition, body), rest)) = branches.split_first() else {
            return self.body(other, place);
        };
        // A condition that is an error leaves the whole of it out.
        let truth = self
            .evaluate(condition, place)?
            .truth(&super::expression::is_true);
        self.decide(truth, &mut |this, yes| match yes {
            true => this.body(body, place),
            false => this.branches(rest, other, place),
        })
    }

    /// What a line holds, as text that knows where it was written.
    pub(super) fn to_text(&self, line: &Line, ground: &Ground) -> Text {
        text_of(line, ground, &self.gap())
    }

    /// What the gaps in a text depend on.
    fn gap(&self) -> Why {
        self.gap.clone().unwrap_or_else(|| "a part of it".into())
    }

    fn command(&mut self, command: &Command, place: Place) -> Run<()> {
        let name = command.name.as_str();
        let given = &command.given;
        let ground = place.ground;
        match name {
            "let" | "const" => return self.assign_line(given, place),
            "unlet" => {
                for word in given.words() {
                    self.set_variable(&word.text(), Value::Nil, place);
                }
                return Ok(());
            }
            "return" => {
                let value = match given.bytes.is_empty() {
                    true => Value::Number(0.0),
                    false => self.evaluate(given, place)?,
                };
                return Err(Stop::Return(vec![value]));
            }
            "finish" => return Err(Stop::Finish),
            "break" => return Err(Stop::Break),
            "continue" => return Err(Stop::Continue),
            "lua" => {
                let line = match &command.lines {
                    Some(lines) => lines.clone(),
                    None => given.clone(),
                };
                let text = Rc::new(self.to_text(&line, ground));
                return self.lua_text(&text, ground).map(|_| ());
            }
            _ => {}
        }
        if is(name, "colorscheme", 4) {
            let Some(word) = given.words().into_iter().next() else {
                return Ok(());
            };
            let text = self.to_text(&word, ground);
            if let Some(why) = &text.unknown {
                let why: Why = format!("the theme, which depends on {why}").into();
                self.store.put(
                    self.tables.options,
                    super::readings::SCHEME,
                    Value::Unknown(Arc::clone(&why)),
                );
                self.nothing_known(&why);
                return Ok(());
            }
            return self.choose(&text);
        }
        if is(name, "highlight", 2) {
            if given.words().first().is_some_and(has_gap) {
                let why: Why = format!("a highlight of {}", self.gap()).into();
                self.nothing_known(&why);
                return Ok(());
            }
            let gap = self.gap();
            let to_text = |line: &Line| text_of(line, ground, &gap);
            return self.highlight(command.bang, given, &to_text);
        }
        if is(name, "set", 2) || is(name, "setglobal", 4) || is(name, "setlocal", 4) {
            for word in given.words() {
                self.set_word(&word, ground)?;
            }
            return Ok(());
        }
        if is(name, "execute", 3) {
            let value = self.joined(given, place)?;
            return self.each_text(&value, &mut |this, text| {
                if let Some(why) = &text.unknown {
                    this.gap = Some(Arc::clone(why));
                }
                let inner = Ground::Text(ground.visit(), Arc::new(this.placed(text)));
                let nodes = vim::parse(&text.bytes);
                this.deeper(|this| this.nodes(&nodes, &inner, place.script, place.local))
                    .unwrap_or(Ok(()))
            });
        }
        if is(name, "call", 3) || is(name, "eval", 3) {
            return self.evaluate(given, place).map(|_| ());
        }
        if is(name, "source", 2) {
            let text = self.expanded(&given.text(), ground);
            return self.source(&text);
        }
        if is(name, "runtime", 2) {
            for word in given.words() {
                self.runtime_files(&word.text(), command.bang)?;
            }
            return Ok(());
        }
        if is(name, "luafile", 4) {
            let text = self.expanded(&given.text(), ground);
            return self.source(&text);
        }
        if is(name, "autocmd", 2) {
            self.autocommand(command, place);
            return Ok(());
        }
        if is(name, "augroup", 3) {
            let group = given.text();
            match group.eq_ignore_ascii_case("end") {
                true => self.augroup.clear(),
                false => {
                    self.augroups.push(group.clone());
                    self.augroup = group;
                }
            }
            return Ok(());
        }
        if is(name, "doautocmd", 2) || is(name, "doautoall", 7) {
            let words: Vec<String> = given.words().iter().map(Line::text).collect();
            let mut words = words
                .iter()
                .filter(|w| !w.starts_with('<') && !self.augroups.contains(w));
            if let Some(event) = words.next() {
                let (event, name) = (
                    event.to_ascii_lowercase(),
                    words.next().cloned().unwrap_or_default(),
                );
                self.event(&event, &name)?;
            }
            return Ok(());
        }
        if is(name, "command", 3) {
            let words = given.words();
            let mut words = words.iter().skip_while(|w| w.bytes.starts_with(b"-"));
            if let Some(own) = words.next() {
                let start = words.next().and_then(|w| w.map.first().copied());
                if let Some(start) = start {
                    let behind = given.map.iter().position(|m| *m == start).unwrap_or(0);
                    let text = self.to_text(&given.behind(behind), ground);
                    self.store
                        .put(self.tables.commands, &own.text(), Value::Text(text));
                }
            }
            return Ok(());
        }
        if is(name, "packadd", 2) {
            self.open(&format!("the plugin {}", given.text()).into());
            return Ok(());
        }
        if is(name, "syntax", 2) {
            return Ok(());
        }
        if is(name, "throw", 3) {
            return Err(Stop::Error("something is thrown".into()));
        }
        if name.starts_with(|c: char| c.is_ascii_uppercase())
            && let Value::Text(text) = self.store.field(self.tables.commands, name)
        {
            let has_parts = memchr::memmem::find(&text.bytes, b"<").is_some();
            if !has_parts {
                return self.run_text(&Rc::new(text), ground, false, None);
            }
            let given = Text::nowhere(&given.text());
            return self.run_text(&Rc::new(with_arguments(&text, &given)), ground, false, None);
        }
        Ok(())
    }

    /// A Lua text in a script.
    pub(super) fn lua_text(&mut self, text: &Rc<Text>, ground: &Ground) -> Run<Vec<Value>> {
        let parsed = document::lua::parse(&text.bytes);
        let Ok(block) = parsed else {
            let (ground, at) = self.here.clone();
            let file = self.visits[ground.visit()].file.clone();
            let place = self.place(&ground, at);
            self.report
                .problems
                .push(wealdmist_core::reading::FileProblem {
                    at: Some(file.position(place)),
                    path: file.path,
                    message: "the Lua here is not understood; what it sets is not read".into(),
                    help: "correct this place".into(),
                    blocks_edits: false,
                });
            return Err(Stop::Error("the text is not Lua".into()));
        };
        let inner = Ground::Text(ground.visit(), Arc::new((**text).clone()));
        let base = self.parked.len();
        let outcome = self.chunk(&block, &inner, Vec::new());
        match self.boundary(base, outcome, &|s| matches!(s, Stop::Return(_))) {
            Ok(values) | Err(Stop::Return(values)) => Ok(values),
            Err(stop) => Err(stop),
        }
    }

    /// The expressions of a line as one text, with blanks between them.
    fn joined(&mut self, given: &Line, place: Place) -> Run<Value> {
        let mut out = Value::Text(Text::default());
        for (i, expression) in vim::expressions(given).iter().enumerate() {
            if i > 0 {
                out = super::expression::operation(&out, ".", &Value::text(" "));
            }
            let value = self.work_out(expression, place)?;
            out = super::expression::operation(&out, ".", &value);
        }
        Ok(out)
    }

    pub(super) fn evaluate(&mut self, line: &Line, place: Place) -> Run<Value> {
        let expression = vim::expression(line);
        self.work_out(&expression, place)
    }

    fn assign_line(&mut self, given: &Line, place: Place) -> Run<()> {
        let bytes = &given.bytes;
        let Some(at) = assignment(bytes) else {
            return Ok(());
        };
        let mut end = at;
        let before = &bytes[..at];
        let mut sign = None;
        for known in ["..", ".", "+", "-"] {
            if before.ends_with(known.as_bytes()) {
                sign = Some(known);
                end = at - known.len();
                break;
            }
        }
        let target = given.between(0..end);
        let new = self.evaluate(&given.behind(at + 1), place)?;
        let text = target.text();
        let value = match sign {
            None => new,
            Some(sign) => {
                let old = self.evaluate(&target, place)?;
                super::expression::operation(&old, sign, &new)
            }
        };
        if let Some(name) = text.strip_prefix('&') {
            let name = name.trim_start_matches(['l', 'g']).trim_start_matches(':');
            let name = if text[1..].contains(':') {
                name
            } else {
                &text[1..]
            };
            return self.set_option(name, value, None);
        }
        if let Some(inner) = text.strip_prefix('[').and_then(|t| t.strip_suffix(']')) {
            if let Value::Table(list) = value {
                let all = self.store.elements(list);
                for (name, value) in inner.split(',').zip(all) {
                    self.set_variable(name.trim(), value, place);
                }
            }
            return Ok(());
        }
        if text.starts_with('$') || text.starts_with('@') {
            if let Some(name) = text.strip_prefix('$') {
                self.store
                    .put(self.tables.own, &format!("env.{name}"), value);
            }
            return Ok(());
        }
        match vim::expression(&target) {
            vim::Expression::Index(inner, key) => {
                let inner = self.work_out(&inner, place)?;
                let key = self.work_out(&key, place)?;
                self.set_member(&inner, &key, value);
            }
            vim::Expression::Dot(inner, name) => {
                let inner = self.work_out(&inner, place)?;
                self.set_member(&inner, &Value::text(&name), value);
            }
            _ => self.set_variable(&text, value, place),
        }
        Ok(())
    }

    fn set_member(&mut self, inner: &Value, key: &Value, value: Value) {
        let Value::Table(table) = inner else { return };
        // Lists of scripts begin at 0.
        let key = match key {
            Value::Number(n) if *n >= 0.0 && self.store.length(*table) > 0 => {
                Some(Key::Number(*n as i64 + 1))
            }
            other => other.key(),
        };
        if let Some(key) = key {
            self.store.set(*table, key, value);
        }
    }

    /// The table and name of a variable.
    pub(super) fn variable_place(&self, name: &str, place: Place) -> (Table, String) {
        match name.split_once(':') {
            Some(("g", rest)) => (self.tables.g, rest.to_owned()),
            Some(("s", rest)) => (place.script, rest.to_owned()),
            Some(("l", rest)) => (place.local, rest.to_owned()),
            Some(_) => (place.local, name.to_owned()),
            None if place.local != place.script => (place.local, name.to_owned()),
            None => (self.tables.g, name.to_owned()),
        }
    }

    fn set_variable(&mut self, name: &str, value: Value, place: Place) {
        let (table, name) = self.variable_place(name, place);
        self.store.put(table, &name, value);
    }

    pub(super) fn function_name(&self, name: &str, place: Place) -> String {
        let own = name
            .strip_prefix("s:")
            .or_else(|| name.strip_prefix("<SID>"));
        match own {
            Some(own) => format!("\0{}\0{own}", place.script),
            None => name.strip_prefix("g:").unwrap_or(name).to_owned(),
        }
    }

    /// A path with what stands for folders in it.
    fn expanded(&self, text: &str, ground: &Ground) -> String {
        let here = &self.visits[ground.visit()].file.path;
        let folder = here.parent().unwrap_or(here).display().to_string();
        let mut out = text
            .replace("<sfile>:p:h", &folder)
            .replace("<sfile>:h", &folder)
            .replace("\\ ", " ");
        out = out.replace("<sfile>", &here.display().to_string());
        if out.contains("stdpath('config')") {
            out = out.replace("stdpath('config')", &self.folder.display().to_string());
        }
        out
    }

    fn path(&self, text: &str) -> PathBuf {
        let with = match text.strip_prefix("$MYVIMRC") {
            Some(_) => self
                .visits
                .first()
                .map(|v| v.file.path.display().to_string())
                .unwrap_or_default(),
            None => text.to_owned(),
        };
        self.access.expand(&with, self.access.home())
    }

    pub(super) fn source(&mut self, text: &str) -> Run<()> {
        if text.contains(GAP) || text.is_empty() {
            self.open(&"a file that is loaded, and it is not known which".into());
            return Ok(());
        }
        let path = self.path(text);
        let chain = self.chain();
        let shipped = self.runtime().is_some_and(|r| path.starts_with(r));
        match self.file(&path, &chain, shipped)? {
            Some(_) => Ok(()),
            None => Err(Stop::Error(
                format!("{} cannot be read", path.display()).into(),
            )),
        }
    }

    fn runtime_files(&mut self, pattern: &str, all: bool) -> Run<()> {
        let chain = self.chain();
        let mut folders = self.folders();
        if let Some(own) = self.runtime() {
            let last = folders.len() - 1;
            folders.insert(last, own);
        }
        let own = self.runtime();
        for folder in folders {
            for path in self.access.glob(&folder.join(pattern)) {
                let shipped = own.as_ref().is_some_and(|r| path.starts_with(r));
                self.file(&path, &chain, shipped)?;
                if !all {
                    return Ok(());
                }
            }
        }
        Ok(())
    }
}

/// What a line holds, as text that knows where it was written.
fn text_of(line: &Line, ground: &Ground, gap: &Why) -> Text {
    let text = ground.written(&line.bytes, |i| line.map.get(i).copied());
    match has_gap(line) {
        true => text.not_known(gap),
        false => text,
    }
}

/// Whether something of it is not known.
fn has_gap(line: &Line) -> bool {
    line.bytes.contains(&(GAP as u8))
}

/// Whether a `:catch` is for an error.
fn catches_it(pattern: &str, what: &str) -> bool {
    let number = pattern.find('E').map(|at| &pattern[at + 1..]);
    let digits = number.map(|n| n.bytes().take_while(u8::is_ascii_digit).count());
    match (number, digits) {
        (Some(number), Some(digits @ 2..)) => what.contains(&format!("E{}", &number[..digits])),
        _ => true,
    }
}

/// Where the `=` of an assignment is.
fn assignment(bytes: &[u8]) -> Option<usize> {
    let mut depth = 0usize;
    let mut quote = None;
    for (i, byte) in bytes.iter().enumerate() {
        match (quote, byte) {
            (Some(q), b) if q == *b => quote = None,
            (Some(_), _) => {}
            (None, b'\'' | b'"') => quote = Some(*byte),
            (None, b'[' | b'{' | b'(') => depth += 1,
            (None, b']' | b'}' | b')') => depth = depth.saturating_sub(1),
            (None, b'=') if depth == 0 => {
                let plain = !matches!(bytes.get(i + 1), Some(b'=' | b'~'));
                return plain.then_some(i);
            }
            _ => {}
        }
    }
    None
}

/// A command of the person's with what it is given put in.
fn with_arguments(text: &Text, given: &Text) -> Text {
    let (mut out, mut at) = (Text::default(), 0);
    while at < text.bytes.len() {
        let rest = &text.bytes[at..];
        let names: [&[u8]; 4] = [b"<args>", b"<q-args>", b"<f-args>", b"<bang>"];
        match names.iter().find(|n| rest.starts_with(n)) {
            Some(name) => {
                let quoted = name.contains(&b'-');
                if quoted {
                    out.push(&Text::nowhere("'"));
                }
                if **name != *b"<bang>" {
                    out.push(given);
                }
                if quoted {
                    out.push(&Text::nowhere("'"));
                }
                at += name.len();
            }
            None => {
                out.push(&text.part(at..at + 1));
                at += 1;
            }
        }
    }
    out
}
