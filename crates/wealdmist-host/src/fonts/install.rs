//! Installing faces into the person's own font folder, by the journal, so that it is all or
//! nothing and undo removes exactly what was added.

use std::path::PathBuf;
use std::process::Command;
use std::time::Duration;

use wealdmist_core::font::FaceInfo;
use wealdmist_tools::adapters;

use super::folders::own_folder;
use super::source::FontSource;
use crate::files::read_regular;
use crate::home::Home;
use crate::journal::{ApplyError, FileChange, Journal};
use crate::limits;
use crate::platform::{self, Process};

/// What installing would do.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct InstallPlan {
    /// The files written, fonts and licences.
    pub changes: Vec<FileChange>,
    /// The faces that come with them.
    pub faces: Vec<FaceInfo>,
    /// Faces of the source that are there already, byte for byte.
    pub present: Vec<FaceInfo>,
}

/// What installing did.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Installed {
    /// Its number in the journal.
    pub record: u64,
    /// Whether the system's font cache was brought up to date; a message where it was not.
    pub cache: Result<(), String>,
    /// The running programs that do not see the fonts before they are started anew.
    pub restart: Vec<Restart>,
}

/// A running program that has to be started anew to see a font.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Restart {
    /// What it is.
    pub tool: &'static str,
    /// Its process number.
    pub pid: i32,
}

/// What installing the wanted faces of a source would do. A collection is installed whole when one
/// of its faces is wanted, since it is one file.
#[must_use]
pub fn plan_install(
    home: &Home,
    source: &FontSource,
    wanted: impl Fn(&FaceInfo) -> bool,
) -> InstallPlan {
    let mut plan = InstallPlan {
        changes: Vec::new(),
        faces: Vec::new(),
        present: Vec::new(),
    };
    let mut folders: Vec<PathBuf> = Vec::new();
    for font in source.fonts.iter().filter(|f| f.faces.iter().any(&wanted)) {
        let family = font.faces.first().map_or("", FaceInfo::family);
        let folder = own_folder(home).join(safe_name(family, "fonts"));
        let path = folder.join(safe_name(&font.name, "font.ttf"));
        if plan.changes.iter().any(|c| c.path == path) {
            continue;
        }
        match change(path, &font.bytes) {
            Some(change) => {
                plan.changes.push(change);
                plan.faces.extend(font.faces.iter().cloned());
                if !folders.contains(&folder) {
                    folders.push(folder);
                }
            }
            None => plan.present.extend(font.faces.iter().cloned()),
        }
    }
    for folder in folders {
        for (name, text) in &source.licences {
            plan.changes
                .extend(change(folder.join(safe_name(name, "LICENSE")), text));
        }
    }
    plan
}

/// The change that gives a file these bytes; `None` where it has them.
fn change(path: PathBuf, bytes: &[u8]) -> Option<FileChange> {
    let before = read_regular(&path, limits::FONT).ok().flatten();
    if before.as_deref() == Some(bytes) {
        return None;
    }
    let target = path.canonicalize().unwrap_or_else(|_| path.clone());
    Some(FileChange {
        path,
        target,
        before,
        after: Some(bytes.to_vec()),
    })
}

/// A name that is one plain part of a path, whatever it was before.
fn safe_name(name: &str, otherwise: &str) -> String {
    let kept = |c: char| c.is_alphanumeric() || " ._-+()[]".contains(c);
    let name: String = name.chars().filter(|c| kept(*c)).take(120).collect();
    let name = name.trim_matches([' ', '.']);
    if name.is_empty() {
        otherwise.to_owned()
    } else {
        name.to_owned()
    }
}

/// Carries an installation out and brings the system's font cache up to date.
///
/// # Errors
/// When the files cannot be written; then none was.
pub fn install(home: &Home, plan: &InstallPlan) -> Result<Installed, ApplyError> {
    let mut families: Vec<&str> = plan.faces.iter().map(FaceInfo::family).collect();
    families.dedup();
    let label = format!("font {}", families.join(", "));
    let record = Journal::of(home).apply(&plan.changes, &label)?;
    Ok(Installed {
        record: record.id,
        cache: refresh_cache(home),
        restart: restarts(home),
    })
}

/// Lets the system's font configuration read the person's folder again.
///
/// # Errors
/// A sentence on why that was not done, and what to do.
pub fn refresh_cache(home: &Home) -> Result<(), String> {
    if cfg!(target_os = "macos") {
        return Ok(());
    }
    let mut command = Command::new("fc-cache");
    command.arg(own_folder(home)).env("HOME", home.home_path());
    match platform::run(&mut command, Duration::from_secs(60)) {
        Some(output) if output.status.success() => Ok(()),
        Some(output) => Err(format!(
            "fc-cache failed with {}; run it by hand",
            output.status
        )),
        None => Err(
            "fc-cache is not there or took too long; programs read the folder at their next start"
                .into(),
        ),
    }
}

