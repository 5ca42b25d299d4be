//! The editor's own command language, taken apart into commands and expressions with the places of
//! what is written. Nothing is run.

use std::sync::Arc;

/// Text of a command, and for each of its bytes the byte of the source it came from.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Line {
    /// The bytes.
    pub bytes: Vec<u8>,
    /// Where each stands.
    pub map: Vec<usize>,
}

impl Line {
    fn part(&self, range: std::ops::Range<usize>) -> Self {
        Self {
            bytes: self.bytes[range.clone()].to_vec(),
            map: self.map[range].to_vec(),
        }
    }

    fn trimmed(&self) -> Self {
        let blank = |b: &u8| b.is_ascii_whitespace();
        let start = self.bytes.iter().take_while(|b| blank(b)).count();
        let end = self
            .bytes
            .iter()
            .rposition(|b| !blank(b))
            .map_or(start, |i| i + 1);
        self.part(start..end.max(start))
    }

    /// Its words: what stands between blanks. A backslash keeps the blank behind it in the word.
    #[must_use]
    pub fn words(&self) -> Vec<Self> {
        let (mut out, mut at) = (Vec::new(), 0);
        let blank = |at: usize| matches!(self.bytes[at], b' ' | b'\t');
        while at < self.bytes.len() {
            if blank(at) {
                at += 1;
                continue;
            }
            let start = at;
            while at < self.bytes.len() && !blank(at) {
                at += if self.bytes[at] == b'\\' { 2 } else { 1 };
            }
            at = at.min(self.bytes.len());
            out.push(self.part(start..at));
        }
        out
    }

    /// As text.
    #[must_use]
    pub fn text(&self) -> String {
        String::from_utf8_lossy(&self.bytes).into_owned()
    }

    /// What follows the first bytes.
    #[must_use]
    pub fn behind(&self, length: usize) -> Self {
        self.part(length.min(self.bytes.len())..self.bytes.len())
            .trimmed()
    }

    /// The part of it, without the blanks around.
    #[must_use]
    pub fn between(&self, range: std::ops::Range<usize>) -> Self {
        self.part(range).trimmed()
    }
}

/// A command: its name as written, whether a `!` follows, and what it is given.
#[derive(Debug, Clone, PartialEq)]
pub struct Command {
    /// Its name.
    pub name: String,
    /// Whether a `!` follows.
    pub bang: bool,
    /// What it is given.
    pub given: Line,
    /// Lines that belong to it: `lua << END`.
    pub lines: Option<Line>,
    /// Where it begins.
    pub at: usize,
}

/// What stands in a script.
#[derive(Debug, Clone, PartialEq)]
pub enum Node {
    /// A command on its own.
    Command(Command),
    /// Conditions with what they lead to, and what happens otherwise.
    If(Vec<(Line, Vec<Node>)>, Vec<Node>, usize),
    /// `for … in …`
    For(Line, Line, Vec<Node>, usize),
    /// `while …`
    While(Line, Vec<Node>, usize),
    /// A function.
    Function(Arc<Function>, usize),
    /// What is tried, what happens when it fails in a way, and what happens in the end.
    Try(Vec<Node>, Vec<(String, Vec<Node>)>, Vec<Node>),
}

impl Node {
    /// Where it begins.
    #[must_use]
    pub fn at(&self) -> usize {
        match self {
            Self::Command(command) => command.at,
            Self::If(_, _, at)
            | Self::For(_, _, _, at)
            | Self::While(_, _, at)
            | Self::Function(_, at) => *at,
            Self::Try(all, ..) => all.first().map_or(0, Self::at),
        }
    }
}

/// A function of a script.
#[derive(Debug, PartialEq)]
pub struct Function {
    /// Its name.
    pub name: String,
    /// The names of what it is given.
    pub parameters: Vec<String>,
    /// Whether the first error leaves it.
    pub abort: bool,
    /// What it does.
    pub body: Vec<Node>,
}

