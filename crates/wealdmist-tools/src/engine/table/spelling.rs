//! How settings files spell colors.

use wealdmist_core::color::Rgb;
use wealdmist_core::quote::Code;

/// `#rrggbb`, and nothing shorter.
#[must_use]
pub fn hash(text: &str) -> Option<Rgb> {
    Rgb::from_hex(text).filter(|_| text.len() == 7)
}

/// `#rrggbb` or `0xrrggbb`.
#[must_use]
pub fn hash_or_0x(text: &str) -> Option<Rgb> {
    match text.strip_prefix("0x").or_else(|| text.strip_prefix("0X")) {
        Some(digits) => hash(&format!("#{digits}")),
        None => hash(text),
    }
}

/// `rrggbb`, perhaps with `0x` before it.
#[must_use]
pub fn bare(text: &str) -> Option<Rgb> {
    hash(&format!("#{}", text.strip_prefix("0x").unwrap_or(text)))
}

/// A color in the spelling of another: with `0x`, without a sign, in capitals.
#[must_use]
pub fn like(color: Rgb, old: Option<&str>) -> Code {
    let old = old.unwrap_or("#");
    let number = u64::from(color.r) << 16 | u64::from(color.g) << 8 | u64::from(color.b);
    let (sign, digits) = match old {
        old if old.starts_with("0x") => ("0x", &old[2..]),
        old if old.starts_with("0X") => ("0X", &old[2..]),
        old if old.starts_with('#') => ("#", &old[1..]),
        old => ("", old),
    };
    let large = digits.chars().any(|c| c.is_ascii_uppercase())
        && !digits.chars().any(|c| c.is_ascii_lowercase())
        && digits.chars().all(|c| c.is_ascii_hexdigit());
    let digits = match large {
        true => Code::hex_capitals(number, 6),
        false => Code::hex(number, 6),
    };
    Code::join([&Code::fixed(sign), &digits], "")
}

/// The same without a sign where nothing stood.
#[must_use]
pub fn like_bare(color: Rgb, old: Option<&str>) -> Code {
    like(color, Some(old.unwrap_or("")))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_color_keeps_the_spelling_it_stands_in() {
        let color = Rgb::from_u32(0x00_aabb);
        let written = |old| like(color, old).lossy();
        assert_eq!(written(None), "#00aabb");
        assert_eq!(written(Some("#ABCDEF")), "#00AABB");
        assert_eq!(written(Some("0xABCDEF")), "0x00AABB");
        assert_eq!(written(Some("0x123456")), "0x00aabb");
        assert_eq!(like_bare(color, None).lossy(), "00aabb");
        for text in ["#00aabb", "0x00AABB"] {
            assert_eq!(hash_or_0x(text), Some(color));
        }
        assert_eq!(hash_or_0x("#abc"), None);
        assert_eq!(bare("00aabb"), Some(color));
        assert_eq!(bare("#00aabb"), None);
    }
}
