//! The Contrast bench: conditions as switches, exceptions, targets of one's own.

mod view;

use std::borrow::Cow;
use std::path::PathBuf;
use std::sync::Arc;

use crossterm::event::KeyCode::{Char, Enter};
use wealdmist_core::color::{Depth, Vision};
use wealdmist_core::condition::{Backdrop, Behind, Conditions};
use wealdmist_core::pair::{Meaning, Pair};
use wealdmist_core::property::Property;
use wealdmist_core::reading::Value;
use wealdmist_core::repair::Scope;
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_host::read_backdrop;

use super::proposal::propose_repair;
use super::{Bench, Do, List, Question, Reply};
use crate::tui::job::Job;
use crate::tui::keys::{Key, also, hint, key};
use crate::tui::stage::Target;
use crate::tui::step::Step;
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::lines;

/// The step.
pub const STEP: Step = Step {
    name: "contrast",
    label: "Contrast",
    drawing: "pairs",
};

/// How much of a text's color is left in a dimmed pane where no tool says.
const DIMMED: f64 = 0.7;

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    RepairPair,
    RepairPalette,
    EditText,
    EditGround,
    Keep,
    Target,
    Lock,
    LessOpaque,
    MoreOpaque,
    Wallpaper,
    Dimmed,
    Bits,
    Vision,
    Severity,
    Plain,
}

/// What is typed.
#[derive(Debug, Clone, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Ask {
    /// An image to see through.
    Wallpaper,
    /// Why a pair may stay below its target.
    Reason { text: RoleId, ground: RoleId },
    /// The ratio a role needs.
    Target(RoleId),
}

/// What is asked for what is behind the window.
const BEHIND: &str = "image behind the ground (empty: any wallpaper)";

/// An image to see through was read, or not.
pub struct WallpaperRead {
    typed: String,
    read: Result<(PathBuf, Backdrop), String>,
}

/// The bench.
#[derive(Debug, Default)]
pub struct Contrast {
    /// The pair pointed at.
    pub cursor: usize,
}

impl Bench for Contrast {
    type Act = Act;
    type Ask = Ask;
    type Answer = WallpaperRead;

