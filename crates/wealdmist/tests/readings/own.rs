//! A prompt of the person's own, read as a design, is drawn as the shell itself draws it.

use std::process::Command;

use wealdmist_core::prompt::{Design, Row, Situation, draw};
use wealdmist_core::reading::ToolReport;
use wealdmist_host::Home;
use wealdmist_tools::{Facts, adapter};

use crate::common::{Scratch, have};
use crate::dice::{Dice, judge, run};

/// What stands before a prompt's parts, between them and behind.
fn text(dice: &mut Dice) -> &'static str {
    dice.pick(&[
        " ",
        "@",
        ":",
        " at ",
        " [",
        "] ",
        "",
        "/",
        " in ",
        "\u{2192} ",
    ])
}

/// The parts of a prompt, each as it is written in a shell, with texts between.
fn prompt(dice: &mut Dice, parts: &[&str], paints: &[&str], end: &str, newline: &str) -> String {
    let mut out = String::new();
    for i in 0..1 + dice.below(4) {
        if dice.percent(60) {
            out.push_str(dice.pick(paints));
        }
        if i > 0 || dice.percent(40) {
            out.push_str(text(dice));
        }
        out.push_str(dice.pick(parts));
        if dice.percent(15) {
            out.push_str(newline);
        }
    }
    out + text(dice) + end
}

fn plain(rows: &[Row]) -> String {
    let of = |row: &Row| row.left.iter().map(|p| p.text.as_str()).collect::<String>();
    rows.iter().map(of).collect::<Vec<_>>().join("\n")
}

/// A text without escapes and the marks around them.
fn stripped(text: &str) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find('\u{1b}') {
        out.push_str(&rest[..at]);
        rest = &rest[at + 1..];
        let end = match rest.as_bytes().first() {
            Some(b'(') => Some(1),
            _ => rest.find(|c: char| c.is_ascii_alphabetic()),
        };
        rest = end.map_or("", |end| &rest[end + 1..]);
    }
    out.push_str(rest);
    out.replace(['\u{1}', '\u{2}'], "")
}

fn read(scratch: &Scratch, tool: &str) -> (ToolReport, Option<Design>) {
    let home = Home::open(Some(&scratch.home())).expect("a home");
    let report = adapter(tool)
        .expect("ours")
        .read(&home, &mut Facts::default());
    let design = report.prompt.as_ref().map(|own| own.design(&report));
    (report, design)
}

#[test]
fn a_prompt_as_a_design_is_drawn_as_the_shell_draws_it() {
    if !have(&["bash", "zsh", "fish"]) {
        return;
    }
    let (seed, rounds) = run(120);
    let mut dice = Dice::new(seed ^ 21);
    let mut wrong = Vec::new();
    let said = |program: &str, arguments: &[&str], home: &std::path::Path| {
        let mut command = Command::new(program);
        command
            .args(arguments)
            .env_clear()
            .env("HOME", home)
            .env("PATH", std::env::var_os("PATH").unwrap_or_default())
            .env("TERM", "xterm-256color")
            .env("LANG", "C.UTF-8")
            .env("USER", "root")
            .current_dir(home);
        String::from_utf8_lossy(&command.output().expect("it starts").stdout).into_owned()
    };
    let name = |arguments: &[&str]| {
        let output = Command::new(arguments[0]).args(&arguments[1..]).output();
        let text = output.map(|o| o.stdout).unwrap_or_default();
        String::from_utf8_lossy(&text).trim().to_owned()
    };
    let (user, host) = (name(&["id", "-un"]), name(&["hostname", "-s"]));
    let is_root = name(&["id", "-u"]) == "0";
    for n in 0..rounds {
        let scratch = Scratch::new();
        scratch.write(".local/share/fish/generated_completions/.keep", "");
        let (tool, file, written, shown) = match n % 3 {
            0 => {
                let paints = ["\\[\\e[31m\\]", "\\[\\e[0m\\]", "\\[\\e[48;5;24;97m\\]"];
                let text = prompt(
                    &mut dice,
                    &["\\u", "\\h", "\\w", "\\W"],
                    &paints,
                    "\\$ ",
                    "\\n",
                );
                let file = format!("PS1='{text}'\n");
                scratch.write(".bashrc", &file);
                let shown = said(
                    "bash",
                    &[
                        "--norc",
                        "-ic",
                        ". ~/.bashrc; printf '\\036%s' \"${PS1@P}\"",
                    ],
                    &scratch.home(),
                );
                ("bash", file, text, shown)
            }
            1 => {
                let paints = ["%F{red}", "%f", "%K{24}", "%k%F{#102030}"];
                let text = prompt(&mut dice, &["%n", "%m", "%~", "%1~"], &paints, "%# ", "\n");
                let file = format!("PROMPT='{text}'\n");
                scratch.write(".zshrc", &file);
                let shown = said(
                    "zsh",
                    &[
                        "-d",
                        "-ic",
                        "print -rn -- $'\\036'; print -rnP -- \"$PROMPT\"",
                    ],
                    &scratch.home(),
                );
                ("zsh", file, text, shown)
            }
            _ => {
                let paints = [
                    "' (set_color red) '",
                    "' (set_color normal) '",
                    "' (set_color -b 102030 brwhite) '",
                ];
                let text = prompt(
                    &mut dice,
                    &["' $USER '", "' (prompt_pwd) '", "' (whoami) '"],
                    &paints,
                    "> ",
                    "\n",
                );
                let file = format!("function fish_prompt\n  echo -n -s '{text}'\nend\n");
                scratch.write(".config/fish/config.fish", &file);
                let shown = said(
                    "fish",
                    &["-ic", "printf '\\036'; fish_prompt"],
                    &scratch.home(),
                );
                ("fish", file, text, shown)
            }
        };
        let Some((_, shown)) = shown.rsplit_once('\u{1e}') else {
            panic!("{n} (seed {seed}): {tool} says {shown:?} of {file}");
        };
        let shown = stripped(shown.trim_end_matches("\u{1b}[?2004l")).replace('\r', "");
        let (report, design) = read(&scratch, tool);
        let Some(design) = design else {
            wrong.push(format!(
                "{n}: nothing is understood of {written:?}\n{report:?}"
            ));
            continue;
        };
        let at = Situation {
            user: user.clone(),
            host: host.clone(),
            folder: "~".to_owned(),
            root: is_root,
            width: 200,
            ..Situation::home()
        };
        let icons = design.at(wealdmist_core::character::SymbolLevel::Icons, str::to_owned);
        let drawn = plain(&draw(&icons, true, &at));
        // Grounds have a blank at both of their sides in a design, and a line between two of the same.
        let tight = |text: &str| {
            text.replace('\u{2502}', " ")
                .split_whitespace()
                .collect::<String>()
        };
        let blocks = design.parts().any(|p| p.ground.is_some());
        let same = match blocks {
            true => tight(&drawn) == tight(&shown),
            false => drawn.trim_end() == shown.trim_end(),
        };
        if !same {
            wrong.push(format!(
                "{n}: {tool} draws {shown:?}, the design {drawn:?}, of {written:?}"
            ));
        }
    }
    judge("own prompts", seed, rounds, &wrong, rounds + 1);
}
