//! What a prompt of zsh is made of, and where else its files say colors.

use std::ops::Range;

use wealdmist_core::color::{indexed, parse_any};
use wealdmist_core::reading::Value;
use wealdmist_core::role::{RoleId, Slot};

use crate::document::sgr::{self, Layer, value_of};
use crate::sourced::bourne::eval::OF_REPOSITORY;
use crate::sourced::own::{Piece, say};

/// The names of the eight colors; nothing else is a name.
const NAMES: [&str; 8] = [
    "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
];

/// A color as the shell takes it in braces: a name, a number, `#rrggbb` or `#rgb`.
pub fn color(text: &str) -> Option<Value> {
    if let Some(digits) = text.strip_prefix('#') {
        let well = matches!(digits.len(), 3 | 6) && digits.bytes().all(|b| b.is_ascii_hexdigit());
        return well.then(|| parse_any(text)).flatten().map(Value::Color);
    }
    if !text.is_empty() && text.bytes().all(|b| b.is_ascii_digit()) {
        let n = text.parse::<u8>().ok()?;
        return Slot::from_ansi(n)
            .map(Value::Slot)
            .or_else(|| indexed(n).map(Value::Color));
    }
    let at = NAMES.iter().position(|name| *name == text)?;
    Slot::from_ansi(at as u8).map(Value::Slot)
}

/// What stands in a text of `PROMPT`.
pub fn pieces(text: &[u8]) -> Vec<Piece> {
    let mut reader = Reader {
        text,
        at: 0,
        depth: 0,
    };
    reader.until(None)
}

struct Reader<'a> {
    text: &'a [u8],
    at: usize,
    depth: usize,
}

/// How deep choices may nest.
const DEEPEST: usize = 16;

