//! The Palette bench: the colors that can be changed, and changing them.

use wealdmist_core::Rgb;
use wealdmist_core::color::Oklch;
use wealdmist_core::look::Origin;
use wealdmist_core::pair::mend;
use wealdmist_core::role::{RoleId, Slot, Usage, lookup};
use wealdmist_core::setup::{EditError, Expr, SetupDoc};

use super::{App, Input, Purpose};

/// A coordinate of OKLCH.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
#[allow(missing_docs)]
pub enum Channel {
    #[default]
    Lightness,
    Chroma,
    Hue,
}

/// A color on the ruler.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Entry {
    /// Where it is set.
    pub origin: Origin,
    /// Its color.
    pub color: Rgb,
}

/// The pointer and the channel.
#[derive(Debug, Clone, Default)]
pub struct PaletteState {
    /// The color pointed at.
    pub cursor: usize,
    /// The channel that is changed.
    pub channel: Channel,
    /// A role that was gone to and is listed although the setup leaves it to its default.
    pub extra: Option<Origin>,
    /// The coordinates of the color being changed.
    pub held: Option<(Origin, Oklch)>,
}

impl App {
    /// The colors on the ruler: slots, named colors, roles with a color of their own.
    pub fn entries(&self) -> Vec<Entry> {
        let setup = self.survey.doc.setup();
        let palette = setup.palette();
        let look = &self.derived.look;
        let slots = Slot::ALL.iter().map(|s| Entry {
            origin: Origin::Slot(*s),
            color: look.slot(*s),
        });
        let named = palette.colors.iter().map(|(name, color)| Entry {
            origin: Origin::Named(name.clone()),
            color: *color,
        });
        let own = setup
            .roles
            .iter()
            .filter(|(_, style)| matches!(style.color, Some(Expr::Value(_) | Expr::Mix(..))));
        let roles = own.map(|(role, _)| Entry {
            origin: Origin::Role(role.clone()),
            color: look.color(role),
        });
        let mut out: Vec<Entry> = slots.chain(named).chain(roles).collect();
        if let Some(Origin::Role(role)) = &self.palette.extra
            && !out.iter().any(|e| e.origin == Origin::Role(role.clone()))
        {
            out.push(Entry {
                origin: Origin::Role(role.clone()),
                color: look.color(role),
            });
        }
        out
    }

    /// The color pointed at.
    pub fn entry(&self) -> Option<Entry> {
        self.entries().into_iter().nth(self.palette.cursor)
    }

    /// The name by which the command line sets a color.
    pub fn name_of(&self, origin: &Origin) -> String {
        match origin {
            Origin::Slot(slot) => slot.key().to_owned(),
            Origin::Named(name) => name.clone(),
            Origin::Role(role) => role.to_string(),
        }
    }

    /// The ground a color is read on, and the use that sets its target.
    pub fn ground_of(&self, origin: &Origin) -> (Rgb, Usage) {
        let look = &self.derived.look;
        let role = match origin {
            Origin::Slot(slot) => RoleId::from(*slot),
            Origin::Named(name) => {
                // A color that only grounds use is no text.
                let uses =
                    self.survey.doc.setup().roles.iter().filter(
                        |(_, style)| matches!(&style.color, Some(Expr::Ref(r)) if r == name),
                    );
                let (mut any, mut grounds) = (false, true);
                for (role, _) in uses {
                    any = true;
                    grounds &= role.is_ground();
                }
                let usage = if any && grounds {
                    Usage::Decoration
                } else {
                    Usage::Body
                };
                return (look.slot(Slot::Background), usage);
            }
            Origin::Role(role) => role.clone(),
        };
        match lookup(&role) {
            Some(known) => (look.color(&RoleId::known(known.on)), known.usage),
            None if role.is_ground() => (look.slot(Slot::Background), Usage::Decoration),
            None => (look.slot(Slot::Background), Usage::Body),
        }
    }

    fn with_color(&self, origin: &Origin, color: Rgb) -> Result<SetupDoc, EditError> {
        let doc = &self.survey.doc;
        let active = doc.setup().active.clone();
        match origin {
            Origin::Slot(slot) => doc.with_slot(&active, *slot, color),
            Origin::Named(name) => doc.with_named(&active, name, color),
            Origin::Role(role) => doc.with_role(role, &Expr::Value(color)),
        }
    }

