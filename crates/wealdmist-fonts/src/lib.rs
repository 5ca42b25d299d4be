//! Makes the small font files of the sample home, with the faults people meet: icons missing, icons at
//! the places they had in older releases, icons wider than their cell, separators that leave a
//! seam. One family has bold and italic faces, ligatures and a stylistic set.
//!
//! The program itself carries the files as they were made; `cargo run -p wealdmist-fonts` makes them
//! anew, and a test compares them. So nothing that writes fonts has to be built to use the program.
//!
//! ```
//! let bytes = wealdmist_fonts::named("Sluice Mono", "Regular", "SluiceMono-Regular");
//! assert_eq!(&bytes[..4], [0, 1, 0, 0]);
//! ```

mod letters;

use kurbo::{Affine, BezPath};
use write_fonts::FontBuilder;
use write_fonts::tables::cmap::Cmap;
use write_fonts::tables::fvar::{AxisInstanceArrays, Fvar, InstanceRecord, VariationAxisRecord};
use write_fonts::tables::glyf::{GlyfLocaBuilder, Glyph, SimpleGlyph};
use write_fonts::tables::gsub::builders::{LigatureSubBuilder, SingleSubBuilder};
use write_fonts::tables::gsub::{Gsub, SubstitutionLookup, SubstitutionLookupList};
use write_fonts::tables::head::{Head, MacStyle};
use write_fonts::tables::hhea::Hhea;
use write_fonts::tables::hmtx::{Hmtx, LongMetric};
use write_fonts::tables::layout::builders::Builder;
use write_fonts::tables::layout::{
    Feature, FeatureList, FeatureParams, FeatureRecord, LangSys, Lookup, LookupFlag, Script,
    ScriptList, ScriptRecord, StylisticSetParams,
};
use write_fonts::tables::loca::LocaFormat;
use write_fonts::tables::maxp::Maxp;
use write_fonts::tables::name::{Name, NameRecord};
use write_fonts::tables::os2::{Os2, SelectionFlags};
use write_fonts::tables::post::Post;
use write_fonts::tables::variations::ivs_builder::VariationStoreBuilder;
use write_fonts::types::{Fixed, GlyphId, GlyphId16, NameId, Tag};

use letters::Hand;

/// Font units per em.
const EM: u16 = 1000;
/// The width of a cell in font units.
const CELL: u16 = 600;
/// The name of the stylistic set.
const SET_NAME: NameId = NameId::new(256);
/// The name of the axis of weight, and of a place on it.
const AXIS_NAME: NameId = NameId::new(257);
const HEAVY_NAME: NameId = NameId::new(258);
/// Sequences drawn as one.
const LIGATURES: [(&str, &str); 4] = [
    ("->", "arrow"),
    ("=>", "double arrow"),
    ("!=", "unequal"),
    ("==", "equal"),
];

struct Recipe<'a> {
    family: &'a str,
    postscript: &'a str,
    style: &'a str,
    icons: Vec<char>,
    icon_width: f64,
    hand: Hand,
    bold: bool,
    italic: bool,
    ligatures: bool,
    variable: bool,
    /// How far separators stop short of each edge of their cell.
    short: f64,
    /// Whether every sign and icon looks like the letter o.
    alike: bool,
    /// What stands at the places of icons instead of them.
    pretends: Option<Pretends>,
}

/// What a font may have at the places of icons that are none.
#[derive(Clone, Copy, PartialEq)]
enum Pretends {
    Blank,
    Boxes,
    One,
}

impl<'a> Recipe<'a> {
    const fn new(family: &'a str, postscript: &'a str, icons: Vec<char>) -> Self {
        Self {
            family,
            postscript,
            style: "Regular",
            icons,
            icon_width: 520.0,
            hand: Hand::Strokes(1.0),
            bold: false,
            italic: false,
            ligatures: false,
            variable: false,
            short: 0.0,
            alike: false,
            pretends: None,
        }
    }
}

