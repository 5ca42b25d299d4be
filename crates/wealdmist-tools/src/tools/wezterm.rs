//! The terminal WezTerm: a file in Lua that returns its settings, which may name a color scheme in a file of its own.
//!
//! Written from its documentation; the program itself was not at hand. A scheme that it comes with cannot be read:
//! colors are then said in the settings themselves, where they win.

use std::ops::Range;

use wealdmist_core::color::{Rgb, parse_any};
use wealdmist_core::property::{Edge, Property};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{ToolId, Value};
use wealdmist_core::role::RoleId;

use crate::document::lua::settings::Returned;
use crate::document::notation::Notation;
use crate::document::toml::Toml;
use crate::table::{
    Compound, Defaults, End, FontFacts, Fonts, Key, Link, Linked, Means, Padding, Scale, Sixteen,
    Spelling, TRUE, Table, Term, Where, Word, color, flag, key, name, number, own, path,
    scrollback, several, spelling, word,
};
use crate::{Live, Wanted};

const NOTATION: Returned = Returned {
    builders: &["config_builder"],
    wrappers: &["font", "font_with_fallback"],
    wrapped: &[("font", "require(\"wezterm\").font({})")],
    whole: &[("colors/ansi", 8), ("colors/brights", 8)],
};

const KEYS: &[Key] = &[
    color("colors/foreground", "foreground"),
    color("colors/background", "background"),
    color("colors/cursor_bg", "cursor"),
    color("colors/cursor_fg", "cursor-text"),
    own("colors/cursor_border", End::Text),
    color("colors/selection_bg", "selection"),
    color("colors/selection_fg", "selection-text"),
    own("colors/split", End::Text),
    own("colors/scrollbar_thumb", End::Text),
    own("colors/visual_bell", End::Ground),
    color("colors/tab_bar/background", "tab.bar"),
    color("colors/tab_bar/active_tab/fg_color", "tab.active.text"),
    color("colors/tab_bar/active_tab/bg_color", "tab.active.ground"),
    color("colors/tab_bar/inactive_tab/fg_color", "tab.inactive.text"),
    color(
        "colors/tab_bar/inactive_tab/bg_color",
        "tab.inactive.ground",
    ),
    name("font", Property::FontFamily),
    name("font/family", Property::FontFamily).read_only(),
    name("font/0", Property::FontFamily).read_only(),
    name("font/0/family", Property::FontFamily).read_only(),
    name("font/1", Property::FontFallback).read_only(),
    name("font/1/family", Property::FontFallback).read_only(),
    number("font_size", Property::FontSize),
    number("line_height", Property::FontLineHeight),
    number("window_background_opacity", Property::WindowOpacity),
    several("window_padding/left", &Padding::one(&[&[Edge::Left]])),
    several("window_padding/right", &Padding::one(&[&[Edge::Right]])),
    several("window_padding/top", &Padding::one(&[&[Edge::Top]])),
    several("window_padding/bottom", &Padding::one(&[&[Edge::Bottom]])),
    number("cell_width", Property::FontColumnWidth),
    flag("custom_block_glyphs", Property::FontOwnLines, TRUE),
    number("initial_cols", Property::WindowColumns).scaled(Scale::Whole),
    number("initial_rows", Property::WindowRows).scaled(Scale::Whole),
    path("window_background_image", Property::Image),
    path("background/0/source/File", Property::Image).read_only(),
    path("background/1/source/File", Property::Image).read_only(),
    number("background/0/opacity", Property::ImageTint)
        .scaled(Scale::Rest)
        .read_only(),
    number("background/1/opacity", Property::ImageTint)
        .scaled(Scale::Rest)
        .read_only(),
    number("cursor_blink_rate", Property::CursorRate).scaled(Scale::Whole),
    flag("hide_mouse_cursor_when_typing", Property::MouseHidden, TRUE),
    word(
        "audible_bell",
        Property::BellSound,
        &[
            ("SystemBeep", Word::Says("on")),
            ("Disabled", Word::Says("off")),
        ],
    ),
    flag(
        "tab_bar_at_bottom",
        Property::TabPlace,
        &[("true", Word::Says("bottom")), ("false", Word::Says("top"))],
    ),
    flag(
        "hide_tab_bar_if_only_one_tab",
        Property::TabsShown,
        &[
            ("true", Word::Says("several")),
            ("false", Word::Says("always")),
        ],
    ),
    number("inactive_pane_hsb/brightness", Property::WindowDimmed).read_only(),
    path("default_cwd", Property::WindowFolder),
    key("default_cursor_style", Means::Several(&Style)),
    scrollback("scrollback_lines"),
    word(
        "window_decorations",
        Property::WindowDecorations,
        &[
            ("TITLE | RESIZE", Word::Says("full")),
            ("TITLE|RESIZE", Word::Says("full")),
            ("NONE", Word::Says("none")),
            ("RESIZE", Word::Says("without a title")),
        ],
    ),
];

