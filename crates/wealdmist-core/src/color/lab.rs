//! CIELAB and the CIEDE2000 difference: how far apart two colors look.
//!
//! CIELAB by CIE 015:2018 relative to the D65 white of sRGB, so that no adaptation is needed.

use super::Rgb;

/// A color in CIELAB under D65.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lab {
    /// Lightness L*, 0 (black) to 100 (white).
    pub l: f64,
    /// Green to red, about −86 to 98 in sRGB.
    pub a: f64,
    /// Blue to yellow, about −108 to 94 in sRGB.
    pub b: f64,
}

/// The D65 white of sRGB (IEC 61966-2-1), as XYZ with Y = 1.
const WHITE: [f64; 3] = [0.950_47, 1.0, 1.088_83];

impl From<Rgb> for Lab {
    fn from(color: Rgb) -> Self {
        Self::from_linear(color.to_linear())
    }
}

impl Lab {
    /// The color of linear sRGB channels, 0–1.
    #[must_use]
    pub fn from_linear([r, g, b]: [f64; 3]) -> Self {
        let x = 0.412_456_4 * r + 0.357_576_1 * g + 0.180_437_5 * b;
        let y = 0.212_672_9 * r + 0.715_152_2 * g + 0.072_175_0 * b;
        let z = 0.019_333_9 * r + 0.119_192_0 * g + 0.950_304_1 * b;
        let [fx, fy, fz] = [x / WHITE[0], y / WHITE[1], z / WHITE[2]].map(compressed);
        Self {
            l: 116.0 * fy - 16.0,
            a: 500.0 * (fx - fy),
            b: 200.0 * (fy - fz),
        }
    }
}

/// The function f of CIELAB: a cube root with a straight piece near black.
fn compressed(t: f64) -> f64 {
    const EDGE: f64 = 216.0 / 24_389.0;
    const SLOPE: f64 = 24_389.0 / 27.0;
    if t > EDGE {
        t.cbrt()
    } else {
        (SLOPE * t + 16.0) / 116.0
    }
}

/// The CIEDE2000 difference of two colors, with all weights 1: 0 for equal ones, about 1 for a
/// difference that can just be seen between patches side by side, 100 for black and white.
///
/// Formula: CIE 142-2001, in the order of G. Sharma, W. Wu, E. N. Dalal, "The CIEDE2000
/// color-difference formula: implementation notes, supplementary test data, and mathematical
/// observations" (2005), whose test pairs are among the tests.
#[must_use]
pub fn ciede2000(one: Lab, other: Lab) -> f64 {
    let length = |a: f64, b: f64| (a * a + b * b).sqrt();
    let (c1, c2) = (length(one.a, one.b), length(other.a, other.b));
    let g = 0.5 * (1.0 - chroma_weight((c1 + c2) / 2.0));
    let (a1, a2) = (one.a * (1.0 + g), other.a * (1.0 + g));
    let (c1, c2) = (length(a1, one.b), length(a2, other.b));
    let gray = c1 * c2 == 0.0;

    let dl = other.l - one.l;
    let dc = c2 - c1;
    // 2 √(C₁C₂) sin(Δh / 2) is what is left of the distance beside that of the chromas, on the side to which the hue
    // turns.
    let (da, db) = (a2 - a1, other.b - one.b);
    let rest = if gray {
        0.0
    } else {
        (da * da + db * db - dc * dc).max(0.0).sqrt()
    };
    let dh = if a1 * other.b < a2 * one.b {
        -rest
    } else {
        rest
    };

    let l = (one.l + other.l) / 2.0;
    let c = (c1 + c2) / 2.0;
    // The mean of two hues halves the smaller angle between them; a gray has none, and the other's counts.
    let (x, y) = match gray {
        true => (a1 + a2, one.b + other.b),
        false => (a1 / c1 + a2 / c2, one.b / c1 + other.b / c2),
    };
    let far = length(x, y);
    let (x, y) = match (far > 1e-9, gray) {
        (true, _) => (x / far, y / far),
        (false, true) => (1.0, 0.0),
        // Of two that are opposite, the mean of their angles from 0° to 360°.
        (false, false) => {
            let h = (hue(a1, one.b) + hue(a2, other.b)).to_radians() / 2.0;
            (h.cos(), h.sin())
        }
    };
    // The cosines of h − 30°, 2h, 3h + 6° and 4h − 63°, of those of h.
    let (x2, y2) = (x * x - y * y, 2.0 * x * y);
    let (x3, y3) = (x2 * x - y2 * y, x2 * y + y2 * x);
    let (x4, y4) = (x2 * x2 - y2 * y2, 2.0 * x2 * y2);
    let turned = |x: f64, y: f64, (cos, sin): (f64, f64)| x * cos - y * sin;
    let t = 1.0 - 0.17 * turned(x, y, BACK_30) + 0.24 * x2 + 0.32 * turned(x3, y3, ON_6)
        - 0.20 * turned(x4, y4, BACK_63);
    let sl = lightness_weight(l);
    let sc = 1.0 + 0.045 * c;
    let sh = 1.0 + 0.015 * c * t;
    // From 0° to 148° the turn is less than 10⁻⁹ degrees.
    let rt = if y >= 0.0 && x > -0.85 {
        0.0
    } else {
        let h = y.atan2(x).to_degrees().rem_euclid(360.0);
        let rotation = 30.0 * (-((h - 275.0) / 25.0).powi(2)).exp();
        -(2.0 * rotation).to_radians().sin() * 2.0 * chroma_weight(c)
    };
    let (dl, dc, dh) = (dl / sl, dc / sc, dh / sh);
    (dl * dl + dc * dc + dh * dh + rt * dc * dh).max(0.0).sqrt()
}

