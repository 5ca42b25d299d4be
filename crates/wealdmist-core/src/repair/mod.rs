//! Repair: the smallest change of colors that lets every pair meet its target.
//!
//! One color, the text of one pair, or the whole palette at once. Hues are kept; lightness and
//! chroma move. The change is measured over everything that is drawn: for every pair, the squares
//! of the distances its two colors move in OKLab. So a ground on which sixty texts stand moves
//! sixty times less readily than a text that is drawn once. Locked colors do not move, and the
//! terminal's own ground moves only where more can be read by that. No pair that met its target
//! before falls below it, also as it is seen without the conditions asked for, and neither two of
//! the 16 colors nor two grounds become more alike than they were.
//!
//! A repair is whole: another one after it moves nothing. Where a pair cannot be met, that is said
//! with the demands that contradict it.

mod conflict;
mod luminances;
mod model;
mod program;
mod round;
mod seen;
mod sides;
mod solve;
mod step;

use crate::color::{Rgb, Rounding, difference, oklab_distance};
use crate::condition::{Behind, Conditions, Sight};
use crate::look::{Look, Origin};
use crate::pair::{Pair, pairs};
use crate::reading::ToolReport;
use crate::role::{ROLES, RoleId, Slot, Usage};
use crate::setup::{EditError, Expr, Palette, PaletteName, Setup, SetupDoc};

use luminances::Proofs;
use model::{Model, Moves, Need, Term};
use solve::{Searched, Solver, solve};

/// A pair that should be readable.
#[derive(Debug, Clone, PartialEq)]
pub struct Wish {
    /// The text's role.
    pub text: RoleId,
    /// The ground's role.
    pub ground: RoleId,
    /// The ratio it needs, 1–21.
    pub target: f64,
    /// How much of the text's color the tool leaves, 0–1.
    pub fade: f64,
    /// How the tool takes colors where there are 256.
    pub rounding: Rounding,
}

/// The wishes of the pairs that are drawn: those with a target and without an exception.
#[must_use]
pub fn wishes(pairs: &[Pair]) -> Vec<Wish> {
    let wanted = pairs
        .iter()
        .filter(|p| p.exception.is_none() && !p.by_itself && p.target > 1.0);
    wanted
        .map(|p| Wish {
            text: p.text.clone(),
            ground: p.ground.clone(),
            target: p.target,
            fade: p.fade,
            rounding: p.rounding,
        })
        .collect()
}

/// The wishes of all known roles on the grounds they usually have, whatever tools are there.
#[must_use]
pub fn usual_wishes(setup: &Setup) -> Vec<Wish> {
    let texts = ROLES.iter().filter(|k| k.usage != Usage::Decoration);
    texts
        .map(|k| {
            let text = RoleId::known(k.id);
            Wish {
                target: setup.contrast.target(&text, k.usage),
                text,
                ground: RoleId::known(k.on),
                fade: 1.0,
                rounding: Rounding::Nearest,
            }
        })
        .collect()
}

/// Which colors may move.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Scope {
    /// All that are not locked.
    Palette,
    /// One color.
    Color(Origin),
    /// The color of one role's text, and if it only mixes others, that mix.
    Role(RoleId),
}

/// What is to be repaired.
#[derive(Debug, Clone, Copy)]
pub struct Request<'a> {
    /// The setup.
    pub setup: &'a Setup,
    /// The palette of it that is repaired.
    pub palette: &'a Palette,
    /// What should be readable.
    pub wishes: &'a [Wish],
    /// What it is seen through.
    pub conditions: &'a Conditions,
    /// Which colors may move.
    pub scope: &'a Scope,
    /// Whether error and success and the like should be told apart, too.
    pub meanings: bool,
    /// Whether the terminal's own ground may move.
    pub background: Background,
}

/// Whether the terminal's own ground may move where the whole palette does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Background {
    /// Only where more pairs are met by that.
    #[default]
    IfNeeded,
    /// Never.
    Stays,
    /// As any other color, so that less changes in sum.
    Moves,
}