/// The lines of a source, those that continue another joined to it; comments left out.
fn lines(source: &[u8]) -> Vec<(Line, Option<Line>)> {
    let mut raw: Vec<(usize, usize)> = Vec::new();
    let mut start = 0;
    while start < source.len() {
        let end = memchr::memchr(b'\n', &source[start..]).map_or(source.len(), |n| start + n);
        raw.push((start, end));
        start = end + 1;
    }
    let whole = |(start, end): (usize, usize)| {
        let end = end - usize::from(source[start..end].ends_with(b"\r"));
        Line {
            bytes: source[start..end].to_vec(),
            map: (start..end).collect(),
        }
    };
    let first = |(start, end): (usize, usize)| {
        let blanks = source[start..end]
            .iter()
            .take_while(|b| b.is_ascii_whitespace())
            .count();
        start + blanks
    };
    let (mut out, mut at): (Vec<(Line, Option<Line>)>, usize) = (Vec::new(), 0);
    while at < raw.len() {
        let mut line = whole(raw[at]);
        at += 1;
        while let Some(next) = raw.get(at) {
            let begin = first(*next);
            match &source[begin..next.1.max(begin)] {
                [b'\\', ..] => {
                    let mut more = whole((begin + 1, next.1.max(begin + 1)));
                    line.bytes.append(&mut more.bytes);
                    line.map.append(&mut more.map);
                }
                // A comment between lines that continue one another.
                [b'"', b'\\', b' ', ..] => {}
                _ => break,
            }
            at += 1;
        }
        let line = line.trimmed();
        let Some(end) = end_of_lines(&line.bytes) else {
            out.push((line, None));
            continue;
        };
        let mut inner = Line::default();
        while let Some(next) = raw.get(at) {
            at += 1;
            let text = whole(*next);
            if text.bytes.trim_ascii() == end.as_bytes() {
                break;
            }
            inner.bytes.extend_from_slice(&text.bytes);
            inner.map.extend_from_slice(&text.map);
            inner.bytes.push(b'\n');
            inner.map.push(next.1);
        }
        out.push((line, Some(inner)));
    }
    out
}

/// What ends the lines that belong to a command, where some do.
fn end_of_lines(line: &[u8]) -> Option<String> {
    let text = std::str::from_utf8(line).ok()?;
    let command = text
        .trim_start_matches([':', ' '])
        .split_whitespace()
        .next()?;
    let marker = match command {
        "lua" | "python" | "py" | "python3" | "py3" | "pythonx" | "pyx" | "ruby" | "perl" => {
            text.split_once("<<")?.1
        }
        "let" | "const" => text.split_once("=<<")?.1,
        _ => return None,
    };
    let mut words = marker
        .split_whitespace()
        .filter(|w| !matches!(*w, "trim" | "eval"));
    Some(words.next().unwrap_or(".").to_owned())
}

/// Commands that take all that follows, bars too.
const WHOLE: &[&str] = &[
    "autocmd",
    "au",
    "command",
    "com",
    "lua",
    "normal",
    "norm",
    "global",
    "g",
    "vglobal",
    "v",
    "python",
    "py",
    "python3",
    "py3",
    "ruby",
    "perl",
    "map",
    "nmap",
    "vmap",
    "imap",
    "xmap",
    "omap",
    "tmap",
    "cmap",
    "noremap",
    "nnoremap",
    "vnoremap",
    "inoremap",
    "xnoremap",
    "onoremap",
    "tnoremap",
    "cnoremap",
    "no",
    "nn",
    "vn",
    "ino",
    "xn",
    "abbrev",
    "iabbrev",
    "ia",
    "snoremap",
    "smap",
    "argdo",
    "bufdo",
    "tabdo",
    "windo",
    "luado",
    "folddoopen",
    "cdo",
    "ldo",
    "function",
    "func",
    "fu",
    "menu",
    "amenu",
    "write",
    "w",
    "read",
    "r",
];

/// Commands that take expressions.
const EXPRESSIONS: &[&str] = &[
    "let", "const", "if", "elseif", "elsei", "while", "call", "cal", "echo", "echon", "echom",
    "echomsg", "echoerr", "execute", "exe", "exec", "return", "for", "eval", "throw", "unlet",
];

/// Modifiers that may stand before a command.
const MODIFIERS: &[&str] = &[
    "silent",
    "sil",
    "keepalt",
    "keepjumps",
    "noautocmd",
    "noa",
    "keeppatterns",
    "verbose",
    "unsilent",
    "sandbox",
];

