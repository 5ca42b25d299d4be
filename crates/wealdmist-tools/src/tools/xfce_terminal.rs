//! The terminal of Xfce: `terminalrc`, one section of settings some of which count only where another says so.

use std::ops::Range;

use wealdmist_core::color::{Rgb, parse_any, x11_color};
use wealdmist_core::property::Property;
use wealdmist_core::quote::Quoting;
use wealdmist_core::reading::ToolId;
use wealdmist_core::width::Counting;

use crate::document::gated::{Gate, Gated, List};
use crate::document::settings::Settings;
use crate::table::{
    Defaults, Described, End, FontFacts, Fonts, Key, Means, Sixteen, Size, Spelling, Table, Term,
    Where, Word, color, key, name, number, own, path, scrollback, several, spelling, word,
};

const NOTATION: Gated = Gated {
    settings: Settings {
        separator: Some(b'='),
        written: "=",
        comment: "#",
        trailing: false,
        quotes: false,
        indexed: &[],
        main: Some(""),
        quoting: Quoting::Line,
    },
    gates: &[
        Gate {
            keys: &[
                "Configuration/ColorForeground",
                "Configuration/ColorBackground",
            ],
            by: "Configuration/ColorUseTheme",
            on: "FALSE",
            open: true,
        },
        Gate {
            keys: &[
                "Configuration/ColorCursor",
                "Configuration/ColorCursorForeground",
            ],
            by: "Configuration/ColorCursorUseDefault",
            on: "FALSE",
            open: false,
        },
        Gate {
            keys: &[
                "Configuration/ColorSelection",
                "Configuration/ColorSelectionBackground",
            ],
            by: "Configuration/ColorSelectionUseDefault",
            on: "FALSE",
            open: false,
        },
        Gate {
            keys: &["Configuration/ColorBold"],
            by: "Configuration/ColorBoldUseDefault",
            on: "FALSE",
            open: false,
        },
        Gate {
            keys: &["Configuration/FontName"],
            by: "Configuration/FontUseSystem",
            on: "FALSE",
            open: true,
        },
        Gate {
            keys: &["Configuration/ScrollingLines"],
            by: "Configuration/ScrollingUnlimited",
            on: "FALSE",
            open: true,
        },
        Gate {
            keys: &["Configuration/BackgroundDarkness"],
            by: "Configuration/BackgroundMode",
            on: "TERMINAL_BACKGROUND_TRANSPARENT",
            open: false,
        },
    ],
    list: Some(List {
        key: PALETTE,
        between: ";",
        usual: &[
            "#000000", "#aa0000", "#00aa00", "#aa5500", "#0000aa", "#aa00aa", "#00aaaa", "#aaaaaa",
            "#555555", "#ff5555", "#55ff55", "#ffff55", "#5555ff", "#ff55ff", "#55ffff", "#ffffff",
        ],
    }),
};

const PALETTE: &str = "Configuration/ColorPalette";

const KEYS: &[Key] = &[
    color("Configuration/ColorForeground", "foreground"),
    color("Configuration/ColorBackground", "background"),
    color("Configuration/ColorCursor", "cursor"),
    color("Configuration/ColorCursorForeground", "cursor-text"),
    color("Configuration/ColorSelectionBackground", "selection"),
    color("Configuration/ColorSelection", "selection-text"),
    own("Configuration/ColorBold", End::Text),
    key("Configuration/FontName", Means::Several(&FONT)),
    number("Configuration/BackgroundDarkness", Property::WindowOpacity),
    word(
        "Configuration/MiscCursorShape",
        Property::Cursor,
        &[
            ("TERMINAL_CURSOR_SHAPE_BLOCK", Word::Says("block")),
            ("TERMINAL_CURSOR_SHAPE_IBEAM", Word::Says("bar")),
            ("TERMINAL_CURSOR_SHAPE_UNDERLINE", Word::Says("underline")),
        ],
    ),
    word("Configuration/MiscCursorBlinks", Property::CursorBlink, ON),
    word(
        "Configuration/MiscBordersDefault",
        Property::WindowDecorations,
        &[("TRUE", Word::Says("full")), ("FALSE", Word::Says("none"))],
    ),
    several("Configuration/MiscDefaultGeometry", &Size),
    number("Configuration/CellHeightScale", Property::FontLineHeight),
    number("Configuration/CellWidthScale", Property::FontColumnWidth),
    path("Configuration/BackgroundImageFile", Property::Image).read_only(),
    word("Configuration/MiscBell", Property::BellSound, ON),
    word("Configuration/MiscMouseAutohide", Property::MouseHidden, ON),
    word(
        "Configuration/MiscTabPosition",
        Property::TabPlace,
        &[
            ("GTK_POS_TOP", Word::Says("top")),
            ("GTK_POS_BOTTOM", Word::Says("bottom")),
            ("GTK_POS_LEFT", Word::Says("left")),
            ("GTK_POS_RIGHT", Word::Says("right")),
        ],
    ),
    name("Configuration/TitleInitial", Property::Title),
    word(
        "Configuration/TitleMode",
        Property::TitleSet,
        &[
            ("TERMINAL_TITLE_REPLACE", Word::Says("on")),
            ("TERMINAL_TITLE_HIDE", Word::Says("off")),
            ("TERMINAL_TITLE_PREPEND", Word::Says("before it")),
            ("TERMINAL_TITLE_APPEND", Word::Says("behind it")),
        ],
    ),
    scrollback("Configuration/ScrollingLines"),
];

