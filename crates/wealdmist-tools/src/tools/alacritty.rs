//! The terminal Alacritty: `alacritty.toml` with its imports, and the YAML of versions before 0.13.
//!
//! What the main file says wins over all it imports. Padding counts in pixels, colors are spelled
//! `#rrggbb` or `0xrrggbb`, and a face is chosen by its family and its style apart.

use wealdmist_core::font::Four;
use wealdmist_core::property::{Edge, Property};
use wealdmist_core::reading::{FileProblem, SourceFile, ToolId, ToolReport};
use wealdmist_core::role::Slot;
use wealdmist_core::terminal::Images;
use wealdmist_core::width::Counting;

use crate::document::lines::lines;
use crate::document::notation::{Datum, Spot};
use crate::document::toml::Toml;
use crate::document::yaml::Yaml;
use crate::table::{
    Defaults, End, FontFacts, Fonts, Includes, Key, Line, Padding, Quirks, Rows, Scale, Shipped,
    Sixteen, Spelling, TRUE, Table, Term, Where, Wins, Word, Zero, color, flag, name, number, own,
    path, scrollback, several, spelling, word,
};
use crate::{Answers, Live, Reload, Wanted};

const CELL: &[(&str, Word)] = &[
    ("CellForeground", Word::Slot(Slot::Foreground)),
    ("CellBackground", Word::Slot(Slot::Background)),
];
/// Selected text that keeps its color.
const KEPT: &[(&str, Word)] = &[
    ("CellForeground", Word::Default),
    ("CellBackground", Word::Slot(Slot::Background)),
];

const KEYS: &[Key] = &[
    color("colors/primary/foreground", "foreground"),
    color("colors/primary/background", "background"),
    color("colors/cursor/cursor", "cursor").words(CELL),
    color("colors/cursor/text", "cursor-text").words(CELL),
    color("colors/selection/background", "selection").words(CELL),
    color("colors/selection/text", "selection-text").words(KEPT),
    own("colors/primary/dim_foreground", End::Text),
    own("colors/primary/bright_foreground", End::Text),
    own("colors/vi_mode_cursor/cursor", End::Ground).words(CELL),
    own("colors/vi_mode_cursor/text", End::Text).words(CELL),
    own("colors/search/matches/foreground", End::Text).words(CELL),
    own("colors/search/matches/background", End::Ground).words(CELL),
    own("colors/search/focused_match/foreground", End::Text).words(CELL),
    own("colors/search/focused_match/background", End::Ground).words(CELL),
    own("colors/hints/start/foreground", End::Text).words(CELL),
    own("colors/hints/start/background", End::Ground).words(CELL),
    own("colors/hints/end/foreground", End::Text).words(CELL),
    own("colors/hints/end/background", End::Ground).words(CELL),
    own("colors/line_indicator/foreground", End::Text).words(&[("None", Word::Default)]),
    own("colors/line_indicator/background", End::Ground).words(&[("None", Word::Default)]),
    own("colors/footer_bar/foreground", End::Text),
    own("colors/footer_bar/background", End::Ground),
    own("colors/dim/*", End::Text),
    own("bell/color", End::Ground),
    name("font/normal/family", Property::FontFamily),
    number("font/size", Property::FontSize),
    flag("font/builtin_box_drawing", Property::FontOwnLines, TRUE),
    number("window/opacity", Property::WindowOpacity),
    several("window/padding/x", &Padding::one(&[&[Edge::Across]])),
    several("window/padding/y", &Padding::one(&[&[Edge::Down]])),
    number("window/dimensions/columns", Property::WindowColumns).scaled(Scale::Whole),
    number("window/dimensions/lines", Property::WindowRows).scaled(Scale::Whole),
    flag("window/blur", Property::WindowBlur, TRUE),
    word(
        "window/decorations",
        Property::WindowDecorations,
        &[
            ("Full", Word::Says("full")),
            ("None", Word::Says("none")),
            ("Transparent", Word::Says("transparent")),
            ("Buttonless", Word::Says("without buttons")),
        ],
    ),
    name("window/title", Property::Title),
    flag("window/dynamic_title", Property::TitleSet, TRUE),
    word("cursor/style/shape", Property::Cursor, SHAPES),
    word("cursor/style", Property::Cursor, SHAPES).read_only(),
    word(
        "cursor/style/blinking",
        Property::CursorBlink,
        &[
            ("Off", Word::Says("off")),
            ("On", Word::Says("on")),
            ("Never", Word::Says("off")),
            ("Always", Word::Says("on")),
        ],
    ),
    number("cursor/blink_interval", Property::CursorRate).scaled(Scale::Whole),
    flag(
        "cursor/unfocused_hollow",
        Property::CursorUnfocused,
        &[
            ("true", Word::Says("hollow")),
            ("false", Word::Says("same")),
        ],
    ),
    several("bell/duration", &Zero(&[Property::BellFlash], "100")),
    flag("mouse/hide_when_typing", Property::MouseHidden, TRUE),
    path("general/working_directory", Property::WindowFolder).read_only(),
    path("working_directory", Property::WindowFolder).read_only(),
    name("terminal/shell", Property::WindowShell).read_only(),
    name("terminal/shell/program", Property::WindowShell).read_only(),
    name("shell/program", Property::WindowShell).read_only(),
    scrollback("scrolling/history"),
];

