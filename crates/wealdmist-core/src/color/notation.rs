//! Notations of colors beyond our own `#rrggbb`: those of X servers and terminals, and CSS.

use super::Rgb;

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
    let color = csscolorparser::parse(text.trim()).ok()?;
    let [r, g, b, _] = color.to_rgba8();
    Some(Rgb::new(r, g, b))
}

#[cfg(test)]
mod tests {
    use super::*;

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
