//! TOML, read by a maintained parser that knows the place of each value.

use std::ops::Range;

use toml_edit::{Document, Item, TableLike, Value};
use wealdmist_core::guard::guarded;
use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Standing;
use wealdmist_core::text;

use super::lines;
use super::notation::{
    Damage, Datum, Entry, New, Notation, Spot, Tail, behind_last, below, splice,
};

/// The notation.
#[derive(Debug, Clone, Copy)]
pub struct Toml;

const HELP: &str = "correct the TOML at this place";

struct Reader<'a> {
    bytes: &'a [u8],
    /// Where each line begins.
    starts: Vec<usize>,
    out: Vec<Entry>,
}

impl Reader<'_> {
    fn table(&mut self, table: &dyn TableLike, path: &str, within: Option<&str>) {
        for (name, item) in table.iter() {
            let path = match path {
                "" => name.to_owned(),
                _ => format!("{path}/{name}"),
            };
            let key = table.key(name).and_then(toml_edit::Key::span);
            self.item(item, key, &path, within);
        }
    }

    fn item(&mut self, item: &Item, key: Option<Range<usize>>, path: &str, within: Option<&str>) {
        match item {
            Item::Table(table) => self.table(table, path, None),
            Item::ArrayOfTables(tables) => {
                for (i, table) in tables.iter().enumerate() {
                    self.table(table, &format!("{path}/{i}"), None);
                }
            }
            Item::Value(value) => self.value(value, key, path, within),
            Item::None => {}
        }
    }

    fn value(
        &mut self,
        value: &Value,
        key: Option<Range<usize>>,
        path: &str,
        within: Option<&str>,
    ) {
        match value {
            Value::InlineTable(table) => {
                let within = within.or_else(|| (!table.is_dotted()).then_some(path));
                return self.table(table, path, within);
            }
            Value::Array(array) => {
                for (i, value) in array.iter().enumerate() {
                    self.value(value, None, &format!("{path}/{i}"), within.or(Some(path)));
                }
                return;
            }
            _ => {}
        }
        let Some(span) = value.span() else { return };
        let written = &self.bytes[span.clone()];
        let (bare, quoting, quotes) = match written {
            [b'"', b'"', b'"', ..] | [b'\'', b'\'', b'\'', ..] => (false, Quoting::Json, 3),
            [b'"', ..] => (false, Quoting::Json, 1),
            [b'\'', ..] => (false, Quoting::Single, 1),
            _ => (true, Quoting::Inert, 0),
        };
        let inner = match span.len() >= 2 * quotes {
            true => span.start + quotes..span.end - quotes,
            false => span.clone(),
        };
        let text = match value.as_str() {
            Some(text) => text.to_owned(),
            None => String::from_utf8_lossy(written).into_owned(),
        };
        self.out.push(Entry {
            path: path.to_owned(),
            key: key.unwrap_or_else(|| span.clone()),
            plain: quotes < 3 && self.bytes[inner.clone()] == *text.as_bytes(),
            line: self.starts.partition_point(|s| *s <= span.start),
            value: span,
            inner,
            text,
            bare,
            quoting,
            off: None,
            within: within.map(str::to_owned),
            standing: Standing::Certain,
        });
    }
}

