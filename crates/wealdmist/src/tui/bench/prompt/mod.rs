//! The Prompt bench: the design as a strip of parts, what each part is like, and on the specimen the same
//! design in all its situations.

mod choice;
mod code;
mod facts;
mod offers;
mod scenes;
mod view;

use std::borrow::Cow;
use std::path::PathBuf;

use crossterm::event::KeyCode::{
    Backspace, Char, Delete, Down, Enter, Left, PageDown, PageUp, Right, Up,
};
use wealdmist_core::character;
use wealdmist_core::prompt::{
    Design, Kind, Part, Past, Shape, Situation, Style, Way, When, cells, place,
};
use wealdmist_core::reading::ToolId;
use wealdmist_core::role::RoleId;
use wealdmist_core::specimen::Specimen;
use wealdmist_host::Cost;
use wealdmist_tools::Access;
use wealdmist_tools::sourced::Sourced;

use super::{Bench, Do, Question, Reply};
use crate::tui::job::Job;
use crate::tui::keys::{Key, also, hint, key, shifted};
use crate::tui::stage::Target;
use crate::tui::step::Step;
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::ask::confined;
use crate::work::prompt::{given_to, known_shells, shells, sign_typed};

/// The step.
pub const STEP: Step = Step {
    name: "prompt",
    label: "Prompt",
    drawing: "prompt",
};

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Carry(Way),
    OtherSide,
    Add,
    TakeOut,
    Lines,
    When,
    Sign,
    SignFailed,
    SignCommand,
    Icon,
    Before,
    Behind,
    NoWords,
    Text,
    TextFailed,
    TextCommand,
    Ground,
    Style,
    Folders,
    Tells,
    Version,
    Hours,
    Battery,
    Sooner,
    Later,
    Living,
    Joint,
    Opening,
    Closing,
    Stretch,
    Gap,
    More,
    Blank,
    Tie,
    Past,
    Designs,
    Give,
    Code,
    Folder,
    Cost,
    Scroll(isize),
}

/// What is typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ask {
    /// The sign of the part.
    Sign,
    /// The same after a command that failed.
    SignFailed,
    /// The same in the line editor's command mode.
    SignCommand,
    /// A text before it.
    Before,
    /// A text behind it.
    Behind,
    /// What it tells in particular: a threshold, a length, a text, a variable, a command.
    Tells,
    /// The files that show a language.
    Files,
    /// What the stretch is drawn with.
    Stretch,
    /// What stands between parts.
    Gap,
    /// What a line begins with that goes on.
    More,
    /// A folder to be seen as a situation.
    Folder,
}

/// The bench: the part pointed at, and how far the situations are scrolled.
#[derive(Debug, Default)]
pub struct Prompt {
    /// The part pointed at, by its place among all of the design.
    pub part: usize,
    /// The names of the parts, as they were last seen.
    known: Vec<String>,
    /// The first situation shown.
    pub first: usize,
    /// Situations of the person's own: folders as they are on this machine.
    pub own: Vec<Situation>,
    /// Whether this machine was looked at.
    looked: bool,
    /// Whether it has a battery.
    battery: bool,
    /// In how many situations the part pointed at is to be seen, and how many there are.
    pub seen: (usize, usize),
    /// What a design costs in a shell, and where that was measured.
    cost: Option<Measured>,
}

/// What was measured of a design.
#[derive(Debug, Clone)]
pub struct Measured {
    /// The design.
    design: Design,
    /// The shell.
    pub shell: ToolId,
    /// The folder, for people.
    pub folder: String,
    /// What it costs.
    pub cost: Cost,
}

/// What comes of the bench's slow work.
pub enum Answer {
    /// Whether this machine has a battery, and the folder one is in, where it is one of this home.
    Machine(bool, Option<Box<Situation>>),
    /// A folder as a situation.
    Folder(Result<Box<Situation>, String>),
    /// What the design costs.
    Cost(Result<Box<Measured>, String>),
}

impl Bench for Prompt {
    type Act = Act;
    type Ask = Ask;
    type Answer = Answer;

