//! A home folder as adapters see it, with every way a file can fail to be read told apart.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::ffi::OsStr;
use std::io::{self, Read};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::{Mutex, OnceLock, PoisonError};
use std::time::{Duration, SystemTime};

use tracing::{debug, trace, warn};
use wealdmist_tools::access::{Access, Loaded, Variable, wildcard};
use wealdmist_tools::adapters;

use crate::files::{Disk, make_private_folders, open_regular, read_regular, resolved, write_own};
use crate::platform::files::is_circle;
use crate::platform::{self, places};

/// A home folder that cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum HomeError {
    /// The folder is not there, or is none.
    #[error("the home folder {path} cannot be used: {source}; give another with --home")]
    Unusable {
        /// The folder.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
    /// No home is known.
    #[error("no home folder is known: set HOME, or give one with --home")]
    Unknown,
}

/// A home folder and the environment that goes with it.
#[derive(Debug, Clone)]
pub struct Home {
    root: PathBuf,
    /// Whether it is the home of who runs this.
    is_own: bool,
    vars: BTreeMap<String, String>,
    path: Vec<PathBuf>,
}

/// The variables adapters may ask for.
const VARS: [&str; 5] = [
    "XDG_CONFIG_HOME",
    "XDG_STATE_HOME",
    "XDG_DATA_HOME",
    "XDG_CACHE_HOME",
    "FONTCONFIG_FILE",
];

/// The variables that speak of the person's own home and mean nothing for another.
const OF_THE_PERSON: [&str; 5] = [
    "XDG_CONFIG_HOME",
    "XDG_STATE_HOME",
    "XDG_DATA_HOME",
    "XDG_CACHE_HOME",
    "FONTCONFIG_FILE",
];

/// How long a program may take to say its version.
const VERSION_PATIENCE: Duration = Duration::from_secs(1);

/// What was asked already, by the program's file and when that was changed.
type Versions = HashMap<(PathBuf, Option<SystemTime>), Option<String>>;

fn versions() -> &'static Mutex<Versions> {
    static KNOWN: OnceLock<Mutex<Versions>> = OnceLock::new();
    KNOWN.get_or_init(Mutex::default)
}

/// Whether a variable is another in each session: of the terminal, the display, the way in.
fn is_of_session(name: &str) -> bool {
    const WHOLE: [&str; 12] = [
        "TERM",
        "COLORTERM",
        "COLORFGBG",
        "DISPLAY",
        "WAYLAND_DISPLAY",
        "SHLVL",
        "PWD",
        "OLDPWD",
        "LINES",
        "COLUMNS",
        "WINDOWID",
        "_",
    ];
    const BEGIN: [&str; 6] = ["TERM_", "SSH_", "TMUX", "XDG_SESSION", "VTE_", "NVIM"];
    let marks = adapters().into_iter().filter_map(|a| a.live().inside);
    WHOLE.contains(&name)
        || BEGIN.iter().any(|b| name.starts_with(b))
        || marks.into_iter().any(|mark| mark == name)
}

impl Home {
    /// The person's own home, or another one. For another, the variables that point into the
    /// person's own are not taken over.
    ///
    /// # Errors
    /// When the folder does not exist.
    pub fn open(other: Option<&Path>) -> Result<Self, HomeError> {
        let own = std::env::var_os("HOME")
            .filter(|h| !h.is_empty())
            .map(PathBuf::from);
        let root = other
            .map(Path::to_owned)
            .or_else(|| own.clone())
            .ok_or(HomeError::Unknown)?;
        let root = root
            .canonicalize()
            .and_then(|path| match path.is_dir() {
                true => Ok(path),
                false => Err(io::Error::other("it is not a folder")),
            })
            .map_err(|source| HomeError::Unusable { path: root, source })?;
        let is_own = own
            .and_then(|o| o.canonicalize().ok())
            .is_some_and(|o| o == root);
        // Where a tool's own variables say its files are is the person's too.
        let of_tools: Vec<&str> = adapters()
            .iter()
            .flat_map(|a| a.tables())
            .flat_map(wealdmist_tools::table::Table::variables)
            .collect();
        let keep =
            |name: &&str| is_own || !(OF_THE_PERSON.contains(name) || of_tools.contains(name));
        let of_sockets = adapters().into_iter().flat_map(|a| a.live().variables());
        let vars = VARS
            .into_iter()
            .chain(of_tools.iter().copied())
            .chain(of_sockets);
        let vars = vars
            .filter(|n| keep(n))
            .filter_map(|n| Some((n.to_owned(), std::env::var(n).ok()?)))
            .collect();
        let path = std::env::var_os("PATH").unwrap_or_default();
        Ok(Self {
            root,
            is_own,
            vars,
            path: std::env::split_paths(&path).collect(),
        })
    }

