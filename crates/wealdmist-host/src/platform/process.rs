//! Running programs, recognised for certain: by their executable, owner and home.
//!
//! What the kernel shows of them as files is read here and nowhere else.

// What the kernel shows as files is read as it is: it is neither a pipe nor large.
#![allow(clippy::disallowed_methods)]

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

use rustix::process::{Pid, PidfdFlags, Signal, getuid, pidfd_open, pidfd_send_signal};
use tracing::{debug, info};
use wealdmist_tools::Told;

/// A running process of this user.
#[derive(Debug, Clone)]
pub struct Process {
    /// Its number.
    pub pid: i32,
    /// Its parent's number.
    pub parent: i32,
    /// The executable's file.
    pub executable: PathBuf,
    /// Its arguments, the program's name first.
    pub arguments: Vec<String>,
    /// When it started, in the kernel's ticks: with the number it names the process uniquely.
    started: u64,
}

impl Process {
    /// The process of a number, if it is ours and can be looked at.
    #[must_use]
    pub fn of(pid: i32) -> Option<Self> {
        let folder = PathBuf::from(format!("/proc/{pid}"));
        if folder.metadata().ok()?.uid() != getuid().as_raw() {
            return None;
        }
        let stat = fs::read_to_string(folder.join("stat")).ok()?;
        // The name in brackets may hold anything; what follows the last bracket is regular.
        let fields: Vec<&str> = stat.rsplit_once(')')?.1.split_whitespace().collect();
        let raw = fs::read(folder.join("cmdline")).ok()?;
        let arguments = raw
            .split(|b| *b == 0)
            .map(|a| String::from_utf8_lossy(a).into_owned())
            .collect();
        Some(Self {
            pid,
            parent: fields.get(1)?.parse().ok()?,
            executable: fs::read_link(folder.join("exe")).ok()?,
            arguments,
            started: fields.get(19)?.parse().ok()?,
        })
    }

    /// Every process of this user.
    #[must_use]
    pub fn all() -> Vec<Self> {
        let numbers = fs::read_dir("/proc").into_iter().flatten().flatten();
        numbers
            .filter_map(|e| e.file_name().to_str()?.parse().ok())
            .filter_map(Self::of)
            .collect()
    }

    /// Whether the executable's file has this name.
    #[must_use]
    pub fn is(&self, name: &str) -> bool {
        self.executable.file_name().is_some_and(|n| n == name)
    }

    /// The environment it was started with.
    #[must_use]
    pub fn environment(&self) -> BTreeMap<String, String> {
        let raw = fs::read(format!("/proc/{}/environ", self.pid)).unwrap_or_default();
        raw.split(|b| *b == 0)
            .filter_map(|v| {
                let text = String::from_utf8_lossy(v).into_owned();
                text.split_once('=')
                    .map(|(k, v)| (k.to_owned(), v.to_owned()))
            })
            .collect()
    }

    /// Whether it was started in a home.
    #[must_use]
    pub fn lives_in(&self, home: &Path) -> bool {
        let own = self.environment().get("HOME").map(PathBuf::from);
        own.and_then(|h| h.canonicalize().ok())
            .is_some_and(|h| h == home)
    }

    /// The terminal it runs in: a device that its standard input is, or that controls it.
    #[must_use]
    pub fn terminal(&self) -> Option<PathBuf> {
        let input = fs::read_link(format!("/proc/{}/fd/0", self.pid)).ok();
        let input = input.filter(|input| input.starts_with("/dev/pts"));
        input.or_else(|| self.controlled_by())
    }

    /// The pseudo-terminal that controls it. (Linux, `proc_pid_stat(5)`, the field `tty_nr`.)
    fn controlled_by(&self) -> Option<PathBuf> {
        // Devices 136 to 143 are pseudo-terminals.
        const FIRST: u32 = 136;
        let stat = fs::read_to_string(format!("/proc/{}/stat", self.pid)).ok()?;
        let behind = stat.rsplit_once(')')?.1;
        let device: i32 = behind.split_whitespace().nth(4)?.parse().ok()?;
        let device = device.cast_unsigned();
        let (major, minor) = (device >> 8 & 0xfff, device & 0xff | device >> 12 & 0xf_ff00);
        let group = major.checked_sub(FIRST).filter(|n| *n < 8)?;
        Some(PathBuf::from(format!("/dev/pts/{}", group * 256 + minor)))
    }

    /// Whether its standard input is a terminal, in a window or of the machine itself.
    #[must_use]
    pub fn is_at_terminal(&self) -> bool {
        let input = fs::read_link(format!("/proc/{}/fd/0", self.pid));
        input.is_ok_and(|p| p.starts_with("/dev/pts") || p.starts_with("/dev/tty"))
    }

    /// Whether it is stopped, as by a key of its terminal.
    #[must_use]
    pub fn is_stopped(&self) -> bool {
        let stat = fs::read_to_string(format!("/proc/{}/stat", self.pid)).unwrap_or_default();
        let state = stat
            .rsplit_once(')')
            .and_then(|s| s.1.trim_start().chars().next());
        matches!(state, Some('T' | 't'))
    }

    /// Whether it takes a signal itself, by a handler or by reading it; another would end by it.
    #[must_use]
    pub fn takes(&self, signal: Signal) -> bool {
        let status = fs::read_to_string(format!("/proc/{}/status", self.pid)).unwrap_or_default();
        let mask = |name: &str| {
            let line = status.lines().find_map(|l| l.strip_prefix(name));
            line.and_then(|l| u64::from_str_radix(l.trim(), 16).ok())
        };
        let bit = 1u64 << (signal.as_raw() - 1);
        let taken = mask("SigCgt:").unwrap_or(0) | mask("SigBlk:").unwrap_or(0);
        taken & bit != 0
    }

