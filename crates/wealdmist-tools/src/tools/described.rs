//! Prompts described as data: a JSON, YAML or TOML file that a shell's startup files give to a program.
//!
//! Which program that is does not matter, nor what its keys are called beyond what everybody calls them: a value that
//! is a color is one, and what it colors follows from the names around it.

use std::collections::{HashMap, HashSet};
use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::plan::{Left, Plan};
use wealdmist_core::prompt::{Kind, Part};
use wealdmist_core::quote::Quoting;
use wealdmist_core::reading::{FileProblem, Reading, SourceFile, ToolId, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};

use crate::access::Access;
use crate::document::json::JSON;
use crate::document::notation::{Damage, Entry, Notation};
use crate::document::toml::Toml;
use crate::document::yaml::Yaml;
use crate::engine::{Adapter, Engine, Facts, Wanted};
use crate::glyphs;
use crate::live::{Live, Reload};
use crate::shared::{self, Edits, Torn};
use crate::sourced::{Stretch, drawn};
use crate::table::spelling;

/// The files.
pub struct Described;

const ID: ToolId = ToolId("prompt-file");

static LIVE: Live = Live::own(Reload::NextPrompt, "when its program draws the next prompt");

/// The entries of a file by what its name ends in.
fn entries(path: &Path, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
    match path.extension().and_then(|e| e.to_str()) {
        Some("json" | "jsonc") => JSON.entries(bytes),
        Some("toml") => Toml.entries(bytes),
        _ => Yaml.entries(bytes),
    }
}

impl Adapter for Described {
    fn id(&self) -> ToolId {
        ID
    }

    fn kind(&self) -> &'static str {
        "prompt described as data"
    }

    fn live(&self) -> &Live {
        &LIVE
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Started
    }

    fn syntax(&self, _path: &Path) -> Syntax {
        Syntax::Data
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let entries = entries(&file.path, &file.bytes).unwrap_or_default();
        let of = |at: &usize| {
            let next = entries.partition_point(|e| e.inner.start <= *at);
            let entry = next.checked_sub(1).map(|i| &entries[i]);
            let entry = entry.filter(|e| e.inner.contains(at));
            let own = entry.filter(|e| !e.bare).map(|e| e.quoting);
            Some([Quoting::Inert].into_iter().chain(own).collect())
        };
        places.iter().map(of).collect()
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        let mut report = ToolReport::new(ID);
        let mut seen: Vec<&PathBuf> = Vec::new();
        let mut stretches = Vec::new();
        for path in &facts.described {
            if seen.contains(&path) {
                continue;
            }
            seen.push(path);
            let Some(file) = shared::load(access, &mut report, path, &[], false) else {
                continue;
            };
            match entries(path, &file.bytes) {
                Ok(entries) => read(&file, &entries, &mut report, &mut stretches),
                Err(damage) => report.problems.push(FileProblem {
                    path: path.clone(),
                    at: Some(file.position(damage.at)),
                    message: damage.message,
                    help: damage.help.to_owned(),
                    blocks_edits: true,
                }),
            }
        }
        glyphs::collect(&mut report, &["#", "//"], |_| Syntax::Data, |_| false);
        report.drawn = drawn(&report, &stretches);
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, _: &dyn Access) -> Plan {
        let mut plan = Plan::default();
        let mut edits = Edits::default();
        let torn = Torn::of(report, wanted);
        let differs = |r: &&Reading| !r.role.is_property() && wanted.differs(ID, r);
        for reading in report.readings.iter().filter(differs) {
            let left = |why| Left {
                tool: ID,
                place: reading.place.clone(),
                what: reading.role.label(),
                why,
            };
            let file = report.file(&reading.place.path);
            let old = file.and_then(|f| f.bytes.get(reading.place.span.clone()));
            match (torn.left(ID, reading), reading.editable) {
                (Some(one), _) => plan.left.push(one),
                (None, false) => plan.left.push(left(UNSURE)),
                (None, true) => {
                    let old = old.and_then(|old| std::str::from_utf8(old).ok());
                    let color = wanted.look.color(&reading.role);
                    edits.replace(reading, spelling::like(color, old));
                }
            }
        }
        plan.edits = edits.finish(ID, report);
        plan
    }
}

