//! The Survey bench: the ledger with its rows as shown, and the three verbs on a cell.

mod files;
mod view;

use std::borrow::Cow;
use std::collections::BTreeSet;

use crossterm::event::KeyCode::{Char, Enter};
use wealdmist_core::ledger::{Ledger, State};
use wealdmist_core::property::Property;
use wealdmist_core::reading::{ToolId, Value};
use wealdmist_core::role::{Group, RoleId};
use wealdmist_core::text::visible;

use super::{Bench, Do, List, Question, Reply, held};
use crate::tui::job::Job;
use crate::tui::keys::{Key, hint, key};
use crate::tui::stage::Target;
use crate::tui::step::Step;
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::{ask, lines};

/// The step.
pub const STEP: Step = Step {
    name: "survey",
    label: "Survey",
    drawing: "specimen",
};

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Adopt,
    Align,
    Except,
    OnlyDrift,
    Fold,
    Filter,
    Edit,
    AskPrograms,
    Files,
}

/// What comes of its slow work.
pub enum Answer {
    /// Programs were asked: the text of the draft it came from, the home with what they say, and that in
    /// words.
    Asked(String, Box<wealdmist_host::Survey>, String),
}

/// What is typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Ask {
    /// The reason of an exception.
    Reason {
        /// The tool that may differ.
        tool: ToolId,
        /// In what.
        role: RoleId,
    },
    /// Which rows are shown.
    Filter,
    /// A number of the setup that is no color.
    Number(Property),
}

/// A row as shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Item {
    /// A group's heading.
    Group(Group),
    /// A row of the ledger, by position.
    Row(usize),
}

/// The pointer, the folded groups and the filter.
#[derive(Debug, Clone, Default)]
pub struct Survey {
    /// The row pointed at, counted as shown.
    pub cursor: usize,
    /// The tool pointed at.
    pub column: usize,
    /// Whether only rows with drift are shown.
    pub only_drift: bool,
    /// Only rows with this in their name are shown.
    pub filter: String,
    folded: BTreeSet<Group>,
    /// Whether the person agreed that the programs are asked.
    agreed: bool,
    /// Whether the first drift has been pointed at.
    started: bool,
}

impl Survey {
    /// Points at the first drift, which is what one came for.
    fn start(&mut self, ledger: &Ledger) {
        let items = self.items(ledger);
        let drifts = |i: &Item| matches!(i, Item::Row(r) if ledger.rows[*r].drifts());
        self.cursor = items
            .iter()
            .position(drifts)
            .unwrap_or(usize::from(items.len() > 1));
        if let Some(Item::Row(row)) = items.get(self.cursor) {
            let cells = &ledger.rows[*row].cells;
            self.column = cells
                .iter()
                .position(|c| c.state == State::Drift)
                .unwrap_or(0);
        }
    }

    /// The rows as shown.
    pub fn items(&self, ledger: &Ledger) -> Vec<Item> {
        let wanted = self.filter.to_lowercase();
        let shown = |i: &usize| {
            let row = &ledger.rows[*i];
            let name = format!("{} {}", row.role.label(), row.role).to_lowercase();
            (!self.only_drift || row.drifts()) && name.contains(&wanted)
        };
        let mut out = Vec::new();
        let mut group = None;
        for i in (0..ledger.rows.len()).filter(shown) {
            let of = ledger.rows[i].role.group();
            if group != Some(of) {
                group = Some(of);
                out.push(Item::Group(of));
            }
            if !self.folded.contains(&of) {
                out.push(Item::Row(i));
            }
        }
        out
    }

    /// The role of the row pointed at.
    pub fn role(&self, ledger: &Ledger) -> Option<RoleId> {
        match self.items(ledger).get(self.cursor) {
            Some(Item::Row(i)) => Some(ledger.rows[*i].role.clone()),
            _ => None,
        }
    }

    /// Whether a heading is pointed at.
    pub fn on_group(&self, ledger: &Ledger) -> bool {
        matches!(self.items(ledger).get(self.cursor), Some(Item::Group(_)))
    }

    /// Whether a group is folded.
    pub fn is_folded(&self, group: Group) -> bool {
        self.folded.contains(&group)
    }

