//! The editor's own command language, taken apart into commands and expressions with the places of
//! what is written. Nothing is run.

mod expression;
mod line;

use std::sync::Arc;

pub use expression::{Expression, expression, expressions};
pub use line::Line;
use line::Stretch;

/// A command: its name as written, whether a `!` follows, and what it is given.
#[derive(Debug, Clone, PartialEq)]
pub struct Command {
    /// Its name.
    pub name: String,
    /// Whether a `!` follows.
    pub bang: bool,
    /// Whether its errors are not told.
    pub silent: bool,
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
    let all = Line {
        bytes: source.to_vec().into(),
        map: (0..source.len()).collect(),
    };
    let whole = |(start, end): (usize, usize)| {
        let end = end - usize::from(source[start..end].ends_with(b"\r"));
        all.part(start..end)
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
        let mut pieces = vec![whole(raw[at])];
        at += 1;
        while let Some(next) = raw.get(at) {
            let begin = first(*next);
            match &source[begin..next.1.max(begin)] {
                [b'\\', ..] => {
                    pieces.push(whole((begin + 1, next.1.max(begin + 1))));
                }
                // A comment between lines that continue one another.
                [b'"', b'\\', b' ', ..] => {}
                _ => break,
            }
            at += 1;
        }
        let line = Line::joined(&pieces).trimmed();
        let Some(end) = end_of_lines(&line.bytes) else {
            out.push((line, None));
            continue;
        };
        let (mut bytes, mut map) = (Vec::new(), Vec::new());
        while let Some(next) = raw.get(at) {
            at += 1;
            let text = whole(*next);
            if text.bytes.trim_ascii() == end.as_bytes() {
                break;
            }
            bytes.extend_from_slice(&text.bytes);
            map.extend_from_slice(&text.map);
            bytes.push(b'\n');
            map.push(next.1);
        }
        let (bytes, map) = (Stretch::from(bytes), Stretch::from(map));
        let inner = Line { bytes, map };
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
    let mut silent = false;
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
            silent |= bang && name.starts_with("sil");
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
            silent,
            given: given.between(0..until),
            lines: lines.take(),
            at: begin,
            name,
        });
        if end >= given.bytes.len() || given.bytes[end] != b'|' {
            return;
        }
        silent = false;
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn line(text: &str) -> Line {
        Line {
            bytes: text.as_bytes().to_vec().into(),
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
        for (byte, at) in first.given.bytes.iter().zip(first.given.map.iter()) {
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

    proptest! {
        #[test]
        fn any_text_is_parsed(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
            let _ = parse(&bytes);
            let _ = expressions(&Line { map: (0..bytes.len()).collect(), bytes: bytes.into() });
        }

        #[test]
        fn any_script_is_parsed(text in "((if|let|hi|endif|else|for|try|function|au|lua) [a-z =#.:,0-9'\"|(){}\\[\\]]{0,20}\n){0,12}") {
            let _ = parse(text.as_bytes());
            let _ = expressions(&line(&text));
        }
    }
}
