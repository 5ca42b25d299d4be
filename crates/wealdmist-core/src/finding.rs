//! Findings: what is wrong now, each with its place and, where there is one, a mend.

use std::collections::{HashMap, HashSet};
use std::path::PathBuf;

use crate::character::is_private_use;
use crate::color::ratio_shown;
use crate::font::ChosenFont;
use crate::glyph::{self, Held, Verdict, judge, replacement_of};
use crate::ledger::{Ledger, State};
use crate::pair::{Pair, mend};
use crate::property::Property;
use crate::reading::{GlyphUse, Place, Reading, Standing, ToolId, ToolReport};
use crate::role::RoleId;
use crate::setup::Setup;
use crate::terminal::TerminalRecord;
use crate::text::{Position, code_points};

/// What stands for a tool where a glyph is the setup's own.
pub const SETUP_ITSELF: ToolId = ToolId("setup");

/// The kinds of findings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Kind {
    /// A file could not be read in full.
    Unreadable,
    /// A tool differs from the setup.
    Drift,
    /// Colors come out with fewer bits than the setup has.
    Depth,
    /// A text cannot be read on its ground.
    Contrast,
    /// A glyph is not in the font.
    Coverage,
    /// A glyph does not fit its cells.
    Fit,
    /// An image of a window cannot be shown, or not well.
    Image,
    /// A line is of no effect: a file that is read after it says something else.
    Overridden,
}

impl Kind {
    /// The word used in reports and for `--fail-on`.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::Unreadable => "unreadable",
            Self::Drift => "drift",
            Self::Depth => "depth",
            Self::Contrast => "contrast",
            Self::Coverage => "coverage",
            Self::Fit => "fit",
            Self::Image => "image",
            Self::Overridden => "overridden",
        }
    }
}

/// How much a finding matters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// Worth knowing.
    Note,
    /// Should be mended.
    Warning,
    /// Cannot be used as it is.
    Error,
}

impl Severity {
    /// The word used in reports and for `--fail-on`.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::Note => "note",
            Self::Warning => "warning",
            Self::Error => "error",
        }
    }
}

/// One problem.
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// Its kind.
    pub kind: Kind,
    /// How much it matters.
    pub severity: Severity,
    /// The tool it is about.
    pub tool: ToolId,
    /// The file.
    pub path: PathBuf,
    /// Where in the file.
    pub at: Option<Position>,
    /// The role it is about.
    pub role: Option<RoleId>,
    /// What is wrong.
    pub message: String,
    /// What would mend it.
    pub mend: Option<String>,
}

impl Finding {
    /// At a place.
    #[must_use]
    pub fn at(
        kind: Kind,
        severity: Severity,
        tool: ToolId,
        place: &Place,
        message: String,
    ) -> Self {
        Self {
            kind,
            severity,
            tool,
            path: place.path.to_path_buf(),
            at: place.is_written().then_some(place.at),
            role: None,
            message,
            mend: None,
        }
    }
}

/// What is known of the chosen font.
#[derive(Debug, Clone, PartialEq, Default)]
pub enum FontState {
    /// The setup names no font.
    #[default]
    NotChosen,
    /// No installed face answers to the name; the nearest that does, if any.
    NotFound {
        /// The name looked for.
        family: String,
        /// An installed family with a similar name.
        nearest: Option<String>,
    },
    /// The face that was found.
    Found(Box<ChosenFont>),
}

impl FontState {
    /// The face, where one was found.
    #[must_use]
    pub fn chosen(&self) -> Option<&ChosenFont> {
        match self {
            Self::Found(font) => Some(font),
            _ => None,
        }
    }
}

/// A font's name in a dotfile that does not select what it says.
#[derive(Debug, Clone, PartialEq)]
pub struct NameProblem {
    /// The tool.
    pub tool: ToolId,
    /// Where the name stands.
    pub place: Place,
    /// How much it matters.
    pub severity: Severity,
    /// What is wrong, and what the tool does instead.
    pub message: String,
    /// The right name.
    pub mend: Option<String>,
}

/// What is known of the fonts and the terminal when findings are made.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct FontReport {
    /// The chosen font.
    pub state: FontState,
    /// Names in dotfiles that select something else, or nothing.
    pub names: Vec<NameProblem>,
    /// What was measured of this terminal.
    pub terminal: Option<TerminalRecord>,
    /// Glyphs of the setup itself.
    pub of_setup: Vec<GlyphUse>,
}

