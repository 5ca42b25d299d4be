//! The index of installed fonts: what identifies each face and which characters it has. It is kept
//! on disk; files are read again when their size or time has changed.

use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::os::unix::fs::{FileExt, MetadataExt};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use serde::{Deserialize, Serialize};
use wealdmist_core::font::pretended::holds_shapes;
use wealdmist_core::font::{self, Catalog, Coverage, Entry, FaceInfo};

use super::folders::{files_below, folders};
use crate::files::{open_regular, read_regular};
use crate::home::Home;
use crate::limits;

/// The first bytes of the index file; another number when its form changes.
const MAGIC: &[u8] = b"wealdmist fonts 2\n";

/// A face as it is kept.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct Face {
    info: FaceInfo,
    coverage: Arc<Coverage>,
}

/// A file as it is kept, with what tells whether it has changed.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct FileRecord {
    size: u64,
    modified: (i64, i64),
    /// Its faces, or why it cannot be used.
    faces: Result<Vec<Face>, String>,
}

/// A font file that cannot be used.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UnusableFont {
    /// The file.
    pub path: PathBuf,
    /// Why.
    pub why: String,
}

/// The index in memory.
#[derive(Debug, Clone, Default)]
pub struct FontIndex {
    files: BTreeMap<PathBuf, FileRecord>,
    /// The files in the order of their folders.
    order: Vec<PathBuf>,
    /// How many files had to be read.
    pub read: usize,
}

/// The same as it is written: paths are bytes.
#[derive(Serialize, Deserialize)]
struct Kept {
    files: Vec<(Vec<u8>, FileRecord)>,
}

impl FontIndex {
    /// The index of a home: read from disk, brought up to date, and written back where it changed.
    #[must_use]
    pub fn open(home: &Home) -> Self {
        let path = index_path(home);
        let old = read_regular(&path, limits::FONT_INDEX)
            .ok()
            .flatten()
            .and_then(|bytes| parse(&bytes))
            .unwrap_or_default();
        let (index, changed) = Self::of_files(files_below(&folders(home)), old);
        if changed && let Some(bytes) = index.write() {
            // Without an index the next start is slower, nothing else.
            let _ = keep(&path, &bytes);
        }
        index
    }

    /// The index of some folders alone, nothing kept.
    #[must_use]
    pub fn of_folders(folders: &[PathBuf]) -> Self {
        Self::of_files(files_below(folders), BTreeMap::new()).0
    }

    fn of_files(order: Vec<PathBuf>, mut old: BTreeMap<PathBuf, FileRecord>) -> (Self, bool) {
        let before = old.len();
        let mut files = BTreeMap::new();
        let mut stale = Vec::new();
        for path in &order {
            let Some((size, modified)) = stamp(path) else {
                continue;
            };
            match old
                .remove(path)
                .filter(|r| r.size == size && r.modified == modified)
            {
                Some(record) => {
                    files.insert(path.clone(), record);
                }
                None => stale.push((path.clone(), size, modified)),
            }
        }
        let changed = !stale.is_empty() || files.len() != before;
        let read = stale.len();
        files.extend(read_all(&stale));
        (Self { files, order, read }, changed)
    }

    fn write(&self) -> Option<Vec<u8>> {
        let files = self.files.iter();
        let kept = Kept {
            files: files
                .map(|(p, r)| (p.as_os_str().as_bytes().to_vec(), r.clone()))
                .collect(),
        };
        let body = postcard::to_stdvec(&kept).ok()?;
        Some([MAGIC, &body].concat())
    }

    /// How many font files there are.
    #[must_use]
    pub fn file_count(&self) -> usize {
        self.files.len()
    }

    /// The faces, in the order of their folders.
    #[must_use]
    pub fn catalog(&self) -> Catalog {
        let mut faces = Vec::new();
        for path in &self.order {
            let Some(Ok(found)) = self.files.get(path).map(|r| &r.faces) else {
                continue;
            };
            faces.extend(found.iter().map(|face| Entry {
                path: path.clone(),
                info: face.info.clone(),
                coverage: Arc::clone(&face.coverage),
            }));
        }
        Catalog { faces }
    }

    /// The files that cannot be used.
    #[must_use]
    pub fn unusable(&self) -> Vec<UnusableFont> {
        let why = |(path, record): (&PathBuf, &FileRecord)| {
            let why = record.faces.as_ref().err()?.clone();
            Some(UnusableFont {
                path: path.clone(),
                why,
            })
        };
        self.files.iter().filter_map(why).collect()
    }
}

/// Where the index of a home is kept.
#[must_use]
pub fn index_path(home: &Home) -> PathBuf {
    home.cache().join("fonts.index")
}

