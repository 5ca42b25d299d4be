use std::sync::Arc;

use super::facts::{Pitch, facts};
use super::raster::{Grid, Raster};
use super::*;
use crate::demo::fonts;
use proptest::prelude::*;

fn open(bytes: Vec<u8>) -> Typeface {
    Typeface::open(Arc::new(bytes), 0).unwrap()
}

#[test]
fn names_and_characters_of_a_made_font() {
    let bytes = fonts::complete();
    let faces = faces(&bytes).unwrap();
    assert_eq!(faces.len(), 1);
    assert!(faces[0].answers_to("reedbed mono nf"), "{faces:?}");
    assert!(faces[0].answers_to("ReedbedMonoNF-Regular"), "{faces:?}");
    assert!(faces[0].fixed_pitch && faces[0].measured_fixed);
    assert_eq!(faces[0].title(), "Reedbed Mono NF Regular");
    let coverage = coverage(&bytes, 0).unwrap();
    assert!(coverage.has('A') && coverage.has('\u{e725}') && coverage.has('\u{f0001}'));
    assert!(!coverage.has('\u{f8ff}') && !coverage.has('字'));
}

#[test]
fn facts_tell_styles_features_and_shares() {
    let bold = faces(&fonts::bold()).unwrap().remove(0);
    assert_eq!((bold.weight, bold.slant), (700, Slant::Upright));
    assert_eq!(faces(&fonts::italic()).unwrap()[0].slant, Slant::Italic);
    let facts = facts(&fonts::complete(), 0).unwrap();
    assert_eq!(facts.pitch, Pitch::Fixed(600));
    assert_eq!((facts.cell.width, facts.cell.height()), (600.0, 1000.0));
    let feature = |tag: &[u8; 4]| {
        facts
            .features
            .iter()
            .find(|f| f.tag == Tag::new(tag))
            .unwrap()
    };
    assert_eq!(
        (feature(b"ss01").name.as_str(), feature(b"ss01").own_name),
        ("Open nought", true)
    );
    assert!(feature(b"liga").default && !feature(b"liga").own_name);
    assert!(
        facts
            .names
            .iter()
            .any(|n| n.what == "PostScript name" && n.language == "en-US"),
        "{:?}",
        facts.names
    );
    assert_eq!(facts.licence.as_deref(), Some("As Wealdmist itself: MIT"));
    let blocks = coverage::by_block(&facts.coverage);
    let latin = blocks.iter().find(|b| b.name == "Basic Latin").unwrap();
    assert_eq!((latin.has, latin.of), (95, 95));
    let ranges = coverage::by_icon_range(&facts.coverage);
    let separators = ranges
        .iter()
        .find(|r| r.name.starts_with("separators"))
        .unwrap();
    assert!(separators.has > 30 && separators.has <= separators.of);
    assert_eq!(ranges.iter().find(|r| r.name == "weather").unwrap().has, 0);
}

#[test]
fn axes_and_named_places_are_read() {
    let bytes = fonts::variable();
    let facts = facts(&bytes, 0).unwrap();
    assert!(facts.info.variable);
    let axis = &facts.axes[0];
    assert_eq!(
        (axis.tag, axis.name.as_str()),
        (Tag::new(b"wght"), "Weight")
    );
    assert_eq!((axis.min, axis.default, axis.max), (300.0, 400.0, 800.0));
    let names: Vec<&str> = facts.instances.iter().map(|i| i.name.as_str()).collect();
    assert_eq!(names, ["Regular", "Heavy"]);
    let heavy = Typeface::at(Arc::new(bytes), 0, &[(Tag::new(b"wght"), 800.0)]).unwrap();
    assert!(!heavy.shape("ab", &[]).is_empty());
}

#[test]
fn features_are_told_by_what_they_change() {
    let face = open(fonts::complete());
    let liga = features::changes(&face, Tag::new(b"liga"));
    for text in ["->", "=>", "!=", "=="] {
        assert!(liga.iter().any(|l| l == text), "{liga:?}");
    }
    assert_eq!(features::changes(&face, Tag::new(b"ss01")), ["0"]);
    assert!(features::changes(&face, Tag::new(b"smcp")).is_empty());
}

#[test]
fn features_are_read_and_written() {
    for (text, tag, value) in [
        ("ss01", b"ss01", 1),
        ("+zero", b"zero", 1),
        ("-calt", b"calt", 0),
        ("cv02=3", b"cv02", 3),
    ] {
        let read: FeatureSetting = text.parse().unwrap();
        assert_eq!((read.tag, read.value), (Tag::new(tag), value));
        assert_eq!(read.to_string().parse::<FeatureSetting>().unwrap(), read);
    }
    for wrong in ["", "ss1", "ss011", "-ss01=2", "cv02=x", "a b1"] {
        assert!(wrong.parse::<FeatureSetting>().is_err(), "{wrong}");
    }
}

