//! Proposals: drafts that are shown before they are taken. A repair, palettes that were made,
//! imported or found in a folder; walked through with the specimen changing at each step, two at
//! a time if wanted, and taken or left. Nothing is changed until one is taken.

use wealdmist_core::color::parse_any;
use wealdmist_core::look::Look;
use wealdmist_core::make::{self, Cluster, Variation};
use wealdmist_core::pair::pairs;
use wealdmist_core::repair::{Repair, Request, Scope, Wish, repair, wishes};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::{Palette, SetupDoc, Variant};
use wealdmist_core::specimen::Specimen;
use wealdmist_host::{Picture, read_folder, read_palette};
use wealdmist_tools::exchange::{Imported, import};

use super::{App, Effect, Input, Purpose};
use crate::command::{IMAGE_COLORS, free_name, readable, with_imported};

/// One draft that can be taken.
#[derive(Debug, Clone)]
pub struct Candidate {
    /// What it is called.
    pub name: String,
    /// The setup with it in use.
    pub doc: SetupDoc,
    /// It resolved.
    pub look: Look,
    /// How many pairs are below their target in it.
    pub failing: usize,
    /// What is worth knowing, line by line: what could not be mapped, where it comes from.
    pub remarks: Vec<String>,
}

/// What is proposed.
#[derive(Debug, Clone)]
pub enum Matter {
    /// Palettes, one of which may be taken.
    Palettes,
    /// A repair of the draft, with the wishes it was made for.
    Repair(Repair, Vec<Wish>),
}

/// A picture's colors, as shown beside the palettes made of it.
#[derive(Debug, Clone)]
pub struct Source {
    /// The picture, reduced: so many columns, and its pixels row by row, two to a cell.
    pub columns: usize,
    /// The reduced picture's pixels, row by row.
    pub pixels: Vec<wealdmist_core::Rgb>,
    /// The colors found in it.
    pub clusters: Vec<Cluster>,
}

/// A proposal.
#[derive(Debug, Clone)]
pub struct Proposal {
    /// What it is, for people.
    pub title: String,
    /// The drafts, at least one.
    pub candidates: Vec<Candidate>,
    /// The one pointed at.
    pub cursor: usize,
    /// One that is kept beside it for comparison.
    pub marked: Option<usize>,
    /// Whether the specimen shows the draft as it was, to compare.
    pub shows_before: bool,
    /// What it is about.
    pub matter: Matter,
    /// The picture the palettes come from.
    pub source: Option<Source>,
}

/// The ways of making a palette, as the menu lists them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Way {
    Variations,
    Counterpart,
    Seeds,
    Image,
    File,
    Paste,
    Folder,
}

impl Way {
    /// All, in the order of the menu.
    pub const ALL: [Self; 7] = [
        Self::Variations,
        Self::Counterpart,
        Self::Seeds,
        Self::Image,
        Self::File,
        Self::Paste,
        Self::Folder,
    ];

    /// The line in the menu, and what it does.
    pub const fn label(self) -> (&'static str, &'static str) {
        match self {
            Self::Variations => ("variations", "warmer, cooler, softer, sharper"),
            Self::Counterpart => ("counterpart", "the same hues on the other ground"),
            Self::Seeds => ("seed colors", "one or two, in any notation"),
            Self::Image => ("image", "a photograph or a wallpaper"),
            Self::File => ("file", "an open format, or another program's"),
            Self::Paste => ("paste", "the text of such a file"),
            Self::Folder => ("folder", "walk through every palette in it"),
        }
    }
}

impl Proposal {
    /// The draft pointed at.
    pub fn candidate(&self) -> &Candidate {
        &self.candidates[self.cursor.min(self.candidates.len() - 1)]
    }
}

impl App {
    fn candidate(&self, name: &str, doc: SetupDoc, remarks: Vec<String>) -> Candidate {
        let look = Look::new(doc.setup());
        let all = pairs(doc.setup(), &look, &self.survey.reports, &self.conditions);
        Candidate {
            name: name.to_owned(),
            failing: all.iter().filter(|p| !p.fine()).count(),
            doc,
            look,
            remarks,
        }
    }

