//! The engine of tools whose values stand in the person's own settings file.
//!
//! A tool is a [`Table`]: where its files are, in which notation, how they include one another,
//! what each key means, how colors are spelled, how a change arrives. Reading, the edits, import,
//! export, what is drawn and what is said of fonts follow from the row; what does not fit a row is
//! one of its [`Quirks`].

mod able;
mod compounds;
mod drawn;
mod fonts;
mod linked;
pub(crate) mod palette;
mod pattern;
mod read;
mod rows;
pub mod spelling;
#[cfg(test)]
mod tests;
mod titles;
mod write;

pub use compounds::{Blink, Described, NotZero, Padding, Size, Suffixed, Zero};
pub use fonts::{Facts as FontFacts, Fonts};
pub use linked::{Link, Linked};
#[cfg(test)]
pub(crate) use palette::write as write_palette;
pub use pattern::FontList;
pub use rows::Rows;
pub use titles::Titles;
pub(crate) use write::features_text;

use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::Rgb;
use wealdmist_core::plan::{FileEdit, Plan};
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{FileProblem, SourceFile, ToolId, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::terminal::Images;
use wealdmist_core::width::Counting;

use crate::access::{Access, Loaded};
use crate::document::notation::{Datum, Entry, Notation, Spot};
use crate::engine::Engine;
use crate::fonts::FontSyntax;
use crate::{Adapter, Answers, Facts, Live, Reload, Wanted};

/// A tool as a row.
pub struct Table {
    /// The name on the command line and in the setup file.
    pub id: ToolId,
    /// What kind of program it is.
    pub kind: &'static str,
    /// The program's file.
    pub program: &'static str,
    /// Where its file may be; the first that exists counts.
    pub places: &'static [Where],
    /// The language of its files.
    pub notation: &'static dyn Notation,
    /// How files include one another.
    pub includes: Option<Includes>,
    /// What its keys mean.
    pub keys: &'static [Key],
    /// Where the 16 terminal colors stand.
    pub sixteen: Sixteen,
    /// How colors are spelled.
    pub color: Spelling,
    /// What the program does by itself.
    pub defaults: Defaults,
    /// What is said where a value is none for the program.
    pub bad_value: &'static str,
    /// How it takes fonts.
    pub fonts: Fonts,
    /// The terminal type that programs inside it see.
    pub term: Term,
    /// How a change arrives, and how it is asked what it shows.
    pub live: Live,
    /// What does not fit a row.
    pub quirks: Quirks,
}

impl Table {
    /// A terminal of which nothing is known yet: what a row does not say is so. It watches its file, cannot be asked but by
    /// color queries, and calls itself as most do.
    pub const TERMINAL: Self = Self {
        id: ToolId(""),
        kind: "terminal",
        program: "",
        places: &[],
        notation: &crate::document::toml::Toml,
        includes: None,
        keys: &[],
        sixteen: Sixteen::Nowhere,
        color: Spelling {
            any_case: false,
            read: spelling::hash,
            write: |color, old| spelling::like(color, old.filter(|old| old.len() == 7)),
        },
        defaults: Defaults::UNKNOWN,
        bad_value: "write \"#rrggbb\" or a number",
        fonts: Fonts::Facts(FontFacts {
            substitutes: "the terminal takes a font of its own instead",
            families_only: true,
            proportional: true,
            own: &[(0x2500, 0x259f)],
        }),
        term: Term {
            key: None,
            own: "xterm-256color",
            full_color: false,
            images: Images::None,
            counts: Counting::Clusters,
        },
        live: Live {
            answers: Answers::Escapes,
            ..Live::own(Reload::Watches, "at once: it watches its file")
        },
        quirks: Quirks::NONE,
    };
}

/// A place for a file.
#[derive(Debug, Clone, Copy)]
pub enum Where {
    /// Below the folder for configuration.
    Config(&'static str),
    /// Below `.config` of the home, whatever the folder for configuration is.
    Home(&'static str),
    /// In the folder that a variable names; then nowhere else.
    Only(&'static str, &'static str),
    /// Below the folder for data.
    Data(&'static str),
    /// Any file of an ending in a folder of the home, the first by name.
    Any(&'static str, &'static str),
}

/// How paths below a home begin on platforms other than this one.
const OF_OTHERS: [&str; 2] = ["Library/", "AppData/"];

/// Includes.
#[derive(Debug, Clone, Copy)]
pub struct Includes {
    /// The keys that name a file.
    pub keys: &'static [&'static str],
    /// The keys that name files by a pattern.
    pub patterns: &'static [&'static str],
    /// Which value counts where two files have it.
    pub wins: Wins,
    /// Whether names may be relative, to the folder of the file as the program names it.
    pub relative: bool,
    /// Whether a file that is not there is told of.
    pub told: bool,
    /// What marks a file that need not be there.
    pub optional: Option<char>,
}

/// Which of two values of a key counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wins {
    /// The last as the files are read one inside the other.
    WhereItStands,
    /// That of the file that includes.
    Includer,
    /// That of the included file.
    Included,
}

/// A key and what it means.
#[derive(Clone, Copy)]
pub struct Key {
    /// Its path; one that ends in `/*` stands for all below.
    pub path: &'static str,
    /// What it says.
    pub means: Means,
    /// Which part of the value says it.
    pub part: Part,
    /// Values that are words: each with what it means.
    pub words: &'static [(&'static str, Word)],
    /// Whether a value that is none for us is passed over rather than told.
    pub lenient: bool,
    /// Whether it is added where it is missing and the setup asks for it.
    pub added: bool,
}

