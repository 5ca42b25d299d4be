//! The engine of editors: a theme file of ours, and the one entry in the person's own file that chooses
//! it. Colors that stand in the person's own file, and in their own theme, are read and edited where
//! they stand.
//!
//! An editor is a row: where its files are, which groups its theme has and of which roles. What only its
//! language knows is its [`Language`].

mod drawn;

use std::collections::HashMap;
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::OnceLock;

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Left, Plan, Splice};
use wealdmist_core::property::{OUR_THEME, Property};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{
    Attributes, Drawn, FileProblem, Place, Reading, SourceFile, Standing, ToolId, ToolReport, Value,
};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;

use crate::access::{Access, Loaded};
use crate::engine::{Adapter, Engine, Facts, Wanted};
use crate::fonts::FontSyntax;
use crate::glyphs;
use crate::live::Live;
use crate::shared::{self, Edits, Torn};

/// An editor.
pub struct Themed {
    /// The name on the command line and in the setup file.
    pub id: ToolId,
    /// The program.
    pub program: &'static str,
    /// The folder of its files.
    pub folder: fn(&dyn Access) -> PathBuf,
    /// The files it may read first, by their name in that folder: the first that is there counts, and
    /// where none is, the first is made.
    pub files: &'static [&'static str],
    /// Where a theme of a name may be, `{}` standing for the name: the first that is there counts.
    pub themes: &'static [&'static str],
    /// Where ours is, and what it is called by itself.
    pub ours: (&'static str, &'static str),
    /// The groups of a theme.
    pub groups: &'static [&'static [Group]],
    /// The same by their names in small letters, put together when one is first asked for.
    pub by_name: OnceLock<HashMap<String, &'static Group>>,
    /// Groups that lay a ground behind text of any color.
    pub grounds: &'static [Ground],
    /// What begins a comment.
    pub comment: &'static [&'static str],
    /// How it selects fonts, where it does.
    pub fonts: Option<&'static dyn FontSyntax>,
    /// How a change arrives.
    pub live: Live,
    /// What only its language knows.
    pub language: &'static dyn Language,
}

/// A group of a theme.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Group {
    /// Its name.
    pub name: &'static str,
    /// The role of its text.
    pub text: Option<&'static str>,
    /// The role of its ground.
    pub ground: Option<&'static str>,
    /// What else our theme says of it, in the editor's language.
    pub more: &'static str,
}

/// A group that lays a ground behind whole lines or stretches of text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Ground {
    /// The group.
    pub group: &'static str,
    /// The role of its ground.
    pub role: &'static str,
    /// Where that is, for people.
    pub place: &'static str,
    /// Whether a text color of its own is only seen where there is text of that kind.
    pub leaves_text: bool,
}

/// A highlight group as it must look.
#[derive(Debug, Clone)]
pub struct LiveGroup<'a> {
    /// Its name.
    pub name: &'a str,
    /// Its text and its ground, as far as files say them.
    pub colors: [Option<Rgb>; 2],
    /// What it has beside them, as far as that is certain.
    pub attributes: Option<&'a Attributes>,
}

/// What only an editor's language knows.
pub trait Language: Sync {
    /// Which escapes a file has.
    fn syntax(&self, path: &Path) -> Syntax;
    /// What reads the text that stands at some places of a file; see [`Adapter::quoting`].
    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>>;
    /// What the person's files come to, from the first of them on: the files that were read, the readings,
    /// the problems.
    fn run(
        &self,
        access: &dyn Access,
        facts: &Facts,
        init: &Path,
        report: ToolReport,
    ) -> ToolReport;
    /// Where a statement of a file begins that a place is in.
    fn statement(&self, file: &SourceFile, at: usize) -> usize;
    /// The splice that adds the entry that chooses our theme to a file without one: before a place, where
    /// one is given, else at its end.
    fn choose(&self, path: &Path, bytes: &[u8], before: Option<usize>, why: String) -> Splice;
    /// A property as it is written where a reading of it stands; `None` where it is left.
    fn property(
        &self,
        property: Property,
        reading: &Reading,
        file: &SourceFile,
        setup: &Setup,
    ) -> Option<Code>;
    /// Adds what else the setup asks of the person's own file.
    fn more(&self, setup: &Setup, file: &SourceFile, report: &ToolReport, edits: &mut Edits);
    /// Our theme.
    fn theme(&self, setup: &Setup, look: &Look) -> Code;
    /// Where a theme of ours asks which side the editor is on, where it has both.
    fn sides(&self, theme: &[u8]) -> Option<Range<usize>>;
    /// What an attribute is called in its files that a running program calls so.
    fn attribute(&self, asked: &str) -> Option<&'static str>;
    /// Whether every version can be asked what a group looks like.
    fn is_known_to_all(&self, group: &str) -> bool;
}

