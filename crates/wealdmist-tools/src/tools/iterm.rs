//! The terminal iTerm2: profiles in files that it watches, one JSON object each.
//!
//! Of several profiles in a file the first counts: which one the person uses stands in the program's own preferences,
//! which belong to it alone. Written from its documentation; the program itself was not at hand.

use std::ops::Range;

use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{ToolId, Value};
use wealdmist_core::role::RoleId;

use crate::document::json::{Deep, Json};
use crate::document::notation::{Entry, New};
use crate::document::view::{Parts, To, View};
use crate::table::{
    Compound, End, FontFacts, Fonts, Key, Means, Scale, Sixteen, Spelling, TRUE, Table, Where,
    Word, color, flag, key, name, number, own, path, scrollback,
};
use crate::{Live, Wanted};

const NOTATION: View = View {
    of: Json { comments: false },
    names,
    places,
    shown,
    parts: Some(Parts {
        names: ["Red Component", "Green Component", "Blue Component"],
        beside: &[("Color Space", "\"sRGB\""), ("Alpha Component", "1")],
        space: ("Color Space", &["sRGB", "Calibrated"]),
    }),
};

const KEYS: &[Key] = &[
    color("profile/Foreground Color", "foreground"),
    color("profile/Background Color", "background"),
    color("profile/Cursor Color", "cursor"),
    color("profile/Cursor Text Color", "cursor-text"),
    color("profile/Selection Color", "selection"),
    color("profile/Selected Text Color", "selection-text"),
    color("profile/Link Color", "url"),
    own("profile/Bold Color", End::Text),
    own("profile/Tab Color", End::Ground),
    own("profile/Badge Color", End::Text),
    key("profile/Normal Font", Means::Several(&Face)),
    number("profile/Transparency", Property::WindowOpacity).scaled(Scale::Rest),
    flag("profile/Blur", Property::WindowBlur, TRUE),
    flag(
        "profile/Cursor Type",
        Property::Cursor,
        &[
            ("2", Word::Says("block")),
            ("1", Word::Says("bar")),
            ("0", Word::Says("underline")),
        ],
    ),
    number("profile/Columns", Property::WindowColumns).scaled(Scale::Whole),
    number("profile/Rows", Property::WindowRows).scaled(Scale::Whole),
    number("profile/Vertical Spacing", Property::FontLineHeight),
    number("profile/Horizontal Spacing", Property::FontColumnWidth),
    path("profile/Background Image Location", Property::Image),
    flag(
        "profile/Background Image Mode",
        Property::ImageFit,
        &[
            ("2", Word::Says("cover")),
            ("3", Word::Says("whole")),
            ("0", Word::Says("stretch")),
            ("1", Word::Says("tile")),
        ],
    ),
    number("profile/Blend", Property::ImageTint).scaled(Scale::Rest),
    flag(
        "profile/Silence Bell",
        Property::BellSound,
        &[("true", Word::Says("off")), ("false", Word::Says("on"))],
    ),
    flag("profile/Visual Bell", Property::BellFlash, TRUE),
    path("profile/Working Directory", Property::WindowFolder).read_only(),
    name("profile/Command", Property::WindowShell).read_only(),
    flag("profile/Blinking Cursor", Property::CursorBlink, TRUE),
    scrollback("profile/Scrollback Lines"),
    key(
        "profile/Use Separate Colors for Light and Dark Mode",
        Means::Told(Property::Follow),
    )
    .words(TRUE),
];

/// The row.
pub static ITERM: Table = Table {
    id: ToolId("iterm2"),
    program: "iTerm2",
    places: &[
        Where::Any(FOLDER, "json"),
        Where::Home("Library/Application Support/iTerm2/DynamicProfiles/wealdmist.json"),
    ],
    notation: &NOTATION,
    keys: KEYS,
    sixteen: Sixteen::Listed("profile/Ansi"),
    color: Spelling {
        write: |color, _| Code::color(color),
        ..Table::TERMINAL.color
    },
    bad_value: "colors have three numbers from 0 to 1, in the space sRGB",
    fonts: Fonts::Facts(FontFacts {
        substitutes: "the terminal takes a font of its own instead",
        families_only: false,
        proportional: true,
        own: &[(0x2500, 0x259f), (0xe0b0, 0xe0b3)],
    }),
    live: Live {
        arrives: "at once: it watches these profiles",
        inside: Some("ITERM_SESSION_ID"),
        ..Table::TERMINAL.live
    },
    ..Table::TERMINAL
};

