//! What a prompt of bash is made of.

use crate::document::sgr::{self, value_of};
use crate::sourced::own::{Piece, say};

/// What stands in a text of `PS1`.
pub fn pieces(bytes: &[u8]) -> Vec<Piece> {
    let uses = sgr::colors_of(bytes, 0..bytes.len(), &sgr::IN_PROMPT);
    let mut out = Vec::new();
    let first = uses.first().map_or(bytes.len(), |found| found.span.start);
    drawn(&bytes[..first], &mut out);
    for (n, found) in uses.iter().enumerate() {
        out.push(Piece::Paint {
            layer: found.layer,
            color: found.color.and_then(value_of),
            part: found.span.clone(),
        });
        let next = uses.get(n + 1);
        // Several in one escape color the same stretch.
        let end = next.map_or(bytes.len(), |next| next.span.start);
        if next.is_some_and(|next| next.end == found.end) || found.end >= end {
            continue;
        }
        drawn(&bytes[found.end..end], &mut out);
    }
    out
}

/// The length of an escape sequence, or of the beginning of one, whose first sign is passed.
fn escape(rest: &[u8]) -> usize {
    match rest.first() {
        Some(b'[') => {
            let inner = rest[1..].iter().take_while(|b| !b.is_ascii_alphabetic());
            let length = 1 + inner.count();
            length + usize::from(length < rest.len())
        }
        // A title, up to its end.
        Some(b']') => {
            let ends: [&[u8]; 5] = [b"\\a", b"\\007", b"\x07", b"\\e\\\\", b"\\033\\\\"];
            let at = |end: &&[u8]| Some(memchr::memmem::find(rest, end)? + end.len());
            ends.iter().filter_map(at).min().unwrap_or(rest.len())
        }
        _ => 0,
    }
}

/// The length of code whose output or value stands there: `$(…)`, `${…}`, `$x`, or between backticks.
fn code(rest: &[u8]) -> usize {
    let close = |open: u8, close: u8| {
        let mut depth = 0usize;
        for (i, b) in rest.iter().enumerate().skip(1) {
            if *b == open {
                depth += 1;
            } else if *b == close {
                depth -= 1;
                if depth == 0 {
                    return i + 1;
                }
            }
        }
        rest.len()
    };
    match rest {
        [b'`', inner @ ..] => memchr::memchr(b'`', inner).map_or(rest.len(), |n| n + 2),
        [b'$', b'(', ..] => close(b'(', b')'),
        [b'$', b'{', ..] => close(b'{', b'}'),
        [b'$', b'?', ..] => 2,
        [b'$', inner @ ..] => {
            let is_name = |b: &&u8| b.is_ascii_alphanumeric() || **b == b'_';
            1 + inner.iter().take_while(is_name).count()
        }
        _ => 1,
    }
}

