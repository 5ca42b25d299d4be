//! The multiplexer's command language: words with quoting, blocks in braces, conditions.
//!
//! Every decoded byte of a word knows the byte of the file it came from, so a value deep inside
//! a quoted string can be replaced where it stands.

use std::ops::Range;

use crate::limits;

/// A word of a command.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Word {
    /// The bytes it takes in the file, quotes included.
    pub span: Range<usize>,
    /// The text it stands for. Variables are kept as written.
    pub text: Vec<u8>,
    /// For each byte of the text, the file's byte it came from.
    map: Vec<usize>,
    /// The variables in the text, by the part of it that names each.
    pub variables: Vec<(Range<usize>, String)>,
    /// The commands of a block in braces.
    pub block: Option<Vec<Command>>,
}

impl Word {
    /// How many bytes of the text stand before a byte of the file.
    #[must_use]
    pub fn before(&self, at: usize) -> usize {
        self.map.partition_point(|byte| *byte < at)
    }

    /// The text, with bad bytes replaced.
    #[must_use]
    pub fn lossy(&self) -> String {
        String::from_utf8_lossy(&self.text).into_owned()
    }

    /// The byte of the file that a byte of the text came from.
    #[must_use]
    pub fn origin(&self, at: usize) -> Option<usize> {
        self.map.get(at).copied()
    }

    /// The file's bytes behind a part of the text, if they stand together and spell it literally.
    #[must_use]
    pub fn source(&self, part: Range<usize>) -> Option<Range<usize>> {
        let map = self.map.get(part)?;
        let (first, last) = (*map.first()?, *map.last()?);
        (last - first + 1 == map.len()).then_some(first..last + 1)
    }

    /// The nearest byte of the file for a position in the text.
    #[must_use]
    pub fn nearest(&self, at: usize) -> usize {
        self.map.get(at).copied().unwrap_or(self.span.start)
    }
}

/// A command: its name and arguments.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Command {
    /// The words, the name first. Never empty.
    pub words: Vec<Word>,
    /// The bytes from the first word to the last.
    pub span: Range<usize>,
    /// The line it is part of: where a command of a line fails, those after it are left out.
    pub group: usize,
}

/// The name of the command that stands for an assignment, which is its one argument.
pub const ASSIGNMENT: &[u8] = b"%assign";

/// What keeps a file from being understood.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct Problem {
    /// Where.
    pub at: usize,
    /// What.
    pub message: String,
}

/// Parses a file.
///
/// # Errors
/// A brace or quote without its partner, or a byte-order mark, each of which keeps the program
/// itself from reading the file.
pub fn parse(bytes: &[u8]) -> Result<Vec<Command>, Problem> {
    if bytes.starts_with(b"\xef\xbb\xbf") {
        return Err(problem(0, "the file begins with a byte-order mark"));
    }
    let mut parser = Parser {
        bytes,
        at: 0,
        depth: 0,
        group: 0,
    };
    let commands = parser.commands()?;
    if parser.at < bytes.len() {
        return Err(problem(parser.at, "a '}' without a '{' before it"));
    }
    balanced(&commands)?;
    Ok(commands)
}

/// Whether conditions end: each `%if` has what it asks and its `%endif`.
fn balanced(commands: &[Command]) -> Result<(), Problem> {
    let mut open: Vec<usize> = Vec::new();
    for command in commands {
        let Some(head) = command.words.first() else {
            continue;
        };
        let at = head.span.start;
        match head.text.as_slice() {
            b"%if" | b"%elif" if command.words.len() < 2 => {
                return Err(problem(at, "a condition that asks nothing"));
            }
            b"%if" => open.push(at),
            b"%elif" | b"%else" if open.is_empty() => {
                return Err(problem(at, "there is no '%if' before it"));
            }
            b"%endif" if open.pop().is_none() => {
                return Err(problem(at, "a '%endif' without an '%if' before it"));
            }
            _ => {}
        }
    }
    match open.pop() {
        Some(at) => Err(problem(at, "the '%if' has no '%endif'")),
        None => Ok(()),
    }
}

fn problem(at: usize, message: &str) -> Problem {
    Problem {
        at,
        message: message.to_owned(),
    }
}

struct Parser<'a> {
    bytes: &'a [u8],
    at: usize,
    depth: usize,
    group: usize,
}

