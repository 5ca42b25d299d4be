//! A home as it was when its dotfiles were read.
//!
//! Planning asks for files again: those of ours, those a program would look for first. It has to
//! give the same for the same draft, at once and at every change of it, so each question goes to
//! the disk only once.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use wealdmist_tools::access::Variable;
use wealdmist_tools::{Access, Loaded};

use crate::home::Home;

/// What was asked, with its answers. Copies share them.
#[derive(Debug, Clone, Default)]
pub struct Seen(Arc<Mutex<Answers>>);

#[derive(Debug, Default)]
struct Answers {
    files: HashMap<PathBuf, Loaded>,
    globs: HashMap<PathBuf, Vec<PathBuf>>,
    programs: HashMap<String, bool>,
    editable: HashMap<PathBuf, bool>,
}

impl Seen {
    fn lock(&self) -> MutexGuard<'_, Answers> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A home through these answers.
    #[must_use]
    pub fn of<'a>(&'a self, home: &'a Home) -> AsSeen<'a> {
        AsSeen { home, seen: self }
    }
}

/// A home as it was seen.
#[derive(Debug, Clone, Copy)]
pub struct AsSeen<'a> {
    home: &'a Home,
    seen: &'a Seen,
}

impl AsSeen<'_> {
    /// Whether a file may be edited, as [`Home::may_edit`] says.
    #[must_use]
    pub fn may_edit(&self, target: &Path) -> bool {
        let mut answers = self.seen.lock();
        if let Some(known) = answers.editable.get(target) {
            return *known;
        }
        let may = self.home.may_edit(target);
        answers.editable.insert(target.to_owned(), may);
        may
    }
}

impl Access for AsSeen<'_> {
    fn read(&self, path: &Path) -> Loaded {
        let mut answers = self.seen.lock();
        let known = answers.files.entry(path.to_owned());
        known.or_insert_with(|| self.home.read(path)).clone()
    }

    fn glob(&self, pattern: &Path) -> Vec<PathBuf> {
        let mut answers = self.seen.lock();
        let known = answers.globs.entry(pattern.to_owned());
        known.or_insert_with(|| self.home.glob(pattern)).clone()
    }

    fn env(&self, name: &str) -> Option<String> {
        self.home.env(name)
    }

    fn home(&self) -> &Path {
        self.home.home()
    }

    fn variable(&self, name: &str) -> Variable {
        self.home.variable(name)
    }

    fn version(&self, program: &str, argument: &str) -> Option<String> {
        self.home.version(program, argument)
    }

    fn host(&self) -> Option<String> {
        self.home.host()
    }

    fn shared_data(&self, relative: &str) -> Option<PathBuf> {
        self.home.shared_data(relative)
    }

    fn has_program(&self, name: &str) -> bool {
        let mut answers = self.seen.lock();
        let known = answers.programs.entry(name.to_owned());
        *known.or_insert_with(|| self.home.has_program(name))
    }
}

#[cfg(test)]
mod tests {
    use std::fs;

    use wealdmist_core::{Rgb, Slot};

    use crate::demo::make_demo;
    use crate::{Home, Survey};

    #[test]
    fn a_changed_draft_is_planned_without_the_disk() {
        let dir = tempfile::tempdir().unwrap();
        let (there, away) = (dir.path().join("home"), dir.path().join("away"));
        fs::create_dir(&there).unwrap();
        make_demo(&there).unwrap();
        let home = Home::open(Some(&there)).unwrap();
        let mut survey = Survey::open(home, None, None).unwrap();
        let first = survey.plan();
        assert!(!first.is_empty());
        fs::rename(&there, &away).unwrap();
        assert_eq!(survey.plan(), first);
        let palette = survey.doc.setup().active.clone();
        let doc = survey.doc.with_slot(&palette, Slot::Red, Rgb::new(1, 2, 3));
        survey.doc = doc.unwrap();
        let second = survey.plan();
        assert!(
            second.edits.len() > first.edits.len(),
            "{}",
            second.unified()
        );
        // Looked at again, what is there counts.
        survey.refresh();
        assert!(survey.plan().is_empty());
    }
}
