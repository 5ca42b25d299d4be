//! The generated prompts in the real shells, each on a terminal: cell by cell what core draws.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

#[path = "prompts/cases.rs"]
mod cases;
#[path = "prompts/cells.rs"]
mod cells;
#[path = "prompts/chance.rs"]
mod chance;
mod common;
#[allow(dead_code, clippy::print_stderr)]
#[path = "readings/dice.rs"]
mod dice;
#[path = "prompts/powershell.rs"]
mod powershell;
#[path = "prompts/shell.rs"]
mod shell;
#[path = "prompts/used.rs"]
mod used;

use cases::{cases, here, now, prepare};
use cells::{as_text, compared, drawn};
use common::{Scratch, have};
use shell::Shell;
use wealdmist_core::character::SymbolLevel;
use wealdmist_core::color::Depth;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{self, Repository, Row, Situation, ready};
use wealdmist_core::setup::{Setup, SetupDoc};
use wealdmist_tools::adapters;

/// The shells, with how they are started on a startup file of ours.
const SHELLS: [(&str, &[&str]); 3] = [
    ("bash", &["--norc", "--noprofile", "-i"]),
    ("zsh", &["-f", "-i"]),
    ("fish", &["--private", "-i"]),
];

/// A setup with a design, at a level.
fn setup(design: &str, level: SymbolLevel) -> SetupDoc {
    let head: String = design
        .lines()
        .take_while(|l| !l.starts_with('['))
        .map(|l| format!("{l}\n"))
        .collect();
    let rest = &design[head.len().min(design.len())..];
    let text = format!(
        "[palettes.a]\nforeground='#d7d6cc'\nbackground='#0d191c'\nred='#e7736e'\n[symbols]\nlevel='{}'\n\
         [roles]\n'prompt.folder'={{ color = '#5fafff', bold = true }}\n'prompt.branch'={{ color = '#c08be0', italic = true }}\n\
         [prompt]\n{head}\n{rest}",
        level.key()
    );
    SetupDoc::parse("setup.toml", text.as_bytes()).unwrap_or_else(|e| panic!("{e}\n{text}"))
}

/// Writes a shell's script and gives back the line that loads it.
fn install(scratch: &Scratch, shell: &str, setup: &Setup) -> String {
    let adapter = adapters().into_iter().find(|a| a.id().0 == shell).unwrap();
    let (name, code) = adapter.generated(setup, &Look::new(setup)).unwrap();
    let path = format!(".config/wealdmist/{name}");
    // Without this fish reads every manual page of the machine when it first starts.
    let made = scratch
        .home()
        .join(".local/share/fish/generated_completions");
    std::fs::create_dir_all(made).unwrap();
    scratch.write(&path, &String::from_utf8(code.into_bytes()).unwrap());
    format!(". ~/{path}")
}

/// A command that starts a shell in a depth of color.
fn started(
    scratch: &Scratch,
    shell: &str,
    arguments: &[&str],
    depth: Depth,
    columns: u16,
) -> Shell {
    // The terminal is the shell's own: it controls its jobs.
    let mut command = scratch.command("setsid");
    command
        .args(["--ctty", shell])
        .args(arguments)
        .env("SHLVL", "0")
        .env("HISTFILE", "/dev/null")
        .env("PS1", "start ");
    match depth {
        Depth::TrueColor => command.env("COLORTERM", "truecolor"),
        Depth::Indexed256 => command.env("TERM", "xterm-256color"),
        Depth::Ansi16 => command.env("TERM", "linux"),
        Depth::None => command.env("NO_COLOR", "1").env("COLORTERM", "truecolor"),
    };
    Shell::start(&mut command, columns)
}

/// Runs all cases of a design in a shell; what differs, case by case. On a machine that has no time left a shell has
/// been seen to end between two prompts: where nothing at all is drawn another one is asked, and that is said.
#[allow(clippy::print_stderr)]
fn judged(shell: usize, design: &str, level: SymbolLevel, depth: Depth, width: u16) -> Vec<String> {
    let wrong = judged_once(shell, design, level, depth, width);
    match wrong.iter().any(|w| w.ends_with("there is\n\n")) {
        true => {
            eprintln!("nothing was drawn: {}", wrong.join("\n"));
            judged_once(shell, design, level, depth, width)
        }
        false => wrong,
    }
}

