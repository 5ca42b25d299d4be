//! Files as the journal handles them: every call that reads or changes one, behind a trait, so
//! that tests can let each of them fail.
//!
//! What is read is read only from regular files and never more than a limit, so that a pipe or a
//! device in the place of a file cannot hang the program or fill its memory. What is created is
//! created under a name nobody can have foreseen, and never over something that stands there.

// The one place where files are opened and written.
#![allow(clippy::disallowed_methods)]

use std::ffi::OsString;
use std::fmt;
use std::fs::{self, File, OpenOptions};
use std::hash::{BuildHasher, RandomState};
use std::io::{self, Read, Write};
use std::os::unix::fs::{MetadataExt, OpenOptionsExt, PermissionsExt};
use std::path::{Path, PathBuf};

use crate::platform::files as platform;

/// How files that wait beside others are named; a number nobody can foresee follows.
pub const BESIDE: &str = ".wealdmist-";

/// What is known of a file without reading it. Links are not followed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stat {
    /// Whether it is a regular file.
    pub regular: bool,
    /// Its permission bits.
    pub mode: u32,
    /// How many names it has.
    pub names: u64,
}

/// The calls by which files are read and changed.
pub trait Files: fmt::Debug + Send + Sync {
    /// The bytes of a regular file; `None` where there is nothing.
    ///
    /// # Errors
    /// When it cannot be read, is none, or is larger than the limit.
    fn read(&self, path: &Path, limit: u64) -> io::Result<Option<Vec<u8>>>;
    /// What stands at a path; `None` where nothing does.
    ///
    /// # Errors
    /// When that cannot be told.
    fn stat(&self, path: &Path) -> io::Result<Option<Stat>>;
    /// Writes a file that does not exist yet, through to the disk. Without a mode it gets what
    /// the person's umask leaves of 0666.
    ///
    /// # Errors
    /// When there is something already, or it cannot be written. What was written of it is gone.
    fn create(&self, path: &Path, bytes: &[u8], mode: Option<u32>) -> io::Result<()>;
    /// Gives a file owner, access list and extended attributes of another.
    ///
    /// # Errors
    /// When it cannot have them.
    fn copy_attributes(&self, from: &Path, to: &Path) -> io::Result<()>;
    /// Lets two files change places, in one step where the file system can.
    ///
    /// # Errors
    /// When they cannot; then both are where they were.
    fn exchange(&self, a: &Path, b: &Path) -> io::Result<()>;
    /// Moves a file to where nothing is.
    ///
    /// # Errors
    /// When something is there, or it cannot be moved.
    fn move_new(&self, from: &Path, to: &Path) -> io::Result<()>;
    /// Removes a file.
    ///
    /// # Errors
    /// When it cannot be removed; there being none is no error.
    fn remove(&self, path: &Path) -> io::Result<()>;
    /// Makes a folder with a mode.
    ///
    /// # Errors
    /// When it cannot be made; its being there already is no error.
    fn make_folder(&self, path: &Path, mode: u32) -> io::Result<()>;
    /// Removes an empty folder.
    ///
    /// # Errors
    /// When it is not empty or cannot be removed; there being none is no error.
    fn remove_folder(&self, path: &Path) -> io::Result<()>;
    /// Brings what was done to the names in a folder to the disk.
    ///
    /// # Errors
    /// When that cannot be done.
    fn sync_folder(&self, path: &Path) -> io::Result<()>;
    /// The names in a folder, none where it does not exist.
    ///
    /// # Errors
    /// When it cannot be read.
    fn list(&self, path: &Path) -> io::Result<Vec<OsString>>;
}

/// The files of this machine.
#[derive(Debug, Clone, Copy, Default)]
pub struct Disk;

/// Opens a regular file for reading; `None` where there is nothing. Neither a pipe without a
/// writer nor a device makes this wait.
///
/// # Errors
/// When it is no regular file or cannot be opened.
pub fn open_regular(path: &Path) -> io::Result<Option<File>> {
    let file = match platform::open_at_once(path) {
        Ok(file) => file,
        Err(e) if is_absent(&e) => return Ok(None),
        // A socket, or a pipe opened in a way it has not.
        Err(e) if platform::has_no_reader(&e) => return Err(irregular()),
        Err(e) => return Err(e),
    };
    match file.metadata()?.is_file() {
        true => Ok(Some(file)),
        false => Err(irregular()),
    }
}

