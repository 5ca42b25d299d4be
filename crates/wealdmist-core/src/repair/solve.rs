//! The search for the smallest change.
//!
//! Each need says that the logarithm of a ratio reaches that of its target, each distance that a
//! CIEDE2000 difference is kept. Both are nearly linear in lightness and chroma over the steps
//! that matter, so the least weighted sum of squares is found by a short sequence of quadratic
//! programs, each solved in its dual by Hildreth's method (C. Hildreth, "A quadratic programming
//! procedure", 1957): one multiplier per constraint, raised in turn until nothing is violated. A
//! multiplier is bounded by what it costs to miss its demand, so what contradicts leaves the rest
//! alone; and a step is only taken as far as the sum of all that does fall (R. Fletcher, "Practical
//! methods of optimization", 1987, chapter 14: an exact penalty with its line search). What rounding
//! to 8 bits takes away is looked for around what was found (`round`); what fewer colors take away
//! is added to the constraint, and the programs are solved again. Nothing is random: the same setup
//! gives the same answer.

use std::cell::OnceCell;

use super::Background;
use super::conflict::{Together, together};
use super::model::{Apart, Colors, Glance, Model, Moves, Need};
use super::round::Rounded;
use super::sides::Landscape;

/// Rounds of linearising and solving.
const ROUNDS: usize = 7;
/// Sweeps over the constraints in one program.
const SWEEPS: usize = 80;
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
/// How far lightness or chroma may go in one program.
const STEP: f64 = 0.15;
/// The move in OKLab that nobody sees between flat areas.
const UNSEEN: f64 = 0.012;
/// The weighted move by which a program that goes on may miss a demand.
const OUT_OF_REACH: f64 = 0.1;
/// What a CIEDE2000 difference of 1 counts beside a logarithm of ratios.
pub(super) const DISTANCE: f64 = 0.05;
/// What it costs to miss a demand by a logarithm of 1.
const MISSED: f64 = 20.0;
/// The step of a difference quotient.
const H: f64 = 1e-3;

/// A demand near which the moves are, as a linear function of them.
struct Row {
    /// What it is about, the same from one program to the next.
    about: usize,
    /// The most it may cost to miss it by 1.
    most: f64,
    parts: Vec<(usize, f64)>,
    least: f64,
    /// The colors that hang together with it and are held still.
    held: Vec<usize>,
}

/// The distance two colors must keep, given that at first.
fn kept_apart(apart: &Apart, first: f64) -> f64 {
    apart.least.min(first - 1e-9)
}

