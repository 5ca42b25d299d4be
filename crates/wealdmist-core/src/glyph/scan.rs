//! Finding characters outside ASCII in files: as they are, and as the escapes of each syntax.

use std::ops::Range;

use crate::escape::Escape;

use unicode_segmentation::UnicodeSegmentation;

/// Which escapes a file's syntax has.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Syntax {
    /// None.
    Raw,
    /// `\ue0b0`, `\U000f0001`, and bytes as `\xee` or `\356`: shells, multiplexers, Vim script.
    Shell,
    /// `\u{e0b0}`, and bytes as `\xee` or, in decimal, `\238`.
    Lua,
    /// `\ue0b0` with surrogate pairs, and `\U000f0001`: JSON, TOML, YAML.
    Data,
    /// Any of these but decimal bytes, for a file of unknown syntax.
    Any,
}

impl Syntax {
    /// The syntax that a file's name suggests.
    #[must_use]
    pub fn of_name(name: &str) -> Self {
        let name = name.to_lowercase();
        let extension = name.rsplit_once('.').map_or(name.as_str(), |(_, e)| e);
        match extension {
            "lua" => Self::Lua,
            "json" | "jsonc" | "toml" | "yml" | "yaml" => Self::Data,
            "sh" | "bash" | "zsh" | "fish" | "vim" | "tmux" => Self::Shell,
            _ => match name.trim_start_matches('.') {
                "bashrc" | "bash_profile" | "bash_aliases" | "profile" | "zshrc" | "zshenv"
                | "vimrc" => Self::Shell,
                _ => Self::Any,
            },
        }
    }
}

/// A character, or a cluster of several that are drawn as one, where it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Hit {
    /// The cluster; one character where it is an escape.
    pub text: String,
    /// Its bytes in the file.
    pub span: Range<usize>,
    /// How it is escaped; `None` where it stands as itself.
    pub escape: Option<Escape>,
}

impl Hit {
    /// Its first character outside ASCII.
    #[must_use]
    pub fn character(&self) -> char {
        let mut outside = self.text.chars().filter(|c| !c.is_ascii());
        outside.next().unwrap_or('\u{fffd}')
    }
}

/// Every character outside ASCII of a file, raw or escaped, in order. Bytes that are neither
/// UTF-8 nor escapes are passed over.
#[must_use]
pub fn scan(bytes: &[u8], syntax: Syntax) -> Vec<Hit> {
    let escapes = syntax != Syntax::Raw;
    let mut out = Vec::new();
    let mut at = 0;
    while let Some(found) = next_of_interest(&bytes[at..], escapes) {
        at += found;
        at = if bytes[at] == b'\\' {
            escaped(bytes, at, syntax, &mut out)
        } else {
            raw_run(bytes, at, &mut out)
        };
    }
    out
}

/// The next byte that is not ASCII, or a backslash. Blocks without any are passed in one test each.
fn next_of_interest(bytes: &[u8], backslash: bool) -> Option<usize> {
    const BLOCK: usize = 64;
    let wanted = |b: u8| b >= 0x80 || (backslash && b == b'\\');
    let mut at = 0;
    while let Some(block) = bytes.get(at..at + BLOCK) {
        if block.iter().fold(false, |any, b| any | wanted(*b)) {
            break;
        }
        at += BLOCK;
    }
    let rest = &bytes[at..];
    rest.iter().position(|b| wanted(*b)).map(|i| at + i)
}

/// Adds the clusters of a run of raw characters; returns where the search goes on.
fn raw_run(bytes: &[u8], start: usize, out: &mut Vec<Hit>) -> usize {
    let ascii = bytes[start..].iter().position(u8::is_ascii);
    let end = ascii.map_or(bytes.len(), |n| start + n);
    // A combining mark belongs to the letter before it.
    let base = start
        .checked_sub(1)
        .filter(|b| bytes[*b].is_ascii_alphanumeric());
    let mut at = start;
    while at < end {
        let valid = match std::str::from_utf8(&bytes[at..end]) {
            Ok(text) => text,
            Err(e) => std::str::from_utf8(&bytes[at..at + e.valid_up_to()]).unwrap_or_default(),
        };
        if valid.is_empty() {
            at += 1;
            continue;
        }
        let (from, text) = match base {
            Some(base) if at == start => (base, format!("{}{valid}", char::from(bytes[base]))),
            _ => (at, valid.to_owned()),
        };
        for (offset, cluster) in text.grapheme_indices(true) {
            if !cluster.is_ascii() {
                let begin = from + offset;
                out.push(Hit {
                    text: cluster.to_owned(),
                    span: begin..begin + cluster.len(),
                    escape: None,
                });
            }
        }
        at += valid.len();
    }
    end
}

