//! The engine of shells: a script of ours, and one line in the person's own file that loads it.
//!
//! A shell is a row: where its file is, what our script is called, how a change arrives. What only its
//! language knows (how a line loads a file, how a prompt of the person's own is written, how the script
//! is) is its [`Dialect`].

pub mod bourne;
mod drawn;
mod generation;
pub mod own;
pub mod painted;
pub mod repository;
pub(crate) mod said;
pub(crate) mod told;

use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Left, Plan, Splice};
use wealdmist_core::prompt::own::Own;
use wealdmist_core::prompt::{Design, Part};
use wealdmist_core::property::{OUR_THEME, Property};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{
    Drawn, FileProblem, Place, Reading, SourceFile, Standing, ToolId, ToolReport, Value,
};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;
use wealdmist_core::text;

use crate::access::Access;
use crate::document::lines;
use crate::engine::{Adapter, Engine, Facts, Wanted};
use crate::evaluated::Visit;
use crate::evaluated::state::{Alternative, Why};
use crate::evaluated::text::Text;
use crate::glyphs;
use crate::live::{Live, Reload};
use crate::shared::{self, Edits, Torn, own_folder};
use own::Piece;

pub(crate) use drawn::{drawn, drawn_by_design};
pub use generation::{generation, marked};

/// How a change of the prompt arrives in every shell.
pub const ARRIVES: Live = Live::own(
    Reload::NextPrompt,
    "at each shell's next prompt; in shells without our prompt when they start again",
);

/// A shell.
pub struct Sourced {
    /// The name on the command line and in the setup file.
    pub id: ToolId,
    /// The program.
    pub program: &'static str,
    /// The person's file that it reads first.
    pub file: fn(&dyn Access) -> PathBuf,
    /// What our script is called.
    pub ours: &'static str,
    /// What begins a comment.
    pub comment: &'static str,
    /// Which escapes its files have.
    pub syntax: Syntax,
    /// How a change arrives.
    pub live: Live,
    /// How what a prompt costs is measured.
    pub drawing: Drawing,
    /// What only its language knows.
    pub dialect: &'static dyn Dialect,
}

/// How a shell is made to draw prompts and nothing else. `@N@` stands for how many.
#[derive(Debug, Clone, Copy)]
pub struct Drawing {
    /// The arguments with which it reads nothing of the person's, is interactive, and runs the line that
    /// follows.
    pub arguments: &'static [&'static str],
    /// Folders of the home that have to be there, lest it does more when it starts.
    pub folders: &'static [&'static str],
    /// Draws prompts of our script.
    pub ours: &'static str,
    /// Draws prompts that it has by itself.
    pub own: &'static str,
}

/// What a startup file comes to.
pub struct Ran {
    /// The files read, and what was wrong with them.
    pub report: ToolReport,
    /// The files as they were met.
    pub(crate) visits: Vec<Visit>,
    /// What the prompts may be, each with the name it is set by.
    pub(crate) prompts: Vec<(&'static str, Alternative)>,
    /// What else may say colors, each with what it is called.
    pub(crate) others: Vec<(String, Alternative)>,
    /// What of that is the shell's own while nobody says otherwise.
    pub(crate) defaults: Vec<(String, Alternative)>,
    /// What names the init file of the shell's line editor, where that has one.
    pub(crate) init: Vec<Alternative>,
    /// What is run that only a program knows, as it is written.
    pub(crate) runs: Vec<Vec<u8>>,
    /// Where our script is loaded.
    pub loaded: Option<(usize, Range<usize>)>,
}

/// A stretch of a prompt of the person's own in one text color on one ground: the readings that say
/// them, by their place in the report.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stretch {
    /// Of the text.
    pub text: Option<usize>,
    /// Of the ground.
    pub ground: Option<usize>,
    /// Whether it is a shape between two segments rather than text.
    pub joins: bool,
}

/// A color that our script sets.
#[derive(Debug, Clone, PartialEq)]
pub struct Written {
    /// Of what.
    pub role: &'static str,
    /// Where in the line.
    pub span: Range<usize>,
    /// The color.
    pub value: Value,
}

