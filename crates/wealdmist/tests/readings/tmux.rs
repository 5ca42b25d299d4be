//! The multiplexer's own server, asked about configurations made by chance.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::process::Command;

use wealdmist_core::Rgb;
use wealdmist_core::color::{indexed, x11_color};
use wealdmist_core::reading::{Reading, ToolReport, Value};
use wealdmist_core::role::Slot;
use wealdmist_host::Home;
use wealdmist_tools::{Facts, adapter};

use crate::asked::Asked;
use crate::common::{Scratch, have};
use crate::dice::{Dice, judge, run};

const STYLES: [&str; 15] = [
    "status-style",
    "status-left-style",
    "status-right-style",
    "window-status-style",
    "window-status-current-style",
    "window-status-last-style",
    "window-status-bell-style",
    "message-style",
    "message-command-style",
    "mode-style",
    "pane-border-style",
    "pane-active-border-style",
    "copy-mode-match-style",
    "popup-style",
    "window-active-style",
];
const COLORS: [&str; 5] = [
    "status-fg",
    "status-bg",
    "display-panes-active-colour",
    "display-panes-colour",
    "clock-mode-colour",
];
const FORMATS: [&str; 4] = [
    "status-left",
    "status-right",
    "window-status-format",
    "window-status-current-format",
];

fn color(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    match dice.below(22) {
        0..=9 => format!("#{r:02x}{g:02x}{b:02x}"),
        10 => format!("#{r:02X}{g:02X}{b:02X}"),
        11 => format!("colour{}", dice.below(256)),
        12 => format!("color{}", dice.below(16)),
        13 => dice
            .pick(&["red", "brightblue", "Green", "cyan", "white", "BRIGHTBLACK"])
            .to_owned(),
        14 => dice.pick(&["default", "terminal"]).to_owned(),
        15 => dice
            .pick(&[
                "orange",
                "DodgerBlue",
                "grey50",
                "crimson",
                "tomato",
                "purple",
                "x11green",
                "gray",
            ])
            .to_owned(),
        16 => dice.pick(&["93", "5", "7", "90"]).to_owned(),
        17 => dice
            .pick(&[
                "#abc",
                "colour256",
                "rgb:1/2/3",
                "0x112233",
                "8",
                "none",
                "sharp",
                "colour",
                "98",
            ])
            .to_owned(),
        18 => "#{@accent}".to_owned(),
        19 => dice
            .pick(&["$ACCENT", "${DEEP}", "$NOSUCH", "$MOOD"])
            .to_owned(),
        20 => "#{@deep}".to_owned(),
        _ => format!("#{r:02x}{g:02x}{b:02x}"),
    }
}

fn style(dice: &mut Dice) -> String {
    let mut words = Vec::new();
    for _ in 0..1 + dice.below(3) {
        words.push(match dice.below(9) {
            0..=3 => format!("fg={}", color(dice)),
            4..=6 => format!("bg={}", color(dice)),
            7 => dice
                .pick(&[
                    "bold",
                    "italics",
                    "nobold",
                    "dim",
                    "underscore",
                    "none",
                    "default",
                    "reverse",
                    "fill=red",
                    "align=left",
                ])
                .to_owned(),
            _ => dice
                .pick(&[
                    "italic",
                    "underline",
                    "FG=#010203",
                    "fg = red",
                    "noattr",
                    "bold|dim",
                    "us=red",
                    "bright",
                ])
                .to_owned(),
        });
    }
    words.join(dice.pick(&[",", ",", " ", ", "]))
}

fn format(dice: &mut Dice) -> String {
    let mut out = String::new();
    for _ in 0..1 + dice.below(3) {
        let _ = match dice.below(5) {
            0 => write!(
                out,
                "#{{?client_prefix,#[fg={}]P,#[bg={}]}}",
                color(dice),
                color(dice)
            ),
            1 => write!(out, "#[fg={}#,bg={}]#W", color(dice), color(dice)),
            2 => write!(out, "#[{}] ", style(dice)),
            _ => write!(out, "#[fg={}] #S ", color(dice)),
        };
    }
    out
}

/// A value as it is written.
fn quoted(dice: &mut Dice, value: &str) -> String {
    match dice.below(6) {
        0 if !value.contains('$') => format!("'{value}'"),
        1 if !value.contains([' ', '{', '}', ';']) && !value.starts_with('#') => value.to_owned(),
        2 if value.len() > 4 && value.is_ascii() && !value.contains(['$', '{']) => {
            format!("\"{}\"'{}'", &value[..3], &value[3..])
        }
        _ => format!("\"{value}\""),
    }
}

