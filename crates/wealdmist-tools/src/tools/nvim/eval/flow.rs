//! What leaves blocks early, and what happens where a condition is not known: each side is gone, and
//! what they changed becomes alternatives.

use std::sync::Arc;

use super::Editor;
use super::value::{Change, Table, Truth, Value};
use crate::evaluated::state::Why;

/// What leaves a block early.
#[derive(Debug, Clone)]
pub(super) enum Stop {
    /// A function is left, with what it gives.
    Return(Vec<Value>),
    /// A loop is left.
    Break,
    /// A loop goes on with its next round.
    Continue,
    /// A script is left.
    Finish,
    /// Something is wrong.
    Error(Why),
    /// Something was wrong that nothing caught: every file is left that led there.
    Thrown,
}

pub(super) type Run<T> = Result<T, Stop>;

/// What was left under a condition: what it changed until then. What goes on without it is in doubt
/// until the place is reached that it was left for.
pub(super) struct Park {
    left: Why,
    on: Why,
    change: Change,
    pub(super) stop: Stop,
    /// The first table that was made there.
    first: Table,
}

impl Editor<'_> {
    /// Goes one way or the other, or both.
    pub(super) fn decide(
        &mut self,
        truth: Truth,
        go: &mut dyn FnMut(&mut Self, bool) -> Run<()>,
    ) -> Run<()> {
        match truth {
            Truth::Yes => go(self, true),
            Truth::No => go(self, false),
            Truth::Open(yes, no) => self.fork(&[yes, no], &mut |this, side| go(this, side == 0)),
        }
    }

    /// Does something, or perhaps, where that depends on something.
    pub(super) fn perhaps(
        &mut self,
        why: Option<&Why>,
        go: &mut dyn FnMut(&mut Self) -> Run<()>,
    ) -> Run<()> {
        let Some(why) = why else {
            return go(self);
        };
        let otherwise = format!("{why}, otherwise").into();
        self.fork(
            &[Arc::clone(why), otherwise],
            &mut |this, side| match side {
                0 => go(this),
                _ => Ok(()),
            },
        )
    }

    /// Goes several ways.
    pub(super) fn fork(
        &mut self,
        whys: &[Why],
        go: &mut dyn FnMut(&mut Self, usize) -> Run<()>,
    ) -> Run<()> {
        let base = self.parked.len();
        let depth = self.whys.len();
        let first_table = self.store.next();
        let mut went: Vec<(Why, Change)> = Vec::new();
        let mut left: Vec<(Why, Change, Stop)> = Vec::new();
        for (side, why) in whys.iter().enumerate() {
            self.store.doubt();
            self.whys.push(Arc::clone(why));
            let outcome = go(self, side);
            let first = left.len();
            while self.parked.len() > base {
                let Some(park) = self.parked.pop() else { break };
                let rest = self.store.undo();
                let so_far = self.store.changed();
                for (_, change, _) in &mut left[first..] {
                    let later = std::mem::replace(change, so_far.clone());
                    change.extend(later);
                }
                let mut change = so_far;
                change.extend(park.change);
                left.push((park.left, change, park.stop));
                self.store.apply(rest);
            }
            self.whys.truncate(depth);
            let change = self.store.undo();
            match outcome {
                Ok(()) => went.push((Arc::clone(why), change)),
                Err(stop) => left.push((Arc::clone(why), change, stop)),
            }
        }
        if left.is_empty() {
            self.store.merge(&went, first_table);
            return Ok(());
        }
        let why_left = Arc::clone(&left[0].0);
        let stop = combined(&left);
        let changes: Vec<(Why, Change)> = left.into_iter().map(|l| (l.0, l.1)).collect();
        if went.is_empty() {
            self.store.merge(&changes, first_table);
            return Err(stop);
        }
        self.store.doubt();
        self.store.merge_or_apply(changes, first_table);
        let change = self.store.undo();
        let on = Arc::clone(&went[0].0);
        self.store.doubt();
        self.store.merge_or_apply(went, first_table);
        self.whys.push(Arc::clone(&on));
        self.parked.push(Park {
            left: why_left,
            on,
            change,
            stop,
            first: first_table,
        });
        Ok(())
    }

    /// Goes round a loop, to its end.
    pub(super) fn looped(&mut self, go: &mut dyn FnMut(&mut Self) -> Run<()>) -> Run<()> {
        let base = self.parked.len();
        let outcome = match go(self) {
            Ok(()) | Err(Stop::Break | Stop::Continue) => Ok(Vec::new()),
            Err(stop) => Err(stop),
        };
        let catches = |stop: &Stop| matches!(stop, Stop::Break | Stop::Continue);
        self.boundary(base, outcome, &catches).map(|_| ())
    }

    /// The end of what some stops are for: what was left there under a condition is one of two things.
    pub(super) fn boundary(
        &mut self,
        base: usize,
        outcome: Run<Vec<Value>>,
        catches: &dyn Fn(&Stop) -> bool,
    ) -> Run<Vec<Value>> {
        let further = self.parked[base..].iter().rposition(|p| !catches(&p.stop));
        let keep = further.map_or(base, |i| base + i + 1);
        if let Some(i) = further {
            let stop = self.parked[base + i].stop.clone();
            for park in &mut self.parked[base..base + i] {
                park.stop = stop.clone();
            }
        }
        let mut outcome = outcome;
        while self.parked.len() > keep {
            let Some(park) = self.parked.pop() else { break };
            self.whys.pop();
            let rest = self.store.undo();
            let ways = [
                (Arc::clone(&park.left), park.change),
                (Arc::clone(&park.on), rest),
            ];
            self.store.merge(&ways, park.first);
            outcome = match (park.stop, outcome) {
                (Stop::Return(given), Ok(values) | Err(Stop::Return(values))) => {
                    Err(Stop::Return(both(&park.left, &given, &park.on, &values)))
                }
                (_, Ok(values)) => Ok(values),
                // It may have been left in another way.
                _ => Ok(Vec::new()),
            };
        }
        outcome
    }
}

