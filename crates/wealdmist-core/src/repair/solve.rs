//! The search for the smallest change.
//!
//! Each need says that the logarithm of a ratio reaches that of its target, each distance that a
//! CIEDE2000 difference is kept. Both are nearly linear in lightness and chroma over the steps
//! that matter, so the least weighted sum of squares is found by a short sequence of quadratic
//! programs (`program`), with steps that only go as far as they help (`step`). What rounding to 8 bits
//! or to 256 colors takes away is looked for around what was found (`round`); what is short even then
//! is added to the demand, and the programs are solved again. Nothing is random: the same setup gives
//! the same answer.

use std::cell::OnceCell;

use super::Background;
use super::luminances::{Together, together};
use super::model::{Apart, Colors, Model, Moves, Need};
use super::round::Rounded;
use super::sides::Landscape;

/// Rounds of linearising and solving.
const ROUNDS: usize = 7;
/// Rounds of asking for more where fewer colors took it away.
const MARGINS: usize = 8;
/// How often a part of the demands is given up to save the rest.
const SACRIFICES: usize = 5;
/// How many changes of side (light text made dark, or the reverse) are tried.
const FLIPS: usize = 3;
/// How often colors that are held back by others get these beside them.
const WIDENINGS: usize = 5;
/// How many needs that were given up are asked for again, each by itself.
const SECOND_TRIES: usize = 4;
/// The move in OKLab that nobody sees between flat areas.
const UNSEEN: f64 = 0.012;

/// The distance two colors must keep, given that at first.
fn kept_apart(apart: &Apart, first: f64) -> f64 {
    apart.least.min(first - 1e-9)
}

/// One state of the search.
#[derive(Clone)]
pub(super) struct Demands {
    /// Which needs are pursued.
    pub(super) needs: Vec<bool>,
    /// Whether each need's text is to be lighter than its ground.
    pub(super) lighter: Vec<bool>,
    /// What is asked of each need beyond its target, in logarithms.
    pub(super) margins: Vec<f64>,
    /// What is asked of each distance beyond its least.
    pub(super) extra: Vec<f64>,
    /// Whether the first of two colors that must part goes to the lighter side.
    pub(super) sides: Vec<bool>,
}

impl Demands {
    /// Asks for no more than there is to be.
    fn forget(&mut self) {
        self.margins.fill(0.0);
        self.extra.fill(0.0);
    }
}

/// An attempt: where everything went, how many demands are not met, and what it cost.
struct Attempt {
    moves: Moves,
    unmet: Vec<usize>,
    /// The distances that are not kept.
    closer: Vec<usize>,
    cost: f64,
    /// The colors held still that would move if they were let.
    wants: Vec<usize>,
}

impl Attempt {
    /// What makes one attempt better than another: less undone, then less changed.
    fn score(&self) -> (usize, f64) {
        (self.unmet.len() + self.closer.len(), self.cost)
    }
}

/// A need or a distance, by its number.
#[derive(Clone, Copy)]
enum Demand {
    Need(usize),
    Apart(usize),
}

/// How things stood at first: which needs were met, and the distances.
struct First {
    pub(super) needs: Vec<bool>,
    aparts: Vec<f64>,
}

/// What was found from one place before, by what was free.
pub(super) type Searched = Vec<(Vec<bool>, Moves)>;

