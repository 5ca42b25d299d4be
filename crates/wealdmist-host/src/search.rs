//! What the setup's choice of a font comes to on this machine, with everything the dotfiles need of it.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::RangeInclusive;
use std::path::PathBuf;
use std::sync::Arc;

use tracing::info;
use wealdmist_core::character;
use wealdmist_core::finding::{FontReport, FontState};
use wealdmist_core::font::catalog::NameIs;
use wealdmist_core::font::coverage::{Share, by_icon_range};
use wealdmist_core::font::{self, Catalog, ChosenFont, Elsewhere, Four, Map, fit};
use wealdmist_core::reading::{GlyphUse, ToolReport};
use wealdmist_core::terminal::TerminalRecord;
use wealdmist_core::width;
use wealdmist_tools::fonts::FontSyntax;
use wealdmist_tools::{adapters, misnamed};

use crate::fonts::{FontIndex, Substitutes, UnusableFont, open_face};
use crate::signs::signs_of_setup;
use crate::survey::Survey;

/// The outcome of a search.
#[derive(Debug, Clone, PartialEq)]
pub struct FontSearch {
    /// What findings need to know.
    pub report: FontReport,
    /// Every installed face.
    pub catalog: Arc<Catalog>,
    /// Font files that cannot be used.
    pub unusable: Vec<UnusableFont>,
    /// How many font files there are.
    pub files: usize,
}

impl FontSearch {
    /// The face, where one was found.
    #[must_use]
    pub fn chosen(&self) -> Option<&ChosenFont> {
        self.report.state.chosen()
    }
}

/// Looks for what the setup chooses, reads its characters and the ink of those in use, and checks
/// the names the dotfiles have.
#[must_use]
pub fn find_font(survey: &Survey, terminal: Option<TerminalRecord>) -> FontSearch {
    let index = FontIndex::open(&survey.home);
    let catalog = Arc::new(index.catalog());
    let of_setup = signs_of_setup(survey);
    let report = FontReport {
        state: state(survey, &catalog, &of_setup),
        names: misnamed(&survey.reports, &catalog),
        terminal,
        of_setup,
    };
    info!(
        faces = catalog.faces.len(),
        files = index.file_count(),
        misnamed = report.names.len(),
        "fonts looked for"
    );
    FontSearch {
        report,
        catalog,
        unusable: index.unusable(),
        files: index.file_count(),
    }
}

fn state(survey: &Survey, catalog: &Catalog, of_setup: &[GlyphUse]) -> FontState {
    let setup = survey.doc.setup();
    let Some(family) = setup.font.family.as_deref() else {
        return FontState::NotChosen;
    };
    let missing = || FontState::NotFound {
        family: family.to_owned(),
        nearest: catalog.nearest(family).map(str::to_owned),
    };
    let Some((entry, is)) = catalog.find(family) else {
        return missing();
    };
    let regular = match is {
        NameIs::Family => catalog.four(family).face(Four::Regular).unwrap_or(entry),
        _ => entry,
    };
    let Ok(face) = open_face(regular) else {
        return missing();
    };
    let used: BTreeSet<char> = survey
        .reports
        .iter()
        .flat_map(|r| &r.glyphs)
        .chain(of_setup)
        .flat_map(|g| g.cluster.chars().chain(g.after))
        .collect();
    let cell = face.cell();
    let syntax = terminal(&survey.reports).map(|t| t.1);
    let maps = maps(survey, catalog);
    let is_mapped = |c: char| maps.iter().any(|m| m.codes.contains(&(c as u32)));
    let lacks: BTreeSet<char> = used
        .iter()
        .copied()
        .filter(|c| !regular.coverage.has(*c) && !is_mapped(*c) && !character::is_invisible(*c))
        .collect();
    let pictures: BTreeSet<char> = survey
        .reports
        .iter()
        .flat_map(|r| &r.glyphs)
        .chain(of_setup)
        .filter(|g| width::is_emoji_presentation(&g.cluster))
        .map(|g| g.character)
        .collect();
    let mut chosen = ChosenFont {
        path: regular.path.clone(),
        info: regular.info.clone(),
        cell,
        inks: fit::inks(&face, &cell, used.iter().copied()),
        coverage: regular.coverage.as_ref().clone(),
        elsewhere: elsewhere(survey, catalog, &lacks, &pictures),
        strangers: BTreeMap::new(),
        self_drawn: syntax.map(FontSyntax::self_drawn).unwrap_or_default(),
        maps,
        widens: syntax.is_some_and(FontSyntax::widens),
    };
    chosen.strangers = strangers(&chosen, &used, catalog);
    FontState::Found(Box::new(chosen))
}

/// The icons in use that come from faces with hardly any icons.
fn strangers(
    chosen: &ChosenFont,
    used: &BTreeSet<char>,
    catalog: &Catalog,
) -> BTreeMap<char, (usize, usize)> {
    let mut shares: BTreeMap<(PathBuf, u32), Vec<Share>> = BTreeMap::new();
    let mut out = BTreeMap::new();
    for c in used.iter().filter(|c| character::is_private_use(**c)) {
        let Some(key) = chosen.source(*c) else {
            continue;
        };
        let of_face = shares.entry(key).or_insert_with_key(|key| {
            let face = catalog.faces.iter().find(|e| e.key() == *key);
            face.map_or_else(Vec::new, |e| by_icon_range(&e.coverage))
        });
        out.extend(font::few_icons(*c, of_face).map(|few| (*c, few)));
    }
    out
}

