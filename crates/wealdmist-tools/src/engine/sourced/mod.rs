//! The engine of shells: a script of ours, and one line in the person's own file that loads it.
//!
//! A shell is a row: where its file is, what our script is called, how a change arrives. What only its
//! language knows (how a line loads a file, how a prompt of the person's own is written, how the script
//! is) is its [`Dialect`].

mod generation;
pub mod repository;

use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Plan, Splice};
use wealdmist_core::property::{OUR_THEME, Property};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{Drawn, Paint, Reading, SourceFile, ToolId, ToolReport, Value};
use wealdmist_core::role::{RoleId, Usage};
use wealdmist_core::setup::Setup;

use crate::access::Access;
use crate::document::lines;
use crate::engine::{Adapter, Engine, Facts, Wanted};
use crate::glyphs;
use crate::live::Live;
use crate::shared::{self, Edits, Includer, own_folder};

pub use generation::{generation, marked};

/// A shell.
pub struct Sourced {
    /// The name on the command line and in the setup file.
    pub id: ToolId,
    /// The program.
    pub program: &'static str,
    /// The person's file that it reads first.
    pub file: fn(&dyn Access) -> PathBuf,
    /// What our script is called.
    pub ours: &'static str,
    /// What begins a comment.
    pub comment: &'static str,
    /// Which escapes its files have.
    pub syntax: Syntax,
    /// How a change arrives.
    pub live: Live,
    /// What only its language knows.
    pub dialect: &'static dyn Dialect,
}

/// A line of a shell's file, without blanks around it.
#[derive(Debug, Clone, Copy)]
pub struct Line<'a> {
    /// The file.
    pub file: &'a SourceFile,
    /// The includes that led there.
    pub chain: &'a [Includer],
    /// Where in the file the line begins.
    pub start: usize,
    /// Its bytes.
    pub bytes: &'a [u8],
}

/// A stretch of a prompt of the person's own in one text color on one ground: the readings that say
/// them, by their place in the report.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stretch {
    /// Of the text.
    pub text: Option<usize>,
    /// Of the ground.
    pub ground: Option<usize>,
    /// Whether it is a shape between two segments rather than text.
    pub joins: bool,
}

/// A color that our script sets.
#[derive(Debug, Clone, PartialEq)]
pub struct Written {
    /// Of what.
    pub role: &'static str,
    /// Where in the line.
    pub span: Range<usize>,
    /// The color.
    pub value: Value,
}

