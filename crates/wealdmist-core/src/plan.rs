//! The plan: the exact edits, file by file, that would bring the tools to the setup.
//!
//! An edit of a person's file is a list of splices; nothing outside them changes. A file of our
//! own is written whole. Hunks are what a person sees and may leave out.

use std::collections::BTreeSet;
use std::fmt::Write as _;
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use crate::limits;
use crate::quote::Code;
use crate::reading::{Place, ToolId};
use crate::role::RoleId;
use crate::text;

/// One replacement of bytes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Splice {
    /// The bytes replaced; empty for an insertion.
    pub range: Range<usize>,
    /// What stands there afterwards.
    pub with: Code,
    /// What it does, for people.
    pub why: String,
    /// The role it is about.
    pub role: Option<RoleId>,
    /// A generated file this only makes sense with.
    pub needs: Option<PathBuf>,
}

/// What happens to one file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Change {
    /// Some bytes of an existing file are replaced. Sorted, without overlaps.
    Splices(Vec<Splice>),
    /// The whole file is ours and written anew.
    Whole(Code),
}

/// The edit of one file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileEdit {
    /// The tool it belongs to.
    pub tool: ToolId,
    /// Other tools that share the file and change something in it.
    pub also: Vec<ToolId>,
    /// The path by which the tool finds it.
    pub path: PathBuf,
    /// The file itself, links followed.
    pub target: PathBuf,
    /// Its bytes now; `None` if it does not exist yet.
    pub before: Option<Arc<[u8]>>,
    /// What happens to it.
    pub change: Change,
}

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

/// A part of a file's change that can be left out.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Hunk {
    /// The `@@` line.
    pub header: String,
    /// The lines, safe to show.
    pub lines: Vec<(LineKind, String)>,
    /// What it does, for people.
    pub why: Vec<String>,
    /// The splices behind it; empty for a file written whole.
    pub splices: Vec<usize>,
}

/// A plan: edits of files, no file twice.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Plan {
    /// The edits.
    pub edits: Vec<FileEdit>,
    /// What the setup wants and cannot be written safely where it would have to stand.
    pub left: Vec<Left>,
}

/// A place that is left as it is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Left {
    /// The tool it belongs to.
    pub tool: ToolId,
    /// Where it stands.
    pub place: Place,
    /// What would have to be written there, safe to show.
    pub what: String,
    /// Why it is not.
    pub why: &'static str,
}

/// A hunk by its position: which edit, which hunk of it.
pub type HunkId = (usize, usize);

/// Replaces byte ranges. Splices are sorted first; those that overlap an earlier one are dropped,
/// which adapters avoid but damaged input must not turn into damage.
#[must_use]
pub fn splice(bytes: &[u8], splices: &[Splice]) -> Vec<u8> {
    let mut ordered: Vec<&Splice> = splices.iter().collect();
    ordered.sort_by_key(|s| (s.range.start, s.range.end));
    let mut out = Vec::with_capacity(bytes.len() + 64);
    let mut at = 0;
    for s in ordered {
        if s.range.start < at || s.range.end > bytes.len() || s.range.start > s.range.end {
            continue;
        }
        out.extend_from_slice(&bytes[at..s.range.start]);
        out.extend_from_slice(&s.with);
        at = s.range.end;
    }
    out.extend_from_slice(&bytes[at..]);
    out
}

impl FileEdit {
    /// Takes in what another tool changes in the same file; what cannot stand beside what is there
    /// comes back.
    fn share(&mut self, other: Self) -> Vec<Left> {
        let leave = |start: usize, what: String| Left {
            tool: other.tool,
            place: Place {
                path: other.path.as_path().into(),
                span: start..start,
                at: text::position(other.before.as_deref().unwrap_or_default(), start),
            },
            what,
            why: "another tool that shares the file wants something else there",
        };
        let mut left = Vec::new();
        match (&mut self.change, other.change) {
            (Change::Splices(splices), Change::Splices(more)) => {
                let own = splices.len();
                for new in more {
                    let same = |s: &Splice| s.range == new.range && s.with == new.with;
                    let meets = |s: &Splice| {
                        let inside = s.range.start < new.range.end && new.range.start < s.range.end;
                        inside || (s.range == new.range && !s.range.is_empty())
                    };
                    if splices[..own].iter().any(same) {
                    } else if splices[..own].iter().any(meets) {
                        left.push(leave(new.range.start, new.why));
                    } else {
                        splices.push(new);
                    }
                }
                splices.sort_by_key(|s| s.range.start);
            }
            (there, change) if *there == change => {}
            _ => left.push(leave(0, "all of it".to_owned())),
        }
        if self.tool != other.tool && !self.also.contains(&other.tool) {
            self.also.push(other.tool);
        }
        left
    }