    const KEYS: &'static [Key<Act>] = &[
        shifted(hint(Left, Act::Carry(Way::Left), "Shift+arrows", "carry")),
        shifted(also(Right, Act::Carry(Way::Right))),
        shifted(also(Up, Act::Carry(Way::Up))),
        shifted(also(Down, Act::Carry(Way::Down))),
        hint(Char('a'), Act::Add, "a", "add"),
        hint(Char('x'), Act::TakeOut, "x", "take out"),
        also(Delete, Act::TakeOut),
        hint(Char('o'), Act::OtherSide, "o", "other side"),
        hint(Char('c'), Act::Text, "c", "color"),
        hint(Char('g'), Act::Ground, "g", "ground"),
        hint(Char('d'), Act::Designs, "d", "designs"),
        hint(Enter, Act::Give, "Enter", "into the shells"),
        key(Char('l'), Act::Lines, "l", "one line / two"),
        key(Char('w'), Act::When, "w", "when it is shown"),
        key(Char('i'), Act::Sign, "i", "its sign"),
        key(Char('I'), Act::SignFailed, "I", "its sign after a failure"),
        key(
            Char('V'),
            Act::SignCommand,
            "V",
            "its sign in the editor's command mode",
        ),
        key(
            Char('E'),
            Act::TextCommand,
            "E",
            "color in the editor's command mode",
        ),
        key(Char('N'), Act::Icon, "N", "an icon by its name"),
        key(Char('b'), Act::Before, "b", "the text before it"),
        key(Char('n'), Act::Behind, "n", "the text behind it"),
        key(Backspace, Act::NoWords, "Backspace", "without its texts"),
        key(Char('C'), Act::TextFailed, "C", "color after a failure"),
        key(Char('s'), Act::Style, "s", "how it is written"),
        key(
            Char('f'),
            Act::Folders,
            "f",
            "folders shown; files of a language",
        ),
        key(
            Char('e'),
            Act::Tells,
            "e",
            "what it tells: length, limit, text",
        ),
        key(Char('v'), Act::Version, "v", "version of a language"),
        key(Char('h'), Act::Hours, "h", "12 or 24 hours, seconds"),
        key(
            Char('%'),
            Act::Battery,
            "%",
            "from when on the battery is shown",
        ),
        key(Char('-'), Act::Sooner, "- +", "gives way sooner, later"),
        also(Char('+'), Act::Later),
        key(
            Char('m'),
            Act::Living,
            "m",
            "the living host for a written one",
        ),
        key(Char('j'), Act::Joint, "j", "joints of blocks"),
        key(Char('('), Act::Opening, "( )", "how blocks open, close"),
        also(Char(')'), Act::Closing),
        key(Char('S'), Act::Stretch, "S", "the stretch"),
        key(Char('G'), Act::Gap, "G", "what stands between parts"),
        key(Char('M'), Act::More, "M", "lines that go on"),
        key(Char('B'), Act::Blank, "B", "a blank line before"),
        key(Char('y'), Act::Tie, "y", "lines tied together"),
        key(Char('p'), Act::Past, "p", "past prompts"),
        key(Char('r'), Act::Code, "r", "read the code"),
        key(Char('K'), Act::Cost, "K", "what it costs in a shell"),
        key(
            Char('/'),
            Act::Folder,
            "/",
            "a folder of yours as a situation",
        ),
        key(PageDown, Act::Scroll(1), "PgUp PgDn", "more situations"),
        also(PageUp, Act::Scroll(-1)),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "prompt".into()
    }

    fn command(&self, ws: &Workspace) -> String {
        let shells = shells(&ws.survey);
        let code = shells
            .first()
            .map(|(id, _)| format!("   ·   wealdmist prompt code {id}"));
        format!("wealdmist prompt{}", code.unwrap_or_default())
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match act {
            Act::Add => {
                let shell = measured_in(ws);
                return offers::parts(self.part, self.battery, shell, ws);
            }
            Act::Icon => return offers::icons(self.part, ws),
            Act::Text => return offers::colors(self.part, offers::Of::Text, ws),
            Act::TextFailed => return offers::colors(self.part, offers::Of::Failed, ws),
            Act::TextCommand => return offers::colors(self.part, offers::Of::Command, ws),
            Act::Ground => return offers::colors(self.part, offers::Of::Ground, ws),
            Act::Designs => return offers::designs(ws),
            Act::Code => return code::open(ws),
            Act::Sign => return self.ask(ws, Ask::Sign),
            Act::SignFailed => return self.ask(ws, Ask::SignFailed),
            Act::SignCommand => return self.ask(ws, Ask::SignCommand),
            Act::Before => return self.ask(ws, Ask::Before),
            Act::Behind => return self.ask(ws, Ask::Behind),
            Act::Tells => return self.ask(ws, Ask::Tells),
            Act::Stretch => return self.ask(ws, Ask::Stretch),
            Act::Gap => return self.ask(ws, Ask::Gap),
            Act::More => return self.ask(ws, Ask::More),
            Act::Folder => return self.ask(ws, Ask::Folder),
            Act::Folders if self.pointed(ws).is_some_and(|p| p.kind == Kind::Language) => {
                return self.ask(ws, Ask::Files);
            }
            Act::Cost => return self.measure(ws),
            Act::Battery => {
                return match self.go_to(Kind::Battery, ws) {
                    true => self.ask(ws, Ask::Tells),
                    false => Vec::new(),
                };
            }
            Act::Hours if !self.go_to(Kind::Time, ws) => {}
            Act::Give => give(ws),
            Act::Scroll(by) => {
                let last = scenes::all(ws, &self.own).names.len().saturating_sub(1);
                self.first = self.first.saturating_add_signed(by * 4).min(last);
                ws.stage.stale = true;
            }
            _ => self.edit(act, ws),
        }
        Vec::new()
    }

    fn typed(&mut self, ask: &Ask, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        if *ask == Ask::Folder {
            return Ok(vec![self.look_at(ws.survey.home.expand(text.trim()), ws)]);
        }
        let mut design = ws.doc().setup().prompt.clone();
        let part = design.part_mut(self.part);
        match (ask, part) {
            (Ask::Stretch, _) => {
                let mut characters = text.chars();
                design.stretch = match (characters.next(), characters.next()) {
                    (None, _) => ' ',
                    (Some(c), None) if cells(text) == 1 => c,
                    _ => return Err("one character of one cell".to_owned()),
                };
            }
            (Ask::Gap, _) => text.clone_into(&mut design.gap),
            (Ask::More, _) => design.more = with_sign(&design.more, &sign_typed(text)?),
            (Ask::Sign, Some(part)) => {
                let sign = sign_typed(text)?;
                part.signs = with_sign(&part.signs, &sign);
            }
            (Ask::SignFailed, Some(part)) => {
                let sign = sign_typed(text)?;
                let other = part.signs_failed.as_ref().unwrap_or(&part.signs);
                part.signs_failed = Some(with_sign(other, &sign));
            }
            (Ask::SignCommand, Some(part)) => {
                let sign = sign_typed(text)?;
                let other = part.signs_command.as_ref().unwrap_or(&part.signs);
                part.signs_command = Some(with_sign(other, &sign));
            }
            (Ask::Before, Some(part)) => text.clone_into(&mut part.before),
            (Ask::Behind, Some(part)) => text.clone_into(&mut part.after),
            (Ask::Files, Some(part)) => {
                let files = text.split_whitespace().map(str::to_owned);
                part.tells.files = files.collect();
            }
            (Ask::Tells, Some(part)) => facts::tell(part, text)?,
            _ => return Ok(Vec::new()),
        }
        let changed = ws.doc().with_design(&design).map_err(|e| e.to_string())?;
        ws.change(Ok::<_, String>(changed));
        Ok(Vec::new())
    }

    fn answered(&mut self, answer: Self::Answer, ws: &mut Workspace) -> Reply<Self> {
        match answer {
            Answer::Cost(Ok(measured)) => self.cost = Some(*measured),
            Answer::Machine(battery, here) => {
                self.battery = battery;
                self.own.extend(here.map(|at| *at));
                ws.stage.stale = true;
            }
            Answer::Folder(Ok(at)) => {
                self.own.retain(|own| own.folder != at.folder);
                self.own.insert(0, *at);
                self.first = 0;
                ws.stage.stale = true;
            }
            Answer::Folder(Err(why)) | Answer::Cost(Err(why)) => ws.complain(why),
        }
        Vec::new()
    }

    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace) {
        let design = &ws.doc().setup().prompt;
        let count = design.parts().count();
        if down.unsigned_abs() > count {
            self.part = if down < 0 { 0 } else { count - 1 };
        } else {
            for (by, ways) in [
                (down, [Way::Up, Way::Down]),
                (right, [Way::Left, Way::Right]),
            ] {
                let way = ways[usize::from(by > 0)];
                for _ in 0..by.unsigned_abs().min(count) {
                    self.part = design.beside(self.part, way);
                }
            }
        }
        ws.stage.stale = true;
    }

    fn point(&mut self, row: usize, _: Option<usize>, ws: &mut Workspace) {
        self.part = row;
        ws.stage.stale = true;
    }

    fn dropped(&mut self, from: usize, to: usize, ws: &mut Workspace) {
        let mut design = ws.doc().setup().prompt.clone();
        if let Some(at) = design.carry_to(from, to) {
            self.take(&design, Some(at), ws);
        }
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        let parts = ws.doc().setup().prompt.parts();
        let now: Vec<String> = parts.map(|p| p.name.clone()).collect();
        if now != self.known {
            // What is new is pointed at; else what was pointed at stays so, wherever it stands now.
            let new = now.iter().position(|n| !self.known.contains(n));
            let new = new.filter(|_| !self.known.is_empty());
            let old = self.known.get(self.part);
            let old = old.and_then(|old| now.iter().position(|n| n == old));
            self.part = new.or(old).unwrap_or(self.part);
            self.known = now;
        }
        self.part = self.part.min(self.known.len().saturating_sub(1));
        if ws.stage.stale {
            let all = scenes::all(ws, &self.own);
            self.seen = (all.showing(self.part), all.names.len());
        }
        if self.looked {
            return Vec::new();
        }
        self.looked = true;
        let home = ws.survey.home.clone();
        vec![Do::Run(Job::new(
            "machine",
            "looking at this machine",
            move || {
                let here = std::env::current_dir().ok();
                let here = here.filter(|folder| folder.starts_with(home.home()));
                let here = here.and_then(|folder| wealdmist_host::situation(&home, &folder).ok());
                Answer::Machine(wealdmist_host::battery().is_some(), here.map(Box::new))
            },
        ))]
    }

    fn open_count(&self, ws: &Workspace) -> usize {
        match shells(&ws.survey).iter().any(|(_, ours)| *ours) {
            true => facts::problems(ws).len(),
            false => 0,
        }
    }

    fn target(&self, ws: &Workspace) -> Option<Target> {
        let part = self.pointed(ws)?;
        Some(Target {
            text: part.text.clone(),
            ground: part.ground.clone(),
        })
    }

    fn specimen(&self, ws: &Workspace, size: (usize, usize)) -> Option<Specimen> {
        let scenes = scenes::all(ws, &self.own);
        Some(scenes.drawn(self.first, Some(self.part), size))
    }
}

