//! The multiplexer tmux: `tmux.conf` with the files it sources.
//!
//! Colors stand inside style strings and formats; they are read there and replaced there, byte
//! by byte, so conditions, padding and the person's own formats stay.

mod options;
mod style;

use std::collections::BTreeMap;
use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::glyph::Syntax;
use wealdmist_core::plan::Plan;
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{
    Drawn, FileProblem, Paint, Place, SourceFile, ToolId, ToolReport, Value,
};
use wealdmist_core::role::{RoleId, Usage, lookup};

use crate::access::Access;
use crate::document::commands::{self, Command, Word};
use crate::engine::{Engine, Options, StatedOption};
use crate::glyphs;
use crate::shared::{self, Edits, Includer};
use crate::tools::says_full_color;
use crate::{Adapter, Facts, Live, Outer, Reload, Wanted};

use options::SetCommand;
use style::{Style, color, styles};

use options::{stated_options, stated_values};

/// The tool's id.
pub const TMUX: ToolId = ToolId("tmux");

/// The adapter.
pub struct Tmux;

/// Options that hold a style or a format, with the roles of its text and ground.
const STYLED: &[(&str, &str, &str)] = &[
    ("status-style", "bar.text", "bar.ground"),
    ("status-left-style", "bar.left.text", "bar.left.ground"),
    ("status-right-style", "bar.right.text", "bar.right.ground"),
    ("status-left", "bar.left.text", "bar.left.ground"),
    ("status-right", "bar.right.text", "bar.right.ground"),
    (
        "window-status-style",
        "bar.window.text",
        "bar.window.ground",
    ),
    (
        "window-status-format",
        "bar.window.text",
        "bar.window.ground",
    ),
    (
        "window-status-current-style",
        "bar.current.text",
        "bar.current.ground",
    ),
    (
        "window-status-current-format",
        "bar.current.text",
        "bar.current.ground",
    ),
    (
        "window-status-last-style",
        "bar.last.text",
        "tmux.window-status-last-style.ground",
    ),
    (
        "window-status-bell-style",
        "bar.alert.text",
        "tmux.window-status-bell-style.ground",
    ),
    (
        "window-status-activity-style",
        "bar.alert.text",
        "tmux.window-status-activity-style.ground",
    ),
    ("message-style", "message.text", "message.ground"),
    ("message-command-style", "message.text", "message.ground"),
    ("mode-style", "selection-text", "selection"),
    ("copy-mode-match-style", "search.text", "search.ground"),
    (
        "copy-mode-current-match-style",
        "search.current.text",
        "search.current.ground",
    ),
    (
        "pane-border-style",
        "border.inactive",
        "tmux.pane-border-style.ground",
    ),
    (
        "pane-active-border-style",
        "border.active",
        "tmux.pane-active-border-style.ground",
    ),
    ("popup-style", "popup.text", "popup.ground"),
    (
        "window-style",
        "tmux.window-style.text",
        "tmux.window-style.ground",
    ),
    (
        "window-active-style",
        "tmux.window-active-style.text",
        "tmux.window-active-style.ground",
    ),
];

/// Options that hold one color.
const SINGLE: &[(&str, &str)] = &[
    ("status-fg", "bar.text"),
    ("status-bg", "bar.ground"),
    ("display-panes-active-colour", "border.active"),
    ("display-panes-colour", "border.inactive"),
    ("clock-mode-colour", "tmux.clock-mode-colour.text"),
    ("cursor-colour", "cursor"),
];

/// The files the program reads, in the order it reads them; all that exist count.
fn candidates(access: &dyn Access) -> Vec<PathBuf> {
    let mut out = vec![
        access.home().join(".tmux.conf"),
        access.config_home().join("tmux/tmux.conf"),
    ];
    let usual = access.home().join(".config/tmux/tmux.conf");
    if !out.contains(&usual) {
        out.push(usual);
    }
    out
}

