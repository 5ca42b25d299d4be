//! The Palette bench: the colors that can be changed, and changing them.

mod chart;
mod view;

use std::borrow::Cow;

use crossterm::event::KeyCode::{Char, Enter, Left, Right};
use wealdmist_core::Rgb;
use wealdmist_core::color::{Oklch, difference, typed};
use wealdmist_core::look::Origin;
use wealdmist_core::pair::TOO_ALIKE;
use wealdmist_core::role::{RoleId, Slot, Usage, lookup};
use wealdmist_core::setup::Expr;

use super::proposal::Ways;
use super::{Bench, Do, List, Nothing, Question, Reply, held};
use crate::tui::keys::{Key, also, hint, key, shifted};
use crate::tui::stage::Target;
use crate::tui::step::Step;
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;

pub use chart::Chart;

/// The step.
pub const STEP: Step = Step {
    name: "palette",
    label: "Palette",
    drawing: "palette",
};

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Channel(Channel),
    /// Moves the chosen channel by so many small steps.
    Adjust(i8),
    TypeColor,
    Mend,
    MakePalette,
    OtherPalette,
    Sort,
    Beside,
    Chart,
    Lock,
    PickText,
    PickGround,
}

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

/// The bench: the colors on the ruler, the one pointed at and the channel that is changed.
#[derive(Debug, Clone, Default)]
pub struct Palette {
    /// The color pointed at.
    pub cursor: usize,
    /// The channel that is changed.
    pub channel: Channel,
    /// A role that was gone to and is listed although the setup leaves it to its default.
    pub extra: Option<Origin>,
    /// The coordinates of the color being changed, which rounding to 8 bits would lose.
    pub held: Option<(Origin, Oklch)>,
    /// In which order the colors stand.
    pub sort: Sort,
    /// Whether the other palettes' colors stand on the ruler, too.
    pub beside: bool,
}

impl Bench for Palette {
    type Act = Act;
    /// The color whose value is typed.
    type Ask = Origin;
    type Answer = Nothing;

