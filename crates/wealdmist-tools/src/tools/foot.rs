//! The terminal foot: `foot.ini`.
//!
//! Sections of `key=value`; what stands before the first is of the section `main`. Colors have no
//! sign before them; the cursor's two stand in one value. Nothing is read again while it runs.

use std::ops::Range;

use wealdmist_core::font::Four;
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{ToolId, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::terminal::Images;

use crate::document::settings::Settings;
use crate::table::{
    Compound, Defaults, End, FontFacts, FontList, Fonts, Includes, Key, Means, Part, Quirks,
    Shipped, Sixteen, Spelling, Table, Term, Where, Wins, Word, color, key, number, own,
    scrollback, spelling, word,
};
use crate::{Answers, Live, Reload, Wanted};

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
    word(
        "cursor/style",
        Property::Cursor,
        &[
            ("block", Word::Says("block")),
            ("beam", Word::Says("bar")),
            ("underline", Word::Says("underline")),
        ],
    ),
    word(
        "cursor/blink",
        Property::CursorBlink,
        &[
            ("yes", Word::Says("on")),
            ("no", Word::Says("off")),
            ("true", Word::Says("on")),
            ("on", Word::Says("on")),
            ("1", Word::Says("on")),
            ("false", Word::Says("off")),
            ("off", Word::Says("off")),
            ("0", Word::Says("off")),
        ],
    ),
    scrollback("scrollback/lines"),
    word(
        "csd/preferred",
        Property::WindowDecorations,
        &[
            ("server", Word::Says("full")),
            ("client", Word::Says("full")),
            ("none", Word::Says("none")),
        ],
    ),
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
        any_case: false,
        read: spelling::bare,
        write: spelling::like_bare,
    },
    defaults: Defaults {
        known: &[],
        shipped: Some(Shipped::Lines("/etc/xdg/foot/foot.ini")),
    },
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
        images: Images::Sixel,
    },
    live: Live {
        reload: Reload::Escapes,
        arrives: "colors at once, by escapes to each window; the rest with the next start",
        mark: Some("libwayland-client"),
        commands: &[],
        inside: None,
        sockets: &[],
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
        asking: None,
        merges: None,
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
        let Value::Number(points) = Property::WindowPadding.of(wanted.setup)? else {
            return None;
        };
        let pixels = (points / 0.75).round().max(0.0) as u64;
        let pixels = Code::whole(pixels);
        let first = text.find(char::is_whitespace).unwrap_or(text.len());
        let with = Code::of("{}x{}", &[&pixels, &pixels]);
        Some(vec![(0..first, with)])
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::WindowPadding]
    }
}
