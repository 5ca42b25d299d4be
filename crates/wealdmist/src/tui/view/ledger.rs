//! The ledger: roles down, tools across; agreement is quiet, drift is loud.

use wealdmist_core::ledger::{Cell, Row, State};
use wealdmist_core::reading::{Reading, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::text::visible;
use wealdmist_tools::Access;

use super::layout::scroll;
use super::pen::{Pen, draw_excerpt};
use super::{Hit, Hits};
use crate::tui::app::{App, Item};
use crate::tui::instrument::Tone;

/// The columns of the ledger.
struct Columns {
    label: usize,
    value: usize,
    tool: usize,
}

impl Columns {
    fn new(width: usize, tools: usize) -> Self {
        let label = if width >= 100 {
            28
        } else if width >= 84 {
            25
        } else {
            22
        };
        let value = 14;
        let room = width.saturating_sub(label + value + 1);
        Self {
            label,
            value,
            tool: (room / tools.max(1)).min(26),
        }
    }

    fn of_tool(&self, i: usize) -> usize {
        self.label + self.value + i * self.tool
    }
}

/// Draws the bench.
pub fn draw(app: &App, pen: &mut Pen, hits: &mut Hits) {
    let ledger = &app.derived.ledger;
    let columns = Columns::new(pen.width(), ledger.tools.len());
    pen.text(0, 1, "role", Tone::Quiet);
    pen.text(0, columns.label, "setup", Tone::Quiet);
    for (i, report) in app.survey.reports.iter().enumerate() {
        let missing = report.files.is_empty();
        let tone = if i == app.ledger.column && !app.on_specimen {
            Tone::Strong
        } else {
            Tone::Text
        };
        let name = if missing {
            format!("{} (none)", report.tool)
        } else {
            report.tool.to_string()
        };
        pen.cut(0, columns.of_tool(i), &name, columns.tool - 1, tone);
    }
    let detail = if pen.height() >= 24 { 6 } else { 5 };
    let room = pen.height().saturating_sub(1 + detail);
    let items = app.ledger.items(ledger);
    let cursor = app.ledger.cursor.min(items.len().saturating_sub(1));
    let first = scroll(cursor, items.len(), room);
    if items.is_empty() {
        let text = if app.ledger.filter.is_empty() {
            "No drift: every tool says what the setup says. o shows all rows."
        } else {
            "No role has this in its name. / and an empty text shows all."
        };
        pen.text(2, 2, text, Tone::Text);
    }
    for (line, (i, item)) in items.iter().enumerate().skip(first).take(room).enumerate() {
        let row = line + 1;
        match item {
            Item::Group(group) => {
                let folded = app.ledger.is_folded(*group);
                let sign = if folded {
                    pen.signs().folded
                } else {
                    pen.signs().open
                };
                let drifting = ledger
                    .rows
                    .iter()
                    .filter(|r| r.role.group() == *group && r.drifts())
                    .count();
                let column = pen.text(row, 1, &format!("{sign} {}", group.label()), Tone::Quiet);
                if drifting > 0 {
                    pen.text(row, column + 2, &format!("{drifting} drift"), Tone::Quiet);
                }
                hits.add(pen.place(row, 0..pen.width()), Hit::Row(i, None));
            }
            Item::Row(r) => draw_row(app, &ledger.rows[*r], row, i, &columns, pen, hits),
        }
        if i == cursor && !app.on_specimen {
            pen.choose_row(row, 0..columns.of_tool(0));
            let start = columns.of_tool(app.ledger.column);
            pen.choose_row(row, start.saturating_sub(1)..start + columns.tool - 1);
        }
    }
    let top = pen.height().saturating_sub(detail);
    draw_detail(app, pen, top);
}

fn draw_row(
    app: &App,
    row: &Row,
    line: usize,
    index: usize,
    columns: &Columns,
    pen: &mut Pen,
    hits: &mut Hits,
) {
    let loud = row.drifts();
    let label = row.role.label();
    pen.cut(
        line,
        3,
        &label,
        columns.label - 4,
        if loud { Tone::Text } else { Tone::Quiet },
    );
    hits.add(
        pen.place(line, 0..columns.of_tool(0)),
        Hit::Row(index, None),
    );
    match &row.value {
        Some(Value::Color(color)) => {
            let column = pen.swatch(line, columns.label, *color);
            pen.text(
                line,
                column + 1,
                &color.to_string(),
                if loud { Tone::Text } else { Tone::Quiet },
            );
        }
        Some(value) => {
            pen.cut(
                line,
                columns.label,
                &value.to_string(),
                columns.value - 1,
                if loud { Tone::Text } else { Tone::Quiet },
            );
        }
        None => {
            pen.text(line, columns.label, "not chosen", Tone::Faint);
        }
    }
    for (i, (cell, report)) in row.cells.iter().zip(&app.survey.reports).enumerate() {
        let start = columns.of_tool(i);
        draw_cell(app, cell, report, line, start, columns.tool - 1, pen);
        hits.add(
            pen.place(line, start..start + columns.tool),
            Hit::Row(index, Some(i)),
        );
    }
}

fn draw_cell(
    app: &App,
    cell: &Cell,
    report: &ToolReport,
    line: usize,
    start: usize,
    width: usize,
    pen: &mut Pen,
) {
    let signs = pen.signs();
    let (sign, tone) = match cell.state {
        State::Unset => return,
        State::Agrees => (signs.agrees, Tone::Faint),
        State::Drift => (signs.drift, Tone::Loud),
        State::Exception(_) => (signs.exception, Tone::Quiet),
    };
    let column = pen.text(line, start, sign, tone);
    if cell.state == State::Agrees {
        return;
    }
    // The reading that differs is the one to see.
    let Some(reading) = odd_one(app, cell, report) else {
        return;
    };
    let roomy = usize::from(width >= 12);
    let column = match color_of(app, &reading.value) {
        Some(color) if width >= 10 => pen.swatch(line, column + roomy, color),
        _ => column,
    };
    let gap = roomy;
    let value = visible(reading.value.to_string().as_bytes());
    pen.cut(
        line,
        column + gap,
        &value,
        width.saturating_sub(column + gap - start),
        tone,
    );
}

/// The reading of a cell that differs from the setup, or the one that counts.
fn odd_one<'a>(app: &App, cell: &Cell, report: &'a ToolReport) -> Option<&'a Reading> {
    let setup = app.survey.doc.setup();
    let look = &app.derived.look;
    let readings = || cell.readings.iter().map(|i| &report.readings[*i]);
    readings()
        .find(|r| !wealdmist_core::ledger::agrees(setup, look, report.tool, r))
        .or_else(|| readings().next_back())
}