    /// The draft with nothing in it that could not differ from palette to palette.
    fn base(&self) -> SetupDoc {
        let doc = &self.survey.doc;
        doc.with_role_colors_named().unwrap_or_else(|_| doc.clone())
    }

    /// A draft with a palette added and in use.
    fn with_palette(&self, palette: &Palette, remarks: Vec<String>) -> Option<Candidate> {
        let doc = self.base().with_palette(palette).ok()?;
        let doc = doc.with_text(&["palette"], &palette.name).ok()?;
        let doc = readable(&doc, &self.survey.reports);
        Some(self.candidate(&palette.name, doc, remarks))
    }

    fn propose(&mut self, title: &str, candidates: Vec<Candidate>, source: Option<Source>) {
        if candidates.is_empty() {
            self.complain("nothing came of it".to_owned());
            return;
        }
        self.proposal = Some(Proposal {
            title: title.to_owned(),
            candidates,
            cursor: 0,
            marked: None,
            shows_before: false,
            matter: Matter::Palettes,
            source,
        });
        self.on_specimen = false;
        self.draw_specimen();
    }

    /// Starts one of the ways of the menu.
    pub(super) fn start_way(&mut self, way: Way) {
        self.menu = None;
        let ask = |question: &str, purpose| {
            Some(Input {
                question: question.to_owned(),
                text: String::new(),
                purpose,
            })
        };
        match way {
            Way::Variations => self.propose_variations(),
            Way::Counterpart => self.propose_counterpart(),
            Way::Seeds => self.input = ask("one or two colors", Purpose::Seeds),
            Way::Image => self.input = ask("image file", Purpose::Image),
            Way::File => self.input = ask("palette file", Purpose::File),
            Way::Paste => {
                self.input = ask("paste the palette's text, then Enter", Purpose::Pasted);
            }
            Way::Folder => self.input = ask("folder of palettes", Purpose::Folder),
        }
    }

    fn propose_variations(&mut self) {
        let base = self.base();
        let setup = base.setup();
        let from = setup.palette();
        let made = Variation::ALL.into_iter().filter_map(|v| {
            let name = free_name(&self.survey.doc, &format!("{} {}", from.name, v.label()));
            self.with_palette(&make::vary(setup, from, v, &name), Vec::new())
        });
        let made = made.collect();
        self.propose("variations of the palette", made, None);
    }

    fn propose_counterpart(&mut self) {
        let base = self.base();
        let setup = base.setup();
        let from = setup.palette();
        let other = match from.variant {
            Variant::Dark => "light",
            Variant::Light => "dark",
        };
        let name = free_name(&self.survey.doc, &format!("{} {other}", from.name));
        let made = make::counterpart(setup, from, &name);
        let made = self.with_palette(&made, Vec::new()).into_iter().collect();
        self.propose("the palette on the other ground", made, None);
    }

    /// Palettes from seed colors as typed.
    pub(super) fn typed_seeds(&mut self, text: &str) {
        // Blanks part the colors, but also stand inside `oklch(…)`.
        let mut seeds = Vec::new();
        let mut rest = text.trim();
        while !rest.is_empty() && seeds.len() < 2 {
            let end = match (rest.find('('), rest.find(char::is_whitespace)) {
                (Some(open), Some(blank)) if open < blank => {
                    rest.find(')').map_or(rest.len(), |e| e + 1)
                }
                (_, Some(blank)) => blank,
                _ => rest.len(),
            };
            let one = rest[..end].trim_end_matches(',');
            match parse_any(one) {
                Some(color) => seeds.push(color),
                None => {
                    self.complain(format!(
                        "'{one}' is not a color: write #rrggbb, or any notation of CSS"
                    ));
                    return;
                }
            }
            rest = rest[end..].trim_start();
        }
        if seeds.is_empty() {
            self.complain("no color was given".to_owned());
            return;
        }
        let base = self.base();
        let setup = base.setup();
        let made = [Variant::Dark, Variant::Light].into_iter().filter_map(|v| {
            let name = free_name(&self.survey.doc, &format!("seeded {}", v.key()));
            self.with_palette(&make::from_seeds(setup, &name, &seeds, v), Vec::new())
        });
        let made = made.collect();
        self.propose("from seed colors", made, None);
    }