impl Reader<'_> {
    /// The pieces up to a sign, which is passed.
    fn until(&mut self, end: Option<u8>) -> Vec<Piece> {
        let mut out = Vec::new();
        while self.at < self.text.len() {
            let rest = &self.text[self.at..];
            match rest {
                [b, ..] if Some(*b) == end => {
                    self.at += 1;
                    break;
                }
                [0x1b, b'[', ..] => {
                    let is_inner = |b: &u8| matches!(b, b'0'..=b'?');
                    let length = rest[2..].iter().take_while(|b| is_inner(b)).count() + 3;
                    let to = (self.at + length).min(self.text.len());
                    for found in sgr::colors(self.text, self.at..to) {
                        out.push(Piece::Paint {
                            layer: found.layer,
                            color: found.color.and_then(value_of),
                            part: found.span,
                        });
                    }
                    self.at = to;
                }
                [OF_REPOSITORY, sign, ..] => {
                    out.push(match sign {
                        b'b' | b'i' => Piece::tells("branch", |_| {}),
                        b'u' | b'c' | b'm' => Piece::tells("changes", |_| {}),
                        b'a' => Piece::tells("operation", |_| {}),
                        b's' => Piece::Says("git".to_owned()),
                        other => Piece::Unknown(format!("%{}", char::from(*other))),
                    });
                    self.at += 2;
                }
                [b'%', ..] => self.sign(&mut out),
                [b'$' | b'`', ..] => {
                    // A variable or command that is not known.
                    let length = rest[1..]
                        .iter()
                        .position(|b| matches!(b, b' ' | b'%' | 0x1b) || Some(*b) == end)
                        .map_or(rest.len(), |n| n + 1);
                    let text = String::from_utf8_lossy(&rest[..length]).into_owned();
                    let known = [
                        ("git", "branch"),
                        ("vcs", "branch"),
                        ("VIRTUAL_ENV", "venv"),
                    ];
                    let known = known.iter().find(|(sign, _)| text.contains(sign));
                    out.push(match known {
                        Some((_, part)) => Piece::tells(part, |_| {}),
                        None => Piece::Unknown(text),
                    });
                    self.at += length;
                }
                [_, ..] => {
                    let is_plain = |b: &&u8| {
                        Some(**b) != end
                            && !matches!(**b, 0x1b | OF_REPOSITORY | b'%' | b'$' | b'`')
                    };
                    let length = rest.iter().take_while(is_plain).count().max(1);
                    say(&mut out, &String::from_utf8_lossy(&rest[..length]));
                    self.at += length;
                }
                [] => break,
            }
        }
        out
    }

    fn paint(&mut self, layer: Layer, number: Option<Range<usize>>, out: &mut Vec<Piece>) {
        let braces = self.text.get(self.at) == Some(&b'{');
        let part = match (number, braces) {
            (_, true) => {
                let start = self.at + 1;
                let rest = &self.text[start..];
                let Some(length) = rest.iter().position(|b| *b == b'}') else {
                    self.at = self.text.len();
                    return;
                };
                self.at = start + length + 1;
                start..start + length
            }
            // The number and the sign.
            (Some(number), false) => number.start..self.at,
            (None, false) => self.at..self.at,
        };
        let written = String::from_utf8_lossy(&self.text[part.clone()]).into_owned();
        let written = written.trim_end_matches(['F', 'K']);
        out.push(Piece::Paint {
            layer,
            color: color(written),
            part,
        });
    }

    /// What begins with `%`.
    fn sign(&mut self, out: &mut Vec<Piece>) {
        let start = self.at + 1;
        let rest = &self.text[start..];
        let digits = rest
            .iter()
            .take_while(|b| b.is_ascii_digit() || **b == b'-')
            .count();
        let number = (digits > 0).then(|| start..start + digits);
        let sign = rest.get(digits).copied();
        self.at = start + digits + usize::from(sign.is_some());
        let sign = match sign {
            Some(b'F') => return self.paint(Layer::Text, number, out),
            Some(b'K') => return self.paint(Layer::Ground, number, out),
            Some(b @ (b'f' | b'k')) => {
                let part = self.at..self.at;
                let layer = match b {
                    b'f' => Layer::Text,
                    _ => Layer::Ground,
                };
                out.push(Piece::Paint {
                    layer,
                    color: None,
                    part,
                });
                return;
            }
            Some(b'(') => return self.choice(out),
            // What stands between has no width; escapes in it are met by themselves.
            Some(b'{' | b'}' | b'B' | b'b' | b'U' | b'u' | b'S' | b's' | b'E' | b'G') | None => {
                return;
            }
            // Text is cut from here on.
            Some(sign @ (b'<' | b'>')) => {
                let rest = &self.text[self.at..];
                let end = rest.iter().position(|b| *b == sign);
                self.at += end.map_or(rest.len(), |n| n + 1);
                return;
            }
            Some(b'[') => {
                let rest = &self.text[self.at..];
                let end = rest.iter().position(|b| *b == b']');
                self.at += end.map_or(rest.len(), |n| n + 1);
                return;
            }
            Some(b'%') => {
                say(out, "%");
                return;
            }
            Some(b')') => {
                say(out, ")");
                return;
            }
            Some(sign) => sign,
        };
        let few = |digits: Option<Range<usize>>| {
            let digits = digits.and_then(|span| self.text.get(span));
            let digits = digits.and_then(|d| std::str::from_utf8(d).ok()?.parse::<u8>().ok());
            digits.unwrap_or(0)
        };
        out.push(match sign {
            b'n' => Piece::tells("user", |_| {}),
            b'm' | b'M' => Piece::tells("host", |_| {}),
            b'~' | b'/' | b'd' => Piece::tells("folder", |p| p.tells.folders = few(number)),
            b'c' | b'.' | b'C' => Piece::tells("folder", |p| p.tells.folders = few(number).max(1)),
            b'?' => Piece::tells("status", |_| {}),
            b'#' => Piece::tells("input", |p| {
                p.signs = ["%"; 3].map(str::to_owned);
                p.signs_root = Some(["#"; 3].map(str::to_owned));
            }),
            b'j' => Piece::tells("jobs", |_| {}),
            b'T' => Piece::tells("time", |_| {}),
            b'*' => Piece::tells("time", |p| p.tells.seconds = true),
            b't' | b'@' => Piece::tells("time", |p| p.tells.twelve = true),
            b'w' | b'W' => Piece::tells("date", |_| {}),
            b'D' => {
                let mut asked = String::new();
                if self.text.get(self.at) == Some(&b'{') {
                    let rest = &self.text[self.at..];
                    let end = rest.iter().position(|b| *b == b'}');
                    let length = end.map_or(rest.len(), |n| n + 1);
                    asked = String::from_utf8_lossy(&rest[..length]).into_owned();
                    self.at += length;
                }
                match asked.contains(['H', 'I', 'K', 'L', 'M', 'T', 'S']) {
                    true => Piece::tells("time", |p| {
                        p.tells.seconds = asked.contains(['S', 'T']);
                        p.tells.twelve = asked.contains(['I', 'L']);
                    }),
                    false => Piece::tells("date", |_| {}),
                }
            }
            other => Piece::Unknown(format!("%{}", char::from(other))),
        });
    }

    /// `%(x.one.other)`.
    fn choice(&mut self, out: &mut Vec<Piece>) {
        let rest = &self.text[self.at..];
        let digits = rest
            .iter()
            .take_while(|b| b.is_ascii_digit() || **b == b'-')
            .count();
        let (Some(asked), Some(sign)) = (rest.get(digits).copied(), rest.get(digits + 1).copied())
        else {
            self.at = self.text.len();
            return;
        };
        self.at += digits + 2;
        if self.depth >= DEEPEST {
            self.at = self.text.len();
            return;
        }
        self.depth += 1;
        let yes = self.until(Some(sign));
        let no = self.until(Some(b')'));
        self.depth -= 1;
        let jobs = match asked {
            b'?' if digits == 0 => (None, Some("prompt.failure")),
            b'!' => (Some("prompt.root"), None),
            _ => (None, None),
        };
        out.push(Piece::Either(vec![(jobs.0, yes), (jobs.1, no)]));
    }
}

