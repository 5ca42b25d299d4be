//! What stands around bench and specimen: the setup, the path, the thread and the keys.

use unicode_width::UnicodeWidthStr;
use wealdmist_core::condition::Sight;
use wealdmist_core::look::expr_of;
use wealdmist_core::pair::stands_in_pane;
use wealdmist_core::role::{RoleId, Usage, lookup};
use wealdmist_core::text::visible;
use wealdmist_tools::tools::places;

use super::layout::Layout;
use super::pen::{Pen, shorten};
use super::{Hit, Hits};
use crate::tui::app::{App, GlyphView, Input};
use crate::tui::instrument::Tone;
use crate::tui::keys::{Step, shown};

/// Draws everything but bench and specimen.
pub fn draw(app: &App, parts: &Layout, pen: &mut Pen, hits: &mut Hits) {
    head(app, &mut pen.within(parts.head));
    path(app, &mut pen.within(parts.path), hits);
    rules(app, parts, pen);
    thread(app, &mut pen.within(parts.thread));
    foot(app, &mut pen.within(parts.keys));
}

fn head(app: &App, pen: &mut Pen) {
    let setup = app.survey.doc.setup();
    let dot = pen.signs().dot;
    let mut column = pen.text(
        0,
        1,
        &format!("{} {dot} {}", setup.name, setup.active),
        Tone::Strong,
    );
    let font = match (&setup.font.family, setup.font.size) {
        (Some(family), Some(size)) => format!("{family} {size}"),
        (Some(family), None) => family.clone(),
        _ => "no font chosen".to_owned(),
    };
    column = pen.text(0, column + 3, &font, Tone::Quiet);
    column = pen.text(0, column + 3, pen.instrument.depth.label(), Tone::Quiet);
    if app.trial {
        column = pen.text(0, column + 3, "trial on", Tone::Loud);
    }
    if app.tried.is_some() {
        column = pen.text(0, column + 3, "trial around", Tone::Loud);
    }
    if let Some(busy) = app.busy {
        column = pen.text(
            0,
            column + 3,
            &format!("{busy}{}", pen.signs().more),
            Tone::Key,
        );
    }
    let counts = app.derived.counts;
    let open = [
        (counts.unreadable, "unreadable"),
        (counts.drift, "drift"),
        (counts.contrast, "contrast"),
        (counts.fonts, "font"),
        (counts.glyphs, "glyphs"),
        (app.plan.change_count(), "unapplied"),
    ];
    let open: Vec<String> = open
        .iter()
        .filter(|(n, w)| *n > 0 || *w == "unapplied")
        .map(|(n, w)| format!("{n} {w}"))
        .collect();
    let text = open.join("   ");
    if column + text.width() + 2 < pen.width() {
        let tone = if counts.drift + counts.contrast + counts.glyphs + counts.fonts > 0 {
            Tone::Loud
        } else {
            Tone::Good
        };
        pen.right(0, pen.width() - 1, &text, tone);
    }
}

/// How much is open at a step.
fn open_at(app: &App, step: Step) -> usize {
    let counts = app.derived.counts;
    match step {
        Step::Survey => counts.drift,
        Step::Palette => 0,
        Step::Contrast => counts.contrast,
        Step::Font => counts.fonts,
        Step::Glyphs => counts.glyphs,
        Step::Apply => app.plan.change_count(),
    }
}

fn path(app: &App, pen: &mut Pen, hits: &mut Hits) {
    let mut column = 1;
    for (i, step) in Step::ALL.into_iter().enumerate() {
        if i > 0 {
            let sign = pen.signs().path;
            column = pen.text(0, column + 1, sign, Tone::Faint) + 1;
        }
        let start = column;
        let here = step == app.step;
        let tone = if here { Tone::Strong } else { Tone::Quiet };
        column = pen.text(0, column, &format!("{} {}", i + 1, step.label()), tone);
        let open = open_at(app, step);
        if open > 0 {
            column = pen.text(
                0,
                column,
                &format!(" {open}"),
                if here { Tone::Loud } else { Tone::Quiet },
            );
        }
        if here {
            pen.choose_row(0, start - 1..column + 1);
        }
        hits.add(pen.place(0, start - 1..column + 1), Hit::Step(step));
    }
}

