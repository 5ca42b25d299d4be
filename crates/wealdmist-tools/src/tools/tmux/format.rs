//! Formats, worked out as far as they can be from the files: options, variables, version, comparisons,
//! matching, arithmetic. What depends on a running server is not known, and what of it is said.

use std::sync::Arc;

use crate::access::{Access, Variable, wildcard};
use crate::evaluated::state::{State, Why};
use crate::evaluated::text::Text;
use crate::limits;

/// What formats are worked out in.
pub(super) struct Context<'a> {
    pub(super) access: &'a dyn Access,
    pub(super) state: &'a State,
    /// What an option is when nothing sets it, in any scope.
    pub(super) default: &'a dyn Fn(&str) -> Option<&'static str>,
    /// The file that is being read.
    pub(super) file: &'a str,
}

/// What a format comes to, or what it depends on.
type Worked = Result<Text, Why>;

/// Whether a value counts as true.
pub(super) fn is_true(text: &Text) -> bool {
    !text.bytes.is_empty() && text.bytes != b"0"
}

/// Where a part ends: at one of these signs outside of braces, or at the end.
pub(super) fn skip(bytes: &[u8], start: usize, end: &[u8]) -> usize {
    let (mut at, mut braces) = (start, 0usize);
    while at < bytes.len() {
        if bytes[at..].starts_with(b"#{") {
            braces += 1;
        }
        if bytes[at] == b'#' && matches!(bytes.get(at + 1), Some(b',' | b'#' | b'{' | b'}' | b':'))
        {
            at += 2;
            continue;
        }
        if bytes[at] == b'}' && braces > 0 {
            braces -= 1;
            at += 1;
            continue;
        }
        if braces == 0 && end.contains(&bytes[at]) {
            return at;
        }
        at += 1;
    }
    at
}

/// A modifier of a format with its arguments.
struct Modifier {
    name: Vec<u8>,
    arguments: Vec<String>,
}

