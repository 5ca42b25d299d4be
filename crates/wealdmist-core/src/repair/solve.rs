//! The search for the smallest change.
//!
//! Each need says that the logarithm of a ratio reaches that of its target, each distance that a
//! CIEDE2000 difference is kept. Both are nearly linear in lightness and chroma over the steps
//! that matter, so the least weighted sum of squares is found by a short sequence of quadratic
//! programs, each solved in its dual by Hildreth's method (C. Hildreth, "A quadratic programming
//! procedure", 1957): one multiplier per constraint, raised in turn until nothing is violated.
//! What rounding to 8 bits or fewer colors takes away again is added to the constraint, and the
//! programs are solved again. Nothing is random: the same setup gives the same answer.

use super::model::{Apart, Glance, Model, Moves, Need};
use crate::color::Rgb;

/// Rounds of linearising and solving.
const ROUNDS: usize = 7;
/// Sweeps over the constraints in one program.
const SWEEPS: usize = 80;
/// Rounds of asking for more where rounding took it away.
const MARGINS: usize = 12;
/// How often a part of the demands is given up to save the rest.
const SACRIFICES: usize = 5;
/// How many changes of side (light text made dark, or the reverse) are tried.
const FLIPS: usize = 3;
/// How far lightness or chroma may go in one program.
const STEP: f64 = 0.15;
/// The move in OKLab that nobody sees between flat areas.
const UNSEEN: f64 = 0.012;
/// The step of a difference quotient.
const H: f64 = 1e-3;

struct Row {
    parts: Vec<(usize, f64)>,
    least: f64,
}

/// The distance two colors must keep, given that at first. The least distance itself is a
/// convention, so a tenth of what can be seen is no reason to give a repair up.
fn kept_apart(apart: &Apart, first: f64) -> f64 {
    if first >= apart.least {
        apart.least - 0.1
    } else {
        first - 1e-9
    }
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
    /// Which distances are pursued.
    aparts: Vec<bool>,
    /// What is asked of each distance beyond its least.
    extra: Vec<f64>,
    /// Whether the first of two colors that must part goes to the lighter side.
    sides: Vec<bool>,
}

/// An attempt: where everything went, how many demands are not met, and what it cost.
struct Attempt {
    moves: Moves,
    unmet: Vec<usize>,
    /// The distances that are not kept.
    closer: Vec<usize>,
    cost: f64,
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

pub(super) struct Solver<'a, 'b> {
    model: &'a Model<'b>,
    free: &'a [bool],
    first: First,
}

impl<'a, 'b> Solver<'a, 'b> {
    pub(super) fn new(model: &'a Model<'b>, free: &'a [bool]) -> Self {
        let colors = model.all_written(&vec![[0.0; 2]; model.vars.len()]);
        let met = |n: &Need| n.before >= n.target;
        let first = First {
            needs: model.needs.iter().map(met).collect(),
            aparts: model
                .aparts
                .iter()
                .map(|a| model.apart(a, &colors))
                .collect(),
        };
        Self { model, free, first }
    }