/// What only a shell's language knows.
pub trait Dialect: Sync {
    /// What its prompt is set by, and what that at the right edge.
    fn keys(&self) -> (&'static str, &'static str);
    /// What a prompt is made of that stands in a text.
    fn pieces(&self, text: &[u8]) -> Vec<Piece>;
    /// What something that is no prompt says of colors: what each does, the color, and where it stands in the
    /// text. A text that says none has none.
    fn others(&self, name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
        let _ = (name, text);
        Vec::new()
    }
    /// What reads the text that stands at some places of a file; see [`Adapter::quoting`].
    /// Unless it says otherwise, a text there must mean nothing to any language.
    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let quotes = glyphs::shell_quotes(&file.bytes, places);
        let inert = |quotes: Option<Quoting>| Some(vec![Quoting::Inert, quotes?]);
        quotes.into_iter().map(inert).collect()
    }
    /// Runs the startup file as far as that needs nothing to be run; `ours` is our script, `terms` the
    /// types of the terminals that are there.
    fn run(
        &self,
        access: &dyn Access,
        report: ToolReport,
        file: &Path,
        ours: &Path,
        terms: &[String],
    ) -> Ran;
    /// A file as a word, in which `$HOME` stands for the home. `None` where its path cannot be written.
    fn word(&self, access: &dyn Access, path: &Path) -> Option<Code> {
        let written = |path: &Path| quote(path.to_str()?, &[Quoting::Double]);
        match path.strip_prefix(access.home()) {
            Ok(rest) => Some(Code::of("\"$HOME/{}\"", &[&written(rest)?])),
            Err(_) => Some(Code::of("\"{}\"", &[&written(path)?])),
        }
    }
    /// The line that loads a file where it is there.
    fn load(&self, word: &Code) -> Code;
    /// The file that shells in which one logs in read in place of the usual one, and the line that loads a file
    /// there.
    fn login(&self, access: &dyn Access, word: &Code) -> Option<(PathBuf, Code)> {
        let _ = (access, word);
        None
    }
    /// A file in the home, as a word of a script that is shared.
    fn anywhere(&self, ours: &'static str) -> Code {
        Code::of("\"$HOME/.config/wealdmist/{}\"", &[&Code::fixed(ours)])
    }
    /// The line that gives a variable a value that it does not get where it stands; `None` where there is no such
    /// line.
    fn sets(&self, name: &str, value: &[u8]) -> Option<Code> {
        let _ = (name, value);
        None
    }
    /// The lines that say colors which nothing says yet, each with a role it is for.
    fn adds(&self, all: &[(RoleId, Rgb)]) -> Vec<(RoleId, Code)> {
        let _ = all;
        Vec::new()
    }
    /// Whether a file is the shell's own to write: it forgets what another hand writes there.
    fn keeps(&self, path: &Path) -> bool {
        let _ = path;
        false
    }
    /// A color as it is written into the person's own files in the place of one that was read there, as `old`,
    /// behind `before`.
    fn spell(&self, color: Rgb, read: &Reading, before: Option<u8>, old: &[u8]) -> Code;
    /// Our script, which is the file that `word` names.
    fn script(&self, setup: &Setup, look: &Look, word: &Code) -> Code;
    /// Why a part of a design is not drawn in this shell as it says; `None` where it is.
    fn cannot(&self, part: &Part, design: &Design) -> Option<&'static str> {
        let _ = (part, design);
        None
    }
    /// Whether a line that comes behind our script takes the prompt away again.
    fn takes_away(&self, line: &str) -> bool;
    /// The color that a line of our script sets.
    fn written(&self, line: &str) -> Option<Written>;
}

/// Whether what a program writes for a shell to run is known to set no prompt: variables, completions.
pub(crate) fn sets_no_prompt(program: &str) -> bool {
    const KNOWN: [&str; 14] = [
        "dircolors",
        "lesspipe",
        "lessfile",
        "ssh-agent",
        "gpg-agent",
        "keychain",
        "brew",
        "resize",
        "direnv",
        "pyenv",
        "rbenv",
        "opam",
        "fzf",
        "locale",
    ];
    KNOWN.contains(&program.rsplit('/').next().unwrap_or(program))
}

/// The types of the terminals that startup files are read in, as the values of the variable that says them.
pub(crate) fn terminals(terms: &[String]) -> Vec<Alternative> {
    let known = |term: &str, why: Option<Why>| Alternative {
        value: Some(Text::nowhere(term)),
        why,
    };
    match terms {
        [] => vec![known("xterm-256color", None)],
        [term] => vec![known(term, None)],
        several => several
            .iter()
            .map(|term| known(term, Some(format!("where TERM is {term}").into())))
            .collect(),
    }
}

