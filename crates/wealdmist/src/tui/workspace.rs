//! What every bench works on: the home and the draft, what follows from them, and where the person
//! points. It is the only door to the draft.

use std::collections::{BTreeSet, HashMap, HashSet};
use std::path::PathBuf;
use std::sync::Arc;

use wealdmist_core::Rgb;
use wealdmist_core::color::{contrast_ratio, ratio_shown};
use wealdmist_core::condition::Conditions;
use wealdmist_core::font::picture::Means;
use wealdmist_core::font::{ChosenFont, HostFont};
use wealdmist_core::look::{Look, Origin, origin};
use wealdmist_core::pair::{mend, rounding_of};
use wealdmist_core::plan::{self, ChangeId, FileEdit, Piece, Plan, Splice};
use wealdmist_core::prompt::Design;
use wealdmist_core::reading::{Asked, Reading, ToolId};
use wealdmist_core::role::{RoleId, Usage, lookup};
use wealdmist_core::setup::{EditError, Expr, SetupDoc};
use wealdmist_core::specimen::{Specimen, Spot};
use wealdmist_core::terminal::TerminalRecord;
use wealdmist_core::window::host;
use wealdmist_host::{Answer, FontSearch, Survey};
use wealdmist_tools::places;

use super::derived::Derived;
use super::stage::{Dress, Stage};
use super::step::Step;
use super::view::layout;
use crate::work::side_of;

/// A change of the plan by its file, its place, and what is written there.
type Change = (PathBuf, usize, Vec<u8>);

/// A word to the person.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Note {
    /// The text.
    pub text: String,
    /// Whether it is bad news.
    pub bad: bool,
}

/// The plan from the draft, and its changes each alone.
#[derive(Debug, Clone, Default)]
pub struct Planned {
    /// The plan.
    pub plan: Plan,
    /// The changes of each of its files.
    pub pieces: Vec<Vec<Piece>>,
    /// Those that follow from what was changed in the draft. The others were there before.
    pub asked: BTreeSet<ChangeId>,
}

impl Planned {
    fn of(plan: Plan, before: &Plan) -> Self {
        let pieces = plan.edits.iter().map(FileEdit::pieces).collect();
        let asked = plan.new_beside(before);
        Self {
            plan,
            pieces,
            asked,
        }
    }

    /// How many changes there are.
    #[must_use]
    pub fn change_count(&self) -> usize {
        self.plan.change_count()
    }

    /// Every change, in order.
    pub fn changes(&self) -> impl Iterator<Item = ChangeId> + '_ {
        let of = |(f, all): (usize, &Vec<Piece>)| (0..all.len()).map(move |c| (f, c));
        self.pieces.iter().enumerate().flat_map(of)
    }
}

/// What the screen can show.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Display {
    /// Whether icons may be drawn.
    pub icons: bool,
    /// Where the log is written, for people.
    pub log: Option<String>,
    /// With which characters pixels can be drawn, the best first.
    pub means: Vec<Means>,
    /// The pixels of a cell, where the terminal can be shown images.
    pub pixels: Option<(u32, u32)>,
}

impl Display {
    /// The best means there is.
    #[must_use]
    pub fn best(&self) -> Means {
        self.means.first().copied().unwrap_or(Means::Ascii)
    }
}

/// What benches share.
pub struct Workspace {
    /// The home and the draft.
    pub survey: Survey,
    /// The steps of the path.
    pub steps: Vec<Step>,
    /// What follows from them.
    pub derived: Derived,
    /// The plan from the draft.
    pub planned: Planned,
    /// Changes of the plan that the person took or left by hand.
    chosen: HashMap<Change, bool>,
    /// The font, once it has been looked for.
    pub font: Option<FontSearch>,
    /// Families kept to be compared with, and whether they are installed.
    pub beside: Vec<(String, bool)>,
    /// What pairs and specimen are seen through.
    pub conditions: Conditions,
    /// Whether the person chose them: else they are those of the person's own windows.
    pub conditions_chosen: bool,
    /// The image they look through, where there is one.
    pub behind: Option<PathBuf>,
    /// What running programs answered last.
    pub answers: Vec<Answer>,
    /// The specimen, and where it is pointed at.
    pub stage: Stage,
    /// What the screen can show.
    pub display: Display,
    /// The terminal's size in cells.
    pub size: (u16, u16),
    /// The last word to the person.
    pub note: Option<Note>,
    /// Counts what makes the fonts to be looked for anew beside another choice.
    fonts_changed: u64,
    past: Vec<SetupDoc>,
    future: Vec<SetupDoc>,
    /// What the last change was a step of, and the one before.
    run: Option<String>,
    run_before: Option<String>,
    /// The draft as it is written, or was made of the dotfiles.
    opened_with: SetupDoc,
    /// The plan from it.
    before: Plan,
}

