//! Designs as they are used: taken, given to another home, lost again, measured.

use super::common::{self, Scratch, have};
use super::shell::Shell;
use super::typing::first_row;
use super::{SHELLS, row};
use wealdmist_core::prompt::{Situation, ready};

#[test]
fn a_design_is_listed_shown_taken_and_taken_back() {
    if !have(&["bash"]) {
        return;
    }
    let s = Scratch::demo();
    let before = common::picture(&s.home());
    let listed = s.said(&["prompt", "list"], &[0]);
    for ready in ready::ALL {
        assert!(
            listed.contains(&format!("{}: {}", ready.name, ready.says)),
            "{listed}"
        );
    }
    let shown = s.said(&["prompt", "show", "Mooring", "--width", "60"], &[0]);
    for at in Situation::all() {
        assert!(shown.contains(at.name), "{}", at.name);
    }
    assert!(
        shown.contains("╷ warden - heronry - ~/src/marsh-gauge\n│ ↳ spring-tide"),
        "{shown}"
    );
    assert!(shown.lines().all(|l| l.chars().count() < 60));
    s.said(&["prompt", "show", "Nowhere"], &[2]);
    s.said(&["prompt", "use", "Ebb", "--in", "tmux"], &[2]);
    s.said(&["prompt", "code", "kitty"], &[2]);
    // Looking changes nothing.
    let after = common::picture(&s.home());
    let changed: Vec<_> = after
        .keys()
        .filter(|k| !k.ends_with("journal/lock") && after.get(*k) != before.get(*k))
        .collect();
    assert!(changed.is_empty(), "{changed:?}");
    let said = s.said(&["prompt", "use", "sluice", "--in", "bash"], &[0]);
    assert!(said.contains("Sluice is the prompt of bash;"), "{said}");
    s.said(&["apply", "--no-reload"], &[0]);
    let code = s.said(&["prompt", "code", "bash"], &[0]);
    assert_eq!(s.read(".config/wealdmist/prompt.bash"), code);
    assert!(s.read(".bashrc").contains("wealdmist/prompt.bash"));
    // One thing of one part.
    s.said(&["set", "prompt.parts.folder.before", "in "], &[0]);
    s.said(&["set", "prompt.parts.folder.folders", "1"], &[0]);
    s.said(&["set", "prompt.parts.folder.beginnings", "true"], &[0]);
    let shown = s.said(&["prompt"], &[0]);
    assert!(shown.contains(" in ~/s/marsh-gauge"), "{shown}");
    s.said(&["set", "prompt.parts.folder.beginnings", "false"], &[0]);
    s.said(&["set", "prompt.user", "#30c080"], &[0]);
    assert!(
        s.read(".config/wealdmist/setup.toml")
            .contains("\"prompt.user\" = \"#30c080\"")
    );
    s.said(&["set", "prompt.joint", "fade"], &[0]);
    s.said(&["set", "prompt.joint", "wavy"], &[3]);
    s.said(&["set", "prompt.parts.folder.colour", "x"], &[0]);
    let shown = s.said(&["prompt"], &[0]);
    assert!(shown.contains(" in …/marsh-gauge ▓▒░"), "{shown}");
    // A design with something of one's own in it is not thrown away by itself.
    let setup = s.read(".config/wealdmist/setup.toml");
    s.said(&["prompt", "use", "Ebb"], &[3]);
    assert_eq!(s.read(".config/wealdmist/setup.toml"), setup);
    // What it draws is judged: text on blocks, and where they meet.
    let pairs = s.said(&["contrast", "--json"], &[0, 1]);
    assert!(
        pairs.contains("\"background\"") && pairs.contains("joint of two blocks"),
        "{pairs}"
    );
    s.said(&["prompt", "use", "Ebb", "--replace", "--in", "bash"], &[0]);
    s.said(&["prompt", "use", "Reed", "--in", "bash"], &[0]);
    s.said(&["undo", "--no-reload"], &[0]);
    assert!(!s.read(".bashrc").contains("wealdmist/prompt.bash"));
}

