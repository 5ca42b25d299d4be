//! Running terminals, as their rows say: told by a signal, by escapes, or not at all since they watch
//! their files; asked on a socket, by a command of their own, or where we run in one.

use std::collections::BTreeMap;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::{Duration, Instant};

use wealdmist_core::color::set as set_color;
use wealdmist_core::reading::{ToolId, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_tools::{Access, Adapter, Answers, Live, Reload, adapters, osc_targets};

use super::{Answer, Ask, MULTIPLEXER, Outcome, answer, compare};
use crate::platform::link::{Link, NoLink};
use crate::platform::terminal::open_other;
use crate::platform::{self, Process};
use crate::survey::Survey;
use crate::tty::query_colors;

/// How long a running terminal may take to read its file and answer.
const PATIENCE: Duration = Duration::from_secs(3);

/// How long one question may take in all.
const ANSWER: Duration = Duration::from_secs(2);

pub(super) fn run(
    adapter: &dyn Adapter,
    survey: &Survey,
    report: &ToolReport,
    tell: bool,
    ask: Ask,
) -> Vec<Answer> {
    let all = Process::all();
    let terminals = all
        .iter()
        .filter(|p| is_main(adapter, p, &all) && reads_our_file(adapter, p, survey, report));
    let one = |process| {
        let terminal = Terminal {
            adapter,
            process,
            all: &all,
            report,
        };
        let (who, outcome) = terminal.answer(tell, ask);
        answer(adapter.id(), who, outcome)
    };
    let merged = tell.then(|| merge(adapter, survey, report)).flatten();
    merged.into_iter().chain(terminals.map(one)).collect()
}

/// The processes around this one, the nearest first, as far as what is shown comes from them: a multiplexer answers for
/// itself.
fn around(all: &[Process]) -> impl Iterator<Item = &Process> {
    let of = |pid: i32| all.iter().find(|p| p.pid == pid);
    let known = adapters();
    let is_between = move |p: &Process| {
        known
            .iter()
            .any(|a| a.kind() == MULTIPLEXER && p.is(a.id().0))
    };
    let own = of(std::process::id() as i32);
    std::iter::successors(own, move |p| of(p.parent)).take_while(move |p| !is_between(p))
}

/// The terminal this program runs in, by its own ancestors; `None` where none of them is one we know.
pub(crate) fn around_us() -> Option<ToolId> {
    let (all, known) = (Process::all(), adapters());
    let terminal = |p: &Process| {
        let is_it = |a: &&&dyn Adapter| a.kind() == "terminal" && is_main(**a, p, &all);
        known.iter().find(is_it).map(|a| a.id())
    };
    around(&all).find_map(terminal)
}

/// Gives the file to the server of our session from which new windows take it, where it is one that a session
/// gives it.
fn merge(adapter: &dyn Adapter, survey: &Survey, report: &ToolReport) -> Option<Answer> {
    let (program, arguments) = adapter.live().merges?.split_first()?;
    let file = report.files.first()?;
    let first = adapter.tables().first()?.candidates(&survey.home);
    let is_own = std::env::var_os("HOME")
        .and_then(|home| PathBuf::from(home).canonicalize().ok())
        .is_some_and(|home| home == survey.home.home());
    let has_server = std::env::var_os("DISPLAY").is_some_and(|d| !d.is_empty());
    if first.first() != Some(&file.path) || !is_own || !has_server {
        return None;
    }
    let mut command = Command::new(program);
    command.args(arguments).arg(&file.path);
    let outcome = match platform::run(&mut command, ANSWER) {
        Some(done) if done.status.success() => {
            Outcome::Told(format!("new windows take what is written ({program})"))
        }
        Some(done) => {
            let said = String::from_utf8_lossy(&done.stderr);
            let said = said.lines().next().unwrap_or("it failed").to_owned();
            Outcome::Unreached(format!("{program}: {said}"))
        }
        None => Outcome::Unreached(format!("{program} did not answer; run it yourself")),
    };
    Some(answer(adapter.id(), "the X server", outcome))
}

/// Whether this is a terminal itself: not a helper it started, and not a command of its own.
fn is_main(adapter: &dyn Adapter, process: &Process, all: &[Process]) -> bool {
    let program = adapter.tables().first().map_or("", |t| t.program);
    let commands = adapter.live().commands;
    let first = process.arguments.get(1);
    let command = first.is_some_and(|a| commands.iter().any(|c| a.starts_with(c)));
    let helper = all
        .iter()
        .any(|p| p.pid == process.parent && p.executable == process.executable);
    // A name can be anybody's; what is loaded is only the terminal's own.
    let marked = adapter.live().mark.is_none_or(|m| process.has_library(m));
    process.is(program) && !command && !helper && marked
}

/// The files named on its command line. Its own options end where the program it runs begins:
/// one after that is the program's.
fn named_files(live: &Live, arguments: &[String]) -> Vec<PathBuf> {
    let mut out = Vec::new();
    let mut words = arguments.iter().skip(1);
    while let Some(word) = words.next() {
        let (name, value) = match word.split_once('=') {
            Some((name, value)) => (name, Some(value)),
            None => (word.as_str(), None),
        };
        if live.file_options.contains(&name) {
            let value = value.map(PathBuf::from);
            out.extend(value.or_else(|| words.next().map(PathBuf::from)));
        } else if live.value_options.contains(&word.as_str()) {
            words.next();
        } else if !word.starts_with('-') {
            break;
        }
    }
    out
}

/// Whether it was started with the file that was read.
fn reads_our_file(
    adapter: &dyn Adapter,
    process: &Process,
    survey: &Survey,
    report: &ToolReport,
) -> bool {
    let tables = adapter.tables();
    let ours: Vec<PathBuf> = match report.files.first() {
        Some(file) => vec![file.path.clone(), file.target.clone()],
        None => tables
            .iter()
            .flat_map(|t| t.candidates(&survey.home))
            .collect(),
    };
    let is_ours = |p: &Path| {
        ours.iter().any(|o| {
            o == p
                || p.canonicalize()
                    .is_ok_and(|c| o.canonicalize().is_ok_and(|o| o == c))
        })
    };
    let named = named_files(adapter.live(), &process.arguments);
    if !named.is_empty() {
        return named.iter().any(|p| is_ours(p));
    }
    let environment = process.environment();
    let variable = |name: &str| environment.get(name).filter(|v| !v.is_empty()).cloned();
    let Some(home) = variable("HOME").map(PathBuf::from) else {
        return false;
    };
    let config = variable("XDG_CONFIG_HOME").map_or_else(|| home.join(".config"), PathBuf::from);
    let only = tables.iter().flat_map(|t| t.variables());
    if report.files.is_empty() && only.into_iter().all(|name| variable(name).is_none()) {
        return home.canonicalize().is_ok_and(|h| h == survey.home.home());
    }
    let mut places = tables
        .iter()
        .flat_map(|t| t.candidates_in(&home, &config, &variable));
    places.find(|p| p.exists()).is_some_and(|p| is_ours(&p))
}

/// A running terminal.
struct Terminal<'a> {
    adapter: &'a dyn Adapter,
    process: &'a Process,
    all: &'a [Process],
    report: &'a ToolReport,
}

