//! The terminal is given back and the draft is saved however the interface ends; and no output
//! acts on a terminal, panics, or ends with the wrong code.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::fs::File;
use std::io::{Read, Write};
use std::os::fd::OwnedFd;
use std::process::{Command, Stdio};

use common::{Running, Scratch, have, pty, wait_for};
use rustix::process::{Pid, Signal, kill_process};
use rustix::termios::{LocalModes, tcgetattr};

/// The interface on a terminal of its own, in a state with an unsaved draft.
struct Open {
    scratch: Scratch,
    terminal: File,
    side: OwnedFd,
    program: Running,
    shown: Vec<u8>,
}

impl Open {
    fn new() -> Self {
        let scratch = Scratch::demo();
        let mut command = scratch.command(env!("CARGO_BIN_EXE_wealdmist"));
        let (terminal, side, child) = pty::start(&mut command, 120, 40);
        rustix::fs::fcntl_setfl(&terminal, rustix::fs::OFlags::NONBLOCK).unwrap();
        let mut open = Self {
            scratch,
            terminal,
            side,
            program: Running(child),
            shown: Vec::new(),
        };
        open.see("Survey");
        open.terminal.write_all(b"\x1b[?62;c").unwrap();
        open.terminal
            .write_all(b"2#\x7f\x7f\x7f\x7f\x7f\x7f\x7fa1b2c3\r")
            .unwrap();
        open.see("a1b2c3");
        open
    }

    fn read(&mut self) {
        let mut buffer = [0; 1 << 14];
        while let Ok(n) = self.terminal.read(&mut buffer) {
            if n == 0 {
                break;
            }
            self.shown.extend_from_slice(&buffer[..n]);
        }
    }

    fn see(&mut self, text: &str) {
        wait_for(text, || {
            self.read();
            String::from_utf8_lossy(&self.shown)
                .contains(text)
                .then_some(())
        });
    }

    fn pid(&self) -> Pid {
        Pid::from_child(&self.program.0)
    }

    fn is_raw(&self) -> bool {
        let modes = tcgetattr(&self.side).unwrap().local_modes;
        !modes.contains(LocalModes::ICANON | LocalModes::ECHO | LocalModes::ISIG)
    }

    fn is_given_back(&mut self) {
        wait_for("the terminal's modes", || (!self.is_raw()).then_some(()));
        self.see("\x1b[?1049l");
        self.see("\x1b[?25h");
        let setup = self.scratch.home().join(".config/wealdmist/setup.toml");
        wait_for("the draft", || {
            let text = std::fs::read_to_string(&setup).ok()?;
            text.contains("foreground = \"#a1b2c3\"").then_some(())
        });
    }
}

#[test]
fn whatever_ends_the_interface_the_terminal_is_given_back_and_the_draft_saved() {
    for signal in [
        Signal::TERM,
        Signal::HUP,
        Signal::INT,
        Signal::QUIT,
        Signal::USR1,
        Signal::USR2,
        Signal::ALARM,
        Signal::ABORT,
        Signal::VTALARM,
        Signal::PROF,
        Signal::XCPU,
        Signal::XFSZ,
        Signal::IO,
        Signal::SYS,
        Signal::TRAP,
        // These cannot be caught: the guardian does it.
        Signal::SEGV,
        Signal::BUS,
        Signal::ILL,
        Signal::FPE,
        Signal::KILL,
    ] {
        let mut open = Open::new();
        assert!(open.is_raw());
        let pid = open.pid();
        kill_process(pid, signal).unwrap();
        let child = &mut open.program.0;
        wait_for(&format!("its end by {signal:?}"), || {
            // The first of these is taken for a fault that will happen again.
            if matches!(signal, Signal::SEGV | Signal::BUS) {
                let _ = kill_process(pid, signal);
            }
            child.try_wait().unwrap()
        });
        open.is_given_back();
    }
}

/// The colors of a trial are taken back also where the program is killed.
#[test]
fn a_killed_trial_leaves_no_colors() {
    let mut open = Open::new();
    open.terminal.write_all(b"t").unwrap();
    open.see("\x1b]11;#");
    kill_process(open.pid(), Signal::KILL).unwrap();
    open.see("\x1b]111\x1b\\");
    open.is_given_back();
}

