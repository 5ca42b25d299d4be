//! Line-based settings: `key value` or `key = value`, perhaps in sections.

use std::ops::Range;

use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Standing;
use wealdmist_core::text;

use super::lines::{self, Line};
use super::notation::{
    Damage, Datum, Entry, New, Notation, Spot, Tail, behind_last, below, splice,
};

/// A dialect of such files.
#[derive(Debug, Clone, Copy)]
pub struct Settings {
    /// What stands between a key and its value beside blanks; `None` for blanks alone.
    pub separator: Option<u8>,
    /// What is written between a key and its value in a new line.
    pub written: &'static str,
    /// What begins a comment.
    pub comment: &'static str,
    /// Whether a comment may stand behind a value, after a blank.
    pub trailing: bool,
    /// Whether quotes around a value are taken off.
    pub quotes: bool,
    /// Keys whose value begins with a part of the path, and the sign behind that part.
    pub indexed: &'static [(&'static str, u8)],
    /// The section of what stands before the first header; `None` without sections.
    pub main: Option<&'static str>,
    /// How a text is written as a value.
    pub quoting: Quoting,
}

impl Settings {
    /// A section's header; empty braces where the line is none.
    fn header<'a>(&self, bytes: &'a [u8], line: &Line) -> Option<&'a [u8]> {
        self.main?;
        let text = &bytes[lines::trim(bytes, line.span.clone())];
        let name = text.strip_prefix(b"[")?;
        let end = memchr::memchr(b']', name)?;
        Some(&name[..end])
    }

    /// The key and the value of a line's body.
    fn parts(&self, bytes: &[u8], body: Range<usize>) -> Option<(Range<usize>, Range<usize>)> {
        let text = &bytes[body.clone()];
        let (key_end, value_start) = match self.separator {
            Some(sign) => {
                let at = memchr::memchr(sign, text)?;
                (at, at + 1)
            }
            None => {
                let at = text.iter().position(|b| lines::is_blank(*b));
                let at = at.unwrap_or(text.len());
                (at, at)
            }
        };
        let key = lines::trim(bytes, body.start..body.start + key_end);
        let mut value = lines::trim(bytes, body.start + value_start..body.end);
        if self.trailing {
            let text = &bytes[value.clone()];
            let sign = self.comment.as_bytes()[0];
            let mut signs = memchr::memchr_iter(sign, text);
            if let Some(at) = signs.find(|at| *at > 0 && lines::is_blank(text[at - 1])) {
                value = lines::trim(bytes, value.start..value.start + at);
            }
        }
        (!key.is_empty()).then_some((key, value))
    }

    fn entry(&self, bytes: &[u8], section: Option<&[u8]>, line: &Line) -> Option<Entry> {
        let text = lines::trim(bytes, line.span.clone());
        let sign = self.comment.as_bytes();
        let off = bytes[text.clone()].starts_with(sign).then(|| {
            let after = text.start + sign.len();
            let blank = usize::from(bytes.get(after) == Some(&b' '));
            text.start..(after + blank).min(text.end)
        });
        let body = off.as_ref().map_or(text.start, |c| c.end)..text.end;
        let (key, mut value) = self.parts(bytes, body)?;
        let is_name = |b: &u8| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'-');
        if off.is_some() && !bytes[key.clone()].iter().all(is_name) {
            return None;
        }
        // Places within a value are places in the file only where it is text.
        let part = |r: Range<usize>| std::str::from_utf8(&bytes[r]).ok();
        let (name, mut said) = (part(key.clone())?, part(value.clone())?);
        let mut path = match section {
            Some(section) => [std::str::from_utf8(section).ok()?, "/", name].concat(),
            None => name.to_owned(),
        };
        if let Some((_, sign)) = self.indexed.iter().find(|i| i.0 == name) {
            let first = said.split(|c| c == char::from(*sign) || (*sign == b' ' && c == '\t'));
            let first = first.into_iter().next()?;
            if first.len() < said.len() {
                let start = value.start + first.len() + 1;
                path = format!("{path}/{}", first.trim());
                value = lines::trim(bytes, start..value.end);
                said = part(value.clone())?;
            }
        }
        let quoted = self.quotes && said.len() > 1 && said.starts_with('"') && said.ends_with('"');
        let inner = match quoted {
            true => value.start + 1..value.end - 1,
            false => value.clone(),
        };
        Some(Entry {
            path,
            key,
            text: part(inner.clone())?.to_owned(),
            inner,
            value,
            plain: true,
            bare: !quoted,
            quoting: if quoted { Quoting::Inert } else { self.quoting },
            off,
            within: None,
            standing: Standing::Certain,
            line: line.number,
        })
    }

    /// The line of a new entry beside another: with its indentation, its column, its separator.
    fn beside(&self, bytes: &[u8], near: &Entry, new: &New) -> Code {
        let line = text::line_range(bytes, near.key.start);
        let start = near.off.as_ref().map_or(near.key.start, |c| c.start);
        let indent = Code::kept(&bytes[line.start..start]);
        let mut name = new.spot.name.clone();
        let gap = match self.separator {
            Some(_) => {
                let between = &bytes[near.key.end..near.value.start];
                // What is part of the path there is not part of the gap.
                let sign = self.separator.and_then(|s| memchr::memchr(s, between));
                let sign = sign.map_or(0, |at| at + 1);
                let blanks = between[sign..].iter().take_while(|b| lines::is_blank(**b));
                let end = sign + blanks.count();
                Code::kept(&between[..end])
            }
            None => {
                let column = near.value.start - near.key.start;
                Code::blanks(column.saturating_sub(name.len()).max(1))
            }
        };
        if let (Some(sub), None) = (&new.spot.sub, self.separator) {
            name = Code::of("{} {}", &[&name, sub]);
            return Code::join([&indent, &name, &Code::blanks(1), &new.value], "");
        }
        let value = self.with_sub(&new.spot, &new.value);
        Code::join([&indent, &name, &gap, &value], "")
    }

    fn with_sub(&self, spot: &Spot, value: &Code) -> Code {
        match &spot.sub {
            None => value.clone(),
            Some(sub) if self.separator == Some(b'=') => Code::of("{}={}", &[sub, value]),
            Some(sub) => Code::of("{} {}", &[sub, value]),
        }
    }

    /// Where each section's header line ends, by its name; the last of a name counts.
    fn section_end(&self, bytes: &[u8], section: &str) -> Option<usize> {
        let mut found = None;
        for line in lines::lines(bytes) {
            if self.header(bytes, &line) == Some(section.as_bytes()) {
                found = Some(line.span.start);
            }
        }
        found
    }
}

