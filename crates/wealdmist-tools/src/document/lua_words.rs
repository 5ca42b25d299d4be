//! Lua taken apart into words: where strings and comments stand, and how deep a file nests. It is
//! asked before the parser is, which would call itself as deep as the file wants, and it says how
//! a text must be quoted where one stands.

use std::ops::Range;

use wealdmist_core::quote::Quoting;

use crate::limits;

/// What a word is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    /// A comment.
    Comment,
    /// A string and what quotes it; false where its end is missing.
    Text(Quoting, bool),
    /// A name, a keyword or a number.
    Name,
    /// A sign.
    Sign(u8),
}

/// A word: what it is, its bytes, and for a string those between its quotes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Word {
    /// What it is.
    pub kind: Kind,
    /// All of it.
    pub span: Range<usize>,
    /// What stands between the quotes; the whole of other words.
    pub inner: Range<usize>,
}

/// The words of a file, in order. Any bytes have some.
pub fn words(bytes: &[u8]) -> impl Iterator<Item = Word> + '_ {
    let mut at = 0;
    std::iter::from_fn(move || {
        while bytes.get(at).is_some_and(u8::is_ascii_whitespace) {
            at += 1;
        }
        let word = word(bytes, at)?;
        at = word.span.end.max(at + 1);
        Some(word)
    })
}

fn word(bytes: &[u8], at: usize) -> Option<Word> {
    let first = *bytes.get(at)?;
    let whole = |kind, end: usize| Word {
        kind,
        span: at..end,
        inner: at..end,
    };
    if bytes[at..].starts_with(b"--") {
        if let Some((inner, end)) = long(bytes, at + 2) {
            return Some(Word {
                kind: Kind::Comment,
                span: at..end,
                inner,
            });
        }
        let end = bytes[at..].iter().position(|b| *b == b'\n');
        return Some(whole(Kind::Comment, end.map_or(bytes.len(), |n| at + n)));
    }
    if let Some((inner, end)) = long(bytes, at).filter(|_| first == b'[') {
        let closed = end > inner.end;
        return Some(Word {
            kind: Kind::Text(Quoting::LuaLong, closed),
            span: at..end,
            inner,
        });
    }
    if matches!(first, b'"' | b'\'') {
        let quoting = match first {
            b'"' => Quoting::LuaDouble,
            _ => Quoting::LuaSingle,
        };
        let mut end = at + 1;
        loop {
            match bytes.get(end) {
                None | Some(b'\n') => {
                    let end = end.min(bytes.len());
                    return Some(Word {
                        kind: Kind::Text(quoting, false),
                        span: at..end,
                        inner: at + 1..end,
                    });
                }
                Some(b'\\') => end += 2,
                Some(b) if *b == first => {
                    return Some(Word {
                        kind: Kind::Text(quoting, true),
                        span: at..end + 1,
                        inner: at + 1..end,
                    });
                }
                Some(_) => end += 1,
            }
        }
    }
    let is_name = |b: &u8| b.is_ascii_alphanumeric() || *b == b'_' || *b >= 0x80;
    if is_name(&first) {
        let len = bytes[at..].iter().take_while(|b| is_name(b)).count();
        return Some(whole(Kind::Name, at + len));
    }
    Some(whole(Kind::Sign(first), at + 1))
}

/// A string between long brackets that opens at a place: what is in it, and where it ends.
fn long(bytes: &[u8], at: usize) -> Option<(Range<usize>, usize)> {
    let rest = bytes.get(at..)?.strip_prefix(b"[")?;
    let level = rest.iter().take_while(|b| **b == b'=').count();
    if rest.get(level) != Some(&b'[') {
        return None;
    }
    let start = at + level + 2;
    let mut close = vec![b'='; level + 2];
    close[0] = b']';
    close[level + 1] = b']';
    let end = memchr::memmem::find(&bytes[start..], &close);
    Some(match end {
        Some(n) => (start..start + n, start + n + close.len()),
        None => (start..bytes.len(), bytes.len()),
    })
}

