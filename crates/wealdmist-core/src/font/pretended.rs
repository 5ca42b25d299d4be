//! Icons that a face only seems to have: its map names them, and what is drawn is nothing, a box, or something else.
//!
//! Private-use code points are whatever a font makes of them. Some fonts draw a box with the number of each, some have
//! letters of their own there, some name thousands and draw none. Three things tell:
//!
//! - a glyph without ink, where the font has no colored drawings either;
//! - one glyph for many code points: a last resort that stands for whatever is asked;
//! - icons of a shape that nothing else has. A minus, a dash or three dots are much wider than high, or much higher than wide;
//!   a font in which most of those it has are not has something else at these places, and so at the others.

use std::collections::HashMap;
use std::sync::LazyLock;

use skrifa::instance::{LocationRef, Size};
use skrifa::outline::pen::ControlBoundsPen;
use skrifa::outline::{DrawSettings, OutlineGlyphCollection};
use skrifa::{FontRef, GlyphId, MetadataProvider, Tag};

use crate::character::is_private_use;
use crate::icon;

/// More code points than this in one glyph stand for whatever is asked.
const SHARED: usize = 16;
/// By how much a shape that tells is longer than it is broad.
const LONG: f32 = 2.0;

/// The tables that hold what is drawn.
const SHAPES: [&[u8; 4]; 6] = [b"glyf", b"CFF ", b"CFF2", b"CBDT", b"sbix", b"SVG "];
/// Those of them, and those beside them, that hold colored drawings.
const COLORED: [&[u8; 4]; 4] = [b"CBDT", b"sbix", b"SVG ", b"COLR"];

/// Whether a table of this tag holds what is drawn at any size.
#[must_use]
pub fn holds_shapes(tag: &[u8]) -> bool {
    SHAPES.iter().any(|shapes| shapes[..] == *tag)
}

/// How the name of an icon ends that is much wider than high, or much higher than wide.
const WIDE: [&str; 8] = [
    "minus",
    "minus_thick",
    "ellipsis",
    "dash",
    "horizontal_rule",
    "dots_horizontal",
    "kebab_horizontal",
    "window_minimize",
];
const HIGH: [&str; 3] = ["ellipsis_vertical", "dots_vertical", "kebab_vertical"];

/// The icons whose shape tells, and whether each is wide.
fn telling() -> &'static HashMap<char, bool> {
    static ALL: LazyLock<HashMap<char, bool>> = LazyLock::new(|| {
        let named = icon::present().filter_map(|icon| {
            let (_, name) = icon.name.split_once('-')?;
            match (WIDE.contains(&name), HIGH.contains(&name)) {
                (true, _) => Some((icon.code, true)),
                (_, true) => Some((icon.code, false)),
                _ => None,
            }
        });
        named.collect()
    });
    &ALL
}

/// Whether a face has anything to draw its glyphs from at any size.
pub(super) fn has_shapes(font: &FontRef) -> bool {
    SHAPES
        .iter()
        .any(|tag| font.table_data(Tag::new(tag)).is_some())
}

/// The code points of a map without the icons that the face only seems to have.
pub(super) fn without_pretended(font: &FontRef, map: &[(u32, GlyphId)]) -> Vec<u32> {
    let private = |point: u32| char::from_u32(point).is_some_and(is_private_use);
    let mut uses: HashMap<GlyphId, usize> = HashMap::new();
    for (_, glyph) in map.iter().filter(|(point, _)| private(*point)) {
        *uses.entry(*glyph).or_default() += 1;
    }
    let all = || map.iter().map(|(point, _)| *point);
    if uses.is_empty() {
        return all().collect();
    }
    let colored = COLORED
        .iter()
        .any(|tag| font.table_data(Tag::new(tag)).is_some());
    let outlines = font.outline_glyphs();
    let told = map.iter().filter_map(|(point, glyph)| {
        let wide = telling().get(&char::from_u32(*point)?)?;
        let (width, height) = extent(&outlines, *glyph)?;
        Some(match wide {
            true => width > LONG * height,
            false => height > LONG * width,
        })
    });
    let (right, wrong): (Vec<bool>, Vec<bool>) = told.partition(|right| *right);
    if right.len() < wrong.len() {
        return all().filter(|point| !private(*point)).collect();
    }
    let is_there = |(point, glyph): &&(u32, GlyphId)| {
        let stands_for_all = uses.get(glyph).is_some_and(|n| *n > SHARED);
        !private(*point) || (!stands_for_all && (colored || extent(&outlines, *glyph).is_some()))
    };
    map.iter()
        .filter(is_there)
        .map(|(point, _)| *point)
        .collect()
}

/// How wide and high the ink of a glyph is, in font units; `None` where there is none.
fn extent(outlines: &OutlineGlyphCollection, glyph: GlyphId) -> Option<(f32, f32)> {
    let mut pen = ControlBoundsPen::new();
    let settings = DrawSettings::unhinted(Size::unscaled(), LocationRef::default());
    outlines.get(glyph)?.draw(settings, &mut pen).ok()?;
    let ink = pen.bounding_box()?;
    Some((ink.x_max - ink.x_min, ink.y_max - ink.y_min))
}

#[cfg(test)]
mod tests {
    use crate::demo::fonts;
    use crate::font::{FontError, character_map, coverage};

    fn icons(bytes: &[u8]) -> (usize, usize) {
        let private = 0xe000..=0xf8ff;
        let map = character_map(bytes, 0).unwrap();
        let drawn = coverage(bytes, 0).unwrap();
        // Letters are there whatever the icons are.
        assert!(drawn.has('a') && drawn.has('\u{2500}'));
        (map.count_in(&private), drawn.count_in(&private))
    }

    #[test]
    fn icons_count_where_they_are_drawn() {
        for font in [fonts::complete(), fonts::bold(), fonts::wide_icons()] {
            let (named, drawn) = icons(&font);
            assert!(named > 900 && named == drawn, "{named} {drawn}");
        }
        let all: Vec<char> = ('\u{f000}'..='\u{f2e0}').collect();
        // Each of them a letter.
        assert_eq!(icons(&wealdmist_fonts::alike("Alike", &all)), (737, 0));
        // One glyph for all, nothing at all, a box with its number in it for each.
        assert_eq!(icons(&wealdmist_fonts::last_resort("Last", &all)), (737, 0));
        assert_eq!(icons(&wealdmist_fonts::blank("Blank", &all)), (737, 0));
        assert_eq!(icons(&wealdmist_fonts::boxes("Boxes", &all)), (737, 0));
        // A few that do not tell are believed.
        let few: Vec<char> = ('\u{f000}'..='\u{f010}').collect();
        assert_eq!(icons(&wealdmist_fonts::boxes("Boxes", &few)), (17, 17));
    }

    #[test]
    fn a_face_of_bitmaps_alone_has_nothing_to_draw() {
        let mut bytes = fonts::complete();
        let at = bytes.windows(4).position(|w| w == b"glyf").unwrap();
        bytes[at..at + 4].copy_from_slice(b"EBDT");
        assert!(matches!(coverage(&bytes, 0), Err(FontError::Table(_))));
        assert!(character_map(&bytes, 0).unwrap().has('a'));
    }
}
