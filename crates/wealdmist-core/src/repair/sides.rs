//! On which side of its grounds each color should be.
//!
//! A text may be lighter or darker than its ground. Which is better hangs on all its grounds, and for
//! a ground on all its texts, so it is looked for over all of them at once and apart from how far each
//! color goes in the end: every color that may move is looked at where it is and at some lightnesses
//! of its hue, with what each costs and which pairs could be read then. One color after the other
//! takes the place that is best as the others are; a ground takes the one that is best once its texts
//! have followed.

use std::cell::{OnceCell, RefCell};

use super::model::{Apart, Glance, Model, Moves};
use crate::color::Oklab;

/// How many lightnesses of a color are looked at beside its own.
const LEVELS: usize = 22;
/// How many places of a ground are looked at beside, where white or black can just be read on it.
const EDGES: usize = 6;
/// The most places of a color.
const PLACES: usize = 1 + LEVELS + EDGES;
/// What it costs where a pair can no longer be read that could.
const LOST: f64 = 1e6;
/// What it costs where a pair cannot be read.
const UNMET: f64 = 1e3;
/// What is added to the logarithm of a target where it is just reached.
const SURE: f64 = 0.005;
/// How often all colors are gone through.
const SWEEPS: usize = 6;

/// A place of a color: what it costs to be there, and how it looks.
struct Spot {
    cost: f64,
    glance: Glance,
    /// How far it is from where the color was.
    by: [f64; 2],
}

/// Where every color is looked at, and what comes of it.
pub(super) struct Landscape<'a, 'b> {
    model: &'a Model<'b>,
    /// The variable of each term's own, where it may move.
    own: Vec<Option<usize>>,
    /// How each term looks at first.
    still: Vec<Glance>,
    /// A term of each variable's that a need is about; `None` where it may not move.
    term_of: Vec<Option<usize>>,
    /// The places of each variable, the first being where it is.
    spots: Vec<OnceCell<Vec<Spot>>>,
    /// Which needs are a matter of each variable.
    needs_of: Vec<Vec<usize>>,
    /// For each need what was found out: whether it is met at two places.
    known: RefCell<Vec<Vec<u8>>>,
    /// The place of each variable.
    pub(super) state: Vec<usize>,
}

impl<'a, 'b> Landscape<'a, 'b> {
    pub(super) fn new(model: &'a Model<'b>, free: &[bool]) -> Self {
        let moves = vec![[0.0; 2]; model.vars.len()];
        let own: Vec<_> = model
            .terms
            .iter()
            .map(|t| t.own().filter(|v| free[*v]))
            .collect();
        let still: Vec<Glance> = (0..own.len()).map(|t| model.glance(t, &moves)).collect();
        let mut needs_of = vec![Vec::new(); model.vars.len()];
        for (i, need) in model.needs.iter().enumerate() {
            for v in [own[need.text], own[need.ground]].into_iter().flatten() {
                if needs_of[v].last() != Some(&i) {
                    needs_of[v].push(i);
                }
            }
        }
        let mut term_of = vec![None; model.vars.len()];
        for (t, v) in own.iter().enumerate() {
            if let Some(v) = v.filter(|v| !needs_of[*v].is_empty()) {
                term_of[v].get_or_insert(t);
            }
        }
        let places = |t: usize| own[t].map_or(1, |_| PLACES);
        let known = model
            .needs
            .iter()
            .map(|n| vec![0; places(n.text) * places(n.ground)])
            .collect();
        Self {
            model,
            state: vec![0; model.vars.len()],
            known: RefCell::new(known),
            spots: term_of.iter().map(|_| OnceCell::new()).collect(),
            term_of,
            needs_of,
            own,
            still,
        }
    }

    /// The places of a variable.
    fn spots(&self, v: usize) -> &[Spot] {
        self.spots[v].get_or_init(|| {
            let Some(term) = self.term_of[v] else {
                return Vec::new();
            };
            let mut out = vec![Spot {
                cost: 0.0,
                glance: self.still[term].clone(),
                by: [0.0; 2],
            }];
            out.extend((0..LEVELS).map(|k| self.spot(v, k as f64 / (LEVELS - 1) as f64)));
            let edges = self.edges(v, &out[1..]);
            out.extend(edges.into_iter().map(|l| self.spot(v, l)));
            out
        })
    }

    /// A color at a lightness of its hue.
    fn spot(&self, v: usize, l: f64) -> Spot {
        let (model, var) = (self.model, &self.model.vars[v]);
        let there = model.moved(v, [l - var.base.l, 0.0]);
        let (dl, dc) = (there[0] - var.base.l, there[1] - var.base.c);
        Spot {
            cost: var.weight * (dl * dl + dc * dc),
            glance: model.glance_of(model.at(v, there)),
            by: [dl, dc],
        }
    }

