//! The startup file, run as far as it can be run without running anything: what the prompt comes to.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use wealdmist_core::reading::{FileProblem, ToolReport};

use crate::access::{Access, Variable, wildcard};
use crate::document::shell::{self, Assign, Node, Part, Value, Word};
use crate::evaluated::state::{Alternative, State, Why};
use crate::evaluated::text::Text;
use crate::evaluated::{Ground, Visit};
use crate::limits;
use crate::shared::{self, Includer};
use crate::shell_test;
use crate::sourced::Ran;

/// How commands ended.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Flow {
    Go,
    /// The function or file is left.
    Leave,
}

/// Whether something succeeded, or what that depends on.
type Status = Result<bool, Why>;
type Done = (Flow, Status);

const FINE: Done = (Flow::Go, Ok(true));

/// What a condition leads to.
#[derive(Clone, Copy)]
enum Branch<'n> {
    List(&'n [Node]),
    If(&'n [(Vec<Node>, Vec<Node>)], &'n [Node]),
    One(&'n Node),
    Nothing,
}

/// One of the values of a word.
type Said = (Text, Option<Why>);

/// What a function may do; `None` where there is no such function.
type Body = Option<(Arc<Vec<Node>>, Ground)>;

/// The functions by their name: what each may do, with what that depends on.
type Functions = BTreeMap<String, Vec<(Option<Why>, Body)>>;

fn same(a: &Body, b: &Body) -> bool {
    match (a, b) {
        (Some(a), Some(b)) => Arc::ptr_eq(&a.0, &b.0),
        (None, None) => true,
        _ => false,
    }
}

/// The functions there are after a condition that is not known.
fn joined(branches: &[(Why, Functions)]) -> Functions {
    let names: BTreeSet<String> = branches
        .iter()
        .flat_map(|(_, f)| f.keys().cloned())
        .collect();
    let of = |name: String| {
        let mut all: Vec<(Option<Why>, Body)> = Vec::new();
        for (why, functions) in branches {
            let none = vec![(None, None)];
            for (own, body) in functions.get(&name).unwrap_or(&none) {
                if !all.iter().any(|(_, known)| same(known, body)) {
                    let why = own.clone().or_else(|| Some(Arc::clone(why)));
                    all.push((why, body.clone()));
                }
            }
        }
        if let [(why, _)] = all.as_mut_slice() {
            *why = None;
        }
        all.truncate(MOST);
        (name, all)
    };
    names.into_iter().map(of).collect()
}

struct Shell<'a> {
    access: &'a dyn Access,
    ours: &'a Path,
    report: ToolReport,
    visits: Vec<Visit>,
    state: State,
    functions: Functions,
    /// What held where a file or function was left under a condition, with that condition and the one
    /// under which it goes on.
    parked: Vec<(Why, Why, State)>,
    /// What local variables had been outside of the functions that are running.
    locals: Vec<Vec<(String, Vec<Alternative>)>>,
    depth: usize,
    steps: usize,
    loaded: Option<(usize, Range<usize>)>,
}

/// The most values of a word that are kept.
const MOST: usize = 8;

/// Runs a startup file. `terms` are the types of the terminals it is read in.
pub(super) fn run(
    access: &dyn Access,
    report: ToolReport,
    file: &Path,
    ours: &Path,
    terms: &[String],
) -> Ran {
    let mut shell = Shell {
        access,
        ours,
        report,
        visits: Vec::new(),
        state: State::default(),
        functions: BTreeMap::new(),
        parked: Vec::new(),
        locals: Vec::new(),
        depth: 0,
        steps: 0,
        loaded: None,
    };
    let system: Why = "the system's own file for shells".into();
    let own = Text::nowhere("\\s-\\v\\$ ").not_known(&system);
    shell.state.set("PS1", Some(own));
    let known = |text: &str| Alternative {
        value: Some(Text::nowhere(text)),
        why: None,
    };
    let mut all: Vec<Alternative> = terms.iter().map(|t| known(t)).collect();
    if let [_, _, ..] = all.as_slice() {
        for one in &mut all {
            let term = one.value.as_ref().map(Text::lossy).unwrap_or_default();
            one.why = Some(format!("where TERM is {term}").into());
        }
    }
    if all.is_empty() {
        all.push(known("xterm-256color"));
    }
    shell.state.set_all("TERM", all);
    // Every terminal of ours says so.
    shell
        .state
        .set("COLORTERM", Some(Text::nowhere("truecolor")));
    let _ = shell.file(file, &[]);
    shell.prompt_commands();
    let place = shell.loaded.take();
    Ran {
        prompts: shell.state.get("PS1").to_vec(),
        loaded: place,
        report: shell.report,
        visits: shell.visits,
    }
}

