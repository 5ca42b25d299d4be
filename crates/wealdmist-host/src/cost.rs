//! What a prompt costs in the real shell: drawn many times by a shell that reads nothing of the person's.

use std::ffi::OsString;
use std::fs;
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, Kind};
use wealdmist_core::setup::SetupDoc;
use wealdmist_tools::Adapter;
use wealdmist_tools::sourced::Sourced;

use crate::files::write_own;
use crate::limits;
use crate::platform::run;

/// Where shells note which prompt they have loaded.
const NOTES: &str = ".local/state/wealdmist/shells";

/// What a prompt costs in a shell, in a folder. Times are the middle of several runs.
#[derive(Debug, Clone, PartialEq)]
pub struct Cost {
    /// Loading the script, and the first prompt.
    pub first: Duration,
    /// Each later prompt.
    pub later: Duration,
    /// A prompt of the shell's own.
    pub own: Duration,
    /// By how much a prompt is faster without each part.
    pub parts: Vec<(String, Duration)>,
}

/// A shell with nothing of the person's, and the folder it draws prompts in.
struct Bare<'a> {
    shell: &'a Sourced,
    home: &'a Path,
    folder: &'a Path,
    confined: &'a [OsString],
}

impl Bare<'_> {
    /// The time it takes for a line, the middle of some runs.
    fn takes(&self, line: &str) -> Result<Duration, String> {
        let mut times = Vec::new();
        for _ in 0..limits::COST_RUNS {
            let mut words: Vec<OsString> = self.confined.to_vec();
            if !words.is_empty() {
                words.push(self.home.into());
            }
            words.push(self.shell.program.into());
            words.extend(self.shell.drawing.arguments.iter().map(OsString::from));
            let mut command = Command::new(&words[0]);
            command
                .args(&words[1..])
                .arg(format!("{line}; true"))
                .env("HOME", self.home)
                .env("COLUMNS", "80")
                .current_dir(self.folder);
            for variable in [
                "XDG_CONFIG_HOME",
                "XDG_DATA_HOME",
                "XDG_STATE_HOME",
                "XDG_CACHE_HOME",
                "ZDOTDIR",
                "BASH_ENV",
                "ENV",
            ] {
                command.env_remove(variable);
            }
            let begin = Instant::now();
            let done = run(&mut command, limits::COST_TIME)
                .ok_or_else(|| format!("{} did not come to an end", self.shell.program))?;
            times.push(begin.elapsed());
            if !done.status.success() {
                let said = String::from_utf8_lossy(&done.stderr);
                let said = said.lines().next().unwrap_or_default();
                return Err(format!("{} could not draw it: {said}", self.shell.program));
            }
        }
        times.sort();
        Ok(times[times.len() / 2])
    }

    /// The time of one of many that a line does, `@N@` of them.
    fn each(&self, head: &str, line: &str) -> Result<Duration, String> {
        let count = |n: u32| self.takes(&format!("{head}{}", line.replace("@N@", &n.to_string())));
        // One is done before in both: what only the first needs is not counted.
        let (many, one) = (count(limits::COST_DRAWS + 1)?, count(1)?);
        Ok(many.saturating_sub(one) / limits::COST_DRAWS)
    }

    /// Puts a design's script where the shell finds it; the text that loads it.
    fn with(&self, doc: &SetupDoc) -> Result<String, String> {
        let look = Look::new(doc.setup());
        let made = self.shell.generated(doc.setup(), &look);
        let (name, code) = made.ok_or_else(|| format!("{} has no script", self.shell.id))?;
        let path = self.home.join(".config/wealdmist").join(name);
        write_own(&path, &code.into_bytes()).map_err(|e| e.to_string())?;
        Ok(format!(". \"$HOME/.config/wealdmist/{name}\"; "))
    }
}

/// Measures what a setup's prompt costs in a shell when one is in a folder, part by part.
///
/// `confined` are the words of a command that starts a program with fewer rights and away from our terminal, which
/// an interactive shell would take; see `platform::confine`.
///
/// # Errors
/// When the shell cannot be run, or the folder is none.
pub fn cost(
    doc: &SetupDoc,
    shell: &Sourced,
    folder: &Path,
    confined: &[OsString],
) -> Result<Cost, String> {
    if !folder.is_dir() {
        return Err(format!("{} is no folder", folder.display()));
    }
    let scratch = tempfile::tempdir().map_err(|e| e.to_string())?;
    let bare = Bare {
        shell,
        home: scratch.path(),
        folder,
        confined,
    };
    let drawing = &shell.drawing;
    for path in drawing.folders.iter().chain(&[NOTES]) {
        fs::create_dir_all(scratch.path().join(path)).map_err(|e| e.to_string())?;
    }
    let own = bare.each("", drawing.own)?;
    let load = bare.with(doc)?;
    let nothing = bare.takes(":")?;
    let first = bare.takes(&format!("{load}{}", drawing.ours.replace("@N@", "1")))?;
    let later = bare.each(&load, drawing.ours)?;
    let design = &doc.setup().prompt;
    let mut parts = Vec::new();
    for (index, part) in design.parts().enumerate() {
        if part.kind == Kind::Input {
            continue;
        }
        let Some(without) = without(design, index).and_then(|d| doc.with_design(&d).ok()) else {
            continue;
        };
        let load = bare.with(&without)?;
        let rest = bare.each(&load, drawing.ours)?;
        parts.push((part.name.clone(), later.saturating_sub(rest)));
    }
    parts.sort_by_key(|(_, time)| std::cmp::Reverse(*time));
    Ok(Cost {
        first: first.saturating_sub(nothing),
        later,
        own,
        parts,
    })
}

fn without(design: &Design, part: usize) -> Option<Design> {
    let mut out = design.clone();
    out.take_out(part)?;
    Some(out)
}
