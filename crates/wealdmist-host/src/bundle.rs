//! Packing a setup for sharing: an ordinary tar archive of text files.

use std::io;
use std::path::{Path, PathBuf};

use crate::files::write_output;

/// One file of a bundle.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Part {
    /// Its path in the archive, relative.
    pub path: PathBuf,
    /// Its content.
    pub bytes: Vec<u8>,
}

/// A bundle that could not be written.
#[derive(Debug, thiserror::Error)]
#[error("the bundle could not be made: {source}")]
pub struct BundleError {
    /// The file.
    pub path: PathBuf,
    /// Why.
    pub source: io::Error,
}

/// Writes a bundle. Owner, times and modes are the same everywhere, so the same setup gives the
/// same archive and nothing about the machine is in it.
///
/// # Errors
/// When the file cannot be written; an unfinished file does not stay.
pub fn write_bundle(path: &Path, parts: &[Part]) -> Result<(), BundleError> {
    let fail = |source| BundleError {
        path: path.to_owned(),
        source,
    };
    let mut builder = tar::Builder::new(Vec::new());
    for part in parts {
        let mut header = tar::Header::new_gnu();
        header.set_size(part.bytes.len() as u64);
        header.set_mode(0o644);
        header.set_mtime(0);
        builder
            .append_data(&mut header, &part.path, part.bytes.as_slice())
            .map_err(fail)?;
    }
    let bytes = builder.into_inner().map_err(fail)?;
    write_output(path, &bytes).map_err(fail)
}
