//! Notations of colors beyond our own `#rrggbb`: those of X servers and terminals, and CSS.

use super::{Oklch, Rgb};

/// A color as X servers and terminals take it: `#` with 1 to 4 hexadecimal digits a channel, the
/// most significant first, so that `#abc` is `#a0b0c0`; `rgb:r/g/b` and `rgba:r/g/b/a` with 1 to
/// 4 digits a channel, each scaled to its range. An alpha channel is left out. (Xlib,
/// "Color strings".)
#[must_use]
pub fn parse_spec(text: &str) -> Option<Rgb> {
    let is_hex = |t: &str| !t.is_empty() && t.bytes().all(|b| b.is_ascii_hexdigit());
    if let Some(digits) = text.strip_prefix('#') {
        let each = digits.len() / 3;
        if !matches!(digits.len(), 3 | 6 | 9 | 12) || !is_hex(digits) {
            return None;
        }
        let mut channels = (0..3).map(|i| {
            let value = u32::from_str_radix(&digits[i * each..][..each], 16).ok()?;
            Some((value << (16 - 4 * each) >> 8) as u8)
        });
        return Some(Rgb::new(
            channels.next()??,
            channels.next()??,
            channels.next()??,
        ));
    }
    let channels = text
        .strip_prefix("rgba:")
        .or_else(|| text.strip_prefix("rgb:"))?;
    let mut values = channels.split('/').map(|digits| {
        if digits.len() > 4 || !is_hex(digits) {
            return None;
        }
        let most = 16u32.pow(digits.len() as u32) - 1;
        let value = u32::from_str_radix(digits, 16).ok()?;
        Some(((value * 255 + most / 2) / most) as u8)
    });
    Some(Rgb::new(values.next()??, values.next()??, values.next()??))
}

/// A color in any notation of CSS Color 4: hexadecimal, `rgb()`, `hsl()`, `hwb()`, `lab()`,
/// `lch()`, `oklab()`, `oklch()` or a name. What lies outside sRGB is clipped; an alpha channel is
/// left out.
#[must_use]
pub fn parse_any(text: &str) -> Option<Rgb> {
    parse_with_alpha(text).map(|(color, _)| color)
}

/// The same with its alpha channel, 0–1.
#[must_use]
pub fn parse_with_alpha(text: &str) -> Option<(Rgb, f64)> {
    let color = csscolorparser::parse(text.trim()).ok()?;
    let [r, g, b, _] = color.to_rgba8();
    Some((Rgb::new(r, g, b), f64::from(color.a).clamp(0.0, 1.0)))
}

/// A color as a person types it: in any notation of [`parse_any`], six digits without their `#`, or said
/// from what it is now: `lighter` or `darker` (of lightness, 0–1; 0.05 where no number stands), `stronger`
/// or `weaker` (of chroma; 0.02), `turned` (of hue, in degrees; 15).
#[must_use]
pub fn typed(text: &str, now: Rgb) -> Option<Rgb> {
    let text = text.trim();
    let plain = || parse_any(text).or_else(|| Rgb::from_hex(&format!("#{text}")));
    let mut words = text.split_whitespace();
    let word = words.next().unwrap_or_default();
    let number = match (words.next(), words.next()) {
        (None, _) => None,
        (Some(number), None) => match number.parse::<f64>() {
            Ok(number) if number.is_finite() => Some(number),
            _ => return plain(),
        },
        _ => return plain(),
    };
    let mut lch = Oklch::from(now);
    match word {
        "lighter" => lch.l += number.unwrap_or(0.05),
        "darker" => lch.l -= number.unwrap_or(0.05),
        "stronger" => lch.c += number.unwrap_or(0.02),
        "weaker" => lch.c -= number.unwrap_or(0.02),
        "turned" => lch.h += number.unwrap_or(15.0),
        _ => return plain(),
    }
    (lch.l, lch.c) = (lch.l.clamp(0.0, 1.0), lch.c.max(0.0));
    lch.h = lch.h.rem_euclid(360.0);
    Some(lch.to_rgb())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_color_is_typed_by_itself_or_from_what_it_is() {
        let now = Rgb::new(0x60, 0x80, 0xa0);
        assert_eq!(typed("#6080a0", now), Some(now));
        assert_eq!(typed(" 6080A0 ", now), Some(now));
        assert_eq!(typed("teal", now), Some(Rgb::new(0, 128, 128)));
        let was = Oklch::from(now);
        let by = |text: &str| Oklch::from(typed(text, now).unwrap());
        assert!((by("lighter 0.1").l - was.l - 0.1).abs() < 0.01);
        assert!((was.l - by("darker").l - 0.05).abs() < 0.01);
        assert!((was.c - by("weaker 0.03").c - 0.03).abs() < 0.01);
        assert!(by("stronger").c > was.c);
        assert!((by("turned 400").h - (was.h + 40.0).rem_euclid(360.0)).abs() < 2.0);
        assert_eq!(typed("lighter 5", now), Some(Rgb::new(255, 255, 255)));
        for bad in [
            "lighter much",
            "lighter 1 2",
            "lighter NaN",
            "mistier 0.1",
            "",
        ] {
            assert_eq!(typed(bad, now), None, "{bad}");
        }
    }

    #[test]
    fn specs_of_every_width_are_read() {
        let want = Some(Rgb::new(0xab, 0xcd, 0xef));
        for text in [
            "#abcdef",
            "#abcdefabcdef".get(..7).unwrap(),
            "#ab0cd0ef0",
            "#ab00cd00ef00",
            "rgb:ab/cd/ef",
            "rgba:abab/cdcd/efef/1234",
        ] {
            assert_eq!(parse_spec(text), want, "{text}");
        }
        assert_eq!(parse_spec("#abc"), Some(Rgb::new(0xa0, 0xb0, 0xc0)));
        assert_eq!(parse_spec("rgb:a/b/c"), Some(Rgb::new(0xaa, 0xbb, 0xcc)));
        for bad in [
            "",
            "#",
            "#ab",
            "#abcd",
            "rgb:",
            "rgb:1/2",
            "rgb:12345/0/0",
            "rgb:+1/0/0",
            "#é12345",
        ] {
            assert_eq!(parse_spec(bad), None, "{bad}");
        }
    }

    #[test]
    fn css_notations_are_read() {
        for (text, want) in [
            ("#fa8", 0xff_aa88),
            ("rgb(255 170 136)", 0xff_aa88),
            ("hsl(120, 100%, 25%)", 0x00_8000),
            ("oklch(0.62796 0.25768 29.234)", 0xff_0000),
            ("navy", 0x00_0080),
        ] {
            assert_eq!(parse_any(text), Some(Rgb::from_u32(want)), "{text}");
        }
        assert_eq!(parse_any("12px"), None);
    }
}
