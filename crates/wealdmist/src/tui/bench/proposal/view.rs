//! A proposal: the drafts that may be taken, or a repair with what it moves.

use wealdmist_core::Slot;
use wealdmist_core::color::ratio_shown;
use wealdmist_core::repair::Repair;
use wealdmist_core::text::{counted, visible};

use super::make::Source;
use super::repair::{Repairs, wish_label};
use super::{Matter, Proposal};
use crate::tui::instrument::Tone;
use crate::tui::view::{Hit, Hits, Pen, scroll};
use crate::tui::workspace::Workspace;

/// Draws the proposal in the bench's place.
pub fn draw(proposal: &Proposal, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    pen.text(0, 1, &visible(proposal.title.as_bytes()), Tone::Strong);
    let side = if proposal.shows_before {
        "the specimen shows the draft as it was"
    } else {
        "the specimen shows it; nothing is changed yet"
    };
    pen.right(0, pen.width().saturating_sub(1), side, Tone::Quiet);
    match &proposal.matter {
        Matter::Palettes => draw_palettes(proposal, ws, pen, hits),
        Matter::Repair(repairs) => {
            if let Some(done) = repairs.way(proposal.cursor) {
                draw_repair(ws, done, repairs, pen, hits);
            }
            draw_ways(proposal, &repairs.ways, pen, hits);
        }
    }
}

fn draw_palettes(proposal: &Proposal, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let each = 3;
    let below = 7 + proposal.source.as_ref().map_or(0, |s| {
        (s.pixels.len() / s.columns.max(1) / 2).min(pen.height().saturating_sub(22)) + 1
    });
    let room = pen.height().saturating_sub(2 + below) / each;
    let first = scroll(proposal.cursor, proposal.candidates.len(), room.max(1));
    let shown = proposal.candidates.iter().enumerate().skip(first);
    for (line, (i, candidate)) in shown.take(room.max(1)).enumerate() {
        let row = 2 + line * each;
        let mark = if proposal.marked == Some(i) { "=" } else { " " };
        pen.text(row, 1, mark, Tone::Strong);
        let name = visible(candidate.name.as_bytes());
        pen.cut(row, 3, &name, 24, Tone::Text);
        let (text, tone) = match candidate.failing {
            0 => ("every pair reaches its target".to_owned(), Tone::Good),
            n => (format!("{n} pairs below their target"), Tone::Loud),
        };
        pen.cut(row, 29, &text, pen.width().saturating_sub(30), tone);
        strip(candidate.look.slots.0, pen, row + 1);
        hits.add(pen.place(row, 0..pen.width()), Hit::Row(i, None));
        hits.add(pen.place(row + 1, 0..pen.width()), Hit::Row(i, None));
        if i == proposal.cursor && !ws.stage.pointed {
            pen.choose_row(row, 0..pen.width());
        }
    }
    let top = pen.height().saturating_sub(below);
    pen.rule(top, 0..pen.width());
    let count = proposal.candidates.len();
    if count > 1 {
        let text = format!(" {} of {count} ", proposal.cursor + 1);
        pen.text(top, 2, &text, Tone::Quiet);
    }
    let mut row = top + 1;
    let remarks = &proposal.candidate().remarks;
    for remark in remarks.iter().take(5) {
        pen.cut(
            row,
            1,
            &visible(remark.as_bytes()),
            pen.width() - 2,
            Tone::Quiet,
        );
        row += 1;
    }
    if remarks.len() > 5 {
        pen.text(
            row,
            1,
            &format!("and {} more", remarks.len() - 5),
            Tone::Quiet,
        );
    }
    if remarks.is_empty() && proposal.source.is_none() {
        let text = "Enter adds the palette to the draft and puts it to use; u takes that back.";
        pen.cut(row, 1, text, pen.width() - 2, Tone::Quiet);
    }
    if let Some(source) = &proposal.source {
        draw_source(source, pen, top + 1);
    }
}

