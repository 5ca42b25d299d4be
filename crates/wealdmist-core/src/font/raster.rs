//! Text as gray pixels, from the outlines after shaping, laid out in cells as a terminal does.

use kurbo::{Affine, BezPath, PathEl};
use tiny_skia::{FillRule, Mask, PathBuilder, Transform};
use unicode_width::UnicodeWidthChar;

use super::facts::Cell;
use super::{FeatureSetting, Typeface};
use crate::limits;

/// The cells of a face at one size, in pixels.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Grid {
    /// Pixels per font unit.
    pub scale: f32,
    /// The width of a cell.
    pub cell_width: u32,
    /// The height of a cell.
    pub cell_height: u32,
    /// From the top of a cell to the baseline.
    pub baseline: f32,
}

impl Grid {
    /// The cells at a size in pixels per em, with lines `line_height` times as far apart as the
    /// font asks. Cells are whole pixels, as in terminals.
    #[must_use]
    pub fn at(cell: &Cell, pixels_per_em: f32, line_height: f32) -> Self {
        let scale = pixels_per_em.clamp(1.0, 2000.0) / cell.units_per_em.max(1.0);
        let height = (cell.height() * scale).ceil().max(1.0);
        let lines = (height * line_height.clamp(0.5, 4.0)).round().max(1.0);
        let extra = (lines - height) / 2.0;
        let leading = cell.leading * scale / 2.0;
        Self {
            scale,
            cell_width: ((cell.width * scale).round() as u32).clamp(1, limits::RASTER_SIDE),
            cell_height: (lines as u32).clamp(1, limits::RASTER_SIDE),
            baseline: (cell.ascent * scale + leading + extra).round(),
        }
    }

    /// The cells of a given width in pixels: the size that makes letters that wide.
    #[must_use]
    pub fn of_width(cell: &Cell, pixels: f32) -> Self {
        Self::at(cell, pixels / cell.width.max(1.0) * cell.units_per_em, 1.0)
    }

    /// The size in pixels per em.
    #[must_use]
    pub fn pixels_per_em(&self, cell: &Cell) -> f32 {
        self.scale * cell.units_per_em
    }
}

/// Gray pixels, row by row: 0 ground, 255 ink.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Raster {
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    /// The pixels.
    pub pixels: Vec<u8>,
}

impl Raster {
    /// Ground only.
    #[must_use]
    pub fn new(width: u32, height: u32) -> Self {
        let (width, height) = (
            width.min(limits::RASTER_SIDE),
            height.min(limits::RASTER_SIDE),
        );
        Self {
            width,
            height,
            pixels: vec![0; (width * height) as usize],
        }
    }

    /// A pixel; ground outside.
    #[must_use]
    pub fn at(&self, x: u32, y: u32) -> u8 {
        if x >= self.width || y >= self.height {
            return 0;
        }
        self.pixels[(y * self.width + x) as usize]
    }

    /// Puts another raster over this one, its top left at a place.
    pub fn put(&mut self, other: &Self, x: u32, y: u32) {
        for row in 0..other.height.min(self.height.saturating_sub(y)) {
            for column in 0..other.width.min(self.width.saturating_sub(x)) {
                let here = &mut self.pixels[((y + row) * self.width + x + column) as usize];
                *here = (*here).max(other.pixels[(row * other.width + column) as usize]);
            }
        }
    }

    /// How much ink there is, 0–1 of all pixels.
    #[must_use]
    pub fn coverage(&self) -> f64 {
        let sum: u64 = self.pixels.iter().map(|p| u64::from(*p)).sum();
        sum as f64 / (self.pixels.len().max(1) as f64 * 255.0)
    }
}

/// A glyph's outline where it stands in a line: font units, the pen at the line's start, y up.
#[derive(Debug, Clone)]
pub struct Stroke {
    /// The byte of the text it comes from.
    pub cluster: usize,
    /// The outline.
    pub path: BezPath,
}

