//! The files, run as far as they can be run without running anything: what every option comes to.

use std::path::Path;
use std::sync::Arc;

use wealdmist_core::reading::{FileProblem, SourceFile, ToolReport};

use super::format::{self, Context};
use super::style;
use super::vocabulary::{self, Kind, Scope};
use crate::access::{Access, Variable};
use crate::document::commands::{self, ASSIGNMENT, Command, Word};
use crate::evaluated::state::{Alternative, State, Why};
use crate::evaluated::text::Text;
use crate::evaluated::{Ground, Visit};
use crate::shared::{self, Includer};
use crate::shell_test;

/// A command that is to be run, or a choice between several.
enum Node<'a> {
    Run(&'a Command, Vec<Argument<'a>>),
    Choice(Vec<(Why, Vec<Self>)>),
}

/// A word of a command.
struct Argument<'a> {
    text: Text,
    block: Option<Vec<Node<'a>>>,
    /// What of it is not known.
    unknown: Option<Why>,
    /// Where it stands.
    span: std::ops::Range<usize>,
}

/// Why a command changes nothing.
struct Refused(String);

/// What became of a command: on what its success depends, where it does.
type Done = Result<Option<Why>, Refused>;

pub(super) struct Evaluation<'a> {
    access: &'a dyn Access,
    pub(super) report: ToolReport,
    pub(super) visits: Vec<Visit>,
    pub(super) state: State,
    /// The conditions that what is parsed stands under, where they are not known.
    doubts: Vec<Option<Why>>,
    /// What is done at events.
    hooks: Vec<(String, Text, Ground)>,
    /// What the program does not take of what was parsed, with the condition it stands under.
    broken: Option<(usize, String, Option<Why>)>,
    depth: usize,
}

impl<'a> Evaluation<'a> {
    pub(super) fn new(access: &'a dyn Access, report: ToolReport) -> Self {
        Self {
            access,
            report,
            visits: Vec::new(),
            state: State::default(),
            doubts: Vec::new(),
            hooks: Vec::new(),
            broken: None,
            depth: 0,
        }
    }