fn assignment(dice: &mut Dice) -> String {
    let flags = match dice.below(12) {
        0 => "-ga",
        1 => "-gq",
        2 => "-gu",
        3 => "-gF",
        4 => "-go",
        5 => "",
        _ => "-g",
    };
    let command = dice.pick(&[
        "set",
        "set",
        "set",
        "set-option",
        "setw",
        "set-window-option",
        "set-o",
    ]);
    let (name, value) = match dice.below(14) {
        0..=5 => (dice.pick(&STYLES).to_owned(), style(dice)),
        6..=7 => (dice.pick(&COLORS).to_owned(), color(dice)),
        8..=9 => (dice.pick(&FORMATS).to_owned(), format(dice)),
        10 => (dice.pick(&["@accent", "@deep"]).to_owned(), color(dice)),
        11 => (
            dice.pick(&["@accent", "@deep"]).to_owned(),
            format!("#{:06x}", dice.below(1 << 24)),
        ),
        12 => (
            dice.pick(&[
                "mode-sty",
                "clock-mode-color",
                "status-left-s",
                "window-status-",
            ])
            .to_owned(),
            style(dice),
        ),
        _ => (
            dice.pick(&["nosuch-option", "mouse", "escape-time", "status-interval"])
                .to_owned(),
            "1".to_owned(),
        ),
    };
    let value = quoted(dice, &value);
    let flags = if flags == "-gu" {
        format!("{flags} {name}")
    } else {
        format!("{flags} {name} {value}")
    };
    format!("{command} {}", flags.trim_start())
}

fn condition(dice: &mut Dice) -> String {
    dice.pick(&[
        "#{>=:#{version},3.2}",
        "#{==:#{version},3.3a}",
        "#{<:#{version},3}",
        "#{e|>=|f:#{version},3.1}",
        "#{m:3.*,#{version}}",
        "#{!=:#{SIDE},light}",
        "#{==:$SIDE,dark}",
        "#{&&:#{==:a,a},#{SIDE}}",
        "#{||:0,#{NOSUCH}}",
        "#{MOOD}",
        "#{==:#{MOOD},calm}",
        "0",
        "1",
        "#{?#{SIDE},1,0}",
        "#{@accent}",
        "#{==:#{host},nowhere}",
        "#{m/i:*X*,aXb}",
        "#{==:#{=2:SIDE},da}",
        "#{==:#{=2:#{SIDE}},da}",
        "#{?#{==:#{SIDE},dark},#{l:yes},}",
        "#{&&:#{MOOD},0}",
    ])
    .to_owned()
}

fn line(dice: &mut Dice, depth: usize) -> String {
    match dice.below(26) {
        0..=12 => assignment(dice),
        13 => format!(
            "bind {} {{ {} }}",
            dice.pick(&["b", "C-x", "-n F1"]),
            assignment(dice)
        ),
        14 if depth < 2 => format!(
            "%if \"{}\"\n{}\n{}%endif",
            condition(dice),
            lines(dice, 2, depth + 1),
            match dice.below(3) {
                0 => String::new(),
                1 => format!("%else\n{}\n", lines(dice, 2, depth + 1)),
                _ => format!(
                    "%elif \"{}\"\n{}\n%else\n{}\n",
                    condition(dice),
                    lines(dice, 1, depth + 1),
                    lines(dice, 1, depth + 1)
                ),
            }
        ),
        15 if depth < 2 => format!(
            "if -F \"{}\" {{ {} }}{}",
            condition(dice),
            assignment(dice),
            if dice.percent(50) {
                format!(" {{ {} }}", assignment(dice))
            } else {
                String::new()
            }
        ),
        16 => format!(
            "if '{}' '{}'",
            dice.pick(&[
                "true",
                "false",
                "[ \"$SIDE\" = dark ]",
                "test -f ~/mist.conf",
                "! false",
                "[ -n \"$NOSUCH\" ]"
            ]),
            assignment(dice).replace('\'', "\"")
        ),
        17 => format!(
            "{}=\"#{:06x}\"",
            dice.pick(&["ACCENT", "DEEP"]),
            dice.below(1 << 24)
        ),
        18 => format!("%hidden DEEP=#{:06x}", dice.below(1 << 24)),
        19 => format!("# {}", assignment(dice)),
        20 => format!("{} ; {}", assignment(dice), assignment(dice)),
        21 if depth == 0 => dice
            .pick(&[
                "source ~/mist.conf",
                "source -q ~/nosuch.conf",
                "source-file $HOME/mist.conf",
                "source ~/m*.conf",
                "source -F \"#{d:current_file}/mist.conf\"",
            ])
            .to_owned(),
        22 => dice
            .pick(&[
                "setw -g mode-keys vi",
                "set -s escape-time 10",
                "set -as terminal-features ',xterm*:RGB'",
                "unbind C-b",
                "set-hook -g session-created 'set -g status-style fg=#010101'",
                "setenv -g SIDE light",
                "run true",
                "bind r source ~/mist.conf",
            ])
            .to_owned(),
        23 => {
            let value = style(dice);
            format!(
                "set -g {} \\\n  {}",
                dice.pick(&STYLES),
                quoted(dice, &value)
            )
        }
        24 if dice.percent(8) => dice
            .pick(&[
                "nosuch-command x",
                "set -g status-style fg=red bg=blue",
                "}",
                "set -g",
            ])
            .to_owned(),
        _ => String::new(),
    }
}

