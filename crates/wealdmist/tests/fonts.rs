//! Fonts on the real terminal: installed, chosen, and seen in its window's pixels.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::io::Read;
use std::process::{Command, Stdio};
use std::sync::Arc;
use std::time::Duration;

use common::{Running, Scratch, have, pty, screen, wait_for};
use wealdmist_core::demo::fonts;
use wealdmist_core::font::Typeface;
use wealdmist_core::font::raster::{Grid, Raster, line};

const WIDTH: usize = 500;
const HEIGHT: usize = 300;

/// What a kitty of this home shows of a text: its window as gray pixels.
fn seen(s: &Scratch, text: &str) -> Raster {
    s.write("shown.txt", text);
    let (_display, name) = screen();
    let child = s
        .command("kitty")
        .env("DISPLAY", &name)
        .env("LIBGL_ALWAYS_SOFTWARE", "1")
        .args([
            "--start-as",
            "fullscreen",
            "-o",
            "cursor_blink_interval=0",
            "-o",
            "cursor_shape=underline",
        ])
        .args(["sh", "-c", "cat shown.txt; printf '\\033[?25l'; exec cat"])
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let _kitty = Running(child);
    picture(&name)
}

/// What a display shows once something is drawn and nothing changes any more.
fn picture(name: &str) -> Raster {
    let shot = || {
        let output = Command::new("import")
            .args([
                "-display",
                name,
                "-window",
                "root",
                "-depth",
                "8",
                "-colorspace",
                "Gray",
                "gray:-",
            ])
            .output()
            .ok()?;
        let pixels = output.stdout;
        (pixels.len() == WIDTH * HEIGHT).then_some(Raster {
            width: WIDTH as u32,
            height: HEIGHT as u32,
            pixels,
        })
    };
    // The window is there when something is drawn, and done when two pictures are the same.
    let mut last: Option<Raster> = None;
    wait_for("the text in the window", || {
        let now = shot()?;
        let inked = now.pixels.iter().filter(|p| **p > 100).count();
        let same = inked > 20 && last.as_ref() == Some(&now);
        last = Some(now.clone());
        std::thread::sleep(Duration::from_millis(150));
        same.then_some(now)
    })
}

/// The ink of a picture, cut to its bounds and brought to a grid of shares from 0 to 1.
fn shape(raster: &Raster, columns: usize, rows: usize) -> Vec<f64> {
    let ground = u32::from(raster.at(raster.width - 1, raster.height - 1));
    let ink = |x: u32, y: u32| f64::from(u32::from(raster.at(x, y)).saturating_sub(ground)) / 255.0;
    let inked = |x: u32, y: u32| ink(x, y) > 0.25;
    let across: Vec<u32> = (0..raster.width)
        .filter(|x| (0..raster.height).any(|y| inked(*x, y)))
        .collect();
    let down: Vec<u32> = (0..raster.height)
        .filter(|y| (0..raster.width).any(|x| inked(x, *y)))
        .collect();
    let (left, right) = (*across.first().unwrap(), *across.last().unwrap() + 1);
    let (top, bottom) = (*down.first().unwrap(), *down.last().unwrap() + 1);
    let mut out = vec![0.0; columns * rows];
    let mut counts = vec![0.0; columns * rows];
    for y in top..bottom {
        for x in left..right {
            let column = ((x - left) as usize * columns) / (right - left) as usize;
            let row = ((y - top) as usize * rows) / (bottom - top) as usize;
            out[row * columns + column] += ink(x, y);
            counts[row * columns + column] += 1.0;
        }
    }
    out.iter()
        .zip(counts)
        .map(|(sum, n): (&f64, f64)| if n > 0.0 { sum / n } else { 0.0 })
        .collect()
}

/// How alike two shapes are: their correlation, 1 for the same.
fn alike(a: &[f64], b: &[f64]) -> f64 {
    let mean = |v: &[f64]| v.iter().sum::<f64>() / v.len() as f64;
    let (ma, mb) = (mean(a), mean(b));
    let both: f64 = a.iter().zip(b).map(|(x, y)| (x - ma) * (y - mb)).sum();
    let spread = |v: &[f64], m: f64| v.iter().map(|x| (x - m).powi(2)).sum::<f64>().sqrt();
    both / (spread(a, ma) * spread(b, mb)).max(1e-9)
}

