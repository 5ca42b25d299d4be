//! Fonts that are not installed: a file, a folder, or a downloaded archive, which is hostile until
//! its entries have been checked. Nothing is unpacked to disk; only names and bytes are taken.

use std::fs::{self, File};
use std::io::{self, BufReader, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use lzma_rust2::XzReader;
use wealdmist_core::font::{self, Catalog, Entry, FaceInfo};

use super::folders::{files_below, is_font_file};
use crate::files::open_regular;
use crate::limits;

/// A source that cannot be read.
#[derive(Debug, thiserror::Error)]
pub enum SourceError {
    /// It cannot be opened.
    #[error("{} cannot be read: {source}", path.display())]
    Io {
        /// The file or folder.
        path: PathBuf,
        /// Why.
        source: io::Error,
    },
    /// It is no archive, or a damaged one.
    #[error("{}: the archive is damaged: {why}", path.display())]
    Damaged {
        /// The archive.
        path: PathBuf,
        /// Why.
        why: String,
    },
    /// It is too much.
    #[error("{}: {what}; take the fonts you want out of it and give those", path.display())]
    TooMuch {
        /// The archive or folder.
        path: PathBuf,
        /// What there is too much of.
        what: String,
    },
    /// There is no font in it.
    #[error("{} holds no font that can be used{}", path.display(), if refused.is_empty() { String::new() } else { format!(": {}", refused.join("; ")) })]
    NoFont {
        /// The source.
        path: PathBuf,
        /// What was passed over, and why.
        refused: Vec<String>,
    },
}

/// A font file of a source.
#[derive(Debug, Clone)]
pub struct SourceFont {
    /// Its file name, without any folder.
    pub name: String,
    /// Its bytes.
    pub bytes: Arc<Vec<u8>>,
    /// Its faces.
    pub faces: Vec<FaceInfo>,
}

/// What a file, folder or archive holds.
#[derive(Debug, Clone)]
pub struct FontSource {
    /// Where it is.
    pub path: PathBuf,
    /// The font files that can be used.
    pub fonts: Vec<SourceFont>,
    /// Licence files: name and text.
    pub licences: Vec<(String, Vec<u8>)>,
    /// What was passed over, and why.
    pub refused: Vec<String>,
}

impl FontSource {
    /// Its faces as a catalog; each path is the source's with the font's file name.
    #[must_use]
    pub fn catalog(&self) -> Catalog {
        let of_file = |file: &SourceFont| {
            let path = self.path.join(&file.name);
            let bytes = Arc::clone(&file.bytes);
            let entry = move |info: &FaceInfo| Entry {
                path: path.clone(),
                info: info.clone(),
                coverage: font::coverage(&bytes, info.index)
                    .unwrap_or_default()
                    .into(),
            };
            file.faces.iter().map(entry).collect::<Vec<_>>()
        };
        Catalog {
            faces: self.fonts.iter().flat_map(of_file).collect(),
        }
    }

    /// The bytes of the file an entry of the catalog is in.
    #[must_use]
    pub fn bytes_of(&self, entry: &Entry) -> Option<Arc<Vec<u8>>> {
        let holds = |f: &&SourceFont| {
            self.path.join(&f.name) == entry.path && f.faces.contains(&entry.info)
        };
        self.fonts.iter().find(holds).map(|f| Arc::clone(&f.bytes))
    }
}

/// Reads a font file, a folder of them, or a zip or tar archive (plain, gzip or xz).
///
/// # Errors
/// When it cannot be read, is more than anybody needs, or holds no font.
pub fn open_source(path: &Path) -> Result<FontSource, SourceError> {
    let fail = |source| SourceError::Io {
        path: path.to_owned(),
        source,
    };
    let meta = fs::metadata(path).map_err(fail)?;
    let mut taken = Taken {
        path,
        total: 0,
        budget: (meta.len().saturating_mul(limits::ARCHIVE_RATIO))
            .clamp(limits::ARCHIVE_LEAST, limits::ARCHIVE_UNPACKED),
        out: FontSource {
            path: path.to_owned(),
            fonts: Vec::new(),
            licences: Vec::new(),
            refused: Vec::new(),
        },
    };
    if meta.is_dir() {
        taken.budget = u64::MAX;
        let mut files = files_below(&[path.to_owned()]);
        files.extend(
            fs::read_dir(path)
                .map_err(fail)?
                .flatten()
                .map(|e| e.path())
                .filter(|p| p.is_file() && !is_font_file(p)),
        );
        for file in files {
            let name = file
                .file_name()
                .unwrap_or_default()
                .to_string_lossy()
                .into_owned();
            if taken.wants(&name) {
                // A pipe among them is passed over.
                if let Ok(Some(opened)) = open_regular(&file) {
                    taken.take(&name, opened)?;
                }
            }
        }
        return taken.finish();
    }
    let open = || {
        let gone = || io::Error::new(io::ErrorKind::NotFound, "it is gone");
        open_regular(path)
            .and_then(|f| f.ok_or_else(gone))
            .map_err(fail)
    };
    let mut head = [0u8; 262];
    let mut file = open()?;
    let count = read_up_to(&mut file, &mut head).map_err(fail)?;
    let file = BufReader::new(open()?);
    match &head[..count] {
        [b'P', b'K', 3 | 5, 4 | 6, ..] => taken.zip(file)?,
        [0x1f, 0x8b, ..] => taken.tar(flate2::read::GzDecoder::new(file))?,
        [0xfd, b'7', b'z', b'X', b'Z', 0, ..] => {
            taken.tar(XzReader::new_mem_limit(
                file,
                true,
                limits::ARCHIVE_DICTIONARY,
            ))?;
        }
        head if head.len() == 262 && &head[257..262] == b"ustar" => taken.tar(file)?,
        _ => {
            let name = path
                .file_name()
                .unwrap_or_default()
                .to_string_lossy()
                .into_owned();
            taken.take_font(&name, file)?;
        }
    }
    taken.finish()
}

fn read_up_to(file: &mut File, buffer: &mut [u8]) -> io::Result<usize> {
    let mut count = 0;
    while count < buffer.len() {
        match file.read(&mut buffer[count..])? {
            0 => break,
            n => count += n,
        }
    }
    Ok(count)
}

/// A reader that gives up when too much has come out of it.
struct Limited<'a, R> {
    inner: R,
    left: &'a mut u64,
}

