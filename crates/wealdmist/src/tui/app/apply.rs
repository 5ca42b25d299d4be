//! The Apply bench: the hunks, which of them are left out, and what came of it.

use std::collections::BTreeSet;

use wealdmist_core::color::reset_all;
use wealdmist_core::plan::{Change, HunkId, Plan};
use wealdmist_core::role::RoleId;
use wealdmist_host::Answer;

use super::{App, Effect};

/// The pointer, what is left out, and the answers of running programs.
#[derive(Debug, Default)]
pub struct ApplyState {
    /// The row pointed at.
    pub cursor: usize,
    /// Hunks not to be applied.
    pub left_out: BTreeSet<HunkId>,
    /// What running programs answered last.
    pub answers: Vec<Answer>,
    /// The escapes of the trial as last written.
    pub worn: Vec<u8>,
}

/// A row as shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ApplyRow {
    /// A file.
    File(usize),
    /// A hunk of it.
    Hunk(HunkId),
}

impl ApplyState {
    /// The rows as shown.
    pub fn rows(&self, plan: &Plan) -> Vec<ApplyRow> {
        let mut out = Vec::new();
        for (f, edit) in plan.edits.iter().enumerate() {
            out.push(ApplyRow::File(f));
            out.extend((0..edit.hunks().len()).map(|h| ApplyRow::Hunk((f, h))));
        }
        out
    }

    /// The role the row pointed at is about.
    pub fn role(&self, plan: &Plan) -> Option<RoleId> {
        let (file, hunk) = match self.rows(plan).get(self.cursor)? {
            ApplyRow::File(_) => return None,
            ApplyRow::Hunk(id) => *id,
        };
        let edit = &plan.edits[file];
        let splices = edit.hunks().get(hunk)?.splices.clone();
        match &edit.change {
            Change::Splices(all) => splices.iter().find_map(|i| all[*i].role.clone()),
            Change::Whole(_) => None,
        }
    }

    /// Forgets what no longer exists after the plan has changed.
    pub fn keep_within(&mut self, plan: &Plan) {
        let hunks: Vec<usize> = plan.edits.iter().map(|e| e.hunks().len()).collect();
        self.left_out
            .retain(|(f, h)| hunks.get(*f).is_some_and(|n| h < n));
        self.cursor = self
            .cursor
            .min((hunks.len() + hunks.iter().sum::<usize>()).saturating_sub(1));
    }
}

impl App {
    /// Leaves out the hunk or file pointed at, or takes it in again.
    pub(super) fn leave_out(&mut self) {
        let rows = self.apply.rows(&self.plan);
        let hunks: Vec<HunkId> = match rows.get(self.apply.cursor) {
            Some(ApplyRow::Hunk(id)) => vec![*id],
            Some(ApplyRow::File(f)) => (0..self.plan.edits[*f].hunks().len())
                .map(|h| (*f, h))
                .collect(),
            None => return,
        };
        let all_out = hunks.iter().all(|h| self.apply.left_out.contains(h));
        for hunk in hunks {
            if all_out {
                self.apply.left_out.remove(&hunk);
            } else {
                self.apply.left_out.insert(hunk);
            }
        }
    }

    pub(super) fn start_apply(&mut self) -> Vec<Effect> {
        let plan = self.plan.without(&self.apply.left_out);
        if plan.is_empty() {
            self.tell("nothing to apply: the dotfiles say what the setup says");
            return Vec::new();
        }
        self.busy = Some("applying");
        let mut effects = Vec::new();
        if self.trial {
            // Colors set by escapes would hide what the terminal reads from its file.
            self.trial = false;
            self.apply.worn.clear();
            effects.push(Effect::Wear(reset_all()));
        }
        if self.tried.take().is_some() {
            effects.push(Effect::TryOn(None));
        }
        effects.push(Effect::Apply(plan));
        effects
    }

    pub(super) fn applied(&mut self, result: Result<u64, String>) {
        self.busy = None;
        match result {
            Ok(id) => {
                self.opened_with = self.survey.doc.text().to_owned();
                self.refresh();
                self.busy = Some("reloading and asking");
                self.tell(&format!("applied as number {id}; x takes it back"));
            }
            Err(why) => {
                // The dotfiles may have changed meanwhile: the new plan is shown.
                self.refresh();
                self.complain(why);
            }
        }
    }

    pub(super) fn taken_back(&mut self, result: Result<u64, String>) {
        self.busy = None;
        match result {
            Ok(id) => {
                self.refresh();
                self.busy = Some("reloading and asking");
                self.tell(&format!(
                    "number {id} is taken back; the setup keeps the draft"
                ));
            }
            Err(why) => self.complain(why),
        }
    }

    fn refresh(&mut self) {
        self.survey.refresh();
        self.apply.left_out.clear();
        self.recompute();
    }
}
