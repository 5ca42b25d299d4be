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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::fonts;
    use proptest::prelude::*;
    use std::sync::Arc;

    fn ink(left: f32, right: f32) -> Ink {
        Ink {
            left,
            right,
            bottom: 0.2,
            top: 0.8,
            advance: 1.0,
        }
    }

    #[test]
    fn ink_outside_its_cells_is_told_by_side() {
        assert!(misfits('x', &ink(0.05, 0.95), 1, None).is_empty());
        assert!(
            misfits('x', &ink(-0.02, 1.02), 1, None).is_empty(),
            "not seen"
        );
        let both = misfits('x', &ink(-0.2, 1.3), 1, None);
        assert!(
            matches!(both[..], [Misfit::Leaves { left, right }] if (left - 0.2).abs() < 1e-5 && (right - 0.3).abs() < 1e-5),
            "{both:?}"
        );
        // The same ink has room in two cells but for its left side.
        let two = misfits('x', &ink(-0.2, 1.3), 2, None);
        assert!(
            matches!(two[..], [Misfit::Leaves { right: 0.0, .. }]),
            "{two:?}"
        );
        assert!(misfits('x', &ink(0.1, 1.9), 2, None).is_empty());
    }

    #[test]
    fn the_next_ink_may_not_be_reached() {
        let beside = ink(0.0, 0.9);
        let close = misfits('x', &ink(0.1, 0.995), 1, Some(('y', &beside)));
        assert_eq!(close, [Misfit::Touches('y')]);
        let apart = ink(0.1, 0.9);
        assert!(misfits('x', &ink(0.1, 0.995), 1, Some(('y', &apart))).is_empty());
        assert!(misfits('x', &ink(0.1, 0.9), 1, Some(('y', &beside))).is_empty());
        // Brackets and quotes stand close on purpose, and separators meet everything.
        assert!(misfits('x', &ink(0.1, 0.995), 1, Some((')', &beside))).is_empty());
        assert!(misfits('x', &ink(0.1, 0.995), 1, Some(('\u{e0b0}', &beside))).is_empty());
    }

    #[test]
    fn separators_must_meet_their_edges() {
        let whole = Ink {
            left: 0.0,
            right: 1.0,
            bottom: 0.0,
            top: 1.0,
            advance: 1.0,
        };
        assert!(misfits('\u{e0b0}', &whole, 1, None).is_empty());
        let over = Ink {
            left: -0.1,
            right: 1.4,
            bottom: -0.1,
            top: 1.1,
            ..whole
        };
        assert!(
            misfits('\u{e0b0}', &over, 1, None).is_empty(),
            "overlap leaves no gap"
        );
        let short = Ink {
            left: 0.1,
            top: 0.9,
            ..whole
        };
        let edges = |c: char| -> Vec<Edge> {
            misfits(c, &short, 1, None)
                .into_iter()
                .map(|m| match m {
                    Misfit::Seam(edge, by) => {
                        assert!((by - 0.1).abs() < 1e-5);
                        edge
                    }
                    other => panic!("{other:?}"),
                })
                .collect()
        };
        assert_eq!(edges('\u{e0b0}'), [Edge::Left, Edge::Top]);
        assert_eq!(
            edges('\u{e0b2}'),
            [Edge::Top],
            "it points away from the left"
        );
        assert_eq!(edges('│'), [Edge::Top]);
        assert_eq!(edges('─'), [Edge::Left]);
        assert_eq!(edges('\u{e0b8}'), [Edge::Left]);
        assert_eq!(must_meet('a'), None);
        for edge in [Edge::Left, Edge::Right, Edge::Top, Edge::Bottom] {
            assert!(!edge.label().is_empty());
        }
    }

    #[test]
    fn the_ink_of_a_made_font_is_where_it_was_drawn() {
        let face = Typeface::open(Arc::new(fonts::complete()), 0).unwrap();
        let cell = face.cell();
        let inks = inks(&face, &cell, "█\u{e0b0}a 字".chars());
        let block = inks[&'█'];
        assert_eq!(
            (block.left, block.right, block.bottom, block.top),
            (0.0, 1.0, 0.0, 1.0)
        );
        assert!(inks[&'a'].left > 0.05 && inks[&'a'].right < 0.95);
        assert!(
            !inks.contains_key(&' ') && !inks.contains_key(&'字'),
            "blank, or not there"
        );
        let wide = Typeface::open(Arc::new(fonts::wide_icons()), 0).unwrap();
        let icon = super::inks(&wide, &wide.cell(), std::iter::once('\u{f07b}'))[&'\u{f07b}'];
        assert!(icon.left < -0.3 && icon.right > 1.3, "{icon:?}");
    }

    proptest! {
        #[test]
        fn more_cells_never_make_it_worse(left in -2.0f32..1.0, width in 0.0f32..3.0) {
            let ink = ink(left, left + width);
            let over = |cells| misfits('x', &ink, cells, None).iter().map(|m| match m {
                Misfit::Leaves { left, right } => left + right,
                _ => 0.0,
            }).sum::<f32>();
            prop_assert!(over(2) <= over(1) + 1e-5);
            prop_assert!(over(0) == over(1), "no cells at all count as one");
        }
    }
}
