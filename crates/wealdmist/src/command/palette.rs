//! Palettes: importing, exporting, making, listing and putting to use.

use std::io::Read;
use std::path::Path;
use std::time::Duration;

use wealdmist_core::color::{Oklch, parse_any};
use wealdmist_core::font::Four;
use wealdmist_core::make::{Cluster, OnGround, Variation, clusters, from_image, from_seeds, vary};
use wealdmist_core::role::Slot;
use wealdmist_core::setup::{Expr, Palette, Setup, SetupDoc, Variant};
use wealdmist_core::text::{counted, visible};
use wealdmist_host::{FontIndex, Picture, Survey, query_colors, read_palettes, write_output};
use wealdmist_tools::exchange::{
    FontUsed, Format, Imported, export as write_palette, format, imports, no_text, text_of,
};

use crate::cli::{ImportFrom, Made, PaletteCommand, Side, Then};
use crate::failure::{Failure, Outcome};
use crate::work::{IMAGE_COLORS, counterpart_of, side_of};

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

pub fn import_palette(mut survey: Survey, from: &ImportFrom) -> Outcome {
    let chosen = known_format(from.format.as_deref())?;
    let all: Vec<(Imported, String)> = if from.terminal {
        let colors = query_colors(PATIENCE).map_err(|e| Failure::Other(e.to_string()))?;
        let found = Imported {
            slots: colors,
            ..Imported::default()
        };
        vec![(found, "terminal".to_owned())]
    } else {
        let Some(path) = &from.file else {
            return Err(Failure::Usage(
                "name a palette file, or - for standard input, or say --terminal".into(),
            ));
        };
        if path == Path::new("-") {
            let mut bytes = Vec::new();
            std::io::stdin().take(4 << 20).read_to_end(&mut bytes)?;
            let text = text_of(&bytes).map_err(|_| {
                let (why, help) = no_text(&bytes);
                Failure::Other(format!("standard input: {why}; {help}"))
            })?;
            let found = imports(chosen, "", &text)
                .map_err(|e| Failure::Other(format!("standard input: {e}")))?;
            let named = |found: Imported| {
                let name = found.name.clone().or_else(|| found.scheme.clone());
                (found, name.unwrap_or_else(|| "pasted".to_owned()))
            };
            found.into_iter().map(named).collect()
        } else {
            let files = read_palettes(&survey.home, path, chosen)
                .map_err(|e| Failure::Other(e.to_string()))?;
            files
                .into_iter()
                .map(|f| (f.found.clone(), f.name()))
                .collect()
        }
    };
    if from.list {
        for (found, name) in &all {
            let scheme = found.scheme.as_ref().unwrap_or(name);
            say!(
                "{}: {}",
                visible(scheme.as_bytes()),
                counted(found.slots.len(), "slot")
            );
        }
        return Ok(0);
    }
    let (found, title) = picked(all, from)?;
    let name = match &from.name {
        Some(name) => name.clone(),
        None => survey.doc.free_palette_name(&title).to_string(),
    };
    report(&found, &name, from.roles)?;
    if from.dry_run {
        return Ok(0);
    }
    let mut doc = found.taken_into(&survey.doc, &name)?;
    if from.roles {
        for (role, color) in &found.roles {
            doc = doc.with_role(role, &Expr::Value(*color))?;
        }
    }
    if from.r#use {
        doc = doc.with_text(&["palette"], &name)?;
    }
    if let Some(font) = &found.font {
        doc = with_font(&survey, doc, font, from.font)?;
    }
    survey.doc = doc;
    survey.save()?;
    say!("the setup has the palette '{name}' now");
    if !from.r#use {
        say!("`wealdmist palette use '{name}'` puts it to use");
    }
    Ok(0)
}

/// The scheme that is asked for; where there are several, one has to be.
fn picked(all: Vec<(Imported, String)>, from: &ImportFrom) -> Result<(Imported, String), Failure> {
    let scheme = from.scheme.as_deref();
    let file = from.file.as_deref().map(|f| f.to_string_lossy());
    let file = visible(file.unwrap_or("this terminal".into()).as_bytes());
    let of = |one: &(Imported, String)| one.0.scheme.clone().unwrap_or_else(|| one.1.clone());
    let names: Vec<String> = all.iter().map(of).collect();
    let shown = || visible(names.join(", ").as_bytes());
    let at = match scheme {
        None if all.len() > 1 => {
            return Err(Failure::Other(format!(
                "{file} holds several schemes: {}; say which with --scheme",
                shown()
            )));
        }
        None => Some(0),
        Some(wanted) => names.iter().position(|n| n.eq_ignore_ascii_case(wanted)),
    };
    let found = at.and_then(|at| all.into_iter().nth(at));
    found.ok_or_else(|| {
        let wanted = visible(scheme.unwrap_or_default().as_bytes());
        Failure::Other(format!(
            "{file} holds no scheme '{wanted}'; there is {}",
            shown()
        ))
    })
}

