//! Steps of the search: demands linearised where the colors are, a program of them solved, and as far
//! taken as all that does helps (R. Fletcher, "Practical methods of optimization", 1987, chapter 14:
//! an exact penalty with its line search).

use super::model::{Glance, Model, Moves};
use super::program::{Row, program};
use super::solve::{Demands, Scene, Solver};

/// How far lightness or chroma may go in one program.
const STEP: f64 = 0.15;
/// The weighted move by which a program that goes on may miss a demand.
const OUT_OF_REACH: f64 = 0.1;
/// What a CIEDE2000 difference of 1 counts beside a logarithm of ratios.
pub(super) const DISTANCE: f64 = 0.05;
/// What it costs to miss a demand by a logarithm of 1.
const MISSED: f64 = 20.0;
/// The step of a difference quotient.
const H: f64 = 1e-3;

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

impl Solver<'_, '_> {
    /// Linearises and solves until it no longer changes; the colors held still that would help, and
    /// whether there is no way on.
    pub(super) fn approach(
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
            let merit = |moves: &Moves, glances: &[Glance]| {
                self.merit(scene, demands, &parting, moves, glances)
            };
            let before = merit(moves, &glances);
            let solved = program(&model.vars, &rows, &mut known);
            wants = solved.wants;
            // What cannot be had even where all is linear is not had by going on.
            let is_out_of_reach = solved.missing > OUT_OF_REACH;
            stuck = if is_out_of_reach { stuck + 1 } else { 0 };
            // A step is only taken as far as it helps: slopes change on the way.
            let here = moves.clone();
            let helped = [1.0, 0.5, 0.25, 0.125, 0.0625]
                .into_iter()
                .find_map(|part| {
                    let furthest = self.go(scene, &here, &solved.moves, part, moves);
                    for term in &scene.terms {
                        glances[*term] = model.glance(*term, moves);
                    }
                    let now = merit(moves, &glances);
                    (now < before).then_some((part, furthest, now))
                });
            let Some((part, furthest, now)) = helped else {
                *moves = here;
                break;
            };
            let is_there = furthest < 2e-3 || part < 0.1 || before - now < 1e-3 * before;
            if is_there || stuck == 2 {
                break;
            }
        }
        wants.sort_unstable();
        wants.dedup();
        (wants, stuck > 1)
    }

    /// Goes a part of the way from here to what is wanted; how far the furthest goes.
    fn go(&self, scene: &Scene, here: &Moves, wanted: &Moves, part: f64, moves: &mut Moves) -> f64 {
        let model = self.model;
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
            let far = |k: usize| (to[k] - from[k]).abs();
            furthest = furthest.max(far(0)).max(far(1));
            moves[*i] = to;
        }
        furthest
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
}
