//! Values added to settings that a Lua file returns: as fields between braces, or as statements before what is returned.

use wealdmist_core::plan::Splice;
use wealdmist_core::quote::Code;
use wealdmist_core::text;

use super::follow::Followed;
use super::{Returned, is_blank};
use crate::document::notation::{New, splice};

/// The splices that add values, each with the number of the first that it adds.
pub(super) fn add(
    notation: &Returned,
    followed: &Followed,
    bytes: &[u8],
    new: &[New],
) -> Vec<(usize, Splice)> {
    // What belongs to the same thing is written as one.
    let mut pieces: Vec<Piece> = Vec::new();
    for (i, one) in new.iter().enumerate() {
        let path = one.spot.path();
        let wrap = notation.wrapped.iter().find(|w| w.0 == path);
        let value = match wrap {
            Some((_, around)) => Code::of(around, &[&one.value]),
            None => one.value.clone(),
        };
        let names: Vec<&str> = path.split('/').collect();
        let (table, known) = match &followed.returned {
            Some(_) => match followed.deepest(&names) {
                Some((table, known)) => (Some(table), known),
                None => continue,
            },
            None if is_blank(bytes) => (None, 0),
            None => continue,
        };
        let above = names[..known].join("/");
        let first = names[known].to_owned();
        let same = |p: &&mut Piece| p.table == table && p.first == first;
        let piece = match pieces.iter_mut().find(same) {
            Some(piece) => piece,
            None => {
                pieces.push(Piece {
                    table,
                    above,
                    first,
                    of: i,
                    node: Node::Tables(Vec::new()),
                });
                let Some(last) = pieces.last_mut() else {
                    continue;
                };
                last
            }
        };
        piece.node.put(&names[known + 1..], value);
    }
    pieces.retain(|p| p.node.is_whole(&p.path(), notation.whole));
    let mut out = Vec::new();
    let mut lines: Vec<(usize, Code)> = Vec::new();
    for piece in &pieces {
        let table = piece.table.map(|t| &followed.tables[t]);
        let why = || new[piece.of].why.clone();
        match table.and_then(|t| t.braces.clone()) {
            Some((braces, first)) => {
                let one_line = !bytes[braces.clone()].contains(&b'\n');
                let at = first.unwrap_or(braces.start + 1);
                let line = text::line_range(bytes, at);
                let blanks = bytes[line.start..at]
                    .iter()
                    .all(|b| matches!(b, b' ' | b'\t'));
                let written = piece.field(if one_line { usize::MAX } else { 1 });
                let with = match (first, one_line || !blanks) {
                    (None, _) => Code::of(" {},", &[&written]),
                    (Some(_), true) => Code::of("{}, ", &[&written]),
                    (Some(_), false) => {
                        let end = Code::fixed(text::line_end(bytes));
                        let indented = Code::kept(&bytes[line.start..at]);
                        Code::of("{},{}{}", &[&written, &end, &indented])
                    }
                };
                out.push((piece.of, splice(at, with, why())));
            }
            // A table that is filled by statements gets one more of them.
            None => lines.push((piece.of, piece.node.written(0))),
        }
    }
    let end = Code::fixed(text::line_end(bytes));
    let statement = |(of, value): &(usize, Code), name: &Code| {
        let piece = pieces.iter().find(|p| p.of == *of);
        let path = piece.map(Piece::path).unwrap_or_default();
        let path = Code::kept(path.replace('/', ".").as_bytes());
        Code::of("{}.{} = {}", &[name, &path, value])
    };
    match (&followed.returned, &followed.called) {
        (Some((_, at)), Some(called)) => {
            let name = Code::kept(called.as_bytes());
            let line = text::line_range(bytes, *at).start;
            let before = &bytes[line..*at];
            let alone = before.iter().all(|b| matches!(b, b' ' | b'\t'));
            for one in &lines {
                let statement = statement(one, &name);
                let (at, with) = match alone {
                    true => (
                        line,
                        Code::join([&Code::kept(before), &statement, &end], ""),
                    ),
                    false => (*at, Code::of("{}; ", &[&statement])),
                };
                out.push((one.0, splice(at, with, new[one.0].why.clone())));
            }
        }
        (None, _) if !lines.is_empty() => {
            let name = Code::fixed("config");
            let mut all = vec![Code::fixed("local config = {}")];
            all.extend(lines.iter().map(|one| statement(one, &name)));
            all.push(Code::fixed("return config"));
            let gap = match bytes.last() {
                None | Some(b'\n') => Code::default(),
                Some(_) => end.clone(),
            };
            let all = Code::join(&all, text::line_end(bytes));
            let with = Code::join([&gap, &all, &end], "");
            let of = lines[0].0;
            out.push((of, splice(bytes.len(), with, new[of].why.clone())));
        }
        _ => {}
    }
    out
}

