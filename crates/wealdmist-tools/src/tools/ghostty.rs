//! The terminal Ghostty: a file of `key = value`.
//!
//! Files that it names are read after it, and what they say wins. A font family given again is a
//! fallback for the one before. Written from its documentation; the program itself was not at hand.

use std::ops::Range;

use wealdmist_core::color::{Rgb, x11_color};
use wealdmist_core::property::{Edge, Property};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{ToolId, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::terminal::Images;
use wealdmist_core::width::Counting;

use crate::document::notation::{Datum, Spot};
use crate::document::settings::Settings;
use crate::table::{
    Compound, Defaults, End, FontFacts, Fonts, Includes, Key, Line, Means, Padding, Quirks, Scale,
    Sixteen, Spelling, TRUE, Table, Term, Where, Wins, Word, color, flag, key, name, number, own,
    path, several, spelling, word,
};
use crate::{Answers, Live, Reload, Wanted};

const NOTATION: Settings = Settings {
    separator: Some(b'='),
    written: " = ",
    comment: "#",
    trailing: false,
    quotes: true,
    indexed: &[("palette", b'=')],
    main: None,
    quoting: Quoting::Unquoted,
};

const KEYS: &[Key] = &[
    color("foreground", "foreground"),
    color("background", "background"),
    color("cursor-color", "cursor"),
    color("cursor-text", "cursor-text"),
    color("selection-background", "selection"),
    color("selection-foreground", "selection-text"),
    own("split-divider-color", End::Text),
    own("unfocused-split-fill", End::Ground),
    key(
        "font-family",
        Means::List(Property::FontFamily, Property::FontFallback),
    ),
    name("font-family-bold", Property::FontBold),
    name("font-family-italic", Property::FontItalic),
    name("font-family-bold-italic", Property::FontBoldItalic),
    number("font-size", Property::FontSize),
    number("background-opacity", Property::WindowOpacity),
    several("window-padding-x", &ACROSS),
    several("window-padding-y", &DOWN),
    number("window-width", Property::WindowColumns).scaled(Scale::Whole),
    number("window-height", Property::WindowRows).scaled(Scale::Whole),
    word(
        "window-save-state",
        Property::WindowRemembered,
        &[
            ("always", Word::Says("on")),
            ("never", Word::Says("off")),
            ("default", Word::Default),
        ],
    )
    .read_only(),
    number("unfocused-split-opacity", Property::WindowDimmed),
    flag("mouse-hide-while-typing", Property::MouseHidden, TRUE),
    // Versions before 1.2 know no images and no place of the tabs.
    path("background-image", Property::Image).read_only(),
    word(
        "background-image-fit",
        Property::ImageFit,
        &[
            ("cover", Word::Says("cover")),
            ("contain", Word::Says("whole")),
            ("stretch", Word::Says("stretch")),
            ("none", Word::Says("center")),
        ],
    )
    .read_only(),
    word(
        "background-image-position",
        Property::ImagePlace,
        &[
            ("center", Word::Says("center")),
            ("top-left", Word::Says("top-left")),
            ("top-center", Word::Says("top")),
            ("top-right", Word::Says("top-right")),
            ("center-left", Word::Says("left")),
            ("center-center", Word::Says("center")),
            ("center-right", Word::Says("right")),
            ("bottom-left", Word::Says("bottom-left")),
            ("bottom-center", Word::Says("bottom")),
            ("bottom-right", Word::Says("bottom-right")),
        ],
    )
    .read_only(),
    name("title", Property::Title),
    number("background-image-opacity", Property::ImageTint)
        .scaled(Scale::Rest)
        .lenient()
        .read_only(),
    word(
        "gtk-tabs-location",
        Property::TabPlace,
        &[("top", Word::Says("top")), ("bottom", Word::Says("bottom"))],
    )
    .read_only(),
    word(
        "window-show-tab-bar",
        Property::TabsShown,
        &[
            ("always", Word::Says("always")),
            ("auto", Word::Says("several")),
            ("never", Word::Says("never")),
        ],
    )
    .read_only(),
    path("working-directory", Property::WindowFolder)
        .words(&[("inherit", Word::Default), ("home", Word::Default)]),
    name("command", Property::WindowShell).read_only(),
    word(
        "window-decoration",
        Property::WindowDecorations,
        &[
            ("true", Word::Says("full")),
            ("false", Word::Says("none")),
            ("auto", Word::Says("full")),
            ("client", Word::Says("full")),
            ("server", Word::Says("full")),
            ("none", Word::Says("none")),
        ],
    ),
    word("background-blur", Property::WindowBlur, TRUE),
    word(
        "cursor-style",
        Property::Cursor,
        &[
            ("block", Word::Says("block")),
            ("bar", Word::Says("bar")),
            ("underline", Word::Says("underline")),
            ("block_hollow", Word::Says("hollow")),
        ],
    ),
    word("cursor-style-blink", Property::CursorBlink, TRUE),
    several("theme", &Sides).read_only(),
];

/// A theme, or one for each side of the desktop. Colors of the file itself count before both.
struct Sides;

impl Compound for Sides {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let has = |side: &str| text.split(',').any(|one| one.trim().starts_with(side));
        let value = Value::switch(has("light:") && has("dark:"));
        vec![(Property::Follow.into(), value, 0..text.len())]
    }

    fn change(&self, _: &str, _: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        None
    }

    fn holds(&self) -> &'static [Property] {
        &[]
    }
}

