//! The terminal of Windows: `settings.json`, in which profiles choose one of the color schemes by its name.
//!
//! What counts is what the usual profile says, and where it says nothing what all of them share. Written from its
//! documentation; the program itself was not at hand.

use wealdmist_core::color::{Rgb, parse_any};
use wealdmist_core::property::{Edge, Property};
use wealdmist_core::quote::Code;
use wealdmist_core::reading::ToolId;

use crate::Live;
use crate::document::json::{Deep, JSON};
use crate::document::notation::{Entry, New};
use crate::document::view::{To, View};
use crate::table::{
    ANY_WORD, End, FontFacts, Fonts, Key, Means, Padding, Scale, Sixteen, Spelling, TRUE, Table,
    Where, Word, color, flag, key, name, number, own, path, scrollback, several, word,
};

const NOTATION: View = View {
    of: JSON,
    names,
    places,
    shown,
    parts: None,
};

const KEYS: &[Key] = &[
    color("scheme/foreground", "foreground"),
    color("scheme/background", "background"),
    color("scheme/cursorColor", "cursor"),
    color("scheme/selectionBackground", "selection"),
    color("profile/foreground", "foreground").read_only(),
    color("profile/background", "background").read_only(),
    color("profile/cursorColor", "cursor").read_only(),
    color("profile/selectionBackground", "selection").read_only(),
    own("profile/tabColor", End::Ground),
    name("profile/font/face", Property::FontFamily),
    number("profile/font/size", Property::FontSize),
    number("profile/opacity", Property::WindowOpacity).scaled(Scale::Hundredths),
    several("profile/padding", &PADDING),
    number("profile/font/cellHeight", Property::FontLineHeight)
        .lenient()
        .read_only(),
    number("profile/font/cellWidth", Property::FontColumnWidth)
        .lenient()
        .read_only(),
    flag("profile/font/builtinGlyphs", Property::FontOwnLines, TRUE),
    number("window/initialCols", Property::WindowColumns).scaled(Scale::Whole),
    number("window/initialRows", Property::WindowRows).scaled(Scale::Whole),
    path("profile/backgroundImage", Property::Image).read_only(),
    word(
        "profile/backgroundImageStretchMode",
        Property::ImageFit,
        &[
            ("uniformToFill", Word::Says("cover")),
            ("uniform", Word::Says("whole")),
            ("fill", Word::Says("stretch")),
            ("none", Word::Says("center")),
        ],
    ),
    word(
        "profile/backgroundImageAlignment",
        Property::ImagePlace,
        &[
            ("center", Word::Says("center")),
            ("top", Word::Says("top")),
            ("bottom", Word::Says("bottom")),
            ("left", Word::Says("left")),
            ("right", Word::Says("right")),
            ("topLeft", Word::Says("top-left")),
            ("topRight", Word::Says("top-right")),
            ("bottomLeft", Word::Says("bottom-left")),
            ("bottomRight", Word::Says("bottom-right")),
        ],
    ),
    name("profile/tabTitle", Property::Title),
    flag(
        "profile/suppressApplicationTitle",
        Property::TitleSet,
        &[("true", Word::Says("off")), ("false", Word::Says("on"))],
    ),
    number("profile/backgroundImageOpacity", Property::ImageTint).scaled(Scale::Rest),
    path("profile/startingDirectory", Property::WindowFolder).read_only(),
    name("profile/commandline", Property::WindowShell).read_only(),
    flag("profile/useAcrylic", Property::WindowBlur, TRUE),
    word(
        "profile/cursorShape",
        Property::Cursor,
        &[
            ("filledBox", Word::Says("block")),
            ("bar", Word::Says("bar")),
            ("underscore", Word::Says("underline")),
            ("emptyBox", Word::Says("hollow")),
        ],
    ),
    scrollback("profile/historySize"),
    // With a scheme for each side it follows the desktop, or the theme of its own window.
    key("profile/colorScheme/dark", Means::Told(Property::Follow))
        .words(&[(ANY_WORD, Word::Says("on"))]),
    key("profile/colorScheme", Means::Told(Property::Follow))
        .words(&[(ANY_WORD, Word::Says("off"))]),
];

