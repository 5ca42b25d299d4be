//! The state of the interface and everything that changes it.

mod apply;
mod contrast;
mod derived;
pub mod fonts;
pub mod glyphs;
mod message;
mod palette;
mod pointer;
mod proposal;
mod survey;
mod trial;
mod typing;

use crossterm::event::KeyEvent;
use wealdmist_core::color::Oklch;
use wealdmist_core::condition::Conditions;
use wealdmist_core::look::Origin;
use wealdmist_core::plan::Plan;
use wealdmist_core::repair::Scope;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::setup::Variant;
use wealdmist_core::specimen::Specimen;
use wealdmist_host::{FontSearch, Survey};

use super::keys::{self, Action, At, Step};
use super::view::layout;

pub use apply::{ApplyRow, ApplyState};
pub use contrast::Wallpaper;
pub use derived::Derived;
pub use derived::GlyphRow;
pub use fonts::FontBench;
pub use glyphs::{GlyphBench, GlyphView};
pub use message::{Effect, Input, Message, Note, Purpose};
pub use palette::{CHART_ROWS, Channel, Entry, PaletteState, chart_place};
pub use proposal::{Matter, Proposal, Source, Way};
pub use survey::{Item, LedgerState};

/// The whole state.
pub struct App {
    /// The home and the draft.
    pub survey: Survey,
    /// What follows from them.
    pub derived: Derived,
    /// The plan from the draft.
    pub plan: Plan,
    /// The specimen as drawn now.
    pub specimen: Specimen,
    /// The same as it is seen under the conditions.
    pub seen: Specimen,
    /// Another one beside it, for comparison.
    pub second: Option<Specimen>,
    /// Drafts that are shown before one is taken.
    pub proposal: Option<Proposal>,
    /// The line pointed at of the menu of ways to a palette, where it is open.
    pub menu: Option<usize>,
    /// The wallpaper chosen.
    pub wallpaper: Option<Wallpaper>,
    /// The font, once it has been looked for.
    pub font: Option<FontSearch>,
    /// The step whose bench is shown.
    pub step: Step,
    /// Whether the pointer is on the specimen.
    pub on_specimen: bool,
    /// Whether the specimen fills the screen.
    pub filled: bool,
    /// The spot pointed at.
    pub spot: usize,
    /// Whether that spot shows what the bench's pointer is on.
    pub spot_follows: bool,
    /// The ledger's pointer and filter.
    pub ledger: LedgerState,
    /// The ruler's pointer and channel.
    pub palette: PaletteState,
    /// What pairs and specimen are seen through.
    pub conditions: Conditions,
    /// The row pointed at on Contrast.
    pub pair: usize,
    /// The row pointed at on Glyphs.
    pub glyph: usize,
    /// The Font bench.
    pub fonts: FontBench,
    /// The Glyphs bench.
    pub glyphs: GlyphBench,
    /// The plan's pointer and what is left out.
    pub apply: ApplyState,
    /// What is being typed.
    pub input: Option<Input>,
    /// Whether the keys are shown.
    pub help: bool,
    /// The last word to the person.
    pub note: Option<Note>,
    /// Whether the terminal wears the draft.
    pub trial: bool,
    /// The setup that running tmux and Neovim wear as a trial.
    pub tried: Option<String>,
    /// Slow work under way.
    pub busy: Option<&'static str>,
    /// Whether icons may be drawn.
    pub icons: bool,
    /// The terminal's size.
    pub size: (u16, u16),
    /// Whether to end.
    pub quit: bool,
    past: Vec<SetupDoc>,
    future: Vec<SetupDoc>,
    /// What the last change was of, so that a run of small steps is undone at once.
    last_change: Option<(Origin, Channel)>,
    opened_with: String,
}

