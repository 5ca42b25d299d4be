//! The person's files, run as far as they can be run without running anything: the options and the
//! highlight groups that they come to.

mod api;
mod background;
mod events;
mod expression;
mod flow;
mod functions;
mod groups;
mod highlight;
mod library;
mod lua;
mod options;
mod parts;
mod readings;
mod script;
mod set_hl;
mod value;

use std::cell::OnceCell;
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::rc::Rc;
use std::sync::Arc;

use wealdmist_core::color::Rgb;
use wealdmist_core::reading::{FileProblem, ToolReport};

use super::is_lua;
use crate::Facts;
use crate::access::{Access, Loaded};
use crate::document;
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;
use crate::evaluated::{Ground, Visit};
use crate::limits;
use crate::shared::{self, Includer};

use events::Autocommand;
use flow::{Park, Run, Stop};
pub(super) use groups::attribute;
use highlight::{What, Write};
use parts::Names;
use value::{Function, Store, Table, Value};

/// The number of the program's error where there is no theme of a name.
const NO_THEME: &str = "E185";

/// The version of the program whose own groups are known.
const KNOWN: (u32, u32) = (0, 7);

/// The tables that everything is in.
struct Tables {
    /// The variables of Lua that no block has.
    globals: Table,
    /// `g:`
    g: Table,
    options: Table,
    /// The functions of scripts.
    functions: Table,
    commands: Table,
    /// The modules that were loaded.
    loaded: Table,
    /// What was put in the place of the program's own functions.
    own: Table,
}

/// The editor as far as its start can be followed.
pub(super) struct Editor<'a> {
    access: &'a dyn Access,
    folder: PathBuf,
    report: ToolReport,
    visits: Vec<Visit>,
    /// Whether a file is the program's own.
    shipped: Vec<bool>,
    store: Store,
    tables: Tables,
    /// The variables of each script.
    scripts: HashMap<PathBuf, Table>,
    autocommands: Vec<Autocommand>,
    /// What is done as soon as the start is over.
    scheduled: Vec<(Value, Option<Why>)>,
    /// The files that are run now, one from another.
    running: Vec<PathBuf>,
    augroup: String,
    parked: Vec<Park>,
    /// What the things that are done now depend on.
    whys: Vec<Why>,
    steps: usize,
    depth: usize,
    /// The command that is done now.
    here: (Ground, usize),
    /// Whether an event is being answered that sets off no others.
    quiet: bool,
    choosing: bool,
    /// How many things are going on whose errors are caught.
    trying: usize,
    /// In how many conditions and loops of a script the command stands.
    blocks: usize,
    /// What the gaps in a text depend on.
    gap: Option<Why>,
    augroups: Vec<String>,
    /// The groups that anything was set of.
    names: Names,
    /// What else is loaded that is not read here.
    plugins: Option<Why>,
    writes: Vec<Write>,
    version: OnceCell<Option<(u32, u32)>>,
    /// Whether a theme of the person's own was loaded.
    own_theme: bool,
    /// Whether files were given up that load themselves without end.
    endless: bool,
    dark: Option<bool>,
}

/// Reads what the editor of this folder comes to.
pub(super) fn run(
    access: &dyn Access,
    folder: &Path,
    init: &Path,
    facts: &Facts,
    report: ToolReport,
) -> ToolReport {
    let mut store = Store::default();
    let tables = Tables {
        globals: store.table(),
        g: store.table(),
        options: store.table(),
        functions: store.table(),
        commands: store.table(),
        loaded: store.table(),
        own: store.table(),
    };
    let mut sides = facts.terminals.iter().map(|t| t.ground.map(is_dark));
    let first = sides.next().unwrap_or(Some(true));
    let dark = first.filter(|first| sides.all(|s| s == Some(*first)));
    let mut editor = Editor {
        access,
        folder: folder.to_owned(),
        report,
        visits: Vec::new(),
        shipped: Vec::new(),
        store,
        tables,
        scripts: HashMap::new(),
        autocommands: Vec::new(),
        scheduled: Vec::new(),
        running: Vec::new(),
        augroup: String::new(),
        parked: Vec::new(),
        whys: Vec::new(),
        steps: 0,
        depth: 0,
        here: (Ground::File(0), 0),
        quiet: false,
        choosing: false,
        trying: 0,
        blocks: 0,
        gap: None,
        augroups: Vec::new(),
        names: Names::default(),
        plugins: None,
        writes: Vec::new(),
        version: OnceCell::new(),
        own_theme: false,
        endless: false,
        dark,
    };
    editor.begin();
    editor.start(init);
    editor.finish()
}