fn irregular() -> io::Error {
    io::Error::new(io::ErrorKind::InvalidInput, "it is not a regular file")
}

fn is_absent(error: &io::Error) -> bool {
    use io::ErrorKind::{NotADirectory, NotFound};
    matches!(error.kind(), NotFound | NotADirectory)
}

/// Reads a regular file of at most so many bytes; `None` where there is nothing.
///
/// # Errors
/// When it cannot be read, is no regular file, or is larger.
pub fn read_regular(path: &Path, limit: u64) -> io::Result<Option<Vec<u8>>> {
    let Some(file) = open_regular(path)? else {
        return Ok(None);
    };
    let size = file.metadata()?.len();
    let mut bytes = Vec::with_capacity(size.min(limit) as usize);
    file.take(limit.saturating_add(1)).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > limit {
        let what = format!("it has more than {limit} bytes");
        return Err(io::Error::new(io::ErrorKind::FileTooLarge, what));
    }
    Ok(Some(bytes))
}

/// A path beside a file that nobody can foresee: it holds 128 bits from the system's source of
/// random numbers. It is short, so that it fits wherever the file's own name does.
#[must_use]
pub fn path_beside(path: &Path) -> PathBuf {
    let number = || RandomState::new().hash_one(std::process::id());
    let name = format!("{BESIDE}{:016x}{:016x}", number(), number());
    folder_of(path).join(name)
}

/// A path with the links of those folders followed that exist; the rest as it is.
#[must_use]
pub fn resolved(path: &Path) -> PathBuf {
    for above in path.ancestors() {
        if let (Ok(real), Ok(rest)) = (above.canonicalize(), path.strip_prefix(above)) {
            return match rest.as_os_str().is_empty() {
                true => real,
                false => real.join(rest),
            };
        }
    }
    path.to_owned()
}

/// The folder a file is in.
#[must_use]
pub fn folder_of(path: &Path) -> &Path {
    match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    }
}

/// Removes files that an interrupted writing left waiting in a folder. The caller holds the lock
/// under which they are made.
pub fn sweep_beside(files: &dyn Files, folder: &Path) {
    for name in files.list(folder).unwrap_or_default() {
        let number = name.to_str().and_then(|n| n.strip_prefix(BESIDE));
        if number.is_some_and(|n| n.len() == 32 && n.bytes().all(|b| b.is_ascii_hexdigit())) {
            let _ = files.remove(&folder.join(name));
        }
    }
}

impl Files for Disk {
    fn read(&self, path: &Path, limit: u64) -> io::Result<Option<Vec<u8>>> {
        read_regular(path, limit)
    }

    fn stat(&self, path: &Path) -> io::Result<Option<Stat>> {
        match path.symlink_metadata() {
            Ok(meta) => Ok(Some(Stat {
                regular: meta.is_file(),
                mode: meta.permissions().mode() & 0o7777,
                names: meta.nlink(),
            })),
            Err(e) if is_absent(&e) => Ok(None),
            Err(e) => Err(e),
        }
    }

    fn create(&self, path: &Path, bytes: &[u8], mode: Option<u32>) -> io::Result<()> {
        let mut file = OpenOptions::new()
            .write(true)
            .create_new(true)
            .mode(mode.unwrap_or(0o666))
            .open(path)?;
        let written = file
            .write_all(bytes)
            .and_then(|()| match mode {
                Some(mode) => file.set_permissions(fs::Permissions::from_mode(mode)),
                None => Ok(()),
            })
            .and_then(|()| file.sync_all());
        if written.is_err() {
            let _ = fs::remove_file(path);
        }
        written
    }

    fn copy_attributes(&self, from: &Path, to: &Path) -> io::Result<()> {
        platform::copy_attributes(from, to)
    }

