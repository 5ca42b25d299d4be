//! What follows from the dotfiles and the draft, worked out once per change.

use wealdmist_core::condition::Conditions;
use wealdmist_core::finding::{FontReport, Kind, SETUP_ITSELF, findings};
use wealdmist_core::glyph::{Judged, judge, replacement_of};
use wealdmist_core::ledger::Ledger;
use wealdmist_core::look::Look;
use wealdmist_core::pair::Pair;
use wealdmist_core::reading::{GlyphUse, ToolId};
use wealdmist_host::Survey;

/// One glyph in use.
#[derive(Debug, Clone, PartialEq)]
pub struct GlyphRow {
    /// The tool in whose dotfile it stands.
    pub tool: ToolId,
    /// The glyph and its place.
    pub found: GlyphUse,
    /// What is said of it.
    pub judged: Judged,
    /// What the draft writes instead, if anything.
    pub becomes: Option<String>,
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
    /// Glyphs that are not right and stay as they are.
    pub glyphs: usize,
    /// Font names in dotfiles that select something else.
    pub fonts: usize,
    /// Files that could not be read in full.
    pub unreadable: usize,
}

impl Derived {
    /// Works it out; `font` is what is known of the chosen font so far.
    pub fn new(survey: &Survey, font: Option<&FontReport>, conditions: &Conditions) -> Self {
        let look = survey.look();
        let ledger = Ledger::new(survey.doc.setup(), &look, &survey.reports);
        let pairs = survey.pairs(conditions);
        let unknown = FontReport::default();
        let font = font.unwrap_or(&unknown);
        let findings = findings(survey.doc.setup(), &ledger, &pairs, &survey.reports, font);
        let glyphs = glyph_rows(survey, font);
        let counts = Counts {
            drift: ledger.drift_count(),
            contrast: pairs.iter().filter(|p| !p.fine()).count(),
            glyphs: glyphs.iter().filter(|g| g.is_open()).count(),
            fonts: font.names.len(),
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

impl GlyphRow {
    /// Whether something is to be done about it that the draft does not do yet.
    pub fn is_open(&self) -> bool {
        !self.found.in_comment && self.becomes.is_none() && self.judged.is_problem()
    }
}

fn glyph_rows(survey: &Survey, font: &FontReport) -> Vec<GlyphRow> {
    let setup = survey.doc.setup();
    let row = |tool: ToolId, found: &GlyphUse| GlyphRow {
        tool,
        judged: judge(
            found,
            tool,
            font.state.chosen(),
            setup.symbols_for(tool),
            font.terminal.as_ref(),
        ),
        becomes: replacement_of(setup, tool, &found.cluster),
        found: found.clone(),
    };
    let own = survey
        .reports
        .iter()
        .flat_map(|r| r.glyphs.iter().map(|g| row(r.tool, g)));
    let of_setup = font.of_setup.iter().map(|g| row(SETUP_ITSELF, g));
    let mut rows: Vec<GlyphRow> = own.chain(of_setup).collect();
    let rank = |row: &GlyphRow| match row {
        row if row.found.in_comment => 4,
        row if row.is_open() => 0,
        row if row.becomes.is_some() => 1,
        row if row.judged.worst().is_note() => 2,
        _ => 3,
    };
    rows.sort_by_key(rank);
    rows
}