impl Context<'_> {
    /// Works a format out.
    pub(super) fn expand(&self, text: &Text) -> Worked {
        self.expanded(text, 0)
    }

    fn expanded(&self, text: &Text, depth: usize) -> Worked {
        if depth > limits::BLOCKS {
            return Err("formats are nested too deeply".into());
        }
        let bytes = &text.bytes;
        let (mut out, mut at) = (Text::default(), 0);
        while at < bytes.len() {
            if bytes[at] != b'#' {
                let end = memchr::memchr(b'#', &bytes[at..]).map_or(bytes.len(), |i| at + i);
                out.push(&text.part(at..end));
                at = end;
                continue;
            }
            match bytes.get(at + 1) {
                Some(b'(') => return Err("the answer of a command".into()),
                Some(b'{') => {
                    let end = skip(bytes, at + 2, b"}");
                    if end >= bytes.len() {
                        return Ok(out);
                    }
                    out.push(&self.replaced(&text.part(at + 2..end), depth + 1)?);
                    at = end + 1;
                }
                Some(b'#') => {
                    let signs = bytes[at..].iter().take_while(|b| **b == b'#').count();
                    // Before a style they stay, for they are read once more.
                    let (kept, passed) = match bytes.get(at + signs) {
                        Some(b'[') => (signs + 1, signs + 1),
                        _ => (1, 2),
                    };
                    out.push(&text.part(at..at + kept));
                    at += passed;
                }
                Some(b'}' | b',') => {
                    out.push(&text.part(at + 1..at + 2));
                    at += 2;
                }
                Some(letter) => {
                    let name = match letter {
                        b'D' => Some("pane_id"),
                        b'F' => Some("window_flags"),
                        b'H' => Some("host"),
                        b'I' => Some("window_index"),
                        b'P' => Some("pane_index"),
                        b'S' => Some("session_name"),
                        b'T' => Some("pane_title"),
                        b'W' => Some("window_name"),
                        b'h' => Some("host_short"),
                        _ => None,
                    };
                    match name {
                        Some(name) => out.push(&self.found(&Text::nowhere(name))?),
                        None => out.push(&text.part(at..at + 2)),
                    }
                    at += 2;
                }
                None => {
                    out.push(&text.part(at..at + 1));
                    at += 1;
                }
            }
        }
        Ok(out)
    }

    /// What a name stands for: an option, something of the server, a variable.
    fn found(&self, key: &Text) -> Worked {
        let name = key.lossy();
        for scoped in [format!("-s {name}"), format!("-w {name}"), name.clone()] {
            match self.state.sure(&scoped) {
                Some(Some(value)) => return Ok(value.clone()),
                Some(None) => {}
                None => return Err(format!("if {name} is what it may be").into()),
            }
        }
        if let Some(default) = (self.default)(&name) {
            return Ok(Text::nowhere(default));
        }
        if name.starts_with('@') {
            return Ok(Text::default());
        }
        let known = match name.as_str() {
            "version" => self.access.version("tmux", "-V"),
            "host" => self.access.host(),
            "host_short" => self
                .access
                .host()
                .map(|h| h.split('.').next().unwrap_or_default().to_owned()),
            "current_file" => Some(self.file.to_owned()),
            _ => match self.state.sure(&format!("${name}")) {
                Some(Some(value)) => return Ok(value.clone()),
                None => None,
                Some(None) => match self.access.variable(&name) {
                    Variable::Set(value) => Some(value),
                    // What is no variable is of the server, unless there is no such thing.
                    Variable::Unset if name.contains(|c: char| c.is_ascii_uppercase()) => {
                        Some(String::new())
                    }
                    Variable::Unset | Variable::Unknown => None,
                },
            },
        };
        known
            .map(|value| Text::nowhere(&value))
            .ok_or_else(|| format!("{name} of a running server or session").into())
    }

    /// The two parts of a pair, each worked out.
    fn pair(&self, text: &Text, depth: usize) -> Result<(Text, Text), Why> {
        let comma = skip(&text.bytes, 0, b",");
        let right = (comma + 1).min(text.bytes.len())..text.bytes.len();
        Ok((
            self.expanded(&text.part(0..comma), depth)?,
            self.expanded(&text.part(right), depth)?,
        ))
    }

    /// The modifiers of a format, and what they apply to.
    fn modifiers(&self, key: &Text) -> (Vec<Modifier>, Text) {
        let bytes = &key.bytes;
        let is_end = |at: usize| matches!(bytes.get(at), Some(b';' | b':'));
        let (mut out, mut at) = (Vec::new(), 0);
        while at < bytes.len() && bytes[at] != b':' {
            if bytes[at] == b';' {
                at += 1;
            }
            let Some(sign) = bytes.get(at).copied() else {
                break;
            };
            let pair: &[u8] = bytes.get(at..at + 2).unwrap_or_default();
            let length = match sign {
                b'l' | b'a' | b'b' | b'c' | b'd' | b'n' | b'w' | b'E' | b'T' | b'S' | b'W'
                | b'P' | b'<' | b'>'
                    if is_end(at + 1) =>
                {
                    1
                }
                _ if [&b"||"[..], b"&&", b"!=", b"==", b"<=", b">="].contains(&pair)
                    && is_end(at + 2) =>
                {
                    2
                }
                b'm' | b'C' | b'N' | b's' | b't' | b'=' | b'p' | b'e' | b'q' => {
                    let mut arguments = Vec::new();
                    let name = vec![sign];
                    at += 1;
                    let rest = |range: std::ops::Range<usize>| {
                        String::from_utf8_lossy(&bytes[range]).into_owned()
                    };
                    match bytes.get(at) {
                        None => return (Vec::new(), key.clone()),
                        Some(b':' | b';') => {}
                        Some(c) if !c.is_ascii_punctuation() || *c == b'-' => {
                            let end = skip(bytes, at, b":;");
                            arguments.push(rest(at..end));
                            at = end;
                        }
                        Some(wrapper) => {
                            let ends = [*wrapper, b':', b';'];
                            at += 1;
                            loop {
                                let end = skip(bytes, at, &ends);
                                arguments.push(rest(at..end));
                                at = end;
                                if bytes.get(at) != Some(wrapper) {
                                    break;
                                }
                                at += 1;
                                if is_end(at) {
                                    break;
                                }
                            }
                        }
                    }
                    out.push(Modifier { name, arguments });
                    continue;
                }
                _ => break,
            };
            out.push(Modifier {
                name: bytes[at..at + length].to_vec(),
                arguments: Vec::new(),
            });
            at += length;
        }
        match bytes.get(at) {
            Some(b':') => (out, key.part(at + 1..bytes.len())),
            _ => (Vec::new(), key.clone()),
        }
    }

    /// What stands in braces.
    fn replaced(&self, key: &Text, depth: usize) -> Worked {
        let (modifiers, rest) = self.modifiers(key);
        let truth = |yes: bool| Text::nowhere(if yes { "1" } else { "0" });
        let has = |name: &[u8]| modifiers.iter().any(|m| m.name == name);
        let unknown = |m: &&Modifier| {
            !matches!(
                m.name.as_slice(),
                b"l" | b"b"
                    | b"d"
                    | b"n"
                    | b"E"
                    | b"T"
                    | b"||"
                    | b"&&"
                    | b"!="
                    | b"=="
                    | b"<"
                    | b">"
                    | b"<="
                    | b">="
                    | b"m"
                    | b"e"
                    | b"="
            )
        };
        if let Some(other) = modifiers.iter().find(unknown) {
            let name = String::from_utf8_lossy(&other.name);
            return Err(format!("a format with {name}").into());
        }
        if has(b"l") {
            return Ok(unescaped(&rest));
        }
        let comparison = modifiers.iter().rfind(|m| {
            matches!(
                m.name.as_slice(),
                b"||" | b"&&" | b"!=" | b"==" | b"<" | b">" | b"<=" | b">=" | b"m" | b"e"
            )
        });
        if let Some(how) = comparison {
            let (left, right) = match how.name.as_slice() {
                // What is known of one side may decide it.
                b"||" | b"&&" => return self.either(&rest, how.name == b"||", depth),
                _ => self.pair(&rest, depth)?,
            };
            return Ok(match how.name.as_slice() {
                b"==" => truth(left.bytes == right.bytes),
                b"!=" => truth(left.bytes != right.bytes),
                b"<" => truth(left.bytes < right.bytes),
                b">" => truth(left.bytes > right.bytes),
                b"<=" => truth(left.bytes <= right.bytes),
                b">=" => truth(left.bytes >= right.bytes),
                b"m" => {
                    let flags = how.arguments.first().map_or("", String::as_str);
                    if flags.contains('r') {
                        return Err("a regular expression".into());
                    }
                    let (mut pattern, mut name) = (left.lossy(), right.lossy());
                    if flags.contains('i') {
                        (pattern, name) = (pattern.to_lowercase(), name.to_lowercase());
                    }
                    truth(matches(&pattern, &name))
                }
                _ => Text::nowhere(
                    &calculated(how, &left.lossy(), &right.lossy()).ok_or("arithmetic")?,
                ),
            });
        }
        let mut value = if rest.bytes.first() == Some(&b'?') {
            self.chosen(&rest.part(1..rest.bytes.len()), depth)?
        } else if memchr::memmem::find(&rest.bytes, b"#{").is_some() {
            self.expanded(&rest, depth)?
        } else {
            self.found(&rest)?
        };
        for modifier in &modifiers {
            match modifier.name.as_slice() {
                b"E" | b"T" => value = self.expanded(&value, depth)?,
                b"b" | b"d" => {
                    let text = value.lossy();
                    let slash = text.rfind('/');
                    value = Text::nowhere(match (modifier.name[0], slash) {
                        (b'b', Some(at)) => &text[at + 1..],
                        (b'b', None) => &text,
                        (_, Some(0)) => "/",
                        (_, Some(at)) => &text[..at],
                        (_, None) => ".",
                    });
                }
                b"n" => value = Text::nowhere(&value.bytes.len().to_string()),
                b"=" => {
                    let limit = modifier
                        .arguments
                        .first()
                        .and_then(|a| a.parse::<i64>().ok());
                    let limit = limit.ok_or("a format with =")?;
                    let length = value.bytes.len();
                    let count = usize::try_from(limit.unsigned_abs())
                        .unwrap_or(length)
                        .min(length);
                    if !value.bytes.is_ascii() {
                        return Err("a text cut to its width".into());
                    }
                    value = match limit >= 0 {
                        true => value.part(0..count),
                        false => value.part(length - count..length),
                    };
                }
                _ => {}
            }
        }
        Ok(value)
    }

    /// One of two parts.
    fn chosen(&self, text: &Text, depth: usize) -> Worked {
        let comma = skip(&text.bytes, 0, b",");
        let condition = text.part(0..comma);
        let rest = text.part((comma + 1).min(text.bytes.len())..text.bytes.len());
        let second = skip(&rest.bytes, 0, b",");
        let is = self.condition(&condition, depth)?;
        let part = match is {
            true => rest.part(0..second),
            false => rest.part((second + 1).min(rest.bytes.len())..rest.bytes.len()),
        };
        self.expanded(&part, depth)
    }

    fn condition(&self, condition: &Text, depth: usize) -> Result<bool, Why> {
        let plain = memchr::memchr(b'#', &condition.bytes).is_none();
        Ok(match plain {
            true => is_true(&self.found(condition)?),
            false => is_true(&self.expanded(condition, depth)?),
        })
    }

    fn either(&self, text: &Text, any: bool, depth: usize) -> Worked {
        let comma = skip(&text.bytes, 0, b",");
        let right = (comma + 1).min(text.bytes.len())..text.bytes.len();
        let of = |part: Text| self.expanded(&part, depth).map(|t| is_true(&t));
        let both = [of(text.part(0..comma)), of(text.part(right))];
        let known = |wanted: bool| both.contains(&Ok(wanted));
        let truth = |yes: bool| Ok(Text::nowhere(if yes { "1" } else { "0" }));
        if known(any) {
            return truth(any);
        }
        match both.into_iter().find_map(Result::err) {
            Some(why) => Err(why),
            None => truth(!any),
        }
    }
}

