//! The answers of a search of the icon table, over the Glyphs bench.

use std::borrow::Cow;
use std::path::PathBuf;

use crossterm::event::KeyCode::{Char, Enter, Esc};
use wealdmist_core::font::Typeface;
use wealdmist_core::icon::{self, Found, State};
use wealdmist_core::text::visible;

use super::card::{Card, sign};
use super::large::{Large, Size};
use super::{large_of, replace, view};
use crate::tui::bench::{Bench, Do, List, Question, Reply};
use crate::tui::instrument::Tone;
use crate::tui::keys::{Key, also, hint};
use crate::tui::view::{Hit, Hits, Pen, scroll};
use crate::tui::workspace::Workspace;

/// How many answers are shown.
const MOST: usize = 300;

/// The answers, for a glyph they may stand for.
#[derive(Debug)]
pub struct Icons {
    /// What was asked.
    pub query: String,
    /// The answers.
    pub found: Vec<Found>,
    /// The one pointed at.
    pub cursor: usize,
    /// The glyph in use that an answer may replace.
    instead_of: Option<String>,
    large: Large,
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Take,
    Copy,
    Again,
    Leave,
}

/// A face that an icon is drawn from was read, by its file and number; `None` if it cannot be.
pub struct FaceRead((PathBuf, u32), Option<Box<Typeface>>);

impl Icons {
    /// What answers to words; `instead_of` is the glyph that an answer may replace.
    pub fn found(query: &str, instead_of: Option<String>) -> Self {
        Self {
            query: query.to_owned(),
            found: icon::search(query, MOST),
            cursor: 0,
            instead_of,
            large: Large::default(),
        }
    }

    fn pointed(&self) -> Option<char> {
        self.found.get(self.cursor).map(|f| f.code)
    }
}

impl Bench for Icons {
    type Act = Act;
    type Ask = ();
    type Answer = FaceRead;

    const KEYS: &'static [Key<Act>] = &[
        hint(Enter, Act::Take, "Enter", "replace the glyph by it"),
        hint(Char('y'), Act::Copy, "y", "copy it"),
        hint(Char('/'), Act::Again, "/", "search again"),
        hint(Esc, Act::Leave, "Esc", "leave"),
        also(Char('q'), Act::Leave),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "icons found".into()
    }

    fn command(&self, _: &Workspace) -> String {
        format!("wealdmist icons {}", self.query)
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match (act, self.pointed()) {
            (Act::Leave, _) => vec![Do::Close],
            (Act::Again, _) => {
                let question = Question::new("icons by name, meaning or code point", "");
                vec![Do::Ask(question, ())]
            }
            (Act::Take, Some(c)) => {
                if let Some(wrong) = &self.instead_of {
                    replace(ws, wrong, Some(&c.to_string()));
                }
                vec![Do::Close]
            }
            (Act::Copy, Some(c)) => {
                ws.tell(format!(
                    "U+{:04X} copied, where the terminal allows it",
                    c as u32
                ));
                vec![Do::Copy(c.to_string())]
            }
            (_, None) => Vec::new(),
        }
    }

    fn typed(&mut self, (): &(), text: &str, _: &mut Workspace) -> Result<Reply<Self>, String> {
        if !text.trim().is_empty() {
            *self = Self::found(text, self.instead_of.take());
        }
        Ok(Vec::new())
    }

    fn answered(&mut self, answer: FaceRead, _: &mut Workspace) -> Reply<Self> {
        self.large.opened(&answer.0, answer.1);
        Vec::new()
    }

    fn list(&mut self, _: &Workspace) -> Option<List<'_>> {
        let len = self.found.len();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        let wanted: Vec<_> = self
            .pointed()
            .map(|c| (c, Size::Large))
            .into_iter()
            .collect();
        large_of(&mut self.large, ws, &wanted, FaceRead)
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::font(ws, pen);
        let (upper, lower) = view::parts(pen);
        answers(self, ws, &mut pen.within(upper), hits);
        let mut pen = pen.within(lower);
        pen.rule(0, 0..pen.width());
        if let Some(c) = self.pointed() {
            Card::draw(c.encode_utf8(&mut [0; 4]), None, &self.large, ws, &mut pen)
                .metrics(false, ws, &mut pen);
        }
    }
}

/// What a search came to.
fn answers(search: &Icons, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    if search.found.is_empty() {
        let text = format!(
            "Nothing answers to '{}'. Search by words of a name, by meaning, or by code point.",
            visible(search.query.as_bytes())
        );
        pen.cut(1, 2, &text, pen.width() - 3, Tone::Text);
        return;
    }
    pen.cut(
        0,
        1,
        &format!(
            "{} answers to '{}'",
            search.found.len(),
            visible(search.query.as_bytes())
        ),
        pen.width() - 2,
        Tone::Quiet,
    );
    let room = pen.height().saturating_sub(1);
    let first = scroll(search.cursor, search.found.len(), room);
    for (line, (i, found)) in search
        .found
        .iter()
        .enumerate()
        .skip(first)
        .take(room)
        .enumerate()
    {
        let line = line + 1;
        pen.cut(
            line,
            1,
            &sign(ws, found.code, &found.code.to_string()),
            5,
            Tone::Text,
        );
        pen.text(line, 7, &format!("U+{:04X}", found.code as u32), Tone::Text);
        let state = match found.state {
            State::Present => String::new(),
            State::Moved(to) => format!(", now at U+{:04X}", to as u32),
            State::Gone => ", gone".to_owned(),
        };
        pen.cut(line, 17, &format!("{}{state}", found.name), 46, Tone::Text);
        let (word, tone) = match ws.chosen_font() {
            Some(font) if font.covers(found.code) => ("in the font", Tone::Good),
            Some(_) => ("not in the font", Tone::Loud),
            None => ("", Tone::Quiet),
        };
        pen.text(line, 64, word, tone);
        hits.add(pen.place(line, 0..pen.width()), Hit::Row(i, None));
        if i == search.cursor && !ws.stage.pointed {
            pen.choose_row(line, 0..pen.width());
        }
    }
}
