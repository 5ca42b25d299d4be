//! Giving the terminal back.

use std::io::{self, Write};

use crossterm::cursor::Show;
use crossterm::event::{DisableBracketedPaste, DisableMouseCapture};
use crossterm::execute;
use crossterm::terminal::{EndSynchronizedUpdate, LeaveAlternateScreen};
use wealdmist_core::color::reset_all;

/// Gives the screen back, and its colors where it wears others.
pub fn give_back(worn: bool) {
    let mut out = io::stdout();
    if worn {
        let _ = out.write_all(&reset_all());
    }
    let _ = execute!(
        out,
        EndSynchronizedUpdate,
        DisableBracketedPaste,
        DisableMouseCapture,
        LeaveAlternateScreen,
        Show
    );
    let _ = out.flush();
}
