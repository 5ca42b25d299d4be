//! Nested formats, read by parsers that know the place of each value: JSON with comments (design
//! tokens, Windows Terminal schemes), TOML and YAML (Alacritty).

use std::fmt::Write;

use jsonc_parser::ast::Value as Json;
use saphyr_parser::{Event, Parser};
use serde_json::json;
use toml_edit::{Document, Item};
use wealdmist_core::role::Slot;
use wealdmist_core::setup::Palette;

use super::{Entry, ImportError, NAME, Place};

fn broken(line: usize, message: impl Into<String>, help: &str) -> ImportError {
    ImportError {
        line,
        message: message.into(),
        help: help.to_owned(),
    }
}

/// The line of a byte, from 1.
fn line_of(text: &str, byte: usize) -> usize {
    wealdmist_core::text::position(text.as_bytes(), byte).line
}

/// JSON, with comments allowed; keys come out joined by `/`.
pub(super) fn read_json(text: &str) -> Result<Vec<Entry>, ImportError> {
    let parsed = jsonc_parser::parse_to_ast(
        text,
        &jsonc_parser::CollectOptions::default(),
        &jsonc_parser::ParseOptions {
            allow_missing_commas: false,
            allow_single_quoted_strings: false,
            ..jsonc_parser::ParseOptions::default()
        },
    );
    let parsed = parsed.map_err(|e| {
        let line = line_of(text, e.range().start);
        broken(line, e.kind().to_string(), "correct the JSON at this place")
    })?;
    let mut out = Vec::new();
    if let Some(value) = parsed.value {
        flatten_json(text, &value, "", &mut out);
    }
    Ok(out)
}

fn flatten_json(text: &str, value: &Json, path: &str, out: &mut Vec<Entry>) {
    use jsonc_parser::common::Ranged;
    match value {
        Json::Object(object) => {
            for property in &object.properties {
                let name = property.name.as_str();
                // A token's value may be an object itself: its hexadecimal form is what counts.
                let inner = if path.is_empty() {
                    name.to_owned()
                } else {
                    format!("{path}/{name}")
                };
                flatten_json(text, &property.value, &inner, out);
            }
        }
        Json::Array(array) => {
            for (i, element) in array.elements.iter().enumerate() {
                flatten_json(text, element, &format!("{path}/{i}"), out);
            }
        }
        Json::StringLit(string) => {
            let key = match path.rsplit('/').next() {
                Some("name") => NAME.to_owned(),
                _ => path.to_owned(),
            };
            out.push(Entry {
                line: line_of(text, value.start()),
                key,
                value: string.value.to_string(),
            });
        }
        _ => {}
    }
}

/// A token's place, by the last group's name: `red`, `bright-red`, or a name of its own. Its value
/// is a text, or an object with a hexadecimal form.
pub(super) fn token_place(key: &str) -> Place {
    let Some(path) = key
        .strip_suffix("/$value/hex")
        .or_else(|| key.strip_suffix("/$value"))
    else {
        return Place::Nothing;
    };
    let name = path.rsplit('/').next().unwrap_or(path);
    let name = name.to_lowercase().replace([' ', '_'], "-");
    match Slot::from_key(&name) {
        Some(slot) => Place::Slot(slot),
        None => Place::Named(super::lined::plain_name(&name)),
    }
}

/// Design tokens: the JSON format of the W3C Design Tokens Community Group (2025.10).
pub(super) fn write_tokens(palette: &Palette, _: &str) -> Vec<u8> {
    wealdmist_core::tokens::palette_tokens(palette).into_bytes()
}

/// The scheme's own names of the 16 colors, in their order.
const WINDOWS: [&str; 16] = [
    "black",
    "red",
    "green",
    "yellow",
    "blue",
    "purple",
    "cyan",
    "white",
    "brightBlack",
    "brightRed",
    "brightGreen",
    "brightYellow",
    "brightBlue",
    "brightPurple",
    "brightCyan",
    "brightWhite",
];

const WINDOWS_OTHERS: [(&str, Slot); 4] = [
    ("foreground", Slot::Foreground),
    ("background", Slot::Background),
    ("cursorColor", Slot::Cursor),
    ("selectionBackground", Slot::Selection),
];

pub(super) fn windows_place(key: &str) -> Place {
    let name = key.rsplit('/').next().unwrap_or(key);
    if let Some(i) = WINDOWS.iter().position(|n| *n == name) {
        return Slot::from_ansi(i as u8).map_or(Place::Nothing, Place::Slot);
    }
    let other = WINDOWS_OTHERS.iter().find(|(n, _)| *n == name);
    other.map_or(Place::Elsewhere, |(_, slot)| Place::Slot(*slot))
}

pub(super) fn write_windows(palette: &Palette, title: &str) -> Vec<u8> {
    let mut scheme = serde_json::Map::new();
    scheme.insert("name".into(), json!(format!("{title} {}", palette.name)));
    for (name, slot) in WINDOWS_OTHERS {
        scheme.insert(name.into(), json!(palette.slot(slot).to_string()));
    }
    for (name, color) in WINDOWS.into_iter().zip(palette.ansi()) {
        scheme.insert(name.into(), json!(color.to_string()));
    }
    let text = serde_json::to_string_pretty(&scheme).unwrap_or_default();
    (text + "\n").into_bytes()
}