/// What a key says.
#[derive(Clone, Copy)]
pub enum Means {
    /// The color of a role.
    Color(&'static str),
    /// A color with a job that no other tool knows: text or ground.
    Own(End),
    /// A property that is a number.
    Number(Property, Scale),
    /// A property that is a text.
    Name(Property),
    /// A property that is the path of a file or folder.
    Path(Property),
    /// A property that is one of the key's words.
    Word(Property),
    /// The same, written without quotes.
    Flag(Property),
    /// A property that is one of the key's words, and is told but never written.
    Told(Property),
    /// A key given many times: the first says one property, those after it another.
    List(Property, Property),
    /// Font features.
    Features,
    /// Several things at once.
    Several(&'static dyn Compound),
}

/// Whether a color of a key's own is text or ground.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum End {
    /// Text, lines, signs.
    Text,
    /// What something is drawn on.
    Ground,
}

/// Which part of a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// All of it.
    Whole,
    /// The word of a number, from 0, of so many.
    Nth(u8, u8),
}

/// What a word says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Word {
    /// Whatever the program does by itself.
    Default,
    /// The color of a slot.
    Slot(Slot),
    /// A word of ours.
    Says(&'static str),
}

/// How a number stands in a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scale {
    /// As it is.
    AsIs,
    /// In percent, with the sign.
    Percent,
    /// In percent, without one.
    Hundredths,
    /// What is left of the whole.
    Rest,
    /// In whole numbers, none below zero.
    Whole,
    /// Pixels of 1/96 inch for what we count in points.
    Pixels,
    /// As it is, brought between two bounds by the program.
    Within(i32, i32),
    /// What is left of the whole, in percent without a sign.
    RestHundredths,
    /// In seconds for what we count in thousandths of one.
    Seconds,
}

/// How colors are spelled.
pub struct Spelling {
    /// Whether words that stand for values may be in any case.
    pub any_case: bool,
    /// Reads one.
    pub read: fn(&str) -> Option<Rgb>,
    /// Writes one, like the one that stood there.
    pub write: fn(Rgb, Option<&str>) -> Code,
}

/// What the program does where no line says anything.
#[derive(Debug, Clone, Copy)]
pub struct Defaults {
    /// Key and value, as a line would have them.
    pub known: &'static [(&'static str, &'static str)],
    /// The file the program comes with in which they stand commented out, which is of the version that
    /// is installed: it is asked for what is not known.
    pub shipped: Option<Shipped>,
}