impl<R: Read> Read for Limited<'_, R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.inner.read(buffer)?;
        match self.left.checked_sub(count as u64) {
            Some(left) => *self.left = left,
            None => return Err(io::Error::other("it unpacks to far more than fonts do")),
        }
        Ok(count)
    }
}

struct Taken<'a> {
    path: &'a Path,
    total: u64,
    /// How many bytes may still be unpacked.
    budget: u64,
    out: FontSource,
}

impl Taken<'_> {
    fn damaged(&self, why: &str) -> SourceError {
        SourceError::Damaged {
            path: self.path.to_owned(),
            why: why.to_owned(),
        }
    }

    fn too_much(&self, what: String) -> SourceError {
        SourceError::TooMuch {
            path: self.path.to_owned(),
            what,
        }
    }

    fn refuse(&mut self, name: &str, why: &str) {
        if self.out.refused.len() < 50 {
            let name = wealdmist_core::text::visible(name.as_bytes());
            self.out.refused.push(format!("{name}: {why}"));
        }
    }

    fn wants(&self, name: &str) -> bool {
        is_font_file(Path::new(name)) || is_licence(name)
    }

    fn zip(&mut self, file: BufReader<File>) -> Result<(), SourceError> {
        let mut archive = zip::ZipArchive::new(file).map_err(|e| self.damaged(&e.to_string()))?;
        if archive.len() > limits::ARCHIVE_ENTRIES {
            return Err(self.too_much(format!("the archive has {} entries", archive.len())));
        }
        for i in 0..archive.len() {
            let entry = archive
                .by_index(i)
                .map_err(|e| self.damaged(&e.to_string()))?;
            let name = entry
                .name()
                .map_or_else(|_| String::from("?"), std::borrow::Cow::into_owned);
            if entry.is_file() && !entry.is_symlink() {
                let mut budget = self.budget;
                let limited = Limited {
                    inner: entry,
                    left: &mut budget,
                };
                self.entry(&name, limited)?;
                self.budget = budget;
            } else if !entry.is_dir() {
                self.refuse(&name, "links are not followed");
            }
        }
        Ok(())
    }

    fn tar(&mut self, reader: impl Read) -> Result<(), SourceError> {
        let mut budget = self.budget;
        // The whole stream counts, also what stands between the entries that are taken.
        let mut archive = tar::Archive::new(Limited {
            inner: reader,
            left: &mut budget,
        });
        let entries = archive
            .entries()
            .map_err(|e| self.damaged(&e.to_string()))?;
        for (i, entry) in entries.enumerate() {
            if i >= limits::ARCHIVE_ENTRIES {
                return Err(self.too_much(format!(
                    "the archive has more than {} entries",
                    limits::ARCHIVE_ENTRIES
                )));
            }
            let entry = entry.map_err(|e| self.damaged(&e.to_string()))?;
            let name = String::from_utf8_lossy(&entry.path_bytes()).into_owned();
            let kind = entry.header().entry_type();
            if kind.is_file() || kind.is_contiguous() {
                self.entry(&name, entry)?;
            } else if !kind.is_dir() && !kind.is_pax_global_extensions() {
                self.refuse(&name, "only plain files are taken, no links or devices");
            }
        }
        Ok(())
    }

    /// Takes an entry of an archive. Its folders are of no account: only the last part of its name
    /// is used, and a name that leads out of the archive is refused.
    fn entry(&mut self, name: &str, reader: impl Read) -> Result<(), SourceError> {
        let parts: Vec<&str> = name.split(['/', '\\']).collect();
        let last = parts.last().copied().unwrap_or_default();
        if !self.wants(last) {
            return Ok(());
        }
        if name.starts_with(['/', '\\'])
            || parts.contains(&"..")
            || last.chars().any(char::is_control)
        {
            self.refuse(
                name,
                "its name leads out of the archive or has control characters",
            );
            return Ok(());
        }
        // What a system keeps beside the real file.
        if last.starts_with("._") {
            return Ok(());
        }
        self.take(last, reader)
    }

    fn take(&mut self, name: &str, reader: impl Read) -> Result<(), SourceError> {
        if !is_licence(name) {
            return self.take_font(name, reader);
        }
        let text = self.bytes(name, reader, limits::LICENCE)?;
        if let Some(text) = text.filter(|t| std::str::from_utf8(t).is_ok())
            && !self.out.licences.iter().any(|(n, _)| n == name)
        {
            self.out.licences.push((name.to_owned(), text));
        }
        Ok(())
    }

    fn take_font(&mut self, name: &str, reader: impl Read) -> Result<(), SourceError> {
        let Some(bytes) = self.bytes(name, reader, limits::FONT)? else {
            return Ok(());
        };
        match font::faces(&bytes) {
            Ok(faces) => {
                self.out.fonts.push(SourceFont {
                    name: name.to_owned(),
                    bytes: Arc::new(bytes),
                    faces,
                });
            }
            Err(why) => self.refuse(name, &why.to_string()),
        }
        Ok(())
    }

    /// The bytes of a file; `None` where it is larger than it may be.
    fn bytes(
        &mut self,
        name: &str,
        reader: impl Read,
        most: u64,
    ) -> Result<Option<Vec<u8>>, SourceError> {
        let mut bytes = Vec::new();
        let read = reader.take(most + 1).read_to_end(&mut bytes);
        let count = read.map_err(|e| self.damaged(&format!("{name}: {e}")))? as u64;
        if count > most {
            self.refuse(name, &format!("it is larger than {} KiB", most >> 10));
            return Ok(None);
        }
        self.total += count;
        if self.total > limits::ARCHIVE_FONTS {
            return Err(self.too_much("its fonts have more than 160 MiB together".to_owned()));
        }
        Ok(Some(bytes))
    }

    fn finish(mut self) -> Result<FontSource, SourceError> {
        if self.out.fonts.is_empty() {
            return Err(SourceError::NoFont {
                path: self.path.to_owned(),
                refused: self.out.refused,
            });
        }
        self.out.fonts.sort_by(|a, b| a.name.cmp(&b.name));
        Ok(self.out)
    }
}

