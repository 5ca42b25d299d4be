//! A small process that gives the terminal back when the interface no longer can.
//!
//! The interface takes the screen, its modes and perhaps its colors, and holds a draft that is not
//! saved. Signals that can be caught are caught (`screen::terminal`); a fault that ends the process at
//! once is not. So a second process of this program waits at the end of a pipe: when the pipe is
//! closed without a word of farewell, it puts the terminal back as it was and saves the draft. It
//! is in a session of its own, so nothing that is sent to the terminal's programs reaches it.

use std::io::{self, BufRead, BufReader, Write};
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::{Arc, Mutex, PoisonError};

use serde_json::{Value, json};
use wealdmist_host::Draft;
use wealdmist_host::platform::signals;
use wealdmist_host::platform::terminal::Modes;

use super::give_back::give_back;

/// The argument by which the program knows that it is the guardian.
pub const ARGUMENT: &str = "--guard-this-terminal";

/// The interface's end of the pipe.
#[derive(Debug, Clone, Default)]
pub struct Guardian(Arc<Mutex<Option<Waiting>>>);

#[derive(Debug)]
struct Waiting {
    child: Child,
    pipe: ChildStdin,
}

impl Guardian {
    /// Starts it, before the terminal is changed. Where it cannot be started, the interface goes
    /// without. Starting a process takes a while: the interface does not wait for it before it has
    /// something to tell it.
    #[must_use]
    pub fn start() -> Self {
        let guardian = Self::default();
        let modes = Modes::of(&io::stdout()).ok();
        let slot = Arc::clone(&guardian.0);
        let (locked, is_locked) = std::sync::mpsc::channel();
        std::thread::spawn(move || {
            let mut slot = slot.lock().unwrap_or_else(PoisonError::into_inner);
            let _ = locked.send(());
            *slot = Self::spawn();
            if let (Some(one), Some(modes)) = (&mut *slot, modes)
                && one
                    .pipe
                    .write_all(format!("{}\n", json!({"modes": modes.numbers()})).as_bytes())
                    .is_err()
            {
                *slot = None;
            }
        });
        // Whoever tells it something comes after its start.
        let _ = is_locked.recv();
        guardian
    }

    fn spawn() -> Option<Waiting> {
        let program = std::env::current_exe().ok()?;
        let started = Command::new(program)
            .arg(ARGUMENT)
            .stdin(Stdio::piped())
            .stdout(Stdio::inherit())
            .stderr(Stdio::null())
            .spawn();
        let mut child = started.ok()?;
        let pipe = child.stdin.take()?;
        Some(Waiting { child, pipe })
    }

    /// Lets it know the draft as it stands; none when there is nothing to save.
    pub fn keep(&self, draft: Option<&Draft>) {
        self.tell(&json!({"draft": draft.map(Draft::to_json)}));
    }

    /// Lets it know that the terminal wears colors that have to be taken back.
    pub fn wears(&self) {
        self.tell(&json!({"worn": true}));
    }

    /// Says farewell: there is nothing left to put right.
    pub fn dismiss(&self) {
        self.tell(&json!({"done": true}));
        let waiting = self.0.lock().unwrap_or_else(PoisonError::into_inner).take();
        if let Some(Waiting { mut child, pipe }) = waiting {
            drop(pipe);
            let _ = child.wait();
        }
    }

    fn tell(&self, what: &Value) {
        let mut waiting = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(one) = &mut *waiting
            && one.pipe.write_all(format!("{what}\n").as_bytes()).is_err()
        {
            *waiting = None;
        }
    }
}

/// What the guardian does: it waits for the pipe to close.
pub fn run() {
    signals::detach();
    let (mut modes, mut draft, mut worn) = (Value::Null, Value::Null, false);
    let mut lines = BufReader::new(io::stdin());
    let mut line = String::new();
    loop {
        line.clear();
        match lines.read_line(&mut line) {
            Ok(0) | Err(_) => break,
            Ok(_) => {}
        }
        let Ok(mut said) = serde_json::from_str::<Value>(&line) else {
            continue;
        };
        if said["done"] == true {
            return;
        }
        if said["worn"] == true {
            worn = true;
        }
        for (name, kept) in [("modes", &mut modes), ("draft", &mut draft)] {
            if said.get(name).is_some() {
                *kept = said[name].take();
            }
        }
    }
    give_back(worn);
    if let Ok(numbers) = serde_json::from_value(modes) {
        Modes::restore(&io::stdout(), numbers);
    }
    if let Some(draft) = Draft::from_json(&draft) {
        let _ = draft.save();
    }
}
