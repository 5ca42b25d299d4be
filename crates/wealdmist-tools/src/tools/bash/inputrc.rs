//! The init file of the library that bash reads lines with: `.inputrc`, and the colors that its variables hold.

use std::collections::BTreeMap;
use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::reading::Value;
use wealdmist_core::role::RoleId;

use crate::access::{Access, Loaded};
use crate::document::lines;
use crate::document::sgr::{self, Layer, value_of};
use crate::evaluated::Visit;
use crate::evaluated::state::{Alternative, Why};
use crate::evaluated::text::Text;
use crate::shared::{self, Includer};
use crate::sourced::Ran;

/// What begins the region that is selected, and what ends it: where one of them is empty, there is neither.
const REGION: [&str; 2] = ["active-region-start-color", "active-region-end-color"];
/// What stands before the prompt for the mode one is in.
const MODES: [&str; 3] = [
    "emacs-mode-string",
    "vi-ins-mode-string",
    "vi-cmd-mode-string",
];

/// What a line's condition comes to.
#[derive(Debug, Clone)]
enum Holds {
    Yes,
    No,
    Perhaps(Why, Why),
}

struct Reader<'a> {
    access: &'a dyn Access,
    ran: &'a mut Ran,
    values: BTreeMap<&'static str, Vec<Alternative>>,
    /// The mode in which lines are edited, once the file says it.
    mode: Option<String>,
}

/// Reads the file, which a startup file may name.
pub fn read(access: &dyn Access, ran: &mut Ran) {
    let own = access.home().join(".inputrc");
    let system = PathBuf::from("/etc/inputrc");
    let there = |path: &Path| !matches!(access.read(path), Loaded::Missing);
    let path = match (
        ran.init.as_slice(),
        access.env("INPUTRC").filter(|path| !path.is_empty()),
    ) {
        ([one], _) if one.why.is_none() => match one.value.as_ref() {
            Some(text) if text.unknown.is_none() => PathBuf::from(text.lossy()),
            _ => return,
        },
        // What it is depends on something: nothing is said of it.
        ([_, ..], _) => return,
        ([], Some(path)) => PathBuf::from(path),
        ([], None) if there(&own) => own,
        // The system's own counts where it says colors, for one who has a startup file.
        ([], None) if !ran.visits.is_empty() && says_colors(access, &system) => system,
        ([], None) => return,
    };
    let mut reader = Reader {
        access,
        ran,
        values: BTreeMap::new(),
        mode: None,
    };
    reader.file(&access.home().join(path), &[], None);
    let values = reader.values;
    let is_empty = |one: &Alternative| {
        let text = one.value.as_ref();
        one.why.is_none() && text.is_none_or(|text| text.bytes.is_empty())
    };
    let no_region = REGION
        .iter()
        .any(|name| values.get(name).is_some_and(|all| all.iter().all(is_empty)));
    for (name, all) in values {
        let is_seen = match name {
            _ if name == REGION[1] => false,
            _ if name == REGION[0] => !no_region,
            _ => true,
        };
        let all = all.into_iter().filter(|_| is_seen);
        ran.others.extend(all.map(|one| (name.to_owned(), one)));
    }
}

/// Whether a file sets a variable that holds colors.
fn says_colors(access: &dyn Access, path: &Path) -> bool {
    let Loaded::File { bytes, .. } = access.read(path) else {
        return false;
    };
    lines::lines(&bytes).any(|line| {
        let span = lines::trim(&bytes, line.span);
        let is_set = bytes[span.clone()]
            .get(..3)
            .is_some_and(|w| w.eq_ignore_ascii_case(b"set"));
        let name = setting(&bytes, &span)
            .filter(|_| is_set)
            .map(|(name, _)| name.to_lowercase());
        name.is_some_and(|name| REGION.iter().chain(&MODES).any(|known| **known == name))
    })
}

