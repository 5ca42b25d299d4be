//! zsh itself, asked for its prompts, styles and colors under startup files made by chance.

use std::collections::BTreeSet;
use std::fmt::Write as _;
use std::process::Command;

use wealdmist_host::Home;
use wealdmist_tools::{Facts, Outer, adapter};

use crate::asked::Asked;
use crate::common::{Scratch, have};
use crate::dice::{Dice, judge, run};

const NAMES: [&str; 8] = [
    "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
];

/// A color as it stands in braces; sometimes one that is none.
fn color(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    match dice.below(12) {
        0 | 1 => dice.pick(&NAMES).to_owned(),
        2 | 3 => dice.below(256).to_string(),
        4 => format!("#{:x}{:x}{:x}", r % 16, g % 16, b % 16),
        5 => dice
            .pick(&["bright-red", "nosuch", "300", "#12345", "default", "Red"])
            .to_owned(),
        _ => format!("#{r:02x}{g:02x}{b:02x}"),
    }
}

fn paint(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    match dice.below(12) {
        0 => format!("%K{{{}}}%F{{{}}}", color(dice), color(dice)),
        1 => format!("%B%F{{{}}}", color(dice)),
        2 => format!("%{}F", dice.below(9)),
        3 => dice.pick(&["$DEEP", "${DEEP}", "${NOSUCH}"]).to_owned(),
        4 => dice
            .pick(&["%{$fg[red]%}", "%{$fg_bold[blue]%}", "%{${fg[cyan]}%}"])
            .to_owned(),
        5 => format!("%{{\u{1b}[38;2;{r};{g};{b}m%}}"),
        _ => format!("%F{{{}}}", color(dice)),
    }
}

fn told(dice: &mut Dice) -> &'static str {
    dice.pick(&[
        "%n",
        "%m",
        "%~",
        "%1~",
        "%3c",
        "%n@%m",
        "*",
        "%D{%H:%M}",
        "%j",
    ])
}

fn prompt(dice: &mut Dice) -> String {
    let mut out = String::new();
    if dice.percent(20) {
        out.push_str(dice.pick(&["[", "%(2L.+.)", "%10<..<"]));
    }
    for _ in 0..1 + dice.below(3) {
        let (paint, told) = (paint(dice), told(dice));
        let _ = write!(out, "{paint}{told}%f%k ");
    }
    match dice.below(4) {
        0 => {
            let (yes, no) = (color(dice), color(dice));
            let sign = dice.pick(&[".", ":", "|"]);
            let _ = write!(out, "%(?{sign}%F{{{yes}}}{sign}%F{{{no}}})%#%f ");
        }
        1 => {
            let (yes, no) = (paint(dice), color(dice));
            let _ = write!(out, "%(!.{yes}#.%(?.%F{{{no}}}>.!))%f ");
        }
        _ => out.push_str("%# "),
    }
    out
}

fn assignment(dice: &mut Dice) -> String {
    let text = prompt(dice);
    let name = dice.pick(&["PROMPT", "PROMPT", "PS1", "prompt", "RPROMPT", "RPS1"]);
    match dice.below(9) {
        0..=3 => format!("{name}='{text}'"),
        4..=6 => format!("{name}=\"{text}\""),
        7 => format!("export {name}=\"{text}\""),
        _ => format!("{name}+='{text}'"),
    }
}

fn style(dice: &mut Dice) -> String {
    let mut out = match dice.below(3) {
        0 => format!("bg={}", color(dice)),
        1 => format!("fg={},bg={}", color(dice), color(dice)),
        _ => format!("fg={}", color(dice)),
    };
    if dice.percent(30) {
        out.push_str(",bold");
    }
    out
}

fn other(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    match dice.below(9) {
        0 => format!(
            "zle_highlight=(region:{} isearch:{})",
            style(dice),
            style(dice)
        ),
        1 => format!("zle_highlight+=(paste:{})", style(dice)),
        2 => format!(
            "MIST_STYLES[{}]='{}'",
            dice.pick(&["command", "comment", "path"]),
            style(dice)
        ),
        3 => format!("MIST_STYLES+=(quoted '{}')", style(dice)),
        4 => format!("MIST_SUGGEST_STYLE={}", style(dice).replace('#', "\\#")),
        5 => format!("typeset -g MIST_DIR_FOREGROUND='{}'", color(dice)),
        6 => format!("MIST_DIR_BACKGROUND={}", dice.below(256)),
        7 => format!(
            "zstyle ':completion:*:default' list-colors 'di=38;2;{r};{g};{b}' 'ma=4{}' '*.rs=9{}'",
            dice.below(8),
            dice.below(8)
        ),
        _ => format!(
            "zstyle ':completion:*:descriptions' format '%F{{{}}}-- %d --%f'",
            color(dice)
        ),
    }
}

