//! What a terminal draws: pairs of text and ground, also selected and faded.

use wealdmist_core::property::Property;
use wealdmist_core::reading::{Drawn, Paint, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot, Usage, lookup};

use super::{Means, Table};

impl Table {
    /// What the terminal draws.
    pub(super) fn drawn(&self, report: &ToolReport) -> Vec<Drawn> {
        let paint = |role: RoleId| Paint {
            reading: report.effective_index(&role),
            role,
        };
        let mut out = Vec::new();
        if report.files.is_empty() {
            return out;
        }
        let slots = Slot::ALL.iter().map(|s| s.key());
        let colors = self.keys.iter().filter_map(|k| match k.means {
            Means::Color(role) => Some(role),
            _ => None,
        });
        for id in slots.chain(colors) {
            let role = RoleId::known(id);
            let Some(known) = lookup(&role).filter(|k| k.usage != Usage::Decoration) else {
                continue;
            };
            let pair = Drawn {
                what: known.label.to_owned(),
                text: paint(role),
                ground: paint(RoleId::known(known.on)),
                usage: known.usage,
                fade: 1.0,
                fades_by: None,
            };
            let said = pair.text.reading.is_some() || pair.ground.reading.is_some();
            if said && !out.contains(&pair) {
                out.push(pair);
            }
        }
        out.extend(selected(report, &out));
        out.extend(faded(report, &out));
        out
    }
}

/// The colors that keep their own in a selection, where the selection has no text color.
fn selected(report: &ToolReport, drawn: &[Drawn]) -> Vec<Drawn> {
    let value = |role: &'static str| report.effective(&RoleId::known(role)).map(|r| &r.value);
    if value("selection-text") != Some(&Value::Default)
        || !matches!(value("selection"), Some(Value::Color(_)))
    {
        return Vec::new();
    }
    let role = RoleId::known("selection");
    let ground = Paint {
        reading: report.effective_index(&role),
        role,
    };
    text_on_ground(drawn)
        .map(|d| Drawn {
            what: format!("{}, selected", d.what),
            ground: ground.clone(),
            ..d.clone()
        })
        .collect()
}

/// Text that is drawn with less of its color: in inactive windows, and what programs ask to be
/// faint.
fn faded(report: &ToolReport, drawn: &[Drawn]) -> Vec<Drawn> {
    let number = |role: &'static str| match report.effective(&RoleId::known(role)).map(|r| &r.value)
    {
        Some(Value::Number(n)) if (0.0..=1.0).contains(n) => Some(*n),
        _ => None,
    };
    // What is not dimmed now may be by the setup.
    let inactive = number("window.dimmed").map(|fade| {
        text_on_ground(drawn).map(move |d| Drawn {
            what: format!("{}, in an inactive window", d.what),
            fade,
            fades_by: Some(Property::WindowDimmed),
            ..d.clone()
        })
    });
    let faint = number("window.faint").filter(|n| *n < 1.0);
    let faint = faint.map(|fade| {
        let foreground = text_on_ground(drawn).filter(|d| d.text.role == Slot::Foreground.into());
        foreground.map(move |d| Drawn {
            what: "faint text".to_owned(),
            usage: Usage::Secondary,
            fade,
            ..d.clone()
        })
    });
    inactive
        .into_iter()
        .flatten()
        .chain(faint.into_iter().flatten())
        .collect()
}

/// What was found to be drawn as text in a terminal color on the terminal's own ground.
fn text_on_ground(drawn: &[Drawn]) -> impl Iterator<Item = &Drawn> {
    drawn.iter().filter(|d| {
        let is_text = matches!(d.usage, Usage::Body | Usage::Secondary);
        let slot = Slot::from_key(d.text.role.as_str());
        is_text && d.ground.role == Slot::Background.into() && slot.is_some()
    })
}
