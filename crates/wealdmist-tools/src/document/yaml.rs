//! YAML, as far as settings files use it: mappings in blocks or between braces, scalars of any
//! style. Read by a maintained parser; what an alias stands for is read, and changed, where its anchor is. Tags are not
//! followed, and keys that merge (`<<`) only where palettes are imported: programs pass them over.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ops::Range;

use saphyr_parser::{Event, Parser, ScalarStyle};
use wealdmist_core::guard::guarded;
use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Standing;
use wealdmist_core::text;

use crate::limits;

use super::notation::{Damage, Datum, Entry, New, Notation, Spot, Tail, below, legible, splice};

/// The notation.
#[derive(Debug, Clone, Copy)]
pub struct Yaml;

/// A mapping in the file.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Mapping {
    path: String,
    /// How far its keys are indented; `None` between braces.
    indent: Option<usize>,
    /// Where its last value ends.
    end: usize,
}

/// The names of the mappings a new entry stands in.
fn names(new: &New) -> Vec<&'static str> {
    let names = new.spot.section.split('/');
    names.filter(|n| !n.is_empty()).collect()
}

/// The mapping of these names itself, or the nearest above it that is there, with how many of the names it has.
/// Of several of a name the last counts.
fn base<'a>(mappings: &'a [Mapping], names: &[&str]) -> Option<(usize, &'a Mapping)> {
    (0..=names.len()).rev().find_map(|n| {
        let path = names[..n].join("/");
        let found = mappings.iter().rfind(|m| m.path == path)?;
        Some((n, found))
    })
}

/// In what order new entries are written: at one place what belongs deeper comes first, and what belongs
/// together stays so.
fn order(mappings: &[Mapping], new: &[New]) -> Vec<usize> {
    let mut order: Vec<usize> = (0..new.len()).collect();
    order.sort_by_key(|i| {
        let names = names(&new[*i]);
        let depth = base(mappings, &names).map_or(0, |b| b.0);
        let first = |part: &str| {
            let begins =
                |n: &New| n.spot.section == part || n.spot.section.starts_with(&format!("{part}/"));
            new.iter().position(begins)
        };
        let top = names.first().map(|n| first(n));
        (std::cmp::Reverse(depth), top, first(new[*i].spot.section))
    });
    order
}

/// What an anchor names: where it began, and what was found in it.
struct Anchor {
    /// Its number.
    id: usize,
    path: String,
    entries: Range<usize>,
    mappings: Range<usize>,
}

/// The key by which YAML 1.1 merges a mapping into another one.
const MERGES: &str = "<<";

/// The mapping into which a path merges what stands at it: one alias, or a list of them.
fn merged_into(path: &str) -> Option<&str> {
    let above = |path: &'_ str| match path.rsplit_once('/') {
        Some((above, last)) => (above.len(), last.to_owned()),
        None => (0, path.to_owned()),
    };
    let (len, last) = above(path);
    if last == MERGES {
        return Some(&path[..len]);
    }
    let is_number = last.bytes().all(|b| b.is_ascii_digit());
    let (len, last) = above(&path[..len]);
    (is_number && last == MERGES).then(|| &path[..len])
}

/// What stands open while reading.
enum Open {
    /// A mapping: its path and the key that waits for its value, with its bytes.
    Mapping(usize, Option<(String, Range<usize>)>),
    /// A list: its path and the number of its next element.
    List(String, usize),
}

struct Reader<'a> {
    bytes: &'a [u8],
    /// The byte of each character.
    places: Vec<usize>,
    open: Vec<Open>,
    entries: Vec<Entry>,
    mappings: Vec<Mapping>,
    /// The anchors of what is open, `None` for what has none.
    anchored: Vec<Option<Anchor>>,
    /// Those of what has been read, each by its number.
    anchors: HashMap<usize, Anchor>,
    /// Whether keys that merge are followed.
    merges: bool,
}

