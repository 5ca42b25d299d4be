//! What the setup says of properties, and the edits that change it.

use std::collections::{BTreeMap, BTreeSet};

use toml_edit::TableLike;

use super::edit::EditError;
use super::read::{Reader, span};
use super::{Setup, SetupDoc, SymbolLevel, Window};
use crate::property::{NO_FILE, OUR_THEME, Property, Sides, Unit};
use crate::reading::Value;

impl Property {
    /// What a setup says of it; `None` where it says nothing, and for what it has no word for.
    #[must_use]
    pub fn of(self, setup: &Setup) -> Option<Value> {
        let font = &setup.font;
        let word = Value::switch;
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
            Self::FontColumnWidth => font.column_width.map(Value::Number),
            Self::FontOwnLines => font.own_lines.map(word),
            Self::Symbols => Some(Value::Text(setup.symbols.key().to_owned())),
            // With one side there is nothing to follow to.
            Self::Follow => {
                let follow = setup.appearance.follow?;
                Some(word(follow && setup.sides().is_some()))
            }
            Self::Depth => Some(Value::Text("24-bit".to_owned())),
            // Where no tool takes what is generated, each has its own.
            Self::Theme => {
                let any = setup.tools.values().any(|t| t.generate);
                any.then(|| Value::Text(OUR_THEME.to_owned()))
            }
            // A size that is asked for is not that of the last window.
            Self::WindowRemembered if !setup.window.said.contains_key(&self) => {
                let size = [Self::WindowColumns, Self::WindowRows];
                let asked = size.iter().any(|p| setup.window.said.contains_key(p));
                asked.then(|| word(false))
            }
            // What the setup has no word for is left as each tool has it.
            _ => setup.window.said.get(&self).cloned(),
        }
    }

    /// Whether a tool's value says what the setup's does. `level` is the highest symbol level the
    /// tool may use.
    #[must_use]
    pub fn agrees(self, found: &Value, wanted: &Value, level: SymbolLevel) -> bool {
        match (found, wanted) {
            _ if self.unit() == Unit::Sides => {
                let said = match found {
                    Value::Number(n) => Sides::even(*n).to_string(),
                    Value::Text(text) => text.clone(),
                    _ => return false,
                };
                Sides::of(wanted).is_some_and(|sides| sides.agrees(&said))
            }
            (Value::Number(a), Value::Number(b)) if self.unit().is_whole() => (a - b).abs() < 0.5,
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

    /// The value that a typed text says.
    ///
    /// # Errors
    /// When it is none, with what one would be.
    pub fn typed(self, text: &str) -> Result<Value, String> {
        let text = text.trim();
        let key = self.key();
        if let Some(words) = self.words() {
            let word = match (self.unit(), text) {
                (Unit::Switch, "true" | "yes") => "on",
                (Unit::Switch, "false" | "no") => "off",
                (_, word) => word,
            };
            return match words.contains(&word) {
                true => Ok(Value::Text(word.to_owned())),
                false => Err(format!(
                    "{key} is one of {}, not '{text}'",
                    words.join(", ")
                )),
            };
        }
        let Some((least, most)) = self.range() else {
            return Ok(Value::Text(text.to_owned()));
        };
        let within = |n: &f64| (least..=most).contains(n);
        let numbers = text.split(|c: char| c == ',' || c.is_whitespace());
        let numbers = numbers.filter(|n| !n.is_empty());
        let numbers: Option<Vec<f64>> = numbers.map(|n| n.parse().ok()).collect();
        let numbers = numbers.ok_or_else(|| format!("'{text}' is not a number"))?;
        if !numbers.iter().all(within) {
            return Err(format!("{key} is {least} to {most}, not {text}"));
        }
        match (self.unit(), &numbers[..]) {
            (Unit::Sides, all) => match Sides::new(all) {
                Some(sides) => Ok(sides.value()),
                None => Err(format!(
                    "{key} is one number, or two to four: top, right, bottom, left"
                )),
            },
            (unit, [n]) if unit.is_whole() => Ok(Value::Number(n.round())),
            (_, [n]) => Ok(Value::Number(*n)),
            _ => Err(format!("{key} is one number, not '{text}'")),
        }
    }

    /// The setup that says nothing of it.
    ///
    /// # Errors
    /// When the file cannot do without it.
    pub fn unset(self, doc: &SetupDoc) -> Result<SetupDoc, EditError> {
        match self.key().split_once('.') {
            Some((table, key)) => doc.without(&[table, key]),
            None => Err(EditError::Missing(self.key().to_owned())),
        }
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
            (_, Value::Text(word)) if self.words().is_some_and(|all| !all.contains(&&**word)) => {
                Err(missing())
            }
            (_, value) if self.unit() == Unit::Sides => match Sides::of(value) {
                Some(sides) => doc.with_value(&path, &sides.literal()),
                None => Err(missing()),
            },
            (_, Value::Number(n)) if self.unit().is_whole() => doc.with_whole(&path, *n),
            (_, Value::Number(n)) if self.range().is_some() => doc.with_number(&path, *n),
            (_, Value::Text(text)) if self.range().is_none() => doc.with_text(&path, text),
            _ => Err(missing()),
        }
    }
}