fn judged_once(
    shell: usize,
    design: &str,
    level: SymbolLevel,
    depth: Depth,
    width: u16,
) -> Vec<String> {
    let (name, arguments) = SHELLS[shell];
    let scratch = Scratch::new();
    prepare(&scratch);
    let doc = setup(design, level);
    let (look, design) = (Look::new(doc.setup()), doc.setup().prompt_at(level));
    let load = install(&scratch, name, doc.setup());
    let mut terminal = started(&scratch, name, arguments, depth, width);
    terminal.types(&format!("{load}\n"));
    let mut wrong = Vec::new();
    let user = scratch.command("id").arg("-un").output().unwrap().stdout;
    let user = String::from_utf8(user).unwrap().trim().to_owned();
    for case in cases() {
        // What another shell says in other words.
        let typed = match (name, case.typed) {
            ("fish", typed) if typed.contains("unset") => "set -e VIRTUAL_ENV; sleep 100 & CLEAR",
            ("fish", typed) if typed.contains("kill") => "kill (jobs -p); wait; cd; CLEAR",
            (_, typed) => typed,
        };
        let begun = now(&case.at, &scratch, usize::from(width));
        let clear = "printf '\\e[H\\e[2J'";
        terminal.types(&match typed.contains("CLEAR") {
            true => format!("{}\n", typed.replace("CLEAR", clear)),
            false => format!("{clear}; {typed}\n"),
        });
        // The prompt may be drawn before the minute ends in which it is looked at.
        let mut looks = |screen: &vt100::Screen| {
            let mut outcome = Ok(());
            for mut at in [now(&case.at, &scratch, usize::from(width)), begun.clone()] {
                if name == "fish" {
                    // It goes by who it belongs to, whatever the variable says.
                    at.user.clone_from(&user);
                }
                let rows = prompt::draw(&design, depth != Depth::None, &at);
                let (wanted, cursor) = drawn(&rows, &look, depth, usize::from(width));
                outcome = compared(screen, &wanted, cursor)
                    .map_err(|e| format!("{e}\nwanted\n{}", as_text(&wanted)));
                if outcome.is_ok() {
                    break;
                }
            }
            outcome
        };
        // On a busy machine git may take longer than a prompt waits; a later one says what is.
        let soon = std::time::Duration::from_secs(2);
        let mut outcome = terminal.shows_within(soon, &mut looks);
        for _ in 0..5 {
            if outcome.is_ok() || !terminal.text().contains('?') {
                break;
            }
            terminal.types(&format!("{clear}\n"));
            outcome = terminal.shows_within(soon, &mut looks);
        }
        let outcome = outcome.or_else(|_| terminal.shows(&mut looks));
        if let Err(what) = outcome {
            wrong.push(format!(
                "{name}, `{}`: {what}\nthere is\n{}\n",
                case.typed,
                terminal.text()
            ));
            if wrong.len() > 1 {
                break;
            }
        }
    }
    wrong
}

/// Every ready design, each at another level, in a shell.
fn all_designs(shell: usize, depth: Depth, width: u16) {
    if !have(&[SHELLS[shell].0, "git"]) {
        return;
    }
    let levels = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii];
    let mut wrong = Vec::new();
    for (n, ready) in ready::ALL.iter().enumerate() {
        let level = levels[(n + usize::from(width)) % 3];
        let found = judged(shell, ready.toml, level, depth, width);
        wrong.extend(found.into_iter().map(|w| format!("{}: {w}", ready.name)));
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// The depths of color, each with widths.
const RUNS: [(Depth, u16); 6] = [
    (Depth::TrueColor, 80),
    (Depth::TrueColor, 40),
    (Depth::TrueColor, 21),
    (Depth::Indexed256, 61),
    (Depth::Ansi16, 80),
    (Depth::None, 72),
];

#[test]
fn bash_draws_every_ready_design_as_core_does() {
    for (depth, width) in RUNS {
        all_designs(0, depth, width);
    }
}

#[test]
fn zsh_draws_every_ready_design_as_core_does() {
    for (depth, width) in RUNS {
        all_designs(1, depth, width);
    }
}

#[test]
fn fish_draws_every_ready_design_as_core_does() {
    for (depth, width) in RUNS {
        all_designs(2, depth, width);
    }
}

/// A run of designs made by chance in a shell.
fn by_chance(shell: usize) {
    let name = SHELLS[shell].0;
    if !have(&[name, "git"]) {
        return;
    }
    let (seed, rounds) = dice::run(5);
    let mut dice = dice::Dice::new(seed.wrapping_add(shell as u64));
    let mut wrong = Vec::new();
    for n in 0..rounds {
        let design = chance::design(&mut dice);
        let level = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii][dice.below(3)];
        let (depth, _) = RUNS[dice.below(RUNS.len())];
        let width = 16 + dice.below(90) as u16;
        let found = judged(shell, &design, level, depth, width);
        let what = format!("{n}: {level:?}, {depth:?}, {width} columns");
        wrong.extend(found.into_iter().map(|w| format!("{what}: {w}\n{design}")));
    }
    let first: Vec<String> = wrong.iter().take(8).cloned().collect();
    assert!(
        wrong.is_empty(),
        "{} wrong of {rounds} designs, seed {seed}:\n{}",
        wrong.len(),
        first.join("\n")
    );
}

#[test]
fn bash_draws_any_design_as_core_does() {
    by_chance(0);
}

#[test]
fn zsh_draws_any_design_as_core_does() {
    by_chance(1);
}

#[test]
fn fish_draws_any_design_as_core_does() {
    by_chance(2);
}