    /// The moves that meet as many demands as can be met together, at the least cost found.
    pub(super) fn solve(&self) -> Moves {
        let model = self.model;
        let still = vec![[0.0; 2]; model.vars.len()];
        let touches = |variables: &[usize]| variables.iter().any(|v| self.free[*v]);
        let mut demands = Demands {
            needs: model.needs.iter().map(|n| touches(&n.variables)).collect(),
            lighter: vec![true; model.needs.len()],
            margins: vec![0.0; model.needs.len()],
            aparts: model.aparts.iter().map(|a| touches(&a.variables)).collect(),
            extra: vec![0.0; model.aparts.len()],
            sides: model
                .aparts
                .iter()
                .map(|a| model.lightness_before(a) >= 0.0)
                .collect(),
        };
        let glances = self.glances(&still);
        for (i, need) in model.needs.iter().enumerate() {
            let (text, ground) = (&glances[need.text], &glances[need.ground]);
            let gap = |lighter| model.gap(need, lighter, text, ground);
            demands.lighter[i] = gap(true) >= gap(false);
        }
        let mut best = self.attempt(&mut demands);
        for text in self.worth_flipping(&demands, &best) {
            let mut other = demands.clone();
            for (i, need) in model.needs.iter().enumerate() {
                if need.text == text {
                    other.lighter[i] = !other.lighter[i];
                }
            }
            other.margins.fill(0.0);
            other.extra.fill(0.0);
            let attempt = self.attempt(&mut other);
            if attempt.score() < best.score() {
                (best, demands) = (attempt, other);
            }
        }
        for _ in 0..SACRIFICES {
            if best.unmet.is_empty() {
                break;
            }
            let colors = model.all_written(&best.moves);
            let shortfall = |i: &usize| {
                let need = &model.needs[*i];
                need.target / model.ratio(need, &colors)
            };
            let met_before = |i: &usize| model.needs[*i].before >= model.needs[*i].target;
            // What was met before is held to longest; of the rest what is furthest from its
            // target goes first, half of it at a time.
            let mut worst = best.unmet.clone();
            worst.sort_by(|a, b| {
                met_before(a)
                    .cmp(&met_before(b))
                    .then(shortfall(b).total_cmp(&shortfall(a)))
            });
            worst.truncate(worst.len().div_ceil(2));
            for i in worst {
                demands.needs[i] = false;
            }
            demands.margins.fill(0.0);
            demands.extra.fill(0.0);
            best = self.attempt(&mut demands);
        }
        let mut moves = self.without_what_nobody_sees(best, &demands);
        self.keep_what_was_met(&mut moves);
        self.take_back_what_is_not_needed(&mut moves);
        moves
    }

    /// The moves with those colors held still that would hardly move: a file is not rewritten for
    /// a difference nobody sees, if the others can do without at little cost.
    fn without_what_nobody_sees(&self, best: Attempt, demands: &Demands) -> Moves {
        let mut kept = best;
        let mut free = self.free.to_vec();
        for _ in 0..3 {
            let small = |i: &usize| {
                let far = kept.moves[*i][0].hypot(kept.moves[*i][1]);
                far > 0.0 && far < UNSEEN
            };
            let still: Vec<usize> = (0..kept.moves.len()).filter(small).collect();
            if still.is_empty() {
                break;
            }
            for i in still {
                free[i] = false;
            }
            let solver = Solver::new(self.model, &free);
            let mut demands = demands.clone();
            for (wanted, need) in demands.needs.iter_mut().zip(&self.model.needs) {
                *wanted &= need.variables.iter().any(|v| free[*v])
                    || !need.variables.iter().any(|v| self.free[*v]);
            }
            demands.margins.fill(0.0);
            demands.extra.fill(0.0);
            let attempt = solver.attempt(&mut demands);
            let colors = self.model.all_written(&attempt.moves);
            let met = |colors: &[Rgb]| {
                let needs = self.model.needs.iter();
                needs
                    .filter(|n| self.model.ratio(n, colors) >= n.target)
                    .count()
            };
            let as_good = met(&colors) >= met(&self.model.all_written(&kept.moves));
            if !as_good || attempt.cost > kept.cost * 1.6 {
                break;
            }
            kept = attempt;
        }
        kept.moves
    }

