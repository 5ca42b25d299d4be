//! Running multiplexers: each server of this home reads its files again and is asked option by option.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use serde_json::json;
use wealdmist_core::property::Property;
use wealdmist_core::reading::{ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_tools::Access;
use wealdmist_tools::Adapter;
use wealdmist_tools::engine::Options;

use super::sockets::sockets;
use super::{Answer, Outcome, answer, compare};
use crate::files::read_regular;
use crate::files::write_own;
use crate::limits;
use crate::platform::link::{Link, NoLink, deaf};
use crate::platform::{self, Process};
use crate::survey::Survey;

/// A multiplexer: its adapter, and what that says of its options.
#[derive(Clone, Copy)]
pub(super) struct Row<'a> {
    pub adapter: &'a dyn Adapter,
    pub options: &'a dyn Options,
}

impl Row<'_> {
    fn program(&self) -> &'static str {
        self.adapter.id().0
    }

    fn named(&self, pid: i32, socket: &Path) -> String {
        format!("{} server {pid} ({})", self.program(), socket.display())
    }
}

pub(super) fn run(row: Row, survey: &Survey, report: &ToolReport, tell: bool) -> Vec<Answer> {
    let mut out = Vec::new();
    for socket in sockets(row.adapter.live(), survey, true) {
        let server = match Server::find(row, &socket, survey, report) {
            Ok(server) => server,
            Err(None) => continue,
            Err(Some(silent)) => {
                let who = row.named(silent.pid, &socket);
                out.push(answer(
                    report.tool,
                    who,
                    Outcome::Unreached(deaf(Some(&silent))),
                ));
                continue;
            }
        };
        let who = row.named(server.pid, &socket);
        let outcome = match server.foreign {
            Some(why) => Outcome::Unreached(why),
            None => {
                let failed = if tell {
                    server.reload(survey, report)
                } else {
                    None
                };
                failed.unwrap_or_else(|| server.verify(report))
            }
        };
        out.push(answer(report.tool, who, outcome));
    }
    if tell && !out.is_empty() {
        remember(row, survey, report);
    }
    out
}

/// Lets every server of this home show styles and formats that its files do not say; only those
/// they state at all, so that reading them again takes this back.
pub(super) fn wear(row: Row, survey: &Survey, now: &ToolReport, then: &ToolReport) -> Vec<Answer> {
    let stated: BTreeSet<String> = row.options.values(now).into_iter().map(|v| v.0).collect();
    let mut out = Vec::new();
    for socket in sockets(row.adapter.live(), survey, true) {
        let server = Server::find(row, &socket, survey, now).ok();
        let Some(server) = server.filter(|s| s.foreign.is_none()) else {
            continue;
        };
        let mut count = 0;
        for (option, window, value) in row.options.values(then) {
            let scope = if window { "-gw" } else { "-g" };
            let known = stated.contains(&option);
            if known
                && server
                    .ask(&["set-option", scope, &option, &value])
                    .is_some()
            {
                count += 1;
            }
        }
        let who = row.named(server.pid, &socket);
        out.push(answer(
            now.tool,
            who,
            Outcome::Told(format!("wears the draft ({count} options)")),
        ));
    }
    out
}

struct Server<'a> {
    row: Row<'a>,
    socket: PathBuf,
    pid: i32,
    /// Why it is not to be told: it reads other files.
    foreign: Option<String>,
}

impl<'a> Server<'a> {
    fn command(&self, arguments: &[&str]) -> Option<Output> {
        let mut command = Command::new(self.row.program());
        command.arg("-S").arg(&self.socket).args(arguments);
        if let Some(variable) = self.row.adapter.live().inside {
            command.env_remove(variable);
        }
        platform::run(&mut command, limits::OPTIONS_TIME)
    }

    fn ask(&self, arguments: &[&str]) -> Option<String> {
        let output = self.command(arguments)?;
        let text = String::from_utf8_lossy(&output.stdout).into_owned();
        output
            .status
            .success()
            .then(|| text.strip_suffix('\n').unwrap_or(&text).to_owned())
    }

    /// The server behind a socket, if one answers and it belongs to this home; the process where
    /// it is one of this home that does not answer.
    fn find(
        row: Row<'a>,
        socket: &Path,
        survey: &Survey,
        report: &ToolReport,
    ) -> Result<Self, Option<Process>> {
        let link = Link::open(socket, limits::OPTIONS_TIME);
        if let Err(NoLink::Nobody) = link {
            return Err(None);
        }
        let peer = link.ok().and_then(|l| l.peer());
        let here = |process: &Process| process.lives_in(survey.home.home());
        let silent = peer.filter(|process| here(process) && process.is(row.program()));
        Self::answering(row, socket, survey, report)
            .ok_or(silent)?
            .ok_or(None)
    }

    /// The server behind a socket that answers, if it is one of this home; `None` for silence.
    fn answering(
        row: Row<'a>,
        socket: &Path,
        survey: &Survey,
        report: &ToolReport,
    ) -> Option<Option<Self>> {
        let said =
            Self::of(row, socket).ask(&["display-message", "-p", "#{pid}\t#{config_files}"])?;
        Some(Self::of(row, socket).described(&said, survey, report))
    }

    fn of(row: Row<'a>, socket: &Path) -> Self {
        Self {
            row,
            socket: socket.to_owned(),
            pid: 0,
            foreign: None,
        }
    }

