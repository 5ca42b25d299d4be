//! A color of one palette as another palette would have it.

use super::Palette;
use crate::color::{Oklch, Rgb, lightness_span};
use crate::role::Slot;

/// The slots whose hues say how a palette is turned.
const HUES: [Slot; 6] = [
    Slot::Red,
    Slot::Green,
    Slot::Yellow,
    Slot::Blue,
    Slot::Magenta,
    Slot::Cyan,
];

/// What a color of one palette comes to in another: as far between ground and text as it was, a
/// gray in the other's tint, a hue as the other has it.
#[must_use]
pub fn adapted(color: Rgb, from: &Palette, to: &Palette) -> Rgb {
    let decides = [Slot::Background, Slot::Foreground];
    let mut decisive = decides.into_iter().chain(HUES);
    if decisive.all(|s| from.slot(s) == to.slot(s)) {
        return color;
    }
    let slot = |p: &Palette, s| Oklch::from(p.slot(s));
    let c = Oklch::from(color);
    let (bg, fg) = (slot(from, Slot::Background), slot(from, Slot::Foreground));
    let (new_bg, new_fg) = (slot(to, Slot::Background), slot(to, Slot::Foreground));
    let t = (c.l - bg.l) / lightness_span(bg.l, fg.l);
    let l = (new_bg.l + t * (new_fg.l - new_bg.l)).clamp(0.0, 1.0);
    let near = HUES
        .into_iter()
        .map(|s| (slot(from, s), slot(to, s)))
        .min_by(|a, b| a.0.turned_from(&c).total_cmp(&b.0.turned_from(&c)));
    let (h, c) = match near {
        Some((old, new)) if c.c >= 0.035 => {
            let turned = (c.h - old.h).rem_euclid(360.0);
            let scale = (new.c / old.c.max(0.01)).clamp(0.6, 1.5);
            ((new.h + turned).rem_euclid(360.0), c.c * scale)
        }
        _ => (new_bg.h, c.c.min(new_bg.c.max(0.008))),
    };
    Oklch { l, c, h }.to_rgb()
}