/// How a file has a program's defaults commented out.
#[derive(Debug, Clone, Copy)]
pub enum Shipped {
    /// Line by line, as the notation knows lines that are commented out.
    Lines(&'static str),
    /// Whole blocks of keys, one within another.
    Blocks(&'static str),
}

impl Defaults {
    /// Nobody knows them.
    pub const UNKNOWN: Self = Self {
        known: &[],
        shipped: None,
    };

    const fn is_unknown(&self) -> bool {
        self.known.is_empty() && self.shipped.is_none()
    }
}

/// Where the 16 terminal colors stand.
#[derive(Debug, Clone, Copy)]
pub enum Sixteen {
    /// `color0` to `color255`.
    Numbered(&'static str),
    /// Two sections with a name for each of eight.
    Named {
        /// The section of the first eight.
        normal: &'static str,
        /// That of the others.
        bright: &'static str,
        /// The names in their order.
        names: [&'static str; 8],
    },
    /// One section with two prefixes, each with 0 to 7 behind it.
    Halves {
        /// The section.
        section: &'static str,
        /// The prefix of the first eight.
        normal: &'static str,
        /// That of the others.
        bright: &'static str,
    },
    /// A key given many times, with the number in front of each value.
    Indexed(&'static str),
    /// The elements of a list, which are values of their own.
    Listed(&'static str),
    /// Nowhere in these files.
    Nowhere,
    /// A section for each, in which it has the same name.
    Each(&'static [&'static str], &'static str),
}

/// The terminal type.
#[derive(Debug, Clone, Copy)]
pub struct Term {
    /// The key that sets it.
    pub key: Option<&'static str>,
    /// What it is when nobody says.
    pub own: &'static str,
    /// Whether its description says 24-bit color.
    pub full_color: bool,
    /// By which protocol it shows images.
    pub images: Images,
    /// How it counts the cells of what is drawn as one.
    pub counts: Counting,
}

/// A value that says several things.
pub trait Compound: Sync {
    /// What it says, each with its place in the text.
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)>;
    /// The pieces of the text that the setup changes, in their order; of an empty text what it is to
    /// be. `None` where that cannot be written so that it stays what it is. `quoting` is how a text
    /// stands there.
    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>>;
    /// The properties it can hold.
    fn holds(&self) -> &'static [Property];
    /// Whether it is a part of what it holds, and other keys say the rest.
    fn is_partial(&self) -> bool {
        false
    }
    /// How what it writes stands in a file: a text, or a number that has no quotes.
    fn datum(&self, code: Code) -> Datum {
        Datum::Literal(code)
    }
    /// Why a text that the program takes says nothing to us, where that is so.
    fn unread(&self, text: &str) -> Option<&'static str> {
        let _ = text;
        None
    }
}

/// A text that says several things, as the setup makes it.
pub(crate) fn changed(
    compound: &dyn Compound,
    text: &str,
    wanted: &Wanted,
    quoting: Quoting,
) -> Option<Code> {
    let mut out = Code::default();
    let mut at = 0;
    for (range, code) in compound.change(text, wanted, quoting)? {
        out.push(&Code::kept(text.get(at..range.start)?.as_bytes()));
        out.push(&code);
        at = range.end;
    }
    out.push(&Code::kept(text.get(at..)?.as_bytes()));
    (!out.is_empty()).then_some(out)
}

/// A line that the setup asks for and no key gives: fonts of each style, features of each face.
pub struct Line {
    /// What it says.
    pub role: RoleId,
    /// Where it belongs.
    pub spot: Spot,
    /// The value as it is written.
    pub value: Code,
}

/// What does not fit a row.
#[derive(Clone, Copy)]
pub struct Quirks {
    /// Lines that are missing beside those of the keys.
    pub missing: fn(&Table, &Wanted, &ToolReport) -> Vec<Line>,
    /// Files that go with the person's own.
    pub beside: fn(&Table, &Wanted, &ToolReport, &dyn Access) -> Vec<FileEdit>,
    /// What is said elsewhere than by keys.
    pub more: fn(&Table, &mut ToolReport, &dyn Access),
    /// The properties it can be told in another way than by a key.
    pub takes: &'static [Property],
    /// Whether a file is one for the program: several may have one between them.
    pub is_its: fn(&[u8]) -> bool,
    /// What is wrong beside values that are none.
    pub problems: fn(&Table, &ToolReport, &dyn Access) -> Vec<FileProblem>,
    /// Where a value is named that is written elsewhere, for several: what one of them is to be is written there.
    pub named: fn(&[u8], &Entry) -> Option<Range<usize>>,
    /// What reads the text of a value beside the file's own language.
    pub reads: fn(&str) -> Quoting,
    /// A path of another version of the program, as the keys have it; for reading palettes.
    pub alias: fn(&str) -> Option<String>,
    /// Keys of older releases, and what they are called now.
    pub renamed: &'static [(&'static str, &'static str)],
    /// A value for a key of fonts that the row does not spell, such as the name of a face.
    pub face: fn(&Wanted, &str) -> Option<Datum>,
}

impl Quirks {
    /// None.
    pub const NONE: Self = Self {
        missing: |_, _, _| Vec::new(),
        beside: |_, _, _, _| Vec::new(),
        more: |_, _, _| (),
        takes: &[],
        is_its: |_| true,
        problems: |_, _, _| Vec::new(),
        named: |_, _| None,
        reads: |_| Quoting::Inert,
        alias: |_| None,
        renamed: &[],
        face: |_, text| Some(Datum::Text(text.to_owned())),
    };
}

/// A key whose value is the color of a role.
#[must_use]
pub const fn color(path: &'static str, role: &'static str) -> Key {
    key(path, Means::Color(role))
}

/// A key whose value is a color of its own.
#[must_use]
pub const fn own(path: &'static str, end: End) -> Key {
    Key {
        added: false,
        ..key(path, Means::Own(end))
    }
}

/// A key whose value is a number.
#[must_use]
pub const fn number(path: &'static str, property: Property) -> Key {
    key(path, Means::Number(property, Scale::AsIs))
}

/// A key whose value is a name.
#[must_use]
pub const fn name(path: &'static str, property: Property) -> Key {
    key(path, Means::Name(property))
}

/// A key whose value is a path.
#[must_use]
pub const fn path(path: &'static str, property: Property) -> Key {
    key(path, Means::Path(property))
}

/// A key that says several things.
#[must_use]
pub const fn several(path: &'static str, compound: &'static dyn Compound) -> Key {
    key(path, Means::Several(compound))
}

/// A key whose value is one of a few words.
#[must_use]
pub const fn word(
    path: &'static str,
    property: Property,
    words: &'static [(&'static str, Word)],
) -> Key {
    key(path, Means::Word(property)).words(words)
}

/// The same, written without quotes.
#[must_use]
pub const fn flag(
    path: &'static str,
    property: Property,
    words: &'static [(&'static str, Word)],
) -> Key {
    key(path, Means::Flag(property)).words(words)
}

