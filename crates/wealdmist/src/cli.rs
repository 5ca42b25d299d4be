//! The command line, as typed.

use std::path::PathBuf;

use clap::{Args, Parser, Subcommand, ValueEnum};
use clap_complete::Shell;

/// Give terminal, multiplexer, editor and shell prompt one look, and prove that they show it.
#[derive(Debug, Parser)]
#[command(name = "wealdmist", version, about, after_help = EXAMPLES, max_term_width = 100)]
pub struct Cli {
    #[command(flatten)]
    pub place: Place,
    #[command(subcommand)]
    pub command: Option<Command>,
}

const EXAMPLES: &str = "\
Examples:
  wealdmist                          open the interface on this home
  wealdmist demo                     try it on a made-up home first
  wealdmist survey                   what the dotfiles say, and where they disagree
  wealdmist check --fail-on warning  problems as file:line:col, for editors and CI
  wealdmist set comment '#8a9a9d'    change one color of the setup
  wealdmist plan                     the exact edits as a diff
  wealdmist apply && wealdmist undo  carry them out, and take them back

Exit codes: 0 fine, 1 findings, 2 wrong usage, 3 it could not be done.";

/// Where to work.
#[derive(Debug, Clone, Args)]
pub struct Place {
    /// Work on the dotfiles below this folder instead of your home
    #[arg(long, global = true, value_name = "DIR")]
    pub home: Option<PathBuf>,
    /// Use this setup file instead of ~/.config/wealdmist/setup.toml
    #[arg(long, global = true, value_name = "FILE")]
    pub setup: Option<PathBuf>,
    /// How many colors the interface may use
    #[arg(long, global = true, value_enum, value_name = "DEPTH")]
    pub colors: Option<Colors>,
    /// Draw Nerd Font icons in the interface's specimen (your terminal's font must have them)
    #[arg(long, global = true)]
    pub icons: bool,
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
        #[arg(num_args = 0..=2, value_names = ["TEXT", "GROUND"])]
        pair: Vec<String>,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// List every non-ASCII character in the dotfiles with its verdict
    Glyphs {
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// Change a color of the setup: a slot, a role, or font.family, font.size and the like
    Set {
        /// Such as red, comment, border.active, font.size
        role: String,
        /// #rrggbb, the name of a slot, color or role, or a number or text for the others
        value: String,
    },
    /// Take a tool's value of a role into the setup
    Adopt {
        /// Such as border.active
        role: String,
        /// Such as tmux
        tool: String,
    },
    /// Keep a tool's difference in a role as intended
    Except {
        /// Such as border.active
        role: String,
        /// Such as tmux
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
        /// Do not tell the running programs
        #[arg(long)]
        no_reload: bool,
    },
    /// Take back the latest apply, or the one of a number
    Undo {
        /// A number from `wealdmist history`
        id: Option<u64>,
        /// Do not tell the running programs
        #[arg(long)]
        no_reload: bool,
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
        tools: Vec<String>,
    },
    /// Ask the running programs what they show
    Verify {
        /// Only these tools
        tools: Vec<String>,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// Let this terminal wear the setup's palette until Enter is pressed
    Trial,
    /// Draw the specimen as SVG
    Draw {
        /// The file to write
        #[arg(short, long, value_name = "FILE.svg")]
        output: PathBuf,
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

/// Which hunks of a plan are meant.
#[derive(Debug, Clone, Args)]
pub struct Choice {
    /// Leave out a hunk, by file number and hunk number as `plan` shows them; may be repeated
    #[arg(long, value_name = "FILE.HUNK", value_parser = hunk)]
    pub skip: Vec<(usize, usize)>,
}

/// A severity, as typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum FailOn {
    Note,
    Warning,
    Error,
    Never,
}

fn hunk(text: &str) -> Result<(usize, usize), String> {
    let numbers = text.split_once('.').and_then(|(f, h)| {
        let one = |t: &str| t.parse::<usize>().ok().filter(|n| *n > 0);
        Some((one(f)? - 1, one(h)? - 1))
    });
    numbers.ok_or_else(|| "write it as the plan does, such as 1.2".to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use clap::CommandFactory;

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
    fn hunks_are_numbered_from_one() {
        assert_eq!(hunk("1.2"), Ok((0, 1)));
        assert!(hunk("0.1").is_err() && hunk("1").is_err() && hunk("a.b").is_err());
    }
}
