//! Conditions: what a pair is seen through. A translucent window over a wallpaper, a background
//! image under a tint, a dimmed pane, fewer colors, a color-vision deficiency; in any
//! combination.

use std::sync::Arc;

use crate::color::{Depth, Rgb, Vision, contrast_ratio, indexed, nearest_16, nearest_256, over};
use crate::look::{Look, Slots};
use crate::role::Slot;
use crate::specimen::Specimen;

/// An image reduced to one color per character cell, by averaging linear light.
#[derive(Debug, Clone, PartialEq)]
pub struct Backdrop {
    /// Width in cells.
    pub columns: usize,
    /// Height in cells.
    pub rows: usize,
    cells: Vec<Rgb>,
    /// The cells text stands on, as positions row by row.
    text: Vec<usize>,
    /// A few colors of those cells that stand for all, the darkest and the lightest among them.
    marks: Vec<Rgb>,
}

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
        let text = (0..cells.len()).collect();
        let mut out = Self {
            columns,
            rows,
            cells,
            text,
            marks: Vec::new(),
        };
        out.choose_marks();
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
            out.text = text;
            out.choose_marks();
        }
        out
    }

    fn choose_marks(&mut self) {
        let mut colors: Vec<Rgb> = self.text.iter().map(|i| self.cells[*i]).collect();
        let key = |c: &Rgb| crate::color::relative_luminance(*c);
        colors.sort_by(|a, b| key(a).total_cmp(&key(b)).then(a.cmp(b)));
        colors.dedup();
        let last = colors.len().saturating_sub(1);
        let take = MARKS.min(colors.len());
        self.marks = (0..take)
            .map(|i| colors[if take < 2 { 0 } else { i * last / (take - 1) }])
            .collect();
    }

    /// The color of a cell; cells outside are the nearest one inside.
    #[must_use]
    pub fn cell(&self, row: usize, column: usize) -> Rgb {
        let (row, column) = (row.min(self.rows - 1), column.min(self.columns - 1));
        self.cells[row * self.columns + column]
    }
}

/// What lies behind the ground of a terminal window.
#[derive(Debug, Clone, PartialEq)]
pub enum Behind {
    /// Nobody knows: the worse of black and white.
    Worst,
    /// An image: a wallpaper behind the window, or the terminal's own background image.
    Image(Arc<Backdrop>),
}

/// What pairs are seen through. The default is none of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Conditions {
    /// How much of the terminal's ground is laid over what is behind it: the window's opacity,
    /// or the tint of a background image, 0–1; 1 hides it.
    pub opacity: f64,
    /// What is behind.
    pub behind: Behind,
    /// How much of a text's color is left in a dimmed pane, 0–1; `None` for the active one.
    pub dimmed: Option<f64>,
    /// How many colors there are.
    pub depth: Depth,
    /// How color is seen.
    pub vision: Vision,
}

impl Default for Conditions {
    fn default() -> Self {
        Self {
            opacity: 1.0,
            behind: Behind::Worst,
            dimmed: None,
            depth: Depth::TrueColor,
            vision: Vision::Full,
        }
    }
}

/// What is drawn: two colors and how the terminal treats them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sight {
    /// The text's color.
    pub text: Rgb,
    /// The ground's color.
    pub ground: Rgb,
    /// How much of the text's color the tool itself leaves, 0–1 (faint text, an inactive pane).
    pub fade: f64,
    /// Whether a dimmed pane would hold it: what stands in bars and borders is not dimmed.
    pub in_pane: bool,
}

/// Two colors as they are seen, and their ratio.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Measured {
    /// The text's color.
    pub text: Rgb,
    /// The ground's color; where it lets something through, at its worst place.
    pub ground: Rgb,
    /// WCAG contrast ratio, 1–21.
    pub ratio: f64,
}

impl Measured {
    /// Measures two colors as they are.
    #[must_use]
    pub fn new(text: Rgb, ground: Rgb) -> Self {
        Self {
            text,
            ground,
            ratio: contrast_ratio(text, ground),
        }
    }
}

impl Conditions {
    /// Whether nothing changes.
    #[must_use]
    pub fn is_plain(&self) -> bool {
        self.opacity >= 1.0
            && self.dimmed.is_none()
            && self.depth == Depth::TrueColor
            && self.vision.is_full()
    }

    /// The conditions in words, such as `70% opaque over black or white, deuteranopia`.
    #[must_use]
    pub fn label(&self) -> String {
        let mut parts = Vec::new();
        if self.opacity < 1.0 {
            let over = match self.behind {
                Behind::Worst => "black or white",
                Behind::Image(_) => "the image",
            };
            parts.push(format!("{:.0}% opaque over {over}", self.opacity * 100.0));
        }
        if let Some(left) = self.dimmed {
            parts.push(format!("dimmed to {:.0}%", left * 100.0));
        }
        if self.depth != Depth::TrueColor {
            parts.push(self.depth.label().to_owned());
        }
        if !self.vision.is_full() {
            parts.push(self.vision.label());
        }
        if parts.is_empty() {
            "as it is".to_owned()
        } else {
            parts.join(", ")
        }
    }

