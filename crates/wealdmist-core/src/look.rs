//! A setup resolved for one palette: every role with the color it comes to.

use std::cell::RefCell;
use std::collections::HashMap;

use crate::color::{Rgb, mix};
use crate::limits;
use crate::role::{ROLES, RoleId, Slot, lookup};
use crate::setup::{Attrs, Expr, Palette, Setup};

/// Every role's color under one palette.
#[derive(Debug, Clone, PartialEq)]
pub struct Look {
    colors: HashMap<RoleId, Rgb>,
    repeats: HashMap<RoleId, Slot>,
    attrs: HashMap<RoleId, Attrs>,
    /// The slots' colors, in the order of [`Slot::ALL`].
    pub slots: Slots,
    /// Whether the ground is dark.
    pub dark: bool,
}

/// The colors of all slots.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Slots(pub [Rgb; 22]);

impl Slots {
    /// A slot's color.
    #[must_use]
    pub fn get(&self, slot: Slot) -> Rgb {
        self.0[slot as usize]
    }

    /// The 16 ANSI colors in the order of their indices.
    #[must_use]
    pub fn ansi(&self) -> [Rgb; 16] {
        std::array::from_fn(|i| self.0[Slot::Black as usize + i])
    }
}

/// Where a role's color is really set, so that changing it there changes the role.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Origin {
    /// A slot of the palette.
    Slot(Slot),
    /// A named color of the palette.
    Named(String),
    /// The role itself: a value or a mix.
    Role(RoleId),
}

/// The name by which the color is set.
impl std::fmt::Display for Origin {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Slot(slot) => f.write_str(slot.key()),
            Self::Named(name) => f.write_str(name),
            Self::Role(role) => role.fmt(f),
        }
    }
}

impl Look {
    /// Resolves a setup under the palette in use.
    #[must_use]
    pub fn new(setup: &Setup) -> Self {
        Self::with_palette(setup, setup.palette())
    }

    /// Resolves a setup under a given palette.
    #[must_use]
    pub fn with_palette(setup: &Setup, palette: &Palette) -> Self {
        let resolver = Resolver::new(setup, palette);
        let dark = crate::color::Oklch::from(palette.slot(Slot::Background)).l < 0.6;
        let mut look = Self {
            colors: HashMap::new(),
            repeats: HashMap::new(),
            attrs: HashMap::new(),
            slots: Slots(Slot::ALL.map(|s| palette.slot(s))),
            dark,
        };
        let known = ROLES.iter().map(|k| RoleId::known(k.id));
        for role in known.chain(setup.roles.keys().cloned()) {
            look.colors.insert(role.clone(), resolver.color(&role));
            if let Origin::Slot(slot) = resolver.origin(&role) {
                look.repeats.insert(role.clone(), slot);
            }
            if let Some(style) = setup.roles.get(&role) {
                look.attrs.insert(role, style.attrs);
            }
        }
        look
    }

    /// A role's color. A role nobody has heard of is text, or ground if its name ends so.
    #[must_use]
    pub fn color(&self, role: &RoleId) -> Rgb {
        self.colors.get(role).copied().unwrap_or_else(|| {
            let fallback = if role.is_ground() {
                Slot::Background
            } else {
                Slot::Foreground
            };
            self.colors[&RoleId::from(fallback)]
        })
    }

    /// A slot's color.
    #[must_use]
    pub fn slot(&self, slot: Slot) -> Rgb {
        self.slots.get(slot)
    }

    /// The slot a role simply repeats, if it does.
    #[must_use]
    pub fn slot_of(&self, role: &RoleId) -> Option<Slot> {
        self.repeats.get(role).copied()
    }

    /// A role's attributes.
    #[must_use]
    pub fn attrs(&self, role: &RoleId) -> Attrs {
        self.attrs.get(role).copied().unwrap_or_default()
    }
}

/// What the setup, or else the default, says a role's color is.
#[must_use]
pub fn expr_of(setup: &Setup, role: &RoleId) -> Option<Expr> {
    if Slot::from_key(role.as_str()).is_some() {
        return None;
    }
    let said = setup.roles.get(role).and_then(|s| s.color.clone());
    said.or_else(|| lookup(role).map(Expr::default_of))
}

/// Follows a role to the place where its color is set.
#[must_use]
pub fn origin(setup: &Setup, palette: &Palette, role: &RoleId) -> Origin {
    follow(setup, role, |name| {
        palette.colors.iter().any(|c| c.0 == name)
    })
}

fn follow(setup: &Setup, role: &RoleId, is_named: impl Fn(&str) -> bool) -> Origin {
    let mut current = role.clone();
    for _ in 0..limits::MIX_DEPTH {
        if let Some(slot) = Slot::from_key(current.as_str()) {
            return Origin::Slot(slot);
        }
        if is_named(current.as_str()) {
            return Origin::Named(current.as_str().to_owned());
        }
        match expr_of(setup, &current) {
            Some(Expr::Ref(name)) => current = RoleId::new(name),
            _ => break,
        }
    }
    Origin::Role(current)
}

