//! The Apply bench: the changes, which of them are taken, and what came of it.

mod view;

use std::borrow::Cow;
use std::collections::BTreeSet;

use crossterm::event::KeyCode::{Char, Enter};
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Change, ChangeId, Plan};
use wealdmist_core::role::RoleId;
use wealdmist_host::{Answer as Said, Ask as By, Journal, Survey, write_bundle};
use wealdmist_tools::Access;

use super::survey::asking_programs;
use super::{Bench, Do, List, Question, Reply};
use crate::tui::job::Job;
use crate::tui::keys::{Key, hint, key};
use crate::tui::stage::{Dress, Target, Worn};
use crate::tui::step::Step;
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::{bundle_parts, carry_out};

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
    Take,
    TakeAll,
    OnlyFile,
    Apply,
    TakeBack,
    Reload,
    Verify,
    Pack,
    AskPrograms,
}

/// What is typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ask {
    /// The archive that everything is packed into.
    Archive,
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
    /// Programs said what the dotfiles come to.
    Asked(String, Box<Survey>, String),
    /// All was packed into an archive, or not.
    Packed(Result<String, String>),
}

/// A row as shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Row {
    /// What follows from the changes of the draft, or what differed before.
    Part(bool),
    /// A file, in one of these parts.
    File(bool, usize),
    /// A change of it.
    Change(ChangeId),
}

/// The bench: the pointer.
#[derive(Debug, Default)]
pub struct Apply {
    /// The row pointed at.
    pub cursor: usize,
    /// Whether files are being written.
    writing: bool,
    /// The look as the dotfiles have it.
    before: Option<Worn>,
}

impl Bench for Apply {
    type Act = Act;
    type Ask = Ask;
    type Answer = Answer;

