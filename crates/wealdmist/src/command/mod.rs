//! One function per command; each says what its exit code is.

mod bundle;
mod change;
mod check;
mod contrast;
mod demo;
pub mod font;
pub mod glyphs;
mod palette;
mod survey;
mod write;

use std::io::{self, Write};

use clap::CommandFactory;
use wealdmist_core::look::Origin;
use wealdmist_core::quote::is_treacherous;
use wealdmist_host::{Home, Journal, Survey};
use wealdmist_tools::{Access, adapter};

use crate::cli::{Cli, Command, PaletteCommand, Place};
use crate::failure::Failure;
use crate::tui;

pub use bundle::{bundle_parts, draw_to};
pub use change::{adopted, trial_sequences};
pub use contrast::backdrop;
pub use palette::{IMAGE_COLORS, free_name, readable, with_imported};

/// An exit code, or why there is none.
pub type Outcome = Result<u8, Failure>;

/// Whether a command may write the setup or dotfiles.
const fn writes(command: &Command) -> bool {
    match command {
        Command::Init
        | Command::Repair { .. }
        | Command::Import(_)
        | Command::Appearance { .. }
        | Command::Symbols { .. }
        | Command::Set { .. }
        | Command::Adopt { .. }
        | Command::Except { .. }
        | Command::Apply { .. }
        | Command::Allow { .. }
        | Command::Undo { .. } => true,
        Command::Font { command } => command.writes(),
        Command::Palette { command } => !matches!(command, PaletteCommand::List),
        Command::Glyphs(options) => options.mend,
        _ => false,
    }
}

/// Runs what was asked for.
pub fn run(cli: &Cli) -> Outcome {
    let place = &cli.place;
    let Some(command) = &cli.command else {
        return tui::open(survey(place)?, place);
    };
    // What is read is what is written upon: nobody else writes in this home meanwhile.
    let _held = match writes(command) {
        true => {
            let home = Home::open(place.home.as_deref())?;
            recover(&home);
            Some(Journal::of(&home).hold()?)
        }
        false => None,
    };
    match command {
        Command::Demo { tour, dir } => demo::run(place, *tour, dir.as_deref()),
        Command::Init => change::init(survey(place)?),
        Command::Survey { json, all } => survey::run(&survey(place)?, *json, *all),
        Command::Check { json, fail_on } => check::run(&survey(place)?, *json, *fail_on),
        Command::Contrast { pair, seen, json } => {
            contrast::contrast(&survey(place)?, pair, seen, *json)
        }
        Command::Repair {
            only,
            seen,
            dry_run,
        } => contrast::mend(survey(place)?, only.as_deref(), seen, *dry_run),
        Command::Import(from) => palette::import_palette(survey(place)?, from),
        Command::Export {
            format,
            output,
            palette,
        } => palette::export(
            &survey(place)?,
            format,
            output.as_deref(),
            palette.as_deref(),
        ),
        Command::Palette { command } => palette::run(survey(place)?, command),
        Command::Appearance { side } => palette::appearance(survey(place)?, *side),
        Command::Font { command } => font::run(survey(place)?, command),
        Command::Glyphs(options) => glyphs::glyphs(survey(place)?, options),
        Command::Icons { query, json } => glyphs::icons(&survey(place)?, &query.join(" "), *json),
        Command::Symbols { level, tool } => {
            glyphs::symbols(survey(place)?, *level, tool.as_deref())
        }
        Command::Terminal(options) => glyphs::terminal(survey(place)?, options),
        Command::Set { role, value } => change::set(survey(place)?, role, value),
        Command::Adopt { role, tool } => change::adopt(survey(place)?, role, tool),
        Command::Except {
            role,
            tool,
            reason,
            remove,
        } => {
            let reason = reason.as_deref().filter(|_| !remove);
            change::except(survey(place)?, role, tool, reason)
        }
        Command::Plan { json, choice } => write::plan(&survey(place)?, choice, *json),
        Command::Apply { choice, no_reload } => write::apply(survey(place)?, choice, !no_reload),
        Command::Undo { id, no_reload } => write::undo(survey(place)?, *id, !no_reload),
        Command::Allow { file, remove } => write::allow(
            &Home::open(place.home.as_deref())?,
            file.as_deref(),
            *remove,
        ),
        Command::History { json } => write::history(&Home::open(place.home.as_deref())?, *json),
        Command::Reload { tools } => write::reload(&survey(place)?, &known(tools)?),
        Command::Verify { tools, json } => write::verify(&survey(place)?, &known(tools)?, *json),
        Command::Trial => change::trial(&survey(place)?),
        Command::Draw { kind, output, seen } => {
            bundle::draw(&survey(place)?, kind, output, seen, place.icons)
        }
        Command::Pack { output } => bundle::pack(&survey(place)?, output),
        Command::Completions { shell } => {
            let mut command = Cli::command();
            let mut text = Vec::new();
            clap_complete::generate(*shell, &mut command, "wealdmist", &mut text);
            io::stdout().write_all(&text)?;
            io::stdout().flush()?;
            Ok(0)
        }
        Command::Man => {
            clap_mangen::Man::new(Cli::command()).render(&mut io::stdout())?;
            Ok(0)
        }
    }
}

