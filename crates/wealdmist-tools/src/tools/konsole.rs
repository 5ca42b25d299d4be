//! The terminal Konsole: settings that name a profile, which names a color scheme, each a file of its own.
//!
//! Schemes that the program comes with are read and never changed: where the setup wants other colors, the profile
//! names one of ours.

use std::ops::Range;

use wealdmist_core::color::{Rgb, x11_color};
use wealdmist_core::property::{Edge, Property};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::ToolId;
use wealdmist_core::width::Counting;

use crate::document::gated::{Gate, Gated};
use crate::document::settings::Settings;
use crate::table::{
    Described, End, FontFacts, Fonts, Key, Link, Linked, Means, Padding, Scale, Sixteen, Spelling,
    TRUE, Table, Term, Titles, Where, Word, color, key, name, number, own, path, scrollback,
    several, spelling, word,
};
use crate::{Live, Reload};

const SETTINGS: Settings = Settings {
    separator: Some(b'='),
    written: "=",
    comment: "#",
    trailing: false,
    quotes: false,
    indexed: &[],
    main: Some(""),
    quoting: Quoting::Line,
};

const OF_PROFILES: Gated = Gated {
    settings: SETTINGS,
    gates: &[
        Gate {
            keys: &["Scrolling/HistorySize"],
            by: "Scrolling/HistoryMode",
            on: "1",
            open: true,
        },
        Gate {
            keys: &[
                "Cursor Options/CustomCursorColor",
                "Cursor Options/CustomCursorTextColor",
            ],
            by: "Cursor Options/UseCustomCursorColor",
            on: "true",
            open: false,
        },
    ],
    list: None,
};

/// The program: what is told to its rows alike.
const fn row(places: &'static [Where], keys: &'static [Key], sixteen: Sixteen) -> Table {
    Table {
        id: ToolId("konsole"),
        program: "konsole",
        places,
        notation: &SETTINGS,
        keys,
        sixteen,
        color: Spelling {
            read: any_color,
            write: like,
            ..Table::TERMINAL.color
        },
        bad_value: "the terminal takes another color without a word; write three numbers, such as 16,24,32",
        fonts: Fonts::Facts(FontFacts {
            substitutes: "the terminal takes another font without a word",
            families_only: true,
            proportional: true,
            own: &[(0x2500, 0x259f), (0x1_fb00, 0x1_fb8b)],
        }),
        term: Term {
            counts: Counting::Joined,
            ..Table::TERMINAL.term
        },
        live: Live {
            inside: Some("KONSOLE_VERSION"),
            value_options: &[
                "-e",
                "-p",
                "--profile",
                "--workdir",
                "--layout",
                "--tabs-from-file",
            ],
            reload: Reload::Named {
                begin: "\u{1b}]50;ColorScheme=",
                end: "\u{7}",
                others: ["BlackOnWhite", "WhiteOnBlack"],
                ending: "colorscheme",
            },
            arrives: "colors at once, all else with its next start",
            ..Table::TERMINAL.live
        },
        ..Table::TERMINAL
    }
}

/// The settings themselves, which only say what the usual profile is.
pub static KONSOLE: Table = row(&[Where::Config("konsolerc")], &[], Sixteen::Nowhere);

const TITLES: Titles = Titles {
    words: &[
        ("%w", "{title}"),
        ("%#", "{number}"),
        ("%d", "{folder}"),
        ("%n", "{program}"),
    ],
    begins: &['%'],
    literal: &[("{", '{'), ("}", '}')],
    quotes: &[],
};