/// Writes a file that can be made anew: whole or not at all, but not waited for until it is on the
/// disk.
fn keep(path: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let folder = path.parent().unwrap_or(path);
    fs::create_dir_all(folder)?;
    if fs::symlink_metadata(path).is_ok_and(|m| !m.is_file()) {
        return Err(std::io::Error::other("it is not a regular file"));
    }
    let mut beside = tempfile::NamedTempFile::new_in(folder)?;
    beside.write_all(bytes)?;
    beside.persist(path)?;
    Ok(())
}

fn parse(bytes: &[u8]) -> Option<BTreeMap<PathBuf, FileRecord>> {
    let kept: Kept = postcard::from_bytes(bytes.strip_prefix(MAGIC)?).ok()?;
    let path = |bytes: Vec<u8>| PathBuf::from(std::ffi::OsString::from_vec(bytes));
    Some(kept.files.into_iter().map(|(p, r)| (path(p), r)).collect())
}

fn stamp(path: &Path) -> Option<(u64, (i64, i64))> {
    let meta = fs::metadata(path).ok().filter(fs::Metadata::is_file)?;
    Some((meta.len(), (meta.mtime(), meta.mtime_nsec())))
}

type Stale = (PathBuf, u64, (i64, i64));

/// Reads files on as many threads as there are processors.
fn read_all(stale: &[Stale]) -> Vec<(PathBuf, FileRecord)> {
    let next = AtomicUsize::new(0);
    let threads = std::thread::available_parallelism().map_or(1, usize::from);
    let work = || {
        let mut out = Vec::new();
        while let Some((path, size, modified)) = stale.get(next.fetch_add(1, Ordering::Relaxed)) {
            let faces = read_faces(path, *size);
            out.push((
                path.clone(),
                FileRecord {
                    size: *size,
                    modified: *modified,
                    faces,
                },
            ));
        }
        out
    };
    std::thread::scope(|scope| {
        let workers: Vec<_> = (0..threads.min(stale.len()))
            .map(|_| scope.spawn(work))
            .collect();
        workers
            .into_iter()
            .flat_map(|w| w.join().unwrap_or_default())
            .collect()
    })
}

fn read_faces(path: &Path, size: u64) -> Result<Vec<Face>, String> {
    if size > limits::FONT {
        return Err(format!(
            "the file has {} MiB; fonts of up to {} MiB are read",
            size >> 20,
            limits::FONT >> 20
        ));
    }
    let whole = || {
        read_regular(path, limits::FONT)
            .map_err(|e| e.to_string())?
            .ok_or_else(|| "it is gone".to_owned())
    };
    let Some(known) = known_tables(path) else {
        return faces_of(&whole()?);
    };
    if !known.has_shapes {
        return Err("it has no outlines: what scales fonts does not show it".to_owned());
    }
    let face = |info: FaceInfo| {
        let map = font::character_map(&known.bytes, info.index).map_err(|e| e.to_string())?;
        Ok(Face {
            info,
            coverage: Arc::new(map),
        })
    };
    let infos = font::faces(&known.bytes).map_err(|e| e.to_string())?;
    let faces: Result<Vec<Face>, String> = infos.into_iter().map(face).collect();
    // Whether icons are what they are called is told by their outlines.
    match faces {
        Ok(faces) if faces.iter().any(|f| f.coverage.has_private()) => faces_of(&whole()?),
        faces => faces,
    }
}

/// The tables of a file that the index is made from.
struct Known {
    bytes: Vec<u8>,
    /// Whether the file has outlines or colored drawings beside them.
    has_shapes: bool,
}

/// The tables the index is made from, and how much of each is needed.
const TABLES: [(&[u8; 4], usize); 10] = [
    (b"GSUB", 128 << 10),
    (b"OS/2", usize::MAX),
    (b"cmap", usize::MAX),
    (b"fvar", usize::MAX),
    (b"head", usize::MAX),
    (b"hhea", usize::MAX),
    (b"hmtx", usize::MAX),
    (b"maxp", usize::MAX),
    (b"name", usize::MAX),
    (b"post", 32),
];

