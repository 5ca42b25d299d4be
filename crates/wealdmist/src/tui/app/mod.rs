//! The state of the interface and everything that changes it.

mod apply;
mod contrast;
mod derived;
pub mod fonts;
pub mod glyphs;
mod message;
mod palette;
mod proposal;
mod survey;
mod trial;

use crossterm::event::KeyEvent;
use wealdmist_core::color::Oklch;
use wealdmist_core::condition::Conditions;
use wealdmist_core::look::{Origin, origin};
use wealdmist_core::plan::Plan;
use wealdmist_core::repair::Scope;
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::setup::Variant;
use wealdmist_core::specimen::{Direction, Specimen};
use wealdmist_host::{FontSearch, Survey};

use super::keys::{self, Action, At, Step, Typed};
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
                self.draw_large();
                self.show_fonts()
            }
            Message::ClickedSpot(spot) => {
                self.on_specimen = true;
                self.spot = spot.min(self.specimen.spots.len().saturating_sub(1));
                Vec::new()
            }
            Message::Wheel(rows) => {
                self.move_by(rows);
                self.draw_large();
                self.show_fonts()
            }
            Message::Font(found) => {
                self.forget_large();
                let effects = self.fonts_found(*found);
                self.draw_large();
                effects
            }
            Message::FaceOpened(key, opened) => {
                self.face_opened(key, opened.map(|o| *o));
                Vec::new()
            }
            Message::FontSourceRead(read) => self.source_read(read),
            Message::Installed(done) => self.installed(done),
            Message::Measured(result) => {
                self.measured(result);
                Vec::new()
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
        self.draw_large();
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

    fn go(&mut self, step: Step) {
        self.step = step;
        self.on_specimen = false;
        self.filled = false;
        self.draw_specimen();
        self.moved();
    }

    fn go_by(&mut self, by: isize) {
        let at = Step::ALL.iter().position(|s| *s == self.step).unwrap_or(0) as isize;
        let to = (at + by).rem_euclid(Step::ALL.len() as isize) as usize;
        self.go(Step::ALL[to]);
    }

    fn page(&self) -> isize {
        isize::from(self.size.1 as i16).saturating_sub(14).max(3)
    }

    /// How many rows the present bench's list has.
    fn list_len(&self) -> usize {
        if self.menu.is_some() {
            return Way::ALL.len();
        }
        match self.step {
            Step::Survey => self.ledger.items(&self.derived.ledger).len(),
            Step::Palette => self.entries().len(),
            Step::Contrast => self.derived.pairs.len(),
            Step::Font if self.fonts.page == fonts::Page::Samples => self.fonts.families.len(),
            Step::Font => self.face_shown().map_or(0, |o| match self.fonts.page {
                fonts::Page::Features => o.facts.features.len(),
                _ => 400,
            }),
            Step::Glyphs => self.derived.glyphs.len(),
            Step::Apply => self.apply.rows(&self.plan).len(),
        }
    }

    fn move_by(&mut self, by: isize) {
        if self.proposal.is_some() && !self.on_specimen {
            return self.walk(by);
        }
        if self.at().in_chart && !self.on_specimen {
            return self.move_in_chart(by.clamp(-20, 20), 0);
        }
        if self.on_specimen {
            let direction = if by < 0 {
                Direction::Up
            } else {
                Direction::Down
            };
            for _ in 0..by.unsigned_abs().min(99) {
                self.spot = self.specimen.hop(self.spot, direction);
            }
            return;
        }
        if self.step == Step::Glyphs && self.move_in_glyphs(by, 0, layout::map_columns(self.size)) {
            return;
        }
        self.glyphs.choice = 0;
        let last = self.list_len().saturating_sub(1);
        let cursor = self.cursor_mut();
        *cursor = (*cursor).min(last).saturating_add_signed(by).min(last);
        self.moved();
    }

    fn cursor_mut(&mut self) -> &mut usize {
        if let Some(cursor) = &mut self.menu {
            return cursor;
        }
        match self.step {
            Step::Survey => &mut self.ledger.cursor,
            Step::Palette => &mut self.palette.cursor,
            Step::Contrast => &mut self.pair,
            Step::Font if self.fonts.page == fonts::Page::Samples => &mut self.fonts.cursor,
            Step::Font => &mut self.fonts.row,
            Step::Glyphs => &mut self.glyph,
            Step::Apply => &mut self.apply.cursor,
        }
    }

    fn point_at(&mut self, row: usize, column: Option<usize>) {
        if let Some(proposal) = &self.proposal {
            let by = row as isize - proposal.cursor as isize;
            return self.walk(by);
        }
        if self.at().in_chart {
            self.palette.chart = Some(row.min(255));
            return;
        }
        if self.step == Step::Glyphs {
            self.glyphs.choice = 0;
            match (&mut self.glyphs.search, self.glyphs.view) {
                (Some(search), _) => search.cursor = row.min(search.found.len().saturating_sub(1)),
                (_, GlyphView::Map) => self.glyphs.at = row,
                (_, GlyphView::Terminal) => self.glyphs.row = row,
                (_, GlyphView::List) => {
                    self.glyph = row.min(self.derived.glyphs.len().saturating_sub(1))
                }
            }
            return;
        }
        let last = self.list_len().saturating_sub(1);
        *self.cursor_mut() = row.min(last);
        if let Some(column) = column {
            self.ledger.column = column.min(self.derived.ledger.tools.len().saturating_sub(1));
        }
        self.moved();
    }

    /// Keeps the specimen's pointer with the bench's.
    fn moved(&mut self) {
        self.last_change = None;
        self.palette.held = None;
        let role = match self.step {
            Step::Survey => self.ledger.role(&self.derived.ledger),
            Step::Contrast => self.pair().map(|p| p.text.clone()),
            Step::Palette => self.entry().map(|e| self.role_of(&e.origin)),
            Step::Apply => self.apply.role(&self.plan),
            Step::Font | Step::Glyphs => None,
        };
        let found = match (self.step, self.pair()) {
            // The spot that shows the very pair, before one that only shows its text.
            (Step::Contrast, Some(pair)) => self
                .specimen
                .spots
                .iter()
                .position(|s| s.text == pair.text && s.ground == pair.ground)
                .or_else(|| self.specimen.find(&pair.text)),
            _ => role.and_then(|r| self.specimen.find(&r)),
        };
        self.spot_follows = found.is_some();
        self.spot = found.unwrap_or(self.spot);
    }

    /// The spot to show as pointed at, if any.
    pub fn pointed(&self) -> Option<usize> {
        (self.on_specimen || self.spot_follows).then_some(self.spot)
    }

    /// A role drawn in the color of an origin, preferably that very one.
    fn role_of(&self, origin_wanted: &Origin) -> RoleId {
        let setup = self.survey.doc.setup();
        let same = |role: &&RoleId| origin(setup, setup.palette(), role) == *origin_wanted;
        let direct = match origin_wanted {
            Origin::Slot(slot) => RoleId::from(*slot),
            Origin::Named(name) => RoleId::new(name.clone()),
            Origin::Role(role) => role.clone(),
        };
        let drawn = self
            .specimen
            .spots
            .iter()
            .flat_map(|s| [&s.text, &s.ground]);
        if self.specimen.find(&direct).is_some() {
            return direct;
        }
        drawn.into_iter().find(same).cloned().unwrap_or(direct)
    }

    fn sideways(&mut self, by: isize, far: bool) {
        if !self.on_specimen && self.menu.is_some() {
            return;
        }
        if !self.on_specimen && self.proposal.is_some() {
            return self.walk(by);
        }
        if self.on_specimen {
            let direction = if by < 0 {
                Direction::Left
            } else {
                Direction::Right
            };
            self.spot = self.specimen.hop(self.spot, direction);
            return;
        }
        match self.step {
            Step::Survey => {
                let last = self.derived.ledger.tools.len().saturating_sub(1);
                self.ledger.column = self.ledger.column.saturating_add_signed(by).min(last);
            }
            Step::Glyphs => {
                self.move_in_glyphs(0, by, layout::map_columns(self.size));
            }
            Step::Palette if self.at().in_chart => self.move_in_chart(0, by),
            Step::Palette => self.adjust(by as f64 * if far { 5.0 } else { 1.0 }),
            _ => {}
        }
    }

    /// Goes to where the color under the pointer is changed.
    fn enter(&mut self) {
        let role = if self.on_specimen {
            self.specimen.spots.get(self.spot).map(|s| s.text.clone())
        } else {
            match self.step {
                Step::Survey => {
                    if self.ledger.on_group(&self.derived.ledger) {
                        self.ledger.fold(&self.derived.ledger);
                        return;
                    }
                    self.ledger.role(&self.derived.ledger)
                }
                Step::Contrast => self.derived.pairs.get(self.pair).map(|p| p.text.clone()),
                _ => None,
            }
        };
        let Some(role) = role else { return };
        if role.is_property() {
            self.tell(&format!(
                "`wealdmist set {role} VALUE` changes this; `a` takes a tool's value over"
            ));
            return;
        }
        self.stand_on(&role);
    }

    /// Shows the Palette bench on the color a role comes from.
    fn stand_on(&mut self, role: &RoleId) {
        let setup = self.survey.doc.setup();
        let wanted = origin(setup, setup.palette(), role);
        self.palette.extra = Some(wanted.clone());
        let spot = self.spot;
        self.go(Step::Palette);
        let at = self.entries().iter().position(|e| e.origin == wanted);
        self.palette.cursor = at.unwrap_or(0);
        self.moved();
        // The pointer stays on the spot one came from.
        if self
            .specimen
            .spots
            .get(spot)
            .is_some_and(|s| s.text == *role)
        {
            self.spot = spot;
        }
    }

    fn type_key(&mut self, key: KeyEvent) -> Vec<Effect> {
        let Some(input) = &mut self.input else {
            return Vec::new();
        };
        match keys::typed(key) {
            Some(Typed::Char(c)) if input.text.chars().count() < 200 => input.text.push(c),
            Some(Typed::Backspace) => {
                input.text.pop();
            }
            Some(Typed::Cancel) => {
                if input.purpose == Purpose::Filter {
                    self.ledger.set_filter(String::new());
                }
                self.input = None;
            }
            Some(Typed::Done) => {
                if let Some(input) = self.input.take() {
                    let effects = self.finish_input(input);
                    if !effects.is_empty() {
                        return effects;
                    }
                }
            }
            _ => {}
        }
        // A filter shows its effect while it is typed.
        if let Some(Input {
            purpose: Purpose::Filter,
            text,
            ..
        }) = &self.input
        {
            self.ledger.set_filter(text.clone());
        }
        self.follow_trials()
    }

    fn finish_input(&mut self, input: Input) -> Vec<Effect> {
        match input.purpose {
            Purpose::Color(origin) => self.typed_color(&origin, &input.text),
            Purpose::Reason { tool, role } => self.typed_reason(&tool, &role, &input.text),
            Purpose::Filter => self.ledger.set_filter(input.text),
            Purpose::Seeds => self.typed_seeds(&input.text),
            Purpose::Image => return self.typed_image(&input.text),
            Purpose::File => self.typed_file(&input.text),
            Purpose::Pasted => self.pasted_palette(&input.text),
            Purpose::Folder => self.typed_folder(&input.text),
            Purpose::Wallpaper => return self.typed_wallpaper(&input.text),
            Purpose::ContrastReason { text, ground } => {
                self.typed_contrast_reason(&text, &ground, &input.text);
            }
            Purpose::Target(role) => self.typed_target(&role, &input.text),
            Purpose::Draw => return self.typed_drawing(&input.text),
            Purpose::FontSource => {
                if input.text.trim().is_empty() {
                    return Vec::new();
                }
                self.busy = Some("reading fonts");
                return vec![Effect::ReadFontSource(
                    self.survey.home.expand(input.text.trim()),
                )];
            }
            Purpose::FontFilter => return self.filter_fonts(&input.text),
            Purpose::FontSize => self.typed_font_size(&input.text),
            Purpose::IconSearch => self.search_icons(&input.text),
            Purpose::Replacement(c) => self.replace(c, Some(input.text.trim())),
        }
        Vec::new()
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

    /// Asks where the drawing of this step goes.
    fn start_drawing(&mut self) {
        let kind = super::drawing_kind(self.step);
        self.input = Some(Input {
            question: format!("draw the {kind} to (.svg, .pdf or .png)"),
            text: format!("wealdmist-{kind}.svg"),
            purpose: Purpose::Draw,
        });
    }

    fn typed_drawing(&mut self, text: &str) -> Vec<Effect> {
        if text.trim().is_empty() {
            return Vec::new();
        }
        self.busy = Some("drawing");
        vec![Effect::Draw(
            self.step,
            self.survey.home.expand(text.trim()),
        )]
    }

    /// A color as it is being edited: coordinates that rounding to 8 bits would lose are held.
    pub fn coordinates(&self, entry: &Entry) -> Oklch {
        match &self.palette.held {
            Some((origin, lch)) if *origin == entry.origin => *lch,
            _ => Oklch::from(entry.color),
        }
    }
}
