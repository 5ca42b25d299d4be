//! On which side of its grounds each color should be.
//!
//! A text may be lighter or darker than its ground. Which is better hangs on all its grounds, and for
//! a ground on all its texts, so it is looked for over all of them at once and apart from how far each
//! color goes in the end: every color that may move is looked at where it is and at some lightnesses
//! of its hue, with what each costs and which pairs could be read then. As the grounds are, each text
//! has a best place of its own; so a ground, or two that have texts in common, take the places that
//! are best once their texts have followed, one after the other until none has a better one. Grounds
//! that were told apart stay so.

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
    /// The places of each variable: where it is, then the others by what they cost.
    spots: Vec<OnceCell<Vec<Spot>>>,
    /// Which needs are a matter of each variable.
    needs_of: Vec<Vec<usize>>,
    /// For each need what was found out: whether it is met at two places.
    known: RefCell<Vec<Vec<u8>>>,
    /// The same for the distances of grounds, where it is asked for.
    crowded: RefCell<Vec<Vec<u8>>>,
    /// The place of each variable.
    pub(super) state: Vec<usize>,
    /// What is looked at together.
    groups: Vec<Group>,
}

/// What hangs on where a ground is, or on where two are.
#[derive(Default)]
struct Hanging {
    /// The texts, which take their best places by themselves.
    texts: Vec<usize>,
    /// The needs of the grounds without those of the texts.
    needs: Vec<usize>,
    /// The distances to other grounds.
    aparts: Vec<usize>,
}

/// What is near what: for each variable those it has a need with and its distances; and which are grounds of
/// texts that may move.
struct Near {
    of: Vec<Vec<usize>>,
    grounds: Vec<usize>,
    aparts: Vec<Vec<usize>>,
}

/// A ground, or two, with what hangs on each alone and on both.
struct Group {
    grounds: Vec<usize>,
    alone: Vec<Hanging>,
    both: Hanging,
}

impl Group {
    /// All that hangs on its grounds.
    fn hanging(&self) -> impl Iterator<Item = &Hanging> {
        self.alone.iter().chain([&self.both])
    }

    fn texts(&self) -> impl Iterator<Item = usize> {
        self.hanging().flat_map(|h| h.texts.iter().copied())
    }

    fn needs(&self) -> impl Iterator<Item = usize> {
        self.hanging().flat_map(|h| h.needs.iter().copied())
    }
}

/// Another way: what it costs more, the needs that change their side, and how far what moves goes.
pub(super) struct Way {
    pub(super) more: f64,
    pub(super) sides: Vec<(usize, bool)>,
    pub(super) moves: Vec<(usize, [f64; 2])>,
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
            groups: Vec::new(),
            known: RefCell::new(known),
            crowded: RefCell::new(vec![Vec::new(); model.aparts.len()]),
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
            out[1..].sort_by(|a, b| a.cost.total_cmp(&b.cost));
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

    /// Whether the first of two colors that must be apart is to be the lighter one: as they are placed where that is
    /// far enough, else as they were.
    pub(super) fn is_lighter(&self, apart: &Apart) -> bool {
        let l = |term: usize| self.glance(term, &self.state).lightness(apart.plain);
        let now = l(apart.one) - l(apart.other);
        if now.abs() >= apart.least {
            return now > 0.0;
        }
        let l = |term: usize| self.still[term].lightness(apart.plain);
        l(apart.one) >= l(apart.other)
    }

    /// How far each color is from where it was.
    pub(super) fn moves(&self) -> Moves {
        let all = self.state.iter().enumerate();
        all.map(|(v, place)| self.by(v, *place)).collect()
    }

