//! The interface as a person uses it: in a real terminal (tmux), by keys, with the files on disk
//! looked at afterwards.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::io::{Read, Write};

use common::{Running, Scratch, have, picture, pty, wait_for};

/// Opens the interface on the sample home in a tmux of a given size.
fn open(s: &Scratch, width: u16, height: u16, more: &str) {
    s.open_interface(width, height, more);
    see(s, "1 Survey");
}

/// Waits until the screen shows a text.
fn see(s: &Scratch, text: &str) -> String {
    see_all(s, &[text])
}

/// Waits until the screen shows all texts at once: parts of a screen may come a frame later than
/// others, so what belongs together is waited for together.
fn see_all(s: &Scratch, texts: &[&str]) -> String {
    see_that(s, &format!("{texts:?}"), |screen| {
        texts.iter().all(|text| screen.contains(text))
    })
}

/// Waits until the screen is as a condition wants it.
fn see_that(s: &Scratch, what: &str, condition: impl Fn(&str) -> bool) -> String {
    let until = std::time::Instant::now() + common::PATIENCE;
    loop {
        let screen = s.screen("0");
        if condition(&screen) {
            return screen;
        }
        assert!(
            std::time::Instant::now() < until,
            "{what} never came:\n{screen}"
        );
        std::thread::sleep(std::time::Duration::from_millis(20));
    }
}

fn press(s: &Scratch, keys: &[&str]) {
    let mut arguments = vec!["send-keys", "-t", "0"];
    arguments.extend(keys);
    s.tmux(&arguments);
}

#[test]
fn a_color_is_changed_applied_and_taken_back() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    let before = picture(&s.home());
    open(&s, 160, 47, "");
    see(&s, "No setup yet");
    see_all(&s, &["≠Reedbed", "1 Survey 7", "? keys"]);
    // Palette: type a value for the foreground; every figure follows.
    press(&s, &["2"]);
    see(&s, "lightness ruler");
    press(&s, &["#"]);
    see(&s, "foreground is:");
    press(
        &s,
        &[
            "BSpace", "BSpace", "BSpace", "BSpace", "BSpace", "BSpace", "a1b2c3", "Enter",
        ],
    );
    see(&s, "foreground  #a1b2c3");
    // A step of hue and back by undo.
    press(&s, &["h", "Right", "Right"]);
    see_that(&s, "another color", |screen| {
        !screen.contains("foreground  #a1b2c3")
    });
    press(&s, &["u"]);
    see(&s, "foreground  #a1b2c3");
    // Apply: the diff, then the files.
    press(&s, &["8"]);
    see(&s, "~/.config/kitty/dusk.conf");
    see(&s, "+foreground            #a1b2c3");
    press(&s, &["Enter"]);
    see(&s, "applied as number 1");
    assert!(
        s.read(".config/kitty/dusk.conf")
            .contains("foreground            #a1b2c3\n")
    );
    // What differed before is written when it is taken, and not by itself.
    see_all(&s, &["differs from the setup", "0 of 10 taken"]);
    let conf = ".config/tmux/tmux.conf";
    assert!(s.read(conf).contains("fg=#528b8e"));
    press(&s, &["Enter"]);
    see(&s, "nothing is taken");
    press(&s, &["a", "Enter"]);
    see_all(&s, &["applied as number 2", "Nothing to apply"]);
    assert!(s.read(conf).contains("fg=#74c5c1"));
    assert!(
        s.read(".config/nvim/colors/creek.lua")
            .contains("set(0, \"Normal\", { fg = \"#a1b2c3\"")
    );
    assert!(
        s.read(".config/wealdmist/setup.toml")
            .contains("foreground = \"#a1b2c3\"")
    );
    // Taken back: every byte of the dotfiles is as before.
    press(&s, &["x"]);
    see(&s, "number 2 is taken back");
    press(&s, &["x"]);
    see(&s, "number 1 is taken back");
    let mut after = picture(&s.home());
    after.retain(|p, _| {
        let p = p.strip_prefix(s.home()).unwrap();
        !p.starts_with(".local/state") && !p.starts_with(".config/wealdmist")
    });
    assert_eq!(before, after);
    press(&s, &["q"]);
    see(&s, "ended 0");
}