impl Parser<'_> {
    fn peek(&self) -> Option<u8> {
        self.bytes.get(self.at).copied()
    }

    fn rest(&self) -> &[u8] {
        &self.bytes[self.at..]
    }

    /// Passes blanks and joined line ends.
    fn blanks(&mut self) {
        loop {
            match self.rest() {
                [b' ' | b'\t', ..] => self.at += 1,
                [b'\\', b'\n', ..] => self.at += 2,
                [b'\\', b'\r', b'\n', ..] => self.at += 3,
                _ => return,
            }
        }
    }

    /// Passes a comment; a backslash at its end joins the next line to it.
    fn comment(&mut self) {
        while let Some(b) = self.peek() {
            if b == b'\n' {
                return;
            }
            self.at += if self.rest().starts_with(b"\\\n") {
                2
            } else {
                1
            };
        }
    }

    fn commands(&mut self) -> Result<Vec<Command>, Problem> {
        let mut out = Vec::new();
        let mut words: Vec<Word> = Vec::new();
        loop {
            self.blanks();
            match self.peek() {
                None => break,
                Some(b @ (b'\n' | b';' | b'\r')) => {
                    self.at += 1;
                    finish(&mut words, &mut out, self.group);
                    self.group += usize::from(b == b'\n');
                }
                Some(b'#') if !expects_format(&words) => self.comment(),
                Some(b'}') => break,
                Some(_) => {
                    words.push(self.word(expects_format(&words))?);
                    // A condition ends by itself; what follows on the line is a command.
                    let head = words[0].text.as_slice();
                    let whole = match head {
                        b"%else" | b"%endif" => words.len() == 1,
                        b"%if" | b"%elif" => words.len() == 2,
                        _ => false,
                    };
                    if whole {
                        finish(&mut words, &mut out, self.group);
                    }
                }
            }
        }
        finish(&mut words, &mut out, self.group);
        Ok(out)
    }

    fn word(&mut self, is_condition: bool) -> Result<Word, Problem> {
        let start = self.at;
        let mut word = Word {
            span: start..start,
            text: Vec::new(),
            map: Vec::new(),
            variables: Vec::new(),
            block: None,
        };
        if self.peek() == Some(b'{') {
            self.at += 1;
            self.depth += 1;
            if self.depth > limits::BLOCKS {
                return Err(problem(start, "braces are nested too deeply"));
            }
            let inner = self.commands()?;
            if self.peek() != Some(b'}') {
                return Err(problem(start, "the '{' has no '}'"));
            }
            self.at += 1;
            self.depth -= 1;
            word.block = Some(inner);
            word.span.end = self.at;
            return Ok(word);
        }
        // The condition of a `%if` may stand bare: it runs to its closing brace. Elsewhere one ends a word.
        let is_bare = is_condition && self.rest().starts_with(b"#{");
        let mut braces = 0usize;
        while let Some(b) = self.peek() {
            if is_bare && self.rest().starts_with(b"#{") {
                braces += 1;
            } else if braces > 0 {
                braces -= usize::from(b == b'}');
                self.literal(&mut word);
                continue;
            }
            match b {
                b' ' | b'\t' | b'\n' | b';' | b'}' => break,
                b'\r' if self.bytes.get(self.at + 1) == Some(&b'\n') => break,
                b'\'' => self.single(&mut word),
                b'"' => self.double(&mut word),
                b'\\' => {
                    if matches!(self.rest(), [_, b'\n', ..] | [_, b'\r', b'\n', ..]) {
                        break;
                    }
                    self.escape(&mut word);
                }
                b'$' => self.variable(&mut word),
                _ => self.literal(&mut word),
            }
        }
        word.span.end = self.at;
        Ok(word)
    }

    fn literal(&mut self, word: &mut Word) {
        word.text.push(self.bytes[self.at]);
        word.map.push(self.at);
        self.at += 1;
    }

    fn single(&mut self, word: &mut Word) {
        self.at += 1;
        while let Some(b) = self.peek() {
            if b == b'\'' {
                self.at += 1;
                return;
            }
            if self.rest().starts_with(b"\\\n") {
                self.at += 2;
                continue;
            }
            self.literal(word);
        }
    }

    fn double(&mut self, word: &mut Word) {
        self.at += 1;
        while let Some(b) = self.peek() {
            match b {
                b'"' => {
                    self.at += 1;
                    return;
                }
                b'\\' if self.rest().starts_with(b"\\\n") => self.at += 2,
                b'\\' => self.escape(word),
                b'$' => self.variable(word),
                _ => self.literal(word),
            }
        }
    }

    /// A variable is kept as it is written, and known to be one.
    fn variable(&mut self, word: &mut Word) {
        let rest = &self.bytes[self.at + 1..];
        let braced = rest.first() == Some(&b'{');
        let name = &rest[usize::from(braced)..];
        let is_name = |b: &&u8| b.is_ascii_alphanumeric() || **b == b'_';
        let length = name.iter().take_while(is_name).count();
        let closed = !braced || name.get(length) == Some(&b'}');
        if length == 0 || name[0].is_ascii_digit() || !closed {
            return self.literal(word);
        }
        let name = String::from_utf8_lossy(&name[..length]).into_owned();
        let start = word.text.len();
        for _ in 0..1 + length + 2 * usize::from(braced) {
            self.literal(word);
        }
        word.variables.push((start..word.text.len(), name));
    }

    /// An escape outside single quotes; each decoded byte points at the backslash.
    fn escape(&mut self, word: &mut Word) {
        let start = self.at;
        self.at += 1;
        let Some(b) = self.peek() else {
            word.text.push(b'\\');
            word.map.push(start);
            return;
        };
        self.at += 1;
        let decoded: Option<char> = match b {
            b'n' => Some('\n'),
            b't' => Some('\t'),
            b'r' => Some('\r'),
            b'e' => Some('\x1b'),
            b'u' => self.hex(4),
            b'U' => self.hex(8),
            b'0'..=b'3' => self.octal(b),
            _ => None,
        };
        match decoded {
            Some(c) => {
                let mut buffer = [0; 4];
                for byte in c.encode_utf8(&mut buffer).bytes() {
                    word.text.push(byte);
                    word.map.push(start);
                }
            }
            None => {
                word.text.push(b);
                word.map.push(self.at - 1);
            }
        }
    }

    fn hex(&mut self, digits: usize) -> Option<char> {
        let text = self.bytes.get(self.at..self.at + digits)?;
        let text = std::str::from_utf8(text)
            .ok()
            .filter(|t| t.bytes().all(|b| b.is_ascii_hexdigit()))?;
        let c = char::from_u32(u32::from_str_radix(text, 16).ok()?)?;
        self.at += digits;
        Some(c)
    }

    fn octal(&mut self, first: u8) -> Option<char> {
        let [b, c, ..] = *self.rest() else {
            return None;
        };
        if !(b'0'..=b'7').contains(&b) || !(b'0'..=b'7').contains(&c) {
            return None;
        }
        self.at += 2;
        Some(char::from(
            (first - b'0') * 64 + (b - b'0') * 8 + (c - b'0'),
        ))
    }
}