/// What it does by itself, as its documentation has it.
const BY_ITSELF: [(&str, &str); 12] = [
    ("custom_block_glyphs", "true"),
    ("font_size", "12.0"),
    ("line_height", "1.0"),
    ("cell_width", "1.0"),
    ("window_background_opacity", "1.0"),
    ("initial_cols", "80"),
    ("initial_rows", "24"),
    ("default_cursor_style", "SteadyBlock"),
    ("tab_bar_at_bottom", "false"),
    ("hide_tab_bar_if_only_one_tab", "false"),
    ("scrollback_lines", "3500"),
    ("window_decorations", "TITLE | RESIZE"),
];

/// The cursor: its shape and whether it blinks in one word.
struct Style;

const SHAPES: [(&str, &str); 3] = [
    ("Block", "block"),
    ("Bar", "bar"),
    ("Underline", "underline"),
];

impl Compound for Style {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let (blinks, rest) = match (text.strip_prefix("Blinking"), text.strip_prefix("Steady")) {
            (Some(rest), _) => ("on", rest),
            (_, Some(rest)) => ("off", rest),
            _ => return Vec::new(),
        };
        let Some((_, shape)) = SHAPES.iter().find(|(theirs, _)| *theirs == rest) else {
            return Vec::new();
        };
        let said = |property: Property, word: &str| {
            (property.into(), Value::Text(word.to_owned()), 0..text.len())
        };
        vec![
            said(Property::Cursor, shape),
            said(Property::CursorBlink, blinks),
        ]
    }

    fn change(&self, text: &str, wanted: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        let word = |property: Property| match property.of(wanted.setup) {
            Some(Value::Text(word)) => Some(word),
            _ => None,
        };
        let now = |property: Property| {
            let read = self.read(text).into_iter();
            let mut read = read.filter(|(role, ..)| *role == property.into());
            read.next().map(|(_, value, _)| value.to_string())
        };
        let (shape, blinks) = (word(Property::Cursor), word(Property::CursorBlink));
        if shape.is_none() && blinks.is_none() {
            return None;
        }
        let shape = shape.or_else(|| now(Property::Cursor));
        let blinks = blinks.or_else(|| now(Property::CursorBlink));
        let shape = SHAPES
            .iter()
            .find(|(_, ours)| Some(*ours) == shape.as_deref());
        let begin = match blinks.as_deref() {
            Some("on") => "Blinking",
            _ => "Steady",
        };
        let shape = shape.map_or("Block", |s| s.0);
        let code = Code::join([&Code::fixed(begin), &Code::fixed(shape)], "");
        Some(vec![(0..text.len(), code)])
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::Cursor, Property::CursorBlink]
    }
}

const SIXTEEN: Sixteen = Sixteen::Halves {
    section: "colors",
    normal: "ansi/",
    bright: "brights/",
};

const fn row(places: &'static [Where], notation: &'static dyn Notation) -> Table {
    Table {
        id: ToolId("wezterm"),
        program: "wezterm-gui",
        places,
        notation,
        keys: KEYS,
        sixteen: SIXTEEN,
        color: Spelling {
            read: any_color,
            ..Table::TERMINAL.color
        },
        bad_value: "the terminal shows an error and goes on with what it had; write \"#rrggbb\" or a number",
        fonts: Fonts::Facts(FontFacts {
            substitutes: "the terminal tells so in a window and takes a font of its own instead",
            families_only: true,
            proportional: true,
            own: &[(0x2500, 0x259f), (0x2800, 0x28ff), (0xe0b0, 0xe0b7)],
        }),
        term: Term {
            key: Some("term"),
            ..Table::TERMINAL.term
        },
        live: Live {
            inside: Some("WEZTERM_PANE"),
            file_options: &["--config-file"],
            value_options: &["--config"],
            ..Table::TERMINAL.live
        },
        ..Table::TERMINAL
    }
}

