//! Fonts in `kitty.conf`: which settings speak of them, how they are spelled, what is substituted.

use std::ops::RangeInclusive;

use wealdmist_core::finding::Severity;
use wealdmist_core::font::catalog::NameIs;
use wealdmist_core::font::{Catalog, Four};
use wealdmist_core::icon;
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{Reading, ToolReport};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::FontChoice;

use crate::Wanted;
use crate::document::notation::Spot;
use crate::fonts::{FontSyntax, Misnamed, Spelled, unknown_name};
use crate::table::{Line, Table, features_text};

/// What the program does without a word where a name selects nothing it can use.
const SUBSTITUTES: &str = "kitty takes the default monospace font without a word";

/// A range as `symbol_map` has them: `U+E0A0-U+E0D7`, or one code point.
fn code_points(text: &str) -> Option<RangeInclusive<u32>> {
    let point = |t: &str| u32::from_str_radix(t.trim().strip_prefix("U+")?, 16).ok();
    let (first, last) = text.split_once('-').unwrap_or((text, text));
    Some(point(first)?..=point(last)?)
}

fn height(factor: f64) -> Code {
    Code::of("{}%", &[&Code::whole((factor * 100.0).round() as u64)])
}

fn ligatures(on: bool) -> Code {
    Code::fixed(if on { "never" } else { "always" })
}

/// The lines that the dotfiles do not have yet for what the setup says of fonts.
pub(super) fn missing(_: &Table, wanted: &Wanted, report: &ToolReport) -> Vec<Line> {
    let choice = &wanted.setup.font;
    let mut out = Vec::new();
    let said = |property: Property| {
        report
            .effective(&property.into())
            .is_some_and(|r| !r.is_default())
    };
    let empty = Catalog::default();
    let catalog = wanted.catalog.unwrap_or(&empty);
    // What cannot be written so that it stays one value is left out.
    let mut add = |property: Property, name, sub: Option<Code>, value: Option<Code>| {
        let spot = Spot {
            sub,
            ..Spot::of(name)
        };
        let role = RoleId::from(property);
        out.extend(value.map(|value| Line { role, spot, value }));
    };
    for (style, key, property) in STYLES {
        if let Some(name) = choice.of(style)
            && !said(property)
        {
            add(property, key, None, quote(name, &[Quoting::Line]));
        }
    }
    if !choice.features.is_empty() {
        for face in postscript_names(choice, catalog) {
            let Some(name) = quote(&face, &[Quoting::Word]) else {
                continue;
            };
            let key = format!("font_features {face}");
            if !report.readings.iter().any(|r| r.key == key) {
                let features = features_text(&choice.features);
                add(
                    Property::FontFeatures,
                    "font_features",
                    Some(name),
                    features,
                );
            }
        }
    }
    if let Some(on) = choice.ligatures.filter(|_| !said(Property::FontLigatures)) {
        let value = Some(ligatures(on));
        add(Property::FontLigatures, "disable_ligatures", None, value);
    }
    if let Some(factor) = choice
        .line_height
        .filter(|_| !said(Property::FontLineHeight))
    {
        let what = Some(Code::fixed("cell_height"));
        let value = Some(height(factor));
        add(Property::FontLineHeight, "modify_font", what, value);
    }
    if !said(Property::FontFallback) {
        for (ranges, family) in symbol_maps(&choice.fallback, catalog) {
            let family = quote(&family, &[Quoting::Line]);
            add(Property::FontFallback, "symbol_map", Some(ranges), family);
        }
    }
    out
}

/// Styles beside the regular one: their keys and roles.
const STYLES: [(Four, &str, Property); 3] = [
    (Four::Bold, "bold_font", Property::FontBold),
    (Four::Italic, "italic_font", Property::FontItalic),
    (
        Four::BoldItalic,
        "bold_italic_font",
        Property::FontBoldItalic,
    ),
];

