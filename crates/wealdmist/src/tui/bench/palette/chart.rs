//! The chart of the 256 indexed colors, over the ruler: one of them for the color pointed at, for tools
//! that only take an index.

use std::borrow::Cow;

use crossterm::event::KeyCode::{Char, Enter, Esc};
use wealdmist_core::Rgb;
use wealdmist_core::color::{
    contrast_ratio, difference, indexed, nearest_256, ratio_shown, relative_luminance,
};
use wealdmist_core::role::Usage;

use super::{Entry, ground_of};
use crate::tui::bench::{Bench, Do, Nothing, Reply};
use crate::tui::instrument::Tone;
use crate::tui::keys::{Key, also, hint};
use crate::tui::view::{Hit, Hits, Pen};
use crate::tui::workspace::Workspace;

/// How many rows the chart has: the palette's own 16, the six faces of the cube in two bands of
/// three, and the grays in two rows.
const ROWS: usize = 15;

/// The chart, for a color.
#[derive(Debug, Clone)]
pub struct Chart {
    /// The index pointed at.
    pub index: usize,
    entry: Entry,
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Take,
    Leave,
}

impl Chart {
    /// The chart for a color, with the index nearest to it pointed at.
    pub fn of(entry: Entry, _: &Workspace) -> Self {
        Self {
            index: usize::from(nearest_256(entry.color)),
            entry,
        }
    }
}

impl Bench for Chart {
    type Act = Act;
    type Ask = ();
    type Answer = Nothing;

    const KEYS: &'static [Key<Act>] = &[
        hint(Enter, Act::Take, "Enter", "take this color"),
        hint(Esc, Act::Leave, "Esc", "leave the chart"),
        also(Char('i'), Act::Leave),
        also(Char('q'), Act::Leave),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "the 256 indexed colors".into()
    }

    fn command(&self, ws: &Workspace) -> String {
        let color = color(ws, self.index);
        format!("wealdmist set {} '{color}'", ws.name_of(&self.entry.origin))
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        if act == Act::Take {
            let color = color(ws, self.index);
            let changed = ws.with_color(&self.entry.origin, color);
            if ws.change(changed) {
                let name = ws.name_of(&self.entry.origin);
                ws.tell(format!("{name} is {color} now, index {}", self.index));
            }
        }
        vec![Do::Close]
    }

    fn walk(&mut self, down: isize, right: isize, _: &mut Workspace) {
        let (row, column) = place(self.index);
        let row = row.saturating_add_signed(down.clamp(-20, 20)).min(ROWS - 1);
        let column = column.saturating_add_signed(right);
        // A shorter row is entered at its end.
        let found = (0..=column).rev().find_map(|c| index_at(row, c));
        self.index = found.unwrap_or(self.index);
    }

    fn point(&mut self, row: usize, _: Option<usize>, _: &mut Workspace) {
        self.index = row.min(255);
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        draw(self, ws, pen, hits);
    }
}

/// Where an index stands on the chart: row and column.
const fn place(index: usize) -> (usize, usize) {
    match index {
        0..16 => (0, index),
        16..232 => {
            let n = index - 16;
            let (face, inside) = (n / 36, n % 36);
            (1 + face / 3 * 6 + inside / 6, face % 3 * 6 + inside % 6)
        }
        _ => {
            let n = index - 232;
            (13 + n / 12, n % 12)
        }
    }
}

/// The index at a place of the chart.
fn index_at(row: usize, column: usize) -> Option<usize> {
    (0..256).find(|i| place(*i) == (row, column))
}

/// The color of an index: the palette's own up to 15.
fn color(ws: &Workspace, index: usize) -> Rgb {
    let index = index.min(255) as u8;
    indexed(index).unwrap_or_else(|| ws.look().slots.ansi()[usize::from(index)])
}

/// All 256 indexed colors, to choose one for tools that only take an index.
fn draw(chart: &Chart, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let (entry, chosen) = (&chart.entry, chart.index);
    let name = ws.name_of(&entry.origin);
    let column = pen.text(0, 1, &format!("for {name} "), Tone::Strong);
    let column = pen.swatch(0, column, entry.color);
    pen.text(0, column + 1, &entry.color.to_string(), Tone::Text);
    let each = (pen.width().saturating_sub(8) / 18).clamp(3, 4);
    let tall = if pen.height() >= 2 * ROWS + 8 { 2 } else { 1 };
    for index in 0..256 {
        let (row, column) = place(index);
        // A gap between the faces of the cube, and between its bands where there is room.
        let gap = |n: usize| if tall == 2 { n } else { 0 };
        let y = 2
            + row * tall
            + gap(usize::from(row > 0) + usize::from(row > 6) + usize::from(row > 12));
        let x = 1
            + column * each
            + if (1..13).contains(&row) {
                column / 6
            } else {
                0
            };
        let shade = color(ws, index);
        let ink = if relative_luminance(shade) > 0.2 {
            Rgb::new(0, 0, 0)
        } else {
            Rgb::new(255, 255, 255)
        };
        let style = pen.instrument.paint(ink, shade);
        let mark = match (index == chosen, pen.instrument.color(shade).is_some()) {
            (true, _) if each > 3 => format!(">{index}"),
            (true, _) => ">".to_owned(),
            (false, true) => String::new(),
            (false, false) => format!("{index}"),
        };
        for line in 0..tall {
            let text = if line == 0 { mark.as_str() } else { "" };
            let text: String = format!("{text:^each$}").chars().take(each).collect();
            pen.styled(y + line, x, &text, style);
            hits.add(pen.place(y + line, x..x + each), Hit::Row(index, None));
        }
    }
    let shade = color(ws, chosen);
    let (ground, usage) = ground_of(ws, &entry.origin);
    let top = 2 + ROWS * tall + if tall == 2 { 4 } else { 0 };
    let column = pen.text(top, 1, &format!("index {chosen} "), Tone::Strong);
    let column = pen.swatch(top, column, shade);
    let text = format!(
        " {shade}  {}:1 on its ground{}  difference from now {:.1}",
        ratio_shown(contrast_ratio(shade, ground)),
        if usage == Usage::Decoration {
            String::new()
        } else {
            format!(" (needs {})", usage.target())
        },
        difference(shade, entry.color)
    );
    pen.cut(top, column, &text, pen.width(), Tone::Text);
    if chosen < 16 {
        let text = "0 to 15 are the palette's own colors";
        pen.cut(top + 1, 1, text, pen.width(), Tone::Quiet);
    }
}