/// All findings: drift and depth from the ledger, contrast from what is drawn now, coverage from
/// the chosen font, and files that could not be read. Ordered by file and place.
#[must_use]
pub fn findings(
    setup: &Setup,
    ledger: &Ledger,
    pairs: &[Pair],
    reports: &[ToolReport],
    font: &FontReport,
) -> Vec<Finding> {
    let mut out = Vec::new();
    for report in reports {
        unreadable(report, &mut out);
        overridden(report, &mut out);
        glyphs(setup, report.tool, &report.glyphs, font, &mut out);
    }
    drift(ledger, reports, &mut out);
    contrast(pairs, &mut out);
    glyphs(setup, SETUP_ITSELF, &font.of_setup, font, &mut out);
    for name in &font.names {
        let message = name.message.clone();
        let mut finding = Finding::at(
            Kind::Coverage,
            name.severity,
            name.tool,
            &name.place,
            message,
        );
        finding.role = Some(RoleId::from(Property::FontFamily));
        finding.mend = name.mend.clone();
        out.push(finding);
    }
    let key = |f: &Finding| (f.path.clone(), f.at, f.kind);
    out.sort_by_key(key);
    out
}

fn unreadable(report: &ToolReport, out: &mut Vec<Finding>) {
    for problem in &report.problems {
        out.push(Finding {
            kind: Kind::Unreadable,
            severity: if problem.blocks_edits {
                Severity::Error
            } else {
                Severity::Warning
            },
            tool: report.tool,
            path: problem.path.clone(),
            at: problem.at,
            role: None,
            message: problem.message.clone(),
            mend: Some(problem.help.clone()),
        });
    }
}

/// Values that a file included further below says otherwise: who edits them waits in vain.
fn overridden(report: &ToolReport, out: &mut Vec<Finding>) {
    let sure = |r: &&Reading| r.standing == Standing::Certain && r.place.is_written();
    let counts = report.readings.iter().filter(sure).filter(|r| r.effective);
    let counts: HashMap<(&RoleId, &str), &Reading> =
        counts.map(|r| ((&r.role, r.key.as_str()), r)).collect();
    let mut told = HashSet::new();
    for reading in report.readings.iter().rev().filter(sure) {
        let Some(wins) = counts.get(&(&reading.role, reading.key.as_str())) else {
            continue;
        };
        let place = &reading.place;
        let is_below =
            |(path, line): &(PathBuf, usize)| **path == *place.path && *line > place.at.line;
        if reading.effective
            || wins.value == reading.value
            || !wins.chain.iter().any(is_below)
            || !told.insert((&reading.role, reading.key.as_str()))
        {
            continue;
        }
        let at = format!("{}:{}", wins.place.file_name(), wins.place.at.line);
        let message = format!(
            "{}: {} is of no effect: {at}, which is included further below, says {}",
            reading.role.label(),
            reading.value,
            wins.value
        );
        let mut finding = Finding::at(
            Kind::Overridden,
            Severity::Note,
            report.tool,
            place,
            message,
        );
        finding.role = Some(reading.role.clone());
        finding.mend = Some("put it behind the include, or change it there".to_owned());
        out.push(finding);
    }
}

fn drift(ledger: &Ledger, reports: &[ToolReport], out: &mut Vec<Finding>) {
    for row in &ledger.rows {
        for (cell, report) in row.cells.iter().zip(reports) {
            if cell.state != State::Drift {
                continue;
            }
            let Some(reading) = cell.odd.map(|i| &report.readings[i]) else {
                continue;
            };
            let wanted = row
                .value
                .as_ref()
                .map(ToString::to_string)
                .unwrap_or_default();
            let is_depth = row.role.as_str() == "depth";
            let kind = if is_depth { Kind::Depth } else { Kind::Drift };
            let message = if is_depth {
                format!(
                    "colors are cut to {} on the way through {}",
                    reading.value, report.tool
                )
            } else {
                let label = row.role.label();
                format!(
                    "{label}: {} is {}, the setup has {wanted}",
                    reading.key, reading.value
                )
            };
            let mut finding = Finding::at(
                kind,
                Severity::Warning,
                report.tool,
                &reading.place,
                message,
            );
            finding.role = Some(row.role.clone());
            finding.mend = Some("`wealdmist apply` sets it to the setup".to_owned());
            out.push(finding);
        }
    }
}

fn contrast(pairs: &[Pair], out: &mut Vec<Finding>) {
    for pair in pairs.iter().filter(|p| !p.fine_now()) {
        let Some(place) = &pair.place else { continue };
        let target = pair.target;
        let severity = if pair.now.ratio < 2.0 {
            Severity::Error
        } else {
            Severity::Warning
        };
        let by_itself = match pair.by_itself || !place.is_written() {
            true => format!(" ({} does so by itself)", pair.tool),
            false => String::new(),
        };
        let message = format!(
            "{}{by_itself}: {} on {} is {}:1, {} needs {target}:1",
            pair.what,
            pair.now.text,
            pair.now.ground,
            ratio_shown(pair.now.ratio),
            pair.usage.label()
        );
        let mut finding = Finding::at(Kind::Contrast, severity, pair.tool, place, message);
        finding.role = Some(pair.text.clone());
        finding.mend = mend(pair.now.text, pair.now.ground, target)
            .map(|c| format!("{c} is the nearest color of this hue that reaches it"));
        out.push(finding);
    }
}