/// The PostScript names of the faces a choice draws with.
fn postscript_names(choice: &FontChoice, catalog: &Catalog) -> Vec<String> {
    let Some(family) = &choice.family else {
        return Vec::new();
    };
    let four = catalog.four(family);
    let mut out: Vec<String> = Vec::new();
    for style in Four::ALL {
        let named = choice.of(style).filter(|_| style != Four::Regular);
        let face = match named {
            Some(name) => catalog.find(name).map(|f| f.0),
            None => four.face(style),
        };
        if let Some(name) = face.and_then(|f| f.info.postscript.clone())
            && !out.contains(&name)
        {
            out.push(name);
        }
    }
    out
}

/// Which ranges of icons each fallback family is asked for: the first that has anything of them.
fn symbol_maps(fallback: &[String], catalog: &Catalog) -> Vec<(Code, String)> {
    let covers = |family: &str, range: &RangeInclusive<u32>| {
        catalog
            .of_family(family)
            .any(|e| e.coverage.count_in(range) > 0)
    };
    let mut out: Vec<(Code, String)> = Vec::new();
    for range in icon::RANGES {
        let found = fallback.iter().find(|f| covers(f, &range.codes));
        let Some(family) = found.or_else(|| fallback.first().filter(|_| catalog.faces.is_empty()))
        else {
            continue;
        };
        let (start, end) = (range.codes.start(), range.codes.end());
        let point = |c: &u32| Code::of("U+{}", &[&Code::code_point(*c)]);
        let text = match start == end {
            true => point(start),
            false => Code::of("{}-{}", &[&point(start), &point(end)]),
        };
        match out.iter_mut().find(|(_, f)| f == family) {
            Some((ranges, _)) => {
                ranges.push_fixed(",");
                ranges.push(&text);
            }
            None => out.push((text, family.clone())),
        }
    }
    out
}

/// How the program takes fonts.
pub(super) struct KittyFonts;

