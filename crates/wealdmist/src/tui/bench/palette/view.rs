//! The lightness ruler: colors along a perceptual lightness axis, with the bands in which text
//! reaches its ratios drawn behind them; below, the color pointed at in OKLCH.

use unicode_width::UnicodeWidthStr;
use wealdmist_core::Rgb;
use wealdmist_core::color::{Oklch, contrast_ratio, ratio_shown, relative_luminance};
use wealdmist_core::look::Origin;
use wealdmist_core::role::Usage;

use super::{Channel, Entry, Palette, ground_of, too_alike};
use crate::tui::instrument::Tone;
use crate::tui::view::{Hit, Hits, Pen, scroll};
use crate::tui::workspace::Workspace;

const NAME: usize = 18;
/// Rows taken by the editor below the list.
const EDITOR: usize = 7;

/// Draws the bench.
pub fn draw(bench: &Palette, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let entries = bench.entries(ws);
    let cursor = bench.cursor.min(entries.len().saturating_sub(1));
    let room = pen.height().saturating_sub(EDITOR + 1);
    let first = scroll(cursor, entries.len(), room);
    let scale = NAME + 11..pen.width().saturating_sub(9);
    draw_scale(pen, &scale);
    for (line, (i, entry)) in entries
        .iter()
        .enumerate()
        .skip(first)
        .take(room)
        .enumerate()
    {
        draw_row(bench, ws, entry, line + 1, &scale, pen);
        hits.add(pen.place(line + 1, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !ws.stage.pointed {
            pen.choose_row(line + 1, 0..NAME);
        }
    }
    if let Some(entry) = entries.get(cursor) {
        let top = pen.height().saturating_sub(EDITOR);
        draw_editor(bench, ws, entry, pen, top);
    }
}

fn draw_scale(pen: &mut Pen, scale: &std::ops::Range<usize>) {
    pen.text(0, 1, "color", Tone::Quiet);
    let span = scale.len().saturating_sub(1);
    for tenth in [0, 2, 4, 6, 8, 10] {
        let column = scale.start + span * tenth / 10;
        let text = format!("{:.1}", tenth as f64 / 10.0);
        let column = column.saturating_sub(if tenth == 10 {
            2
        } else {
            usize::from(tenth > 0)
        });
        pen.text(0, column, &text, Tone::Faint);
    }
    pen.right(0, pen.width() - 1, "ratio", Tone::Quiet);
}

/// How dark a band is drawn: below 3:1, from 3, from 4.5, from 7.
fn band(ratio: f64) -> usize {
    [3.0, 4.5, 7.0].iter().filter(|t| ratio >= **t).count()
}

const BANDS: [Rgb; 4] = [
    Rgb::from_u32(0x17_191c),
    Rgb::from_u32(0x25_292f),
    Rgb::from_u32(0x35_3b44),
    Rgb::from_u32(0x47_4f5b),
];
const BAND_SIGNS: [&str; 4] = [" ", ".", ":", "="];

fn draw_row(
    bench: &Palette,
    ws: &Workspace,
    entry: &Entry,
    row: usize,
    scale: &std::ops::Range<usize>,
    pen: &mut Pen,
) {
    let (ground, usage) = ground_of(ws, &entry.origin);
    let ratio = contrast_ratio(entry.color, ground);
    let fine = ratio >= usage.target();
    let name = ws.name_of(&entry.origin);
    pen.cut(
        row,
        1,
        &name,
        NAME - 2,
        if fine { Tone::Quiet } else { Tone::Loud },
    );
    let column = pen.swatch(row, NAME, entry.color);
    pen.text(row, column + 1, &entry.color.to_string(), Tone::Text);
    let lch = Oklch::from(entry.color);
    let luminance = relative_luminance(ground);
    let span = scale.len().saturating_sub(1).max(1) as f64;
    let colorless = pen.instrument.color(entry.color).is_none();
    for column in scale.clone() {
        let l = (column - scale.start) as f64 / span;
        let own = Oklch { l, ..lch }.luminance();
        let ratio = (own.max(luminance) + 0.05) / (own.min(luminance) + 0.05);
        let band = band(ratio);
        if colorless || usage == Usage::Decoration {
            let sign = if usage == Usage::Decoration {
                " "
            } else {
                BAND_SIGNS[band]
            };
            pen.text(row, column, sign, Tone::Faint);
        } else {
            let style = pen.instrument.paint(BANDS[0], BANDS[band]);
            pen.styled(row, column, " ", style);
        }
    }
    // The ground's own lightness, then the color where it stands.
    let at = |l: f64| scale.start + (l * span).round() as usize;
    let ground_column = at(Oklch::from(ground).l);
    let vertical = pen.signs().vertical;
    pen.text(row, ground_column, vertical, Tone::Faint);
    if bench.beside {
        draw_beside(ws, entry, row, &at, scale, pen);
    }
    let column = at(lch.l).min(scale.end.saturating_sub(1));
    if colorless {
        let mark = pen.signs().mark;
        pen.text(row, column, mark, Tone::Strong);
    } else {
        let bar = pen.signs().bar;
        let style = pen.instrument.paint(entry.color, entry.color);
        let start = column.saturating_sub(1).max(scale.start);
        pen.styled(row, start, &bar.repeat(3.min(scale.end - start)), style);
    }
    let text = match usage {
        Usage::Decoration => String::new(),
        _ => format!("{}{}", ratio_shown(ratio), if fine { " " } else { "!" }),
    };
    // A mark joins a color with the one it is too like to be told apart from.
    if let Some((other, difference)) = too_alike(ws, entry) {
        let text = format!("{}{} {difference:.1}", pen.signs().alike, other.key());
        let start = scale.start.max(column.saturating_sub(text.width() + 2));
        let start = if start + text.width() < column {
            start
        } else {
            column + 3
        };
        pen.cut(
            row,
            start,
            &text,
            scale.end.saturating_sub(start),
            Tone::Loud,
        );
    }
    if ws.is_locked(&entry.origin) {
        pen.text(row, 0, pen.signs().lock, Tone::Key);
    }
    pen.right(
        row,
        pen.width() - 1,
        &text,
        if fine { Tone::Quiet } else { Tone::Loud },
    );
}

/// The same color in the setup's other palettes, at its own lightness.
fn draw_beside(
    ws: &Workspace,
    entry: &Entry,
    row: usize,
    at: &impl Fn(f64) -> usize,
    scale: &std::ops::Range<usize>,
    pen: &mut Pen,
) {
    let setup = ws.survey.doc.setup();
    for palette in setup.palettes.iter().filter(|p| p.name != setup.active) {
        let color = match &entry.origin {
            Origin::Slot(slot) => Some(palette.slot(*slot)),
            Origin::Named(name) => palette.colors.iter().find(|c| c.0 == *name).map(|c| c.1),
            Origin::Role(_) => None,
        };
        let Some(color) = color else { continue };
        let column = at(Oklch::from(color).l).min(scale.end.saturating_sub(1));
        let style = match pen.instrument.color(color) {
            Some(_) => pen.instrument.paint(color, BANDS[0]),
            None => pen.instrument.tone(Tone::Quiet),
        };
        let mark = pen.signs().beside;
        pen.styled(row, column, mark, style);
    }
}

fn draw_editor(bench: &Palette, ws: &Workspace, entry: &Entry, pen: &mut Pen, top: usize) {
    pen.rule(top, 0..pen.width());
    if bench.beside {
        let setup = ws.survey.doc.setup();
        let others: Vec<&str> = setup
            .palettes
            .iter()
            .filter(|p| p.name != setup.active)
            .map(|p| p.name.as_str())
            .collect();
        let text = match others.as_slice() {
            [] => " there is no other palette: n makes one ".to_owned(),
            names => format!(" {} {} ", pen.signs().beside, names.join(", ")),
        };
        pen.text(
            top,
            2,
            &wealdmist_core::text::visible(text.as_bytes()),
            Tone::Quiet,
        );
    }
    let lch = bench.coordinates(entry);
    let (ground, usage) = ground_of(ws, &entry.origin);
    let mut column = pen.text(top + 1, 1, &ws.name_of(&entry.origin), Tone::Strong);
    column = pen.text(
        top + 1,
        column + 2,
        &format!("{} ", entry.color),
        Tone::Text,
    );
    let sample = pen.instrument.paint(entry.color, ground);
    if usage == Usage::Decoration {
        let text = ws.derived.look.slot(wealdmist_core::Slot::Foreground);
        let style = pen.instrument.paint(text, entry.color);
        column = pen.styled(top + 1, column + 1, " Text on this ground ", style);
    } else {
        column = pen.styled(top + 1, column + 1, " Level at the weir: 1.84 m ", sample);
    }
    let used = match &entry.origin {
        Origin::Role(_) => "a role's own color".to_owned(),
        origin => format!("used by {} roles", users(ws, origin)),
    };
    pen.cut(top + 1, column + 2, &used, pen.width(), Tone::Quiet);
    let rows = [
        (Channel::Lightness, "l lightness", format!("{:.2}", lch.l)),
        (Channel::Chroma, "c chroma", format!("{:.3}", lch.c)),
        (Channel::Hue, "h hue", format!("{:.0}°", lch.h)),
    ];
    for (i, (channel, name, value)) in rows.into_iter().enumerate() {
        let row = top + 2 + i;
        let chosen = bench.channel == channel;
        pen.text(
            row,
            1,
            name,
            if chosen { Tone::Strong } else { Tone::Quiet },
        );
        pen.right(
            row,
            NAME + 4,
            &value,
            if chosen { Tone::Strong } else { Tone::Text },
        );
        draw_channel(
            channel,
            lch,
            row,
            NAME + 6..pen.width().saturating_sub(2),
            pen,
        );
        if chosen && !ws.stage.pointed {
            pen.choose_row(row, 0..NAME + 5);
        }
    }
    let outside = pen.signs().outside;
    let mut column = pen.text(top + 5, 1, "behind the colors: text reaches", Tone::Quiet) + 1;
    for (i, name) in ["below 3", "3:1", "4.5:1", "7:1"].into_iter().enumerate() {
        let style = pen.instrument.paint(Rgb::from_u32(0xd3_d6da), BANDS[i]);
        let text = format!(
            " {}{name} ",
            if pen.instrument.color(BANDS[i]).is_none() {
                BAND_SIGNS[i]
            } else {
                ""
            }
        );
        column = pen.styled(top + 5, column, &text, style);
    }
    pen.cut(
        top + 5,
        column + 2,
        &format!("{outside} outside sRGB"),
        pen.width(),
        Tone::Quiet,
    );
}

/// How many roles come to a color's place.
fn users(ws: &Workspace, wanted: &Origin) -> usize {
    let setup = ws.survey.doc.setup();
    let known = wealdmist_core::role::ROLES
        .iter()
        .map(|k| wealdmist_core::RoleId::known(k.id));
    known
        .filter(|r| wealdmist_core::look::origin(setup, setup.palette(), r) == *wanted)
        .count()
}

/// A channel's scale in the colors it would give, with the edge of sRGB marked.
fn draw_channel(
    channel: Channel,
    lch: Oklch,
    row: usize,
    scale: std::ops::Range<usize>,
    pen: &mut Pen,
) {
    let span = scale.len().saturating_sub(1).max(1) as f64;
    let (most, now) = match channel {
        Channel::Lightness => (1.0, lch.l),
        Channel::Chroma => (0.34, lch.c),
        Channel::Hue => (360.0, lch.h),
    };
    for column in scale.clone() {
        let value = (column - scale.start) as f64 / span * most;
        let there = match channel {
            Channel::Lightness => Oklch { l: value, ..lch },
            Channel::Chroma => Oklch { c: value, ..lch },
            Channel::Hue => Oklch { h: value, ..lch },
        };
        // A hair of tolerance: the color itself stands on the edge when its chroma is greatest.
        if there.in_gamut() || (channel == Channel::Chroma && value <= lch.c) {
            let color = there.to_rgb();
            let style = pen.instrument.paint(color, color);
            let sign = if pen.instrument.color(color).is_some() {
                " "
            } else {
                "-"
            };
            pen.styled(row, column, sign, style);
        } else {
            let outside = pen.signs().outside;
            pen.text(row, column, outside, Tone::Faint);
        }
    }
    let column = scale.start + (now / most * span).round() as usize;
    let column = column.min(scale.end.saturating_sub(1));
    let color = lch.to_rgb();
    let mark = if relative_luminance(color) > 0.3 {
        Rgb::new(0, 0, 0)
    } else {
        Rgb::new(255, 255, 255)
    };
    let style = pen.instrument.paint(mark, color);
    let sign = pen.signs().mark;
    pen.styled(row, column, sign, style);
}
