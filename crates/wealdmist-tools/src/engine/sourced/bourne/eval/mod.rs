//! Startup files, run as far as they can be run without running anything: what the prompt comes to.

mod asked;
mod commands;
mod words;
mod zsh;

use std::collections::BTreeMap;
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use wealdmist_core::reading::{FileProblem, ToolReport};

use crate::access::Access;
use crate::document::shell::{self, Kin, Node, Part, Word};
use crate::evaluated::functions::{self, joined};
use crate::evaluated::state::{Alternative, State, Why};
use crate::evaluated::text::Text;
use crate::evaluated::{Ground, Visit};
use crate::limits;
use crate::shared::{self, Includer};
use crate::sourced::{Ran, Unknown, terminals, too_much};
use words::matches;
pub use zsh::OF_REPOSITORY;

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
    File(&'n Path),
    Nothing,
}

/// One of the values of a word.
type Said = (Text, Option<Why>);

type Functions = functions::Functions<Vec<Node>>;

/// What local variables had been outside of a function that is running.
#[derive(Default)]
struct Frame {
    before: Vec<(String, Vec<Alternative>)>,
    /// Whether the options of the shell are its own, too.
    options: bool,
}

struct Shell<'a> {
    kin: Kin,
    access: &'a dyn Access,
    ours: &'a Path,
    report: ToolReport,
    visits: Vec<Visit>,
    state: State,
    functions: Functions,
    /// What held where a file or function was left under a condition, with that condition and the one
    /// under which it goes on.
    parked: Vec<(Why, Why, State)>,
    /// The functions that are running.
    locals: Vec<Frame>,
    /// What is written, where that is listened to.
    written: Vec<Text>,
    /// What was run that is not known, and may set the prompt at any time.
    unknown: Unknown,
    depth: usize,
    steps: usize,
    loaded: Option<(usize, Range<usize>)>,
}

/// The most values of a word that are kept.
const MOST: usize = 8;

/// Runs the startup files of a shell, of which `file` is the one for those that a person types in. `terms` are
/// the types of the terminals they are read in.
pub fn run(
    kin: Kin,
    access: &dyn Access,
    report: ToolReport,
    file: &Path,
    ours: &Path,
    terms: &[String],
) -> Ran {
    let mut shell = Shell::new(kin, access, ours, report);
    let system: Why = "the system's own file for shells".into();
    let (prompt, own) = match kin {
        Kin::Bash => ("PS1", "\\s-\\v\\$ "),
        Kin::Zsh => ("PROMPT", "%m%# "),
    };
    let own = Text::nowhere(own).not_known(&system);
    shell.state.set(prompt, Some(own));
    let version: Why = "the version of the shell".into();
    let version = Text::nowhere("").not_known(&version);
    shell.state.set(
        match kin {
            Kin::Bash => "BASH_VERSION",
            Kin::Zsh => "ZSH_VERSION",
        },
        Some(version),
    );
    shell.state.set_all("TERM", terminals(terms));
    // Every terminal of ours says so.
    shell
        .state
        .set("COLORTERM", Some(Text::nowhere("truecolor")));
    let prompts: &[&'static str] = match kin {
        Kin::Bash => {
            let _ = shell.file(file, &[]);
            shell.prompt_commands();
            &["PS1"]
        }
        Kin::Zsh => {
            shell.zsh_files();
            shell.zsh_prompt();
            &["PROMPT", "RPROMPT"]
        }
    };
    let of = |name: &&'static str| {
        let all = shell.state.get(name).iter();
        all.map(|one| (*name, one.under(shell.unknown.why.as_ref())))
            .collect::<Vec<_>>()
    };
    let prompts: Vec<_> = prompts.iter().flat_map(of).collect();
    let others = match kin {
        Kin::Bash => Vec::new(),
        Kin::Zsh => shell.zsh_others(),
    };
    let init = shell.state.get("INPUTRC").iter();
    let init = init.filter(|one| one.value.is_some() || one.why.is_some());
    Ran {
        prompts,
        others,
        defaults: Vec::new(),
        init: init.cloned().collect(),
        runs: shell.unknown.commands,
        loaded: shell.loaded.take(),
        report: shell.report,
        visits: shell.visits,
    }
}