/// The slots of a palette as a strip: ground, text, then the 16.
fn strip(slots: [wealdmist_core::Rgb; 22], pen: &mut Pen, row: usize) {
    let get = |slot: Slot| slots[slot as usize];
    let sample = pen
        .instrument
        .paint(get(Slot::Foreground), get(Slot::Background));
    let mut column = pen.styled(row, 3, " Level 1.84 m ", sample);
    for i in 0..16 {
        let Some(slot) = Slot::from_ansi(i) else {
            continue;
        };
        let style = pen.instrument.paint(get(slot), get(Slot::Background));
        let text = if pen.instrument.color(get(slot)).is_some() {
            format!(" {}", pen.signs().bar.repeat(2))
        } else {
            format!(" {i:<2}")
        };
        column = pen.styled(row, column, &text, style);
    }
    pen.styled(row, column, " ", sample);
}

/// The picture, two pixels to a cell, and its colors.
fn draw_source(source: &Source, pen: &mut Pen, top: usize) {
    let rows = source.pixels.len() / source.columns.max(1) / 2;
    let room = pen.height().saturating_sub(top);
    for row in 0..rows.min(room) {
        for column in 0..source.columns.min(pen.width().saturating_sub(26)) {
            let pixel = |half: usize| source.pixels[(row * 2 + half) * source.columns + column];
            if pen.instrument.unicode && pen.instrument.color(pixel(0)).is_some() {
                let style = pen.instrument.paint(pixel(0), pixel(1));
                pen.styled(top + row, 1 + column, "▀", style);
            }
        }
    }
    let column = source.columns.min(pen.width().saturating_sub(26)) + 3;
    pen.text(top, column, "its colors", Tone::Quiet);
    for (i, cluster) in source
        .clusters
        .iter()
        .take(room.saturating_sub(1))
        .enumerate()
    {
        let at = pen.swatch(top + 1 + i, column, cluster.color);
        let text = format!(" {} {:4.1}%", cluster.color, cluster.share * 100.0);
        pen.text(top + 1 + i, at, &text, Tone::Text);
    }
}

/// The ways to repair, side by side, where there are several.
fn draw_ways(proposal: &Proposal, ways: &[Repair], pen: &mut Pen, hits: &mut Hits) {
    let mut column = 1;
    for (i, way) in ways.iter().enumerate().filter(|_| ways.len() > 1) {
        let unmet = way.outcomes.iter().filter(|o| !o.met).count();
        let what = match way.moves_background {
            true => "the ground moves too",
            false => "the ground stays",
        };
        let moved = counted(way.changes.len(), "color");
        let text = format!(" {what}: {moved}, {} left ", counted(unmet, "pair"));
        let begin = column;
        column = pen.text(2, column, &text, Tone::Text);
        hits.add(pen.place(2, begin..column), Hit::Row(i, None));
        if i == proposal.cursor {
            pen.choose_row(2, begin..column);
        }
        column += 2;
    }
    let text = match ways.len() {
        1 => "h holds the color pointed at where it is, and repairs again",
        _ => "left, right: the other way; h: hold a color",
    };
    let room = pen.width().saturating_sub(column + 1);
    pen.cut(2, column, text, room, Tone::Quiet);
}

