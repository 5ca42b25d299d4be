//! What profiles say: the prompt as its function draws it, and the colors of the line editor.

use std::collections::BTreeMap;
use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::quote::Quoting;
use wealdmist_core::reading::{ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};

use super::words::{Bit, Kind, Word, words};
use crate::access::{Access, Loaded};
use crate::document::sgr::{self, value_of};
use crate::evaluated::Visit;
use crate::evaluated::state::{Alternative, Why};
use crate::evaluated::text::Text;
use crate::limits;
use crate::shared::{self, Includer};
use crate::sourced::own::Piece;
use crate::sourced::said::{self, EITHER, EITHER_END, MARK, MARKED, OR};
use crate::sourced::{Ran, Unknown};

/// The sixteen colors as the shell names them.
const NAMES: [(&str, u8); 16] = [
    ("black", 0),
    ("darkred", 1),
    ("darkgreen", 2),
    ("darkyellow", 3),
    ("darkblue", 4),
    ("darkmagenta", 5),
    ("darkcyan", 6),
    ("gray", 7),
    ("darkgray", 8),
    ("red", 9),
    ("green", 10),
    ("yellow", 11),
    ("blue", 12),
    ("magenta", 13),
    ("cyan", 14),
    ("white", 15),
];

/// The same as its table of styles names them.
const STYLES: [(&str, u8); 16] = [
    ("black", 0),
    ("red", 1),
    ("green", 2),
    ("yellow", 3),
    ("blue", 4),
    ("magenta", 5),
    ("cyan", 6),
    ("white", 7),
    ("brightblack", 8),
    ("brightred", 9),
    ("brightgreen", 10),
    ("brightyellow", 11),
    ("brightblue", 12),
    ("brightmagenta", 13),
    ("brightcyan", 14),
    ("brightwhite", 15),
];

/// A color in a mark: a name of the sixteen, behind `style.` one of the table of styles.
fn color(text: &str) -> Option<Value> {
    let text = text.to_lowercase();
    let (names, name) = match text.strip_prefix("style.") {
        Some(name) => (&STYLES, name),
        None => (&NAMES, text.as_str()),
    };
    let (_, n) = names.iter().find(|(known, _)| *known == name)?;
    Slot::from_ansi(*n).map(Value::Slot)
}

/// What stands in a text that a prompt writes.
pub fn pieces(text: &[u8]) -> Vec<Piece> {
    said::pieces(text, color)
}

/// What of the line editor's colors is which job.
const JOBS: [(&str, &str); 19] = [
    ("command", "shell.command"),
    ("comment", "shell.comment"),
    ("continuationprompt", "prompt.between"),
    ("default", "shell.typed"),
    ("emphasis", "shell.match"),
    ("error", "shell.error"),
    ("inlineprediction", "shell.suggestion"),
    ("keyword", "shell.keyword"),
    ("member", "powershell.member"),
    ("number", "powershell.number"),
    ("operator", "shell.operator"),
    ("parameter", "shell.option"),
    ("selection", "shell.selection"),
    ("string", "shell.string"),
    ("type", "powershell.type"),
    ("variable", "powershell.variable"),
    ("listprediction", "completion.text"),
    ("listpredictionselected", "completion.selected"),
    ("listpredictiontooltip", "completion.description"),
];

/// What an entry of the line editor's colors says.
pub fn others(name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
    let role = |is_ground: bool| {
        let job = JOBS.iter().find(|(known, _)| *known == name);
        let job = job.map_or_else(
            || format!("powershell.{name}"),
            |(_, job)| (*job).to_owned(),
        );
        match is_ground {
            true => RoleId::new(format!("{job}.ground")),
            false => RoleId::new(job),
        }
    };
    let whole = String::from_utf8_lossy(text);
    if let Some(value) = color(&whole) {
        return vec![(role(false), value, 0..text.len())];
    }
    if let Some(color) = whole
        .strip_prefix('#')
        .filter(|digits| digits.len() == 6)
        .and_then(|_| wealdmist_core::color::parse_any(&whole))
    {
        return vec![(role(false), Value::Color(color), 0..text.len())];
    }
    let found = sgr::colors(text, 0..text.len()).into_iter();
    let of = |one: sgr::SgrUse| {
        let is_ground = one.layer == sgr::Layer::Ground;
        Some((role(is_ground), value_of(one.color?)?, one.span))
    };
    found.filter_map(of).collect()
}

