//! The images of a frame: when they have to be shown anew, and where they go.

use std::hash::{DefaultHasher, Hash, Hasher};

use wealdmist_core::Rgb;
use wealdmist_core::role::Slot;
use wealdmist_core::terminal::Images;

use super::view::{Hits, Shown};
use super::workspace::Workspace;
use crate::screen::image;

/// What tells whether the images of a frame are those on the screen already; `None` for none.
pub fn mark(ws: &Workspace, hits: &Hits) -> Option<u64> {
    if hits.images.is_empty() {
        return None;
    }
    let mut hasher = DefaultHasher::new();
    let look = &ws.derived.look;
    (look.slot(Slot::Background), look.slot(Slot::Foreground)).hash(&mut hasher);
    for (area, raster) in &hits.images {
        area.hash(&mut hasher);
        raster.bytes().hash(&mut hasher);
    }
    Some(hasher.finish())
}

/// The escapes that bring the images of a frame to the screen: what was shown before is removed.
pub fn escapes(hits: &Hits, shades: (Rgb, Rgb), by: Images) -> Vec<u8> {
    let mut out = Vec::new();
    if by == Images::Graphics {
        // Delete every image, quietly.
        out.extend_from_slice(b"\x1b_Ga=d,d=A,q=2\x1b\\");
    }
    for (area, shown) in &hits.images {
        let place = format!("\x1b7\x1b[{};{}H", area.y + 1, area.x + 1);
        out.extend_from_slice(place.as_bytes());
        let pixels = match shown {
            Shown::Shades(raster) => image::escapes(raster, shades, by),
            Shown::Colors(picture) => image::colored(picture, by),
        };
        out.extend_from_slice(&pixels);
        out.extend_from_slice(b"\x1b8");
    }
    out
}
