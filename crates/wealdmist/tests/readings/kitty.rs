//! The terminal's own parser, asked about configurations made by chance.

use std::collections::BTreeMap;
use std::process::Command;

use wealdmist_core::Rgb;
use wealdmist_core::property::{Property, Sides};
use wealdmist_core::reading::Value;
use wealdmist_host::Home;
use wealdmist_tools::{Facts, adapter};

use crate::common::{Scratch, have};
use crate::dice::{Dice, judge, run};

/// Reads every `kitty.conf` below the folder given and says what each option comes to.
const ASK: &str = r#"
import json, math, os
from kitty.config import load_config
root = os.environ['WEALDMIST_ASKED']
def said(v):
    if v is None: return 'none'
    if hasattr(v, 'red'): return '#%02x%02x%02x' % (v.red, v.green, v.blue)
    if hasattr(v, 'left'): return [said(float(x)) for x in (v.left, v.top, v.right, v.bottom)]
    if isinstance(v, bool): return str(v)
    if isinstance(v, (int, float)): return float(v) if math.isfinite(v) else str(v)
    return str(v)
keys = '''foreground background cursor cursor_text_color selection_background selection_foreground url_color
active_border_color inactive_border_color bell_border_color active_tab_foreground active_tab_background
inactive_tab_foreground inactive_tab_background tab_bar_background mark1_foreground mark1_background
mark2_foreground mark2_background mark3_foreground mark3_background tab_bar_margin_color visual_bell_color
font_family font_size background_opacity window_padding_width inactive_text_alpha dim_opacity bold_font
cursor_beam_thickness background_image background_tint'''.split()
for n in range(int(os.environ['WEALDMIST_COUNT'])):
    folder = os.path.join(root, str(n), '.config/kitty')
    os.environ['KITTY_CONFIG_DIRECTORY'] = folder
    options = load_config(os.path.join(folder, 'kitty.conf'), accumulate_bad_lines=[])
    out = {k: said(getattr(options, k)) for k in keys}
    out['cursor_shape'] = {1: 'block', 2: 'bar', 3: 'underline'}[options.cursor_shape]
    rate = options.cursor_blink_interval
    out['cursor_blink_interval'] = 'off' if rate == 0 else 'on'
    if rate != 0 and math.isfinite(rate):
        out['cursor_blink_interval rate'] = "the system's" if rate < 0 else float(round(rate * 1000))
    switch = lambda on: 'on' if on else 'off'
    for name in ('initial_window_width', 'initial_window_height'):
        n, unit = getattr(options, name)
        if unit == 'cells': out[name] = float(n)
    out['remember_window_size'] = switch(options.remember_window_size)
    out['enable_audio_bell'] = switch(options.enable_audio_bell)
    out['visual_bell_duration'] = switch(options.visual_bell_duration != 0)
    out['mouse_hide_wait'] = switch(options.mouse_hide_wait != 0)
    out['tab_bar_edge'] = 'top' if options.tab_bar_edge == 1 else 'bottom'
    out['tab_bar_min_tabs'] = 'always' if options.tab_bar_min_tabs <= 1 else 'several'
    out['background_image_layout'] = {'cscaled': 'cover', 'scaled': 'stretch', 'tiled': 'tile', 'centered': 'center',
        'clamped': 'once', 'mirror-tiled': 'mirrored tiles'}[options.background_image_layout]
    out['hide_window_decorations'] = ('full', 'none', 'without a title')[int(options.hide_window_decorations)]
    out['scrollback_lines'] = float(options.scrollback_lines)
    for i in range(32): out['color%d' % i] = '#%06x' % options.color_table[i]
    print('@' + json.dumps(out))
"#;

const COLORS: [&str; 22] = [
    "foreground",
    "background",
    "cursor",
    "cursor_text_color",
    "selection_background",
    "selection_foreground",
    "url_color",
    "active_border_color",
    "inactive_border_color",
    "bell_border_color",
    "active_tab_foreground",
    "active_tab_background",
    "inactive_tab_foreground",
    "inactive_tab_background",
    "tab_bar_background",
    "mark1_foreground",
    "mark1_background",
    "mark2_background",
    "mark3_foreground",
    "tab_bar_margin_color",
    "visual_bell_color",
    "color0",
];

