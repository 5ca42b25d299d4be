//! `wealdmist font`: finding, comparing, choosing and installing fonts.

use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use serde_json::json;
use wealdmist_core::font::coverage::{Share, by_block, by_icon_range};
use wealdmist_core::font::facts::{Facts, Pitch, facts};
use wealdmist_core::font::picture::{Means, Shaded, draw};
use wealdmist_core::font::raster::{Grid, Raster, line};
use wealdmist_core::font::sample::{SAMPLES, sample};
use wealdmist_core::font::{
    self, Catalog, Coverage, Entry, FaceInfo, FeatureSetting, Four, Typeface, features,
};
use wealdmist_core::icon;
use wealdmist_core::role::Slot;
use wealdmist_core::setup::FontChoice;
use wealdmist_core::terminal::Images;
use wealdmist_core::{Rgb, text};
use wealdmist_draw::fonts::{Named, comparison, coverage_chart};
use wealdmist_host::{
    FontIndex, Home, Survey, install as install_fonts, open_face, open_source, plan_install,
};
use wealdmist_tools::adapters;

use super::{Outcome, out, print_json, shown};
use crate::cli_font::{Drawn, FontCommand, FontOptions, MeansName, OnOff, StyleName};
use crate::failure::Failure;
use crate::image;

pub fn run(survey: Survey, command: &FontCommand) -> Outcome {
    match command {
        FontCommand::List {
            filter,
            from,
            all,
            json,
        } => list(
            &survey.home,
            filter.as_deref(),
            from.as_deref(),
            *all,
            *json,
        ),
        FontCommand::Show { name, face, json } => show(&survey, name, *face, *json),
        FontCommand::Compare { names, how, output } => {
            compare(&survey, names, how, output.as_deref())
        }
        FontCommand::Coverage { names, output } => coverage(&survey, names, output.as_deref()),
        FontCommand::Spell { family } => spell(&survey, family.as_deref()),
        FontCommand::Choose { family, choice } => choose(survey, family.as_deref(), choice),
        FontCommand::Install {
            path,
            face,
            dry_run,
        } => install(&survey.home, path, face, *dry_run),
    }
}

fn list(
    home: &Home,
    filter: Option<&str>,
    from: Option<&Path>,
    all: bool,
    as_json: bool,
) -> Outcome {
    let (catalog, refused) = match from {
        Some(path) => {
            let source = open_source(path).map_err(|e| Failure::Other(e.to_string()))?;
            (source.catalog(), source.refused)
        }
        None => {
            let index = FontIndex::open(home);
            let why = |u: wealdmist_host::UnusableFont| format!("{}: {}", u.path.display(), u.why);
            (
                index.catalog(),
                index.unusable().into_iter().map(why).collect(),
            )
        }
    };
    let wanted = |e: &&Entry| {
        (all || from.is_some() || e.info.measured_fixed)
            && filter.is_none_or(|f| e.info.family().to_lowercase().contains(&f.to_lowercase()))
    };
    let faces: Vec<&Entry> = catalog.faces.iter().filter(wanted).collect();
    if as_json {
        let rows: Vec<_> = faces.iter().map(|e| json!({"family": e.info.family(), "style": e.info.style, "weight": e.info.weight, "slant": e.info.slant.label(), "postscript": e.info.postscript, "fixed": e.info.measured_fixed, "variable": e.info.variable, "characters": e.coverage.len(), "icons": icons_of(&e.coverage), "features": e.info.features, "path": e.path})).collect();
        print_json(&json!({"faces": rows, "unusable": refused}))?;
        return Ok(0);
    }
    let mut out = out();
    let mut families: Vec<&str> = faces.iter().map(|e| e.info.family()).collect();
    families.sort_unstable();
    families.dedup();
    for family in &families {
        let own: Vec<&&Entry> = faces
            .iter()
            .filter(|e| e.info.family() == *family)
            .collect();
        let styles: Vec<&str> = own.iter().map(|e| e.info.style.as_str()).collect();
        let icons = own.iter().map(|e| icons_of(&e.coverage)).max().unwrap_or(0);
        let icons = if icons > 0 {
            format!("{icons} icons")
        } else {
            "no icons".to_owned()
        };
        let pitch = if own.iter().all(|e| e.info.measured_fixed) {
            "fixed"
        } else {
            "varying"
        };
        writeln!(
            out,
            "{:<34} {:<8} {:<12} {}",
            text::visible(family.as_bytes()),
            pitch,
            icons,
            text::visible(styles.join(", ").as_bytes())
        )?;
    }
    writeln!(out, "{} families, {} faces", families.len(), faces.len())?;
    for line in refused {
        writeln!(out, "passed over: {line}")?;
    }
    out.flush()?;
    Ok(u8::from(faces.is_empty()))
}