/// How a view of settings spells what it says: as they do.
macro_rules! spelled_as_settings {
    () => {
        fn value(&self, datum: &Datum) -> Option<Code> {
            self.settings.value(datum)
        }

        fn text_quoting(&self) -> Quoting {
            self.settings.text_quoting()
        }

        fn nests(&self) -> bool {
            self.settings.nests()
        }

        fn comes_first(&self, section: &str) -> bool {
            self.settings.comes_first(section)
        }

        fn comment(&self) -> &'static str {
            self.settings.comment()
        }

        fn shown(&self, path: &str) -> String {
            self.settings.shown(path)
        }

        fn line(&self, spot: &Spot, value: &Code) -> Code {
            self.settings.line(spot, value)
        }
    };
}

pub(super) use spelled_as_settings;

impl Notation for Settings {
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        let mut section = self.main.map(str::as_bytes);
        let mut out = Vec::new();
        for line in lines::lines(bytes) {
            match self.header(bytes, &line) {
                Some(name) => section = Some(name),
                None => out.extend(self.entry(bytes, section, &line)),
            }
        }
        Ok(out)
    }

    fn value(&self, datum: &Datum) -> Option<Code> {
        match datum {
            Datum::Text(text) => quote(text, &[self.quoting]),
            Datum::Literal(code) | Datum::Bare(code) => Some(code.clone()),
        }
    }

    fn insert(&self, bytes: &[u8], entries: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        let mut tail = Tail::of(bytes);
        // The section that stands open at the end of what was added.
        let mut open = "";
        let mut one = |new: &New| {
            let why = new.why.clone();
            let Some(main) = self.main else {
                return Some(match new.near {
                    Some(near) => {
                        let near = &entries[near];
                        below(bytes, near.value.start, &self.beside(bytes, near, new), why)
                    }
                    None => tail.line(&self.line(&new.spot, &new.value), why),
                });
            };
            let section = new.spot.section;
            let inside = |e: &Entry| {
                let (path, name) = e.path.rsplit_once('/').unwrap_or(("", &e.path));
                path == section && !name.is_empty()
            };
            let near = new.near.map(|n| &entries[n]).filter(|e| inside(e));
            let near = near
                .or_else(|| entries.iter().rfind(|e| e.off.is_none() && inside(e)))
                .or_else(|| entries.iter().rfind(|e| inside(e)));
            if let Some(near) = near {
                let line = self.beside(bytes, near, new);
                return Some(below(bytes, near.value.start, &line, why));
            }
            let bare = Spot {
                section: "",
                ..new.spot.clone()
            };
            let line = self.line(&bare, &new.value);
            if let Some(at) = self.section_end(bytes, section) {
                return Some(below(bytes, at, &line, why));
            }
            if section == main && !bytes.is_empty() {
                // Before the first header; what has none is of this section.
                let end = Code::fixed(text::line_end(bytes));
                return Some(splice(0, Code::join([&line, &end], ""), why));
            }
            if open != section {
                open = section;
                if section != main {
                    tail.blank();
                    tail.before(&Code::of("[{}]", &[&Code::fixed(section)]));
                }
            }
            Some(tail.line(&line, why))
        };
        let all = new.iter().enumerate();
        behind_last(
            bytes,
            all.filter_map(|(i, new)| Some((i, one(new)?))).collect(),
        )
    }

    fn nests(&self) -> bool {
        false
    }

    fn text_quoting(&self) -> Quoting {
        self.quoting
    }

    fn comes_first(&self, section: &str) -> bool {
        section.is_empty() || self.main == Some(section)
    }

    fn comment(&self) -> &'static str {
        self.comment
    }

    fn shown(&self, path: &str) -> String {
        match self.main {
            None => path.replace('/', " "),
            Some(main) => {
                let path = path
                    .strip_prefix(main)
                    .map_or(path, |p| p.trim_start_matches('/'));
                path.replace('/', ".")
            }
        }
    }

    fn line(&self, spot: &Spot, value: &Code) -> Code {
        let value = self.with_sub(spot, value);
        let line = Code::join([&spot.name, &Code::fixed(self.written), &value], "");
        match (spot.section, self.main) {
            ("", _) | (_, None) => line,
            (section, Some(main)) if section == main => line,
            (section, Some(_)) => Code::of("[{}] {}", &[&Code::fixed(section), &line]),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::notation::testing::added;
    use super::*;
    use proptest::prelude::*;

    const BLANKS: Settings = Settings {
        separator: None,
        written: " ",
        comment: "#",
        trailing: false,
        quotes: false,
        indexed: &[("part", b' ')],
        main: None,
        quoting: Quoting::Line,
    };
    const SECTIONS: Settings = Settings {
        separator: Some(b'='),
        written: "=",
        trailing: true,
        quotes: true,
        indexed: &[("list", b'=')],
        main: Some("main"),
        ..BLANKS
    };

    fn said(settings: &Settings, text: &str) -> Vec<(String, String, bool)> {
        let entries = settings.entries(text.as_bytes()).unwrap();
        let one = |e: Entry| {
            assert_eq!(&text[e.inner.clone()], e.text);
            (e.path, e.text, e.off.is_some())
        };
        entries.into_iter().map(one).collect()
    }

    #[test]
    fn entries_and_their_spans() {
        let row = |k: &str, v: &str, off| (k.to_owned(), v.to_owned(), off);
        assert_eq!(
            said(
                &BLANKS,
                "  size\t 12.0  \r\n# color1 #aa\n#: prose here\n#color2 x\n\nbare\npart A  b c\n"
            ),
            [
                row("size", "12.0", false),
                row("color1", "#aa", true),
                row("color2", "x", true),
                row("bare", "", false),
                row("part/A", "b c", false),
            ]
        );
        assert_eq!(
            said(
                &SECTIONS,
                "font = \"A b\" # c\n#size=2\n# see a = b\n[colors]\n x=aa#bb\nlist = 3=#aabbcc\n; y=1\n"
            ),
            [
                row("main/font", "A b", false),
                row("main/size", "2", true),
                row("colors/x", "aa#bb", false),
                row("colors/list/3", "#aabbcc", false),
                row("colors/; y", "1", false),
            ]
        );
    }

    #[test]
    fn new_entries_stand_in_their_section() {
        let new = [("main/f", "3"), ("colors/a", "1"), ("colors/b", "2")];
        assert_eq!(added(&SECTIONS, "", &new), "f=3\n\n[colors]\na=1\nb=2\n");
        assert_eq!(
            added(&SECTIONS, "x=1\r\n[colors]\r\n  z = 9\r\n[other]\r\n", &new),
            "x=1\r\nf=3\r\n[colors]\r\n  z = 9\r\n  a = 1\r\n  b = 2\r\n[other]\r\n"
        );
        assert_eq!(
            added(&SECTIONS, "[colors]", &new[1..]),
            "[colors]\na=1\nb=2"
        );
        assert_eq!(
            added(&BLANKS, "x 1", &[("a", "2"), ("b", "3")]),
            "x 1\na 2\nb 3\n"
        );
    }

    proptest! {
        #[test]
        fn what_is_added_is_read(body in proptest::collection::vec(prop_oneof![
            Just("x=1"), Just("[colors]"), Just("# y=2"), Just("[main]"), Just(""), Just("[other]"), Just("  a=9 # c"),
        ], 0..10), crlf in any::<bool>(), ended in any::<bool>()) {
            let end = if crlf { "\r\n" } else { "\n" };
            let text = body.join(end) + if ended { end } else { "" };
            let out = added(&SECTIONS, &text, &[("main/f", "3"), ("colors/q", "4"), ("new/r", "5")]);
            let all = said(&SECTIONS, &out);
            for (path, value) in [("main/f", "3"), ("colors/q", "4"), ("new/r", "5")] {
                prop_assert!(all.iter().any(|e| e.0 == path && e.1 == value && !e.2), "{path} in {out:?}");
            }
            for old in said(&SECTIONS, &text) {
                prop_assert!(all.contains(&old), "{old:?} of {text:?} in {out:?}");
            }
        }

        #[test]
        fn any_bytes_are_read(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
            for s in [BLANKS, SECTIONS] {
                for e in s.entries(&bytes).unwrap() {
                    prop_assert!(e.key.end <= e.value.start && e.value.end <= bytes.len());
                }
            }
        }
    }
}
