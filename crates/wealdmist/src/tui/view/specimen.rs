//! The specimen: the one part of the screen that wears the draft.

use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use wealdmist_core::specimen::Cell;

use super::layout::specimen_cells;
use super::pen::Pen;
use super::{Hit, Hits};
use crate::tui::app::App;
use crate::tui::instrument::{Instrument, Tone};

/// Draws the specimen in its area.
pub fn draw(app: &App, area: Rect, pen: &mut Pen, hits: &mut Hits) {
    let cells = specimen_cells(area);
    let specimen = &app.specimen;
    let pointed = app.on_specimen.then_some(app.spot);
    {
        let instrument = pen.instrument;
        let mut inner = pen.within(cells);
        for row in 0..specimen.height.min(inner.height()) {
            for column in 0..specimen.width.min(inner.width()) {
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
                inner.styled(row, column, &cell.text, style);
            }
        }
        for (i, spot) in specimen.spots.iter().enumerate() {
            hits.add(
                inner.place(spot.at.0, spot.at.1..spot.at.1 + spot.width),
                Hit::Spot(i),
            );
        }
    }
    // The pointer stands in the gutter, so the sample itself stays as it is.
    if let Some(spot) = app.pointed().and_then(|i| specimen.spots.get(i)) {
        let tone = if app.on_specimen {
            Tone::Strong
        } else {
            Tone::Faint
        };
        let pointer = pen.signs().pointer;
        pen.within(area).text(spot.at.0, 0, pointer, tone);
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
