//! The shell itself, asked for its prompt under startup files made by chance.

use std::fmt::Write as _;
use std::process::Command;

use wealdmist_core::Rgb;
use wealdmist_core::color::indexed;
use wealdmist_core::reading::Value;
use wealdmist_core::role::Slot;
use wealdmist_host::Home;
use wealdmist_tools::{Facts, Outer, adapter};

use crate::asked::Asked;
use crate::common::{Scratch, have};
use crate::dice::{Dice, judge, run};

/// An escape that no other place has.
fn escape(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    let inner = match dice.below(8) {
        0 => format!("3{}", dice.below(8)),
        1 => format!("1;9{}", dice.below(8)),
        2 | 3 => format!("38;5;{}", dice.below(256)),
        _ => format!("38;2;{r};{g};{b}"),
    };
    let begin = dice.pick(&["\\e[", "\\e[", "\\033["]);
    format!("\\[{begin}{inner}m\\]")
}

fn prompt(dice: &mut Dice) -> String {
    let mut out = String::new();
    if dice.percent(30) {
        out.push_str(dice.pick(&["${debian_chroot:+($debian_chroot)}", "[", "\\n", "\\t "]));
    }
    for _ in 0..1 + dice.below(3) {
        let part = match dice.below(8) {
            0 => dice
                .pick(&["$RED", "${RED}", "$DEEP", "${NOSUCH}"])
                .to_owned(),
            _ => escape(dice),
        };
        let _ = write!(
            out,
            "{part}{}",
            dice.pick(&["\\u", "\\h", "\\w", "\\W ", "\\u@\\h"])
        );
    }
    out.push_str("\\[\\e[0m\\]\\$ ");
    out
}

fn assignment(dice: &mut Dice) -> String {
    let text = prompt(dice);
    match dice.below(10) {
        0..=3 => format!("PS1='{text}'"),
        4..=6 => format!("PS1=\"{text}\""),
        7 => format!("export PS1=\"{text}\""),
        8 => format!("PS1+='{text}'"),
        _ => format!(
            "PS1=$'{}'",
            text.replace("\\[", "\\\\[")
                .replace("\\]", "\\\\]")
                .replace("\\u", "\\\\u")
                .replace("\\h", "\\\\h")
                .replace("\\w", "\\\\w")
                .replace("\\W", "\\\\W")
                .replace("\\$", "\\\\$")
                .replace("\\t ", "\\\\t ")
                .replace("\\n", "\\\\n")
        ),
    }
}

fn color(dice: &mut Dice) -> String {
    let name = dice.pick(&["RED", "DEEP"]);
    match dice.below(5) {
        0 => format!("{name}=\"{}\"", escape(dice)),
        1 => format!("{name}=$(tput setaf {})", dice.below(20)),
        2 => format!("local_{name}=x; {name}='{}'", escape(dice)),
        3 => format!("{name}=$'\\001\\e[38;5;{}m\\002'", dice.below(256)),
        _ => format!("{name}='{}'", escape(dice)),
    }
}

fn condition(dice: &mut Dice) -> String {
    dice.pick(&[
        "[ \"$TERM\" = linux ]",
        "[ \"$TERM\" = xterm-256color ]",
        "[[ $TERM == xterm* ]]",
        "[[ $TERM == *-256color && -n $COLORTERM ]]",
        "[[ \"$COLORTERM\" == truecolor || $TERM == dumb ]]",
        "[ -n \"$SIDE\" ]",
        "[ \"$SIDE\" != light ]",
        "[ -z \"$NOSUCH\" ]",
        "[ -f ~/.mist ]",
        "test -r \"$HOME/.nosuch\"",
        "[ \"$MOOD\" = calm ]",
        "[[ -n $MOOD ]]",
        "[ \"${SIDE:-light}\" = dark ]",
        "[ -n \"${force_color:+yes}\" ]",
        "true",
        "false",
        "! false",
        "command -v nosuchprogram >/dev/null 2>&1",
        "type bash &>/dev/null",
        "[ 2 -gt 1 ] && [ a = a ]",
        "[ -x /usr/bin/nosuch ] && tput setaf 1 >&/dev/null",
        "[ \"$force_color\" = yes ]",
        "[ -v SIDE ]",
    ])
    .to_owned()
}