/// That a file does more than is followed.
pub(crate) fn too_much(path: &Path) -> FileProblem {
    FileProblem {
        at: None,
        path: path.to_owned(),
        message: "it does too much to be followed; what is set after that is not read".to_owned(),
        help: "move long loops into a file of their own that sets no prompt".to_owned(),
        blocks_edits: false,
    }
}

/// What is run that only a program knows: it may set the prompt, at any time.
#[derive(Debug, Default)]
pub(crate) struct Unknown {
    /// What depends on it, of the first.
    pub why: Option<Why>,
    /// All of it, as it is written.
    pub commands: Vec<Vec<u8>>,
}

impl Unknown {
    /// Notes a command that runs what a program writes; without a name it is made when it is run.
    pub fn note(&mut self, program: &str, command: &[u8]) {
        if sets_no_prompt(program) {
            return;
        }
        self.why.get_or_insert_with(|| match program.is_empty() {
            true => "what commands that are made when they are run do".into(),
            false => format!("what the commands do that {program} writes").into(),
        });
        self.commands.push(command.to_vec());
    }
}

/// What the names of such files end in.
const DESCRIBES: [&str; 5] = ["json", "jsonc", "yaml", "yml", "toml"];

/// The files that commands name in which a prompt may be described as data.
fn descriptions<'a>(commands: impl Iterator<Item = &'a [u8]>, access: &dyn Access) -> Vec<PathBuf> {
    let mut out: Vec<PathBuf> = Vec::new();
    for command in commands {
        let command = String::from_utf8_lossy(command);
        let ends = |c: char| c.is_whitespace() || "'\"`()<>|;&=,".contains(c);
        for word in command.split(ends) {
            let Some(end) = word.rsplit_once('.').map(|(_, end)| end) else {
                continue;
            };
            let word = word.replace("$env:HOME/", "~/");
            // A path from where one is says another file in each folder.
            let path = access.expand(&word, Path::new(""));
            if DESCRIBES.contains(&end) && path.is_absolute() {
                out.push(path);
            }
        }
    }
    out
}

impl Sourced {
    /// Where our script is.
    #[must_use]
    pub fn path(&self, access: &dyn Access) -> PathBuf {
        own_folder(access).join(self.ours)
    }

    /// Our script with the line at its head that tells one generation of it from the next.
    #[must_use]
    pub fn generate(&self, setup: &Setup, look: &Look, word: &Code) -> Code {
        marked(self.comment, &self.dialect.script(setup, look, word))
    }

    fn is_loaded(report: &ToolReport) -> bool {
        let theme = report.effective(&RoleId::from(Property::Theme));
        theme.is_some_and(|r| r.value == Value::Text(OUR_THEME.into()))
    }

    /// The file of shells in which one logs in that does not come to the usual one, nor to our script, with the line
    /// that would load it.
    fn apart(&self, access: &dyn Access) -> Option<(PathBuf, Code)> {
        let ours = self.path(access);
        let word = self.dialect.word(access, &ours)?;
        let (login, line) = self.dialect.login(access, &word)?;
        let usual = (self.file)(access);
        let read = ToolReport::new(self.id);
        let ran = self.dialect.run(access, read, &login, &ours, &[]);
        let comes = ran.visits.iter().any(|visit| visit.file.path == usual);
        (!comes && ran.loaded.is_none()).then_some((login, line))
    }

    /// Says that such a file is read in place of the usual one.
    fn tell_apart(&self, access: &dyn Access, report: &mut ToolReport) {
        if report.files.is_empty() {
            return;
        }
        let Some((login, _)) = self.apart(access) else {
            return;
        };
        let Some(file) = shared::load(access, report, &login, &[], false) else {
            return;
        };
        let usual = (self.file)(access);
        let usual = match usual.strip_prefix(access.home()) {
            Ok(rest) => format!("~/{}", rest.display()),
            Err(_) => usual.display().to_string(),
        };
        report.problems.push(FileProblem {
            at: Some(file.position(0)),
            path: file.path,
            message: format!(
                "shells in which one logs in read this file and not {usual}: the prompt there is another one"
            ),
            help: format!("let it read that file, `. {usual}`, or have a prompt made for this shell"),
            blocks_edits: false,
        });
    }

