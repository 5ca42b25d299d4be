//! OKLab and its polar form OKLCH, the space palettes are edited in.
//!
//! Matrices from Björn Ottosson, "A perceptual color space for image processing" (2020), the
//! same ones CSS Color 4 uses.

use super::Rgb;

/// A color in OKLab: `l` 0 (black) to 1 (white); `a` and `b` about −0.4 to 0.4.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Oklab {
    /// Lightness, 0–1.
    pub l: f64,
    /// Green to red.
    pub a: f64,
    /// Blue to yellow.
    pub b: f64,
}

/// A color in OKLCH: lightness 0–1, chroma 0 to about 0.4, hue in degrees 0–360.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Oklch {
    /// Lightness, 0–1.
    pub l: f64,
    /// Chroma, 0 (gray) upwards; sRGB ends between 0.1 and 0.33 depending on hue and lightness.
    pub c: f64,
    /// Hue in degrees, 0 to below 360. Meaningless, but kept, when the chroma is 0.
    pub h: f64,
}

impl From<Rgb> for Oklab {
    fn from(color: Rgb) -> Self {
        Self::from_linear(color.to_linear())
    }
}

impl Oklab {
    /// Whether the color can be shown in sRGB, within a rounding error of an 8-bit channel.
    #[must_use]
    pub fn in_gamut(self) -> bool {
        is_shown(&self.to_linear())
    }

    /// The color of linear sRGB channels, 0–1.
    #[must_use]
    pub fn from_linear([r, g, b]: [f64; 3]) -> Self {
        let l = (0.412_221_470_8 * r + 0.536_332_536_3 * g + 0.051_445_992_9 * b).cbrt();
        let m = (0.211_903_498_2 * r + 0.680_699_545_1 * g + 0.107_396_956_6 * b).cbrt();
        let s = (0.088_302_461_9 * r + 0.281_718_837_6 * g + 0.629_978_700_5 * b).cbrt();
        Self {
            l: 0.210_454_255_3 * l + 0.793_617_785_0 * m - 0.004_072_046_8 * s,
            a: 1.977_998_495_1 * l - 2.428_592_205_0 * m + 0.450_593_709_9 * s,
            b: 0.025_904_037_1 * l + 0.782_771_766_2 * m - 0.808_675_766_0 * s,
        }
    }

    /// Linear sRGB channels; outside 0–1 where the color lies outside the gamut.
    #[must_use]
    pub fn to_linear(self) -> [f64; 3] {
        let l = (self.l + 0.396_337_777_4 * self.a + 0.215_803_757_3 * self.b).powi(3);
        let m = (self.l - 0.105_561_345_8 * self.a - 0.063_854_172_8 * self.b).powi(3);
        let s = (self.l - 0.089_484_177_5 * self.a - 1.291_485_548_0 * self.b).powi(3);
        [
            4.076_741_662_1 * l - 3.307_711_591_3 * m + 0.230_969_929_2 * s,
            -1.268_438_004_6 * l + 2.609_757_401_1 * m - 0.341_319_396_5 * s,
            -0.004_196_086_3 * l - 0.703_418_614_7 * m + 1.707_614_701_0 * s,
        ]
    }
}

/// Whether linear sRGB channels can be shown, within a rounding error of an 8-bit channel.
pub(crate) fn is_shown(linear: &[f64; 3]) -> bool {
    const EDGE: f64 = 5e-6;
    linear.iter().all(|c| (-EDGE..=1.0 + EDGE).contains(c))
}

impl From<Oklab> for Oklch {
    fn from(lab: Oklab) -> Self {
        let c = lab.a.hypot(lab.b);
        let h = if c < 1e-4 {
            0.0
        } else {
            lab.b.atan2(lab.a).to_degrees().rem_euclid(360.0)
        };
        Self { l: lab.l, c, h }
    }
}

impl From<Oklch> for Oklab {
    fn from(lch: Oklch) -> Self {
        let (sin, cos) = lch.h.to_radians().sin_cos();
        Self {
            l: lch.l,
            a: lch.c * cos,
            b: lch.c * sin,
        }
    }
}

impl From<Rgb> for Oklch {
    fn from(color: Rgb) -> Self {
        Oklab::from(color).into()
    }
}

impl Oklch {
    /// The smallest angle between its hue and another's, 0–180 degrees.
    #[must_use]
    pub fn turned_from(&self, other: &Self) -> f64 {
        let turn = (self.h - other.h).rem_euclid(360.0);
        turn.min(360.0 - turn)
    }

    /// Whether the color can be shown in sRGB, within a rounding error of an 8-bit channel.
    #[must_use]
    pub fn in_gamut(self) -> bool {
        Oklab::from(self).in_gamut()
    }

    /// The greatest chroma sRGB can show at this lightness and hue, to within 0.0005.
    ///
    /// The gamut has a dent near blue, where a color can be inside although one of less chroma
    /// is not; so the edge is looked for from outside. The needle in which it ends at pure blue
    /// itself is narrower than the search's step and is not found.
    #[must_use]
    pub fn max_chroma(l: f64, h: f64) -> f64 {
        const STEP: f64 = 0.005;
        let inside = |c: f64| (Self { l, c, h }).in_gamut();
        let steps = (0..=80u8).rev().map(|i| f64::from(i) * STEP);
        let mut low = steps.into_iter().find(|c| inside(*c)).unwrap_or(0.0);
        let mut high = low + STEP;
        while high - low > 0.000_5 {
            let mid = (low + high) / 2.0;
            if inside(mid) { low = mid } else { high = mid }
        }
        low
    }