fn color(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    match dice.below(20) {
        0..=6 => format!("#{r:02x}{g:02x}{b:02x}"),
        7 => format!("#{r:02X}{g:02X}{b:02X}"),
        8 => format!("#{:x}{:x}{:x}", r & 15, g & 15, b & 15),
        9 => format!("#{r:02x}0{g:02x}1{b:02x}2"),
        10 => format!("#{r:02x}00{g:02x}10{b:02x}ff"),
        11 => format!("rgb:{r:02x}/{g:02x}/{b:02x}"),
        12 => format!("rgb:{:x}/{g:02x}{b:02x}/{b:02x}0", r & 15),
        13 => dice
            .pick(&[
                "orange",
                "Tomato",
                "SlateBlue",
                "dark slate gray",
                "grey50",
                "MAROON",
                "purple",
                "light Goldenrod yellow",
                "green",
                "gray",
                "ivory",
                "DarkOrange2",
            ])
            .to_owned(),
        14 => dice
            .pick(&["none", "background", "foreground", "default", "auto"])
            .to_owned(),
        15 => format!("{r:02x}{g:02x}{b:02x}"),
        16 => format!("0x{r:02x}{g:02x}{b:02x}"),
        17 => dice
            .pick(&[
                "crimson",
                "sharp",
                "abc",
                "rgb(1,2,3)",
                "#12",
                "#12345",
                "#gggggg",
                "rgb:1/2",
                "rgb:12345/1/1",
                "dark  slate gray",
                "#ffffffff",
                "#12345678",
                "#",
                "rgb:",
                "#xyz",
                "-1",
            ])
            .to_owned(),
        18 => format!("\"#{r:02x}{g:02x}{b:02x}\""),
        _ => format!("#{r:02x}{g:02x}{b:02x} # mine"),
    }
}

fn number(dice: &mut Dice) -> String {
    match dice.below(8) {
        0..=3 => format!("{}", dice.below(30)),
        4 => format!("{}.{}", dice.below(20), dice.below(100)),
        5 => format!("0.{}", dice.below(100)),
        6 => dice
            .pick(&["-1", "1e1", ".5", "5.", "+3", "1_0", "inf", "nan", "007"])
            .to_owned(),
        _ => dice
            .pick(&["large", "12pt", "1,5", "", "0x10", "12 13"])
            .to_owned(),
    }
}

