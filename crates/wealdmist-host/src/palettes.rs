//! Palette files on disk: one, or all of a folder.

use std::path::{Path, PathBuf};

use crate::Home;
use crate::files::read_regular;
use crate::limits;
use wealdmist_tools::exchange::{Format, Imported, import_file};

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
    /// What the palette is called: as the file says, else as the file is called.
    #[must_use]
    pub fn name(&self) -> String {
        let stem = || {
            let name = self.path.file_name().unwrap_or_default().to_string_lossy();
            name.split('.')
                .find(|p| !p.is_empty())
                .unwrap_or("palette")
                .to_owned()
        };
        self.found.name.clone().unwrap_or_else(stem)
    }
}

/// Reads one palette file; `None` finds its format out. What it includes is read as a program of this home
/// would.
///
/// # Errors
/// When it cannot be read, or a value in it is broken: then nothing of it is used.
pub fn read_palette(
    home: &Home,
    path: &Path,
    format: Option<&'static Format>,
) -> Result<PaletteFile, PaletteFileError> {
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
    let text = match std::str::from_utf8(&bytes) {
        Ok(text) => text,
        Err(e) => {
            let line = wealdmist_core::text::position(&bytes, e.valid_up_to()).line;
            return Err(fail(
                Some(line),
                "this is not text".into(),
                "give a text file in UTF-8",
            ));
        }
    };
    let whole = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    match import_file(format, &whole, text, home) {
        Ok(found) => Ok(PaletteFile {
            path: path.to_owned(),
            found,
        }),
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
    let all = files.len();
    let found: Vec<PaletteFile> = files
        .iter()
        .filter_map(|p| read_palette(home, p, None).ok())
        .filter(|f| f.found.slots.len() >= 2)
        .collect();
    let others = all - found.len();
    Ok((found, others))
}

#[cfg(test)]
mod tests {
    use super::*;
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
        let found = read_palette(&home, &folder.path().join("kitty.conf"), None);
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
        let found = read_palette(&home, &folder.path().join("other.conf"), None).unwrap();
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
        let said = read_palette(&home, &path, None).unwrap_err().to_string();
        assert!(said.contains("x.conf:2: '#10101' is not a color"), "{said}");
        std::fs::write(&path, b"foreground #dddddd\n\xff").unwrap();
        assert_eq!(read_palette(&home, &path, None).unwrap_err().line, Some(2));
        assert!(read_palette(&home, folder.path(), None).is_err());
    }
}
