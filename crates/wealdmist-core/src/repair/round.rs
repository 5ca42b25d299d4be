//! Rounding to 8 bits.
//!
//! A color that just meets its demands may not once it is written down. Of the colors beside it one that does is
//! nearly always there, and looking for it is much quicker than asking the search for more.

use crate::color::Depth;

use super::model::{Colors, Model, Moves};
use super::step::DISTANCE;

/// How colors are rounded.
struct Grain {
    /// About as far as two neighbours are from one another, in OKLab.
    near: f64,
    /// How many such steps around a color are looked at.
    far: i32,
    /// The share of its target below which a ratio is not short by rounding.
    nearly: f64,
    /// The CIEDE2000 difference by which no distance is short by rounding.
    short: f64,
}

/// Of 8 bits.
const FINE: Grain = Grain {
    near: 0.002,
    far: 3,
    nearly: 0.95,
    short: 1.0,
};

/// Of 256 colors, most of which are steps of 40 in 255 from one another.
const COARSE: Grain = Grain {
    near: 0.015,
    far: 8,
    nearly: 0.6,
    short: 4.0,
};

/// How often all colors are gone through.
const SWEEPS: usize = 3;

/// The directions in which is looked: lighter and darker first.
const WAYS: [[i32; 2]; 8] = [
    [1, 0],
    [-1, 0],
    [0, -1],
    [0, 1],
    [1, -1],
    [-1, -1],
    [1, 1],
    [-1, 1],
];

/// Colors as they are written, and what comes of them.
pub(super) struct Rounded<'s, 'm, 'b> {
    model: &'m Model<'b>,
    grain: &'static Grain,
    moves: &'s mut Moves,
    colors: &'s mut Colors,
    needs: &'s [usize],
    aparts: &'s [usize],
    /// Which needs are pursued.
    pursued: &'s [bool],
    /// The ratio of each need that is looked at and pursued.
    pub(super) ratios: Vec<f64>,
    /// How far each distance that is looked at is from its least.
    pub(super) shorts: Vec<f64>,
}

/// What hangs on a variable, what is not met first.
struct Around {
    needs: Vec<usize>,
    aparts: Vec<usize>,
}

impl<'s, 'm, 'b> Rounded<'s, 'm, 'b> {
    /// The colors of some needs and distances where they have moved to.
    pub(super) fn new(
        model: &'m Model<'b>,
        (needs, aparts): (&'s [usize], &'s [usize]),
        pursued: &'s [bool],
        moves: &'s mut Moves,
        colors: &'s mut Colors,
    ) -> Self {
        let mut ratios = vec![f64::MAX; model.needs.len()];
        for i in needs.iter().filter(|i| pursued[**i]) {
            ratios[*i] = model.ratio(&model.needs[*i], colors);
        }
        let mut shorts = vec![0.0; model.aparts.len()];
        for i in aparts {
            shorts[*i] = model.short(*i, colors);
        }
        Self {
            model,
            grain: match model.conditions.depth {
                Depth::Indexed256 => &COARSE,
                _ => &FINE,
            },
            moves,
            colors,
            needs,
            aparts,
            pursued,
            ratios,
            shorts,
        }
    }

    /// Looks around the colors that may move and whose demands are short by rounding.
    pub(super) fn look_around(&mut self, is_active: &[bool]) {
        for _ in 0..SWEEPS {
            let mut changed = false;
            for variable in self.short_by_rounding() {
                changed |= is_active[variable] && self.settle(variable);
            }
            if !changed {
                break;
            }
        }
    }

    /// The variables that have a demand which is nearly met, and none that is far from it; what moves least
    /// readily last, since it may not have to by then.
    fn short_by_rounding(&self) -> Vec<usize> {
        let model = self.model;
        let (mut nearly, mut lost) = (Vec::new(), vec![false; self.moves.len()]);
        let mut note = |variables: &[usize], is_near: bool| match is_near {
            true => nearly.extend(variables),
            false => variables.iter().for_each(|v| lost[*v] = true),
        };
        for i in self.needs {
            let need = &model.needs[*i];
            let share = self.ratios[*i] / need.target;
            if share < 1.0 {
                note(&need.variables, share > self.grain.nearly);
            }
        }
        for i in self.aparts {
            if self.shorts[*i] > 0.0 {
                let is_near = self.shorts[*i] < self.grain.short;
                note(&model.aparts[*i].variables, is_near);
            }
        }
        nearly.retain(|v: &usize| !lost[*v]);
        nearly.sort_by(|a, b| {
            let weight = |v: usize| model.vars[v].weight;
            weight(*a).total_cmp(&weight(*b)).then(a.cmp(b))
        });
        nearly.dedup();
        nearly
    }

    /// Takes a variable to the best place around; whether it is another one.
    fn settle(&mut self, variable: usize) -> bool {
        let here = self.moves[variable];
        let around = self.around(variable);
        let cost = |m: [f64; 2]| m[0] * m[0] + m[1] * m[1];
        let mut best = (self.missing(&around, f64::MAX), cost(here), here);
        for far in 1..=self.grain.far {
            if best.0 == 0.0 {
                break;
            }
            for way in WAYS {
                let [l, c] = way.map(|w| f64::from(far * w) * self.grain.near);
                let there = [here[0] + l, here[1] + c];
                let costs = cost(there);
                if best.0 == 0.0 && costs >= best.1 {
                    continue;
                }
                self.take(variable, there);
                let missing = self.missing(&around, best.0);
                if missing < best.0 || (missing == 0.0 && costs < best.1) {
                    best = (missing, costs, there);
                }
            }
        }
        self.take(variable, best.2);
        if best.2 == here {
            return false;
        }
        for i in &around.needs {
            self.ratios[*i] = self.model.ratio(&self.model.needs[*i], self.colors);
        }
        for i in &around.aparts {
            self.shorts[*i] = self.model.short(*i, self.colors);
        }
        true
    }

    fn take(&mut self, variable: usize, there: [f64; 2]) {
        self.moves[variable] = there;
        self.model.rewrite(variable, self.moves, self.colors);
    }

    fn around(&self, variable: usize) -> Around {
        let hangs = &self.model.hangs[variable];
        let pursued = hangs.needs.iter().copied().filter(|i| self.pursued[*i]);
        let is_met = |i: &usize| self.ratios[*i] >= self.model.needs[*i].target;
        let (met, mut needs): (Vec<usize>, _) = pursued.partition(is_met);
        needs.extend(met);
        let is_kept = |i: &usize| self.shorts[*i] == 0.0;
        let (kept, mut aparts): (Vec<usize>, _) = hangs.aparts.iter().partition(|i| is_kept(i));
        aparts.extend(kept);
        Around { needs, aparts }
    }

    /// How far demands are from being met, needs in logarithms; once it is too much, no further.
    fn missing(&self, around: &Around, most: f64) -> f64 {
        let mut sum = 0.0;
        for i in &around.needs {
            let need = &self.model.needs[*i];
            let ratio = self.model.ratio(need, self.colors);
            if ratio < need.target {
                sum += (need.target / ratio).ln();
                if sum > most {
                    return sum;
                }
            }
        }
        for i in &around.aparts {
            sum += DISTANCE * self.model.short(*i, self.colors);
            if sum > most {
                return sum;
            }
        }
        sum
    }
}
