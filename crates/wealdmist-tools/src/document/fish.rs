//! The language of fish, as far as startup files and prompts go: commands with their words and quoting, and the
//! blocks they are put together to.
//!
//! Every byte of a word knows the byte of the file it came from.

use std::ops::Range;

use crate::document::shell::Problem;
use crate::limits;

/// A command, or several.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Node {
    /// Words, the command's name first.
    Command(Vec<Word>, Range<usize>),
    /// Conditions with what each leads to, and what is done else.
    If(Vec<(Vec<Self>, Vec<Self>)>, Vec<Self>),
    /// A word and patterns, each with what they lead to.
    Switch(Word, Vec<(Vec<Word>, Vec<Self>)>),
    /// A variable, its values, and what is done with each.
    For(String, Vec<Word>, Vec<Self>),
    /// What is done while something holds.
    While(Vec<Self>, Vec<Self>),
    /// A function: its name with what is said of it, and what it does.
    Function(Vec<Word>, Vec<Self>),
    /// Commands between `begin` and `end`.
    Begin(Vec<Self>),
    /// What is done where the command before it succeeded.
    And(Box<Self>),
    /// What is done where it failed.
    Or(Box<Self>),
    /// The opposite.
    Not(Box<Self>),
    /// Commands, one behind the other.
    Pipe(Vec<Self>),
}

/// A word.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Word {
    /// The bytes it takes, quotes included.
    pub span: Range<usize>,
    /// What it is put together of.
    pub parts: Vec<Part>,
}

/// A part of a word.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Part {
    /// Bytes that stand for themselves, each with where it is written, and whether they are quoted.
    Plain(Vec<u8>, Vec<usize>, bool),
    /// A variable with what is asked of its list, where it stands, and whether it is quoted.
    Variable(String, String, Range<usize>, bool),
    /// The output of commands, which stand there, and whether it is quoted.
    Output(Vec<Node>, Range<usize>, bool),
    /// One of several words in braces.
    Braces(Vec<Word>),
    /// What is not looked into.
    Other(Range<usize>),
}

impl Word {
    /// Its text, where it has nothing but that.
    #[must_use]
    pub fn plain(&self) -> Option<String> {
        let mut out = String::new();
        for part in &self.parts {
            match part {
                Part::Plain(bytes, ..) => out.push_str(&String::from_utf8_lossy(bytes)),
                _ => return None,
            }
        }
        Some(out)
    }
}

/// Parses a file: its commands, and where it is not understood. fish runs nothing of a file that it does not
/// understand as a whole.
#[must_use]
pub fn parse(bytes: &[u8]) -> (Vec<Node>, Option<Problem>) {
    let mut parser = Parser {
        bytes,
        at: 0,
        depth: 0,
    };
    match parser.list(&[]) {
        Ok(nodes) if parser.at >= bytes.len() => (nodes, None),
        _ => {
            let at = parser.at.min(bytes.len());
            (Vec::new(), Some(Problem { at }))
        }
    }
}

struct Parser<'a> {
    bytes: &'a [u8],
    at: usize,
    depth: usize,
}

type Parsed<T> = Result<T, Problem>;

const fn is_end(b: u8) -> bool {
    matches!(
        b,
        b' ' | b'\t' | b'\n' | b'\r' | b';' | b'&' | b'|' | b'<' | b'>' | b'(' | b')'
    )
}

const fn is_name(b: u8) -> bool {
    b.is_ascii_alphanumeric() || b == b'_'
}