    /// The file's bytes afterwards.
    #[must_use]
    pub fn after(&self) -> Vec<u8> {
        match &self.change {
            Change::Whole(code) => code.to_vec(),
            Change::Splices(splices) => splice(self.before.as_deref().unwrap_or_default(), splices),
        }
    }

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
        let starts: Vec<usize> = match &self.change {
            Change::Splices(s) => s
                .iter()
                .map(|s| text::line_number(before, s.range.start))
                .collect(),
            Change::Whole(_) => Vec::new(),
        };
        let hunks: Vec<_> = patch.hunks().to_vec();
        hunks
            .iter()
            .enumerate()
            .map(|(n, hunk)| {
                let old = hunk.old_range();
                // Splices belong to the last hunk that begins at or before them.
                let next = hunks
                    .get(n + 1)
                    .map_or(usize::MAX, |h| h.old_range().start());
                let first = if n == 0 { 0 } else { old.start() };
                let splices: Vec<usize> = starts
                    .iter()
                    .enumerate()
                    .filter(|(_, line)| (first..next).contains(line))
                    .map(|(i, _)| i)
                    .collect();
                let why = match &self.change {
                    Change::Splices(all) => splices.iter().map(|i| all[*i].why.clone()).collect(),
                    Change::Whole(_) => vec!["written whole: the file is ours".to_owned()],
                };
                let lines = hunk
                    .lines()
                    .iter()
                    .map(|line| match line {
                        diffy::Line::Context(t) => (LineKind::Context, shown(t)),
                        diffy::Line::Delete(t) => (LineKind::Removed, shown(t)),
                        diffy::Line::Insert(t) => (LineKind::Added, shown(t)),
                    })
                    .collect();
                let header = format!("@@ -{} +{} @@", old, hunk.new_range());
                Hunk {
                    header,
                    lines,
                    why,
                    splices,
                }
            })
            .collect()
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
        why: vec![
            "written whole: the file is ours; what is there is too large to compare".to_owned(),
        ],
        splices: Vec::new(),
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

impl From<Vec<FileEdit>> for Plan {
    fn from(edits: Vec<FileEdit>) -> Self {
        Self {
            edits,
            left: Vec::new(),
        }
    }
}

impl Plan {
    /// Whether there is nothing to do.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.edits.is_empty()
    }

    /// One edit for each file, where several tools share it. What two of them would write at the same
    /// place, and do not agree upon, is left alone.
    #[must_use]
    pub fn one_edit_per_file(mut self) -> Self {
        let mut edits: Vec<FileEdit> = Vec::new();
        for edit in self.edits {
            match edits.iter_mut().find(|e| e.target == edit.target) {
                Some(there) => self.left.extend(there.share(edit)),
                None => edits.push(edit),
            }
        }
        Self {
            edits,
            left: self.left,
        }
    }

    /// How many single changes the plan makes.
    #[must_use]
    pub fn change_count(&self) -> usize {
        let count = |e: &FileEdit| match &e.change {
            Change::Splices(s) => s.len(),
            Change::Whole(_) => 1,
        };
        self.edits.iter().map(count).sum()
    }

