//! Startup files of fish, run as far as they can be run without running anything: what the prompts draw, and what
//! the variables hold.

mod commands;
mod words;

use std::collections::BTreeMap;
use std::ops::Range;
use std::path::Path;
use std::sync::Arc;

use wealdmist_core::color::Rounding;
use wealdmist_core::reading::{FileProblem, ToolReport};

use crate::access::{Access, Loaded};
use crate::document::fish::{self, Node, Word};
use crate::document::lines;
use crate::evaluated::functions::{Functions, joined};
use crate::evaluated::state::{Alternative, State, Why};
use crate::evaluated::text::Text;
use crate::evaluated::{Ground, Visit};
use crate::limits;
use crate::shared::{self, Includer};
pub use crate::sourced::said::{BETWEEN, EITHER, EITHER_END, MARK, MARKED, NONE, OR};
use crate::sourced::{Ran, Unknown, terminals, too_much};

/// How commands ended.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Flow {
    Go,
    /// The function or file is left.
    Leave,
}

/// Whether something succeeded, or what that depends on.
type Status = Result<bool, Why>;

/// What a condition leads to.
#[derive(Clone, Copy)]
enum Branch<'n> {
    List(&'n [Node]),
    If(&'n [(Vec<Node>, Vec<Node>)], &'n [Node]),
    One(&'n Node),
    Nothing,
}

/// The most values that are followed.
const MOST: usize = 8;

/// What a function is: what is said of it, and what it does.
type Body = (Vec<Word>, Vec<Node>);

/// The variables of a block or a function, as they were outside.
#[derive(Default)]
struct Frame {
    before: Vec<(String, Vec<Alternative>)>,
    is_function: bool,
}

struct Fish<'a> {
    access: &'a dyn Access,
    ours: &'a Path,
    report: ToolReport,
    visits: Vec<Visit>,
    state: State,
    functions: Functions<Body>,
    frames: Vec<Frame>,
    parked: Vec<(Why, Why, State)>,
    /// What is written, where that is listened to.
    written: Vec<Text>,
    /// Whether a prompt is drawn: what it asks then is no condition of the files.
    draws: bool,
    /// On what of the files it depends what is drawn.
    depends: Option<Why>,
    status: Status,
    /// What was run that is not known, and may set the prompt at any time.
    unknown: Unknown,
    /// What the command before it in a row is.
    behind: Option<(String, Text)>,
    depth: usize,
    steps: usize,
    loaded: Option<(usize, Range<usize>)>,
}

/// Reads what is kept from one start to the next, the files in `conf.d`, and the main one.
pub fn run(
    access: &dyn Access,
    report: ToolReport,
    file: &Path,
    ours: &Path,
    terms: &[String],
) -> Ran {
    let mut shell = Fish {
        access,
        ours,
        report,
        visits: Vec::new(),
        state: State::default(),
        functions: BTreeMap::new(),
        frames: Vec::new(),
        parked: Vec::new(),
        written: Vec::new(),
        draws: false,
        depends: None,
        status: Ok(true),
        unknown: Unknown::default(),
        behind: None,
        depth: 0,
        steps: 0,
        loaded: None,
    };
    shell.state.set_all("TERM", terminals(terms));
    shell
        .state
        .set("COLORTERM", Some(Text::nowhere("truecolor")));
    let folder = file.parent().unwrap_or(file);
    shell.kept(&folder.join("fish_variables"));
    for file in access.glob(&folder.join("conf.d/*.fish")) {
        shell.file(&file, &[]);
    }
    shell.file(file, &[]);
    let mut prompts = Vec::new();
    // What is done before each prompt.
    let before: Vec<String> = shell.before_prompts();
    for name in before {
        shell.call(&name, &[]);
    }
    for name in ["fish_prompt", "fish_right_prompt", "fish_mode_prompt"] {
        let all = shell.drawn(name);
        let all = all.into_iter();
        prompts.extend(all.map(|one| (name, one.under(shell.unknown.why.as_ref()))));
    }
    shell.report.rounding = Rounding::Cube;
    let others = shell.others();
    let defaults = shell.defaults();
    Ran {
        prompts,
        others,
        defaults,
        init: Vec::new(),
        runs: shell.unknown.commands,
        loaded: shell.loaded.take(),
        report: shell.report,
        visits: shell.visits,
    }
}