    fn described(self, said: &str, survey: &Survey, report: &ToolReport) -> Option<Self> {
        let mut server = self;
        let (pid, files) = said.split_once('\t')?;
        server.pid = pid.parse().ok()?;
        let process = Process::of(server.pid)?;
        if !process.is(server.row.program()) {
            return None;
        }
        let ours: BTreeSet<&Path> = report.files.iter().map(|f| f.path.as_path()).collect();
        let read: Vec<&Path> = files
            .split(',')
            .filter(|f| !f.is_empty())
            .map(Path::new)
            .collect();
        let knows = |f: &&Path| {
            ours.contains(*f)
                || f.canonicalize()
                    .is_ok_and(|f| report.files.iter().any(|o| o.target == f))
        };
        if read.iter().any(knows) {
            return Some(server);
        }
        if !process.lives_in(survey.home.home()) {
            return None;
        }
        let named = process.arguments.iter().any(|a| a == "-f");
        if named && !read.is_empty() {
            server.foreign = Some(format!(
                "it was started with {files}; its file is not one of this home"
            ));
        }
        Some(server)
    }

    /// Reads the files again as a fresh server would: options that are appended to, and options
    /// that no file sets any more, first go back to the program's default.
    fn reload(&self, survey: &Survey, report: &ToolReport) -> Option<Outcome> {
        let now = self.row.options.stated(report);
        let mut unset: Vec<(String, String)> = now
            .iter()
            .filter(|o| o.appended)
            .map(|o| (o.scope.clone(), o.name.clone()))
            .collect();
        for old in remembered(self.row, survey) {
            if !now.iter().any(|o| o.name == old.1) {
                unset.push(old);
            }
        }
        for (scope, name) in unset {
            let flags = format!("-u{}", scope.trim_start_matches('-'));
            let _ = self.ask(&["set-option", "-q", &flags, &name]);
        }
        for file in report.files.iter().filter(|f| f.included_from.is_none()) {
            let path = file.path.display().to_string();
            match self.command(&["source-file", &path]) {
                None => {
                    return Some(Outcome::Unreached(
                        "it did not answer; attach to it and look".into(),
                    ));
                }
                Some(output) if !output.status.success() => {
                    let said = [output.stdout, output.stderr].concat();
                    let said = wealdmist_core::text::visible(&said);
                    return Some(Outcome::Differs(vec![format!(
                        "reading {path} failed: {said}"
                    )]));
                }
                Some(_) => {}
            }
        }
        None
    }

    fn verify(&self, report: &ToolReport) -> Outcome {
        let mut pairs = Vec::new();
        for (option, window, value) in self.row.options.values(report) {
            let scope = if window { "-gwv" } else { "-gv" };
            let shown = self
                .ask(&["show-options", scope, &option])
                .unwrap_or_default();
            pairs.push((option, value, shown));
        }
        let mut outcome = compare(pairs);
        let mut more = self.hidden(report);
        more.extend(self.depth(report));
        if !more.is_empty() {
            let mut all = match outcome {
                Outcome::Differs(what) => what,
                _ => Vec::new(),
            };
            all.append(&mut more);
            outcome = Outcome::Differs(all);
        }
        outcome
    }

    /// Values a session has of its own hide the written ones there.
    fn hidden(&self, report: &ToolReport) -> Vec<String> {
        let stated: BTreeSet<String> = self
            .row
            .options
            .values(report)
            .into_iter()
            .map(|v| v.0)
            .collect();
        let sessions = self
            .ask(&["list-sessions", "-F", "#{session_id}"])
            .unwrap_or_default();
        let mut out = Vec::new();
        for session in sessions.lines() {
            let own = self
                .ask(&["show-options", "-t", session])
                .unwrap_or_default();
            for line in own.lines() {
                let option = line.split([' ', '[']).next().unwrap_or_default();
                if stated.contains(option) {
                    out.push(format!("session {session} has a {option} of its own, which hides the written one ({} set -u {option})", self.row.program()));
                }
            }
        }
        out
    }

    /// Whether attached clients have 24-bit color, where the files ask for it.
    fn depth(&self, report: &ToolReport) -> Option<String> {
        let wanted = report.effective(&RoleId::from(Property::Depth))?;
        if wanted.value != Value::Text("24-bit".into()) || !wanted.key.contains("terminal-features")
        {
            return None;
        }
        let clients = self.ask(&["list-clients", "-F", "#{client_tty} #{client_termfeatures}"])?;
        let cut = clients
            .lines()
            .find(|l| !l.to_ascii_lowercase().contains("rgb"))?;
        let tty = cut.split(' ').next().unwrap_or_default();
        Some(format!(
            "the client on {tty} still has 256 colors: detach and attach again"
        ))
    }
}

fn memory(row: Row, survey: &Survey) -> PathBuf {
    let name = format!("{}-stated.json", row.program());
    survey.home.state().join(name)
}

/// Remembers which options the files state, so that one that goes away can be unset.
fn remember(row: Row, survey: &Survey, report: &ToolReport) {
    let stated: Vec<_> = row
        .options
        .stated(report)
        .into_iter()
        .map(|o| json!([o.scope, o.name]))
        .collect();
    let bytes = serde_json::to_vec(&stated).unwrap_or_default();
    let _ = write_own(&memory(row, survey), &bytes);
}

fn remembered(row: Row, survey: &Survey) -> Vec<(String, String)> {
    let read = read_regular(&memory(row, survey), limits::STATED_NOTE);
    let bytes = read.ok().flatten().unwrap_or_default();
    serde_json::from_slice(&bytes).unwrap_or_default()
}
