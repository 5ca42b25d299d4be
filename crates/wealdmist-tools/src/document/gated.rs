//! Settings some of which count only where another one says so, and one of which is a list: a view of a file that
//! has what counts.

use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting};

use super::notation::{Damage, Datum, Entry, New, Notation, Spot};
use super::settings::{Settings, spelled_as_settings};

/// A setting by which others count.
#[derive(Debug, Clone, Copy)]
pub struct Gate {
    /// Those that count by it.
    pub keys: &'static [&'static str],
    /// It, with its section.
    pub by: &'static str,
    /// What it has to say, in any case.
    pub on: &'static str,
    /// Whether they count where it says nothing.
    pub open: bool,
}

/// The settings, with their gates and a list whose elements are values of their own.
#[derive(Debug, Clone, Copy)]
pub struct Gated {
    /// The file itself.
    pub settings: Settings,
    /// What counts by what.
    pub gates: &'static [Gate],
    /// The setting that is a list, where one is.
    pub list: Option<List>,
}

/// A setting the elements of which are values of their own.
#[derive(Debug, Clone, Copy)]
pub struct List {
    /// Its key, with its section.
    pub key: &'static str,
    /// What stands between its elements.
    pub between: &'static str,
    /// What they are where nobody says.
    pub usual: &'static [&'static str],
}

/// What the path of a value ends in that does not count.
const SHUT: &str = " (not in use)";

impl Gated {
    /// The entry of a key: the last.
    fn last<'a>(entries: &'a [Entry], path: &str) -> Option<&'a Entry> {
        entries.iter().rfind(|e| e.off.is_none() && e.path == path)
    }

    fn is_open(gate: &Gate, entries: &[Entry]) -> bool {
        match Self::last(entries, gate.by) {
            Some(entry) => entry.text.eq_ignore_ascii_case(gate.on),
            None => gate.open,
        }
    }
}

impl List {
    /// Its elements, each an entry.
    fn elements(&self, bytes: &[u8], entry: &Entry) -> Vec<Entry> {
        let inner = &bytes[entry.inner.clone()];
        let mut at = entry.inner.start;
        let mut out = Vec::new();
        for (n, part) in inner.split(|b| self.between.as_bytes() == [*b]).enumerate() {
            let range = at..at + part.len();
            at = range.end + 1;
            // Behind the last may stand nothing.
            if n >= self.usual.len() && part.is_empty() {
                continue;
            }
            let Ok(text) = std::str::from_utf8(part) else {
                continue;
            };
            let start = range.start + (text.len() - text.trim_start().len());
            let range = start..start + text.trim().len();
            out.push(Entry {
                path: format!("{}/{n}", entry.path),
                text: text.trim().to_owned(),
                value: range.clone(),
                inner: range,
                plain: true,
                bare: true,
                ..entry.clone()
            });
        }
        out
    }
}

impl Notation for Gated {
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        let all = self.settings.entries(bytes)?;
        let is_shut = |gate: &&Gate| !Self::is_open(gate, &all);
        let shut: Vec<&Gate> = self.gates.iter().filter(is_shut).collect();
        let mut out = Vec::new();
        for entry in &all {
            let mut entry = entry.clone();
            let list = self
                .list
                .filter(|l| entry.off.is_none() && entry.path == l.key);
            if let Some(list) = list {
                out.extend(list.elements(bytes, &entry));
                continue;
            }
            if shut
                .iter()
                .any(|gate| gate.keys.contains(&entry.path.as_str()))
            {
                entry.path += SHUT;
            }
            out.push(entry);
        }
        Ok(out)
    }

    fn insert(&self, bytes: &[u8], _: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        let Ok(entries) = self.settings.entries(bytes) else {
            return Vec::new();
        };
        let mut made: Vec<(usize, New)> = Vec::new();
        let mut out: Vec<(usize, Splice)> = Vec::new();
        let mut opened: Vec<&str> = Vec::new();
        let of_list = |new: &New| self.list.filter(|list| new.spot.section == list.key);
        let elements: Vec<&New> = new.iter().filter(|new| of_list(new).is_some()).collect();
        for (i, one) in new.iter().enumerate() {
            let line = |spot: Spot, value: Code| New {
                spot,
                value,
                near: None,
                why: one.why.clone(),
            };
            if let Some(list) = of_list(one) {
                // All of them are one line; those that nobody asks for are as they are by themselves.
                let is_first = elements
                    .first()
                    .is_some_and(|first| std::ptr::eq(*first, one));
                let is_there = Self::last(&entries, list.key).is_some();
                if is_first && !is_there {
                    let value = |(n, usual): (usize, &&'static str)| {
                        let name = n.to_string();
                        let asked = elements.iter().find(|e| *e.spot.name == *name.as_bytes());
                        asked.map_or_else(|| Code::fixed(usual), |e| e.value.clone())
                    };
                    let values: Vec<Code> = list.usual.iter().enumerate().map(value).collect();
                    let value = Code::join(&values, list.between);
                    made.push((i, line(Spot::of(list.key), value)));
                }
                continue;
            }
            // What is there and does not count is changed, so that it may; what is not there is added.
            let path = one.spot.path();
            let mut says = vec![(one.spot.clone(), one.value.clone())];
            let gate = self.gates.iter().find(|g| g.keys.contains(&path.as_str()));
            let gate = gate.filter(|gate| !Self::is_open(gate, &entries));
            if let Some(gate) = gate.filter(|gate| !opened.contains(&gate.by)) {
                opened.push(gate.by);
                says.push((Spot::of(gate.by), Code::fixed(gate.on)));
            }
            for (spot, value) in says {
                let there = Self::last(&entries, &spot.path()).filter(|_| gate.is_some());
                match there {
                    Some(entry) => out.push((
                        i,
                        Splice {
                            range: entry.value.clone(),
                            with: value,
                            why: one.why.clone(),
                            role: None,
                            needs: None,
                        },
                    )),
                    None => made.push((i, line(spot, value))),
                }
            }
        }
        let lines: Vec<New> = made.iter().map(|(_, new)| new.clone()).collect();
        let lines = self.settings.insert(bytes, &entries, &lines).into_iter();
        out.extend(lines.map(|(n, splice)| (made[n].0, splice)));
        out
    }

    spelled_as_settings!();
}