/// Asks the shells themselves whether a script is one.
fn is_well_formed(scratch: &Scratch, setup: &Setup, what: &str) {
    for (shell, arguments) in [
        ("bash", &["-n"][..]),
        ("zsh", &["-n"]),
        ("fish", &["--no-execute"]),
        ("shellcheck", &["-s", "bash"]),
    ] {
        let of = if shell == "shellcheck" { "bash" } else { shell };
        install(scratch, of, setup);
        let path = format!(".config/wealdmist/prompt.{of}");
        let done = scratch
            .command(shell)
            .args(arguments)
            .arg(scratch.home().join(&path))
            .output()
            .unwrap();
        let said = [done.stdout, done.stderr].concat();
        assert!(
            done.status.success() && said.is_empty(),
            "{shell}, {what}: {}\n{}",
            String::from_utf8_lossy(&said),
            scratch.read(&path)
        );
    }
}

#[test]
fn every_script_is_one_that_its_shell_takes() {
    if !have(&["bash", "zsh", "fish", "shellcheck"]) {
        return;
    }
    let scratch = Scratch::new();
    for (n, ready) in ready::ALL.iter().enumerate() {
        let level = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii][n % 3];
        is_well_formed(&scratch, setup(ready.toml, level).setup(), ready.name);
    }
    // One with everything there is, and texts that mean something to a shell.
    let names: Vec<String> = prompt::KNOWN
        .iter()
        .filter(|k| k.name != "input")
        .map(|k| format!("\"{}\"", k.name))
        .collect();
    let all = format!(
        "tie=true\nblank=true\npast='sign'\ngap=\"'$(x)`\\\\%\"\nstretch='%'\n[[prompt.line]]\nleft=[{}]\n[[prompt.line]]\nleft=['input']\n\
         [prompt.parts.rust]\nversion=true\nfiles=[\"it's $(x)\"]\n[prompt.parts.time]\ntwelve=true\n[prompt.parts.changes]\nas='counts'\n\
         [prompt.parts.status]\nas='counts'\n[prompt.parts.folder]\nwithin=true\nbeginnings=true\nbefore=\"'\\\\ \\\"$x`\"\n[prompt.parts.input]\nsign-failed='!'\n",
        names.join(",")
    );
    is_well_formed(
        &scratch,
        setup(&all, SymbolLevel::Icons).setup(),
        "everything",
    );
}

/// Names that mean something to a shell, a prompt or a terminal.
const HOSTILE: [&str; 9] = [
    "$(touch ${CANARY})",
    "`touch $CANARY`",
    "%F{red}%n%(?.a.b)%{x%}",
    "\\u\\[x\\]\\$(id)",
    "a'b\"c;touch $CANARY;#",
    "a\x1b]0;title\x07\x1b[31mred",
    "line\nbreak\ttab",
    "{a,b}*?[x]~!!^",
    "\u{202e}back\u{2066}\u{9b}31m",
];

#[test]
fn names_from_outside_are_drawn_and_never_run() {
    for (name, arguments) in SHELLS {
        if !have(&[name, "git"]) {
            continue;
        }
        let scratch = Scratch::new();
        let canary = scratch.tmp().join("canary");
        let design = "[[prompt.line]]\nleft=['user','folder','branch','venv','input']\n[prompt.parts.user]\nwhen='always'\nafter=\"$(touch ~/after)`x`%F{red}\"\n[prompt.parts.folder]\nfolders=1\n[prompt.parts.branch]\nlongest=60\n[prompt.parts.venv]\nlongest=0\n";
        let doc = setup(design, SymbolLevel::Plain);
        let (look, design) = (
            Look::new(doc.setup()),
            doc.setup().prompt_at(SymbolLevel::Plain),
        );
        let load = install(&scratch, name, doc.setup());
        let mut command = scratch.command("setsid");
        command
            .args(["--ctty", name])
            .args(arguments)
            .env("COLORTERM", "truecolor")
            .env("HISTFILE", "/dev/null");
        command
            .env("CANARY", &canary)
            .env("PS1", "start ")
            .env("VIRTUAL_ENV", "");
        let long = "x".repeat(10_000);
        let mut names: Vec<String> = HOSTILE.map(str::to_owned).into();
        names.push("漢字\u{301}".into());
        for (n, text) in names.iter().enumerate() {
            let folder = scratch.home().join(text);
            std::fs::create_dir_all(folder.join(".git")).unwrap();
            let branch = text.replace(['\n', '\t', '\x1b', '\x07'], "_");
            std::fs::write(
                folder.join(".git/HEAD"),
                format!("ref: refs/heads/{branch}\n"),
            )
            .unwrap();
            command
                .env(format!("D{n}"), &folder)
                .env(format!("V{n}"), format!("/x/{text}"));
        }
        command.env("LONG", &long);
        let mut terminal = Shell::start(&mut command, 200);
        // The title of fish's own passes a folder's name on as it is.
        let title = if name == "fish" {
            "function fish_title; end; "
        } else {
            ""
        };
        terminal.types(&format!("{title}{load}\n"));
        let who = match name {
            "fish" => String::from_utf8(scratch.command("id").arg("-un").output().unwrap().stdout)
                .unwrap(),
            _ => "warden".to_owned(),
        };
        for (n, text) in names.iter().enumerate() {
            let at = Situation {
                user: who.trim().to_owned(),
                folder: format!("~/{text}"),
                repository: Some(Repository {
                    branch: text.replace(['\n', '\t', '\x1b', '\x07'], "_"),
                    ..Repository::default()
                }),
                variables: vec![("VIRTUAL_ENV".into(), format!("/x/{text}"))],
                width: 200,
                ..here()
            };
            let export = if name == "fish" {
                "set -gx VIRTUAL_ENV"
            } else {
                "export VIRTUAL_ENV="
            };
            let gap = if name == "fish" { " " } else { "" };
            terminal.types(&format!(
                "{export}{gap}\"$V{n}\"; cd \"$D{n}\"; printf '\\e[H\\e[2J'\n"
            ));
            let rows = prompt::draw(&design, true, &at);
            let (wanted, cursor) = drawn(&rows, &look, Depth::TrueColor, 200);
            let outcome = terminal.shows(|screen| compared(screen, &wanted, cursor));
            if let Err(what) = outcome {
                panic!(
                    "{name}, {text:?}: {what}\nwanted\n{}\nthere is\n{}",
                    as_text(&wanted),
                    terminal.text()
                );
            }
        }
        let export = if name == "fish" {
            "set -gx VIRTUAL_ENV "
        } else {
            "export VIRTUAL_ENV="
        };
        terminal.types(&format!("{export}\"$LONG\"; cd; printf '\\e[H\\e[2J'\n"));
        let at = Situation {
            user: who.trim().to_owned(),
            width: 200,
            variables: vec![("VIRTUAL_ENV".into(), long)],
            ..here()
        };
        let (wanted, cursor) = drawn(
            &prompt::draw(&design, true, &at),
            &look,
            Depth::TrueColor,
            200,
        );
        let outcome = terminal.shows(|screen| compared(screen, &wanted, cursor));
        assert!(outcome.is_ok(), "{name}: {outcome:?}\n{}", terminal.text());
        assert!(
            !canary.exists() && !scratch.home().join("after").exists(),
            "{name}"
        );
    }
}