    fn exchange(&self, a: &Path, b: &Path) -> io::Result<()> {
        if platform::exchange(a, b)? {
            return Ok(());
        }
        // One step is not to be had: the second file keeps a name all the time.
        let aside = path_beside(b);
        fs::hard_link(b, &aside)?;
        if let Err(e) = fs::rename(a, b) {
            let _ = fs::remove_file(&aside);
            return Err(e);
        }
        fs::rename(&aside, a)
    }

    fn move_new(&self, from: &Path, to: &Path) -> io::Result<()> {
        if platform::move_new(from, to)? {
            return Ok(());
        }
        fs::hard_link(from, to)?;
        fs::remove_file(from)
    }

    fn remove(&self, path: &Path) -> io::Result<()> {
        match fs::remove_file(path) {
            Err(e) if is_absent(&e) => Ok(()),
            other => other,
        }
    }

    fn make_folder(&self, path: &Path, mode: u32) -> io::Result<()> {
        use std::os::unix::fs::DirBuilderExt;
        match fs::DirBuilder::new().mode(mode).create(path) {
            Err(e) if e.kind() == io::ErrorKind::AlreadyExists && path.is_dir() => Ok(()),
            other => other,
        }
    }

    fn remove_folder(&self, path: &Path) -> io::Result<()> {
        match fs::remove_dir(path) {
            Err(e) if is_absent(&e) => Ok(()),
            other => other,
        }
    }

    fn sync_folder(&self, path: &Path) -> io::Result<()> {
        File::open(path)?.sync_all()
    }

    fn list(&self, path: &Path) -> io::Result<Vec<OsString>> {
        match fs::read_dir(path) {
            Ok(entries) => entries.map(|e| Ok(e?.file_name())).collect(),
            Err(e) if is_absent(&e) => Ok(Vec::new()),
            Err(e) => Err(e),
        }
    }
}

