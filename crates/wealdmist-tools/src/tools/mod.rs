//! One adapter per tool, and what they share.

pub(crate) mod alacritty;
mod bash;
pub mod fonts;
pub(crate) mod foot;
pub(crate) mod ghostty;
pub(crate) mod glyphs;
pub(crate) mod kitty;
mod live;
mod nvim;
mod repository;
pub(crate) mod shared;
#[cfg(test)]
pub(crate) mod testing;
mod tmux;

use std::path::{Path, PathBuf};

use wealdmist_core::font::Catalog;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::ledger::{self, Ledger};
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Change, Left, Plan};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{Reading, SourceFile, ToolId, ToolReport};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;

use crate::access::Access;
use crate::table::Table;

use fonts::FontSyntax;

pub use bash::{BASH, prompt_generation, prompt_path};
pub use fonts::misnamed;
pub use glyphs::used as glyphs_of;
pub use live::{Answers, Live, Reload, SIGUSR1, osc_targets};
pub use nvim::{LiveGroup, NVIM, generate as generate_theme, live_groups};
pub use tmux::{StatedOption, TMUX, stated_options, stated_values};

/// What one tool's dotfiles tell the adapters after it.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Facts {
    /// The terminals present.
    pub terminals: Vec<Outer>,
}

/// A terminal as programs inside it see it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Outer {
    /// Which.
    pub tool: ToolId,
    /// The terminal type.
    pub term: String,
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
}

impl Wanted<'_> {
    /// Whether a reading has to be changed: it counts, differs, and is no exception.
    #[must_use]
    pub fn differs(&self, tool: ToolId, reading: &Reading) -> bool {
        reading.effective
            && !ledger::agrees(self.setup, self.look, tool, reading)
            && self.setup.exception(tool.0, &reading.role).is_none()
    }
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
    /// Its rows, where it is of such: one for each notation of its files, the present one first.
    fn tables(&self) -> Vec<&Table> {
        Vec::new()
    }
    /// How it selects fonts; `None` for one that draws with the terminal's.
    fn fonts(&self) -> Option<&dyn FontSyntax> {
        None
    }
    /// Which escapes a file of it has.
    fn syntax(&self, _path: &Path) -> Syntax {
        Syntax::Raw
    }
    /// What reads the text that stands at some places of a file, for each in turn: the last is the
    /// file's own language. `None` where that is not understood, and nothing may be written.
    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>>;
}

/// Every tool, the terminal first.
#[must_use]
pub fn adapters() -> [&'static dyn Adapter; 7] {
    [
        &kitty::KITTY,
        &alacritty::ALACRITTY,
        &foot::FOOT,
        &ghostty::GHOSTTY,
        &tmux::Tmux,
        &nvim::Nvim,
        &bash::Bash,
    ]
}

/// Whether the description of a terminal type says 24-bit color.
#[must_use]
pub fn says_full_color(term: &str) -> bool {
    let says = |t: &Table| t.term.full_color && t.term.own == term;
    term.ends_with("-direct") || adapters().iter().any(|a| a.tables().into_iter().any(says))
}

/// The adapter of a tool.
#[must_use]
pub fn adapter(id: &str) -> Option<&'static dyn Adapter> {
    adapters().into_iter().find(|a| a.id().0 == id)
}

/// Reads every tool.
#[must_use]
pub fn read_all(access: &dyn Access) -> Vec<ToolReport> {
    let mut facts = Facts::default();
    adapters()
        .into_iter()
        .map(|a| a.read(access, &mut facts))
        .collect()
}

/// The plan that brings every managed tool to the setup.
#[must_use]
pub fn plan(
    setup: &Setup,
    look: &Look,
    reports: &[ToolReport],
    access: &dyn Access,
    catalog: Option<&Catalog>,
) -> Plan {
    let wanted = Wanted {
        setup,
        look,
        catalog,
    };
    let mut edits = Vec::new();
    let mut left: Vec<Left> = Vec::new();
    for report in reports {
        // A tool without any dotfile is left alone until the setup names it.
        let present = !report.files.is_empty() || setup.tools.contains_key(report.tool.0);
        let managed = present && setup.tool(report.tool.0).manage;
        if let (true, Some(adapter)) = (managed, adapter(report.tool.0)) {
            let blocked = |path: &Path| {
                report
                    .problems
                    .iter()
                    .any(|p| p.blocks_edits && p.path == path)
            };
            let planned = adapter.plan(&wanted, report, access);
            let mut own = planned.edits;
            left.extend(planned.left);
            if report.problems.iter().any(|p| p.blocks_edits) {
                // What a file says that cannot be read is not known: nothing is added to others.
                for edit in &mut own {
                    if let Change::Splices(splices) = &mut edit.change {
                        splices.retain(|s| !s.range.is_empty());
                    }
                }
            }
            left.extend(glyphs::replace(setup, report, adapter, &mut own));
            edits.extend(own.into_iter().filter(|e| !blocked(&e.path)));
        }
    }
    edits.retain(|e| e.before.as_deref() != Some(e.after().as_slice()));
    Plan { edits, left }.one_edit_per_file()
}

/// The readings behind a role, tool by tool, for "where is this written".
#[must_use]
pub fn places<'a>(
    ledger: &Ledger,
    reports: &'a [ToolReport],
    role: &RoleId,
) -> Vec<(ToolId, &'a Reading)> {
    let Some(row) = ledger.row(role) else {
        return Vec::new();
    };
    let of = |(cell, report): (&ledger::Cell, &'a ToolReport)| {
        let tool = report.tool;
        cell.readings
            .iter()
            .map(move |i| (tool, &report.readings[*i]))
            .collect::<Vec<_>>()
    };
    row.cells.iter().zip(reports).flat_map(of).collect()
}

/// The files we generate for a setup, for sharing: tool, file name, content. Nothing in them
/// speaks of a particular home.
#[must_use]
pub fn generated(setup: &Setup, look: &Look) -> Vec<(ToolId, &'static str, Vec<u8>)> {
    let prompt = Code::fixed("\"$HOME/.config/wealdmist/prompt.bash\"");
    vec![
        (
            NVIM,
            "wealdmist.lua",
            nvim::generate(setup, look).into_bytes(),
        ),
        (
            BASH,
            "prompt.bash",
            bash::generate(setup, look, &prompt).into_bytes(),
        ),
    ]
}

/// The folder of our own files in a home.
#[must_use]
pub fn own_folder(access: &dyn Access) -> PathBuf {
    access.config_home().join("wealdmist")
}
