//! The shell: prompts with what their commands say.

use super::canvas::{Canvas, Ink, TEXT};
use crate::character::SymbolLevel;
use crate::prompt::{self, Design, Repository, Situation};
use crate::role::RoleId;
use crate::setup::Setup;

fn prompt_at(canvas: &mut Canvas, design: &Design, at: &Situation, row: usize) -> (usize, usize) {
    let rows = prompt::draw(design, true, at);
    let mut column = 0;
    for (i, line) in rows.iter().enumerate() {
        column = put_pieces(canvas, row + i, 0, &line.left);
    }
    (row + rows.len() - 1, column)
}

/// Writes stretches of a prompt from a column on; where the next one would stand.
pub(super) fn put_pieces(
    canvas: &mut Canvas,
    row: usize,
    from: usize,
    pieces: &[prompt::Piece],
) -> usize {
    let mut column = from;
    for piece in pieces {
        let roles = prompt_spot(&piece.ink);
        let what = spot(&roles.0);
        // A blank on the terminal's own ground is no spot.
        let blank = match piece.ink.ground {
            Some(_) => 0,
            None => piece.text.len() - piece.text.trim_start().len(),
        };
        column = canvas.put_in(row, column + blank, &piece.text[blank..], roles, what);
    }
    column
}

fn prompt_spot(ink: &prompt::Ink) -> (RoleId, RoleId) {
    let own = |role: &Option<RoleId>, other| role.clone().unwrap_or(RoleId::known(other));
    (own(&ink.text, "foreground"), own(&ink.ground, "background"))
}

/// What a stretch in a role is called.
fn spot(text: &RoleId) -> &'static str {
    match text.as_str() {
        "prompt.user" => "prompt, user",
        "prompt.root" => "prompt, root",
        "prompt.host" => "prompt, host",
        "prompt.folder" => "prompt, folder",
        "prompt.branch" => "prompt, branch",
        "prompt.dirty" => "prompt, uncommitted changes",
        "prompt.failure" => "prompt, exit status",
        "prompt.sign" => "prompt, sign",
        _ => "prompt",
    }
}

/// What is typed, in the color of its job where the setup says any of those: a shell that colors nothing draws
/// it as text.
fn typed(setup: &Setup, role: &'static str) -> Ink {
    let colors = |role: &RoleId| role.as_str().starts_with("shell.");
    match setup.roles.keys().any(colors) {
        true => Ink(role, "background"),
        false => TEXT,
    }
}

pub(super) fn shell(
    canvas: &mut Canvas,
    setup: &Setup,
    level: SymbolLevel,
    row: usize,
    roomy: bool,
) -> usize {
    let design = setup.prompt_at(level);
    let sample = Situation {
        width: canvas.width,
        ..Situation::sample()
    };
    let clean = Situation {
        repository: sample.repository.clone().map(|r| Repository {
            counts: Some([0; 9]),
            ..r
        }),
        ..sample.clone()
    };
    let (mut row, column) = prompt_at(canvas, &design, &clean, row);
    for (at, text, role, what) in [
        (0, "./gauge", "shell.command", "typed command"),
        (8, "--station weir", "shell.parameter", "typed argument"),
    ] {
        canvas.put(row, column + at, text, typed(setup, role), what);
    }
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
            statuses: vec![2],
            ..sample
        };
        let (last, column) = prompt_at(canvas, &design, &failed, row);
        row = last;
        let command = typed(setup, "shell.command");
        let column = canvas.put(row, column, "grep", command, "typed command") + 1;
        let selected = Ink("selection-text", "selection");
        let column = canvas.put(row, column, "selected text", selected, "selection");
        canvas.put(row, column + 1, " ", Ink("cursor-text", "cursor"), "cursor");
        let suggested = RoleId::known("shell.suggestion");
        if setup.roles.contains_key(&suggested) {
            let ink = Ink("shell.suggestion", "background");
            canvas.put(row, column + 2, "datum.toml", ink, "suggested text");
        }
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
        width: canvas.width,
        ..Situation::home()
    };
    let (row, column) = prompt_at(canvas, &setup.prompt_at(level), &root, row);
    canvas.put(row, column, "ls", TEXT, "typed command");
    let folder = Ink("directory", "background");
    let column = canvas.put(row + 1, 0, "stations", folder, "folder name");
    let column = canvas.put(row + 1, column + 2, "datum.toml", TEXT, "plain output");
    canvas.put(row + 1, column + 2, "weir.log", TEXT, "plain output");
    row + 2
}