const SHAPES: &[(&str, Word)] = &[
    ("Block", Word::Says("block")),
    ("Beam", Word::Says("bar")),
    ("Underline", Word::Says("underline")),
];

/// What the program's own command for that moves, since 0.13 and 0.14.
const RENAMED: &[(&str, &str)] = &[
    ("import", "general/import"),
    ("live_config_reload", "general/live_config_reload"),
    ("working_directory", "general/working_directory"),
    ("ipc_socket", "general/ipc_socket"),
    ("shell", "terminal/shell"),
    (
        "draw_bold_text_with_bright_colors",
        "colors/draw_bold_text_with_bright_colors",
    ),
    ("key_bindings", "keyboard/bindings"),
    ("mouse_bindings", "mouse/bindings"),
];

const INCLUDES: Includes = Includes {
    keys: &["general/import/*", "import/*"],
    patterns: &[],
    wins: Wins::Includer,
    relative: true,
    told: false,
    optional: None,
};

const SUBSTITUTES: &str = "Alacritty takes another font, whose letters may differ in width";

/// The row of present versions.
pub static ALACRITTY_TOML: Table = Table {
    quirks: Quirks {
        renamed: RENAMED,
        ..ROW.quirks
    },
    ..ROW
};

const ROW: Table = Table {
    id: ToolId("alacritty"),
    kind: "terminal",
    program: "alacritty",
    places: &[
        Where::Config("alacritty/alacritty.toml"),
        Where::Config("alacritty.toml"),
        Where::Home(".config/alacritty/alacritty.toml"),
        Where::Home(".alacritty.toml"),
        Where::Home("AppData/Roaming/alacritty/alacritty.toml"),
    ],
    notation: &Toml,
    includes: Some(INCLUDES),
    keys: KEYS,
    sixteen: Sixteen::Named {
        normal: "colors/normal",
        bright: "colors/bright",
        names: [
            "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
        ],
    },
    color: Spelling {
        any_case: false,
        read: spelling::hash_or_0x,
        write: spelling::like,
    },
    defaults: Defaults::UNKNOWN,
    bad_value: "Alacritty takes its own default instead and shows a bar; write \"#rrggbb\" or a number",
    fonts: Fonts::Facts(FontFacts {
        substitutes: SUBSTITUTES,
        families_only: true,
        proportional: false,
        own: &[
            (0x2500, 0x259f),
            (0xe0b0, 0xe0b3),
            (0x1_fb00, 0x1_fb3b),
            (0x1_fb82, 0x1_fb8b),
        ],
    }),
    term: Term {
        key: Some("env/TERM"),
        own: "alacritty",
        full_color: false,
        images: Images::None,
        counts: Counting::CodePoints,
    },
    live: Live {
        reload: Reload::Watches,
        arrives: "at once: every running Alacritty watches its files",
        mark: None,
        commands: &["msg", "migrate"],
        inside: Some("ALACRITTY_WINDOW_ID"),
        sockets: &[],
        file_options: &["--config-file"],
        value_options: &[
            "-o",
            "--option",
            "-T",
            "--title",
            "--class",
            "--embed",
            "--socket",
            "--working-directory",
        ],
        answers: Answers::Command {
            before: &["msg", "-s"],
            after: &["get-config", "-w", "-1"],
            variable: "ALACRITTY_SOCKET",
            renamed: &[
                ("colors.cursor.cursor", "colors.cursor.background"),
                ("colors.cursor.text", "colors.cursor.foreground"),
                ("colors.selection.text", "colors.selection.foreground"),
            ],
        },
        asking: None,
        merges: None,
    },
    quirks: Quirks {
        missing: faces,
        ..Quirks::NONE
    },
};