fn reedbed<'a>(style: &'a str, postscript: &'a str) -> Recipe<'a> {
    let mut recipe = Recipe::new("Reedbed Mono NF", postscript, present_icons());
    recipe.style = style;
    recipe.bold = style.starts_with("Bold");
    recipe.italic = style.ends_with("Italic");
    recipe.hand = Hand::Strokes(if recipe.bold { 1.5 } else { 1.0 });
    recipe.ligatures = true;
    recipe
}

/// *Reedbed Mono NF*: letters, signs, ligatures, and icons at their present places.
#[must_use]
pub fn complete() -> Vec<u8> {
    build(&reedbed("Regular", "ReedbedMonoNF-Regular"))
}

/// Its bold face.
#[must_use]
pub fn bold() -> Vec<u8> {
    build(&reedbed("Bold", "ReedbedMonoNF-Bold"))
}

/// Its italic face.
#[must_use]
pub fn italic() -> Vec<u8> {
    build(&reedbed("Italic", "ReedbedMonoNF-Italic"))
}

/// *Reedbed Mono*: the same without any icon.
#[must_use]
pub fn without_icons() -> Vec<u8> {
    build(&Recipe::new(
        "Reedbed Mono",
        "ReedbedMono-Regular",
        Vec::new(),
    ))
}

/// *Sedge Mono NF*: icons at the places of an older release.
#[must_use]
pub fn icons_at_old_places() -> Vec<u8> {
    let icons = ('\u{f500}'..='\u{f5ff}')
        .chain('\u{e0a0}'..='\u{e0a3}')
        .collect();
    let mut recipe = Recipe::new("Sedge Mono NF", "SedgeMonoNF-Regular", icons);
    recipe.hand = Hand::Dots;
    build(&recipe)
}

/// *Cordgrass NF*: icons whose ink is wider than their cell.
#[must_use]
pub fn wide_icons() -> Vec<u8> {
    let mut recipe = Recipe::new("Cordgrass NF", "CordgrassNF-Regular", present_icons());
    recipe.icon_width = 1050.0;
    recipe.hand = Hand::Strokes(0.8);
    build(&recipe)
}

/// *Bulrush NF*: separators that stop short of the edges of their cell.
#[must_use]
pub fn short_separators() -> Vec<u8> {
    let mut recipe = Recipe::new("Bulrush NF", "BulrushNF-Regular", present_icons());
    recipe.short = 40.0;
    recipe.hand = Hand::Strokes(1.2);
    build(&recipe)
}

/// *Cattail VF*: a weight axis with two named places; for tests of how such files are read.
#[must_use]
pub fn variable() -> Vec<u8> {
    let mut recipe = Recipe::new("Cattail VF", "CattailVF-Regular", Vec::new());
    recipe.variable = true;
    build(&recipe)
}

/// *Reedbed Mono NF* under other names; for tests of what a font file may say of itself.
#[must_use]
pub fn named(family: &str, style: &str, postscript: &str) -> Vec<u8> {
    let mut recipe = reedbed("Regular", postscript);
    (recipe.family, recipe.style) = (family, style);
    build(&recipe)
}

/// A font in which every one of these signs looks like the letter o: where a terminal shows something
/// else, it draws the sign itself.
#[must_use]
pub fn alike(family: &str, signs: &[char]) -> Vec<u8> {
    let mut icons = signs.to_vec();
    icons.retain(|c| !text_characters().contains(c));
    let mut recipe = Recipe::new(family, "Alike", icons);
    recipe.alike = true;
    build(&recipe)
}

/// A font whose map names all these signs and draws nothing for them; for tests.
#[must_use]
pub fn blank(family: &str, signs: &[char]) -> Vec<u8> {
    pretending(family, signs, Pretends::Blank)
}

/// A font that has a box for each of these signs, with a number in it; for tests.
#[must_use]
pub fn boxes(family: &str, signs: &[char]) -> Vec<u8> {
    pretending(family, signs, Pretends::Boxes)
}