fn ours(bytes: Vec<u8>, text: &str) -> Raster {
    let face = Typeface::open(Arc::new(bytes), 0).unwrap();
    let grid = Grid::at(&face.cell(), 64.0, 1.0);
    let drawn = line(&face, &grid, text, &[]);
    // Room at the right and below, where the ground is read.
    let mut out = Raster::new(drawn.width + 8, drawn.height + 8);
    out.put(&drawn, 0, 0);
    out
}

#[test]
fn an_installed_and_chosen_font_shows_the_icon_where_a_box_was() {
    if !have(&["kitty", "Xvfb", "import"]) {
        return;
    }
    let s = Scratch::new();
    let folder = s.home().join(".local/share/fonts");
    std::fs::create_dir_all(&folder).unwrap();
    std::fs::write(
        folder.join("ReedbedMono-Regular.ttf"),
        fonts::without_icons(),
    )
    .unwrap();
    s.write(".config/kitty/kitty.conf", "font_family Reedbed Mono\nfont_size 36\nforeground #ffffff\nbackground #000000\nwindow_padding_width 0\nenable_audio_bell no\n");
    let icon = "\u{f07b}";
    s.write(".bashrc", &format!("PS1='{icon} $ '\n"));
    let wanted = shape(&ours(fonts::complete(), icon), 12, 12);

    s.said(&["init"], &[0]);
    s.said(&["symbols", "icons"], &[0]);
    let said = s.said(&["glyphs"], &[0, 1]);
    assert!(
        said.contains("U+F07B") && said.contains("a box is shown"),
        "{said}"
    );
    let before = alike(&shape(&seen(&s, icon), 12, 12), &wanted);

    let download = s.dir.path().join("Reedbed");
    std::fs::create_dir(&download).unwrap();
    std::fs::write(download.join("Regular.ttf"), fonts::complete()).unwrap();
    std::fs::write(download.join("Bold.ttf"), fonts::bold()).unwrap();
    std::fs::write(download.join("OFL.txt"), "free").unwrap();
    let from = download.display().to_string();
    let said = s.said(&["font", "install", &from, "--face", "Regular"], &[0]);
    assert!(said.contains("installed 1 face as number 1"), "{said}");
    let said = s.said(&["font", "choose", "Reedbed Mono NF"], &[0]);
    assert!(said.contains("font_family Reedbed Mono NF"), "{said}");
    s.said(&["apply", "--no-reload"], &[0]);
    assert!(
        s.read(".config/kitty/kitty.conf")
            .contains("font_family Reedbed Mono NF")
    );
    let said = s.said(&["glyphs"], &[0]);
    assert!(said.contains("is in the font and fits"), "{said}");

    let after = alike(&shape(&seen(&s, icon), 12, 12), &wanted);
    assert!(
        after > 0.9,
        "the icon is drawn from the chosen font: {before} before, {after} after"
    );
    assert!(
        before < 0.7,
        "a box was there before: {before}, {after} after"
    );

    // What we draw of a text is what the terminal draws of it.
    for text in ["fn level", "0O1lI|@"] {
        let theirs = shape(&seen(&s, text), 64, 12);
        let own = shape(&ours(fonts::complete(), text), 64, 12);
        let other = shape(&ours(fonts::icons_at_old_places(), text), 64, 12);
        let (same, another) = (alike(&theirs, &own), alike(&theirs, &other));
        assert!(
            same > 0.9 && same > another,
            "{text}: {same}, another font {another}"
        );
    }

    // Undo takes exactly the files away that were added.
    let font = folder.join("Reedbed Mono NF/Regular.ttf");
    assert!(font.exists() && folder.join("Reedbed Mono NF/OFL.txt").exists());
    s.said(&["undo", "1"], &[0, 1]);
    assert!(!font.exists() && folder.join("ReedbedMono-Regular.ttf").exists());
}