/// Why a color stays that is no hexadecimal one.
const UNSURE: &str =
    "whether its program takes `#rrggbb` there is not known: the file says no color so";

/// What a word says of what is colored, by what everybody calls it.
const JOBS: [(&str, &[&str]); 13] = [
    (
        "prompt.failure",
        &[
            "error", "failed", "failure", "fail", "status", "exit", "readonly", "locked",
        ],
    ),
    (
        "prompt.dirty",
        &[
            "dirty",
            "changes",
            "changed",
            "modified",
            "staged",
            "unstaged",
            "untracked",
            "stash",
        ],
    ),
    (
        "prompt.operation",
        &["rebase", "merge", "conflict", "conflicts", "operation"],
    ),
    (
        "prompt.branch",
        &[
            "branch",
            "git",
            "vcs",
            "scm",
            "repo",
            "repository",
            "commit",
        ],
    ),
    (
        "prompt.folder",
        &["folder", "directory", "dir", "cwd", "pwd", "path"],
    ),
    ("prompt.root", &["root", "superuser"]),
    ("prompt.user", &["user", "username"]),
    ("prompt.host", &["host", "hostname", "machine"]),
    (
        "prompt.duration",
        &["duration", "elapsed", "took", "executiontime"],
    ),
    ("prompt.jobs", &["jobs", "job"]),
    ("prompt.time", &["time", "clock", "date"]),
    ("prompt.battery", &["battery"]),
    (
        "prompt.environment",
        &[
            "virtualenv",
            "venv",
            "environment",
            "conda",
            "kubernetes",
            "container",
            "ssh",
        ],
    ),
];

fn job(word: &str) -> Option<&'static str> {
    let known = JOBS.iter().find(|(_, words)| words.contains(&word));
    let language = || {
        let part = Part::named(word)?;
        (part.kind == Kind::Language).then_some("prompt.language")
    };
    known.map(|(role, _)| *role).or_else(language)
}

/// The words of a name or text, in lower case.
fn words(text: &str) -> Vec<String> {
    let mut out: Vec<String> = vec![String::new()];
    let mut before = ' ';
    for c in text.chars().take(200) {
        let begins = c.is_uppercase() && before.is_lowercase();
        if !c.is_alphanumeric() || begins {
            out.push(String::new());
        }
        if let (true, Some(word)) = (c.is_alphanumeric(), out.last_mut()) {
            word.extend(c.to_lowercase());
        }
        before = c;
    }
    out.retain(|word| !word.is_empty());
    out
}

/// What a name of a value says.
#[derive(Debug, Default)]
struct Name {
    /// Whether it is called a color.
    color: bool,
    /// Whether that is of what text stands on.
    ground: bool,
    /// The rest.
    rest: Vec<String>,
}

impl Name {
    fn of(name: &str) -> Self {
        let mut out = Self::default();
        for word in words(name) {
            let stem = word.trim_end_matches("color").trim_end_matches("colour");
            match stem {
                "" | "fg" | "foreground" => out.color = true,
                "bg" | "background" | "back" => (out.color, out.ground) = (true, true),
                "text" | "fore" if stem != word => out.color = true,
                _ => {
                    out.color |= stem != word;
                    out.rest.push(stem.to_owned());
                }
            }
        }
        out
    }
}

/// A color in hexadecimal, of six digits or of three, each of which stands for two.
fn hex(text: &str) -> Option<Rgb> {
    let twice = |digits: &str| -> String { digits.chars().flat_map(|c| [c, c]).collect() };
    match text.strip_prefix('#').filter(|digits| digits.len() == 3) {
        Some(digits) => spelling::hash(&format!("#{}", twice(digits))),
        None => spelling::hash(text),
    }
}

/// A color as such files say it by a word, and whether it is one in hexadecimal.
fn color(text: &str) -> Option<(Value, bool)> {
    if let Some(color) = hex(text) {
        return Some((Value::Color(color), true));
    }
    let words = words(text);
    let slot = |name: &str, bright: bool| {
        let name = if name == "purple" { "magenta" } else { name };
        let slot = Slot::from_key(name).filter(|slot| slot.ansi().is_some_and(|n| n < 8))?;
        let number = slot.ansi()? + if bright { 8 } else { 0 };
        Slot::from_ansi(number).map(Value::Slot)
    };
    let value = match words.iter().map(String::as_str).collect::<Vec<_>>()[..] {
        [] | ["default" | "transparent" | "none"] => Value::Default,
        ["light" | "bright", name] => slot(name, true)?,
        [name] => match name.strip_prefix("light").or(name.strip_prefix("bright")) {
            Some(name) => slot(name, true)?,
            None => slot(name, false)?,
        },
        _ => return None,
    };
    Some((value, false))
}

