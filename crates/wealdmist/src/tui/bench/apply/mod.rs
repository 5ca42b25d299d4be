//! The Apply bench: the hunks, which of them are left out, and what came of it.

mod view;

use std::borrow::Cow;
use std::collections::BTreeSet;

use crossterm::event::KeyCode::{Char, Enter};
use wealdmist_core::plan::{Change, HunkId, Plan};
use wealdmist_core::role::RoleId;
use wealdmist_host::{Answer as Said, Ask as By, Journal, Survey};

use super::{Bench, Do, List, Nothing, Reply};
use crate::tui::job::Job;
use crate::tui::keys::{Key, hint};
use crate::tui::stage::Target;
use crate::tui::step::Step;
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::carry_out;

/// The step.
pub const STEP: Step = Step {
    name: "apply",
    label: "Apply",
    drawing: "specimen",
};

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    LeaveOut,
    Apply,
    TakeBack,
    Reload,
    Verify,
}

/// What comes of its slow work.
pub enum Answer {
    /// A plan was carried out, or not: the text of the draft it came from, the home as it is now, and
    /// the number of the apply.
    Applied(String, Box<Survey>, Result<u64, String>),
    /// The latest apply was taken back, or not.
    TakenBack(String, Box<Survey>, Result<u64, String>),
    /// Running programs answered.
    Said(Vec<Said>),
}

/// A row as shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Row {
    /// A file.
    File(usize),
    /// A hunk of it.
    Hunk(HunkId),
}

/// The bench: the pointer and what is left out.
#[derive(Debug, Default)]
pub struct Apply {
    /// The row pointed at.
    pub cursor: usize,
    /// Hunks not to be applied.
    pub left_out: BTreeSet<HunkId>,
    /// Whether files are being written.
    writing: bool,
}

impl Bench for Apply {
    type Act = Act;
    type Ask = Nothing;
    type Answer = Answer;

    const KEYS: &'static [Key<Act>] = &[
        hint(Char(' '), Act::LeaveOut, "Space", "leave out / take in"),
        hint(Enter, Act::Apply, "Enter", "apply"),
        hint(Char('x'), Act::TakeBack, "x", "take back the last apply"),
        hint(Char('r'), Act::Reload, "r", "reload"),
        hint(Char('v'), Act::Verify, "v", "verify"),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "plan".into()
    }

    fn command(&self, _: &Workspace) -> String {
        let skip = |(f, h): &HunkId| format!(" --skip {}.{}", f + 1, h + 1);
        let skips: String = self.left_out.iter().map(skip).collect();
        format!("wealdmist apply{skips}   ·   wealdmist undo")
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match act {
            Act::LeaveOut => {
                self.leave_out(ws);
                Vec::new()
            }
            Act::Apply | Act::TakeBack if self.writing => {
                ws.tell("files are still being written");
                Vec::new()
            }
            Act::Apply => self.apply(ws),
            Act::TakeBack => {
                self.writing = true;
                let mut survey = Box::new(ws.survey.clone());
                vec![Do::Run(Job::new("files", "taking back", move || {
                    let sent = survey.doc.text().to_owned();
                    let undone = Journal::of(&survey.home).undo(None);
                    let undone = undone.map(|r| r.undoes.unwrap_or(0));
                    survey.refresh();
                    Answer::TakenBack(sent, survey, undone.map_err(|e| e.to_string()))
                }))]
            }
            Act::Reload => vec![asking(ws, "reloading", true)],
            Act::Verify => vec![asking(ws, "asking the running programs", false)],
        }
    }

    fn answered(&mut self, answer: Answer, ws: &mut Workspace) -> Reply<Self> {
        let (sent, survey, result, said) = match answer {
            Answer::Said(answers) => {
                ws.answers = answers;
                return Vec::new();
            }
            Answer::Applied(sent, survey, result) => {
                let said = |id| format!("applied as number {id}; x takes it back");
                (sent, survey, result.map(said), true)
            }
            Answer::TakenBack(sent, survey, result) => {
                let said = |id| format!("number {id} is taken back; the setup keeps the draft");
                (sent, survey, result.map(said), false)
            }
        };
        self.writing = false;
        // Also where nothing was written: the dotfiles may have changed meanwhile, and the plan with
        // them.
        ws.read_again(*survey, &sent, said && result.is_ok());
        self.left_out.clear();
        match result {
            Ok(said) => {
                ws.tell(said);
                vec![asking(ws, "reloading and asking", true)]
            }
            Err(why) => {
                ws.complain(why);
                Vec::new()
            }
        }
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        // What no longer exists after the plan has changed is forgotten.
        self.left_out.retain(|id| ws.planned.hunk(*id).is_some());
        let rows = self.rows(ws).len();
        self.cursor = self.cursor.min(rows.saturating_sub(1));
        Vec::new()
    }

    fn list(&mut self, ws: &Workspace) -> Option<List<'_>> {
        let len = self.rows(ws).len();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn open_count(&self, ws: &Workspace) -> usize {
        ws.planned.change_count()
    }

    fn target(&self, ws: &Workspace) -> Option<Target> {
        self.role(ws).map(Target::from)
    }
}

