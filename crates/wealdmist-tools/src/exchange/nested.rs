//! JSON with comments: design tokens, Windows Terminal schemes.

use std::collections::HashMap;

use jsonc_parser::ast::Value as Json;
use serde_json::json;
use wealdmist_core::color::Rgb;
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

/// Where the lines of a text begin, so that each of many places is found at once.
struct Lines(Vec<usize>);

impl Lines {
    fn of(text: &str) -> Self {
        let ends = text.match_indices('\n').map(|(at, _)| at + 1);
        Self(std::iter::once(0).chain(ends).collect())
    }

    /// The line of a byte, from 1.
    fn at(&self, byte: usize) -> usize {
        self.0.partition_point(|start| *start <= byte)
    }
}

/// JSON, with comments allowed.
fn parsed(text: &str) -> Result<Option<Json<'_>>, ImportError> {
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
        let line = Lines::of(text).at(e.range().start);
        broken(line, e.kind().to_string(), "correct the JSON at this place")
    })?;
    Ok(parsed.value)
}

/// Texts in JSON; keys come out joined by `/`, and each object may be a scheme.
pub(super) fn read_json(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut out = Vec::new();
    if let Some(value) = parsed(text)? {
        flatten_json(&Lines::of(text), &value, "", &mut out);
    }
    Ok(out)
}

/// Design tokens: every color with the path of its groups, each of which may be a scheme. Tokens of other types are left out.
pub(super) fn read_tokens(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut all = Vec::new();
    if let Some(value) = parsed(text)? {
        tokens(&Lines::of(text), &value, "", None, &mut all);
    }
    // What refers to another is what that is, however often it refers on.
    let said: HashMap<String, String> = all
        .iter()
        .map(|e: &Entry| (e.key.clone(), e.value.clone()))
        .collect();
    for entry in &mut all {
        for _ in 0..32 {
            let inner = entry.value.strip_prefix('{');
            let Some(path) = inner.and_then(|v| v.strip_suffix('}')) else {
                break;
            };
            let key = format!("{}/$value", path.replace('.', "/"));
            let Some(value) = said.get(&key) else { break };
            entry.value.clone_from(value);
        }
    }
    Ok(all)
}

fn tokens(lines: &Lines, value: &Json, path: &str, of_type: Option<&str>, out: &mut Vec<Entry>) {
    use jsonc_parser::common::Ranged;
    let Json::Object(object) = value else { return };
    let own = object.get("$type").and_then(|p| match &p.value {
        Json::StringLit(text) => Some(text.value.as_ref()),
        _ => None,
    });
    let of_type = own.or(of_type);
    if let Some(found) = object.get("$value") {
        let color = match &found.value {
            Json::StringLit(text) => Some(text.value.to_string()),
            Json::Object(parts) => components(parts),
            _ => None,
        };
        if of_type.is_none_or(|t| t == "color")
            && let Some(value) = color
        {
            out.push(Entry {
                line: lines.at(found.value.start()),
                key: format!("{path}/$value"),
                value,
                scheme: path
                    .rsplit_once('/')
                    .map_or("", |(group, _)| group)
                    .to_owned(),
            });
        }
        return;
    }
    for property in &object.properties {
        let name = property.name.as_str();
        if name.starts_with('$') {
            continue;
        }
        let inner = match path.is_empty() {
            true => name.to_owned(),
            false => format!("{path}/{name}"),
        };
        tokens(lines, &property.value, &inner, of_type, out);
    }
}

/// A color by its hexadecimal form, else by its components in a color space that CSS has a function for.
fn components(parts: &jsonc_parser::ast::Object) -> Option<String> {
    let text = |key: &str| match &parts.get(key)?.value {
        Json::StringLit(text) => Some(text.value.to_string()),
        _ => None,
    };
    if let Some(hex) = text("hex") {
        return Some(hex);
    }
    let Json::Array(list) = &parts.get("components")?.value else {
        return None;
    };
    // `none` is as good as nothing.
    let number = |value: &Json| match value {
        Json::NumberLit(n) => n.value.parse::<f64>().ok(),
        Json::StringLit(word) if word.value == "none" => Some(0.0),
        _ => None,
    };
    let numbers: Option<Vec<f64>> = list.elements.iter().map(number).collect();
    let [a, b, c] = numbers?.try_into().ok()?;
    match text("colorSpace")?.as_str() {
        "srgb" => Some(format!("rgb({}% {}% {}%)", a * 100.0, b * 100.0, c * 100.0)),
        "srgb-linear" => Some(Rgb::from_linear([a, b, c]).to_string()),
        space @ ("hsl" | "hwb") => Some(format!("{space}({a} {b}% {c}%)")),
        space @ ("lab" | "lch" | "oklab" | "oklch") => Some(format!("{space}({a} {b} {c})")),
        // Told as what it is; there is no color of sRGB for it.
        space => Some(format!("color({space} {a} {b} {c})")),
    }
}

fn flatten_json(lines: &Lines, value: &Json, path: &str, out: &mut Vec<Entry>) {
    use jsonc_parser::common::Ranged;
    match value {
        Json::Object(object) => {
            for property in &object.properties {
                let name = property.name.as_str();
                let inner = if path.is_empty() {
                    name.to_owned()
                } else {
                    format!("{path}/{name}")
                };
                flatten_json(lines, &property.value, &inner, out);
            }
        }
        Json::Array(array) => {
            for (i, element) in array.elements.iter().enumerate() {
                flatten_json(lines, element, &format!("{path}/{i}"), out);
            }
        }
        Json::StringLit(string) => {
            let key = match path.rsplit('/').next() {
                Some("name") => NAME.to_owned(),
                _ => path.to_owned(),
            };
            out.push(Entry {
                line: lines.at(value.start()),
                key,
                value: string.value.to_string(),
                scheme: path
                    .rsplit_once('/')
                    .map_or("", |(group, _)| group)
                    .to_owned(),
            });
        }
        _ => {}
    }
}

/// A token's place, by the last group's name: `red`, `bright-red`, or a name of its own.
pub(super) fn token_place(key: &str) -> Place {
    let Some(path) = key.strip_suffix("/$value") else {
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
    // What a profile says for itself is of no scheme.
    if key.starts_with("profiles/") {
        return Place::Elsewhere;
    }
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
