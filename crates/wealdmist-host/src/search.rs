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
use wealdmist_core::font::{self, Catalog, ChosenFont, Elsewhere, Four, HostFont, Map, fit};
use wealdmist_core::pair::terminals;
use wealdmist_core::reading::{GlyphUse, ToolReport};
use wealdmist_core::terminal::TerminalRecord;
use wealdmist_core::width;
use wealdmist_tools::fonts::{FontSyntax, drawn_by_itself};
use wealdmist_tools::{adapter, misnamed};

use crate::fonts::{FontIndex, Substitutes, UnusableFont, open_face};
use crate::signs::signs_of_setup;
use crate::survey::Survey;
use crate::terminals::Terminals;

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
        hosts: Vec::new(),
    };
    let mut sources = Sources {
        survey,
        catalog,
        pictures,
        measured: Terminals::open(&survey.home),
        orders: BTreeMap::new(),
    };
    chosen.hosts = terminals(&survey.reports)
        .into_iter()
        .map(|report| in_host(report, &chosen, &used, &mut sources))
        .collect();
    FontState::Found(Box::new(chosen))
}

/// What one terminal draws beside the face.
fn in_host(
    report: Option<&ToolReport>,
    chosen: &ChosenFont,
    used: &BTreeSet<char>,
    sources: &mut Sources<'_>,
) -> HostFont {
    let syntax = report.and_then(|r| adapter(r.tool.0)?.fonts());
    let mut host = HostFont {
        host: report.map(|r| r.tool),
        counts: report
            .and_then(|r| adapter(r.tool.0)?.tables().first().map(|t| t.term.counts))
            .unwrap_or_default(),
        measured: report.and_then(|r| sources.measured.of_host(r.tool).cloned()),
        widens: syntax.is_some_and(FontSyntax::widens),
        ..HostFont::default()
    };
    if let (Some(report), Some(syntax)) = (report, syntax) {
        host.maps = maps(sources.survey, sources.catalog, report, syntax);
        let wanted = sources.survey.doc.setup().font.own_lines;
        host.self_drawn = drawn_by_itself(syntax, report, wanted);
    }
    let lacks: BTreeSet<char> = used
        .iter()
        .copied()
        .filter(|c| {
            !chosen.coverage.has(*c) && host.map(*c).is_none() && !character::is_invisible(*c)
        })
        .collect();
    host.elsewhere = sources.elsewhere(syntax, &lacks);
    host.strangers = strangers(chosen, &host, used, sources.catalog);
    host
}

/// The icons in use that come from faces with hardly any icons.
fn strangers(
    chosen: &ChosenFont,
    host: &HostFont,
    used: &BTreeSet<char>,
    catalog: &Catalog,
) -> BTreeMap<char, (usize, usize)> {
    let mut shares: BTreeMap<(PathBuf, u32), Vec<Share>> = BTreeMap::new();
    let mut out = BTreeMap::new();
    for c in used.iter().filter(|c| character::is_private_use(**c)) {
        let Some(key) = host.source(chosen, *c) else {
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

/// What a terminal's dotfiles take from other families, as the setup's fallbacks leave it.
fn maps(
    survey: &Survey,
    catalog: &Catalog,
    report: &ToolReport,
    syntax: &dyn FontSyntax,
) -> Vec<Map> {
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

/// Where characters come from that the chosen face lacks.
struct Sources<'a> {
    survey: &'a Survey,
    catalog: &'a Catalog,
    /// Those that are drawn as pictures.
    pictures: BTreeSet<char>,
    /// What was measured of terminals.
    measured: Terminals,
    /// What the system answered to each pattern; `None` where it did not.
    orders: BTreeMap<String, Option<Substitutes>>,
}

impl Sources<'_> {
    /// For each of them: the setup's own fallbacks first, then as the system offers fonts to the
    /// terminal, or by our own order where it does not answer.
    fn elsewhere(
        &mut self,
        syntax: Option<&'static dyn FontSyntax>,
        lacks: &BTreeSet<char>,
    ) -> BTreeMap<char, Elsewhere> {
        let catalog = self.catalog;
        let font = &self.survey.doc.setup().font;
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
            let of_kind: Vec<char> = rest
                .iter()
                .copied()
                .filter(|c| self.pictures.contains(c) == picture)
                .collect();
            if of_kind.is_empty() {
                continue;
            }
            let home = &self.survey.home;
            let order = syntax.map(|s| s.asks_for(family, picture)).map(|pattern| {
                let ask = |p: &String| Substitutes::ask(home, catalog, p);
                &*self.orders.entry(pattern).or_insert_with_key(ask)
            });
            for c in of_kind {
                let found = match order {
                    Some(Some(order)) => order.first(catalog, c),
                    _ => catalog.fallback(c, family),
                };
                out.extend(found.map(|entry| (c, Elsewhere::from(entry))));
            }
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::surveyed;
    use wealdmist_core::glyph::{Verdict, judge};
    use wealdmist_core::reading::ToolId;

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
            .map(|g| {
                judge(g, ToolId("zsh"), Some(chosen), level, None)
                    .worst()
                    .clone()
            })
            .collect();
        assert!(
            verdicts
                .iter()
                .any(|v| matches!(v, Verdict::Fallback(f) if f.ends_with(" NF"))),
            "{verdicts:?}"
        );
    }

    #[test]
    fn each_terminal_of_a_home_has_its_own_sources() {
        let (_dir, mut survey) = surveyed();
        with_family(&mut survey, "Reedbed Mono");
        let home = survey.home.home_path().to_owned();
        std::fs::create_dir_all(home.join(".config/foot")).unwrap();
        std::fs::write(home.join(".config/foot/foot.ini"), "font=Reedbed Mono\n").unwrap();
        std::fs::write(home.join(".zshrc"), "PS1='\u{e0b4}\u{2588} '\n").unwrap();
        survey.refresh();
        let found = find_font(&survey, None);
        let chosen = found.chosen().unwrap();
        let hosts: Vec<_> = chosen.hosts.iter().map(|h| h.host.unwrap().0).collect();
        assert!(
            hosts.contains(&"kitty") && hosts.contains(&"foot"),
            "{hosts:?}"
        );
        let zsh = survey.reports.iter().find(|r| r.tool.0 == "zsh").unwrap();
        let said = |c: char| {
            let used = zsh.glyphs.iter().find(|g| g.character == c).unwrap();
            let level = wealdmist_core::character::SymbolLevel::Icons;
            judge(used, zsh.tool, Some(chosen), level, None)
        };
        let round = said('\u{e0b4}');
        assert_eq!(round.worst_in(ToolId("kitty")), Some(&Verdict::SelfDrawn));
        assert!(
            matches!(round.worst_in(ToolId("foot")), Some(Verdict::Fallback(_))),
            "{round:?}"
        );
        // Both draw the block.
        let block = said('\u{2588}');
        for host in ["kitty", "foot"] {
            assert_eq!(block.worst_in(ToolId(host)), Some(&Verdict::SelfDrawn));
        }
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
        let elsewhere = &found.chosen().unwrap().hosts[0].elsewhere;
        assert!(!elsewhere.is_empty());
        let own = elsewhere
            .values()
            .filter(|e| families.contains(&e.family))
            .count();
        assert_eq!(own, elsewhere.len(), "{elsewhere:?}");
    }
}
