//! The Glyphs bench: glyphs in use with their verdicts, the map of icons, what this terminal makes
//! of glyphs, and the answers of a search.

use ratatui::layout::Rect;
use wealdmist_core::finding::FontState;
use wealdmist_core::font::picture::{Means, draw as draw_raster};
use wealdmist_core::glyph::{Verdict, is_private_use};
use wealdmist_core::icon::{self, State};
use wealdmist_core::text::{visible, visible_with};
use wealdmist_tools::Access;

use super::fonts::paint;
use super::layout::{map_columns, scroll};
use super::pen::{Pen, draw_excerpt};
use super::{Hit, Hits};
use crate::tui::app::glyphs::{MARGIN, Search};
use crate::tui::app::{App, GlyphRow, GlyphView};
use crate::tui::instrument::Tone;

/// Rows taken by what is below the list, and the columns of the drawing there.
const DETAIL: usize = 12;
/// The columns of a glyph drawn large.
const LARGE: usize = 22;

/// Draws the bench.
pub fn draw(app: &App, pen: &mut Pen, hits: &mut Hits) {
    font(app, pen);
    let detail = if pen.height() >= 28 { DETAIL } else { 7 };
    let body = pen.height().saturating_sub(detail + 1);
    let part = |pen: &Pen, row: usize, rows: usize| Rect {
        y: pen.area.y + row as u16,
        height: (rows as u16).min(pen.area.height.saturating_sub(row as u16)),
        ..pen.area
    };
    let (upper, lower) = (part(pen, 1, body), part(pen, body + 1, detail));
    if let Some(search) = &app.glyphs.search {
        answers(app, search, &mut pen.within(upper), hits);
    } else {
        match app.glyphs.view {
            GlyphView::List => list(app, &mut pen.within(upper), hits),
            GlyphView::Map => map(app, &mut pen.within(upper), hits),
            GlyphView::Terminal => terminal(app, &mut pen.within(upper), hits),
        }
    }
    below(app, &mut pen.within(lower));
}

fn font(app: &App, pen: &mut Pen) {
    let Some(found) = &app.font else {
        pen.text(0, 1, "looking for the font…", Tone::Quiet);
        return;
    };
    let level = app.survey.doc.setup().symbols.key();
    match &found.report.state {
        FontState::Found(font) => {
            let column = pen.text(0, 1, &font.info.title(), Tone::Strong);
            let pitch = if font.info.measured_fixed {
                "one width"
            } else {
                "widths differ"
            };
            let text = format!(
                "  {pitch}, {} characters   symbol level {level}",
                font.coverage.len()
            );
            pen.cut(
                0,
                column,
                &visible(text.as_bytes()),
                pen.width().saturating_sub(column + 1),
                Tone::Quiet,
            );
        }
        FontState::NotFound { family, nearest } => {
            let near = nearest
                .as_ref()
                .map_or(String::new(), |n| format!(" Did you mean '{n}'?"));
            let text = format!(
                "'{family}' is not installed ({} files looked at): another font is shown instead.{near}",
                found.files
            );
            pen.cut(0, 1, &text, pen.width() - 2, Tone::Loud);
        }
        FontState::NotChosen => {
            pen.cut(
                0,
                1,
                "No font is chosen: 4 goes to Font, Enter there chooses one.",
                pen.width() - 2,
                Tone::Text,
            );
        }
    }
}