/// The text of a row of a screen.
fn row(screen: &vt100::Screen, n: u16) -> String {
    let (_, columns) = screen.size();
    let text = screen.contents_between(n, 0, n, columns.get());
    text.trim_end().to_owned()
}

#[test]
fn past_prompts_shrink_and_leave_nothing() {
    for (name, arguments) in &SHELLS {
        if !have(&[name, "git"]) {
            continue;
        }
        for design in ["past='sign'\n", "past='line'\ntie=true\n"] {
            let scratch = Scratch::new();
            let text = format!(
                "{design}blank=true\nstretch='-'\n[[prompt.line]]\nleft=['folder']\nright=['jobs','host']\n[[prompt.line]]\nleft=['shell','input']\nright=['text']\n[prompt.parts.host]\nwhen='always'\n[prompt.parts.shell]\nkind='text'\nsays='tide'\n[prompt.parts.text]\nsays='right'\n"
            );
            let doc = setup(&text, SymbolLevel::Plain);
            let design = doc.setup().prompt_at(SymbolLevel::Plain);
            let load = install(&scratch, name, doc.setup());
            let mut terminal = started(&scratch, name, arguments, Depth::TrueColor, 60);
            terminal.types(&format!("{load}\n"));
            terminal.types("printf '\\e[H\\e[2J'\n");
            let at = Situation {
                width: 60,
                ..here()
            };
            let text = |rows: &[Row]| -> Vec<String> {
                let left = |r: &Row| r.left.iter().map(|p| p.text.as_str()).collect::<String>();
                rows.iter().map(left).collect()
            };
            let whole = text(&prompt::draw(&design, true, &at));
            let short = text(&prompt::past(&design, true, &at));
            assert_eq!((whole.len(), short.len()), (3, 1));
            let begins = |screen: &vt100::Screen, from: u16, rows: &[String]| {
                rows.iter()
                    .zip(from..)
                    .all(|(r, n)| row(screen, n).starts_with(r.trim_end()))
            };
            let seen = |terminal: &Shell, wanted: &dyn Fn(&vt100::Screen) -> bool, what: &str| {
                let outcome = terminal.shows(|s| if wanted(s) { Ok(()) } else { Err(()) });
                assert!(outcome.is_ok(), "{name}: {what}\n{}", terminal.text());
            };
            let all = |s: &vt100::Screen| begins(s, 0, &whole) && row(s, 2).ends_with("right");
            seen(&terminal, &all, "the whole prompt");
            terminal.types("echo a b");
            seen(
                &terminal,
                &|s| row(s, 2).contains("echo a b"),
                "what is typed",
            );
            terminal.types("\r");
            let line = format!("{}echo a b", short[0]);
            let after =
                |s: &vt100::Screen| row(s, 0) == line && row(s, 1) == "a b" && begins(s, 2, &whole);
            seen(&terminal, &after, "the short one");
            // A command of several lines.
            terminal.types("printf '\\e[H\\e[2J'\n");
            // What is typed before the prompt stands is echoed by the terminal itself.
            seen(&terminal, &all, "the whole prompt again");
            terminal.types("echo \"one\r");
            let goes_on = |s: &vt100::Screen| match *name {
                "zsh" => row(s, 1) == "…",
                "bash" => row(s, 3) == "…",
                _ => s.cursor_position().0 == 3,
            };
            seen(&terminal, &goes_on, "the first line");
            terminal.types("two\"");
            seen(
                &terminal,
                &|s| s.contents().contains("two\""),
                "the second line",
            );
            terminal.types("\r");
            let several = |s: &vt100::Screen| {
                row(s, 0) == format!("{}echo \"one", short[0])
                    && row(s, 2) == "one"
                    && row(s, 3) == "two"
                    && begins(s, 4, &whole)
            };
            seen(&terminal, &several, "several lines");
        }
    }
}