impl Parser<'_> {
    fn rest(&self) -> &[u8] {
        &self.bytes[self.at.min(self.bytes.len())..]
    }

    fn peek(&self) -> Option<u8> {
        self.bytes.get(self.at).copied()
    }

    const fn fail<T>(&self) -> Parsed<T> {
        Err(Problem { at: self.at })
    }

    fn deeper<T>(&mut self, parse: impl FnOnce(&mut Self) -> Parsed<T>) -> Parsed<T> {
        if self.depth >= limits::BLOCKS {
            return self.fail();
        }
        self.depth += 1;
        let out = parse(self);
        self.depth -= 1;
        out
    }

    /// Passes blanks, joined lines and comments.
    fn blanks(&mut self) {
        loop {
            match self.rest() {
                [b' ' | b'\t' | b'\r', ..] => self.at += 1,
                [b'\\', b'\n', ..] => self.at += 2,
                [b'#', ..] => {
                    self.at += memchr::memchr(b'\n', self.rest()).unwrap_or(self.rest().len());
                }
                _ => return,
            }
        }
    }

    /// Passes what may stand between commands.
    fn between(&mut self) {
        loop {
            self.blanks();
            match self.peek() {
                Some(b'\n' | b';') => self.at += 1,
                _ => return,
            }
        }
    }

    /// The word at this place, without looking into it.
    fn keyword(&self) -> &[u8] {
        let rest = self.rest();
        let end = rest.iter().position(|b| is_end(*b));
        &rest[..end.unwrap_or(rest.len())]
    }

    /// Commands up to one of the words that end them, which stays.
    fn list(&mut self, ends: &[&[u8]]) -> Parsed<Vec<Node>> {
        self.deeper(|parser| {
            let mut out = Vec::new();
            loop {
                parser.between();
                let Some(next) = parser.peek() else { break };
                if ends.contains(&parser.keyword()) || next == b')' {
                    break;
                }
                let before = parser.at;
                parser.job(&mut out)?;
                if parser.at == before {
                    return parser.fail();
                }
            }
            Ok(out)
        })
    }

    /// A command with what is joined to it.
    fn job(&mut self, out: &mut Vec<Node>) -> Parsed<()> {
        out.push(self.pipeline()?);
        loop {
            self.blanks();
            match self.rest() {
                [b'&', b'&', ..] | [b'|', b'|', ..] => {
                    let and = self.peek() == Some(b'&');
                    self.at += 2;
                    self.between();
                    let next = Box::new(self.pipeline()?);
                    out.push(if and { Node::And(next) } else { Node::Or(next) });
                }
                [b'&', ..] => {
                    self.at += 1;
                    return Ok(());
                }
                _ => return Ok(()),
            }
        }
    }

    fn pipeline(&mut self) -> Parsed<Node> {
        self.blanks();
        for (word, length) in [(&b"and"[..], 3), (b"or", 2), (b"not", 3), (b"!", 1)] {
            if self.keyword() == word
                && self.bytes.get(self.at + length).is_some_and(|b| *b != b'(')
            {
                self.at += length;
                let inner = Box::new(self.deeper(Self::pipeline)?);
                return Ok(match length {
                    2 => Node::Or(inner),
                    3 if word == b"and" => Node::And(inner),
                    _ => Node::Not(inner),
                });
            }
        }
        let mut all = vec![self.command()?];
        loop {
            self.blanks();
            match self.rest() {
                [b'|', b'|', ..] | [b'&', b'&', ..] => break,
                [b'&', b'|', ..] => self.at += 2,
                [b'|', ..] => self.at += 1,
                _ => break,
            }
            self.between();
            all.push(self.command()?);
        }
        Ok(match all.len() {
            1 => all.remove(0),
            _ => Node::Pipe(all),
        })
    }

    /// Passes the word that ends a block.
    fn end(&mut self) -> Parsed<()> {
        self.between();
        if self.keyword() != b"end" {
            return self.fail();
        }
        self.at += 3;
        self.redirections()
    }

    fn command(&mut self) -> Parsed<Node> {
        self.blanks();
        let word = self.keyword().to_vec();
        match word.as_slice() {
            b"if" => {
                let (mut branches, mut other) = (Vec::new(), Vec::new());
                self.at += 2;
                loop {
                    let condition = self.condition()?;
                    let body = self.list(&[b"else", b"end"])?;
                    branches.push((condition, body));
                    if self.keyword() != b"else" {
                        break;
                    }
                    self.at += 4;
                    self.blanks();
                    if self.keyword() == b"if" {
                        self.at += 2;
                        continue;
                    }
                    other = self.list(&[b"end"])?;
                    break;
                }
                self.end()?;
                Ok(Node::If(branches, other))
            }
            b"while" => {
                self.at += 5;
                let condition = self.condition()?;
                let body = self.list(&[b"end"])?;
                self.end()?;
                Ok(Node::While(condition, body))
            }
            b"begin" => {
                self.at += 5;
                let body = self.list(&[b"end"])?;
                self.end()?;
                Ok(Node::Begin(body))
            }
            b"for" => {
                self.at += 3;
                let words = self.words()?;
                let name = words.first().and_then(Word::plain);
                let is_in = words.get(1).and_then(Word::plain).as_deref() == Some("in");
                let (Some(name), true) = (name, is_in) else {
                    return self.fail();
                };
                let body = self.list(&[b"end"])?;
                self.end()?;
                Ok(Node::For(name, words[2..].to_vec(), body))
            }
            b"switch" => {
                self.at += 6;
                let mut words = self.words()?;
                if words.len() != 1 {
                    return self.fail();
                }
                let mut arms = Vec::new();
                loop {
                    self.between();
                    if self.keyword() != b"case" {
                        break;
                    }
                    self.at += 4;
                    let patterns = self.words()?;
                    arms.push((patterns, self.list(&[b"case", b"end"])?));
                }
                self.end()?;
                Ok(Node::Switch(words.remove(0), arms))
            }
            b"function" => {
                self.at += 8;
                let words = self.words()?;
                let body = self.list(&[b"end"])?;
                self.end()?;
                match words.is_empty() {
                    true => self.fail(),
                    false => Ok(Node::Function(words, body)),
                }
            }
            b"else" | b"end" | b"case" => self.fail(),
            _ => {
                let start = self.at;
                let words = self.words()?;
                match words.is_empty() {
                    true => self.fail(),
                    false => Ok(Node::Command(words, start..self.at)),
                }
            }
        }
    }

    /// The job behind `if`, and those that are joined to it.
    fn condition(&mut self) -> Parsed<Vec<Node>> {
        let mut out = Vec::new();
        self.between();
        self.job(&mut out)?;
        loop {
            let before = self.at;
            self.between();
            if !matches!(self.keyword(), b"and" | b"or") {
                self.at = before;
                return Ok(out);
            }
            self.job(&mut out)?;
        }
    }

    /// The words up to the end of the command, without redirections.
    fn words(&mut self) -> Parsed<Vec<Word>> {
        let mut out = Vec::new();
        loop {
            self.blanks();
            if self.redirection()? {
                continue;
            }
            match self.rest() {
                [] | [b'\n' | b';' | b'|' | b')' | b'&', ..] => return Ok(out),
                _ => out.push(self.word()?),
            }
        }
    }

    fn redirections(&mut self) -> Parsed<()> {
        loop {
            self.blanks();
            if !self.redirection()? {
                return Ok(());
            }
        }
    }

    fn redirection(&mut self) -> Parsed<bool> {
        let rest = self.rest();
        let digits = rest.iter().take_while(|b| b.is_ascii_digit()).count();
        let signs = &rest[digits..];
        let both = digits == 0 && signs.starts_with(b"&>");
        if !both && !matches!(signs.first(), Some(b'<' | b'>')) {
            return Ok(false);
        }
        self.at += digits + usize::from(both);
        while matches!(self.peek(), Some(b'<' | b'>' | b'&' | b'?')) {
            self.at += 1;
        }
        // `2>|`: what is written as errors goes on.
        if self.peek() == Some(b'|') {
            return Ok(true);
        }
        self.blanks();
        self.word()?;
        Ok(true)
    }

    fn word(&mut self) -> Parsed<Word> {
        self.deeper(|parser| {
            let start = parser.at;
            let mut parts = Vec::new();
            while let Some(b) = parser.peek() {
                match b {
                    b'(' => parser.output(&mut parts, false)?,
                    _ if is_end(b) => break,
                    b'\'' => parser.single(&mut parts)?,
                    b'"' => parser.double(&mut parts)?,
                    b'$' => parser.dollar(&mut parts, false)?,
                    b'\\' => parser.escaped(&mut parts)?,
                    b'{' => parser.braces(&mut parts)?,
                    _ => parser.plain(&mut parts, false),
                }
            }
            if parser.at == start {
                return parser.fail();
            }
            let span = start..parser.at;
            Ok(Word { span, parts })
        })
    }

    fn plain(&mut self, parts: &mut Vec<Part>, quoted: bool) {
        push(parts, self.bytes[self.at], self.at, quoted);
        self.at += 1;
    }

    fn single(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        self.at += 1;
        empty(parts);
        loop {
            match self.rest() {
                [] => return self.fail(),
                [b'\'', ..] => break,
                [b'\\', b'\\' | b'\'', ..] => {
                    self.at += 1;
                    self.plain(parts, true);
                }
                _ => self.plain(parts, true),
            }
        }
        self.at += 1;
        Ok(())
    }

    fn double(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        self.at += 1;
        empty(parts);
        loop {
            match self.rest() {
                [] => return self.fail(),
                [b'"', ..] => break,
                [b'\\', b'\n', ..] => self.at += 2,
                [b'\\', b'$' | b'"' | b'\\', ..] => {
                    self.at += 1;
                    self.plain(parts, true);
                }
                [b'$', b'(', ..] => {
                    self.at += 1;
                    self.output(parts, true)?;
                }
                [b'$', ..] => self.dollar(parts, true)?,
                _ => self.plain(parts, true),
            }
        }
        self.at += 1;
        Ok(())
    }

    /// What stands behind a backslash outside of quotes.
    fn escaped(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        let start = self.at;
        let [_, sign, ..] = self.rest() else {
            return self.fail();
        };
        let sign = *sign;
        self.at += 2;
        let simple = match sign {
            b'\n' => return Ok(()),
            b'e' => Some(0x1b),
            b'n' => Some(b'\n'),
            b't' => Some(b'\t'),
            b'r' => Some(b'\r'),
            b'a' => Some(7),
            b'b' => Some(8),
            b'f' => Some(12),
            b'v' => Some(11),
            _ => None,
        };
        if let Some(byte) = simple {
            push(parts, byte, start, true);
            return Ok(());
        }
        let (radix, most) = match sign {
            b'x' | b'X' => (16, 2),
            b'u' => (16, 4),
            b'U' => (16, 8),
            b'0'..=b'7' => {
                self.at -= 1;
                (8, 3)
            }
            b'c' => {
                let control = self.peek().map_or(0, |b| b & 0x1f);
                self.at += 1;
                push(parts, control, start, true);
                return Ok(());
            }
            _ => {
                push(parts, sign, start + 1, true);
                return Ok(());
            }
        };
        let is_digit = |b: &&u8| char::from(**b).is_digit(radix);
        let digits = self.rest().iter().take(most).take_while(is_digit).count();
        if digits == 0 {
            return self.fail();
        }
        let text = String::from_utf8_lossy(&self.rest()[..digits]).into_owned();
        self.at += digits;
        let value = u32::from_str_radix(&text, radix).unwrap_or(0);
        if matches!(sign, b'u' | b'U') {
            let c = char::from_u32(value).unwrap_or('\u{fffd}');
            for byte in c.encode_utf8(&mut [0; 4]).bytes() {
                push(parts, byte, start, true);
            }
        } else {
            push(parts, value as u8, start, true);
        }
        Ok(())
    }

    fn dollar(&mut self, parts: &mut Vec<Part>, quoted: bool) -> Parsed<()> {
        let start = self.at;
        if self.rest().starts_with(b"$(") {
            self.at += 1;
            return self.output(parts, quoted);
        }
        let dollars = self.rest().iter().take_while(|b| **b == b'$').count();
        let rest = &self.rest()[dollars..];
        let length = rest.iter().take_while(|b| is_name(**b)).count();
        if length == 0 {
            return self.fail();
        }
        let name = String::from_utf8_lossy(&rest[..length]).into_owned();
        self.at += dollars + length;
        let from = self.at;
        self.index()?;
        let index = String::from_utf8_lossy(&self.bytes[from..self.at]).into_owned();
        let span = start..self.at;
        parts.push(match dollars {
            1 => Part::Variable(name, index, span, quoted),
            _ => Part::Other(span),
        });
        Ok(())
    }

    /// Passes what is asked of a list: `[1..2]`.
    fn index(&mut self) -> Parsed<()> {
        if self.peek() != Some(b'[') {
            return Ok(());
        }
        match memchr::memchr2(b']', b'\n', self.rest()) {
            Some(length) if self.rest()[length] == b']' => {
                self.at += length + 1;
                Ok(())
            }
            _ => self.fail(),
        }
    }

    /// `(…)`, the output of which stands there.
    fn output(&mut self, parts: &mut Vec<Part>, quoted: bool) -> Parsed<()> {
        let start = self.at;
        self.at += 1;
        let nodes = self.list(&[])?;
        if self.peek() != Some(b')') {
            return self.fail();
        }
        self.at += 1;
        self.index()?;
        parts.push(Part::Output(nodes, start..self.at, quoted));
        Ok(())
    }

    /// `{a,b}`; braces without a comma stand for themselves.
    fn braces(&mut self, parts: &mut Vec<Part>) -> Parsed<()> {
        let rest = self.rest();
        let end = rest
            .iter()
            .position(|b| *b == b'}' || matches!(b, b' ' | b'\n' | b';'));
        let inner = match end {
            Some(end) if rest[end] == b'}' => &rest[1..end],
            _ => {
                self.plain(parts, false);
                return Ok(());
            }
        };
        let simple = inner.contains(&b',')
            && !inner
                .iter()
                .any(|b| matches!(b, b'{' | b'$' | b'(' | b'\'' | b'"' | b'\\'));
        if !simple {
            let (start, length) = (self.at, inner.len() + 2);
            let open = inner.iter().any(|b| matches!(b, b'$' | b'(' | b'{'));
            self.at += length;
            match open {
                true => parts.push(Part::Other(start..self.at)),
                false => {
                    for at in start..self.at {
                        push(parts, self.bytes[at], at, false);
                    }
                }
            }
            return Ok(());
        }
        let (mut from, length) = (self.at + 1, inner.len());
        self.at = from + length + 1;
        let mut words = Vec::new();
        for piece in self.bytes[from..self.at - 1].split(|b| *b == b',') {
            let span = from..from + piece.len();
            let map = span.clone().collect();
            let parts = vec![Part::Plain(piece.to_vec(), map, false)];
            from = span.end + 1;
            words.push(Word { span, parts });
        }
        parts.push(Part::Braces(words));
        Ok(())
    }
}

