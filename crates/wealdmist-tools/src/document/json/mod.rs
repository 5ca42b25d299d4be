//! JSON, for some programs with comments and commas behind the last element. Read by a maintained parser.

mod add;

use jsonc_parser::ast::{ObjectPropName, Value};
use jsonc_parser::common::Ranged;
use jsonc_parser::{CollectOptions, ParseOptions, parse_to_ast};
use wealdmist_core::guard::guarded;
use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Standing;

use super::notation::{Damage, Datum, Entry, New, Notation, Spot, legible};
pub use add::{Deep, add};

/// The notation.
#[derive(Debug, Clone, Copy)]
pub struct Json {
    /// Whether comments, and commas behind the last element, are taken.
    pub comments: bool,
}

/// With comments.
pub const JSON: Json = Json { comments: true };

/// A file as its parser sees it.
fn parse(text: &str, comments: bool) -> Result<Option<Value<'_>>, Damage> {
    let help = "correct the JSON at this place";
    let broken = |at: usize, message: String| Damage { at, message, help };
    let options = ParseOptions {
        allow_comments: comments,
        allow_trailing_commas: comments,
        allow_missing_commas: false,
        allow_single_quoted_strings: false,
        allow_loose_object_property_names: false,
        allow_hexadecimal_numbers: false,
        allow_unary_plus_numbers: false,
        allow_bare_decimal_point_numbers: false,
        allow_non_finite_numbers: false,
        allow_extended_string_escapes: false,
    };
    let parsed = guarded(|| parse_to_ast(text, &CollectOptions::default(), &options))
        .map_err(|_| broken(0, "its parser failed on it".to_owned()))?
        .map_err(|e| broken(e.range().start, e.kind().to_string()))?;
    Ok(parsed.value)
}

impl Notation for Json {
    /// Elements of lists are named by their number. Of several of a name all are there.
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        let parsed = parse(legible(bytes)?, self.comments)?;
        let starts = std::iter::once(0).chain(memchr::memchr_iter(b'\n', bytes).map(|at| at + 1));
        let mut reader = Reader {
            bytes,
            starts: starts.collect(),
            out: Vec::new(),
        };
        if let Some(value) = &parsed {
            reader.value(value, None, "");
        }
        Ok(reader.out)
    }

    fn value(&self, datum: &Datum) -> Option<Code> {
        Some(match datum {
            Datum::Text(text) => Code::of("\"{}\"", &[&quote(text, &[Quoting::Json])?]),
            Datum::Literal(code) => Code::of("\"{}\"", &[code]),
            Datum::Bare(code) => code.clone(),
        })
    }

    fn insert(&self, bytes: &[u8], entries: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        let deep = |new: &New| Deep::of(&new.spot, new, entries);
        add(bytes, &new.iter().map(deep).collect::<Vec<_>>())
    }

    fn comment(&self) -> &'static str {
        if self.comments { "//" } else { "" }
    }

    fn line(&self, spot: &Spot, value: &Code) -> Code {
        Code::of("\"{}\": {}", &[&spot.name, value])
    }
}

struct Reader<'a> {
    bytes: &'a [u8],
    /// Where each line begins.
    starts: Vec<usize>,
    out: Vec<Entry>,
}

