//! The command line, as typed.

pub mod complete;
mod examples;
mod font;
pub mod manual;

use std::path::PathBuf;

use clap::{Args, CommandFactory, FromArgMatches, Parser, Subcommand, ValueEnum};
use clap_complete::Shell;
use clap_complete::engine::ArgValueCandidates as Offer;
use wealdmist_core::make::Variation;
use wealdmist_core::repair::Background;
use wealdmist_tools::exchange::FORMATS;

pub use font::{
    Drawn, FontCommand, FontOptions, GlyphOptions, LevelName, MeansName, OnOff, StyleName,
    TerminalOptions,
};

/// Give terminal, multiplexer, editor and shell prompt one look, and prove that they show it.
#[derive(Debug, Parser)]
#[command(name = "wealdmist", version, about, max_term_width = 100)]
pub struct Cli {
    #[command(flatten)]
    pub place: Place,
    #[command(subcommand)]
    pub command: Option<Command>,
}

const EXITS: &str = "Exit codes: 0 fine, 1 findings, 2 wrong usage, 3 it could not be done.";

/// The command line with the examples of each command.
pub fn command() -> clap::Command {
    fn with_examples(command: clap::Command, before: &str) -> clap::Command {
        let name = format!("{before}{}", command.get_name());
        let examples = examples::of(&name);
        let command = match examples.is_empty() {
            true => command,
            false => command.after_help(examples::text(examples)),
        };
        command.mut_subcommands(|sub| with_examples(sub, &format!("{name} ")))
    }
    let general = examples::text(examples::GENERAL);
    with_examples(Cli::command(), "").after_help(format!("{general}\n\n{EXITS}"))
}

/// The command line as it was typed.
pub fn parse() -> Result<Cli, clap::Error> {
    let matches = command().try_get_matches()?;
    Cli::from_arg_matches(&matches)
}

/// Where to work.
#[derive(Debug, Clone, Args)]
#[command(next_help_heading = "Everywhere")]
pub struct Place {
    /// Work on the dotfiles below this folder instead of your home
    #[arg(long, global = true, value_name = "DIR")]
    pub home: Option<PathBuf>,
    /// Use this setup file instead of ~/.config/wealdmist/setup.toml
    #[arg(long, global = true, value_name = "FILE")]
    pub setup: Option<PathBuf>,
    /// How many colors interface and output may use
    #[arg(long, global = true, value_enum, value_name = "DEPTH")]
    pub colors: Option<Colors>,
    /// Write down what is read, planned, written, told and answered, at the end of this file
    #[arg(long, global = true, value_name = "FILE", env = "WEALDMIST_LOG")]
    pub log: Option<PathBuf>,
    /// How much of it is written down
    #[arg(
        long,
        global = true,
        value_enum,
        value_name = "LEVEL",
        default_value_t = LogLevel::Info,
        env = "WEALDMIST_LOG_LEVEL"
    )]
    pub log_level: LogLevel,
    /// Draw Nerd Font icons in the interface's specimen (your terminal's font must have them)
    #[arg(long, global = true)]
    pub icons: bool,
}

/// What a repair may do with the terminal's own ground.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum OwnGround {
    /// It stays as it is
    Stays,
    /// It moves as any other color, so that less changes in sum
    Moves,
}

impl From<OwnGround> for Background {
    fn from(ground: OwnGround) -> Self {
        match ground {
            OwnGround::Stays => Self::Stays,
            OwnGround::Moves => Self::Moves,
        }
    }
}

/// How much is written into the log, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum LogLevel {
    /// What went wrong and ended the command
    Error,
    /// What went wrong
    Warn,
    /// What was opened, written, told and answered
    Info,
    /// What was read, planned and run
    Debug,
    /// All
    Trace,
}

/// A color depth, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Colors {
    /// 24-bit color
    Truecolor,
    /// 256 indexed colors
    #[value(name = "256")]
    Indexed,
    /// The 16 ANSI colors
    #[value(name = "16")]
    Ansi,
    /// No color
    None,
}