/// Options whose value is drawn, beside the styled ones: formats of titles and borders.
const DRAWN: [&str; 5] = [
    "set-titles-string",
    "pane-border-format",
    "status-format",
    "window-status-separator",
    "automatic-rename-format",
];

/// The values of options that are drawn, in the order they stand.
fn drawn_texts<'a>(commands: &'a [Command], out: &mut Vec<&'a Word>) {
    for command in commands {
        if let Some(set) = SetCommand::read(command) {
            let option = set.option.lossy().replace("color", "colour");
            let option = option.split('[').next().unwrap_or_default().to_owned();
            let known = STYLED
                .iter()
                .any(|s| s.0 == option && !option.ends_with("-style"));
            if known || DRAWN.contains(&option.as_str()) {
                out.extend(set.value);
            }
        }
        for block in command.words.iter().filter_map(|w| w.block.as_ref()) {
            drawn_texts(block, out);
        }
    }
}

/// Whether a format stands in a command to the shell, `#(…)`, at its end.
fn open_command(format: &[u8]) -> bool {
    let (mut depth, mut at) = (0usize, 0);
    while at < format.len() {
        match (format[at], format.get(at + 1)) {
            (b'#', Some(b'(')) => {
                depth += 1;
                at += 1;
            }
            (b'(', _) if depth > 0 => depth += 1,
            (b')', _) => depth = depth.saturating_sub(1),
            _ => {}
        }
        at += 1;
    }
    depth > 0
}

impl Options for Tmux {
    fn stated(&self, report: &ToolReport) -> Vec<StatedOption> {
        stated_options(report)
    }

    fn values(&self, report: &ToolReport) -> Vec<(String, bool, String)> {
        stated_values(report)
    }
}

impl Adapter for Tmux {
    fn id(&self) -> ToolId {
        TMUX
    }

    fn kind(&self) -> &'static str {
        "multiplexer"
    }

    fn live(&self) -> &Live {
        const LIVE: Live = Live {
            inside: Some("TMUX"),
            sockets: &["{TMUX_TMPDIR:/tmp}/tmux-{uid}/*"],
            ..Live::own(
                Reload::Socket,
                "at once, in every server of this home; color depth when a client attaches again",
            )
        };
        &LIVE
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Options(self)
    }

    fn syntax(&self, _path: &Path) -> Syntax {
        Syntax::Shell
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let commands = commands::parse(&file.bytes).unwrap_or_default();
        let mut drawn = Vec::new();
        drawn_texts(&commands, &mut drawn);
        let quotes = glyphs::shell_quotes(&file.bytes, places);
        let of = |(quotes, at): (Option<Quoting>, &usize)| {
            // They stand in the order of the file, and none in another.
            let next = drawn.partition_point(|w: &&Word| w.span.start <= *at);
            let word = next.checked_sub(1).map(|i| drawn[i]);
            let is_drawn = word
                .is_some_and(|w| w.span.contains(at) && !open_command(&w.text[..w.before(*at)]));
            let inner = if is_drawn {
                Quoting::BarText
            } else {
                Quoting::Inert
            };
            Some(vec![inner, quotes?])
        };
        quotes.into_iter().zip(places).map(of).collect()
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        let mut reader = Reader {
            access,
            report: ToolReport::new(TMUX),
            variables: BTreeMap::new(),
            blocks: Vec::new(),
            true_color: None,
            default_terminal: None,
        };
        for path in candidates(access) {
            reader.file(&path, &[], false);
        }
        reader.finish(facts)
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let mut edits = Edits::default();
        // A user option may hold the color of several roles: the first of them decides over it, or
        // each plan would take back what the last one did.
        let mut decided = std::collections::HashSet::new();
        let mut indices = feature_indices(report);
        for reading in report.readings.iter().filter(|r| r.effective) {
            if reading.role == Property::Depth.into() {
                if wanted.differs(TMUX, reading) {
                    self.mend_depth(report, reading, &mut edits, &mut indices);
                }
                continue;
            }
            let place = (&reading.place.path, reading.place.span.clone());
            if !decided.insert(place) || !wanted.differs(TMUX, reading) {
                continue;
            }
            if reading.editable && !reading.role.is_property() {
                edits.replace(reading, Code::color(wanted.look.color(&reading.role)));
            }
        }
        self.add_missing(wanted, report, access, &mut edits);
        edits.finish(TMUX, report).into()
    }
}

