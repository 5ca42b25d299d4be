//! What words come to: variables, what commands write, patterns.

use std::ops::Range;
use std::sync::Arc;

use super::{MOST, Said, Shell};
use crate::access::{Variable, wildcard};
use crate::document::shell::{self, Assign, Kin, Node, Part, Value, Word};
use crate::evaluated::Ground;
use crate::evaluated::state::{Alternative, Why};
use crate::evaluated::text::Text;
use crate::limits;

impl Shell<'_> {
    /// What stands somewhere, as it is written.
    pub(super) fn source(&self, span: &Range<usize>, ground: &Ground) -> Text {
        ground.source(span.clone(), &self.visits)
    }

    /// What a word may come to.
    pub(super) fn expand(&mut self, word: &Word, ground: &Ground) -> Vec<Said> {
        let mut out: Vec<Said> = vec![(Text::default(), None)];
        for part in &word.parts {
            let all: Vec<Said> = match part {
                Part::Plain(bytes, map, _) => {
                    vec![(ground.written(bytes, |i| map.get(i).copied()), None)]
                }
                Part::Variable(name, operation, span, _) => {
                    self.variable(name, operation, span, ground)
                }
                Part::Output(nodes, span) => vec![(self.output(nodes, span, ground), None)],
                Part::Other(span) => {
                    let why = Why::from("what a command or arithmetic gives");
                    vec![(self.source(span, ground).not_known(&why), None)]
                }
            };
            let mut next = Vec::new();
            for (so_far, why) in &out {
                for (text, more) in &all {
                    let mut joined = so_far.clone();
                    joined.push(text);
                    next.push((joined, why.clone().or_else(|| more.clone())));
                }
            }
            next.truncate(MOST);
            out = next;
        }
        out
    }

    /// The values a variable has.
    pub(super) fn values(&self, name: &str) -> Vec<(Option<Text>, Option<Why>)> {
        let name = &self.called(name);
        match name.as_str() {
            "-" => return vec![(Some(Text::nowhere("himBHs")), None)],
            "HOSTNAME" | "HOST" => {
                if let Some(host) = self.access.host() {
                    return vec![(Some(Text::nowhere(&host)), None)];
                }
            }
            _ => {}
        }
        let special = name.len() == 1 && !name.as_bytes()[0].is_ascii_alphabetic() && name != "_";
        let of = |one: &Alternative| match &one.value {
            Some(value) => (Some(value.clone()), one.why.clone()),
            None => {
                let outside = match special {
                    true => Variable::Unknown,
                    false => self.access.variable(name),
                };
                let value = match outside {
                    Variable::Set(value) => Some(Text::nowhere(&value)),
                    Variable::Unset => None,
                    Variable::Unknown => {
                        let why = Why::from(format!("the variable {name}"));
                        Some(Text::default().not_known(&why))
                    }
                };
                (value, one.why.clone())
            }
        };
        self.state.get(name).iter().map(of).collect()
    }

    pub(super) fn variable(
        &mut self,
        name: &str,
        operation: &str,
        span: &Range<usize>,
        ground: &Ground,
    ) -> Vec<Said> {
        let unknown = |this: &Self, why: &Why| this.source(span, ground).not_known(why);
        if self.kin == Kin::Zsh
            && let Some(all) = self.zsh_variable(name, operation, span, ground)
        {
            return all;
        }
        let mut out = Vec::new();
        for (value, why) in self.values(name) {
            let open = value.as_ref().and_then(|v| v.unknown.clone());
            let is_empty = value.as_ref().is_none_or(|v| v.bytes.is_empty());
            let (colon, rest) = match operation.strip_prefix(':') {
                Some(rest) => (true, rest),
                None => (false, operation),
            };
            let absent = value.is_none() || (colon && is_empty);
            let mut signs = rest.chars();
            let text = match (operation, signs.next()) {
                ("" | "[@]" | "[*]" | "[0]", _) => match (&value, open) {
                    (Some(value), Some(why)) if value.bytes.is_empty() => unknown(self, &why),
                    (Some(value), _) => value.clone(),
                    (None, _) => Text::default(),
                },
                (_, Some('-' | '=' | '+')) if open.is_some() => {
                    unknown(self, &open.unwrap_or_else(|| name.into()))
                }
                (_, Some(sign @ ('-' | '=' | '+'))) => {
                    let alternative = signs.as_str();
                    match (sign, absent) {
                        ('+', true) => Text::default(),
                        ('-' | '=', false) => value.clone().unwrap_or_default(),
                        _ => {
                            let text = self.alternative(alternative, ground);
                            if sign == '=' {
                                self.state.set(name, Some(text.clone()));
                            }
                            text
                        }
                    }
                }
                _ => unknown(self, &Why::from(format!("a part of {name}"))),
            };
            out.push((text, why));
        }
        out
    }

    /// The word of `${x:-word}`.
    pub(super) fn alternative(&mut self, written: &str, ground: &Ground) -> Text {
        let source = format!("_={written}");
        let why = Why::from("a word that is not understood");
        let fallback = Text::nowhere(written).not_known(&why);
        let (nodes, None) = shell::parse(source.as_bytes(), self.kin) else {
            return fallback;
        };
        let [Node::Simple { assigns, words, .. }] = nodes.as_slice() else {
            return fallback;
        };
        match (assigns.as_slice(), words.is_empty()) {
            (
                [
                    Assign {
                        value: Value::One(word),
                        ..
                    },
                ],
                true,
            ) => {
                let inner = Ground::Text(ground.visit(), Arc::new(Text::nowhere(&source)));
                let mut all = self.expand(word, &inner);
                match all.len() {
                    1 => all.remove(0).0,
                    _ => fallback,
                }
            }
            _ => fallback,
        }
    }

    /// What commands write, where that is plain.
    pub(super) fn output(&mut self, nodes: &[Node], span: &Range<usize>, ground: &Ground) -> Text {
        let why = Why::from("what a command writes");
        let unknown = |this: &Self| this.source(span, ground).not_known(&why);
        let [Node::Simple { words, assigns, .. }] = nodes else {
            return self.listened(nodes, span, ground);
        };
        if !assigns.is_empty() {
            return self.listened(nodes, span, ground);
        }
        let mut texts = Vec::new();
        for word in words {
            match self.expand(word, ground).as_slice() {
                [(text, None)] if text.unknown.is_none() => texts.push(text.clone()),
                _ => return self.listened(nodes, span, ground),
            }
        }
        let said: Vec<String> = texts.iter().map(Text::lossy).collect();
        let said: Vec<&str> = said.iter().map(String::as_str).collect();
        match said.as_slice() {
            ["tput", "setaf" | "setab", n] => {
                let (base, bright, long) = match said[1] {
                    "setaf" => (30, 90, 38),
                    _ => (40, 100, 48),
                };
                match n.parse::<u8>() {
                    Ok(n @ 0..=7) => Text::nowhere(&format!("\u{1b}[{}m", base + n)),
                    Ok(n @ 8..=15) => Text::nowhere(&format!("\u{1b}[{}m", bright + n - 8)),
                    Ok(n) => Text::nowhere(&format!("\u{1b}[{long};5;{n}m")),
                    Err(_) => unknown(self),
                }
            }
            ["tput", "bold"] => Text::nowhere("\u{1b}[1m"),
            ["tput", "sgr0"] => Text::nowhere("\u{1b}(B\u{1b}[m"),
            ["printf", format] if !format.contains('%') => unescaped(&texts[1]),
            ["echo", "-ne" | "-en" | "-e", _] => unescaped(&texts[2]),
            ["echo", "-n", _] => texts[2].clone(),
            ["echo", text] if !text.starts_with('-') => texts[1].clone(),
            _ => self.listened(nodes, span, ground),
        }
    }

    /// What commands write as far as they write it by themselves, where that is listened to.
    fn listened(&mut self, nodes: &[Node], span: &Range<usize>, ground: &Ground) -> Text {
        let why = Why::from("what a command writes");
        if self.kin == Kin::Bash || self.written.len() >= limits::INCLUDES {
            return self.source(span, ground).not_known(&why);
        }
        let before = (self.state.clone(), self.functions.clone());
        let parked = self.parked.len();
        self.written.push(Text::default());
        let _ = self.list(nodes, ground);
        self.parked.truncate(parked);
        (self.state, self.functions) = before;
        let written = self.written.pop().unwrap_or_default();
        match written.bytes.is_empty() {
            true => self.source(span, ground).not_known(&why),
            false => written.not_known(&why),
        }
    }

    /// The pattern a word is, where that is known; what is quoted stands for itself.
    pub(super) fn pattern(&self, word: &Word) -> Option<String> {
        let mut out = String::new();
        for part in &word.parts {
            match part {
                Part::Plain(bytes, _, quoted) => {
                    for c in String::from_utf8_lossy(bytes).chars() {
                        if *quoted && matches!(c, '*' | '?' | '[' | '\\') {
                            out.push('\\');
                        }
                        out.push(c);
                    }
                }
                Part::Variable(name, operation, ..) if operation.is_empty() => {
                    match self.values(name).as_slice() {
                        [(Some(value), None)] if value.unknown.is_none() => {
                            out.push_str(&value.lossy());
                        }
                        _ => return None,
                    }
                }
                _ => return None,
            }
        }
        Some(out)
    }

    /// What words come to where each is one text; else what that depends on.
    pub(super) fn texts(&mut self, words: &[Word], ground: &Ground) -> Vec<Vec<Said>> {
        words.iter().map(|word| self.expand(word, ground)).collect()
    }
}

/// Whether a text matches a pattern, which unlike one of files goes across slashes.
pub(super) fn matches(pattern: &str, text: &str) -> bool {
    let plain = |text: &str| text.replace('/', "\u{1}");
    wildcard(&plain(pattern), &plain(text))
}

/// A text with its escapes worked out, as `printf` does; without line ends behind it.
pub(super) fn unescaped(text: &Text) -> Text {
    let mut out = text.unescaped(b"E");
    while out.bytes.last() == Some(&b'\n') {
        out = out.part(0..out.bytes.len() - 1);
    }
    out
}
