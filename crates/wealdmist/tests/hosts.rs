//! What terminals draw themselves, whatever the font has: seen in their windows.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::collections::{BTreeMap, BTreeSet};
use std::ops::RangeInclusive;
use std::process::{Command, Stdio};

use image::{GenericImageView, GrayImage};

use wealdmist_core::terminal::TerminalRecord;
use wealdmist_tools::Facts;
use wealdmist_tools::access::MemoryAccess;
use wealdmist_tools::fonts::drawn_by_itself;

use common::wayland::{foot, wayland, wayland_picture};
use common::{Running, Scratch, have, screen_of, skip, wait_for};

/// The family in which every sign looks like the letter o.
const FAMILY: &str = "Teasel Mono";

/// Signs that terminals may draw themselves, and some beside them.
const SIGNS: [RangeInclusive<u32>; 6] = [
    0x23ba..=0x23bd,
    0x2500..=0x25f0,
    0x2800..=0x28ff,
    0xe0a0..=0xe0d7,
    0x1_fb00..=0x1_fb92,
    0x1_fb94..=0x1_fbca,
];
/// How many signs are in a row, and how many rows on a page.
const ACROSS: usize = 25;
const DOWN: usize = 11;
/// From one sign of a row to the next, in columns: each has a letter behind it.
const STEP: usize = 3;

fn signs() -> Vec<char> {
    let all = SIGNS.into_iter().flatten();
    all.map(|c| char::from_u32(c).unwrap()).collect()
}

/// The line of a page's mark, counted from 0; and the column of the first page's.
const MARK: (usize, usize) = (22, 40);

/// A page as it is written: rows of a letter, the signs, a letter; on every other line. Last comes a letter
/// whose column is the page's own: once it is there, all is.
fn page(number: usize, signs: &[char]) -> String {
    let mut out = "\u{1b}[?25l\u{1b}[H\u{1b}[2J".to_owned();
    for row in signs.chunks(ACROSS) {
        let all: Vec<String> = row.iter().map(|sign| format!("{sign}o")).collect();
        let blank = vec!["oo".to_owned(); ACROSS - row.len()];
        out += &format!("o  {} o\r\n\r\n", [all, blank].concat().join(" "));
    }
    out += &format!("\u{1b}[{};{}Ho", MARK.0 + 1, MARK.1 + 2 * number + 1);
    out
}

/// The signs of a page that do not look like the letter at the start of their row; `None` where the
/// page is not there yet.
fn drawn_otherwise(picture: &GrayImage, number: usize, signs: &[char]) -> Option<Vec<u32>> {
    let rows = signs.len().div_ceil(ACROSS);
    let mut grays = [0_u32; 256];
    for (_, _, pixel) in picture.view(0, 0, 500, 300).pixels() {
        grays[pixel.0[0] as usize] += 1;
    }
    let ground = (0..=u8::MAX).max_by_key(|gray| grays[*gray as usize])?;
    // What stands above the text is as bright as nothing in it.
    let bright = |y: &u32| {
        let away = (0..500).filter(|x| picture.get_pixel(*x, *y).0[0].abs_diff(ground) > 60);
        away.count() > 400
    };
    let head = (0..100).rev().find(bright).map_or(0, |y| y + 2);
    let picture = picture.view(0, head, picture.width(), picture.height() - head);
    let ink = |x: u32, y: u32| {
        let inside = x < picture.width() && y < picture.height();
        if inside {
            i32::from(picture.get_pixel(x, y).0[0].abs_diff(ground))
        } else {
            0
        }
    };
    let most = (0..picture.width())
        .flat_map(|x| (0..picture.height()).map(move |y| (x, y)))
        .map(|(x, y)| ink(x, y))
        .max()?;
    let inked = |x: u32, y: u32| ink(x, y) > most / 2;
    // The first letter, and from it the line.
    let left = (0..40).find(|x| (0..picture.height()).any(|y| inked(*x, y)))?;
    let letter = |x: u32, y: u32| (x..x + 4).any(|x| inked(x, y));
    let mut tops = Vec::new();
    let mut y = 0;
    while y < picture.height() && tops.len() < rows {
        if letter(left, y) {
            let bottom = (y..picture.height()).find(|y| !letter(left, *y))?;
            // A round letter is open at its sides: what belongs to it is near.
            match tops.last_mut() {
                Some((_, last)) if y - *last < 4 => *last = bottom,
                _ => tops.push((y, bottom)),
            }
            y = bottom;
        }
        y += 1;
    }
    let columns = (1 + ACROSS) * STEP;
    let (top, bottom) = *tops.first()?;
    let inked_column = |x: u32| (top..bottom).any(|y| inked(x, y));
    let last = (0..picture.width()).rev().find(|x| inked_column(*x))?;
    let first_end = (left..).find(|x| !inked_column(*x))?;
    if tops.len() < rows {
        return None;
    }
    let width = f64::from(last + 1 - first_end) / columns as f64;
    let line = f64::from(tops.get(1)?.0 - top) / 2.0;
    let mark_top = f64::from(top) + line * MARK.0 as f64;
    let mark_left = f64::from(left) + width * (MARK.1 + 2 * number) as f64;
    let (mark_top, mark_left) = (mark_top.round() as u32, mark_left.round() as u32);
    let wide = first_end - left;
    let is_marked = (mark_top..mark_top + bottom - top)
        .any(|y| (mark_left..mark_left + wide).any(|x| inked(x, y)));
    if !is_marked {
        return None;
    }
    let mut out = Vec::new();
    for ((top, bottom), row) in tops.into_iter().zip(signs.chunks(ACROSS)) {
        for (i, sign) in row.iter().enumerate() {
            let at = f64::from(left) + width * (STEP * (i + 1)) as f64;
            let differs = |shift: i32| {
                let mut sum = 0;
                let mut whole = 0;
                for y in top.saturating_sub(3)..bottom + 3 {
                    for x in 0..first_end - left {
                        let there = (at.round() as i32 + shift).max(0) as u32 + x;
                        sum += ink(there, y).abs_diff(ink(left + x, y));
                        whole += ink(left + x, y);
                    }
                }
                f64::from(sum) / f64::from(whole.max(1))
            };
            let best = (-1..=1).map(differs).fold(f64::MAX, f64::min);
            if best > 0.35 {
                out.push(*sign as u32);
            }
        }
    }
    Some(out)
}

