//! The Font bench: families installed or in an archive, samples side by side, facts, features,
//! and the choice.

mod choice;
mod source;

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::sync::Arc;

use wealdmist_core::font::facts::Facts;
use wealdmist_core::font::picture::Means;
use wealdmist_core::font::raster::{Grid, Raster, line};
use wealdmist_core::font::sample::SAMPLES;
use wealdmist_core::font::{self, Catalog, Entry, FeatureSetting, Four, Typeface, features};
use wealdmist_core::icon;
use wealdmist_host::{FontSearch, FontSource};

use super::{App, Effect, Input, Purpose};
use crate::tui::view::layout::{self, Room};

pub use source::carry_out;

/// How wide letters are drawn with characters, in pixels.
const WIDTHS: [f32; 6] = [4.0, 5.0, 6.0, 8.0, 12.0, 20.0];
/// How much larger than the terminal's own cells letters are drawn as an image.
const FACTORS: [f32; 4] = [1.0, 1.5, 2.0, 3.0];
/// How many faces are shown at once.
const MOST: usize = 3;
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

/// What is asked of a thread: a face to read.
#[derive(Debug, Clone, PartialEq)]
pub struct Wanted {
    /// By what it is remembered.
    pub key: Key,
    /// Which face.
    pub entry: Entry,
    /// Its bytes, where it is not a file of its own.
    pub bytes: Option<Arc<Vec<u8>>>,
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
    pub raster: Option<Raster>,
    /// Rows on the screen, without the title.
    pub rows: usize,
}

/// The state of the bench.
#[derive(Debug)]
pub struct FontBench {
    /// The families that the filter lets through.
    pub families: Vec<Family>,
    /// The filter.
    pub filter: String,
    /// The family pointed at.
    pub cursor: usize,
    /// Families kept beside it.
    pub beside: Vec<(String, bool)>,
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
    /// With which characters pixels are drawn.
    pub means: Means,
    /// The means this terminal has, the best first.
    pub all_means: Vec<Means>,
    /// The pixels of a cell, where the terminal can be shown images.
    pub pixels: Option<(u32, u32)>,
    /// Whether images are used.
    pub as_image: bool,
    /// What is shown now.
    pub panels: Vec<Panel>,
    opened: BTreeMap<Key, Result<Opened, String>>,
    asked: Vec<Key>,
    /// What the panels were composed from.
    composed: String,
}

impl Default for FontBench {
    fn default() -> Self {
        Self {
            families: Vec::new(),
            filter: String::new(),
            cursor: 0,
            beside: Vec::new(),
            source: None,
            page: Page::Samples,
            row: 0,
            sample: 0,
            size: None,
            size_now: 0,
            style: Four::Regular,
            means: Means::Dots,
            all_means: Means::ALL.to_vec(),
            pixels: None,
            as_image: false,
            panels: Vec::new(),
            opened: BTreeMap::new(),
            asked: Vec::new(),
            composed: String::new(),
        }
    }
}

impl FontBench {
    /// Says which means the terminal has.
    pub fn means_are(&mut self, means: Vec<Means>, pixels: Option<(u32, u32)>) {
        self.means = means.first().copied().unwrap_or(Means::Ascii);
        self.all_means = means;
        self.pixels = pixels;
        self.as_image = pixels.is_some();
    }

    /// The family pointed at.
    pub fn family(&self) -> Option<&Family> {
        self.families.get(self.cursor)
    }

    /// A face that has been read.
    pub fn opened(&self, key: &Key) -> Option<&Result<Opened, String>> {
        self.opened.get(key)
    }

    /// The pixels of a panel's cell.
    fn cell(&self) -> (u32, u32) {
        match self.pixels.filter(|_| self.as_image) {
            Some(pixels) => pixels,
            None => self.means.pixels(),
        }
    }

    /// The width of a letter in pixels, in one of the sizes.
    fn letter(&self, size: usize) -> f32 {
        match self.pixels.filter(|_| self.as_image) {
            Some((width, _)) => width as f32 * FACTORS[size.min(FACTORS.len() - 1)],
            None => WIDTHS[size.min(WIDTHS.len() - 1)],
        }
    }