impl Apply {
    /// The rows as shown.
    pub fn rows(&self, ws: &Workspace) -> Vec<Row> {
        let mut out = Vec::new();
        for (f, hunks) in ws.planned.hunks.iter().enumerate() {
            out.push(Row::File(f));
            out.extend((0..hunks.len()).map(|h| Row::Hunk((f, h))));
        }
        out
    }

    /// The role the row pointed at is about.
    fn role(&self, ws: &Workspace) -> Option<RoleId> {
        let Row::Hunk(id) = *self.rows(ws).get(self.cursor)? else {
            return None;
        };
        let splices = &ws.planned.hunk(id)?.splices;
        match &ws.planned.plan.edits[id.0].change {
            Change::Splices(all) => splices.iter().find_map(|i| all[*i].role.clone()),
            Change::Whole(_) => None,
        }
    }

    /// Leaves out the hunk or file pointed at, or takes it in again.
    fn leave_out(&mut self, ws: &Workspace) {
        let hunks: Vec<HunkId> = match self.rows(ws).get(self.cursor) {
            Some(Row::Hunk(id)) => vec![*id],
            Some(Row::File(f)) => (0..ws.planned.hunks[*f].len()).map(|h| (*f, h)).collect(),
            None => return,
        };
        let all_out = hunks.iter().all(|h| self.left_out.contains(h));
        for hunk in hunks {
            if all_out {
                self.left_out.remove(&hunk);
            } else {
                self.left_out.insert(hunk);
            }
        }
    }

    fn apply(&mut self, ws: &mut Workspace) -> Reply<Self> {
        let plan = ws.planned.plan.without(&self.left_out);
        if plan.is_empty() {
            ws.tell("nothing to apply: the dotfiles say what the setup says");
            return Vec::new();
        }
        self.writing = true;
        let mut survey = Box::new(ws.survey.clone());
        let job = Job::new("files", "applying", move || {
            let sent = survey.doc.text().to_owned();
            let done = save_and_carry_out(&mut survey, &plan);
            survey.refresh();
            Answer::Applied(sent, survey, done)
        });
        // Colors set by escapes would hide what the terminal reads from its file.
        vec![Do::EndTrials, Do::Run(job)]
    }
}

/// Saves the setup and carries a plan out, if the dotfiles are still what it was made for.
fn save_and_carry_out(survey: &mut Survey, plan: &Plan) -> Result<u64, String> {
    let journal = Journal::of(&survey.home);
    let _held = journal.hold().map_err(|e| e.to_string())?;
    if !survey.is_current() {
        let said = "the dotfiles have changed since they were read; look at the new plan and apply again; nothing was changed";
        return Err(said.to_owned());
    }
    survey.save().map_err(|e| e.to_string())?;
    carry_out(survey, plan).map_err(|e| e.to_string())
}

/// Asks the running programs what they show, and tells them to read their files before if wanted.
fn asking(ws: &Workspace, says: &'static str, tell: bool) -> Do<Nothing, Answer> {
    let survey = ws.survey.clone();
    Do::Run(Job::new("programs", says, move || {
        Answer::Said(match tell {
            true => wealdmist_host::reload(&survey, &[], By::Sockets),
            false => wealdmist_host::verify(&survey, &[], By::Sockets),
        })
    }))
}