/// The moves that meet the most demands, and of those the least; `None` where nothing may move. With the
/// background only where more can be read by that, if that is asked for.
pub(super) fn solve(
    model: &Model,
    free: &[bool],
    background: Background,
    searched: &mut Searched,
) -> Option<Moves> {
    let mut search = |free: &[bool]| {
        if let Some((_, moves)) = searched.iter().find(|(known, _)| known == free) {
            return Some(moves.clone());
        }
        free.contains(&true).then(|| {
            let moves = Solver::new(model, free).search();
            searched.push((free.to_vec(), moves.clone()));
            moves
        })
    };
    let mut rest = free.to_vec();
    let ground = model.background().filter(|v| free[*v]);
    let Some(ground) = ground.filter(|_| background != Background::Moves) else {
        return search(free);
    };
    rest[ground] = false;
    let kept = search(&rest);
    if background == Background::Stays {
        return kept;
    }
    let still = vec![[0.0; 2]; model.vars.len()];
    let colors = model.all_written(kept.as_ref().unwrap_or(&still));
    // Where the ground takes the best place of all, too, nothing more might be read.
    let solver = Solver::new(model, free);
    let unmet = |n: &&Need| !n.plain && model.ratio(n, &colors) < n.target;
    let mut aparts = model.aparts.iter();
    let distances = aparts.all(|a| model.is_apart(a, &colors, a.least));
    let unmet = model.needs.iter().filter(unmet).count();
    if distances && solver.land().unmet_count() >= unmet {
        return kept;
    }
    let moved = search(free)?;
    match solver.met(&model.all_written(&moved)) > solver.met(&colors) {
        true => Some(moved),
        false => kept,
    }
}

pub(super) struct Solver<'a, 'b> {
    pub(super) model: &'a Model<'b>,
    pub(super) free: &'a [bool],
    first: OnceCell<First>,
}

/// The part of a model that moves: some of the free colors, and what hangs on them.
pub(super) struct Scene {
    pub(super) active: Vec<usize>,
    pub(super) is_active: Vec<bool>,
    pub(super) terms: Vec<usize>,
    pub(super) needs: Vec<usize>,
    pub(super) aparts: Vec<usize>,
}

impl Scene {
    fn of(model: &Model, active: Vec<usize>) -> Self {
        let mut out = Self {
            is_active: vec![false; model.vars.len()],
            active,
            terms: Vec::new(),
            needs: Vec::new(),
            aparts: Vec::new(),
        };
        out.active.sort_unstable();
        out.active.dedup();
        for v in &out.active {
            let hangs = &model.hangs[*v];
            out.is_active[*v] = true;
            out.terms.extend(&hangs.terms);
            out.needs.extend(&hangs.needs);
            out.aparts.extend(&hangs.aparts);
        }
        for all in [&mut out.terms, &mut out.needs, &mut out.aparts] {
            all.sort_unstable();
            all.dedup();
        }
        out
    }
}

impl<'a, 'b> Solver<'a, 'b> {
    pub(super) fn new(model: &'a Model<'b>, free: &'a [bool]) -> Self {
        Self {
            model,
            free,
            first: OnceCell::new(),
        }
    }

    /// How things stood at first.
    fn first(&self) -> &First {
        self.first.get_or_init(|| {
            let model = self.model;
            let colors = model.all_written(&vec![[0.0; 2]; model.vars.len()]);
            let aparts = model.aparts.iter().map(|a| model.apart(a, &colors));
            First {
                needs: model.needs.iter().map(|n| n.before >= n.target).collect(),
                aparts: aparts.collect(),
            }
        })
    }

