//! The language of Bourne shells, as far as startup files go: commands with their words and quoting, and
//! what they are put together to (XCU 2.10, with bash's `[[`, `((`, `function`, arrays and `$'…'`).
//!
//! Every byte of a word knows the byte of the file it came from.

mod words;

use std::ops::Range;

use crate::limits;

/// Whose language it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kin {
    /// That of bash.
    Bash,
    /// That of zsh: braces end commands, loops and conditions have short forms, brackets may stand in words.
    Zsh,
}

/// A command, or several.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Node {
    /// Assignments and words.
    Simple {
        /// The assignments before the words.
        assigns: Vec<Assign>,
        /// The words, the command's name first.
        words: Vec<Word>,
        /// Where it stands.
        span: Range<usize>,
    },
    /// Conditions with what each leads to, and what is done else.
    If(Vec<(Vec<Self>, Vec<Self>)>, Vec<Self>),
    /// A word and patterns, each with what they lead to.
    Case(Word, Vec<(Vec<Word>, Vec<Self>)>),
    /// A variable, its values, and what is done with each.
    For(String, Vec<Word>, Vec<Self>),
    /// What is done while something holds.
    While(Vec<Self>, Vec<Self>),
    /// A function.
    Function(String, Vec<Self>),
    /// A function without a name, which is run where it stands.
    Now(Vec<Self>),
    /// Commands in braces.
    Group(Vec<Self>),
    /// Commands in a shell of their own: nothing they set stays.
    Subshell(Vec<Self>),
    /// `[[ … ]]`.
    Test(Vec<Word>),
    /// `(( … ))`, which is not looked into.
    Arithmetic(Range<usize>),
    /// The second where the first succeeds.
    And(Box<Self>, Box<Self>),
    /// The second where the first fails.
    Or(Box<Self>, Box<Self>),
    /// The opposite.
    Not(Box<Self>),
    /// Commands in shells of their own, one behind the other.
    Pipe(Vec<Self>),
}

/// An assignment.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Assign {
    /// The variable.
    pub name: String,
    /// Where its name stands.
    pub span: Range<usize>,
    /// Whether it adds to what is there.
    pub adds: bool,
    /// The value.
    pub value: Value,
}

/// What is assigned.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Value {
    /// A word.
    One(Word),
    /// The elements of an array.
    Many(Vec<Word>),
    /// One element of an array: its subscript as written, and the word.
    Element(String, Word),
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
    /// A variable with what is done to it (`:-x`, `%x`), where it stands, and whether it is quoted.
    Variable(String, String, Range<usize>, bool),
    /// The output of commands, which stand there.
    Output(Vec<Node>, Range<usize>),
    /// What is not looked into.
    Other(Range<usize>),
}

/// A place from which on nothing is understood.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Problem {
    /// The byte.
    pub at: usize,
}

/// Parses a file: its commands, and where it is not understood from which on. The shell runs the lines
/// before that, and so what is found there is what is run.
#[must_use]
pub fn parse(bytes: &[u8], kin: Kin) -> (Vec<Node>, Option<Problem>) {
    let mut parser = Parser::new(bytes, kin);
    let mut out: Vec<(usize, Node)> = Vec::new();
    loop {
        parser.between();
        let start = parser.at;
        if start >= bytes.len() {
            break;
        }
        match parser.one() {
            Ok(node) if parser.at > start => out.push((start, node)),
            Ok(_) | Err(_) => {
                let line = memchr::memrchr(b'\n', &bytes[..start]).map_or(0, |i| i + 1);
                out.retain(|(begin, _)| *begin < line);
                let nodes = out.into_iter().map(|o| o.1).collect();
                let at = parser.at.min(bytes.len());
                return (nodes, Some(Problem { at }));
            }
        }
    }
    (out.into_iter().map(|o| o.1).collect(), None)
}

/// Stands among the words that end a list for a brace that may.
const BRACE: &[u8] = b"{ ";

