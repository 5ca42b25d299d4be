//! The journal: all files of a plan are written or none, and what was written can be taken back.
//!
//! The order of a transaction: check that no file has changed since it was read; keep the old
//! and new bytes in the journal; write the new bytes beside each file; check again; record the
//! intent (from here on the transaction is carried out, whatever happens); rename all; record
//! that it is done. A start-up that finds a record not yet done takes it back if there was no
//! intent, and completes it if there was.

use std::ffi::OsStr;
use std::fs::{self, File, OpenOptions};
use std::io::{self, Write};
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::{MetadataExt, OpenOptionsExt, PermissionsExt};
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

use rustix::fs::{FlockOperation, flock};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use wealdmist_core::plan::Plan;
use wealdmist_core::text;

/// A change of one file, for the journal.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileChange {
    /// The path by which people know it.
    pub path: PathBuf,
    /// The file itself, links followed.
    pub target: PathBuf,
    /// What it must hold now; `None` if it must not exist.
    pub before: Option<Vec<u8>>,
    /// What it shall hold; `None` to remove it.
    pub after: Option<Vec<u8>>,
}

/// The changes a plan asks for.
#[must_use]
pub fn changes_of(plan: &Plan) -> Vec<FileChange> {
    plan.edits
        .iter()
        .map(|e| FileChange {
            path: e.path.clone(),
            target: e.target.clone(),
            before: e.before.as_deref().map(<[u8]>::to_vec),
            after: Some(e.after()),
        })
        .collect()
}

/// What a record is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// A plan carried out.
    Apply,
    /// An earlier record taken back.
    Undo,
}

/// How far a record has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum RecordState {
    /// New bytes are being written beside the files; nothing has changed yet.
    Prepared,
    /// It will be carried out, now or at the next start.
    Intended,
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
    /// Where the new bytes wait, beside it.
    pub temporary: PathText,
    /// SHA-256 of the old bytes; `None` if there was no file.
    pub before: Option<String>,
    /// SHA-256 of the new bytes; `None` if it is removed.
    pub after: Option<String>,
    /// Its permission bits.
    pub mode: u32,
}

/// A path in a record: text, or bytes where it is not UTF-8.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum PathText {
    /// An ordinary path.
    Text(String),
    /// A path that is not UTF-8.
    Bytes(Vec<u8>),
}

impl PathText {
    fn new(path: &Path) -> Self {
        match path.to_str() {
            Some(text) => Self::Text(text.to_owned()),
            None => Self::Bytes(path.as_os_str().as_bytes().to_vec()),
        }
    }

    /// The path.
    #[must_use]
    pub fn path(&self) -> &Path {
        match self {
            Self::Text(text) => Path::new(text),
            Self::Bytes(bytes) => Path::new(OsStr::from_bytes(bytes)),
        }
    }
}

/// A step of a transaction, for tests that cut one short.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Step {
    Keep(usize),
    Prepare,
    WriteBeside(usize),
    Intend,
    Rename(usize),
    Finish,
}

/// A later edit that an undo would destroy.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Conflict {
    /// The file.
    pub path: PathBuf,
    /// The first line, from 1, where both changed the same; 0 where the file as a whole is meant.
    pub line: usize,
    /// What happened to it.
    pub what: &'static str,
}

