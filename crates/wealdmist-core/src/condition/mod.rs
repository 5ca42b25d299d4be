//! Conditions: what a pair is seen through. A translucent window over a wallpaper, a background
//! image under a tint, a dimmed pane, fewer colors, a color-vision deficiency; in any
//! combination.

mod backdrop;

use std::ops::Range;
use std::sync::Arc;

pub use backdrop::{Backdrop, Fit, Placing};

use crate::color::{
    Depth, Rgb, Rounding, Vision, contrast_ratio, indexed, nearest_16, over, relative_luminance,
};
use crate::look::{Look, Slots};
use crate::role::Slot;
use crate::specimen::{Specimen, Spot};

/// What lies behind the ground of a terminal window.
#[derive(Debug, Clone, PartialEq)]
pub enum Behind {
    /// Nobody knows: any color, the worst one for each text.
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
    /// How what draws it takes its colors where there are 256.
    pub rounding: Rounding,
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

    /// The conditions in words, such as `70% opaque over any wallpaper, deuteranopia`.
    #[must_use]
    pub fn label(&self) -> String {
        let mut parts = Vec::new();
        if self.opacity < 1.0 {
            let over = match &self.behind {
                Behind::Worst => "any wallpaper",
                Behind::Image(image) if image.lets_through() => "the image and what is behind it",
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
    pub fn in_depth(&self, color: Rgb, rounding: Rounding, slots: &Slots) -> Rgb {
        let is_slot = || slots.0.contains(&color);
        match self.depth {
            Depth::TrueColor | Depth::None => color,
            _ if is_slot() => color,
            Depth::Indexed256 => indexed(rounding.index(color)).unwrap_or(color),
            Depth::Ansi16 => {
                let ansi = slots.ansi();
                ansi[usize::from(nearest_16(color, &ansi))]
            }
        }
    }

    /// Some of the colors that may lie behind the ground, the extreme ones among them.
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
        let mix = self.mix(sight, slots);
        match &self.behind {
            _ if self.opacity >= 1.0 || !through => mix.on_ground(mix.ground),
            Behind::Worst => mix.within([Rgb::new(0, 0, 0), Rgb::new(255, 255, 255)]),
            Behind::Image(backdrop) => backdrop.worst(&mix),
        }
    }

    fn mix(&self, sight: Sight, slots: &Slots) -> Mix {
        Mix {
            text: self.in_depth(sight.text, sight.rounding, slots),
            ground: self.in_depth(sight.ground, sight.rounding, slots),
            opacity: self.opacity,
            left: self.left(&sight),
            vision: self.vision,
        }
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
        let (cell, worst) = backdrop.worst_cell(&self.mix(sight, &look.slots))?;
        let (row, column) = (cell / backdrop.columns, cell % backdrop.columns);
        Some((row, column, worst.ratio))
    }

    /// The same with those colors behind the ground beside the few that stand for all at which these sights are worst.
    #[must_use]
    pub(crate) fn with_worst(&self, sights: impl Iterator<Item = Sight>, look: &Look) -> Self {
        let mut out = self.clone();
        if let Behind::Image(backdrop) = &self.behind {
            let grounds = sights.filter_map(|sight| {
                let own = sight.ground == look.slot(Slot::Background);
                own.then(|| backdrop.worst_color(&self.mix(sight, &look.slots)))
            });
            let more: Vec<Rgb> = grounds.collect();
            out.behind = Behind::Image(Arc::new(backdrop.with_marks(&more)));
        }
        out
    }

    /// A specimen as it is seen. What lies behind is drawn where the ground lets it through; over
    /// an unknown wallpaper the left half stands on black and the right half on white. `rounding` tells how what
    /// draws a spot takes its colors where there are 256.
    #[must_use]
    pub fn see_specimen(
        &self,
        specimen: &Specimen,
        look: &Look,
        rounding: &dyn Fn(&Spot) -> Rounding,
    ) -> Specimen {
        let mut out = specimen.clone();
        if self.is_plain() {
            return out;
        }
        let background = look.slot(Slot::Background);
        let inside = window_of(specimen, background);
        // Bars and borders keep their colors in a dimmed pane.
        let in_pane: Vec<bool> = specimen
            .spots
            .iter()
            .map(|s| s.text.stands_in_pane())
            .collect();
        // Only there it matters, and finding it out takes a while.
        let roundings: Vec<Rounding> = match self.depth {
            Depth::Indexed256 => specimen.spots.iter().map(rounding).collect(),
            _ => vec![Rounding::Nearest; specimen.spots.len()],
        };
        for (i, cell) in out.cells.iter_mut().enumerate() {
            let (row, column) = (i / specimen.width, i % specimen.width);
            let rounding = cell.spot.map_or(Rounding::Nearest, |spot| roundings[spot]);
            let mut bg = self.in_depth(cell.bg, rounding, &look.slots);
            if self.opacity < 1.0 && cell.bg == background {
                let behind = match &self.behind {
                    Behind::Worst if column * 2 < specimen.width => Some(Rgb::new(0, 0, 0)),
                    Behind::Worst => Some(Rgb::new(255, 255, 255)),
                    Behind::Image(b) if b.lies_in_window() => b.shown_in(&inside, row, column),
                    Behind::Image(b) => Some(b.cell(
                        row * b.rows / specimen.height,
                        column * b.columns / specimen.width,
                    )),
                };
                // Where an image does not reach, there is the ground.
                let behind = behind.unwrap_or(bg);
                bg = over(bg, self.opacity, behind);
            }
            let left = match (self.dimmed, cell.spot) {
                (Some(left), Some(spot)) if in_pane[spot] => left,
                _ => 1.0,
            };
            let fg = over(self.in_depth(cell.fg, rounding, &look.slots), left, bg);
            cell.fg = self.vision.see(fg);
            cell.bg = self.vision.see(bg);
            cell.underline = cell.underline.map(|c| self.vision.see(over(c, left, bg)));
        }
        out
    }
}

/// The rows and columns between which a specimen has the terminal's own ground.
fn window_of(specimen: &Specimen, ground: Rgb) -> [Range<usize>; 2] {
    let cells = specimen.cells.iter().enumerate();
    let own = cells.filter(|(_, cell)| cell.bg == ground);
    let places: Vec<[usize; 2]> = own
        .map(|(i, _)| [i / specimen.width, i % specimen.width])
        .collect();
    [0, 1].map(|i| {
        let all = || places.iter().map(|at| at[i]);
        all().min().unwrap_or(0)..all().max().map_or(0, |last| last + 1)
    })
}

/// How a text on a ground that lets something through is put together.
#[derive(Debug, Clone, Copy)]
struct Mix {
    text: Rgb,
    ground: Rgb,
    /// How much of the ground is left, 0–1.
    opacity: f64,
    /// How much of the text is left, 0–1.
    left: f64,
    vision: Vision,
}

impl Mix {
    /// What is seen where the ground has come to a color.
    fn on_ground(&self, ground: Rgb) -> Measured {
        let text = over(self.text, self.left, ground);
        Measured::new(self.vision.see(text), self.vision.see(ground))
    }

    /// What is seen over a color.
    fn on(&self, behind: Rgb) -> Measured {
        self.on_ground(over(self.ground, self.opacity, behind))
    }

    /// The colors at the corners of a range by channels: without a deficiency everything grows with each channel, and two
    /// are enough.
    fn corners(&self, [low, high]: [Rgb; 2]) -> impl Iterator<Item = Rgb> {
        let all: &[u8] = match self.vision.is_full() {
            true => &[0, 7],
            false => &[0, 7, 1, 2, 3, 4, 5, 6],
        };
        let pick = move |n: u8, bit: u8, low: u8, high: u8| if n & bit == 0 { low } else { high };
        all.iter().map(move |n| {
            Rgb::new(
                pick(*n, 1, low.r, high.r),
                pick(*n, 2, low.g, high.g),
                pick(*n, 4, low.b, high.b),
            )
        })
    }

    /// The worst that is seen where the color behind may be any in a range. Where the text is lighter than the ground over
    /// one color and darker over another, it vanishes over one between.
    fn within(&self, range: [Rgb; 2]) -> Measured {
        if range[0] == range[1] {
            return self.on(range[0]);
        }
        let lighter = |m: &Measured| relative_luminance(m.text) > relative_luminance(m.ground);
        let all: Vec<(Rgb, Measured)> = self.corners(range).map(|c| (c, self.on(c))).collect();
        let first = all[0];
        let other = all.iter().find(|(_, m)| lighter(m) != lighter(&first.1));
        let (mut least, mut ends) = (first.1, (first.0, first.0));
        for (_, m) in &all {
            if m.ratio < least.ratio {
                least = *m;
            }
        }
        if let Some((other, _)) = other {
            ends.1 = *other;
            // Halves of the way between the two, until nothing is between them.
            for _ in 0..9 {
                let middle = over(ends.0, 0.5, ends.1);
                let seen = self.on(middle);
                if seen.ratio < least.ratio {
                    least = seen;
                }
                match lighter(&seen) == lighter(&first.1) {
                    true => ends.0 = middle,
                    false => ends.1 = middle,
                }
            }
        }
        least
    }

    /// A ratio that nothing in a range falls below.
    fn bound(&self, range: [Rgb; 2]) -> f64 {
        let grounds = range.map(|c| over(self.ground, self.opacity, c));
        let texts = grounds.map(|ground| over(self.text, self.left, ground));
        let [ground, text] = [grounds, texts].map(|range| {
            let seen = self.corners(range).map(|c| self.vision.see(c));
            backdrop::bounds(seen.map(|c| [c; 2])).map(relative_luminance)
        });
        let ratio = |light: f64, dark: f64| (light + 0.05) / (dark + 0.05);
        ratio(text[0], ground[1])
            .max(ratio(ground[0], text[1]))
            .max(1.0)
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
            rounding: Rounding::Nearest,
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
        // Through a window that hides nothing there may be a wallpaper of the text's own color.
        assert!(at(0.0) < 1.01 && at(0.5) > 1.5);
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
            conditions.in_depth(look.slot(Slot::Red), Rounding::Nearest, &look.slots),
            look.slot(Slot::Red)
        );
        let other = Rgb::from_u32(0x12_3457);
        assert_ne!(
            conditions.in_depth(other, Rounding::Nearest, &look.slots),
            other
        );
    }

    fn noise(seed: u32, count: usize) -> Vec<u8> {
        let mut state = seed | 1;
        let next = |_| {
            state ^= state << 13;
            state ^= state >> 17;
            state ^= state << 5;
            (state >> 11) as u8
        };
        (0..count).map(next).collect()
    }

    #[test]
    fn an_image_lies_in_its_window_as_it_is_told() {
        // Red to the left and blue to the right, twice as wide as high.
        let row = [[255, 0, 0].repeat(10), [0, 0, 255].repeat(10)].concat();
        let image = Backdrop::new(&row.repeat(10), (20, 10), (20, 10)).unwrap();
        let at = |fit, place, x, y| {
            let placed = image.placed(Placing { fit, at: place });
            placed.at((x, y), (100.0, 100.0)).map(|c| (c.r, c.b))
        };
        let (red, blue) = (Some((255, 0)), Some((0, 255)));
        // Covering a square, only its left half is seen where it stands at the left.
        assert_eq!(at(Fit::Cover, (0.0, 0.5), 0.9, 0.1), red);
        assert_eq!(at(Fit::Cover, (0.5, 0.5), 0.9, 0.1), blue);
        // The whole of it leaves a quarter above and below.
        assert_eq!(at(Fit::Whole, (0.5, 0.5), 0.1, 0.2), None);
        assert_eq!(at(Fit::Whole, (0.5, 0.5), 0.1, 0.3), red);
        assert_eq!(at(Fit::Whole, (0.5, 0.0), 0.1, 0.2), red);
        assert_eq!(at(Fit::Stretch, (0.5, 0.5), 0.6, 0.99), blue);
        // In its own size: a fifth of the width, again and again or once.
        assert_eq!(at(Fit::Tile, (0.5, 0.5), 0.01, 0.9), red);
        assert_eq!(at(Fit::Tile, (0.5, 0.5), 0.15, 0.9), blue);
        assert_eq!(at(Fit::Tile, (0.5, 0.5), 0.21, 0.9), red);
        assert_eq!(at(Fit::Center, (1.0, 1.0), 0.99, 0.99), blue);
        assert_eq!(at(Fit::Center, (1.0, 1.0), 0.79, 0.99), None);
    }

    proptest! {
        /// What is passed over in the tree is no worse than what was found: all cells, one after the other, say the same.
        #[test]
        fn the_worst_place_of_an_image_is_the_worst_of_all(
            t in 0u32..0x100_0000, opacity in 0.0f64..1.0, fade in 0.2f64..=1.0, v in 0usize..5,
            seed: u32, dim in 0u8..4,
        ) {
            let pixels: Vec<u8> = noise(seed, 30 * 20 * 3).iter().map(|c| c >> dim).collect();
            let backdrop = Arc::new(Backdrop::new(&pixels, (30, 20), (30, 20)).unwrap());
            let conditions = Conditions {
                opacity,
                behind: Behind::Image(Arc::clone(&backdrop)),
                vision: Vision::ALL[v],
                ..Conditions::default()
            };
            let sight = Sight { fade, ..sight(t, 0x20_2020) };
            let seen = conditions.see(sight, &look());
            let all = (0..30 * 20).map(|i| {
                let ground = over(sight.ground, opacity, backdrop.cell(i / 30, i % 30));
                let text = over(sight.text, fade, ground);
                contrast_ratio(conditions.vision.see(text), conditions.vision.see(ground))
            });
            let least = all.fold(f64::INFINITY, f64::min);
            prop_assert!((seen.ratio - least).abs() < 1e-9, "{} {least}", seen.ratio);
            let place = conditions.worst_place(sight, &look()).unwrap();
            prop_assert!((place.2 - least).abs() < 1e-9);
        }

        /// Nothing that may be behind a window is worse than what is said where nobody knows it, nor what may be behind an
        /// image that lets some of it through.
        #[test]
        fn what_may_be_behind_is_no_worse_than_what_is_said(
            t in 0u32..0x100_0000, opacity in 0.0f64..1.0, share in 0.0f64..1.0, known: bool,
            behind in prop::array::uniform8(0u32..0x100_0000),
        ) {
            let sight = sight(t, 0x20_2020);
            let ratio = |conditions: &Conditions| conditions.see(sight, &look()).ratio;
            let unknown = Conditions { opacity, ..Conditions::default() };
            let bytes = |c: u32| { let c = Rgb::from_u32(c); [c.r, c.g, c.b] };
            let (image, wallpaper) = behind.split_at(4);
            let made = |all: &[u32]| {
                let pixels: Vec<u8> = all.iter().flat_map(|c| bytes(*c)).collect();
                Arc::new(Backdrop::new(&pixels, (all.len(), 1), (all.len(), 1)).unwrap())
            };
            let both = made(image).over(share, known.then(|| made(wallpaper)).as_ref());
            let both = Conditions { behind: Behind::Image(Arc::new(both)), ..unknown.clone() };
            let on = |ground: Rgb| contrast_ratio(sight.text, ground);
            for one in image {
                let one = Rgb::from_u32(*one);
                // Near the ratio 1 the bytes of the grounds that were looked at are as far off as this.
                prop_assert!(on(over(sight.ground, opacity, one)) >= ratio(&unknown) - 0.01);
                for other in wallpaper {
                    let through = over(one, share, Rgb::from_u32(*other));
                    prop_assert!(on(over(sight.ground, opacity, through)) >= ratio(&both) - 0.01);
                }
            }
        }

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