/// How many characters of the ranges of icons are covered.
fn icons_of(coverage: &Coverage) -> usize {
    icon::RANGES
        .iter()
        .map(|r| coverage.count_in(&r.codes))
        .sum()
}

/// The bytes and face that a name or a path means.
fn find(
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
    let bytes = fs::read(&entry.path)
        .map_err(|e| Failure::Other(format!("{}: {e}", entry.path.display())))?;
    Ok((entry.path.clone(), entry.info.clone(), Arc::new(bytes)))
}

fn show(survey: &Survey, name: &str, face: Option<u32>, as_json: bool) -> Outcome {
    let catalog = FontIndex::open(&survey.home).catalog();
    let (path, info, bytes) = find(&survey.home, &catalog, name, face)?;
    let broken = |e: font::FontError| Failure::Other(format!("{}: {e}", path.display()));
    let facts = facts(&bytes, info.index).map_err(broken)?;
    let opened = Typeface::open(Arc::clone(&bytes), info.index).ok();
    let changes: Vec<Vec<String>> = facts
        .features
        .iter()
        .map(|f| {
            opened
                .as_ref()
                .map(|t| features::changes(t, f.tag))
                .unwrap_or_default()
        })
        .collect();
    if as_json {
        print_json(&facts_json(&path, &facts, &changes))?;
        return Ok(0);
    }
    let mut out = out();
    for line in describe(&survey.home, &path, &facts, &changes) {
        writeln!(out, "{line}")?;
    }
    let choice = FontChoice {
        family: Some(info.family().to_owned()),
        ..survey.doc.setup().font.clone()
    };
    writeln!(out, "spelled")?;
    for line in spelled(&choice, &catalog) {
        writeln!(out, "  {line}")?;
    }
    out.flush()?;
    Ok(0)
}

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