    /// Edits of colors where they stand: of what is typed, and without a prompt of ours those of the person's own.
    fn in_place(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access, plan: &mut Plan) {
        let mut edits = Edits::default();
        let torn = Torn::of(report, wanted);
        let generates = wanted.generates(self.id);
        let differs = |r: &&Reading| {
            let is_ours = generates && r.role.as_str().starts_with("prompt.");
            !is_ours && !r.role.is_property() && wanted.differs(self.id, r)
        };
        let mut set_anew: Vec<&str> = Vec::new();
        for reading in report.readings.iter().filter(differs) {
            if !reading.editable {
                let kept = reading.is_default() || self.dialect.keeps(&reading.place.path);
                if kept && !set_anew.contains(&reading.key.as_str()) {
                    set_anew.push(&reading.key);
                }
            } else if let Some(one) = torn.left(self.id, reading) {
                plan.left.push(one);
            } else {
                let color = wanted.look.color(&reading.role);
                let bytes = report
                    .file(&reading.place.path)
                    .map_or(&[][..], |f| &f.bytes);
                let span = reading.place.span.clone();
                let before = span
                    .start
                    .checked_sub(1)
                    .and_then(|i| bytes.get(i).copied());
                let old = bytes.get(span).unwrap_or_default();
                edits.replace(reading, self.dialect.spell(color, reading, before, old));
            }
        }
        let adds = wanted.setup.tool(self.id).adds;
        let nowhere = adds.iter().filter(|role| {
            let keeps = wanted.setup.exception(self.id, role).is_some();
            !role.is_property() && !keeps && report.effective(role).is_none()
        });
        let colors: Vec<(RoleId, Rgb)> = nowhere
            .map(|role| (role.clone(), wanted.look.color(role)))
            .collect();
        let file = (self.file)(access);
        let bytes = report.file(&file).map_or(&[][..], |f| &f.bytes[..]);
        for (role, line) in self.dialect.adds(&colors) {
            let why = format!("{}: {}", role.label(), text::visible(&line));
            let mut splice = shared::append_line(bytes, &line, why);
            splice.role = Some(role);
            edits.add(&file, splice);
        }
        if !set_anew.is_empty() {
            self.set_anew(&set_anew, wanted, report, access, &mut edits);
        }
        plan.edits.extend(edits.finish(self.id, report));
    }

    /// Adds lines for values that stand where nobody may write, or nowhere.
    fn set_anew(
        &self,
        names: &[&str],
        wanted: &Wanted,
        report: &ToolReport,
        access: &dyn Access,
        edits: &mut Edits,
    ) {
        let file = (self.file)(access);
        let ours = self.path(access);
        let read = ToolReport::new(self.id);
        let ran = self.dialect.run(access, read, &file, &ours, &[]);
        let bytes = report.file(&file).map_or(&[][..], |f| &f.bytes[..]);
        for name in names {
            let of = |(known, one): &(String, Alternative)| {
                (known == name).then(|| one.value.clone()).flatten()
            };
            let mut all = ran.others.iter().chain(&ran.defaults);
            let Some(value) = all.find_map(of) else {
                continue;
            };
            let (mut out, mut from, mut role) = (Vec::new(), 0, None);
            for (of, read, part) in self.dialect.others(name, &value.bytes) {
                let reading = |r: &&Reading| r.key == *name && r.role == of && r.value == read;
                let reading = report.readings.iter().find(reading);
                if reading.is_none_or(|r| !wanted.differs(self.id, r)) {
                    continue;
                }
                let color = wanted.look.color(&of).to_string();
                out.extend_from_slice(&value.bytes[from..part.start]);
                out.extend_from_slice(color.trim_start_matches('#').as_bytes());
                from = part.end;
                role.get_or_insert(of);
            }
            out.extend_from_slice(&value.bytes[from..]);
            let Some(line) = self.dialect.sets(name, &out) else {
                continue;
            };
            let why = format!("{name}: {}", text::visible(&line));
            let mut splice = shared::append_line(bytes, &line, why);
            splice.role = role;
            edits.add(&file, splice);
        }
    }
}

impl Adapter for Sourced {
    fn id(&self) -> ToolId {
        self.id
    }