fn line(dice: &mut Dice, depth: usize) -> String {
    match dice.below(30) {
        0..=6 => assignment(dice),
        7..=9 => color(dice),
        10 if depth < 2 => format!(
            "if {}; then\n  {}\nfi",
            condition(dice),
            lines(dice, 2, depth + 1)
        ),
        11 if depth < 2 => format!(
            "if {}; then {}; else\n{}\nfi",
            condition(dice),
            assignment(dice),
            lines(dice, 2, depth + 1)
        ),
        12 if depth < 2 => format!(
            "if {}\nthen {}\nelif {}; then\n  {}\nfi",
            condition(dice),
            assignment(dice),
            condition(dice),
            assignment(dice)
        ),
        13 => format!(
            "case \"$TERM\" in\n  {}) {};;\n  *)\n    {}\n    ;;\nesac",
            dice.pick(&[
                "xterm-color|*-256color",
                "linux|dumb",
                "xterm*",
                "\"xterm*\""
            ]),
            assignment(dice),
            assignment(dice)
        ),
        14 => format!("{} && {}", condition(dice), assignment(dice)),
        15 => format!("{} || {}", condition(dice), assignment(dice)),
        16 => format!(
            "set_prompt() {{\n  local deep=1\n  {}\n}}",
            assignment(dice)
        ),
        17 => format!("function mist {{ {}; }}", assignment(dice)),
        18 => dice
            .pick(&[
                "set_prompt",
                "mist",
                "PROMPT_COMMAND=set_prompt",
                "PROMPT_COMMAND=\"mist; $PROMPT_COMMAND\"",
                "PROMPT_COMMAND+=(mist)",
                "PROMPT_COMMAND='history -a; set_prompt'",
                "unset PROMPT_COMMAND",
            ])
            .to_owned(),
        19 => dice
            .pick(&[
                "case $- in\n  *i*) ;;\n  *) return ;;\nesac",
                "[ -z \"$PS1\" ] && return",
                "[[ $- != *i* ]] && return",
                "[ -n \"$PS1\" ] || return",
            ])
            .to_owned(),
        20 if depth == 0 => dice
            .pick(&[
                ". ~/.mist",
                "source \"$HOME/.mist\"",
                "[ -f ~/.mist ] && . ~/.mist",
                "test -r ~/.nosuch && . ~/.nosuch",
                "if [ -r ~/.mist ]; then . ~/.mist; fi",
            ])
            .to_owned(),
        21 if depth == 0 => "for f in ~/.bashrc.d/*; do [ -r \"$f\" ] && . \"$f\"; done".to_owned(),
        22 => dice
            .pick(&[
                "force_color=yes",
                "unset force_color",
                "SIDE=light",
                "shopt -s checkwinsize",
                "alias ll='ls -l'",
                "HISTCONTROL=ignoreboth",
                "umask 022",
                "export EDITOR=vi",
            ])
            .to_owned(),
        23 => format!("# {}", assignment(dice)),
        24 => format!("cat >/dev/null <<EOF\n{}\nEOF", assignment(dice)),
        25 => format!("echo {:?} >/dev/null", assignment(dice)),
        26 => format!("( {} )", assignment(dice)),
        27 => format!("eval {}", shell_words(&assignment(dice))),
        28 => format!("unset RED; {}", color(dice)),
        _ => format!("{}; {}", color(dice), assignment(dice)),
    }
}

/// A text in single quotes.
fn shell_words(text: &str) -> String {
    format!("'{}'", text.replace('\'', "'\\''"))
}

pub fn lines(dice: &mut Dice, most: usize, depth: usize) -> String {
    dice.lines(most, depth, line)
}

/// The colors of text in a prompt as the shell has it, in their order, by the test's own rules.
fn theirs(prompt: &str) -> Vec<Value> {
    let mut out = Vec::new();
    let marked = prompt
        .replace("\\e[", "\u{1b}[")
        .replace("\\033[", "\u{1b}[");
    for escape in marked.split("\u{1b}[").skip(1) {
        let Some((inner, rest)) = escape.split_once('m') else {
            continue;
        };
        let numbers: Vec<u8> = inner.split(';').filter_map(|n| n.parse().ok()).collect();
        let slot = |n: u8| match Slot::from_ansi(n) {
            Some(slot) => Value::Slot(slot),
            None => Value::Color(indexed(n).unwrap()),
        };
        let value = match numbers.as_slice() {
            [38, 5, n] => slot(*n),
            [38, 2, r, g, b] => Value::Color(Rgb::new(*r, *g, *b)),
            [1, n @ 90..=97] => slot(n - 82),
            [n @ 30..=37] => slot(n - 30),
            [n @ 90..=97] => slot(n - 82),
            _ => continue,
        };
        // Only what colors something that is drawn.
        let drawn = rest.trim_start_matches("\\]").trim_start_matches('\u{2}');
        if !drawn.starts_with("\\[") && !drawn.is_empty() && !drawn.starts_with('\u{1}') {
            out.push(value);
        }
    }
    out
}