/// Shapes a line and lays it out in cells: each cluster begins at the cell a terminal gives it,
/// whatever the font's own advances are.
#[must_use]
pub fn lay_out(
    face: &Typeface,
    cell: &Cell,
    text: &str,
    features: &[FeatureSetting],
) -> Vec<Stroke> {
    let mut columns = vec![0usize; text.len() + 1];
    let mut column = 0;
    for (at, c) in text.char_indices() {
        columns[at] = column;
        column += c.width().unwrap_or(0);
    }
    let mut out = Vec::new();
    let (mut cluster, mut pen) = (usize::MAX, 0.0);
    for glyph in face.shape(text, features) {
        if glyph.cluster != cluster {
            cluster = glyph.cluster;
            pen = 0.0;
        }
        let start = columns.get(cluster).copied().unwrap_or(0) as f32 * cell.width;
        let x = f64::from(start + pen + glyph.offset.0);
        let mut path = face.outline(glyph.glyph);
        path.apply_affine(Affine::translate((x, f64::from(glyph.offset.1))));
        pen += glyph.advance;
        if !path.elements().is_empty() {
            out.push(Stroke { cluster, path });
        }
    }
    out
}

/// How many cells a line takes.
#[must_use]
pub fn columns(text: &str) -> usize {
    text.chars().map(|c| c.width().unwrap_or(0)).sum()
}

/// A line of text as pixels, one cell high.
#[must_use]
pub fn line(face: &Typeface, grid: &Grid, text: &str, features: &[FeatureSetting]) -> Raster {
    let cell = face.cell();
    let width = (columns(text) as u32 * grid.cell_width).clamp(1, limits::RASTER_SIDE);
    // A cell is whole pixels wide: outlines are squeezed by the rounding so that they still meet.
    let across = grid.cell_width as f32 / cell.width.max(1.0);
    let strokes = lay_out(face, &cell, text, features);
    let paths = strokes.iter().map(|s| &s.path);
    fill(
        paths,
        across,
        grid.scale,
        grid.baseline,
        width,
        grid.cell_height,
    )
}

/// Fills outlines given in font units: scaled, the baseline at a row, y turned down.
pub fn fill<'a>(
    paths: impl Iterator<Item = &'a BezPath>,
    across: f32,
    up: f32,
    baseline: f32,
    width: u32,
    height: u32,
) -> Raster {
    let mut out = Raster::new(width, height);
    let Some(mut mask) = Mask::new(out.width.max(1), out.height.max(1)) else {
        return out;
    };
    let transform = Transform::from_row(across, 0.0, 0.0, -up, 0.0, baseline);
    for path in paths {
        if let Some(path) = to_skia(path) {
            mask.fill_path(&path, FillRule::Winding, true, transform);
        }
    }
    out.pixels.copy_from_slice(mask.data());
    out
}

fn to_skia(path: &BezPath) -> Option<tiny_skia::Path> {
    let mut builder = PathBuilder::new();
    let f = |p: kurbo::Point| (p.x as f32, p.y as f32);
    for element in path.elements() {
        match *element {
            PathEl::MoveTo(p) => builder.move_to(f(p).0, f(p).1),
            PathEl::LineTo(p) => builder.line_to(f(p).0, f(p).1),
            PathEl::QuadTo(a, p) => builder.quad_to(f(a).0, f(a).1, f(p).0, f(p).1),
            PathEl::CurveTo(a, b, p) => {
                builder.cubic_to(f(a).0, f(a).1, f(b).0, f(b).1, f(p).0, f(p).1);
            }
            PathEl::ClosePath => builder.close(),
        }
    }
    builder.finish()
}