    fn kind(&self) -> &'static str {
        "shell prompt"
    }

    fn live(&self) -> &Live {
        &self.live
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Sourced(self)
    }

    fn syntax(&self, _path: &Path) -> Syntax {
        self.syntax
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        self.dialect.quoting(file, places)
    }

    fn generated(&self, setup: &Setup, look: &Look) -> Option<(&'static str, Code)> {
        let word = self.dialect.anywhere(self.ours);
        Some((self.ours, self.generate(setup, look, &word)))
    }

    fn drawn_when_generated(&self, setup: &Setup) -> Option<Vec<Drawn>> {
        Some(drawn_by_design(setup))
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        let ours = self.path(access);
        let mut terms: Vec<String> = Vec::new();
        for outer in &facts.terminals {
            if !terms.contains(&outer.term) {
                terms.push(outer.term.clone());
            }
        }
        let (file, report) = ((self.file)(access), ToolReport::new(self.id));
        let ran = self.dialect.run(access, report, &file, &ours, &terms);
        let prompts = ran.prompts.iter().filter_map(|(_, one)| one.value.as_ref());
        let commands = ran.runs.iter().map(Vec::as_slice);
        let commands = commands.chain(prompts.map(|text| &text.bytes[..]));
        facts.described.extend(descriptions(commands, access));
        let mut report = ran.report;
        let mut stretches = Vec::new();
        if let Some((visit, span)) = ran.loaded {
            // Our script sets the prompt itself, behind whatever else sets it.
            let visit = &ran.visits[visit];
            self.our_script(access, &ours, visit, span, &mut report);
        } else {
            for (key, prompt) in &ran.prompts {
                let Some(own) = OwnPrompt::of(prompt, &ran.visits) else {
                    continue;
                };
                let pieces = self.dialect.pieces(own.bytes());
                own::read(&own, key, &pieces, &mut report, &mut stretches);
            }
        }
        report.prompt = self.own_design(&ran.prompts, &ran.visits, &report);
        self.others(&ran.others, &ran.visits, &mut report);
        self.defaults(&ran.defaults, &mut report);
        self.tell_apart(access, &mut report);
        glyphs::collect(&mut report, &[self.comment], |_| self.syntax, |p| p == ours);
        report.drawn = drawn(&report, &stretches);
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let mut plan = Plan::default();
        self.in_place(wanted, report, access, &mut plan);
        if !wanted.generates(self.id) {
            return plan;
        }
        if report.files.is_empty() && !access.has_program(self.program) {
            return Plan::default();
        }
        let ours = self.path(access);
        let Some(word) = self.dialect.word(access, &ours) else {
            return Plan::default();
        };
        let mut edits = Edits::default();
        let mut left = plan.left;
        if !Self::is_loaded(report) {
            let file = (self.file)(access);
            let bytes = report.file(&file).map_or(&[][..], |f| &f.bytes[..]);
            let line = self.dialect.load(&word);
            // Where it is there and the shell does not come to it, a second one would not help.
            match memchr::memmem::find(bytes, line.lossy().as_bytes()) {
                Some(at) => left.push(Left {
                    tool: self.id,
                    place: Place {
                        path: file.as_path().into(),
                        span: at..at,
                        at: text::position(bytes, at),
                    },
                    what: "the line that loads the prompt".to_owned(),
                    why: "it is there, and the shell does not come to it",
                }),
                None => {
                    let mut splice: Splice =
                        shared::append_line(bytes, &line, "load the prompt".into());
                    splice.role = Some(RoleId::from(Property::Theme));
                    splice.needs = Some(ours.clone());
                    edits.add(&file, splice);
                }
            }
        }
        // Only where reading found that it does not come to the usual one is it among the files.
        let login = self.dialect.login(access, &word);
        if login.is_some_and(|(login, _)| report.file(&login).is_some())
            && let Some((login, line)) = self.apart(access)
            && let Some(file) = report.file(&login)
        {
            let mut splice = shared::append_line(&file.bytes, &line, "load the prompt".into());
            splice.role = Some(RoleId::from(Property::Theme));
            splice.needs = Some(ours.clone());
            edits.add(&login, splice);
        }
        let mut out = plan.edits;
        out.extend(edits.finish(self.id, report));
        let script = self.generate(wanted.setup, wanted.look, &word);
        out.push(shared::own_file(self.id, ours, access, script));
        Plan { edits: out, left }
    }
}

/// What colors that our script sets are called.
pub(crate) const OF_OURS: &str = "prompt";