/// Whether the next word is a condition, which may begin with `#`.
fn expects_format(words: &[Word]) -> bool {
    matches!(words, [head] if matches!(head.text.as_slice(), b"%if" | b"%elif"))
}

fn finish(words: &mut Vec<Word>, out: &mut Vec<Command>, group: usize) {
    // Assignments before a command, and the mark that hides one, are not its name.
    let is_assignment = |w: &Word| {
        let name = w.text.split(|b| *b == b'=').next().unwrap_or_default();
        w.text.contains(&b'=')
            && !name.is_empty()
            && name.iter().all(|b| b.is_ascii_alphanumeric() || *b == b'_')
            && !name[0].is_ascii_digit()
    };
    let skip = words
        .iter()
        .take_while(|w| w.text == b"%hidden" || is_assignment(w))
        .count();
    for word in words.drain(..skip).filter(is_assignment) {
        let name = Word {
            span: word.span.clone(),
            text: ASSIGNMENT.to_vec(),
            map: vec![word.span.start; ASSIGNMENT.len()],
            variables: Vec::new(),
            block: None,
        };
        let span = word.span.clone();
        let words = vec![name, word];
        out.push(Command { words, span, group });
    }
    if let (Some(first), Some(last)) = (words.first(), words.last()) {
        let span = first.span.start..last.span.end;
        out.push(Command {
            words: std::mem::take(words),
            span,
            group,
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn texts(source: &str) -> Vec<Vec<String>> {
        let commands = parse(source.as_bytes()).unwrap();
        commands
            .iter()
            .map(|c| c.words.iter().map(Word::lossy).collect())
            .collect()
    }

    #[test]
    fn words_as_the_program_reads_them() {
        assert_eq!(texts("a #b"), [["a"]]);
        assert_eq!(texts("a#b"), [["a#b"]]);
        assert_eq!(
            texts("set -g @x fg=#112233"),
            [["set", "-g", "@x", "fg=#112233"]]
        );
        assert_eq!(texts("a;b \\; c"), [vec!["a"], vec!["b", ";", "c"]]);
        assert_eq!(texts("x \"a\"b'c'"), [["x", "abc"]]);
        assert_eq!(texts("x 'it'\"'\"'s'"), [["x", "it's"]]);
        assert_eq!(texts("x \"\\u00e9\\101\\\"\""), [["x", "éA\""]]);
        assert_eq!(
            texts("a \\\n b\n# c \\\nstill\nd"),
            [vec!["a", "b"], vec!["d"]]
        );
        assert_eq!(
            texts("FOO=1 BAR=2\nset x"),
            [["%assign", "FOO=1"], ["%assign", "BAR=2"], ["set", "x"]]
        );
        assert_eq!(
            texts("%if #{x}\nset a\n%else set b\n%endif"),
            [
                vec!["%if", "#{x}"],
                vec!["set", "a"],
                vec!["%else"],
                vec!["set", "b"],
                vec!["%endif"]
            ]
        );
    }

    #[test]
    fn variables_are_known_where_they_stand_for_something() {
        let names = |source: &str| {
            let word = &parse(source.as_bytes()).unwrap()[0].words[1];
            let names = word.variables.iter().map(|v| v.1.clone());
            names.collect::<Vec<_>>()
        };
        assert_eq!(names("x a$B\"${C}d$E\""), ["B", "C", "E"]);
        assert!(names("x '$A'\\$B$1${C").is_empty());
    }

    #[test]
    fn blocks_hold_commands() {
        let commands = parse(b"if -F x {\n set a 1\n} {\n set b 2 ; set c 3 }\nset d").unwrap();
        let inner: Vec<usize> = commands[0]
            .words
            .iter()
            .filter_map(|w| w.block.as_ref())
            .map(Vec::len)
            .collect();
        assert_eq!(inner, [1, 2]);
        assert_eq!(commands[1].words[1].lossy(), "d");
    }

    #[test]
    fn a_value_inside_quotes_is_found_in_the_file() {
        let source = "set -g x \"bg=#010203,fg=\\$y\"";
        let word = &parse(source.as_bytes()).unwrap()[0].words[3];
        let at = word.lossy().find("#010203").unwrap();
        assert_eq!(&source[word.source(at..at + 7).unwrap()], "#010203");
        let y = word.lossy().find("=$y").unwrap();
        assert_eq!(word.source(y..y + 3), None, "an escape stands in between");
    }

    #[test]
    fn what_the_program_refuses_is_refused() {
        for bad in ["if x {\n set a", "a }", "\u{feff}set a"] {
            assert!(parse(bad.as_bytes()).is_err(), "{bad:?}");
        }
    }

    proptest! {
        #[test]
        fn any_bytes_are_parsed_or_refused(bytes in proptest::collection::vec(prop_oneof![Just(b'{'), Just(b'}'), Just(b'"'), Just(b'\''), Just(b'\\'), Just(b'\n'), Just(b' '), Just(b'#'), Just(b'u'), Just(b'%'), any::<u8>()], 0..120)) {
            if let Ok(commands) = parse(&bytes) {
                for command in commands {
                    prop_assert!(!command.words.is_empty());
                    prop_assert!(command.span.end <= bytes.len());
                    for word in command.words {
                        prop_assert_eq!(word.text.len(), word.map.len());
                        for i in 0..word.text.len() {
                            if let Some(src) = word.source(i..i + 1) {
                                prop_assert!(src.end <= bytes.len());
                            }
                        }
                    }
                }
            }
        }
    }
}
