//! The keys of the present place, over the middle of the screen.

use ratatui_core::layout::Rect;
use unicode_width::UnicodeWidthStr;

use wealdmist_core::text::visible;

use crate::tui::app::App;
use crate::tui::instrument::Tone;
use crate::tui::view::Pen;

/// Draws the list of keys.
pub fn draw(app: &App, pen: &mut Pen) {
    let shown = app.keys();
    // Where all do not fit below one another, they stand in two columns.
    let most = usize::from(pen.area.height.saturating_sub(8));
    let columns = if shown.len() + 1 > most { 2 } else { 1 };
    let rows = (shown.len() + 1).div_ceil(columns);
    let wanted = if columns == 2 { 92 } else { 64 };
    let width = wanted.min(pen.area.width.saturating_sub(2));
    let height = (rows as u16 + 5).min(pen.area.height.saturating_sub(2));
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
    let title = if app.ws.stage.pointed {
        "the specimen"
    } else {
        app.step().label
    };
    pen.text(0, 2, &format!(" keys here: {title} "), Tone::Strong);
    let (mut row, mut left) = (1, 0);
    let each = (width - 2) / columns;
    let mut anywhere = false;
    for binding in shown {
        if !anywhere && binding.everywhere {
            anywhere = true;
            row += 1;
        }
        if row > rows && left == 0 && columns == 2 {
            (row, left) = (1, each);
        }
        if row >= height - 2 {
            break;
        }
        let key_end = if columns == 2 { 11 } else { 14 };
        let column = left + key_end - binding.shown.width().min(key_end - 1);
        pen.text(row, column, &binding.shown, Tone::Key);
        let room = (left + each).saturating_sub(left + key_end + 3);
        pen.cut(row, left + key_end + 3, &binding.label, room, Tone::Text);
        row += 1;
    }
    let close = "The mouse points, too. Any key closes this.";
    let text = match &app.ws.display.log {
        Some(path) => format!("{close} Log: {}", visible(path.as_bytes())),
        None => close.to_owned(),
    };
    pen.cut(height - 2, 2, &text, width - 4, Tone::Quiet);
}
