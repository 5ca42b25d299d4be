//! Places in text, and text made safe to show.

use std::fmt;
use std::ops::Range;

use unicode_segmentation::UnicodeSegmentation;

/// A place in a file, for people: line and column from 1; columns count characters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Position {
    /// Line, from 1.
    pub line: usize,
    /// Column in characters, from 1. Bytes that are not UTF-8 count as one each.
    pub column: usize,
}

impl fmt::Display for Position {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}:{}", self.line, self.column)
    }
}

/// The position of a byte offset; past the end gives the end.
#[must_use]
pub fn position(bytes: &[u8], offset: usize) -> Position {
    let before = &bytes[..offset.min(bytes.len())];
    let line_start = before
        .iter()
        .rposition(|b| *b == b'\n')
        .map_or(0, |i| i + 1);
    let line = line_number(bytes, offset);
    let column = String::from_utf8_lossy(&before[line_start..])
        .chars()
        .count()
        + 1;
    Position { line, column }
}

/// The line of a byte offset, from 1; past the end gives the last.
#[must_use]
pub fn line_number(bytes: &[u8], offset: usize) -> usize {
    bytes[..offset.min(bytes.len())]
        .iter()
        .filter(|b| **b == b'\n')
        .count()
        + 1
}

/// The bytes of the line that holds an offset, without its end.
#[must_use]
pub fn line_range(bytes: &[u8], offset: usize) -> Range<usize> {
    let offset = offset.min(bytes.len());
    let start = bytes[..offset]
        .iter()
        .rposition(|b| *b == b'\n')
        .map_or(0, |i| i + 1);
    let mut end = bytes[offset..]
        .iter()
        .position(|b| *b == b'\n')
        .map_or(bytes.len(), |i| offset + i);
    if end > start && bytes[end - 1] == b'\r' {
        end -= 1;
    }
    start..end
}

/// The line end a file uses: that of its first line, or a bare newline.
#[must_use]
pub fn line_end(bytes: &[u8]) -> &'static str {
    match bytes.iter().position(|b| *b == b'\n') {
        Some(i) if i > 0 && bytes[i - 1] == b'\r' => "\r\n",
        _ => "\n",
    }
}

/// Text from a file made safe to show: control characters become visible signs, private-use and
/// invisible formatting characters become their code points, bad bytes become U+FFFD.
#[must_use]
pub fn visible(bytes: &[u8]) -> String {
    visible_with(&String::from_utf8_lossy(bytes), false)
}

/// Like [`visible`]; `icons` keeps private-use characters as they are.
#[must_use]
pub fn visible_with(text: &str, icons: bool) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\t' => out.push_str("    "),
            '\u{7f}' => out.push('␡'),
            c if (c as u32) < 0x20 => {
                out.push(char::from_u32(0x2400 + c as u32).unwrap_or('\u{fffd}'));
            }
            c if hidden(c) || (!icons && crate::character::is_private_use(c)) => {
                out.push_str(&format!("<U+{:04X}>", c as u32));
            }
            c => out.push(c),
        }
    }
    out
}

/// Characters that change how others are shown without being seen: C1 controls, directional and
/// zero-width formatting, variation selectors, tags.
fn hidden(c: char) -> bool {
    matches!(c as u32,
        0x80..=0x9f | 0xad | 0x200b..=0x200f | 0x2028..=0x202e | 0x2060..=0x206f
        | 0xfe00..=0xfe0f | 0xfeff | 0xfff0..=0xfffb | 0xe0000..=0xe0fff)
}

/// The candidate closest to `word`, if it is close enough to be meant (at most a third of the
/// letters differ).
#[must_use]
pub fn closest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    /// Longer words are no slip of the finger, and comparing them takes time.
    const LONGEST: usize = 64;
    if word.len() > LONGEST {
        return None;
    }
    candidates
        .into_iter()
        .filter(|c| c.len() <= LONGEST)
        .map(|c| (edit_distance(word, c), c))
        .filter(|(d, c)| *d * 3 <= c.chars().count().max(word.chars().count()))
        .min()
        .map(|(_, c)| c)
}