#[test]
fn the_ledgers_verbs_change_the_setup_and_the_draft_is_kept_on_leaving() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 160, 47, "");
    press(&s, &["o", "/"]);
    see(&s, "show roles with:");
    press(&s, &["active pane", "Enter"]);
    see(&s, "active pane border › nvim does not say");
    press(&s, &["Left"]);
    see_all(
        &s,
        &[
            "active pane border › tmux drifts",
            "~/.config/tmux/tmux.conf:12:37",
        ],
    );
    // An exception needs a reason.
    press(&s, &["o", "e"]);
    see(&s, "why may tmux differ");
    // The line stays open with what is wrong, and is edited as one is used to.
    press(&s, &["Enter"]);
    see(&s, "needs a reason");
    press(&s, &["on the eye", "Home", "easier ", "Enter"]);
    see(&s, "differs on purpose");
    press(&s, &["a"]);
    see(&s, "is #528b8e now, as in tmux");
    press(&s, &["q"]);
    see_all(&s, &["ended 0", "The draft is saved", "are not applied"]);
    let setup = s.read(".config/wealdmist/setup.toml");
    assert!(setup.contains("reason = \"easier on the eye\""), "{setup}");
    assert!(setup.contains("\"border.active\" = \"#528b8e\""), "{setup}");
    // The dotfiles have not been touched.
    assert!(s.read(".config/tmux/tmux.conf").contains("#528b8e"));
}

#[test]
fn the_specimen_leads_to_the_place_where_a_color_is_set() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 160, 47, "");
    press(&s, &["Tab"]);
    see(&s, "prompt, folder › prompt.folder = #5fafff");
    see(&s, "written in bash .bashrc:7");
    press(&s, &["Right"]);
    see(&s, "prompt, branch › prompt.branch = magenta");
    press(&s, &["Enter"]);
    let screen = see_all(&s, &["lightness ruler", "magenta  #d185b5", "error:"]);
    // A click on a spot does the same as hopping there.
    let row = screen.lines().position(|l| l.contains("error:")).unwrap() + 1;
    let line = screen.lines().nth(row - 1).unwrap();
    let column = line[..line.find("error:").unwrap()].chars().count() + 2;
    s.tmux(&[
        "send-keys",
        "-t",
        "0",
        "-l",
        &format!("\x1b[<0;{column};{row}M\x1b[<0;{column};{row}m"),
    ]);
    see(&s, "error › error = red");
    press(&s, &["?"]);
    see(&s, "keys here: the specimen");
    press(&s, &["Escape"]);
    press(&s, &["z"]);
    see_that(&s, "the specimen alone", |screen| {
        !screen.contains("lightness ruler")
    });
}

#[test]
fn contrast_is_mended_where_it_is_seen() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 120, 40, "");
    press(&s, &["3"]);
    see(&s, "Comment in a selection  comment #4b5a5d on selection");
    // A deficiency is switched on and off again; what it confuses is said.
    press(&s, &["v", "v"]);
    see_all(&s, &["seen: deuteranopia", "error and success"]);
    press(&s, &["c"]);
    see(&s, "seen: as it is");
    // One pair, as a proposal: left, then taken.
    press(&s, &["m"]);
    see(&s, "1 color moves");
    press(&s, &["Escape"]);
    see(&s, "left as it was");
    press(&s, &["m", "Enter"]);
    see_that(&s, "the pair mended", |screen| {
        screen.contains("1 color moved") && !screen.contains(" Comment in a selection  ")
    });
    // The whole palette.
    press(&s, &["r"]);
    see(&s, "0 after");
    press(&s, &["Enter"]);
    see_all(&s, &["colors moved", "3 Contrast ›"]);
    press(&s, &["5"]);
    see_all(&s, &["! moved", "U+F64F", "tmux bar.conf:6:35"]);
}

