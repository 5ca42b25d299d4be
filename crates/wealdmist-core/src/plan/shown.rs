//! A plan as it is shown: the lines that change, each change alone, and the whole as a patch.

use std::fmt::Write as _;
use std::ops::Range;
use std::path::Path;

use super::{Change, FileEdit, Plan, Splice};
use crate::limits;
use crate::text;

/// Lines of a file that are shown around a change.
const AROUND: usize = 3;

/// How much of a line is shown, in bytes; of a longer one the part that changes with some bytes around it.
const LONG: usize = 1000;
const OF_LONG: usize = 100;

/// A line of a diff.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LineKind {
    /// Unchanged.
    Context,
    /// Taken away.
    Removed,
    /// Added.
    Added,
}

/// Neighbouring lines of a file that change.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Hunk {
    /// The `@@` line.
    pub header: String,
    /// The lines, safe to show.
    pub lines: Vec<(LineKind, String)>,
}

/// One change of a file as it may be taken or left.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Piece {
    /// What it does, for people.
    pub why: String,
    /// The lines that change by it.
    pub hunks: Vec<Hunk>,
}

impl FileEdit {
    /// Whether comparing it line by line would take too long.
    fn is_too_large(&self, before: &[u8], after: &[u8]) -> bool {
        let length = before.len().max(after.len());
        matches!(self.change, Change::Whole(_)) && length > limits::COMPARED
    }

    /// The change as hunks with three lines of context.
    #[must_use]
    pub fn hunks(&self) -> Vec<Hunk> {
        let before = self.before.as_deref().unwrap_or_default();
        let after = self.after();
        if self.is_too_large(before, &after) {
            return vec![whole_hunk(before, &after)];
        }
        let patch = diffy::create_patch_bytes(before, &after);
        let of = |hunk: &diffy::Hunk<'_, [u8]>| Hunk {
            header: format!("@@ -{} +{} @@", hunk.old_range(), hunk.new_range()),
            lines: hunk
                .lines()
                .iter()
                .map(|line| match line {
                    diffy::Line::Context(t) => (LineKind::Context, shown(t)),
                    diffy::Line::Delete(t) => (LineKind::Removed, shown(t)),
                    diffy::Line::Insert(t) => (LineKind::Added, shown(t)),
                })
                .collect(),
        };
        patch.hunks().iter().map(of).collect()
    }

    /// Each change alone, in their order.
    #[must_use]
    pub fn pieces(&self) -> Vec<Piece> {
        let before = self.before.as_deref().unwrap_or_default();
        let splices = match &self.change {
            Change::Splices(splices) => splices,
            Change::Whole(_) => {
                let why = "written whole: the file is ours".to_owned();
                let hunks = self.hunks();
                return vec![Piece { why, hunks }];
            }
        };
        let ends = memchr::memchr_iter(b'\n', before).map(|i| i + 1);
        let starts: Vec<usize> = std::iter::once(0).chain(ends).collect();
        let of = |splice: &Splice| Piece {
            why: splice.why.clone(),
            hunks: vec![alone(before, &starts, splice)],
        };
        splices.iter().map(of).collect()
    }
}

