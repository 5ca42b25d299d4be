//! What words come to: lists, variables, what commands write.

use std::sync::Arc;

use super::{
    BETWEEN, DRAWN, EITHER, EITHER_END, Fish, MARK, MARKED, MOST, NONE, erased, lasting, mark,
};
use crate::access::{Variable, wildcard};
use crate::document::fish::{Part, Word};
use crate::evaluated::Ground;
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;

/// One of the lists that a word may be.
pub(super) type Said = (Vec<Text>, Option<Why>);

/// A list as a value.
pub(super) fn list(all: &[Text]) -> Text {
    if all.is_empty() {
        return mark(NONE);
    }
    joined(all, BETWEEN)
}

/// The texts with a sign between them.
pub(super) fn joined(all: &[Text], sign: u8) -> Text {
    let mut out = Text::default();
    for (i, text) in all.iter().enumerate() {
        if i > 0 {
            out.push(&mark(sign));
        }
        out.push(text);
    }
    out
}

/// The elements of a value.
pub(super) fn elements(value: &Text) -> Vec<Text> {
    if value.bytes == [NONE] {
        return Vec::new();
    }
    split(value, BETWEEN)
}

/// The parts of a text between signs, those within a choice aside.
pub(super) fn split(text: &Text, sign: u8) -> Vec<Text> {
    let (mut out, mut from, mut open) = (Vec::new(), 0, 0usize);
    for (i, b) in text.bytes.iter().enumerate() {
        match *b {
            EITHER => open += 1,
            EITHER_END => open = open.saturating_sub(1),
            b if b == sign && open == 0 => {
                out.push(text.part(from..i));
                from = i + 1;
            }
            _ => {}
        }
    }
    out.push(text.part(from..text.bytes.len()));
    out
}

/// Whether a text matches a pattern, which goes across slashes.
pub(super) fn matches(pattern: &str, text: &str) -> bool {
    let plain = |text: &str| text.replace('/', "\u{1}");
    wildcard(&plain(pattern), &plain(text))
}

/// What tells something in a prompt, by the letter of its job.
pub(super) fn tells(job: char) -> Text {
    let mut out = mark(MARK);
    out.push(&Text::nowhere(&format!("J{job}")));
    out.push(&mark(MARKED));
    out.not_known(&DRAWN.into())
}