#[test]
fn each_change_can_be_taken_or_left() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 160, 47, "");
    press(&s, &["8"]);
    see(&s, "0 of 10 taken");
    // Everything but one change of a file, although it stands beside another.
    press(
        &s,
        &["a", "Down", "Down", "Down", "Down", "Down", "Down", "Space"],
    );
    see(&s, "9 of 10 taken");
    press(&s, &[":"]);
    see(&s, "wealdmist apply --skip 3.1");
    press(&s, &["Escape", "Enter"]);
    see(&s, "applied as number 1");
    let conf = ".config/tmux/tmux.conf";
    let tmux = s.read(conf);
    assert!(
        !tmux.contains("xterm-256color:RGB") && tmux.contains("alacritty:RGB"),
        "{tmux}"
    );
    assert!(tmux.contains("fg=#74c5c1"), "{tmux}");
    // One file only: the others stay as they are after it is taken back.
    press(&s, &["x"]);
    see(&s, "number 1 is taken back");
    press(&s, &["Down", "Down", "Down", "Down", "Down", "o"]);
    see(&s, "5 of 10 taken");
    press(&s, &["Enter"]);
    see_all(&s, &["applied as number 3", "0 of 5 taken"]);
    assert!(
        s.read(".config/alacritty/alacritty.toml")
            .contains("0xcfae61")
    );
}

#[test]
fn every_size_and_color_depth_is_drawn() {
    if !have(&["tmux"]) {
        return;
    }
    for (width, height, more) in [
        (80, 24, "COLORTERM= TERM=xterm"),
        (140, 40, "COLORTERM= TERM=xterm-256color"),
        (160, 47, "NO_COLOR=1"),
        (250, 70, ""),
        (81, 25, "LANG=C LC_ALL=C"),
    ] {
        let s = Scratch::demo();
        open(&s, width, height, more);
        for step in ["1", "2", "3", "4", "5", "6", "7", "8"] {
            press(&s, &[step]);
        }
        let screen = see(&s, "tmux.conf");
        assert!(!screen.contains("panicked"), "{screen}");
        if more.contains("LANG=C") {
            assert!(screen.is_ascii(), "{screen}");
        }
        // Smaller and smaller, and back.
        s.tmux(&["resize-window", "-x", "20", "-y", "5"]);
        see(&s, "Wealdmist needs 80x");
        s.tmux(&["resize-window", "-x", "1", "-y", "1"]);
        s.tmux(&["resize-window", "-x", "100", "-y", "30"]);
        see(&s, "tmux.conf");
        press(&s, &["q"]);
        see(&s, "ended 0");
    }
}

#[test]
fn a_signal_gives_the_terminal_back_and_takes_the_trial_colors_off() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 100, 30, "");
    let log = s.tmp().join("sent");
    s.tmux(&["pipe-pane", "-t", "0", &format!("cat > {}", log.display())]);
    let sent = || String::from_utf8_lossy(&std::fs::read(&log).unwrap_or_default()).into_owned();
    press(&s, &["t"]);
    see(&s, "wears the draft");
    for color in ["11;#0d191c", "4;1;#e7736e", "19;#ecebe4"] {
        wait_for(color, || {
            sent()
                .contains(&format!("\x1b]{color}\x1b\\"))
                .then_some(())
        });
    }
    assert!(!sent().contains("\x1b]111"));
    let pid = s.tmux(&["list-panes", "-F", "#{pane_pid}"]);
    let children = std::fs::read_to_string(format!("/proc/{pid}/task/{pid}/children")).unwrap();
    let ended = s
        .command("kill")
        .arg("-TERM")
        .arg(children.trim())
        .status()
        .unwrap();
    assert!(ended.success());
    see(&s, "ended");
    for back in [
        "\x1b]110\x1b\\",
        "\x1b]111\x1b\\",
        "\x1b]112\x1b\\",
        "\x1b]117\x1b\\",
        "\x1b]119\x1b\\",
        "\x1b]104;15\x1b\\",
        "\x1b[?1049l",
    ] {
        wait_for(&format!("{back:?}"), || sent().contains(back).then_some(()));
    }
}

