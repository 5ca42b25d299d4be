//! Repair: the smallest change of colors that lets every pair meet its target.
//!
//! One color, the text of one pair, or the whole palette at once. Hues are kept; lightness and
//! chroma move. The change is measured over everything that is drawn: for every pair, the squares
//! of the distances its two colors move in OKLab. So a ground on which sixty texts stand moves
//! sixty times less readily than a text that is drawn once. Locked colors do not move, no pair
//! that met its target before falls below it, and the 16 colors do not become more alike.

mod model;
mod solve;

use crate::color::{Rgb, difference, oklab_distance};
use crate::condition::Conditions;
use crate::look::{Look, Origin};
use crate::pair::{Pair, pairs};
use crate::reading::ToolReport;
use crate::role::{ROLES, RoleId, Usage};
use crate::setup::{EditError, Expr, Palette, PaletteName, Setup, SetupDoc};

use model::{Model, Moves, Need, Term};
use solve::Solver;

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

/// Repairs.
#[must_use]
pub fn repair(request: &Request) -> Repair {
    let model = Model::new(request);
    let free = free_variables(&model, request.scope);
    let any = free.iter().any(|f| *f);
    let moves = if any {
        Solver::new(&model, &free).solve()
    } else {
        vec![[0.0; 2]; model.vars.len()]
    };
    outcome(request, &model, &free, &moves)
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

fn outcome(request: &Request, model: &Model, free: &[bool], moves: &Moves) -> Repair {
    let still = vec![[0.0; 2]; model.vars.len()];
    let (before, after) = (model.all_written(&still), model.all_written(moves));
    let mut changes = Vec::new();
    let mut total = 0.0;
    for (i, var) in model.vars.iter().enumerate() {
        let to = match &var.origin {
            Origin::Role(role) if var.is_shift => {
                let Some(term) = model.term_named(role) else {
                    continue;
                };
                let drawn = model.written(term, moves);
                // A mix that only follows what it mixes is not written down, unless it must stay.
                let stays = var.locked && drawn_by_mix(request, role, model, moves) != var.from;
                if moves[i] == [0.0; 2] && !stays {
                    continue;
                }
                drawn
            }
            _ => model.written(&Term::Var(i), moves),
        };
        total += var.weight * oklab_distance(var.from, to).powi(2);
        // A role that leaves its mix is written down even where it ends as it was.
        if to != var.from || var.is_shift {
            changes.push(Change {
                origin: var.origin.clone(),
                from: var.from,
                to,
                difference: difference(var.from, to),
            });
        }
    }
    changes.sort_by(|a, b| b.difference.total_cmp(&a.difference));
    let outcomes: Vec<Outcome> = model
        .need_of
        .iter()
        .zip(request.wishes)
        .map(|(n, wish)| {
            let need = &model.needs[*n];
            let after = model.ratio(need, &after);
            Outcome {
                before: model.ratio(need, &before),
                after,
                met: after >= wish.target,
            }
        })
        .collect();
    let scoped = scoped(model, request.scope);
    let whole = *request.scope == Scope::Palette;
    let in_scope = |need: &Need| whole || need.variables.iter().any(|v| scoped[*v]);
    let obstacles = outcomes
        .iter()
        .enumerate()
        .filter(|(i, o)| !o.met && in_scope(&model.needs[model.need_of[*i]]))
        .map(|(i, _)| Obstacle {
            wish: i,
            why: obstacle(request, model, free, model.need_of[i], moves),
        })
        .collect();
    Repair {
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

/// Why a need is not met.
fn obstacle(request: &Request, model: &Model, free: &[bool], need: usize, moves: &Moves) -> String {
    let wanted = &model.needs[need];
    let name = |i: usize| match &model.vars[i].origin {
        Origin::Slot(slot) => slot.key().to_owned(),
        Origin::Named(name) => name.clone(),
        Origin::Role(role) => role.to_string(),
    };
    let movable: Vec<usize> = wanted
        .variables
        .iter()
        .copied()
        .filter(|v| free[*v])
        .collect();
    if movable.is_empty() {
        let locked: Vec<String> = wanted
            .variables
            .iter()
            .filter(|v| model.vars[**v].locked)
            .map(|v| name(*v))
            .collect();
        return match locked.as_slice() {
            [] => "none of its colors may move here".to_owned(),
            names => format!("locked: {}", names.join(", ")),
        };
    }
    // Alone, with nothing else to mind, could it be met?
    let alone = Request {
        wishes: &[
            request.wishes[model.need_of.iter().position(|n| *n == need).unwrap_or(0)].clone(),
        ],
        meanings: false,
        ..*request
    };
    let lone = Model::new(&alone);
    let lone_free = free_variables(&lone, request.scope);
    let alone_moves = Solver::new(&lone, &lone_free).solve();
    let met = lone
        .needs
        .first()
        .is_some_and(|n| lone.ratio(n, &lone.all_written(&alone_moves)) >= n.target);
    if !met {
        let names: Vec<String> = movable.iter().map(|v| name(*v)).collect();
        return format!(
            "{} alone cannot reach {}:1 at any lightness",
            names.join(" and "),
            wanted.target
        );
    }
    // Which need holds the colors back? The tightest one that shares a color.
    let colors = model.all_written(moves);
    let tight = |n: &Need| model.ratio(n, &colors) / n.target;
    let rival = model
        .needs
        .iter()
        .enumerate()
        .filter(|(i, n)| *i != need && n.variables.iter().any(|v| movable.contains(v)))
        .filter(|(_, n)| model.ratio(n, &colors) >= n.target)
        .min_by(|a, b| tight(a.1).total_cmp(&tight(b.1)));
    match rival {
        Some((i, n)) => {
            let wish = &request.wishes[model.need_of.iter().position(|x| *x == i).unwrap_or(0)];
            format!(
                "{} on {} would fall below its {}:1",
                wish.text, wish.ground, n.target
            )
        }
        None => "two of the 16 colors would become too alike".to_owned(),
    }
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
    });
    let carried_out = done.carried_out(doc, &setup.active);
    carried_out.unwrap_or_else(|_| doc.clone())
}

#[cfg(test)]
mod tests;