/// What the shell sets once for all when it is first started, of what is still its own; of version 3.6, the
/// function that it runs then.
const DEFAULTS: [(&str, &str); 19] = [
    ("fish_color_command", "blue"),
    ("fish_color_param", "cyan"),
    ("fish_color_redirection", "cyan --bold"),
    ("fish_color_comment", "red"),
    ("fish_color_error", "brred"),
    ("fish_color_escape", "brcyan"),
    ("fish_color_operator", "brcyan"),
    ("fish_color_end", "green"),
    ("fish_color_quote", "yellow"),
    ("fish_color_autosuggestion", "555 brblack"),
    ("fish_color_user", "brgreen"),
    ("fish_color_host_remote", "yellow"),
    ("fish_color_status", "red"),
    ("fish_color_cwd", "green"),
    ("fish_color_cwd_root", "red"),
    ("fish_color_search_match", "bryellow --background=brblack"),
    ("fish_color_selection", "white --bold --background=brblack"),
    ("fish_pager_color_description", "B3A06D yellow -i"),
    ("fish_pager_color_progress", "brwhite --background=cyan"),
];

/// From which number on the shell has done so.
const FIRST_STARTED: u32 = 3400;

/// The name under which a variable is kept that lasts.
fn lasting(name: &str) -> String {
    format!("U:{name}")
}

/// The name under which it is noted that a variable was erased.
fn erased(name: &str) -> String {
    format!("E:{name}")
}