/// Adds what an escape stands for; returns where the search goes on.
fn escaped(bytes: &[u8], at: usize, syntax: Syntax, out: &mut Vec<Hit>) -> usize {
    let Some(kind) = bytes.get(at + 1) else {
        return at + 1;
    };
    let found = match kind {
        b'u' if bytes.get(at + 2) == Some(&b'{') => match syntax {
            Syntax::Lua | Syntax::Any => braced(bytes, at),
            _ => None,
        },
        b'u' if syntax != Syntax::Lua => short(bytes, at, syntax),
        b'U' if syntax != Syntax::Lua => {
            let digits = hex_digits(&bytes[at + 2..], 8);
            let code = (digits.len() >= 4).then(|| parse(digits, 16)).flatten();
            code.and_then(char::from_u32)
                .map(|c| (c, at + 2 + digits.len(), Escape::Long))
        }
        b'x' | b'0'..=b'9' if syntax != Syntax::Data => return byte_run(bytes, at, syntax, out),
        _ => None,
    };
    match found {
        Some((c, end, escape)) => {
            if !c.is_ascii() {
                out.push(Hit {
                    text: c.to_string(),
                    span: at..end,
                    escape: Some(escape),
                });
            }
            end
        }
        // The character after a backslash is not looked at again: it may be a backslash.
        None if kind.is_ascii() => at + 2,
        None => at + 1,
    }
}

fn braced(bytes: &[u8], at: usize) -> Option<(char, usize, Escape)> {
    let digits = hex_digits(&bytes[at + 3..], 8);
    let end = at + 3 + digits.len();
    let c = char::from_u32(parse(digits, 16)?)?;
    (bytes.get(end) == Some(&b'}')).then_some((c, end + 1, Escape::Braced))
}

/// `\uXXXX`. Shells take fewer digits too, but prompts have `\u` for the user's name, so that only
/// four are read as a character.
fn short(bytes: &[u8], at: usize, syntax: Syntax) -> Option<(char, usize, Escape)> {
    let unit = |at: usize| {
        let digits = hex_digits(bytes.get(at + 2..)?, 4);
        (bytes[at..].starts_with(b"\\u") && digits.len() == 4)
            .then(|| parse(digits, 16))
            .flatten()
    };
    let first = unit(at)?;
    if let Some(c) = char::from_u32(first) {
        return Some((c, at + 6, Escape::Short));
    }
    if syntax == Syntax::Shell || at + 6 >= bytes.len() {
        return None;
    }
    let pair = [first as u16, unit(at + 6)? as u16];
    let c = char::decode_utf16(pair).next()?.ok()?;
    Some((c, at + 12, Escape::Pair))
}

/// One byte written as an escape: its value, where it ends, and how it is written.
fn byte_escape(bytes: &[u8], at: usize, syntax: Syntax) -> Option<(u8, usize, Escape)> {
    if bytes.get(at) != Some(&b'\\') {
        return None;
    }
    let rest = bytes.get(at + 1..)?;
    if rest.first() == Some(&b'x') {
        let digits = hex_digits(&rest[1..], 2);
        let value = (digits.len() == 2).then(|| parse(digits, 16)).flatten()?;
        return Some((value as u8, at + 4, Escape::Hex));
    }
    let (radix, escape) = match syntax {
        Syntax::Lua => (10, Escape::Decimal),
        _ => (8, Escape::Octal),
    };
    // `echo -e` and `%b` of printf write a zero in front of octal digits.
    let zero = usize::from(
        radix == 8 && rest.first() == Some(&b'0') && rest.len() > 3 && rest[3].is_ascii_digit(),
    );
    let digits = rest.get(zero..zero + 3)?;
    let value = digits
        .iter()
        .all(u8::is_ascii_digit)
        .then(|| parse(digits, radix))
        .flatten()?;
    Some((u8::try_from(value).ok()?, at + 1 + zero + 3, escape))
}

/// Adds the characters that a run of byte escapes amounts to; returns where the search goes on.
fn byte_run(bytes: &[u8], start: usize, syntax: Syntax, out: &mut Vec<Hit>) -> usize {
    let mut values = Vec::new();
    let mut ends = vec![start];
    let mut escapes = Vec::new();
    let mut at = start;
    while let Some((value, end, escape)) = byte_escape(bytes, at, syntax) {
        values.push(value);
        escapes.push(escape);
        ends.push(end);
        at = end;
    }
    let mut i = 0;
    while i < values.len() {
        let four = &values[i..values.len().min(i + 4)];
        let valid = match std::str::from_utf8(four) {
            Ok(text) => text,
            Err(e) => std::str::from_utf8(&four[..e.valid_up_to()]).unwrap_or_default(),
        };
        let Some(c) = valid.chars().next() else {
            i += 1;
            continue;
        };
        let span = ends[i]..ends[i + c.len_utf8()];
        if !c.is_ascii() {
            out.push(Hit {
                text: c.to_string(),
                span,
                escape: Some(escapes[i]),
            });
        }
        i += c.len_utf8();
    }
    at.max(start + 2)
}

fn hex_digits(bytes: &[u8], most: usize) -> &[u8] {
    let within = &bytes[..bytes.len().min(most)];
    let end = within.iter().position(|b| !b.is_ascii_hexdigit());
    &within[..end.unwrap_or(within.len())]
}

