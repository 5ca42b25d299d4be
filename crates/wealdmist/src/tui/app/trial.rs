//! Trials: this terminal, and running programs, wearing what the specimen wears.

use wealdmist_core::color::reset_all;
use wealdmist_core::setup::SetupDoc;

use super::{App, Effect};
use crate::command::trial_sequences;

impl App {
    /// What trials need to show what is worn now.
    pub(super) fn follow_trials(&mut self) -> Vec<Effect> {
        let mut out = Vec::new();
        if self.trial && self.worn_is_stale() {
            out.extend(self.wear());
        }
        if self
            .tried
            .as_deref()
            .is_some_and(|t| t != self.worn_doc().text())
        {
            out.extend(self.wear_around());
        }
        out
    }

    /// The setup the specimen wears.
    fn worn_doc(&self) -> &SetupDoc {
        match &self.proposal {
            Some(p) if !p.shows_before => &p.candidate().doc,
            _ => &self.survey.doc,
        }
    }

    fn wear_around(&mut self) -> Vec<Effect> {
        let doc = self.worn_doc().clone();
        self.tried = Some(doc.text().to_owned());
        vec![Effect::TryOn(Some(Box::new(doc)))]
    }

    pub(super) fn toggle_trial_around(&mut self) -> Vec<Effect> {
        if self.tried.take().is_some() {
            self.tell("running tmux and Neovim have what their files say again");
            return vec![Effect::TryOn(None)];
        }
        self.tell("running tmux and Neovim wear the draft; T, applying, or leaving takes it back");
        self.wear_around()
    }

    pub(super) fn toggle_trial(&mut self) -> Vec<Effect> {
        if self.trial {
            self.trial = false;
            self.apply.worn.clear();
            self.tell("the terminal has its own colors again");
            return vec![Effect::Wear(reset_all())];
        }
        self.trial = true;
        self.tell("this terminal wears the draft now; t, or leaving, takes it back");
        self.wear()
    }

    fn wear(&mut self) -> Vec<Effect> {
        self.apply.worn = trial_sequences(self.worn_look());
        vec![Effect::Wear(self.apply.worn.clone())]
    }

    fn worn_is_stale(&self) -> bool {
        trial_sequences(self.worn_look()) != self.apply.worn
    }
}