/// Parses a text in which variables and commands are put in as between double quotes, but which has none around
/// it.
#[must_use]
pub fn parse_text(bytes: &[u8], kin: Kin) -> Option<Word> {
    let mut parser = Parser::new(bytes, kin);
    let mut parts = Vec::new();
    loop {
        match parser.rest() {
            [] => break,
            [b'\\', b'$' | b'`' | b'\\', ..] => {
                parser.at += 1;
                parser.plain(&mut parts, true);
            }
            [b'$', ..] => parser.dollar(&mut parts, true).ok()?,
            [b'`', ..] => parser.backtick(&mut parts).ok()?,
            _ => parser.plain(&mut parts, true),
        }
    }
    let span = 0..bytes.len();
    Some(Word { span, parts })
}

struct Parser<'a> {
    bytes: &'a [u8],
    zsh: bool,
    /// Whether a word may begin with a bracket.
    brackets: bool,
    at: usize,
    depth: usize,
    /// The ends of documents that begin at the next line, with whether tabs before them are cut.
    documents: Vec<(Vec<u8>, bool)>,
}

type Parsed<T> = Result<T, Problem>;

const fn is_blank(b: u8) -> bool {
    matches!(b, b' ' | b'\t')
}

const fn is_end(b: u8) -> bool {
    matches!(
        b,
        b' ' | b'\t' | b'\n' | b';' | b'&' | b'|' | b'<' | b'>' | b'(' | b')'
    )
}

/// Whether a word is a sign behind which a pattern stands.
fn compares(word: &Word) -> bool {
    let signs: [&[u8]; 3] = [b"=", b"==", b"!="];
    matches!(word.parts.as_slice(), [Part::Plain(b, _, false)] if signs.contains(&b.as_slice()))
}

fn is_name(bytes: &[u8]) -> bool {
    let part = |b: &u8| b.is_ascii_alphanumeric() || *b == b'_';
    !bytes.is_empty() && bytes.iter().all(part) && !bytes[0].is_ascii_digit()
}

