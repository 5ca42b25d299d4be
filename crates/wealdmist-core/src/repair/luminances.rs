//! Whether demands can hold together, as far as luminances tell.
//!
//! Seen plainly, or with another vision and nothing else, a ratio hangs on two luminances alone: of the
//! colors, or of what they look like then, which may be any for a color that is not known. Each demand then
//! says that the logarithms of two luminances (plus 0.05) differ by at least that of its target, one way
//! round or the other; a luminance lies between black and white, or is what it is where its color may not
//! move. Where there are 256 colors the luminances are those of what colors come to; where something
//! shows through or a part of a text is taken by its ground, what a demand asks of luminances at least is
//! found out (`seen`). Whether all that can hold together is decided exactly: one way round after the other
//! is chosen, and the shortest paths between the luminances tell whether the differences chosen so far
//! contradict one another, as they do just where a circle of them sums up to less than nothing (R. Shostak,
//! "Deciding linear inequalities by computing loop residues", 1981). What no luminances can meet no colors
//! can, so a contradiction found is proved.

use std::cell::RefCell;

use super::model::{Model, Moves, Need, Term};
use super::seen::{Asked, Seen, log};
use crate::color::{Depth, Rgb, Rounding, Vision, indexed, relative_luminance};
use crate::condition::Behind;
use crate::look::{Origin, Slots};

/// How many choices are followed before a question is left open.
const CHOICES: usize = 4000;

/// One way round of a demand: by how much the second place must at least be above the first, for each of some.
type Way = Vec<(usize, usize, f64)>;

/// A demand of which the way round is open.
#[derive(Debug, Clone)]
struct Open {
    /// Which demand it is.
    which: usize,
    /// With the text lighter, and darker; `None` where no colors meet it so.
    ways: [Option<Way>; 2],
}

/// An end of a pair: a place, what is added to it, and its color where that is known.
struct End {
    place: usize,
    plus: f64,
    color: Option<Rgb>,
}

/// Differences of logarithms of luminances, and which way round each need is.
#[derive(Clone)]
struct Luminances {
    /// The most by which one may be above another, row by row; the first is that of no light.
    most: Vec<f64>,
    count: usize,
    /// The demands still open.
    open: Vec<Open>,
    /// For each need whether its text is the lighter one, as far as that was chosen.
    lighter: Vec<bool>,
    /// Whether they contradict one another.
    broken: bool,
}

/// What is needed to find out which demands contradict one another.
pub(super) struct Proofs<'a, 'b> {
    pub(super) model: &'a Model<'b>,
    /// Which variables may move.
    pub(super) free: &'a [bool],
    still: Moves,
    slots: Slots,
    /// What was found to be asked, by kind of need.
    known: RefCell<Vec<(Kind, [Option<Asked>; 2])>>,
}

/// A target, how much of a text is left, what is behind, a ground that stays, and whether it is seen plainly.
type Kind = (f64, f64, Vec<Rgb>, Option<Rgb>, bool);

impl<'a, 'b> Proofs<'a, 'b> {
    pub(super) fn new(model: &'a Model<'b>, free: &'a [bool]) -> Self {
        let still = vec![[0.0; 2]; model.vars.len()];
        Self {
            model,
            free,
            slots: model.slots(&model.all_written(&still)),
            still,
            known: RefCell::default(),
        }
    }

    /// Whether some needs can be met together.
    pub(super) fn hold(&self, needs: &[usize]) -> Together {
        Luminances::of(self, needs).hold()
    }

    /// What a need asks where it has to be read on all of some colors behind its ground.
    fn asked(&self, need: &Need, behind: &[Rgb], ground: Option<Rgb>) -> [Option<Asked>; 2] {
        let conditions = self.model.conditions_of(need);
        let left = conditions.left(&need.sight);
        let kind: Kind = (need.target, left, behind.to_vec(), ground, need.plain);
        if let Some((_, asked)) = self.known.borrow().iter().find(|(k, _)| *k == kind) {
            return *asked;
        }
        let asked = Seen {
            target: need.target,
            left,
            opacity: conditions.opacity,
            behind,
            vision: conditions.vision,
        }
        .asked(ground);
        self.known.borrow_mut().push((kind, asked));
        asked
    }
}