/// A font file with only the tables the index is made from: outlines are most of a file and are
/// not read. `None` for what is no plain font, or has a directory that leads out of the file.
fn known_tables(path: &Path) -> Option<Known> {
    let file = open_regular(path).ok()??;
    let mut head = [0; 12];
    file.read_exact_at(&mut head, 0).ok()?;
    if ![&b"\0\x01\0\0"[..], b"OTTO", b"true"].contains(&&head[..4]) {
        return None;
    }
    let count = usize::from(u16::from_be_bytes([head[4], head[5]]));
    let mut directory = vec![0; count * 16];
    file.read_exact_at(&mut directory, 12).ok()?;
    let number = |record: &[u8], at: usize| -> Option<usize> {
        let bytes = record.get(at..at + 4)?.try_into().ok()?;
        Some(u32::from_be_bytes(bytes) as usize)
    };
    // Of several with one name the first counts, as for every reader.
    let wanted: Vec<(&[u8], usize)> = TABLES
        .iter()
        .filter_map(|(tag, most)| Some((directory.chunks(16).find(|r| r[..4] == **tag)?, *most)))
        .collect();
    let mut out = head.to_vec();
    out[4..6].copy_from_slice(&(wanted.len() as u16).to_be_bytes());
    out.resize(12 + wanted.len() * 16, 0);
    for (i, (record, most)) in wanted.into_iter().enumerate() {
        let (from, length) = (number(record, 8)?, number(record, 12)?.min(most));
        if (out.len() + length) as u64 > limits::FONT {
            return None;
        }
        let start = out.len();
        out.resize(start + length, 0);
        file.read_exact_at(&mut out[start..], from as u64).ok()?;
        let entry = 12 + i * 16;
        out[entry..entry + 8].copy_from_slice(&record[..8]);
        out[entry + 8..entry + 12].copy_from_slice(&(start as u32).to_be_bytes());
        out[entry + 12..entry + 16].copy_from_slice(&(length as u32).to_be_bytes());
    }
    let has_shapes = directory.chunks(16).any(|r| holds_shapes(&r[..4]));
    Some(Known {
        bytes: out,
        has_shapes,
    })
}

fn faces_of(bytes: &[u8]) -> Result<Vec<Face>, String> {
    let infos = font::faces(bytes).map_err(|e| e.to_string())?;
    let face = |info: FaceInfo| {
        let coverage = font::coverage(bytes, info.index).map_err(|e| e.to_string())?;
        Ok(Face {
            info,
            coverage: Arc::new(coverage),
        })
    };
    infos.into_iter().map(face).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::demo::fonts;

    #[test]
    fn a_file_without_its_outlines_says_the_same() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("a.ttf");
        let mut compared = 0;
        let mut check = |bytes: &[u8]| {
            fs::write(&path, bytes).unwrap();
            let Some(few) = known_tables(&path) else {
                return;
            };
            assert!(few.bytes.len() < bytes.len() && few.has_shapes);
            let size = bytes.len() as u64;
            let (all, few) = (faces_of(bytes).unwrap(), read_faces(&path, size).unwrap());
            for (a, b) in all.iter().zip(&few) {
                assert_eq!((&a.info, &a.coverage), (&b.info, &b.coverage));
            }
            compared += 1;
        };
        check(&fonts::complete());
        check(&fonts::variable());
        for installed in files_below(&["/usr/share/fonts".into()]).iter().take(60) {
            let bytes = fs::read(installed).unwrap();
            if faces_of(&bytes).is_ok() {
                check(&bytes);
            }
        }
        assert!(compared >= 2);
        // A directory that leads out of the file is left to the ordinary reader to complain of.
        let mut bad = fonts::complete();
        bad[12 + 8..12 + 12].fill(0xff);
        fs::write(&path, &bad).unwrap();
        assert!(known_tables(&path).is_none());
    }

    #[test]
    fn the_index_is_kept_and_notices_what_changed() {
        let dir = tempfile::tempdir().unwrap();
        let own = dir.path().join(".local/share/fonts/sub");
        fs::create_dir_all(&own).unwrap();
        fs::write(own.join("a.ttf"), fonts::complete()).unwrap();
        fs::write(own.join("broken.ttf"), b"not a font").unwrap();
        let home = Home::open(Some(dir.path())).unwrap();
        let first = FontIndex::open(&home);
        assert!(first.read >= 2);
        let own_faces = |index: &FontIndex| -> Vec<String> {
            let catalog = index.catalog();
            let own = catalog
                .faces
                .iter()
                .filter(|e| e.path.starts_with(home.home_path()));
            own.map(|e| e.info.title()).collect()
        };
        assert_eq!(own_faces(&first), ["Reedbed Mono NF Regular"]);
        let broken = first.unusable();
        assert!(
            broken
                .iter()
                .any(|b| b.path.ends_with("broken.ttf") && !b.why.is_empty())
        );

        let again = FontIndex::open(&home);
        assert_eq!(again.read, 0, "nothing has changed");
        assert_eq!(own_faces(&again), own_faces(&first));

        fs::write(own.join("a.ttf"), fonts::bold()).unwrap();
        fs::remove_file(own.join("broken.ttf")).unwrap();
        let third = FontIndex::open(&home);
        assert_eq!(own_faces(&third), ["Reedbed Mono NF Bold"]);
        assert!(third.read == 1 && third.unusable().is_empty());

        // A damaged index is no index.
        fs::write(index_path(&home), b"wealdmist fonts 1\n\xff\xff\xff\xff").unwrap();
        assert_eq!(own_faces(&FontIndex::open(&home)), ["Reedbed Mono NF Bold"]);
    }
}
