//! The Contrast bench: conditions as switches, exceptions, targets of one's own.

use std::path::PathBuf;
use std::sync::Arc;

use wealdmist_core::color::{Depth, Vision};
use wealdmist_core::condition::{Backdrop, Behind, Conditions};
use wealdmist_core::look::origin;
use wealdmist_core::pair::{Meaning, Pair};
use wealdmist_core::property::Property;
use wealdmist_core::reading::Value;
use wealdmist_core::repair::Scope;
use wealdmist_core::role::{RoleId, Slot};

use super::{App, Effect, Input, Purpose};

/// How much of a text's color is left in a dimmed pane where no tool says.
const DIMMED: f64 = 0.7;

/// The wallpaper that was chosen.
#[derive(Debug, Clone)]
pub struct Wallpaper {
    /// Its file.
    pub path: PathBuf,
}

impl App {
    /// The pair pointed at.
    pub fn pair(&self) -> Option<&Pair> {
        self.derived.pairs.get(self.pair)
    }

    /// What must be told apart, least first.
    pub fn meanings(&self) -> Vec<Meaning> {
        wealdmist_core::pair::meanings(&self.derived.look, &self.conditions)
    }

    /// The opacity the terminal's window has by its dotfiles, else by the setup.
    pub fn window_opacity(&self) -> Option<f64> {
        let said = self
            .survey
            .reports
            .iter()
            .filter(|r| r.is_terminal)
            .find_map(
                |r| match r.effective(&RoleId::from(Property::WindowOpacity))?.value {
                    Value::Number(n) => Some(n),
                    _ => None,
                },
            );
        self.survey.doc.setup().window.opacity.or(said)
    }

    fn condition(&mut self, change: impl FnOnce(&mut Conditions)) {
        let pair = self.pair().cloned();
        change(&mut self.conditions);
        self.recompute();
        // The pointer stays on its pair, wherever that is sorted now.
        if let Some(pair) = pair {
            let same = |p: &Pair| p.tool == pair.tool && p.what == pair.what && p.text == pair.text;
            let found = self.derived.pairs.iter().position(same);
            self.pair = found.unwrap_or(self.pair);
        }
        let label = self.conditions.label();
        self.tell(&format!("seen: {label}"));
    }

    pub(super) fn change_opacity(&mut self, by: f64) {
        let known = self.window_opacity().filter(|o| *o < 1.0);
        self.condition(|c| {
            // The first step down goes to what the window really has.
            c.opacity = match known {
                Some(known) if c.opacity >= 1.0 && by < 0.0 => known,
                _ => ((c.opacity + by) * 20.0).round().clamp(0.0, 20.0) / 20.0,
            };
        });
    }

    pub(super) fn switch_dimmed(&mut self) {
        let said = self.survey.reports.iter().find_map(|r| {
            match r.effective(&RoleId::from(Property::WindowDimmed))?.value {
                Value::Number(n) => Some(n),
                _ => None,
            }
        });
        let left = said.filter(|n| *n < 1.0).unwrap_or(DIMMED);
        self.condition(|c| c.dimmed = if c.dimmed.is_some() { None } else { Some(left) });
    }

    pub(super) fn switch_depth(&mut self) {
        self.condition(|c| {
            c.depth = match c.depth {
                Depth::TrueColor => Depth::Indexed256,
                Depth::Indexed256 => Depth::Ansi16,
                _ => Depth::TrueColor,
            };
        });
    }

    pub(super) fn switch_vision(&mut self) {
        self.condition(|c| {
            c.vision = match c.vision {
                Vision::Full => Vision::Protan(1.0),
                Vision::Protan(_) => Vision::Deutan(1.0),
                Vision::Deutan(_) => Vision::Tritan(1.0),
                Vision::Tritan(_) => Vision::Gray,
                Vision::Gray => Vision::Full,
            };
        });
    }

    pub(super) fn switch_severity(&mut self) {
        let next = |s: f64| if s <= 0.3 { 1.0 } else { s - 0.25 };
        self.condition(|c| {
            c.vision = match c.vision {
                Vision::Protan(s) => Vision::Protan(next(s)),
                Vision::Deutan(s) => Vision::Deutan(next(s)),
                Vision::Tritan(s) => Vision::Tritan(next(s)),
                other => other,
            };
        });
    }

    pub(super) fn plain_conditions(&mut self) {
        self.condition(|c| *c = Conditions::default());
    }

