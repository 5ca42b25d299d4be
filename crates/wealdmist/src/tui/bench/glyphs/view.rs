//! The Glyphs bench: glyphs in use with their verdicts, the map of icons, and what this terminal
//! makes of glyphs.

use ratatui_core::layout::Rect;
use wealdmist_core::character::is_private_use;
use wealdmist_core::finding::FontState;
use wealdmist_core::glyph::Verdict;
use wealdmist_core::icon;
use wealdmist_core::role::Slot;
use wealdmist_core::text::{code_points, visible, visible_with};
use wealdmist_tools::Access;

use super::card::{Card, SMALL, sign, small};
use super::{Glyphs, IN_SHEET, View, map_of_icons, other_coverage, shown_in_sheet};
use crate::tui::derived::GlyphRow;
use crate::tui::instrument::Tone;
use crate::tui::view::layout::map_columns;
use crate::tui::view::{Hit, Hits, Pen, draw_excerpt, scroll};
use crate::tui::workspace::Workspace;

/// Rows taken by what is below the list.
const DETAIL: usize = 12;

/// Draws the bench.
pub fn draw(bench: &Glyphs, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    font(ws, pen);
    let (upper, lower) = parts(pen);
    match bench.view {
        View::List => list(bench, ws, &mut pen.within(upper), hits),
        View::Map => map(bench, ws, &mut pen.within(upper), hits),
        View::Terminal => terminal(bench, ws, &mut pen.within(upper), hits),
    }
    below(bench, ws, &mut pen.within(lower));
}

/// The list, and what is below it.
pub fn parts(pen: &Pen) -> (Rect, Rect) {
    let detail = if pen.height() >= 28 { DETAIL } else { 7 };
    let body = pen.height().saturating_sub(detail + 1);
    let part = |row: usize, rows: usize| Rect {
        y: pen.area.y + row as u16,
        height: (rows as u16).min(pen.area.height.saturating_sub(row as u16)),
        ..pen.area
    };
    (part(1, body), part(body + 1, detail))
}