/// A color that moved.
#[derive(Debug, Clone, PartialEq)]
pub struct Change {
    /// Where it is set.
    pub origin: Origin,
    /// What it was.
    pub from: Rgb,
    /// What it is to be.
    pub to: Rgb,
    /// How different they look, as the CIEDE2000 difference.
    pub difference: f64,
}

/// A wish before and after.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Outcome {
    /// The ratio before.
    pub before: f64,
    /// The ratio after.
    pub after: f64,
    /// Whether the target is met after.
    pub met: bool,
}

/// A wish that could not be met.
#[derive(Debug, Clone, PartialEq)]
pub struct Obstacle {
    /// Its position among the wishes.
    pub wish: usize,
    /// What stands in the way.
    pub why: String,
}

/// A repair.
#[derive(Debug, Clone, PartialEq)]
pub struct Repair {
    /// The colors that moved, the most moved first.
    pub changes: Vec<Change>,
    /// Each wish's outcome, in their order.
    pub outcomes: Vec<Outcome>,
    /// What could not be met, and why.
    pub obstacles: Vec<Obstacle>,
    /// Over every pair, the squares of its colors' moves in OKLab.
    pub total: f64,
    /// Whether the terminal's own ground moves.
    pub moves_background: bool,
}

impl Repair {
    /// How many wishes were below their target before.
    #[must_use]
    pub fn failing_before(&self, wishes: &[Wish]) -> usize {
        let all = self.outcomes.iter().zip(wishes);
        all.filter(|(o, w)| o.before < w.target).count()
    }

    /// The sum of the CIEDE2000 differences of all colors that moved.
    #[must_use]
    pub fn sum_of_differences(&self) -> f64 {
        self.changes.iter().map(|c| c.difference).sum()
    }

    /// The setup file with the changes carried out in a palette.
    ///
    /// # Errors
    /// When the file cannot take one of them.
    pub fn carried_out(
        &self,
        doc: &SetupDoc,
        palette: &PaletteName,
    ) -> Result<SetupDoc, EditError> {
        let mut out = doc.clone();
        for change in &self.changes {
            out = match &change.origin {
                Origin::Slot(slot) => out.with_slot(palette, *slot, change.to)?,
                Origin::Named(name) => out.with_named(palette, name, change.to)?,
                Origin::Role(role) => out.with_role(role, &Expr::Value(change.to))?,
            };
        }
        Ok(out)
    }
}

/// For how many pairs that are not met the distances in the way are looked for.
const TRIED: usize = 3;
/// How often a repair is gone on with from where it has come to.
const PASSES: usize = 16;

/// How often colors behind the ground at which pairs turn out to be worst are taken up.
const LOOKS: usize = 4;

/// Repairs.
#[must_use]
pub fn repair(request: &Request) -> Repair {
    // Of an image a few colors are looked at; that of a place where a pair is still worse joins them.
    let mut seen = request.conditions.clone();
    for _ in 0..LOOKS {
        let looked = Request {
            conditions: &seen,
            ..*request
        };
        let done = repaired(&looked);
        if !matches!(seen.behind, Behind::Image(_)) || seen.opacity >= 1.0 {
            return done;
        }
        let (setup, palette) = with_changes(request, done.changes.iter());
        let look = Look::with_palette(&setup, &palette);
        let unmet = request.wishes.iter().zip(&done.outcomes);
        let sights = unmet.filter(|(_, o)| !o.met).map(|(wish, _)| Sight {
            text: look.color(&wish.text),
            ground: look.color(&wish.ground),
            fade: wish.fade,
            in_pane: wish.text.stands_in_pane(),
            rounding: wish.rounding,
        });
        let more = seen.with_worst(sights, &look);
        if more == seen {
            return done;
        }
        seen = more;
    }
    repaired(&Request {
        conditions: &seen,
        ..*request
    })
}