    /// The plan without the edits of some files, which are left as they are for a reason. What only
    /// makes sense together with them is left out too.
    #[must_use]
    pub fn leaving(mut self, why: &'static str, leave: impl Fn(&FileEdit) -> bool) -> Self {
        let (out, mut edits): (Vec<_>, Vec<_>) = self.edits.into_iter().partition(leave);
        for edit in &mut edits {
            if let Change::Splices(splices) = &mut edit.change {
                let goes = |path: &PathBuf| out.iter().any(|e| e.path == *path);
                splices.retain(|s| !s.needs.as_ref().is_some_and(goes));
            }
        }
        edits.retain(|e| !matches!(&e.change, Change::Splices(s) if s.is_empty()));
        for edit in out {
            let (count, start) = match &edit.change {
                Change::Splices(s) => (s.len(), s.first().map_or(0, |s| s.range.start)),
                Change::Whole(_) => (1, 0),
            };
            let at = text::position(edit.before.as_deref().unwrap_or_default(), start);
            self.left.push(Left {
                tool: edit.tool,
                place: Place {
                    path: edit.path.as_path().into(),
                    span: start..start,
                    at,
                },
                what: match count {
                    1 => "1 change".to_owned(),
                    n => format!("{n} changes"),
                },
                why,
            });
        }
        Self {
            edits,
            left: self.left,
        }
    }

    /// The plan without some hunks. What only makes sense together with a left-out generated
    /// file is left out too; edits that change nothing any more disappear.
    #[must_use]
    pub fn without(&self, left_out: &BTreeSet<HunkId>) -> Self {
        if left_out.is_empty() {
            return self.clone();
        }
        let mut gone = BTreeSet::new();
        let mut edits = Vec::new();
        for (e, edit) in self.edits.iter().enumerate() {
            let mut edit = edit.clone();
            match &mut edit.change {
                Change::Whole(_) => {
                    if left_out.iter().any(|(file, _)| *file == e) {
                        gone.insert(edit.path.clone());
                        continue;
                    }
                }
                Change::Splices(splices) => {
                    let dropped: BTreeSet<usize> = self.edits[e]
                        .hunks()
                        .iter()
                        .enumerate()
                        .filter(|(h, _)| left_out.contains(&(e, *h)))
                        .flat_map(|(_, hunk)| hunk.splices.clone())
                        .collect();
                    let mut i = 0;
                    splices.retain(|_| {
                        i += 1;
                        !dropped.contains(&(i - 1))
                    });
                }
            }
            edits.push(edit);
        }
        for edit in &mut edits {
            if let Change::Splices(splices) = &mut edit.change {
                splices.retain(|s| s.needs.as_ref().is_none_or(|n| !gone.contains(n)));
            }
        }
        edits.retain(|e| !matches!(&e.change, Change::Splices(s) if s.is_empty()));
        let left = self.left.clone();
        Self { edits, left }
    }

    /// What of the plan another one did not have: what follows from a change that lies between the two.
    #[must_use]
    pub fn beyond(&self, before: &Self) -> Self {
        let mut edits = Vec::new();
        for edit in &self.edits {
            let same = before.edits.iter().find(|b| b.path == edit.path);
            let mut edit = edit.clone();
            match (&mut edit.change, same.map(|s| &s.change)) {
                (Change::Whole(now), Some(Change::Whole(then))) if now == then => continue,
                (Change::Splices(now), Some(Change::Splices(then))) => {
                    now.retain(|s| !then.iter().any(|t| t.range == s.range && t.with == s.with));
                    if now.is_empty() {
                        continue;
                    }
                }
                _ => {}
            }
            edits.push(edit);
        }
        let left = self.left.iter().filter(|l| !before.left.contains(l));
        let left = left.cloned().collect();
        Self { edits, left }
    }

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
    use proptest::prelude::*;

    fn one(range: Range<usize>, with: &str) -> Splice {
        Splice {
            range,
            with: Code::kept(with.as_bytes()),
            why: with.to_owned(),
            role: None,
            needs: None,
        }
    }

    fn edit(before: &str, splices: Vec<Splice>) -> FileEdit {
        FileEdit {
            tool: ToolId("t"),
            also: Vec::new(),
            path: "f".into(),
            target: "f".into(),
            before: Some(before.as_bytes().into()),
            change: Change::Splices(splices),
        }
    }

    #[test]
    fn what_follows_from_one_change_is_what_the_plan_had_not_before() {
        let plan = |splices| Plan::from(vec![edit("abcdef", splices)]);
        let before = plan(vec![one(0..1, "x"), one(2..3, "y")]);
        let now = plan(vec![one(0..1, "x"), one(2..3, "z"), one(4..5, "w")]);
        let more = now.beyond(&before);
        assert_eq!(more.edits[0].after(), b"abzdwf");
        assert!(before.beyond(&before).is_empty());
        assert_eq!(now.beyond(&Plan::default()), now);
    }