impl<'a> Parser<'a> {
    const fn new(bytes: &'a [u8], kin: Kin) -> Self {
        Self {
            bytes,
            zsh: matches!(kin, Kin::Zsh),
            brackets: false,
            at: 0,
            depth: 0,
            documents: Vec::new(),
        }
    }

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
                [b, ..] if is_blank(*b) => self.at += 1,
                [b'\\', b'\n', ..] => self.at += 2,
                [b'\\', b'\r', b'\n', ..] => self.at += 3,
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
            match self.rest() {
                [b'\n', ..] => {
                    self.at += 1;
                    self.pass_documents();
                }
                [b'\r', b'\n', ..] => self.at += 1,
                [b';', next, ..] if *next != b';' && *next != b'&' => self.at += 1,
                [b';'] => self.at += 1,
                _ => return,
            }
        }
    }

    fn pass_documents(&mut self) {
        for (end, cut) in std::mem::take(&mut self.documents) {
            while self.at < self.bytes.len() {
                let rest = self.rest();
                let length = memchr::memchr(b'\n', rest).unwrap_or(rest.len());
                let mut line = &rest[..length];
                while cut && line.first() == Some(&b'\t') {
                    line = &line[1..];
                }
                let is_last = line == end.as_slice();
                self.at += (length + 1).min(rest.len());
                if is_last {
                    break;
                }
            }
        }
    }

    /// The word at this place, without looking into it.
    fn keyword(&self) -> &[u8] {
        let rest = self.rest();
        let end = rest.iter().position(|b| is_end(*b) || *b == b'\r');
        &rest[..end.unwrap_or(rest.len())]
    }

    /// Commands up to one of the words that end them.
    fn list(&mut self, ends: &[&[u8]]) -> Parsed<Vec<Node>> {
        self.deeper(|parser| {
            let mut out = Vec::new();
            loop {
                parser.between();
                let Some(next) = parser.peek() else { break };
                if ends.contains(&parser.keyword())
                    || next == b')'
                    || [b";;", b";&", b";|"]
                        .iter()
                        .any(|s| parser.rest().starts_with(*s))
                    || (parser.zsh && parser.keyword() == b"}")
                {
                    break;
                }
                // `if … { … }`: where a condition is at its end, a brace begins what it leads to.
                let behind = parser.bytes[..parser.at].trim_ascii_end().last();
                if ends.contains(&BRACE)
                    && next == b'{'
                    && !out.is_empty()
                    && matches!(behind, Some(b']' | b')'))
                {
                    break;
                }
                let before = parser.at;
                out.push(parser.one()?);
                if parser.at == before {
                    return parser.fail();
                }
            }
            Ok(out)
        })
    }

    /// The same, of which there has to be one.
    fn body(&mut self, ends: &[&[u8]]) -> Parsed<Vec<Node>> {
        let out = self.list(ends)?;
        // zsh takes none, too.
        match out.is_empty() && !self.zsh {
            true => self.fail(),
            false => Ok(out),
        }
    }

    /// A command with what is joined to it.
    fn one(&mut self) -> Parsed<Node> {
        let node = self.and_or()?;
        self.blanks();
        Ok(match self.peek() {
            Some(b'&') => {
                // In the background nothing that is set stays.
                self.at += 1;
                if self.zsh && matches!(self.peek(), Some(b'|' | b'!')) {
                    self.at += 1;
                }
                Node::Subshell(vec![node])
            }
            _ => node,
        })
    }

    fn and_or(&mut self) -> Parsed<Node> {
        let mut left = self.pipeline()?;
        loop {
            self.blanks();
            let and = self.rest().starts_with(b"&&");
            if !and && !self.rest().starts_with(b"||") {
                return Ok(left);
            }
            self.at += 2;
            self.between();
            let right = Box::new(self.pipeline()?);
            left = match and {
                true => Node::And(Box::new(left), right),
                false => Node::Or(Box::new(left), right),
            };
        }
    }

    fn pipeline(&mut self) -> Parsed<Node> {
        self.blanks();
        if self.keyword() == b"!" {
            self.at += 1;
            return Ok(Node::Not(Box::new(self.deeper(Self::pipeline)?)));
        }
        let mut all = vec![self.command()?];
        loop {
            self.blanks();
            match self.rest() {
                [b'|', b'|', ..] => break,
                [b'|', b'&', ..] => self.at += 2,
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

    fn expect(&mut self, word: &[u8]) -> Parsed<()> {
        self.between();
        if self.keyword() == word {
            self.at += word.len();
            return Ok(());
        }
        self.fail()
    }

    fn command(&mut self) -> Parsed<Node> {
        self.blanks();
        let node = match self.keyword() {
            b"if" => self.condition()?,
            b"while" | b"until" => {
                let until = self.keyword() == b"until";
                self.at += 5;
                let mut condition = self.body(&[b"do", BRACE])?;
                let body = self.looped()?;
                if until && let Some(last) = condition.pop() {
                    condition.push(Node::Not(Box::new(last)));
                }
                Node::While(condition, body)
            }
            b"for" | b"select" => self.for_loop()?,
            b"case" => self.case()?,
            b"{" => {
                let mut body = self.braced()?;
                self.blanks();
                if self.zsh && self.keyword() == b"always" {
                    self.at += 6;
                    self.blanks();
                    body.extend(self.braced()?);
                }
                Node::Group(body)
            }
            b"[[" => self.test()?,
            b"repeat" if self.zsh => {
                self.at += 6;
                self.blanks();
                let start = self.at;
                self.word()?;
                let times = vec![Node::Arithmetic(start..self.at)];
                Node::While(times, self.looped()?)
            }
            b"foreach" if self.zsh => self.for_loop()?,
            b"function" => return self.function(),
            // A function without a name is run where it stands.
            b"" if self.zsh && self.rest().starts_with(b"()") => {
                self.at += 2;
                self.between();
                let body = self.deeper(Self::command)?;
                while !matches!(self.peek(), None | Some(b'\n' | b';' | b'&' | b'|' | b')')) {
                    self.blanks();
                    if self.word().is_err() {
                        break;
                    }
                }
                return Ok(Node::Now(vec![body]));
            }
            _ if self.rest().starts_with(b"((") => {
                let start = self.at;
                self.arithmetic()?;
                Node::Arithmetic(start..self.at)
            }
            _ if self.peek() == Some(b'(') => {
                self.at += 1;
                let body = self.body(&[])?;
                if self.peek() != Some(b')') {
                    return self.fail();
                }
                self.at += 1;
                Node::Subshell(body)
            }
            _ => return self.simple(),
        };
        self.redirections()?;
        Ok(node)
    }

    /// Commands in braces.
    fn braced(&mut self) -> Parsed<Vec<Node>> {
        if self.keyword() != b"{" {
            return self.fail();
        }
        self.at += 1;
        let body = match self.zsh {
            true => self.list(&[b"}"])?,
            false => self.body(&[b"}"])?,
        };
        self.expect(b"}")?;
        Ok(body)
    }

    /// What a loop does: between `do` and `done`, in zsh in braces or a single command as well.
    fn looped(&mut self) -> Parsed<Vec<Node>> {
        self.between();
        if self.keyword() == b"do" {
            self.at += 2;
            let body = self.body(&[b"done"])?;
            self.expect(b"done")?;
            return Ok(body);
        }
        match (self.zsh, self.keyword()) {
            (false, _) => self.fail(),
            (true, b"{") => self.braced(),
            _ => Ok(vec![self.deeper(Self::one)?]),
        }
    }

    fn function(&mut self) -> Parsed<Node> {
        self.at += 8;
        let mut names: Vec<String> = Vec::new();
        loop {
            self.blanks();
            let name = String::from_utf8_lossy(self.keyword()).into_owned();
            if name.is_empty() || name == "{" || (!self.zsh && !names.is_empty()) {
                break;
            }
            self.at += name.len();
            names.push(name);
        }
        self.blanks();
        if self.rest().starts_with(b"()") {
            self.at += 2;
        }
        self.between();
        let body = self.deeper(Self::command)?;
        let of = |name| Node::Function(name, vec![body.clone()]);
        let mut all: Vec<Node> = names.into_iter().map(of).collect();
        Ok(match all.len() {
            0 if self.zsh => Node::Now(vec![body]),
            1 => all.remove(0),
            _ => Node::Group(all),
        })
    }

    /// Passes `((…))`.
    fn arithmetic(&mut self) -> Parsed<()> {
        let mut open = 0usize;
        while let Some(b) = self.peek() {
            self.at += 1;
            match b {
                b'(' => open += 1,
                b')' => {
                    open -= 1;
                    if open == 0 {
                        return Ok(());
                    }
                }
                b'\\' => self.at += 1,
                _ => {}
            }
        }
        self.fail()
    }

    fn condition(&mut self) -> Parsed<Node> {
        let mut branches = Vec::new();
        let mut other = Vec::new();
        self.at += 2;
        loop {
            let condition = self.body(&[b"then", BRACE])?;
            if self.zsh && self.keyword() == b"{" {
                branches.push((condition, self.braced()?));
                self.blanks();
                match self.keyword() {
                    b"elif" => {
                        self.at += 4;
                        continue;
                    }
                    b"else" => {
                        self.at += 4;
                        self.between();
                        other = self.braced()?;
                    }
                    _ => {}
                }
                return Ok(Node::If(branches, other));
            }
            self.expect(b"then")?;
            let body = self.body(&[b"elif", b"else", b"fi"])?;
            branches.push((condition, body));
            match self.keyword() {
                b"elif" => self.at += 4,
                b"else" => {
                    self.at += 4;
                    other = self.body(&[b"fi"])?;
                    break;
                }
                _ => break,
            }
        }
        self.expect(b"fi")?;
        Ok(Node::If(branches, other))
    }

    fn for_loop(&mut self) -> Parsed<Node> {
        let foreach = self.keyword() == b"foreach";
        self.at += self.keyword().len();
        self.blanks();
        if self.rest().starts_with(b"((") {
            let start = self.at;
            self.arithmetic()?;
            let condition = vec![Node::Arithmetic(start..self.at)];
            return Ok(Node::While(condition, self.looped()?));
        }
        let name = self.keyword().to_vec();
        if !is_name(&name) {
            return self.fail();
        }
        self.at += name.len();
        self.between();
        let mut words = Vec::new();
        if self.zsh && self.peek() == Some(b'(') {
            let Value::Many(all) = self.array()? else {
                return self.fail();
            };
            words = all;
        } else if self.keyword() == b"in" {
            self.at += 2;
            loop {
                self.blanks();
                match self.peek() {
                    None | Some(b'\n' | b';' | b'\r') => break,
                    Some(_) => words.push(self.word()?),
                }
            }
        }
        self.between();
        let body = if self.zsh && !matches!(self.keyword(), b"do" | b"{") && foreach {
            let body = self.body(&[b"end"])?;
            self.expect(b"end")?;
            body
        } else {
            self.looped()?
        };
        Ok(Node::For(
            String::from_utf8_lossy(&name).into_owned(),
            words,
            body,
        ))
    }

    fn case(&mut self) -> Parsed<Node> {
        self.at += 4;
        self.blanks();
        let word = self.word()?;
        self.between();
        let ends: &[u8] = match self.zsh && self.keyword() == b"{" {
            true => b"}",
            false => b"esac",
        };
        self.expect(if ends == b"}" { b"{" } else { b"in" })?;
        let mut arms = Vec::new();
        loop {
            self.between();
            if self.keyword() == ends {
                break;
            }
            if self.peek() == Some(b'(') {
                self.at += 1;
            }
            let mut patterns = Vec::new();
            loop {
                self.blanks();
                patterns.push(self.word()?);
                self.blanks();
                match self.peek() {
                    Some(b'|') => self.at += 1,
                    Some(b')') => break,
                    _ => return self.fail(),
                }
            }
            self.at += 1;
            let body = self.list(&[ends])?;
            arms.push((patterns, body));
            while matches!(self.peek(), Some(b';' | b'&' | b'|')) {
                self.at += 1;
            }
        }
        self.expect(ends)?;
        Ok(Node::Case(word, arms))
    }

    fn test(&mut self) -> Parsed<Node> {
        self.at += 2;
        let mut words = Vec::new();
        loop {
            self.between();
            if self.keyword() == b"]]" {
                self.at += 2;
                return Ok(Node::Test(words));
            }
            let start = self.at;
            match self.rest() {
                [] => return self.fail(),
                [b'&', b'&', ..] | [b'|', b'|', ..] => self.at += 2,
                [b'(', ..] if self.brackets => {
                    words.push(self.word()?);
                    self.brackets = false;
                    continue;
                }
                [b'(' | b')' | b'<' | b'>', ..] => self.at += 1,
                _ => {
                    // A regular expression may hold what else ends a word.
                    let regex = words.last().is_some_and(
                        |w: &Word| matches!(w.parts.as_slice(), [Part::Plain(b, ..)] if b == b"=~"),
                    );
                    if regex {
                        let rest = self.rest();
                        let end = rest.iter().position(|b| matches!(b, b' ' | b'\n'));
                        self.at += end.unwrap_or(rest.len());
                        let parts = vec![Part::Other(start..self.at)];
                        let span = start..self.at;
                        words.push(Word { span, parts });
                    } else {
                        words.push(self.word()?);
                    }
                    // A pattern may begin with a bracket.
                    self.brackets = self.zsh && words.last().is_some_and(compares);
                    continue;
                }
            }
            let bytes = self.bytes[start..self.at].to_vec();
            let map = (start..self.at).collect();
            words.push(Word {
                span: start..self.at,
                parts: vec![Part::Plain(bytes, map, false)],
            });
        }
    }

    /// Passes redirections.
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
        // The input or output of commands is a word.
        if digits == 0 && matches!(signs, [b'<' | b'>', b'(', ..]) {
            return Ok(false);
        }
        self.at += digits + usize::from(both);
        let document = self.rest().starts_with(b"<<") && !self.rest().starts_with(b"<<<");
        while matches!(self.peek(), Some(b'<' | b'>' | b'&' | b'|' | b'-'))
            || (self.zsh && self.peek() == Some(b'!'))
        {
            self.at += 1;
        }
        let cut = document && self.bytes[self.at - 1] == b'-';
        self.blanks();
        if matches!(self.peek(), None | Some(b'\n' | b';')) {
            return Ok(true);
        }
        let word = self.word()?;
        if document {
            let mut end = Vec::new();
            for part in &word.parts {
                if let Part::Plain(bytes, ..) = part {
                    end.extend_from_slice(bytes);
                }
            }
            self.documents.push((end, cut));
        }
        Ok(true)
    }

    fn simple(&mut self) -> Parsed<Node> {
        let start = self.at;
        let mut assigns = Vec::new();
        let mut words: Vec<Word> = Vec::new();
        loop {
            self.blanks();
            match self.rest() {
                [] | [b'\n' | b';' | b'&' | b'|' | b')', ..] if !self.rest().starts_with(b"&>") => {
                    break;
                }
                [b'\r', b'\n', ..] => break,
                [b'}', ..] if self.zsh && self.keyword() == b"}" => break,
                [b'(', ..] => {
                    // A function, or nothing that is understood.
                    let name = words
                        .pop()
                        .filter(|_| words.is_empty() && assigns.is_empty());
                    let name = name.map(|w| self.bytes[w.span].to_vec());
                    self.at += 1;
                    self.blanks();
                    if self.peek() != Some(b')') {
                        return self.fail();
                    }
                    self.at += 1;
                    self.between();
                    let Some(name) = name else {
                        return self.fail();
                    };
                    let body = self.deeper(Self::command)?;
                    let name = String::from_utf8_lossy(&name).into_owned();
                    return Ok(Node::Function(name, vec![body]));
                }
                _ => {}
            }
            if self.redirection()? {
                continue;
            }
            // What declares variables takes assignments behind its name, too.
            let declares = |w: &Word| matches!(w.parts.as_slice(), [Part::Plain(b, ..)] if matches!(b.as_slice(), b"export" | b"declare" | b"typeset" | b"local" | b"readonly" | b"integer" | b"float"));
            let here = words.is_empty() || words.first().is_some_and(declares);
            match self.assignment().filter(|_| here) {
                Some((name, adds, element, length)) => {
                    let subscript = element.then(|| {
                        let inner = &self.bytes[self.at + name.len() + 1..self.at + length];
                        let end = memchr::memrchr(b']', inner).unwrap_or(inner.len());
                        String::from_utf8_lossy(&inner[..end]).into_owned()
                    });
                    let span = self.at..self.at + name.len();
                    self.at += length;
                    let value = if self.peek() == Some(b'(') {
                        self.array()?
                    } else {
                        let at = self.at;
                        let empty = self.peek().is_none_or(|b| is_end(b) || b == b'\r');
                        let word = match empty {
                            true => Word {
                                span: at..at,
                                parts: Vec::new(),
                            },
                            false => self.word()?,
                        };
                        match subscript {
                            Some(subscript) => Value::Element(subscript, word),
                            None => Value::One(word),
                        }
                    };
                    assigns.push(Assign {
                        name,
                        span,
                        adds,
                        value,
                    });
                }
                None => words.push(self.word()?),
            }
        }
        if words.is_empty() && assigns.is_empty() && self.at == start {
            return self.fail();
        }
        let span = start..self.at;
        Ok(Node::Simple {
            assigns,
            words,
            span,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn first(source: &str) -> Node {
        let (mut nodes, problem) = parse(source.as_bytes(), Kin::Bash);
        assert!(problem.is_none(), "{source}");
        nodes.remove(0)
    }

    fn plain(word: &Word) -> String {
        let of = |part: &Part| match part {
            Part::Plain(bytes, ..) => String::from_utf8_lossy(bytes).into_owned(),
            Part::Variable(name, operation, ..) => format!("<{name}{operation}>"),
            Part::Output(nodes, _) => format!("<{} commands>", nodes.len()),
            Part::Other(_) => "<?>".to_owned(),
        };
        word.parts.iter().map(of).collect()
    }

    fn words(source: &str) -> Vec<String> {
        match first(source) {
            Node::Simple { words, .. } => words.iter().map(plain).collect(),
            other => panic!("{other:?}"),
        }
    }

    #[test]
    fn words_as_the_shell_reads_them() {
        assert_eq!(words("a 'b c'\"d\\\"$e\" # f"), ["a", "b cd\"<e>"]);
        assert_eq!(
            words("a $'\\e[1m\\x41\\101\\u00e9' b"),
            ["a", "\u{1b}[1mAAé", "b"]
        );
        assert_eq!(
            words("a ${b:-c d} $(x; y) `z` $((1+2))"),
            ["a", "<b:-c d>", "<2 commands>", "<?>", "<?>"]
        );
        assert_eq!(words("a 2>/dev/null >&2 b <<E\nx y\nE\n"), ["a", "b"]);
        assert_eq!(words("a \\\n b\\ c"), ["a", "b c"]);
    }

    #[test]
    fn assignments_know_their_values() {
        let Node::Simple { assigns, words, .. } = first("A=1 B+='x' export C=(p q) d") else {
            panic!()
        };
        let names: Vec<_> = assigns.iter().map(|a| (a.name.as_str(), a.adds)).collect();
        assert_eq!(names, [("A", false), ("B", true), ("C", false)]);
        assert_eq!(words.len(), 2);
        assert!(matches!(&assigns[2].value, Value::Many(all) if all.len() == 2));
    }

    #[test]
    fn what_is_put_together_is_known() {
        assert!(
            matches!(first("if a; then b; elif c; then d; else e; fi"), Node::If(b, o) if b.len() == 2 && o.len() == 1)
        );
        assert!(
            matches!(first("case $x in a|b) c ;; *) ;; esac"), Node::Case(_, arms) if arms.len() == 2 && arms[0].0.len() == 2)
        );
        assert!(
            matches!(first("for f in a b; do c; done"), Node::For(n, w, _) if n == "f" && w.len() == 2)
        );
        assert!(matches!(first("f() { a; }"), Node::Function(n, _) if n == "f"));
        assert!(matches!(first("function f { a; }"), Node::Function(n, _) if n == "f"));
        assert!(matches!(first("a && b || c"), Node::Or(..)));
        assert!(matches!(first("[[ $a == b* && -n $c ]]"), Node::Test(w) if w.len() == 6));
        assert!(matches!(first("a | b"), Node::Pipe(all) if all.len() == 2));
        assert!(matches!(first("(a; b) >x"), Node::Subshell(all) if all.len() == 2));
        for bad in [
            "if a; then b",
            "a 'b",
            "case x in",
            "f( {",
            "a )",
            "if a; then fi",
        ] {
            assert!(parse(bad.as_bytes(), Kin::Bash).1.is_some(), "{bad}");
        }
        let (before, problem) = parse(b"a\nb; if c; then\nfi\nd\n", Kin::Bash);
        assert!(before.len() == 1 && problem.is_some());
    }

    proptest! {
        #[test]
        fn any_bytes_are_parsed_or_refused(bytes in proptest::collection::vec(prop_oneof![
            Just(b'{'), Just(b'}'), Just(b'('), Just(b')'), Just(b'"'), Just(b'\''), Just(b'\\'), Just(b'\n'), Just(b' '),
            Just(b'$'), Just(b'`'), Just(b'&'), Just(b'|'), Just(b';'), Just(b'<'), Just(b'='), any::<u8>(),
        ], 0..120)) {
            let _ = parse(&bytes, Kin::Bash);
            let _ = parse(&bytes, Kin::Zsh);
        }
    }
}
