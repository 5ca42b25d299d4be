//! The plan: files and changes, the lines that those pointed at change, and what running programs
//! answered.

use wealdmist_core::plan::{ChangeId, Hunk, LineKind};
use wealdmist_core::reading::ToolId;
use wealdmist_core::text::visible;
use wealdmist_host::Outcome;
use wealdmist_tools::{Access, adapter};

use super::{Apply, Row};
use crate::tui::instrument::Tone;
use crate::tui::view::{Hit, Hits, Pen, scroll};
use crate::tui::workspace::Workspace;

/// Draws the bench.
pub fn draw(bench: &Apply, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let answers = ws.answers.len().min(pen.height() / 4);
    let answer_rows = if answers > 0 { answers + 1 } else { 0 };
    let room = pen.height().saturating_sub(answer_rows);
    let rows = bench.rows(ws);
    let room = room - draw_left(ws, room, pen);
    let room = room - draw_offer(ws, room, pen);
    if rows.is_empty() {
        pen.text(
            1,
            2,
            "Nothing to apply: the dotfiles say what the setup says.",
            Tone::Good,
        );
        pen.text(
            2,
            2,
            "Change a color (2), or take another value into the setup (1).",
            Tone::Quiet,
        );
        pen.text(
            3,
            2,
            "x takes back the last apply, v asks the running programs what they show.",
            Tone::Quiet,
        );
    } else {
        let diff = shown_hunks(bench, ws, &rows);
        let lines: usize = diff.iter().map(|(_, h)| h.lines.len() + 1).sum();
        let least = (room * 2 / 5).max(4);
        let list = rows.len().min(room.saturating_sub(lines + 1).max(least));
        draw_list(bench, ws, &rows, list, pen, hits);
        draw_diff(ws, &diff, list, room, pen);
    }
    if answers > 0 {
        // Without a plan the answers are what there is to see.
        let top = if rows.is_empty() {
            5
        } else {
            pen.height() - answer_rows
        };
        draw_answers(ws, top, pen);
    }
}

/// Before a first apply: that the programs can be asked whether the dotfiles were read as they read them.
/// Returns how many lines that takes.
fn draw_offer(ws: &Workspace, room: usize, pen: &mut Pen) -> usize {
    if ws.survey.stored || ws.is_asked() || ws.planned.change_count() == 0 || room < 12 {
        return 0;
    }
    let top = room - 2;
    let column = pen.text(top, 1, "c", Tone::Key);
    let text = "has your programs say first what these dotfiles come to, before the first apply:";
    pen.cut(
        top,
        column + 1,
        text,
        pen.width().saturating_sub(column + 2),
        Tone::Text,
    );
    let text = format!("{}.", crate::work::ask::SAID);
    pen.cut(
        top + 1,
        3,
        &text,
        pen.width().saturating_sub(4),
        Tone::Quiet,
    );
    3
}

/// Draws the places that are left as they are at the foot of the room; returns how many lines that
/// takes.
fn draw_left(ws: &Workspace, room: usize, pen: &mut Pen) -> usize {
    /// How many are shown.
    const SHOWN: usize = 3;
    let left = &ws.planned.plan.left;
    if left.is_empty() || room < 12 {
        return 0;
    }
    let shown = left.len().min(SHOWN);
    let top = room - shown - 1;
    let more = left.len() - shown;
    let head = match more {
        0 => format!("left as they are ({})", left.len()),
        _ => format!(
            "left as they are ({}); `wealdmist plan` lists all",
            left.len()
        ),
    };
    pen.text(top, 1, &head, Tone::Strong);
    for (i, one) in left.iter().take(shown).enumerate() {
        let path = visible(ws.survey.home.contract(&one.place.path).as_bytes());
        let column = pen.text(
            top + 1 + i,
            3,
            &format!("{path}:{}", one.place.at.line),
            Tone::Text,
        );
        let what = format!("  {} · {}", one.what, one.why);
        pen.text(top + 1 + i, column, &what, Tone::Loud);
    }
    shown + 1
}

