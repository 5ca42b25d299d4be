//! Slow work beside the interface. Work of one kind never runs twice at a time: what is asked for
//! meanwhile waits, the latest only, and what comes of work that was asked for before it is dropped.

use std::any::Any;
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fmt;

/// What comes of work, for whoever asked for it.
pub type AnyAnswer = Box<dyn Any + Send>;
/// Work to be done.
pub type Work<W> = Box<dyn FnOnce() -> W + Send>;

/// Work asked for.
pub struct Job<W> {
    /// What kind of work it is: of two, the latest counts.
    pub lane: Cow<'static, str>,
    /// What is said while it is under way; empty for work not worth a word.
    pub says: &'static str,
    /// Whether nothing else may read the terminal meanwhile.
    pub at_terminal: bool,
    /// The work.
    pub work: Work<W>,
}

impl<W: Send + 'static> Job<W> {
    /// Work of a kind, with what is said while it is under way.
    pub fn new(
        lane: impl Into<Cow<'static, str>>,
        says: &'static str,
        work: impl FnOnce() -> W + Send + 'static,
    ) -> Self {
        Self {
            lane: lane.into(),
            says,
            at_terminal: false,
            work: Box::new(work),
        }
    }

    /// The same work while nothing else reads the terminal.
    #[must_use]
    pub fn at_terminal(self) -> Self {
        Self {
            at_terminal: true,
            ..self
        }
    }

    /// The same work, whatever comes of it.
    #[must_use]
    pub fn erased(self) -> Job<AnyAnswer> {
        let work = self.work;
        Job {
            lane: self.lane,
            says: self.says,
            at_terminal: self.at_terminal,
            work: Box::new(move || Box::new(work())),
        }
    }
}

impl<W> fmt::Debug for Job<W> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Job")
            .field("lane", &self.lane)
            .finish_non_exhaustive()
    }
}

/// Who asked for work, for what, and when.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Ticket {
    /// Who asked.
    pub owner: u64,
    /// What kind of work it is.
    pub lane: Cow<'static, str>,
    generation: u64,
}

/// Work to be started now.
pub struct Started {
    /// To be handed in with what comes of it.
    pub ticket: Ticket,
    /// The work.
    pub job: Job<AnyAnswer>,
}

impl fmt::Debug for Started {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "Started({})", self.ticket.lane)
    }
}

#[derive(Default)]
struct Lane {
    generation: u64,
    says: &'static str,
    next: Option<Job<AnyAnswer>>,
}

/// The work under way and waiting.
#[derive(Default)]
pub struct Jobs {
    /// Those in which work is under way.
    lanes: BTreeMap<(u64, Cow<'static, str>), Lane>,
}

impl Jobs {
    /// Asks for work. `None` where work of the kind is under way: it waits then.
    pub fn ask(&mut self, owner: u64, job: Job<AnyAnswer>) -> Option<Started> {
        let key = (owner, job.lane.clone());
        if let Some(lane) = self.lanes.get_mut(&key) {
            lane.generation += 1;
            lane.says = job.says;
            lane.next = Some(job);
            return None;
        }
        self.lanes.insert(
            key,
            Lane {
                generation: 0,
                says: job.says,
                next: None,
            },
        );
        let ticket = Ticket {
            owner,
            lane: job.lane.clone(),
            generation: 0,
        };
        Some(Started { ticket, job })
    }

    /// Work has come to an end. Whether what came of it still counts, and what is to be started next.
    pub fn ended(&mut self, ticket: &Ticket) -> (bool, Option<Started>) {
        let key = (ticket.owner, ticket.lane.clone());
        let Some(lane) = self.lanes.get_mut(&key) else {
            return (false, None);
        };
        let counts = lane.generation == ticket.generation;
        let Some(job) = lane.next.take() else {
            self.lanes.remove(&key);
            return (counts, None);
        };
        let ticket = Ticket {
            generation: lane.generation,
            ..ticket.clone()
        };
        (counts, Some(Started { ticket, job }))
    }

    /// What is under way, in words.
    pub fn says(&self) -> Option<&'static str> {
        let words = self.lanes.values().map(|l| l.says);
        words.into_iter().find(|w| !w.is_empty())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn job(n: u32) -> Job<AnyAnswer> {
        Job::new("counting", "counting", move || n).erased()
    }

    fn run(started: Started) -> (Ticket, u32) {
        let answer = (started.job.work)();
        (started.ticket, *answer.downcast::<u32>().unwrap())
    }

    #[test]
    fn one_runs_one_waits_and_the_latest_counts() {
        let mut jobs = Jobs::default();
        let first = jobs.ask(7, job(1)).expect("nothing is under way");
        assert!(jobs.ask(7, job(2)).is_none());
        assert!(jobs.ask(7, job(3)).is_none());
        assert_eq!(jobs.says(), Some("counting"));
        let (ticket, _) = run(first);
        let (counts, next) = jobs.ended(&ticket);
        assert!(!counts, "something later was asked for");
        let (ticket, answer) = run(next.expect("it waits"));
        assert_eq!(answer, 3);
        let (counts, next) = jobs.ended(&ticket);
        assert!(counts && next.is_none() && jobs.says().is_none());
        // What is handed in twice counts once.
        assert!(!jobs.ended(&ticket).0);
    }

    #[test]
    fn others_do_not_wait() {
        let mut jobs = Jobs::default();
        assert!(jobs.ask(1, job(1)).is_some());
        assert!(jobs.ask(2, job(1)).is_some());
        let other = Job::new("other", "", || ()).erased();
        assert!(jobs.ask(1, other).is_some());
    }
}