/// The folder of the files of zsh, as the one that is read in any case says it.
pub fn zsh_folder(access: &dyn Access) -> PathBuf {
    let report = ToolReport::new(wealdmist_core::reading::ToolId("zsh"));
    let mut shell = Shell::new(Kin::Zsh, access, Path::new(""), report);
    let _ = shell.file(&shell.zsh_dir().join(".zshenv"), &[]);
    shell.zsh_dir()
}

impl<'a> Shell<'a> {
    fn new(kin: Kin, access: &'a dyn Access, ours: &'a Path, report: ToolReport) -> Self {
        Self {
            kin,
            access,
            ours,
            report,
            visits: Vec::new(),
            state: State::default(),
            functions: BTreeMap::new(),
            parked: Vec::new(),
            locals: Vec::new(),
            written: Vec::new(),
            unknown: Unknown::default(),
            depth: 0,
            steps: 0,
            loaded: None,
        }
    }

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
        let (nodes, problem) = shell::parse(&file.bytes, self.kin);
        if let Some(problem) = problem {
            self.report.problems.push(FileProblem {
                at: Some(file.position(problem.at)),
                path: file.path,
                message: "from here on the commands are not understood; what they set is not read"
                    .into(),
                help: match self.kin {
                    Kin::Bash => "see whether the shell takes the file: `bash -n` says",
                    Kin::Zsh => "see whether the shell takes the file: `zsh -n` says",
                }
                .into(),
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
            let left = self.parked.drain(base..).collect();
            self.state = std::mem::take(&mut self.state).with_left(left);
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
            self.report.problems.push(too_much(&file.path));
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
            Node::Now(body) => self.run_body(&(Arc::new(body.clone()), ground.clone())),
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
            Node::Arithmetic(span) => {
                let text = self.source(span, ground);
                (Flow::Go, self.arithmetic(&text.bytes))
            }
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
                Branch::File(path) => self.file(path, &[]),
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
            if let Some(all) = self.elements(word) {
                values.extend(all);
                continue;
            }
            let quoted = |p: &Part| matches!(p, Part::Plain(_, _, true) | Part::Variable(.., true));
            let is_quoted = word.parts.iter().any(quoted);
            let [(text, None)] = self.expand(word, ground).try_into().unwrap_or_else(|_| {
                let unknown = Text::default().not_known(&"a loop's values".into());
                [(unknown, None)]
            }) else {
                continue;
            };
            let mut written = text.lossy();
            // What zsh says of files in brackets: that there may be none, for one.
            let qualified = self.kin == Kin::Zsh && written.ends_with(')') && !is_quoted;
            if let Some(at) = written.rfind('(').filter(|_| qualified) {
                written.truncate(at);
            }
            if text.unknown.is_none() && !is_quoted && written.contains(['*', '?', '[']) {
                let path = self.access.expand(&written, self.access.home());
                let found = self.access.glob(&path);
                // A pattern that names nothing stands for itself; zsh leaves the file.
                if found.is_empty() {
                    match self.kin {
                        Kin::Bash => values.push(text),
                        Kin::Zsh if qualified => {}
                        Kin::Zsh => return (Flow::Leave, Ok(false)),
                    }
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

    /// The elements of an array that a word is, where it is one.
    fn elements(&self, word: &Word) -> Option<Vec<Text>> {
        let [Part::Variable(name, operation, _, quoted)] = word.parts.as_slice() else {
            return None;
        };
        let all = match operation.as_str() {
            "[@]" => true,
            "[*]" => !quoted,
            _ => operation.is_empty() && self.kin == Kin::Zsh && !quoted,
        };
        let list = Some(self.state.list(name)).filter(|l| all && !l.is_empty())?;
        let sure = |one: &Alternative| one.value.clone().filter(|_| one.why.is_none());
        list.iter().map(sure).collect()
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
        self.locals.push(Frame::default());
        let done = self.whole(body, ground);
        let frame = self.locals.pop().unwrap_or_default();
        for (name, old) in frame.before.into_iter().rev() {
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
