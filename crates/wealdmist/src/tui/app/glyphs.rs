//! The Glyphs bench: glyphs in use, the map of icons, what this terminal does, the search.

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::sync::OnceLock;

use wealdmist_core::font::raster::{Grid, Raster, glyph};
use wealdmist_core::font::{Catalog, Coverage, Typeface};
use wealdmist_core::glyph::{Substitute, substitutes};
use wealdmist_core::icon::{self, Found};
use wealdmist_core::setup::SymbolLevel;
use wealdmist_core::terminal::TerminalRecord;
use wealdmist_host::{FontSearch, Terminals, own_terminal};

use super::{App, Effect, GlyphRow, Input, Purpose};
use crate::command::glyphs::{a_sign_mends, replacements};

/// What the bench shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum GlyphView {
    /// The glyphs in use.
    #[default]
    List,
    /// Every icon, range by range.
    Map,
    /// Widths measured on this terminal.
    Terminal,
}

/// A search of the icon table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Search {
    /// What was asked.
    pub query: String,
    /// The answers.
    pub found: Vec<Found>,
    /// The one pointed at.
    pub cursor: usize,
}

/// A face that glyphs are drawn from.
#[derive(Debug)]
enum Held {
    /// Being read.
    Asked,
    /// Read.
    Open(Box<Typeface>),
    /// It cannot be read.
    Unusable,
}

/// How many faces are held: font files can be large.
const MOST_FACES: usize = 8;

/// The state of the bench.
#[derive(Debug, Default)]
pub struct GlyphBench {
    /// What is shown.
    pub view: GlyphView,
    /// Which of the substitutes is offered.
    pub choice: usize,
    /// The icon pointed at on the map.
    pub at: usize,
    /// The row pointed at of the measured widths.
    pub row: usize,
    /// The search, where it is open.
    pub search: Option<Search>,
    /// The faces glyphs are drawn from, by file and number, asked for when one is first drawn.
    faces: BTreeMap<(PathBuf, u32), Held>,
    /// Large drawings of glyphs, made when they are first shown.
    large: BTreeMap<char, Option<Raster>>,
}

/// Opens an installed face, by its file and number.
pub fn open(catalog: &Catalog, key: &(PathBuf, u32)) -> Option<Box<Typeface>> {
    let entry = catalog.faces.iter().find(|e| e.key() == *key)?;
    wealdmist_host::open_face(entry).ok().map(Box::new)
}

/// How large a glyph is drawn, in pixels of its cell's width.
pub const LARGE: f32 = 18.0;
/// Room beside the cell, in cells, so that ink outside it is seen.
pub const MARGIN: f32 = 0.6;