/// The setup with the font that a file names, where that is wanted.
fn with_font(
    survey: &Survey,
    doc: SetupDoc,
    font: &FontUsed,
    wanted: bool,
) -> Result<SetupDoc, Failure> {
    let face = visible(font.face.as_bytes());
    let catalog = FontIndex::open(&survey.home).catalog();
    let Some((entry, _)) = catalog.find(&font.face) else {
        say!("its font {face} {} is not installed here", font.size);
        return Ok(doc);
    };
    let family = entry.info.family();
    let shown = visible(family.as_bytes());
    if !wanted {
        say!("its font {shown} {} is not taken: --font does", font.size);
        return Ok(doc);
    }
    say!("font {shown} {}", font.size);
    let doc = doc.with_text(&["font", "family"], family)?;
    Ok(doc.with_number(&["font", "size"], font.size)?)
}

/// The font of the setup as a file of another terminal names it: by its face.
fn font_used(survey: &Survey) -> Option<FontUsed> {
    let font = &survey.doc.setup().font;
    let family = font.family.as_deref()?;
    let catalog = FontIndex::open(&survey.home).catalog();
    let regular = catalog.styled(family, Four::Regular);
    let entry = regular.or_else(|| catalog.find(family).map(|(entry, _)| entry))?;
    Some(FontUsed {
        face: entry.info.postscript.clone()?,
        size: font.size?,
    })
}

/// Says what was found and what could not be mapped.
fn report(found: &Imported, name: &str, roles: bool) -> Result<(), Failure> {
    let shown = visible(name.as_bytes());
    say!(
        "{shown}: {}, {}",
        counted(found.slots.len(), "slot"),
        counted(found.colors.len(), "further color")
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
    let font = match format.holds_font {
        true => font_used(survey),
        false => None,
    };
    let written = write_palette(format, palette, &setup.name, font.as_ref());
    if let (true, None, Some(family)) = (format.holds_font, &font, &setup.font.family) {
        let family = visible(family.as_bytes());
        warn!(
            "wealdmist: without a font: it needs a size, and a face of {family} that is installed"
        );
    }
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
    setup.palette_named(&name.into()).ok_or_else(|| {
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
            super::change::set(survey, "palette", name, Then::default())
        }
        PaletteCommand::Image {
            file,
            side,
            tinted,
            made,
        } => {
            let picture = Picture::open(file)?;
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
                from_image(&setup, &name.into(), &found, ground(*side, *tinted, &setup))
            })
        }
        PaletteCommand::Seeds {
            seeds,
            side,
            tinted,
            made,
        } => {
            let read = |text: &String| {
                parse_any(text).ok_or_else(|| {
                    Failure::Usage(format!(
                        "'{text}' is not a color; write #rrggbb, or any notation of CSS"
                    ))
                })
            };
            let seeds = seeds.iter().map(read).collect::<Result<Vec<_>, _>>()?;
            keep(survey, made, "seeded", |name| {
                from_seeds(&setup, &name.into(), &seeds, ground(*side, *tinted, &setup))
            })
        }
        PaletteCommand::Counterpart { of, made } => {
            let from = named_palette(&setup, of.as_deref())?.clone();
            let (wanted, make) = counterpart_of(&setup, &from);
            keep(survey, made, &wanted, make)
        }
        PaletteCommand::Vary { mood, of, made } => {
            let from = named_palette(&setup, of.as_deref())?.clone();
            let mood: Variation = (*mood).into();
            let wanted = format!("{} {}", from.name, mood.label());
            keep(survey, made, &wanted, |name| {
                vary(&setup, &from, mood, &name.into())
            })
        }
    }
}

fn ground(side: Option<Side>, tinted: bool, setup: &Setup) -> OnGround {
    let variant = match side {
        Some(Side::Dark) => Variant::Dark,
        Some(Side::Light) => Variant::Light,
        None => setup.palette().variant,
    };
    OnGround { variant, tinted }
}

fn keep(mut survey: Survey, made: &Made, wanted: &str, make: impl Fn(&str) -> Palette) -> Outcome {
    let name = match &made.name {
        Some(name) => name.clone(),
        None => survey.doc.free_palette_name(wanted).to_string(),
    };
    let before = survey.doc.setup().active.clone();
    let doc = survey.doc.with_palette_in_use(&make(&name))?;
    let mut doc = survey.readable(&doc);
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
            "{sign} {name:<24} {side:<22} ground lightness {ground:.2}, {}",
            counted(palette.colors.len(), "named color")
        );
    }
    Ok(0)
}

/// Puts the palette of a side to use, applies and reloads.
pub fn appearance(mut survey: Survey, side: Option<Side>) -> Outcome {
    let wanted = match side {
        Some(Side::Dark) => Variant::Dark,
        Some(Side::Light) => Variant::Light,
        None => survey.doc.setup().palette().variant.other(),
    };
    let Some(doc) = side_of(&survey.doc, wanted)? else {
        return Err(Failure::Other(format!(
            "the setup has no {} palette; `wealdmist palette counterpart` makes one",
            wanted.key()
        )));
    };
    if doc.text() != survey.doc.text() {
        survey.doc = doc;
        survey.save()?;
    }
    let name = survey.doc.setup().active.clone();
    say!("the {} side, {}", wanted.key(), visible(name.as_bytes()));
    super::write::apply(survey, &crate::cli::Choice::default(), false, true)
}
