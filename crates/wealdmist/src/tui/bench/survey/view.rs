//! The ledger: roles down, tools across; agreement is quiet, drift is loud.

use wealdmist_core::ledger::{Cell, Ledger, Row, State};
use wealdmist_core::property::Property;
use wealdmist_core::reading::{Asked, Reading, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::text::visible;
use wealdmist_tools::Access;

use super::{Item, Survey};
use crate::tui::instrument::Tone;
use crate::tui::view::{Hit, Hits, Pen, draw_excerpt, scroll};
use crate::tui::workspace::Workspace;

/// The columns of the ledger: as many tools as there is room for, those around the chosen one. A tool
/// that agrees in everything takes little room.
struct Columns {
    label: usize,
    value: usize,
    /// The first tool shown.
    first: usize,
    /// The widths of those shown.
    widths: Vec<usize>,
}

impl Columns {
    /// The least for a tool with something to say: a sign, a swatch and a color.
    const LEAST: usize = 11;
    /// The most a tool gets.
    const MOST: usize = 26;
    /// What is said of those that have no room.
    const MORE: usize = 4;

    fn new(width: usize, ledger: &Ledger, chosen: usize) -> Self {
        let label = if width >= 100 {
            28
        } else if width >= 84 {
            25
        } else {
            22
        };
        let value = 14;
        let room = width.saturating_sub(label + value + 1);
        let speaks = |i: usize| {
            let cells = ledger.rows.iter().filter_map(|r| r.cells.get(i));
            cells
                .into_iter()
                .any(|c| !matches!(c.state, State::Agrees | State::Unset | State::Unable))
        };
        let needs: Vec<usize> = ledger
            .tools
            .iter()
            .enumerate()
            .map(|(i, tool)| (tool.0.len() + 1).max(if speaks(i) { Self::LEAST } else { 6 }))
            .collect();
        // Where not all have room, how many more there are has some.
        let room = match needs.iter().sum::<usize>() > room {
            true => room.saturating_sub(Self::MORE),
            false => room,
        };
        // From the chosen tool on, to either side as long as there is room.
        let chosen = chosen.min(needs.len().saturating_sub(1));
        let mut range = chosen..(chosen + 1).min(needs.len());
        let mut used: usize = needs[range.clone()].iter().sum();
        loop {
            let right = needs.get(range.end).filter(|w| used + **w <= room);
            let left = range.start.checked_sub(1).map(|i| needs[i]);
            let left = left.filter(|w| used + w <= room);
            match (left, right) {
                (Some(width), _) if range.start + range.end >= 2 * chosen || right.is_none() => {
                    range.start -= 1;
                    used += width;
                }
                (_, Some(width)) => {
                    used += width;
                    range.end += 1;
                }
                _ => break,
            }
        }
        // What is left over goes to those that have something to say.
        let mut widths: Vec<usize> = needs[range.clone()].to_vec();
        let takers: Vec<usize> = (0..widths.len())
            .filter(|i| speaks(range.start + i))
            .collect();
        let share = room.saturating_sub(used) / takers.len().max(1);
        for i in takers {
            widths[i] = (widths[i] + share).min(Self::MOST);
        }
        Self {
            label,
            value,
            first: range.start,
            widths,
        }
    }

    fn tools(&self) -> std::ops::Range<usize> {
        self.first..self.first + self.widths.len()
    }

    /// Where a tool's column begins.
    fn of_tool(&self, i: usize) -> usize {
        let before = &self.widths[..i.saturating_sub(self.first).min(self.widths.len())];
        self.label + self.value + before.iter().sum::<usize>()
    }

    /// How wide it is, with the blank behind it.
    fn width(&self, i: usize) -> usize {
        let width = i.checked_sub(self.first).and_then(|i| self.widths.get(i));
        width.copied().unwrap_or(1)
    }
}

/// Draws the bench.
pub fn draw(bench: &Survey, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let ledger = &ws.derived.ledger;
    let columns = Columns::new(pen.width(), ledger, bench.column);
    pen.text(0, 1, "role", Tone::Quiet);
    pen.text(0, columns.label, "setup", Tone::Quiet);
    let all = ws.survey.reports.iter().enumerate();
    for (i, report) in all.skip(columns.first).take(columns.widths.len()) {
        let missing = report.files.is_empty();
        let tone = if i == bench.column && !ws.stage.pointed {
            Tone::Strong
        } else {
            Tone::Text
        };
        let name = if missing {
            format!("{} (none)", report.tool)
        } else {
            report.tool.to_string()
        };
        pen.cut(0, columns.of_tool(i), &name, columns.width(i) - 1, tone);
    }
    draw_more(ws, &columns, pen);
    let detail = if pen.height() >= 24 { 6 } else { 5 };
    let room = pen.height().saturating_sub(1 + detail);
    let items = bench.items(ledger);
    let cursor = bench.cursor.min(items.len().saturating_sub(1));
    let first = scroll(cursor, items.len(), room);
    if items.is_empty() {
        let text = if bench.filter.is_empty() {
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
                let folded = bench.is_folded(*group);
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
            Item::Row(r) => draw_row(ws, &ledger.rows[*r], row, i, &columns, pen, hits),
        }
        if i == cursor && !ws.stage.pointed {
            pen.choose_row(row, 0..columns.of_tool(columns.first));
            let start = columns.of_tool(bench.column);
            let width = columns.width(bench.column);
            pen.choose_row(row, start.saturating_sub(1)..start + width - 1);
        }
    }
    let top = pen.height().saturating_sub(detail);
    draw_detail(bench, ws, pen, top);
}

/// How many tools stand to the left and to the right of those shown, and drift there.
fn draw_more(ws: &Workspace, columns: &Columns, pen: &mut Pen) {
    let ledger = &ws.derived.ledger;
    let outside = |tools: std::ops::Range<usize>| {
        let drifts = |i: usize| {
            let cells = ledger.rows.iter().filter_map(|r| r.cells.get(i));
            cells.filter(|c| c.state == State::Drift).count()
        };
        (tools.len(), tools.map(drifts).sum::<usize>())
    };
    let signs = pen.signs();
    let said = |(count, drift): (usize, usize)| match drift {
        0 => count.to_string(),
        drift => format!("{count}{}{drift}", signs.drift),
    };
    let before = outside(0..columns.first);
    if before.0 > 0 {
        let text = format!("{}{}", signs.left, said(before));
        let start = columns
            .of_tool(columns.first)
            .saturating_sub(text.chars().count() + 1);
        pen.text(
            0,
            start,
            &text,
            if before.1 > 0 {
                Tone::Loud
            } else {
                Tone::Quiet
            },
        );
    }
    let behind = outside(columns.tools().end.min(ledger.tools.len())..ledger.tools.len());
    if behind.0 > 0 {
        let text = format!("{}{}", said(behind), signs.right);
        let start = pen.width().saturating_sub(text.chars().count() + 1);
        pen.text(
            0,
            start,
            &text,
            if behind.1 > 0 {
                Tone::Loud
            } else {
                Tone::Quiet
            },
        );
    }
}

fn draw_row(
    ws: &Workspace,
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
        pen.place(line, 0..columns.of_tool(columns.first)),
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
            pen.text(line, columns.label, &row.value_said(), Tone::Faint);
        }
    }
    let cells = row.cells.iter().zip(&ws.survey.reports).enumerate();
    for (i, (cell, report)) in cells.skip(columns.first).take(columns.widths.len()) {
        let start = columns.of_tool(i);
        let width = columns.width(i);
        // Where nothing was chosen, each tool's own value is what there is to see.
        let free = row.value.is_none() && row.role.is_property();
        match odd_one(cell, report).filter(|_| free && cell.state == State::Agrees) {
            Some(reading) => {
                let value = visible(reading.value.to_string().as_bytes());
                pen.cut(line, start, &value, width - 1, Tone::Quiet);
            }
            None => draw_cell(ws, cell, report, line, start, width - 1, pen),
        }
        hits.add(
            pen.place(line, start..start + width),
            Hit::Row(index, Some(i)),
        );
    }
}

