//! Palettes: importing, exporting, making, listing and putting to use.

use std::io::Read;
use std::path::Path;
use std::time::Duration;

use wealdmist_core::color::{Oklch, parse_any};
use wealdmist_core::condition::Conditions;
use wealdmist_core::look::Look;
use wealdmist_core::make::{
    Cluster, Variation, adapted, clusters, counterpart, from_image, from_seeds, vary,
};
use wealdmist_core::pair::pairs;
use wealdmist_core::reading::ToolReport;
use wealdmist_core::repair::{Request, Scope, repair, wishes};
use wealdmist_core::role::Slot;
use wealdmist_core::setup::{Expr, Palette, Setup, SetupDoc, Variant};
use wealdmist_core::text::visible;
use wealdmist_host::{Picture, Survey, query_colors, read_palette, write_output};
use wealdmist_tools::exchange::{Format, Imported, export as write_palette, format, import};

use super::Outcome;
use crate::cli::{ImportFrom, Made, PaletteCommand, Side};
use crate::failure::Failure;

/// How many colors are taken from an image.
pub const IMAGE_COLORS: usize = 16;

/// How long a terminal may take to say its colors.
const PATIENCE: Duration = Duration::from_millis(800);

fn known_format(id: Option<&str>) -> Result<Option<&'static Format>, Failure> {
    let Some(id) = id else { return Ok(None) };
    let found = format(id);
    if found.is_none() {
        let all: Vec<&str> = wealdmist_tools::exchange::FORMATS
            .iter()
            .map(|f| f.id)
            .collect();
        return Err(Failure::Usage(format!(
            "there is no format '{id}'; there are {}",
            all.join(", ")
        )));
    }
    Ok(found)
}

/// A palette's name that is not taken: the wanted one, or with a number behind.
pub fn free_name(doc: &SetupDoc, wanted: &str) -> String {
    let plain: String = wanted
        .trim()
        .chars()
        .map(|c| if c.is_control() || c == '.' { '-' } else { c })
        .take(60)
        .collect();
    let plain = if plain.is_empty() {
        "palette".to_owned()
    } else {
        plain
    };
    let taken = |n: &str| doc.setup().palette_named(n).is_some();
    if !taken(&plain) {
        return plain;
    }
    let numbered = (2..).map(|i| format!("{plain} {i}"));
    numbered.into_iter().find(|n| !taken(n)).unwrap_or(plain)
}

/// The setup with an imported palette: what roles need and the file lacks comes from the palette
/// in use.
pub fn with_imported(doc: &SetupDoc, found: &Imported, name: &str) -> Result<SetupDoc, Failure> {
    let mut palette = found.palette(name);
    let doc = doc.with_role_colors_named()?;
    let setup = doc.setup();
    for (own, color) in &setup.palette().colors {
        if !palette.colors.iter().any(|c| c.0 == *own) {
            palette
                .colors
                .push((own.clone(), adapted(*color, setup.palette(), &palette)));
        }
    }
    // A named color must be no role, and TOML's keys must be unique.
    palette
        .colors
        .retain(|(n, _)| !setup.roles.keys().any(|r| r.as_str() == n));
    Ok(doc.with_palette(&palette)?)
}

/// A setup with the palette in use repaired for the pairs that its tools draw, as far as that goes.
pub fn readable(doc: &SetupDoc, reports: &[ToolReport]) -> SetupDoc {
    let setup = doc.setup();
    let conditions = Conditions::default();
    let drawn = pairs(setup, &Look::new(setup), reports, &conditions);
    let wishes = wishes(&drawn);
    let done = repair(&Request {
        setup,
        palette: setup.palette(),
        wishes: &wishes,
        conditions: &conditions,
        scope: &Scope::Palette,
        meanings: false,
    });
    let carried_out = done.carried_out(doc, &setup.active);
    carried_out.unwrap_or_else(|_| doc.clone())
}