/// A shell with a design, and how it is asked to show it at the top of its screen.
fn with_design(scratch: &Scratch, shell: usize, design: &str) -> Shell {
    let (name, arguments) = SHELLS[shell];
    let doc = setup(design, SymbolLevel::Plain);
    let load = install(scratch, name, doc.setup());
    let mut terminal = started(scratch, name, arguments, Depth::TrueColor, 60);
    terminal.types(&format!("{load}\n"));
    terminal
}

/// Waits for a row that is as wanted.
fn first_row(terminal: &Shell, what: &str, wanted: impl Fn(&str) -> bool) {
    let outcome = terminal.shows(|s| if wanted(&row(s, 0)) { Ok(()) } else { Err(()) });
    assert!(outcome.is_ok(), "{what}\n{}", terminal.text());
}

const CLEAR: &str = "printf '\\e[H\\e[2J'";

#[test]
fn a_slow_command_is_told_once() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name]) {
            continue;
        }
        let scratch = Scratch::new();
        let design =
            "[[prompt.line]]\nleft=['duration','input']\n[prompt.parts.duration]\nabove=1\n";
        let mut terminal = with_design(&scratch, n, design);
        terminal.types(&format!("sleep 1.2; {CLEAR}\n"));
        first_row(&terminal, name, |row| {
            let told = row.strip_suffix(" #").or(row.strip_suffix(" $"));
            let seconds = told
                .and_then(|t| t.strip_suffix('s'))
                .and_then(|t| t.parse().ok());
            seconds.is_some_and(|s: f64| (1.2..9.0).contains(&s))
        });
        terminal.types(&format!("{CLEAR}\n"));
        first_row(&terminal, name, |row| row == "#" || row == "$");
    }
}

#[test]
fn a_git_that_hangs_is_left() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name, "git"]) {
            continue;
        }
        for style in ["one", "counts"] {
            let scratch = Scratch::new();
            let make = "git init -q -b main stuck && rm -f stuck/.git/info/exclude && mkfifo stuck/.git/info/exclude";
            let made = scratch.command("sh").args(["-c", make]).status().unwrap();
            assert!(made.success());
            let design = format!(
                "[[prompt.line]]\nleft=['branch','changes','input']\n[prompt.parts.changes]\nas='{style}'\n"
            );
            let mut terminal = with_design(&scratch, n, &design);
            terminal.types(&format!("cd ~/stuck; {CLEAR}\n"));
            first_row(&terminal, name, |row| row.starts_with("↳ main ?"));
            let stuck = scratch.home().join("stuck");
            common::wait_for("git to be gone", || {
                scratch.no_git_asks(&stuck).then_some(())
            });
        }
    }
}

/// Puts a git before the real one that takes its time.
fn slow_git(scratch: &Scratch) {
    use std::os::unix::fs::PermissionsExt;
    let real = scratch
        .command("sh")
        .args(["-c", "command -v git"])
        .output();
    let real = String::from_utf8(real.unwrap().stdout).unwrap();
    let slow = scratch.home().join("bin/git");
    scratch.write(
        "bin/git",
        &format!("#!/bin/sh\nsleep 0.9\nexec {} \"$@\"\n", real.trim()),
    );
    std::fs::set_permissions(&slow, std::fs::Permissions::from_mode(0o755)).unwrap();
}

