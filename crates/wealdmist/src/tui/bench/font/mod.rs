//! The Font bench: families installed or in an archive, samples side by side, facts, features,
//! and the choice.

mod choice;
mod source;
mod view;

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;
use std::sync::Arc;

use crossterm::event::KeyCode::{Char, Enter};
use wealdmist_core::font::facts::Facts;
use wealdmist_core::font::picture::Means;
use wealdmist_core::font::raster::{Grid, Raster, line};
use wealdmist_core::font::sample::SAMPLES;
use wealdmist_core::font::{self, Catalog, Entry, FeatureSetting, Four, Typeface, features};
use wealdmist_core::icon;
use wealdmist_host::FontSource;

use super::{Bench, Do, List, Question, Reply};
use crate::tui::job::Job;
use crate::tui::keys::{Key as Bound, also, hint, key};
use crate::tui::step::Step;
use crate::tui::view::layout::{self, Room};
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::lines;

use choice::{change_line_height, switch_ligatures};

/// The step.
pub const STEP: Step = Step {
    name: "font",
    label: "Font",
    drawing: "faces",
};

/// How wide letters are drawn with characters, in pixels.
const WIDTHS: [f32; 6] = [4.0, 5.0, 6.0, 8.0, 12.0, 20.0];
/// How much larger than the terminal's own cells letters are drawn as an image.
const FACTORS: [f32; 4] = [1.0, 1.5, 2.0, 3.0];
/// How many faces are shown at once.
const MOST: usize = 3;
/// The most lines the facts of a face have, about.
const LONGEST_FACTS: usize = 400;
/// The columns of the list of families.
pub const LIST: usize = 27;

/// A family in the list.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Family {
    /// Its name.
    pub name: String,
    /// Whether its letters have one width.
    pub fixed: bool,
    /// How many icons its best face has, about.
    pub icons: usize,
    /// Whether it is installed, or only in the file that was opened.
    pub installed: bool,
}

/// What the bench shows beside the list.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Page {
    /// Faces on the same lines.
    #[default]
    Samples,
    /// Everything the file says.
    Facts,
    /// The features and what each changes.
    Features,
}

/// A face read for work, with its facts.
#[derive(Debug)]
pub struct Opened {
    /// Family and style.
    pub title: String,
    /// The file.
    pub path: PathBuf,
    /// The face.
    pub face: Typeface,
    /// What its file says.
    pub facts: Facts,
    /// What each of its features changes.
    pub changes: Vec<Vec<String>>,
}

/// Faces of a file, folder or archive that was opened.
#[derive(Debug, Clone)]
pub struct Source {
    /// What it holds.
    pub source: Arc<FontSource>,
    /// The same as a catalog.
    pub catalog: Catalog,
}

/// A family and style of the installed fonts, or of the file opened.
pub type Key = (String, Four, bool);

/// Samples of one face, ready to be shown.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Panel {
    /// The face.
    pub title: String,
    /// What is to be known of it.
    pub note: String,
    /// The samples; `None` while the file is being read.
    pub raster: Option<Arc<Raster>>,
    /// Rows on the screen, without the title.
    pub rows: usize,
}

/// How samples are drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Drawn {
    /// With characters.
    With(Means),
    /// As an image, with so many pixels to a cell.
    Image((u32, u32)),
}

impl Drawn {
    /// The ways this screen has, the best first.
    fn all(ws: &Workspace) -> Vec<Self> {
        let image = ws.display.pixels.map(Self::Image);
        let with = ws.display.means.iter().copied().map(Self::With);
        image.into_iter().chain(with).collect()
    }

    /// The pixels of a cell.
    const fn cell(self) -> (u32, u32) {
        match self {
            Self::With(means) => means.pixels(),
            Self::Image(pixels) => pixels,
        }
    }

    const fn is_image(self) -> bool {
        matches!(self, Self::Image(_))
    }

    /// The width of a letter in pixels, in one of the sizes.
    fn letter(self, size: usize) -> f32 {
        match self {
            Self::Image((width, _)) => width as f32 * FACTORS[size.min(FACTORS.len() - 1)],
            Self::With(_) => WIDTHS[size.min(WIDTHS.len() - 1)],
        }
    }