/// One state of the search.
#[derive(Clone)]
struct Demands {
    /// Which needs are pursued.
    needs: Vec<bool>,
    /// Whether each need's text is to be lighter than its ground.
    lighter: Vec<bool>,
    /// What is asked of each need beyond its target, in logarithms.
    margins: Vec<f64>,
    /// What is asked of each distance beyond its least.
    extra: Vec<f64>,
    /// Whether the first of two colors that must part goes to the lighter side.
    sides: Vec<bool>,
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

/// How terms look after a small step of one variable.
struct Nudge {
    step: f64,
    glances: Vec<(usize, Glance)>,
}

impl Nudge {
    fn glance(&self, term: usize) -> Option<&Glance> {
        let found = self.glances.iter().find(|g| g.0 == term)?;
        Some(&found.1)
    }
}

/// How things stood at first: which needs were met, and the distances.
struct First {
    needs: Vec<bool>,
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
    model: &'a Model<'b>,
    free: &'a [bool],
    first: OnceCell<First>,
}

/// The part of a model that moves: some of the free colors, and what hangs on them.
struct Scene {
    active: Vec<usize>,
    is_active: Vec<bool>,
    terms: Vec<usize>,
    needs: Vec<usize>,
    aparts: Vec<usize>,
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
        for (more, changed) in land.other_ways() {
            // What costs more where nothing else is minded is worth a try where something is unmet.
            let helps = changed.iter().any(|(n, _)| best.unmet.contains(n));
            if tried == FLIPS || (!helps && more > 0.1 * best.cost) {
                continue;
            }
            tried += 1;
            let mut other = demands.clone();
            for (need, lighter) in changed {
                other.lighter[need] = lighter;
            }
            other.forget();
            let attempt = self.attempt(&scene, &mut other, &best.moves);
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
            if best.unmet.is_empty() {
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

    /// Linearises and solves until it no longer changes; the colors held still that would help, and
    /// whether there is no way on.
    fn approach(
        &self,
        scene: &Scene,
        demands: &Demands,
        rounds: usize,
        moves: &mut Moves,
    ) -> (Vec<usize>, bool) {
        let model = self.model;
        let (mut wants, mut stuck) = (Vec::new(), 0);
        let terms = 0..model.terms.len();
        let mut glances: Vec<Glance> = terms.map(|t| model.glance(t, moves)).collect();
        let mut known = vec![0.0; model.needs.len() + model.aparts.len() + model.vars.len()];
        for _ in 0..rounds {
            let (rows, parting) = self.rows(scene, demands, moves, &glances);
            let merit = self.merit(scene, demands, &parting, moves, &glances);
            let (wanted, missing) = self.program(&rows, &mut known, &mut wants);
            // What cannot be had even where all is linear is not had by going on.
            stuck = if missing > OUT_OF_REACH { stuck + 1 } else { 0 };
            // A step is only taken as far as it helps: slopes change on the way.
            let (mut part, mut taken) = (1.0, None);
            let here = moves.clone();
            for _ in 0..5 {
                let mut furthest: f64 = 0.0;
                for i in &scene.active {
                    let (want, from) = (wanted[*i], here[*i]);
                    let mut to = from;
                    for k in 0..2 {
                        to[k] += ((want[k] - to[k]) * part).clamp(-STEP, STEP);
                    }
                    if !model.vars[*i].is_shift && to != [0.0; 2] {
                        let (there, base) = (model.moved(*i, to), model.vars[*i].base);
                        to = [there[0] - base.l, there[1] - base.c];
                    }
                    furthest = furthest
                        .max((to[0] - from[0]).abs())
                        .max((to[1] - from[1]).abs());
                    moves[*i] = to;
                }
                for term in &scene.terms {
                    glances[*term] = model.glance(*term, moves);
                }
                let now = self.merit(scene, demands, &parting, moves, &glances);
                if now < merit {
                    taken = Some((furthest, now));
                    break;
                }
                part *= 0.5;
            }
            let Some((furthest, now)) = taken else {
                *moves = here;
                break;
            };
            if furthest < 2e-3 || part < 0.1 || merit - now < 1e-3 * merit || stuck == 2 {
                break;
            }
        }
        wants.sort_unstable();
        wants.dedup();
        (wants, stuck > 1)
    }

    /// What it comes to where the colors are: what it costs that they moved, and that demands are missed.
    fn merit(
        &self,
        scene: &Scene,
        demands: &Demands,
        parting: &[(usize, f64)],
        moves: &Moves,
        glances: &[Glance],
    ) -> f64 {
        let model = self.model;
        let mut missed = 0.0;
        for i in scene.needs.iter().filter(|i| demands.needs[**i]) {
            let need = &model.needs[*i];
            let (text, ground) = (&glances[need.text], &glances[need.ground]);
            let least = need.target.ln() + demands.margins[*i] + 1e-3;
            missed += (least - model.gap(need, demands.lighter[*i], text, ground)).max(0.0);
        }
        for i in &scene.aparts {
            let apart = &model.aparts[*i];
            let (one, other) = (&glances[apart.one], &glances[apart.other]);
            let least = apart.least + demands.extra[*i];
            if Model::distance_at_least(apart.plain, one, other) < least {
                let value = Model::distance(apart.plain, one, other);
                missed += match parting.iter().find(|(p, _)| p == i) {
                    Some((_, needed)) if value < least => {
                        let side = if demands.sides[*i] { 1.0 } else { -1.0 };
                        let l = |g: &Glance| g.lightness(apart.plain);
                        DISTANCE * (needed - side * (l(one) - l(other))).max(0.0)
                    }
                    _ => DISTANCE * (least - value).max(0.0),
                };
            }
        }
        let far = |m: [f64; 2]| m[0] * m[0] + m[1] * m[1];
        let cost = scene
            .active
            .iter()
            .map(|v| model.vars[*v].weight * far(moves[*v]));
        0.5 * cost.sum::<f64>() + MISSED * missed
    }

    /// How the terms look when each active variable moves a little: for every variable lightness
    /// and chroma, the small step taken, and the terms that change.
    fn nudges(&self, scene: &Scene, moves: &Moves) -> Vec<Option<[Nudge; 2]>> {
        let model = self.model;
        let mut at = moves.clone();
        let mut nudge = |v: usize, k: usize| {
            let (base, here) = (&model.vars[v].base, moves[v]);
            // Away from the ends of lightness and from gray, where nothing would change.
            let step = match k {
                0 if base.l + here[0] > 0.5 => -H,
                1 if base.c + here[1] > 4.0 * H => -H,
                _ => H,
            };
            at[v][k] += step;
            let terms = model.hangs[v].terms.iter();
            let glances = terms.map(|t| (*t, model.glance(*t, &at))).collect();
            at[v] = here;
            Nudge { step, glances }
        };
        let mut out: Vec<Option<[Nudge; 2]>> = (0..model.vars.len()).map(|_| None).collect();
        for v in &scene.active {
            out[*v] = Some([nudge(*v, 0), nudge(*v, 1)]);
        }
        out
    }

    /// The demands near which we are, as linear functions of the moves.
    fn rows(
        &self,
        scene: &Scene,
        demands: &Demands,
        moves: &Moves,
        glances: &[Glance],
    ) -> (Vec<Row>, Vec<(usize, f64)>) {
        /// How far beyond a target a need must be to be left out, in logarithms, and a distance.
        const FAR: f64 = 0.4;
        const FAR_APART: f64 = 4.0;
        let model = self.model;
        let nudges = self.nudges(scene, moves);
        let (mut rows, mut parting) = (Vec::new(), Vec::new());
        for i in scene.needs.iter().filter(|i| demands.needs[**i]) {
            let need = &model.needs[*i];
            let gap = |a: &Glance, b: &Glance| model.gap(need, demands.lighter[*i], a, b);
            let value = gap(&glances[need.text], &glances[need.ground]);
            let least = need.target.ln() + demands.margins[*i] + 1e-3;
            if value <= least + FAR {
                let terms = [need.text, need.ground];
                let ends = (*i, &need.variables[..], terms, least - value, value);
                rows.extend(self.row(ends, glances, &nudges, moves, gap));
            }
        }
        for i in &scene.aparts {
            let apart = &model.aparts[*i];
            let about = model.needs.len() + i;
            let (one, other) = (&glances[apart.one], &glances[apart.other]);
            let least = apart.least + demands.extra[*i];
            let lightness = |g: &Glance| g.lightness(apart.plain);
            let apart_in_lightness = lightness(one) - lightness(other);
            if Model::distance_at_least(apart.plain, one, other) > least + FAR_APART {
                continue;
            }
            let value = Model::distance(apart.plain, one, other);
            if value > least + FAR_APART {
                continue;
            }
            let terms = [apart.one, apart.other];
            if value < least && apart_in_lightness.abs() < 0.7 * least {
                // Between two colors of one lightness the slope of the difference is nothing, so
                // they are asked to part in lightness.
                let rest = (value.powi(2) - apart_in_lightness.powi(2)).max(0.0);
                let needed = (least.powi(2) - rest).max(0.0).sqrt() * 1.2;
                let side = if demands.sides[*i] { 1.0 } else { -1.0 };
                let value = side * apart_in_lightness;
                parting.push((*i, needed));
                let ends = (about, &apart.variables[..], terms, needed - value, value);
                let part = |a: &Glance, b: &Glance| side * (lightness(a) - lightness(b));
                rows.extend(self.row(ends, glances, &nudges, moves, part));
            } else {
                let ends = (about, &apart.variables[..], terms, least - value, value);
                let distance = |a: &Glance, b: &Glance| Model::distance(apart.plain, a, b);
                rows.extend(self.row(ends, glances, &nudges, moves, distance));
            }
        }
        // Lightness ends at black and white.
        for v in &scene.active {
            let var = &model.vars[*v];
            let l = var.base.l + moves[*v][0];
            if !var.is_shift && !(0.2..=0.8).contains(&l) {
                let (sign, least) = if l < 0.5 {
                    (1.0, -var.base.l)
                } else {
                    (-1.0, var.base.l - 1.0)
                };
                rows.push(Row {
                    about: model.needs.len() + model.aparts.len() + v,
                    most: f64::MAX,
                    parts: vec![(2 * v, sign)],
                    least,
                    held: Vec::new(),
                });
            }
        }
        (rows, parting)
    }

    /// A function of two terms linearised where the moves are; `None` if nothing free changes it.
    fn row(
        &self,
        (about, variables, terms, mut least, value): (usize, &[usize], [usize; 2], f64, f64),
        glances: &[Glance],
        nudges: &[Option<[Nudge; 2]>],
        moves: &Moves,
        function: impl Fn(&Glance, &Glance) -> f64,
    ) -> Option<Row> {
        let mut parts = Vec::with_capacity(variables.len() * 2);
        for v in variables {
            let Some(pair) = &nudges[*v] else { continue };
            for (k, nudge) in pair.iter().enumerate() {
                let [one, other] = terms.map(|t| nudge.glance(t).unwrap_or(&glances[t]));
                let slope = (function(one, other) - value) / nudge.step;
                if slope.abs() > 1e-6 {
                    parts.push((2 * v + k, slope));
                    least += slope * moves[*v][k];
                }
            }
        }
        let held = variables.iter().copied();
        let held = held
            .filter(|v| self.free[*v] && nudges[*v].is_none())
            .collect();
        let most = match about < self.model.needs.len() {
            true => MISSED,
            false => MISSED * DISTANCE,
        };
        (!parts.is_empty()).then_some(Row {
            about,
            most,
            parts,
            least,
            held,
        })
    }

    /// The least weighted sum of squares that meets the rows, as far as they can be met; into `wants` go
    /// the colors held still at rows that hold others back. Also how far from the worst of them it still is, as a
    /// weighted move.
    fn program(&self, rows: &[Row], known: &mut [f64], wants: &mut Vec<usize>) -> (Moves, f64) {
        let vars = &self.model.vars;
        let inverse = |k: usize| 1.0 / vars[k / 2].weight;
        let mut x = vec![0.0; vars.len() * 2];
        // What held before is likely to hold again.
        let mut multipliers: Vec<f64> = rows.iter().map(|r| known[r.about]).collect();
        for (row, multiplier) in rows.iter().zip(&multipliers) {
            for (k, a) in &row.parts {
                x[*k] += a * inverse(*k) * multiplier;
            }
        }
        let scales: Vec<f64> = rows
            .iter()
            .map(|r| r.parts.iter().map(|(k, a)| a * a * inverse(*k)).sum())
            .collect();
        // All in one place: coordinates, factors, and what these move.
        let parts = rows.iter().flat_map(|r| &r.parts);
        let parts: Vec<(usize, f64, f64)> = parts.map(|(k, a)| (*k, *a, a * inverse(*k))).collect();
        let ends = rows.iter().scan(0, |end, row| {
            *end += row.parts.len();
            Some(*end)
        });
        let flat: Vec<(usize, f64, f64, f64)> = ends
            .zip(rows.iter().zip(&scales))
            .map(|(end, (row, scale))| (end, row.least, *scale, row.most))
            .collect();
        for _ in 0..SWEEPS {
            let (mut furthest, mut begin): (f64, usize) = (0.0, 0);
            for ((end, least, scale, most), multiplier) in flat.iter().zip(&mut multipliers) {
                let parts = &parts[begin..*end];
                begin = *end;
                let value: f64 = parts.iter().map(|(k, a, _)| a * x[*k]).sum();
                let old = *multiplier;
                *multiplier = (old + (least - value) / scale).clamp(0.0, *most);
                let change = *multiplier - old;
                if change != 0.0 {
                    for (k, _, by) in parts {
                        let by = by * change;
                        x[*k] += by;
                        furthest = furthest.max(by.abs());
                    }
                }
            }
            if furthest < 2e-5 {
                break;
            }
        }
        known.fill(0.0);
        for (row, multiplier) in rows.iter().zip(&multipliers) {
            known[row.about] = *multiplier;
        }
        wants.clear();
        let tight = rows.iter().zip(&multipliers).filter(|(_, m)| **m > 0.0);
        wants.extend(tight.flat_map(|(row, _)| &row.held));
        let missing = rows.iter().zip(&scales).map(|(row, scale)| {
            let value: f64 = row.parts.iter().map(|(k, a)| a * x[*k]).sum();
            (row.least - value) / scale.sqrt()
        });
        let missing = missing.fold(0.0, f64::max);
        (x.chunks(2).map(|c| [c[0], c[1]]).collect(), missing)
    }

    /// The first thing the moves break that was met before: its variables.
    fn broken(&self, colors: &Colors) -> Option<&[usize]> {
        let model = self.model;
        let needs = model.needs.iter().zip(&self.first().needs);
        for (need, met) in needs {
            if *met && model.ratio(need, colors) < need.target {
                return Some(&need.variables);
            }
        }
        for (apart, first) in model.aparts.iter().zip(&self.first().aparts) {
            if !model.is_apart(apart, colors, kept_apart(apart, *first)) {
                return Some(&apart.variables);
            }
        }
        None
    }

    /// Puts colors back until nothing that was met before is broken.
    fn keep_what_was_met(&self, moves: &mut Moves) {
        let mut colors = self.model.all_written(moves);
        while let Some(variables) = self.broken(&colors) {
            // The color that moved furthest goes back first; the others may then stay.
            let far = |v: &usize| moves[*v][0].hypot(moves[*v][1]);
            let furthest = variables
                .iter()
                .copied()
                .filter(|v| moves[*v] != [0.0; 2])
                .max_by(|a, b| far(a).total_cmp(&far(b)).then(b.cmp(a)));
            match furthest {
                Some(v) => {
                    moves[v] = [0.0; 2];
                    self.model.rewrite(v, moves, &mut colors);
                }
                None => {
                    moves.fill([0.0; 2]);
                    return;
                }
            }
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