    /// The moves that meet as many demands as can be met together, at the least cost found.
    pub(super) fn search(&self) -> Moves {
        let model = self.model;
        let land = self.land();
        let mut demands = Demands {
            // What finds no place among these is asked for last, and by itself.
            needs: (0..model.needs.len()).map(|n| land.is_met(n)).collect(),
            lighter: land.sides(),
            margins: vec![0.0; model.needs.len()],
            extra: vec![0.0; model.aparts.len()],
            sides: model.aparts.iter().map(|a| land.is_lighter(a)).collect(),
        };
        // First those that something is asked of; then those that are held back by others, with these.
        let unmet = model.needs.iter().zip(&self.first().needs);
        let unmet = unmet.filter(|(_, met)| !**met).map(|(n, _)| &n.variables);
        let near = model.aparts.iter().zip(&self.first().aparts);
        let near = near.filter(|(a, first)| **first < a.least);
        let near = near.map(|(a, _)| &a.variables);
        let mut active: Vec<usize> = unmet.chain(near).flatten().copied().collect();
        active.extend((0..model.vars.len()).filter(|v| land.state[*v] != 0));
        active.retain(|v| self.free[*v]);
        let mut scene = Scene::of(model, active);
        let mut best = self.attempt(&scene, &mut demands, &land.moves());
        for _ in 0..WIDENINGS {
            if best.wants.is_empty() {
                break;
            }
            scene = Scene::of(model, [&scene.active[..], &best.wants].concat());
            demands.forget();
            best = self.attempt(&scene, &mut demands, &best.moves);
        }
        let mut tried = 0;
        for way in land.other_ways() {
            // What costs more where nothing else is minded is worth a try where something is unmet.
            let helps = way.sides.iter().any(|(n, _)| best.unmet.contains(n));
            if tried == FLIPS || (!helps && way.more > 0.1 * best.cost) {
                continue;
            }
            tried += 1;
            let mut other = demands.clone();
            for (need, lighter) in way.sides {
                other.lighter[need] = lighter;
            }
            other.forget();
            let mut start = best.moves.clone();
            for (v, by) in &way.moves {
                start[*v] = *by;
            }
            let attempt = self.attempt(&scene, &mut other, &start);
            if attempt.score() < best.score() {
                (best, demands) = (attempt, other);
            }
        }
        self.give_up(&mut scene, &mut demands, &mut best);
        self.ask_again(&mut scene, &mut demands, &mut best);
        let mut moves = self.without_what_nobody_sees(&scene, best, &demands);
        self.keep_what_was_met(&mut moves);
        self.take_back_what_is_not_needed(&mut moves);
        moves
    }

    /// Where the colors would best be, looked at roughly.
    fn land(&self) -> Landscape<'a, 'b> {
        let mut land = Landscape::new(self.model, self.free);
        land.settle();
        land
    }

    /// How many demands are met: needs as they are asked for, and distances.
    pub(super) fn met(&self, colors: &Colors) -> usize {
        let model = self.model;
        let needs = model.needs.iter().filter(|n| !n.plain);
        let needs = needs.filter(|n| model.ratio(n, colors) >= n.target).count();
        let enough = |a: &&Apart| model.is_apart(a, colors, a.least);
        needs + model.aparts.iter().filter(enough).count()
    }

    /// Whether a demand that may be met is not.
    pub(super) fn has_unmet(&self, colors: &Colors) -> bool {
        let model = self.model;
        let touches = |variables: &[usize]| variables.iter().any(|v| self.free[*v]);
        let needs = model.needs.iter().filter(|n| touches(&n.variables));
        let aparts = model.aparts.iter().filter(|a| touches(&a.variables));
        needs.into_iter().any(|n| model.ratio(n, colors) < n.target)
            || aparts
                .into_iter()
                .any(|a| !model.is_apart(a, colors, a.least))
    }

    /// Gives up what cannot be met together with the rest.
    fn give_up(&self, scene: &mut Scene, demands: &mut Demands, best: &mut Attempt) {
        let model = self.model;
        for _ in 0..SACRIFICES {
            if best.unmet.is_empty() && best.closer.is_empty() {
                break;
            }
            let colors = model.all_written(&best.moves);
            let shortfall = |i: &usize| {
                let need = &model.needs[*i];
                need.target / model.ratio(need, &colors)
            };
            // What was met before is held to longest; of the rest what is furthest from its
            // target goes first, half of it at a time.
            let mut worst = best.unmet.clone();
            if worst.is_empty() {
                // What asks for moves that bring colors too near to one another.
                let crowd = best.closer.iter().flat_map(|i| &model.aparts[*i].variables);
                let crowd: Vec<usize> = crowd.copied().collect();
                let asks = |i: &usize| {
                    let need = &model.needs[*i];
                    let is_asked = demands.needs[*i] && !self.first().needs[*i];
                    is_asked && need.variables.iter().any(|v| crowd.contains(v))
                };
                worst = (0..model.needs.len()).filter(asks).collect();
            }
            worst.sort_by(|a, b| {
                self.first().needs[*a]
                    .cmp(&self.first().needs[*b])
                    .then(shortfall(b).total_cmp(&shortfall(a)))
            });
            worst.truncate(worst.len().div_ceil(2));
            for i in &worst {
                demands.needs[*i] = false;
            }
            demands.forget();
            *best = self.attempt(scene, demands, &best.moves);
            if !best.wants.is_empty() {
                *scene = Scene::of(model, [&scene.active[..], &best.wants].concat());
            }
        }
    }