impl Reader<'_> {
    /// A list or mapping begins, with an anchor or with none (0).
    fn begin(&mut self, id: usize, path: &str) {
        self.anchored.push((id != 0).then(|| Anchor {
            id,
            path: path.to_owned(),
            entries: self.entries.len()..0,
            mappings: self.mappings.len()..0,
        }));
    }

    /// It ends.
    fn end(&mut self) {
        if let Some(Some(mut anchor)) = self.anchored.pop() {
            anchor.entries.end = self.entries.len();
            anchor.mappings.end = self.mappings.len();
            self.anchors.insert(anchor.id, anchor);
        }
    }

    /// An alias as a value: what its anchor names stands here, too.
    fn alias(&mut self, id: usize) {
        let (path, _) = self.next_path();
        let path = match merged_into(&path) {
            Some(_) if !self.merges => return,
            Some(above) => above.to_owned(),
            None => path,
        };
        let Some(anchor) = self.anchors.get(&id) else {
            return;
        };
        // What aliases of aliases come to grows without bounds.
        let (entries, mappings) = (anchor.entries.clone(), anchor.mappings.clone());
        if self.entries.len() + entries.len() > limits::YAML
            || self.mappings.len() + mappings.len() > limits::YAML
        {
            return;
        }
        let at = |there: &str| {
            let rest = there.strip_prefix(&anchor.path).unwrap_or(there);
            match path.as_str() {
                "" => rest.trim_start_matches('/').to_owned(),
                _ => format!("{path}{rest}"),
            }
        };
        let entries: Vec<Entry> = self.entries[entries]
            .iter()
            .map(|e| Entry {
                path: at(&e.path),
                ..e.clone()
            })
            .collect();
        let mappings: Vec<Mapping> = self.mappings[mappings]
            .iter()
            .map(|m| Mapping {
                path: at(&m.path),
                ..m.clone()
            })
            .collect();
        self.entries.extend(entries);
        self.mappings.extend(mappings);
    }

    /// The path of what comes next, and the bytes of its key.
    fn next_path(&self) -> (String, Option<Range<usize>>) {
        match self.open.last() {
            Some(Open::Mapping(mapping, Some((key, span)))) => {
                let above = &self.mappings[*mapping].path;
                let path = match above.as_str() {
                    "" => key.clone(),
                    _ => format!("{above}/{key}"),
                };
                (path, Some(span.clone()))
            }
            Some(Open::List(path, next)) => (format!("{path}/{next}"), None),
            _ => (String::new(), None),
        }
    }

    /// A value has been read: the next key, or the next element.
    fn done(&mut self, end: usize) {
        match self.open.last_mut() {
            Some(Open::Mapping(mapping, key)) => {
                *key = None;
                let mapping = &mut self.mappings[*mapping];
                mapping.end = mapping.end.max(end);
            }
            Some(Open::List(_, next)) => *next += 1,
            None => {}
        }
    }

    /// The path of the outermost list or mapping between braces.
    fn between_brackets(&self) -> Option<String> {
        self.open.iter().find_map(|o| match o {
            Open::Mapping(mapping, _) => {
                let mapping = &self.mappings[*mapping];
                mapping.indent.is_none().then(|| mapping.path.clone())
            }
            Open::List(path, _) => Some(path.clone()),
        })
    }

    fn scalar(&mut self, text: Cow<'_, str>, style: ScalarStyle, span: Range<usize>, line: usize) {
        if let Some(Open::Mapping(mapping, key @ None)) = self.open.last_mut() {
            let mapping = &mut self.mappings[*mapping];
            if let (Some(_), start) = (mapping.indent, span.start) {
                let line = text::line_range(self.bytes, start);
                mapping.indent = Some(start - line.start);
            }
            *key = Some((text.into_owned(), span));
            return;
        }
        // The parser counts blanks and a comment behind a value to it.
        let span = span.start..scalar_end(self.bytes, &span, style, &text);
        let (path, key) = self.next_path();
        if let (true, ScalarStyle::Plain, Some(key)) = (text.is_empty(), style, &key)
            && let Some(Open::Mapping(above, _)) = self.open.last()
            && let Some(indent) = self.mappings[*above].indent
        {
            // A mapping that holds nothing yet.
            let end = key.end;
            self.mappings.push(Mapping {
                path,
                indent: Some(indent + 2),
                end,
            });
            return self.done(end);
        }
        let (bare, quoting) = match style {
            ScalarStyle::DoubleQuoted => (false, Quoting::Json),
            ScalarStyle::SingleQuoted => (false, Quoting::Single),
            _ => (true, Quoting::Inert),
        };
        let inner = match !bare && span.len() > 1 {
            true => span.start + 1..span.end - 1,
            false => span.clone(),
        };
        let end = span.end;
        self.entries.push(Entry {
            path,
            key: key.unwrap_or_else(|| span.clone()),
            plain: self.bytes.get(inner.clone()) == Some(text.as_bytes()),
            value: span,
            inner,
            text: text.into_owned(),
            bare,
            quoting,
            off: None,
            within: self.between_brackets(),
            standing: Standing::Certain,
            line,
        });
        self.done(end);
    }
}

