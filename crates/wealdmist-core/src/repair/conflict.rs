//! Why a pair cannot be met: the demands that contradict one another.
//!
//! Seen plainly, or with another vision and nothing else, a ratio hangs on two luminances alone: of the colors, or of
//! what they look like then, which may be any for a color that is not known. Each demand then says that the logarithms of
//! two luminances (plus 0.05) differ by at least that of its target, one way round or the other; a
//! luminance lies between black and white, or is what it is where its color may not move. Whether such
//! demands can hold together is decided exactly: one way round after the other is chosen, and the
//! shortest paths between the luminances tell whether the differences chosen so far contradict one
//! another, as they do just where a circle of them sums up to less than nothing (R. Shostak,
//! "Deciding linear inequalities by computing loop residues", 1981). What no luminances can meet no
//! colors can, so a contradiction found is proved. It is looked for among few demands first.
//!
//! What contradicts the distances that colors have to keep is found by trying.

use std::collections::HashMap;

use super::Request;
use super::model::{Model, Need, Term};
use super::solve::Solver;
use crate::color::{Depth, Rgb, relative_luminance};

/// How many choices are followed before a question is left open.
const CHOICES: usize = 4000;
/// How many demands are at most looked at in threes.
const IN_THREES: usize = 24;
/// How many distances are left out in turn.
const DISTANCES: usize = 16;

/// Why a need is not met, as the setup is now. `tries` tells whether distances are left out to find out which
/// are in the way.
pub(super) fn why(
    request: &Request,
    model: &Model,
    free: &[bool],
    need: usize,
    tries: bool,
) -> String {
    let wanted = &model.needs[need];
    let name = |v: &usize| model.vars[*v].origin.to_string();
    let movable = wanted.variables.iter().filter(|v| free[**v]);
    let movable: Vec<String> = movable.map(name).collect();
    if movable.is_empty() {
        let locked = wanted.variables.iter().filter(|v| model.vars[**v].locked);
        let locked: Vec<String> = locked.map(name).collect();
        return match locked.as_slice() {
            [] => "none of its colors may move here".to_owned(),
            names => format!("locked: {}", names.join(", ")),
        };
    }
    let held: Vec<usize> = (0..model.needs.len())
        .filter(|i| *i != need && model.needs[*i].before >= model.needs[*i].target)
        .collect();
    let told = |others: &[usize]| {
        let all = others.iter().map(|i| called(request, model, *i));
        listed(&all.collect::<Vec<_>>())
    };
    match contradiction(model, free, need, &held) {
        Some(others) if others.is_empty() => format!(
            "{} alone cannot reach {}:1 at any lightness",
            listed(&movable),
            wanted.target
        ),
        Some(others) => {
            let mut all = others.clone();
            all.push(need);
            let fixed = with_locked(&fixed_names(model, free, &all));
            format!("contradicts {} at any lightness{fixed}", told(&others))
        }
        None => {
            let alike = tries.then(|| too_near(model, free, need, &held)).flatten();
            alike.unwrap_or_else(|| {
                let fixed = with_locked(&fixed_names(model, free, &[need]));
                format!("no place was found for it beside what can be read{fixed}")
            })
        }
    }
}

/// What to add of locked colors.
fn with_locked(names: &[String]) -> String {
    match names {
        [] => String::new(),
        names => format!(", with {} locked", listed(names)),
    }
}

/// Names as a person would list them.
fn listed(names: &[String]) -> String {
    match names {
        [] => String::new(),
        [one] => one.clone(),
        [rest @ .., last] => format!("{} and {last}", rest.join(", ")),
    }
}

/// A need for people.
fn called(request: &Request, model: &Model, need: usize) -> String {
    let target = model.needs[need].target;
    match model.need_of.iter().position(|n| *n == need) {
        Some(wish) => {
            let wish = &request.wishes[wish];
            format!("{} on {} ({target}:1)", wish.text, wish.ground)
        }
        None => format!("a pair that can be read without the conditions ({target}:1)"),
    }
}

