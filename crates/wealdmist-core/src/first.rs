//! The first setup, made from what a person's dotfiles already say, so that nothing is typed.

use std::collections::{BTreeMap, HashMap};
use std::fmt::Write as _;

use crate::character::{SymbolLevel, is_treacherous, level};
use crate::color::{Oklch, Rgb};
use crate::look::{Look, Resolver};
use crate::prompt::Design;
use crate::property::{Property, Sides};
use crate::quote::Name;
use crate::reading::{Reading, Standing, ToolReport, Value};
use crate::role::{ROLES, RoleId, Slot};
use crate::setup::{
    Appearance, Attrs, Contrast, Expr, FontChoice, Palette, Setup, Style, Variant, Window, literal,
};

/// Builds the text of a first `setup.toml`: the terminal's colors become the palette, the other
/// tools' values become roles. `reports` come terminal first; where tools disagree, the value
/// most of them share wins, then the earlier tool, and the others show up as drift.
#[must_use]
pub fn first_setup(name: &str, palette_name: Option<&str>, reports: &[ToolReport]) -> String {
    let mut slots = BTreeMap::new();
    for slot in Slot::ALL {
        if let Some(Value::Color(color)) = agreed(reports, &slot.into())
            && !are_torn(reports, &slot.into())
        {
            slots.insert(slot, color);
        }
    }
    let ground = slots.get(&Slot::Background).copied();
    let light = ground.is_some_and(|c| Oklch::from(c).l >= 0.6);
    let variant = if light { Variant::Light } else { Variant::Dark };
    let palette_name = palette_name.filter(|n| Name::new(n).is_ok());
    let palette_name = palette_name.unwrap_or(variant.key());
    let mut palette = Palette {
        name: palette_name.into(),
        variant,
        slots,
        colors: Vec::new(),
        locked: Vec::new(),
    };
    let mut roles = roles(reports, &mut palette);
    take_attributes(reports, &mut roles);
    render(name, &palette, &roles, reports)
}

/// The value of a role that most tools share; the earliest wins a tie. What a person wrote counts
/// before what a program does by itself.
fn agreed(reports: &[ToolReport], role: &RoleId) -> Option<Value> {
    let effective = || reports.iter().filter_map(|r| r.effective(role));
    let written: Vec<&Value> = effective()
        .filter(|r| r.standing == Standing::Certain)
        .map(|r| &r.value)
        .collect();
    match written.is_empty() {
        false => most_shared(&written),
        true => {
            let default = effective().filter(|r| r.is_default());
            most_shared(&default.map(|r| &r.value).collect::<Vec<_>>())
        }
    }
}

/// Whether no dotfile says a color, and what the tools do by themselves differs: no value is everybody's.
fn are_torn(reports: &[ToolReport], role: &RoleId) -> bool {
    let all: Vec<_> = reports.iter().filter_map(|r| r.effective(role)).collect();
    all.iter().all(|r| r.is_default()) && all.iter().any(|r| r.value != all[0].value)
}

fn most_shared(values: &[&Value]) -> Option<Value> {
    let count = |v: &Value| values.iter().filter(|o| **o == v).count();
    let best = values.iter().map(|v| count(v)).max()?;
    values
        .iter()
        .find(|v| count(v) == best)
        .map(|v| (*v).clone())
}

/// Whether a reading is taken into the setup: what a dotfile says for sure.
fn counts(reading: &Reading) -> bool {
    reading.effective && reading.standing == Standing::Certain
}

/// Takes the attributes that editors' files give the text of a role.
fn take_attributes(reports: &[ToolReport], roles: &mut BTreeMap<RoleId, Style>) {
    for report in reports {
        let written = report.attributes.iter().filter(|a| a.place.is_some());
        for attributes in written {
            let attrs = attributes.attrs();
            // A slot is the terminal's, which knows no attributes.
            let role = attributes.role.clone();
            let Some(role) = role.filter(|r| Slot::from_key(r.as_str()).is_none()) else {
                continue;
            };
            // Of several groups of a role the one counts that its color is read from.
            let other = |r: &Reading| r.key != attributes.key;
            if attrs == Attrs::default() || report.effective(&role).is_some_and(other) {
                continue;
            }
            let style = roles.entry(role).or_insert(Style { color: None, attrs });
            style.attrs = attrs;
        }
    }
}

