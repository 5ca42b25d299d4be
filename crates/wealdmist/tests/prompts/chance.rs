//! Designs made by chance, as the setup file holds them.

use std::fmt::Write;

use wealdmist_core::prompt::{KNOWN, Kind, Shape, When};

use super::dice::Dice;

/// Texts that mean something to a shell, to a prompt or to nobody.
const TEXTS: [&str; 16] = [
    "in ",
    " at",
    "'",
    "\"",
    "\\",
    "$(id)",
    "`id`",
    "$HOME ",
    "%F{red}",
    "%%",
    "!!",
    "~ {a,b}*",
    "(a|b);#",
    "漢",
    "é→",
    "\\u\\[\\]",
];
/// Colors that a part may have.
const ROLES: [&str; 7] = [
    "red",
    "selection",
    "prompt.folder",
    "prompt.branch",
    "bright-black",
    "background",
    "prompt.between",
];

/// A design of up to three lines. What a machine says differently at every moment is not in it.
pub fn design(dice: &mut Dice) -> String {
    let quoted = |text: &str| format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""));
    let mut head = String::new();
    let mut of = |key: &str, value: String| {
        let _ = writeln!(head, "{key} = {value}");
    };
    let shape = |dice: &mut Dice| quoted(Shape::ALL[dice.below(6)].0);
    if dice.percent(60) {
        of(
            "gap",
            quoted(["", " ", " · ", " - ", "'$(x)", "%%"][dice.below(6)]),
        );
    }
    if dice.percent(50) {
        of(
            "stretch",
            quoted(["·", "─", "%", "\\", "'", "x"][dice.below(6)]),
        );
    }
    for key in ["joint", "open", "close"] {
        of(key, shape(dice));
    }
    of("blank", dice.percent(30).to_string());
    of("tie", dice.percent(40).to_string());
    of("past", quoted(["whole", "line", "sign"][dice.below(3)]));

    // A part that is taken stands nowhere else.
    let told = |kind: Kind| {
        !matches!(
            kind,
            Kind::Input
                | Kind::Battery
                | Kind::Memory
                | Kind::Load
                | Kind::Duration
                | Kind::Container
                | Kind::System
                | Kind::Nested
                | Kind::Mode
                | Kind::Locked
        )
    };
    let mut left: Vec<&str> = KNOWN
        .iter()
        .filter(|k| told(k.kind))
        .map(|k| k.name)
        .collect();
    let mut lines = String::new();
    let mut names: Vec<String> = Vec::new();
    let mut side = |dice: &mut Dice, most: usize| {
        let count = dice.below(most + 1);
        let mut all = Vec::new();
        for _ in 0..count {
            // Languages are many: one of five parts is one.
            let at = match dice.percent(20) {
                true => dice.below(left.len()),
                false => dice.below(left.len().min(14)),
            };
            all.push(left.remove(at).to_owned());
        }
        names.extend(all.iter().cloned());
        all
    };
    let count = 1 + dice.below(3);
    for n in 0..count {
        let (mut l, r) = (side(dice, 4), side(dice, 3));
        if n + 1 == count {
            l.push("input".into());
        }
        let list = |all: &[String]| all.iter().map(|n| quoted(n)).collect::<Vec<_>>().join(", ");
        let _ = writeln!(
            lines,
            "[[prompt.line]]\nleft = [{}]\nright = [{}]",
            list(&l),
            list(&r)
        );
    }
    names.push("input".into());
    let mut parts = String::new();
    for name in names {
        let kind = KNOWN.iter().find(|k| k.name == name).map(|k| k.kind);
        let _ = writeln!(parts, "[prompt.parts.{name}]");
        let mut of = |key: &str, value: String| {
            let _ = writeln!(parts, "{key} = {value}");
        };
        let is_input = kind == Some(Kind::Input);
        if dice.percent(50) {
            of("ground", quoted(ROLES[dice.below(ROLES.len())]));
        }
        if dice.percent(40) {
            of("text", quoted(ROLES[dice.below(ROLES.len())]));
        }
        if dice.percent(20) {
            of("text-failed", quoted(ROLES[dice.below(ROLES.len())]));
        }
        if dice.percent(30) {
            of("sign", quoted(TEXTS[dice.below(TEXTS.len())]));
        }
        if is_input {
            if dice.percent(50) {
                of("sign-failed", quoted(TEXTS[dice.below(TEXTS.len())]));
            }
            if dice.percent(20) {
                of("sign-command", quoted(TEXTS[dice.below(TEXTS.len())]));
                of("text-command", quoted(ROLES[dice.below(ROLES.len())]));
            }
            continue;
        }
        if dice.percent(35) {
            of("before", quoted(TEXTS[dice.below(TEXTS.len())]));
        }
        if dice.percent(35) {
            of("after", quoted(TEXTS[dice.below(TEXTS.len())]));
        }
        if dice.percent(40) {
            of("when", quoted(When::ALL[dice.below(When::ALL.len())].0));
        }
        if dice.percent(40) {
            of("gives-way", dice.below(12).to_string());
        }
        if dice.percent(30) {
            of("longest", (1 + dice.below(9)).to_string());
        }
        match kind {
            Some(Kind::Folder) => {
                of("folders", dice.below(6).to_string());
                of("within", dice.percent(40).to_string());
                of("beginnings", dice.percent(40).to_string());
            }
            Some(Kind::Changes | Kind::Status) => {
                of(
                    "as",
                    quoted(["one", "each", "counts", "lines"][dice.below(4)]),
                );
            }
            Some(Kind::Time) => of("twelve", dice.percent(50).to_string()),
            Some(Kind::Text) => of("says", quoted(TEXTS[dice.below(TEXTS.len())])),
            Some(Kind::Language) if dice.percent(40) => {
                of("files", "[\"Cargo.toml\", \"it's $(x)\"]".to_owned());
            }
            _ => {}
        }
    }
    format!("{head}\n{lines}\n{parts}")
}