    /// Palettes from an image that was read.
    pub(super) fn image_read(&mut self, name: &str, picture: Result<Picture, String>) {
        self.busy = None;
        let picture = match picture {
            Ok(picture) => picture,
            Err(error) => return self.complain(error),
        };
        let clusters = make::clusters(&picture.pixels, IMAGE_COLORS);
        let base = self.base();
        let setup = base.setup();
        let made = [Variant::Dark, Variant::Light].into_iter().filter_map(|v| {
            let name = free_name(&self.survey.doc, &format!("{name} {}", v.key()));
            let palette = make::from_image(setup, &name, &clusters, v);
            self.with_palette(&palette, Vec::new())
        });
        let made = made.collect();
        let columns = 44;
        let rows = (columns * picture.height / picture.width.max(1)).clamp(2, 28) & !1;
        let pixels = (0..rows * columns)
            .map(|i| {
                let (x, y) = (i % columns, i / columns);
                picture.pixel(
                    (2 * x + 1) * picture.width / (2 * columns),
                    (2 * y + 1) * picture.height / (2 * rows),
                )
            })
            .collect();
        let source = Source {
            columns,
            pixels,
            clusters,
        };
        self.propose("from an image", made, Some(source));
    }

    fn imported(&self, found: &Imported, name: &str) -> Result<Candidate, String> {
        let name = free_name(&self.survey.doc, name);
        let doc = with_imported(&self.survey.doc, found, &name).map_err(|e| e.to_string())?;
        let doc = doc
            .with_text(&["palette"], &name)
            .map_err(|e| e.to_string())?;
        let mut remarks = vec![format!(
            "{} slots, {} further colors",
            found.slots.len(),
            found.colors.len()
        )];
        for (role, color) in &found.roles {
            remarks.push(format!(
                "{color} for {role} is not taken: it would be in every palette"
            ));
        }
        for one in &found.unmapped {
            remarks.push(format!(
                "line {}: {} {} has no place",
                one.line, one.key, one.color
            ));
        }
        Ok(self.candidate(&name, doc, remarks))
    }

    /// A palette from a file that was named.
    pub(super) fn typed_file(&mut self, text: &str) {
        let path = self.survey.home.expand(text.trim());
        match read_palette(&path, None) {
            Ok(file) => {
                let made = self.imported(&file.found, &file.name());
                self.propose_imported(made);
            }
            Err(error) => self.complain(error.to_string()),
        }
    }

    /// A palette from text that was pasted.
    pub(super) fn pasted_palette(&mut self, text: &str) {
        match import(None, "", text) {
            Ok(found) => {
                let name = found.name.clone().unwrap_or_else(|| "pasted".to_owned());
                let made = self.imported(&found, &name);
                self.propose_imported(made);
            }
            Err(error) => self.complain(format!("pasted text, {error}")),
        }
    }

    fn propose_imported(&mut self, made: Result<Candidate, String>) {
        match made {
            Ok(made) => self.propose("imported", vec![made], None),
            Err(error) => self.complain(error),
        }
    }

    /// Every palette of a folder that was named.
    pub(super) fn typed_folder(&mut self, text: &str) {
        let path = self.survey.home.expand(text.trim());
        match read_folder(&path) {
            Ok((files, others)) => {
                let made: Vec<Candidate> = files
                    .iter()
                    .filter_map(|f| self.imported(&f.found, &f.name()).ok())
                    .collect();
                if made.is_empty() {
                    self.complain(format!(
                        "none of the {others} files in {} is a palette that can be read",
                        path.display()
                    ));
                    return;
                }
                let title = format!("{} palettes, {others} other files", made.len());
                self.propose(&title, made, None);
            }
            Err(error) => self.complain(format!("{}: {error}", path.display())),
        }
    }