    /// The texts for which the other side of their grounds is nearer than where they went, or
    /// that found no place on this side; the most promising first.
    fn worth_flipping(&self, demands: &Demands, attempt: &Attempt) -> Vec<usize> {
        let still = vec![[0.0; 2]; self.model.vars.len()];
        let glances = self.glances(&still);
        let mut texts: Vec<usize> = self.model.needs.iter().map(|n| n.text).collect();
        texts.sort_unstable();
        texts.dedup();
        let mut found: Vec<(f64, usize)> = Vec::new();
        for text in texts {
            let needs = self.model.needs.iter().enumerate();
            let own = needs.filter(|(i, n)| n.text == text && demands.needs[*i]);
            let (mut low, mut high) = (0.05_f64.ln(), 1.05_f64.ln());
            let (mut moved, mut unmet): (f64, bool) = (0.0, false);
            for (i, need) in own {
                let ground = glances[need.ground].log();
                if demands.lighter[i] {
                    high = high.min(ground - need.target.ln());
                } else {
                    low = low.max(ground + need.target.ln());
                }
                unmet |= attempt.unmet.contains(&i);
                for v in &need.variables {
                    moved = moved.max(attempt.moves[*v][0].abs());
                }
            }
            // The lightness of a gray of that luminance is near enough to choose by.
            let lightness = |log: f64| (log.exp() - 0.05).max(0.0).cbrt();
            let now = glances[text].log();
            let there = lightness(now.clamp(low.min(high), high.max(low)));
            let way = (there - lightness(now)).abs();
            if low <= high && way > 0.0 && (unmet || way < moved) {
                found.push((if unmet { way - 1.0 } else { way - moved }, text));
            }
        }
        found.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
        found.into_iter().take(FLIPS).map(|t| t.1).collect()
    }

    fn attempt(&self, demands: &mut Demands) -> Attempt {
        let model = self.model;
        let mut moves = vec![[0.0; 2]; model.vars.len()];
        let (mut unmet, mut closer) = (Vec::new(), Vec::new());
        let mut last = f64::MAX;
        for round in 0..MARGINS {
            let before = unmet.len();
            self.approach(demands, &mut moves);
            let colors = model.all_written(&moves);
            unmet.clear();
            let mut worst: f64 = 1.0;
            for (i, need) in model.needs.iter().enumerate() {
                if !demands.needs[i] {
                    continue;
                }
                let ratio = model.ratio(need, &colors);
                if ratio < need.target {
                    unmet.push(i);
                    worst = worst.max(need.target / ratio);
                    demands.margins[i] += (need.target / ratio).ln() + 0.002;
                }
            }
            closer.clear();
            for (i, apart) in model.aparts.iter().enumerate() {
                // What was closer at first is to part; the rest is to stay apart.
                let wanted = kept_apart(apart, self.first.aparts[i].max(apart.least));
                let short = wanted - model.apart(apart, &colors);
                if demands.aparts[i] && short > 0.0 {
                    closer.push(i);
                    demands.extra[i] += short * 1.5 + 0.1;
                }
            }
            // Asking for more does not help what cannot be had.
            let stands = unmet.len() >= before && worst > last * 0.995;
            let hopeless = round > 0 && stands && worst > 1.03;
            last = worst;
            if hopeless || (unmet.is_empty() && closer.is_empty()) {
                break;
            }
        }
        Attempt {
            cost: self.cost(&moves),
            moves,
            unmet,
            closer,
        }
    }

    /// What is made small: over every pair, the squares of its colors' changes in OKLab.
    fn cost(&self, moves: &Moves) -> f64 {
        let vars = self.model.vars.iter().zip(moves);
        vars.map(|(v, m)| v.weight * (m[0] * m[0] + m[1] * m[1]))
            .sum()
    }

    /// Linearises and solves until it no longer changes.
    fn approach(&self, demands: &Demands, moves: &mut Moves) {
        for round in 0..ROUNDS {
            // Where the slope changes fast, whole steps could go to and fro for ever.
            let part = if round < 3 { 1.0 } else { 0.5 };
            let rows = self.rows(demands, moves);
            let wanted = self.program(&rows);
            let mut furthest: f64 = 0.0;
            for (i, want) in wanted.into_iter().enumerate() {
                if !self.free[i] {
                    continue;
                }
                let mut to = moves[i];
                for k in 0..2 {
                    to[k] += ((want[k] - to[k]) * part).clamp(-STEP, STEP);
                }
                if !self.model.vars[i].is_shift && to != [0.0; 2] {
                    let (there, base) = (self.model.moved(i, to), self.model.vars[i].base);
                    to = [there.l - base.l, there.c - base.c];
                }
                furthest = furthest
                    .max((to[0] - moves[i][0]).abs())
                    .max((to[1] - moves[i][1]).abs());
                moves[i] = to;
            }
            if furthest < 4e-4 {
                break;
            }
        }
    }