impl FontSyntax for KittyFonts {
    fn spelled(&self, choice: &FontChoice, catalog: &Catalog) -> Vec<Spelled> {
        let mut out = Vec::new();
        // A name that cannot be written so that it stays a name has no line.
        let mut line = |line: Option<Code>, note: Option<String>| {
            out.extend(line.map(|l| Spelled {
                line: l.lossy(),
                note,
            }));
        };
        let named = |key: &'static str, name: &str| {
            Some(Code::of(
                "{} {}",
                &[&Code::fixed(key), &quote(name, &[Quoting::Line])?],
            ))
        };
        if let Some(family) = &choice.family {
            let note = catalog.find(family).and_then(|(entry, is)| match is {
                NameIs::Family if !entry.info.measured_fixed => {
                    Some(format!("its letters differ in width: {SUBSTITUTES}"))
                }
                NameIs::Family => None,
                _ => Some("names one face: bold and italic are drawn with it too".to_owned()),
            });
            let unknown = || Some(format!("not installed: {SUBSTITUTES}"));
            let note = if catalog.find(family).is_none() {
                unknown()
            } else {
                note
            };
            line(named("font_family", family), note);
        }
        for (style, key, _) in STYLES {
            let four = choice.family.as_deref().map(|f| catalog.four(f));
            let lacks = four.is_some_and(|f| f.face(style).is_none());
            match choice.of(style) {
                Some(name) => {
                    let note = catalog
                        .find(name)
                        .is_none()
                        .then(|| format!("not installed: {SUBSTITUTES}"));
                    line(named(key, name), note);
                }
                None => {
                    let note = format!(
                        "the family has no {} face: another is drawn instead",
                        style.label()
                    );
                    line(named(key, "auto"), lacks.then_some(note));
                }
            }
        }
        if let Some(size) = choice.size {
            line(Some(Code::of("font_size {}", &[&Code::number(size)])), None);
        }
        if !choice.features.is_empty() {
            for face in postscript_names(choice, catalog) {
                let both = quote(&face, &[Quoting::Word]).zip(features_text(&choice.features));
                line(
                    both.map(|(f, t)| Code::of("font_features {} {}", &[&f, &t])),
                    None,
                );
            }
        }
        if let Some(on) = choice.ligatures {
            line(
                Some(Code::of("disable_ligatures {}", &[&ligatures(on)])),
                None,
            );
        }
        if let Some(factor) = choice.line_height {
            line(
                Some(Code::of("modify_font cell_height {}", &[&height(factor)])),
                None,
            );
        }
        for (ranges, family) in symbol_maps(&choice.fallback, catalog) {
            let family = quote(&family, &[Quoting::Line]);
            line(
                family.map(|f| Code::of("symbol_map {} {}", &[&ranges, &f])),
                None,
            );
        }
        out
    }

    fn check(&self, reading: &Reading, name: &str, catalog: &Catalog) -> Option<Misnamed> {
        if matches!(name, "monospace" | "auto") {
            return None;
        }
        let bare = name
            .trim_matches(['"', '\''])
            .split(':')
            .next()
            .unwrap_or_default()
            .trim();
        let fallback = reading.role.as_str() == "font.fallback";
        let Some((entry, is)) = catalog.find(name) else {
            let instead = match fallback {
                true => "kitty shows boxes for these characters, even where another font has them",
                false => SUBSTITUTES,
            };
            let mut wrong = unknown_name(name, instead, catalog);
            if bare != name && catalog.find(bare).is_some() {
                wrong.message =
                    format!("'{name}' is taken as a name, quotes and patterns included; {instead}");
                wrong.mend = Some(format!("write {bare}"));
            }
            return Some(wrong);
        };
        if fallback {
            return None;
        }
        if !entry.info.measured_fixed && is == NameIs::Family {
            return Some(Misnamed {
                severity: Severity::Warning,
                message: format!("the letters of '{name}' differ in width; {SUBSTITUTES}"),
                mend: None,
            });
        }
        (is != NameIs::Family && reading.role.as_str() == "font.family").then(|| Misnamed {
            severity: Severity::Note,
            message: format!("'{name}' names one face; bold and italic are drawn with it too"),
            mend: Some(format!("write the family '{}'", entry.info.family())),
        })
    }

    fn asks_for(&self, _: &str, picture: bool) -> String {
        // Whatever its own font is.
        if picture { "emoji" } else { "monospace" }.to_owned()
    }

    fn maps(&self, report: &ToolReport) -> Vec<(RangeInclusive<u32>, String)> {
        let mut out = Vec::new();
        for reading in report.readings.iter().filter(|r| r.effective) {
            let Some(ranges) = reading.key.strip_prefix("symbol_map ") else {
                continue;
            };
            let codes = ranges.split(',').filter_map(code_points);
            out.extend(codes.map(|codes| (codes, reading.value.to_string())));
        }
        out
    }

    fn self_drawn(&self) -> Vec<RangeInclusive<u32>> {
        vec![
            0x2500..=0x259f,
            0x2800..=0x28ff,
            0xe0b0..=0xe0bf,
            0x1_fb00..=0x1_fb8b,
            0x1_fba0..=0x1_fbae,
        ]
    }

    fn widens(&self) -> bool {
        true
    }
}

#[cfg(test)]
mod tests {
    use std::ops::Range;

    use super::*;
    use crate::access::MemoryAccess;
    use crate::testing::{catalog, planned_with};
    use crate::tools::misnamed;
    use crate::{Adapter, Facts};
    use proptest::prelude::*;
    use wealdmist_core::font::FeatureSetting;
    use wealdmist_core::reading::Value;

    fn read(conf: &str) -> ToolReport {
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", conf)]);
        super::super::KITTY.read(&access, &mut Facts::default())
    }

    fn after(conf: &str, font: &str) -> String {
        let setup = format!("[palettes.a]\n[font]\nfamily='Reedbed Mono NF'\n{font}");
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", conf)]);
        let files = planned_with(&super::super::KITTY, &access, &setup, Some(&catalog()));
        files.into_iter().next().map(|f| f.1).unwrap_or_default()
    }