fn roles(reports: &[ToolReport], palette: &mut Palette) -> BTreeMap<RoleId, Style> {
    let mut found: BTreeMap<RoleId, Value> = BTreeMap::new();
    // What counts for each role in each tool: the last reading of it.
    let counting: Vec<HashMap<&RoleId, &Value>> = reports
        .iter()
        .map(|r| {
            let effective = r.readings.iter().filter(|r| counts(r));
            effective.map(|r| (&r.role, &r.value)).collect()
        })
        .collect();
    for reading in reports
        .iter()
        .flat_map(|r| &r.readings)
        .filter(|r| counts(r))
    {
        let role = &reading.role;
        let is_slot = Slot::from_key(role.as_str()).is_some();
        if !is_slot
            && !role.is_property()
            && !found.contains_key(role)
            && let Some(value) = {
                let values = counting.iter().filter_map(|c| c.get(role).copied());
                most_shared(&values.collect::<Vec<_>>())
            }
        {
            found.insert(role.clone(), value);
        }
    }
    // A color that several roles share, and no slot has, gets a name.
    let mut uses: BTreeMap<Rgb, usize> = BTreeMap::new();
    for value in found.values() {
        if let Value::Color(color) = value {
            *uses.entry(*color).or_default() += 1;
        }
    }
    let mut numbers = HashMap::new();
    for (color, count) in uses {
        if count > 1 && slot_for(palette, color, false).is_none() {
            let base = describe(color);
            let number = numbers.entry(base.clone()).or_insert(0usize);
            *number += 1;
            let name = match *number {
                1 => base,
                n => format!("{base}-{n}"),
            };
            palette.colors.push((name, color));
        }
    }
    let named: HashMap<Rgb, &str> = palette
        .colors
        .iter()
        .map(|(name, color)| (*color, name.as_str()))
        .collect();
    let mut out = BTreeMap::new();
    let borrowed = borrowed(reports);
    for (role, value) in &found {
        let (role, value) = (role.clone(), value.clone());
        let lender = lender(&borrowed, &role).filter(|l| found.get(l) == Some(&value));
        let color = match (value, lender) {
            (Value::Color(_) | Value::Slot(_), Some(lender)) => {
                Expr::Ref(lender.as_str().to_owned())
            }
            (Value::Slot(slot), _) => Expr::Ref(slot.key().to_owned()),
            (Value::Color(color), _) => {
                match (
                    slot_for(palette, color, role.is_ground()),
                    named.get(&color),
                ) {
                    (Some(slot), _) => Expr::Ref(slot.key().to_owned()),
                    (None, Some(name)) => Expr::Ref((*name).to_owned()),
                    (None, None) => Expr::Value(color),
                }
            }
            (Value::Default, _) => {
                let slot = if role.is_ground() {
                    Slot::Background
                } else {
                    Slot::Foreground
                };
                Expr::Ref(slot.key().to_owned())
            }
            (Value::Text(_) | Value::Number(_), _) => continue,
        };
        out.insert(
            role,
            Style {
                color: Some(color),
                attrs: Attrs::default(),
            },
        );
    }
    drop_what_is_default(palette, &mut out);
    out
}

/// Roles whose value is another role's, that a tool takes it from by a link: where it stands for the one
/// it also stands for the other.
fn borrowed(reports: &[ToolReport]) -> HashMap<&RoleId, &RoleId> {
    let mut out = HashMap::new();
    for report in reports {
        let place = |r: &Reading| (std::sync::Arc::clone(&r.place.path), r.place.span.start);
        let readings = || {
            let sure = |r: &&Reading| counts(r) && r.place.is_written();
            report.readings.iter().filter(sure)
        };
        let lenders: HashMap<_, &RoleId> = readings()
            .filter(|r| r.editable)
            .map(|r| (place(r), &r.role))
            .collect();
        for reading in readings().filter(|r| !r.editable) {
            if let Some(lender) = lenders.get(&place(reading))
                && **lender != reading.role
            {
                out.entry(&reading.role).or_insert(*lender);
            }
        }
    }
    out
}

/// Whose value a role's is, unless that is its own in the end.
fn lender<'a>(borrowed: &HashMap<&RoleId, &'a RoleId>, role: &RoleId) -> Option<&'a RoleId> {
    let lender = *borrowed.get(role)?;
    let mut at = lender;
    for _ in 0..borrowed.len() {
        match borrowed.get(at) {
            Some(next) if *next == role => return None,
            Some(next) => at = next,
            None => return Some(lender),
        }
    }
    None
}

/// A slot with exactly this color: for grounds the background first, else an ANSI color first.
fn slot_for(palette: &Palette, color: Rgb, ground: bool) -> Option<Slot> {
    let has = |s: &Slot| palette.slots.get(s) == Some(&color);
    let first = [Slot::Background, Slot::Selection];
    let ansi = Slot::ALL.into_iter().filter(|s| s.ansi().is_some());
    let ordered: Vec<Slot> = if ground {
        first.into_iter().chain(ansi).chain(Slot::ALL).collect()
    } else {
        std::iter::once(Slot::Foreground)
            .chain(ansi)
            .chain(Slot::ALL)
            .collect()
    };
    ordered.into_iter().find(has)
}

