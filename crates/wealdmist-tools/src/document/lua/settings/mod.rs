//! Settings that a Lua file returns as a table, put together by plain statements.
//!
//! Nothing is run: assignments to the table that is returned, and to those within it, are followed as they stand.
//! What stands under a condition is doubtful; what a call or another file gives is not read.

mod add;
mod follow;

use std::collections::HashMap;
use std::ops::Range;
use std::sync::Arc;

use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Standing;

use self::follow::{DEPTH, Followed, Given, Value};
use super::{Expression, Form, parse};
use crate::document::notation::{Damage, Datum, Entry, New, Notation, Spot};

/// The notation.
#[derive(Debug, Clone, Copy)]
pub struct Returned {
    /// Functions that give an empty table to be filled.
    pub builders: &'static [&'static str],
    /// Functions the first argument of which is what counts.
    pub wrappers: &'static [&'static str],
    /// How a new value of a path is wrapped.
    pub wrapped: &'static [(&'static str, &'static str)],
    /// Lists that have to be whole: their paths and how many elements they have.
    pub whole: &'static [(&'static str, usize)],
}

struct Reader<'a> {
    bytes: &'a [u8],
    followed: &'a Followed,
    /// Where each line begins.
    starts: Vec<usize>,
    /// How many more tables are looked into: one may hold itself.
    left: usize,
    out: Vec<Entry>,
}

impl Reader<'_> {
    fn table(&mut self, table: usize, path: &str, under: Option<&Arc<str>>, depth: usize) {
        if depth > DEPTH || self.left == 0 {
            return;
        }
        self.left -= 1;
        let followed = self.followed;
        let all = followed.last(table);
        // What stands under a condition behind something may take its place.
        let doubtful: HashMap<&str, &Arc<str>> = all
            .iter()
            .filter_map(|g| Some((g.name.as_str(), g.under.as_ref()?)))
            .collect();
        for given in &all {
            let path = match path {
                "" => given.name.clone(),
                _ => format!("{path}/{}", given.name),
            };
            let later = doubtful.get(given.name.as_str()).copied();
            let under = given.under.as_ref().or(later).or(under);
            match &given.value {
                Value::Table(inner) => self.table(*inner, &path, under, depth + 1),
                Value::Written(it) => self.written(it, given, path, under),
                Value::Function(_) => {}
                Value::Computed(span) => {
                    let why = "the file computes it".into();
                    self.entry(span.clone(), given, path, Standing::Unread(why));
                }
            }
        }
    }

    fn entry(&mut self, span: Range<usize>, given: &Given, path: String, standing: Standing) {
        let shown = String::from_utf8_lossy(&self.bytes[span.clone()]);
        let shown: String = shown.chars().take(60).collect();
        self.out.push(Entry {
            path,
            key: given.key.clone(),
            line: self.starts.partition_point(|s| *s <= span.start),
            inner: span.clone(),
            value: span,
            text: shown.split_whitespace().collect::<Vec<_>>().join(" "),
            plain: false,
            bare: true,
            quoting: Quoting::Inert,
            off: None,
            within: None,
            standing,
        });
    }

    fn written(&mut self, it: &Expression, given: &Given, path: String, under: Option<&Arc<str>>) {
        let standing = match under {
            None => Standing::Certain,
            Some(why) => Standing::Conditional(Arc::clone(why)),
        };
        self.entry(it.span.clone(), given, path, standing);
        let (Some(entry), written) = (self.out.last_mut(), &self.bytes[it.span.clone()]) else {
            return;
        };
        entry.plain = true;
        let Form::Text(text, _) = &it.form else {
            entry.text = String::from_utf8_lossy(written).into_owned();
            return;
        };
        let (quoting, open) = match written {
            [b'"', ..] => (Quoting::LuaDouble, 1),
            [b'\'', ..] => (Quoting::LuaSingle, 1),
            _ => {
                let equals = written.iter().skip(1).take_while(|b| **b == b'=');
                (Quoting::LuaLong, 2 + equals.count())
            }
        };
        entry.text = String::from_utf8_lossy(text).into_owned();
        entry.inner = match it.span.len() >= 2 * open {
            true => it.span.start + open..it.span.end - open,
            false => it.span.clone(),
        };
        entry.plain = self.bytes[entry.inner.clone()] == **text;
        entry.bare = false;
        entry.quoting = quoting;
    }
}

/// Whether a file says nothing at all.
fn is_blank(bytes: &[u8]) -> bool {
    crate::document::lua_words::words(bytes)
        .all(|w| w.kind == crate::document::lua_words::Kind::Comment)
}