impl Editor<'_> {
    /// The end of what errors were caught in: where one was made, perhaps, what stands for it is done.
    pub(super) fn caught(
        &mut self,
        base: usize,
        mut outcome: Run<()>,
        catch: &mut dyn FnMut(&mut Self, &Why) -> Run<()>,
    ) -> Run<()> {
        if let Err(Stop::Error(what)) = &outcome {
            outcome = catch(self, &Arc::clone(what));
        }
        let is_error = |p: &Park| matches!(p.stop, Stop::Error(_));
        let mut open = self.parked.len();
        while open > base && self.parked.len() == open && self.parked.last().is_some_and(is_error) {
            let Some(park) = self.parked.pop() else { break };
            open -= 1;
            let Stop::Error(what) = park.stop else { break };
            self.whys.pop();
            let rest = self.store.undo();
            let (mut left, mut rest) = (Some(park.change), Some(rest));
            let whys = [park.left, park.on];
            let ended = outcome;
            outcome = self.fork(&whys, &mut |this, side| match side {
                0 => {
                    this.store.apply(left.take().unwrap_or_default());
                    catch(this, &what)
                }
                _ => {
                    this.store.apply(rest.take().unwrap_or_default());
                    ended.clone()
                }
            });
        }
        outcome
    }

    /// Where errors end what was done and no more, that is their end.
    pub(super) fn errors_end(&mut self, base: usize) {
        let mut all = self.parked[base..].iter();
        if self.trying == 0 && all.all(|p| matches!(p.stop, Stop::Error(_))) {
            let _ = self.boundary(base, Ok(Vec::new()), &|_| true);
        }
    }
}

/// What is given on one way or the other.
fn both(left: &Why, a: &[Value], on: &Why, b: &[Value]) -> Vec<Value> {
    let count = a.len().max(b.len());
    let at = |all: &[Value], i: usize| all.get(i).cloned().unwrap_or(Value::Nil);
    (0..count)
        .map(|i| {
            Value::either(vec![
                (Arc::clone(left), at(a, i)),
                (Arc::clone(on), at(b, i)),
            ])
        })
        .collect()
}

fn combined(all: &[(Why, Change, Stop)]) -> Stop {
    let mut out = all[0].2.clone();
    for (why, _, stop) in &all[1..] {
        if let (Stop::Return(a), Stop::Return(b)) = (&out, stop) {
            out = Stop::Return(both(&all[0].0, a, why, b));
        }
    }
    out
}