pub fn import_palette(mut survey: Survey, from: &ImportFrom) -> Outcome {
    let chosen = known_format(from.format.as_deref())?;
    let (found, title) = if from.terminal {
        let colors = query_colors(PATIENCE).map_err(|e| Failure::Other(e.to_string()))?;
        let found = Imported {
            slots: colors,
            ..Imported::default()
        };
        (found, "terminal".to_owned())
    } else {
        let Some(path) = &from.file else {
            return Err(Failure::Usage(
                "name a palette file, or - for standard input, or say --terminal".into(),
            ));
        };
        if path == Path::new("-") {
            let mut text = String::new();
            std::io::stdin().take(4 << 20).read_to_string(&mut text)?;
            let found = import(chosen, "", &text)
                .map_err(|e| Failure::Other(format!("standard input: {e}")))?;
            let name = found.name.clone().unwrap_or_else(|| "pasted".to_owned());
            (found, name)
        } else {
            let file = read_palette(path, chosen).map_err(|e| Failure::Other(e.to_string()))?;
            let name = file.name();
            (file.found, name)
        }
    };
    let name = match &from.name {
        Some(name) => name.clone(),
        None => free_name(&survey.doc, &title),
    };
    report(&found, &name, from.roles)?;
    if from.dry_run {
        return Ok(0);
    }
    let mut doc = with_imported(&survey.doc, &found, &name)?;
    if from.roles {
        for (role, color) in &found.roles {
            doc = doc.with_role(role, &Expr::Value(*color))?;
        }
    }
    if from.r#use {
        doc = doc.with_text(&["palette"], &name)?;
    }
    survey.doc = doc;
    survey.save()?;
    say!("the setup has the palette '{name}' now");
    if !from.r#use {
        say!("`wealdmist palette use '{name}'` puts it to use");
    }
    Ok(0)
}

/// Says what was found and what could not be mapped.
fn report(found: &Imported, name: &str, roles: bool) -> Result<(), Failure> {
    let shown = visible(name.as_bytes());
    say!(
        "{shown}: {} slots, {} further colors",
        found.slots.len(),
        found.colors.len()
    );
    for (slot, color) in &found.slots {
        say!("  {:<16}{color}", slot.key());
    }
    for (own, color) in &found.colors {
        say!("  {:<16}{color}", visible(own.as_bytes()));
    }
    let missing: Vec<&str> = Slot::ALL
        .into_iter()
        .filter(|s| !found.slots.contains_key(s))
        .map(Slot::key)
        .collect();
    if !missing.is_empty() {
        say!(
            "not in it, a plain color stands for each: {}",
            missing.join(", ")
        );
    }
    for (role, color) in &found.roles {
        let taken = if roles {
            "taken over for every palette"
        } else {
            "not taken: --roles does, for every palette"
        };
        say!("  role {role} {color}: {taken}");
    }
    for one in &found.unmapped {
        let key = visible(one.key.as_bytes());
        say!(
            "  line {}: {key} {} has no place in a palette",
            one.line,
            one.color
        );
    }
    Ok(())
}

pub fn export(survey: &Survey, id: &str, output: Option<&Path>, name: Option<&str>) -> Outcome {
    let Some(format) = known_format(Some(id))? else {
        return Ok(0);
    };
    let setup = survey.doc.setup();
    let palette = palette_of(survey, name)?;
    let written = write_palette(format, palette, &setup.name);
    for lost in &written.lost {
        warn!("wealdmist: {lost}");
    }
    match output {
        Some(path) => {
            write_output(path, &written.bytes)?;
            say!("wrote {}", path.display());
        }
        None => {
            use std::io::Write;
            std::io::stdout().write_all(&written.bytes)?;
        }
    }
    Ok(0)
}

fn palette_of<'a>(survey: &'a Survey, name: Option<&str>) -> Result<&'a Palette, Failure> {
    named_palette(survey.doc.setup(), name)
}

fn named_palette<'a>(setup: &'a Setup, name: Option<&str>) -> Result<&'a Palette, Failure> {
    let Some(name) = name else {
        return Ok(setup.palette());
    };
    setup.palette_named(name).ok_or_else(|| {
        let names: Vec<&str> = setup.palettes.iter().map(|p| p.name.as_str()).collect();
        Failure::Other(format!(
            "there is no palette '{name}'; there are {}",
            names.join(", ")
        ))
    })
}

