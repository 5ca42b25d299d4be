//! The Glyphs bench: glyphs in use, the map of icons, what this terminal does, the search.

mod card;
mod icons;
mod large;
mod lines;
mod view;

use std::borrow::Cow;
use std::path::PathBuf;
use std::sync::OnceLock;

use crossterm::event::KeyCode::{Char, Enter};
use wealdmist_core::character::SymbolLevel;
use wealdmist_core::font::{Coverage, Typeface};
use wealdmist_core::glyph::{Substitute, substitutes_of};
use wealdmist_core::icon;
use wealdmist_core::specimen::Specimen;
use wealdmist_core::terminal::TerminalRecord;
use wealdmist_core::text::{code_points, counted};
use wealdmist_host::{Terminals, unknown_terminal};

use super::{Bench, Do, List, Question, Reply, held};
use crate::tui::derived::GlyphRow;
use crate::tui::job::Job;
use crate::tui::keys::{Key, hint, key};
use crate::tui::step::Step;
use crate::tui::view::layout::map_columns;
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::glyphs::{in_use, mended};

pub use icons::Icons;
#[cfg(test)]
pub use large::MARGIN;
use large::{Large, Size};
#[cfg(test)]
pub const LARGE: f32 = Size::Large.width();

/// How many glyphs are drawn beside one another below the list.
const IN_SHEET: usize = 40;

/// The step.
pub const STEP: Step = Step {
    name: "glyphs",
    label: "Glyphs",
    drawing: "glyphs",
};

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    TakeSubstitute,
    NextSubstitute,
    MendAll,
    NextView,
    SearchIcons,
    Level,
    ToolLevel,
    TypeReplacement,
    Keep,
    Mark,
    Measure,
    TakeLevel,
    Copy,
}

/// What is typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Ask {
    /// Words that icons are looked for by.
    Icons,
    /// What stands for a character.
    Replacement(String),
}

/// What comes of its slow work.
pub enum Answer {
    /// A face that glyphs are drawn from was read, by its file and number; `None` if it cannot be.
    Face((PathBuf, u32), Option<Box<Typeface>>),
    /// The terminal was measured, or not.
    Measured(Result<TerminalRecord, String>),
    /// What is known of the terminal was kept, or not.
    Kept(Result<(), String>),
}

/// What the bench shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum View {
    /// The glyphs in use.
    #[default]
    List,
    /// Every icon, range by range.
    Map,
    /// Widths measured on this terminal.
    Terminal,
}

/// The bench.
#[derive(Debug, Default)]
pub struct Glyphs {
    /// What is shown.
    pub view: View,
    /// The row pointed at of the glyphs in use.
    pub cursor: usize,
    /// Which of the substitutes is offered.
    pub choice: usize,
    /// The icon pointed at on the map.
    pub at: usize,
    /// The row pointed at of the measured widths.
    pub row: usize,
    large: Large,
    /// The row whose lines the specimen shows.
    shown: Option<(View, usize)>,
}

impl Bench for Glyphs {
    type Act = Act;
    type Ask = Ask;
    type Answer = Answer;