    /// A path as a person types it: `~` is this home.
    #[must_use]
    pub fn expand(&self, typed: &str) -> PathBuf {
        wealdmist_tools::access::expand(self.home(), typed)
    }

    /// The folder for state: the journal, what shells report, drafts.
    #[must_use]
    pub fn state(&self) -> PathBuf {
        self.xdg("XDG_STATE_HOME", ".local/state").join("wealdmist")
    }

    /// The folder for what can be made anew: the index of fonts.
    #[must_use]
    pub fn cache(&self) -> PathBuf {
        self.xdg("XDG_CACHE_HOME", ".cache").join("wealdmist")
    }

    /// The folder for data of programs, in which fonts are kept.
    #[must_use]
    pub fn data(&self) -> PathBuf {
        self.xdg("XDG_DATA_HOME", ".local/share")
    }

    /// The home folder itself.
    #[must_use]
    pub fn home_path(&self) -> &Path {
        &self.root
    }

    /// Folders that count as the home's: those that its variables name elsewhere.
    #[must_use]
    pub fn own_folders(&self) -> Vec<PathBuf> {
        let folders = [self.config_home(), self.data(), self.state()];
        folders
            .into_iter()
            .filter_map(|f| f.canonicalize().ok())
            .filter(|f| !f.starts_with(&self.root) && f.parent().is_some())
            .collect()
    }

    /// Whether a file may be edited without being asked for: it lies in the home, or this very
    /// file was allowed. `target` is the file itself, links followed.
    #[must_use]
    pub fn may_edit(&self, target: &Path) -> bool {
        let target = &resolved(target);
        target.starts_with(&self.root)
            || self.own_folders().iter().any(|f| target.starts_with(f))
            || self.allowed().contains(target)
    }

    /// Makes the folder in which shells note which prompt they have loaded.
    ///
    /// # Errors
    /// When it cannot be made.
    pub fn prepare_shells(&self) -> io::Result<()> {
        make_private_folders(&Disk, &self.state().join("shells"))
    }

    fn allowed_path(&self) -> PathBuf {
        self.state().join("allowed.json")
    }

    /// The files outside the home that the person allowed to be edited.
    #[must_use]
    pub fn allowed(&self) -> BTreeSet<PathBuf> {
        let read = read_regular(&self.allowed_path(), wealdmist_tools::limits::FILE);
        let bytes = read.ok().flatten().unwrap_or_default();
        serde_json::from_slice(&bytes).unwrap_or_default()
    }

    /// Allows a file outside the home to be edited, or no longer.
    ///
    /// # Errors
    /// When the file does not exist, or the list cannot be written.
    pub fn allow(&self, file: &Path, allowed: bool) -> io::Result<PathBuf> {
        let target = match (file.canonicalize(), allowed) {
            (Ok(target), _) => target,
            (Err(_), false) => file.to_owned(),
            (Err(e), true) => return Err(e),
        };
        let mut all = self.allowed();
        match allowed {
            true => all.insert(target.clone()),
            false => all.remove(&target),
        };
        make_private_folders(&Disk, &self.state())?;
        let bytes = serde_json::to_vec_pretty(&all).map_err(io::Error::other)?;
        write_own(&self.allowed_path(), &bytes)?;
        Ok(target)
    }

    fn xdg(&self, variable: &str, otherwise: &str) -> PathBuf {
        match self.env(variable) {
            Some(dir) if Path::new(&dir).is_absolute() => PathBuf::from(dir),
            _ => self.root.join(otherwise),
        }
    }

    /// The file of an installed program.
    fn program(&self, name: &str) -> Option<PathBuf> {
        let runs = |p: &PathBuf| {
            p.metadata()
                .is_ok_and(|m| m.is_file() && m.permissions().mode() & 0o111 != 0)
        };
        let files = self.path.iter().map(|dir| dir.join(OsStr::new(name)));
        files.into_iter().find(runs)
    }