/// What a string says, as it is written with its quotes: its bytes, each with the place where it is written.
/// `None` where it is not one that we can take apart.
pub fn string(written: &[u8]) -> Option<Vec<(u8, usize)>> {
    let (quotes, literal) = match written {
        [b'"', b'"', b'"', ..] => (3, false),
        [b'\'', b'\'', b'\'', ..] => (3, true),
        [b'"', ..] => (1, false),
        [b'\'', ..] => (1, true),
        _ => return None,
    };
    let end = written.len().checked_sub(quotes).filter(|e| *e >= quotes)?;
    let mut at = quotes;
    if quotes == 3 {
        // A line's end right behind the quotes is none.
        let rest = &written[at..end];
        at += match rest {
            [b'\r', b'\n', ..] => 2,
            [b'\n', ..] => 1,
            _ => 0,
        };
    }
    let mut out = Vec::new();
    while at < end {
        let byte = written[at];
        if byte != b'\\' || literal {
            out.push((byte, at));
            at += 1;
            continue;
        }
        let mut said = |c: char| {
            let mut room = [0; 4];
            out.extend(c.encode_utf8(&mut room).bytes().map(|b| (b, at)));
        };
        let digits = match written.get(at + 1)? {
            b'b' => (said('\u{8}'), 0).1,
            b't' => (said('\t'), 0).1,
            b'n' => (said('\n'), 0).1,
            b'f' => (said('\u{c}'), 0).1,
            b'r' => (said('\r'), 0).1,
            b'e' => (said('\u{1b}'), 0).1,
            sign @ (b'"' | b'\\') => (said(char::from(*sign)), 0).1,
            b'x' => 2,
            b'u' => 4,
            b'U' => 8,
            // A line's end, and the blanks that begin the next one.
            sign if sign.is_ascii_whitespace() && quotes == 3 => {
                let blanks = written[at + 1..end].iter();
                at += 1 + blanks.take_while(|b| b.is_ascii_whitespace()).count();
                continue;
            }
            _ => return None,
        };
        if digits > 0 {
            let text = std::str::from_utf8(written.get(at + 2..at + 2 + digits)?).ok()?;
            said(char::from_u32(u32::from_str_radix(text, 16).ok()?)?);
        }
        at += 2 + digits;
    }
    Some(out)
}

/// The bytes as the parser takes them; a mark of the byte order, which the program passes over, is
/// left out and its length returned.
fn text_of(bytes: &[u8]) -> Result<(&str, usize), Damage> {
    let mark = if bytes.starts_with(b"\xef\xbb\xbf") {
        3
    } else {
        0
    };
    let text = std::str::from_utf8(&bytes[mark..]).map_err(|e| Damage {
        at: mark + e.valid_up_to(),
        message: "it is not UTF-8".to_owned(),
        help: "save the file as UTF-8",
    })?;
    Ok((text, mark))
}

impl Notation for Toml {
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        let (text, mark) = text_of(bytes)?;
        if let Some(line) = super::too_deep(text) {
            let at = lines::lines(bytes)
                .nth(line - 1)
                .map_or(0, |l| l.span.start);
            return Err(Damage {
                at,
                message: "it is nested too deeply".to_owned(),
                help: "flatten what is nested here",
            });
        }
        let broken = |at: usize, message: String| Damage {
            at: at + mark,
            message,
            help: HELP,
        };
        let parsed = guarded(|| Document::parse(text));
        let parsed = parsed.map_err(|_| broken(0, "its parser failed on it".to_owned()))?;
        let document = parsed.map_err(|e| {
            let message = e.message().lines().collect::<Vec<_>>().join(", ");
            broken(e.span().map_or(0, |s| s.start), message)
        })?;
        let body = &bytes[mark..];
        let ends = memchr::memchr_iter(b'\n', body);
        let mut reader = Reader {
            bytes: body,
            starts: std::iter::once(0).chain(ends.map(|i| i + 1)).collect(),
            out: Vec::new(),
        };
        reader.table(document.as_table(), "", None);
        let mut out = reader.out;
        out.sort_by_key(|e| e.value.start);
        for entry in &mut out {
            for range in [&mut entry.key, &mut entry.value, &mut entry.inner] {
                *range = range.start + mark..range.end + mark;
            }
        }
        Ok(out)
    }

    fn value(&self, datum: &Datum) -> Option<Code> {
        match datum {
            Datum::Text(text) => Some(Code::of("\"{}\"", &[&quote(text, &[Quoting::Json])?])),
            Datum::Literal(code) => Some(Code::of("\"{}\"", &[code])),
            Datum::Bare(code) => Some(code.clone()),
        }
    }

    fn insert(&self, bytes: &[u8], entries: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        let mut tail = Tail::of(bytes);
        let mut open = "";
        let mut one = |new: &New| {
            let why = new.why.clone();
            let section = new.spot.section;
            let inside =
                |e: &&Entry| e.path.rsplit_once('/').map_or("", |(path, _)| path) == section;
            let near = new.near.map(|n| &entries[n]).filter(inside);
            if let Some(near) = near.or_else(|| entries.iter().rfind(inside)) {
                return beside(bytes, near, new);
            }
            let line = self.line(
                &Spot {
                    section: "",
                    ..new.spot.clone()
                },
                &new.value,
            );
            if let Some(at) = header(bytes, entries, section) {
                return Some(below(bytes, at, &line, why));
            }
            if closed(entries, section) {
                return None;
            }
            let end = Code::fixed(text::line_end(bytes));
            if section.is_empty() && !bytes.is_empty() {
                let (_, mark) = text_of(bytes).ok()?;
                return Some(splice(mark, Code::join([&line, &end], ""), why));
            }
            if open != section {
                open = section;
                tail.blank();
                let name: Vec<Code> = section.split('/').map(Code::fixed).collect();
                tail.before(&Code::of("[{}]", &[&Code::join(&name, ".")]));
            }
            Some(tail.line(&line, why))
        };
        // What is of one table stands together: it cannot be opened twice.
        let mut sections: Vec<&str> = Vec::new();
        for new in new {
            if !sections.contains(&new.spot.section) {
                sections.push(new.spot.section);
            }
        }
        let mut all: Vec<(usize, &New)> = new.iter().enumerate().collect();
        all.sort_by_key(|(_, new)| sections.iter().position(|s| *s == new.spot.section));
        let all = all.into_iter();
        behind_last(
            bytes,
            all.filter_map(|(i, new)| Some((i, one(new)?))).collect(),
        )
    }

    fn comment(&self) -> &'static str {
        "#"
    }

    fn line(&self, spot: &Spot, value: &Code) -> Code {
        let names = spot.section.split('/').filter(|n| !n.is_empty());
        let mut names: Vec<Code> = names.map(Code::fixed).collect();
        names.push(spot.name.clone());
        Code::of("{} = {}", &[&Code::join(&names, "."), value])
    }
}