/// Why a transaction did not take place. Unless it says otherwise nothing has changed.
#[derive(Debug, thiserror::Error)]
pub enum ApplyError {
    /// A file is not what it was when the plan was made.
    #[error("{} has changed since it was read; look at the new plan and apply again", .0.display())]
    Changed(PathBuf),
    /// A file must not be written.
    #[error("{} is {what}; {help}", path.display())]
    Protected {
        /// The file.
        path: PathBuf,
        /// Why not.
        what: &'static str,
        /// What to do.
        help: &'static str,
    },
    /// The system refused something.
    #[error("{} {what}: {source}; nothing was changed", path.display())]
    Io {
        /// The file or folder.
        path: PathBuf,
        /// What could not be done.
        what: &'static str,
        /// Why.
        source: io::Error,
    },
    /// Another process is at it.
    #[error("another wealdmist is writing in this home; try again when it is done")]
    Busy,
    /// An undo would destroy later edits.
    #[error("undo would destroy later edits: {}", list(.0))]
    Conflicts(Vec<Conflict>),
    /// There is nothing to take back.
    #[error("there is nothing to undo")]
    NothingToUndo,
    /// There is no such record, or it cannot be taken back.
    #[error("there is no apply number {0} that could be undone; `wealdmist history` lists them")]
    NoRecord(u64),
    /// The journal cannot be read.
    #[error("the journal entry {} is damaged: {why}; move it away to go on", path.display())]
    Damaged {
        /// The entry.
        path: PathBuf,
        /// Why.
        why: String,
    },
    /// A test stopped it.
    #[error("stopped before {0:?}")]
    Stopped(Step),
}

fn list(conflicts: &[Conflict]) -> String {
    let one = |c: &Conflict| match c.line {
        0 => format!("{} {}", c.path.display(), c.what),
        line => format!("{}:{line} {}", c.path.display(), c.what),
    };
    conflicts.iter().map(one).collect::<Vec<_>>().join("; ")
}

/// What a start-up found unfinished.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Recovery {
    /// The record.
    pub id: u64,
    /// Whether it was completed; otherwise it was taken back.
    pub completed: bool,
    /// Files somebody edited in between; they were left as they are.
    pub left: Vec<PathBuf>,
}

/// The journal of a home.
#[derive(Debug, Clone)]
pub struct Journal {
    folder: PathBuf,
}

type Stop<'a> = &'a mut dyn FnMut(Step) -> bool;

fn io_error<'a>(path: &'a Path, what: &'static str) -> impl FnOnce(io::Error) -> ApplyError + 'a {
    move |source| ApplyError::Io {
        path: path.to_owned(),
        what,
        source,
    }
}

fn hash(bytes: &[u8]) -> String {
    Sha256::digest(bytes)
        .iter()
        .map(|b| format!("{b:02x}"))
        .collect()
}

fn read_now(path: &Path) -> Result<Option<Vec<u8>>, ApplyError> {
    match fs::read(path) {
        Ok(bytes) => Ok(Some(bytes)),
        Err(e)
            if matches!(
                e.kind(),
                io::ErrorKind::NotFound | io::ErrorKind::NotADirectory
            ) =>
        {
            Ok(None)
        }
        Err(e) => Err(io_error(path, "cannot be read")(e)),
    }
}

fn sync_folder(path: &Path) -> io::Result<()> {
    File::open(path)?.sync_all()
}

/// Writes a file so that a crash leaves either the old or the new bytes. A link's target is
/// written; the mode stays.
///
/// # Errors
/// When the folder or file cannot be written.
pub fn write_atomic(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let target = path.canonicalize().unwrap_or_else(|_| path.to_owned());
    let parent = target.parent().unwrap_or(Path::new("/"));
    let folder = if parent.as_os_str().is_empty() {
        Path::new(".")
    } else {
        parent
    };
    fs::create_dir_all(folder)?;
    let mut file = tempfile::Builder::new()
        .prefix(".wealdmist-")
        .tempfile_in(folder)?;
    file.write_all(bytes)?;
    let mode = target
        .metadata()
        .map_or(0o644, |m| m.permissions().mode() & 0o7777);
    file.as_file()
        .set_permissions(fs::Permissions::from_mode(mode))?;
    file.as_file().sync_all()?;
    file.persist(&target).map_err(|e| e.error)?;
    sync_folder(folder)
}

impl Journal {
    /// The journal kept below a state folder. Nothing is created until something is written.
    #[must_use]
    pub fn new(state: &Path) -> Self {
        Self {
            folder: state.join("journal"),
        }
    }

    /// Carries out changes: all or none. `stop` is asked before each step and cuts the
    /// transaction short as a crash would; outside tests it is `&mut |_| false`.
    ///
    /// # Errors
    /// See [`ApplyError`].
    pub fn apply(
        &self,
        changes: &[FileChange],
        label: &str,
        stop: Stop,
    ) -> Result<Record, ApplyError> {
        self.transact(changes, Kind::Apply, None, label, stop)
    }