    /// Asks for each need that was given up by itself, the nearest to its target first.
    fn ask_again(&self, scene: &mut Scene, demands: &mut Demands, best: &mut Attempt) {
        let model = self.model;
        let colors = model.all_written(&best.moves);
        let ratio = |i: &usize| {
            let need = &model.needs[*i];
            model.ratio(need, &colors) / need.target
        };
        let touched = |i: &usize| model.needs[*i].variables.iter().any(|v| self.free[*v]);
        let given_up = (0..demands.needs.len()).filter(|i| !demands.needs[*i]);
        let mut given_up: Vec<usize> = given_up.filter(touched).collect();
        given_up.sort_by(|a, b| ratio(b).total_cmp(&ratio(a)));
        let mut tries = 0;
        for need in given_up {
            let mut other = demands.clone();
            other.needs[need] = true;
            other.forget();
            let colors = model.all_written(&best.moves);
            let is_met = model.ratio(&model.needs[need], &colors) >= model.needs[need].target;
            if is_met {
                *demands = other;
                continue;
            }
            let all: Vec<usize> = (0..other.needs.len()).filter(|i| other.needs[*i]).collect();
            match together(model, self.free, &all, &other.lighter) {
                Together::Never => continue,
                Together::So(lighter) => {
                    for (need, lighter) in all.iter().zip(lighter) {
                        other.lighter[*need] = lighter;
                    }
                }
                Together::Unknown => {}
            }
            if tries == SECOND_TRIES {
                break;
            }
            tries += 1;
            let own = model.needs[need].variables.iter().copied();
            let own = own.filter(|v| self.free[*v]);
            let active = scene.active.iter().copied().chain(own).collect();
            let mut wider = Scene::of(model, active);
            let mut attempt = self.attempt(&wider, &mut other, &best.moves);
            if !attempt.wants.is_empty() && !attempt.unmet.is_empty() {
                wider = Scene::of(model, [&wider.active[..], &attempt.wants].concat());
                other.forget();
                attempt = self.attempt(&wider, &mut other, &best.moves);
            }
            let as_good = attempt.unmet.len() <= best.unmet.len();
            if as_good && attempt.closer.len() <= best.closer.len() {
                (*best, *demands, *scene) = (attempt, other, wider);
            }
        }
    }

    /// The moves with those colors held still that would hardly move: a file is not rewritten for
    /// a difference nobody sees, if the others can do without at little cost.
    fn without_what_nobody_sees(&self, scene: &Scene, best: Attempt, demands: &Demands) -> Moves {
        let model = self.model;
        let mut kept = best;
        let mut active = scene.active.clone();
        for _ in 0..3 {
            let small = |v: &usize| {
                let far = kept.moves[*v][0].hypot(kept.moves[*v][1]);
                far > 0.0 && far < UNSEEN
            };
            if !active.iter().any(small) {
                break;
            }
            let mut start = kept.moves.clone();
            for v in active.iter().filter(|v| small(v)) {
                start[*v] = [0.0; 2];
            }
            active.retain(|v| !small(v));
            let mut demands = demands.clone();
            demands.forget();
            let attempt = self.attempt(&Scene::of(model, active.clone()), &mut demands, &start);
            let met = |moves: &Moves| self.met(&model.all_written(moves));
            if met(&attempt.moves) < met(&kept.moves) || attempt.cost > kept.cost * 1.6 {
                break;
            }
            kept = attempt;
        }
        kept.moves
    }

