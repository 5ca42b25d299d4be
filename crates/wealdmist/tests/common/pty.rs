//! A pseudo-terminal around a program, for what a multiplexer would smooth over.

use std::fs::{File, OpenOptions};
use std::os::fd::{AsFd, OwnedFd};
use std::process::{Child, Command, Stdio};

use rustix::pty::{OpenptFlags, grantpt, openpt, ptsname, unlockpt};
use rustix::termios::{Winsize, tcsetwinsize};

/// Starts a program on a terminal of a given size in cells. Returns the terminal's side, the
/// program's side and the program.
pub fn start(command: &mut Command, columns: u16, rows: u16) -> (File, OwnedFd, Child) {
    // No program started meanwhile may keep the terminal open by inheriting it.
    let flags = OpenptFlags::RDWR | OpenptFlags::NOCTTY | OpenptFlags::CLOEXEC;
    let master = openpt(flags).unwrap();
    grantpt(&master).unwrap();
    unlockpt(&master).unwrap();
    let name = ptsname(&master, Vec::new()).unwrap().into_string().unwrap();
    resize(&master, columns, rows);
    let slave: OwnedFd = OpenOptions::new()
        .read(true)
        .write(true)
        .open(name)
        .unwrap()
        .into();
    let copy = || Stdio::from(slave.try_clone().unwrap());
    command.stdin(copy()).stdout(copy()).stderr(copy());
    let child = command.spawn().unwrap();
    // The command keeps its copies, and would keep the terminal open with them.
    command
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null());
    (master.into(), slave, child)
}

/// Gives a terminal another size in cells; the program is told.
pub fn resize(terminal: impl AsFd, columns: u16, rows: u16) {
    let size = Winsize {
        ws_row: rows,
        ws_col: columns,
        ws_xpixel: 0,
        ws_ypixel: 0,
    };
    tcsetwinsize(terminal, size).unwrap();
}
