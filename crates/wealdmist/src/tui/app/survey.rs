//! The ledger: its rows as shown, and the three verbs on a cell.

use std::collections::BTreeSet;

use wealdmist_core::ledger::{Ledger, State};
use wealdmist_core::role::{Group, RoleId};

use super::{App, Input, Purpose};
use crate::command::adopted;
use crate::tui::keys::Step;

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
pub struct LedgerState {
    /// The row pointed at, counted as shown.
    pub cursor: usize,
    /// The tool pointed at.
    pub column: usize,
    /// Whether only rows with drift are shown.
    pub only_drift: bool,
    /// Only rows with this in their name are shown.
    pub filter: String,
    folded: BTreeSet<Group>,
}

impl LedgerState {
    /// Points at the first drift, which is what one came for.
    pub fn start(&mut self, ledger: &Ledger) {
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

    /// Shows only rows whose name holds a text.
    pub fn set_filter(&mut self, filter: String) {
        if self.filter != filter {
            self.cursor = usize::from(!filter.is_empty());
        }
        self.filter = filter;
    }
}

impl App {
    pub(super) fn start_filter(&mut self) {
        let text = self.ledger.filter.clone();
        let question = "show roles with".to_owned();
        self.input = Some(Input {
            question,
            text,
            purpose: Purpose::Filter,
        });
    }

    /// The role and state of the cell pointed at.
    fn cell(&self) -> Option<(RoleId, State)> {
        let role = self.ledger.role(&self.derived.ledger)?;
        let row = self.derived.ledger.row(&role)?;
        Some((
            role.clone(),
            row.cells.get(self.ledger.column)?.state.clone(),
        ))
    }

    fn tool(&self) -> &'static str {
        self.derived
            .ledger
            .tools
            .get(self.ledger.column)
            .map_or("", |t| t.0)
    }

    /// Takes the tool's value into the setup.
    pub(super) fn adopt(&mut self) {
        let Some((role, _)) = self.cell() else { return };
        let tool = self.tool();
        let reading = self
            .survey
            .reports
            .iter()
            .find(|r| r.tool.0 == tool)
            .and_then(|r| r.effective(&role));
        let Some(reading) = reading else {
            self.complain(format!("{tool} says nothing of this role"));
            return;
        };
        let value = reading.value.clone();
        let changed = adopted(&self.survey.doc, &role, &value);
        if self.change(changed) {
            self.tell(&format!("{} is {value} now, as in {tool}", role.label()));
        }
    }

    /// Sets the tool to the setup: an exception goes, a silent tool gets the role.
    pub(super) fn align(&mut self) {
        let Some((role, state)) = self.cell() else {
            return;
        };
        let tool = self.tool();
        match state {
            State::Exception(_) => {
                let changed = self.survey.doc.without_exception(tool, &role);
                if self.change(changed) {
                    self.tell(&format!(
                        "no exception any more: {} applies {} to {tool}",
                        Step::Apply.number(),
                        role.label()
                    ));
                }
            }
            State::Unset => {
                let changed = self.survey.doc.with_addition(tool, &role);
                let before = self.plan.change_count();
                if self.change(changed) {
                    if self.plan.change_count() > before {
                        self.tell(&format!("{tool} will get {}: see step 5", role.label()));
                    } else {
                        self.undo_draft();
                        self.complain(format!("{tool} has no setting for {}", role.label()));
                    }
                }
            }
            State::Drift => self.tell("already in the plan: step 5 shows the edit and applies it"),
            State::Agrees => self.tell("it agrees already"),
        }
    }

    /// Asks for the reason of an exception.
    pub(super) fn start_exception(&mut self) {
        let Some((role, state)) = self.cell() else {
            return;
        };
        let tool = self.tool().to_owned();
        match state {
            State::Drift | State::Exception(_) => {
                let text = match state {
                    State::Exception(reason) => reason,
                    _ => String::new(),
                };
                let question = format!("why may {tool} differ in {}?", role.label());
                self.input = Some(Input {
                    question,
                    text,
                    purpose: Purpose::Reason { tool, role },
                });
            }
            _ => self.tell("only what differs can be an exception"),
        }
    }

    pub(super) fn typed_reason(&mut self, tool: &str, role: &RoleId, reason: &str) {
        if reason.trim().is_empty() {
            self.complain("an exception needs a reason, so that it can be understood later".into());
            return;
        }
        let changed = self.survey.doc.with_exception(tool, role, reason.trim());
        self.change(changed);
    }
}