    const fn sizes(self) -> usize {
        match self {
            Self::Image(_) => FACTORS.len(),
            Self::With(_) => WIDTHS.len(),
        }
    }
}

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Choose,
    Filter,
    KeepBeside,
    Page,
    NextSample,
    NextStyle,
    Resize(i8),
    Ligatures,
    Open,
    Install,
    Fallback,
    Size,
    LineHeight(i8),
    Means,
}

/// What is asked for fonts that are not installed.
const SOURCE: &str = "a font file, folder, zip or tar archive";

/// What is typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Ask {
    Filter,
    Source,
    Size,
}

/// What comes of its slow work.
#[allow(missing_docs)]
pub enum Answer {
    Face(Key, Result<Box<Opened>, String>),
    /// What was typed, and what was read there.
    Source(String, Result<Box<FontSource>, String>),
    Installed(Result<String, String>),
}

/// The state of the bench.
#[derive(Debug)]
pub struct Font {
    /// The families that the filter lets through.
    pub families: Vec<Family>,
    /// The filter.
    pub filter: String,
    /// The family pointed at.
    pub cursor: usize,
    /// A file or archive that was opened.
    pub source: Option<Source>,
    /// What is shown.
    pub page: Page,
    /// The first line shown of the facts, or the feature pointed at.
    pub row: usize,
    /// The sample that comes first.
    pub sample: usize,
    /// Which of the sizes; the largest at which all samples are seen unless one was chosen.
    pub size: Option<usize>,
    /// The size in use.
    pub size_now: usize,
    /// The style shown, and chosen by Enter.
    pub style: Four,
    /// With which characters pixels are drawn, or as an image; the best there is unless one was chosen.
    pub drawn: Option<Drawn>,
    /// What is shown now.
    pub panels: Vec<Panel>,
    opened: BTreeMap<Key, Result<Opened, String>>,
    asked: BTreeSet<Key>,
    /// The family that was pointed at first: the one in use.
    started: bool,
    /// What the families were listed from.
    listed: String,
    /// What the panels were composed from.
    composed: String,
}

impl Default for Font {
    fn default() -> Self {
        Self {
            families: Vec::new(),
            filter: String::new(),
            cursor: 0,
            source: None,
            page: Page::Samples,
            row: 0,
            sample: 0,
            size: None,
            size_now: 0,
            style: Four::Regular,
            drawn: None,
            panels: Vec::new(),
            opened: BTreeMap::new(),
            asked: BTreeSet::new(),
            started: false,
            listed: String::new(),
            composed: String::new(),
        }
    }
}

impl Bench for Font {
    type Act = Act;
    type Ask = Ask;
    type Answer = Answer;

