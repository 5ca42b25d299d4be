//! Proposals: drafts that are shown before they are taken. A repair, palettes that were made,
//! imported or found in a folder; walked through with the specimen changing at each step, two at
//! a time if wanted, and taken or left. Nothing is changed until one is taken.

mod make;
mod view;
mod ways;

use std::borrow::Cow;

use crossterm::event::KeyCode::{Char, Enter, Esc};
use wealdmist_core::look::Look;
use wealdmist_core::repair::{Background, Repair, Scope, Wish};
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::text::counted;

use super::{Bench, Do, Nothing, Reply, held};
use crate::tui::keys::{Key, also, hint};
use crate::tui::stage::{Dress, Worn};
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::{lines, repair_of};

use make::Source;
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
    /// Repairs of the draft, one for each way to do it, with the wishes they were made for.
    Repair(Vec<Repair>, Vec<Wish>),
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
}

const KEYS: &[Key<Act>] = &[
    hint(Enter, Act::Take, "Enter", "take it"),
    hint(Esc, Act::Leave, "Esc", "leave it"),
    also(Char('q'), Act::Leave),
    hint(Char('b'), Act::BeforeAfter, "b", "before / after"),
    hint(Char(' '), Act::Mark, "Space", "keep beside to compare"),
    also(Char('u'), Act::Leave),
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
                    Matter::Repair(ways, _) => {
                        let moved = ways.get(self.cursor).map_or(0, |way| way.changes.len());
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
        }
    }

    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace) {
        let to = self.cursor.saturating_add_signed(down + right);
        self.point(to, None, ws);
    }

    fn point(&mut self, row: usize, _: Option<usize>, ws: &mut Workspace) {
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

/// The share of what changes in sum below which another way to repair is shown beside.
const WORTH_A_LOOK: f64 = 0.7;

/// Proposes the smallest change that mends contrast, of one color or of the whole palette.
pub fn propose_repair<K, W>(ws: &mut Workspace, scope: &Scope) -> Vec<Do<K, W>> {
    let setup = ws.doc().setup();
    let way = |background| repair_of(setup, &ws.derived.pairs, &ws.conditions, scope, background);
    let (done, wanted) = way(Background::IfNeeded);
    if done.changes.is_empty() {
        match done.obstacles.first() {
            Some(o) => {
                let wish = &wanted[o.wish];
                let text = format!("{} on {}: {}", wish.text, wish.ground, o.why);
                ws.complain(text);
            }
            None => ws.tell("every pair reaches its target: nothing to repair"),
        }
        return Vec::new();
    }
    // Another way, where the terminal's own ground does the other thing and something comes of it.
    let other = match (scope, done.moves_background) {
        (Scope::Palette, true) => Some(way(Background::Stays).0),
        (Scope::Palette, false) => {
            let other = way(Background::Moves).0;
            let is_less = other.obstacles.len() < done.obstacles.len()
                || (other.obstacles.len() == done.obstacles.len()
                    && other.total < WORTH_A_LOOK * done.total);
            Some(other).filter(|other| other.moves_background && is_less)
        }
        _ => None,
    };
    let ways: Vec<Repair> = [done].into_iter().chain(other).collect();
    let docs = ways
        .iter()
        .map(|way| way.carried_out(&ws.survey.doc, &setup.active));
    let docs = match docs.collect::<Result<Vec<SetupDoc>, _>>() {
        Ok(docs) => docs,
        Err(error) => {
            ws.complain(error.to_string());
            return Vec::new();
        }
    };
    let title = match scope {
        Scope::Palette => "repair of the whole palette".to_owned(),
        Scope::Color(origin) => format!("repair of {}", ws.name_of(origin)),
        Scope::Role(role) => format!("repair of {role}"),
    };
    let only = match scope {
        Scope::Palette => String::new(),
        Scope::Color(origin) => format!(" {}", lines::word(&ws.name_of(origin))),
        Scope::Role(role) => format!(" {role}"),
    };
    let seen = lines::seen(&ws.conditions, ws.behind.as_deref());
    let candidates = ways.iter().zip(docs).enumerate().map(|(i, (way, doc))| {
        let ground = match (i, way.moves_background) {
            (0, _) => "",
            (_, true) => " --ground moves",
            (_, false) => " --ground stays",
        };
        let command = format!("wealdmist repair{only}{ground}{seen}");
        let name = match (ways.len(), way.moves_background) {
            (1, _) => "repaired",
            (_, true) => "repaired, the ground moves too",
            (_, false) => "repaired, the ground stays",
        };
        candidate(ws, name, doc, Vec::new(), command)
    });
    let candidates = candidates.collect();
    let matter = Matter::Repair(ways, wanted);
    vec![Do::Open(held(Proposal::of(title, candidates, matter)))]
}

/// The roles whose color the wishes of a repair concern.
fn wish_label(wish: &Wish) -> String {
    format!("{} on {}", wish.text.label(), wish.ground.label())
}
