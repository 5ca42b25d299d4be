//! The setup: the one description of a look, as written in `setup.toml`.
//!
//! [`SetupDoc`] keeps the file's text beside what was read from it. It is never printed back from
//! the model: every change is a splice of the text, so comments, order and spacing stay.
//! The format is documented in `docs/setup-file.md`.

mod adapted;
mod adopt;
mod contrast;
mod design;
mod edit;
mod fonts;
pub(crate) mod literal;
mod palettes;
mod prompt;
mod property;
mod read;
mod splice;

use std::collections::BTreeMap;
use std::fmt;
use std::ops::Range;
use std::path::PathBuf;

use unicode_segmentation::UnicodeSegmentation;

use crate::character::SymbolLevel;
use crate::color::Rgb;
use crate::font::{FeatureSetting, Four};
use crate::glyph::replacement_at;
use crate::prompt::Design;
use crate::property::Property;
use crate::reading::{ToolId, Value};
pub use crate::role::Attrs;
use crate::role::{Known, RoleId, Slot};
use crate::text;

pub use adapted::adapted;
pub use contrast::{Contrast, ContrastException};
pub use edit::EditError;

/// Whether a palette is meant for a dark or a light ground.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Variant {
    /// Light text on a dark ground.
    Dark,
    /// Dark text on a light ground.
    Light,
}

impl Variant {
    /// The word in the setup file.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::Dark => "dark",
            Self::Light => "light",
        }
    }

    /// The other side.
    #[must_use]
    pub const fn other(self) -> Self {
        match self {
            Self::Dark => Self::Light,
            Self::Light => Self::Dark,
        }
    }
}

/// A palette's name, as in `[palettes.NAME]`.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct PaletteName(String);

impl PaletteName {
    /// The name as text.
    #[must_use]
    pub fn as_str(&self) -> &str {
        &self.0
    }
}

impl<T: Into<String>> From<T> for PaletteName {
    fn from(name: T) -> Self {
        Self(name.into())
    }
}

impl std::ops::Deref for PaletteName {
    type Target = str;

    fn deref(&self) -> &str {
        &self.0
    }
}

impl PartialEq<str> for PaletteName {
    fn eq(&self, other: &str) -> bool {
        self.0 == other
    }
}

impl PartialEq<&str> for PaletteName {
    fn eq(&self, other: &&str) -> bool {
        self.0 == *other
    }
}

impl fmt::Display for PaletteName {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

/// A named set of colors.
#[derive(Debug, Clone, PartialEq)]
pub struct Palette {
    /// Its name.
    pub name: PaletteName,
    /// Dark or light.
    pub variant: Variant,
    /// The slots that are given.
    pub slots: BTreeMap<Slot, Rgb>,
    /// Further named colors, in the order they are written.
    pub colors: Vec<(String, Rgb)>,
    /// The names of slots, colors and roles that repairs must not move.
    pub locked: Vec<String>,
}

impl Palette {
    /// A slot's color; where the palette leaves it out, one derived from those it has.
    #[must_use]
    pub fn slot(&self, slot: Slot) -> Rgb {
        if let Some(color) = self.slots.get(&slot) {
            return *color;
        }
        let (fg, bg) = match self.variant {
            Variant::Dark => (Rgb::from_u32(0xd8_dedc), Rgb::from_u32(0x12_1a1d)),
            Variant::Light => (Rgb::from_u32(0x1d_2a2e), Rgb::from_u32(0xf2_f4ef)),
        };
        let dark = self.variant == Variant::Dark;
        match slot {
            Slot::Foreground => fg,
            Slot::Background => bg,
            Slot::Cursor | Slot::SelectionText => self.slot(Slot::Foreground),
            Slot::CursorText => self.slot(Slot::Background),
            Slot::Selection => crate::color::mix(
                self.slot(Slot::Background),
                self.slot(Slot::Foreground),
                0.2,
            ),
            _ => hue_slot(slot, dark),
        }
    }