impl Themed {
    /// Where our theme is.
    #[must_use]
    pub fn path(&self, access: &dyn Access) -> PathBuf {
        (self.folder)(access).join(self.ours.0)
    }

    /// A group by its name.
    #[must_use]
    pub fn group(&self, name: &str) -> Option<&'static Group> {
        let by_name = self.by_name.get_or_init(|| {
            // Of two with one name the first counts.
            let all = self.groups.iter().flat_map(|list| list.iter()).rev();
            all.map(|g| (g.name.to_ascii_lowercase(), g)).collect()
        });
        by_name.get(&name.to_ascii_lowercase()).copied()
    }

    /// The groups as the dotfiles have them, to tell a running editor or to ask it. `only` limits it
    /// to those that one file says something of, and those that the files clear.
    #[must_use]
    pub fn live_groups<'a>(
        &self,
        report: &'a ToolReport,
        only: Option<&Path>,
    ) -> Vec<LiveGroup<'a>> {
        let attributes: HashMap<&str, &Attributes> = report
            .attributes
            .iter()
            .map(|a| (a.key.as_str(), a))
            .collect();
        let is_meant = |place: &Place| only.is_none_or(|path| *place.path == *path);
        let mut out: Vec<(LiveGroup<'a>, bool)> = Vec::new();
        let mut known: HashMap<&str, usize> = HashMap::new();
        let mut group = |name: &'a str, place: &Place, color: Option<(usize, Rgb)>| {
            let i = *known.entry(name).or_insert_with(|| {
                let group = LiveGroup {
                    name,
                    colors: [None, None],
                    attributes: attributes.get(name).copied(),
                };
                out.push((group, false));
                out.len() - 1
            });
            out[i].1 |= is_meant(place);
            if let Some((side, color)) = color {
                out[i].0.colors[side] = Some(color);
            }
        };
        // What the program does by itself is nothing that it has to be told.
        let stated = |r: &&Reading| r.effective && r.standing == Standing::Certain;
        for reading in report.readings.iter().filter(stated) {
            let Value::Color(color) = reading.value else {
                continue;
            };
            let role = reading.role.as_str();
            let is_ground = match self.group(&reading.key) {
                Some(group) if group.text == Some(role) => false,
                Some(group) if group.ground == Some(role) => true,
                _ => !role.ends_with(".text"),
            };
            if self.language.is_known_to_all(&reading.key) {
                let side = usize::from(is_ground);
                group(&reading.key, &reading.place, Some((side, color)));
            }
        }
        for one in &report.attributes {
            if !self.language.is_known_to_all(&one.key) {
                continue;
            }
            // What was cleared stands nowhere, and behind the theme.
            let is_clear = one.link.is_some() || one.bare == [true; 2] && one.words.is_empty();
            match (&one.place, only) {
                (Some(place), _) => group(&one.key, place, None),
                (None, Some(path)) if is_clear => group(&one.key, &Place::nowhere_in(path), None),
                (None, _) => {}
            }
        }
        let meant = out.into_iter().filter(|(_, is_meant)| *is_meant);
        meant.map(|(group, _)| group).collect()
    }

    /// What a theme that ours takes the place of gives to text, and ours does not.
    fn attributes_lost(&self, report: &ToolReport, wanted: &Wanted) -> Vec<Left> {
        let themes = Path::new(self.themes[0]).parent().and_then(Path::file_name);
        let lost = |one: &Attributes| {
            let place = one.place.as_ref()?;
            // What stands in other files comes after the theme and stays.
            let folder = place.path.parent().and_then(Path::file_name);
            if folder != themes {
                return None;
            }
            let kept: Vec<&str> = match (&one.role, self.group(&one.key)) {
                (Some(role), _) => wanted.look.attrs(role).names().collect(),
                (None, _) => Vec::new(),
            };
            let more = self.group(&one.key).map_or("", |g| g.more);
            let is_lost = |word: &&&str| !kept.contains(*word) && !more.contains(**word);
            let lost: Vec<&str> = one.words.iter().filter(is_lost).copied().collect();
            (!lost.is_empty()).then(|| Left {
                tool: self.id,
                place: place.clone(),
                what: format!("{} of {}", lost.join(", "), one.key),
                why: "the theme that is generated has it only for whole roles, as the setup says",
            })
        };
        report.attributes.iter().filter_map(lost).collect()
    }

    /// The file it reads first, of those that are there.
    fn first_file(&self, access: &dyn Access, report: &mut ToolReport) -> Option<PathBuf> {
        let folder = (self.folder)(access);
        let there = |p: &PathBuf| !matches!(access.read(p), Loaded::Missing);
        let mut paths = self
            .files
            .iter()
            .map(|name| folder.join(name))
            .filter(there);
        let first = paths.next()?;
        let name = |p: &Path| {
            p.file_name()
                .unwrap_or_default()
                .to_string_lossy()
                .into_owned()
        };
        if let Some(other) = paths.next() {
            let (read, passed) = (name(&first), name(&other));
            report.problems.push(FileProblem {
                path: other,
                at: None,
                message: format!("both {read} and {passed} are here; only {read} is read"),
                help: "remove one of them".into(),
                blocks_edits: false,
            });
        }
        Some(first)
    }

    /// Where the person's own colors begin in the first file: what chooses a theme behind them would
    /// wipe them out.
    fn first_color(&self, report: &ToolReport, file: &SourceFile) -> Option<usize> {
        let is_color = |r: &&Reading| {
            let place = Property::from_key(r.role.as_str()).is_none() && r.place.is_written();
            r.effective && place
        };
        let of = |r: &Reading| match r.chain.first() {
            None if *r.place.path == *file.path => Some(r.place.span.start),
            Some((first, line)) if *first == file.path => {
                let lines = file.bytes.split_inclusive(|b| *b == b'\n');
                Some(lines.take(line - 1).map(<[u8]>::len).sum())
            }
            _ => None,
        };
        let first = report
            .readings
            .iter()
            .filter(is_color)
            .filter_map(of)
            .min()?;
        Some(self.language.statement(file, first))
    }

    /// The one entry that chooses our theme: the name in the one there is, or a new one.
    fn choose_ours(&self, report: &ToolReport, access: &dyn Access, edits: &mut Edits) {
        let ours = self.path(access);
        let why = format!("choose the theme {OUR_THEME}");
        let role = RoleId::from(Property::Theme);
        if let Some(reading) = report.effective(&role).filter(|r| r.editable) {
            if reading.value != Value::Text(OUR_THEME.to_owned()) {
                let splice = Splice {
                    range: reading.place.span.clone(),
                    with: Code::fixed(OUR_THEME),
                    why: format!("{why} instead of {}", reading.value),
                    role: Some(role),
                    needs: Some(ours),
                };
                edits.add(&reading.place.path, splice);
            }
            return;
        }
        let (path, bytes) = match report.files.first() {
            Some(file) => (file.path.clone(), &file.bytes[..]),
            None => ((self.folder)(access).join(self.files[0]), &[][..]),
        };
        let first = report.files.first();
        let before = first.and_then(|file| self.first_color(report, file));
        let mut splice = self.language.choose(&path, bytes, before, why);
        splice.role = Some(role);
        splice.needs = Some(ours);
        edits.add(&path, splice);
    }
}