#[test]
fn characters_come_from_the_fonts_the_terminal_takes_them_from() {
    if !have(&["kitty", "Xvfb", "fc-match"]) {
        return;
    }
    let s = Scratch::demo();
    let kitty = s.read(".config/kitty/kitty.conf");
    let family = kitty
        .lines()
        .find(|l| l.starts_with("font_family"))
        .unwrap();
    s.write(
        ".config/kitty/kitty.conf",
        &kitty.replace(family, "font_family Reedbed Mono"),
    );
    s.has_only_two_terminals();
    let text = "\u{f43a} \u{f101} ✗ ∯ \u{f0150} \u{f061a} \u{e9ff} ༀ ཀ አ ꓐ 𞤀 字 あ ⚡ 🌾 ";
    s.write(".bashrc", &format!("PS1='{text}'\n"));
    s.write("shown.txt", text);
    // The terminal tells which font it takes for each character it lacks.
    let (_display, name) = screen();
    let mut kitty = s.command("kitty");
    kitty
        .env("DISPLAY", &name)
        .env("LIBGL_ALWAYS_SOFTWARE", "1")
        .args([
            "--debug-font-fallback",
            "sh",
            "-c",
            "cat shown.txt; exec cat",
        ]);
    let (mut output, _, child) = pty::start(&mut kitty, 400, 50);
    let _kitty = Running(child);
    rustix::fs::fcntl_setfl(&output, rustix::fs::OFlags::NONBLOCK).unwrap();
    let (mut told, mut buffer) = (Vec::new(), [0; 1 << 14]);
    let told = wait_for("the fonts taken", || {
        while let Ok(n) = output.read(&mut buffer) {
            told.extend_from_slice(&buffer[..n]);
        }
        let text = String::from_utf8_lossy(&told).into_owned();
        // What the font chosen lacks the character is said on a line of its own.
        let last = text.rsplit_once("\nU+1f33e ")?.1;
        (last.matches('\n').count() > 1).then_some(text)
    });
    let mut theirs = std::collections::BTreeMap::new();
    for line in told.lines() {
        let point = line.split_whitespace().find_map(|w| w.strip_prefix("U+"));
        let Some(point) = point else { continue };
        let point = format!("U+{:04X}", u32::from_str_radix(point, 16).unwrap());
        if line.contains("does not actually contain") {
            theirs.insert(point, None);
        } else if let Some((_, rest)) = line.split_once("Face(family=")
            // One it has open already is taken again, whatever the order.
            && line.contains("(new face)")
        {
            let family = rest.split(", style=").next().unwrap();
            theirs.insert(point, Some(family.to_owned()));
        }
    }
    let said = s.said(&["glyphs", "--json"], &[0, 1]);
    let said: serde_json::Value = serde_json::from_str(&said).unwrap();
    let mut compared = 0;
    for glyph in said["glyphs"].as_array().unwrap() {
        let Some(family) = theirs.get(glyph["codepoint"].as_str().unwrap()) else {
            continue;
        };
        assert_eq!(glyph["fallback"].as_str(), family.as_deref(), "{glyph}");
        compared += 1;
    }
    assert!(compared > 6, "{compared} compared: {theirs:?}");
}

#[test]
fn what_a_dotfile_maps_is_judged_as_the_terminal_draws_it() {
    if !have(&["kitty", "Xvfb", "import"]) {
        return;
    }
    let s = Scratch::demo();
    let icon = "\u{f07b}";
    s.write(".bashrc", &format!("PS1='{icon} $ '\n"));
    let wanted = shape(&ours(fonts::complete(), icon), 12, 12);
    for (family, maps, verdict, is_seen) in [
        ("Reedbed Mono", "U+F07B Reedbed Mono NF", "mapped", true),
        // The font has it, but is not asked; of two lines the last counts.
        (
            "Reedbed Mono NF",
            "U+F07B Reedbed Mono NF\nsymbol_map U+F000-U+F2FF Nobody",
            "mapped wrong",
            false,
        ),
    ] {
        s.write(".config/kitty/kitty.conf", &format!("font_family {family}\nfont_size 36\nforeground #ffffff\nbackground #000000\nwindow_padding_width 0\nsymbol_map {maps}\n"));
        let said = s.said(&["glyphs", "--json"], &[0, 1]);
        let said: serde_json::Value = serde_json::from_str(&said).unwrap();
        let glyphs = said["glyphs"].as_array().unwrap();
        let found = glyphs.iter().find(|g| g["codepoint"] == "U+F07B").unwrap();
        assert_eq!(found["terminals"]["kitty"], verdict, "{found}");
        let like = alike(&shape(&seen(&s, icon), 12, 12), &wanted);
        assert_eq!(like > 0.9, is_seen, "{family}, {maps}: {like}");
    }
}

