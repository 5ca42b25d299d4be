//! `plan`, `apply`, `undo`, `history`, `reload`, `verify`.

use std::io::{IsTerminal, Write};

use serde_json::json;
use time::OffsetDateTime;
use wealdmist_core::plan::{ChangeId, FileEdit, Left, Piece, Plan};
use wealdmist_core::reading::ToolId;
use wealdmist_core::text::{counted, visible};
use wealdmist_host::{Answer, Ask, Home, Journal, Kind, Survey};

use super::shown;
use crate::cli::{Choice, Part};
use crate::failure::{Failure, Outcome};
use crate::screen::{Mark, out, piped, print_json};
use crate::work::carry_out;

/// The plan with the changes that are chosen; an error for one there is not.
fn chosen(survey: &Survey, choice: &Choice) -> Result<Plan, Failure> {
    let mut survey = survey.clone();
    survey.learn_fonts();
    let plan = survey.plan();
    for (file, change) in choice.skip.iter().chain(&choice.only) {
        let changes = plan.edits.get(*file).map_or(0, FileEdit::change_count);
        if change.unwrap_or(0) >= changes {
            let number = change.map_or_else(String::new, |c| format!(".{}", c + 1));
            return Err(Failure::Other(format!(
                "the plan has no change {}{number}; `wealdmist plan` shows them",
                file + 1,
            )));
        }
    }
    let named = |parts: &[Part], (file, change): ChangeId| {
        let fits = |p: &Part| p.0 == file && p.1.is_none_or(|c| c == change);
        parts.iter().any(fits)
    };
    let is_wanted = |id| match choice.only.is_empty() {
        true => !named(&choice.skip, id),
        false => named(&choice.only, id),
    };
    Ok(plan.with_only(is_wanted))
}

pub fn plan(survey: &Survey, choice: &Choice, as_json: bool) -> Outcome {
    let plan = chosen(survey, choice)?;
    if as_json {
        let files: Vec<_> = plan
            .edits
            .iter()
            .map(|e| {
                let of = |p: &Piece| {
                    let hunks: Vec<_> = p.hunks.iter().map(|h| &h.header).collect();
                    json!({"why": p.why, "hunks": hunks})
                };
                let changes: Vec<_> = e.pieces().iter().map(of).collect();
                json!({"tool": e.tool.0, "path": e.path, "target": e.target, "new": e.before.is_none(), "changes": changes})
            })
            .collect();
        let left: Vec<_> = plan
            .left
            .iter()
            .map(|l| json!({"tool": l.tool.0, "path": &*l.place.path, "line": l.place.at.line, "column": l.place.at.column, "what": l.what, "why": l.why}))
            .collect();
        print_json(&json!({"changes": plan.change_count(), "files": files, "left": left}))?;
    } else {
        print_plan(survey, &plan)?;
    }
    Ok(u8::from(!plan.is_empty()))
}

pub fn print_plan(survey: &Survey, plan: &Plan) -> Result<(), Failure> {
    let mut out = out();
    for (f, edit) in plan.edits.iter().enumerate() {
        let new = if edit.before.is_none() { " (new)" } else { "" };
        let head = format!("# {} {}{new}", f + 1, shown(&survey.home, &edit.path));
        out.marked(Mark::Strong, &head)?;
        writeln!(out)?;
        for (c, piece) in edit.pieces().iter().enumerate() {
            writeln!(
                out,
                "#   {}.{} {}",
                f + 1,
                c + 1,
                visible(piece.why.as_bytes())
            )?;
        }
    }
    for left in &plan.left {
        writeln!(out, "# {}", left_line(&survey.home, left))?;
    }
    // What is shown is made visible; what is piped is exact.
    match std::io::stdout().is_terminal() {
        true => {
            let colored = std::env::var_os("NO_COLOR").is_none_or(|v| v.is_empty());
            out.flush()?;
            piped(painted(&plan.unified(), colored).as_bytes())?;
        }
        false => {
            out.flush()?;
            piped(&plan.patch(survey.home.home_path()))?;
        }
    }
    writeln!(out, "# {}", plan.counted())?;
    out.flush()?;
    Ok(())
}

