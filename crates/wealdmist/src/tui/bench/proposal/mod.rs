//! Proposals: drafts that are shown before they are taken. A repair, palettes that were made,
//! imported or found in a folder; walked through with the specimen changing at each step, two at
//! a time if wanted, and taken or left. Nothing is changed until one is taken.

mod make;
mod repair;
mod view;
mod ways;

use std::borrow::Cow;

use crossterm::event::KeyCode::{Char, Enter, Esc};
use wealdmist_core::look::Look;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::text::counted;

use super::{Bench, Do, Nothing, Reply};
use crate::tui::keys::{Key, also, hint, key};
use crate::tui::stage::{Dress, Worn};
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;

use make::Source;
use repair::Repairs;
pub use repair::propose_repair;
pub use ways::Ways;

/// One draft that can be taken.
#[derive(Debug, Clone)]
pub struct Candidate {
    /// What it is called.
    pub name: String,
    /// The setup with it in use.
    pub doc: SetupDoc,
    /// It resolved.
    pub look: Look,
    /// How many pairs are below their target in it.
    pub failing: usize,
    /// What is worth knowing, line by line: what could not be mapped, where it comes from.
    pub remarks: Vec<String>,
    /// The command line that does the same as taking it.
    pub command: String,
}

/// What is proposed.
#[derive(Debug, Clone)]
pub enum Matter {
    /// Palettes, one of which may be taken.
    Palettes,
    /// Repairs of the draft, one for each way to do it.
    Repair(Repairs),
}

/// A proposal.
#[derive(Debug, Clone)]
pub struct Proposal {
    /// What it is, for people.
    pub title: String,
    /// The drafts, at least one.
    pub candidates: Vec<Candidate>,
    /// The one pointed at.
    pub cursor: usize,
    /// One that is kept beside it for comparison.
    pub marked: Option<usize>,
    /// Whether the specimen shows the draft as it was, to compare.
    pub shows_before: bool,
    /// What it is about.
    pub matter: Matter,
    /// The picture the palettes come from.
    pub source: Option<Source>,
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Take,
    Leave,
    BeforeAfter,
    Mark,
    Hold,
}

const KEYS: &[Key<Act>] = &[
    hint(Enter, Act::Take, "Enter", "take it"),
    hint(Esc, Act::Leave, "Esc", "leave it"),
    also(Char('q'), Act::Leave),
    hint(Char('b'), Act::BeforeAfter, "b", "before / after"),
    hint(Char(' '), Act::Mark, "Space", "keep beside to compare"),
    also(Char('u'), Act::Leave),
    key(Char('h'), Act::Hold, "h", "hold the color pointed at"),
];

impl Bench for Proposal {
    type Act = Act;
    type Ask = ();
    type Answer = Nothing;

    const KEYS: &'static [Key<Act>] = KEYS;
    const ON_SPECIMEN: &'static [Key<Act>] = KEYS;

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "proposal".into()
    }

    fn command(&self, _: &Workspace) -> String {
        self.candidate().command.clone()
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        ws.stage.stale = true;
        match act {
            Act::Take => {
                let candidate = self.candidate();
                let text = match &self.matter {
                    Matter::Repair(repairs) => {
                        let moved = repairs.way(self.cursor).map_or(0, |way| way.changes.len());
                        format!("{} moved", counted(moved, "color"))
                    }
                    Matter::Palettes => {
                        format!("the draft has and uses the palette '{}'", candidate.name)
                    }
                };
                if ws.change(Ok::<_, String>(candidate.doc.clone())) {
                    ws.tell(text);
                }
                vec![Do::Close]
            }
            Act::Leave => {
                ws.tell("left as it was");
                vec![Do::Close]
            }
            Act::BeforeAfter => {
                self.shows_before = !self.shows_before;
                Vec::new()
            }
            Act::Mark => {
                let here = Some(self.cursor);
                self.marked = if self.marked == here { None } else { here };
                Vec::new()
            }
            Act::Hold => {
                self.hold(ws);
                Vec::new()
            }
        }
    }

    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace) {
        let along = match &mut self.matter {
            Matter::Palettes => down + right,
            // The ways lie beside one another, the colors of one below each other.
            Matter::Repair(repairs) => {
                repairs.walk(self.cursor, down);
                right
            }
        };
        let to = self.cursor.saturating_add_signed(along);
        self.point(to, None, ws);
    }

    fn point(&mut self, row: usize, color: Option<usize>, ws: &mut Workspace) {
        if let (Matter::Repair(repairs), Some(color)) = (&mut self.matter, color) {
            repairs.point(self.cursor, color);
            return;
        }
        self.cursor = row.min(self.candidates.len() - 1);
        self.shows_before = false;
        ws.stage.stale = true;
    }

    fn dress(&self, _: &Workspace) -> Dress {
        let worn = |c: &Candidate| Worn {
            name: c.name.clone(),
            doc: c.doc.clone(),
            look: c.look.clone(),
        };
        let marked = self.marked.and_then(|m| self.candidates.get(m));
        let second = marked.map(worn);
        match self.shows_before {
            true => Dress {
                worn: None,
                title: Some("your draft, as it was".to_owned()),
                second,
            },
            false => Dress {
                worn: Some(worn(self.candidate())),
                title: Some(self.candidate().name.clone()),
                second,
            },
        }
    }
}

impl Proposal {
    /// One of drafts, none of which has been taken yet.
    fn of(title: impl Into<String>, candidates: Vec<Candidate>, matter: Matter) -> Self {
        Self {
            title: title.into(),
            candidates,
            cursor: 0,
            marked: None,
            shows_before: false,
            matter,
            source: None,
        }
    }

    /// The draft pointed at.
    pub fn candidate(&self) -> &Candidate {
        &self.candidates[self.cursor.min(self.candidates.len() - 1)]
    }
}

/// A draft, resolved and judged.
fn candidate(
    ws: &Workspace,
    name: &str,
    doc: SetupDoc,
    remarks: Vec<String>,
    command: String,
) -> Candidate {
    let look = Look::new(doc.setup());
    let all = ws.survey.pairs_of(doc.setup(), &look, &ws.conditions);
    Candidate {
        name: name.to_owned(),
        failing: all.iter().filter(|p| !p.fine()).count(),
        doc,
        look,
        remarks,
        command,
    }
}