    /// A color where there are fewer than 24 bits. A slot's color is the terminal's own and stays.
    #[must_use]
    pub fn in_depth(&self, color: Rgb, slots: &Slots) -> Rgb {
        let is_slot = || slots.0.contains(&color);
        match self.depth {
            Depth::TrueColor | Depth::None => color,
            _ if is_slot() => color,
            Depth::Indexed256 => indexed(nearest_256(color)).unwrap_or(color),
            Depth::Ansi16 => {
                let ansi = slots.ansi();
                ansi[usize::from(nearest_16(color, &ansi))]
            }
        }
    }

    /// The colors that may lie behind the ground.
    pub(crate) fn marks(&self) -> &[Rgb] {
        const WORST: [Rgb; 2] = [Rgb::new(0, 0, 0), Rgb::new(255, 255, 255)];
        match &self.behind {
            _ if self.opacity >= 1.0 => &[],
            Behind::Worst => &WORST,
            Behind::Image(backdrop) => &backdrop.marks,
        }
    }

    /// How much of a text's color is left, 0–1.
    pub(crate) fn left(&self, sight: &Sight) -> f64 {
        let dimmed = self.dimmed.filter(|_| sight.in_pane).unwrap_or(1.0);
        sight.fade * dimmed
    }

    /// Two colors as they are seen, at the worst place.
    #[must_use]
    pub fn see(&self, sight: Sight, look: &Look) -> Measured {
        // Terminals let only their own ground through, not what programs paint.
        let through = sight.ground == look.slot(Slot::Background);
        self.see_on(sight, &look.slots, through)
    }

    /// Two colors as they are seen, at the worst place; `through` says whether the ground is the
    /// terminal's own.
    pub(crate) fn see_on(&self, sight: Sight, slots: &Slots, through: bool) -> Measured {
        let text = self.in_depth(sight.text, slots);
        let ground = self.in_depth(sight.ground, slots);
        let left = self.left(&sight);
        let on = |ground: Rgb| {
            let text = over(text, left, ground);
            Measured::new(self.vision.see(text), self.vision.see(ground))
        };
        let behind = self.marks().iter().filter(|_| through);
        behind
            .map(|mark| on(over(ground, self.opacity, *mark)))
            .min_by(|a, b| a.ratio.total_cmp(&b.ratio))
            .unwrap_or_else(|| on(ground))
    }

    /// The place on an image where a text on the terminal's ground is worst: row and column in
    /// cells of the image, and the ratio there. `None` where nothing shows through.
    #[must_use]
    pub fn worst_place(&self, sight: Sight, look: &Look) -> Option<(usize, usize, f64)> {
        let Behind::Image(backdrop) = &self.behind else {
            return None;
        };
        if self.opacity >= 1.0 || sight.ground != look.slot(Slot::Background) {
            return None;
        }
        let one = |cell: &usize| {
            let through = Self {
                behind: Behind::Worst,
                opacity: 1.0,
                ..self.clone()
            };
            let ground = over(sight.ground, self.opacity, backdrop.cells[*cell]);
            let text = over(sight.text, self.left(&sight), ground);
            Measured::new(through.vision.see(text), through.vision.see(ground)).ratio
        };
        let (cell, ratio) = backdrop
            .text
            .iter()
            .map(|c| (*c, one(c)))
            .min_by(|a, b| a.1.total_cmp(&b.1))?;
        Some((cell / backdrop.columns, cell % backdrop.columns, ratio))
    }

