//! The Font bench: the families, and beside them samples, facts or features.

use std::sync::Arc;

use ratatui_core::layout::Rect;
use wealdmist_core::font::picture::draw as draw_raster;
use wealdmist_core::font::sample::SAMPLES;
use wealdmist_core::text::{counted, visible};

use super::{Drawn, Family, Font, LIST, Opened, Page};
use crate::tui::instrument::Tone;
use crate::tui::view::{Hit, Hits, Pen, Shown, paint, scroll};
use crate::tui::workspace::Workspace;
use crate::work::fonts;

/// Draws the bench.
pub fn draw(bench: &Font, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let Some(found) = &ws.font else {
        pen.text(1, 2, "reading the installed fonts…", Tone::Quiet);
        return;
    };
    let count = bench.families.len();
    if count == 0 {
        let text = match bench.filter.is_empty() {
            true => format!(
                "No font with letters of one width among {} files.",
                found.files
            ),
            false => format!("No family's name holds '{}'.", bench.filter),
        };
        pen.cut(1, 2, &text, pen.width() - 3, Tone::Text);
        pen.text(
            2,
            2,
            "o opens a font file or an archive, / filters.",
            Tone::Quiet,
        );
        return;
    }
    families(bench, ws, pen, hits);
    let height = pen.height();
    for row in 0..height {
        let line = pen.signs().vertical;
        pen.text(row, LIST, line, Tone::Faint);
    }
    let area = Rect {
        x: pen.area.x + LIST as u16 + 2,
        width: pen.area.width.saturating_sub(LIST as u16 + 3),
        ..pen.area
    };
    let mut side = pen.within(area);
    match bench.page {
        Page::Samples => samples(bench, ws, &mut side, hits),
        Page::Facts => facts(bench, ws, &mut side),
        Page::Features => features(bench, ws, &mut side, hits),
    }
}

fn families(bench: &Font, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let rows = &bench.families;
    let chosen = ws
        .survey
        .doc
        .setup()
        .font
        .family
        .clone()
        .unwrap_or_default();
    let fallback = &ws.survey.doc.setup().font.fallback;
    let note = match bench.filter.is_empty() {
        true => counted(rows.len(), "family"),
        false => format!("{} with '{}'", rows.len(), visible(bench.filter.as_bytes())),
    };
    pen.cut(0, 1, &note, LIST - 2, Tone::Quiet);
    pen.right(0, LIST - 1, "icons", Tone::Quiet);
    let room = pen.height().saturating_sub(1);
    let cursor = bench.cursor.min(rows.len() - 1);
    let first = scroll(cursor, rows.len(), room);
    for (line, (i, family)) in rows.iter().enumerate().skip(first).take(room).enumerate() {
        let line = line + 1;
        let kept = ws.beside.contains(&(family.name.clone(), family.installed));
        let signs = pen.signs();
        let sign = match () {
            () if family.name.eq_ignore_ascii_case(&chosen) && family.installed => signs.on,
            () if fallback.contains(&family.name) => signs.alike.trim(),
            () if kept => signs.beside,
            () => " ",
        };
        pen.cut(line, 0, sign, 1, Tone::Key);
        let tone = if family.fixed {
            Tone::Text
        } else {
            Tone::Quiet
        };
        let tail = tail(family);
        pen.cut(
            line,
            2,
            &visible(family.name.as_bytes()),
            LIST - 3 - tail.len(),
            tone,
        );
        pen.right(line, LIST - 1, &tail, Tone::Quiet);
        hits.add(pen.place(line, 0..LIST), Hit::Row(i, None));
        if i == cursor && !ws.stage.pointed && bench.page == Page::Samples {
            pen.choose_row(line, 0..LIST);
        }
    }
}

/// What a family is, in a few characters at the end of its row.
fn tail(family: &Family) -> String {
    match family {
        Family {
            installed: false, ..
        } => " new".to_owned(),
        Family { fixed: false, .. } => " vary".to_owned(),
        Family { icons: 0, .. } => String::new(),
        Family { icons, .. } if *icons >= 1000 => format!(" {}k", icons / 1000),
        Family { icons, .. } => format!(" {icons}"),
    }
}

