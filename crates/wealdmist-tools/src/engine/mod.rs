//! What an adapter is, and the engines that most adapters are rows of.

pub mod sourced;
pub mod table;
pub mod themed;

use std::path::{Path, PathBuf};

use wealdmist_core::font::Catalog;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::ledger;
use wealdmist_core::look::Look;
use wealdmist_core::plan::Plan;
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{Drawn, Reading, SourceFile, ToolId, ToolReport};
use wealdmist_core::setup::Setup;

use crate::access::Access;
use crate::fonts::FontSyntax;
use crate::live::Live;
use wealdmist_core::color::Rgb;
use wealdmist_core::property::Property;
use wealdmist_core::role::RoleId;

use sourced::Sourced;
use table::Table;
use themed::Themed;

/// What one tool's dotfiles tell the adapters after it.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Facts {
    /// The terminals present.
    pub terminals: Vec<Outer>,
    /// The files that shells give to programs in which a prompt may be described.
    pub described: Vec<PathBuf>,
}

/// A terminal as programs inside it see it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Outer {
    /// Which.
    pub tool: ToolId,
    /// The terminal type.
    pub term: String,
    /// What its background is, where that is known.
    pub ground: Option<Rgb>,
}

/// What a plan is made from.
#[derive(Debug, Clone, Copy)]
pub struct Wanted<'a> {
    /// The setup.
    pub setup: &'a Setup,
    /// The setup resolved.
    pub look: &'a Look,
    /// The fonts installed, where they are known.
    pub catalog: Option<&'a Catalog>,
    /// The home the files are of.
    pub home: &'a Path,
}

impl Wanted<'_> {
    /// Whether a tool's theme or prompt is to be ours: it is wanted, and no exception keeps the person's.
    #[must_use]
    pub fn generates(&self, tool: ToolId) -> bool {
        let theme = RoleId::from(Property::Theme);
        self.setup.tool(tool).generate && self.setup.exception(tool, &theme).is_none()
    }

    /// Whether a reading has to be changed: it counts, differs, and is no exception.
    #[must_use]
    pub fn differs(&self, tool: ToolId, reading: &Reading) -> bool {
        reading.effective
            && reading.is_sure()
            && !ledger::agrees(self.setup, self.look, tool, reading)
            && self.setup.exception(tool, &reading.role).is_none()
    }
}

/// What an adapter is made of, which says how what runs is told and asked, too.
pub enum Engine<'a> {
    /// Values stand in the person's own settings file.
    Tables(Vec<&'a Table>),
    /// A file of ours, and one entry that names it.
    Themed(&'a Themed),
    /// A script of ours, and one line that loads it.
    Sourced(&'a Sourced),
    /// A language of its own, and options that can be asked for.
    Options(&'a dyn Options),
    /// Values stand in the person's own file, and the program is started anew whenever it draws: nothing runs that
    /// could be told.
    Started,
}

/// An option that a dotfile sets: how to put it back to the program's own default before reading again.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct StatedOption {
    /// The flags of its scope, such as `-g` or `-s`.
    pub scope: String,
    /// Its name, without an array index.
    pub name: String,
    /// Whether a file appends to it, so that reading twice would add twice.
    pub appended: bool,
}

/// What a program with options of its own says of them.
pub trait Options: Sync {
    /// The options its dotfiles set or add to, with what is said of each.
    fn stated(&self, report: &ToolReport) -> Vec<StatedOption>;
    /// The values they come to: the option, whether it is of a window, the value.
    fn values(&self, report: &ToolReport) -> Vec<(String, bool, String)>;
}

/// A tool's dotfiles: where they are, what they say, how they are changed.
pub trait Adapter: Sync {
    /// The name on the command line and in the setup file.
    fn id(&self) -> ToolId;
    /// What kind of program it is.
    fn kind(&self) -> &'static str;
    /// Reads everything the tool's dotfiles say.
    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport;
    /// The edits that bring them to the setup, and what could not be brought there.
    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan;
    /// How a change reaches what runs, and how that is asked what it shows.
    fn live(&self) -> &Live;
    /// The engine it is a row of.
    fn engine(&self) -> Engine<'_>;
    /// Its rows, where its values stand in the person's own settings file: one for each notation of it,
    /// the present one first.
    fn tables(&self) -> Vec<&Table> {
        match self.engine() {
            Engine::Tables(rows) => rows,
            _ => Vec::new(),
        }
    }
    /// How it selects fonts; `None` for one that draws with the terminal's.
    fn fonts(&self) -> Option<&dyn FontSyntax> {
        None
    }
    /// Which escapes a file of it has.
    fn syntax(&self, _path: &Path) -> Syntax {
        Syntax::Raw
    }
    /// The file that is generated for it, for sharing: its name and content. Nothing in it speaks of a
    /// particular home.
    fn generated(&self, _setup: &Setup, _look: &Look) -> Option<(&'static str, Code)> {
        None
    }
    /// What it draws with what is generated for it; `None` for one that nothing is generated for.
    fn drawn_when_generated(&self, _setup: &Setup) -> Option<Vec<Drawn>> {
        None
    }
    /// What reads the text that stands at some places of a file, for each in turn: the last is the
    /// file's own language. `None` where that is not understood, and nothing may be written.
    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>>;
}