pub fn lines(dice: &mut Dice, most: usize, depth: usize) -> String {
    dice.lines(most, depth, line)
}

/// The colors a style ends with, as the program's own description of it says: text and ground.
fn ends(style: &str) -> (Option<String>, Option<String>) {
    let (mut text, mut ground) = (None, None);
    for word in style.split([' ', ',', '\n']) {
        let lower = word.to_ascii_lowercase();
        if let Some(name) = lower.strip_prefix("fg=") {
            text = Some(name.to_owned());
        } else if let Some(name) = lower.strip_prefix("bg=") {
            ground = Some(name.to_owned());
        } else if lower == "default" {
            (text, ground) = (None, None);
        }
    }
    let own = |name: Option<String>| name.filter(|n| n != "default");
    (own(text), own(ground))
}

/// A color's name as a value, by the test's own rules.
fn value(name: &str) -> Option<Value> {
    const NAMES: [&str; 8] = [
        "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
    ];
    if let Some(color) = Rgb::from_hex(name) {
        return Some(Value::Color(color));
    }
    let slot = |n: u8| match Slot::from_ansi(n) {
        Some(slot) => Value::Slot(slot),
        None => Value::Color(indexed(n).unwrap()),
    };
    if let Some(n) = name.strip_prefix("colour").or(name.strip_prefix("color")) {
        return n.parse().ok().map(slot);
    }
    match name.parse::<u8>() {
        Ok(n @ 90..=97) => return Some(slot(n - 82)),
        Ok(n) => return Some(slot(n)),
        Err(_) => {}
    }
    let plain = name.strip_prefix("bright").unwrap_or(name);
    if let Some(n) = NAMES.iter().position(|n| *n == plain) {
        return Some(slot(n as u8 + if plain == name { 0 } else { 8 }));
    }
    match name {
        "terminal" => Some(Value::Default),
        "crimson" => Some(Value::Color(Rgb::from_u32(0xdc_143c))),
        "x11green" => x11_color("green").map(Value::Color),
        _ => x11_color(name).map(Value::Color),
    }
}

/// The values that we read for one end of an option; nothing where one of them is not sure.
fn ours<'r>(report: &'r ToolReport, option: &str, is_text: bool) -> Option<Vec<&'r Reading>> {
    let one = |r: &&Reading| {
        let ground = r.role.is_ground() || r.role.as_str() == "selection";
        r.key == option && ground != is_text
    };
    let all: Vec<&Reading> = report.readings.iter().filter(one).collect();
    all.iter().all(|r| r.is_sure()).then_some(all)
}