/// The chosen font, in a line.
pub fn font(ws: &Workspace, pen: &mut Pen) {
    let Some(found) = &ws.font else {
        pen.text(0, 1, "looking for the font…", Tone::Quiet);
        return;
    };
    let level = ws.survey.doc.setup().symbols.key();
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

fn list(bench: &Glyphs, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let rows = &ws.derived.glyphs;
    if rows.is_empty() {
        pen.text(
            1,
            2,
            "Your dotfiles are plain ASCII: nothing to look up. v shows the map.",
            Tone::Text,
        );
        return;
    }
    let columns = columns(pen.width());
    let heads = ["sign", "code point", "name", "verdict", "becomes", "where"];
    for (column, name) in columns.into_iter().zip(heads) {
        if let Some(column) = column {
            pen.text(0, column, name, Tone::Quiet);
        }
    }
    let room = pen.height().saturating_sub(1);
    let cursor = bench.cursor.min(rows.len() - 1);
    let first = scroll(cursor, rows.len(), room);
    for (line, (i, row)) in rows.iter().enumerate().skip(first).take(room).enumerate() {
        list_row(ws, row, columns, line + 1, pen);
        hits.add(pen.place(line + 1, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !ws.stage.pointed {
            pen.choose_row(line + 1, 0..pen.width());
        }
    }
    sheet(bench, ws, rows.len() + 2, pen, hits);
}

/// Where the columns of the list begin: the sign, its code point, its name where there is room, the verdict,
/// what it becomes, where it stands.
fn columns(width: usize) -> [Option<usize>; 6] {
    match width >= 84 {
        true => [1, 7, 18, 38, 52, 65].map(Some),
        false => [Some(1), Some(7), None, Some(18), Some(36), Some(50)],
    }
}

/// The glyphs in use as their font draws them, where the list leaves room: from a row on.
fn sheet(bench: &Glyphs, ws: &Workspace, top: usize, pen: &mut Pen, hits: &mut Hits) {
    let (wide, high) = (SMALL.0 + 2, SMALL.1 + 1);
    let across = pen.width().saturating_sub(2) / wide;
    let down = pen.height().saturating_sub(top + 1) / high;
    if across == 0 || down == 0 || ws.chosen_font().is_none() {
        return;
    }
    let look = ws.look();
    let (text, ground) = (look.slot(Slot::Foreground), look.slot(Slot::Background));
    pen.rule(top - 1, 0..pen.width());
    pen.text(top - 1, 2, " as the font draws them ", Tone::Quiet);
    let all = ws.derived.glyphs.iter().take(IN_SHEET).enumerate();
    for (i, row) in all.take(across * down) {
        let (left, head) = (1 + i % across * wide, top + i / across * high);
        let area = Rect {
            x: pen.area.x + left as u16,
            y: pen.area.y + head as u16,
            width: SMALL.0 as u16,
            height: SMALL.1 as u16,
        };
        let mut cell = pen.within(area);
        let style = cell.instrument.paint(ground, ground);
        for line in 0..SMALL.1 {
            cell.styled(line, 0, &" ".repeat(SMALL.0), style);
        }
        if !small(&bench.large, ws, shown_in_sheet(row), &mut cell) {
            let style = cell.instrument.paint(text, ground);
            cell.styled(SMALL.1 / 2 - 1, 1, "none", style);
        }
        let is_here = i == bench.cursor && !ws.stage.pointed;
        let tone = match (is_here, row.is_open()) {
            (true, _) => Tone::Strong,
            (_, true) => Tone::Loud,
            _ => Tone::Quiet,
        };
        let code = format!("{:04X}", shown_in_sheet(row) as u32);
        pen.text(head + SMALL.1, left, &code, tone);
        if is_here {
            pen.choose_row(head + SMALL.1, left..left + SMALL.0);
        }
        for line in head..=head + SMALL.1 {
            hits.add(pen.place(line, left..left + SMALL.0), Hit::Row(i, None));
        }
    }
}

fn list_row(
    ws: &Workspace,
    row: &GlyphRow,
    columns: [Option<usize>; 6],
    line: usize,
    pen: &mut Pen,
) {
    let [_, _, name, verdict_at, becomes_at, where_at] = columns;
    let at = |column: Option<usize>| column.unwrap_or(0);
    let c = row.found.character;
    let shown = sign(ws, c, &row.found.cluster);
    pen.cut(line, 1, &shown, 5, Tone::Text);
    pen.text(line, 7, &format!("U+{:04X}", c as u32), Tone::Text);
    if let Some(column) = name {
        let known = icon::describe(c).into_iter().next().map(|found| found.name);
        pen.cut(line, column, &known.unwrap_or_default(), 19, Tone::Quiet);
    }
    let worst = row.judged.worst();
    let (verdict, tone) = match worst {
        _ if row.found.in_comment => ("in a comment".to_owned(), Tone::Faint),
        _ if row.becomes.is_some() => (worst.label().to_owned(), Tone::Quiet),
        v if v.is_problem() => (format!("! {}", v.label()), Tone::Loud),
        v if v.is_note() => (v.label().to_owned(), Tone::Text),
        Verdict::NotKnown => ("not known".to_owned(), Tone::Quiet),
        v => (v.label().to_owned(), Tone::Good),
    };
    let room = at(becomes_at) - at(verdict_at) - 1;
    pen.cut(line, at(verdict_at), &verdict, room, tone);
    let becomes = match &row.becomes {
        _ if row.found.in_comment => String::new(),
        Some(text) if text.is_empty() => "left out".to_owned(),
        Some(text) => with_points(ws, text),
        None => String::new(),
    };
    let room = at(where_at) - at(becomes_at) - 1;
    pen.cut(line, at(becomes_at), &becomes, room, Tone::Good);
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
    let room = pen.width().saturating_sub(at(where_at) + 1);
    pen.cut(line, at(where_at), &place, room, Tone::Quiet);
}

/// A text as sign and code points.
fn with_points(ws: &Workspace, text: &str) -> String {
    let points = code_points(text);
    match text.chars().next() {
        Some(c) if is_private_use(c) && !ws.display.icons => points,
        _ if text.is_ascii() => text.to_owned(),
        _ => format!("{} {points}", visible_with(text, true)),
    }
}

/// Every icon by its range: there or not; with a second font kept beside on Font, the difference.
fn map(bench: &Glyphs, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let across = map_columns(ws.size);
    let Some(font) = ws.chosen_font() else {
        pen.text(
            1,
            2,
            "There is no map before a font is chosen and found.",
            Tone::Text,
        );
        return;
    };
    let other = other_coverage(ws);
    let all = map_of_icons();
    let (at, room) = (bench.at, pen.height().saturating_sub(1));
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
            let wrong = ws
                .terminal_record()
                .is_some_and(|r| r.is_marked_wrong(c.encode_utf8(&mut [0; 4])));
            let (sign, tone) = match (ours, theirs) {
                _ if wrong => ("x", Tone::Loud),
                (true, None | Some(true)) => (there, Tone::Good),
                (true, Some(false)) => ("<", Tone::Key),
                (false, Some(true)) => (">", Tone::Loud),
                (false, _) => (gone, Tone::Quiet),
            };
            pen.text(row, 2 + column, sign, tone);
            hits.add(pen.place(row, 2 + column..3 + column), Hit::Row(i, None));
            if i == at && !ws.stage.pointed {
                pen.choose_row(row, 2 + column..3 + column);
                let style = pen
                    .instrument
                    .tone(Tone::Strong)
                    .add_modifier(ratatui_core::style::Modifier::REVERSED);
                pen.styled(row, 2 + column, sign, style);
            }
        }
    }
}

/// The widths measured on this terminal beside those expected.
fn terminal(bench: &Glyphs, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
    let Some(record) = ws.terminal_record() else {
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
    let cursor = bench.row.min(rows.len().saturating_sub(1));
    let first = scroll(cursor, rows.len(), room);
    for (line, (i, row)) in rows.iter().enumerate().skip(first).take(room).enumerate() {
        let line = line + 2;
        let c = row.cluster.chars().next().unwrap_or(' ');
        // Drawing a cluster whose width is disputed would move what stands behind it.
        let shown = if row.agrees() {
            sign(ws, c, &row.cluster)
        } else {
            "?".to_owned()
        };
        pen.cut(line, 1, &shown, 7, Tone::Text);
        pen.cut(line, 9, &code_points(&row.cluster), 30, Tone::Text);
        let tone = if row.agrees() { Tone::Good } else { Tone::Loud };
        for (column, cells) in [(40, row.terminal), (47, row.unicode), (57, row.shell)] {
            pen.text(line, column, &cells.to_string(), tone);
        }
        let marked = match &row.cluster {
            c if record.wrong.contains(c) => "marked wrong",
            c if record.right.contains(c) => "marked right",
            _ => "",
        };
        pen.text(line, 72, marked, Tone::Key);
        hits.add(pen.place(line, 0..pen.width()), Hit::Row(i, None));
        if i == cursor && !ws.stage.pointed {
            pen.choose_row(line, 0..pen.width());
        }
    }
}

/// The glyph pointed at, with what is known of it.
fn below(bench: &Glyphs, ws: &Workspace, pen: &mut Pen) {
    pen.rule(0, 0..pen.width());
    let Some(cluster) = bench.cluster_pointed(ws) else {
        return;
    };
    let listed = bench.view == View::List;
    // What the font lacks cannot be drawn from it: what would stand for it is.
    let instead = bench.substitute_pointed(ws).filter(|_| listed);
    let card = Card::draw(&cluster, instead, &bench.large, ws, pen);
    match bench.glyph_row(ws).filter(|_| listed) {
        Some(used) => {
            let row = of_use(ws, used, pen, card.row, card.left, card.room);
            offers(bench, ws, pen, row, card.left, card.room);
        }
        None => card.metrics(bench.view == View::Terminal, ws, pen),
    }
}

/// What is said of a glyph in use, and the line it stands on.
fn of_use(
    ws: &Workspace,
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
    let path = ws.survey.home.contract(&place.path);
    pen.cut(
        row,
        left,
        &format!("{}:{}", visible(path.as_bytes()), place.at),
        room,
        Tone::Key,
    );
    row += 1;
    let report = ws.survey.reports.iter().find(|r| r.tool == used.tool);
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
fn offers(bench: &Glyphs, ws: &Workspace, pen: &mut Pen, row: usize, left: usize, room: usize) {
    let offered = bench.offered(ws);
    if offered.is_empty() || row >= pen.height() {
        return;
    }
    let choice = bench.choice.min(offered.len() - 1);
    let shown = &offered[choice];
    let text = match shown.text.is_empty() {
        true => "nothing".to_owned(),
        false => with_points(ws, &shown.text),
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