    /// The size in words.
    pub fn size_label(&self) -> String {
        match (self.as_image, self.size_now) {
            (true, 0) => "at this terminal's own size".to_owned(),
            (true, n) => format!(
                "{} times this terminal's size",
                FACTORS[n.min(FACTORS.len() - 1)]
            ),
            (false, n) => format!("letters {} pixels wide", self.letter(n)),
        }
    }

    fn sizes(&self) -> usize {
        if self.as_image {
            FACTORS.len()
        } else {
            WIDTHS.len()
        }
    }

    /// The size of the part beside the list, in cells.
    fn room(&self, screen: (u16, u16)) -> (usize, usize) {
        let room = if self.as_image {
            Room::Bench
        } else {
            Room::BenchAlone
        };
        let bench = layout::layout(screen, room).bench.unwrap_or_default();
        (
            usize::from(bench.width).saturating_sub(LIST + 3),
            usize::from(bench.height).saturating_sub(2),
        )
    }
}

impl App {
    /// Takes in what was found of the fonts.
    pub(super) fn fonts_found(&mut self, found: FontSearch) -> Vec<Effect> {
        self.survey.catalog = Some(Arc::clone(&found.catalog));
        let first = self.font.is_none();
        self.font = Some(found);
        self.busy = None;
        self.list_families();
        if first {
            let chosen = self
                .survey
                .doc
                .setup()
                .font
                .family
                .clone()
                .unwrap_or_default();
            let at = self
                .fonts
                .families
                .iter()
                .position(|f| f.name.eq_ignore_ascii_case(&chosen));
            self.fonts.cursor = at.unwrap_or(0);
        }
        self.recompute();
        self.show_fonts()
    }

    /// Lists the families that the filter lets through: those of an opened file first.
    pub(super) fn list_families(&mut self) {
        let Some(found) = &self.font else { return };
        let filter = self.fonts.filter.to_lowercase();
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
        if let Some(source) = &self.fonts.source {
            add(&source.catalog, false);
        }
        add(&found.catalog, true);
        self.fonts.cursor = self.fonts.cursor.min(out.len().saturating_sub(1));
        self.fonts.families = out;
    }

    fn catalog_of(&self, installed: bool) -> Option<&Catalog> {
        match installed {
            true => self.font.as_ref().map(|f| f.catalog.as_ref()),
            false => self.fonts.source.as_ref().map(|s| &s.catalog),
        }
    }

    /// The families shown: the one pointed at, then those kept beside it.
    fn shown_families(&self) -> Vec<(String, bool)> {
        let mut out: Vec<(String, bool)> = self
            .fonts
            .family()
            .map(|f| (f.name.clone(), f.installed))
            .into_iter()
            .collect();
        for kept in &self.fonts.beside {
            if !out.contains(kept) && out.len() < MOST {
                out.push(kept.clone());
            }
        }
        out
    }

    /// The face of a family in the style shown; the regular one where it has none.
    fn entry_of(&self, family: &str, installed: bool, style: Four) -> Option<(&Entry, bool)> {
        let catalog = self.catalog_of(installed)?;
        match catalog.styled(family, style) {
            Some(entry) => Some((entry, true)),
            None => Some((catalog.find(family)?.0, false)),
        }
    }

    /// The face pointed at, as it was read.
    pub fn face_shown(&self) -> Option<&Opened> {
        let family = self.fonts.family()?;
        let key = (family.name.clone(), self.fonts.style, family.installed);
        self.fonts.opened(&key)?.as_ref().ok()
    }

    /// Composes what the bench shows, and asks for the files that have not been read yet.
    pub(super) fn show_fonts(&mut self) -> Vec<Effect> {
        if self.step != super::Step::Font {
            return Vec::new();
        }
        let mut effects = Vec::new();
        let shown = self.shown_families();
        for (family, installed) in &shown {
            let key = (family.clone(), self.fonts.style, *installed);
            if self.fonts.opened.contains_key(&key) || self.fonts.asked.contains(&key) {
                continue;
            }
            let Some((entry, _)) = self.entry_of(family, *installed, self.fonts.style) else {
                continue;
            };
            let entry = entry.clone();
            let source = self.fonts.source.as_ref().filter(|_| !installed);
            let bytes = source.and_then(|s| s.source.bytes_of(&entry));
            self.fonts.asked.push(key.clone());
            effects.push(Effect::OpenFace(Box::new(Wanted { key, entry, bytes })));
        }
        self.compose(&shown);
        effects
    }