    const KEYS: &'static [Bound<Act>] = &[
        hint(Enter, Act::Choose, "Enter", "choose"),
        hint(Char('/'), Act::Filter, "/", "filter"),
        hint(Char(' '), Act::KeepBeside, "Space", "keep beside"),
        hint(Char('f'), Act::Page, "f", "samples, facts, features"),
        hint(Char('s'), Act::NextSample, "s", "next sample"),
        hint(Char('b'), Act::NextStyle, "b", "regular, bold, italic"),
        key(Char('+'), Act::Resize(1), "- +", "size of samples"),
        also(Char('='), Act::Resize(1)),
        also(Char('-'), Act::Resize(-1)),
        key(Char('l'), Act::Ligatures, "l", "ligatures on, off"),
        hint(Char('o'), Act::Open, "o", "open a file or archive"),
        key(Char('i'), Act::Install, "i", "install"),
        key(Char('e'), Act::Fallback, "e", "fall back to it"),
        key(Char('#'), Act::Size, "#", "size in points"),
        key(Char('h'), Act::LineHeight(1), "h H", "line height"),
        also(Char('H'), Act::LineHeight(-1)),
        key(Char('m'), Act::Means, "m", "how samples are drawn"),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "faces side by side".into()
    }

    fn command(&self, _: &Workspace) -> String {
        let Some(family) = self.family() else {
            return "wealdmist font list".to_owned();
        };
        let name = lines::word(&family.name);
        let opened = self.face_shown();
        let feature = opened.and_then(|o| o.facts.features.get(self.row));
        let full = opened.and_then(|o| o.facts.info.full_names.first());
        let full = full.map(|name| lines::word(name));
        let choose = match (self.page, self.style, feature, full) {
            (Page::Features, _, Some(feature), _) => format!("--feature {}", feature.tag),
            (_, Four::Bold, _, Some(full)) => format!("--bold {full}"),
            (_, Four::Italic, _, Some(full)) => format!("--italic {full}"),
            (_, Four::BoldItalic, _, Some(full)) => format!("--bold-italic {full}"),
            _ => name.clone(),
        };
        format!("wealdmist font choose {choose}   ·   wealdmist font show {name}")
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match act {
            Act::Choose => self.choose(ws),
            Act::Filter => {
                let question = Question::new("families whose name holds", self.filter.clone());
                return vec![Do::Ask(question, Ask::Filter)];
            }
            Act::KeepBeside => self.keep_beside(ws),
            Act::Page => {
                self.page = match self.page {
                    Page::Samples => Page::Facts,
                    Page::Facts => Page::Features,
                    Page::Features => Page::Samples,
                };
                self.row = 0;
            }
            Act::NextSample => self.sample = (self.sample + 1) % SAMPLES.len(),
            Act::NextStyle => {
                let at = Four::ALL.iter().position(|s| *s == self.style);
                self.style = Four::ALL[(at.unwrap_or(0) + 1) % 4];
            }
            Act::Resize(by) => {
                let last = self.drawn(ws).sizes() - 1;
                let now = self.size_now.min(last);
                self.size = Some(now.saturating_add_signed(by.into()).min(last));
            }
            Act::Ligatures => switch_ligatures(ws),
            Act::Open => {
                let question = Question::path(SOURCE, "");
                return vec![Do::Ask(question, Ask::Source)];
            }
            Act::Install => return self.install_family(ws),
            Act::Fallback => self.switch_fallback(ws),
            Act::Size => {
                let size = ws.doc().setup().font.size;
                let start = size.map_or(String::new(), |s| s.to_string());
                let question = Question::new("font size in points", start);
                return vec![Do::Ask(question, Ask::Size)];
            }
            Act::LineHeight(by) => change_line_height(0.05 * f64::from(by), ws),
            Act::Means => self.next_means(ws),
        }
        Vec::new()
    }

    fn typed(&mut self, ask: &Ask, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        let trimmed = text.trim();
        match ask {
            Ask::Filter => self.filter = text.to_owned(),
            Ask::Source if trimmed.is_empty() => {}
            Ask::Source => {
                let (home, typed) = (ws.survey.home.clone(), trimmed.to_owned());
                return Ok(vec![Do::Run(Job::new(
                    "source",
                    "reading fonts",
                    move || {
                        let read = wealdmist_host::open_source(&home.look_up(&typed));
                        Answer::Source(typed, read.map(Box::new).map_err(|e| e.to_string()))
                    },
                ))]);
            }
            Ask::Size => {
                let wrong = |_| format!("'{trimmed}' is no number of points");
                let size: f64 = trimmed.parse().map_err(wrong)?;
                let doc = ws.doc().with_number(&["font", "size"], size);
                ws.change(Ok::<_, String>(doc.map_err(|e| e.to_string())?));
            }
        }
        Ok(Vec::new())
    }

    fn typing(&mut self, ask: &Ask, text: Option<&str>, _: &mut Workspace) {
        // A filter shows its effect while it is typed.
        if *ask == Ask::Filter {
            self.filter = text.unwrap_or_default().to_owned();
        }
    }

    fn answered(&mut self, answer: Answer, ws: &mut Workspace) -> Reply<Self> {
        match answer {
            Answer::Face(key, opened) => self.face_opened(ws, key, opened.map(|o| *o)),
            Answer::Source(_, Ok(source)) => self.source_read(ws, *source),
            Answer::Source(typed, Err(why)) => {
                let question = Question::path(SOURCE, typed).refused(why);
                return vec![Do::Ask(question, Ask::Source)];
            }
            Answer::Installed(Ok(said)) => {
                self.source = None;
                self.opened.retain(|k, _| k.2);
                ws.tell(said);
                ws.fonts_changed();
            }
            Answer::Installed(Err(why)) => ws.complain(why),
        }
        Vec::new()
    }

    fn list(&mut self, _: &Workspace) -> Option<List<'_>> {
        let (facts, features) = (Page::Facts, Page::Features);
        let len = match self.page {
            Page::Samples => self.families.len(),
            page => self.face_shown().map_or(0, |o| match page {
                p if p == features => o.facts.features.len(),
                p => LONGEST_FACTS * usize::from(p == facts),
            }),
        };
        let cursor = match self.page {
            Page::Samples => &mut self.cursor,
            _ => &mut self.row,
        };
        Some(List { cursor, len })
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        self.list_families(ws);
        if !self.started && !self.families.is_empty() {
            self.started = true;
            let chosen = ws.doc().setup().font.family.as_deref().unwrap_or_default();
            let is_it = |f: &Family| f.name.eq_ignore_ascii_case(chosen);
            self.cursor = self.families.iter().position(is_it).unwrap_or(0);
        }
        self.show(ws)
    }

    fn open_count(&self, ws: &Workspace) -> usize {
        ws.derived.counts.fonts
    }

    fn needs_width(&self, ws: &Workspace) -> bool {
        !self.drawn(ws).is_image()
    }
}