const ACROSS: Padding = Padding {
    forms: &[&[Edge::Across], &[Edge::Left, Edge::Right]],
    between: ",",
    pixels: false,
    behind: &[],
};
const DOWN: Padding = Padding {
    forms: &[&[Edge::Down], &[Edge::Top, Edge::Bottom]],
    ..ACROSS
};

/// The row.
pub static GHOSTTY: Table = Table {
    id: ToolId("ghostty"),
    kind: "terminal",
    program: "ghostty",
    places: &[
        Where::Config("ghostty/config"),
        Where::Home(".config/ghostty/config"),
        Where::Home("Library/Application Support/com.mitchellh.ghostty/config"),
    ],
    notation: &NOTATION,
    includes: Some(Includes {
        keys: &["config-file"],
        patterns: &[],
        wins: Wins::Included,
        relative: true,
        told: true,
        optional: Some('?'),
    }),
    keys: KEYS,
    sixteen: Sixteen::Indexed("palette"),
    color: Spelling {
        any_case: false,
        read: any_color,
        write: spelling::like,
    },
    defaults: Defaults::UNKNOWN,
    bad_value: "Ghostty leaves this line out and says so when it starts; write #rrggbb or a number",
    fonts: Fonts::Facts(FontFacts {
        substitutes: "Ghostty takes its own font instead",
        families_only: true,
        proportional: true,
        own: &[(0x2500, 0x259f), (0x2800, 0x28ff), (0xe0b0, 0xe0b3)],
    }),
    term: Term {
        key: Some("term"),
        own: "xterm-ghostty",
        full_color: true,
        images: Images::None,
        counts: Counting::Clusters,
    },
    live: Live {
        reload: Reload::NextStart,
        arrives: "with its key for reading the file again, or its next start",
        mark: None,
        commands: &["+"],
        inside: Some("GHOSTTY_RESOURCES_DIR"),
        sockets: &[],
        file_options: &["--config-file"],
        value_options: &[],
        answers: Answers::Escapes,
        asking: None,
        merges: None,
    },
    quirks: Quirks {
        missing: fallbacks,
        ..Quirks::NONE
    },
};

fn any_color(text: &str) -> Option<Rgb> {
    spelling::hash(text)
        .or_else(|| spelling::bare(text))
        .or_else(|| x11_color(text))
}

/// The families to fall back to, where the file names none.
fn fallbacks(table: &Table, wanted: &Wanted, report: &ToolReport) -> Vec<Line> {
    // The first of the name is the font itself.
    let family = wanted.setup.font.family.is_some()
        || report.effective(&Property::FontFamily.into()).is_some();
    if !family || report.effective(&Property::FontFallback.into()).is_some() {
        return Vec::new();
    }
    let families = wanted.setup.font.fallback.iter();
    families
        .filter_map(|family| {
            Some(Line {
                role: Property::FontFallback.into(),
                spot: Spot::of("font-family"),
                value: table.notation.value(&Datum::Text(family.clone()))?,
            })
        })
        .collect()
}
