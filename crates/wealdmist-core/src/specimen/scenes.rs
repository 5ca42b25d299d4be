//! What the sample screen shows, and how it is laid out for the room there is.

use super::canvas::{Canvas, Ink, TEXT};
use super::editor::editor;
use super::shell::{remote, shell};
use crate::character::SymbolLevel;
use crate::setup::Setup;

/// Lays the parts out for the height there is: the shell and the editor always, the diff and the
/// strip of slots where there is room.
pub(super) fn compose(canvas: &mut Canvas, setup: &Setup, level: SymbolLevel) {
    let height = canvas.height;
    let bar = height.saturating_sub(1);
    let mut row = 0;
    row = shell(canvas, setup, level, row, height >= 16);
    if height >= 38 {
        row = remote(canvas, setup, level, row);
    }
    if height >= 30 {
        row = diff(canvas, row + 1);
    }
    if height >= 24 {
        row = slots(canvas, row + usize::from(height >= 32));
    }
    row = pane_border(canvas, row, level);
    editor(canvas, level, row, bar);
    multiplexer_bar(canvas, level, bar);
}

fn diff(canvas: &mut Canvas, row: usize) -> usize {
    let width = canvas.width;
    canvas.put(
        row,
        0,
        "@@ -12,4 +12,4 @@ fn level",
        Ink("diff.changed.text", "background"),
        "diff, place",
    );
    canvas.fill(row + 1, 0..width, "diff.removed.ground");
    let removed = Ink("diff.removed.text", "diff.removed.ground");
    canvas.put(
        row + 1,
        0,
        "-    let mean = sum / 12;",
        removed,
        "diff, removed line",
    );
    canvas.fill(row + 2, 0..width, "diff.added.ground");
    let added = Ink("diff.added.text", "diff.added.ground");
    canvas.put(
        row + 2,
        0,
        "+    let mean = sum / samples.len();",
        added,
        "diff, added line",
    );
    canvas.put(row + 3, 0, "     mean + self.datum", TEXT, "diff, context");
    row + 4
}

fn slots(canvas: &mut Canvas, row: usize) -> usize {
    const NORMAL: [&str; 8] = [
        "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
    ];
    const BRIGHT: [&str; 8] = [
        "bright-black",
        "bright-red",
        "bright-green",
        "bright-yellow",
        "bright-blue",
        "bright-magenta",
        "bright-cyan",
        "bright-white",
    ];
    let each = (canvas.width / 8).clamp(4, 8);
    for (line, names) in [NORMAL, BRIGHT].into_iter().enumerate() {
        for (i, name) in names.into_iter().enumerate() {
            let text = format!("{:<w$}", format!("▇▇ {}", i + line * 8), w = each - 1);
            canvas.put(
                row + line,
                i * each,
                &text,
                Ink(name, "background"),
                "terminal color",
            );
        }
    }
    row + 2
}

fn pane_border(canvas: &mut Canvas, row: usize, level: SymbolLevel) -> usize {
    let line = if level == SymbolLevel::Ascii {
        "-"
    } else {
        "─"
    };
    let half = canvas.width / 2;
    let inactive = Ink("border.inactive", "background");
    canvas.put(row, 0, &line.repeat(half), inactive, "inactive pane border");
    let active = Ink("border.active", "background");
    canvas.put(
        row,
        half,
        &line.repeat(canvas.width - half),
        active,
        "active pane border",
    );
    row + 1
}

fn multiplexer_bar(canvas: &mut Canvas, level: SymbolLevel, row: usize) {
    let width = canvas.width;
    canvas.fill(row, 0..width, "bar.ground");
    let column = canvas.put(
        row,
        0,
        " marsh ",
        Ink("bar.left.text", "bar.left.ground"),
        "bar, left part",
    );
    let window = Ink("bar.window.text", "bar.window.ground");
    let column = canvas.put(row, column, " 1 notes ", window, "other window");
    let current = Ink("bar.current.text", "bar.current.ground");
    let column = canvas.put(row, column, " 2 gauge", current, "current window");
    let column = canvas.put(
        row,
        column,
        "+ ",
        Ink("bar.flag.text", "bar.current.ground"),
        "window flags",
    );
    let mut column = canvas.put(
        row,
        column,
        " 3 log! ",
        Ink("bar.alert.text", "bar.ground"),
        "window with an alert",
    );
    if width >= 48 {
        let prefix = Ink("bar.prefix.text", "bar.prefix.ground");
        column = canvas.put(row, column + 1, " prefix ", prefix, "prefix pressed");
    }
    let right = if level == SymbolLevel::Ascii {
        " heronry 14:20 "
    } else {
        " heronry · 14:20 "
    };
    let at = width.saturating_sub(right.chars().count());
    if at > column {
        canvas.put(
            row,
            at,
            right,
            Ink("bar.right.text", "bar.right.ground"),
            "bar, right part",
        );
    }
}