/// The lines that one replacement changes, with those around it as they are now. `starts` are where the lines
/// begin.
fn alone(before: &[u8], starts: &[usize], splice: &Splice) -> Hunk {
    let lines = |bytes: &[u8]| {
        bytes
            .split_inclusive(|b| *b == b'\n')
            .map(|line| shown(&line[..line.len().min(LONG)]))
            .collect::<Vec<_>>()
    };
    let number = |at: usize| starts.partition_point(|s| *s <= at) - 1;
    let begin = |line: usize| starts.get(line).copied().unwrap_or(before.len());
    let range = splice.range.start.min(before.len())..splice.range.end.min(before.len());
    let first = number(range.start);
    let mut last = number(range.end.max(range.start + 1) - 1).max(first) + 1;
    let start = begin(first);
    if begin(last) - start > LONG {
        return part_of_line(before, start..begin(last), first + 1, splice);
    }
    let mut new = before[start..range.start].to_vec();
    new.extend_from_slice(&splice.with);
    new.extend_from_slice(&before[range.end..begin(last)]);
    // Where a line end goes, the next line comes up.
    if !new.is_empty() && !new.ends_with(b"\n") && last < starts.len() {
        new.extend_from_slice(&before[begin(last)..begin(last + 1)]);
        last += 1;
    }
    let end = begin(last);
    let (old, new) = (lines(&before[start..end]), lines(&new));
    let same = old.iter().zip(&new).take_while(|(a, b)| a == b).count();
    let more = old[same..].iter().rev().zip(new[same..].iter().rev());
    let after = more.take_while(|(a, b)| a == b).count();
    let (from, to) = (first + same, last - after);
    let above = from.saturating_sub(AROUND);
    let context = |from: usize, to: usize| {
        let bytes = &before[begin(from)..begin(to.min(starts.len()))];
        lines(bytes).into_iter().map(|l| (LineKind::Context, l))
    };
    let mut out: Vec<_> = context(above, from).collect();
    let cut = |all: &[String]| all[same..all.len() - after].to_vec();
    out.extend(cut(&old).into_iter().map(|l| (LineKind::Removed, l)));
    out.extend(cut(&new).into_iter().map(|l| (LineKind::Added, l)));
    out.extend(context(to.max(from), to.max(from) + AROUND));
    let count = |not: LineKind| out.iter().filter(|l| l.0 != not).count();
    let (old, new) = (count(LineKind::Added), count(LineKind::Removed));
    let at = |lines: usize| if lines == 0 { above } else { above + 1 };
    let header = format!("@@ -{},{old} +{},{new} @@", at(old), at(new));
    Hunk { header, lines: out }
}

/// A change in a long line: the part around it.
fn part_of_line(before: &[u8], line: Range<usize>, number: usize, splice: &Splice) -> Hunk {
    let range = &splice.range;
    let a = range.start.saturating_sub(OF_LONG).max(line.start);
    let b = (range.end + OF_LONG).min(line.end);
    let (head, tail) = (&before[a..range.start], &before[range.end..b]);
    let text = |middle: &[u8]| {
        let middle = &middle[..middle.len().min(LONG)];
        let text = shown(&[head, middle, tail].concat()).replace('\n', " ");
        let dots = |is: bool| if is { "…" } else { "" };
        format!("{}{text}{}", dots(a > line.start), dots(b < line.end))
    };
    Hunk {
        header: format!("@@ -{number} +{number} @@"),
        lines: vec![
            (LineKind::Removed, text(&before[range.clone()])),
            (LineKind::Added, text(&splice.with)),
        ],
    }
}

/// A file written anew as one hunk that shows how it begins.
fn whole_hunk(before: &[u8], after: &[u8]) -> Hunk {
    /// How many lines of each are shown.
    const SHOWN: usize = 20;
    let count = |bytes: &[u8]| bytes.split_inclusive(|b| *b == b'\n').count();
    let lines = |kind, bytes: &[u8]| {
        let lines = bytes.split_inclusive(|b| *b == b'\n').take(SHOWN);
        let cut = |line: &[u8]| shown(&line[..line.len().min(1000)]);
        lines.map(|l| (kind, cut(l))).collect::<Vec<_>>()
    };
    Hunk {
        header: format!("@@ -1,{} +1,{} @@", count(before), count(after)),
        lines: [
            lines(LineKind::Removed, before),
            lines(LineKind::Added, after),
        ]
        .concat(),
    }
}

/// A file's name in a patch; quoted as in C where it has signs that would end it.
fn patch_name(side: &str, path: &Path) -> Vec<u8> {
    let mut name = side.as_bytes().to_vec();
    name.extend_from_slice(path.as_os_str().as_encoded_bytes());
    if !name
        .iter()
        .any(|b| b.is_ascii_control() || matches!(b, b'"' | b'\\'))
    {
        if name.contains(&b' ') {
            // What follows a tab is no part of the name.
            name.push(b'\t');
        }
        return name;
    }
    let mut out = vec![b'"'];
    for byte in name {
        match byte {
            b'"' | b'\\' => out.extend([b'\\', byte]),
            b if b.is_ascii_control() => out.extend(format!("\\{b:03o}").bytes()),
            b => out.push(b),
        }
    }
    out.push(b'"');
    out
}

