//! Values and palettes from elsewhere that a setup takes over.

use super::{EditError, Expr, PaletteName, SetupDoc};
use crate::property::Property;
use crate::reading::Value;
use crate::role::{RoleId, Slot};

impl SetupDoc {
    /// The setup with a role taking over a value found in a tool.
    ///
    /// # Errors
    /// When it cannot hold the value, or the role has none.
    pub fn adopting(&self, role: &RoleId, value: &Value) -> Result<Self, EditError> {
        let active = self.setup().active.clone();
        match (value, Slot::from_key(role.as_str())) {
            (Value::Color(color), Some(slot)) => self.with_slot(&active, slot, *color),
            (Value::Slot(from), Some(slot)) => {
                self.with_slot(&active, slot, self.setup().palette().slot(*from))
            }
            (Value::Color(color), None) => self.with_role(role, &Expr::Value(*color)),
            (Value::Slot(slot), None) => self.with_role(role, &Expr::Ref(slot.key().to_owned())),
            (Value::Default, _) => {
                let slot = if role.is_ground() {
                    Slot::Background
                } else {
                    Slot::Foreground
                };
                self.with_role(role, &Expr::Ref(slot.key().to_owned()))
            }
            (value, _) => match Property::from_key(role.as_str()) {
                Some(property) => property.set(self, value),
                None => Err(EditError::Missing(role.to_string())),
            },
        }
    }

    /// A palette's name that is not taken: the wanted one, or with a number behind.
    #[must_use]
    pub fn free_palette_name(&self, wanted: &str) -> PaletteName {
        let plain: String = wanted
            .trim()
            .chars()
            .map(|c| if c.is_control() || c == '.' { '-' } else { c })
            .take(60)
            .collect();
        let plain = if plain.is_empty() {
            "palette".to_owned()
        } else {
            plain
        };
        let taken = |n: &PaletteName| self.setup().palette_named(n).is_some();
        let plain = PaletteName::from(plain);
        if !taken(&plain) {
            return plain;
        }
        let numbered = (2..).map(|i| PaletteName::from(format!("{plain} {i}")));
        numbered.into_iter().find(|n| !taken(n)).unwrap_or(plain)
    }

    /// The setup with a palette added and in use, its roles' own colors made named ones first, so that
    /// every palette has its own.
    ///
    /// # Errors
    /// When the palette cannot be written.
    pub fn with_palette_in_use(&self, palette: &super::Palette) -> Result<Self, EditError> {
        let named = self.with_role_colors_named()?;
        named
            .with_palette(palette)?
            .with_text(&["palette"], &palette.name)
    }
}