#[test]
fn stopped_it_gives_the_terminal_back_and_goes_on_with_it() {
    let mut open = Open::new();
    kill_process(open.pid(), Signal::TSTP).unwrap();
    let state = format!("/proc/{}/stat", open.pid().as_raw_nonzero());
    wait_for("it to stop", || {
        let stat = std::fs::read_to_string(&state).ok()?;
        stat.rsplit(')')
            .next()?
            .trim()
            .starts_with('T')
            .then_some(())
    });
    assert!(!open.is_raw());
    open.see("\x1b[?1049l");
    open.shown.clear();
    kill_process(open.pid(), Signal::CONT).unwrap();
    open.see("Palette");
    assert!(open.is_raw());
    open.terminal.write_all(b"q").unwrap();
    let child = &mut open.program.0;
    let status = wait_for("its end", || child.try_wait().unwrap());
    assert_eq!(status.code(), Some(0));
    open.is_given_back();
}

/// The shell that started it has its terminal back before it reads a key: nothing is set later.
#[test]
fn a_plain_end_leaves_nobody_behind() {
    let mut open = Open::new();
    let guardian = format!(
        "/proc/{}/task/{}/children",
        open.pid().as_raw_nonzero(),
        open.pid().as_raw_nonzero()
    );
    let guardian = std::fs::read_to_string(guardian).unwrap().trim().to_owned();
    assert!(!guardian.is_empty());
    open.terminal.write_all(b"q").unwrap();
    let child = &mut open.program.0;
    wait_for("its end", || child.try_wait().unwrap());
    assert!(!std::path::Path::new(&format!("/proc/{guardian}")).exists());
}

#[test]
fn nothing_printed_acts_on_a_terminal() {
    let s = Scratch::demo();
    let escape = "\x1b]0;title\x07\x1b[31m\u{9b}1m\u{202e}x";
    let bad = |text: &[u8]| {
        let text = String::from_utf8_lossy(text).into_owned();
        let found = text
            .chars()
            .find(|c| matches!(c, '\u{1b}' | '\u{7}' | '\u{9b}' | '\u{202e}'));
        assert_eq!(found, None, "{text:?}");
    };
    s.write(
        &format!(".config/kitty/{}.conf", "x\x1b[31m\u{202e}"),
        "font_size bad\n",
    );
    // Few enough for the first to have its say in the setup.
    s.has_only_two_terminals();
    let kitty = s.read(".config/kitty/kitty.conf");
    s.write(
        ".config/kitty/kitty.conf",
        &format!("{kitty}\ninclude x\x1b[31m\u{202e}.conf\nfont_family {escape}\n"),
    );
    for arguments in [
        vec!["survey", "--all"],
        vec!["survey", "--json"],
        vec!["check"],
        vec!["check", "--json"],
        vec!["plan"],
        vec!["plan", "--json"],
        vec!["history"],
        vec!["set", escape, "#000000"],
        vec!["set", "comment", escape],
        vec!["export", escape],
        vec!["verify", escape],
        vec!["--setup", escape, "plan"],
        vec!["--home", escape, "plan"],
        vec![escape],
        vec!["draw", "-o", escape],
        vec!["import", escape],
        vec!["font", "show", escape],
        vec!["palette", "image", escape],
    ] {
        let out = s.run(&arguments);
        bad(&out.stdout);
        bad(&out.stderr);
        assert!(
            !String::from_utf8_lossy(&out.stderr).contains("panicked"),
            "{arguments:?}"
        );
    }
    // Everything that prints JSON prints JSON.
    let out = s.run(&["survey", "--json"]);
    let json: serde_json::Value = serde_json::from_slice(&out.stdout).unwrap();
    assert!(json.is_object());
}

