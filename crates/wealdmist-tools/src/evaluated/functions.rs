//! The functions a startup file makes, where it may depend on something what each does.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use super::Ground;
use super::state::Why;

/// What a function may do; `None` where there is no such function.
pub type Body<N> = Option<(Arc<N>, Ground)>;

/// The functions by their name: what each may do, with what that depends on.
pub type Functions<N> = BTreeMap<String, Vec<(Option<Why>, Body<N>)>>;

/// The most that one may do.
const MOST: usize = 8;

fn same<N>(a: &Body<N>, b: &Body<N>) -> bool {
    match (a, b) {
        (Some(a), Some(b)) => Arc::ptr_eq(&a.0, &b.0),
        (None, None) => true,
        _ => false,
    }
}

/// The functions there are after a condition that is not known.
pub fn joined<N>(branches: &[(Why, Functions<N>)]) -> Functions<N> {
    let names: BTreeSet<String> = branches
        .iter()
        .flat_map(|(_, f)| f.keys().cloned())
        .collect();
    let of = |name: String| {
        let mut all: Vec<(Option<Why>, Body<N>)> = Vec::new();
        for (why, functions) in branches {
            let none = vec![(None, None)];
            for (own, body) in functions.get(&name).unwrap_or(&none) {
                if !all.iter().any(|(_, known)| same(known, body)) {
                    let why = own.clone().or_else(|| Some(Arc::clone(why)));
                    all.push((why, body.clone()));
                }
            }
        }
        if let [(why, _)] = all.as_mut_slice() {
            *why = None;
        }
        all.truncate(MOST);
        (name, all)
    };
    names.into_iter().map(of).collect()
}