/// A font that has one drawing for all of these signs; for tests.
#[must_use]
pub fn last_resort(family: &str, signs: &[char]) -> Vec<u8> {
    pretending(family, signs, Pretends::One)
}

fn pretending(family: &str, signs: &[char], how: Pretends) -> Vec<u8> {
    let mut recipe = Recipe::new(family, "Pretending", signs.to_vec());
    recipe.pretends = Some(how);
    build(&recipe)
}

/// All of them but the last six, with their names, in the order in which the program carries them.
#[must_use]
pub fn all() -> Vec<(&'static str, Vec<u8>)> {
    vec![
        ("complete", complete()),
        ("bold", bold()),
        ("italic", italic()),
        ("without_icons", without_icons()),
        ("icons_at_old_places", icons_at_old_places()),
        ("wide_icons", wide_icons()),
        ("short_separators", short_separators()),
        ("variable", variable()),
    ]
}

/// The files in one: the length of each, four bytes, the lowest first, before it; compressed.
#[must_use]
pub fn packed() -> Vec<u8> {
    let mut plain = Vec::new();
    for (_, bytes) in all() {
        plain.extend((bytes.len() as u32).to_le_bytes());
        plain.extend(bytes);
    }
    miniz_oxide::deflate::compress_to_vec_zlib(&plain, 10)
}

/// Whether a character is for private use, where icons have their places.
const fn is_private_use(c: char) -> bool {
    matches!(c, '\u{e000}'..='\u{f8ff}' | '\u{f0000}'..='\u{ffffd}' | '\u{100000}'..='\u{10fffd}')
}

