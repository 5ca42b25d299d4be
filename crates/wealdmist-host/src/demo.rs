//! Making the sample home on disk.

// The sample home is written into a folder that was empty.
#![allow(clippy::disallowed_methods)]

use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Duration;

use wealdmist_core::demo;

use crate::platform;
use crate::platform::places::NOTHING;

/// A sample home that could not be made.
#[derive(Debug, thiserror::Error)]
pub enum DemoError {
    /// The folder holds something else.
    #[error("{} is not empty and no sample home; give an empty or new folder with --dir", .0.display())]
    NotEmpty(PathBuf),
    /// The system refused something.
    #[error("the sample home {} cannot be made: {source}", path.display())]
    Io {
        /// The folder.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
}

/// The file that marks a folder as a sample home.
const MARK: &str = ".wealdmist-demo";

/// Makes the sample home in an empty or new folder. A folder that already is one is left as it
/// stands.
///
/// # Errors
/// When the folder holds something else or cannot be written.
pub fn make_demo(folder: &Path) -> Result<(), DemoError> {
    let fail = |source| DemoError::Io {
        path: folder.to_owned(),
        source,
    };
    fs::create_dir_all(folder).map_err(fail)?;
    if folder.join(MARK).exists() {
        return Ok(());
    }
    if fs::read_dir(folder).map_err(fail)?.next().is_some() {
        return Err(DemoError::NotEmpty(folder.to_owned()));
    }
    for file in demo::files() {
        let path = folder.join(&file.path);
        if let Some(parent) = path.parent() {
            fs::create_dir_all(parent).map_err(fail)?;
        }
        fs::write(&path, &file.bytes).map_err(fail)?;
    }
    fs::write(
        folder.join(MARK),
        "A sample home made by `wealdmist demo`.\n",
    )
    .map_err(fail)?;
    repository(&folder.join("src/marsh-gauge"));
    Ok(())
}

/// Makes the sample repository, where git is installed; the rest works without it.
fn repository(folder: &Path) {
    let git = |arguments: &[&str]| {
        let mut command = Command::new("git");
        command
            .args(arguments)
            .current_dir(folder)
            .env("GIT_CONFIG_GLOBAL", NOTHING)
            .env("GIT_CONFIG_SYSTEM", NOTHING)
            .env("GIT_AUTHOR_NAME", "warden")
            .env("GIT_AUTHOR_EMAIL", "warden@heronry.invalid")
            .env("GIT_COMMITTER_NAME", "warden")
            .env("GIT_COMMITTER_EMAIL", "warden@heronry.invalid")
            .env("GIT_AUTHOR_DATE", "2026-01-10T09:00:00Z")
            .env("GIT_COMMITTER_DATE", "2026-01-10T09:00:00Z");
        platform::run(&mut command, Duration::from_secs(5))
    };
    let _ = git(&["init", "-q", "-b", "spring-tide"]);
    let _ = git(&["add", "."]);
    let _ = git(&["commit", "-q", "-m", "Read the gauge"]);
}

/// The sample home, read, for tests; it goes with the folder.
#[cfg(test)]
pub(crate) fn surveyed() -> (tempfile::TempDir, crate::survey::Survey) {
    let dir = tempfile::tempdir().unwrap();
    make_demo(&dir.path().join("home")).unwrap();
    let home = crate::home::Home::open(Some(&dir.path().join("home"))).unwrap();
    let survey = crate::survey::Survey::open(home, None, Some(("Saltmarsh", "dusk"))).unwrap();
    (dir, survey)
}