const PADDING: Padding = Padding {
    forms: &[
        &[Edge::All],
        &[Edge::Across, Edge::Down],
        &[Edge::Left, Edge::Top, Edge::Right, Edge::Bottom],
    ],
    between: ", ",
    pixels: true,
    behind: &[],
};

/// The row.
pub static WINDOWS_TERMINAL: Table = Table {
    id: ToolId("windows-terminal"),
    program: "wt",
    places: &[
        Where::Home(
            "AppData/Local/Packages/Microsoft.WindowsTerminal_8wekyb3d8bbwe/LocalState/settings.json",
        ),
        Where::Home(
            "AppData/Local/Packages/Microsoft.WindowsTerminalPreview_8wekyb3d8bbwe/LocalState/settings.json",
        ),
        Where::Home("AppData/Local/Microsoft/Windows Terminal/settings.json"),
    ],
    notation: &NOTATION,
    keys: KEYS,
    sixteen: Sixteen::Named {
        normal: "scheme",
        bright: "scheme/bright",
        names: [
            "black", "red", "green", "yellow", "blue", "purple", "cyan", "white",
        ],
    },
    color: Spelling {
        read: any_color,
        ..Table::TERMINAL.color
    },
    bad_value: "the terminal says so when it starts and takes what it has by itself; write \"#rrggbb\" or a number",
    fonts: Fonts::Facts(FontFacts {
        substitutes: "the terminal says so and takes a font of its own instead",
        families_only: true,
        proportional: true,
        own: &[(0x2500, 0x259f), (0xe0b0, 0xe0b3)],
    }),
    live: Live {
        inside: Some("WT_SESSION"),
        ..Table::TERMINAL.live
    },
    ..Table::TERMINAL
};

fn any_color(text: &str) -> Option<Rgb> {
    match text.starts_with('#') {
        true => Rgb::from_hex(text).filter(|_| matches!(text.len(), 4 | 7)),
        false => parse_any(text).filter(|_| text.starts_with("rgb(")),
    }
}

/// What a file comes to: which profile is the usual one, which scheme it chooses.
#[derive(Default)]
struct Chosen<'a> {
    /// The path of the usual profile, with the sign behind it.
    profile: Option<String>,
    /// Where all profiles share what they say.
    shared: &'static str,
    /// The entry that chooses a scheme.
    by: Option<&'a Entry>,
    /// The path of the scheme.
    scheme: Option<String>,
    /// How many schemes there are.
    schemes: usize,
}

const DEFAULTS: &str = "profiles/defaults/";

/// The part of a path that holds the element of a list, with the sign behind it, and its number.
fn element<'a>(path: &'a str, list: &str) -> Option<(&'a str, usize)> {
    let rest = path.strip_prefix(list)?;
    let (number, _) = rest.split_once('/')?;
    let length = list.len() + number.len() + 1;
    Some((&path[..length], number.parse().ok()?))
}