    const KEYS: &'static [Key<Act>] = &[
        hint(Enter, Act::TakeSubstitute, "Enter", "replace by this"),
        hint(Char('s'), Act::NextSubstitute, "s", "another substitute"),
        hint(Char('m'), Act::MendAll, "m", "mend all"),
        hint(Char('v'), Act::NextView, "v", "list, map, terminal"),
        hint(Char('/'), Act::SearchIcons, "/", "search icons"),
        hint(Char('l'), Act::Level, "l", "symbol level"),
        hint(Char('L'), Act::ToolLevel, "L", "this tool's symbol level"),
        key(
            Char('n'),
            Act::TypeReplacement,
            "n",
            "type what stands for it",
        ),
        key(Char('k'), Act::Keep, "k", "keep it after all"),
        hint(Char('x'), Act::Mark, "x", "drawn wrongly, rightly here"),
        hint(Char('w'), Act::Measure, "w", "measure this terminal"),
        hint(Char('g'), Act::TakeLevel, "g", "take the level proposed"),
        hint(Char('y'), Act::Copy, "y", "copy the glyph"),
    ];

    fn offers(&self, act: Act) -> bool {
        match self.view {
            View::List => !matches!(act, Act::Mark | Act::Measure | Act::TakeLevel | Act::Copy),
            View::Map => matches!(
                act,
                Act::NextView | Act::SearchIcons | Act::Mark | Act::Copy
            ),
            View::Terminal => matches!(
                act,
                Act::NextView | Act::Mark | Act::Measure | Act::TakeLevel | Act::Copy
            ),
        }
    }

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        match self.view {
            View::List => "glyphs in use",
            View::Map => "every icon, and whether the font has it",
            View::Terminal => "what this terminal makes of glyphs",
        }
        .into()
    }

    fn command(&self, _: &Workspace) -> String {
        match self.view {
            View::List => "wealdmist glyphs   ·   wealdmist glyphs --mend",
            View::Map => "wealdmist font coverage NAME [OTHER]   ·   wealdmist icons WORDS",
            View::Terminal => "wealdmist terminal --measure   ·   wealdmist terminal --use",
        }
        .to_owned()
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match act {
            Act::TakeSubstitute => self.take_substitute(ws),
            Act::NextSubstitute => {
                let count = self.offered(ws).len().max(1);
                self.choice = (self.choice + 1) % count;
            }
            Act::MendAll => mend_glyphs(ws),
            Act::NextView => {
                self.view = match self.view {
                    View::List => View::Map,
                    View::Map => View::Terminal,
                    View::Terminal => View::List,
                };
            }
            Act::SearchIcons => {
                let question = Question::new("icons by name, meaning or code point", "");
                return vec![Do::Ask(question, Ask::Icons)];
            }
            Act::Level => self.next_level(ws, false),
            Act::ToolLevel => self.next_level(ws, true),
            Act::TypeReplacement => {
                let Some(cluster) = self.cluster_used(ws) else {
                    return Vec::new();
                };
                let text = format!(
                    "what stands for {} (nothing: it is left out)",
                    code_points(&cluster)
                );
                return vec![Do::Ask(Question::new(text, ""), Ask::Replacement(cluster))];
            }
            Act::Keep => {
                if let Some(cluster) = self.cluster_used(ws) {
                    replace(ws, &cluster, None);
                }
            }
            Act::Mark => return self.mark_glyph(ws),
            Act::Measure => {
                let (clusters, earlier) = (in_use(&ws.survey), ws.terminal_record().cloned());
                let job = Job::new("measure", "measuring this terminal", move || {
                    let measured = wealdmist_host::measure_terminal(&clusters, earlier.as_ref());
                    Answer::Measured(measured.map_err(|e| e.to_string()))
                });
                // The terminal answers to whoever reads: nothing else may read it meanwhile.
                return vec![Do::Run(job.at_terminal())];
            }
            Act::TakeLevel => take_level(ws),
            Act::Copy => {
                let Some(cluster) = self.cluster_pointed(ws) else {
                    return Vec::new();
                };
                ws.tell(format!(
                    "{} copied, where the terminal allows it",
                    code_points(&cluster)
                ));
                return vec![Do::Copy(cluster)];
            }
        }
        Vec::new()
    }

    fn typed(&mut self, ask: &Ask, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        match ask {
            Ask::Icons if text.trim().is_empty() => Ok(Vec::new()),
            Ask::Icons => {
                let wrong = self.cluster_used(ws);
                Ok(vec![Do::Open(held(Icons::found(text, wrong)))])
            }
            Ask::Replacement(cluster) => {
                replace(ws, cluster, Some(text.trim()));
                Ok(Vec::new())
            }
        }
    }

    fn answered(&mut self, answer: Answer, ws: &mut Workspace) -> Reply<Self> {
        match answer {
            Answer::Face(key, face) => self.large.opened(&key, face),
            Answer::Measured(Ok(record)) => return self.measured(ws, record),
            Answer::Kept(Ok(())) => {}
            Answer::Measured(Err(why)) | Answer::Kept(Err(why)) => ws.complain(why),
        }
        Vec::new()
    }

    fn list(&mut self, ws: &Workspace) -> Option<List<'_>> {
        let (cursor, len) = match self.view {
            View::List => (&mut self.cursor, ws.derived.glyphs.len()),
            View::Map => (&mut self.at, map_of_icons().len()),
            View::Terminal => {
                let record = ws.terminal_record();
                (&mut self.row, record.map_or(0, |r| r.widths.len()))
            }
        };
        Some(List { cursor, len })
    }

    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace) {
        self.choice = 0;
        let by = match self.view {
            View::Map => {
                let across = map_columns(ws.size) as isize;
                down.clamp(-10_000, 10_000) * across + right
            }
            _ => down,
        };
        if let Some(mut list) = self.list(ws) {
            list.move_by(by);
        }
    }

    fn point(&mut self, row: usize, _: Option<usize>, ws: &mut Workspace) {
        self.choice = 0;
        if let Some(mut list) = self.list(ws) {
            list.go(row);
        }
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        if self.shown.replace((self.view, self.cursor)) != Some((self.view, self.cursor)) {
            ws.stage.stale = true;
        }
        let pointed = [self.glyph_pointed(ws), self.substitute_pointed(ws)];
        let mut wanted: Vec<(char, Size)> = pointed
            .into_iter()
            .flatten()
            .map(|c| (c, Size::Large))
            .collect();
        if self.view == View::List {
            let rows = ws.derived.glyphs.iter().take(IN_SHEET);
            wanted.extend(rows.map(|row| (shown_in_sheet(row), Size::Small)));
        }
        large_of(&mut self.large, ws, &wanted, Answer::Face)
    }

    fn specimen(&self, ws: &Workspace, size: (usize, usize)) -> Option<Specimen> {
        let row = self.glyph_row(ws).filter(|_| self.view == View::List)?;
        Some(lines::of(row, ws, size))
    }

    fn open_count(&self, ws: &Workspace) -> usize {
        ws.derived.counts.glyphs
    }
}

