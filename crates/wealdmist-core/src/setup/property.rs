//! What the setup says of properties, and the edits that change it.

use std::collections::{BTreeMap, BTreeSet};

use toml_edit::TableLike;

use super::edit::EditError;
use super::read::Reader;
use super::{Setup, SetupDoc, SymbolLevel, Window};
use crate::property::{OUR_THEME, Property, Unit};
use crate::reading::Value;

impl Property {
    /// What a setup says of it; `None` where it says nothing, and for what it has no word for.
    #[must_use]
    pub fn of(self, setup: &Setup) -> Option<Value> {
        let font = &setup.font;
        let word = |on| Value::Text(if on { "on" } else { "off" }.to_owned());
        match self {
            Self::FontFamily => font.family.clone().map(Value::Text),
            Self::FontSize => font.size.map(Value::Number),
            Self::FontBold => font.bold.clone().map(Value::Text),
            Self::FontItalic => font.italic.clone().map(Value::Text),
            Self::FontBoldItalic => font.bold_italic.clone().map(Value::Text),
            Self::FontFeatures => {
                (!font.features.is_empty()).then(|| Value::Text(font.features_text()))
            }
            Self::FontLigatures => font.ligatures.map(word),
            Self::FontLineHeight => font.line_height.map(Value::Number),
            Self::FontFallback => {
                (!font.fallback.is_empty()).then(|| Value::Text(font.fallback.join(", ")))
            }
            Self::WindowOpacity
            | Self::WindowPadding
            | Self::WindowBlur
            | Self::WindowDecorations
            | Self::Cursor
            | Self::CursorBlink
            | Self::Scrollback => setup.window.said.get(&self).cloned(),
            Self::Symbols => Some(Value::Text(setup.symbols.key().to_owned())),
            Self::Depth => Some(Value::Text("24-bit".to_owned())),
            // Where no tool takes what is generated, each has its own.
            Self::Theme => {
                let any = setup.tools.values().any(|t| t.generate);
                any.then(|| Value::Text(OUR_THEME.to_owned()))
            }
            // What the setup has no word for is left as each tool has it.
            Self::WindowDimmed | Self::WindowFaint => None,
        }
    }

    /// Whether a tool's value says what the setup's does. `level` is the highest symbol level the
    /// tool may use.
    #[must_use]
    pub fn agrees(self, found: &Value, wanted: &Value, level: SymbolLevel) -> bool {
        match (found, wanted) {
            // Padding is written in points by some and in pixels by others: half a pixel is none.
            (Value::Number(a), Value::Number(b)) if self == Self::WindowPadding => {
                (a - b).abs() < 0.38
            }
            (Value::Number(a), Value::Number(b)) => (a - b).abs() < 0.001,
            (Value::Text(a), Value::Text(b)) => match self {
                // Fewer symbols than the level allows are fine, more are not.
                Self::Symbols => {
                    let levels = [SymbolLevel::Ascii, SymbolLevel::Plain, SymbolLevel::Icons];
                    levels
                        .iter()
                        .find(|l| l.key() == a)
                        .is_none_or(|l| *l <= level)
                }
                // The order of features does not matter.
                Self::FontFeatures => {
                    let set = |t: &str| t.split(' ').map(str::to_owned).collect::<BTreeSet<_>>();
                    set(a) == set(b)
                }
                // Several fallbacks stand in one place, or each in a place of its own.
                Self::FontFallback => {
                    let one = |f: &str| f.eq_ignore_ascii_case(a.trim());
                    a.eq_ignore_ascii_case(b) || b.split(", ").any(one)
                }
                _ => a.trim().eq_ignore_ascii_case(b.trim()),
            },
            _ => false,
        }
    }

    /// Whether it is set, and not found out.
    #[must_use]
    pub const fn is_set(self) -> bool {
        !matches!(
            self,
            Self::Depth | Self::Theme | Self::WindowDimmed | Self::WindowFaint
        )
    }

