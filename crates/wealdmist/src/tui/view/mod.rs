//! Drawing: functions from the state to the screen. Nothing is changed and nothing read here.

mod frame;
mod help;
pub mod layout;
mod paint;
mod pen;
mod specimen;

use std::sync::Arc;

use crossterm::event::{MouseButton, MouseEvent, MouseEventKind};
use ratatui::Frame;
use ratatui::layout::{Position, Rect};
use wealdmist_core::font::raster::Raster;

use super::app::{App, Message};
use super::instrument::{Instrument, Tone};

pub use layout::scroll;
pub use paint::paint;
pub use pen::{Pen, draw_excerpt};

/// What a place on the screen is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Hit {
    /// A step, by its place in the path.
    Step(usize),
    /// A row of the bench's list, and a column of it.
    Row(usize, Option<usize>),
    /// A spot of the specimen.
    Spot(usize),
}

/// The places that can be clicked, found while drawing.
#[derive(Debug, Clone, Default)]
pub struct Hits {
    places: Vec<(Rect, Hit)>,
    /// Where images are shown: the cells, and the pixels.
    pub images: Vec<(Rect, Arc<Raster>)>,
}

impl Hits {
    /// A place that can be clicked.
    pub fn add(&mut self, area: Rect, hit: Hit) {
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
        MouseEventKind::Down(MouseButton::Left) => {
            Some(Message::Clicked(hits.at(event.column, event.row)?))
        }
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
        app.top().draw(&app.ws, &mut pen.within(bench), &mut hits);
    }
    if let Some(area) = parts.specimen {
        specimen::draw(&app.ws, area, &mut pen, &mut hits);
    }
    if app.help {
        // Images would lie over it.
        hits.images.clear();
        help::draw(app, &mut pen);
    }
    hits
}