    /// Where the setup file is, unless another is named.
    #[must_use]
    pub fn setup_path(&self) -> PathBuf {
        self.config_home().join("wealdmist/setup.toml")
    }
}

impl Access for Home {
    fn read(&self, path: &Path) -> Loaded {
        match read_file(path) {
            Ok(Some((target, bytes))) => {
                debug!(path = ?path, bytes = bytes.len(), "read");
                Loaded::File {
                    target,
                    bytes: bytes.into(),
                }
            }
            Ok(None) => {
                trace!(path = ?path, "not there");
                Loaded::Missing
            }
            Err((message, help)) => {
                warn!(path = ?path, message, "cannot be read");
                Loaded::Problem { message, help }
            }
        }
    }

    fn glob(&self, pattern: &Path) -> Vec<PathBuf> {
        let mut found = vec![PathBuf::new()];
        for part in pattern.components() {
            let text = part.as_os_str().to_string_lossy().into_owned();
            if !text.contains(['*', '?', '[']) {
                for path in &mut found {
                    path.push(part);
                }
                continue;
            }
            let mut next = Vec::new();
            for folder in &found {
                let Ok(entries) = std::fs::read_dir(folder) else {
                    continue;
                };
                for entry in entries.flatten() {
                    let name = entry.file_name();
                    let hidden = name.as_encoded_bytes().starts_with(b".");
                    if (!hidden || text.starts_with('.'))
                        && wildcard(&text, &name.to_string_lossy())
                    {
                        next.push(entry.path());
                    }
                }
            }
            found = next;
        }
        found.retain(|p| p.exists());
        found.sort();
        found
    }

    fn env(&self, name: &str) -> Option<String> {
        self.vars.get(name).cloned()
    }

    fn variable(&self, name: &str) -> Variable {
        match name {
            "HOME" => Variable::Set(self.root.display().to_string()),
            // Another person's session, or what is another in each session.
            _ if !self.is_own || is_of_session(name) => Variable::Unknown,
            _ => std::env::var(name).map_or(Variable::Unset, Variable::Set),
        }
    }

    fn version(&self, program: &str, argument: &str) -> Option<String> {
        let file = self.program(program)?;
        let changed = file.metadata().and_then(|m| m.modified()).ok();
        let key = (file, changed);
        let mut known = versions().lock().unwrap_or_else(PoisonError::into_inner);
        let version = known.entry(key).or_insert_with_key(|(file, _)| {
            let mut command = Command::new(file);
            // Some write a log at home or where they are, whatever they are asked.
            let elsewhere = tempfile::tempdir().ok()?;
            command
                .env("HOME", elsewhere.path())
                .current_dir(elsewhere.path());
            for name in std::env::vars_os().map(|v| v.0) {
                if name.as_encoded_bytes().starts_with(b"XDG_") {
                    command.env_remove(name);
                }
            }
            let said = platform::run(command.arg(argument), VERSION_PATIENCE)?;
            let said = String::from_utf8_lossy(&said.stdout).into_owned();
            said.lines()
                .next()?
                .split_whitespace()
                .next_back()
                .map(str::to_owned)
        });
        version.clone()
    }

    fn shared_data(&self, relative: &str) -> Option<PathBuf> {
        let folders = places::data_folders().into_iter();
        folders.map(|f| f.join(relative)).find(|p| p.exists())
    }

    fn host(&self) -> Option<String> {
        Some(places::host_name())
    }

    fn home(&self) -> &Path {
        &self.root
    }

    fn has_program(&self, name: &str) -> bool {
        self.program(name).is_some()
    }
}