/// A key that says how many lines are kept that have left the screen.
#[must_use]
pub const fn scrollback(path: &'static str) -> Key {
    number(path, Property::Scrollback)
        .scaled(Scale::Whole)
        .lenient()
}

/// Stands among the words of a key for any that is none of them.
pub const ANY_WORD: &str = "*";

/// Words for on and off.
pub const TRUE: &[(&str, Word)] = &[("true", Word::Says("on")), ("false", Word::Says("off"))];

/// A key with a meaning.
#[must_use]
pub const fn key(path: &'static str, means: Means) -> Key {
    Key {
        path,
        means,
        part: Part::Whole,
        words: &[],
        lenient: false,
        added: true,
    }
}

impl Key {
    /// With words.
    #[must_use]
    pub const fn words(self, words: &'static [(&'static str, Word)]) -> Self {
        Self { words, ..self }
    }

    /// Read where it stands, never added.
    #[must_use]
    pub const fn read_only(self) -> Self {
        Self {
            added: false,
            ..self
        }
    }

    /// With values that are passed over.
    #[must_use]
    pub const fn lenient(self) -> Self {
        Self {
            lenient: true,
            ..self
        }
    }

    /// A word of its value.
    #[must_use]
    pub const fn part(self, part: Part) -> Self {
        Self { part, ..self }
    }

    /// In another scale.
    #[must_use]
    pub const fn scaled(self, scale: Scale) -> Self {
        match self.means {
            Means::Number(property, _) => Self {
                means: Means::Number(property, scale),
                ..self
            },
            _ => self,
        }
    }

    /// Whether a path is its own, or below the one it is of.
    fn is_of(&self, path: &str) -> bool {
        // Byte by byte: this is asked for every line of a file.
        match self.path.as_bytes() {
            [above @ .., b'/', b'*'] => {
                let rest = path.as_bytes().strip_prefix(above);
                rest.is_some_and(|rest| rest.first() == Some(&b'/'))
            }
            _ => self.path == path,
        }
    }

    /// The role it gives in a tool.
    fn role(&self, tool: ToolId, path: &str) -> Option<RoleId> {
        match self.means {
            Means::Color(role) => Some(RoleId::known(role)),
            Means::Own(end) => {
                let end = match end {
                    End::Text => "text",
                    End::Ground => "ground",
                };
                Some(RoleId::new(format!(
                    "{tool}.{}.{end}",
                    path.replace('/', ".")
                )))
            }
            Means::Number(property, _)
            | Means::Name(property)
            | Means::Path(property)
            | Means::List(property, _)
            | Means::Word(property)
            | Means::Flag(property)
            | Means::Told(property) => Some(property.into()),
            Means::Features => Some(Property::FontFeatures.into()),
            Means::Several(_) => None,
        }
    }
}