#[test]
fn readers_that_go_away_and_full_disks_end_it_in_the_usual_way() {
    if !have(&["bash"]) {
        return;
    }
    let s = Scratch::demo();
    let program = env!("CARGO_BIN_EXE_wealdmist");
    let bash = |script: &str| {
        let out = s
            .command("bash")
            .args(["-c", script])
            .stderr(Stdio::piped())
            .output()
            .unwrap();
        let text = String::from_utf8_lossy(&out.stdout).into_owned();
        let errors = String::from_utf8_lossy(&out.stderr).into_owned();
        assert!(!errors.contains("panicked"), "{script}: {errors}");
        (text, errors)
    };
    for arguments in [
        "survey --all",
        "check",
        "plan",
        "contrast",
        "export css",
        "completions bash",
        "man",
        "--help",
        "icons git",
        "font list",
        "palette list",
    ] {
        // The reader is gone before anything is written.
        let (_, errors) = bash(&format!(
            "{{ sleep 0.2; {program} {arguments}; echo code $? >&2; }} | true"
        ));
        assert_eq!(errors.trim(), "code 141", "{arguments}");
        let (_, errors) = bash(&format!(
            "{program} {arguments} > /dev/full; echo code $? >&2"
        ));
        assert!(
            errors.contains("code 3") && errors.contains("No space left"),
            "{arguments}: {errors}"
        );
    }
    let (_, errors) = bash(&format!(
        "{{ sleep 0.2; {program} set nothing x 2>&1; echo code $? >&2; }} | true"
    ));
    assert!(errors.contains("code 3"), "{errors}");
    let (text, _) = bash(&format!(
        "{program} set nothing x 2>/dev/full; echo code $?"
    ));
    assert_eq!(text.trim(), "code 3");
}

/// What is written where a person says so: into a regular file, in a folder that is there, with
/// what the umask leaves.
#[test]
fn files_asked_for_are_written_as_asked_or_not_at_all() {
    use std::os::unix::fs::{FileTypeExt, MetadataExt, symlink};
    let s = Scratch::demo();
    let at = |name: &str| s.tmp().join(name);
    let export = |path: &std::path::Path| s.run(&["export", "css", "-o", path.to_str().unwrap()]);
    let made = Command::new("mkfifo").arg(at("pipe")).status().unwrap();
    assert!(made.success());
    symlink(at("pipe"), at("link")).unwrap();
    for name in ["pipe", "link"] {
        let out = export(&at(name));
        let text = String::from_utf8_lossy(&out.stderr).into_owned();
        assert_eq!(out.status.code(), Some(3), "{text}");
        assert!(text.contains("not a regular file"), "{text}");
    }
    for arguments in [["pack", "-o"], ["draw", "-o"], ["glyphs", "-o"]] {
        let path = at("pipe.svg");
        if !path.exists() {
            std::fs::rename(at("pipe"), &path).unwrap();
        }
        let out = s.run(&[arguments[0], arguments[1], path.to_str().unwrap()]);
        let text = String::from_utf8_lossy(&out.stderr).into_owned();
        assert_eq!(out.status.code(), Some(3), "{arguments:?} {text}");
        assert!(text.contains("not a regular file"), "{text}");
    }
    std::fs::rename(at("pipe.svg"), at("pipe")).unwrap();
    assert!(at("pipe").metadata().unwrap().file_type().is_fifo());
    let out = export(std::path::Path::new("/dev/null"));
    assert_eq!(out.status.code(), Some(3));
    assert!(
        std::path::Path::new("/dev/null")
            .metadata()
            .unwrap()
            .file_type()
            .is_char_device()
    );
    let out = export(&at("missing/colors.css"));
    assert!(String::from_utf8_lossy(&out.stderr).contains("does not exist"));
    assert!(!at("missing").exists());
    let script = format!(
        "umask 077; {} export css -o {}",
        env!("CARGO_BIN_EXE_wealdmist"),
        at("private.css").display()
    );
    s.command("bash").args(["-c", &script]).output().unwrap();
    assert_eq!(at("private.css").metadata().unwrap().mode() & 0o777, 0o600);
    std::fs::write(at("real.css"), "x").unwrap();
    symlink(at("real.css"), at("through.css")).unwrap();
    assert!(export(&at("through.css")).status.success());
    assert!(at("through.css").symlink_metadata().unwrap().is_symlink());
    assert!(
        std::fs::read_to_string(at("real.css"))
            .unwrap()
            .contains(":root")
    );
    let names: Vec<_> = std::fs::read_dir(s.tmp())
        .unwrap()
        .map(|e| e.unwrap().file_name())
        .collect();
    assert!(
        names
            .iter()
            .all(|n| !n.to_string_lossy().contains("wealdmist-")),
        "{names:?}"
    );
}