static PROFILE: Table = Table {
    notation: &OF_PROFILES,
    ..row(
        &[Where::Data("konsole/wealdmist.profile")],
        &[
            key("Appearance/Font", Means::Several(&FONT)),
            // The program's own spelling.
            word(
                "Appearance/UseFontLineChararacters",
                Property::FontOwnLines,
                &[("true", Word::Says("off")), ("false", Word::Says("on"))],
            ),
            color("Cursor Options/CustomCursorColor", "cursor"),
            color("Cursor Options/CustomCursorTextColor", "cursor-text"),
            several("General/TerminalMargin", &Padding::one(&[&[Edge::All]])),
            number("General/TerminalColumns", Property::WindowColumns).scaled(Scale::Whole),
            number("General/TerminalRows", Property::WindowRows).scaled(Scale::Whole),
            path("General/Directory", Property::WindowFolder),
            name("General/Command", Property::WindowShell).read_only(),
            word(
                "Cursor Options/CursorShape",
                Property::Cursor,
                &[
                    ("0", Word::Says("block")),
                    ("1", Word::Says("bar")),
                    ("2", Word::Says("underline")),
                ],
            ),
            word(
                "Terminal Features/BlinkingCursorEnabled",
                Property::CursorBlink,
                TRUE,
            ),
            several("General/LocalTabTitleFormat", &TITLES),
            scrollback("Scrolling/HistorySize"),
        ],
        Sixteen::Nowhere,
    )
};

/// A color scheme.
pub static SCHEME: Table = row(
    &[Where::Data("konsole/wealdmist.colorscheme")],
    &[
        color("Background/Color", "background"),
        color("Foreground/Color", "foreground"),
        own("BackgroundIntense/Color", End::Ground),
        own("ForegroundIntense/Color", End::Text),
        number("General/Opacity", Property::WindowOpacity),
        word("General/Blur", Property::WindowBlur, TRUE),
    ],
    Sixteen::Each(
        &[
            "Color0",
            "Color1",
            "Color2",
            "Color3",
            "Color4",
            "Color5",
            "Color6",
            "Color7",
            "Color0Intense",
            "Color1Intense",
            "Color2Intense",
            "Color3Intense",
            "Color4Intense",
            "Color5Intense",
            "Color6Intense",
            "Color7Intense",
        ],
        "Color",
    ),
);

/// The rows.
pub static ROWS: Linked = Linked {
    main: &KONSOLE,
    links: &[
        Link {
            by: "Desktop Entry/DefaultProfile",
            table: &PROFILE,
            ending: ".profile",
            shared: Some("konsole"),
            usual: None,
            ours: Some("wealdmist.profile"),
            begins: &[
                ("General/Name", "Wealdmist"),
                ("General/Parent", "FALLBACK/"),
            ],
        },
        Link {
            by: "Appearance/ColorScheme",
            table: &SCHEME,
            ending: ".colorscheme",
            shared: Some("konsole"),
            usual: Some("Breeze"),
            ours: Some("wealdmist"),
            begins: &[("General/Description", "Wealdmist")],
        },
    ],
    main_wins: false,
};

/// Three numbers, perhaps with a fourth for how opaque it is; `#rrggbb`; a name.
fn any_color(text: &str) -> Option<Rgb> {
    if text.starts_with('#') {
        return spelling::hash(text);
    }
    let parts: Vec<&str> = text.split(',').map(str::trim).collect();
    match parts[..] {
        [red, green, blue] | [red, green, blue, _] => {
            let number = |text: &str| text.parse::<u8>().ok();
            Some(Rgb::new(number(red)?, number(green)?, number(blue)?))
        }
        [name] => x11_color(name),
        _ => None,
    }
}

fn like(color: Rgb, old: Option<&str>) -> Code {
    if let Some(old) = old.filter(|old| old.starts_with('#')) {
        return spelling::like(color, Some(old));
    }
    let numbers = [color.r, color.g, color.b].map(Code::whole);
    let between = match old.is_some_and(|old| old.contains(", ")) {
        true => ", ",
        false => ",",
    };
    Code::join(&numbers, between)
}

/// A font as the toolkit describes it.
const FONT: Described = Described {
    parts,
    between: ",",
};

