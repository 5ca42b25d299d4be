//! 8-bit sRGB colors, their notation, and the WCAG 2.x contrast formulas.

use std::fmt;
use std::str::FromStr;
use std::sync::LazyLock;

/// An opaque sRGB color, 0–255 per channel.
#[derive(Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct Rgb {
    /// Red, 0–255.
    pub r: u8,
    /// Green, 0–255.
    pub g: u8,
    /// Blue, 0–255.
    pub b: u8,
}

/// A text that is not a color in any notation we read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("'{input}' is not a color: write #rrggbb or #rgb")]
pub struct ParseColorError {
    /// The text as it was given.
    pub input: String,
}

impl Rgb {
    /// A color from its channels, 0–255 each.
    #[must_use]
    pub const fn new(r: u8, g: u8, b: u8) -> Self {
        Self { r, g, b }
    }

    /// A color from `0xRRGGBB`; higher bits are ignored.
    #[must_use]
    pub const fn from_u32(value: u32) -> Self {
        Self::new((value >> 16) as u8, (value >> 8) as u8, value as u8)
    }

    /// The color as `0xRRGGBB`.
    #[must_use]
    pub const fn to_u32(self) -> u32 {
        (self.r as u32) << 16 | (self.g as u32) << 8 | self.b as u32
    }

    /// Reads `#rgb` (each digit doubled) and `#rrggbb`; `None` for anything else.
    #[must_use]
    pub fn from_hex(text: &str) -> Option<Self> {
        let digits = text.strip_prefix('#')?;
        if !digits.bytes().all(|b| b.is_ascii_hexdigit()) {
            return None;
        }
        let value = u32::from_str_radix(digits, 16).ok()?;
        match digits.len() {
            6 => Some(Self::from_u32(value)),
            3 => {
                let double = |shift: u32| ((value >> shift & 0xf) * 0x11) as u8;
                Some(Self::new(double(8), double(4), double(0)))
            }
            _ => None,
        }
    }

    /// The channels as linear light, 0–1, by the sRGB transfer function (IEC 61966-2-1).
    #[must_use]
    pub fn to_linear(self) -> [f64; 3] {
        [self.r, self.g, self.b].map(|c| LINEAR[usize::from(c)])
    }

    /// The nearest 8-bit color to linear light channels; values outside 0–1 are clipped.
    #[must_use]
    pub fn from_linear(linear: [f64; 3]) -> Self {
        let [r, g, b] = linear.map(nearest_channel);
        Self::new(r, g, b)
    }
}

/// The transfer function for every value of a channel.
static LINEAR: LazyLock<[f64; 256]> =
    LazyLock::new(|| std::array::from_fn(|c| decode(c as f64 / 255.0)));

/// How many parts linear light is cut into to look its channel up.
const PARTS: usize = 1024;

/// The linear light from which each channel is the nearest, and the channel where each part begins.
static STEPS: LazyLock<([f64; 256], [u8; PARTS + 1])> = LazyLock::new(|| {
    let from = std::array::from_fn(|c| match c {
        0 => 0.0,
        _ => decode((c as f64 - 0.5) / 255.0),
    });
    let begin = |part| encode(part as f64 / PARTS as f64) * 255.0;
    (from, std::array::from_fn(|part| begin(part).round() as u8))
});

/// The nearest value of a channel, without the power it takes to encode it.
fn nearest_channel(linear: f64) -> u8 {
    let (from, begin) = &*STEPS;
    let linear = linear.clamp(0.0, 1.0);
    let mut channel = begin[(linear * PARTS as f64) as usize];
    while channel < 255 && linear >= from[usize::from(channel) + 1] {
        channel += 1;
    }
    while channel > 0 && linear < from[usize::from(channel)] {
        channel -= 1;
    }
    channel
}

/// Linear light from an encoded channel, both 0–1 (IEC 61966-2-1).
pub(crate) fn decode(c: f64) -> f64 {
    if c <= 0.040_45 {
        c / 12.92
    } else {
        ((c + 0.055) / 1.055).powf(2.4)
    }
}

/// An encoded channel from linear light, both 0–1.
pub(crate) fn encode(c: f64) -> f64 {
    if c <= 0.003_130_8 {
        c * 12.92
    } else {
        1.055 * c.powf(1.0 / 2.4) - 0.055
    }
}

impl fmt::Display for Rgb {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "#{:02x}{:02x}{:02x}", self.r, self.g, self.b)
    }
}

impl fmt::Debug for Rgb {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, f)
    }
}

impl FromStr for Rgb {
    type Err = ParseColorError;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        Self::from_hex(text).ok_or_else(|| ParseColorError {
            input: text.to_owned(),
        })
    }
}

/// Relative luminance, 0 (black) to 1 (white).
///
/// Formula of WCAG 2.2, "relative luminance", with the corrected threshold 0.04045; for 8-bit
/// channels both thresholds give the same values.
#[must_use]
pub fn relative_luminance(color: Rgb) -> f64 {
    let [r, g, b] = color.to_linear();
    0.2126 * r + 0.7152 * g + 0.0722 * b
}

/// A contrast ratio as it is shown, with two places: what is left is dropped and not rounded, so that no figure says a
/// target is reached that is not.
#[must_use]
pub fn ratio_shown(ratio: f64) -> String {
    ratio_to(ratio, 2)
}