impl Glyphs {
    /// The row pointed at on the list.
    pub fn glyph_row<'a>(&self, ws: &'a Workspace) -> Option<&'a GlyphRow> {
        ws.derived.glyphs.get(self.cursor)
    }

    /// What is drawn as one at the row pointed at.
    fn cluster_used(&self, ws: &Workspace) -> Option<String> {
        self.glyph_row(ws).map(|r| r.found.cluster.clone())
    }

    /// What is drawn as one that the bench is about.
    pub fn cluster_pointed(&self, ws: &Workspace) -> Option<String> {
        match self.view {
            View::List => self.cluster_used(ws),
            View::Map => self.glyph_pointed(ws).map(String::from),
            View::Terminal => {
                let rows = ws.terminal_record()?.rows();
                rows.get(self.row).map(|r| r.cluster.clone())
            }
        }
    }

    /// The character the bench is about.
    pub fn glyph_pointed(&self, ws: &Workspace) -> Option<char> {
        match self.view {
            View::List => self.glyph_row(ws).map(|r| r.found.character),
            View::Map => map_of_icons().get(self.at).copied(),
            View::Terminal => {
                let rows = ws.terminal_record()?.rows();
                rows.get(self.row).and_then(|r| r.cluster.chars().next())
            }
        }
    }

    /// What could stand for the glyph pointed at, as its tool's symbol level allows.
    pub fn offered(&self, ws: &Workspace) -> Vec<Substitute> {
        let Some(row) = self.glyph_row(ws) else {
            return Vec::new();
        };
        let most = ws.survey.doc.setup().symbols_for(row.tool);
        let covers = |c| ws.chosen_font().is_none_or(|f| f.covers(c));
        let mut all = substitutes_of(&row.found.cluster, covers);
        all.retain(|s| {
            s.text
                .chars()
                .all(|c| wealdmist_core::character::level(c) <= most)
        });
        all
    }

    /// The first character of the substitute offered.
    pub fn substitute_pointed(&self, ws: &Workspace) -> Option<char> {
        self.offered(ws)
            .get(self.choice)
            .and_then(|s| s.text.chars().next())
    }

    /// Puts the substitute offered into the setup, for every place at once.
    fn take_substitute(&self, ws: &mut Workspace) {
        let Some(cluster) = self.cluster_used(ws) else {
            return;
        };
        if self.view != View::List {
            return;
        }
        let offered = self.offered(ws);
        match offered.get(self.choice.min(offered.len().saturating_sub(1))) {
            Some(found) => replace(ws, &cluster, Some(&found.text)),
            None => ws.tell(
                "nothing is known that could stand for it: / searches the icons, n types a text",
            ),
        }
    }

    /// Lowers or raises the symbol level of everything, or of the tool pointed at.
    fn next_level(&self, ws: &mut Workspace, own: bool) {
        let tool = match own {
            true => self
                .glyph_row(ws)
                .map(|r| r.tool)
                .filter(|t| wealdmist_tools::adapter(t.0).is_some()),
            false => None,
        };
        if own && tool.is_none() {
            return;
        }
        let setup = ws.survey.doc.setup();
        let now = tool.map_or(setup.symbols, |t| setup.symbols_for(t));
        let at = SymbolLevel::ALL.iter().position(|l| *l == now).unwrap_or(0);
        let next = SymbolLevel::ALL[(at + 1) % 3];
        let changed = ws.survey.doc.with_symbols(tool, next);
        if ws.change(changed) {
            let of = tool.map_or("symbol level".to_owned(), |t| {
                format!("symbol level of {t}")
            });
            let count = counted(ws.planned.change_count(), "change");
            ws.tell(format!("{of}: {}; {count} to apply", next.key()));
        }
    }

    /// Marks what is pointed at as drawn wrongly here, rightly, or not at all.
    fn mark_glyph(&self, ws: &mut Workspace) -> Reply<Self> {
        let Some(cluster) = self.cluster_pointed(ws) else {
            return Vec::new();
        };
        let mut record = ws
            .terminal_record()
            .cloned()
            .unwrap_or_else(unknown_terminal);
        let next = match (
            record.is_marked_wrong(&cluster),
            record.right.contains(&cluster),
        ) {
            (false, false) => Some(true),
            (true, _) => Some(false),
            _ => None,
        };
        record.mark(&cluster, next);
        let word = match next {
            Some(true) => "marked: this terminal draws it wrongly",
            Some(false) => "marked: this terminal draws it rightly",
            None => "no longer marked",
        };
        ws.tell(format!("{} {word}", code_points(&cluster)));
        keep_record(ws, record)
    }

    /// The terminal was measured.
    fn measured(&mut self, ws: &mut Workspace, record: TerminalRecord) -> Reply<Self> {
        let differ = record.rows().iter().filter(|r| !r.agrees()).count();
        let level = record.proposed_level().map_or(String::new(), |(l, _)| {
            format!("; symbol level proposed: {}", l.key())
        });
        let count = record.widths.len();
        self.view = View::Terminal;
        self.row = 0;
        ws.tell(format!("{count} widths measured, {differ} differ{level}"));
        keep_record(ws, record)
    }
}

