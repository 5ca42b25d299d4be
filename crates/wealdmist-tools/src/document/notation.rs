//! One view of every settings file: entries with a path and a value, whatever the language.
//!
//! A notation reads a file into [`Entry`]s and says where new ones go; what is written is spliced
//! into the person's bytes, never printed from a tree. Paths are joined by `/`:
//! `colors/normal/red`.

use std::ops::Range;

use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Standing;
use wealdmist_core::text;

/// One value of a file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Entry {
    /// Where it stands, by names joined with `/`; elements of lists by their number.
    pub path: String,
    /// The bytes of the last name.
    pub key: Range<usize>,
    /// The bytes of the value, quotes included.
    pub value: Range<usize>,
    /// The bytes between the quotes; those of the value where there are none.
    pub inner: Range<usize>,
    /// What the value says.
    pub text: String,
    /// Whether `inner` spells the text as it is, so that a part of it can be replaced.
    pub plain: bool,
    /// Whether it stands without quotes.
    pub bare: bool,
    /// How a text is written between its quotes.
    pub quoting: Quoting,
    /// The sign and blanks that comment it out, where they do.
    pub off: Option<Range<usize>>,
    /// The path of the outermost table or list between brackets that it stands in.
    pub within: Option<String>,
    /// How sure it is that it counts.
    pub standing: Standing,
    /// Its line, from 1.
    pub line: usize,
}

impl Entry {
    /// An entry that stands in no file.
    #[must_use]
    pub fn of_text(path: &str, text: &str) -> Self {
        Self {
            path: path.to_owned(),
            key: 0..0,
            value: 0..text.len(),
            inner: 0..text.len(),
            text: text.to_owned(),
            plain: true,
            bare: true,
            quoting: Quoting::Inert,
            off: None,
            within: None,
            standing: Standing::Certain,
            line: 0,
        }
    }
}

/// A value to write.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Datum {
    /// A text from outside; quoted as it has to be.
    Text(String),
    /// A text of our own that is the same in any quotes, such as a color.
    Literal(Code),
    /// What stands without quotes: a number, a truth value.
    Bare(Code),
}

/// Where something new belongs: the section, the name in it, and what is part of the value there
/// though it is part of the path (the number in `palette = 3=…`).
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Spot {
    /// The names above the last, joined by `/`; empty at the top.
    pub section: &'static str,
    /// The last name.
    pub name: Code,
    /// What begins the value.
    pub sub: Option<Code>,
}

impl Spot {
    /// The spot of a fixed path.
    #[must_use]
    pub fn of(path: &'static str) -> Self {
        let (section, name) = path.rsplit_once('/').unwrap_or(("", path));
        Self {
            section,
            name: Code::fixed(name),
            sub: None,
        }
    }

    /// Its path.
    #[must_use]
    pub fn path(&self) -> String {
        let mut out = self.section.to_owned();
        for part in [Some(&self.name), self.sub.as_ref()].into_iter().flatten() {
            if !out.is_empty() {
                out.push('/');
            }
            out.push_str(&part.lossy());
        }
        out
    }
}

/// An entry to add.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct New {
    /// Where.
    pub spot: Spot,
    /// The value as it is written, see [`Notation::value`].
    pub value: Code,
    /// The entry it belongs below, by its position among the entries.
    pub near: Option<usize>,
    /// What it does, for people.
    pub why: String,
}

/// A file that cannot be read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Damage {
    /// The byte at which reading ended.
    pub at: usize,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: &'static str,
}

/// A file as text that a parser may be given.
pub(super) fn legible(bytes: &[u8]) -> Result<&str, Damage> {
    let text = std::str::from_utf8(bytes).map_err(|e| Damage {
        at: e.valid_up_to(),
        message: "it is not UTF-8".to_owned(),
        help: "save the file as UTF-8",
    })?;
    let Some(line) = super::too_deep(text) else {
        return Ok(text);
    };
    let mut lines = super::lines::lines(bytes);
    Err(Damage {
        at: lines.nth(line - 1).map_or(0, |l| l.span.start),
        message: "it is nested too deeply".to_owned(),
        help: "flatten what is nested",
    })
}

