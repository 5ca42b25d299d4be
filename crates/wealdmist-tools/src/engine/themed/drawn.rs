//! What an editor draws: the groups whose colors stand in a file of the person's.

use std::path::Path;

use wealdmist_core::reading::{Drawn, Paint, Place, Reading, Standing, ToolReport, Value};
use wealdmist_core::role::{Group, RoleId, Usage, lookup};

use super::{Ground, Themed};

/// What the editor draws: the groups whose colors stand in a file of the person's.
pub fn drawn(row: &Themed, report: &ToolReport) -> Vec<Drawn> {
    let mut out: Vec<Drawn> = Vec::new();
    let index = |group: &str, role: &str| {
        report
            .readings
            .iter()
            .rposition(|r| r.effective && r.key == group && r.role.as_str() == role)
    };
    let paint = |role: &'static str, reading: Option<usize>| Paint {
        role: RoleId::known(role),
        reading,
    };
    // A group without a ground of its own stands on that of Normal.
    let normal = paint("background", index("Normal", "background"));
    for group in row.groups[0] {
        let Some(text) = group.text else { continue };
        let text_index = index(group.name, text);
        let ground_index = group.ground.and_then(|g| Some((g, index(group.name, g)?)));
        // A group that only colors the ground leaves its text the colors it has: see below.
        let only_ground = text_index.is_none()
            && row
                .grounds
                .iter()
                .any(|g| g.group == group.name && g.leaves_text);
        if (text_index.is_none() && ground_index.is_none()) || only_ground {
            continue;
        }
        let known = lookup(&RoleId::known(text));
        out.push(Drawn {
            what: group.name.to_owned(),
            text: paint(text, text_index),
            ground: ground_index.map_or(normal.clone(), |(g, i)| paint(g, Some(i))),
            usage: known.map_or(Usage::Body, |k| k.usage),
            fade: 1.0,
            fades_by: None,
        });
    }
    // Text as it is elsewhere, on the grounds that are laid behind whole lines of it.
    for Ground {
        group, role, place, ..
    } in row.grounds
    {
        let Some(i) = index(group, role) else {
            continue;
        };
        if row
            .group(group)
            .and_then(|g| index(group, g.text?))
            .is_some()
        {
            continue;
        }
        let mut seen = Vec::new();
        let texts: Vec<Drawn> = out
            .iter()
            .filter(|d| {
                let once = !seen.contains(&d.text.role);
                let fits = d.ground == normal && is_code(&d.text.role) && d.text.reading.is_some();
                if once && fits {
                    seen.push(d.text.role.clone());
                }
                once && fits
            })
            .map(|d| Drawn {
                what: format!("{} {place}", d.what),
                ground: paint(role, Some(i)),
                ..d.clone()
            })
            .collect();
        out.extend(texts);
    }
    out
}

/// What it draws in the theme that is generated for it: every group, in the colors of its roles.
pub fn when_generated(row: &Themed) -> Vec<Drawn> {
    let mut report = ToolReport::new(row.id);
    for group in row.groups[0] {
        for role in [group.text, group.ground].into_iter().flatten() {
            report.readings.push(Reading {
                role: RoleId::known(role),
                key: group.name.to_owned(),
                value: Value::Default,
                place: Place::nowhere_in(Path::new(row.ours.0)),
                chain: Vec::new(),
                effective: true,
                editable: false,
                standing: Standing::Certain,
                asked: None,
            });
        }
    }
    let mut out = drawn(row, &report);
    for one in &mut out {
        // The color is the role's own.
        (one.text.reading, one.ground.reading) = (None, None);
    }
    out
}

/// Whether a role is drawn in the text that is edited.
fn is_code(role: &RoleId) -> bool {
    matches!(role.group(), Group::Syntax | Group::Diagnostics) || role.as_str() == "foreground"
}