/// Reads a regular file, links followed; `Ok(None)` only when there is nothing of that name.
#[allow(clippy::type_complexity)]
fn read_file(path: &Path) -> Result<Option<(PathBuf, Vec<u8>)>, (String, String)> {
    let tell = |message: &str, help: &str| Err((message.to_owned(), help.to_owned()));
    let target = match path.canonicalize() {
        Ok(target) => target,
        Err(e) if e.kind() == io::ErrorKind::NotFound => {
            return match path.symlink_metadata() {
                Ok(_) => tell("the link leads nowhere", "repair or remove the link"),
                Err(_) => Ok(None),
            };
        }
        Err(e) if is_circle(&e) => {
            return tell(
                "the links go round in a circle",
                "repair or remove the link",
            );
        }
        Err(e) if e.kind() == io::ErrorKind::NotADirectory => return Ok(None),
        Err(e) => {
            return Err((
                format!("it cannot be reached: {e}"),
                "check the folders above it".into(),
            ));
        }
    };
    let meta = match target.metadata() {
        Ok(meta) => meta,
        Err(e) => {
            return Err((
                format!("it cannot be looked at: {e}"),
                "check its permissions".into(),
            ));
        }
    };
    if meta.is_dir() {
        return tell(
            "it is a folder, not a file",
            "put a file there, or remove the folder",
        );
    }
    if !meta.is_file() {
        return tell("it is no regular file", "put a regular file there");
    }
    let Ok(Some(file)) = open_regular(&target) else {
        return match open_regular(&target) {
            Err(e) if e.kind() == io::ErrorKind::PermissionDenied => tell(
                "there is no permission to read it",
                "check its owner and mode",
            ),
            _ => tell("it cannot be opened as a file", "look at what stands there"),
        };
    };
    if meta.len() > wealdmist_tools::limits::FILE {
        let message = format!("it has {} MiB, which no dotfile has", meta.len() >> 20);
        return Err((message, "is this the right file?".into()));
    }
    let mut bytes = Vec::with_capacity(meta.len() as usize);
    match file
        .take(wealdmist_tools::limits::FILE + 1)
        .read_to_end(&mut bytes)
    {
        Ok(n) if n as u64 > wealdmist_tools::limits::FILE => {
            tell("it grows while it is read", "is this the right file?")
        }
        Ok(_) => Ok(Some((target, bytes))),
        Err(e) if e.kind() == io::ErrorKind::PermissionDenied => tell(
            "there is no permission to read it",
            "check its owner and mode",
        ),
        Err(e) => Err((
            format!("it cannot be read: {e}"),
            "check the disk and try again".into(),
        )),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::os::unix::fs::symlink;

    fn home() -> (tempfile::TempDir, Home) {
        let dir = tempfile::tempdir().unwrap();
        let home = Home::open(Some(dir.path())).unwrap();
        (dir, home)
    }

    #[test]
    fn every_way_to_fail_is_told_apart() {
        let (_dir, home) = home();
        let at = |n: &str| home.home().join(n);
        std::fs::write(at("file"), "x").unwrap();
        std::fs::create_dir(at("folder")).unwrap();
        symlink("nowhere", at("dangling")).unwrap();
        symlink("loop", at("loop")).unwrap();
        symlink("file", at("link")).unwrap();
        std::fs::File::create(at("big"))
            .unwrap()
            .set_len(50 << 20)
            .unwrap();
        let problem = |n: &str| match home.read(&at(n)) {
            Loaded::Problem { message, .. } => message,
            other => panic!("{n}: {other:?}"),
        };
        assert!(problem("folder").contains("folder"));
        assert!(problem("dangling").contains("nowhere"));
        assert!(problem("loop").contains("circle"));
        assert!(problem("big").contains("50 MiB"));
        assert_eq!(home.read(&at("absent")), Loaded::Missing);
        assert_eq!(home.read(&at("file/x")), Loaded::Missing);
        assert!(
            matches!(home.read(&at("link")), Loaded::File { target, .. } if target == at("file"))
        );
    }

    #[test]
    fn patterns_find_files_in_order() {
        let (_dir, home) = home();
        for name in ["b.conf", "a.conf", ".hidden.conf", "c.txt"] {
            std::fs::write(home.home().join(name), "").unwrap();
        }
        let found = home.glob(&home.home().join("*.conf"));
        let names: Vec<_> = found
            .iter()
            .map(|p| p.file_name().unwrap().to_owned())
            .collect();
        assert_eq!(names, ["a.conf", "b.conf"]);
    }

    #[test]
    fn another_home_does_not_inherit_the_persons_folders() {
        let (_dir, home) = home();
        assert_eq!(home.config_home(), home.home().join(".config"));
        assert!(home.state().starts_with(home.home()));
        assert!(
            Home::open(Some(Path::new("/nonexistent")))
                .unwrap_err()
                .to_string()
                .contains("--home")
        );
    }
}