/// Edit distance in characters; a swap of two neighbours counts as one (optimal string alignment).
fn edit_distance(a: &str, b: &str) -> usize {
    let a: Vec<char> = a.chars().collect();
    let b: Vec<char> = b.chars().collect();
    let mut rows = vec![vec![0usize; b.len() + 1]; a.len() + 1];
    rows[0] = (0..=b.len()).collect();
    for i in 1..=a.len() {
        rows[i][0] = i;
        for j in 1..=b.len() {
            let change = rows[i - 1][j - 1] + usize::from(a[i - 1] != b[j - 1]);
            let mut best = change.min(rows[i - 1][j] + 1).min(rows[i][j - 1] + 1);
            if i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1] {
                best = best.min(rows[i - 2][j - 2] + 1);
            }
            rows[i][j] = best;
        }
    }
    rows[a.len()][b.len()]
}

/// The characters of a text by their code points: `U+1F1E9 U+1F1EA`.
#[must_use]
pub fn code_points(text: &str) -> String {
    let code = |c: char| format!("U+{:04X}", c as u32);
    text.chars().map(code).collect::<Vec<_>>().join(" ")
}

/// What is drawn as one, by its code points, as in `U+1F1E9 U+1F1EA`, or by itself; `None` for any other text.
#[must_use]
pub fn cluster_of(key: &str) -> Option<String> {
    let code = |word: &str| {
        let digits = word
            .strip_prefix("U+")
            .or_else(|| word.strip_prefix("u+"))?;
        char::from_u32(u32::from_str_radix(digits, 16).ok()?)
    };
    let cluster = match key.starts_with("U+") || key.starts_with("u+") {
        true => key
            .split_ascii_whitespace()
            .map(code)
            .collect::<Option<String>>()?,
        false => key.to_owned(),
    };
    let mut graphemes = cluster.graphemes(true);
    let is_one = graphemes.next().is_some() && graphemes.next().is_none();
    is_one.then_some(cluster)
}

/// How many of something there are: `1 family`, `2 families`.
#[must_use]
pub fn counted(count: usize, one: &str) -> String {
    match (count, one.strip_suffix('y')) {
        (1, _) => format!("1 {one}"),
        (_, Some(stem)) => format!("{count} {stem}ies"),
        (_, None) => format!("{count} {one}s"),
    }
}

/// Names as a sentence lists them: "a, b and c".
#[must_use]
pub fn listed(names: &[&str]) -> String {
    match names.split_last() {
        Some((last, [])) => (*last).to_owned(),
        Some((last, others)) => format!("{} and {last}", others.join(", ")),
        None => String::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn what_is_drawn_as_one_has_a_name_of_its_code_points() {
        for (name, cluster) in [
            ("U+F07B", "\u{f07b}"),
            ("u+1f1e9 U+1F1EA", "\u{1f1e9}\u{1f1ea}"),
            ("é", "é"),
        ] {
            assert_eq!(cluster_of(name).as_deref(), Some(cluster));
            assert_eq!(cluster_of(&code_points(cluster)).as_deref(), Some(cluster));
        }
        for none in ["", "ab", "U+", "U+D800", "U+61 U+62", "U+61,U+301"] {
            assert_eq!(cluster_of(none), None, "{none}");
        }
    }

    #[test]
    fn positions_count_characters() {
        let text = "ab\nçd\n".as_bytes();
        assert_eq!(position(text, 0), Position { line: 1, column: 1 });
        assert_eq!(position(text, 5), Position { line: 2, column: 2 });
        assert_eq!(position(text, 999), Position { line: 3, column: 1 });
    }

    #[test]
    fn nothing_a_terminal_would_act_on_gets_through() {
        assert_eq!(visible(b"a\x1b[31mb\x07"), "a␛[31mb␇");
        assert_eq!(visible("x\u{e0b0}\u{202e}".as_bytes()), "x<U+E0B0><U+202E>");
        assert_eq!(visible(b"\xff\x9b"), "\u{fffd}\u{fffd}");
    }

    #[test]
    fn close_names_are_offered_and_far_ones_not() {
        assert_eq!(closest("coment", ["comment", "keyword"]), Some("comment"));
        assert_eq!(closest("nmae", ["font", "name"]), Some("name"));
        assert_eq!(closest("zzz", ["comment", "keyword"]), None);
    }

    proptest! {
        #[test]
        fn shown_text_has_no_controls(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
            prop_assert!(!visible(&bytes).chars().any(char::is_control));
        }

        #[test]
        fn lines_hold_their_offset(bytes in proptest::collection::vec(any::<u8>(), 0..200), at in 0usize..220) {
            let range = line_range(&bytes, at);
            prop_assert!(range.start <= range.end && range.end <= bytes.len());
            prop_assert!(!bytes[range].contains(&b'\n'));
        }
    }
}
