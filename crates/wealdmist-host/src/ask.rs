//! The installed programs, asked what the person's dotfiles come to: each is started for that on a server or
//! in a shell of its own, which ends with the question.

use std::collections::HashSet;
use std::ffi::OsString;
use std::path::{Path, PathBuf};
use std::process::Command;

use tracing::info;
use wealdmist_core::asked::settle;
use wealdmist_core::reading::{Asked, ToolId, ToolReport};
use wealdmist_tools::Asking;
use wealdmist_tools::{Access, Facts, Loaded, access::Variable, adapter};

use crate::files::write_own;
use crate::home::Home;
use crate::limits;
use crate::platform;

/// What came of asking a program.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Heard {
    /// It answered: how many values it confirmed, and how many it says otherwise.
    Answered {
        /// Values that it says, too.
        same: usize,
        /// Values that it says otherwise, or that were not read.
        other: usize,
    },
    /// There is no way to ask it.
    Silent,
    /// It is not installed.
    NotInstalled,
    /// It did not answer in time, or with nothing that can be read.
    NoAnswer,
}

/// The answer as a home that has nothing but one dotfile.
struct Plain<'a> {
    home: &'a Home,
    path: PathBuf,
    text: String,
}

impl Access for Plain<'_> {
    fn read(&self, path: &Path) -> Loaded {
        match path == self.path {
            true => Loaded::File {
                target: self.path.clone(),
                bytes: self.text.as_bytes().into(),
            },
            false => Loaded::Missing,
        }
    }
    fn glob(&self, _: &Path) -> Vec<PathBuf> {
        Vec::new()
    }
    fn env(&self, _: &str) -> Option<String> {
        None
    }
    fn variable(&self, name: &str) -> Variable {
        match name {
            "HOME" => Variable::Set(self.home().display().to_string()),
            _ => Variable::Unset,
        }
    }
    fn home(&self) -> &Path {
        self.home.home()
    }
    fn has_program(&self, name: &str) -> bool {
        self.home.has_program(name)
    }
    fn version(&self, program: &str, argument: &str) -> Option<String> {
        self.home.version(program, argument)
    }
}

/// Asks the program of each report and takes its answer for what was read. `confined` is how a program is
/// started with fewer rights: words to which the folder it may write in, the program and its arguments are
/// added. Each tool with what came of it.
pub fn ask(home: &Home, reports: &mut [ToolReport], confined: &[OsString]) -> Vec<(ToolId, Heard)> {
    let mut facts = Facts::default();
    for report in reports.iter().filter(|r| r.is_terminal) {
        let _ = adapter(report.tool.0).map(|a| a.read(home, &mut facts));
    }
    let of = |report: &mut ToolReport| {
        let heard = one(home, report, &facts, confined);
        info!(tool = report.tool.0, ?heard, "asked");
        (report.tool, heard)
    };
    reports.iter_mut().map(of).collect()
}

fn one(home: &Home, report: &mut ToolReport, facts: &Facts, confined: &[OsString]) -> Heard {
    let Some(known) = adapter(report.tool.0) else {
        return Heard::Silent;
    };
    let Some(asking) = known.live().asking else {
        return Heard::Silent;
    };
    if !home.has_program(asking.program) {
        return Heard::NotInstalled;
    }
    if report.files.is_empty() {
        return Heard::NoAnswer;
    }
    let file = report.files.first().map(|f| f.path.as_path());
    let ask = |file| said(home, &asking, file, confined, facts).map(|said| (asking.dotfile)(&said));
    let (Some((path, answer)), Some((_, by_itself))) = (ask(file), ask(None)) else {
        return Heard::NoAnswer;
    };
    let read = |text: String| {
        let path = home.home().join(path);
        let mut read = known.read(&Plain { home, path, text }, &mut facts.clone());
        read.split_roles();
        read
    };
    let own: HashSet<&str> = by_itself.lines().collect();
    let changed: Vec<&str> = answer.lines().filter(|l| !own.contains(l)).collect();
    let changed = read(changed.join("\n"));
    let alone = read(by_itself.clone());
    settle(report, &read(answer), &changed, &alone);
    let count = |is: fn(&Asked) -> bool| {
        let asked = report.readings.iter().filter_map(|r| r.asked.as_ref());
        asked.filter(|a| is(a)).count()
    };
    Heard::Answered {
        same: count(|a| *a == Asked::Same),
        other: count(|a| *a != Asked::Same),
    }
}

/// What a program says: of the person's dotfiles, or without any.
fn said(
    home: &Home,
    asking: &Asking,
    file: Option<&Path>,
    confined: &[OsString],
    facts: &Facts,
) -> Option<String> {
    let scratch = tempfile::tempdir().ok()?;
    let folder = scratch.path();
    if let Some((name, content)) = asking.script {
        write_own(&folder.join(name), content.as_bytes()).ok()?;
    }
    let run = |arguments: &[&str]| {
        let folder_said = folder.to_string_lossy();
        let mut words: Vec<OsString> = confined.to_vec();
        if !words.is_empty() {
            words.push(folder.into());
        }
        words.push(asking.program.into());
        let put_in = |word: &&str| OsString::from(word.replace("{scratch}", &folder_said));
        words.extend(arguments.iter().map(put_in));
        let mut command = Command::new(&words[0]);
        command.args(&words[1..]).env_clear().current_dir(folder);
        // As in a session of the person's, but for what leads out of here.
        for (name, value) in std::env::vars_os() {
            let known = name.to_str().map(|name| home.variable(name));
            if matches!(known, Some(Variable::Set(_))) {
                command.env(name, value);
            }
        }
        let term = facts
            .terminals
            .first()
            .map_or("xterm-256color", |t| &t.term);
        command
            .env("PATH", std::env::var_os("PATH").unwrap_or_default())
            .env("HOME", if file.is_some() { home.home() } else { folder })
            .env("TERM", term)
            .env("COLORTERM", "truecolor")
            .env("LANG", "C.UTF-8")
            .env("HISTFILE", "/dev/null")
            .env("TMPDIR", folder)
            .env("XDG_RUNTIME_DIR", folder)
            .env("XDG_STATE_HOME", folder.join("state"))
            .env("XDG_CACHE_HOME", folder.join("cache"))
            .env("WEALDMIST_FILE", file.unwrap_or(Path::new("")));
        for name in ["XDG_CONFIG_HOME", "XDG_DATA_HOME"] {
            match home.env(name).filter(|_| file.is_some()) {
                Some(value) => command.env(name, value),
                None => command.env_remove(name),
            };
        }
        platform::run(&mut command, limits::ASKED)
    };
    let output = run(asking.arguments);
    if !asking.ends.is_empty() {
        let _ = run(asking.ends);
    }
    let text = String::from_utf8_lossy(&output?.stdout).into_owned();
    let (_, said) = text.rsplit_once('\u{1e}')?;
    (!said.trim().is_empty()).then(|| said.to_owned())
}
