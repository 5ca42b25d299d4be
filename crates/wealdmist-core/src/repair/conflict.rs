//! Why a pair cannot be met: the demands that contradict one another.
//!
//! What luminances cannot meet contradicts (`luminances`), which is proved; the fewest demands that do are
//! looked for.
//!
//! What contradicts the distances that colors have to keep is found by trying.

use super::Request;
use super::luminances::{Proofs, Together};
use super::model::{Model, Need};
use super::solve::Solver;

/// How many demands are at most looked at in threes.
const IN_THREES: usize = 24;
/// How many distances are left out in turn.
const DISTANCES: usize = 16;

/// Why a need is not met, as the setup is now. `tries` tells whether distances are left out to find out which
/// are in the way.
pub(super) fn why(request: &Request, proofs: &Proofs, need: usize, tries: bool) -> String {
    let (model, free) = (proofs.model, proofs.free);
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
    match contradiction(proofs, need, &held) {
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
fn contradiction(proofs: &Proofs, need: usize, held: &[usize]) -> Option<Vec<usize>> {
    let model = proofs.model;
    let contradict = |others: &[usize]| {
        let mut all = vec![need];
        all.extend(others);
        proofs.hold(&all) == Together::Never
    };
    if contradict(&[]) {
        return Some(Vec::new());
    }
    if !contradict(held) {
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
    let mut kept = held.to_vec();
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
