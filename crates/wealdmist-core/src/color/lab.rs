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
    let (c1, c2) = (one.a.hypot(one.b), other.a.hypot(other.b));
    let g = 0.5 * (1.0 - chroma_weight((c1 + c2) / 2.0));
    let (a1, a2) = (one.a * (1.0 + g), other.a * (1.0 + g));
    let (c1, c2) = (a1.hypot(one.b), a2.hypot(other.b));
    let (h1, h2) = (hue(a1, one.b), hue(a2, other.b));
    let gray = c1 * c2 == 0.0;

    let dl = other.l - one.l;
    let dc = c2 - c1;
    let turn = if gray { 0.0 } else { shortest(h2 - h1) };
    let dh = 2.0 * (c1 * c2).sqrt() * (turn / 2.0).to_radians().sin();

    let l = (one.l + other.l) / 2.0;
    let c = (c1 + c2) / 2.0;
    let h = match (h1 + h2, (h1 - h2).abs()) {
        (sum, _) if gray => sum,
        (sum, apart) if apart <= 180.0 => sum / 2.0,
        (sum, _) if sum < 360.0 => (sum + 360.0) / 2.0,
        (sum, _) => (sum - 360.0) / 2.0,
    };
    let cos = |degrees: f64| degrees.to_radians().cos();
    let t = 1.0 - 0.17 * cos(h - 30.0) + 0.24 * cos(2.0 * h) + 0.32 * cos(3.0 * h + 6.0)
        - 0.20 * cos(4.0 * h - 63.0);
    let off = (l - 50.0).powi(2);
    let sl = 1.0 + 0.015 * off / (20.0 + off).sqrt();
    let sc = 1.0 + 0.045 * c;
    let sh = 1.0 + 0.015 * c * t;
    let rotation = 30.0 * (-((h - 275.0) / 25.0).powi(2)).exp();
    let rt = -(2.0 * rotation).to_radians().sin() * 2.0 * chroma_weight(c);
    let (dl, dc, dh) = (dl / sl, dc / sc, dh / sh);
    (dl * dl + dc * dc + dh * dh + rt * dc * dh).max(0.0).sqrt()
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

/// An angle between −180° and 180°.
fn shortest(turn: f64) -> f64 {
    if turn > 180.0 {
        turn - 360.0
    } else if turn < -180.0 {
        turn + 360.0
    } else {
        turn
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
            prop_assert!((0.0..=100.001).contains(&lightness_contrast(a, b)));
        }
    }
}