#[test]
fn a_terminal_that_goes_away_ends_the_program_and_keeps_the_draft() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 100, 30, "");
    press(&s, &["2", "#"]);
    see(&s, "foreground is:");
    let back = ["BSpace"; 7];
    press(&s, &back);
    press(&s, &["a1b2c3", "Enter"]);
    see(&s, "foreground  #a1b2c3");
    let pid = s.tmux(&["list-panes", "-F", "#{pane_pid}"]);
    let children = std::fs::read_to_string(format!("/proc/{pid}/task/{pid}/children")).unwrap();
    let program = format!("/proc/{}", children.trim());
    assert!(std::path::Path::new(&program).exists());
    s.tmux(&["kill-server"]);
    wait_for("the program's end", || {
        (!std::path::Path::new(&program).exists()).then_some(())
    });
    assert!(
        s.read(".config/wealdmist/setup.toml")
            .contains("foreground = \"#a1b2c3\"")
    );
}

#[test]
fn a_program_stuck_at_its_terminal_keeps_the_draft_when_told_to_end() {
    let s = Scratch::demo();
    let mut command = s.command(env!("CARGO_BIN_EXE_wealdmist"));
    let (mut terminal, program_side, child) = pty::start(&mut command, 160, 47);
    let mut child = Running(child);
    rustix::fs::fcntl_setfl(&terminal, rustix::fs::OFlags::NONBLOCK).unwrap();
    let drawn_with = |terminal: &mut std::fs::File, text: &str| {
        let (mut shown, mut buffer) = (Vec::new(), [0; 1 << 14]);
        wait_for(text, || {
            while let Ok(n) = terminal.read(&mut buffer) {
                shown.extend_from_slice(&buffer[..n]);
            }
            String::from_utf8_lossy(&shown).contains(text).then_some(())
        });
    };
    drawn_with(&mut terminal, "Survey");
    // A terminal answers what it is asked at the start.
    terminal.write_all(b"\x1b[?62;c").unwrap();
    terminal
        .write_all(b"2#\x7f\x7f\x7f\x7f\x7f\x7f\x7fa1b2c3\r")
        .unwrap();
    drawn_with(&mut terminal, "a1b2c3");
    // From here on nobody reads what the program draws: it stops taking keys.
    wait_for("the program to be stuck", || {
        terminal.write_all(b"z").unwrap();
        (rustix::io::ioctl_fionread(&program_side).unwrap() > 100).then_some(())
    });
    let pid = rustix::process::Pid::from_child(&child.0);
    rustix::process::kill_process(pid, rustix::process::Signal::TERM).unwrap();
    let setup = s.home().join(".config/wealdmist/setup.toml");
    wait_for("the draft", || {
        let text = std::fs::read_to_string(&setup).ok()?;
        text.contains("foreground = \"#a1b2c3\"").then_some(())
    });
    drop((terminal, program_side));
    wait_for("the program's end", || child.0.try_wait().unwrap());
}

#[test]
fn a_dotfile_edited_meanwhile_is_not_overwritten_and_the_new_plan_is_shown() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 160, 47, "");
    press(&s, &["8"]);
    see(&s, "active pane border: #528b8e");
    let conf = ".config/tmux/tmux.conf";
    s.write(conf, &s.read(conf).replace("#528b8e", "#99aa11"));
    press(&s, &["a", "Enter"]);
    see(&s, "have changed since they were read");
    see(&s, "active pane border: #99aa11");
    assert!(
        !s.read(".bashrc").contains("wealdmist"),
        "all files or none"
    );
    press(&s, &["a", "Enter"]);
    see(&s, "applied as number 1");
    assert!(s.read(conf).contains("#74c5c1"));
}

#[test]
fn leaving_takes_the_trial_colors_off() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 100, 30, "");
    let log = s.tmp().join("sent");
    s.tmux(&["pipe-pane", "-t", "0", &format!("cat > {}", log.display())]);
    let sent = || String::from_utf8_lossy(&std::fs::read(&log).unwrap_or_default()).into_owned();
    press(&s, &["t"]);
    wait_for("the ground's color", || {
        sent().contains("\x1b]11;#0d191c\x1b\\").then_some(())
    });
    assert!(!sent().contains("\x1b]111\x1b\\"));
    press(&s, &["q"]);
    see(&s, "ended 0");
    wait_for("the ground taken back", || {
        sent().contains("\x1b]111\x1b\\").then_some(())
    });
}

