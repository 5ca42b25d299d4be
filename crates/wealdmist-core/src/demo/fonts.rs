//! Small font files made by our own code, with the faults people meet: icons missing, icons at
//! the places they had in older releases, icons wider than their cell.

use write_fonts::FontBuilder;
use write_fonts::tables::cmap::Cmap;
use write_fonts::tables::glyf::{GlyfLocaBuilder, Glyph, SimpleGlyph};
use write_fonts::tables::head::Head;
use write_fonts::tables::hhea::Hhea;
use write_fonts::tables::hmtx::{Hmtx, LongMetric};
use write_fonts::tables::loca::LocaFormat;
use write_fonts::tables::maxp::Maxp;
use write_fonts::tables::name::{Name, NameRecord};
use write_fonts::tables::os2::Os2;
use write_fonts::tables::post::Post;
use write_fonts::types::{GlyphId, NameId, Tag};

use kurbo::{BezPath, Rect, Shape};

/// Font units per em.
const EM: u16 = 1000;
/// The width of a cell in font units.
const CELL: u16 = 600;

struct Recipe {
    family: &'static str,
    postscript: &'static str,
    icons: Vec<char>,
    icon_width: f64,
}

/// *Reedbed Mono NF*: letters, signs and icons at their present places.
#[must_use]
pub fn complete() -> Vec<u8> {
    build(&Recipe {
        family: "Reedbed Mono NF",
        postscript: "ReedbedMonoNF-Regular",
        icons: present_icons(),
        icon_width: 520.0,
    })
}

/// *Reedbed Mono*: the same without any icon.
#[must_use]
pub fn without_icons() -> Vec<u8> {
    build(&Recipe {
        family: "Reedbed Mono",
        postscript: "ReedbedMono-Regular",
        icons: Vec::new(),
        icon_width: 520.0,
    })
}

/// *Sedge Mono NF*: icons at the places of an older release.
#[must_use]
pub fn icons_at_old_places() -> Vec<u8> {
    build(&Recipe {
        family: "Sedge Mono NF",
        postscript: "SedgeMonoNF-Regular",
        icons: ('\u{f500}'..='\u{f5ff}')
            .chain('\u{e0a0}'..='\u{e0a3}')
            .collect(),
        icon_width: 520.0,
    })
}

/// *Cordgrass NF*: icons whose ink is wider than their cell.
#[must_use]
pub fn wide_icons() -> Vec<u8> {
    build(&Recipe {
        family: "Cordgrass NF",
        postscript: "CordgrassNF-Regular",
        icons: present_icons(),
        icon_width: 1050.0,
    })
}

fn present_icons() -> Vec<char> {
    let ranges = [
        '\u{e0a0}'..='\u{e0d4}',
        '\u{e5fa}'..='\u{e5fe}',
        '\u{e700}'..='\u{e7c5}',
        '\u{f000}'..='\u{f2e0}',
        '\u{f400}'..='\u{f4a8}',
        '\u{f0001}'..='\u{f0100}',
    ];
    ranges.into_iter().flatten().collect()
}

/// Letters and the signs an ordinary monospace font has.
fn text_characters() -> Vec<char> {
    let ranges = [
        ' '..='~',
        '\u{a0}'..='ÿ',
        '‐'..='…',
        '←'..='↕',
        '─'..='╿',
        '▀'..='▟',
        '■'..='◿',
        '✓'..='✘',
    ];
    ranges
        .into_iter()
        .flatten()
        .chain(['↳', '⊘', '↯', '›', '‹'])
        .collect()
}

/// A stand-in drawing: a frame with bars that differ from character to character.
fn drawing(c: char, width: f64) -> BezPath {
    let mut path = BezPath::new();
    let mut bar = |x0: f64, y0: f64, x1: f64, y1: f64| {
        path.extend(Rect::new(x0, y0, x1, y1).path_elements(0.1));
    };
    let left = (f64::from(CELL) - width) / 2.0;
    let step = width / 5.0;
    let bits = (c as u32).wrapping_mul(2_654_435_761) >> 7;
    bar(left, 0.0, left + step, 700.0);
    for row in 0..5u32 {
        let y = f64::from(row) * 140.0;
        let long = f64::from(bits >> (row * 3) & 3) + 1.0;
        bar(left + step, y, left + step + step * long, y + 70.0);
    }
    path
}

