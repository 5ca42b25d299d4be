//! Color depths: what is left of a color where 24 bits are not available.
//!
//! The table of indices 16–255 is the one xterm introduced: a 6×6×6 cube with the channel
//! levels 0, 95, 135, 175, 215, 255, then 24 grays from 8 to 238 in steps of 10.

use std::sync::LazyLock;

use super::{Lab, Oklab, Rgb, oklab_distance};

/// How many colors a terminal, or a person, lets us use.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Depth {
    /// No color at all (`NO_COLOR`, or a terminal without it).
    None,
    /// The 16 ANSI colors.
    Ansi16,
    /// The 256 indexed colors.
    Indexed256,
    /// 24-bit color.
    TrueColor,
}

impl Depth {
    /// The label shown to people.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::None => "no color",
            Self::Ansi16 => "16 colors",
            Self::Indexed256 => "256 colors",
            Self::TrueColor => "24-bit",
        }
    }
}

const LEVELS: [u8; 6] = [0, 95, 135, 175, 215, 255];

/// The color of an index 16–255; `None` for 0–15, which the terminal's palette decides.
#[must_use]
pub const fn indexed(index: u8) -> Option<Rgb> {
    match index {
        0..16 => None,
        16..232 => {
            let n = index - 16;
            Some(Rgb::new(
                LEVELS[(n / 36) as usize],
                LEVELS[(n / 6 % 6) as usize],
                LEVELS[(n % 6) as usize],
            ))
        }
        232..=255 => {
            let gray = 8 + (index - 232) * 10;
            Some(Rgb::new(gray, gray, gray))
        }
    }
}

/// The index 16–255 whose color is perceptually nearest: the least distance in OKLab, of all of them; of two as near the
/// lower index. The palette's own 0–15 are not used, as their colors are not fixed.
///
/// The metric is the one of the rest of the product for "nearest": equal distances look about equally far apart, also among
/// dark colors, where distances in sRGB put grounds of a hue next to grays.
#[must_use]
pub fn nearest_256(color: Rgb) -> u8 {
    static TABLE: LazyLock<Table> = LazyLock::new(|| Table::in_space(oklab));
    TABLE.nearest(color)
}

fn oklab(color: Rgb) -> [f64; 3] {
    let Oklab { l, a, b } = color.into();
    [l, a, b]
}

fn cielab(color: Rgb) -> [f64; 3] {
    let Lab { l, a, b } = color.into();
    [l, a, b]
}

/// The colors of the indices 16–255 in a space whose distances count.
struct Table {
    space: fn(Rgb) -> [f64; 3],
    colors: Vec<[f64; 3]>,
}

impl Table {
    fn in_space(space: fn(Rgb) -> [f64; 3]) -> Self {
        let colors = (16..=255u8).filter_map(indexed).map(space).collect();
        Self { space, colors }
    }

    /// The index of the nearest; of two as near the lower one.
    fn nearest(&self, color: Rgb) -> u8 {
        let [x, y, z] = (self.space)(color);
        let mut best = (f64::MAX, 0);
        for (i, other) in self.colors.iter().enumerate() {
            let (x, y, z) = (other[0] - x, other[1] - y, other[2] - z);
            let far = x * x + y * y + z * z;
            if far < best.0 {
                best = (far, i);
            }
        }
        16 + best.1 as u8
    }
}

/// How a program takes a color of 24 bits where there are 256.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Rounding {
    /// To the perceptually nearest, as [`nearest_256`]: what we do ourselves, and what is assumed where nothing is known.
    #[default]
    Nearest,
    /// Each channel to the nearest level of the cube, or the gray nearest to the mean of the channels where that is
    /// nearer in sRGB.
    Cube,
    /// To the nearest in CIELAB (D65, CIE 1976 difference).
    Cielab,
}

impl Rounding {
    /// The index 16–255 that a color comes to; of two as near the lower one.
    #[must_use]
    pub fn index(self, color: Rgb) -> u8 {
        match self {
            Self::Nearest => nearest_256(color),
            Self::Cube => in_cube(color),
            Self::Cielab => {
                static TABLE: LazyLock<Table> = LazyLock::new(|| Table::in_space(cielab));
                TABLE.nearest(color)
            }
        }
    }
}