fn draw_list(
    bench: &Apply,
    ws: &Workspace,
    rows: &[Row],
    room: usize,
    pen: &mut Pen,
    hits: &mut Hits,
) {
    let cursor = bench.cursor.min(rows.len() - 1);
    let first = scroll(cursor, rows.len(), room);
    for (line, (i, row)) in rows.iter().enumerate().skip(first).take(room).enumerate() {
        match row {
            Row::Part(asked) => draw_part(bench, ws, *asked, line, pen),
            Row::File(_, f) => draw_file(ws, *f, line, pen),
            Row::Change(id) => draw_change(ws, *id, line, pen),
        }
        hits.add(pen.place(line, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !ws.stage.pointed {
            pen.choose_row(line, 0..pen.width());
        }
    }
}

/// The head of what was asked for, or of what differed before.
fn draw_part(bench: &Apply, ws: &Workspace, asked: bool, line: usize, pen: &mut Pen) {
    let changes = bench.changes_of(ws, Row::Part(asked));
    let taken = changes.iter().filter(|id| ws.takes(**id)).count();
    let what = match (asked, ws.planned.asked.is_empty()) {
        (true, _) => "from your changes",
        (false, true) => "differs from the setup",
        (false, false) => "differed before",
    };
    let column = pen.text(line, 1, what, Tone::Key);
    let count = format!("  {taken} of {} taken", changes.len());
    pen.text(line, column, &count, Tone::Quiet);
}

fn draw_change(ws: &Workspace, id: ChangeId, line: usize, pen: &mut Pen) {
    let piece = &ws.planned.pieces[id.0][id.1];
    let (sign, color, tone) = match ws.takes(id) {
        true => (pen.signs().on, Tone::Good, Tone::Text),
        false => (pen.signs().off, Tone::Faint, Tone::Quiet),
    };
    let column = pen.text(line, 3, &format!("{sign} "), color);
    let why = visible(piece.why.as_bytes());
    let room = pen.width().saturating_sub(column + 1);
    pen.cut(line, column, &why, room, tone);
}

fn draw_file(ws: &Workspace, f: usize, line: usize, pen: &mut Pen) {
    let edit = &ws.planned.plan.edits[f];
    let path = visible(ws.survey.home.contract(&edit.path).as_bytes());
    let mut column = pen.text(line, 1, &path, Tone::Strong);
    if edit.before.is_none() {
        column = pen.text(line, column + 1, "(new)", Tone::Key);
    }
    let tools = std::iter::once(&edit.tool).chain(&edit.also);
    let arrives = |tool: &ToolId| {
        let how = adapter(tool.0).map_or("", |a| a.live().arrives);
        format!("{tool}: {how}")
    };
    let text = tools.map(arrives).collect::<Vec<_>>().join("; ");
    pen.cut(
        line,
        column + 2,
        &text,
        pen.width().saturating_sub(column + 3),
        Tone::Quiet,
    );
}

/// The lines that what is pointed at changes, with the files they are in.
fn shown_hunks<'a>(bench: &Apply, ws: &'a Workspace, rows: &[Row]) -> Vec<(usize, &'a Hunk)> {
    let cursor = bench.cursor.min(rows.len() - 1);
    (bench.changes_of(ws, rows[cursor]).into_iter())
        .flat_map(|(f, c)| ws.planned.pieces[f][c].hunks.iter().map(move |h| (f, h)))
        .collect()
}

fn draw_diff(ws: &Workspace, diff: &[(usize, &Hunk)], top: usize, end: usize, pen: &mut Pen) {
    pen.rule(top, 0..pen.width());
    let is_of_many = diff.iter().any(|(f, _)| *f != diff[0].0);
    let mut row = top + 1;
    for (file, hunk) in diff {
        if row >= end {
            break;
        }
        let column = pen.text(row, 1, &hunk.header, Tone::Quiet);
        if is_of_many {
            let path = &ws.planned.plan.edits[*file].path;
            let path = visible(ws.survey.home.contract(path).as_bytes());
            pen.text(row, column + 1, &path, Tone::Quiet);
        }
        row += 1;
        for (kind, text) in &hunk.lines {
            if row >= end {
                let more = format!(
                    "{} more lines: `wealdmist plan` shows all",
                    hunk.lines.len()
                );
                let width = pen.width();
                pen.text(end - 1, 0, &" ".repeat(width), Tone::Text);
                pen.text(end - 1, 1, &more, Tone::Quiet);
                return;
            }
            let (sign, tone) = match kind {
                LineKind::Context => (" ", Tone::Quiet),
                LineKind::Removed => ("-", Tone::Loud),
                LineKind::Added => ("+", Tone::Good),
            };
            pen.cut(row, 1, &format!("{sign}{text}"), pen.width() - 2, tone);
            row += 1;
        }
    }
}

fn draw_answers(ws: &Workspace, top: usize, pen: &mut Pen) {
    pen.rule(top, 0..pen.width());
    pen.text(top, 2, " what the running programs answered ", Tone::Quiet);
    let room = pen.height() - top - 1;
    for (i, answer) in ws.answers.iter().take(room).enumerate() {
        let (sign, tone) = match answer.outcome {
            Outcome::Shows(_) => ("=", Tone::Good),
            Outcome::Differs(_) => ("!", Tone::Loud),
            Outcome::Told(_) => (".", Tone::Text),
            Outcome::Unreached(_) => ("!", Tone::Loud),
            Outcome::NotRunning => ("-", Tone::Faint),
        };
        let text = format!("{sign} {}: {}", answer.who, answer.outcome.sentence());
        pen.cut(
            top + 1 + i,
            1,
            &visible(text.as_bytes()),
            pen.width() - 2,
            tone,
        );
    }
}