    /// Relative luminance, 0–1, without rounding to 8 bits; channels outside sRGB are clipped.
    /// Much cheaper than going through [`Self::to_rgb`], for drawing scales.
    #[must_use]
    pub fn luminance(self) -> f64 {
        let [r, g, b] = Oklab::from(self).to_linear().map(|c| c.clamp(0.0, 1.0));
        0.2126 * r + 0.7152 * g + 0.0722 * b
    }

    /// The nearest sRGB color of the same lightness and hue: chroma is given up, nothing else.
    #[must_use]
    pub fn to_rgb(self) -> Rgb {
        let l = self.l.clamp(0.0, 1.0);
        let wanted = Self {
            l,
            c: self.c.max(0.0),
            h: self.h,
        };
        let shown = if wanted.in_gamut() {
            wanted
        } else {
            Self {
                c: Self::max_chroma(l, self.h).min(wanted.c),
                ..wanted
            }
        };
        Rgb::from_linear(Oklab::from(shown).to_linear())
    }
}

/// Mixes two colors in OKLab; `amount` 0 gives `a`, 1 gives `b`, outside values are clipped.
#[must_use]
pub fn mix(a: Rgb, b: Rgb, amount: f64) -> Rgb {
    let t = amount.clamp(0.0, 1.0);
    let (from, to) = (Oklab::from(a), Oklab::from(b));
    let lerp = |x: f64, y: f64| x + (y - x) * t;
    let lab = Oklab {
        l: lerp(from.l, to.l),
        a: lerp(from.a, to.a),
        b: lerp(from.b, to.b),
    };
    Rgb::from_linear(lab.to_linear())
}

/// The distance from a ground's lightness to a text's, never quite nothing.
pub(crate) fn lightness_span(ground: f64, text: f64) -> f64 {
    let span = text - ground;
    if span.abs() < 0.05 {
        0.05_f64.copysign(span)
    } else {
        span
    }
}

/// Euclidean distance in OKLab; about 0.02 is a just noticeable step between flat areas.
#[must_use]
pub fn oklab_distance(a: Rgb, b: Rgb) -> f64 {
    let (a, b) = (Oklab::from(a), Oklab::from(b));
    ((a.l - b.l).powi(2) + (a.a - b.a).powi(2) + (a.b - b.b).powi(2)).sqrt()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// OKLCH of the sRGB primaries as printed in CSS Color 4 and the original article.
    #[test]
    fn published_reference_values() {
        for (hex, l, c, h) in [
            ("#ffffff", 1.0, 0.0, 0.0),
            ("#ff0000", 0.627_96, 0.257_68, 29.234),
            ("#00ff00", 0.866_44, 0.294_83, 142.495),
            ("#0000ff", 0.452_01, 0.313_21, 264.052),
        ] {
            let lch = Oklch::from(hex.parse::<Rgb>().unwrap());
            assert!((lch.l - l).abs() < 2e-4, "{hex} {lch:?}");
            assert!((lch.c - c).abs() < 2e-4, "{hex} {lch:?}");
            assert!((lch.h - h).abs() < 0.05 || c == 0.0, "{hex} {lch:?}");
        }
    }

    #[test]
    fn gamut_mapping_keeps_lightness_and_hue() {
        let wanted = Oklch {
            l: 0.7,
            c: 0.39,
            h: 200.0,
        };
        assert!(!wanted.in_gamut());
        let got = Oklch::from(wanted.to_rgb());
        assert!((got.l - wanted.l).abs() < 0.005, "{got:?}");
        assert!((got.h - wanted.h).abs() < 1.5, "{got:?}");
    }

    #[test]
    fn mixing_ends_where_it_starts() {
        let (a, b) = (Rgb::new(20, 40, 60), Rgb::new(240, 200, 10));
        assert_eq!(mix(a, b, 0.0), a);
        assert_eq!(mix(a, b, 1.0), b);
        assert_eq!(mix(a, b, -3.0), a);
    }

    proptest! {
        #[test]
        fn there_and_back(v in 0u32..0x100_0000) {
            let color = Rgb::from_u32(v);
            prop_assert_eq!(Oklch::from(color).to_rgb(), color);
        }

        #[test]
        fn luminance_agrees_with_that_of_the_rounded_color(v in 0u32..0x100_0000) {
            let color = Rgb::from_u32(v);
            let (a, b) = (Oklch::from(color).luminance(), crate::color::relative_luminance(color));
            prop_assert!((a - b).abs() < 1e-3);
        }

        #[test]
        fn any_coordinates_give_a_color(l in -1.0f64..2.0, c in -1.0f64..2.0, h in -720.0f64..720.0) {
            let _ = Oklch { l, c, h }.to_rgb();
        }
    }
}
