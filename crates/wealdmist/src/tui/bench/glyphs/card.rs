//! A glyph by itself: drawn large on its cell, its names, and how its ink lies.

use ratatui_core::layout::Rect;
use wealdmist_core::character::{is_invisible, is_private_use};
use wealdmist_core::font::ChosenFont;
use wealdmist_core::font::picture::{Means, draw as draw_raster};
use wealdmist_core::icon::{self, State};
use wealdmist_core::text::{code_points, listed, visible_with};

use super::large::{Large, MARGIN, Size};
use crate::tui::instrument::Tone;
use crate::tui::view::{Pen, paint};
use crate::tui::workspace::Workspace;

/// The columns of a glyph drawn large.
const LARGE: usize = 22;

/// A glyph whose card has been begun: what follows stands from `row` on, in `room` columns from
/// `left` on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Card<'a> {
    /// The characters that are drawn as one.
    cluster: &'a str,
    /// The next row.
    pub row: usize,
    /// The first column.
    pub left: usize,
    /// How many columns there are.
    pub room: usize,
    drawn: bool,
}

impl<'a> Card<'a> {
    /// Draws a glyph large, or what would stand for it where it cannot be drawn, and its names; several characters
    /// that are drawn as one by their names alone.
    pub fn draw(
        cluster: &'a str,
        instead: Option<char>,
        drawings: &Large,
        ws: &Workspace,
        pen: &mut Pen,
    ) -> Self {
        let mut large = |c| large(drawings, ws, c, pen);
        let drawn = alone(cluster).is_some_and(&mut large) || instead.is_some_and(&mut large);
        let left = if drawn { LARGE + 2 } else { 1 };
        let room = pen.width().saturating_sub(left + 1);
        let row = 1;
        let column = pen.text(row, left, &code_points(cluster), Tone::Strong);
        let name = match alone(cluster) {
            Some(c) => names(c),
            None => {
                let drawn = cluster.chars().filter(|c| !is_invisible(*c));
                let known: Vec<String> = drawn.filter_map(icon::name).collect();
                format!("drawn as one: {}", known.join(" + "))
            }
        };
        pen.cut(
            row,
            column + 2,
            &name,
            room.saturating_sub(column + 2 - left),
            Tone::Text,
        );
        Self {
            cluster,
            row: row + 1,
            left,
            room,
            drawn,
        }
    }

    /// How the ink of a glyph lies on its cell.
    pub fn metrics(&self, of_terminal: bool, ws: &Workspace, pen: &mut Pen) {
        let Self {
            cluster,
            row,
            left,
            room,
            drawn,
        } = *self;
        let Some(font) = ws.chosen_font() else {
            return;
        };
        let Some(c) = alone(cluster) else {
            self.parts(font, pen);
            return;
        };
        pen.cut(row, left, &source(font, c), room, Tone::Text);
        if let Some(ink) = font.inks.get(&c) {
            let percent = |v: f32| (v * 100.0).round();
            let text = format!(
                "ink from {} to {} % across its cell, {} to {} % up the line; advance {} %",
                percent(ink.left),
                percent(ink.right),
                percent(ink.bottom),
                percent(ink.top),
                percent(ink.advance)
            );
            pen.cut(row + 1, left, &text, room, Tone::Text);
        }
        if let Some(range) = icon::range_of(c) {
            pen.cut(
                row + 2,
                left,
                &format!("range {}", range.name),
                room,
                Tone::Quiet,
            );
        }
        if ws.display.icons || !is_private_use(c) || of_terminal {
            let text = match drawn {
                true => format!(
                    "this terminal draws it so: {c}   beside it, what it should be; x marks a difference"
                ),
                false => format!("this terminal draws it so: {c}   x marks it where that is wrong"),
            };
            let rows = pen.height().saturating_sub(row + 3);
            pen.paragraph(row + 3, left, &text, (room, rows), Tone::Text);
        } else {
            pen.cut(
                row + 3,
                left,
                "start with --icons to see this terminal's own drawing of icons here",
                room,
                Tone::Quiet,
            );
        }
    }
}

impl Card<'_> {
    /// What the font has of characters that are drawn as one, and how this terminal draws them.
    fn parts(&self, font: &ChosenFont, pen: &mut Pen) {
        let drawn = self.cluster.chars().filter(|c| !is_invisible(*c));
        let lacked = drawn.filter(|c| !font.coverage.has(*c));
        let lacked: Vec<String> = lacked
            .map(|c| code_points(c.encode_utf8(&mut [0; 4])))
            .collect();
        let text = match &lacked[..] {
            [] => "the chosen font has all of these characters".to_owned(),
            some => format!("the chosen font lacks {}", some.join(" ")),
        };
        pen.cut(self.row, self.left, &text, self.room, Tone::Text);
        // It stands last: it may take more cells here than is thought.
        let text = format!(
            "x marks it where this terminal draws it wrongly: {}",
            self.cluster
        );
        pen.cut(self.row + 2, self.left, &text, self.room, Tone::Text);
    }
}