/// What reads the text at places of a file: characters in code of this shell are left as they are.
pub fn quoting(_: &[u8], places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
    vec![None; places.len()]
}

/// A file with its words.
struct Source {
    visit: usize,
    words: Vec<Word>,
}

/// The most bytes of a variable's value that are followed.
const MOST: usize = 1 << 14;

/// Where a function's body stands: its file, and the words between its brackets.
type Body = (usize, Range<usize>);

struct Shell<'a> {
    access: &'a dyn Access,
    ours: &'a Path,
    report: ToolReport,
    visits: Vec<Visit>,
    sources: Vec<Source>,
    functions: BTreeMap<String, (Body, Option<Why>)>,
    variables: BTreeMap<String, Text>,
    colors: Vec<(String, Alternative)>,
    unknown: Unknown,
    loaded: Option<(usize, Range<usize>)>,
    depth: usize,
    steps: usize,
}

/// Reads the profiles, in their order.
pub fn run(access: &dyn Access, report: ToolReport, files: &[PathBuf], ours: &Path) -> Ran {
    let mut shell = Shell {
        access,
        ours,
        report,
        visits: Vec::new(),
        sources: Vec::new(),
        functions: BTreeMap::new(),
        variables: BTreeMap::new(),
        colors: Vec::new(),
        unknown: Unknown::default(),
        loaded: None,
        depth: 0,
        steps: 0,
    };
    for file in files {
        if access.read(file) != Loaded::Missing {
            shell.file(file, &[]);
        }
    }
    let mut prompts = Vec::new();
    if let Some((body, why)) = shell.functions.get("prompt").cloned() {
        let mut drawn = Text::default();
        shell.statements(&body, Some(&mut drawn), false);
        let why = why.or_else(|| shell.unknown.why.clone());
        prompts.push((
            "prompt",
            Alternative {
                value: Some(drawn),
                why,
            },
        ));
    }
    Ran {
        prompts,
        others: shell.colors,
        defaults: Vec::new(),
        init: Vec::new(),
        runs: shell.unknown.commands,
        loaded: shell.loaded.take(),
        report: shell.report,
        visits: shell.visits,
    }
}

/// A mark: what it begins with is its kind.
fn mark(out: &mut Text, content: &str) {
    out.push(&Text::nowhere(&format!(
        "{}{content}{}",
        MARK as char, MARKED as char
    )));
}

fn sign(out: &mut Text, byte: u8) {
    out.push(&Text::nowhere(&(byte as char).to_string()));
}

/// What something tells that stands in code, by the words it has.
fn job(code: &str) -> &'static str {
    let code = code.to_lowercase();
    let all: [(&[&str], &str); 10] = [
        (&["$?"], "Jo"),
        (&["git", "branch"], "Jb"),
        (&["username", "env:user", "whoami"], "Ju"),
        (&["computername", "machinename", "hostname"], "Jh"),
        (&["location", "pwd", "split-path"], "Jf"),
        (&["get-date", "datetime"], "Jt"),
        (&["executiontime", "elapsed", "duration"], "Jd"),
        (&["lastexitcode"], "Jx"),
        (&["get-job"], "Jj"),
        (&["shlvl"], "J?"),
    ];
    let found = all
        .iter()
        .find(|(words, _)| words.iter().any(|w| code.contains(w)));
    found.map_or("J?", |(_, job)| job)
}