#[test]
fn a_terminal_with_sixels_is_shown_images() {
    if !have(&["xterm", "Xvfb", "import"]) {
        return;
    }
    let s = Scratch::demo();
    s.write(
        ".config/kitty/kitty.conf",
        "foreground #ffffff\nbackground #000000\n",
    );
    let program = env!("CARGO_BIN_EXE_wealdmist");
    let compare = "font compare 'Reedbed Mono NF' --text 'fn level' --width 24 --means image";
    // Before it was asked, nobody knows that it has them.
    let script = format!(
        "{program} {compare} 2>refused; {program} terminal --measure >measured; clear; {program} {compare} 2>said; printf '\\033[?25l'; exec cat"
    );
    let (_display, name) = screen();
    let child = s
        .command("xterm")
        .env("DISPLAY", &name)
        .args(["-tn", "xterm-256color", "-ti", "vt340", "-fn", "fixed"])
        .args(["-b", "0", "-bw", "0", "+sb", "-bg", "black", "-fg", "white"])
        .args(["-geometry", "80x20+0+0", "-e", "sh", "-c", &script])
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let _xterm = Running(child);
    wait_for("the measured terminal", || {
        s.home().join("said").exists().then_some(())
    });
    assert!(
        s.read("refused")
            .contains("`wealdmist terminal --measure` asks it")
    );
    // The title of the face stands above in a row of 13 pixels.
    let below = |all: Raster| {
        let cut = 14 * all.width as usize;
        Raster {
            width: all.width,
            height: all.height - 14,
            pixels: all.pixels[cut..].to_vec(),
        }
    };
    let wanted = shape(&ours(fonts::complete(), "fn level"), 64, 12);
    let other = shape(&ours(fonts::complete(), "fn hover"), 64, 12);
    let theirs = wait_for("the image", || {
        let seen = below(picture(&name));
        let inked = seen.pixels.iter().any(|p| *p > 100);
        let shape = inked.then(|| shape(&seen, 64, 12))?;
        (alike(&shape, &wanted) > 0.9).then_some(shape)
    });
    assert_eq!(s.read("said"), "");
    let (same, another) = (alike(&theirs, &wanted), alike(&theirs, &other));
    assert!(same > another + 0.1, "{same}, another text {another}");
}