impl Workspace {
    /// On opening.
    #[must_use]
    pub fn new(survey: Survey, steps: Vec<Step>, display: Display, size: (u16, u16)) -> Self {
        let conditions = survey.own_conditions();
        let derived = Derived::new(&survey, None, &conditions);
        let before = survey.plan();
        let planned = Planned::of(before.clone(), &before);
        Self {
            opened_with: survey.doc.clone(),
            before,
            stage: Stage::new(survey.doc.setup(), &derived.look, display.icons),
            survey,
            steps,
            derived,
            planned,
            chosen: HashMap::new(),
            font: None,
            beside: Vec::new(),
            conditions,
            conditions_chosen: false,
            behind: None,
            answers: Vec::new(),
            display,
            size,
            note: None,
            fonts_changed: 0,
            past: Vec::new(),
            future: Vec::new(),
            run: None,
            run_before: None,
        }
    }

    /// The draft.
    #[must_use]
    pub fn doc(&self) -> &SetupDoc {
        &self.survey.doc
    }

    /// The draft resolved.
    #[must_use]
    pub fn look(&self) -> &Look {
        &self.derived.look
    }

    /// Says something to the person.
    pub fn tell(&mut self, text: impl Into<String>) {
        let text = text.into();
        self.note = Some(Note { text, bad: false });
    }

    /// Says what went wrong.
    pub fn complain(&mut self, text: impl Into<String>) {
        let text = text.into();
        self.note = Some(Note { text, bad: true });
    }

    /// A key was pressed: steps of one run follow one another without another key between.
    pub fn begin_act(&mut self) {
        self.run_before = self.run.take();
    }

    /// Takes over a changed draft, or says why it could not be changed. Whether it was.
    pub fn change<E: ToString>(&mut self, changed: Result<SetupDoc, E>) -> bool {
        match changed {
            Ok(doc) => {
                let old = std::mem::replace(&mut self.survey.doc, doc);
                self.past.push(old);
                self.future.clear();
                self.recompute();
                true
            }
            Err(error) => {
                self.complain(error.to_string());
                false
            }
        }
    }

    /// The same for one of many small steps of one `run`, which are undone at once. `None` where the
    /// step changes nothing yet.
    pub fn change_in_run<E: ToString>(
        &mut self,
        run: String,
        changed: Option<Result<SetupDoc, E>>,
    ) -> bool {
        let goes_on = self.run_before.as_ref() == Some(&run);
        self.run = Some(run);
        let Some(changed) = changed else { return true };
        let done = self.change(changed);
        // The draft before the first step is the one to go back to.
        if done && goes_on {
            self.past.pop();
        }
        done
    }

    /// Takes back the last change of the draft.
    pub fn undo(&mut self) {
        match self.past.pop() {
            Some(doc) => {
                self.future
                    .push(std::mem::replace(&mut self.survey.doc, doc));
                self.recompute();
                self.tell("undone");
            }
            None => self.tell("nothing to undo in the draft"),
        }
    }

    /// Makes the change again that was taken back.
    pub fn redo(&mut self) {
        match self.future.pop() {
            Some(doc) => {
                self.past.push(std::mem::replace(&mut self.survey.doc, doc));
                self.recompute();
                self.tell("done again");
            }
            None => self.tell("nothing to redo in the draft"),
        }
    }

    /// Whether the draft differs from what was opened.
    #[must_use]
    pub fn is_changed(&self) -> bool {
        self.survey.doc.text() != self.opened_with.text()
    }

    /// Takes over the home as it was read after work on it began with the draft `sent`; what has been
    /// changed of the draft since then stays. With `saved`, the draft has been written.
    pub fn read_again(&mut self, survey: Survey, sent: &str, saved: bool) {
        let draft = std::mem::replace(&mut self.survey, survey).doc;
        if saved {
            self.opened_with = self.survey.doc.clone();
        }
        if draft.text() != sent {
            self.survey.doc = draft;
        }
        self.plan_before();
        self.recompute();
    }

