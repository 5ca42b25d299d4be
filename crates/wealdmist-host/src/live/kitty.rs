//! Running kitty: a signal makes it read its file, its remote-control socket tells its colors.

use std::collections::BTreeMap;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use rustix::process::Signal;
use wealdmist_core::reading::{ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_tools::Access;
use wealdmist_tools::tools::{KITTY, kitty_candidates};

use super::link::{Link, NoLink};
use super::{Answer, Ask, Outcome, answer, compare};
use crate::process::Process;
use crate::survey::Survey;
use crate::tty::query_colors;

/// How long a running kitty may take to read its file and answer.
const PATIENCE: Duration = Duration::from_secs(3);

/// How long one question may take in all.
const ANSWER: Duration = Duration::from_secs(2);

pub(super) fn run(survey: &Survey, report: &ToolReport, tell: bool, ask: Ask) -> Vec<Answer> {
    let all = Process::all();
    let kitties = all
        .iter()
        .filter(|p| is_main(p, &all) && reads_our_file(p, survey, report));
    kitties.map(|p| one(p, &all, report, tell, ask)).collect()
}

/// Whether this is a terminal itself: not a helper it started, and not a command of its own.
fn is_main(process: &Process, all: &[Process]) -> bool {
    let command = process
        .arguments
        .get(1)
        .is_some_and(|a| a.starts_with('+') || a.starts_with('@'));
    let helper = all
        .iter()
        .any(|p| p.pid == process.parent && p.executable == process.executable);
    // A name can be anybody's; this library is only the terminal's own.
    process.is("kitty") && !command && !helper && process.has_library("fast_data_types")
}

/// The files named on its command line. Its own options end where the program it runs begins:
/// a `-c` after that is the program's.
fn named_files(arguments: &[String]) -> Vec<PathBuf> {
    const WITH_VALUE: [&str; 14] = [
        "-o",
        "--override",
        "-T",
        "--title",
        "--class",
        "--name",
        "-d",
        "--directory",
        "--working-directory",
        "--session",
        "--instance-group",
        "--listen-on",
        "--start-as",
        "--watcher",
    ];
    let mut out = Vec::new();
    let mut words = arguments.iter().skip(1);
    while let Some(word) = words.next() {
        if word == "--config" || word == "-c" {
            out.extend(words.next().map(PathBuf::from));
        } else if let Some(file) = word.strip_prefix("--config=") {
            out.push(PathBuf::from(file));
        } else if WITH_VALUE.contains(&word.as_str()) {
            words.next();
        } else if !word.starts_with('-') {
            break;
        }
    }
    out
}

/// Whether it was started with the file that was read.
fn reads_our_file(process: &Process, survey: &Survey, report: &ToolReport) -> bool {
    let ours: Vec<PathBuf> = match report.files.first() {
        Some(file) => vec![file.path.clone(), file.target.clone()],
        None => kitty_candidates(&survey.home),
    };
    let is_ours = |p: &Path| {
        ours.iter().any(|o| {
            o == p
                || p.canonicalize()
                    .is_ok_and(|c| o.canonicalize().is_ok_and(|o| o == c))
        })
    };
    let named = named_files(&process.arguments);
    if !named.is_empty() {
        return named.iter().any(|p| is_ours(p));
    }
    let environment = process.environment();
    if let Some(folder) = environment.get("KITTY_CONFIG_DIRECTORY") {
        return is_ours(&Path::new(folder).join("kitty.conf"));
    }
    let home = environment.get("HOME").map(PathBuf::from);
    let config = environment
        .get("XDG_CONFIG_HOME")
        .filter(|c| !c.is_empty())
        .map(PathBuf::from);
    let places = config
        .into_iter()
        .chain(home.iter().map(|h| h.join(".config")));
    let mut places = places.map(|p| p.join("kitty/kitty.conf"));
    if report.files.is_empty() {
        return home
            .and_then(|h| h.canonicalize().ok())
            .is_some_and(|h| h == survey.home.home());
    }
    places.find(|p| p.exists()).is_some_and(|p| is_ours(&p))
}

fn one(process: &Process, all: &[Process], report: &ToolReport, tell: bool, ask: Ask) -> Answer {
    let who = format!("kitty {}", process.pid);
    if tell {
        // A bad line on reload opens an error window and breaks later reloads: never send one.
        if let Some(bad) = report.problems.iter().find(|p| p.at.is_some()) {
            let line = bad.at.map_or(0, |a| a.line);
            let what = format!(
                "not told: {}:{line} {}; mend it first",
                bad.path.display(),
                bad.message
            );
            return answer(KITTY, who, Outcome::Unreached(what));
        }
        if let Err(why) = process.tell(Signal::USR1) {
            return answer(KITTY, who, Outcome::Unreached(format!("not told: {why}")));
        }
    }
    let Some(socket) = socket_of(process, all) else {
        if ask == Ask::OwnTerminalToo && is_around_us(process, all) {
            return answer(
                KITTY,
                format!("{who}, this terminal"),
                own_terminal(report, tell),
            );
        }
        let what = if tell {
            "told to read its file; it has no remote-control socket to ask, so look at a window of it"
        } else {
            "it has no remote-control socket to ask; look at a window of it"
        };
        return answer(KITTY, who, Outcome::Told(what.to_owned()));
    };
    // It reads its file after the signal in its own time: ask until it agrees or patience ends.
    let until = Instant::now() + PATIENCE;
    loop {
        let outcome = match colors(&socket) {
            Ok(shown) => compared(report, &shown),
            Err(why) => Outcome::Told(format!("it would not say: {why}; look at a window of it")),
        };
        if outcome.is_good() || !tell || Instant::now() > until {
            return answer(KITTY, who, outcome);
        }
        std::thread::sleep(Duration::from_millis(25));
    }
}

/// Whether this program runs in a window of that kitty: it is among our own ancestors, with no
/// other terminal in between.
fn is_around_us(process: &Process, all: &[Process]) -> bool {
    let mut pid = std::process::id() as i32;
    while let Some(own) = all.iter().find(|p| p.pid == pid) {
        if own.pid == process.pid {
            return true;
        }
        // A multiplexer answers for itself.
        if own.is("tmux") {
            return false;
        }
        pid = own.parent;
    }
    false
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
                .filter(|r| !r.assumed)?;
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

/// The socket a kitty listens on: its windows' programs are told it in their environment.
fn socket_of(process: &Process, all: &[Process]) -> Option<String> {
    let children = all.iter().filter(|p| p.parent == process.pid);
    children
        .filter_map(|p| p.environment().remove("KITTY_LISTEN_ON"))
        .next()
}

/// Asks for the colors in use.
fn colors(socket: &str) -> Result<BTreeMap<String, String>, String> {
    let told = |e: std::io::Error| e.to_string();
    let name = socket
        .strip_prefix("unix:")
        .ok_or("its socket is not a local one")?;
    let mut stream = Link::open(Path::new(name), ANSWER).map_err(|why| match why {
        NoLink::Nobody => "nobody listens at its socket",
        NoLink::Deaf => "it takes no more connections; it may be stopped",
    })?;
    let request = "\x1bP@kitty-cmd{\"cmd\":\"get-colors\",\"version\":[0,26,0],\"no_response\":false,\"payload\":{\"configured\":false}}\x1b\\";
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

/// Compares what is written with what is shown.
fn compared(report: &ToolReport, shown: &BTreeMap<String, String>) -> Outcome {
    let written = report
        .readings
        .iter()
        .filter(|r| r.effective && !r.assumed)
        .filter_map(|r| {
            let Value::Color(color) = r.value else {
                return None;
            };
            let shown = shown.get(&r.key)?;
            Some((r.key.clone(), color.to_string(), shown.clone()))
        });
    let outcome = compare(written);
    match outcome {
        Outcome::Differs(mut what) => {
            let ground = report.effective(&RoleId::from(Slot::Background));
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_its_own_options_name_its_files() {
        let named = |line: &str| {
            let words: Vec<String> = line.split(' ').map(str::to_owned).collect();
            named_files(&words)
        };
        assert_eq!(
            named("kitty --config a -o x=1 -c b"),
            [PathBuf::from("a"), "b".into()]
        );
        assert_eq!(named("kitty --title t sh -c ls"), Vec::<PathBuf>::new());
        assert_eq!(named("kitty --config=NONE"), [PathBuf::from("NONE")]);
    }
}
