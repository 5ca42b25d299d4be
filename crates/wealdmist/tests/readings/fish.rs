//! fish itself, asked for its prompts and colors under startup files made by chance.

use std::collections::BTreeSet;
use std::fmt::Write as _;
use std::process::Command;

use wealdmist_host::Home;
use wealdmist_tools::{Facts, Outer, adapter};

use crate::asked::Asked;
use crate::common::{Scratch, have};
use crate::dice::{Dice, judge, run};

const NAMES: [&str; 16] = [
    "black",
    "red",
    "green",
    "yellow",
    "blue",
    "magenta",
    "cyan",
    "white",
    "brblack",
    "brred",
    "brgreen",
    "bryellow",
    "brblue",
    "brmagenta",
    "brcyan",
    "brwhite",
];

fn color(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    match dice.below(10) {
        0 | 1 => dice.pick(&NAMES).to_owned(),
        2 => format!("{:x}{:x}{:x}", r % 16, g % 16, b % 16),
        3 => format!("'#{r:02x}{g:02x}{b:02x}'"),
        4 => dice.pick(&["purple", "Red", "normal"]).to_owned(),
        _ => format!("{r:02x}{g:02x}{b:02x}"),
    }
}

fn paint(dice: &mut Dice) -> String {
    match dice.below(8) {
        0 => format!("(set_color -b {} {})", color(dice), color(dice)),
        1 => format!("(set_color --bold {})", color(dice)),
        2 => format!("(set_color {} --background={})", color(dice), color(dice)),
        3 => "(set_color $fish_color_cwd)".to_owned(),
        4 => "$deep".to_owned(),
        _ => format!("(set_color {})", color(dice)),
    }
}

fn told(dice: &mut Dice) -> &'static str {
    dice.pick(&[
        "(prompt_pwd)",
        "$USER",
        "x",
        "(whoami)",
        "'>'",
        "$PWD",
        "@",
        "(string join / a b)",
    ])
}

/// What draws.
fn draws(dice: &mut Dice, depth: usize) -> String {
    match dice.below(12) {
        0..=5 => {
            let mut out = "echo -n -s".to_owned();
            for _ in 0..1 + dice.below(3) {
                let _ = write!(out, " {} {} (set_color normal)", paint(dice), told(dice));
            }
            out
        }
        6 => format!(
            "set_color {}\necho -n (prompt_pwd)\nset_color normal",
            color(dice)
        ),
        7 => format!(
            "printf '%s%s%s ' {} {} (set_color normal)",
            paint(dice),
            told(dice)
        ),
        // One within another would leave something that is never drawn.
        8 if depth == 0 => format!(
            "if test $last -eq 0\n{}\nelse\n{}\nend",
            draws(dice, 2),
            draws(dice, 2)
        ),
        9 if depth < 2 => format!(
            "set -l deep (set_color {})\n{}",
            color(dice),
            draws(dice, depth + 1)
        ),
        10 if depth == 0 => format!("test $last -ne 0; and {}", draws(dice, 2)),
        _ => "mist\necho -n ' '".to_owned(),
    }
}

fn function(dice: &mut Dice, name: &str) -> String {
    let mut body = "set -l last $status\n".to_owned();
    for _ in 0..1 + dice.below(2) {
        let _ = writeln!(body, "{}", draws(dice, 0));
    }
    format!("function {name}\n{body}end")
}

fn variable(dice: &mut Dice) -> String {
    let name = dice.pick(&[
        "fish_color_command",
        "fish_color_cwd",
        "fish_color_autosuggestion",
        "fish_color_search_match",
        "fish_pager_color_prefix",
        "fish_pager_color_selected_background",
    ]);
    let scope = dice.pick(&["-g", "-g", "-g", "--global", "-gx", "-U", ""]);
    match dice.below(6) {
        0 => format!("set {scope} {name} {} --bold", color(dice)),
        1 => format!("set {scope} {name} --background={}", color(dice)),
        2 => format!(
            "set {scope} {name} {} --background={}",
            color(dice),
            color(dice)
        ),
        3 => format!("set -e {name}"),
        4 => format!("set -a {name} --underline"),
        _ => format!("set {scope} {name} {}", color(dice)),
    }
}

