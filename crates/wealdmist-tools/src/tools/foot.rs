//! The terminal foot: `foot.ini`.
//!
//! Sections of `key=value`; what stands before the first is of the section `main`. Colors have no
//! sign before them; the cursor's two stand in one value. Nothing is read again while it runs.

use std::ops::Range;

use wealdmist_core::font::{FeatureSetting, Four};
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{ToolId, Value};
use wealdmist_core::role::RoleId;

use super::{Answers, Live, Reload, Wanted};
use crate::document::settings::Settings;
use crate::table::{
    Compound, End, FontFacts, Fonts, Includes, Key, Means, Part, Quirks, Sixteen, Spelling, Table,
    Term, Where, Wins, color, key, number, own, spelling,
};

const NOTATION: Settings = Settings {
    separator: Some(b'='),
    written: "=",
    comment: "#",
    trailing: true,
    quotes: false,
    indexed: &[],
    main: Some("main"),
    quoting: Quoting::BeforeComment,
};

const KEYS: &[Key] = &[
    color("cursor/color", "cursor-text").part(Part::Nth(0, 2)),
    color("cursor/color", "cursor").part(Part::Nth(1, 2)),
    color("colors/cursor", "cursor-text")
        .part(Part::Nth(0, 2))
        .read_only(),
    color("colors/cursor", "cursor")
        .part(Part::Nth(1, 2))
        .read_only(),
    color("colors/foreground", "foreground"),
    color("colors/background", "background"),
    color("colors/selection-background", "selection"),
    color("colors/selection-foreground", "selection-text"),
    color("colors/urls", "url"),
    own("colors/jump-labels", End::Text).part(Part::Nth(0, 2)),
    own("colors/jump-labels", End::Ground).part(Part::Nth(1, 2)),
    own("colors/scrollback-indicator", End::Text).part(Part::Nth(0, 2)),
    own("colors/scrollback-indicator", End::Ground).part(Part::Nth(1, 2)),
    own("colors/search-box-match", End::Text).part(Part::Nth(0, 2)),
    own("colors/search-box-match", End::Ground).part(Part::Nth(1, 2)),
    own("colors/search-box-no-match", End::Text).part(Part::Nth(0, 2)),
    own("colors/search-box-no-match", End::Ground).part(Part::Nth(1, 2)),
    key("main/font", Means::Several(&FontList(Four::Regular))),
    key("main/font-bold", Means::Several(&FontList(Four::Bold))),
    key("main/font-italic", Means::Several(&FontList(Four::Italic))),
    key(
        "main/font-bold-italic",
        Means::Several(&FontList(Four::BoldItalic)),
    ),
    key("main/pad", Means::Several(&Pad)),
    number("colors/alpha", Property::WindowOpacity),
];

/// The row.
pub static FOOT: Table = Table {
    id: ToolId("foot"),
    kind: "terminal",
    program: "foot",
    places: &[
        Where::Config("foot/foot.ini"),
        Where::Home(".config/foot/foot.ini"),
    ],
    notation: &NOTATION,
    includes: Some(Includes {
        keys: &["main/include"],
        patterns: &[],
        wins: Wins::WhereItStands,
        relative: false,
        told: true,
        optional: None,
    }),
    keys: KEYS,
    sixteen: Sixteen::Halves {
        section: "colors",
        normal: "regular",
        bright: "bright",
    },
    color: Spelling {
        read: spelling::bare,
        write: spelling::like_bare,
        names: false,
    },
    off_is_default: true,
    bad_value: "foot leaves this line out and says so in its window; colors are rrggbb without a sign",
    fonts: Fonts::Facts(FontFacts {
        substitutes: "foot takes another font, and warns where its letters differ in width",
        families_only: false,
        proportional: true,
        own: &[
            (0x2500, 0x259f),
            (0x2800, 0x28ff),
            (0xe0b0, 0xe0b3),
            (0x1_fb00, 0x1_fb9b),
        ],
    }),
    term: Term {
        key: Some("main/term"),
        own: "foot",
        full_color: false,
    },
    live: Live {
        reload: Reload::Escapes,
        arrives: "colors at once, by escapes to each window; the rest with the next start",
        mark: Some("libwayland-client"),
        file_options: &["-c", "--config"],
        value_options: &[
            "-o",
            "--override",
            "-t",
            "--term",
            "-T",
            "--title",
            "-a",
            "--app-id",
            "-f",
            "--font",
            "-w",
            "--window-size-pixels",
            "-W",
            "--window-size-chars",
            "-D",
            "--working-directory",
            "-d",
            "--log-level",
            "-p",
            "--print-pid",
        ],
        answers: Answers::Escapes,
    },
    quirks: Quirks {
        // Newer versions have a section for each side.
        alias: |path| {
            let rest = ["colors-dark/", "colors-light/", "colors2/"];
            let rest = rest.iter().find_map(|p| path.strip_prefix(p))?;
            Some(format!("colors/{rest}"))
        },
        ..Quirks::NONE
    },
};

