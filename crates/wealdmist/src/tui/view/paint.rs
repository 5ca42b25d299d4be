//! Pixels as characters, in the draft's own colors.

use wealdmist_core::Rgb;
use wealdmist_core::color::mix;
use wealdmist_core::font::picture::{Means, Shaded};
use wealdmist_core::look::Look;
use wealdmist_core::role::Slot;

use super::Pen;

/// Draws cells in the draft's own text and ground, their shades between the two.
pub fn paint(look: &Look, pen: &mut Pen, cells: &[Vec<Shaded>], means: Means) {
    let (ground, text) = (look.slot(Slot::Background), look.slot(Slot::Foreground));
    let shade = |n: u8| -> Rgb { mix(ground, text, f64::from(n) / 255.0) };
    for (row, line) in cells.iter().enumerate().take(pen.height()) {
        for (column, cell) in line.iter().enumerate().take(pen.width()) {
            let style = match means {
                Means::Quadrants => pen.instrument.paint(shade(cell.ink), shade(cell.ground)),
                _ => pen.instrument.paint(text, ground),
            };
            pen.styled(row, column, cell.character.encode_utf8(&mut [0; 4]), style);
        }
    }
}