/// Cosine and sine of −30°, 6° and −63°.
const BACK_30: (f64, f64) = (0.866_025_403_784_438_6, -0.5);
const ON_6: (f64, f64) = (0.994_521_895_368_273_3, 0.104_528_463_267_653_47);
const BACK_63: (f64, f64) = (0.453_990_499_739_546_8, -0.891_006_524_188_367_9);

/// By what the difference of two lightnesses is divided, of their mean.
fn lightness_weight(l: f64) -> f64 {
    let off = (l - 50.0) * (l - 50.0);
    1.0 + 0.015 * off / (20.0 + off).sqrt()
}

/// A bound of the CIEDE2000 difference from below, which takes a fraction of the time.
///
/// The distance in the plane of a* and b* is no more than that of the formula, whose a′ is only stretched, and is
/// divided by no more than the weight of chroma: S_H stays below S_C, as T is at most 1.93. Chroma and hue hang
/// together by at most 2 sin 60° where blues may be among the hues between, and not to speak of where none are.
#[must_use]
pub fn ciede2000_at_least(one: Lab, other: Lab) -> f64 {
    let dl = (other.l - one.l) / lightness_weight((one.l + other.l) / 2.0);
    let (da, db) = (other.a - one.a, other.b - one.b);
    let length = |lab: Lab| (lab.a * lab.a + lab.b * lab.b).sqrt();
    let c = (length(one) + length(other)) / 2.0;
    // a′ is stretched by up to a half, and by 2.3 % from a mean chroma of 35 on.
    let sc = 1.0 + 0.045 * c * if c < 35.0 { 1.5 } else { 1.023 };
    let apart = if one.b >= 0.0 && other.b >= 0.0 {
        0.999
    } else {
        0.133
    };
    (dl * dl + apart * (da * da + db * db) / (sc * sc)).sqrt()
}

/// √(C⁷ / (C⁷ + 25⁷)).
fn chroma_weight(c: f64) -> f64 {
    let c7 = c.powi(7);
    (c7 / (c7 + 25.0_f64.powi(7))).sqrt()
}

fn hue(a: f64, b: f64) -> f64 {
    if a == 0.0 && b == 0.0 {
        0.0
    } else {
        b.atan2(a).to_degrees().rem_euclid(360.0)
    }
}

/// How different two colors look, as the CIEDE2000 difference.
#[must_use]
pub fn difference(a: Rgb, b: Rgb) -> f64 {
    ciede2000(a.into(), b.into())
}

/// The lightness contrast of two colors: the difference of their CIE lightness L*, 0–100, the
/// same in either order.
///
/// A second opinion for thin text. L* follows perceived lightness evenly from black to white,
/// while the ratio of WCAG 2.x grows too fast between dark colors, so that a pair can reach
/// 4.5:1 on a dark ground and still look faint in thin strokes.
#[must_use]
pub fn lightness_contrast(a: Rgb, b: Rgb) -> f64 {
    (Lab::from(a).l - Lab::from(b).l).abs()
}

/// The lightness contrast thin text should have at least. On white it asks for as much as
/// 4.5:1 does (#767676, L* 49.6); on dark grounds it asks for more.
pub const THIN_TEXT: f64 = 50.0;

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn thin_text_is_judged_like_the_ratio_on_white_and_harder_on_dark() {
        let hex = Rgb::from_u32;
        let on_white = lightness_contrast(hex(0x76_7676), hex(0xff_ffff));
        assert!((on_white - THIN_TEXT).abs() < 0.5, "{on_white}");
        // 4.5:1 on a dark ground, and yet below.
        let (text, ground) = (hex(0x88_8888), hex(0x20_2020));
        assert!(crate::color::contrast_ratio(text, ground) > 4.5);
        assert!(lightness_contrast(text, ground) < THIN_TEXT);
    }

    proptest! {
        #[test]
        fn difference_is_a_distance(a in 0u32..0x100_0000, b in 0u32..0x100_0000) {
            let (a, b) = (Rgb::from_u32(a), Rgb::from_u32(b));
            prop_assert!((difference(a, b) - difference(b, a)).abs() < 1e-9);
            prop_assert_eq!(difference(a, b) == 0.0, a == b);
            prop_assert!(difference(a, b) <= 130.0);
            let least = ciede2000_at_least(a.into(), b.into());
            prop_assert!(least <= difference(a, b) + 1e-9, "{least}");
            prop_assert!((0.0..=100.001).contains(&lightness_contrast(a, b)));
        }
    }
}