#[test]
fn fonts_are_listed_shown_compared_and_drawn() {
    let s = Scratch::demo();
    let said = s.said(&["font", "list", "NF"], &[0]);
    assert!(
        said.contains("Reedbed Mono NF") && said.contains("Bold, Italic, Regular"),
        "{said}"
    );
    let said = s.said(&["font", "show", "ReedbedMonoNF-Bold"], &[0]);
    for word in [
        "weight 700",
        "Open nought",
        "development (dev)",
        "Box Drawing",
        "bold_font auto",
    ] {
        assert!(said.contains(word), "{word} is not in {said}");
    }
    let said = s.said(&["font", "show", "Reedbed Mono N"], &[3]);
    assert!(said.contains("did you mean 'Reedbed Mono NF'?"), "{said}");
    let dots = s.said(
        &[
            "font",
            "compare",
            "Reedbed Mono NF",
            "Sedge Mono NF",
            "--text",
            "0O",
            "--means",
            "dots",
        ],
        &[0],
    );
    assert!(
        dots.contains("Sedge Mono NF Regular")
            && dots.chars().any(|c| ('\u{2800}'..='\u{28ff}').contains(&c)),
        "{dots}"
    );
    let ascii = s.said(
        &[
            "font",
            "compare",
            "Reedbed Mono NF",
            "--sample",
            "icons",
            "--means",
            "ascii",
        ],
        &[0],
    );
    assert!(ascii.is_ascii() && ascii.contains('@'), "{ascii}");
    let with = s.said(
        &[
            "font",
            "compare",
            "Reedbed Mono NF",
            "--text",
            "->",
            "--means",
            "dots",
        ],
        &[0],
    );
    let without = s.said(
        &[
            "font",
            "compare",
            "Reedbed Mono NF",
            "--text",
            "->",
            "--means",
            "dots",
            "--no-ligatures",
        ],
        &[0],
    );
    assert_ne!(with, without);
    let said = s.said(
        &["font", "coverage", "Reedbed Mono NF", "Reedbed Mono"],
        &[0],
    );
    assert!(
        said.contains("38 of 40   38 not in Reedbed Mono Regular, which has 0 more"),
        "{said}"
    );
    let said = s.said(
        &["font", "compare", "Reedbed Mono", "--style", "bold"],
        &[3],
    );
    assert!(said.contains("has no bold face"), "{said}");
    for (arguments, words) in [
        (
            vec![
                "font",
                "compare",
                "Reedbed Mono NF",
                "Bulrush NF",
                "-o",
                "a.svg",
            ],
            "Bulrush NF",
        ),
        (
            vec!["font", "coverage", "Reedbed Mono NF", "-o", "b.svg"],
            "Unicode blocks",
        ),
        (vec!["glyphs", "-o", "c.svg"], "glyphs in use"),
        (vec!["draw", "faces", "-o", "d.svg"], "Reedbed Mono NF Bold"),
    ] {
        s.said(&arguments, &[0]);
        let svg = s.read(arguments.last().unwrap());
        assert!(
            svg.contains("<path") && svg.contains(words),
            "{arguments:?}"
        );
    }
    s.said(&["font", "compare", "Reedbed Mono NF", "-o", "e.pdf"], &[0]);
    assert!(
        std::fs::read(s.home().join("e.pdf"))
            .unwrap()
            .starts_with(b"%PDF")
    );
}

#[test]
fn glyphs_are_mended_in_all_places_and_levels_switch_tools() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    let said = s.said(&["glyphs", "--open"], &[1]);
    assert!(
        said.contains("was an icon in an older release and is at U+F0150 now"),
        "{said}"
    );
    let said = s.said(&["glyphs", "--mend"], &[0]);
    assert!(said.contains("U+F64F → "), "{said}");
    s.said(&["apply", "--no-reload"], &[0]);
    let bar = s.read(".config/tmux/bar.conf");
    assert!(
        bar.contains('\u{f0150}') && !bar.contains('\u{f64f}'),
        "{bar}"
    );
    s.said(&["glyphs", "--open"], &[0]);
    s.said(&["undo"], &[0]);
    assert!(s.read(".config/tmux/bar.conf").contains('\u{f64f}'));

    s.said(&["symbols", "ascii", "--tool", "tmux"], &[0]);
    s.said(&["apply", "--no-reload"], &[0]);
    let private = |text: &str| {
        text.chars()
            .any(|c| ('\u{e000}'..='\u{f8ff}').contains(&c) || c as u32 >= 0xf_0000)
    };
    let drawn = |text: &str| {
        text.lines()
            .filter(|l| !l.trim_start().starts_with('#'))
            .map(str::to_owned)
            .collect::<String>()
    };
    assert!(!private(&drawn(&s.read(".config/tmux/bar.conf"))));
    assert!(private(&s.read(".bashrc")), "other tools keep their icons");
    let said = s.said(&["symbols", "plain", "--tool", "nosuch"], &[2]);
    assert!(said.contains("there is no tool 'nosuch'"), "{said}");

    let said = s.said(&["icons", "git", "branch"], &[0]);
    assert!(
        said.contains("U+E0A0") && said.contains("in the font"),
        "{said}"
    );
    s.said(&["icons", "nothing", "of", "the", "kind"], &[1]);
    s.write("other/x.lua", "icon = \"\\u{f64f}\"\n");
    let said = s.said(&["glyphs", "other"], &[1]);
    assert!(said.contains("other/x.lua:1:9: U+F64F"), "{said}");
    let json = s.said(&["glyphs", "other", "--json"], &[1]);
    assert!(
        json.contains("\"escaped\": true") && json.contains("\"verdict\": \"moved\""),
        "{json}"
    );
}