impl Sixteen {
    /// Where one of them stands.
    #[must_use]
    pub fn spot(&self, index: u8) -> Spot {
        let number = |n: u8| Code::whole(n);
        let plain = |section, name| Spot {
            section,
            name,
            sub: None,
        };
        match *self {
            Self::Numbered(prefix) => {
                let name = Code::join([&Code::fixed(prefix), &number(index)], "");
                plain("", name)
            }
            Self::Named {
                normal,
                bright,
                names,
            } => {
                let section = if index < 8 { normal } else { bright };
                plain(section, Code::fixed(names[usize::from(index % 8)]))
            }
            Self::Halves {
                section,
                normal,
                bright,
            } => {
                let prefix = Code::fixed(if index < 8 { normal } else { bright });
                plain(section, Code::join([&prefix, &number(index % 8)], ""))
            }
            Self::Indexed(key) => Spot {
                section: "",
                name: Code::fixed(key),
                sub: Some(number(index)),
            },
            Self::Listed(list) => plain(list, number(index)),
            Self::Nowhere => Spot::of(""),
            Self::Each(sections, name) => {
                let section = sections.get(usize::from(index));
                plain(section.copied().unwrap_or_default(), Code::fixed(name))
            }
        }
    }

    /// The number of the color at a path, above 15 too.
    #[must_use]
    pub fn index(&self, path: &str) -> Option<u8> {
        let number = |digits: &str| {
            let plain = digits.bytes().all(|b| b.is_ascii_digit()) && !digits.is_empty();
            let plain = plain && (digits.len() == 1 || !digits.starts_with('0'));
            digits.parse::<u8>().ok().filter(|_| plain)
        };
        match *self {
            Self::Numbered(prefix) => number(path.strip_prefix(prefix)?),
            Self::Indexed(key) | Self::Listed(key) => {
                number(path.strip_prefix(key)?.strip_prefix('/')?)
            }
            Self::Nowhere => None,
            Self::Each(sections, name) => {
                let (section, own) = path.rsplit_once('/')?;
                let found = sections.iter().position(|s| *s == section);
                found.filter(|_| own == name).map(|n| n as u8)
            }
            Self::Named {
                normal,
                bright,
                names,
            } => {
                let (section, name) = path.rsplit_once('/')?;
                let index = names.iter().position(|n| *n == name)? as u8;
                match section {
                    s if s == normal => Some(index),
                    s if s == bright => Some(index + 8),
                    _ => None,
                }
            }
            Self::Halves {
                section,
                normal,
                bright,
            } => {
                let name = path.strip_prefix(section)?.strip_prefix('/')?;
                let half = |prefix| number(name.strip_prefix(prefix)?).filter(|n| *n < 8);
                half(normal).or_else(|| half(bright).map(|n| n + 8))
            }
        }
    }
}