    /// The 16 ANSI colors in the order of their indices.
    #[must_use]
    pub fn ansi(&self) -> [Rgb; 16] {
        std::array::from_fn(|i| Slot::from_ansi(i as u8).map_or(Rgb::default(), |s| self.slot(s)))
    }
}

/// A plain, even set of hues for slots nobody has chosen a color for.
fn hue_slot(slot: Slot, dark: bool) -> Rgb {
    let index = slot.ansi().unwrap_or(0);
    let bright = index >= 8;
    let (l, c, h) = match (index % 8, dark) {
        (0, true) => (if bright { 0.56 } else { 0.30 }, 0.012, 220.0),
        (0, false) => (if bright { 0.55 } else { 0.32 }, 0.012, 220.0),
        (7, true) => (if bright { 0.96 } else { 0.83 }, 0.010, 200.0),
        (7, false) => (if bright { 0.52 } else { 0.46 }, 0.010, 200.0),
        (n, dark) => {
            let hue = [0.0, 25.0, 148.0, 88.0, 250.0, 330.0, 200.0][usize::from(n)];
            (
                if dark {
                    if bright { 0.82 } else { 0.74 }
                } else if bright {
                    0.40
                } else {
                    0.46
                },
                0.12,
                hue,
            )
        }
    };
    crate::color::Oklch { l, c, h }.to_rgb()
}

/// How a color is said in the setup.
#[derive(Debug, Clone, PartialEq)]
pub enum Expr {
    /// A value.
    Value(Rgb),
    /// A slot, a named color of the palette, or another role.
    Ref(String),
    /// A mix in OKLab: from, to, and how much of `to`, 0–1.
    Mix(Box<Expr>, Box<Expr>, f64),
}

impl Expr {
    /// The expression behind a known role's default.
    #[must_use]
    pub fn default_of(known: &Known) -> Self {
        let named = |name: &str| Box::new(Self::Ref(name.to_owned()));
        match known.by_default() {
            (one, Some((other, amount))) => Self::Mix(named(one), named(other), amount),
            (one, None) => *named(one),
        }
    }
}

impl fmt::Display for Expr {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Value(color) => write!(f, "{color}"),
            Self::Ref(name) => f.write_str(name),
            Self::Mix(a, b, amount) => write!(f, "{a} + {}% {b}", (amount * 100.0).round()),
        }
    }
}

/// What the setup says of a role.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Style {
    /// Its color; `None` where only attributes are given.
    pub color: Option<Expr>,
    /// Its attributes.
    pub attrs: Attrs,
}

/// The font, as far as the setup says.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct FontChoice {
    /// The family name.
    pub family: Option<String>,
    /// The size in points.
    pub size: Option<f64>,
    /// The face for bold, by its full name; derived from the family unless given.
    pub bold: Option<String>,
    /// The face for italic.
    pub italic: Option<String>,
    /// The face for bold italic.
    pub bold_italic: Option<String>,
    /// Features switched on, off or to a value.
    pub features: Vec<FeatureSetting>,
    /// Whether sequences may be drawn as ligatures, where the setup says.
    pub ligatures: Option<bool>,
    /// The height of a line, 1 being what the font asks for.
    pub line_height: Option<f64>,
    /// Columns as many times as wide as the font asks.
    pub column_width: Option<f64>,
    /// Whether terminals draw lines and blocks themselves, whatever the font has, where the setup says.
    pub own_lines: Option<bool>,
    /// Families to take characters from that the chosen one lacks, in this order.
    pub fallback: Vec<String>,
}

impl FontChoice {
    /// What is chosen for one of the four styles, where the setup says so itself.
    #[must_use]
    pub fn of(&self, style: Four) -> Option<&str> {
        match style {
            Four::Regular => self.family.as_deref(),
            Four::Bold => self.bold.as_deref(),
            Four::Italic => self.italic.as_deref(),
            Four::BoldItalic => self.bold_italic.as_deref(),
        }
    }