fn rules(app: &App, parts: &Layout, pen: &mut Pen) {
    let signs = pen.signs();
    let width = pen.width();
    let (top, bottom) = (usize::from(parts.rule.y), usize::from(parts.lower_rule.y));
    pen.rule(top, 0..width);
    pen.rule(bottom, 0..width);
    if let Some(divider) = parts.divider {
        let column = usize::from(divider);
        for row in top + 1..bottom {
            pen.text(row, column, signs.vertical, Tone::Faint);
        }
        pen.text(top, column, signs.down, Tone::Faint);
        pen.text(bottom, column, signs.up, Tone::Faint);
    }
    let mut title = |column: usize, text: &str, active: bool| {
        pen.text(
            top,
            column,
            &format!(" {text} "),
            if active { Tone::Strong } else { Tone::Quiet },
        );
    };
    if let Some(bench) = parts.bench {
        let name = match (&app.proposal, app.menu, app.at().in_chart) {
            (Some(_), ..) => "proposal",
            (_, Some(_), _) => "new palette",
            (_, _, true) => "the 256 indexed colors",
            _ => match (app.step, app.glyphs.search.is_some(), app.glyphs.view) {
                (Step::Glyphs, true, _) => "icons found",
                (Step::Glyphs, _, GlyphView::Map) => "every icon, and whether the font has it",
                (Step::Glyphs, _, GlyphView::Terminal) => "what this terminal makes of glyphs",
                _ => bench_title(app.step),
            },
        };
        title(usize::from(bench.x) + 2, name, !app.on_specimen);
    }
    if let Some(area) = parts.specimen {
        let worn = match &app.proposal {
            Some(p) if !p.shows_before => visible(p.candidate().name.as_bytes()),
            Some(_) => "your draft, as it was".to_owned(),
            None => "your draft".to_owned(),
        };
        let seen = if app.conditions.is_plain() {
            String::new()
        } else {
            format!(", {}", app.conditions.label())
        };
        let back = if parts.bench.is_some() {
            ""
        } else {
            " (Tab: bench)"
        };
        let name = format!("specimen: {worn}{seen}{back}");
        let room = usize::from(area.width).saturating_sub(5);
        let name = shorten(&name, room, signs.more);
        title(usize::from(area.x) + 2, &name, app.on_specimen);
    }
}

const fn bench_title(step: Step) -> &'static str {
    match step {
        Step::Survey => "ledger: what your dotfiles say, beside the setup",
        Step::Palette => "lightness ruler",
        Step::Contrast => "pairs, worst first",
        Step::Font => "faces side by side",
        Step::Glyphs => "glyphs in use",
        Step::Apply => "plan",
    }
}

/// The thread from what is pointed at to the files: role, color, ratio, places.
fn thread(app: &App, pen: &mut Pen) {
    let Some(spot) = app.pointed().and_then(|i| app.specimen.spots.get(i)) else {
        bench_thread(app, pen);
        return;
    };
    let look = app.worn_look();
    let (fg, bg) = (look.color(&spot.text), look.color(&spot.ground));
    let sight = Sight {
        text: fg,
        ground: bg,
        fade: 1.0,
        in_pane: stands_in_pane(&spot.text),
    };
    let ratio = app.conditions.see(sight, look).ratio;
    let usage = lookup(&spot.text).map_or(Usage::Body, |k| k.usage);
    let arrow = pen.signs().path;
    // Where one row has to do, the name of the role says enough.
    let narrow = pen.height() == 1;
    let said = expr_of(app.survey.doc.setup(), &spot.text).filter(|_| !narrow);
    let said = said.map_or(String::new(), |e| format!(" = {e}"));
    let mut column = 1;
    if !narrow {
        column = pen.text(0, column, &format!("{} {arrow} ", spot.what), Tone::Strong);
    }
    let role = if narrow { Tone::Strong } else { Tone::Text };
    column = pen.text(0, column, &format!("{}{said} {arrow} ", spot.text), role);
    column = pen.swatch(0, column, fg);
    column = pen.text(0, column, &format!(" {fg} on "), Tone::Text);
    column = pen.swatch(0, column, bg);
    column = pen.text(0, column, &format!(" {bg} {arrow} "), Tone::Text);
    let fine = ratio >= usage.target();
    let need = match usage {
        Usage::Decoration => "decoration".to_owned(),
        _ if narrow => format!("needs {}", usage.target()),
        _ => format!("{} needs {}", usage.label(), usage.target()),
    };
    let tone = if fine { Tone::Good } else { Tone::Loud };
    column = pen.text(0, column, &format!("{ratio:.2}:1 ({need})"), tone);
    let written = written_in(app, &spot.text);
    let (row, column) = if pen.height() > 1 {
        (1, 1)
    } else {
        (0, column + 2)
    };
    let room = pen.width().saturating_sub(column + 1);
    let text = if written.is_empty() {
        "in no dotfile yet".to_owned()
    } else {
        format!("written in {written}")
    };
    pen.cut(row, column, &text, room, Tone::Quiet);
}

