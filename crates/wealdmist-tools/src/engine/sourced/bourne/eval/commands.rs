//! Simple commands: assignments, what the shell has by itself, files that are loaded.

use std::ops::Range;
use std::path::PathBuf;
use std::sync::Arc;

use super::{Done, FINE, Flow, Said, Shell};
use crate::document::shell::{self, Assign, Kin, Node, Part, Value, Word};
use crate::evaluated::Ground;
use crate::evaluated::state::{Alternative, Why};
use crate::evaluated::text::Text;

impl Shell<'_> {
    pub(super) fn assign(&mut self, assign: &Assign, local: bool, ground: &Ground) {
        let name = &self.called(&assign.name);
        if local && let Some(frame) = self.locals.last_mut() {
            let before = self.state.get(name).to_vec();
            frame.before.push((name.clone(), before));
        }
        match &assign.value {
            Value::Element(subscript, word) => self.element(name, subscript, word, ground),
            Value::Many(words) => {
                if !assign.adds {
                    self.state.clear_list(name);
                    self.state.set(name, None);
                } else if self.state.list(name).is_empty()
                    && let Some(Some(first)) = self.state.sure(name).map(Option::<&Text>::cloned)
                {
                    self.state.add_to_list(name, first);
                }
                for word in words {
                    if let Some(all) = self.elements(word) {
                        for text in all {
                            self.state.add_to_list(name, text);
                        }
                    } else if let [(text, None)] = self.expand(word, ground).as_slice() {
                        self.state.add_to_list(name, text.clone());
                    }
                }
                self.pairs(name);
            }
            Value::One(word) => {
                let new = self.expand(word, ground);
                // The name of an array alone is its first element.
                if let [(text, why)] = new.as_slice() {
                    self.state.set_first(name, text.clone(), why.clone());
                } else {
                    self.state.clear_list(name);
                }
                let of = |(text, why): Said| Alternative {
                    value: Some(text),
                    why,
                };
                if !assign.adds {
                    self.state.set_all(name, new.into_iter().map(of).collect());
                    return;
                }
                let mut all = Vec::new();
                for (old, why) in self.values(name) {
                    for (text, more) in &new {
                        let mut joined = old.clone().unwrap_or_default();
                        joined.push(text);
                        let why = why.clone().or_else(|| more.clone());
                        all.push(of((joined, why)));
                    }
                }
                self.state.set_all(name, all);
            }
        }
    }

    pub(super) fn simple(
        &mut self,
        assigns: &[Assign],
        words: &[Word],
        span: &Range<usize>,
        ground: &Ground,
    ) -> Done {
        let Some(first) = words.first() else {
            for assign in assigns {
                self.assign(assign, false, ground);
            }
            return FINE;
        };
        let name = match self.expand(first, ground).as_slice() {
            [(text, None)] if text.unknown.is_none() => text.lossy(),
            _ => return (Flow::Go, Err("a command that is not known".into())),
        };
        let rest = &words[1..];
        if self.kin == Kin::Zsh
            && let Some(done) = self.zsh_command(&name, assigns, rest, ground)
        {
            return done;
        }
        match name.as_str() {
            "export" | "declare" | "typeset" | "local" | "readonly" => {
                let local = matches!(name.as_str(), "local" | "declare" | "typeset");
                for assign in assigns {
                    self.assign(assign, local, ground);
                }
                FINE
            }
            "unset" => {
                for word in rest {
                    if let [(text, None)] = self.expand(word, ground).as_slice() {
                        let name = self.called(&text.lossy());
                        self.state.clear_list(&name);
                        self.state.set(&name, Some(Text::default()));
                        self.functions.remove(&name);
                    }
                }
                FINE
            }
            "." | "source" => self.load(rest.first(), span, ground),
            "return" | "exit" => (Flow::Leave, Ok(true)),
            "eval" => {
                let mut text = Text::default();
                for (i, said) in self.texts(rest, ground).into_iter().enumerate() {
                    let [(part, None)] = said.as_slice() else {
                        self.runs_unknown(rest, ground);
                        return (Flow::Go, Err("what is run is not known".into()));
                    };
                    if i > 0 {
                        text.push(&Text::nowhere(" "));
                    }
                    text.push(part);
                }
                if let Some(why) = text.unknown {
                    self.runs_unknown(rest, ground);
                    return (Flow::Go, Err(why));
                }
                self.run_text(&text, ground)
            }
            "[" => {
                let inner = rest.split_last().map_or(rest, |(_, inner)| inner);
                (Flow::Go, self.asked_of_test(inner, ground))
            }
            "test" => (Flow::Go, self.asked_of_test(rest, ground)),
            "true" | ":" | "alias" | "unalias" | "set" | "bind" | "complete" | "umask"
            | "ulimit" | "trap" | "echo" | "bash_completion" | "enable" | "history"
            | "unsetenv" | "stty" | "tabs" => FINE,
            "false" => (Flow::Go, Ok(false)),
            "shopt" => {
                let asks = |said: &Vec<Said>| said.iter().any(|s| s.0.bytes.starts_with(b"-q"));
                match self.texts(rest, ground).iter().any(asks) {
                    true => (Flow::Go, Err("an option of the shell".into())),
                    false => FINE,
                }
            }
            "printf" | "read" | "mapfile" | "readarray" | "getopts" => {
                let texts = self.texts(rest, ground);
                let plain =
                    |said: &Vec<Said>| said.first().map(|s| s.0.lossy()).unwrap_or_default();
                let names: Vec<String> = match (name.as_str(), texts.first().map(plain)) {
                    ("printf", Some(flag)) if flag == "-v" => {
                        texts.get(1).map(plain).into_iter().collect()
                    }
                    ("printf", _) => Vec::new(),
                    _ => texts
                        .iter()
                        .map(plain)
                        .filter(|t| !t.starts_with('-'))
                        .collect(),
                };
                let why = Why::from(format!("what {name} gives"));
                for name in names {
                    self.state.set(&name, Some(Text::default().not_known(&why)));
                }
                (Flow::Go, if name == "printf" { Ok(true) } else { Err(why) })
            }
            "tput" => FINE,
            "command" | "type" | "which" | "hash" => {
                let texts = self.texts(rest, ground);
                let program = match texts.last().map(Vec::as_slice) {
                    Some([(text, None)]) if text.unknown.is_none() => text.lossy(),
                    _ => return (Flow::Go, Err("a program that is not known".into())),
                };
                let asks = name != "command"
                    || texts
                        .first()
                        .is_some_and(|t| t[0].0.bytes.starts_with(b"-"));
                match (asks, program.contains('/')) {
                    (true, false) => {
                        let known = self.functions.contains_key(&program);
                        (Flow::Go, Ok(known || self.access.has_program(&program)))
                    }
                    _ => (Flow::Go, Err(format!("what {program} answers").into())),
                }
            }
            _ => match self.call(&name) {
                Some(done) => done,
                None => (Flow::Go, Err(format!("what {name} answers").into())),
            },
        }
    }

    pub(super) fn run_text(&mut self, text: &Text, ground: &Ground) -> Done {
        let (nodes, problem) = shell::parse(&text.bytes, self.kin);
        let inner = Ground::Text(ground.visit(), Arc::new(text.clone()));
        let done = self.list(&nodes, &inner);
        match problem {
            None => done,
            Some(_) => (Flow::Go, Err("commands that are not understood".into())),
        }
    }

    /// Notes that commands are run which only a program knows.
    fn runs_unknown(&mut self, words: &[Word], ground: &Ground) {
        for word in words {
            for part in &word.parts {
                let (program, whole) = match part {
                    Part::Output(nodes, whole) => match nodes.first() {
                        Some(Node::Simple { words, .. }) => {
                            (words.first().map(|w| w.span.clone()), whole)
                        }
                        _ => (None, whole),
                    },
                    Part::Other(span) => (Some(span.clone()), span),
                    _ => continue,
                };
                let written = program.map(|span| self.source(&span, ground).lossy());
                let written = written.unwrap_or_default();
                let signs = ['<', '>', '=', '(', '`', '"', '\\'];
                let words = written.trim_start_matches(signs).split_whitespace();
                let name = words.map(|w| w.trim_end_matches([')', '`', '"'])).next();
                let name = name.unwrap_or_default();
                let whole = self.source(whole, ground);
                self.unknown.note(name, &whole.bytes);
            }
        }
    }

    /// Loads a file.
    pub(super) fn load(
        &mut self,
        word: Option<&Word>,
        span: &Range<usize>,
        ground: &Ground,
    ) -> Done {
        let Some(word) = word else {
            return FINE;
        };
        let all = self.expand(word, ground);
        let [(text, None)] = all.as_slice() else {
            return (Flow::Go, Err("which file is loaded".into()));
        };
        if let Some(why) = &text.unknown {
            // The output of commands, not a file.
            if matches!(word.parts.as_slice(), [Part::Other(_)]) {
                self.runs_unknown(std::slice::from_ref(word), ground);
            }
            return (Flow::Go, Err(Arc::clone(why)));
        }
        let path: PathBuf = self.access.expand(&text.lossy(), self.access.home());
        if path == self.ours {
            let place = text.source(0..text.bytes.len());
            let here = |at: &Range<usize>| (ground.visit(), at.clone());
            let own = Some(word.span.clone()).filter(|_| matches!(ground, Ground::File(_)));
            self.loaded = place.or_else(|| own.as_ref().map(here));
            self.loaded.get_or_insert((ground.visit(), span.clone()));
            return FINE;
        }
        let here = &self.visits[ground.visit()];
        let line = here.file.position(match ground {
            Ground::File(_) => span.start,
            Ground::Text(..) => text.nearest(0).map_or(0, |n| n.1),
        });
        let mut deeper = here.chain.clone();
        deeper.push((here.file.path.clone(), line.line));
        self.file(&path, &deeper)
    }
}