    #[test]
    fn every_setting_of_fonts_is_read_and_written() {
        let conf = "font_family Reedbed Mono\nbold_font auto\nfont_features ReedbedMonoNF-Regular  +ss01 -calt\nmodify_font cell_height 120%\nmodify_font underline_position 2\ndisable_ligatures cursor\nsymbol_map U+E0A0-U+E0D7 Sedge Mono NF\n";
        let report = read(conf);
        let said: Vec<String> = report
            .readings
            .iter()
            .filter(|r| r.role.as_str().starts_with("font.") && !r.is_default())
            .map(|r| format!("{}={}", r.role, r.value))
            .collect();
        assert_eq!(
            said,
            [
                "font.family=Reedbed Mono",
                "font.bold=default",
                "font.features=ss01 -calt",
                "font.line-height=1.2",
                "font.ligatures=off at the cursor",
                "font.fallback=Sedge Mono NF"
            ]
        );
        let text = after(
            conf,
            "bold='Reedbed Mono NF Bold'\nfeatures=['-calt','zero']\nligatures=false\nline-height=1.1\nfallback=['Cordgrass NF']\n",
        );
        for line in [
            "font_family Reedbed Mono NF",
            "bold_font Reedbed Mono NF Bold",
            "font_features ReedbedMonoNF-Regular  -calt +zero",
            "font_features ReedbedMonoNF-Bold -calt +zero",
            "modify_font cell_height 110%",
            "modify_font underline_position 2",
            "disable_ligatures always",
            "symbol_map U+E0A0-U+E0D7 Cordgrass NF",
        ] {
            assert!(text.lines().any(|l| l == line), "{line} is not in\n{text}");
        }
    }

    #[test]
    fn code_points_are_mapped_in_the_order_of_the_lines() {
        let report = read(
            "symbol_map U+E0A0-U+E0D7,U+2717 Sedge Mono NF\nsymbol_map U+E725 Bulrush NF\nsymbol_map nonsense X\n",
        );
        let maps = KittyFonts.maps(&report);
        let family = |f: &str| f.to_owned();
        assert_eq!(
            maps,
            [
                (0xe0a0..=0xe0d7, family("Sedge Mono NF")),
                (0x2717..=0x2717, family("Sedge Mono NF")),
                (0xe725..=0xe725, family("Bulrush NF")),
            ]
        );
    }

    #[test]
    fn fallback_families_get_the_ranges_they_have() {
        let text = after("map f1 x\n", "fallback=['Sedge Mono NF', 'Cordgrass NF']\n");
        let maps: Vec<&str> = text
            .lines()
            .filter(|l| l.starts_with("symbol_map"))
            .collect();
        assert_eq!(maps.len(), 2, "{text}");
        assert!(
            maps.iter()
                .any(|l| l.ends_with(" Sedge Mono NF") && l.contains("U+E0A0-U+E0D7")),
            "{maps:?}"
        );
        assert!(
            maps.iter()
                .any(|l| l.ends_with(" Cordgrass NF") && l.contains("U+F0001-U+F1AF0")),
            "{maps:?}"
        );
    }

    #[test]
    fn wrong_names_are_told_with_the_right_one() {
        let problem = |conf: &str| {
            let found = misnamed(&[read(conf)], &catalog());
            found
                .into_iter()
                .next()
                .map(|p| (p.message, p.mend.unwrap_or_default()))
        };
        assert_eq!(problem("font_family Reedbed Mono NF\n"), None);
        assert_eq!(
            problem("font_family monospace\n# font_family nothing\n"),
            None
        );
        let (message, mend) = problem("font_family ReedbedMonoNF\n").unwrap();
        assert!(
            message.contains("without a word") && mend.contains("'Reedbed Mono NF'"),
            "{message} {mend}"
        );
        let (message, mend) = problem("font_family \"Reedbed Mono NF\"\n").unwrap();
        assert!(
            message.contains("quotes") && mend == "write Reedbed Mono NF",
            "{message} {mend}"
        );
        let (message, _) = problem("font_family Reedbed Mono NF Bold\n").unwrap();
        assert!(message.contains("names one face"), "{message}");
        let (message, _) = problem("symbol_map U+E0A0 Nothing\n").unwrap();
        assert!(message.contains("boxes"), "{message}");
    }