impl App {
    /// The state on opening.
    pub fn new(survey: Survey, icons: bool, size: (u16, u16)) -> Self {
        let derived = Derived::new(&survey, None, &Conditions::default());
        let plan = survey.plan();
        let opened_with = survey.doc.text().to_owned();
        let specimen = Specimen::draw(survey.doc.setup(), &derived.look, 1, 1, icons);
        let mut app = Self {
            survey,
            derived,
            plan,
            seen: specimen.clone(),
            specimen,
            second: None,
            proposal: None,
            menu: None,
            wallpaper: None,
            font: None,
            step: Step::Survey,
            on_specimen: false,
            filled: false,
            spot: 0,
            spot_follows: false,
            ledger: LedgerState::default(),
            palette: PaletteState::default(),
            conditions: Conditions::default(),
            pair: 0,
            glyph: 0,
            fonts: FontBench::default(),
            glyphs: GlyphBench::default(),
            apply: ApplyState::default(),
            input: None,
            help: false,
            note: None,
            trial: false,
            tried: None,
            busy: None,
            icons,
            size,
            quit: false,
            past: Vec::new(),
            future: Vec::new(),
            last_change: None,
            opened_with,
        };
        app.draw_specimen();
        app.ledger.start(&app.derived.ledger);
        app.moved();
        app
    }

    /// What to do right after the first frame.
    pub fn begin(&mut self) -> Vec<Effect> {
        if !self.survey.stored {
            self.tell("No setup yet: this one was made from your dotfiles. It is written when you change or apply something.");
        }
        self.busy = Some("looking for the font");
        vec![Effect::FindFont]
    }

    /// Whether the draft differs from what was opened.
    pub fn is_changed(&self) -> bool {
        self.survey.doc.text() != self.opened_with
    }

    /// What would have to be saved if the interface ended now.
    pub fn changed(&self) -> Option<&Survey> {
        self.is_changed().then_some(&self.survey)
    }

    /// Takes in one message.
    pub fn update(&mut self, message: Message) -> Vec<Effect> {
        match message {
            Message::Key(key) => self.key(key),
            Message::Pasted(text) => {
                if self
                    .input
                    .as_ref()
                    .is_some_and(|i| i.purpose == Purpose::Pasted)
                {
                    // Many lines at once: it is complete.
                    self.input = None;
                    self.pasted_palette(&text);
                } else if let Some(input) = &mut self.input {
                    input
                        .text
                        .extend(text.chars().filter(|c| !c.is_control()).take(200));
                }
                Vec::new()
            }
            Message::Resized(width, height) => {
                self.size = (width, height);
                self.draw_specimen();
                self.show_fonts()
            }
            Message::ClickedStep(step) => self.act(Action::Go(step)),
            Message::ClickedRow(row, column) => {
                self.on_specimen = false;
                self.point_at(row, column);
                self.show_faces()
            }
            Message::ClickedSpot(spot) => {
                self.on_specimen = true;
                self.spot = spot.min(self.specimen.spots.len().saturating_sub(1));
                Vec::new()
            }
            Message::Wheel(rows) => {
                self.move_by(rows);
                self.show_faces()
            }
            Message::Font(found) => {
                self.forget_large();
                let mut effects = self.fonts_found(*found);
                effects.extend(self.draw_large());
                effects
            }
            Message::FaceOpened(key, opened) => {
                self.face_opened(key, opened.map(|o| *o));
                Vec::new()
            }
            Message::GlyphFaceOpened(key, face) => self.glyph_face_opened(&key, face),
            Message::FontSourceRead(read) => self.source_read(read),
            Message::Installed(done) => self.installed(done),
            Message::Measured(result) => {
                self.measured(result);
                self.draw_large()
            }
            Message::Answers(answers) => {
                self.apply.answers = answers;
                self.busy = None;
                Vec::new()
            }
            Message::Applied(result) => {
                self.applied(result);
                Vec::new()
            }
            Message::TakenBack(result) => {
                self.taken_back(result);
                Vec::new()
            }
            Message::ImageRead(name, picture) => {
                self.image_read(&name, picture);
                Vec::new()
            }
            Message::WallpaperRead(path, found) => {
                self.wallpaper_read(path, found);
                Vec::new()
            }
            Message::Drawn(result) => {
                self.busy = None;
                match result {
                    Ok(said) => self.tell(&said),
                    Err(error) => self.complain(error),
                }
                Vec::new()
            }
        }
    }

    fn key(&mut self, key: KeyEvent) -> Vec<Effect> {
        if self.input.is_some() {
            return self.type_key(key);
        }
        let action = keys::action(key, self.at());
        if self.help {
            self.help = false;
            return match action {
                Some(Action::Quit) if key.modifiers.is_empty() => Vec::new(),
                Some(Action::Help) | None => Vec::new(),
                Some(action) => self.act(action),
            };
        }
        self.note = None;
        let mut effects = match action {
            Some(action) => self.act(action),
            None => Vec::new(),
        };
        effects.extend(self.show_faces());
        effects
    }