/// What only a shell's language knows.
pub trait Dialect: Sync {
    /// What the variable of the prompt is called, and so readings of it.
    fn variable(&self) -> &'static str;
    /// What reads the text that stands at some places of a file; see [`Adapter::quoting`].
    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>>;
    /// The file that a line loads, as it is written there.
    fn loads<'a>(&self, line: &'a str) -> Option<&'a str>;
    /// A file as a word. `None` where its path cannot be written.
    fn word(&self, access: &dyn Access, path: &Path) -> Option<Code>;
    /// The line that loads a file where it is there.
    fn load(&self, word: &Code) -> Code;
    /// A file in the home, as a word of a script that is shared.
    fn anywhere(&self, ours: &'static str) -> Code;
    /// Reads the colors of a prompt of the person's own on a line.
    fn prompt(&self, line: Line<'_>, report: &mut ToolReport, stretches: &mut Vec<Stretch>);
    /// A color as it is written into such a prompt.
    fn spell(&self, color: Rgb, is_ground: bool) -> Code;
    /// Our script, which is the file that `word` names.
    fn script(&self, setup: &Setup, look: &Look, word: &Code) -> Code;
    /// The color that a line of our script sets.
    fn written(&self, line: &str) -> Option<Written>;
}

impl Sourced {
    /// Where our script is.
    #[must_use]
    pub fn path(&self, access: &dyn Access) -> PathBuf {
        own_folder(access).join(self.ours)
    }

    /// Our script with the line at its head that tells one generation of it from the next.
    #[must_use]
    pub fn generate(&self, setup: &Setup, look: &Look, word: &Code) -> Code {
        marked(self.comment, &self.dialect.script(setup, look, word))
    }

    fn is_loaded(report: &ToolReport) -> bool {
        let theme = report.effective(&RoleId::from(Property::Theme));
        theme.is_some_and(|r| r.value == Value::Text(OUR_THEME.into()))
    }

    /// The edits where nothing is generated: colors in the person's own prompt.
    fn in_place(&self, wanted: &Wanted, report: &ToolReport) -> Plan {
        let mut edits = Edits::default();
        let differs = |r: &&Reading| r.editable && wanted.differs(self.id, r);
        for reading in report.readings.iter().filter(differs) {
            if reading.role.as_str().starts_with("prompt.") {
                let color = wanted.look.color(&reading.role);
                edits.replace(reading, self.dialect.spell(color, reading.role.is_ground()));
            }
        }
        edits.finish(self.id, report).into()
    }
}

impl Adapter for Sourced {
    fn id(&self) -> ToolId {
        self.id
    }

    fn kind(&self) -> &'static str {
        "shell prompt"
    }

    fn live(&self) -> &Live {
        &self.live
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Sourced(self)
    }

    fn syntax(&self, _path: &Path) -> Syntax {
        self.syntax
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        self.dialect.quoting(file, places)
    }

    fn generated(&self, setup: &Setup, look: &Look) -> Option<(&'static str, Code)> {
        let word = self.dialect.anywhere(self.ours);
        Some((self.ours, self.generate(setup, look, &word)))
    }

    fn read(&self, access: &dyn Access, _: &mut Facts) -> ToolReport {
        let mut reader = Reader {
            row: self,
            access,
            report: ToolReport::new(self.id),
            ours: self.path(access),
            stretches: Vec::new(),
        };
        reader.file(&(self.file)(access), &[]);
        let (ours, stretches) = (reader.ours, reader.stretches);
        let mut report = reader.report;
        let variable = self.dialect.variable();
        if Self::is_loaded(&report) {
            // Our script sets the prompt itself: what the file set before is of no account.
            for reading in report.readings.iter_mut().filter(|r| r.key == variable) {
                reading.effective = false;
            }
        } else {
            // A later prompt takes the place of an earlier one.
            report.mark_last_effective();
        }
        glyphs::collect(&mut report, &[self.comment], |_| self.syntax, |p| p == ours);
        report.drawn = drawn(&report, &stretches, variable);
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        if !wanted.setup.tool(self.id).generate {
            return self.in_place(wanted, report);
        }
        if report.files.is_empty() && !access.has_program(self.program) {
            return Plan::default();
        }
        let ours = self.path(access);
        let Some(word) = self.dialect.word(access, &ours) else {
            return Plan::default();
        };
        let mut edits = Edits::default();
        if !Self::is_loaded(report) {
            let file = (self.file)(access);
            let bytes = report.file(&file).map_or(&[][..], |f| &f.bytes[..]);
            let line = self.dialect.load(&word);
            let mut splice: Splice = shared::append_line(bytes, &line, "load the prompt".into());
            splice.role = Some(RoleId::from(Property::Theme));
            splice.needs = Some(ours.clone());
            edits.add(&file, splice);
        }
        let mut out = edits.finish(self.id, report);
        let text = self.generate(wanted.setup, wanted.look, &word);
        out.push(shared::own_file(self.id, ours, access, text));
        out.into()
    }
}

struct Reader<'a> {
    row: &'a Sourced,
    access: &'a dyn Access,
    report: ToolReport,
    ours: PathBuf,
    stretches: Vec<Stretch>,
}

