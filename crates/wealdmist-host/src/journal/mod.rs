//! The journal: all files of a plan are written or none, and what was written can be taken back.
//!
//! # The states of a record, and what holds in each
//!
//! | state on disk | what holds |
//! |---|---|
//! | none | nothing has changed; what lies in the entry's folder is of no account |
//! | `prepared` | nothing has changed; old and new bytes are kept in the entry; new bytes may wait beside the files |
//! | `intended` | each file is wholly old or wholly new; where it is new, the old *file* itself (its bytes, mode, owner, access list) lies beside it until all are new and verified |
//! | `returning` | the same, and it goes the other way: new files become old again |
//! | `done` | every file is new and has been verified; the old bytes are kept in the entry |
//!
//! ```text
//!            ┌───────────▶ (gone: all old) ◀───────────┐
//!            │                                         │
//! (none) ▶ prepared ──▶ intended ──▶ done              │
//!                          │                           │
//!                          └──────▶ returning ─────────┘
//! ```
//!
//! A file is replaced by letting it change places with the new one. What lies beside then is what
//! stood there at the last moment: if that is not what was read, somebody saved meanwhile, and all
//! goes back. It is looked at again when all are in place, since an editor may have had the old
//! file open. Only then is anything old removed.
//!
//! A start-up that finds a record not yet done takes it back where it is `prepared` or
//! `returning`, and completes it where it is `intended`. When a second thing fails while the first
//! is being mended, nothing more is done: the error says which files are new, and the next start
//! goes on from the record.
//!
//! All paths below the home are kept relative to it. Everything that reads a plan's files and then
//! writes them does so under one lock ([`Journal::hold`]).

mod error;
mod merge;
mod record;

use std::cell::RefCell;
use std::collections::BTreeSet;
use std::fs::{File, Permissions};
use std::io;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::rc::{Rc, Weak};
use std::sync::Arc;
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use sha2::{Digest, Sha256};
use wealdmist_core::plan::Plan;

use crate::files::{
    Disk, Files, check_writable, folder_of, make_private_folders, path_beside, resolved,
};
use crate::home::Home;
use crate::limits;
use crate::platform::files::{lock, open_lock};
use error::bare;
use tracing::{debug, info, warn};

pub use error::{ApplyError, Conflict};
pub(crate) use merge::merged;
pub use record::{Kind, PathText, Record, RecordFile, RecordState};

/// How long another writer of the same home is waited for.
const PATIENCE: Duration = Duration::from_secs(5);

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
    home: PathBuf,
    /// Folders that count as the home's beside it.
    folders: Vec<PathBuf>,
    /// Files outside it that the person allowed.
    allowed: BTreeSet<PathBuf>,
    files: Arc<dyn Files>,
}

/// The right to write in a home, until it is dropped. A thread that has it may ask for it again.
#[derive(Debug, Clone)]
pub struct Held(#[allow(dead_code)] Rc<File>);

thread_local! {
    static HELD: RefCell<Vec<(PathBuf, Weak<File>)>> = const { RefCell::new(Vec::new()) };
}

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

/// One file of a transaction, with its paths in this home.
struct Item<'a> {
    path: PathBuf,
    target: PathBuf,
    temporary: PathBuf,
    file: &'a RecordFile,
}

impl Journal {
    /// The journal of a home.
    #[must_use]
    pub fn of(home: &Home) -> Self {
        Self {
            folder: home.state().join("journal"),
            home: home.home_path().to_owned(),
            folders: home.own_folders(),
            allowed: home.allowed(),
            files: Arc::new(Disk),
        }
    }

    /// The journal kept below a state folder, for the files of a home. Nothing is created until
    /// something is written.
    #[must_use]
    pub fn new(state: &Path, home: &Path) -> Self {
        Self {
            folder: state.join("journal"),
            home: home.to_owned(),
            folders: Vec::new(),
            allowed: BTreeSet::new(),
            files: Arc::new(Disk),
        }
    }

    /// The same with other calls for files, for tests that let them fail.
    #[must_use]
    pub fn with_files(self, files: Arc<dyn Files>) -> Self {
        Self { files, ..self }
    }

