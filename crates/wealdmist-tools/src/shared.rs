//! What adapters have in common: reading a file into a report, glyphs, placing edits.

use std::collections::{HashMap, HashSet};
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use wealdmist_core::color::Rgb;
use wealdmist_core::plan::{Change, FileEdit, Left, Splice};
use wealdmist_core::quote::Code;
use wealdmist_core::reading::{
    FileProblem, Place, Reading, SourceFile, Standing, ToolId, ToolReport, Value,
};
use wealdmist_core::role::RoleId;
use wealdmist_core::text;

use crate::access::{Access, Loaded};
use crate::engine::Wanted;
use crate::limits;

const TOO_MANY: &str = "too many includes";

/// Where an include stands: the file and line.
pub type Includer = (PathBuf, usize);

/// Reads a file into the report; `None` if it is missing or unreadable, which the report then
/// says. `chain` holds the includes that led here.
pub fn load(
    access: &dyn Access,
    report: &mut ToolReport,
    path: &Path,
    chain: &[Includer],
    must_exist: bool,
) -> Option<SourceFile> {
    let includer = chain.last();
    let mut tell = |message: String, help: &str, blocks_edits: bool| {
        // Said once is said.
        if message == TOO_MANY && report.problems.iter().any(|p| p.message == TOO_MANY) {
            return;
        }
        let (path, at) = match includer {
            Some((file, line)) if !blocks_edits => (
                file.clone(),
                Some(text::Position {
                    line: *line,
                    column: 1,
                }),
            ),
            _ => (path.to_owned(), None),
        };
        report.problems.push(FileProblem {
            path,
            at,
            message,
            help: help.to_owned(),
            blocks_edits,
        });
    };
    if chain.iter().any(|(file, _)| file == path) {
        tell(
            format!("{} includes itself", path.display()),
            "remove the include that closes the circle",
            false,
        );
        return None;
    }
    if chain.len() >= limits::INCLUDES || report.reads >= limits::READS {
        tell(
            TOO_MANY.to_owned(),
            "flatten the includes; the rest is not read",
            false,
        );
        return None;
    }
    report.reads += 1;
    match access.read(path) {
        Loaded::File { target, bytes } => {
            let included_from = includer.cloned();
            let file = SourceFile {
                path: path.to_owned(),
                target,
                bytes,
                included_from,
                lines: Default::default(),
            };
            if !report.files.iter().any(|f| f.path == file.path) {
                report.files.push(file.clone());
            }
            Some(file)
        }
        Loaded::Missing => {
            if must_exist {
                tell(
                    format!("the included file {} does not exist", path.display()),
                    "create it, or remove the line",
                    false,
                );
            }
            None
        }
        Loaded::Problem { message, help } => {
            tell(message, &help, true);
            None
        }
    }
}

/// Builds a reading.
pub fn reading(
    file: &SourceFile,
    chain: &[Includer],
    role: RoleId,
    key: impl Into<String>,
    value: Value,
    span: Range<usize>,
) -> Reading {
    Reading {
        role,
        key: key.into(),
        value,
        place: Place::new(file, span),
        chain: chain.to_vec(),
        effective: true,
        editable: true,
        standing: Standing::Certain,
        asked: None,
    }
}

/// Places that several jobs take a color from of which the setup wants different ones: a variable that
/// colors two groups. What suits one there is wrong for the other.
pub struct Torn(HashSet<(Arc<Path>, usize)>);

impl Torn {
    /// Those of a report.
    pub fn of(report: &ToolReport, wanted: &Wanted) -> Self {
        let mut first: HashMap<(Arc<Path>, usize), Rgb> = HashMap::new();
        let mut torn = HashSet::new();
        for reading in report
            .readings
            .iter()
            .filter(|r| r.effective && r.place.is_written())
        {
            if reading.role.is_property() {
                continue;
            }
            let place = (Arc::clone(&reading.place.path), reading.place.span.start);
            let color = wanted.look.color(&reading.role);
            if *first.entry(place.clone()).or_insert(color) != color {
                torn.insert(place);
            }
        }
        Self(torn)
    }

    /// What is said of a reading that stands in such a place.
    pub fn left(&self, tool: ToolId, reading: &Reading) -> Option<Left> {
        let place = (Arc::clone(&reading.place.path), reading.place.span.start);
        self.0.contains(&place).then(|| Left {
            tool,
            place: reading.place.clone(),
            what: reading.role.label(),
            why: "one value here has several jobs, which the setup gives different colors",
        })
    }
}

