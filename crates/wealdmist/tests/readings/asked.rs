//! A home as a program sees it that is started with certain variables.

use std::path::{Path, PathBuf};

use wealdmist_host::Home;
use wealdmist_tools::access::{Access, Loaded, Variable};

/// The home, and the variables that nobody tells of beside `MOOD`.
pub struct Asked<'a>(pub &'a Home, pub &'a [&'a str]);

impl Access for Asked<'_> {
    fn read(&self, path: &Path) -> Loaded {
        self.0.read(path)
    }
    fn glob(&self, pattern: &Path) -> Vec<PathBuf> {
        self.0.glob(pattern)
    }
    fn env(&self, name: &str) -> Option<String> {
        self.0.env(name)
    }
    fn home(&self) -> &Path {
        self.0.home()
    }
    fn has_program(&self, name: &str) -> bool {
        self.0.has_program(name)
    }
    fn version(&self, program: &str, argument: &str) -> Option<String> {
        self.0.version(program, argument)
    }
    fn shared_data(&self, relative: &str) -> Option<PathBuf> {
        self.0.shared_data(relative)
    }
    fn host(&self) -> Option<String> {
        self.0.host()
    }
    fn variable(&self, name: &str) -> Variable {
        match name {
            "HOME" => Variable::Set(self.0.home().display().to_string()),
            "SIDE" => Variable::Set("dark".to_owned()),
            // The test does not say it: what depends on it is to be told as such.
            "MOOD" => Variable::Unknown,
            _ if self.1.contains(&name) => Variable::Unknown,
            _ => Variable::Unset,
        }
    }
}
