//! What drawing is done with: pens, parts of the screen, places that can be clicked.

pub mod layout;
mod paint;
mod pen;

use std::sync::Arc;

use ratatui_core::layout::{Position, Rect};
use wealdmist_core::font::raster::Raster;
use wealdmist_host::Picture;

pub use layout::scroll;
pub use paint::paint;
pub use pen::{Pen, draw_excerpt, shorten};

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
    pub images: Vec<(Rect, Shown)>,
}

/// An image.
#[derive(Debug, Clone)]
pub enum Shown {
    /// In shades from the draft's ground to its text.
    Shades(Arc<Raster>),
    /// In its own colors.
    Colors(Arc<Picture>),
}

impl Shown {
    /// What tells it from others.
    #[must_use]
    pub fn bytes(&self) -> &[u8] {
        match self {
            Self::Shades(raster) => &raster.pixels,
            Self::Colors(picture) => &picture.pixels,
        }
    }
}

impl Hits {
    /// A place that can be clicked.
    pub fn add(&mut self, area: Rect, hit: Hit) {
        self.places.push((area, hit));
    }

    /// What is at a cell of the screen.
    #[must_use]
    pub fn at(&self, column: u16, row: u16) -> Option<Hit> {
        let here = Position::new(column, row);
        self.places
            .iter()
            .rev()
            .find(|(area, _)| area.contains(here))
            .map(|(_, hit)| *hit)
    }
}
