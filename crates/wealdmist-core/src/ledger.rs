//! The ledger: roles down, tools across, every reading beside the setup's value.

use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

use crate::look::{Look, expr_of};
use crate::property::Property;
use crate::reading::{Reading, ToolId, ToolReport, Value};
use crate::role::{Group, ROLES, RoleId, Slot};
use crate::setup::Setup;

/// How a tool stands to the setup in one role.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum State {
    /// The tool's dotfiles do not say.
    Unset,
    /// The tool has no such thing.
    Unable,
    /// They say the same.
    Agrees,
    /// They say something else.
    Drift,
    /// They say something else, on purpose.
    Exception(String),
    /// They may say something else: what they say depends on what cannot be worked out, or could not be
    /// read. Why.
    Open(Arc<str>),
}

/// One cell: a tool's say in a role.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Cell {
    /// How it stands.
    pub state: State,
    /// The readings behind it, by position in the tool's report; the one that counts last.
    pub readings: Vec<usize>,
    /// The one of them that differs from the setup; one that is sure before others.
    pub odd: Option<usize>,
}

/// One role across the tools.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// The role.
    pub role: RoleId,
    /// What the setup comes to; `None` where it does not say (no font chosen, say).
    pub value: Option<Value>,
    /// How the setup says it, such as `background + 25% foreground`.
    pub said: String,
    /// One cell per tool, in the order of [`Ledger::tools`].
    pub cells: Vec<Cell>,
}

impl Row {
    /// Whether any tool drifts.
    #[must_use]
    pub fn drifts(&self) -> bool {
        self.cells.iter().any(|c| c.state == State::Drift)
    }

    /// The setup's value as people read it, or what it means that there is none.
    #[must_use]
    pub fn value_said(&self) -> String {
        let none = unsaid(&self.role);
        (self.value.as_ref()).map_or_else(|| none.to_owned(), ToString::to_string)
    }
}

/// What it means that the setup has no value for a role.
fn unsaid(role: &RoleId) -> &'static str {
    match Property::from_key(role.as_str()) {
        Some(Property::Theme) => "each its own",
        _ => "not chosen",
    }
}

/// The whole ledger.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Ledger {
    /// The columns.
    pub tools: Vec<ToolId>,
    /// The rows, in the order of their groups.
    pub rows: Vec<Row>,
}

impl Ledger {
    /// Sets every reading beside the setup.
    #[must_use]
    pub fn new(setup: &Setup, look: &Look, reports: &[ToolReport]) -> Self {
        let tools = reports.iter().map(|r| r.tool).collect();
        let places: Vec<HashMap<&RoleId, Vec<usize>>> = reports.iter().map(by_role).collect();
        let rows = row_order(setup, reports)
            .into_iter()
            .map(|role| {
                let value = setup_value(setup, look, &role);
                let cells = reports
                    .iter()
                    .zip(&places)
                    .map(|(r, places)| {
                        let readings = places.get(&role).cloned().unwrap_or_default();
                        cell(setup, look, r, &role, readings)
                    })
                    .collect();
                Row {
                    said: said(setup, &role, value.as_ref()),
                    value,
                    role,
                    cells,
                }
            })
            .collect();
        Self { tools, rows }
    }

    /// How many cells drift.
    #[must_use]
    pub fn drift_count(&self) -> usize {
        self.rows
            .iter()
            .flat_map(|r| &r.cells)
            .filter(|c| c.state == State::Drift)
            .count()
    }

    /// The row of a role.
    #[must_use]
    pub fn row(&self, role: &RoleId) -> Option<&Row> {
        self.rows.iter().find(|r| r.role == *role)
    }
}

fn row_order(setup: &Setup, reports: &[ToolReport]) -> Vec<RoleId> {
    let read: BTreeSet<&RoleId> = reports
        .iter()
        .flat_map(|r| &r.readings)
        .filter(|r| r.effective && !r.is_default())
        .map(|r| &r.role)
        .collect();
    let properties = Property::ALL
        .into_iter()
        .map(RoleId::from)
        .filter(|r| read.contains(r));
    let known = ROLES.iter().map(|k| RoleId::known(k.id)).filter(|role| {
        role.group() == Group::Slots || read.contains(role) || setup.roles.contains_key(role)
    });
    let other = read
        .iter()
        .filter(|r| r.group() == Group::Other)
        .map(|r| (*r).clone());
    properties.chain(known).chain(other).collect()
}