    /// Takes over the home with what programs said of its dotfiles, and says what came of it.
    pub fn programs_answered(&mut self, survey: Survey, sent: &str, said: String) {
        let all = survey.reports.iter().flat_map(|r| &r.readings);
        let differ = all
            .filter(|r| !matches!(r.asked, None | Some(Asked::Same)))
            .count();
        self.read_again(survey, sent, false);
        match differ {
            0 => self.tell(said),
            _ => self.complain(said),
        }
    }

    /// Whether the programs have said what the dotfiles come to.
    pub fn is_asked(&self) -> bool {
        let mut all = self.survey.reports.iter().flat_map(|r| &r.readings);
        all.any(|r| r.asked.is_some())
    }

    /// Works out what the draft as it was opened would have planned.
    fn plan_before(&mut self) {
        let doc = self.opened_with.clone();
        let draft = std::mem::replace(&mut self.survey.doc, doc);
        self.before = self.survey.plan();
        self.survey.doc = draft;
    }

    /// What a change of the plan is known by while that changes around it.
    fn name(&self, (f, c): ChangeId) -> Change {
        let edit = &self.planned.plan.edits[f];
        let (start, with) = match &edit.change {
            plan::Change::Splices(all) => (all[c].range.start, &all[c].with),
            plan::Change::Whole(code) => (0, code),
        };
        (edit.path.clone(), start, with.to_vec())
    }

    /// Whether a change of the plan is taken: what was asked for is, unless the person said otherwise.
    #[must_use]
    pub fn takes(&self, id: ChangeId) -> bool {
        let by_hand = match self.chosen.is_empty() {
            true => None,
            false => self.chosen.get(&self.name(id)),
        };
        by_hand
            .copied()
            .unwrap_or_else(|| self.planned.asked.contains(&id))
    }

    /// Takes changes of the plan, or leaves them out.
    pub fn choose(&mut self, changes: impl IntoIterator<Item = ChangeId>, wanted: bool) {
        for id in changes {
            self.chosen.insert(self.name(id), wanted);
        }
    }

    /// Takes the changes that bring a tool to a role; how many there are.
    pub fn take_role(&mut self, tool: ToolId, role: &RoleId) -> usize {
        let edits = self.planned.plan.edits.iter().enumerate();
        let of_tool = edits.filter(|(_, e)| e.tool == tool || e.also.contains(&tool));
        let all: Vec<ChangeId> = of_tool
            .flat_map(|(f, edit)| match &edit.change {
                plan::Change::Splices(all) => {
                    let is_it = |(_, s): &(usize, &Splice)| s.role.as_ref() == Some(role);
                    let found = all.iter().enumerate().filter(is_it);
                    found.map(|(c, _)| (f, c)).collect()
                }
                plan::Change::Whole(_) => Vec::new(),
            })
            .collect();
        let count = all.len();
        self.choose(all, true);
        count
    }

    /// Forgets what was taken and left by hand.
    pub fn choose_anew(&mut self) {
        self.chosen.clear();
    }

    /// Works out everything that follows from the dotfiles, the draft, fonts and conditions.
    pub fn recompute(&mut self) {
        self.survey.follow_setup();
        if !self.conditions_chosen {
            self.conditions = self.survey.own_conditions();
        }
        self.derived = Derived::new(
            &self.survey,
            self.font.as_ref().map(|f| &f.report),
            &self.conditions,
        );
        self.planned = Planned::of(self.survey.plan(), &self.before);
        if !self.chosen.is_empty() {
            // What no longer exists after the plan has changed is forgotten.
            let known: HashSet<Change> = self.planned.changes().map(|id| self.name(id)).collect();
            self.chosen.retain(|name, _| known.contains(name));
        }
        self.stage.stale = true;
    }

    /// Takes in what was found of the fonts.
    pub fn fonts_found(&mut self, found: FontSearch) {
        self.survey.catalog = Some(Arc::clone(&found.catalog));
        self.font = Some(found);
        self.plan_before();
        self.recompute();
    }

