//! What is known of terminals: measuring the one this program runs in, and keeping the result with
//! its name and version.

use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::path::PathBuf;
use std::time::Duration;

use wealdmist_core::reading::ToolId;
use wealdmist_core::terminal::{Images, PROBES, TerminalRecord};
use wealdmist_tools::{Adapter, adapters};

use crate::files::read_regular;
use crate::files::write_own;
use crate::home::Home;
use crate::limits;
use crate::live::{MULTIPLEXER, around_us};
use crate::tty::{Conversation, TtyError};

/// The records of a home, by name and version.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Terminals {
    records: Vec<TerminalRecord>,
}

fn path(home: &Home) -> PathBuf {
    home.state().join("terminals.json")
}

impl Terminals {
    /// Reads them; a file that cannot be read counts as none.
    #[must_use]
    pub fn open(home: &Home) -> Self {
        let path = path(home);
        let small = fs::metadata(&path).is_ok_and(|m| m.len() <= limits::TERMINALS);
        let bytes = small
            .then(|| read_regular(&path, limits::TERMINALS).ok().flatten())
            .flatten()
            .unwrap_or_default();
        Self {
            records: serde_json::from_slice(&bytes).unwrap_or_default(),
        }
    }

    /// The record of a terminal.
    #[must_use]
    pub fn find(&self, name: &str, version: &str) -> Option<&TerminalRecord> {
        self.records
            .iter()
            .find(|r| r.name == name && r.version == version)
    }

    /// The record of one of the terminals we know, the latest of several versions.
    #[must_use]
    pub fn of_host(&self, host: ToolId) -> Option<&TerminalRecord> {
        let is_it = |r: &&TerminalRecord| r.host.as_deref() == Some(host.0);
        self.records.iter().rfind(is_it)
    }

    /// All records.
    #[must_use]
    pub fn all(&self) -> &[TerminalRecord] {
        &self.records
    }

    /// Keeps a record in place of an older one of the same terminal.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub fn keep(&mut self, home: &Home, record: TerminalRecord) -> io::Result<()> {
        self.records
            .retain(|r| (&r.name, &r.version) != (&record.name, &record.version));
        self.records.push(record);
        let text = serde_json::to_vec_pretty(&self.records).map_err(io::Error::other)?;
        write_own(&path(home), &text)
    }
}

/// What the terminal this program runs in calls itself, from the environment alone: name and
/// version. Inside a multiplexer it is the multiplexer, which decides the widths there.
#[must_use]
pub fn own_terminal() -> (String, String) {
    terminal_of(|name| std::env::var(name).ok().filter(|v| !v.is_empty()))
}

/// Marks that terminals leave in the environment, and what the number in them is of. Many call
/// themselves the same in `TERM`; a terminal started from another one inherits that one's mark, so
/// all marks together tell them apart.
const MARKS: [(&str, &str); 3] = [
    ("XTERM_VERSION", ""),
    ("VTE_VERSION", "VTE "),
    ("KONSOLE_VERSION", "Konsole "),
];

fn terminal_of(var: impl Fn(&str) -> Option<String>) -> (String, String) {
    if let Some(program) = var("TERM_PROGRAM") {
        return (program, var("TERM_PROGRAM_VERSION").unwrap_or_default());
    }
    let marks = MARKS
        .iter()
        .filter_map(|(name, of)| Some(format!("{of}{}", var(name)?)));
    (
        var("TERM").unwrap_or_else(|| "unknown".into()),
        marks.collect::<Vec<_>>().join(", "),
    )
}

/// A record of the terminal this program runs in, of which nothing is known yet.
#[must_use]
pub fn unknown_terminal() -> TerminalRecord {
    let var = |name: &str| std::env::var(name).ok().filter(|v| !v.is_empty());
    let (name, version) = terminal_of(var);
    TerminalRecord {
        host: around_us()
            .or_else(|| host_of(var))
            .map(|tool| tool.0.to_owned()),
        name,
        version,
        ..TerminalRecord::default()
    }
}