#[derive(Debug, Subcommand)]
pub enum Command {
    /// Make a sample home and open it; with --tour, run the whole job on it in text
    Demo {
        /// Run the whole job in text, without a terminal
        #[arg(long)]
        tour: bool,
        /// Make the sample home in this folder and keep it
        #[arg(long, value_name = "DIR")]
        dir: Option<PathBuf>,
    },
    /// Write a first setup file from what the dotfiles say
    Init,
    /// Show the tools found, their files, and the ledger
    Survey {
        /// Print JSON
        #[arg(long)]
        json: bool,
        /// Show every row, also those where all agree
        #[arg(long)]
        all: bool,
        /// Ask the installed programs what the dotfiles come to: each is started for it, runs your
        /// configuration in a place of its own, and its answer counts
        #[arg(long)]
        ask: bool,
    },
    /// Print all findings as file:line:col
    Check {
        /// Print JSON
        #[arg(long)]
        json: bool,
        /// Exit with 1 at findings of this severity or above
        #[arg(long, value_enum, default_value = "warning", value_name = "SEVERITY")]
        fail_on: FailOn,
    },
    /// List the text and ground pairs the tools draw, worst first; or measure one pair
    Contrast {
        /// A text color (#rrggbb, or a role) and a ground
        #[arg(num_args = 0..=2, value_names = ["TEXT", "GROUND"], add = Offer::new(complete::colors))]
        pair: Vec<String>,
        #[command(flatten)]
        seen: Seen,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// Change as little color as lets every pair reach its target, under the conditions given
    Repair {
        /// Only this color: a slot, a named color or a role
        #[arg(value_name = "COLOR", add = Offer::new(complete::colors))]
        only: Option<String>,
        #[command(flatten)]
        seen: Seen,
        /// Whether the terminal's own ground may move; left out: only where more can be read by that
        #[arg(long, value_name = "WAY")]
        ground: Option<OwnGround>,
        /// A color that may not move this time: a slot, a named color or a role (may be given again)
        #[arg(long, value_name = "COLOR", add = Offer::new(complete::colors))]
        hold: Vec<String>,
        /// Only say what would change
        #[arg(long)]
        dry_run: bool,
    },
    /// Take a palette into the setup from a file, standard input, or this terminal
    Import(ImportFrom),
    /// Write a palette in an open format or for another program
    Export {
        #[arg(help = formats(), add = Offer::new(complete::formats))]
        format: String,
        /// The file to write instead of standard output
        #[arg(short, long, value_name = "FILE")]
        output: Option<PathBuf>,
        /// Another palette than the one in use
        #[arg(long, value_name = "NAME", add = Offer::new(complete::palettes))]
        palette: Option<String>,
    },
    /// List the setup's palettes, put one to use, or make one
    Palette {
        #[command(subcommand)]
        command: PaletteCommand,
    },
    /// Show the prompt in its situations, list ready designs, or put one to use
    Prompt {
        #[command(subcommand)]
        command: Option<PromptCommand>,
    },
    /// Switch to the dark or the light palette, apply it and reload
    Appearance {
        /// The side; without one, the other than now
        #[arg(value_enum)]
        side: Option<Side>,
    },
    /// Find, compare, choose and install fonts
    Font {
        #[command(subcommand)]
        command: FontCommand,
    },
    /// List every character outside ASCII in use, with what is wrong with it and what could stand
    /// for it
    Glyphs(GlyphOptions),
    /// Search the table of icons by name, meaning or code point
    Icons {
        /// Words of a name, a meaning such as branch, or a code point such as U+E0A0
        #[arg(required = true)]
        query: Vec<String>,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// Set the symbol level: icons, plain Unicode signs, or ASCII
    Symbols {
        /// The level
        #[arg(value_enum)]
        level: LevelName,
        /// For this tool alone
        #[arg(long, value_name = "TOOL", add = Offer::new(complete::tools))]
        tool: Option<String>,
    },
    /// Show or measure what this terminal makes of glyphs
    Terminal(TerminalOptions),
    /// Change a color of the setup: a slot, a role, or font.family, font.size and the like
    Set {
        /// Such as red, comment, border.active, font.size, prompt.lines, tools.nvim.generate
        #[arg(add = Offer::new(complete::settable))]
        role: String,
        /// A color in any notation of CSS, or from what it is now ('lighter 0.05', also darker, stronger,
        /// weaker, and 'turned 20' in degrees); the name of a slot, color or role; a number, text, true
        /// or false for the others
        #[arg(add = Offer::new(complete::colors))]
        value: String,
        #[command(flatten)]
        then: Then,
    },
    /// Take a tool's value of a role into the setup
    Adopt {
        /// Such as border.active
        #[arg(add = Offer::new(complete::rows))]
        role: String,
        /// Such as tmux
        #[arg(add = Offer::new(complete::tools))]
        tool: String,
        #[command(flatten)]
        then: Then,
    },
    /// Keep a tool's difference in a role as intended
    Except {
        /// Such as border.active
        #[arg(add = Offer::new(complete::rows))]
        role: String,
        /// Such as tmux
        #[arg(add = Offer::new(complete::tools))]
        tool: String,
        /// Why it differs
        #[arg(long, required_unless_present = "remove")]
        reason: Option<String>,
        /// Remove the exception: set the tool to the setup again
        #[arg(long)]
        remove: bool,
    },
    /// Show the edits that would bring the dotfiles to the setup, as a unified diff
    Plan {
        /// Print JSON
        #[arg(long)]
        json: bool,
        #[command(flatten)]
        choice: Choice,
    },
    /// Carry the plan out: all files or none; then reload and verify
    Apply {
        #[command(flatten)]
        choice: Choice,
        /// Ask the installed programs first what the dotfiles come to, as `survey --ask` does
        #[arg(long)]
        ask: bool,
        /// Do not tell the running programs
        #[arg(long)]
        no_reload: bool,
    },
    /// Take back the latest apply, or the one of a number
    Undo {
        /// A number from `wealdmist history`
        #[arg(add = Offer::new(complete::records))]
        id: Option<u64>,
        /// Do not tell the running programs
        #[arg(long)]
        no_reload: bool,
    },
    /// Let a file outside the home be edited, or list those that may
    Allow {
        /// The file; without it the allowed ones are listed
        file: Option<PathBuf>,
        /// Let it be edited no longer
        #[arg(long)]
        remove: bool,
    },
    /// List what was applied and undone
    History {
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// Tell the running programs to read their files again, then ask what they show
    Reload {
        /// Only these tools
        #[arg(add = Offer::new(complete::tools))]
        tools: Vec<String>,
    },
    /// Ask the running programs what they show
    Verify {
        /// Only these tools
        #[arg(add = Offer::new(complete::tools))]
        tools: Vec<String>,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// Let this terminal wear the setup's palette until Enter is pressed
    Trial,
    /// Draw palette, ruler, pairs, window, opacity, vision, specimen, faces, coverage or glyphs
    Draw {
        /// palette (swatches, values, uses), ruler (lightness), pairs (a matrix with ratios),
        /// window (to scale), opacity (ratio against it), vision (color-vision deficiencies), specimen, faces (the
        /// chosen font's four styles), coverage (of the chosen font) or glyphs (those in use)
        #[arg(default_value = "specimen", add = Offer::new(complete::drawings))]
        kind: String,
        /// The file to write; its ending says the format
        #[arg(short, long, value_name = "FILE.svg|pdf|png")]
        output: PathBuf,
        #[command(flatten)]
        seen: Seen,
    },
    /// Pack setup, palette, generated files and a picture into a tar archive
    Pack {
        /// The archive to write
        #[arg(short, long, value_name = "FILE.tar")]
        output: PathBuf,
    },
    /// Print a shell's completions for this program
    Completions {
        /// The shell
        shell: Shell,
    },
    /// Print the manual page
    Man,
}

/// A share, from 0 to 1.
fn share(text: &str) -> Result<f64, String> {
    let number: f64 = text.parse().map_err(|_| "it is not a number".to_owned())?;
    match (0.0..=1.0).contains(&number) {
        true => Ok(number),
        false => Err("give a number from 0 to 1".to_owned()),
    }
}

/// What pairs are seen through.
#[derive(Debug, Clone, Default, Args)]
pub struct Seen {
    /// See through a window of this opacity, 0 to 1 (or a background image under this tint)
    #[arg(long, value_name = "0..1", value_parser = share)]
    pub opacity: Option<f64>,
    /// What is behind the window; without it, the worst there may be
    #[arg(long, value_name = "IMAGE")]
    pub wallpaper: Option<PathBuf>,
    /// See an inactive pane, in which this much of the text's color is left, 0 to 1
    #[arg(long, value_name = "0..1", value_parser = share)]
    pub dimmed: Option<f64>,
    /// See it with fewer colors
    #[arg(long, value_enum, value_name = "DEPTH")]
    pub depth: Option<Colors>,
    /// See it with a color-vision deficiency, or without color
    #[arg(long, value_enum, value_name = "KIND")]
    pub vision: Option<Sight>,
    /// How strong the deficiency is, in percent
    #[arg(long, default_value_t = 100, value_name = "PERCENT", value_parser = clap::value_parser!(u8).range(0..=100))]
    pub severity: u8,
}

/// A color-vision deficiency, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Sight {
    /// Long-wave cones: protanomaly, protanopia
    Protan,
    /// Middle-wave cones: deuteranomaly, deuteranopia
    Deutan,
    /// Short-wave cones: tritanomaly, tritanopia
    Tritan,
    /// Grayscale
    Gray,
}

/// Where a palette comes from.
#[derive(Debug, Clone, Args)]
pub struct ImportFrom {
    /// The file, or - for standard input
    #[arg(value_name = "FILE")]
    pub file: Option<PathBuf>,
    /// Ask this terminal for its colors instead
    #[arg(long, conflicts_with = "file")]
    pub terminal: bool,
    #[arg(long, value_name = "FORMAT", help = import_formats(), add = Offer::new(complete::formats))]
    pub format: Option<String>,
    /// Which of the schemes that the file holds, by its name or place
    #[arg(long, value_name = "SCHEME")]
    pub scheme: Option<String>,
    /// Only list the schemes that the file holds
    #[arg(long)]
    pub list: bool,
    /// What the palette is called; one that is there already is set to the imported colors
    #[arg(long, value_name = "NAME", add = Offer::new(complete::palettes))]
    pub name: Option<String>,
    /// Put it to use
    #[arg(long)]
    pub r#use: bool,
    /// Take over colors of other jobs than the slots, too: they are the same in every palette
    #[arg(long)]
    pub roles: bool,
    /// Take over the font it names, too, where that is installed
    #[arg(long)]
    pub font: bool,
    /// Only say what was found
    #[arg(long)]
    pub dry_run: bool,
}

/// What is done with the prompt.
#[derive(Debug, Subcommand)]
pub enum PromptCommand {
    /// Draw the design in its situations, as every shell draws it
    Show {
        /// Another design than the setup's: a ready one, or bash, zsh, fish, powershell or starship for what that has now
        #[arg(add = Offer::new(complete::designs))]
        name: Option<String>,
        /// The window's width in cells
        #[arg(long, value_name = "CELLS", default_value_t = 80, value_parser = clap::value_parser!(u16).range(10..=500))]
        width: u16,
    },
    /// List what your shells have now and the designs that are ready to be taken, each drawn
    List,
    /// Take a design into the setup, and have it generated for your shells
    Use {
        /// The name of a ready one, or bash, zsh, fish, powershell or starship for what that has now
        #[arg(add = Offer::new(complete::designs))]
        name: String,
        /// Only for these shells, or in the file of starship; without any, for all shells that are installed
        #[arg(long = "in", value_name = "SHELL", add = Offer::new(complete::takers))]
        shells: Vec<String>,
        /// Also in place of a design of your own, which is not kept
        #[arg(long)]
        replace: bool,
    },
    /// Measure what the prompt costs in a shell, part by part, beside the shell's own
    Cost {
        /// bash, zsh, fish or powershell
        #[arg(add = Offer::new(complete::shells))]
        shell: String,
        /// The folder one is in then; without it, the present one
        #[arg(long, value_name = "FOLDER", value_hint = clap::ValueHint::DirPath)]
        folder: Option<PathBuf>,
    },
    /// Print the code that a shell is given
    Code {
        /// bash, zsh, fish, powershell or starship
        #[arg(add = Offer::new(complete::takers))]
        shell: String,
    },
}

/// What is done with palettes.
#[derive(Debug, Subcommand)]
pub enum PaletteCommand {
    /// List them
    List,
    /// Put one to use
    Use {
        /// Its name
        #[arg(add = Offer::new(complete::palettes))]
        name: String,
    },
    /// Make one from an image
    Image {
        /// A PNG, JPEG or WebP file
        file: PathBuf,
        /// For a dark or a light ground; as now unless given
        #[arg(long, value_enum)]
        side: Option<Side>,
        /// Let a light ground show the tint it has
        #[arg(long)]
        tinted: bool,
        #[command(flatten)]
        made: Made,
    },
    /// Make one from one or two seed colors
    Seeds {
        /// In any notation of CSS
        #[arg(required = true, num_args = 1..=2, value_name = "COLOR")]
        seeds: Vec<String>,
        /// For a dark or a light ground; as now unless given
        #[arg(long, value_enum)]
        side: Option<Side>,
        /// Let a light ground show the tint it has
        #[arg(long)]
        tinted: bool,
        #[command(flatten)]
        made: Made,
    },
    /// Make the light counterpart of a dark palette, or the dark one of a light palette
    Counterpart {
        /// Of this one instead of the one in use
        #[arg(long, value_name = "NAME", add = Offer::new(complete::palettes))]
        of: Option<String>,
        #[command(flatten)]
        made: Made,
    },
    /// Make a variation
    Vary {
        /// In which direction
        #[arg(value_enum)]
        mood: Mood,
        /// Of this one instead of the one in use
        #[arg(long, value_name = "NAME", add = Offer::new(complete::palettes))]
        of: Option<String>,
        #[command(flatten)]
        made: Made,
    },
}

/// What becomes of a palette that was made.
#[derive(Debug, Clone, Args)]
pub struct Made {
    /// What it is called
    #[arg(long, value_name = "NAME")]
    pub name: Option<String>,
    /// Put it to use
    #[arg(long)]
    pub r#use: bool,
    /// Only show it
    #[arg(long)]
    pub dry_run: bool,
}

/// Dark or light, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
#[allow(missing_docs)]
pub enum Side {
    Dark,
    Light,
}

/// A variation, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Mood {
    /// Towards yellow and red
    Warmer,
    /// Towards blue
    Cooler,
    /// Less chroma and less contrast
    Softer,
    /// More chroma and more contrast
    Sharper,
}

impl From<Mood> for Variation {
    fn from(mood: Mood) -> Self {
        match mood {
            Mood::Warmer => Self::Warmer,
            Mood::Cooler => Self::Cooler,
            Mood::Softer => Self::Softer,
            Mood::Sharper => Self::Sharper,
        }
    }
}

/// Which changes of a plan are meant.
#[derive(Debug, Clone, Default, Args)]
pub struct Choice {
    /// Leave out a file or one change of it, by their numbers as `plan` shows them; may be repeated
    #[arg(long, value_name = "FILE[.CHANGE]", value_parser = part)]
    pub skip: Vec<Part>,
    /// Take only a file or one change of it; may be repeated
    #[arg(long, value_name = "FILE[.CHANGE]", value_parser = part, conflicts_with = "skip")]
    pub only: Vec<Part>,
}

/// A file of a plan, or one change of it, counted from 0.
pub type Part = (usize, Option<usize>);

/// What is done once the setup is changed.
#[derive(Debug, Clone, Copy, Default, Args)]
pub struct Then {
    /// Apply what follows from this change, and nothing else that waits in the plan
    #[arg(long)]
    pub apply: bool,
    /// With --apply: do not tell the running programs
    #[arg(long, requires = "apply")]
    pub no_reload: bool,
}

/// A severity, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum FailOn {
    Note,
    Warning,
    Error,
    Never,
}

fn part(text: &str) -> Result<Part, String> {
    let one = |t: &str| t.parse::<usize>().ok()?.checked_sub(1);
    let part = match text.split_once('.') {
        Some((file, change)) => one(file).zip(one(change).map(Some)),
        None => one(text).map(|file| (file, None)),
    };
    part.ok_or_else(|| "write it as the plan does, such as 1.2".to_owned())
}

/// What `import` says of formats.
fn import_formats() -> String {
    format!(
        "The format, where it is not recognised by itself: {}",
        formats()
    )
}

/// The names of the formats palettes are written in.
fn formats() -> String {
    let mut ids: Vec<&str> = FORMATS.iter().map(|f| f.id).collect();
    let last = ids.pop().unwrap_or_default();
    format!("{} or {last}", ids.join(", "))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_command_line_is_consistent() {
        Cli::command().debug_assert();
    }

    #[test]
    fn every_command_and_option_is_explained() {
        for command in Cli::command().get_subcommands() {
            assert!(
                command.get_about().is_some(),
                "{} has no text",
                command.get_name()
            );
            for argument in command.get_arguments() {
                assert!(
                    argument.get_help().is_some(),
                    "{} {}",
                    command.get_name(),
                    argument.get_id()
                );
            }
        }
    }

    #[test]
    fn changes_are_numbered_from_one() {
        assert_eq!(part("1.2"), Ok((0, Some(1))));
        assert_eq!(part("3"), Ok((2, None)));
        assert!(part("0.1").is_err() && part("0").is_err() && part("a.b").is_err());
    }
}
