//! Pairs: every text color on the ground a tool really draws it on, as it is now and as it would
//! be after applying, seen through the chosen conditions.

pub use crate::condition::Measured;

use crate::color::{Oklch, Rgb, Rounding, contrast_ratio, difference};
use crate::condition::{Conditions, Sight};
use crate::ledger::concerns_defaults;
use crate::look::Look;
use crate::reading::{Paint, Place, Reading, ToolId, ToolReport, Value};
use crate::role::{RoleId, Slot, Usage};
use crate::setup::Setup;

/// A pair.
#[derive(Debug, Clone, PartialEq)]
pub struct Pair {
    /// The tool that draws it; of several terminals that draw the same the one where it is worst.
    pub tool: ToolId,
    /// The other terminals that draw it too.
    pub also: Vec<ToolId>,
    /// What is drawn.
    pub what: String,
    /// How it is used.
    pub usage: Usage,
    /// The ratio it needs: by the setup, else by its use.
    pub target: f64,
    /// The text's role.
    pub text: RoleId,
    /// The ground's role.
    pub ground: RoleId,
    /// How much of the text's color the tool leaves, 0–1.
    pub fade: f64,
    /// How the tool takes colors where there are 256.
    pub rounding: Rounding,
    /// As the dotfiles say now.
    pub now: Measured,
    /// As the setup would have it.
    pub draft: Measured,
    /// Where the text's color is written, else the ground's.
    pub place: Option<Place>,
    /// Why it may stay below its target, if it may.
    pub exception: Option<String>,
    /// Whether a color of it is what the tool does by itself, which the setup leaves as it is.
    pub by_itself: bool,
}

/// How what draws a text on a ground takes its colors where there are 256, if all that draw it take them alike.
#[must_use]
pub fn rounding_of(pairs: &[Pair], text: &RoleId, ground: &RoleId) -> Rounding {
    let drawn = pairs
        .iter()
        .filter(|p| p.text == *text && p.ground == *ground);
    let mut roundings = drawn.map(|p| p.rounding);
    let first = roundings.next().unwrap_or(Rounding::Nearest);
    match roundings.all(|other| other == first) {
        true => first,
        false => Rounding::Nearest,
    }
}

impl Pair {
    /// Whether it reaches its target, or need not, as the dotfiles are now.
    #[must_use]
    pub fn fine_now(&self) -> bool {
        self.exception.is_some() || self.now.ratio >= self.target
    }

    /// Whether it reaches its target, or need not, in the draft.
    #[must_use]
    pub fn fine(&self) -> bool {
        self.exception.is_some() || self.draft.ratio >= self.target
    }

    /// The draft's colors before any condition.
    #[must_use]
    pub fn sight(&self, look: &Look) -> Sight {
        let (text, ground) = match self.by_itself {
            true => (self.draft.text, self.draft.ground),
            false => (look.color(&self.text), look.color(&self.ground)),
        };
        Sight {
            text,
            ground,
            fade: self.fade,
            in_pane: self.text.stands_in_pane(),
            rounding: self.rounding,
        }
    }
}

