//! Pairs, worst first: real text in its real colors, as it is now and as it would be.

use wealdmist_core::pair::{Pair, mend};
use wealdmist_core::role::Usage;
use wealdmist_core::text::visible;
use wealdmist_tools::Access;

use super::layout::scroll;
use super::pen::Pen;
use super::{Hit, Hits};
use crate::tui::app::App;
use crate::tui::instrument::Tone;

/// Draws the bench.
pub fn draw(app: &App, pen: &mut Pen, hits: &mut Hits) {
    let pairs = &app.derived.pairs;
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
    let detail = 5;
    let room = pen.height().saturating_sub(1 + detail);
    let cursor = app.pair.min(pairs.len() - 1);
    let first = scroll(cursor, pairs.len(), room);
    for (column, name) in [
        (1, "as now"),
        (12, "draft"),
        (25, "now"),
        (32, "draft"),
        (39, "needs"),
        (46, "tool"),
        (54, "what"),
    ] {
        pen.text(0, column, name, Tone::Quiet);
    }
    for (line, (i, pair)) in pairs.iter().enumerate().skip(first).take(room).enumerate() {
        draw_row(pair, line + 1, pen);
        hits.add(pen.place(line + 1, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !app.on_specimen {
            pen.choose_row(line + 1, 23..pen.width());
        }
    }
    draw_detail(app, &pairs[cursor], pen);
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
    let sign = if fine { " " } else { "!" };
    let now_tone = if pair.fine_now() {
        Tone::Quiet
    } else {
        Tone::Loud
    };
    let tone = if fine { Tone::Text } else { Tone::Loud };
    pen.text(row, 23, sign, Tone::Loud);
    pen.text(row, 25, &format!("{:5.2}", pair.now.ratio), now_tone);
    pen.text(row, 32, &format!("{:5.2}", pair.draft.ratio), tone);
    let needs = if pair.usage == Usage::Decoration {
        "-".to_owned()
    } else {
        format!("{}:1", pair.target)
    };
    pen.text(row, 39, &needs, Tone::Quiet);
    pen.text(row, 46, pair.tool.0, Tone::Quiet);
    pen.cut(
        row,
        54,
        &pair.what,
        pen.width().saturating_sub(55),
        Tone::Text,
    );
}

fn draw_detail(app: &App, pair: &Pair, pen: &mut Pen) {
    let top = pen.height().saturating_sub(5);
    pen.rule(top, 0..pen.width());
    let column = pen.text(top + 1, 1, &pair.what, Tone::Strong);
    let text = format!(
        "  {} {} on {} {}  ({})",
        pair.text,
        pair.draft.text,
        pair.ground,
        pair.draft.ground,
        pair.usage.label()
    );
    pen.text(top + 1, column, &text, Tone::Text);
    let target = pair.target;
    if !pair.fine() {
        let text = match mend(pair.draft.text, pair.draft.ground, target) {
            Some(color) => format!(
                "m makes it {color}, the nearest of this hue that reaches {target}:1 ({:.2} now)",
                pair.draft.ratio
            ),
            None => format!("no lightness of this hue reaches {target}:1 on this ground"),
        };
        pen.cut(top + 2, 1, &text, pen.width() - 2, Tone::Loud);
    } else if !pair.fine_now() {
        pen.text(
            top + 2,
            1,
            "below its target now; the draft mends it: 5 applies it",
            Tone::Good,
        );
    } else {
        pen.text(top + 2, 1, "reaches its target", Tone::Good);
    }
    if let Some(place) = &pair.place {
        let path = app.survey.home.contract(&place.path);
        pen.cut(
            top + 3,
            1,
            &format!("{}:{}", visible(path.as_bytes()), place.at),
            pen.width() - 2,
            Tone::Key,
        );
    }
}