#[test]
fn a_git_that_takes_long_is_asked_beside_the_prompt() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name, "git"]) {
            continue;
        }
        for (style, told) in [("one", "±"), ("counts", "◦1")] {
            let scratch = Scratch::new();
            let make = "git init -q -b main slow && touch slow/new";
            let made = scratch.command("sh").args(["-c", make]).status().unwrap();
            assert!(made.success());
            slow_git(&scratch);
            let design = format!(
                "[[prompt.line]]\nleft=['branch','changes','input']\n[prompt.parts.changes]\nas='{style}'\n"
            );
            let mut terminal = with_design(&scratch, n, &design);
            let path = match *name {
                "fish" => "set -gx PATH ~/bin $PATH",
                _ => "PATH=~/bin:$PATH",
            };
            terminal.types(&format!("{path}; cd ~/slow\n"));
            terminal.types(&format!("{CLEAR}\n"));
            let begun = std::time::Instant::now();
            first_row(&terminal, name, |row| row.starts_with("↳ main ?"));
            let waited = begun.elapsed().as_millis();
            assert!(waited < 1500, "{name} waited {waited} ms");
            let now = format!("↳ main {told} ");
            if *name == "bash" {
                // It has no way to be told: the next prompt says it, with the sign that this was before.
                std::thread::sleep(std::time::Duration::from_secs(2));
                terminal.types(&format!("{CLEAR}\n"));
                let before = format!("↳ main {told}? ");
                first_row(&terminal, name, |row| row.starts_with(&before));
            } else {
                first_row(&terminal, name, |row| row.starts_with(&now));
                // What one types meanwhile stays.
                terminal.types("echo tide");
                first_row(&terminal, name, |row| row.ends_with("echo tide"));
                terminal.types("\x15");
            }
            // Once it is quick again the prompt says what is now.
            std::fs::remove_file(scratch.home().join("bin/git")).unwrap();
            common::wait_for("what is now", || {
                terminal.types(&format!("{CLEAR}\n"));
                std::thread::sleep(std::time::Duration::from_millis(300));
                row_is(&terminal, &now).then_some(())
            });
        }
    }
}

/// Whether the first row begins so.
fn row_is(terminal: &Shell, wanted: &str) -> bool {
    terminal.text().starts_with(wanted)
}

#[test]
fn what_was_last_run_beside_the_shell_stays_known() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name, "git"]) {
            continue;
        }
        let scratch = Scratch::new();
        let made = scratch
            .command("git")
            .args(["init", "-q", "-b", "main", "some"])
            .status();
        assert!(made.unwrap().success());
        let mut terminal = with_design(
            &scratch,
            n,
            "past='sign'\n[[prompt.line]]\nleft=['branch','changes','duration','jobs','input']\n",
        );
        let last = if *name == "fish" { "$last_pid" } else { "$!" };
        terminal.types("cd ~/some\n");
        terminal.types("sleep 97 &\n");
        terminal.types(&format!("{CLEAR}; true\n"));
        first_row(&terminal, name, |row| row.contains("main"));
        let note = if *name == "fish" { "set l " } else { "l=" };
        terminal.types(&format!("{note}{last}\n"));
        terminal.types(&format!("{CLEAR}; cat /proc/$l/cmdline | tr '\\0' ' '\n"));
        first_row(&terminal, name, |row| row.starts_with("sleep 97"));
        terminal.types("kill $l\n");
    }
}

#[test]
fn a_version_is_asked_once_and_kept() {
    use std::os::unix::fs::PermissionsExt;
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name]) {
            continue;
        }
        let scratch = Scratch::new();
        let program = scratch.home().join("gauge");
        let says = |version: &str| {
            let text = format!(
                "#!/bin/sh\necho x >> {}\necho gauge {version} of 2031\n",
                scratch.home().join("asked").display()
            );
            std::fs::write(&program, text).unwrap();
            std::fs::set_permissions(&program, std::fs::Permissions::from_mode(0o755)).unwrap();
        };
        says("3.2.1");
        scratch.write("tide.toml", "");
        let design = "[[prompt.line]]\nleft=['tide','input']\n[prompt.parts.tide]\nkind='rust'\nsign=''\nversion=true\nfiles=['tide.toml']\nasks=['gauge','--version']\n";
        let mut terminal = with_design(&scratch, n, design);
        let more = match *name {
            "fish" => "set -gx PATH ~ $PATH",
            _ => "PATH=~:$PATH",
        };
        terminal.types(&format!("{more}\n"));
        let shown = |terminal: &mut Shell, version: &str| {
            common::wait_for("the version", || {
                terminal.types(&format!("{CLEAR}\n"));
                std::thread::sleep(std::time::Duration::from_millis(50));
                terminal
                    .text()
                    .starts_with(&format!("tide {version} "))
                    .then_some(())
            });
        };
        shown(&mut terminal, "3.2.1");
        terminal.types(&format!("{CLEAR}\n"));
        first_row(&terminal, name, |row| row.starts_with("tide 3.2.1 "));
        assert_eq!(scratch.read("asked"), "x\n", "{name} asked more than once");
        // Another program of that name is asked anew.
        common::wait_for("the clock to go on", || {
            says("4.0.0");
            // Some shells know whole seconds alone.
            let second = |p: &str| {
                let changed = std::fs::metadata(scratch.home().join(p)).and_then(|m| m.modified());
                let since = changed.unwrap().duration_since(std::time::UNIX_EPOCH);
                since.unwrap().as_secs()
            };
            (second("gauge") > second(".cache/wealdmist/versions/gauge")).then_some(())
        });
        shown(&mut terminal, "4.0.0");
    }
}