/// What is drawn between escapes that set colors.
fn drawn(bytes: &[u8], out: &mut Vec<Piece>) {
    let mut at = 0;
    while at < bytes.len() {
        let rest = &bytes[at..];
        let octal = |from: usize| {
            let digits = rest.get(from..from + 3)?;
            let all = digits.iter().all(|b| (b'0'..=b'7').contains(b));
            all.then(|| digits.iter().fold(0u32, |n, b| n * 8 + u32::from(b - b'0')))
        };
        let length = match rest {
            [b'\\', b'[' | b']', ..] => 2,
            [1 | 2, ..] => 1,
            [b'\\', b'e', inner @ ..] => 2 + escape(inner),
            [b'\\', b'0', b'3', b'3', inner @ ..] => 4 + escape(inner),
            [0x1b, inner @ ..] => 1 + escape(inner),
            [b'\\', b'0'..=b'7', ..] if octal(1).is_some() => {
                let byte = octal(1).and_then(char::from_u32).unwrap_or(' ');
                say(out, byte.encode_utf8(&mut [0; 4]));
                4
            }
            [b'\\', b'n', ..] => {
                say(out, "\n");
                2
            }
            [b'\\', b'D', b'{', ..] => {
                let end = memchr::memchr(b'}', rest).map_or(rest.len(), |n| n + 1);
                let asked = String::from_utf8_lossy(&rest[..end]);
                out.push(match asked.contains(['H', 'I', 'M', 'T']) {
                    true => Piece::tells("time", |p| p.tells.seconds = asked.contains(['S', 'T'])),
                    false => Piece::tells("date", |_| {}),
                });
                end
            }
            [b'\\', sign, ..] => {
                let told = match sign {
                    b'u' => Piece::tells("user", |_| {}),
                    b'h' | b'H' => Piece::tells("host", |_| {}),
                    b'w' => Piece::tells("folder", |p| p.tells.folders = 0),
                    b'W' => Piece::tells("folder", |p| p.tells.folders = 1),
                    b'j' => Piece::tells("jobs", |_| {}),
                    b't' => Piece::tells("time", |p| p.tells.seconds = true),
                    b'T' => Piece::tells("time", |p| {
                        p.tells.seconds = true;
                        p.tells.twelve = true;
                    }),
                    b'@' => Piece::tells("time", |p| p.tells.twelve = true),
                    b'A' => Piece::tells("time", |_| {}),
                    b'd' => Piece::tells("date", |_| {}),
                    b'$' => Piece::tells("input", |p| {
                        p.signs_root = Some(["#"; 3].map(str::to_owned));
                    }),
                    b's' => Piece::Says("bash".to_owned()),
                    b'\\' => Piece::Says("\\".to_owned()),
                    b'a' | b'r' => Piece::Says(String::new()),
                    b'v' | b'V' | b'!' | b'#' | b'l' => {
                        Piece::Unknown(format!("\\{}", char::from(*sign)))
                    }
                    other => Piece::Says(format!("\\{}", char::from(*other))),
                };
                match told {
                    Piece::Says(text) => say(out, &text),
                    told => out.push(told),
                }
                2
            }
            [b'$' | b'`', ..] => {
                let length = code(rest);
                let text = String::from_utf8_lossy(&rest[..length]).into_owned();
                if length == 1 {
                    say(out, &text);
                } else {
                    asked(&text, out);
                }
                length
            }
            _ => {
                let is_plain = |b: &&u8| !matches!(**b, b'\\' | b'$' | b'`' | 0x1b | 1 | 2);
                let length = rest.iter().take_while(is_plain).count().max(1);
                say(out, &String::from_utf8_lossy(&rest[..length]));
                length
            }
        };
        at = (at + length).min(bytes.len());
    }
}

/// What code tells, by what is in it.
fn asked(text: &str, out: &mut Vec<Piece>) {
    if text == "$?" {
        out.push(Piece::tells("status", |_| {}));
    } else if text.contains("git") {
        // The format that it is given says what stands around the branch.
        let quoted = text.split(['"', '\'']).find(|part| part.contains("%s"));
        let (before, after) = quoted.and_then(|q| q.split_once("%s")).unwrap_or_default();
        out.push(Piece::tells("branch", |part| {
            before.clone_into(&mut part.before);
            after.clone_into(&mut part.after);
        }));
    } else if text.contains("VIRTUAL_ENV") {
        out.push(Piece::tells("venv", |_| {}));
    } else {
        out.push(Piece::Unknown(text.to_owned()));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn told(text: &str) -> Vec<String> {
        let of = |piece: Piece| match piece {
            Piece::Tells(part) => format!("<{}>", part.name),
            Piece::Says(text) => text,
            Piece::Unknown(text) | Piece::Stretch(text) => format!("?{text}"),
            Piece::Paint { .. } => "#".to_owned(),
            Piece::Either(_) => String::new(),
        };
        pieces(text.as_bytes()).into_iter().map(of).collect()
    }

    #[test]
    fn what_is_drawn_is_told_apart() {
        assert_eq!(
            told(
                "\\[\\e]0;\\u@\\h: \\w\\a\\]${debian_chroot:+($debian_chroot)}\\[\\033[01;32m\\]\\u@\\h\\[\\033[00m\\]:\\w\\$ "
            ),
            [
                "?${debian_chroot:+($debian_chroot)}",
                "#",
                "<user>",
                "@",
                "<host>",
                "#",
                "#",
                ":",
                "<folder>",
                "<input>",
                " "
            ]
        );
        assert_eq!(
            told("\\t$(__git_ps1 ' (%s)') \\D{%F} \\101 $? `date`\\!"),
            [
                "<time>", "<branch>", " ", "<date>", " A ", "<status>", " ", "?`date`", "?\\!"
            ]
        );
    }
}
