//! Repairs as proposals: one for each way to do it, and again with the colors that are held.

use wealdmist_core::look::Origin;
use wealdmist_core::repair::{Background, Repair, Scope, Wish};
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::text::{counted, visible};

use super::{Candidate, Matter, Proposal, candidate};
use crate::tui::bench::{Do, held};
use crate::tui::workspace::Workspace;
use crate::work::{lines, repair_of};

/// The share of what changes in sum below which another way to repair is shown beside.
const WORTH_A_LOOK: f64 = 0.7;

/// Repairs of the draft.
#[derive(Debug, Clone)]
pub struct Repairs {
    /// One for each way to do it.
    pub ways: Vec<Repair>,
    /// The wishes they were made for.
    pub wishes: Vec<Wish>,
    /// Which colors may move.
    scope: Scope,
    /// The colors that may not, for this time.
    pub held: Vec<Origin>,
    /// The one pointed at, among those that move and those that are held.
    pub pointed: usize,
}

impl Repairs {
    /// The way of a number.
    pub fn way(&self, number: usize) -> Option<&Repair> {
        self.ways.get(number)
    }

    /// The colors of a way in their order: those that move, then those that are held.
    pub fn colors(&self, way: usize) -> Vec<&Origin> {
        let moves = self.way(way).map(|w| w.changes.iter().map(|c| &c.origin));
        moves.into_iter().flatten().chain(&self.held).collect()
    }

    /// Goes to another color.
    pub fn walk(&mut self, way: usize, by: isize) {
        self.point(way, self.pointed.saturating_add_signed(by));
    }

    /// Goes to a color by its number.
    pub fn point(&mut self, way: usize, number: usize) {
        self.pointed = number.min(self.colors(way).len().saturating_sub(1));
    }
}

/// Proposes the smallest change that mends contrast, of one color or of the whole palette.
pub fn propose_repair<K, W>(ws: &mut Workspace, scope: &Scope) -> Vec<Do<K, W>> {
    match proposed(ws, scope, Vec::new()) {
        Ok(proposal) => vec![Do::Open(held(proposal))],
        Err(Nothing::Fine(text)) => {
            ws.tell(text);
            Vec::new()
        }
        Err(Nothing::Stuck(text)) => {
            ws.complain(text);
            Vec::new()
        }
    }
}

/// Why there is nothing to propose.
enum Nothing {
    /// Nothing is wrong.
    Fine(String),
    /// Nothing can be done.
    Stuck(String),
}

impl Proposal {
    /// Holds the color pointed at where it is, or lets it go, and repairs again.
    pub(super) fn hold(&mut self, ws: &mut Workspace) {
        let Matter::Repair(repairs) = &self.matter else {
            ws.tell("colors are held in a repair");
            return;
        };
        let colors = repairs.colors(self.cursor);
        let Some(color) = colors.get(repairs.pointed).map(|c| (*c).clone()) else {
            return;
        };
        let (mut held, scope) = (repairs.held.clone(), repairs.scope.clone());
        let before = held.len();
        held.retain(|h| *h != color);
        let is_held = held.len() == before;
        if is_held {
            held.push(color.clone());
        }
        let name = ws.name_of(&color);
        match proposed(ws, &scope, held) {
            Ok(mut new) => {
                if let Matter::Repair(repairs) = &mut new.matter {
                    let colors = repairs.colors(0);
                    let at = colors.iter().position(|c| **c == color);
                    repairs.pointed = at.unwrap_or(0);
                }
                *self = new;
                let what = if is_held {
                    "stays as it is"
                } else {
                    "may move again"
                };
                ws.tell(format!("{} {what}", visible(name.as_bytes())));
            }
            Err(Nothing::Fine(why) | Nothing::Stuck(why)) => {
                let name = visible(name.as_bytes());
                ws.complain(format!("with {name} held nothing can be done: {why}"));
            }
        }
    }
}

/// What can be done with some colors held.
fn proposed(ws: &Workspace, scope: &Scope, held: Vec<Origin>) -> Result<Proposal, Nothing> {
    let stuck = |text: String| Nothing::Stuck(text);
    let setup = ws.doc().setup();
    let names: Vec<String> = held.iter().map(|h| ws.name_of(h)).collect();
    let way = |background| {
        let pairs = &ws.derived.pairs;
        repair_of(setup, pairs, &ws.conditions, scope, background, &names)
    };
    let (done, wishes) = way(Background::IfNeeded);
    if done.changes.is_empty() {
        return Err(match done.obstacles.first() {
            Some(o) => {
                let wish = &wishes[o.wish];
                stuck(format!("{} on {}: {}", wish.text, wish.ground, o.why))
            }
            None => Nothing::Fine("every pair reaches its target: nothing to repair".to_owned()),
        });
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
    let docs: Vec<SetupDoc> = docs
        .collect::<Result<_, _>>()
        .map_err(|e| stuck(e.to_string()))?;
    let mut title = match scope {
        Scope::Palette => "repair of the whole palette".to_owned(),
        Scope::Color(origin) => format!("repair of {}", ws.name_of(origin)),
        Scope::Role(role) => format!("repair of {role}"),
    };
    if !held.is_empty() {
        title.push_str(&format!(", {} held", counted(held.len(), "color")));
    }
    let only = match scope {
        Scope::Palette => String::new(),
        Scope::Color(origin) => format!(" {}", lines::word(&ws.name_of(origin))),
        Scope::Role(role) => format!(" {role}"),
    };
    let holds: String = names
        .iter()
        .map(|name| format!(" --hold {}", lines::word(name)))
        .collect();
    let seen = lines::seen(&ws.conditions, ws.behind.as_deref());
    let candidates = ways.iter().zip(docs).enumerate().map(|(i, (way, doc))| {
        let ground = match (i, way.moves_background) {
            (0, _) => "",
            (_, true) => " --ground moves",
            (_, false) => " --ground stays",
        };
        let command = format!("wealdmist repair{only}{holds}{ground}{seen}");
        let name = match (ways.len(), way.moves_background) {
            (1, _) => "repaired",
            (_, true) => "repaired, the ground moves too",
            (_, false) => "repaired, the ground stays",
        };
        candidate(ws, name, doc, Vec::new(), command)
    });
    let candidates: Vec<Candidate> = candidates.collect();
    let repairs = Repairs {
        ways,
        wishes,
        scope: scope.clone(),
        held,
        pointed: 0,
    };
    Ok(Proposal::of(title, candidates, Matter::Repair(repairs)))
}

/// The pair that a wish is about.
pub(super) fn wish_label(wish: &Wish) -> String {
    format!("{} on {}", wish.text.label(), wish.ground.label())
}
