//! `wealdmist font`: finding, comparing, choosing and installing fonts.

mod facts;
mod samples;

use std::io::Write;
use std::path::Path;
use std::sync::Arc;

use serde_json::json;
use wealdmist_core::font::facts::facts;
use wealdmist_core::font::{self, Coverage, Entry, FaceInfo, Four, Typeface, features};
use wealdmist_core::icon;
use wealdmist_core::setup::FontChoice;
use wealdmist_core::text::{self, counted};
use wealdmist_host::{
    FontIndex, Home, Survey, install as install_fonts, open_source, plan_install,
};

use super::shown;
use crate::cli::{FontCommand, FontOptions, OnOff};
use crate::failure::{Failure, Outcome};
use crate::screen::{out, print_json};
use crate::work::fonts::{describe, find, spelled};

use facts::facts_json;
use samples::{compare, coverage};

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
    let (families, count) = (families.len(), faces.len());
    writeln!(
        out,
        "{}, {}",
        counted(families, "family"),
        counted(count, "face")
    )?;
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
    for line in spelled(survey, &choice, &catalog) {
        writeln!(out, "  {line}")?;
    }
    out.flush()?;
    Ok(0)
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
    for line in spelled(survey, &choice, &catalog) {
        say!("{line}");
    }
    let known = choice
        .family
        .as_deref()
        .is_some_and(|f| catalog.find(f).is_some());
    Ok(u8::from(!known))
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
    for line in spelled(&survey, &survey.doc.setup().font, &catalog) {
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
        "installed {} as number {}; `wealdmist undo {}` removes them",
        counted(plan.faces.len(), "face"),
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
