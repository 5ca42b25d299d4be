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
    let width = canvas.width;
    let status = bar.saturating_sub(2);
    // The end of the excerpt matters most (diagnostics, current line): drop lines from the top.
    let room = status.saturating_sub(top);
    let skip = CODE.len().saturating_sub(room);
    let first = top;
    // Below the end of the text the editor shows its own sign for "nothing here".
    for row in top + CODE.len()..status {
        canvas.put(
            row,
            0,
            "~",
            Ink("whitespace", "background"),
            "below the end of the text",
        );
    }
    for (row, (n, line)) in (first..).zip(CODE.iter().enumerate().skip(skip)) {
        let current = n == CURSOR_LINE;
        let ground = if current { "cursor-line" } else { "background" };
        if current {
            canvas.fill(row, 0..width, "cursor-line");
        }
        let sign = if level == SymbolLevel::Ascii {
            "E"
        } else {
            "●"
        };
        if n == CURSOR_LINE {
            canvas.put(row, 0, sign, Ink("error", ground), "error sign");
        } else if n == 15 {
            canvas.put(row, 0, sign, Ink("hint", ground), "hint sign");
        }
        let number = if current {
            "line-number.current"
        } else {
            "line-number"
        };
        let what = if current {
            "current line number"
        } else {
            "line number"
        };
        let mut column =
            canvas.put(row, 2, &format!("{:>2}", 31 + n), Ink(number, ground), what) + 1;
        for (text, role, what) in *line {
            let lead = text.len() - text.trim_start().len();
            let end = canvas.put(
                row,
                column + lead,
                text.trim_start(),
                Ink(role, ground),
                what,
            );
            column = end;
            if *text == "DATUM" {
                canvas.wave(row, end - 5..end, "error");
            }
        }
        if n == CURSOR_LINE {
            canvas.put(
                row,
                column + 2,
                "unknown name",
                Ink("error", ground),
                "diagnostic beside the line",
            );
        }
        if n == 8 && width >= 56 {
            canvas.put(
                row,
                column + 2,
                "level",
                Ink("search.text", "search.ground"),
                "search match",
            );
            canvas.put(
                row,
                column + 8,
                "datum",
                Ink("search.current.text", "search.current.ground"),
                "current search match",
            );
        }
        if (10..13).contains(&n) && width >= 44 {
            menu(canvas, row, n - 10);
        }
    }
    if bar >= 2 && status >= top {
        canvas.fill(status, 0..width / 2, "status.ground");
        canvas.put(
            status,
            1,
            "gauge.rs  47:12",
            Ink("status.text", "status.ground"),
            "editor status line",
        );
        canvas.fill(status, width / 2..width, "status.inactive.ground");
        let other = Ink("status.inactive.text", "status.inactive.ground");
        canvas.put(
            status,
            width / 2 + 1,
            "notes.md",
            other,
            "status line, inactive",
        );
        canvas.put(
            status + 1,
            0,
            "copied 3 lines",
            Ink("message.text", "message.ground"),
            "multiplexer message",
        );
        let info = canvas.put(
            status + 1,
            16,
            "info: saved",
            Ink("info", "background"),
            "information",
        );
        canvas.put(
            status + 1,
            info + 2,
            "see docs/",
            Ink("directory", "background"),
            "folder name",
        );
    }
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