#[cfg(test)]
impl Glyphs {
    /// A glyph drawn large, where it has been drawn.
    pub fn drawing(&self, c: char) -> Option<&wealdmist_core::font::raster::Raster> {
        self.large.get(c, Size::Large)
    }
}

/// The icons of the map, in the order of their places.
pub fn map_of_icons() -> &'static [char] {
    static MAP: OnceLock<Vec<char>> = OnceLock::new();
    MAP.get_or_init(|| {
        let mut all: Vec<char> = icon::present().map(|i| i.code).collect();
        all.dedup();
        all
    })
}

/// What is drawn of a row in the sheet: what stands for it, where something does.
fn shown_in_sheet(row: &GlyphRow) -> char {
    let becomes = row.becomes.as_ref().and_then(|text| text.chars().next());
    becomes.unwrap_or(row.found.character)
}

/// Draws glyphs large that have not been drawn yet, and has the faces read that they come from.
fn large_of<K, W: Send + 'static>(
    large: &mut Large,
    ws: &Workspace,
    wanted: &[(char, Size)],
    answer: fn((PathBuf, u32), Option<Box<Typeface>>) -> W,
) -> Vec<Do<K, W>> {
    // Before the font is found there is nothing to draw from.
    let Some(found) = &ws.font else {
        return Vec::new();
    };
    let Some(shown) = ws.font_shown() else {
        return Vec::new();
    };
    let faces = large.draw(found, shown, wanted);
    let read = faces.into_iter().map(|key| {
        let catalog = std::sync::Arc::clone(&found.catalog);
        Do::Run(Job::new(format!("face {key:?}"), "", move || {
            let entry = catalog.faces.iter().find(|e| e.key() == key);
            let face = entry.and_then(|e| wealdmist_host::open_face(e).ok());
            answer(key, face.map(Box::new))
        }))
    });
    read.collect()
}