/// What a style of the line editor says: `fg=red,bg=#102030,bold`, perhaps behind what it is for and a colon.
pub fn style(text: &str, role: &str) -> Vec<(RoleId, Value, Range<usize>)> {
    let mut out = Vec::new();
    let mut at = 0;
    for part in text.split(',') {
        let span = at..at + part.len();
        at = span.end + 1;
        let Some((key, written)) = part.split_once('=') else {
            const PLAIN: [&str; 6] = ["bold", "underline", "standout", "none", "italic", "faint"];
            if PLAIN.contains(&part) || part.starts_with("no") {
                continue;
            }
            return Vec::new();
        };
        let role = match key {
            "fg" => RoleId::new(role.to_owned()),
            "bg" => RoleId::new(format!("{role}.ground")),
            _ => return Vec::new(),
        };
        if written == "default" || written == "none" {
            continue;
        }
        let Some(value) = color(written) else {
            return Vec::new();
        };
        out.push((role, value, span.start + key.len() + 1..span.end));
    }
    out
}

/// The role of something that is typed, by the words of its name.
fn typed(name: &str) -> &'static str {
    let name = name.to_lowercase();
    let has = |word: &str| name.contains(word);
    match () {
        () if has("suggest") => "shell.suggestion",
        () if has("comment") => "shell.comment",
        () if has("unknown") || has("error") => "shell.error",
        () if has("quot") => "shell.string",
        () if has("redirect") => "shell.redirection",
        () if has("reserved") || has("keyword") => "shell.keyword",
        () if has("option") => "shell.option",
        () if has("path") => "shell.path",
        () if has("separator") || has("operator") => "shell.operator",
        () if has("search") => "shell.match",
        () if has("region") || has("selection") => "shell.selection",
        () if has("assign") || has("param") => "shell.parameter",
        () if has("command") || has("builtin") || has("function") || has("alias") => {
            "shell.command"
        }
        () => "",
    }
}

/// What the line editor calls places of known jobs.
pub const PLACES: [(&str, &str); 3] = [
    ("shell.selection", "region"),
    ("shell.match", "isearch"),
    ("shell.typed", "default"),
];

/// What something that is no prompt says of colors.
pub fn others(name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
    let Ok(text) = std::str::from_utf8(text) else {
        return Vec::new();
    };
    if let Some(rest) = name.strip_prefix("zstyle ") {
        return of_completion(rest, text);
    }
    if matches!(name, "PROMPT2" | "PROMPT3" | "PROMPT4" | "SPROMPT") {
        return painted(text, &format!("prompt.{}", name.to_lowercase()));
    }
    if name == "zle_highlight" {
        let Some((place, style_of)) = text.split_once(':') else {
            return Vec::new();
        };
        let known = PLACES.iter().find(|(_, known)| *known == place);
        let role = known.map_or_else(|| format!("shell.{place}"), |(job, _)| (*job).to_owned());
        let shifted = |(role, value, part): (RoleId, Value, Range<usize>)| {
            let begin = place.len() + 1;
            (role, value, part.start + begin..part.end + begin)
        };
        return style(style_of, &role).into_iter().map(shifted).collect();
    }
    let plain = |name: &str| {
        let of = |c: char| match c.is_ascii_alphanumeric() {
            true => c.to_ascii_lowercase(),
            false => '.',
        };
        let all: String = name.chars().map(of).collect();
        format!("zsh.{}", all.trim_matches('.').replace("..", "."))
    };
    if text.contains('=') {
        let role = match typed(name) {
            "" => plain(name),
            known => known.to_owned(),
        };
        return style(text, &role);
    }
    // A variable that is called by what it colors, and holds nothing but a color.
    let upper = name.to_uppercase();
    let Some(value) = color(text) else {
        return Vec::new();
    };
    let numbers = text.bytes().all(|b| b.is_ascii_digit());
    for (end, kind, numbered) in [
        ("_FOREGROUND", "text", true),
        ("_FG", "text", true),
        ("_BACKGROUND", "ground", true),
        ("_BG", "ground", true),
        // A number may be a switch there, or an escape's.
        ("_COLOR", "text", false),
    ] {
        if let Some(stem) = upper.strip_suffix(end)
            && (numbered || !numbers)
        {
            let role = format!("{}.{kind}", plain(stem));
            return vec![(RoleId::new(role), value, 0..text.len())];
        }
    }
    Vec::new()
}