    /// Draws what the Font and Glyphs benches show of font files, or asks for what that needs.
    fn show_faces(&mut self) -> Vec<Effect> {
        let mut effects = self.draw_large();
        effects.extend(self.show_fonts());
        effects
    }

    /// Where keys are pressed.
    pub fn at(&self) -> At {
        At {
            step: self.step,
            on_specimen: self.on_specimen,
            proposing: self.proposal.is_some(),
            in_menu: self.menu.is_some(),
            in_chart: self.palette.chart.is_some() && self.step == Step::Palette,
            searching: self.glyphs.search.is_some() && self.step == Step::Glyphs,
        }
    }

    fn act(&mut self, action: Action) -> Vec<Effect> {
        match action {
            Action::TakeProposal => self.take_proposal(),
            Action::Leave => {
                if self.proposal.is_some() {
                    self.leave_proposal();
                } else if self.at().searching {
                    self.glyphs.search = None;
                } else if self.palette.chart.is_some() {
                    self.palette.chart = None;
                } else {
                    self.menu = None;
                }
            }
            Action::MarkCandidate => self.mark_candidate(),
            Action::BeforeAfter => self.before_or_after(),
            Action::MakePalette => self.menu = Some(0),
            Action::ChooseWay => {
                if let Some(way) = self.menu.and_then(|i| Way::ALL.get(i)) {
                    self.start_way(*way);
                }
            }
            Action::LessOpaque => self.change_opacity(-0.05),
            Action::MoreOpaque => self.change_opacity(0.05),
            Action::Wallpaper => self.start_wallpaper(),
            Action::Dimmed => self.switch_dimmed(),
            Action::Bits => self.switch_depth(),
            Action::Vision => self.switch_vision(),
            Action::Severity => self.switch_severity(),
            Action::Plain => self.plain_conditions(),
            Action::RepairPair => self.repair_pair(),
            Action::RepairPalette => self.propose_repair(&Scope::Palette),
            Action::KeepPair => self.start_contrast_exception(),
            Action::Target => self.start_target(),
            Action::EditGround => {
                if let Some(role) = self.pair().map(|p| p.ground.clone()) {
                    self.stand_on(&role);
                }
            }
            Action::ChooseFont => return self.choose_font(),
            Action::KeepBeside => return self.keep_beside(),
            Action::NextSample => return self.next_sample(),
            Action::LargerSample => return self.resize_sample(1),
            Action::SmallerSample => return self.resize_sample(-1),
            Action::NextStyle => return self.next_style(),
            Action::Ligatures => return self.switch_ligatures(),
            Action::FontPage => return self.next_page(),
            Action::Means => return self.next_means(),
            Action::OpenFonts => self.start_open_fonts(),
            Action::InstallFont => return self.install_family(),
            Action::Fallback => return self.switch_fallback(),
            Action::HigherLines => return self.change_line_height(0.05),
            Action::LowerLines => return self.change_line_height(-0.05),
            Action::FontSize => self.start_font_size(),
            Action::FilterFonts => self.start_font_filter(),
            Action::TakeSubstitute => self.take_substitute(),
            Action::NextSubstitute => self.next_substitute(),
            Action::MendGlyphs => self.mend_glyphs(),
            Action::KeepGlyph => self.keep_glyph(),
            Action::GlyphView => self.next_glyph_view(),
            Action::SearchIcons => self.start_icon_search(),
            Action::MeasureTerminal => {
                self.busy = Some("measuring this terminal");
                return vec![Effect::Measure(crate::command::glyphs::in_use(
                    &self.survey,
                ))];
            }
            Action::MarkGlyph => self.mark_glyph(),
            Action::Level => self.next_level(false),
            Action::ToolLevel => self.next_level(true),
            Action::TakeLevel => self.take_level(),
            Action::CopyGlyph => return self.copy_glyph(),
            Action::TypeReplacement => self.start_replacement(),
            Action::Lock => self.switch_lock(),
            Action::Sort => self.sort_palette(),
            Action::Beside => self.palette.beside = !self.palette.beside,
            Action::Chart => self.open_chart(),
            Action::TakeIndexed => self.take_indexed(),
            Action::PickText => self.pick(true),
            Action::PickGround => self.pick(false),
            Action::OtherSide => self.other_side(),
            Action::Draw => self.start_drawing(),
            Action::Quit => self.quit = true,
            Action::Help => self.help = true,
            Action::Go(step) => self.go(step),
            Action::NextStep => self.go_by(1),
            Action::PreviousStep => self.go_by(-1),
            Action::Focus => self.on_specimen = !self.on_specimen,
            Action::Fill => {
                self.filled = !self.filled;
                self.on_specimen |= self.filled;
                self.draw_specimen();
            }
            Action::UndoDraft => self.undo_draft(),
            Action::RedoDraft => self.redo_draft(),
            Action::Trial => return self.toggle_trial(),
            Action::TrialAround => return self.toggle_trial_around(),
            Action::ShowCommand => self.show_command(),
            Action::Up => self.move_by(-1),
            Action::Down => self.move_by(1),
            Action::Left => self.sideways(-1, false),
            Action::Right => self.sideways(1, false),
            Action::FarLeft => self.sideways(-1, true),
            Action::FarRight => self.sideways(1, true),
            Action::PageUp => self.move_by(-(self.page())),
            Action::PageDown => self.move_by(self.page()),
            Action::First => self.move_by(isize::MIN / 2),
            Action::Last => self.move_by(isize::MAX / 2),
            Action::Enter => self.enter(),
            Action::Filter => self.start_filter(),
            Action::Adopt => self.adopt(),
            Action::Align => self.align(),
            Action::Except => self.start_exception(),
            Action::OnlyDrift => self.ledger.toggle_only_drift(&self.derived.ledger),
            Action::Fold => self.ledger.fold(&self.derived.ledger),
            Action::Lightness => self.palette.channel = Channel::Lightness,
            Action::Chroma => self.palette.channel = Channel::Chroma,
            Action::Hue => self.palette.channel = Channel::Hue,
            Action::TypeColor => self.start_color(),
            Action::Mend => self.mend(),
            Action::OtherPalette => self.next_palette(),
            Action::LeaveOut => self.leave_out(),
            Action::Apply => return self.start_apply(),
            Action::TakeBack => {
                self.busy = Some("taking back");
                return vec![Effect::TakeBack];
            }
            Action::Reload => {
                self.busy = Some("reloading");
                return vec![Effect::Reload];
            }
            Action::Verify => {
                self.busy = Some("asking the running programs");
                return vec![Effect::Verify];
            }
        }
        self.follow_trials()
    }

