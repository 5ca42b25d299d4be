//! What is found in dotfiles: files, readings with their places, drawn pairs, glyph uses.
//!
//! Filled by the adapters of `wealdmist-tools`, used by the ledger, the findings and the plan.

use std::collections::HashMap;
use std::fmt;
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};

use crate::color::{Rgb, Rounding};
use crate::escape::Escape;
use crate::prompt::own::Own;
use crate::property::Property;
use crate::role::{Attrs, RoleId, Slot, Usage};
use crate::text::{self, Position};

/// A tool, by the short name used on the command line and in the setup file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ToolId(pub &'static str);

impl fmt::Display for ToolId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.0)
    }
}

/// A file as it was read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SourceFile {
    /// The path by which the tool finds it.
    pub path: PathBuf,
    /// The file itself, with every symbolic link followed. This is what is written.
    pub target: PathBuf,
    /// Its bytes.
    pub bytes: Arc<[u8]>,
    /// The file and line that include it, when it is not one the tool looks for by itself.
    pub included_from: Option<(PathBuf, usize)>,
    /// Where its lines begin, once they have been looked for.
    pub lines: LineStarts,
}

/// Where the lines of a file begin. Two are equal: they follow from the bytes.
#[derive(Debug, Clone, Default)]
pub struct LineStarts(Arc<OnceLock<Counted>>);

/// What was counted of a file.
#[derive(Debug)]
struct Counted {
    /// Its path, for all places in it.
    path: Arc<Path>,
    /// Where each line begins.
    starts: Vec<usize>,
    /// How many characters begin before each multiple of [`STRIDE`].
    characters: Vec<usize>,
}

/// How often characters are counted along a file, in bytes: in a long line a place is found from
/// the nearest count.
const STRIDE: usize = 1024;

/// How many characters begin in bytes of UTF-8; other bytes count as one each or not at all.
fn characters(bytes: &[u8]) -> usize {
    bytes.iter().filter(|b| (**b as i8) >= -0x40).count()
}

impl PartialEq for LineStarts {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

impl Eq for LineStarts {}

impl SourceFile {
    fn counted(&self) -> &Counted {
        self.lines.0.get_or_init(|| {
            let ends = memchr::memchr_iter(b'\n', &self.bytes);
            let mut before = 0;
            let mut next = |chunk: &[u8]| {
                let so_far = before;
                before += characters(chunk);
                so_far
            };
            Counted {
                path: self.path.as_path().into(),
                starts: std::iter::once(0).chain(ends.map(|i| i + 1)).collect(),
                characters: self.bytes.chunks(STRIDE).map(&mut next).collect(),
            }
        })
    }

    /// The position of a byte, as [`text::position`] gives it, without counting lines anew.
    #[must_use]
    pub fn position(&self, offset: usize) -> Position {
        let counted = self.counted();
        let starts = &counted.starts;
        let offset = offset.min(self.bytes.len());
        let line = starts.partition_point(|start| *start <= offset);
        let start = starts[line - 1];
        let head = &self.bytes[start..offset];
        let until = |at: usize| {
            let stride = (at / STRIDE).min(counted.characters.len().saturating_sub(1));
            let known = counted.characters.get(stride).copied().unwrap_or(0);
            known + characters(&self.bytes[stride * STRIDE..at])
        };
        let column = match head.len() <= 2 * STRIDE {
            true => String::from_utf8_lossy(head).chars().count(),
            false => until(offset) - until(start),
        };
        Position {
            line,
            column: column + 1,
        }
    }
}

/// A place in a file.
#[derive(Debug, Clone, Eq)]
pub struct Place {
    /// The path by which the tool finds the file.
    pub path: Arc<Path>,
    /// The bytes meant.
    pub span: Range<usize>,
    /// Line and column of the first of them.
    pub at: Position,
}

impl PartialEq for Place {
    fn eq(&self, other: &Self) -> bool {
        // Paths are long, and mostly one and the same.
        let same_file = || Arc::ptr_eq(&self.path, &other.path) || self.path == other.path;
        self.span == other.span && self.at == other.at && same_file()
    }
}

impl Place {
    /// A place in a file that was read.
    #[must_use]
    pub fn new(file: &SourceFile, span: Range<usize>) -> Self {
        let at = file.position(span.start);
        Self {
            path: Arc::clone(&file.counted().path),
            span,
            at,
        }
    }