/// Leaves out roles whose default already comes to the same color, keeping the file short.
fn drop_what_is_default(palette: &Palette, roles: &mut BTreeMap<RoleId, Style>) {
    let known: Vec<RoleId> = ROLES.iter().map(|k| RoleId::known(k.id)).collect();
    // None of the others, of which there may be thousands, is referred to by these.
    let mut others = std::mem::take(roles);
    for role in &known {
        roles.extend(others.remove_entry(role));
    }
    let used = |name: &str| {
        roles
            .values()
            .any(|s| s.color == Some(Expr::Ref(name.to_owned())))
    };
    let palette = &Palette {
        colors: palette
            .colors
            .iter()
            .filter(|c| used(&c.0))
            .cloned()
            .collect(),
        ..palette.clone()
    };
    let mut setup = plain_setup(palette, std::mem::take(roles));
    let look = Look::with_palette(&setup, palette);
    for role in &known {
        let Some(style) = setup.roles.remove(role) else {
            continue;
        };
        let without_it = Resolver::new(&setup, palette);
        let same = |role: &RoleId| without_it.color(role) == look.color(role);
        // Its own color first, which is quickly told: most have one that differs.
        if !(same(role) && known.iter().all(same)) {
            setup.roles.insert(role.clone(), style);
        }
    }
    *roles = setup.roles;
    roles.append(&mut others);
}

fn plain_setup(palette: &Palette, roles: BTreeMap<RoleId, Style>) -> Setup {
    Setup {
        name: String::new(),
        active: palette.name.clone(),
        palettes: vec![palette.clone()],
        roles,
        font: FontChoice::default(),
        symbols: SymbolLevel::default(),
        replace: BTreeMap::new(),
        window: Window::default(),
        prompt: Design::default(),
        tools: BTreeMap::new(),
        exceptions: Vec::new(),
        contrast: Contrast::default(),
        appearance: Appearance::default(),
    }
}

/// A plain description of a color, used as its name: `dark-teal`, `pale-amber`, `mid-gray`.
fn describe(color: Rgb) -> String {
    let lch = Oklch::from(color);
    let lightness = match lch.l {
        l if l < 0.2 => "deep",
        l if l < 0.4 => "dark",
        l if l < 0.65 => "mid",
        l if l < 0.85 => "light",
        _ => "pale",
    };
    let hue = if lch.c < 0.025 {
        "gray"
    } else {
        const NAMES: [(f64, &str); 10] = [
            (15.0, "rose"),
            (45.0, "brick"),
            (80.0, "amber"),
            (112.0, "straw"),
            (135.0, "moss"),
            (165.0, "leaf"),
            (210.0, "teal"),
            (265.0, "azure"),
            (310.0, "violet"),
            (345.0, "plum"),
        ];
        NAMES
            .iter()
            .find(|(end, _)| lch.h < *end)
            .map_or("rose", |n| n.1)
    };
    format!("{lightness}-{hue}")
}