    fn glances(&self, moves: &Moves) -> Vec<Glance> {
        let terms = 0..self.model.terms.len();
        terms.map(|t| self.model.glance(t, moves)).collect()
    }

    /// How the terms look when each free variable moves a little: for every variable lightness
    /// and chroma, the small step taken, and the terms that change.
    fn nudges(&self, moves: &Moves) -> Vec<Option<[Nudge; 2]>> {
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
        (0..model.vars.len())
            .map(|v| self.free[v].then(|| [nudge(v, 0), nudge(v, 1)]))
            .collect()
    }

    /// The constraints near which we are, as linear functions of the moves.
    fn rows(&self, demands: &Demands, moves: &Moves) -> Vec<Row> {
        /// How far beyond a target a need must be to be left out, in logarithms, and a distance.
        const FAR: f64 = 0.4;
        const FAR_APART: f64 = 4.0;
        let model = self.model;
        let glances = self.glances(moves);
        let nudges = self.nudges(moves);
        let mut rows = Vec::new();
        for (i, need) in model.needs.iter().enumerate() {
            if !demands.needs[i] {
                continue;
            }
            let gap = |a: &Glance, b: &Glance| model.gap(need, demands.lighter[i], a, b);
            let value = gap(&glances[need.text], &glances[need.ground]);
            let least = need.target.ln() + demands.margins[i] + 1e-3;
            if value <= least + FAR {
                let terms = [need.text, need.ground];
                let ends = (&need.variables[..], terms, least - value, value);
                rows.extend(self.row(ends, &glances, &nudges, moves, gap));
            }
        }
        for (i, apart) in model.aparts.iter().enumerate() {
            if !demands.aparts[i] {
                continue;
            }
            let (one, other) = (&glances[apart.one], &glances[apart.other]);
            let value = Model::distance(one, other);
            let least = apart.least + demands.extra[i];
            if value > least + FAR_APART {
                continue;
            }
            let terms = [apart.one, apart.other];
            let apart_in_lightness = one.lightness() - other.lightness();
            if value < least && apart_in_lightness.abs() < 0.7 * least {
                // Between two colors of one lightness the slope of the difference is nothing, so
                // they are asked to part in lightness.
                let rest = (value.powi(2) - apart_in_lightness.powi(2)).max(0.0);
                let needed = (least.powi(2) - rest).max(0.0).sqrt() * 1.2;
                let side = if demands.sides[i] { 1.0 } else { -1.0 };
                let value = side * apart_in_lightness;
                let ends = (&apart.variables[..], terms, needed - value, value);
                let part = |a: &Glance, b: &Glance| side * (a.lightness() - b.lightness());
                rows.extend(self.row(ends, &glances, &nudges, moves, part));
            } else {
                let ends = (&apart.variables[..], terms, least - value, value);
                rows.extend(self.row(ends, &glances, &nudges, moves, Model::distance));
            }
        }
        // Lightness ends at black and white.
        for (i, var) in model.vars.iter().enumerate() {
            let l = var.base.l + moves[i][0];
            if self.free[i] && !var.is_shift && !(0.2..=0.8).contains(&l) {
                let (sign, least) = if l < 0.5 {
                    (1.0, -var.base.l)
                } else {
                    (-1.0, var.base.l - 1.0)
                };
                rows.push(Row {
                    parts: vec![(2 * i, sign)],
                    least,
                });
            }
        }
        rows
    }

    /// A function of two terms linearised where the moves are; `None` if nothing free changes it.
    fn row(
        &self,
        (variables, terms, mut least, value): (&[usize], [usize; 2], f64, f64),
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
        (!parts.is_empty()).then_some(Row { parts, least })
    }

