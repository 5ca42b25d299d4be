//! Every tool: one adapter each, and what is asked of all.

pub(crate) mod alacritty;
mod bash;
mod described;
mod fish;
pub(crate) mod foot;
pub(crate) mod ghostty;
pub(crate) mod iterm;
pub(crate) mod kitty;
pub(crate) mod konsole;
mod nvim;
mod powershell;
mod starship;
mod tmux;
pub(crate) mod warp;
pub(crate) mod wezterm;
pub(crate) mod windows_terminal;
pub(crate) mod xfce_terminal;
pub(crate) mod xterm;
mod zsh;

use std::borrow::Cow;
use std::path::Path;

use wealdmist_core::finding::NameProblem;
use wealdmist_core::font::Catalog;
use wealdmist_core::ledger::{self, Ledger};
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Change, Left, Plan};
use wealdmist_core::property::{OUR_THEME, Property};
use wealdmist_core::reading::{Reading, ToolId, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;
use wealdmist_core::terminal::Images;

use crate::access::Access;
use crate::engine::{Adapter, Engine, Facts, Wanted};
use crate::glyphs;
use crate::hidden::hides;
use crate::table::Table;

/// Every tool, the terminal first.
#[must_use]
pub fn adapters() -> [&'static dyn Adapter; 20] {
    [
        &kitty::KITTY,
        &alacritty::ALACRITTY,
        &foot::FOOT,
        &ghostty::GHOSTTY,
        &xterm::XTERM,
        &xterm::URXVT,
        &xfce_terminal::XFCE_TERMINAL,
        &konsole::ROWS,
        &wezterm::ROWS,
        &windows_terminal::WINDOWS_TERMINAL,
        &warp::WARP,
        &iterm::ITERM,
        &tmux::Tmux,
        &nvim::NVIM,
        &bash::BASH,
        &zsh::ZSH,
        &fish::FISH,
        &powershell::POWERSHELL,
        &starship::Starship,
        &described::Described,
    ]
}

/// Whether the description of a terminal type says 24-bit color.
#[must_use]
pub fn says_full_color(term: &str) -> bool {
    let says = |t: &Table| t.term.full_color && t.term.own == term;
    term.ends_with("-direct") || adapters().iter().any(|a| a.tables().into_iter().any(says))
}

/// By which protocol the terminal whose session has these variables can be shown images.
#[must_use]
pub fn images_by_name(variable: impl Fn(&str) -> Option<String>) -> Images {
    let term = variable("TERM").unwrap_or_default();
    let is_it = |adapter: &&dyn Adapter, row: &Table| {
        let set = |name| variable(name).is_some_and(|v| !v.is_empty());
        let kind = term.strip_prefix(row.term.own);
        adapter.live().inside.is_some_and(set)
            || kind.is_some_and(|rest| rest.is_empty() || rest.starts_with('-'))
    };
    let of = |adapter: &'static dyn Adapter| {
        let mut rows = adapter.tables().into_iter();
        rows.find(|row| is_it(&adapter, row))
            .map(|row| row.term.images)
    };
    adapters().into_iter().find_map(of).unwrap_or(Images::None)
}

/// Whether a session with these variables runs inside a multiplexer.
#[must_use]
pub fn is_multiplexed(variable: impl Fn(&str) -> Option<String>) -> bool {
    let set = |name| variable(name).is_some_and(|v| !v.is_empty());
    let multiplexers = adapters()
        .into_iter()
        .filter(|a| matches!(a.engine(), Engine::Options(_)));
    // A multiplexer that is none of ours names its session so.
    multiplexers
        .filter_map(|a| a.live().inside)
        .chain(["STY"])
        .any(set)
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
    let read = |adapter: &'static dyn Adapter| {
        let mut report = adapter.read(access, &mut facts);
        if adapter.kind() == "shell prompt" {
            report.problems.extend(hides(&report));
        }
        report.split_roles();
        report
    };
    adapters().into_iter().map(read).collect()
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
        home: access.home(),
    };
    let mut edits = Vec::new();
    let mut left: Vec<Left> = Vec::new();
    for report in reports {
        // A tool without any dotfile is left alone until the setup names it.
        let present = !report.files.is_empty() || setup.tools.contains_key(report.tool.0);
        let managed = present && setup.tool(report.tool).manage;
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

/// The reports with what the tools will draw once what a setup has generated for them takes the place of
/// the person's own.
#[must_use]
pub fn as_generated<'a>(setup: &Setup, reports: &'a [ToolReport]) -> Cow<'a, [ToolReport]> {
    let theme = RoleId::from(Property::Theme);
    let mut out = Cow::Borrowed(reports);
    for (i, report) in reports.iter().enumerate() {
        let wanted = setup.tool(report.tool).generate && report.is_present();
        let is_ours = |r: &Reading| r.value == Value::Text(OUR_THEME.to_owned());
        let is_ours = report.effective(&theme).is_some_and(is_ours);
        if !wanted || setup.exception(report.tool, &theme).is_some() {
            continue;
        }
        let Some(adapter) = adapter(report.tool.0) else {
            continue;
        };
        // A theme of ours is read as it is; what stands on what in a prompt only its design says.
        let is_shell = matches!(adapter.engine(), Engine::Sourced(_) | Engine::Started);
        if is_ours && !is_shell {
            continue;
        }
        if let Some(mut drawn) = adapter.drawn_when_generated(setup) {
            if is_ours {
                let place = |role: &RoleId| {
                    let reads = |r: &Reading| r.effective && r.role == *role;
                    report.readings.iter().position(reads)
                };
                for paint in drawn.iter_mut().flat_map(|d| [&mut d.text, &mut d.ground]) {
                    paint.reading = place(&paint.role);
                }
            }
            out.to_mut()[i].drawn = drawn;
        }
    }
    out
}