/// The running terminals of this home: none of them sees a font that was installed after its start.
fn restarts(home: &Home) -> Vec<Restart> {
    let terminals: Vec<&'static str> = adapters()
        .into_iter()
        .filter(|a| a.kind() == "terminal")
        .map(|a| a.id().0)
        .collect();
    let mut out = Vec::new();
    for process in Process::all() {
        for tool in &terminals {
            if process.is(tool) && process.lives_in(home.home_path()) {
                out.push(Restart {
                    tool,
                    pid: process.pid,
                });
            }
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use std::fs;

    use super::*;
    use crate::fonts::source::open_source;
    use wealdmist_core::demo::fonts;

    #[test]
    fn only_what_is_wanted_is_installed_and_undo_removes_it() {
        let dir = tempfile::tempdir().unwrap();
        let from = dir.path().join("download");
        fs::create_dir_all(&from).unwrap();
        fs::write(from.join("r.ttf"), fonts::complete()).unwrap();
        fs::write(from.join("b.ttf"), fonts::bold()).unwrap();
        fs::write(from.join("OFL.txt"), "free").unwrap();
        let root = dir.path().join("home");
        fs::create_dir(&root).unwrap();
        let home = Home::open(Some(&root)).unwrap();
        let source = open_source(&from).unwrap();
        let plan = plan_install(&home, &source, |f| f.style == "Regular");
        let names: Vec<String> = plan
            .changes
            .iter()
            .map(|c| c.path.file_name().unwrap().to_string_lossy().into_owned())
            .collect();
        assert_eq!(names, ["r.ttf", "OFL.txt"]);
        let done = install(&home, &plan).unwrap();
        let folder = home.home_path().join(".local/share/fonts/Reedbed Mono NF");
        assert!(
            folder.join("r.ttf").exists()
                && folder.join("OFL.txt").exists()
                && !folder.join("b.ttf").exists()
        );
        assert!(done.restart.is_empty());
        let again = plan_install(&home, &source, |f| f.style == "Regular");
        assert!(again.changes.is_empty() && again.present.len() == 1);

        fs::write(folder.join("mine.txt"), "kept").unwrap();
        Journal::of(&home).undo(None).unwrap();
        assert!(!folder.join("r.ttf").exists() && !folder.join("OFL.txt").exists());
        assert!(folder.join("mine.txt").exists(), "what is not ours stays");
    }

    #[test]
    fn names_of_files_stay_in_their_folder() {
        assert_eq!(safe_name("../../etc/x.ttf", "f"), "etcx.ttf");
        assert_eq!(safe_name("..", "f"), "f");
        assert_eq!(safe_name("Reed\u{1b}[31m Mono", "f"), "Reed[31m Mono");
    }

    #[test]
    fn an_older_file_of_the_same_name_is_replaced_and_comes_back() {
        let dir = tempfile::tempdir().unwrap();
        let root = dir.path().join("home");
        let folder = root.join(".local/share/fonts/Reedbed Mono NF");
        fs::create_dir_all(&folder).unwrap();
        fs::write(folder.join("r.ttf"), b"an older release").unwrap();
        let from = dir.path().join("r.ttf");
        fs::write(&from, fonts::complete()).unwrap();
        let home = Home::open(Some(&root)).unwrap();
        let plan = plan_install(&home, &open_source(&from).unwrap(), |_| true);
        assert_eq!(
            plan.changes[0].before.as_deref(),
            Some(&b"an older release"[..])
        );
        install(&home, &plan).unwrap();
        assert_eq!(fs::read(folder.join("r.ttf")).unwrap(), fonts::complete());
        Journal::of(&home).undo(None).unwrap();
        assert_eq!(fs::read(folder.join("r.ttf")).unwrap(), b"an older release");
    }

    #[test]
    fn a_folder_that_cannot_be_written_leaves_nothing_behind() {
        let dir = tempfile::tempdir().unwrap();
        let root = dir.path().join("home");
        fs::create_dir_all(root.join(".local/share")).unwrap();
        // A file stands where the folder of fonts would be.
        fs::write(root.join(".local/share/fonts"), b"no folder").unwrap();
        let from = dir.path().join("r.ttf");
        fs::write(&from, fonts::complete()).unwrap();
        let home = Home::open(Some(&root)).unwrap();
        let plan = plan_install(&home, &open_source(&from).unwrap(), |_| true);
        let error = install(&home, &plan).unwrap_err().to_string();
        assert!(error.contains("fonts"), "{error}");
        assert_eq!(
            fs::read(root.join(".local/share/fonts")).unwrap(),
            b"no folder"
        );
    }
}
