//! One quadratic program: the least weighted sum of squares of moves that meets linear demands.
//!
//! Solved in its dual by Hildreth's method (C. Hildreth, "A quadratic programming procedure", 1957):
//! one multiplier per demand, raised in turn until nothing is violated. A multiplier is bounded by
//! what it costs to miss its demand, so what contradicts leaves the rest alone.

use super::model::{Moves, Var};

/// Sweeps over the demands.
const SWEEPS: usize = 80;

/// A demand near which the moves are, as a linear function of them.
pub(super) struct Row {
    /// What it is about, the same from one program to the next.
    pub(super) about: usize,
    /// The most it may cost to miss it by 1.
    pub(super) most: f64,
    pub(super) parts: Vec<(usize, f64)>,
    pub(super) least: f64,
    /// The colors that hang together with it and are held still.
    pub(super) held: Vec<usize>,
}

/// What a program came to.
pub(super) struct Solved {
    /// Where each variable is wanted.
    pub(super) moves: Moves,
    /// How far it is from the worst demand still, as a weighted move.
    pub(super) missing: f64,
    /// The colors held still at demands that hold others back.
    pub(super) wants: Vec<usize>,
}

/// The least weighted sum of squares that meets the rows, as far as they can be met. `known` holds the
/// multipliers of the program before, by what rows are about, and gets those of this one.
pub(super) fn program(vars: &[Var], rows: &[Row], known: &mut [f64]) -> Solved {
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
    let tight = rows.iter().zip(&multipliers).filter(|(_, m)| **m > 0.0);
    let wants = tight.flat_map(|(row, _)| &row.held).copied().collect();
    let missing = rows.iter().zip(&scales).map(|(row, scale)| {
        let value: f64 = row.parts.iter().map(|(k, a)| a * x[*k]).sum();
        (row.least - value) / scale.sqrt()
    });
    Solved {
        missing: missing.fold(0.0, f64::max),
        moves: x.chunks(2).map(|c| [c[0], c[1]]).collect(),
        wants,
    }
}