    /// Solves from where the moves are, and asks for more where rounding takes it away.
    fn attempt(&self, scene: &Scene, demands: &mut Demands, start: &Moves) -> Attempt {
        let model = self.model;
        let mut moves = start.clone();
        let mut colors = model.all_written(&moves);
        let (mut unmet, mut closer, mut wants) = (Vec::new(), Vec::new(), Vec::new());
        let mut last = f64::MAX;
        for round in 0..MARGINS {
            let before = unmet.len();
            let rounds = if round == 0 { ROUNDS } else { ROUNDS / 2 };
            let is_stuck;
            (wants, is_stuck) = self.approach(scene, demands, rounds, &mut moves);
            for term in &scene.terms {
                colors.set(*term, model.written(&model.terms[*term], &moves));
            }
            let about = (&scene.needs[..], &scene.aparts[..]);
            let mut rounded = Rounded::new(model, about, &demands.needs, &mut moves, &mut colors);
            rounded.look_around(&scene.is_active);
            let Rounded { ratios, shorts, .. } = rounded;
            unmet.clear();
            let mut worst: f64 = 1.0;
            for i in &scene.needs {
                let (target, ratio) = (model.needs[*i].target, ratios[*i]);
                if ratio < target {
                    unmet.push(*i);
                    worst = worst.max(target / ratio);
                    demands.margins[*i] += (target / ratio).ln() + 0.002;
                }
            }
            closer.clear();
            for i in scene.aparts.iter().filter(|i| shorts[**i] > 0.0) {
                closer.push(*i);
                demands.extra[*i] += shorts[*i] * 1.5 + 0.1;
            }
            // Asking for more does not help what cannot be had.
            let stands = unmet.len() >= before && worst > last * 0.995;
            let hopeless = round > 0 && stands && worst > 1.03;
            last = worst;
            if hopeless || is_stuck || (unmet.is_empty() && closer.is_empty()) {
                break;
            }
        }
        let held = |v: &usize| self.free[*v] && !scene.is_active[*v];
        for i in &unmet {
            wants.extend(model.needs[*i].variables.iter().filter(|v| held(v)));
        }
        for i in &closer {
            wants.extend(model.aparts[*i].variables.iter().filter(|v| held(v)));
        }
        Attempt {
            cost: self.cost(&moves),
            moves,
            unmet,
            closer,
            wants,
        }
    }

    /// What is made small: over every pair, the squares of its colors' changes in OKLab.
    fn cost(&self, moves: &Moves) -> f64 {
        let vars = self.model.vars.iter().zip(moves);
        vars.map(|(v, m)| v.weight * (m[0] * m[0] + m[1] * m[1]))
            .sum()
    }

    /// The first thing the moves break that was met before.
    fn broken(&self, colors: &Colors) -> Option<Demand> {
        let needs = (0..self.model.needs.len()).map(Demand::Need);
        let aparts = (0..self.model.aparts.len()).map(Demand::Apart);
        let mut all = needs.chain(aparts);
        all.find(|demand| !self.is_kept(*demand, colors))
    }

    /// Whether what was met before is, of a demand.
    fn is_kept(&self, demand: Demand, colors: &Colors) -> bool {
        let model = self.model;
        match demand {
            Demand::Need(i) => {
                let need = &model.needs[i];
                !self.first().needs[i] || model.ratio(need, colors) >= need.target
            }
            Demand::Apart(i) => {
                let (apart, first) = (&model.aparts[i], self.first().aparts[i]);
                model.is_apart(apart, colors, kept_apart(apart, first))
            }
        }
    }

