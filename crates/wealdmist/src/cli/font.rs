//! The command line of fonts, glyphs and terminals, as typed.

use std::path::PathBuf;

use clap::{Args, Subcommand, ValueEnum};
use clap_complete::engine::ArgValueCandidates as Offer;

use super::complete;

/// What is done with fonts.
#[derive(Debug, Subcommand)]
pub enum FontCommand {
    /// List the families installed, or those of a file, folder or archive
    List {
        /// Only families whose name holds this
        filter: Option<String>,
        /// Look into a font file, a folder, or a zip or tar archive instead
        #[arg(long, value_name = "PATH")]
        from: Option<PathBuf>,
        /// Also families whose letters differ in width
        #[arg(long)]
        all: bool,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// Show everything a font file says of a face, and how each tool spells its name
    Show {
        /// A family, full or PostScript name; or a font file
        #[arg(add = Offer::new(complete::families))]
        name: String,
        /// Which face of a collection, from 0
        #[arg(long, value_name = "NUMBER")]
        face: Option<u32>,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// Draw two or three faces on the same lines, in this terminal or to a file
    Compare {
        /// Names of installed faces, or font files and archives
        #[arg(required = true, num_args = 1..=3, value_name = "NAME", add = Offer::new(complete::families))]
        names: Vec<String>,
        #[command(flatten)]
        how: Drawn,
        /// Write outlines to a file instead
        #[arg(short, long, value_name = "FILE.svg|pdf|png")]
        output: Option<PathBuf>,
    },
    /// Show what a face covers by icon range and Unicode block; or how two differ
    Coverage {
        /// Names of one or two installed faces, or font files
        #[arg(required = true, num_args = 1..=2, value_name = "NAME", add = Offer::new(complete::families))]
        names: Vec<String>,
        /// Write a chart to a file instead
        #[arg(short, long, value_name = "FILE.svg|pdf|png")]
        output: Option<PathBuf>,
    },
    /// Print the lines that select the setup's font in each tool
    Spell {
        /// Another family than the setup's
        #[arg(add = Offer::new(complete::families))]
        family: Option<String>,
    },
    /// Put a font into the setup; `apply` writes it to every tool
    Choose {
        /// The family
        #[arg(add = Offer::new(complete::families))]
        family: Option<String>,
        #[command(flatten)]
        choice: FontOptions,
    },
    /// Install faces from a file, folder or archive into your font folder; `undo` removes them
    Install {
        /// A font file, a folder, or a zip or tar archive
        path: PathBuf,
        /// Only faces of this name or style, such as Regular; may be repeated
        #[arg(long, value_name = "NAME")]
        face: Vec<String>,
        /// Only say what would be installed
        #[arg(long)]
        dry_run: bool,
    },
}

/// How samples are drawn.
#[derive(Debug, Clone, Args)]
pub struct Drawn {
    /// Pixels in the width of a letter
    #[arg(long, default_value_t = 8, value_name = "PIXELS", value_parser = clap::value_parser!(u8).range(3..=40))]
    pub width: u8,
    /// Only one sample: code, lookalikes, icons, ligatures and others
    #[arg(long, value_name = "TITLE")]
    pub sample: Option<String>,
    /// Another text than the samples
    #[arg(
        long,
        value_name = "TEXT",
        conflicts_with = "sample",
        allow_hyphen_values = true
    )]
    pub text: Option<String>,
    /// The style of each family
    #[arg(long, value_enum, default_value = "regular")]
    pub style: StyleName,
    /// A feature, as ss01, -calt or cv02=3; may be repeated
    #[arg(long, value_name = "FEATURE", allow_hyphen_values = true)]
    pub feature: Vec<String>,
    /// Draw every character by itself
    #[arg(long)]
    pub no_ligatures: bool,
    /// With what pixels are drawn
    #[arg(long, value_enum)]
    pub means: Option<MeansName>,
}

/// One of four styles, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
#[allow(missing_docs)]
pub enum StyleName {
    Regular,
    Bold,
    Italic,
    BoldItalic,
}

/// Means of drawing, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum MeansName {
    /// Quarters of cells in shades of gray
    Quadrants,
    /// Dots
    Dots,
    /// ASCII signs
    Ascii,
    /// An image, where the terminal shows images
    Image,
}

/// What is chosen beside the family.
#[derive(Debug, Clone, Default, Args)]
pub struct FontOptions {
    /// The size in points
    #[arg(long, value_name = "POINTS")]
    pub size: Option<f64>,
    /// The face for bold by its full name; `auto` for the family's own
    #[arg(long, value_name = "NAME")]
    pub bold: Option<String>,
    /// The face for italic
    #[arg(long, value_name = "NAME")]
    pub italic: Option<String>,
    /// The face for bold italic
    #[arg(long, value_name = "NAME")]
    pub bold_italic: Option<String>,
    /// A feature switched on (ss01), off (-calt), to a value (cv02=3), or forgotten (ss01=default)
    #[arg(long, value_name = "FEATURE", allow_hyphen_values = true)]
    pub feature: Vec<String>,
    /// Whether ligatures are drawn
    #[arg(long, value_enum)]
    pub ligatures: Option<OnOff>,
    /// The height of a line, 1 being what the font asks for
    #[arg(long, value_name = "FACTOR")]
    pub line_height: Option<f64>,
    /// A family for what the chosen one lacks; may be repeated, in order
    #[arg(long, value_name = "FAMILY", add = Offer::new(complete::families))]
    pub fallback: Vec<String>,
}

/// On or off, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
#[allow(missing_docs)]
pub enum OnOff {
    On,
    Off,
}

/// A symbol level, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum LevelName {
    /// Icons of a Nerd Font
    Icons,
    /// Signs that every common font has
    Plain,
    /// ASCII only
    Ascii,
}

/// What is asked of the glyphs in use.
#[derive(Debug, Clone, Args)]
pub struct GlyphOptions {
    /// Search these files and folders instead of the dotfiles of the tools
    pub paths: Vec<PathBuf>,
    /// Put the nearest substitute of every glyph that is not right into the setup
    #[arg(long)]
    pub mend: bool,
    /// Only glyphs that are not right
    #[arg(long)]
    pub open: bool,
    /// Write a sheet of them to a file instead
    #[arg(short, long, value_name = "FILE.svg|pdf|png")]
    pub output: Option<PathBuf>,
    /// Print JSON
    #[arg(long)]
    pub json: bool,
}

/// What is done with what is known of this terminal.
#[derive(Debug, Clone, Args)]
pub struct TerminalOptions {
    /// Measure the width of every glyph in use and of some that terminals differ in
    #[arg(long)]
    pub measure: bool,
    /// Mark what you see drawn wrongly here: a character, such as U+F07B, or what is drawn as one, such as "U+31 U+FE0F U+20E3"; may be repeated
    #[arg(long, value_name = "CODE")]
    pub wrong: Vec<String>,
    /// Mark a character that you see drawn rightly
    #[arg(long, value_name = "CODE")]
    pub right: Vec<String>,
    /// Put the symbol level that follows from it into the setup
    #[arg(long)]
    pub r#use: bool,
    /// Print JSON
    #[arg(long)]
    pub json: bool,
}

impl FontCommand {
    /// Whether it may write the setup or fonts.
    pub const fn writes(&self) -> bool {
        matches!(self, Self::Choose { .. } | Self::Install { .. })
    }
}