fn draw_repair(ws: &Workspace, done: &Repair, repairs: &Repairs, pen: &mut Pen, hits: &mut Hits) {
    let wishes = &repairs.wishes[..];
    let before = done.failing_before(wishes);
    let after = done.outcomes.iter().filter(|o| !o.met).count();
    let moved = match done.changes.len() {
        1 => "1 color moves".to_owned(),
        n => format!("{n} colors move"),
    };
    let text = format!(
        "{before} of {} below their target, {after} after; {moved}; seen: {}",
        counted(wishes.len(), "pair"),
        ws.conditions.label()
    );
    let tone = if after == 0 { Tone::Good } else { Tone::Loud };
    pen.cut(1, 1, &text, pen.width() - 2, tone);
    for (column, name) in [
        (1, "color"),
        (24, "before"),
        (38, "after"),
        (50, "CIEDE2000"),
        (60, "least ratio, before and after"),
    ] {
        pen.cut(
            3,
            column,
            name,
            pen.width().saturating_sub(column + 1),
            Tone::Quiet,
        );
    }
    let obstacles = done.obstacles.len().min(6);
    let foot = if obstacles > 0 { obstacles + 2 } else { 0 };
    let room = pen.height().saturating_sub(5 + foot);
    let look = ws.worn_look();
    let count = done.changes.len() + repairs.held.len();
    let first = scroll(repairs.pointed, count, room.max(1));
    let held = repairs.held.iter().map(|color| (color, None));
    let moved = done
        .changes
        .iter()
        .map(|change| (&change.origin, Some(change)));
    for (i, (color, change)) in moved.chain(held).enumerate().skip(first).take(room) {
        let row = 4 + i - first;
        let name = ws.name_of(color);
        pen.cut(row, 1, &visible(name.as_bytes()), 21, Tone::Text);
        hits.add(pen.place(row, 0..pen.width()), Hit::Row(0, Some(i)));
        if i == repairs.pointed && !ws.stage.pointed {
            pen.choose_row(row, 0..22);
        }
        let Some(change) = change else {
            pen.cut(
                row,
                24,
                "held: it stays as it is",
                pen.width().saturating_sub(25),
                Tone::Quiet,
            );
            continue;
        };
        let at = pen.swatch(row, 24, change.from);
        pen.text(row, at + 1, &change.from.to_string(), Tone::Quiet);
        let at = pen.swatch(row, 38, change.to);
        pen.text(row, at + 1, &change.to.to_string(), Tone::Text);
        pen.right(row, 56, &format!("{:.1}", change.difference), Tone::Quiet);
        // The pair of this color that was furthest below its target.
        let setup = ws.survey.doc.setup();
        let worst = wishes
            .iter()
            .zip(&done.outcomes)
            .filter(|(w, _)| {
                let at = |r| wealdmist_core::look::origin(setup, setup.palette(), r);
                at(&w.text) == change.origin || at(&w.ground) == change.origin
            })
            .min_by(|a, b| (a.1.before / a.0.target).total_cmp(&(b.1.before / b.0.target)));
        if let Some((wish, outcome)) = worst {
            let style = pen
                .instrument
                .paint(look.color(&wish.text), look.color(&wish.ground));
            let at = pen.styled(row, 60, " Aa ", style);
            let tone = if outcome.met { Tone::Text } else { Tone::Loud };
            let text = format!(
                " {} to {} of {}",
                ratio_shown(outcome.before),
                ratio_shown(outcome.after),
                wish.target
            );
            pen.cut(row, at, &text, pen.width().saturating_sub(at + 1), tone);
        }
    }
    if count > first + room {
        let text = format!("and {} more", count - first - room);
        pen.text(4 + room, 1, &text, Tone::Quiet);
    }
    if obstacles > 0 {
        let top = pen.height() - foot;
        pen.rule(top, 0..pen.width());
        pen.text(
            top,
            2,
            " what cannot be done, and what stands in the way ",
            Tone::Quiet,
        );
        for (i, obstacle) in done.obstacles.iter().take(obstacles).enumerate() {
            let (wish, outcome) = (&wishes[obstacle.wish], &done.outcomes[obstacle.wish]);
            let text = format!(
                "{}: {} of {}: {}",
                wish_label(wish),
                ratio_shown(outcome.after),
                wish.target,
                obstacle.why
            );
            pen.cut(top + 1 + i, 1, &text, pen.width() - 2, Tone::Loud);
        }
        let more = done.obstacles.len() - obstacles;
        if more > 0 {
            pen.text(
                top + 1 + obstacles,
                1,
                &format!("and {more} more"),
                Tone::Quiet,
            );
        }
    }
}