    /// The features as one text, such as `ss01 -calt`.
    #[must_use]
    pub fn features_text(&self) -> String {
        let features: Vec<String> = self.features.iter().map(ToString::to_string).collect();
        features.join(" ")
    }

    /// The settings text is shaped with: the features, and ligatures off where the setup says so.
    #[must_use]
    pub fn shaping(&self) -> Vec<FeatureSetting> {
        let mut out = match self.ligatures {
            Some(false) => crate::font::features::ligatures_off(),
            _ => Vec::new(),
        };
        out.extend(&self.features);
        out
    }
}

/// The look of the terminal's window, as far as the setup says.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Window {
    /// What it says, by property.
    pub said: BTreeMap<Property, Value>,
}

/// When the prompt names the user and host.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum ShowUser {
    /// As root, or over ssh.
    #[default]
    WhenItMatters,
    /// Always.
    Always,
    /// Never.
    Never,
}

/// What the setup says of one tool.
#[derive(Debug, Clone, PartialEq)]
pub struct ToolOptions {
    /// Whether its files are changed at all.
    pub manage: bool,
    /// Whether a file of our own is generated for it (theme, prompt) and takes the place of the person's,
    /// where the tool takes one.
    pub generate: bool,
    /// Roles written to it although its dotfiles do not say them yet.
    pub adds: Vec<RoleId>,
    /// Its own symbol level, such as on a console without icons.
    pub symbols: Option<SymbolLevel>,
}

impl Default for ToolOptions {
    fn default() -> Self {
        Self {
            manage: true,
            generate: false,
            adds: Vec::new(),
            symbols: None,
        }
    }
}

/// A difference the person intends.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Exception {
    /// The tool's id.
    pub tool: String,
    /// The role that may differ there.
    pub role: RoleId,
    /// Why.
    pub reason: String,
}

/// Which palettes belong together as the dark and the light side of one look.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Appearance {
    /// The palette for a dark desktop; the first dark one unless the setup says otherwise.
    pub dark: Option<PaletteName>,
    /// The palette for a light desktop; the first light one unless the setup says otherwise.
    pub light: Option<PaletteName>,
    /// Whether tools that can follow the desktop's preference are written so, where the setup says.
    pub follow: Option<bool>,
}

impl Appearance {
    /// The palette of a side.
    #[must_use]
    pub fn side(&self, variant: Variant) -> Option<&PaletteName> {
        match variant {
            Variant::Dark => self.dark.as_ref(),
            Variant::Light => self.light.as_ref(),
        }
    }
}

/// A whole setup.
#[derive(Debug, Clone, PartialEq)]
pub struct Setup {
    /// Its name.
    pub name: String,
    /// The name of the palette in use.
    pub active: PaletteName,
    /// The palettes, at least one.
    pub palettes: Vec<Palette>,
    /// What roles look like, where the setup says so.
    pub roles: BTreeMap<RoleId, Style>,
    /// The font.
    pub font: FontChoice,
    /// The symbol level.
    pub symbols: SymbolLevel,
    /// Characters that are written otherwise in every dotfile, and what is written for them.
    pub replace: BTreeMap<String, String>,
    /// The terminal's window.
    pub window: Window,
    /// The prompt.
    pub prompt: Design,
    /// Per-tool options.
    pub tools: BTreeMap<String, ToolOptions>,
    /// Intended differences.
    pub exceptions: Vec<Exception>,
    /// Contrast targets and exceptions.
    pub contrast: Contrast,
    /// The palettes for a dark and a light desktop.
    pub appearance: Appearance,
}

impl Setup {
    /// The palette of a name.
    #[must_use]
    pub fn palette_named(&self, name: &PaletteName) -> Option<&Palette> {
        self.palettes.iter().find(|p| p.name == *name)
    }

    /// The palettes of the dark and the light side, where the setup has both.
    #[must_use]
    pub fn sides(&self) -> Option<(&Palette, &Palette)> {
        let side = |variant| self.palette_named(self.appearance.side(variant)?);
        side(Variant::Dark).zip(side(Variant::Light))
    }

