//! The terminal, given back as it was however the interface ends.

use std::io::{self, Stdout, Write};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

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
use std::time::Duration;

use rustix::event::{PollFd, PollFlags, Timespec, poll};
use wealdmist_core::color::reset_all;
use wealdmist_core::terminal::Images;
use wealdmist_host::{Draft, Survey, SurveyError};

/// Whether the terminal wears colors of a trial that have to be taken back.
static WORN: AtomicBool = AtomicBool::new(false);

/// How long the interface may take to end by itself after a signal.
const GRACE: Duration = Duration::from_millis(500);

/// What waiting came to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Input {
    /// There may be something to read.
    Maybe,
    /// The terminal is gone.
    Gone,
}

/// The draft as it stands, for whoever has to save it: the interface when it ends, or in its place
/// the thread that ends a program which no longer can. Empty when there is nothing to save.
#[derive(Debug, Clone, Default)]
pub struct Kept(Arc<Mutex<Option<Draft>>>);

impl Kept {
    /// Keeps the draft of a survey that has one to be saved.
    pub fn keep(&self, changed: Option<&Survey>) {
        let mut kept = self.lock();
        let now = changed.map(|survey| survey.doc.text());
        if kept.as_ref().map(Draft::text) != now {
            *kept = changed.map(Survey::draft);
        }
    }

    /// Saves what there is, once. Returns whether there was something.
    pub fn save(&self) -> Result<bool, SurveyError> {
        let mut kept = self.lock();
        kept.take()
            .map_or(Ok(false), |draft| draft.save().map(|_| true))
    }

    fn lock(&self) -> MutexGuard<'_, Option<Draft>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// Lets the interface end by itself after a signal, and ends it where it cannot, for example
/// because it waits for a terminal that has gone away. The draft is kept all the same.
fn end_on_signals(told: &Arc<AtomicBool>, kept: &Kept) -> io::Result<()> {
    let mut signals = signal_hook::iterator::Signals::new([SIGTERM, SIGHUP, SIGINT])?;
    let end = {
        let (told, kept) = (Arc::clone(told), kept.clone());
        move |status: i32| {
            told.store(true, Ordering::Relaxed);
            std::thread::sleep(GRACE);
            // There may be no terminal left to say it on.
            let _ = kept.save();
            restore();
            std::process::exit(status);
        }
    };
    let gone = end.clone();
    std::thread::spawn(move || {
        if let Some(signal) = signals.forever().next() {
            end(128 + signal);
        }
    });
    // A program in the background is sent no signal when its terminal goes away.
    std::thread::spawn(move || {
        let stdin = io::stdin();
        loop {
            let mut fds = [PollFd::new(&stdin, PollFlags::empty())];
            match poll(&mut fds, None) {
                Err(rustix::io::Errno::INTR) => {}
                Ok(_) if fds[0].revents().contains(PollFlags::HUP) => gone(128 + SIGHUP),
                // What cannot be watched is left to the signals.
                _ => return,
            }
        }
    });
    Ok(())
}

/// The screen while the interface has it.
pub struct Screen {
    terminal: Terminal<CrosstermBackend<io::BufWriter<Stdout>>>,
    told_to_end: Arc<AtomicBool>,
    left: bool,
    /// By which protocol it is shown images.
    pub images: Images,
    /// What tells the images on the screen from others; `None` for none.
    pub shown_images: Option<u64>,
}

impl Screen {
    /// Takes the screen. Everything that can fail is done before the terminal is changed, or is
    /// undone by the guard.
    pub fn enter(kept: &Kept, images: Images) -> io::Result<Self> {
        let told_to_end = Arc::new(AtomicBool::new(false));
        end_on_signals(&told_to_end, kept)?;
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
            images,
            shown_images: None,
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

    /// Draws everything anew with the next frame.
    pub fn clear(&mut self) -> io::Result<()> {
        self.shown_images = None;
        self.terminal.clear()
    }

    /// Puts a text into the clipboard, where the terminal allows it (OSC 52).
    pub fn copy(&mut self, text: &str) -> io::Result<()> {
        let mut out = io::stdout();
        write!(
            out,
            "\x1b]52;c;{}\x1b\\",
            base64::Engine::encode(&base64::prelude::BASE64_STANDARD, text)
        )?;
        out.flush()
    }

    /// Writes escapes that show or remove images.
    pub fn show_images(&mut self, bytes: &[u8]) -> io::Result<()> {
        let mut out = io::stdout();
        out.write_all(bytes)?;
        out.flush()
    }

    /// Whether a signal asked the program to end.
    pub fn was_told_to_end(&self) -> bool {
        self.told_to_end.load(Ordering::Relaxed)
    }

    /// Waits for input.
    pub fn wait(&self, limit: Duration) -> io::Result<Input> {
        let stdin = io::stdin();
        let wait = Timespec {
            tv_sec: 0,
            tv_nsec: limit.as_nanos().min(999_999_999) as i64,
        };
        let mut fds = [PollFd::new(&stdin, PollFlags::IN)];
        match poll(&mut fds, Some(&wait)) {
            // Reading a terminal that has gone away would wait forever.
            Ok(_) if fds[0].revents().intersects(PollFlags::HUP | PollFlags::ERR) => {
                Ok(Input::Gone)
            }
            Ok(_) | Err(rustix::io::Errno::INTR) => Ok(Input::Maybe),
            Err(error) => Err(error.into()),
        }
    }

    /// Gives the screen back.
    pub fn leave(mut self) -> io::Result<()> {
        self.left = true;
        if self.shown_images.is_some() && self.images == Images::Graphics {
            // Not every terminal takes its images down with the alternate screen.
            self.show_images(b"\x1b_Ga=d,d=A,q=2\x1b\\")?;
        }
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