fn repaired(request: &Request) -> Repair {
    use Background::{IfNeeded, Moves, Stays};
    let first = Model::new(request, request.conditions);
    let begun = State {
        setup: request.setup.clone(),
        palette: request.palette.clone(),
        changes: Vec::new(),
        last: None,
        passes: 0,
    };
    let mut done = begun.clone();
    let mut known = Known::default();
    match request.background {
        Stays => done.go_on(request, &first, &[Stays], &mut known),
        Moves => done.go_on(request, &first, &[Moves], &mut known),
        IfNeeded => {
            done.go_on(request, &first, &[Stays], &mut known);
            if done.has_unmet(request, &first) {
                let mut other = begun;
                other.go_on(request, &first, &[IfNeeded], &mut known);
                if other.met(&first) > done.met(&first) {
                    done = other;
                }
                done.go_on(request, &first, &[Stays, IfNeeded], &mut known);
            }
        }
    }
    outcome(
        request,
        &first,
        done.last.as_ref().unwrap_or(&first),
        done.changes,
    )
}

/// What was searched for, by the changes it began with: from one place always the same is found.
#[derive(Default)]
struct Known(Vec<(Vec<(Origin, Rgb)>, Searched)>);

impl Known {
    /// What was found from a place.
    fn at(&mut self, changes: &[Change]) -> &mut Searched {
        let is_here = |place: &[(Origin, Rgb)]| {
            let mut each = place.iter().zip(changes);
            place.len() == changes.len() && each.all(|(p, c)| p.0 == c.origin && p.1 == c.to)
        };
        let i = self.0.iter().position(|(place, _)| is_here(place));
        let i = i.unwrap_or_else(|| {
            let place = changes.iter().map(|c| (c.origin.clone(), c.to));
            self.0.push((place.collect(), Searched::new()));
            self.0.len() - 1
        });
        &mut self.0[i].1
    }
}

/// How far a repair has come.
#[derive(Clone)]
struct State<'a> {
    setup: Setup,
    palette: Palette,
    changes: Vec<Change>,
    /// The model of where it is; `None` at the start.
    last: Option<Model<'a>>,
    passes: usize,
}

impl<'a> State<'a> {
    fn model<'m>(&'m self, first: &'m Model<'a>) -> &'m Model<'a> {
        self.last.as_ref().unwrap_or(first)
    }

    /// Whether something that may move could still be asked for more.
    fn has_unmet(&self, request: &Request, first: &Model<'a>) -> bool {
        let model = self.model(first);
        let free = free_variables(model, request.scope);
        let still = vec![[0.0; 2]; model.vars.len()];
        Solver::new(model, &free).has_unmet(&model.all_written(&still))
    }

    /// How many demands are met.
    fn met(&self, first: &Model<'a>) -> usize {
        let model = self.model(first);
        let still = vec![[0.0; 2]; model.vars.len()];
        Solver::new(model, &[]).met(&model.all_written(&still))
    }

    /// Goes on until nothing is won any more: the first of the ways that brings more.
    fn go_on(
        &mut self,
        request: &Request<'a>,
        first: &Model<'a>,
        ways: &[Background],
        known: &mut Known,
    ) {
        loop {
            let model = self.last.as_ref().unwrap_or(first);
            let mut more = ways.iter().filter(|_| self.passes < PASSES);
            let searched = known.at(&self.changes);
            if let Some(moves) = more.find_map(|way| pass(request, model, *way, searched)) {
                let so_far = Request {
                    setup: &self.setup,
                    palette: &self.palette,
                    ..*request
                };
                for change in moved(&so_far, model, &moves) {
                    match self.changes.iter_mut().find(|c| c.origin == change.origin) {
                        Some(there) => there.to = change.to,
                        None => self.changes.push(change),
                    }
                }
                self.passes += 1;
                (self.setup, self.palette) = with_changes(request, self.changes.iter());
                self.last = Some(modelled(request, &self.setup, &self.palette));
            } else {
                let doubtful = doubtful(first, &self.changes, self.passes);
                if !take_back(request, first, &mut self.last, &mut self.changes, doubtful) {
                    break;
                }
                (self.setup, self.palette) = with_changes(request, self.changes.iter());
            }
        }
    }
}