    const KEYS: &'static [Key<Act>] = &[
        hint(Char('m'), Act::RepairPair, "m", "mend this pair"),
        hint(Char('r'), Act::RepairPalette, "r", "repair all"),
        hint(Enter, Act::EditText, "Enter", "edit the text color"),
        key(Char('g'), Act::EditGround, "g", "edit the ground"),
        hint(Char('e'), Act::Keep, "e", "keep as it is"),
        key(Char('n'), Act::Target, "n", "ratio it needs"),
        key(Char('L'), Act::Lock, "L", "lock the text's color"),
        hint(Char('-'), Act::LessOpaque, "- +", "seen through a window"),
        also(Char('+'), Act::MoreOpaque),
        also(Char('='), Act::MoreOpaque),
        key(Char('w'), Act::Wallpaper, "w", "what is behind the window"),
        key(Char('d'), Act::Dimmed, "d", "dimmed pane"),
        key(Char('b'), Act::Bits, "b", "24-bit, 256, 16 colors"),
        hint(Char('v'), Act::Vision, "v", "color vision"),
        key(
            Char('V'),
            Act::Severity,
            "V",
            "how strong the deficiency is",
        ),
        key(Char('c'), Act::Plain, "c", "as in your windows, or plain"),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "pairs, worst first".into()
    }

    fn command(&self, ws: &Workspace) -> String {
        let seen = lines::seen(&ws.conditions, ws.behind.as_deref());
        match self.pair(ws) {
            Some(p) => format!(
                "wealdmist repair {}{seen}   ·   wealdmist contrast {} {}{seen}",
                lines::word(&ws.name_of(&ws.origin(&p.text))),
                p.text,
                p.ground
            ),
            None => format!("wealdmist contrast{seen}"),
        }
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match act {
            Act::RepairPair => return self.repair_pair(ws),
            Act::RepairPalette => return propose_repair(ws, &Scope::Palette),
            Act::EditText => {
                let role = self.pair(ws).map(|p| p.text.clone());
                return role.map(Do::StandOn).into_iter().collect();
            }
            Act::EditGround => {
                let role = self.pair(ws).map(|p| p.ground.clone());
                return role.map(Do::StandOn).into_iter().collect();
            }
            Act::Keep => return self.keep(ws),
            Act::Target => {
                let Some(pair) = self.pair(ws) else {
                    return Vec::new();
                };
                let text = format!("ratio that {} needs", pair.text);
                let question = Question::new(text, pair.target.to_string());
                return vec![Do::Ask(question, Ask::Target(pair.text.clone()))];
            }
            Act::Lock => {
                if let Some(origin) = self.pair(ws).map(|p| ws.origin(&p.text)) {
                    ws.switch_lock(&origin);
                }
            }
            Act::LessOpaque => self.change_opacity(-0.05, ws),
            Act::MoreOpaque => self.change_opacity(0.05, ws),
            Act::Wallpaper => {
                let path = ws.behind.as_ref().map(|w| w.display().to_string());
                let question = Question::path(BEHIND, path.unwrap_or_default());
                return vec![Do::Ask(question, Ask::Wallpaper)];
            }
            Act::Dimmed => self.switch_dimmed(ws),
            Act::Bits => self.switch_depth(ws),
            Act::Vision => self.switch_vision(ws),
            Act::Severity => self.switch_severity(ws),
            Act::Plain => self.plain(ws),
        }
        Vec::new()
    }

    fn typed(&mut self, ask: &Ask, text: &str, ws: &mut Workspace) -> Result<Reply<Self>, String> {
        let text = text.trim();
        match ask {
            Ask::Wallpaper if text.is_empty() => {
                ws.behind = None;
                self.condition(ws, |c| c.behind = Behind::Worst);
            }
            Ask::Wallpaper => {
                let (home, typed) = (ws.survey.home.clone(), text.to_owned());
                return Ok(vec![Do::Run(Job::new(
                    "wallpaper",
                    "reading the image",
                    move || {
                        let path = home.look_up(&typed);
                        let read = read_backdrop(&path).map_err(|e| e.to_string());
                        let read = read.map(|backdrop| (path, backdrop));
                        WallpaperRead { typed, read }
                    },
                ))]);
            }
            Ask::Reason { .. } if text.is_empty() => {
                return Err("an exception needs a reason".to_owned());
            }
            Ask::Reason { text: of, ground } => {
                let changed = ws.doc().with_contrast_exception(of, ground, text);
                if ws.change(changed) {
                    ws.tell("kept as it is, with the reason");
                }
            }
            Ask::Target(role) => {
                let wrong = || format!("'{text}' is not a ratio from 1 to 21");
                let ratio: f64 = text.trim_end_matches(":1").parse().map_err(|_| wrong())?;
                let path = ["contrast", "roles", role.as_str()];
                let doc = ws.doc().with_number(&path, ratio);
                let doc = doc.map_err(|e| e.to_string())?;
                ws.change(Ok::<_, String>(doc));
                ws.tell(format!("{role} needs {ratio}:1"));
            }
        }
        Ok(Vec::new())
    }

    fn answered(&mut self, answer: WallpaperRead, ws: &mut Workspace) -> Reply<Self> {
        match answer.read {
            Ok((path, backdrop)) => {
                let ground = ws.look().slot(Slot::Background);
                let judged = Arc::new(backdrop.under_text(&ws.stage.specimen, ground));
                ws.behind = Some(path);
                self.condition(ws, |c| {
                    c.behind = Behind::Image(judged);
                    if c.opacity >= 1.0 {
                        c.opacity = 0.85;
                    }
                });
            }
            Err(why) => {
                let question = Question::path(BEHIND, answer.typed).refused(why);
                return vec![Do::Ask(question, Ask::Wallpaper)];
            }
        }
        Vec::new()
    }

    fn list(&mut self, ws: &Workspace) -> Option<List<'_>> {
        let len = ws.derived.pairs.len();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn open_count(&self, ws: &Workspace) -> usize {
        ws.derived.counts.contrast
    }

    fn target(&self, ws: &Workspace) -> Option<Target> {
        let pair = self.pair(ws)?;
        Some(Target {
            text: pair.text.clone(),
            ground: Some(pair.ground.clone()),
        })
    }
}