const FOLDER: &str = "Library/Application Support/iTerm2/DynamicProfiles";
const FIRST: &str = "Profiles/0/";
const APART: &str = "Profiles/0/Use Separate Colors for Light and Dark Mode";
const DARK: &str = " (Dark)";

/// Whether colors are said for dark and light by themselves; those for dark count.
fn has_sides(entries: &[Entry]) -> bool {
    let says = entries.iter().rfind(|e| e.path == APART);
    says.is_some_and(|e| e.text == "true" || e.text == "1")
}

fn names(entries: &[Entry]) -> Vec<Option<String>> {
    let sides = has_sides(entries);
    let name = |e: &Entry| {
        let name = e.path.strip_prefix(FIRST)?;
        let name = match (sides, name.strip_suffix(DARK)) {
            (true, Some(name)) => name,
            (true, None) if name.ends_with(" Color") => return None,
            _ => name,
        };
        let ansi = name
            .strip_prefix("Ansi ")
            .and_then(|n| n.strip_suffix(" Color"));
        Some(match ansi {
            Some(number) => format!("profile/Ansi/{number}"),
            None => format!("profile/{name}"),
        })
    };
    entries.iter().map(name).collect()
}

fn shown(path: &str) -> String {
    match path.strip_prefix("profile/Ansi/") {
        Some(number) => format!("Ansi {number} Color"),
        None => path
            .strip_prefix("profile/")
            .unwrap_or(path)
            .replace('/', "."),
    }
}