/// The thread where the bench points at something no spot shows.
fn bench_thread(app: &App, pen: &mut Pen) {
    if app.step != Step::Survey {
        pen.text(
            0,
            1,
            "Tab goes to the specimen: arrows hop from spot to spot.",
            Tone::Quiet,
        );
        return;
    }
    let Some(role) = app.ledger.role(&app.derived.ledger) else {
        return;
    };
    let Some(row) = app.derived.ledger.row(&role) else {
        return;
    };
    let value = row
        .value
        .as_ref()
        .map_or("not chosen".to_owned(), ToString::to_string);
    let column = pen.text(0, 1, &role.label(), Tone::Strong);
    let column = pen.text(
        0,
        column,
        &format!(" {} {value}", pen.signs().path),
        Tone::Text,
    );
    let (row, column) = if pen.height() > 1 {
        (1, 1)
    } else {
        (0, column + 2)
    };
    let room = pen.width().saturating_sub(column + 1);
    pen.cut(
        row,
        column,
        &format!("written in {}", written_in(app, &role)),
        room,
        Tone::Quiet,
    );
}

/// Where a role is written, tool by tool.
pub fn written_in(app: &App, role: &RoleId) -> String {
    let found = places(&app.derived.ledger, &app.survey.reports, role);
    let one = |(tool, reading): &(
        wealdmist_core::reading::ToolId,
        &wealdmist_core::reading::Reading,
    )| {
        let name = reading.place.file_name();
        format!(
            "{tool} {name}:{} ({})",
            reading.place.at.line, reading.value
        )
    };
    found.iter().map(one).collect::<Vec<_>>().join("   ")
}

fn foot(app: &App, pen: &mut Pen) {
    if let Some(Input { question, text, .. }) = &app.input {
        let column = pen.text(0, 1, &format!("{question}: "), Tone::Key);
        let end = pen.text(0, column, text, Tone::Strong);
        let column = pen.text(0, end, "_", Tone::Key);
        let keys = "Enter takes it, Esc gives up";
        if column + keys.len() + 4 < pen.width() {
            pen.right(0, pen.width() - 1, keys, Tone::Quiet);
        }
        return;
    }
    if let Some(note) = &app.note {
        let tone = if note.bad { Tone::Loud } else { Tone::Text };
        let room = pen.width() - 2;
        let shown = shorten(
            &wealdmist_core::text::visible(note.text.as_bytes()),
            room,
            pen.signs().more,
        );
        pen.text(0, 1, &shown, tone);
        return;
    }
    let mut column = 1;
    for binding in shown(app.at()).filter(|b| b.hint) {
        let width = binding.shown.width() + 1 + binding.label.width();
        if column + width + 2 > pen.width() {
            break;
        }
        column = pen.text(0, column, binding.shown, Tone::Key);
        column = pen.text(0, column + 1, binding.label, Tone::Quiet) + 3;
    }
}