/// All pairs of all tools, those furthest below their target in the draft first.
/// The terminals among the reports decide what slots look like now.
#[must_use]
pub fn pairs(
    setup: &Setup,
    look: &Look,
    reports: &[ToolReport],
    conditions: &Conditions,
) -> Vec<Pair> {
    let is_terminal = |tool| reports.iter().any(|r| r.tool == tool && r.is_terminal);
    let same = |a: &Pair, b: &Pair| {
        let pair = |p: &Pair| (p.text.clone(), p.ground.clone(), p.usage);
        is_terminal(a.tool) && pair(a) == pair(b) && a.what == b.what && a.fade == b.fade
    };
    let mut out: Vec<Pair> = Vec::new();
    for report in reports {
        for drawn in &report.drawn {
            let place = [&drawn.text, &drawn.ground]
                .into_iter()
                .find_map(|p| p.reading)
                .map(|i| report.readings[i].place.clone());
            let (text, ground) = (&drawn.text.role, &drawn.ground.role);
            let by = drawn.fades_by.and_then(|p| p.of(setup));
            let fade = match by {
                Some(Value::Number(n)) => n,
                _ => drawn.fade,
            };
            if drawn.fades_by.is_some() && drawn.fade >= 1.0 && fade >= 1.0 {
                continue;
            }
            let bold = look.attrs(text).bold;
            let usage = drawn.usage.at_size(setup.font.size, bold);
            let sight = |text, ground, fade| Sight {
                text,
                ground,
                fade,
                in_pane: drawn.text.role.stands_in_pane(),
                rounding: report.rounding,
            };
            // Seen in several terminals, the worst of them counts; where nobody knows a color, nothing
            // is judged.
            let seen_in = |host: Option<&ToolReport>| {
                let now = Now { setup, look, host };
                let (text, ground) = (now.of(report, &drawn.text)?, now.of(report, &drawn.ground)?);
                let through = now.terminal(Slot::Background) == Some(ground);
                let seen = conditions.see_on(sight(text, ground, drawn.fade), &look.slots, through);
                Some((seen, text, ground))
            };
            let seen_now = hosts(reports, report)
                .into_iter()
                .filter_map(seen_in)
                .min_by(|(a, ..), (b, ..)| a.ratio.total_cmp(&b.ratio));
            let Some((seen_now, text_now, ground_now)) = seen_now else {
                continue;
            };
            // A slot that the palette leaves out stays the terminal's own.
            let slots = &setup.palette().slots;
            let left_alone = |paint: &Paint| {
                let reading = paint.reading.map(|i| &report.readings[i]);
                // The colors of the palette are the terminals'; what others do by themselves with them stays.
                let is_followed = |r: &Reading| {
                    let of_slot = Slot::from_key(r.role.as_str()).is_some();
                    let is_added = setup.tool(report.tool).adds.contains(&r.role);
                    let follows = !of_slot || report.is_terminal || is_added;
                    follows && concerns_defaults(setup, report.tool, &r.role)
                };
                reading.is_some_and(|r| r.is_default() && !is_followed(r))
            };
            let wanted = |paint: &Paint, now: Rgb| {
                let reading = paint.reading.map(|i| &report.readings[i].value);
                match (reading, Slot::from_key(paint.role.as_str())) {
                    (Some(Value::Slot(slot)), _) if left_alone(paint) => look.slot(*slot),
                    _ if left_alone(paint) => now,
                    (_, Some(slot)) if !slots.contains_key(&slot) => now,
                    _ => look.color(&paint.role),
                }
            };
            let draft = sight(
                wanted(&drawn.text, text_now),
                wanted(&drawn.ground, ground_now),
                fade,
            );
            let pair = Pair {
                tool: report.tool,
                also: Vec::new(),
                what: drawn.what.clone(),
                usage,
                target: setup.contrast.target(text, usage),
                text: text.clone(),
                ground: ground.clone(),
                fade,
                rounding: report.rounding,
                now: seen_now,
                draft: conditions.see(draft, look),
                place,
                exception: setup.contrast.exception(text, ground).map(str::to_owned),
                by_itself: left_alone(&drawn.text) || left_alone(&drawn.ground),
            };
            match out
                .iter_mut()
                .filter(|_| report.is_terminal)
                .find(|p| same(p, &pair))
            {
                Some(there) => merge(there, pair),
                None => out.push(pair),
            }
        }
    }
    let shortfall = |p: &Pair| p.draft.ratio / p.target;
    out.sort_by(|a, b| {
        let last = |p: &Pair| (p.usage == Usage::Decoration, p.exception.is_some());
        last(a)
            .cmp(&last(b))
            .then(shortfall(a).total_cmp(&shortfall(b)))
    });
    out
}

/// Two terminals draw the same: one line for both, with the worse of what is now.
fn merge(there: &mut Pair, mut new: Pair) {
    if new.now.ratio < there.now.ratio {
        std::mem::swap(there, &mut new);
        there.also = std::mem::take(&mut new.also);
    }
    there.also.push(new.tool);
}

/// The terminals a tool is seen in: itself where it is one, else those of the home.
fn hosts<'a>(reports: &'a [ToolReport], report: &'a ToolReport) -> Vec<Option<&'a ToolReport>> {
    match report.is_terminal {
        true => vec![Some(report)],
        false => terminals(reports),
    }
}

/// The terminals of a home; one of which nothing is known where there are none.
#[must_use]
pub fn terminals(reports: &[ToolReport]) -> Vec<Option<&ToolReport>> {
    let there = reports.iter().filter(|r| r.is_terminal && r.is_present());
    let there: Vec<_> = there.map(Some).collect();
    match there.is_empty() {
        true => vec![None],
        false => there,
    }
}

/// What the dotfiles come to now, seen in one terminal.
struct Now<'a> {
    setup: &'a Setup,
    look: &'a Look,
    /// The terminal, where one is known.
    host: Option<&'a ToolReport>,
}

impl Now<'_> {
    /// The color the terminal gives a slot: by its dotfiles, else by the palette.
    fn terminal(&self, slot: Slot) -> Option<Rgb> {
        let said = self.host.and_then(|t| t.effective(&RoleId::from(slot)));
        match said.map(|r| &r.value) {
            Some(Value::Color(color)) => Some(*color),
            Some(Value::Slot(other)) if *other != slot => self.terminal(*other),
            _ => self.setup.palette().slots.get(&slot).copied(),
        }
    }

    /// The color something is drawn in.
    fn of(&self, report: &ToolReport, paint: &Paint) -> Option<Rgb> {
        match paint.reading.map(|i| &report.readings[i].value) {
            Some(Value::Color(color)) => Some(*color),
            Some(Value::Slot(slot)) => self.terminal(*slot),
            Some(_) if paint.role.is_ground() => self.terminal(Slot::Background),
            Some(_) => self.terminal(Slot::Foreground),
            None => match Slot::from_key(paint.role.as_str()) {
                Some(slot) => self.terminal(slot),
                None => Some(self.look.color(&paint.role)),
            },
        }
    }
}

