//! Drawing: functions from the state to the screen. Nothing is changed and nothing read here.

mod apply;
mod contrast;
mod fonts;
mod frame;
mod glyphs;
mod help;
pub mod layout;
mod ledger;
mod palette;
mod pen;
mod proposal;
mod specimen;

use crossterm::event::{MouseButton, MouseEvent, MouseEventKind};
use ratatui::Frame;
use ratatui::layout::{Position, Rect};

use super::app::{App, Message};
use super::instrument::{Instrument, Tone};
use super::keys::Step;

use pen::Pen;

/// What a place on the screen is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Hit {
    /// A step of the path.
    Step(Step),
    /// A row of the bench's list, and a column of it.
    Row(usize, Option<usize>),
    /// A spot of the specimen.
    Spot(usize),
}

/// The places that can be clicked, found while drawing.
#[derive(Debug, Clone, Default)]
pub struct Hits {
    places: Vec<(Rect, Hit)>,
    /// Where images are shown: the cells, and which of the Font bench's panels.
    pub images: Vec<(Rect, usize)>,
}

impl Hits {
    fn add(&mut self, area: Rect, hit: Hit) {
        self.places.push((area, hit));
    }

    fn at(&self, column: u16, row: u16) -> Option<Hit> {
        let here = Position::new(column, row);
        self.places
            .iter()
            .rev()
            .find(|(area, _)| area.contains(here))
            .map(|(_, hit)| *hit)
    }
}

/// What a turn or press of the mouse means.
#[must_use]
pub fn mouse(event: MouseEvent, hits: &Hits) -> Option<Message> {
    match event.kind {
        MouseEventKind::Down(MouseButton::Left) => match hits.at(event.column, event.row)? {
            Hit::Step(step) => Some(Message::ClickedStep(step)),
            Hit::Row(row, column) => Some(Message::ClickedRow(row, column)),
            Hit::Spot(spot) => Some(Message::ClickedSpot(spot)),
        },
        MouseEventKind::ScrollDown => Some(Message::Wheel(3)),
        MouseEventKind::ScrollUp => Some(Message::Wheel(-3)),
        _ => None,
    }
}

/// Draws the whole screen and returns what can be clicked.
pub fn draw(app: &App, instrument: &Instrument, frame: &mut Frame) -> Hits {
    let mut hits = Hits::default();
    let area = frame.area();
    let buffer = frame.buffer_mut();
    buffer.set_style(area, instrument.ground());
    let mut pen = Pen::new(buffer, instrument, area);
    let (least_width, least_height) = layout::SMALLEST;
    if area.width < least_width || area.height < least_height {
        let text = format!(
            "Wealdmist needs {least_width}x{least_height} cells; this terminal has {}x{}.",
            area.width, area.height
        );
        pen.text(0, 0, &text, Tone::Strong);
        return hits;
    }
    let parts = layout::layout((area.width, area.height), app.room());
    frame::draw(app, &parts, &mut pen, &mut hits);
    if let Some(bench) = parts.bench {
        let mut bench_pen = pen.within(bench);
        if let Some(proposal) = &app.proposal {
            proposal::draw(app, proposal, &mut bench_pen, &mut hits);
        } else if let Some(cursor) = app.menu {
            proposal::draw_menu(cursor, &mut bench_pen, &mut hits);
        } else {
            match app.step {
                Step::Survey => ledger::draw(app, &mut bench_pen, &mut hits),
                Step::Palette => palette::draw(app, &mut bench_pen, &mut hits),
                Step::Contrast => contrast::draw(app, &mut bench_pen, &mut hits),
                Step::Font => fonts::draw(app, &mut bench_pen, &mut hits),
                Step::Glyphs => glyphs::draw(app, &mut bench_pen, &mut hits),
                Step::Apply => apply::draw(app, &mut bench_pen, &mut hits),
            }
        }
    }
    if let Some(area) = parts.specimen {
        specimen::draw(app, area, &mut pen, &mut hits);
    }
    if app.help {
        help::draw(app, &mut pen);
    }
    hits
}