/// The places of luminances.
struct Places<'p, 'a, 'b> {
    proofs: &'p Proofs<'a, 'b>,
    /// For each variable what it is plainly, what it looks like, and what each tool rounds it to, are places of
    /// their own; the first place is that of no light.
    known: Vec<(Option<usize>, Vision, Option<Rounding>)>,
    /// The least and the most of each place.
    ends: Vec<[f64; 2]>,
}

impl Places<'_, '_, '_> {
    fn end(&mut self, term: usize, need: &Need) -> End {
        let model = self.proofs.model;
        let conditions = model.conditions_of(need);
        let vision = match conditions.vision.is_full() {
            true => Vision::Full,
            false => conditions.vision,
        };
        let is_whole = matches!(conditions.depth, Depth::TrueColor | Depth::None);
        let rounding = (!is_whole).then_some(need.sight.rounding);
        let follows = |v: usize| match &model.terms[term] {
            // A mix that is not held follows what it mixes.
            Term::Shift(..) => true,
            _ => self.proofs.free[v],
        };
        if let Some(v) = model.terms[term].own().filter(|v| follows(*v)) {
            // The colors of the slots are there as they are.
            let is_slot = matches!(model.vars[v].origin, Origin::Slot(_));
            let key = (Some(v), vision, rounding.filter(|_| !is_slot));
            let known = self.known.iter().position(|k| *k == key);
            return End {
                place: known.unwrap_or_else(|| self.add(key, [log(0.0), log(1.0)])),
                plus: 0.0,
                color: None,
            };
        }
        let color = model.written(&model.terms[term], &self.proofs.still);
        let of = |color| log(relative_luminance(vision.see(color)));
        let now = conditions.in_depth(color, need.sight.rounding, &self.proofs.slots);
        let rounded = match conditions.depth {
            Depth::Indexed256 => indexed(need.sight.rounding.index(color)),
            Depth::Ansi16 => None,
            Depth::TrueColor | Depth::None => Some(color),
        };
        match rounded {
            // Once a slot has that color, or has it no longer, it comes to another.
            Some(other) if other != color => {
                let (a, b) = (of(color), of(other));
                self.among([a.min(b), a.max(b)])
            }
            None if now != color => self.among([log(0.0), log(1.0)]),
            _ => End {
                place: 0,
                plus: of(color),
                color: Some(color),
            },
        }
    }

    /// An end that may be anything between two.
    fn among(&mut self, ends: [f64; 2]) -> End {
        End {
            place: self.add((None, Vision::Full, None), ends),
            plus: 0.0,
            color: None,
        }
    }

    fn add(&mut self, key: (Option<usize>, Vision, Option<Rounding>), ends: [f64; 2]) -> usize {
        self.known.push(key);
        self.ends.push(ends);
        self.known.len() - 1
    }

    /// What a need asks: all of these.
    fn open(&mut self, which: usize, need: &Need) -> Vec<Open> {
        let (text, ground) = (self.end(need.text, need), self.end(need.ground, need));
        // How much one end is above another.
        let above = |lower: &End, upper: &End, by: f64| {
            (
                lower.place,
                upper.place,
                by - upper.plus + lower.plus - 1e-9,
            )
        };
        let model = self.proofs.model;
        let conditions = model.conditions_of(need);
        if is_seen_itself(model, need) {
            let by = need.target.ln();
            let ways = [above(&ground, &text, by), above(&text, &ground, by)];
            return vec![Open {
                which,
                ways: ways.map(|way| Some(vec![way])),
            }];
        }
        let none = End {
            place: 0,
            plus: 0.0,
            color: None,
        };
        let marks = if need.through {
            conditions.marks()
        } else {
            &[]
        };
        // Over anything a text is lighter than all or darker than all; over the places of an image that differs.
        let together = match &conditions.behind {
            Behind::Image(_) if !marks.is_empty() => marks.chunks(1).collect(),
            _ => vec![marks],
        };
        let way = |asked: Asked, [dark, light]: [&End; 2], ends: [f64; 2]| {
            let all = [
                above(&none, light, ends[1]),
                above(dark, &none, -ends[0]),
                above(dark, light, asked.apart),
            ];
            all.into_iter().filter(|w| w.2.is_finite()).collect::<Way>()
        };
        let each = together.into_iter().map(|behind| {
            let [up, down] = self.proofs.asked(need, behind, ground.color);
            let up = up.map(|a| way(a, [&ground, &text], [a.ground, a.text]));
            let down = down.map(|a| way(a, [&text, &ground], [a.text, a.ground]));
            Open {
                which,
                ways: [up, down],
            }
        });
        each.collect()
    }
}

