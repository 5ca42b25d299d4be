//! Real terminals on a scratch home: their own full sample configuration is read and edited, and
//! what they draw afterwards is what was written.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use wealdmist_core::role::Slot;

use common::wayland::{foot, wayland, wayland_picture};
use common::{Running, Scratch, have, pixel, screen, wait_for};

/// The lines of two texts that differ, one by one.
fn changed(before: &str, after: &str) -> Vec<(String, String)> {
    let lines = before.lines().zip(after.lines());
    let differing = lines.filter(|(a, b)| a != b);
    differing
        .map(|(a, b)| (a.to_owned(), b.to_owned()))
        .collect()
}

fn alacritty(s: &Scratch, program: &Path, display: &str) -> Running {
    let child = s
        .command(program)
        .env("DISPLAY", display)
        .env("LIBGL_ALWAYS_SOFTWARE", "1")
        .env("XDG_RUNTIME_DIR", s.tmp())
        .args(["-e", "cat"])
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    Running(child)
}

#[test]
fn alacritty_with_yaml_draws_what_was_written_into_its_sample() {
    if !have(&["alacritty", "Xvfb", "import"]) {
        return;
    }
    let s = Scratch::new();
    let sample = Path::new("/usr/share/doc/alacritty/examples/alacritty.yml");
    let sample = std::fs::read_to_string(sample).unwrap();
    assert!(sample.lines().count() > 500);
    let own =
        "\ncolors:\n  primary:\n    background: '0x101820' # mine\n    foreground: '0xd0d0d0'\n";
    let before = sample + own;
    s.write(".config/alacritty/alacritty.yml", &before);
    let (_screen, display) = screen();
    let _running = alacritty(&s, Path::new("alacritty"), &display);
    wait_for("its window in its own color", || {
        (pixel(&display)? == "#101820").then_some(())
    });
    s.said(&["init"], &[0]);
    // What no dotfile says stays what the program does by itself.
    assert_eq!(
        s.said(&["plan"], &[0]).lines().last(),
        Some("# 0 changes in 0 files")
    );
    s.said(&["set", "black", "#050607"], &[0]);
    s.said(&["set", "background", "#203040"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(
        said.contains("alacritty ") && said.contains("watches"),
        "{said}"
    );
    wait_for("the new pixel", || {
        (pixel(&display)? == "#203040").then_some(())
    });
    let after = s.read(".config/alacritty/alacritty.yml");
    let differing = changed(&before, &after);
    assert_eq!(
        differing[0],
        (
            "    background: '0x101820' # mine".to_owned(),
            "    background: '0x203040' # mine".to_owned()
        )
    );
    assert!(after.contains("\n  normal:\n    black: \"#"), "{after}");
    assert_eq!(
        s.said(&["plan"], &[0]).lines().last(),
        Some("# 0 changes in 0 files")
    );
    // Undo brings every byte back, and the window follows.
    s.said(&["undo"], &[0]);
    assert_eq!(s.read(".config/alacritty/alacritty.yml"), before);
    wait_for("the old pixel", || {
        (pixel(&display)? == "#101820").then_some(())
    });
}

/// Where a file says no colors, they are the program's own, read from the sample it comes with.
#[test]
fn alacritty_by_itself_is_read_as_it_draws() {
    if !have(&["alacritty", "Xvfb", "import"]) {
        return;
    }
    let s = Scratch::new();
    s.write(".config/alacritty/alacritty.yml", "font:\n  size: 12\n");
    let said = s.said(&["survey", "--json"], &[0]);
    let all: serde_json::Value = serde_json::from_str(&said).unwrap();
    let rows = all["ledger"].as_array().unwrap();
    let row = rows.iter().find(|r| r["role"] == "background").unwrap();
    let reading = &row["tools"][0]["readings"][0];
    assert_eq!(reading["standing"], "default", "{row}");
    let (_screen, display) = screen();
    let _running = alacritty(&s, Path::new("alacritty"), &display);
    let wanted = reading["value"].as_str().unwrap().to_owned();
    wait_for("its window in the color that was read", || {
        (pixel(&display)? == wanted).then_some(())
    });
    // What nobody chose is not written.
    s.said(&["init"], &[0]);
    s.said(&["plan"], &[0]);
}

/// An Alacritty that reads TOML: one installed, or one that the test script has built.
fn toml_alacritty() -> Option<PathBuf> {
    let built = std::env::var_os("WEALDMIST_ALACRITTY").map(PathBuf::from);
    built.filter(|p| p.is_file()).or_else(|| {
        let said = Command::new("alacritty").arg("--version").output().ok()?;
        let said = String::from_utf8_lossy(&said.stdout).into_owned();
        let minor: u32 = said.split(['.', ' ']).nth(2)?.parse().ok()?;
        (minor >= 13).then(|| "alacritty".into())
    })
}

#[test]
fn alacritty_with_toml_tells_and_draws_what_was_written() {
    if !have(&["Xvfb", "import"]) {
        return;
    }
    let Some(program) = toml_alacritty() else {
        common::skip("no Alacritty that reads TOML is here");
        return;
    };
    let s = Scratch::new();
    let main = "# é mine\ngeneral.import = [\"colors.toml\"]\n\n[font]\nsize = 11 # points\n\n[window]\npadding = { x = 2, y = 2 }\n";
    let colors = "[colors.primary]\nbackground = \"0x101820\"\nforeground = '#D0D0D0'\n";
    s.write(".config/alacritty/alacritty.toml", main);
    s.write(".config/alacritty/colors.toml", colors);
    let (_screen, display) = screen();
    let running = alacritty(&s, &program, &display);
    wait_for("its window in its own color", || {
        (pixel(&display)? == "#101820").then_some(())
    });
    s.said(&["init"], &[0]);
    s.said(&["set", "background", "#203040"], &[0]);
    for (n, slot) in Slot::ALL.into_iter().enumerate() {
        let own = matches!(slot, Slot::Foreground | Slot::Background | Slot::Cursor);
        if !own {
            s.said(&["set", slot.key(), &format!("#40{n:02x}80")], &[0]);
        }
    }
    s.said(&["set", "cursor", "#e0c080"], &[0]);
    s.said(&["set", "font.size", "12.5"], &[0]);
    s.said(&["set", "window.padding", "6"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(
        said.contains(&format!("alacritty {}", running.0.id()))
            && said.contains("shows what is written"),
        "{said}"
    );
    wait_for("the new pixel", || {
        (pixel(&display)? == "#203040").then_some(())
    });
    let (main, colors) = (
        s.read(".config/alacritty/alacritty.toml"),
        s.read(".config/alacritty/colors.toml"),
    );
    assert!(main.contains("size = 12.5 # points\n"), "{main}");
    assert!(main.contains("padding = { x = 8, y = 8 }\n"), "{main}");
    assert!(colors.contains("background = \"0x203040\"\n"), "{colors}");
    // What the program itself makes of the files.
    let verify = s.said(&["verify", "alacritty"], &[0]);
    assert!(
        verify.contains("shows what is written (22 values asked)"),
        "{verify}"
    );
    // A file with an error in it is told with its line, and left alone.
    s.write(".config/alacritty/alacritty.toml", "[font\n");
    let said = s.said(&["check"], &[0, 1]);
    assert!(said.contains("alacritty.toml:1:"), "{said}");
    s.said(&["apply"], &[0, 1, 3]);
    assert_eq!(s.read(".config/alacritty/alacritty.toml"), "[font\n");
}

#[test]
fn keys_of_older_releases_are_told_as_the_program_itself_moves_them() {
    let Some(program) = toml_alacritty() else {
        common::skip("no Alacritty that reads TOML is here");
        return;
    };
    for (old, value, new) in [
        ("import", "[]", "[general]"),
        ("live_config_reload", "true", "[general]"),
        ("working_directory", "\"None\"", "[general]"),
        ("ipc_socket", "true", "[general]"),
        ("shell", "\"sh\"", "[terminal]"),
        ("draw_bold_text_with_bright_colors", "true", "[colors]"),
        ("key_bindings", "[]", "[keyboard]"),
        ("mouse_bindings", "[]", "[mouse]"),
    ] {
        let s = Scratch::new();
        let path = ".config/alacritty/alacritty.toml";
        s.write(path, &format!("{old} = {value}\n"));
        let migrate = s
            .command(&program)
            .args(["migrate", "-d", "-c"])
            .arg(s.home().join(path))
            .output()
            .unwrap();
        let moved = String::from_utf8(migrate.stdout).unwrap();
        let name = moved
            .lines()
            .skip_while(|l| *l != new)
            .nth(1)
            .unwrap_or_default();
        let (name, _) = name.split_once(" = ").unwrap_or_default();
        let called = format!("it is called {}.{name} now", new.trim_matches(['[', ']']));
        let said = s.said(&["check"], &[0, 1]);
        // An empty list says nothing at all.
        let is_told = said.contains("alacritty.toml:1:") && said.contains(&called);
        assert!(is_told || value == "[]", "{old}: {said}\n{moved}");
    }
}

/// The color in the middle of the compositor's screen.
fn wayland_pixel(s: &Scratch, display: &Path) -> Option<String> {
    let picture = wayland_picture(s, display)?;
    let [r, g, b] = picture
        .get_pixel(picture.width() / 2, picture.height() / 2)
        .0;
    Some(format!("#{r:02x}{g:02x}{b:02x}"))
}

#[test]
fn foot_takes_its_sample_and_its_windows_take_the_colors() {
    if !have(&["foot", "sway", "grim"]) {
        return;
    }
    let s = Scratch::new();
    let sample = std::fs::read_to_string("/etc/xdg/foot/foot.ini").unwrap();
    assert!(sample.lines().count() > 150);
    let before = sample.replace("# background=111111", "background=101820 # mine");
    assert!(before != sample, "{sample}");
    s.write(".config/foot/foot.ini", &before);
    let (_compositor, _folder, display) = wayland();
    let running = foot(&s, &display, &["cat"]);
    wait_for("its window in its own color", || {
        (wayland_pixel(&s, &display)? == "#101820").then_some(())
    });
    s.said(&["init"], &[0]);
    // What the sample leaves to the program stays with it.
    assert_eq!(
        s.said(&["plan"], &[0]).lines().last(),
        Some("# 0 changes in 0 files")
    );
    s.said(&["set", "selection", "#323a3e"], &[0]);
    s.said(&["set", "background", "#203040"], &[0]);
    s.said(&["set", "red", "#d05050"], &[0]);
    s.said(&["set", "font.size", "11"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(
        said.contains(&format!("foot {}", running.0.id())) && said.contains("told the colors"),
        "{said}"
    );
    // The window that is open takes the colors by escapes, without reading its file.
    wait_for("the new pixel", || {
        (wayland_pixel(&s, &display)? == "#203040").then_some(())
    });
    let after = s.read(".config/foot/foot.ini");
    for line in [
        "font=monospace:size=11",
        "background=203040 # mine",
        "regular1=d05050  # red",
        "selection-background=323a3e",
    ] {
        assert!(
            after.lines().any(|l| l == line),
            "{line} is not in\n{after}"
        );
    }
    let kept = before.lines().filter(|l| after.lines().any(|a| a == *l));
    assert_eq!(kept.count(), before.lines().count() - 3);
    // The program itself finds nothing wrong with the file.
    let checked = s.command("foot").arg("--check-config").output().unwrap();
    assert!(checked.status.success(), "{checked:?}");
    // And draws it so from the start.
    drop(running);
    let _running = foot(&s, &display, &["cat"]);
    wait_for("a new window", || {
        (wayland_pixel(&s, &display)? == "#203040").then_some(())
    });
}

#[test]
fn a_program_of_the_same_name_is_not_told() {
    let s = Scratch::new();
    s.write(".config/foot/foot.ini", "[colors]\nbackground=101820\n");
    let program = s.tmp().join("foot");
    std::fs::copy("/bin/sleep", &program).unwrap();
    // What another test starts meanwhile may still hold the copy open for writing.
    let child = wait_for("the copy to start", || {
        s.command(&program).arg("60").spawn().ok()
    });
    let mut running = Running(child);
    let said = s.said(&["reload", "foot"], &[0]);
    assert!(said.contains("not running"), "{said}");
    assert!(running.0.try_wait().unwrap().is_none());
}

/// What a window of a terminal runs: it is filled with a color of the terminal's by its number, or with its ground.
const FILLS: &str = r#"#!/bin/sh
exec 3<> "$HOME/fill"
while read n <&3; do
  case $n in
    end) exit ;;
    own) printf '\033[49m\033[2J\033[H' ;;
    *) printf '\033[48;5;%sm\033[2J\033[H' "$n" ;;
  esac
done
"#;

/// Prepares a home for windows that are filled.
fn fills(s: &Scratch) {
    use std::os::unix::fs::PermissionsExt;
    s.write("fills", FILLS);
    let path = s.home().join("fills");
    std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o755)).unwrap();
    let made = s.command("mkfifo").arg(s.home().join("fill")).status();
    assert!(made.unwrap().success());
}

/// A window that is filled, of a program that wants a session's bus.
fn in_session(s: &Scratch, display: &str, words: &[&str]) -> Running {
    let child = s
        .command("dbus-run-session")
        .arg("--")
        .args(words)
        .arg(s.home().join("fills"))
        .env("DISPLAY", display)
        .env("XDG_RUNTIME_DIR", s.tmp())
        .env("XDG_CACHE_HOME", s.tmp().join("cache"))
        .env("NO_AT_BRIDGE", "1")
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    Running(child)
}

/// Tells what a window runs with what to fill it, or to end.
fn fill(s: &Scratch, with: &str) {
    let said = s
        .command("sh")
        .args(["-c", "printf '%s\\n' \"$1\" > \"$2\"", "sh", with])
        .arg(s.home().join("fill"))
        .status();
    assert!(said.unwrap().success());
}

/// Fills the window, and waits until its middle has a color.
fn filled(s: &Scratch, display: &str, with: &str, color: &str) {
    fill(s, with);
    let mut last = String::new();
    let until = std::time::Instant::now() + std::time::Duration::from_secs(20);
    while last != color {
        assert!(
            std::time::Instant::now() < until,
            "{with} is {last}, not {color}"
        );
        last = pixel(display).unwrap_or_default();
    }
}

/// The 16 terminal colors of a home's setup.
fn palette(s: &Scratch) -> Vec<String> {
    let said = s.said(&["export", "xresources"], &[0]);
    let of = |n: usize| {
        let name = format!("color{n}:");
        let line = said.lines().find(|l| l.contains(&name))?;
        Some(line.split_once(':')?.1.trim().to_owned())
    };
    (0..16)
        .map(|n| of(n).unwrap_or_else(|| panic!("{n} in {said}")))
        .collect()
}

/// Terminals of the X server's resources: each with the words that start one, what its lines begin with, and its
/// sample configuration.
const OF_RESOURCES: [(&str, &[&str], &str, &str); 2] = [
    (
        "xterm",
        &["xterm", "-e"],
        "XTerm*",
        "/etc/X11/app-defaults/XTerm",
    ),
    (
        "urxvt",
        &["urxvt", "-e"],
        "URxvt*",
        "/etc/X11/app-defaults/URxvt",
    ),
];

#[test]
fn terminals_of_the_x_server_draw_what_was_written_into_their_samples() {
    for (name, words, begins, sample) in OF_RESOURCES {
        if !have(&[name, "Xvfb", "import", "xrdb"]) {
            continue;
        }
        let s = Scratch::new();
        fills(&s);
        let sample = std::fs::read_to_string(sample).unwrap();
        let before = format!(
            "{sample}#define reed #101820\n{begins}background: reed\n*foreground: #d0d0d0\n*color1:\t#a04040\n! {begins}color2: #00ff00\n"
        );
        s.write(".Xresources", &before);
        let (_screen, display) = screen();
        let loads = |words: &[&str]| {
            let file = s.home().join(".Xresources");
            let done = s
                .command("xrdb")
                .args(words)
                .arg(file)
                .env("DISPLAY", &display)
                .status();
            assert!(done.unwrap().success());
        };
        loads(&["-load"]);
        let window = || {
            let child = s
                .command(words[0])
                .args(&words[1..])
                .arg(s.home().join("fills"))
                .env("DISPLAY", &display)
                .stdout(Stdio::null())
                .stderr(Stdio::null())
                .spawn()
                .unwrap();
            Running(child)
        };
        let running = window();
        filled(&s, &display, "own", "#101820");
        filled(&s, &display, "1", "#a04040");
        s.said(&["init"], &[0]);
        assert_eq!(
            s.said(&["plan"], &[0]).lines().last(),
            Some("# 0 changes in 0 files"),
            "{name}"
        );
        // What it does by itself is as it draws.
        for (n, color) in palette(&s).iter().enumerate() {
            filled(&s, &display, &n.to_string(), color);
        }
        for (role, color) in [
            ("background", "#203040"),
            ("red", "#d05050"),
            ("green", "#50a050"),
        ] {
            s.said(&["set", role, color], &[0]);
        }
        let applied = s
            .command(env!("CARGO_BIN_EXE_wealdmist"))
            .arg("apply")
            .env("DISPLAY", &display)
            .output();
        let said = String::from_utf8(applied.unwrap().stdout).unwrap();
        assert!(
            said.contains("told the colors") && said.contains("new windows take what is written"),
            "{name}: {said}"
        );
        // The window that is open takes the colors by escapes, a new one from the server.
        filled(&s, &display, "own", "#203040");
        drop(running);
        let _running = window();
        for (n, color) in palette(&s).iter().enumerate() {
            filled(&s, &display, &n.to_string(), color);
        }
        filled(&s, &display, "own", "#203040");
        let after = s.read(".Xresources");
        assert!(
            after.contains("#define reed #203040\n") && after.contains("\n*color1:\t#d05050\n"),
            "{after}"
        );
        assert!(
            after.contains(&format!("! {begins}color2: #00ff00\n")),
            "{after}"
        );
        let lost = before
            .lines()
            .filter(|line| !after.lines().any(|l| l == *line));
        assert_eq!(lost.count(), 2, "{after}");
        s.said(&["undo"], &[0]);
        assert_eq!(s.read(".Xresources"), before);
    }
}

#[test]
fn the_terminal_of_xfce_draws_what_was_written() {
    if !have(&["xfce4-terminal", "Xvfb", "import", "dbus-run-session"]) {
        return;
    }
    let s = Scratch::new();
    fills(&s);
    let before = "# mine\n[Configuration]\nMiscBell=FALSE\nColorBackground=#101820\nColorCursor=#ff0000\nColorCursorUseDefault=TRUE\nFontName=DejaVu Sans Mono Bold 12\nMiscDefaultGeometry=80x24\nMiscMenubarDefault=FALSE\n";
    s.write(".config/xfce4/terminal/terminalrc", before);
    let (_screen, display) = screen();
    let _running = in_session(&s, &display, &["xfce4-terminal", "--disable-server", "-x"]);
    filled(&s, &display, "own", "#101820");
    s.said(&["init"], &[0]);
    assert_eq!(
        s.said(&["plan"], &[0]).lines().last(),
        Some("# 0 changes in 0 files")
    );
    // What it does by itself is as it draws.
    for (n, color) in palette(&s).iter().enumerate() {
        filled(&s, &display, &n.to_string(), color);
    }
    for (role, color) in [
        ("background", "#203040"),
        ("red", "#d05050"),
        ("cursor", "#00ff00"),
    ] {
        s.said(&["set", role, color], &[0]);
    }
    s.said(&["set", "font.size", "10"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(said.contains("it watches its files"), "{said}");
    // The window that is open takes them up by itself.
    filled(&s, &display, "own", "#203040");
    for (n, color) in palette(&s).iter().enumerate() {
        filled(&s, &display, &n.to_string(), color);
    }
    let after = s.read(".config/xfce4/terminal/terminalrc");
    let begin = "# mine\n[Configuration]\nMiscBell=FALSE\nColorBackground=#203040\nColorCursor=#00ff00\nColorCursorUseDefault=FALSE\nFontName=DejaVu Sans Mono Bold 10\n";
    assert!(after.starts_with(begin), "{after}");
    assert_eq!(
        s.said(&["plan"], &[0]).lines().last(),
        Some("# 0 changes in 0 files")
    );
    s.said(&["undo"], &[0]);
    assert_eq!(s.read(".config/xfce4/terminal/terminalrc"), before);
}

#[test]
fn konsole_draws_the_scheme_that_its_profile_names() {
    if !have(&["konsole", "Xvfb", "import", "dbus-run-session"]) {
        return;
    }
    let s = Scratch::new();
    fills(&s);
    let settings = "[Desktop Entry]\nDefaultProfile=Tide.profile\n\n[KonsoleWindow]\nShowMenuBarByDefault=false\n";
    let profile = "[Appearance]\nFont=DejaVu Sans Mono,12,-1,5,50,0,0,0,0,0\n\n[General]\nName=Tide\nParent=FALLBACK/\n\n[Scrolling]\nScrollBarPosition=2\n";
    s.write(".config/konsolerc", settings);
    s.write(".local/share/konsole/Tide.profile", profile);
    let (_screen, display) = screen();
    let window = || {
        let words = ["konsole", "--hide-menubar", "--hide-tabbar", "-e"];
        in_session(&s, &display, &words)
    };
    let running = window();
    s.said(&["init"], &[0]);
    assert_eq!(
        s.said(&["plan"], &[0]).lines().last(),
        Some("# 0 changes in 0 files")
    );
    // What it draws by itself is the scheme it came with.
    let by_itself = palette(&s);
    for (n, color) in by_itself.iter().enumerate() {
        filled(&s, &display, &n.to_string(), color);
    }
    // A color and the size: the scheme that cannot be changed gives way to one of ours.
    for (role, value) in [
        ("red", "#d05050"),
        ("background", "#203040"),
        ("font.size", "10"),
    ] {
        s.said(&["set", role, value], &[0]);
    }
    s.said(&["apply"], &[0]);
    let closed = |mut running: Running| {
        fill(&s, "end");
        wait_for("its window to close", || running.0.try_wait().unwrap());
    };
    closed(running);
    let running = window();
    filled(&s, &display, "own", "#203040");
    for (n, color) in palette(&s).iter().enumerate() {
        filled(&s, &display, &n.to_string(), color);
        let same = n == 1 || *color == by_itself[n];
        assert!(same, "{n} was {} and is {color}", by_itself[n]);
    }
    let after = s.read(".local/share/konsole/Tide.profile");
    let wanted = profile.replace(
        "Font=DejaVu Sans Mono,12,-1,5,50,0,0,0,0,0\n",
        "Font=DejaVu Sans Mono,10,-1,5,50,0,0,0,0,0\nColorScheme=wealdmist\n",
    );
    assert_eq!(after, wanted);
    assert_eq!(
        s.read(".config/konsolerc").lines().next(),
        settings.lines().next()
    );
    // From then on windows that are open take what changes.
    s.said(&["set", "background", "#402010"], &[0]);
    s.said(&["set", "bright-blue", "#6090f0"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(said.contains("told the colors"), "{said}");
    filled(&s, &display, "own", "#402010");
    for (n, color) in palette(&s).iter().enumerate() {
        filled(&s, &display, &n.to_string(), color);
    }
    closed(running);
    s.said(&["undo"], &[0]);
    s.said(&["undo"], &[0]);
    assert_eq!(s.read(".local/share/konsole/Tide.profile"), profile);
}