/// Which of the terminals we know an environment is of: the one whose terminal type it has, else the one whose mark
/// is there. A mark is inherited by a terminal that is started from another one: where several are left, nobody can tell.
fn host_of(var: impl Fn(&str) -> Option<String>) -> Option<ToolId> {
    let all = adapters();
    let inside = |a: &&&dyn Adapter| a.live().inside.is_some_and(|mark| var(mark).is_some());
    // What decides the widths in a multiplexer is not the terminal around it.
    if all.iter().filter(inside).any(|a| a.kind() == MULTIPLEXER) {
        return None;
    }
    let terminals = || all.iter().filter(|a| a.kind() == "terminal");
    let term = var("TERM").unwrap_or_default();
    let types = |a: &&dyn Adapter| {
        a.tables()
            .into_iter()
            .map(|t| t.term.own)
            .collect::<Vec<_>>()
    };
    // A type that several have, or with which another one begins, is one by which many call themselves.
    let is_shared = |a: &&dyn Adapter| {
        let mut others = terminals().filter(|other| other.id() != a.id());
        others.any(|other| types(other).iter().any(|own| own.starts_with(&term)))
    };
    let by_type = terminals().find(|a| types(a).contains(&&*term) && !is_shared(a));
    let mut marked = terminals().filter(inside);
    let by_mark = marked.next().filter(|_| marked.next().is_none());
    by_type.or(by_mark).map(|a| a.id())
}

/// Measures the terminal this program runs in: how far each cluster moves its cursor, and whether
/// it can be shown images. Nothing else may read the terminal meanwhile; what is typed is lost.
/// Marks of an earlier record are kept.
///
/// # Errors
/// When there is no terminal, or it does not say where its cursor is.
pub fn measure_terminal(
    clusters: &[String],
    earlier: Option<&TerminalRecord>,
) -> Result<TerminalRecord, TtyError> {
    let mut tty = Conversation::begin()?;
    let mut record = unknown_terminal();
    if let Some(earlier) = earlier {
        record.wrong = earlier.wrong.clone();
        record.right = earlier.right.clone();
    }
    record.widths = widths(&mut tty, clusters)?;
    record.images = images(&mut tty)?;
    Ok(record)
}

/// The cells each cluster takes: it is printed at the start of the last line, and the terminal is
/// asked where its cursor is.
fn widths(
    tty: &mut Conversation,
    clusters: &[String],
) -> Result<BTreeMap<String, usize>, TtyError> {
    let mut wanted: Vec<String> = PROBES.iter().map(|p| (*p).to_owned()).collect();
    wanted.extend(
        clusters
            .iter()
            .filter(|c| !c.chars().any(char::is_control))
            .cloned(),
    );
    wanted.sort();
    wanted.dedup();
    let mut out = BTreeMap::new();
    for some in wanted.chunks(64) {
        let mut request = String::from("\x1b7");
        for cluster in some {
            request.push_str(&format!("\r{cluster}\x1b[6n\r\x1b[K"));
        }
        request.push_str("\x1b8");
        let reply = tty.ask(&request, Duration::from_secs(2))?;
        let columns = columns(&reply);
        if columns.len() != some.len() {
            return Err(TtyError::Silent);
        }
        for (cluster, column) in some.iter().zip(columns) {
            out.insert(cluster.clone(), column.saturating_sub(1));
        }
    }
    Ok(out)
}

/// The columns of cursor reports (`CSI row ; column R`) in a reply.
fn columns(reply: &[u8]) -> Vec<usize> {
    let text = String::from_utf8_lossy(reply);
    text.split("\x1b[")
        .filter_map(|part| {
            let (body, _) = part.split_once('R')?;
            let (row, column) = body.split_once(';')?;
            row.parse::<usize>().ok()?;
            column.parse().ok()
        })
        .collect()
}

