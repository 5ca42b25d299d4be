//! The facts of a face in words and as JSON.

use std::path::Path;

use serde_json::json;
use wealdmist_core::font::coverage::{Share, by_block, by_icon_range};
use wealdmist_core::font::facts::Facts;

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