impl Shell<'_> {
    /// Reads a file, as `.` does.
    fn file(&mut self, path: &Path, chain: &[Includer]) -> Done {
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, false) else {
            return (Flow::Go, Ok(false));
        };
        let visit = self.visits.len();
        self.visits.push(Visit {
            file: file.clone(),
            chain: chain.to_vec(),
        });
        let (nodes, problem) = shell::parse(&file.bytes);
        if let Some(problem) = problem {
            self.report.problems.push(FileProblem {
                at: Some(file.position(problem.at)),
                path: file.path,
                message: "from here on the commands are not understood; what they set is not read"
                    .into(),
                help: "see whether the shell takes the file: `bash -n` says".into(),
                blocks_edits: false,
            });
        }
        let done = self.whole(&nodes, &Ground::File(visit));
        (Flow::Go, done.1)
    }

    /// Runs what may be left early, and goes on behind it.
    fn whole(&mut self, nodes: &[Node], ground: &Ground) -> Done {
        if self.depth >= limits::INCLUDES {
            return (Flow::Go, Err("calls that are nested too deeply".into()));
        }
        self.depth += 1;
        let base = self.parked.len();
        let (_, status) = self.list(nodes, ground);
        if self.parked.len() > base {
            let left: Vec<_> = self.parked.drain(base..).collect();
            let rest = left.last().map(|l| Arc::clone(&l.1));
            let mut all: Vec<(Why, State)> = left.into_iter().map(|l| (l.0, l.2)).collect();
            let here = std::mem::take(&mut self.state);
            all.extend(rest.map(|why| (why, here)));
            self.state = State::either(&all);
        }
        self.depth -= 1;
        (Flow::Go, status)
    }

    fn list(&mut self, nodes: &[Node], ground: &Ground) -> Done {
        let mut done = FINE;
        for node in nodes {
            done = self.node(node, ground);
            if done.0 == Flow::Leave {
                break;
            }
        }
        done
    }

    fn node(&mut self, node: &Node, ground: &Ground) -> Done {
        self.steps += 1;
        if self.steps == limits::STEPS + 1 {
            let file = &self.visits[ground.visit()].file;
            self.report.problems.push(FileProblem {
                at: None,
                path: file.path.clone(),
                message: "it does too much to be followed; what is set after that is not read"
                    .to_owned(),
                help: "move long loops into a file of their own that sets no prompt".to_owned(),
                blocks_edits: false,
            });
        }
        if self.steps > limits::STEPS {
            return (Flow::Leave, Err("a file that does too much".into()));
        }
        match node {
            Node::Simple {
                assigns,
                words,
                span,
            } => self.simple(assigns, words, span, ground),
            Node::If(branches, other) => self.condition(branches, other, ground),
            Node::Case(word, arms) => self.case(word, arms, ground),
            Node::For(name, words, body) => self.repeat(name, words, body, ground),
            Node::While(condition, body) => match self.list(condition, ground) {
                (Flow::Leave, status) => (Flow::Leave, status),
                (_, Ok(false)) => FINE,
                (_, status) => {
                    let why = status.err().unwrap_or_else(|| "a loop".into());
                    self.either(&why, Branch::List(body), Branch::Nothing, ground)
                }
            },
            Node::Function(name, body) => {
                let body = (Arc::new(body.clone()), ground.clone());
                self.functions
                    .insert(name.clone(), vec![(None, Some(body))]);
                FINE
            }
            Node::Group(body) => self.list(body, ground),
            Node::Subshell(body) | Node::Pipe(body) => {
                let before = (self.state.clone(), self.functions.clone());
                let status = self.list(body, ground).1;
                (self.state, self.functions) = before;
                match node {
                    Node::Pipe(_) => (Flow::Go, Err("what commands in a row answer".into())),
                    _ => (Flow::Go, status),
                }
            }
            Node::Test(words) => (Flow::Go, self.test(words, ground)),
            Node::Arithmetic(_) => (Flow::Go, Err("arithmetic".into())),
            Node::Not(inner) => {
                let (flow, status) = self.node(inner, ground);
                (flow, status.map(|yes| !yes))
            }
            Node::And(left, right) => self.chained(left, right, true, ground),
            Node::Or(left, right) => self.chained(left, right, false, ground),
        }
    }

    fn chained(&mut self, left: &Node, right: &Node, and: bool, ground: &Ground) -> Done {
        match self.node(left, ground) {
            (Flow::Leave, status) => (Flow::Leave, status),
            (_, Ok(yes)) if yes == and => self.node(right, ground),
            (_, Ok(yes)) => (Flow::Go, Ok(yes)),
            (_, Err(why)) => {
                let (yes, no) = match and {
                    true => (Branch::One(right), Branch::Nothing),
                    false => (Branch::Nothing, Branch::One(right)),
                };
                let (flow, _) = self.either(&why, yes, no, ground);
                (flow, Err(why))
            }
        }
    }

    fn condition(
        &mut self,
        branches: &[(Vec<Node>, Vec<Node>)],
        other: &[Node],
        ground: &Ground,
    ) -> Done {
        let Some(((condition, body), rest)) = branches.split_first() else {
            return self.list(other, ground);
        };
        match self.list(condition, ground) {
            (Flow::Leave, status) => (Flow::Leave, status),
            (_, Ok(true)) => self.list(body, ground),
            (_, Ok(false)) => self.condition(rest, other, ground),
            (_, Err(why)) => self.either(&why, Branch::List(body), Branch::If(rest, other), ground),
        }
    }

    /// Does both of what a condition that is not known leads to.
    fn either(&mut self, why: &Why, yes: Branch, no: Branch, ground: &Ground) -> Done {
        let when = Why::from(format!("depending on {why}"));
        let unless = Why::from(format!("depending on {why}, otherwise"));
        self.branches(&[(when, yes), (unless, no)], ground)
    }

    fn branches(&mut self, all: &[(Why, Branch)], ground: &Ground) -> Done {
        let before = self.state.clone();
        let functions = self.functions.clone();
        let mut on = Vec::new();
        let mut left = Vec::new();
        let mut known = Vec::new();
        for (why, branch) in all {
            self.state = before.clone();
            self.functions = functions.clone();
            let (flow, _) = match branch {
                Branch::List(nodes) => self.list(nodes, ground),
                Branch::One(node) => self.node(node, ground),
                Branch::If(branches, other) => self.condition(branches, other, ground),
                Branch::Nothing => FINE,
            };
            let after = std::mem::take(&mut self.state);
            known.push((Arc::clone(why), std::mem::take(&mut self.functions)));
            match flow {
                Flow::Go => on.push((Arc::clone(why), after)),
                Flow::Leave => left.push((Arc::clone(why), after)),
            }
        }
        self.functions = joined(&known);
        let rest = on.first().map(|o| Arc::clone(&o.0));
        let status = Err(all[0].0.clone());
        let Some(rest) = rest else {
            self.state = State::either(&left);
            return (Flow::Leave, status);
        };
        let left = left.into_iter();
        self.parked
            .extend(left.map(|(why, state)| (why, Arc::clone(&rest), state)));
        self.state = State::either(&on);
        (Flow::Go, status)
    }

    fn case(&mut self, word: &Word, arms: &[(Vec<Word>, Vec<Node>)], ground: &Ground) -> Done {
        let values = self.expand(word, ground);
        let mut chosen: Vec<(Option<Why>, Option<usize>)> = Vec::new();
        for (value, why) in &values {
            // What a pattern is may be as little known as the value.
            let is_open = |p: &Word| self.pattern(p).is_none();
            let open = arms.iter().flat_map(|arm| &arm.0).any(is_open);
            let pattern = || open.then(|| Why::from("a pattern"));
            if let Some(unknown) = &value.unknown.clone().or_else(pattern) {
                let of = |(i, _)| (Some(Arc::clone(unknown)), Some(i));
                chosen.extend(arms.iter().enumerate().map(of));
                chosen.push((Some(Arc::clone(unknown)), None));
                continue;
            }
            let text = value.lossy();
            let takes = |arm: &&(Vec<Word>, Vec<Node>)| {
                let patterns = arm.0.iter().filter_map(|p| self.pattern(p));
                patterns.into_iter().any(|p| matches(&p, &text))
            };
            let arm = arms.iter().position(|arm| takes(&arm));
            chosen.push((why.clone(), arm));
        }
        let body = |arm: Option<usize>| arm.map_or(&[][..], |i| &arms[i].1);
        if chosen.iter().all(|c| c.1 == chosen[0].1) {
            return self.list(body(chosen[0].1), ground);
        }
        let branch = |(why, arm): &(Option<Why>, Option<usize>)| {
            let why = why.clone().unwrap_or_else(|| "a value".into());
            (
                Why::from(format!("depending on {why}")),
                Branch::List(body(*arm)),
            )
        };
        let all: Vec<_> = chosen.iter().map(branch).collect();
        self.branches(&all, ground)
    }

    fn repeat(&mut self, name: &str, words: &[Word], body: &[Node], ground: &Ground) -> Done {
        let mut values = Vec::new();
        for word in words {
            let quoted = |p: &Part| matches!(p, Part::Plain(_, _, true) | Part::Variable(.., true));
            let is_quoted = word.parts.iter().any(quoted);
            let [(text, None)] = self.expand(word, ground).try_into().unwrap_or_else(|_| {
                let unknown = Text::default().not_known(&"a loop's values".into());
                [(unknown, None)]
            }) else {
                continue;
            };
            let written = text.lossy();
            if text.unknown.is_none() && !is_quoted && written.contains(['*', '?', '[']) {
                let path = self.access.expand(&written, self.access.home());
                let found = self.access.glob(&path);
                // A pattern that names nothing stands for itself.
                if found.is_empty() {
                    values.push(text);
                } else {
                    let names = found
                        .iter()
                        .map(|f| Text::nowhere(&f.display().to_string()));
                    values.extend(names);
                }
            } else {
                values.push(text);
            }
        }
        for value in values {
            self.state.set(name, Some(value));
            let done = self.list(body, ground);
            if done.0 == Flow::Leave {
                return done;
            }
        }
        FINE
    }

    fn call(&mut self, name: &str) -> Option<Done> {
        let all = self.functions.get(name).cloned()?;
        if let [(None, body)] = all.as_slice() {
            return body.clone().map(|body| self.run_body(&body));
        }
        let (before, functions) = (self.state.clone(), self.functions.clone());
        let (mut states, mut after) = (Vec::new(), Vec::new());
        for (why, body) in all {
            self.state = before.clone();
            self.functions = functions.clone();
            if let Some(body) = body {
                let _ = self.run_body(&body);
            }
            let why = why.unwrap_or_else(|| name.into());
            states.push((Arc::clone(&why), std::mem::take(&mut self.state)));
            after.push((why, std::mem::take(&mut self.functions)));
        }
        self.state = State::either(&states);
        self.functions = joined(&after);
        Some((Flow::Go, Err(format!("what {name} answers").into())))
    }

    fn run_body(&mut self, (body, ground): &(Arc<Vec<Node>>, Ground)) -> Done {
        self.locals.push(Vec::new());
        let done = self.whole(body, ground);
        for (name, old) in self.locals.pop().unwrap_or_default() {
            self.state.set_all(&name, old);
        }
        (Flow::Go, done.1)
    }

    /// What stands somewhere, as it is written.
    fn source(&self, span: &Range<usize>, ground: &Ground) -> Text {
        ground.source(span.clone(), &self.visits)
    }

    /// What a word may come to.
    fn expand(&mut self, word: &Word, ground: &Ground) -> Vec<Said> {
        let mut out: Vec<Said> = vec![(Text::default(), None)];
        for part in &word.parts {
            let all: Vec<Said> = match part {
                Part::Plain(bytes, map, _) => {
                    vec![(ground.written(bytes, |i| map.get(i).copied()), None)]
                }
                Part::Variable(name, operation, span, _) => {
                    self.variable(name, operation, span, ground)
                }
                Part::Output(nodes, span) => vec![(self.output(nodes, span, ground), None)],
                Part::Other(span) => {
                    let why = Why::from("what a command or arithmetic gives");
                    vec![(self.source(span, ground).not_known(&why), None)]
                }
            };
            let mut next = Vec::new();
            for (so_far, why) in &out {
                for (text, more) in &all {
                    let mut joined = so_far.clone();
                    joined.push(text);
                    next.push((joined, why.clone().or_else(|| more.clone())));
                }
            }
            next.truncate(MOST);
            out = next;
        }
        out
    }

    /// The values a variable has.
    fn values(&self, name: &str) -> Vec<(Option<Text>, Option<Why>)> {
        match name {
            "-" => return vec![(Some(Text::nowhere("himBHs")), None)],
            "HOSTNAME" => {
                if let Some(host) = self.access.host() {
                    return vec![(Some(Text::nowhere(&host)), None)];
                }
            }
            _ => {}
        }
        let special = name.len() == 1 && !name.as_bytes()[0].is_ascii_alphabetic() && name != "_";
        let of = |one: &Alternative| match &one.value {
            Some(value) => (Some(value.clone()), one.why.clone()),
            None => {
                let outside = match special {
                    true => Variable::Unknown,
                    false => self.access.variable(name),
                };
                let value = match outside {
                    Variable::Set(value) => Some(Text::nowhere(&value)),
                    Variable::Unset => None,
                    Variable::Unknown => {
                        let why = Why::from(format!("the variable {name}"));
                        Some(Text::default().not_known(&why))
                    }
                };
                (value, one.why.clone())
            }
        };
        self.state.get(name).iter().map(of).collect()
    }

    fn variable(
        &mut self,
        name: &str,
        operation: &str,
        span: &Range<usize>,
        ground: &Ground,
    ) -> Vec<Said> {
        let unknown = |this: &Self, why: &Why| this.source(span, ground).not_known(why);
        let mut out = Vec::new();
        for (value, why) in self.values(name) {
            let open = value.as_ref().and_then(|v| v.unknown.clone());
            let is_empty = value.as_ref().is_none_or(|v| v.bytes.is_empty());
            let (colon, rest) = match operation.strip_prefix(':') {
                Some(rest) => (true, rest),
                None => (false, operation),
            };
            let absent = value.is_none() || (colon && is_empty);
            let mut signs = rest.chars();
            let text = match (operation, signs.next()) {
                ("" | "[@]" | "[*]" | "[0]", _) => match (&value, open) {
                    (Some(value), Some(why)) if value.bytes.is_empty() => unknown(self, &why),
                    (Some(value), _) => value.clone(),
                    (None, _) => Text::default(),
                },
                (_, Some('-' | '=' | '+')) if open.is_some() => {
                    unknown(self, &open.unwrap_or_else(|| name.into()))
                }
                (_, Some(sign @ ('-' | '=' | '+'))) => {
                    let alternative = signs.as_str();
                    match (sign, absent) {
                        ('+', true) => Text::default(),
                        ('-' | '=', false) => value.clone().unwrap_or_default(),
                        _ => {
                            let text = self.alternative(alternative, ground);
                            if sign == '=' {
                                self.state.set(name, Some(text.clone()));
                            }
                            text
                        }
                    }
                }
                _ => unknown(self, &Why::from(format!("a part of {name}"))),
            };
            out.push((text, why));
        }
        out
    }

    /// The word of `${x:-word}`.
    fn alternative(&mut self, written: &str, ground: &Ground) -> Text {
        let source = format!("_={written}");
        let why = Why::from("a word that is not understood");
        let fallback = Text::nowhere(written).not_known(&why);
        let (nodes, None) = shell::parse(source.as_bytes()) else {
            return fallback;
        };
        let [Node::Simple { assigns, words, .. }] = nodes.as_slice() else {
            return fallback;
        };
        match (assigns.as_slice(), words.is_empty()) {
            (
                [
                    Assign {
                        value: Value::One(word),
                        ..
                    },
                ],
                true,
            ) => {
                let inner = Ground::Text(ground.visit(), Arc::new(Text::nowhere(&source)));
                let mut all = self.expand(word, &inner);
                match all.len() {
                    1 => all.remove(0).0,
                    _ => fallback,
                }
            }
            _ => fallback,
        }
    }

    /// What commands write, where that is plain.
    fn output(&mut self, nodes: &[Node], span: &Range<usize>, ground: &Ground) -> Text {
        let why = Why::from("what a command writes");
        let unknown = |this: &Self| this.source(span, ground).not_known(&why);
        let [Node::Simple { words, assigns, .. }] = nodes else {
            return unknown(self);
        };
        if !assigns.is_empty() {
            return unknown(self);
        }
        let mut texts = Vec::new();
        for word in words {
            match self.expand(word, ground).as_slice() {
                [(text, None)] if text.unknown.is_none() => texts.push(text.clone()),
                _ => return unknown(self),
            }
        }
        let said: Vec<String> = texts.iter().map(Text::lossy).collect();
        let said: Vec<&str> = said.iter().map(String::as_str).collect();
        match said.as_slice() {
            ["tput", "setaf" | "setab", n] => {
                let (base, bright, long) = match said[1] {
                    "setaf" => (30, 90, 38),
                    _ => (40, 100, 48),
                };
                match n.parse::<u8>() {
                    Ok(n @ 0..=7) => Text::nowhere(&format!("\u{1b}[{}m", base + n)),
                    Ok(n @ 8..=15) => Text::nowhere(&format!("\u{1b}[{}m", bright + n - 8)),
                    Ok(n) => Text::nowhere(&format!("\u{1b}[{long};5;{n}m")),
                    Err(_) => unknown(self),
                }
            }
            ["tput", "bold"] => Text::nowhere("\u{1b}[1m"),
            ["tput", "sgr0"] => Text::nowhere("\u{1b}(B\u{1b}[m"),
            ["printf", format] if !format.contains('%') => unescaped(&texts[1]),
            ["echo", "-ne" | "-en" | "-e", _] => unescaped(&texts[2]),
            ["echo", "-n", _] => texts[2].clone(),
            ["echo", text] if !text.starts_with('-') => texts[1].clone(),
            _ => unknown(self),
        }
    }

    /// The pattern a word is, where that is known; what is quoted stands for itself.
    fn pattern(&self, word: &Word) -> Option<String> {
        let mut out = String::new();
        for part in &word.parts {
            match part {
                Part::Plain(bytes, _, quoted) => {
                    for c in String::from_utf8_lossy(bytes).chars() {
                        if *quoted && matches!(c, '*' | '?' | '[' | '\\') {
                            out.push('\\');
                        }
                        out.push(c);
                    }
                }
                Part::Variable(name, operation, ..) if operation.is_empty() => {
                    match self.values(name).as_slice() {
                        [(Some(value), None)] if value.unknown.is_none() => {
                            out.push_str(&value.lossy());
                        }
                        _ => return None,
                    }
                }
                _ => return None,
            }
        }
        Some(out)
    }

    /// What words come to where each is one text; else what that depends on.
    fn texts(&mut self, words: &[Word], ground: &Ground) -> Vec<Vec<Said>> {
        words.iter().map(|word| self.expand(word, ground)).collect()
    }

    /// Asks something of words, for each of the values they may have.
    fn asked(words: &[Vec<Said>], ask: &dyn Fn(&[&str]) -> Option<bool>) -> Status {
        let mut combinations: Vec<(Vec<String>, Option<Why>)> = vec![(Vec::new(), None)];
        for word in words {
            let mut next = Vec::new();
            for (so_far, why) in &combinations {
                for (text, more) in word {
                    if let Some(unknown) = &text.unknown {
                        return Err(Arc::clone(unknown));
                    }
                    let mut all = so_far.clone();
                    all.push(text.lossy());
                    next.push((all, why.clone().or_else(|| more.clone())));
                }
            }
            next.truncate(MOST);
            combinations = next;
        }
        let mut answer: Option<bool> = None;
        let depends = || Why::from("what a test says");
        for (words, why) in &combinations {
            let words: Vec<&str> = words.iter().map(String::as_str).collect();
            let yes = ask(&words).ok_or_else(depends)?;
            if answer.is_some_and(|before| before != yes) {
                return Err(why.clone().unwrap_or_else(depends));
            }
            answer = Some(yes);
        }
        answer.ok_or_else(depends)
    }

    /// `[[ … ]]`: what is joined by signs, from the left.
    fn test(&mut self, words: &[Word], ground: &Ground) -> Status {
        let plain = |word: &Word| match word.parts.as_slice() {
            [Part::Plain(bytes, _, false)] => Some(String::from_utf8_lossy(bytes).into_owned()),
            _ => None,
        };
        let sign = |word: &Word| plain(word).filter(|s| s == "&&" || s == "||");
        for joined in ["||", "&&"] {
            let at = words
                .iter()
                .position(|w| sign(w).as_deref() == Some(joined));
            if let Some(at) = at {
                let left = self.test(&words[..at], ground);
                let right = self.test(&words[at + 1..], ground);
                let any = joined == "||";
                return match (left, right) {
                    (Ok(a), _) if a == any => Ok(any),
                    (_, Ok(b)) if b == any => Ok(any),
                    (Ok(_), Ok(_)) => Ok(!any),
                    (Err(why), _) | (_, Err(why)) => Err(why),
                };
            }
        }
        if words
            .iter()
            .any(|w| plain(w).is_some_and(|s| s == "(" || s == ")"))
        {
            return Err("a test in brackets".into());
        }
        if let Some((first, rest)) = words.split_first()
            && plain(first).as_deref() == Some("!")
        {
            return self.test(rest, ground).map(|yes| !yes);
        }
        if let [left, sign, right] = words {
            match plain(sign).as_deref() {
                Some("=" | "==" | "!=") => {
                    let wanted = plain(sign).as_deref() != Some("!=");
                    let pattern = self.pattern(right);
                    let left = self.expand(left, ground);
                    let Some(pattern) = &pattern else {
                        return Err("a pattern".into());
                    };
                    return Self::asked(&[left], &|w| Some(matches(pattern, w[0]) == wanted));
                }
                Some("=~") => return Err("a regular expression".into()),
                _ => {}
            }
        }
        self.asked_of_test(words, ground)
    }

    fn asked_of_test(&mut self, words: &[Word], ground: &Ground) -> Status {
        if let [flag, name] = words {
            let texts = self.texts(&[flag.clone(), name.clone()], ground);
            if let [[(flag, None)], [(name, None)]] = [texts[0].as_slice(), texts[1].as_slice()]
                && flag.bytes == b"-v"
            {
                let values = self.values(&name.lossy());
                let is_set = |v: &(Option<Text>, Option<Why>)| v.0.is_some();
                return match values.iter().find_map(|v| v.0.as_ref()?.unknown.clone()) {
                    Some(why) => Err(why),
                    None if values.iter().all(is_set) => Ok(true),
                    None if !values.iter().any(is_set) => Ok(false),
                    None => Err(format!("whether {} is set", name.lossy()).into()),
                };
            }
        }
        let texts = self.texts(words, ground);
        // Something that is put together of what is not known is not empty where the rest is not.
        if let [[(flag, None)], rest] = texts
            .iter()
            .map(Vec::as_slice)
            .collect::<Vec<_>>()
            .as_slice()
        {
            let sure = |said: &Said| match &said.0.unknown {
                Some(_) => None,
                None => Some(said.0.bytes.is_empty()),
            };
            let empty: Vec<Option<bool>> = rest.iter().map(sure).collect();
            let wants = match flag.bytes.as_slice() {
                b"-z" => Some(true),
                b"-n" => Some(false),
                _ => None,
            };
            // The prompt is set to something before the file is read.
            let is_prompt = matches!(words.last(), Some(Word { parts, .. }) if matches!(parts.as_slice(), [Part::Variable(name, ..)] if name == "PS1"));
            if let Some(wants) = wants
                && is_prompt
                && empty.iter().all(Option::is_none)
            {
                return Ok(!wants);
            }
        }
        let access = self.access;
        Self::asked(&texts, &|operands| shell_test::test(operands, access))
    }

    fn assign(&mut self, assign: &Assign, local: bool, ground: &Ground) {
        let name = &assign.name;
        if local && let Some(frame) = self.locals.last_mut() {
            frame.push((name.clone(), self.state.get(name).to_vec()));
        }
        match &assign.value {
            Value::Element => {}
            Value::Many(words) => {
                if !assign.adds {
                    self.state.clear_list(name);
                    self.state.set(name, None);
                } else if self.state.list(name).is_empty()
                    && let Some(Some(first)) = self.state.sure(name).map(Option::<&Text>::cloned)
                {
                    self.state.add_to_list(name, first);
                }
                for word in words {
                    if let [(text, None)] = self.expand(word, ground).as_slice() {
                        self.state.add_to_list(name, text.clone());
                    }
                }
            }
            Value::One(word) => {
                let new = self.expand(word, ground);
                // The name of an array alone is its first element.
                if let [(text, why)] = new.as_slice() {
                    self.state.set_first(name, text.clone(), why.clone());
                } else {
                    self.state.clear_list(name);
                }
                let of = |(text, why): Said| Alternative {
                    value: Some(text),
                    why,
                };
                if !assign.adds {
                    self.state.set_all(name, new.into_iter().map(of).collect());
                    return;
                }
                let mut all = Vec::new();
                for (old, why) in self.values(name) {
                    for (text, more) in &new {
                        let mut joined = old.clone().unwrap_or_default();
                        joined.push(text);
                        let why = why.clone().or_else(|| more.clone());
                        all.push(of((joined, why)));
                    }
                }
                self.state.set_all(name, all);
            }
        }
    }

    fn simple(
        &mut self,
        assigns: &[Assign],
        words: &[Word],
        span: &Range<usize>,
        ground: &Ground,
    ) -> Done {
        let Some(first) = words.first() else {
            for assign in assigns {
                self.assign(assign, false, ground);
            }
            return FINE;
        };
        let name = match self.expand(first, ground).as_slice() {
            [(text, None)] if text.unknown.is_none() => text.lossy(),
            _ => return (Flow::Go, Err("a command that is not known".into())),
        };
        let rest = &words[1..];
        match name.as_str() {
            "export" | "declare" | "typeset" | "local" | "readonly" => {
                let local = matches!(name.as_str(), "local" | "declare" | "typeset");
                for assign in assigns {
                    self.assign(assign, local, ground);
                }
                FINE
            }
            "unset" => {
                for word in rest {
                    if let [(text, None)] = self.expand(word, ground).as_slice() {
                        let name = text.lossy();
                        self.state.clear_list(&name);
                        self.state.set(&name, Some(Text::default()));
                        self.functions.remove(&name);
                    }
                }
                FINE
            }
            "." | "source" => self.load(rest.first(), span, ground),
            "return" | "exit" => (Flow::Leave, Ok(true)),
            "eval" => {
                let mut text = Text::default();
                for (i, said) in self.texts(rest, ground).into_iter().enumerate() {
                    let [(part, None)] = said.as_slice() else {
                        return (Flow::Go, Err("what is run is not known".into()));
                    };
                    if i > 0 {
                        text.push(&Text::nowhere(" "));
                    }
                    text.push(part);
                }
                if let Some(why) = text.unknown {
                    return (Flow::Go, Err(why));
                }
                self.run_text(&text, ground)
            }
            "[" => {
                let inner = rest.split_last().map_or(rest, |(_, inner)| inner);
                (Flow::Go, self.asked_of_test(inner, ground))
            }
            "test" => (Flow::Go, self.asked_of_test(rest, ground)),
            "true" | ":" | "alias" | "unalias" | "set" | "bind" | "complete" | "umask"
            | "ulimit" | "trap" | "echo" | "bash_completion" | "enable" | "history"
            | "unsetenv" | "stty" | "tabs" => FINE,
            "false" => (Flow::Go, Ok(false)),
            "shopt" => {
                let asks = |said: &Vec<Said>| said.iter().any(|s| s.0.bytes.starts_with(b"-q"));
                match self.texts(rest, ground).iter().any(asks) {
                    true => (Flow::Go, Err("an option of the shell".into())),
                    false => FINE,
                }
            }
            "printf" | "read" | "mapfile" | "readarray" | "getopts" => {
                let texts = self.texts(rest, ground);
                let plain =
                    |said: &Vec<Said>| said.first().map(|s| s.0.lossy()).unwrap_or_default();
                let names: Vec<String> = match (name.as_str(), texts.first().map(plain)) {
                    ("printf", Some(flag)) if flag == "-v" => {
                        texts.get(1).map(plain).into_iter().collect()
                    }
                    ("printf", _) => Vec::new(),
                    _ => texts
                        .iter()
                        .map(plain)
                        .filter(|t| !t.starts_with('-'))
                        .collect(),
                };
                let why = Why::from(format!("what {name} gives"));
                for name in names {
                    self.state.set(&name, Some(Text::default().not_known(&why)));
                }
                (Flow::Go, if name == "printf" { Ok(true) } else { Err(why) })
            }
            "tput" => FINE,
            "command" | "type" | "which" | "hash" => {
                let texts = self.texts(rest, ground);
                let program = match texts.last().map(Vec::as_slice) {
                    Some([(text, None)]) if text.unknown.is_none() => text.lossy(),
                    _ => return (Flow::Go, Err("a program that is not known".into())),
                };
                let asks = name != "command"
                    || texts
                        .first()
                        .is_some_and(|t| t[0].0.bytes.starts_with(b"-"));
                match (asks, program.contains('/')) {
                    (true, false) => {
                        let known = self.functions.contains_key(&program);
                        (Flow::Go, Ok(known || self.access.has_program(&program)))
                    }
                    _ => (Flow::Go, Err(format!("what {program} answers").into())),
                }
            }
            _ => match self.call(&name) {
                Some(done) => done,
                None => (Flow::Go, Err(format!("what {name} answers").into())),
            },
        }
    }

    fn run_text(&mut self, text: &Text, ground: &Ground) -> Done {
        let (nodes, problem) = shell::parse(&text.bytes);
        let inner = Ground::Text(ground.visit(), Arc::new(text.clone()));
        let done = self.list(&nodes, &inner);
        match problem {
            None => done,
            Some(_) => (Flow::Go, Err("commands that are not understood".into())),
        }
    }

    /// Loads a file.
    fn load(&mut self, word: Option<&Word>, span: &Range<usize>, ground: &Ground) -> Done {
        let Some(word) = word else {
            return FINE;
        };
        let all = self.expand(word, ground);
        let [(text, None)] = all.as_slice() else {
            return (Flow::Go, Err("which file is loaded".into()));
        };
        if let Some(why) = &text.unknown {
            return (Flow::Go, Err(Arc::clone(why)));
        }
        let path: PathBuf = self.access.expand(&text.lossy(), self.access.home());
        if path == self.ours {
            let place = text.source(0..text.bytes.len());
            let here = |at: &Range<usize>| (ground.visit(), at.clone());
            let own = Some(word.span.clone()).filter(|_| matches!(ground, Ground::File(_)));
            self.loaded = place.or_else(|| own.as_ref().map(here));
            self.loaded.get_or_insert((ground.visit(), span.clone()));
            return FINE;
        }
        let here = &self.visits[ground.visit()];
        let line = here.file.position(match ground {
            Ground::File(_) => span.start,
            Ground::Text(..) => text.nearest(0).map_or(0, |n| n.1),
        });
        let mut deeper = here.chain.clone();
        deeper.push((here.file.path.clone(), line.line));
        self.file(&path, &deeper)
    }

    /// What is run before each prompt.
    fn prompt_commands(&mut self) {
        let list = self.state.list("PROMPT_COMMAND").to_vec();
        let all = match list.is_empty() {
            true => vec![self.state.get("PROMPT_COMMAND").to_vec()],
            false => list.into_iter().map(|one| vec![one]).collect(),
        };
        let Some(last) = self.visits.len().checked_sub(1) else {
            return;
        };
        for alternatives in all {
            let before = self.state.clone();
            let mut after = Vec::new();
            for one in alternatives {
                self.state = before.clone();
                if let Some(text) = one.value.filter(|t| t.unknown.is_none()) {
                    let visit = text.nearest(0).map_or(last, |n| n.0);
                    let base = self.parked.len();
                    let _ = self.run_text(&text, &Ground::File(visit));
                    self.parked.truncate(base);
                }
                let why = one.why.unwrap_or_else(|| "before each prompt".into());
                after.push((why, std::mem::take(&mut self.state)));
            }
            self.state = match after.len() {
                1 => after.remove(0).1,
                _ => State::either(&after),
            };
        }
    }
}