    /// Proposes the smallest change that mends contrast, of one color or of the whole palette.
    pub(super) fn propose_repair(&mut self, scope: &Scope) {
        let setup = self.survey.doc.setup();
        let wanted = wishes(&self.derived.pairs);
        let done = repair(&Request {
            setup,
            palette: setup.palette(),
            wishes: &wanted,
            conditions: &self.conditions,
            scope,
            meanings: !self.conditions.vision.is_full() && *scope == Scope::Palette,
        });
        if done.changes.is_empty() {
            match done.obstacles.first() {
                Some(o) => {
                    let wish = &wanted[o.wish];
                    let text = format!("{} on {}: {}", wish.text, wish.ground, o.why);
                    self.complain(text);
                }
                None => self.tell("every pair reaches its target: nothing to repair"),
            }
            return;
        }
        let doc = match done.carried_out(&self.survey.doc, &setup.active) {
            Ok(doc) => doc,
            Err(error) => return self.complain(error.to_string()),
        };
        let candidate = self.candidate("repaired", doc, Vec::new());
        self.proposal = Some(Proposal {
            title: match scope {
                Scope::Palette => "repair of the whole palette".to_owned(),
                Scope::Color(origin) => format!("repair of {}", self.name_of(origin)),
                Scope::Role(role) => format!("repair of {role}"),
            },
            candidates: vec![candidate],
            cursor: 0,
            marked: None,
            shows_before: false,
            matter: Matter::Repair(done, wanted),
            source: None,
        });
        self.on_specimen = false;
        self.draw_specimen();
    }

    /// Makes the proposal's draft the draft.
    pub(super) fn take_proposal(&mut self) {
        let Some(proposal) = self.proposal.take() else {
            return;
        };
        let candidate = proposal.candidate();
        let name = candidate.name.clone();
        let text = match &proposal.matter {
            Matter::Repair(done, _) => format!("{} colors moved", done.changes.len()),
            Matter::Palettes => format!("the draft has and uses the palette '{name}'"),
        };
        if self.change(Ok::<_, String>(candidate.doc.clone())) {
            self.tell(&text);
        }
        self.moved();
    }

    /// Leaves the proposal; the draft is as it was.
    pub(super) fn leave_proposal(&mut self) {
        self.proposal = None;
        self.tell("left as it was");
        self.draw_specimen();
        self.moved();
    }

    /// Moves through the proposal's drafts.
    pub(super) fn walk(&mut self, by: isize) {
        if let Some(proposal) = &mut self.proposal {
            let last = proposal.candidates.len() - 1;
            proposal.cursor = proposal.cursor.saturating_add_signed(by).min(last);
            proposal.shows_before = false;
        }
        self.draw_specimen();
    }

    /// Keeps the draft pointed at beside the others, or no longer.
    pub(super) fn mark_candidate(&mut self) {
        if let Some(proposal) = &mut self.proposal {
            let here = Some(proposal.cursor);
            proposal.marked = if proposal.marked == here { None } else { here };
        }
        self.draw_specimen();
    }

    /// Shows the draft as it was, or the proposal.
    pub(super) fn before_or_after(&mut self) {
        if let Some(proposal) = &mut self.proposal {
            proposal.shows_before = !proposal.shows_before;
        }
        self.draw_specimen();
    }

    /// The look the specimen wears.
    pub fn worn_look(&self) -> &Look {
        match &self.proposal {
            Some(p) if !p.shows_before => &p.candidate().look,
            _ => &self.derived.look,
        }
    }

    /// The marked draft's specimen, where one is kept for comparison.
    pub(super) fn marked_specimen(&self, width: usize, height: usize) -> Option<Specimen> {
        let proposal = self.proposal.as_ref()?;
        let marked = proposal.candidates.get(proposal.marked?)?;
        let setup = marked.doc.setup();
        let drawn = Specimen::draw(setup, &marked.look, width, height, self.icons);
        Some(self.conditions.see_specimen(&drawn, &marked.look))
    }

    /// Reads an image that was named, on a thread.
    pub(super) fn typed_image(&mut self, text: &str) -> Vec<Effect> {
        let path = self.survey.home.expand(text.trim());
        self.busy = Some("reading the image");
        vec![Effect::ReadImage(path)]
    }

    /// The roles whose color the wishes of a repair concern.
    pub fn wish_label(wish: &Wish) -> String {
        let label = |role: &RoleId| role.label();
        format!("{} on {}", label(&wish.text), label(&wish.ground))
    }
}
