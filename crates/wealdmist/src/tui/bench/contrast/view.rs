//! Pairs, worst first: real text in its real colors, as it is now and as it would be, through the
//! conditions that are switched on; below, the pair pointed at, its ratio against the window's
//! opacity, and what must be told apart.

use wealdmist_core::color::{Depth, THIN_TEXT, lightness_contrast, ratio_shown};
use wealdmist_core::condition::{Behind, Conditions};
use wealdmist_core::pair::Pair;
use wealdmist_core::role::Usage;
use wealdmist_core::text::visible;

use super::{Contrast, meanings};
use crate::tui::instrument::Tone;
use crate::tui::view::{Hit, Hits, Pen, scroll};
use crate::tui::workspace::Workspace;

/// Rows of the pair pointed at.
const DETAIL: usize = 6;
/// Rows of the chart below it, where there is room.
const CHART: usize = 9;
/// From this height on, the chart is shown.
const ROOM_FOR_CHART: usize = 30;

/// Draws the bench.
pub fn draw(bench: &Contrast, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let pairs = &ws.derived.pairs;
    if pairs.is_empty() {
        pen.text(
            1,
            2,
            "No pair was found: no tool's dotfiles set a color yet.",
            Tone::Text,
        );
        pen.text(2, 2, "1 shows which tools were looked for.", Tone::Quiet);
        return;
    }
    let chart = if pen.height() >= ROOM_FOR_CHART {
        CHART
    } else {
        0
    };
    draw_conditions(ws, pen);
    let detail = DETAIL + chart;
    let room = pen.height().saturating_sub(2 + detail);
    let cursor = bench.cursor.min(pairs.len() - 1);
    let first = scroll(cursor, pairs.len(), room);
    for (column, name) in [
        (1, "as now"),
        (12, "draft"),
        (25, "now"),
        (32, "draft"),
        (39, "needs"),
        (46, "tool"),
        (59, "what"),
    ] {
        pen.text(1, column, name, Tone::Quiet);
    }
    for (line, (i, pair)) in pairs.iter().enumerate().skip(first).take(room).enumerate() {
        draw_row(pair, line + 2, pen);
        hits.add(pen.place(line + 2, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !ws.stage.pointed {
            pen.choose_row(line + 2, 23..pen.width());
        }
    }
    let top = pen.height() - detail;
    draw_detail(ws, &pairs[cursor], pen, top);
    if chart > 0 {
        let top = top + DETAIL;
        let half = (pen.width() * 55 / 100).min(60);
        draw_chart(ws, &pairs[cursor], pen, top, half);
        draw_meanings(ws, pen, top, half + 3);
    }
}

/// The switches, each with its key and what it stands at.
fn draw_conditions(ws: &Workspace, pen: &mut Pen) {
    let c = &ws.conditions;
    let behind = match &c.behind {
        Behind::Worst => "anything".to_owned(),
        Behind::Image(_) => ws
            .behind
            .as_ref()
            .and_then(|w| w.file_name())
            .map_or("image".to_owned(), |n| {
                visible(n.to_string_lossy().as_bytes())
            }),
    };
    let plain = Conditions::default();
    let parts = [
        (
            "- +",
            format!("opacity {:.0}%", c.opacity * 100.0),
            c.opacity < plain.opacity,
        ),
        ("w", format!("over {behind}"), c.opacity < plain.opacity),
        (
            "d",
            c.dimmed.map_or("dimmed off".to_owned(), |d| {
                format!("dimmed {:.0}%", d * 100.0)
            }),
            c.dimmed.is_some(),
        ),
        ("b", c.depth.label().to_owned(), c.depth != Depth::TrueColor),
        (
            "v",
            if c.vision.is_full() {
                "full vision".to_owned()
            } else {
                c.vision.label()
            },
            !c.vision.is_full(),
        ),
    ];
    let mut column = pen.text(0, 1, "seen", Tone::Quiet) + 1;
    for (key, text, on) in parts {
        column = pen.text(0, column, key, Tone::Key);
        let tone = if on { Tone::Loud } else { Tone::Text };
        column = pen.text(0, column + 1, &text, tone) + 2;
    }
}

fn draw_row(pair: &Pair, row: usize, pen: &mut Pen) {
    let sample = if pair.usage == Usage::NonText {
        " ──┼── "
    } else {
        " Aa 1.84 m "
    };
    let sample = if pen.signs().horizontal == "-" && pair.usage == Usage::NonText {
        " --+-- "
    } else {
        sample
    };
    let now = pen.instrument.paint(pair.now.text, pair.now.ground);
    let draft = pen.instrument.paint(pair.draft.text, pair.draft.ground);
    pen.styled(row, 1, &format!("{sample:^10}"), now);
    pen.styled(row, 12, &format!("{sample:^10}"), draft);
    let fine = pair.fine();
    let sign = match (&pair.exception, fine) {
        (Some(_), _) => "~",
        (None, true) => " ",
        (None, false) => "!",
    };
    let now_tone = if pair.fine_now() {
        Tone::Quiet
    } else {
        Tone::Loud
    };
    let tone = if fine { Tone::Text } else { Tone::Loud };
    pen.text(row, 23, sign, if fine { Tone::Quiet } else { Tone::Loud });
    pen.text(
        row,
        25,
        &format!("{:>5}", ratio_shown(pair.now.ratio)),
        now_tone,
    );
    pen.text(
        row,
        32,
        &format!("{:>5}", ratio_shown(pair.draft.ratio)),
        tone,
    );
    let needs = if pair.target <= 1.0 {
        "-".to_owned()
    } else {
        format!("{}:1", pair.target)
    };
    pen.text(row, 39, &needs, Tone::Quiet);
    let tool = match pair.also.len() {
        0 => pair.tool.0.to_owned(),
        more => format!("{} +{more}", pair.tool),
    };
    pen.cut(row, 46, &tool, 12, Tone::Quiet);
    pen.cut(
        row,
        59,
        &pair.what,
        pen.width().saturating_sub(60),
        Tone::Text,
    );
}

fn draw_detail(ws: &Workspace, pair: &Pair, pen: &mut Pen, top: usize) {
    pen.rule(top, 0..pen.width());
    let column = pen.text(top + 1, 1, &pair.what, Tone::Strong);
    let look = &ws.derived.look;
    let faded = if pair.fade < 1.0 {
        format!(" at {:.0}%", pair.fade * 100.0)
    } else {
        String::new()
    };
    let text = format!(
        "  {} {}{faded} on {} {}  ({})",
        pair.text,
        look.color(&pair.text),
        pair.ground,
        look.color(&pair.ground),
        pair.usage.label()
    );
    pen.cut(top + 1, column, &text, pen.width(), Tone::Text);
    let target = pair.target;
    let (text, tone) = if let Some(reason) = &pair.exception {
        (
            format!("kept as it is: {}", visible(reason.as_bytes())),
            Tone::Quiet,
        )
    } else if !pair.fine() {
        let text = format!(
            "{}:1 of {target}:1: m mends this pair, r repairs all {} that fail",
            ratio_shown(pair.draft.ratio),
            ws.derived.counts.contrast
        );
        (text, Tone::Loud)
    } else if !pair.fine_now() {
        (
            format!(
                "below its target now; the draft mends it: {} applies it",
                ws.number_of("apply")
            ),
            Tone::Good,
        )
    } else {
        ("reaches its target".to_owned(), Tone::Good)
    };
    pen.cut(top + 2, 1, &text, pen.width() - 2, tone);
    let lightness = lightness_contrast(pair.draft.text, pair.draft.ground);
    let is_text = pair.usage != Usage::NonText && pair.usage != Usage::Decoration;
    if is_text {
        let (verdict, tone) = if lightness >= THIN_TEXT {
            ("enough for thin strokes", Tone::Quiet)
        } else {
            ("faint in thin strokes", Tone::Text)
        };
        let text = format!(
            "second opinion: lightness contrast {lightness:.0} of {THIN_TEXT:.0}, {verdict}"
        );
        pen.cut(top + 3, 1, &text, pen.width() - 2, tone);
    } else {
        pen.cut(
            top + 3,
            1,
            "not text: its shape has to be seen",
            pen.width() - 2,
            Tone::Quiet,
        );
    }
    if !ws.conditions.is_plain() {
        let worst = ws.conditions.worst_place(pair.sight(look), look);
        let at = worst.map_or(String::new(), |(row, column, _)| {
            format!("; worst at cell {column}, {row} of the image")
        });
        let text = format!(
            "seen as {} on {}: {}{at}",
            pair.draft.text,
            pair.draft.ground,
            ws.conditions.label()
        );
        pen.cut(top + 4, 1, &text, pen.width() - 2, Tone::Text);
    }
    let text = ws.written_in(&pair.text);
    let ground = ws.written_in(&pair.ground);
    let places = match (text.is_empty(), ground.is_empty()) {
        (true, true) => "in no dotfile yet".to_owned(),
        (false, true) => format!("text in {text}"),
        (true, false) => format!("ground in {ground}"),
        (false, false) => format!("text in {text}   ground in {ground}"),
    };
    pen.cut(top + 5, 1, &places, pen.width() - 2, Tone::Key);
}

/// The ratio against the window's opacity, with the target as a line.
fn draw_chart(ws: &Workspace, pair: &Pair, pen: &mut Pen, top: usize, width: usize) {
    let look = &ws.derived.look;
    let own = look.color(&pair.ground) == look.slot(wealdmist_core::Slot::Background);
    pen.rule(top, 0..pen.width());
    pen.text(top, 2, " ratio against the window's opacity ", Tone::Quiet);
    let rows = CHART - 2;
    if !own {
        pen.cut(
            top + 1,
            1,
            "painted by the program: opacity does not reach it",
            width,
            Tone::Quiet,
        );
        return;
    }
    let scale = 5..width.saturating_sub(1);
    let ratio_at = |opacity: f64| {
        let conditions = Conditions {
            opacity,
            ..ws.conditions.clone()
        };
        conditions.see(pair.sight(look), look).ratio
    };
    // Half rows make the curve twice as fine.
    let most = ratio_at(1.0).max(pair.target).max(3.0) * 1.1;
    let half_row = |ratio: f64| {
        let part = ((ratio - 1.0) / (most - 1.0)).clamp(0.0, 1.0);
        ((1.0 - part) * (rows * 2 - 1) as f64).round() as usize
    };
    let signs = pen.signs();
    let target = half_row(pair.target) / 2;
    pen.right(
        top + 1 + target,
        4,
        &format!("{}", pair.target),
        Tone::Quiet,
    );
    for column in scale.clone() {
        pen.text(top + 1 + target, column, signs.horizontal, Tone::Faint);
    }
    pen.right(top + 1, 4, &format!("{most:.0}"), Tone::Faint);
    if target + 1 < rows {
        pen.right(top + rows, 4, "1", Tone::Faint);
    }
    let span = scale.len().saturating_sub(1).max(1) as f64;
    for column in scale.clone() {
        let opacity = (column - scale.start) as f64 / span;
        let ratio = ratio_at(opacity);
        let half = half_row(ratio);
        let sign = if pen.instrument.unicode {
            if half % 2 == 0 { "▀" } else { "▄" }
        } else {
            "*"
        };
        let tone = if ratio >= pair.target {
            Tone::Good
        } else {
            Tone::Loud
        };
        pen.text(top + 1 + half / 2, column, sign, tone);
    }
    let here = scale.start + (ws.conditions.opacity * span).round() as usize;
    let row = top + CHART - 1;
    for (text, part) in [("0", 0.0), ("50%", 0.5)] {
        pen.text(row, scale.start + (span * part) as usize, text, Tone::Faint);
    }
    pen.right(row, scale.end, "100%", Tone::Faint);
    pen.text(row, here.min(scale.end - 1), signs.mark, Tone::Strong);
}

/// What must be told apart, the most alike first.
fn draw_meanings(ws: &Workspace, pen: &mut Pen, top: usize, column: usize) {
    let title = " told apart by color ";
    pen.text(top, column, title, Tone::Quiet);
    for (i, meaning) in meanings(ws).iter().take(CHART - 2).enumerate() {
        let row = top + 1 + i;
        let at = pen.swatch(row, column, meaning.seen.0);
        let at = pen.swatch(row, at, meaning.seen.1);
        let fine = meaning.fine();
        let sign = if fine { " " } else { "!" };
        let tone = if fine { Tone::Quiet } else { Tone::Loud };
        let text = format!("{sign}{:3.0} {}", meaning.difference, meaning.what);
        pen.cut(row, at + 1, &text, pen.width().saturating_sub(at + 2), tone);
    }
    let row = top + CHART - 1;
    let text = format!(
        "below {:.0}: taken for one another",
        wealdmist_core::pair::TOLD_APART
    );
    pen.cut(
        row,
        column,
        &text,
        pen.width().saturating_sub(column + 1),
        Tone::Faint,
    );
}