fn facts_json(path: &Path, facts: &Facts, changes: &[Vec<String>]) -> serde_json::Value {
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

/// The lines that select a choice in each tool.
pub fn spelled(choice: &FontChoice, catalog: &Catalog) -> Vec<String> {
    let mut out = Vec::new();
    for adapter in adapters() {
        let Some(syntax) = adapter.fonts() else {
            out.push(format!(
                "{:<6} draws with the terminal's font",
                adapter.id().0
            ));
            continue;
        };
        for line in syntax.spelled(choice, catalog) {
            let note = line.note.map_or(String::new(), |n| format!("   ({n})"));
            out.push(format!(
                "{:<6} {}{}",
                adapter.id().0,
                text::visible(line.line.as_bytes()),
                text::visible(note.as_bytes())
            ));
        }
    }
    out
}

fn spell(survey: &Survey, family: Option<&str>) -> Outcome {
    let catalog = FontIndex::open(&survey.home).catalog();
    let mut choice = survey.doc.setup().font.clone();
    choice.family = family.map(str::to_owned).or(choice.family);
    if choice.family.is_none() {
        return Err(Failure::Other(
            "no font is chosen: give a family, or choose one with `wealdmist font choose`".into(),
        ));
    }
    for line in spelled(&choice, &catalog) {
        say!("{line}");
    }
    let known = choice
        .family
        .as_deref()
        .is_some_and(|f| catalog.find(f).is_some());
    Ok(u8::from(!known))
}

/// The faces that names mean, in a style.
fn open_all(
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

fn compare(survey: &Survey, names: &[String], how: &Drawn, output: Option<&Path>) -> Outcome {
    let style = match how.style {
        StyleName::Regular => Four::Regular,
        StyleName::Bold => Four::Bold,
        StyleName::Italic => Four::Italic,
        StyleName::BoldItalic => Four::BoldItalic,
    };
    let faces = open_all(survey, names, style)?;
    let mut with = if how.no_ligatures {
        features::ligatures_off()
    } else {
        Vec::new()
    };
    for text in &how.feature {
        with.push(text.parse::<FeatureSetting>().map_err(Failure::Other)?);
    }
    if let Some(path) = output {
        let named: Vec<Named> = faces
            .iter()
            .map(|(title, face, _)| Named { title, face })
            .collect();
        let svg = comparison(&title(survey), &named, &with);
        super::bundle::write_svg(survey, &svg, path)?;
        say!("wrote {}", path.display());
        return Ok(0);
    }
    let lines: Vec<&str> = match (&how.text, &how.sample) {
        (Some(text), _) => vec![text.as_str()],
        (None, Some(title)) => {
            let all = || {
                SAMPLES
                    .iter()
                    .map(|s| s.title)
                    .collect::<Vec<_>>()
                    .join(", ")
            };
            let found = sample(title).ok_or_else(|| {
                Failure::Other(format!("there is no sample '{title}'; there are {}", all()))
            })?;
            found.lines.to_vec()
        }
        (None, None) => SAMPLES.iter().flat_map(|s| s.lines).copied().collect(),
    };
    let means = match how.means {
        Some(MeansName::Quadrants) => Means::Quadrants,
        Some(MeansName::Dots) => Means::Dots,
        Some(MeansName::Ascii) => Means::Ascii,
        None | Some(MeansName::Image) => best_means(),
    };
    let images = match how.means {
        Some(MeansName::Image) => image::protocol(&survey.home),
        _ => Images::None,
    };
    if how.means == Some(MeansName::Image) && images == Images::None {
        let text =
            "this terminal is not known to show images; `wealdmist terminal --measure` asks it";
        return Err(Failure::Other(text.to_owned()));
    }
    let look = survey.look();
    let shades = (look.slot(Slot::Background), look.slot(Slot::Foreground));
    let mut out = std::io::stdout().lock();
    for text in lines {
        for (title, face, _) in &faces {
            let cell = face.cell();
            let grid = Grid::of_width(&cell, f32::from(how.width));
            let raster: Raster = line(face, &grid, text, &with);
            writeln!(out, "{}", text::visible(title.as_bytes()))?;
            if images != Images::None {
                put_image(&mut out, &raster, shades, images)?;
                continue;
            }
            for row in draw(&raster, means) {
                writeln!(out, "{}", painted(&row, means))?;
            }
        }
    }
    out.flush()?;
    Ok(0)
}

/// Shows a raster as an image, and goes to the line below it.
fn put_image(
    out: &mut impl Write,
    raster: &Raster,
    shades: (Rgb, Rgb),
    images: Images,
) -> std::io::Result<()> {
    let pixels = image::escapes(raster, shades, images);
    let Some((_, height)) = image::cell_pixels().filter(|_| images == Images::Graphics) else {
        out.write_all(&pixels)?;
        return writeln!(out);
    };
    // The graphics protocol leaves the cursor where it is and does not scroll: room is made first.
    let lines = raster.height.div_ceil(height.max(1));
    out.write_all(&b"\n".repeat(lines as usize))?;
    write!(out, "\x1b[{lines}A")?;
    out.write_all(&pixels)?;
    write!(out, "\x1b[{lines}B")
}

/// The finest means of the output: dots, or ASCII where Unicode is not to be had.
fn best_means() -> Means {
    if crate::tui::unicode_locale() {
        Means::Dots
    } else {
        Means::Ascii
    }
}

/// A row with its shades as 24-bit escapes, or plain where the means has none.
fn painted(row: &[Shaded], means: Means) -> String {
    let mut out = String::new();
    for cell in row {
        if means == Means::Quadrants {
            let (f, b) = (cell.ink, cell.ground);
            out.push_str(&format!("\x1b[38;2;{f};{f};{f};48;2;{b};{b};{b}m"));
        }
        out.push(cell.character);
    }
    if means == Means::Quadrants {
        out.push_str("\x1b[0m");
        return out;
    }
    out.trim_end().to_owned()
}

fn title(survey: &Survey) -> String {
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

fn coverage(survey: &Survey, names: &[String], output: Option<&Path>) -> Outcome {
    let faces = open_all(survey, names, Four::Regular)?;
    let Some(((first, _, one), rest)) = faces.split_first() else {
        return Ok(2);
    };
    let other = rest
        .first()
        .map(|(title, _, coverage)| (title.as_str(), coverage));
    if let Some(path) = output {
        let svg = coverage_chart(&title(survey), (first, one), other);
        super::bundle::write_svg(survey, &svg, path)?;
        say!("wrote {}", path.display());
        return Ok(0);
    }
    for (title, shares) in [
        ("icon ranges", by_icon_range(one)),
        ("Unicode blocks", by_block(one)),
    ] {
        say!("{title} of {first}");
        for share in shares {
            // In a range of icons only known icons count, as in its share.
            let counts = |c: &char| {
                share.range.contains(&(*c as u32))
                    && (title != "icon ranges" || icon::present_at(*c).is_some())
            };
            let difference = other.map_or(String::new(), |(name, o)| {
                let only = one
                    .characters()
                    .filter(counts)
                    .filter(|c| !o.has(*c))
                    .count();
                let theirs = o
                    .characters()
                    .filter(counts)
                    .filter(|c| !one.has(*c))
                    .count();
                format!("   {only} not in {name}, which has {theirs} more")
            });
            say!(
                "  {:<34} {:>5} of {}{difference}",
                share.name,
                share.has,
                share.of
            );
        }
    }
    Ok(0)
}

fn choose(mut survey: Survey, family: Option<&str>, choice: &FontOptions) -> Outcome {
    let catalog = FontIndex::open(&survey.home).catalog();
    let check = |name: &str| match catalog.find(name) {
        Some(_) => Ok(()),
        None => {
            let near = catalog
                .nearest(name)
                .map_or(String::new(), |n| format!("; did you mean '{n}'?"));
            Err(Failure::Other(format!(
                "no installed font answers to '{name}'{near}"
            )))
        }
    };
    let mut doc = survey.doc.clone();
    if let Some(family) = family {
        check(family)?;
        doc = doc.with_face(Four::Regular, family)?;
    }
    if let Some(size) = choice.size {
        doc = doc.with_number(&["font", "size"], size)?;
    }
    let styles = [
        (Four::Bold, &choice.bold),
        (Four::Italic, &choice.italic),
        (Four::BoldItalic, &choice.bold_italic),
    ];
    for (style, name) in styles {
        match name.as_deref() {
            None => {}
            Some("auto") => doc = doc.without_face(style)?,
            Some(name) => {
                check(name)?;
                doc = doc.with_face(style, name)?;
            }
        }
    }
    for text in &choice.feature {
        let (text, forget) = match text.strip_suffix("=default") {
            Some(tag) => (tag, true),
            None => (text.as_str(), false),
        };
        doc = doc.with_feature(text.parse().map_err(Failure::Other)?, forget)?;
    }
    if let Some(ligatures) = choice.ligatures {
        doc = doc.with_ligatures(ligatures == OnOff::On)?;
    }
    if let Some(height) = choice.line_height {
        doc = doc.with_number(&["font", "line-height"], height)?;
    }
    if !choice.fallback.is_empty() {
        choice.fallback.iter().try_for_each(|f| check(f))?;
        doc = doc.with_fallback(&choice.fallback)?;
    }
    if doc.text() == survey.doc.text() {
        return Err(Failure::Other(
            "nothing was chosen: give a family, a size or another option".into(),
        ));
    }
    survey.doc = doc;
    survey.save()?;
    say!("wrote {}", shown(&survey.home, survey.doc.path()));
    for line in spelled(&survey.doc.setup().font, &catalog) {
        say!("  {line}");
    }
    say!("`wealdmist apply` writes it to every tool");
    Ok(0)
}

fn install(home: &Home, path: &Path, faces: &[String], dry_run: bool) -> Outcome {
    let source = open_source(&home.expand(&path.to_string_lossy()))
        .map_err(|e| Failure::Other(e.to_string()))?;
    let wanted = |info: &FaceInfo| {
        faces.is_empty()
            || faces.iter().any(|f| {
                info.answers_to(f)
                    || info.style.eq_ignore_ascii_case(f)
                    || info.title().eq_ignore_ascii_case(f)
            })
    };
    let plan = plan_install(home, &source, wanted);
    for line in &source.refused {
        say!("passed over: {line}");
    }
    for face in &plan.present {
        say!("there already: {}", face.title());
    }
    if plan.changes.is_empty() {
        let titles: Vec<String> = source
            .fonts
            .iter()
            .flat_map(|f| &f.faces)
            .map(FaceInfo::title)
            .collect();
        if plan.present.is_empty() {
            return Err(Failure::Other(format!(
                "no face answers to that; there are {}",
                titles.join(", ")
            )));
        }
        say!("nothing to install");
        return Ok(0);
    }
    for change in &plan.changes {
        let size = change.after.as_ref().map_or(0, Vec::len);
        let verb = if change.before.is_some() {
            "replaces"
        } else {
            "adds"
        };
        say!(
            "{verb} {} ({} KiB)",
            shown(home, &change.path),
            size.div_ceil(1024)
        );
    }
    if dry_run {
        return Ok(0);
    }
    let done = install_fonts(home, &plan)?;
    say!(
        "installed {} faces as number {}; `wealdmist undo {}` removes them",
        plan.faces.len(),
        done.record,
        done.record
    );
    match done.cache {
        Ok(()) => say!("the system's font cache is up to date"),
        Err(why) => say!("{why}"),
    }
    for program in done.restart {
        say!(
            "{} (process {}) has to be started anew to see them",
            program.tool,
            program.pid
        );
    }
    Ok(0)
}