/// The colors of a text as a prompt has them.
fn painted(text: &str, role: &str) -> Vec<(RoleId, Value, Range<usize>)> {
    fn walk(pieces: Vec<Piece>, role: &str, out: &mut Vec<(RoleId, Value, Range<usize>)>) {
        for piece in pieces {
            match piece {
                Piece::Paint {
                    layer,
                    color: Some(color),
                    part,
                } => {
                    let role = match layer {
                        Layer::Text => role.to_owned(),
                        Layer::Ground => format!("{role}.ground"),
                    };
                    out.push((RoleId::new(role), color, part));
                }
                Piece::Either(ways) => {
                    for (_, pieces) in ways {
                        walk(pieces, role, out);
                    }
                }
                _ => {}
            }
        }
    }
    let mut out = Vec::new();
    walk(pieces(text.as_bytes()), role, &mut out);
    out
}

/// What a style of completion says: headings as prompts have them, or the colors of a list.
fn of_completion(name: &str, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
    let (context, style) = name.rsplit_once(' ').unwrap_or((name, ""));
    if !context.starts_with(":completion:") {
        return Vec::new();
    }
    match style {
        "format" => {
            let role = match () {
                () if context.contains("warning") => "completion.warning",
                () if context.contains("correction") => "completion.correction",
                () if context.contains("message") => "completion.message",
                () => "completion.heading",
            };
            painted(text, role)
        }
        "select-prompt" | "list-prompt" => painted(text, "completion.progress"),
        "list-colors" => {
            let Some((key, codes)) = text.split_once('=') else {
                return Vec::new();
            };
            if codes.contains(['=', '\u{1b}']) {
                // Parts of a pattern with a color each are beyond this.
                return Vec::new();
            }
            let role = match key {
                "ma" => "completion.selected".to_owned(),
                other => {
                    let plain = |c: char| match c.is_ascii_alphanumeric() {
                        true => c.to_ascii_lowercase(),
                        false => '.',
                    };
                    let key: String = other.chars().map(plain).collect();
                    format!("completion.{}", key.trim_matches('.'))
                }
            };
            // The same numbers as an escape has.
            let escape = format!("\u{1b}[{codes}m");
            let shift = key.len() + 1;
            let uses = sgr::colors(escape.as_bytes(), 0..escape.len()).into_iter();
            uses.filter_map(|found| {
                let value = value_of(found.color?)?;
                let role = match found.layer {
                    Layer::Text => role.clone(),
                    Layer::Ground => format!("{role}.ground"),
                };
                let part = found.span.start - 2 + shift..found.span.end - 2 + shift;
                Some((RoleId::new(role), value, part))
            })
            .collect()
        }
        _ => Vec::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::color::Rgb;

    #[test]
    fn what_the_shell_takes_for_a_color_is_one() {
        assert_eq!(color("red"), Some(Value::Slot(Slot::Red)));
        assert_eq!(color("9"), Some(Value::Slot(Slot::BrightRed)));
        assert_eq!(
            color("#abc"),
            Some(Value::Color(Rgb::new(0xaa, 0xbb, 0xcc)))
        );
        for bad in [
            "",
            "256",
            "bright-red",
            "#abcd",
            "#12345g",
            "Red",
            "default",
        ] {
            assert_eq!(color(bad), None, "{bad}");
        }
    }

    #[test]
    fn a_choice_has_both_of_its_colors() {
        let found = pieces(b"%F{blue}%~%f %(?.%F{green}.%F{red})%#%f");
        let Some(Piece::Either(ways)) = found.iter().find(|p| matches!(p, Piece::Either(_))) else {
            panic!("{found:?}")
        };
        assert_eq!(ways.len(), 2);
        assert_eq!(ways[1].0, Some("prompt.failure"));
        assert!(matches!(
            &ways[1].1[0],
            Piece::Paint {
                color: Some(Value::Slot(Slot::Red)),
                ..
            }
        ));
    }

    #[test]
    fn styles_say_text_and_ground() {
        let all = style("fg=#102030,bg=4,bold", "shell.match");
        assert_eq!(all.len(), 2);
        assert_eq!(all[0].2, 3..10);
        assert_eq!(all[1].0.as_str(), "shell.match.ground");
        assert!(style("x=1,fg=red", "r").is_empty());
        let all = others("SUGGEST_STYLE", b"fg=8");
        assert_eq!(all[0].0.as_str(), "shell.suggestion");
        assert!(others("NO_COLOR", b"1").is_empty());
        assert_eq!(
            others("MIST_DIR_BACKGROUND", b"24")[0].0.as_str(),
            "zsh.mist.dir.ground"
        );
    }
}
