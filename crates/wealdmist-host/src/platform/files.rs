//! What files can do here beyond what the library offers.

// The calls that the rules of the house allow in few places.
#![allow(clippy::disallowed_methods)]

use std::ffi::{OsStr, OsString};
use std::fs::{self, File, OpenOptions};
use std::io;
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::{FileTypeExt, MetadataExt, OpenOptionsExt, PermissionsExt};
use std::path::Path;

use rustix::fs::{CWD, FlockOperation, OFlags, RenameFlags, XattrFlags, flock};
use rustix::io::Errno;
use rustix::process::getuid;

use crate::limits;

/// Opens a file for reading. Neither a pipe without a writer nor a device makes this wait, and no
/// terminal becomes ours by it.
pub(crate) fn open_at_once(path: &Path) -> io::Result<File> {
    let flags = (OFlags::NONBLOCK | OFlags::NOCTTY).bits();
    OpenOptions::new()
        .read(true)
        .custom_flags(flags as i32)
        .open(path)
}

/// Whether opening failed because nothing can be read there: a socket, or a pipe in a way it has not.
pub(crate) fn has_no_reader(error: &io::Error) -> bool {
    error.raw_os_error() == Some(Errno::NXIO.raw_os_error())
}

/// Whether links go round in a circle.
pub(crate) fn is_circle(error: &io::Error) -> bool {
    error.raw_os_error() == Some(Errno::LOOP.raw_os_error())
}

/// Gives a file owner, access list and extended attributes of another.
pub(crate) fn copy_attributes(from: &Path, to: &Path) -> io::Result<()> {
    let (old, new) = (from.metadata()?, to.metadata()?);
    if (old.uid(), old.gid()) != (new.uid(), new.gid()) {
        std::os::unix::fs::chown(to, Some(old.uid()), Some(old.gid())).map_err(|e| {
            let what = format!(
                "the new file cannot be given its owner {} and group {}: {e}",
                old.uid(),
                old.gid()
            );
            io::Error::new(e.kind(), what)
        })?;
    }
    for (name, value) in attributes(from)? {
        if let Err(e) = rustix::fs::setxattr(to, name.as_os_str(), &value, XattrFlags::empty()) {
            // What belongs to the system alone cannot be set; an access list must be.
            if name.as_bytes().starts_with(b"system.posix_acl") {
                return Err(e.into());
            }
        }
    }
    // Changing the owner takes bits away, and an access list changes the group's.
    fs::set_permissions(to, fs::Permissions::from_mode(old.mode() & 0o7777))
}

/// Lets two files change places in one step; `false` where the file system cannot.
pub(crate) fn exchange(a: &Path, b: &Path) -> io::Result<bool> {
    renamed(rustix::fs::renameat_with(
        CWD,
        a,
        CWD,
        b,
        RenameFlags::EXCHANGE,
    ))
}

/// Moves a file to where nothing is in one step; `false` where the file system cannot.
pub(crate) fn move_new(from: &Path, to: &Path) -> io::Result<bool> {
    renamed(rustix::fs::renameat_with(
        CWD,
        from,
        CWD,
        to,
        RenameFlags::NOREPLACE,
    ))
}

fn renamed(result: rustix::io::Result<()>) -> io::Result<bool> {
    match result {
        Ok(()) => Ok(true),
        Err(Errno::INVAL | Errno::NOSYS | Errno::OPNOTSUPP) => Ok(false),
        Err(e) => Err(e.into()),
    }
}

/// Opens a file that is only there to be locked, making it where it is missing. Links are not
/// followed.
pub(crate) fn open_lock(path: &Path) -> io::Result<File> {
    let flags = (OFlags::NOFOLLOW | OFlags::NONBLOCK).bits();
    OpenOptions::new()
        .create(true)
        .truncate(false)
        .write(true)
        .mode(0o600)
        .custom_flags(flags as i32)
        .open(path)
}

/// Locks a file for ourselves alone until it is closed; `false` where somebody else has it.
pub(crate) fn lock(file: &File) -> io::Result<bool> {
    match flock(file, FlockOperation::NonBlockingLockExclusive) {
        Ok(()) => Ok(true),
        Err(Errno::WOULDBLOCK) => Ok(false),
        Err(e) => Err(e.into()),
    }
}

/// Whether a path is a socket of this user.
pub(crate) fn is_own_socket(path: &Path) -> bool {
    let uid = getuid().as_raw();
    path.metadata()
        .is_ok_and(|m| m.file_type().is_socket() && m.uid() == uid)
}

/// Whether this user may write there.
pub(crate) fn can_write(path: &Path) -> bool {
    rustix::fs::access(path, rustix::fs::Access::WRITE_OK).is_ok()
}

/// The number of the user this runs as.
pub(crate) fn user_number() -> u32 {
    getuid().as_raw()
}

/// The extended attributes of a file, its access list among them.
fn attributes(path: &Path) -> io::Result<Vec<(OsString, Vec<u8>)>> {
    let mut names = vec![0u8; limits::ATTRIBUTES];
    let len = match rustix::fs::listxattr(path, &mut names[..]) {
        Ok(len) => len,
        Err(Errno::OPNOTSUPP) => return Ok(Vec::new()),
        Err(e) => return Err(e.into()),
    };
    let mut out = Vec::new();
    for name in names[..len].split(|b| *b == 0).filter(|n| !n.is_empty()) {
        let name = OsStr::from_bytes(name);
        let mut value = vec![0u8; limits::ATTRIBUTES];
        if let Ok(len) = rustix::fs::getxattr(path, name, &mut value[..]) {
            value.truncate(len);
            out.push((name.to_owned(), value));
        }
    }
    Ok(out)
}