    /// Folds or unfolds the group pointed at, or the one of the row pointed at.
    pub fn fold(&mut self, ledger: &Ledger) {
        let items = self.items(ledger);
        let group = match items.get(self.cursor) {
            Some(Item::Group(group)) => *group,
            Some(Item::Row(i)) => ledger.rows[*i].role.group(),
            None => return,
        };
        if !self.folded.remove(&group) {
            self.folded.insert(group);
        }
        let items = self.items(ledger);
        self.cursor = items
            .iter()
            .position(|i| *i == Item::Group(group))
            .unwrap_or(0);
    }

    /// Shows only rows with drift, or all.
    pub fn toggle_only_drift(&mut self, ledger: &Ledger) {
        let role = self.role(ledger);
        self.only_drift = !self.only_drift;
        let items = self.items(ledger);
        let same =
            |i: &Item| matches!(i, Item::Row(r) if Some(&ledger.rows[*r].role) == role.as_ref());
        self.cursor = items.iter().position(same).unwrap_or(0);
    }

    /// Shows only rows whose name holds a text, and points at the first whose name begins with it.
    pub fn set_filter(&mut self, filter: String, ledger: &Ledger) {
        let is_new = self.filter != filter;
        self.filter = filter;
        if !is_new {
            return;
        }
        let wanted = self.filter.to_lowercase();
        let begins = |item: &Item| match item {
            Item::Row(i) => {
                let role = &ledger.rows[*i].role;
                let names = [role.label(), role.to_string()];
                names
                    .iter()
                    .any(|name| name.to_lowercase().starts_with(&wanted))
            }
            Item::Group(_) => false,
        };
        let first = self.items(ledger).iter().position(begins);
        self.cursor = match self.filter.is_empty() {
            true => 0,
            false => first.unwrap_or(1),
        };
    }
}

impl Bench for Survey {
    type Act = Act;
    type Ask = Ask;
    type Answer = Answer;

