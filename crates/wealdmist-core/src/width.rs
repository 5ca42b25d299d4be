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

/// How a terminal counts the cells of what is drawn as one. Seen in their windows: kitty 0.26; Alacritty 0.11 and 0.17,
/// foot 1.13, xterm 379, urxvt 9.30, VTE 0.70; Konsole 22.12.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Counting {
    /// By Unicode's rules for clusters; taken of those that nobody has measured.
    #[default]
    Clusters,
    /// Code point by code point; selectors and joiners take nothing.
    CodePoints,
    /// The same, but a selector makes the one before it narrow or wide, and a skin tone takes nothing.
    Selectors,
    /// Code point by code point; what is joined to the one before it takes nothing.
    Joined,
}

impl Counting {
    /// The cells that a cluster takes.
    #[must_use]
    pub fn cells(self, cluster: &str) -> usize {
        const JOINER: char = '\u{200d}';
        let is_tone = |c: char| ('\u{1f3fb}'..='\u{1f3ff}').contains(&c);
        let mut sum = 0;
        let mut before: Option<(char, usize)> = None;
        match self {
            Self::Clusters => return by_cluster(cluster),
            Self::CodePoints => return by_code_points(cluster),
            Self::Selectors | Self::Joined => {}
        }
        for c in cluster.chars() {
            let own = by_code_points(c.encode_utf8(&mut [0; 4]));
            let follows = before.is_some();
            let takes = match (self, c, before) {
                (Self::Selectors, '\u{fe0f}', Some((_, 1))) => {
                    sum += 1;
                    0
                }
                (Self::Selectors, '\u{fe0e}', Some((_, 2))) => {
                    sum -= 1;
                    0
                }
                (Self::Joined, _, Some((JOINER, _))) => 0,
                (_, c, _) if follows && is_tone(c) => 0,
                _ => own,
            };
            sum += takes;
            before = Some((c, takes));
        }
        sum
    }
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
    fn terminals_count_as_they_were_seen_to() {
        // Kitty, those that add up code points, Konsole.
        for (cluster, seen) in [
            ("e\u{301}", [1, 1, 1]),
            ("❤\u{fe0f}", [2, 1, 1]),
            ("❤", [1, 1, 1]),
            ("⚡", [2, 2, 2]),
            ("⚡\u{fe0e}", [1, 2, 2]),
            ("⚙\u{fe0f}", [2, 1, 1]),
            ("👨\u{200d}💻", [4, 4, 2]),
            ("👨\u{200d}👩\u{200d}👧", [6, 6, 2]),
            ("🇩🇪", [2, 2, 2]),
            ("1\u{fe0f}\u{20e3}", [2, 1, 1]),
            ("👍🏽", [2, 4, 2]),
            ("字", [2, 2, 2]),
            ("क\u{94d}ष", [2, 2, 2]),
        ] {
            let all = [Counting::Selectors, Counting::CodePoints, Counting::Joined];
            assert_eq!(all.map(|c| c.cells(cluster)), seen, "{cluster}");
        }
        assert_eq!(Counting::Clusters.cells("👨\u{200d}💻"), 2);
    }

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