/// The signs that we say a terminal draws itself with these files.
fn said(tool: &str, files: &[(&str, &str)]) -> BTreeSet<u32> {
    let adapter = wealdmist_tools::adapter(tool).unwrap();
    let report = adapter.read(&MemoryAccess::with(files), &mut Facts::default());
    let own = drawn_by_itself(adapter.fonts().unwrap(), &report, None);
    let all = SIGNS.into_iter().flatten();
    all.filter(|c| own.iter().any(|r| r.contains(c))).collect()
}

fn x_picture(s: &Scratch, display: &str) -> Option<GrayImage> {
    let path = s.tmp().join("screen.png");
    let taken = Command::new("import")
        .args(["-display", display, "-window", "root"])
        .arg(&path)
        .stderr(Stdio::null())
        .status();
    taken.ok().filter(std::process::ExitStatus::success)?;
    Some(image::open(path).ok()?.to_luma8())
}

/// A home with the font and a script that writes the pages asked for.
fn home() -> Scratch {
    use std::os::unix::fs::PermissionsExt;
    let s = Scratch::new();
    let folder = s.home().join(".local/share/fonts");
    std::fs::create_dir_all(&folder).unwrap();
    let font = wealdmist_fonts::alike(FAMILY, &signs());
    std::fs::write(folder.join("Teasel.ttf"), font).unwrap();
    s.write(
        "runs",
        "#!/bin/sh\nstty -echo\nwhile :; do read -r page < \"$HOME/asked\" && cat \"$HOME/$page\"; done\n",
    );
    let script = s.home().join("runs");
    std::fs::set_permissions(script, std::fs::Permissions::from_mode(0o755)).unwrap();
    let made = Command::new("mkfifo").arg(s.home().join("asked")).status();
    assert!(made.unwrap().success());
    s
}

/// The signs that a window draws itself: page by page, once nothing changes any more.
fn seen(s: &Scratch, tool: &str, mut picture: impl FnMut() -> Option<GrayImage>) -> BTreeSet<u32> {
    let mut out = BTreeSet::new();
    for (number, of_page) in signs().chunks(ACROSS * DOWN).enumerate() {
        s.write(&format!("page-{number}"), &page(number, of_page));
        // A window that takes its size while it is written to breaks lines: it is asked again.
        let ask = || {
            let words = ["10", "sh", "-c", "printf '%s\\n' \"$1\" > \"$2\"", "sh"];
            let mut asks = s.command("timeout");
            let asks = asks.args(words).arg(format!("page-{number}"));
            let done = asks.arg(s.home().join("asked")).status();
            assert!(done.unwrap().success(), "{tool} has ended");
        };
        let mut tries = 0;
        let mut last = None;
        out.extend(wait_for(&format!("a page in {tool}"), || {
            if tries % 10 == 0 {
                ask();
            }
            tries += 1;
            std::thread::sleep(std::time::Duration::from_millis(300));
            let now = picture()?;
            let same = last.as_ref() == Some(&now);
            let drawn = drawn_otherwise(&now, number, of_page);
            last = Some(now);
            drawn.filter(|_| same)
        }));
    }
    out
}