impl<'a> Chosen<'a> {
    fn of(entries: &'a [Entry]) -> Self {
        // Releases of old had the profiles themselves in the place of what they share.
        let is_list = |e: &Entry| element(&e.path, "profiles/").is_some();
        let (list, shared) = match entries.iter().any(is_list) {
            true => ("profiles/", ""),
            false => ("profiles/list/", DEFAULTS),
        };
        let usual = entries.iter().rfind(|e| e.path == "defaultProfile");
        let is_usual = |e: &&Entry| {
            let (_, name) = e.path.rsplit_once('/').unwrap_or_default();
            matches!(name, "guid" | "name")
                && usual.is_some_and(|u| u.text.eq_ignore_ascii_case(&e.text))
                && element(&e.path, list)
                    .is_some_and(|(of, _)| e.path.len() == of.len() + name.len())
        };
        let profile = entries.iter().find(is_usual);
        let profile = profile.and_then(|e| Some(element(&e.path, list)?.0.to_owned()));
        let chooses = |of: &str| {
            let is = |e: &&Entry| {
                let name = e.path.strip_prefix(of);
                name.is_some_and(|n| n == "colorScheme" || n == "colorScheme/dark")
            };
            entries.iter().rfind(is)
        };
        let own = profile.as_deref().and_then(chooses);
        let by = own.or_else(|| chooses(shared).filter(|_| !shared.is_empty()));
        let is_it = |e: &&Entry| {
            let of = element(&e.path, "schemes/").map(|(of, _)| &e.path[of.len()..]);
            of == Some("name") && by.is_some_and(|by| by.text == e.text)
        };
        let scheme = entries.iter().rfind(is_it);
        let schemes = entries.iter().filter_map(|e| element(&e.path, "schemes/"));
        Self {
            scheme: scheme.and_then(|e| Some(element(&e.path, "schemes/")?.0.to_owned())),
            schemes: schemes.map(|(_, n)| n + 1).max().unwrap_or(0),
            profile,
            shared,
            by,
        }
    }
}

/// The colors of a scheme that a profile may say too.
const OVER: [&str; 4] = [
    "foreground",
    "background",
    "cursorColor",
    "selectionBackground",
];

/// What releases of old called something.
fn today(name: &str) -> &str {
    match name {
        "fontFace" => "font/face",
        "fontSize" => "font/size",
        "fontWeight" => "font/weight",
        "acrylicOpacity" => "opacity",
        name => name,
    }
}

fn names(entries: &[Entry]) -> Vec<Option<String>> {
    let chosen = Chosen::of(entries);
    let own = |e: &'_ Entry| {
        let name = e.path.strip_prefix(chosen.profile.as_deref()?)?;
        Some(today(name).to_owned())
    };
    let all_share = |e: &'_ Entry| {
        let name = e.path.strip_prefix(chosen.shared)?;
        (!chosen.shared.is_empty()).then(|| today(name).to_owned())
    };
    let says_own: std::collections::HashSet<String> = entries.iter().filter_map(own).collect();
    let says: std::collections::HashSet<String> = entries
        .iter()
        .filter_map(all_share)
        .chain(says_own.iter().cloned())
        .collect();
    let name = |e: &Entry| {
        if !e.path.contains('/') {
            return Some(format!("window/{}", e.path));
        }
        if let Some(name) = own(e) {
            return Some(format!("profile/{name}"));
        }
        if let Some(name) = all_share(e) {
            // A scheme of its own, or one for each side.
            let said = match name.starts_with("colorScheme") {
                true => says_own.iter().any(|n| n.starts_with("colorScheme")),
                false => says_own.contains(&name),
            };
            return (!said).then(|| format!("profile/{name}"));
        }
        let name = e.path.strip_prefix(chosen.scheme.as_deref()?)?;
        if OVER.contains(&name) && says.contains(name) {
            return None;
        }
        Some(match name.strip_prefix("bright") {
            Some(name) => format!("scheme/bright/{}", name.to_lowercase()),
            None => format!("scheme/{name}"),
        })
    };
    entries.iter().map(name).collect()
}

/// The name of one of the brighter colors.
fn bright(name: &str) -> &'static str {
    match name {
        "black" => "brightBlack",
        "red" => "brightRed",
        "green" => "brightGreen",
        "yellow" => "brightYellow",
        "blue" => "brightBlue",
        "purple" => "brightPurple",
        "cyan" => "brightCyan",
        _ => "brightWhite",
    }
}

fn shown(path: &str) -> String {
    match path.strip_prefix("scheme/bright/") {
        Some(name) => format!("scheme.{}", bright(name)),
        None => path
            .strip_prefix("window/")
            .unwrap_or(path)
            .replace('/', "."),
    }
}

const OURS: &str = "Wealdmist";

