//! Terminals: our own, and those of other windows.

// The calls that the rules of the house allow in few places.
#![allow(clippy::disallowed_methods)]

use std::fs::{File, OpenOptions};
use std::io;
use std::os::fd::AsFd;
use std::path::Path;
use std::time::Duration;

use rustix::event::{PollFd, PollFlags, Timespec, poll};
use rustix::fs::{FileType, Mode, OFlags};
use rustix::io::Errno;
use rustix::termios::{
    ControlModes, InputModes, LocalModes, OptionalActions, OutputModes, Termios, tcgetattr,
    tcsetattr,
};

/// What waiting for a terminal came to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Input {
    /// There is something to read.
    Some,
    /// There is nothing, so far.
    None,
    /// The terminal is gone.
    Gone,
}

/// Waits until there is something to read, for at most so long; interrupted, it comes back early.
///
/// # Errors
/// When it cannot be waited for.
pub fn wait_for(terminal: &impl AsFd, limit: Duration) -> io::Result<Input> {
    let wait = Timespec {
        tv_sec: limit.as_secs() as i64,
        tv_nsec: i64::from(limit.subsec_nanos()),
    };
    let mut fds = [PollFd::new(terminal, PollFlags::IN)];
    match poll(&mut fds, Some(&wait)) {
        Ok(0) | Err(Errno::INTR) => Ok(Input::None),
        // Reading a terminal that has gone away would wait forever.
        Ok(_) if fds[0].revents().intersects(PollFlags::HUP | PollFlags::ERR) => Ok(Input::Gone),
        Ok(_) => Ok(Input::Some),
        Err(error) => Err(error.into()),
    }
}

/// Waits until a terminal goes away. `false` where it cannot be watched.
pub fn is_gone_at_last(terminal: &impl AsFd) -> bool {
    loop {
        let mut fds = [PollFd::new(terminal, PollFlags::empty())];
        match poll(&mut fds, None) {
            Err(Errno::INTR) => {}
            Ok(_) => return fds[0].revents().contains(PollFlags::HUP),
            Err(_) => return false,
        }
    }
}

/// Our own terminal, whatever standard input and output are.
///
/// # Errors
/// When there is none.
pub(crate) fn open_own() -> io::Result<File> {
    OpenOptions::new().read(true).write(true).open("/dev/tty")
}

/// The terminal of another window, to be written to without waiting for one that takes nothing.
///
/// # Errors
/// When it cannot be opened, or is no terminal.
pub(crate) fn open_other(path: &Path) -> io::Result<File> {
    let flags = OFlags::WRONLY | OFlags::NOCTTY | OFlags::NONBLOCK | OFlags::CLOEXEC;
    let file = File::from(rustix::fs::open(path, flags, Mode::empty())?);
    let kind = rustix::fs::fstat(&file)?;
    match FileType::from_raw_mode(kind.st_mode).is_char_device() {
        true => Ok(file),
        false => Err(io::Error::other("it is no terminal")),
    }
}

/// The modes of a terminal.
#[derive(Debug, Clone)]
pub struct Modes(Termios);

impl Modes {
    /// Those it has now.
    ///
    /// # Errors
    /// When it is no terminal.
    pub fn of(terminal: &impl AsFd) -> io::Result<Self> {
        Ok(Self(tcgetattr(terminal)?))
    }

    /// Takes keys one by one, without showing them; returns what was before.
    ///
    /// # Errors
    /// When it is no terminal.
    pub fn make_raw(terminal: &impl AsFd) -> io::Result<Self> {
        let before = Self::of(terminal)?;
        let mut raw = before.0.clone();
        raw.make_raw();
        tcsetattr(terminal, OptionalActions::Now, &raw)?;
        Ok(before)
    }

    /// Gives them back to the terminal.
    ///
    /// # Errors
    /// When it is none any more.
    pub fn give_back(&self, terminal: &impl AsFd) -> io::Result<()> {
        Ok(tcsetattr(terminal, OptionalActions::Now, &self.0)?)
    }

    /// They as numbers, for another process: input, output, control, local.
    #[must_use]
    pub fn numbers(&self) -> [u32; 4] {
        [
            self.0.input_modes.bits(),
            self.0.output_modes.bits(),
            self.0.control_modes.bits(),
            self.0.local_modes.bits(),
        ]
    }

    /// Sets a terminal's modes from numbers, unless somebody else has set them: a shell that reads keys
    /// has its own, in which an interrupt works, which an interface's have not. Whether they were set.
    pub fn restore(terminal: &impl AsFd, [input, output, control, local]: [u32; 4]) -> bool {
        let Ok(mut modes) = tcgetattr(terminal) else {
            return false;
        };
        if modes.local_modes.contains(LocalModes::ISIG) {
            return false;
        }
        modes.input_modes = InputModes::from_bits_retain(input);
        modes.output_modes = OutputModes::from_bits_retain(output);
        modes.control_modes = ControlModes::from_bits_retain(control);
        modes.local_modes = LocalModes::from_bits_retain(local);
        tcsetattr(terminal, OptionalActions::Now, &modes).is_ok()
    }
}
