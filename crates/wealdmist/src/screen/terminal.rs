//! The terminal, given back as it was however the interface ends.

use std::io::{self, Stdout, Write};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use crossterm::event::{EnableBracketedPaste, EnableMouseCapture};
use crossterm::execute;
use crossterm::terminal::{
    BeginSynchronizedUpdate, Clear, ClearType, EndSynchronizedUpdate, EnterAlternateScreen,
    disable_raw_mode, enable_raw_mode,
};
use ratatui_core::terminal::{Frame, Terminal};
use std::time::Duration;

use wealdmist_core::color::reset_all;
use wealdmist_core::guard::is_guarded;
use wealdmist_core::terminal::Images;
use wealdmist_host::platform::{signals, terminal};
use wealdmist_host::{Draft, Survey, SurveyError};

use super::backend::Escapes;
use super::give_back::give_back;
use super::guardian::Guardian;

/// Whether the terminal wears colors of a trial that have to be taken back.
static WORN: AtomicBool = AtomicBool::new(false);

/// How long the interface may take to end by itself after a signal.
const GRACE: Duration = Duration::from_millis(500);

/// The draft as it stands, for whoever has to save it: the interface when it ends, or in its place
/// the thread that ends a program which no longer can. Empty when there is nothing to save.
#[derive(Debug, Clone, Default)]
pub struct Kept(Arc<Mutex<Option<Draft>>>, Guardian);

impl Kept {
    /// Nothing yet, told to a guardian when there is something.
    pub fn with(guardian: Guardian) -> Self {
        Self(Arc::default(), guardian)
    }

    /// Keeps the draft of a survey that has one to be saved.
    pub fn keep(&self, changed: Option<&Survey>) {
        let mut kept = self.lock();
        let now = changed.map(|survey| survey.doc.text());
        if kept.as_ref().map(Draft::text) != now {
            *kept = changed.map(Survey::draft);
            self.1.keep(kept.as_ref());
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
fn end_on_signals(told: &Arc<AtomicBool>, pause: &Arc<AtomicBool>, kept: &Kept) -> io::Result<()> {
    signals::on_stop(pause)?;
    let end = {
        let (told, kept) = (Arc::clone(told), kept.clone());
        move |status: i32| {
            told.store(true, Ordering::Relaxed);
            std::thread::sleep(GRACE);
            // There may be no terminal left to say it on.
            if kept.save().is_ok() {
                kept.1.keep(None);
            }
            // A terminal that nobody reads takes nothing: the interface is stuck writing to it, and
            // this would wait behind it for ever. The guardian gives the terminal back then.
            let (given, is_given) = std::sync::mpsc::channel();
            std::thread::spawn(move || {
                restore();
                let _ = given.send(());
            });
            if is_given.recv_timeout(GRACE).is_ok() {
                kept.1.dismiss();
            }
            std::process::exit(status);
        }
    };
    signals::on_end(end.clone())?;
    // A program in the background is sent no signal when its terminal goes away. What cannot be
    // watched is left to the signals.
    std::thread::spawn(move || {
        if terminal::is_gone_at_last(&io::stdin()) {
            end(signals::HUNG_UP);
        }
    });
    Ok(())
}

/// The screen while the interface has it.
pub struct Screen {
    terminal: Terminal<Escapes<io::BufWriter<Stdout>>>,
    told_to_end: Arc<AtomicBool>,
    told_to_pause: Arc<AtomicBool>,
    guardian: Guardian,
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
        let told_to_pause = Arc::new(AtomicBool::new(false));
        end_on_signals(&told_to_end, &told_to_pause, kept)?;
        let previous = std::panic::take_hook();
        let interface = std::thread::current().id();
        std::panic::set_hook(Box::new(move |info| {
            // A parser's panic, and that of a thread beside, does not end the interface.
            if !is_guarded() && std::thread::current().id() == interface {
                restore();
                previous(info);
            }
        }));
        let terminal = Terminal::new(backend())?;
        let screen = Self {
            terminal,
            told_to_end,
            told_to_pause,
            guardian: kept.1.clone(),
            left: false,
            images,
            shown_images: None,
        };
        take()?;
        Ok(screen)
    }

    /// Gives the screen back for as long as the program is stopped, where it was told to stop;
    /// whether it was.
    pub fn pause(&mut self) -> io::Result<bool> {
        if !self.told_to_pause.swap(false, Ordering::Relaxed) {
            return Ok(false);
        }
        restore();
        // What was asked for, as any other program does it: this returns when it goes on.
        signals::stop()?;
        take()?;
        self.clear()?;
        Ok(true)
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
        self.guardian.wears();
        let mut out = io::stdout();
        out.write_all(bytes)?;
        out.flush()
    }

    /// Draws everything anew with the next frame.
    pub fn clear(&mut self) -> io::Result<()> {
        self.shown_images = None;
        execute!(io::stdout(), Clear(ClearType::All))?;
        // A new one takes nothing for drawn, and asks the terminal nothing.
        self.terminal = Terminal::new(backend())?;
        Ok(())
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

    /// Waits for input; `false` where the terminal is gone.
    pub fn wait(&self, limit: Duration) -> io::Result<bool> {
        Ok(terminal::wait_for(&io::stdin(), limit)? != terminal::Input::Gone)
    }

    /// Gives the screen back.
    pub fn leave(mut self) -> io::Result<()> {
        self.left = true;
        if self.shown_images.is_some() && self.images == Images::Graphics {
            // Not every terminal takes its images down with the alternate screen.
            self.show_images(b"\x1b_Ga=d,d=A,q=2\x1b\\")?;
        }
        restore();
        self.guardian.dismiss();
        Ok(())
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        if !self.left {
            restore();
            self.guardian.dismiss();
        }
    }
}

fn backend() -> Escapes<io::BufWriter<Stdout>> {
    Escapes::new(io::BufWriter::with_capacity(1 << 16, io::stdout()))
}

/// Takes the screen.
fn take() -> io::Result<()> {
    enable_raw_mode()?;
    execute!(
        io::stdout(),
        EnterAlternateScreen,
        EnableMouseCapture,
        EnableBracketedPaste
    )
}

/// Puts everything back; what fails is past helping.
fn restore() {
    give_back(WORN.swap(false, Ordering::SeqCst));
    let _ = disable_raw_mode();
}

/// For a trial outside the interface: a signal takes the colors back before the program ends, and
/// whatever else may end it, the guardian does.
pub fn take_colors_back_on_signals(guardian: &Guardian) -> io::Result<()> {
    guardian.wears();
    let guardian = guardian.clone();
    signals::on_end(move |status| {
        let mut out = io::stdout();
        let _ = out.write_all(&reset_all());
        let _ = out.flush();
        guardian.dismiss();
        std::process::exit(status);
    })
}