fn color_of(app: &App, value: &Value) -> Option<wealdmist_core::Rgb> {
    match value {
        Value::Color(color) => Some(*color),
        Value::Slot(slot) => Some(app.derived.look.slot(*slot)),
        Value::Default => Some(app.derived.look.slot(Slot::Foreground)),
        _ => None,
    }
}

/// Where the value under the pointer stands, and the line itself.
fn draw_detail(app: &App, pen: &mut Pen, top: usize) {
    pen.rule(top, 0..pen.width());
    let Some(role) = app.ledger.role(&app.derived.ledger) else {
        pen.text(top + 1, 1, "Space folds and unfolds a group.", Tone::Quiet);
        return;
    };
    let Some(row) = app.derived.ledger.row(&role) else {
        return;
    };
    let Some((cell, report)) = row
        .cells
        .get(app.ledger.column)
        .zip(app.survey.reports.get(app.ledger.column))
    else {
        return;
    };
    let state = match &cell.state {
        State::Unset => "does not say",
        State::Agrees => "agrees",
        State::Drift => "drifts",
        State::Exception(_) => "differs on purpose",
    };
    let mut column = pen.text(top + 1, 1, &role.label(), Tone::Strong);
    column = pen.text(
        top + 1,
        column,
        &format!(" {} {} {state}", pen.signs().path, report.tool),
        Tone::Text,
    );
    if row.said
        != row
            .value
            .as_ref()
            .map(ToString::to_string)
            .unwrap_or_default()
    {
        column = pen.text(
            top + 1,
            column + 3,
            &format!("setup: {}", row.said),
            Tone::Quiet,
        );
    }
    if let State::Exception(reason) = &cell.state {
        pen.cut(
            top + 1,
            column + 3,
            &format!("reason: {}", visible(reason.as_bytes())),
            pen.width(),
            Tone::Quiet,
        );
    }
    let Some(reading) = odd_one(app, cell, report) else {
        draw_silence(&role, report, pen, top);
        return;
    };
    let path = app.survey.home.contract(&reading.place.path);
    let mut place = format!("{}:{}", visible(path.as_bytes()), reading.place.at);
    if reading.assumed {
        place.push_str("  (the default, commented out)");
    }
    if let Some((from, line)) = reading.chain.last() {
        let from = app.survey.home.contract(from);
        place.push_str(&format!(
            "  included by {}:{line}",
            visible(from.as_bytes())
        ));
    }
    pen.cut(top + 2, 1, &place, pen.width() - 2, Tone::Key);
    if let Some(file) = report.file(&reading.place.path) {
        draw_excerpt(&file.bytes, &reading.place.span, pen, top + 3);
    }
    if cell.readings.len() > 1 {
        let text = format!("{} more in this tool", cell.readings.len() - 1);
        pen.text(top + 4, 1, &text, Tone::Quiet);
    }
}

/// What can be done where a tool says nothing.
fn draw_silence(role: &RoleId, report: &ToolReport, pen: &mut Pen, top: usize) {
    let text = if report.files.is_empty() {
        format!("No dotfile of {} was found in this home.", report.tool)
    } else if role.is_property() {
        format!("{}'s dotfiles do not set it.", report.tool)
    } else {
        format!(
            "{}'s dotfiles do not set it. s has it written there, if the tool can express it.",
            report.tool
        )
    };
    pen.cut(top + 2, 1, &text, pen.width() - 2, Tone::Quiet);
}
