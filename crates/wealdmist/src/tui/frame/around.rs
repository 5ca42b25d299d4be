//! What stands around bench and specimen: the setup, the path, the thread and the keys.

use ratatui_core::style::Modifier;
use unicode_width::UnicodeWidthStr;
use wealdmist_core::color::ratio_shown;
use wealdmist_core::condition::Sight;
use wealdmist_core::look::expr_of;
use wealdmist_core::pair::rounding_of;
use wealdmist_core::property::Property;
use wealdmist_core::role::{RoleId, Usage, lookup};
use wealdmist_core::text::visible;

use crate::tui::app::{App, Line};
use crate::tui::instrument::Tone;
use crate::tui::step::Step;
use crate::tui::view::layout::Layout;
use crate::tui::view::{Hit, Hits, Pen, shorten};

/// Draws everything but bench and specimen.
pub fn draw(app: &App, parts: &Layout, pen: &mut Pen, hits: &mut Hits) {
    head(app, &mut pen.within(parts.head));
    path(app, &mut pen.within(parts.path), hits);
    rules(app, parts, pen);
    thread(app, &mut pen.within(parts.thread));
    foot(app, &mut pen.within(parts.keys));
}

fn head(app: &App, pen: &mut Pen) {
    let setup = app.ws.survey.doc.setup();
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
    if app.trials().0 {
        column = pen.text(0, column + 3, "trial on", Tone::Loud);
    }
    if app.trials().1 {
        column = pen.text(0, column + 3, "trial around", Tone::Loud);
    }
    if let Some(busy) = app.busy() {
        column = pen.text(
            0,
            column + 3,
            &format!("{busy}{}", pen.signs().more),
            Tone::Key,
        );
    }
    // What the path does not show, and how to get the keys.
    const KEYS: &str = "? keys";
    let unreadable = app.ws.derived.counts.unreadable;
    let mut text = format!("{} unapplied", app.ws.planned.change_count());
    if unreadable > 0 {
        // The key holds on the first step.
        let key = if app.here() == 0 { " (w)" } else { "" };
        text = format!("{unreadable} unreadable{key}   {text}");
    }
    let mut end = pen.width().saturating_sub(1);
    for (text, tone) in [
        (KEYS, Tone::Quiet),
        (
            text.as_str(),
            match (unreadable, app.ws.planned.change_count()) {
                (0, 0) => Tone::Good,
                (0, _) => Tone::Text,
                _ => Tone::Loud,
            },
        ),
    ] {
        if column + text.width() + 2 < end {
            pen.right(0, end, text, tone);
            end -= text.width() + 3;
        }
    }
}

/// A step as the path shows it: its number and name, and how much is open there.
struct OnPath {
    text: String,
    open: String,
}

impl OnPath {
    fn width(&self) -> usize {
        self.text.width() + self.open.width()
    }
}

/// The steps. Where they do not all fit, those one is not at are shown by their numbers.
fn path(app: &App, pen: &mut Pen, hits: &mut Hits) {
    let sign = pen.signs().path;
    let on_path = |whole: bool| -> Vec<OnPath> {
        let one = |(i, (step, open)): (usize, (Step, usize))| OnPath {
            text: match whole || i == app.here() {
                true => format!("{} {}", i + 1, step.label),
                false => (i + 1).to_string(),
            },
            open: match open {
                0 => String::new(),
                open => format!(" {open}"),
            },
        };
        app.path().enumerate().map(one).collect()
    };
    let width = |steps: &[OnPath]| {
        let joints = steps.len().saturating_sub(1) * (sign.width() + 2);
        steps.iter().map(OnPath::width).sum::<usize>() + joints + 2
    };
    let mut steps = on_path(true);
    if width(&steps) > pen.width() {
        steps = on_path(false);
    }
    let mut column = 1;
    for (i, step) in steps.iter().enumerate() {
        if i > 0 {
            column = pen.text(0, column + 1, sign, Tone::Faint) + 1;
        }
        let start = column;
        let here = i == app.here();
        let tone = if here { Tone::Strong } else { Tone::Quiet };
        column = pen.text(0, column, &step.text, tone);
        let tone = if here { Tone::Loud } else { Tone::Quiet };
        column = pen.text(0, column, &step.open, tone);
        if here {
            pen.choose_row(0, start - 1..column + 1);
        }
        hits.add(pen.place(0, start - 1..column + 1), Hit::Step(i));
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
        let name = app.top().title(&app.ws);
        title(usize::from(bench.x) + 2, &name, !app.ws.stage.pointed);
    }
    if let Some(area) = parts.specimen {
        let worn = match &app.ws.stage.title {
            Some(name) => visible(name.as_bytes()),
            None => "your draft".to_owned(),
        };
        let seen = if app.ws.conditions.is_plain() {
            String::new()
        } else {
            format!(", {}", app.ws.conditions.label())
        };
        let back = if parts.bench.is_some() {
            ""
        } else {
            " (Tab: bench)"
        };
        let name = format!("specimen: {worn}{seen}{back}");
        let room = usize::from(area.width).saturating_sub(5);
        let name = shorten(&name, room, signs.more);
        title(usize::from(area.x) + 2, &name, app.ws.stage.pointed);
    }
}