/// A new entry beside another of the same table.
fn beside(bytes: &[u8], near: &Entry, new: &New) -> Option<Splice> {
    let pair = Code::of("{} = {}", &[&new.spot.name, &new.value]);
    if near.within.is_some() {
        return Some(splice(
            near.value.end,
            Code::of(", {}", &[&pair]),
            new.why.clone(),
        ));
    }
    // The indentation, and the names above that stand on the same line.
    let line = text::line_range(bytes, near.key.start);
    let head = Code::kept(&bytes[line.start..near.key.start]);
    if head.contains(&b'=') {
        return None;
    }
    let line = Code::join([&head, &pair], "");
    Some(below(bytes, near.value.end, &line, new.why.clone()))
}

/// Whether a table, or one it is in, stands between brackets, where nothing is added from outside.
fn closed(entries: &[Entry], section: &str) -> bool {
    let contains = |table: &String| {
        let rest = section.strip_prefix(table.as_str());
        rest.is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
    };
    entries
        .iter()
        .filter_map(|e| e.within.as_ref())
        .any(contains)
}

/// Where the header of a table stands that holds no value yet.
fn header(bytes: &[u8], entries: &[Entry], section: &str) -> Option<usize> {
    if section.is_empty() {
        return None;
    }
    let wanted = section.replace('/', ".");
    lines::lines(bytes).find_map(|line| {
        let text = lines::trim(bytes, line.span.clone());
        let name = bytes[text.clone()].strip_prefix(b"[")?;
        let end = memchr::memchr(b']', name)?;
        let name = std::str::from_utf8(&name[..end]).ok()?;
        let name: Vec<&str> = name
            .split('.')
            .map(|n| n.trim().trim_matches('"'))
            .collect();
        let in_value = entries.iter().any(|e| e.value.contains(&text.start));
        (name.join(".") == wanted && !in_value).then_some(text.start)
    })
}

#[cfg(test)]
mod tests {
    use super::super::notation::testing;
    use super::*;
    use proptest::prelude::*;

    fn said(text: &str) -> Vec<(String, String, usize)> {
        let entries = Toml.entries(text.as_bytes()).unwrap();
        let one = |e: Entry| {
            if e.plain {
                assert_eq!(&text[e.inner.clone()], e.text);
            }
            (e.path, e.text, e.line)
        };
        entries.into_iter().map(one).collect()
    }