fn condition(dice: &mut Dice) -> String {
    dice.pick(&[
        "[[ $TERM == xterm* ]]",
        "[[ $TERM == *-256color && -n $COLORTERM ]]",
        "[[ $TERM = (linux|dumb) ]]",
        "[[ \"$COLORTERM\" == truecolor || $TERM == dumb ]]",
        "[ -n \"$SIDE\" ]",
        "[[ $SIDE != light ]]",
        "[[ -o interactive ]]",
        "[[ ! -o interactive ]]",
        "[[ -f ~/.mist ]]",
        "(( $+commands[zsh] ))",
        "(( ${+commands[nosuchprogram]} ))",
        "(( ! $+commands[nosuchprogram] ))",
        "(( $+functions[mist] ))",
        "(( $+SIDE ))",
        "[[ \"$MOOD\" == calm ]]",
        "[[ -n $MOOD ]]",
        "true",
        "false",
        "command -v nosuchprogram >/dev/null 2>&1",
        "whence zsh >/dev/null",
        "[[ -z \"${lines_of_mine}\" ]]",
        "[[ -n ${DEEP:-} ]]",
        "(( 2 > 1 ))",
    ])
    .to_owned()
}

fn line(dice: &mut Dice, depth: usize) -> String {
    match dice.below(36) {
        0..=6 => assignment(dice),
        7..=11 => other(dice),
        12 => format!("DEEP='%F{{{}}}'", color(dice)),
        13 if depth < 2 => format!(
            "if {}; then\n  {}\nfi",
            condition(dice),
            lines(dice, 2, depth + 1)
        ),
        14 if depth < 2 => format!(
            "if {}; then {}; else\n{}\nfi",
            condition(dice),
            assignment(dice),
            lines(dice, 2, depth + 1)
        ),
        15 => format!(
            "if [[ -n $SIDE ]] {{\n  {}\n}} else {{ {} }}",
            assignment(dice),
            assignment(dice)
        ),
        16 => format!(
            "case $TERM in\n  ({}) {};;\n  *)\n    {}\n    ;;\nesac",
            dice.pick(&["xterm-color|*-256color", "linux|dumb", "xterm*"]),
            assignment(dice),
            assignment(dice)
        ),
        17 => format!("{} && {}", condition(dice), assignment(dice)),
        18 => format!("{} || {}", condition(dice), assignment(dice)),
        19 => format!("mist() {{\n  local deep=1\n  {}\n}}", assignment(dice)),
        20 => format!("function mist {{ {} }}", assignment(dice)),
        21 => format!(
            "precmd() {{ {} }}",
            dice.pick(&["mist", "true", "vcs_info"])
        ),
        22 => dice
            .pick(&[
                "mist",
                "precmd_functions+=(mist)",
                "autoload -Uz add-zsh-hook && add-zsh-hook precmd mist",
                "add-zsh-hook -d precmd mist",
                "precmd_functions=()",
                "unfunction mist 2>/dev/null",
            ])
            .to_owned(),
        23 => format!("() {{ local x=1; {} }}", assignment(dice)),
        24 => format!(
            "() {{ emulate -L zsh; setopt prompt_subst; {} }}",
            assignment(dice)
        ),
        25 if depth == 0 => dice
            .pick(&[
                "source ~/.mist",
                "source \"${ZDOTDIR:-$HOME}/.mist\"",
                "[[ -r ~/.mist ]] && . ~/.mist",
                "source ${0:h}/.mist",
            ])
            .to_owned(),
        26 if depth == 0 => dice
            .pick(&[
                "for f in ~/.zshrc.d/*(N); do source $f; done",
                "for f (~/.zshrc.d/*.zsh(N)) source $f",
                "for f in ~/.zshrc.d/*.zsh(.N); { source $f }",
            ])
            .to_owned(),
        27 => dice
            .pick(&[
                "setopt prompt_subst",
                "setopt PROMPT_SUBST auto_cd",
                "unsetopt promptsubst",
                "SIDE=light",
                "alias ll='ls -l'",
                "bindkey -e",
                "typeset -U path",
                "HISTSIZE=1000",
                "autoload -Uz compinit",
                "zmodload zsh/complist",
            ])
            .to_owned(),
        28 => format!("# {}", assignment(dice)),
        29 => format!("cat >/dev/null <<EOF\n{}\nEOF", assignment(dice)),
        30 => format!("( {} )", assignment(dice)),
        31 => format!("eval '{}'", assignment(dice).replace('\'', "'\\''")),
        32 => format!(
            "autoload -Uz vcs_info\nzstyle ':vcs_info:*' formats '%F{{{}}}%b%f'\nprecmd() {{ vcs_info }}\nsetopt prompt_subst\nPROMPT='%F{{{}}}%~%f ${{vcs_info_msg_0_}} %# '",
            color(dice),
            color(dice)
        ),
        33 => format!(
            "setopt promptsubst\nbranch() {{ echo \"%F{{{}}}main%f\" }}\nRPROMPT='$(branch)'",
            color(dice)
        ),
        34 => dice.pick(&["RPROMPT=", "RPS1=''", "unset DEEP"]).to_owned(),
        _ => format!("{{ {}; }} always {{ true }}", assignment(dice)),
    }
}

