//! Commands: what the shell has by itself, what tells something in a prompt, files that are loaded.

use std::ops::Range;
use std::sync::Arc;

use super::words::{elements, joined, list, matches, split, tells};
use super::{
    DRAWN, FAILED, Fish, Flow, MARK, MARKED, MOST, ROOT, SUCCEEDED, Status, erased, lasting, mark,
};
use crate::access::Loaded;
use crate::document::fish::{self, Node, Part, Word};
use crate::document::lines;
use crate::evaluated::state::{Alternative, Why};
use crate::evaluated::text::Text;
use crate::evaluated::{Ground, Visit};
use crate::shared;
use crate::shell_test;

/// The options of `set` that say where a variable is.
#[derive(Default)]
struct Set {
    scope: char,
    does: char,
    before: bool,
}

impl Fish<'_> {
    pub(super) fn command(&mut self, words: &[Word], span: &Range<usize>, ground: &Ground) -> Flow {
        let mut all = self.texts(words, ground);
        let (texts, why) = match all.len() {
            0 => return Flow::Go,
            _ => all.swap_remove(0),
        };
        let Some(name) = texts
            .first()
            .filter(|t| t.unknown.is_none())
            .map(Text::lossy)
        else {
            self.status = Err("a command that is not known".into());
            return Flow::Go;
        };
        self.note(why.as_ref());
        // The lists the words behind the name may be.
        let mut given: Vec<(Vec<Text>, Option<Why>)> = all
            .into_iter()
            .map(|(texts, why)| (texts.into_iter().skip(1).collect(), why))
            .collect();
        given.insert(0, (texts.into_iter().skip(1).collect(), why));
        let texts = given[0].0.clone();
        let plain: Vec<String> = texts.iter().map(Text::lossy).collect();
        let flags = |which: &[&str]| plain.iter().any(|word| which.contains(&word.as_str()));
        match name.as_str() {
            "set" => self.set(&given),
            "set_color" => {
                let all: Vec<Text> = given
                    .iter()
                    .map(|(texts, why)| {
                        self.note(why.as_ref());
                        painted(texts)
                    })
                    .collect();
                self.say_one_of(&all);
                self.status = Ok(true);
            }
            "echo" | "printf" => {
                let all: Vec<Text> = given
                    .iter()
                    .map(|(texts, why)| {
                        self.note(why.as_ref());
                        match name.as_str() {
                            "echo" => echoed(texts),
                            _ => printed(texts),
                        }
                    })
                    .collect();
                self.say_one_of(&all);
                self.status = Ok(true);
            }
            "string" => self.string(&given),
            "test" | "[" => self.status = self.tested(&given, name == "["),
            "true" | ":" => self.status = Ok(true),
            "false" => self.status = Ok(false),
            "return" | "exit" => {
                match plain.first().map(String::as_str) {
                    None => {}
                    Some("0") => self.status = Ok(true),
                    Some(n) if n.parse::<u8>().is_ok() => self.status = Ok(false),
                    Some(_) => self.status = Err("what is returned".into()),
                }
                return Flow::Leave;
            }
            "status" => {
                self.status = if flags(&["is-interactive", "--is-interactive", "-i"]) {
                    Ok(true)
                } else if flags(&["is-login", "--is-login", "-l"]) {
                    Err("whether it is a login shell".into())
                } else if flags(&["is-command-substitution", "is-block", "is-breakpoint"]) {
                    Ok(false)
                } else {
                    Err("what the shell says of itself".into())
                };
            }
            "source" | "." => self.load(&texts, words, span, ground),
            "eval" => {
                let text = joined(&texts, b' ');
                match text.unknown.clone() {
                    Some(why) => {
                        let source = ground.source(span.clone(), &self.visits);
                        self.unknown.note("", &source.bytes);
                        self.status = Err(why);
                    }
                    None => {
                        let (nodes, problem) = fish::parse(&text.bytes);
                        let inner = Ground::Text(ground.visit(), Arc::new(text));
                        if self.list(&nodes, &inner) == Flow::Leave {
                            return Flow::Leave;
                        }
                        if problem.is_some() {
                            self.status = Err("commands that are not understood".into());
                        }
                    }
                }
            }
            name_of @ ("type" | "command" | "builtin")
                if plain.iter().any(|w| w.starts_with('-')) =>
            {
                let programs = || plain.iter().filter(|w| !w.starts_with('-'));
                let known = |name: &&String| {
                    self.access.has_program(name)
                        || (name_of == "type" && self.functions.contains_key(*name))
                };
                self.status = match programs().next() {
                    Some(one) if !one.contains('/') => Ok(programs().any(|p| known(&p))),
                    _ => Err("a program that is not known".into()),
                };
            }
            "command" | "builtin" | "time" if words.len() > 1 => {
                return self.command(&words[1..], span, ground);
            }
            "functions" => {
                let names = || plain.iter().filter(|w| !w.starts_with('-'));
                if flags(&["-e", "--erase"]) {
                    for name in names() {
                        self.functions.remove(name);
                    }
                    self.status = Ok(true);
                } else if flags(&["-c", "--copy"]) {
                    if let [from, to] = names().cloned().collect::<Vec<_>>().as_slice() {
                        if !self.functions.contains_key(from) {
                            self.autoloaded(from);
                        }
                        if let Some(all) = self.functions.get(from).cloned() {
                            self.functions.insert(to.clone(), all);
                        }
                    }
                    self.status = Ok(true);
                } else {
                    let missing = names()
                        .any(|name| !self.functions.contains_key(name) && !self.autoloaded(name));
                    self.status = match missing {
                        false => Ok(true),
                        true if names().all(|name| !name.starts_with("fish_")) => Ok(false),
                        // The shell brings functions of its own.
                        true => Err("a function that the shell may bring".into()),
                    };
                }
            }
            "contains" => {
                let rest: Vec<&Text> = texts.iter().skip_while(|t| t.bytes == b"--").collect();
                let unknown = rest.iter().find_map(|t| t.unknown.clone());
                self.status = match (unknown, rest.split_first()) {
                    (Some(why), _) => Err(why),
                    (None, Some((one, all))) => Ok(all.iter().any(|t| t.bytes == one.bytes)),
                    _ => Ok(false),
                };
            }
            "count" => {
                self.say(&Text::nowhere(&format!("{}\n", texts.len())));
                self.status = Ok(!texts.is_empty());
            }
            "read" => {
                let why = Why::from("what is read");
                for name in plain.iter().filter(|w| !w.starts_with('-')) {
                    let text = Text::default().not_known(&why);
                    self.state.set(name, Some(text));
                }
                self.status = Err(why);
            }
            "fish_config" => self.config(&plain),
            "prompt_pwd" => self.tell('f'),
            "prompt_hostname" | "hostname" => self.tell('h'),
            "whoami" | "id" => self.tell('u'),
            "pwd" => self.tell('f'),
            "date" => self.tell('t'),
            "jobs" => self.tell('j'),
            "git" => self.tell('b'),
            "prompt_login" => {
                self.tell('u');
                self.tell('h');
            }
            "fish_vcs_prompt" | "fish_git_prompt" | "__fish_git_prompt" | "__fish_vcs_prompt"
                if !self.functions.contains_key(&name) =>
            {
                self.tell('B');
            }
            "fish_is_root_user" => self.status = Err(ROOT.into()),
            "basename" | "dirname" | "sed" | "awk" | "tr" | "cut" | "path" => {
                // What goes in comes out, changed.
                let text = joined(&texts, b' ');
                let jobs = text.bytes.contains(&MARK);
                match jobs {
                    true => self.say(&text.not_known(&DRAWN.into())),
                    false => self.tell(' '),
                }
                self.status = Err("what a command answers".into());
            }
            "abbr"
            | "alias"
            | "bind"
            | "complete"
            | "fish_add_path"
            | "fish_vi_key_bindings"
            | "fish_default_key_bindings"
            | "fish_hybrid_key_bindings"
            | "emit"
            | "block"
            | "ulimit"
            | "umask"
            | "trap"
            | "cd"
            | "pushd"
            | "popd"
            | "history"
            | "disown"
            | "bg"
            | "fg"
            | "wait"
            | "argparse"
            | "commandline"
            | "fish_update_completions"
            | "ssh-add"
            | "stty"
            | "nohup"
            | "set_path" => self.status = Ok(true),
            _ => {
                let all: Vec<Vec<Text>> = texts.iter().map(|t| vec![t.clone()]).collect();
                if !self.call(&name, &all) {
                    match self.draws {
                        true => self.tell(' '),
                        false => {
                            let why = Why::from(format!("what {name} writes"));
                            self.say(&Text::default().not_known(&why));
                        }
                    }
                    self.status = Err(format!("what {name} answers").into());
                }
            }
        }
        Flow::Go
    }

    /// Writes something that tells.
    fn tell(&mut self, job: char) {
        self.say(&tells(job));
        self.status = Ok(true);
    }

    fn tested(&mut self, given: &[(Vec<Text>, Option<Why>)], bracket: bool) -> Status {
        let mut answer: Option<bool> = None;
        let depends = || Why::from("what a test says");
        for (texts, why) in given {
            if let Some(unknown) = texts.iter().find_map(|t| t.unknown.clone()) {
                return Err(of_status(texts).unwrap_or(unknown));
            }
            let words: Vec<String> = texts.iter().map(Text::lossy).collect();
            let mut words: Vec<&str> = words.iter().map(String::as_str).collect();
            if bracket {
                words.pop();
            }
            let yes = shell_test::test(&words, self.access).ok_or_else(depends)?;
            if answer.is_some_and(|before| before != yes) {
                return Err(why.clone().unwrap_or_else(depends));
            }
            answer = Some(yes);
        }
        answer.ok_or_else(depends)
    }

    fn set(&mut self, given: &[(Vec<Text>, Option<Why>)]) {
        let words: Vec<String> = given[0].0.iter().map(Text::lossy).collect();
        let mut set = Set::default();
        let mut at = 0;
        while let Some(word) = words.get(at).filter(|w| w.starts_with('-') && w.len() > 1) {
            at += 1;
            match word.as_str() {
                "--" => break,
                "--global" => set.scope = 'g',
                "--universal" => set.scope = 'U',
                "--local" => set.scope = 'l',
                "--function" => set.scope = 'f',
                "--erase" => set.does = 'e',
                "--query" => set.does = 'q',
                "--append" => set.does = 'a',
                "--prepend" => {
                    set.does = 'a';
                    set.before = true;
                }
                _ if word.starts_with("--") => {}
                short => {
                    for sign in short.chars().skip(1) {
                        match sign {
                            'g' | 'U' | 'l' | 'f' => set.scope = sign,
                            'e' | 'q' | 'a' | 'n' | 'S' => set.does = sign,
                            'p' => {
                                set.does = 'a';
                                set.before = true;
                            }
                            _ => {}
                        }
                    }
                }
            }
        }
        let Some(name) = words.get(at).cloned() else {
            return;
        };
        match set.does {
            'n' | 'S' => {}
            'q' => {
                let mut answer: Status = Ok(true);
                for name in &words[at..] {
                    let plain = name.split('[').next().unwrap_or(name);
                    let there: Vec<_> = self.values(plain);
                    let open = there
                        .iter()
                        .filter_map(|(value, _)| value.as_ref())
                        .find_map(|value| value.unknown.clone().filter(|_| value.bytes.is_empty()));
                    answer = match (answer, open) {
                        (Err(why), _) | (_, Some(why)) => Err(why),
                        (Ok(yes), None) => {
                            let set = there.iter().filter(|(value, _)| value.is_some()).count();
                            match set {
                                0 => Ok(false),
                                n if n == there.len() => Ok(yes),
                                _ => Err(format!("whether {plain} is set").into()),
                            }
                        }
                    };
                }
                self.status = answer;
            }
            'e' => {
                for name in &words[at..] {
                    let is_set =
                        |name: &str| self.state.get(name).iter().any(|one| one.value.is_some());
                    let lasts = !is_set(name) && is_set(&lasting(name));
                    let open = self.state.get(name).iter().find(|one| one.value.is_none());
                    if let Some(why) = open.and_then(|one| one.why.clone())
                        && set.scope == '\0'
                    {
                        // Where nothing hides it, it is what lasts that goes.
                        let kept = lasting(name);
                        let mut all = self.state.get(&kept).to_vec();
                        for one in &mut all {
                            one.why.get_or_insert_with(|| "what hides it".into());
                        }
                        let (value, why) = (None, Some(why));
                        all.push(Alternative { value, why });
                        self.state.set_all(&kept, all);
                        self.state.set(name, None);
                    } else if set.scope == 'U' || (set.scope == '\0' && lasts) {
                        self.state.set(&lasting(name), None);
                    } else {
                        self.state.set(name, None);
                        // Nor has it then what it came with.
                        self.state.set(&erased(name), Some(Text::nowhere("1")));
                    }
                }
                self.status = Ok(true);
            }
            does => {
                // `set x[1] y`: one element of several.
                let (name, element) = match name.split_once('[') {
                    Some((name, _)) => (name.to_owned(), true),
                    None => (name, false),
                };
                let mut all = Vec::new();
                let old = match does == 'a' {
                    true => self.values(&name),
                    false => vec![(None, None)],
                };
                for (value, why) in &old {
                    let old = value.as_ref().map(elements).unwrap_or_default();
                    for (texts, more) in given {
                        let new = texts.get(at + 1..).unwrap_or_default().to_vec();
                        let both = match set.before {
                            true => [new, old.clone()].concat(),
                            false => [old.clone(), new].concat(),
                        };
                        let mut value = list(&both);
                        if element {
                            value = value.not_known(&"an element of a list".into());
                        }
                        all.push(Alternative {
                            value: Some(value),
                            why: why.clone().or_else(|| more.clone()),
                        });
                    }
                }
                all.truncate(MOST);
                self.assign(&name, set.scope, all);
            }
        }
    }

    fn assign(&mut self, name: &str, scope: char, all: Vec<Alternative>) {
        let is_shown = self.state.get(name).iter().any(|one| one.value.is_some());
        let in_function = self.frames.iter().any(|frame| frame.is_function);
        match scope {
            'U' => self.state.set_all(&lasting(name), all),
            'g' => {
                let outer = self.frames.iter_mut().find_map(|frame| {
                    let mut before = frame.before.iter_mut();
                    before.find(|(known, _)| known == name)
                });
                match outer {
                    Some((_, old)) => *old = all,
                    None => self.state.set_all(name, all),
                }
            }
            'l' => {
                self.local(name, false);
                self.state.set_all(name, all);
            }
            'f' => {
                self.local(name, in_function);
                self.state.set_all(name, all);
            }
            _ if is_shown => {
                let mut all = all;
                // Where it is not there yet, it is the function's own and goes with it.
                let open = self.state.get(name).iter().find(|one| one.value.is_none());
                if let Some(open) = open.filter(|_| in_function).cloned() {
                    for one in &mut all {
                        one.why
                            .get_or_insert_with(|| "what was set before it".into());
                    }
                    all.push(open);
                }
                self.state.set_all(name, all);
            }
            _ => {
                let kept = lasting(name);
                let lasts = self.state.get(&kept).iter().any(|one| one.value.is_some());
                if lasts {
                    self.state.set_all(&kept, all);
                    return;
                }
                if in_function {
                    self.local(name, true);
                }
                self.state.set_all(name, all);
            }
        }
    }

    fn string(&mut self, given: &[(Vec<Text>, Option<Why>)]) {
        let mut out = Vec::new();
        self.status = Ok(true);
        for (texts, why) in given {
            self.note(why.as_ref());
            let plain: Vec<String> = texts.iter().map(Text::lossy).collect();
            let is_flag = |word: &&String| word.starts_with('-') && word.len() > 1;
            let flags: Vec<&String> = plain.iter().skip(1).take_while(is_flag).collect();
            let rest = &texts[(1 + flags.len()).min(texts.len())..];
            let unknown = rest.iter().find_map(|t| t.unknown.clone());
            match plain.first().map(String::as_str) {
                Some("join" | "join0") => {
                    if let Some((sign, all)) = rest.split_first() {
                        let mut text = Text::default();
                        for (i, one) in all.iter().enumerate() {
                            if i > 0 {
                                text.push(sign);
                            }
                            text.push(one);
                        }
                        text.push(&Text::nowhere("\n"));
                        out.push(text);
                    }
                }
                Some("split") => {
                    if let [sign, all @ ..] = rest {
                        let mut text = Text::default();
                        for one in all {
                            let pieces = match sign.bytes.as_slice() {
                                [b] => split(one, *b),
                                _ => vec![one.clone()],
                            };
                            for piece in pieces {
                                text.push(&piece);
                                text.push(&Text::nowhere("\n"));
                            }
                        }
                        out.push(text);
                    }
                }
                Some("match") => {
                    let regex = flags.iter().any(|f| *f == "--regex" || f.contains('r'));
                    self.status = match (rest.split_first(), unknown, regex) {
                        (_, Some(why), _) => Err(why),
                        (Some((pattern, all)), None, false) => {
                            let pattern = pattern.lossy();
                            Ok(all.iter().any(|t| matches(&pattern, &t.lossy())))
                        }
                        _ => Err("a regular expression".into()),
                    };
                }
                Some("length") => {
                    self.status = match unknown {
                        Some(why) => Err(why),
                        None => Ok(rest.iter().any(|t| !t.bytes.is_empty())),
                    };
                }
                _ => {
                    // What goes in comes out, changed; the last words are what is changed.
                    let skipped = match plain.first().map(String::as_str) {
                        Some("replace") => 2,
                        _ => 0,
                    };
                    let mut text = Text::default();
                    for one in rest.iter().skip(skipped) {
                        text.push(one);
                        text.push(&Text::nowhere("\n"));
                    }
                    out.push(text.not_known(&"what a command writes".into()));
                }
            }
        }
        if !out.is_empty() {
            self.say_one_of(&out);
        }
    }

    /// Loads a file.
    fn load(&mut self, texts: &[Text], words: &[Word], span: &Range<usize>, ground: &Ground) {
        let text = texts.first().filter(|text| text.bytes != b"-");
        let Some(text) = text else {
            // What the command before it writes.
            if let Some((name, whole)) = &self.behind {
                self.unknown.note(name, &whole.bytes);
            }
            self.status = Err("what is loaded".into());
            return;
        };
        let given = words.get(1).map_or(&[][..], |word| &word.parts);
        if let [Part::Output(nodes, ..)] = given {
            let first = match nodes.first() {
                Some(Node::Pipe(all)) => all.first(),
                other => other,
            };
            let (name, whole) = match first {
                Some(Node::Command(words, _)) => self.source_of(words, ground),
                _ => Default::default(),
            };
            self.unknown.note(&name, &whole.bytes);
            self.status = Err("what is loaded".into());
            return;
        }
        if let Some(why) = &text.unknown {
            self.status = Err(Arc::clone(why));
            return;
        }
        let path = self.access.expand(&text.lossy(), self.access.home());
        if path == self.ours {
            let place = text.source(0..text.bytes.len());
            let word = words
                .get(1)
                .map_or_else(|| span.clone(), |w| w.span.clone());
            let own = matches!(ground, Ground::File(_)).then(|| (ground.visit(), word));
            self.loaded = place.or(own);
            self.loaded.get_or_insert((ground.visit(), span.clone()));
            self.status = Ok(true);
            return;
        }
        let here: &Visit = &self.visits[ground.visit()];
        let line = here.file.position(match ground {
            Ground::File(_) => span.start,
            Ground::Text(..) => text.nearest(0).map_or(0, |n| n.1),
        });
        let mut deeper = here.chain.clone();
        deeper.push((here.file.path.clone(), line.line));
        self.status = Ok(true);
        self.file(&path, &deeper);
    }

    /// `fish_config`: a theme that is chosen sets variables, a prompt that is chosen is the shell's.
    fn config(&mut self, plain: &[String]) {
        self.status = Ok(true);
        let [what, does, name, ..] = plain else {
            return;
        };
        if what == "prompt" && matches!(does.as_str(), "choose" | "save") {
            for name in ["fish_prompt", "fish_right_prompt"] {
                self.functions.remove(name);
            }
            return;
        }
        if what != "theme" || does != "choose" {
            return;
        }
        let own = self
            .access
            .config_home()
            .join(format!("fish/themes/{name}.theme"));
        let path = match matches!(self.access.read(&own), Loaded::File { .. }) {
            true => own,
            false => {
                let relative = format!("fish/tools/web_config/themes/{name}.theme");
                match self.access.shared_data(&relative) {
                    Some(path) => path,
                    None => {
                        self.status = Ok(false);
                        return;
                    }
                }
            }
        };
        let Some(file) = shared::load(self.access, &mut self.report, &path, &[], false) else {
            return;
        };
        let is_color =
            |name: &str| name.starts_with("fish_color_") || name.starts_with("fish_pager_color_");
        // What a theme does not name it empties, of what themes are made of.
        for (head, all) in OF_THEMES {
            for name in all.split(' ') {
                self.state.set(&format!("{head}{name}"), Some(list(&[])));
            }
        }
        let visit = self.visits.len();
        for line in lines::lines(&file.bytes) {
            let bytes = &file.bytes[line.span.clone()];
            let text = String::from_utf8_lossy(bytes);
            let mut words = text.split_whitespace();
            let Some(name) = words.next().filter(|name| is_color(name)) else {
                continue;
            };
            let name = name.to_owned();
            let mut all = Vec::new();
            let mut from = text.find(&name).unwrap_or(0) + name.len();
            for word in words {
                let Some(at) = text[from..].find(word) else {
                    break;
                };
                let start = from + at;
                from = start + word.len();
                let at = line.span.start + start;
                all.push(Text::written(word.as_bytes(), visit, |i| Some(at + i)));
            }
            self.state.set(&name, Some(list(&all)));
        }
        self.visits.push(Visit {
            file,
            chain: Vec::new(),
        });
    }
}

