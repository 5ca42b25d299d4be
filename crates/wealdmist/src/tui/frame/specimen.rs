//! The specimen: the one part of the screen that wears the draft.

use ratatui_core::layout::Rect;
use ratatui_core::style::{Modifier, Style};
use wealdmist_core::specimen::{Cell, Specimen};
use wealdmist_core::text::visible;

use crate::tui::instrument::{Instrument, Tone};
use crate::tui::view::layout::specimen_cells;
use crate::tui::view::{Hit, Hits, Pen};
use crate::tui::workspace::Workspace;

/// Draws the specimen in its area; `is_covered` says that an image will lie over it.
pub fn draw(ws: &Workspace, area: Rect, is_covered: bool, pen: &mut Pen, hits: &mut Hits) {
    let cells = specimen_cells(area);
    let stage = &ws.stage;
    let specimen = &stage.seen;
    let pointed = stage.pointed.then_some(stage.spot);
    {
        let mut inner = pen.within(cells);
        grid(specimen, pointed, &mut inner, 0);
        if let Some((below, second)) = &stage.second {
            let top = specimen.height;
            inner.rule(top, 0..inner.width());
            let above = stage.title.as_deref().unwrap_or_default();
            let text = format!(
                " above {}, below {} ",
                visible(above.as_bytes()),
                visible(below.as_bytes())
            );
            inner.cut(top, 2, &text, inner.width().saturating_sub(4), Tone::Quiet);
            grid(second, None, &mut inner, top + 1);
        }
        for (i, spot) in specimen.spots.iter().enumerate() {
            hits.add(
                inner.place(spot.at.0, spot.at.1..spot.at.1 + spot.width),
                Hit::Spot(i),
            );
        }
    }
    // The pointer stands in the gutter, so the sample itself stays as it is.
    let shown = stage.shown_spot().filter(|_| !is_covered);
    if let Some(spot) = shown.and_then(|i| specimen.spots.get(i)) {
        let tone = if stage.pointed {
            Tone::Strong
        } else {
            Tone::Faint
        };
        let pointer = pen.signs().pointer;
        pen.within(area).text(spot.at.0, 0, pointer, tone);
    }
}

/// Draws a specimen's cells from a row on.
fn grid(specimen: &Specimen, pointed: Option<usize>, pen: &mut Pen, top: usize) {
    let instrument = pen.instrument;
    for row in 0..specimen.height.min(pen.height().saturating_sub(top)) {
        for column in 0..specimen.width.min(pen.width()) {
            let Some(cell) = specimen.cell(row, column) else {
                continue;
            };
            if cell.text.is_empty() {
                continue;
            }
            let mut style = style_of(cell, instrument);
            if pointed.is_some() && cell.spot == pointed {
                style = style.add_modifier(Modifier::UNDERLINED | Modifier::BOLD);
            }
            pen.styled(top + row, column, &cell.text, style);
        }
    }
}

fn style_of(cell: &Cell, instrument: &Instrument) -> Style {
    let mut style = instrument.paint(cell.fg, cell.bg);
    if cell.attrs.bold {
        style = style.add_modifier(Modifier::BOLD);
    }
    if cell.attrs.italic {
        style = style.add_modifier(Modifier::ITALIC);
    }
    if cell.attrs.underline {
        style = style.add_modifier(Modifier::UNDERLINED);
    }
    if let Some(color) = cell.underline {
        style = style.add_modifier(Modifier::UNDERLINED);
        if let Some(color) = instrument.color(color) {
            style = style.underline_color(color);
        }
    }
    style
}