fn places(entries: &[Entry], new: &[New]) -> Vec<(usize, To)> {
    let chosen = Chosen::of(entries);
    let fixed = |path: &'static str| path.split('/').map(Code::fixed).collect::<Vec<_>>();
    let kept = |path: &str| {
        let names = path.split('/').filter(|n| !n.is_empty());
        names.map(|n| Code::kept(n.as_bytes())).collect::<Vec<_>>()
    };
    // Where all share it, unless there is no such place.
    let profile = match (chosen.shared, &chosen.profile) {
        ("", Some(profile)) => kept(profile),
        _ => fixed("profiles/defaults"),
    };
    let scheme = match &chosen.scheme {
        Some(scheme) => kept(scheme),
        None => vec![Code::fixed("schemes"), Code::whole(chosen.schemes as u64)],
    };
    let mut out = Vec::new();
    let mut begun = chosen.scheme.is_some();
    for (i, one) in new.iter().enumerate() {
        let add = |mut names: Vec<Code>, rest: Vec<Code>, value: Code| {
            names.extend(rest);
            To::Add(Deep {
                names,
                value,
                near: one.near.map(|n| entries[n].value.start),
                why: one.why.clone(),
            })
        };
        let section = one.spot.section;
        let name = one.spot.name.clone();
        if let Some(rest) = section.strip_prefix("profile") {
            let mut rest = kept(rest);
            rest.push(name);
            out.push((i, add(profile.clone(), rest, one.value.clone())));
            continue;
        }
        if section == "window" {
            out.push((i, add(Vec::new(), vec![name], one.value.clone())));
            continue;
        }
        if !begun {
            // One of the program's own cannot be changed: a new one is chosen.
            begun = true;
            let ours = || Code::of("\"{}\"", &[&Code::fixed(OURS)]);
            out.push((i, add(scheme.clone(), fixed("name"), ours())));
            out.push((
                i,
                match chosen.by {
                    Some(by) => To::Replace(by.value.clone(), ours()),
                    None => add(profile.clone(), fixed("colorScheme"), ours()),
                },
            ));
        }
        let name = match section {
            "scheme/bright" => Code::fixed(bright(&name.lossy())),
            _ => name,
        };
        out.push((i, add(scheme.clone(), vec![name], one.value.clone())));
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Adapter;
    use crate::access::MemoryAccess;
    use crate::testing::planned_with;
    use wealdmist_core::reading::Value;
    use wealdmist_core::role::{RoleId, Slot};

    const PLACE: &str = "AppData/Local/Microsoft/Windows Terminal/settings.json";

    fn read(text: &str) -> wealdmist_core::reading::ToolReport {
        let home = MemoryAccess::with(&[(PLACE, text)]);
        WINDOWS_TERMINAL.read(&home, &mut crate::Facts::default())
    }

    fn says(text: &str, role: impl Into<RoleId>) -> Option<Value> {
        read(text).effective(&role.into()).map(|r| r.value.clone())
    }

    fn after(text: &str, setup: &str) -> String {
        let home = MemoryAccess::with(&[(PLACE, text)]);
        let mut changed = planned_with(&WINDOWS_TERMINAL, &home, setup, None);
        changed.pop().map_or_else(|| text.to_owned(), |f| f.1)
    }

    const SETTINGS: &str = r##"// Mine.
{
    "defaultProfile": "{61c5}",
    "profiles": {
        "list": [
            { "guid": "{0001}", "name": "Mooring", "colorScheme": "Salt" },
            {
                "guid": "{61C5}",
                "name": "Harbour", // the usual one
                "font": { "face": "Reedbed Mono", "size": 11 },
                "background": "#010203"
            }
        ],
        "defaults": {
            "colorScheme": "Marsh",
            "fontFace": "Sedge Mono",
            "opacity": 85,
            "padding": "8, 4",
        }
    },
    "schemes": [
        { "name": "Salt", "red": "#111111" },
        {
            "name": "Marsh",
            "background": "#222222",
            "red": "#AA0000",
            "brightRed": "#FF0000"
        }
    ]
}
"##;

    #[test]
    fn what_the_usual_profile_comes_to_counts() {
        let color = |n| Some(Value::Color(Rgb::from_u32(n)));
        assert_eq!(says(SETTINGS, Slot::Red), color(0xaa_0000));
        assert_eq!(says(SETTINGS, Slot::BrightRed), color(0xff_0000));
        assert_eq!(says(SETTINGS, Slot::Background), color(0x01_0203));
        assert_eq!(
            says(SETTINGS, Property::FontFamily),
            Some(Value::Text("Reedbed Mono".into()))
        );
        assert_eq!(
            says(SETTINGS, Property::WindowOpacity),
            Some(Value::Number(0.85))
        );
        // Without it what all share does.
        let shared = SETTINGS.replace("{61c5}", "{none}");
        assert_eq!(says(&shared, Slot::Background), color(0x22_2222));
        assert_eq!(
            says(&shared, Property::FontFamily),
            Some(Value::Text("Sedge Mono".into()))
        );
        let other = SETTINGS.replace("{61c5}", "mooring");
        assert_eq!(says(&other, Slot::Red), color(0x11_1111));
        let sides = SETTINGS.replace(
            "\"Marsh\",\n            \"fontFace\"",
            "{ \"light\": \"Salt\", \"dark\": \"Marsh\" },\n            \"fontFace\"",
        );
        assert_eq!(says(&sides, Slot::Red), color(0xaa_0000));
    }

    #[test]
    fn only_what_is_meant_changes() {
        let setup = "[palettes.a]\nred='#bb0000'\nbright-red='#ff0000'\nbackground='#010203'\nblue='#0000bb'\n[font]\nfamily='Reedbed Mono'\nsize=12\n";
        let changed = after(SETTINGS, setup);
        let wanted = SETTINGS
            .replace("#AA0000", "#BB0000")
            .replace("11 }", "12.0 }")
            .replace(
                "            \"red\": \"#BB0000\",\n",
                "            \"red\": \"#BB0000\",\n            \"blue\": \"#0000bb\",\n",
            );
        assert_eq!(changed, wanted);
        assert_eq!(after(&changed, setup), changed);
    }

    #[test]
    fn a_scheme_of_the_programs_own_gives_way_to_one_of_ours() {
        let setup = "[palettes.a]\nred='#bb0000'\nbright-blue='#0000bb'\n";
        let text = "{\n    \"profiles\": { \"defaults\": { \"colorScheme\": \"Its own\" } },\n    \"schemes\": []\n}\n";
        let changed = after(text, setup);
        let wanted = "{\n    \"profiles\": { \"defaults\": { \"colorScheme\": \"Wealdmist\" } },\n    \"schemes\": [\n        {\n            \"name\": \"Wealdmist\",\n            \"red\": \"#bb0000\",\n            \"brightBlue\": \"#0000bb\"\n        }\n    ]\n}\n";
        assert_eq!(changed, wanted);
        assert_eq!(after(&changed, setup), changed);
        // Releases of old had a list of profiles.
        let old = "{\"defaultProfile\": \"a\", \"profiles\": [{\"guid\": \"a\"}]}";
        let changed = after(old, setup);
        assert_eq!(
            says(&changed, Slot::Red),
            Some(Value::Color(Rgb::from_u32(0xbb_0000)))
        );
        assert_eq!(after(&changed, setup), changed);
    }

    #[test]
    fn a_comma_that_is_missing_has_its_line() {
        let broken = SETTINGS.replace("\"name\": \"Harbour\",", "\"name\": \"Harbour\"");
        let report = read(&broken);
        let problem = &report.problems[0];
        assert!(problem.blocks_edits);
        let line = problem.at.map(|at| at.line);
        assert!(matches!(line, Some(9 | 10)), "{problem:?}");
    }
}
