//! What follows from the dotfiles and the draft, worked out once per change.

use wealdmist_core::condition::Conditions;
use wealdmist_core::finding::{FontState, Kind, findings};
use wealdmist_core::glyph;
use wealdmist_core::ledger::Ledger;
use wealdmist_core::look::Look;
use wealdmist_core::pair::{Pair, pairs};
use wealdmist_core::reading::{GlyphUse, ToolId};
use wealdmist_host::Survey;

/// How a character stands to the chosen font.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Verdict {
    /// The font has it.
    There,
    /// The font lacks it; what could stand for it.
    Missing(Option<String>),
    /// It lies where icons were in an older release; what could stand for it.
    Moved(Option<String>),
    /// The font is not known yet, or not found.
    Unknown,
}

/// One character in use.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct GlyphRow {
    /// The tool in whose dotfile it stands.
    pub tool: ToolId,
    /// The character and its place.
    pub found: GlyphUse,
    /// How it stands.
    pub verdict: Verdict,
}

/// What follows.
#[derive(Debug, Clone)]
pub struct Derived {
    /// The setup resolved.
    pub look: Look,
    /// The ledger.
    pub ledger: Ledger,
    /// The pairs, worst first.
    pub pairs: Vec<Pair>,
    /// Characters in use, those that are missing first.
    pub glyphs: Vec<GlyphRow>,
    /// Drift of roles the tools draw, contrast failures in the draft, missing glyphs.
    pub counts: Counts,
}

/// How much is open.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Counts {
    /// Cells that drift.
    pub drift: usize,
    /// Pairs below their target in the draft.
    pub contrast: usize,
    /// Characters the font lacks.
    pub glyphs: usize,
    /// Files that could not be read in full.
    pub unreadable: usize,
}

impl Derived {
    /// Works it out; `font` is what is known of the chosen font so far.
    pub fn new(survey: &Survey, font: Option<&FontState>, conditions: &Conditions) -> Self {
        let look = survey.look();
        let ledger = Ledger::new(survey.doc.setup(), &look, &survey.reports);
        let pairs = pairs(survey.doc.setup(), &look, &survey.reports, conditions);
        let unknown = FontState::NotChosen;
        let font = font.unwrap_or(&unknown);
        let findings = findings(&ledger, &pairs, &survey.reports, font);
        let glyphs = glyph_rows(survey, font);
        let counts = Counts {
            drift: ledger.drift_count(),
            contrast: pairs.iter().filter(|p| !p.fine()).count(),
            glyphs: findings.iter().filter(|f| f.kind == Kind::Coverage).count(),
            unreadable: findings
                .iter()
                .filter(|f| f.kind == Kind::Unreadable)
                .count(),
        };
        Self {
            look,
            ledger,
            pairs,
            glyphs,
            counts,
        }
    }
}

fn glyph_rows(survey: &Survey, font: &FontState) -> Vec<GlyphRow> {
    let verdict = |c: char| match font {
        FontState::Found(coverage) if coverage.has(c) => Verdict::There,
        FontState::Found(coverage) => {
            let instead = glyph::substitute(c, |c| coverage.has(c));
            if glyph::is_moved_range(c) {
                Verdict::Moved(instead)
            } else {
                Verdict::Missing(instead)
            }
        }
        _ => Verdict::Unknown,
    };
    let mut rows: Vec<GlyphRow> = survey
        .reports
        .iter()
        .flat_map(|r| {
            r.glyphs.iter().map(|g| GlyphRow {
                tool: r.tool,
                found: g.clone(),
                verdict: verdict(g.character),
            })
        })
        .collect();
    let rank = |row: &GlyphRow| match row.verdict {
        _ if row.found.in_comment => 3,
        Verdict::Missing(_) | Verdict::Moved(_) => 0,
        Verdict::Unknown => 1,
        Verdict::There => 2,
    };
    rows.sort_by_key(rank);
    rows
}