    /// Says something to the person.
    pub fn tell(&mut self, text: &str) {
        self.note = Some(Note {
            text: text.to_owned(),
            bad: false,
        });
    }

    fn complain(&mut self, text: String) {
        self.note = Some(Note { text, bad: true });
    }

    /// Takes over a changed draft, or says why it could not be changed.
    fn change<E: ToString>(&mut self, changed: Result<SetupDoc, E>) -> bool {
        match changed {
            Ok(doc) => {
                let old = std::mem::replace(&mut self.survey.doc, doc);
                self.past.push(old);
                self.future.clear();
                self.last_change = None;
                self.recompute();
                true
            }
            Err(error) => {
                self.complain(error.to_string());
                false
            }
        }
    }

    fn undo_draft(&mut self) {
        match self.past.pop() {
            Some(doc) => {
                self.future
                    .push(std::mem::replace(&mut self.survey.doc, doc));
                self.settled("undone");
            }
            None => self.tell("nothing to undo in the draft"),
        }
    }

    fn redo_draft(&mut self) {
        match self.future.pop() {
            Some(doc) => {
                self.past.push(std::mem::replace(&mut self.survey.doc, doc));
                self.settled("done again");
            }
            None => self.tell("nothing to redo in the draft"),
        }
    }

    fn settled(&mut self, what: &str) {
        self.last_change = None;
        self.palette.held = None;
        self.recompute();
        self.tell(what);
    }

    /// Works out everything that follows from the dotfiles and the draft.
    fn recompute(&mut self) {
        self.derived = Derived::new(
            &self.survey,
            self.font.as_ref().map(|f| &f.report),
            &self.conditions,
        );
        self.plan = self.survey.plan();
        self.apply.keep_within(&self.plan);
        self.draw_specimen();
    }