/// A number as Python reads one, with `_` between digits.
fn any_number(text: &str) -> Option<f64> {
    let parts = || text.split('_');
    let apart = |part: &str| part.starts_with(|c: char| c.is_ascii_digit());
    let ends = |part: &str| part.ends_with(|c: char| c.is_ascii_digit());
    let joined =
        parts().skip(1).all(apart) && parts().take(parts().count().saturating_sub(1)).all(ends);
    joined.then(|| text.replace('_', "").parse().ok()).flatten()
}

impl Scale {
    /// What a text in this scale says.
    fn read(self, text: &str) -> Option<f64> {
        let finite = |text: &str| text.parse().ok().filter(|n: &f64| n.is_finite());
        Some(match self {
            Self::AsIs => finite(text)?,
            Self::Percent => finite(text.strip_suffix('%')?)? / 100.0,
            Self::Hundredths => finite(text)? / 100.0,
            Self::Rest => 1.0 - finite(text)?,
            Self::Whole => text.parse::<u32>().ok().map(f64::from)?,
            Self::Pixels => finite(text)? * 0.75,
            Self::Within(least, most) => {
                let bounded = |n: &f64| most < i32::MAX || *n != f64::INFINITY;
                let number = any_number(text).filter(bounded)?;
                // NaN is below every bound.
                match number.is_nan() {
                    true => f64::from(least),
                    false => number.min(f64::from(most)).max(f64::from(least)),
                }
            }
            Self::RestHundredths => 1.0 - finite(text)? / 100.0,
            Self::Seconds => finite(text).filter(|n| *n >= 0.0)? * 1000.0,
        })
    }

    /// Why a text says no number though the program takes it, where it does.
    fn unread(self, text: &str) -> Option<&'static str> {
        match self {
            Self::Within(..) => any_number(text).map(|_| "it is no finite number"),
            _ => Some("it says something else than one number"),
        }
    }

    /// A number in it.
    fn write(self, number: f64) -> Code {
        match self {
            Self::AsIs | Self::Within(..) => Code::number(number),
            Self::Percent => Code::of("{}%", &[&Code::whole((number * 100.0).round() as u64)]),
            Self::Whole => Code::whole(number.round().max(0.0) as u64),
            Self::Rest => Code::number((1.0 - number).max(0.0)),
            Self::Hundredths => Code::whole((number * 100.0).round().max(0.0) as u64),
            Self::RestHundredths => Code::whole(((1.0 - number) * 100.0).round().max(0.0) as u64),
            Self::Seconds => Code::number(number / 1000.0),
            Self::Pixels => Code::whole((number / 0.75).round().max(0.0) as u64),
        }
    }
}

impl Table {
    /// The places of its file, the first first.
    #[must_use]
    pub fn candidates(&self, access: &dyn Access) -> Vec<PathBuf> {
        let (home, config) = (access.home(), access.config_home());
        let any = self.places.iter().filter_map(|place| match place {
            Where::Any(folder, ending) => {
                let pattern = home.join(folder).join(format!("*.{ending}"));
                Some(access.glob(&pattern))
            }
            _ => None,
        });
        let mut out: Vec<PathBuf> = any.flatten().collect();
        out.extend(self.candidates_in(home, &config, &|name| access.env(name)));
        out
    }

    /// Its files of other platforms that lie beside the one that was read: a home may be a checkout for several.
    fn elsewhere(&self, report: &ToolReport, access: &dyn Access) -> Vec<PathBuf> {
        let of_others = self.places.iter().filter_map(|place| match place {
            Where::Home(path) if OF_OTHERS.iter().any(|p| path.starts_with(p)) => Some(*path),
            _ => None,
        });
        let all = of_others.map(|path| access.home().join(path));
        let is_more = |path: &PathBuf| {
            let read = report.files.iter().any(|f| *f.path == **path);
            let is_its = |loaded| match loaded {
                Loaded::File { bytes, .. } => (self.quirks.is_its)(&bytes),
                _ => false,
            };
            !report.files.is_empty() && !read && is_its(access.read(path))
        };
        all.filter(is_more).collect()
    }