/// The commands of a line.
fn commands(line: &Line, lines: Option<Line>, out: &mut Vec<Command>) {
    let mut rest = line.trimmed();
    let mut lines = lines;
    loop {
        let skip = rest
            .bytes
            .iter()
            .take_while(|b| matches!(b, b':' | b' ' | b'\t' | b'|'))
            .count();
        rest = rest.part(skip..rest.bytes.len());
        if rest.bytes.is_empty() || rest.bytes[0] == b'"' || rest.bytes[0] == b'#' {
            return;
        }
        let begin = rest.map[0];
        let letters = rest
            .bytes
            .iter()
            .take_while(|b| b.is_ascii_alphanumeric() || **b == b'_');
        let mut length = letters.count();
        // `s/x/y/` and ranges are nothing that is read here.
        if length == 0 {
            return;
        }
        let mut name = String::from_utf8_lossy(&rest.bytes[..length]).into_owned();
        if name.starts_with("py") && rest.bytes.get(length) == Some(&b'3') {
            name.push('3');
            length += 1;
        }
        let bang = rest.bytes.get(length) == Some(&b'!');
        let given = rest.part((length + usize::from(bang)).min(rest.bytes.len())..rest.bytes.len());
        if MODIFIERS.contains(&name.as_str()) {
            rest = given;
            continue;
        }
        let end = match name.as_str() {
            n if WHOLE.contains(&n) => given.bytes.len(),
            n if EXPRESSIONS.contains(&n) => end_of_expressions(&given.bytes),
            _ => end_of_words(&given.bytes),
        };
        let until = cut_comment(&name, &given.bytes[..end]);
        out.push(Command {
            bang,
            given: given.between(0..until),
            lines: lines.take(),
            at: begin,
            name,
        });
        if end >= given.bytes.len() || given.bytes[end] != b'|' {
            return;
        }
        rest = given.part(end + 1..given.bytes.len());
    }
}

fn cut_comment(name: &str, bytes: &[u8]) -> usize {
    if WHOLE.contains(&name) || EXPRESSIONS.contains(&name) {
        return bytes.len();
    }
    let begins = |i: &usize| bytes[*i] == b'"' && (*i == 0 || matches!(bytes[i - 1], b' ' | b'\t'));
    (0..bytes.len()).find(begins).unwrap_or(bytes.len())
}

/// Where a command of words ends: at a bar, or at a comment that runs to the line's end.
fn end_of_words(bytes: &[u8]) -> usize {
    let mut at = 0;
    while at < bytes.len() {
        match bytes[at] {
            b'\\' | 0x16 => at += 1,
            b'|' => return at,
            b'"' if at == 0 || matches!(bytes[at - 1], b' ' | b'\t') => return bytes.len(),
            _ => {}
        }
        at += 1;
    }
    bytes.len()
}

/// Where a command of expressions ends: at a bar that is not in a string or doubled, or at a comment
/// where an operand has ended.
fn end_of_expressions(bytes: &[u8]) -> usize {
    let mut at = 0;
    // Whether a quote begins a string here, and not a comment.
    let mut wants = true;
    while at < bytes.len() {
        match bytes[at] {
            b'\'' => {
                at += 1;
                while at < bytes.len() {
                    if bytes[at] == b'\'' {
                        if bytes.get(at + 1) != Some(&b'\'') {
                            break;
                        }
                        at += 1;
                    }
                    at += 1;
                }
                wants = false;
            }
            b'"' => {
                let mut end = at + 1;
                while end < bytes.len() && bytes[end] != b'"' {
                    end += if bytes[end] == b'\\' { 2 } else { 1 };
                }
                if end >= bytes.len() && !wants {
                    return at;
                }
                // A comment begins behind an operand; two strings beside one another are rare.
                if !wants
                    && at > 0
                    && bytes[at - 1] == b' '
                    && end + 1 < bytes.len()
                    && bytes[end + 1..].iter().filter(|b| **b == b'"').count() % 2 == 0
                    && bytes[at + 1..].starts_with(b" ")
                {
                    return at;
                }
                at = end;
                wants = false;
            }
            b'|' if bytes.get(at + 1) == Some(&b'|') => {
                at += 1;
                wants = true;
            }
            b'|' => return at,
            b' ' | b'\t' => {}
            b')' | b']' | b'}' => wants = false,
            b if b.is_ascii_alphanumeric() || b == b'_' => wants = false,
            _ => wants = true,
        }
        at += 1;
    }
    bytes.len()
}

/// The script in a source.
#[must_use]
pub fn parse(source: &[u8]) -> Vec<Node> {
    let mut all = Vec::new();
    for (line, more) in lines(source) {
        commands(&line, more, &mut all);
    }
    let mut at = 0;
    let mut out = Vec::new();
    while at < all.len() {
        out.append(&mut block(&all, &mut at, &[], 0));
        // An end without a beginning is passed over.
        at += 1;
    }
    out
}