/// The files we generate for a setup, for sharing: tool, file name, content.
#[must_use]
pub fn generated(setup: &Setup, look: &Look) -> Vec<(ToolId, &'static str, Vec<u8>)> {
    let of = |a: &'static dyn Adapter| {
        let (name, code) = a.generated(setup, look)?;
        Some((a.id(), name, code.into_bytes()))
    };
    adapters().into_iter().filter_map(of).collect()
}

/// The names in dotfiles that select something else than they say, or nothing.
#[must_use]
pub fn misnamed(reports: &[ToolReport], catalog: &Catalog) -> Vec<NameProblem> {
    let mut out = Vec::new();
    for report in reports {
        let adapter = adapters().into_iter().find(|a| a.id() == report.tool);
        let Some(syntax) = adapter.and_then(|a| a.fonts()) else {
            continue;
        };
        let named = [
            "font.family",
            "font.bold",
            "font.italic",
            "font.bold-italic",
            "font.fallback",
        ];
        for reading in &report.readings {
            let Value::Text(name) = &reading.value else {
                continue;
            };
            if !reading.effective || reading.is_default() || !named.contains(&reading.role.as_str())
            {
                continue;
            }
            if let Some(wrong) = syntax.check(reading, name, catalog) {
                out.push(NameProblem {
                    tool: report.tool,
                    place: reading.place.clone(),
                    severity: wrong.severity,
                    message: wrong.message,
                    mend: wrong.mend,
                });
            }
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;

    #[test]
    fn files_of_other_platforms_are_recognised() {
        let home = MemoryAccess::with(&[
            (
                "Library/Preferences/kitty/kitty.conf",
                "background #101820\n",
            ),
            (
                "Library/Application Support/com.mitchellh.ghostty/config",
                "background = #101820\n",
            ),
            (
                "AppData/Roaming/alacritty/alacritty.toml",
                "[colors.primary]\nbackground = \"#101820\"\n",
            ),
            (
                "AppData/Local/nvim/init.lua",
                "vim.api.nvim_set_hl(0, 'Comment', { fg = '#808080' })\n",
            ),
            (
                "Documents/PowerShell/profile.ps1",
                "function prompt { \"`e[31m> `e[0m\" }\n",
            ),
        ]);
        let present = |r: &ToolReport| (!r.files.is_empty()).then_some(r.tool.0);
        let reports = read_all(&home);
        let found: Vec<&str> = reports.iter().filter_map(present).collect();
        assert_eq!(
            found,
            ["kitty", "alacritty", "ghostty", "nvim", "powershell"]
        );
        assert!(
            reports
                .iter()
                .all(|r| r.files.is_empty() || !r.readings.is_empty())
        );
    }

    #[test]
    fn files_for_several_platforms_are_changed_together() {
        let conf = "background #101820\n";
        let home = MemoryAccess::with(&[
            (".config/kitty/kitty.conf", conf),
            (
                "Library/Preferences/kitty/kitty.conf",
                "# mine\nbackground #202020\n",
            ),
            (
                ".config/alacritty/alacritty.toml",
                "[colors.primary]\nbackground = \"#101820\"\n",
            ),
            (
                "AppData/Roaming/alacritty/alacritty.toml",
                "[colors.primary]\nbackground = '#000000'\n",
            ),
        ]);
        let setup = "[palettes.a]\nbackground='#304050'\n";
        let mut all = crate::testing::whole_plan(&home, setup);
        all.sort();
        let short = |path: &Path| {
            path.strip_prefix(crate::access::MEMORY_HOME)
                .unwrap()
                .display()
                .to_string()
        };
        let said: Vec<(String, &str)> = all
            .iter()
            .map(|(p, t)| (short(p), t.lines().last().unwrap()))
            .collect();
        let said: Vec<(&str, &str)> = said.iter().map(|(p, l)| (p.as_str(), *l)).collect();
        assert_eq!(
            said,
            [
                (
                    ".config/alacritty/alacritty.toml",
                    "background = \"#304050\""
                ),
                (".config/kitty/kitty.conf", "background #304050"),
                (
                    "AppData/Roaming/alacritty/alacritty.toml",
                    "background = '#304050'"
                ),
                ("Library/Preferences/kitty/kitty.conf", "background #304050"),
            ]
        );
        // A second plan has nothing to do.
        let mut after = home.clone();
        after.files.extend(
            all.into_iter()
                .map(|(path, text)| (path, text.into_bytes())),
        );
        assert!(crate::testing::whole_plan(&after, setup).is_empty());
    }

    #[test]
    fn a_file_that_another_comes_before_is_told() {
        let home = MemoryAccess::with(&[
            (".config/alacritty/alacritty.toml", "# this one\n"),
            (
                ".alacritty.toml",
                "[colors.primary]\nbackground = \"#101820\"\n",
            ),
            (
                "AppData/Roaming/alacritty/alacritty.toml",
                "# for another platform\n",
            ),
        ]);
        let reports = read_all(&home);
        let problems: Vec<_> = reports.iter().flat_map(|r| &r.problems).collect();
        let [problem] = problems[..] else {
            panic!("{problems:?}");
        };
        assert!(problem.path.ends_with(".alacritty.toml"));
        assert_eq!(
            problem.message,
            "this file is not read: ~/.config/alacritty/alacritty.toml comes before it"
        );
    }
}