impl Prompt {
    /// The part pointed at.
    pub fn pointed<'a>(&self, ws: &'a Workspace) -> Option<&'a Part> {
        ws.doc().setup().prompt.part(self.part)
    }

    /// Takes a changed design into the draft.
    fn take(&mut self, design: &Design, at: Option<usize>, ws: &mut Workspace) {
        let changed = ws.doc().with_design(design);
        if ws.change(changed) {
            self.known = design.parts().map(|p| p.name.clone()).collect();
            self.part = at.unwrap_or(self.part);
        }
    }

    fn look_at(&self, folder: PathBuf, ws: &Workspace) -> Do<Ask, Answer> {
        let home = ws.survey.home.clone();
        Do::Run(Job::new("folder", "looking at the folder", move || {
            Answer::Folder(wealdmist_host::situation(&home, &folder).map(Box::new))
        }))
    }

    /// Measures what the design costs in the folder that was looked at last.
    fn measure(&self, ws: &mut Workspace) -> Reply<Self> {
        let Some((shell, row)) = measured_in(ws) else {
            ws.complain("no shell is installed that it could be measured in");
            return Vec::new();
        };
        let folder = match self.own.first() {
            Some(at) => ws.survey.home.expand(&at.folder),
            None => ws.survey.home.home().to_owned(),
        };
        let (doc, said) = (ws.doc().clone(), ws.survey.home.contract(&folder));
        vec![Do::Run(Job::new(
            "cost",
            "measuring the prompt",
            move || {
                let cost = wealdmist_host::cost(&doc, row, &folder, &confined());
                let design = doc.setup().prompt.clone();
                Answer::Cost(cost.map(|cost| {
                    Box::new(Measured {
                        design,
                        shell,
                        folder: said,
                        cost,
                    })
                }))
            },
        ))]
    }

    /// What was measured, where the design is still the one.
    pub fn measured(&self, ws: &Workspace) -> Option<&Measured> {
        let measured = self.cost.as_ref();
        measured.filter(|m| m.design == ws.doc().setup().prompt)
    }

    /// Goes to the part of a kind, unless the pointer is on one; says so where there is none.
    fn go_to(&mut self, kind: Kind, ws: &mut Workspace) -> bool {
        let design = &ws.doc().setup().prompt;
        let is_it = |p: &Part| p.kind == kind;
        let here = design
            .part(self.part)
            .is_some_and(is_it)
            .then_some(self.part);
        let Some(at) = here.or_else(|| design.parts().position(is_it)) else {
            ws.tell(format!("no part tells the {}: a adds one", kind.label()));
            return false;
        };
        self.part = at;
        true
    }

    fn ask(&self, ws: &mut Workspace, ask: Ask) -> Reply<Self> {
        let design = &ws.doc().setup().prompt;
        let Some(part) = design.part(self.part) else {
            return Vec::new();
        };
        let level = place(ws.doc().setup().symbols);
        let question = match ask {
            Ask::Sign => Question::new(format!("sign of {}", part.name), part.signs[level].clone()),
            Ask::SignFailed if part.kind == Kind::Input => {
                Question::new("sign after a failure", "")
            }
            Ask::SignCommand if part.kind == Kind::Input => {
                Question::new("sign in command mode", "")
            }
            Ask::SignFailed | Ask::SignCommand => {
                ws.tell("only where one types the sign can turn");
                return Vec::new();
            }
            Ask::Before => Question::new(format!("text before {}", part.name), part.before.clone()),
            Ask::Behind => Question::new(format!("text behind {}", part.name), part.after.clone()),
            Ask::Files => Question::new("files that show it", part.tells.files.join(" ")),
            Ask::Tells => match facts::question(part) {
                Some(question) => question,
                None => {
                    ws.tell(format!("{} has nothing that is typed", part.name));
                    return Vec::new();
                }
            },
            Ask::Stretch => Question::new("the stretch is drawn with", ""),
            Ask::Gap => Question::new("between parts stands", design.gap.clone()),
            Ask::More => Question::new("lines that go on begin with", design.more[level].clone()),
            Ask::Folder => Question::path("the prompt in folder", "~/"),
        };
        vec![Do::Ask(question, ask)]
    }

    /// What changes the design at once.
    fn edit(&mut self, act: Act, ws: &mut Workspace) {
        let mut design = ws.doc().setup().prompt.clone();
        let at = match changed(act, self.part, &mut design) {
            Ok(at) => at,
            Err(why) => return ws.tell(why),
        };
        self.take(&design, at, ws);
    }
}

