//! Words of PowerShell as its tokenizer finds them, each with its place.

use std::ops::Range;

/// What stands in a text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Bit {
    /// A byte, and where it is written.
    Byte(u8, usize),
    /// A variable's value.
    Variable(String, Range<usize>),
    /// What commands say: where they stand, without the brackets.
    Commands(Range<usize>),
}

/// A word.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Kind {
    /// A name, a number, an option, a type, what is taken of something (`.Name`).
    Plain(String),
    /// A text in quotes.
    Text(Vec<Bit>),
    /// `$name`, `${name}`; without what leads to it (`global:`).
    Variable(String),
    /// `(`, `{`, `@(`, `@{`, `$(`.
    Open(u8),
    /// `)`, `}`.
    Close(u8),
    /// Punctuation.
    Sign(&'static str),
    /// The end of a line, or `;`.
    End,
}

/// A word with its place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Word {
    pub kind: Kind,
    pub span: Range<usize>,
}

/// How deep commands in texts may nest.
const DEEPEST: usize = 16;

/// The most words of a file that are looked at.
const MOST: usize = 200_000;

/// The words of a text, from one place on to another.
pub fn words(bytes: &[u8], range: Range<usize>) -> Vec<Word> {
    let mut out = Vec::new();
    let mut at = range.start;
    let end = range.end.min(bytes.len());
    while at < end && out.len() < MOST {
        let start = at;
        let rest = &bytes[at..end];
        let kind = match rest {
            [b'`', b'\r', b'\n', ..] => {
                at += 3;
                continue;
            }
            [b'`', b'\n', ..] => {
                at += 2;
                continue;
            }
            [b'\n' | b';', ..] => {
                at += 1;
                Kind::End
            }
            [b' ' | b'\t' | b'\r', ..] => {
                at += 1;
                continue;
            }
            [b'<', b'#', ..] => {
                let length = memchr::memmem::find(rest, b"#>").map_or(rest.len(), |n| n + 2);
                at += length;
                continue;
            }
            [b'#', ..] => {
                at += memchr::memchr(b'\n', rest).unwrap_or(rest.len());
                continue;
            }
            [b'@', quote @ (b'"' | b'\''), ..] => {
                let (text, length) = here(bytes, at, end, *quote);
                at += length;
                Kind::Text(text)
            }
            [b'"', ..] => {
                let (bits, length) = expandable(bytes, at + 1, end, true, 0);
                at += 1 + length;
                Kind::Text(bits)
            }
            [b'\'', ..] => {
                let (bits, length) = literal(bytes, at + 1, end);
                at += 1 + length;
                Kind::Text(bits)
            }
            [b'@' | b'$', open @ (b'(' | b'{'), ..] if rest[0] == b'@' || *open == b'(' => {
                at += 2;
                Kind::Open(*open)
            }
            [open @ (b'(' | b'{'), ..] => {
                at += 1;
                Kind::Open(*open)
            }
            [close @ (b')' | b'}'), ..] => {
                at += 1;
                Kind::Close(*close)
            }
            [b'$', ..] => match variable(rest) {
                Some((name, length)) => {
                    at += length;
                    Kind::Variable(name)
                }
                None => {
                    at += 1;
                    Kind::Sign("$")
                }
            },
            _ => {
                let signs = ["+=", "=", "+", ",", "|", "&", "!"];
                if let Some(sign) = signs.into_iter().find(|s| rest.starts_with(s.as_bytes())) {
                    at += sign.len();
                    Kind::Sign(sign)
                } else {
                    let ends = |b: &u8| b" \t\r\n;\"'(){}$,|=+`".contains(b);
                    let length = rest.iter().position(ends).unwrap_or(rest.len()).max(1);
                    at += length;
                    Kind::Plain(String::from_utf8_lossy(&rest[..length]).into_owned())
                }
            }
        };
        out.push(Word {
            kind,
            span: start..at,
        });
    }
    out
}

/// The variable at the head of a text, and how long its name with what leads to it is.
fn variable(rest: &[u8]) -> Option<(String, usize)> {
    let plain = |name: &[u8]| {
        let name = String::from_utf8_lossy(name).to_lowercase();
        let scopes = ["global:", "script:", "local:", "private:"];
        let name = scopes
            .iter()
            .find_map(|s| name.strip_prefix(s))
            .unwrap_or(&name);
        name.to_owned()
    };
    if let [b'$', b'{', inner @ ..] = rest {
        let end = memchr::memchr(b'}', inner)?;
        return Some((plain(&inner[..end]), end + 3));
    }
    if let [b'$', sign @ (b'?' | b'$' | b'^'), ..] = rest {
        return Some(((*sign as char).to_string(), 2));
    }
    let is_name = |(i, b): (usize, &u8)| {
        let more = rest
            .get(i + 2)
            .is_some_and(|b| b.is_ascii_alphanumeric() || *b == b'_');
        b.is_ascii_alphanumeric() || *b == b'_' || (*b == b':' && i > 0 && more)
    };
    let length = rest[1..]
        .iter()
        .enumerate()
        .take_while(|one| is_name(*one))
        .count();
    (length > 0).then(|| (plain(&rest[1..=length]), length + 1))
}

