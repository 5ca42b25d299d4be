//! Paths as a person types them: looked up, and completed.

use std::path::{Path, PathBuf};

use wealdmist_core::text::visible;
use wealdmist_tools::Access;

use crate::Home;

/// The most names that are offered.
const MOST: usize = 60;

/// How a path that is being typed goes on.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Completion {
    /// The path as far as there is only one way on; `None` where nothing begins as it does.
    pub text: Option<String>,
    /// The names it could go on with, where there are several, in order; folders end in `/`.
    pub names: Vec<String>,
}

impl Home {
    /// The place a typed path means: `~` is this home; what is not absolute stands in the folder one is
    /// in or, where nothing of that name is there, in the home.
    #[must_use]
    pub fn look_up(&self, typed: &str) -> PathBuf {
        let path = self.expand(typed);
        let at_home = self.home().join(&path);
        if !path.exists() && at_home.exists() {
            return at_home;
        }
        path
    }

    /// Completes a path that is being typed, in the folder that [`look_up`](Self::look_up) finds. Names
    /// that begin with a dot are offered only where a dot was typed.
    #[must_use]
    pub fn complete(&self, typed: &str) -> Completion {
        if typed == "~" {
            return Completion {
                text: Some("~/".to_owned()),
                names: Vec::new(),
            };
        }
        let (folder, begun) = match typed.rfind('/') {
            Some(slash) => typed.split_at(slash + 1),
            None => ("", typed),
        };
        let mut names = self.names_in(folder, begun);
        let Some(first) = names.first() else {
            return Completion::default();
        };
        let shared = names.iter().fold(first.as_str(), |so_far, name| {
            let same = |(a, b): &(char, char)| a == b;
            let pairs = so_far.chars().zip(name.chars()).take_while(same);
            &so_far[..pairs.map(|(a, _)| a.len_utf8()).sum()]
        });
        let text = Some(format!("{folder}{shared}"));
        if names.len() == 1 {
            names.clear();
        }
        names.truncate(MOST);
        Completion { text, names }
    }

    /// The names in a folder that begin so, in order.
    fn names_in(&self, folder: &str, begun: &str) -> Vec<String> {
        let here = match folder {
            "" => PathBuf::from("."),
            folder => self.expand(folder),
        };
        let mut names = listed(&here, begun);
        if names.is_empty() && !here.is_absolute() {
            names = listed(&self.home().join(folder), begun);
        }
        names
    }
}

fn listed(folder: &Path, begun: &str) -> Vec<String> {
    let Ok(entries) = std::fs::read_dir(folder) else {
        return Vec::new();
    };
    let mut names: Vec<String> = entries
        .filter_map(Result::ok)
        .filter_map(|entry| {
            let name = entry.file_name().into_string().ok()?;
            let fits =
                name.starts_with(begun) && (begun.starts_with('.') || !name.starts_with('.'));
            // What could not be shown as it is cannot be typed either.
            let fits = fits && visible(name.as_bytes()) == name;
            let slash = if entry.path().is_dir() { "/" } else { "" };
            fits.then(|| format!("{name}{slash}"))
        })
        .collect();
    names.sort();
    names
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A home with these files.
    fn home(files: &[&str]) -> (tempfile::TempDir, Home) {
        let folder = tempfile::tempdir().unwrap();
        for file in files {
            let path = folder.path().join(file);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, "").unwrap();
        }
        let home = Home::open(Some(folder.path())).unwrap();
        (folder, home)
    }

    #[test]
    fn a_path_is_completed_as_far_as_there_is_one_way_on() {
        let (_folder, home) = home(&["palettes/mist.toml", "palettes/mist-dawn.toml", ".hidden"]);
        let completed = |typed| home.complete(typed);
        let one = |text: &str| Completion {
            text: Some(text.to_owned()),
            names: Vec::new(),
        };
        assert_eq!(completed("~"), one("~/"));
        assert_eq!(completed("~/pal"), one("~/palettes/"));
        let both = completed("~/palettes/");
        assert_eq!(both.text.as_deref(), Some("~/palettes/mist"));
        assert_eq!(both.names, ["mist-dawn.toml", "mist.toml"]);
        assert_eq!(completed("~/palettes/mist."), one("~/palettes/mist.toml"));
        assert_eq!(completed("~/nothing").text, None);
        assert_eq!(completed("~/").names, Vec::<String>::new());
        assert_eq!(completed("~/.h"), one("~/.hidden"));
    }

    #[test]
    fn what_is_not_here_is_looked_up_in_the_home() {
        let (folder, home) = home(&["weir-gate/mist.toml"]);
        let there = folder.path().join("weir-gate/mist.toml");
        assert_eq!(home.look_up("weir-gate/mist.toml"), there);
        assert_eq!(home.look_up("~/weir-gate/mist.toml"), there);
        assert_eq!(home.look_up("no-such.toml"), PathBuf::from("no-such.toml"));
        let completion = home.complete("weir-g");
        assert_eq!(completion.text.as_deref(), Some("weir-gate/"));
    }
}
