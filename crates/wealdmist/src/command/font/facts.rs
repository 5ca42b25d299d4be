//! The facts of a face in words and as JSON.

use std::path::Path;

use serde_json::json;
use wealdmist_core::font::coverage::{Share, by_block, by_icon_range};
use wealdmist_core::font::facts::{Facts, Pitch};
use wealdmist_core::text;
use wealdmist_host::Home;

use crate::command::shown;

/// Everything of a face in lines, for people.
pub fn describe(home: &Home, path: &Path, facts: &Facts, changes: &[Vec<String>]) -> Vec<String> {
    let plain = |t: &str| text::visible(t.as_bytes());
    let info = &facts.info;
    let mut out = vec![format!("{}  {}", plain(&info.title()), shown(home, path))];
    for name in &facts.names {
        out.push(format!(
            "  {:<20} {} {}",
            name.what,
            plain(&name.text),
            plain(&name.language)
        ));
    }
    let pitch = match facts.pitch {
        Pitch::Fixed(w) => format!("one width, {w} units"),
        Pitch::Dual(w) => format!("one width or two, {w} units"),
        Pitch::LettersFixed(w) => format!("letters {w} units, others differ"),
        Pitch::Proportional => "widths differ".to_owned(),
    };
    let declared = if info.fixed_pitch {
        "declared fixed"
    } else {
        "not declared fixed"
    };
    let cell = &facts.cell;
    out.push(format!(
        "  {:<20} weight {}, width {} %, {}",
        "style",
        info.weight,
        info.width,
        info.slant.label()
    ));
    out.push(format!("  {:<20} {pitch}; {declared}", "pitch"));
    out.push(format!(
        "  {:<20} {} × {} units of {} an em; ascent {}, descent {}, leading {}",
        "cell",
        cell.width,
        cell.height(),
        cell.units_per_em,
        cell.ascent,
        cell.descent,
        cell.leading
    ));
    let heights = [
        ("capitals", facts.cap_height),
        ("small letters", facts.x_height),
    ];
    let heights: Vec<String> = heights
        .iter()
        .filter_map(|(n, h)| Some(format!("{n} {}", (*h)?)))
        .collect();
    if !heights.is_empty() {
        out.push(format!(
            "  {:<20} {} units; italic angle {}°",
            "heights",
            heights.join(", "),
            facts.italic_angle
        ));
    }
    for axis in &facts.axes {
        out.push(format!(
            "  {:<20} {} from {} to {}, {} by default{}",
            "axis",
            plain(&format!("{} ({})", axis.name, axis.tag)),
            axis.min,
            axis.max,
            axis.default,
            if axis.hidden { ", hidden" } else { "" }
        ));
    }
    for instance in &facts.instances {
        let at: Vec<String> = instance.at.iter().map(ToString::to_string).collect();
        out.push(format!(
            "  {:<20} {} at {}",
            "named instance",
            plain(&instance.name),
            at.join(", ")
        ));
    }
    for (feature, changes) in facts.features.iter().zip(changes) {
        let on = if feature.default {
            "on by default"
        } else {
            "off by default"
        };
        let what = match changes.is_empty() {
            true => "nothing of the sample text".to_owned(),
            false => plain(&changes.join("  ")),
        };
        out.push(format!(
            "  {:<20} {}, {on}: {what}",
            format!("feature {}", feature.tag),
            plain(&feature.name)
        ));
    }
    if !facts.color.is_empty() {
        out.push(format!(
            "  {:<20} {}",
            "color glyphs",
            facts.color.join(", ")
        ));
    }
    out.push(format!("  {:<20} {}", "use", facts.embedding.label()));
    let texts = [
        ("licence", &facts.licence),
        ("licence at", &facts.licence_url),
        ("copyright", &facts.copyright),
        ("version", &facts.version),
    ];
    for (name, value) in texts {
        if let Some(value) = value {
            out.push(format!("  {name:<20} {}", plain(value)));
        }
    }
    out.push(format!(
        "  {:<20} {} in {} glyphs",
        "characters",
        facts.coverage.len(),
        facts.glyphs
    ));
    let share = |s: &Share| format!("    {:<34} {:>5} of {}", s.name, s.has, s.of);
    out.push("  by icon range".to_owned());
    out.extend(by_icon_range(&facts.coverage).iter().map(share));
    out.push("  by Unicode block".to_owned());
    out.extend(by_block(&facts.coverage).iter().map(share));
    out
}

pub(super) fn facts_json(path: &Path, facts: &Facts, changes: &[Vec<String>]) -> serde_json::Value {
    let info = &facts.info;
    let features: Vec<_> = facts.features.iter().zip(changes).map(|(f, c)| json!({"tag": f.tag.to_string(), "name": f.name, "default": f.default, "changes": c})).collect();
    let shares = |list: Vec<Share>| {
        list.iter()
            .map(|s| json!({"name": s.name, "has": s.has, "of": s.of}))
            .collect::<Vec<_>>()
    };
    json!({
        "path": path, "face": info.index, "family": info.family(), "families": info.families, "style": info.style,
        "fullNames": info.full_names, "postscript": info.postscript, "weight": info.weight, "width": info.width,
        "slant": info.slant.label(), "fixedDeclared": info.fixed_pitch, "fixedMeasured": info.measured_fixed,
        "unitsPerEm": facts.cell.units_per_em, "cell": {"width": facts.cell.width, "height": facts.cell.height(), "ascent": facts.cell.ascent, "descent": facts.cell.descent, "leading": facts.cell.leading},
        "axes": facts.axes.iter().map(|a| json!({"tag": a.tag.to_string(), "name": a.name, "min": a.min, "default": a.default, "max": a.max})).collect::<Vec<_>>(),
        "instances": facts.instances.iter().map(|i| json!({"name": i.name, "at": i.at})).collect::<Vec<_>>(),
        "features": features, "color": facts.color, "embedding": facts.embedding.label(), "licence": facts.licence,
        "glyphs": facts.glyphs, "characters": facts.coverage.len(),
        "iconRanges": shares(by_icon_range(&facts.coverage)), "blocks": shares(by_block(&facts.coverage)),
    })
}