fn condition(dice: &mut Dice) -> String {
    dice.pick(&[
        "status is-interactive",
        "not status is-interactive",
        "test \"$TERM\" = linux",
        "test \"$TERM\" = xterm-256color",
        "string match -q 'xterm*' $TERM",
        "test -n \"$SIDE\"",
        "test \"$SIDE\" != light",
        "set -q SIDE",
        "set -q NOSUCH",
        "not set -q NOSUCH; and true",
        "test -f ~/.mist.fish",
        "type -q fish",
        "command -q nosuchprogram",
        "functions -q mist",
        "test \"$MOOD\" = calm",
        "set -q MOOD",
        "true",
        "false",
        "contains b a b c",
        "[ 2 -gt 1 ]",
    ])
    .to_owned()
}

fn line(dice: &mut Dice, depth: usize) -> String {
    match dice.below(26) {
        0..=3 => function(dice, "fish_prompt"),
        4 => function(dice, "fish_right_prompt"),
        5..=11 => variable(dice),
        12 => {
            let inner = paint(dice);
            format!("function mist\n  echo -n -s {inner} m (set_color normal)\nend")
        }
        13 => format!("set -g deep (set_color {})", color(dice)),
        14 if depth < 2 => format!(
            "if {}\n  {}\nend",
            condition(dice),
            lines(dice, 2, depth + 1)
        ),
        15 if depth < 2 => format!(
            "if {}; {}; else; {}\nend",
            condition(dice),
            variable(dice),
            lines(dice, 2, depth + 1)
        ),
        16 => format!(
            "switch $TERM\n  case 'xterm*' screen\n    {}\n  case '*'\n    {}\nend",
            variable(dice),
            variable(dice)
        ),
        17 => format!("{}; and {}", condition(dice), variable(dice)),
        18 => format!("{} || {}", condition(dice), variable(dice)),
        19 if depth == 0 => dice
            .pick(&[
                "source ~/.mist.fish",
                "test -r ~/.mist.fish; and source ~/.mist.fish",
                "if test -e $HOME/.mist.fish; . $HOME/.mist.fish; end",
            ])
            .to_owned(),
        20 => dice
            .pick(&[
                "set -g fish_greeting",
                "set -x EDITOR vi",
                "abbr -a ll ls -l",
                "set SIDE light",
                "set -e SIDE",
                "begin; set -l fish_color_command red; end",
                "for c in red blue; set -g fish_color_cwd $c; end",
                "fish_config theme choose mist",
                "status is-login; and set -g x 1",
            ])
            .to_owned(),
        21 => format!("# {}", variable(dice)),
        22 => format!(
            "function later --on-event fish_prompt\n  set -g fish_color_end {}\nend",
            color(dice)
        ),
        23 => format!("eval \"{}\"", variable(dice)),
        24 => format!("function once\n  {}\nend\nonce", variable(dice)),
        _ => format!("begin\n  {}\nend", variable(dice)),
    }
}

pub fn lines(dice: &mut Dice, most: usize, depth: usize) -> String {
    dice.lines(most, depth, line)
}

/// What a color comes to, spelled in one way, by the test's own rules.
fn plain(written: &str) -> Option<String> {
    let lower = written.to_lowercase();
    if let Some(at) = NAMES.iter().position(|n| *n == lower) {
        return Some(at.to_string());
    }
    if lower == "purple" {
        return Some("5".to_owned());
    }
    let digits = lower.trim_start_matches('#');
    let all = digits.chars().all(|c| c.is_ascii_hexdigit());
    match digits.len() {
        3 if all => Some(format!(
            "#{}",
            digits.chars().flat_map(|c| [c, c]).collect::<String>()
        )),
        6 if all => Some(format!("#{digits}")),
        _ => None,
    }
}

