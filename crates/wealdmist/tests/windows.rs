//! Windows of real terminals: what the setup says of size, padding and image is what they have.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::path::{Path, PathBuf};
use std::process::Stdio;

use common::{Running, Scratch, have, screen, skip, wait_for};

/// Writes how many rows and columns the window has, once nothing resizes it any more, and stays.
const TELLS: &str = r#"#!/bin/sh
last=
while :; do
  now=$(stty size)
  [ "$now" = "$last" ] && echo "$now" > "$HOME/size"
  last=$now
  sleep 0.3
done
"#;

/// A window of a terminal that runs a script of the home.
fn window(s: &Scratch, display: &str, words: &[&str], script: &str) -> Running {
    use std::os::unix::fs::PermissionsExt;
    let path = s.home().join("runs");
    s.write("runs", script);
    std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o755)).unwrap();
    let child = s
        .command(words[0])
        .args(&words[1..])
        .arg(path)
        .env("DISPLAY", display)
        .env("LIBGL_ALWAYS_SOFTWARE", "1")
        .env("XDG_RUNTIME_DIR", s.tmp())
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    Running(child)
}

/// The terminals that say their size in cells, the words that start each, and their file.
fn terminals() -> Vec<(&'static str, PathBuf, &'static [&'static str], &'static str)> {
    let plain = |name: &'static str| (name, PathBuf::from(name));
    let mut out = Vec::new();
    let (name, program) = plain("kitty");
    out.push((name, program, &[][..], ".config/kitty/kitty.conf"));
    for (name, program) in [plain("xterm"), plain("urxvt")] {
        out.push((name, program, &["-e"][..], ".Xresources"));
    }
    match std::env::var_os("WEALDMIST_ALACRITTY") {
        Some(built) => {
            let file = ".config/alacritty/alacritty.toml";
            out.push(("alacritty", built.into(), &["-e"][..], file));
        }
        None => skip("no Alacritty that reads TOML is here"),
    }
    out
}

#[test]
fn windows_open_in_the_size_that_was_written() {
    for (name, program, words, file) in terminals() {
        let installed = !program.is_absolute();
        if !have(&["Xvfb", "xrdb"]) || (installed && !have(&[name])) {
            continue;
        }
        let s = Scratch::new();
        let begins = match name {
            "xterm" => "XTerm*foreground: #d0d0d0\n",
            "urxvt" => "URxvt*foreground: #d0d0d0\n",
            _ => "\n",
        };
        s.write(file, begins);
        s.said(&["init"], &[0]);
        s.said(&["set", "window.columns", "97"], &[0]);
        s.said(&["set", "window.rows", "21"], &[0]);
        s.said(&["set", "window.padding", "6"], &[0]);
        s.said(&["apply"], &[0, 3]);
        let (_screen, display) = screen();
        if file == ".Xresources" {
            let load = s
                .command("xrdb")
                .arg("-merge")
                .arg(s.home().join(file))
                .env("DISPLAY", &display)
                .status();
            assert!(load.unwrap().success());
        }
        let all: Vec<&str> = [program.to_str().unwrap()]
            .iter()
            .chain(words)
            .copied()
            .collect();
        let _running = window(&s, &display, &all, TELLS);
        let told = wait_for("the window's size", || {
            let said = std::fs::read_to_string(s.home().join("size")).ok()?;
            said.ends_with('\n').then_some(said)
        });
        assert_eq!(told, "21 97\n", "{name}: {}", s.read(file));
    }
}

/// The colors of some pixels of a screen, as `#rrggbb`.
fn pixels(display: &str, folder: &Path, at: &[(u32, u32)]) -> Option<Vec<String>> {
    let path = folder.join("screen.png");
    let taken = std::process::Command::new("import")
        .args(["-display", display, "-window", "root"])
        .arg(&path)
        .stderr(Stdio::null())
        .status();
    taken.ok().filter(std::process::ExitStatus::success)?;
    let picture = image::open(path).ok()?.to_rgb8();
    let one = |(x, y): &(u32, u32)| {
        let [r, g, b] = picture.get_pixel_checked(*x, *y)?.0;
        Some(format!("#{r:02x}{g:02x}{b:02x}"))
    };
    at.iter().map(one).collect()
}

#[test]
fn the_padding_and_the_image_under_its_tint_are_as_they_were_written() {
    if !have(&["kitty", "Xvfb", "import"]) {
        return;
    }
    let s = Scratch::new();
    let picture = image::RgbImage::from_pixel(8, 8, image::Rgb([200, 100, 0]));
    picture.save(s.home().join("reeds.png")).unwrap();
    s.write(
        ".config/kitty/kitty.conf",
        "background #102030\nforeground #d0d0d0\nhide_window_decorations yes\ncursor_blink_interval 0\n",
    );
    s.said(&["init"], &[0]);
    for (name, value) in [
        ("window.columns", "40"),
        ("window.rows", "10"),
        ("window.padding", "30 60"),
        ("window.image", "~/reeds.png"),
        ("window.image-fit", "tile"),
        ("window.image-tint", "0.75"),
    ] {
        s.said(&["set", name, value], &[0]);
    }
    s.said(&["apply"], &[0, 3]);
    let (_screen, display) = screen();
    // Cells are filled with a color of their own, so the padding shows.
    let fills = "#!/bin/sh\nprintf '\\033[48;2;1;2;3m\\033[2J\\033[H\\033[?25l'; sleep 60\n";
    let _running = window(&s, &display, &["kitty"], fills);
    // 30 points down and 60 across are 40 and 80 pixels at 96 to the inch.
    let seen = wait_for("the window", || {
        let all = pixels(
            &display,
            &s.tmp(),
            &[(78, 60), (84, 60), (100, 38), (100, 44)],
        )?;
        (all[1] != all[0] && all[0] != "#000000").then_some(all)
    });
    // A quarter of the image and three of the ground in the padding; cells begin behind it.
    let file = s.read(".config/kitty/kitty.conf");
    assert_eq!(
        (seen[0].as_str(), seen[2].as_str()),
        ("#3e3124", "#3e3124"),
        "{file}"
    );
    assert_eq!(seen[1], seen[3], "{file}");
}

#[test]
fn what_is_drawn_is_judged_through_the_persons_own_window() {
    let s = Scratch::new();
    let conf = ".config/kitty/kitty.conf";
    s.write(
        conf,
        "background #101820\nforeground #909090\ncolor1 #909090\nbackground_opacity 1\n",
    );
    s.said(&["init"], &[0]);
    let check = |codes: &[i32]| s.said(&["check"], codes);
    let failing = |said: &str| said.lines().filter(|l| l.contains(" contrast: ")).count();
    let plain = failing(&check(&[0, 1]));
    // A window that lets half of what is behind it through, which nobody knows.
    s.said(&["set", "window.opacity", "0.5"], &[0]);
    let through = failing(&check(&[0, 1]));
    assert!(through > plain, "{through}, {plain}");
    let said = s.said(&["contrast"], &[0, 1]);
    assert!(said.contains("50% opaque over any wallpaper"), "{said}");
    // A dark picture behind it hides nothing.
    let dark = image::RgbImage::from_pixel(8, 8, image::Rgb([8, 12, 16]));
    dark.save(s.home().join("night.png")).unwrap();
    s.said(&["set", "window.wallpaper", "~/night.png"], &[0]);
    assert_eq!(failing(&check(&[0, 1])), plain);
    // What is asked for counts before it.
    let said = s.said(&["contrast", "--opacity", "0.9"], &[0, 1]);
    assert!(said.contains("90% opaque over any wallpaper"), "{said}");
    // An image on the ground is seen under its tint; a bright one makes text unreadable.
    let bright = image::RgbImage::from_pixel(8, 8, image::Rgb([250, 250, 240]));
    bright.save(s.home().join("noon.png")).unwrap();
    s.said(&["set", "window.image", "~/noon.png"], &[0]);
    s.said(&["set", "window.image-tint", "0.4"], &[0]);
    assert!(failing(&check(&[0, 1])) > plain);
    s.said(&["set", "window.image-tint", "0.97"], &[0]);
    assert_eq!(failing(&check(&[0, 1])), plain);
    // The drawing shows it.
    let svg = s.home().join("window.svg");
    s.said(&["draw", "window", "--output", svg.to_str().unwrap()], &[0]);
    assert!(
        std::fs::read_to_string(svg)
            .unwrap()
            .contains("kitty   80 x 24")
    );
}

#[test]
fn images_that_cannot_be_shown_are_told_where_they_are_named() {
    let s = Scratch::new();
    let conf = ".config/kitty/kitty.conf";
    for (name, says) in [
        ("/home/somebody/reeds.png", "is a path of another machine"),
        (
            "/nowhere/reeds.png",
            "there is no image '/nowhere/reeds.png'",
        ),
        ("~/notes.txt", "PNG, JPEG or WebP"),
    ] {
        s.write("notes.txt", "no image\n");
        s.write(
            conf,
            &format!("background #101820\n\nbackground_image {name}\n"),
        );
        let said = s.said(&["check"], &[0, 1]);
        let line = said
            .lines()
            .find(|l| l.contains(" image: "))
            .unwrap_or_default();
        assert!(
            line.contains("kitty.conf:3:") && line.contains(says),
            "{said}"
        );
    }
    // One that moves, as its file says.
    let mut bytes = Vec::new();
    let picture = image::RgbImage::from_pixel(4, 4, image::Rgb([1, 2, 3]));
    let mut to = std::io::Cursor::new(&mut bytes);
    picture.write_to(&mut to, image::ImageFormat::Png).unwrap();
    // A chunk of control for two frames, with its sum left as it may be: it stands behind the head.
    let mut moves = bytes[..33].to_vec();
    moves.extend_from_slice(b"\0\0\0\x08acTL\0\0\0\x02\0\0\0\0");
    moves.extend_from_slice(&crc(b"acTL\0\0\0\x02\0\0\0\0").to_be_bytes());
    moves.extend_from_slice(&bytes[33..]);
    std::fs::write(s.home().join("moves.png"), moves).unwrap();
    s.write(conf, "background_image ~/moves.png\n");
    let said = s.said(&["check"], &[0, 1]);
    assert!(said.contains(" image: '~/moves.png' moves"), "{said}");
}

/// The sum of a PNG chunk, by its definition (ISO/IEC 15948, annex D).
fn crc(bytes: &[u8]) -> u32 {
    let mut sum = u32::MAX;
    for byte in bytes {
        sum ^= u32::from(*byte);
        for _ in 0..8 {
            sum = (sum >> 1) ^ if sum & 1 == 1 { 0xedb8_8320 } else { 0 };
        }
    }
    !sum
}

/// Gives itself a title, as shells do, and stays.
const CALLS_ITSELF: &str = "#!/bin/sh\nprintf '\\033]2;of the program\\007'\nsleep 60\n";

#[test]
fn windows_have_the_title_that_was_written() {
    let built = std::env::var_os("WEALDMIST_ALACRITTY").map(PathBuf::from);
    if built.is_none() {
        skip("no Alacritty that reads TOML is here");
    }
    let alacritty = ".config/alacritty/alacritty.toml";
    let of_its_own = built
        .iter()
        .map(|path| (path.clone(), alacritty, "\n", true));
    let urxvt = (
        PathBuf::from("urxvt"),
        ".Xresources",
        "URxvt*foreground: #d0d0d0\n",
        false,
    );
    for (program, file, begins, keeps) in of_its_own.chain([urxvt]) {
        let name = program.to_str().unwrap();
        if !have(&["Xvfb", "xrdb", "xwininfo"]) || (!program.is_absolute() && !have(&[name])) {
            continue;
        }
        let s = Scratch::new();
        s.write(file, begins);
        s.said(&["init"], &[0]);
        s.said(&["set", "window.title", "Marsh 'gauge' 3"], &[0]);
        s.said(&["set", "window.title-set", "off"], &[0]);
        s.said(&["apply"], &[0, 3]);
        let (_screen, display) = screen();
        if file == ".Xresources" {
            let mut load = s.command("xrdb");
            load.arg("-merge").arg(s.home().join(file));
            let load = load.env("DISPLAY", &display).status();
            assert!(load.unwrap().success());
        }
        let stays = "#!/bin/sh\nsleep 60\n";
        let script = if keeps { CALLS_ITSELF } else { stays };
        let _running = window(&s, &display, &[name, "-e"], script);
        let tree = || {
            let said = s
                .command("xwininfo")
                .args(["-root", "-tree", "-display", &display])
                .output();
            let said = String::from_utf8_lossy(&said.ok()?.stdout).into_owned();
            said.contains("\"Marsh 'gauge' 3\"").then_some(said)
        };
        wait_for("the title", tree);
        // Long enough for a program to have changed it.
        std::thread::sleep(std::time::Duration::from_millis(700));
        assert!(tree().is_some(), "{name}: {}", s.read(file));
    }
}

#[test]
fn tabs_are_called_as_kitty_works_it_out() {
    if !have(&["kitty"]) {
        return;
    }
    const ASKS: &str = "import os
from types import SimpleNamespace
from kitty.config import load_config
from kitty.tab_bar import compile_template
text = load_config(os.environ['CONF']).tab_title_template
tab = SimpleNamespace(active_wd='/srv/marsh')
print(eval(compile_template(text), {'__builtins__': {}}, {'index': 3, 'title': 'reed', 'tab': tab}))
";
    let conf = ".config/kitty/kitty.conf";
    let before = "background #101820\n";
    for (title, shown) in [
        ("{number}: {title}", Some("3: reed")),
        ("{folder} | {{{title}}}", Some("/srv/marsh | {reed}")),
        ("été {number}/{number}", Some("été 3/3")),
        // What it has no word for, and what would be carried out, is left alone.
        ("{program}", None),
        ("{index}", None),
        ("{__import__('os').system('id')}", None),
        ("\" + str(1) + \"", None),
        ("a\\x41", None),
        ("100% {title}", None),
    ] {
        let s = Scratch::new();
        s.write(conf, before);
        s.said(&["init"], &[0]);
        s.said(&["set", "window.tab-title", title], &[0]);
        s.said(&["apply"], &[0, 3]);
        let file = s.read(conf);
        let Some(shown) = shown else {
            assert_eq!(file, before, "{title}");
            continue;
        };
        let said = s
            .command("kitty")
            .args(["+runpy", ASKS])
            .env("CONF", s.home().join(conf))
            .output()
            .unwrap();
        let said = String::from_utf8_lossy(&said.stdout).into_owned();
        assert_eq!(said.trim_end_matches('\n'), shown, "{file}");
        // Once more there is nothing to do.
        assert!(s.said(&["plan"], &[0, 3]).contains("# 0 changes"), "{file}");
    }
}
