//! What lies behind a terminal's ground: an image, alone or over something else, and the place on it where a text is worst.
//!
//! An image has thousands of cells, and every one may be the worst. They are kept as a tree of boxes in the cube of
//! colors, so that what is too far away is passed over without being looked at: within a box every channel of what is
//! seen lies between what is seen at its corners (compositing and the matrices of color vision are linear, rounding keeps
//! the order), and with the channels the luminance.

use std::ops::Range;
use std::sync::Arc;

use super::{Measured, Mix};
use crate::color::{Rgb, over, relative_luminance};
use crate::specimen::Specimen;

/// An image reduced to one color per character cell, by averaging linear light.
#[derive(Debug, Clone, PartialEq)]
pub struct Backdrop {
    /// Width in cells.
    pub columns: usize,
    /// Height in cells.
    pub rows: usize,
    /// Width and height of the image in pixels.
    pub pixels: (usize, usize),
    cells: Arc<[Rgb]>,
    /// The cells text stands on, as positions row by row.
    text: Arc<[usize]>,
    /// What is behind the image itself, where it lets something through.
    below: Option<Below>,
    /// How it lies in the window it is the image of; `None` over the whole of what is shown.
    placing: Option<Placing>,
    tree: Arc<Node>,
    /// A few colors of the cells that stand for all, the darkest and the lightest among them.
    pub(super) marks: Arc<[Rgb]>,
}

/// What an image lets through.
#[derive(Debug, Clone, PartialEq)]
struct Below {
    /// How much of the image is left, 0–1.
    share: f64,
    /// The least and the greatest value of each channel of what is behind it.
    range: [Rgb; 2],
    /// What is behind it as it is drawn; `None`: black to the left and white to the right.
    shown: Option<Arc<Backdrop>>,
}

/// How an image lies in its window.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Placing {
    /// How it fills it.
    pub fit: Fit,
    /// Where it stands where it is smaller or larger than the window: 0 at the left and top, 1 at the right and bottom.
    pub at: (f64, f64),
}

/// How an image fills its window.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fit {
    /// Scaled until it covers the window; what is too much is cut.
    Cover,
    /// Scaled until the whole of it is seen.
    Whole,
    /// Scaled to the window in both directions.
    Stretch,
    /// In its own size, again and again.
    Tile,
    /// In its own size, once.
    Center,
}

/// The size of a character cell in pixels by which an image is laid into a window of cells.
const CELL: (f64, f64) = (9.0, 19.0);
/// How many colors at most stand for a whole backdrop.
const MARKS: usize = 24;

impl Backdrop {
    /// Reduces an image of `width` by `height` pixels, three bytes each, row by row, to `columns`
    /// by `rows` cells. `None` for an empty image or one with too few pixels given.
    #[must_use]
    pub fn new(
        pixels: &[u8],
        (width, height): (usize, usize),
        (columns, rows): (usize, usize),
    ) -> Option<Self> {
        let needed = width.checked_mul(height)?.checked_mul(3)?;
        if needed == 0 || pixels.len() < needed || columns == 0 || rows == 0 {
            return None;
        }
        let span = |i: usize, of: usize, n: usize| {
            let start = (i * n / of).min(n - 1);
            start..((i + 1) * n / of).clamp(start + 1, n)
        };
        let mut cells = Vec::with_capacity(columns * rows);
        for row in 0..rows {
            for column in 0..columns {
                let mut sum = [0.0; 3];
                let (ys, xs) = (span(row, rows, height), span(column, columns, width));
                for y in ys.clone() {
                    for p in pixels[(y * width + xs.start) * 3..][..xs.len() * 3].chunks_exact(3) {
                        let linear = Rgb::new(p[0], p[1], p[2]).to_linear();
                        for (s, c) in sum.iter_mut().zip(linear) {
                            *s += c;
                        }
                    }
                }
                let count = (ys.len() * xs.len()) as f64;
                cells.push(Rgb::from_linear(sum.map(|s| s / count)));
            }
        }
        let mut out = Self {
            columns,
            rows,
            pixels: (width, height),
            text: (0..cells.len()).collect(),
            cells: cells.into(),
            below: None,
            placing: None,
            tree: Arc::new(Node::anything()),
            marks: Arc::from([]),
        };
        out.arrange();
        Some(out)
    }