impl Shell<'_> {
    fn file(&mut self, path: &Path, chain: &[Includer]) {
        if self.depth >= limits::INCLUDES {
            return;
        }
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, false) else {
            return;
        };
        self.depth += 1;
        let all = words(&file.bytes, 0..file.bytes.len());
        let (visit, end) = (self.visits.len(), all.len());
        self.visits.push(Visit {
            file,
            chain: chain.to_vec(),
        });
        self.sources.push(Source { visit, words: all });
        self.statements(&(self.sources.len() - 1, 0..end), None, false);
        self.depth -= 1;
    }

    fn word(&self, source: usize, at: usize) -> Option<&Word> {
        self.sources[source].words.get(at)
    }

    fn kind(&self, source: usize, at: usize, end: usize) -> Option<&Kind> {
        (at < end).then(|| self.word(source, at).map(|w| &w.kind))?
    }

    /// The name at a place, in small letters.
    fn name(&self, source: usize, at: usize, end: usize) -> Option<String> {
        match self.kind(source, at, end)? {
            Kind::Plain(name) => Some(name.to_lowercase()),
            _ => None,
        }
    }

    /// Where the bracket that opens at a place closes.
    fn close(&self, source: usize, at: usize, end: usize) -> usize {
        let mut depth = 0;
        for i in at..end {
            match self.kind(source, i, end) {
                Some(Kind::Open(_)) => depth += 1,
                Some(Kind::Close(_)) => {
                    depth -= 1;
                    if depth == 0 {
                        return i;
                    }
                }
                _ => {}
            }
        }
        end
    }

    /// Where the statement ends that begins at a place.
    fn end_of(&self, source: usize, from: usize, end: usize) -> usize {
        let mut at = from;
        while at < end {
            match self.kind(source, at, end) {
                Some(Kind::End) => return at,
                Some(Kind::Open(_)) => at = self.close(source, at, end),
                _ => {}
            }
            at += 1;
        }
        end
    }

    /// The code between two words.
    fn code(&self, source: usize, words: Range<usize>) -> String {
        let all = &self.sources[source];
        let bytes = &self.visits[all.visit].file.bytes;
        let place = |at: usize| all.words.get(at).map(|w| w.span.clone());
        match (place(words.start), words.end.checked_sub(1).and_then(place)) {
            (Some(first), Some(last)) if first.start <= last.end => {
                String::from_utf8_lossy(&bytes[first.start..last.end]).into_owned()
            }
            _ => String::new(),
        }
    }

    /// The next block behind a place, and what stands before it.
    fn block(&self, source: usize, from: usize, end: usize) -> Option<(Range<usize>, usize)> {
        let mut at = from;
        while at < end {
            match self.kind(source, at, end)? {
                Kind::Open(b'{') => {
                    let close = self.close(source, at, end);
                    return Some((at + 1..close, (close + 1).min(end)));
                }
                Kind::Open(_) => at = self.close(source, at, end),
                _ => {}
            }
            at += 1;
        }
        None
    }

    /// Does statements. What they say goes to `out`, where somebody listens; `perhaps` they are not done at all.
    fn statements(&mut self, (source, range): &Body, mut out: Option<&mut Text>, perhaps: bool) {
        if self.depth > limits::INCLUDES {
            return;
        }
        self.depth += 1;
        let (source, end) = (*source, range.end);
        let mut at = range.start;
        while at < end {
            self.steps += 1;
            if self.steps > limits::STEPS {
                break;
            }
            if matches!(
                self.kind(source, at, end),
                Some(Kind::End | Kind::Close(_) | Kind::Sign(_))
            ) {
                at += 1;
                continue;
            }
            at = self
                .statement(source, at, end, out.as_deref_mut(), perhaps)
                .max(at + 1);
        }
        self.depth -= 1;
    }

    /// Does the statement at a place, and says where the next one begins.
    fn statement(
        &mut self,
        source: usize,
        at: usize,
        end: usize,
        out: Option<&mut Text>,
        perhaps: bool,
    ) -> usize {
        let stop = self.end_of(source, at, end);
        let name = self.name(source, at, end).unwrap_or_default();
        match name.as_str() {
            "function" | "filter" => {
                let Some((body, next)) = self.block(source, at + 1, end) else {
                    return stop;
                };
                let named = self.name(source, at + 1, end).unwrap_or_default();
                let named = named.rsplit(':').next().unwrap_or_default().to_owned();
                let why = perhaps.then(|| Why::from("a condition of the profile"));
                self.functions.insert(named, ((source, body), why));
                next
            }
            "if" => self.choice(source, at, end, out),
            "switch" | "foreach" | "for" | "while" | "do" | "try" | "catch" | "finally"
            | "trap" => {
                let Some((body, next)) = self.block(source, at + 1, end) else {
                    return stop;
                };
                match out {
                    Some(out) => {
                        sign(out, EITHER);
                        self.statements(&(source, body), Some(out), true);
                        sign(out, OR);
                        sign(out, EITHER_END);
                    }
                    None => self.statements(&(source, body), None, true),
                }
                next
            }
            "return" => {
                if let Some(out) = out {
                    self.expression(source, at + 1..stop, out);
                }
                stop
            }
            "write-host" => {
                if let Some(out) = out {
                    self.write_host(source, at + 1..stop, out);
                }
                stop
            }
            "." => {
                self.dot(source, at, stop);
                stop
            }
            "set-psreadlineoption" => {
                self.line_editor(source, at + 1..stop, perhaps);
                stop
            }
            "invoke-expression" | "iex" => {
                self.invoked(source, at + 1..stop);
                stop
            }
            _ => {
                self.plain(source, at..stop, out, perhaps);
                stop
            }
        }
    }

    /// An assignment, a call, or something that is said.
    fn plain(&mut self, source: usize, range: Range<usize>, out: Option<&mut Text>, perhaps: bool) {
        let (at, stop) = (range.start, range.end);
        let invokes = (at..stop).any(|i| {
            matches!(
                self.name(source, i, stop).as_deref(),
                Some("iex" | "invoke-expression")
            )
        });
        if invokes {
            self.invoked(source, at..stop);
            return;
        }
        if let (Some(Kind::Variable(name)), Some(Kind::Sign(equals @ ("=" | "+=")))) =
            (self.kind(source, at, stop), self.kind(source, at + 1, stop))
        {
            let (name, adds) = (name.clone(), *equals == "+=");
            let before = self.variables.get(&name).cloned().unwrap_or_default();
            let mut value = if adds {
                before.clone()
            } else {
                Text::default()
            };
            self.expression(source, at + 2..stop, &mut value);
            if perhaps {
                let mut either = Text::default();
                sign(&mut either, EITHER);
                either.push(&before);
                sign(&mut either, OR);
                either.push(&value);
                sign(&mut either, EITHER_END);
                value = either;
            }
            self.variables.insert(name, value);
            return;
        }
        let Some(out) = out else {
            return;
        };
        match self.name(source, at, stop) {
            Some(name) if self.functions.contains_key(&name) => self.call(&name, out),
            Some(name) if name == "write-output" || name == "echo" => {
                self.expression(source, at + 1..stop, out);
            }
            // A type and what is taken of it is no command.
            Some(name) if !name.starts_with('[') && !name.starts_with('-') => {
                let quiet = [
                    "set-", "import-", "out-null", "$null", "add-", "remove-", "clear-",
                ];
                if !quiet.iter().any(|q| name.starts_with(q)) {
                    mark(out, job(&self.code(source, at..stop)));
                }
            }
            _ => self.expression(source, at..stop, out),
        }
    }

    fn call(&mut self, name: &str, out: &mut Text) {
        if let Some((body, _)) = self.functions.get(name).cloned() {
            self.statements(&body, Some(out), false);
        }
    }

    /// `if … elseif … else`.
    fn choice(&mut self, source: usize, at: usize, end: usize, out: Option<&mut Text>) -> usize {
        let mut ways: Vec<(String, Range<usize>)> = Vec::new();
        let mut next = at;
        let mut has_rest = false;
        loop {
            let Some((body, behind)) = self.block(source, next + 1, end) else {
                return self.end_of(source, at, end);
            };
            ways.push((
                self.code(source, next + 1..body.start - 1).to_lowercase(),
                body,
            ));
            next = behind;
            let mut follows = behind;
            while matches!(self.kind(source, follows, end), Some(Kind::End)) {
                follows += 1;
            }
            match self.name(source, follows, end).as_deref() {
                Some("elseif") => next = follows,
                Some("else") => {
                    has_rest = true;
                    next = follows;
                }
                _ => break,
            }
        }
        let Some(out) = out else {
            // Which of them is done is not known.
            for (_, body) in ways {
                self.statements(&(source, body), None, true);
            }
            return next;
        };
        let first = ways.first().map_or("", |(asked, _)| asked).to_owned();
        let tags = self.tags(&first);
        let before = self.variables.clone();
        let mut after: Vec<BTreeMap<String, Text>> = Vec::new();
        sign(out, EITHER);
        for (i, (_, body)) in ways.into_iter().enumerate() {
            if i > 0 {
                sign(out, OR);
            }
            if let Some(tag) = tags.get(i).copied().flatten() {
                mark(out, tag);
            }
            self.variables.clone_from(&before);
            self.statements(&(source, body), Some(out), false);
            after.push(std::mem::take(&mut self.variables));
        }
        if !has_rest || after.len() == 1 {
            sign(out, OR);
            if let Some(tag) = tags[1].filter(|_| after.len() == 1) {
                mark(out, tag);
            }
            after.push(before.clone());
        }
        sign(out, EITHER_END);
        self.variables = before;
        let names: Vec<String> = after.iter().flat_map(|all| all.keys().cloned()).collect();
        for name in names {
            let values: Vec<Text> = after
                .iter()
                .map(|all| all.get(&name).cloned().unwrap_or_default())
                .collect();
            let value = match values.iter().all(|value| *value == values[0]) {
                true => values[0].clone(),
                false => {
                    let mut either = Text::default();
                    for (i, value) in values.iter().enumerate() {
                        sign(&mut either, if i == 0 { EITHER } else { OR });
                        if let Some(tag) = tags.get(i).copied().flatten() {
                            mark(&mut either, tag);
                        }
                        either.push(value);
                    }
                    sign(&mut either, EITHER_END);
                    either
                }
            };
            // What grows with every question is not followed without end.
            if value.bytes.len() <= MOST {
                self.variables.insert(name, value);
            }
        }
        next
    }

    /// What the first and the second way of a choice are for, by what is asked.
    fn tags(&self, asked: &str) -> [Option<&'static str>; 2] {
        let told = |what: &str| {
            let of = |(name, value): (&String, &Text)| {
                asked.contains(&format!("${name}")) && value.lossy().contains(what)
            };
            self.variables.iter().any(of)
        };
        let number = asked.contains("lastexitcode") || told("\u{2}Jx");
        if asked.contains("isinrole") || asked.contains("id -u") {
            return [Some("Tr"), None];
        }
        if !number && !asked.contains("$?") && !told("\u{2}Jo") {
            return [None, None];
        }
        let turned = asked.contains("-not") || asked.contains('!') || asked.contains("-ne");
        match turned || (number && !asked.contains("-eq")) {
            true => [Some("Tx"), None],
            false => [None, Some("Tx")],
        }
    }

    /// A file that is read where this stands.
    fn dot(&mut self, source: usize, at: usize, stop: usize) {
        let mut said = Text::default();
        self.expression(source, at + 1..stop, &mut said);
        let said = said.lossy();
        if said.contains(MARK as char) || said.contains(EITHER as char) || said.is_empty() {
            return;
        }
        let home = self.access.home();
        let path = match said.strip_prefix("~/") {
            Some(rest) => home.join(rest),
            None => home.join(&said),
        };
        let visit = self.sources[source].visit;
        let span = self.sources[source].words[at].span.clone();
        if path == self.ours {
            self.loaded = Some((visit, span));
            return;
        }
        let file = &self.visits[visit].file;
        let mut chain = self.visits[visit].chain.clone();
        chain.push((file.path.clone(), file.position(span.start).line));
        self.file(&path, &chain);
    }

    /// What a program writes is run: it may set the prompt.
    fn invoked(&mut self, source: usize, range: Range<usize>) {
        let mut program = String::new();
        for i in range.clone() {
            if let Some(name) = self.name(source, i, range.end)
                && !matches!(name.as_str(), "iex" | "invoke-expression" | "out-string")
                && !name.starts_with('-')
            {
                program = name;
                break;
            }
        }
        let words = &self.sources[source].words[range];
        if let Some((from, to)) = words.first().zip(words.last()) {
            let file = &self.visits[self.sources[source].visit].file;
            let whole = &file.bytes[from.span.start..to.span.end];
            self.unknown.note(&program, whole);
        }
    }

    /// `Set-PSReadLineOption -Colors @{ … }`.
    fn line_editor(&mut self, source: usize, range: Range<usize>, perhaps: bool) {
        let mut at = range.start;
        while at < range.end {
            if self.name(source, at, range.end).as_deref() == Some("-colors")
                && matches!(self.kind(source, at + 1, range.end), Some(Kind::Open(b'{')))
            {
                let close = self.close(source, at + 1, range.end);
                self.table(source, at + 2..close, perhaps);
                at = close;
            }
            at += 1;
        }
    }

    fn table(&mut self, source: usize, range: Range<usize>, perhaps: bool) {
        let mut at = range.start;
        while at < range.end {
            let stop = self.end_of(source, at, range.end);
            let key = match self.kind(source, at, stop) {
                Some(Kind::Plain(name)) => Some(name.to_lowercase()),
                Some(Kind::Text(_)) => {
                    let mut key = Text::default();
                    self.expression(source, at..at + 1, &mut key);
                    Some(key.lossy().to_lowercase())
                }
                _ => None,
            };
            if let (Some(key), Some(Kind::Sign("="))) = (key, self.kind(source, at + 1, stop)) {
                let mut value = Text::default();
                self.expression(source, at + 2..stop, &mut value);
                let why = perhaps.then(|| Why::from("a condition of the profile"));
                self.colors
                    .retain(|(known, _)| *known != key || why.is_some());
                self.colors.push((
                    key,
                    Alternative {
                        value: Some(value),
                        why,
                    },
                ));
            }
            at = stop + 1;
        }
    }

    /// What is written to the screen at once, in colors of its own.
    fn write_host(&mut self, source: usize, range: Range<usize>, out: &mut Text) {
        let mut texts: Vec<Range<usize>> = Vec::new();
        let mut colors: Vec<(char, usize)> = Vec::new();
        let mut ends_line = true;
        let mut at = range.start;
        while at < range.end {
            match self.name(source, at, range.end).as_deref() {
                Some(option) if option.starts_with("-f") => {
                    colors.push(('F', at + 1));
                    at += 1;
                }
                Some(option) if option.starts_with("-b") => {
                    colors.push(('K', at + 1));
                    at += 1;
                }
                Some(option) if option.starts_with("-n") => ends_line = false,
                Some(option) if option.starts_with("-s") => at += 1,
                Some(option) if option.starts_with("-o") => {}
                _ => {
                    let next = match self.kind(source, at, range.end) {
                        Some(Kind::Open(_)) => self.close(source, at, range.end) + 1,
                        _ => at + 1,
                    };
                    texts.push(at..next.min(range.end));
                    at = next;
                    continue;
                }
            }
            at += 1;
        }
        for (layer, place) in &colors {
            let mut name = Text::default();
            match self
                .word(source, *place)
                .map(|w| (w.kind.clone(), w.span.clone()))
            {
                Some((Kind::Plain(plain), span)) => {
                    let visit = self.sources[source].visit;
                    // Where it stands a name is wanted: no other color can take its place.
                    name =
                        Text::written(plain.as_bytes(), visit, |i| (i == 0).then_some(span.start));
                }
                _ => self.expression(source, *place..*place + 1, &mut name),
            }
            sign(out, MARK);
            out.push(&Text::nowhere(&layer.to_string()));
            out.push(&name);
            sign(out, MARKED);
        }
        for text in texts {
            self.expression(source, text, out);
        }
        if !colors.is_empty() {
            mark(out, "Fnormal");
        }
        if ends_line {
            out.push(&Text::nowhere("\n"));
        }
    }

    /// The value of what stands between two words, as far as it is known.
    fn expression(&mut self, source: usize, range: Range<usize>, out: &mut Text) {
        self.steps += 1;
        if self.depth > limits::INCLUDES || self.steps > limits::STEPS {
            return;
        }
        let mut at = range.start;
        while at < range.end {
            let Some(word) = self.word(source, at).cloned() else {
                return;
            };
            match word.kind {
                Kind::Text(bits) => self.text(source, &bits, out),
                Kind::Variable(name) => {
                    let mut last = at + 1;
                    while matches!(self.name(source, last, range.end), Some(n) if n.starts_with('.'))
                        || (matches!(self.kind(source, last, range.end), Some(Kind::Open(b'(')))
                            && last > at + 1)
                    {
                        last = match self.kind(source, last, range.end) {
                            Some(Kind::Open(_)) => self.close(source, last, range.end) + 1,
                            _ => last + 1,
                        };
                    }
                    let last = last.min(range.end);
                    let code = self.code(source, at..last);
                    match name.as_str() {
                        "psstyle" => style(&code, &word.span, self.sources[source].visit, out),
                        "env:home" | "home" if last == at + 1 => {
                            let home = self.access.home().to_string_lossy().into_owned();
                            out.push(&Text::nowhere(&home));
                        }
                        _ => match self.variables.get(&name).cloned() {
                            Some(value) => out.push(&value),
                            None => mark(out, job(&code)),
                        },
                    }
                    at = last;
                    continue;
                }
                Kind::Open(b'(') => {
                    let close = self.close(source, at, range.end);
                    let inner = at + 1..close;
                    if self.name(source, inner.start, close).as_deref() == Some("if") {
                        self.statements(&(source, inner), Some(out), false);
                    } else if self.is_said(source, inner.clone()) {
                        self.expression(source, inner, out);
                    } else {
                        let code = self.code(source, inner);
                        mark(out, job(&code));
                    }
                    at = close;
                    // What is taken of it is still it.
                    while matches!(self.name(source, at + 1, range.end), Some(n) if n.starts_with('.'))
                    {
                        at += 1;
                        if matches!(self.kind(source, at + 1, range.end), Some(Kind::Open(b'('))) {
                            at = self.close(source, at + 1, range.end);
                        }
                    }
                }
                Kind::Open(_) => at = self.close(source, at, range.end),
                Kind::Plain(name) => {
                    let lower = name.to_lowercase();
                    match lower.as_str() {
                        "[char]27" | "[char]0x1b" => {
                            let visit = self.sources[source].visit;
                            out.push(&Text::written(b"\x1b", visit, |_| None));
                        }
                        // What follows says how what stands before is put together.
                        "-join" | "-f" | "-replace" | "-split" => return,
                        _ if lower.starts_with("[char]0x") => {
                            let code = u32::from_str_radix(&lower[8..], 16).ok();
                            if let Some(c) = code.and_then(char::from_u32) {
                                out.push(&Text::nowhere(&c.to_string()));
                            }
                        }
                        _ if lower.starts_with('[') => {
                            mark(out, job(&self.code(source, at..range.end)))
                        }
                        _ if self.functions.contains_key(&lower) => self.call(&lower, out),
                        _ => {}
                    }
                }
                Kind::Sign(_) | Kind::End | Kind::Close(_) => {}
            }
            at += 1;
        }
    }

    /// Whether what stands in brackets is put together of texts and variables alone.
    fn is_said(&self, source: usize, range: Range<usize>) -> bool {
        let well = |i: usize| {
            matches!(
                self.kind(source, i, range.end),
                Some(
                    Kind::Text(_)
                        | Kind::Variable(_)
                        | Kind::Sign("+")
                        | Kind::Open(b'(')
                        | Kind::Close(b')')
                )
            ) || matches!(self.name(source, i, range.end), Some(n) if n.starts_with("[char]") || n.starts_with('.') || n.chars().all(|c| c.is_ascii_digit()) || self.functions.contains_key(&n))
        };
        !range.is_empty() && range.clone().all(well)
    }

    /// A text with what stands in it.
    fn text(&mut self, source: usize, bits: &[Bit], out: &mut Text) {
        let visit = self.sources[source].visit;
        for bit in bits {
            match bit {
                // What would be a mark of ours is none.
                Bit::Byte(2..=6 | 0x1e | 0x1f, _) => {}
                Bit::Byte(byte, at) => {
                    let place = Some(*at).filter(|_| *byte != 0x1b || self.is_itself(visit, *at));
                    out.push(&Text::written(&[*byte], visit, |_| place));
                }
                Bit::Variable(name, span) => match self.variables.get(name).cloned() {
                    Some(value) => out.push(&value),
                    None if name == "home" => {
                        let home = self.access.home().to_string_lossy().into_owned();
                        out.push(&Text::nowhere(&home));
                    }
                    None => {
                        let bytes = &self.visits[visit].file.bytes[span.clone()];
                        let code = String::from_utf8_lossy(bytes).into_owned();
                        mark(out, job(&code));
                    }
                },
                Bit::Commands(span) => {
                    let inner = words(&self.visits[visit].file.bytes, span.clone());
                    let end = inner.len();
                    self.sources.push(Source {
                        visit,
                        words: inner,
                    });
                    let of = self.sources.len() - 1;
                    self.depth += 1;
                    let is_if = self.name(of, 0, end).as_deref() == Some("if");
                    if is_if {
                        self.statements(&(of, 0..end), Some(out), false);
                    } else if self.is_said(of, 0..end)
                        || matches!(self.kind(of, 0, end), Some(Kind::Variable(name)) if name == "psstyle")
                    {
                        self.expression(of, 0..end, out);
                    } else {
                        let code = self.code(of, 0..end);
                        mark(out, job(&code));
                    }
                    self.depth -= 1;
                }
            }
        }
    }

    fn is_itself(&self, visit: usize, at: usize) -> bool {
        self.visits[visit].file.bytes.get(at) == Some(&0x1b)
    }
}