impl Reader<'_> {
    fn file(&mut self, path: &Path, chain: &[Includer]) {
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, false) else {
            return;
        };
        for line in lines::lines(&file.bytes) {
            let text = lines::trim(&file.bytes, line.span.clone());
            let bytes = &file.bytes[text.clone()];
            if bytes.starts_with(self.row.comment.as_bytes()) {
                continue;
            }
            let here = Line {
                file: &file,
                chain,
                start: text.start,
                bytes,
            };
            self.loads(here, line.number);
            let dialect = self.row.dialect;
            dialect.prompt(here, &mut self.report, &mut self.stretches);
        }
    }

    /// Follows a line that loads a file, where the file is written plainly.
    fn loads(&mut self, line: Line<'_>, number: usize) {
        // Places within a line are places in the file only where it is text.
        let Ok(text) = std::str::from_utf8(line.bytes) else {
            return;
        };
        let Some(written) = self.row.dialect.loads(text) else {
            return;
        };
        let path = self.access.expand(written, self.access.home());
        if path == self.ours {
            let at = line.start + text.find(written).unwrap_or(0);
            let mut r = shared::reading(
                line.file,
                line.chain,
                RoleId::from(Property::Theme),
                "prompt",
                Value::Text(OUR_THEME.to_owned()),
                at..at + written.len(),
            );
            r.editable = false;
            self.report.readings.push(r);
            self.our_script(line.file, number, line.chain);
        } else if !written.contains(['$', '*', '`', '(']) {
            let mut deeper = line.chain.to_vec();
            deeper.push((line.file.path.clone(), number));
            self.file(&path, &deeper);
        }
    }

    /// Reads the colors back from our script.
    fn our_script(&mut self, from: &SourceFile, line: usize, chain: &[Includer]) {
        let mut deeper = chain.to_vec();
        deeper.push((from.path.clone(), line));
        let path = self.ours.clone();
        let Some(file) = shared::load(self.access, &mut self.report, &path, &deeper, true) else {
            return;
        };
        let mut seen = Vec::new();
        for line in lines::lines(&file.bytes) {
            let Ok(text) = std::str::from_utf8(&file.bytes[line.span.clone()]) else {
                continue;
            };
            let Some(found) = self.row.dialect.written(text) else {
                continue;
            };
            // The first list is the one for 24-bit terminals.
            if seen.contains(&found.role) {
                continue;
            }
            seen.push(found.role);
            let span = line.span.start + found.span.start..line.span.start + found.span.end;
            let role = RoleId::known(found.role);
            let mut r = shared::reading(&file, &deeper, role, "prompt", found.value, span);
            r.editable = false;
            self.report.readings.push(r);
        }
    }
}

/// What the prompt draws: the person's own, stretch by stretch, or ours.
fn drawn(report: &ToolReport, stretches: &[Stretch], variable: &str) -> Vec<Drawn> {
    let paint = |index: Option<usize>, default: &'static str| Paint {
        role: index.map_or(RoleId::known(default), |i| report.readings[i].role.clone()),
        reading: index,
    };
    let effective = |index: &Option<usize>| index.is_none_or(|i| report.readings[i].effective);
    let of_own = stretches
        .iter()
        .filter(|s| s.text.is_some() || s.ground.is_some())
        .filter(|s| effective(&s.text) && effective(&s.ground))
        .map(|s| {
            let text = paint(s.text, "foreground");
            let (what, usage) = if s.joins {
                ("prompt, joint of two segments".to_owned(), Usage::NonText)
            } else {
                (text.role.label(), Usage::Body)
            };
            Drawn {
                what,
                text,
                ground: paint(s.ground, "background"),
                usage,
                fade: 1.0,
            }
        });
    let written = report
        .readings
        .iter()
        .enumerate()
        .filter(|(_, r)| r.effective && r.key != variable && r.role.as_str().starts_with("prompt."))
        .map(|(i, r)| Drawn {
            what: r.role.label(),
            text: paint(Some(i), "foreground"),
            ground: paint(None, "background"),
            usage: Usage::Body,
            fade: 1.0,
        });
    of_own.chain(written).collect()
}