    /// Whether a library of this name is part of it.
    #[must_use]
    pub fn has_library(&self, name: &str) -> bool {
        let maps = fs::read(format!("/proc/{}/maps", self.pid)).unwrap_or_default();
        let maps = String::from_utf8_lossy(&maps);
        maps.lines()
            .any(|l| l.rsplit('/').next().is_some_and(|f| f.starts_with(name)))
    }

    /// Sends it a signal that it takes itself, if it is still the process that was looked at.
    ///
    /// # Errors
    /// A sentence saying why not.
    pub fn tell(&self, signal: Told) -> Result<(), String> {
        let signal = match signal {
            Told::User1 => Signal::USR1,
        };
        match self.takes(signal) {
            true => self.signal(signal),
            false => Err("it does not listen to the signal, which would end it".to_owned()),
        }
    }

    /// Sends it a signal, if it is still the process that was looked at.
    ///
    /// # Errors
    /// A sentence saying why not.
    pub fn signal(&self, signal: Signal) -> Result<(), String> {
        let pid = Pid::from_raw(self.pid).ok_or("it has no number")?;
        // The descriptor stays with the process even if its number is used again, so checking
        // the identity after opening it leaves no gap.
        let descriptor =
            pidfd_open(pid, PidfdFlags::empty()).map_err(|e| format!("it is gone: {e}"))?;
        let now = Self::of(self.pid).ok_or("it is gone")?;
        if now.started != self.started || now.executable != self.executable {
            return Err("another process has its number now".to_owned());
        }
        info!(pid = self.pid, ?signal, "signalled");
        pidfd_send_signal(&descriptor, signal)
            .map_err(|e| format!("it did not take the signal: {e}"))
    }
}

/// Runs a program with a time limit; `None` if it could not be started or did not end.
#[must_use]
pub fn run(command: &mut Command, limit: Duration) -> Option<Output> {
    // Arguments may hold what files say: they are not written down.
    debug!(program = ?command.get_program(), "run");
    let mut child = command
        .stdin(Stdio::null())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .ok()?;
    let until = Instant::now() + limit;
    // Output is read while waiting, so a program that says a lot does not block.
    let (mut out, mut err) = (child.stdout.take()?, child.stderr.take()?);
    let reader = std::thread::spawn(move || {
        let mut bytes = Vec::new();
        let _ = std::io::Read::read_to_end(&mut out, &mut bytes);
        bytes
    });
    let errors = std::thread::spawn(move || {
        let mut bytes = Vec::new();
        let _ = std::io::Read::read_to_end(&mut err, &mut bytes);
        bytes
    });
    loop {
        match child.try_wait() {
            Ok(Some(status)) => {
                let (stdout, stderr) = (reader.join().ok()?, errors.join().ok()?);
                return Some(Output {
                    status,
                    stdout,
                    stderr,
                });
            }
            Ok(None) if Instant::now() < until => std::thread::sleep(Duration::from_millis(2)),
            _ => {
                let _ = child.kill();
                let _ = child.wait();
                return None;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn we_recognise_ourselves() {
        let me = Process::of(std::process::id() as i32).unwrap();
        assert_eq!(me.executable, std::env::current_exe().unwrap());
        assert!(Process::all().iter().any(|p| p.pid == me.pid));
        assert!(Process::of(1).is_none() || getuid().is_root());
    }

    #[test]
    fn a_process_that_is_gone_gets_no_signal() {
        let mut child = Command::new("sleep").arg("30").spawn().unwrap();
        let process = Process::of(child.id() as i32).unwrap();
        assert!(process.is("sleep"));
        process.signal(Signal::TERM).unwrap();
        child.wait().unwrap();
        assert!(process.signal(Signal::TERM).is_err());
        let stranger = Process {
            started: 1,
            ..Process::of(std::process::id() as i32).unwrap()
        };
        assert!(
            stranger
                .signal(Signal::TERM)
                .unwrap_err()
                .contains("another process")
        );
    }

    #[test]
    fn only_who_takes_a_signal_is_told() {
        let mut child = Command::new("sleep").arg("30").spawn().unwrap();
        let process = Process::of(child.id() as i32).unwrap();
        assert!(!process.takes(Signal::USR1));
        let said = process.tell(Told::User1).unwrap_err();
        assert!(said.contains("would end it"), "{said}");
        assert!(child.try_wait().unwrap().is_none());
        process.signal(Signal::STOP).unwrap();
        while !process.is_stopped() {
            std::thread::sleep(Duration::from_millis(5));
        }
        process.signal(Signal::KILL).unwrap();
        child.wait().unwrap();
        let mut shell = Command::new("bash");
        let child = shell
            .args(["-c", "trap : USR1; while :; do sleep 0.1; done"])
            .spawn();
        let mut child = child.unwrap();
        let process = Process::of(child.id() as i32).unwrap();
        let until = Instant::now() + Duration::from_secs(20);
        while !process.takes(Signal::USR1) && Instant::now() < until {
            std::thread::sleep(Duration::from_millis(5));
        }
        assert_eq!(Process::of(process.pid).unwrap().tell(Told::User1), Ok(()));
        assert!(child.try_wait().unwrap().is_none());
        child.kill().unwrap();
        child.wait().unwrap();
    }

    #[test]
    fn a_program_that_hangs_is_ended() {
        let begin = Instant::now();
        assert!(run(Command::new("sleep").arg("20"), Duration::from_millis(50)).is_none());
        assert!(begin.elapsed() < Duration::from_secs(5));
        let said = run(Command::new("echo").arg("hi"), Duration::from_secs(5)).unwrap();
        assert_eq!(said.stdout, b"hi\n");
    }
}
