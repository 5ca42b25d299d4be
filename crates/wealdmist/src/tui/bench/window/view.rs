//! How the Window bench looks.

use wealdmist_core::color::ratio_to;
use wealdmist_core::ledger::State;
use wealdmist_core::property::Property;
use wealdmist_core::reading::ToolReport;
use wealdmist_core::role::RoleId;
use wealdmist_core::text::visible;
use wealdmist_core::window::{comes_to, said};
use wealdmist_tools::Access;

use super::{ROWS, Window, properties, terminals};
use crate::tui::instrument::Tone;
use crate::tui::view::{Hit, Hits, Pen, scroll};
use crate::tui::workspace::Workspace;

/// Where the setup's values and the terminals' begin.
const SETUP: usize = 22;
const TOOLS: usize = 37;
/// The room of a terminal's value.
const EACH: usize = 12;
/// The rows below the list: what is pointed at, where it stands, how the worst text is read.
const BELOW: usize = 6;

/// Draws the bench.
pub fn draw(bench: &Window, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let all: Vec<&ToolReport> = terminals(ws).collect();
    let shown = (pen.width().saturating_sub(TOOLS + 1) / EACH).clamp(1, 9);
    let column = bench.column_of(ws);
    let first = scroll(column, all.len(), shown);
    let room = pen.height().saturating_sub(BELOW + 2);
    heads(&all, first..(first + shown).min(all.len()), column, pen);
    let at = ROWS.iter().position(|row| *row == Some(bench.property()));
    let top = scroll(at.unwrap_or(0), ROWS.len(), room);
    let mut index = ROWS[..top].iter().flatten().count();
    for (line, row) in ROWS.iter().skip(top).take(room).enumerate() {
        let line = line + 1;
        let Some(property) = *row else { continue };
        let chosen = property.of(ws.doc().setup());
        let tone = if chosen.is_some() {
            Tone::Text
        } else {
            Tone::Quiet
        };
        pen.cut(line, 1, property.label(), SETUP - 2, tone);
        let said = chosen.as_ref().map(|v| visible(v.to_string().as_bytes()));
        let said = said.unwrap_or_else(|| {
            if property.is_set() {
                "not chosen"
            } else {
                "found out"
            }
            .to_owned()
        });
        let tone = if chosen.is_some() {
            Tone::Strong
        } else {
            Tone::Faint
        };
        pen.cut(line, SETUP, &said, TOOLS - SETUP - 1, tone);
        for (place, report) in all.iter().skip(first).take(shown).enumerate() {
            let start = TOOLS + place * EACH;
            value(ws, property, report, (line, start), pen);
            hits.add(
                pen.place(line, start..start + EACH),
                Hit::Row(index, Some(first + place)),
            );
        }
        hits.add(pen.place(line, 0..TOOLS), Hit::Row(index, None));
        if Some(property) == properties().nth(bench.cursor) && !ws.stage.pointed {
            pen.choose_row(line, 0..TOOLS - 1);
        }
        index += 1;
    }
    let top = pen.height().saturating_sub(BELOW);
    pen.rule(top, 0..pen.width());
    below(bench, ws, top + 1, pen);
}

fn heads(all: &[&ToolReport], shown: std::ops::Range<usize>, column: usize, pen: &mut Pen) {
    pen.text(0, 1, "window", Tone::Quiet);
    pen.text(0, SETUP, "setup", Tone::Quiet);
    if all.is_empty() {
        pen.cut(
            0,
            TOOLS,
            "no terminal has dotfiles here",
            pen.width().saturating_sub(TOOLS),
            Tone::Quiet,
        );
    }
    for (place, report) in all[shown.clone()].iter().enumerate() {
        let is_it = shown.start + place == column;
        let tone = if is_it { Tone::Strong } else { Tone::Quiet };
        let sign = if is_it { pen.signs().pointer } else { " " };
        let end = pen.text(0, TOOLS + place * EACH - 2, sign, Tone::Key);
        pen.cut(
            0,
            end.max(TOOLS + place * EACH),
            report.tool.0,
            EACH - 1,
            tone,
        );
    }
    let rest = all.len() - shown.end;
    if rest > 0 {
        pen.right(0, pen.width(), &format!("{rest} more"), Tone::Quiet);
    }
}

