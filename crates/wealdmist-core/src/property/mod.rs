//! Properties: what a look holds beside colors, each with its unit and the values it may have.
//!
//! A property is a row of the ledger like a role; its id is that of a role. What a setup says of it
//! is in the setup's own module.

mod sides;

use std::collections::HashMap;
use std::sync::LazyLock;

pub use sides::{Edge, Sides};

/// The name of the theme and prompt files we generate, as it stands in the tools' settings.
pub const OUR_THEME: &str = "wealdmist";

/// Stands for a file where there is to be none.
pub const NO_FILE: &str = "none";

/// What is no color.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[allow(missing_docs)]
pub enum Property {
    FontFamily,
    FontSize,
    WindowOpacity,
    WindowPadding,
    WindowBlur,
    WindowDecorations,
    WindowColumns,
    WindowRows,
    WindowRemembered,
    Wallpaper,
    Host,
    Image,
    ImageFit,
    ImagePlace,
    ImageTint,
    Cursor,
    CursorUnfocused,
    CursorThickness,
    CursorBlink,
    CursorRate,
    CursorTrail,
    TabPlace,
    TabsShown,
    TabTitle,
    Title,
    TitleSet,
    BellSound,
    BellFlash,
    MouseHidden,
    Notified,
    Scrollback,
    WindowShell,
    WindowFolder,
    FontBold,
    FontItalic,
    FontBoldItalic,
    FontFeatures,
    FontLigatures,
    FontLineHeight,
    FontColumnWidth,
    FontOwnLines,
    FontFallback,
    Symbols,
    Depth,
    Follow,
    Theme,
    WindowDimmed,
    WindowFaint,
}

/// What a value counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Unit {
    /// A name, compared without regard to case.
    Name,
    /// Several names in an order.
    Names,
    /// The path of a file or folder, from `/` or `~/` on.
    Path,
    /// A program with its arguments.
    Program,
    /// One word of a few.
    Word,
    /// On or off.
    Switch,
    /// Lines, in whole numbers.
    Lines,
    /// Cells of the terminal, in whole numbers.
    Cells,
    /// Thousandths of a second, in whole numbers.
    Milliseconds,
    /// Typographic points, 1/72 inch.
    Points,
    /// The same for the sides of a window: one for all, or each its own.
    Sides,
    /// A factor by which something is multiplied.
    Factor,
    /// A share of the whole, 0–1.
    Share,
}

impl Unit {
    /// Whether its numbers are whole ones.
    #[must_use]
    pub const fn is_whole(self) -> bool {
        matches!(self, Self::Lines | Self::Cells | Self::Milliseconds)
    }
}

/// What is known of a property.
struct Facts {
    key: &'static str,
    label: &'static str,
    unit: Unit,
    range: Option<(f64, f64)>,
    words: Option<&'static [&'static str]>,
    is_set: bool,
}

impl Facts {
    const fn of(key: &'static str, label: &'static str, unit: Unit) -> Self {
        let words: Option<&'static [&'static str]> = match unit {
            Unit::Switch => Some(&["on", "off"]),
            _ => None,
        };
        let range = match unit {
            Unit::Share => Some((0.0, 1.0)),
            Unit::Factor => Some((0.5, 4.0)),
            Unit::Cells => Some((1.0, 2000.0)),
            Unit::Milliseconds => Some((0.0, 60_000.0)),
            Unit::Lines => Some((0.0, 10_000_000.0)),
            Unit::Sides => Some((0.0, 1000.0)),
            _ => None,
        };
        Self {
            key,
            label,
            unit,
            range,
            words,
            is_set: true,
        }
    }

    const fn within(self, least: f64, most: f64) -> Self {
        Self {
            range: Some((least, most)),
            ..self
        }
    }

    const fn one_of(self, words: &'static [&'static str]) -> Self {
        Self {
            words: Some(words),
            ..self
        }
    }

    /// It is found out, and not set.
    const fn found(self) -> Self {
        Self {
            is_set: false,
            ..self
        }
    }
}

impl Property {
    /// All of them, in the order of the ledger.
    pub const ALL: [Self; 48] = [
        Self::FontFamily,
        Self::FontSize,
        Self::WindowOpacity,
        Self::WindowPadding,
        Self::WindowBlur,
        Self::WindowDecorations,
        Self::WindowColumns,
        Self::WindowRows,
        Self::WindowRemembered,
        Self::Wallpaper,
        Self::Host,
        Self::Image,
        Self::ImageFit,
        Self::ImagePlace,
        Self::ImageTint,
        Self::Cursor,
        Self::CursorUnfocused,
        Self::CursorThickness,
        Self::CursorBlink,
        Self::CursorRate,
        Self::CursorTrail,
        Self::TabPlace,
        Self::TabsShown,
        Self::TabTitle,
        Self::Title,
        Self::TitleSet,
        Self::BellSound,
        Self::BellFlash,
        Self::MouseHidden,
        Self::Notified,
        Self::Scrollback,
        Self::WindowShell,
        Self::WindowFolder,
        Self::FontBold,
        Self::FontItalic,
        Self::FontBoldItalic,
        Self::FontFeatures,
        Self::FontLigatures,
        Self::FontLineHeight,
        Self::FontColumnWidth,
        Self::FontOwnLines,
        Self::FontFallback,
        Self::Symbols,
        Self::Depth,
        Self::Follow,
        Self::Theme,
        Self::WindowDimmed,
        Self::WindowFaint,
    ];