    /// Moves the chosen channel of the color pointed at by a number of small steps.
    pub(super) fn adjust(&mut self, steps: f64) {
        let Some(entry) = self.entry() else { return };
        let mut lch = self.coordinates(&entry);
        let channel = self.palette.channel;
        match channel {
            Channel::Lightness => lch.l = (lch.l + steps * 0.01).clamp(0.0, 1.0),
            Channel::Chroma => {
                let edge = Oklch::max_chroma(lch.l, lch.h);
                // A color beyond the edge that is found never loses chroma by adding some.
                lch.c = (lch.c + steps * 0.005).clamp(0.0, edge.max(lch.c));
            }
            Channel::Hue => lch.h = (lch.h + steps * 2.0).rem_euclid(360.0),
        }
        let color = lch.to_rgb();
        let run = Some((entry.origin.clone(), channel));
        let goes_on = self.last_change == run;
        if color != entry.color {
            let changed = self.with_color(&entry.origin, color);
            if !self.change(changed) {
                return;
            }
            // A run of steps on one channel is one change to undo.
            if goes_on {
                self.past.pop();
            }
            self.last_change = run;
        }
        self.palette.held = Some((entry.origin, lch));
    }

    /// Asks for a value.
    pub(super) fn start_color(&mut self) {
        let Some(entry) = self.entry() else { return };
        let question = format!("{} is", self.name_of(&entry.origin));
        let purpose = Purpose::Color(entry.origin);
        self.input = Some(Input {
            question,
            text: entry.color.to_string(),
            purpose,
        });
    }

    pub(super) fn typed_color(&mut self, origin: &Origin, text: &str) {
        let text = text.trim();
        let hex = if text.starts_with('#') {
            text.to_owned()
        } else {
            format!("#{text}")
        };
        match hex.parse::<Rgb>() {
            Ok(color) => {
                self.palette.held = None;
                let changed = self.with_color(origin, color);
                self.change(changed);
            }
            Err(error) => self.complain(error.to_string()),
        }
    }

    /// Changes the color under the pointer to the nearest one that reaches its target.
    pub(super) fn mend(&mut self) {
        let (role, ground_role, usage) = if self.on_specimen {
            let Some(spot) = self.specimen.spots.get(self.spot) else {
                return;
            };
            let usage = lookup(&spot.text).map_or(Usage::Body, |k| k.usage);
            (spot.text.clone(), spot.ground.clone(), usage)
        } else if self.step == super::Step::Contrast {
            let Some(pair) = self.derived.pairs.get(self.pair) else {
                return;
            };
            (pair.text.clone(), pair.ground.clone(), pair.usage)
        } else {
            let Some(entry) = self.entry() else { return };
            let (ground, usage) = self.ground_of(&entry.origin);
            self.mend_origin(&entry.origin, entry.color, ground, usage);
            return;
        };
        let setup = self.survey.doc.setup();
        let origin = wealdmist_core::look::origin(setup, setup.palette(), &role);
        let (text, ground) = (
            self.derived.look.color(&role),
            self.derived.look.color(&ground_role),
        );
        self.mend_origin(&origin, text, ground, usage);
    }

    fn mend_origin(&mut self, origin: &Origin, text: Rgb, ground: Rgb, usage: Usage) {
        let target = usage.target();
        let ratio = |c| wealdmist_core::color::contrast_ratio(c, ground);
        if ratio(text) >= target {
            self.tell(&format!("{:.2}:1 already reaches {target}:1", ratio(text)));
            return;
        }
        let Some(color) = mend(text, ground, target) else {
            self.complain(format!(
                "no lightness of this hue reaches {target}:1 on {ground}"
            ));
            return;
        };
        let changed = self.with_color(origin, color);
        if self.change(changed) {
            let name = self.name_of(origin);
            self.palette.held = None;
            self.tell(&format!(
                "{name}: {text} ({:.2}:1) is {color} ({:.2}:1) now",
                ratio(text),
                ratio(color)
            ));
        }
    }

    /// Puts the next palette of the setup to use.
    pub(super) fn next_palette(&mut self) {
        let setup = self.survey.doc.setup();
        let names: Vec<String> = setup.palettes.iter().map(|p| p.name.clone()).collect();
        if names.len() < 2 {
            self.tell("the setup has one palette; a second table [palettes.NAME] in setup.toml adds another");
            return;
        }
        let at = names.iter().position(|n| *n == setup.active).unwrap_or(0);
        let changed = self
            .survey
            .doc
            .with_text(&["palette"], &names[(at + 1) % names.len()]);
        self.change(changed);
    }
}