    /// The same for a program that was started with another environment.
    #[must_use]
    pub fn candidates_in(
        &self,
        home: &Path,
        config: &Path,
        variable: &dyn Fn(&str) -> Option<String>,
    ) -> Vec<PathBuf> {
        let mut out: Vec<PathBuf> = Vec::new();
        for place in self.places {
            let path = match place {
                Where::Config(path) => config.join(path),
                Where::Home(path) => home.join(path),
                Where::Only(name, path) => match variable(name) {
                    Some(folder) => return vec![Path::new(&folder).join(path)],
                    None => continue,
                },
                Where::Data(path) => match variable("XDG_DATA_HOME") {
                    Some(data) if Path::new(&data).is_absolute() => Path::new(&data).join(path),
                    _ => home.join(".local/share").join(path),
                },
                Where::Any(..) => continue,
            };
            if !out.contains(&path) {
                out.push(path);
            }
        }
        out
    }

    /// The variables that say where its files are.
    pub fn variables(&self) -> impl Iterator<Item = &'static str> {
        self.places.iter().filter_map(|p| match p {
            Where::Only(name, _) => Some(*name),
            _ => None,
        })
    }

    /// The endings that its files' names have.
    fn endings(&self) -> impl Iterator<Item = &'static str> {
        self.places.iter().filter_map(|place| match place {
            Where::Config(path) | Where::Home(path) | Where::Data(path) | Where::Only(_, path) => {
                path.rsplit_once('.').map(|(_, ending)| ending)
            }
            Where::Any(_, ending) => Some(*ending),
        })
    }

    /// The keys of a path.
    fn keys_of<'a>(&'a self, path: &'a str) -> impl Iterator<Item = &'a Key> {
        self.keys.iter().filter(move |k| k.is_of(path))
    }

    /// The job of the color at a path.
    #[must_use]
    pub fn role_of(&self, path: &str) -> Option<RoleId> {
        if let Some(index) = self.sixteen.index(path) {
            return Some(match Slot::from_ansi(index) {
                Some(slot) => slot.into(),
                None => RoleId::new(format!("{}.{path}.text", self.id)),
            });
        }
        let color = |k: &&Key| matches!(k.means, Means::Color(_) | Means::Own(_));
        let key = self.keys_of(path).find(color)?;
        key.role(self.id, path)
    }
}

/// A word of a text, by its number, with its place.
fn nth_word(text: &str, n: u8, of: u8) -> Option<Range<usize>> {
    let words: Vec<Range<usize>> = text
        .split_whitespace()
        .map(|word| {
            let start = word.as_ptr() as usize - text.as_ptr() as usize;
            start..start + word.len()
        })
        .collect();
    (words.len() == usize::from(of)).then(|| words[usize::from(n)].clone())
}

impl Adapter for Table {
    fn id(&self) -> ToolId {
        self.id
    }

    fn kind(&self) -> &'static str {
        self.kind
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        self.read_files(access, facts)
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let mut plan = self.edits(wanted, report, access);
        for path in self.elsewhere(report, access) {
            let part = self.gather(&[path], &[], access).report;
            let same = |f: &SourceFile| report.files.iter().any(|known| known.target == f.target);
            if part.files.iter().any(same) {
                // One file under two names, or one that both include, is changed once.
                continue;
            }
            let more = self.edits(wanted, &part, access);
            plan.edits.extend(more.edits);
            plan.left.extend(more.left);
        }
        plan
    }

    fn live(&self) -> &Live {
        &self.live
    }

    fn fonts(&self) -> Option<&dyn FontSyntax> {
        Some(self)
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Tables(vec![self])
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let entries = self.notation.entries(&file.bytes).unwrap_or_default();
        let of = |at: &usize| {
            let next = entries.partition_point(|e| e.value.start <= *at);
            let entry: Option<&Entry> = next.checked_sub(1).map(|i| &entries[i]);
            match entry.filter(|e| e.inner.contains(at)) {
                Some(entry) => {
                    let mut out = vec![(self.quirks.reads)(&entry.path)];
                    if !entry.bare {
                        out.push(entry.quoting);
                    }
                    Some(out)
                }
                None => Some(vec![Quoting::Inert]),
            }
        };
        places.iter().map(of).collect()
    }
}