impl Sourced {
    /// The person's own prompt as a design, where it is known what it is: the first is that on the left, the
    /// second that on the right.
    fn own_design(
        &self,
        prompts: &[(&'static str, Alternative)],
        visits: &[Visit],
        report: &ToolReport,
    ) -> Option<Box<Own>> {
        let of = |wanted: &str| {
            let mut all = prompts.iter().filter(|(key, _)| *key == wanted);
            let one = OwnPrompt::of(&all.next()?.1, visits)?;
            // What nobody wrote is the shell's own.
            one.text.nearest(0)?;
            let pieces = self.dialect.pieces(one.bytes());
            // Of what is not known its source stands there: a text that says nothing of what is drawn.
            let only_says = pieces.iter().all(|piece| matches!(piece, Piece::Says(_)));
            (one.text.unknown.is_none() || !only_says).then_some((one, pieces))
        };
        let (left, right) = self.dialect.keys();
        let left = of(left)?;
        let right = of(right);
        let right = right.as_ref().map(|(own, pieces)| (own, pieces.as_slice()));
        own::design((&left.0, &left.1), right, report).map(Box::new)
    }

    /// Reads what else says colors.
    fn others(&self, all: &[(String, Alternative)], visits: &[Visit], report: &mut ToolReport) {
        for (name, one) in all {
            let Some(own) = OwnPrompt::of(one, visits) else {
                continue;
            };
            for (role, value, part) in self.dialect.others(name, own.bytes()) {
                let mut reading = own.reading(role, name, value, part);
                if let Some(reading) = &mut reading {
                    reading.editable &= !self.dialect.keeps(&reading.place.path);
                }
                report.readings.extend(reading);
            }
        }
    }

    /// Reads what the shell does by itself, where it is in use.
    fn defaults(&self, all: &[(String, Alternative)], report: &mut ToolReport) {
        let Some(main) = report.files.first().map(|f| f.path.clone()) else {
            return;
        };
        for (name, one) in all {
            let bytes = one.value.as_ref().map_or(&[][..], |text| &text.bytes);
            for (role, value, _) in self.dialect.others(name, bytes) {
                report.readings.push(Reading {
                    role,
                    key: name.clone(),
                    value,
                    place: Place::nowhere_in(&main),
                    chain: Vec::new(),
                    effective: true,
                    editable: false,
                    standing: match &one.why {
                        Some(why) => Standing::Conditional(Why::clone(why)),
                        None => Standing::Default,
                    },
                    asked: None,
                });
            }
        }
    }

    /// What takes the prompt away behind our script.
    fn behind(&self, visit: &Visit, from: usize) -> Option<Range<usize>> {
        let after = lines::lines(&visit.file.bytes).filter(|line| line.span.start >= from);
        let mut taking = after.filter(|line| {
            let text = String::from_utf8_lossy(&visit.file.bytes[line.span.clone()]);
            self.dialect.takes_away(text.trim())
        });
        taking.next().map(|line| line.span)
    }

    /// Reads the colors back from our script.
    fn our_script(
        &self,
        access: &dyn Access,
        ours: &Path,
        visit: &Visit,
        span: Range<usize>,
        report: &mut ToolReport,
    ) {
        let line = visit.file.position(span.start).line;
        let behind = self.behind(visit, span.end);
        let theme = Value::Text(OUR_THEME.to_owned());
        let role = RoleId::from(Property::Theme);
        let mut r = shared::reading(&visit.file, &visit.chain, role, OF_OURS, theme, span);
        r.editable = false;
        if let Some(at) = behind {
            let place = Place::new(&visit.file, at);
            r.standing = Standing::Conditional(format!("what {place} does behind it").into());
            report.problems.push(FileProblem {
                path: visit.file.path.clone(),
                at: Some(place.at),
                message: "this sets the prompt again behind ours: ours is not drawn".into(),
                help: format!("let the line that loads it, {line}, be the last"),
                blocks_edits: false,
            });
        }
        report.readings.push(r);
        let mut deeper = visit.chain.clone();
        deeper.push((visit.file.path.clone(), line));
        let Some(file) = shared::load(access, report, ours, &deeper, true) else {
            return;
        };
        let mut seen = Vec::new();
        for line in lines::lines(&file.bytes) {
            let Ok(text) = std::str::from_utf8(&file.bytes[line.span.clone()]) else {
                continue;
            };
            let Some(found) = self.dialect.written(text) else {
                continue;
            };
            // The first list is the one for 24-bit terminals.
            if seen.contains(&found.role) {
                continue;
            }
            seen.push(found.role);
            let span = line.span.start + found.span.start..line.span.start + found.span.end;
            let role = RoleId::known(found.role);
            let mut r = shared::reading(&file, &deeper, role, OF_OURS, found.value, span);
            r.editable = false;
            report.readings.push(r);
        }
    }
}

/// A prompt of the person's own.
pub struct OwnPrompt<'a> {
    /// What it is.
    pub(crate) text: &'a Text,
    /// How sure that is.
    pub standing: Standing,
    /// The files it is written in.
    pub(crate) visits: &'a [Visit],
    /// The file of a program that draws what nobody wrote by itself.
    pub(crate) by_itself: Option<&'a Path>,
}

impl<'a> OwnPrompt<'a> {
    /// One that may be; `None` where nothing sets it.
    fn of(one: &'a Alternative, visits: &'a [Visit]) -> Option<Self> {
        Some(Self {
            text: one.value.as_ref()?,
            standing: match &one.why {
                Some(why) => Standing::Conditional(Why::clone(why)),
                None => Standing::Certain,
            },
            visits,
            by_itself: None,
        })
    }