/// A diff, which holds no control characters, in colors.
fn painted(diff: &str, colored: bool) -> String {
    let paint = |line: &str| {
        let color = match line.as_bytes() {
            [b'-', b'-', b'-', b' ', ..] | [b'+', b'+', b'+', b' ', ..] => "1",
            [b'-', ..] => "31",
            [b'+', ..] => "32",
            [b'@', ..] => "36",
            _ => "",
        };
        match colored && !color.is_empty() {
            true => format!("\u{1b}[{color}m{line}\u{1b}[0m\n"),
            false => format!("{line}\n"),
        }
    };
    diff.lines().map(paint).collect()
}

/// A place that is left as it is, in a line.
fn left_line(home: &Home, left: &Left) -> String {
    let (path, at) = (shown(home, &left.place.path), left.place.at);
    format!("{path}:{at}: left as it is: {}: {}", left.what, left.why)
}

pub fn apply(mut survey: Survey, choice: &Choice, ask: bool, tell: bool) -> Outcome {
    if ask {
        super::survey::asked(&mut survey);
    }
    let plan = chosen(&survey, choice)?;
    if !survey.stored {
        survey.save()?;
        say!("wrote {}", shown(&survey.home, survey.doc.path()));
    }
    let blind = unread(&survey)?;
    if plan.is_empty() {
        for left in &plan.left {
            say!("{}", left_line(&survey.home, left));
        }
        match blind || !plan.left.is_empty() {
            true => say!("nothing else to do: the other dotfiles say what the setup says"),
            false => say!("nothing to do: the dotfiles say what the setup says"),
        }
        return Ok(u8::from(blind));
    }
    for left in &plan.left {
        say!("{}", left_line(&survey.home, left));
    }
    let record = carry_out(&survey, &plan)?;
    say!("applied as number {record}: {}", plan.counted());
    Ok(after(survey, tell)?.max(u8::from(blind)))
}

/// Applies what follows from a change of the setup, and nothing else that the plan had before it.
pub fn follow(mut survey: Survey, mut before: Survey, tell: bool) -> Outcome {
    survey.learn_fonts();
    before.learn_fonts();
    let all = survey.plan();
    let plan = all.beyond(&before.plan());
    let rest = all.change_count().saturating_sub(plan.change_count());
    for left in &plan.left {
        say!("{}", left_line(&survey.home, left));
    }
    let code = match plan.is_empty() {
        true => {
            say!("no dotfile has to change for it");
            0
        }
        false => {
            let record = carry_out(&survey, &plan)?;
            say!("applied as number {record}: {}", plan.counted());
            after(survey, tell)?
        }
    };
    if rest > 0 {
        say!("{rest} other changes wait (wealdmist plan)");
    }
    Ok(code)
}

/// Says which dotfiles cannot be read, and whether there are any. They are left alone.
fn unread(survey: &Survey) -> Result<bool, Failure> {
    let problems = survey.reports.iter().flat_map(|r| &r.problems);
    let mut any = false;
    for problem in problems.filter(|p| p.blocks_edits) {
        any = true;
        let at = problem.at.map_or(String::new(), |at| format!(":{at}"));
        let path = shown(&survey.home, &problem.path);
        say!(
            "not changed: {path}{at}: {}; {}",
            problem.message,
            problem.help
        );
    }
    Ok(any)
}

fn after(mut survey: Survey, tell: bool) -> Outcome {
    survey.refresh();
    if !tell {
        return Ok(0);
    }
    let answers = wealdmist_host::reload(&survey, &[], Ask::OwnTerminalToo);
    print_answers(&answers)?;
    let late = |a: &&Answer| {
        use wealdmist_host::Outcome::{Differs, Unreached};
        matches!(a.outcome, Differs(_) | Unreached(_))
    };
    let late: Vec<&str> = answers
        .iter()
        .filter(late)
        .map(|a| a.who.as_str())
        .collect();
    if late.is_empty() {
        return Ok(0);
    }
    say!("not everywhere yet: {}", late.join(", "));
    Ok(1)
}

pub fn undo(survey: Survey, id: Option<u64>, tell: bool) -> Outcome {
    let record = Journal::of(&survey.home).undo(id)?;
    say!(
        "took back number {}: {}",
        record.undoes.unwrap_or(0),
        counted(record.files.len(), "file")
    );
    after(survey, tell)
}