/// Whether a text matches a pattern, which unlike one of files goes across slashes.
fn matches(pattern: &str, text: &str) -> bool {
    let plain = |text: &str| text.replace('/', "\u{1}");
    wildcard(&plain(pattern), &plain(text))
}

/// A text with its escapes worked out, as `printf` does; without line ends behind it.
fn unescaped(text: &Text) -> Text {
    let bytes = &text.bytes;
    let (mut out, mut at) = (Text::default(), 0);
    while at < bytes.len() {
        let (byte, length) = match &bytes[at..] {
            [b'\\', b'e' | b'E', ..] => (0x1b, 2),
            [b'\\', b'n', ..] => (b'\n', 2),
            [b'\\', b't', ..] => (b'\t', 2),
            [b'\\', b'\\', ..] => (b'\\', 2),
            [b'\\', b'0', b'3', b'3', ..] => (0x1b, 4),
            [b'\\', b'x', b'1', b'b' | b'B', ..] => (0x1b, 4),
            [byte, ..] => (*byte, 1),
            [] => break,
        };
        let mut one = text.part(at..at + 1);
        one.bytes[0] = byte;
        out.push(&one);
        at += length;
    }
    while out.bytes.last() == Some(&b'\n') {
        out = out.part(0..out.bytes.len() - 1);
    }
    out
}
