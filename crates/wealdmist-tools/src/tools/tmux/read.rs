//! What the files say: options, variables, styles, the chain of 24-bit color, and what is drawn on what.

use std::collections::BTreeMap;
use std::ops::Range;
use std::path::Path;

use wealdmist_core::glyph::Syntax;
use wealdmist_core::property::Property;
use wealdmist_core::reading::{Drawn, FileProblem, Paint, Place, SourceFile, ToolReport, Value};
use wealdmist_core::role::{RoleId, Usage, lookup};

use crate::access::Access;
use crate::document::commands::{self, Command, Word};
use crate::glyphs;
use crate::shared::{self, Includer};
use crate::tools::says_full_color;
use crate::{Facts, Outer};

use super::options::SetCommand;
use super::style::{Style, color, styles};

use super::{SINGLE, STYLED, TMUX};

/// A user option that may stand for a color.
struct Variable {
    value: Value,
    place: Place,
    chain: Vec<Includer>,
    editable: bool,
}

/// A style that was read, for working out what is drawn on what.
struct Block {
    option: String,
    text: Option<usize>,
    ground: Option<usize>,
    prefix: bool,
    part: usize,
}

pub(super) struct Reader<'a> {
    access: &'a dyn Access,
    report: ToolReport,
    variables: BTreeMap<String, Variable>,
    blocks: Vec<Block>,
    true_color: Option<(Place, Vec<String>)>,
    default_terminal: Option<Place>,
}

impl<'a> Reader<'a> {
    pub(super) fn new(access: &'a dyn Access) -> Self {
        Self {
            access,
            report: ToolReport::new(TMUX),
            variables: BTreeMap::new(),
            blocks: Vec::new(),
            true_color: None,
            default_terminal: None,
        }
    }