/// The same with so many places.
#[must_use]
pub fn ratio_to(ratio: f64, places: usize) -> String {
    let scale = 10f64.powi(places as i32);
    // A ratio that is such a figure may be a hair less in binary.
    format!("{:.places$}", (ratio * scale + 1e-9).floor() / scale)
}

/// Contrast ratio of two colors, 1 to 21, the same in either order (WCAG 2.2, "contrast ratio").
#[must_use]
pub fn contrast_ratio(a: Rgb, b: Rgb) -> f64 {
    let (a, b) = (relative_luminance(a), relative_luminance(b));
    (a.max(b) + 0.05) / (a.min(b) + 0.05)
}

/// A color laid over another with an opacity of 0 (only `under` is seen) to 1 (only `top`).
///
/// Mixed channel by channel in the 8-bit values, not in linear light: this is what compositors
/// do with a translucent window, and terminals with dimmed text (Porter and Duff's "over" on
/// encoded values).
#[must_use]
pub fn over(top: Rgb, opacity: f64, under: Rgb) -> Rgb {
    let t = opacity.clamp(0.0, 1.0);
    let channel = |a: u8, b: u8| (f64::from(a) * t + f64::from(b) * (1.0 - t)).round() as u8;
    Rgb::new(
        channel(top.r, under.r),
        channel(top.g, under.g),
        channel(top.b, under.b),
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn the_nearest_channel_is_the_one_that_the_formula_rounds_to() {
        let all = (0..=1_000_000).map(|i| f64::from(i) / 1e6);
        let ends = [-1.0, -0.0, 2.0, f64::NAN, f64::INFINITY, f64::MIN_POSITIVE];
        for linear in all.chain(ends) {
            let by_formula = (encode(linear.clamp(0.0, 1.0)) * 255.0).round() as u8;
            assert_eq!(nearest_channel(linear), by_formula, "{linear}");
        }
        for c in 0..=255u8 {
            assert_eq!(nearest_channel(LINEAR[usize::from(c)]), c);
        }
    }

    #[test]
    fn a_figure_never_says_more_than_there_is() {
        assert_eq!(ratio_shown(4.4999), "4.49");
        assert_eq!(ratio_shown(4.5), "4.50");
        assert_eq!(ratio_shown(0.1 + 0.2 + 4.2), "4.50");
        assert_eq!(ratio_shown(21.0), "21.00");
        assert_eq!(ratio_to(2.99, 1), "2.9");
    }

    #[test]
    fn hex_notations_are_read_and_others_refused() {
        assert_eq!(Rgb::from_hex("#1a2B3c"), Some(Rgb::new(0x1a, 0x2b, 0x3c)));
        assert_eq!(Rgb::from_hex("#abc"), Some(Rgb::new(0xaa, 0xbb, 0xcc)));
        for bad in [
            "",
            "#",
            "#12",
            "#1234",
            "#12345g",
            "123456",
            "#+12345",
            "#１２３",
        ] {
            assert_eq!(Rgb::from_hex(bad), None, "{bad}");
        }
    }

    #[test]
    fn laying_over_ends_at_both_colors_and_mixes_encoded_values() {
        let (a, b) = (Rgb::new(255, 0, 10), Rgb::new(0, 0, 20));
        assert_eq!(over(a, 1.0, b), a);
        assert_eq!(over(a, 0.0, b), b);
        assert_eq!(over(a, 0.5, b), Rgb::new(128, 0, 15));
        assert_eq!(over(a, 7.0, b), a);
    }

    #[test]
    fn ratios_of_the_standard() {
        let black = Rgb::new(0, 0, 0);
        let white = Rgb::new(255, 255, 255);
        assert!((contrast_ratio(black, white) - 21.0).abs() < 1e-9);
        assert!((contrast_ratio(white, white) - 1.0).abs() < 1e-9);
        // Published examples: #777777 on white just fails 4.5:1, #767676 just passes it.
        let ratio = |v| contrast_ratio(Rgb::from_u32(v), white);
        assert!((ratio(0x77_7777) - 4.48).abs() < 0.005);
        assert!((ratio(0x76_7676) - 4.54).abs() < 0.005);
        // Pure primaries against white, as printed in the technique documents.
        assert!((ratio(0xff_0000) - 4.0).abs() < 0.005);
        assert!((ratio(0x00_00ff) - 8.59).abs() < 0.005);
    }

    proptest! {
        #[test]
        fn printing_then_reading_gives_the_color(v in 0u32..0x100_0000) {
            let color = Rgb::from_u32(v);
            prop_assert_eq!(color.to_string().parse::<Rgb>(), Ok(color));
            prop_assert_eq!(Rgb::from_linear(color.to_linear()), color);
        }

        #[test]
        fn ratio_is_symmetric_and_bounded(a in 0u32..0x100_0000, b in 0u32..0x100_0000) {
            let (a, b) = (Rgb::from_u32(a), Rgb::from_u32(b));
            let ratio = contrast_ratio(a, b);
            prop_assert!((1.0..=21.000_001).contains(&ratio));
            prop_assert_eq!(ratio, contrast_ratio(b, a));
        }
    }
}