/// Where a scalar ends.
fn scalar_end(bytes: &[u8], span: &Range<usize>, style: ScalarStyle, text: &str) -> usize {
    let written = &bytes[span.clone()];
    let quote = match style {
        ScalarStyle::DoubleQuoted => b'"',
        ScalarStyle::SingleQuoted => b'\'',
        _ if written.starts_with(text.as_bytes()) => return span.start + text.len(),
        _ => return span.start + written.trim_ascii_end().len(),
    };
    let mut at = 1;
    while at < written.len() {
        match written[at] {
            b'\\' if quote == b'"' => at += 2,
            // Doubled, it stands for itself.
            b'\'' if quote == b'\'' && written.get(at + 1) == Some(&quote) => at += 2,
            sign if sign == quote => return span.start + at + 1,
            _ => at += 1,
        }
    }
    span.end
}

fn read(bytes: &[u8], merges: bool) -> Result<(Vec<Entry>, Vec<Mapping>), Damage> {
    let text = legible(bytes)?;
    let mut places: Vec<usize> = text.char_indices().map(|(at, _)| at).collect();
    places.push(text.len());
    let mut reader = Reader {
        bytes,
        places,
        open: Vec::new(),
        entries: Vec::new(),
        mappings: Vec::new(),
        anchored: Vec::new(),
        anchors: HashMap::new(),
        merges,
    };
    let all = guarded(|| {
        let events = Parser::new_from_str(text);
        events.collect::<Result<Vec<_>, _>>()
    });
    let help = "correct the YAML at this place";
    let broken = |at: usize, message: String| Damage { at, message, help };
    let all = all.map_err(|_| broken(0, "its parser failed on it".to_owned()))?;
    let all = all.map_err(|e| {
        let at = reader.places.get(e.marker().index()).copied();
        broken(at.unwrap_or(text.len()), e.info().to_owned())
    })?;
    for (event, span) in all {
        let place = |index: usize| reader.places.get(index).copied().unwrap_or(text.len());
        let range = place(span.start.index())..place(span.end.index());
        match event {
            Event::MappingStart(anchor, _) => {
                let (path, _) = reader.next_path();
                reader.begin(anchor, &path);
                let braces = bytes.get(range.start) == Some(&b'{');
                reader.mappings.push(Mapping {
                    path,
                    indent: (!braces).then_some(0),
                    end: range.start,
                });
                reader
                    .open
                    .push(Open::Mapping(reader.mappings.len() - 1, None));
            }
            Event::SequenceStart(anchor, _) => {
                let (path, _) = reader.next_path();
                reader.begin(anchor, &path);
                reader.open.push(Open::List(path, 0));
            }
            Event::MappingEnd | Event::SequenceEnd => {
                let end = match reader.open.pop() {
                    Some(Open::Mapping(mapping, _)) => reader.mappings[mapping].end,
                    _ => range.start,
                };
                reader.end();
                reader.done(end);
            }
            Event::Scalar(text, style, anchor, _) => {
                let line = span.start.line();
                if anchor != 0 {
                    let (path, _) = reader.next_path();
                    reader.begin(anchor, &path);
                }
                reader.scalar(text, style, range, line);
                if anchor != 0 {
                    reader.end();
                }
            }
            Event::Alias(anchor) => {
                // As a value it says what stands elsewhere; as a key it is none of ours.
                match reader.open.last_mut() {
                    Some(Open::Mapping(_, key @ None)) => *key = Some((String::new(), range)),
                    _ => {
                        reader.alias(anchor);
                        reader.done(range.end);
                    }
                }
            }
            _ => {}
        }
    }
    // In the order of the file: what an alias stands for has its place there before it.
    reader.entries.sort_by_key(|e| e.value.start);
    Ok((reader.entries, reader.mappings))
}