#[test]
fn the_shell_has_the_prompt_that_we_read() {
    if !have(&["bash", "tput"]) {
        return;
    }
    let (seed, rounds) = run(300);
    let mut dice = Dice::new(seed);
    let (mut wrong, mut compared, mut unsure, mut answers) = (Vec::new(), 0, 0, 0);
    for n in 0..rounds {
        let scratch = Scratch::new();
        let rc = lines(&mut dice, 12, 0) + "\n";
        scratch.write(".bashrc", &rc);
        let mut text = rc.clone();
        for name in [".mist", ".bashrc.d/10-mist", ".bashrc.d/20-fog"] {
            if dice.percent(40) {
                let more = lines(&mut dice, 3, 1) + "\n";
                scratch.write(name, &more);
                let _ = write!(text, "--- {name}\n{more}");
            }
        }
        let mut command = Command::new("bash");
        command
            .args([
                "--norc",
                "-ic",
                // What the system has for all is left out.
                ". ~/.bashrc; for c in \"${PROMPT_COMMAND[@]}\"; do eval \"$c\"; done; printf '\\036%s' \"$PS1\"",
            ])
            .env_clear()
            .env("HOME", scratch.home())
            .env("PATH", std::env::var_os("PATH").unwrap_or_default())
            .env("TERM", "xterm-256color")
            .env("COLORTERM", "truecolor")
            .env("SIDE", "dark")
            .current_dir(scratch.home());
        if n.is_multiple_of(2) {
            command.env("MOOD", "calm");
        }
        let said = command.output().expect("it starts");
        let said = String::from_utf8_lossy(&said.stdout).into_owned();
        let Some((_, prompt)) = said.rsplit_once('\u{1e}') else {
            continue;
        };
        answers += 1;
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
        let report = adapter("bash").expect("ours").read(
            &Asked(&home, &["EUID", "SHLVL", "PATH", "BASH_VERSION", "OSTYPE"]),
            &mut facts,
        );
        let of_prompt = || {
            report
                .readings
                .iter()
                .filter(|r| r.key == "PS1" && r.effective)
        };
        let theirs = theirs(prompt);
        if of_prompt().any(|r| !r.is_sure()) {
            unsure += 1;
            continue;
        }
        let ours: Vec<Value> = of_prompt()
            .filter(|r| r.role.as_str() != "theme")
            .map(|r| r.value.clone())
            .collect();
        compared += theirs.len().max(1);
        // An escape that stands in one place and is used twice is one reading.
        let once = |all: &[Value]| {
            let mut seen: Vec<Value> = Vec::new();
            all.iter().for_each(|v| {
                if !seen.contains(v) {
                    seen.push(v.clone());
                }
            });
            seen
        };
        if once(&ours) != once(&theirs) {
            wrong.push(format!(
                "{n}: the prompt is {prompt:?} with {theirs:?}, read as {ours:?} in\n{text}"
            ));
        }
    }
    assert!(unsure * 10 < answers, "{unsure} of {answers} are unsure");
    eprintln!("bash: {unsure} of {answers} prompts are unsure");
    assert!(answers * 10 > rounds * 9, "{answers} of {rounds} answered");
    judge("bash", seed, rounds, &wrong, compared);
}