/// What roles come to under a palette, each when it is asked for.
pub(crate) struct Resolver<'a> {
    setup: &'a Setup,
    palette: &'a Palette,
    named: HashMap<&'a str, Rgb>,
    /// What a role came to at a depth: mixes of mixes would be worked out again and again.
    known: RefCell<HashMap<(RoleId, u8), Rgb>>,
}

impl<'a> Resolver<'a> {
    pub(crate) fn new(setup: &'a Setup, palette: &'a Palette) -> Self {
        // Of colors with one name the first counts.
        let named = palette.colors.iter().rev();
        Self {
            setup,
            palette,
            named: named.map(|(n, c)| (n.as_str(), *c)).collect(),
            known: RefCell::default(),
        }
    }

    /// A role's color.
    pub(crate) fn color(&self, role: &RoleId) -> Rgb {
        self.name(role.as_str(), 0)
    }

    fn origin(&self, role: &RoleId) -> Origin {
        follow(self.setup, role, |name| self.named.contains_key(name))
    }

    fn name(&self, name: &str, depth: u8) -> Rgb {
        if let Some(slot) = Slot::from_key(name) {
            return self.palette.slot(slot);
        }
        if let Some(color) = self.named.get(name) {
            return *color;
        }
        let key = (RoleId::new(name), depth);
        if let Some(color) = self.known.borrow().get(&key) {
            return *color;
        }
        let color = match expr_of(self.setup, &key.0) {
            Some(expr) if depth < limits::MIX_DEPTH => self.expr(&expr, depth + 1),
            _ if key.0.is_ground() => self.palette.slot(Slot::Background),
            _ => self.palette.slot(Slot::Foreground),
        };
        self.known.borrow_mut().insert(key, color);
        color
    }

    fn expr(&self, expr: &Expr, depth: u8) -> Rgb {
        match expr {
            Expr::Value(color) => *color,
            Expr::Ref(name) => self.name(name, depth),
            Expr::Mix(a, b, amount) => mix(self.expr(a, depth), self.expr(b, depth), *amount),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::setup::SetupDoc;

    fn look(text: &str) -> (Setup, Look) {
        let setup = SetupDoc::parse("s", text.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        (setup, look)
    }

    const TEXT: &str = "[palettes.a]\nforeground='#ffffff'\nbackground='#000000'\nred='#aa0000'\n[palettes.a.colors]\nreed='#123456'\n[roles]\nerror='reed'\n'border.active'='error'\nhint={mix=['background','foreground',1.0], bold=true}\n";

    #[test]
    fn references_are_followed() {
        let (setup, look) = look(TEXT);
        let reed = Rgb::from_u32(0x12_3456);
        assert_eq!(look.color(&RoleId::known("border.active")), reed);
        assert_eq!(look.color(&RoleId::known("hint")), Rgb::new(255, 255, 255));
        assert!(look.attrs(&RoleId::known("hint")).bold);
        assert_eq!(
            origin(&setup, setup.palette(), &RoleId::known("border.active")),
            Origin::Named("reed".into())
        );
        assert_eq!(
            look.slot_of(&RoleId::known("prompt.failure")),
            Some(Slot::Red)
        );
    }

    #[test]
    fn every_known_role_has_a_color_and_unknown_ones_too() {
        let (_, look) = look("[palettes.a]\n");
        assert!(look.dark);
        assert_eq!(
            look.color(&RoleId::new("x.ground")),
            look.slot(Slot::Background)
        );
        assert_eq!(
            look.color(&RoleId::new("x.text")),
            look.slot(Slot::Foreground)
        );
    }

    #[test]
    fn mixes_of_mixes_are_worked_out_once() {
        let mut text = "[palettes.a]\n[roles]\nr0='red'\n".to_owned();
        for i in 1..60 {
            text.push_str(&format!("r{i}={{mix=['r{0}','r{0}',0.5]}}\n", i - 1));
        }
        let begin = std::time::Instant::now();
        let (_, look) = look(&text);
        assert_eq!(look.color(&RoleId::new("r20")), look.slot(Slot::Red));
        assert!(begin.elapsed() < std::time::Duration::from_secs(5));
    }

    #[test]
    fn the_palette_we_fall_back_to_can_be_read() {
        for variant in ["dark", "light"] {
            let (_, look) = look(&format!("[palettes.a]\nvariant='{variant}'\n"));
            for known in ROLES {
                let on = look.color(&RoleId::known(known.on));
                let ratio = crate::color::contrast_ratio(look.color(&RoleId::known(known.id)), on);
                assert!(
                    ratio >= known.usage.target(),
                    "{variant} {}: {ratio:.2}",
                    known.id
                );
            }
        }
    }
}
