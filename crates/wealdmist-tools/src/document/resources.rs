//! Resources of the X window system: `pattern: value`, read through a preprocessor, where the more specific of two
//! patterns counts and not the later. A file is seen as one program sees it.
//!
//! The rules of precedence are those of the X toolkit ("Xlib, Resource manager functions, matching rules").

use std::collections::HashMap;
use std::ops::Range;

use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Standing;
use wealdmist_core::text;

use super::lines::{self, is_blank, trim};
use super::notation::{Damage, Datum, Entry, New, Notation, Spot, Tail, below};

/// The resources of a program.
#[derive(Debug, Clone, Copy)]
pub struct Resources {
    /// What its windows are called, and their class.
    pub program: (&'static str, &'static str),
    /// The part of it that has the resources, where that has a name: its name, and its class.
    pub widget: Option<(&'static str, &'static str)>,
    /// Whether a resource has a class of its own, which begins with a capital.
    pub classed: bool,
    /// What stands before the name in a new line.
    pub written: &'static str,
}

/// Where a pattern's file is included: the path of such an entry.
pub const INCLUDE: &str = "#include";

/// How well a pattern matches, level by level: the better, the greater.
type Match = Vec<u8>;

/// How a pattern stands among those for the same resource.
type Rank = (Match, usize);

/// A component of a pattern, and whether nothing may stand before it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Component<'a> {
    name: &'a str,
    tight: bool,
}

/// The components of a pattern; none where it is no pattern.
fn components(pattern: &str) -> Vec<Component<'_>> {
    let mut out = Vec::new();
    let (mut tight, mut start) = (true, 0);
    for (at, c) in pattern.char_indices().chain([(pattern.len(), '.')]) {
        match c {
            '.' | '*' => {
                if start < at {
                    let name = &pattern[start..at];
                    out.push(Component { name, tight });
                    tight = true;
                }
                // Of several signs a star counts.
                tight &= c == '.';
                start = at + 1;
            }
            c if c.is_ascii_alphanumeric() || matches!(c, '_' | '-' | '?') => {}
            _ => return Vec::new(),
        }
    }
    out
}

/// The best way in which components match levels, each with the names that do; `None` where they do not.
fn matched(components: &[Component], levels: &[[&str; 2]]) -> Option<Match> {
    let Some((level, rest)) = levels.split_first() else {
        return components.is_empty().then(Vec::new);
    };
    let (first, behind) = components.split_first()?;
    let here = match () {
        () if first.name == level[0] => Some(5),
        () if first.name == level[1] => Some(3),
        () if first.name == "?" => Some(1),
        () => None,
    };
    let taken = here.and_then(|score| {
        let mut out = vec![score + u8::from(first.tight)];
        out.extend(matched(behind, rest)?);
        Some(out)
    });
    // A level may be left out before a star.
    let skipped = (!first.tight).then(|| matched(components, rest)).flatten();
    let skipped = skipped.map(|mut out| {
        out.insert(0, 0);
        out
    });
    taken.max(skipped)
}

/// A line put together of several.
struct Logical {
    /// The bytes it is made of.
    parts: Vec<Range<usize>>,
    number: usize,
}

/// The lines of a file, those that go on put together.
fn logical(bytes: &[u8]) -> Vec<Logical> {
    let mut out: Vec<Logical> = Vec::new();
    let mut goes_on = false;
    for line in lines::lines(bytes) {
        let continued = line.next > line.span.end && bytes[line.span.clone()].ends_with(b"\\");
        let end = line.span.end - usize::from(continued);
        let span = line.span.start..end;
        match out.last_mut().filter(|_| goes_on) {
            Some(last) => last.parts.push(span),
            None => out.push(Logical {
                parts: vec![span],
                number: line.number,
            }),
        }
        goes_on = continued;
    }
    out
}

/// A text that a name stands for.
struct Macro {
    span: Range<usize>,
    text: String,
}

/// Where `/* … */` is left out.
fn comments(bytes: &[u8]) -> Vec<Range<usize>> {
    let mut out = Vec::new();
    let mut at = 0;
    while let Some(found) = memchr::memmem::find(&bytes[at..], b"/*") {
        let start = at + found;
        let end = memchr::memmem::find(&bytes[start + 2..], b"*/");
        let end = end.map_or(bytes.len(), |n| start + 2 + n + 2);
        out.push(start..end);
        at = end;
    }
    out
}