impl Reader<'_> {
    fn file(&mut self, path: &Path, chain: &[Includer], outer: Option<&Why>) {
        let report = &mut self.ran.report;
        let Some(file) = shared::load(self.access, report, path, chain, false) else {
            return;
        };
        let visit = self.ran.visits.len();
        self.ran.visits.push(Visit {
            file: file.clone(),
            chain: chain.to_vec(),
        });
        let mut open: Vec<Holds> = Vec::new();
        for line in lines::lines(&file.bytes) {
            let span = lines::trim(&file.bytes, line.span.clone());
            let text = String::from_utf8_lossy(&file.bytes[span.clone()]).into_owned();
            let live = !open.iter().any(|holds| matches!(holds, Holds::No));
            let why = open.iter().find_map(|holds| match holds {
                Holds::Perhaps(why, _) => Some(Why::clone(why)),
                _ => None,
            });
            let why = outer.cloned().or(why);
            let (word, rest) = text
                .split_once(char::is_whitespace)
                .unwrap_or((text.as_str(), ""));
            match word.to_ascii_lowercase().as_str() {
                "$if" => open.push(self.holds(rest.trim())),
                "$else" => {
                    if let Some(last) = open.last_mut() {
                        *last = match last.clone() {
                            Holds::Yes => Holds::No,
                            Holds::No => Holds::Yes,
                            Holds::Perhaps(why, otherwise) => Holds::Perhaps(otherwise, why),
                        };
                    }
                }
                "$endif" => drop(open.pop()),
                "$include" if live => {
                    let mut deeper = chain.to_vec();
                    deeper.push((file.path.clone(), line.number));
                    let base = file.path.parent().unwrap_or(&file.path);
                    let target = self.access.expand(rest.trim(), base);
                    self.file(&target, &deeper, why.as_ref());
                }
                "set" if live => {
                    let Some((name, part)) = setting(&file.bytes, &span) else {
                        continue;
                    };
                    let name = name.to_ascii_lowercase();
                    let written = &file.bytes[part.clone()];
                    if name == "editing-mode" {
                        let said = String::from_utf8_lossy(written).to_ascii_lowercase();
                        self.mode = Some(said).filter(|_| why.is_none());
                    }
                    let known = REGION.iter().chain(&MODES).find(|known| **known == name);
                    if let Some(name) = known {
                        let text = Text::written(written, visit, |i| Some(part.start + i));
                        self.set(name, text, why.as_ref());
                    }
                }
                _ => {}
            }
        }
    }

    fn set(&mut self, name: &'static str, text: Text, why: Option<&Why>) {
        let all = self.values.entry(name).or_default();
        let one = Alternative {
            value: Some(text),
            why: why.cloned(),
        };
        match why {
            None => *all = vec![one],
            Some(why) => {
                for before in all.iter_mut().filter(|before| before.why.is_none()) {
                    before.why = Some(format!("unless it is {why}").into());
                }
                all.push(one);
            }
        }
    }

    fn holds(&self, condition: &str) -> Holds {
        let lower = condition.to_ascii_lowercase();
        let perhaps = |what: String| {
            let otherwise = format!("otherwise than {what}");
            Holds::Perhaps(what.into(), otherwise.into())
        };
        let of = |is: bool| if is { Holds::Yes } else { Holds::No };
        match lower.split_once('=') {
            Some(("mode", mode)) => match &self.mode {
                Some(known) => of(known == mode),
                None => perhaps(format!("where lines are edited in {mode} mode")),
            },
            Some(("term", term)) => perhaps(format!("where TERM is {term}")),
            Some(_) => perhaps(format!("where {lower}")),
            None if lower.starts_with("version") => perhaps(format!("where its {lower}")),
            None if lower.contains(['!', ' ']) => perhaps(format!("where {lower}")),
            None => of(lower == "bash"),
        }
    }
}

/// The name and the value of a line that sets a variable.
fn setting(bytes: &[u8], line: &Range<usize>) -> Option<(String, Range<usize>)> {
    let blank = |at: &usize| !matches!(bytes[*at], b' ' | b'\t');
    let mut places = line.start + 3..line.end;
    let from = places.find(blank)?;
    let to = (from..line.end).find(|at| !blank(at)).unwrap_or(line.end);
    let name = String::from_utf8_lossy(&bytes[from..to]).into_owned();
    let start = (to..line.end).find(blank).unwrap_or(line.end);
    if bytes.get(start) != Some(&b'"') || start >= line.end {
        return Some((name, start..line.end));
    }
    let (mut at, start) = (start + 1, start + 1);
    while at < line.end && bytes[at] != b'"' {
        at += if bytes[at] == b'\\' { 2 } else { 1 };
    }
    Some((name, start..at.min(line.end)))
}

