//! The specimen: a drawn sample of a screen, made of spots that know their role.
//!
//! A grid of cells is drawn from a [`Look`]; the interface shows it, `wealdmist-draw` turns it
//! into a picture. The content is our own made-up scenario.

mod canvas;
mod editor;
mod excerpts;
mod scenes;
mod shell;
mod situations;
mod window;

use crate::character;
use crate::character::SymbolLevel;
use crate::color::Rgb;
use crate::look::Look;
use crate::role::RoleId;
use crate::setup::{Attrs, Setup};

use canvas::Canvas;
pub use excerpts::Excerpt;
use scenes::compose;
pub use situations::{ENTERED, GOES_ON, Moment, Scene};

/// One character cell.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Cell {
    /// The grapheme; empty behind a wide one.
    pub text: String,
    /// Its color.
    pub fg: Rgb,
    /// The ground's color.
    pub bg: Rgb,
    /// Its attributes.
    pub attrs: Attrs,
    /// Whether it is marked by a wavy underline (a diagnostic), and in which color.
    pub underline: Option<Rgb>,
    /// The spot it belongs to.
    pub spot: Option<usize>,
}

/// One styled thing that can be pointed at.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Spot {
    /// What it is, for people.
    pub what: &'static str,
    /// The role of its text.
    pub text: RoleId,
    /// The role of its ground.
    pub ground: RoleId,
    /// Row and column of its first cell.
    pub at: (usize, usize),
    /// How many cells it takes in its row.
    pub width: usize,
}

/// A direction on the specimen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Direction {
    Up,
    Down,
    Left,
    Right,
}

/// A drawn specimen.
#[derive(Debug, Clone, PartialEq)]
pub struct Specimen {
    /// Width in cells.
    pub width: usize,
    /// Height in cells.
    pub height: usize,
    /// The cells, row by row.
    pub cells: Vec<Cell>,
    /// The spots, from the top left to the bottom right.
    pub spots: Vec<Spot>,
}

impl Specimen {
    /// Draws the sample screen. `icons` says whether private-use icons may be drawn; otherwise
    /// the plain signs stand for them.
    #[must_use]
    pub fn draw(setup: &Setup, look: &Look, width: usize, height: usize, icons: bool) -> Self {
        let mut canvas = Canvas::new(look, width.max(1), height.max(1));
        let level = if icons {
            setup.symbols
        } else {
            setup.symbols.min(SymbolLevel::Plain)
        };
        compose(&mut canvas, setup, level);
        canvas.finish()
    }

    /// A cell.
    #[must_use]
    pub fn cell(&self, row: usize, column: usize) -> Option<&Cell> {
        if column >= self.width {
            return None;
        }
        self.cells.get(row * self.width + column)
    }

    /// The spot nearest to `from` in a direction; `from` itself if there is none.
    #[must_use]
    pub fn hop(&self, from: usize, direction: Direction) -> usize {
        let Some(here) = self.spots.get(from) else {
            return 0;
        };
        let center = |s: &Spot| (s.at.0 as f64, s.at.1 as f64 + s.width as f64 / 2.0);
        let (row, column) = center(here);
        let mut best = (f64::MAX, from);
        for (i, spot) in self.spots.iter().enumerate() {
            let (r, c) = center(spot);
            // A cell is about twice as high as wide.
            let (down, right) = ((r - row) * 2.0, c - column);
            let (along, across) = match direction {
                Direction::Up => (-down, right),
                Direction::Down => (down, right),
                Direction::Left => (-right, down),
                Direction::Right => (right, down),
            };
            let sideways = matches!(direction, Direction::Left | Direction::Right);
            if i == from || along < 0.5 || (sideways && across.abs() > 0.1) {
                continue;
            }
            let distance = along * 3.0 + across.abs();
            if distance < best.0 {
                best = (distance, i);
            }
        }
        best.1
    }

    /// The first spot drawn in a role, as text or as ground.
    #[must_use]
    pub fn find(&self, role: &RoleId) -> Option<usize> {
        let text = self.spots.iter().position(|s| s.text == *role);
        text.or_else(|| self.spots.iter().position(|s| s.ground == *role))
    }
}

/// Every private-use character a specimen would show.
#[must_use]
pub fn private_use(specimen: &Specimen) -> usize {
    specimen
        .cells
        .iter()
        .filter(|c| c.text.chars().any(character::is_private_use))
        .count()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::setup::SetupDoc;
    use proptest::prelude::*;

    fn specimen(width: usize, height: usize, icons: bool) -> Specimen {
        let text = "[palettes.a]\n[symbols]\nlevel='icons'\n";
        let setup = SetupDoc::parse("s", text.as_bytes())
            .unwrap()
            .setup()
            .clone();
        Specimen::draw(&setup, &Look::new(&setup), width, height, icons)
    }

    #[test]
    fn a_full_size_specimen_shows_every_part() {
        let s = specimen(72, 44, false);
        for role in [
            "prompt.branch",
            "comment",
            "diff.added.text",
            "selection",
            "bar.current.text",
            "border.active",
            "error",
            "search.ground",
            "bar.prefix.ground",
            "status.text",
            "popup.text",
        ] {
            assert!(
                s.find(&RoleId::known(role)).is_some(),
                "{role} is not on the specimen"
            );
        }
        assert_eq!(private_use(&s), 0);
        assert!(private_use(&specimen(72, 44, true)) > 0);
    }

    #[test]
    fn spots_lie_where_their_cells_are() {
        let s = specimen(60, 40, false);
        for (i, spot) in s.spots.iter().enumerate() {
            let cell = s.cell(spot.at.0, spot.at.1).unwrap();
            assert!(cell.spot.is_some(), "{spot:?}");
            assert!(
                cell.spot == Some(i) || s.spots[cell.spot.unwrap()].at == spot.at,
                "{spot:?}"
            );
        }
    }

    #[test]
    fn hopping_reaches_every_row_and_comes_back() {
        let s = specimen(72, 44, false);
        let mut at = 0;
        let mut rows = std::collections::BTreeSet::new();
        for _ in 0..200 {
            rows.insert(s.spots[at].at.0);
            at = s.hop(at, Direction::Down);
        }
        assert!(rows.len() > 28, "{rows:?}");
        let right = s.hop(0, Direction::Right);
        assert_ne!(right, 0);
        assert_eq!(s.hop(right, Direction::Left), 0);
    }

    proptest! {
        #[test]
        fn any_size_can_be_drawn(w in 0usize..300, h in 0usize..120) {
            let s = specimen(w, h, true);
            prop_assert_eq!(s.cells.len(), s.width * s.height);
            for spot in &s.spots {
                prop_assert!(spot.at.0 < s.height && spot.at.1 + spot.width <= s.width);
            }
        }
    }
}