/// The numbers of the features of terminals that the files set.
fn feature_indices(report: &ToolReport) -> Vec<u64> {
    const NAME: &[u8] = b"terminal-features[";
    let mut out = Vec::new();
    for file in &report.files {
        for at in memchr::memmem::find_iter(&file.bytes, NAME) {
            let digits = file.bytes[at + NAME.len()..].iter().take(9);
            let digits = digits.take_while(|b| b.is_ascii_digit());
            out.push(digits.fold(0, |n, b| n * 10 + u64::from(b - b'0')));
        }
    }
    out
}

impl Tmux {
    /// Adds the line that keeps 24-bit colors. An array index instead of appending, so that the
    /// file can be read any number of times.
    fn mend_depth(
        &self,
        report: &ToolReport,
        reading: &wealdmist_core::reading::Reading,
        edits: &mut Edits,
        indices: &mut Vec<u64>,
    ) {
        let Some(file) = report.file(&reading.place.path) else {
            return;
        };
        let term = reading.key.rsplit(' ').next().unwrap_or("*");
        // A pattern of terminal names, as another tool's dotfile says it.
        let pattern = match term {
            "*" => Code::fixed("*"),
            term => match quote(term, &[Quoting::Word]) {
                Some(pattern) => pattern,
                None => return,
            },
        };
        // The first from 80 on that no line has: the program's own stand below.
        let index = (80..).find(|i| !indices.contains(i)).unwrap_or(80);
        indices.push(index);
        let line = Code::of(
            "set -s 'terminal-features[{}]' '{}:RGB'",
            &[&Code::whole(index), &pattern],
        );
        let why = format!("24-bit colors for programs under {term}");
        let has_line = reading.place.span.end > reading.place.span.start;
        let mut splice = if has_line {
            shared::line_below(&file.bytes, reading.place.span.start, &line, why)
        } else {
            shared::append_line(&file.bytes, &line, why)
        };
        splice.role = Some(reading.role.clone());
        edits.add(&reading.place.path, splice);
    }

    /// Adds the options of roles the setup wants here and the files do not set.
    fn add_missing(
        &self,
        wanted: &Wanted,
        report: &ToolReport,
        access: &dyn Access,
        edits: &mut Edits,
    ) {
        let adds = wanted.setup.tool(TMUX).adds;
        if adds.is_empty() {
            return;
        }
        let main = report.files.iter().find(|f| f.included_from.is_none());
        let path = match main {
            Some(file) => file.path.clone(),
            None if access.has_program("tmux") => access.config_home().join("tmux/tmux.conf"),
            None => return,
        };
        let bytes = main.map_or(&[][..], |f| &f.bytes[..]);
        for (option, text_role, ground_role) in STYLED.iter().filter(|s| s.0.ends_with("style")) {
            let mut parts = Vec::new();
            for (key, role) in [("fg", *text_role), ("bg", *ground_role)] {
                let role = RoleId::known(role);
                if adds.contains(&role) && report.effective(&role).is_none() {
                    let color = Code::color(wanted.look.color(&role));
                    parts.push(Code::of("{}={}", &[&Code::fixed(key), &color]));
                }
            }
            if !parts.is_empty() {
                let parts = Code::join(&parts, ",");
                let line = Code::of("set -g {} \"{}\"", &[&Code::fixed(option), &parts]);
                let why = format!("{option}: {} (not in the file yet)", parts.lossy());
                edits.add(&path, shared::append_line(bytes, &line, why));
            }
        }
    }
}

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

struct Reader<'a> {
    access: &'a dyn Access,
    report: ToolReport,
    variables: BTreeMap<String, Variable>,
    blocks: Vec<Block>,
    true_color: Option<(Place, Vec<String>)>,
    default_terminal: Option<Place>,
}

