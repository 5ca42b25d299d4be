//! Fonts on disk: finding them, the index, archives, installing.

mod folders;
mod index;
mod install;
mod source;
mod substitutes;

use std::io;
use std::path::Path;
use std::sync::Arc;

use wealdmist_core::font::{self, Entry, Typeface};

use crate::files::read_regular;
use crate::limits;

pub use folders::{folders as font_folders, own_folder as own_font_folder};
pub use index::{FontIndex, UnusableFont, index_path};
pub use install::{InstallPlan, Installed, Restart, install, plan_install, refresh_cache};
pub use source::{FontSource, SourceError, SourceFont, open_source};
pub use substitutes::Substitutes;

/// The bytes of a font file.
///
/// # Errors
/// When it is gone, is no regular file, or is larger than any font.
pub fn read_font(path: &Path) -> io::Result<Vec<u8>> {
    let gone = || io::Error::new(io::ErrorKind::NotFound, "it is gone");
    read_regular(path, limits::FONT)?.ok_or_else(gone)
}

/// Reads a face of a file for work.
///
/// # Errors
/// When the file cannot be read, or has no such face; the message names the file.
pub fn open_face(entry: &Entry) -> Result<Typeface, String> {
    let name = |e: &dyn std::fmt::Display| format!("{}: {e}", entry.path.display());
    let bytes = read_font(&entry.path).map_err(|e| name(&e))?;
    Typeface::open(Arc::new(bytes), entry.info.index).map_err(|e| name(&e))
}

/// The facts of a face by its entry, with the file's name in what goes wrong.
///
/// # Errors
/// When the file cannot be read or the face is damaged.
pub fn face_facts(entry: &Entry) -> Result<font::facts::Facts, String> {
    let bytes = read_font(&entry.path).map_err(|e| format!("{}: {e}", entry.path.display()))?;
    font::facts::facts(&bytes, entry.info.index)
        .map_err(|e| format!("{}: {e}", entry.path.display()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::make_demo;
    use crate::home::Home;

    #[test]
    fn a_face_that_has_gone_is_an_error_with_its_file() {
        let dir = tempfile::tempdir().unwrap();
        make_demo(&dir.path().join("home")).unwrap();
        let home = Home::open(Some(&dir.path().join("home"))).unwrap();
        let catalog = FontIndex::open(&home).catalog();
        let mut entry = catalog.faces[0].clone();
        entry.path = "/nonexistent/a.ttf".into();
        assert!(
            open_face(&entry)
                .unwrap_err()
                .starts_with("/nonexistent/a.ttf: ")
        );
        assert!(
            face_facts(&entry)
                .unwrap_err()
                .starts_with("/nonexistent/a.ttf: ")
        );
        let own = catalog.of_family("Reedbed Mono NF").next().unwrap();
        assert!(face_facts(own).unwrap().glyphs > 1000);
    }
}
