//! Connections to running programs. Neither connecting nor waiting can take longer than said in
//! all, however little the other side says at a time, and who is deaf is named.

use std::io::{self, Read, Write};
use std::os::unix::net::UnixStream;
use std::path::Path;
use std::time::{Duration, Instant};

use rustix::io::Errno;
use rustix::net::{
    AddressFamily, SocketAddrUnix, SocketFlags, SocketType, connect, socket_with, sockopt,
};

use super::Process;
use crate::limits;

/// Why there is no connection.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum NoLink {
    /// Nobody listens there.
    Nobody,
    /// Somebody listens and takes no more connections.
    Deaf,
}

/// A connection with an end set to it.
#[derive(Debug)]
pub(crate) struct Link {
    stream: UnixStream,
    until: Instant,
    left: u64,
}

impl Link {
    /// Connects to a socket, a path or with `@` a name of its own, for so long in all.
    pub(crate) fn open(name: &Path, limit: Duration) -> Result<Self, NoLink> {
        let nobody = |_| NoLink::Nobody;
        let abstract_name = name.to_str().and_then(|n| n.strip_prefix('@'));
        let address = match abstract_name {
            Some(name) => SocketAddrUnix::new_abstract_name(name.as_bytes()),
            None => SocketAddrUnix::new(name),
        };
        let address = address.map_err(nobody)?;
        let flags = SocketFlags::CLOEXEC | SocketFlags::NONBLOCK;
        let socket = socket_with(AddressFamily::UNIX, SocketType::STREAM, flags, None);
        let socket = socket.map_err(nobody)?;
        match connect(&socket, &address) {
            Ok(()) => {}
            // A local socket takes a connection at once, or its queue is full.
            Err(Errno::AGAIN | Errno::INPROGRESS) => return Err(NoLink::Deaf),
            Err(_) => return Err(NoLink::Nobody),
        }
        let stream = UnixStream::from(socket);
        stream.set_nonblocking(false).map_err(|_| NoLink::Nobody)?;
        Ok(Self {
            stream,
            until: Instant::now() + limit,
            left: limits::ANSWER,
        })
    }

    /// The process at the other end, where it can be told.
    pub(crate) fn peer(&self) -> Option<Process> {
        let peer = sockopt::socket_peercred(&self.stream).ok()?;
        Process::of(peer.pid.as_raw_nonzero().get())
    }

    /// Sets another end to it, from now.
    pub(crate) fn extend(&mut self, limit: Duration) {
        self.until = Instant::now() + limit;
    }

    /// Allows as much to be read again, for the next answer.
    pub(crate) fn next_answer(&mut self) {
        self.left = limits::ANSWER;
    }

    fn rest(&self) -> io::Result<Duration> {
        let rest = self.until.saturating_duration_since(Instant::now());
        match rest.is_zero() {
            true => Err(io::Error::new(io::ErrorKind::TimedOut, "it took too long")),
            false => Ok(rest),
        }
    }
}

impl Read for Link {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.left == 0 {
            return Err(io::Error::other("it says too much"));
        }
        self.stream.set_read_timeout(Some(self.rest()?))?;
        let most = buffer.len().min(self.left as usize);
        let count = self.stream.read(&mut buffer[..most])?;
        self.left -= count as u64;
        Ok(count)
    }
}

impl Write for Link {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.stream.set_write_timeout(Some(self.rest()?))?;
        self.stream.write(bytes)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.stream.flush()
    }
}

/// What is said of a program that does not answer.
pub(crate) fn deaf(peer: Option<&Process>) -> String {
    match peer.is_some_and(Process::is_stopped) {
        true => "it is stopped: let it go on (fg in its shell), then reload again".to_owned(),
        false => "it does not answer; look at its window, then reload again".to_owned(),
    }
}