/// Gathers splices by file and turns them into edits.
#[derive(Default)]
pub struct Edits {
    by_file: Vec<(PathBuf, Vec<Splice>)>,
}

impl Edits {
    /// Adds a splice, unless one already touches the same bytes.
    pub fn add(&mut self, path: &Path, splice: Splice) {
        let i = match self.by_file.iter().position(|(p, _)| p == path) {
            Some(i) => i,
            None => {
                self.by_file.push((path.to_owned(), Vec::new()));
                self.by_file.len() - 1
            }
        };
        let splices = &mut self.by_file[i].1;
        let touches = |s: &Splice| {
            !splice.range.is_empty()
                && s.range.start < splice.range.end
                && splice.range.start < s.range.end
        };
        if !splices.iter().any(touches) {
            splices.push(splice);
        }
    }

    /// Replaces a reading's value where it stands.
    pub fn replace(&mut self, reading: &Reading, with: Code) {
        self.add(
            &reading.place.path,
            Splice {
                range: reading.place.span.clone(),
                why: format!(
                    "{}: {} → {}",
                    reading.role.label(),
                    reading.value,
                    text::visible(&with)
                ),
                with,
                role: Some(reading.role.clone()),
                needs: None,
            },
        );
    }

    /// The edits of files that were read, or, for a path that was not, of a new file.
    pub fn finish(self, tool: ToolId, report: &ToolReport) -> Vec<FileEdit> {
        let edit = |(path, mut splices): (PathBuf, Vec<Splice>)| {
            // Insertions at one place keep the order they were added in.
            splices.sort_by_key(|s| s.range.start);
            let file = report.file(&path);
            FileEdit {
                tool,
                also: Vec::new(),
                target: file.map_or_else(|| path.clone(), |f| f.target.clone()),
                before: file.map(|f| Arc::clone(&f.bytes)),
                path,
                change: Change::Splices(splices),
            }
        };
        self.by_file.into_iter().map(edit).collect()
    }
}

/// The edit that writes a file of our own anew.
pub fn own_file(tool: ToolId, path: PathBuf, access: &dyn Access, code: Code) -> FileEdit {
    let now = match access.read(&path) {
        Loaded::File { target, bytes } => Some((target, bytes)),
        // What is there and cannot be read is refused by the journal, with its reason.
        Loaded::Missing | Loaded::Problem { .. } => None,
    };
    FileEdit {
        tool,
        also: Vec::new(),
        target: now.as_ref().map_or_else(|| path.clone(), |n| n.0.clone()),
        path,
        before: now.map(|n| n.1),
        change: Change::Whole(code),
    }
}

/// A splice that adds a whole line at the end of a file.
pub fn append_line(bytes: &[u8], line: &Code, why: String) -> Splice {
    let end = Code::fixed(text::line_end(bytes));
    let gap = match bytes.is_empty() || bytes.ends_with(b"\n") {
        true => Code::default(),
        false => end.clone(),
    };
    Splice {
        range: bytes.len()..bytes.len(),
        with: Code::join([&gap, line, &end], ""),
        why,
        role: None,
        needs: None,
    }
}

/// A splice that adds a whole line below the line that holds `at`.
pub fn line_below(bytes: &[u8], at: usize, line: &Code, why: String) -> Splice {
    let here = text::line_range(bytes, at);
    let end = Code::fixed(text::line_end(bytes));
    Splice {
        range: here.end..here.end,
        with: Code::join([&end, line], ""),
        why,
        role: None,
        needs: None,
    }
}

/// The folder of a program's files: the usual one, or that of another platform where the files are only there, as in a home that
/// is a checkout for several of them.
#[must_use]
pub fn folder_of(access: &dyn Access, usual: PathBuf, elsewhere: &str, files: &[&str]) -> PathBuf {
    let other = access.home().join(elsewhere);
    let has = |folder: &Path| {
        let mut all = files.iter().map(|name| folder.join(name));
        all.any(|path| access.read(&path) != Loaded::Missing)
    };
    match !has(&usual) && has(&other) {
        true => other,
        false => usual,
    }
}

/// The folder of our own files in a home.
#[must_use]
pub fn own_folder(access: &dyn Access) -> PathBuf {
    access.config_home().join("wealdmist")
}