impl Resources {
    /// What a pattern is for, and how well it says so; `None` where it is for something else.
    fn resource(&self, pattern: &str) -> Option<(String, Match)> {
        let components = components(pattern);
        let last = components.last()?.name;
        let name = match self.classed && last.starts_with(|c: char| c.is_ascii_uppercase()) {
            true => last[..1].to_ascii_lowercase() + &last[1..],
            false => last.to_owned(),
        };
        let class = match self.classed {
            true => name[..1].to_ascii_uppercase() + &name[1..],
            false => name.clone(),
        };
        let (program, programs) = self.program;
        let mut levels = vec![[program, programs]];
        levels.extend(self.widget.map(|(name, class)| [name, class]));
        levels.push([&name, &class]);
        let found = matched(&components, &levels)?;
        Some((name, found))
    }

    /// Whether a pattern names the program.
    #[must_use]
    pub fn names_it(&self, pattern: &str) -> bool {
        let first = components(pattern).first().map(|c| c.name.to_owned());
        first.is_some_and(|first| first == self.program.0 || first == self.program.1)
    }

    /// The patterns that name the program and reach nothing of it, each with where it stands and one that would.
    #[must_use]
    pub fn idle(&self, bytes: &[u8]) -> Vec<(Range<usize>, String)> {
        let mut out = Vec::new();
        for line in lines::lines(bytes) {
            let span = trim(bytes, line.span);
            let text = std::str::from_utf8(&bytes[span.clone()]).unwrap_or_default();
            let Some((pattern, _)) = text.split_once(':') else {
                continue;
            };
            let pattern = pattern.trim_end();
            let names = components(pattern);
            let last = names.last().map_or("", |c| c.name);
            let would = format!("{}*{last}", self.program.1);
            let reaches = |pattern: &str| self.resource(pattern).is_some();
            if self.names_it(pattern) && names.len() == 2 && !reaches(pattern) && reaches(&would) {
                out.push((span.start..span.start + pattern.len(), would));
            }
        }
        out
    }

    /// The words behind a `#` that are no command to the preprocessor: meant as comments, most likely.
    #[must_use]
    pub fn no_commands(bytes: &[u8]) -> Vec<Range<usize>> {
        const COMMANDS: [&str; 16] = [
            "define",
            "undef",
            "include",
            "include_next",
            "import",
            "if",
            "ifdef",
            "ifndef",
            "elif",
            "else",
            "endif",
            "error",
            "warning",
            "line",
            "pragma",
            "ident",
        ];
        let left_out = comments(bytes);
        let mut out = Vec::new();
        for line in lines::lines(bytes) {
            let span = trim(bytes, line.span);
            let next = left_out.partition_point(|r| r.start <= span.start);
            let inside = next > 0 && left_out[next - 1].contains(&span.start);
            let Some(behind) = bytes[span.clone()].strip_prefix(b"#").filter(|_| !inside) else {
                continue;
            };
            let start = span.end - behind.trim_ascii_start().len();
            let is_word = |b: &&u8| b.is_ascii_alphanumeric() || **b == b'_';
            let word = start..start + bytes[start..span.end].iter().take_while(is_word).count();
            let text = std::str::from_utf8(&bytes[word.clone()]).unwrap_or_default();
            let is_number = text.starts_with(|c: char| c.is_ascii_digit());
            if start < span.end && !is_number && !COMMANDS.contains(&text) {
                out.push(word);
            }
        }
        out
    }

