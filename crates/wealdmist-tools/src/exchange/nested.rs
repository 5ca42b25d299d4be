//! JSON with comments: design tokens, Windows Terminal schemes.

use jsonc_parser::ast::Value as Json;
use serde_json::json;
use wealdmist_core::role::Slot;
use wealdmist_core::setup::Palette;

use super::{Entry, ImportError, NAME, Place};

fn broken(line: usize, message: impl Into<String>, help: &str) -> ImportError {
    ImportError {
        line,
        message: message.into(),
        help: help.to_owned(),
        is_empty: false,
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