/// The colors in hexadecimal within a text, each with whether it is a ground.
fn within(text: &str) -> Vec<(Range<usize>, bool)> {
    let mut out = Vec::new();
    for (at, _) in text.match_indices('#') {
        let rest = &text[at + 1..];
        let digits = rest.bytes().take_while(u8::is_ascii_hexdigit).count();
        let free = |c: Option<char>| c.is_none_or(|c| !c.is_alphanumeric());
        let before = &text[..at];
        if matches!(digits, 3 | 6)
            && free(rest[digits..].chars().next())
            && free(before.chars().next_back())
        {
            let before = before.trim_end_matches([':', '=', ' ', ',']);
            let letters = before.chars().rev().take_while(|c| c.is_alphanumeric());
            let word = &before[before.len() - letters.map(char::len_utf8).sum::<usize>()..];
            let ground = matches!(word, "bg" | "on" | "background");
            out.push((at..at + 1 + digits, ground));
        }
    }
    out
}

/// A color of the file.
struct Found {
    /// Which of what is said together.
    group: usize,
    ground: bool,
    /// The words that tell two texts said together apart.
    rest: Vec<String>,
    /// Whether it stands where its name does, and not where that of another color is said.
    own: bool,
    reading: Reading,
}

/// What is said together: the values right below one name.
#[derive(Default)]
struct Group<'a> {
    number: usize,
    path: &'a str,
    members: Vec<&'a Entry>,
}

impl Group<'_> {
    /// What the words around its colors say they are for: those beside them, those above them, texts.
    fn job(&self) -> Option<&'static str> {
        let texts = self
            .members
            .iter()
            .filter(|e| !Name::of(last(&e.path)).color);
        let texts: Vec<Vec<String>> = texts.map(|e| words(&e.text)).collect();
        let short = texts.iter().filter(|words| words.len() == 1).flatten();
        let above = self
            .path
            .rsplit('/')
            .flat_map(|name| words(name).into_iter().rev());
        let all = short
            .cloned()
            .chain(above)
            .chain(texts.iter().flatten().cloned());
        all.into_iter().find_map(|word| job(&word))
    }
}

/// The last of the names of a path.
fn last(path: &str) -> &str {
    path.rsplit('/').next().unwrap_or(path)
}

/// What is above it.
fn above(path: &str) -> &str {
    path.rsplit_once('/').map_or("", |(above, _)| above)
}