#[test]
fn further_lines_begin_as_core_says() {
    // fish has no prompt for them: it indents.
    for (n, (name, _)) in SHELLS.iter().enumerate().take(2) {
        if !have(&[name]) {
            continue;
        }
        for more in ["", "more=\"%'$(x)\\\\\"\n"] {
            let scratch = Scratch::new();
            let design = format!("{more}[[prompt.line]]\nleft=['input']\n");
            let doc = setup(&design, SymbolLevel::Plain);
            let mut terminal = with_design(&scratch, n, &design);
            terminal.types(&format!("{CLEAR}\n"));
            first_row(&terminal, name, |row| row == "#" || row == "$");
            terminal.types("echo \"tide\r");
            let row = prompt::going_on(&doc.setup().prompt_at(SymbolLevel::Plain));
            let look = Look::new(doc.setup());
            let (wanted, _) = drawn(&[row], &look, Depth::TrueColor, 60);
            let outcome = terminal.shows(|screen| cells::row_begins(screen, 1, &wanted[0]));
            assert!(outcome.is_ok(), "{name}: {outcome:?}\n{}", terminal.text());
            terminal.types("ebb\"\r");
            let done = terminal.shows(|s| match s.contents().contains("\ntide\nebb") {
                true => Ok(()),
                false => Err(s.contents()),
            });
            assert!(done.is_ok(), "{name}: {done:?}");
        }
    }
}

#[test]
fn the_mode_of_the_line_editor_is_shown() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name]) {
            continue;
        }
        let scratch = Scratch::new();
        let mut terminal = with_design(&scratch, n, "[[prompt.line]]\nleft=['mode','input']\n");
        let keys = match *name {
            "fish" => "fish_vi_key_bindings",
            "zsh" => "bindkey -v",
            _ => "set -o vi",
        };
        terminal.types(&format!("{CLEAR}\n"));
        first_row(&terminal, name, |row| row == "#" || row == "$");
        terminal.types(&format!("{keys}; {CLEAR}\n"));
        first_row(&terminal, name, |row| row.starts_with("ins "));
        terminal.types("\x1b");
        first_row(&terminal, name, |row| row.starts_with("cmd "));
        terminal.types("i");
        first_row(&terminal, name, |row| row.starts_with("ins "));
    }
}

#[test]
fn past_prompts_shrink_whatever_was_typed() {
    let (columns, name) = (60, SHELLS[0].0);
    if !have(&[name]) {
        return;
    }
    let scratch = Scratch::new();
    let design = "past='sign'\n[[prompt.line]]\nleft=['folder']\nright=['host']\n[[prompt.line]]\nleft=['shell','status','input']\nright=['text']\n[prompt.parts.host]\nwhen='always'\n[prompt.parts.shell]\nkind='text'\nsays='tide'\n[prompt.parts.text]\nsays='right'\n";
    let mut terminal = with_design(&scratch, 0, design);
    let sign = match scratch
        .command("id")
        .arg("-u")
        .output()
        .unwrap()
        .stdout
        .as_slice()
    {
        b"0\n" => "#",
        _ => "$",
    };
    let wraps = |text: &str| -> Vec<String> {
        let all: Vec<char> = text.chars().collect();
        let rows = all.chunks(columns).map(|row| row.iter().collect());
        rows.map(|row: String| row.trim_end().to_owned()).collect()
    };
    // What is typed, what the screen shows of it and of what it says, and the status that the next prompt tells.
    let xs = |n: usize| "x".repeat(n);
    let mut cases: Vec<(String, Vec<String>, &str)> = Vec::new();
    // The edge of the window is met, by the command and by the line as it was typed behind the whole prompt.
    for n in (36..58).chain([100, 108, 109, 110, 111, 112, 113, 114, 115]) {
        let rows = [wraps(&format!("{sign} : {}", xs(n))), vec![]].concat();
        cases.push((format!(": {}", xs(n)), rows, ""));
    }
    cases.push(("false".into(), vec![format!("{sign} false")], "✗ 1 "));
    cases.push((
        "echo 漢字".into(),
        vec![format!("{sign} echo 漢字"), "漢字".into()],
        "",
    ));
    // A command pasted in several lines, one that goes on by itself, and a search in what was.
    let pasted = "\x1b[200~for n in a b; do\necho $n\ndone\x1b[201~";
    let shown = ["for n in a b; do", "echo $n", "done", "a", "b"];
    let mut rows: Vec<String> = shown.map(str::to_owned).into();
    rows[0] = format!("{sign} {}", rows[0]);
    cases.push((pasted.into(), rows, ""));
    let document = vec![
        format!("{sign} cat <<E"),
        "… ebb".into(),
        "… E".into(),
        "ebb".into(),
    ];
    cases.push(("cat <<E\rebb\rE".into(), document, ""));
    cases.push((
        "\x12漢".into(),
        vec![format!("{sign} echo 漢字"), "漢字".into()],
        "",
    ));
    for (typed, rows, told) in cases {
        terminal.types(&format!("{CLEAR}\r"));
        let at_top = |s: &vt100::Screen| row(s, 0).starts_with('~') && row(s, 1).ends_with("right");
        let outcome = terminal.shows(|s| if at_top(s) { Ok(()) } else { Err(()) });
        assert!(outcome.is_ok(), "before {typed:?}\n{}", terminal.text());
        terminal.types(&format!("{typed}\r"));
        let next = format!("tide {told}{sign}");
        let outcome = terminal.shows(|s| {
            let n = rows.len() as u16;
            let drawn: Vec<String> = (0..n).map(|i| row(s, i)).collect();
            let whole = row(s, n).starts_with('~') && row(s, n + 1).starts_with(&next);
            if drawn == rows && whole {
                Ok(())
            } else {
                Err(())
            }
        });
        assert!(
            outcome.is_ok(),
            "{typed:?}: not\n{}\nbut\n{}",
            rows.join("\n"),
            terminal.text()
        );
    }
    // Noting what is typed leaves the status as it was.
    terminal.types(&format!("{CLEAR}; false\r"));
    let told = |text: &'static str| {
        move |s: &vt100::Screen| {
            if s.contents().contains(text) {
                Ok(())
            } else {
                Err(s.contents())
            }
        }
    };
    assert_eq!(terminal.shows(told("tide ✗ 1")), Ok(()));
    terminal.types("echo is $?\r");
    assert_eq!(terminal.shows(told("\nis 1\n")), Ok(()));
    // What the shell itself says more of, and what is given up, stays as it is.
    for (typed, ends, says) in [
        ("echo !$", "\r", "\necho 漢字\n漢字\n~"),
        ("echo x", "\x03", "tide ✗ 130"),
    ] {
        terminal.types(&format!("{CLEAR}; : 漢字\r"));
        let at_top = |s: &vt100::Screen| {
            let is_empty = row(s, 2).is_empty() && row(s, 1).ends_with("right");
            if is_empty { Ok(()) } else { Err(()) }
        };
        assert_eq!(terminal.shows(at_top), Ok(()), "{}", terminal.text());
        terminal.types(typed);
        assert_eq!(terminal.shows(told(typed)), Ok(()));
        terminal.types(ends);
        assert_eq!(terminal.shows(told(says)), Ok(()));
        assert!(terminal.text().starts_with('~'), "{}", terminal.text());
    }
}