const ON: &[(&str, Word)] = &[("TRUE", Word::Says("on")), ("FALSE", Word::Says("off"))];

/// The row.
pub static XFCE_TERMINAL: Table = Table {
    id: ToolId("xfce4-terminal"),
    program: "xfce4-terminal",
    places: &[
        Where::Config("xfce4/terminal/terminalrc"),
        Where::Home(".config/xfce4/terminal/terminalrc"),
    ],
    notation: &NOTATION,
    keys: KEYS,
    sixteen: Sixteen::Listed(PALETTE),
    color: Spelling {
        read: any_color,
        write: |color, old| spelling::like(color, old.filter(|old| old.starts_with('#'))),
        ..Table::TERMINAL.color
    },
    defaults: Defaults {
        known: &[
            ("Configuration/ColorForeground", "#ffffff"),
            ("Configuration/ColorBackground", "#000000"),
            ("Configuration/ColorPalette/0", "#000000"),
            ("Configuration/ColorPalette/1", "#aa0000"),
            ("Configuration/ColorPalette/2", "#00aa00"),
            ("Configuration/ColorPalette/3", "#aa5500"),
            ("Configuration/ColorPalette/4", "#0000aa"),
            ("Configuration/ColorPalette/5", "#aa00aa"),
            ("Configuration/ColorPalette/6", "#00aaaa"),
            ("Configuration/ColorPalette/7", "#aaaaaa"),
            ("Configuration/ColorPalette/8", "#555555"),
            ("Configuration/ColorPalette/9", "#ff5555"),
            ("Configuration/ColorPalette/10", "#55ff55"),
            ("Configuration/ColorPalette/11", "#ffff55"),
            ("Configuration/ColorPalette/12", "#5555ff"),
            ("Configuration/ColorPalette/13", "#ff55ff"),
            ("Configuration/ColorPalette/14", "#55ffff"),
            ("Configuration/ColorPalette/15", "#ffffff"),
        ],
        shipped: None,
    },
    bad_value: "the terminal takes a color of the desktop's theme instead; write #rrggbb",
    fonts: Fonts::Facts(FontFacts {
        substitutes: "the terminal takes another font without a word",
        families_only: true,
        proportional: true,
        own: &[(0x2500, 0x259f), (0x25e2, 0x25e5), (0x1_fb00, 0x1_fbaf)],
    }),
    term: Term {
        counts: Counting::CodePoints,
        ..Table::TERMINAL.term
    },
    ..Table::TERMINAL
};

fn any_color(text: &str) -> Option<Rgb> {
    if let Some(digits) = text.strip_prefix('#') {
        // As many digits for each channel, the first of which count.
        let each = digits.len() / 3;
        let plain = digits.bytes().all(|b| b.is_ascii_hexdigit());
        let channel = |n: usize| {
            let digits = &digits[n * each..][..each.min(2)];
            let twice = if each == 1 {
                digits.repeat(2)
            } else {
                digits.to_owned()
            };
            u8::from_str_radix(&twice, 16).ok()
        };
        return match plain && matches!(digits.len(), 3 | 6 | 9 | 12) {
            true => Some(Rgb::new(channel(0)?, channel(1)?, channel(2)?)),
            false => None,
        };
    }
    match text.contains('(') {
        true => parse_any(text),
        false => x11_color(text),
    }
}

/// A font as the toolkit describes it.
const FONT: Described = Described {
    parts,
    between: " ",
};

fn parts(text: &str) -> (Range<usize>, Option<Range<usize>>) {
    const STYLES: [&str; 14] = [
        "regular",
        "normal",
        "roman",
        "book",
        "thin",
        "light",
        "medium",
        "semi-bold",
        "bold",
        "heavy",
        "black",
        "italic",
        "oblique",
        "condensed",
    ];
    let trimmed = text.trim_end();
    let mut end = trimmed.len();
    let last = |end: usize| text[..end].rfind(' ').map_or(0, |at| at + 1);
    let mut size = None;
    let at = last(end);
    if at > 0 && text[at..end].parse::<f64>().is_ok() {
        size = Some(at..end);
        end = text[..at].trim_end().len();
    }
    // A comma ends the family.
    let family = text[..end].rfind(',').map_or(end, |at| at);
    end = family;
    while last(end) > 0 && STYLES.contains(&text[last(end)..end].to_lowercase().as_str()) {
        end = text[..last(end)].trim_end().len();
    }
    (0..end, size)
}