    const KEYS: &'static [Key<Act>] = &[
        hint(Char('a'), Act::Adopt, "a", "take this value into the setup"),
        hint(Char('s'), Act::Align, "s", "set this tool to the setup"),
        hint(Char('e'), Act::Except, "e", "keep as exception"),
        hint(Char('o'), Act::OnlyDrift, "o", "only drift"),
        hint(Char('p'), Act::AskPrograms, "p", "ask the programs"),
        key(Char(' '), Act::Fold, "Space", "fold group"),
        key(Char('/'), Act::Filter, "/", "show only some roles"),
        hint(Char('w'), Act::Files, "w", "files read"),
        hint(Enter, Act::Edit, "Enter", "change it"),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        let shown = match (self.only_drift, self.filter.is_empty()) {
            (false, true) => return "ledger: what your dotfiles say, beside the setup".into(),
            (true, true) => "only drift, o shows all".to_owned(),
            (only_drift, false) => {
                let drift = if only_drift { ", only drift" } else { "" };
                let filter = visible(self.filter.as_bytes());
                format!("only roles with '{filter}'{drift}, / changes that")
            }
        };
        format!("ledger: {shown}").into()
    }

    fn command(&self, ws: &Workspace) -> String {
        let Some((tool, role, state)) = self.cell(ws) else {
            return "wealdmist survey".to_owned();
        };
        let property = Property::from_key(role.as_str());
        let said = property.and_then(|p| p.of(ws.doc().setup()));
        let value = match &said {
            Some(value) => lines::word(&value.to_string()),
            None => lines::word(&ws.look().color(&role).to_string()),
        };
        let generates = ws.doc().setup().tool(tool).generate;
        let is_set = property.is_none_or(Property::is_set);
        match state {
            _ if property == Some(Property::Theme) => {
                format!("wealdmist set tools.{tool}.generate {}", !generates)
            }
            State::Exception(_) => format!("wealdmist except {role} {tool} --remove"),
            State::Drift if is_set => format!(
                "wealdmist adopt {role} {tool}   ·   wealdmist except {role} {tool} --reason '…'"
            ),
            State::Drift => format!("wealdmist except {role} {tool} --reason '…'"),
            // What the setup does not say is taken from who says it.
            _ if is_set && property.is_some() && said.is_none() => {
                format!("wealdmist adopt {role} {tool}")
            }
            _ if is_set => format!("wealdmist set {role} {value}"),
            _ => "wealdmist survey --all".to_owned(),
        }
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match act {
            Act::Adopt => self.adopt(ws),
            Act::Align => self.align(ws),
            Act::Except => return self.start_exception(ws),
            Act::OnlyDrift => self.toggle_only_drift(&ws.derived.ledger),
            Act::Fold => self.fold(&ws.derived.ledger),
            Act::Filter => {
                let question = Question::new("show roles with", self.filter.clone());
                return vec![Do::Ask(question, Ask::Filter)];
            }
            Act::AskPrograms => return self.ask_programs(ws),
            Act::Files => return vec![Do::Open(held(files::Files::of(ws)))],
            Act::Edit if self.on_group(&ws.derived.ledger) => self.fold(&ws.derived.ledger),
            Act::Edit => {
                let role = self.role(&ws.derived.ledger);
                let property = role.as_ref().and_then(|r| Property::from_key(r.as_str()));
                if let Some((property, words)) = property.and_then(|p| Some((p, p.words()?))) {
                    // One of a few words: the next of them.
                    let now = property.of(ws.doc().setup()).map(|v| v.to_string());
                    let at = words.iter().position(|w| Some(*w) == now.as_deref());
                    let next = words[at.map_or(0, |at| (at + 1) % words.len())];
                    let changed = property.set(ws.doc(), &Value::Text(next.to_owned()));
                    ws.change(changed);
                    return Vec::new();
                }
                if let Some((property, (least, most))) =
                    property.and_then(|p| Some((p, p.range()?)))
                {
                    let now = property.of(ws.doc().setup());
                    let now = now.map_or_else(String::new, |v| format!(", now {v}"));
                    let label = RoleId::from(property).label();
                    let text = format!("{label}, {least} to {most}{now}");
                    return vec![Do::Ask(Question::new(text, ""), Ask::Number(property))];
                }
                return role.map(Do::StandOn).into_iter().collect();
            }
        }
        Vec::new()
    }

    fn typed(&mut self, ask: &Ask, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        match ask {
            Ask::Filter => self.set_filter(text.to_owned(), &ws.derived.ledger),
            Ask::Number(property) => {
                let value = property.typed(text)?;
                let changed = property.set(ws.doc(), &value);
                let changed = changed.map_err(|e| e.to_string())?;
                ws.change(Ok::<_, String>(changed));
            }
            Ask::Reason { .. } if text.trim().is_empty() => {
                let said = "an exception needs a reason, so that it can be understood later";
                return Err(said.to_owned());
            }
            Ask::Reason { tool, role } => {
                let changed = ws.doc().with_exception(*tool, role, text.trim());
                ws.change(changed);
            }
        }
        Ok(Vec::new())
    }

    fn typing(&mut self, ask: &Ask, text: Option<&str>, ws: &mut Workspace) {
        // A filter shows its effect while it is typed.
        if *ask == Ask::Filter {
            self.set_filter(text.unwrap_or_default().to_owned(), &ws.derived.ledger);
        }
    }

    fn answered(&mut self, answer: Answer, ws: &mut Workspace) -> Reply<Self> {
        let Answer::Asked(sent, survey, said) = answer;
        ws.programs_answered(*survey, &sent, said);
        Vec::new()
    }

    fn list(&mut self, ws: &Workspace) -> Option<List<'_>> {
        let len = self.items(&ws.derived.ledger).len();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace) {
        if let Some(mut list) = self.list(ws) {
            list.move_by(down);
        }
        let last = ws.derived.ledger.tools.len().saturating_sub(1);
        self.column = self.column.saturating_add_signed(right).min(last);
    }

    fn point(&mut self, row: usize, column: Option<usize>, ws: &mut Workspace) {
        if let Some(mut list) = self.list(ws) {
            list.go(row);
        }
        let last = ws.derived.ledger.tools.len().saturating_sub(1);
        self.column = column.unwrap_or(self.column).min(last);
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        if !self.started {
            self.started = true;
            self.start(&ws.derived.ledger);
        }
        Vec::new()
    }

    fn open_count(&self, ws: &Workspace) -> usize {
        ws.derived.counts.drift
    }

    fn target(&self, ws: &Workspace) -> Option<Target> {
        self.role(&ws.derived.ledger).map(Target::from)
    }
}

/// Slow work: the programs are asked what the dotfiles come to.
pub fn asking_programs<A: Send + 'static>(
    ws: &Workspace,
    answer: fn(String, Box<wealdmist_host::Survey>, String) -> A,
) -> Job<A> {
    let mut survey = Box::new(ws.survey.clone());
    Job::new("programs", "asking the programs", move || {
        let sent = survey.doc.text().to_owned();
        let said = ask::summary(&ask::ask(&mut survey));
        answer(sent, survey, said)
    })
}