/// The colors that a variable holds, each with its job.
pub fn others(name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
    let mut out: Vec<(RoleId, Value, Range<usize>)> = Vec::new();
    for found in sgr::colors(text, 0..text.len()) {
        let role = match (name, found.layer) {
            (name, Layer::Text) if name == REGION[0] => RoleId::known("shell.selection"),
            (name, Layer::Ground) if name == REGION[0] => RoleId::known("shell.selection.ground"),
            (_, Layer::Text) => RoleId::known("prompt.mode"),
            (name, Layer::Ground) => RoleId::new(format!("bash.{name}.ground")),
        };
        // Of a region what comes last counts.
        if name == REGION[0] {
            out.retain(|(known, ..)| *known != role);
        }
        if let Some(value) = found.color.and_then(value_of) {
            out.push((role, value, found.span));
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use crate::access::MemoryAccess;
    use crate::{Adapter, Facts};

    fn read(text: &str) -> Vec<String> {
        let access = MemoryAccess::with(&[
            (".inputrc", text),
            (".more", "set vi-cmd-mode-string \\e[36mx\n"),
        ]);
        let report = super::super::BASH.read(&access, &mut Facts::default());
        let of = report.readings.iter().filter(|r| r.key.contains('-'));
        of.map(|r| {
            format!(
                "{}={} {} {}",
                r.role,
                r.value,
                r.place.at.line,
                r.standing.key()
            )
        })
        .collect()
    }

    #[test]
    fn colors_of_the_line_editor_are_read() {
        let text = "set active-region-start-color \"\\e[38;2;1;2;3;44m\" # x\n  SET vi-ins-mode-string \"\\1\\e[32m\\2i\"\n$if Bash\n$include ~/.more\n$else\nset vi-cmd-mode-string \"\\e[31mn\"\n$endif\n$if mode=vi\nset emacs-mode-string \\e[33m@\n$endif\n";
        assert_eq!(
            read(text),
            [
                "shell.selection=#010203 1 certain",
                "shell.selection.ground=blue 1 certain",
                "prompt.mode=yellow 9 conditional",
                "prompt.mode=cyan 1 certain",
                "prompt.mode=green 2 certain",
            ]
        );
        let off = format!("{text}set active-region-end-color \"\"\n");
        assert_eq!(read(&off).len(), 3);
    }

    #[test]
    fn the_systems_own_file_counts_where_it_says_colors() {
        let files = |rc: bool, system: &str| {
            let mut all = vec![("/etc/inputrc", system)];
            all.extend(rc.then_some((".bashrc", "x=1\n")));
            let access = MemoryAccess::with(&all);
            let report = super::super::BASH.read(&access, &mut Facts::default());
            (report.files.len(), report.readings.len())
        };
        let colors = "set active-region-start-color \"\\e[31m\"\n";
        assert_eq!(files(false, colors), (0, 0));
        let plain = files(
            true,
            "set bell-style none\n# set emacs-mode-string \\e[31m\n",
        );
        assert_eq!(plain.0, 1);
        assert_eq!(files(true, colors), (2, plain.1 + 1));
    }

    #[test]
    fn a_color_of_the_line_editor_is_changed_where_it_stands() {
        let access =
            MemoryAccess::with(&[(".inputrc", "set active-region-start-color \"\\e[1;31m\"\n")]);
        let setup = "[palettes.a]\n[roles]\n'shell.selection'='#0a0b0c'\n";
        let edits = crate::testing::planned(&super::super::BASH, &access, setup);
        assert_eq!(
            edits[0].1,
            "set active-region-start-color \"\\e[1;38;2;10;11;12m\"\n"
        );
    }
}