/// The face the map is compared with: the first that is kept beside on Font.
pub fn other_coverage(ws: &Workspace) -> Option<(&str, &Coverage)> {
    let (family, installed) = ws.beside.first()?;
    let catalog = ws
        .font
        .as_ref()
        .map(|f| &f.catalog)
        .filter(|_| *installed)?;
    let entry = catalog.faces.iter().find(|e| e.info.has_family(family))?;
    Some((family, &entry.coverage))
}

/// Has a text stand for what is drawn as one in the draft, for every place at once; or nothing any more.
fn replace(ws: &mut Workspace, cluster: &str, text: Option<&str>) {
    let changed = ws.survey.doc.with_replacement(cluster, text);
    if ws.change(changed) {
        let glyphs = ws.survey.reports.iter().flat_map(|r| &r.glyphs);
        let meant = glyphs.filter(|g| g.cluster == cluster && !g.in_comment);
        let (from, count) = (code_points(cluster), counted(meant.count(), "place"));
        ws.tell(match text {
            Some("") => format!("{from} is left out at {count} when you apply"),
            Some(text) => format!(
                "{from} becomes {} at {count} when you apply",
                code_points(text)
            ),
            None => format!("{from} stays"),
        });
    }
}

/// Puts the nearest substitute of every glyph that is not right into the setup.
fn mend_glyphs(ws: &mut Workspace) {
    let Some(chosen) = ws.chosen_font() else {
        ws.tell("the font is not known yet");
        return;
    };
    let rows = ws.derived.glyphs.iter();
    let rows = rows.map(|r| (r.tool, &r.found, &r.judged));
    match mended(ws.doc(), chosen, rows) {
        Ok((_, list)) if list.is_empty() => ws.tell("no glyph here is mended by another sign"),
        Ok((doc, list)) => {
            ws.change(Ok::<_, String>(doc));
            ws.tell(format!(
                "{} characters are replaced when you apply; u takes it back",
                list.len()
            ));
        }
        Err(why) => ws.complain(why.to_string()),
    }
}

/// Puts the level that was measured into the setup.
fn take_level(ws: &mut Workspace) {
    let Some((level, _)) = ws
        .terminal_record()
        .and_then(TerminalRecord::proposed_level)
    else {
        ws.tell("nothing is known of this terminal yet: w measures it");
        return;
    };
    let changed = ws.survey.doc.with_symbols(None, level);
    if ws.change(changed) {
        ws.tell(format!("symbol level: {}", level.key()));
    }
}

/// Takes what is known of the terminal over, and has it kept for the next time.
fn keep_record(ws: &mut Workspace, record: TerminalRecord) -> Reply<Glyphs> {
    if let Some(font) = &mut ws.font {
        font.report.terminal = Some(record.clone());
    }
    ws.recompute();
    let home = ws.survey.home.clone();
    vec![Do::Run(Job::new("record", "", move || {
        let kept = Terminals::open(&home).keep(&home, record);
        let why = |e| format!("what is known of this terminal could not be kept: {e}");
        Answer::Kept(kept.map_err(why))
    }))]
}