/// A language of settings files.
pub trait Notation: Sync {
    /// The values of a file in the order in which they stand.
    ///
    /// # Errors
    /// Where the program would not take the file at all.
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage>;
    /// The same of a file from which a palette is imported, which may have more than the program that it is of reads.
    ///
    /// # Errors
    /// As [`Notation::entries`].
    fn imported(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        self.entries(bytes)
    }

    /// A value as it is written anew; `None` where it cannot stay what it is.
    fn value(&self, datum: &Datum) -> Option<Code>;

    /// The splices that add entries, each with its number among `new`. Those at one place stand in
    /// the order in which they have to be put there; what has no place is left out.
    fn insert(&self, bytes: &[u8], entries: &[Entry], new: &[New]) -> Vec<(usize, Splice)>;

    /// The change of an entry's value, or of a part of its text, see [`set_plainly`].
    fn set(
        &self,
        bytes: &[u8],
        entry: &Entry,
        part: &Range<usize>,
        to: &Datum,
    ) -> Option<(Range<usize>, Code)> {
        set_plainly(self, bytes, entry, part, to)
    }

    /// How a text stands in a new value.
    fn text_quoting(&self) -> Quoting {
        Quoting::Json
    }

    /// Whether a value may be written in parts below its path.
    fn nests(&self) -> bool {
        true
    }

    /// Whether a section has to stand before all others in a new file.
    fn comes_first(&self, section: &str) -> bool {
        section.is_empty()
    }

    /// What begins a comment; empty where there are none.
    fn comment(&self) -> &'static str;

    /// How a path is shown to people, and written on a line.
    fn shown(&self, path: &str) -> String {
        path.replace('/', ".")
    }

    /// One line that says a value, for people.
    fn line(&self, spot: &Spot, value: &Code) -> Code;
}

/// The splice that changes an entry's value, or a part of its text; uncomments it where it is
/// commented out. `None` where the value cannot be written there so that it stays what it is.
#[must_use]
pub fn set_plainly<N: Notation + ?Sized>(
    notation: &N,
    bytes: &[u8],
    entry: &Entry,
    part: &Range<usize>,
    to: &Datum,
) -> Option<(Range<usize>, Code)> {
    let whole = *part == entry.inner;
    let (range, code) = match to {
        Datum::Bare(_) if whole => (entry.value.clone(), notation.value(to)?),
        Datum::Bare(code) if entry.plain => (part.clone(), code.clone()),
        Datum::Literal(code) if entry.plain && notation_keeps(notation, entry) => {
            (part.clone(), code.clone())
        }
        Datum::Text(text) if entry.plain && notation_keeps(notation, entry) => {
            (part.clone(), quote(text, &[entry.quoting])?)
        }
        _ if whole => (entry.value.clone(), notation.value(to)?),
        _ => return None,
    };
    match &entry.off {
        None => Some((range, code)),
        Some(off) => {
            let kept = |range: Range<usize>| Code::kept(&bytes[range]);
            let (before, after) = (
                kept(off.end..range.start),
                kept(range.end..entry.value.end.max(range.end)),
            );
            let end = entry.value.end.max(range.end);
            Some((off.start..end, Code::join([&before, &code, &after], "")))
        }
    }
}

/// Whether a text may stand at a value without quotes, or the value has some.
fn notation_keeps<N: Notation + ?Sized>(notation: &N, entry: &Entry) -> bool {
    let quoted = notation
        .value(&Datum::Literal(Code::fixed("x")))
        .is_some_and(|c| c.first() != Some(&b'x'));
    !(entry.bare && quoted)
}