/// The locked colors among those of needs.
fn fixed_names(model: &Model, free: &[bool], needs: &[usize]) -> Vec<String> {
    let all = needs.iter().flat_map(|i| &model.needs[*i].variables);
    let mut out: Vec<String> = all
        .filter(|v| model.vars[**v].locked && !free[**v])
        .map(|v| model.vars[*v].origin.to_string())
        .collect();
    out.sort_unstable();
    out.dedup();
    out
}

/// The demands among those held that contradict a need: none where it contradicts itself; `None` where
/// there is no contradiction, or none was found.
fn contradiction(model: &Model, free: &[bool], need: usize, held: &[usize]) -> Option<Vec<usize>> {
    if !hangs_on_luminance(model, &model.needs[need]) {
        return is_too_faint(model, free, &model.needs[need]).then(Vec::new);
    }
    let held: Vec<usize> = held
        .iter()
        .copied()
        .filter(|i| hangs_on_luminance(model, &model.needs[*i]))
        .collect();
    let contradict = |others: &[usize]| {
        let mut all = vec![need];
        all.extend(others);
        Luminances::of(model, free, &all).hold() == Together::Never
    };
    if contradict(&[]) {
        return Some(Vec::new());
    }
    if !contradict(&held) {
        return None;
    }
    if let Some(one) = held.iter().find(|i| contradict(&[**i])) {
        return Some(vec![*one]);
    }
    // One after the other is left out, those first that have no color in common with it.
    let near = |i: &usize| {
        let own = &model.needs[need].variables;
        model.needs[*i].variables.iter().any(|v| own.contains(v))
    };
    let mut kept = held;
    kept.sort_by_key(near);
    let mut i = 0;
    while i < kept.len() {
        let mut fewer = kept.clone();
        fewer.remove(i);
        if contradict(&fewer) {
            kept = fewer;
        } else {
            i += 1;
        }
    }
    if kept.len() > 2 && kept.len() <= IN_THREES {
        let twos = (0..kept.len()).flat_map(|a| (a + 1..kept.len()).map(move |b| (a, b)));
        let mut twos = twos.map(|(a, b)| vec![kept[a], kept[b]]);
        if let Some(two) = twos.find(|two| contradict(two)) {
            return Some(two);
        }
    }
    Some(kept)
}

/// Whether a need's ratio is that of two luminances, as they are or as a vision has them.
fn hangs_on_luminance(model: &Model, need: &Need) -> bool {
    is_seen_itself(model, need) && model.conditions_of(need).left(&need.sight) >= 1.0
}

/// Whether a need's colors are seen in all their bits, and nothing through the ground.
fn is_seen_itself(model: &Model, need: &Need) -> bool {
    let conditions = model.conditions_of(need);
    let is_whole = matches!(conditions.depth, Depth::TrueColor | Depth::None);
    is_whole && (!need.through || conditions.marks().is_empty())
}

/// Whether a text of which the ground takes a part cannot be read on it in any color, where the ground may not move:
/// what is left of a text is lighter or darker than all else where it is white or black.
fn is_too_faint(model: &Model, free: &[bool], need: &Need) -> bool {
    let mut below = Vec::new();
    model.terms[need.ground].variables(&mut below);
    let is_still = |v: &usize| !free[*v];
    let is_full = model.conditions_of(need).vision.is_full();
    if !is_full || !is_seen_itself(model, need) || !below.iter().all(is_still) {
        return false;
    }
    let colors = model.all_written(&vec![[0.0; 2]; model.vars.len()]);
    let ground = colors.get(need.ground);
    let ends = [Rgb::new(0, 0, 0), Rgb::new(255, 255, 255)];
    let reached = |text| model.ratio_of(need, [text, ground], || model.slots(&colors));
    ends.into_iter().all(|text| reached(text) < need.target)
}

