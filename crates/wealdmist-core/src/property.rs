//! Properties: what a look holds beside colors, each with its unit and the values it may have.
//!
//! A property is a row of the ledger like a role; its id is that of a role. What a setup says of it
//! is in the setup's own module.

/// The name of the theme and prompt files we generate, as it stands in the tools' settings.
pub const OUR_THEME: &str = "wealdmist";

/// What is no color.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[allow(missing_docs)]
pub enum Property {
    FontFamily,
    FontSize,
    FontBold,
    FontItalic,
    FontBoldItalic,
    FontFeatures,
    FontLigatures,
    FontLineHeight,
    FontFallback,
    Symbols,
    Depth,
    Theme,
    WindowOpacity,
    WindowPadding,
    WindowBlur,
    WindowDecorations,
    Cursor,
    CursorBlink,
    Scrollback,
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
    /// One word of a few.
    Word,
    /// On or off.
    Switch,
    /// Lines, in whole numbers.
    Lines,
    /// Typographic points, 1/72 inch.
    Points,
    /// A factor by which something is multiplied.
    Factor,
    /// A share of the whole, 0–1.
    Share,
}

impl Property {
    /// All of them, in the order of the ledger.
    pub const ALL: [Self; 21] = [
        Self::FontFamily,
        Self::FontSize,
        Self::WindowOpacity,
        Self::WindowPadding,
        Self::WindowBlur,
        Self::WindowDecorations,
        Self::Cursor,
        Self::CursorBlink,
        Self::Scrollback,
        Self::FontBold,
        Self::FontItalic,
        Self::FontBoldItalic,
        Self::FontFeatures,
        Self::FontLigatures,
        Self::FontLineHeight,
        Self::FontFallback,
        Self::Symbols,
        Self::Depth,
        Self::Theme,
        Self::WindowDimmed,
        Self::WindowFaint,
    ];

    /// Its name on the command line: `table.key` of the setup where it can be set.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::FontFamily => "font.family",
            Self::FontSize => "font.size",
            Self::FontBold => "font.bold",
            Self::FontItalic => "font.italic",
            Self::FontBoldItalic => "font.bold-italic",
            Self::FontFeatures => "font.features",
            Self::FontLigatures => "font.ligatures",
            Self::FontLineHeight => "font.line-height",
            Self::FontFallback => "font.fallback",
            Self::Symbols => "symbols",
            Self::Depth => "depth",
            Self::Theme => "theme",
            Self::WindowOpacity => "window.opacity",
            Self::WindowPadding => "window.padding",
            Self::WindowBlur => "window.blur",
            Self::WindowDecorations => "window.decorations",
            Self::Cursor => "window.cursor",
            Self::CursorBlink => "window.cursor-blink",
            Self::Scrollback => "window.scrollback",
            Self::WindowDimmed => "window.dimmed",
            Self::WindowFaint => "window.faint",
        }
    }

    /// Its name for people.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::FontFamily => "font",
            Self::FontSize => "font size",
            Self::FontBold => "bold font",
            Self::FontItalic => "italic font",
            Self::FontBoldItalic => "bold italic font",
            Self::FontFeatures => "font features",
            Self::FontLigatures => "ligatures",
            Self::FontLineHeight => "line height",
            Self::FontFallback => "fallback font",
            Self::Symbols => "symbol level",
            Self::Depth => "color depth",
            Self::Theme => "theme in use",
            Self::WindowOpacity => "opacity",
            Self::WindowPadding => "padding",
            Self::WindowBlur => "blur",
            Self::WindowDecorations => "decorations",
            Self::Cursor => "cursor shape",
            Self::CursorBlink => "cursor blink",
            Self::Scrollback => "scrollback",
            Self::WindowDimmed => "inactive pane text",
            Self::WindowFaint => "faint text",
        }
    }

    /// What its values count.
    #[must_use]
    pub const fn unit(self) -> Unit {
        match self {
            Self::FontFamily | Self::FontBold | Self::FontItalic | Self::FontBoldItalic => {
                Unit::Name
            }
            Self::FontFallback => Unit::Names,
            Self::FontFeatures
            | Self::FontLigatures
            | Self::Symbols
            | Self::Depth
            | Self::WindowDecorations
            | Self::Cursor
            | Self::Theme => Unit::Word,
            Self::WindowBlur | Self::CursorBlink => Unit::Switch,
            Self::Scrollback => Unit::Lines,
            Self::FontSize | Self::WindowPadding => Unit::Points,
            Self::FontLineHeight => Unit::Factor,
            Self::WindowOpacity | Self::WindowDimmed | Self::WindowFaint => Unit::Share,
        }
    }

    /// The least and the greatest number it may be in a setup; `None` for what is no number.
    #[must_use]
    pub const fn range(self) -> Option<(f64, f64)> {
        match self {
            Self::FontSize => Some((1.0, 400.0)),
            Self::FontLineHeight => Some((0.5, 4.0)),
            Self::WindowPadding => Some((0.0, 1000.0)),
            Self::WindowOpacity | Self::WindowDimmed | Self::WindowFaint => Some((0.0, 1.0)),
            Self::Scrollback => Some((0.0, 10_000_000.0)),
            _ => None,
        }
    }

    /// The words it may be, where it is one of a few.
    #[must_use]
    pub const fn words(self) -> Option<&'static [&'static str]> {
        match self {
            Self::WindowDecorations => Some(&["full", "none"]),
            Self::Cursor => Some(&["block", "bar", "underline"]),
            _ => match self.unit() {
                Unit::Switch => Some(&["on", "off"]),
                _ => None,
            },
        }
    }

    /// The property of a name.
    #[must_use]
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|p| p.key() == key)
    }
}
