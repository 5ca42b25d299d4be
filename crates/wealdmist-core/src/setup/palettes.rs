//! Reading `[palettes.NAME]` and `[appearance]`: the colors, which of them are locked, and which
//! palettes are the two sides of one look.

use std::collections::BTreeMap;

use toml_edit::{Item, TableLike};

use super::read::{Reader, span};
use super::{Appearance, Palette, PaletteName, Variant};
use crate::color::Rgb;
use crate::role::{RoleId, Slot, lookup};

impl Reader {
    fn color(&mut self, key: &str, item: &Item) -> Option<Rgb> {
        let color = item.as_str().and_then(Rgb::from_hex);
        if color.is_none() {
            let shown = item
                .as_str()
                .map_or_else(|| "this".to_owned(), |s| format!("'{s}'"));
            self.error(
                span(item),
                format!("{shown} is not a color for '{key}'"),
                "write \"#rrggbb\"",
            );
        }
        color
    }

    pub(super) fn palettes(&mut self, root: &dyn TableLike) -> Vec<Palette> {
        let Some(tables) = self.table(root, "palettes") else {
            return Vec::new();
        };
        let mut out = Vec::new();
        for (name, item) in tables.iter() {
            let Some(table) = item.as_table_like() else {
                self.error(
                    span(item),
                    format!("the palette '{name}' has to be a table"),
                    format!("write [palettes.{name}]"),
                );
                continue;
            };
            let variant = self
                .choice(
                    table,
                    "variant",
                    &[("dark", Variant::Dark), ("light", Variant::Light)],
                )
                .unwrap_or(Variant::Dark);
            let mut palette = Palette {
                name: name.into(),
                variant,
                slots: BTreeMap::new(),
                colors: Vec::new(),
                locked: Vec::new(),
            };
            let slot_names: Vec<&str> = Slot::ALL
                .iter()
                .map(|s| s.key())
                .chain(["variant", "colors", "locked"])
                .collect();
            self.unknown(table, &format!("palette '{name}'"), &slot_names);
            for (key, item) in table.iter() {
                if let Some(slot) = Slot::from_key(key)
                    && let Some(color) = self.color(key, item)
                {
                    palette.slots.insert(slot, color);
                }
            }
            if let Some(colors) = self.table(table, "colors") {
                for (key, item) in colors.iter() {
                    if Slot::from_key(key).is_some() || lookup(&RoleId::new(key)).is_some() {
                        self.error(
                            span(item),
                            format!("'{key}' is the name of a slot or role"),
                            "give the color a name of its own",
                        );
                    } else if let Some(color) = self.color(key, item) {
                        palette.colors.push((key.to_owned(), color));
                    }
                }
            }
            self.locked(table, &mut palette);
            out.push(palette);
        }
        out
    }

    /// Reads which colors of a palette repairs must not move.
    fn locked(&mut self, table: &dyn TableLike, palette: &mut Palette) {
        let Some(item) = table.get("locked") else {
            return;
        };
        let Some(names) = item.as_array() else {
            let help = "write locked = [\"background\"]";
            self.error(span(item), "'locked' has to be a list of names", help);
            return;
        };
        for value in names {
            match value.as_str() {
                Some(name) => palette.locked.push(name.to_owned()),
                None => {
                    let at = value.span().unwrap_or(0..0);
                    self.error(at, "this is no name", "put it in double quotes");
                }
            }
        }
    }

    /// Reads `[appearance]`: which palette is for a dark and which for a light desktop.
    pub(super) fn appearance(&mut self, root: &dyn TableLike, palettes: &[Palette]) -> Appearance {
        let first = |variant: Variant| {
            let found = palettes.iter().find(|p| p.variant == variant);
            found.map(|p| p.name.clone())
        };
        let mut out = Appearance {
            dark: first(Variant::Dark),
            light: first(Variant::Light),
            follow: None,
        };
        let Some(table) = self.table(root, "appearance") else {
            return out;
        };
        self.unknown(table, "[appearance]", &["dark", "light", "follow"]);
        if table.contains_key("follow") {
            out.follow = Some(self.flag(table, "follow", false));
        }
        for (key, variant) in [("dark", Variant::Dark), ("light", Variant::Light)] {
            let Some(name) = self.string(table, key).map(PaletteName::from) else {
                continue;
            };
            let at = table.get(key).map_or(0..0, span);
            match palettes.iter().find(|p| p.name == name) {
                None => self.error(
                    at,
                    format!("there is no palette '{name}'"),
                    "name one of the tables [palettes.NAME]",
                ),
                Some(p) if p.variant != variant => self.error(
                    at,
                    format!("the palette '{name}' is {}", p.variant.key()),
                    format!("name a {key} one, or write variant = \"{key}\" in it"),
                ),
                Some(_) if variant == Variant::Dark => out.dark = Some(name),
                Some(_) => out.light = Some(name),
            }
        }
        out
    }
}