    /// A reading of a part of it.
    #[must_use]
    pub fn reading(
        &self,
        role: RoleId,
        key: &str,
        value: Value,
        part: Range<usize>,
    ) -> Option<Reading> {
        let written = |part: &Range<usize>| self.text.part(part.clone()).nearest(0).is_some();
        if let Some(path) = self.by_itself
            && !written(&part)
            && (!part.is_empty() || self.text.nearest(0).is_none())
        {
            return Some(Reading {
                role,
                key: key.to_owned(),
                value,
                place: Place::nowhere_in(path),
                chain: Vec::new(),
                effective: true,
                editable: false,
                standing: Standing::Default,
                asked: None,
            });
        }
        let file = |visit: usize| &self.visits[visit].file.bytes[..];
        let source = self.text.source(part.clone());
        let source = source.filter(|_| self.text.is_spelled(part.clone(), file));
        let editable = source.is_some() && self.standing == Standing::Certain;
        let nearest = || self.text.nearest(part.start).map(|(v, at)| (v, at..at));
        let (visit, span) = source.or_else(nearest)?;
        let visit = &self.visits[visit];
        let mut reading = shared::reading(&visit.file, &visit.chain, role, key, value, span);
        reading.editable = editable;
        reading.standing = self.standing.clone();
        Some(reading)
    }

    /// Its bytes.
    #[must_use]
    pub fn bytes(&self) -> &[u8] {
        &self.text.bytes
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_program_writes_may_set_the_prompt() {
        use crate::access::MemoryAccess;
        let is_sure = |tool: &str, file: &str, own: &str, line: &str| {
            let text = format!("{own}\n{line}\n");
            let access = MemoryAccess::with(&[(file, text.as_str())]);
            let adapter = crate::adapter(tool).unwrap();
            let report = adapter.read(&access, &mut Facts::default());
            let mut all = report.readings.iter().filter(|r| !r.is_default());
            assert!(report.readings.len() > 1, "{tool}: {line}");
            all.all(Reading::is_sure)
        };
        let bash = |line| is_sure("bash", ".bashrc", r"PS1='\[\e[31m\]\u '", line);
        let zsh = |line| is_sure("zsh", ".zshrc", "PROMPT='%F{red}%n'", line);
        let fish = |line| {
            let own = "function fish_prompt; echo (set_color red) $USER; end";
            is_sure("fish", ".config/fish/config.fish", own, line)
        };
        for line in [
            "eval \"$(gauge init)\"",
            "eval `gauge init`",
            ". <(gauge init)",
        ] {
            assert!(!bash(line) && !zsh(line), "{line}");
        }
        for line in [
            "eval \"$(dircolors -b ~/.d)\"",
            "eval \"$(lesspipe)\"",
            "x=$(gauge init)",
        ] {
            assert!(bash(line) && zsh(line), "{line}");
        }
        for line in [
            "gauge init | source",
            "source (gauge init | psub)",
            "eval (gauge init)",
        ] {
            assert!(!fish(line), "{line}");
        }
        for line in [
            "direnv hook fish | source",
            "set -g x (gauge init)",
            "true | read x",
        ] {
            assert!(fish(line), "{line}");
        }
    }
}