impl Terminal<'_> {
    fn answer(&self, tell: bool, ask: Ask) -> (String, Outcome) {
        let who = format!("{} {}", self.adapter.id(), self.process.pid);
        let live = self.adapter.live();
        let mut told = match live.reload {
            _ if !tell => "",
            Reload::Watches => "it watches its files",
            // What it came with does not change.
            Reload::Named { ending, .. } if self.file(ending).is_none() => live.arrives,
            Reload::Escapes | Reload::Named { .. } => "its windows were told the colors",
            Reload::Signal(_) => "told to read its file",
            _ => "not told: it reads its file when it starts",
        };
        if tell && let Err(why) = self.tell(live.reload) {
            return (who, Outcome::Unreached(format!("not told: {why}")));
        }
        if live.reload == Reload::NextStart && tell {
            told = live.arrives;
        }
        let Some(source) = self.source(live) else {
            if ask == Ask::OwnTerminalToo && self.is_around_us() {
                let outcome = own_terminal(self.report, tell);
                return (format!("{who}, this terminal"), outcome);
            }
            let asked = "it has no socket to ask, so look at a window of it";
            let said = match told {
                "" => asked.to_owned(),
                told => format!("{told}; {asked}"),
            };
            return (who, Outcome::Told(said));
        };
        // It reads its file in its own time: ask until it agrees or patience ends.
        let until = Instant::now() + PATIENCE;
        loop {
            let outcome = match self.colors(live, &source) {
                Ok(shown) => self.compared(&shown),
                Err(why) => {
                    let before = if told.is_empty() {
                        String::new()
                    } else {
                        format!("{told}; ")
                    };
                    let asked = format!("{before}it would not say: {why}; look at a window of it");
                    return (who, Outcome::Told(asked));
                }
            };
            if outcome.is_good() || !tell || Instant::now() > until {
                return (who, outcome);
            }
            std::thread::sleep(Duration::from_millis(25));
        }
    }

    /// Tells it that its files have changed.
    fn tell(&self, reload: Reload) -> Result<(), String> {
        match reload {
            Reload::Signal(signal) => {
                // A bad line on reload opens an error window and breaks later reloads: never send
                // one.
                if let Some(bad) = self.report.problems.iter().find(|p| p.at.is_some()) {
                    let line = bad.at.map_or(0, |a| a.line);
                    let (path, message) = (bad.path.display(), &bad.message);
                    return Err(format!("{path}:{line} {message}; mend it first"));
                }
                self.process.tell(signal)
            }
            Reload::Escapes | Reload::Named { .. } => {
                let escapes = match reload {
                    Reload::Named { ending, .. } => match self.file(ending) {
                        Some(name) => renamed(reload, &name).ok_or_else(|| {
                            format!("'{}' is no name that can be told", name.escape_default())
                        })?,
                        None => return Ok(()),
                    },
                    _ => vec![escapes(self.report)],
                };
                let windows = self.windows();
                if windows.is_empty() {
                    return Err("none of its windows was found".to_owned());
                }
                for (n, one) in escapes.iter().enumerate() {
                    if n > 0 {
                        // Told at once, it would only see the last.
                        std::thread::sleep(BETWEEN);
                    }
                    windows.iter().try_for_each(|w| write_to_window(w, one))?;
                }
                Ok(())
            }
            _ => Ok(()),
        }
    }

    /// The name of the last of its files with an ending, without that.
    fn file(&self, ending: &str) -> Option<String> {
        let is = |path: &Path| path.extension().is_some_and(|own| own == ending);
        let file = self.report.files.iter().rfind(|f| is(&f.path))?;
        Some(file.path.file_stem()?.to_str()?.to_owned())
    }

    /// Where it is asked: the socket that its windows' programs are told of.
    fn source(&self, live: &Live) -> Option<String> {
        let variable = match live.answers {
            Answers::RemoteControl { variable, .. } | Answers::Command { variable, .. } => variable,
            Answers::Escapes | Answers::Own => return None,
        };
        let mut children = self.all.iter().filter(|p| p.parent == self.process.pid);
        children.find_map(|p| p.environment().remove(variable))
    }

    /// The terminals of its windows: those that the programs it started run in.
    fn windows(&self) -> Vec<PathBuf> {
        let children = self.all.iter().filter(|p| p.parent == self.process.pid);
        let mut out: Vec<PathBuf> = children.filter_map(Process::terminal).collect();
        out.sort();
        out.dedup();
        out
    }

    fn colors(&self, live: &Live, source: &str) -> Result<BTreeMap<String, String>, String> {
        match live.answers {
            Answers::RemoteControl { request, .. } => remote_colors(source, request),
            Answers::Command {
                before,
                after,
                renamed,
                ..
            } => {
                let mut command = Command::new(&self.process.executable);
                command.args(before).arg(source).args(after);
                let output = platform::run(&mut command, ANSWER).ok_or("it does not answer")?;
                if !output.status.success() {
                    return Err("this version cannot be asked".to_owned());
                }
                let json: serde_json::Value =
                    serde_json::from_slice(&output.stdout).map_err(|e| e.to_string())?;
                let shown = |key: &str| {
                    let there = renamed.iter().find(|r| r.0 == key).map_or(key, |r| r.1);
                    let value = json.pointer(&format!("/{}", there.replace('.', "/")))?;
                    let text = value.as_str()?.replace("0x", "#").to_lowercase();
                    Some((key.to_owned(), text))
                };
                let keys = self.report.readings.iter().map(|r| r.key.as_str());
                Ok(keys.filter_map(shown).collect())
            }
            Answers::Escapes | Answers::Own => Err("it cannot be asked".to_owned()),
        }
    }

    /// Whether this program runs in a window of that terminal.
    fn is_around_us(&self) -> bool {
        around(self.all).any(|p| p.pid == self.process.pid)
    }

    /// Compares what is written with what is shown.
    fn compared(&self, shown: &BTreeMap<String, String>) -> Outcome {
        let written = self
            .report
            .readings
            .iter()
            .filter(|r| r.effective && !r.is_default())
            .filter_map(|r| {
                let Value::Color(color) = r.value else {
                    return None;
                };
                let shown = shown.get(&r.key)?;
                Some((r.key.clone(), color.to_string(), shown.clone()))
            });
        match compare(written) {
            Outcome::Differs(mut what) => {
                let ground = self.report.effective(&RoleId::from(Slot::Background));
                if ground.is_some() && what.len() < 4 {
                    what.push(
                        "a color set by an escape sequence hides the file until it is reset".into(),
                    );
                }
                Outcome::Differs(what)
            }
            other => other,
        }
    }
}