    const KEYS: &'static [Key<Act>] = &[
        hint(
            Char('l'),
            Act::Channel(Channel::Lightness),
            "l",
            "lightness",
        ),
        hint(Char('c'), Act::Channel(Channel::Chroma), "c", "chroma"),
        hint(Char('h'), Act::Channel(Channel::Hue), "h", "hue"),
        hint(Left, Act::Adjust(-1), "← →", "change"),
        also(Right, Act::Adjust(1)),
        shifted(key(Left, Act::Adjust(-5), "Shift ← →", "change by much")),
        shifted(also(Right, Act::Adjust(5))),
        hint(Char('#'), Act::TypeColor, "#", "type a value"),
        also(Enter, Act::TypeColor),
        hint(Char('m'), Act::Mend, "m", "mend contrast"),
        hint(Char('n'), Act::MakePalette, "n", "new palette"),
        key(Char('p'), Act::OtherPalette, "p", "next palette"),
        hint(Char('s'), Act::Sort, "s", "sort"),
        key(Char('a'), Act::Beside, "a", "other palettes beside"),
        hint(Char('i'), Act::Chart, "i", "the 256 indexed colors"),
        key(Char('L'), Act::Lock, "L", "lock against repairs"),
    ];
    const ON_SPECIMEN: &'static [Key<Act>] = &[
        hint(Char('y'), Act::PickText, "y", "pick this color up"),
        key(Char('Y'), Act::PickGround, "Y", "pick its ground up"),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        "lightness ruler".into()
    }

    fn command(&self, ws: &Workspace) -> String {
        match self.entry(ws) {
            Some(e) => format!("wealdmist set {} '{}'", ws.name_of(&e.origin), e.color),
            None => "wealdmist set ROLE VALUE".to_owned(),
        }
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        match act {
            Act::Channel(channel) => self.channel = channel,
            Act::Adjust(steps) => self.adjust(f64::from(steps), ws),
            Act::TypeColor => return self.ask_for_color(ws),
            Act::Mend => {
                if let Some(entry) = self.entry(ws) {
                    let (ground, usage) = ground_of(ws, &entry.origin);
                    ws.mend(&entry.origin, entry.color, ground, usage);
                }
            }
            Act::MakePalette => return vec![Do::Open(held(Ways::default()))],
            Act::OtherPalette => next_palette(ws),
            Act::Sort => self.sort(ws),
            Act::Beside => self.beside = !self.beside,
            Act::Chart => {
                let chart = self.entry(ws).map(|e| Chart::of(e, ws));
                return chart.map(|c| Do::Open(held(c))).into_iter().collect();
            }
            Act::Lock => {
                if let Some(entry) = self.entry(ws) {
                    ws.switch_lock(&entry.origin);
                }
            }
            Act::PickText => self.pick(true, ws),
            Act::PickGround => self.pick(false, ws),
        }
        Vec::new()
    }

    fn typed(
        &mut self,
        origin: &Origin,
        text: &str,
        ws: &mut Workspace,
    ) -> Result<Reply<Self>, String> {
        let entry = self.entries(ws).into_iter().find(|e| e.origin == *origin);
        let now = entry.map_or(Rgb::new(0, 0, 0), |e| e.color);
        let Some(color) = typed(text, now) else {
            let text = text.trim();
            return Err(format!(
                "'{text}' is not a color: write #rrggbb, any notation of CSS, or lighter 0.05"
            ));
        };
        let changed = ws.with_color(origin, color);
        ws.change(changed);
        Ok(Vec::new())
    }

    fn list(&mut self, ws: &Workspace) -> Option<List<'_>> {
        let len = self.entries(ws).len();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn stand_on(&mut self, role: &RoleId, ws: &mut Workspace) {
        let wanted = ws.origin(role);
        self.extra = Some(wanted.clone());
        let at = self.entries(ws).iter().position(|e| e.origin == wanted);
        self.cursor = at.unwrap_or(0);
    }

    fn target(&self, ws: &Workspace) -> Option<Target> {
        let entry = self.entry(ws)?;
        Some(role_of(ws, &entry.origin).into())
    }
}

