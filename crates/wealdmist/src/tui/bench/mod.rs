//! Benches: the instruments of the steps, and what may lie over them. Each is a folder here; a new one
//! is a folder and a line in [`benches`].

mod apply;
mod contrast;
mod font;
mod glyphs;
mod palette;
mod prompt;
mod proposal;
mod survey;
mod window;

use std::borrow::Cow;
use std::convert::Infallible;
use std::sync::Arc;

use crossterm::event::KeyEvent;
use wealdmist_core::role::RoleId;
use wealdmist_core::specimen::Specimen;
use wealdmist_host::Picture;

use super::job::{AnyAnswer, Job};
use super::keys::{self, Key, Told};
use super::stage::{Dress, Target};
use super::step::Step;
use super::view::{Hits, Pen};
use super::workspace::Workspace;

#[cfg(test)]
pub use self::{
    contrast::Contrast,
    font::{Font, Page},
    glyphs::{
        Answer as GlyphAnswer, Glyphs, Icons, LARGE, MARGIN, View, map_of_icons, other_coverage,
    },
    palette::{Chart, Palette},
    prompt::Prompt,
    proposal::{Matter, Proposal},
    survey::{Item, Survey},
};

/// The steps, in their order, each with its bench. Their numbers follow from here.
#[must_use]
pub fn benches() -> Vec<(Step, Box<dyn AnyBench>)> {
    vec![
        (survey::STEP, held(survey::Survey::default())),
        (palette::STEP, held(palette::Palette::default())),
        (contrast::STEP, held(contrast::Contrast::default())),
        (font::STEP, held(font::Font::default())),
        (glyphs::STEP, held(glyphs::Glyphs::default())),
        (prompt::STEP, held(prompt::Prompt::default())),
        (window::STEP, held(window::Window::default())),
        (apply::STEP, held(apply::Apply::default())),
    ]
}

/// What a bench wants done that is not its own affair.
#[derive(Debug)]
pub enum Do<K, W> {
    /// Go to where the color of a role is changed.
    StandOn(RoleId),
    /// Lay something over this bench.
    Open(Box<dyn AnyBench>),
    /// Take this away from over the bench it lies on.
    Close,
    /// Have a line typed; what it is for comes back with it.
    Ask(Question, K),
    /// Have slow work done.
    Run(Job<W>),
    /// Put a text into the clipboard, where the terminal allows it.
    Copy(String),
    /// Take trials back: they would hide what is applied now.
    EndTrials,
}

/// What benches want done, in the order in which it is to be done.
pub type Reply<B> = Vec<Do<<B as Bench>::Ask, <B as Bench>::Answer>>;
/// The same, whoever wants it.
pub type AnyDo = Do<(), AnyAnswer>;

/// A line to be typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Question {
    /// What is asked.
    pub text: String,
    /// What stands there to begin with.
    pub start: String,
    /// Whether text of many lines may be pasted, which is complete then.
    pub many_lines: bool,
    /// Whether it is a path, which can be completed.
    pub is_path: bool,
    /// Why what stands there could not be taken.
    pub refused: Option<String>,
}

impl Question {
    /// A question, and what stands there to begin with.
    pub fn new(text: impl Into<String>, start: impl Into<String>) -> Self {
        Self {
            text: text.into(),
            start: start.into(),
            many_lines: false,
            is_path: false,
            refused: None,
        }
    }

    /// A question for a path, and what stands there to begin with.
    pub fn path(text: impl Into<String>, start: impl Into<String>) -> Self {
        Self {
            is_path: true,
            ..Self::new(text, start)
        }
    }

    /// The same again after an answer that could not be taken, with the reason.
    pub fn refused(self, why: impl Into<String>) -> Self {
        Self {
            refused: Some(why.into()),
            ..self
        }
    }
}

/// A list that is pointed at: moving, pages and the wheel are the interface's.
#[derive(Debug)]
pub struct List<'a> {
    /// The row pointed at.
    pub cursor: &'a mut usize,
    /// How many there are.
    pub len: usize,
}

impl List<'_> {
    /// Moves by rows, as far as there are any.
    pub fn move_by(&mut self, rows: isize) {
        let last = self.len.saturating_sub(1);
        *self.cursor = (*self.cursor)
            .min(last)
            .saturating_add_signed(rows)
            .min(last);
    }

    /// Goes to a row.
    pub fn go(&mut self, row: usize) {
        *self.cursor = row.min(self.len.saturating_sub(1));
    }
}

/// What a bench that asks nothing, or has no slow work, is asked for.
pub type Nothing = Infallible;

