//! The interface: one state, changed only by messages, drawn by functions of the state. Slow
//! work runs on threads and comes back as messages.

mod app;
mod bench;
mod derived;
mod frame;
mod instrument;
mod job;
mod keys;
mod pictures;
mod shell;
mod stage;
mod step;
#[cfg(test)]
mod tests;
mod trials;
mod view;
mod workspace;

use std::io::{self, IsTerminal};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::time::Duration;

use crossterm::event::{self, Event, KeyEventKind};
use wealdmist_core::color::Depth;
use wealdmist_core::role::Slot;
use wealdmist_core::terminal::Images;
use wealdmist_host::Survey;

use crate::cli::Place;
use crate::failure::{Failure, Outcome};
use crate::screen::{Guardian, Kept, Screen, depth, image, means, unicode_locale};

use app::{App, Effect, Message};
use instrument::Instrument;
use job::Started;
use trials::Trials;
use view::Hits;
use workspace::Display;

/// How long the loop waits for input before it looks for results of slow work, in milliseconds.
const IDLE: u64 = 60;

/// Opens the interface on a survey. Afterwards the draft is saved, if it was changed.
pub fn open(survey: Survey, place: &Place) -> Outcome {
    let instrument = Instrument::new(depth(place.colors), unicode_locale());
    let no_terminal = || {
        let text = "the interface needs a terminal; `wealdmist --help` lists the commands";
        Failure::Other(text.to_owned())
    };
    if !(io::stdin().is_terminal() && io::stdout().is_terminal()) {
        return Err(no_terminal());
    }
    let size = crossterm::terminal::size().map_err(|_| no_terminal())?;
    let means = means(instrument.depth, instrument.unicode);
    let colors = matches!(instrument.depth, Depth::TrueColor | Depth::Indexed256);
    let images = match colors {
        true => image::protocol(&survey.home),
        false => Images::None,
    };
    let pixels = image::cell_pixels().filter(|_| images != Images::None);
    let icons = place.icons;
    let display = Display {
        log: place.log.as_ref().map(|p| p.display().to_string()),
        icons,
        means,
        pixels,
    };
    let mut app = App::new(survey, display, size);
    let kept = Kept::with(Guardian::start());
    let mut screen = Screen::enter(&kept, images)?;
    let ended = run(&mut app, &mut screen, &instrument, &kept);
    // However it ended, the draft is kept: also when the terminal has gone away.
    kept.keep(app.changed());
    let saved = kept.save();
    screen.leave()?;
    ended?;
    if saved? {
        say!("The draft is saved in {}.", app.ws.doc().path().display());
    }
    let open = app.ws.planned.change_count();
    if open > 0 {
        say!(
            "{open} changes are not applied: `wealdmist plan` shows them, `wealdmist apply` carries them out."
        );
    }
    Ok(0)
}

/// What works beside the interface, and where its results arrive.
struct Workers {
    sender: Sender<Message>,
    trials: Trials,
}

fn run(
    app: &mut App,
    screen: &mut Screen,
    instrument: &Instrument,
    kept: &Kept,
) -> Result<(), Failure> {
    let (sender, results) = channel();
    // Dropped however this ends, also by an error: running programs get their colors back.
    let mut workers = Workers {
        sender,
        trials: Trials::default(),
    };
    let mut hits = draw(app, screen, instrument)?;
    for effect in app.begin() {
        perform(app, screen, effect, &mut workers)?;
    }
    loop {
        kept.keep(app.changed());
        let mut changed = false;
        if !screen.wait(Duration::from_millis(IDLE))? {
            return Ok(());
        }
        if event::poll(Duration::ZERO)? {
            // Everything that has already arrived is taken in before drawing once.
            loop {
                let event = event::read()?;
                if matches!(event, Event::Resize(..)) {
                    // The screen is cleared, and the images with it.
                    screen.shown_images = None;
                }
                if let Some(message) = message_of(event, &hits) {
                    handle(app, screen, message, &mut workers)?;
                    // Asking for more may never return if the terminal goes away just now.
                    kept.keep(app.changed());
                }
                changed = true;
                if app.quit || !event::poll(Duration::ZERO)? {
                    break;
                }
            }
        }
        changed |= take_results(app, screen, &results, &mut workers)?;
        if app.quit || screen.was_told_to_end() {
            return Ok(());
        }
        changed |= screen.pause()?;
        if changed {
            hits = draw(app, screen, instrument)?;
        }
    }
}

fn take_results(
    app: &mut App,
    screen: &mut Screen,
    results: &Receiver<Message>,
    workers: &mut Workers,
) -> Result<bool, Failure> {
    let mut any = false;
    while let Ok(message) = results.try_recv() {
        handle(app, screen, message, workers)?;
        any = true;
    }
    Ok(any)
}

fn draw(app: &App, screen: &mut Screen, instrument: &Instrument) -> Result<Hits, Failure> {
    let mut hits = Hits::default();
    screen.draw(|f| hits = frame::draw(app, instrument, f))?;
    let shown = pictures::mark(&app.ws, &hits);
    if screen.shown_images != shown {
        if screen.images == Images::Sixel && screen.shown_images.is_some() {
            // Sixels lie in the cells: they go when every cell is drawn anew.
            screen.clear()?;
            screen.draw(|f| hits = frame::draw(app, instrument, f))?;
        }
        let look = app.ws.look();
        let shades = (look.slot(Slot::Background), look.slot(Slot::Foreground));
        screen.show_images(&pictures::escapes(&hits, shades, screen.images))?;
        screen.shown_images = shown;
    }
    Ok(hits)
}

fn message_of(event: Event, hits: &Hits) -> Option<Message> {
    match event {
        Event::Key(key) if key.kind != KeyEventKind::Release => Some(Message::Key(key)),
        Event::Mouse(mouse) => frame::mouse(mouse, hits),
        Event::Resize(width, height) => Some(Message::Resized(width, height)),
        Event::Paste(text) => Some(Message::Pasted(text)),
        _ => None,
    }
}

fn handle(
    app: &mut App,
    screen: &mut Screen,
    message: Message,
    workers: &mut Workers,
) -> Result<(), Failure> {
    for effect in app.update(message) {
        perform(app, screen, effect, workers)?;
    }
    Ok(())
}

/// Carries out what the state asked for. What takes time goes to a thread.
fn perform(
    app: &mut App,
    screen: &mut Screen,
    effect: Effect,
    workers: &mut Workers,
) -> Result<(), Failure> {
    let sender = workers.sender.clone();
    match effect {
        Effect::Start(Started { ticket, job }) if job.at_terminal => {
            let _ = sender.send(Message::Done(ticket, (job.work)()));
            screen.clear()?;
        }
        Effect::Start(Started { ticket, job }) => {
            std::thread::spawn(move || {
                let _ = sender.send(Message::Done(ticket, (job.work)()));
            });
        }
        Effect::Copy(text) => screen.copy(&text)?,
        Effect::Wear(sequences) => screen.write(&sequences)?,
        Effect::TryOn(Some(doc)) => workers.trials.wear(&app.ws.survey, *doc, &sender),
        Effect::TryOn(None) => workers.trials.end(),
    }
    Ok(())
}
