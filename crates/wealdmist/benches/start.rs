//! Whole-process times, each beside what it is compared with, in one run: start to the first
//! complete frame, a key press to the changed frame, and a survey.
//!
//! `cargo bench -p wealdmist --bench start`; a pseudo-terminal of 160 by 47 cells.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stdout)]

#[path = "../tests/common/pty.rs"]
mod pty;

use std::io::{Read, Write};
use std::path::Path;
use std::process::{Child, Command};
use std::time::{Duration, Instant};

use rustix::event::{PollFd, PollFlags, Timespec, poll};

const RUNS: usize = 21;
/// A frame counts as complete when nothing more has come for this long; it is not counted.
const QUIET: Duration = Duration::from_millis(40);

struct Terminal {
    master: std::fs::File,
    child: Child,
    answered: bool,
}

impl Terminal {
    fn start(command: &mut Command) -> (Self, Instant) {
        let begin = Instant::now();
        let (master, _, child) = pty::start(command, 160, 47);
        let terminal = Self {
            master,
            child,
            answered: false,
        };
        (terminal, begin)
    }

    /// Reads until nothing has come for a while; when the last came, and how much in all.
    fn settle(&mut self) -> (Instant, usize) {
        let (mut last, mut count) = (Instant::now(), 0);
        let mut buffer = [0; 1 << 16];
        let begin = Instant::now();
        loop {
            let wait = Timespec {
                tv_sec: 0,
                tv_nsec: QUIET.as_nanos() as i64,
            };
            let fd = self.master.try_clone().unwrap();
            let mut fds = [PollFd::new(&fd, PollFlags::IN)];
            let ready = poll(&mut fds, Some(&wait)).unwrap();
            if ready == 0 && count > 0 || begin.elapsed() > Duration::from_secs(5) {
                return (last, count);
            }
            if ready > 0 {
                let Ok(n) = self.master.read(&mut buffer) else {
                    return (last, count);
                };
                last = Instant::now();
                count += n;
                // A terminal answers what a program asks of it at its start.
                if !self.answered && buffer[..n].windows(3).any(|w| w == b"\x1b[c") {
                    self.answered = true;
                    self.master.write_all(b"\x1b[?62;c").unwrap();
                }
            }
        }
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

fn median(mut times: Vec<Duration>) -> (Duration, Duration, Duration) {
    times.sort();
    (times[0], times[times.len() / 2], times[times.len() - 1])
}

fn row(what: &str, times: Vec<Duration>) {
    let (least, middle, most) = median(times);
    let ms = |d: Duration| d.as_secs_f64() * 1e3;
    println!(
        "{what:<44} {:8.2} {:8.2} {:8.2}",
        ms(least),
        ms(middle),
        ms(most)
    );
}

fn environment(command: &mut Command, home: &Path) {
    command
        .env("HOME", home)
        .env("TERM", "xterm-256color")
        .env("COLORTERM", "truecolor")
        .env("LANG", "C.UTF-8")
        .env_remove("NO_COLOR");
}

fn starts(home: &Path, program: &str, arguments: &[&str]) -> Vec<Duration> {
    let one = || {
        let mut command = Command::new(program);
        command.args(arguments);
        environment(&mut command, home);
        let (mut terminal, begin) = Terminal::start(&mut command);
        let (last, _) = terminal.settle();
        last - begin
    };
    one();
    (0..RUNS).map(|_| one()).collect()
}

/// Reading every dotfile of a home and making the setup from them.
fn surveys(home: &Path) -> Vec<Duration> {
    let one = || {
        let home = wealdmist_host::Home::open(Some(home)).unwrap();
        let begin = Instant::now();
        let survey = wealdmist_host::Survey::open(home, None, None).unwrap();
        assert!(survey.reports.len() > 3);
        begin.elapsed()
    };
    one();
    (0..RUNS).map(|_| one()).collect()
}

/// Files of further tools for a home, each by its path below it.
const MORE: [(&str, &str); 16] = [
    (
        ".config/foot/foot.ini",
        "[main]\nfont=Reedbed Mono NF:size=12\n[colors]\nbackground=101820\n",
    ),
    (
        ".config/ghostty/config",
        "background = 101820\nfont-size = 12\n",
    ),
    (
        ".Xresources",
        "XTerm*background: #101820\nURxvt*foreground: #d0d0d0\n*color1: #a04040\n",
    ),
    (
        ".config/xfce4/terminal/terminalrc",
        "[Configuration]\nColorBackground=#101820\nColorUseTheme=FALSE\n",
    ),
    (
        ".config/konsolerc",
        "[Desktop Entry]\nDefaultProfile=Marsh.profile\n",
    ),
    (
        ".local/share/konsole/Marsh.profile",
        "[Appearance]\nColorScheme=Reeds\nFont=Reedbed Mono NF,12\n",
    ),
    (
        ".local/share/konsole/Reeds.colorscheme",
        "[Background]\nColor=16,24,32\n[Color1]\nColor=160,64,64\n",
    ),
    (
        ".config/wezterm/wezterm.lua",
        "local c = {}\nc.font_size = 12\nc.colors = { background = '#101820' }\nreturn c\n",
    ),
    (
        "AppData/Local/Microsoft/Windows Terminal/settings.json",
        "{\"schemes\": [{\"name\": \"Reeds\", \"red\": \"#a04040\"}], \"profiles\": {\"defaults\": {\"colorScheme\": \"Reeds\"}}}",
    ),
    (
        "Library/Application Support/iTerm2/DynamicProfiles/marsh.json",
        "{\"Profiles\": [{\"Name\": \"Marsh\", \"Guid\": \"marsh\", \"Transparency\": 0.1}]}",
    ),
    (
        ".warp/themes/reeds.yaml",
        "background: '#101820'\nforeground: '#d0d0d0'\n",
    ),
    (
        ".config/powershell/profile.ps1",
        "function prompt { \"`e[32mPS> `e[0m\" }\n",
    ),
    (
        "Documents/PowerShell/profile.ps1",
        "Set-PSReadLineOption -Colors @{ Command = '#40a040' }\n",
    ),
    (
        ".config/starship.toml",
        "format = '$directory$character'\n[directory]\nstyle = 'fg:#a04040'\n",
    ),
    (".zshrc", "PROMPT='%F{#40a040}%~ %#%f '\n"),
    (".inputrc", "set vi-ins-mode-string \"\\1\\e[32m\\2+\"\n"),
];

/// The sample home with further tools in it, and files that its terminal includes, until there are so many.
fn crowded(folder: &Path, files: usize) -> std::path::PathBuf {
    let home = folder.join("crowded");
    wealdmist_host::make_demo(&home).unwrap();
    for (path, text) in MORE {
        let path = home.join(path);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        if !path.exists() {
            std::fs::write(path, text).unwrap();
        }
    }
    let read = || {
        let home = wealdmist_host::Home::open(Some(&home)).unwrap();
        let survey = wealdmist_host::Survey::open(home, None, None).unwrap();
        let count = survey.reports.iter().map(|r| r.files.len()).sum::<usize>();
        (survey.reports.len(), count)
    };
    let terminal = home.join(".config/kitty");
    let mut text = std::fs::read_to_string(terminal.join("kitty.conf")).unwrap();
    for n in 0..files.saturating_sub(read().1) {
        let colors: String = (0..16)
            .map(|i| format!("color{i} #{n:02x}{i:02x}40\n"))
            .collect();
        std::fs::write(terminal.join(format!("more-{n}.conf")), colors).unwrap();
        text.push_str(&format!("include more-{n}.conf\n"));
    }
    std::fs::write(terminal.join("kitty.conf"), text).unwrap();
    let (tools, files) = read();
    println!("a crowded home has {tools} tools in {files} files");
    home
}

/// Planning for a home that was read, with everything to be changed.
fn plans(home: &Path) -> Vec<Duration> {
    let home = wealdmist_host::Home::open(Some(home)).unwrap();
    let mut survey = wealdmist_host::Survey::open(home, None, None).unwrap();
    survey.doc = wealdmist_core::setup::SetupDoc::parse("s", b"[palettes.a]\n").unwrap();
    let one = || {
        let begin = Instant::now();
        assert!(survey.plan().change_count() > 3);
        begin.elapsed()
    };
    one();
    (0..RUNS).map(|_| one()).collect()
}

fn keys(home: &Path, program: &str) -> Vec<Duration> {
    let mut command = Command::new(program);
    environment(&mut command, home);
    let (mut terminal, _) = Terminal::start(&mut command);
    terminal.settle();
    let mut times = Vec::new();
    // Through every bench, editing a color on the way.
    let script: Vec<&[u8]> = [b"2".as_slice()]
        .into_iter()
        .chain(std::iter::repeat_n(b"\x1b[C".as_slice(), 20))
        .chain([b"h".as_slice()])
        .chain(std::iter::repeat_n(b"\x1b[C".as_slice(), 20))
        .chain([
            b"3".as_slice(),
            b"\x1b[B",
            b"m",
            b"4",
            b"\x1b[B",
            b"\x1b[B",
            b"5",
            b"\x1b[B",
            b"6",
            b"\x1b[B",
            b"1",
            b"\x1b[B",
            b"\t",
            b"\x1b[B",
            b"\x1b[B",
        ])
        .collect();
    // Often enough that the 99th percentile is not simply the slowest press.
    for key in script.iter().cycle().take(script.len() * 7) {
        let begin = Instant::now();
        terminal.master.write_all(key).unwrap();
        let (last, _) = terminal.settle();
        times.push(last.saturating_duration_since(begin));
    }
    times
}

fn main() {
    let program = env!("CARGO_BIN_EXE_wealdmist");
    let folder = tempfile::tempdir().unwrap();
    let home = folder.path().join("home");
    wealdmist_host::make_demo(&home).unwrap();
    println!(
        "{:<44} {:>8} {:>8} {:>8}",
        "milliseconds", "least", "median", "most"
    );
    row(
        "start to first frame, sample home",
        starts(&home, program, &[]),
    );
    let editor = Command::new("nvim").arg("--version").output().is_ok();
    if editor {
        row(
            "start to first frame, nvim --clean",
            starts(&home, "nvim", &["--clean"]),
        );
    } else {
        println!("nvim is not installed: nothing to compare with");
    }
    row("survey of the sample home", surveys(&home));
    let many = crowded(folder.path(), 60);
    row("survey of the crowded home", surveys(&many));
    row("plan for the crowded home", plans(&many));
    let mut times = keys(&home, program);
    times.sort();
    let (p99, presses) = (times[times.len() * 99 / 100], times.len());
    row("key press to changed frame", times);
    println!(
        "  99th percentile of {presses} presses {:.2} ms",
        p99.as_secs_f64() * 1e3
    );
}