fn list(app: &App, pen: &mut Pen, hits: &mut Hits) {
    let rows = &app.derived.glyphs;
    if rows.is_empty() {
        pen.text(
            1,
            2,
            "Your dotfiles are plain ASCII: nothing to look up. v shows the map.",
            Tone::Text,
        );
        return;
    }
    for (column, name) in [
        (1, "sign"),
        (7, "code point"),
        (18, "verdict"),
        (36, "becomes"),
        (50, "where"),
    ] {
        pen.text(0, column, name, Tone::Quiet);
    }
    let room = pen.height().saturating_sub(1);
    let cursor = app.glyph.min(rows.len() - 1);
    let first = scroll(cursor, rows.len(), room);
    for (line, (i, row)) in rows.iter().enumerate().skip(first).take(room).enumerate() {
        list_row(app, row, line + 1, pen);
        hits.add(pen.place(line + 1, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !app.on_specimen {
            pen.choose_row(line + 1, 0..pen.width());
        }
    }
}

/// A character as it may be shown: an icon only where the person says the terminal has it.
fn sign(app: &App, c: char, cluster: &str) -> String {
    match is_private_use(c) && !app.icons {
        true => "icon".to_owned(),
        false => visible_with(cluster, true),
    }
}

fn list_row(app: &App, row: &GlyphRow, line: usize, pen: &mut Pen) {
    let c = row.found.character;
    pen.cut(line, 1, &sign(app, c, &row.found.cluster), 5, Tone::Text);
    pen.text(line, 7, &format!("U+{:04X}", c as u32), Tone::Text);
    let worst = row.judged.worst();
    let (verdict, tone) = match worst {
        _ if row.found.in_comment => ("in a comment".to_owned(), Tone::Faint),
        _ if row.becomes.is_some() => (worst.label().to_owned(), Tone::Quiet),
        v if v.is_problem() => (format!("! {}", v.label()), Tone::Loud),
        v if v.is_note() => (v.label().to_owned(), Tone::Text),
        Verdict::NotKnown => ("not known".to_owned(), Tone::Quiet),
        v => (v.label().to_owned(), Tone::Good),
    };
    pen.cut(line, 18, &verdict, 17, tone);
    let becomes = match &row.becomes {
        _ if row.found.in_comment => String::new(),
        Some(text) if text.is_empty() => "left out".to_owned(),
        Some(text) => code_points(app, text),
        None => String::new(),
    };
    pen.cut(line, 36, &becomes, 13, Tone::Good);
    let escaped = if row.found.escape.is_some() {
        " (escape)"
    } else {
        ""
    };
    let place = format!(
        "{} {}:{}{escaped}",
        row.tool,
        row.found.place.file_name(),
        row.found.place.at
    );
    pen.cut(
        line,
        50,
        &place,
        pen.width().saturating_sub(51),
        Tone::Quiet,
    );
}

/// A text as sign and code points.
fn code_points(app: &App, text: &str) -> String {
    let points: Vec<String> = text
        .chars()
        .map(|c| format!("U+{:04X}", c as u32))
        .collect();
    match text.chars().next() {
        Some(c) if is_private_use(c) && !app.icons => points.join(" "),
        _ if text.is_ascii() => text.to_owned(),
        _ => format!("{} {}", visible_with(text, true), points.join(" ")),
    }
}

/// Every icon by its range: there or not; with a second font kept beside on Font, the difference.
fn map(app: &App, pen: &mut Pen, hits: &mut Hits) {
    let across = map_columns(app.size);
    let Some(font) = app.chosen_font() else {
        pen.text(
            1,
            2,
            "There is no map before a font is chosen and found.",
            Tone::Text,
        );
        return;
    };
    let other = app.other_coverage();
    let all = App::map();
    let (at, room) = (app.glyphs.at, pen.height().saturating_sub(1));
    let (there, gone) = if pen.instrument.unicode {
        ("■", "·")
    } else {
        ("#", ".")
    };
    // The rows of the whole map: a heading for each range, then its icons.
    let mut rows: Vec<(Option<String>, std::ops::Range<usize>)> = Vec::new();
    let mut start = 0;
    for range in icon::RANGES {
        let end = start
            + all[start..]
                .iter()
                .take_while(|c| range.codes.contains(&(**c as u32)))
                .count();
        // Signs of Unicode among the icons of a set belong to no range.
        let has = all[start..end]
            .iter()
            .filter(|c| font.coverage.has(**c))
            .count();
        rows.push((
            Some(format!(
                "{}  U+{:04X}  {has} of {}",
                range.name,
                range.codes.start(),
                end - start
            )),
            start..start,
        ));
        let mut from = start;
        while from < end {
            let to = (from + across).min(end);
            rows.push((None, from..to));
            from = to;
        }
        start = end;
        while start < all.len() && icon::range_of(all[start]).is_none() {
            start += 1;
        }
    }
    let here = rows.iter().position(|(_, r)| r.contains(&at)).unwrap_or(0);
    let legend = match other {
        Some((name, _)) => format!(
            "{there} both   < only {}   > only {}   {gone} neither",
            font.info.family(),
            visible(name.as_bytes())
        ),
        None => format!(
            "{there} there   {gone} not   x marked wrong   (Space on Font keeps a second one)"
        ),
    };
    pen.cut(0, 1, &legend, pen.width() - 2, Tone::Quiet);
    let first = scroll(here, rows.len(), room);
    for (line, (head, codes)) in rows.iter().skip(first).take(room).enumerate() {
        let row = line + 1;
        if let Some(head) = head {
            pen.cut(row, 1, head, pen.width() - 2, Tone::Strong);
            continue;
        }
        for (column, i) in codes.clone().enumerate() {
            let c = all[i];
            let ours = font.coverage.has(c);
            let theirs = other.map(|(_, o)| o.has(c));
            let wrong = app.terminal_record().is_some_and(|r| r.is_marked_wrong(c));
            let (sign, tone) = match (ours, theirs) {
                _ if wrong => ("x", Tone::Loud),
                (true, None | Some(true)) => (there, Tone::Good),
                (true, Some(false)) => ("<", Tone::Key),
                (false, Some(true)) => (">", Tone::Loud),
                (false, _) => (gone, Tone::Quiet),
            };
            pen.text(row, 2 + column, sign, tone);
            hits.add(pen.place(row, 2 + column..3 + column), Hit::Row(i, None));
            if i == at && !app.on_specimen {
                pen.choose_row(row, 2 + column..3 + column);
                let style = pen
                    .instrument
                    .tone(Tone::Strong)
                    .add_modifier(ratatui::style::Modifier::REVERSED);
                pen.styled(row, 2 + column, sign, style);
            }
        }
    }
}

/// The widths measured on this terminal beside those expected.
fn terminal(app: &App, pen: &mut Pen, hits: &mut Hits) {
    let Some(record) = app.terminal_record() else {
        let text = "Nothing is known of this terminal yet. w measures it: each glyph in use is printed and the \
                    terminal is asked where its cursor is. x marks a glyph that you see drawn wrongly.";
        let room = (
            pen.width().saturating_sub(3),
            pen.height().saturating_sub(1),
        );
        pen.paragraph(1, 2, text, room, Tone::Text);
        return;
    };
    let name = format!("{} {}", record.name, record.version);
    let level = record
        .proposed_level()
        .map_or(String::new(), |(level, reason)| {
            format!(
                "symbol level proposed: {}; g takes it ({reason})",
                level.key()
            )
        });
    pen.cut(0, 1, &visible(name.as_bytes()), 30, Tone::Strong);
    pen.cut(0, 24, &level, pen.width().saturating_sub(25), Tone::Key);
    for (column, name) in [
        (1, "sign"),
        (9, "code points"),
        (40, "here"),
        (47, "Unicode"),
        (57, "shells add up"),
    ] {
        pen.text(1, column, name, Tone::Quiet);
    }
    let rows = record.rows();
    let room = pen.height().saturating_sub(2);
    let cursor = app.glyphs.row.min(rows.len().saturating_sub(1));
    let first = scroll(cursor, rows.len(), room);
    for (line, (i, row)) in rows.iter().enumerate().skip(first).take(room).enumerate() {
        let line = line + 2;
        let c = row.cluster.chars().next().unwrap_or(' ');
        // Drawing a cluster whose width is disputed would move what stands behind it.
        let shown = if row.agrees() {
            sign(app, c, &row.cluster)
        } else {
            "?".to_owned()
        };
        pen.cut(line, 1, &shown, 7, Tone::Text);
        let points: Vec<String> = row
            .cluster
            .chars()
            .map(|c| format!("U+{:04X}", c as u32))
            .collect();
        pen.cut(line, 9, &points.join(" "), 30, Tone::Text);
        let tone = if row.agrees() { Tone::Good } else { Tone::Loud };
        for (column, cells) in [(40, row.terminal), (47, row.unicode), (57, row.shell)] {
            pen.text(line, column, &cells.to_string(), tone);
        }
        let marked = match c {
            c if record.wrong.contains(&c) => "marked wrong",
            c if record.right.contains(&c) => "marked right",
            _ => "",
        };
        pen.text(line, 72, marked, Tone::Key);
        hits.add(pen.place(line, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !app.on_specimen {
            pen.choose_row(line, 0..pen.width());
        }
    }
}

/// What a search came to.
fn answers(app: &App, search: &Search, pen: &mut Pen, hits: &mut Hits) {
    if search.found.is_empty() {
        let text = format!(
            "Nothing answers to '{}'. Search by words of a name, by meaning, or by code point.",
            visible(search.query.as_bytes())
        );
        pen.cut(1, 2, &text, pen.width() - 3, Tone::Text);
        return;
    }
    pen.cut(
        0,
        1,
        &format!(
            "{} answers to '{}'",
            search.found.len(),
            visible(search.query.as_bytes())
        ),
        pen.width() - 2,
        Tone::Quiet,
    );
    let room = pen.height().saturating_sub(1);
    let first = scroll(search.cursor, search.found.len(), room);
    for (line, (i, found)) in search
        .found
        .iter()
        .enumerate()
        .skip(first)
        .take(room)
        .enumerate()
    {
        let line = line + 1;
        pen.cut(
            line,
            1,
            &sign(app, found.code, &found.code.to_string()),
            5,
            Tone::Text,
        );
        pen.text(line, 7, &format!("U+{:04X}", found.code as u32), Tone::Text);
        let state = match found.state {
            State::Present => String::new(),
            State::Moved(to) => format!(", now at U+{:04X}", to as u32),
            State::Gone => ", gone".to_owned(),
        };
        pen.cut(line, 17, &format!("{}{state}", found.name), 46, Tone::Text);
        let (word, tone) = match app.chosen_font() {
            Some(font) if font.covers(found.code) => ("in the font", Tone::Good),
            Some(_) => ("not in the font", Tone::Loud),
            None => ("", Tone::Quiet),
        };
        pen.text(line, 64, word, tone);
        hits.add(pen.place(line, 0..pen.width()), Hit::Row(i, None));
        if i == search.cursor && !app.on_specimen {
            pen.choose_row(line, 0..pen.width());
        }
    }
}

/// The glyph pointed at: drawn large on its cell, with what is known of it.
fn below(app: &App, pen: &mut Pen) {
    pen.rule(0, 0..pen.width());
    let Some(c) = app.glyph_pointed() else { return };
    // What the font lacks cannot be drawn from it: what would stand for it is.
    let instead = || {
        app.substitute_pointed()
            .filter(|_| app.glyphs.view == GlyphView::List)
    };
    let drawn = large(app, c, pen) || instead().is_some_and(|s| large(app, s, pen));
    let left = if drawn { LARGE + 2 } else { 1 };
    let room = pen.width().saturating_sub(left + 1);
    let mut row = 1;
    let column = pen.text(row, left, &format!("U+{:04X}", c as u32), Tone::Strong);
    let names: Vec<String> = icon::describe(c)
        .into_iter()
        .map(|f| match f.state {
            State::Present => f.name,
            State::Moved(to) => format!("formerly {}, now U+{:04X}", f.name, to as u32),
            State::Gone => format!("formerly {}, gone", f.name),
        })
        .collect();
    let name = if names.is_empty() {
        "no name is known".to_owned()
    } else {
        names.join("; ")
    };
    pen.cut(
        row,
        column + 2,
        &name,
        room.saturating_sub(column + 2 - left),
        Tone::Text,
    );
    row += 1;
    let in_use = app.glyphs.search.is_none() && app.glyphs.view == GlyphView::List;
    if let Some(used) = app.glyph_row().filter(|_| in_use) {
        row = of_use(app, used, pen, row, left, room);
        offers(app, pen, row, left, room);
    } else {
        metrics(app, c, pen, (row, left, room), drawn);
    }
}

/// What is said of a glyph in use, and the line it stands on.
fn of_use(
    app: &App,
    used: &GlyphRow,
    pen: &mut Pen,
    mut row: usize,
    left: usize,
    room: usize,
) -> usize {
    let told: Vec<String> = match used.found.in_comment {
        true => vec!["stands in a comment: nobody draws it".to_owned()],
        false => used
            .judged
            .verdicts
            .iter()
            .map(ToString::to_string)
            .chain(used.judged.note.clone())
            .collect(),
    };
    // Place, excerpt and offer keep their rows.
    let last = pen.height().saturating_sub(3);
    for line in told {
        let tone = if used.is_open() && row == 2 {
            Tone::Loud
        } else {
            Tone::Text
        };
        let rows = last.saturating_sub(row).min(3);
        row += pen.paragraph(row, left, &line, (room, rows), tone);
    }
    let place = &used.found.place;
    let path = app.survey.home.contract(&place.path);
    pen.cut(
        row,
        left,
        &format!("{}:{}", visible(path.as_bytes()), place.at),
        room,
        Tone::Key,
    );
    row += 1;
    let report = app.survey.reports.iter().find(|r| r.tool == used.tool);
    if let Some(file) = report.and_then(|r| r.file(&place.path)) {
        let area = Rect {
            x: pen.area.x + left as u16,
            width: room as u16,
            ..pen.area
        };
        draw_excerpt(&file.bytes, &place.span, &mut pen.within(area), row);
        row += 1;
    }
    row
}

/// What could stand for it, the offered one marked.
fn offers(app: &App, pen: &mut Pen, row: usize, left: usize, room: usize) {
    let offered = app.offered();
    if offered.is_empty() || row >= pen.height() {
        return;
    }
    let choice = app.glyphs.choice.min(offered.len() - 1);
    let shown = &offered[choice];
    let text = match shown.text.is_empty() {
        true => "nothing".to_owned(),
        false => code_points(app, &shown.text),
    };
    let name = shown
        .text
        .chars()
        .next()
        .filter(|_| !shown.text.is_ascii())
        .and_then(icon::name)
        .unwrap_or_default();
    let line = format!(
        "instead, {} of {}: {text}  {name} ({})",
        choice + 1,
        offered.len(),
        shown.kind.label()
    );
    let rows = pen.height() - row;
    pen.paragraph(row, left, &line, (room, rows), Tone::Good);
}

/// How the ink of a glyph lies on its cell.
fn metrics(
    app: &App,
    c: char,
    pen: &mut Pen,
    (row, left, room): (usize, usize, usize),
    drawn: bool,
) {
    let Some(font) = app.chosen_font() else {
        return;
    };
    let has = match (font.coverage.has(c), font.is_self_drawn(c)) {
        (_, true) => "drawn by the terminal itself",
        _ if font.map(c).is_some() => "taken from another family, as the dotfiles say",
        (true, _) => "in the chosen font",
        _ => "not in the chosen font",
    };
    pen.cut(row, left, has, room, Tone::Text);
    if let Some(ink) = font.inks.get(&c) {
        let percent = |v: f32| (v * 100.0).round();
        let text = format!(
            "ink from {} to {} % across its cell, {} to {} % up the line; advance {} %",
            percent(ink.left),
            percent(ink.right),
            percent(ink.bottom),
            percent(ink.top),
            percent(ink.advance)
        );
        pen.cut(row + 1, left, &text, room, Tone::Text);
    }
    if let Some(range) = icon::range_of(c) {
        pen.cut(
            row + 2,
            left,
            &format!("range {}", range.name),
            room,
            Tone::Quiet,
        );
    }
    if app.icons || !is_private_use(c) || app.glyphs.view == GlyphView::Terminal {
        let text = match drawn {
            true => format!(
                "this terminal draws it so: {c}   beside it, what it should be; x marks a difference"
            ),
            false => format!("this terminal draws it so: {c}   x marks it where that is wrong"),
        };
        let rows = pen.height().saturating_sub(row + 3);
        pen.paragraph(row + 3, left, &text, (room, rows), Tone::Text);
    } else {
        pen.cut(
            row + 3,
            left,
            "start with --icons to see this terminal's own drawing of icons here",
            room,
            Tone::Quiet,
        );
    }
}

/// The glyph drawn large from the chosen font; whether there was one to draw. Its cell is lighter
/// than what is outside, and ticks mark baseline, top and bottom of the line.
fn large(app: &App, c: char, pen: &mut Pen) -> bool {
    let Some(raster) = app.large_glyph(c) else {
        return false;
    };
    // Shades tell best where ink leaves its cell.
    let shades = app.fonts.all_means.contains(&Means::Quadrants);
    let means = if shades {
        Means::Quadrants
    } else {
        app.fonts.all_means.first().copied().unwrap_or(Means::Ascii)
    };
    let cells = draw_raster(raster, means);
    let height = pen.height().saturating_sub(1);
    let (step, rows) = (means.pixels(), cells.len());
    let skip = rows.saturating_sub(height) / 2;
    let shown: Vec<_> = cells
        .into_iter()
        .skip(skip)
        .take(height)
        .map(|r| r.into_iter().take(LARGE).collect::<Vec<_>>())
        .collect();
    let area = Rect {
        y: pen.area.y + 1,
        height: shown.len() as u16,
        width: LARGE as u16 + 1,
        ..pen.area
    };
    paint(app, &mut pen.within(area), &shown, means);
    // The edges of the cell, in columns of the drawing.
    let cell = raster.width as f32 / (1.0 + 2.0 * MARGIN);
    let edge = |pixel: f32| (pixel / step.0 as f32).round() as usize;
    let (from, to) = (edge(cell * MARGIN), edge(cell * (1.0 + MARGIN)));
    let mark = if pen.instrument.unicode { "▏" } else { "|" };
    for (row, cells) in shown.iter().enumerate() {
        if means == Means::Quadrants {
            for outside in [0..from, to..LARGE.min(cells.len())] {
                pen.restyle(row + 1, outside, |s| {
                    s.add_modifier(ratatui::style::Modifier::DIM)
                });
            }
        }
        for column in [from.saturating_sub(1), to] {
            let blank =
                |s: &wealdmist_core::font::picture::Shaded| s.character == ' ' && s.ground < 40;
            if column < LARGE && cells.get(column).is_some_and(blank) {
                pen.text(row + 1, column, mark, Tone::Faint);
            }
        }
    }
    true
}