    /// How far a place is from where the color was.
    fn by(&self, v: usize, place: usize) -> [f64; 2] {
        match place {
            0 => [0.0; 2],
            _ => self.spots(v)[place].by,
        }
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
        for (place, spot) in self.spots(v).iter().enumerate() {
            // What costs too much by itself need not be looked at, nor what is further away.
            if spot.cost >= best.0 {
                break;
            }
            state[v] = place;
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

    /// What a group costs where it is.
    fn whole(&self, group: &Group, state: &[usize]) -> f64 {
        let grounds = group.grounds.iter().map(|v| self.cost(*v, state));
        let hanging = group.hanging().map(|hanging| {
            let texts = hanging.texts.iter().map(|t| self.around(*t, state));
            self.of_grounds(hanging, state) + texts.sum::<f64>()
        });
        grounds.sum::<f64>() + hanging.sum::<f64>()
    }

    /// What hangs on grounds costs where they are, without the texts.
    fn of_grounds(&self, hanging: &Hanging, state: &[usize]) -> f64 {
        let crowded = hanging
            .aparts
            .iter()
            .filter(|a| self.is_crowded(**a, state));
        self.unmet(hanging.needs.iter().copied(), state) + LOST * crowded.count() as f64
    }

    /// Whether two grounds are nearer to one another than they may be, one of them having moved.
    fn is_crowded(&self, apart: usize, state: &[usize]) -> bool {
        let a = &self.model.aparts[apart];
        let place = |t: usize| self.own[t].map_or(0, |v| state[v]);
        let (one, other) = (place(a.one), place(a.other));
        if one == 0 && other == 0 {
            return false;
        }
        let across = self.own[a.other].map_or(1, |_| PLACES);
        let mut crowded = self.crowded.borrow_mut();
        let known = &mut crowded[apart];
        if known.is_empty() {
            known.resize(self.own[a.one].map_or(1, |_| PLACES) * across, 0);
        }
        let known = &mut known[one * across + other];
        if *known == 0 {
            let (one, other) = (self.glance(a.one, state), self.glance(a.other, state));
            let far = Model::distance_at_least(a.plain, one, other) >= a.least
                || Model::distance(a.plain, one, other) >= a.least;
            *known = 1 + u8::from(!far);
        }
        *known == 2
    }

    /// What hangs on grounds costs where they are once the texts have followed; these are left there. Once it is
    /// too much, no further.
    fn once_followed(&self, hanging: &Hanging, state: &mut [usize], most: f64) -> f64 {
        let mut total = self.of_grounds(hanging, state);
        for text in &hanging.texts {
            if total >= most {
                break;
            }
            let (cost, place) = self.best(*text, state);
            state[*text] = place;
            total += cost;
        }
        total
    }

    /// For each place of a ground of a group what it costs there, with what hangs on it alone.
    fn costs_alone(&self, group: &Group, i: usize, state: &[usize], most: f64) -> Vec<f64> {
        let mut there = state.to_vec();
        let spots = self.spots(group.grounds[i]).iter().enumerate();
        let costs = spots.map(|(place, spot)| {
            if spot.cost >= most {
                return spot.cost;
            }
            there[group.grounds[i]] = place;
            spot.cost + self.once_followed(&group.alone[i], &mut there, most - spot.cost)
        });
        costs.collect()
    }

    /// The best places of a group, if there are better ones than now.
    fn best_together(&self, group: &Group, state: &[usize]) -> Option<Vec<usize>> {
        let now = self.whole(group, state);
        let costs: Vec<Vec<f64>> = (0..group.grounds.len())
            .map(|i| self.costs_alone(group, i, state, now))
            .collect();
        let mut best = (now - 1e-9, None);
        let others = costs.get(1).map_or(&[0.0][..], |costs| costs);
        let least = others.iter().copied().fold(f64::MAX, f64::min);
        let mut there = state.to_vec();
        for (i, one) in costs[0].iter().enumerate() {
            if one + least >= best.0 {
                continue;
            }
            there[group.grounds[0]] = i;
            for (j, other) in others.iter().enumerate() {
                let alone = one + other;
                if alone >= best.0 {
                    continue;
                }
                if let Some(other) = group.grounds.get(1) {
                    there[*other] = j;
                }
                let cost = alone + self.once_followed(&group.both, &mut there, best.0 - alone);
                if cost < best.0 {
                    best = (cost, Some([i, j]));
                }
            }
        }
        let places = best.1?;
        let mut there = state.to_vec();
        for (v, place) in group.grounds.iter().zip(places) {
            there[*v] = place;
        }
        for hanging in group.hanging() {
            self.once_followed(hanging, &mut there, f64::MAX);
        }
        Some(there)
    }

    /// What hangs on one of some grounds, or on two of them.
    fn hanging(&self, on: &[usize], not_on: &[usize], near: &Near) -> Hanging {
        let mut texts = near.of[on[0]].clone();
        texts.retain(|v| {
            let is_on = |g: &usize| near.of[*g].binary_search(v).is_ok();
            !near.grounds.contains(v) && on.iter().all(is_on) && !not_on.iter().any(is_on)
        });
        // Whether something with these ends is a matter of these grounds, not of others of the group nor of texts.
        let is_about = |ends: [usize; 2]| {
            let ends = ends.map(|term| self.own[term]);
            let stays = |v: usize| near.grounds.contains(&v) || self.term_of[v].is_none();
            on.iter().all(|g| ends.contains(&Some(*g)))
                && !not_on.iter().any(|g| ends.contains(&Some(*g)))
                && ends.into_iter().flatten().all(stays)
        };
        let needs = self.needs_of[on[0]].iter().copied().filter(|n| {
            let need = &self.model.needs[*n];
            is_about([need.text, need.ground])
        });
        let aparts = near.aparts[on[0]].iter().copied().filter(|a| {
            let apart = &self.model.aparts[*a];
            is_about([apart.one, apart.other])
        });
        Hanging {
            texts,
            needs: needs.collect(),
            aparts: aparts.collect(),
        }
    }

    /// What is near what.
    fn near(&self) -> Near {
        let needs = self.model.needs.iter();
        let both = needs.filter_map(|n| Some((self.own[n.text]?, self.own[n.ground]?)));
        let mut grounds: Vec<usize> = both.filter(|(t, g)| t != g).map(|both| both.1).collect();
        grounds.sort_unstable();
        grounds.dedup();
        let mut aparts = vec![Vec::new(); self.term_of.len()];
        for (i, apart) in self.model.aparts.iter().enumerate() {
            for v in [apart.one, apart.other].iter().filter_map(|t| self.own[*t]) {
                aparts[v].push(i);
            }
        }
        Near {
            of: (0..self.term_of.len())
                .map(|v| self.neighbours(v))
                .collect(),
            grounds,
            aparts,
        }
    }

    /// The grounds by themselves, and in twos that have a text together or are on one another.
    fn groups(&self) -> Vec<Group> {
        let near = self.near();
        let single = near.grounds.iter().map(|v| Group {
            grounds: vec![*v],
            alone: vec![self.hanging(&[*v], &[], &near)],
            both: Hanging::default(),
        });
        let mut out: Vec<Group> = single.collect();
        for (i, one) in near.grounds.iter().enumerate() {
            for other in &near.grounds[i + 1..] {
                let both = self.hanging(&[*one, *other], &[], &near);
                if !both.texts.is_empty() || !both.needs.is_empty() {
                    out.push(Group {
                        grounds: vec![*one, *other],
                        alone: vec![
                            self.hanging(&[*one], &[*other], &near),
                            self.hanging(&[*other], &[*one], &near),
                        ],
                        both,
                    });
                }
            }
        }
        out
    }

    /// What the costs of a group hang on.
    fn beside(&self, group: &Group) -> Vec<usize> {
        let own = group.texts().chain(group.grounds.iter().copied());
        let own: Vec<usize> = own.collect();
        let aparts = group.hanging().flat_map(|h| &h.aparts);
        let ends = aparts.flat_map(|a| {
            let apart = &self.model.aparts[*a];
            [self.own[apart.one], self.own[apart.other]]
        });
        let near = own.iter().flat_map(|v| self.neighbours(*v));
        let mut out: Vec<usize> = near.chain(ends.flatten()).collect();
        out.extend(own);
        out.sort_unstable();
        out.dedup();
        out
    }

    /// Lets every color take its best place until none has a better one: texts by themselves, grounds with the
    /// texts on them.
    pub(super) fn settle(&mut self) {
        let mut state = std::mem::take(&mut self.state);
        self.groups = self.groups();
        let mut texts: Vec<usize> = (0..self.term_of.len())
            .filter(|v| self.term_of[*v].is_some())
            .collect();
        texts.retain(|v| !self.groups.iter().any(|g| g.grounds.contains(v)));
        for text in texts {
            state[text] = self.best(text, &mut state).1;
        }
        // Where nothing near a group has moved since it was looked at, nothing better is there.
        let near: Vec<Vec<usize>> = self.groups.iter().map(|g| self.beside(g)).collect();
        let mut moved_at = vec![1; state.len()];
        let mut looked_at = vec![0; self.groups.len()];
        let mut now = 1;
        for _ in 0..SWEEPS {
            let begun = now;
            for (i, group) in self.groups.iter().enumerate() {
                if near[i].iter().all(|v| moved_at[*v] <= looked_at[i]) {
                    continue;
                }
                looked_at[i] = now;
                if self.whole(group, &state) > 0.0
                    && let Some(there) = self.best_together(group, &state)
                {
                    now += 1;
                    for v in (0..state.len()).filter(|v| state[*v] != there[*v]) {
                        moved_at[v] = now;
                    }
                    looked_at[i] = now;
                    state = there;
                }
            }
            if now == begun {
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

    /// Other ways: where a color goes to another side, with the texts on it if it is a ground; the cheapest
    /// first.
    pub(super) fn other_ways(&self) -> Vec<Way> {
        let mut out = Vec::new();
        let mut alone: Vec<Group> = (0..self.term_of.len())
            .filter(|v| self.term_of[*v].is_some())
            .map(|v| Group {
                grounds: vec![v],
                alone: vec![Hanging {
                    needs: self.needs_of[v].clone(),
                    ..Hanging::default()
                }],
                both: Hanging::default(),
            })
            .collect();
        alone.retain(|g| !self.groups.iter().any(|other| other.grounds == g.grounds));
        let single = self.groups.iter().filter(|g| g.grounds.len() == 1);
        for group in alone.iter().chain(single) {
            let v = group.grounds[0];
            let now = self.whole(group, &self.state);
            if now == 0.0 {
                continue;
            }
            let texts = group.texts().flat_map(|t| self.needs_of[t].iter().copied());
            let mut needs: Vec<usize> = texts.chain(group.needs()).collect();
            needs.sort_unstable();
            needs.dedup();
            let sides = |state: &[usize]| -> Vec<bool> {
                needs.iter().map(|n| self.lighter(*n, state)).collect()
            };
            let mine = sides(&self.state);
            let mut found: Vec<(f64, Vec<bool>, Vec<usize>)> = Vec::new();
            for place in 0..self.spots(v).len() {
                let mut there = self.state.clone();
                there[v] = place;
                let followed = self.once_followed(&group.alone[0], &mut there, f64::MAX);
                let more = self.cost(v, &there) + followed - now;
                let theirs = sides(&there);
                if theirs == mine || more >= LOST / 2.0 {
                    continue;
                }
                match found.iter_mut().find(|(_, sides, _)| *sides == theirs) {
                    Some((least, _, state)) if more < *least => (*least, *state) = (more, there),
                    Some(_) => {}
                    None => found.push((more, theirs, there)),
                }
            }
            out.extend(found.into_iter().map(|(more, sides, there)| {
                let all = needs.iter().zip(sides).zip(&mine);
                let changed = all.filter(|((_, side), mine)| side != *mine);
                let touched = group.texts().chain([v]);
                let gone = touched.filter(|v| there[*v] != self.state[*v]);
                Way {
                    more,
                    sides: changed.map(|((n, side), _)| (*n, side)).collect(),
                    moves: gone.map(|v| (v, self.by(v, there[v]))).collect(),
                }
            }));
        }
        out.sort_by(|a, b| a.more.total_cmp(&b.more));
        out
    }
}