    /// A specimen as it is seen. What lies behind is drawn where the ground lets it through; over
    /// an unknown wallpaper the left half stands on black and the right half on white.
    #[must_use]
    pub fn see_specimen(&self, specimen: &Specimen, look: &Look) -> Specimen {
        let mut out = specimen.clone();
        if self.is_plain() {
            return out;
        }
        let background = look.slot(Slot::Background);
        // Bars and borders keep their colors in a dimmed pane.
        let in_pane: Vec<bool> = specimen
            .spots
            .iter()
            .map(|s| s.text.stands_in_pane())
            .collect();
        for (i, cell) in out.cells.iter_mut().enumerate() {
            let (row, column) = (i / specimen.width, i % specimen.width);
            let mut bg = self.in_depth(cell.bg, &look.slots);
            if self.opacity < 1.0 && cell.bg == background {
                let behind = match &self.behind {
                    Behind::Worst if column * 2 < specimen.width => Rgb::new(0, 0, 0),
                    Behind::Worst => Rgb::new(255, 255, 255),
                    Behind::Image(b) => b.cell(
                        row * b.rows / specimen.height,
                        column * b.columns / specimen.width,
                    ),
                };
                bg = over(bg, self.opacity, behind);
            }
            let left = match (self.dimmed, cell.spot) {
                (Some(left), Some(spot)) if in_pane[spot] => left,
                _ => 1.0,
            };
            let fg = over(self.in_depth(cell.fg, &look.slots), left, bg);
            cell.fg = self.vision.see(fg);
            cell.bg = self.vision.see(bg);
            cell.underline = cell.underline.map(|c| self.vision.see(over(c, left, bg)));
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::setup::SetupDoc;
    use proptest::prelude::*;

    fn look() -> Look {
        let text = "[palettes.a]\nforeground='#dddddd'\nbackground='#202020'\nred='#cc4444'\n";
        Look::new(SetupDoc::parse("s", text.as_bytes()).unwrap().setup())
    }

    fn sight(text: u32, ground: u32) -> Sight {
        Sight {
            text: Rgb::from_u32(text),
            ground: Rgb::from_u32(ground),
            fade: 1.0,
            in_pane: true,
        }
    }

    #[test]
    fn a_window_that_lets_light_through_is_judged_at_its_worst() {
        let look = look();
        let at = |opacity| {
            let conditions = Conditions {
                opacity,
                ..Conditions::default()
            };
            conditions.see(sight(0xdd_dddd, 0x20_2020), &look).ratio
        };
        assert!(at(1.0) > 11.0);
        assert!(at(0.9) < at(1.0) && at(0.5) < at(0.9));
        // Light text over white wallpaper through a window that hides nothing.
        assert!(
            (at(0.0) - contrast_ratio(Rgb::from_u32(0xdd_dddd), Rgb::from_u32(0xff_ffff))).abs()
                < 1e-9
        );
        // A ground painted by a program hides what is behind.
        let painted = Conditions {
            opacity: 0.2,
            ..Conditions::default()
        };
        let plain = Conditions::default();
        let s = sight(0xdd_dddd, 0x30_4050);
        assert_eq!(painted.see(s, &look), plain.see(s, &look));
    }

    #[test]
    fn an_image_is_judged_where_text_stands_and_its_worst_place_is_known() {
        let look = look();
        let mut pixels = vec![0; 40 * 20 * 3];
        for row in pixels.chunks_mut(40 * 3).take(10) {
            row[30 * 3..].fill(255);
        }
        let backdrop = Backdrop::new(&pixels, (40, 20), (4, 2)).unwrap();
        assert_eq!(backdrop.cell(0, 3), Rgb::new(255, 255, 255));
        assert_eq!(backdrop.cell(1, 3), Rgb::new(0, 0, 0));
        let conditions = Conditions {
            opacity: 0.5,
            behind: Behind::Image(Arc::new(backdrop)),
            ..Conditions::default()
        };
        let s = sight(0xdd_dddd, 0x20_2020);
        let (row, column, ratio) = conditions.worst_place(s, &look).unwrap();
        assert_eq!((row, column), (0, 3));
        assert!((ratio - conditions.see(s, &look).ratio).abs() < 1e-9);
        assert!(Backdrop::new(&pixels, (40, 21), (4, 2)).is_none());
    }

    #[test]
    fn conditions_combine() {
        let look = look();
        let one = Conditions {
            dimmed: Some(0.5),
            ..Conditions::default()
        };
        let both = Conditions {
            depth: Depth::Ansi16,
            vision: Vision::Gray,
            ..one.clone()
        };
        let s = sight(0xc0_4848, 0x20_2020);
        let seen = both.see(s, &look);
        assert_eq!((seen.text.r, seen.text.g), (seen.text.g, seen.text.b));
        assert!(one.see(s, &look).ratio < Conditions::default().see(s, &look).ratio);
        assert_eq!(both.label(), "dimmed to 50%, 16 colors, grayscale");
        let bar = Sight {
            in_pane: false,
            ..s
        };
        assert_eq!(one.see(bar, &look), Conditions::default().see(bar, &look));
    }

    #[test]
    fn slots_keep_their_color_at_any_depth() {
        let look = look();
        let conditions = Conditions {
            depth: Depth::Indexed256,
            ..Conditions::default()
        };
        assert_eq!(
            conditions.in_depth(look.slot(Slot::Red), &look.slots),
            look.slot(Slot::Red)
        );
        let other = Rgb::from_u32(0x12_3457);
        assert_ne!(conditions.in_depth(other, &look.slots), other);
    }

    proptest! {
        #[test]
        fn no_condition_makes_a_ratio_that_cannot_be(
            t in 0u32..0x100_0000, opacity in 0.0f64..=1.0, dim in 0.0f64..=1.0, v in 0usize..5,
        ) {
            let conditions = Conditions {
                opacity,
                dimmed: Some(dim),
                vision: Vision::ALL[v],
                ..Conditions::default()
            };
            let seen = conditions.see(sight(t, 0x20_2020), &look());
            prop_assert!((1.0..=21.0001).contains(&seen.ratio));
        }
    }
}
