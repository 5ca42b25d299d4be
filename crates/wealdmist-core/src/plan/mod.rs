//! The plan: the exact edits, file by file, that would bring the tools to the setup.
//!
//! An edit of a person's file is a list of splices; nothing outside them changes. A file of our
//! own is written whole. Each change may be left out alone; how they are shown
//! is told in `shown`.

mod shown;

use std::collections::{BTreeSet, HashSet};
use std::ops::Range;
use std::path::PathBuf;
use std::sync::Arc;

pub use shown::{Hunk, LineKind, Piece};

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

/// A change by its position: which edit, which change of it. A file that is written whole is one change.
pub type ChangeId = (usize, usize);

/// Replaces byte ranges. Splices are sorted first; those that overlap an earlier one are dropped,
/// which adapters avoid but damaged input must not turn into damage.
#[must_use]
pub fn splice(bytes: &[u8], splices: &[Splice]) -> Vec<u8> {
    let mut ordered: Vec<&Splice> = splices.iter().collect();
    // At the end of a file without a line end, what belongs to the last line comes before further lines.
    let adds_lines = |s: &Splice| s.with.contains(&b'\n');
    ordered.sort_by_key(|s| (s.range.start, s.range.end, adds_lines(s)));
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

    /// How many single changes it makes.
    #[must_use]
    pub fn change_count(&self) -> usize {
        match &self.change {
            Change::Splices(s) => s.len(),
            Change::Whole(_) => 1,
        }
    }

    /// The file's bytes afterwards.
    #[must_use]
    pub fn after(&self) -> Vec<u8> {
        match &self.change {
            Change::Whole(code) => code.to_vec(),
            Change::Splices(splices) => splice(self.before.as_deref().unwrap_or_default(), splices),
        }
    }
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
        self.edits.iter().map(FileEdit::change_count).sum()
    }

    /// How much there is, in words: `3 changes in 2 files`.
    #[must_use]
    pub fn counted(&self) -> String {
        let (changes, files) = (self.change_count(), self.edits.len());
        format!(
            "{} in {}",
            text::counted(changes, "change"),
            text::counted(files, "file")
        )
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

    /// The plan with the changes that are wanted. What only makes sense together with a generated file that is
    /// not among them is left out too; edits that change nothing any more disappear.
    #[must_use]
    pub fn with_only(&self, wanted: impl Fn(ChangeId) -> bool) -> Self {
        let mut gone = BTreeSet::new();
        let mut edits = Vec::new();
        for (e, edit) in self.edits.iter().enumerate() {
            let mut edit = edit.clone();
            match &mut edit.change {
                Change::Whole(_) if !wanted((e, 0)) => {
                    gone.insert(edit.path);
                    continue;
                }
                Change::Whole(_) => {}
                Change::Splices(splices) => {
                    let mut i = 0;
                    splices.retain(|_| {
                        i += 1;
                        wanted((e, i - 1))
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

    /// Which changes another plan did not have: those that follow from what lies between the two.
    #[must_use]
    pub fn new_beside(&self, before: &Self) -> BTreeSet<ChangeId> {
        let mut out = BTreeSet::new();
        for (e, edit) in self.edits.iter().enumerate() {
            let same = before.edits.iter().find(|b| b.path == edit.path);
            match (&edit.change, same.map(|s| &s.change)) {
                (Change::Whole(now), Some(Change::Whole(then))) if now == then => {}
                (Change::Splices(now), Some(Change::Splices(then))) => {
                    let then: HashSet<_> = then.iter().map(|s| (&s.range, &*s.with)).collect();
                    let is_new = |s: &Splice| !then.contains(&(&s.range, &*s.with));
                    let all = now.iter().enumerate().filter(|(_, s)| is_new(s));
                    out.extend(all.map(|(i, _)| (e, i)));
                }
                _ => out.extend((0..edit.change_count()).map(|i| (e, i))),
            }
        }
        out
    }

    /// What of the plan another one did not have.
    #[must_use]
    pub fn beyond(&self, before: &Self) -> Self {
        let new = self.new_beside(before);
        let mut out = self.with_only(|id| new.contains(&id));
        out.left.retain(|l| !before.left.contains(l));
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
    fn what_belongs_to_a_last_line_without_an_end_stays_in_it() {
        let splices = vec![one(2..2, "\nx\n"), one(2..2, "y\n"), one(2..2, "b")];
        assert_eq!(splice(b"a=", &splices), b"a=b\nx\ny\n");
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
    fn a_change_can_be_left_out() {
        let before: String = (0..30).map(|i| format!("line {i}\n")).collect();
        let at = |n: usize| before.find(&format!("line {n}\n")).unwrap();
        let plan = Plan {
            left: Vec::new(),
            edits: vec![edit(
                &before,
                vec![one(at(2)..at(2) + 4, "LINE"), one(at(25)..at(25), "new\n")],
            )],
        };
        let pieces = plan.edits[0].pieces();
        assert_eq!(pieces.len(), 2);
        assert_eq!(pieces[1].why, "new\n");
        assert!(plan.unified().contains("-line 2\n+LINE 2\n"));
        let rest = plan.with_only(|id| id != (0, 0));
        let after = String::from_utf8(rest.edits[0].after()).unwrap();
        assert_eq!(after, before.replace("line 25\n", "new\nline 25\n"));
        assert!(plan.with_only(|_| false).is_empty());
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
        assert!(plan.with_only(|id| id != (1, 0)).is_empty());
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
    }
}