/// The escapes that give a window the colors that are written.
fn escapes(report: &ToolReport) -> String {
    let one = |(target, slot): (Result<u8, u16>, Slot)| {
        let reading = report.effective(&slot.into()).filter(|r| !r.is_default())?;
        let Value::Color(color) = reading.value else {
            return None;
        };
        Some(set_color(target, color))
    };
    osc_targets().into_iter().filter_map(one).collect()
}

/// How long a window may take to look at a name before it is told the next.
const BETWEEN: Duration = Duration::from_millis(200);

/// The escapes that let a window read anew what it shows, one after the other; `None` for a name that could end one.
fn renamed(reload: Reload, name: &str) -> Option<Vec<String>> {
    let Reload::Named {
        begin, end, others, ..
    } = reload
    else {
        return None;
    };
    if name.contains(|c: char| c.is_control() || c == ';') {
        return None;
    }
    let other = others.into_iter().find(|o| *o != name);
    let names = other.into_iter().chain([name]);
    Some(names.map(|name| format!("{begin}{name}{end}")).collect())
}

/// Writes to the terminal of a window without waiting for one that takes nothing. What is written
/// only sets colors; nothing is asked, since an answer would be typed to the program there.
fn write_to_window(window: &Path, text: &str) -> Result<(), String> {
    let told = |e: std::io::Error| format!("{}: {e}", window.display());
    let mut file = open_other(window).map_err(told)?;
    file.write_all(text.as_bytes()).map_err(told)
}