/// Two roles whose colors mean different things.
#[derive(Debug, Clone, PartialEq)]
pub struct Meaning {
    /// What must be told apart, for people.
    pub what: &'static str,
    /// One role.
    pub one: RoleId,
    /// The other.
    pub other: RoleId,
    /// Their colors as they are seen.
    pub seen: (Rgb, Rgb),
    /// How different they look, as the CIEDE2000 difference.
    pub difference: f64,
}

impl Meaning {
    /// Whether they are told apart by color.
    #[must_use]
    pub fn fine(&self) -> bool {
        self.difference >= TOLD_APART
    }
}

/// The CIEDE2000 difference below which two colors of thin text are taken for one another. Much
/// more than what can just be seen between large patches: text has little area and is not seen
/// side by side.
pub const TOLD_APART: f64 = 10.0;

/// What must be told apart by color alone: words, one role, another.
const MEANINGS: [(&str, &str, &str); 7] = [
    ("error and success", "error", "success"),
    ("error and warning", "error", "warning"),
    ("warning and success", "warning", "success"),
    ("error and information", "error", "info"),
    (
        "removed and added lines",
        "diff.removed.text",
        "diff.added.text",
    ),
    (
        "active and other borders",
        "border.active",
        "border.inactive",
    ),
    (
        "prompt sign and exit status",
        "prompt.sign",
        "prompt.failure",
    ),
];

/// The CIEDE2000 difference below which two of the 16 colors are called too alike.
pub const TOO_ALIKE: f64 = 5.0;

/// The CIEDE2000 difference up to which two grounds that were told apart stay so. Less than for texts:
/// areas lie side by side.
pub const GROUNDS_APART: f64 = 5.0;

/// The roles that must be told apart, in twos.
pub(crate) fn meaning_roles() -> impl Iterator<Item = (RoleId, RoleId)> {
    MEANINGS
        .into_iter()
        .map(|(_, one, other)| (RoleId::known(one), RoleId::known(other)))
}

/// The meanings as they are told apart under the conditions, the least different first.
#[must_use]
pub fn meanings(look: &Look, conditions: &Conditions) -> Vec<Meaning> {
    let mut out: Vec<Meaning> = MEANINGS
        .into_iter()
        .map(|(what, one, other)| {
            let (one, other) = (RoleId::known(one), RoleId::known(other));
            let see = |role: &RoleId| {
                let text = look.color(role);
                let sight = Sight {
                    text,
                    ground: look.slot(Slot::Background),
                    fade: 1.0,
                    in_pane: role.stands_in_pane(),
                    rounding: Rounding::Nearest,
                };
                conditions.see(sight, look).text
            };
            let seen = (see(&one), see(&other));
            let difference = difference(seen.0, seen.1);
            Meaning {
                what,
                one,
                other,
                seen,
                difference,
            }
        })
        .collect();
    out.sort_by(|a, b| a.difference.total_cmp(&b.difference));
    out
}

/// The color nearest to `text`, of the same hue and (as far as sRGB allows) chroma, that reaches
/// a ratio on `ground`; `None` if no lightness does.
#[must_use]
pub fn mend(text: Rgb, ground: Rgb, target: f64) -> Option<Rgb> {
    if contrast_ratio(text, ground) >= target {
        return Some(text);
    }
    let from = Oklch::from(text);
    let toward = |end: f64| -> Option<(f64, Rgb)> {
        let at = |t: f64| {
            Oklch {
                l: from.l + (end - from.l) * t,
                ..from
            }
            .to_rgb()
        };
        let good = |t: f64| contrast_ratio(at(t), ground) >= target;
        // The ratio may first fall when the way leads across the ground's own lightness, so the
        // first good step is looked for before it is refined.
        let step = (1..=64).map(|i| f64::from(i) / 64.0).find(|t| good(*t))?;
        let (mut low, mut high) = (step - 1.0 / 64.0, step);
        for _ in 0..12 {
            let mid = (low + high) / 2.0;
            if good(mid) { high = mid } else { low = mid }
        }
        Some(((end - from.l).abs() * high, at(high)))
    };
    [toward(1.0), toward(0.0)]
        .into_iter()
        .flatten()
        .min_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, color)| color)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_mended_color_meets_its_target(t in 0u32..0x100_0000, g in 0u32..0x100_0000) {
            let (text, ground) = (Rgb::from_u32(t), Rgb::from_u32(g));
            if let Some(color) = mend(text, ground, 4.5) {
                prop_assert!(contrast_ratio(color, ground) >= 4.5);
            } else {
                prop_assert!(false, "4.5 can be reached on every ground");
            }
        }
    }

    #[test]
    fn mending_moves_no_further_than_needed() {
        let ground = Rgb::from_u32(0x10_1418);
        let fine = Rgb::from_u32(0xd0_d0d0);
        assert_eq!(mend(fine, ground, 4.5), Some(fine));
        let color = mend(Rgb::from_u32(0x40_5060), ground, 4.5).unwrap();
        let ratio = contrast_ratio(color, ground);
        assert!((4.5..4.7).contains(&ratio), "{color} {ratio}");
        assert_eq!(mend(fine, ground, 21.0), None);
    }
}
