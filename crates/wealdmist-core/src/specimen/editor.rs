//! The editor: code with its diagnostics, a selection, a menu, the line at its foot.

use super::canvas::{Canvas, Ink};
use crate::character::SymbolLevel;

/// The parts of a code line: text, role, what it is.
type Piece = (&'static str, &'static str, &'static str);

#[rustfmt::skip]
const CODE: &[&[Piece]] = &[
    &[("# Marsh gauge", "title", "title")],
    &[("··", "whitespace", "whitespace signs"), ("+-- 14 lines: licence", "folded", "folded lines")],
    &[("use ", "keyword", "keyword"), ("std", "variable", "variable"), ("::", "punctuation", "punctuation"), ("fmt", "type", "type"), (";", "punctuation", "punctuation")],
    &[],
    &[("/// Metres between zero and the datum.", "comment", "comment")],
    &[("const ", "keyword", "keyword"), ("DATUM_OFFSET", "constant", "constant"), (": ", "operator", "operator"), ("f64", "type", "type"), (" = ", "operator", "operator"), ("1.25", "number", "number"), (";", "punctuation", "punctuation")],
    &[("static ", "keyword", "keyword"), ("STATION", "constant", "constant"), (": ", "operator", "operator"), ("&str", "type", "type"), (" = ", "operator", "operator"), ("\"weir\"", "string", "string"), (";", "punctuation", "punctuation")],
    &[],
    &[("// Water level above datum, in metres.", "comment", "comment")],
    &[("#[derive", "preprocessor", "attribute"), ("(Clone)]", "punctuation", "punctuation")],
    &[("pub struct ", "keyword", "keyword"), ("Gauge", "type", "type"), (" {", "punctuation", "punctuation")],
    &[("    datum", "variable", "variable"), (": ", "operator", "operator"), ("f64", "type", "type"), (",", "punctuation", "punctuation")],
    &[("}", "punctuation", "punctuation")],
    &[],
    &[("fn ", "keyword", "keyword"), ("level", "function", "function"), ("(", "match", "matching bracket"), ("raw", "variable", "variable"), (": ", "operator", "operator"), ("u16", "type", "type"), (")", "match", "matching bracket"), (" {", "punctuation", "punctuation")],
    &[("    let ", "keyword", "keyword"), ("unit", "variable", "variable"), (" = ", "operator", "operator"), ("\"metre", "string", "string"), ("\\n", "special", "escape in a string"), ("\"", "string", "string"), (";", "punctuation", "punctuation")],
    &[("    raw", "variable", "variable"), (" * ", "operator", "operator"), ("0.0125", "number", "number"), (" + ", "operator", "operator"), ("DATUM", "constant", "constant")],
    &[("}  ", "punctuation", "punctuation"), ("// TODO", "todo", "to-do mark"), (" calibrate", "comment", "comment")],
];

/// The row, counted in code lines, the editor's cursor stands on.
const CURSOR_LINE: usize = 16;

pub(super) fn editor(canvas: &mut Canvas, level: SymbolLevel, top: usize, bar: usize) {
    let status = bar.saturating_sub(2);
    // The end of the excerpt matters most (diagnostics, current line): drop lines from the top.
    let room = status.saturating_sub(top);
    let skip = CODE.len().saturating_sub(room);
    // Below the end of the text the editor shows its own sign for "nothing here".
    for row in top + CODE.len()..status {
        let ink = Ink("whitespace", "background");
        canvas.put(row, 0, "~", ink, "below the end of the text");
    }
    for (row, n) in (top..).zip(skip..CODE.len()) {
        code_line(canvas, level, row, n);
    }
    if bar >= 2 && status >= top {
        foot(canvas, status);
    }
}

/// Line `n` of the code, with its sign, its number and what stands beside it.
fn code_line(canvas: &mut Canvas, level: SymbolLevel, row: usize, n: usize) {
    let width = canvas.width;
    let current = n == CURSOR_LINE;
    let ground = if current { "cursor-line" } else { "background" };
    let sign = if level == SymbolLevel::Ascii {
        "E"
    } else {
        "●"
    };
    if current {
        canvas.fill(row, 0..width, "cursor-line");
        canvas.put(row, 0, sign, Ink("error", ground), "error sign");
    } else if n == 15 {
        canvas.put(row, 0, sign, Ink("hint", ground), "hint sign");
    }
    let (number, what) = if current {
        ("line-number.current", "current line number")
    } else {
        ("line-number", "line number")
    };
    let count = format!("{:>2}", 31 + n);
    let mut column = canvas.put(row, 2, &count, Ink(number, ground), what) + 1;
    for (text, role, what) in CODE[n] {
        let shown = text.trim_start();
        let lead = text.len() - shown.len();
        column = canvas.put(row, column + lead, shown, Ink(role, ground), what);
        if *text == "DATUM" {
            canvas.wave(row, column - 5..column, "error");
        }
    }
    if current {
        let (ink, what) = (Ink("error", ground), "diagnostic beside the line");
        canvas.put(row, column + 2, "unknown name", ink, what);
    }
    if n == 8 && width >= 56 {
        let found = Ink("search.text", "search.ground");
        canvas.put(row, column + 2, "level", found, "search match");
        let here = Ink("search.current.text", "search.current.ground");
        canvas.put(row, column + 8, "datum", here, "current search match");
    }
    if (10..13).contains(&n) && width >= 44 {
        menu(canvas, row, n - 10);
    }
}

/// The status lines of two windows, and below them what the multiplexer and the shell say.
fn foot(canvas: &mut Canvas, status: usize) {
    let width = canvas.width;
    canvas.fill(status, 0..width / 2, "status.ground");
    let ink = Ink("status.text", "status.ground");
    canvas.put(status, 1, "gauge.rs  47:12", ink, "editor status line");
    canvas.fill(status, width / 2..width, "status.inactive.ground");
    let ink = Ink("status.inactive.text", "status.inactive.ground");
    let what = "status line, inactive";
    canvas.put(status, width / 2 + 1, "notes.md", ink, what);
    let below = status + 1;
    let ink = Ink("message.text", "message.ground");
    canvas.put(below, 0, "copied 3 lines", ink, "multiplexer message");
    let ink = Ink("info", "background");
    let info = canvas.put(below, 16, "info: saved", ink, "information");
    let ink = Ink("directory", "background");
    canvas.put(below, info + 2, "see docs/", ink, "folder name");
}

/// A completion menu at the right of the code.
fn menu(canvas: &mut Canvas, row: usize, n: usize) {
    let column = canvas.width.saturating_sub(16);
    let selected = Ink("popup.selected.text", "popup.selected.ground");
    let other = Ink("popup.text", "popup.ground");
    let (text, ink, what) = [
        (" datum    f64 ", selected, "menu, selected"),
        (" depth    f64 ", other, "menu"),
        (" drain()     ", other, "menu"),
    ][n];
    canvas.put(row, column, text, ink, what);
}