impl Font {
    /// How samples are drawn now.
    pub fn drawn(&self, ws: &Workspace) -> Drawn {
        let all = Drawn::all(ws);
        let chosen = self.drawn.filter(|d| all.contains(d));
        chosen.unwrap_or_else(|| all.first().copied().unwrap_or(Drawn::With(Means::Ascii)))
    }

    /// The family pointed at.
    pub fn family(&self) -> Option<&Family> {
        self.families.get(self.cursor)
    }

    /// The size in words.
    pub fn size_label(&self, ws: &Workspace) -> String {
        match (self.drawn(ws), self.size_now) {
            (Drawn::Image(_), 0) => "at this terminal's own size".to_owned(),
            (Drawn::Image(_), n) => format!(
                "{} times this terminal's size",
                FACTORS[n.min(FACTORS.len() - 1)]
            ),
            (drawn, n) => format!("letters {} pixels wide", drawn.letter(n)),
        }
    }

    /// The size of the part beside the list, in cells.
    fn room(&self, ws: &Workspace) -> (usize, usize) {
        let room = if self.needs_width(ws) {
            Room::BenchAlone
        } else {
            Room::Bench
        };
        let bench = layout::layout(ws.size, room).bench.unwrap_or_default();
        (
            usize::from(bench.width).saturating_sub(LIST + 3),
            usize::from(bench.height).saturating_sub(2),
        )
    }

    /// Lists the families that the filter lets through: those of an opened file first.
    fn list_families(&mut self, ws: &Workspace) {
        let Some(found) = &ws.font else { return };
        let source = self.source.as_ref().map(|s| Arc::as_ptr(&s.source));
        let from = format!(
            "{:p} {source:?} {}",
            Arc::as_ptr(&found.catalog),
            self.filter
        );
        if from == self.listed {
            return;
        }
        self.listed = from;
        let filter = self.filter.to_lowercase();
        let mut out: Vec<Family> = Vec::new();
        let mut add = |catalog: &Catalog, installed: bool| {
            let mut own: BTreeMap<&str, (bool, usize)> = BTreeMap::new();
            for entry in &catalog.faces {
                let icons = icon::RANGES
                    .iter()
                    .map(|r| entry.coverage.count_in(&r.codes))
                    .sum();
                let family = own.entry(entry.info.family()).or_insert((true, 0));
                family.0 &= entry.info.measured_fixed;
                family.1 = family.1.max(icons);
            }
            let wanted = |(name, (fixed, _)): &(&str, (bool, usize))| {
                !name.is_empty()
                    && name.to_lowercase().contains(&filter)
                    && (*fixed || !installed || !filter.is_empty())
            };
            out.extend(
                own.into_iter()
                    .filter(wanted)
                    .map(|(name, (fixed, icons))| Family {
                        name: name.to_owned(),
                        fixed,
                        icons,
                        installed,
                    }),
            );
        };
        if let Some(source) = &self.source {
            add(&source.catalog, false);
        }
        add(&found.catalog, true);
        self.cursor = self.cursor.min(out.len().saturating_sub(1));
        self.families = out;
    }

    fn catalog_of<'a>(&'a self, ws: &'a Workspace, installed: bool) -> Option<&'a Catalog> {
        match installed {
            true => ws.font.as_ref().map(|f| f.catalog.as_ref()),
            false => self.source.as_ref().map(|s| &s.catalog),
        }
    }

    /// The families shown: the one pointed at, then those kept beside it.
    fn shown_families(&self, ws: &Workspace) -> Vec<(String, bool)> {
        let mut out: Vec<(String, bool)> = self
            .family()
            .map(|f| (f.name.clone(), f.installed))
            .into_iter()
            .collect();
        for kept in &ws.beside {
            if !out.contains(kept) && out.len() < MOST {
                out.push(kept.clone());
            }
        }
        out
    }