/// The moves that bring more than there is; `None` where nothing does.
fn pass(
    request: &Request,
    model: &Model,
    background: Background,
    searched: &mut Searched,
) -> Option<Moves> {
    let still = vec![[0.0; 2]; model.vars.len()];
    let free = free_variables(model, request.scope);
    let solver = Solver::new(model, &free);
    let colors = model.all_written(&still);
    if !solver.has_unmet(&colors) {
        return None;
    }
    let moves = solve(model, &free, background, searched)?;
    // What brings nothing more is left: who repairs again finds the same.
    (solver.met(&model.all_written(&moves)) > solver.met(&colors)).then_some(moves)
}

/// The setup and palette with changes carried out.
fn with_changes<'c>(
    request: &Request,
    changes: impl Iterator<Item = &'c Change>,
) -> (Setup, Palette) {
    let (mut setup, mut palette) = (request.setup.clone(), request.palette.clone());
    for change in changes {
        match &change.origin {
            Origin::Slot(slot) => {
                palette.slots.insert(*slot, change.to);
            }
            Origin::Named(name) => {
                let there = palette.colors.iter_mut().find(|(n, _)| n == name);
                there.into_iter().for_each(|(_, color)| *color = change.to);
            }
            Origin::Role(role) => {
                let style = setup.roles.entry(role.clone()).or_default();
                style.color = Some(Expr::Value(change.to));
            }
        }
    }
    (setup, palette)
}

/// The model of a setup that a repair has come to.
fn modelled<'a>(request: &Request<'a>, setup: &Setup, palette: &Palette) -> Model<'a> {
    let so_far = Request {
        setup,
        palette,
        ..*request
    };
    Model::new(&so_far, request.conditions)
}

/// The changes that may have become needless: all where a later pass changed more, else those of colors
/// that a mix followed before it got a value of its own.
fn doubtful(first: &Model, changes: &[Change], passes: usize) -> Vec<Origin> {
    let mut followed = Vec::new();
    for change in changes {
        if let Origin::Role(role) = &change.origin
            && let Some(Term::Shift(inner, _)) = first.term_named(role)
        {
            inner.variables(&mut followed);
        }
    }
    let followed: Vec<&Origin> = followed.iter().map(|v| &first.vars[*v].origin).collect();
    let all = changes.iter().rev().map(|c| &c.origin);
    all.filter(|o| passes > 1 || followed.contains(o))
        .cloned()
        .collect()
}

/// Leaves out changes that others have made needless; whether there were any.
fn take_back<'a>(
    request: &Request<'a>,
    first: &Model,
    last: &mut Option<Model<'a>>,
    changes: &mut Vec<Change>,
    doubtful: Vec<Origin>,
) -> bool {
    let before = changes.len();
    for origin in doubtful {
        let Some(now) = last.as_ref() else { break };
        let rest = changes.iter().filter(|c| c.origin != origin);
        let (setup, palette) = with_changes(request, rest);
        let without = modelled(request, &setup, &palette);
        let met = |model: &Model, wish: usize| {
            let need = &model.needs[model.need_of[wish]];
            need.before >= need.target
        };
        let mut wishes = 0..request.wishes.len();
        let none_lost = wishes.all(|w| met(&without, w) || !met(now, w));
        let (held, still) = (now.holds(first), without.holds(first));
        if none_lost && held.iter().zip(&still).all(|(a, b)| *b || !*a) {
            changes.retain(|c| c.origin != origin);
            *last = Some(without);
        }
    }
    changes.len() < before
}

/// Which variables a scope speaks of, locked or not.
fn scoped(model: &Model, scope: &Scope) -> Vec<bool> {
    let in_scope = |i: usize| match scope {
        Scope::Palette => true,
        Scope::Color(origin) => model.vars[i].origin == *origin,
        Scope::Role(role) => match model.term_named(role) {
            Some(Term::Var(v) | Term::Shift(_, v)) => *v == i,
            _ => false,
        },
    };
    (0..model.vars.len()).map(in_scope).collect()
}

fn free_variables(model: &Model, scope: &Scope) -> Vec<bool> {
    let scoped = scoped(model, scope);
    let free = scoped.iter().zip(&model.vars).map(|(s, v)| *s && !v.locked);
    free.collect()
}