/// New lines at the end of a file, gathered so that only the first has to end the last line there.
pub(super) struct Tail {
    /// What separates the end of the file from the first line, once.
    gap: Option<Code>,
    at: usize,
    end: Code,
    /// Whether anything stands before the next line.
    filled: bool,
}

impl Tail {
    pub(super) fn of(bytes: &[u8]) -> Self {
        let end = Code::fixed(text::line_end(bytes));
        let open = !bytes.is_empty() && !bytes.ends_with(b"\n");
        Self {
            gap: open.then(|| end.clone()),
            at: bytes.len(),
            end,
            filled: !bytes.is_empty(),
        }
    }

    /// The splice that adds a line.
    pub(super) fn line(&mut self, line: &Code, why: String) -> Splice {
        let gap = self.gap.take().unwrap_or_default();
        self.filled = true;
        splice(self.at, Code::join([&gap, line, &self.end], ""), why)
    }

    /// A blank line before what follows, where something stands before it.
    pub(super) fn blank(&mut self) {
        if self.filled {
            let gap = self.gap.take().unwrap_or_default();
            self.gap = Some(Code::join([&gap, &self.end], ""));
        }
    }

    /// Text that goes before the next line.
    pub(super) fn before(&mut self, line: &Code) {
        let gap = self.gap.take().unwrap_or_default();
        self.gap = Some(Code::join([&gap, line, &self.end], ""));
    }
}

/// A splice that adds something at a place.
pub(super) fn splice(at: usize, with: Code, why: String) -> Splice {
    Splice {
        range: at..at,
        with,
        why,
        role: None,
        needs: None,
    }
}

/// A splice that adds a line below the one that holds a place.
pub(super) fn below(bytes: &[u8], at: usize, line: &Code, why: String) -> Splice {
    let end = text::line_range(bytes, at).end;
    let line_end = Code::fixed(text::line_end(bytes));
    splice(end, Code::join([&line_end, line], ""), why)
}

/// Splices in the order in which they have to be put in: of those at the end of a file without an end of its last line
/// what belongs to that line's section comes before what begins another. Those of the tail end with a line.
pub(super) fn behind_last(bytes: &[u8], mut all: Vec<(usize, Splice)>) -> Vec<(usize, Splice)> {
    if !bytes.ends_with(b"\n") {
        all.sort_by_key(|(_, s)| s.range.start == bytes.len() && s.with.ends_with(b"\n"));
    }
    all
}

/// The lines of a new file, for [`Notation::insert`] into nothing.
#[must_use]
pub fn fresh(notation: &dyn Notation, new: &[(Spot, Code)]) -> Code {
    let mut new: Vec<&(Spot, Code)> = new.iter().collect();
    new.sort_by_key(|(spot, _)| !notation.comes_first(spot.section));
    let new: Vec<New> = new
        .into_iter()
        .map(|(spot, value)| New {
            spot: spot.clone(),
            value: value.clone(),
            near: None,
            why: String::new(),
        })
        .collect();
    let mut out = Code::default();
    for (_, splice) in notation.insert(b"", &[], &new) {
        out.push(&splice.with);
    }
    out
}

/// What tests of notations share.
#[cfg(test)]
pub(super) mod testing {
    use super::*;

    /// A text after entries were added to it.
    pub fn added(
        notation: &dyn Notation,
        text: &str,
        new: &[(&'static str, &'static str)],
    ) -> String {
        let bytes = text.as_bytes();
        let new: Vec<New> = new
            .iter()
            .map(|(path, value)| New {
                spot: Spot::of(path),
                value: Code::fixed(value),
                near: None,
                why: String::new(),
            })
            .collect();
        let entries = notation.entries(bytes).unwrap();
        let splices = notation.insert(bytes, &entries, &new);
        let splices: Vec<Splice> = splices.into_iter().map(|s| s.1).collect();
        String::from_utf8(wealdmist_core::plan::splice(bytes, &splices)).unwrap()
    }
}