fn in_cube(color: Rgb) -> u8 {
    let channels = [color.r, color.g, color.b];
    let level = |v: u8| match v {
        0..48 => 0,
        48..114 => 1,
        _ => (v - 35) / 40,
    };
    let [r, g, b] = channels.map(level);
    let sum: u16 = channels.iter().map(|v| u16::from(*v)).sum();
    let gray = match sum / 3 {
        239.. => 23,
        mean => mean.saturating_sub(3) as u8 / 10,
    };
    let far = |index: u8| {
        let other = indexed(index).unwrap_or(color);
        let sides = [
            color.r.abs_diff(other.r),
            color.g.abs_diff(other.g),
            color.b.abs_diff(other.b),
        ];
        sides.iter().map(|d| u32::from(*d).pow(2)).sum::<u32>()
    };
    let (cube, gray) = (16 + 36 * r + 6 * g + b, 232 + gray);
    if far(gray) < far(cube) { gray } else { cube }
}

/// The position, 0–15, of the color in `slots` that is perceptually nearest.
#[must_use]
pub fn nearest_16(color: Rgb, slots: &[Rgb; 16]) -> u8 {
    let mut best = (f64::MAX, 0);
    for (i, slot) in slots.iter().enumerate() {
        let distance = oklab_distance(color, *slot);
        if distance < best.0 {
            best = (distance, i as u8);
        }
    }
    best.1
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn table_has_the_documented_corners() {
        assert_eq!(indexed(15), None);
        assert_eq!(indexed(16), Some(Rgb::new(0, 0, 0)));
        assert_eq!(indexed(67), Some(Rgb::new(95, 135, 175)));
        assert_eq!(indexed(231), Some(Rgb::new(255, 255, 255)));
        assert_eq!(indexed(232), Some(Rgb::new(8, 8, 8)));
        assert_eq!(indexed(255), Some(Rgb::new(238, 238, 238)));
    }

    #[test]
    fn every_table_color_is_its_own_nearest() {
        for index in 16..=255u8 {
            let color = indexed(index).unwrap();
            assert_eq!(indexed(nearest_256(color)), Some(color), "{index}");
        }
    }

    #[test]
    fn nothing_is_nearer_than_the_nearest() {
        // All dark colors in steps of 8 a channel, where grounds of themes are, and all in steps of 17.
        let steps = |step: usize, most: u8| (0..=most).step_by(step);
        for (step, most) in [(8, 96), (17, 255)] {
            for r in steps(step, most) {
                for (g, b) in steps(step, most).flat_map(|g| steps(step, most).map(move |b| (g, b)))
                {
                    let color = Rgb::new(r, g, b);
                    let far = |index: u8| oklab_distance(color, indexed(index).unwrap());
                    let found = far(nearest_256(color));
                    let least = (16..=255).map(far).fold(f64::MAX, f64::min);
                    assert!(found <= least + 1e-12, "{color}: {found} {least}");
                }
            }
        }
    }

    /// What programs that round by themselves were seen to make of colors: by the cube, and in CIELAB.
    #[test]
    fn others_round_as_they_were_seen_to() {
        for (color, cube, cielab) in [
            (0x9b_34ca, 134, 91),
            (0xf5_4f2e, 202, 160),
            (0x0d_0d0d, 233, 232),
            (0x7c_6a76, 243, 242),
            (0x01_6c50, 23, 29),
            (0x24_249c, 19, 18),
            (0x07_3b2f, 235, 23),
            (0x17_285d, 17, 60),
            (0x5f_5141, 239, 240),
            (0x12_0031, 233, 17),
        ] {
            let color = Rgb::from_u32(color);
            assert_eq!(Rounding::Cube.index(color), cube, "{color}");
            assert_eq!(Rounding::Cielab.index(color), cielab, "{color}");
            assert_eq!(Rounding::Nearest.index(color), nearest_256(color));
        }
    }

    #[test]
    fn nearest_slot_is_the_equal_one() {
        let mut slots = [Rgb::new(0, 0, 0); 16];
        slots[9] = Rgb::new(200, 10, 10);
        assert_eq!(nearest_16(Rgb::new(210, 0, 0), &slots), 9);
    }
}