/// Which image protocol is answered: the graphics protocol by its query, sixels by the attributes.
fn images(tty: &mut Conversation) -> Result<Images, TtyError> {
    let reply = tty.ask(
        "\x1b_Gi=31,s=1,v=1,a=q,t=d,f=24;AAAA\x1b\\",
        Duration::from_secs(2),
    )?;
    let text = String::from_utf8_lossy(&reply);
    if text.contains("\x1b_Gi=31;OK") {
        return Ok(Images::Graphics);
    }
    let attributes = text.rsplit("\x1b[?").next().unwrap_or_default();
    let list = attributes.split('c').next().unwrap_or_default();
    Ok(if list.split(';').any(|a| a == "4") {
        Images::Sixel
    } else {
        Images::None
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn cursor_reports_are_read() {
        assert_eq!(columns(b"\x1b[24;2R\x1b[24;13R\x1b[?62;4c"), [2, 13]);
        assert!(columns(b"\x1b[24R x;yR").is_empty());
    }

    #[test]
    fn the_terminal_around_us_is_known_by_what_only_it_sets() {
        let of = |all: &[(&str, &str)]| {
            let host = host_of(|name| {
                let found = all.iter().find(|(n, _)| *n == name);
                found.map(|(_, value)| (*value).to_owned())
            });
            host.map(|tool| tool.0)
        };
        assert_eq!(of(&[("TERM", "xterm-kitty")]), Some("kitty"));
        let inherited = [("TERM", "foot"), ("KONSOLE_VERSION", "221203")];
        assert_eq!(of(&inherited), Some("foot"));
        let plain = ("TERM", "xterm-256color");
        let konsole = ("KONSOLE_VERSION", "221203");
        assert_eq!(of(&[plain, konsole]), Some("konsole"));
        assert_eq!(of(&[plain]), None, "many call themselves so");
        assert_eq!(of(&[plain, konsole, ("WEZTERM_PANE", "0")]), None);
        let within = [("TERM", "tmux-256color"), ("TMUX", "/tmp/s,1,0")];
        assert_eq!(of(&within), None);
        assert_eq!(of(&[("TMUX", "/tmp/s,1,0"), konsole]), None);
    }

    #[test]
    fn terminals_of_the_same_name_are_told_apart_by_their_marks() {
        let of = |all: &[(&str, &str)]| {
            let own = all.to_vec();
            terminal_of(move |name| {
                let found = own.iter().find(|(n, _)| *n == name);
                found.map(|(_, value)| (*value).to_owned())
            })
        };
        let xterm = of(&[("TERM", "xterm-256color"), ("XTERM_VERSION", "XTerm(379)")]);
        assert_eq!(xterm, ("xterm-256color".into(), "XTerm(379)".into()));
        let inside = of(&[
            ("TERM", "xterm-256color"),
            ("XTERM_VERSION", "XTerm(379)"),
            ("VTE_VERSION", "7200"),
        ]);
        assert_eq!(inside.1, "XTerm(379), VTE 7200");
        let program = of(&[
            ("TERM", "tmux-256color"),
            ("TERM_PROGRAM", "tmux"),
            ("TERM_PROGRAM_VERSION", "3.3a"),
            ("VTE_VERSION", "7200"),
        ]);
        assert_eq!(program, ("tmux".into(), "3.3a".into()));
        assert_eq!(of(&[]), ("unknown".into(), String::new()));
    }

    #[test]
    fn records_are_kept_by_name_and_version() {
        let dir = tempfile::tempdir().unwrap();
        let home = Home::open(Some(dir.path())).unwrap();
        let record = |version: &str, width| TerminalRecord {
            name: "reedterm".into(),
            version: version.into(),
            widths: BTreeMap::from([("→".to_owned(), width)]),
            ..TerminalRecord::default()
        };
        let mut known = Terminals::open(&home);
        known.keep(&home, record("1", 1)).unwrap();
        known.keep(&home, record("2", 1)).unwrap();
        known.keep(&home, record("1", 2)).unwrap();
        let read = Terminals::open(&home);
        assert_eq!(read.find("reedterm", "1").unwrap().width("→"), Some(2));
        assert_eq!(read.all().len(), 2);
        fs::write(path(&home), b"{broken").unwrap();
        assert!(Terminals::open(&home).all().is_empty());
    }
}