impl Luminances {
    fn of(proofs: &Proofs, needs: &[usize]) -> Self {
        let mut places = Places {
            proofs,
            known: vec![(None, Vision::Full, None)],
            ends: vec![[0.0; 2]],
        };
        let needs = needs.iter().map(|i| &proofs.model.needs[*i]).enumerate();
        let open: Vec<Open> = needs
            .flat_map(|(which, need)| places.open(which, need))
            .collect();
        Self::among(&places.ends, open)
    }

    /// Demands on places that lie between two ends each.
    fn among(ends: &[[f64; 2]], open: Vec<Open>) -> Self {
        let count = ends.len();
        let mut most = vec![0.0; count * count];
        for (i, lower) in ends.iter().enumerate() {
            for (j, upper) in ends.iter().enumerate().filter(|(j, _)| *j != i) {
                most[i * count + j] = upper[1] - lower[0];
            }
        }
        let demands = open.iter().map(|o| o.which + 1).max().unwrap_or(0);
        Self {
            most,
            count,
            lighter: vec![true; demands],
            open,
            broken: false,
        }
    }

    /// The most by which `upper` may be above `lower`.
    fn most(&self, lower: usize, upper: usize) -> f64 {
        self.most[lower * self.count + upper]
    }

    /// Whether each part of a way may be had.
    fn may(&self, way: &Option<Way>) -> bool {
        let mut parts = way.iter().flatten();
        way.is_some() && parts.all(|(lower, upper, least)| self.most(*lower, *upper) >= *least)
    }

    /// Whether a way is had already.
    fn has(&self, way: &Option<Way>) -> bool {
        let mut parts = way.iter().flatten();
        way.is_some() && parts.all(|(lower, upper, least)| -self.most(*upper, *lower) >= *least)
    }

    /// Takes it that each second place of a way is above the first by at least what is said.
    fn take(&mut self, way: &Way) {
        for (lower, upper, least) in way {
            if self.most(*lower, *upper) < *least {
                self.broken = true;
                return;
            }
            // The lower is above the upper by no more than what is left.
            for i in 0..self.count {
                let to = self.most(i, *upper) - least;
                for j in 0..self.count {
                    let around = to + self.most(*lower, j);
                    let place = &mut self.most[i * self.count + j];
                    *place = place.min(around);
                }
            }
        }
    }

    /// Whether all can hold together.
    fn hold(&self) -> Together {
        let mut choices = CHOICES;
        self.clone().follow(&mut choices)
    }

    fn follow(&mut self, choices: &mut usize) -> Together {
        loop {
            if self.broken {
                return Together::Never;
            }
            let (mut only, mut still_open) = (None, Vec::new());
            for one in std::mem::take(&mut self.open) {
                let is_up = self.has(&one.ways[0]);
                if is_up || self.has(&one.ways[1]) {
                    self.lighter[one.which] = is_up;
                    continue;
                }
                match one.ways.each_ref().map(|way| self.may(way)) {
                    [true, true] => still_open.push(one),
                    _ if only.is_some() => still_open.push(one),
                    [false, false] => return Together::Never,
                    [is_up, _] => {
                        self.lighter[one.which] = is_up;
                        let [up, down] = one.ways;
                        only = if is_up { up } else { down };
                    }
                }
            }
            self.open = still_open;
            match only {
                Some(way) => self.take(&way),
                None => break,
            }
        }
        let Some(Open { which, ways }) = self.open.pop() else {
            return Together::So(std::mem::take(&mut self.lighter));
        };
        if *choices == 0 {
            return Together::Unknown;
        }
        *choices -= 1;
        let mut unknown = false;
        let first = self.lighter[which];
        for lighter in [first, !first] {
            let mut there = self.clone();
            there.lighter[which] = lighter;
            if let Some(way) = &ways[usize::from(!lighter)] {
                there.take(way);
                match there.follow(choices) {
                    Together::Never => {}
                    Together::Unknown => unknown = true,
                    so @ Together::So(_) => return so,
                }
            }
        }
        match unknown {
            true => Together::Unknown,
            false => Together::Never,
        }
    }
}