    /// Takes back a record, or the latest one that is not taken back yet. Edits made to the
    /// files since then are kept where they stand apart from the record's own.
    ///
    /// # Errors
    /// [`ApplyError::Conflicts`] when that is not possible; then nothing is changed.
    pub fn undo(&self, id: Option<u64>, stop: Stop) -> Result<Record, ApplyError> {
        let history = self.history()?;
        let taken_back = |r: &Record| history.iter().any(|o| o.undoes == Some(r.id));
        let open =
            |r: &&Record| r.kind == Kind::Apply && r.state == RecordState::Done && !taken_back(r);
        let record = match id {
            Some(id) => history
                .iter()
                .filter(open)
                .find(|r| r.id == id)
                .ok_or(ApplyError::NoRecord(id))?,
            None => history
                .iter()
                .rev()
                .find(open)
                .ok_or(ApplyError::NothingToUndo)?,
        };
        let mut changes = Vec::new();
        let mut conflicts = Vec::new();
        for (i, file) in record.files.iter().enumerate() {
            let old = self.kept(record.id, "old", i, file.before.as_deref())?;
            let new = self.kept(record.id, "new", i, file.after.as_deref())?;
            let now = read_now(file.target.path())?;
            let path = file.path.path().to_owned();
            match merged_back(&old, &new, &now) {
                Ok(after) => changes.push(FileChange {
                    path,
                    target: file.target.path().to_owned(),
                    before: now,
                    after,
                }),
                Err((line, what)) => conflicts.push(Conflict { path, line, what }),
            }
        }
        if !conflicts.is_empty() {
            return Err(ApplyError::Conflicts(conflicts));
        }
        let made: Vec<PathBuf> = record.made.iter().map(|p| p.path().to_owned()).collect();
        let undo = self.transact(&changes, Kind::Undo, Some(record.id), &record.label, stop)?;
        // Folders that were made for new files go, if nobody put anything else there.
        for folder in made.iter().rev() {
            let _ = fs::remove_dir(folder);
        }
        Ok(undo)
    }

    /// Every record, oldest first.
    ///
    /// # Errors
    /// When an entry is damaged.
    pub fn history(&self) -> Result<Vec<Record>, ApplyError> {
        let mut out = Vec::new();
        let Ok(entries) = fs::read_dir(&self.folder) else {
            return Ok(out);
        };
        for entry in entries.flatten() {
            let path = entry.path().join("record.json");
            let Some(bytes) = read_now(&path)? else {
                continue;
            };
            let record: Record =
                serde_json::from_slice(&bytes).map_err(|e| ApplyError::Damaged {
                    path: path.clone(),
                    why: e.to_string(),
                })?;
            out.push(record);
        }
        out.sort_by_key(|r| r.id);
        Ok(out)
    }

    /// Completes or takes back what an earlier process left unfinished.
    ///
    /// # Errors
    /// When the journal or a file cannot be read or written; then the record stays unfinished.
    pub fn recover(&self) -> Result<Vec<Recovery>, ApplyError> {
        if !self.folder.is_dir() {
            return Ok(Vec::new());
        }
        let unfinished = |r: &Record| r.state != RecordState::Done;
        if !self.history()?.iter().any(unfinished) {
            // Remains without a record may belong to a process that is just beginning.
            if let Ok(_lock) = self.lock() {
                self.sweep();
            }
            return Ok(Vec::new());
        }
        let _lock = self.lock()?;
        let mut out = Vec::new();
        for mut record in self.history()?.into_iter().filter(unfinished) {
            let mut left = Vec::new();
            let completed = record.state == RecordState::Intended;
            if completed {
                for i in 0..record.files.len() {
                    if !self.complete(&record, i)? {
                        left.push(record.files[i].path.path().to_owned());
                    }
                }
                record.state = RecordState::Done;
                self.save(&record)?;
            } else {
                self.take_back(&record);
            }
            out.push(Recovery {
                id: record.id,
                completed,
                left,
            });
        }
        self.sweep();
        Ok(out)
    }