#[test]
fn a_folder_of_palettes_is_walked_and_one_is_taken() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    let folder = s.home().join("palettes");
    std::fs::create_dir(&folder).unwrap();
    for (name, text) in [
        (
            "noon.conf",
            "foreground #202428\nbackground #f4f2ec\ncolor1 #a03030\n",
        ),
        (
            "night.Xresources",
            "*foreground: #d0d4d8\n*background: #101418\n*color1: #e07070\n",
        ),
        ("notes.txt", "nothing to see\n"),
    ] {
        std::fs::write(folder.join(name), text).unwrap();
    }
    let before = picture(&s.home());
    open(&s, 160, 47, "");
    press(&s, &["2", "n"]);
    see(&s, "a new palette, from");
    press(&s, &["End", "Enter"]);
    see(&s, "folder of palettes:");
    press(&s, &["~/palettes", "Enter"]);
    see_all(
        &s,
        &["2 palettes, 1 other file", "night", "specimen: night"],
    );
    press(&s, &["Space", "Down"]);
    see(&s, "above noon, below night");
    // Nothing was touched by looking.
    assert_eq!(picture(&s.home()), before);
    press(&s, &["Enter"]);
    see(&s, "the draft has and uses the palette 'noon'");
    press(&s, &["q"]);
    see(&s, "ended 0");
    assert!(
        s.read(".config/wealdmist/setup.toml")
            .contains("[palettes.noon]")
    );
}

#[test]
fn a_font_is_compared_chosen_applied_and_its_glyphs_mended() {
    if !have(&["tmux"]) {
        return;
    }
    let s = Scratch::demo();
    open(&s, 160, 47, "");
    press(&s, &["4"]);
    see(&s, "Reedbed Mono NF Regular");
    // Two faces on the same lines, drawn with dots: the terminal shows no images.
    press(&s, &["/"]);
    see(&s, "families whose name holds:");
    press(&s, &["NF", "Enter"]);
    see(&s, "4 with 'NF'");
    press(&s, &["Home", "Space", "End"]);
    see_that(&s, "two faces drawn with dots", |screen| {
        let dots = |line: &str| line.chars().any(|c| ('\u{2801}'..='\u{28ff}').contains(&c));
        // Below each face's name its sample.
        let drawn = |name: &str| {
            let mut lines = screen.lines().skip_while(|line| !line.contains(name));
            lines.nth(1).is_some() && lines.take(4).any(dots)
        };
        drawn("Sedge Mono NF Regular") && drawn("Bulrush NF Regular")
    });
    press(&s, &["f"]);
    see(&s, "font_family Sedge Mono NF");
    press(&s, &["f", "f"]);
    press(&s, &["Enter"]);
    see(&s, "regular: Sedge Mono NF");
    // In that font the icons are at old places: the bar's are there, others are not.
    press(&s, &["5"]);
    see(&s, "Sedge Mono NF Regular  one width");
    press(&s, &["m"]);
    see(&s, "are replaced when you apply");
    // The multiplexer is a terminal too: what it takes for each glyph is measured.
    press(&s, &["w"]);
    see_all(&s, &["widths measured", "symbol level proposed"]);
    press(&s, &["8", "Enter"]);
    see(&s, "applied as number 1");
    let kitty = s.read(".config/kitty/kitty.conf");
    assert!(kitty.contains("font_family      Sedge Mono NF"), "{kitty}");
    press(&s, &["x"]);
    wait_for("the font to be taken back", || {
        let kitty = s.read(".config/kitty/kitty.conf");
        kitty
            .contains("font_family      Reedbed Mono NF")
            .then_some(())
    });
    press(&s, &["q"]);
    see(&s, "ended 0");
    let kept = s.read(".local/state/wealdmist/terminals.json");
    assert!(kept.contains("widths"), "{kept}");
}
