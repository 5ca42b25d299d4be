//! The interface's state and what changes it: the steps with their benches, what lies over them, the
//! line that is typed, trials, and slow work. What a step is about is its bench's.

mod trials;
mod typing;

use crossterm::event::KeyEvent;
use tracing::debug;
use tui_input::Input;
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::specimen::Direction;
use wealdmist_host::{Answer, Completion, FontSearch, SeenImages, Survey, WantedImages};

use super::bench::{AnyBench, AnyDo, Do, Question, benches};
use super::job::{AnyAnswer, Job, Jobs, Started, Ticket};
use super::keys::{self, Told};
use super::shell::{self, Shell};
use super::stage::Target;
use super::step::Step;
use super::view::Hit;
use super::view::layout::Room;
use super::workspace::{Display, Workspace};
use crate::work;

/// The name of the step where colors are changed.
const PALETTE: &str = "palette";
/// The step in which the font is chosen.
const FONT: &str = "font";
/// The same, of what is a window's.
const WINDOW: &str = "window";
/// The longest line that is typed, in characters.
const LONGEST: usize = 200;

/// Everything that can happen.
#[derive(Debug)]
pub enum Message {
    /// A key was pressed.
    Key(KeyEvent),
    /// Text was pasted.
    Pasted(String),
    /// The terminal has another size.
    Resized(u16, u16),
    /// Something was clicked.
    Clicked(Hit),
    /// The button was let go over something, or over nothing.
    Released(Option<Hit>),
    /// The wheel was turned: so many rows.
    Wheel(isize),
    /// Slow work has come to an end.
    Done(Ticket, AnyAnswer),
    /// Running programs answered a trial.
    Tried(Vec<Answer>),
}

/// What the state wants done outside itself.
#[derive(Debug)]
pub enum Effect {
    /// Do slow work.
    Start(Started),
    /// Put a text into the clipboard.
    Copy(String),
    /// Write escapes of the trial to the terminal.
    Wear(Vec<u8>),
    /// Let running programs wear a setup, or take that back.
    TryOn(Option<Box<SetupDoc>>),
}

/// A step with its bench and what lies over it.
struct Place {
    step: Step,
    /// The bench, then what lies over it, the uppermost last.
    stack: Vec<(u64, Box<dyn AnyBench>)>,
}

/// A line being typed.
#[derive(Debug)]
pub struct Line {
    /// What is asked.
    pub question: Question,
    /// What has been typed.
    pub text: Input,
    /// Why it could not be taken.
    pub refused: Option<String>,
    /// How it could go on, where several ways are open.
    pub offered: Vec<String>,
    purpose: Purpose,
}