/// The instrument of a step, or what lies over one.
pub trait Bench: Sized + 'static {
    /// What its keys do.
    type Act: Copy + 'static;
    /// What lines that are typed are for.
    type Ask: 'static;
    /// What comes of its slow work.
    type Answer: Send + 'static;

    /// Its keys, while the pointer is on it.
    const KEYS: &'static [Key<Self::Act>];
    /// Its keys while the pointer is on the specimen.
    const ON_SPECIMEN: &'static [Key<Self::Act>] = &[];

    /// Whether the bottom line may offer what a key is for, as the bench is now. The help lists it in any case.
    fn offers(&self, act: Self::Act) -> bool {
        let _ = act;
        true
    }

    /// What stands over it.
    fn title(&self, ws: &Workspace) -> Cow<'static, str>;

    /// What does what it does on the command line.
    fn command(&self, ws: &Workspace) -> String;

    /// Draws it.
    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits);

    /// Does what one of its keys is for.
    fn act(&mut self, act: Self::Act, ws: &mut Workspace) -> Reply<Self>;

    /// Takes a line that was typed.
    ///
    /// # Errors
    /// When it cannot be taken, with the reason: the line stays open then.
    fn typed(
        &mut self,
        ask: &Self::Ask,
        text: &str,
        ws: &mut Workspace,
    ) -> Result<Reply<Self>, String> {
        let _ = (ask, text, ws);
        Ok(Vec::new())
    }

    /// A line as it is being typed, or `None` when it was given up.
    fn typing(&mut self, ask: &Self::Ask, text: Option<&str>, ws: &mut Workspace) {
        let _ = (ask, text, ws);
    }

    /// Takes what came of its slow work.
    fn answered(&mut self, answer: Self::Answer, ws: &mut Workspace) -> Reply<Self> {
        let _ = (answer, ws);
        Vec::new()
    }

    /// The list that is pointed at.
    fn list(&mut self, ws: &Workspace) -> Option<List<'_>> {
        let _ = ws;
        None
    }

    /// Moves the pointer by so many rows down and columns to the right.
    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace) {
        let _ = right;
        if let Some(mut list) = self.list(ws) {
            list.move_by(down);
        }
    }

    /// Points at a row, and a column where it has several.
    fn point(&mut self, row: usize, column: Option<usize>, ws: &mut Workspace) {
        let _ = column;
        if let Some(mut list) = self.list(ws) {
            list.go(row);
        }
    }

    /// Something was drawn with the mouse from one row to another.
    fn dropped(&mut self, from: usize, to: usize, ws: &mut Workspace) {
        let _ = (from, to, ws);
    }

    /// Stands on the color of a role, if this is where it is changed.
    fn stand_on(&mut self, role: &RoleId, ws: &mut Workspace) {
        let _ = (role, ws);
    }

    /// Something has changed, or it has come to be seen: what it needs for that.
    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        let _ = ws;
        Vec::new()
    }

    /// How much is open here.
    fn open_count(&self, ws: &Workspace) -> usize {
        let _ = ws;
        0
    }

    /// What its pointer is on, to be shown on the specimen.
    fn target(&self, ws: &Workspace) -> Option<Target> {
        let _ = ws;
        None
    }

    /// What the specimen is to wear.
    fn dress(&self, ws: &Workspace) -> Dress {
        let _ = ws;
        Dress::default()
    }

    /// What the specimen shows in place of the sample screen, in cells.
    fn specimen(&self, ws: &Workspace, size: (usize, usize)) -> Option<Specimen> {
        let _ = (ws, size);
        None
    }

    /// An image of what the specimen shows, in its room, where the terminal can be shown one and the pointer is elsewhere.
    fn picture(&self, ws: &Workspace) -> Option<Arc<Picture>> {
        let _ = ws;
        None
    }

    /// Whether it takes the specimen's room, too.
    fn needs_width(&self, ws: &Workspace) -> bool {
        let _ = ws;
        false
    }
}

/// A bench, whichever it is.
#[allow(missing_docs)]
pub trait AnyBench {
    fn title(&self, ws: &Workspace) -> Cow<'static, str>;
    fn command(&self, ws: &Workspace) -> String;
    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits);
    /// Does what a key is for; `None` where it is not one of its keys.
    fn press(&mut self, key: KeyEvent, ws: &mut Workspace) -> Option<Vec<AnyDo>>;
    /// Its keys as they are shown, with the pointer on it or on the specimen.
    fn told(&self, on_specimen: bool) -> Vec<Told>;
    /// Takes the line it asked for last.
    fn typed(&mut self, text: &str, ws: &mut Workspace) -> Result<Vec<AnyDo>, String>;
    fn typing(&mut self, text: Option<&str>, ws: &mut Workspace);
    fn answered(&mut self, answer: AnyAnswer, ws: &mut Workspace) -> Vec<AnyDo>;
    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace);
    fn point(&mut self, row: usize, column: Option<usize>, ws: &mut Workspace);
    fn dropped(&mut self, from: usize, to: usize, ws: &mut Workspace);
    fn stand_on(&mut self, role: &RoleId, ws: &mut Workspace);
    fn refresh(&mut self, ws: &mut Workspace) -> Vec<AnyDo>;
    fn open_count(&self, ws: &Workspace) -> usize;
    fn target(&self, ws: &Workspace) -> Option<Target>;
    fn dress(&self, ws: &Workspace) -> Dress;
    fn specimen(&self, ws: &Workspace, size: (usize, usize)) -> Option<Specimen>;
    fn picture(&self, ws: &Workspace) -> Option<Arc<Picture>>;
    fn needs_width(&self, ws: &Workspace) -> bool;
    #[cfg(test)]
    fn itself(&self) -> &dyn std::any::Any;
    #[cfg(test)]
    fn itself_mut(&mut self) -> &mut dyn std::any::Any;
}

