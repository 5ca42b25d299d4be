//! What adapters may ask of the machine.

use std::path::{Path, PathBuf};
use std::sync::Arc;

/// What became of an attempt to read a file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Loaded {
    /// Its bytes, and the file itself with links followed.
    File {
        /// The file itself.
        target: PathBuf,
        /// Its bytes.
        bytes: Arc<[u8]>,
    },
    /// There is no such file.
    Missing,
    /// It is there and cannot be read.
    Problem {
        /// What is wrong.
        message: String,
        /// What to do.
        help: String,
    },
}

/// What is known of an environment variable.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Variable {
    /// It is set.
    Set(String),
    /// It is not set.
    Unset,
    /// It depends on the session.
    Unknown,
}

/// The machine as adapters see it.
pub trait Access {
    /// Reads a file.
    fn read(&self, path: &Path) -> Loaded;
    /// The files that a shell pattern names, sorted.
    fn glob(&self, pattern: &Path) -> Vec<PathBuf>;
    /// An environment variable of the person's session.
    fn env(&self, name: &str) -> Option<String>;
    /// An environment variable as a program sees it that is started anew for the person.
    fn variable(&self, name: &str) -> Variable {
        match name {
            "HOME" => Variable::Set(self.home().display().to_string()),
            _ => self.env(name).map_or(Variable::Unknown, Variable::Set),
        }
    }
    /// The version of an installed program, as it says it when it is given an argument.
    fn version(&self, _program: &str, _argument: &str) -> Option<String> {
        None
    }
    /// The name of the machine.
    fn host(&self) -> Option<String> {
        None
    }
    /// A folder or file that a program keeps beside it for everybody, by its path below the folders for such
    /// data.
    fn shared_data(&self, _relative: &str) -> Option<PathBuf> {
        None
    }
    /// The home folder.
    fn home(&self) -> &Path;
    /// Whether a program is installed.
    fn has_program(&self, name: &str) -> bool;

    /// The folder for configuration: `$XDG_CONFIG_HOME`, or `.config` in the home.
    fn config_home(&self) -> PathBuf {
        match self.env("XDG_CONFIG_HOME") {
            Some(dir) if Path::new(&dir).is_absolute() => dir.into(),
            _ => self.home().join(".config"),
        }
    }

    /// A path as written in a dotfile: `~` and `$HOME` stand for the home; relative ones are
    /// relative to `base`.
    fn expand(&self, written: &str, base: &Path) -> PathBuf {
        let home = ["~/", "$HOME/", "${HOME}/"];
        for prefix in home {
            if let Some(rest) = written.strip_prefix(prefix) {
                return self.home().join(rest);
            }
        }
        let config = ["$XDG_CONFIG_HOME/", "${XDG_CONFIG_HOME}/"];
        for prefix in config {
            if let Some(rest) = written.strip_prefix(prefix) {
                return self.config_home().join(rest);
            }
        }
        base.join(written)
    }

    /// A path for people and for dotfiles: the home written as `~`.
    fn contract(&self, path: &Path) -> String {
        match path.strip_prefix(self.home()) {
            Ok(rest) => format!("~/{}", rest.display()),
            Err(_) => path.display().to_string(),
        }
    }
}

/// A path as a person types it: `~` is the home, and what is not absolute stands as it is.
#[must_use]
pub fn expand(home: &Path, typed: &str) -> PathBuf {
    match typed.strip_prefix("~/") {
        Some(rest) => home.join(rest),
        None if typed == "~" => home.to_owned(),
        None => PathBuf::from(typed),
    }
}

/// A home in memory, for tests and for planning without a machine.
#[derive(Debug, Clone, Default)]
pub struct MemoryAccess {
    /// Files by absolute path.
    pub files: std::collections::BTreeMap<PathBuf, Vec<u8>>,
    /// Environment variables.
    pub vars: std::collections::BTreeMap<String, String>,
    /// Installed programs.
    pub programs: Vec<String>,
    /// Their versions.
    pub versions: std::collections::BTreeMap<String, String>,
}

/// The home folder of [`MemoryAccess`].
pub const MEMORY_HOME: &str = "/home/warden";

impl MemoryAccess {
    /// A home with these files, given by their path below it.
    #[must_use]
    pub fn with(files: &[(&str, &str)]) -> Self {
        let mut access = Self::default();
        for (path, text) in files {
            access
                .files
                .insert(Path::new(MEMORY_HOME).join(path), text.as_bytes().to_vec());
        }
        access
    }
}

impl Access for MemoryAccess {
    fn read(&self, path: &Path) -> Loaded {
        match self.files.get(path) {
            Some(bytes) => Loaded::File {
                target: path.to_owned(),
                bytes: bytes.as_slice().into(),
            },
            None => Loaded::Missing,
        }
    }

    fn glob(&self, pattern: &Path) -> Vec<PathBuf> {
        let pattern = pattern.to_string_lossy();
        let matches = |p: &&PathBuf| wildcard(&pattern, &p.to_string_lossy());
        self.files.keys().filter(matches).cloned().collect()
    }