/// Differences of logarithms of luminances, and which way round each need is.
#[derive(Clone)]
struct Luminances {
    /// The most by which one may be above another, row by row; the first is that of no light.
    most: Vec<f64>,
    count: usize,
    /// For each need still open: text, ground, the least difference one way round and the other, and which it
    /// is.
    open: Vec<(usize, usize, f64, f64, usize)>,
    /// For each need whether its text is the lighter one, as far as that was chosen.
    lighter: Vec<bool>,
    /// Whether they contradict one another.
    broken: bool,
}

impl Luminances {
    fn of(model: &Model, free: &[bool], needs: &[usize]) -> Self {
        // For each variable what it is plainly, and what it looks like, are places of their own.
        let mut at: HashMap<(usize, bool), usize> = HashMap::new();
        let still = vec![[0.0; 2]; model.vars.len()];
        let mut count = 1;
        let mut open = Vec::new();
        for (which, i) in needs.iter().enumerate() {
            let need = &model.needs[*i];
            let vision = model.conditions_of(need).vision;
            let mut end = |term: usize| {
                let follows = |v: usize| match &model.terms[term] {
                    // A mix that is not held follows what it mixes.
                    Term::Shift(..) => true,
                    _ => free[v],
                };
                match model.terms[term].own() {
                    Some(v) if follows(v) => {
                        let place = *at.entry((v, vision.is_full())).or_insert_with(|| {
                            count += 1;
                            count - 1
                        });
                        (place, 0.0)
                    }
                    _ => {
                        let color = model.written(&model.terms[term], &still);
                        (0, (relative_luminance(vision.see(color)) + 0.05).ln())
                    }
                }
            };
            let ((text, t), (ground, g)) = (end(need.text), end(need.ground));
            let least = need.target.ln() - 1e-9;
            open.push((text, ground, least - t + g, least + t - g, which));
        }
        let mut out = Self {
            most: vec![f64::INFINITY; count * count],
            count,
            lighter: vec![true; open.len()],
            open,
            broken: false,
        };
        for i in 0..count {
            out.most[i * count + i] = 0.0;
        }
        for i in 1..count {
            out.most[i] = 1.05_f64.ln();
            out.most[i * count] = -(0.05_f64.ln());
        }
        // Two of them can differ as black and white do.
        for i in 1..count {
            for j in (1..count).filter(|j| *j != i) {
                out.most[i * count + j] = 21.0_f64.ln();
            }
        }
        out
    }

    /// The most by which `upper` may be above `lower`.
    fn most(&self, lower: usize, upper: usize) -> f64 {
        self.most[lower * self.count + upper]
    }

    /// Whether `upper` may be above `lower` by a difference.
    fn may(&self, lower: usize, upper: usize, least: f64) -> bool {
        self.most(lower, upper) >= least
    }