impl std::fmt::Debug for dyn AnyBench {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("AnyBench")
    }
}

/// A bench with what it has asked for.
struct Held<B: Bench> {
    bench: B,
    asked: Option<B::Ask>,
}

/// A bench as any other.
#[must_use]
pub fn held<B: Bench>(bench: B) -> Box<dyn AnyBench> {
    Box::new(Held { bench, asked: None })
}

impl<B: Bench> Held<B> {
    /// Keeps what lines are for and lets the rest through.
    fn any(&mut self, reply: Reply<B>) -> Vec<AnyDo> {
        let one = |wanted: Do<B::Ask, B::Answer>| match wanted {
            Do::Ask(question, ask) => {
                self.asked = Some(ask);
                Do::Ask(question, ())
            }
            Do::Run(job) => Do::Run(job.erased()),
            Do::StandOn(role) => Do::StandOn(role),
            Do::Open(bench) => Do::Open(bench),
            Do::Close => Do::Close,
            Do::Copy(text) => Do::Copy(text),
            Do::EndTrials => Do::EndTrials,
        };
        reply.into_iter().map(one).collect()
    }
}

impl<B: Bench> AnyBench for Held<B> {
    fn title(&self, ws: &Workspace) -> Cow<'static, str> {
        self.bench.title(ws)
    }

    fn command(&self, ws: &Workspace) -> String {
        self.bench.command(ws)
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        self.bench.draw(ws, pen, hits);
    }

    fn press(&mut self, key: KeyEvent, ws: &mut Workspace) -> Option<Vec<AnyDo>> {
        let table = match ws.stage.pointed {
            true => B::ON_SPECIMEN,
            false => B::KEYS,
        };
        let act = keys::find(table, key)?;
        let reply = self.bench.act(act, ws);
        Some(self.any(reply))
    }

    fn told(&self, on_specimen: bool) -> Vec<Told> {
        let table = if on_specimen { B::ON_SPECIMEN } else { B::KEYS };
        let told = |key: &Key<B::Act>| Told {
            hint: key.hint && self.bench.offers(key.act),
            ..key.told()
        };
        table.iter().map(told).collect()
    }

    fn typed(&mut self, text: &str, ws: &mut Workspace) -> Result<Vec<AnyDo>, String> {
        let Some(ask) = self.asked.take() else {
            return Ok(Vec::new());
        };
        match self.bench.typed(&ask, text, ws) {
            Ok(reply) => Ok(self.any(reply)),
            Err(why) => {
                self.asked = Some(ask);
                Err(why)
            }
        }
    }

    fn typing(&mut self, text: Option<&str>, ws: &mut Workspace) {
        if let Some(ask) = &self.asked {
            self.bench.typing(ask, text, ws);
        }
        if text.is_none() {
            self.asked = None;
        }
    }

    fn answered(&mut self, answer: AnyAnswer, ws: &mut Workspace) -> Vec<AnyDo> {
        // Tickets bring answers to whoever asked, so it is of this kind.
        let Ok(answer) = answer.downcast::<B::Answer>() else {
            return Vec::new();
        };
        let reply = self.bench.answered(*answer, ws);
        self.any(reply)
    }

    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace) {
        self.bench.walk(down, right, ws);
    }

    fn point(&mut self, row: usize, column: Option<usize>, ws: &mut Workspace) {
        self.bench.point(row, column, ws);
    }

    fn dropped(&mut self, from: usize, to: usize, ws: &mut Workspace) {
        self.bench.dropped(from, to, ws);
    }

    fn stand_on(&mut self, role: &RoleId, ws: &mut Workspace) {
        self.bench.stand_on(role, ws);
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Vec<AnyDo> {
        let reply = self.bench.refresh(ws);
        self.any(reply)
    }

    fn open_count(&self, ws: &Workspace) -> usize {
        self.bench.open_count(ws)
    }

    fn target(&self, ws: &Workspace) -> Option<Target> {
        self.bench.target(ws)
    }

    fn dress(&self, ws: &Workspace) -> Dress {
        self.bench.dress(ws)
    }

    fn specimen(&self, ws: &Workspace, size: (usize, usize)) -> Option<Specimen> {
        self.bench.specimen(ws, size)
    }

    fn picture(&self, ws: &Workspace) -> Option<Arc<Picture>> {
        self.bench.picture(ws)
    }

    fn needs_width(&self, ws: &Workspace) -> bool {
        self.bench.needs_width(ws)
    }

    #[cfg(test)]
    fn itself(&self) -> &dyn std::any::Any {
        &self.bench
    }

    #[cfg(test)]
    fn itself_mut(&mut self) -> &mut dyn std::any::Any {
        &mut self.bench
    }
}
