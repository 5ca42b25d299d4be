//! What core draws and what a screen shows, cell by cell.

use std::fmt::Write as _;

use wealdmist_core::color::Depth;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{self, Hue, Ink, Row};

/// A cell: its character, colors, and whether it is bold, italic and underlined.
#[derive(Debug, Clone, PartialEq)]
pub struct Cell(String, vt100::Color, vt100::Color, [bool; 3]);

fn color(hue: Hue) -> vt100::Color {
    match hue {
        Hue::Own => vt100::Color::Default,
        Hue::Ansi(n) | Hue::Indexed(n) => vt100::Color::Idx(n),
        Hue::Rgb(c) => vt100::Color::Rgb(c.r, c.g, c.b),
    }
}

/// What core draws, cell by cell.
pub fn drawn(
    rows: &[Row],
    look: &Look,
    depth: Depth,
    width: usize,
) -> (Vec<Vec<Cell>>, (u16, u16)) {
    let ink = |ink: &Ink| {
        let text = ink
            .text
            .as_ref()
            .map_or(Hue::Own, |r| prompt::hue(look, r, depth));
        let ground = ink
            .ground
            .as_ref()
            .map_or(Hue::Own, |r| prompt::ground(look, r, depth));
        // A ground's own color as text: what joins blocks.
        let text = match &ink.text {
            Some(r) if !ink.styled && r.as_str() != prompt::BETWEEN => {
                prompt::ground(look, r, depth)
            }
            _ => text,
        };
        let attrs = ink
            .text
            .as_ref()
            .filter(|_| ink.styled)
            .map(|r| look.attrs(r))
            .unwrap_or_default();
        let attrs = match depth {
            Depth::None => [false; 3],
            _ => [attrs.bold, attrs.italic, attrs.underline],
        };
        (color(text), color(ground), attrs)
    };
    let mut out = Vec::new();
    for row in rows {
        let mut cells = Vec::new();
        let put = |cells: &mut Vec<Cell>, pieces: &[prompt::Piece]| {
            for piece in pieces {
                let (text, ground, attrs) = ink(&piece.ink);
                for c in piece.text.chars() {
                    if prompt::cells(&c.to_string()) == 0 {
                        let mark = cells.iter_mut().rev().find(|c: &&mut Cell| !c.0.is_empty());
                        mark.expect("something to mark").0.push(c);
                        continue;
                    }
                    cells.push(Cell(c.to_string(), text, ground, attrs));
                    for _ in 1..prompt::cells(&c.to_string()) {
                        cells.push(Cell(String::new(), text, ground, attrs));
                    }
                }
            }
        };
        put(&mut cells, &row.left);
        if !row.right.is_empty() {
            let from = width - 1 - prompt::cells_of(&row.right);
            let blank = Cell(
                " ".into(),
                vt100::Color::Default,
                vt100::Color::Default,
                [false; 3],
            );
            cells.resize(from, blank);
            put(&mut cells, &row.right);
        }
        out.push(cells);
    }
    let last = rows.last().map_or(0, |r| prompt::cells_of(&r.left));
    (out, ((rows.len() - 1) as u16, last as u16))
}

/// Whether a cell of a screen is as wanted; else what it is.
fn same(screen: &vt100::Screen, (row, column): (u16, u16), want: &Cell) -> Result<(), String> {
    let cell = screen.cell(row, column).unwrap();
    let mut text = cell.contents().to_owned();
    if text.is_empty() && !cell.is_wide_continuation() {
        " ".clone_into(&mut text);
    }
    let attrs = [cell.bold(), cell.italic(), cell.underline()];
    let same = match want.0.trim().is_empty() {
        // The second half of a wide character has no colors of its own.
        true if cell.is_wide_continuation() => want.0.is_empty(),
        // A blank has a ground alone.
        true => text.trim().is_empty() && cell.bgcolor() == want.2,
        false => *want == Cell(text.clone(), cell.fgcolor(), cell.bgcolor(), attrs),
    };
    let is = Cell(text, cell.fgcolor(), cell.bgcolor(), attrs);
    match same {
        true => Ok(()),
        false => Err(format!(
            "row {row}, column {column}: {is:?} in place of {want:?}"
        )),
    }
}

/// Whether a row of a screen begins as wanted, and the cursor stands behind that.
pub fn row_begins(screen: &vt100::Screen, row: u16, wanted: &[Cell]) -> Result<(), String> {
    for (column, want) in (0..).zip(wanted) {
        same(screen, (row, column), want)?;
    }
    let behind = (row, wanted.len() as u16);
    match screen.cursor_position() == behind {
        true => Ok(()),
        false => Err(format!("the cursor is at {:?}", screen.cursor_position())),
    }
}

/// What differs between a screen and what is wanted.
pub fn compared(
    screen: &vt100::Screen,
    wanted: &[Vec<Cell>],
    cursor: (u16, u16),
) -> Result<(), String> {
    let (rows, columns) = screen.size();
    for row in 0..rows.get() {
        for column in 0..columns.get() {
            let blank = Cell(
                " ".into(),
                vt100::Color::Default,
                vt100::Color::Default,
                [false; 3],
            );
            let cells = wanted.get(usize::from(row));
            let want = cells
                .and_then(|r| r.get(usize::from(column)))
                .unwrap_or(&blank);
            same(screen, (row, column), want)?;
        }
    }
    match screen.cursor_position() == cursor {
        true => Ok(()),
        false => Err(format!(
            "the cursor is at {:?}, not {cursor:?}",
            screen.cursor_position()
        )),
    }
}

pub fn as_text(wanted: &[Vec<Cell>]) -> String {
    let mut out = String::new();
    for row in wanted {
        let line: String = row.iter().map(|c| c.0.as_str()).collect();
        let _ = writeln!(out, "{line}|");
    }
    out
}