    fn entry(&self, id: u64) -> PathBuf {
        self.folder.join(format!("{id:06}"))
    }

    fn kept(
        &self,
        id: u64,
        which: &str,
        i: usize,
        hash_wanted: Option<&str>,
    ) -> Result<Option<Vec<u8>>, ApplyError> {
        let Some(wanted) = hash_wanted else {
            return Ok(None);
        };
        let path = self.entry(id).join(format!("{which}-{i}"));
        let bytes = read_now(&path)?.filter(|b| hash(b) == wanted);
        bytes.map(Some).ok_or_else(|| ApplyError::Damaged {
            path,
            why: "the kept bytes are gone or not what was kept".into(),
        })
    }

    fn lock(&self) -> Result<File, ApplyError> {
        fs::create_dir_all(&self.folder).map_err(io_error(&self.folder, "cannot be created"))?;
        let path = self.folder.join("lock");
        let file = OpenOptions::new()
            .create(true)
            .truncate(false)
            .write(true)
            .open(&path)
            .map_err(io_error(&path, "cannot be opened"))?;
        match flock(&file, FlockOperation::NonBlockingLockExclusive) {
            Ok(()) => Ok(file),
            Err(rustix::io::Errno::WOULDBLOCK) => Err(ApplyError::Busy),
            Err(e) => Err(io_error(&path, "cannot be locked")(e.into())),
        }
    }

    fn save(&self, record: &Record) -> Result<(), ApplyError> {
        let path = self.entry(record.id).join("record.json");
        let json = serde_json::to_vec_pretty(record).unwrap_or_default();
        write_atomic(&path, &json).map_err(io_error(&path, "cannot be written"))
    }

    fn transact(
        &self,
        changes: &[FileChange],
        kind: Kind,
        undoes: Option<u64>,
        label: &str,
        stop: Stop,
    ) -> Result<Record, ApplyError> {
        self.recover()?;
        let _lock = self.lock()?;
        check_unchanged(changes)?;
        for change in changes {
            check_writable(&change.target)?;
        }
        let id = self.history()?.last().map_or(1, |r| r.id + 1);
        let mut record = new_record(id, kind, undoes, label, changes);
        match self.carry_out(&mut record, changes, stop) {
            Ok(()) => Ok(record),
            Err(stopped @ ApplyError::Stopped(_)) => Err(stopped),
            Err(error) => {
                if record.state == RecordState::Intended {
                    self.put_back(&record, changes);
                }
                self.take_back(&record);
                Err(error)
            }
        }
    }

    fn carry_out(
        &self,
        record: &mut Record,
        changes: &[FileChange],
        stop: Stop,
    ) -> Result<(), ApplyError> {
        let mut step = |s: Step| {
            if stop(s) {
                Err(ApplyError::Stopped(s))
            } else {
                Ok(())
            }
        };
        let entry = self.entry(record.id);
        fs::create_dir_all(&entry).map_err(io_error(&entry, "cannot be created"))?;
        for (i, change) in changes.iter().enumerate() {
            step(Step::Keep(i))?;
            for (which, bytes) in [("old", &change.before), ("new", &change.after)] {
                if let Some(bytes) = bytes {
                    let path = entry.join(format!("{which}-{i}"));
                    write_synced(&path, bytes, 0o600)
                        .map_err(io_error(&path, "cannot be written"))?;
                }
            }
        }
        step(Step::Prepare)?;
        self.save(record)?;
        for (i, change) in changes.iter().enumerate() {
            step(Step::WriteBeside(i))?;
            let Some(bytes) = &change.after else { continue };
            let temporary = record.files[i].temporary.path().to_owned();
            make_folders(&temporary, &record.made)?;
            write_synced(&temporary, bytes, record.files[i].mode)
                .and_then(|()| copy_attributes(&change.target, &temporary))
                .map_err(io_error(&change.path, "cannot be written"))?;
        }
        check_unchanged(changes)?;
        step(Step::Intend)?;
        record.state = RecordState::Intended;
        self.save(record)?;
        for (i, change) in changes.iter().enumerate() {
            step(Step::Rename(i))?;
            let moved = match change.after {
                Some(_) => fs::rename(record.files[i].temporary.path(), &change.target),
                None => fs::remove_file(&change.target),
            };
            moved.map_err(io_error(&change.path, "cannot be replaced"))?;
            let folder = change.target.parent().unwrap_or(Path::new("/"));
            sync_folder(folder).map_err(io_error(folder, "cannot be synced"))?;
        }
        step(Step::Finish)?;
        record.state = RecordState::Done;
        self.save(record)
    }

