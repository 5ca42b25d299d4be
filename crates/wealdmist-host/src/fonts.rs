//! Font files on disk: finding the face a name means.

use std::fs;
use std::path::{Path, PathBuf};

use wealdmist_core::finding::FontState;
use wealdmist_core::font::{self, FaceInfo};
use wealdmist_core::text::closest;
use wealdmist_tools::Access;

use crate::home::Home;

/// Font files larger than this are passed over, in bytes.
const MAX_FONT: u64 = 64 << 20;
/// How deep font folders are searched.
const MAX_DEPTH: usize = 8;

/// The outcome of a search.
#[derive(Debug, Clone, PartialEq)]
pub struct FontSearch {
    /// What findings need to know.
    pub state: FontState,
    /// The file of the face, where one was found.
    pub file: Option<(PathBuf, FaceInfo)>,
    /// How many font files were looked at.
    pub files: usize,
}

/// The folders fonts are kept in: the home's first, then the system's.
fn folders(home: &Home) -> Vec<PathBuf> {
    let data = match home.env("XDG_DATA_HOME") {
        Some(dir) if Path::new(&dir).is_absolute() => PathBuf::from(dir),
        _ => home.home().join(".local/share"),
    };
    let own = [data.join("fonts"), home.home().join(".fonts")];
    let system = ["/usr/local/share/fonts", "/usr/share/fonts"].map(PathBuf::from);
    own.into_iter().chain(system).collect()
}

fn walk(folder: &Path, depth: usize, out: &mut Vec<PathBuf>) {
    if depth > MAX_DEPTH {
        return;
    }
    let Ok(entries) = fs::read_dir(folder) else {
        return;
    };
    let mut entries: Vec<_> = entries.flatten().map(|e| e.path()).collect();
    entries.sort();
    for path in entries {
        if path.is_dir() {
            walk(&path, depth + 1, out);
        } else if path.extension().is_some_and(|e| {
            ["ttf", "otf", "ttc", "otc"]
                .iter()
                .any(|k| e.eq_ignore_ascii_case(k))
        }) {
            out.push(path);
        }
    }
}

/// Every font file of the home and the system.
#[must_use]
pub fn font_files(home: &Home) -> Vec<PathBuf> {
    let mut files = Vec::new();
    for folder in folders(home) {
        walk(&folder, 0, &mut files);
    }
    files
}

/// Looks for the face a family name means and reads which characters it has. The upright
/// regular face is preferred. Files that cannot be read are passed over.
#[must_use]
pub fn find_font(home: &Home, family: Option<&str>) -> FontSearch {
    let Some(family) = family else {
        return FontSearch {
            state: FontState::NotChosen,
            file: None,
            files: 0,
        };
    };
    let files = font_files(home);
    let mut families = Vec::new();
    let mut best: Option<(PathBuf, FaceInfo)> = None;
    let count = files.len();
    for path in files {
        if path
            .metadata()
            .map_or(true, |m| m.len() > MAX_FONT || !m.is_file())
        {
            continue;
        }
        let Ok(bytes) = fs::read(&path) else { continue };
        let Ok(faces) = font::faces(&bytes) else {
            continue;
        };
        for face in faces {
            families.extend(face.families.iter().cloned());
            let regular = |f: &FaceInfo| {
                f.style.eq_ignore_ascii_case("regular") || f.style.eq_ignore_ascii_case("book")
            };
            let better = match &best {
                None => true,
                Some((_, old)) => !regular(old) && regular(&face),
            };
            if better && (face.has_family(family) || face.answers_to(family)) {
                best = Some((path.clone(), face));
            }
        }
    }
    let found = best.and_then(|(path, face)| {
        let bytes = fs::read(&path).ok()?;
        let coverage = font::coverage(&bytes, face.index).ok()?;
        Some((path, face, coverage))
    });
    match found {
        Some((path, face, coverage)) => FontSearch {
            state: FontState::Found(coverage),
            file: Some((path, face)),
            files: count,
        },
        None => {
            families.sort();
            families.dedup();
            let nearest = closest(family, families.iter().map(String::as_str)).map(str::to_owned);
            let state = FontState::NotFound {
                family: family.to_owned(),
                nearest,
            };
            FontSearch {
                state,
                file: None,
                files: count,
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::demo::fonts;

    #[test]
    fn the_face_is_found_by_its_family_and_a_near_name_offered() {
        let dir = tempfile::tempdir().unwrap();
        let fonts_dir = dir.path().join(".local/share/fonts/sub");
        fs::create_dir_all(&fonts_dir).unwrap();
        fs::write(fonts_dir.join("a.ttf"), fonts::complete()).unwrap();
        fs::write(fonts_dir.join("broken.ttf"), b"not a font").unwrap();
        let home = Home::open(Some(dir.path())).unwrap();
        let found = find_font(&home, Some("reedbed mono nf"));
        assert!(matches!(found.state, FontState::Found(c) if c.has('\u{e725}')));
        let missed = find_font(&home, Some("ReedbedMono NF"));
        assert_eq!(
            missed.state,
            FontState::NotFound {
                family: "ReedbedMono NF".into(),
                nearest: Some("Reedbed Mono NF".into())
            }
        );
        assert_eq!(find_font(&home, None).state, FontState::NotChosen);
    }
}
