//! The shell: prompts with what their commands say.

use super::canvas::{Canvas, Ink, TEXT};
use crate::character::SymbolLevel;
use crate::prompt::{self, Situation};
use crate::role::RoleId;
use crate::setup::Setup;

fn prompt_at(
    canvas: &mut Canvas,
    setup: &Setup,
    level: SymbolLevel,
    at: &Situation,
    row: usize,
) -> (usize, usize) {
    let lines = prompt::draw(&setup.prompt, level, at);
    let mut column = 0;
    for (i, line) in lines.iter().enumerate() {
        column = 0;
        for run in line {
            let (what, name) = prompt_spot(&run.role);
            let lead = run.text.len() - run.text.trim_start().len();
            let shown = run.text.trim_start();
            column = canvas.put(row + i, column + lead, shown, Ink(name, "background"), what);
        }
    }
    (row + lines.len() - 1, column)
}

fn prompt_spot(role: &RoleId) -> (&'static str, &'static str) {
    match role.as_str() {
        "prompt.user" => ("prompt, user", "prompt.user"),
        "prompt.root" => ("prompt, root", "prompt.root"),
        "prompt.host" => ("prompt, host", "prompt.host"),
        "prompt.folder" => ("prompt, folder", "prompt.folder"),
        "prompt.branch" => ("prompt, branch", "prompt.branch"),
        "prompt.dirty" => ("prompt, uncommitted changes", "prompt.dirty"),
        "prompt.failure" => ("prompt, exit status", "prompt.failure"),
        _ => ("prompt, sign", "prompt.sign"),
    }
}

pub(super) fn shell(
    canvas: &mut Canvas,
    setup: &Setup,
    level: SymbolLevel,
    row: usize,
    roomy: bool,
) -> usize {
    let clean = Situation {
        dirty: false,
        ..Situation::sample()
    };
    let (mut row, column) = prompt_at(canvas, setup, level, &clean, row);
    canvas.put(row, column, "./gauge --station weir", TEXT, "typed command");
    row += 1;
    let column = canvas.put(row, 0, "station weir  ", TEXT, "plain output");
    let column = canvas.put(
        row,
        column,
        "1.84 m",
        Ink("success", "background"),
        "success",
    );
    let column = canvas.put(
        row,
        column + 1,
        "rising",
        Ink("warning", "background"),
        "warning",
    );
    canvas.put(
        row,
        column + 2,
        "gauge.invalid/weir",
        Ink("url", "background"),
        "link",
    );
    if roomy {
        row += 1;
        let column = canvas.put(row, 0, "error:", Ink("error", "background"), "error");
        canvas.put(
            row,
            column + 1,
            "sensor 7 is silent since 04:10",
            TEXT,
            "plain output",
        );
        row += 1;
        let failed = Situation {
            status: 2,
            ..Situation::sample()
        };
        let (last, column) = prompt_at(canvas, setup, level, &failed, row);
        row = last;
        let column = canvas.put(row, column, "grep ", TEXT, "typed command");
        let selected = Ink("selection-text", "selection");
        let column = canvas.put(row, column, "selected text", selected, "selection");
        canvas.put(row, column + 1, " ", Ink("cursor-text", "cursor"), "cursor");
    }
    row + 1
}

/// Another machine, as root: the parts of the prompt that only show there, and a listing.
pub(super) fn remote(canvas: &mut Canvas, setup: &Setup, level: SymbolLevel, row: usize) -> usize {
    let root = Situation {
        user: "root".into(),
        root: true,
        ssh: true,
        folder: "/etc/gauge".into(),
        branch: None,
        dirty: false,
        ..Situation::sample()
    };
    let (row, column) = prompt_at(canvas, setup, level, &root, row);
    canvas.put(row, column, "ls", TEXT, "typed command");
    let folder = Ink("directory", "background");
    let column = canvas.put(row + 1, 0, "stations", folder, "folder name");
    let column = canvas.put(row + 1, column + 2, "datum.toml", TEXT, "plain output");
    canvas.put(row + 1, column + 2, "weir.log", TEXT, "plain output");
    row + 2
}