/// Code points as ranges.
fn ranges(codes: impl IntoIterator<Item = u32>) -> String {
    let mut out: Vec<(u32, u32)> = Vec::new();
    for code in codes {
        match out.last_mut() {
            Some((_, last)) if *last + 1 == code => *last = code,
            _ => out.push((code, code)),
        }
    }
    let one = |(from, to): (u32, u32)| match from == to {
        true => format!("{from:X}"),
        false => format!("{from:X}–{to:X}"),
    };
    out.into_iter().map(one).collect::<Vec<_>>().join(" ")
}

/// Compares, and tells what differs.
fn compare(tool: &str, files: &[(&str, &str)], seen: &BTreeSet<u32>, wrong: &mut Vec<String>) {
    let said = said(tool, files);
    if *seen != said {
        wrong.push(format!(
            "{tool} with {files:?} draws itself {}; we say {}",
            ranges(seen.iter().copied()),
            ranges(said)
        ));
    }
}

/// A terminal: the words that start it, and its files.
type Terminal<'a> = (&'a str, &'a [&'a str], &'a [(&'a str, &'a str)]);

fn window(s: &Scratch, display: &str, words: &[&str]) -> Running {
    let child = s
        .command(words[0])
        .args(&words[1..])
        .arg(s.home().join("runs"))
        .env("DISPLAY", display)
        .env("LIBGL_ALWAYS_SOFTWARE", "1")
        .env("XDG_RUNTIME_DIR", s.tmp())
        .env("XDG_CACHE_HOME", s.tmp().join("cache"))
        .env("NO_AT_BRIDGE", "1")
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    Running(child)
}

