//! The specimen: a drawn sample of a screen, made of spots that know their role.
//!
//! A grid of cells is drawn from a [`Look`]; the interface shows it, `wealdmist-draw` turns it
//! into a picture. The content is our own made-up scenario.

use std::collections::BTreeMap;

use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

use crate::character;
use crate::character::SymbolLevel;
use crate::color::Rgb;
use crate::look::Look;
use crate::prompt::{self, Situation};
use crate::role::RoleId;
use crate::setup::{Attrs, Setup};

/// One character cell.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Cell {
    /// The grapheme; empty behind a wide one.
    pub text: String,
    /// Its color.
    pub fg: Rgb,
    /// The ground's color.
    pub bg: Rgb,
    /// Its attributes.
    pub attrs: Attrs,
    /// Whether it is marked by a wavy underline (a diagnostic), and in which color.
    pub underline: Option<Rgb>,
    /// The spot it belongs to.
    pub spot: Option<usize>,
}

/// One styled thing that can be pointed at.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Spot {
    /// What it is, for people.
    pub what: &'static str,
    /// The role of its text.
    pub text: RoleId,
    /// The role of its ground.
    pub ground: RoleId,
    /// Row and column of its first cell.
    pub at: (usize, usize),
    /// How many cells it takes in its row.
    pub width: usize,
}

/// A direction on the specimen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Direction {
    Up,
    Down,
    Left,
    Right,
}

/// A drawn specimen.
#[derive(Debug, Clone, PartialEq)]
pub struct Specimen {
    /// Width in cells.
    pub width: usize,
    /// Height in cells.
    pub height: usize,
    /// The cells, row by row.
    pub cells: Vec<Cell>,
    /// The spots, from the top left to the bottom right.
    pub spots: Vec<Spot>,
}

impl Specimen {
    /// Draws the sample screen. `icons` says whether private-use icons may be drawn; otherwise
    /// the plain signs stand for them.
    #[must_use]
    pub fn draw(setup: &Setup, look: &Look, width: usize, height: usize, icons: bool) -> Self {
        let mut canvas = Canvas::new(look, width.max(1), height.max(1));
        let level = if icons {
            setup.symbols
        } else {
            setup.symbols.min(SymbolLevel::Plain)
        };
        compose(&mut canvas, setup, level);
        canvas.finish()
    }

    /// A cell.
    #[must_use]
    pub fn cell(&self, row: usize, column: usize) -> Option<&Cell> {
        if column >= self.width {
            return None;
        }
        self.cells.get(row * self.width + column)
    }

    /// The spot nearest to `from` in a direction; `from` itself if there is none.
    #[must_use]
    pub fn hop(&self, from: usize, direction: Direction) -> usize {
        let Some(here) = self.spots.get(from) else {
            return 0;
        };
        let center = |s: &Spot| (s.at.0 as f64, s.at.1 as f64 + s.width as f64 / 2.0);
        let (row, column) = center(here);
        let mut best = (f64::MAX, from);
        for (i, spot) in self.spots.iter().enumerate() {
            let (r, c) = center(spot);
            // A cell is about twice as high as wide.
            let (down, right) = ((r - row) * 2.0, c - column);
            let (along, across) = match direction {
                Direction::Up => (-down, right),
                Direction::Down => (down, right),
                Direction::Left => (-right, down),
                Direction::Right => (right, down),
            };
            let sideways = matches!(direction, Direction::Left | Direction::Right);
            if i == from || along < 0.5 || (sideways && across.abs() > 0.1) {
                continue;
            }
            let distance = along * 3.0 + across.abs();
            if distance < best.0 {
                best = (distance, i);
            }
        }
        best.1
    }

    /// The first spot drawn in a role, as text or as ground.
    #[must_use]
    pub fn find(&self, role: &RoleId) -> Option<usize> {
        let text = self.spots.iter().position(|s| s.text == *role);
        text.or_else(|| self.spots.iter().position(|s| s.ground == *role))
    }
}

struct Canvas<'a> {
    look: &'a Look,
    width: usize,
    height: usize,
    cells: Vec<Cell>,
    spots: Vec<Spot>,
}

/// Text and ground of something drawn.
#[derive(Clone, Copy)]
struct Ink(&'static str, &'static str);

impl<'a> Canvas<'a> {
    fn new(look: &'a Look, width: usize, height: usize) -> Self {
        let cell = Cell {
            text: " ".into(),
            fg: look.color(&RoleId::known("foreground")),
            bg: look.color(&RoleId::known("background")),
            attrs: Attrs::default(),
            underline: None,
            spot: None,
        };
        Self {
            look,
            width,
            height,
            cells: vec![cell; width * height],
            spots: Vec::new(),
        }
    }

