//! Things one of which may be taken into the design: each drawn as it would look, the one pointed at on
//! the specimen in all situations.

use std::borrow::Cow;

use crossterm::event::KeyCode::{Char, Enter, Esc};
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, Piece};
use wealdmist_core::specimen::Specimen;
use wealdmist_core::text::visible;

use super::{offers, scenes, view};
use crate::tui::bench::{Bench, Do, List, Nothing, Question, Reply};
use crate::tui::instrument::Tone;
use crate::tui::keys::{Key, also, hint};
use crate::tui::stage::{Dress, Worn};
use crate::tui::view::{Hit, Hits, Pen};
use crate::tui::workspace::Workspace;

/// Something that may be taken.
#[derive(Debug, Clone)]
pub struct Offer {
    /// What it is called.
    pub name: String,
    /// What is worth knowing of it.
    pub says: String,
    /// How it looks, row by row.
    pub rows: Vec<Vec<Piece>>,
    /// The design with it.
    pub design: Design,
    /// What has to be typed first, for something of the person's own.
    pub asks: Option<Own>,
}

/// Something of the person's own.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Own {
    Text,
    Variable,
    Tool,
}

/// What is typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Ask {
    /// What the list is to show.
    Filter,
    /// What a part of the person's own tells.
    Of(Own),
    /// The files of a tool of this name.
    Files(String),
}

/// The choice.
#[derive(Debug)]
pub struct Choice {
    title: String,
    offers: Vec<Offer>,
    /// What the names of those shown have in them.
    filter: String,
    /// The one pointed at, among those shown.
    pub cursor: usize,
    /// The part behind which something is put in, or that is changed.
    part: usize,
    /// The draft with the one pointed at, and which that is.
    worn: Option<(String, Worn)>,
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Take,
    Leave,
    Filter,
}

const KEYS: &[Key<Act>] = &[
    hint(Enter, Act::Take, "Enter", "take it"),
    hint(Esc, Act::Leave, "Esc", "leave it"),
    also(Char('q'), Act::Leave),
    also(Char('u'), Act::Leave),
    hint(Char('/'), Act::Filter, "/", "show only some"),
];

impl Offer {
    /// How many rows it takes: several have one free behind them.
    fn height(&self) -> usize {
        match self.rows.len() {
            0 | 1 => 1,
            several => several + 1,
        }
    }
}

impl Bench for Choice {
    type Act = Act;
    type Ask = Ask;
    type Answer = Nothing;

