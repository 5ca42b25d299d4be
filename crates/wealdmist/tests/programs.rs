//! The real programs: they start on a scratch home, the look is applied, and they must show it.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::io::Read;
use std::process::Stdio;

use wealdmist_core::color::{Rgb, Rounding};
use wealdmist_tools::Facts;
use wealdmist_tools::access::MemoryAccess;

use common::editor::{ask_nvim, nvim, sockets};
use common::pty;
use common::{Running, Scratch, have, pixel, screen, skip, wait_for};

fn tmux_server(s: &Scratch) {
    s.tmux(&["new-session", "-d", "-x", "100", "-y", "30", "cat"]);
    wait_for("the tmux server", || {
        (!s.tmux(&["list-sessions"]).is_empty()).then_some(())
    });
}

#[test]
fn tmux_shows_what_was_applied_and_forgets_what_was_undone() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    tmux_server(&s);
    let before = s.tmux(&["show-options", "-g"]) + &s.tmux(&["show-options", "-s"]);
    assert_eq!(
        s.tmux(&["show-options", "-gwv", "pane-active-border-style"]),
        "fg=#528b8e"
    );
    s.said(&["init"], &[0]);
    s.said(&["set", "cyan", "#112233"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(
        said.contains("tmux server") && said.contains("shows what is written"),
        "{said}"
    );
    assert_eq!(
        s.tmux(&["show-options", "-gwv", "pane-active-border-style"]),
        "fg=#112233"
    );
    let format = s.tmux(&["show-options", "-gwv", "window-status-current-format"]);
    assert!(format.contains("bg=#112233"), "{format}");
    assert!(
        s.tmux(&["show-options", "-s", "terminal-features"])
            .contains("xterm-256color:RGB")
    );

    // Telling it twice gives what telling it once gives.
    let once = s.tmux(&["show-options", "-g"]) + &s.tmux(&["show-options", "-s"]);
    s.said(&["reload", "tmux"], &[0]);
    s.said(&["reload", "tmux"], &[0]);
    assert_eq!(
        s.tmux(&["show-options", "-g"]) + &s.tmux(&["show-options", "-s"]),
        once
    );

    // A value of the session's own hides the written one, and that is said.
    s.tmux(&["set-option", "status-style", "bg=red"]);
    let said = s.said(&["verify", "tmux"], &[1]);
    assert!(said.contains("status-style of its own"), "{said}");
    s.tmux(&["set-option", "-u", "status-style"]);

    // Undo takes the added line away, and the running server loses what it set.
    let said = s.said(&["undo"], &[0]);
    assert!(said.contains("tmux server"), "{said}");
    let after = s.tmux(&["show-options", "-g"]) + &s.tmux(&["show-options", "-s"]);
    assert_eq!(after, before);
}

#[test]
fn appended_options_do_not_grow_and_broken_files_are_told() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::new();
    s.write(".tmux.conf", "set -g status-right 'a'\nset -ga status-right 'b'\nset -as terminal-features ',xterm*:RGB'\nset -g status-style fg=#111111\n");
    tmux_server(&s);
    let before = s.tmux(&["show-options", "-g"]) + &s.tmux(&["show-options", "-s"]);
    assert!(before.contains("status-right ab"), "{before}");
    for _ in 0..3 {
        s.said(&["reload", "tmux"], &[0]);
    }
    assert_eq!(
        s.tmux(&["show-options", "-g"]) + &s.tmux(&["show-options", "-s"]),
        before
    );
    s.write(
        ".tmux.conf",
        "set -g status-style fg=#222222\nnosuchcommand\n",
    );
    let said = s.said(&["reload", "tmux"], &[1]);
    assert!(said.contains("nosuchcommand"), "{said}");
    // A server of another home is not touched.
    let other = Scratch::demo();
    let output = other
        .command(env!("CARGO_BIN_EXE_wealdmist"))
        .env("TMUX_TMPDIR", s.tmp())
        .args(["reload", "tmux"])
        .output()
        .unwrap();
    assert!(
        String::from_utf8_lossy(&output.stdout).contains("not running"),
        "{output:?}"
    );
}