fn draw_cell(
    ws: &Workspace,
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
        State::Unable => (signs.unable, Tone::Faint),
        State::Agrees => (signs.agrees, Tone::Faint),
        State::Drift => (signs.drift, Tone::Loud),
        State::Exception(_) => (signs.exception, Tone::Quiet),
        State::Open(_) => (signs.may_differ, Tone::Key),
    };
    let column = pen.text(line, start, sign, tone);
    if cell.state == State::Agrees {
        return;
    }
    // The reading that differs is the one to see.
    let Some(reading) = odd_one(cell, report) else {
        return;
    };
    let roomy = usize::from(width >= 12);
    let column = match color_of(ws, &reading.value) {
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
fn odd_one<'a>(cell: &Cell, report: &'a ToolReport) -> Option<&'a Reading> {
    let found = cell.odd.or_else(|| cell.readings.last().copied());
    found.map(|i| &report.readings[i])
}

fn color_of(ws: &Workspace, value: &Value) -> Option<wealdmist_core::Rgb> {
    match value {
        Value::Color(color) => Some(*color),
        Value::Slot(slot) => Some(ws.derived.look.slot(*slot)),
        Value::Default => Some(ws.derived.look.slot(Slot::Foreground)),
        _ => None,
    }
}

/// Where the value under the pointer stands, and the line itself.
fn draw_detail(bench: &Survey, ws: &Workspace, pen: &mut Pen, top: usize) {
    pen.rule(top, 0..pen.width());
    let Some(role) = bench.role(&ws.derived.ledger) else {
        pen.text(top + 1, 1, "Space folds and unfolds a group.", Tone::Quiet);
        return;
    };
    let Some(row) = ws.derived.ledger.row(&role) else {
        return;
    };
    let Some((cell, report)) = row
        .cells
        .get(bench.column)
        .zip(ws.survey.reports.get(bench.column))
    else {
        return;
    };
    let state = match &cell.state {
        State::Unset => "does not say",
        State::Unable => "has no such thing",
        State::Agrees => "agrees",
        State::Drift => "drifts",
        State::Exception(_) => "differs on purpose",
        State::Open(_) => "may differ",
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
    let Some(reading) = odd_one(cell, report) else {
        draw_silence(&role, report, pen, top);
        return;
    };
    let path = ws.survey.home.contract(&reading.place.path);
    let path = visible(path.as_bytes());
    let mut place = match (reading.place.is_written(), reading.is_default()) {
        (true, false) => format!("{path}:{}", reading.place.at),
        (true, true) => format!("{path}:{}  (the default, commented out)", reading.place.at),
        (false, _) => format!("what {} does by itself: no line sets it", report.tool),
    };
    if let Some(why) = reading.standing.why() {
        place.push_str(&format!("  ({})", visible(why.as_bytes())));
    }
    match &reading.asked {
        None => {}
        Some(Asked::Same) => place.push_str(&format!("  ({} says so)", report.tool)),
        Some(Asked::ReadAs(value)) => {
            place.push_str(&format!("  (read as {value}; {} says this)", report.tool));
        }
        Some(Asked::NotRead) => {
            place = format!("{path}  ({} says so; no line was read)", report.tool)
        }
    }
    if report
        .file(&reading.place.path)
        .is_some_and(|f| !ws.survey.may_edit(f))
    {
        place.push_str("  outside this home: `wealdmist allow` has it edited");
    }
    if let Some((from, line)) = reading.chain.last() {
        let from = ws.survey.home.contract(from);
        place.push_str(&format!(
            "  included by {}:{line}",
            visible(from.as_bytes())
        ));
    }
    pen.cut(top + 2, 1, &place, pen.width() - 2, Tone::Key);
    let written = reading.place.is_written();
    if let Some(file) = report.file(&reading.place.path).filter(|_| written) {
        draw_excerpt(&file.bytes, &reading.place.span, pen, top + 3);
    }
    if role == RoleId::from(Property::Theme) {
        let ours = ws.doc().setup().tool(report.tool).generate;
        let text = match ours {
            true => "what is generated takes its place: a keeps your own",
            false => "your own stays: s has one generated in its place",
        };
        pen.text(top + 4, 1, text, Tone::Quiet);
    } else if cell.readings.len() > 1 {
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