    /// Brings one file of an intended record to its new bytes; false if somebody else's are there.
    fn complete(&self, record: &Record, i: usize) -> Result<bool, ApplyError> {
        let file = &record.files[i];
        let target = file.target.path();
        let now = read_now(target)?.map(|b| hash(&b));
        if now == file.after {
            let _ = fs::remove_file(file.temporary.path());
            return Ok(true);
        }
        if now != file.before {
            let _ = fs::remove_file(file.temporary.path());
            return Ok(false);
        }
        match self.kept(record.id, "new", i, file.after.as_deref())? {
            Some(bytes) => {
                let temporary = file.temporary.path();
                make_folders(temporary, &record.made)?;
                write_synced(temporary, &bytes, file.mode)
                    .and_then(|()| copy_attributes(target, temporary))
                    .and_then(|()| fs::rename(temporary, target))
                    .map_err(io_error(target, "cannot be written"))?;
            }
            None => fs::remove_file(target).map_err(io_error(target, "cannot be removed"))?,
        }
        Ok(true)
    }

    /// After a failure among the renames: the files renamed so far get their old bytes back.
    fn put_back(&self, record: &Record, changes: &[FileChange]) {
        for (file, change) in record.files.iter().zip(changes) {
            let now = fs::read(&change.target).ok().map(|b| hash(&b));
            if now == file.after && now != file.before {
                let _ = match &change.before {
                    Some(bytes) => write_atomic(&change.target, bytes),
                    None => fs::remove_file(&change.target),
                };
            }
        }
    }

    /// Removes everything a record that will not be carried out has left.
    fn take_back(&self, record: &Record) {
        for file in &record.files {
            let _ = fs::remove_file(file.temporary.path());
        }
        for folder in record.made.iter().rev() {
            let _ = fs::remove_dir(folder.path());
        }
        let _ = fs::remove_dir_all(self.entry(record.id));
    }

    /// Removes entries that never got a record.
    fn sweep(&self) {
        for entry in fs::read_dir(&self.folder).into_iter().flatten().flatten() {
            let path = entry.path();
            if path.is_dir() && !path.join("record.json").exists() {
                let _ = fs::remove_dir_all(path);
            }
        }
    }
}

fn new_record(
    id: u64,
    kind: Kind,
    undoes: Option<u64>,
    label: &str,
    changes: &[FileChange],
) -> Record {
    let mut made: Vec<PathText> = Vec::new();
    let files = changes
        .iter()
        .map(|change| {
            let folder = change.target.parent().unwrap_or(Path::new("/"));
            let missing: Vec<&Path> = folder.ancestors().take_while(|a| !a.exists()).collect();
            for new in missing.into_iter().rev() {
                let new = PathText::new(new);
                if !made.contains(&new) {
                    made.push(new);
                }
            }
            let name = change
                .target
                .file_name()
                .unwrap_or_default()
                .to_string_lossy()
                .into_owned();
            let temporary = folder.join(format!(".{name}.wealdmist-{id}"));
            let mode = change
                .target
                .metadata()
                .map_or(0o644, |m| m.permissions().mode() & 0o7777);
            RecordFile {
                path: PathText::new(&change.path),
                target: PathText::new(&change.target),
                temporary: PathText::new(&temporary),
                before: change.before.as_deref().map(hash),
                after: change.after.as_deref().map(hash),
                mode,
            }
        })
        .collect();
    let time = SystemTime::now()
        .duration_since(UNIX_EPOCH)
        .map_or(0, |d| d.as_secs());
    let label = label.to_owned();
    Record {
        id,
        kind,
        undoes,
        state: RecordState::Prepared,
        time,
        label,
        files,
        made,
    }
}