/// How deep a file nests.
///
/// # Errors
/// Why it is not given to the parser: where, and what.
pub fn nesting(bytes: &[u8]) -> Result<usize, (usize, &'static str)> {
    let (mut depth, mut operators, mut signs) = (0usize, 0usize, 0usize);
    let mut deepest = 0;
    for word in words(bytes) {
        let text = &bytes[word.span.clone()];
        match word.kind {
            Kind::Comment => continue,
            Kind::Text(..) => signs = 0,
            Kind::Name => match text {
                b"function" | b"do" | b"if" | b"repeat" => depth += 1,
                b"end" | b"until" => depth = depth.saturating_sub(1),
                b"not" | b"and" | b"or" => {
                    operators += 1;
                    signs += 1;
                }
                _ => signs = 0,
            },
            Kind::Sign(sign) => match sign {
                b'(' | b'{' | b'[' => depth += 1,
                b')' | b'}' | b']' => depth = depth.saturating_sub(1),
                b',' | b';' => operators = 0,
                _ => {
                    operators += 1;
                    signs += 1;
                }
            },
        }
        let statement = matches!(
            text,
            b"local"
                | b"function"
                | b"if"
                | b"return"
                | b"end"
                | b"do"
                | b"then"
                | b"else"
                | b"for"
                | b"while"
        );
        if statement {
            operators = 0;
        }
        deepest = deepest.max(depth + operators / 8 + signs);
        if depth > limits::LUA_NESTING {
            return Err((word.span.start, "blocks and brackets are nested too deeply"));
        }
        if operators > limits::LUA_OPERATORS || signs > limits::LUA_SIGNS {
            return Err((word.span.start, "the expression is too long"));
        }
    }
    Ok(deepest)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn strings_are_told_with_their_quotes() {
        // What the word that holds the sign is, and whether it is a string with its end.
        let kind = |text: &str| {
            let at = text.find('@').unwrap();
            let holds = |w: &Word| w.inner.contains(&at);
            words(text.as_bytes()).find(holds).map(|w| w.kind)
        };
        for (text, want) in [
            ("x = \"a@\"", Kind::Text(Quoting::LuaDouble, true)),
            ("x = 'a\\'@'", Kind::Text(Quoting::LuaSingle, true)),
            ("x = [==[ ]] @ ]==]", Kind::Text(Quoting::LuaLong, true)),
            ("-- '@'", Kind::Comment),
            ("--[[ x\n '@' ]]", Kind::Comment),
            ("x = 'open @", Kind::Text(Quoting::LuaSingle, false)),
            ("x = a @", Kind::Sign(b'@')),
        ] {
            assert_eq!(kind(text), Some(want), "{text}");
        }
    }

    #[test]
    fn what_the_parser_would_sink_in_is_refused() {
        let deep = |text: String| nesting(text.as_bytes()).is_err();
        assert!(deep("do ".repeat(200)));
        assert!(deep(format!("x = {}1", "not ".repeat(200))));
        assert!(deep(format!("x = {}1", "- ".repeat(200))));
        assert!(deep(format!("x = {}1", "{".repeat(200))));
        assert!(deep(format!("x = 'a'{}", " .. 'a'".repeat(2000))));
        assert!(!deep(
            "if a then b() elseif c then d() else e() end\n".repeat(5000)
        ));
        assert!(!deep(
            "x = { { 'a', 1 }, { fg = '#000000' } }\n".repeat(5000)
        ));
        assert!(!deep(format!("-- {}", "(".repeat(5000))));
    }

    proptest! {
        #[test]
        fn words_cover_any_bytes_in_order(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
            let mut at = 0;
            for word in words(&bytes) {
                prop_assert!(word.span.start >= at && word.span.end > word.span.start && word.span.end <= bytes.len());
                prop_assert!(word.inner.start >= word.span.start && word.inner.end <= word.span.end);
                at = word.span.end;
            }
            let _ = nesting(&bytes);
        }
    }
}