/// Asks the terminal we run in by color queries.
fn own_terminal(report: &ToolReport, tell: bool) -> Outcome {
    let until = Instant::now() + PATIENCE;
    loop {
        let shown = match query_colors(Duration::from_millis(500)) {
            Ok(shown) => shown,
            Err(why) => {
                return Outcome::Told(format!("it would not say: {why}; look at the window"));
            }
        };
        let written = shown.iter().filter_map(|(slot, shown)| {
            let reading = report
                .effective(&RoleId::from(*slot))
                .filter(|r| !r.is_default())?;
            let Value::Color(color) = reading.value else {
                return None;
            };
            Some((reading.key.clone(), color.to_string(), shown.to_string()))
        });
        let outcome = compare(written);
        if outcome.is_good() || !tell || Instant::now() > until {
            return outcome;
        }
        std::thread::sleep(Duration::from_millis(50));
    }
}

/// Asks for the colors in use.
fn remote_colors(socket: &str, request: &str) -> Result<BTreeMap<String, String>, String> {
    let told = |e: std::io::Error| e.to_string();
    let name = socket
        .strip_prefix("unix:")
        .ok_or("its socket is not a local one")?;
    let mut stream = Link::open(Path::new(name), ANSWER).map_err(|why| match why {
        NoLink::Nobody => "nobody listens at its socket",
        NoLink::Deaf => "it takes no more connections; it may be stopped",
    })?;
    stream.write_all(request.as_bytes()).map_err(told)?;
    let mut reply = Vec::new();
    let mut buffer = [0; 4096];
    while !reply.ends_with(b"\x1b\\") && reply.len() < 1 << 20 {
        let n = stream.read(&mut buffer).map_err(told)?;
        if n == 0 {
            break;
        }
        reply.extend_from_slice(&buffer[..n]);
    }
    let start = reply.iter().position(|b| *b == b'{').ok_or("no answer")?;
    let end = reply.iter().rposition(|b| *b == b'}').ok_or("no answer")?;
    let json: serde_json::Value =
        serde_json::from_slice(reply.get(start..=end).ok_or("no answer")?)
            .map_err(|e| e.to_string())?;
    if json["ok"] != true {
        return Err(json["error"].as_str().unwrap_or("it refused").to_owned());
    }
    let text = json["data"].as_str().unwrap_or_default();
    let pair = |line: &str| {
        let mut words = line.split_whitespace();
        Some((words.next()?.to_owned(), words.next()?.to_owned()))
    };
    Ok(text.lines().filter_map(pair).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_told_after_another_unless_it_could_end_the_escape() {
        let konsole = wealdmist_tools::adapter("konsole").unwrap();
        let told = |name: &str| renamed(konsole.live().reload, name);
        let begin = "\u{1b}]50;ColorScheme=";
        let both =
            |a: &str, b: &str| Some(vec![format!("{begin}{a}\u{7}"), format!("{begin}{b}\u{7}")]);
        assert_eq!(told("tide"), both("BlackOnWhite", "tide"));
        assert_eq!(told("BlackOnWhite"), both("WhiteOnBlack", "BlackOnWhite"));
        assert_eq!(told("a\u{7}b"), None);
        assert_eq!(told("a;Colors=b"), None);
    }

    #[test]
    fn only_its_own_options_name_its_files() {
        let named = |line: &str| {
            let words: Vec<String> = line.split(' ').map(str::to_owned).collect();
            named_files(wealdmist_tools::adapter("kitty").unwrap().live(), &words)
        };
        assert_eq!(
            named("kitty --config a -o x=1 -c b"),
            [PathBuf::from("a"), "b".into()]
        );
        assert_eq!(named("kitty --title t sh -c ls"), Vec::<PathBuf>::new());
        assert_eq!(named("kitty --config=NONE"), [PathBuf::from("NONE")]);
    }
}