    fn read(&self, bytes: &[u8]) -> Vec<Entry> {
        let left_out = comments(bytes);
        let mut macros: HashMap<String, Macro> = HashMap::new();
        // The lines between `#if` and `#endif` depend on the machine.
        let mut depth = 0usize;
        let mut out: Vec<(Entry, Match)> = Vec::new();
        for line in logical(bytes) {
            let Some(first) = line.parts.first().cloned() else {
                continue;
            };
            let next = left_out.partition_point(|r| r.start <= first.start);
            let inside = next.checked_sub(1).map(|n| &left_out[n]);
            let inside = inside.filter(|r| r.contains(&first.start));
            if inside.is_some_and(|r| r.end >= first.end) {
                continue;
            }
            let start = inside.map_or(first.start, |r| r.end);
            let span = trim(bytes, start..first.end);
            let Ok(text) = std::str::from_utf8(&bytes[span.clone()]) else {
                continue;
            };
            if let Some(rest) = text.strip_prefix('#') {
                let rest = rest.trim_start();
                let at = span.end - rest.len();
                let word = rest.split_whitespace().next().unwrap_or_default();
                let behind = trim(bytes, (at + word.len()).min(span.end)..span.end);
                match word {
                    "if" | "ifdef" | "ifndef" => depth += 1,
                    "endif" => depth = depth.saturating_sub(1),
                    "define" if depth == 0 => define(bytes, behind, &mut macros),
                    "undef" if depth == 0 => {
                        macros.remove(&*String::from_utf8_lossy(&bytes[behind]));
                    }
                    "include" if depth == 0 => out.extend(include(bytes, &behind, line.number)),
                    _ => {}
                }
                continue;
            }
            if depth > 0 || text.starts_with('!') {
                continue;
            }
            out.extend(self.entry(bytes, &line, span, &macros));
        }
        // What a more specific pattern says otherwise is not what the program sees.
        let mut best: HashMap<String, (Rank, usize)> = HashMap::new();
        let mut first: HashMap<&[u8], usize> = HashMap::new();
        for (i, (entry, found)) in out.iter().enumerate() {
            // Of patterns that match alike the last counts; a pattern that is there already keeps its place when
            // it gets another value.
            let place = *first.entry(&bytes[entry.key.clone()]).or_insert(i);
            let rank = (found.clone(), place);
            let known = best.entry(entry.path.clone());
            let known = known.or_insert_with(|| (rank.clone(), i));
            if rank >= known.0 {
                *known = (rank, i);
            }
        }
        let counts = |i: usize, entry: &Entry| {
            entry.path == INCLUDE || best.get(&entry.path).is_none_or(|b| b.1 == i)
        };
        let all = out.into_iter().enumerate();
        let all = all.filter(|(i, (entry, _))| counts(*i, entry));
        let mut all: Vec<Entry> = all.map(|(_, (entry, _))| entry).collect();
        all.sort_by_key(|e| e.value.start);
        all
    }

    fn entry(
        &self,
        bytes: &[u8],
        line: &Logical,
        span: Range<usize>,
        macros: &HashMap<String, Macro>,
    ) -> Option<(Entry, Match)> {
        let colon = memchr::memchr(b':', &bytes[span.clone()])? + span.start;
        let key = trim(bytes, span.start..colon);
        let pattern = std::str::from_utf8(&bytes[key.clone()]).ok()?;
        let (path, found) = self.resource(pattern)?;
        // Blanks behind a value are of it.
        let first = line.parts[0].end;
        let blanks = bytes[colon + 1..first].iter();
        let from = colon + 1 + blanks.take_while(|b| is_blank(**b)).count();
        let mut text = String::from_utf8(bytes[from..first].to_vec()).ok()?;
        for part in &line.parts[1..] {
            text.push_str(std::str::from_utf8(&bytes[part.clone()]).ok()?);
        }
        let mut value = from..line.parts.last()?.end;
        let mut plain = line.parts.len() == 1 && !text.contains('\\');
        if let Some(known) = standing_for(text.trim_end(), macros) {
            (value, text, plain) = (known.span.clone(), known.text.clone(), true);
        } else {
            let with = expanded(&text, macros);
            plain &= with == text;
            text = unescaped(&with);
        }
        let entry = Entry {
            path,
            key,
            inner: value.clone(),
            value,
            text,
            plain,
            bare: true,
            quoting: Quoting::Unquoted,
            off: None,
            within: None,
            standing: Standing::Certain,
            line: line.number,
        };
        Some((entry, found))
    }
}

/// Where a pattern's value stands that is a name for what is written elsewhere.
#[must_use]
pub fn named(bytes: &[u8], entry: &Entry) -> Option<Range<usize>> {
    let line = text::line_range(bytes, entry.key.start);
    let colon = memchr::memchr(b':', &bytes[entry.key.end..line.end])?;
    let value = trim(bytes, entry.key.end + colon + 1..line.end);
    (!line.contains(&entry.value.start) && !value.is_empty()).then_some(value)
}