/// The settings.
pub static WEZTERM: Table = Table {
    defaults: Defaults {
        known: &BY_ITSELF,
        shipped: None,
    },
    ..row(
        &[
            Where::Only("WEZTERM_CONFIG_DIR", "wezterm.lua"),
            Where::Home(".wezterm.lua"),
            Where::Config("wezterm/wezterm.lua"),
            Where::Home(".config/wezterm/wezterm.lua"),
        ],
        &NOTATION,
    )
};

static SCHEME: Table = row(&[Where::Config("wezterm/colors/wealdmist.toml")], &Toml);

/// The rows.
pub static ROWS: Linked = Linked {
    main: &WEZTERM,
    links: &[Link {
        by: "color_scheme",
        table: &SCHEME,
        ending: ".toml",
        shared: None,
        usual: None,
        ours: None,
        begins: &[],
    }],
    main_wins: true,
};

fn any_color(text: &str) -> Option<Rgb> {
    spelling::hash(text).or_else(|| parse_any(text))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::testing::planned_with;
    use crate::{Adapter, Facts};
    use wealdmist_core::reading::Value;
    use wealdmist_core::role::Slot;

    const SETTINGS: &str = "local wezterm = require 'wezterm'\nlocal config = wezterm.config_builder()\n\nconfig.color_scheme = 'Marsh'\nconfig.font = wezterm.font('Reedbed Mono')\nconfig.font_size = 11\n-- mine\nconfig.colors = {\n  background = '#101010',\n}\n\nreturn config\n";
    const SCHEME: &str = "[colors]\nbackground = \"#202020\"\nansi = [\"#000000\", \"#aa0000\", \"#00aa00\", \"#aaaa00\", \"#0000aa\", \"#aa00aa\", \"#00aaaa\", \"#aaaaaa\"]\n";
    const SETUP: &str = "[palettes.a]\nred='#bb0000'\nbackground='#111111'\nblue='#0000aa'\n[font]\nfamily='Sedge Mono'\nsize=12\n[window]\npadding=6\n";

    #[test]
    fn a_scheme_of_the_persons_own_is_changed_and_the_settings_win() {
        let home = MemoryAccess::with(&[
            (".wezterm.lua", SETTINGS),
            (".config/wezterm/colors/Marsh.toml", SCHEME),
        ]);
        let report = ROWS.read(&home, &mut Facts::default());
        assert_eq!((report.files.len(), report.problems.len()), (2, 0));
        let ground = report.effective(&Slot::Background.into()).unwrap();
        assert_eq!(ground.value, Value::Color(Rgb::from_u32(0x10_1010)));
        let mut changed = planned_with(&ROWS, &home, SETUP, None);
        changed.sort();
        let scheme = SCHEME.replace("#aa0000\"", "#bb0000\"");
        // What the settings override stays.
        assert_eq!(changed[0].1, scheme);
        let settings = SETTINGS
            .replace("Reedbed", "Sedge")
            .replace("11\n", "12.0\n")
            .replace("#101010", "#111111")
            .replace(
                "return config",
                "config.window_padding = {\n  left = 8,\n  right = 8,\n  top = 8,\n  bottom = 8,\n}\nreturn config",
            );
        assert_eq!(changed[1].1, settings);
    }

    #[test]
    fn a_scheme_of_the_programs_own_is_overridden_in_the_settings() {
        let text = "return { color_scheme = 'Its own' }\n";
        let home = MemoryAccess::with(&[(".wezterm.lua", text)]);
        let colors: String = Slot::ALL
            .iter()
            .enumerate()
            .map(|(n, slot)| format!("{}='#{:06x}'\n", slot.key(), n + 1))
            .collect();
        let setup = format!("[palettes.a]\n{colors}");
        let changed = planned_with(&ROWS, &home, &setup, None);
        assert_eq!(changed.len(), 1);
        assert!(changed[0].1.contains("brights = { "), "{}", changed[0].1);
        let home = MemoryAccess::with(&[(".wezterm.lua", &changed[0].1)]);
        assert_eq!(planned_with(&ROWS, &home, &setup, None), []);
    }
}