    /// Both of them, where the tools are to follow the desktop.
    #[must_use]
    pub fn followed(&self) -> Option<(&Palette, &Palette)> {
        self.sides()
            .filter(|_| self.appearance.follow == Some(true))
    }

    /// The palette in use.
    ///
    /// # Panics
    /// Never for a setup that was read: reading refuses one without palettes.
    #[must_use]
    pub fn palette(&self) -> &Palette {
        self.palettes
            .iter()
            .find(|p| p.name == self.active)
            .unwrap_or(&self.palettes[0])
    }

    /// A tool's options; the defaults where the setup says nothing.
    #[must_use]
    pub fn tool(&self, id: ToolId) -> ToolOptions {
        self.tools.get(id.0).cloned().unwrap_or_default()
    }

    /// The prompt's design as it is drawn at a symbol level, with the signs that stand for others.
    #[must_use]
    pub fn prompt_at(&self, level: SymbolLevel) -> Design {
        self.prompt.at(level, |text| self.signs_at(level, text))
    }

    /// A text as it is drawn at a symbol level, with the signs that stand for others.
    #[must_use]
    pub fn signs_at(&self, level: SymbolLevel, text: &str) -> String {
        let one = |text: &str| replacement_at(self, level, text).unwrap_or_else(|| text.to_owned());
        text.graphemes(true).map(one).collect()
    }

    /// The symbol level of a tool: its own, or the setup's.
    #[must_use]
    pub fn symbols_for(&self, tool: ToolId) -> SymbolLevel {
        let own = self.tools.get(tool.0).and_then(|t| t.symbols);
        own.unwrap_or(self.symbols)
    }

    /// The exception that covers a role in a tool.
    #[must_use]
    pub fn exception(&self, tool: ToolId, role: &RoleId) -> Option<&Exception> {
        self.exceptions
            .iter()
            .find(|e| e.tool == tool.0 && e.role == *role)
    }
}

/// How bad a problem in the setup file is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Severity {
    /// The setup cannot be used.
    Error,
    /// Something is left out of account.
    Warning,
}

/// One thing wrong in the setup file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Problem {
    /// Error or warning.
    pub severity: Severity,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: String,
    /// Where, in bytes of the file.
    pub span: Range<usize>,
}

/// A setup file that cannot be used.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SetupError {
    /// Where the file is.
    pub path: PathBuf,
    /// Its text, as far as it is text.
    pub text: String,
    /// What is wrong; at least one error.
    pub problems: Vec<Problem>,
}

impl std::error::Error for SetupError {}

impl fmt::Display for SetupError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (i, p) in self.problems.iter().enumerate() {
            let at = text::position(self.text.as_bytes(), p.span.start);
            let gap = if i == 0 { "" } else { "\n" };
            write!(
                f,
                "{gap}{}:{at}: {}; {}",
                self.path.display(),
                p.message,
                p.help
            )?;
        }
        Ok(())
    }
}

/// A setup file: its text, and what it says.
#[derive(Debug, Clone, PartialEq)]
pub struct SetupDoc {
    path: PathBuf,
    text: String,
    setup: Setup,
    warnings: Vec<Problem>,
}

impl SetupDoc {
    /// Reads a setup file.
    ///
    /// # Errors
    /// Everything that keeps the setup from being used, each with its place.
    pub fn parse(path: impl Into<PathBuf>, bytes: &[u8]) -> Result<Self, SetupError> {
        read::parse(path.into(), bytes)
    }

    /// Where the file is, or will be.
    #[must_use]
    pub fn path(&self) -> &std::path::Path {
        &self.path
    }

    /// The text, byte for byte.
    #[must_use]
    pub fn text(&self) -> &str {
        &self.text
    }

    /// What it says.
    #[must_use]
    pub fn setup(&self) -> &Setup {
        &self.setup
    }

    /// Things left out of account, such as unknown keys.
    #[must_use]
    pub fn warnings(&self) -> &[Problem] {
        &self.warnings
    }
}