impl Contrast {
    /// The pair pointed at.
    pub fn pair<'a>(&self, ws: &'a Workspace) -> Option<&'a Pair> {
        ws.derived.pairs.get(self.cursor)
    }

    /// Changes what is seen through; the pointer stays on its pair, wherever that is sorted then.
    fn condition(&mut self, ws: &mut Workspace, change: impl FnOnce(&mut Conditions)) {
        let pair = self.pair(ws).cloned();
        ws.conditions_chosen = true;
        change(&mut ws.conditions);
        ws.recompute();
        if let Some(pair) = pair {
            let same = |p: &Pair| p.tool == pair.tool && p.what == pair.what && p.text == pair.text;
            let found = ws.derived.pairs.iter().position(same);
            self.cursor = found.unwrap_or(self.cursor);
        }
        let label = ws.conditions.label();
        ws.tell(format!("seen: {label}"));
    }

    /// Back to what is seen through the person's own windows; from there to none of it.
    fn plain(&mut self, ws: &mut Workspace) {
        let own = ws.survey.own_conditions();
        let to = match ws.conditions == own {
            true => Conditions::default(),
            false => own,
        };
        self.condition(ws, |c| *c = to);
        ws.conditions_chosen = ws.conditions != ws.survey.own_conditions();
    }

    fn change_opacity(&mut self, by: f64, ws: &mut Workspace) {
        let known = window_opacity(ws).filter(|o| *o < 1.0);
        self.condition(ws, |c| {
            // The first step down goes to what the window really has.
            c.opacity = match known {
                Some(known) if c.opacity >= 1.0 && by < 0.0 => known,
                _ => ((c.opacity + by) * 20.0).round().clamp(0.0, 20.0) / 20.0,
            };
        });
    }

    fn switch_dimmed(&mut self, ws: &mut Workspace) {
        let said = ws.survey.reports.iter().find_map(|r| {
            match r.effective(&RoleId::from(Property::WindowDimmed))?.value {
                Value::Number(n) => Some(n),
                _ => None,
            }
        });
        let left = said.filter(|n| *n < 1.0).unwrap_or(DIMMED);
        self.condition(ws, |c| {
            c.dimmed = if c.dimmed.is_some() { None } else { Some(left) }
        });
    }

    fn switch_depth(&mut self, ws: &mut Workspace) {
        self.condition(ws, |c| {
            c.depth = match c.depth {
                Depth::TrueColor => Depth::Indexed256,
                Depth::Indexed256 => Depth::Ansi16,
                _ => Depth::TrueColor,
            };
        });
    }

    fn switch_vision(&mut self, ws: &mut Workspace) {
        self.condition(ws, |c| {
            c.vision = match c.vision {
                Vision::Full => Vision::Protan(1.0),
                Vision::Protan(_) => Vision::Deutan(1.0),
                Vision::Deutan(_) => Vision::Tritan(1.0),
                Vision::Tritan(_) => Vision::Gray,
                Vision::Gray => Vision::Full,
            };
        });
    }

    fn switch_severity(&mut self, ws: &mut Workspace) {
        let next = |s: f64| if s <= 0.3 { 1.0 } else { s - 0.25 };
        self.condition(ws, |c| {
            c.vision = match c.vision {
                Vision::Protan(s) => Vision::Protan(next(s)),
                Vision::Deutan(s) => Vision::Deutan(next(s)),
                Vision::Tritan(s) => Vision::Tritan(next(s)),
                other => other,
            };
        });
    }

    /// Mends the pair pointed at by moving its text's color.
    fn repair_pair(&self, ws: &mut Workspace) -> Reply<Self> {
        let Some(pair) = self.pair(ws) else {
            return Vec::new();
        };
        if pair.fine() {
            ws.tell("this pair reaches its target, or is kept as it is");
            return Vec::new();
        }
        let scope = Scope::Color(ws.origin(&pair.text));
        propose_repair(ws, &scope)
    }

    /// Keeps the pair pointed at below its target, for a reason; or no longer.
    fn keep(&self, ws: &mut Workspace) -> Reply<Self> {
        let Some(pair) = self.pair(ws) else {
            return Vec::new();
        };
        let (text, ground) = (pair.text.clone(), pair.ground.clone());
        if pair.exception.is_some() {
            let changed = ws.doc().without_contrast_exception(&text, &ground);
            if ws.change(changed) {
                ws.tell("the pair has to reach its target again");
            }
            return Vec::new();
        }
        let question = format!("why may {text} on {ground} stay below {}:1", pair.target);
        vec![Do::Ask(
            Question::new(question, ""),
            Ask::Reason { text, ground },
        )]
    }
}

/// What must be told apart, least first.
pub fn meanings(ws: &Workspace) -> Vec<Meaning> {
    wealdmist_core::pair::meanings(&ws.derived.look, &ws.conditions)
}

/// The opacity the terminal's window has by the setup, else by its dotfiles.
fn window_opacity(ws: &Workspace) -> Option<f64> {
    let number = |value: &Value| match value {
        Value::Number(n) => Some(*n),
        _ => None,
    };
    let role = RoleId::from(Property::WindowOpacity);
    let mut terminals = ws.survey.reports.iter().filter(|r| r.is_terminal);
    let chosen = Property::WindowOpacity.of(ws.survey.doc.setup());
    let said = || terminals.find_map(|r| number(&r.effective(&role)?.value));
    chosen.as_ref().and_then(number).or_else(said)
}
