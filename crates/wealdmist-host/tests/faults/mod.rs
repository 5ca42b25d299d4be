//! Calls for files that fail on purpose.

#![allow(dead_code)]

use std::ffi::OsString;
use std::io;
use std::path::Path;
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

use wealdmist_host::{Disk, Files, Stat};

/// Which calls fail.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fault {
    /// None.
    Never,
    /// This one alone.
    Once(usize),
    /// This one and every later one, as on a full disk, or as if the program had ended there.
    From(usize),
    /// These two.
    Twice(usize, usize),
    /// The call is carried out, and says that it failed.
    DoneButFailed(usize),
}

type Before = Box<dyn FnMut(&str, &Path) + Send>;

/// The machine's files, with a fault.
pub struct Faulty {
    fault: Fault,
    calls: AtomicUsize,
    /// Runs before each call: its name and path.
    pub before: Mutex<Option<Before>>,
}

impl std::fmt::Debug for Faulty {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{:?}", self.fault)
    }
}

impl Faulty {
    pub fn new(fault: Fault) -> Self {
        Self {
            fault,
            calls: AtomicUsize::new(0),
            before: Mutex::new(None),
        }
    }

    pub fn calls(&self) -> usize {
        self.calls.load(Ordering::SeqCst)
    }

    fn run<T>(
        &self,
        name: &str,
        path: &Path,
        call: impl FnOnce() -> io::Result<T>,
    ) -> io::Result<T> {
        if let Some(before) = &mut *self.before.lock().unwrap() {
            before(name, path);
        }
        let n = self.calls.fetch_add(1, Ordering::SeqCst);
        let fails = match self.fault {
            Fault::Never => false,
            Fault::Once(at) => n == at,
            Fault::From(at) => n >= at,
            Fault::Twice(a, b) => n == a || n == b,
            Fault::DoneButFailed(at) if n == at => {
                let _ = call();
                return Err(io::Error::other(format!("{name} was made to fail")));
            }
            Fault::DoneButFailed(_) => false,
        };
        match fails {
            true => Err(io::Error::other(format!("{name} was made to fail"))),
            false => call(),
        }
    }
}

impl Files for Faulty {
    fn read(&self, path: &Path, limit: u64) -> io::Result<Option<Vec<u8>>> {
        self.run("read", path, || Disk.read(path, limit))
    }
    fn stat(&self, path: &Path) -> io::Result<Option<Stat>> {
        self.run("stat", path, || Disk.stat(path))
    }
    fn create(&self, path: &Path, bytes: &[u8], mode: Option<u32>) -> io::Result<()> {
        self.run("create", path, || Disk.create(path, bytes, mode))
    }
    fn copy_attributes(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.run("copy_attributes", to, || Disk.copy_attributes(from, to))
    }
    fn exchange(&self, a: &Path, b: &Path) -> io::Result<()> {
        self.run("exchange", b, || Disk.exchange(a, b))
    }
    fn move_new(&self, from: &Path, to: &Path) -> io::Result<()> {
        self.run("move_new", to, || Disk.move_new(from, to))
    }
    fn remove(&self, path: &Path) -> io::Result<()> {
        self.run("remove", path, || Disk.remove(path))
    }
    fn make_folder(&self, path: &Path, mode: u32) -> io::Result<()> {
        self.run("make_folder", path, || Disk.make_folder(path, mode))
    }
    fn remove_folder(&self, path: &Path) -> io::Result<()> {
        self.run("remove_folder", path, || Disk.remove_folder(path))
    }
    fn sync_folder(&self, path: &Path) -> io::Result<()> {
        self.run("sync_folder", path, || Disk.sync_folder(path))
    }
    fn list(&self, path: &Path) -> io::Result<Vec<OsString>> {
        self.run("list", path, || Disk.list(path))
    }
}