/// Notes what a name stands for; one with arguments is none of ours.
fn define(bytes: &[u8], span: Range<usize>, macros: &mut HashMap<String, Macro>) {
    let text = &bytes[span.clone()];
    let is_name = |b: &u8| b.is_ascii_alphanumeric() || *b == b'_';
    let length = text.iter().take_while(|b| is_name(b)).count();
    let value = trim(bytes, span.start + length..span.end);
    let (Ok(name), Ok(said)) = (
        std::str::from_utf8(&text[..length]),
        std::str::from_utf8(&bytes[value.clone()]),
    ) else {
        return;
    };
    let one = Macro {
        text: said.to_owned(),
        span: value,
    };
    macros.insert(name.to_owned(), one);
}

fn include(bytes: &[u8], span: &Range<usize>, number: usize) -> Option<(Entry, Match)> {
    let written = std::str::from_utf8(&bytes[span.clone()]).ok()?;
    let name = written.strip_prefix('"')?.strip_suffix('"')?;
    let entry = Entry {
        key: span.clone(),
        value: span.clone(),
        inner: span.start + 1..span.end - 1,
        bare: false,
        quoting: Quoting::Inert,
        line: number,
        ..Entry::of_text(INCLUDE, name)
    };
    Some((entry, Vec::new()))
}

/// How often a name may stand for another one.
const DEEPEST: usize = 32;

/// What a name stands for in the end, where it is then.
fn standing_for<'a>(name: &str, macros: &'a HashMap<String, Macro>) -> Option<&'a Macro> {
    let mut known = macros.get(name)?;
    for _ in 0..DEEPEST {
        match macros.get(&known.text) {
            Some(next) if next.text != known.text => known = next,
            _ => break,
        }
    }
    Some(known)
}

/// A text with the names in it that stand for others.
fn expanded(text: &str, macros: &HashMap<String, Macro>) -> String {
    if macros.is_empty() {
        return text.to_owned();
    }
    let is_name = |c: char| c.is_ascii_alphanumeric() || c == '_';
    let mut out = String::new();
    let mut rest = text;
    while !rest.is_empty() {
        let length = rest.find(|c| !is_name(c)).unwrap_or(rest.len());
        let (word, behind) = rest.split_at(length);
        out.push_str(standing_for(word, macros).map_or(word, |known| &known.text));
        let other = behind.find(is_name).unwrap_or(behind.len());
        out.push_str(&behind[..other]);
        rest = &behind[other..];
    }
    out
}

/// A value with its escapes taken out.
fn unescaped(text: &str) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find('\\') {
        out.push_str(&rest[..at]);
        let behind = &rest[at + 1..];
        let octal = behind
            .get(..3)
            .filter(|d| d.bytes().all(|b| (b'0'..=b'7').contains(&b)));
        let (said, length) = match (octal, behind.chars().next()) {
            (Some(digits), _) => (u32::from_str_radix(digits, 8).ok(), 3),
            (None, Some('n')) => (Some(u32::from('\n')), 1),
            (None, Some(c @ (' ' | '\t' | '\\'))) => (Some(u32::from(c)), 1),
            (None, _) => (Some(u32::from('\\')), 0),
        };
        out.extend(said.and_then(char::from_u32));
        rest = &behind[length..];
    }
    out + rest
}

impl Notation for Resources {
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        Ok(self.read(bytes))
    }

    fn value(&self, datum: &Datum) -> Option<Code> {
        match datum {
            Datum::Text(text) if text.contains('\\') => None,
            Datum::Text(text) => quote(text, &[Quoting::Unquoted]),
            Datum::Literal(code) | Datum::Bare(code) => Some(code.clone()),
        }
    }

    fn insert(&self, bytes: &[u8], entries: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        let mut tail = Tail::of(bytes);
        let mut one = |new: &New| {
            let why = new.why.clone();
            let line = self.line(&new.spot, &new.value);
            match new.near.map(|near| &entries[near]) {
                Some(near) => below(bytes, near.key.start, &line, why),
                None => tail.line(&line, why),
            }
        };
        new.iter().map(&mut one).enumerate().collect()
    }

    fn text_quoting(&self) -> Quoting {
        Quoting::Unquoted
    }

    fn nests(&self) -> bool {
        false
    }

    fn comment(&self) -> &'static str {
        "!"
    }

    fn shown(&self, path: &str) -> String {
        path.to_owned()
    }

    fn line(&self, spot: &Spot, value: &Code) -> Code {
        Code::of("{}{}: {}", &[&Code::fixed(self.written), &spot.name, value])
    }
}

