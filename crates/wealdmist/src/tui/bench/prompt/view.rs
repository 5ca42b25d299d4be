//! The design as a strip, the part pointed at with what it is like, and the design as a whole.

use std::ops::Range;
use std::time::Duration;

use ratatui_core::style::Modifier;
use wealdmist_core::prompt::{Ink, Piece, Shape, cells, cells_of, ready, strip};
use wealdmist_core::role::RoleId;
use wealdmist_core::text::{counted, visible};

use super::facts::{self, Fact};
use super::{Prompt, or_own, scenes};
use crate::tui::instrument::Tone;
use crate::tui::view::{Hit, Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::prompt::{level, shells, shown};

/// Draws the bench.
pub fn draw(bench: &Prompt, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    head(ws, pen);
    let mut row = 2;
    row = the_strip(bench, ws, pen, hits, row) + 1;
    row = part(bench, ws, pen, row);
    whole(bench, ws, pen, row);
}

/// Whose design it is, and which shells get it.
fn head(ws: &Workspace, pen: &mut Pen) {
    let setup = ws.doc().setup();
    let name = ready::like(&setup.prompt).map_or("a design of yours", |r| r.name);
    let column = pen.text(0, 1, name, Tone::Strong);
    let lines = counted(setup.prompt.lines.len(), "line");
    let parts = counted(setup.prompt.parts().count(), "part");
    pen.text(0, column + 2, &format!("{parts}, {lines}"), Tone::Quiet);
    let all = shells(&ws.survey);
    let (ours, theirs): (Vec<_>, Vec<_>) = all.iter().partition(|(_, ours)| *ours);
    let names = |all: &[&(_, bool)]| {
        let all: Vec<&str> = all
            .iter()
            .map(|(id, _): &&(wealdmist_core::reading::ToolId, bool)| id.0)
            .collect();
        all.join(", ")
    };
    let (text, tone) = match (ours.is_empty(), theirs.is_empty()) {
        (true, true) => ("no shell is installed".to_owned(), Tone::Loud),
        (true, false) => (format!("Enter gives it to {}", names(&theirs)), Tone::Key),
        (false, true) => (format!("for {}", names(&ours)), Tone::Good),
        (false, false) => (
            format!("for {}; not {}", names(&ours), names(&theirs)),
            Tone::Text,
        ),
    };
    pen.right(0, pen.width().saturating_sub(1), &text, tone);
}

/// Draws stretches of a prompt between columns; the column behind them.
pub fn pieces(
    ws: &Workspace,
    all: &[Piece],
    pen: &mut Pen,
    row: usize,
    columns: Range<usize>,
) -> usize {
    let look = ws.look();
    let own = (RoleId::known("foreground"), RoleId::known("background"));
    let mut column = columns.start;
    for piece in all {
        let ink = &piece.ink;
        let text = or_own(ink.text.as_ref(), &own.0);
        let ground = or_own(ink.ground.as_ref(), &own.1);
        let mut style = pen.instrument.paint(look.color(text), look.color(ground));
        if ink.styled {
            let attrs = look.attrs(text);
            for (on, modifier) in [
                (attrs.bold, Modifier::BOLD),
                (attrs.italic, Modifier::ITALIC),
                (attrs.underline, Modifier::UNDERLINED),
            ] {
                if on {
                    style = style.add_modifier(modifier);
                }
            }
        }
        let room = columns.end.saturating_sub(column);
        if room == 0 {
            break;
        }
        let text = match pen.instrument.unicode {
            true => piece.text.clone(),
            false => piece
                .text
                .chars()
                .map(crate::tui::instrument::ascii)
                .collect(),
        };
        column = pen.cut_styled(row, column, &text, room, style);
    }
    column
}

/// Pieces in rows of at most so many cells, broken between them.
fn broken(all: Vec<Piece>, width: usize) -> Vec<Vec<Piece>> {
    let mut rows: Vec<Vec<Piece>> = vec![Vec::new()];
    for piece in all {
        let used = rows.last().map_or(0, |r| cells_of(r));
        if used > 0 && used + cells(&piece.text) > width {
            rows.push(Vec::new());
        }
        if let Some(row) = rows.last_mut() {
            row.push(piece);
        }
    }
    rows
}

/// The design with all its parts; the row behind it.
fn the_strip(bench: &Prompt, ws: &Workspace, pen: &mut Pen, hits: &mut Hits, top: usize) -> usize {
    let design = shown(ws.doc().setup(), ws.display.icons);
    let ground = ws.look().color(&RoleId::known("background"));
    let text = ws.look().color(&RoleId::known("prompt.between"));
    let (left_edge, right_edge) = (4, pen.width().saturating_sub(2));
    let width = right_edge - left_edge;
    let mut row = top;
    for (n, [left, right]) in strip(&design).into_iter().enumerate() {
        let fits = cells_of(&left) + cells_of(&right) + 3 <= width;
        let mut rows: Vec<(Vec<Piece>, Vec<Piece>)> = Vec::new();
        if fits {
            rows.push((left, right));
        } else {
            rows.extend(broken(left, width).into_iter().map(|l| (l, Vec::new())));
            rows.extend(broken(right, width).into_iter().map(|r| (Vec::new(), r)));
            rows.retain(|(l, r)| !l.is_empty() || !r.is_empty());
        }
        for (i, (left, right)) in rows.into_iter().enumerate() {
            if row + 2 >= pen.height() {
                return row;
            }
            if i == 0 {
                pen.text(row, 1, &(n + 1).to_string(), Tone::Quiet);
            }
            let style = pen.instrument.paint(text, ground);
            pen.styled(row, left_edge - 1, &" ".repeat(width + 2), style);
            let after = pieces(ws, &left, pen, row, left_edge..right_edge);
            let from = right_edge.saturating_sub(cells_of(&right));
            // The stretch, where it is drawn.
            let is_last = n + 1 == design.lines.len();
            if !is_last && fits && !right.is_empty() && from > after + 2 {
                let drawn = design.stretch.to_string().repeat(from - after - 2);
                pen.styled(row, after + 1, &drawn, style);
            }
            pieces(ws, &right, pen, row, from..right_edge);
            for (side, start) in [(&left, left_edge), (&right, from)] {
                let mut column = start;
                for piece in side {
                    let end = column + cells(&piece.text);
                    if let Some(part) = piece.part {
                        hits.add(pen.place(row, column..end), Hit::Row(part, None));
                        if part == bench.part {
                            lifted(ws, pen, row + 1, column..end);
                        }
                    }
                    column = end;
                }
            }
            row += 2;
        }
    }
    row
}

/// The mark under the part pointed at.
fn lifted(ws: &Workspace, pen: &mut Pen, row: usize, columns: Range<usize>) {
    let tone = if ws.stage.pointed {
        Tone::Quiet
    } else {
        Tone::Strong
    };
    let sign = if pen.instrument.unicode { "▔" } else { "^" };
    pen.text(row, columns.start, &sign.repeat(columns.len().max(1)), tone);
}

/// The part pointed at; the row behind it.
fn part(bench: &Prompt, ws: &Workspace, pen: &mut Pen, top: usize) -> usize {
    let design = &ws.doc().setup().prompt;
    let Some(part) = design.part(bench.part) else {
        return top;
    };
    let costs = bench.measured(ws).and_then(|m| {
        let of = m.cost.parts.iter().find(|(name, _)| *name == part.name);
        Some(format!(" costs {},", ms(of?.1)))
    });
    let (showing, count) = bench.seen;
    let mark = if pen.instrument.unicode {
        scenes::SHOWN
    } else {
        ""
    };
    let seen = format!(
        "{} {mark}seen in {showing} of {count} situations ",
        costs.unwrap_or_default()
    );
    pen.rule(top, 0..pen.width());
    let label = match part.name == part.kind.label() {
        true => format!(" {} ", part.name),
        false => format!(" {}: {} ", part.name, part.kind.label()),
    };
    pen.text(top, 2, &visible(label.as_bytes()), Tone::Strong);
    pen.right(top, pen.width().saturating_sub(2), &seen, Tone::Quiet);
    let facts = facts::of_part(ws, design, bench.part);
    // Where there is little room the remarks go, and the lines stand beside one another.
    let few = pen.height().saturating_sub(top + 1) < facts.len() + 7;
    facts_from(&facts, few, pen, top + 1)
}

fn whole(bench: &Prompt, ws: &Workspace, pen: &mut Pen, top: usize) {
    if top + 2 > pen.height() {
        return;
    }
    pen.rule(top, 0..pen.width());
    pen.text(top, 2, " the whole prompt ", Tone::Strong);
    if let Some(m) = bench.measured(ws) {
        let (later, first, own) = (ms(m.cost.later), ms(m.cost.first), ms(m.cost.own));
        let text = format!(
            " {} in {}: {later}, the first {first}, its own {own} ",
            m.shell, m.folder
        );
        pen.right(
            top,
            pen.width().saturating_sub(2),
            &visible(text.as_bytes()),
            Tone::Quiet,
        );
    }
    let facts = facts::of_design(ws, &ws.doc().setup().prompt);
    let row = facts_from(&facts, true, pen, top + 1) + 1;
    let row = joints(ws, pen, row);
    let problems = facts::problems(ws);
    let room = pen.height().saturating_sub(row);
    if problems.is_empty() || room < 2 {
        return;
    }
    pen.rule(row, 0..pen.width());
    pen.text(row, 2, " to be mended ", Tone::Loud);
    for (n, (part, what)) in problems.iter().take(room - 1).enumerate() {
        let name = ws.doc().setup().prompt.part(*part).map(|p| p.name.clone());
        let text = format!("{}: {what}", name.unwrap_or_default());
        pen.cut(
            row + 1 + n,
            2,
            &visible(text.as_bytes()),
            pen.width().saturating_sub(3),
            Tone::Text,
        );
    }
}

/// Every joint between two blocks of the design, where it has any; the row behind them.
fn joints(ws: &Workspace, pen: &mut Pen, top: usize) -> usize {
    let setup = ws.doc().setup();
    let mut grounds: Vec<&RoleId> = setup
        .prompt
        .parts()
        .filter_map(|p| p.ground.as_ref())
        .collect();
    grounds.dedup();
    let (Some(first), second) = (grounds.first(), grounds.get(1)) else {
        return top;
    };
    if top + 3 > pen.height() {
        return top;
    }
    let other = RoleId::known("selection");
    let second = second.copied().unwrap_or(&other);
    let block = |text: &str, ground: &RoleId| Piece {
        text: text.to_owned(),
        ink: Ink {
            text: Some(RoleId::known("background")),
            ground: Some(ground.clone()),
            styled: false,
        },
        part: None,
    };
    let level = level(setup, ws.display.icons);
    let mut column = 7;
    for (word, shape) in Shape::ALL {
        let solid = shape.joint(level, true).solid;
        let joint = Piece {
            text: solid.to_owned(),
            ink: match solid {
                " " => Ink::default(),
                _ => Ink {
                    text: Some((*first).clone()),
                    ground: Some(second.clone()),
                    styled: false,
                },
            },
            part: None,
        };
        let end = pen.width();
        pieces(
            ws,
            &[block("    ", first), joint, block("    ", second)],
            pen,
            top,
            column..end,
        );
        let tone = match shape == setup.prompt.joint {
            true => Tone::Strong,
            false => Tone::Quiet,
        };
        pen.text(top + 1, column, word, tone);
        column += 14;
    }
    top + 3
}

/// A time in milliseconds.
pub fn ms(time: Duration) -> String {
    match time < LEAST {
        true => "under 0.1 ms".to_owned(),
        false => format!("{:.1} ms", time.as_secs_f64() * 1e3),
    }
}

/// What is less is not told from nothing.
pub const LEAST: Duration = Duration::from_micros(50);

/// Facts below one another, or in two columns without their remarks; the row behind them.
fn facts_from(facts: &[Fact], beside: bool, pen: &mut Pen, top: usize) -> usize {
    let columns = if beside { 2 } else { 1 };
    let width = pen.width() / columns;
    let rows = facts.len().div_ceil(columns);
    for (n, fact) in facts.iter().enumerate() {
        let (row, left) = (top + n / columns, n % columns * width);
        if row >= pen.height() {
            break;
        }
        pen.text(row, left + 1, fact.key, Tone::Key);
        let label_at = left + 6;
        pen.cut(row, label_at, fact.label, 18, Tone::Quiet);
        let value_at = label_at + 19;
        let end = left + width;
        let room = end.saturating_sub(value_at + 1);
        let value = visible(fact.value.as_bytes());
        let column = pen.cut(row, value_at, &value, room, Tone::Text);
        let remark = visible(fact.remark.as_bytes());
        let remark_at = match beside {
            true => column + 2,
            false => column.max(value_at + 22) + 2,
        };
        if remark_at + 6 < end {
            pen.cut(row, remark_at, &remark, end - remark_at - 1, fact.tone);
        }
    }
    top + rows
}
