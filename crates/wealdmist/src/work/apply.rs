//! Carrying a plan out.

use wealdmist_core::plan::Plan;
use wealdmist_host::{Journal, Survey, changes_of};

use crate::failure::Failure;

/// Carries a plan out and returns its number in the journal. The setup has to be saved before, by
/// whoever holds the right to write in the home.
pub fn carry_out(survey: &Survey, plan: &Plan) -> Result<u64, Failure> {
    // Shells that find no folder only note no prompt.
    let _ = survey.home.prepare_shells();
    let setup = survey.doc.setup();
    let label = format!("{} · {}", setup.name, setup.active);
    let journal = Journal::of(&survey.home);
    Ok(journal.apply(&changes_of(plan), &label)?.id)
}
