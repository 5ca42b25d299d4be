//! What a prompt of fish is made of, and where else its variables say colors.

use std::ops::Range;

use wealdmist_core::color::parse_any;
use wealdmist_core::reading::Value;
use wealdmist_core::role::{RoleId, Slot};

use crate::sourced::own::Piece;
use crate::sourced::said::{self, BETWEEN, NONE};

/// The names of the sixteen colors and what else is called so.
const NAMES: [(&str, u8); 22] = [
    ("black", 0),
    ("red", 1),
    ("green", 2),
    ("yellow", 3),
    ("brown", 3),
    ("blue", 4),
    ("magenta", 5),
    ("purple", 5),
    ("cyan", 6),
    ("white", 7),
    ("grey", 7),
    ("brblack", 8),
    ("brgrey", 8),
    ("brred", 9),
    ("brgreen", 10),
    ("bryellow", 11),
    ("brbrown", 11),
    ("brblue", 12),
    ("brmagenta", 13),
    ("brpurple", 13),
    ("brcyan", 14),
    ("brwhite", 15),
];

/// A color as the shell takes it: a name, `rrggbb` or `rgb`, with or without a sign before it.
pub fn color(text: &str) -> Option<Value> {
    let name = text.to_lowercase();
    if let Some((_, n)) = NAMES.iter().find(|(known, _)| *known == name) {
        return Slot::from_ansi(*n).map(Value::Slot);
    }
    let digits = text.strip_prefix('#').unwrap_or(text);
    let well = matches!(digits.len(), 3 | 6) && digits.bytes().all(|b| b.is_ascii_hexdigit());
    let parsed = well.then(|| parse_any(&format!("#{digits}"))).flatten();
    parsed.map(Value::Color)
}

/// What stands in a text that a prompt writes.
pub fn pieces(text: &[u8]) -> Vec<Piece> {
    said::pieces(text, color)
}

/// What begins the names of variables that say colors.
const HEADS: [&str; 2] = ["fish_color_", "fish_pager_color_"];

/// The variables of known jobs.
const JOBS: [(&str, &str); 22] = [
    ("fish_color_normal", "shell.typed"),
    ("fish_color_command", "shell.command"),
    ("fish_color_keyword", "shell.keyword"),
    ("fish_color_quote", "shell.string"),
    ("fish_color_redirection", "shell.redirection"),
    ("fish_color_end", "shell.end"),
    ("fish_color_error", "shell.error"),
    ("fish_color_param", "shell.parameter"),
    ("fish_color_option", "shell.option"),
    ("fish_color_comment", "shell.comment"),
    ("fish_color_operator", "shell.operator"),
    ("fish_color_escape", "shell.escape"),
    ("fish_color_autosuggestion", "shell.suggestion"),
    ("fish_color_cancel", "shell.cancel"),
    ("fish_color_valid_path", "shell.path"),
    ("fish_color_selection", "shell.selection"),
    ("fish_color_search_match", "shell.match"),
    ("fish_pager_color_prefix", "completion.prefix"),
    ("fish_pager_color_completion", "completion.text"),
    ("fish_pager_color_description", "completion.description"),
    ("fish_pager_color_progress", "completion.progress"),
    (
        "fish_pager_color_selected_background",
        "completion.selected",
    ),
];

/// The variable that a role is said by, and whether it is the ground.
pub fn variable(role: &RoleId) -> Option<(&'static str, bool)> {
    let name = role.as_str();
    let plain = name.strip_suffix(".ground").unwrap_or(name);
    let (variable, _) = JOBS.iter().find(|(_, job)| *job == plain)?;
    Some((variable, plain.len() < name.len()))
}

/// What a variable says of colors, by what it is for.
pub fn others(name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
    let known = JOBS.iter().find(|(variable, _)| *variable == name);
    let role = match known {
        Some((_, job)) => (*job).to_owned(),
        None if HEADS.iter().any(|head| name.starts_with(head))
            || name.starts_with("__fish_git_prompt_color") =>
        {
            let name = name.trim_start_matches('_').replace("fish_", "");
            format!("fish.{}", name.replace('_', "."))
        }
        None => return Vec::new(),
    };
    let (mut out, mut from, mut said) = (Vec::new(), 0, false);
    let mut is_ground_next = false;
    for word in text.split(|b| *b == BETWEEN || *b == NONE) {
        let span = from..from + word.len();
        from = span.end + 1;
        let Ok(word) = std::str::from_utf8(word) else {
            continue;
        };
        let (ground, begin) = match word {
            "-b" | "--background" => {
                is_ground_next = true;
                continue;
            }
            _ if is_ground_next => (true, 0),
            _ if word.starts_with("--background=") => (true, 13),
            _ if word.starts_with("-b") => (true, 2),
            _ if word.starts_with('-') => continue,
            _ => (false, 0),
        };
        is_ground_next = false;
        let Some(value) = color(&word[begin..]) else {
            continue;
        };
        let role = match ground {
            true => RoleId::new(format!("{role}.ground")),
            false if said => continue,
            false => RoleId::new(role.clone()),
        };
        said |= !ground;
        out.push((role, value, span.start + begin..span.end));
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_the_shell_takes_for_a_color_is_one() {
        assert_eq!(color("brred"), Some(Value::Slot(Slot::BrightRed)));
        assert_eq!(color("Purple"), Some(Value::Slot(Slot::Magenta)));
        assert_eq!(
            color("abc").map(|v| v.to_string()),
            Some("#aabbcc".to_owned())
        );
        assert_eq!(
            color("#102030").map(|v| v.to_string()),
            Some("#102030".to_owned())
        );
        for bad in ["", "bright-red", "300", "#12345", "0xabc", "normal"] {
            // Three digits are a color.
            assert_eq!(color(bad).is_some(), bad == "300", "{bad}");
        }
    }

    #[test]
    fn variables_say_text_and_ground() {
        let all = others(
            "fish_color_search_match",
            b"bryellow\x1f--background=102030",
        );
        let said: Vec<_> = all.iter().map(|(r, v, _)| format!("{r}={v}")).collect();
        assert_eq!(
            said,
            ["shell.match=bright-yellow", "shell.match.ground=#102030"]
        );
        assert_eq!(all[1].2, 22..28);
        assert!(others("fish_greeting", b"red").is_empty());
        assert_eq!(
            others("fish_color_cwd", b"green")[0].0.as_str(),
            "fish.color.cwd"
        );
    }
}
