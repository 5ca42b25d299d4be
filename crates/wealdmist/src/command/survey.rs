//! `wealdmist survey`: tools, files, the ledger.

use std::io::Write;

use serde_json::json;
use wealdmist_core::color::Rgb;
use wealdmist_core::ledger::{State, agrees};
use wealdmist_core::look::Look;
use wealdmist_core::reading::{Asked, Value};
use wealdmist_core::text::{counted, visible};
use wealdmist_host::Survey;
use wealdmist_tools::adapter;

use super::shown;
use crate::failure::Outcome;
use crate::screen::{Mark, out, print_json};
use crate::work::ask;

pub fn run(mut survey: Survey, as_json: bool, all: bool, ask: bool) -> Outcome {
    if ask {
        asked(&mut survey);
    }
    let survey = &survey;
    if as_json {
        print_json(&to_json(survey))?;
    } else {
        print(survey, all)?;
    }
    Ok(u8::from(survey.ledger().drift_count() > 0))
}

/// Asks the programs, and says what came of it where it is no part of the output.
pub fn asked(survey: &mut Survey) {
    warn!("asking: {}", ask::SAID);
    for (tool, heard) in ask::ask(survey) {
        warn!("  {tool} {}", ask::said(&heard));
    }
}

pub fn print(survey: &Survey, all: bool) -> Outcome {
    let mut out = out();
    let setup = survey.doc.setup();
    let stored = if survey.stored {
        ""
    } else {
        " (not written yet: made from the dotfiles)"
    };
    writeln!(out, "setup {} · {}{stored}", setup.name, setup.active)?;
    for report in &survey.reports {
        let kind = adapter(report.tool.0).map_or("", |a| a.kind());
        let readings = report
            .readings
            .iter()
            .filter(|r| r.effective && !r.is_default())
            .count();
        writeln!(out)?;
        out.marked(Mark::Strong, report.tool.0)?;
        writeln!(out, " ({kind}): {}", counted(readings, "reading"))?;
        if report.files.is_empty() {
            writeln!(out, "  no dotfile found")?;
        }
        for file in &report.files {
            let mut line = format!("  {}", shown(&survey.home, &file.path));
            if let Some((from, number)) = &file.included_from {
                line.push_str(&format!("  from {}:{number}", shown(&survey.home, from)));
            }
            if file.target != file.path {
                line.push_str(&format!("  → {}", shown(&survey.home, &file.target)));
            }
            if !survey.may_edit(file) {
                line.push_str("  outside this home");
            }
            writeln!(out, "{line}")?;
        }
        for problem in &report.problems {
            let at = problem.at.map_or(String::new(), |p| format!(":{p}"));
            let path = shown(&survey.home, &problem.path);
            let message = visible(problem.message.as_bytes());
            write!(out, "  ")?;
            out.marked(Mark::Bad, "!")?;
            writeln!(out, " {path}{at} {message}; {}", problem.help)?;
        }
    }
    let absent: Vec<&str> = survey.absent().map(|tool| tool.0).collect();
    if !absent.is_empty() {
        writeln!(out, "\nno dotfile found: {}", absent.join(", "))?;
    }
    let ledger = survey.ledger();
    let look = survey.look();
    let wide = ledger.tools.iter().map(|t| t.0.len()).max().unwrap_or(0);
    let wide = wide.max(6);
    writeln!(
        out,
        "\n{} of {} roles drift",
        ledger.rows.iter().filter(|r| r.drifts()).count(),
        ledger.rows.len()
    )?;
    for row in ledger.rows.iter().filter(|r| all || r.drifts()) {
        let value = row.value_said();
        writeln!(out)?;
        out.marked(Mark::Strong, &format!("{:<28}", row.role.label()))?;
        write!(out, " ")?;
        out.swatch(row.value.as_ref().and_then(|v| color_of(v, &look)))?;
        write!(out, "{value}")?;
        match row.said == value {
            true => writeln!(out)?,
            false => writeln!(out, "  ({})", row.said)?,
        }
        for (cell, report) in row.cells.iter().zip(&survey.reports) {
            for reading in cell.readings.iter().map(|i| &report.readings[*i]) {
                let agrees = agrees(setup, &look, report.tool, reading);
                let sign = match &cell.state {
                    _ if agrees && reading.is_default() && !reading.role.is_property() => "·",
                    _ if agrees => "=",
                    State::Exception(_) => "~",
                    _ if !reading.is_sure() => "?",
                    _ => "≠",
                };
                let path = shown(&survey.home, &reading.place.path);
                let value = wealdmist_core::text::visible(reading.value.to_string().as_bytes());
                let place = match reading.place.is_written() {
                    true => format!("{path}:{}", reading.place.at),
                    false => format!("what {} does by itself", report.tool),
                };
                let why = match (&reading.asked, reading.standing.why()) {
                    (Some(Asked::ReadAs(value)), _) => Some(format!("read as {value}")),
                    (Some(Asked::NotRead), _) => Some("read nowhere".to_owned()),
                    (_, why) => why.map(ToString::to_string),
                };
                let why =
                    why.map_or_else(String::new, |w| format!("  ({})", visible(w.as_bytes())));
                let mark = match sign {
                    "≠" => Mark::Bad,
                    "=" => Mark::Good,
                    _ => Mark::Quiet,
                };
                write!(out, "  ")?;
                out.marked(mark, sign)?;
                write!(out, " {:<wide$} ", report.tool.0)?;
                out.swatch(color_of(&reading.value, &look))?;
                write!(out, "{value:<18} ")?;
                out.marked(Mark::Quiet, &place)?;
                writeln!(out, "  {}{why}", reading.key)?;
            }
            if let State::Exception(reason) = &cell.state {
                writeln!(out, "           kept: {reason}")?;
            }
        }
    }
    out.flush()?;
    Ok(0)
}