#[test]
fn another_home_takes_the_same_design() {
    if !have(&["bash"]) {
        return;
    }
    let scratch = Scratch::new();
    scratch.write(".bashrc", "# mine\n");
    scratch.said(&["prompt", "use", "Narrows", "--in", "bash"], &[0]);
    scratch.said(&["set", "prompt.parts.input.sign", "tide"], &[0]);
    scratch.said(&["set", "prompt.parts.input.sign-root", "tide"], &[0]);
    let setup = scratch.home().join(".config/wealdmist/setup.toml");
    let setup = setup.to_str().unwrap();
    let own = common::picture(&scratch.home());
    let other = Scratch::new();
    other.write(".bashrc", "# theirs\n");
    other.said(&["--setup", setup, "apply", "--no-reload"], &[0]);
    assert_eq!(common::picture(&scratch.home()), own);
    assert!(other.read(".bashrc").starts_with("# theirs\n"));
    let mut command = other.command("setsid");
    command
        .args(["--ctty", "bash", "-i"])
        .env("HISTFILE", "/dev/null");
    let terminal = Shell::start(&mut command, 60);
    first_row(&terminal, "the other home", |row| row == "~ tide");
    // Taken back there alone.
    other.said(&["undo", "--no-reload"], &[0]);
    assert_eq!(other.read(".bashrc"), "# theirs\n");
}

/// Which file a shell in which one logs in reads is asked of the shell itself.
#[test]
fn shells_in_which_one_logs_in_draw_the_design() {
    if !have(&["bash"]) {
        return;
    }
    for (files, is_apart) in [
        (&[(".profile", "true\n")][..], true),
        (
            &[(".profile", "[ -z \"$BASH_VERSION\" ] || . ~/.bashrc\n")],
            false,
        ),
        (
            &[(".bash_login", "true\n"), (".profile", ". ~/.bashrc\n")],
            true,
        ),
        (
            &[
                (".bash_profile", ". ~/.profile\n"),
                (".profile", ". ~/.bashrc\n"),
            ],
            false,
        ),
    ] {
        let scratch = Scratch::new();
        scratch.write(".bashrc", "PS1='usual '\n");
        for (path, text) in files {
            scratch.write(path, text);
        }
        let starts = |wanted: &str| {
            let mut command = scratch.command("setsid");
            command
                .args(["--ctty", "bash", "-l"])
                .env("PS1", "other ")
                .env("HISTFILE", "/dev/null");
            let terminal = Shell::start(&mut command, 60);
            first_row(&terminal, &format!("{files:?}: {wanted}"), |row| {
                row.starts_with(wanted)
            });
        };
        let told = scratch.said(&["check"], &[0, 1]);
        assert_eq!(
            told.contains("shells in which one logs in"),
            is_apart,
            "{told}"
        );
        if !is_apart {
            starts("usual");
        }
        scratch.said(&["prompt", "use", "Narrows", "--in", "bash"], &[0]);
        scratch.said(&["set", "prompt.parts.input.sign", "tide"], &[0]);
        scratch.said(&["set", "prompt.parts.input.sign-root", "tide"], &[0]);
        scratch.said(&["apply", "--no-reload"], &[0]);
        starts("~ tide");
        let told = scratch.said(&["check"], &[0, 1]);
        assert!(!told.contains("shells in which one logs in"), "{told}");
        scratch.said(&["undo", "--no-reload"], &[0]);
        for (path, text) in files {
            assert_eq!(scratch.read(path), *text);
        }
    }
}

#[test]
fn what_takes_the_prompt_away_is_found() {
    let cases: [(&str, &str, &[&str]); 3] = [
        (
            ".bashrc",
            "PS1='mine '",
            &[
                "PROMPT_COMMAND=true",
                "PROMPT_COMMAND=(true)",
                "PROMPT_COMMAND+=(true)",
                "unset PROMPT_COMMAND",
                "# PROMPT_COMMAND=(x)",
            ],
        ),
        (
            ".zshrc",
            "PROMPT='mine '",
            &[
                "precmd_functions=()",
                "precmd_functions+=(true)",
                "precmd_functions=(true $precmd_functions)",
                "unset precmd_functions",
            ],
        ),
        (
            ".config/fish/config.fish",
            "set -g mine 1",
            &[
                "function fish_prompt; echo 'mine '; end",
                "functions -e fish_prompt",
                "function fish_greeting; end",
            ],
        ),
    ];
    for ((name, _), (file, own, lines)) in SHELLS.iter().zip(cases) {
        if !have(&[name]) {
            continue;
        }
        let mut taken = 0;
        for line in lines.iter().chain([&own]) {
            let scratch = Scratch::new();
            let made = scratch
                .home()
                .join(".local/share/fish/generated_completions");
            std::fs::create_dir_all(made).unwrap();
            scratch.write(file, "# mine\n");
            scratch.write(".config/wealdmist/setup.toml", "[palettes.a]\n");
            scratch.said(&["prompt", "use", "Narrows", "--in", name], &[0]);
            scratch.said(&["set", "prompt.parts.input.sign", "tide"], &[0]);
            scratch.said(&["set", "prompt.parts.input.sign-root", "tide"], &[0]);
            scratch.said(&["apply", "--no-reload"], &[0]);
            let text = scratch.read(file);
            assert!(text.contains("prompt"), "{text}");
            scratch.write(file, &format!("{text}{line}\n"));
            let found = scratch
                .said(&["check"], &[0, 1])
                .contains("sets the prompt again behind ours");
            let mut command = scratch.command("setsid");
            command
                .args(["--ctty", name, "-i"])
                .env("HISTFILE", "/dev/null");
            let mut terminal = Shell::start(&mut command, 60);
            terminal.types("echo ebb\r");
            let ran = terminal.shows(|s| {
                let rows: Vec<String> = (0..12).map(|n| row(s, n)).collect();
                let told = rows.iter().position(|r| r == "ebb");
                match told.and_then(|n| rows.get(n + 1)).filter(|r| !r.is_empty()) {
                    Some(prompt) => Ok(Some(prompt.clone())),
                    None => Err(()),
                }
                .map(drop)
            });
            assert!(ran.is_ok(), "{name}, {line}\n{}", terminal.text());
            let shown = terminal.text();
            let last = shown.lines().rfind(|l| !l.trim().is_empty());
            let ours = last.is_some_and(|l| l.contains("tide"));
            assert_eq!(found, !ours, "{name}, {line}: {shown}");
            taken += usize::from(found);
        }
        assert_eq!(taken, 2, "{name}");
    }
}

