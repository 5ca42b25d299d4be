//! The prompt: its situations, the designs that are ready, and the code of a shell.

use std::io::Write;
use std::path::Path;
use std::time::Duration;

use wealdmist_core::look::Look;
use wealdmist_core::prompt::ready::{self, Ready};
use wealdmist_core::prompt::{Piece, Row, Situation, cells_of, draw, going_on, past};
use wealdmist_core::reading::ToolId;
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::specimen::{ENTERED, GOES_ON};
use wealdmist_core::text::visible;
use wealdmist_host::Survey;
use wealdmist_tools::sourced::Sourced;
use wealdmist_tools::{Access, Adapter};

use crate::cli::PromptCommand;
use crate::failure::{Failure, Outcome};
use crate::screen::{Mark, Output, out, piped};
use crate::work::ask::confined;
use crate::work::prompt::{draws_prompts, given_to, known_shells, own_prompts, shown};

pub fn run(survey: Survey, command: Option<&PromptCommand>, icons: bool) -> Outcome {
    match command {
        None => show(&survey, None, 80, icons),
        Some(PromptCommand::Show { name, width }) => {
            show(&survey, name.as_deref(), usize::from(*width), icons)
        }
        Some(PromptCommand::List) => list(&survey, icons),
        Some(PromptCommand::Use {
            name,
            shells,
            replace,
        }) => put_to_use(survey, name, shells, *replace),
        Some(PromptCommand::Cost { shell, folder }) => cost(&survey, shell, folder.as_deref()),
        Some(PromptCommand::Code { shell }) => code(&survey, shell),
    }
}

/// A setup with a design: one that is ready, or what a shell has now; and what of that is left out.
fn with(survey: &Survey, name: &str) -> Result<(SetupDoc, Vec<String>), Failure> {
    if let Some(ready) = ready::named(name) {
        return Ok((survey.doc.with_prompt(ready.toml)?, Vec::new()));
    }
    if draws_prompts(name) {
        let mut all = own_prompts(&survey.reports);
        let (report, own) = all
            .find(|(report, _)| report.tool.0 == name)
            .ok_or_else(|| Failure::Other(format!("no prompt of your own was read of {name}")))?;
        let doc = survey.doc.with_design(&own.design(report))?;
        return Ok((doc, own.left_out.clone()));
    }
    let all: Vec<&str> = ready::ALL.iter().map(|r| r.name).collect();
    Err(Failure::Usage(format!(
        "there is no design '{name}'; there are {}, and what bash, zsh, fish, powershell or starship has now",
        all.join(", ")
    )))
}

/// Says what of a prompt no part tells.
fn say_left_out(name: &str, left_out: &[String]) -> Result<(), Failure> {
    /// How many are said one by one.
    const FEW: usize = 6;
    let shown = |text: &String| visible(text.as_bytes());
    if left_out.len() > FEW {
        let all: Vec<String> = left_out.iter().map(shown).collect();
        say!(
            "! left out of what {name} has, since no part tells them: {}",
            all.join(", ")
        );
        return Ok(());
    }
    for text in left_out.iter().map(shown) {
        say!("! {text} is left out of what {name} has: no part tells it");
    }
    Ok(())
}

fn show(survey: &Survey, name: Option<&str>, width: usize, icons: bool) -> Outcome {
    let doc = match name {
        Some(name) => {
            let (doc, left_out) = with(survey, name)?;
            say_left_out(name, &left_out)?;
            doc
        }
        None => survey.doc.clone(),
    };
    let (look, design) = (Look::new(doc.setup()), shown(doc.setup(), icons));
    let mut first = true;
    for mut at in Situation::all() {
        at.width = at.width.min(width);
        write_rows(&look, at.name, &draw(&design, true, &at), &at, first)?;
        first = false;
    }
    let at = Situation {
        width,
        ..Situation::sample()
    };
    let entered = past(&design, true, &at);
    write_rows(&look, ENTERED, &entered, &at, false)?;
    write_rows(&look, GOES_ON, &[going_on(&design)], &at, false)?;
    Ok(0)
}

fn list(survey: &Survey, icons: bool) -> Outcome {
    let mut all: Vec<(String, SetupDoc)> = Vec::new();
    for (report, own) in own_prompts(&survey.reports) {
        let title = format!("{}: what it has now", report.tool);
        all.push((title, survey.doc.with_design(&own.design(report))?));
    }
    for Ready { name, says, toml } in ready::ALL {
        all.push((format!("{name}: {says}"), survey.doc.with_prompt(toml)?));
    }
    for (n, (title, doc)) in all.iter().enumerate() {
        let (look, design) = (Look::new(doc.setup()), shown(doc.setup(), icons));
        let at = Situation {
            statuses: vec![2],
            duration: 8_400,
            ..Situation::sample()
        };
        write_rows(&look, title, &draw(&design, true, &at), &at, n == 0)?;
    }
    Ok(0)
}