/// Whether a need's colors are seen as they are, so that their luminances, or those of what they come to, are all that counts.
fn is_seen_itself(model: &Model, need: &Need) -> bool {
    let conditions = model.conditions_of(need);
    let is_closed = !need.through || conditions.marks().is_empty();
    is_closed && conditions.left(&need.sight) >= 1.0
}

/// Whether demands can hold together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Together {
    /// They can, with the text of each lighter than its ground or not.
    So(Vec<bool>),
    /// They contradict one another.
    Never,
    /// That was not found out.
    Unknown,
}

/// Whether needs can be met together, as far as luminances tell; with the text of each lighter as it is now
/// where that is possible.
pub(super) fn together(
    model: &Model,
    free: &[bool],
    needs: &[usize],
    lighter: &[bool],
) -> Together {
    // What is asked at least may be had where the rest cannot.
    let is_exact = |need: &Need| {
        let depth = model.conditions_of(need).depth;
        is_seen_itself(model, need) && matches!(depth, Depth::TrueColor | Depth::None)
    };
    if !needs.iter().all(|i| is_exact(&model.needs[*i])) {
        return Together::Unknown;
    }
    let mut all = Luminances::of(&Proofs::new(model, free), needs);
    all.lighter = needs.iter().map(|i| lighter[*i]).collect();
    all.hold()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Differences among three luminances and two that stay, by their logarithms.
    fn among(fixed: [f64; 2], needs: &[(usize, usize, f64)]) -> Luminances {
        // The first three are free.
        let end = |i: usize| match i {
            0..3 => (i + 1, 0.0),
            _ => (0, fixed[i - 3]),
        };
        let open = needs
            .iter()
            .enumerate()
            .map(|(which, (text, ground, target))| {
                let ((text, t), (ground, g), least) = (end(*text), end(*ground), target.ln());
                let ways = [(ground, text, least - t + g), (text, ground, least + t - g)];
                Open {
                    which,
                    ways: ways.map(|way| Some(vec![way])),
                }
            });
        let any = [log(0.0), log(1.0)];
        Luminances::among(&[[0.0; 2], any, any, any], open.collect())
    }

    proptest! {
        #[test]
        fn what_is_said_to_contradict_holds_at_no_luminances(
            fixed in [0.0..1.0_f64, 0.0..1.0_f64],
            needs in proptest::collection::vec((0usize..3, 0usize..5, 1.5..9.0_f64), 1..7),
        ) {
            let needs: Vec<_> = needs.into_iter().filter(|n| n.0 != n.1).collect();
            let fixed = fixed.map(|y| (y + 0.05).ln());
            // A net of luminances, as narrow in their logarithms as is quick.
            let (low, high, net) = (0.05_f64.ln(), 1.05_f64.ln(), 60);
            let at = |i: usize| low + (high - low) * i as f64 / net as f64;
            // Where no luminance of the net holds even nearly, there is none.
            let holds = |near: f64| {
                (0..=net).any(|a| (0..=net).any(|b| (0..=net).any(|c| {
                    let all = [at(a), at(b), at(c), fixed[0], fixed[1]];
                    needs.iter().all(|(t, g, n)| (all[*t] - all[*g]).abs() >= n.ln() - near)
                })))
            };
            match among(fixed, &needs).hold() {
                Together::Never => prop_assert!(!holds(0.0), "{needs:?}"),
                Together::So(lighter) => {
                    prop_assert!(holds((high - low) / net as f64), "{needs:?}");
                    prop_assert_eq!(lighter.len(), needs.len());
                }
                Together::Unknown => prop_assert!(false, "few choices were not followed"),
            }
        }
    }
}