#[test]
fn what_a_prompt_costs_is_told_part_by_part() {
    let s = Scratch::new();
    s.write(
        ".config/wealdmist/setup.toml",
        "[palettes.a]\n[prompt]\nlines = 1\n",
    );
    let made = s.command("git").args(["init", "-q", "tide"]).status();
    assert!(made.is_ok_and(|m| m.success()));
    for (name, _) in SHELLS {
        if !have(&[name]) {
            continue;
        }
        let said = s.said(&["prompt", "cost", name, "--folder", "tide"], &[0]);
        let time = |line: &str| {
            line.split(" ms")
                .next()
                .unwrap()
                .trim()
                .parse::<f64>()
                .unwrap()
        };
        let (head, parts) = said
            .split_once("Without a part each is faster by\n")
            .unwrap();
        let times: Vec<f64> = head.lines().skip(1).map(time).collect();
        assert_eq!(times.len(), 3, "{said}");
        // What lies below the noise of a busy machine is told as nothing.
        assert!(times.iter().sum::<f64>() > 0.0, "{said}");
        let told: Vec<&str> = parts
            .lines()
            .filter_map(|l| l.split(" ms  ").nth(1))
            .collect();
        let mut wanted = ["branch", "changes", "folder", "host", "status", "user"].to_vec();
        assert_eq!(told.len(), wanted.len(), "{said}");
        wanted.retain(|w| !told.contains(w));
        assert!(wanted.is_empty(), "{said}");
        let all: Vec<f64> = parts.lines().map(time).collect();
        assert!(
            all.is_sorted_by(|a, b| a >= b) && all[0] <= times[0],
            "{said}"
        );
    }
    s.said(&["prompt", "cost", "bash", "--folder", "nowhere"], &[3]);
    s.said(&["prompt", "cost", "csh"], &[2]);
}

#[test]
fn shells_that_are_measured_and_asked_leave_the_terminal_alone() {
    if !have(&["tmux", "bash"]) {
        return;
    }
    let s = Scratch::demo();
    s.open_interface(160, 47, "");
    let sees = |text: &str| common::wait_for(text, || s.screen("0").contains(text).then_some(()));
    let press = |key: &str| drop(s.tmux(&["send-keys", "-t", "0", key]));
    sees("1 Survey");
    press("6");
    sees("the whole prompt");
    press("K");
    sees("the first ");
    press("Right");
    sees(" costs ");
    // Another design has not been measured.
    press("p");
    common::wait_for("another design", || {
        (!s.screen("0").contains(" costs ")).then_some(())
    });
    // While a part is looked for, those in the list are measured from the first on.
    press("a");
    sees("what it costs in ");
    common::wait_for("costs of three parts", || {
        let shown = s.screen("0");
        let told = shown
            .lines()
            .filter(|l| l.contains("0.") && l.contains(" ms"));
        (told.count() >= 3).then_some(())
    });
    press("Escape");
    sees("the whole prompt");
    // The same where the programs say what the dotfiles come to.
    press("1");
    press("p");
    sees("p again asks");
    press("p");
    common::wait_for("answers", || {
        let shown = s.screen("0");
        ["as read:", "otherwise than read:"]
            .iter()
            .any(|t| shown.contains(t))
            .then_some(())
    });
    press("2");
    sees("lightness");
}