/// Adds a byte to a word.
fn push(parts: &mut Vec<Part>, byte: u8, at: usize, quoted: bool) {
    if let Some(Part::Plain(bytes, map, same)) = parts.last_mut()
        && *same == quoted
    {
        bytes.push(byte);
        map.push(at);
        return;
    }
    parts.push(Part::Plain(vec![byte], vec![at], quoted));
}

/// Quotes make a word even where nothing is in them.
fn empty(parts: &mut Vec<Part>) {
    if !matches!(parts.last(), Some(Part::Plain(_, _, true))) {
        parts.push(Part::Plain(Vec::new(), Vec::new(), true));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn words(source: &str) -> Vec<String> {
        let (nodes, problem) = parse(source.as_bytes());
        assert!(problem.is_none(), "{source}");
        let Some(Node::Command(words, _)) = nodes.into_iter().next() else {
            panic!("{source}")
        };
        let of = |part: &Part| match part {
            Part::Plain(bytes, ..) => String::from_utf8_lossy(bytes).into_owned(),
            Part::Variable(name, index, ..) => format!("<{name}{index}>"),
            Part::Output(nodes, ..) => format!("<{} commands>", nodes.len()),
            Part::Braces(words) => format!("<{} words>", words.len()),
            Part::Other(_) => "<?>".to_owned(),
        };
        let word = |word: &Word| word.parts.iter().map(of).collect();
        words.iter().map(word).collect()
    }

    #[test]
    fn words_as_the_shell_reads_them() {
        assert_eq!(words("a 'b\\'c' \"d$e[1]\" # f"), ["a", "b'c", "d<e[1]>"]);
        assert_eq!(words("a \\e\\x41\\u00e9 b\\ c"), ["a", "\u{1b}Aé", "b c"]);
        assert_eq!(
            words("a (b; c)[1] \"$(d)\" {x,y}z"),
            ["a", "<2 commands>", "<1 commands>", "<2 words>z"]
        );
        assert_eq!(words("a 2>/dev/null >&2 b^c"), ["a", "b^c"]);
    }

    #[test]
    fn what_is_put_together_is_known() {
        let first = |source: &str| {
            let (mut nodes, problem) = parse(source.as_bytes());
            assert!(problem.is_none(), "{source}: {problem:?}");
            (nodes.remove(0), nodes.len())
        };
        assert!(
            matches!(first("if a; and b\nc; else if d; e; else; f; end"), (Node::If(b, o), 0) if b.len() == 2 && b[0].0.len() == 2 && o.len() == 1)
        );
        assert!(
            matches!(first("switch $x\ncase a 'b*'\nc\ncase '*'\nend"), (Node::Switch(_, arms), 0) if arms.len() == 2 && arms[0].0.len() == 2)
        );
        assert!(
            matches!(first("for f in a b; c; end"), (Node::For(n, w, _), 0) if n == "f" && w.len() == 2)
        );
        assert!(
            matches!(first("function f -d x\n a\nend"), (Node::Function(w, b), 0) if w.len() == 3 && b.len() == 1)
        );
        assert!(matches!(first("a && b || c"), (Node::Command(..), 2)));
        assert!(matches!(first("not a | b"), (Node::Not(_), 0)));
        assert!(matches!(first("begin; a; end | b &"), (Node::Pipe(_), 0)));
        for bad in ["if a; b", "a 'b", "end", "a )", "switch x y\nend", "a $"] {
            assert!(parse(bad.as_bytes()).1.is_some(), "{bad}");
        }
    }

    proptest! {
        #[test]
        fn any_bytes_are_parsed_or_refused(bytes in proptest::collection::vec(prop_oneof![
            Just(b'{'), Just(b'}'), Just(b'('), Just(b')'), Just(b'"'), Just(b'\''), Just(b'\\'), Just(b'\n'), Just(b' '),
            Just(b'$'), Just(b'['), Just(b'&'), Just(b'|'), Just(b';'), Just(b'<'), Just(b','), any::<u8>(),
        ], 0..120)) {
            let _ = parse(&bytes);
        }
    }
}
