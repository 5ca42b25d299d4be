//! What a prompt costs in the real shell: drawn many times by a shell that reads nothing of the person's.

use std::ffi::OsString;
use std::fs;
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, Kind, Line, Part};
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
    home: tempfile::TempDir,
    folder: &'a Path,
    confined: &'a [OsString],
}

impl<'a> Bare<'a> {
    /// One with a home of its own.
    fn new(shell: &'a Sourced, folder: &'a Path, confined: &'a [OsString]) -> Result<Self, String> {
        if !folder.is_dir() {
            return Err(format!("{} is no folder", folder.display()));
        }
        let home = tempfile::tempdir().map_err(|e| e.to_string())?;
        for path in shell.drawing.folders.iter().chain(&[NOTES]) {
            fs::create_dir_all(home.path().join(path)).map_err(|e| e.to_string())?;
        }
        Ok(Self {
            shell,
            home,
            folder,
            confined,
        })
    }

    /// The time it takes for a line, the middle of some runs.
    fn takes(&self, line: &str) -> Result<Duration, String> {
        let mut times = Vec::new();
        for _ in 0..limits::COST_RUNS {
            let mut words: Vec<OsString> = self.confined.to_vec();
            if !words.is_empty() {
                words.push(self.home.path().into());
            }
            words.push(self.shell.program.into());
            words.extend(self.shell.drawing.arguments.iter().map(OsString::from));
            let mut command = Command::new(&words[0]);
            command
                .args(&words[1..])
                .arg(format!("{line}; true"))
                .env("HOME", self.home.path())
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
        let path = self.home.path().join(".config/wealdmist").join(name);
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
    let bare = Bare::new(shell, folder, confined)?;
    let drawing = &shell.drawing;
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

/// Measures what a part takes in each prompt, as [`cost`] does, where it is shown and nothing else is; `None` for a
/// prompt that is nothing but where one types.
///
/// # Errors
/// When the shell cannot be run.
pub fn cost_alone(
    doc: &SetupDoc,
    shell: &Sourced,
    part: Option<&Part>,
    confined: &[OsString],
) -> Result<Duration, String> {
    let folder = tempfile::tempdir().map_err(|e| e.to_string())?;
    let folder = folder.path();
    let asks_git = |p: &Part| matches!(p.kind, Kind::Branch | Kind::Changes | Kind::Operation);
    if part.is_some_and(asks_git) {
        // Without git there is nothing it could be asked for.
        let mut git = Command::new("git");
        git.args(["init", "-q"]).current_dir(folder);
        let _ = run(&mut git, limits::COST_TIME);
    }
    if let Some(file) = part.and_then(|p| p.tells.files.first()) {
        write_own(&folder.join(file), b"").map_err(|e| e.to_string())?;
    }
    let mut design = doc.setup().prompt.clone();
    let input = design.parts().find(|p| p.kind == Kind::Input).cloned();
    let left = part.cloned().into_iter().chain(input).collect();
    design.lines = vec![Line {
        left,
        right: Vec::new(),
    }];
    let doc = doc.with_design(&design).map_err(|e| e.to_string())?;
    let bare = Bare::new(shell, folder, confined)?;
    bare.each(&bare.with(&doc)?, shell.drawing.ours)
}

fn without(design: &Design, part: usize) -> Option<Design> {
    let mut out = design.clone();
    out.take_out(part)?;
    Some(out)
}
