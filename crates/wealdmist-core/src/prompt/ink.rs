//! The colors of a prompt as a shell sends them.

use crate::color::{Depth, Rgb, nearest_16, nearest_256};
use crate::look::Look;
use crate::role::{RoleId, Slot, Usage, lookup};

/// A color as it is sent to a terminal.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Hue {
    /// The terminal's own text or ground.
    Own,
    /// One of its 16 colors.
    Ansi(u8),
    /// One of the 256 colors.
    Indexed(u8),
    /// A color of its own.
    Rgb(Rgb),
}

/// What a role comes to as text at a depth. A slot follows the terminal's palette, also while that is
/// being tried out.
#[must_use]
pub fn hue(look: &Look, role: &RoleId, depth: Depth) -> Hue {
    let slot = look.slot_of(role).or_else(|| Slot::from_key(role.as_str()));
    let color = look.color(role);
    match (depth, slot) {
        (Depth::None, _) | (_, Some(Slot::Foreground)) => Hue::Own,
        (_, Some(slot)) if slot.ansi().is_some() => Hue::Ansi(slot.ansi().unwrap_or_default()),
        (Depth::TrueColor, _) => Hue::Rgb(color),
        (Depth::Indexed256, _) => Hue::Indexed(nearest_256(color)),
        (Depth::Ansi16, _) => Hue::Ansi(nearest_16(color, &look.slots.ansi())),
    }
}

/// The same as a ground.
#[must_use]
pub fn ground(look: &Look, role: &RoleId, depth: Depth) -> Hue {
    let slot = look.slot_of(role).or_else(|| Slot::from_key(role.as_str()));
    match slot {
        Some(Slot::Background) => Hue::Own,
        Some(Slot::Foreground) => match depth {
            // The terminal's own text cannot be named as a ground.
            Depth::None => Hue::Own,
            Depth::TrueColor => Hue::Rgb(look.color(role)),
            Depth::Indexed256 => Hue::Indexed(nearest_256(look.color(role))),
            Depth::Ansi16 => Hue::Ansi(nearest_16(look.color(role), &look.slots.ansi())),
        },
        _ => hue(look, role, depth),
    }
}

/// What a text of a prompt is for, whatever it stands on: it has to be read, or may be overlooked where its
/// role says so.
#[must_use]
pub fn usage(text: &RoleId) -> Usage {
    match lookup(text).map(|known| known.usage) {
        Some(Usage::Secondary) => Usage::Secondary,
        _ => Usage::Body,
    }
}