    /// Runs a file.
    pub(super) fn file(&mut self, path: &Path, chain: &[Includer], must_exist: bool) {
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, must_exist)
        else {
            return;
        };
        let visit = self.visits.len();
        self.visits.push(Visit {
            file: file.clone(),
            chain: chain.to_vec(),
        });
        let commands = match commands::parse(&file.bytes) {
            Ok(commands) => commands,
            Err(problem) => return self.refuse(&file, problem.at, &problem.to_string()),
        };
        if self.depth >= crate::limits::BLOCKS {
            return;
        }
        self.depth += 1;
        let ground = Ground::File(visit);
        let outer = self.broken.take();
        let nodes = self.all_parsed(&commands, &ground);
        match std::mem::replace(&mut self.broken, outer) {
            None => self.execute(&nodes, &ground),
            Some((at, message, None)) => self.refuse(&file, at, &message),
            Some((at, message, Some(why))) => {
                // Under a condition that is not known no line of it runs.
                let message = format!("{message}: {why}, tmux runs no line of this file");
                self.tell_at(visit, at, message, "correct this place");
                let before = self.state.clone();
                self.execute(&nodes, &ground);
                let after = std::mem::replace(&mut self.state, before.clone());
                self.state = State::either(&[(Arc::clone(&why), after), (why, before)]);
            }
        }
        self.depth -= 1;
    }

    /// Says that the program runs no line of a file.
    fn refuse(&mut self, file: &SourceFile, at: usize, why: &str) {
        self.report.problems.push(FileProblem {
            at: Some(file.position(at)),
            message: format!("{why}; tmux runs no line of this file"),
            help: "correct this place; the file is left alone until then".to_owned(),
            path: file.path.clone(),
            blocks_edits: true,
        });
    }

    fn all_parsed<'c>(&mut self, commands: &'c [Command], ground: &Ground) -> Vec<Node<'c>> {
        let (mut at, mut nodes) = (0, Vec::new());
        while at < commands.len() {
            nodes.extend(self.parsed(commands, &mut at, ground, (false, true)));
            // What ends a condition that never began is passed over.
            at += 1;
        }
        nodes
    }

    /// What the parser makes of commands, up to the end of the branch they are in: conditions are
    /// decided and variables put in, before anything runs. `dead` says that nothing of it will run;
    /// `sets` that variables are set all the same, for that the program looks at nothing but the condition
    /// right above them.
    fn parsed<'c>(
        &mut self,
        commands: &'c [Command],
        at: &mut usize,
        ground: &Ground,
        (dead, sets): (bool, bool),
    ) -> Vec<Node<'c>> {
        let mut out = Vec::new();
        while let Some(command) = commands.get(*at) {
            match command.words[0].text.as_slice() {
                b"%if" => {
                    out.extend(self.condition(commands, at, ground, dead));
                    continue;
                }
                b"%elif" | b"%else" | b"%endif" => break,
                ASSIGNMENT if sets => self.assign(&command.words[1], ground),
                ASSIGNMENT => {}
                _ if dead => {}
                _ => {
                    if let Some(message) = unheard(command) {
                        let why = self.doubts.iter().flatten().next().cloned();
                        self.broken
                            .get_or_insert((command.span.start, message, why));
                    }
                    let arguments = command.words.iter().map(|w| self.argument(w, ground));
                    let arguments = arguments.collect();
                    out.push(Node::Run(command, arguments));
                }
            }
            *at += 1;
        }
        out
    }

    /// A condition, from the word that begins it to the end of all its branches.
    fn condition<'c>(
        &mut self,
        commands: &'c [Command],
        at: &mut usize,
        ground: &Ground,
        dead: bool,
    ) -> Vec<Node<'c>> {
        let word = commands[*at].words.get(1);
        *at += 1;
        let condition = word.map(|w| self.argument(w, ground));
        let text = condition.as_ref().map(|c| c.text.clone());
        let text = text.unwrap_or_default();
        let is = match condition.and_then(|c| c.unknown) {
            Some(why) => Err(why),
            None => self.formatted(&text, ground).map(|t| format::is_true(&t)),
        };
        let doubt = is.as_ref().err().map(|why| format::said(&text, why));
        self.doubts.push(doubt.as_ref().map(|d| Arc::clone(&d.0)));
        let live = (dead || is == Ok(false), is != Ok(false));
        let yes = self.parsed(commands, at, ground, live);
        self.doubts.pop();
        let dead_else = dead || is == Ok(true);
        let no = match commands.get(*at).map(|c| c.words[0].text.as_slice()) {
            Some(b"%elif") => self.condition(commands, at, ground, dead_else),
            Some(b"%else") => {
                *at += 1;
                self.doubts.push(doubt.as_ref().map(|d| Arc::clone(&d.1)));
                let no = self.parsed(commands, at, ground, (dead_else, is != Ok(true)));
                self.doubts.pop();
                *at += 1;
                no
            }
            _ => {
                *at += 1;
                Vec::new()
            }
        };
        match (is, doubt) {
            _ if dead => Vec::new(),
            (Ok(true), _) => yes,
            (Err(_), Some((when, unless))) => {
                vec![Node::Choice(vec![(when, yes), (unless, no)])]
            }
            _ => no,
        }
    }

    /// A variable is set while the file is parsed.
    fn assign(&mut self, word: &Word, ground: &Ground) {
        let argument = self.argument(word, ground);
        let bytes = &argument.text.bytes;
        let Some(sign) = memchr::memchr(b'=', bytes) else {
            return;
        };
        let name = format!("${}", String::from_utf8_lossy(&bytes[..sign]));
        let value = argument.text.part(sign + 1..bytes.len());
        let doubt = self.doubts.last().cloned().flatten();
        let why = doubt.or(argument.unknown);
        match why {
            None => self.state.set(&name, Some(value)),
            Some(why) => {
                let mut all = self.state.get(&name).to_vec();
                all.push(Alternative {
                    value: Some(value),
                    why: None,
                });
                for one in &mut all {
                    one.why.get_or_insert_with(|| Arc::clone(&why));
                }
                self.state.set_all(&name, all);
            }
        }
    }

    /// A word with what its variables stand for.
    fn argument<'c>(&mut self, word: &'c Word, ground: &Ground) -> Argument<'c> {
        let raw = ground.written(&word.text, |at| word.origin(at));
        let (mut text, mut at, mut unknown) = (Text::default(), 0, None);
        for (range, name) in &word.variables {
            text.push(&raw.part(at..range.start));
            match (self.state.sure(&format!("${name}")), self.variable(name)) {
                (Some(Some(value)), _) => text.push(value),
                (_, Variable::Set(value)) => text.push(&Text::nowhere(&value)),
                (_, Variable::Unset) => {}
                (_, Variable::Unknown) => {
                    unknown = Some(Why::from(format!("the variable {name}")));
                    text.push(&raw.part(range.clone()));
                }
            }
            at = range.end;
        }
        text.push(&raw.part(at..raw.bytes.len()));
        let block = word
            .block
            .as_deref()
            .map(|block| self.all_parsed(block, ground));
        Argument {
            text,
            block,
            unknown,
            span: word.span.clone(),
        }
    }

    /// A variable as a command finds it that the server starts.
    fn variable(&self, name: &str) -> Variable {
        match self.state.sure(&format!("${name}")) {
            Some(Some(value)) => Variable::Set(value.lossy()),
            Some(None) => self.access.variable(name),
            None => Variable::Unknown,
        }
    }

    fn formatted(&self, text: &Text, ground: &Ground) -> Result<Text, Why> {
        let file = self.visits[ground.visit()].file.path.display().to_string();
        let context = Context {
            access: self.access,
            state: &self.state,
            default: &vocabulary::default,
            file: &file,
        };
        context.expand(text)
    }

    fn execute(&mut self, nodes: &[Node], ground: &Ground) {
        let mut failed = None;
        let mut doubt: Option<(usize, Why)> = None;
        for node in nodes {
            match node {
                Node::Run(command, _) if failed == Some(command.group) => {}
                Node::Run(command, arguments) => {
                    doubt = doubt.filter(|(group, _)| *group == command.group);
                    let before = doubt.as_ref().map(|_| self.state.clone());
                    match self.command(arguments, ground) {
                        Ok(None) => {}
                        // What follows in its line is done only where it succeeds.
                        Ok(Some(why)) => doubt = Some((command.group, why)),
                        Err(Refused(message)) => {
                            failed = Some(command.group);
                            let help =
                                "tmux leaves this command out, and what follows it in its line";
                            self.tell(&arguments[0].text, ground, message, help);
                        }
                    }
                    if let (Some(before), Some((_, why))) = (before, &doubt) {
                        let after = std::mem::take(&mut self.state);
                        self.state =
                            State::either(&[(Arc::clone(why), after), (Arc::clone(why), before)]);
                    }
                }
                Node::Choice(branches) => {
                    let mut after = Vec::new();
                    let before = self.state.clone();
                    for (why, nodes) in branches {
                        self.state = before.clone();
                        self.execute(nodes, ground);
                        after.push((Arc::clone(why), std::mem::take(&mut self.state)));
                    }
                    self.state = State::either(&after);
                }
            }
        }
    }

    fn tell(&mut self, text: &Text, ground: &Ground, message: String, help: &str) {
        let (visit, at) = text.nearest(0).unwrap_or((ground.visit(), 0));
        self.tell_at(visit, at, message, help);
    }

    fn tell_at(&mut self, visit: usize, at: usize, message: String, help: &str) {
        let file = &self.visits[visit].file;
        self.report.problems.push(FileProblem {
            path: file.path.clone(),
            at: Some(file.position(at)),
            message,
            help: help.to_owned(),
            blocks_edits: false,
        });
    }

    fn command(&mut self, arguments: &[Argument], ground: &Ground) -> Done {
        let Some(name) = vocabulary::command(&arguments[0].text.lossy()) else {
            return Ok(None);
        };
        let arguments = &arguments[1..];
        match name {
            "set-option" => return self.set(arguments, ground, false),
            "set-window-option" => return self.set(arguments, ground, true),
            "source-file" => self.source(arguments, ground),
            "if-shell" => self.if_shell(arguments, ground)?,
            "run-shell" => self.run_shell(arguments, ground)?,
            "set-environment" => self.set_environment(arguments),
            "set-hook" => self.set_hook(arguments, ground),
            _ => {}
        }
        Ok(None)
    }

    fn source(&mut self, arguments: &[Argument], ground: &Ground) {
        let (flags, paths) = flags(arguments, "");
        for path in paths {
            let text = match flags.contains('F') {
                true => self.formatted(&path.text, ground),
                false => Ok(path.text.clone()),
            };
            let text = path.unknown.clone().map_or(text, Err);
            let text = match text {
                Ok(text) => text,
                Err(why) => {
                    let message = format!("which file this is depends on {why}: it is not read");
                    self.tell(&path.text, ground, message, "write the whole path");
                    continue;
                }
            };
            let written = text.lossy();
            let here = &self.visits[ground.visit()];
            let (visit, at) = path.text.nearest(0).unwrap_or((ground.visit(), 0));
            let line = self.visits[visit].file.position(at).line;
            let mut deeper = here.chain.clone();
            deeper.push((here.file.path.clone(), line));
            // Relative paths are relative to where the server was started: the home, as a rule.
            let target = self.access.expand(&written, self.access.home());
            if written.contains(['*', '?', '[']) {
                for found in self.access.glob(&target) {
                    self.file(&found, &deeper, false);
                }
            } else {
                self.file(&target, &deeper, !flags.contains('q'));
            }
        }
    }

    fn if_shell(&mut self, arguments: &[Argument], ground: &Ground) -> Result<(), Refused> {
        let (flags, arguments) = flags(arguments, "t");
        let Some((condition, branches)) = arguments.split_first() else {
            return Ok(());
        };
        let text = self.formatted(&condition.text, ground);
        let text = condition.unknown.clone().map_or(text, Err);
        let is = text.and_then(|text| match flags.contains('F') {
            true => Ok(format::is_true(&text)),
            false => shell_test::holds(&text.lossy(), self.access, &|name| self.variable(name)),
        });
        let branch = |yes: bool| branches.get(usize::from(!yes));
        match is {
            Ok(yes) => self.branch(branch(yes), ground),
            Err(why) => {
                let (when, unless) = format::said(&condition.text, &why);
                let before = self.state.clone();
                self.branch(branch(true), ground)?;
                let after = std::mem::replace(&mut self.state, before);
                self.branch(branch(false), ground)?;
                let other = std::mem::take(&mut self.state);
                self.state = State::either(&[(when, after), (unless, other)]);
                Ok(())
            }
        }
    }

    /// Runs what a condition leads to: a block, or a text.
    fn branch(&mut self, branch: Option<&Argument>, ground: &Ground) -> Result<(), Refused> {
        match branch {
            None => {}
            Some(Argument {
                block: Some(block), ..
            }) => self.execute(block, ground),
            Some(argument) => return self.run_text(&argument.text, ground),
        }
        Ok(())
    }

    fn run_text(&mut self, text: &Text, ground: &Ground) -> Result<(), Refused> {
        let commands = commands::parse(&text.bytes).map_err(|p| Refused(p.to_string()))?;
        if self.depth >= crate::limits::BLOCKS {
            return Err(Refused("commands are nested too deeply".to_owned()));
        }
        self.depth += 1;
        let inner = Ground::Text(ground.visit(), Arc::new(text.clone()));
        let outer = self.broken.take();
        let nodes = self.all_parsed(&commands, &inner);
        let broken = std::mem::replace(&mut self.broken, outer);
        if broken.is_none() {
            self.execute(&nodes, &inner);
        }
        self.depth -= 1;
        broken.map_or(Ok(()), |(_, message, _)| Err(Refused(message)))
    }

    fn run_shell(&mut self, arguments: &[Argument], ground: &Ground) -> Result<(), Refused> {
        let (flags, arguments) = flags(arguments, "dt");
        let Some(command) = arguments.first() else {
            return Ok(());
        };
        if flags.contains('C') {
            return self.branch(Some(command), ground);
        }
        // Commands for the server itself are read like those of a file.
        let text = &command.text;
        let words = text.bytes.strip_prefix(b"tmux ");
        let is_plain = |b: &u8| !b"|&;<>()$`\\\"*?[~\n".contains(b);
        if let Some(words) = words.filter(|w| w.iter().all(is_plain)) {
            let start = text.bytes.len() - words.len();
            return self.run_text(&text.part(start..text.bytes.len()), ground);
        }
        let message = "this line runs a program; what that sets is not read".to_owned();
        self.tell(text, ground, message, "look at what a running server shows");
        Ok(())
    }

    /// What an event does is done when it happens, behind what the files set: some do whenever the
    /// program starts.
    fn set_hook(&mut self, arguments: &[Argument], ground: &Ground) {
        let (flags, arguments) = flags(arguments, "t");
        let Some(name) = arguments.first().map(|a| a.text.lossy()) else {
            return;
        };
        if !flags.contains('a') {
            self.hooks.retain(|(known, ..)| *known != name);
        }
        let Some(command) = arguments.get(1).filter(|_| !flags.contains('u')) else {
            return;
        };
        let text = match &command.block {
            Some(_) => {
                let span = &command.span;
                let inner = span.start + 1..span.end.saturating_sub(1).max(span.start + 1);
                ground.source(inner, &self.visits)
            }
            None => command.text.clone(),
        };
        self.hooks.push((name, text, ground.clone()));
    }

    /// Ends the run: what events do may have been done.
    pub(super) fn end(&mut self) {
        for (name, text, ground) in std::mem::take(&mut self.hooks) {
            let before = self.state.clone();
            let _ = self.run_text(&text, &ground);
            let after = std::mem::replace(&mut self.state, before.clone());
            let when = Why::from(format!("once {name} happens"));
            let until = Why::from(format!("until {name} happens"));
            self.state = State::either(&[(when, after), (until, before)]);
        }
    }

    fn set_environment(&mut self, arguments: &[Argument]) {
        let (flags, arguments) = flags(arguments, "t");
        let Some(name) = arguments.first() else {
            return;
        };
        let key = format!("${}", name.text.lossy());
        match arguments.get(1) {
            Some(value) if !flags.contains('u') && !flags.contains('r') => {
                self.state.set_all(
                    &key,
                    vec![Alternative {
                        value: Some(value.text.clone()),
                        why: value.unknown.clone(),
                    }],
                );
            }
            _ => self.state.set(&key, None),
        }
    }

    fn set(&mut self, arguments: &[Argument], ground: &Ground, window: bool) -> Done {
        let (flags, arguments) = flags(arguments, "t");
        let has = |flag: char| flags.contains(flag);
        let Some(name) = arguments.first() else {
            return Ok(None);
        };
        let option = name
            .unknown
            .clone()
            .map_or_else(|| self.formatted(&name.text, ground), Err);
        let option = match option {
            Ok(option) => option.lossy(),
            Err(why) => {
                let message = format!("which option this is depends on {why}: it is not read");
                self.tell(&name.text, ground, message, "write its name");
                return Ok(None);
            }
        };
        let (base, index) = match option.split_once('[') {
            Some((base, index)) => (base, index.strip_suffix(']')),
            None => (option.as_str(), None),
        };
        let known = vocabulary::option(base).filter(|_| !base.starts_with('@'));
        let window = window || has('w') || has('p');
        let scope = match known {
            Some(known) => known.scope,
            None if has('s') => Scope::Server,
            None if window => Scope::Window,
            None => Scope::Session,
        };
        if known.is_none() && !base.starts_with('@') {
            // Of another version, perhaps; nothing that is read here.
            return match has('q') {
                true => Ok(None),
                false => Err(Refused(format!("'{base}' is no option of tmux 3.3a"))),
            };
        }
        if !has('g') && scope != Scope::Server {
            // While the files are read there is no session yet.
            let message = format!("without -g, '{base}' is not set: there is no session yet");
            return Err(Refused(message));
        }
        let key = match (known, scope) {
            (Some(known), _) => known.name.to_owned(),
            (None, Scope::Server) => format!("-s {base}"),
            (None, Scope::Window) => format!("-w {base}"),
            (None, Scope::Session) => base.to_owned(),
        };
        if has('u') || has('U') {
            self.state.clear_list(&key);
            self.state.set(&key, None);
            return Ok(None);
        }
        let Some(value) = arguments.get(1) else {
            return Err(Refused(format!("'{base}' is given no value")));
        };
        if has('o') && (known.is_some() || self.state.sure(&key) != Some(None)) {
            return match has('q') {
                true => Ok(None),
                false => Err(Refused(format!("'{base}' is set already"))),
            };
        }
        let (mut text, mut why) = (value.text.clone(), value.unknown.clone());
        if value.block.is_some() {
            // Stored as the program spells it.
            why = Some("how a block is spelled".into());
        }
        if has('F') && why.is_none() {
            match self.formatted(&text, ground) {
                Ok(formatted) => text = formatted,
                Err(reason) => why = Some(reason),
            }
        }
        let kind = known.map_or(Kind::Text, |k| k.kind);
        if kind == Kind::Array {
            if index.is_none() && !has('a') {
                self.state.clear_list(&key);
            }
            for part in parts(&text, index.is_none()) {
                self.state.add_to_list(&key, part);
            }
            return Ok(None);
        }
        if kind == Kind::Other {
            return Ok(None);
        }
        let joined = |old: &Alternative| {
            let separator = if kind == Kind::Style { "," } else { "" };
            let default = known.map_or("", |k| k.default);
            let mut out = old.value.clone().unwrap_or_else(|| Text::nowhere(default));
            out.push(&Text::nowhere(separator));
            out.push(&text);
            Alternative {
                value: Some(out),
                why: old.why.clone().or_else(|| why.clone()),
            }
        };
        // What nothing sets has no value to add to, where it is the person's own.
        let is_set = |a: &Alternative| known.is_some() || a.value.is_some();
        let old = self.state.get(&key);
        let all: Vec<Alternative> = match has('a') && kind != Kind::Color && old.iter().all(is_set)
        {
            true => old.iter().map(joined).collect(),
            false => vec![Alternative {
                value: Some(text.clone()),
                why: why.clone(),
            }],
        };
        let valid = |a: &Alternative| {
            let bytes = a.value.as_ref().map_or(&[][..], |t| &t.bytes);
            style::is_valid(bytes, kind, why.is_some() || a.why.is_some())
        };
        if !all.iter().all(valid) {
            let word = if kind == Kind::Style {
                "style"
            } else {
                "color"
            };
            return Err(Refused(format!(
                "'{}' is no {word} for {base}",
                text.lossy()
            )));
        }
        // What is not known may be refused, and the old value stays.
        let may_fail = why.filter(|_| matches!(kind, Kind::Style | Kind::Color));
        let kept = old.iter().map(|a| a.under(may_fail.as_ref()));
        let all: Vec<Alternative> = match may_fail.is_some() {
            true => all.into_iter().chain(kept).collect(),
            false => all,
        };
        self.state.set_all(&key, all);
        Ok(may_fail)
    }
}