fn check_unchanged(changes: &[FileChange]) -> Result<(), ApplyError> {
    for change in changes {
        if read_now(&change.target)? != change.before {
            return Err(ApplyError::Changed(change.path.clone()));
        }
    }
    Ok(())
}

fn check_writable(target: &Path) -> Result<(), ApplyError> {
    let Ok(meta) = target.symlink_metadata() else {
        return Ok(());
    };
    let refuse = |what, help| {
        Err(ApplyError::Protected {
            path: target.to_owned(),
            what,
            help,
        })
    };
    if !meta.is_file() {
        return refuse("not a regular file", "put a regular file there");
    }
    if meta.permissions().mode() & 0o222 == 0 {
        return refuse("read-only", "make it writable first (chmod u+w)");
    }
    if meta.nlink() > 1 {
        return refuse(
            "one of several hard links, which a safe write would part",
            "use a symbolic link instead",
        );
    }
    Ok(())
}

fn make_folders(temporary: &Path, made: &[PathText]) -> Result<(), ApplyError> {
    for folder in made {
        let folder = folder.path();
        if temporary.starts_with(folder) && !folder.exists() {
            fs::create_dir(folder).map_err(io_error(folder, "cannot be created"))?;
        }
    }
    Ok(())
}

fn write_synced(path: &Path, bytes: &[u8], mode: u32) -> io::Result<()> {
    let mut file = OpenOptions::new()
        .create(true)
        .write(true)
        .truncate(true)
        .mode(mode)
        .open(path)?;
    file.write_all(bytes)?;
    file.set_permissions(fs::Permissions::from_mode(mode))?;
    file.sync_all()
}

/// Gives the new file the owner and extended attributes of the one it replaces.
fn copy_attributes(from: &Path, to: &Path) -> io::Result<()> {
    let Ok(meta) = from.metadata() else {
        return Ok(());
    };
    let new = to.metadata()?;
    if (meta.uid(), meta.gid()) != (new.uid(), new.gid()) {
        std::os::unix::fs::chown(to, Some(meta.uid()), Some(meta.gid()))?;
        fs::set_permissions(
            to,
            fs::Permissions::from_mode(meta.permissions().mode() & 0o7777),
        )?;
    }
    let mut names = vec![0u8; 64 << 10];
    let Ok(len) = rustix::fs::listxattr(from, &mut names[..]) else {
        return Ok(());
    };
    for name in names[..len].split(|b| *b == 0).filter(|n| !n.is_empty()) {
        let name = OsStr::from_bytes(name);
        let mut value = vec![0u8; 64 << 10];
        if let Ok(len) = rustix::fs::getxattr(from, name, &mut value[..]) {
            // Some attributes belong to the system and cannot be set; the rest matter.
            let _ = rustix::fs::setxattr(to, name, &value[..len], rustix::fs::XattrFlags::empty());
        }
    }
    Ok(())
}

/// The bytes that take `new` back to `old` while keeping what was edited in `now` since; or the
/// line and reason why that cannot be done.
fn merged_back(
    old: &Option<Vec<u8>>,
    new: &Option<Vec<u8>>,
    now: &Option<Vec<u8>>,
) -> Result<Option<Vec<u8>>, (usize, &'static str)> {
    if now == new {
        return Ok(old.clone());
    }
    match (old, new, now) {
        (Some(old), Some(new), Some(now)) => match diffy::merge_bytes(new, now, old) {
            Ok(merged) => Ok(Some(merged)),
            Err(marked) => {
                let at = marked.windows(7).position(|w| w == b"<<<<<<<").unwrap_or(0);
                Err((
                    text::position(&marked, at).line,
                    "was edited in the same place",
                ))
            }
        },
        (_, _, None) => Err((0, "was removed since")),
        (None, ..) => Err((0, "was new then and has been edited since")),
        (_, None, Some(_)) => Err((0, "has been created again since")),
    }
}