/// Whether the program takes a background for dark, as it does with the terminal's answer.
fn is_dark(ground: Rgb) -> bool {
    let of = |c: u8| f64::from(c) / 255.0;
    0.299 * of(ground.r) + 0.587 * of(ground.g) + 0.114 * of(ground.b) < 0.5
}

impl Editor<'_> {
    /// The version of the program, asked for when it matters.
    fn version(&self) -> Option<(u32, u32)> {
        *self.version.get_or_init(|| {
            let said = self.access.version("nvim", "--version")?;
            let mut numbers = said.trim_start_matches('v').split('.').map(str::parse);
            Some((numbers.next()?.ok()?, numbers.next()?.ok()?))
        })
    }

    /// What an option is that nothing sets.
    fn option_by_itself(&self, name: &str) -> Value {
        match name {
            "termguicolors" if self.version().is_some_and(|v| v < (0, 10)) => Value::Bool(false),
            "termguicolors" => Value::unknown("24-bit color, which the terminal decides"),
            _ => Value::unknown(&format!("the option {name}")),
        }
    }

    /// The background as the terminal has it.
    fn side(&self) -> Value {
        match self.dark {
            Some(true) => Value::text("dark"),
            Some(false) => Value::text("light"),
            None => Value::unknown("the terminal's background"),
        }
    }

    fn begin(&mut self) {
        let side = self.side();
        self.store
            .put(self.tables.options, "background", side.clone());
        self.store.put(self.tables.options, highlight::BASE, side);
    }

    /// Starts as the program does: the first file, then the plugins, then what waits for that.
    fn start(&mut self, init: &Path) {
        let _ = self.file(init, &[], false);
        for folder in [self.folder.clone(), self.folder.join("after")] {
            for pattern in [
                "plugin/*.vim",
                "plugin/*/*.vim",
                "plugin/*.lua",
                "plugin/*/*.lua",
            ] {
                for path in self.access.glob(&folder.join(pattern)) {
                    let _ = self.file(&path, &[], false);
                }
            }
        }
        let data = self.data_home().join("site/pack");
        if self.plugins.is_none() && !self.access.glob(&data.join("*/start/*")).is_empty() {
            self.plugins = Some("the plugins in site/pack".into());
        }
        for event in ["bufwinenter", "bufenter", "vimenter", "uienter"] {
            let _ = self.event(event, "");
        }
        self.put_off();
        self.waiting();
    }

    /// Does what was put off until the start is over. Where that puts off its own kind again and again, it comes
    /// to the same each time, or it is not known to what.
    fn put_off(&mut self) {
        let now = |this: &Self| format!("{:?}", this.store.said_of_groups());
        let (mut turns, mut before) = (0, String::new());
        while !self.scheduled.is_empty() && turns < limits::EDITOR_TURNS {
            turns += 1;
            let all = std::mem::take(&mut self.scheduled);
            if turns == limits::EDITOR_TURNS || all.len() > limits::EDITOR_PUT_OFF {
                before = now(self);
                turns = limits::EDITOR_TURNS;
            }
            for (function, why) in all {
                let base = self.parked.len();
                let _ = self.perhaps(why.as_ref(), &mut |this| {
                    this.call(&function, Vec::new()).map(|_| ())
                });
                self.errors_end(base);
            }
        }
        if !self.scheduled.is_empty() && before != now(self) {
            self.nothing_known(&"what is put off without end".into());
        }
    }

    /// Where data of the program is that is not configuration.
    fn data_home(&self) -> PathBuf {
        match self.access.env("XDG_DATA_HOME") {
            Some(dir) if Path::new(&dir).is_absolute() => PathBuf::from(dir).join("nvim"),
            _ => self.access.home().join(".local/share/nvim"),
        }
    }

    /// Runs a file; `None` where there is none. An error in it ends what caught it, where something does.
    fn file(&mut self, path: &Path, chain: &[Includer], shipped: bool) -> Run<Option<Vec<Value>>> {
        /// How often a file is followed into itself: what it does the third time it does for ever.
        const CIRCLES: usize = 3;
        // A file may load itself, and what it put off may load it again.
        let again = chain.iter().position(|(p, _)| p == path);
        let chain = again.map_or(chain, |first| &chain[..first]);
        if self.running.iter().filter(|p| *p == path).count() == CIRCLES {
            let what = "a file loads itself again and again";
            self.fault(what, "the program gives up here");
            self.endless = true;
            return Err(Stop::Error(what.into()));
        }
        self.running.push(path.to_owned());
        let out = self.apart(|this| this.file_in(path, chain, shipped));
        self.running.pop();
        out
    }

    fn file_in(
        &mut self,
        path: &Path,
        chain: &[Includer],
        shipped: bool,
    ) -> Run<Option<Vec<Value>>> {
        let file = match shipped {
            // The program's own files are none of the person's.
            true => {
                let Loaded::File { target, bytes } = self.access.read(path) else {
                    return Ok(None);
                };
                wealdmist_core::reading::SourceFile {
                    path: path.to_owned(),
                    target,
                    bytes,
                    included_from: None,
                    lines: Default::default(),
                }
            }
            false => match shared::load(self.access, &mut self.report, path, chain, false) {
                Some(file) => file,
                None => return Ok(None),
            },
        };
        // A file that is run again is the same file.
        let known = self.visits.iter().position(|v| v.file.path == *path);
        let visit = known.unwrap_or(self.visits.len());
        if known.is_none() {
            self.visits.push(Visit {
                file: file.clone(),
                chain: chain.to_vec(),
            });
            self.shipped.push(shipped);
        }
        let ground = Ground::File(visit);
        let before = std::mem::replace(&mut self.here, (ground.clone(), 0));
        let base = self.parked.len();
        let outcome = match is_lua(path) {
            true => match document::lua::parse(&file.bytes) {
                Ok(block) => self.chunk(&block, &ground, Vec::new()),
                Err(problem) => {
                    self.report.problems.push(FileProblem {
                        path: file.path.clone(),
                        at: Some(file.position(problem.at)),
                        message: problem.message,
                        help: "correct this place; the file is left alone until then".into(),
                        blocks_edits: true,
                    });
                    match self.trying > 0 {
                        true => Err(Stop::Error("a file of Lua with a mistake".into())),
                        false => Ok(Vec::new()),
                    }
                }
            },
            false => {
                let nodes = document::vim::parse(&file.bytes);
                let script = self.script_of(path);
                self.nodes(&nodes, &ground, script, script)
                    .map(|()| Vec::new())
            }
        };
        let outcome = match outcome {
            Err(Stop::Finish) => Ok(Vec::new()),
            other => other,
        };
        let is_caught = self.trying > 0;
        let is_first = self.running.len() == 1;
        let ends = |s: &Stop| match s {
            Stop::Error(_) => !is_caught,
            Stop::Thrown => is_first,
            _ => true,
        };
        let values = match self.boundary(base, outcome, &ends) {
            Ok(values) | Err(Stop::Return(values)) => values,
            Err(Stop::Error(what)) if self.trying > 0 => return Err(Stop::Error(what)),
            Err(Stop::Thrown) if !is_first => return Err(Stop::Thrown),
            Err(Stop::Error(what)) => {
                self.fault(
                    &what,
                    "the program stops reading here, and what stands below is without effect",
                );
                Vec::new()
            }
            Err(_) => Vec::new(),
        };
        self.here = before;
        Ok(Some(values))
    }

    /// The variables of a script.
    fn script_of(&mut self, path: &Path) -> Table {
        if let Some(table) = self.scripts.get(path) {
            return *table;
        }
        let table = self.store.table();
        self.scripts.insert(path.to_owned(), table);
        table
    }

    /// Says what an error comes to.
    fn fault(&mut self, what: &str, effect: &str) {
        let (ground, at) = self.here.clone();
        let at = self.place(&ground, at);
        let file = &self.visits[ground.visit()].file;
        if !self.whys.is_empty() || self.shipped[ground.visit()] {
            return;
        }
        self.report.problems.push(FileProblem {
            path: file.path.clone(),
            at: Some(file.position(at)),
            message: format!("{what}: {effect}"),
            help: "correct this place".into(),
            blocks_edits: false,
        });
    }

    /// Counts a step; whether it is one too many.
    fn step(&mut self) -> Run<()> {
        self.steps += 1;
        if self.steps == limits::EDITOR_STEPS + 1 {
            let file = &self.visits[self.here.0.visit()].file;
            self.report.problems.push(FileProblem {
                at: None,
                path: file.path.clone(),
                message: "it does too much to be followed; what is set after that is not read"
                    .to_owned(),
                help: "move long loops into a file of their own that sets no colors".to_owned(),
                blocks_edits: false,
            });
        }
        match self.steps > limits::EDITOR_STEPS {
            true => Err(Stop::Finish),
            false => Ok(()),
        }
    }

    /// Goes one level deeper, where that is not too deep.
    fn deeper<T>(&mut self, inner: impl FnOnce(&mut Self) -> Run<T>) -> Option<Run<T>> {
        if self.depth >= limits::EDITOR_DEPTH {
            return None;
        }
        self.depth += 1;
        let out = inner(self);
        self.depth -= 1;
        Some(out)
    }

    /// The includes that lead to what is done now.
    fn chain(&self) -> Vec<Includer> {
        let (ground, at) = &self.here;
        let visit = &self.visits[ground.visit()];
        let mut chain = visit.chain.clone();
        let at = self.place(ground, *at);
        chain.push((visit.file.path.clone(), visit.file.position(at).line));
        chain
    }

    /// Where a byte of what is done now stands in its file.
    fn place(&self, ground: &Ground, at: usize) -> usize {
        match ground {
            Ground::File(_) => at,
            Ground::Text(_, text) => text.nearest(at).map_or(0, |n| n.1),
        }
    }

    /// The folders that things are looked for in.
    fn folders(&self) -> Vec<PathBuf> {
        vec![
            self.folder.clone(),
            self.data_home().join("site"),
            self.folder.join("after"),
        ]
    }

    /// The folder of the program's own files.
    fn runtime(&self) -> Option<PathBuf> {
        if let Some(dir) = self.access.env("VIMRUNTIME") {
            return Some(dir.into());
        }
        self.access.shared_data("nvim/runtime")
    }

    /// Chooses a theme, as `:colorscheme` does; an error where there is none of that name.
    fn choose(&mut self, name: &Text) -> Run<()> {
        let text = name.lossy();
        self.store.put(
            self.tables.options,
            readings::SCHEME,
            Value::Text(name.clone()),
        );
        if !self.choosing && !self.shipped[self.here.0.visit()] {
            let what = What::Scheme;
            self.writes.push(Write {
                what,
                text: name.clone(),
            });
        }
        if text.is_empty() || text.contains(['/', '\0']) || self.choosing {
            return Ok(());
        }
        let chain = self.chain();
        let mut found = None;
        for end in ["vim", "lua"] {
            let relative = format!("colors/{text}.{end}");
            for folder in self.folders() {
                found = found.or_else(|| {
                    self.exists(&folder.join(&relative))
                        .then(|| (folder.join(&relative), false))
                });
            }
            let pack = self.data_home().join("site/pack/*/*/*").join(&relative);
            found = found.or_else(|| {
                self.access
                    .glob(&pack)
                    .into_iter()
                    .next()
                    .map(|p| (p, false))
            });
            let own = self.runtime().map(|r| r.join(&relative));
            found = found.or_else(|| own.filter(|p| self.exists(p)).map(|p| (p, true)));
        }
        if found.is_none() && text == "default" {
            self.clear_all();
            return Ok(());
        }
        let Some((path, shipped)) = found else {
            if let Some(why) = self.plugins.clone() {
                let why: Why =
                    format!("the theme {text}, which is not in this home ({why})").into();
                self.nothing_known(&why);
                return Ok(());
            }
            // The first versions tell everybody of it, whether there is one or not.
            if self.version().is_some_and(|v| v < (0, 8)) {
                // What waits for it chooses none by itself.
                self.choosing = true;
                let told = self.event("colorschemepre", &text);
                let told = told.and_then(|()| self.event("colorscheme", &text));
                self.choosing = false;
                told?;
            }
            return Err(Stop::Error(
                format!("there is no theme '{text}' ({NO_THEME})").into(),
            ));
        };
        self.event("colorschemepre", &text)?;
        self.choosing = true;
        self.own_theme |= !shipped;
        let outcome = self.file(&path, &chain, shipped);
        let event = match outcome.is_ok() || is_lua(&path) {
            // An error in a file of Lua is told behind the event.
            true => self.event("colorscheme", &text),
            false => Ok(()),
        };
        self.choosing = false;
        outcome?;
        event
    }

    fn exists(&self, path: &Path) -> bool {
        matches!(self.access.read(path), Loaded::File { .. })
    }

    /// Calls something.
    fn call(&mut self, callee: &Value, given: Vec<Value>) -> Run<Vec<Value>> {
        match callee {
            Value::Function(function) => self.call_function(&Rc::clone(function), given),
            Value::Own(path) => self.own(&Rc::clone(path), given),
            Value::Unknown(why) => Ok(vec![Value::Unknown(Arc::clone(why))]),
            Value::Either(all) => {
                let mut outcomes = Vec::new();
                let whys: Vec<Why> = all.iter().map(|a| Arc::clone(&a.0)).collect();
                self.fork(&whys, &mut |this, side| {
                    let value = this.call(&all[side].1, given.clone())?;
                    let first = value.into_iter().next().unwrap_or(Value::Nil);
                    outcomes.push((Arc::clone(&whys[side]), first));
                    Ok(())
                })?;
                Ok(vec![Value::either(outcomes)])
            }
            Value::Nil => Err(Stop::Error("something is called that is nil".into())),
            // A table may be one that can be called.
            Value::Table(_) => Ok(vec![Value::unknown("what a table gives when it is called")]),
            _ => Err(Stop::Error(
                "something is called that is no function".into(),
            )),
        }
    }

    fn call_function(&mut self, function: &Function, given: Vec<Value>) -> Run<Vec<Value>> {
        let base = self.parked.len();
        let outcome = self.deeper(|this| match function {
            Function::Lua {
                function,
                scope,
                ground,
                ..
            } => {
                let own = this.scope(*scope);
                let mut given = given.into_iter();
                for name in &function.parameters {
                    let value = given.next().unwrap_or(Value::Nil);
                    this.store.put(own, name, value);
                }
                let more = this.store.list(given.collect());
                if function.more {
                    this.store.put(own, lua::MORE, more);
                }
                let before = this.here.clone();
                let out = this.block(&function.body, ground, own);
                if !matches!(out, Err(Stop::Error(_))) {
                    this.here = before;
                }
                out
            }
            Function::Vim {
                function,
                script,
                ground,
            } => {
                let own = this.store.table();
                for (name, value) in function.parameters.iter().zip(given) {
                    this.store.put(own, &format!("a:{name}"), value);
                }
                let before = this.here.clone();
                let out = this.apart(|this| this.nodes(&function.body, ground, *script, own));
                this.here = before;
                match out {
                    // Without `abort` an error only ends a command.
                    Err(Stop::Error(_)) if !function.abort && this.trying == 0 => Ok(()),
                    other => other,
                }
            }
        });
        let Some(outcome) = outcome else {
            return Ok(vec![Value::unknown("calls that are nested too deeply")]);
        };
        let outcome = outcome.map(|()| Vec::new());
        match self.boundary(base, outcome, &|s| {
            matches!(s, Stop::Return(_) | Stop::Break)
        }) {
            Ok(values) | Err(Stop::Return(values)) => Ok(values),
            Err(stop) => Err(stop),
        }
    }

    /// Runs a text as commands of the editor; `strict` where the first error ends it.
    fn run_text(
        &mut self,
        text: &Rc<Text>,
        ground: &Ground,
        strict: bool,
        script: Option<Table>,
    ) -> Run<()> {
        if let Some(why) = &text.unknown {
            self.open(&Arc::clone(why));
            return Ok(());
        }
        let inner = Ground::Text(ground.visit(), Arc::new((**text).clone()));
        let nodes = document::vim::parse(&text.bytes);
        let script = script.unwrap_or_else(|| self.store.table());
        let before = self.here.clone();
        let outcome = self
            .deeper(|this| match strict {
                true => this.strictly(&nodes, &inner, script),
                false => this.nodes(&nodes, &inner, script, script),
            })
            .unwrap_or(Ok(()));
        if !matches!(outcome, Err(Stop::Error(_))) {
            self.here = before;
        }
        outcome
    }

    /// Notes that something is run that cannot be followed.
    fn open(&mut self, why: &Why) {
        self.plugins.get_or_insert_with(|| Arc::clone(why));
    }

    /// Runs a module: an error in it is one of what asked for it.
    fn module(&mut self, path: &Path, chain: &[Includer]) -> Run<Vec<Value>> {
        self.trying += 1;
        let out = self.file(path, chain, false);
        self.trying -= 1;
        out.map(Option::unwrap_or_default)
    }
}