    /// Waits for the right to write in this home, and completes or takes back what an earlier
    /// process left unfinished.
    ///
    /// # Errors
    /// [`ApplyError::Busy`] when another process has it for long; what recovering fails with.
    pub fn hold(&self) -> Result<Held, ApplyError> {
        let held = self.lock(PATIENCE)?;
        self.recover_held()?;
        Ok(held)
    }

    /// Writes down what a transaction came to.
    fn told(&self, done: Result<Record, ApplyError>) -> Result<Record, ApplyError> {
        match &done {
            Ok(record) => {
                let (id, kind, files) = (record.id, record.kind, record.files.len());
                info!(id, ?kind, files, "written");
                for file in &record.files {
                    debug!(id, path = ?file.path.within(&self.home), "written");
                }
            }
            Err(why) => warn!(why = why.to_string(), "not written"),
        }
        done
    }

    /// Carries out changes: all or none.
    ///
    /// # Errors
    /// See [`ApplyError`].
    pub fn apply(&self, changes: &[FileChange], label: &str) -> Result<Record, ApplyError> {
        let _held = self.hold()?;
        self.told(self.transact(changes, Kind::Apply, None, label))
    }

    /// Takes back a record, or the latest one that is not taken back yet. Edits made to the
    /// files since then are kept where they stand apart from the record's own.
    ///
    /// # Errors
    /// [`ApplyError::Conflicts`] when that is not possible; then nothing is changed.
    pub fn undo(&self, id: Option<u64>) -> Result<Record, ApplyError> {
        let _held = self.hold()?;
        let history = self.records()?;
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
        for (i, item) in self.items(record).into_iter().enumerate() {
            let old = self.kept(record.id, "old", i, item.file.before.as_deref())?;
            let new = self.kept(record.id, "new", i, item.file.after.as_deref())?;
            let now = self.read_now(&item.target)?;
            match merged_back(&old, &new, &now) {
                Ok(after) => changes.push(FileChange {
                    path: item.path,
                    target: item.target,
                    before: now,
                    after,
                }),
                Err((line, what)) => conflicts.push(Conflict {
                    path: item.path,
                    line,
                    what,
                }),
            }
        }
        if !conflicts.is_empty() {
            return Err(ApplyError::Conflicts(conflicts));
        }
        let made: Vec<PathBuf> = record.made.iter().map(|p| p.within(&self.home)).collect();
        let undo =
            self.told(self.transact(&changes, Kind::Undo, Some(record.id), &record.label))?;
        // Folders that were made for new files go, if nobody put anything else there.
        for folder in made.iter().rev() {
            let _ = self.files.remove_folder(folder);
        }
        Ok(undo)
    }

    /// Every record, oldest first, after what an earlier process left unfinished is put right.
    ///
    /// # Errors
    /// When an entry is damaged or cannot be read.
    pub fn history(&self) -> Result<Vec<Record>, ApplyError> {
        match self.recover() {
            Ok(_) | Err(ApplyError::Busy) => self.records(),
            Err(error) => Err(error),
        }
    }

    fn records(&self) -> Result<Vec<Record>, ApplyError> {
        let mut out = Vec::new();
        let names = self.files.list(&self.folder);
        for name in names.map_err(io_error(&self.folder, "cannot be read"))? {
            if name.to_str().is_none_or(|n| n.parse::<u64>().is_err()) {
                continue;
            }
            let path = self.folder.join(name).join("record.json");
            let read = self.files.read(&path, limits::RECORD);
            let Some(bytes) = read.map_err(io_error(&path, "cannot be read"))? else {
                continue;
            };
            let damaged = |e: serde_json::Error| ApplyError::Damaged {
                path: path.clone(),
                why: e.to_string(),
            };
            out.push(serde_json::from_slice::<Record>(&bytes).map_err(damaged)?);
        }
        out.sort_by_key(|r| r.id);
        Ok(out)
    }