#[test]
fn the_multiplexer_reads_its_configuration_as_we_do() {
    if !have(&["tmux"]) {
        return;
    }
    let (seed, rounds) = run(400);
    let mut dice = Dice::new(seed);
    let (mut wrong, mut compared, mut unsure) = (Vec::new(), 0, 0);
    for n in 0..rounds {
        let scratch = Scratch::new();
        let conf = lines(&mut dice, 14, 0) + "\n";
        scratch.write(".tmux.conf", &conf);
        let mut text = conf.clone();
        if dice.percent(60) {
            let more = lines(&mut dice, 5, 1) + "\n";
            scratch.write("mist.conf", &more);
            let _ = write!(text, "--- mist.conf\n{more}");
        }
        let tmux = |arguments: &[&str]| {
            let mut command = Command::new("tmux");
            command
                .env_clear()
                .env("HOME", scratch.home())
                .env("PATH", std::env::var_os("PATH").unwrap_or_default())
                .env("TMUX_TMPDIR", scratch.tmp())
                .env("TERM", "xterm-256color")
                .env("LANG", "C.UTF-8")
                .env("SHELL", "/bin/sh")
                .env("SIDE", "dark")
                .current_dir(scratch.home());
            if dice_mood(n) {
                command.env("MOOD", "calm");
            }
            let out = command.args(arguments).output().expect("it starts");
            String::from_utf8_lossy(&out.stdout).into_owned()
        };
        tmux(&["new-session", "-d", "-x", "80", "-y", "24", "cat"]);
        let mut question: Vec<&str> = Vec::new();
        for (i, option) in STYLES.iter().chain(&COLORS).chain(&FORMATS).enumerate() {
            if i > 0 {
                question.push(";");
            }
            question.extend(["display-message", "-p", "@"]);
            question.push(";");
            question.extend(["show-options", "-gAv"]);
            question.push(option);
        }
        let said = tmux(&question);
        let expanded: Vec<&str> = STYLES.to_vec();
        let mut meant: Vec<String> = expanded.iter().map(|o| format!("#{{E:{o}}}")).collect();
        meant.insert(0, String::new());
        let meant = tmux(&["display-message", "-p", &meant.join("\n")]);
        tmux(&["kill-server"]);
        let raw: Vec<String> = said
            .split("@\n")
            .skip(1)
            .map(|v| v.trim_end_matches('\n').to_owned())
            .collect();
        let names: Vec<&str> = STYLES
            .iter()
            .chain(&COLORS)
            .chain(&FORMATS)
            .copied()
            .collect();
        assert_eq!(raw.len(), names.len(), "{said}\n{text}");
        let meant: Vec<&str> = meant.lines().skip(1).collect();
        let home = Home::open(Some(&scratch.home())).expect("a home");
        let report = adapter("tmux")
            .expect("ours")
            .read(&Asked(&home, &[]), &mut Facts::default());
        let stated: BTreeMap<&str, &str> = report
            .stated
            .iter()
            .map(|(o, _, v)| (o.as_str(), v.as_str()))
            .collect();
        let mut differs = |what: String| wrong.push(format!("{n}: {what} in\n{text}"));
        for (i, (option, raw)) in names.iter().zip(&raw).enumerate() {
            // What is sure to be set is what the server has.
            if let Some(own) = stated.get(option) {
                compared += 1;
                if own != raw {
                    differs(format!("{option} is {raw:?}, read as {own:?}"));
                }
            }
            if COLORS.contains(option) {
                let Some(found) = ours(&report, option, true).zip(ours(&report, option, false))
                else {
                    unsure += 1;
                    continue;
                };
                compared += 1;
                let all: Vec<&Value> = found.0.iter().chain(&found.1).map(|r| &r.value).collect();
                let theirs = value(&raw.to_ascii_lowercase());
                let silent = raw == "default" || raw == "none";
                if !(all.len() == 1 && Some(all[0]) == theirs.as_ref()
                    || silent && all.is_empty()
                    || *raw == "default" && all == [&Value::Default])
                {
                    differs(format!("{option} is {raw}, read as {all:?}"));
                }
            }
            if i < STYLES.len() && !raw.contains("#{?") && !raw.contains('$') {
                let worked = meant.get(i).copied().filter(|_| raw.contains("#{"));
                let (text_end, ground_end) = ends(worked.unwrap_or(raw));
                for (is_text, end) in [(true, text_end), (false, ground_end)] {
                    let Some(found) = ours(&report, option, is_text) else {
                        unsure += 1;
                        continue;
                    };
                    compared += 1;
                    let all: Vec<&Value> = found
                        .iter()
                        .map(|r| &r.value)
                        .filter(|v| **v != Value::Default)
                        .collect();
                    let theirs = end
                        .as_deref()
                        .and_then(value)
                        .filter(|v| *v != Value::Default);
                    if all.first().copied() != theirs.as_ref() {
                        differs(format!(
                            "{option} ({}) is {end:?} of {raw:?}, read as {all:?}",
                            if is_text { "text" } else { "ground" }
                        ));
                    }
                }
            }
        }
    }
    assert!(unsure * 10 < compared, "{unsure} of {compared} are unsure");
    judge("tmux", seed, rounds, &wrong, compared);
}

/// Whether the variable is set that the test does not tell of.
const fn dice_mood(n: usize) -> bool {
    n.is_multiple_of(2)
}