impl Fish<'_> {
    /// Reads the variables that the shell keeps from one start to the next.
    fn kept(&mut self, path: &Path) {
        if self.access.read(path) == Loaded::Missing {
            return;
        }
        let Some(file) = shared::load(self.access, &mut self.report, path, &[], false) else {
            return;
        };
        let visit = self.visits.len();
        self.visits.push(Visit {
            file: file.clone(),
            chain: Vec::new(),
        });
        for line in lines::lines(&file.bytes) {
            let bytes = &file.bytes[line.span.clone()];
            let Some(rest) = bytes.strip_prefix(b"SETUVAR ") else {
                continue;
            };
            let flags = rest
                .split(|b| *b == b' ')
                .take_while(|word| word.starts_with(b"--"))
                .map(|word| word.len() + 1)
                .sum::<usize>();
            let rest = rest.get(flags..).unwrap_or_default();
            let Some(colon) = memchr::memchr(b':', rest) else {
                continue;
            };
            let name = String::from_utf8_lossy(&rest[..colon]).into_owned();
            let start = line.span.start + 8 + flags + colon + 1;
            let (bytes, map) = unescaped(&file.bytes[start..line.span.end]);
            let text = Text::written(&bytes, visit, |i| map.get(i).map(|at| start + at));
            self.state.set(&lasting(&name), Some(text));
        }
    }

    /// Reads a file, as `source` does.
    fn file(&mut self, path: &Path, chain: &[Includer]) -> Flow {
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, false) else {
            self.status = Ok(false);
            return Flow::Go;
        };
        let visit = self.visits.len();
        self.visits.push(Visit {
            file: file.clone(),
            chain: chain.to_vec(),
        });
        let (nodes, problem) = fish::parse(&file.bytes);
        if let Some(problem) = problem {
            self.report.problems.push(FileProblem {
                at: Some(file.position(problem.at)),
                path: file.path,
                message: "the commands of this file are not understood from here on; nothing of it is read"
                    .into(),
                help: "see whether the shell takes the file: `fish -n` says".into(),
                blocks_edits: false,
            });
        }
        self.whole(&nodes, &Ground::File(visit));
        Flow::Go
    }

    /// Runs what may be left early, and goes on behind it.
    fn whole(&mut self, nodes: &[Node], ground: &Ground) {
        if self.depth >= limits::INCLUDES {
            self.status = Err("calls that are nested too deeply".into());
            return;
        }
        self.depth += 1;
        let base = self.parked.len();
        let _ = self.list(nodes, ground);
        if self.parked.len() > base {
            let left = self.parked.drain(base..).collect();
            self.state = std::mem::take(&mut self.state).with_left(left);
        }
        self.depth -= 1;
    }

    fn list(&mut self, nodes: &[Node], ground: &Ground) -> Flow {
        for node in nodes {
            if self.node(node, ground) == Flow::Leave {
                return Flow::Leave;
            }
        }
        Flow::Go
    }

    /// The same with variables of its own.
    fn block(&mut self, nodes: &[Node], ground: &Ground) -> Flow {
        self.frames.push(Frame::default());
        let flow = self.list(nodes, ground);
        self.unframe();
        flow
    }

    fn unframe(&mut self) {
        let frame = self.frames.pop().unwrap_or_default();
        for (name, old) in frame.before.into_iter().rev() {
            self.state.set_all(&name, old);
        }
    }

    fn node(&mut self, node: &Node, ground: &Ground) -> Flow {
        self.steps += 1;
        if self.steps == limits::STEPS + 1 {
            let file = &self.visits[ground.visit()].file;
            self.report.problems.push(too_much(&file.path));
        }
        if self.steps > limits::STEPS {
            self.status = Err("a file that does too much".into());
            return Flow::Leave;
        }
        match node {
            Node::Command(words, span) => self.command(words, span, ground),
            Node::If(branches, other) => self.condition(branches, other, ground),
            Node::Switch(word, arms) => self.switch(word, arms, ground),
            Node::For(name, words, body) => self.repeat(name, words, body, ground),
            Node::While(condition, body) => {
                if self.list(condition, ground) == Flow::Leave {
                    return Flow::Leave;
                }
                match self.status.clone() {
                    Ok(false) => {
                        self.status = Ok(true);
                        Flow::Go
                    }
                    status => {
                        let why = status.err().unwrap_or_else(|| "a loop".into());
                        self.either(&why, Branch::List(body), Branch::Nothing, ground)
                    }
                }
            }
            Node::Function(words, body) => {
                let name = words.first().and_then(Word::plain).unwrap_or_default();
                let body = Arc::new((words.clone(), body.clone()));
                let all = vec![(None, Some((body, ground.clone())))];
                self.functions.insert(name, all);
                self.status = Ok(true);
                Flow::Go
            }
            Node::Begin(body) => self.block(body, ground),
            Node::Not(inner) => {
                let flow = self.node(inner, ground);
                self.status = match self.status.clone() {
                    Ok(yes) => Ok(!yes),
                    Err(why) => Err(opposite(why)),
                };
                flow
            }
            Node::And(inner) | Node::Or(inner) => {
                let and = matches!(node, Node::And(_));
                match self.status.clone() {
                    Ok(yes) if yes == and => self.node(inner, ground),
                    Ok(_) => Flow::Go,
                    Err(why) => {
                        let (yes, no) = match and {
                            true => (Branch::One(inner), Branch::Nothing),
                            false => (Branch::Nothing, Branch::One(inner)),
                        };
                        let flow = self.either(&why, yes, no, ground);
                        self.status = Err(why);
                        flow
                    }
                }
            }
            Node::Pipe(all) => self.pipe(all, ground),
        }
    }

    /// What goes from one command to the next is what the first of them writes, changed or not.
    fn pipe(&mut self, all: &[Node], ground: &Ground) -> Flow {
        for (i, node) in all.iter().enumerate() {
            match i {
                0 => {
                    let _ = self.node(node, ground);
                }
                _ => {
                    let before = match &all[i - 1] {
                        Node::Command(words, _) => Some(self.source_of(words, ground)),
                        _ => None,
                    };
                    self.behind = Some(before.unwrap_or_default());
                    self.written.push(Text::default());
                    let _ = self.node(node, ground);
                    self.written.pop();
                    self.behind = None;
                }
            }
        }
        self.status = Err("what commands in a row answer".into());
        Flow::Go
    }

    /// A command's name, and the whole of it as it is written.
    fn source_of(&self, words: &[Word], ground: &Ground) -> (String, Text) {
        let name = words.first().and_then(Word::plain);
        let ends = words.first().zip(words.last());
        let whole = ends.map(|(from, to)| from.span.start..to.span.end);
        let whole = whole.map(|span| ground.source(span, &self.visits));
        (name.unwrap_or_default(), whole.unwrap_or_default())
    }

    fn condition(
        &mut self,
        branches: &[(Vec<Node>, Vec<Node>)],
        other: &[Node],
        ground: &Ground,
    ) -> Flow {
        let Some(((condition, body), rest)) = branches.split_first() else {
            return self.block(other, ground);
        };
        if self.list(condition, ground) == Flow::Leave {
            return Flow::Leave;
        }
        match self.status.clone() {
            Ok(true) => self.block(body, ground),
            Ok(false) => self.condition(rest, other, ground),
            Err(why) => self.either(&why, Branch::List(body), Branch::If(rest, other), ground),
        }
    }

    /// Does both of what a condition that is not known leads to.
    fn either(&mut self, why: &Why, yes: Branch, no: Branch, ground: &Ground) -> Flow {
        let when = Why::from(format!("depending on {why}"));
        let unless = Why::from(format!("depending on {why}, otherwise"));
        self.branches(&[(when, yes), (unless, no)], ground)
    }

    fn branches(&mut self, all: &[(Why, Branch)], ground: &Ground) -> Flow {
        let before = (self.state.clone(), self.functions.clone());
        let (mut on, mut left, mut known, mut said) =
            (Vec::new(), Vec::new(), Vec::new(), Vec::new());
        let mut tags = Vec::new();
        for (why, branch) in all {
            tags.push(tag(why));
            // What is asked while a prompt is drawn is a part of the drawing.
            let why = match self.draws {
                true => Why::from(DRAWN),
                false => Arc::clone(why),
            };
            (self.state, self.functions) = before.clone();
            self.written.push(Text::default());
            let flow = match branch {
                Branch::List(nodes) => self.block(nodes, ground),
                Branch::One(node) => self.node(node, ground),
                Branch::If(branches, other) => self.condition(branches, other, ground),
                Branch::Nothing => Flow::Go,
            };
            said.push(self.written.pop().unwrap_or_default());
            let after = std::mem::take(&mut self.state);
            known.push((Arc::clone(&why), std::mem::take(&mut self.functions)));
            // What is so as root or after a failure comes behind what is usual.
            let usual = tags.last().is_none_or(Option::is_none);
            match flow {
                Flow::Go if usual && self.draws => on.insert(0, (why, after)),
                Flow::Go => on.push((why, after)),
                Flow::Leave => left.push((why, after)),
            }
        }
        self.say_tagged(&said, &tags);
        self.functions = joined(&known);
        self.status = Err(all[0].0.clone());
        let Some(rest) = on.first().map(|o| Arc::clone(&o.0)) else {
            self.state = State::either(&left);
            return Flow::Leave;
        };
        let left = left.into_iter();
        self.parked
            .extend(left.map(|(why, state)| (why, Arc::clone(&rest), state)));
        self.state = State::either(&on);
        Flow::Go
    }

    /// Writes one of several texts.
    fn say_one_of(&mut self, all: &[Text]) {
        self.say_tagged(all, &[]);
    }

    /// The same, each with the letter of what it is written for.
    fn say_tagged(&mut self, all: &[Text], tags: &[Option<char>]) {
        if all.iter().all(|text| text == &all[0]) {
            if let Some(text) = all.first() {
                self.say(text);
            }
            return;
        }
        let mut out = mark(EITHER);
        for (i, text) in all.iter().enumerate() {
            if i > 0 {
                out.push(&mark(OR));
            }
            if let Some(tag) = tags.get(i).copied().flatten() {
                out.push(&mark(MARK));
                out.push(&Text::nowhere(&format!("T{tag}")));
                out.push(&mark(MARKED));
            }
            out.push(text);
        }
        out.push(&mark(EITHER_END));
        self.say(&out);
    }

    /// Writes a text where that is listened to.
    fn say(&mut self, text: &Text) {
        if let Some(written) = self.written.last_mut()
            && written.bytes.len() < (1 << 20)
        {
            written.push(text);
        }
    }

    fn switch(&mut self, word: &Word, arms: &[(Vec<Word>, Vec<Node>)], ground: &Ground) -> Flow {
        let values = self.expand(word, ground);
        let mut chosen: Vec<(Option<Why>, Option<usize>)> = Vec::new();
        for (value, why) in &values {
            let value = words::joined(value, b' ');
            if let Some(unknown) = &value.unknown {
                let of = |(i, _)| (Some(Arc::clone(unknown)), Some(i));
                chosen.extend(arms.iter().enumerate().map(of));
                chosen.push((Some(Arc::clone(unknown)), None));
                continue;
            }
            let text = value.lossy();
            let fits = |pattern: &Word| {
                let pattern = pattern.plain();
                pattern.is_some_and(|pattern| words::matches(&pattern, &text))
            };
            let arm = arms.iter().position(|arm| arm.0.iter().any(fits));
            chosen.push((why.clone(), arm));
        }
        let body = |arm: Option<usize>| arm.map_or(&[][..], |i| &arms[i].1);
        let Some(first) = chosen.first() else {
            return Flow::Go;
        };
        if chosen.iter().all(|c| c.1 == first.1) {
            return self.block(body(first.1), ground);
        }
        let branch = |(why, arm): &(Option<Why>, Option<usize>)| {
            let why = why.clone().unwrap_or_else(|| "a value".into());
            let why = Why::from(format!("depending on {why}"));
            (why, Branch::List(body(*arm)))
        };
        let all: Vec<_> = chosen.iter().map(branch).collect();
        self.branches(&all, ground)
    }

    fn repeat(&mut self, name: &str, words: &[Word], body: &[Node], ground: &Ground) -> Flow {
        let mut values = Vec::new();
        for word in words {
            match self.expand(word, ground).as_slice() {
                [(all, None)] => values.extend(all.iter().cloned()),
                _ => values.push(Text::default().not_known(&"a loop's values".into())),
            }
        }
        for value in values {
            let written = value.lossy();
            let files = match value.unknown.is_none() && written.contains(['*', '?']) {
                true => {
                    let path = self.access.expand(&written, self.access.home());
                    let found = self.access.glob(&path);
                    let name = |f: &std::path::PathBuf| Text::nowhere(&f.display().to_string());
                    found.iter().map(name).collect()
                }
                false => vec![value],
            };
            for value in files {
                self.state.set(name, Some(value));
                if self.block(body, ground) == Flow::Leave {
                    return Flow::Leave;
                }
            }
        }
        self.status = Ok(true);
        Flow::Go
    }

    /// Calls a function, where there is one.
    fn call(&mut self, name: &str, given: &[Vec<Text>]) -> bool {
        if !self.functions.contains_key(name) && !self.autoloaded(name) {
            return false;
        }
        let Some(all) = self.functions.get(name).cloned() else {
            return false;
        };
        if let [(None, body)] = all.as_slice() {
            match body {
                Some(body) => self.run_body(body, given),
                None => return false,
            }
            return true;
        }
        let (before, functions) = (self.state.clone(), self.functions.clone());
        let (mut states, mut after, mut said) = (Vec::new(), Vec::new(), Vec::new());
        for (why, body) in all {
            self.state = before.clone();
            self.functions = functions.clone();
            self.written.push(Text::default());
            if let Some(body) = &body {
                self.run_body(body, given);
            }
            said.push(self.written.pop().unwrap_or_default());
            let why = why.unwrap_or_else(|| name.into());
            self.depends.get_or_insert_with(|| Arc::clone(&why));
            states.push((Arc::clone(&why), std::mem::take(&mut self.state)));
            after.push((why, std::mem::take(&mut self.functions)));
        }
        self.say_one_of(&said);
        self.state = State::either(&states);
        self.functions = joined(&after);
        self.status = Err(format!("what {name} answers").into());
        true
    }

    fn run_body(&mut self, (body, ground): &(Arc<Body>, Ground), given: &[Vec<Text>]) {
        // A function does not see the variables of the one that calls it.
        let mut hidden: Vec<(String, Vec<Alternative>)> = Vec::new();
        for frame in self.frames.iter().rev() {
            for (name, old) in frame.before.iter().rev() {
                hidden.push((name.clone(), self.state.get(name).to_vec()));
                self.state.set_all(name, old.clone());
            }
        }
        let outer = std::mem::take(&mut self.frames);
        self.frames.push(Frame {
            before: Vec::new(),
            is_function: true,
        });
        let all: Vec<Text> = given.iter().flatten().cloned().collect();
        self.set_local("argv", vec![words::list(&all)], true);
        let mut names = Vec::new();
        let mut words = body.0.iter().filter_map(Word::plain).peekable();
        while let Some(word) = words.next() {
            if word == "-a" || word == "--argument-names" {
                while let Some(name) = words.next_if(|w| !w.starts_with('-')) {
                    names.push(name);
                }
            } else if let Some(name) = word.strip_prefix("--argument-names=") {
                names.push(name.to_owned());
            }
        }
        for (i, name) in names.iter().enumerate() {
            let one: Vec<Text> = all.get(i).cloned().into_iter().collect();
            self.set_local(name, vec![words::list(&one)], true);
        }
        self.whole(&body.1, ground);
        self.unframe();
        self.frames = outer;
        for (name, value) in hidden.into_iter().rev() {
            self.state.set_all(&name, value);
        }
    }

    fn set_local(&mut self, name: &str, all: Vec<Text>, of_function: bool) {
        let all = all.into_iter().map(|value| Alternative {
            value: Some(value),
            why: None,
        });
        self.local(name, of_function);
        self.state.set_all(name, all.collect());
    }

    /// Notes what a variable was before it became one of a block or a function.
    fn local(&mut self, name: &str, of_function: bool) {
        let frames = &mut self.frames;
        let at = match of_function {
            true => frames.iter().rposition(|frame| frame.is_function),
            false => frames.len().checked_sub(1),
        };
        let Some(frame) = at.map(|i| &mut frames[i]) else {
            return;
        };
        if !frame.before.iter().any(|(known, _)| known == name) {
            let before = self.state.get(name).to_vec();
            frame.before.push((name.to_owned(), before));
        }
    }

    /// Reads the file that a function of the person's own is in, where there is one.
    fn autoloaded(&mut self, name: &str) -> bool {
        let plain = |c: char| c.is_ascii_alphanumeric() || matches!(c, '_' | '-' | '.');
        if name.is_empty() || !name.chars().all(plain) {
            return false;
        }
        let path = self
            .access
            .config_home()
            .join(format!("fish/functions/{name}.fish"));
        if !matches!(self.access.read(&path), Loaded::File { .. }) {
            return false;
        }
        let draws = std::mem::take(&mut self.draws);
        self.file(&path, &[]);
        self.draws = draws;
        self.functions.contains_key(name)
    }

    /// The functions that are called before each prompt.
    fn before_prompts(&self) -> Vec<String> {
        let is = |body: &Body| {
            let words: Vec<String> = body.0.iter().filter_map(Word::plain).collect();
            let mut pairs = words.windows(2);
            pairs.any(|w| matches!(w[0].as_str(), "-e" | "--on-event") && w[1] == "fish_prompt")
                || words.iter().any(|w| w == "--on-event=fish_prompt")
        };
        let mut out = Vec::new();
        for (name, all) in &self.functions {
            let mut bodies = all.iter().filter_map(|(_, body)| body.as_ref());
            if bodies.any(|(body, _)| is(body)) {
                out.push(name.clone());
            }
        }
        out
    }

    /// What a prompt draws, where it is the person's own.
    fn drawn(&mut self, name: &str) -> Vec<Alternative> {
        if !self.functions.contains_key(name) && !self.autoloaded(name) {
            return Vec::new();
        }
        let all = self.functions.get(name).cloned().unwrap_or_default();
        let before = (self.state.clone(), self.functions.clone());
        let mut out = Vec::new();
        for (why, body) in all {
            let Some(body) = body else { continue };
            (self.state, self.functions) = before.clone();
            self.draws = true;
            self.depends = why;
            self.status = Err("how the command before it ended".into());
            self.written.push(Text::default());
            self.run_body(&body, &[]);
            let text = self.written.pop().unwrap_or_default();
            self.draws = false;
            // A prompt that draws nothing is one, too.
            let text = match text.nearest(0) {
                Some(_) => text,
                None => {
                    let mut placed = body.1.source(0..0, &self.visits);
                    let first = body.0.0.first().map_or(0..0, |word| word.span.clone());
                    let name = body.1.source(first, &self.visits);
                    placed.push(&mark(MARK));
                    placed.push(&name);
                    placed.push(&mark(MARKED));
                    placed.push(&text);
                    placed
                }
            };
            out.push(Alternative {
                value: Some(text),
                why: self.depends.take(),
            });
        }
        (self.state, self.functions) = before;
        out
    }

    /// What the shell has set, or will when it is first started.
    fn defaults(&self) -> Vec<(String, Alternative)> {
        let started = self.state.sure(&lasting("__fish_initialized"));
        let started = started
            .flatten()
            .and_then(|text| text.lossy().parse::<u32>().ok());
        if started.is_some_and(|version| version >= FIRST_STARTED) {
            return Vec::new();
        }
        let free = |name: &str| {
            let shown = self.state.get(name).iter();
            let kept = self.state.get(&lasting(name)).iter();
            let unset = |mut all: std::slice::Iter<'_, Alternative>| {
                all.find(|one| one.value.is_none())
                    .map(|one| one.why.clone())
            };
            Some(unset(shown)?.or(unset(kept)?))
        };
        let all = DEFAULTS.iter().filter_map(|(name, words)| {
            let why = free(name)?;
            let words: Vec<Text> = words.split(' ').map(Text::nowhere).collect();
            let value = Some(words::list(&words));
            Some(((*name).to_owned(), Alternative { value, why }))
        });
        all.collect()
    }

    /// What the variables hold, those that last where no other hides them.
    fn others(&self) -> Vec<(String, Alternative)> {
        let mut out = Vec::new();
        for (name, all) in self.state.all() {
            if name.starts_with("E:") {
                continue;
            }
            let Some(plain) = name.strip_prefix("U:") else {
                out.extend(all.iter().map(|one| (name.clone(), one.clone())));
                continue;
            };
            // It shows where no other hides it.
            let mut hiding = self.state.get(plain).iter();
            let Some(open) = hiding.find(|one| one.value.is_none()) else {
                continue;
            };
            let shown = all.iter().map(|one| one.under(open.why.as_ref()));
            out.extend(shown.map(|one| (plain.to_owned(), one)));
        }
        out
    }
}