    /// Completes or takes back what an earlier process left unfinished.
    ///
    /// # Errors
    /// When the journal or a file cannot be read or written; then the record stays unfinished.
    pub fn recover(&self) -> Result<Vec<Recovery>, ApplyError> {
        let there = self.files.stat(&self.folder);
        if there
            .map_err(io_error(&self.folder, "cannot be read"))?
            .is_none()
        {
            return Ok(Vec::new());
        }
        let unfinished = |r: &Record| r.state != RecordState::Done;
        if !self.records()?.iter().any(unfinished) {
            // Remains without a record may belong to a process that is just beginning.
            if let Ok(_held) = self.lock(Duration::ZERO) {
                self.sweep();
            }
            return Ok(Vec::new());
        }
        let _held = self.lock(PATIENCE)?;
        self.recover_held()
    }

    fn recover_held(&self) -> Result<Vec<Recovery>, ApplyError> {
        let mut out = Vec::new();
        for mut record in self.records()? {
            let id = record.id;
            match record.state {
                RecordState::Done => continue,
                RecordState::Prepared => {
                    self.clear(&record)?;
                    out.push(Recovery {
                        id,
                        completed: false,
                        left: Vec::new(),
                    });
                }
                RecordState::Returning => {
                    let gone = self.go_back(&record).and_then(|left| {
                        self.clear(&record)?;
                        Ok(left)
                    });
                    let left = gone.map_err(|e| self.still_unfinished(&record, &e))?;
                    out.push(Recovery {
                        id,
                        completed: false,
                        left,
                    });
                }
                RecordState::Intended => {
                    let done = self.complete(&mut record);
                    let left = done.map_err(|e| self.still_unfinished(&record, &e))?;
                    out.push(Recovery {
                        id,
                        completed: true,
                        left,
                    });
                }
            }
        }
        self.sweep();
        Ok(out)
    }

    fn entry(&self, id: u64) -> PathBuf {
        self.folder.join(format!("{id:06}"))
    }