impl Notation for Yaml {
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        read(bytes, false).map(|r| r.0)
    }

    fn imported(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        read(bytes, true).map(|r| r.0)
    }

    fn value(&self, datum: &Datum) -> Option<Code> {
        match datum {
            Datum::Text(text) => Some(Code::of("\"{}\"", &[&quote(text, &[Quoting::Json])?])),
            Datum::Literal(code) => Some(Code::of("\"{}\"", &[code])),
            Datum::Bare(code) => Some(code.clone()),
        }
    }

    fn insert(&self, bytes: &[u8], _: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        let Ok((entries, mappings)) = read(bytes, false) else {
            return Vec::new();
        };
        let order = order(&mappings, new);
        let mut tail = Tail::of(bytes);
        // What the lines before have opened, and where they stand.
        let mut open: (usize, Vec<&str>) = (usize::MAX, Vec::new());
        let mut out = Vec::new();
        for i in order {
            let new = &new[i];
            let names = names(new);
            let why = new.why.clone();
            let pair = Code::of("{}: {}", &[&new.spot.name, &new.value]);
            let (depth, mapping) = base(&mappings, &names).map_or((0, None), |(n, m)| (n, Some(m)));
            let indent = match mapping {
                None => 0,
                Some(Mapping {
                    indent: Some(indent),
                    ..
                }) => *indent,
                Some(mapping) => {
                    // Between braces behind the last value there.
                    let last = entries.iter().rfind(|e| e.value.end == mapping.end);
                    if let Some(last) = last.filter(|_| depth == names.len()) {
                        let more = Code::of(", {}", &[&pair]);
                        out.push((i, splice(last.value.end, more, why)));
                    }
                    continue;
                }
            };
            // What stands there is no mapping: a text, or a list.
            let path = names[..(depth + 1).min(names.len())].join("/");
            let below_it = format!("{path}/");
            let taken = |e: &Entry| e.path == path || e.path.starts_with(&below_it);
            if depth < names.len() && entries.iter().any(taken) {
                continue;
            }
            let at = mapping.map_or(bytes.len(), |m| m.end.saturating_sub(1));
            let same = names
                .iter()
                .zip(&open.1)
                .take_while(|(a, b)| a == b)
                .count();
            let opened = if open.0 == at { same.max(depth) } else { depth };
            let step = |depth_there: usize| Code::blanks(indent + 2 * (depth_there - depth));
            let mut lines: Vec<Code> = names
                .iter()
                .enumerate()
                .skip(opened)
                .map(|(n, name)| Code::join([&step(n), &Code::fixed(name), &Code::fixed(":")], ""))
                .collect();
            let pair = Code::join([&step(names.len()), &pair], "");
            open = (at, names);
            let added = if mapping.is_none() {
                lines.iter().for_each(|line| tail.before(line));
                tail.line(&pair, why)
            } else {
                lines.push(pair);
                below(bytes, at, &Code::join(&lines, text::line_end(bytes)), why)
            };
            out.push((i, added));
        }
        out
    }

    fn comment(&self) -> &'static str {
        "#"
    }

    fn line(&self, spot: &Spot, value: &Code) -> Code {
        let names = spot.section.split('/').filter(|n| !n.is_empty());
        let mut names: Vec<Code> = names.map(Code::fixed).collect();
        names.push(spot.name.clone());
        Code::of("{}: {}", &[&Code::join(&names, "."), value])
    }
}