/// What a prompt depends on when it is drawn.
const DRAWN: &str = "\u{0}drawn";
/// That the command before it failed.
const FAILED: &str = "\u{0}failed";
/// That it did not.
const SUCCEEDED: &str = "\u{0}succeeded";
/// That one is root.
const ROOT: &str = "\u{0}root";
/// That one is not.
const NOBODY: &str = "\u{0}others";

/// What holds where something does not.
fn opposite(why: Why) -> Why {
    let pairs = [(FAILED, SUCCEEDED), (ROOT, NOBODY)];
    let all = pairs.iter().flat_map(|(a, b)| [(*a, *b), (*b, *a)]);
    let found = all.into_iter().find(|(known, _)| *known == &*why);
    found.map_or(why, |(_, other)| other.into())
}

/// The letter of what is drawn under a condition, where that is a known one.
fn tag(why: &str) -> Option<char> {
    let holds = !why.ends_with(", otherwise");
    let is = |sign: &str| why.contains(sign);
    match () {
        () if is(FAILED) && holds || is(SUCCEEDED) && !holds => Some('x'),
        () if is(ROOT) && holds || is(NOBODY) && !holds => Some('r'),
        () => None,
    }
}

/// A sign that stands nowhere.
fn mark(sign: u8) -> Text {
    Text::nowhere(&String::from(char::from(sign)))
}

