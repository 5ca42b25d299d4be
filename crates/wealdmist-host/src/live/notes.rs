//! Running shells: each with our prompt notes which one it has loaded, and looks for a newer one before
//! each prompt.

use std::fs;

use wealdmist_core::reading::ToolReport;
use wealdmist_tools::sourced::{Sourced, generation};
use wealdmist_tools::{Access, Engine, adapters};

use super::{Answer, Outcome, answer};
use crate::files::read_regular;
use crate::limits;
use crate::platform::Process;
use crate::survey::Survey;

pub(super) fn run(row: &Sourced, survey: &Survey, report: &ToolReport) -> Vec<Answer> {
    let written = survey.home.read(&row.path(&survey.home));
    let present = match written {
        wealdmist_tools::Loaded::File { bytes, .. } => generation(row.comment, &bytes),
        _ => None,
    };
    let folder = survey.home.state().join("shells");
    let mut known = Vec::new();
    let mut out = Vec::new();
    for entry in fs::read_dir(&folder).into_iter().flatten().flatten() {
        let Some(pid) = entry
            .file_name()
            .to_str()
            .and_then(|n| n.parse::<i32>().ok())
        else {
            continue;
        };
        let process = Process::of(pid);
        let lives = |p: &Process| p.is(row.program) && p.lives_in(survey.home.home());
        if !process.as_ref().is_some_and(lives) {
            // Another shell's note stays.
            let shells = adapters().into_iter().filter_map(|a| match a.engine() {
                Engine::Sourced(row) => Some(row.program),
                _ => None,
            });
            let is_shell = |p: &Process| shells.clone().any(|program| p.is(program));
            if !process.as_ref().is_some_and(is_shell) {
                let _ = fs::remove_file(entry.path());
            }
            continue;
        }
        known.push(pid);
        let loaded = read_regular(&entry.path(), limits::SHELL_NOTE)
            .ok()
            .flatten();
        let loaded = String::from_utf8(loaded.unwrap_or_default()).unwrap_or_default();
        let outcome = match &present {
            Some(present) if loaded.trim_end() == present => Outcome::Shows(1),
            Some(_) => Outcome::Told("takes the new prompt at its next Enter".into()),
            None => Outcome::Unreached("the prompt file is gone; start a new shell".into()),
        };
        out.push(answer(row.id, format!("{} {pid}", row.program), outcome));
    }
    let others = Process::all().into_iter().filter(|p| {
        p.is(row.program)
            && !known.contains(&p.pid)
            && is_interactive(p)
            && p.lives_in(survey.home.home())
    });
    if present.is_some() && !report.files.is_empty() {
        for other in others {
            let what = format!(
                "has no prompt of ours yet: run `exec {}` there, or open a new window",
                row.program
            );
            out.push(answer(
                row.id,
                format!("{} {}", row.program, other.pid),
                Outcome::Unreached(what),
            ));
        }
    }
    out
}

/// A shell without a script or command, on a terminal of its own.
fn is_interactive(process: &Process) -> bool {
    let plain = process
        .arguments
        .iter()
        .skip(1)
        .all(|a| a.is_empty() || matches!(a.as_str(), "-i" | "-l" | "--login" | "--noprofile"));
    plain && process.is_at_terminal()
}
