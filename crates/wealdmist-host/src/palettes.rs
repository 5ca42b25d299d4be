//! Palette files on disk: one, or all of a folder.

use std::path::{Path, PathBuf};

use crate::Home;
use crate::files::read_regular;
use crate::limits;
use wealdmist_tools::exchange::{Format, Imported, import_file, no_text, text_of};

/// A palette file that cannot be used.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{}{}: {message}; {help}", path.display(), line.map_or_else(String::new, |l| format!(":{l}")))]
pub struct PaletteFileError {
    /// The file.
    pub path: PathBuf,
    /// The line, from 1; `None` where it is about the whole file.
    pub line: Option<usize>,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: String,
}

/// A palette file of a folder.
#[derive(Debug, Clone, PartialEq)]
pub struct PaletteFile {
    /// Where it is.
    pub path: PathBuf,
    /// What it gave.
    pub found: Imported,
}

impl PaletteFile {
    /// What the palette is called: as the file says, else as the file is called, with the part of it where it has several.
    #[must_use]
    pub fn name(&self) -> String {
        let stem = || {
            let name = self.path.file_name().unwrap_or_default().to_string_lossy();
            name.split('.')
                .find(|p| !p.is_empty())
                .unwrap_or("palette")
                .to_owned()
        };
        match (&self.found.name, &self.found.scheme) {
            (Some(name), _) => name.clone(),
            (None, Some(scheme)) => format!("{} {scheme}", stem()),
            (None, None) => stem(),
        }
    }
}

/// Reads the schemes of one palette file, mostly one; `None` finds its format out. What it includes is read as a program of
/// this home would.
///
/// # Errors
/// When it cannot be read, or a value in it is broken: then nothing of it is used.
pub fn read_palettes(
    home: &Home,
    path: &Path,
    format: Option<&'static Format>,
) -> Result<Vec<PaletteFile>, PaletteFileError> {
    let fail = |line: Option<usize>, message: String, help: &str| PaletteFileError {
        path: path.to_owned(),
        line,
        message,
        help: help.to_owned(),
    };
    let bytes = match read_regular(path, limits::PALETTE) {
        Ok(Some(bytes)) => bytes,
        Ok(None) => return Err(fail(None, "there is no such file".into(), "check the path")),
        Err(e) => {
            let help = "give a palette file of at most 4 MiB";
            return Err(fail(None, e.to_string(), help));
        }
    };
    let text = match text_of(&bytes) {
        Ok(text) => text,
        Err(at) => {
            let line = wealdmist_core::text::position(&bytes, at).line;
            let (why, help) = no_text(&bytes);
            return Err(fail(Some(line), why.into(), help));
        }
    };
    let whole = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    match import_file(format, &whole, &text, home) {
        Ok(all) => {
            let file = |found| PaletteFile {
                path: path.to_owned(),
                found,
            };
            Ok(all.into_iter().map(file).collect())
        }
        Err(e) => Err(fail(Some(e.line), e.message, &e.help)),
    }
}