/// A hunk that takes all lines away and adds all.
fn replacing(before: &[u8], after: &[u8], out: &mut Vec<u8>) {
    let lines = |bytes: &[u8]| bytes.split_inclusive(|b| *b == b'\n').count();
    let from = |count: usize| usize::from(count > 0);
    let (old, new) = (lines(before), lines(after));
    let header = format!("@@ -{},{old} +{},{new} @@\n", from(old), from(new));
    out.extend_from_slice(header.as_bytes());
    for (sign, bytes) in [(b'-', before), (b'+', after)] {
        for line in bytes.split_inclusive(|b| *b == b'\n') {
            patch_line(sign, line, out);
        }
    }
}

fn patch_line(sign: u8, line: &[u8], out: &mut Vec<u8>) {
    out.push(sign);
    out.extend_from_slice(line);
    if !line.ends_with(b"\n") {
        out.extend_from_slice(b"\n\\ No newline at end of file\n");
    }
}

fn shown(line: &[u8]) -> String {
    let line = line.strip_suffix(b"\n").unwrap_or(line);
    let line = line.strip_suffix(b"\r").unwrap_or(line);
    text::visible(line)
}

impl Plan {
    /// The whole plan as `patch -p1` and `git apply` take it in the home folder: what they make of the
    /// files is what applying makes of them, byte by byte. A file outside stands with its whole path.
    #[must_use]
    pub fn patch(&self, home: &Path) -> Vec<u8> {
        let mut out = Vec::new();
        for edit in &self.edits {
            let name = |side: &str| match edit.target.strip_prefix(home) {
                Ok(rest) => patch_name(side, rest),
                Err(_) => patch_name("", &edit.target),
            };
            let old = match &edit.before {
                Some(_) => name("a/"),
                None => b"/dev/null".to_vec(),
            };
            for (sign, name) in [(&b"---"[..], old), (b"+++", name("b/"))] {
                out.extend_from_slice(sign);
                out.push(b' ');
                out.extend_from_slice(&name);
                out.push(b'\n');
            }
            let (before, after) = (edit.before.as_deref().unwrap_or_default(), edit.after());
            if edit.is_too_large(before, &after) {
                replacing(before, &after, &mut out);
                continue;
            }
            for hunk in diffy::create_patch_bytes(before, &after).hunks() {
                let header = format!("@@ -{} +{} @@\n", hunk.old_range(), hunk.new_range());
                out.extend_from_slice(header.as_bytes());
                for line in hunk.lines() {
                    let (sign, line) = match line {
                        diffy::Line::Context(line) => (b' ', line),
                        diffy::Line::Delete(line) => (b'-', line),
                        diffy::Line::Insert(line) => (b'+', line),
                    };
                    patch_line(sign, line, &mut out);
                }
            }
        }
        out
    }

