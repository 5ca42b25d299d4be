//! A setup resolved for one palette: every role with the color it comes to.

use std::borrow::Cow;
use std::cell::RefCell;

use foldhash::{HashMap, HashMapExt};

use crate::color::{Rgb, mix};
use crate::limits;
use crate::role::{Known, ROLES, RoleId, Slot, lookup};
use crate::setup::{Attrs, Expr, Palette, Setup};

/// Every role's color under one palette.
#[derive(Debug, Clone, PartialEq)]
pub struct Look {
    roles: HashMap<RoleId, Resolved>,
    /// The slots' colors, in the order of [`Slot::ALL`].
    pub slots: Slots,
    /// Whether the ground is dark.
    pub dark: bool,
}

/// What a role comes to.
#[derive(Debug, Clone, PartialEq)]
struct Resolved {
    color: Rgb,
    /// The slot that it simply repeats.
    repeats: Option<Slot>,
    attrs: Attrs,
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
        let known = ROLES.iter().map(|k| RoleId::known(k.id));
        let said = setup.roles.keys().filter(|r| lookup(r).is_none());
        let resolved = |role: RoleId| {
            let style = setup.roles.get(&role);
            let resolved = Resolved {
                color: resolver.color(&role),
                repeats: match resolver.origin(&role) {
                    Origin::Slot(slot) => Some(slot),
                    _ => None,
                },
                attrs: style.map(|s| s.attrs).unwrap_or_default(),
            };
            (role, resolved)
        };
        Self {
            roles: known.chain(said.cloned()).map(resolved).collect(),
            slots: Slots(Slot::ALL.map(|s| palette.slot(s))),
            dark,
        }
    }

    /// A role's color. A role nobody has heard of is text, or ground if its name ends so.
    #[must_use]
    pub fn color(&self, role: &RoleId) -> Rgb {
        let fallback = || match role.is_ground() {
            true => self.slot(Slot::Background),
            false => self.slot(Slot::Foreground),
        };
        let known = self.roles.get(role);
        known.map_or_else(fallback, |resolved| resolved.color)
    }

    /// A slot's color.
    #[must_use]
    pub fn slot(&self, slot: Slot) -> Rgb {
        self.slots.get(slot)
    }

    /// The slot a role simply repeats, if it does.
    #[must_use]
    pub fn slot_of(&self, role: &RoleId) -> Option<Slot> {
        self.roles.get(role)?.repeats
    }

    /// A role's attributes.
    #[must_use]
    pub fn attrs(&self, role: &RoleId) -> Attrs {
        self.roles.get(role).map(|r| r.attrs).unwrap_or_default()
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
    let mut current = Cow::Borrowed(role);
    for _ in 0..limits::MIX_DEPTH {
        if let Some(slot) = Slot::from_key(current.as_str()) {
            return Origin::Slot(slot);
        }
        if is_named(current.as_str()) {
            return Origin::Named(current.as_str().to_owned());
        }
        let said = setup.roles.get(&*current).and_then(|s| s.color.as_ref());
        let next = match (said, lookup(&current).map(Known::by_default)) {
            (Some(Expr::Ref(name)), _) => RoleId::new(name),
            (None, Some((name, None))) => RoleId::known(name),
            _ => break,
        };
        current = Cow::Owned(next);
    }
    Origin::Role(current.into_owned())
}

/// What roles come to under a palette, each when it is asked for.
pub(crate) struct Resolver<'a> {
    setup: &'a Setup,
    palette: &'a Palette,
    named: HashMap<&'a str, Rgb>,
    /// What a role came to at each depth: mixes of mixes would be worked out again and again.
    known: RefCell<Vec<HashMap<RoleId, Rgb>>>,
}

impl<'a> Resolver<'a> {
    pub(crate) fn new(setup: &'a Setup, palette: &'a Palette) -> Self {
        // Of colors with one name the first counts.
        let named = palette.colors.iter().rev();
        Self {
            setup,
            palette,
            named: named.map(|(n, c)| (n.as_str(), *c)).collect(),
            known: RefCell::new(vec![HashMap::new(); usize::from(limits::MIX_DEPTH) + 1]),
        }
    }

    /// A role's color.
    pub(crate) fn color(&self, role: &RoleId) -> Rgb {
        self.role(role, 0)
    }

    fn origin(&self, role: &RoleId) -> Origin {
        follow(self.setup, role, |name| self.named.contains_key(name))
    }

    fn role(&self, role: &RoleId, depth: u8) -> Rgb {
        if let Some(slot) = Slot::from_key(role.as_str()) {
            return self.palette.slot(slot);
        }
        if let Some(color) = self.named.get(role.as_str()) {
            return *color;
        }
        let at = usize::from(depth);
        if let Some(color) = self.known.borrow()[at].get(role) {
            return *color;
        }
        let said = self.setup.roles.get(role).and_then(|s| s.color.as_ref());
        let inner = |name| self.role(&RoleId::known(name), depth + 1);
        let color = match (said, lookup(role).map(Known::by_default)) {
            (Some(expr), _) if depth < limits::MIX_DEPTH => self.expr(expr, depth + 1),
            (None, Some((one, other))) if depth < limits::MIX_DEPTH => match other {
                Some((other, amount)) => mix(inner(one), inner(other), amount),
                None => inner(one),
            },
            _ if role.is_ground() => self.palette.slot(Slot::Background),
            _ => self.palette.slot(Slot::Foreground),
        };
        self.known.borrow_mut()[at].insert(role.clone(), color);
        color
    }

    fn expr(&self, expr: &Expr, depth: u8) -> Rgb {
        match expr {
            Expr::Value(color) => *color,
            Expr::Ref(name) => self.role(&RoleId::new(name), depth),
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