    pub(super) fn start_wallpaper(&mut self) {
        let text = self
            .wallpaper
            .as_ref()
            .map(|w| w.path.display().to_string());
        self.input = Some(Input {
            question: "image behind the ground (empty: black or white)".to_owned(),
            text: text.unwrap_or_default(),
            purpose: Purpose::Wallpaper,
        });
    }

    pub(super) fn typed_wallpaper(&mut self, text: &str) -> Vec<Effect> {
        if text.trim().is_empty() {
            self.wallpaper = None;
            self.condition(|c| c.behind = Behind::Worst);
            return Vec::new();
        }
        self.busy = Some("reading the image");
        vec![Effect::ReadWallpaper(self.survey.home.expand(text.trim()))]
    }

    pub(super) fn wallpaper_read(&mut self, path: PathBuf, found: Result<Backdrop, String>) {
        self.busy = None;
        match found {
            Ok(backdrop) => {
                let ground = self.derived.look.slot(Slot::Background);
                let judged = Arc::new(backdrop.under_text(&self.specimen, ground));
                self.wallpaper = Some(Wallpaper { path });
                self.condition(|c| {
                    c.behind = Behind::Image(judged);
                    if c.opacity >= 1.0 {
                        c.opacity = 0.85;
                    }
                });
            }
            Err(error) => self.complain(error),
        }
    }

    /// Mends the pair pointed at by moving its text's color.
    pub(super) fn repair_pair(&mut self) {
        let Some(pair) = self.pair() else { return };
        if pair.fine() {
            self.tell("this pair reaches its target, or is kept as it is");
            return;
        }
        let setup = self.survey.doc.setup();
        let scope = Scope::Color(origin(setup, setup.palette(), &pair.text));
        self.propose_repair(&scope);
    }

    pub(super) fn start_contrast_exception(&mut self) {
        let Some(pair) = self.pair() else { return };
        let (text, ground) = (pair.text.clone(), pair.ground.clone());
        if pair.exception.is_some() {
            let changed = self.survey.doc.without_contrast_exception(&text, &ground);
            if self.change(changed) {
                self.tell("the pair has to reach its target again");
            }
            return;
        }
        self.input = Some(Input {
            question: format!("why may {text} on {ground} stay below {}:1", pair.target),
            text: String::new(),
            purpose: Purpose::ContrastReason { text, ground },
        });
    }

    pub(super) fn typed_contrast_reason(&mut self, text: &RoleId, ground: &RoleId, reason: &str) {
        if reason.trim().is_empty() {
            self.complain("an exception needs a reason".to_owned());
            return;
        }
        let doc = &self.survey.doc;
        let changed = doc.with_contrast_exception(text, ground, reason.trim());
        if self.change(changed) {
            self.tell("kept as it is, with the reason");
        }
    }

    pub(super) fn start_target(&mut self) {
        let Some(pair) = self.pair() else { return };
        self.input = Some(Input {
            question: format!("ratio that {} needs", pair.text),
            text: pair.target.to_string(),
            purpose: Purpose::Target(pair.text.clone()),
        });
    }

    pub(super) fn typed_target(&mut self, role: &RoleId, text: &str) {
        match text.trim().trim_end_matches(":1").parse::<f64>() {
            Ok(ratio) => {
                let path = ["contrast", "roles", role.as_str()];
                let changed = self.survey.doc.with_number(&path, ratio);
                if self.change(changed) {
                    self.tell(&format!("{role} needs {ratio}:1"));
                }
            }
            Err(_) => self.complain(format!("'{text}' is not a ratio from 1 to 21")),
        }
    }

    /// Holds the color under the pointer against repairs, or lets it go.
    pub(super) fn switch_lock(&mut self) {
        let setup = self.survey.doc.setup();
        let origin = match self.step {
            super::Step::Contrast => self.pair().map(|p| origin(setup, setup.palette(), &p.text)),
            _ => self.entry().map(|e| e.origin),
        };
        let Some(origin) = origin else { return };
        let name = self.name_of(&origin);
        let locked = setup.palette().locked.contains(&name);
        let active = setup.active.clone();
        let changed = self.survey.doc.with_lock(&active, &name, !locked);
        if self.change(changed) {
            let said = if locked {
                "may move again"
            } else {
                "is locked: repairs leave it"
            };
            self.tell(&format!("{name} {said}"));
        }
    }
}