    /// Fonts were installed or removed: they have to be looked for again.
    pub fn fonts_changed(&mut self) {
        self.fonts_changed += 1;
    }

    /// What is looked for of the fonts: a search for another choice, or for other signs of a prompt that is
    /// generated, is out of date.
    #[must_use]
    pub fn font_wanted(&self) -> String {
        let setup = self.survey.doc.setup();
        let design = setup
            .tools
            .values()
            .any(|t| t.generate)
            .then_some(&setup.prompt);
        let signs: Vec<&str> = design
            .into_iter()
            .flat_map(Design::parts)
            .map(|p| p.sign(setup.symbols))
            .collect();
        let shapes = design.map(|d| (d.joint, d.open, d.close, d.stretch));
        let font = &setup.font;
        let faces = (&font.family, &font.bold, &font.italic, &font.bold_italic);
        format!(
            "{} {faces:?} {:?} {signs:?} {shapes:?}",
            self.fonts_changed, font.fallback
        )
    }

    /// The chosen font, once it is known.
    #[must_use]
    pub fn chosen_font(&self) -> Option<&ChosenFont> {
        self.font.as_ref().and_then(FontSearch::chosen)
    }

    /// The chosen font, and what the terminal that the specimen stands for draws beside it.
    #[must_use]
    pub fn font_shown(&self) -> Option<(&ChosenFont, &HostFont)> {
        let chosen = self.chosen_font()?;
        let host = host(self.doc().setup(), &self.survey.reports);
        Some((chosen, chosen.of_host(host.map(|r| r.tool))?))
    }

    /// What is known of the terminal.
    #[must_use]
    pub fn terminal_record(&self) -> Option<&TerminalRecord> {
        self.font.as_ref().and_then(|f| f.report.terminal.as_ref())
    }

    /// The number of a step, which is the key that goes there; by its name.
    #[must_use]
    pub fn number_of(&self, step: &str) -> usize {
        let place = self.steps.iter().position(|s| s.name == step);
        place.map_or(0, |p| p + 1)
    }

    /// How many rows a page has, about.
    #[must_use]
    pub fn page(&self) -> isize {
        isize::from(self.size.1 as i16).saturating_sub(14).max(3)
    }

    /// Where the color of a role is set.
    #[must_use]
    pub fn origin(&self, role: &RoleId) -> Origin {
        let setup = self.survey.doc.setup();
        origin(setup, setup.palette(), role)
    }

    /// The name by which a color is set on the command line.
    #[must_use]
    pub fn name_of(&self, origin: &Origin) -> String {
        origin.to_string()
    }

    /// Whether repairs must leave a color.
    #[must_use]
    pub fn is_locked(&self, origin: &Origin) -> bool {
        let palette = self.survey.doc.setup().palette();
        palette.locked.contains(&self.name_of(origin))
    }

    /// Holds a color against repairs, or lets it go.
    pub fn switch_lock(&mut self, origin: &Origin) {
        let name = self.name_of(origin);
        let locked = self.is_locked(origin);
        let active = self.doc().setup().active.clone();
        let changed = self.doc().with_lock(&active, &name, !locked);
        if self.change(changed) {
            let said = if locked {
                "may move again"
            } else {
                "is locked: repairs leave it"
            };
            self.tell(format!("{name} {said}"));
        }
    }

    /// The draft with another color at an origin.
    ///
    /// # Errors
    /// When the setup cannot hold it.
    pub fn with_color(&self, origin: &Origin, color: Rgb) -> Result<SetupDoc, EditError> {
        let doc = self.doc();
        let active = doc.setup().active.clone();
        match origin {
            Origin::Slot(slot) => doc.with_slot(&active, *slot, color),
            Origin::Named(name) => doc.with_named(&active, name, color),
            Origin::Role(role) => doc.with_role(role, &Expr::Value(color)),
        }
    }

    /// Changes the color of a role to the nearest one that reaches its target on another's.
    pub fn mend_role(&mut self, text: &RoleId, ground: &RoleId) {
        let usage = lookup(text).map_or(Usage::Body, |k| k.usage);
        let look = self.look();
        let (color, on) = (look.color(text), look.color(ground));
        self.mend(&self.origin(text), color, on, usage);
    }