    /// A face was read.
    pub(super) fn face_opened(&mut self, key: Key, opened: Result<Opened, String>) {
        // What has not been looked at for long is forgotten: font files can be large.
        if self.fonts.opened.len() > 24 {
            let shown = self.shown_families();
            self.fonts
                .opened
                .retain(|k, _| shown.iter().any(|(f, i)| *f == k.0 && *i == k.2));
        }
        self.fonts.asked.retain(|k| *k != key);
        self.fonts.opened.insert(key, opened);
        let shown = self.shown_families();
        self.compose(&shown);
    }

    fn compose(&mut self, shown: &[(String, bool)]) {
        let (columns, rows) = self.fonts.room(self.size);
        let each = (rows / shown.len().max(1)).max(2);
        let features = self.survey.doc.setup().font.shaping();
        let cell = self.fonts.cell();
        let read: Vec<bool> = shown
            .iter()
            .map(|(f, i)| {
                self.fonts
                    .opened
                    .contains_key(&(f.clone(), self.fonts.style, *i))
            })
            .collect();
        let bench = &self.fonts;
        let from = format!(
            "{shown:?} {read:?} {:?} {} {:?} {features:?} {:?} {cell:?} {columns} {rows}",
            bench.style,
            bench.sample,
            bench.size,
            self.survey.doc.setup().font.line_height,
        );
        if from == bench.composed {
            return;
        }
        self.fonts.composed = from;
        let area = (columns as u32 * cell.0, (each - 1) as u32 * cell.1);
        self.fonts.size_now = match self.fonts.size {
            Some(size) => size.min(self.fonts.sizes() - 1),
            None => self.best_size(shown, area),
        };
        let letter = self.fonts.letter(self.fonts.size_now);
        let mut size = None;
        let mut panels = Vec::new();
        for (family, installed) in shown {
            let key = (family.clone(), self.fonts.style, *installed);
            let fits = self
                .entry_of(family, *installed, self.fonts.style)
                .is_some_and(|e| e.1);
            let mut note = match (installed, fits) {
                (false, _) => "not installed".to_owned(),
                (_, false) => format!("no {} face: regular is shown", self.fonts.style.label()),
                _ => String::new(),
            };
            let mut title = format!("{family} {}", self.fonts.style.label());
            let raster = match self.fonts.opened.get(&key) {
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
                        self.survey.doc.setup().font.line_height.unwrap_or(1.0) as f32,
                    );
                    Some(samples(
                        &opened.face,
                        &grid,
                        self.fonts.sample,
                        &features,
                        area,
                    ))
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
        self.fonts.panels = panels;
    }

    /// The largest size at which every sample is seen whole; the least where none is.
    fn best_size(&self, shown: &[(String, bool)], area: (u32, u32)) -> usize {
        let faces = shown.iter().filter_map(|(family, installed)| {
            let key = (family.clone(), self.fonts.style, *installed);
            self.fonts.opened(&key)?.as_ref().ok()
        });
        let Some(first) = faces.into_iter().next() else {
            return 0;
        };
        let cell = first.face.cell();
        let lines: u32 = SAMPLES.iter().map(|s| s.lines.len() as u32).sum();
        let fits = |size: &usize| {
            let grid = Grid::of_width(&cell, self.fonts.letter(*size));
            let height = lines * grid.cell_height + SAMPLES.len() as u32 * grid.cell_height / 3;
            height <= area.1 && 31 * grid.cell_width <= area.0
        };
        // With characters, letters are only legible from some pixels on.
        let least = if self.fonts.as_image { 0 } else { 2 };
        (least..self.fonts.sizes())
            .rev()
            .find(fits)
            .unwrap_or(least)
    }

    /// Which of bench and specimen have the room now.
    pub fn room(&self) -> Room {
        match (self.filled, self.on_specimen) {
            (true, _) => Room::SpecimenAlone,
            (_, true) => Room::Specimen,
            _ if self.step == super::Step::Font && !self.fonts.as_image => Room::BenchAlone,
            _ => Room::Bench,
        }
    }

    /// Changes how samples are shown.
    pub(super) fn next_sample(&mut self) -> Vec<Effect> {
        self.fonts.sample = (self.fonts.sample + 1) % SAMPLES.len();
        self.show_fonts()
    }

    pub(super) fn resize_sample(&mut self, by: isize) -> Vec<Effect> {
        let last = self.fonts.sizes() - 1;
        self.fonts.size = Some(
            self.fonts
                .size_now
                .min(last)
                .saturating_add_signed(by)
                .min(last),
        );
        self.show_fonts()
    }

    pub(super) fn next_style(&mut self) -> Vec<Effect> {
        let at = Four::ALL
            .iter()
            .position(|s| *s == self.fonts.style)
            .unwrap_or(0);
        self.fonts.style = Four::ALL[(at + 1) % 4];
        self.show_fonts()
    }

    pub(super) fn next_means(&mut self) -> Vec<Effect> {
        let bench = &mut self.fonts;
        if bench.as_image {
            bench.as_image = false;
            bench.means = bench.all_means.first().copied().unwrap_or(Means::Ascii);
        } else {
            let at = bench
                .all_means
                .iter()
                .position(|m| *m == bench.means)
                .unwrap_or(0)
                + 1;
            bench.as_image = at >= bench.all_means.len() && bench.pixels.is_some();
            bench.means = bench.all_means[at % bench.all_means.len()];
        }
        let label = if bench.as_image {
            "an image"
        } else {
            bench.means.label()
        };
        let text = format!("samples are drawn as {label}");
        self.tell(&text);
        self.show_fonts()
    }

    pub(super) fn next_page(&mut self) -> Vec<Effect> {
        self.fonts.page = match self.fonts.page {
            Page::Samples => Page::Facts,
            Page::Facts => Page::Features,
            Page::Features => Page::Samples,
        };
        self.fonts.row = 0;
        self.show_fonts()
    }

    /// Keeps the family beside the next ones, or no longer.
    pub(super) fn keep_beside(&mut self) -> Vec<Effect> {
        let Some(family) = self.fonts.family().map(|f| (f.name.clone(), f.installed)) else {
            return Vec::new();
        };
        match self.fonts.beside.iter().position(|f| *f == family) {
            Some(at) => {
                self.fonts.beside.remove(at);
            }
            None => {
                self.fonts.beside.insert(0, family);
                self.fonts.beside.truncate(MOST - 1);
            }
        }
        self.show_fonts()
    }

    pub(super) fn start_font_filter(&mut self) {
        self.input = Some(Input {
            question: "families whose name holds".into(),
            text: self.fonts.filter.clone(),
            purpose: Purpose::FontFilter,
        });
    }

    pub(super) fn filter_fonts(&mut self, text: &str) -> Vec<Effect> {
        self.fonts.filter = text.to_owned();
        self.list_families();
        self.show_fonts()
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
pub fn open(wanted: &Wanted) -> Result<Opened, String> {
    let path = &wanted.entry.path;
    let name = |e: &dyn std::fmt::Display| format!("{}: {e}", path.display());
    let bytes = match &wanted.bytes {
        Some(bytes) => Arc::clone(bytes),
        None => Arc::new(wealdmist_host::read_font(path).map_err(|e| name(&e))?),
    };
    let index = wanted.entry.info.index;
    let facts = font::facts::facts(&bytes, index).map_err(|e| name(&e))?;
    let face = Typeface::open(bytes, index).map_err(|e| name(&e))?;
    let changes = facts
        .features
        .iter()
        .map(|f| features::changes(&face, f.tag))
        .collect();
    Ok(Opened {
        title: wanted.entry.info.title(),
        path: path.clone(),
        face,
        facts,
        changes,
    })
}