/// What the setup comes to for a row; nothing for a slot that its palette leaves to the terminal, and for
/// a role of one tool's own that it does not name.
#[must_use]
pub fn setup_value(setup: &Setup, look: &Look, role: &RoleId) -> Option<Value> {
    if let Some(property) = Property::from_key(role.as_str()) {
        return property.of(setup);
    }
    let is_left = |slot| !setup.palette().slots.contains_key(&slot);
    let is_unsaid = match Slot::from_key(role.as_str()) {
        Some(slot) => is_left(slot),
        None => role.group() == Group::Other && !setup.roles.contains_key(role),
    };
    (!is_unsaid).then(|| Value::Color(look.color(role)))
}

fn said(setup: &Setup, role: &RoleId, value: Option<&Value>) -> String {
    if !role.is_property()
        && let Some(expr) = expr_of(setup, role)
    {
        return expr.to_string();
    }
    value.map_or_else(|| unsaid(role).to_owned(), ToString::to_string)
}

/// The readings that count, by their role.
fn by_role(report: &ToolReport) -> HashMap<&RoleId, Vec<usize>> {
    let mut out: HashMap<&RoleId, Vec<usize>> = HashMap::new();
    for (i, reading) in report.readings.iter().enumerate() {
        if reading.effective {
            out.entry(&reading.role).or_default().push(i);
        }
    }
    out
}

fn cell(
    setup: &Setup,
    look: &Look,
    report: &ToolReport,
    role: &RoleId,
    readings: Vec<usize>,
) -> Cell {
    let reading = |i: &usize| &report.readings[*i];
    let differs = |i: &&usize| !agrees(setup, look, report.tool, reading(i));
    let differing = || readings.iter().filter(differs);
    let sure = differing().rfind(|i| reading(i).is_sure());
    let odd = sure.or_else(|| differing().next_back()).copied();
    let open = odd.and_then(|i| reading(&i).standing.why());
    let property = Property::from_key(role.as_str());
    // What it is asked for cannot be said to it.
    let unable = || {
        let wanted = property.filter(|p| p.is_of_windows());
        let wanted = wanted.and_then(|p| Some((p, p.of(setup)?)));
        report.is_terminal && wanted.is_some_and(|(p, value)| !report.can_say(p, &value))
    };
    let state = if odd.is_none() && readings.iter().all(|i| reading(i).is_default()) {
        // Nothing is said, and nothing is asked for.
        let able = property.is_none_or(|p| !p.is_of_windows() || report.takes(p));
        match report.is_terminal && !able {
            true => State::Unable,
            false => State::Unset,
        }
    } else if let Some(why) = open {
        State::Open(why.clone())
    } else if odd.is_none() {
        State::Agrees
    } else if let Some(exception) = setup.exception(report.tool, role) {
        State::Exception(exception.reason.clone())
    } else if unable() {
        State::Unable
    } else {
        State::Drift
    };
    Cell {
        state,
        readings,
        odd,
    }
}

/// Whether what a tool does by itself in a role is to follow the setup: the colors that the palette
/// says, what is set of fonts and windows, and the roles the setup adds to the tool.
pub(crate) fn concerns_defaults(setup: &Setup, tool: ToolId, role: &RoleId) -> bool {
    match Slot::from_key(role.as_str()) {
        Some(slot) => setup.palette().slots.contains_key(&slot),
        None => role.is_property() || setup.tool(tool).adds.contains(role),
    }
}

