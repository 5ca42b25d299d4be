//! Taking a change back in a file that somebody has edited since: both are lists of replaced lines,
//! and they can stand together unless they replace the same ones.

use std::ops::Range;

/// Lines of the base that are replaced, and by what.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Edit {
    lines: Range<usize>,
    by: Vec<u8>,
}

/// The edits that make `to` of `from`.
fn edits(from: &[u8], to: &[u8]) -> Vec<Edit> {
    let mut options = diffy::DiffOptions::new();
    options.set_context_len(usize::MAX >> 1);
    let patch = options.create_patch_bytes(from, to);
    let mut out: Vec<Edit> = Vec::new();
    let mut line = 0;
    let mut open = false;
    for entry in patch.hunks().iter().flat_map(diffy::Hunk::lines) {
        if matches!(entry, diffy::Line::Context(_)) {
            line += 1;
            open = false;
            continue;
        }
        if !open {
            let lines = line..line;
            out.push(Edit {
                lines,
                by: Vec::new(),
            });
            open = true;
        }
        if let Some(edit) = out.last_mut() {
            match entry {
                diffy::Line::Delete(_) => {
                    line += 1;
                    edit.lines.end = line;
                }
                diffy::Line::Insert(text) => edit.by.extend_from_slice(text),
                diffy::Line::Context(_) => {}
            }
        }
    }
    out
}

/// What comes of two changes of one base. Changes side by side, and two insertions at one place,
/// stand together. Where both replace the same line otherwise, the line of `mine`, from 1.
///
/// # Errors
/// The line where they cannot stand together.
pub fn merged(base: &[u8], mine: &[u8], other: &[u8]) -> Result<Vec<u8>, usize> {
    let lines: Vec<&[u8]> = base.split_inclusive(|b| *b == b'\n').collect();
    let (a, b) = (edits(base, mine), edits(base, other));
    let (mut i, mut j) = (0, 0);
    let mut out = Vec::with_capacity(mine.len().max(other.len()));
    let (mut at, mut mine_line) = (0, 1);
    while i < a.len() || j < b.len() {
        if let (Some(x), Some(y)) = (a.get(i), b.get(j)) {
            if x == y {
                j += 1;
                continue;
            }
            if x.lines.start.max(y.lines.start) < x.lines.end.min(y.lines.end)
                || inside(&x.lines, &y.lines)
                || inside(&y.lines, &x.lines)
            {
                let skipped = x.lines.start.saturating_sub(at);
                return Err(mine_line + skipped);
            }
        }
        // What begins first comes first; of two at one place, what replaces nothing, then the
        // other's, so that mine stays where it was put.
        let key = |e: &Edit, own: bool| (e.lines.start, e.lines.end, own);
        let first = match (a.get(i), b.get(j)) {
            (Some(x), Some(y)) => key(x, true) < key(y, false),
            (Some(_), None) => true,
            _ => false,
        };
        let edit = if first { &a[i] } else { &b[j] };
        for line in &lines[at.min(edit.lines.start)..edit.lines.start] {
            out.extend_from_slice(line);
            mine_line += 1;
        }
        out.extend_from_slice(&edit.by);
        at = at.max(edit.lines.end);
        if first {
            mine_line += edit.by.iter().filter(|b| **b == b'\n').count();
            i += 1;
        } else {
            mine_line += edit.lines.len();
            j += 1;
        }
    }
    for line in &lines[at.min(lines.len())..] {
        out.extend_from_slice(line);
    }
    Ok(out)
}

/// Whether an insertion stands in the midst of replaced lines.
fn inside(insertion: &Range<usize>, lines: &Range<usize>) -> bool {
    insertion.is_empty() && lines.start < insertion.start && insertion.start < lines.end
}

#[cfg(test)]
mod tests {
    use super::*;

    fn merge(base: &str, mine: &str, other: &str) -> Result<String, usize> {
        merged(base.as_bytes(), mine.as_bytes(), other.as_bytes())
            .map(|b| String::from_utf8(b).unwrap())
    }

    #[test]
    fn edits_side_by_side_stand_together() {
        // A line appended by us is taken back where a person has appended another behind it.
        assert_eq!(
            merge("a\nours\n", "a\nours\nmine\n", "a\n").unwrap(),
            "a\nmine\n"
        );
        assert_eq!(
            merge("a\nours\n", "a\nmine\nours\n", "a\n").unwrap(),
            "a\nmine\n"
        );
        assert_eq!(
            merge("a\nb\nc\n", "x\na\nb\nc\n", "a\nb\nC\n").unwrap(),
            "x\na\nb\nC\n"
        );
        assert_eq!(merge("a\nb\n", "A\nb\n", "a\nB\n").unwrap(), "A\nB\n");
        assert_eq!(merge("a\n", "a\nm\n", "a\no\n").unwrap(), "a\no\nm\n");
        assert_eq!(merge("a\nb", "a\nb", "a\n").unwrap(), "a\n");
        assert_eq!(merge("", "m\n", "").unwrap(), "m\n");
        assert_eq!(merge("a\nb\nc\n", "c\n", "a\nb\nc\n").unwrap(), "c\n");
    }

    #[test]
    fn the_same_lines_changed_twice_are_told() {
        assert_eq!(merge("a\nb\nc\n", "a\nmine\nc\n", "a\nother\nc\n"), Err(2));
        assert_eq!(
            merge("a\nb\nc\n", "new\na\nmine\nc\n", "a\nother\nc\n"),
            Err(3)
        );
        assert_eq!(
            merge("a\nb\nc\n", "a\nsame\nc\n", "a\nsame\nc\n").unwrap(),
            "a\nsame\nc\n"
        );
        assert_eq!(merge("a\nb\nc\nd\n", "a\nb\nmid\nc\nd\n", "a\nd\n"), Err(3));
    }

    proptest::proptest! {
        #[test]
        fn one_sided_changes_are_taken_whole(base in "([ab]\n){0,6}", mine in "([abc]\n){0,6}") {
            proptest::prop_assert_eq!(merge(&base, &mine, &base), Ok(mine.clone()));
            proptest::prop_assert_eq!(merge(&base, &base, &mine), Ok(mine));
        }
    }
}