impl Fish<'_> {
    /// The values a variable has.
    pub(super) fn values(&self, name: &str) -> Vec<(Option<Text>, Option<Why>)> {
        if self.draws {
            let job = match name {
                "USER" => 'u',
                "hostname" => 'h',
                "PWD" => 'f',
                "CMD_DURATION" => 'd',
                "pipestatus" | "last_status" => 'x',
                "fish_bind_mode" => 'm',
                _ => ' ',
            };
            if job != ' ' && self.state.sure(name).is_some_and(|v| v.is_none()) {
                return vec![(Some(tells(job)), None)];
            }
        }
        if name == "status" {
            return vec![(Some(tells('x')), None)];
        }
        let mut out = Vec::new();
        for one in self.state.get(name) {
            if one.value.is_some() {
                out.push((one.value.clone(), one.why.clone()));
                continue;
            }
            for kept in self.state.get(&lasting(name)) {
                let why = one.why.clone().or_else(|| kept.why.clone());
                if kept.value.is_some() {
                    out.push((kept.value.clone(), why));
                    continue;
                }
                let gone = self
                    .state
                    .get(&erased(name))
                    .iter()
                    .any(|e| e.value.is_some());
                let value = match self.access.variable(name) {
                    _ if gone => None,
                    Variable::Set(value) => Some(Text::nowhere(&value)),
                    Variable::Unset => None,
                    Variable::Unknown => {
                        let why = Why::from(format!("the variable {name}"));
                        Some(Text::default().not_known(&why))
                    }
                };
                out.push((value, why));
            }
        }
        out.truncate(MOST);
        out
    }

    /// What a word may come to.
    pub(super) fn expand(&mut self, word: &Word, ground: &Ground) -> Vec<Said> {
        let mut out: Vec<Said> = vec![(vec![Text::default()], None)];
        for part in &word.parts {
            let all: Vec<Said> = match part {
                Part::Plain(bytes, map, _) => {
                    let text = ground.written(bytes, |i| map.get(i).copied());
                    vec![(vec![text], None)]
                }
                Part::Variable(name, index, span, quoted) => {
                    let of = |(value, why): (Option<Text>, Option<Why>)| {
                        let all = match &value {
                            // Nothing is known of it but that it may be there.
                            Some(value) if value.bytes.is_empty() => match &value.unknown {
                                Some(why) => {
                                    vec![ground.source(span.clone(), &self.visits).not_known(why)]
                                }
                                None => vec![value.clone()],
                            },
                            Some(value) => elements(value),
                            None => Vec::new(),
                        };
                        let all = indexed(all, index);
                        match quoted {
                            true => (vec![joined(&all, b' ')], why),
                            false => (all, why),
                        }
                    };
                    self.values(name).into_iter().map(of).collect()
                }
                Part::Output(nodes, _, quoted) => {
                    let mut text = self.listen(|shell| {
                        let _ = shell.list(nodes, ground);
                    });
                    if text.bytes.last() == Some(&b'\n') {
                        text = text.part(0..text.bytes.len() - 1);
                    }
                    let all = match text.bytes.is_empty() && text.unknown.is_none() {
                        true => Vec::new(),
                        false => split(&text, b'\n'),
                    };
                    match quoted {
                        true => vec![(vec![joined(&all, b'\n')], None)],
                        false => vec![(all, None)],
                    }
                }
                Part::Braces(words) => {
                    let mut all = Vec::new();
                    for word in words {
                        if let Some((texts, _)) = self.expand(word, ground).into_iter().next() {
                            all.extend(texts);
                        }
                    }
                    vec![(all, None)]
                }
                Part::Other(span) => {
                    let why = Why::from("what is not followed");
                    let text = ground.source(span.clone(), &self.visits);
                    vec![(vec![text.not_known(&why)], None)]
                }
            };
            let mut next = Vec::new();
            for (so_far, why) in &out {
                for (texts, more) in &all {
                    let mut product = Vec::new();
                    for text in texts {
                        for head in so_far {
                            let mut joined = head.clone();
                            joined.push(text);
                            product.push(joined);
                        }
                    }
                    product.truncate(256);
                    next.push((product, why.clone().or_else(|| more.clone())));
                }
            }
            next.truncate(MOST);
            out = next;
        }
        out
    }

    /// What several words come to: each of the lists they may be.
    pub(super) fn texts(&mut self, words: &[Word], ground: &Ground) -> Vec<Said> {
        let mut out: Vec<Said> = vec![(Vec::new(), None)];
        for word in words {
            let all = self.expand(word, ground);
            let mut next = Vec::new();
            for (so_far, why) in &out {
                for (texts, more) in &all {
                    let mut joined = so_far.clone();
                    joined.extend(texts.iter().cloned());
                    next.push((joined, why.clone().or_else(|| more.clone())));
                }
            }
            next.truncate(MOST);
            out = next;
        }
        out
    }

    /// What is written while something is done.
    pub(super) fn listen(&mut self, doing: impl FnOnce(&mut Self)) -> Text {
        if self.written.len() > 64 {
            return Text::default().not_known(&"commands that are nested too deeply".into());
        }
        self.written.push(Text::default());
        let parked = self.parked.len();
        doing(self);
        self.parked.truncate(parked);
        self.written.pop().unwrap_or_default()
    }

    /// Notes on what of the files it depends what is drawn.
    pub(super) fn note(&mut self, why: Option<&Why>) {
        if self.draws
            && let Some(why) = why.filter(|why| why.as_ref() != DRAWN)
        {
            self.depends.get_or_insert_with(|| Arc::clone(why));
        }
    }
}

/// What is asked of a list: one element, or those from one to another.
fn indexed(all: Vec<Text>, index: &str) -> Vec<Text> {
    let Some(inner) = index.strip_prefix('[').and_then(|i| i.strip_suffix(']')) else {
        return all;
    };
    let at = |text: &str| -> Option<usize> {
        let n = text.trim().parse::<i64>().ok()?;
        let length = i64::try_from(all.len()).ok()?;
        let n = if n < 0 { length + n } else { n - 1 };
        usize::try_from(n).ok()
    };
    let range = match inner.split_once("..") {
        Some((from, to)) => at(from).zip(at(to)),
        None => at(inner).map(|n| (n, n)),
    };
    match range {
        Some((from, to)) if from <= to => {
            let picked = all.iter().skip(from).take(to - from + 1);
            picked.cloned().collect()
        }
        Some(_) => Vec::new(),
        None => all,
    }
}
