//! Pairs: every text color on the ground a tool really draws it on, as it is now and as it would
//! be after applying.

use crate::color::{Oklch, Rgb, contrast_ratio};
use crate::look::Look;
use crate::reading::{Paint, Place, ToolId, ToolReport, Value};
use crate::role::{RoleId, Slot, Usage};

/// Two colors and their ratio.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Measured {
    /// The text's color.
    pub text: Rgb,
    /// The ground's color.
    pub ground: Rgb,
    /// WCAG contrast ratio, 1–21.
    pub ratio: f64,
}

impl Measured {
    /// Measures two colors.
    #[must_use]
    pub fn new(text: Rgb, ground: Rgb) -> Self {
        Self {
            text,
            ground,
            ratio: contrast_ratio(text, ground),
        }
    }

    /// Whether the ratio reaches a usage's target.
    #[must_use]
    pub fn meets(&self, usage: Usage) -> bool {
        self.ratio >= usage.target()
    }
}

/// A pair.
#[derive(Debug, Clone, PartialEq)]
pub struct Pair {
    /// The tool that draws it.
    pub tool: ToolId,
    /// What is drawn.
    pub what: String,
    /// How it is used.
    pub usage: Usage,
    /// The text's role.
    pub text: RoleId,
    /// The ground's role.
    pub ground: RoleId,
    /// As the dotfiles say now.
    pub now: Measured,
    /// As the setup would have it.
    pub draft: Measured,
    /// Where the text's color is written, else the ground's.
    pub place: Option<Place>,
}

/// All pairs of all tools, those furthest below their target in the draft first.
/// `reports` come terminal first: it decides what slots look like now.
#[must_use]
pub fn pairs(look: &Look, reports: &[ToolReport]) -> Vec<Pair> {
    let mut out = Vec::new();
    for report in reports {
        for drawn in &report.drawn {
            let now = |paint| color_now(look, reports, report, paint);
            let place = [&drawn.text, &drawn.ground]
                .into_iter()
                .find_map(|p| p.reading)
                .map(|i| report.readings[i].place.clone());
            out.push(Pair {
                tool: report.tool,
                what: drawn.what.clone(),
                usage: drawn.usage,
                text: drawn.text.role.clone(),
                ground: drawn.ground.role.clone(),
                now: Measured::new(now(&drawn.text), now(&drawn.ground)),
                draft: Measured::new(look.color(&drawn.text.role), look.color(&drawn.ground.role)),
                place,
            });
        }
    }
    let shortfall = |p: &Pair| p.draft.ratio / p.usage.target();
    out.sort_by(|a, b| {
        let decoration = |p: &Pair| p.usage == Usage::Decoration;
        decoration(a)
            .cmp(&decoration(b))
            .then(shortfall(a).total_cmp(&shortfall(b)))
    });
    out
}

/// The color something is drawn in now.
fn color_now(look: &Look, reports: &[ToolReport], report: &ToolReport, paint: &Paint) -> Rgb {
    let terminal = |slot: Slot| {
        let said = reports
            .first()
            .and_then(|t| t.effective(&RoleId::from(slot)));
        match said.map(|r| &r.value) {
            Some(Value::Color(color)) => *color,
            _ => look.slot(slot),
        }
    };
    match paint.reading.map(|i| &report.readings[i].value) {
        Some(Value::Color(color)) => *color,
        Some(Value::Slot(slot)) => terminal(*slot),
        Some(_) if paint.role.is_ground() => terminal(Slot::Background),
        Some(_) => terminal(Slot::Foreground),
        None => match Slot::from_key(paint.role.as_str()) {
            Some(slot) => terminal(slot),
            None => look.color(&paint.role),
        },
    }
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
