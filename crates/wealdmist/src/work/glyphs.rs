//! Glyphs in use, judged against the chosen font and this terminal.

use wealdmist_core::finding::SETUP_ITSELF;
use wealdmist_core::glyph::{Judged, judge, replacements, substitute_of};
use wealdmist_core::reading::{GlyphUse, ToolId};
use wealdmist_core::setup::{EditError, SetupDoc};
use wealdmist_core::terminal::TerminalRecord;
use wealdmist_draw::fonts::{Named, UsedGlyph, used_glyphs};
use wealdmist_host::{FontSearch, Survey, Terminals, find_font, own_terminal};

/// What is known of the terminal this program runs in.
pub fn own_record(survey: &Survey) -> Option<TerminalRecord> {
    let (name, version) = own_terminal();
    Terminals::open(&survey.home).find(&name, &version).cloned()
}

/// The font the setup chooses, with what is known of this terminal.
pub fn search(survey: &Survey) -> FontSearch {
    find_font(survey, own_record(survey))
}

/// Every glyph in use with its tool and what is said of it.
pub fn judged<'a>(
    survey: &'a Survey,
    found: &'a FontSearch,
    extra: &'a [GlyphUse],
) -> Vec<(ToolId, &'a GlyphUse, Judged)> {
    let setup = survey.doc.setup();
    let own = survey
        .reports
        .iter()
        .flat_map(|r| r.glyphs.iter().map(move |g| (r.tool, g)));
    let of_setup = found.report.of_setup.iter().map(|g| (SETUP_ITSELF, g));
    let used: Vec<(ToolId, &GlyphUse)> = match extra.is_empty() {
        true => own.chain(of_setup).collect(),
        false => extra.iter().map(|g| (ToolId("file"), g)).collect(),
    };
    let judge = |(tool, g): (ToolId, &'a GlyphUse)| {
        let most = setup.symbols_for(tool);
        (
            tool,
            g,
            judge(
                g,
                tool,
                found.chosen(),
                most,
                found.report.terminal.as_ref(),
            ),
        )
    };
    used.into_iter().map(judge).collect()
}

/// A setup in which another sign stands for every glyph of `rows` that is not right, and what stands
/// for what.
///
/// # Errors
/// When the setup cannot hold it.
pub fn mended<'a>(
    doc: &SetupDoc,
    chosen: &wealdmist_core::font::ChosenFont,
    rows: impl IntoIterator<Item = (ToolId, &'a GlyphUse, &'a Judged)>,
) -> Result<(SetupDoc, Vec<(String, String)>), EditError> {
    let list = replacements(doc.setup(), chosen, rows);
    let mut doc = doc.clone();
    for (cluster, text) in &list {
        doc = doc.with_replacement(cluster, Some(text))?;
    }
    Ok((doc, list))
}

/// The sheet of the glyphs in use, each once.
pub fn sheet(survey: &Survey, found: &FontSearch, rows: &[(ToolId, &GlyphUse, Judged)]) -> String {
    let setup = survey.doc.setup();
    let mut sheet: Vec<UsedGlyph> = Vec::new();
    for (tool, used, judged) in rows.iter().filter(|r| !r.1.in_comment) {
        let place = format!("{tool} {}:{}", used.place.file_name(), used.place.at);
        if let Some(known) = sheet.iter_mut().find(|g| g.character == used.character) {
            known.places.push(place);
            continue;
        }
        let covers = |c| found.chosen().is_none_or(|f| f.covers(c));
        let instead = substitute_of(&used.cluster, setup.symbols_for(*tool), covers);
        sheet.push(UsedGlyph {
            character: used.character,
            verdict: judged.verdicts[0].to_string(),
            problem: judged.is_problem(),
            instead: instead
                .filter(|_| judged.is_problem())
                .and_then(|s| s.text.chars().next()),
            places: vec![place],
        });
    }
    sheet.sort_by_key(|g| !g.problem);
    let face = found.chosen().and_then(|f| {
        let entry = found
            .catalog
            .faces
            .iter()
            .find(|e| e.path == f.path && e.info == f.info)?;
        Some((f.info.title(), wealdmist_host::open_face(entry).ok()?))
    });
    let named = face.as_ref().map(|(title, face)| Named { title, face });
    used_glyphs(&format!("{} · {}", setup.name, setup.active), named, &sheet)
}

/// The same for everything in use, for the interface.
pub fn whole_sheet(survey: &Survey) -> String {
    let found = search(survey);
    sheet(survey, &found, &judged(survey, &found, &[]))
}

/// The clusters measured: those in use.
pub fn in_use(survey: &Survey) -> Vec<String> {
    let mut all: Vec<String> = survey
        .reports
        .iter()
        .flat_map(|r| &r.glyphs)
        .map(|g| g.cluster.clone())
        .collect();
    all.sort();
    all.dedup();
    all.truncate(2_000);
    all
}