/// Whether a name matches a pattern, which unlike one of files goes across slashes.
fn matches(pattern: &str, name: &str) -> bool {
    let plain = |text: &str| text.replace('/', "\u{1}");
    wildcard(&plain(pattern), &plain(name))
}

/// The text without the signs that keep commas and braces apart.
fn unescaped(text: &Text) -> Text {
    let (mut out, mut at) = (Text::default(), 0);
    while at < text.bytes.len() {
        let escaped = text.bytes[at] == b'#'
            && matches!(
                text.bytes.get(at + 1),
                Some(b',' | b'#' | b'{' | b'}' | b':')
            );
        at += usize::from(escaped);
        out.push(&text.part(at..at + 1));
        at += 1;
    }
    out
}

/// The result of an arithmetic expression: `e|operator|flags|places`.
fn calculated(how: &Modifier, left: &str, right: &str) -> Option<String> {
    let operator = how.arguments.first()?;
    let floating = how.arguments.get(1).is_some_and(|f| f.contains('f'));
    let places = match how.arguments.get(2) {
        Some(places) => places.parse::<usize>().ok().filter(|p| *p <= 100)?,
        None => 2 * usize::from(floating),
    };
    let number = |text: &str| -> Option<f64> {
        let number: f64 = text.trim().parse().ok()?;
        Some(if floating { number } else { number.trunc() })
    };
    let (a, b) = (number(left)?, number(right)?);
    let truth = |yes: bool| f64::from(u8::from(yes));
    let result = match operator.as_str() {
        "+" => a + b,
        "-" => a - b,
        "*" => a * b,
        "/" => a / b,
        "m" => a % b,
        "==" => truth((a - b).abs() < 1e-9),
        "!=" => truth((a - b).abs() > 1e-9),
        ">" => truth(a > b),
        "<" => truth(a < b),
        ">=" => truth(a >= b),
        "<=" => truth(a <= b),
        _ => return None,
    };
    if !result.is_finite() {
        return None;
    }
    Some(match floating {
        true => format!("{result:.places$}"),
        false => format!("{:.places$}", result.trunc()),
    })
}

/// A condition in words, for people.
pub(super) fn said(condition: &Text, why: &Why) -> (Why, Why) {
    let text = condition.lossy();
    let short: String = text.chars().take(60).collect();
    let dots = if short.len() < text.len() { "…" } else { "" };
    let of = |word: &str| Arc::from(format!("{word} {short}{dots}, which depends on {why}"));
    (of("if"), of("unless"))
}