    const KEYS: &'static [Key<Act>] = KEYS;
    const ON_SPECIMEN: &'static [Key<Act>] = KEYS;

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        self.title.clone().into()
    }

    fn command(&self, _: &Workspace) -> String {
        "wealdmist prompt list   ·   wealdmist prompt".to_owned()
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        let width = pen.width();
        let shown = self.shown();
        let count = format!(
            "{} of {}; nothing is taken before Enter",
            shown.len(),
            self.offers.len()
        );
        pen.text(0, 1, &count, Tone::Quiet);
        if shown.is_empty() {
            let text = "None has that in its name: / changes what is shown.";
            pen.text(2, 2, text, Tone::Text);
        }
        let room = pen.height().saturating_sub(2);
        let names = shown.iter().map(|o| o.name.chars().count());
        let drawn_at = (names.max().unwrap_or(0) + 4).min(width / 2);
        let mut row = 2;
        for (i, offer) in shown.iter().enumerate().skip(self.first(&shown, room)) {
            let height = offer.height();
            if row + height > pen.height() {
                break;
            }
            let name = visible(offer.name.as_bytes());
            pen.cut(row, 2, &name, drawn_at - 3, Tone::Text);
            let says = visible(offer.says.as_bytes());
            let tone = match says.starts_with('!') {
                true => Tone::Loud,
                false => Tone::Quiet,
            };
            // Beside a single row, below several.
            let beside = offer.rows.len() < 2 && !says.is_empty();
            let end = width.saturating_sub(says.chars().count() + 3);
            match beside {
                true => pen.right(row, width.saturating_sub(1), &says, tone),
                false => drop(pen.cut(row + height - 1, drawn_at, &says, width - drawn_at, tone)),
            }
            let is_here = i == self.cursor && !ws.stage.pointed;
            for (n, pieces) in offer.rows.iter().enumerate() {
                let end = if beside { end } else { width - 1 };
                let end = view::pieces(ws, pieces, pen, row + n, drawn_at..end);
                if is_here {
                    pen.choose_row(row + n, 0..drawn_at);
                    pen.choose_row(row + n, end..width);
                }
            }
            if is_here && offer.rows.is_empty() {
                pen.choose_row(row, 0..width);
            }
            for line in row..row + height {
                hits.add(pen.place(line, 0..width), Hit::Row(i, None));
            }
            row += height;
        }
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        ws.stage.stale = true;
        match act {
            Act::Leave => {
                ws.tell("left as it was");
                vec![Do::Close]
            }
            Act::Filter => vec![Do::Ask(
                Question::new("show those with", self.filter.clone()),
                Ask::Filter,
            )],
            Act::Take => {
                let Some(offer) = self.pointed().cloned() else {
                    return Vec::new();
                };
                match offer.asks {
                    Some(own) => {
                        let question = match own {
                            Own::Text => "the text",
                            Own::Variable => "the name of the variable",
                            Own::Tool => "the name of the tool",
                        };
                        vec![Do::Ask(Question::new(question, ""), Ask::Of(own))]
                    }
                    None => take(ws, &offer.design),
                }
            }
        }
    }

    fn typed(&mut self, ask: &Ask, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        let name = |text: &str| {
            text.to_lowercase()
                .replace(|c: char| !c.is_alphanumeric(), "-")
        };
        let text = text.trim_end_matches(['\r', '\n']);
        let design = match ask {
            Ask::Filter => return Ok(Vec::new()),
            _ if text.trim().is_empty() => return Err("something has to stand here".to_owned()),
            Ask::Of(Own::Tool) => {
                let question = Question::new("files that show it, such as tide.toml", "");
                return Ok(vec![Do::Ask(question, Ask::Files(name(text.trim())))]);
            }
            Ask::Of(Own::Text) => offers::own(ws, self.part, "text", "text", |part| {
                text.clone_into(&mut part.tells.says);
            })?,
            Ask::Of(Own::Variable) => {
                offers::own(ws, self.part, "venv", &name(text.trim()), |part| {
                    text.trim().clone_into(&mut part.tells.variable);
                })?
            }
            Ask::Files(tool) => offers::own(ws, self.part, "make", tool, |part| {
                part.tells.files = text.split_whitespace().map(str::to_owned).collect();
            })?,
        };
        Ok(take(ws, &design))
    }

    fn typing(&mut self, ask: &Ask, text: Option<&str>, ws: &mut Workspace) {
        if *ask == Ask::Filter {
            text.unwrap_or_default().clone_into(&mut self.filter);
            self.cursor = 0;
            ws.stage.stale = true;
        }
    }

    fn list(&mut self, _: &Workspace) -> Option<List<'_>> {
        let len = self.shown().len();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        let offer = self.pointed().filter(|o| o.asks.is_none());
        let wanted = offer.map(|o| (o.name.clone(), o.design.clone()));
        if wanted.as_ref().map(|w| &w.0) != self.worn.as_ref().map(|w| &w.0) {
            self.worn = wanted.and_then(|(name, design)| {
                let doc = ws.doc().with_design(&design).ok()?;
                let look = Look::new(doc.setup());
                let worn = Worn {
                    name: name.clone(),
                    doc,
                    look,
                };
                Some((name, worn))
            });
            ws.stage.stale = true;
        }
        Vec::new()
    }

    fn dress(&self, _: &Workspace) -> Dress {
        let worn = self.worn.as_ref().map(|(_, worn)| worn.clone());
        Dress {
            title: worn.as_ref().map(|w| w.name.clone()),
            worn,
            second: None,
        }
    }

    fn specimen(&self, ws: &Workspace, size: (usize, usize)) -> Option<Specimen> {
        Some(scenes::all(ws, &[]).drawn(0, None, size))
    }
}

impl Choice {
    /// A choice with the pointer on one of its offers.
    pub fn new(title: impl Into<String>, offers: Vec<Offer>, cursor: usize, part: usize) -> Self {
        Self {
            title: title.into(),
            cursor: cursor.min(offers.len().saturating_sub(1)),
            offers,
            filter: String::new(),
            part,
            worn: None,
        }
    }

    fn shown(&self) -> Vec<&Offer> {
        let wanted = self.filter.to_lowercase();
        let fits = |o: &&Offer| o.name.to_lowercase().contains(&wanted);
        self.offers.iter().filter(fits).collect()
    }

    /// The first one shown so that the one pointed at is in view.
    fn first(&self, shown: &[&Offer], room: usize) -> usize {
        let mut first = self.cursor.min(shown.len().saturating_sub(1));
        let mut used = shown.get(first).map_or(0, |o| o.height());
        while first > 0 && used + shown[first - 1].height() <= room / 2 {
            first -= 1;
            used += shown[first].height();
        }
        // Where all behind it find room, so do some before.
        let all: usize = shown.iter().skip(first).map(|o| o.height()).sum();
        let mut spare = room.saturating_sub(all);
        while first > 0 && shown[first - 1].height() <= spare {
            first -= 1;
            spare -= shown[first].height();
        }
        first
    }

    fn pointed(&self) -> Option<&Offer> {
        self.shown().get(self.cursor).copied()
    }
}

/// Takes a design into the draft and closes the choice.
fn take(ws: &mut Workspace, design: &Design) -> Reply<Choice> {
    let changed = ws.doc().with_design(design);
    match ws.change(changed) {
        true => vec![Do::Close],
        false => Vec::new(),
    }
}
