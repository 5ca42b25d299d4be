//! Values added to JSON: commas, braces and indentation as they have to be.

use jsonc_parser::ast::Value;
use jsonc_parser::common::Ranged;
use wealdmist_core::plan::Splice;
use wealdmist_core::quote::Code;
use wealdmist_core::text;

use super::parse;
use crate::document::notation::{Entry, New, Spot, legible};

/// A value to add, by all names on the way to it; elements of a list by their number.
#[derive(Debug, Clone)]
pub struct Deep {
    /// The names, from the outermost on.
    pub names: Vec<Code>,
    /// The value as it is written.
    pub value: Code,
    /// A place in what it belongs behind.
    pub near: Option<usize>,
    /// What it does, for people.
    pub why: String,
}

impl Deep {
    /// What is to be added at a spot.
    #[must_use]
    pub fn of(spot: &Spot, new: &New, entries: &[Entry]) -> Self {
        let above = spot.section.split('/').filter(|name| !name.is_empty());
        let mut names: Vec<Code> = above.map(Code::fixed).collect();
        names.push(spot.name.clone());
        names.extend(spot.sub.clone());
        Self {
            names,
            value: new.value.clone(),
            near: new.near.map(|n| entries[n].value.start),
            why: new.why.clone(),
        }
    }
}

/// What is to be written: a value, or an object of them.
enum Node {
    Leaf(Code),
    Branch(Vec<(Code, Self)>),
}

impl Node {
    /// Puts a value where its names say; whether there is room for it.
    fn put(&mut self, names: &[Code], value: &Code) -> bool {
        let (Self::Branch(all), Some((first, rest))) = (self, names.split_first()) else {
            return false;
        };
        match (all.iter_mut().find(|(name, _)| name == first), rest) {
            (Some(_), []) => false,
            (Some((_, inner)), _) => inner.put(rest, value),
            (None, []) => {
                all.push((first.clone(), Self::Leaf(value.clone())));
                true
            }
            (None, _) => {
                let mut inner = Self::Branch(Vec::new());
                let put = inner.put(rest, value);
                all.push((first.clone(), inner));
                put
            }
        }
    }

    /// Whether the names are those of a list.
    fn is_list(all: &[(Code, Self)]) -> bool {
        let counts = |(n, (name, _)): (usize, &(Code, Self))| *name == Code::whole(n as u64);
        all.iter().enumerate().all(counts)
    }

    /// As it is written on lines of their own, or on one.
    fn written(&self, layout: &Layout, depth: usize) -> Code {
        let all = match self {
            Self::Leaf(code) => return code.clone(),
            Self::Branch(all) => all,
        };
        let list = Self::is_list(all);
        let member = |(name, node): &(Code, Self)| {
            let value = node.written(layout, depth + 1);
            let value = match list {
                true => value,
                false => member(name, &value),
            };
            Code::join([&layout.line(depth + 1), &value], "")
        };
        let members: Vec<Code> = all.iter().map(member).collect();
        let parts = [&Code::join(&members, ","), &layout.line(depth)];
        match list {
            true => Code::of("[{}{}]", &parts),
            false => Code::of("{{}{}}", &parts),
        }
    }
}

fn member(name: &Code, value: &Code) -> Code {
    Code::of("\"{}\": {}", &[name, value])
}

/// How lines are laid out.
struct Layout {
    /// What ends a line; `None` where all stands on one.
    end: Option<Code>,
    /// What the first line of it is indented by.
    base: Code,
    /// One more.
    unit: Code,
}

impl Layout {
    /// What stands before something that is so deep.
    fn line(&self, depth: usize) -> Code {
        let Some(end) = &self.end else {
            return Code::fixed(" ");
        };
        let units = std::iter::repeat_n(&self.unit, depth);
        Code::join([end, &self.base].into_iter().chain(units), "")
    }
}

/// What may hold others.
#[derive(Clone, Copy)]
struct Container<'a> {
    value: &'a Value<'a>,
}

impl<'a> Container<'a> {
    fn of(value: &'a Value<'a>) -> Option<Self> {
        matches!(value, Value::Object(_) | Value::Array(_)).then_some(Self { value })
    }

    const fn is_list(&self) -> bool {
        matches!(self.value, Value::Array(_))
    }