/// What PowerShell's script draws in every situation, at some widths, run by a stand-in for that shell.
fn judged_by_stand_in(design: &str, level: SymbolLevel, depth: Depth, width: usize) -> Vec<String> {
    let doc = setup(design, level);
    let (look, design) = (Look::new(doc.setup()), doc.setup().prompt_at(level));
    let adapter = adapters().into_iter().find(|a| a.id().0 == "powershell");
    let (_, code) = adapter.unwrap().generated(doc.setup(), &look).unwrap();
    let environment: &[(&str, &str)] = match depth {
        Depth::TrueColor => &[("COLORTERM", "truecolor")],
        Depth::Indexed256 => &[("TERM", "xterm-256color")],
        Depth::Ansi16 => &[("TERM", "linux")],
        Depth::None => &[("NO_COLOR", "1")],
    };
    let mut wrong = Vec::new();
    for mut at in Situation::all() {
        at.width = width.min(at.width);
        // What it does not know: all of a pipeline, and the mode of its line editor.
        at.statuses = vec![at.status()];
        at.mode = prompt::Mode::None;
        let (wanted, cursor) = drawn(
            &prompt::draw(&design, depth != Depth::None, &at),
            &look,
            depth,
            at.width,
        );
        let shown = powershell::drawn(&code.lossy(), &at, environment);
        let columns = std::num::NonZero::new(at.width as u16).unwrap();
        let mut screen = vt100::Parser::new(std::num::NonZero::new(12).unwrap(), columns, 0);
        screen.process(shown.replace('\n', "\r\n").as_bytes());
        if let Err(what) = compared(screen.screen(), &wanted, cursor) {
            wrong.push(format!(
                "{}: {what}\nwanted\n{}\nthere is\n{}",
                at.name,
                as_text(&wanted),
                screen.screen().contents()
            ));
        }
    }
    wrong
}

#[test]
fn powershell_draws_every_ready_design_as_core_does() {
    for (n, ready) in ready::ALL.iter().enumerate() {
        for (i, (depth, _)) in RUNS.iter().enumerate() {
            let level = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii][(n + i) % 3];
            for width in [80, 30] {
                let wrong = judged_by_stand_in(ready.toml, level, *depth, width);
                assert!(
                    wrong.is_empty(),
                    "{}, {level:?}, {depth:?}, {width}: {} wrong\n{}",
                    ready.name,
                    wrong.len(),
                    wrong[0]
                );
            }
        }
    }
}

#[test]
fn powershell_draws_any_design_as_core_does() {
    let (seed, rounds) = dice::run(10);
    let mut dice = dice::Dice::new(seed.wrapping_add(9));
    for n in 0..rounds {
        let design = chance::design(&mut dice);
        let level = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii][dice.below(3)];
        let (depth, _) = RUNS[dice.below(RUNS.len())];
        let width = 16 + dice.below(90);
        let wrong = judged_by_stand_in(&design, level, depth, width);
        assert!(
            wrong.is_empty(),
            "{n}, seed {seed}: {level:?}, {depth:?}, {width}: {} wrong\n{}\n{design}",
            wrong.len(),
            wrong[0]
        );
    }
}