#[test]
fn a_wrong_name_in_a_dotfile_is_told_with_the_right_one() {
    let s = Scratch::demo();
    let said = s.said(&["check"], &[1]);
    assert!(
        said.contains("init.lua:")
            && said.contains("no installed font answers to 'ReedbedMono NF'")
            && said.contains("write 'Reedbed Mono NF'"),
        "{said}"
    );
    let said = s.said(&["font", "choose", "Reedbed"], &[3]);
    assert!(
        said.contains("no installed font answers to 'Reedbed'"),
        "{said}"
    );
    let said = s.said(
        &[
            "font",
            "choose",
            "--feature",
            "ss01",
            "--feature",
            "-liga",
            "--ligatures",
            "off",
            "--line-height",
            "1.1",
            "--fallback",
            "Cordgrass NF",
            "--size",
            "13",
        ],
        &[0],
    );
    assert!(
        said.contains("font_features ReedbedMonoNF-Regular -liga +ss01"),
        "{said}"
    );
    let plan = s.said(&["plan"], &[1]);
    for line in [
        "+font_features ReedbedMonoNF-Bold -liga +ss01",
        "+disable_ligatures always",
        "+modify_font cell_height 110%",
        "+font_size        13.0",
    ] {
        assert!(plan.contains(line), "{line} is not in {plan}");
    }
    let said = s.said(&["font", "choose", "--feature", "ligatures"], &[3]);
    assert!(said.contains("write ss01, -calt or cv02=3"), "{said}");
}

#[test]
fn hostile_and_broken_sources_install_nothing() {
    let s = Scratch::new();
    let said = s.said(&["font", "install", "/nonexistent.zip"], &[3]);
    assert!(said.contains("/nonexistent.zip cannot be read"), "{said}");
    s.write("broken.zip", "PK\u{3}\u{4}half");
    let said = s.said(&["font", "install", "broken.zip"], &[3]);
    assert!(said.contains("the archive is damaged"), "{said}");
    s.write("junk.ttf", "no font");
    let said = s.said(&["font", "install", "junk.ttf"], &[3]);
    assert!(
        said.contains("holds no font that can be used: junk.ttf: not a usable font"),
        "{said}"
    );
    let said = s.said(&["font", "show", "junk.ttf"], &[3]);
    assert!(said.contains("junk.ttf"), "{said}");
    assert!(!s.home().join(".local/share/fonts").exists());
    let mut cut = fonts::complete();
    cut.truncate(3000);
    std::fs::write(s.home().join("cut.ttf"), cut).unwrap();
    let said = s.said(&["font", "show", "cut.ttf"], &[3]);
    assert!(
        said.contains("cut.ttf") && (said.contains("table") || said.contains("usable")),
        "{said}"
    );
    let said = s.said(&["terminal", "--measure"], &[3]);
    assert!(said.contains("could not be measured"), "{said}");
    let said = s.said(&["terminal", "--wrong", "U+F07B", "--use"], &[0]);
    assert!(said.contains("symbol level proposed: plain"), "{said}");
    assert!(
        s.read(".config/wealdmist/setup.toml")
            .contains("level = \"plain\"")
    );
}