/// What the terminal's dotfiles take from other families, as the setup's fallbacks leave it.
fn maps(survey: &Survey, catalog: &Catalog) -> Vec<Map> {
    let Some((report, syntax)) = terminal(&survey.reports) else {
        return Vec::new();
    };
    let wanted = &survey.doc.setup().font.fallback;
    let map = |(codes, written): (RangeInclusive<u32>, String)| {
        let stays = wanted.is_empty() || wanted.iter().any(|f| f.eq_ignore_ascii_case(&written));
        let family = if stays { written } else { wanted[0].clone() };
        let face = catalog.find(&family).map(|(entry, _)| entry.clone());
        Map {
            codes,
            family,
            face,
        }
    };
    syntax.maps(report).into_iter().map(map).collect()
}

/// Where the characters come from that the chosen face lacks: the setup's own fallbacks first, then
/// as the system offers fonts to the terminal, or by our own order where it does not answer.
fn elsewhere(
    survey: &Survey,
    catalog: &Catalog,
    lacks: &BTreeSet<char>,
    pictures: &BTreeSet<char>,
) -> BTreeMap<char, Elsewhere> {
    let font = &survey.doc.setup().font;
    let family = font.family.as_deref().unwrap_or_default();
    let mut out = BTreeMap::new();
    for c in lacks {
        let own = font.fallback.iter().flat_map(|f| catalog.of_family(f));
        if let Some(entry) = own.into_iter().find(|e| e.coverage.has(*c)) {
            out.insert(*c, Elsewhere::from(entry));
        }
    }
    // Nobody need be asked for what no font has.
    let any = |c: char| catalog.faces.iter().any(|e| e.coverage.has(c));
    let rest: Vec<char> = lacks
        .iter()
        .copied()
        .filter(|c| !out.contains_key(c) && any(*c))
        .collect();
    for picture in [false, true] {
        let mut of_kind = rest
            .iter()
            .filter(|c| pictures.contains(c) == picture)
            .peekable();
        if of_kind.peek().is_none() {
            continue;
        }
        let pattern = terminal(&survey.reports).map(|(_, s)| s.asks_for(family, picture));
        let order = pattern.and_then(|p| Substitutes::ask(&survey.home, catalog, &p));
        for c in of_kind {
            let found = match &order {
                Some(order) => order.first(catalog, *c),
                None => catalog.fallback(*c, family),
            };
            out.extend(found.map(|entry| (*c, Elsewhere::from(entry))));
        }
    }
    out
}

/// The terminal among the tools, and how it takes fonts.
fn terminal(reports: &[ToolReport]) -> Option<(&ToolReport, &'static dyn FontSyntax)> {
    let used = |id| reports.iter().find(|r| r.tool == id && !r.files.is_empty());
    let mut terminals = adapters().into_iter().filter(|a| a.kind() == "terminal");
    terminals.find_map(|a| Some((used(a.id())?, a.fonts()?)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::surveyed;
    use wealdmist_core::glyph::{Verdict, judge};

    fn with_family(survey: &mut Survey, family: &str) {
        survey.doc = survey.doc.with_text(&["font", "family"], family).unwrap();
    }

    #[test]
    fn the_choice_is_looked_up_with_everything_in_use() {
        let (_dir, mut survey) = surveyed();
        with_family(&mut survey, "Reedbed Mono");
        let found = find_font(&survey, None);
        let chosen = found.chosen().unwrap();
        assert_eq!(chosen.info.family(), "Reedbed Mono");
        let private: Vec<&GlyphUse> = survey
            .reports
            .iter()
            .flat_map(|r| &r.glyphs)
            .filter(|g| character::is_private_use(g.character) && !g.in_comment)
            .collect();
        assert!(!private.is_empty());
        let level = wealdmist_core::character::SymbolLevel::Icons;
        let verdicts: Vec<Verdict> = private
            .iter()
            .map(|g| judge(g, Some(chosen), level, None).worst().clone())
            .collect();
        assert!(
            verdicts
                .iter()
                .any(|v| matches!(v, Verdict::Fallback(f) if f.ends_with(" NF"))),
            "{verdicts:?}"
        );
    }

    #[test]
    fn a_near_name_is_offered_for_one_that_is_not_there() {
        let (_dir, mut survey) = surveyed();
        with_family(&mut survey, "ReedbedMono NF");
        let state = find_font(&survey, None).report.state;
        let expected = FontState::NotFound {
            family: "ReedbedMono NF".into(),
            nearest: Some("Reedbed Mono NF".into()),
        };
        assert_eq!(state, expected);
    }

    #[test]
    fn fallbacks_of_the_setup_come_before_whatever_else_is_installed() {
        let (_dir, mut survey) = surveyed();
        with_family(&mut survey, "Reedbed Mono");
        let families = ["Sedge Mono NF".to_owned(), "Cordgrass NF".to_owned()];
        survey.doc = survey.doc.with_fallback(&families).unwrap();
        let found = find_font(&survey, None);
        let elsewhere = &found.chosen().unwrap().elsewhere;
        assert!(!elsewhere.is_empty());
        let own = elsewhere
            .values()
            .filter(|e| families.contains(&e.family))
            .count();
        assert_eq!(own, elsewhere.len(), "{elsewhere:?}");
    }
}