    #[test]
    fn every_way_to_write_a_value_is_seen() {
        let text = "a.b = 1\n[colors.normal]\nred = '#aabbcc' # c\nblue = \"\\u0023aabbcc\"\n[window]\npadding = { x = 2, y = 3 }\nlist = [\n  \"a\",\n  'b',\n]\n";
        let row = |p: &str, v: &str, n| (p.to_owned(), v.to_owned(), n);
        assert_eq!(
            said(text),
            [
                row("a/b", "1", 1),
                row("colors/normal/red", "#aabbcc", 3),
                row("colors/normal/blue", "#aabbcc", 4),
                row("window/padding/x", "2", 6),
                row("window/padding/y", "3", 6),
                row("window/list/0", "a", 8),
                row("window/list/1", "b", 9),
            ]
        );
        let entries = Toml.entries(text.as_bytes()).unwrap();
        assert!(!entries[2].plain && entries[1].plain);
        assert_eq!(entries[3].within.as_deref(), Some("window/padding"));
        let marked = format!("\u{feff}{text}");
        assert_eq!(said(&marked).len(), 7);
        assert_eq!(Toml.entries(b"a = 1\nb = [").unwrap_err().at, 11);
    }

    #[test]
    fn every_byte_of_a_string_knows_where_it_is_written() {
        for text in [
            "'a\\b'",
            "\"a\\tb\\\\ \\u00e9\\U0001F600\\x41\\e\"",
            "\"\"\"\r\na\\\n   b\\   \n c\nd\"\"\"",
            "\'\'\'\na\'b\\\'\'\'",
            "\"\"\"\"a\"\"\"",
            "\"\"",
        ] {
            let file = format!("k = {text}\n");
            let entries = Toml.entries(file.as_bytes()).unwrap();
            let all = string(text.as_bytes()).unwrap();
            let bytes: Vec<u8> = all.iter().map(|b| b.0).collect();
            assert_eq!(bytes, entries[0].text.as_bytes(), "{text}");
            for (byte, at) in all {
                let there = text.as_bytes()[at];
                assert!(there == byte || there == b'\\', "{text}");
            }
        }
    }

    fn added(text: &str, new: &[(&'static str, &'static str)]) -> String {
        testing::added(&Toml, text, new)
    }

    #[test]
    fn new_entries_stand_where_a_person_would_put_them() {
        let new = [("colors/normal/red", "1"), ("colors/normal/blue", "2")];
        for (before, after) in [
            ("", "[colors.normal]\nred = 1\nblue = 2\n"),
            ("x = 1", "x = 1\n\n[colors.normal]\nred = 1\nblue = 2\n"),
            (
                "[colors.normal]\n  green = 3\n[other]\n",
                "[colors.normal]\n  green = 3\n  red = 1\n  blue = 2\n[other]\n",
            ),
            (
                "[ colors . normal ]\r\n[other]\r\n",
                "[ colors . normal ]\r\nred = 1\r\nblue = 2\r\n[other]\r\n",
            ),
            (
                "[colors]\nnormal.green = 3\n",
                "[colors]\nnormal.green = 3\nnormal.red = 1\nnormal.blue = 2\n",
            ),
            (
                "[colors]\nnormal = { green = 3 }\n",
                "[colors]\nnormal = { green = 3, red = 1, blue = 2 }\n",
            ),
            (
                "[colors]\nother = { x = 9 }\n",
                "[colors]\nother = { x = 9 }\n\n[colors.normal]\nred = 1\nblue = 2\n",
            ),
            (
                "colors = { bright = { red = 9 } }\n",
                "colors = { bright = { red = 9 } }\n",
            ),
        ] {
            assert_eq!(added(before, &new), after, "{before}");
            said(after);
        }
        let apart = [("a/x", "1"), ("a/b/y", "2"), ("a/z", "3")];
        assert_eq!(added("", &apart), "[a]\nx = 1\nz = 3\n\n[a.b]\ny = 2\n");
        assert_eq!(
            added("[a]\nx = 1\n", &[("top", "2")]),
            "top = 2\n[a]\nx = 1\n"
        );
    }

    proptest! {
        #[test]
        fn any_bytes_are_read(bytes in proptest::collection::vec(prop_oneof![
            Just(b'"'), Just(b'['), Just(b'='), Just(b'a'), Just(b'\n'), Just(b'{'), any::<u8>()
        ], 0..80)) {
            for e in Toml.entries(&bytes).unwrap_or_default() {
                prop_assert!(e.value.end <= bytes.len() && e.inner.start >= e.value.start);
            }
        }
    }
}