/// The colors of escapes that something is drawn in.
fn in_prompt(text: &str) -> BTreeSet<String> {
    let mut out = BTreeSet::new();
    let mut pen: [Option<String>; 2] = [None, None];
    let mut rest = text;
    while let Some(at) = rest.find('\u{1b}') {
        if at > 0 {
            out.extend(pen.iter().flatten().cloned());
        }
        rest = &rest[at + 1..];
        if let Some(inner) = rest.strip_prefix('[') {
            let end = inner
                .find(|c: char| c.is_ascii_alphabetic())
                .unwrap_or(inner.len());
            let numbers: Vec<u32> = inner[..end]
                .split(';')
                .filter_map(|n| n.parse().ok())
                .collect();
            match numbers.as_slice() {
                [] | [0] => pen = [None, None],
                [38, 2, r, g, b] => pen[0] = Some(format!("#{r:02x}{g:02x}{b:02x}")),
                [48, 2, r, g, b] => pen[1] = Some(format!("#{r:02x}{g:02x}{b:02x}")),
                [n @ 30..=37] => pen[0] = Some((n - 30).to_string()),
                [n @ 40..=47] => pen[1] = Some((n - 40).to_string()),
                [n @ 90..=97] => pen[0] = Some((n - 82).to_string()),
                [n @ 100..=107] => pen[1] = Some((n - 92).to_string()),
                _ => {}
            }
            rest = inner.get(end + 1..).unwrap_or_default();
        } else {
            rest = rest.strip_prefix("(B").unwrap_or(rest);
        }
    }
    if !rest.is_empty() {
        out.extend(pen.into_iter().flatten());
    }
    out
}

const ASK: &str = r"
emit fish_prompt
printf '\036P'; functions -q fish_prompt; and begin; true; fish_prompt; end
printf '\036P'; functions -q fish_prompt; and begin; false; fish_prompt; end
printf '\036R'; functions -q fish_right_prompt; and begin; true; fish_right_prompt; end
printf '\036R'; functions -q fish_right_prompt; and begin; false; fish_right_prompt; end
for name in (set -n | string match 'fish_color_*'; set -n | string match 'fish_pager_color_*')
    printf '\036V%s' $name; printf '\037%s' $$name
end
functions -D fish_prompt | string match -q '/usr/*'; and printf '\036D'
printf '\036E'
";