/// The shell that costs are measured in: the first that is given the design, or that is here.
fn measured_in(ws: &Workspace) -> Option<(ToolId, &'static Sourced)> {
    let all = shells(&ws.survey);
    let given = all.iter().find(|(_, ours)| *ours).or(all.first())?;
    known_shells().find(|(id, _)| given.0 == *id)
}

/// Carries out what needs no word of the person; where the part pointed at stands then, if it moved.
fn changed(act: Act, pointed: usize, design: &mut Design) -> Result<Option<usize>, &'static str> {
    const STAYS: &str = "where one types stays at the end of the left side";
    match act {
        Act::Carry(way) => {
            return design
                .carry(pointed, way)
                .map(Some)
                .ok_or("no further that way");
        }
        Act::OtherSide => return design.to_other_side(pointed).map(Some).ok_or(STAYS),
        Act::TakeOut => return design.take_out(pointed).map(Some).ok_or(STAYS),
        Act::Lines => design.join_or_part(),
        Act::Joint => design.joint = after(&Shape::ALL.map(|(_, s)| s), design.joint),
        Act::Opening => design.open = after(&Shape::ALL.map(|(_, s)| s), design.open),
        Act::Closing => design.close = after(&Shape::ALL.map(|(_, s)| s), design.close),
        Act::Blank => design.blank = !design.blank,
        Act::Tie => design.tie = !design.tie,
        Act::Past => design.past = after(&[Past::Whole, Past::Line, Past::Sign], design.past),
        _ => {}
    }
    let part = design.part_mut(pointed).ok_or("there is no part")?;
    match act {
        Act::When => part.when = after(&When::ALL.map(|(_, w)| w), part.when),
        Act::NoWords => {
            part.before.clear();
            part.after.clear();
        }
        Act::Style if matches!(part.kind, Kind::Changes | Kind::Status) => {
            let all = [Style::One, Style::Each, Style::Counts, Style::Lines];
            let all = &all[..if part.kind == Kind::Changes { 4 } else { 3 }];
            part.tells.style = after(all, part.tells.style);
        }
        Act::Style => return Err("only changes and the status can be written in several ways"),
        Act::Folders if part.kind == Kind::Folder => {
            let all = [1, 2, 3, 4, 0].map(|n| (n, false));
            let all = [&all[..], &[(1, true), (2, true), (3, true)]].concat();
            let tells = &mut part.tells;
            (tells.folders, tells.beginnings) = after(&all, (tells.folders, tells.beginnings));
        }
        Act::Folders => return Err("f is for the folder and for languages"),
        Act::Version if part.kind != Kind::Language => return Err("only languages have a version"),
        Act::Version if part.tells.asks.is_empty() => {
            return Err("e says which command tells its version");
        }
        Act::Version => part.tells.version = !part.tells.version,
        Act::Hours => {
            let tells = &mut part.tells;
            let all = [(false, false), (true, false), (true, true), (false, true)];
            (tells.twelve, tells.seconds) = after(&all, (tells.twelve, tells.seconds));
        }
        Act::Sooner => part.rank = part.rank.saturating_sub(1),
        Act::Later => part.rank = (part.rank + 1).min(99),
        Act::Living => {
            let done = design.make_living(pointed);
            done.ok_or("this is no written text")?;
        }
        _ => {}
    }
    Ok(None)
}

