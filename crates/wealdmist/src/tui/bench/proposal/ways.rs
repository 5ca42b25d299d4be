//! The menu of ways to a palette.

use std::borrow::Cow;
use std::path::{Path, PathBuf};

use crossterm::event::KeyCode::{Char, Enter, Esc};
use wealdmist_host::{Home, PaletteFile, Picture, read_folder, read_palettes};
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

    /// What is asked to go this way, and what stands there to begin with.
    fn question(self, start: &str) -> Question {
        match self {
            Self::Image => Question::path("image file", start),
            Self::File => Question::path("palette file", start),
            Self::Folder => Question::path("folder of palettes", start),
            Self::Paste => Question {
                many_lines: true,
                ..Question::new("paste the palette's text, then Enter", start)
            },
            Self::Seeds | Self::Variations | Self::Counterpart => {
                Question::new("one or two colors", start)
            }
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
    Image(PathBuf, Picture),
    File(Vec<PaletteFile>),
    Folder(PathBuf, Vec<PaletteFile>, usize),
    /// The way, what was typed, and why nothing could be read there.
    Unread(Way, String, String),
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
        match way {
            Way::Variations => shown(make::variations(ws), ws),
            Way::Counterpart => shown(make::counterpart(ws), ws),
            _ => vec![Do::Ask(way.question(""), way)],
        }
    }

    fn typed(&mut self, way: &Way, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        let (home, typed) = (ws.survey.home.clone(), text.trim().to_owned());
        let way = *way;
        let reads = move |says, read: fn(&Home, PathBuf) -> Result<Answer, String>| {
            let work = move || {
                read(&home, home.look_up(&typed))
                    .unwrap_or_else(|why| Answer::Unread(way, typed, why))
            };
            Ok(vec![Do::Run(Job::new("palette", says, work))])
        };
        match way {
            Way::Variations | Way::Counterpart => Ok(Vec::new()),
            Way::Seeds => Ok(opened(make::from_seeds(ws, text)?)),
            Way::Paste => {
                let found = exchange::imports(None, "", text);
                let found = found.map_err(|e| format!("pasted text, {e}"))?;
                let pasted = |mut found: exchange::Imported| {
                    let scheme = found.scheme.clone();
                    found.name = found.name.or(scheme).or(Some("pasted".to_owned()));
                    PaletteFile {
                        path: Path::new("-").to_owned(),
                        found,
                    }
                };
                let all: Vec<PaletteFile> = found.into_iter().map(pasted).collect();
                Ok(opened(make::import(ws, &all)?))
            }
            Way::Image => reads("reading the image", |_, path| {
                let picture = Picture::open(&path).map_err(|e| e.to_string())?;
                Ok(Answer::Image(path, picture))
            }),
            Way::File => reads("reading the palette", |home, path| {
                let read = read_palettes(home, &path, None).map_err(|e| e.to_string())?;
                Ok(Answer::File(read))
            }),
            Way::Folder => reads("reading the folder", |home, path| {
                let read = read_folder(home, &path);
                let (files, others) = read.map_err(|e| format!("{}: {e}", path.display()))?;
                Ok(Answer::Folder(path, files, others))
            }),
        }
    }

    fn answered(&mut self, answer: Answer, ws: &mut Workspace) -> Reply<Self> {
        let made = match answer {
            Answer::Image(path, picture) => make::from_image(ws, &path, &picture),
            Answer::File(files) => make::import(ws, &files),
            Answer::Folder(path, files, others) => make::from_folder(ws, &files, others)
                .map_err(|e| format!("{}: {e}", path.display())),
            Answer::Unread(way, typed, why) => {
                return vec![Do::Ask(way.question(&typed).refused(why), way)];
            }
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
