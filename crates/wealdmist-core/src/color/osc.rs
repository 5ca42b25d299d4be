//! Operating system commands that set, ask and reset a terminal's colors.
//!
//! `#rrggbb` is written, the one color form every terminal accepts; one sequence per color,
//! since some read only the first pair of a longer one. Replies are read in every form met:
//! 1–4 hex digits per channel, ended by ST, BEL or a bare ESC.

use super::{Rgb, notation::parse_spec};

/// Which color of a terminal is meant.
pub type OscTarget = u16;

/// The numbers of the dynamic colors: foreground, background, cursor, selection ground and text.
pub const DYNAMIC: [OscTarget; 5] = [10, 11, 12, 17, 19];

/// The sequence that sets one color: slots 0–15 by `Ok(index)`, dynamic colors by `Err(number)`.
#[must_use]
pub fn set(target: Result<u8, OscTarget>, color: Rgb) -> String {
    match target {
        Ok(index) => format!("\x1b]4;{index};{color}\x1b\\"),
        Err(number) => format!("\x1b]{number};{color}\x1b\\"),
    }
}

/// The sequence that asks for one color; the reply is read with [`parse_reply`].
#[must_use]
pub fn query(target: Result<u8, OscTarget>) -> String {
    match target {
        Ok(index) => format!("\x1b]4;{index};?\x1b\\"),
        Err(number) => format!("\x1b]{number};?\x1b\\"),
    }
}

/// Everything needed to drop the overrides of the 16 slots and the dynamic colors.
#[must_use]
pub fn reset_all() -> Vec<u8> {
    let mut out = String::new();
    for index in 0..16 {
        out.push_str(&format!("\x1b]104;{index}\x1b\\"));
    }
    for number in DYNAMIC {
        out.push_str(&format!("\x1b]{}\x1b\\", number + 100));
    }
    out.into_bytes()
}

/// Finds the answer to one query in what a terminal sent back.
#[must_use]
pub fn parse_reply(bytes: &[u8], target: Result<u8, OscTarget>) -> Option<Rgb> {
    let head = match target {
        Ok(index) => format!("\x1b]4;{index};"),
        Err(number) => format!("\x1b]{number};"),
    };
    let start = bytes
        .windows(head.len())
        .position(|w| w == head.as_bytes())?
        + head.len();
    let body = &bytes[start..];
    let end = body
        .iter()
        .position(|b| matches!(b, 0x07 | 0x1b))
        .unwrap_or(body.len());
    let text = std::str::from_utf8(&body[..end]).ok()?;
    parse_spec(text).filter(|_| text.starts_with("rgb"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn replies_of_every_kind_are_read() {
        let want = Some(Rgb::new(0x10, 0x20, 0x30));
        for reply in [
            "\x1b]11;rgb:1010/2020/3030\x1b\\",
            "\x1b]11;rgb:10/20/30\x07",
            "noise\x1b]11;rgba:1010/2020/3030/ffff\x1b",
        ] {
            assert_eq!(parse_reply(reply.as_bytes(), Err(11)), want, "{reply:?}");
        }
        assert_eq!(
            parse_reply(b"\x1b]4;3;rgb:f/0/8\x07", Ok(3)),
            Some(Rgb::new(255, 0, 136))
        );
        for bad in [
            "",
            "\x1b]11;",
            "\x1b]11;rgb:zz/00/00\x07",
            "\x1b]11;rgb:10/20\x07",
        ] {
            assert_eq!(parse_reply(bad.as_bytes(), Err(11)), None, "{bad:?}");
        }
    }

    #[test]
    fn every_color_that_can_be_set_is_reset() {
        let reset = String::from_utf8(reset_all()).unwrap();
        for number in DYNAMIC {
            assert!(reset.contains(&format!("\x1b]1{number}\x1b\\")));
        }
        assert_eq!(reset.matches("\x1b]104;").count(), 16);
        assert_eq!(set(Ok(3), Rgb::new(1, 2, 3)), "\x1b]4;3;#010203\x1b\\");
    }
}
