//! Which other fonts the system takes characters from, in its own order.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::process::Command;

use wealdmist_core::font::{Catalog, Entry};
use wealdmist_tools::Access;

use super::folders::is_font_file;
use crate::home::Home;
use crate::limits;
use crate::platform;

/// Faces in the order in which the system's font configuration offers them for a pattern.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Substitutes(Vec<usize>);

impl Substitutes {
    /// Asks for the order; `None` where nobody answers.
    #[must_use]
    pub fn ask(home: &Home, catalog: &Catalog, pattern: &str) -> Option<Self> {
        let mut command = Command::new("fc-match");
        command
            .args(["--all", "--format", "%{file}\\t%{index}\\n", "--", pattern])
            .env("HOME", home.home_path())
            .env("XDG_DATA_HOME", home.data())
            .env("XDG_CONFIG_HOME", home.config_home())
            // What it keeps for itself goes beside our own index, so that a look changes nothing.
            .env("XDG_CACHE_HOME", home.cache());
        let output = platform::run(&mut command, limits::FONT_ORDER_TIME)?;
        let text = String::from_utf8_lossy(&output.stdout);
        let found = Self::parse(&text, catalog);
        (output.status.success() && !found.0.is_empty()).then_some(found)
    }

    fn parse(text: &str, catalog: &Catalog) -> Self {
        let numbered = |path: &dyn Fn(&Entry) -> PathBuf| -> HashMap<(PathBuf, u32), usize> {
            let faces = catalog.faces.iter().enumerate();
            faces
                .map(|(i, entry)| ((path(entry), entry.info.index), i))
                .collect()
        };
        let known = numbered(&|entry| entry.path.clone());
        // The same file may be reached by another path: links are followed where one is not known.
        let real = |path: &Path| path.canonicalize().unwrap_or_else(|_| path.to_owned());
        let mut followed = None;
        let lines = text.lines().filter_map(|line| {
            let (file, index) = line.rsplit_once('\t')?;
            // Above the number of the face stands that of an instance of its axes.
            let face = index.parse::<u32>().ok()? & 0xffff;
            let path = Path::new(file);
            if let Some(found) = known.get(&(path.to_owned(), face)) {
                return Some(*found);
            }
            if !is_font_file(path) {
                return None;
            }
            let followed = followed.get_or_insert_with(|| numbered(&|entry| real(&entry.path)));
            followed.get(&(real(path), face)).copied()
        });
        Self(lines.collect())
    }

    /// The face a character is taken from.
    #[must_use]
    pub fn first<'a>(&self, catalog: &'a Catalog, c: char) -> Option<&'a Entry> {
        let faces = self.0.iter().filter_map(|i| catalog.faces.get(*i));
        faces.into_iter().find(|entry| entry.coverage.has(c))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::Arc;
    use wealdmist_core::demo::fonts;
    use wealdmist_core::font::{coverage, faces};

    fn catalog() -> Catalog {
        let entry = |(path, bytes): (&str, Vec<u8>)| Entry {
            path: path.into(),
            info: faces(&bytes).unwrap().remove(0),
            coverage: Arc::new(coverage(&bytes, 0).unwrap()),
        };
        let files = [
            ("/f/a.ttf", fonts::without_icons()),
            ("/f/b.ttf", fonts::complete()),
            ("/f/c.ttf", fonts::bold()),
        ];
        Catalog {
            faces: files.into_iter().map(entry).collect(),
        }
    }

    #[test]
    fn the_order_told_is_the_order_taken() {
        let catalog = catalog();
        let said = "/f/a.ttf\t0\n/elsewhere/x.ttf\t0\n/f/c.ttf\t131072\n/f/b.ttf\t0\n/f/b.ttf\t1\nnonsense\n\t\n";
        let order = Substitutes::parse(said, &catalog);
        assert_eq!(order, Substitutes(vec![0, 2, 1]));
        let file = |c| order.first(&catalog, c).map(|e| e.path.to_str().unwrap());
        assert_eq!(file('a'), Some("/f/a.ttf"));
        assert_eq!(file('\u{e725}'), Some("/f/c.ttf"));
        assert_eq!(file('字'), None);
    }

    #[test]
    fn a_file_reached_by_another_path_is_the_same() {
        let dir = tempfile::tempdir().unwrap();
        let (file, link) = (dir.path().join("a.ttf"), dir.path().join("link"));
        std::fs::write(&file, b"").unwrap();
        std::os::unix::fs::symlink(dir.path(), &link).unwrap();
        let mut catalog = catalog();
        catalog.faces[1].path = file;
        let said = format!("{}\t0\n", link.join("a.ttf").display());
        assert_eq!(Substitutes::parse(&said, &catalog), Substitutes(vec![1]));
    }

    #[test]
    fn nobody_answers_for_fonts_that_are_not_there() {
        let dir = tempfile::tempdir().unwrap();
        let home = Home::open(Some(dir.path())).unwrap();
        assert_eq!(Substitutes::ask(&home, &catalog(), "monospace"), None);
    }
}