fn line(dice: &mut Dice, depth: usize) -> String {
    let gap = dice.pick(&[" ", " ", " ", "  ", "\t", " \t "]);
    let tail = dice.pick(&["", "", "", " ", "\t"]);
    let head = dice.pick(&["", "", "", "", "  ", "\t"]);
    let body = match dice.below(34) {
        0..=9 => format!("{}{gap}{}", dice.pick(&COLORS), color(dice)),
        10..=14 => format!("color{}{gap}{}", dice.below(20), color(dice)),
        15 => format!("font_size{gap}{}", number(dice)),
        16 => format!(
            "{}{gap}{}",
            dice.pick(&["background_opacity", "inactive_text_alpha", "dim_opacity"]),
            number(dice)
        ),
        17 => {
            let sides: Vec<String> = (0..1 + dice.below(5)).map(|_| number(dice)).collect();
            format!("window_padding_width{gap}{}", sides.join(" "))
        }
        18 => format!("# {} {}", dice.pick(&COLORS), color(dice)),
        19 => dice
            .pick(&[
                "",
                "map ctrl+a new_tab",
                "#: Colors",
                "nosuch_key #112233",
                "Foreground #010203",
                "foreground",
                "foreground=#112233",
                "foreground = #112233",
                "font_family Reedbed Mono",
                "bold_font Reedbed Mono Bold",
                "color256 #010101",
                "color-1 #010101",
                "color01 #0a0b0c",
                "colorx #010101",
                "#foreground #123456",
                "background #010203 #040506",
                "; background #010203",
            ])
            .to_owned(),
        // Only of what stands deeper: a circle would be read again and again.
        20 | 21 if depth == 2 => String::new(),
        20 if depth == 1 => format!("include{gap}sub/b.conf"),
        20 => format!(
            "include{gap}{}",
            dice.pick(&[
                "a.conf",
                "sub/b.conf",
                "nosuch.conf",
                "./a.conf",
                "\"a.conf\"",
                "with space.conf",
                "sub/../a.conf",
            ])
        ),
        21 if depth == 1 => format!("globinclude{gap}sub/*"),
        21 => format!(
            "globinclude{gap}{}",
            dice.pick(&[
                "[ab].conf",
                "sub/*.conf",
                "none/*.conf",
                "?.conf",
                "sub/?.conf"
            ])
        ),
        24 => format!(
            "{}{gap}{}",
            dice.pick(&["cursor_blink_interval", "scrollback_lines"]),
            number(dice)
        ),
        26 => format!("cursor_beam_thickness{gap}{}", number(dice)),
        27 => format!(
            "{}{gap}{}{}",
            dice.pick(&["initial_window_width", "initial_window_height"]),
            dice.below(200),
            dice.pick(&["c", "c", "", "px", "C", " c"])
        ),
        28 => format!(
            "{}{gap}{}",
            dice.pick(&["remember_window_size", "enable_audio_bell"]),
            dice.pick(&["yes", "no", "y", "True", "TRUE", "1", "n", "maybe", "on"])
        ),
        29 => format!(
            "{}{gap}{}",
            dice.pick(&[
                "visual_bell_duration",
                "mouse_hide_wait",
                "tab_bar_min_tabs"
            ]),
            dice.pick(&["0", "0.0", "2", "1", "-1", "0.5", "3", "many", "00", "inf"])
        ),
        30 => format!(
            "tab_bar_edge{gap}{}",
            dice.pick(&["top", "bottom", "Top", "left", ""])
        ),
        31 => format!(
            "background_image_layout{gap}{}",
            dice.pick(&[
                "tiled",
                "Scaled",
                "centered",
                "clamped",
                "mirror-tiled",
                "fit"
            ])
        ),
        32 => format!(
            "background_image{gap}{}",
            dice.pick(&["none", "/srv/reeds.png", "/srv/a b.png", "None"])
        ),
        33 => format!("background_tint{gap}{}", number(dice)),
        25 if dice.percent(50) => format!(
            "cursor_shape{gap}{}",
            dice.pick(&["block", "beam", "Underline", "BLOCK", "bar", "hollow"])
        ),
        25 => format!(
            "hide_window_decorations{gap}{}",
            dice.pick(&["yes", "no", "y", "True", "titlebar-only", "1", "n", "maybe"])
        ),
        22 => format!(
            "selection_foreground{gap}{}",
            dice.pick(&["none", "None", "NONE"])
        ),
        _ => format!(
            "cursor_text_color{gap}{}",
            dice.pick(&["background", "Background", "none"])
        ),
    };
    format!("{head}{body}{tail}")
}

/// A file that is included by so many others.
pub fn file(dice: &mut Dice, most: usize, depth: usize) -> String {
    let end = if dice.percent(12) { "\r\n" } else { "\n" };
    let lines: Vec<String> = (0..1 + dice.below(most))
        .map(|_| line(dice, depth))
        .collect();
    let mut out = lines.join(end);
    if dice.percent(80) {
        out.push_str(end);
    }
    if dice.percent(2) {
        out.insert(0, '\u{feff}');
    }
    out
}

/// A configuration: its files by their name in the program's folder.
fn configuration(dice: &mut Dice) -> BTreeMap<&'static str, String> {
    let mut out = BTreeMap::from([("kitty.conf", file(dice, 24, 0))]);
    let others = [
        ("a.conf", 1),
        ("with space.conf", 1),
        ("c.conf", 1),
        ("sub/b.conf", 2),
    ];
    for (name, depth) in others {
        if dice.percent(40) {
            out.insert(name, file(dice, 6, depth));
        }
    }
    out
}

