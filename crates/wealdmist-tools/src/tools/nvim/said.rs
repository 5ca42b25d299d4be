//! What one file says: the theme it chooses, colors of groups, font, color depth. From Lua and
//! from the editor's own command language.

use std::ops::Range;
use std::path::Path;

use wealdmist_core::color::Rgb;
use wealdmist_core::property::Property;
use wealdmist_core::quote::Quoting;
use wealdmist_core::reading::Value;

use super::fonts;
use crate::document::lines;
use crate::document::lua::{self, Event, Value as Lua};
use crate::themed::Said;

/// The option for 24-bit color.
pub(super) const TERMGUICOLORS: &str = "termguicolors";

/// What one file says, in order.
#[derive(Debug, Clone)]
pub(super) enum Entry {
    /// What every editor says.
    Said(Said),
    /// The font option, which says several things.
    Font {
        family: (String, Range<usize>),
        size: Option<(f64, Range<usize>)>,
        /// Where the fonts it falls back to stand, each behind a comma; empty where none does.
        rest: Range<usize>,
        /// What reads the option's text where it stands.
        quoting: Vec<Quoting>,
    },
}

/// The names of the option for 24-bit color in a `set`: those that switch it on, then off.
const SWITCHES: [&str; 4] = [TERMGUICOLORS, "tgc", "notermguicolors", "notgc"];

/// Whether what stands there is a switch of `set`, not a value.
pub(super) fn is_switch(bytes: &[u8]) -> bool {
    SWITCHES.iter().any(|s| s.as_bytes() == bytes)
}

/// 24-bit color on or off.
fn depth(on: bool, span: Range<usize>) -> Entry {
    let depth = if on { "24-bit" } else { "256 colors" };
    Entry::Said(Said::Property {
        property: Property::Depth,
        key: TERMGUICOLORS,
        value: Value::Text(depth.to_owned()),
        span,
    })
}

fn color(text: &str) -> Option<Value> {
    if text.eq_ignore_ascii_case("none") {
        return Some(Value::Default);
    }
    Rgb::from_hex(text)
        .filter(|_| text.len() == 7)
        .map(Value::Color)
}

/// Reads a Lua file.
pub(super) fn said_in_lua(bytes: &[u8]) -> Result<Vec<Entry>, lua::Problem> {
    let mut out = Vec::new();
    for event in lua::events(bytes)? {
        match event {
            Event::Call {
                name,
                arguments,
                at,
            } => lua_call(bytes, &name, &arguments, at, &mut out),
            Event::Assign { name, value, .. } => lua_assign(bytes, &name, &value, &mut out),
        }
    }
    Ok(out)
}

/// What quotes a string whose text begins at a place.
fn quotes(bytes: &[u8], start: usize) -> Quoting {
    match start.checked_sub(1).and_then(|i| bytes.get(i)) {
        Some(b'"') => Quoting::LuaDouble,
        Some(b'\'') => Quoting::LuaSingle,
        _ => Quoting::LuaLong,
    }
}

fn lua_call(bytes: &[u8], name: &str, arguments: &[Lua], at: usize, out: &mut Vec<Entry>) {
    match (name, arguments) {
        (
            "vim.cmd" | "vim.api.nvim_command" | "vim.api.nvim_exec" | "vim.api.nvim_exec2",
            [Lua::Text { raw, span }, ..],
        ) => {
            let quoting = quotes(bytes, span.start);
            let (text, map) = decoded(raw, quoting, span.start);
            let place = |i: usize| map[i.min(map.len() - 1)];
            vim_lines(&text, &place, Some(at), &[quoting], out);
        }
        ("vim.cmd.colorscheme", [Lua::Text { raw, span }, ..]) => {
            out.push(Entry::Said(Said::Scheme {
                name: raw.clone(),
                span: span.clone(),
                at,
            }));
        }
        // nvim_set_hl under whatever local name it has: a number, a group, a table of colors.
        (
            _,
            [
                Lua::Other { .. },
                Lua::Text { raw: group, .. },
                Lua::Table(fields),
            ],
        ) => {
            for (key, value) in fields {
                let text = match key.as_str() {
                    "fg" | "foreground" => true,
                    "bg" | "background" => false,
                    _ => continue,
                };
                if let Lua::Text { raw, span } = value
                    && let Some(value) = color(raw)
                {
                    out.push(Entry::Said(Said::Color {
                        group: group.clone(),
                        text,
                        value,
                        span: span.clone(),
                        at,
                    }));
                }
            }
        }
        _ => {}
    }
}

fn lua_assign(bytes: &[u8], name: &str, value: &Lua, out: &mut Vec<Entry>) {
    let option = ["vim.o.", "vim.opt.", "vim.go."]
        .iter()
        .find_map(|p| name.strip_prefix(p));
    match (option, value) {
        (Some("guifont"), Lua::Text { raw, span }) => {
            let quoting = quotes(bytes, span.start);
            let (text, map) = decoded(raw, quoting, span.start);
            let place = |i: usize| map[i.min(map.len() - 1)];
            let text = String::from_utf8_lossy(&text);
            font(&text, 0, &place, &[quoting], out);
        }
        (Some("termguicolors"), Lua::Other { text, span }) if !span.is_empty() => {
            out.push(depth(text == "true", span.clone()));
        }
        _ => {}
    }
}

