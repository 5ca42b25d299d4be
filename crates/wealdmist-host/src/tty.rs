//! The terminal this program runs in: asking it for its colors.
//!
//! A query is only ever written to our own terminal, never to another program's, which would
//! receive the answer as if it had been typed.

use std::collections::BTreeMap;
use std::fs::OpenOptions;
use std::io::{self, Read, Write};
use std::time::{Duration, Instant};

use rustix::event::{PollFd, PollFlags, Timespec, poll};
use rustix::termios::{OptionalActions, tcgetattr, tcsetattr};
use wealdmist_core::color::{Rgb, parse_reply, query};
use wealdmist_core::role::Slot;
use wealdmist_tools::tools::osc_targets;

/// Why a terminal could not be asked.
#[derive(Debug, thiserror::Error)]
pub enum TtyError {
    /// There is no terminal.
    #[error("there is no terminal to ask: {0}")]
    None(#[from] io::Error),
    /// It does not answer.
    #[error("the terminal does not answer color queries")]
    Silent,
}

/// Asks the terminal for the colors of its slots. Must not run while something else reads the
/// terminal.
///
/// # Errors
/// When there is no terminal, or it is silent for `limit`.
pub fn query_colors(limit: Duration) -> Result<BTreeMap<Slot, Rgb>, TtyError> {
    let mut tty = OpenOptions::new().read(true).write(true).open("/dev/tty")?;
    let saved = tcgetattr(&tty).map_err(io::Error::from)?;
    let mut raw = saved.clone();
    raw.make_raw();
    tcsetattr(&tty, OptionalActions::Now, &raw).map_err(io::Error::from)?;
    let reply = ask(&mut tty, limit);
    tcsetattr(&tty, OptionalActions::Now, &saved).map_err(io::Error::from)?;
    let reply = reply?;
    let mut out = BTreeMap::new();
    for (target, slot) in osc_targets() {
        if let Some(color) = parse_reply(&reply, target) {
            out.insert(slot, color);
        }
    }
    if out.is_empty() {
        Err(TtyError::Silent)
    } else {
        Ok(out)
    }
}

fn ask(tty: &mut std::fs::File, limit: Duration) -> Result<Vec<u8>, TtyError> {
    let mut request = String::new();
    for (target, _) in osc_targets() {
        request.push_str(&query(target));
    }
    // Every terminal answers this one, so its answer marks the end of the others.
    request.push_str("\x1b[c");
    tty.write_all(request.as_bytes())?;
    tty.flush()?;
    let until = Instant::now() + limit;
    let mut reply = Vec::new();
    let mut buffer = [0; 1024];
    loop {
        let left = until.saturating_duration_since(Instant::now());
        if left.is_zero() {
            return Ok(reply);
        }
        let wait = Timespec {
            tv_sec: 0,
            tv_nsec: left.as_nanos().min(999_999_999) as i64,
        };
        let mut fds = [PollFd::new(&*tty, PollFlags::IN)];
        if poll(&mut fds, Some(&wait)).map_err(io::Error::from)? > 0 {
            let n = tty.read(&mut buffer)?;
            reply.extend_from_slice(&buffer[..n]);
            if fence(&reply) {
                return Ok(reply);
            }
        }
    }
}

/// Whether the answer to the last question has come: `CSI ? … c`.
fn fence(reply: &[u8]) -> bool {
    reply.windows(3).enumerate().any(|(i, w)| {
        w == b"\x1b[?" && {
            let body = &reply[i + 3..];
            let end = body
                .iter()
                .position(|b| !(b.is_ascii_digit() || *b == b';'));
            end.is_some_and(|e| body[e] == b'c')
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_fence_is_recognised() {
        assert!(fence(b"\x1b]11;rgb:1/2/3\x07\x1b[?62;4c"));
        assert!(!fence(b"\x1b]11;rgb:1/2/3\x07\x1b[?62;4"));
    }
}
