//! The terminal foot: `foot.ini`.
//!
//! Sections of `key=value`; what stands before the first is of the section `main`. Colors have no
//! sign before them; the cursor's two stand in one value. Nothing is read again while it runs.

use wealdmist_core::font::Four;
use wealdmist_core::property::{Edge, Property};
use wealdmist_core::quote::Quoting;
use wealdmist_core::reading::ToolId;
use wealdmist_core::terminal::Images;
use wealdmist_core::width::Counting;

use crate::document::settings::Settings;
use crate::document::sided::Sided;
use crate::table::{
    Defaults, End, FontFacts, FontList, Fonts, Includes, Key, Means, Padding, Part, Quirks, Scale,
    Shipped, Sixteen, Size, Spelling, Table, Term, Where, Wins, Word, color, key, name, number,
    own, scrollback, several, spelling, word,
};
use crate::{Answers, Live, Reload};

const NOTATION: Sided = Sided {
    settings: Settings {
        separator: Some(b'='),
        written: "=",
        comment: "#",
        trailing: true,
        quotes: false,
        indexed: &[],
        main: Some("main"),
        quoting: Quoting::BeforeComment,
    },
    section: "colors",
    sides: [&["colors-dark"], &["colors-light", "colors2"]],
    by: "main/initial-color-theme",
    light: &["light", "2"],
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
    word(
        "main/box-drawings-uses-font-glyphs",
        Property::FontOwnLines,
        NOT_YES,
    ),
    key("main/font", Means::Several(&FontList(Four::Regular))),
    key("main/font-bold", Means::Several(&FontList(Four::Bold))),
    key("main/font-italic", Means::Several(&FontList(Four::Italic))),
    key(
        "main/font-bold-italic",
        Means::Several(&FontList(Four::BoldItalic)),
    ),
    several("main/pad", &PAD),
    name("main/title", Property::Title),
    word("main/locked-title", Property::TitleSet, NOT_YES),
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
    word("cursor/blink", Property::CursorBlink, YES),
    number("cursor/blink-rate", Property::CursorRate)
        .scaled(Scale::Whole)
        .read_only(),
    number("cursor/beam-thickness", Property::CursorThickness).lenient(),
    word(
        "cursor/unfocused-style",
        Property::CursorUnfocused,
        &[
            ("hollow", Word::Says("hollow")),
            ("unchanged", Word::Says("same")),
            ("none", Word::Says("none")),
        ],
    )
    .read_only(),
    several("main/initial-window-size-chars", &Size),
    word("mouse/hide-when-typing", Property::MouseHidden, YES),
    word("bell/visual", Property::BellFlash, YES).read_only(),
    name("main/shell", Property::WindowShell).read_only(),
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

const YES: &[(&str, Word)] = &[
    ("yes", Word::Says("on")),
    ("no", Word::Says("off")),
    ("true", Word::Says("on")),
    ("on", Word::Says("on")),
    ("1", Word::Says("on")),
    ("false", Word::Says("off")),
    ("off", Word::Says("off")),
    ("0", Word::Says("off")),
];

/// The same, said of the opposite.
const NOT_YES: &[(&str, Word)] = &[
    ("yes", Word::Says("off")),
    ("no", Word::Says("on")),
    ("true", Word::Says("off")),
    ("on", Word::Says("off")),
    ("1", Word::Says("off")),
    ("false", Word::Says("on")),
    ("off", Word::Says("on")),
    ("0", Word::Says("on")),
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
        own: &[(0x2500, 0x259f), (0x2800, 0x28ff), (0x1_fb00, 0x1_fb9b)],
    }),
    term: Term {
        key: Some("main/term"),
        own: "foot",
        full_color: false,
        images: Images::Sixel,
        counts: Counting::CodePoints,
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
const PAD: Padding = Padding {
    forms: &[&[Edge::Across, Edge::Down]],
    between: "x",
    pixels: true,
    behind: &[
        " center",
        " center-when-maximized-and-fullscreen",
        " center-when-fullscreen",
    ],
};

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Adapter;
    use crate::access::MemoryAccess;
    use crate::testing::planned_with;
    use wealdmist_core::role::{RoleId, Slot};

    const PLACE: &str = ".config/foot/foot.ini";

    fn says(text: &str, slot: Slot) -> Option<String> {
        let home = MemoryAccess::with(&[(PLACE, text)]);
        let report = FOOT.read(&home, &mut crate::Facts::default());
        let reading = report.effective(&RoleId::from(slot))?;
        (!reading.is_default()).then(|| reading.value.to_string())
    }

    fn after(text: &str) -> String {
        let setup = "[palettes.a]\nbackground='#0a0b0c'\nred='#cc0102'\n";
        let home = MemoryAccess::with(&[(PLACE, text)]);
        let mut changed = planned_with(&FOOT, &home, setup, None);
        changed.pop().map_or_else(|| text.to_owned(), |f| f.1)
    }

    const SIDES: &str = "[colors-dark]\nbackground=101112\n[colors-light]\nbackground=e0e1e2\n";

    #[test]
    fn of_two_sides_the_one_in_use_counts_and_is_changed() {
        let light = format!("initial-color-theme=light\n{SIDES}");
        let older = light
            .replace("=light\n", "=2\n")
            .replace("colors-light", "colors2")
            .replace("colors-dark", "colors");
        for (text, ground) in [
            (SIDES, "#101112"),
            (&light, "#e0e1e2"),
            (&older, "#e0e1e2"),
            (&older.replace("=2\n", "=1\n"), "#101112"),
        ] {
            assert_eq!(
                says(text, Slot::Background).as_deref(),
                Some(ground),
                "{text}"
            );
            let old = &ground[1..];
            let wanted = text.replace(old, "0a0b0c\nregular1=cc0102");
            assert_eq!(after(text), wanted);
        }
        // Newer versions take the section of older ones as the dark side.
        let both = "[colors]\nbackground=101112\n[colors-light]\nbackground=e0e1e2\n";
        assert_eq!(says(both, Slot::Background).as_deref(), Some("#101112"));
        let none =
            "initial-color-theme=light\n[colors-light]\nred=1\n[colors]\nbackground=101112\n";
        assert_eq!(says(none, Slot::Background), None);
    }
}