#[test]
fn text_is_drawn_in_cells() {
    let face = open(fonts::complete());
    let cell = face.cell();
    let grid = Grid::at(&cell, 20.0, 1.0);
    assert_eq!((grid.cell_width, grid.cell_height), (12, 20));
    let line = raster::line(&face, &grid, "█ █", &[]);
    assert_eq!((line.width, line.height), (36, 20));
    let ink = |x: u32| (0..20).all(|y| line.at(x, y) > 250);
    assert!(
        ink(0) && ink(11) && ink(24) && ink(35),
        "blocks fill their cells"
    );
    assert!((12..24).all(|x| line.at(x, 10) == 0), "a blank is blank");
    // A separator meets the block before it: no column between them is without ink.
    let joined = raster::line(&face, &grid, "█\u{e0b0}", &[]);
    assert!(joined.at(11, 10) > 250 && joined.at(12, 10) > 250);
    // A ligature is drawn in the cells of its characters, and not when it is off.
    let with = raster::line(&face, &grid, "->", &[]);
    let without = raster::line(&face, &grid, "->", &features::ligatures_off());
    assert_eq!(with.width, without.width);
    assert_ne!(with, without);
    let missing = raster::line(&face, &grid, "字", &[]);
    assert_eq!(missing.width, 24, "two cells");
    assert!(
        missing.coverage() > 0.02,
        "the box for what is missing is drawn"
    );
}

#[test]
fn pictures_keep_what_they_show() {
    let mut raster = Raster::new(4, 4);
    let full = Raster {
        width: 2,
        height: 2,
        pixels: vec![255; 4],
    };
    raster.put(&full, 2, 0);
    let quarters = picture::draw(&raster, picture::Means::Quadrants);
    assert_eq!((quarters.len(), quarters[0].len()), (2, 2));
    assert_eq!((quarters[0][1].ground, quarters[0][0].ground), (255, 0));
    let dots = picture::draw(&raster, picture::Means::Dots);
    assert_eq!(dots[0][1].character, '\u{281b}');
    assert_eq!(dots[0][0].character, ' ');
    let ascii = picture::draw(&raster, picture::Means::Ascii);
    assert_eq!(
        ascii[0].iter().map(|c| c.character).collect::<String>(),
        "  @@"
    );
    assert_eq!(raster.coverage(), 0.25);
    assert_eq!(raster.at(9, 9), 0);
}

#[test]
fn samples_fit_where_they_are_shown() {
    for sample in sample::SAMPLES {
        for line in sample.lines {
            assert!(raster::columns(line) <= 31, "{line}");
        }
    }
}

#[test]
fn ranges_hold_their_ends() {
    let coverage = Coverage::from_points(vec![65, 66, 67, 97, 66]);
    assert!(coverage.has('A') && coverage.has('C') && coverage.has('a'));
    assert!(!coverage.has('D') && !coverage.has('@') && !coverage.has('b'));
    assert_eq!(coverage.len(), 4);
    assert_eq!(coverage.count_in(&(66..=200)), 3);
    assert_eq!(coverage.count_in(&(68..=96)), 0);
    assert_eq!(coverage.characters().collect::<String>(), "ABCa");
}

/// Everything that is ever done with a file, as far as it can be done.
pub(crate) fn use_everything(bytes: &[u8]) {
    let Ok(found) = faces(bytes) else { return };
    for face in found {
        let _ = facts(bytes, face.index);
        let Ok(opened) = Typeface::open(Arc::new(bytes.to_vec()), face.index) else {
            continue;
        };
        let cell = opened.cell();
        let grid = Grid::at(&cell, 16.0, 1.0);
        let _ = raster::line(&opened, &grid, "aé->\u{e0b0}", &[]);
        let _ = fit::inks(&opened, &cell, "aé\u{e0b0}█".chars());
    }
}

#[test]
fn damage_is_an_error_not_a_panic() {
    let good = fonts::complete();
    assert!(matches!(faces(b""), Err(FontError::Unreadable(_))));
    assert!(faces(&[0; 64]).is_err());
    for len in (0..good.len()).step_by(good.len() / 60) {
        use_everything(&good[..len]);
    }
    // Without its characters a font is named as lacking that table.
    let mut bad = good.clone();
    let at = bad.windows(4).position(|w| w == b"cmap").unwrap();
    bad[at] = b'x';
    assert_eq!(coverage(&bad, 0), Err(FontError::Table(Tag::new(b"cmap"))));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]
    #[test]
    fn any_change_of_a_file_is_borne(changes in proptest::collection::vec((any::<proptest::sample::Index>(), any::<u8>()), 1..20)) {
        let mut bytes = fonts::without_icons();
        for (index, value) in changes {
            let at = index.index(bytes.len());
            bytes[at] = value;
        }
        use_everything(&bytes);
    }
}