/// Reads the home, after finishing what an earlier process may have left unfinished.
fn survey(place: &Place) -> Result<Survey, Failure> {
    let home = Home::open(place.home.as_deref())?;
    recover(&home);
    Ok(Survey::open(home, place.setup.as_deref(), None)?)
}

fn recover(home: &Home) {
    match Journal::of(home).recover() {
        Ok(found) => {
            for one in found {
                let what = if one.completed {
                    "completed"
                } else {
                    "taken back"
                };
                warn!(
                    "wealdmist: apply {} had been interrupted and was {what}",
                    one.id
                );
                for path in one.left {
                    warn!(
                        "wealdmist: {} was edited meanwhile and left as it is",
                        path.display()
                    );
                }
            }
        }
        // Another process at work is no reason not to look.
        Err(wealdmist_host::ApplyError::Busy) => {}
        Err(error) => warn!("wealdmist: {error}"),
    }
}

/// The tools of these names; an error for one there is none of.
fn known(names: &[String]) -> Result<Vec<&str>, Failure> {
    for name in names {
        if adapter(name).is_none() {
            let all: Vec<_> = wealdmist_tools::adapters()
                .iter()
                .map(|a| a.id().0)
                .collect();
            let all = all.join(", ");
            return Err(Failure::Usage(format!(
                "there is no tool '{name}'; there are {all}"
            )));
        }
    }
    Ok(names.iter().map(String::as_str).collect())
}

/// The name by which a color is set.
pub fn origin_name(origin: &Origin) -> String {
    match origin {
        Origin::Slot(slot) => slot.key().to_owned(),
        Origin::Named(name) => name.clone(),
        Origin::Role(role) => role.to_string(),
    }
}

/// A path for people.
fn shown(home: &Home, path: &std::path::Path) -> String {
    wealdmist_core::text::visible(home.contract(path).as_bytes())
}

/// Standard output for people: text from files and setups cannot act on the terminal, and a
/// reader that went away is reported instead of causing a panic.
pub fn out() -> io::BufWriter<Harmless> {
    io::BufWriter::new(Harmless(io::stdout()))
}

/// The same for a line at a time, so that what fails is known.
pub fn line_out() -> Harmless {
    Harmless(io::stdout())
}

/// Prints a line to the error output; see `warn!`.
pub fn warn(text: std::fmt::Arguments) {
    let text = format!("{text}\n");
    let mut out = io::stderr();
    let _ = out.write_all(&harmless(text.as_bytes()));
    let _ = out.flush();
}

/// A writer that lets no control character through but line ends.
pub struct Harmless(io::Stdout);

impl Write for Harmless {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.write_all(&harmless(bytes))?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}

/// The same bytes with a `?` for each byte of a control character or a mark of direction, so that
/// places stay.
pub fn harmless(bytes: &[u8]) -> Vec<u8> {
    let mut out = bytes.to_vec();
    for i in 0..out.len() {
        // C1 controls are two bytes in UTF-8: 0xc2 and 0x80 to 0x9f.
        let second = i > 0 && bytes[i - 1] == 0xc2 && (0x80..=0x9f).contains(&bytes[i]);
        if second {
            out[i - 1] = b'?';
        }
        let marks = marks_of_direction(&bytes[i..]);
        out[i..i + marks].fill(b'?');
        if second || bytes[i] == 0x7f || (bytes[i] < 0x20 && !matches!(bytes[i], b'\n' | b'\t')) {
            out[i] = b'?';
        }
    }
    out
}

/// How many bytes a mark of direction has that these begin with; 0 where they begin with none.
fn marks_of_direction(bytes: &[u8]) -> usize {
    match bytes {
        [0xd8, 0x9c, ..] => 2,
        [0xe2, 0x80, 0x8e | 0x8f | 0xa8..=0xae, ..] | [0xe2, 0x81, 0xa6..=0xa9, ..] => 3,
        _ => 0,
    }
}

/// Prints JSON, in which what a terminal would act on is escaped.
fn print_json(value: &serde_json::Value) -> Result<(), Failure> {
    let mut out = out();
    let mut text = String::new();
    for c in format!("{value:#}").chars() {
        match c {
            '\n' => text.push(c),
            c if is_treacherous(c) => text.push_str(&format!("\\u{:04x}", c as u32)),
            c => text.push(c),
        }
    }
    writeln!(out, "{text}")?;
    out.flush()?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::harmless;

    #[test]
    fn nothing_a_terminal_acts_on_is_let_through() {
        assert_eq!(
            harmless("a\x1b[31m\u{9b}é\n\t\r".as_bytes()),
            "a?[31m??é\n\t?".as_bytes()
        );
        assert_eq!(
            harmless("a\u{202e}b\u{61c}é\u{2066}".as_bytes()),
            "a???b??é???".as_bytes()
        );
    }
}