    /// The same backdrop, judged only where a specimen has text on the terminal's own ground.
    /// The specimen is laid over the whole of it.
    #[must_use]
    pub fn under_text(&self, specimen: &Specimen, ground: Rgb) -> Self {
        let mut text: Vec<usize> = Vec::new();
        for row in 0..specimen.height {
            for column in 0..specimen.width {
                let drawn = specimen
                    .cell(row, column)
                    .is_some_and(|c| c.bg == ground && !c.text.trim().is_empty());
                if drawn {
                    let y = row * self.rows / specimen.height;
                    let x = column * self.columns / specimen.width;
                    text.push(y * self.columns + x);
                }
            }
        }
        text.sort_unstable();
        text.dedup();
        let mut out = self.clone();
        if !text.is_empty() {
            out.text = text.into();
            out.arrange();
        }
        out
    }

    /// The same image in a window, where it lies as its terminal is told.
    #[must_use]
    pub fn placed(&self, placing: Placing) -> Self {
        Self {
            placing: Some(placing),
            ..self.clone()
        }
    }

    /// The same image where only `share` of it is left (0–1) and the rest is what is behind it: a wallpaper of which any
    /// part may be behind any part of the image, or, where nobody knows, anything.
    #[must_use]
    pub fn over(&self, share: f64, wallpaper: Option<&Arc<Self>>) -> Self {
        let range = match wallpaper {
            None => [Rgb::new(0, 0, 0), Rgb::new(255, 255, 255)],
            Some(w) => bounds(w.cells.iter().map(|c| [*c; 2])),
        };
        let mut out = Self {
            below: Some(Below {
                share: share.clamp(0.0, 1.0),
                range,
                shown: wallpaper.map(Arc::clone),
            }),
            ..self.clone()
        };
        out.arrange();
        out
    }

    /// What a cell may look like: the least and the greatest value of each channel.
    fn range(&self, cell: usize) -> [Rgb; 2] {
        let color = self.cells[cell];
        match &self.below {
            None => [color; 2],
            Some(below) => below.range.map(|b| over(color, below.share, b)),
        }
    }

    /// Works out the tree and the marks.
    fn arrange(&mut self) {
        let mut all: Vec<[Rgb; 2]> = self.text.iter().map(|i| self.range(*i)).collect();
        all.sort_unstable();
        all.dedup();
        let mut marks: Vec<Rgb> = all.iter().flatten().copied().collect();
        marks.sort_unstable();
        marks.dedup();
        // As bits, luminances of 0 to 1 stand in their own order.
        marks.sort_by_cached_key(|c| relative_luminance(*c).to_bits());
        let last = marks.len().saturating_sub(1);
        let take = MARKS.min(marks.len());
        self.marks = (0..take)
            .map(|i| marks[if take < 2 { 0 } else { i * last / (take - 1) }])
            .collect();
        self.tree = Arc::new(Node::of(&mut all));
    }

    /// The same with other colors beside its marks.
    pub(crate) fn with_marks(&self, more: &[Rgb]) -> Self {
        let mut marks = self.marks.to_vec();
        marks.extend(more.iter().filter(|c| !self.marks.contains(c)));
        Self {
            marks: marks.into(),
            ..self.clone()
        }
    }

    /// The color of a cell; cells outside are the nearest one inside.
    #[must_use]
    pub fn cell(&self, row: usize, column: usize) -> Rgb {
        let (row, column) = (row.min(self.rows - 1), column.min(self.columns - 1));
        let color = self.cells[row * self.columns + column];
        let Some(below) = &self.below else {
            return color;
        };
        let behind = match &below.shown {
            None if column * 2 < self.columns => Rgb::new(0, 0, 0),
            None => Rgb::new(255, 255, 255),
            Some(b) => b.cell(row * b.rows / self.rows, column * b.columns / self.columns),
        };
        over(color, below.share, behind)
    }

    /// Whether something behind it is seen through it.
    #[must_use]
    pub const fn lets_through(&self) -> bool {
        self.below.is_some()
    }

    /// Whether it is the image of a window and lies in it, not behind all that is shown.
    #[must_use]
    pub fn lies_in_window(&self) -> bool {
        self.placing.is_some()
    }

    /// The color at a point of what it lies behind, each coordinate 0–1 of an area of so many pixels; `None` where it
    /// does not reach.
    #[must_use]
    pub fn at(&self, (x, y): (f64, f64), (width, height): (f64, f64)) -> Option<Rgb> {
        let (w, h) = (self.pixels.0 as f64, self.pixels.1 as f64);
        let (across, down) = (width / w, height / h);
        let placing = self.placing.unwrap_or(Placing {
            fit: Fit::Stretch,
            at: (0.5, 0.5),
        });
        let scale = match placing.fit {
            Fit::Cover => [across.max(down); 2],
            Fit::Whole => [across.min(down); 2],
            Fit::Stretch => [across, down],
            Fit::Tile | Fit::Center => [1.0; 2],
        };
        let (iw, ih) = (w * scale[0], h * scale[1]);
        let mut at = [
            (x * width - (width - iw) * placing.at.0) / iw,
            (y * height - (height - ih) * placing.at.1) / ih,
        ];
        if placing.fit == Fit::Tile {
            at = [x * width / iw, y * height / ih].map(f64::fract);
        }
        let is_on = at.iter().all(|c| (-1e-9..1.0 + 1e-9).contains(c));
        is_on.then(|| {
            self.cell(
                (at[1] * self.rows as f64) as usize,
                (at[0] * self.columns as f64) as usize,
            )
        })
    }

