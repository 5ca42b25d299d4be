//! What zsh has of its own: its files and their order, options, styles, hooks, subscripts.

use std::ops::Range;
use std::path::PathBuf;
use std::sync::Arc;

use wealdmist_core::color::Rounding;

use super::{Branch, Done, FINE, Flow, Frame, Said, Shell, Status};
use crate::access::Loaded;
use crate::document::shell::{self, Assign, Kin, Word};
use crate::evaluated::Ground;
use crate::evaluated::state::{Alternative, Why};
use crate::evaluated::text::Text;

/// Begins the names of what is no variable.
const HIDDEN: char = '\0';

/// What stands for the sign before the letters of a text about a repository, which mean something else there than
/// in a prompt.
pub const OF_REPOSITORY: u8 = 1;

fn option_key(name: &str) -> (String, bool) {
    let plain: String = name
        .chars()
        .filter(|c| *c != '_')
        .collect::<String>()
        .to_lowercase();
    match plain.strip_prefix("no") {
        Some(rest) if !rest.is_empty() && !plain.starts_with("notify") => {
            (format!("{HIDDEN}option {rest}"), false)
        }
        _ => (format!("{HIDDEN}option {plain}"), true),
    }
}

impl Shell<'_> {
    /// The name of a variable that has several.
    pub(super) fn called(&self, name: &str) -> String {
        match (self.kin, name) {
            (Kin::Zsh, "PS1" | "prompt") => "PROMPT",
            (Kin::Zsh, "RPS1") => "RPROMPT",
            (Kin::Zsh, "PS2") => "PROMPT2",
            (Kin::Zsh, "PS3") => "PROMPT3",
            (Kin::Zsh, "PS4") => "PROMPT4",
            _ => name,
        }
        .to_owned()
    }

    /// Sets one element of an array that has names.
    pub(super) fn element(&mut self, name: &str, subscript: &str, word: &Word, ground: &Ground) {
        if self.kin == Kin::Bash {
            return;
        }
        let Some(key) = self.subscript(subscript, ground) else {
            return;
        };
        let of = |(text, why): Said| Alternative {
            value: Some(text),
            why,
        };
        let all = self.expand(word, ground).into_iter().map(of).collect();
        self.state.set_all(&format!("{name}[{key}]"), all);
    }

    fn subscript(&mut self, written: &str, ground: &Ground) -> Option<String> {
        let plain = written.trim_matches(['\'', '"']);
        if !plain.contains(['$', '`']) {
            return Some(plain.to_owned());
        }
        let word = shell::parse_text(plain.as_bytes(), self.kin)?;
        let inner = Ground::Text(ground.visit(), Arc::new(Text::nowhere(plain)));
        match self.expand(&word, &inner).as_slice() {
            [(text, None)] if text.unknown.is_none() => Some(text.lossy()),
            _ => None,
        }
    }

    /// Makes elements with names of the list that was assigned to an array that has them.
    pub(super) fn pairs(&mut self, name: &str) {
        let is_named = self.state.sure(&format!("{HIDDEN}named {name}"));
        if self.kin == Kin::Bash || !matches!(is_named, Some(Some(_))) {
            return;
        }
        let list: Vec<Text> = self
            .state
            .list(name)
            .iter()
            .filter_map(|one| one.value.clone())
            .collect();
        self.state.clear_list(name);
        let mut all = list.into_iter();
        while let Some(key) = all.next() {
            let written = key.lossy();
            let own = written.strip_prefix('[').and_then(|k| k.split_once("]="));
            let (key, value) = match own {
                Some((name, _)) => {
                    let from = name.len() + 3;
                    (name.to_owned(), Some(key.part(from..key.bytes.len())))
                }
                None => (written, all.next()),
            };
            self.state.set(&format!("{name}[{key}]"), value);
        }
    }

    /// What `(( … ))` answers, where it compares or asks what is there.
    pub(super) fn arithmetic(&mut self, written: &[u8]) -> Status {
        let text = String::from_utf8_lossy(written).into_owned();
        let inner = text
            .strip_prefix("((")
            .and_then(|t| t.strip_suffix("))"))
            .unwrap_or(&text);
        self.number(inner).map(|n| n != 0)
    }

    fn number(&mut self, text: &str) -> Result<i64, Why> {
        let text = text.trim();
        let unknown = || Why::from("arithmetic");
        if text.contains(['(', ')', '?', ',', '*', '%', '/', '-', '{']) && !text.starts_with("${+")
        {
            return Err(unknown());
        }
        for (sign, any) in [("||", true), ("&&", false)] {
            if let Some((left, right)) = text.split_once(sign) {
                return match (self.number(left), self.number(right)) {
                    (Ok(n), _) | (_, Ok(n)) if (n != 0) == any => Ok(i64::from(any)),
                    (Ok(_), Ok(_)) => Ok(i64::from(!any)),
                    (Err(why), _) | (_, Err(why)) => Err(why),
                };
            }
        }
        for (sign, holds) in [
            ("==", (|a, b| a == b) as fn(i64, i64) -> bool),
            ("!=", |a, b| a != b),
            ("<=", |a, b| a <= b),
            (">=", |a, b| a >= b),
            ("<", |a, b| a < b),
            (">", |a, b| a > b),
        ] {
            if let Some((left, right)) = text.split_once(sign) {
                let (left, right) = (self.number(left)?, self.number(right)?);
                return Ok(i64::from(holds(left, right)));
            }
        }
        if let Some(rest) = text.strip_prefix('!') {
            return self.number(rest).map(|n| i64::from(n == 0));
        }
        if let Ok(number) = text.parse() {
            return Ok(number);
        }
        let whole = text.strip_prefix("${").and_then(|t| t.strip_suffix('}'));
        let name = whole.or_else(|| text.strip_prefix('$')).unwrap_or(text);
        if let Some(asked) = name.strip_prefix('+') {
            let (name, subscript) = match asked.split_once('[') {
                Some((name, rest)) => (name, format!("[{rest}")),
                None => (asked, String::new()),
            };
            return match self.kin {
                Kin::Zsh => self.is_there(name, &subscript).map(i64::from),
                Kin::Bash => Err(unknown()),
            };
        }
        let is_name = |c: char| c.is_ascii_alphanumeric() || c == '_';
        if name.is_empty() || !name.chars().all(is_name) {
            return Err(unknown());
        }
        match self.values(name).as_slice() {
            [(Some(value), None)] => match &value.unknown {
                Some(why) => Err(Arc::clone(why)),
                None => value.lossy().trim().parse().map_err(|_| unknown()),
            },
            [(None, None)] => Ok(0),
            _ => Err(unknown()),
        }
    }

    /// Whether something is set: a variable, or what a table of the shell's has.
    fn is_there(&self, name: &str, subscript: &str) -> Status {
        let inner = subscript.trim_start_matches('[').trim_end_matches(']');
        let inner = inner.trim_matches(['\'', '"']);
        let open = || Why::from(format!("whether {name}{subscript} is set"));
        match (name, inner.is_empty()) {
            ("commands", false) => Ok(self.access.has_program(inner)),
            ("functions", false) => match self.functions.get(inner) {
                Some(all) if all.iter().all(|(_, body)| body.is_some()) => Ok(true),
                // What is to be loaded counts.
                None => Ok(self.is_loading(inner)),
                Some(_) => Err(open()),
            },
            (_, true) => {
                let mut answer = None;
                for (value, _) in self.values(name) {
                    let set = match value {
                        Some(text) if text.unknown.is_some() && text.bytes.is_empty() => {
                            return Err(open());
                        }
                        value => value.is_some(),
                    };
                    if answer.is_some_and(|before| before != set) {
                        return Err(open());
                    }
                    answer = Some(set);
                }
                answer.ok_or_else(open)
            }
            _ => match self.state.get(&format!("{name}[{inner}]")) {
                [
                    Alternative {
                        value: Some(_),
                        why: None,
                    },
                ] => Ok(true),
                _ => Err(open()),
            },
        }
    }

    /// Whether an option of the shell is on.
    pub(super) fn option(&self, name: &str) -> Status {
        let (key, on) = option_key(name);
        match &key[HIDDEN.len_utf8()..] {
            "option interactive" => return Ok(on),
            "option login" => return Err("whether it is a login shell".into()),
            _ => {}
        }
        match self.state.sure(&key) {
            Some(Some(value)) => Ok((value.bytes == b"on") == on),
            _ => Err("an option of the shell".into()),
        }
    }

    /// The values of a variable where zsh has its own way with them.
    pub(super) fn zsh_variable(
        &mut self,
        name: &str,
        operation: &str,
        span: &Range<usize>,
        ground: &Ground,
    ) -> Option<Vec<Said>> {
        if let Some(name) = name.strip_prefix('+') {
            let said = match self.is_there(name, operation) {
                Ok(yes) => Text::nowhere(if yes { "1" } else { "0" }),
                Err(why) => self.source(span, ground).not_known(&why),
            };
            return Some(vec![(said, None)]);
        }
        let inner = operation
            .strip_prefix('[')
            .and_then(|o| o.strip_suffix(']'));
        if let Some(inner) = inner.filter(|i| !matches!(*i, "@" | "*")) {
            let key = self.subscript(inner, ground)?;
            if let (Ok(at), list) = (key.parse::<usize>(), self.state.list(name)) {
                if list.is_empty() {
                    return None;
                }
                let one = at.checked_sub(1).and_then(|i| list.get(i))?;
                return Some(vec![(
                    one.value.clone().unwrap_or_default(),
                    one.why.clone(),
                )]);
            }
            let key = format!("{name}[{key}]");
            let all = self.state.get(&key);
            if let [Alternative { value: None, .. }] = all {
                // A name that a table of colors does not have is nothing.
                let table = matches!(name, "fg" | "bg" | "fg_bold" | "fg_no_bold" | "bg_bold");
                return table.then(|| vec![(Text::default(), None)]);
            }
            let of = |one: &Alternative| (one.value.clone().unwrap_or_default(), one.why.clone());
            return Some(all.iter().map(of).collect());
        }
        if name == "0" && self.locals.is_empty() {
            // In a file that is loaded its own name; in those read at the start the shell's, as of the home.
            let visit = &self.visits[ground.visit()];
            let path = match visit.chain.is_empty() {
                true => self.access.home().join("zsh"),
                false => visit.file.path.to_path_buf(),
            };
            let text = modified(path, operation)?;
            return Some(vec![(Text::nowhere(&text), None)]);
        }
        if operation.starts_with(':')
            && operation
                .split(':')
                .skip(1)
                .all(|m| matches!(m, "h" | "t" | "a" | "A" | "r"))
        {
            let values = self.values(name);
            let [(Some(value), None)] = values.as_slice() else {
                return None;
            };
            if value.unknown.is_some() {
                return None;
            }
            let text = modified(PathBuf::from(value.lossy()), operation)?;
            return Some(vec![(Text::nowhere(&text), None)]);
        }
        None
    }

    /// The folder of its files.
    pub(super) fn zsh_dir(&self) -> PathBuf {
        match self.values("ZDOTDIR").as_slice() {
            [(Some(value), None)]
                if value.unknown.is_none() && matches!(value.bytes.first(), Some(b'/' | b'~')) =>
            {
                self.access.expand(&value.lossy(), self.access.home())
            }
            _ => self.access.home().to_owned(),
        }
    }

    /// Reads its files in their order. Two of them only a login shell reads.
    pub(super) fn zsh_files(&mut self) {
        for (name, login) in [
            (".zshenv", false),
            (".zprofile", true),
            (".zshrc", false),
            (".zlogin", true),
        ] {
            let path = self.zsh_dir().join(name);
            if !login {
                let _ = self.file(&path, &[]);
            } else if self.access.read(&path) != Loaded::Missing {
                let why = Why::from("whether it is a login shell");
                let ground = Ground::File(0);
                let _ = self.either(&why, Branch::File(&path), Branch::Nothing, &ground);
            }
        }
    }

    /// What is done before each prompt, and what its variables come to then.
    pub(super) fn zsh_prompt(&mut self) {
        let _ = self.call("precmd");
        for one in self.state.list("precmd_functions").to_vec() {
            let Some(name) = one.value.filter(|t| t.unknown.is_none()) else {
                continue;
            };
            let before = (self.state.clone(), self.functions.clone());
            let _ = self.zsh_call(&name.lossy());
            if let Some(why) = one.why {
                let after = std::mem::take(&mut self.state);
                let otherwise = Why::from(format!("{why}, otherwise"));
                let all = [(why, after), (otherwise, before.0)];
                self.state = crate::evaluated::state::State::either(&all);
            }
        }
        let expands = self.option("promptsubst");
        // It is off unless something says otherwise.
        let unsaid = self.state.get(&option_key("promptsubst").0);
        if expands == Ok(false) || unsaid.iter().all(|one| one.value.is_none()) {
            return;
        }
        let doubt = expands
            .is_err()
            .then(|| Why::from("whether prompts are expanded"));
        for name in ["PROMPT", "RPROMPT", "PROMPT2"] {
            let mut all = Vec::new();
            for one in self.state.get(name).to_vec() {
                let expanded = one.value.as_ref().and_then(|text| {
                    let word = shell::parse_text(&text.bytes, self.kin)?;
                    let visit = text.nearest(0)?.0;
                    let ground = Ground::Text(visit, Arc::new(text.clone()));
                    Some(self.expand(&word, &ground))
                });
                let expanded = expanded.unwrap_or_default();
                let same =
                    |said: &Said| Some(&said.0.bytes) == one.value.as_ref().map(|v| &v.bytes);
                if expanded.is_empty() || expanded.iter().all(same) {
                    all.push(one);
                    continue;
                }
                if doubt.is_some() {
                    all.push(one.under(doubt.as_ref()));
                }
                all.extend(expanded.into_iter().map(|(text, why)| Alternative {
                    value: Some(text),
                    why: one.why.clone().or(why).or_else(|| doubt.clone()),
                }));
            }
            self.state.set_all(name, all);
        }
    }

    /// Everything that is set and is no prompt, for those who look for colors in it.
    pub(super) fn zsh_others(&self) -> Vec<(String, Alternative)> {
        let is_open = |name: &&String| !name.starts_with(HIDDEN);
        let values = self.state.all().filter(|(name, _)| {
            is_open(name)
                && !matches!(name.as_str(), "PROMPT" | "RPROMPT" | "TERM")
                && self.state.list(name).is_empty()
        });
        let lists = self.state.lists().filter(|(name, _)| is_open(name));
        let of = |(name, all): (&String, &Vec<Alternative>)| {
            let one = |one: &Alternative| (name.clone(), one.clone());
            all.iter().map(one).collect::<Vec<_>>()
        };
        values.chain(lists).flat_map(of).collect()
    }

    /// Calls a function, which may have to be loaded first.
    fn zsh_call(&mut self, name: &str) -> Option<Done> {
        if !self.functions.contains_key(name) && self.is_loading(name) {
            if name == "vcs_info" {
                self.repository();
                return Some(FINE);
            }
            let folders = self.state.list("fpath").to_vec();
            let known = folders.iter().filter_map(|f| f.value.as_ref());
            let paths = known.filter(|f| f.unknown.is_none()).map(|f| {
                let folder = self.access.expand(&f.lossy(), self.access.home());
                folder.join(name)
            });
            let found = paths
                .filter(|path| path.is_absolute())
                .find(|path| matches!(self.access.read(path), Loaded::File { .. }))?;
            self.locals.push(Frame::default());
            let done = self.file(&found, &[]);
            self.leave_function();
            // A file that only says what the function is: it is called then.
            return self.call(name).or(Some(done));
        }
        self.call(name)
    }

    fn is_loading(&self, name: &str) -> bool {
        let key = format!("{HIDDEN}loads {name}");
        matches!(self.state.sure(&key), Some(Some(_)))
    }

    /// What the shell's own function says of a repository: the text that its style gives it.
    fn repository(&mut self) {
        let mut text = Text::default();
        for style in ["formats", "actionformats"] {
            let fits = |name: &str| {
                let rest = name.strip_prefix("zstyle :vcs_info")?;
                rest.strip_suffix(style)?
                    .ends_with(' ')
                    .then_some(rest.len())
            };
            let all = self
                .state
                .lists()
                .filter_map(|(name, all)| Some((fits(name)?, all.first()?)));
            let Some((_, best)) = all.max_by_key(|(length, _)| *length) else {
                continue;
            };
            let mut said = best.value.clone().unwrap_or_default();
            for i in 0..said.bytes.len().saturating_sub(1) {
                if said.bytes[i] == b'%' && b"sbaucmrRSi".contains(&said.bytes[i + 1]) {
                    said.bytes[i] = OF_REPOSITORY;
                }
            }
            text.push(&said);
        }
        self.state.set("vcs_info_msg_0_", Some(text));
    }

    /// Commands that it has by itself, or means otherwise.
    pub(super) fn zsh_command(
        &mut self,
        name: &str,
        assigns: &[Assign],
        rest: &[Word],
        ground: &Ground,
    ) -> Option<Done> {
        // Of each word what it is, where it is one text.
        let said: Vec<Option<Text>> = rest
            .iter()
            .map(|word| match self.expand(word, ground).as_slice() {
                [(text, None)] if text.unknown.is_none() => Some(text.clone()),
                _ => None,
            })
            .collect();
        let plain: Vec<String> = said
            .iter()
            .map(|text| text.as_ref().map(Text::lossy).unwrap_or_default())
            .collect();
        let flags: String = plain
            .iter()
            .take_while(|word| word.starts_with(['-', '+']))
            .flat_map(|word| word[1..].chars())
            .collect();
        let names = || plain.iter().filter(|word| !word.starts_with(['-', '+']));
        let done = match name {
            "builtin" | "noglob" | "nocorrect" | "command" if !flags.contains(['v', 'V']) => {
                let span = rest.first()?.span.start..rest.last()?.span.end;
                return Some(self.simple(assigns, rest, &span, ground));
            }
            "typeset" | "declare" | "local" | "export" | "readonly" | "integer" | "float" => {
                let local = name != "export" && !flags.contains('g') && !self.locals.is_empty();
                let bare = names().cloned().collect::<Vec<_>>();
                for declared in assigns.iter().map(|a| &a.name).chain(&bare) {
                    if flags.contains('A') {
                        let key = format!("{HIDDEN}named {declared}");
                        self.state.set(&key, Some(Text::nowhere("A")));
                    }
                }
                for declared in &bare {
                    let declared = self.called(declared);
                    if local && let Some(frame) = self.locals.last_mut() {
                        let before = self.state.get(&declared).to_vec();
                        frame.before.push((declared.clone(), before));
                        self.state.set(&declared, Some(Text::default()));
                    }
                }
                for assign in assigns {
                    if flags.contains('A') && !assign.adds {
                        let head = format!("{}[", assign.name);
                        self.state.forget(|name| name.starts_with(&head));
                    }
                    self.assign(assign, local, ground);
                }
                FINE
            }
            "setopt" | "unsetopt" => {
                for option in names() {
                    let (key, on) = option_key(option);
                    let on = on == (name == "setopt");
                    if let Some(frame) = self.locals.last_mut() {
                        frame.options |= on && key.ends_with("option localoptions");
                        if frame.options {
                            let before = self.state.get(&key).to_vec();
                            frame.before.push((key.clone(), before));
                        }
                    }
                    let value = Text::nowhere(if on { "on" } else { "off" });
                    self.state.set(&key, Some(value));
                }
                FINE
            }
            "emulate" => {
                if let Some(frame) = self.locals.last_mut() {
                    frame.options |= flags.contains('L');
                }
                FINE
            }
            "autoload" => {
                for function in names() {
                    let function = function.rsplit('/').next().unwrap_or_default();
                    let key = format!("{HIDDEN}loads {function}");
                    self.state.set(&key, Some(Text::nowhere("U")));
                }
                FINE
            }
            "colors" if self.is_loading("colors") => {
                self.color_tables();
                FINE
            }
            "prompt" if self.is_loading("promptinit") => {
                let theme = names().next().cloned().unwrap_or_default();
                if !theme.is_empty() {
                    let why = Why::from(format!("the prompt {theme} that the shell brings"));
                    let at = rest.last().map_or(0..0, |word| word.span.clone());
                    let text = self.source(&at, ground).not_known(&why);
                    for name in ["PROMPT", "RPROMPT"] {
                        self.state.set_all(
                            name,
                            vec![Alternative {
                                value: Some(text.clone()),
                                why: Some(Arc::clone(&why)),
                            }],
                        );
                    }
                }
                FINE
            }
            "zstyle" => {
                let words = plain.iter().position(|w| !w.starts_with('-'));
                let from = words.unwrap_or(plain.len());
                if let [context, style, ..] = &plain[from..] {
                    let key = format!("zstyle {context} {style}");
                    self.state.clear_list(&key);
                    // One that is worked out each time is not known here.
                    let values = said[from + 2..].iter().flatten();
                    for value in values.filter(|_| flags.is_empty()) {
                        self.state.add_to_list(&key, value.clone());
                    }
                }
                FINE
            }
            "add-zsh-hook" => {
                let given: Vec<String> = names().cloned().collect();
                if let ([hook, function, ..], true) = (given.as_slice(), self.is_loading(name)) {
                    let key = format!("{hook}_functions");
                    let list = self.state.list(&key).to_vec();
                    let is = |one: &Alternative| {
                        let value = one.value.as_ref().map(Text::lossy);
                        value.as_deref() == Some(function.as_str())
                    };
                    if flags.contains(['d', 'D']) {
                        self.state.clear_list(&key);
                        for one in list.into_iter().filter(|one| !is(one)) {
                            self.state.add_to_list(&key, one.value.unwrap_or_default());
                        }
                    } else if !list.iter().any(is) {
                        self.state.add_to_list(&key, Text::nowhere(function));
                        if !self.functions.contains_key(function) {
                            let key = format!("{HIDDEN}loads {function}");
                            self.state.set(&key, Some(Text::nowhere("U")));
                        }
                    }
                }
                FINE
            }
            "echo" | "print" | "printf" if !self.written.is_empty() && !flags.contains('v') => {
                self.write(name, rest, ground);
                FINE
            }
            "zmodload" => {
                if names().any(|module| module == "zsh/nearcolor") {
                    self.report.rounding = Rounding::Cielab;
                }
                FINE
            }
            "unfunction" => {
                for function in names() {
                    self.functions.remove(function);
                }
                FINE
            }
            "exec"
            | "cd"
            | "pushd"
            | "hash"
            | "bindkey"
            | "zle"
            | "compinit"
            | "compdef"
            | "compctl"
            | "rehash"
            | "disable"
            | "limit"
            | "fc"
            | "sched"
            | "zcompile"
            | "ttyctl"
            | "print"
            | "let"
            | "promptinit"
            | "bashcompinit"
            | "add-zle-hook-widget"
            | "zprof"
            | "dirs"
            | "functions"
            | "colors"
            | "prompt" => FINE,
            "whence" => match names().next_back() {
                Some(program) if !program.contains('/') => (
                    Flow::Go,
                    Ok(self.functions.contains_key(program) || self.access.has_program(program)),
                ),
                _ => (Flow::Go, Err("a program that is not known".into())),
            },
            // What has to be loaded first; others are called as in any shell.
            _ if self.is_loading(name) => return self.zsh_call(name),
            _ => return None,
        };
        Some(done)
    }

    fn leave_function(&mut self) {
        let frame = self.locals.pop().unwrap_or_default();
        for (name, old) in frame.before.into_iter().rev() {
            self.state.set_all(&name, old);
        }
    }

    /// What is written where that is listened to.
    fn write(&mut self, name: &str, rest: &[Word], ground: &Ground) {
        let mut words = Vec::new();
        for word in rest {
            let mut all = self.expand(word, ground);
            let (text, _) = all.swap_remove(0);
            words.push(text);
        }
        let is_flag = |text: &Text| text.bytes.starts_with(b"-") && text.unknown.is_none();
        let from = words.iter().position(|text| !is_flag(text));
        let mut words = words.split_off(from.unwrap_or(words.len()));
        let mut out = Text::default();
        if name == "printf" && !words.is_empty() {
            let format = words.remove(0);
            let mut given = words.into_iter();
            let mut at = 0;
            while at < format.bytes.len() {
                let is_text = format.bytes[at..].starts_with(b"%s");
                if is_text || format.bytes[at..].starts_with(b"%b") {
                    out.push(&given.next().unwrap_or_default());
                    at += 2;
                } else {
                    let double = format.bytes[at..].starts_with(b"%%");
                    at += usize::from(double);
                    out.push(&format.part(at..at + 1));
                    at += 1;
                }
            }
            out = super::words::unescaped(&out);
        } else {
            for (i, text) in words.iter().enumerate() {
                if i > 0 {
                    out.push(&Text::nowhere(" "));
                }
                out.push(text);
            }
            out = super::words::unescaped(&out);
        }
        if let Some(written) = self.written.last_mut() {
            written.push(&out);
        }
    }

    /// The tables that `colors` makes.
    fn color_tables(&mut self) {
        const NAMES: [&str; 8] = [
            "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
        ];
        let codes = NAMES.iter().zip(0..8);
        for (name, code) in codes.chain([(&"grey", 0), (&"gray", 0), (&"default", 9)]) {
            for (table, begin, base) in [
                ("fg", "", 30),
                ("fg_bold", "01;", 30),
                ("fg_no_bold", "22;", 30),
                ("bg", "", 40),
                ("bg_bold", "01;", 40),
                ("bg_no_bold", "22;", 40),
            ] {
                let text = format!("\u{1b}[{begin}{}m", base + code);
                let key = format!("{table}[{name}]");
                self.state.set(&key, Some(Text::nowhere(&text)));
            }
        }
        for (name, code) in [("reset_color", "00"), ("bold_color", "01")] {
            let text = format!("\u{1b}[{code}m");
            self.state.set(name, Some(Text::nowhere(&text)));
        }
    }
}

/// A path after what is written behind colons.
fn modified(mut path: PathBuf, operation: &str) -> Option<String> {
    for sign in operation.split(':').skip(1) {
        path = match sign {
            "h" => path.parent()?.to_owned(),
            "t" => PathBuf::from(path.file_name()?),
            "r" => path.with_extension(""),
            "a" | "A" => path,
            _ => return None,
        };
    }
    path.to_str().map(str::to_owned)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn options_have_one_name_and_its_opposite() {
        assert_eq!(option_key("PROMPT_SUBST"), option_key("promptsubst"));
        assert!(!option_key("NO_prompt_subst").1);
        assert_eq!(option_key("NO_prompt_subst").0, option_key("promptsubst").0);
        assert_eq!(
            option_key("notify"),
            (format!("{HIDDEN}option notify"), true)
        );
    }
}