    /// Writes text as one spot and returns the column after it.
    fn put(
        &mut self,
        row: usize,
        column: usize,
        text: &str,
        ink: Ink,
        what: &'static str,
    ) -> usize {
        let (text_role, ground_role) = (RoleId::known(ink.0), RoleId::known(ink.1));
        let colors = (self.look.color(&text_role), self.look.color(&ground_role));
        let attrs = self.look.attrs(&text_role);
        let spot = (row < self.height && column < self.width).then_some(self.spots.len());
        let mut at = column;
        for grapheme in text.graphemes(true) {
            let wide = grapheme.width().max(1);
            if row >= self.height || at + wide > self.width {
                break;
            }
            for (i, cell) in self.cells[row * self.width + at..][..wide]
                .iter_mut()
                .enumerate()
            {
                cell.text = if i == 0 {
                    grapheme.to_owned()
                } else {
                    String::new()
                };
                (cell.fg, cell.bg) = colors;
                cell.attrs = attrs;
                cell.spot = spot;
            }
            at += wide;
        }
        if spot.is_some() && at > column {
            let width = at - column;
            self.spots.push(Spot {
                what,
                text: text_role,
                ground: ground_role,
                at: (row, column),
                width,
            });
        }
        at
    }

    /// Colors the ground of a stretch without making a spot.
    fn fill(&mut self, row: usize, columns: std::ops::Range<usize>, ground: &'static str) {
        let color = self.look.color(&RoleId::known(ground));
        for column in columns.start..columns.end.min(self.width) {
            if row < self.height {
                self.cells[row * self.width + column].bg = color;
            }
        }
    }

    /// Marks a stretch with a wavy line.
    fn wave(&mut self, row: usize, columns: std::ops::Range<usize>, role: &'static str) {
        let color = self.look.color(&RoleId::known(role));
        for column in columns.start..columns.end.min(self.width) {
            if row < self.height {
                self.cells[row * self.width + column].underline = Some(color);
            }
        }
    }

    fn finish(mut self) -> Specimen {
        // Spots in reading order, so that the first is at the top left.
        let mut order: Vec<usize> = (0..self.spots.len()).collect();
        order.sort_by_key(|i| self.spots[*i].at);
        let new_index: BTreeMap<usize, usize> = order
            .iter()
            .enumerate()
            .map(|(new, old)| (*old, new))
            .collect();
        for cell in &mut self.cells {
            cell.spot = cell.spot.and_then(|s| new_index.get(&s).copied());
        }
        let spots = order.iter().map(|i| self.spots[*i].clone()).collect();
        Specimen {
            width: self.width,
            height: self.height,
            cells: self.cells,
            spots,
        }
    }
}

const TEXT: Ink = Ink("foreground", "background");

/// Lays the parts out for the height there is: the shell and the editor always, the diff and the
/// strip of slots where there is room.
fn compose(canvas: &mut Canvas, setup: &Setup, level: SymbolLevel) {
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

fn shell(canvas: &mut Canvas, setup: &Setup, level: SymbolLevel, row: usize, roomy: bool) -> usize {
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
fn remote(canvas: &mut Canvas, setup: &Setup, level: SymbolLevel, row: usize) -> usize {
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

fn editor(canvas: &mut Canvas, level: SymbolLevel, top: usize, bar: usize) {
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

/// Every private-use character a specimen would show.
#[must_use]
pub fn private_use(specimen: &Specimen) -> usize {
    specimen
        .cells
        .iter()
        .filter(|c| c.text.chars().any(character::is_private_use))
        .count()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::setup::SetupDoc;
    use proptest::prelude::*;

    fn specimen(width: usize, height: usize, icons: bool) -> Specimen {
        let text = "[palettes.a]\n[symbols]\nlevel='icons'\n";
        let setup = SetupDoc::parse("s", text.as_bytes())
            .unwrap()
            .setup()
            .clone();
        Specimen::draw(&setup, &Look::new(&setup), width, height, icons)
    }

    #[test]
    fn a_full_size_specimen_shows_every_part() {
        let s = specimen(72, 44, false);
        for role in [
            "prompt.branch",
            "comment",
            "diff.added.text",
            "selection",
            "bar.current.text",
            "border.active",
            "error",
            "search.ground",
            "bar.prefix.ground",
            "status.text",
            "popup.text",
        ] {
            assert!(
                s.find(&RoleId::known(role)).is_some(),
                "{role} is not on the specimen"
            );
        }
        assert_eq!(private_use(&s), 0);
        assert!(private_use(&specimen(72, 44, true)) > 0);
    }

    #[test]
    fn spots_lie_where_their_cells_are() {
        let s = specimen(60, 40, false);
        for (i, spot) in s.spots.iter().enumerate() {
            let cell = s.cell(spot.at.0, spot.at.1).unwrap();
            assert!(cell.spot.is_some(), "{spot:?}");
            assert!(
                cell.spot == Some(i) || s.spots[cell.spot.unwrap()].at == spot.at,
                "{spot:?}"
            );
        }
    }

    #[test]
    fn hopping_reaches_every_row_and_comes_back() {
        let s = specimen(72, 44, false);
        let mut at = 0;
        let mut rows = std::collections::BTreeSet::new();
        for _ in 0..200 {
            rows.insert(s.spots[at].at.0);
            at = s.hop(at, Direction::Down);
        }
        assert!(rows.len() > 28, "{rows:?}");
        let right = s.hop(0, Direction::Right);
        assert_ne!(right, 0);
        assert_eq!(s.hop(right, Direction::Left), 0);
    }

    proptest! {
        #[test]
        fn any_size_can_be_drawn(w in 0usize..300, h in 0usize..120) {
            let s = specimen(w, h, true);
            prop_assert_eq!(s.cells.len(), s.width * s.height);
            for spot in &s.spots {
                prop_assert!(spot.at.0 < s.height && spot.at.1 + spot.width <= s.width);
            }
        }
    }
}