/// A file of keys and values in blocks, all of which are commented out: those lines by themselves, the sign of
/// the comment taken out and everything else left out.
pub(crate) fn uncommented(bytes: &[u8]) -> Vec<u8> {
    let line = |line: &[u8]| {
        let indent = line.iter().take_while(|b| **b == b' ').count();
        let rest = line[indent..].strip_prefix(b"#")?;
        let (rest, key) = (rest.trim_ascii_end(), rest.trim_ascii());
        let colon = key.iter().position(|b| *b == b':')?;
        let is_key = key[..colon]
            .iter()
            .all(|b| b.is_ascii_lowercase() || *b == b'_');
        let is_value = matches!(key[colon + 1..].first(), None | Some(b' '));
        // Examples within comments stand askew.
        let is_even = (indent + rest.len() - key.len()).is_multiple_of(2);
        (colon > 0 && is_key && is_value && is_even)
            .then(|| [&line[..indent], rest, b"\n"].concat())
    };
    bytes
        .split(|b| *b == b'\n')
        .filter_map(line)
        .flatten()
        .collect()
}

#[cfg(test)]
mod tests {
    use super::super::notation::testing;
    use super::*;
    use proptest::prelude::*;

    fn said(text: &str) -> Vec<(String, String, usize)> {
        let entries = Yaml.entries(text.as_bytes()).unwrap();
        let one = |e: Entry| {
            if e.plain {
                assert_eq!(&text[e.inner.clone()], e.text);
            }
            (e.path, e.text, e.line)
        };
        entries.into_iter().map(one).collect()
    }

    #[test]
    fn values_and_their_places() {
        let text = "# é\ncolors:\n  normal:\n    red: \"#aabbcc\" # c\n    blue: '0xaabbcc'\n  bright: { red: \"#1\", x: \"\\x41\" }\nfont:\n  size: 12.0\nlist:\n  - a\n  - b: c\nempty:\n";
        let row = |p: &str, v: &str, n| (p.to_owned(), v.to_owned(), n);
        assert_eq!(
            said(text),
            [
                row("colors/normal/red", "#aabbcc", 4),
                row("colors/normal/blue", "0xaabbcc", 5),
                row("colors/bright/red", "#1", 6),
                row("colors/bright/x", "A", 6),
                row("font/size", "12.0", 8),
                row("list/0", "a", 10),
                row("list/1/b", "c", 11),
            ]
        );
        assert!(Yaml.entries(b"a: [").is_err());
    }

    /// Path and value of a file from which a palette is imported.
    fn imported(text: &str) -> Vec<(String, String)> {
        let all = Yaml.imported(text.as_bytes()).unwrap().into_iter();
        all.map(|e| (e.path, e.text)).collect()
    }

    #[test]
    fn an_alias_says_what_stands_at_its_anchor() {
        let text = "schemes:\n  dusk: &dusk\n    red: &r 'a'\n    sub: {x: *r}\ncolors: *dusk\nmore: [*r, b]\n";
        let found = said(text);
        let of = |path: &str| {
            found
                .iter()
                .filter(|e| e.0 == path)
                .map(|e| (e.1.as_str(), e.2))
                .collect::<Vec<_>>()
        };
        // Each stands where it is written, and is changed there.
        assert_eq!(of("colors/red"), [("a", 3)]);
        assert_eq!(of("colors/sub/x"), [("a", 3)]);
        assert_eq!(of("schemes/dusk/sub/x"), [("a", 3)]);
        assert_eq!(
            (of("more/0"), of("more/1")),
            (vec![("a", 3)], vec![("b", 6)])
        );
        // What is new goes to the anchor.
        let after = added(text, &[("colors/green", "g")]);
        assert!(
            after.contains("sub: {x: *r}\n    green: g\ncolors"),
            "{after}"
        );
        assert!(said("a: &a {b: *a}\n").is_empty(), "nothing goes round");
    }