    /// Where its members begin and end, names included.
    fn members(&self) -> Vec<(usize, usize)> {
        let span = |v: &dyn Ranged| (v.start(), v.end());
        match self.value {
            Value::Object(object) => object.properties.iter().map(|p| span(p)).collect(),
            Value::Array(array) => array.elements.iter().map(|e| span(e)).collect(),
            _ => Vec::new(),
        }
    }

    /// The member of a name; of several the last.
    fn get(&self, name: &Code) -> Option<&'a Value<'a>> {
        match self.value {
            Value::Object(object) => {
                let is = |p: &&jsonc_parser::ast::ObjectProp| p.name.as_str().as_bytes() == &**name;
                object.properties.iter().rev().find(is).map(|p| &p.value)
            }
            Value::Array(array) => array.elements.get(number(name)?),
            _ => None,
        }
    }
}

fn number(name: &Code) -> Option<usize> {
    std::str::from_utf8(name).ok()?.parse().ok()
}

/// The splices that add values, each with the number of the first that it adds. What stands already, and what would have to
/// stand in something that holds no others, is left out.
#[must_use]
pub fn add(bytes: &[u8], new: &[Deep]) -> Vec<(usize, Splice)> {
    let Ok(root) = legible(bytes).and_then(|text| parse(text, true)) else {
        return Vec::new();
    };
    let Some(root) = root else {
        return whole(bytes, new);
    };
    // What belongs into the same place goes there together, in the order given.
    let mut places: Vec<(usize, Container<'_>, Node, Vec<usize>)> = Vec::new();
    for (i, one) in new.iter().enumerate() {
        let Some(mut at) = Container::of(&root) else {
            return Vec::new();
        };
        let mut names = &one.names[..];
        while let [first, rest @ ..] = names
            && let Some(there) = at.get(first)
        {
            names = rest;
            match Container::of(there) {
                Some(inner) => at = inner,
                // Something else stands there.
                None => {
                    names = &[];
                    break;
                }
            }
        }
        let Some(first) = names.first() else { continue };
        let members = at.members();
        // Behind the last there are no numbers left out.
        let begun = |p: &(usize, Container<'_>, Node, Vec<usize>)| {
            let Node::Branch(all) = &p.2 else {
                return false;
            };
            p.0 == at.value.start() && (members.is_empty() || all.iter().any(|(n, _)| n == first))
        };
        let known = places.iter().position(begun);
        let next = || {
            let same = places.iter().filter(|p| p.0 == at.value.start());
            let begun = |p: &(usize, Container<'_>, Node, Vec<usize>)| match &p.2 {
                Node::Branch(all) => all.len(),
                Node::Leaf(_) => 0,
            };
            members.len() + same.map(begun).sum::<usize>()
        };
        if at.is_list() && number(first).is_none_or(|n| n > next()) {
            continue;
        }
        let known = known.unwrap_or_else(|| {
            let empty = Node::Branch(Vec::new());
            places.push((at.value.start(), at, empty, Vec::new()));
            places.len() - 1
        });
        if places[known].2.put(names, &one.value) {
            places[known].3.push(i);
        }
    }
    let unit = unit(bytes, &root);
    let mut out: Vec<(usize, Splice)> = Vec::new();
    for (_, container, node, numbers) in &places {
        let Some(first) = numbers.first().map(|n| &new[*n]) else {
            continue;
        };
        let Some((range, lead, value)) = placed(bytes, container, node, first.near, &unit) else {
            continue;
        };
        // What has to go behind a comment of the last member goes there as one.
        let same = |s: &&mut (usize, Splice)| !range.is_empty() && s.1.range == range;
        if let Some((_, splice)) = out.iter_mut().find(same) {
            splice.with = Code::of("{},{}", &[&splice.with, &value]);
            continue;
        }
        let splice = Splice {
            range,
            with: Code::join([&lead, &value], ""),
            why: first.why.clone(),
            role: None,
            needs: None,
        };
        out.push((numbers[0], splice));
    }
    out
}

/// A file that says nothing yet.
fn whole(bytes: &[u8], new: &[Deep]) -> Vec<(usize, Splice)> {
    let Some(first) = new.first() else {
        return Vec::new();
    };
    let mut node = Node::Branch(Vec::new());
    for one in new {
        let _ = node.put(&one.names, &one.value);
    }
    let layout = Layout {
        end: Some(Code::fixed(text::line_end(bytes))),
        base: Code::default(),
        unit: Code::fixed("    "),
    };
    let gap = match bytes.last() {
        None | Some(b'\n') => Code::default(),
        Some(_) => Code::fixed(text::line_end(bytes)),
    };
    let end = Code::fixed(text::line_end(bytes));
    let with = Code::join([&gap, &node.written(&layout, 0), &end], "");
    let splice = Splice {
        range: bytes.len()..bytes.len(),
        with,
        why: first.why.clone(),
        role: None,
        needs: None,
    };
    vec![(0, splice)]
}

/// What one level more is indented by, as the outermost shows.
fn unit(bytes: &[u8], root: &Value) -> Code {
    let first = Container::of(root).and_then(|root| root.members().first().copied());
    let blanks = first.and_then(|(at, _)| indentation(bytes, at));
    match blanks {
        Some(blanks) if !blanks.is_empty() => Code::kept(blanks),
        _ => Code::fixed("    "),
    }
}

/// What stands before a place on its line, where that is blank.
fn indentation(bytes: &[u8], at: usize) -> Option<&[u8]> {
    let before = &bytes[text::line_range(bytes, at).start..at];
    let blank = before.iter().all(|b| matches!(b, b' ' | b'\t'));
    blank.then_some(before)
}

/// The blanks that a line begins with.
fn line_indentation(bytes: &[u8], at: usize) -> &[u8] {
    let line = &bytes[text::line_range(bytes, at)];
    let blanks = line.iter().take_while(|b| matches!(b, b' ' | b'\t'));
    &line[..blanks.count()]
}

/// Behind blanks and comments; line ends are not passed over where they are not to be.
fn behind_blanks(bytes: &[u8], mut at: usize, lines: bool) -> usize {
    loop {
        at = match bytes.get(at..).unwrap_or_default() {
            [b' ' | b'\t', ..] => at + 1,
            [b'\r' | b'\n', ..] if lines => at + 1,
            [b'/', b'/', ..] => {
                let rest = memchr::memchr2(b'\r', b'\n', &bytes[at..]);
                rest.map_or(bytes.len(), |n| at + n)
            }
            [b'/', b'*', rest @ ..] => {
                let Some(end) = memchr::memmem::find(rest, b"*/") else {
                    return at;
                };
                if !lines && rest[..end].contains(&b'\n') {
                    return at;
                }
                at + end + 4
            }
            _ => return at,
        };
    }
}

/// Where something goes into a container, what stands before it there, and the thing itself.
fn placed(
    bytes: &[u8],
    container: &Container<'_>,
    node: &Node,
    near: Option<usize>,
    unit: &Code,
) -> Option<(std::ops::Range<usize>, Code, Code)> {
    let (open, close) = (container.value.start(), container.value.end() - 1);
    let Node::Branch(all) = node else { return None };
    let members = container.members();
    let end = Code::fixed(text::line_end(bytes));
    let Some((last_start, last_end)) = members.last().copied() else {
        let layout = Layout {
            end: Some(end),
            base: Code::kept(line_indentation(bytes, open)),
            unit: unit.clone(),
        };
        let one = |(name, node): &(Code, Node)| {
            let value = node.written(&layout, 1);
            let value = match container.is_list() {
                true => value,
                false => member(name, &value),
            };
            Code::join([&layout.line(1), &value], "")
        };
        let members: Vec<Code> = all.iter().map(one).collect();
        // A comment stays; a line's end behind it is one already.
        let at = behind_blanks(bytes, open + 1, true).min(close);
        let kept = bytes[open + 1..at].trim_ascii_end();
        let members = [&Code::join(&members, ","), &layout.line(0)];
        let value = Code::join(members, "");
        return Some((open + 1..close, Code::kept(kept), value));
    };
    let (name, node) = all.first()?;
    let one_line = !bytes[open..last_start].contains(&b'\n');
    let base = indentation(bytes, last_start).or_else(|| indentation(bytes, members[0].0));
    let layout = Layout {
        end: (!one_line).then_some(end),
        base: Code::kept(base.unwrap_or_else(|| line_indentation(bytes, last_start))),
        unit: unit.clone(),
    };
    let value = node.written(&layout, 0);
    let value = match container.is_list() {
        true => value,
        false => member(name, &value),
    };
    let value = Code::join([&layout.line(0), &value], "");
    // Behind what it is near to; else, and always in a list, behind the last.
    let near = near.filter(|_| !container.is_list());
    let holds = |(start, end): &&(usize, usize)| near.is_some_and(|n| (*start..*end).contains(&n));
    let behind = members.iter().find(holds).map_or(last_end, |m| m.1);
    let comma = behind_blanks(bytes, behind, true);
    if bytes.get(comma) == Some(&b',') {
        let at = match one_line {
            true => comma + 1,
            false => behind_blanks(bytes, comma + 1, false),
        };
        // What stands on the same line stays behind its comma.
        let at = match bytes.get(at) {
            None | Some(b'\r' | b'\n') => at,
            Some(_) => comma + 1,
        };
        return Some((at..at, Code::default(), Code::of("{},", &[&value])));
    }
    let at = match one_line {
        true => behind,
        false => behind_blanks(bytes, behind, false),
    };
    let at = match bytes.get(at) {
        None | Some(b'\r' | b'\n') => at,
        Some(_) => behind,
    };
    let kept = Code::kept(bytes[behind..at].trim_ascii_end());
    let end = behind + kept.len();
    Some((behind..end, Code::of(",{}", &[&kept]), value))
}

#[cfg(test)]
mod tests {
    use super::super::JSON;
    use super::*;
    use crate::document::notation::{Notation, testing};
    use proptest::prelude::*;

    fn added(text: &str, new: &[(&'static str, &'static str)]) -> String {
        testing::added(&JSON, text, new)
    }

    #[test]
    fn what_is_added_stands_as_a_person_would_write_it() {
        let new = [("a/x", "1"), ("a/y", "2")];
        for (before, after) in [
            (
                "",
                "{\n    \"a\": {\n        \"x\": 1,\n        \"y\": 2\n    }\n}\n",
            ),
            (
                "// ours\n",
                "// ours\n{\n    \"a\": {\n        \"x\": 1,\n        \"y\": 2\n    }\n}\n",
            ),
            (
                "{}",
                "{\n    \"a\": {\n        \"x\": 1,\n        \"y\": 2\n    }\n}",
            ),
            (
                "{ /* none */ }",
                "{ /* none */\n    \"a\": {\n        \"x\": 1,\n        \"y\": 2\n    }\n}",
            ),
            (
                "{\r\n  \"b\": 0\r\n}\r\n",
                "{\r\n  \"b\": 0,\r\n  \"a\": {\r\n    \"x\": 1,\r\n    \"y\": 2\r\n  }\r\n}\r\n",
            ),
            (
                "{\n\t\"a\": { \"z\": 0 }, // last\n}\n",
                "{\n\t\"a\": { \"z\": 0, \"x\": 1, \"y\": 2 }, // last\n}\n",
            ),
            (
                "{\n  \"a\": {\n    \"z\": 0 // last\n  }\n}",
                "{\n  \"a\": {\n    \"z\": 0, // last\n    \"x\": 1,\n    \"y\": 2\n  }\n}",
            ),
            (
                "{\n  \"a\": {\n    \"z\": 0, // last\n  },\n}",
                "{\n  \"a\": {\n    \"z\": 0, // last\n    \"x\": 1,\n    \"y\": 2,\n  },\n}",
            ),
            (
                "{\n  \"a\": {\n    \"x\": 0\n  }\n}",
                "{\n  \"a\": {\n    \"x\": 0,\n    \"y\": 2\n  }\n}",
            ),
            ("{\"a\": 3}", "{\"a\": 3}"),
            ("[]", "[]"),
        ] {
            assert_eq!(added(before, &new), after, "{before}");
        }
        let lists = [("l/0/n", "1"), ("l/0/m", "2"), ("l/1/n", "3"), ("l/9", "4")];
        let text = "{\"l\": []}";
        let after = added(text, &lists);
        assert_eq!(
            after.split_whitespace().collect::<String>(),
            "{\"l\":[{\"n\":1,\"m\":2},{\"n\":3}]}"
        );
        assert_eq!(
            added("{\"l\": [1]}", &[("l/1", "2"), ("l/3", "3")]),
            "{\"l\": [1, 2]}"
        );
    }

    /// JSON as people write it: comments, commas behind the last, any layout.
    fn documents() -> impl Strategy<Value = String> {
        let blank = || {
            prop_oneof![
                5 => Just(""), 3 => Just(" "), 2 => Just("\n  "), 1 => Just(" // c, }\n"), 1 => Just("/* , */"), 1 => Just("\r\n\t"),
            ]
        };
        let leaf = prop_oneof![
            Just("1"),
            Just("\"a,}\""),
            Just("null"),
            Just("{}"),
            Just("[]")
        ];
        let leaf = leaf.prop_map(str::to_owned);
        leaf.prop_recursive(3, 20, 4, move |inner| {
            let member = ("[a-d]", inner, blank(), blank(), blank());
            (
                prop::collection::vec(member, 0..4),
                blank(),
                any::<(bool, bool)>(),
            )
                .prop_map(|(all, inside, (list, trailing))| {
                    let mut out = inside.to_owned();
                    for (i, (name, value, before, colon, after)) in all.iter().enumerate() {
                        out.push_str(before);
                        if !list {
                            out.push_str(&format!("\"{name}{i}\":{colon}"));
                        }
                        out.push_str(value);
                        out.push_str(after);
                        if i + 1 < all.len() || trailing {
                            out.push(',');
                        }
                    }
                    match list {
                        true => format!("[{out}\n]"),
                        false => format!("{{{out}\n}}"),
                    }
                })
        })
    }

    proptest! {
        #[test]
        fn what_is_added_is_read_by_another_and_nothing_else_changes(
            text in documents(),
            picks in prop::collection::vec((any::<u32>(), any::<bool>()), 1..8),
        ) {
            let read = |text: &str| json5::from_str::<serde_json::Value>(text);
            let before = read(&text).unwrap();
            // Names of the document and new ones, some of them below others.
            let names = ["a0", "b0", "b1", "c2", "new", "0", "1", "2"].map(Code::fixed);
            let mut new = Vec::new();
            let entries = JSON.entries(text.as_bytes()).unwrap();
            for (n, (pick, near)) in picks.iter().enumerate() {
                let depth = 1 + pick % 3;
                let path = (0..depth).map(|d| names[(*pick >> (4 * d + 2)) as usize % 8].clone());
                let near = near.then(|| entries.get(*pick as usize % entries.len().max(1))).flatten();
                new.push(Deep {
                    names: path.collect(),
                    value: Code::whole(100 + n as u64),
                    near: near.map(|e| e.value.start),
                    why: String::new(),
                });
            }
            let splices = add(text.as_bytes(), &new);
            let only = |splices: &[(usize, Splice)]| {
                let splices: Vec<Splice> = splices.iter().map(|s| s.1.clone()).collect();
                String::from_utf8(wealdmist_core::plan::splice(text.as_bytes(), &splices)).unwrap()
            };
            let after = only(&splices);
            let read_after = read(&after);
            prop_assert!(read_after.is_ok(), "{text}\n{after}\n{read_after:?}");
            let after_value = read_after.unwrap();
            // Each alone is sound too, and nothing that was there is gone or other.
            for one in &splices {
                let alone = only(std::slice::from_ref(one));
                prop_assert!(read(&alone).is_ok(), "{text}\n{alone}");
            }
            prop_assert!(holds(&after_value, &before), "{text}\n{after}");
            for (i, _) in &splices {
                let at = new[*i].names.iter().try_fold(&after_value, |v, n| {
                    let name = std::str::from_utf8(n).unwrap();
                    v.get(name).or_else(|| v.get(name.parse::<usize>().ok()?))
                });
                prop_assert!(at.is_some_and(|v| !v.is_null()), "{text}\n{after}\n{:?}", new[*i].names);
            }
        }
    }

    /// Whether all of one is in the other.
    fn holds(all: &serde_json::Value, some: &serde_json::Value) -> bool {
        use serde_json::Value::{Array, Object};
        match (all, some) {
            (Object(all), Object(some)) => some
                .iter()
                .all(|(k, v)| all.get(k).is_some_and(|a| holds(a, v))),
            (Array(all), Array(some)) => {
                all.len() >= some.len() && some.iter().zip(all).all(|(s, a)| holds(a, s))
            }
            _ => all == some,
        }
    }
}