/// One glyph large on its cell: the raster holds the cell with `margin` cells of room on the left
/// and right, so that ink outside it is seen.
#[must_use]
pub fn glyph(face: &Typeface, c: char, grid: &Grid, margin: f32) -> Option<Raster> {
    let id = face.glyph(c)?;
    let room = (grid.cell_width as f32 * margin.clamp(0.0, 4.0)).round();
    let width = grid.cell_width + 2 * room as u32;
    let mut path = face.outline(id);
    path.apply_affine(Affine::translate((f64::from(room / grid.scale), 0.0)));
    Some(fill(
        [&path].into_iter(),
        grid.scale,
        grid.scale,
        grid.baseline,
        width,
        grid.cell_height,
    ))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::fonts;
    use proptest::prelude::*;
    use std::sync::Arc;

    fn face() -> Typeface {
        Typeface::open(Arc::new(fonts::complete()), 0).unwrap()
    }

    #[test]
    fn lines_are_as_high_as_asked() {
        let cell = face().cell();
        let plain = Grid::at(&cell, 20.0, 1.0);
        let high = Grid::at(&cell, 20.0, 1.5);
        assert_eq!((plain.cell_height, high.cell_height), (20, 30));
        assert_eq!(plain.cell_width, high.cell_width);
        assert_eq!(
            high.baseline - plain.baseline,
            5.0,
            "half of the room is above"
        );
        let wide = Grid::of_width(&cell, 24.0);
        assert_eq!((wide.cell_width, wide.cell_height), (24, 40));
        assert!((wide.pixels_per_em(&cell) - 40.0).abs() < 0.01);
    }

    #[test]
    fn clusters_stand_in_the_cells_a_terminal_gives_them() {
        let face = face();
        let cell = face.cell();
        let strokes = lay_out(&face, &cell, "a字b", &[]);
        let left = |byte: usize| {
            use kurbo::Shape;
            let own = strokes.iter().filter(|s| s.cluster == byte);
            own.map(|s| s.path.bounding_box().x0)
                .fold(f64::MAX, f64::min)
        };
        // The character of two cells is missing: its box stands in the first of them.
        assert!(left(0) < 600.0);
        assert!((600.0..1200.0).contains(&left(1)));
        assert!(left(4) >= 1800.0 && left(4) < 2400.0);
        assert_eq!(columns("a字b"), 4);
    }

    #[test]
    fn rasters_are_put_and_cut() {
        let mut page = Raster::new(4, 4);
        let ink = Raster {
            width: 3,
            height: 3,
            pixels: vec![200; 9],
        };
        page.put(&ink, 2, 2);
        page.put(&ink, 9, 9);
        assert_eq!(page.pixels.iter().filter(|p| **p == 200).count(), 4);
        assert_eq!((page.at(3, 3), page.at(0, 0), page.at(4, 0)), (200, 0, 0));
        let large = Raster::new(100_000, 2);
        assert_eq!(large.width, limits::RASTER_SIDE);
    }

    #[test]
    fn a_glyph_is_drawn_with_room_beside_its_cell() {
        let wide = Typeface::open(Arc::new(fonts::wide_icons()), 0).unwrap();
        let grid = Grid::of_width(&wide.cell(), 20.0);
        let drawn = glyph(&wide, '\u{f07b}', &grid, 0.5).unwrap();
        assert_eq!((drawn.width, drawn.height), (40, grid.cell_height));
        let column = |x: u32| (0..drawn.height).any(|y| drawn.at(x, y) > 100);
        assert!(column(5) && column(34), "ink beyond the cell is seen");
        assert!(glyph(&wide, '字', &grid, 0.5).is_none());
    }

    proptest! {
        #[test]
        fn any_size_and_text_is_drawn(size in -5.0f32..300.0, height in -1.0f32..9.0, text in ".{0,12}") {
            let face = face();
            let grid = Grid::at(&face.cell(), size, height);
            prop_assert!(grid.cell_width >= 1 && grid.cell_height >= 1);
            let drawn = line(&face, &grid, &text, &[]);
            prop_assert_eq!(drawn.pixels.len() as u32, drawn.width * drawn.height);
        }
    }
}