/// A stopped editor and a stopped multiplexer are named, and however often they are asked, it ends.
#[test]
fn stopped_programs_are_named_and_never_waited_for_long() {
    use rustix::process::{Pid, Signal, kill_process};
    if !have(&["nvim", "tmux"]) {
        return;
    }
    let s = Scratch::demo();
    let (editor, _) = nvim(&s);
    tmux_server(&s);
    let server = s.tmux(&["display-message", "-p", "#{pid}"]);
    let server = Pid::from_raw(server.parse().unwrap()).unwrap();
    let both = [Pid::from_child(&editor.0), server];
    for pid in both {
        kill_process(pid, Signal::STOP).unwrap();
    }
    for round in 0..4 {
        let begin = std::time::Instant::now();
        let said = s.said(&["verify", "nvim", "tmux"], &[0, 1]);
        assert_eq!(said.matches("it is stopped").count(), 2, "{round}: {said}");
        let took = begin.elapsed();
        assert!(
            took < std::time::Duration::from_secs(10),
            "{round} took {took:?}"
        );
    }
    for pid in both {
        kill_process(pid, Signal::CONT).unwrap();
    }
    let said = s.said(&["verify", "nvim", "tmux"], &[0, 1]);
    assert!(!said.contains("it is stopped"), "{said}");
}

fn shell(s: &Scratch, width: &str) {
    s.tmux(&[
        "new-session",
        "-d",
        "-x",
        width,
        "-y",
        "24",
        "env -u TMUX COLORTERM=truecolor bash",
    ]);
}

/// The sample home with our prompt in place, drawn alike for root and others.
fn prompt_home() -> (Scratch, &'static str) {
    use std::os::unix::fs::MetadataExt;
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["set", "tools.bash.generate", "true"], &[0]);
    let setup = ".config/wealdmist/setup.toml";
    s.write(setup, &s.read(setup).replace("when-it-matters", "never"));
    s.said(&["set", "symbols", "plain"], &[0]);
    s.said(&["apply", "--no-reload"], &[0]);
    let root = std::fs::metadata("/proc/self").unwrap().uid() == 0;
    (s, if root { "#" } else { "$" })
}

fn last_lines(s: &Scratch) -> String {
    s.screen("0").trim_end().to_owned()
}

fn run_in_shell(s: &Scratch, line: &str) {
    s.tmux(&["send-keys", "-t", "0", "-l", line]);
    s.tmux(&["send-keys", "-t", "0", "Enter"]);
}