    fn items<'a>(&self, record: &'a Record) -> Vec<Item<'a>> {
        let item = |file: &'a RecordFile| Item {
            path: file.path.within(&self.home),
            target: file.target.within(&self.home),
            temporary: file.temporary.within(&self.home),
            file,
        };
        record.files.iter().map(item).collect()
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
        let read = self.files.read(&path, limits::JOURNALED);
        let bytes = read.map_err(io_error(&path, "cannot be read"))?;
        let bytes = bytes.filter(|b| hash(b) == wanted);
        bytes.map(Some).ok_or_else(|| ApplyError::Damaged {
            path,
            why: "the kept bytes are gone or not what was kept".into(),
        })
    }

    fn lock(&self, patience: Duration) -> Result<Held, ApplyError> {
        let path = self.folder.join("lock");
        let mine = HELD.with_borrow_mut(|held| {
            held.retain(|(_, file)| file.strong_count() > 0);
            let found = held.iter().find(|(p, _)| *p == path);
            found.and_then(|(_, file)| file.upgrade())
        });
        if let Some(file) = mine {
            return Ok(Held(file));
        }
        make_private_folders(&*self.files, &self.folder)
            .map_err(io_error(&self.folder, "cannot be created"))?;
        for folder in [&*self.folder, folder_of(&self.folder)] {
            // Kept bytes are nobody else's to read.
            let open = folder
                .metadata()
                .is_ok_and(|m| m.permissions().mode() & 0o077 != 0);
            if open {
                let _ = std::fs::set_permissions(folder, Permissions::from_mode(0o700));
            }
        }
        let file = open_lock(&path).map_err(io_error(&path, "cannot be opened"))?;
        let until = Instant::now() + patience;
        while !lock(&file).map_err(io_error(&path, "cannot be locked"))? {
            if Instant::now() >= until {
                return Err(ApplyError::Busy);
            }
            std::thread::sleep(Duration::from_millis(10));
        }
        let file = Rc::new(file);
        HELD.with_borrow_mut(|held| held.push((path, Rc::downgrade(&file))));
        Ok(Held(file))
    }

    fn read_now(&self, path: &Path) -> Result<Option<Vec<u8>>, ApplyError> {
        let read = self.files.read(path, limits::JOURNALED);
        read.map_err(io_error(path, "cannot be read"))
    }

    fn hash_now(&self, path: &Path) -> Result<Option<String>, ApplyError> {
        Ok(self.read_now(path)?.map(|b| hash(&b)))
    }

    /// Writes the record, so that a crash leaves the earlier or this one.
    fn save(&self, record: &Record) -> io::Result<()> {
        let path = self.entry(record.id).join("record.json");
        let json = serde_json::to_vec_pretty(record).map_err(io::Error::other)?;
        let beside = path_beside(&path);
        self.files.create(&beside, &json, Some(0o600))?;
        let moved = match self.files.stat(&path) {
            Ok(None) => self.files.move_new(&beside, &path),
            Ok(Some(_)) => self.files.exchange(&beside, &path),
            Err(e) => Err(e),
        };
        let _ = self.files.remove(&beside);
        moved?;
        self.files.sync_folder(folder_of(&path))
    }

    /// The state the record has on disk, where that can be told.
    fn state_on_disk(&self, record: &Record) -> Option<RecordState> {
        let path = self.entry(record.id).join("record.json");
        let bytes = self.files.read(&path, limits::RECORD).ok()??;
        let read: Record = serde_json::from_slice(&bytes).ok()?;
        Some(read.state)
    }

    fn transact(
        &self,
        changes: &[FileChange],
        kind: Kind,
        undoes: Option<u64>,
        label: &str,
    ) -> Result<Record, ApplyError> {
        let mut targets = BTreeSet::new();
        for change in changes {
            self.may_edit(&change.target)?;
            if !targets.insert(&change.target) {
                return Err(ApplyError::Protected {
                    path: change.path.clone(),
                    what: "changed twice at once",
                    help: "apply the changes one after another",
                });
            }
        }
        self.check_unchanged(changes)?;
        let id = self.records()?.last().map_or(1, |r| r.id + 1);
        let mut record = self.new_record(id, kind, undoes, label, changes)?;
        if let Err(error) = self.prepare(&record, changes) {
            // Nothing has changed; what cannot be removed now is swept away at the next start.
            let _ = self.clear(&record);
            return Err(error);
        }
        record.state = RecordState::Intended;
        if let Err(source) = self.save(&record) {
            let entry = self.entry(id);
            let failed = format!("{} cannot be written: {source}", entry.display());
            // It may have been written all the same: then the next start would carry it out.
            return match self.give_up(&mut record) {
                Ok(()) => Err(io_error(&entry, "cannot be written")(source)),
                Err(second) => Err(self.unfinished(&record, failed, &second)),
            };
        }
        match self.swap_all(&record) {
            Ok(()) => self.close(&mut record).map(|()| record),
            Err(first) => match self.give_up(&mut record) {
                Ok(()) => Err(first),
                Err(second) => Err(self.unfinished(&record, bare(&first), &second)),
            },
        }
    }

    /// Keeps old and new bytes, records what is prepared, and writes the new bytes beside.
    fn prepare(&self, record: &Record, changes: &[FileChange]) -> Result<(), ApplyError> {
        let entry = self.entry(record.id);
        self.files
            .make_folder(&entry, 0o700)
            .map_err(io_error(&entry, "cannot be created"))?;
        for (i, change) in changes.iter().enumerate() {
            for (which, bytes) in [("old", &change.before), ("new", &change.after)] {
                if let Some(bytes) = bytes {
                    let path = entry.join(format!("{which}-{i}"));
                    self.files
                        .create(&path, bytes, Some(0o600))
                        .map_err(io_error(&path, "cannot be written"))?;
                }
            }
        }
        self.save(record)
            .and_then(|()| self.files.sync_folder(&self.folder))
            .map_err(io_error(&entry, "cannot be written"))?;
        for (item, change) in self.items(record).iter().zip(changes) {
            if let Some(bytes) = &change.after {
                self.stage(record, item, bytes)?;
            }
        }
        self.check_unchanged(changes)
    }

    /// Writes new bytes beside a file, with its attributes.
    fn stage(&self, record: &Record, item: &Item, bytes: &[u8]) -> Result<(), ApplyError> {
        for folder in &record.made {
            let folder = folder.within(&self.home);
            if item.temporary.starts_with(&folder) {
                self.files
                    .make_folder(&folder, 0o755)
                    .map_err(io_error(&folder, "cannot be created"))?;
            }
        }
        let staged = self.files.create(&item.temporary, bytes, item.file.mode);
        let staged = staged.and_then(|()| match item.file.before {
            Some(_) => self.files.copy_attributes(&item.target, &item.temporary),
            None => Ok(()),
        });
        staged.map_err(io_error(&item.path, "cannot be written"))
    }

    /// Puts every file in its new state and verifies all of them.
    fn swap_all(&self, record: &Record) -> Result<(), ApplyError> {
        let items = self.items(record);
        for item in &items {
            self.swap(item)?;
        }
        // An editor may have had an old file open and saved into it while it was being moved.
        for item in &items {
            if item.file.before.is_some() && self.hash_now(&item.temporary)? != item.file.before {
                return Err(ApplyError::Changed(item.path.clone()));
            }
            if self.hash_now(&item.target)? != item.file.after {
                return Err(ApplyError::Changed(item.path.clone()));
            }
        }
        Ok(())
    }

    /// Puts one file in its new state. What was there lies beside afterwards.
    fn swap(&self, item: &Item) -> Result<(), ApplyError> {
        let (target, temporary) = (&item.target, &item.temporary);
        let moved = match (&item.file.before, &item.file.after) {
            (Some(_), Some(_)) => self.files.exchange(temporary, target),
            (None, Some(_)) => self.files.move_new(temporary, target),
            (Some(_), None) => self.files.move_new(target, temporary),
            (None, None) => Ok(()),
        };
        if let Err(e) = moved {
            return Err(match e.kind() {
                io::ErrorKind::AlreadyExists | io::ErrorKind::NotFound => {
                    ApplyError::Changed(item.path.clone())
                }
                _ => io_error(&item.path, "cannot be replaced")(e),
            });
        }
        let folder = folder_of(target);
        self.files
            .sync_folder(folder)
            .map_err(io_error(folder, "cannot be synced"))?;
        if item.file.before.is_some() && self.hash_now(temporary)? != item.file.before {
            return Err(ApplyError::Changed(item.path.clone()));
        }
        Ok(())
    }

    /// Removes the old files, which lie beside, and records that all is done.
    fn close(&self, record: &mut Record) -> Result<(), ApplyError> {
        let path = self.entry(record.id);
        let not_closed = |source| ApplyError::NotClosed {
            path: path.clone(),
            source,
        };
        for item in self.items(record) {
            self.files.remove(&item.temporary).map_err(not_closed)?;
        }
        record.state = RecordState::Done;
        match self.save(record) {
            Ok(()) => Ok(()),
            Err(_) if self.state_on_disk(record) == Some(RecordState::Done) => Ok(()),
            Err(source) => Err(not_closed(source)),
        }
    }

    /// Takes an intended record back. An error says what failed, and leaves it to the next start.
    fn give_up(&self, record: &mut Record) -> Result<(), ApplyError> {
        record.state = RecordState::Returning;
        let entry = self.entry(record.id);
        self.save(record)
            .map_err(io_error(&entry, "cannot be written"))?;
        self.go_back(record)?;
        self.clear(record)
    }

    /// Puts every file that is new back to its old state; what somebody has edited since stays as
    /// it is, and is named.
    fn go_back(&self, record: &Record) -> Result<Vec<PathBuf>, ApplyError> {
        let mut left = Vec::new();
        for (i, item) in self.items(record).iter().enumerate().rev() {
            let (target, temporary) = (&item.target, &item.temporary);
            let (now, beside) = (self.hash_now(target)?, self.hash_now(temporary)?);
            let is_new = now == item.file.after && now != item.file.before;
            // The old file itself lies beside; it may have been saved into meanwhile.
            let is_old_beside = beside.is_some() && beside != item.file.after;
            match (&item.file.before, &item.file.after) {
                (Some(_), Some(_)) if is_old_beside && is_new => {
                    self.back(item, |f| f.exchange(temporary, target))?;
                }
                (Some(_), None) if is_old_beside && now.is_none() => {
                    self.back(item, |f| f.move_new(temporary, target))?;
                }
                (Some(_), _) if is_new => {
                    // The old file is gone: its bytes are kept.
                    let bytes = self.kept(record.id, "old", i, item.file.before.as_deref())?;
                    let fresh = path_beside(target);
                    let bytes = bytes.unwrap_or_default();
                    self.back(item, |f| f.create(&fresh, &bytes, item.file.mode))?;
                    let moved = match now {
                        Some(_) => self.back(item, |f| f.exchange(&fresh, target)),
                        None => self.back(item, |f| f.move_new(&fresh, target)),
                    };
                    let _ = self.files.remove(&fresh);
                    moved?;
                }
                (None, Some(_)) if is_new => {
                    self.back(item, |f| f.remove(target))?;
                }
                _ if now != item.file.before => left.push(item.path.clone()),
                _ => {}
            }
        }
        Ok(left)
    }

    fn back(
        &self,
        item: &Item,
        how: impl FnOnce(&dyn Files) -> io::Result<()>,
    ) -> Result<(), ApplyError> {
        how(&*self.files)
            .and_then(|()| self.files.sync_folder(folder_of(&item.target)))
            .map_err(io_error(&item.path, "cannot be put back"))
    }

    /// Brings an intended record to its end; the files somebody else has written meanwhile.
    fn complete(&self, record: &mut Record) -> Result<Vec<PathBuf>, ApplyError> {
        let mut left = Vec::new();
        for (i, item) in self.items(record).iter().enumerate() {
            let now = self.hash_now(&item.target)?;
            if now == item.file.after {
                // What somebody saved at the very moment the files changed places is put back.
                let beside = self.hash_now(&item.temporary)?;
                let known = beside == item.file.before || beside == item.file.after;
                if item.file.before.is_some() && beside.is_some() && !known {
                    self.back(item, |f| f.exchange(&item.temporary, &item.target))?;
                    left.push(item.path.clone());
                }
                continue;
            }
            if now != item.file.before {
                left.push(item.path.clone());
                continue;
            }
            if let Some(bytes) = self.kept(record.id, "new", i, item.file.after.as_deref())?
                && self.hash_now(&item.temporary)? != item.file.after
            {
                let removed = self.files.remove(&item.temporary);
                removed.map_err(io_error(&item.path, "cannot be written"))?;
                self.stage(record, item, &bytes)?;
            }
            self.swap(item)?;
        }
        // What lies beside a file that was left is the new one, of which the journal has a copy.
        self.close(record)?;
        Ok(left)
    }

    /// Removes everything of a record whose files are all old.
    fn clear(&self, record: &Record) -> Result<(), ApplyError> {
        let entry = self.entry(record.id);
        for item in self.items(record) {
            // Before the intent only our own bytes are there, perhaps a part of them. After it an
            // old file beside is one that could not be put back: it stays.
            let ours = record.state == RecordState::Prepared
                || (item.file.after.is_some()
                    && self.hash_now(&item.temporary)? == item.file.after);
            if ours {
                let removed = self.files.remove(&item.temporary);
                removed.map_err(io_error(&item.temporary, "cannot be removed"))?;
            }
        }
        for folder in record.made.iter().rev().map(|f| f.within(&self.home)) {
            match self.files.remove_folder(&folder) {
                // Somebody has put something there meanwhile.
                Err(e) if e.kind() == io::ErrorKind::DirectoryNotEmpty => {}
                other => other.map_err(io_error(&folder, "cannot be removed"))?,
            }
        }
        self.remove_entry(&entry)
            .map_err(io_error(&entry, "cannot be removed"))
    }

    /// Removes an entry, its record first: without one it is of no account.
    fn remove_entry(&self, entry: &Path) -> io::Result<()> {
        self.files.remove(&entry.join("record.json"))?;
        self.files.sync_folder(entry)?;
        for name in self.files.list(entry)? {
            self.files.remove(&entry.join(name))?;
        }
        self.files.remove_folder(entry)
    }

    /// Removes entries that never got a record.
    fn sweep(&self) {
        for name in self.files.list(&self.folder).unwrap_or_default() {
            let entry = self.folder.join(&name);
            let numbered = name.to_str().is_some_and(|n| n.parse::<u64>().is_ok());
            let record = entry.join("record.json");
            if numbered && matches!(self.files.stat(&record), Ok(None)) {
                let _ = self.remove_entry(&entry);
            }
        }
    }

    fn still_unfinished(&self, record: &Record, error: &ApplyError) -> ApplyError {
        let first = format!("number {} had been interrupted", record.id);
        self.unfinished(record, first, error)
    }

    fn unfinished(&self, record: &Record, first: String, second: &ApplyError) -> ApplyError {
        let (mut new, mut old, mut unknown) = (Vec::new(), Vec::new(), Vec::new());
        for item in self.items(record) {
            match self.hash_now(&item.target) {
                Ok(now) if now == item.file.before => old.push(item.path),
                Ok(now) if now == item.file.after => new.push(item.path),
                _ => unknown.push(item.path),
            }
        }
        ApplyError::Unfinished {
            first,
            second: bare(second),
            new,
            old,
            unknown,
        }
    }

    fn new_record(
        &self,
        id: u64,
        kind: Kind,
        undoes: Option<u64>,
        label: &str,
        changes: &[FileChange],
    ) -> Result<Record, ApplyError> {
        let mut made: Vec<PathText> = Vec::new();
        let mut files = Vec::new();
        let text = |path: &Path| PathText::new(path, &self.home);
        for change in changes {
            let folder = folder_of(&change.target);
            let mut missing = Vec::new();
            for above in folder.ancestors() {
                let there = self.files.stat(above);
                if there
                    .map_err(io_error(above, "cannot be looked at"))?
                    .is_some()
                {
                    break;
                }
                missing.push(above);
            }
            for new in missing.into_iter().rev().map(text) {
                if !made.contains(&new) {
                    made.push(new);
                }
            }
            let stat = check_writable(&*self.files, &change.target);
            let stat = stat.map_err(|e| (change.path.clone(), e))?;
            files.push(RecordFile {
                path: text(&change.path),
                target: text(&change.target),
                temporary: text(&path_beside(&change.target)),
                before: change.before.as_deref().map(hash),
                after: change.after.as_deref().map(hash),
                mode: stat.map(|s| s.mode),
            });
        }
        let now = SystemTime::now().duration_since(UNIX_EPOCH);
        Ok(Record {
            id,
            kind,
            undoes,
            state: RecordState::Prepared,
            time: now.map_or(0, |d| d.as_secs()),
            label: label.to_owned(),
            files,
            made,
        })
    }

    fn check_unchanged(&self, changes: &[FileChange]) -> Result<(), ApplyError> {
        for change in changes {
            if self.read_now(&change.target)? != change.before {
                return Err(ApplyError::Changed(change.path.clone()));
            }
        }
        Ok(())
    }

    /// Whether a file may be edited: it lies in the home, or the person allowed this very file.
    ///
    /// # Errors
    /// [`ApplyError::Outside`] otherwise.
    pub fn may_edit(&self, target: &Path) -> Result<(), ApplyError> {
        let real = resolved(target);
        let within = |folder: &PathBuf| real.starts_with(folder);
        let fine =
            within(&self.home) || self.folders.iter().any(within) || self.allowed.contains(&real);
        match fine {
            true => Ok(()),
            false => Err(ApplyError::Outside(target.to_owned())),
        }
    }
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
        (Some(old), Some(new), Some(now)) => merge::merged(new, now, old)
            .map(Some)
            .map_err(|line| (line, "was edited in the same place")),
        (_, _, None) => Err((0, "was removed since")),
        (None, ..) => Err((0, "was new then and has been edited since")),
        (_, None, Some(_)) => Err((0, "has been created again since")),
    }
}