    /// The place of what no line of a file says: nowhere in it.
    #[must_use]
    pub fn nowhere_in(path: &Path) -> Self {
        Self {
            path: path.into(),
            span: 0..0,
            at: Position { line: 0, column: 0 },
        }
    }

    /// Whether it is a place in the file, not only the file.
    #[must_use]
    pub const fn is_written(&self) -> bool {
        self.at.line > 0
    }

    /// The file's name without its folder, safe to be shown.
    #[must_use]
    pub fn file_name(&self) -> String {
        let name = self.path.file_name().unwrap_or_default();
        text::visible(name.to_string_lossy().as_bytes())
    }
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.is_written() {
            true => write!(f, "{}:{}", self.path.display(), self.at),
            false => write!(f, "{}", self.path.display()),
        }
    }
}

/// A value as a tool understands it.
#[derive(Debug, Clone, PartialEq)]
pub enum Value {
    /// A color of its own.
    Color(Rgb),
    /// Whatever the terminal shows for one of its slots.
    Slot(Slot),
    /// The tool's or the terminal's default.
    Default,
    /// A text, such as a font's name.
    Text(String),
    /// A number, in the unit of its role (points, 0–1).
    Number(f64),
}

impl Value {
    /// What a switch says.
    #[must_use]
    pub fn switch(on: bool) -> Self {
        Self::Text(if on { "on" } else { "off" }.to_owned())
    }
}

impl fmt::Display for Value {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Color(color) => write!(f, "{color}"),
            Self::Slot(slot) => f.write_str(slot.key()),
            Self::Default => f.write_str("default"),
            Self::Text(text) => f.write_str(text),
            Self::Number(n) => write!(f, "{n}"),
        }
    }
}

/// How sure a reading is.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum Standing {
    /// It stands unconditionally, or its condition was worked out.
    #[default]
    Certain,
    /// It stands under a condition that cannot be worked out from the files: which.
    Conditional(Arc<str>),
    /// No file says it: what the program does by itself.
    Default,
    /// Something sets it that cannot be read: what.
    Unread(Arc<str>),
}

impl Standing {
    /// The word for it.
    #[must_use]
    pub const fn key(&self) -> &'static str {
        match self {
            Self::Certain => "certain",
            Self::Conditional(_) => "conditional",
            Self::Default => "default",
            Self::Unread(_) => "unread",
        }
    }

    /// What it depends on, or what could not be read.
    #[must_use]
    pub const fn why(&self) -> Option<&Arc<str>> {
        match self {
            Self::Certain | Self::Default => None,
            Self::Conditional(why) | Self::Unread(why) => Some(why),
        }
    }
}

/// One value found in a tool's dotfiles.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// The job the value does.
    pub role: RoleId,
    /// The setting, spelled as in the tool.
    pub key: String,
    /// The value.
    pub value: Value,
    /// Where the value stands.
    pub place: Place,
    /// The includes that lead to the file: file and line, outermost first.
    pub chain: Vec<(PathBuf, usize)>,
    /// Whether this is the value that counts, not one overridden later.
    pub effective: bool,
    /// Whether the adapter can change it in place.
    pub editable: bool,
    /// How sure it is.
    pub standing: Standing,
    /// What the program itself said when it was asked. Its answer is the value then.
    pub asked: Option<Asked>,
}

/// How a reading compares with what the program said.
#[derive(Debug, Clone, PartialEq)]
pub enum Asked {
    /// It says the same.
    Same,
    /// It says another value than this one, which was read.
    ReadAs(Value),
    /// Nothing was read.
    NotRead,
}

impl Reading {
    /// Whether no file says it.
    #[must_use]
    pub fn is_default(&self) -> bool {
        self.standing == Standing::Default
    }

    /// Whether it is what the tool does whatever else holds: a file says it, or nothing says
    /// anything else.
    #[must_use]
    pub const fn is_sure(&self) -> bool {
        matches!(self.standing, Standing::Certain | Standing::Default)
    }
}

#[cfg(test)]
impl Reading {
    /// A value that counts, in a line of a file.
    pub(crate) fn of(role: &'static str, value: Value, line: usize) -> Self {
        Self {
            role: RoleId::known(role),
            key: format!("key-{role}"),
            value,
            place: Place::of(line),
            chain: Vec::new(),
            effective: true,
            editable: true,
            standing: Standing::Certain,
            asked: None,
        }
    }
}