/// A font as the graphical front ends take it: `Family:h12`, further fonts after a comma.
fn font(
    raw: &str,
    start: usize,
    place: &dyn Fn(usize) -> usize,
    outer: &[Quoting],
    out: &mut Vec<Entry>,
) {
    let span = |r: Range<usize>| place(r.start)..place(r.end);
    let first = fonts::list(raw).next().unwrap_or_default();
    let family = first.split(':').next().unwrap_or_default();
    // Behind a backslash at its end, a comma of ours would belong to the font.
    if family.is_empty() || first.ends_with('\\') {
        return;
    }
    let mut offset = family.len();
    let mut size = None;
    for part in first[family.len()..].split(':').skip(1) {
        offset += 1;
        if let Some(digits) = part.strip_prefix('h')
            && let Ok(n) = digits.parse::<f64>()
        {
            size = Some((n, span(start + offset + 1..start + offset + part.len())));
        }
        offset += part.len();
    }
    out.push(Entry::Font {
        family: (fonts::family(family), span(start..start + family.len())),
        size,
        rest: span(start + first.len()..start + raw.len()),
        quoting: [&[Quoting::FontList], outer].concat(),
    });
}

/// A string of Lua as the program sees it, and for each of its bytes the file's byte it came from;
/// one more for its end. Escapes by number are kept as written.
fn decoded(raw: &str, quoting: Quoting, start: usize) -> (Vec<u8>, Vec<usize>) {
    let bytes = raw.as_bytes();
    let (mut text, mut map) = (
        Vec::with_capacity(bytes.len()),
        Vec::with_capacity(bytes.len() + 1),
    );
    let mut at = 0;
    while at < bytes.len() {
        let from = start + at;
        let escaped = bytes[at] == b'\\' && quoting != Quoting::LuaLong;
        let byte = match bytes.get(at + 1).filter(|_| escaped) {
            Some(b @ (b'\\' | b'"' | b'\'')) => {
                at += 1;
                *b
            }
            Some(b'n' | b'\n') => {
                at += 1;
                b'\n'
            }
            _ => bytes[at],
        };
        text.push(byte);
        map.push(from);
        at += 1;
    }
    map.push(start + bytes.len());
    (text, map)
}

/// Reads lines of the editor's own command language, each at its place in the file.
pub(super) fn vim_lines(
    source: &[u8],
    place: &dyn Fn(usize) -> usize,
    base: Option<usize>,
    outer: &[Quoting],
    out: &mut Vec<Entry>,
) {
    for line in lines::lines(source) {
        let words: Vec<Range<usize>> = words(source, line.span.clone());
        let text = |r: &Range<usize>| std::str::from_utf8(&source[r.clone()]).unwrap_or_default();
        let Some(first) = words.first() else { continue };
        let at = base.unwrap_or(line.span.start);
        let span_of = |r: &Range<usize>| place(r.start)..place(r.end);
        let command = text(first)
            .trim_start_matches([':', ' '])
            .trim_end_matches('!');
        let is = |full: &str, least: usize| command.len() >= least && full.starts_with(command);
        if is("colorscheme", 4) {
            if let Some(name) = words.get(1) {
                let name_text = text(name).to_owned();
                out.push(Entry::Said(Said::Scheme {
                    name: name_text,
                    span: span_of(name),
                    at,
                }));
            }
        } else if is("highlight", 2) {
            let mut rest = words[1..].iter();
            let Some(group) = rest.next().map(text) else {
                continue;
            };
            for word in rest {
                let Some((key, value)) = text(word).split_once('=') else {
                    continue;
                };
                let is_text = match key.to_ascii_lowercase().as_str() {
                    "guifg" => true,
                    "guibg" => false,
                    _ => continue,
                };
                if let Some(found) = color(value) {
                    let span = word.end - value.len()..word.end;
                    let group = group.to_owned();
                    out.push(Entry::Said(Said::Color {
                        group,
                        text: is_text,
                        value: found,
                        span: span_of(&span),
                        at,
                    }));
                }
            }
        } else if is("set", 2) || command == "setglobal" {
            for word in &words[1..] {
                let option = text(word);
                if let Some(value) = option.strip_prefix("guifont=") {
                    let outer = [&[Quoting::SetValue], outer].concat();
                    font(value, word.end - value.len(), place, &outer, out);
                } else if is_switch(option.as_bytes()) {
                    let on = !option.starts_with("no");
                    out.push(depth(on, span_of(word)));
                }
            }
        }
    }
}

/// The words of a line; a backslash keeps the blank after it in the word.
fn words(bytes: &[u8], line: Range<usize>) -> Vec<Range<usize>> {
    let mut out: Vec<Range<usize>> = Vec::new();
    let mut at = line.start;
    while at < line.end {
        while at < line.end && lines::is_blank(bytes[at]) {
            at += 1;
        }
        let start = at;
        while at < line.end && !lines::is_blank(bytes[at]) {
            at += if bytes[at] == b'\\' { 2 } else { 1 };
        }
        let end = at.min(line.end);
        if end > start {
            out.push(start..end);
        }
        at = end;
    }
    out
}

pub(super) fn is_lua(path: &Path) -> bool {
    path.extension().is_some_and(|e| e == "lua")
}
