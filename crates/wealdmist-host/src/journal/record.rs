//! What the journal keeps of a transaction.

use std::ffi::OsStr;
use std::os::unix::ffi::OsStrExt;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

/// What a record is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// A plan carried out.
    Apply,
    /// An earlier record taken back.
    Undo,
}

/// How far a record has come; see the module of the journal for what holds in each.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum RecordState {
    /// New bytes are being written beside the files; nothing has changed yet.
    Prepared,
    /// It will be carried out, now or at the next start.
    Intended,
    /// It is being taken back, now or at the next start.
    Returning,
    /// It is carried out.
    Done,
}

/// One entry of the journal.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Record {
    /// Its number.
    pub id: u64,
    /// What it is of.
    pub kind: Kind,
    /// For an undo, the record taken back.
    pub undoes: Option<u64>,
    /// How far it has come.
    pub state: RecordState,
    /// Seconds since 1970-01-01 UTC.
    pub time: u64,
    /// A few words on what it does.
    pub label: String,
    /// The files.
    pub files: Vec<RecordFile>,
    /// Folders made for new files, outermost first.
    pub made: Vec<PathText>,
}

/// One file of a record.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct RecordFile {
    /// The path by which people know it.
    pub path: PathText,
    /// The file itself.
    pub target: PathText,
    /// Where the new bytes wait, beside it, and then the old ones.
    pub temporary: PathText,
    /// SHA-256 of the old bytes; `None` if there was no file.
    pub before: Option<String>,
    /// SHA-256 of the new bytes; `None` if it is removed.
    pub after: Option<String>,
    /// Its permission bits; what the umask leaves where there are none.
    pub mode: Option<u32>,
}

/// A path in a record: text, or bytes where it is not UTF-8. Below the home it is relative to it,
/// so that a record means the home it lies in, also when that was moved or copied.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum PathText {
    /// An ordinary path.
    Text(String),
    /// A path that is not UTF-8.
    Bytes(Vec<u8>),
}

impl PathText {
    /// A path as it is kept for a home.
    #[must_use]
    pub fn new(path: &Path, home: &Path) -> Self {
        let path = path.strip_prefix(home).unwrap_or(path);
        match path.to_str() {
            Some(text) => Self::Text(text.to_owned()),
            None => Self::Bytes(path.as_os_str().as_bytes().to_vec()),
        }
    }

    /// The path in a home.
    #[must_use]
    pub fn within(&self, home: &Path) -> PathBuf {
        let path = match self {
            Self::Text(text) => Path::new(text),
            Self::Bytes(bytes) => Path::new(OsStr::from_bytes(bytes)),
        };
        home.join(path)
    }
}