pub fn allow(home: &Home, file: Option<&std::path::Path>, remove: bool) -> Outcome {
    let Some(file) = file else {
        let all = home.allowed();
        if all.is_empty() {
            say!("no file outside this home may be edited");
        }
        for path in all {
            say!("{}", shown(home, &path));
        }
        return Ok(0);
    };
    let target = home
        .allow(file, !remove)
        .map_err(|e| Failure::Other(format!("{} cannot be allowed: {e}", file.display())))?;
    match remove {
        true => say!("{} is no longer edited", shown(home, &target)),
        false => say!("{} may be edited: this file alone", shown(home, &target)),
    }
    Ok(0)
}

pub fn history(home: &Home, as_json: bool) -> Outcome {
    let records = Journal::of(home).history()?;
    if as_json {
        print_json(&serde_json::to_value(&records).unwrap_or_default())?;
        return Ok(0);
    }
    let mut out = out();
    if records.is_empty() {
        writeln!(out, "nothing has been applied in this home")?;
    }
    for record in &records {
        let what = match (record.kind, record.undoes) {
            (Kind::Undo, Some(of)) => format!("undo of {of}"),
            _ if records.iter().any(|r| r.undoes == Some(record.id)) => "apply, undone".to_owned(),
            _ => "apply".to_owned(),
        };
        writeln!(
            out,
            "{:>4}  {}  {what:<14} {}",
            record.id,
            date(record.time),
            record.label
        )?;
        for file in &record.files {
            writeln!(
                out,
                "      {}",
                shown(home, &file.path.within(home.home_path()))
            )?;
        }
    }
    out.flush()?;
    Ok(0)
}

pub fn reload(survey: &Survey, tools: &[ToolId]) -> Outcome {
    let answers = wealdmist_host::reload(survey, tools, Ask::OwnTerminalToo);
    print_answers(&answers)?;
    Ok(code(&answers))
}

pub fn verify(survey: &Survey, tools: &[ToolId], as_json: bool) -> Outcome {
    let answers = wealdmist_host::verify(survey, tools, Ask::OwnTerminalToo);
    if as_json {
        let rows: Vec<_> = answers
            .iter()
            .map(|a| json!({"tool": a.tool.0, "who": a.who, "shows": a.outcome.is_good(), "answer": a.outcome.sentence()}))
            .collect();
        print_json(&json!({"answers": rows}))?;
    } else {
        print_answers(&answers)?;
    }
    Ok(code(&answers))
}

fn code(answers: &[Answer]) -> u8 {
    u8::from(
        answers
            .iter()
            .any(|a| matches!(a.outcome, wealdmist_host::Outcome::Differs(_))),
    )
}

pub fn print_answers(answers: &[Answer]) -> Result<(), Failure> {
    let mut out = out();
    for a in answers {
        let sign = match a.outcome {
            wealdmist_host::Outcome::Shows(_) => "✓",
            wealdmist_host::Outcome::Differs(_) => "≠",
            wealdmist_host::Outcome::Told(_) => "·",
            wealdmist_host::Outcome::Unreached(_) => "!",
            wealdmist_host::Outcome::NotRunning => "-",
        };
        writeln!(
            out,
            "{sign} {:<6} {}: {}",
            a.tool.0,
            a.who,
            a.outcome.sentence()
        )?;
    }
    out.flush()?;
    Ok(())
}

/// Seconds since 1970 as a UTC date and time.
fn date(seconds: u64) -> String {
    let at = i64::try_from(seconds).ok();
    let at = at.and_then(|s| OffsetDateTime::from_unix_timestamp(s).ok());
    at.map_or_else(
        || format!("{seconds} s"),
        |at| {
            let (date, hour, minute) = (at.date(), at.hour(), at.minute());
            format!("{date} {hour:02}:{minute:02} UTC")
        },
    )
}

#[cfg(test)]
mod tests {
    use super::date;

    #[test]
    fn dates_are_those_of_the_calendar() {
        assert_eq!(date(0), "1970-01-01 00:00 UTC");
        assert_eq!(date(951_826_500), "2000-02-29 12:15 UTC");
        assert_eq!(date(1_798_761_540), "2026-12-31 23:59 UTC");
        assert_eq!(date(u64::MAX), format!("{} s", u64::MAX));
    }
}