impl Reader {
    /// One number, or a list of one for each side.
    fn sides(&mut self, table: &dyn TableLike, key: &str, property: Property) -> Option<Sides> {
        let item = table.get(key)?;
        let Some(list) = item.as_array() else {
            return self.property(table, key, property).map(Sides::even);
        };
        let one = |v: &toml_edit::Value| v.as_float().or_else(|| v.as_integer().map(|i| i as f64));
        let within = |n: &f64| property.range().is_some_and(|(a, b)| (a..=b).contains(n));
        let numbers: Option<Vec<f64>> = list.iter().map(|v| one(v).filter(within)).collect();
        let sides = numbers.and_then(|all| Sides::new(&all));
        if sides.is_none() {
            self.error(
                span(item),
                format!("'{key}' says no sides of a window"),
                "give one number in points, [down, across] or [top, right, bottom, left]",
            );
        }
        sides
    }

    /// The path of a file, from `/` or `~/` on.
    fn path(&mut self, table: &dyn TableLike, key: &str) -> Option<String> {
        let path = self.name(table, key)?;
        let whole =
            path == NO_FILE || path.starts_with('/') || path.starts_with("~/") || path == "~";
        if !whole {
            let at = table.get(key).map_or(0..0, span);
            self.error(
                at,
                format!("'{path}' is no whole path"),
                "write it from / or ~/ on",
            );
        }
        whole.then_some(path)
    }

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
                (Unit::Sides, _) => self.sides(table, key, property).map(|s| s.value()),
                (Unit::Name, _) => self.name(table, key).map(Value::Text),
                (Unit::Path, _) => self.path(table, key).map(Value::Text),
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
            (Property::FontOwnLines, text("off")),
            (Property::FontFallback, text("Sedge Mono NF, Cordgrass NF")),
            (Property::Symbols, text("plain")),
            (Property::Follow, text("off")),
            (Property::WindowOpacity, Value::Number(0.9)),
            (Property::WindowPadding, Value::Number(6.0)),
            (Property::WindowPadding, text("6 8")),
            (Property::WindowPadding, text("1 2 3 4.5")),
            (Property::WindowColumns, Value::Number(100.0)),
            (Property::WindowRemembered, text("off")),
            (Property::Image, text("~/pictures/reeds.png")),
            (Property::ImageFit, text("cover")),
            (Property::ImagePlace, text("top-left")),
            (Property::Title, text("The \"marsh\"")),
            (Property::TitleSet, text("off")),
            (Property::ImageTint, Value::Number(0.9)),
            (Property::CursorUnfocused, text("hollow")),
            (Property::CursorRate, Value::Number(500.0)),
            (Property::TabPlace, text("bottom")),
            (Property::BellSound, text("off")),
            (Property::WindowDimmed, Value::Number(0.7)),
            (Property::FontColumnWidth, Value::Number(1.05)),
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
            (Property::WindowPadding, text("left 6")),
            (Property::WindowShell, text("/bin/sh")),
            (Property::Image, text("reeds.png")),
        ] {
            assert!(property.set(&doc, &value).is_err(), "{property:?}");
        }
    }

    #[test]
    fn what_is_typed_is_a_value_or_told_what_one_would_be() {
        let text = |t: &str| Ok(Value::Text(t.to_owned()));
        for (property, typed, value) in [
            (Property::WindowPadding, "6", Ok(Value::Number(6.0))),
            (Property::WindowPadding, " 6, 8 ", text("6 8")),
            (Property::WindowPadding, "6 6 6 6", Ok(Value::Number(6.0))),
            (Property::CursorBlink, "yes", text("on")),
            (Property::Scrollback, "99.6", Ok(Value::Number(100.0))),
            (Property::WindowFolder, "~/work", text("~/work")),
        ] {
            assert_eq!(property.typed(typed), value, "{typed}");
        }
        for (property, typed, why) in [
            (
                Property::WindowPadding,
                "1 2 3 4 5",
                "top, right, bottom, left",
            ),
            (Property::WindowPadding, "wide", "'wide' is not a number"),
            (
                Property::WindowOpacity,
                "85",
                "window.opacity is 0 to 1, not 85",
            ),
            (Property::WindowOpacity, "", "one number"),
            (Property::Cursor, "round", "block, bar, underline"),
        ] {
            let said = property.typed(typed).unwrap_err();
            assert!(said.contains(why), "{said}");
        }
    }
}