impl Survey {
    /// The tool, role and state of the cell pointed at.
    fn cell(&self, ws: &Workspace) -> Option<(ToolId, RoleId, State)> {
        let ledger = &ws.derived.ledger;
        let role = self.role(ledger)?;
        let row = ledger.row(&role)?;
        let tool = *ledger.tools.get(self.column)?;
        let state = row.cells.get(self.column)?.state.clone();
        Some((tool, role, state))
    }

    /// Takes the tool's value into the setup.
    fn adopt(&self, ws: &mut Workspace) {
        let Some((tool, role, _)) = self.cell(ws) else {
            return;
        };
        let reading = ws
            .survey
            .reports
            .iter()
            .find(|r| r.tool == tool)
            .and_then(|r| r.effective(&role));
        let Some(reading) = reading else {
            ws.complain(format!("{tool} says nothing of this role"));
            return;
        };
        let value = reading.value.clone();
        if role == RoleId::from(Property::Theme) {
            let changed = ws.doc().with_generated(tool, false);
            if ws.change(changed) {
                ws.tell(format!("{tool} keeps its own: {value}"));
            }
            return;
        }
        let changed = ws.doc().adopting(&role, &value);
        if ws.change(changed) {
            ws.tell(format!("{} is {value} now, as in {tool}", role.label()));
        }
    }

    /// Asks the installed programs what the dotfiles come to, once the person has agreed.
    fn ask_programs(&mut self, ws: &mut Workspace) -> Reply<Self> {
        if !std::mem::replace(&mut self.agreed, true) {
            ws.tell(format!("p again asks: {}", ask::SAID));
            return Vec::new();
        }
        vec![Do::Run(asking_programs(ws, Answer::Asked))]
    }

    /// Sets the tool to the setup: an exception goes, a silent tool gets the role.
    fn align(&self, ws: &mut Workspace) {
        let Some((tool, role, state)) = self.cell(ws) else {
            return;
        };
        let is_theme = role == RoleId::from(Property::Theme);
        if is_theme
            && !matches!(state, State::Exception(_))
            && !ws.doc().setup().tool(tool).generate
        {
            let changed = ws.doc().with_generated(tool, true);
            if ws.change(changed) {
                let step = ws.number_of("apply");
                ws.tell(format!(
                    "{tool} gets what is generated in the place of its own: see step {step}; a takes that back"
                ));
            }
            return;
        }
        match state {
            State::Exception(_) => {
                let changed = ws.survey.doc.without_exception(tool, &role);
                if ws.change(changed) {
                    ws.tell(format!(
                        "no exception any more: {} applies {} to {tool}",
                        ws.number_of("apply"),
                        role.label()
                    ));
                }
            }
            State::Unable => {
                ws.complain(format!("{tool} has no setting for {}", role.label()));
            }
            State::Unset => {
                let changed = ws.survey.doc.with_addition(tool, &role);
                let before = ws.planned.change_count();
                if ws.change(changed) {
                    if ws.planned.change_count() > before {
                        let step = ws.number_of("apply");
                        ws.tell(format!("{tool} will get {}: see step {step}", role.label()));
                    } else {
                        ws.undo();
                        ws.complain(format!("{tool} has no setting for {}", role.label()));
                    }
                }
            }
            State::Drift => {
                let step = ws.number_of("apply");
                match ws.take_role(tool, &role) {
                    0 => ws.complain(format!(
                        "nothing of {tool} is written for it: see step {step}"
                    )),
                    _ => ws.tell(format!("taken: step {step} shows the edit and applies it")),
                }
            }
            State::Agrees => ws.tell("it agrees already"),
            State::Open(why) => {
                ws.complain(format!("{tool} may differ, {why}: change it there by hand"))
            }
        }
    }

    /// Asks for the reason of an exception.
    fn start_exception(&self, ws: &mut Workspace) -> Reply<Self> {
        let Some((tool, role, state)) = self.cell(ws) else {
            return Vec::new();
        };
        match state {
            State::Drift | State::Exception(_) => {
                let text = match state {
                    State::Exception(reason) => reason,
                    _ => String::new(),
                };
                let question = format!("why may {tool} differ in {}?", role.label());
                return vec![Do::Ask(
                    Question::new(question, text),
                    Ask::Reason { tool, role },
                )];
            }
            _ => ws.tell("only what differs can be an exception"),
        }
        Vec::new()
    }
}