    #[test]
    fn a_choice_is_spelled_for_the_program() {
        let choice = FontChoice {
            family: Some("Reedbed Mono NF".into()),
            size: Some(12.0),
            features: vec!["ss01".parse().unwrap()],
            ..FontChoice::default()
        };
        let lines = KittyFonts.spelled(&choice, &catalog());
        let texts: Vec<&str> = lines.iter().map(|l| l.line.as_str()).collect();
        assert!(
            texts.contains(&"font_features ReedbedMonoNF-Bold +ss01"),
            "{texts:?}"
        );
        let italic = lines
            .iter()
            .find(|l| l.line == "bold_italic_font auto")
            .unwrap();
        assert!(
            italic
                .note
                .as_deref()
                .is_some_and(|n| n.contains("no bold italic face"))
        );
    }

    /// What a line says of fonts, with its place in the line.
    fn setting(key: &str, text: &str) -> Option<(Value, Range<usize>)> {
        let line = format!("{key} {text}");
        let report = read(&line);
        let found = report
            .readings
            .iter()
            .find(|r| r.role.as_str().starts_with("font.") && !r.is_default())?;
        Some((found.value.clone(), found.place.span.clone()))
    }

    #[test]
    fn what_the_program_would_not_take_is_no_setting() {
        for (key, text) in [
            ("font_features", "none"),
            ("font_features", "OnlyAFace"),
            ("font_features", "Face +toolong"),
            ("modify_font", "baseline 10%"),
            ("disable_ligatures", "sometimes"),
            ("symbol_map", "U+E0A0"),
        ] {
            assert!(setting(key, text).is_none(), "{key} {text}");
        }
    }

    #[test]
    fn a_family_whose_letters_differ_or_that_is_unknown_is_said_to_be_substituted() {
        let choice = |family: &str| FontChoice {
            family: Some(family.into()),
            ..FontChoice::default()
        };
        let note = |family: &str| {
            KittyFonts.spelled(&choice(family), &catalog())[0]
                .note
                .clone()
        };
        assert_eq!(note("Reedbed Mono NF"), None);
        assert!(note("Nothing").unwrap().contains("not installed"));
        assert!(
            note("Reedbed Mono NF Bold")
                .unwrap()
                .contains("names one face")
        );
        assert!(
            KittyFonts.spelled(&FontChoice::default(), &catalog()).len() == 3,
            "the styles alone"
        );
    }

    proptest! {
        #[test]
        fn features_are_read_back_as_written(list in proptest::collection::vec(("[a-z]{2}[0-9]{2}", 0u32..4), 1..5)) {
            let features: Vec<FeatureSetting> = list
                .iter()
                .map(|(tag, value)| match value {
                    0 => format!("-{tag}").parse().unwrap(),
                    1 => tag.parse().unwrap(),
                    n => format!("{tag}={n}").parse().unwrap(),
                })
                .collect();
            let written = features_text(&features).unwrap().lossy();
            let text = format!("Face-Regular  {written}");
            let (value, span) = setting("font_features", &text).unwrap();
            let choice = FontChoice { features, ..FontChoice::default() };
            prop_assert_eq!(value, Value::Text(choice.features_text()));
            prop_assert_eq!(&format!("font_features {text}")[span], written);
        }

        #[test]
        fn any_text_is_read(key in "(font_features|modify_font|symbol_map|bold_font)", text in ".{0,30}") {
            if let Some((_, span)) = setting(&key, &text) {
                let line = format!("{key} {text}");
                prop_assert!(line.get(span).is_some());
            }
        }
    }
}