    fn draw_specimen(&mut self) {
        let (width, height) = layout::specimen_size(self.size, self.filled);
        let setup = self.survey.doc.setup();
        let old = self
            .specimen
            .spots
            .get(self.spot)
            .map(|s| (s.what, s.text.clone()));
        // Two at a time share the room.
        let two = self.proposal.as_ref().is_some_and(|p| p.marked.is_some());
        let height = if two {
            height.saturating_sub(1) / 2
        } else {
            height
        };
        let setup = match &self.proposal {
            Some(p) if !p.shows_before => p.candidate().doc.setup(),
            _ => setup,
        };
        self.specimen = Specimen::draw(setup, self.worn_look(), width, height, self.icons);
        self.seen = self
            .conditions
            .see_specimen(&self.specimen, self.worn_look());
        self.second = self.marked_specimen(width, height);
        if let Some((what, text)) = old {
            let spots = &self.specimen.spots;
            let same = spots
                .get(self.spot)
                .is_some_and(|s| s.what == what && s.text == text);
            if !same {
                let found = spots.iter().position(|s| s.what == what && s.text == text);
                self.spot = found.unwrap_or(0);
            }
        }
    }

    /// Shows the command that does what this bench does.
    fn show_command(&mut self) {
        let command = match self.step {
            Step::Survey => match self.ledger.role(&self.derived.ledger) {
                Some(role) => {
                    let tool = self.derived.ledger.tools[self.ledger.column];
                    format!(
                        "wealdmist adopt {role} {tool}   ·   wealdmist except {role} {tool} --reason '…'"
                    )
                }
                None => "wealdmist survey".to_owned(),
            },
            Step::Palette => match self.entry() {
                Some(e) => format!("wealdmist set {} '{}'", self.name_of(&e.origin), e.color),
                None => "wealdmist set ROLE VALUE".to_owned(),
            },
            Step::Contrast => match self.derived.pairs.get(self.pair) {
                Some(p) => format!(
                    "wealdmist contrast {} {}   ·   wealdmist repair",
                    p.text, p.ground
                ),
                None => "wealdmist contrast".to_owned(),
            },
            Step::Font => match self.fonts.family() {
                Some(f) => format!(
                    "wealdmist font choose '{}'   ·   wealdmist font show '{}'",
                    f.name, f.name
                ),
                None => "wealdmist font list".to_owned(),
            },
            Step::Glyphs => match self.glyphs.view {
                GlyphView::List => "wealdmist glyphs   ·   wealdmist glyphs --mend".to_owned(),
                GlyphView::Map => {
                    "wealdmist font coverage NAME [OTHER]   ·   wealdmist icons WORDS".to_owned()
                }
                GlyphView::Terminal => {
                    "wealdmist terminal --measure   ·   wealdmist terminal --use".to_owned()
                }
            },
            Step::Apply => {
                let skips: String = self
                    .apply
                    .left_out
                    .iter()
                    .map(|(f, h)| format!(" --skip {}.{}", f + 1, h + 1))
                    .collect();
                format!("wealdmist apply{skips}   ·   wealdmist undo")
            }
        };
        self.tell(&command);
    }

    /// Puts the palette of the other side, dark or light, to use in the draft.
    fn other_side(&mut self) {
        let setup = self.survey.doc.setup();
        let wanted = match setup.palette().variant {
            Variant::Dark => Variant::Light,
            Variant::Light => Variant::Dark,
        };
        match setup.appearance.side(wanted).map(str::to_owned) {
            Some(name) => {
                let changed = self.survey.doc.with_text(&["palette"], &name);
                if self.change(changed) {
                    self.tell(&format!("the {} side, {name}", wanted.key()));
                }
            }
            None => self.tell(&format!(
                "there is no {} palette yet: n on Palette makes the counterpart",
                wanted.key()
            )),
        }
    }

    /// A color as it is being edited: coordinates that rounding to 8 bits would lose are held.
    pub fn coordinates(&self, entry: &Entry) -> Oklch {
        match &self.palette.held {
            Some((origin, lch)) if *origin == entry.origin => *lch,
            _ => Oklch::from(entry.color),
        }
    }
}