    pub(super) fn file(&mut self, path: &Path, chain: &[Includer], must_exist: bool) {
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, must_exist)
        else {
            return;
        };
        match commands::parse(&file.bytes) {
            Ok(commands) => self.commands(&file, chain, &commands),
            Err(problem) => {
                let at = Some(file.position(problem.at));
                let message = format!("{problem}; tmux runs no line of this file");
                let help = "correct this place; the file is left alone until then".to_owned();
                let path = file.path;
                self.report.problems.push(FileProblem {
                    path,
                    at,
                    message,
                    help,
                    blocks_edits: true,
                });
            }
        }
    }

    fn commands(&mut self, file: &SourceFile, chain: &[Includer], commands: &[Command]) {
        for command in commands {
            let name = command.words[0].lossy();
            if name.len() >= 2 && ("source-file".starts_with(&name) || name == "source") {
                self.source(file, chain, command);
            } else if let Some(set) = SetCommand::read(command)
                && !set.unset
            {
                self.set(file, chain, &set);
            }
            for word in &command.words {
                if let Some(block) = &word.block {
                    self.commands(file, chain, block);
                }
            }
        }
    }

    fn source(&mut self, file: &SourceFile, chain: &[Includer], command: &Command) {
        let line = file.position(command.span.start).line;
        let mut deeper = chain.to_vec();
        deeper.push((file.path.clone(), line));
        let (mut quiet, mut formats) = (false, false);
        for word in &command.words[1..] {
            let written = word.lossy();
            if let Some(flags) = written.strip_prefix('-') {
                quiet |= flags.contains('q');
                formats |= flags.contains('F');
                continue;
            }
            let folder = file
                .path
                .parent()
                .unwrap_or(&file.path)
                .display()
                .to_string();
            let written = if formats {
                written.replace("#{d:current_file}", &folder)
            } else {
                written
            };
            // Relative paths are relative to where the server was started: the home, as a rule.
            let path = self.access.expand(&written, self.access.home());
            if written.contains(['*', '?']) {
                for found in self.access.glob(&path) {
                    self.file(&found, &deeper, false);
                }
            } else {
                self.file(&path, &deeper, !quiet);
            }
        }
    }

    fn set(&mut self, file: &SourceFile, chain: &[Includer], set: &SetCommand) {
        let Some(value) = set.value.filter(|v| v.block.is_none()) else {
            return;
        };
        let option = set.option.lossy().replace("color", "colour");
        let place = |range: Range<usize>| {
            let source = value.source(range.clone());
            let editable = source.is_some();
            let at = value.nearest(range.start);
            (source.unwrap_or(at..at), editable)
        };
        if option.starts_with('@') {
            if let Some(found) = color(&value.lossy()).filter(|v| !matches!(v, Value::Text(_))) {
                let (span, editable) = place(0..value.text.len());
                let place = Place::new(file, span);
                let chain = chain.to_vec();
                self.variables.insert(
                    option,
                    Variable {
                        value: found,
                        place,
                        chain,
                        editable,
                    },
                );
            }
            return;
        }
        match option.split('[').next().unwrap_or_default() {
            "terminal-features" | "terminal-overrides" => self.depth(file, value),
            "default-terminal" => {
                self.default_terminal = Some(Place::new(file, value.span.clone()))
            }
            _ => {}
        }
        if let Some((_, role)) = SINGLE.iter().find(|s| s.0 == option) {
            if let Some(found) = color(&value.lossy()) {
                let (span, editable) = place(0..value.text.len());
                let mut r = shared::reading(file, chain, RoleId::known(role), option, found, span);
                r.editable = editable;
                self.report.readings.push(r);
            }
            return;
        }
        let Some(known) = STYLED.iter().find(|s| s.0 == option) else {
            return;
        };
        let format = !option.ends_with("-style");
        if !set.append {
            // A new value takes the place of everything read for this option before.
            for reading in self.report.readings.iter_mut().filter(|r| r.key == option) {
                reading.effective = false;
            }
            self.blocks.retain(|b| b.option != option);
        }
        for (n, style) in styles(&value.text, format).into_iter().enumerate() {
            self.style(file, chain, value, known, &style, n);
        }
    }

    fn style(
        &mut self,
        file: &SourceFile,
        chain: &[Includer],
        word: &Word,
        known: &(&'static str, &'static str, &'static str),
        style: &Style,
        part: usize,
    ) {
        let (option, text_role, ground_role) = *known;
        let mut block = Block {
            option: option.to_owned(),
            text: None,
            ground: None,
            prefix: style.prefix,
            part,
        };
        for (is_text, found) in [(true, &style.text), (false, &style.ground)] {
            let Some((value, range)) = found else {
                continue;
            };
            let base = if is_text { text_role } else { ground_role };
            let role = self.role_for(option, base, is_text, style.prefix, value, part);
            let source = word.source(range.clone());
            let at = word.nearest(range.start);
            let editable = source.is_some();
            let span = source.unwrap_or(at..at);
            let mut reading = shared::reading(file, chain, role, option, value.clone(), span);
            reading.editable = editable;
            if let Value::Text(name) = value
                && let Some(variable) = self.variable(name)
            {
                // The color stands where the user option is set: that is the place to change.
                reading.value = variable.value.clone();
                reading.place = variable.place.clone();
                reading.chain = variable.chain.clone();
                reading.editable = variable.editable;
            } else if matches!(value, Value::Text(name) if name.starts_with("#{")) {
                continue;
            }
            let index = self.report.readings.len();
            if is_text {
                block.text = Some(index)
            } else {
                block.ground = Some(index)
            }
            self.report.readings.push(reading);
        }
        self.blocks.push(block);
    }

    fn variable(&self, name: &str) -> Option<&Variable> {
        self.variables
            .get(name.strip_prefix("#{")?.strip_suffix('}')?)
    }

    /// The role of a color in an option: the option's own for the first style and for equal
    /// colors, one for the pressed prefix, and a role by number for further ones.
    fn role_for(
        &self,
        option: &str,
        base: &'static str,
        is_text: bool,
        prefix: bool,
        value: &Value,
        part: usize,
    ) -> RoleId {
        let end = if is_text { "text" } else { "ground" };
        if prefix {
            return RoleId::known(if is_text {
                "bar.prefix.text"
            } else {
                "bar.prefix.ground"
            });
        }
        let role = RoleId::known(base);
        let earlier = self
            .report
            .readings
            .iter()
            .find(|r| r.effective && r.key == option && r.role == role);
        match earlier {
            Some(earlier) if earlier.value != *value => {
                RoleId::new(format!("tmux.{option}.{}.{end}", part + 1))
            }
            _ => role,
        }
    }

    fn depth(&mut self, file: &SourceFile, value: &Word) {
        for entry in value.lossy().split(',') {
            let mut parts = entry.split(':');
            let Some(pattern) = parts.next().filter(|p| !p.is_empty()) else {
                continue;
            };
            if parts.any(|p| matches!(p, "RGB" | "rgb" | "Tc")) {
                let place = Place::new(file, value.span.clone());
                let patterns = self.true_color.get_or_insert_with(|| (place, Vec::new()));
                patterns.1.push(pattern.to_owned());
            }
        }
    }

    pub(super) fn finish(mut self, facts: &Facts) -> ToolReport {
        let mut terms: Vec<&str> = Vec::new();
        for outer in &facts.terminals {
            if !terms.contains(&outer.term.as_str()) {
                terms.push(&outer.term);
                self.depth_reading(outer);
            }
        }
        // Readings of an option that was set again were marked above; a role may still be said
        // by several options (a style and a format), and all of those count.
        self.report.drawn = self.drawn();
        let mut report = self.report;
        glyphs::collect(&mut report, &["#"], |_| Syntax::Shell, |_| false);
        report
    }

    /// Walks the chain from the terminal: does a program inside still get 24-bit colors?
    fn depth_reading(&mut self, outer: &Outer) {
        let Some(main) = self
            .report
            .files
            .iter()
            .find(|f| f.included_from.is_none())
            .cloned()
        else {
            return;
        };
        let by_itself = says_full_color(&outer.term);
        let stated = self.true_color.as_ref().filter(|(_, patterns)| {
            patterns
                .iter()
                .any(|p| crate::access::wildcard(p, &outer.term))
        });
        let (value, place) = match stated {
            Some((place, _)) => ("24-bit", place.clone()),
            None => {
                let place = self.default_terminal.clone();
                let place = place.unwrap_or_else(|| Place::new(&main, 0..0));
                (if by_itself { "24-bit" } else { "256 colors" }, place)
            }
        };
        let value = Value::Text(value.to_owned());
        let file = self.report.file(&place.path).cloned().unwrap_or(main);
        let key = format!("terminal-features for {}", outer.term);
        let mut r = shared::reading(
            &file,
            &[],
            RoleId::from(Property::Depth),
            key,
            value,
            place.span,
        );
        r.editable = stated.is_none();
        self.report.readings.push(r);
    }

    fn drawn(&self) -> Vec<Drawn> {
        let report = &self.report;
        // The style that counts for an option is the last.
        let last: std::collections::HashMap<&str, usize> = self
            .blocks
            .iter()
            .enumerate()
            .map(|(i, b)| (b.option.as_str(), i))
            .collect();
        let inherit = |block: &Block, is_text: bool| -> Paint {
            // A part of the bar without a color of its own has its option's style, else the bar's.
            let styles: &[&str] = match block.option.as_str() {
                "status-left" => &["status-left-style", "status-style"],
                "status-right" => &["status-right-style", "status-style"],
                "window-status-format" => &["window-status-style", "status-style"],
                "window-status-current-format" => &["window-status-current-style", "status-style"],
                o if o.starts_with("window-status") || o.starts_with("status-") => {
                    &["status-style"]
                }
                _ => &[],
            };
            let own = styles.iter().filter(|s| **s != block.option);
            let found = own
                .filter_map(|s| last.get(s).map(|i| &self.blocks[*i]))
                .find_map(|b| if is_text { b.text } else { b.ground });
            let default = match (styles.is_empty(), is_text) {
                (true, true) => "foreground",
                (true, false) => "background",
                (false, true) => "bar.text",
                (false, false) => "bar.ground",
            };
            let role = found.map_or_else(
                || RoleId::known(default),
                |i| report.readings[i].role.clone(),
            );
            Paint {
                role,
                reading: found,
            }
        };
        let mut out: Vec<Drawn> = Vec::new();
        for block in &self.blocks {
            let paint = |index: Option<usize>, is_text: bool| match index {
                Some(i) => Paint {
                    role: report.readings[i].role.clone(),
                    reading: Some(i),
                },
                None => inherit(block, is_text),
            };
            if block.text.is_none() && block.ground.is_none() {
                continue;
            }
            let (text, ground) = (paint(block.text, true), paint(block.ground, false));
            let known = lookup(&text.role);
            let border = block.option.contains("border");
            let usage = match known {
                Some(k) if border => k.usage,
                Some(k) if k.usage != Usage::Decoration => k.usage,
                _ => Usage::Body,
            };
            let what = if block.prefix {
                format!("{}, prefix pressed", block.option)
            } else if block.part > 0 {
                format!("{}, part {}", block.option, block.part + 1)
            } else {
                block.option.clone()
            };
            // A border stands between two panes, which may have grounds of their own.
            if border && block.ground.is_none() {
                for (option, beside) in PANE_STYLES {
                    let style = self.blocks.iter().rev().find(|b| b.option == option);
                    if let Some(i) = style.and_then(|b| b.ground) {
                        out.push(Drawn {
                            what: format!("{what}, beside {beside}"),
                            text: text.clone(),
                            ground: paint(Some(i), false),
                            usage,
                            fade: 1.0,
                        });
                    }
                }
            }
            out.push(Drawn {
                what,
                text,
                ground,
                usage,
                fade: 1.0,
            });
        }
        out
    }
}

/// The options that give panes a ground of their own.
const PANE_STYLES: [(&str, &str); 2] = [
    ("window-style", "inactive panes"),
    ("window-active-style", "the active pane"),
];
