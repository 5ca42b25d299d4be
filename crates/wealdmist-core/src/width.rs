//! How many cells a cluster takes, as those who count see it: terminals by clusters, shells by
//! code points, and a terminal that was measured.

use std::sync::OnceLock;

use unicode_properties::{EmojiStatus, UnicodeEmoji};
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// The cells of a cluster by Unicode's rules for clusters (UAX 11, with emoji presentation).
#[must_use]
pub fn by_cluster(cluster: &str) -> usize {
    cluster.width()
}

/// The cells as shells and libraries count that add up code points.
#[must_use]
pub fn by_code_points(cluster: &str) -> usize {
    cluster
        .chars()
        .map(|c| {
            if c == '\u{fe0f}' || c == '\u{200d}' {
                0
            } else {
                c.width().unwrap_or(0)
            }
        })
        .sum()
}

/// The ranges of characters that take two cells. What is not assigned may lie in them.
#[must_use]
pub fn wide() -> &'static [(char, char)] {
    static WIDE: OnceLock<Vec<(char, char)>> = OnceLock::new();
    WIDE.get_or_init(|| ranges(2, '\u{1100}'))
}

/// The ranges of characters that take no cell and stand in texts: marks above and below others.
#[must_use]
pub fn nothing() -> &'static [(char, char)] {
    static NOTHING: OnceLock<Vec<(char, char)>> = OnceLock::new();
    NOTHING.get_or_init(|| ranges(0, '\u{300}'))
}

/// The characters of a width from one on, in ranges that may hold what is not assigned.
fn ranges(cells: usize, from: char) -> Vec<(char, char)> {
    let mut out: Vec<(char, char)> = Vec::new();
    // Whether the last range may be gone on with.
    let mut open = false;
    for c in from..='\u{3ffff}' {
        if by_code_points(c.encode_utf8(&mut [0; 4])) == cells {
            match out.last_mut().filter(|_| open) {
                Some(last) => last.1 = c,
                None => out.push((c, c)),
            }
            open = true;
        } else {
            open = false;
        }
    }
    // Range ends that cannot be written by themselves are not put into patterns.
    out.retain(|(a, b)| {
        !crate::character::is_treacherous(*a) && !crate::character::is_treacherous(*b)
    });
    out
}

/// Whether some terminals draw a character in one cell and others, set for East Asian text, in
/// two (East Asian Width "ambiguous"). Letters and private-use characters are formally so too,
/// but no terminal treats them so by default and they are left out.
#[must_use]
pub fn is_ambiguous(c: char) -> bool {
    crate::character::is_symbol(c)
        && !crate::character::is_private_use(c)
        && c.width() == Some(1)
        && c.width_cjk() == Some(2)
}

/// Whether a cluster is drawn as a picture two cells wide: by itself, or made so by a selector.
#[must_use]
pub fn is_emoji_presentation(cluster: &str) -> bool {
    let mut characters = cluster.chars();
    let Some(first) = characters.next() else {
        return false;
    };
    match first.emoji_status() {
        EmojiStatus::EmojiPresentation
        | EmojiStatus::EmojiPresentationAndModifierBase
        | EmojiStatus::EmojiPresentationAndEmojiComponent
        | EmojiStatus::EmojiPresentationAndModifierAndEmojiComponent => {
            !cluster.contains('\u{fe0e}')
        }
        _ => cluster.contains('\u{fe0f}') && !first.is_ascii(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn those_who_count_disagree_where_they_are_known_to() {
        let both = |s: &str| (by_cluster(s), by_code_points(s));
        assert_eq!(both("\u{e0b0}"), (1, 1));
        assert_eq!(both("字"), (2, 2));
        assert_eq!(both("❤\u{fe0f}"), (2, 1));
        assert_eq!(both("👨\u{200d}💻"), (2, 4));
        assert!(
            is_ambiguous('→')
                && is_ambiguous('─')
                && !is_ambiguous('\u{e0b0}')
                && !is_ambiguous('é')
        );
        assert!(is_emoji_presentation("⚡") && is_emoji_presentation("❤\u{fe0f}"));
        assert!(
            !is_emoji_presentation("❤")
                && !is_emoji_presentation("⚡\u{fe0e}")
                && !is_emoji_presentation("1")
        );
    }
}