/// What a test asks of how the command before it ended.
fn of_status(texts: &[Text]) -> Option<Why> {
    let [left, sign, right, ..] = texts else {
        return None;
    };
    let told = tells('x');
    let about = left.bytes == told.bytes && right.bytes == b"0";
    match sign.bytes.as_slice() {
        b"-ne" | b"!=" | b"-gt" if about => Some(FAILED.into()),
        b"-eq" | b"=" if about => Some(SUCCEEDED.into()),
        _ => None,
    }
}

/// The variables that a theme sets whether it names them or not.
const OF_THEMES: [(&str, &str); 2] = [
    (
        "fish_color_",
        "normal command keyword quote redirection end error param option comment selection operator escape autosuggestion cwd user host host_remote cancel search_match",
    ),
    (
        "fish_pager_color_",
        "progress background prefix completion description selected_background selected_prefix selected_completion selected_description secondary_background secondary_prefix secondary_completion secondary_description",
    ),
];

/// What `set_color` writes: marks that say the colors, each with the word that does.
fn painted(texts: &[Text]) -> Text {
    let (mut text, mut ground) = (None, None);
    let mut all = texts.iter();
    while let Some(one) = all.next() {
        match one.bytes.as_slice() {
            b"-b" | b"--background" => ground = all.next().cloned(),
            bytes if bytes.starts_with(b"--background=") => {
                ground = Some(one.part(13..bytes.len()))
            }
            bytes if bytes.starts_with(b"-b") => ground = Some(one.part(2..bytes.len())),
            bytes if bytes.starts_with(b"-") => {}
            // Of several colors the first counts where a terminal has all.
            _ => {
                text.get_or_insert_with(|| one.clone());
            }
        }
    }
    let mut out = Text::default();
    for (layer, color) in [("F", text), ("K", ground)] {
        if let Some(color) = color {
            out.push(&mark(MARK));
            out.push(&Text::nowhere(layer));
            out.push(&color);
            out.push(&mark(MARKED));
        }
    }
    out
}