/// The color that a value comes to, where it is one.
fn color_of(value: &Value, look: &Look) -> Option<Rgb> {
    match value {
        Value::Color(color) => Some(*color),
        Value::Slot(slot) => Some(look.slot(*slot)),
        _ => None,
    }
}

fn to_json(survey: &Survey) -> serde_json::Value {
    let ledger = survey.ledger();
    let tools: Vec<_> = survey
        .reports
        .iter()
        .map(|r| {
            let files: Vec<_> = r.files.iter().map(|f| json!({"path": f.path, "target": f.target, "outside": !survey.may_edit(f)})).collect();
            let problems: Vec<_> = r
                .problems
                .iter()
                .map(|p| json!({"path": p.path, "line": p.at.map(|a| a.line), "message": p.message, "help": p.help}))
                .collect();
            json!({"tool": r.tool.0, "files": files, "problems": problems})
        })
        .collect();
    let rows: Vec<_> = ledger
        .rows
        .iter()
        .map(|row| {
            let cells: Vec<_> = row
                .cells
                .iter()
                .zip(&survey.reports)
                .filter(|(c, _)| !matches!(c.state, State::Unset | State::Unable) || !c.readings.is_empty())
                .map(|(cell, report)| {
                    let state = match &cell.state {
                        State::Agrees => "agrees",
                        State::Drift => "drift",
                        State::Exception(_) => "exception",
                        State::Open(_) => "open",
                        State::Unset => "unset",
                        State::Unable => "unable",
                    };
                    let readings: Vec<_> = cell
                        .readings
                        .iter()
                        .map(|i| &report.readings[*i])
                        .map(|r| {
                            let written = r.place.is_written();
                            json!({
                                "key": r.key, "value": r.value.to_string(), "path": &*r.place.path,
                                "line": written.then_some(r.place.at.line),
                                "column": written.then_some(r.place.at.column),
                                "bytes": written.then_some([r.place.span.start, r.place.span.end]),
                                "standing": r.standing.key(), "why": r.standing.why().map(|w| &**w),
                                "asked": r.asked.as_ref().map(|a| match a {
                                    Asked::Same => json!("same"),
                                    Asked::ReadAs(value) => json!({"readAs": value.to_string()}),
                                    Asked::NotRead => json!("not read"),
                                }),
                            })
                        })
                        .collect();
                    json!({"tool": report.tool.0, "state": state, "readings": readings})
                })
                .collect();
            json!({"role": row.role.as_str(), "value": row.value.as_ref().map(ToString::to_string), "said": row.said, "tools": cells})
        })
        .collect();
    json!({
        "setup": {"name": survey.doc.setup().name, "palette": survey.doc.setup().active.as_str(), "stored": survey.stored},
        "tools": tools, "ledger": rows, "drift": ledger.drift_count(),
    })
}