    fn env(&self, name: &str) -> Option<String> {
        self.vars.get(name).cloned()
    }

    fn variable(&self, name: &str) -> Variable {
        match name {
            "HOME" => Variable::Set(MEMORY_HOME.to_owned()),
            _ => self.env(name).map_or(Variable::Unset, Variable::Set),
        }
    }

    fn version(&self, program: &str, _argument: &str) -> Option<String> {
        self.versions.get(program).cloned()
    }

    fn home(&self) -> &Path {
        Path::new(MEMORY_HOME)
    }

    fn has_program(&self, name: &str) -> bool {
        self.programs.iter().any(|p| p == name)
    }
}

/// A part of a shell pattern.
enum Part {
    /// Any characters.
    Many,
    /// Any one.
    One,
    /// One of these, or none of these.
    Of(Vec<(char, char)>, bool),
    /// This one.
    Is(char),
}

impl Part {
    fn takes(&self, c: char) -> bool {
        match self {
            Self::Many => false,
            Self::One => c != '/',
            Self::Of(ranges, without) => {
                c != '/' && ranges.iter().any(|(a, b)| (*a..=*b).contains(&c)) != *without
            }
            Self::Is(own) => c == *own,
        }
    }
}

/// A pattern's parts. A bracket that is not closed stands for itself.
fn parts(pattern: &str) -> Vec<Part> {
    let signs: Vec<char> = pattern.chars().collect();
    let (mut out, mut at) = (Vec::new(), 0);
    while at < signs.len() {
        let (part, length) = match signs[at] {
            '*' => (Part::Many, 1),
            '?' => (Part::One, 1),
            '[' => class(&signs[at..]).unwrap_or((Part::Is('['), 1)),
            '\\' if at + 1 < signs.len() => (Part::Is(signs[at + 1]), 2),
            c => (Part::Is(c), 1),
        };
        out.push(part);
        at += length;
    }
    out
}

/// A bracket expression and how many signs it takes.
fn class(signs: &[char]) -> Option<(Part, usize)> {
    let without = matches!(signs.get(1), Some('!' | '^'));
    let first = 1 + usize::from(without);
    // A closing bracket that stands first is one of them.
    let close = signs.iter().skip(first + 1).position(|c| *c == ']')? + first + 1;
    let (mut ranges, mut at) = (Vec::new(), first);
    while at < close {
        let ranged = at + 2 < close && signs[at + 1] == '-';
        let last = if ranged { at + 2 } else { at };
        ranges.push((signs[at], signs[last]));
        at = last + 1;
    }
    Some((Part::Of(ranges, without), close + 1))
}

/// Whether a name matches a shell pattern of `*`, `?` and brackets (POSIX, Shell & Utilities 2.13);
/// none of them matches a slash.
#[must_use]
pub fn wildcard(pattern: &str, name: &str) -> bool {
    let (pattern, name): (_, Vec<char>) = (parts(pattern), name.chars().collect());
    // Positions to fall back to: after the last star, and where it began to match.
    let (mut p, mut n) = (0, 0);
    let mut star: Option<(usize, usize)> = None;
    while n < name.len() {
        match pattern.get(p) {
            Some(Part::Many) => {
                star = Some((p + 1, n));
                p += 1;
            }
            Some(part) if part.takes(name[n]) => {
                p += 1;
                n += 1;
            }
            _ => match star {
                Some((after, from)) if name[from] != '/' => {
                    star = Some((after, from + 1));
                    p = after;
                    n = from + 1;
                }
                _ => return false,
            },
        }
    }
    pattern[p..].iter().all(|part| matches!(part, Part::Many))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wildcards_stay_in_their_folder() {
        assert!(wildcard("/a/*.conf", "/a/b.conf"));
        assert!(wildcard("/a/?*", "/a/bc"));
        assert!(!wildcard("/a/*.conf", "/a/b/c.conf"));
        assert!(!wildcard("/a/*.conf", "/a/b.con"));
        assert!(wildcard("**", "abc"));
        assert!(wildcard("/a/[ab-d]?", "/a/cx"));
        assert!(!wildcard("[!ab]", "a") && wildcard("[!ab]", "c"));
        assert!(wildcard("[]x]", "]") && wildcard("[a", "[a"));
        assert!(wildcard("\\*", "*") && !wildcard("\\*", "a"));
    }

    #[test]
    fn paths_are_expanded_as_the_tools_do() {
        let access = MemoryAccess::default();
        let base = Path::new("/x");
        assert_eq!(access.expand("~/a", base), Path::new("/home/warden/a"));
        assert_eq!(
            access.expand("${HOME}/a", base),
            Path::new("/home/warden/a")
        );
        assert_eq!(access.expand("b", base), Path::new("/x/b"));
        assert_eq!(access.contract(Path::new("/home/warden/a")), "~/a");
    }
}