fn places(entries: &[Entry], new: &[New]) -> Vec<(usize, To)> {
    let sides = has_sides(entries);
    let fixed = |names: [&'static str; 2]| names.map(Code::fixed).to_vec();
    let profile = fixed(["Profiles", "0"]);
    let mut out = Vec::new();
    for (i, one) in new.iter().enumerate() {
        let add = |name: Code, value: Code| {
            let mut names = profile.clone();
            names.push(name);
            To::Add(Deep {
                names,
                value,
                near: one.near.map(|n| entries[n].value.start),
                why: one.why.clone(),
            })
        };
        if i == 0 && entries.is_empty() {
            // A profile has to have a name, and one that no other has.
            out.push((0, add(Code::fixed("Name"), Code::fixed("\"Wealdmist\""))));
            out.push((0, add(Code::fixed("Guid"), Code::fixed("\"wealdmist\""))));
        }
        let name = match one.spot.section {
            "profile/Ansi" => Code::of("Ansi {} Color", &[&one.spot.name]),
            _ => one.spot.name.clone(),
        };
        let is_color = name.ends_with(b" Color");
        let name = match sides && is_color {
            true => Code::join([&name, &Code::fixed(DARK)], ""),
            false => name,
        };
        out.push((i, add(name, one.value.clone())));
    }
    out
}

/// The name of a face and its size. It is the name that the file of the font has for the face, not that of its family,
/// which alone a setup knows.
struct Face;

impl Face {
    fn size(text: &str) -> Option<Range<usize>> {
        let at = text.rfind(' ')? + 1;
        let size: f64 = text[at..].parse().ok()?;
        size.is_finite().then_some(at..text.len())
    }
}

impl Compound for Face {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let size = Self::size(text).and_then(|at| {
            let size = text[at.clone()].parse().ok()?;
            Some((Property::FontSize.into(), Value::Number(size), at))
        });
        size.into_iter().collect()
    }

    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>> {
        let font = &wanted.setup.font;
        let name = || {
            let family = font.family.as_ref()?;
            let (face, _) = wanted.catalog?.find(family)?;
            quote(face.info.postscript.as_ref()?, &[quoting])
        };
        let size = |size: f64| Code::short_number(size);
        match (Self::size(text), font.size) {
            (Some(at), Some(wanted)) => Some(vec![(at, size(wanted))]),
            (None, wanted) if text.is_empty() => {
                let size = size(wanted.unwrap_or(12.0));
                Some(vec![(0..0, Code::of("{} {}", &[&name()?, &size]))])
            }
            _ => Some(Vec::new()),
        }
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::FontSize]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Adapter;
    use crate::access::MemoryAccess;
    use crate::testing::{catalog, planned_with};
    use wealdmist_core::color::Rgb;
    use wealdmist_core::role::Slot;

    const PLACE: &str = "Library/Application Support/iTerm2/DynamicProfiles/mine.json";

    const PROFILES: &str = r#"{
  "Profiles": [
    {
      "Name": "Mooring", "Guid": "m-1",
      "Ansi 1 Color": {
        "Red Component": 0.66666668653488159,
        "Color Space": "sRGB",
        "Blue Component": 0,
        "Green Component": 0.0
      },
      "Background Color" : { "Color Space" : "P3", "Red Component" : 1, "Green Component" : 0, "Blue Component" : 0 },
      "Normal Font" : "ReedbedMonoNF-Regular 12",
      "Transparency" : 0.25
    }
  ]
}
"#;

    fn after(text: &str, setup: &str) -> String {
        let home = MemoryAccess::with(&[(PLACE, text)]);
        let mut changed = planned_with(&ITERM, &home, setup, Some(&catalog()));
        changed.pop().map_or_else(|| text.to_owned(), |f| f.1)
    }

    #[test]
    fn a_color_is_three_numbers() {
        let home = MemoryAccess::with(&[(PLACE, PROFILES)]);
        let report = ITERM.read(&home, &mut crate::Facts::default());
        let said = |role: RoleId| report.effective(&role).map(|r| r.value.clone());
        assert_eq!(
            said(Slot::Red.into()),
            Some(Value::Color(Rgb::from_u32(0xaa_0000)))
        );
        assert_eq!(
            said(Property::WindowOpacity.into()),
            Some(Value::Number(0.75))
        );
        assert_eq!(said(Property::FontSize.into()), Some(Value::Number(12.0)));
        assert_eq!(said(Slot::Background.into()), None);
        assert!(report.problems[0].message.contains("the space P3"));
    }

    #[test]
    fn only_the_numbers_that_differ_change() {
        let setup = "[palettes.a]\nred='#aa0033'\nbackground='#000000'\nblue='#0000ff'\n[font]\nfamily='Reedbed Mono NF'\nsize=13\n[window]\nopacity=0.9\n";
        let changed = after(PROFILES, setup);
        let blue = "\"Ansi 4 Color\": {\n        \"Color Space\": \"sRGB\",\n        \"Alpha Component\": 1,\n        \"Red Component\": 0,\n        \"Green Component\": 0,\n        \"Blue Component\": 1\n      },";
        let wanted = PROFILES
            .replace("\"Blue Component\": 0,\n", "\"Blue Component\": 0.2,\n")
            .replace("Regular 12", "Regular 13")
            .replace("0.25", "0.1")
            .replace("0.0\n      },", &format!("0.0\n      }},\n      {blue}"));
        assert_eq!(changed, wanted);
        assert_eq!(after(&changed, setup), changed);
    }

    #[test]
    fn every_channel_is_read_as_it_was_written() {
        for channel in 0..=255u8 {
            let color = Rgb::new(channel, 255 - channel, channel / 2);
            let setup = format!("[palettes.a]\nred='{color}'\n");
            let changed = after("", &setup);
            let other: serde_json::Value = serde_json::from_str(&changed).unwrap();
            let all = &other["Profiles"][0]["Ansi 1 Color"];
            for (name, channel) in [("Red", color.r), ("Green", color.g), ("Blue", color.b)] {
                let number = all[format!("{name} Component")].as_f64().unwrap();
                assert_eq!((number * 255.0).round() as u8, channel);
            }
            assert_eq!(after(&changed, &setup), changed);
        }
    }
}