impl Themed {
    /// Whether the theme of ours has both sides, where it is the one in use; what another does with them only it knows.
    fn follows(&self, report: &ToolReport, ours: &Path) -> Option<Reading> {
        let theme = report.effective(&Property::Theme.into())?;
        let file = report.files.iter().find(|f| f.path == ours)?;
        if theme.value != Value::Text(OUR_THEME.to_owned()) {
            return None;
        }
        let at = self.language.sides(&file.bytes);
        let value = Value::switch(at.is_some());
        let span = at.clone().unwrap_or(0..0);
        let key = OUR_THEME.to_owned();
        let mut reading = shared::reading(file, &[], Property::Follow.into(), key, value, span);
        reading.editable = false;
        if at.is_none() {
            reading.standing = Standing::Default;
            reading.place = Place::nowhere_in(ours);
        }
        Some(reading)
    }
}

impl Adapter for Themed {
    fn id(&self) -> ToolId {
        self.id
    }

    fn kind(&self) -> &'static str {
        "editor"
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Themed(self)
    }

    fn fonts(&self) -> Option<&dyn FontSyntax> {
        self.fonts
    }

    fn live(&self) -> &Live {
        &self.live
    }

    fn syntax(&self, path: &Path) -> Syntax {
        self.language.syntax(path)
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        self.language.quoting(file, places)
    }

    fn generated(&self, setup: &Setup, look: &Look) -> Option<(&'static str, Code)> {
        Some((self.ours.1, self.language.theme(setup, look)))
    }

    fn drawn_when_generated(&self, _: &Setup) -> Option<Vec<Drawn>> {
        Some(drawn::when_generated(self))
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        let mut report = ToolReport::new(self.id);
        let Some(init) = self.first_file(access, &mut report) else {
            return report;
        };
        let mut report = self.language.run(access, facts, &init, report);
        let ours = self.path(access);
        let syntax = |path: &Path| self.language.syntax(path);
        glyphs::collect(&mut report, self.comment, syntax, |p| p == ours);
        report.drawn = drawn::drawn(self, &report);
        report.readings.extend(self.follows(&report, &ours));
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let mut edits = Edits::default();
        let generate = wanted.generates(self.id)
            && (!report.files.is_empty() || access.has_program(self.program));
        let init = report.files.first();
        let (torn, mut left) = (Torn::of(report, wanted), Vec::new());
        let differs = |r: &&Reading| r.editable && wanted.differs(self.id, r);
        for reading in report.readings.iter().filter(differs) {
            let in_init = init.filter(|f| *reading.place.path == *f.path);
            let property = Property::from_key(reading.role.as_str());
            match (property, in_init) {
                // Chosen below.
                (Some(Property::Theme | Property::Symbols), _) => {}
                (Some(property), Some(file)) => {
                    let with = self
                        .language
                        .property(property, reading, file, wanted.setup);
                    if let Some(with) = with {
                        edits.replace(reading, with);
                    }
                }
                (Some(_), None) => {}
                // With a theme of our own, the colors of the one it replaces are of no account.
                (None, None) if generate => {}
                (None, _) => match torn.left(self.id, reading) {
                    Some(one) => left.push(one),
                    None => edits.replace(reading, Code::color(wanted.look.color(&reading.role))),
                },
            }
        }
        if let Some(file) = init {
            self.language.more(wanted.setup, file, report, &mut edits);
        }
        if !generate {
            let edits = edits.finish(self.id, report);
            return Plan { edits, left };
        }
        left.extend(self.attributes_lost(report, wanted));
        self.choose_ours(report, access, &mut edits);
        let mut out = edits.finish(self.id, report);
        let text = self.language.theme(wanted.setup, wanted.look);
        out.push(shared::own_file(self.id, self.path(access), access, text));
        Plan { edits: out, left }
    }
}