/// A situation below its name.
fn write_rows(
    look: &Look,
    name: &str,
    rows: &[Row],
    at: &Situation,
    first: bool,
) -> Result<(), Failure> {
    let mut out = out();
    if !first {
        writeln!(out)?;
    }
    out.marked(Mark::Quiet, name)?;
    writeln!(out)?;
    for row in rows {
        write_pieces(&mut out, look, &row.left)?;
        if !row.right.is_empty() {
            let used = cells_of(&row.left) + cells_of(&row.right) + 1;
            write!(out, "{}", " ".repeat(at.width.saturating_sub(used)))?;
            write_pieces(&mut out, look, &row.right)?;
        }
        writeln!(out)?;
    }
    out.flush()?;
    Ok(())
}

fn write_pieces<W: Write>(
    out: &mut Output<W>,
    look: &Look,
    pieces: &[Piece],
) -> Result<(), Failure> {
    for piece in pieces {
        let ink = &piece.ink;
        let color = |role: &Option<RoleId>| role.as_ref().map(|r| look.color(r));
        let attrs = ink
            .text
            .as_ref()
            .filter(|_| ink.styled)
            .map(|r| look.attrs(r));
        let colors = (color(&ink.text), color(&ink.ground));
        out.painted(&piece.text, colors, attrs.unwrap_or_default())?;
    }
    Ok(())
}

fn put_to_use(mut survey: Survey, name: &str, shells: &[String], replace: bool) -> Outcome {
    let (doc, left_out) = with(&survey, name)?;
    let wanted = shells
        .iter()
        .map(|name| taker(name))
        .collect::<Result<Vec<_>, _>>()?;
    if !replace && !ready::is_known(&survey.doc.setup().prompt) {
        return Err(Failure::Other(format!(
            "{} holds a design of your own in [prompt]; --replace has {name} take its place",
            survey.doc.path().display(),
        )));
    }
    let here = known_shells().filter(|(_, row)| survey.has_program(row.program));
    let takers: Vec<ToolId> = match wanted.is_empty() {
        true => here.map(|(id, _)| id).collect(),
        false => wanted.iter().map(|a| a.id()).collect(),
    };
    let told: Vec<&str> = takers.iter().map(|id| id.0).collect();
    survey.doc = given_to(&doc, &takers, true)?;
    survey.save()?;
    survey.refresh();
    say_left_out(name, &left_out)?;
    say!(
        "{} is the prompt of {}; {} would follow (wealdmist plan)",
        match ready::named(name) {
            Some(ready) => ready.name.to_owned(),
            None => format!("what {name} has"),
        },
        match told.is_empty() {
            true => "no shell: none is installed".to_owned(),
            false => told.join(", "),
        },
        survey.plan().counted()
    );
    Ok(0)
}

/// Says what the prompt costs in a shell.
fn cost(survey: &Survey, name: &str, folder: Option<&Path>) -> Outcome {
    let row = shell(name)?;
    if !survey.has_program(row.program) {
        return Err(Failure::Other(format!("{name} is not installed")));
    }
    let folder = match folder {
        Some(folder) => folder.to_owned(),
        None => std::env::current_dir().map_err(|e| Failure::Other(e.to_string()))?,
    };
    let cost =
        wealdmist_host::cost(&survey.doc, row, &folder, &confined()).map_err(Failure::Other)?;
    let ms = |time: Duration| format!("{:6.2} ms", time.as_secs_f64() * 1e3);
    let shown = survey.home.contract(&folder);
    say!("{name} in {}", visible(shown.as_bytes()));
    say!("{}  each prompt", ms(cost.later));
    say!(
        "{}  the first one, with the script that draws it",
        ms(cost.first)
    );
    say!("{}  a prompt of {name} by itself", ms(cost.own));
    say!("Without a part each is faster by");
    for (part, time) in cost.parts {
        say!("{}  {}", ms(time), visible(part.as_bytes()));
    }
    Ok(0)
}

fn code(survey: &Survey, name: &str) -> Outcome {
    let setup = survey.doc.setup();
    let generated = taker(name)?.generated(setup, &Look::new(setup));
    let code = generated.map(|(_, code)| code).unwrap_or_default();
    piped(&code.into_bytes())?;
    Ok(0)
}

/// What takes a design: a shell, or a program that draws for several.
fn taker(name: &str) -> Result<&'static dyn Adapter, Failure> {
    let adapter = wealdmist_tools::adapter(name).filter(|_| draws_prompts(name));
    adapter.ok_or_else(|| match shell(name) {
        Err(failure) => failure,
        Ok(_) => Failure::Usage(format!("'{name}' draws no prompt")),
    })
}

/// The shell of a name.
fn shell(name: &str) -> Result<&'static Sourced, Failure> {
    let found = known_shells().find(|(id, _)| id.0 == name);
    found.map(|(_, row)| row).ok_or_else(|| {
        let all: Vec<&str> = known_shells().map(|(id, _)| id.0).collect();
        let all = all.join(", ");
        Failure::Usage(format!(
            "'{name}' is no shell that is known; there are {all}"
        ))
    })
}