/// A list of font patterns: the first is the font, the others are fallbacks.
struct FontList(Four);

impl FontList {
    const fn property(&self) -> Property {
        match self.0 {
            Four::Regular => Property::FontFamily,
            Four::Bold => Property::FontBold,
            Four::Italic => Property::FontItalic,
            Four::BoldItalic => Property::FontBoldItalic,
        }
    }
}

/// The pieces of a text between signs, with their places.
fn split(text: &str, sign: char) -> impl Iterator<Item = Range<usize>> + '_ {
    let mut at = 0;
    text.split(sign).map(move |piece| {
        let start = at;
        at += piece.len() + sign.len_utf8();
        start..start + piece.len()
    })
}

/// The name of a pattern, and its options, each with its place in the text.
fn pattern(text: &str, range: Range<usize>) -> (Range<usize>, Vec<Range<usize>>) {
    let mut parts = Vec::new();
    let (mut start, mut escaped) = (range.start, false);
    for (at, c) in text[range.clone()].char_indices() {
        if c == ':' && !escaped {
            parts.push(start..range.start + at);
            start = range.start + at + 1;
        }
        escaped = c == '\\' && !escaped;
    }
    parts.push(start..range.end);
    let name = parts.remove(0);
    let trimmed = text[name.clone()].trim();
    let start = name.start + (text[name.clone()].len() - text[name].trim_start().len());
    (start..start + trimmed.len(), parts)
}

