//! What a prompt draws that is put together by a program: a text with marks in it for colors, jobs and choices.

use wealdmist_core::reading::Value;

use super::own::{Piece, say};
use crate::document::sgr::{self, Layer, value_of};

/// Begins what draws nothing by itself, and ends it.
pub const MARK: u8 = 2;
/// Ends it.
pub const MARKED: u8 = 3;
/// Begins what is one of several.
pub const EITHER: u8 = 4;
/// Stands between them.
pub const OR: u8 = 5;
/// Ends it.
pub const EITHER_END: u8 = 6;
/// Stands between the elements of a list.
pub const BETWEEN: u8 = 0x1f;
/// Stands for a list that has none.
pub const NONE: u8 = 0x1e;

/// What stands in a text that a prompt writes; `color` knows the names of colors.
pub fn pieces(text: &[u8], color: fn(&str) -> Option<Value>) -> Vec<Piece> {
    let mut at = 0;
    until(text, &mut at, 0, color)
}

/// How deep choices may nest.
const DEEPEST: usize = 32;

fn until(
    text: &[u8],
    at: &mut usize,
    depth: usize,
    color: fn(&str) -> Option<Value>,
) -> Vec<Piece> {
    let mut out = Vec::new();
    while let Some(b) = text.get(*at) {
        let rest = &text[*at..];
        match *b {
            MARK => {
                let end = memchr::memchr(MARKED, rest).unwrap_or(rest.len());
                let inner = &rest[1.min(rest.len())..end];
                let part = *at + 2..*at + end;
                *at = (*at + end + 1).min(text.len());
                match inner {
                    [b'J', job, ..] => out.push(match job {
                        b'u' => Piece::tells("user", |_| {}),
                        b'h' => Piece::tells("host", |_| {}),
                        b'f' => Piece::tells("folder", |p| p.tells.folders = 0),
                        b'b' => Piece::tells("branch", |_| {}),
                        // As the shell itself writes it.
                        b'B' => Piece::tells("branch", |part| {
                            part.before = " (".to_owned();
                            part.after = ")".to_owned();
                        }),
                        b'd' => Piece::tells("duration", |_| {}),
                        b'x' => Piece::tells("status", |_| {}),
                        b't' => Piece::tells("time", |_| {}),
                        b'j' => Piece::tells("jobs", |_| {}),
                        b'm' => Piece::tells("mode", |_| {}),
                        _ => Piece::Unknown("what a command writes".to_owned()),
                    }),
                    [sign @ (b'F' | b'K'), written @ ..] => {
                        let written = String::from_utf8_lossy(written);
                        let layer = match sign {
                            b'F' => Layer::Text,
                            _ => Layer::Ground,
                        };
                        let reset = matches!(&*written, "normal" | "reset");
                        let found = color(&written);
                        // What is no color changes nothing; what goes back to the usual does so for both.
                        if reset && layer == Layer::Text {
                            for layer in [Layer::Text, Layer::Ground] {
                                let part = part.clone();
                                let color = None;
                                out.push(Piece::Paint { layer, color, part });
                            }
                        } else if reset || found.is_some() {
                            let color = found;
                            out.push(Piece::Paint { layer, color, part });
                        }
                    }
                    _ => {}
                }
            }
            EITHER if depth < DEEPEST => {
                let mut ways = Vec::new();
                loop {
                    *at += 1;
                    let tag = match text.get(*at..*at + 4) {
                        Some([MARK, b'T', b'x', MARKED]) => Some("prompt.failure"),
                        Some([MARK, b'T', b'r', MARKED]) => Some("prompt.root"),
                        _ => None,
                    };
                    ways.push((tag, until(text, at, depth + 1, color)));
                    if text.get(*at) != Some(&OR) {
                        break;
                    }
                }
                *at += 1;
                out.push(Piece::Either(ways));
            }
            EITHER | NONE | MARKED => *at += 1,
            OR | EITHER_END => break,
            0x1b if rest.get(1) == Some(&b'[') => {
                let is_inner = |b: &&u8| matches!(b, b'0'..=b'?');
                let length = rest[2..].iter().take_while(is_inner).count() + 3;
                let to = (*at + length).min(text.len());
                for found in sgr::colors(text, *at..to) {
                    out.push(Piece::Paint {
                        layer: found.layer,
                        color: found.color.and_then(value_of),
                        part: found.span,
                    });
                }
                *at = to;
            }
            BETWEEN => {
                say(&mut out, " ");
                *at += 1;
            }
            _ => {
                let is_plain = |b: &&u8| !matches!(**b, 2..=6 | 0x1b | BETWEEN | NONE);
                let length = rest.iter().take_while(is_plain).count().max(1);
                say(&mut out, &String::from_utf8_lossy(&rest[..length]));
                *at += length;
            }
        }
    }
    out
}