/// Why a file is not written over.
#[derive(Debug, thiserror::Error)]
pub enum ReplaceError {
    /// It is not what it was when it was read.
    #[error("it has changed since it was read")]
    Changed,
    /// It must not be written.
    #[error("it is {what}; {help}")]
    Protected {
        /// What it is.
        what: &'static str,
        /// What to do.
        help: &'static str,
    },
    /// The system refused.
    #[error("{0}")]
    Io(#[from] io::Error),
}

/// Whether a file may be written over: it is regular, may be written, and has one name.
///
/// # Errors
/// With the reason why not.
pub fn check_writable(files: &dyn Files, target: &Path) -> Result<Option<Stat>, ReplaceError> {
    let refuse = |what, help| Err(ReplaceError::Protected { what, help });
    let Some(stat) = files.stat(target)? else {
        return Ok(None);
    };
    if !stat.regular {
        return refuse("not a regular file", "put a regular file there");
    }
    if stat.mode & 0o222 == 0 {
        return refuse("read-only", "make it writable first (chmod u+w)");
    }
    if stat.names > 1 {
        let help = "use a symbolic link instead";
        return refuse(
            "one of several hard links, which a safe write would part",
            help,
        );
    }
    Ok(Some(stat))
}

/// Writes one file as the journal writes each of its: beside it, with its attributes, and then in
/// its place, unless it holds something else than `before` by then. A link's target is written.
///
/// # Errors
/// See [`ReplaceError`]; the file is then as it was.
pub fn replace(
    files: &dyn Files,
    target: &Path,
    before: Option<&[u8]>,
    after: &[u8],
    limit: u64,
) -> Result<(), ReplaceError> {
    let stat = check_writable(files, target)?;
    let beside = path_beside(target);
    let staged = files
        .create(&beside, after, stat.map(|s| s.mode))
        .and_then(|()| match stat {
            Some(_) => files.copy_attributes(target, &beside),
            None => Ok(()),
        });
    let done = staged
        .map_err(ReplaceError::from)
        .and_then(|()| match stat {
            None if before.is_some() => Err(ReplaceError::Changed),
            None => Ok(files.move_new(&beside, target)?),
            Some(_) => {
                if files.read(target, limit)?.as_deref() != before {
                    return Err(ReplaceError::Changed);
                }
                files.exchange(&beside, target)?;
                // What stood there at the last moment lies beside now.
                match files.read(&beside, limit) {
                    Ok(now) if now.as_deref() == before => Ok(()),
                    other => {
                        if let Err(e) = files.exchange(&beside, target) {
                            let kept = kept_aside(files, &beside, target);
                            let what = format!(
                                "{e}; what was saved there meanwhile is in {}",
                                kept.display()
                            );
                            return Err(io::Error::new(e.kind(), what).into());
                        }
                        other?;
                        Err(ReplaceError::Changed)
                    }
                }
            }
        });
    // Only our own bytes, or those that were compared, are ever left beside.
    let ours = match &done {
        Ok(()) => true,
        Err(_) => matches!(files.read(&beside, limit), Ok(Some(b)) if b == after),
    };
    if ours {
        let _ = files.remove(&beside);
    }
    done?;
    files.sync_folder(folder_of(target))?;
    Ok(())
}

/// Gives a file that could not be put back a name that is never swept away; where it is then.
fn kept_aside(files: &dyn Files, beside: &Path, target: &Path) -> PathBuf {
    let mut name = target.file_name().unwrap_or_default().to_owned();
    name.push(".kept");
    let kept = target.with_file_name(name);
    match files.move_new(beside, &kept) {
        Ok(()) => kept,
        Err(_) => beside.to_owned(),
    }
}

/// Writes a file of our own that can be made anew at any time, so that a crash leaves the old or
/// the new one. What is no regular file is not touched.
///
/// # Errors
/// When the folder or file cannot be written.
pub fn write_own(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let folder = folder_of(path);
    fs::create_dir_all(folder)?;
    if let Some(stat) = Disk.stat(path)?
        && !stat.regular
    {
        return Err(irregular());
    }
    let beside = path_beside(path);
    Disk.create(&beside, bytes, None)?;
    fs::rename(&beside, path).inspect_err(|_| {
        let _ = fs::remove_file(&beside);
    })?;
    Disk.sync_folder(folder)
}

/// Writes a file a person asked for by name. Its folder must be there; a link's target is written;
/// what is no regular file is left alone.
///
/// # Errors
/// When it cannot be written, with the reason.
pub fn write_output(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let target = path.canonicalize().unwrap_or_else(|_| path.to_owned());
    let tell = |e: io::Error| {
        let text = format!("{} cannot be written: {e}", path.display());
        io::Error::new(e.kind(), text)
    };
    if !folder_of(&target).is_dir() {
        let what = format!("its folder {} does not exist", folder_of(&target).display());
        return Err(tell(io::Error::new(io::ErrorKind::NotFound, what)));
    }
    let now = match Disk.stat(&target).map_err(tell)? {
        Some(stat) if !stat.regular => return Err(tell(irregular())),
        Some(_) => Disk.read(&target, u64::MAX - 1).map_err(tell)?,
        None => None,
    };
    replace(&Disk, &target, now.as_deref(), bytes, u64::MAX - 1).map_err(|e| match e {
        ReplaceError::Io(e) => tell(e),
        other => tell(io::Error::other(other.to_string())),
    })
}

/// Opens a file a person asked for by name, to add to its end. Its folder must be there; one that is new
/// is for its owner alone, and what is no regular file is left alone.
///
/// # Errors
/// When it cannot be opened, with the reason.
pub fn open_to_append(path: &Path) -> io::Result<File> {
    let tell = |e: io::Error| {
        let text = format!("{} cannot be written: {e}", path.display());
        io::Error::new(e.kind(), text)
    };
    if path.metadata().is_ok_and(|m| !m.is_file()) {
        return Err(tell(irregular()));
    }
    OpenOptions::new()
        .create(true)
        .append(true)
        .mode(0o600)
        .open(path)
        .map_err(tell)
}

/// Makes the folders above a path that only their owner may look into, where they are missing.
///
/// # Errors
/// When one cannot be made.
pub fn make_private_folders(files: &dyn Files, folder: &Path) -> io::Result<()> {
    let missing: Vec<&Path> = folder.ancestors().take_while(|a| !a.exists()).collect();
    for (i, new) in missing.iter().enumerate().rev() {
        // Those further up belong to the system's conventions, not to us.
        files.make_folder(new, if i < 2 { 0o700 } else { 0o755 })?;
    }
    Ok(())
}