    /// Puts colors back until nothing that was met before is broken: of those it hangs on the one, and as
    /// much of its move, that loses the least.
    fn keep_what_was_met(&self, moves: &mut Moves) {
        const PARTS: [f64; 5] = [0.875, 0.75, 0.5, 0.25, 0.0];
        let model = self.model;
        let mut colors = model.all_written(moves);
        let mut steps = 4 * moves.len();
        while let Some(demand) = self.broken(&colors) {
            let variables = match demand {
                Demand::Need(i) => &model.needs[i].variables,
                Demand::Apart(i) => &model.aparts[i].variables,
            };
            let parts = if steps > 0 { &PARTS[..] } else { &PARTS[4..] };
            steps = steps.saturating_sub(1);
            let mut best: Option<((bool, isize), usize, f64)> = None;
            for v in variables.iter().copied() {
                let whole = moves[v];
                if whole == [0.0; 2] {
                    continue;
                }
                let before = self.state_of(v, &colors).1.cast_signed();
                for part in parts {
                    moves[v] = whole.map(|m| m * part);
                    model.rewrite(v, moves, &mut colors);
                    let met = self.state_of(v, &colors).1.cast_signed();
                    let state = (self.is_kept(demand, &colors), met - before);
                    if (state.0 || *part == 0.0) && best.is_none_or(|b| state > b.0) {
                        best = Some((state, v, *part));
                    }
                }
                moves[v] = whole;
                model.rewrite(v, moves, &mut colors);
            }
            let Some((_, v, part)) = best else {
                moves.fill([0.0; 2]);
                return;
            };
            moves[v] = moves[v].map(|m| m * part);
            model.rewrite(v, moves, &mut colors);
        }
    }

    /// Moves each color back towards where it was as far as nothing met is lost: all the way first.
    fn take_back_what_is_not_needed(&self, moves: &mut Moves) {
        /// The most of a move that could be kept without keeping it all.
        const NEARLY_ALL: f64 = 63.0 / 64.0;
        let model = self.model;
        let mut colors = model.all_written(moves);
        for round in 0..8 {
            let mut order: Vec<usize> =
                (0..moves.len()).filter(|i| moves[*i] != [0.0; 2]).collect();
            let cost = |i: usize| model.vars[i].weight * moves[i][0].hypot(moves[i][1]);
            order.sort_by(|a, b| cost(*b).total_cmp(&cost(*a)).then(a.cmp(b)));
            let mut changed = false;
            for i in order {
                let whole = moves[i];
                let before = self.state_of(i, &colors);
                let try_part = |part: f64, moves: &mut Moves, colors: &mut Colors| {
                    moves[i] = whole.map(|m| m * part);
                    self.model.rewrite(i, moves, colors);
                    self.state_of(i, colors) >= before
                };
                if try_part(0.0, moves, &mut colors) {
                    changed = true;
                    continue;
                }
                // The part of the move that is kept: all of it is fine, and mostly nothing less.
                let (mut good, mut bad) = (1.0, 0.0);
                let halvings = match round == 0 && try_part(NEARLY_ALL, moves, &mut colors) {
                    true => 6,
                    false => 0,
                };
                for _ in 0..halvings {
                    let part = f64::midpoint(good, bad);
                    if try_part(part, moves, &mut colors) {
                        good = part;
                    } else {
                        bad = part;
                    }
                }
                changed |= good < 1.0;
                try_part(good, moves, &mut colors);
            }
            if !changed {
                break;
            }
        }
    }

    /// How many of a variable's demands are met, and whether nothing that was met before is lost.
    fn state_of(&self, variable: usize, colors: &Colors) -> (bool, usize) {
        let (model, hangs) = (self.model, &self.model.hangs[variable]);
        let (mut whole, mut met) = (true, 0);
        for i in &hangs.needs {
            let fine = model.ratio(&model.needs[*i], colors) >= model.needs[*i].target;
            whole &= fine || !self.first().needs[*i];
            met += usize::from(fine);
        }
        for i in &hangs.aparts {
            let (apart, first) = (&model.aparts[*i], self.first().aparts[*i]);
            whole &= model.is_apart(apart, colors, kept_apart(apart, first));
            met += usize::from(model.is_apart(apart, colors, apart.least));
        }
        (whole, met)
    }
}
