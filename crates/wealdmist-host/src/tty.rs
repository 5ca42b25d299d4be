//! The terminal this program runs in: asking it for its colors.
//!
//! A query is only ever written to our own terminal, never to another program's, which would
//! receive the answer as if it had been typed.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{self, Read, Write};
use std::time::{Duration, Instant};

use wealdmist_core::color::{Rgb, parse_reply, query};
use wealdmist_core::role::Slot;
use wealdmist_tools::osc_targets;

use crate::platform::terminal::{Input, Modes, open_own, wait_for};

/// Why a terminal could not be asked.
#[derive(Debug, thiserror::Error)]
pub enum TtyError {
    /// There is no terminal.
    #[error("there is no terminal to ask: {0}")]
    None(#[from] io::Error),
    /// It does not answer.
    #[error("the terminal does not answer")]
    Silent,
}

/// Questions to our own terminal and its answers, with the terminal's modes given back at the end.
pub struct Conversation {
    tty: File,
    saved: Modes,
}

impl Conversation {
    /// Begins one. Nothing else may read the terminal until it is dropped.
    ///
    /// # Errors
    /// When there is no terminal.
    pub fn begin() -> Result<Self, TtyError> {
        let tty = open_own()?;
        let saved = Modes::make_raw(&tty)?;
        Ok(Self { tty, saved })
    }

    /// Asks, and waits for everything the terminal answers.
    ///
    /// # Errors
    /// When the terminal goes away.
    pub fn ask(&mut self, request: &str, limit: Duration) -> Result<Vec<u8>, TtyError> {
        self.tty.write_all(request.as_bytes())?;
        // Every terminal answers this one, so its answer marks the end of the others.
        self.tty.write_all(b"\x1b[c")?;
        self.tty.flush()?;
        let until = Instant::now() + limit;
        let mut reply = Vec::new();
        let mut buffer = [0; 1024];
        loop {
            let left = until.saturating_duration_since(Instant::now());
            if left.is_zero() {
                return Ok(reply);
            }
            if wait_for(&self.tty, left)? != Input::None {
                let n = self.tty.read(&mut buffer)?;
                if n == 0 {
                    return Err(TtyError::Silent);
                }
                reply.extend_from_slice(&buffer[..n]);
                if fence(&reply) {
                    return Ok(reply);
                }
            }
        }
    }
}

impl Drop for Conversation {
    fn drop(&mut self) {
        let _ = self.saved.give_back(&self.tty);
    }
}

/// Asks the terminal for the colors of its slots. Must not run while something else reads the
/// terminal.
///
/// # Errors
/// When there is no terminal, or it is silent for `limit`.
pub fn query_colors(limit: Duration) -> Result<BTreeMap<Slot, Rgb>, TtyError> {
    let request: String = osc_targets()
        .iter()
        .map(|(target, _)| query(*target))
        .collect();
    let reply = Conversation::begin()?.ask(&request, limit)?;
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