pub fn lines(dice: &mut Dice, most: usize, depth: usize) -> String {
    dice.lines(most, depth, line)
}

/// A file that begins as most do.
pub fn file(dice: &mut Dice) -> String {
    format!(
        "autoload -U colors && colors\ntypeset -A MIST_STYLES\n{}\n",
        lines(dice, 12, 0)
    )
}

/// What a color comes to, spelled in one way, by the test's own rules.
fn plain(written: &str) -> Option<String> {
    if let Some(hex) = written.strip_prefix('#') {
        let digits: Vec<char> = hex.chars().collect();
        let all = digits.iter().all(char::is_ascii_hexdigit);
        let long: String = match digits.len() {
            3 => digits.iter().flat_map(|c| [*c, *c]).collect(),
            6 => hex.to_owned(),
            _ => return None,
        };
        return all.then(|| format!("#{}", long.to_lowercase()));
    }
    if let Some(at) = NAMES.iter().position(|n| *n == written) {
        return Some(at.to_string());
    }
    let number = written.parse::<u32>().ok().filter(|n| *n < 256)?;
    Some(number.to_string())
}

/// The colors in a prompt as the shell has it.
fn in_prompt(text: &str) -> BTreeSet<String> {
    let mut out = BTreeSet::new();
    for (i, _) in text.match_indices('%') {
        let rest = &text[i + 1..];
        for sign in ["F{", "K{"] {
            if let Some(inner) = rest.strip_prefix(sign) {
                let inner = inner.split('}').next().unwrap_or_default();
                out.extend(plain(inner));
            }
        }
        let digits = rest.len() - rest.trim_start_matches(|c: char| c.is_ascii_digit()).len();
        if digits > 0 && rest[digits..].starts_with('F') && !rest[digits..].starts_with("F{") {
            out.extend(plain(&rest[..digits]));
        }
    }
    for escape in text.split("\u{1b}[").skip(1) {
        let inner = escape.split('m').next().unwrap_or_default();
        out.extend(in_numbers(inner));
    }
    out
}

/// The color in the numbers of an escape.
fn in_numbers(inner: &str) -> Option<String> {
    let numbers: Vec<u32> = inner.split(';').filter_map(|n| n.parse().ok()).collect();
    match numbers.as_slice() {
        [38 | 48, 2, r, g, b] => Some(format!("#{r:02x}{g:02x}{b:02x}")),
        [.., n @ (30..=37 | 40..=47)] => Some((n % 10).to_string()),
        [.., n @ (90..=97 | 100..=107)] => Some((n % 10 + 8).to_string()),
        _ => None,
    }
}

/// The colors in a style; none where one of it is none, for then nothing of it counts.
fn in_style(text: &str) -> BTreeSet<String> {
    let parts = text.split(',').filter_map(|part| part.split_once('='));
    let all: Vec<Option<String>> = parts
        .filter(|(_, color)| *color != "default")
        .map(|(_, color)| plain(color))
        .collect();
    all.into_iter()
        .collect::<Option<Vec<_>>>()
        .unwrap_or_default()
        .into_iter()
        .collect()
}