/// The palettes of a folder, by name, and how many of its files were none. Folders inside are not
/// entered.
///
/// # Errors
/// When the folder cannot be listed.
pub fn read_folder(home: &Home, path: &Path) -> std::io::Result<(Vec<PaletteFile>, usize)> {
    let mut files: Vec<PathBuf> = std::fs::read_dir(path)?
        .filter_map(Result::ok)
        .map(|e| e.path())
        .filter(|p| p.is_file())
        .collect();
    files.sort();
    files.truncate(limits::PALETTES);
    let mut found = Vec::new();
    let mut others = 0;
    for path in &files {
        let read = read_palettes(home, path, None).unwrap_or_default();
        let before = found.len();
        found.extend(read.into_iter().filter(|f| f.found.slots.len() >= 2));
        others += usize::from(found.len() == before);
    }
    found.truncate(limits::PALETTES);
    Ok((found, others))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read_palette(home: &Home, path: &Path) -> Result<PaletteFile, PaletteFileError> {
        read_palettes(home, path, None).map(|mut all| all.remove(0))
    }
    use wealdmist_core::role::Slot;

    #[test]
    fn a_folder_gives_its_palettes_in_order_and_counts_the_rest() {
        let folder = tempfile::tempdir().unwrap();
        let write =
            |name: &str, text: &[u8]| std::fs::write(folder.path().join(name), text).unwrap();
        write("b.conf", b"foreground #dddddd\nbackground #101010\n");
        write(
            "a.Xresources",
            b"*foreground: #111111\n*background: #eeeeee\n",
        );
        write("notes.txt", b"nothing here\n");
        write("binary", b"\xff\xfe\x00");
        std::fs::create_dir(folder.path().join("inner")).unwrap();
        let home = Home::open(Some(folder.path())).unwrap();
        let (found, others) = read_folder(&home, folder.path()).unwrap();
        let names: Vec<String> = found.iter().map(PaletteFile::name).collect();
        assert_eq!((names, others), (vec!["a".to_owned(), "b".to_owned()], 2));
    }

    #[test]
    fn files_are_read_as_people_have_them() {
        let folder = tempfile::tempdir().unwrap();
        let home = Home::open(Some(folder.path())).unwrap();
        let text = "foreground #dddddd\nbackground #101010\n";
        let wide = |bytes: fn(u16) -> [u8; 2]| -> Vec<u8> {
            let units = std::iter::once(0xfeff).chain(text.encode_utf16());
            units.flat_map(bytes).collect()
        };
        let marked = ["\u{feff}", text].concat().into_bytes();
        for bytes in [marked, wide(u16::to_le_bytes), wide(u16::to_be_bytes)] {
            let path = folder.path().join("mist.conf");
            std::fs::write(&path, bytes).unwrap();
            let found = read_palette(&home, &path).unwrap().found;
            assert_eq!(found.slots.len(), 2, "the first line counts, too");
        }
        let path = folder.path().join("odd.conf");
        std::fs::write(&path, b"\xff\xfe\x00\xd8").unwrap();
        assert!(read_palette(&home, &path).is_err());
    }

    #[test]
    fn what_a_settings_file_includes_belongs_to_its_palette() {
        let folder = tempfile::tempdir().unwrap();
        let home = Home::open(Some(folder.path())).unwrap();
        let write = |name: &str, text: &str| {
            std::fs::create_dir_all(folder.path().join("themes")).unwrap();
            std::fs::write(folder.path().join(name), text).unwrap();
        };
        write(
            "kitty.conf",
            "# colors.primary and [colors] are words of another program\nfont_size 12\ncolor1 #aa0000\ninclude themes/mist.conf\nactive_border_color #80a0c0\n",
        );
        write(
            "themes/mist.conf",
            "background #101418\nforeground SlateGray\ncolor1 #cc4444\n",
        );
        let found = read_palette(&home, &folder.path().join("kitty.conf"));
        let found = found.unwrap().found;
        let slot = |slot: Slot| found.slots.get(&slot).map(ToString::to_string);
        assert_eq!(slot(Slot::Background).as_deref(), Some("#101418"));
        assert_eq!(slot(Slot::Foreground).as_deref(), Some("#708090"));
        assert_eq!(slot(Slot::Red).as_deref(), Some("#cc4444"), "the later one");
        assert_eq!(slot(Slot::Green), None, "nothing is made up");
        let (role, color) = &found.roles[0];
        assert_eq!(
            (role.as_str(), color.to_string().as_str()),
            ("border.active", "#80a0c0")
        );
        write("other.conf", "font_size 12\ninclude themes/mist.conf\n");
        let found = read_palette(&home, &folder.path().join("other.conf")).unwrap();
        assert_eq!(
            found.found.slots.len(),
            3,
            "all of it stands in the included file"
        );
    }

    #[test]
    fn a_broken_file_is_named_with_its_line() {
        let folder = tempfile::tempdir().unwrap();
        let home = Home::open(Some(folder.path())).unwrap();
        let path = folder.path().join("x.conf");
        std::fs::write(&path, "foreground #dddddd\nbackground #10101\n").unwrap();
        let said = read_palette(&home, &path).unwrap_err().to_string();
        assert!(said.contains("x.conf:2: '#10101' is not a color"), "{said}");
        std::fs::write(&path, b"foreground #dddddd\n\xff").unwrap();
        assert_eq!(read_palette(&home, &path).unwrap_err().line, Some(2));
        assert!(read_palette(&home, folder.path()).is_err());
    }
}