/// What `echo` writes.
fn echoed(texts: &[Text]) -> Text {
    let mut out = Text::default();
    let (mut end, mut blanks, mut escapes) = (true, true, false);
    let mut rest = texts;
    while let Some((first, more)) = rest.split_first() {
        let is_flag = first.bytes.len() > 1
            && first.bytes[0] == b'-'
            && first.bytes[1..].iter().all(|b| b"nseE".contains(b));
        if !is_flag {
            break;
        }
        end &= !first.bytes.contains(&b'n');
        blanks &= !first.bytes.contains(&b's');
        escapes |= first.bytes.contains(&b'e');
        rest = more;
    }
    for (i, text) in rest.iter().enumerate() {
        if i > 0 && blanks {
            out.push(&Text::nowhere(" "));
        }
        match escapes {
            true => out.push(&text.unescaped(b"")),
            false => out.push(text),
        }
    }
    if end {
        out.push(&Text::nowhere("\n"));
    }
    out
}

/// What `printf` writes.
fn printed(texts: &[Text]) -> Text {
    let Some((format, given)) = texts.split_first() else {
        return Text::default();
    };
    let (mut out, mut at, mut given) = (Text::default(), 0, given.iter());
    let format = format.unescaped(b"");
    while at < format.bytes.len() {
        let rest = &format.bytes[at..];
        if rest.starts_with(b"%%") {
            out.push(&format.part(at..at + 1));
            at += 2;
        } else if rest[0] == b'%' {
            let end = rest[1..].iter().position(u8::is_ascii_alphabetic);
            out.push(given.next().unwrap_or(&Text::default()));
            at += end.map_or(rest.len(), |n| n + 2);
        } else {
            out.push(&format.part(at..at + 1));
            at += 1;
        }
    }
    out
}