    /// Takes it that `upper` is above `lower` by at least a difference.
    fn take(&mut self, lower: usize, upper: usize, least: f64) {
        if !self.may(lower, upper, least) {
            self.broken = true;
            return;
        }
        // `lower` is above `upper` by no more than what is left.
        for i in 0..self.count {
            for j in 0..self.count {
                let around = self.most(i, upper) - least + self.most(lower, j);
                let place = &mut self.most[i * self.count + j];
                *place = place.min(around);
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
            let mut only = None;
            let mut still_open = Vec::new();
            for one in std::mem::take(&mut self.open) {
                let (text, ground, up, down, which) = one;
                let is_up = -self.most(text, ground) >= up;
                if is_up || -self.most(ground, text) >= down {
                    self.lighter[which] = is_up;
                    continue;
                }
                let may = (self.may(ground, text, up), self.may(text, ground, down));
                match may {
                    (true, true) => still_open.push(one),
                    _ if only.is_some() => still_open.push(one),
                    (false, false) => return Together::Never,
                    (true, false) => only = Some((ground, text, up)),
                    (false, true) => only = Some((text, ground, down)),
                }
                if may.0 != may.1 {
                    self.lighter[which] = may.0;
                }
            }
            self.open = still_open;
            match only {
                Some((lower, upper, least)) => self.take(lower, upper, least),
                None => break,
            }
        }
        let Some((text, ground, up, down, which)) = self.open.pop() else {
            return Together::So(std::mem::take(&mut self.lighter));
        };
        if *choices == 0 {
            return Together::Unknown;
        }
        *choices -= 1;
        let mut unknown = false;
        let mut ways = [(ground, text, up, true), (text, ground, down, false)];
        if !self.lighter[which] {
            ways.reverse();
        }
        for (lower, upper, least, lighter) in ways {
            let mut there = self.clone();
            there.lighter[which] = lighter;
            there.take(lower, upper, least);
            match there.follow(choices) {
                Together::Never => {}
                Together::Unknown => unknown = true,
                so @ Together::So(_) => return so,
            }
        }
        match unknown {
            true => Together::Unknown,
            false => Together::Never,
        }
    }
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
    let plain = |i: &usize| hangs_on_luminance(model, &model.needs[*i]);
    if !needs.iter().all(plain) {
        return Together::Unknown;
    }
    let mut all = Luminances::of(model, free, needs);
    all.lighter = needs.iter().map(|i| lighter[*i]).collect();
    all.hold()
}

/// The colors that would become too alike, where distances are what is in the way.
fn too_near(model: &Model, free: &[bool], need: usize, held: &[usize]) -> Option<String> {
    let mut needs = vec![need];
    needs.extend(held);
    let own = &model.needs[need].variables;
    let (near, far): (Vec<usize>, Vec<usize>) = (0..model.aparts.len()).partition(|a| {
        let variables = &model.aparts[*a].variables;
        variables.iter().any(|v| own.contains(v) && free[*v])
    });
    let can = |aparts: &[usize]| {
        let few = model.limited(&needs, aparts);
        let colors = few.all_written(&Solver::new(&few, free).search());
        let met = |n: &Need| few.ratio(n, &colors) >= n.target;
        let apart = few.aparts.iter().all(|a| few.apart(a, &colors) >= a.least);
        few.needs.iter().all(met) && apart
    };
    if near.len() > DISTANCES || !can(&far) {
        return None;
    }
    let mut kept: Vec<usize> = near;
    let mut i = 0;
    while i < kept.len() {
        let fewer: Vec<usize> = kept.iter().copied().filter(|a| *a != kept[i]).collect();
        let all: Vec<usize> = far.iter().chain(&fewer).copied().collect();
        if can(&all) {
            i += 1;
        } else {
            kept = fewer;
        }
    }
    let twos = kept.iter().map(|a| {
        let apart = &model.aparts[*a];
        let names = [apart.one, apart.other].map(|t| model.role(t));
        format!("{} and {}", names[0], names[1])
    });
    let twos: Vec<String> = twos.collect();
    (!twos.is_empty()).then(|| format!("would make too alike {}", twos.join(", ")))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Differences among three luminances and two that stay, by their logarithms.
    fn among(fixed: [f64; 2], needs: &[(usize, usize, f64)]) -> Luminances {
        let count = 4;
        let mut out = Luminances {
            most: vec![21.0_f64.ln(); count * count],
            count,
            open: Vec::new(),
            lighter: vec![true; needs.len()],
            broken: false,
        };
        for i in 0..count {
            out.most[i * count + i] = 0.0;
            if i > 0 {
                out.most[i] = 1.05_f64.ln();
                out.most[i * count] = -(0.05_f64.ln());
            }
        }
        // The first three are free.
        let end = |i: usize| {
            if i < 3 {
                (i + 1, 0.0)
            } else {
                (0, fixed[i - 3])
            }
        };
        for (which, (text, ground, target)) in needs.iter().enumerate() {
            let ((text, t), (ground, g), least) = (end(*text), end(*ground), target.ln());
            out.open
                .push((text, ground, least - t + g, least + t - g, which));
        }
        out
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