/// Something to be written into a table.
struct Piece {
    /// The table that is there.
    table: Option<usize>,
    /// Its path.
    above: String,
    /// The name in it.
    first: String,
    /// The number of the first value that this holds.
    of: usize,
    node: Node,
}

impl Piece {
    fn path(&self) -> String {
        match self.above.as_str() {
            "" => self.first.clone(),
            above => format!("{above}/{}", self.first),
        }
    }

    /// As a field between braces.
    fn field(&self, depth: usize) -> Code {
        let name = Code::kept(self.first.as_bytes());
        Code::of("{} = {}", &[&name, &self.node.written(depth)])
    }
}

/// What is to be written.
enum Node {
    Leaf(Code),
    Tables(Vec<(String, Self)>),
}

impl Node {
    fn put(&mut self, names: &[&str], value: Code) {
        let Some((first, rest)) = names.split_first() else {
            *self = Self::Leaf(value);
            return;
        };
        let Self::Tables(all) = self else { return };
        let at = all.iter().position(|(n, _)| n == first).unwrap_or_else(|| {
            all.push(((*first).to_owned(), Self::Tables(Vec::new())));
            all.len() - 1
        });
        all[at].1.put(rest, value);
    }

    fn is_list(all: &[(String, Self)]) -> bool {
        let counts = |(n, (name, _)): (usize, &(String, Self))| *name == n.to_string();
        all.iter().enumerate().all(counts)
    }

    /// Whether all lists in it have all of their elements; those that have not are left out.
    fn is_whole(&self, path: &str, whole: &[(&str, usize)]) -> bool {
        let Self::Tables(all) = self else {
            return true;
        };
        if let Some((_, count)) = whole.iter().find(|w| w.0 == path) {
            return Self::is_list(all) && all.len() == *count;
        }
        all.iter()
            .all(|(name, node)| node.is_whole(&format!("{path}/{name}"), whole))
    }

    /// As it is written, on lines indented so deep; on one where that is beyond all depth.
    fn written(&self, depth: usize) -> Code {
        let all = match self {
            Self::Leaf(code) => return code.clone(),
            Self::Tables(all) => all,
        };
        let list = Self::is_list(all);
        let field = |(name, node): &(String, Self)| {
            let value = node.written(depth.saturating_add(1));
            match list {
                true => value,
                false => match name.parse::<u64>() {
                    Ok(n) => Code::of("[{}] = {}", &[&Code::whole(n + 1), &value]),
                    Err(_) => Code::of("{} = {}", &[&Code::kept(name.as_bytes()), &value]),
                },
            }
        };
        let fields: Vec<Code> = all.iter().map(field).collect();
        if list || depth == usize::MAX || all.len() < 3 {
            return Code::of("{ {} }", &[&Code::join(&fields, ", ")]);
        }
        let indented = Code::blanks(2 * (depth + 1));
        let lines = fields.iter().map(|f| Code::of("{}{},\n", &[&indented, f]));
        let lines: Vec<Code> = lines.collect();
        Code::of(
            "{\n{}{}}",
            &[&Code::join(&lines, ""), &Code::blanks(2 * depth)],
        )
    }
}
