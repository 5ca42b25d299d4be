//! The terminal, given back as it was however the interface ends.

use std::io::{self, Stdout, Write};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use crossterm::cursor::Show;
use crossterm::event::{
    DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture,
};
use crossterm::execute;
use crossterm::terminal::{
    BeginSynchronizedUpdate, EndSynchronizedUpdate, EnterAlternateScreen, LeaveAlternateScreen,
    disable_raw_mode, enable_raw_mode,
};
use ratatui::backend::CrosstermBackend;
use ratatui::{Frame, Terminal};
use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
use wealdmist_core::color::reset_all;

/// Whether the terminal wears colors of a trial that have to be taken back.
static WORN: AtomicBool = AtomicBool::new(false);

/// The screen while the interface has it.
pub struct Screen {
    terminal: Terminal<CrosstermBackend<io::BufWriter<Stdout>>>,
    told_to_end: Arc<AtomicBool>,
    left: bool,
}

impl Screen {
    /// Takes the screen. Everything that can fail is done before the terminal is changed, or is
    /// undone by the guard.
    pub fn enter() -> io::Result<Self> {
        let told_to_end = Arc::new(AtomicBool::new(false));
        for signal in [SIGTERM, SIGHUP, SIGINT] {
            signal_hook::flag::register(signal, Arc::clone(&told_to_end))?;
        }
        let previous = std::panic::take_hook();
        std::panic::set_hook(Box::new(move |info| {
            restore();
            previous(info);
        }));
        let backend = CrosstermBackend::new(io::BufWriter::with_capacity(1 << 16, io::stdout()));
        let terminal = Terminal::new(backend)?;
        let screen = Self {
            terminal,
            told_to_end,
            left: false,
        };
        enable_raw_mode()?;
        execute!(
            io::stdout(),
            EnterAlternateScreen,
            EnableMouseCapture,
            EnableBracketedPaste
        )?;
        Ok(screen)
    }

    /// Draws a frame; the terminal shows it in one piece where it knows how to.
    pub fn draw(&mut self, draw: impl FnOnce(&mut Frame)) -> io::Result<()> {
        execute!(self.terminal.backend_mut(), BeginSynchronizedUpdate)?;
        self.terminal.draw(draw)?;
        execute!(self.terminal.backend_mut(), EndSynchronizedUpdate)
    }

    /// Writes escapes of the trial.
    pub fn write(&mut self, bytes: &[u8]) -> io::Result<()> {
        WORN.store(true, Ordering::SeqCst);
        let mut out = io::stdout();
        out.write_all(bytes)?;
        out.flush()
    }

    /// Whether a signal asked the program to end.
    pub fn was_told_to_end(&self) -> bool {
        self.told_to_end.load(Ordering::Relaxed)
    }

    /// Gives the screen back.
    pub fn leave(mut self) -> io::Result<()> {
        self.left = true;
        restore();
        Ok(())
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        if !self.left {
            restore();
        }
    }
}

/// Puts everything back; what fails is past helping.
fn restore() {
    let mut out = io::stdout();
    if WORN.swap(false, Ordering::SeqCst) {
        let _ = out.write_all(&reset_all());
    }
    let _ = execute!(
        out,
        DisableBracketedPaste,
        DisableMouseCapture,
        LeaveAlternateScreen,
        Show
    );
    let _ = disable_raw_mode();
    let _ = out.flush();
}

/// For a trial outside the interface: a signal takes the colors back before the program ends.
pub fn take_colors_back_on_signals() -> io::Result<()> {
    let mut signals = signal_hook::iterator::Signals::new([SIGTERM, SIGHUP, SIGINT])?;
    std::thread::spawn(move || {
        if let Some(signal) = signals.forever().next() {
            let mut out = io::stdout();
            let _ = out.write_all(&reset_all());
            let _ = out.flush();
            std::process::exit(128 + signal);
        }
    });
    Ok(())
}