fn render(
    name: &str,
    palette: &Palette,
    roles: &BTreeMap<RoleId, Style>,
    reports: &[ToolReport],
) -> String {
    let mut out = String::new();
    let quote = |text: &str| literal::text(&text.replace(is_treacherous, "?"));
    let _ = writeln!(out, "# The look of this home, read from its dotfiles.");
    let _ = writeln!(
        out,
        "# Change it here or in the interface; `wealdmist plan` shows what would follow."
    );
    let _ = writeln!(
        out,
        "version = 1\nname = {}\npalette = {}\n",
        quote(name),
        quote(&palette.name)
    );
    let _ = writeln!(out, "[palettes.{}]", literal::key(&palette.name));
    let _ = writeln!(out, "variant = {}", quote(palette.variant.key()));
    for (slot, color) in &palette.slots {
        let role = RoleId::from(*slot);
        let says = |r: &ToolReport| r.effective(&role).is_some_and(|r| !r.is_default());
        let note = match reports.iter().any(says) {
            true => "",
            false => "  # the terminal's own, in no dotfile",
        };
        let _ = writeln!(out, "{} = {}{note}", slot.key(), quote(&color.to_string()));
    }
    let unsaid: Vec<&str> = Slot::ALL
        .into_iter()
        .filter(|slot| !palette.slots.contains_key(slot))
        .map(Slot::key)
        .collect();
    if !unsaid.is_empty() {
        let _ = writeln!(out, "# In no dotfile: {}.", unsaid.join(", "));
    }
    if !palette.colors.is_empty() {
        let _ = writeln!(out, "\n[palettes.{}.colors]", literal::key(&palette.name));
        for (name, color) in &palette.colors {
            let _ = writeln!(
                out,
                "{} = {}",
                literal::key(name),
                quote(&color.to_string())
            );
        }
    }
    let text = |id: &'static str| match agreed(reports, &RoleId::known(id)) {
        Some(Value::Text(text)) => Some(text),
        _ => None,
    };
    // A number no setup may hold is one the program does not take either.
    // What nobody wrote stays with the program.
    let written = |role: &RoleId| {
        let mut all = reports.iter().filter_map(|r| r.effective(role));
        all.any(counts).then(|| agreed(reports, role)).flatten()
    };
    let number = |property: Property| match written(&property.into()) {
        Some(Value::Number(n)) => {
            let (least, most) = property.range()?;
            (least..=most).contains(&n).then_some(n)
        }
        _ => None,
    };
    let family = text("font.family").filter(|f| f != "monospace" && Name::new(f).is_ok());
    if family.is_some() || number(Property::FontSize).is_some() {
        let _ = writeln!(out, "\n[font]");
        if let Some(family) = family {
            let _ = writeln!(out, "family = {}", quote(&family));
        }
        if let Some(size) = number(Property::FontSize) {
            let _ = writeln!(out, "size = {size:?}");
        }
    }
    let padding = written(&Property::WindowPadding.into()).and_then(|v| Sides::of(&v));
    let most = Property::WindowPadding.range().map_or(0.0, |r| r.1);
    let padding = padding.filter(|sides| sides.all.iter().all(|n| *n <= most));
    let said = [
        (
            "opacity",
            number(Property::WindowOpacity).map(|n| format!("{n:?}")),
        ),
        ("padding", padding.map(|sides| sides.literal())),
    ];
    if said.iter().any(|(_, literal)| literal.is_some()) {
        let _ = writeln!(out, "\n[window]");
        for (key, literal) in said {
            if let Some(literal) = literal {
                let _ = writeln!(out, "{key} = {literal}");
            }
        }
    }
    let level = reports
        .iter()
        .flat_map(|r| &r.glyphs)
        .filter(|g| !g.in_comment)
        .map(|g| level(g.character))
        .max()
        .unwrap_or_default();
    let level = level.max(SymbolLevel::Plain);
    let _ = writeln!(out, "\n[symbols]\nlevel = {}", quote(level.key()));
    let _ = writeln!(
        out,
        "\n[prompt]\nlines = 2\nuser = \"when-it-matters\"\ngit = true\nfolders = 3"
    );
    if !roles.is_empty() {
        let _ = writeln!(out, "\n[roles]");
        for (role, style) in roles {
            let _ = writeln!(
                out,
                "{} = {}",
                literal::key(role.as_str()),
                literal::style(style)
            );
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::reading::ToolId;
    use crate::setup::SetupDoc;

    fn report(tool: &'static str, values: &[(&'static str, u32)]) -> ToolReport {
        let mut report = ToolReport::new(ToolId(tool));
        for (role, value) in values {
            let value = Value::Color(Rgb::from_u32(*value));
            report.readings.push(Reading::of(role, value, 1));
        }
        report
    }

    #[test]
    fn the_terminal_gives_the_palette_and_the_majority_the_roles() {
        let reports = [
            report(
                "a",
                &[
                    ("background", 0x10_1010),
                    ("red", 0xcc_0000),
                    ("border.active", 0x12_3456),
                ],
            ),
            report("b", &[("border.active", 0x65_4321), ("error", 0xcc_0000)]),
            report("c", &[("border.active", 0x65_4321), ("tab.bar", 0x65_4321)]),
        ];
        let text = first_setup("Test", None, &reports);
        let doc = SetupDoc::parse("s.toml", text.as_bytes()).expect(&text);
        assert!(doc.warnings().is_empty());
        let look = Look::new(doc.setup());
        assert_eq!(look.slot(Slot::Red), Rgb::from_u32(0xcc_0000));
        assert_eq!(
            look.color(&RoleId::known("border.active")),
            Rgb::from_u32(0x65_4321)
        );
        // Shared by two roles, so it has one name and changing it changes both.
        assert_eq!(doc.setup().palette().colors.len(), 1);
        // The default of `error` is already the red slot: nothing to say.
        assert!(!text.contains("error ="), "{text}");
    }

    #[test]
    fn nothing_found_still_gives_a_usable_setup() {
        let text = first_setup("Empty \"quoted\" \\ name", Some("a b"), &[]);
        let doc = SetupDoc::parse("s.toml", text.as_bytes()).expect(&text);
        assert_eq!(doc.setup().active, "a b");
        assert!(doc.setup().palette().slots.is_empty(), "nothing is made up");
    }
}