impl App {
    /// The icons of the map, in the order of their places.
    pub fn map() -> &'static [char] {
        static MAP: OnceLock<Vec<char>> = OnceLock::new();
        MAP.get_or_init(|| {
            let mut all: Vec<char> = icon::present().map(|i| i.code).collect();
            all.dedup();
            all
        })
    }

    /// The row pointed at on the list.
    pub fn glyph_row(&self) -> Option<&GlyphRow> {
        self.derived.glyphs.get(self.glyph)
    }

    /// The character the bench is about.
    pub fn glyph_pointed(&self) -> Option<char> {
        if let Some(search) = &self.glyphs.search {
            return search.found.get(search.cursor).map(|f| f.code);
        }
        match self.glyphs.view {
            GlyphView::List => self.glyph_row().map(|r| r.found.character),
            GlyphView::Map => Self::map().get(self.glyphs.at).copied(),
            GlyphView::Terminal => {
                let rows = self.terminal_record()?.rows();
                rows.get(self.glyphs.row)
                    .and_then(|r| r.cluster.chars().next())
            }
        }
    }

    /// What could stand for the glyph pointed at, as its tool's symbol level allows.
    pub fn offered(&self) -> Vec<Substitute> {
        let Some(row) = self.glyph_row() else {
            return Vec::new();
        };
        let most = self.survey.doc.setup().symbols_for(row.tool.0);
        let covers = |c| self.chosen_font().is_none_or(|f| f.covers(c));
        let mut all = substitutes(row.found.character, covers);
        all.retain(|s| {
            s.text
                .chars()
                .all(|c| wealdmist_core::glyph::level(c) <= most)
        });
        all
    }

    /// The chosen font, once it is known.
    pub fn chosen_font(&self) -> Option<&wealdmist_core::font::ChosenFont> {
        self.font
            .as_ref()
            .and_then(wealdmist_host::FontSearch::chosen)
    }

    /// What is known of the terminal.
    pub fn terminal_record(&self) -> Option<&TerminalRecord> {
        self.font.as_ref().and_then(|f| f.report.terminal.as_ref())
    }

    /// The face the map is compared with: the first that is kept beside on Font.
    pub fn other_coverage(&self) -> Option<(&str, &Coverage)> {
        let (family, installed) = self.fonts.beside.first()?;
        let catalog = self
            .font
            .as_ref()
            .map(|f| &f.catalog)
            .filter(|_| *installed)?;
        let entry = catalog.faces.iter().find(|e| e.info.has_family(family))?;
        Some((family, &entry.coverage))
    }

    /// A glyph as it will be seen, large: of the chosen font, else of the one it comes from.
    pub fn large_glyph(&self, c: char) -> Option<&Raster> {
        self.glyphs.large.get(&c)?.as_ref()
    }

    /// Draws the glyph pointed at large, where that has not been done yet, or asks for its face.
    pub(super) fn draw_large(&mut self) -> Vec<Effect> {
        let mut effects = Vec::new();
        if self.step != super::Step::Glyphs {
            return effects;
        }
        let wanted = [self.glyph_pointed(), self.substitute_pointed()];
        // Before the font is found there is nothing to draw from.
        let Some(chosen) = self.font.as_ref().and_then(FontSearch::chosen) else {
            return effects;
        };
        let bench = &mut self.glyphs;
        for c in wanted.into_iter().flatten() {
            if bench.large.contains_key(&c) {
                continue;
            }
            // What the terminal draws itself is shown as the font would have it.
            let own = || (chosen.path.clone(), chosen.info.index);
            let key = chosen.source(c).unwrap_or_else(own);
            let drawn = match bench.faces.get(&key) {
                Some(Held::Asked) => continue,
                Some(Held::Unusable) => None,
                Some(Held::Open(face)) => {
                    glyph(face, c, &Grid::of_width(&face.cell(), LARGE), MARGIN)
                }
                None => {
                    if bench.faces.len() >= MOST_FACES {
                        bench.faces.clear();
                    }
                    bench.faces.insert(key.clone(), Held::Asked);
                    effects.push(Effect::OpenGlyphFace(key));
                    continue;
                }
            };
            if bench.large.len() > 200 {
                bench.large.clear();
            }
            bench.large.insert(c, drawn);
        }
        effects
    }

    /// A face that glyphs are drawn from was read, or could not be.
    pub(super) fn glyph_face_opened(
        &mut self,
        key: &(PathBuf, u32),
        face: Option<Box<Typeface>>,
    ) -> Vec<Effect> {
        // Another font may have been chosen meanwhile.
        if let Some(held) = self.glyphs.faces.get_mut(key) {
            *held = face.map_or(Held::Unusable, Held::Open);
        }
        self.draw_large()
    }

    /// The first character of the substitute offered.
    pub fn substitute_pointed(&self) -> Option<char> {
        self.offered()
            .get(self.glyphs.choice)
            .and_then(|s| s.text.chars().next())
    }

    /// Forgets drawings of another font.
    pub(super) fn forget_large(&mut self) {
        self.glyphs.large.clear();
        self.glyphs.faces.clear();
    }

    /// Puts the substitute offered into the setup, for every place at once.
    pub(super) fn take_substitute(&mut self) {
        let Some(row) = self.glyph_row() else { return };
        let c = row.found.character;
        let text = match self.glyphs.search.take() {
            Some(search) => match search.found.get(search.cursor) {
                Some(found) => found.code.to_string(),
                None => return,
            },
            None if self.glyphs.view != GlyphView::List => return,
            None => {
                let offered = self.offered();
                match offered.get(self.glyphs.choice.min(offered.len().saturating_sub(1))) {
                    Some(found) => found.text.clone(),
                    None => {
                        self.tell("nothing is known that could stand for it: / searches the icons, n types a text");
                        return;
                    }
                }
            }
        };
        self.replace(c, Some(&text));
    }

    pub(super) fn replace(&mut self, c: char, text: Option<&str>) {
        let changed = self.survey.doc.with_replacement(c, text);
        if self.change(changed) {
            let points: Vec<String> = text
                .unwrap_or_default()
                .chars()
                .map(|c| format!("U+{:04X}", c as u32))
                .collect();
            let count = self
                .survey
                .reports
                .iter()
                .flat_map(|r| &r.glyphs)
                .filter(|g| g.character == c && !g.in_comment)
                .count();
            match text {
                Some("") => self.tell(&format!(
                    "U+{:04X} is left out at {count} places when you apply",
                    c as u32
                )),
                Some(_) => self.tell(&format!(
                    "U+{:04X} becomes {} at {count} places when you apply",
                    c as u32,
                    points.join(" ")
                )),
                None => self.tell(&format!("U+{:04X} stays", c as u32)),
            }
        }
    }

    /// Takes a replacement of the glyph pointed at back.
    pub(super) fn keep_glyph(&mut self) {
        if let Some(c) = self.glyph_row().map(|r| r.found.character) {
            self.replace(c, None);
        }
    }

    /// Puts the nearest substitute of every glyph that is not right into the setup.
    pub(super) fn mend_glyphs(&mut self) {
        let Some(chosen) = self.chosen_font() else {
            self.tell("the font is not known yet");
            return;
        };
        let fits = |c: char| {
            chosen.covers(c) && chosen.inks.get(&c).is_none_or(|i| i.right - i.left < 1.1)
        };
        let rows = self
            .derived
            .glyphs
            .iter()
            .map(|r| (r.tool, &r.found, a_sign_mends(&r.judged)));
        let list = replacements(&self.survey, rows, fits);
        if list.is_empty() {
            self.tell("no glyph here is mended by another sign");
            return;
        }
        let mut doc = Ok(self.survey.doc.clone());
        for (c, text) in &list {
            doc = doc.and_then(|d| d.with_replacement(*c, Some(text)));
        }
        if self.change(doc) {
            self.tell(&format!(
                "{} characters are replaced when you apply; u takes it back",
                list.len()
            ));
        }
    }

    /// The next of the substitutes offered.
    pub(super) fn next_substitute(&mut self) {
        let count = self.offered().len();
        self.glyphs.choice = if count == 0 {
            0
        } else {
            (self.glyphs.choice + 1) % count
        };
    }

    pub(super) fn next_glyph_view(&mut self) {
        self.glyphs.view = match self.glyphs.view {
            GlyphView::List => GlyphView::Map,
            GlyphView::Map => GlyphView::Terminal,
            GlyphView::Terminal => GlyphView::List,
        };
    }

    /// Lowers or raises the symbol level of everything, or of the tool pointed at.
    pub(super) fn next_level(&mut self, own: bool) {
        let tool = match own {
            true => self
                .glyph_row()
                .map(|r| r.tool.0)
                .filter(|t| wealdmist_tools::adapter(t).is_some()),
            false => None,
        };
        if own && tool.is_none() {
            return;
        }
        let setup = self.survey.doc.setup();
        let now = tool.map_or(setup.symbols, |t| setup.symbols_for(t));
        let at = SymbolLevel::ALL.iter().position(|l| *l == now).unwrap_or(0);
        let next = SymbolLevel::ALL[(at + 1) % 3];
        let changed = self.survey.doc.with_symbols(tool, next);
        if self.change(changed) {
            let of = tool.map_or("symbol level".to_owned(), |t| {
                format!("symbol level of {t}")
            });
            let count = self.plan.change_count();
            self.tell(&format!("{of}: {}; {count} changes follow", next.key()));
        }
    }

    /// Puts the level that was measured into the setup.
    pub(super) fn take_level(&mut self) {
        let Some((level, _)) = self
            .terminal_record()
            .and_then(TerminalRecord::proposed_level)
        else {
            self.tell("nothing is known of this terminal yet: w measures it");
            return;
        };
        let changed = self.survey.doc.with_symbols(None, level);
        if self.change(changed) {
            self.tell(&format!("symbol level: {}", level.key()));
        }
    }

    /// Marks the character pointed at as drawn wrongly here, rightly, or not at all.
    pub(super) fn mark_glyph(&mut self) {
        let Some(c) = self.glyph_pointed() else {
            return;
        };
        let (name, version) = own_terminal();
        let mut record = self
            .terminal_record()
            .cloned()
            .unwrap_or_else(|| TerminalRecord {
                name,
                version,
                ..TerminalRecord::default()
            });
        let next = match (record.wrong.contains(&c), record.right.contains(&c)) {
            (false, false) => Some(true),
            (true, _) => Some(false),
            _ => None,
        };
        record.mark(c, next);
        let word = match next {
            Some(true) => "marked: this terminal draws it wrongly",
            Some(false) => "marked: this terminal draws it rightly",
            None => "no longer marked",
        };
        self.keep_record(record);
        if self.note.as_ref().is_none_or(|n| !n.bad) {
            self.tell(&format!("U+{:04X} {word}", c as u32));
        }
    }

    fn keep_record(&mut self, record: TerminalRecord) {
        let kept = Terminals::open(&self.survey.home).keep(&self.survey.home, record.clone());
        if let Some(font) = &mut self.font {
            font.report.terminal = Some(record);
        }
        self.recompute();
        if let Err(error) = kept {
            self.complain(format!(
                "what is known of this terminal could not be kept: {error}"
            ));
        }
    }

    /// The terminal was measured, or not.
    pub(super) fn measured(&mut self, result: Result<TerminalRecord, String>) {
        match result {
            Ok(record) => {
                let differ = record.rows().iter().filter(|r| !r.agrees()).count();
                let level = record.proposed_level().map_or(String::new(), |(l, _)| {
                    format!("; symbol level proposed: {}", l.key())
                });
                let count = record.widths.len();
                self.keep_record(record);
                self.glyphs.view = GlyphView::Terminal;
                self.glyphs.row = 0;
                self.tell(&format!("{count} widths measured, {differ} differ{level}"));
            }
            Err(why) => self.complain(why),
        }
    }

    pub(super) fn start_icon_search(&mut self) {
        self.input = Some(Input {
            question: "icons by name, meaning or code point".into(),
            text: String::new(),
            purpose: Purpose::IconSearch,
        });
    }

    pub(super) fn search_icons(&mut self, query: &str) {
        let found = icon::search(query, 300);
        self.glyphs.search = (!query.trim().is_empty()).then(|| Search {
            query: query.to_owned(),
            found,
            cursor: 0,
        });
    }

    pub(super) fn start_replacement(&mut self) {
        if let Some(c) = self.glyph_row().map(|r| r.found.character) {
            self.input = Some(Input {
                question: format!(
                    "what stands for U+{:04X} (nothing: it is left out)",
                    c as u32
                ),
                text: String::new(),
                purpose: Purpose::Replacement(c),
            });
        }
    }

    /// Copies the character pointed at to the clipboard, by the terminal (OSC 52).
    pub(super) fn copy_glyph(&mut self) -> Vec<Effect> {
        let Some(c) = self.glyph_pointed() else {
            return Vec::new();
        };
        self.tell(&format!(
            "U+{:04X} copied, where the terminal allows it",
            c as u32
        ));
        vec![Effect::Copy(c.to_string())]
    }

    /// Moves on the map or in a list of this bench; whether it did.
    pub(super) fn move_in_glyphs(&mut self, rows: isize, columns: isize, across: usize) -> bool {
        if let Some(search) = &mut self.glyphs.search {
            let last = search.found.len().saturating_sub(1);
            search.cursor = search
                .cursor
                .saturating_add_signed(rows + columns)
                .min(last);
            return true;
        }
        match self.glyphs.view {
            GlyphView::List => false,
            GlyphView::Map => {
                let last = Self::map().len().saturating_sub(1);
                let by = rows.clamp(-10_000, 10_000) * across as isize + columns;
                self.glyphs.at = self.glyphs.at.saturating_add_signed(by).min(last);
                true
            }
            GlyphView::Terminal => {
                let last = self
                    .terminal_record()
                    .map_or(0, |r| r.widths.len())
                    .saturating_sub(1);
                self.glyphs.row = self.glyphs.row.saturating_add_signed(rows).min(last);
                true
            }
        }
    }
}