/// Whether a reading says what the setup says.
#[must_use]
pub fn agrees(setup: &Setup, look: &Look, tool: ToolId, reading: &Reading) -> bool {
    let Some(wanted) = setup_value(setup, look, &reading.role) else {
        return true;
    };
    // A tool's own default in a role the setup leaves to its default: chosen by nobody.
    if reading.is_default() && !concerns_defaults(setup, tool, &reading.role) {
        return true;
    }
    let property = Property::from_key(reading.role.as_str());
    match (&reading.value, wanted) {
        (Value::Color(color), Value::Color(wanted)) => *color == wanted,
        // A slot is drawn in the terminal's color, which the setup decides.
        (Value::Slot(slot), Value::Color(wanted)) => look.slot(*slot) == wanted,
        // What the tool does by itself was chosen by nobody: nothing to differ from.
        (Value::Default, _) if reading.is_default() => true,
        (Value::Default, Value::Color(wanted)) => {
            let slot = if reading.role.is_ground() {
                Slot::Background
            } else {
                Slot::Foreground
            };
            look.slot(slot) == wanted
        }
        // A theme of the person's own is theirs while we are not to generate one.
        (Value::Text(_), _) if property == Some(Property::Theme) && !setup.tool(tool).generate => {
            true
        }
        (found, wanted) => {
            property.is_some_and(|p| p.agrees(found, &wanted, setup.symbols_for(tool)))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    use crate::setup::SetupDoc;

    fn state(setup: &str, role: &'static str, value: Value) -> State {
        let setup = SetupDoc::parse("s", setup.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let mut report = ToolReport::new(ToolId("tmux"));
        report.readings.push(Reading::of(role, value, 1));
        let ledger = Ledger::new(&setup, &Look::new(&setup), &[report]);
        ledger.row(&RoleId::known(role)).unwrap().cells[0]
            .state
            .clone()
    }

    const SETUP: &str = "[palettes.a]\nbackground='#101010'\nred='#cc0000'\n[roles]\nerror='red'\n[font]\nfamily='Reedbed Mono NF'\n";

    #[test]
    fn values_are_compared_as_they_are_drawn() {
        let color = |v| Value::Color(crate::Rgb::from_u32(v));
        assert_eq!(state(SETUP, "error", color(0xcc_0000)), State::Agrees);
        assert_eq!(state(SETUP, "error", color(0xcc_0001)), State::Drift);
        assert_eq!(state(SETUP, "error", Value::Slot(Slot::Red)), State::Agrees);
        assert_eq!(state(SETUP, "error", Value::Slot(Slot::Blue)), State::Drift);
        assert_eq!(state(SETUP, "background", Value::Default), State::Agrees);
        assert_eq!(
            state(SETUP, "font.family", Value::Text("reedbed mono nf".into())),
            State::Agrees
        );
        assert_eq!(
            state(SETUP, "font.family", Value::Text("Reedbed NF".into())),
            State::Drift
        );
        assert_eq!(
            state(SETUP, "font.size", Value::Number(9.0)),
            State::Agrees,
            "no size is chosen"
        );
        assert_eq!(
            state(SETUP, "symbols", Value::Text("icons".into())),
            State::Drift
        );
        assert_eq!(
            state(SETUP, "symbols", Value::Text("ascii".into())),
            State::Agrees
        );
    }

    #[test]
    fn what_a_terminal_has_no_word_for_is_no_drift() {
        let state = |can: &[Property], lacks: &[(Property, &'static str)]| {
            let setup = format!("{SETUP}[window]\ncursor-unfocused='hollow'\n");
            let doc = SetupDoc::parse("s", setup.as_bytes()).unwrap();
            let mut report = ToolReport::new(ToolId("kitty"));
            report.is_terminal = true;
            report.can.extend(can);
            report.lacks.extend(lacks);
            let said = Value::Text("same".into());
            report
                .readings
                .push(Reading::of("window.cursor-unfocused", said, 1));
            let setup = doc.setup();
            let ledger = Ledger::new(setup, &Look::new(setup), &[report]);
            let row = ledger
                .row(&RoleId::known("window.cursor-unfocused"))
                .unwrap();
            row.cells[0].state.clone()
        };
        let cursor = Property::CursorUnfocused;
        assert_eq!(state(&[cursor], &[]), State::Drift);
        assert_eq!(state(&[cursor], &[(cursor, "none")]), State::Drift);
        assert_eq!(state(&[cursor], &[(cursor, "hollow")]), State::Unable);
        assert_eq!(state(&[], &[]), State::Unable);
    }

    #[test]
    fn an_exception_is_no_drift() {
        let setup = format!("{SETUP}[[exceptions]]\ntool='tmux'\nrole='error'\nreason='softer'\n");
        let got = state(&setup, "error", Value::Slot(Slot::Blue));
        assert_eq!(got, State::Exception("softer".into()));
    }
}
