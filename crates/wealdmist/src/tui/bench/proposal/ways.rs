//! The menu of ways to a palette.

use std::borrow::Cow;
use std::path::PathBuf;

use crossterm::event::KeyCode::{Char, Enter, Esc};
use wealdmist_host::{PaletteFile, Picture, read_folder, read_palette};
use wealdmist_tools::exchange;

use super::{Proposal, make};
use crate::tui::bench::{Bench, Do, List, Question, Reply, held};
use crate::tui::instrument::Tone;
use crate::tui::job::Job;
use crate::tui::keys::{Key, also, hint};
use crate::tui::view::{Hit, Hits, Pen};
use crate::tui::workspace::Workspace;

/// The ways of making a palette, as the menu lists them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Way {
    Variations,
    Counterpart,
    Seeds,
    Image,
    File,
    Paste,
    Folder,
}

impl Way {
    /// All, in the order of the menu.
    pub const ALL: [Self; 7] = [
        Self::Variations,
        Self::Counterpart,
        Self::Seeds,
        Self::Image,
        Self::File,
        Self::Paste,
        Self::Folder,
    ];

    /// The key that picks it.
    const fn letter(self) -> &'static str {
        match self {
            Self::Variations => "v",
            Self::Counterpart => "c",
            Self::Seeds => "s",
            Self::Image => "i",
            Self::File => "f",
            Self::Paste => "p",
            Self::Folder => "d",
        }
    }

    /// The line in the menu, and what it does.
    pub const fn label(self) -> (&'static str, &'static str) {
        match self {
            Self::Variations => ("variations", "warmer, cooler, softer, sharper"),
            Self::Counterpart => ("counterpart", "the same hues on the other ground"),
            Self::Seeds => ("seed colors", "one or two, in any notation"),
            Self::Image => ("image", "a photograph or a wallpaper"),
            Self::File => ("file", "an open format, or another program's"),
            Self::Paste => ("paste", "the text of such a file"),
            Self::Folder => ("folder", "walk through every palette in it"),
        }
    }
}

/// The menu, and the way pointed at.
#[derive(Debug, Clone, Copy, Default)]
pub struct Ways {
    cursor: usize,
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Choose,
    Leave,
    Pick(Way),
}

/// What was read of disk, or why it could not be.
#[allow(missing_docs)]
pub enum Answer {
    Image(String, Result<Picture, String>),
    File(Result<Box<PaletteFile>, String>),
    Folder(PathBuf, Result<(Vec<PaletteFile>, usize), String>),
}

impl Bench for Ways {
    type Act = Act;
    /// The way whose question was answered.
    type Ask = Way;
    type Answer = Answer;