    #[test]
    fn a_patch_names_files_as_patch_programs_read_them() {
        let named = |path: &str| {
            let mut edit = edit("a\r\nb", vec![one(0..1, "\tx")]);
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

    #[test]
    fn a_hunk_can_be_left_out() {
        let before: String = (0..30).map(|i| format!("line {i}\n")).collect();
        let at = |n: usize| before.find(&format!("line {n}\n")).unwrap();
        let plan = Plan {
            left: Vec::new(),
            edits: vec![edit(
                &before,
                vec![one(at(2)..at(2) + 4, "LINE"), one(at(25)..at(25), "new\n")],
            )],
        };
        let hunks = plan.edits[0].hunks();
        assert_eq!(hunks.len(), 2);
        assert_eq!(hunks[1].why, ["new\n"]);
        assert!(plan.unified().contains("-line 2\n+LINE 2\n"));
        let rest = plan.without(&BTreeSet::from([(0, 0)]));
        let after = String::from_utf8(rest.edits[0].after()).unwrap();
        assert_eq!(after, before.replace("line 25\n", "new\nline 25\n"));
        assert!(plan.without(&BTreeSet::from([(0, 0), (0, 1)])).is_empty());
    }

    #[test]
    fn tools_that_share_a_file_make_one_edit_of_it() {
        let before = "a b c\n";
        let other = |splices| FileEdit {
            tool: ToolId("u"),
            path: "link".into(),
            ..edit(before, splices)
        };
        let plan = Plan::from(vec![
            edit(
                before,
                vec![one(0..1, "A"), one(2..3, "B"), one(6..6, "x\n")],
            ),
            other(vec![
                one(0..1, "A"),
                one(2..3, "Z"),
                one(4..5, "C"),
                one(6..6, "y\n"),
            ]),
        ])
        .one_edit_per_file();
        assert_eq!(plan.edits.len(), 1);
        assert_eq!(plan.edits[0].also, [ToolId("u")]);
        assert_eq!(plan.edits[0].after(), b"A B C\nx\ny\n");
        assert_eq!(plan.left.len(), 1);
        assert_eq!(
            (plan.left[0].what.as_str(), plan.left[0].place.at.column),
            ("Z", 3)
        );
    }

    #[test]
    fn what_needs_a_left_out_file_goes_with_it() {
        let mut line = one(0..0, "load\n");
        line.needs = Some("theme".into());
        let theme = FileEdit {
            path: "theme".into(),
            before: None,
            change: Change::Whole(Code::fixed("x\n")),
            ..edit("", Vec::new())
        };
        let plan = Plan {
            left: Vec::new(),
            edits: vec![edit("a\n", vec![line]), theme],
        };
        assert_eq!(plan.change_count(), 2);
        assert!(plan.without(&BTreeSet::from([(1, 0)])).is_empty());
    }

    proptest! {
        #[test]
        fn bytes_outside_a_splice_stay(
            bytes in proptest::collection::vec(any::<u8>(), 0..80),
            a in 0usize..80, len in 0usize..20,
            with in proptest::collection::vec(any::<u8>(), 0..10),
        ) {
            let start = a.min(bytes.len());
            let end = (start + len).min(bytes.len());
            let s = Splice { with: Code::kept(&with), ..one(start..end, "") };
            let out = splice(&bytes, &[s]);
            prop_assert_eq!(&out[..start], &bytes[..start]);
            prop_assert_eq!(&out[start..start + with.len()], &with[..]);
            prop_assert_eq!(&out[start + with.len()..], &bytes[end..]);
        }

        #[test]
        fn every_splice_is_in_exactly_one_hunk(cuts in proptest::collection::btree_set(0usize..400, 1..8)) {
            let before: String = (0..60).map(|i| format!("row{i:03}\n")).collect();
            let splices: Vec<_> = cuts.iter().map(|c| one(*c..*c, "~")).collect();
            let e = edit(&before, splices);
            let mut owned: Vec<usize> = e.hunks().iter().flat_map(|h| h.splices.clone()).collect();
            owned.sort_unstable();
            prop_assert_eq!(owned, (0..cuts.len()).collect::<Vec<_>>());
        }
    }
}