    const fn facts(self) -> Facts {
        use Unit::{
            Cells, Factor, Lines, Milliseconds, Name, Names, Path, Points, Program, Share, Sides,
            Switch, Word,
        };
        const fn of(key: &'static str, label: &'static str, unit: Unit) -> Facts {
            Facts::of(key, label, unit)
        }
        match self {
            Self::FontFamily => of("font.family", "font", Name),
            Self::FontSize => of("font.size", "font size", Points).within(1.0, 400.0),
            Self::WindowOpacity => of("window.opacity", "opacity", Share),
            Self::WindowPadding => of("window.padding", "padding", Sides),
            Self::WindowBlur => of("window.blur", "blur", Switch),
            Self::WindowDecorations => {
                of("window.decorations", "decorations", Word).one_of(&["full", "none"])
            }
            Self::WindowColumns => of("window.columns", "columns", Cells),
            Self::WindowRows => of("window.rows", "rows", Cells),
            Self::WindowRemembered => of("window.remembered", "last size kept", Switch),
            Self::Wallpaper => of("window.wallpaper", "what is behind", Path),
            Self::Host => of("window.host", "window shown", Name),
            Self::Image => of("window.image", "background image", Path),
            Self::ImageFit => of("window.image-fit", "image fit", Word)
                .one_of(&["cover", "whole", "stretch", "tile", "center"]),
            Self::ImagePlace => of("window.image-place", "image place", Word).one_of(&[
                "center",
                "top",
                "bottom",
                "left",
                "right",
                "top-left",
                "top-right",
                "bottom-left",
                "bottom-right",
            ]),
            Self::ImageTint => of("window.image-tint", "tint over the image", Share),
            Self::Cursor => {
                of("window.cursor", "cursor shape", Word).one_of(&["block", "bar", "underline"])
            }
            Self::CursorUnfocused => of("window.cursor-unfocused", "cursor elsewhere", Word)
                .one_of(&["hollow", "same", "none"]),
            Self::CursorThickness => {
                of("window.cursor-thickness", "cursor thickness", Points).within(0.1, 100.0)
            }
            Self::CursorBlink => of("window.cursor-blink", "cursor blink", Switch),
            Self::CursorRate => {
                of("window.cursor-rate", "cursor blink rate", Milliseconds).within(10.0, 60_000.0)
            }
            Self::CursorTrail => of("window.cursor-trail", "cursor trail", Milliseconds),
            Self::TabPlace => {
                of("window.tabs", "tab bar", Word).one_of(&["top", "bottom", "left", "right"])
            }
            Self::TabsShown => of("window.tabs-shown", "tab bar shown", Word)
                .one_of(&["always", "several", "never"]),
            Self::TabTitle => of("window.tab-title", "tab title", Name),
            Self::Title => of("window.title", "title", Name),
            Self::TitleSet => of("window.title-set", "title by programs", Switch),
            Self::BellSound => of("window.bell-sound", "bell: sound", Switch),
            Self::BellFlash => of("window.bell-flash", "bell: flash", Switch),
            Self::MouseHidden => of("window.mouse-hidden", "mouse hidden", Switch),
            Self::Notified => of("window.notify", "told when done", Word).one_of(&[
                "never",
                "elsewhere",
                "always",
            ]),
            Self::Scrollback => of("window.scrollback", "scrollback", Lines),
            Self::WindowShell => of("window.shell", "shell", Program).found(),
            Self::WindowFolder => of("window.folder", "folder", Path),
            Self::FontBold => of("font.bold", "bold font", Name),
            Self::FontItalic => of("font.italic", "italic font", Name),
            Self::FontBoldItalic => of("font.bold-italic", "bold italic font", Name),
            Self::FontFeatures => of("font.features", "font features", Word),
            Self::FontLigatures => of("font.ligatures", "ligatures", Word),
            Self::FontLineHeight => of("font.line-height", "line height", Factor),
            Self::FontColumnWidth => of("font.column-width", "column width", Factor),
            Self::FontOwnLines => of("font.own-lines", "lines of its own", Switch),
            Self::FontFallback => of("font.fallback", "fallback font", Names),
            Self::Symbols => of("symbols", "symbol level", Word),
            Self::Depth => of("depth", "color depth", Word).found(),
            Self::Follow => of("appearance.follow", "follows the desktop", Switch),
            Self::Theme => of("theme", "theme in use", Word).found(),
            Self::WindowDimmed => of("window.dimmed", "inactive pane text", Share),
            Self::WindowFaint => of("window.faint", "faint text", Share).found(),
        }
    }

    /// Its name on the command line: `table.key` of the setup where it can be set.
    #[must_use]
    pub const fn key(self) -> &'static str {
        self.facts().key
    }

    /// Its name for people.
    #[must_use]
    pub const fn label(self) -> &'static str {
        self.facts().label
    }

    /// What its values count.
    #[must_use]
    pub const fn unit(self) -> Unit {
        self.facts().unit
    }

    /// The least and the greatest number it may be in a setup; `None` for what is no number.
    #[must_use]
    pub const fn range(self) -> Option<(f64, f64)> {
        self.facts().range
    }

    /// The words it may be, where it is one of a few.
    #[must_use]
    pub const fn words(self) -> Option<&'static [&'static str]> {
        self.facts().words
    }

    /// Whether it is set, and not found out. What a terminal starts is found out: a setup that was
    /// received must not choose what runs.
    #[must_use]
    pub const fn is_set(self) -> bool {
        self.facts().is_set
    }

    /// Whether it is something of a terminal's window or its font.
    #[must_use]
    pub fn is_of_windows(self) -> bool {
        let key = self.key();
        key.starts_with("window.") || key.starts_with("font.") || matches!(self, Self::Follow)
    }

    /// The property of a name.
    #[must_use]
    pub fn from_key(key: &str) -> Option<Self> {
        static BY_KEY: LazyLock<HashMap<&str, Property>> =
            LazyLock::new(|| Property::ALL.into_iter().map(|p| (p.key(), p)).collect());
        BY_KEY.get(key).copied()
    }
}
