//! Whether a glyph's ink stays inside its cells, keeps clear of its neighbour, and whether the
//! shapes that must meet do so.

use std::collections::BTreeMap;

use kurbo::Shape;
use serde::{Deserialize, Serialize};
use skrifa::MetadataProvider;
use skrifa::instance::Size;
use skrifa::outline::DrawSettings;
use skrifa::outline::pen::ControlBoundsPen;

use super::Typeface;
use super::facts::Cell;

/// Ink that leaves its cell by less than this is not seen, in cell widths.
const SLACK: f32 = 0.03;
/// Less room than this between two inks counts as touching, in cell widths.
const CLEARANCE: f32 = 0.02;

/// The ink of a glyph and its advance, in cells: 0–1 across a cell from its left edge, 0–1 up the
/// line from its bottom.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Ink {
    /// Where the ink begins.
    pub left: f32,
    /// Where it ends.
    pub right: f32,
    /// Its lowest point.
    pub bottom: f32,
    /// Its highest point.
    pub top: f32,
    /// How far the pen moves on.
    pub advance: f32,
}

/// Something about a glyph in its place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Misfit {
    /// Ink beyond the cell: how much on the left and the right, in cell widths.
    Leaves {
        /// On the left.
        left: f32,
        /// On the right.
        right: f32,
    },
    /// The next character's ink is reached.
    Touches(char),
    /// A shape that must meet the next cell, or the line above or below, stops short of it, by so
    /// much: in cell widths, or heights for top and bottom.
    Seam(Edge, f32),
}

/// An edge of a cell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Edge {
    /// The left one.
    Left,
    /// The right one.
    Right,
    /// The upper one.
    Top,
    /// The lower one.
    Bottom,
}

impl Edge {
    /// The word for it.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Left => "left",
            Self::Right => "right",
            Self::Top => "top",
            Self::Bottom => "bottom",
        }
    }
}

/// The ink of characters of a face; blank ones and those it lacks are left out.
#[must_use]
pub fn inks(
    face: &Typeface,
    cell: &Cell,
    characters: impl Iterator<Item = char>,
) -> BTreeMap<char, Ink> {
    let Some(font) = face.font() else {
        return BTreeMap::new();
    };
    let charmap = font.charmap();
    let outlines = font.outline_glyphs();
    let metrics = font.glyph_metrics(Size::unscaled(), face.location());
    let height = cell.height().max(1.0);
    let floor = cell.descent - cell.leading / 2.0;
    let ink = |c: char| {
        let glyph = charmap.map(c).filter(|g| g.to_u32() != 0)?;
        let mut pen = ControlBoundsPen::new();
        let settings = DrawSettings::unhinted(Size::unscaled(), face.location());
        outlines.get(glyph)?.draw(settings, &mut pen).ok()?;
        let control = pen.bounding_box()?;
        let (x0, y0, x1, y1) = match inside(&control, cell) {
            true => (control.x_min, control.y_min, control.x_max, control.y_max),
            // Control points may lie outside the ink: where it matters the curve itself is asked.
            false => {
                let b = face.outline(glyph).bounding_box();
                (b.x0 as f32, b.y0 as f32, b.x1 as f32, b.y1 as f32)
            }
        };
        Some(Ink {
            left: x0 / cell.width,
            right: x1 / cell.width,
            bottom: (y0 - floor) / height,
            top: (y1 - floor) / height,
            advance: metrics.advance_width(glyph).unwrap_or(cell.width) / cell.width,
        })
    };
    characters.filter_map(|c| Some((c, ink(c)?))).collect()
}

fn inside(b: &skrifa::metrics::BoundingBox, cell: &Cell) -> bool {
    b.x_min >= 0.0 && b.x_max <= cell.width && b.y_min >= cell.descent && b.y_max <= cell.ascent
}

/// The sides on which a separator must meet what is beside it; `None` for what is none.
#[must_use]
pub fn must_meet(c: char) -> Option<&'static [Edge]> {
    use Edge::{Bottom, Left, Right, Top};
    match c as u32 {
        // Solid shapes that point or curve to the right, to the left, and triangles of a corner.
        0xe0b0 | 0xe0b4 | 0xe0c0 | 0xe0c4 | 0xe0c6 | 0xe0c8 | 0xe0cc | 0xe0ce | 0xe0d0 | 0xe0d2 => {
            Some(&[Left, Top, Bottom])
        }
        0xe0b2 | 0xe0b6 | 0xe0c2 | 0xe0c5 | 0xe0c7 | 0xe0ca | 0xe0cd | 0xe0cf | 0xe0d1 | 0xe0d4 => {
            Some(&[Right, Top, Bottom])
        }
        0xe0b8 | 0xe0bc => Some(&[Left, Bottom]),
        0xe0ba | 0xe0be => Some(&[Right, Bottom]),
        0x2588 => Some(&[Left, Right, Top, Bottom]),
        0x2500 | 0x2501 | 0x2550 => Some(&[Left, Right]),
        0x2502 | 0x2503 | 0x2551 => Some(&[Top, Bottom]),
        _ => None,
    }
}

/// What is the matter with a glyph drawn in a cell (or two, where `cells` is 2).
///
/// `next` is what stands behind it: its character and ink, or `None` for nothing or a blank, into
/// which ink may reach without harm when the terminal lets it.
#[must_use]
pub fn misfits(c: char, ink: &Ink, cells: usize, next: Option<(char, &Ink)>) -> Vec<Misfit> {
    let cells = cells.max(1) as f32;
    let mut out = Vec::new();
    if let Some(edges) = must_meet(c) {
        out.extend(edges.iter().filter_map(|edge| {
            let short = match edge {
                Edge::Left => ink.left,
                Edge::Right => cells - ink.right,
                Edge::Top => 1.0 - ink.top,
                Edge::Bottom => ink.bottom,
            };
            (short > SLACK).then_some(Misfit::Seam(*edge, short))
        }));
        // Separators overlap on purpose, so that rounding leaves no gap.
        return out;
    }
    let (left, right) = (-ink.left, ink.right - cells);
    if left > SLACK || right > SLACK {
        out.push(Misfit::Leaves {
            left: left.max(0.0),
            right: right.max(0.0),
        });
    } else if let Some((next, beside)) = next
        && must_meet(next).is_none()
        && !next.is_ascii_punctuation()
        && (cells - ink.right) + beside.left < CLEARANCE
    {
        out.push(Misfit::Touches(next));
    }
    out
}