    const KEYS: &'static [Key<Act>] = &[
        hint(Enter, Act::Choose, "Enter", "choose"),
        hint(Esc, Act::Leave, "Esc", "leave"),
        also(Char('q'), Act::Leave),
        also(Char('v'), Act::Pick(Way::Variations)),
        also(Char('c'), Act::Pick(Way::Counterpart)),
        also(Char('s'), Act::Pick(Way::Seeds)),
        also(Char('i'), Act::Pick(Way::Image)),
        also(Char('f'), Act::Pick(Way::File)),
        also(Char('p'), Act::Pick(Way::Paste)),
        also(Char('d'), Act::Pick(Way::Folder)),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "new palette".into()
    }

    fn command(&self, _: &Workspace) -> String {
        "wealdmist palette   ·   wealdmist import FILE".to_owned()
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        let way = match act {
            Act::Leave => return vec![Do::Close],
            Act::Choose => Way::ALL[self.cursor.min(Way::ALL.len() - 1)],
            Act::Pick(way) => way,
        };
        let ask = |text: &str| vec![Do::Ask(Question::new(text, ""), way)];
        match way {
            Way::Variations => shown(make::variations(ws), ws),
            Way::Counterpart => shown(make::counterpart(ws), ws),
            Way::Seeds => ask("one or two colors"),
            Way::Image => ask("image file"),
            Way::File => ask("palette file"),
            Way::Folder => ask("folder of palettes"),
            Way::Paste => {
                let mut question = Question::new("paste the palette's text, then Enter", "");
                question.many_lines = true;
                vec![Do::Ask(question, way)]
            }
        }
    }

    fn typed(&mut self, way: &Way, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        let path = ws.survey.home.expand(text.trim());
        let reads = |says, work: Box<dyn FnOnce() -> Answer + Send>| {
            Ok(vec![Do::Run(Job::new("palette", says, work))])
        };
        match way {
            Way::Variations | Way::Counterpart => Ok(Vec::new()),
            Way::Seeds => Ok(opened(make::from_seeds(ws, text)?)),
            Way::Paste => {
                let found = exchange::import(None, "", text);
                let found = found.map_err(|e| format!("pasted text, {e}"))?;
                let name = found.name.clone().unwrap_or_else(|| "pasted".to_owned());
                Ok(opened(make::import(ws, &found, &name)?))
            }
            Way::Image => reads(
                "reading the image",
                Box::new(move || {
                    let name = path.file_stem().unwrap_or_default();
                    let name = name.to_string_lossy().into_owned();
                    Answer::Image(name, Picture::open(&path).map_err(|e| e.to_string()))
                }),
            ),
            Way::File => reads(
                "reading the palette",
                Box::new(move || {
                    let read = read_palette(&path, None).map(Box::new);
                    Answer::File(read.map_err(|e| e.to_string()))
                }),
            ),
            Way::Folder => reads(
                "reading the folder",
                Box::new(move || {
                    let read = read_folder(&path).map_err(|e| e.to_string());
                    Answer::Folder(path, read)
                }),
            ),
        }
    }

    fn answered(&mut self, answer: Answer, ws: &mut Workspace) -> Reply<Self> {
        let made = match answer {
            Answer::Image(name, read) => {
                read.and_then(|picture| make::from_image(ws, &name, &picture))
            }
            Answer::File(read) => read.and_then(|file| make::import(ws, &file.found, &file.name())),
            Answer::Folder(path, read) => read
                .and_then(|(files, others)| make::from_folder(ws, &files, others))
                .map_err(|e| format!("{}: {e}", path.display())),
        };
        shown(made, ws)
    }

    fn list(&mut self, _: &Workspace) -> Option<List<'_>> {
        let cursor = &mut self.cursor;
        let len = Way::ALL.len();
        Some(List { cursor, len })
    }

    fn draw(&self, _: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        draw(self.cursor, pen, hits);
    }
}

/// Lays a proposal over the bench in place of the menu, or says why there is none.
fn shown(made: Result<Proposal, String>, ws: &mut Workspace) -> Reply<Ways> {
    match made {
        Ok(proposal) => opened(proposal),
        Err(why) => {
            ws.complain(why);
            vec![Do::Close]
        }
    }
}

fn opened(proposal: Proposal) -> Reply<Ways> {
    vec![Do::Open(held(proposal)), Do::Close]
}

fn draw(cursor: usize, pen: &mut Pen, hits: &mut Hits) {
    pen.text(0, 1, "a new palette, from", Tone::Strong);
    for (i, way) in Way::ALL.into_iter().enumerate() {
        let (name, what) = way.label();
        let row = 2 + i;
        pen.text(row, 3, way.letter(), Tone::Key);
        pen.text(row, 5, name, Tone::Text);
        pen.cut(row, 20, what, pen.width().saturating_sub(21), Tone::Quiet);
        hits.add(pen.place(row, 0..pen.width()), Hit::Row(i, None));
        if i == cursor {
            pen.choose_row(row, 1..pen.width().min(64));
        }
    }
    let text = "Each is shown on the specimen first and changes nothing until it is taken.";
    pen.cut(
        3 + Way::ALL.len(),
        3,
        text,
        pen.width().saturating_sub(4),
        Tone::Quiet,
    );
    let text = "`wealdmist import --terminal` asks a running terminal for its colors.";
    pen.cut(
        4 + Way::ALL.len(),
        3,
        text,
        pen.width().saturating_sub(4),
        Tone::Quiet,
    );
}