impl Palette {
    /// The colors on the ruler: slots, named colors, roles with a color of their own.
    pub fn entries(&self, ws: &Workspace) -> Vec<Entry> {
        let setup = ws.survey.doc.setup();
        let palette = setup.palette();
        let look = ws.look();
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
        if let Some(Origin::Role(role)) = &self.extra
            && !out.iter().any(|e| e.origin == Origin::Role(role.clone()))
        {
            out.push(Entry {
                origin: Origin::Role(role.clone()),
                color: look.color(role),
            });
        }
        let lch = |e: &Entry| Oklch::from(e.color);
        match self.sort {
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

    /// The color pointed at.
    pub fn entry(&self, ws: &Workspace) -> Option<Entry> {
        self.entries(ws).into_iter().nth(self.cursor)
    }

    /// Sorts the colors in the next way; the pointer stays on its color.
    fn sort(&mut self, ws: &mut Workspace) {
        let here = self.entry(ws).map(|e| e.origin);
        self.sort = match self.sort {
            Sort::Listed => Sort::Lightness,
            Sort::Lightness => Sort::Hue,
            Sort::Hue => Sort::Listed,
        };
        let at = self
            .entries(ws)
            .iter()
            .position(|e| Some(&e.origin) == here.as_ref());
        self.cursor = at.unwrap_or(0);
        ws.tell(format!("sorted {}", self.sort.label()));
    }

    /// A color as it is being edited: coordinates that rounding to 8 bits would lose are held.
    pub fn coordinates(&self, entry: &Entry) -> Oklch {
        match &self.held {
            Some((origin, lch)) if *origin == entry.origin && lch.to_rgb() == entry.color => *lch,
            _ => Oklch::from(entry.color),
        }
    }

    /// Moves the chosen channel of the color pointed at by a number of small steps.
    fn adjust(&mut self, steps: f64, ws: &mut Workspace) {
        let Some(entry) = self.entry(ws) else { return };
        let mut lch = self.coordinates(&entry);
        let channel = self.channel;
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
        let run = format!("{:?} {channel:?}", entry.origin);
        let changed = (color != entry.color).then(|| ws.with_color(&entry.origin, color));
        if !ws.change_in_run(run, changed) {
            return;
        }
        self.held = Some((entry.origin, lch));
    }

    /// Asks for a value.
    fn ask_for_color(&self, ws: &Workspace) -> Reply<Self> {
        let Some(entry) = self.entry(ws) else {
            return Vec::new();
        };
        let question = format!("{} is", ws.name_of(&entry.origin));
        let question = Question::new(question, entry.color.to_string());
        vec![Do::Ask(question, entry.origin)]
    }

    /// Takes up the color of the spot pointed at for the color that is being edited.
    fn pick(&self, text: bool, ws: &mut Workspace) {
        let Some(spot) = ws.stage.specimen.spots.get(ws.stage.spot) else {
            return;
        };
        let role = if text { &spot.text } else { &spot.ground };
        let color = ws.worn_look().color(role);
        let (Some(entry), what) = (self.entry(ws), spot.what) else {
            return;
        };
        let changed = ws.with_color(&entry.origin, color);
        if ws.change(changed) {
            let name = ws.name_of(&entry.origin);
            ws.tell(format!("{name} is {color} now, as on the spot: {what}"));
        }
    }
}

/// The other of the 16 colors each is too like to be told apart from, and the difference.
pub fn too_alike(ws: &Workspace, entry: &Entry) -> Option<(Slot, f64)> {
    let Origin::Slot(slot) = entry.origin else {
        return None;
    };
    slot.ansi()?;
    let look = &ws.derived.look;
    let see = |c| ws.conditions.vision.see(c);
    Slot::ALL
        .into_iter()
        .filter(|s| *s != slot && s.ansi().is_some())
        .map(|s| (s, difference(see(entry.color), see(look.slot(s)))))
        .filter(|(_, d)| *d < TOO_ALIKE)
        .min_by(|a, b| a.1.total_cmp(&b.1))
}

/// The ground a color is read on, and the use that sets its target.
pub fn ground_of(ws: &Workspace, origin: &Origin) -> (Rgb, Usage) {
    let look = &ws.derived.look;
    let role =
        match origin {
            Origin::Slot(slot) => RoleId::from(*slot),
            Origin::Named(name) => {
                // A color that only grounds use is no text.
                let uses =
                    ws.survey.doc.setup().roles.iter().filter(
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

/// Puts the next palette of the setup to use.
fn next_palette(ws: &mut Workspace) {
    let setup = ws.survey.doc.setup();
    let names: Vec<_> = setup.palettes.iter().map(|p| p.name.clone()).collect();
    if names.len() < 2 {
        ws.tell(
            "the setup has one palette; a second table [palettes.NAME] in setup.toml adds another",
        );
        return;
    }
    let at = names.iter().position(|n| *n == setup.active).unwrap_or(0);
    let changed = ws
        .survey
        .doc
        .with_text(&["palette"], &names[(at + 1) % names.len()]);
    ws.change(changed);
}

/// A role drawn in the color of an origin, preferably that very one.
fn role_of(ws: &Workspace, origin_wanted: &Origin) -> RoleId {
    let same = |role: &&RoleId| ws.origin(role) == *origin_wanted;
    let direct = match origin_wanted {
        Origin::Slot(slot) => RoleId::from(*slot),
        Origin::Named(name) => RoleId::new(name.clone()),
        Origin::Role(role) => role.clone(),
    };
    let drawn = ws
        .stage
        .specimen
        .spots
        .iter()
        .flat_map(|s| [&s.text, &s.ground]);
    if ws.stage.specimen.find(&direct).is_some() {
        return direct;
    }
    drawn.into_iter().find(same).cloned().unwrap_or(direct)
}