/// Lines of the line editor's init file.
fn editor_lines(dice: &mut Dice, depth: usize) -> String {
    const NAMES: [&str; 5] = [
        "vi-ins-mode-string",
        "Vi-Cmd-Mode-String",
        "emacs-mode-string",
        "bell-style",
        "nosuch-mode-string",
    ];
    let color = |dice: &mut Dice| {
        let [r, g, b, ..] = dice.next().to_le_bytes();
        let sign = dice.pick(&["\\e", "\\e", "\\033", "\\x1b"]);
        match dice.below(5) {
            0 => format!("{sign}[1;3{}m", dice.below(8)),
            1 => format!("{sign}[48;5;{}m", dice.below(256)),
            2 => format!("{sign}[4{};38;2;{r};{g};{b}m", dice.below(8)),
            _ => format!("{sign}[38;2;{r};{g};{b}m"),
        }
    };
    match dice.below(if depth > 2 { 8 } else { 12 }) {
        0 => dice
            .pick(&[
                "# set vi-ins-mode-string \\e[31m",
                "",
                "set editing-mode emacs",
                "\"\\C-xq\": \"\\e[31m\"",
            ])
            .to_owned(),
        1 => "$include .more".to_owned(),
        2..=7 => {
            let name = dice.pick(&NAMES);
            let text = format!(
                "{}{}",
                color(dice),
                dice.pick(&["i", "", "\\1x\\2", "a b", "\\\"q"])
            );
            let set = dice.pick(&["set ", "  set\t", "SET  "]);
            match dice.below(3) {
                0 => format!("{set}{name} {text}{}", dice.pick(&["", "  ", "\t"])),
                _ => format!("{set}{name} \"{text}\"{}", dice.pick(&["", " # x", "  "])),
            }
        }
        _ => {
            let inner = dice.lines(3, depth + 1, editor_lines);
            let condition = match dice.percent(12) {
                true => dice.pick(&["mode=vi", "mode=emacs", "term=dumb"]),
                false => dice.pick(&["Bash", "bash", "zsh", "tcsh"]),
            };
            match dice.percent(50) {
                true => format!("$if {condition}\n{inner}\n$endif"),
                false => format!(
                    "$if {condition}\n{inner}\n$else\n{}\n$endif",
                    dice.lines(2, depth + 1, editor_lines)
                ),
            }
        }
    }
}

#[test]
fn the_line_editor_has_the_colors_that_we_read() {
    if !have(&["bash"]) {
        return;
    }
    let (seed, rounds) = run(300);
    let mut dice = Dice::new(seed ^ 5);
    let (mut wrong, mut compared, mut unsure) = (Vec::new(), 0, 0);
    let names = [
        "emacs-mode-string",
        "vi-ins-mode-string",
        "vi-cmd-mode-string",
    ];
    let colors = |text: &[u8]| -> std::collections::BTreeSet<String> {
        let all = wealdmist_tools::document::sgr::colors(text, 0..text.len()).into_iter();
        let of = |color| wealdmist_tools::document::sgr::value_of(color);
        all.filter_map(|c| c.color.and_then(of))
            .map(|v| v.to_string())
            .collect()
    };
    for n in 0..rounds {
        let scratch = Scratch::new();
        let text = dice.lines(8, 0, editor_lines) + "\n";
        scratch.write(".inputrc", &text);
        let more = dice.lines(2, 3, editor_lines).replace("$include .more", "") + "\n";
        scratch.write(".more", &more);
        let said = std::process::Command::new("bash")
            .args(["--norc", "--noprofile", "-i", "-c", "bind -v"])
            .env_clear()
            .env("PATH", std::env::var_os("PATH").unwrap_or_default())
            .env("HOME", scratch.home())
            .env("TERM", "xterm-256color")
            .current_dir(scratch.home())
            .output()
            .expect("bash runs");
        let home = Home::open(Some(&scratch.home())).expect("a home");
        let report = adapter("bash")
            .expect("ours")
            .read(&crate::asked::Asked(&home, &[]), &mut Facts::default());
        for name in names {
            let line = format!("set {name} ");
            let theirs = said
                .stdout
                .split(|b| *b == b'\n')
                .find_map(|l| l.strip_prefix(line.as_bytes()))
                .map(colors)
                .unwrap_or_default();
            let all: Vec<_> = report.readings.iter().filter(|r| r.key == name).collect();
            if all.iter().any(|r| !r.is_sure()) {
                unsure += 1;
                continue;
            }
            compared += 1;
            let ours: std::collections::BTreeSet<String> =
                all.iter().map(|r| r.value.to_string()).collect();
            if ours != theirs {
                wrong.push(format!(
                    "{n}: {name} {theirs:?}, read as {ours:?} in\n{text}---\n{more}"
                ));
            }
        }
    }
    assert!(
        unsure * 10 < rounds * 3,
        "{unsure} of {} are unsure",
        rounds * 3
    );
    judge("the line editor", seed, rounds, &wrong, compared);
}
