//! Why a transaction did not take place, in words that are true of the files.

use std::io;
use std::path::PathBuf;

use crate::files::ReplaceError;

/// A later edit that an undo would destroy.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Conflict {
    /// The file.
    pub path: PathBuf,
    /// The first line, from 1, where both changed the same; 0 where the file as a whole is meant.
    pub line: usize,
    /// What happened to it.
    pub what: &'static str,
}

/// Why a transaction did not take place. Unless it says otherwise nothing has changed.
#[derive(Debug, thiserror::Error)]
pub enum ApplyError {
    /// A file is not what it was when the plan was made.
    #[error("{} has changed since it was read; look at the new plan and apply again; nothing was changed", .0.display())]
    Changed(PathBuf),
    /// A file must not be written.
    #[error("{} is {what}; {help}; nothing was changed", path.display())]
    Protected {
        /// The file.
        path: PathBuf,
        /// Why not.
        what: &'static str,
        /// What to do.
        help: &'static str,
    },
    /// A file lies outside the home and was not allowed.
    #[error("{} lies outside this home; `wealdmist allow {}` lets it be edited; nothing was changed", .0.display(), .0.display())]
    Outside(PathBuf),
    /// The system refused something.
    #[error("{} {what}: {source}; nothing was changed", path.display())]
    Io {
        /// The file or folder.
        path: PathBuf,
        /// What could not be done.
        what: &'static str,
        /// Why.
        source: io::Error,
    },
    /// The system refused something, and then mending it too.
    #[error(
        "{first}, and then {second}; {}; the next start of wealdmist goes on from here: nothing is lost",
        told(new, old, unknown)
    )]
    Unfinished {
        /// What failed first.
        first: String,
        /// What failed after it.
        second: String,
        /// Files that hold the new bytes.
        new: Vec<PathBuf>,
        /// Files that hold the old bytes.
        old: Vec<PathBuf>,
        /// Files of which it cannot be told now.
        unknown: Vec<PathBuf>,
    },
    /// The files are written, and the journal could not say so.
    #[error("the files are written, but the journal entry {} could not be closed: {source}; the next start of wealdmist does that", path.display())]
    NotClosed {
        /// The entry.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
    /// Another process is at it.
    #[error(
        "another wealdmist is writing in this home; try again when it is done; nothing was changed"
    )]
    Busy,
    /// An undo would destroy later edits.
    #[error("undo would destroy later edits: {}; nothing was changed", list(.0))]
    Conflicts(Vec<Conflict>),
    /// There is nothing to take back.
    #[error("there is nothing to undo")]
    NothingToUndo,
    /// There is no such record, or it cannot be taken back.
    #[error("there is no apply number {0} that could be undone; `wealdmist history` lists them")]
    NoRecord(u64),
    /// The journal cannot be read.
    #[error("the journal entry {} is damaged: {why}; move it away to go on", path.display())]
    Damaged {
        /// The entry.
        path: PathBuf,
        /// Why.
        why: String,
    },
}

impl From<(PathBuf, ReplaceError)> for ApplyError {
    fn from((path, error): (PathBuf, ReplaceError)) -> Self {
        match error {
            ReplaceError::Changed => Self::Changed(path),
            ReplaceError::Protected { what, help } => Self::Protected { path, what, help },
            ReplaceError::Io(source) => Self::Io {
                path,
                what: "cannot be written",
                source,
            },
        }
    }
}

fn list(conflicts: &[Conflict]) -> String {
    let one = |c: &Conflict| match c.line {
        0 => format!("{} {}", c.path.display(), c.what),
        line => format!("{}:{line} {}", c.path.display(), c.what),
    };
    conflicts.iter().map(one).collect::<Vec<_>>().join("; ")
}

fn told(new: &[PathBuf], old: &[PathBuf], unknown: &[PathBuf]) -> String {
    match (new, old, unknown) {
        ([], _, []) => return "every file still holds the old bytes".to_owned(),
        (_, [], []) => return "every file holds the new bytes".to_owned(),
        _ => {}
    }
    let all = [("new", new), ("old", old), ("cannot be told now", unknown)];
    let part = |(what, paths): &(&str, &[PathBuf])| {
        let names: Vec<String> = paths.iter().map(|p| p.display().to_string()).collect();
        format!("{what}: {}", names.join(", "))
    };
    let parts: Vec<String> = all.iter().filter(|a| !a.1.is_empty()).map(part).collect();
    parts.join("; ")
}

/// An error without the claim that nothing was changed, for where that is said otherwise.
pub(super) fn bare(error: &ApplyError) -> String {
    let text = error.to_string();
    text.strip_suffix("; nothing was changed")
        .map_or(text.clone(), str::to_owned)
}
