//! Fonts by name: found, described, spelled for each tool, drawn.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use wealdmist_core::font::coverage::{Share, by_block, by_icon_range};
use wealdmist_core::font::facts::{Facts, Pitch};
use wealdmist_core::font::sample::parts;
use wealdmist_core::font::{self, Catalog, Coverage, FaceInfo, Four, Typeface};
use wealdmist_core::setup::FontChoice;
use wealdmist_core::text::{self, visible};
use wealdmist_draw::fonts::{Named, comparison, coverage_chart};
use wealdmist_host::{FontIndex, Home, Survey, open_face, open_source};
use wealdmist_tools::{Access, adapters};

use crate::failure::Failure;

/// The bytes and face that a name or a path means.
pub fn find(
    home: &Home,
    catalog: &Catalog,
    name: &str,
    face: Option<u32>,
) -> Result<(PathBuf, FaceInfo, Arc<Vec<u8>>), Failure> {
    let path = home.expand(name);
    if path.is_file() || path.is_dir() {
        let source = open_source(&path).map_err(|e| Failure::Other(e.to_string()))?;
        let mut all = source
            .fonts
            .iter()
            .flat_map(|f| f.faces.iter().map(move |i| (f, i)));
        let found = match face {
            Some(n) => all.find(|(_, i)| i.index == n),
            None => all.min_by_key(|(_, i)| i.distance(false, false)),
        };
        let (file, info) =
            found.ok_or_else(|| Failure::Other(format!("{name} has no such face")))?;
        return Ok((path, info.clone(), Arc::clone(&file.bytes)));
    }
    let Some((entry, _)) = catalog.find(name) else {
        let near = catalog
            .nearest(name)
            .map_or(String::new(), |n| format!("; did you mean '{n}'?"));
        return Err(Failure::Other(format!(
            "no installed font answers to '{name}'{near}"
        )));
    };
    let bytes = wealdmist_host::read_font(&entry.path)
        .map_err(|e| Failure::Other(format!("{}: {e}", entry.path.display())))?;
    Ok((entry.path.clone(), entry.info.clone(), Arc::new(bytes)))
}

/// The faces that names mean, in a style.
pub fn open_all(
    survey: &Survey,
    names: &[String],
    style: Four,
) -> Result<Vec<(String, Typeface, Coverage)>, Failure> {
    let catalog = FontIndex::open(&survey.home).catalog();
    let mut out = Vec::new();
    for name in names {
        let styled = catalog.four(name).face(style).cloned();
        if style != Four::Regular && styled.is_none() && catalog.of_family(name).next().is_some() {
            return Err(Failure::Other(format!(
                "'{name}' has no {} face",
                style.label()
            )));
        }
        if let Some(entry) = styled {
            let face = open_face(&entry).map_err(Failure::Other)?;
            out.push((entry.info.title(), face, entry.coverage.as_ref().clone()));
            continue;
        }
        let (path, info, bytes) = find(&survey.home, &catalog, name, None)?;
        let broken = |e: font::FontError| Failure::Other(format!("{}: {e}", path.display()));
        let coverage = font::coverage(&bytes, info.index).map_err(broken)?;
        let face = Typeface::open(bytes, info.index).map_err(broken)?;
        out.push((info.title(), face, coverage));
    }
    Ok(out)
}

/// The lines that select a choice in each tool.
pub fn spelled(survey: &Survey, choice: &FontChoice, catalog: &Catalog) -> Vec<String> {
    let mut out = Vec::new();
    let there = |id| survey.reports.is_empty() || survey.reports.iter().any(|r| r.tool == id);
    let tools: Vec<_> = adapters().into_iter().filter(|a| there(a.id())).collect();
    let wide = tools.iter().map(|a| a.id().0.len()).max().unwrap_or(0);
    let wide = wide.max(6);
    for adapter in tools {
        let Some(syntax) = adapter.fonts() else {
            out.push(format!(
                "{:<wide$} draws with the terminal's font",
                adapter.id().0
            ));
            continue;
        };
        for line in syntax.spelled(choice, catalog) {
            let note = line.note.map_or(String::new(), |n| format!("   ({n})"));
            out.push(format!(
                "{:<wide$} {}{}",
                adapter.id().0,
                text::visible(line.line.as_bytes()),
                text::visible(note.as_bytes())
            ));
        }
    }
    out
}

/// Everything of a face in lines, for people.
pub fn describe(home: &Home, path: &Path, facts: &Facts, changes: &[Vec<String>]) -> Vec<String> {
    let info = &facts.info;
    let mut out = vec![format!(
        "{}  {}",
        plain(&info.title()),
        visible(home.contract(path).as_bytes())
    )];
    for name in &facts.names {
        out.push(format!(
            "  {:<20} {} {}",
            name.what,
            plain(&name.text),
            plain(&name.language)
        ));
    }
    out.extend(measures(facts));
    out.extend(variants(facts, changes));
    out.extend(statements(facts));
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

fn plain(text: &str) -> String {
    text::visible(text.as_bytes())
}

/// Style, pitch, cell and heights.
fn measures(facts: &Facts) -> Vec<String> {
    let info = &facts.info;
    let mut out = Vec::new();
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
    out
}

/// Axes, named instances, and features with what each changes of the sample text.
fn variants(facts: &Facts, changes: &[Vec<String>]) -> Vec<String> {
    let mut out = Vec::new();
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
    out
}

/// What the file says of itself.
fn statements(facts: &Facts) -> Vec<String> {
    let mut out = Vec::new();
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
    out
}

/// What a drawing of a setup is called.
pub fn title(survey: &Survey) -> String {
    let setup = survey.doc.setup();
    format!("{} · {}", setup.name, setup.active)
}

/// The chosen font's styles beside each other.
pub fn faces_svg(survey: &Survey) -> Result<String, Failure> {
    let family = chosen_family(survey)?;
    let catalog = FontIndex::open(&survey.home).catalog();
    let four = catalog.four(&family);
    let mut faces = Vec::new();
    for style in Four::ALL {
        if let Some(entry) = four.face(style) {
            faces.push((
                entry.info.title(),
                open_face(entry).map_err(Failure::Other)?,
            ));
        }
    }
    if faces.is_empty() {
        return Err(Failure::Other(format!("'{family}' is not installed")));
    }
    let named: Vec<Named> = faces
        .iter()
        .map(|(title, face)| Named { title, face })
        .collect();
    Ok(comparison(
        &title(survey),
        &named,
        &parts(),
        &survey.doc.setup().font.shaping(),
    ))
}

/// What the chosen font covers.
pub fn coverage_svg(survey: &Survey) -> Result<String, Failure> {
    let faces = open_all(survey, &[chosen_family(survey)?], Four::Regular)?;
    let (name, _, coverage) = &faces[0];
    Ok(coverage_chart(&title(survey), (name, coverage), None))
}

fn chosen_family(survey: &Survey) -> Result<String, Failure> {
    let family = survey.doc.setup().font.family.clone();
    family.ok_or_else(|| {
        Failure::Other("no font is chosen: `wealdmist font choose NAME` chooses one".into())
    })
}