#[cfg(test)]
mod tests {
    use super::super::notation::testing::added;
    use super::*;

    const SETTINGS: Gated = Gated {
        settings: Settings {
            separator: Some(b'='),
            written: "=",
            comment: "#",
            trailing: false,
            quotes: false,
            indexed: &[],
            main: Some(""),
            quoting: Quoting::Line,
        },
        gates: &[Gate {
            keys: &["S/color"],
            by: "S/byitself",
            on: "FALSE",
            open: false,
        }],
        list: Some(List {
            key: "S/list",
            between: ";",
            usual: &["0", "1", "2"],
        }),
    };

    fn said(text: &str) -> Vec<(String, String)> {
        let entries = SETTINGS.entries(text.as_bytes()).unwrap();
        let said = |e: Entry| {
            assert_eq!(&text[e.inner], e.text);
            (e.path, e.text)
        };
        entries.into_iter().map(said).collect()
    }

    #[test]
    fn a_value_counts_where_its_gate_is_open() {
        let count = |text: &str| said(text).iter().filter(|s| s.0 == "S/color").count();
        assert_eq!(count("[S]\ncolor=a\n"), 0);
        assert_eq!(count("[S]\ncolor=a\nbyitself=TRUE\n"), 0);
        assert_eq!(count("[S]\nbyitself=TRUE\ncolor=a\nbyitself=False\n"), 1);
        let add = [("S/color", "b")];
        assert_eq!(
            added(&SETTINGS, "[S]\nx=1\n", &add),
            "[S]\nx=1\ncolor=b\nbyitself=FALSE\n"
        );
        let text = "[S]\ncolor=a\nbyitself=TRUE\nx=1\n";
        assert_eq!(
            added(&SETTINGS, text, &add),
            "[S]\ncolor=b\nbyitself=FALSE\nx=1\n"
        );
        assert_eq!(added(&SETTINGS, "", &add), "[S]\ncolor=b\nbyitself=FALSE\n");
    }

    #[test]
    fn elements_of_a_list_are_values() {
        let all = said("[S]\nlist=a; b;c;\n");
        let elements = [("S/list/0", "a"), ("S/list/1", "b"), ("S/list/2", "c")];
        assert_eq!(all, elements.map(|(a, b)| (a.to_owned(), b.to_owned())));
        let add = |n: usize| -> Vec<New> {
            let one = |i: usize| New {
                spot: Spot {
                    section: "S/list",
                    name: Code::whole(i as u64),
                    sub: None,
                },
                value: Code::fixed("x"),
                near: None,
                why: String::new(),
            };
            (0..n).map(one).collect()
        };
        let made = SETTINGS.insert(b"[S]\n", &[], &add(3));
        assert_eq!((made.len(), &*made[0].1.with), (1, &b"\nlist=x;x;x"[..]));
        let made = SETTINGS.insert(b"[S]\n", &[], &add(2));
        assert_eq!(&*made[0].1.with, b"\nlist=x;x;2");
        assert!(SETTINGS.insert(b"[S]\nlist=a;b\n", &[], &add(3)).is_empty());
    }
}