/// The colors that moves change.
fn moved(request: &Request, model: &Model, moves: &Moves) -> Vec<Change> {
    let mut out = Vec::new();
    let change = |origin: &Origin, from, to| Change {
        origin: origin.clone(),
        from,
        to,
        difference: difference(from, to),
    };
    for (i, var) in model.vars.iter().enumerate() {
        let to = match &var.origin {
            Origin::Role(role) if var.is_shift => {
                let Some(term) = model.term_named(role) else {
                    continue;
                };
                // A mix that only follows what it mixes is not written down, unless it must stay.
                let stays = var.locked && drawn_by_mix(request, role, model, moves) != var.from;
                if moves[i] == [0.0; 2] && !stays {
                    continue;
                }
                model.written(term, moves)
            }
            _ => model.written(&Term::Var(i), moves),
        };
        // A role that leaves its mix is written down even where it ends as it was.
        if to != var.from || var.is_shift {
            out.push(change(&var.origin, var.from, to));
        }
    }
    out
}

/// What has come of it, as the setup is now.
fn outcome(request: &Request, first: &Model, last: &Model, mut changes: Vec<Change>) -> Repair {
    for change in &mut changes {
        change.difference = difference(change.from, change.to);
    }
    let weight = |c: &Change| first.vars.iter().find(|v| v.origin == c.origin);
    let total = changes
        .iter()
        .map(|c| weight(c).map_or(1.0, |v| v.weight) * oklab_distance(c.from, c.to).powi(2))
        .sum();
    changes.sort_by(|a, b| b.difference.total_cmp(&a.difference));
    let outcomes: Vec<Outcome> = request
        .wishes
        .iter()
        .enumerate()
        .map(|(i, wish)| {
            let after = last.needs[last.need_of[i]].before;
            Outcome {
                before: first.needs[first.need_of[i]].before,
                after,
                met: after >= wish.target,
            }
        })
        .collect();
    let scoped = scoped(last, request.scope);
    let mut free = free_variables(last, request.scope);
    // A ground that was to stay is one of the reasons.
    if let (Background::Stays, Some(ground)) = (request.background, last.background()) {
        free[ground] = false;
    }
    let whole = *request.scope == Scope::Palette;
    let in_scope = |need: &Need| whole || need.variables.iter().any(|v| scoped[*v]);
    let unmet = outcomes.iter().enumerate().filter(|(_, o)| !o.met);
    let unmet = unmet.filter(|(i, _)| in_scope(&last.needs[last.need_of[*i]]));
    // Trying takes long where much is unmet; the first show what it is about.
    let proofs = Proofs::new(last, &free);
    let why = |(i, (wish, _))| Obstacle {
        wish,
        why: conflict::why(request, &proofs, last.need_of[wish], i < TRIED),
    };
    let obstacles = unmet.enumerate().map(why).collect();
    let is_background = |c: &Change| c.origin == Origin::Slot(Slot::Background) && c.from != c.to;
    Repair {
        moves_background: changes.iter().any(is_background),
        changes,
        outcomes,
        obstacles,
        total,
    }
}

/// What a role's mix comes to when its parts have moved and it is not held.
fn drawn_by_mix(request: &Request, role: &RoleId, model: &Model, moves: &Moves) -> Rgb {
    let slots = model.slots(&model.all_written(moves));
    let mut palette = request.palette.clone();
    for slot in crate::role::Slot::ALL {
        palette.slots.insert(slot, slots.get(slot));
    }
    crate::look::Look::with_palette(request.setup, &palette).color(role)
}

/// A setup with the palette in use repaired for the pairs that its tools draw, as far as that goes.
#[must_use]
pub fn readable(doc: &SetupDoc, reports: &[ToolReport]) -> SetupDoc {
    let setup = doc.setup();
    let conditions = Conditions::default();
    let drawn = pairs(setup, &Look::new(setup), reports, &conditions);
    let wishes = wishes(&drawn);
    let done = repair(&Request {
        setup,
        palette: setup.palette(),
        wishes: &wishes,
        conditions: &conditions,
        scope: &Scope::Palette,
        meanings: false,
        background: Background::IfNeeded,
    });
    let carried_out = done.carried_out(doc, &setup.active);
    carried_out.unwrap_or_else(|_| doc.clone())
}

#[cfg(test)]
mod tests;