/// The thread from what is pointed at to the files: role, color, ratio, places.
fn thread(app: &App, pen: &mut Pen) {
    let Some(spot) = app
        .ws
        .stage
        .shown_spot()
        .and_then(|i| app.ws.stage.specimen.spots.get(i))
    else {
        bench_thread(app, pen);
        return;
    };
    if spot.text.is_property() {
        role_thread(app, &spot.text, pen);
        return;
    }
    let look = app.ws.worn_look();
    let (fg, bg) = (look.color(&spot.text), look.color(&spot.ground));
    let sight = Sight {
        text: fg,
        ground: bg,
        fade: 1.0,
        in_pane: spot.text.stands_in_pane(),
        rounding: rounding_of(&app.ws.derived.pairs, &spot.text, &spot.ground),
    };
    let ratio = app.ws.conditions.see(sight, look).ratio;
    let usage = lookup(&spot.text).map_or(Usage::Body, |k| k.usage);
    let arrow = pen.signs().path;
    // Where one row has to do, the name of the role says enough.
    let narrow = pen.height() == 1;
    let said = expr_of(app.ws.survey.doc.setup(), &spot.text).filter(|_| !narrow);
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
    column = pen.text(
        0,
        column,
        &format!("{}:1 ({need})", ratio_shown(ratio)),
        tone,
    );
    let written = app.ws.written_in(&spot.text);
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
    let Some(role) = app.target().map(|t| t.text) else {
        pen.text(
            0,
            1,
            "Tab goes to the specimen: arrows hop from spot to spot.",
            Tone::Quiet,
        );
        return;
    };
    role_thread(app, &role, pen);
}

/// A role, its value in the setup, and where it is written.
fn role_thread(app: &App, role: &RoleId, pen: &mut Pen) {
    let property = Property::from_key(role.as_str());
    let said = || property.and_then(|p| p.of(app.ws.survey.doc.setup()));
    let value = match app.ws.derived.ledger.row(role) {
        Some(row) => row.value_said(),
        None => said().map_or_else(|| "not chosen".to_owned(), |v| v.to_string()),
    };
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
        &format!("written in {}", app.ws.written_in(role)),
        room,
        Tone::Quiet,
    );
}

fn foot(app: &App, pen: &mut Pen) {
    if let Some(line) = &app.line {
        return typed(line, pen);
    }
    if let Some(note) = &app.ws.note {
        let tone = if note.bad { Tone::Loud } else { Tone::Text };
        let room = pen.width() - 2;
        let shown = shorten(&visible(note.text.as_bytes()), room, pen.signs().more);
        pen.text(0, 1, &shown, tone);
        return;
    }
    let mut column = 1;
    for binding in app.keys().into_iter().filter(|k| k.hint) {
        let width = binding.shown.width() + 1 + binding.label.width();
        if column + width + 2 > pen.width() {
            break;
        }
        column = pen.text(0, column, &binding.shown, Tone::Key);
        column = pen.text(0, column + 1, &binding.label, Tone::Quiet) + 3;
    }
}

/// The line that is typed, with its cursor, and why it could not be taken.
fn typed(line: &Line, pen: &mut Pen) {
    let start = pen.text(0, 1, &format!("{}: ", line.question.text), Tone::Key);
    let half = |text: &str| shorten(&visible(text.as_bytes()), pen.width() / 2, pen.signs().more);
    let (keys, tone, is_said) = match &line.refused {
        Some(why) => (half(why), Tone::Loud, true),
        None if !line.offered.is_empty() => (half(&line.offered.join("  ")), Tone::Text, true),
        None if line.question.is_path => {
            let keys = "Tab completes, Enter takes it, Esc gives up";
            (keys.to_owned(), Tone::Quiet, false)
        }
        None => (
            "Enter takes it, Esc gives up".to_owned(),
            Tone::Quiet,
            false,
        ),
    };
    // What does not fit is scrolled out to the left.
    let reserved = if is_said { keys.width() + 3 } else { 2 };
    let room = pen.width().saturating_sub(start + reserved).max(1);
    let skip = line.text.visual_scroll(room);
    let value = visible(line.text.value().as_bytes());
    let shown: String = value.chars().skip(skip).collect();
    let end = pen.cut(0, start, &shown, room, Tone::Strong);
    let cursor = start + line.text.visual_cursor().saturating_sub(skip);
    if cursor >= end {
        pen.text(0, cursor, "_", Tone::Key);
    } else {
        pen.restyle(0, cursor..cursor + 1, |s| {
            s.add_modifier(Modifier::REVERSED)
        });
    }
    if end.max(cursor + 1) + keys.width() + 3 < pen.width() {
        pen.right(0, pen.width() - 1, &keys, tone);
    }
}