#[cfg(test)]
impl Place {
    /// The first column of a line of the file `/f`.
    pub(crate) fn of(line: usize) -> Self {
        Self {
            path: Path::new("/f").into(),
            span: 0..1,
            at: Position { line, column: 1 },
        }
    }
}

/// What a group of an editor's theme has beside its colors.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Attributes {
    /// The group, spelled as in the tool.
    pub key: String,
    /// The role of its text, where it has one.
    pub role: Option<RoleId>,
    /// The attributes, in the tool's words and an order of their own.
    pub words: Vec<&'static str>,
    /// The color of lines under its text.
    pub special: Option<Rgb>,
    /// Where they are written; `None` where the program has them by itself, or there are none.
    pub place: Option<Place>,
    /// Whether it certainly has no color for its text, and for its ground.
    pub bare: [bool; 2],
    /// The group it is a link to, whose look it has.
    pub link: Option<String>,
}

impl Attributes {
    /// Those that a setup has.
    #[must_use]
    pub fn attrs(&self) -> Attrs {
        let has = |word| self.words.contains(&word);
        Attrs {
            bold: has("bold"),
            italic: has("italic"),
            underline: has("underline"),
        }
    }
}

/// One side of a drawn pair.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Paint {
    /// The role whose color it is.
    pub role: RoleId,
    /// The reading that says so, by its place in the report; `None` where the tool's dotfiles
    /// do not say and the role's own color counts.
    pub reading: Option<usize>,
}

/// A text color on the ground a tool draws it on.
#[derive(Debug, Clone, PartialEq)]
pub struct Drawn {
    /// What is drawn, for people.
    pub what: String,
    /// The text.
    pub text: Paint,
    /// The ground.
    pub ground: Paint,
    /// How it is used.
    pub usage: Usage,
    /// How much of the text's color the tool leaves, 0–1: less than 1 for faint text and for
    /// inactive panes.
    pub fade: f64,
    /// The property that says so, where the setup may say something else.
    pub fades_by: Option<Property>,
}

/// A character outside ASCII in a dotfile, or several that are drawn as one.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct GlyphUse {
    /// The first of its characters that is not ASCII.
    pub character: char,
    /// All that is drawn as one.
    pub cluster: String,
    /// How it is escaped; `None` where it stands as itself.
    pub escape: Option<Escape>,
    /// The character behind it in the file, where that is drawn beside it: none at a line's end
    /// or before a quote.
    pub after: Option<char>,
    /// Where it, or the escape that stands for it, is written.
    pub place: Place,
    /// Whether it stands in a comment, where nobody draws it.
    pub in_comment: bool,
}

/// Something about a file that keeps it from being read or edited.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileProblem {
    /// The file.
    pub path: PathBuf,
    /// Where in it, if anywhere.
    pub at: Option<Position>,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: String,
    /// Whether the file must not be edited because of it.
    pub blocks_edits: bool,
}

/// What was found of one tool.
#[derive(Debug, Clone, PartialEq)]
pub struct ToolReport {
    /// The tool.
    pub tool: ToolId,
    /// The files read, in the order the tool reads them.
    pub files: Vec<SourceFile>,
    /// The readings, in the order they take effect.
    pub readings: Vec<Reading>,
    /// What groups have beside colors, as far as it is certain.
    pub attributes: Vec<Attributes>,
    /// The pairs drawn.
    pub drawn: Vec<Drawn>,
    /// The non-ASCII characters.
    pub glyphs: Vec<GlyphUse>,
    /// What could not be read.
    pub problems: Vec<FileProblem>,
    /// How many times a file was read: one that is included twice counts twice.
    pub reads: usize,
    /// Whether it is a terminal: what others show appears in it.
    pub is_terminal: bool,
    /// The properties it can be told, for a terminal.
    pub can: Vec<Property>,
    /// The words of such a property that it has none for.
    pub lacks: Vec<(Property, &'static str)>,
    /// How it takes colors of 24 bits where there are 256.
    pub rounding: Rounding,
    /// What a running program must show, for one that can be asked for its options: the option, whether
    /// it is of a window, the value.
    pub stated: Vec<(String, bool, String)>,
    /// The prompt of the person's own as a design, for a shell that has one.
    pub prompt: Option<Box<Own>>,
}

impl ToolReport {
    /// An empty report.
    #[must_use]
    pub fn new(tool: ToolId) -> Self {
        Self {
            tool,
            files: Vec::new(),
            readings: Vec::new(),
            attributes: Vec::new(),
            drawn: Vec::new(),
            glyphs: Vec::new(),
            problems: Vec::new(),
            reads: 0,
            is_terminal: false,
            can: Vec::new(),
            lacks: Vec::new(),
            rounding: Rounding::Nearest,
            stated: Vec::new(),
            prompt: None,
        }
    }