    /// The whole plan as a unified diff. Control characters are made visible, so the text is for
    /// reading, not for a patch program.
    #[must_use]
    pub fn unified(&self) -> String {
        let mut out = String::new();
        for edit in &self.edits {
            let name = text::visible(edit.path.to_string_lossy().as_bytes());
            let old = if edit.before.is_some() {
                name.as_str()
            } else {
                "/dev/null"
            };
            let _ = writeln!(out, "--- {old}\n+++ {name}");
            for hunk in edit.hunks() {
                let _ = writeln!(out, "{}", hunk.header);
                for (kind, line) in &hunk.lines {
                    let sign = match kind {
                        LineKind::Context => ' ',
                        LineKind::Removed => '-',
                        LineKind::Added => '+',
                    };
                    let _ = writeln!(out, "{sign}{line}");
                }
            }
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quote::Code;
    use crate::reading::ToolId;
    use proptest::prelude::*;

    fn edit(before: &[u8], splices: Vec<(usize, usize, String)>) -> FileEdit {
        let of = |(start, end, with): (usize, usize, String)| Splice {
            range: start..end,
            with: Code::kept(with.as_bytes()),
            why: with,
            role: None,
            needs: None,
        };
        FileEdit {
            tool: ToolId("t"),
            also: Vec::new(),
            path: "f".into(),
            target: "f".into(),
            before: Some(before.into()),
            change: Change::Splices(splices.into_iter().map(of).collect()),
        }
    }

    #[test]
    fn of_a_long_line_the_part_that_changes_is_shown() {
        let before = format!("a\n{}RED{}\nb\n", "x".repeat(5000), "y".repeat(5000));
        let at = before.find("RED").unwrap();
        let edit = edit(before.as_bytes(), vec![(at, at + 3, "BLUE".to_owned())]);
        let hunk = &edit.pieces()[0].hunks[0];
        assert_eq!(hunk.header, "@@ -2 +2 @@");
        assert!(hunk.lines[1].1.contains("xxBLUEyy") && hunk.lines[1].1.len() < 300);
    }

    /// What a hunk makes of a file's lines.
    fn made(before: &str, hunk: &Hunk) -> String {
        let lines: Vec<&str> = before.split_inclusive('\n').collect();
        let number = |part: &str| {
            part[1..]
                .split(',')
                .map(|n| n.parse::<usize>().unwrap())
                .collect::<Vec<_>>()
        };
        let parts: Vec<&str> = hunk.header.split(' ').collect();
        let old = number(parts[1]);
        let first = if old[1] == 0 { old[0] } else { old[0] - 1 };
        let now = hunk
            .lines
            .iter()
            .filter(|l| l.0 != LineKind::Added)
            .map(|l| l.1.clone());
        let there = lines[first..first + old[1]]
            .iter()
            .map(|l| l.trim_end_matches('\n').to_owned());
        assert!(now.eq(there), "{hunk:?}");
        let new = hunk.lines.iter().filter(|l| l.0 != LineKind::Removed);
        let rest = |part: &[&str]| {
            part.iter()
                .map(|l| l.trim_end_matches('\n').to_owned())
                .collect::<Vec<_>>()
        };
        let mut all = rest(&lines[..first]);
        all.extend(new.map(|l| l.1.clone()));
        all.extend(rest(&lines[first + old[1]..]));
        all.join("\n")
    }

    #[test]
    fn a_patch_names_files_as_patch_programs_read_them() {
        let named = |path: &str| {
            let mut edit = edit(b"a\r\nb", vec![(0, 1, "\tx".to_owned())]);
            edit.target = path.into();
            let patch = Plan::from(vec![edit]).patch(Path::new("/h"));
            String::from_utf8(patch).unwrap()
        };
        assert_eq!(
            named("/h/c d"),
            "--- a/c d\t\n+++ b/c d\t\n@@ -1,2 +1,2 @@\n-a\r\n+\tx\r\n b\n\\ No newline at end of file\n"
        );
        assert!(named("/h/\u{1b}\"").starts_with("--- \"a/\\033\\\"\"\n"));
        assert!(named("/etc/x").starts_with("--- /etc/x\n+++ /etc/x\n"));
        let mut out = Vec::new();
        replacing(b"a\nb", b"c\n", &mut out);
        assert_eq!(
            String::from_utf8(out).unwrap(),
            "@@ -1,2 +1,1 @@\n-a\n-b\n\\ No newline at end of file\n+c\n"
        );
    }

    proptest! {
        #[test]
        fn a_change_alone_is_shown_as_it_is_made(
            before in "([ab]{0,3}\n){0,9}[ab]{0,2}",
            start in 0usize..40, len in 0usize..9, with in "[abc\n]{0,6}",
        ) {
            let start = start.min(before.len());
            let end = (start + len).min(before.len());
            let edit = edit(before.as_bytes(), vec![(start, end, with)]);
            let piece = edit.pieces().remove(0);
            let after = String::from_utf8(edit.after()).unwrap();
            let after: Vec<_> = after.split_inclusive('\n').map(|l| l.trim_end_matches('\n')).collect();
            prop_assert_eq!(made(&before, &piece.hunks[0]), after.join("\n"));
        }
    }
}