/// The glyphs of one tool that are not right. What is above the symbol level is drift, which the
/// ledger tells.
fn glyphs(
    setup: &Setup,
    tool: ToolId,
    used: &[GlyphUse],
    font: &FontReport,
    out: &mut Vec<Finding>,
) {
    let Some(chosen) = font.state.chosen() else {
        return;
    };
    let most = setup.symbols_for(tool);
    for glyph in used.iter().filter(|g| !g.in_comment) {
        let judged = judge(glyph, tool, Some(chosen), most, font.terminal.as_ref());
        let held = judged.verdicts.iter().find(|Held { verdict: v, .. }| {
            v.is_note() || (v.is_problem() && !matches!(v, Verdict::AboveLevel(_)))
        });
        let Some(held) = held else { continue };
        let verdict = &held.verdict;
        let (kind, severity) = match verdict {
            Verdict::Missing
            | Verdict::Mapped { .. }
            | Verdict::Moved(_)
            | Verdict::UnknownPrivate
            | Verdict::Stranger(..)
            | Verdict::MarkedWrong => (Kind::Coverage, Severity::Warning),
            Verdict::Fallback(_) => (Kind::Coverage, Severity::Note),
            Verdict::Leaves(..) | Verdict::WidthDisputed { .. } => (Kind::Fit, Severity::Warning),
            _ => (Kind::Fit, Severity::Note),
        };
        let points = code_points(&glyph.cluster);
        let message = format!("{points} {held}");
        let mut finding = Finding::at(kind, severity, tool, &glyph.place, message);
        finding.mend = mend_glyph(setup, tool, glyph, chosen, verdict);
        out.push(finding);
    }
}

/// What would mend a glyph, in words.
fn mend_glyph(
    setup: &Setup,
    tool: ToolId,
    glyph: &GlyphUse,
    font: &ChosenFont,
    verdict: &Verdict,
) -> Option<String> {
    let c = glyph.character;
    if replacement_of(setup, tool, &glyph.cluster).is_some() {
        return Some("`wealdmist apply` replaces it as the setup says".to_owned());
    }
    match verdict {
        Verdict::Fallback(family) => Some(format!(
            "`wealdmist font choose --fallback '{family}'` makes that certain"
        )),
        Verdict::Leaves(..) if glyph.after != Some(' ') && is_private_use(c) => {
            Some("put a blank behind it, or take a font whose icons are one cell wide".to_owned())
        }
        Verdict::Seam(..) => Some("take a font whose separators fill the line".to_owned()),
        Verdict::Emoji => None,
        _ => {
            let most = setup.symbols_for(tool);
            let found = glyph::substitute_of(&glyph.cluster, most, |c| font.covers(c));
            found.map(|found| {
                if found.text.is_empty() {
                    return "leave it out".to_owned();
                }
                let points = code_points(&found.text);
                let shown = crate::text::visible_with(&found.text, false);
                format!("use {shown} ({}, {})", points, found.kind.label())
            })
        }
    }
}

#[cfg(test)]
mod tests {
    use std::path::Path;

    use super::*;
    use crate::condition::Conditions;
    use crate::font::HostFont;
    use crate::look::Look;
    use crate::pair::pairs;
    use crate::reading::{Drawn, FileProblem, GlyphUse, Paint, Reading, Value};
    use crate::role::Usage;
    use crate::setup::SetupDoc;

    /// One tool with one problem of each kind, line by line.
    fn report() -> ToolReport {
        let color = |v| Value::Color(crate::Rgb::from_u32(v));
        let mut report = ToolReport::new(ToolId("tool"));
        report.readings = vec![
            Reading::of("border.active", color(0x12_3456), 2),
            Reading::of("depth", Value::Text("256 colors".into()), 3),
            Reading::of("bar.text", color(0x33_3333), 4),
            Reading::of("font.family", Value::Text("Reedbed".into()), 6),
        ];
        report.drawn.push(Drawn {
            what: "the bar".into(),
            text: Paint {
                role: RoleId::known("bar.text"),
                reading: Some(2),
            },
            ground: Paint {
                role: RoleId::known("background"),
                reading: None,
            },
            usage: Usage::Body,
            fade: 1.0,
            fades_by: None,
        });
        for (character, line, in_comment) in [('\u{e725}', 5, false), ('\u{f500}', 7, true)] {
            report.glyphs.push(GlyphUse {
                character,
                cluster: character.to_string(),
                escape: None,
                after: None,
                place: Place::of(line),
                in_comment,
            });
        }
        report.problems.push(FileProblem {
            path: "/f".into(),
            at: Some(Position { line: 1, column: 1 }),
            message: "half a quote".into(),
            help: "close it".into(),
            blocks_edits: true,
        });
        report
    }