impl Reader<'_> {
    fn value(&mut self, value: &Value, name: Option<&ObjectPropName>, path: &str) {
        let below = |name: &str| match path {
            "" => name.to_owned(),
            _ => format!("{path}/{name}"),
        };
        let span = value.start()..value.end();
        let (text, quoted) = match value {
            Value::Object(object) => {
                for property in &object.properties {
                    let path = below(property.name.as_str());
                    self.value(&property.value, Some(&property.name), &path);
                }
                return;
            }
            Value::Array(array) => {
                for (i, element) in array.elements.iter().enumerate() {
                    self.value(element, None, &below(&i.to_string()));
                }
                return;
            }
            Value::StringLit(text) => (text.value.to_string(), true),
            _ => {
                let written = &self.bytes[span.clone()];
                (String::from_utf8_lossy(written).into_owned(), false)
            }
        };
        let inner = match quoted {
            true => span.start + 1..span.end - 1,
            false => span.clone(),
        };
        self.out.push(Entry {
            path: path.to_owned(),
            key: name.map_or_else(|| span.clone(), |n| n.start()..n.end()),
            plain: self.bytes[inner.clone()] == *text.as_bytes(),
            line: self.starts.partition_point(|s| *s <= span.start),
            value: span,
            inner,
            text,
            bare: !quoted,
            quoting: match quoted {
                true => Quoting::Json,
                false => Quoting::Inert,
            },
            off: None,
            within: None,
            standing: Standing::Certain,
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use serde_json::Value as Independent;

    /// What another reader of JSON finds.
    fn flat(value: &Independent, path: &str, out: &mut Vec<(String, String)>) {
        let below = |name: &str| match path {
            "" => name.to_owned(),
            _ => format!("{path}/{name}"),
        };
        match value {
            Independent::Object(all) => {
                for (name, value) in all {
                    flat(value, &below(name), out);
                }
            }
            Independent::Array(all) => {
                for (i, value) in all.iter().enumerate() {
                    flat(value, &below(&i.to_string()), out);
                }
            }
            Independent::String(text) => out.push((path.to_owned(), text.clone())),
            other => out.push((path.to_owned(), other.to_string())),
        }
    }

    fn documents() -> impl Strategy<Value = Independent> {
        let leaf = prop_oneof![
            any::<bool>().prop_map(Independent::from),
            any::<i32>().prop_map(Independent::from),
            "\\PC{0,6}|[\"\\\\\u{0}-\u{1f}é🦊]{0,4}".prop_map(Independent::from),
            Just(Independent::Null),
        ];
        leaf.prop_recursive(4, 40, 5, |inner| {
            prop_oneof![
                prop::collection::vec(inner.clone(), 0..4).prop_map(Independent::from),
                prop::collection::btree_map("[a-z.é\"]{1,4}", inner, 0..4)
                    .prop_map(|all| all.into_iter().collect()),
            ]
        })
    }

    proptest! {
        #[test]
        fn another_reader_finds_the_same(value in documents(), pretty in any::<bool>()) {
            let text = match pretty {
                true => serde_json::to_string_pretty(&value).unwrap(),
                false => value.to_string(),
            };
            let entries = JSON.entries(text.as_bytes()).unwrap();
            let mut theirs = Vec::new();
            flat(&value, "", &mut theirs);
            let mut ours: Vec<_> = entries.iter().map(|e| (e.path.clone(), e.text.clone())).collect();
            ours.sort();
            theirs.sort();
            prop_assert_eq!(ours, theirs);
            for entry in &entries {
                let written: Independent = serde_json::from_str(&text[entry.value.clone()]).unwrap();
                let said = written.as_str().map_or_else(|| written.to_string(), str::to_owned);
                prop_assert_eq!(&said, &entry.text);
            }
        }
    }

    #[test]
    fn damage_has_a_place() {
        let damage = JSON.entries(b"{\n  \"a\": 1\n  \"b\": 2\n}").unwrap_err();
        assert!((8..16).contains(&damage.at), "{damage:?}");
        assert!(JSON.entries(b"{'a': 1}").is_err());
        let strict = Json { comments: false };
        for text in ["[1,]", "[1] // c", "[0x10]", "[+1]", "[.5]"] {
            assert!(strict.entries(text.as_bytes()).is_err(), "{text}");
        }
        assert!(JSON.entries(&[b'['; 100_000]).is_err());
        assert_eq!(
            JSON.entries(b"// c\n{\"a\": [1, /* d */ \"x\",],}")
                .unwrap()
                .len(),
            2
        );
    }
}
