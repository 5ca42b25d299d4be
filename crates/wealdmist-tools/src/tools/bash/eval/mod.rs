//! The startup file, run as far as it can be run without running anything: what the prompt comes to.

mod asked;
mod commands;
mod words;

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;
use std::path::Path;
use std::sync::Arc;

use wealdmist_core::reading::{FileProblem, ToolReport};

use crate::access::Access;
use crate::document::shell::{self, Node, Part, Word};
use crate::evaluated::state::{Alternative, State, Why};
use crate::evaluated::text::Text;
use crate::evaluated::{Ground, Visit};
use crate::limits;
use crate::shared::{self, Includer};
use crate::sourced::Ran;
use words::matches;

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