impl Notation for Returned {
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        let help = "correct the Lua at this place";
        let block = parse(bytes).map_err(|problem| Damage {
            at: problem.at.min(bytes.len()),
            message: problem.message,
            help,
        })?;
        let followed = Followed::of(self, &block);
        let table = match &followed.returned {
            _ if followed.steps == 0 => {
                return Err(Damage {
                    at: 0,
                    message: "what the file does is too much to follow".to_owned(),
                    help: "write the settings as plain assignments",
                });
            }
            Some((Value::Table(table), _)) => *table,
            None if is_blank(bytes) => return Ok(Vec::new()),
            None => {
                return Err(Damage {
                    at: bytes.len(),
                    message: "the file returns nothing".to_owned(),
                    help: "return the table of settings at its end",
                });
            }
            Some((_, at)) => {
                return Err(Damage {
                    at: *at,
                    message: "what the file returns is put together in a way that is not followed"
                        .to_owned(),
                    help: "return a table that is written there, or filled by plain assignments",
                });
            }
        };
        let starts = std::iter::once(0).chain(memchr::memchr_iter(b'\n', bytes).map(|at| at + 1));
        let mut reader = Reader {
            bytes,
            followed: &followed,
            starts: starts.collect(),
            left: 10_000,
            out: Vec::new(),
        };
        reader.table(table, "", None, 0);
        let mut out = reader.out;
        out.sort_by_key(|e| e.value.start);
        Ok(out)
    }

    fn value(&self, datum: &Datum) -> Option<Code> {
        Some(match datum {
            Datum::Text(text) => Code::of("\"{}\"", &[&quote(text, &[Quoting::LuaDouble])?]),
            Datum::Literal(code) => Code::of("\"{}\"", &[code]),
            Datum::Bare(code) => code.clone(),
        })
    }

    fn insert(&self, bytes: &[u8], _: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        match parse(bytes) {
            Ok(block) => add::add(self, &Followed::of(self, &block), bytes, new),
            Err(_) => Vec::new(),
        }
    }

    fn text_quoting(&self) -> Quoting {
        Quoting::LuaDouble
    }

    fn comment(&self) -> &'static str {
        "--"
    }

    fn line(&self, spot: &Spot, value: &Code) -> Code {
        let path = Code::kept(spot.path().replace('/', ".").as_bytes());
        Code::of("config.{} = {}", &[&path, value])
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::document::notation::testing::added;

    const SETTINGS: Returned = Returned {
        builders: &["builder"],
        wrappers: &["wrap"],
        wrapped: &[("f", "wrap({})")],
        whole: &[("c/l", 2)],
    };

    fn said(text: &str) -> Vec<(String, String, &'static str)> {
        let entries = SETTINGS.entries(text.as_bytes()).unwrap();
        let one = |e: Entry| {
            if e.plain {
                assert_eq!(&text[e.inner.clone()], e.text);
            }
            (e.path, e.text, e.standing.key())
        };
        entries.into_iter().map(one).collect()
    }

    fn row(path: &str, text: &str, standing: &'static str) -> (String, String, &'static str) {
        (path.to_owned(), text.to_owned(), standing)
    }

    #[test]
    fn assignments_are_followed_and_what_is_not_plain_is_said() {
        assert_eq!(said("-- nothing\n"), []);
        assert_eq!(
            said("local c = x.builder()\nc.a = 1\nc.b = { d = 'e', \"f\" }\nc.a = -2\nreturn c"),
            [
                row("b/d", "e", "certain"),
                row("b/0", "f", "certain"),
                row("a", "-2", "certain")
            ]
        );
        assert_eq!(
            said(
                "local c = {}\nlocal function f(t) t.a = 1 return 'g' end\nc.b = f(c)\nc.d = x.wrap('h', {})\nc.e = 1 + 1\nif y then c.d = 'i' end\nreturn c"
            ),
            [
                row("a", "1", "certain"),
                row("b", "g", "certain"),
                row("d", "h", "conditional"),
                row("e", "1 + 1", "unread"),
                row("d", "i", "conditional")
            ]
        );
        assert!(SETTINGS.entries(b"local c = {}").is_err());
        assert!(SETTINGS.entries(b"return require('other')").is_err());
    }

    #[test]
    fn new_entries_stand_where_a_person_would_put_them() {
        let new = [("a", "1"), ("c/x", "2"), ("c/l/0", "3"), ("c/l/1", "4")];
        for (before, after) in [
            (
                "-- mine\n",
                "-- mine\nlocal config = {}\nconfig.a = 1\nconfig.c = { x = 2, l = { 3, 4 } }\nreturn config\n",
            ),
            (
                "local c = x.builder()\nc.b = 0\nreturn c\n",
                "local c = x.builder()\nc.b = 0\nc.a = 1\nc.c = { x = 2, l = { 3, 4 } }\nreturn c\n",
            ),
            (
                "return {\n  b = 0, -- last\n}\n",
                "return {\n  a = 1,\n  c = { x = 2, l = { 3, 4 } },\n  b = 0, -- last\n}\n",
            ),
            (
                "local c = { c = { y = 0 } }; return c",
                "local c = { a = 1, c = { x = 2, l = { 3, 4 }, y = 0 } }; return c",
            ),
            (
                "local c = {} c.c = {} return c",
                "local c = { a = 1,} c.c = { x = 2, l = { 3, 4 },} return c",
            ),
        ] {
            assert_eq!(added(&SETTINGS, before, &new), after, "{before}");
        }
        // A list that lacks elements is left alone.
        assert_eq!(
            added(&SETTINGS, "return { b = 0 }", &[("c/l/1", "4")]),
            "return { b = 0 }"
        );
        assert_eq!(
            added(&SETTINGS, "return { b = 0 }", &[("f", "'x'")]),
            "return { f = wrap('x'), b = 0 }"
        );
    }

    #[test]
    fn files_that_call_themselves_end() {
        let text = "local c = {}\nlocal function f(t) t.a = f(t) f(t) end\nf(c)\nc.c = c\nc.d = c\nc.e = c\nreturn c";
        assert!(SETTINGS.entries(text.as_bytes()).is_ok());
        let calls = "f(t) ".repeat(9);
        let text = text.replace("f(t) end", &format!("{calls}end"));
        let damage = SETTINGS.entries(text.as_bytes()).unwrap_err();
        assert!(damage.message.contains("too much"));
    }
}