/// Whether a file name is that of a licence.
fn is_licence(name: &str) -> bool {
    let name = name.to_lowercase();
    let stem = name.split('.').next().unwrap_or_default();
    let known = ["license", "licence", "copying", "ofl", "ufl", "copyright"];
    let plain = ["", "txt", "md"].contains(&name.split_once('.').map_or("", |(_, e)| e));
    plain
        && known.iter().any(|k| {
            stem == *k || stem.starts_with(&format!("{k}-")) || stem.starts_with(&format!("{k}_"))
        })
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Write;
    use wealdmist_core::demo::fonts;

    fn tar_of(entries: &[(&str, &[u8])]) -> Vec<u8> {
        let mut builder = tar::Builder::new(Vec::new());
        for (name, bytes) in entries {
            let mut header = tar::Header::new_ustar();
            // Written by hand: the library itself refuses to write a name that leads upwards.
            header.as_mut_bytes()[..name.len()].copy_from_slice(name.as_bytes());
            header.set_size(bytes.len() as u64);
            header.set_mode(0o644);
            header.set_cksum();
            builder.append(&header, *bytes).unwrap();
        }
        let mut link = tar::Header::new_ustar();
        link.set_entry_type(tar::EntryType::Symlink);
        link.set_size(0);
        builder
            .append_link(&mut link, "link.ttf", "/etc/passwd")
            .unwrap();
        builder.into_inner().unwrap()
    }

    fn open(name: &str, bytes: &[u8]) -> Result<FontSource, SourceError> {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join(name);
        fs::write(&path, bytes).unwrap();
        open_source(&path)
    }

    fn names(source: &FontSource) -> Vec<&str> {
        source.fonts.iter().map(|f| f.name.as_str()).collect()
    }

    #[test]
    fn archives_of_every_kind_give_fonts_and_licence() {
        let font = fonts::without_icons();
        let entries: &[(&str, &[u8])] = &[
            ("Reed/a.ttf", &font),
            ("Reed/OFL.txt", b"free"),
            ("Reed/readme.md", b"x"),
            ("bad.otf", b"junk"),
        ];
        let plain = tar_of(entries);
        let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        gzip.write_all(&plain).unwrap();
        let options = lzma_rust2::XzOptions::with_preset(1);
        let mut xz = lzma_rust2::XzWriter::new(Vec::new(), options).unwrap();
        xz.write_all(&plain).unwrap();
        let xz = xz.finish().unwrap();
        let mut zip = zip::ZipWriter::new(io::Cursor::new(Vec::new()));
        for (name, bytes) in entries {
            zip.start_file(*name, zip::write::SimpleFileOptions::default())
                .unwrap();
            zip.write_all(bytes).unwrap();
        }
        let zip = zip.finish().unwrap().into_inner();
        for (name, bytes) in [
            ("a.tar", plain),
            ("a.tar.gz", gzip.finish().unwrap()),
            ("a.tar.xz", xz),
            ("a.zip", zip),
        ] {
            let source = open(name, &bytes).unwrap_or_else(|e| panic!("{name}: {e}"));
            assert_eq!(names(&source), ["a.ttf"], "{name}");
            assert_eq!(source.licences, [("OFL.txt".to_owned(), b"free".to_vec())]);
            assert!(
                source
                    .refused
                    .iter()
                    .any(|r| r.starts_with("bad.otf: not a usable font")),
                "{:?}",
                source.refused
            );
        }
        let single = open("b.ttf", &font).unwrap();
        assert_eq!(single.fonts[0].faces[0].family(), "Reedbed Mono");
        let catalog = single.catalog();
        assert!(catalog.faces[0].coverage.has('a'));
        let bytes = single.bytes_of(&catalog.faces[0]).unwrap();
        assert_eq!(*bytes, font);
    }

    #[test]
    fn hostile_archives_are_refused_entry_by_entry() {
        let font = fonts::without_icons();
        let source = open(
            "h.tar",
            &tar_of(&[
                ("../../up.ttf", &font),
                ("/abs.ttf", &font),
                ("good.ttf", &font),
            ]),
        )
        .unwrap();
        assert_eq!(names(&source), ["good.ttf"]);
        assert_eq!(source.refused.len(), 3, "{:?}", source.refused);
        assert!(source.refused.iter().any(|r| r.contains("no links")));
        // Zeros that unpack to far more than a font has are left after their limit.
        let mut bomb = zip::ZipWriter::new(io::Cursor::new(Vec::new()));
        bomb.start_file("bomb.ttf", zip::write::SimpleFileOptions::default())
            .unwrap();
        let zeros = vec![0u8; 1 << 20];
        for _ in 0..70 {
            bomb.write_all(&zeros).unwrap();
        }
        let error = open("bomb.zip", &bomb.finish().unwrap().into_inner())
            .unwrap_err()
            .to_string();
        assert!(error.contains("unpacks to far more"), "{error}");
        for (name, bytes) in [
            ("cut.zip", &b"PK\x03\x04rest"[..]),
            ("cut.tar.gz", &[0x1f, 0x8b, 8, 0, 1, 2][..]),
            ("cut.tar.xz", &[0xfd, b'7', b'z', b'X', b'Z', 0, 9][..]),
        ] {
            let error = open(name, bytes).unwrap_err().to_string();
            assert!(error.contains("damaged") && error.contains(name), "{error}");
        }
        assert!(
            open("empty.ttf", b"")
                .unwrap_err()
                .to_string()
                .contains("holds no font")
        );
        assert!(
            open_source(Path::new("/nonexistent"))
                .unwrap_err()
                .to_string()
                .contains("cannot be read")
        );
    }

    #[test]
    fn licences_are_told_by_their_names() {
        for good in [
            "LICENSE",
            "OFL.txt",
            "license.md",
            "LICENSE-2.txt",
            "COPYING",
        ] {
            assert!(is_licence(good), "{good}");
        }
        for bad in [
            "licensed.ttf",
            "notice.exe",
            "OFL.html.ttf",
            "my-license.sh",
        ] {
            assert!(!is_licence(bad), "{bad}");
        }
    }
}