#[test]
fn terminals_draw_the_signs_themselves_that_we_say() {
    let built = std::env::var("WEALDMIST_ALACRITTY").unwrap_or_default();
    let off = "[font]\nsize=12\nbuiltin_box_drawing=false\n[font.normal]\nfamily='Teasel Mono'\n";
    let toml = "[font]\nsize=12\n[font.normal]\nfamily='Teasel Mono'\n";
    let ini = "[Configuration]\nFontName=Teasel Mono 12\nFontUseSystem=FALSE\nMiscMenubarDefault=FALSE\nScrollingBar=TERMINAL_SCROLLBAR_NONE\n";
    let profile = "[Appearance]\nFont=Teasel Mono,12,-1,5,50,0,0,0,0,0\n[General]\nName=Tide\nShowTerminalSizeHint=false\nParent=FALLBACK/\n[Scrolling]\nScrollBarPosition=2\n";
    let lined = profile.replace("[General]", "UseFontLineChararacters=true\n[General]");
    let konsole: &[&str] = &[
        "dbus-run-session",
        "--",
        "konsole",
        "--hide-menubar",
        "--hide-tabbar",
        "-e",
    ];
    let rc = "[Desktop Entry]\nDefaultProfile=Tide.profile\n[KonsoleWindow]\nShowMenuBarByDefault=false\n";
    let all: [Terminal<'_>; 7] = [
        (
            "kitty",
            &["kitty"],
            &[(
                ".config/kitty/kitty.conf",
                "font_family Teasel Mono\nfont_size 12\nremember_window_size no\ninitial_window_width 84c\ninitial_window_height 24c\n",
            )],
        ),
        (
            "alacritty",
            &[&built, "-e"],
            &[(".config/alacritty/alacritty.toml", toml)],
        ),
        (
            "alacritty",
            &[&built, "-e"],
            &[(".config/alacritty/alacritty.toml", off)],
        ),
        (
            "xterm",
            &[
                "xterm", "-fa", FAMILY, "-fs", "12", "-bw", "0", "-b", "0", "-bg", "black", "-fg",
                "white", "-e",
            ],
            &[],
        ),
        (
            "xfce4-terminal",
            &[
                "dbus-run-session",
                "--",
                "xfce4-terminal",
                "--disable-server",
                "-x",
            ],
            &[(".config/xfce4/terminal/terminalrc", ini)],
        ),
        (
            "konsole",
            konsole,
            &[
                (".config/konsolerc", rc),
                (".local/share/konsole/Tide.profile", profile),
            ],
        ),
        (
            "konsole",
            konsole,
            &[
                (".config/konsolerc", rc),
                (".local/share/konsole/Tide.profile", &lined),
            ],
        ),
    ];
    let mut wrong = Vec::new();
    for (tool, words, files) in all {
        if tool == "alacritty" && built.is_empty() {
            skip("no Alacritty that reads TOML is here");
            continue;
        }
        let program = words.iter().find(|w| **w == tool);
        if !have(&["Xvfb", "import"]) || program.is_some_and(|p| !have(&[p])) {
            continue;
        }
        let s = home();
        for (path, text) in files {
            s.write(path, text);
        }
        let (_screen, display) = screen_of("1000x600");
        let _running = window(&s, &display, words);
        let seen = seen(&s, tool, || x_picture(&s, &display));
        compare(tool, files, &seen, &mut wrong);
    }
    if have(&["foot", "sway", "grim"]) {
        for rest in ["", "box-drawings-uses-font-glyphs=yes\n"] {
            let s = home();
            let ini = format!("font=Teasel Mono:size=12\npad=0x0\n{rest}");
            let files = [(".config/foot/foot.ini", &*ini)];
            s.write(files[0].0, files[0].1);
            let (_compositor, _folder, display) = wayland();
            let script = s.home().join("runs");
            let _running = foot(&s, &display, &[script.to_str().unwrap()]);
            let gray = |picture| image::DynamicImage::ImageRgb8(picture).to_luma8();
            let seen = seen(&s, "foot", || wayland_picture(&s, &display).map(gray));
            compare("foot", &files, &seen, &mut wrong);
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// What a window measured of its terminal, by our own program in it: which terminal it takes itself to be in, and the cells of
/// each cluster.
fn measured(s: &Scratch, tool: &str) -> (Option<String>, BTreeMap<String, usize>) {
    let record = s.home().join(".local/state/wealdmist/terminals.json");
    wait_for(&format!("what was measured in {tool}"), || {
        let refused = std::fs::read_to_string(s.home().join("refused")).unwrap_or_default();
        assert!(refused.is_empty(), "{tool}: {refused}");
        let bytes = std::fs::read(&record).ok()?;
        let all: Vec<TerminalRecord> = serde_json::from_slice(&bytes).ok()?;
        let own = all.into_iter().next()?;
        Some((own.host, own.widths))
    })
}

/// A home in which what a terminal runs is our program, which measures it.
fn measuring() -> Scratch {
    use std::os::unix::fs::PermissionsExt;
    let s = Scratch::new();
    let program = env!("CARGO_BIN_EXE_wealdmist");
    // Some terminals take the home that the system knows.
    let home = s.home().display().to_string();
    s.write(
        "runs",
        &format!(
            "#!/bin/sh\nexport HOME='{home}'\n'{program}' terminal --measure 2>\"$HOME/refused\"\nexec sleep 60\n"
        ),
    );
    let script = s.home().join("runs");
    std::fs::set_permissions(script, std::fs::Permissions::from_mode(0o755)).unwrap();
    s
}

#[test]
fn terminals_count_cells_as_we_say_and_are_recognised() {
    let built = std::env::var("WEALDMIST_ALACRITTY").unwrap_or_default();
    let mut wrong = Vec::new();
    let mut compare = |tool: &str, (host, widths): (Option<String>, BTreeMap<String, usize>)| {
        if host.as_deref() != Some(tool) {
            wrong.push(format!("{tool} is taken for {host:?}"));
        }
        let counts = wealdmist_tools::adapter(tool).unwrap().tables()[0]
            .term
            .counts;
        assert!(widths.len() > 20, "{tool}: {widths:?}");
        for (cluster, cells) in widths {
            // What is newer than a terminal takes no cell, one or two in it.
            let said = counts.cells(&cluster);
            if said != cells && cluster != "\u{1fae9}" {
                wrong.push(format!("{tool} gives {cluster:?} {cells}; we say {said}"));
            }
        }
    };
    let all: [(&str, &[&str]); 7] = [
        ("kitty", &["kitty"]),
        ("alacritty", &["alacritty", "-e"]),
        ("alacritty", &[&built, "-e"]),
        ("xterm", &["xterm", "-u8", "-e"]),
        ("urxvt", &["urxvt", "-e"]),
        (
            "xfce4-terminal",
            &["xfce4-terminal", "--disable-server", "-x"],
        ),
        ("konsole", &["dbus-run-session", "--", "konsole", "-e"]),
    ];
    for (tool, words) in all {
        if words[0].is_empty() {
            skip("no Alacritty that reads TOML is here");
            continue;
        }
        let program = if words[0].contains('/') {
            words[0]
        } else {
            tool
        };
        if !have(&["Xvfb", program]) {
            continue;
        }
        let s = measuring();
        let (_screen, display) = screen_of("1000x600");
        let _running = window(&s, &display, words);
        compare(tool, measured(&s, tool));
    }
    if have(&["foot", "sway"]) {
        let s = measuring();
        let (_compositor, _folder, display) = wayland();
        let script = s.home().join("runs");
        let _running = foot(&s, &display, &[script.to_str().unwrap()]);
        compare("foot", measured(&s, "foot"));
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