    /// The face of a family in the style shown; the regular one where it has none.
    fn entry_of<'a>(
        &'a self,
        ws: &'a Workspace,
        family: &str,
        installed: bool,
        style: Four,
    ) -> Option<(&'a Entry, bool)> {
        let catalog = self.catalog_of(ws, installed)?;
        match catalog.styled(family, style) {
            Some(entry) => Some((entry, true)),
            None => Some((catalog.find(family)?.0, false)),
        }
    }

    /// The face pointed at, as it was read.
    pub fn face_shown(&self) -> Option<&Opened> {
        let family = self.family()?;
        let key = (family.name.clone(), self.style, family.installed);
        self.opened.get(&key)?.as_ref().ok()
    }

    /// Composes what the bench shows, and asks for the files that have not been read yet.
    fn show(&mut self, ws: &Workspace) -> Reply<Self> {
        let mut out = Vec::new();
        let shown = self.shown_families(ws);
        for (family, installed) in &shown {
            let key = (family.clone(), self.style, *installed);
            if self.opened.contains_key(&key) || self.asked.contains(&key) {
                continue;
            }
            let Some((entry, _)) = self.entry_of(ws, family, *installed, self.style) else {
                continue;
            };
            let entry = entry.clone();
            let source = self.source.as_ref().filter(|_| !installed);
            let bytes = source.and_then(|s| s.source.bytes_of(&entry));
            self.asked.insert(key.clone());
            let lane = format!("face {key:?}");
            out.push(Do::Run(Job::new(lane, "", move || {
                let opened = open(&entry, bytes).map(Box::new);
                Answer::Face(key, opened)
            })));
        }
        self.compose(ws, &shown);
        out
    }

    /// A face was read.
    fn face_opened(&mut self, ws: &Workspace, key: Key, opened: Result<Opened, String>) {
        // What has not been looked at for long is forgotten: font files can be large.
        if self.opened.len() > 24 {
            let shown = self.shown_families(ws);
            self.opened
                .retain(|k, _| shown.iter().any(|(f, i)| *f == k.0 && *i == k.2));
        }
        self.asked.remove(&key);
        self.opened.insert(key, opened);
        let shown = self.shown_families(ws);
        self.compose(ws, &shown);
    }

    fn compose(&mut self, ws: &Workspace, shown: &[(String, bool)]) {
        let (columns, rows) = self.room(ws);
        let each = (rows / shown.len().max(1)).max(2);
        let features = ws.survey.doc.setup().font.shaping();
        let drawn = self.drawn(ws);
        let cell = drawn.cell();
        let read: Vec<bool> = shown
            .iter()
            .map(|(f, i)| self.opened.contains_key(&(f.clone(), self.style, *i)))
            .collect();
        let bench = &*self;
        let from = format!(
            "{shown:?} {read:?} {:?} {} {:?} {features:?} {:?} {cell:?} {columns} {rows}",
            bench.style,
            bench.sample,
            bench.size,
            ws.survey.doc.setup().font.line_height,
        );
        if from == bench.composed {
            return;
        }
        self.composed = from;
        let area = (columns as u32 * cell.0, (each - 1) as u32 * cell.1);
        self.size_now = match self.size {
            Some(size) => size.min(drawn.sizes() - 1),
            None => self.best_size(ws, shown, area),
        };
        let letter = drawn.letter(self.size_now);
        let mut size = None;
        let mut panels = Vec::new();
        for (family, installed) in shown {
            let key = (family.clone(), self.style, *installed);
            let fits = self
                .entry_of(ws, family, *installed, self.style)
                .is_some_and(|e| e.1);
            let mut note = match (installed, fits) {
                (false, _) => "not installed".to_owned(),
                (_, false) => format!("no {} face: regular is shown", self.style.label()),
                _ => String::new(),
            };
            let mut title = format!("{family} {}", self.style.label());
            let raster = match self.opened.get(&key) {
                Some(Ok(opened)) => {
                    title = opened.title.clone();
                    let own = opened.face.cell();
                    // All faces at one size, so that they can be compared.
                    let pixels = *size.get_or_insert_with(|| {
                        let first = Grid::of_width(&own, letter);
                        first.pixels_per_em(&own)
                    });
                    let grid = Grid::at(
                        &own,
                        pixels,
                        ws.survey.doc.setup().font.line_height.unwrap_or(1.0) as f32,
                    );
                    Some(Arc::new(samples(
                        &opened.face,
                        &grid,
                        self.sample,
                        &features,
                        area,
                    )))
                }
                Some(Err(why)) => {
                    note.clone_from(why);
                    None
                }
                None => None,
            };
            panels.push(Panel {
                title,
                note,
                raster,
                rows: each - 1,
            });
        }
        self.panels = panels;
    }

    /// The largest size at which every sample is seen whole; the least where none is.
    fn best_size(&self, ws: &Workspace, shown: &[(String, bool)], area: (u32, u32)) -> usize {
        let drawn = self.drawn(ws);
        let faces = shown.iter().filter_map(|(family, installed)| {
            let key = (family.clone(), self.style, *installed);
            self.opened.get(&key)?.as_ref().ok()
        });
        let Some(first) = faces.into_iter().next() else {
            return 0;
        };
        let cell = first.face.cell();
        let lines: u32 = SAMPLES.iter().map(|s| s.lines.len() as u32).sum();
        let fits = |size: &usize| {
            let grid = Grid::of_width(&cell, drawn.letter(*size));
            let height = lines * grid.cell_height + SAMPLES.len() as u32 * grid.cell_height / 3;
            height <= area.1 && 31 * grid.cell_width <= area.0
        };
        // With characters, letters are only legible from some pixels on.
        let least = if drawn.is_image() { 0 } else { 2 };
        (least..drawn.sizes()).rev().find(fits).unwrap_or(least)
    }

    /// Draws samples in the next way.
    fn next_means(&mut self, ws: &mut Workspace) {
        let all = Drawn::all(ws);
        let now = self.drawn(ws);
        let at = all.iter().position(|d| *d == now).unwrap_or(0);
        let Some(next) = all.get((at + 1) % all.len().max(1)) else {
            return;
        };
        self.drawn = Some(*next);
        // Between image and characters, sizes mean something else.
        if next.is_image() != now.is_image() {
            self.size = None;
        }
        let label = match next {
            Drawn::Image(_) => "an image",
            Drawn::With(means) => means.label(),
        };
        ws.tell(format!("samples are drawn as {label}"));
    }

    /// Keeps the family beside the next ones, or no longer.
    fn keep_beside(&mut self, ws: &mut Workspace) {
        let Some(family) = self.family().map(|f| (f.name.clone(), f.installed)) else {
            return;
        };
        match ws.beside.iter().position(|f| *f == family) {
            Some(at) => {
                ws.beside.remove(at);
            }
            None => {
                ws.beside.insert(0, family);
                ws.beside.truncate(MOST - 1);
            }
        }
    }
}

