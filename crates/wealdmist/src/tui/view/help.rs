//! The keys of the present place, over the middle of the screen.

use ratatui::layout::Rect;
use unicode_width::UnicodeWidthStr;

use super::pen::Pen;
use crate::tui::app::App;
use crate::tui::instrument::Tone;
use crate::tui::keys::{Place, shown};

/// Draws the list of keys.
pub fn draw(app: &App, pen: &mut Pen) {
    let shown: Vec<_> = shown(app.at()).collect();
    let width = 64.min(pen.area.width.saturating_sub(4));
    let height = (shown.len() as u16 + 6).min(pen.area.height.saturating_sub(2));
    let area = Rect::new(
        (pen.area.width - width) / 2,
        (pen.area.height - height) / 2,
        width,
        height,
    );
    let mut pen = pen.within(area);
    pen.clear();
    let (width, height) = (pen.width(), pen.height());
    pen.rule(0, 0..width);
    pen.rule(height - 1, 0..width);
    let side = pen.signs().vertical;
    for row in 1..height - 1 {
        pen.text(row, 0, side, Tone::Faint);
        pen.text(row, width - 1, side, Tone::Faint);
    }
    let title = if app.on_specimen {
        "the specimen"
    } else {
        app.step.label()
    };
    pen.text(0, 2, &format!(" keys here: {title} "), Tone::Strong);
    let mut row = 1;
    let mut anywhere = false;
    for binding in shown {
        if row >= height - 2 {
            break;
        }
        if !anywhere && matches!(binding.place, Place::Anywhere) {
            anywhere = true;
            row += 1;
        }
        let column = 14usize.saturating_sub(binding.shown.width());
        pen.text(row, column, binding.shown, Tone::Key);
        pen.cut(row, 17, binding.label, width.saturating_sub(18), Tone::Text);
        row += 1;
    }
    pen.text(
        height - 2,
        2,
        "The mouse points, too. Any key closes this.",
        Tone::Quiet,
    );
}