    /// The lightnesses of a ground at which texts that may move can just be read where they are white, or black:
    /// between the two, which may be near one another, both can.
    fn edges(&self, v: usize, levels: &[Spot]) -> Vec<f64> {
        let model = self.model;
        let mut known: Vec<(f64, f64, bool, bool)> = Vec::new();
        let mut out = Vec::new();
        for need in self.needs_of[v].iter().map(|n| &model.needs[*n]) {
            let moves = self.own[need.text].is_some_and(|text| text != v);
            let left = model.conditions_of(need).left(&need.sight);
            let kind = (need.target, left, need.through, need.plain);
            if self.own[need.ground] != Some(v) || !moves || known.contains(&kind) {
                continue;
            }
            known.push(kind);
            for lighter in [true, false] {
                let c = if lighter { 1.0 } else { 0.0 };
                let text = model.glance_of(Oklab {
                    l: c,
                    a: 0.0,
                    b: 0.0,
                });
                let least = need.target.ln() + SURE;
                let over = |spot: &Spot| model.gap(need, lighter, &text, &spot.glance) - least;
                // The last level on which it can be read, going away from its own end.
                let at = |k: usize| if lighter { k } else { LEVELS - 1 - k };
                let can = (0..LEVELS).collect::<Vec<_>>();
                let can = can.partition_point(|k| over(&levels[at(*k)]) >= 0.0);
                if can == 0 || can == LEVELS {
                    continue;
                }
                let l = |k: usize| at(k) as f64 / (LEVELS - 1) as f64;
                let (mut good, mut bad) = (l(can - 1), l(can));
                for _ in 0..5 {
                    let middle = f64::midpoint(good, bad);
                    match over(&self.spot(v, middle)) >= 0.0 {
                        true => good = middle,
                        false => bad = middle,
                    }
                }
                if out.len() < EDGES {
                    out.push(good);
                }
            }
        }
        out
    }

    /// How a term looks where its color is at a place.
    fn glance(&self, term: usize, state: &[usize]) -> &Glance {
        match self.own[term] {
            Some(v) if state[v] > 0 => &self.spots(v)[state[v]].glance,
            _ => &self.still[term],
        }
    }

    /// Whether the first of two colors was no darker than the other.
    pub(super) fn is_lighter(&self, apart: &Apart) -> bool {
        let l = |term: usize| self.still[term].lightness(apart.plain);
        l(apart.one) >= l(apart.other)
    }

    /// How far each color is from where it was.
    pub(super) fn moves(&self) -> Moves {
        let far = |(v, place): (usize, &usize)| match place {
            0 => [0.0; 2],
            _ => self.spots(v)[*place].by,
        };
        self.state.iter().enumerate().map(far).collect()
    }

    /// How many needs are not met where the colors are.
    pub(super) fn unmet_count(&self) -> usize {
        (0..self.model.needs.len())
            .filter(|n| !self.is_met(*n))
            .count()
    }

    /// Whether a need is met where the colors are.
    pub(super) fn is_met(&self, need: usize) -> bool {
        self.met(need, &self.state)
    }

    fn met(&self, need: usize, state: &[usize]) -> bool {
        let n = &self.model.needs[need];
        let place = |t: usize| self.own[t].map_or(0, |v| state[v]);
        let across = self.own[n.ground].map_or(1, |_| PLACES);
        let at = place(n.text) * across + place(n.ground);
        let known = self.known.borrow()[need][at];
        if known > 0 {
            return known == 2;
        }
        let met = if at == 0 {
            n.before >= n.target
        } else {
            let (text, ground) = (self.glance(n.text, state), self.glance(n.ground, state));
            let least = n.target.ln();
            let gap = |lighter| self.model.gap(n, lighter, text, ground) >= least;
            gap(true) || gap(false)
        };
        self.known.borrow_mut()[need][at] = 1 + u8::from(met);
        met
    }

    /// What it costs that needs are not met.
    fn unmet(&self, needs: impl Iterator<Item = usize>, state: &[usize]) -> f64 {
        let costs = needs.filter(|n| !self.met(*n, state)).map(|n| {
            let need = &self.model.needs[n];
            match need.before >= need.target {
                true => LOST,
                false => UNMET,
            }
        });
        costs.sum()
    }

    /// What a variable costs where it is.
    fn cost(&self, v: usize, state: &[usize]) -> f64 {
        match state[v] {
            0 => 0.0,
            place => self.spots(v)[place].cost,
        }
    }

    /// What a variable and its needs cost.
    fn around(&self, v: usize, state: &[usize]) -> f64 {
        let needs = self.needs_of[v].iter().copied();
        self.cost(v, state) + self.unmet(needs, state)
    }

    /// The best place of a variable as the others are: what it costs, and which.
    fn best(&self, v: usize, state: &mut [usize]) -> (f64, usize) {
        let now = state[v];
        let mut best = (self.around(v, state), now);
        for place in 0..self.spots(v).len() {
            state[v] = place;
            // What costs too much by itself need not be looked at.
            if self.cost(v, state) >= best.0 {
                continue;
            }
            let cost = self.around(v, state);
            if cost < best.0 - 1e-12 {
                best = (cost, place);
            }
        }
        state[v] = now;
        best
    }

