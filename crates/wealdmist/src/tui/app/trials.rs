//! Trials: this terminal, or what runs around it, wears the draft for a while.

use wealdmist_core::color::reset_all;
use wealdmist_core::look::Look;
use wealdmist_core::text::counted;
use wealdmist_host::{Answer, Outcome};

use super::{App, Effect};
use crate::work::trial_sequences;

/// What is said while running programs are told of a trial.
const TRIAL_SENT: &str =
    "running programs are told to wear the draft; T, applying, or leaving takes it back";

impl App {
    pub(super) fn toggle_trial(&mut self, out: &mut Vec<Effect>) {
        if self.worn.take().is_some() {
            self.ws.tell("the terminal has its own colors again");
            out.push(Effect::Wear(reset_all()));
            return;
        }
        self.ws
            .tell("this terminal wears the draft now; t, or leaving, takes it back");
        self.wear(out);
    }

    pub(super) fn toggle_trial_around(&mut self, out: &mut Vec<Effect>) {
        if self.tried.take().is_some() {
            self.ws
                .tell("running programs have what their files say again");
            out.push(Effect::TryOn(None));
            return;
        }
        self.ws.tell(TRIAL_SENT);
        self.wear_around(out);
    }

    /// Running programs answered a trial, or there are none.
    pub(super) fn tried(&mut self, answers: Vec<Answer>) {
        let wears = |a: &&Answer| matches!(a.outcome, Outcome::Told(_) | Outcome::Shows(_));
        let count = answers.iter().filter(wears).count();
        let mut all = answers.iter();
        let none_runs = all.all(|a| matches!(a.outcome, Outcome::NotRunning));
        if none_runs {
            self.tried = None;
        }
        // What was said since then stays.
        let is_awaited = self.ws.note.as_ref();
        if is_awaited.is_some_and(|note| note.text == TRIAL_SENT) {
            match (none_runs, count) {
                (true, _) => self.ws.complain(
                    "nothing wears the draft: no program of this home runs that can be told",
                ),
                (false, 0) => self.ws.complain(
                    "no running program took the draft: v in Apply says what each answers",
                ),
                (false, _) => {
                    let count = counted(count, "running program");
                    self.ws
                        .tell(format!("{count} told to wear the draft; T takes it back"));
                }
            }
        }
        self.ws.answers = answers;
    }

    /// Takes all trials back.
    pub(super) fn end_trials(&mut self, out: &mut Vec<Effect>) {
        if self.worn.take().is_some() {
            out.push(Effect::Wear(reset_all()));
        }
        if self.tried.take().is_some() {
            out.push(Effect::TryOn(None));
        }
    }

    /// Has trials show what the specimen wears now.
    pub(super) fn follow_trials(&mut self, out: &mut Vec<Effect>) {
        let sequences = |look: &Look| trial_sequences(look);
        if self
            .worn
            .as_ref()
            .is_some_and(|w| *w != sequences(self.ws.worn_look()))
        {
            self.wear(out);
        }
        if self
            .tried
            .as_ref()
            .is_some_and(|t| t != self.ws.worn_doc().text())
        {
            self.wear_around(out);
        }
    }

    pub(super) fn wear(&mut self, out: &mut Vec<Effect>) {
        let sequences = trial_sequences(self.ws.worn_look());
        self.worn = Some(sequences.clone());
        out.push(Effect::Wear(sequences));
    }

    pub(super) fn wear_around(&mut self, out: &mut Vec<Effect>) {
        let doc = self.ws.worn_doc().clone();
        self.tried = Some(doc.text().to_owned());
        out.push(Effect::TryOn(Some(Box::new(doc))));
    }
}
