//! Rasters drawn with characters, for terminals that show no images: the finest means there is.

use super::raster::Raster;

/// How a raster is drawn with characters.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Means {
    /// Four quarters of a cell in two shades: 2×2 pixels.
    Quadrants,
    /// Dots of a cell, on or off: 2×4 pixels.
    Dots,
    /// ASCII signs by darkness: 1×2 pixels to a cell.
    Ascii,
}

impl Means {
    /// All, the most pixels in a cell first.
    pub const ALL: [Self; 3] = [Self::Dots, Self::Quadrants, Self::Ascii];

    /// How many pixels a cell shows across and down.
    #[must_use]
    pub const fn pixels(self) -> (u32, u32) {
        match self {
            Self::Quadrants => (2, 2),
            Self::Dots => (2, 4),
            Self::Ascii => (1, 2),
        }
    }

    /// The word for it.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Quadrants => "quarter cells",
            Self::Dots => "dots",
            Self::Ascii => "ASCII signs",
        }
    }
}

/// A cell of a drawn raster: a character, how much ink its foreground is, and its background,
/// 0–255.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Shaded {
    /// The character.
    pub character: char,
    /// The shade of what it draws.
    pub ink: u8,
    /// The shade of what it leaves.
    pub ground: u8,
}

/// The sixteen patterns of quarters: bit 0 upper left, 1 upper right, 2 lower left, 3 lower right.
const QUARTERS: [char; 16] = [
    ' ', '▘', '▝', '▀', '▖', '▌', '▞', '▛', '▗', '▚', '▐', '▜', '▄', '▙', '▟', '█',
];

/// Signs by darkness, for the upper and lower half of a cell alike.
const RAMP: &[u8] = b" .:-=+*#%@";

/// Draws a raster; rows of cells.
#[must_use]
pub fn draw(raster: &Raster, means: Means) -> Vec<Vec<Shaded>> {
    let (across, down) = means.pixels();
    let rows = raster.height.div_ceil(down);
    let columns = raster.width.div_ceil(across);
    let cell = |row: u32, column: u32| match means {
        Means::Quadrants => quadrant(raster, column * 2, row * 2),
        Means::Dots => dots(raster, column * 2, row * 4),
        Means::Ascii => sign(raster, column, row * 2),
    };
    (0..rows)
        .map(|row| (0..columns).map(|column| cell(row, column)).collect())
        .collect()
}

/// The pattern and the two shades that come nearest to four pixels: they are parted at the middle
/// of their range, and each side is drawn in its mean.
fn quadrant(raster: &Raster, x: u32, y: u32) -> Shaded {
    let four = [(0, 0), (1, 0), (0, 1), (1, 1)].map(|(dx, dy)| raster.at(x + dx, y + dy));
    let (low, high) = four
        .iter()
        .fold((255, 0), |(l, h), p| (l.min(*p), h.max(*p)));
    if high - low < 24 {
        let mean = (four.iter().map(|p| u16::from(*p)).sum::<u16>() / 4) as u8;
        return Shaded {
            character: ' ',
            ink: mean,
            ground: mean,
        };
    }
    let middle = (u16::from(low) + u16::from(high)) / 2;
    let above = |p: &u8| u16::from(*p) > middle;
    let mean = |wanted: bool| {
        let side: Vec<u16> = four
            .iter()
            .filter(|p| above(p) == wanted)
            .map(|p| u16::from(*p))
            .collect();
        (side.iter().sum::<u16>() / side.len().max(1) as u16) as u8
    };
    let pattern = four
        .iter()
        .enumerate()
        .fold(0, |bits, (i, p)| bits | usize::from(above(p)) << i);
    Shaded {
        character: QUARTERS[pattern],
        ink: mean(true),
        ground: mean(false),
    }
}

/// Braille dots in the order of their bits (Unicode, Braille Patterns).
const DOTS: [(u32, u32); 8] = [
    (0, 0),
    (0, 1),
    (0, 2),
    (1, 0),
    (1, 1),
    (1, 2),
    (0, 3),
    (1, 3),
];

fn dots(raster: &Raster, x: u32, y: u32) -> Shaded {
    let bits = DOTS
        .iter()
        .enumerate()
        .filter(|(_, (dx, dy))| raster.at(x + dx, y + dy) >= 96)
        .fold(0u32, |bits, (i, _)| bits | 1 << i);
    let character = match bits {
        0 => ' ',
        bits => char::from_u32(0x2800 + bits).unwrap_or(' '),
    };
    Shaded {
        character,
        ink: 255,
        ground: 0,
    }
}

fn sign(raster: &Raster, x: u32, y: u32) -> Shaded {
    let (upper, lower) = (raster.at(x, y), raster.at(x, y + 1));
    let character = match (upper >= 128, lower >= 128) {
        (true, false) if lower < 64 => '"',
        (false, true) if upper < 64 => '_',
        _ => {
            let dark = (usize::from(upper) + usize::from(lower)) * (RAMP.len() - 1) / 510;
            char::from(RAMP[dark])
        }
    };
    Shaded {
        character,
        ink: 255,
        ground: 0,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn raster(width: u32, height: u32, ink: impl Fn(u32, u32) -> u8) -> Raster {
        let mut out = Raster::new(width, height);
        for y in 0..height {
            for x in 0..width {
                out.pixels[(y * width + x) as usize] = ink(x, y);
            }
        }
        out
    }

    #[test]
    fn each_quarter_and_each_dot_has_its_place() {
        for (i, pattern) in QUARTERS.iter().enumerate() {
            let four = raster(2, 2, |x, y| if i >> (y * 2 + x) & 1 == 1 { 255 } else { 0 });
            let shown = draw(&four, Means::Quadrants)[0][0];
            match i {
                // One even shade is a blank on it.
                0 | 15 => assert_eq!(shown.character, ' '),
                _ => assert_eq!(
                    (shown.character, shown.ink, shown.ground),
                    (*pattern, 255, 0)
                ),
            }
        }
        for (i, (dx, dy)) in DOTS.iter().enumerate() {
            let one = raster(2, 4, |x, y| if (x, y) == (*dx, *dy) { 255 } else { 0 });
            let shown = draw(&one, Means::Dots)[0][0].character;
            assert_eq!(shown as u32, 0x2800 + (1 << i));
        }
    }

    #[test]
    fn ascii_tells_upper_from_lower_halves() {
        let half = |upper: bool| raster(1, 2, move |_, y| if (y == 0) == upper { 255 } else { 0 });
        assert_eq!(draw(&half(true), Means::Ascii)[0][0].character, '"');
        assert_eq!(draw(&half(false), Means::Ascii)[0][0].character, '_');
        for means in Means::ALL {
            assert!(!means.label().is_empty());
        }
    }

    proptest! {
        #[test]
        fn any_raster_is_drawn_whole(width in 0u32..40, height in 0u32..40, seed in any::<u32>()) {
            let raster = raster(width, height, |x, y| (x.wrapping_mul(31).wrapping_add(y * 17) ^ seed) as u8);
            for means in Means::ALL {
                let (across, down) = means.pixels();
                let rows = draw(&raster, means);
                prop_assert_eq!(rows.len() as u32, height.div_ceil(down));
                for row in &rows {
                    prop_assert_eq!(row.len() as u32, width.div_ceil(across));
                    prop_assert!(means != Means::Ascii || row.iter().all(|c| c.character.is_ascii()));
                    prop_assert!(row.iter().all(|c| c.ink >= c.ground));
                }
            }
        }
    }
}