/// The faces on the same lines.
fn samples(bench: &Font, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let sample = SAMPLES[bench.sample % SAMPLES.len()].title;
    let font = &ws.survey.doc.setup().font;
    let ligatures = if font.ligatures == Some(false) {
        ", no ligatures"
    } else {
        ""
    };
    let features = match font.features_text() {
        text if text.is_empty() => String::new(),
        text => format!(", {text}"),
    };
    let head = format!("{sample}; {}{ligatures}{features}", bench.size_label(ws));
    pen.cut(0, 0, &head, pen.width(), Tone::Quiet);
    let mut row = 1;
    for panel in &bench.panels {
        let column = pen.cut(
            row,
            0,
            &visible(panel.title.as_bytes()),
            pen.width(),
            Tone::Strong,
        );
        let room = pen.width().saturating_sub(column + 2);
        pen.cut(
            row,
            column + 2,
            &visible(panel.note.as_bytes()),
            room,
            Tone::Loud,
        );
        row += 1;
        if let Some(raster) = &panel.raster {
            let area = Rect {
                y: pen.area.y + row as u16,
                height: (panel.rows as u16).min(pen.area.height.saturating_sub(row as u16)),
                ..pen.area
            };
            match bench.drawn(ws) {
                Drawn::Image(_) => hits.images.push((area, Shown::Shades(Arc::clone(raster)))),
                Drawn::With(means) => {
                    paint(
                        ws.look(),
                        &mut pen.within(area),
                        &draw_raster(raster, means),
                        means,
                    );
                }
            }
        } else if panel.note.is_empty() {
            pen.text(row, 0, "reading…", Tone::Quiet);
        }
        row += panel.rows;
    }
}

/// Everything the file says.
fn facts(bench: &Font, ws: &Workspace, pen: &mut Pen) {
    let Some(opened) = bench.face_shown() else {
        pen.text(1, 0, "reading…", Tone::Quiet);
        return;
    };
    let mut lines = spelled(bench, ws);
    lines.extend(fonts::describe(
        &ws.survey.home,
        &opened.path,
        &opened.facts,
        &opened.changes,
    ));
    let room = pen.height().saturating_sub(1);
    let first = bench.row.min(lines.len().saturating_sub(room));
    let last = (first + room).min(lines.len());
    pen.cut(
        0,
        0,
        &format!(
            "{}: lines {} to {last} of {}",
            opened.title,
            first + 1,
            lines.len()
        ),
        pen.width(),
        Tone::Quiet,
    );
    for (i, line) in lines[first..last].iter().enumerate() {
        let tone = if line.starts_with(' ') {
            Tone::Text
        } else {
            Tone::Strong
        };
        pen.cut(i + 1, 0, line, pen.width(), tone);
    }
}

/// How each tool spells the family pointed at.
fn spelled(bench: &Font, ws: &Workspace) -> Vec<String> {
    let (Some(found), Some(family)) = (&ws.font, bench.family()) else {
        return Vec::new();
    };
    let choice = wealdmist_core::setup::FontChoice {
        family: Some(family.name.clone()),
        ..ws.survey.doc.setup().font.clone()
    };
    let lines = fonts::spelled(&ws.survey, &choice, &found.catalog);
    let mut out = vec!["spelled".to_owned()];
    out.extend(lines.into_iter().map(|l| format!("  {l}")));
    out
}

/// The features, what each changes, and which are switched.
fn features(bench: &Font, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let Some(opened) = bench.face_shown() else {
        pen.text(1, 0, "reading…", Tone::Quiet);
        return;
    };
    let rows = &opened.facts.features;
    if rows.is_empty() {
        pen.cut(
            1,
            0,
            &format!("{} has no features to switch.", opened.title),
            pen.width(),
            Tone::Text,
        );
        return;
    }
    pen.cut(
        0,
        0,
        &format!("{}: Enter switches one", opened.title),
        pen.width(),
        Tone::Quiet,
    );
    let switched = &ws.survey.doc.setup().font.features;
    let room = pen.height().saturating_sub(1) / 2;
    let cursor = bench.row.min(rows.len() - 1);
    let first = scroll(cursor, rows.len(), room);
    for (line, (i, fact)) in rows.iter().enumerate().skip(first).take(room).enumerate() {
        let row = line * 2 + 1;
        let set = switched.iter().find(|f| f.tag == fact.tag);
        let on = set.map_or(fact.default, |f| f.value > 0);
        let sign = if on { pen.signs().on } else { pen.signs().off };
        pen.text(
            row,
            0,
            sign,
            if set.is_some() {
                Tone::Key
            } else {
                Tone::Quiet
            },
        );
        let column = pen.text(row, 2, &fact.tag.to_string(), Tone::Strong);
        let word = match (set.is_some(), on) {
            (true, true) => "on by the setup",
            (true, false) => "off by the setup",
            (false, true) => "on by default",
            (false, false) => "",
        };
        pen.cut(
            row,
            column + 2,
            &format!("{}  {word}", visible(fact.name.as_bytes())),
            pen.width().saturating_sub(column + 2),
            Tone::Text,
        );
        pen.cut(
            row + 1,
            4,
            &changed(opened, i),
            pen.width().saturating_sub(4),
            Tone::Quiet,
        );
        let area = pen.place(row, 0..pen.width());
        hits.add(area, Hit::Row(i, None));
        if i == cursor && !ws.stage.pointed {
            pen.choose_row(row, 0..pen.width());
        }
    }
}

fn changed(opened: &Opened, feature: usize) -> String {
    match opened.changes.get(feature) {
        Some(list) if !list.is_empty() => {
            format!("changes {}", visible(list.join("  ").as_bytes()))
        }
        _ => "changes nothing of the sample text".to_owned(),
    }
}