/// The next of several; the first after the last, and where it is none of them.
fn after<T: Copy + PartialEq>(all: &[T], one: T) -> T {
    let at = all.iter().position(|a| *a == one);
    all[at.map_or(0, |at| (at + 1) % all.len())]
}

/// Signs with another one in the place of all that could be drawn where it can.
pub(super) fn with_sign(signs: &[String; 3], sign: &str) -> [String; 3] {
    use wealdmist_core::character::SymbolLevel as L;
    let needs = sign.chars().map(character::level).max().unwrap_or(L::Ascii);
    let mut out = signs.clone();
    for level in [L::Icons, L::Plain, L::Ascii] {
        if level >= needs {
            sign.clone_into(&mut out[place(level)]);
        }
    }
    out
}

/// Gives the design to every shell that is here, or leaves them their own prompts again.
fn give(ws: &mut Workspace) {
    let all = shells(&ws.survey);
    if all.is_empty() {
        ws.complain("no shell is installed that a prompt can be written for");
        return;
    }
    let ours = !all.iter().all(|(_, ours)| *ours);
    let ids: Vec<_> = all.into_iter().map(|(id, _)| id).collect();
    let changed = given_to(ws.doc(), &ids, ours);
    if ws.change(changed) {
        let names: Vec<&str> = ids.iter().map(|id| id.0).collect();
        let names = names.join(", ");
        let apply = ws.number_of("apply");
        ws.tell(match ours {
            true => format!("{names}: this design; {apply} shows what is written"),
            false => format!("{names}: their own prompts again"),
        });
    }
}

/// A role in which something is drawn, the terminal's own where none is said.
fn or_own<'a>(role: Option<&'a RoleId>, own: &'a RoleId) -> &'a RoleId {
    role.unwrap_or(own)
}