/// A text in which nothing is expanded, from behind its quote on; its length with the quote that ends it.
fn literal(bytes: &[u8], from: usize, end: usize) -> (Vec<Bit>, usize) {
    let mut bits = Vec::new();
    let mut at = from;
    while at < end {
        if bytes[at] == b'\'' {
            if bytes[..end].get(at + 1) != Some(&b'\'') {
                return (bits, at + 1 - from);
            }
            at += 1;
        }
        bits.push(Bit::Byte(bytes[at], at));
        at += 1;
    }
    (bits, at - from)
}

/// A text in which variables and commands are expanded.
fn expandable(
    bytes: &[u8],
    from: usize,
    end: usize,
    ends: bool,
    depth: usize,
) -> (Vec<Bit>, usize) {
    let mut bits = Vec::new();
    let mut at = from;
    while at < end {
        let rest = &bytes[at..end];
        match rest {
            [b'"', b'"', ..] if ends => {
                bits.push(Bit::Byte(b'"', at));
                at += 2;
            }
            [b'"', ..] if ends => return (bits, at + 1 - from),
            [b'`', b'u', b'{', digits @ ..] => {
                let length = memchr::memchr(b'}', digits).unwrap_or(0);
                let code = std::str::from_utf8(&digits[..length]).unwrap_or_default();
                let c = u32::from_str_radix(code, 16).ok().and_then(char::from_u32);
                let mut buffer = [0; 4];
                let written = c.map_or("", |c| c.encode_utf8(&mut buffer));
                bits.extend(written.bytes().map(|b| Bit::Byte(b, at)));
                at += length + 4;
            }
            [b'`', escaped, ..] => {
                let byte = match escaped {
                    b'e' => 0x1b,
                    b'n' => b'\n',
                    b't' => b'\t',
                    b'a' => 7,
                    other => *other,
                };
                bits.push(Bit::Byte(byte, at));
                at += 2;
            }
            [b'$', b'(', ..] if depth < DEEPEST => {
                let close = closing(bytes, at + 2, end, depth + 1);
                bits.push(Bit::Commands(at + 2..close));
                at = (close + 1).min(end);
            }
            [b'$', ..] => match variable(rest) {
                Some((name, length)) => {
                    bits.push(Bit::Variable(name, at..at + length));
                    at += length;
                }
                None => {
                    bits.push(Bit::Byte(b'$', at));
                    at += 1;
                }
            },
            [byte, ..] => {
                bits.push(Bit::Byte(*byte, at));
                at += 1;
            }
            [] => break,
        }
    }
    (bits, at - from)
}

/// A text over several lines.
fn here(bytes: &[u8], at: usize, end: usize, quote: u8) -> (Vec<Bit>, usize) {
    let rest = &bytes[at..end];
    let Some(line) = memchr::memchr(b'\n', rest) else {
        return (Vec::new(), rest.len());
    };
    let begin = at + line + 1;
    let finish = [b'\n', quote, b'@'];
    let found = memchr::memmem::find(&bytes[at + line..end], &finish);
    let stop = found.map_or(end, |n| at + line + n);
    let stop = stop.max(begin);
    let bits = match quote {
        b'"' => expandable(bytes, begin, stop, false, 0).0,
        _ => (begin..stop).map(|i| Bit::Byte(bytes[i], i)).collect(),
    };
    (bits, found.map_or(end - at, |n| line + n + 3))
}

/// Where the bracket closes that was opened before.
fn closing(bytes: &[u8], from: usize, end: usize, depth: usize) -> usize {
    let mut open = 1;
    let mut at = from;
    while at < end {
        match bytes[at] {
            b'(' => open += 1,
            b')' => {
                open -= 1;
                if open == 0 {
                    return at;
                }
            }
            b'\'' => at += literal(bytes, at + 1, end).1,
            b'"' => at += expandable(bytes, at + 1, end, true, depth).1,
            b'`' => at += 1,
            _ => {}
        }
        at += 1;
    }
    end
}