/// TOML; keys come out joined by `/`.
pub(super) fn read_toml(text: &str) -> Result<Vec<Entry>, ImportError> {
    let document = Document::parse(text).map_err(|e| {
        let line = line_of(text, e.span().map_or(0, |s| s.start));
        let message = e.message().lines().collect::<Vec<_>>().join(", ");
        broken(line, message, "correct the TOML at this place")
    })?;
    let mut out = Vec::new();
    for (key, item) in document.as_table() {
        flatten_toml(text, item, key, &mut out);
    }
    Ok(out)
}

fn flatten_toml(text: &str, item: &Item, path: &str, out: &mut Vec<Entry>) {
    if let Some(table) = item.as_table_like() {
        for (key, item) in table.iter() {
            flatten_toml(text, item, &format!("{path}/{key}"), out);
        }
    } else if let Some(value) = item.as_str() {
        out.push(Entry {
            line: line_of(text, item.span().map_or(0, |s| s.start)),
            key: path.to_owned(),
            value: value.to_owned(),
        });
    }
}

/// YAML; keys of nested mappings come out joined by `/`. Anchors and tags are not followed.
pub(super) fn read_yaml(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut out = Vec::new();
    // For each open mapping the key that waits for its value; `None` in sequences.
    let mut open: Vec<Option<Option<String>>> = Vec::new();
    for event in Parser::new_from_str(text) {
        let (event, span) = event.map_err(|e| {
            let line = e.marker().line();
            broken(line, e.info().to_owned(), "correct the YAML at this place")
        })?;
        match event {
            Event::MappingStart(..) => open.push(Some(None)),
            Event::SequenceStart(..) => open.push(None),
            Event::MappingEnd | Event::SequenceEnd => {
                open.pop();
                if let Some(Some(key)) = open.last_mut() {
                    *key = None;
                }
            }
            Event::Scalar(value, ..) => match open.last_mut() {
                Some(Some(key @ None)) => *key = Some(value.into_owned()),
                Some(Some(_)) => {
                    let path: Vec<String> = open.iter().flatten().flatten().cloned().collect();
                    out.push(Entry {
                        line: span.start.line(),
                        key: path.join("/"),
                        value: value.into_owned(),
                    });
                    if let Some(Some(key)) = open.last_mut() {
                        *key = None;
                    }
                }
                _ => {}
            },
            _ => {}
        }
    }
    Ok(out)
}

const NAMES: [&str; 8] = [
    "black", "red", "green", "yellow", "blue", "magenta", "cyan", "white",
];

const ALACRITTY_OTHERS: [(&str, Slot); 6] = [
    ("primary/foreground", Slot::Foreground),
    ("primary/background", Slot::Background),
    ("cursor/cursor", Slot::Cursor),
    ("cursor/text", Slot::CursorText),
    ("selection/background", Slot::Selection),
    ("selection/text", Slot::SelectionText),
];

pub(super) fn alacritty_place(key: &str) -> Place {
    let Some(path) = key.strip_prefix("colors/") else {
        return Place::Nothing;
    };
    if let Some((_, slot)) = ALACRITTY_OTHERS.iter().find(|(k, _)| *k == path) {
        return Place::Slot(*slot);
    }
    let (group, name) = path.split_once('/').unwrap_or((path, ""));
    let index = NAMES.iter().position(|n| *n == name).map(|i| i as u8);
    let slot = match (group, index) {
        ("normal", Some(i)) => Slot::from_ansi(i),
        ("bright", Some(i)) => Slot::from_ansi(i + 8),
        _ => None,
    };
    slot.map_or(Place::Elsewhere, Place::Slot)
}

pub(super) fn write_alacritty(palette: &Palette, title: &str) -> Vec<u8> {
    let mut out = format!("# {} · {}\n", title, palette.name);
    for (table, keys) in alacritty_tables(palette) {
        let _ = write!(out, "\n[colors.{table}]\n");
        for (key, value) in keys {
            let _ = writeln!(out, "{key} = \"{value}\"");
        }
    }
    out.into_bytes()
}

pub(super) fn write_alacritty_yaml(palette: &Palette, title: &str) -> Vec<u8> {
    let mut out = format!("# {} · {}\ncolors:\n", title, palette.name);
    for (table, keys) in alacritty_tables(palette) {
        let _ = writeln!(out, "  {table}:");
        for (key, value) in keys {
            let _ = writeln!(out, "    {key}: '{value}'");
        }
    }
    out.into_bytes()
}

/// The tables with their keys and values.
fn alacritty_tables(palette: &Palette) -> Vec<(&'static str, Vec<(&'static str, String)>)> {
    let mut out: Vec<(&'static str, Vec<(&'static str, String)>)> = Vec::new();
    for (path, slot) in ALACRITTY_OTHERS {
        let (table, key) = path.split_once('/').unwrap_or((path, ""));
        let value = (key, palette.slot(slot).to_string());
        match out.last_mut() {
            Some(last) if last.0 == table => last.1.push(value),
            _ => out.push((table, vec![value])),
        }
    }
    let ansi = palette.ansi();
    for (table, colors) in [("normal", &ansi[..8]), ("bright", &ansi[8..])] {
        let values = NAMES.into_iter().zip(colors);
        out.push((table, values.map(|(n, c)| (n, c.to_string())).collect()));
    }
    out
}