    /// The setup with a value for it.
    ///
    /// # Errors
    /// When the file cannot take the value, and for what is found out and not set.
    pub fn set(self, doc: &SetupDoc, value: &Value) -> Result<SetupDoc, EditError> {
        let missing = || EditError::Missing(self.key().to_owned());
        let path = match self.key().split_once('.') {
            Some((table, key)) => [table, key],
            None => ["symbols", "level"],
        };
        match (self, value) {
            _ if !self.is_set() => Err(missing()),
            (Self::FontLigatures, Value::Text(word)) => match word.as_str() {
                "on" => doc.with_ligatures(true),
                "off" => doc.with_ligatures(false),
                _ => Err(missing()),
            },
            (Self::FontFeatures, Value::Text(features)) => doc.with_features(features),
            (Self::FontFallback, Value::Text(families)) => {
                let families: Vec<String> = families.split(", ").map(str::to_owned).collect();
                doc.with_fallback(&families)
            }
            (_, Value::Text(word)) if self.unit() == Unit::Switch => match word.as_str() {
                "on" => doc.with_flag(&path, true),
                "off" => doc.with_flag(&path, false),
                _ => Err(missing()),
            },
            (_, Value::Number(n)) if self.unit() == Unit::Lines => doc.with_whole(&path, *n),
            (_, Value::Number(n)) if self.range().is_some() => doc.with_number(&path, *n),
            (_, Value::Text(text)) if self.range().is_none() => doc.with_text(&path, text),
            _ => Err(missing()),
        }
    }
}

impl Reader {
    pub(super) fn window(&mut self, root: &dyn TableLike) -> Window {
        let Some(table) = self.table(root, "window") else {
            return Window::default();
        };
        let key = |p: Property| Some((p, p.key().strip_prefix("window.")?));
        let set = Property::ALL.into_iter().filter(|p| p.is_set());
        let all: Vec<(Property, &str)> = set.filter_map(key).collect();
        let known: Vec<&str> = all.iter().map(|(_, key)| *key).collect();
        self.unknown(table, "[window]", &known);
        let mut said = BTreeMap::new();
        for (property, key) in all {
            if table.get(key).is_none() {
                continue;
            }
            let value = match (property.unit(), property.words()) {
                (Unit::Switch, _) => {
                    let word = if self.flag(table, key, false) {
                        "on"
                    } else {
                        "off"
                    };
                    Some(Value::Text(word.to_owned()))
                }
                (_, Some(words)) => {
                    let choices: Vec<(&str, &str)> = words.iter().map(|w| (*w, *w)).collect();
                    let word = self.choice(table, key, &choices);
                    word.map(|w| Value::Text(w.to_owned()))
                }
                _ => self.property(table, key, property).map(Value::Number),
            };
            said.extend(value.map(|value| (property, value)));
        }
        Window { said }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_set_is_what_the_setup_says() {
        let doc = SetupDoc::parse("s", b"[palettes.a]\n").unwrap();
        let text = |t: &str| Value::Text(t.to_owned());
        for (property, value) in [
            (Property::FontFamily, text("Reedbed Mono NF")),
            (Property::FontSize, Value::Number(12.5)),
            (Property::FontBold, text("Reedbed Mono NF Bold")),
            (Property::FontFeatures, text("ss01 -calt")),
            (Property::FontLigatures, text("off")),
            (Property::FontLineHeight, Value::Number(1.2)),
            (Property::FontFallback, text("Sedge Mono NF, Cordgrass NF")),
            (Property::Symbols, text("plain")),
            (Property::WindowOpacity, Value::Number(0.9)),
            (Property::WindowPadding, Value::Number(6.0)),
            (Property::WindowBlur, text("on")),
            (Property::WindowDecorations, text("none")),
            (Property::Cursor, text("bar")),
            (Property::CursorBlink, text("off")),
            (Property::Scrollback, Value::Number(20_000.0)),
        ] {
            let set = property.set(&doc, &value).unwrap();
            let said = property.of(set.setup()).unwrap();
            assert!(
                property.agrees(&said, &value, SymbolLevel::Plain),
                "{property:?}: {said:?}"
            );
            assert_eq!(Property::from_key(property.key()), Some(property));
        }
        for (property, value) in [
            (Property::FontSize, Value::Number(0.0)),
            (Property::FontSize, text("large")),
            (Property::FontFamily, Value::Number(1.0)),
            (Property::Theme, text("other")),
            (Property::Cursor, text("round")),
            (Property::CursorBlink, text("yes")),
            (Property::Scrollback, Value::Number(-1.0)),
        ] {
            assert!(property.set(&doc, &value).is_err(), "{property:?}");
        }
    }
}