    fn found(font: FontState) -> Vec<Finding> {
        let text = "[symbols]\nlevel='icons'\n[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\n'border.active'='#654321'\n'bar.text'='#333333'\n[font]\nfamily='Reedbed'\n";
        let setup = SetupDoc::parse("s", text.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        let reports = [report()];
        let ledger = Ledger::new(&setup, &look, &reports);
        let pairs = pairs(&setup, &look, &reports, &Conditions::default());
        let font = FontReport {
            state: font,
            ..FontReport::default()
        };
        findings(&setup, &ledger, &pairs, &reports, &font)
    }

    #[test]
    fn every_kind_has_its_place_and_a_mend() {
        let found = found(FontState::Found(Box::new(chosen())));
        let rows: Vec<_> = found
            .iter()
            .map(|f| (f.at.map_or(0, |p| p.line), f.kind))
            .collect();
        assert_eq!(
            rows,
            [
                (1, Kind::Unreadable),
                (2, Kind::Drift),
                (3, Kind::Depth),
                (4, Kind::Contrast),
                (5, Kind::Coverage),
            ]
        );
        assert!(found.iter().all(|f| f.mend.is_some()), "{found:?}");
        assert_eq!(found[0].severity, Severity::Error);
        assert!(
            found[1].message.contains("#123456, the setup has #654321"),
            "{}",
            found[1].message
        );
        assert!(found[3].message.contains("1.5") && found[3].severity == Severity::Error);
        assert!(
            found[4]
                .mend
                .as_deref()
                .is_some_and(|m| m.contains("U+21B3")),
            "{found:?}"
        );
    }

    #[test]
    fn a_value_that_a_later_include_says_otherwise_is_told() {
        let color = |v| Value::Color(crate::Rgb::from_u32(v));
        let at = |line, value, path: &str, from: Option<usize>| {
            let mut reading = Reading::of("red", value, line);
            reading.key = "color1".into();
            reading.place.path = Path::new(path).into();
            reading.chain = from
                .into_iter()
                .map(|line| ("/main".into(), line))
                .collect();
            reading
        };
        let told = |readings: Vec<Reading>| {
            let mut report = ToolReport::new(ToolId("tool"));
            report.readings = readings;
            report.mark_last_effective();
            let mut out = Vec::new();
            overridden(&report, &mut out);
            out.iter().map(|f| f.at.unwrap().line).collect::<Vec<_>>()
        };
        let include = |value| at(7, value, "/theme", Some(3));
        assert_eq!(
            told(vec![at(2, color(1), "/main", None), include(color(2))]),
            [2]
        );
        // The same, one's own that follows, and two lines of one file are as people write them.
        assert!(told(vec![at(2, color(2), "/main", None), include(color(2))]).is_empty());
        assert!(told(vec![include(color(2)), at(4, color(1), "/main", None)]).is_empty());
        let twice = vec![
            at(1, color(1), "/main", None),
            at(2, color(2), "/main", None),
        ];
        assert!(told(twice).is_empty());
    }

    fn chosen() -> ChosenFont {
        let bytes = crate::demo::fonts::without_icons();
        ChosenFont {
            path: "f".into(),
            info: crate::font::faces(&bytes).unwrap().remove(0),
            cell: crate::font::facts::cell(&bytes, 0).unwrap(),
            coverage: crate::font::coverage(&bytes, 0).unwrap(),
            inks: std::collections::BTreeMap::new(),
            hosts: vec![HostFont::default()],
        }
    }

    #[test]
    fn names_that_select_nothing_are_findings_of_their_own() {
        let setup = SetupDoc::parse("s", b"[palettes.a]\n")
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        let reports = [report()];
        let ledger = Ledger::new(&setup, &look, &reports);
        let name = NameProblem {
            tool: ToolId("tool"),
            place: Place::of(6),
            severity: Severity::Warning,
            message: "no such font".into(),
            mend: Some("write 'Reedbed Mono'".into()),
        };
        let font = FontReport {
            names: vec![name],
            ..FontReport::default()
        };
        let found = findings(&setup, &ledger, &[], &reports, &font);
        let fonts: Vec<_> = found.iter().filter(|f| f.kind == Kind::Coverage).collect();
        assert_eq!(fonts.len(), 1);
        assert_eq!(fonts[0].at.map(|p| p.line), Some(6));
        assert!(
            fonts[0]
                .mend
                .as_deref()
                .is_some_and(|m| m.contains("'Reedbed Mono'"))
        );
    }

    #[test]
    fn without_a_font_nothing_is_said_of_glyphs() {
        assert!(
            found(FontState::NotChosen)
                .iter()
                .all(|f| f.kind != Kind::Coverage)
        );
    }
}