impl Line {
    fn new(question: Question, purpose: Purpose) -> Self {
        Self {
            text: Input::new(question.start.clone()),
            refused: question.refused.clone(),
            offered: Vec::new(),
            question,
            purpose,
        }
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Purpose {
    /// It is for whoever asked.
    Bench(u64),
    /// The file a drawing goes to.
    Draw,
}

/// What comes of the interface's own slow work.
enum Own {
    /// The fonts were looked for.
    Font(Box<FontSearch>),
    /// The images of the windows were read.
    Images(WantedImages, Box<SeenImages>),
    /// A drawing was written, or not.
    Drawn(Result<String, String>),
    /// A path as it was typed, and how it goes on.
    Completed(String, Completion),
}

/// Who asks where it is the interface itself.
const OWN: u64 = 0;

/// The whole state.
pub struct App {
    /// What benches work on.
    pub ws: Workspace,
    /// The line that is typed.
    pub line: Option<Line>,
    /// Whether the keys are shown.
    pub help: bool,
    /// Whether to end.
    pub quit: bool,
    places: Vec<Place>,
    at: usize,
    /// Counts benches and what lies over them.
    owners: u64,
    jobs: Jobs,
    /// What is wanted before the first frame, to be done after it.
    pending: Vec<Effect>,
    /// The row on which the button is held.
    held: Option<usize>,
    /// What the fonts were last looked for.
    font_asked: Option<String>,
    /// Which images of the windows were asked for last.
    images_asked: Option<WantedImages>,
    /// The escapes this terminal wears as a trial.
    worn: Option<Vec<u8>>,
    /// The setup that running programs wear as a trial.
    tried: Option<String>,
}

impl App {
    /// The state on opening.
    pub fn new(survey: Survey, display: Display, size: (u16, u16)) -> Self {
        Self::with(benches(), survey, display, size)
    }

    /// The same with other steps.
    pub fn with(
        benches: Vec<(Step, Box<dyn AnyBench>)>,
        survey: Survey,
        display: Display,
        size: (u16, u16),
    ) -> Self {
        let steps = benches.iter().map(|(step, _)| *step).collect();
        let mut owners = OWN;
        let mut place = |(step, bench)| {
            owners += 1;
            Place {
                step,
                stack: vec![(owners, bench)],
            }
        };
        let places = benches.into_iter().map(&mut place).collect();
        let mut app = Self {
            ws: Workspace::new(survey, steps, display, size),
            line: None,
            help: false,
            quit: false,
            places,
            at: 0,
            owners,
            jobs: Jobs::default(),
            pending: Vec::new(),
            held: None,
            font_asked: None,
            images_asked: None,
            worn: None,
            tried: None,
        };
        let mut pending = Vec::new();
        app.bring_up_to_date(&mut pending);
        app.pending = pending;
        app
    }

    /// What to do right after the first frame.
    pub fn begin(&mut self) -> Vec<Effect> {
        if !self.ws.survey.stored {
            self.ws.tell("No setup yet: this one was made from your dotfiles. It is written when you change or apply something.");
        }
        std::mem::take(&mut self.pending)
    }

    /// What would have to be saved if the interface ended now.
    pub fn changed(&self) -> Option<&Survey> {
        self.ws.is_changed().then_some(&self.ws.survey)
    }

    /// The step whose bench is shown.
    pub fn step(&self) -> Step {
        self.places[self.at].step
    }

    /// The steps with how much is open at each.
    pub fn path(&self) -> impl Iterator<Item = (Step, usize)> {
        let open = |p: &Place| p.stack[0].1.open_count(&self.ws);
        self.places.iter().map(move |p| (p.step, open(p)))
    }

    /// Where in the path the present step is.
    pub fn here(&self) -> usize {
        self.at
    }

    /// The bench that is shown, or what lies uppermost over it.
    pub fn top(&self) -> &dyn AnyBench {
        let stack = &self.places[self.at].stack;
        stack[stack.len() - 1].1.as_ref()
    }

    /// What is pointed at, by the uppermost that points at something.
    pub fn target(&self) -> Option<Target> {
        let mut stack = self.places[self.at].stack.iter().rev();
        stack.find_map(|(_, bench)| bench.target(&self.ws))
    }

    /// The uppermost to be changed, and who it is; with what it works on.
    fn top_mut(&mut self) -> (u64, &mut dyn AnyBench, &mut Workspace) {
        let stack = &mut self.places[self.at].stack;
        let last = stack.len() - 1;
        let (owner, bench) = &mut stack[last];
        (*owner, bench.as_mut(), &mut self.ws)
    }

    /// A bench, or what lies over one, by who it is; with what it works on.
    fn owner_mut(&mut self, owner: u64) -> Option<(&mut dyn AnyBench, &mut Workspace)> {
        let mut all = self.places.iter_mut().flat_map(|p| p.stack.iter_mut());
        let (_, bench) = all.find(|(o, _)| *o == owner)?;
        Some((bench.as_mut(), &mut self.ws))
    }

    /// Which of bench and specimen have the room.
    pub fn room(&self) -> Room {
        match (self.ws.stage.filled, self.ws.stage.pointed) {
            (true, _) => Room::SpecimenAlone,
            (_, true) => Room::Specimen,
            _ if self.top().needs_width(&self.ws) => Room::BenchAlone,
            _ => Room::Bench,
        }
    }

    /// Whether this terminal, and whether running programs wear the draft.
    pub fn trials(&self) -> (bool, bool) {
        (self.worn.is_some(), self.tried.is_some())
    }

    /// What slow work is under way, in words.
    pub fn busy(&self) -> Option<&'static str> {
        self.jobs.says()
    }

    /// The keys that do something here, the nearest first.
    pub fn keys(&self) -> Vec<Told> {
        let pointed = self.ws.stage.pointed;
        let near = self.top().told(pointed);
        keys::shown(
            near.into_iter()
                .chain(shell::told(pointed, self.places.len())),
        )
    }

    /// Takes in one message.
    pub fn update(&mut self, message: Message) -> Vec<Effect> {
        let mut out = Vec::new();
        match message {
            Message::Key(key) => self.key(key, &mut out),
            Message::Pasted(text) => self.pasted(&text, &mut out),
            Message::Resized(width, height) => {
                self.ws.size = (width, height);
                self.ws.stage.stale = true;
            }
            Message::Clicked(Hit::Step(place)) => self.go(place),
            Message::Released(over) => {
                let held = self.held.take();
                if let (Some(from), Some(Hit::Row(to, _))) = (held, over)
                    && from != to
                {
                    self.ws.begin_act();
                    let (_, bench, ws) = self.top_mut();
                    bench.dropped(from, to, ws);
                }
            }
            Message::Clicked(Hit::Row(row, column)) => {
                self.ws.stage.pointed = false;
                self.held = Some(row);
                let (_, bench, ws) = self.top_mut();
                bench.point(row, column, ws);
            }
            Message::Clicked(Hit::Spot(spot)) => {
                let stage = &mut self.ws.stage;
                stage.pointed = true;
                stage.spot = spot.min(stage.specimen.spots.len().saturating_sub(1));
            }
            Message::Wheel(rows) => self.walk(rows, 0),
            Message::Done(ticket, answer) => self.done(&ticket, answer, &mut out),
            Message::Tried(answers) => self.tried(answers),
        }
        self.bring_up_to_date(&mut out);
        out
    }

    /// Has the specimen, the pointer on it, fonts, what the bench shows, and trials follow the draft.
    fn bring_up_to_date(&mut self, out: &mut Vec<Effect>) {
        let wanted = self.ws.font_wanted();
        if self.font_asked.as_ref() != Some(&wanted) {
            self.font_asked = Some(wanted);
            let survey = self.ws.survey.clone();
            let job = Job::new("fonts", "looking for the font", move || {
                Own::Font(Box::new(work::glyphs::search(&survey)))
            });
            self.run(OWN, job.erased(), out);
        }
        let wanted = self.ws.survey.wanted_images();
        if self.ws.survey.lacks_images() && self.images_asked.as_ref() != Some(&wanted) {
            self.images_asked = Some(wanted.clone());
            let home = self.ws.survey.home.clone();
            let job = Job::new("images", "reading the images", move || {
                let seen = wealdmist_host::read_images(&home, &wanted);
                Own::Images(wanted, Box::new(seen))
            });
            self.run(OWN, job.erased(), out);
        }
        let (owner, bench, ws) = self.top_mut();
        let wanted = bench.refresh(ws);
        self.carry_out(owner, wanted, out);
        let (_, bench, ws) = self.top_mut();
        if ws.stage.stale {
            let dress = bench.dress(ws);
            ws.dress(dress, |ws, size| bench.specimen(ws, size));
        }
        if !self.ws.stage.pointed {
            let target = self.target();
            self.ws.stage.follow(target);
        }
        self.follow_trials(out);
    }

    fn key(&mut self, key: KeyEvent, out: &mut Vec<Effect>) {
        if self.line.is_some() {
            return self.type_key(key, out);
        }
        self.ws.begin_act();
        if self.help {
            self.help = false;
            // The key closes the help, and does what it is for unless that is to leave.
            if matches!(self.shell_key(key), Some(Shell::Quit | Shell::Help) | None)
                && !self.is_interrupt(key)
            {
                return;
            }
        }
        self.ws.note = None;
        let (owner, bench, ws) = self.top_mut();
        if let Some(wanted) = bench.press(key, ws) {
            return self.carry_out(owner, wanted, out);
        }
        if let Some(act) = self.shell_key(key) {
            self.act(act, out);
        }
    }

    fn shell_key(&self, key: KeyEvent) -> Option<Shell> {
        shell::find(key, self.ws.stage.pointed, self.places.len())
    }

    fn is_interrupt(&self, key: KeyEvent) -> bool {
        !key.modifiers.is_empty() && self.shell_key(key) == Some(Shell::Quit)
    }

    fn act(&mut self, act: Shell, out: &mut Vec<Effect>) {
        match act {
            Shell::Quit => self.quit = true,
            Shell::Help => self.help = true,
            Shell::Go(place) => self.go(place),
            Shell::NextStep => self.go((self.at + 1) % self.places.len()),
            Shell::PreviousStep => self.go((self.at + self.places.len() - 1) % self.places.len()),
            Shell::Focus => {
                let stage = &mut self.ws.stage;
                stage.pointed = !stage.pointed;
            }
            Shell::Fill => {
                let stage = &mut self.ws.stage;
                stage.filled = !stage.filled;
                stage.pointed |= stage.filled;
                stage.stale = true;
            }
            Shell::Undo => self.ws.undo(),
            Shell::Redo => self.ws.redo(),
            Shell::OtherSide => self.ws.other_side(),
            Shell::Trial => self.toggle_trial(out),
            Shell::TrialAround => self.toggle_trial_around(out),
            Shell::ShowCommand => {
                let command = self.top().command(&self.ws);
                self.ws.tell(command);
            }
            Shell::Draw => self.ask_for_drawing(),
            Shell::Up => self.walk(-1, 0),
            Shell::Down => self.walk(1, 0),
            Shell::Left => self.walk(0, -1),
            Shell::Right => self.walk(0, 1),
            Shell::PageUp => self.walk(-self.ws.page(), 0),
            Shell::PageDown => self.walk(self.ws.page(), 0),
            Shell::First => self.walk(isize::MIN / 2, 0),
            Shell::Last => self.walk(isize::MAX / 2, 0),
            Shell::EditSpot => {
                let stage = &self.ws.stage;
                if let Some(role) = stage.specimen.spots.get(stage.spot).map(|s| s.text.clone()) {
                    self.stand_on(&role);
                }
            }
            Shell::MendSpot => {
                let stage = &self.ws.stage;
                let spot = stage.specimen.spots.get(stage.spot);
                if let Some((text, ground)) = spot.map(|s| (s.text.clone(), s.ground.clone())) {
                    self.ws.mend_role(&text, &ground);
                }
            }
        }
    }

    fn walk(&mut self, down: isize, right: isize) {
        if !self.ws.stage.pointed {
            let (_, bench, ws) = self.top_mut();
            return bench.walk(down, right, ws);
        }
        let toward = |by: isize, back, on| match by {
            0 => None,
            by if by < 0 => Some((back, by.unsigned_abs())),
            by => Some((on, by.unsigned_abs())),
        };
        let hops = [
            toward(down, Direction::Up, Direction::Down),
            toward(right, Direction::Left, Direction::Right),
        ];
        for (direction, times) in hops.into_iter().flatten() {
            self.ws.stage.hop(direction, times);
        }
    }

    /// Goes to a step, by its place in the path. What lies over the bench one comes from is left.
    fn go(&mut self, place: usize) {
        self.places[self.at].stack.truncate(1);
        self.at = place.min(self.places.len() - 1);
        let stage = &mut self.ws.stage;
        (stage.pointed, stage.filled, stage.stale) = (false, false, true);
    }

    fn go_to(&mut self, name: &str) {
        if let Some(place) = self.places.iter().position(|p| p.step.name == name) {
            self.go(place);
        }
    }

    /// Goes to where the color of a role is changed.
    fn stand_on(&mut self, role: &RoleId) {
        let is_font = role.as_str().starts_with("font.");
        if role.is_property() && is_font {
            self.go_to(FONT);
            return;
        }
        let of_window = role.as_str().starts_with("window.");
        if role.is_property() && of_window {
            self.go_to(WINDOW);
            let (_, bench, ws) = self.top_mut();
            bench.stand_on(role, ws);
            return;
        }
        if role.is_property() {
            self.ws.tell(format!(
                "`wealdmist set {role} VALUE` changes this; `a` takes a tool's value over"
            ));
            return;
        }
        self.go_to(PALETTE);
        let (_, bench, ws) = self.top_mut();
        bench.stand_on(role, ws);
    }

    /// Does what a bench, or what lies over one, wants done.
    fn carry_out(&mut self, owner: u64, wanted: Vec<AnyDo>, out: &mut Vec<Effect>) {
        for one in wanted {
            match one {
                Do::StandOn(role) => self.stand_on(&role),
                Do::Open(bench) => {
                    // What comes of slow work is laid over the bench that asked, wherever one is now.
                    let mut places = self.places.iter_mut();
                    let of = places.find(|p| p.stack.iter().any(|(o, _)| *o == owner));
                    if let Some(place) = of {
                        self.owners += 1;
                        place.stack.push((self.owners, bench));
                        self.ws.stage.pointed = false;
                        self.ws.stage.stale = true;
                    }
                }
                Do::Close => {
                    for place in &mut self.places {
                        if place.stack[0].0 != owner {
                            place.stack.retain(|(o, _)| *o != owner);
                        }
                    }
                    self.ws.stage.stale = true;
                }
                Do::Ask(question, ()) => {
                    self.line = Some(Line::new(question, Purpose::Bench(owner)));
                }
                Do::Run(job) => self.run(owner, job, out),
                Do::Copy(text) => out.push(Effect::Copy(text)),
                Do::EndTrials => self.end_trials(out),
            }
        }
    }

    fn run(&mut self, owner: u64, job: Job<AnyAnswer>, out: &mut Vec<Effect>) {
        debug!(lane = %job.lane, "work asked for");
        out.extend(self.jobs.ask(owner, job).map(Effect::Start));
    }

    fn done(&mut self, ticket: &Ticket, answer: AnyAnswer, out: &mut Vec<Effect>) {
        let (counts, next) = self.jobs.ended(ticket);
        debug!(lane = %ticket.lane, counts, "work ended");
        out.extend(next.map(Effect::Start));
        if !counts {
            return;
        }
        if ticket.owner == OWN {
            if let Ok(own) = answer.downcast::<Own>() {
                self.own_answer(*own);
            }
            return;
        }
        // What was laid over a bench may be gone by now.
        if let Some((bench, ws)) = self.owner_mut(ticket.owner) {
            let wanted = bench.answered(answer, ws);
            self.carry_out(ticket.owner, wanted, out);
        }
    }

    fn own_answer(&mut self, own: Own) {
        match own {
            Own::Font(found) => self.ws.fonts_found(*found),
            Own::Images(wanted, seen) => {
                self.ws.survey.take_images(wanted, *seen);
                self.ws.recompute();
            }
            Own::Drawn(Ok(said)) => self.ws.tell(said),
            Own::Drawn(Err(why)) => self.ws.complain(why),
            Own::Completed(typed, completion) => self.completed(&typed, completion),
        }
    }
}

#[cfg(test)]
impl App {
    /// The uppermost of a kind of bench.
    pub fn bench<B: 'static>(&self) -> Option<&B> {
        let mut all = self.places.iter().flat_map(|p| p.stack.iter().rev());
        all.find_map(|(_, b)| b.itself().downcast_ref())
    }

    /// The same to be changed.
    pub fn bench_mut<B: 'static>(&mut self) -> Option<&mut B> {
        let mut all = self.places.iter_mut().flat_map(|p| p.stack.iter_mut());
        all.find_map(|(_, b)| b.itself_mut().downcast_mut())
    }
}