fn parse(digits: &[u8], radix: u32) -> Option<u32> {
    u32::from_str_radix(std::str::from_utf8(digits).ok()?, radix).ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn found(text: &str, syntax: Syntax) -> Vec<(String, Range<usize>)> {
        scan(text.as_bytes(), syntax)
            .into_iter()
            .map(|h| (h.text, h.span))
            .collect()
    }

    #[test]
    fn characters_are_found_with_their_bytes() {
        assert_eq!(
            found("a\u{e0b0}b→", Syntax::Raw),
            [("\u{e0b0}".into(), 1..4), ("→".into(), 5..8)]
        );
        let broken = [b'a', 0xff, 0xe2, 0x86, b'x', 0xe2, 0x86, 0x92];
        let hits = scan(&broken, Syntax::Any);
        assert_eq!(hits.len(), 1);
        assert_eq!((hits[0].character(), hits[0].span.clone()), ('→', 5..8));
    }

    #[test]
    fn what_is_drawn_as_one_is_one() {
        let text = "x ❤\u{fe0f} e\u{301} 👨\u{200d}💻 \u{e0b0}\u{e0b2}";
        let clusters: Vec<String> = found(text, Syntax::Raw).into_iter().map(|f| f.0).collect();
        assert_eq!(
            clusters,
            [
                "❤\u{fe0f}",
                "e\u{301}",
                "👨\u{200d}💻",
                "\u{e0b0}",
                "\u{e0b2}"
            ]
        );
        let accent = &scan(text.as_bytes(), Syntax::Raw)[1];
        assert_eq!(&text[accent.span.clone()], "e\u{301}");
        assert_eq!(accent.character(), '\u{301}');
    }

    #[test]
    fn escapes_of_each_syntax_are_read() {
        let cases = [
            (
                r"PS1=$'\ue0b0 \U000f0001'",
                Syntax::Shell,
                "\u{e0b0}\u{f0001}",
            ),
            (r"printf '\xee\x82\xb0'", Syntax::Shell, "\u{e0b0}"),
            (
                r"echo -e '\0356\0202\0260 \356\202\260'",
                Syntax::Shell,
                "\u{e0b0}\u{e0b0}",
            ),
            (
                r#"x = "\u{e0b0}\u{f0001} \238\130\176""#,
                Syntax::Lua,
                "\u{e0b0}\u{f0001}\u{e0b0}",
            ),
            (
                r#"{"a": "\ue0b0\udb80\udc01"}"#,
                Syntax::Data,
                "\u{e0b0}\u{f0001}",
            ),
            (r#"icon = "\U000F0001""#, Syntax::Data, "\u{f0001}"),
            // A backslash that is itself escaped begins nothing; nor does the user's name.
            (r"\\ue0b0 \u@\h \w \d83d", Syntax::Shell, ""),
            (r"\ue0b \uD83D \U0011ffff \xee\x82 \777", Syntax::Any, ""),
            (r"\ue0b0", Syntax::Raw, ""),
            (r"\u0041\x41\101", Syntax::Shell, ""),
        ];
        for (text, syntax, want) in cases {
            let got: String = found(text, syntax).into_iter().map(|f| f.0).collect();
            assert_eq!(got, want, "{text}");
        }
    }

    #[test]
    fn an_escape_is_written_as_it_was_read() {
        let forms = [
            (Escape::Short, Syntax::Shell),
            (Escape::Long, Syntax::Shell),
            (Escape::Hex, Syntax::Shell),
            (Escape::Octal, Syntax::Shell),
            (Escape::Braced, Syntax::Lua),
            (Escape::Decimal, Syntax::Lua),
            (Escape::Pair, Syntax::Data),
        ];
        for (escape, syntax) in forms {
            for c in ['é', '\u{e0b0}', '\u{f0001}'] {
                let text = escape.write(c);
                let hits = scan(text.as_bytes(), syntax);
                assert_eq!(hits.len(), 1, "{text}");
                assert_eq!(
                    (hits[0].character(), hits[0].span.clone()),
                    (c, 0..text.len())
                );
            }
        }
    }

    proptest! {
        #[test]
        fn scanning_text_finds_exactly_its_characters(text in "[^\\\\]*") {
            let found: String = scan(text.as_bytes(), Syntax::Any).into_iter().map(|h| h.text).collect();
            let outside = |t: &str| t.chars().filter(|c| !c.is_ascii()).collect::<String>();
            prop_assert_eq!(outside(&found), outside(&text));
        }

        #[test]
        fn any_bytes_can_be_scanned(
            bytes in proptest::collection::vec(prop_oneof![any::<u8>(), Just(b'\\'), Just(b'u'), Just(b'x'), Just(b'e')], 0..150),
            syntax in prop_oneof![Just(Syntax::Any), Just(Syntax::Lua), Just(Syntax::Data), Just(Syntax::Shell)],
        ) {
            let mut end = 0;
            for hit in scan(&bytes, syntax) {
                prop_assert!(hit.span.start >= end && hit.span.end <= bytes.len() && hit.span.start < hit.span.end);
                end = hit.span.end;
                if hit.escape.is_none() {
                    prop_assert_eq!(std::str::from_utf8(&bytes[hit.span.clone()]).unwrap(), hit.text.as_str());
                }
            }
        }
    }
}