/// The character of a glyph that is one.
fn alone(cluster: &str) -> Option<char> {
    let mut all = cluster.chars();
    all.next().filter(|_| all.next().is_none())
}

/// Everything a character is or was called.
fn names(c: char) -> String {
    let each = icon::describe(c).into_iter().map(|f| match f.state {
        State::Present => f.name,
        State::Moved(to) => format!("formerly {}, now U+{:04X}", f.name, to as u32),
        State::Gone => format!("formerly {}, gone", f.name),
    });
    let names: Vec<String> = each.collect();
    match names.is_empty() {
        true => "no name is known".to_owned(),
        false => names.join("; "),
    }
}

/// Where a character comes from; by terminal where they differ.
fn source(font: &ChosenFont, c: char) -> String {
    let mut all: Vec<(&str, Vec<&str>)> = Vec::new();
    for host in &font.hosts {
        let has = match font.coverage.has(c) {
            _ if host.is_self_drawn(c) => "drawn by the terminal itself",
            _ if host.map(c).is_some() => "taken from another family, as the dotfiles say",
            true => "in the chosen font",
            false => "not in the chosen font",
        };
        let named = host.host.map(|t| t.0);
        match all.iter_mut().find(|(word, _)| *word == has) {
            Some((_, hosts)) => hosts.extend(named),
            None => all.push((has, named.into_iter().collect())),
        }
    }
    match &all[..] {
        [(one, _)] => (*one).to_owned(),
        several => {
            let each = several.iter();
            let each = each.map(|(word, hosts)| format!("{word} ({})", listed(hosts)));
            each.collect::<Vec<_>>().join("; ")
        }
    }
}

/// A character as it may be shown: an icon only where the person says the terminal has it.
pub fn sign(ws: &Workspace, c: char, cluster: &str) -> String {
    match is_private_use(c) && !ws.display.icons {
        true => "icon".to_owned(),
        false => visible_with(cluster, true),
    }
}

/// With what a glyph is drawn: shades tell best where ink leaves its cell.
fn telling(ws: &Workspace) -> Means {
    match ws.display.means.contains(&Means::Quadrants) {
        true => Means::Quadrants,
        false => ws.display.best(),
    }
}

/// How wide and high a glyph of the sheet is, in cells: half again its own cell, by quarters of cells.
pub const SMALL: (usize, usize) = (6, 8);

/// A glyph among others; whether there was one to draw.
pub fn small(drawings: &Large, ws: &Workspace, c: char, pen: &mut Pen) -> bool {
    let Some(raster) = drawings.get(c, Size::Small) else {
        return false;
    };
    let means = telling(ws);
    paint(ws.look(), pen, &draw_raster(raster, means), means);
    true
}

/// The glyph drawn large from the chosen font; whether there was one to draw. Its cell is lighter
/// than what is outside, and ticks mark baseline, top and bottom of the line.
fn large(drawings: &Large, ws: &Workspace, c: char, pen: &mut Pen) -> bool {
    let Some(raster) = drawings.get(c, Size::Large) else {
        return false;
    };
    let means = telling(ws);
    let cells = draw_raster(raster, means);
    let height = pen.height().saturating_sub(1);
    let (step, rows) = (means.pixels(), cells.len());
    let skip = rows.saturating_sub(height) / 2;
    let shown: Vec<_> = cells
        .into_iter()
        .skip(skip)
        .take(height)
        .map(|r| r.into_iter().take(LARGE).collect::<Vec<_>>())
        .collect();
    let area = Rect {
        y: pen.area.y + 1,
        height: shown.len() as u16,
        width: LARGE as u16 + 1,
        ..pen.area
    };
    paint(ws.look(), &mut pen.within(area), &shown, means);
    // The edges of the cell, in columns of the drawing.
    let cell = raster.width as f32 / (1.0 + 2.0 * MARGIN);
    let edge = |pixel: f32| (pixel / step.0 as f32).round() as usize;
    let (from, to) = (edge(cell * MARGIN), edge(cell * (1.0 + MARGIN)));
    let mark = if pen.instrument.unicode { "▏" } else { "|" };
    for (row, cells) in shown.iter().enumerate() {
        if means == Means::Quadrants {
            for outside in [0..from, to..LARGE.min(cells.len())] {
                pen.restyle(row + 1, outside, |s| {
                    s.add_modifier(ratatui_core::style::Modifier::DIM)
                });
            }
        }
        for column in [from.saturating_sub(1), to] {
            let blank =
                |s: &wealdmist_core::font::picture::Shaded| s.character == ' ' && s.ground < 40;
            if column < LARGE && cells.get(column).is_some_and(blank) {
                pen.text(row + 1, column, mark, Tone::Faint);
            }
        }
    }
    true
}