/// The lines of the samples from one on, as many as there is room for.
fn samples(
    face: &Typeface,
    grid: &Grid,
    first: usize,
    features: &[FeatureSetting],
    area: (u32, u32),
) -> Raster {
    let mut out = Raster::new(area.0, area.1);
    let mut y = 0;
    for i in 0..SAMPLES.len() {
        for text in SAMPLES[(first + i) % SAMPLES.len()].lines {
            if y + grid.cell_height > out.height && y > 0 {
                return out;
            }
            out.put(&line(face, grid, text, features), 0, y);
            y += grid.cell_height;
        }
        y += grid.cell_height / 3;
    }
    out
}

/// Reads a face with its facts, on a thread.
fn open(entry: &Entry, bytes: Option<Arc<Vec<u8>>>) -> Result<Opened, String> {
    let path = &entry.path;
    let name = |e: &dyn std::fmt::Display| format!("{}: {e}", path.display());
    let bytes = match bytes {
        Some(bytes) => bytes,
        None => Arc::new(wealdmist_host::read_font(path).map_err(|e| name(&e))?),
    };
    let index = entry.info.index;
    let facts = font::facts::facts(&bytes, index).map_err(|e| name(&e))?;
    let face = Typeface::open(bytes, index).map_err(|e| name(&e))?;
    let changes = facts
        .features
        .iter()
        .map(|f| features::changes(&face, f.tag))
        .collect();
    Ok(Opened {
        title: entry.info.title(),
        path: path.clone(),
        face,
        facts,
        changes,
    })
}