    const KEYS: &'static [Key<Act>] = &[
        hint(Char(' '), Act::Take, "Space", "take / leave out"),
        hint(Enter, Act::Apply, "Enter", "apply"),
        hint(Char('a'), Act::TakeAll, "a", "take all"),
        hint(Char('o'), Act::OnlyFile, "o", "only this file"),
        hint(Char('x'), Act::TakeBack, "x", "take back the last apply"),
        hint(Char('r'), Act::Reload, "r", "reload"),
        hint(Char('v'), Act::Verify, "v", "verify"),
        hint(Char('p'), Act::Pack, "p", "pack"),
        key(
            Char('c'),
            Act::AskPrograms,
            "c",
            "have the programs check the readings",
        ),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "plan".into()
    }

    fn command(&self, ws: &Workspace) -> String {
        let taken = self.taken(ws);
        let left: BTreeSet<ChangeId> = (ws.planned.changes())
            .filter(|id| !taken.contains(id))
            .collect();
        let (word, named) = match (left.len() <= taken.len(), taken.is_empty()) {
            (_, true) => return "wealdmist plan   ·   wealdmist apply".to_owned(),
            (true, _) => ("--skip", &left),
            (false, _) => ("--only", &taken),
        };
        let part = |(f, c): &ChangeId| format!(" {word} {}.{}", f + 1, c + 1);
        let parts: String = named.iter().map(part).collect();
        format!("wealdmist apply{parts}   ·   wealdmist undo")
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match act {
            Act::Take => {
                self.take(ws);
                Vec::new()
            }
            Act::TakeAll => {
                let all: Vec<ChangeId> = ws.planned.changes().collect();
                let wanted = !all.iter().all(|id| ws.takes(*id));
                ws.choose(all, wanted);
                Vec::new()
            }
            Act::OnlyFile => {
                self.only_file(ws);
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
            Act::Pack => {
                let name = ws.doc().setup().name.chars();
                let name: String = name.filter(|c| c.is_alphanumeric() || *c == '-').collect();
                let name = format!("~/{name}.tar");
                vec![Do::Ask(Question::path("pack into", name), Ask::Archive)]
            }
            Act::AskPrograms => vec![Do::Run(asking_programs(ws, Answer::Asked))],
            Act::Reload => vec![asking(ws, "reloading", true)],
            Act::Verify => vec![asking(ws, "asking the running programs", false)],
        }
    }

    fn typed(&mut self, _: &Ask, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        if text.trim().is_empty() {
            return Err("an archive needs a name".to_owned());
        }
        let survey = ws.survey.clone();
        let path = survey.home.expand(text.trim());
        Ok(vec![Do::Run(Job::new("files", "packing", move || {
            let packed = write_bundle(&path, &bundle_parts(&survey));
            let said = survey.home.contract(&path);
            Answer::Packed(packed.map(|()| said).map_err(|e| e.to_string()))
        }))])
    }

    fn answered(&mut self, answer: Answer, ws: &mut Workspace) -> Reply<Self> {
        let (sent, survey, result, said) = match answer {
            Answer::Said(answers) => {
                ws.answers = answers;
                return Vec::new();
            }
            Answer::Asked(sent, survey, said) => {
                ws.programs_answered(*survey, &sent, said);
                return Vec::new();
            }
            Answer::Packed(Ok(path)) => {
                ws.tell(format!("packed into {path}"));
                return Vec::new();
            }
            Answer::Packed(Err(why)) => {
                ws.complain(why);
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
        ws.choose_anew();
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
        let rows = self.rows(ws).len();
        self.cursor = self.cursor.min(rows.saturating_sub(1));
        if ws.stage.stale {
            self.before = ws.survey.as_written().map(|doc| Worn {
                name: "as your dotfiles have it".to_owned(),
                look: Look::new(doc.setup()),
                doc,
            });
        }
        Vec::new()
    }

    fn dress(&self, ws: &Workspace) -> Dress {
        let changes = ws.planned.change_count() > 0;
        let second = self.before.as_ref().filter(|_| changes);
        Dress {
            title: second.map(|_| "as you want it".to_owned()),
            second: second.cloned(),
            ..Dress::default()
        }
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
        let planned = &ws.planned;
        let has_both = planned.asked.len() < planned.change_count();
        let mut out = Vec::new();
        for asked in [true, false] {
            let mut part = Vec::new();
            for (f, pieces) in planned.pieces.iter().enumerate() {
                let all = (0..pieces.len()).map(|c| (f, c));
                let changes: Vec<ChangeId> = all
                    .filter(|id| planned.asked.contains(id) == asked)
                    .collect();
                if !changes.is_empty() {
                    part.push(Row::File(asked, f));
                }
                part.extend(changes.into_iter().map(Row::Change));
            }
            if !part.is_empty() && has_both {
                out.push(Row::Part(asked));
            }
            out.extend(part);
        }
        out
    }

    /// The changes that a row stands for.
    pub fn changes_of(&self, ws: &Workspace, row: Row) -> Vec<ChangeId> {
        let all = ws.planned.changes();
        let is_asked = |id: &ChangeId| ws.planned.asked.contains(id);
        match row {
            Row::Part(asked) => all.filter(|id| is_asked(id) == asked).collect(),
            Row::File(asked, f) => all
                .filter(|id| id.0 == f && is_asked(id) == asked)
                .collect(),
            Row::Change(id) => vec![id],
        }
    }

    fn taken(&self, ws: &Workspace) -> BTreeSet<ChangeId> {
        (ws.planned.changes()).filter(|id| ws.takes(*id)).collect()
    }

    /// The role the row pointed at is about.
    fn role(&self, ws: &Workspace) -> Option<RoleId> {
        let Row::Change((f, c)) = *self.rows(ws).get(self.cursor)? else {
            return None;
        };
        match &ws.planned.plan.edits[f].change {
            Change::Splices(all) => all[c].role.clone(),
            Change::Whole(_) => None,
        }
    }

    /// Takes what is pointed at, or leaves it out where all of it is taken.
    fn take(&self, ws: &mut Workspace) {
        let Some(row) = self.rows(ws).get(self.cursor).copied() else {
            return;
        };
        let changes = self.changes_of(ws, row);
        let wanted = !changes.iter().all(|id| ws.takes(*id));
        ws.choose(changes, wanted);
    }

    /// Takes the changes of the file pointed at and no others.
    fn only_file(&self, ws: &mut Workspace) {
        let file = match self.rows(ws).get(self.cursor) {
            Some(Row::File(_, f) | Row::Change((f, _))) => *f,
            _ => return,
        };
        let all: Vec<ChangeId> = ws.planned.changes().collect();
        let (here, elsewhere): (Vec<_>, Vec<_>) = all.into_iter().partition(|id| id.0 == file);
        ws.choose(here, true);
        ws.choose(elsewhere, false);
    }

    fn apply(&mut self, ws: &mut Workspace) -> Reply<Self> {
        let taken = self.taken(ws);
        let plan = ws.planned.plan.with_only(|id| taken.contains(&id));
        if plan.is_empty() {
            ws.tell(match ws.planned.change_count() {
                0 => "nothing to apply: the dotfiles say what the setup says",
                _ => "nothing is taken: Space takes what is pointed at, a takes all",
            });
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
fn asking(ws: &Workspace, says: &'static str, tell: bool) -> Do<Ask, Answer> {
    let survey = ws.survey.clone();
    Do::Run(Job::new("programs", says, move || {
        Answer::Said(match tell {
            true => wealdmist_host::reload(&survey, &[], By::Sockets),
            false => wealdmist_host::verify(&survey, &[], By::Sockets),
        })
    }))
}
