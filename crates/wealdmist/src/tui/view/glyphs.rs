//! Characters in use, with what the chosen font makes of them.

use wealdmist_core::finding::FontState;
use wealdmist_core::glyph::is_private_use;
use wealdmist_core::text::{visible, visible_with};
use wealdmist_tools::Access;

use super::layout::scroll;
use super::pen::{Pen, draw_excerpt};
use super::{Hit, Hits};
use crate::tui::app::{App, GlyphRow, Verdict};
use crate::tui::instrument::Tone;

/// Rows taken by the explanation below the list.
const DETAIL: usize = 5;

/// Draws the bench.
pub fn draw(app: &App, pen: &mut Pen, hits: &mut Hits) {
    draw_font(app, pen);
    let rows = &app.derived.glyphs;
    if rows.is_empty() {
        pen.text(
            3,
            2,
            "Your dotfiles are plain ASCII: nothing to look up.",
            Tone::Text,
        );
        return;
    }
    for (column, name) in [
        (1, "sign"),
        (9, "code point"),
        (20, "verdict"),
        (44, "instead"),
        (62, "where"),
    ] {
        pen.text(2, column, name, Tone::Quiet);
    }
    let room = pen.height().saturating_sub(3 + DETAIL);
    let cursor = app.glyph.min(rows.len() - 1);
    let first = scroll(cursor, rows.len(), room);
    for (line, (i, row)) in rows.iter().enumerate().skip(first).take(room).enumerate() {
        draw_row(app, row, line + 3, pen);
        hits.add(pen.place(line + 3, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !app.on_specimen {
            pen.choose_row(line + 3, 0..pen.width());
        }
    }
    draw_detail(app, &rows[cursor], pen);
}

/// What is the matter with the character pointed at, and the line it stands on.
fn draw_detail(app: &App, row: &GlyphRow, pen: &mut Pen) {
    let top = pen.height().saturating_sub(DETAIL);
    pen.rule(top, 0..pen.width());
    let c = row.found.character;
    let column = pen.text(top + 1, 1, &format!("U+{:04X}", c as u32), Tone::Strong);
    let what = match &row.verdict {
        _ if row.found.in_comment => "stands in a comment: nobody draws it".to_owned(),
        Verdict::There if is_private_use(c) => "is an icon, and the font has it".to_owned(),
        Verdict::There => "is in the font".to_owned(),
        Verdict::Unknown => "cannot be looked up before the font is found".to_owned(),
        Verdict::Moved(_) => "was an icon in older fonts; newer ones keep it elsewhere".to_owned(),
        Verdict::Missing(_) => {
            "is not in the font: a box, or another font's sign, is shown".to_owned()
        }
    };
    pen.cut(
        top + 1,
        column + 1,
        &what,
        pen.width().saturating_sub(column + 2),
        Tone::Text,
    );
    let place = &row.found.place;
    let path = app.survey.home.contract(&place.path);
    pen.cut(
        top + 2,
        1,
        &format!("{}:{}", visible(path.as_bytes()), place.at),
        pen.width() - 2,
        Tone::Key,
    );
    let report = app.survey.reports.iter().find(|r| r.tool == row.tool);
    let Some(file) = report.and_then(|r| r.file(&place.path)) else {
        return;
    };
    draw_excerpt(&file.bytes, &place.span, pen, top + 3);
}

fn draw_font(app: &App, pen: &mut Pen) {
    let state = app.font_state();
    let family = app.survey.doc.setup().font.family.clone();
    match (&app.font, state, family) {
        (None, ..) => {
            pen.text(0, 1, "looking for the font…", Tone::Quiet);
        }
        (Some(found), FontState::Found(coverage), _) => {
            let Some((path, face)) = &found.file else {
                return;
            };
            let names: Vec<&str> = face.families.iter().map(String::as_str).collect();
            let column = pen.text(0, 1, &names.join(", "), Tone::Strong);
            let pitch = if face.fixed_pitch {
                "fixed pitch"
            } else {
                "not fixed pitch"
            };
            let text = format!(
                "  {}, {pitch}, {} characters   {}",
                face.style,
                coverage.len(),
                app.survey.home.contract(path)
            );
            pen.cut(
                0,
                column,
                &visible(text.as_bytes()),
                pen.width().saturating_sub(column + 1),
                Tone::Quiet,
            );
        }
        (Some(found), FontState::NotFound { family, nearest }, _) => {
            let mut text = format!(
                "'{family}' is not installed ({} font files looked at): another font is shown instead.",
                found.files
            );
            if let Some(nearest) = nearest {
                text.push_str(&format!(" Did you mean '{nearest}'?"));
            }
            pen.cut(0, 1, &text, pen.width() - 2, Tone::Loud);
        }
        (Some(_), FontState::NotChosen, _) => {
            pen.cut(
                0,
                1,
                "No font is chosen: `wealdmist set font.family NAME` chooses one.",
                pen.width() - 2,
                Tone::Text,
            );
        }
    }
}

fn draw_row(app: &App, row: &GlyphRow, line: usize, pen: &mut Pen) {
    let c = row.found.character;
    // An icon is only drawn where the person says their terminal's font has it.
    let sign = if is_private_use(c) && !app.icons {
        "icon".to_owned()
    } else {
        visible_with(&c.to_string(), true)
    };
    pen.cut(line, 1, &sign, 7, Tone::Text);
    pen.text(line, 9, &format!("U+{:04X}", c as u32), Tone::Text);
    let (verdict, instead, tone) = match &row.verdict {
        Verdict::There => ("in the font", None, Tone::Good),
        Verdict::Missing(instead) => ("! missing", instead.as_ref(), Tone::Loud),
        Verdict::Moved(instead) => ("! moved in newer fonts", instead.as_ref(), Tone::Loud),
        Verdict::Unknown => ("not known", None, Tone::Quiet),
    };
    let (verdict, tone) = if row.found.in_comment {
        ("in a comment", Tone::Faint)
    } else {
        (verdict, tone)
    };
    pen.text(line, 20, verdict, tone);
    if let Some(instead) = instead.filter(|_| !row.found.in_comment) {
        let text = match instead.chars().next() {
            None => "leave it out".to_owned(),
            Some(c) if is_private_use(c) => format!("U+{:04X}", c as u32),
            Some(c) => format!("{} U+{:04X}", visible(instead.as_bytes()), c as u32),
        };
        pen.cut(line, 44, &text, 17, Tone::Text);
    }
    let path = row
        .found
        .place
        .path
        .file_name()
        .unwrap_or_default()
        .to_string_lossy()
        .into_owned();
    let place = format!(
        "{} {}:{}",
        row.tool,
        visible(path.as_bytes()),
        row.found.place.at
    );
    pen.cut(
        line,
        62,
        &place,
        pen.width().saturating_sub(63),
        Tone::Quiet,
    );
}
