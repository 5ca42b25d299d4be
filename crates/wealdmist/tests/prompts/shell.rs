//! A real shell on a terminal of its own, and what its screen shows.

use std::fs::File;
use std::io::{Read, Write};
use std::num::NonZero;
use std::process::{Child, Command};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use super::common::pty;

/// A shell on a terminal.
pub struct Shell {
    screen: Arc<Mutex<vt100::Parser>>,
    terminal: File,
    child: Child,
}

/// How high its screen is.
const ROWS: u16 = 12;

/// How long a screen may take to show what it must.
const PATIENCE: Duration = Duration::from_secs(15);

impl Shell {
    /// Starts one on a screen of so many columns.
    pub fn start(command: &mut Command, columns: u16) -> Self {
        let rows = ROWS;
        let (terminal, _, child) = pty::start(command, columns, rows);
        let screen = Arc::new(Mutex::new(vt100::Parser::new(
            NonZero::new(rows).unwrap(),
            NonZero::new(columns).unwrap(),
            0,
        )));
        let (mut reader, shown) = (terminal.try_clone().unwrap(), Arc::clone(&screen));
        let mut answers = terminal.try_clone().unwrap();
        std::thread::spawn(move || {
            let mut buffer = [0; 1 << 14];
            while let Ok(n @ 1..) = reader.read(&mut buffer) {
                let mut parser = shown.lock().unwrap();
                parser.process(&buffer[..n]);
                // A terminal says what it is when it is asked.
                if buffer[..n].windows(3).any(|w| w == b"\x1b[c") {
                    let _ = answers.write_all(b"\x1b[?62;c");
                }
                if buffer[..n].windows(4).any(|w| w == b"\x1b[6n") {
                    let (row, column) = parser.screen().cursor_position();
                    let _ = write!(answers, "\x1b[{};{}R", row + 1, column + 1);
                }
            }
        });
        Self {
            screen,
            terminal,
            child,
        }
    }

    /// Gives the terminal another width.
    pub fn resize(&self, columns: u16) {
        let size = NonZero::new(columns).unwrap();
        let mut parser = self.screen.lock().unwrap();
        parser
            .screen_mut()
            .set_size(NonZero::new(ROWS).unwrap(), size);
        pty::resize(&self.terminal, columns, ROWS);
    }

    /// Types a text.
    pub fn types(&mut self, text: &str) {
        self.terminal.write_all(text.as_bytes()).unwrap();
    }

    /// Waits until the screen is as wanted; else says how it is.
    pub fn shows<E>(&self, wanted: impl FnMut(&vt100::Screen) -> Result<(), E>) -> Result<(), E> {
        self.shows_within(PATIENCE, wanted)
    }

    /// The same, for no longer than that.
    pub fn shows_within<E>(
        &self,
        patience: Duration,
        mut wanted: impl FnMut(&vt100::Screen) -> Result<(), E>,
    ) -> Result<(), E> {
        let until = Instant::now() + patience;
        loop {
            let outcome = wanted(self.screen.lock().unwrap().screen());
            if outcome.is_ok() || Instant::now() > until {
                return outcome;
            }
            std::thread::sleep(Duration::from_millis(4));
        }
    }

    /// The screen as text.
    pub fn text(&self) -> String {
        self.screen.lock().unwrap().screen().contents()
    }
}

impl Drop for Shell {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