/// The parts of an array's value.
fn parts(text: &Text, several: bool) -> Vec<Text> {
    if !several {
        return vec![text.clone()];
    }
    let mut out = Vec::new();
    let mut start = 0;
    let ends = memchr::memchr_iter(b',', &text.bytes).chain([text.bytes.len()]);
    for end in ends {
        if start < end {
            out.push(text.part(start..end));
        }
        start = end + 1;
    }
    out
}

/// The flags before the arguments; `valued` are those with a value, which is passed over.
fn flags<'b, 'c>(arguments: &'b [Argument<'c>], valued: &str) -> (String, &'b [Argument<'c>]) {
    let (mut out, mut at) = (String::new(), 0);
    while let Some(argument) = arguments.get(at).filter(|a| a.block.is_none()) {
        let word = argument.text.lossy();
        let Some(letters) = word.strip_prefix('-').filter(|l| !l.is_empty()) else {
            break;
        };
        at += 1;
        if letters == "-" {
            break;
        }
        let mut letters = letters.chars();
        while let Some(letter) = letters.next() {
            out.push(letter);
            if valued.contains(letter) {
                at += usize::from(letters.as_str().is_empty());
                break;
            }
        }
    }
    (out, arguments.get(at..).unwrap_or_default())
}

/// Why the program does not take a command when it reads a file, where it does not: it then runs no
/// command of the file.
fn unheard(command: &Command) -> Option<String> {
    let name = command.words[0].lossy();
    if name.starts_with('%') {
        return None;
    }
    let Some(full) = vocabulary::command(&name) else {
        return Some(format!("'{name}' is no command of tmux"));
    };
    if matches!(full, "set-option" | "set-window-option") {
        let is_flag = |w: &&Word| w.text.len() > 1 && w.text[0] == b'-' && w.block.is_none();
        let flags = command.words[1..].iter().take_while(is_flag);
        let mut count = flags.clone().count();
        count += usize::from(flags.last().is_some_and(|w| w.text.last() == Some(&b't')));
        let rest = command.words.len().saturating_sub(1 + count);
        if rest == 0 || rest > 2 {
            let much = if rest == 0 { "few" } else { "many" };
            return Some(format!("too {much} words for {full}"));
        }
    }
    None
}