/// An entry of the table of styles: `$PSStyle.Foreground.Red`, `.Reset`, `.Foreground.FromRgb(0x112233)`.
fn style(code: &str, span: &Range<usize>, visit: usize, out: &mut Text) {
    let lower = code.to_lowercase();
    let mut parts = lower.split('.').skip(1);
    let layer = match parts.next() {
        Some("foreground") => 'F',
        Some("background") => 'K',
        Some("reset") => {
            mark(out, "Fnormal");
            return;
        }
        _ => return,
    };
    let name = parts.next().unwrap_or_default();
    if let Some(arguments) = name.strip_prefix("fromrgb(") {
        let arguments = arguments.trim_end_matches(')').replace(' ', "");
        let whole = arguments
            .strip_prefix("0x")
            .and_then(|digits| u32::from_str_radix(digits, 16).ok());
        let numbers: Vec<u8> = arguments
            .split(',')
            .filter_map(|n| n.parse().ok())
            .collect();
        let [r, g, b] = match (whole, numbers.as_slice()) {
            (Some(n), _) => [n >> 16 & 255, n >> 8 & 255, n & 255],
            (None, [r, g, b]) => [*r, *g, *b].map(u32::from),
            _ => return,
        };
        let layer = if layer == 'F' { 38 } else { 48 };
        let escape = format!("\x1b[{layer};2;{r};{g};{b}m");
        let at = span.start;
        out.push(&Text::written(escape.as_bytes(), visit, |i| {
            (i == 0).then_some(at)
        }));
        return;
    }
    sign(out, MARK);
    out.push(&Text::nowhere(&layer.to_string()));
    let at = span.start;
    let named = format!("style.{name}");
    out.push(&Text::written(named.as_bytes(), visit, |i| {
        (i == 0).then_some(at)
    }));
    sign(out, MARKED);
}