/// The bytes of a value that the shell keeps, each with where it stands.
fn unescaped(bytes: &[u8]) -> (Vec<u8>, Vec<usize>) {
    let (mut out, mut map, mut at) = (Vec::new(), Vec::new(), 0);
    while at < bytes.len() {
        let rest = &bytes[at..];
        let hex = |from: usize, most: usize| {
            let digits = rest.get(from..)?;
            let length = digits
                .iter()
                .take(most)
                .take_while(|b| b.is_ascii_hexdigit())
                .count();
            let text = std::str::from_utf8(&digits[..length]).ok()?;
            Some((u32::from_str_radix(text, 16).ok()?, from + length))
        };
        let (value, length) = match rest {
            [b'\\', b'x' | b'X', ..] => hex(2, 2).unwrap_or((u32::from(b'\\'), 1)),
            [b'\\', b'u', ..] => hex(2, 4).unwrap_or((u32::from(b'\\'), 1)),
            [b'\\', b'U', ..] => hex(2, 8).unwrap_or((u32::from(b'\\'), 1)),
            [b'\\', b'n', ..] => (u32::from(b'\n'), 2),
            [b'\\', b't', ..] => (u32::from(b'\t'), 2),
            [b'\\', b'e', ..] => (0x1b, 2),
            [b'\\', b, ..] => (u32::from(*b), 2),
            [b, ..] => (u32::from(*b), 1),
            [] => break,
        };
        let is_unicode = matches!(rest, [b'\\', b'u' | b'U', ..]);
        if is_unicode {
            let c = char::from_u32(value).unwrap_or('\u{fffd}');
            for byte in c.encode_utf8(&mut [0; 4]).bytes() {
                out.push(byte);
                map.push(at);
            }
        } else {
            // The sign between elements is written as an escape.
            out.push(match value {
                0x1e => BETWEEN,
                value => value as u8,
            });
            map.push(at);
        }
        at += length;
    }
    if out.len() == 1 && bytes == b"\\x1d" {
        return (vec![NONE], map);
    }
    (out, map)
}