/// The row of versions before 0.13; newer ones read its file where there is no other.
pub static ALACRITTY_YAML: Table = Table {
    places: &[
        Where::Config("alacritty/alacritty.yml"),
        Where::Config("alacritty.yml"),
        Where::Home(".config/alacritty/alacritty.yml"),
        Where::Home(".alacritty.yml"),
        Where::Home("AppData/Roaming/alacritty/alacritty.yml"),
    ],
    notation: &Yaml,
    includes: Some(Includes {
        relative: false,
        ..INCLUDES
    }),
    defaults: Defaults {
        known: &[],
        shipped: Some(Shipped::Blocks(
            "/usr/share/doc/alacritty/examples/alacritty.yml",
        )),
    },
    quirks: Quirks {
        problems: |_, report, _| report.files.iter().flat_map(unquoted).collect(),
        ..ROW.quirks
    },
    ..ROW
};

/// Colors that nobody sees, since without quotes they are comments.
fn unquoted(file: &SourceFile) -> Vec<FileProblem> {
    let mut out = Vec::new();
    for line in lines(&file.bytes) {
        let text = String::from_utf8_lossy(&file.bytes[line.span.clone()]);
        let Some((key, value)) = text.split_once(':') else {
            continue;
        };
        let is_key = |c: char| c.is_ascii_alphanumeric() || matches!(c, '_' | ' ' | '-');
        let color = value.trim();
        if key.chars().all(is_key) && color.starts_with('#') && (ROW.color.read)(color).is_some() {
            let column = text.len() - value.trim_start().len();
            out.push(FileProblem {
                path: file.path.clone(),
                at: Some(file.position(line.span.start + column)),
                message: format!("nothing is said here: '{color}' is a comment"),
                help: "put the color in quotes".to_owned(),
                blocks_edits: false,
            });
        }
    }
    out
}

/// The faces of the styles that the setup chooses, where the files say nothing of a style: the
/// family and the style apart.
fn faces(table: &Table, wanted: &Wanted, report: &ToolReport) -> Vec<Line> {
    const STYLES: [(Four, [&str; 2], Property); 3] = [
        (
            Four::Bold,
            ["font/bold/family", "font/bold/style"],
            Property::FontBold,
        ),
        (
            Four::Italic,
            ["font/italic/family", "font/italic/style"],
            Property::FontItalic,
        ),
        (
            Four::BoldItalic,
            ["font/bold_italic/family", "font/bold_italic/style"],
            Property::FontBoldItalic,
        ),
    ];
    let mut out = Vec::new();
    for (style, [family, face], property) in STYLES {
        let chosen = wanted.setup.font.of(style);
        let Some((entry, _)) = chosen
            .zip(wanted.catalog)
            .and_then(|(name, c)| c.find(name))
        else {
            continue;
        };
        let said = |file: &SourceFile| {
            let entries = table.notation.entries(&file.bytes).unwrap_or_default();
            entries.iter().any(|e| e.path == family || e.path == face)
        };
        if report.files.iter().any(said) {
            continue;
        }
        for (path, text) in [(family, entry.info.family()), (face, &entry.info.style)] {
            let value = table.notation.value(&Datum::Text(text.to_owned()));
            out.extend(value.map(|value| Line {
                role: property.into(),
                spot: Spot::of(path),
                value,
            }));
        }
    }
    out
}

/// The tool: of the two files the one that a present version would read.
pub static ALACRITTY: Rows = Rows(&[&ALACRITTY_TOML, &ALACRITTY_YAML]);