impl Reader<'_> {
    fn file(&mut self, path: &Path, chain: &[Includer], must_exist: bool) {
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

    fn finish(mut self, facts: &Facts) -> ToolReport {
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use proptest::prelude::*;
    use wealdmist_core::Rgb;
    use wealdmist_core::look::Look;
    use wealdmist_core::plan::{Change, splice};
    use wealdmist_core::setup::SetupDoc;

    fn access(conf: &str) -> MemoryAccess {
        MemoryAccess::with(&[(".tmux.conf", conf)])
    }

    fn outer(term: &str) -> Outer {
        Outer {
            tool: ToolId("t"),
            term: term.to_owned(),
        }
    }

    fn read(conf: &str, term: Option<&str>) -> ToolReport {
        let mut facts = Facts {
            terminals: term.map(outer).into_iter().collect(),
        };
        Tmux.read(&access(conf), &mut facts)
    }

    fn said(report: &ToolReport) -> Vec<String> {
        let row = |r: &wealdmist_core::reading::Reading| format!("{}={}", r.role, r.value);
        report
            .readings
            .iter()
            .filter(|r| r.effective)
            .map(row)
            .collect()
    }

    #[test]
    fn styles_and_formats_are_read_where_they_stand() {
        let report = read(
            "set -g status-style bg=#101010,fg=white\nset -g status-left \"#{?client_prefix,#[fg=#000001#,bg=#000002],#[fg=#000003]} #S #[fg=#000004 bold]x\"\nsetw -g window-status-bell-style 'fg=colour75 bold'\n",
            None,
        );
        assert_eq!(
            said(&report),
            [
                "bar.text=white",
                "bar.ground=#101010",
                "bar.prefix.text=#000001",
                "bar.prefix.ground=#000002",
                "bar.left.text=#000003",
                "tmux.status-left.3.text=#000004",
                "bar.alert.text=#5fafff",
            ]
        );
        for reading in report
            .readings
            .iter()
            .filter(|r| matches!(r.value, Value::Color(_)))
        {
            let text = &report.files[0].bytes[reading.place.span.clone()];
            let text = String::from_utf8_lossy(text);
            assert!(
                text == reading.value.to_string() || text == "colour75",
                "{text}"
            );
        }
    }

    #[test]
    fn a_variable_is_changed_where_it_is_set() {
        let conf = "set -g @edge '#334455'\nset -g pane-active-border-style 'fg=#{@edge}'\n";
        let report = read(conf, None);
        let reading = report.effective(&RoleId::known("border.active")).unwrap();
        assert_eq!(reading.value, Value::Color(Rgb::from_u32(0x33_4455)));
        assert_eq!(reading.place.at.line, 1);
    }

    #[test]
    fn a_later_value_takes_the_place_of_an_earlier_one() {
        let conf = "set -g status-style fg=#010101\nset -g status-style fg=#020202\nset -ga status-style bg=#030303\n";
        assert_eq!(
            said(&read(conf, None)),
            ["bar.text=#020202", "bar.ground=#030303"]
        );
    }

    #[test]
    fn the_chain_of_24_bit_color_is_walked() {
        let depth = |conf: &str, term: &str| {
            let report = read(conf, Some(term));
            report
                .effective(&RoleId::from(Property::Depth))
                .map(|r| r.value.to_string())
        };
        assert_eq!(
            depth("set -g mouse on\n", "xterm-kitty").as_deref(),
            Some("24-bit")
        );
        assert_eq!(
            depth("set -g mouse on\n", "xterm-256color").as_deref(),
            Some("256 colors")
        );
        let features = "set -as terminal-features ',xterm*:RGB'\n";
        assert_eq!(depth(features, "xterm-256color").as_deref(), Some("24-bit"));
        assert_eq!(depth(features, "foot").as_deref(), Some("256 colors"));
    }

    #[test]
    fn a_file_the_program_refuses_is_left_alone() {
        let report = read("set -g status-style fg=#010101\nif x {\n", None);
        assert!(report.problems[0].blocks_edits);
        assert_eq!(report.problems[0].at.unwrap().line, 2);
    }

    #[test]
    fn borders_are_judged_against_the_panes_at_both_sides() {
        let report = read(
            "set -g window-style 'bg=#202020'\nset -g window-active-style 'bg=#101010'\nset -g pane-border-style 'fg=#333333'\n",
            None,
        );
        let found: Vec<&Drawn> = report
            .drawn
            .iter()
            .filter(|d| d.what.starts_with("pane-border-style"))
            .collect();
        assert_eq!(found.len(), 3, "{found:?}");
        assert!(
            found
                .iter()
                .any(|d| d.what.ends_with("beside the active pane"))
        );
    }

    #[test]
    fn what_is_drawn_knows_both_its_colors() {
        let conf = "set -g status-style bg=#101010,fg=#eeeeee\nset -g status-right '#[fg=#777777]x'\nset -g pane-border-style fg=#222222\n";
        let report = read(conf, None);
        let right = report
            .drawn
            .iter()
            .find(|d| d.what == "status-right")
            .unwrap();
        let ground = &report.readings[right.ground.reading.unwrap()];
        assert_eq!(ground.value, Value::Color(Rgb::from_u32(0x10_1010)));
        let border = report
            .drawn
            .iter()
            .find(|d| d.what == "pane-border-style")
            .unwrap();
        assert_eq!(border.ground.role, RoleId::known("background"));
        assert_eq!(border.usage, Usage::Decoration);
    }

    #[test]
    fn stated_options_know_what_was_appended() {
        let conf = "set -g status-style fg=red\nset -as terminal-features ',x:RGB'\nsetw -g mode-keys vi\n";
        let options = stated_options(&read(conf, None));
        let find = |n: &str| options.iter().find(|o| o.name == n).unwrap();
        assert!(find("terminal-features").appended && find("terminal-features").scope == "-s");
        assert_eq!(find("mode-keys").scope, "-gw");
        assert!(!find("status-style").appended);
    }

    const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\n'bar.left.text'='#abcdef'\n'border.active'='#fedcba'\n";

    fn apply(conf: &str, term: &str) -> String {
        let setup = SetupDoc::parse("s", SETUP.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        let access = access(conf);
        let report = Tmux.read(
            &access,
            &mut Facts {
                terminals: vec![outer(term)],
            },
        );
        let wanted = Wanted {
            setup: &setup,
            look: &look,
            catalog: None,
        };
        match Tmux
            .plan(&wanted, &report, &access)
            .edits
            .pop()
            .map(|e| e.change)
        {
            Some(Change::Splices(splices)) => {
                String::from_utf8(splice(conf.as_bytes(), &splices)).unwrap()
            }
            _ => conf.to_owned(),
        }
    }

    #[test]
    fn colors_are_replaced_inside_their_strings() {
        let conf = "# c\nset -g status-left \"#{?client_prefix,#[fg=#000001],#[fg=#000003#,bold]} #S\" # no comment\nset -g pane-active-border-style fg=green,bold\n";
        let after = apply(conf, "xterm-kitty");
        assert!(after.contains(",#[fg=#abcdef#,bold]} #S\""), "{after}");
        assert!(after.contains("fg=#fedcba,bold\n"), "{after}");
        let once = apply("set -g default-terminal tmux-256color\n", "xterm-256color");
        assert!(
            once.contains("\nset -s 'terminal-features[80]' 'xterm-256color:RGB'\n"),
            "{once}"
        );
        assert_eq!(
            apply(&once, "xterm-256color"),
            once,
            "a second plan is empty"
        );
    }

    proptest! {
        #[test]
        fn any_value_is_taken(value in "[a-z#{}?,=\\[\\] @0-9_]{0,60}", format in any::<bool>()) {
            for style in styles(value.as_bytes(), format) {
                for (_, range) in [style.text, style.ground].into_iter().flatten() {
                    prop_assert!(range.end <= value.len());
                }
            }
        }
    }
}