    /// The least weighted sum of squares that meets the rows, as far as they can be met.
    fn program(&self, rows: &[Row]) -> Moves {
        let vars = &self.model.vars;
        let inverse = |k: usize| 1.0 / vars[k / 2].weight;
        let mut x = vec![0.0; vars.len() * 2];
        let mut multipliers = vec![0.0_f64; rows.len()];
        let scales: Vec<f64> = rows
            .iter()
            .map(|r| r.parts.iter().map(|(k, a)| a * a * inverse(*k)).sum())
            .collect();
        for _ in 0..SWEEPS {
            let mut furthest: f64 = 0.0;
            for ((row, scale), multiplier) in rows.iter().zip(&scales).zip(&mut multipliers) {
                let value: f64 = row.parts.iter().map(|(k, a)| a * x[*k]).sum();
                let old = *multiplier;
                *multiplier = (old + (row.least - value) / scale).max(0.0);
                let change = *multiplier - old;
                if change != 0.0 {
                    for (k, a) in &row.parts {
                        let by = a * inverse(*k) * change;
                        x[*k] += by;
                        furthest = furthest.max(by.abs());
                    }
                }
            }
            if furthest < 2e-5 {
                break;
            }
        }
        x.chunks(2).map(|c| [c[0], c[1]]).collect()
    }

    /// The first thing the moves break that was met before: its variables.
    fn broken(&self, colors: &[Rgb]) -> Option<&[usize]> {
        let model = self.model;
        let needs = model.needs.iter().zip(&self.first.needs);
        for (need, met) in needs {
            if *met && model.ratio(need, colors) < need.target {
                return Some(&need.variables);
            }
        }
        for (apart, first) in model.aparts.iter().zip(&self.first.aparts) {
            if model.apart(apart, colors) < kept_apart(apart, *first) {
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
                    self.rewrite(v, moves, &mut colors);
                }
                None => {
                    moves.fill([0.0; 2]);
                    return;
                }
            }
        }
    }

    /// Brings the colors that hang on a variable to where it is.
    fn rewrite(&self, variable: usize, moves: &Moves, colors: &mut [Rgb]) {
        for term in &self.model.hangs[variable].terms {
            colors[*term] = self.model.written(&self.model.terms[*term], moves);
        }
    }

    /// Moves each color back towards where it was as far as nothing met is lost.
    fn take_back_what_is_not_needed(&self, moves: &mut Moves) {
        let model = self.model;
        let mut order: Vec<usize> = (0..moves.len()).filter(|i| moves[*i] != [0.0; 2]).collect();
        let cost = |i: usize| model.vars[i].weight * moves[i][0].hypot(moves[i][1]);
        order.sort_by(|a, b| cost(*b).total_cmp(&cost(*a)).then(a.cmp(b)));
        let mut colors = model.all_written(moves);
        for i in order {
            let whole = moves[i];
            let before = self.state_of(i, &colors);
            // The part of the move that is kept: all of it is fine, perhaps none is needed.
            let (mut good, mut bad) = (1.0, -0.2);
            for _ in 0..5 {
                let part = f64::max((good + bad) / 2.0, 0.0);
                moves[i] = whole.map(|m| m * part);
                self.rewrite(i, moves, &mut colors);
                if self.state_of(i, &colors) >= before {
                    good = part;
                    if part == 0.0 {
                        break;
                    }
                } else {
                    bad = part;
                }
            }
            moves[i] = whole.map(|m| m * good);
            self.rewrite(i, moves, &mut colors);
        }
    }

    /// How many of a variable's demands are met, and whether nothing that was met before is lost.
    fn state_of(&self, variable: usize, colors: &[Rgb]) -> (bool, usize) {
        let (model, hangs) = (self.model, &self.model.hangs[variable]);
        let (mut whole, mut met) = (true, 0);
        for i in &hangs.needs {
            let fine = model.ratio(&model.needs[*i], colors) >= model.needs[*i].target;
            whole &= fine || !self.first.needs[*i];
            met += usize::from(fine);
        }
        for i in &hangs.aparts {
            let (apart, first) = (&model.aparts[*i], self.first.aparts[*i]);
            let now = model.apart(apart, colors);
            whole &= now >= kept_apart(apart, first);
            met += usize::from(now >= apart.least);
        }
        (whole, met)
    }
}