fn build(recipe: &Recipe) -> Vec<u8> {
    try_build(recipe).unwrap_or_default()
}

fn try_build(recipe: &Recipe) -> Option<Vec<u8>> {
    let text = text_characters();
    let characters: Vec<(char, f64)> = text
        .iter()
        .map(|c| (*c, 480.0))
        .chain(recipe.icons.iter().map(|c| (*c, recipe.icon_width)))
        .collect();
    let mut outlines = GlyfLocaBuilder::new();
    let mut metrics = Vec::new();
    let mut mappings = Vec::new();
    let notdef = Rect::new(80.0, 0.0, 520.0, 700.0).to_path(0.1);
    outlines
        .add_glyph(&SimpleGlyph::from_bezpath(&notdef).ok()?)
        .ok()?;
    metrics.push(LongMetric::new(CELL, 80));
    for (i, (c, width)) in characters.iter().enumerate() {
        if c.is_whitespace() {
            outlines.add_glyph(&Glyph::Empty).ok()?;
            metrics.push(LongMetric::new(CELL, 0));
        } else {
            let glyph = SimpleGlyph::from_bezpath(&drawing(*c, *width)).ok()?;
            metrics.push(LongMetric::new(CELL, glyph.bbox.x_min));
            outlines.add_glyph(&glyph).ok()?;
        }
        mappings.push((*c, GlyphId::new(i as u32 + 1)));
    }
    let count = metrics.len() as u16;
    let (glyf, loca, format) = outlines.build();
    let head = Head {
        units_per_em: EM,
        x_max: CELL as i16,
        y_min: -200,
        y_max: 800,
        lowest_rec_ppem: 8,
        index_to_loc_format: i16::from(matches!(format, LocaFormat::Long)),
        ..Head::default()
    };
    let hhea = Hhea {
        ascender: 800.into(),
        descender: (-200).into(),
        advance_width_max: CELL.into(),
        number_of_h_metrics: count,
        ..Hhea::default()
    };
    let os2 = Os2 {
        x_avg_char_width: CELL as i16,
        s_typo_ascender: 800,
        s_typo_descender: -200,
        us_win_ascent: 800,
        us_win_descent: 200,
        ach_vend_id: Tag::new(b"NONE"),
        us_first_char_index: 0x20,
        us_last_char_index: 0xffff,
        ..Os2::default()
    };
    let maxp = Maxp {
        num_glyphs: count,
        max_points: Some(64),
        max_contours: Some(16),
        max_composite_points: Some(0),
        max_composite_contours: Some(0),
        max_zones: Some(1),
        max_twilight_points: Some(0),
        max_storage: Some(0),
        max_function_defs: Some(0),
        max_instruction_defs: Some(0),
        max_stack_elements: Some(0),
        max_size_of_instructions: Some(0),
        max_component_elements: Some(0),
        max_component_depth: Some(0),
    };
    let post = Post {
        is_fixed_pitch: 1,
        ..Post::default()
    };
    let mut builder = FontBuilder::new();
    builder.add_table(&head).ok()?;
    builder.add_table(&hhea).ok()?;
    builder.add_table(&maxp).ok()?;
    builder.add_table(&os2).ok()?;
    builder.add_table(&Hmtx::new(metrics, Vec::new())).ok()?;
    builder
        .add_table(&Cmap::from_mappings(mappings).ok()?)
        .ok()?;
    builder.add_table(&names(recipe)).ok()?;
    builder.add_table(&post).ok()?;
    builder.add_table(&loca).ok()?;
    builder.add_table(&glyf).ok()?;
    Some(builder.build())
}

fn names(recipe: &Recipe) -> Name {
    let full = format!("{} Regular", recipe.family);
    let entries = [
        (NameId::FAMILY_NAME, recipe.family),
        (NameId::SUBFAMILY_NAME, "Regular"),
        (NameId::UNIQUE_ID, recipe.postscript),
        (NameId::FULL_NAME, &full),
        (NameId::VERSION_STRING, "Version 1.000"),
        (NameId::POSTSCRIPT_NAME, recipe.postscript),
    ];
    // Windows, Unicode BMP, English: the record every system reads.
    let record =
        |(id, text): (NameId, &str)| NameRecord::new(3, 1, 0x409, id, text.to_owned().into());
    Name::new(entries.into_iter().map(record).collect())
}
