//! Where fonts are kept: the home's and the system's folders, and those that the system's font
//! configuration names.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};

use fontconfig_parser::{ConfigPart, DirPrefix};
use wealdmist_core::guard::guarded_deep;

use crate::files::read_regular;
use crate::limits;
use crate::platform::places::{FONT_CONFIGURATION, font_folders};
use wealdmist_tools::Access;

use crate::home::Home;

/// The extensions of font files that are read.
const EXTENSIONS: [&str; 4] = ["ttf", "otf", "ttc", "otc"];

/// Whether a path looks like a font file.
#[must_use]
pub fn is_font_file(path: &Path) -> bool {
    path.extension()
        .is_some_and(|e| EXTENSIONS.iter().any(|k| e.eq_ignore_ascii_case(k)))
}

/// The folder of the person's own fonts.
#[must_use]
pub fn own_folder(home: &Home) -> PathBuf {
    home.data().join("fonts")
}

/// Every folder in which fonts are looked for, the home's own first.
#[must_use]
pub fn folders(home: &Home) -> Vec<PathBuf> {
    let mut out = vec![own_folder(home), home.home().join(".fonts")];
    let mut found = Configured::default();
    let system = home
        .env("FONTCONFIG_FILE")
        .map_or(FONT_CONFIGURATION.into(), PathBuf::from);
    found.read(home, &system);
    let own = home.config_home().join("fontconfig");
    found.read(home, &own.join("conf.d"));
    found.read(home, &own.join("fonts.conf"));
    out.extend(found.folders);
    out.extend(font_folders());
    let mut seen = BTreeSet::new();
    out.retain(|f| seen.insert(f.clone()));
    out
}

/// What configuration files say of folders.
#[derive(Default)]
struct Configured {
    folders: Vec<PathBuf>,
    read: BTreeSet<PathBuf>,
}

impl Configured {
    /// Reads a file, or the numbered files of a folder, with what they include.
    fn read(&mut self, home: &Home, path: &Path) {
        if self.read.len() >= limits::FONT_CONFIGURATIONS || !self.read.insert(path.to_owned()) {
            return;
        }
        if path.is_dir() {
            let entries = fs::read_dir(path).into_iter().flatten().flatten();
            let numbered = |name: &str| {
                name.ends_with(".conf") && name.starts_with(|c: char| c.is_ascii_digit())
            };
            let mut files: Vec<PathBuf> = entries
                .filter(|e| numbered(&e.file_name().to_string_lossy()))
                .map(|e| e.path())
                .collect();
            files.sort();
            for file in files {
                self.read(home, &file);
            }
            return;
        }
        let read = read_regular(path, limits::FONT_CONFIGURATION)
            .ok()
            .flatten();
        let Some(text) = read.and_then(|bytes| String::from_utf8(bytes).ok()) else {
            return;
        };
        // A file that is no valid configuration says nothing; the system's own reader warns of it.
        let parsed = guarded_deep(|| fontconfig_parser::parse_config_parts(&text).ok());
        let Ok(Some(parts)) = parsed else {
            return;
        };
        for part in parts {
            match part {
                ConfigPart::Dir(dir) => {
                    let base = home.data();
                    if let Some(folder) = resolve(home, &dir.path, dir.prefix, &base, path) {
                        self.folders.push(folder);
                    }
                }
                ConfigPart::Include(include) => {
                    let base = home.config_home();
                    let prefix = match include.prefix {
                        DirPrefix::Default | DirPrefix::Cwd => DirPrefix::Relative,
                        prefix => prefix,
                    };
                    if let Some(file) = resolve(home, &include.path, prefix, &base, path) {
                        self.read(home, &file);
                    }
                }
                ConfigPart::ResetDirs => self.folders.clear(),
                _ => {}
            }
        }
    }
}

/// A path of the configuration, in this home; `None` for one relative to who knows what.
fn resolve(home: &Home, path: &str, prefix: DirPrefix, xdg: &Path, file: &Path) -> Option<PathBuf> {
    if path.starts_with('~') || path.starts_with('/') {
        return Some(home.expand(path));
    }
    match prefix {
        DirPrefix::Xdg => Some(xdg.join(path)),
        DirPrefix::Relative => Some(file.parent()?.join(path)),
        DirPrefix::Default | DirPrefix::Cwd => None,
    }
}

/// Every font file below folders, each file once.
#[must_use]
pub fn files_below(folders: &[PathBuf]) -> Vec<PathBuf> {
    let mut out = Vec::new();
    let mut seen = BTreeSet::new();
    for folder in folders {
        walk(folder, 0, &mut seen, &mut out);
    }
    out
}

fn walk(folder: &Path, depth: usize, seen: &mut BTreeSet<PathBuf>, out: &mut Vec<PathBuf>) {
    if depth > limits::FONT_FOLDERS_DEPTH || out.len() >= limits::FONT_FILES {
        return;
    }
    // The same folder is reached by several names, and by links that lead back up.
    let Ok(real) = folder.canonicalize() else {
        return;
    };
    if !seen.insert(real) {
        return;
    }
    let Ok(entries) = fs::read_dir(folder) else {
        return;
    };
    let mut entries: Vec<_> = entries.flatten().collect();
    entries.sort_by_key(fs::DirEntry::file_name);
    for entry in entries {
        let path = entry.path();
        let Ok(kind) = entry.file_type() else {
            continue;
        };
        if kind.is_dir() || (kind.is_symlink() && path.is_dir()) {
            walk(&path, depth + 1, seen, out);
        } else if is_font_file(&path) {
            out.push(path);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn folders_of_the_configuration_are_found_and_links_lead_nowhere_twice() {
        let dir = tempfile::tempdir().unwrap();
        let root = dir.path();
        let write = |path: &str, text: &str| {
            let path = root.join(path);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, text).unwrap();
        };
        write(
            ".config/fontconfig/fonts.conf",
            "<?xml version=\"1.0\"?><!DOCTYPE fontconfig SYSTEM \"fonts.dtd\"><fontconfig><dir>~/reeds</dir><dir prefix=\"xdg\">more</dir><include>extra.conf</include></fontconfig>",
        );
        write(
            ".config/fontconfig/extra.conf",
            "<?xml version=\"1.0\"?><fontconfig><dir>/opt/marsh/fonts</dir><include>fonts.conf</include></fontconfig>",
        );
        write(
            ".config/fontconfig/conf.d/10-broken.conf",
            "<fontconfig><dir>",
        );
        write("reeds/a.ttf", "x");
        write("reeds/readme.txt", "x");
        std::os::unix::fs::symlink(root.join("reeds"), root.join("reeds/loop")).unwrap();
        let home = Home::open(Some(root)).unwrap();
        let found = folders(&home);
        let own = home.home();
        for folder in [
            own.join(".local/share/fonts"),
            own.join("reeds"),
            own.join(".local/share/more"),
            "/opt/marsh/fonts".into(),
            "/usr/share/fonts".into(),
        ] {
            assert!(
                found.contains(&folder),
                "{} is not in {found:?}",
                folder.display()
            );
        }
        assert_eq!(
            files_below(&[own.join("reeds"), own.join("reeds/loop")]),
            [own.join("reeds/a.ttf")]
        );
    }
}