fn parts(text: &str) -> (Range<usize>, Option<Range<usize>>) {
    let end = text.find(',').unwrap_or(text.len());
    let size = text.get(end + 1..).map(|rest| {
        let size = rest.find(',').unwrap_or(rest.len());
        end + 1..end + 1 + size
    });
    (0..end, size)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::{Access, Loaded, MemoryAccess};
    use crate::testing::planned_with;
    use crate::{Adapter, Facts, Wanted};
    use std::path::{Path, PathBuf};
    use wealdmist_core::look::Look;
    use wealdmist_core::reading::Value;
    use wealdmist_core::role::Slot;
    use wealdmist_core::setup::SetupDoc;

    const SETUP: &str = "[palettes.a]\nred='#bb0000'\nbright-red='#ee0000'\nbackground='#101820'\n[font]\nfamily='Reedbed Mono NF'\nsize=13\n";
    const MAIN: &str = "[Desktop Entry]\nDefaultProfile=Tide.profile\n\n[MainWindow]\nState=AAAA\n";
    const PROFILE: &str = "[Appearance]\nColorScheme=Marsh\nFont=Sedge Mono,11,-1,5,50,0,0,0,0,0\n\n[Cursor Options]\nCustomCursorColor=1,2,3\n";
    const SCHEME: &str = "[Background]\nColor=16, 16, 16\n\n[Color1]\nColor=170,0,0\n\n[Color1Intense]\nColor=#ee0000\n\n[General]\nOpacity=0.9\n";

    fn home(files: &[(&str, &str)]) -> MemoryAccess {
        MemoryAccess::with(files)
    }

    const PLACES: [&str; 3] = [
        ".config/konsolerc",
        ".local/share/konsole/Tide.profile",
        ".local/share/konsole/Marsh.colorscheme",
    ];

    fn planned(home: &MemoryAccess, setup: &str) -> Vec<(String, String)> {
        let mut all = planned_with(&ROWS, home, setup, None);
        all.sort();
        let name =
            |path: std::path::PathBuf| path.file_name().unwrap().to_string_lossy().into_owned();
        all.into_iter()
            .map(|(path, text)| (name(path), text))
            .collect()
    }

    #[test]
    fn what_is_named_is_read_and_changed_where_it_stands() {
        let home = home(&[(PLACES[0], MAIN), (PLACES[1], PROFILE), (PLACES[2], SCHEME)]);
        let report = ROWS.read(&home, &mut Facts::default());
        assert_eq!((report.files.len(), report.problems.len()), (3, 0));
        let red = report.effective(&Slot::Red.into()).unwrap();
        assert_eq!(red.value, Value::Color(Rgb::from_u32(0xaa_0000)));
        assert_eq!(red.chain.iter().map(|c| c.1).collect::<Vec<_>>(), [2, 2]);
        // A color of the cursor counts where the profile says so.
        assert!(report.effective(&Slot::Cursor.into()).is_none());
        let changed = planned(&home, SETUP);
        let profile = PROFILE.replace("Sedge Mono,11,", "Reedbed Mono NF,13,");
        let scheme = SCHEME
            .replace("16, 16, 16", "16, 24, 32")
            .replace("170,0,0", "187,0,0");
        let wanted = [
            ("Marsh.colorscheme".to_owned(), scheme),
            ("Tide.profile".to_owned(), profile),
        ];
        assert_eq!(changed, wanted);
    }

    #[test]
    fn what_cannot_be_changed_gives_way_to_ours() {
        // A scheme that the program came with, and no profile at all.
        let all = [(PLACES[0], MAIN), (PLACES[1], PROFILE)];
        let scheme = (
            "wealdmist.colorscheme".to_owned(),
            "[General]\nDescription=Wealdmist\n\n[Background]\nColor=16,24,32\n\n[Color1]\nColor=187,0,0\n\n[Color1Intense]\nColor=238,0,0\n".to_owned(),
        );
        let profile = PROFILE
            .replace("Marsh", "wealdmist")
            .replace("Sedge Mono,11,", "Reedbed Mono NF,13,");
        assert_eq!(
            planned(&home(&all), SETUP),
            [("Tide.profile".to_owned(), profile), scheme.clone()]
        );
        let report = ROWS.read(&home(&all), &mut Facts::default());
        assert!(report.problems[0].message.contains("'Marsh'"));
        assert_eq!(report.problems[0].at.map(|at| at.line), Some(2));
        let none = "[MainWindow]\nState=AAAA\n";
        let wanted = [
            (
                "konsolerc".to_owned(),
                format!("{none}\n[Desktop Entry]\nDefaultProfile=wealdmist.profile\n"),
            ),
            scheme,
            (
                "wealdmist.profile".to_owned(),
                "[General]\nName=Wealdmist\nParent=FALLBACK/\n\n[Appearance]\nColorScheme=wealdmist\nFont=Reedbed Mono NF,13\n".to_owned(),
            ),
        ];
        assert_eq!(planned(&home(&[(PLACES[0], none)]), SETUP), wanted);
        // Once they are there nothing is left to do.
        let done: Vec<(String, String)> = wanted
            .iter()
            .map(|(name, text)| match name.as_str() {
                "konsolerc" => (PLACES[0].to_owned(), text.clone()),
                name => (format!(".local/share/konsole/{name}"), text.clone()),
            })
            .collect();
        let done: Vec<(&str, &str)> = done.iter().map(|(a, b)| (&**a, &**b)).collect();
        assert_eq!(planned(&home(&done), SETUP), []);
    }

    /// A home in which the scheme is there and cannot be read.
    struct Locked(MemoryAccess);

    impl Access for Locked {
        fn read(&self, path: &Path) -> Loaded {
            match path.ends_with("Marsh.colorscheme") {
                true => Loaded::Problem {
                    message: "permission denied".to_owned(),
                    help: "allow it".to_owned(),
                },
                false => self.0.read(path),
            }
        }

        fn glob(&self, pattern: &Path) -> Vec<PathBuf> {
            self.0.glob(pattern)
        }

        fn env(&self, name: &str) -> Option<String> {
            self.0.env(name)
        }

        fn home(&self) -> &Path {
            self.0.home()
        }

        fn has_program(&self, name: &str) -> bool {
            self.0.has_program(name)
        }
    }

    #[test]
    fn a_scheme_that_cannot_be_read_is_not_replaced() {
        let home = Locked(home(&[(PLACES[0], MAIN), (PLACES[1], PROFILE)]));
        let report = ROWS.read(&home, &mut Facts::default());
        assert!(report.problems.iter().any(|p| p.blocks_edits));
        let doc = SetupDoc::parse("setup.toml", SETUP.as_bytes()).unwrap();
        let look = Look::new(doc.setup());
        let wanted = Wanted {
            setup: doc.setup(),
            look: &look,
            catalog: None,
            home: std::path::Path::new(crate::access::MEMORY_HOME),
        };
        let plan = ROWS.plan(&wanted, &report, &home);
        let profile = &plan.edits[0];
        assert_eq!(plan.edits.len(), 1);
        assert!(
            !String::from_utf8(profile.after())
                .unwrap()
                .contains("wealdmist")
        );
    }

    #[test]
    fn a_name_that_leads_elsewhere_is_none() {
        let profile = PROFILE.replace("Marsh", "../../other");
        let home = home(&[
            (PLACES[0], MAIN),
            (PLACES[1], &profile),
            (".local/other.colorscheme", SCHEME),
        ]);
        assert_eq!(ROWS.read(&home, &mut Facts::default()).files.len(), 2);
    }

    #[test]
    fn colors_keep_their_spelling() {
        for (text, color) in [("1, 2,3 , 128", 0x01_0203), ("#0a0b0c", 0x0a_0b0c)] {
            assert_eq!(any_color(text), Some(Rgb::from_u32(color)));
        }
        assert_eq!(any_color("1,2"), None);
        assert_eq!(any_color("256,0,0"), None);
        assert_eq!(&*like(Rgb::new(1, 2, 3), Some("9, 9, 9")), b"1, 2, 3");
    }
}