#[test]
fn fish_has_the_colors_that_we_read() {
    if !have(&["fish"]) {
        return;
    }
    let (seed, rounds) = run(300);
    let mut dice = Dice::new(seed);
    let (mut wrong, mut compared, mut unsure, mut answers) = (Vec::new(), 0, 0, 0);
    for n in 0..rounds {
        let scratch = Scratch::new();
        let mut text = String::new();
        let mut write = |name: &str, content: String| {
            scratch.write(name, &content);
            let _ = write!(text, "--- {name}\n{content}");
        };
        write(".config/fish/config.fish", lines(&mut dice, 10, 0) + "\n");
        scratch.write(".local/share/fish/generated_completions/.keep", "");
        for name in [".mist.fish", ".config/fish/conf.d/10-mist.fish"] {
            if dice.percent(40) {
                write(name, lines(&mut dice, 3, 1) + "\n");
            }
        }
        if dice.percent(30) {
            write(
                ".config/fish/functions/fish_prompt.fish",
                function(&mut dice, "fish_prompt") + "\n",
            );
        }
        if dice.percent(30) {
            let kept = format!(
                "# This file contains fish universal variable definitions.\n# VERSION: 3.0\nSETUVAR fish_color_command:{}\\x1e\\x2d\\x2dbold\nSETUVAR fish_color_cwd:{}\nSETUVAR --export MIST:a\\x20b\n",
                color(&mut dice).trim_matches('\''),
                color(&mut dice).trim_matches(['\'', '#'])
            );
            write(".config/fish/fish_variables", kept.replace(":#", ":\\x23"));
        }
        if dice.percent(40) {
            let theme = format!(
                "# name: mist\nfish_color_command {}\nfish_pager_color_prefix {} --bold\n",
                color(&mut dice).trim_matches(['\'', '#']),
                color(&mut dice).trim_matches(['\'', '#'])
            );
            write(".config/fish/themes/mist.theme", theme);
        }
        let mut command = Command::new("fish");
        command
            .args(["-ic", ASK])
            .env_clear()
            .env("HOME", scratch.home())
            .env("USER", "ash")
            .env("PATH", std::env::var_os("PATH").unwrap_or_default())
            .env("TERM", "xterm-256color")
            .env("COLORTERM", "truecolor")
            .env("SIDE", "dark")
            .current_dir(scratch.home());
        if n.is_multiple_of(2) {
            command.env("MOOD", "calm");
        }
        // The files are read as they are now: the shell writes some of them itself.
        let home = Home::open(Some(&scratch.home())).expect("a home");
        let outer = Outer {
            tool: wealdmist_core::reading::ToolId("t"),
            term: "xterm-256color".to_owned(),
            ground: None,
        };
        let mut facts = Facts {
            terminals: vec![outer],
            ..Facts::default()
        };
        let unknown = ["EUID", "SHLVL", "PATH", "version", "USER", "PWD"];
        let report = adapter("fish")
            .expect("ours")
            .read(&Asked(&home, &unknown), &mut facts);
        let output = command.output().expect("it starts");
        let said = String::from_utf8_lossy(&output.stdout).into_owned();
        if !said.contains("\u{1e}P") {
            continue;
        }
        answers += 1;
        let of_shell = said.contains("\u{1e}D");
        let mut theirs: [BTreeSet<String>; 2] = Default::default();
        for part in said.split('\u{1e}').skip(1) {
            let (kind, inner) = part.split_at(1);
            match kind {
                // The shell's own prompt nobody wrote.
                "P" if of_shell => {}
                "P" | "R" => theirs[0].extend(in_prompt(inner)),
                // What the shell's own prompt sets while it draws.
                "V" if inner.starts_with("fish_color_hg_") => {}
                "V" => {
                    // Of several colors the first counts.
                    let words: Vec<&str> = inner.split('\u{1f}').skip(1).collect();
                    let grounds = words.iter().filter_map(|w| w.strip_prefix("--background="));
                    theirs[1].extend(grounds.filter_map(plain));
                    let mut texts = words.iter().filter(|w| !w.starts_with('-'));
                    theirs[1].extend(texts.find_map(|w| plain(w)));
                }
                _ => {}
            }
        }
        for (i, theirs) in theirs.iter().enumerate() {
            let of_kind = || {
                let is = move |k: &str| k.ends_with("_prompt") == (i == 0);
                report
                    .readings
                    .iter()
                    .filter(move |r| is(&r.key) && r.effective)
            };
            if of_kind().any(|r| !r.is_sure()) {
                unsure += 1;
                continue;
            }
            let ours: BTreeSet<String> = of_kind()
                .filter(|r| r.role.as_str() != "theme")
                .filter_map(|r| match &r.value {
                    wealdmist_core::reading::Value::Slot(slot) => {
                        slot.ansi().map(|n| n.to_string())
                    }
                    value => plain(&value.to_string()),
                })
                .collect();
            compared += theirs.len().max(1);
            // What stands in a variable that a prompt uses is one reading.
            let ours: BTreeSet<String> = match i {
                0 => {
                    let all = report.readings.iter().filter(|r| r.effective);
                    let all = all.filter_map(|r| match &r.value {
                        wealdmist_core::reading::Value::Slot(slot) => {
                            slot.ansi().map(|n| n.to_string())
                        }
                        value => plain(&value.to_string()),
                    });
                    let all: BTreeSet<String> = all.collect();
                    ours.union(&all.intersection(theirs).cloned().collect())
                        .cloned()
                        .collect()
                }
                _ => ours,
            };
            if ours != *theirs {
                wrong.push(format!(
                    "{n}: {} {theirs:?}, read as {ours:?} in\n{text}\nsaid {said:?}\n{}",
                    ["the prompts have", "variables have"][i],
                    String::from_utf8_lossy(&output.stderr)
                ));
            }
        }
    }
    assert!(
        unsure * 10 < answers * 2,
        "{unsure} of {} are unsure",
        answers * 2
    );
    eprintln!("fish: {unsure} of {} readings are unsure", answers * 2);
    assert!(answers * 10 > rounds * 9, "{answers} of {rounds} answered");
    judge("fish", seed, rounds, &wrong, compared);
}