pub fn run(survey: Survey, command: &PaletteCommand) -> Outcome {
    let named = survey.doc.with_role_colors_named()?;
    let setup = named.setup().clone();
    match command {
        PaletteCommand::List => list(&survey),
        PaletteCommand::Use { name } => {
            palette_of(&survey, Some(name))?;
            super::change::set(survey, "palette", name)
        }
        PaletteCommand::Image { file, side, made } => {
            let picture = Picture::open(file).map_err(|e| Failure::Other(e.to_string()))?;
            let found = clusters(&picture.pixels, IMAGE_COLORS);
            for Cluster { color, share } in &found {
                say!("  {color} {:4.1}%", share * 100.0);
            }
            let stem = file
                .file_stem()
                .unwrap_or_default()
                .to_string_lossy()
                .into_owned();
            keep(survey, made, &stem, |name| {
                from_image(&setup, name, &found, variant(*side, &setup))
            })
        }
        PaletteCommand::Seeds { seeds, side, made } => {
            let read = |text: &String| {
                parse_any(text).ok_or_else(|| {
                    Failure::Usage(format!(
                        "'{text}' is not a color; write #rrggbb, or any notation of CSS"
                    ))
                })
            };
            let seeds = seeds.iter().map(read).collect::<Result<Vec<_>, _>>()?;
            keep(survey, made, "seeded", |name| {
                from_seeds(&setup, name, &seeds, variant(*side, &setup))
            })
        }
        PaletteCommand::Counterpart { of, made } => {
            let from = named_palette(&setup, of.as_deref())?.clone();
            let other = match from.variant {
                Variant::Dark => "light",
                Variant::Light => "dark",
            };
            let wanted = format!("{} {other}", from.name);
            keep(survey, made, &wanted, |name| {
                counterpart(&setup, &from, name)
            })
        }
        PaletteCommand::Vary { mood, of, made } => {
            let from = named_palette(&setup, of.as_deref())?.clone();
            let mood: Variation = (*mood).into();
            let wanted = format!("{} {}", from.name, mood.label());
            keep(survey, made, &wanted, |name| {
                vary(&setup, &from, mood, name)
            })
        }
    }
}

fn variant(side: Option<Side>, setup: &Setup) -> Variant {
    match side {
        Some(Side::Dark) => Variant::Dark,
        Some(Side::Light) => Variant::Light,
        None => setup.palette().variant,
    }
}

fn keep(mut survey: Survey, made: &Made, wanted: &str, make: impl Fn(&str) -> Palette) -> Outcome {
    let name = match &made.name {
        Some(name) => name.clone(),
        None => free_name(&survey.doc, wanted),
    };
    let before = survey.doc.setup().active.clone();
    let named = survey.doc.with_role_colors_named()?;
    let doc = named.with_palette(&make(&name))?;
    let mut doc = readable(&doc.with_text(&["palette"], &name)?, &survey.reports);
    let palette = doc.setup().palette();
    say!("{} ({})", visible(name.as_bytes()), palette.variant.key());
    for slot in Slot::ALL {
        say!("  {:<16}{}", slot.key(), palette.slot(slot));
    }
    if made.dry_run {
        return Ok(0);
    }
    if !made.r#use {
        doc = doc.with_text(&["palette"], &before)?;
    }
    survey.doc = doc;
    survey.save()?;
    say!(
        "the setup has the palette '{}' now",
        visible(name.as_bytes())
    );
    Ok(0)
}

fn list(survey: &Survey) -> Outcome {
    let setup = survey.doc.setup();
    for palette in &setup.palettes {
        let sign = if palette.name == setup.active {
            '*'
        } else {
            ' '
        };
        let side = if setup.appearance.side(palette.variant) == Some(&palette.name) {
            format!("{}, the {0} side", palette.variant.key())
        } else {
            palette.variant.key().to_owned()
        };
        let ground = Oklch::from(palette.slot(Slot::Background)).l;
        let name = visible(palette.name.as_bytes());
        say!(
            "{sign} {name:<24} {side:<22} ground lightness {ground:.2}, {} named colors",
            palette.colors.len()
        );
    }
    Ok(0)
}

/// Puts the palette of a side to use, applies and reloads.
pub fn appearance(mut survey: Survey, side: Option<Side>) -> Outcome {
    let setup = survey.doc.setup();
    let now = setup.palette().variant;
    let wanted = match side {
        Some(Side::Dark) => Variant::Dark,
        Some(Side::Light) => Variant::Light,
        None if now == Variant::Dark => Variant::Light,
        None => Variant::Dark,
    };
    let Some(name) = setup.appearance.side(wanted).map(str::to_owned) else {
        return Err(Failure::Other(format!(
            "the setup has no {} palette; `wealdmist palette counterpart` makes one",
            wanted.key()
        )));
    };
    if name != setup.active {
        survey.doc = survey.doc.with_text(&["palette"], &name)?;
        survey.save()?;
    }
    say!("the {} side, {}", wanted.key(), visible(name.as_bytes()));
    super::write::apply(survey, &crate::cli::Choice { skip: Vec::new() }, true)
}