const ASK: &str = r#"
(( $+functions[precmd] )) && precmd
for f in $precmd_functions; do (( $+functions[$f] )) && $f; done
if [[ -o promptsubst ]]; then printf '\036P%s\036R%s' "${(e)PROMPT}" "${(e)${RPROMPT:-$RPS1}}"; else printf '\036P%s\036R%s' "$PROMPT" "${RPROMPT:-$RPS1}"; fi
(( $#zle_highlight )) && printf '\036L%s' "${zle_highlight[@]}"
(( $#MIST_STYLES )) && printf '\036S%s' "${(v)MIST_STYLES[@]}"
printf '\036S%s' "$MIST_SUGGEST_STYLE"
printf '\036C%s' "$MIST_DIR_FOREGROUND" "$MIST_DIR_BACKGROUND"
zstyle -a ':completion:*:default' list-colors all && printf '\036N%s' "${all[@]}"
zstyle -s ':completion:*:descriptions' format all && printf '\036H%s' "$all"
"#;

#[test]
fn zsh_has_the_colors_that_we_read() {
    if !have(&["zsh", "git"]) {
        return;
    }
    let (seed, rounds) = run(300);
    let mut dice = Dice::new(seed);
    let (mut wrong, mut compared, mut unsure, mut answers) = (Vec::new(), 0, 0, 0);
    for n in 0..rounds {
        let scratch = Scratch::new();
        let in_folder = dice.percent(25);
        let name = if in_folder {
            ".config/z/.zshrc"
        } else {
            ".zshrc"
        };
        let rc = file(&mut dice);
        scratch.write(name, &rc);
        let mut text = rc.clone();
        let mut more = |name: &str, content: String| {
            scratch.write(name, &content);
            let _ = write!(text, "--- {name}\n{content}");
        };
        if in_folder {
            let said = dice.pick(&[
                "ZDOTDIR=~/.config/z\n",
                "export ZDOTDIR=\"$HOME/.config/z\"\n",
            ]);
            more(".zshenv", said.to_owned());
        }
        for name in [".mist", ".zshrc.d/10-mist.zsh", ".zshrc.d/20-fog.zsh"] {
            if dice.percent(40) {
                more(name, lines(&mut dice, 3, 1) + "\n");
            }
        }
        let init = Command::new("git")
            .args(["init", "-q", "-b", "main"])
            .current_dir(scratch.home())
            .status();
        assert!(init.is_ok_and(|s| s.success()));
        let mut command = Command::new("zsh");
        command
            .args(["-d", "-ic", ASK])
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
        if !said.contains('\u{1e}') {
            continue;
        }
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
        let unknown = ["EUID", "SHLVL", "PATH", "ZSH_VERSION", "OSTYPE"];
        let report = adapter("zsh")
            .expect("ours")
            .read(&Asked(&home, &unknown), &mut facts);
        // What stands in one place and colors both prompts is one reading.
        let mut theirs: [BTreeSet<String>; 2] = Default::default();
        for part in said.split('\u{1e}').skip(1) {
            let (kind, inner) = part.split_at(1);
            match kind {
                "P" | "R" => theirs[0].extend(in_prompt(inner)),
                "L" => theirs[1].extend(in_style(inner.split_once(':').map_or("", |s| s.1))),
                "S" => theirs[1].extend(in_style(inner)),
                "C" => theirs[1].extend(plain(inner)),
                "N" => theirs[1].extend(in_numbers(inner.split_once('=').map_or("", |s| s.1))),
                _ => theirs[1].extend(in_prompt(inner)),
            }
        }
        for (i, theirs) in theirs.iter().enumerate() {
            let of_kind = || {
                let is = move |k: &str| matches!(k, "PROMPT" | "RPROMPT") == (i == 0);
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
                .filter_map(|r| {
                    let said = r.value.to_string();
                    match &r.value {
                        wealdmist_core::reading::Value::Slot(slot) => {
                            slot.ansi().map(|n| n.to_string())
                        }
                        _ => plain(&said),
                    }
                })
                .collect();
            compared += theirs.len().max(1);
            // A number of the fixed table may be told as its color.
            let whole = |all: &BTreeSet<String>| -> BTreeSet<String> {
                let fixed = |one: &String| match one.parse::<u8>() {
                    Ok(n @ 16..) => wealdmist_core::color::indexed(n)
                        .map_or_else(|| one.clone(), |c| c.to_string()),
                    _ => one.clone(),
                };
                all.iter().map(fixed).collect()
            };
            if whole(&ours) != whole(theirs) {
                wrong.push(format!(
                    "{n}: {} {theirs:?}, read as {ours:?} in\n{text}\nsaid {said:?}",
                    ["the prompts have", "others have"][i]
                ));
            }
        }
    }
    assert!(
        unsure * 10 < answers * 2,
        "{unsure} of {} are unsure",
        answers * 2
    );
    eprintln!("zsh: {unsure} of {} readings are unsure", answers * 2);
    assert!(answers * 10 > rounds * 9, "{answers} of {rounds} answered");
    judge("zsh", seed, rounds, &wrong, compared);
}