#[test]
fn what_is_told_to_people_is_told_to_programs() {
    let s = Scratch::demo();
    let json = |arguments: &[&str], codes: &[i32]| -> serde_json::Value {
        serde_json::from_str(&s.said(arguments, codes)).unwrap()
    };
    let list = json(&["font", "list", "NF", "--json"], &[0]);
    let faces = list["faces"].as_array().unwrap();
    let bold = faces.iter().find(|f| f["style"] == "Bold").unwrap();
    assert_eq!(
        (&bold["weight"], &bold["fixed"]),
        (&700.into(), &true.into())
    );
    assert!(
        bold["features"]
            .as_array()
            .unwrap()
            .contains(&"ss01".into())
    );
    assert!(
        bold["path"]
            .as_str()
            .unwrap()
            .ends_with("ReedbedMonoNF-Bold.ttf")
    );
    let facts = json(&["font", "show", "Reedbed Mono NF", "--json"], &[0]);
    assert_eq!(facts["cell"]["width"], 600.0);
    assert_eq!(facts["features"][1]["changes"][0], "0");
    assert_eq!(facts["embedding"], "may be embedded and installed");
    let icons = json(&["icons", "U+F64F", "--json"], &[0]);
    assert_eq!(icons["found"][0]["name"], "mdi-clock");
    let glyphs = json(&["glyphs", "--json"], &[1]);
    let moved = glyphs["glyphs"]
        .as_array()
        .unwrap()
        .iter()
        .find(|g| g["codepoint"] == "U+F64F")
        .unwrap();
    assert_eq!(
        (&moved["verdict"], &moved["line"]),
        (&"moved".into(), &6.into())
    );
    assert_eq!(moved["instead"], "\u{f0150}");
    let check = json(&["check", "--json"], &[1]);
    let kinds: Vec<&str> = check["findings"]
        .as_array()
        .unwrap()
        .iter()
        .filter_map(|f| f["kind"].as_str())
        .collect();
    assert!(kinds.contains(&"coverage"), "{kinds:?}");
    let terminal = json(
        &["terminal", "--wrong", "U+E0B0", "--right", "→", "--json"],
        &[0],
    );
    assert_eq!(
        (&terminal["level"], &terminal["wrong"][0]),
        (&"plain".into(), &"\u{e0b0}".into())
    );
    let again = json(&["terminal", "--json"], &[0]);
    assert_eq!(again["right"][0], "→", "marks are kept");
}

#[test]
fn faces_in_files_and_archives_are_seen_without_installing_them() {
    let s = Scratch::new();
    std::fs::write(s.home().join("a.ttf"), fonts::complete()).unwrap();
    std::fs::create_dir(s.home().join("many")).unwrap();
    std::fs::write(s.home().join("many/b.ttf"), fonts::wide_icons()).unwrap();
    std::fs::write(s.home().join("many/c.ttf"), b"junk").unwrap();
    let said = s.said(&["font", "list", "--from", "many"], &[0]);
    assert!(
        said.contains("Cordgrass NF") && said.contains("passed over: c.ttf: not a usable font"),
        "{said}"
    );
    let said = s.said(&["font", "show", "a.ttf"], &[0]);
    assert!(
        said.contains("ReedbedMonoNF-Regular") && said.contains("not installed"),
        "{said}"
    );
    let said = s.said(
        &[
            "font",
            "compare",
            "a.ttf",
            "many/b.ttf",
            "--text",
            "Ag",
            "--means",
            "ascii",
        ],
        &[0],
    );
    assert!(
        said.contains("Reedbed Mono NF Regular") && said.contains("Cordgrass NF Regular"),
        "{said}"
    );
    let said = s.said(&["font", "compare", "a.ttf", "--sample", "nothing"], &[3]);
    assert!(said.contains("lookalikes"), "the samples there are: {said}");
    let said = s.said(&["font", "install", "many", "--face", "Bold"], &[3]);
    assert!(
        said.contains("no face answers to that; there are Cordgrass NF Regular"),
        "{said}"
    );
    let said = s.said(&["font", "install", "a.ttf", "--dry-run"], &[0]);
    assert!(
        said.contains("adds ~/.local/share/fonts/Reedbed Mono NF/a.ttf"),
        "{said}"
    );
    assert!(
        !s.home().join(".local/share/fonts").exists(),
        "looking leaves nothing behind"
    );
    let said = s.said(&["font", "spell"], &[3]);
    assert!(said.contains("no font is chosen"), "{said}");
    let said = s.said(&["font", "spell", "Reedbed Mono NF"], &[1]);
    assert!(
        said.contains("not installed: kitty takes the default monospace font"),
        "{said}"
    );
}