    #[test]
    fn keys_that_merge_are_followed_where_palettes_are_imported() {
        let text = "n: &n {red: a, green: b}\nm: &m {red: c}\nbright:\n  green: d\n  <<: *n\nboth:\n  <<: [*m, *n]\n";
        assert!(
            said(text).iter().all(|e| e.0 != "bright/red"),
            "programs pass them over"
        );
        let found = imported(text);
        let last = |path: &str| found.iter().rfind(|e| e.0 == path).map(|e| e.1.as_str());
        assert_eq!(
            (last("bright/red"), last("bright/green")),
            (Some("a"), Some("d"))
        );
        assert_eq!(last("both/green"), Some("b"));
    }

    #[test]
    fn aliases_of_aliases_end() {
        let mut text = "a0: &a0 [x, x, x, x, x, x, x, x, x, x]\n".to_owned();
        for i in 1..20 {
            let all = vec![format!("*a{}", i - 1); 10].join(", ");
            text.push_str(&format!("a{i}: &a{i} [{all}]\n"));
        }
        assert!(Yaml.entries(text.as_bytes()).unwrap().len() <= limits::YAML);
    }

    fn added(text: &str, new: &[(&'static str, &'static str)]) -> String {
        testing::added(&Yaml, text, new)
    }

    #[test]
    fn new_entries_stand_where_a_person_would_put_them() {
        let new = [
            ("colors/primary/background", "1"),
            ("colors/normal/red", "2"),
            ("colors/primary/foreground", "3"),
            ("window/opacity", "4"),
        ];
        for (before, after) in [
            (
                "# all\n",
                "# all\ncolors:\n  primary:\n    background: 1\n    foreground: 3\n  normal:\n    red: 2\nwindow:\n  opacity: 4\n",
            ),
            (
                "colors:\r\n    normal:\r\n        blue: 9\r\nx: y\r\n",
                "colors:\r\n    normal:\r\n        blue: 9\r\n        red: 2\r\n    primary:\r\n      background: 1\r\n      foreground: 3\r\nx: y\r\nwindow:\r\n  opacity: 4\r\n",
            ),
            (
                "window:\n  padding:\n    x: 1",
                "window:\n  padding:\n    x: 1\n  opacity: 4\ncolors:\n  primary:\n    background: 1\n    foreground: 3\n  normal:\n    red: 2",
            ),
            (
                "colors: { normal: { blue: 9 } }\nwindow: text\n",
                "colors: { normal: { blue: 9, red: 2 } }\nwindow: text\n",
            ),
            (
                "colors:\nx: 1\n",
                "colors:\n  primary:\n    background: 1\n    foreground: 3\n  normal:\n    red: 2\nx: 1\nwindow:\n  opacity: 4\n",
            ),
        ] {
            let out = added(before, &new);
            let mut expected: Vec<_> = said(after).into_iter().map(|e| (e.0, e.1)).collect();
            let mut got: Vec<_> = said(&out).into_iter().map(|e| (e.0, e.1)).collect();
            expected.sort();
            got.sort();
            assert_eq!(got, expected, "{before:?} became\n{out}");
            assert_eq!(out.matches("\r\n").count() > 0, before.contains("\r\n"));
        }
    }

    proptest! {
        #[test]
        fn any_bytes_are_read(bytes in proptest::collection::vec(prop_oneof![
            Just(b'"'), Just(b'['), Just(b':'), Just(b' '), Just(b'a'), Just(b'\n'), Just(b'{'), Just(b'&'), Just(b'*'), any::<u8>()
        ], 0..80)) {
            for e in Yaml.entries(&bytes).unwrap_or_default() {
                prop_assert!(e.value.end <= bytes.len() && e.inner.start >= e.value.start);
            }
        }
    }
}