/// Reads what a file says of colors.
fn read(
    file: &SourceFile,
    entries: &[Entry],
    report: &mut ToolReport,
    stretches: &mut Vec<Stretch>,
) {
    let mut groups: HashMap<&str, Group> = HashMap::new();
    // Colors that have a name, where others say that name.
    let mut names: HashMap<&str, &Entry> = HashMap::new();
    for entry in entries {
        let number = groups.len() + 1;
        let path = above(&entry.path);
        let group = groups.entry(path).or_insert_with(|| Group {
            number,
            path,
            members: Vec::new(),
        });
        group.members.push(entry);
        if hex(&entry.text).is_some() {
            names.entry(last(&entry.path)).or_insert(entry);
        }
    }
    let jobs: HashMap<&str, Option<&'static str>> = groups
        .iter()
        .map(|(path, group)| (*path, group.job()))
        .collect();
    let takes_hex = entries.iter().any(|e| !within(&e.text).is_empty());
    let mut found: Vec<Found> = Vec::new();
    for entry in entries {
        let path = above(&entry.path);
        let name = Name::of(last(&entry.path));
        let job = name.rest.iter().find_map(|word| job(word));
        let job = job.or(jobs[path]);
        let group = groups[path].number;
        let mut add = |value: Value, at: &Entry, part: Range<usize>, ground: bool, hex: bool| {
            let role = match job {
                _ if ground => RoleId::new(format!("prompt.{group}.ground")),
                Some(job) => RoleId::known(job),
                None => RoleId::known("prompt.text"),
            };
            let key = Toml.shown(&entry.path);
            let mut reading = shared::reading(file, &[], role, key, value, part);
            reading.editable = hex && at.plain && !at.bare;
            found.push(Found {
                group,
                ground,
                rest: name.rest.clone(),
                own: std::ptr::eq(at, entry),
                reading,
            });
        };
        let inner = entry.inner.clone();
        if let Some((value, hex)) = color(&entry.text).filter(|(_, hex)| *hex || name.color) {
            if value != Value::Default || name.ground {
                add(value, entry, inner, name.ground, hex || takes_hex);
            }
        } else if let Some(at) = names.get(referred(&entry.text)).filter(|_| name.color) {
            let color = hex(&at.text).map_or(Value::Default, Value::Color);
            add(color, at, at.inner.clone(), name.ground, true);
        } else if entry.plain {
            for (part, ground) in within(&entry.text) {
                let color = hex(&entry.text[part.clone()]);
                let color = color.map_or(Value::Default, Value::Color);
                let part = inner.start + part.start..inner.start + part.end;
                add(color, entry, part, ground || name.ground, true);
            }
        }
    }
    // A color that has a name is what says the name.
    let named = found.iter().filter(|f| !f.own);
    let named: HashSet<usize> = named.map(|f| f.reading.place.span.start).collect();
    found.retain(|f| !(f.own && named.contains(&f.reading.place.span.start)));
    let first = report.readings.len();
    let mut grounds: HashMap<usize, Vec<usize>> = HashMap::new();
    for (i, one) in found.iter().enumerate().filter(|(_, one)| one.ground) {
        grounds.entry(one.group).or_default().push(i);
    }
    for (i, one) in found.iter().enumerate().filter(|(_, one)| !one.ground) {
        let all = grounds.get(&one.group).map_or(&[][..], Vec::as_slice);
        // Of several that of the same name; a long list of colors says nothing together.
        let same = all.iter().take(MOST).find(|g| found[**g].rest == one.rest);
        stretches.push(Stretch {
            text: Some(first + i),
            ground: same.or(all.first()).map(|g| first + g),
            joins: false,
        });
    }
    report.readings.extend(found.into_iter().map(|f| f.reading));
}

/// The most grounds said together among which that of a text is looked for.
const MOST: usize = 16;

