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
#[path = "prompts/typing.rs"]
mod typing;
#[path = "prompts/used.rs"]
mod used;

use cases::{cases, here, now, prepare};
use cells::{as_text, compared, drawn};
use common::{Scratch, have};
use shell::Shell;
use wealdmist_core::character::SymbolLevel;
use wealdmist_core::color::Depth;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{self, Mode, Repository, Row, Situation, ready};
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

/// Run by root, the same is asked once more by somebody who is not.
#[test]
fn others_than_root_see_what_core_draws() {
    use std::os::unix::process::CommandExt;
    if !here().root {
        return;
    }
    // What root built may lie where nobody else may look.
    let folder = Scratch::new();
    let own = folder.dir.path().join("tests");
    std::fs::copy(std::env::current_exe().unwrap(), &own).unwrap();
    let open = std::os::unix::fs::PermissionsExt::from_mode(0o755);
    std::fs::set_permissions(folder.dir.path(), open).unwrap();
    let mut command = std::process::Command::new(&own);
    let asked = command
        .args(["sh_draws_any_design", "--nocapture"])
        .env("WEALDMIST_ROUNDS", "6")
        .env_remove("WEALDMIST_SKIPPED")
        .current_dir("/")
        .uid(65534)
        .gid(65534)
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&asked.stdout);
    let whole = [&asked.stdout[..], &asked.stderr[..]].concat();
    let whole = String::from_utf8_lossy(&whole);
    assert!(
        asked.status.success() && said.contains("3 passed"),
        "{whole}"
    );
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
         [prompt.parts.rust]\nversion=true\nfiles=[\"it's $(x)\"]\n[prompt.parts.time]\ntwelve=true\n[prompt.parts.changes]\nas='lines'\n\
         [prompt.parts.status]\nas='counts'\n[prompt.parts.folder]\nwithin=true\nbeginnings=true\nbefore=\"'\\\\ \\\"$x`\"\n[prompt.parts.input]\nsign-failed='!'\nsign-command='%F'\ntext-command='red'\n",
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
