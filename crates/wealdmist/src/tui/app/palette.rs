//! The Palette bench: the colors that can be changed, and changing them.

use wealdmist_core::Rgb;
use wealdmist_core::color::{Oklch, difference, indexed, nearest_256, parse_any};
use wealdmist_core::look::Origin;
use wealdmist_core::pair::{TOO_ALIKE, mend};
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

/// The order of the colors on the ruler.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Sort {
    /// As the setup lists them.
    #[default]
    Listed,
    /// From dark to light.
    Lightness,
    /// Around the circle of hues, grays last.
    Hue,
}

impl Sort {
    /// The word shown to people.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Listed => "as listed",
            Self::Lightness => "by lightness",
            Self::Hue => "by hue",
        }
    }
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
    /// In which order the colors stand.
    pub sort: Sort,
    /// Whether the other palettes' colors stand on the ruler, too.
    pub beside: bool,
    /// The index pointed at on the chart of the 256 colors, where it is open.
    pub chart: Option<usize>,
}

/// How many rows the chart of the 256 colors has: the palette's own 16, the six faces of the cube
/// in two bands of three, and the grays in two rows.
pub const CHART_ROWS: usize = 15;

/// Where an index stands on the chart: row and column.
pub const fn chart_place(index: usize) -> (usize, usize) {
    match index {
        0..16 => (0, index),
        16..232 => {
            let n = index - 16;
            let (face, inside) = (n / 36, n % 36);
            (1 + face / 3 * 6 + inside / 6, face % 3 * 6 + inside % 6)
        }
        _ => {
            let n = index - 232;
            (13 + n / 12, n % 12)
        }
    }
}

/// The index at a place of the chart.
pub fn chart_index(row: usize, column: usize) -> Option<usize> {
    (0..256).find(|i| chart_place(*i) == (row, column))
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
        let lch = |e: &Entry| Oklch::from(e.color);
        match self.palette.sort {
            Sort::Listed => {}
            Sort::Lightness => out.sort_by(|a, b| lch(a).l.total_cmp(&lch(b).l)),
            Sort::Hue => {
                let key = |e: &Entry| {
                    let c = lch(e);
                    if c.c < 0.025 { 400.0 + c.l } else { c.h }
                };
                out.sort_by(|a, b| key(a).total_cmp(&key(b)));
            }
        }
        out
    }

    pub(super) fn sort_palette(&mut self) {
        let here = self.entry().map(|e| e.origin);
        self.palette.sort = match self.palette.sort {
            Sort::Listed => Sort::Lightness,
            Sort::Lightness => Sort::Hue,
            Sort::Hue => Sort::Listed,
        };
        let at = self
            .entries()
            .iter()
            .position(|e| Some(&e.origin) == here.as_ref());
        self.palette.cursor = at.unwrap_or(0);
        self.tell(&format!("sorted {}", self.palette.sort.label()));
    }

    pub(super) fn open_chart(&mut self) {
        let Some(entry) = self.entry() else { return };
        self.palette.chart = Some(usize::from(nearest_256(entry.color)));
    }

    pub(super) fn move_in_chart(&mut self, down: isize, right: isize) {
        let Some(index) = self.palette.chart else {
            return;
        };
        let (row, column) = chart_place(index);
        let last = CHART_ROWS - 1;
        let row = row.saturating_add_signed(down).min(last);
        let column = column.saturating_add_signed(right);
        // A shorter row is entered at its end.
        let found = (0..=column).rev().find_map(|c| chart_index(row, c));
        self.palette.chart = found.or(Some(index));
    }

    /// The color of an index of the chart: the palette's own up to 15.
    pub fn chart_color(&self, index: usize) -> Rgb {
        let index = index.min(255) as u8;
        indexed(index).unwrap_or_else(|| self.derived.look.slots.ansi()[usize::from(index)])
    }

    /// Gives the color pointed at the chart's color.
    pub(super) fn take_indexed(&mut self) {
        let (Some(index), Some(entry)) = (self.palette.chart, self.entry()) else {
            return;
        };
        let color = self.chart_color(index);
        self.palette.chart = None;
        self.palette.held = None;
        let changed = self.with_color(&entry.origin, color);
        if self.change(changed) {
            let name = self.name_of(&entry.origin);
            self.tell(&format!("{name} is {color} now, index {index}"));
        }
    }

    /// Takes up the color of the spot pointed at for the color that is being edited.
    pub(super) fn pick(&mut self, text: bool) {
        if self.step != super::Step::Palette {
            self.tell("a color is picked up for the one chosen on Palette: 2 goes there");
            return;
        }
        let Some(spot) = self.specimen.spots.get(self.spot) else {
            return;
        };
        let role = if text { &spot.text } else { &spot.ground };
        let color = self.worn_look().color(role);
        let (Some(entry), what) = (self.entry(), spot.what) else {
            return;
        };
        self.palette.held = None;
        let changed = self.with_color(&entry.origin, color);
        if self.change(changed) {
            let name = self.name_of(&entry.origin);
            self.tell(&format!("{name} is {color} now, as on the spot: {what}"));
        }
    }

    /// The other of the 16 colors each is too like to be told apart from, and the difference.
    pub fn too_alike(&self, entry: &Entry) -> Option<(Slot, f64)> {
        let Origin::Slot(slot) = entry.origin else {
            return None;
        };
        slot.ansi()?;
        let look = &self.derived.look;
        let see = |c| self.conditions.vision.see(c);
        Slot::ALL
            .into_iter()
            .filter(|s| *s != slot && s.ansi().is_some())
            .map(|s| (s, difference(see(entry.color), see(look.slot(s)))))
            .filter(|(_, d)| *d < TOO_ALIKE)
            .min_by(|a, b| a.1.total_cmp(&b.1))
    }

    /// Whether repairs must leave a color.
    pub fn is_locked(&self, origin: &Origin) -> bool {
        let palette = self.survey.doc.setup().palette();
        palette.locked.contains(&self.name_of(origin))
    }

    /// The color pointed at.
    pub fn entry(&self) -> Option<Entry> {
        self.entries().into_iter().nth(self.palette.cursor)
    }

    /// The name by which the command line sets a color.
    pub fn name_of(&self, origin: &Origin) -> String {
        crate::command::origin_name(origin)
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
        let found = parse_any(text).or_else(|| Rgb::from_hex(&format!("#{text}")));
        match found {
            Some(color) => {
                self.palette.held = None;
                let changed = self.with_color(origin, color);
                self.change(changed);
            }
            None => self.complain(format!(
                "'{text}' is not a color: write #rrggbb, or oklch(), hsl() or another notation of CSS"
            )),
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