/// The name at the end of a text that refers to a color by it.
fn referred(text: &str) -> &str {
    let is_sign = |c: char| !c.is_alphanumeric() && c != '-' && c != '_';
    text.rsplit(is_sign).next().unwrap_or(text)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::plan;
    use wealdmist_core::look::Look;
    use wealdmist_core::setup::SetupDoc;

    /// A home whose bash gives a file to a program.
    fn home(name: &str, text: &str) -> MemoryAccess {
        let line = format!("eval \"$(gauge start bash --layout=~/{name})\"\n");
        MemoryAccess::with(&[(".bashrc", line.as_str()), (name, text)])
    }

    fn said(access: &MemoryAccess) -> Vec<(String, String, bool)> {
        let reports = crate::read_all(access);
        let report = reports.into_iter().find(|r| r.tool == ID).unwrap();
        assert!(report.problems.is_empty(), "{:?}", report.problems);
        let all = report.readings.iter().filter(|r| !r.role.is_property());
        all.map(|r| (r.role.to_string(), r.value.to_string(), r.editable))
            .collect()
    }

    fn planned(access: &MemoryAccess, setup: &str, name: &str) -> (String, Vec<Left>) {
        let doc = SetupDoc::parse("setup.toml", setup.as_bytes()).unwrap();
        let look = Look::new(doc.setup());
        let plan = plan(doc.setup(), &look, &crate::read_all(access), access, None);
        let edit = plan.edits.iter().find(|e| e.path.ends_with(name));
        let now = &access.files[&access.home().join(name)];
        let after = edit.map_or_else(|| now.clone(), wealdmist_core::plan::FileEdit::after);
        (String::from_utf8(after).unwrap(), plan.left)
    }

    const JSON: &str = r##"{
  // mine
  "inks": { "moss": "#335533", "clay": "#aa6644" },
  "rows": [
    { "shows": "folder", "foreground": "#eeeeee", "background": "ink:moss" },
    { "shows": "git", "fgColor": "@clay", "errorColor": "#ff0000", "text": " {{ .Branch }} " },
    { "text": "icon [#0f0 on #000000]{{ .Host }}[]", "width": 120 },
    { "shows": "clock", "color": "bright blue", "background": "transparent" },
  ]
}
"##;

    #[test]
    fn colors_are_read_by_the_names_around_them() {
        let all = said(&home(".look.json", JSON));
        let wanted = [
            ("prompt.folder", "#eeeeee", true),
            ("prompt.2.ground", "#335533", true),
            ("prompt.branch", "#aa6644", true),
            ("prompt.failure", "#ff0000", true),
            ("prompt.host", "#00ff00", true),
            ("prompt.4.ground", "#000000", true),
            ("prompt.time", "bright-blue", true),
            ("prompt.5.ground", "default", true),
        ];
        let wanted = wanted.map(|(role, value, sure)| (role.to_owned(), value.to_owned(), sure));
        assert_eq!(all, wanted);
    }

    #[test]
    fn colors_are_changed_where_they_stand_and_nothing_else() {
        let setup = "[palettes.a]\n[palettes.a.colors]\none='#123456'\ntwo='#654321'\n[roles]\n'prompt.folder'='one'\n'prompt.branch'='two'\n'prompt.2.ground'='#335533'\n'prompt.failure'='#ff0000'\n'prompt.host'='#00ff00'\n'prompt.4.ground'='#000000'\n'prompt.time'='bright-blue'\n'prompt.5.ground'='background'\n";
        let (after, left) = planned(&home(".look.json", JSON), setup, ".look.json");
        let wanted = JSON
            .replace("#eeeeee", "#123456")
            .replace("#aa6644", "#654321");
        assert_eq!(after, wanted);
        assert!(left.is_empty(), "{left:?}");
        // Where no color is said in hexadecimal it is not known whether one may be.
        let words = "rows:\n- shows: folder\n  color: 'blue'\n- shows: user\n  color: 214\n";
        let home = home("look.yaml", words);
        assert_eq!(said(&home).len(), 1);
        let (after, left) = planned(&home, setup, "look.yaml");
        assert_eq!(after, words);
        assert_eq!(left.len(), 1, "{left:?}");
    }

    #[test]
    fn every_shell_names_the_file() {
        let yaml = "folder:\n  color: \"#112233\"\n";
        for (file, line) in [
            (
                ".bashrc",
                "PROMPT_COMMAND='PS1=\"$(gauge draw -c $HOME/a/look.yml)\"'",
            ),
            (".zshrc", "source <(gauge start zsh \"$HOME/a/look.yml\")"),
            (".zshrc", "PROMPT='$(gauge draw --look ~/a/look.yml)'"),
            (
                ".config/fish/config.fish",
                "gauge start fish --look ~/a/look.yml | source",
            ),
            (
                ".config/fish/config.fish",
                "source (gauge start fish --look ~/a/look.yml | psub)",
            ),
            (
                ".config/powershell/profile.ps1",
                "gauge start pwsh --look \"$env:HOME/a/look.yml\" | Invoke-Expression",
            ),
        ] {
            let text = format!("setopt promptsubst\n{line}\n");
            let access = MemoryAccess::with(&[(file, text.as_str()), ("a/look.yml", yaml)]);
            assert_eq!(said(&access).len(), 1, "{line}");
            let off = format!("# {line}\n");
            let access = MemoryAccess::with(&[(file, off.as_str()), ("a/look.yml", yaml)]);
            assert_eq!(said(&access).len(), 0, "{line}");
        }
    }

    #[test]
    fn damage_is_told_with_its_place() {
        let access = home(".look.json", "{\n \"a\": \"#112233\"\n \"b\": 1}\n");
        let reports = crate::read_all(&access);
        let report = reports.into_iter().find(|r| r.tool == ID).unwrap();
        let at = report.problems[0].at.map(|at| at.line);
        assert_eq!((report.problems.len(), at), (1, Some(2)));
    }
}