fn present_icons() -> Vec<char> {
    let ranges = [
        '\u{e0a0}'..='\u{e0d4}',
        '\u{e5fa}'..='\u{e5ff}',
        '\u{e700}'..='\u{e7c5}',
        '\u{f000}'..='\u{f2e0}',
        '\u{f400}'..='\u{f4a8}',
        '\u{f0001}'..='\u{f0160}',
        '\u{f0241}'..='\u{f024b}',
        '\u{f02ca}'..='\u{f02dc}',
        '\u{f033e}'..='\u{f034a}',
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
        .chain("↳⊘↯›‹€≠≤≥∞⌂ıŠšžłğŒ".chars())
        .collect()
}

fn drawing(recipe: &Recipe<'_>, c: char) -> BezPath {
    if recipe.alike && c >= '\u{23ba}' {
        return letters::outline('o', recipe.hand);
    }
    let icon = is_private_use(c);
    match recipe.pretends.filter(|_| icon) {
        Some(Pretends::Blank) => return BezPath::new(),
        Some(Pretends::One) => return letters::boxed('\u{f000}'),
        Some(Pretends::Boxes) => return letters::boxed(c),
        None => {}
    }
    let mut path = match letters::separator(c, recipe.short) {
        Some(path) => return path,
        None if icon => letters::icon(c, recipe.icon_width),
        None => letters::outline(c, recipe.hand),
    };
    if recipe.italic && !icon && !matches!(c, '─'..='▟') {
        path.apply_affine(Affine::new([1.0, 0.0, 0.2, 1.0, -60.0, 0.0]));
    }
    path
}

/// A sequence drawn as one, two cells wide.
fn ligature(name: &str) -> BezPath {
    let mut path = BezPath::new();
    let mut bar = |x0: f64, y0: f64, x1: f64, y1: f64| {
        use kurbo::Shape;
        path.extend(kurbo::Rect::new(x0, y0, x1, y1).path_elements(0.1));
    };
    let rows: &[f64] = if name == "arrow" {
        &[300.0]
    } else {
        &[200.0, 400.0]
    };
    for y in rows {
        bar(100.0, *y, 1060.0, y + 90.0);
    }
    match name {
        "unequal" => bar(540.0, 50.0, 640.0, 650.0),
        "arrow" | "double arrow" => {
            path.move_to((850.0, 650.0));
            path.line_to((1130.0, 345.0));
            path.line_to((850.0, 40.0));
            path.line_to((960.0, 345.0));
            path.close_path();
        }
        _ => {}
    }
    path
}

fn build(recipe: &Recipe<'_>) -> Vec<u8> {
    try_build(recipe).unwrap_or_default()
}

fn try_build(recipe: &Recipe<'_>) -> Option<Vec<u8>> {
    let characters: Vec<char> = text_characters()
        .into_iter()
        .chain(recipe.icons.iter().copied())
        .collect();
    let mut outlines = GlyfLocaBuilder::new();
    let mut metrics = Vec::new();
    let mut mappings = Vec::new();
    let mut add = |path: &BezPath, width: u16| -> Option<u32> {
        let bearing = if path.elements().is_empty() {
            outlines.add_glyph(&Glyph::Empty).ok()?;
            0
        } else {
            let glyph = SimpleGlyph::from_bezpath(path).ok()?;
            outlines.add_glyph(&glyph).ok()?;
            glyph.bbox.x_min
        };
        metrics.push(LongMetric::new(width, bearing));
        Some(metrics.len() as u32 - 1)
    };
    add(&letters::letter("vhhhhhv", Hand::Strokes(0.6)), CELL)?;
    let mut one = None;
    for c in characters {
        if let (Some(Pretends::One), true) = (recipe.pretends, is_private_use(c)) {
            let glyph = match one {
                Some(glyph) => glyph,
                None => add(&drawing(recipe, c), CELL)?,
            };
            one = Some(glyph);
            mappings.push((c, GlyphId::new(glyph)));
            continue;
        }
        let path = if c.is_whitespace() {
            BezPath::new()
        } else {
            drawing(recipe, c)
        };
        mappings.push((c, GlyphId::new(add(&path, CELL)?)));
    }
    let nought = add(&letters::letter(letters::OPEN_NOUGHT, recipe.hand), CELL)?;
    let joined: Vec<u32> = LIGATURES
        .iter()
        .map(|(_, name)| add(&ligature(name), 2 * CELL))
        .collect::<Option<_>>()?;
    let gsub = recipe
        .ligatures
        .then(|| substitutions(&mappings, nought, &joined));
    let count = metrics.len() as u16;
    let (glyf, loca, format) = outlines.build();
    let (mut mac_style, mut fs_selection) = (MacStyle::empty(), SelectionFlags::empty());
    if recipe.bold {
        mac_style.insert(MacStyle::BOLD);
        fs_selection.insert(SelectionFlags::BOLD);
    }
    if recipe.italic {
        mac_style.insert(MacStyle::ITALIC);
        fs_selection.insert(SelectionFlags::ITALIC);
    }
    if !recipe.bold && !recipe.italic {
        fs_selection.insert(SelectionFlags::REGULAR);
    }
    let head = Head {
        units_per_em: EM,
        x_max: CELL as i16,
        y_min: -200,
        y_max: 800,
        lowest_rec_ppem: 8,
        mac_style,
        index_to_loc_format: i16::from(matches!(format, LocaFormat::Long)),
        ..Head::default()
    };
    let hhea = Hhea {
        ascender: 800.into(),
        descender: (-200).into(),
        advance_width_max: (2 * CELL).into(),
        number_of_h_metrics: count,
        ..Hhea::default()
    };
    let os2 = Os2 {
        x_avg_char_width: CELL as i16,
        s_typo_ascender: 800,
        s_typo_descender: -200,
        us_win_ascent: 800,
        us_win_descent: 200,
        us_weight_class: if recipe.bold { 700 } else { 400 },
        us_width_class: 5,
        fs_selection,
        ach_vend_id: Tag::new(b"NONE"),
        us_first_char_index: 0x20,
        us_last_char_index: 0xffff,
        ..Os2::default()
    };
    let maxp = Maxp {
        num_glyphs: count,
        max_points: Some(400),
        max_contours: Some(80),
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
        italic_angle: Fixed::from_f64(if recipe.italic { -11.3 } else { 0.0 }),
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
    if let Some(gsub) = &gsub {
        builder.add_table(gsub).ok()?;
    }
    if recipe.variable {
        builder.add_table(&axes()).ok()?;
    }
    builder.add_table(&loca).ok()?;
    builder.add_table(&glyf).ok()?;
    Some(builder.build())
}

/// An axis of weight.
fn axes() -> Fvar {
    let weight = |n: f64| Fixed::from_f64(n);
    let tag = Tag::new(b"wght");
    let axis = VariationAxisRecord::new(
        tag,
        weight(300.0),
        weight(400.0),
        weight(800.0),
        0,
        AXIS_NAME,
    );
    let place = |name: NameId, at: f64| InstanceRecord {
        subfamily_name_id: name,
        coordinates: vec![weight(at)],
        ..InstanceRecord::default()
    };
    let places = vec![
        place(NameId::SUBFAMILY_NAME, 400.0),
        place(HEAVY_NAME, 800.0),
    ];
    Fvar::new(AxisInstanceArrays::new(vec![axis], places))
}

/// The ligatures, and the stylistic set with the open nought.
fn substitutions(mappings: &[(char, GlyphId)], nought: u32, joined: &[u32]) -> Gsub {
    let small = |id: u32| GlyphId16::new(id as u16);
    let glyph = |c: char| {
        let found = mappings.iter().find(|(m, _)| *m == c);
        small(found.map_or(0, |(_, id)| id.to_u32()))
    };
    let mut ligatures = LigatureSubBuilder::default();
    for ((text, _), id) in LIGATURES.iter().zip(joined) {
        ligatures.insert(text.chars().map(glyph).collect(), small(*id));
    }
    let mut set = SingleSubBuilder::default();
    set.insert(glyph('0'), small(nought));
    let mut store = VariationStoreBuilder::new(0);
    let plain = LookupFlag::empty();
    let lookups = vec![
        SubstitutionLookup::Ligature(Lookup::new(
            plain,
            ligatures
                .build(&mut store)
                .into_iter()
                .map(Into::into)
                .collect(),
        )),
        SubstitutionLookup::Single(Lookup::new(plain, set.build(&mut store))),
    ];
    let named = FeatureParams::StylisticSet(StylisticSetParams::new(SET_NAME));
    let features = vec![
        FeatureRecord::new(Tag::new(b"liga"), Feature::new(None, vec![0])),
        FeatureRecord::new(Tag::new(b"ss01"), Feature::new(Some(named), vec![1])),
    ];
    let script = |tag: &[u8; 4]| {
        ScriptRecord::new(
            Tag::new(tag),
            Script::new(Some(LangSys::new(vec![0, 1])), Vec::new()),
        )
    };
    Gsub::new(
        ScriptList::new(vec![script(b"DFLT"), script(b"latn")]),
        FeatureList::new(features),
        SubstitutionLookupList::new(lookups),
    )
}

fn names(recipe: &Recipe<'_>) -> Name {
    let full = format!("{} {}", recipe.family, recipe.style);
    let entries = [
        (
            NameId::COPYRIGHT_NOTICE,
            "Made for the sample home of Wealdmist",
        ),
        (NameId::FAMILY_NAME, recipe.family),
        (NameId::SUBFAMILY_NAME, recipe.style),
        (NameId::UNIQUE_ID, recipe.postscript),
        (NameId::FULL_NAME, &full),
        (NameId::VERSION_STRING, "Version 1.000"),
        (NameId::POSTSCRIPT_NAME, recipe.postscript),
        (NameId::LICENSE_DESCRIPTION, "As Wealdmist itself: MIT"),
        (SET_NAME, "Open nought"),
        (AXIS_NAME, "Weight"),
        (HEAVY_NAME, "Heavy"),
    ];
    // Windows, Unicode BMP, English: the record every system reads.
    let record =
        |(id, text): (NameId, &str)| NameRecord::new(3, 1, 0x409, id, text.to_owned().into());
    Name::new(entries.into_iter().map(record).collect())
}
