//! The lines of the dotfiles in which a glyph stands, for the specimen.

use wealdmist_core::specimen::{Excerpt, Specimen};
use wealdmist_core::text::{line_range, visible, visible_with};
use wealdmist_tools::Access;

use crate::tui::derived::GlyphRow;
use crate::tui::workspace::Workspace;

/// Lines that are drawn at most.
const MOST: usize = 40;
/// Bytes of a line on each side of a glyph that are looked at: a line may be a whole file.
const AROUND: usize = 1000;

/// Every line in which the glyph of a row stands, the row's own first; behind them those of the others.
pub fn of(row: &GlyphRow, ws: &Workspace, (width, height): (usize, usize)) -> Specimen {
    let glyphs = &ws.derived.glyphs;
    let (same, others): (Vec<_>, Vec<_>) = (glyphs.iter())
        .filter(|other| other.found.place != row.found.place)
        .partition(|other| other.found.character == row.found.character);
    let excerpts: Vec<Excerpt> = std::iter::once(row)
        .chain(same)
        .chain(others)
        .take(MOST)
        .filter_map(|row| excerpt(row, ws))
        .collect();
    Specimen::of_excerpts(ws.worn_look(), width, height, &excerpts)
}

/// The line of a use. `None` where its file is not one of those that were read.
fn excerpt(row: &GlyphRow, ws: &Workspace) -> Option<Excerpt> {
    let place = &row.found.place;
    let file = (ws.survey.reports.iter()).find_map(|r| r.file(&place.path))?;
    let line = line_range(&file.bytes, place.span.start);
    let text = |span: std::ops::Range<usize>| {
        let bytes = file.bytes.get(span).unwrap_or_default();
        visible_with(&String::from_utf8_lossy(bytes), ws.display.icons)
    };
    let start = line.start.max(place.span.start.saturating_sub(AROUND));
    let end = line.end.min(place.span.end + AROUND).max(place.span.end);
    let path = ws.survey.home.contract(&place.path);
    Some(Excerpt {
        place: format!("{}:{}", visible(path.as_bytes()), place.at),
        before: text(start..place.span.start).trim_start().to_owned(),
        part: text(place.span.clone()),
        after: text(place.span.end..end).trim_end().to_owned(),
        becomes: (row.becomes.as_ref()).map(|to| visible_with(to, ws.display.icons)),
    })
}