#[test]
fn bash_draws_the_prompt_and_edits_long_lines() {
    if !have(&["tmux", "bash", "git"]) {
        return;
    }
    let (s, sign) = prompt_home();
    shell(&s, "60");
    wait_for("the first prompt", || {
        last_lines(&s)
            .ends_with(&format!("~\n{sign}"))
            .then_some(())
    });
    run_in_shell(&s, "cd src/marsh-gauge");
    wait_for("the branch", || {
        last_lines(&s)
            .contains(&format!("~/src/marsh-gauge  ↳ spring-tide\n{sign}"))
            .then_some(())
    });
    run_in_shell(&s, "echo x >> gauge.rs; (exit 3)");
    wait_for("mark and status", || {
        last_lines(&s)
            .contains(&format!("↳ spring-tide ±  ✗ 3\n{sign}"))
            .then_some(())
    });

    // A line longer than the screen: typed, gone home, a character put in front, run.
    let long = "x".repeat(90);
    s.tmux(&["send-keys", "-t", "0", "-l", &format!("cho {long}")]);
    s.tmux(&["send-keys", "-t", "0", "Home"]);
    s.tmux(&["send-keys", "-t", "0", "-l", "e"]);
    wait_for("the long line", || {
        let screen = last_lines(&s);
        let typed: String = screen
            .lines()
            .rev()
            .take(2)
            .collect::<Vec<_>>()
            .into_iter()
            .rev()
            .collect();
        (typed == format!("{sign} echo {long}")).then_some(())
    });
    s.tmux(&["send-keys", "-t", "0", "Enter"]);
    wait_for("its output", || {
        last_lines(&s)
            .contains(&format!("\n{}", &long[..60]))
            .then_some(())
    });

    // History brings it back, a resize keeps the line whole.
    s.tmux(&["send-keys", "-t", "0", "Up"]);
    wait_for("the line from history", || {
        last_lines(&s)
            .lines()
            .last()
            .is_some_and(|l| l.ends_with("xxx"))
            .then_some(())
    });
    s.tmux(&["resize-window", "-x", "80"]);
    s.tmux(&["send-keys", "-t", "0", "C-a"]);
    s.tmux(&["send-keys", "-t", "0", "C-k"]);
    run_in_shell(&s, "echo resized");
    wait_for("the shell after a resize", || {
        last_lines(&s).contains("\nresized\n").then_some(())
    });

    // A changed setup is taken up at the next prompt, and the shell is known to have done so.
    let said = s.said(&["verify", "bash"], &[0]);
    assert!(said.contains("shows what is written"), "{said}");
    s.said(&["set", "prompt.folder", "#0a0b0c"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(
        said.contains("takes the new prompt at its next Enter"),
        "{said}"
    );
    s.tmux(&["send-keys", "-t", "0", "Enter"]);
    wait_for("the new prompt", || {
        s.tmux(&["capture-pane", "-e", "-p", "-t", "0"])
            .contains("38;2;10;11;12")
            .then_some(())
    });
    let said = s.said(&["verify", "bash"], &[0]);
    assert!(said.contains("shows what is written"), "{said}");
}

#[test]
fn names_from_outside_are_drawn_and_never_run() {
    if !have(&["tmux", "bash", "git"]) {
        return;
    }
    let (s, sign) = prompt_home();
    let repository = s.home().join("evil");
    std::fs::create_dir(&repository).unwrap();
    let git = |arguments: &[&str]| {
        let done = s
            .command("git")
            .args(arguments)
            .current_dir(&repository)
            .output()
            .unwrap();
        assert!(done.status.success(), "{arguments:?} {done:?}");
    };
    git(&["init", "-q"]);
    // A program named in a repository's own configuration must not be run either.
    let marker = s.home().join("ran-monitor");
    git(&[
        "config",
        "core.fsmonitor",
        &format!("touch {}", marker.display()),
    ]);
    shell(&s, "100");
    wait_for("the first prompt", || {
        last_lines(&s).ends_with(sign).then_some(())
    });
    for (branch, shown) in [
        ("$(touch${IFS}ran-branch)", "↳ $(touch${IFS}ran-branch)"),
        ("`touch${IFS}ran-tick`", "↳ `touch${IFS}ran-tick`"),
        ("%F{red}percent", "↳ %F{red}percent"),
    ] {
        git(&["symbolic-ref", "HEAD", &format!("refs/heads/{branch}")]);
        run_in_shell(&s, "cd ~/evil");
        wait_for(shown, || last_lines(&s).contains(shown).then_some(()));
    }
    for folder in [
        "$(touch ran-folder)",
        "a\x1b]0;title\x07\x1b[31mred",
        "%n\\u\\[x",
    ] {
        std::fs::create_dir(s.home().join(folder)).unwrap();
    }
    run_in_shell(&s, "cd ~/'$(touch ran-folder)'");
    wait_for("the folder", || {
        last_lines(&s)
            .contains(&format!("~/$(touch ran-folder)\n{sign}"))
            .then_some(())
    });
    run_in_shell(&s, "cd ~/a*red");
    wait_for("its controls as signs", || {
        last_lines(&s)
            .contains(&format!("~/a?]0;title??[31mred\n{sign}"))
            .then_some(())
    });
    run_in_shell(&s, "cd ~/'%n\\u\\[x'");
    wait_for("its backslashes", || {
        last_lines(&s)
            .contains(&format!("~/%n\\u\\[x\n{sign}"))
            .then_some(())
    });
    let ran: Vec<_> = common::picture(&s.home())
        .into_keys()
        .filter(|p| {
            p.file_name()
                .is_some_and(|n| n.to_string_lossy().starts_with("ran-"))
        })
        .collect();
    assert!(ran.is_empty(), "something was run: {ran:?}");
}

/// A kitty on a display of its own, in a home.
fn kitty(s: &Scratch) -> (Running, Running, String) {
    let (screen, display) = screen();
    let kitty = s
        .command("kitty")
        .env("DISPLAY", &display)
        .env("LIBGL_ALWAYS_SOFTWARE", "1")
        .args(["--start-as", "fullscreen", "-o", "allow_remote_control=yes"])
        .arg("--listen-on")
        .arg(format!("unix:{}/kitty", s.tmp().display()))
        .arg("cat")
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    (screen, Running(kitty), display)
}

#[test]
fn a_kitty_window_changes_its_pixels_and_its_file_only_where_meant() {
    if !have(&["kitty", "Xvfb", "import"]) {
        return;
    }
    let s = Scratch::new();
    // The program's own full sample configuration.
    let sample = s
        .command("kitty")
        .args([
            "+runpy",
            "from kitty.config import commented_out_default_config as c; print(c())",
        ])
        .output()
        .unwrap();
    let mut sample = String::from_utf8(sample.stdout).unwrap();
    assert!(sample.lines().count() > 1000, "{sample}");
    sample = sample.replace("# background #000000", "background #000000");
    s.write(".config/kitty/kitty.conf", &sample);
    let (_screen, running, display) = kitty(&s);
    wait_for("kitty's window in its own color", || {
        (pixel(&display)? == "#000000").then_some(())
    });
    wait_for("kitty's socket", || sockets(&s.tmp()).first().cloned());
    s.said(&["init"], &[0]);
    assert_eq!(
        s.said(&["plan"], &[0]).lines().last(),
        Some("# 0 changes in 0 files")
    );
    s.said(&["set", "background", "#203040"], &[0]);
    s.said(&["set", "red", "#d05050"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(said.contains("shows what is written"), "{said}");
    assert!(
        said.contains(&format!("kitty {}", running.0.id())),
        "{said}"
    );
    wait_for("the new pixel", || {
        (pixel(&display)? == "#203040").then_some(())
    });
    let after = s.read(".config/kitty/kitty.conf");
    let changed: Vec<(&str, &str)> = sample
        .lines()
        .zip(after.lines())
        .filter(|(a, b)| a != b)
        .collect();
    assert_eq!(
        changed,
        [
            ("background #000000", "background #203040"),
            ("# color1 #cc0403", "color1 #d05050")
        ]
    );
    assert_eq!(sample.lines().count(), after.lines().count());

    // A color set by an escape hides the file: the answer says so.
    let socket = sockets(&s.tmp()).remove(0);
    let to = format!("unix:{}", socket.display());
    let set = s
        .command("kitty")
        .args(["@", "--to", &to, "set-colors", "background=#998877"])
        .output()
        .unwrap();
    assert!(set.status.success(), "{set:?}");
    let said = s.said(&["verify", "kitty"], &[1]);
    assert!(
        said.contains("background is #998877, written is #203040"),
        "{said}"
    );

    // A file with a bad line is not signalled, which would open an error window.
    s.write(
        ".config/kitty/kitty.conf",
        &after.replace("#203040", "nonsense!"),
    );
    let said = s.said(&["reload", "kitty"], &[0]);
    assert!(
        said.contains("not told") && said.contains("nonsense!"),
        "{said}"
    );
    assert_ne!(pixel(&display).unwrap(), "#000000");
}

#[test]
fn a_kitty_of_another_home_gets_no_signal() {
    if !have(&["kitty", "Xvfb", "import"]) {
        return;
    }
    let s = Scratch::new();
    s.write(".config/kitty/kitty.conf", "background #102030\n");
    let (_screen, _running, display) = kitty(&s);
    wait_for("the window", || {
        (pixel(&display)? == "#102030").then_some(())
    });
    s.write(".config/kitty/kitty.conf", "background #405060\n");
    let other = Scratch::demo();
    let said = other.said(&["reload", "kitty"], &[0]);
    assert!(said.contains("not running"), "{said}");
    assert_eq!(
        pixel(&display).as_deref(),
        Some("#102030"),
        "it did not read its file"
    );
    let said = s.said(&["reload", "kitty"], &[0]);
    assert!(said.contains("shows what is written"), "{said}");
}

#[test]
fn the_terminal_it_runs_in_is_asked_where_there_is_no_socket() {
    if !have(&["kitty", "Xvfb"]) {
        return;
    }
    let s = Scratch::new();
    s.write(
        ".config/kitty/kitty.conf",
        "background #102030\ncolor1 #aa0000\n",
    );
    let out = s.home().join("said");
    let script = format!(
        "{program} verify kitty > {out}; {program} set red '#bb1111'; {program} apply >> {out}; printf '\\033]4;1;#000000\\033\\\\'; {program} verify kitty >> {out}; echo end >> {out}",
        program = env!("CARGO_BIN_EXE_wealdmist"),
        out = out.display()
    );
    let (_screen, display) = screen();
    let kitty = s
        .command("kitty")
        .env("DISPLAY", &display)
        .env("LIBGL_ALWAYS_SOFTWARE", "1")
        .args(["sh", "-c", &script])
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let _kitty = Running(kitty);
    let said = wait_for("its answers", || {
        let said = std::fs::read_to_string(&out).ok()?;
        said.ends_with("end\n").then_some(said)
    });
    let answers: Vec<&str> = said
        .lines()
        .filter(|l| l.contains("this terminal"))
        .collect();
    assert_eq!(answers.len(), 3, "{said}");
    assert!(
        answers[0].contains("shows what is written (2 values asked)"),
        "{said}"
    );
    assert!(answers[1].contains("shows what is written"), "{said}");
    assert!(
        answers[2].contains("color1 is #000000, written is #bb1111"),
        "{said}"
    );
}

#[test]
fn a_trial_reaches_running_programs_and_is_taken_back() {
    if !have(&["tmux", "nvim"]) {
        return;
    }
    let s = Scratch::demo();
    tmux_server(&s);
    let (_editor, socket) = nvim(&s);
    let before = common::picture(&s.home());
    let comment = || ask_nvim(&s, &socket, "synIDattr(hlID('Comment'), 'fg#', 'gui')");
    let background = || ask_nvim(&s, &socket, "&background");
    let border = || s.tmux(&["show-options", "-gwv", "pane-active-border-style"]);
    let first = (comment(), background(), border());
    assert_eq!(first.1, "dark");
    let options = s.tmux(&["show-options", "-g"]);
    // The interface in a window of that very server: the counterpart is walked to and tried on.
    let program = format!("COLORTERM=truecolor {}", env!("CARGO_BIN_EXE_wealdmist"));
    s.tmux(&["resize-window", "-t", "0", "-x", "160", "-y", "47"]);
    s.tmux(&["new-window", "-t", "0:5", &program]);
    let see = |text: &str| {
        wait_for(text, || s.screen("0:5").contains(text).then_some(()));
    };
    let press = |keys: &[&str]| {
        let mut arguments = vec!["send-keys", "-t", "0:5"];
        arguments.extend(keys);
        s.tmux(&arguments);
    };
    see("1 Survey");
    press(&["2", "n", "Down", "Enter"]);
    see("the palette on the other ground");
    press(&["T"]);
    wait_for("the editor to wear it", || {
        (background() == "light").then_some(())
    });
    wait_for("the multiplexer to wear it", || {
        (border() != first.2).then_some(())
    });
    assert_ne!(comment(), first.0);
    // Leaving the program, in whatever way, takes it back.
    press(&["Escape"]);
    see("left as it was");
    press(&["q"]);
    wait_for("the editor's own colors", || {
        (background() == first.1 && comment() == first.0).then_some(())
    });
    wait_for("the multiplexer's own colors", || {
        (border() == first.2).then_some(())
    });
    assert_eq!(s.tmux(&["show-options", "-g"]), options);
    let after = common::picture(&s.home());
    let differs = after
        .keys()
        .chain(before.keys())
        .find(|k| before.get(*k) != after.get(*k) && !k.to_string_lossy().contains("state"));
    assert_eq!(differs, None);
}

#[test]
fn a_terminal_gives_its_colors_and_takes_exported_ones() {
    if !have(&["kitty", "Xvfb"]) {
        return;
    }
    let s = Scratch::demo();
    let program = env!("CARGO_BIN_EXE_wealdmist");
    // Ours, exported for the program, is its whole configuration; it is asked for it again.
    s.said(&["init"], &[0]);
    let exported = s.said(&["export", "kitty", "-o", "exported.conf"], &[0]);
    assert!(exported.contains("wrote exported.conf"), "{exported}");
    s.write("other/.config/wealdmist/setup.toml", "[palettes.plain]\n");
    let (out, other) = (s.home().join("said"), s.home().join("other"));
    let script = format!(
        "{program} --home {other} import --terminal --name asked > {out} 2>&1; echo end >> {out}",
        other = other.display(),
        out = out.display()
    );
    let (_screen, display) = screen();
    let kitty = s
        .command("kitty")
        .env("DISPLAY", &display)
        .env("LIBGL_ALWAYS_SOFTWARE", "1")
        .args(["--config", "exported.conf", "sh", "-c", &script])
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let _kitty = Running(kitty);
    let said = wait_for("its colors", || {
        let said = std::fs::read_to_string(&out).ok()?;
        said.ends_with("end\n").then_some(said)
    });
    assert!(said.contains("asked: 21 slots"), "{said}");
    let asked = s.read("other/.config/wealdmist/setup.toml");
    let wanted = s.read("exported.conf");
    for line in wanted.lines().filter(|l| l.starts_with("color")) {
        let color = line.split(' ').nth(1).unwrap();
        assert!(asked.contains(color), "{line} in\n{asked}");
    }
}

#[test]
fn exported_files_are_taken_by_the_programs_they_are_for() {
    if !have(&["Xvfb", "xrdb"]) {
        return;
    }
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["export", "xresources", "-o", "own.xres"], &[0]);
    let (_screen, display) = screen();
    let xrdb = |arguments: &[&str]| {
        let output = s
            .command("xrdb")
            .env("DISPLAY", &display)
            .args(arguments)
            .output()
            .unwrap();
        assert!(output.status.success(), "{output:?}");
        String::from_utf8_lossy(&output.stdout).into_owned()
    };
    xrdb(&["-load", "-nocpp", "own.xres"]);
    std::fs::write(s.home().join("asked.xres"), xrdb(&["-query"])).unwrap();
    let said = s.said(&["import", "asked.xres", "--name", "asked", "--use"], &[0]);
    assert!(said.contains("asked: 22 slots"), "{said}");
    // The palette that came back is the one that went out.
    let exported = |name: &str| {
        let text = s.said(&["export", "xresources", "--palette", name], &[0]);
        let lines: Vec<String> = text
            .lines()
            .filter(|l| l.starts_with('*'))
            .map(str::to_owned)
            .collect();
        lines
    };
    assert_eq!(exported("asked"), exported("dark"));
}

#[test]
fn programs_that_are_asked_change_nothing_and_reach_nothing() {
    if !have(&["tmux", "bash", "nvim"]) {
        return;
    }
    let s = Scratch::new();
    // Whether the system can take rights from a program at all.
    let probe = s.tmp().join("probe");
    let allowed = s.tmp().join("allowed");
    std::fs::create_dir(&allowed).unwrap();
    let _ = s
        .command(env!("CARGO_BIN_EXE_wealdmist"))
        .arg("--run-confined")
        .arg(&allowed)
        .args(["touch", &probe.display().to_string()])
        .output();
    if probe.exists() {
        skip("the kernel takes no rights from programs (Landlock)");
        return;
    }
    let listener = std::net::TcpListener::bind("127.0.0.1:0").expect("a port");
    let port = listener.local_addr().expect("it").port();
    listener.set_nonblocking(true).expect("it");
    s.write(
        ".bashrc",
        &format!("echo x > ~/written 2>/dev/null\necho x > \"$TMPDIR/inside\" && ok=32\n(exec 3<>/dev/tcp/127.0.0.1/{port}) 2>/dev/null && reached=1\nif [ -n \"$MOOD\" ]; then PS1='\\[\\e[31m\\]$ '; elif [ -z \"$reached\" ]; then PS1=\"\\[\\e[${{ok}}m\\]$ \"; fi\n"),
    );
    s.write(
        ".tmux.conf",
        "run-shell 'touch ~/touched'\nset -g status-style bg=#102030\nif-shell '[ -n \"$MOOD\" ]' 'set -g status-style bg=#405060'\n",
    );
    s.write(
        ".config/nvim/init.lua",
        "local f = io.open(vim.fn.expand('~/opened'), 'w')\nvim.api.nvim_set_hl(0, 'Comment', { fg = f and '#ff0000' or '#00ff00' })\nvim.fn.system({ 'touch', vim.fn.expand('~/made') })\nvim.g.x = vim.fn.writefile({ 'x' }, vim.fn.expand('~/wrote'), 's')\n",
    );
    let said = s.said(&["survey", "--ask", "--all"], &[0, 1]);
    assert!(said.contains("your configuration is run"), "{said}");
    assert!(said.contains("#00ff00"), "{said}");
    assert!(
        said.contains("#102030") && !said.contains("depending on"),
        "{said}"
    );
    for file in ["written", "touched", "opened", "made", "wrote"] {
        assert!(!s.home().join(file).exists(), "{file}: {said}");
    }
    assert!(listener.accept().is_err(), "a connection: {said}");
    assert!(said.contains("green"), "{said}");
    // Nothing of it is left running.
    let left = s
        .command("pgrep")
        .args(["-f", &s.home().display().to_string()])
        .output();
    let left = left
        .map(|o| String::from_utf8_lossy(&o.stdout).into_owned())
        .unwrap_or_default();
    assert_eq!(left, "");
}

#[test]
fn a_program_that_does_not_answer_is_left_and_told() {
    if !have(&["bash"]) {
        return;
    }
    let s = Scratch::new();
    s.write(".bashrc", "PS1='$ '\nexit\n");
    let said = s.said(&["survey", "--ask"], &[0, 1]);
    assert!(said.contains("bash did not answer"), "{said}");
}

/// The indices of 256 colors in what a program wrote for a terminal, as grounds.
fn indices(written: &str) -> Vec<u8> {
    let parts = written.split("48;5;").skip(1);
    let digits = parts.map(|p| p.split(|c: char| !c.is_ascii_digit()).next().unwrap_or(""));
    digits.filter_map(|d| d.parse().ok()).collect()
}

#[test]
fn programs_take_256_colors_as_we_say() {
    if !have(&["tmux", "fish", "zsh"]) {
        return;
    }
    let s = Scratch::new();
    // The grays, the dark ones closely, and many others; no two alike beside one another.
    let steps = |from: u32, by: usize, count: usize| (from..0x0100_0000).step_by(by).take(count);
    let grays = (0..=255).map(|v| v * 0x01_0101);
    let colors = grays
        .chain(steps(0x01_0203, 0x03_0507, 40))
        .chain(steps(0x00_0401, 0x01_3357, 600));
    // Between black and the first gray there is no nearer one, and some take this, some that.
    let colors = colors.filter(|c| *c != 0x04_0404);
    let colors: Vec<Rgb> = colors.map(Rgb::from_u32).collect();
    let said = |tool: &str, path: &str, text: &str| {
        let home = MemoryAccess::with(&[(path, text)]);
        let report = wealdmist_tools::adapter(tool)
            .unwrap()
            .read(&home, &mut Facts::default());
        report.rounding
    };
    let wanted = |rounding: Rounding| -> Vec<u8> {
        colors.iter().map(|color| rounding.index(*color)).collect()
    };
    let answer = |program: &str, arguments: &[&str], each: &dyn Fn(&Rgb) -> String| {
        let script: String = colors.iter().map(each).collect();
        let mut command = s.command(program);
        command
            .args(arguments)
            .arg(script)
            .env("TERM", "xterm-256color");
        let output = command.output().unwrap();
        indices(&String::from_utf8_lossy(&output.stdout))
    };
    let hex = |c: &Rgb| c.to_string()[1..].to_owned();
    let fish = "set -g fish_term256 1; set -g fish_term24bit 0;";
    let got = answer("fish", &["--no-config", "-C", fish, "-c"], &|c| {
        format!("set_color -b {}\n", hex(c))
    });
    assert_eq!(
        got,
        wanted(said(
            "fish",
            ".config/fish/config.fish",
            "set -g fish_color_error f00\n"
        ))
    );
    let zsh = "zmodload zsh/nearcolor\n";
    s.write(".zshrc", zsh);
    let got = answer("zsh", &["-i", "-c"], &|c| {
        format!("print -P '%K{{{c}}}x%k'\n")
    });
    assert_eq!(got, wanted(said("zsh", ".zshrc", zsh)));
    assert_eq!(
        said("zsh", ".zshrc", "zmodload zsh/datetime\n"),
        Rounding::Nearest
    );
    // The multiplexer writes a color once for what stands beside one another in it.
    let cells = colors
        .iter()
        .map(|c| format!("\x1b[48;2;{};{};{}mx\x1b[49my", c.r, c.g, c.b));
    s.write("cells", &(cells.collect::<String>() + "drawn"));
    let mut tmux = s.command("tmux");
    tmux.args([
        "-L",
        "rounding",
        "-f",
        "/dev/null",
        "new-session",
        "cat cells; sleep 60",
    ]);
    tmux.env("TERM", "xterm-256color");
    let (mut terminal, _side, mut child) = pty::start(&mut tmux, 200, 50);
    let mut written = Vec::new();
    let got = wait_for("the cells in the multiplexer", || {
        let mut some = [0; 4096];
        let count = terminal.read(&mut some).unwrap_or(0);
        written.extend(&some[..count]);
        let text = String::from_utf8_lossy(&written);
        let (drawn, _) = text.split_once("drawn")?;
        // What was drawn anew on the way stands there twice.
        let got = indices(drawn);
        Some(got[got.len().saturating_sub(colors.len())..].to_vec())
    });
    let _ = s
        .command("tmux")
        .args(["-L", "rounding", "kill-server"])
        .output();
    let _ = child.wait();
    assert_eq!(
        got,
        wanted(said(
            "tmux",
            ".tmux.conf",
            "set -g status-style bg=#102030\n"
        ))
    );
}
