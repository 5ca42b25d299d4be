//! The terminal Warp: a theme in YAML, one of which the person chooses in its settings.
//!
//! Of several themes the first by name counts: which one is chosen stands in the program's own preferences, which belong
//! to it alone. Written from its documentation; the program itself was not at hand.

use wealdmist_core::property::Property;
use wealdmist_core::reading::ToolId;

use crate::document::yaml::Yaml;
use crate::table::{
    End, Scale, Sixteen, Spelling, Table, Where, color, number, own, path, spelling,
};
use crate::{Live, Reload};

/// The row.
pub static WARP: Table = Table {
    id: ToolId("warp"),
    program: "warp",
    places: &[
        Where::Any(".warp/themes", "yaml"),
        Where::Home(".warp/themes/wealdmist.yaml"),
    ],
    notation: &Yaml,
    keys: &[
        color("background", "background"),
        color("foreground", "foreground"),
        color("cursor", "cursor"),
        own("accent", End::Text),
        path("background_image/path", Property::Image),
        number("background_image/opacity", Property::ImageTint).scaled(Scale::RestHundredths),
    ],
    sixteen: Sixteen::Named {
        normal: "terminal_colors/normal",
        bright: "terminal_colors/bright",
        names: [
            "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
        ],
    },
    color: Spelling {
        write: spelling::like,
        ..Table::TERMINAL.color
    },
    bad_value: "the terminal does not take the theme; write '#rrggbb', in quotes",
    live: Live {
        arrives: "at once, where the theme is the chosen one",
        reload: Reload::Watches,
        ..Table::TERMINAL.live
    },
    ..Table::TERMINAL
};
