//! One function per command; each says what its exit code is.

mod bundle;
mod change;
mod check;
mod contrast;
mod demo;
mod font;
mod glyphs;
mod palette;
mod prompt;
mod survey;
mod write;

use std::io::{self, Write};

use wealdmist_core::reading::ToolId;
use wealdmist_core::repair::Background;
use wealdmist_host::{Home, Journal, Survey};
use wealdmist_tools::{Access, Adapter, adapter, adapters};

use crate::cli::{Command, PaletteCommand, Place, PromptCommand, complete, manual};
use crate::failure::{Failure, Outcome};

/// What opens the interface on a home.
pub type Open = fn(Survey, &Place) -> Outcome;

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
        Command::Prompt { command } => matches!(command, Some(PromptCommand::Use { .. })),
        Command::Glyphs(options) => options.mend,
        _ => false,
    }
}

/// Runs a command. `open` opens the interface on a home.
pub fn run(command: &Command, place: &Place, open: Open) -> Outcome {
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
        Command::Demo { tour, dir } => demo::run(place, *tour, dir.as_deref(), open),
        Command::Init => change::init(survey(place)?),
        Command::Survey { json, all, ask } => survey::run(survey(place)?, *json, *all, *ask),
        Command::Check { json, fail_on } => check::run(&with_images(place)?, *json, *fail_on),
        Command::Contrast { pair, seen, json } => {
            contrast::contrast(&with_images(place)?, pair, seen, *json)
        }
        Command::Repair {
            only,
            seen,
            ground,
            hold,
            dry_run,
        } => {
            let background = ground.map(Background::from).unwrap_or_default();
            let survey = with_images(place)?;
            contrast::mend(survey, only.as_deref(), seen, background, hold, *dry_run)
        }
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
        Command::Prompt { command } => prompt::run(survey(place)?, command.as_ref(), place.icons),
        Command::Appearance { side } => palette::appearance(survey(place)?, *side),
        Command::Font { command } => font::run(survey(place)?, command),
        Command::Glyphs(options) => glyphs::glyphs(survey(place)?, options),
        Command::Icons { query, json } => glyphs::icons(&survey(place)?, &query.join(" "), *json),
        Command::Symbols { level, tool } => {
            glyphs::symbols(survey(place)?, *level, tool.as_deref())
        }
        Command::Terminal(options) => glyphs::terminal(survey(place)?, options),
        Command::Set { role, value, then } => change::set(survey(place)?, role, value, *then),
        Command::Adopt { role, tool, then } => change::adopt(survey(place)?, role, tool, *then),
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
        Command::Apply {
            choice,
            ask,
            no_reload,
        } => write::apply(survey(place)?, choice, *ask, !no_reload),
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
            bundle::draw(&with_images(place)?, kind, output, seen, place.icons)
        }
        Command::Pack { output } => bundle::pack(&survey(place)?, output),
        Command::Completions { shell } => {
            let mut text = Vec::new();
            complete::register(*shell, &mut text)?;
            io::stdout().write_all(&text)?;
            io::stdout().flush()?;
            Ok(0)
        }
        Command::Man => {
            let mut text = Vec::new();
            manual::write(&mut text)?;
            io::stdout().write_all(&text)?;
            io::stdout().flush()?;
            Ok(0)
        }
    }
}

/// Reads the home, after finishing what an earlier process may have left unfinished.
pub fn survey(place: &Place) -> Result<Survey, Failure> {
    let home = Home::open(place.home.as_deref())?;
    recover(&home);
    Ok(Survey::open(home, place.setup.as_deref(), None)?)
}

/// The same with the images that its windows show, for what judges what is drawn.
fn with_images(place: &Place) -> Result<Survey, Failure> {
    let mut survey = survey(place)?;
    survey.learn_images();
    Ok(survey)
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
fn known(names: &[String]) -> Result<Vec<ToolId>, Failure> {
    names.iter().map(|name| tool(name)).collect()
}

/// The tool of a name; an error where there is none.
fn tool(name: &str) -> Result<ToolId, Failure> {
    adapter(name).map(Adapter::id).ok_or_else(|| {
        let all: Vec<_> = adapters().iter().map(|a| a.id().0).collect();
        let all = all.join(", ");
        Failure::Usage(format!("there is no tool '{name}'; there are {all}"))
    })
}

/// A path for people.
fn shown(home: &Home, path: &std::path::Path) -> String {
    wealdmist_core::text::visible(home.contract(path).as_bytes())
}