    /// Changes a color to the nearest one that reaches its target on a ground.
    pub fn mend(&mut self, origin: &Origin, text: Rgb, ground: Rgb, usage: Usage) {
        let target = usage.target();
        let ratio = |c| contrast_ratio(c, ground);
        if ratio(text) >= target {
            let shown = ratio_shown(ratio(text));
            self.tell(format!("{shown}:1 already reaches {target}:1"));
            return;
        }
        let Some(color) = mend(text, ground, target) else {
            self.complain(format!(
                "no lightness of this hue reaches {target}:1 on {ground}"
            ));
            return;
        };
        let changed = self.with_color(origin, color);
        if self.change(changed) {
            let name = self.name_of(origin);
            self.tell(format!(
                "{name}: {text} ({}:1) is {color} ({}:1) now",
                ratio_shown(ratio(text)),
                ratio_shown(ratio(color))
            ));
        }
    }

    /// Puts the palette of the other side, dark or light, to use in the draft.
    pub fn other_side(&mut self) {
        let wanted = self.doc().setup().palette().variant.other();
        match side_of(self.doc(), wanted).transpose() {
            Some(changed) => {
                if self.change(changed) {
                    let name = self.doc().setup().active.clone();
                    self.tell(format!("the {} side, {name}", wanted.key()));
                }
            }
            None => self.tell(format!(
                "there is no {} palette yet: n on Palette makes the counterpart",
                wanted.key()
            )),
        }
    }

    /// Where a role is written, tool by tool.
    #[must_use]
    pub fn written_in(&self, role: &RoleId) -> String {
        let found = places(&self.derived.ledger, &self.survey.reports, role);
        let one = |(tool, reading): &(ToolId, &Reading)| {
            let name = reading.place.file_name();
            match reading.place.is_written() {
                true => format!(
                    "{tool} {name}:{} ({})",
                    reading.place.at.line, reading.value
                ),
                false => format!("{tool} by itself ({})", reading.value),
            }
        };
        found.iter().map(one).collect::<Vec<_>>().join("   ")
    }

    /// The draft the specimen wears: the one shown of a proposal, else the draft.
    #[must_use]
    pub fn worn_doc(&self) -> &SetupDoc {
        self.stage.worn.as_ref().map_or(self.doc(), |w| &w.doc)
    }

    /// The look the specimen wears.
    #[must_use]
    pub fn worn_look(&self) -> &Look {
        self.stage.worn.as_ref().map_or(self.look(), |w| &w.look)
    }
}

impl Workspace {
    /// Draws the specimen in a dress; `own` is what the bench shows in place of the sample screen.
    pub fn dress(&mut self, dress: Dress, own: impl Fn(&Self, (usize, usize)) -> Option<Specimen>) {
        self.stage.worn = dress.worn;
        self.stage.title = dress.title;
        let (width, mut height) = layout::specimen_size(self.size, self.stage.filled);
        if dress.second.is_some() {
            // Two at a time share the room.
            height = height.saturating_sub(1) / 2;
        }
        let old = self
            .stage
            .specimen
            .spots
            .get(self.stage.spot)
            .map(|s| (s.what, s.text.clone()));
        let icons = self.display.icons;
        let sample =
            |doc: &SetupDoc, look: &Look| Specimen::draw(doc.setup(), look, width, height, icons);
        let see = |conditions: &Conditions, drawn: &Specimen, look: &Look| {
            let pairs = &self.derived.pairs;
            let rounding = |spot: &Spot| rounding_of(pairs, &spot.text, &spot.ground);
            conditions.see_specimen(drawn, look, &rounding)
        };
        let specimen =
            own(self, (width, height)).unwrap_or_else(|| sample(self.worn_doc(), self.worn_look()));
        let seen = see(&self.conditions, &specimen, self.worn_look());
        let second = dress.second.map(|w| {
            let drawn = sample(&w.doc, &w.look);
            (w.name, see(&self.conditions, &drawn, &w.look))
        });
        let stage = &mut self.stage;
        (stage.specimen, stage.seen, stage.second) = (specimen, seen, second);
        stage.stale = false;
        // The pointer stays on what it was on.
        if let Some((what, text)) = old {
            let spots = &stage.specimen.spots;
            let same = |s: &Spot| s.what == what && s.text == text;
            if !spots.get(stage.spot).is_some_and(same) {
                stage.spot = spots.iter().position(same).unwrap_or(0);
            }
        }
    }
}