/// What a terminal has, beside the setup.
fn value(
    ws: &Workspace,
    property: Property,
    report: &ToolReport,
    (line, start): (usize, usize),
    pen: &mut Pen,
) {
    let role = RoleId::from(property);
    let found = report.effective(&role);
    let signs = pen.signs();
    if found.is_none() && (!report.takes(property) || property == Property::Wallpaper) {
        pen.text(line, start, signs.unable, Tone::Faint);
        return;
    }
    let Some(reading) = found else {
        return;
    };
    let state = ws.derived.ledger.row(&role).and_then(|row| {
        let at = ws
            .derived
            .ledger
            .tools
            .iter()
            .position(|t| *t == report.tool)?;
        Some(&row.cells.get(at)?.state)
    });
    let (sign, tone) = match state {
        Some(State::Agrees) if property.of(ws.doc().setup()).is_some() => {
            (signs.agrees, Tone::Faint)
        }
        Some(State::Drift) => (signs.drift, Tone::Loud),
        Some(State::Exception(_)) => (signs.exception, Tone::Quiet),
        Some(State::Open(_)) => (signs.may_differ, Tone::Key),
        _ => ("", Tone::Quiet),
    };
    let end = if sign.is_empty() {
        start
    } else {
        pen.text(line, start, sign, tone)
    };
    if sign == signs.agrees {
        return;
    }
    let all = said(report, property).unwrap_or_else(|| reading.value.clone());
    let text = visible(all.to_string().as_bytes());
    let tone = if reading.is_default() {
        Tone::Faint
    } else {
        tone
    };
    pen.cut(
        line,
        end,
        &text,
        (start + EACH - 1).saturating_sub(end),
        tone,
    );
}

/// What is pointed at, where it stands, and how text is read through it.
fn below(bench: &Window, ws: &Workspace, top: usize, pen: &mut Pen) {
    let property = bench.property();
    let width = pen.width().saturating_sub(2);
    let end = pen.text(top, 1, property.label(), Tone::Strong);
    let what = match (property.words(), property.range()) {
        (Some(words), _) => words.join(", "),
        (None, Some((least, most))) => {
            format!("{least} to {most}{}", super::unit_said(property.unit()))
        }
        _ => String::new(),
    };
    pen.cut(top, end + 2, &what, width.saturating_sub(end), Tone::Quiet);
    let role = RoleId::from(property);
    if let Some(report) = bench.shown(ws) {
        let own = said(report, property);
        let told = match report.effective(&role) {
            Some(r) if r.place.is_written() => {
                let path = ws.survey.home.contract(&r.place.path);
                format!(
                    "{} has {} by {} in {path}:{}",
                    report.tool, r.value, r.key, r.place.at.line
                )
            }
            Some(r) => format!("{} has {} by itself", report.tool, r.value),
            None if report.takes(property) => format!("{} says nothing of it", report.tool),
            None if property == Property::Wallpaper => {
                "no terminal's own: text is judged over it where the window lets it through"
                    .to_owned()
            }
            None => format!("{} has no such thing", report.tool),
        };
        pen.cut(top + 1, 1, &visible(told.as_bytes()), width, Tone::Text);
        let becomes = comes_to(ws.doc().setup(), Some(report), property);
        let differs = becomes != own;
        if let Some(value) = becomes.filter(|_| differs) {
            let said = format!("will be {value}");
            pen.cut(top + 2, 1, &visible(said.as_bytes()), width, Tone::Key);
        }
    }
    let label = ws.conditions.label();
    let worst = ws.derived.pairs.iter().find(|p| !p.fine());
    let (said, tone) = match worst {
        Some(p) => (
            format!(
                "{}: {} is {}:1, needs {}",
                label,
                p.what,
                ratio_to(p.draft.ratio, 1),
                p.target
            ),
            Tone::Loud,
        ),
        None => (format!("{label}: all text reaches its target"), Tone::Good),
    };
    pen.cut(top + 3, 1, &said, width, tone);
    let wrong = ws.survey.images().wrong.first();
    if let Some(wrong) = wrong {
        let said = format!("{}: {}", wrong.message, wrong.mend);
        pen.cut(top + 4, 1, &visible(said.as_bytes()), width, Tone::Loud);
    }
}