/// What a command is by its shortest form.
#[must_use]
pub fn is(name: &str, full: &str, least: usize) -> bool {
    name.len() >= least && full.starts_with(name)
}

/// Which of the ends a command is.
fn ends(name: &str, ends: &[&'static str]) -> Option<&'static str> {
    let least = |full: &str| match full {
        "endif" | "endfor" => full.len() - (full.len() - 3).min(2),
        "endfunction" => 4,
        "endwhile" => 4,
        "endtry" => 4,
        "else" => 2,
        "elseif" => 5,
        "catch" => 3,
        "finally" => 4,
        _ => full.len(),
    };
    ends.iter().copied().find(|full| match *full {
        "else" => name == "else" || name == "el",
        "endif" => name == "endif" || name == "en" || name == "endi",
        _ => is(name, full, least(full)),
    })
}

/// How deep blocks may nest.
const DEEP: usize = 60;

fn block(all: &[Command], at: &mut usize, until: &[&'static str], deep: usize) -> Vec<Node> {
    let mut out = Vec::new();
    while let Some(command) = all.get(*at) {
        if ends(&command.name, until).is_some() || deep > DEEP {
            return out;
        }
        if until.is_empty()
            && ends(
                &command.name,
                &[
                    "endif",
                    "endfor",
                    "endwhile",
                    "endtry",
                    "endfunction",
                    "else",
                    "elseif",
                    "catch",
                    "finally",
                ],
            )
            .is_some()
        {
            return out;
        }
        *at += 1;
        let begin = command.at;
        match command.name.as_str() {
            "if" => {
                let mut branches = vec![(command.given.clone(), Vec::new())];
                let mut other = Vec::new();
                let mut in_other = false;
                loop {
                    let body = block(all, at, &["elseif", "else", "endif"], deep + 1);
                    match in_other {
                        true => other = body,
                        false => branches.last_mut().expect("one is there").1 = body,
                    }
                    let Some(end) = all.get(*at) else { break };
                    *at += 1;
                    match ends(&end.name, &["elseif", "else", "endif"]) {
                        Some("elseif") => branches.push((end.given.clone(), Vec::new())),
                        Some("else") => in_other = true,
                        _ => break,
                    }
                }
                out.push(Node::If(branches, other, begin));
            }
            "while" => {
                let body = block(all, at, &["endwhile"], deep + 1);
                *at += 1;
                out.push(Node::While(command.given.clone(), body, begin));
            }
            "for" => {
                let body = block(all, at, &["endfor"], deep + 1);
                *at += 1;
                let bytes = &command.given.bytes;
                let found = memchr::memmem::find(bytes, b" in ");
                if let Some(i) = found {
                    let names = command.given.between(0..i);
                    let values = command.given.behind(i + 4);
                    out.push(Node::For(names, values, body, begin));
                }
            }
            "try" => {
                let tried = block(all, at, &["catch", "finally", "endtry"], deep + 1);
                let (mut caught, mut last) = (Vec::new(), Vec::new());
                while let Some(end) = all.get(*at) {
                    *at += 1;
                    match ends(&end.name, &["catch", "finally", "endtry"]) {
                        Some("catch") => {
                            let body = block(all, at, &["catch", "finally", "endtry"], deep + 1);
                            caught.push((end.given.text(), body));
                        }
                        Some("finally") => {
                            last = block(all, at, &["endtry"], deep + 1);
                        }
                        _ => break,
                    }
                }
                out.push(Node::Try(tried, caught, last));
            }
            name if is(name, "function", 2) && command.given.bytes.contains(&b'(') => {
                let body = block(all, at, &["endfunction"], deep + 1);
                *at += 1;
                let text = command.given.text();
                let (name, rest) = text.split_once('(').unwrap_or((&text, ""));
                let (parameters, flags) = rest.split_once(')').unwrap_or((rest, ""));
                let parameters = parameters.split(',').map(|p| {
                    let p = p.split('=').next().unwrap_or_default();
                    p.trim().to_owned()
                });
                let function = Function {
                    name: name.trim().to_owned(),
                    parameters: parameters.filter(|p| !p.is_empty() && p != "...").collect(),
                    abort: flags.contains("abort"),
                    body,
                };
                out.push(Node::Function(Arc::new(function), begin));
            }
            _ => out.push(Node::Command(command.clone())),
        }
    }
    out
}

/// An expression.
#[derive(Debug, Clone, PartialEq)]
pub enum Expression {
    /// A number.
    Number(f64),
    /// A string: its bytes, and for each of them its place in the source.
    Text(Vec<u8>, Vec<usize>),
    /// A variable with its scope.
    Name(String),
    /// `&option`
    Option(String),
    /// `$NAME`
    Environment(String),
    /// `[…]`
    List(Vec<Expression>),
    /// `{…}`
    Dictionary(Vec<(Expression, Expression)>),
    /// `a[b]`
    Index(Box<Expression>, Box<Expression>),
    /// `a.b`: a field, or two texts joined.
    Dot(Box<Expression>, String),
    /// A call.
    Call(Box<Expression>, Vec<Expression>),
    /// `a->f()`
    Method(Box<Expression>, String, Vec<Expression>),
    /// Two operands and what stands between them.
    Binary(Box<Expression>, String, Box<Expression>),
    /// `!a`
    Not(Box<Expression>),
    /// `-a`
    Minus(Box<Expression>),
    /// `a ? b : c`
    Choice(Box<Expression>, Box<Expression>, Box<Expression>),
    /// What is not understood.
    Other,
}

struct Parser<'a> {
    line: &'a Line,
    at: usize,
    deep: usize,
}

/// The expressions that a text begins with, one behind another.
#[must_use]
pub fn expressions(line: &Line) -> Vec<Expression> {
    let mut parser = Parser {
        line,
        at: 0,
        deep: 0,
    };
    let mut out = Vec::new();
    parser.blanks();
    while parser.at < line.bytes.len() {
        let before = parser.at;
        match parser.choice() {
            Some(expression) if parser.at > before => out.push(expression),
            _ => {
                out.push(Expression::Other);
                break;
            }
        }
        parser.blanks();
    }
    out
}

/// The one expression of a text.
#[must_use]
pub fn expression(line: &Line) -> Expression {
    let mut all = expressions(line);
    match all.len() {
        1 => all.remove(0),
        _ => Expression::Other,
    }
}

impl Parser<'_> {
    fn rest(&self) -> &[u8] {
        &self.line.bytes[self.at.min(self.line.bytes.len())..]
    }

    fn blanks(&mut self) {
        self.at += self
            .rest()
            .iter()
            .take_while(|b| b.is_ascii_whitespace())
            .count();
    }

    fn take(&mut self, sign: &str) -> bool {
        let there = self.rest().starts_with(sign.as_bytes());
        if there {
            self.at += sign.len();
        }
        there
    }

    fn choice(&mut self) -> Option<Expression> {
        self.deep += 1;
        if self.deep > DEEP {
            return None;
        }
        let first = self.binary(0)?;
        self.blanks();
        let out = if self.rest().starts_with(b"?") && !self.rest().starts_with(b"??") {
            self.at += 1;
            let yes = self.choice()?;
            self.blanks();
            if !self.take(":") {
                return None;
            }
            let no = self.choice()?;
            Expression::Choice(Box::new(first), Box::new(yes), Box::new(no))
        } else {
            first
        };
        self.deep -= 1;
        Some(out)
    }

    /// The sign of a level that stands here.
    fn sign(&self, level: usize) -> Option<String> {
        let signs: &[&str] = match level {
            0 => &["||"],
            1 => &["&&"],
            2 => &[
                "==#", "==?", "==", "!=#", "!=?", "!=", ">=#", ">=?", ">=", "<=#", "<=?", "<=",
                "=~#", "=~?", "=~", "!~#", "!~?", "!~", ">#", ">?", ">", "<#", "<?", "<", "isnot#",
                "isnot", "is#", "is",
            ],
            3 => &["..", "+", "-", "."],
            _ => &["*", "/", "%"],
        };
        let rest = self.rest();
        let fits = |sign: &&&str| {
            let word = sign.starts_with('i');
            let behind = rest.get(sign.len());
            rest.starts_with(sign.as_bytes())
                && !(word && behind.is_some_and(|b| b.is_ascii_alphanumeric() || *b == b'_'))
        };
        signs.iter().find(fits).map(|s| (*s).to_owned())
    }

    fn binary(&mut self, level: usize) -> Option<Expression> {
        if level > 4 {
            return self.unary();
        }
        let mut left = self.binary(level + 1)?;
        loop {
            self.blanks();
            let Some(sign) = self.sign(level) else {
                return Some(left);
            };
            self.at += sign.len();
            let right = self.binary(level + 1)?;
            left = Expression::Binary(Box::new(left), sign, Box::new(right));
        }
    }

    fn unary(&mut self) -> Option<Expression> {
        self.blanks();
        match self.rest().first()? {
            b'!' => {
                self.at += 1;
                self.deep += 1;
                let inner = (self.deep <= DEEP).then(|| self.unary())??;
                self.deep -= 1;
                Some(Expression::Not(Box::new(inner)))
            }
            b'-' => {
                self.at += 1;
                self.deep += 1;
                let inner = (self.deep <= DEEP).then(|| self.unary())??;
                self.deep -= 1;
                Some(Expression::Minus(Box::new(inner)))
            }
            b'+' => {
                self.at += 1;
                self.unary()
            }
            _ => self.suffixed(),
        }
    }

    fn suffixed(&mut self) -> Option<Expression> {
        let mut out = self.operand()?;
        loop {
            let rest = self.rest();
            match rest {
                [b'[', ..] => {
                    self.at += 1;
                    self.blanks();
                    let index = self.choice()?;
                    self.blanks();
                    if self.take("]") {
                        out = Expression::Index(Box::new(out), Box::new(index));
                    } else {
                        // A part of a text or list.
                        let close = self.rest().iter().position(|b| *b == b']')?;
                        self.at += close + 1;
                        out = Expression::Other;
                    }
                }
                [b'(', ..] => {
                    self.at += 1;
                    let all = self.list(")")?;
                    out = Expression::Call(Box::new(out), all);
                }
                [b'-', b'>', ..] => {
                    self.at += 2;
                    let name = self.name();
                    if !self.take("(") {
                        return None;
                    }
                    let all = self.list(")")?;
                    out = Expression::Method(Box::new(out), name, all);
                }
                [b'.', b, ..]
                    if (b.is_ascii_alphabetic() || *b == b'_')
                        && matches!(
                            out,
                            Expression::Name(_)
                                | Expression::Dot(..)
                                | Expression::Index(..)
                                | Expression::Call(..)
                        ) =>
                {
                    // A name with a scope behind a dot is joined.
                    let scoped = rest.get(2) == Some(&b':');
                    if scoped {
                        return Some(out);
                    }
                    self.at += 1;
                    let name = self.name();
                    out = Expression::Dot(Box::new(out), name);
                }
                _ => return Some(out),
            }
        }
    }

    fn name(&mut self) -> String {
        let length = self
            .rest()
            .iter()
            .take_while(|b| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'#'))
            .count();
        let name = String::from_utf8_lossy(&self.rest()[..length]).into_owned();
        self.at += length;
        name
    }

    /// What is listed up to a closing sign.
    fn list(&mut self, close: &str) -> Option<Vec<Expression>> {
        let mut out = Vec::new();
        loop {
            self.blanks();
            if self.take(close) {
                return Some(out);
            }
            out.push(self.choice()?);
            self.blanks();
            let more = self.take(",");
            if !more {
                self.blanks();
                return self.take(close).then_some(out);
            }
        }
    }

    fn operand(&mut self) -> Option<Expression> {
        self.blanks();
        let start = self.at;
        match *self.rest().first()? {
            b'(' => {
                self.at += 1;
                let inner = self.choice()?;
                self.blanks();
                self.take(")").then_some(inner)
            }
            b'[' => {
                self.at += 1;
                Some(Expression::List(self.list("]")?))
            }
            b'{' => self.dictionary(false),
            b'#' if self.rest().starts_with(b"#{") => {
                self.at += 1;
                self.dictionary(true)
            }
            b'\'' => {
                let (mut bytes, mut map) = (Vec::new(), Vec::new());
                self.at += 1;
                loop {
                    match self.rest() {
                        [b'\'', b'\'', ..] => {
                            bytes.push(b'\'');
                            map.push(self.line.map[self.at]);
                            self.at += 2;
                        }
                        [b'\'', ..] => {
                            self.at += 1;
                            return Some(Expression::Text(bytes, map));
                        }
                        [byte, ..] => {
                            bytes.push(*byte);
                            map.push(self.line.map[self.at]);
                            self.at += 1;
                        }
                        [] => return None,
                    }
                }
            }
            b'"' => self.string(),
            b'&' => {
                self.at += 1;
                if self.rest().get(1) == Some(&b':') {
                    self.at += 2;
                }
                Some(Expression::Option(self.name()))
            }
            b'$' => {
                self.at += 1;
                Some(Expression::Environment(self.name()))
            }
            b if b.is_ascii_digit() => {
                let hex = self.rest().starts_with(b"0x") || self.rest().starts_with(b"0X");
                if hex {
                    self.at += 2;
                }
                let fits = |b: &&u8| match hex {
                    true => b.is_ascii_hexdigit(),
                    false => b.is_ascii_digit(),
                };
                let mut length = self.rest().iter().take_while(fits).count();
                let is_float = !hex
                    && self.rest().get(length) == Some(&b'.')
                    && self.rest().get(length + 1).is_some_and(u8::is_ascii_digit);
                if is_float {
                    length += 1;
                    length += self.rest()[length..].iter().take_while(fits).count();
                }
                let text = String::from_utf8_lossy(&self.rest()[..length]).into_owned();
                self.at += length;
                let number = match hex {
                    true => u64::from_str_radix(&text, 16).ok()? as f64,
                    false => text.parse().ok()?,
                };
                Some(Expression::Number(number))
            }
            b if b.is_ascii_alphabetic() || b == b'_' || b == b'<' => {
                if b == b'<' {
                    // `<SID>name`
                    let close = self.rest().iter().position(|b| *b == b'>')?;
                    self.at += close + 1;
                    let name = self.name();
                    return Some(Expression::Name(format!("s:{name}")));
                }
                let scoped = self.rest().get(1) == Some(&b':')
                    && b"gslbwtav".contains(&b)
                    && self.rest().get(2).is_none_or(|b| !b.is_ascii_whitespace());
                if scoped {
                    self.at += 2;
                }
                let mut name =
                    String::from_utf8_lossy(&self.line.bytes[start..self.at]).into_owned();
                name.push_str(&self.name());
                Some(Expression::Name(name))
            }
            _ => None,
        }
    }

    fn dictionary(&mut self, literal: bool) -> Option<Expression> {
        self.at += 1;
        let mut out = Vec::new();
        loop {
            self.blanks();
            if self.take("}") {
                return Some(Expression::Dictionary(out));
            }
            let key = match literal {
                true => {
                    let length = self
                        .rest()
                        .iter()
                        .take_while(|b| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'-'))
                        .count();
                    let bytes = self.rest()[..length].to_vec();
                    let map = self.line.map[self.at..self.at + length].to_vec();
                    self.at += length;
                    Expression::Text(bytes, map)
                }
                false => self.choice()?,
            };
            self.blanks();
            if !self.take(":") {
                // A function: what it does is not looked at.
                let close = self.rest().iter().rposition(|b| *b == b'}')?;
                self.at += close + 1;
                return Some(Expression::Other);
            }
            let value = self.choice()?;
            out.push((key, value));
            self.blanks();
            if !self.take(",") {
                self.blanks();
                return self.take("}").then_some(Expression::Dictionary(out));
            }
        }
    }

    fn string(&mut self) -> Option<Expression> {
        let (mut bytes, mut map) = (Vec::new(), Vec::new());
        self.at += 1;
        loop {
            let from = *self.line.map.get(self.at)?;
            let rest = self.rest();
            let (one, length): (Vec<u8>, usize) = match rest {
                [b'"', ..] => {
                    self.at += 1;
                    return Some(Expression::Text(bytes, map));
                }
                [b'\\', b'u' | b'U' | b'x', digits @ ..]
                    if digits.first().is_some_and(u8::is_ascii_hexdigit) =>
                {
                    let most = match rest[1] {
                        b'x' => 2,
                        b'u' => 4,
                        _ => 8,
                    };
                    let n = digits
                        .iter()
                        .take(most)
                        .take_while(|b| b.is_ascii_hexdigit())
                        .count();
                    let text = std::str::from_utf8(&digits[..n]).ok()?;
                    let sign = char::from_u32(u32::from_str_radix(text, 16).ok()?)?;
                    (sign.to_string().into_bytes(), n + 2)
                }
                [b'\\', byte, ..] => {
                    let byte = match byte {
                        b'n' => b'\n',
                        b't' => b'\t',
                        b'r' => b'\r',
                        b'e' => 0x1b,
                        b'b' => 8,
                        b'f' => 12,
                        other => *other,
                    };
                    (vec![byte], 2)
                }
                [byte, ..] => (vec![*byte], 1),
                [] => return None,
            };
            map.extend(std::iter::repeat_n(from, one.len()));
            bytes.extend(one);
            self.at += length;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn line(text: &str) -> Line {
        Line {
            bytes: text.as_bytes().to_vec(),
            map: (0..text.len()).collect(),
        }
    }

    #[test]
    fn lines_are_joined_and_parted() {
        let script = "hi Comment guifg=#010203\n  \\ guibg=#040506 \" mine\nlet a = 'x|y' | hi Tag guifg=#070809 | colo b\nau X * hi A guifg=#111111 | hi B guifg=#222222\nlua << END\nx = 1\nEND\n\" hi C\nif 1 | set tgc | endif";
        let nodes = parse(script.as_bytes());
        let said = |n: &Node| match n {
            Node::Command(c) => format!("{}:{}", c.name, c.given.text()),
            Node::If(branches, _, _) => {
                format!("if:{}:{}", branches[0].0.text(), branches[0].1.len())
            }
            other => format!("{other:?}"),
        };
        let all: Vec<String> = nodes.iter().map(said).collect();
        assert_eq!(
            all,
            [
                "hi:Comment guifg=#010203 guibg=#040506",
                "let:a = 'x|y'",
                "hi:Tag guifg=#070809",
                "colo:b",
                "au:X * hi A guifg=#111111 | hi B guifg=#222222",
                "lua:<< END",
                "if:1:1",
            ]
        );
        let Node::Command(first) = &nodes[0] else {
            panic!()
        };
        for (byte, at) in first.given.bytes.iter().zip(&first.given.map) {
            assert_eq!(*byte, script.as_bytes()[*at]);
        }
        let Node::Command(lua) = &nodes[5] else {
            panic!()
        };
        assert_eq!(lua.lines.as_ref().unwrap().text(), "x = 1\n");
    }

    #[test]
    fn blocks_are_found() {
        let script = "function! s:paint(a, b) abort\n  if a:a\n    hi A guifg=#111111\n  elseif a:b\n hi B guifg=#222222\nelse\nhi C guifg=#333333\n endif\nendfunction\ntry\n colo x\ncatch /E185/\n colo y\nendtry\nfor g in ['A', 'B']\n exe 'hi' g\nendfor\n";
        let nodes = parse(script.as_bytes());
        assert_eq!(nodes.len(), 3, "{nodes:?}");
        let Node::Function(f, _) = &nodes[0] else {
            panic!()
        };
        assert!(f.abort && f.parameters == ["a", "b"] && f.name == "s:paint");
        assert!(
            matches!(&f.body[0], Node::If(branches, other, _) if branches.len() == 2 && other.len() == 1)
        );
        assert!(
            matches!(&nodes[1], Node::Try(a, b, c) if a.len() == 1 && b.len() == 1 && c.is_empty())
        );
        assert!(
            matches!(&nodes[2], Node::For(names, _, body, _) if names.text() == "g" && body.len() == 1)
        );
    }

    #[test]
    fn expressions_have_their_precedence() {
        let of = |text: &str| expression(&line(text));
        assert!(matches!(
            of("&background ==# 'dark' ? 'a' : \"b\""),
            Expression::Choice(..)
        ));
        assert!(
            matches!(of("has('x') && !exists('g:y') || $Z =~ 'w'"), Expression::Binary(_, s, _) if s == "||")
        );
        assert!(matches!(of("s:p.ground"), Expression::Dot(_, name) if name == "ground"));
        assert!(matches!(
            of("get(g:, 'mood', 'calm')"),
            Expression::Call(..)
        ));
        assert!(matches!(of("'hi X guifg=' . s:c"), Expression::Binary(_, s, _) if s == "."));
        assert!(
            matches!(of("{'a': '#010203', 'b': [1, 2]}"), Expression::Dictionary(d) if d.len() == 2)
        );
        assert_eq!(expressions(&line("'hi' g:a 'x'")).len(), 3);
        assert_eq!(of("{ -> 1 }"), Expression::Other);
    }

    proptest! {
        #[test]
        fn any_text_is_parsed(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
            let _ = parse(&bytes);
            let _ = expressions(&Line { map: (0..bytes.len()).collect(), bytes });
        }

        #[test]
        fn any_script_is_parsed(text in "((if|let|hi|endif|else|for|try|function|au|lua) [a-z =#.:,0-9'\"|(){}\\[\\]]{0,20}\n){0,12}") {
            let _ = parse(text.as_bytes());
            let _ = expressions(&line(&text));
        }
    }
}