/// What we read, by the option's name.
fn ours(home: &Home) -> BTreeMap<String, Option<Value>> {
    let report = adapter("kitty")
        .expect("ours")
        .read(home, &mut Facts::default());
    let counting = report.readings.into_iter().filter(|r| r.effective);
    counting
        .map(|r| {
            // One key says two things.
            let rate = if r.role == Property::CursorRate.into() {
                " rate"
            } else {
                ""
            };
            (format!("{}{rate}", r.key), r.is_sure().then_some(r.value))
        })
        .collect()
}

fn agrees(ours: Option<&Value>, theirs: &serde_json::Value) -> bool {
    match (ours, theirs) {
        (Some(Value::Color(color)), serde_json::Value::String(text)) => {
            Rgb::from_hex(text) == Some(*color)
        }
        (Some(Value::Default), serde_json::Value::String(text)) => text == "none" || text == "auto",
        (Some(Value::Slot(slot)), serde_json::Value::String(text)) => {
            text == "none" && slot.key() == "background"
        }
        (Some(Value::Text(ours)), serde_json::Value::String(text)) => ours == text,
        (Some(Value::Number(ours)), serde_json::Value::Number(n)) => {
            n.as_f64().is_some_and(|n| (n - ours).abs() < 1e-9)
        }
        (Some(ours), serde_json::Value::Array(sides)) => {
            let sides: Vec<f64> = sides.iter().filter_map(serde_json::Value::as_f64).collect();
            let [left, top, right, bottom] = sides[..] else {
                return false;
            };
            Sides::of(ours).is_some_and(|s| s.all == [top, right, bottom, left])
        }
        _ => false,
    }
}

#[test]
fn the_terminal_reads_its_configuration_as_we_do() {
    if !have(&["kitty"]) {
        return;
    }
    let (seed, rounds) = run(400);
    let mut dice = Dice::new(seed);
    let scratch = Scratch::new();
    let all: Vec<_> = (0..rounds).map(|_| configuration(&mut dice)).collect();
    let root = scratch.home();
    for (n, files) in all.iter().enumerate() {
        for (name, text) in files {
            scratch.write(&format!("{n}/.config/kitty/{name}"), text);
        }
    }
    let mut command = Command::new("kitty");
    let asked = command
        .args(["+runpy", "import os; exec(os.environ['WEALDMIST_ASK'], {})"])
        .env("WEALDMIST_ASK", ASK)
        .env("WEALDMIST_ASKED", &root)
        .env("WEALDMIST_COUNT", rounds.to_string())
        .env("HOME", scratch.tmp())
        .output()
        .expect("it starts");
    let said = String::from_utf8_lossy(&asked.stdout);
    let answers: Vec<&str> = said.lines().filter_map(|l| l.strip_prefix('@')).collect();
    assert_eq!(
        answers.len(),
        rounds,
        "{}",
        String::from_utf8_lossy(&asked.stderr)
    );
    let (mut wrong, mut compared, mut unsure) = (Vec::new(), 0, 0);
    for (n, answer) in answers.into_iter().enumerate() {
        let theirs: BTreeMap<String, serde_json::Value> =
            serde_json::from_str(answer).expect("JSON");
        let ours = ours(&Home::open(Some(&root.join(n.to_string()))).expect("a home"));
        for (key, theirs) in &theirs {
            let known = !key.starts_with("color")
                || key[5..].parse().is_ok_and(|n: u8| n < 16)
                || ours.contains_key(key);
            if !known {
                continue;
            }
            compared += 1;
            // What we say we cannot read is no wrong reading, if it is seldom.
            if let Some(None) = ours.get(key) {
                unsure += 1;
            } else if !agrees(ours.get(key).and_then(Option::as_ref), theirs) {
                wrong.push(format!(
                    "{n}: {key} is {theirs}, read as {:?} in\n{:#?}",
                    ours.get(key),
                    all[n]
                ));
            }
        }
    }
    assert!(unsure * 10 < compared, "{unsure} of {compared} are unsure");
    judge("kitty", seed, rounds, &wrong, compared);
}