    /// Whether it can be told a value of a property.
    #[must_use]
    pub fn can_say(&self, property: Property, value: &Value) -> bool {
        let lacks = |word: &str| self.lacks.contains(&(property, word));
        self.takes(property) && !matches!(value, Value::Text(word) if lacks(word))
    }

    /// Whether it can be told a property.
    #[must_use]
    pub fn takes(&self, property: Property) -> bool {
        self.can.contains(&property)
    }

    /// Whether any of its dotfiles is there.
    #[must_use]
    pub fn is_present(&self) -> bool {
        !self.files.is_empty() || !self.problems.is_empty()
    }

    /// The reading that counts for a role.
    #[must_use]
    pub fn effective(&self, role: &RoleId) -> Option<&Reading> {
        self.readings
            .iter()
            .rev()
            .find(|r| r.effective && r.role == *role)
    }

    /// The position of the reading that counts for a role.
    #[must_use]
    pub fn effective_index(&self, role: &RoleId) -> Option<usize> {
        self.readings
            .iter()
            .rposition(|r| r.effective && r.role == *role)
    }

    /// Marks, of the readings with the same role and key, only the last as counting.
    pub fn mark_last_effective(&mut self) {
        let mut seen = std::collections::HashSet::new();
        let readings = self.readings.iter().rev();
        let counts: Vec<bool> = readings
            .map(|r| seen.insert((r.role.as_str(), r.key.as_str())))
            .collect();
        for (reading, counts) in self.readings.iter_mut().rev().zip(counts) {
            reading.effective = counts;
        }
    }

    /// Gives a role of its own to what the tool says for a job in another color than before: what is said
    /// twice for two jobs is two roles, and the tool does not differ from itself.
    pub fn split_roles(&mut self) {
        let mut first: HashMap<RoleId, Value> = HashMap::new();
        // The roles of their own: how many a key has, and which has which value.
        let mut counts: HashMap<String, usize> = HashMap::new();
        let mut own: HashMap<(String, &str, String), RoleId> = HashMap::new();
        let mut moved: HashMap<usize, RoleId> = HashMap::new();
        for (i, reading) in self.readings.iter_mut().enumerate() {
            let is_sure = reading.effective && reading.standing == Standing::Certain;
            if !is_sure || reading.role.is_property() {
                continue;
            }
            match first.get(&reading.role) {
                Some(value) if *value == reading.value => continue,
                Some(_) => {}
                None => {
                    first.insert(reading.role.clone(), reading.value.clone());
                    continue;
                }
            }
            let end = match reading.role.is_ground() {
                true => "ground",
                false => "text",
            };
            let sign = |c: char| match c.is_ascii_alphanumeric() {
                true => c,
                false => '-',
            };
            let key: String = reading.key.chars().map(sign).collect();
            let place = (key, end, reading.value.to_string());
            let role = own.entry(place).or_insert_with_key(|(key, end, _)| {
                let count = counts.entry(key.clone()).or_default();
                *count += 1;
                RoleId::new(format!("{}.{key}.own-{count}.{end}", self.tool))
            });
            moved.insert(i, role.clone());
            reading.role = role.clone();
        }
        for drawn in &mut self.drawn {
            for paint in [&mut drawn.text, &mut drawn.ground] {
                if let Some(role) = paint.reading.and_then(|i| moved.get(&i)) {
                    paint.role = role.clone();
                }
            }
        }
    }

    /// The file a place is in.
    #[must_use]
    pub fn file(&self, path: &Path) -> Option<&SourceFile> {
        self.files.iter().find(|f| f.path == path)
    }
}