#[cfg(test)]
mod tests {
    use super::super::notation::testing::added;
    use super::*;
    use proptest::prelude::*;

    const XTERM: Resources = Resources {
        program: ("xterm", "XTerm"),
        widget: Some(("vt100", "VT100")),
        classed: true,
        written: "XTerm*",
    };

    fn said(text: &str) -> Vec<(String, String)> {
        let entries = XTERM.entries(text.as_bytes()).unwrap();
        entries.into_iter().map(|e| (e.path, e.text)).collect()
    }

    fn one(text: &str, path: &str) -> Option<String> {
        said(text).into_iter().find(|s| s.0 == path).map(|s| s.1)
    }

    #[test]
    fn the_more_specific_pattern_counts() {
        let all = "*background: a\nXTerm*background: b\n*VT100*background: c\nUXTerm*background: d\nxterm.foo.background: e\n";
        assert_eq!(one(all, "background").unwrap(), "b");
        let all = "XTerm*vt100.background: a\nXTerm*VT100.background: b\nXTerm*background: c\n";
        assert_eq!(one(all, "background").unwrap(), "a");
        assert_eq!(
            one("xterm*Background: a\nXTerm*background: b\n", "background").unwrap(),
            "a"
        );
        // Nothing is between a point and what stands behind it.
        assert_eq!(one("XTerm.background: a\n", "background"), None);
        assert_eq!(
            one("*background: a\n*background:  b\n", "background").unwrap(),
            "b"
        );
    }

    #[test]
    fn the_preprocessor_is_followed() {
        let text = "#define reed #80a040\n#define moss reed\n! XTerm*color1: x\n/* *color2: y\n*color3: z */\n*color1: reed\n*color2: moss\n#ifdef X\n*color3: reed\n#endif\n#include \"more\"\n*faceName: Hack:style=reed\n*color4: a\\\nb\n";
        let all = said(text);
        let at = |path: &str| all.iter().find(|s| s.0 == path).map(|s| s.1.as_str());
        assert_eq!(at("color1"), Some("#80a040"));
        assert_eq!(at("color2"), Some("#80a040"));
        assert_eq!(at("color3"), None);
        assert_eq!(at("faceName"), Some("Hack:style=#80a040"));
        assert_eq!(at(INCLUDE), Some("more"));
        assert_eq!(at("color4"), Some("ab"));
        let entries = XTERM.entries(text.as_bytes()).unwrap();
        let color = entries.iter().find(|e| e.path == "color1").unwrap();
        assert_eq!(&text[color.inner.clone()], "#80a040");
    }

    #[test]
    fn new_lines_stand_below_what_is_like_them() {
        let text = added(
            &XTERM,
            "a: b",
            &[("color1", "#010203"), ("color2", "#040506")],
        );
        assert_eq!(text, "a: b\nXTerm*color1: #010203\nXTerm*color2: #040506\n");
    }

    proptest! {
        #[test]
        fn any_bytes_are_read(bytes in prop::collection::vec(any::<u8>(), 0..200)) {
            for entry in XTERM.entries(&bytes).unwrap() {
                prop_assert!(entry.value.end <= bytes.len());
            }
        }

        #[test]
        fn plain_values_stand_where_they_are_said(text in "(([*.]?[a-zA-Z?]{1,5}){1,4}: {0,2}[#a-z \\\\]{0,6}\n|#define [a-c] [a-z]{1,3}\n){0,8}") {
            for entry in XTERM.entries(text.as_bytes()).unwrap() {
                if entry.plain && entry.path != INCLUDE {
                    prop_assert_eq!(&text[entry.inner.clone()], entry.text.as_str());
                }
            }
        }
    }
}
