//! The whole screen, drawn from the state. Nothing is changed and nothing read here.

mod around;
mod help;
mod specimen;

use crossterm::event::{MouseButton, MouseEvent, MouseEventKind};
use ratatui_core::terminal::Frame;

use super::app::{App, Message};
use super::instrument::{Instrument, Tone};
use super::view::{Hits, Pen, Shown, layout};

/// What a turn or press of the mouse means.
#[must_use]
pub fn mouse(event: MouseEvent, hits: &Hits) -> Option<Message> {
    match event.kind {
        MouseEventKind::Down(MouseButton::Left) => {
            Some(Message::Clicked(hits.at(event.column, event.row)?))
        }
        MouseEventKind::Up(MouseButton::Left) => {
            Some(Message::Released(hits.at(event.column, event.row)))
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
    around::draw(app, &parts, &mut pen, &mut hits);
    if let Some(bench) = parts.bench {
        app.top().draw(&app.ws, &mut pen.within(bench), &mut hits);
    }
    if let Some(area) = parts.specimen {
        let picture = app.top().picture(&app.ws).filter(|_| !app.ws.stage.pointed);
        specimen::draw(&app.ws, area, picture.is_some(), &mut pen, &mut hits);
        if let Some(picture) = picture {
            hits.images
                .push((layout::specimen_cells(area), Shown::Colors(picture)));
        }
    }
    if app.help {
        // Images would lie over it.
        hits.images.clear();
        help::draw(app, &mut pen);
    }
    hits
}