    /// The variables that have a need together with one.
    fn neighbours(&self, v: usize) -> Vec<usize> {
        let needs = self.needs_of[v].iter().map(|n| &self.model.needs[*n]);
        let all = needs.flat_map(|n| [self.own[n.text], self.own[n.ground]]);
        let mut out: Vec<usize> = all.flatten().filter(|other| *other != v).collect();
        out.sort_unstable();
        out.dedup();
        out
    }

    /// What a variable costs at a place once those around it have followed; they are left there. Once it
    /// is too much, no further.
    fn once_followed(&self, v: usize, around: &[usize], state: &mut [usize], most: f64) -> f64 {
        let mut total = self.cost(v, state);
        let fixed = self.needs_of[v].iter().copied().filter(|n| {
            let need = &self.model.needs[*n];
            let moves = |t: usize| self.own[t].is_some_and(|other| other != v);
            !moves(need.text) && !moves(need.ground)
        });
        total += self.unmet(fixed, state);
        for other in around {
            if total >= most {
                break;
            }
            let (cost, place) = self.best(*other, state);
            state[*other] = place;
            total += cost;
        }
        total
    }

    /// Lets every color take its best place until none has a better one.
    pub(super) fn settle(&mut self) {
        let movable: Vec<usize> = (0..self.term_of.len())
            .filter(|v| self.term_of[*v].is_some())
            .collect();
        let mut is_ground = vec![0; self.term_of.len()];
        for need in &self.model.needs {
            if let Some(v) = self.own[need.ground] {
                is_ground[v] += 1;
            }
        }
        let mut state = std::mem::take(&mut self.state);
        for _ in 0..SWEEPS {
            let mut moved = false;
            for v in &movable {
                let needs = || self.needs_of[*v].iter().copied();
                if self.unmet(needs(), &state) == 0.0 && state[*v] == 0 {
                    continue;
                }
                let place = self.best(*v, &mut state).1;
                moved |= place != state[*v];
                state[*v] = place;
                if is_ground[*v] < 2 || self.unmet(needs(), &state) == 0.0 {
                    continue;
                }
                let around = self.neighbours(*v);
                let whole = |state: &[usize]| {
                    let all = around.iter().map(|other| self.around(*other, state));
                    let own = self.cost(*v, state);
                    own + all.sum::<f64>()
                };
                let mut best = (whole(&state), None);
                for place in 0..self.spots(*v).len() {
                    let mut there = state.clone();
                    there[*v] = place;
                    let cost = self.once_followed(*v, &around, &mut there, best.0);
                    if cost < best.0 - 1e-9 {
                        best = (cost, Some(there));
                    }
                }
                if let Some(there) = best.1 {
                    state = there;
                    moved = true;
                }
            }
            if !moved {
                break;
            }
        }
        self.state = state;
    }

    /// Whether the text of a need is lighter than its ground where they are.
    fn lighter(&self, need: usize, state: &[usize]) -> bool {
        let n = &self.model.needs[need];
        let (text, ground) = (self.glance(n.text, state), self.glance(n.ground, state));
        self.model.gap(n, true, text, ground) >= self.model.gap(n, false, text, ground)
    }

    /// For each need whether its text is to be the lighter one.
    pub(super) fn sides(&self) -> Vec<bool> {
        let needs = 0..self.model.needs.len();
        needs.map(|n| self.lighter(n, &self.state)).collect()
    }

    /// Other ways: for a variable the needs that change their side where it goes to another side, with
    /// what that costs more; the cheapest first.
    pub(super) fn other_ways(&self) -> Vec<(f64, Vec<(usize, bool)>)> {
        let mut out = Vec::new();
        let mut state = self.state.clone();
        for v in 0..self.term_of.len() {
            let needs = &self.needs_of[v];
            if self.term_of[v].is_none() || (state[v] == 0 && self.around(v, &state) == 0.0) {
                continue;
            }
            let now = self.state[v];
            let cost = self.around(v, &state);
            let sides = |state: &[usize]| -> Vec<bool> {
                needs.iter().map(|n| self.lighter(*n, state)).collect()
            };
            let mine = sides(&state);
            let mut found: Vec<(f64, Vec<bool>)> = Vec::new();
            for place in 0..self.spots(v).len() {
                state[v] = place;
                let theirs = sides(&state);
                let more = self.around(v, &state) - cost;
                if theirs == mine || more >= LOST / 2.0 {
                    continue;
                }
                match found.iter_mut().find(|(_, sides)| *sides == theirs) {
                    Some((least, _)) => *least = least.min(more),
                    None => found.push((more, theirs)),
                }
            }
            state[v] = now;
            out.extend(found.into_iter().map(|(more, sides)| {
                let all = needs.iter().zip(sides).zip(&mine);
                let changed = all.filter(|((_, side), mine)| side != *mine);
                (more, changed.map(|((n, side), _)| (*n, side)).collect())
            }));
        }
        out.sort_by(|a: &(f64, Vec<(usize, bool)>), b| a.0.total_cmp(&b.0));
        out
    }
}