    /// The color of a cell of a specimen that shows its window between these rows and columns.
    pub(super) fn shown_in(
        &self,
        [rows, columns]: &[Range<usize>; 2],
        row: usize,
        column: usize,
    ) -> Option<Rgb> {
        let part = |range: &Range<usize>, i: usize| {
            (i as f64 - range.start as f64 + 0.5) / range.len().max(1) as f64
        };
        let (width, height) = (columns.len() as f64, rows.len() as f64);
        let area = (width * CELL.0, height * CELL.1);
        self.at((part(columns, column), part(rows, row)), area)
    }

    /// What a text comes to at the worst of all cells.
    pub(super) fn worst(&self, mix: &Mix) -> Measured {
        self.tree.worst(mix)
    }

    /// The color over which a text is worst.
    pub(super) fn worst_color(&self, mix: &Mix) -> Rgb {
        let Some((cell, _)) = self.worst_cell(mix) else {
            return self.cells[0];
        };
        let [low, high] = self.range(cell);
        match mix.on(low).ratio <= mix.on(high).ratio {
            true => low,
            false => high,
        }
    }

    /// The cell where a text is worst, and what it comes to there; of those where text stands.
    pub(super) fn worst_cell(&self, mix: &Mix) -> Option<(usize, Measured)> {
        let all = self.text.iter();
        all.map(|cell| (*cell, mix.within(self.range(*cell))))
            .min_by(|a, b| a.1.ratio.total_cmp(&b.1.ratio))
    }
}

/// The least and the greatest value of each channel of several ranges.
pub(super) fn bounds(all: impl Iterator<Item = [Rgb; 2]>) -> [Rgb; 2] {
    let mut out = [Rgb::new(255, 255, 255), Rgb::new(0, 0, 0)];
    for [low, high] in all {
        out[0] = Rgb::new(
            out[0].r.min(low.r),
            out[0].g.min(low.g),
            out[0].b.min(low.b),
        );
        out[1] = Rgb::new(
            out[1].r.max(high.r),
            out[1].g.max(high.g),
            out[1].b.max(high.b),
        );
    }
    out
}

/// Colors that may be behind a ground, in a box that holds them.
#[derive(Debug, Clone, PartialEq)]
struct Node {
    /// The least and the greatest value of each channel.
    range: [Rgb; 2],
    /// Two halves of them; none where the range itself is what a single place may look like.
    halves: Option<Box<[Node; 2]>>,
}

impl Node {
    /// Any color at all.
    fn anything() -> Self {
        Self {
            range: [Rgb::new(0, 0, 0), Rgb::new(255, 255, 255)],
            halves: None,
        }
    }

    /// The tree of what places may look like; there is at least one.
    fn of(all: &mut [[Rgb; 2]]) -> Self {
        let range = bounds(all.iter().copied());
        if all.len() < 2 {
            return Self {
                range,
                halves: None,
            };
        }
        let channels = |c: Rgb| [c.r, c.g, c.b];
        let (low, high) = (channels(range[0]), channels(range[1]));
        let widest = (0..3).max_by_key(|i| high[*i] - low[*i]).unwrap_or(0);
        let middle = all.len() / 2;
        all.select_nth_unstable_by_key(middle, |c| channels(c[0])[widest]);
        let (one, other) = all.split_at_mut(middle);
        Self {
            range,
            halves: Some(Box::new([Self::of(one), Self::of(other)])),
        }
    }

    fn worst(&self, mix: &Mix) -> Measured {
        let mut best = None;
        self.look(mix, &mut best);
        best.unwrap_or_else(|| mix.within(self.range))
    }

    fn look(&self, mix: &Mix, best: &mut Option<Measured>) {
        let Some(halves) = &self.halves else {
            let here = mix.within(self.range);
            if best.is_none_or(|b| here.ratio < b.ratio) {
                *best = Some(here);
            }
            return;
        };
        let mut order = [0, 1].map(|i| (mix.bound(halves[i].range), i));
        if order[1].0 < order[0].0 {
            order.swap(0, 1);
        }
        for (bound, i) in order {
            if best.is_none_or(|b| bound < b.ratio) {
                halves[i].look(mix, best);
            }
        }
    }
}