impl Compound for FontList {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let plain = |name: &str| name.replace('\\', "");
        let mut out = Vec::new();
        for (i, range) in split(text, ',').enumerate() {
            let (name, options) = pattern(text, range);
            if name.is_empty() {
                continue;
            }
            let said = Value::Text(plain(&text[name.clone()]));
            if i > 0 {
                if self.0 == Four::Regular {
                    out.push((Property::FontFallback.into(), said, name));
                }
                continue;
            }
            let style = options
                .iter()
                .find_map(|o| text[o.clone()].strip_prefix("style="));
            let said = match (style, &said) {
                // A face by its family and its style.
                (Some(style), Value::Text(family)) if self.0 != Four::Regular => {
                    Value::Text(format!("{family} {style}"))
                }
                _ => said,
            };
            out.push((self.property().into(), said, name));
            for option in options.into_iter().filter(|_| self.0 == Four::Regular) {
                let Some((key, value)) = text[option.clone()].split_once('=') else {
                    continue;
                };
                let place = option.start + key.len() + 1..option.end;
                match (key.trim(), value.trim().parse::<f64>()) {
                    ("size", Ok(size)) => {
                        out.push((Property::FontSize.into(), Value::Number(size), place));
                    }
                    ("fontfeatures", _) => {
                        let features: Option<Vec<String>> = value
                            .split_whitespace()
                            .map(|t| Some(t.parse::<FeatureSetting>().ok()?.to_string()))
                            .collect();
                        if let Some(features) = features {
                            let said = Value::Text(features.join(" "));
                            out.push((Property::FontFeatures.into(), said, place));
                        }
                    }
                    _ => {}
                }
            }
        }
        out
    }

    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>> {
        let font = &wanted.setup.font;
        let mut fonts = split(text, ',');
        let first = fonts.next()?;
        let (name, options) = pattern(text, first.clone());
        let quoted = |text: &str| quote(text, &[Quoting::FontPattern, quoting]);
        let regular = self.0 == Four::Regular;
        let mut out: Vec<(Range<usize>, Code)> = Vec::new();
        // What is new stands behind the name.
        let mut behind = Code::default();
        match font.of(self.0) {
            None if name.is_empty() => return None,
            None => {}
            Some(chosen) => {
                let face = wanted.catalog.and_then(|c| c.find(chosen)).map(|f| f.0);
                let style = options
                    .iter()
                    .find(|o| text[(*o).clone()].starts_with("style="));
                let with = match face.filter(|_| !regular) {
                    Some(face) => {
                        let said = Code::of("style={}", &[&quoted(&face.info.style)?]);
                        match style {
                            Some(there) if *said == *text[there.clone()].as_bytes() => {}
                            Some(there) => out.push((there.clone(), said)),
                            None => behind.push(&Code::of(":{}", &[&said])),
                        }
                        quoted(face.info.family())?
                    }
                    None => quoted(chosen)?,
                };
                if *with != *text[name.clone()].as_bytes() {
                    out.push((name.clone(), with));
                }
            }
        }
        let mut option = |keys: [&'static str; 2], value: Option<Code>| {
            let Some(value) = value else { return };
            let said = Code::of("{}={}", &[&Code::fixed(keys[0]), &value]);
            // One size takes the place of the other.
            let there = options.iter().find(|o| {
                let key = text[(*o).clone()].split('=').next().map(str::trim);
                keys.iter().any(|k| key == Some(k))
            });
            match there {
                Some(there) if *said == *text[there.clone()].as_bytes() => {}
                Some(there) => out.push((there.clone(), said)),
                None => behind.push(&Code::of(":{}", &[&said])),
            }
        };
        option(["size", "pixelsize"], font.size.map(Code::short_number));
        if !font.features.is_empty() && regular {
            let one = |f: &FeatureSetting| quote(&f.to_string(), &[Quoting::Word]);
            let all: Option<Vec<Code>> = font.features.iter().map(one).collect();
            option(["fontfeatures"; 2], Some(Code::join(&all?, " ")));
        }
        if !behind.is_empty() {
            out.push((name.end..name.end, behind));
        }
        let now: Vec<String> = fonts
            .map(|range| text[pattern(text, range).0].replace('\\', ""))
            .collect();
        if regular && !font.fallback.is_empty() && now != font.fallback {
            let mut rest = Code::default();
            for family in &font.fallback {
                rest.push(&Code::of(",{}", &[&quoted(family)?]));
                if let Some(size) = font.size {
                    rest.push(&Code::of(":size={}", &[&Code::short_number(size)]));
                }
            }
            out.push((first.end..text.len(), rest));
        }
        out.sort_by_key(|c| (c.0.start, c.0.end));
        Some(out)
    }

    fn holds(&self) -> &'static [Property] {
        match self.0 {
            Four::Regular => &[
                Property::FontFamily,
                Property::FontSize,
                Property::FontFeatures,
                Property::FontFallback,
            ],
            Four::Bold => &[Property::FontBold],
            Four::Italic => &[Property::FontItalic],
            Four::BoldItalic => &[Property::FontBoldItalic],
        }
    }
}

/// `XxY` in pixels, perhaps with a word behind it.
struct Pad;

impl Compound for Pad {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let first = text.split_whitespace().next().unwrap_or_default();
        let both = first.split_once('x').and_then(|(x, y)| {
            let x: f64 = x.parse().ok()?;
            (x == y.parse::<f64>().ok()?).then_some(x)
        });
        let said = both.map(|n| {
            (
                Property::WindowPadding.into(),
                Value::Number(n * 0.75),
                0..first.len(),
            )
        });
        said.into_iter().collect()
    }

    fn change(&self, text: &str, wanted: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        let pixels = (wanted.setup.window.padding? / 0.75).round().max(0.0) as u64;
        let pixels = Code::whole(pixels);
        let first = text.find(char::is_whitespace).unwrap_or(text.len());
        let with = Code::of("{}x{}", &[&pixels, &pixels]);
        Some(vec![(0..first, with)])
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::WindowPadding]
    }
}
