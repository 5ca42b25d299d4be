//! Palettes as design tokens: the open JSON format of the W3C Design Tokens Community Group
//! (2025.10), so that other programs can read them.

use serde_json::{Map, Value, json};

use crate::color::Rgb;
use crate::role::Slot;
use crate::setup::{Palette, Setup};

/// Every palette of a setup: a group per palette, in it the slots and the further named colors.
#[must_use]
pub fn design_tokens(setup: &Setup) -> String {
    let mut root = Map::new();
    for palette in &setup.palettes {
        root.insert(token_name(&palette.name), Value::Object(group(palette)));
    }
    pretty(root)
}

/// One palette as a group of its own.
#[must_use]
pub fn palette_tokens(palette: &Palette) -> String {
    let mut root = Map::new();
    root.insert(token_name(&palette.name), Value::Object(group(palette)));
    pretty(root)
}

fn pretty(root: Map<String, Value>) -> String {
    serde_json::to_string_pretty(&Value::Object(root)).unwrap_or_default() + "\n"
}

fn group(palette: &Palette) -> Map<String, Value> {
    let mut group = Map::new();
    group.insert("$type".into(), json!("color"));
    group.insert(
        "$description".into(),
        json!(format!("{} palette", palette.variant.key())),
    );
    for slot in Slot::ALL {
        group.insert(slot.key().into(), token(palette.slot(slot)));
    }
    for (name, color) in &palette.colors {
        group.insert(token_name(name), token(*color));
    }
    group
}

/// The format forbids a leading `$` and the characters `{`, `}` and `.` in names.
fn token_name(name: &str) -> String {
    name.trim_start_matches('$').replace(['{', '}', '.'], "-")
}

fn token(color: Rgb) -> Value {
    let part = |c: u8| (f64::from(c) / 255.0 * 10_000.0).round() / 10_000.0;
    json!({
        "$value": {
            "colorSpace": "srgb",
            "components": [part(color.r), part(color.g), part(color.b)],
            "hex": color.to_string(),
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::setup::SetupDoc;

    #[test]
    fn tokens_hold_every_color_as_the_format_wants_it() {
        let text = "[palettes.\"a.b\"]\nred='#ff8000'\n[palettes.\"a.b\".colors]\nreed='#010203'\n";
        let setup = SetupDoc::parse("s", text.as_bytes()).unwrap();
        let json: Value = serde_json::from_str(&design_tokens(setup.setup())).unwrap();
        let group = &json["a-b"];
        assert_eq!(group["$type"], "color");
        assert_eq!(
            group["red"]["$value"]["components"],
            json!([1.0, 0.502, 0.0])
        );
        assert_eq!(group["reed"]["$value"]["hex"], "#010203");
        assert_eq!(group.as_object().unwrap().len(), 22 + 1 + 2);
    }
}
