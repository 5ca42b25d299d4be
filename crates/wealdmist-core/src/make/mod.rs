//! Making palettes: from an image, from one or two seed colors, the counterpart of a palette on
//! the other ground, and variations.
//!
//! Whatever is made is repaired before it is handed out, so that the usual texts reach their
//! targets on their usual grounds. All of it is deterministic.

mod cluster;

use std::collections::BTreeMap;

use crate::color::{Oklab, Oklch, Rgb, lightness_span};
use crate::condition::Conditions;
use crate::repair::{Background, Request, Scope, repair, usual_wishes};
use crate::role::Slot;
use crate::setup::{Expr, Palette, PaletteName, Setup, Variant};

pub use cluster::{Cluster, clusters};

/// The hues of the chromatic slots in OKLCH, in degrees, in the order red, green, yellow, blue,
/// magenta, cyan.
const HUES: [(Slot, Slot, f64); 6] = [
    (Slot::Red, Slot::BrightRed, 25.0),
    (Slot::Green, Slot::BrightGreen, 142.0),
    (Slot::Yellow, Slot::BrightYellow, 88.0),
    (Slot::Blue, Slot::BrightBlue, 252.0),
    (Slot::Magenta, Slot::BrightMagenta, 335.0),
    (Slot::Cyan, Slot::BrightCyan, 198.0),
];

/// The chroma in OKLCH that a light ground may have before a person sees it as a tint: CIEDE2000 below 2 from the gray
/// of its lightness.
const QUIET: f64 = 0.0033;

/// The ground a palette is made for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OnGround {
    /// Dark or light.
    pub variant: Variant,
    /// Whether a light one may show the tint that it has from the image or the seed; a dark one always does.
    pub tinted: bool,
}

impl From<Variant> for OnGround {
    fn from(variant: Variant) -> Self {
        Self {
            variant,
            tinted: false,
        }
    }
}

/// A change of a whole palette's mood.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Variation {
    /// Towards yellow and red.
    Warmer,
    /// Towards blue.
    Cooler,
    /// Less chroma and less contrast.
    Softer,
    /// More chroma and more contrast.
    Sharper,
}

impl Variation {
    /// All.
    pub const ALL: [Self; 4] = [Self::Warmer, Self::Cooler, Self::Softer, Self::Sharper];

    /// The word for it, also on the command line.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Warmer => "warmer",
            Self::Cooler => "cooler",
            Self::Softer => "softer",
            Self::Sharper => "sharper",
        }
    }
}

/// The smallest and greatest angle between two hues, 0–180 degrees.
fn apart(a: f64, b: f64) -> f64 {
    let turn = (a - b).rem_euclid(360.0);
    turn.min(360.0 - turn)
}

/// The neutral colors of a ground: hue of the tint, and how strong it is in the ground itself and in the others.
struct Ground {
    variant: Variant,
    hue: f64,
    own: f64,
    chroma: f64,
}

impl Ground {
    /// A lightness said for a dark ground, on this one.
    fn l(&self, dark: f64, light: f64) -> f64 {
        match self.variant {
            Variant::Dark => dark,
            Variant::Light => light,
        }
    }

    fn neutral(&self, dark: f64, light: f64, strength: f64) -> Rgb {
        Oklch {
            l: self.l(dark, light),
            c: self.chroma * strength,
            h: self.hue,
        }
        .to_rgb()
    }

    fn slots(&self) -> BTreeMap<Slot, Rgb> {
        let ground = Oklch {
            l: self.l(0.205, 0.968),
            c: self.own,
            h: self.hue,
        };
        BTreeMap::from([
            (Slot::Background, ground.to_rgb()),
            (Slot::Foreground, self.neutral(0.88, 0.29, 0.6)),
            (Slot::Selection, self.neutral(0.36, 0.87, 1.6)),
            (Slot::SelectionText, self.neutral(0.95, 0.22, 0.5)),
            (Slot::CursorText, ground.to_rgb()),
            // Programs mean them: black is the darkest and bright white the lightest, and all are read as text.
            (Slot::Black, self.neutral(0.28, 0.25, 1.0)),
            (Slot::BrightBlack, self.neutral(0.56, 0.59, 1.0)),
            (Slot::White, self.neutral(0.82, 0.40, 0.6)),
            (Slot::BrightWhite, self.neutral(0.965, 0.50, 0.4)),
        ])
    }
}

/// A palette from one or two seed colors. The seeds keep their hue and take the slots they are
/// nearest to; the first tints the ground, and its chroma is that of all others.
#[must_use]
pub fn from_seeds(
    setup: &Setup,
    name: &PaletteName,
    seeds: &[Rgb],
    on: impl Into<OnGround>,
) -> Palette {
    let seeds: Vec<Oklch> = seeds.iter().map(|s| Oklch::from(*s)).collect();
    let first = seeds.first().copied().unwrap_or(Oklch {
        l: 0.7,
        c: 0.1,
        h: 200.0,
    });
    let chroma = first.c.clamp(0.06, 0.16);
    let hues = HUES.map(|(_, _, usual)| (pulled(usual, first.h), chroma));
    let tint = (first.h, 0.018_f64.min(first.c));
    build(setup, name, on.into(), tint, hues, &seeds)
}

/// A hue drawn a little towards another.
fn pulled(hue: f64, towards: f64) -> f64 {
    let turn = (towards - hue).rem_euclid(360.0);
    let turn = if turn > 180.0 { turn - 360.0 } else { turn };
    (hue + turn.clamp(-12.0, 12.0) * 0.5).rem_euclid(360.0)
}

/// A palette from the clusters of an image: its darkest or lightest part tints the ground, each
/// slot takes the image's nearest hue, and slots whose hue the image lacks get one with the
/// image's chroma.
#[must_use]
pub fn from_image(
    setup: &Setup,
    name: &PaletteName,
    clusters: &[Cluster],
    on: impl Into<OnGround>,
) -> Palette {
    let on = on.into();
    let variant = on.variant;
    let colors: Vec<(Oklch, f64)> = clusters
        .iter()
        .map(|c| (Oklch::from(c.color), c.share))
        .collect();
    let ground = colors
        .iter()
        .max_by(|a, b| {
            let fits = |(c, share): &(Oklch, f64)| {
                let l = match variant {
                    Variant::Dark => 1.0 - c.l,
                    Variant::Light => c.l,
                };
                l * share.sqrt()
            };
            fits(a).total_cmp(&fits(b))
        })
        .map_or((220.0, 0.0), |(c, _)| (c.h, c.c));
    let mut chromas: Vec<f64> = colors
        .iter()
        .map(|(c, _)| c.c)
        .filter(|c| *c > 0.03)
        .collect();
    chromas.sort_by(f64::total_cmp);
    let usual = chromas.get(chromas.len() / 2).copied().unwrap_or(0.08);
    let hues = HUES.map(|(_, _, hue)| {
        let best = colors
            .iter()
            .filter(|(c, _)| c.c > 0.035 && apart(c.h, hue) < 28.0)
            .max_by(|a, b| {
                let fits = |(c, share): &(Oklch, f64)| {
                    c.c * (1.0 - apart(c.h, hue) / 40.0) * (0.2 + share.sqrt())
                };
                fits(a).total_cmp(&fits(b))
            });
        match best {
            Some((c, _)) => (c.h, c.c.clamp(0.06, 0.17)),
            // A gray has no hue to be drawn to.
            None if ground.1 < 0.01 => (hue, usual.clamp(0.06, 0.13)),
            None => (pulled(hue, ground.0), usual.clamp(0.06, 0.13)),
        }
    });
    // The strongest color of the image is the cursor.
    let accent: Vec<Oklch> = colors
        .iter()
        .map(|(c, _)| *c)
        .filter(|c| c.c > 0.06)
        .max_by(|a, b| a.c.total_cmp(&b.c))
        .into_iter()
        .collect();
    let tint = (ground.0, ground.1.min(0.026));
    let mut palette = build(setup, name, on, tint, hues, &[]);
    if let Some(accent) = accent.first() {
        let l = match variant {
            Variant::Dark => accent.l.max(0.7),
            Variant::Light => accent.l.min(0.55),
        };
        palette
            .slots
            .insert(Slot::Cursor, Oklch { l, ..*accent }.to_rgb());
    }
    readable(setup, palette)
}

fn build(
    setup: &Setup,
    name: &PaletteName,
    on: OnGround,
    (hue, strength): (f64, f64),
    hues: [(f64, f64); 6],
    seeds: &[Oklch],
) -> Palette {
    let variant = on.variant;
    let quiet = variant == Variant::Light && !on.tinted;
    let ground = Ground {
        variant,
        hue,
        own: if quiet { strength.min(QUIET) } else { strength },
        chroma: strength,
    };
    let mut slots = ground.slots();
    let mut chosen = hues;
    let mut taken = Vec::new();
    for seed in seeds.iter().filter(|s| s.c > 0.02) {
        let nearest = (0..6)
            .filter(|i| !taken.contains(i))
            .min_by(|a, b| apart(hues[*a].0, seed.h).total_cmp(&apart(hues[*b].0, seed.h)));
        if let Some(i) = nearest {
            chosen[i] = (seed.h, seed.c);
            taken.push(i);
        }
    }
    for ((slot, bright, _), (h, c)) in HUES.into_iter().zip(chosen) {
        let at = |dark, light, c| Oklch {
            l: ground.l(dark, light),
            c,
            h,
        };
        slots.insert(slot, at(0.74, 0.50, c).to_rgb());
        slots.insert(bright, at(0.83, 0.42, c * 0.85).to_rgb());
    }
    let accent = taken.first().map_or(Slot::Cyan, |i| HUES[*i].0);
    let cursor = slots[&accent];
    slots.insert(Slot::Cursor, cursor);
    let mut palette = Palette {
        name: name.clone(),
        variant,
        slots,
        colors: Vec::new(),
        locked: Vec::new(),
    };
    // Roles may use named colors, so every palette needs them.
    let from = setup.palette();
    for (name, color) in &from.colors {
        let color = crate::setup::adapted(*color, from, &palette);
        palette.colors.push((name.clone(), color));
    }
    readable(setup, palette)
}

/// A palette with the counterpart of every color on the other ground: the same hues, lightness
/// mirrored between ground and text, targets met.
#[must_use]
pub fn counterpart(setup: &Setup, palette: &Palette, name: &PaletteName) -> Palette {
    let (bg, fg) = (
        Oklch::from(palette.slot(Slot::Background)),
        Oklch::from(palette.slot(Slot::Foreground)),
    );
    let (variant, new_bg, new_fg) = match palette.variant {
        Variant::Dark => (Variant::Light, 0.968, 0.29),
        Variant::Light => (Variant::Dark, 0.205, 0.88),
    };
    let mirrored = |color: Rgb| {
        let c = Oklch::from(color);
        let t = (c.l - bg.l) / lightness_span(bg.l, fg.l);
        let l = (new_bg + t * (new_fg - new_bg)).clamp(0.0, 1.0);
        // A tint that is quiet on a dark ground glares on a light one.
        let tint = if l > 0.85 && c.c < 0.05 { 0.55 } else { 1.0 };
        Oklch {
            l,
            c: c.c * tint,
            h: c.h,
        }
    };
    let mut slots: BTreeMap<Slot, Oklch> = BTreeMap::new();
    for slot in Slot::ALL {
        let color = Oklch::from(palette.slot(slot));
        // Black is meant by programs: it stays dark on both grounds.
        let kept = slot == Slot::Black && color.l < 0.45;
        slots.insert(
            slot,
            if kept {
                color
            } else {
                mirrored(palette.slot(slot))
            },
        );
    }
    if variant == Variant::Light
        && let Some(ground) = slots.get_mut(&Slot::Background)
    {
        ground.c = if ground.c < 0.02 {
            ground.c.min(QUIET)
        } else {
            ground.c
        };
    }
    in_order(&mut slots);
    let slots = slots
        .into_iter()
        .map(|(slot, color)| (slot, color.to_rgb()));
    let mirrored = |color| mirrored(color).to_rgb();
    let made = Palette {
        name: name.clone(),
        variant,
        slots: slots.collect(),
        colors: palette
            .colors
            .iter()
            .map(|(n, c)| (n.clone(), mirrored(*c)))
            .collect(),
        locked: palette.locked.clone(),
    };
    readable(setup, made)
}

/// Black, white and bright white with the lightnesses they have between them, the darkest first: mirrored one by one
/// they would change places.
fn in_order(slots: &mut BTreeMap<Slot, Oklch>) {
    let of = [Slot::Black, Slot::White, Slot::BrightWhite];
    let mut lightness: Vec<f64> = of.iter().filter_map(|s| Some(slots.get(s)?.l)).collect();
    lightness.sort_by(f64::total_cmp);
    for (slot, l) in of.iter().zip(lightness) {
        if let Some(color) = slots.get_mut(slot) {
            color.l = l;
        }
    }
}

/// A palette with its mood changed; locked colors stay.
#[must_use]
pub fn vary(setup: &Setup, palette: &Palette, variation: Variation, name: &PaletteName) -> Palette {
    let ground = Oklch::from(palette.slot(Slot::Background)).l;
    let changed = |key: &str, color: Rgb| {
        if palette.locked.iter().any(|l| l == key) {
            return color;
        }
        match variation {
            Variation::Warmer => tinted(color, 0.010, 0.022),
            Variation::Cooler => tinted(color, -0.008, -0.022),
            Variation::Softer => spread(color, ground, 0.93, 0.72),
            Variation::Sharper => spread(color, ground, 1.07, 1.25),
        }
    };
    let made = Palette {
        name: name.clone(),
        variant: palette.variant,
        slots: Slot::ALL
            .into_iter()
            .map(|s| (s, changed(s.key(), palette.slot(s))))
            .collect(),
        colors: palette
            .colors
            .iter()
            .map(|(n, c)| (n.clone(), changed(n, *c)))
            .collect(),
        locked: palette.locked.clone(),
    };
    readable(setup, made)
}

/// A color moved along the axes of OKLab, lightness kept.
fn tinted(color: Rgb, a: f64, b: f64) -> Rgb {
    let lab = Oklab::from(color);
    // Light and dark colors have little room for a tint.
    let room = 1.0 - (2.0 * lab.l - 1.0).abs().powi(2) * 0.6;
    Oklch::from(Oklab {
        l: lab.l,
        a: lab.a + a * room,
        b: lab.b + b * room,
    })
    .to_rgb()
}

/// A color with its distance from the ground's lightness and its chroma multiplied.
fn spread(color: Rgb, ground: f64, lightness: f64, chroma: f64) -> Rgb {
    let c = Oklch::from(color);
    let l = if (c.l - ground).abs() < 1e-6 {
        // The ground itself goes the other way by half.
        ground + if ground < 0.5 { 0.02 } else { -0.02 } * (1.0 - lightness) / 0.07
    } else {
        ground + (c.l - ground) * lightness
    };
    Oklch {
        l: l.clamp(0.0, 1.0),
        c: c.c * chroma,
        h: c.h,
    }
    .to_rgb()
}

/// The palette with the smallest change that lets the usual texts be read; the ground stays.
fn readable(setup: &Setup, mut palette: Palette) -> Palette {
    let wishes = usual_wishes(setup);
    let locked = palette.locked.clone();
    palette.locked.push(Slot::Background.key().to_owned());
    // Only colors of the palette may move here, not those that roles have for every palette.
    let own = setup
        .roles
        .iter()
        .filter(|(_, s)| matches!(s.color, Some(Expr::Value(_) | Expr::Mix(..))));
    palette.locked.extend(own.map(|(role, _)| role.to_string()));
    let mut setup = setup.clone();
    // Mixes that follow the palette are left to follow it.
    setup
        .roles
        .retain(|_, s| !matches!(s.color, Some(Expr::Mix(..))));
    let known = crate::role::ROLES
        .iter()
        .filter(|k| k.default.contains('@'));
    palette.locked.extend(known.map(|k| k.id.to_owned()));
    let conditions = Conditions::default();
    let done = repair(&Request {
        setup: &setup,
        palette: &palette,
        wishes: &wishes,
        conditions: &conditions,
        scope: &Scope::Palette,
        meanings: true,
        background: Background::IfNeeded,
    });
    for change in done.changes {
        match change.origin {
            crate::look::Origin::Slot(slot) => {
                palette.slots.insert(slot, change.to);
            }
            crate::look::Origin::Named(name) => {
                for (own, color) in &mut palette.colors {
                    if *own == name {
                        *color = change.to;
                    }
                }
            }
            crate::look::Origin::Role(_) => {}
        }
    }
    palette.locked = locked;
    palette
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::color::{contrast_ratio, difference};
    use crate::setup::SetupDoc;
    use proptest::prelude::*;

    fn setup(text: &str) -> Setup {
        SetupDoc::parse("s", text.as_bytes())
            .unwrap()
            .setup()
            .clone()
    }

    const DUSK: &str = "[palettes.dusk]\nforeground='#d7d6cc'\nbackground='#0d191c'\nred='#e7736e'\ncyan='#74c5c1'\n[palettes.dusk.colors]\nreed='#939761'\n[roles]\n'bar.text'='reed'\n";

    /// How many of the 14 terminal colors that are read as text fall below 4.5:1.
    fn unreadable(palette: &Palette) -> usize {
        let bg = palette.slot(Slot::Background);
        let texts = HUES.into_iter().flat_map(|(a, b, _)| [a, b]);
        let texts = texts.chain([Slot::Foreground, Slot::White]);
        texts
            .filter(|s| contrast_ratio(palette.slot(*s), bg) < 4.5)
            .count()
    }

    #[test]
    fn a_seed_keeps_its_hue_and_everything_can_be_read() {
        let setup = setup(DUSK);
        for variant in [Variant::Dark, Variant::Light] {
            let seed = Rgb::from_u32(0xc0_5a8a);
            let palette = from_seeds(
                &setup,
                &"x".into(),
                &[seed, Rgb::from_u32(0x3a_9a60)],
                variant,
            );
            assert_eq!(unreadable(&palette), 0, "{palette:?}");
            let hue = Oklch::from(palette.slot(Slot::Cursor)).h;
            assert!(apart(hue, Oklch::from(seed).h) < 6.0);
            // Named colors that roles use are there.
            assert_eq!(palette.colors[0].0, "reed");
        }
    }

    #[test]
    fn the_counterpart_has_the_same_hues_on_the_other_ground() {
        let setup = setup(DUSK);
        let dusk = setup.palette();
        let light = counterpart(&setup, dusk, &"morning".into());
        assert_eq!(light.variant, Variant::Light);
        assert!(Oklch::from(light.slot(Slot::Background)).l > 0.9);
        assert_eq!(unreadable(&light), 0);
        for slot in [Slot::Red, Slot::Cyan] {
            let (a, b) = (Oklch::from(dusk.slot(slot)), Oklch::from(light.slot(slot)));
            assert!(apart(a.h, b.h) < 6.0, "{slot:?} {a:?} {b:?}");
        }
        let back = counterpart(&setup, &light, &"again".into());
        assert_eq!(back.variant, Variant::Dark);
        assert_eq!(unreadable(&back), 0);
    }

    fn lightness(palette: &Palette, slot: Slot) -> f64 {
        Oklch::from(palette.slot(slot)).l
    }

    /// How far a ground is from the gray of its lightness.
    fn tint(palette: &Palette) -> f64 {
        let ground = palette.slot(Slot::Background);
        let gray = Oklch {
            c: 0.0,
            ..Oklch::from(ground)
        };
        difference(ground, gray.to_rgb())
    }

    /// Whether black is the darkest and bright white the lightest of what programs call so.
    fn is_in_order(palette: &Palette) -> bool {
        let [black, white, bright] =
            [Slot::Black, Slot::White, Slot::BrightWhite].map(|s| lightness(palette, s));
        black < white && white <= bright + 1e-6
    }

    #[test]
    fn a_light_ground_shows_no_tint_unless_it_is_asked_for() {
        let setup = setup(DUSK);
        let sand = [
            Cluster {
                color: Rgb::from_u32(0xe0_b070),
                share: 0.8,
            },
            Cluster {
                color: Rgb::from_u32(0x20_3040),
                share: 0.2,
            },
        ];
        let quiet = from_image(&setup, &"x".into(), &sand, Variant::Light);
        assert!(tint(&quiet) < 2.0, "{}", tint(&quiet));
        let on = OnGround {
            variant: Variant::Light,
            tinted: true,
        };
        assert!(tint(&from_image(&setup, &"x".into(), &sand, on)) > 4.0);
        let gray = [Cluster {
            color: Rgb::from_u32(0xee_eeee),
            share: 1.0,
        }];
        for variant in [Variant::Dark, Variant::Light] {
            let made = from_image(&setup, &"x".into(), &gray, variant);
            assert!(tint(&made) < 0.5, "a gray image has none");
        }
        let seed = [Rgb::from_u32(0xc0_5a8a)];
        assert!(tint(&from_seeds(&setup, &"x".into(), &seed, Variant::Light)) < 2.0);
        assert!(tint(&counterpart(&setup, setup.palette(), &"x".into())) < 2.0);
    }

    #[test]
    fn variations_go_where_they_say_and_leave_what_is_locked() {
        let setup = setup(&DUSK.replace("red='#e7736e'", "red='#e7736e'\nlocked=['red']"));
        let dusk = setup.palette();
        let made = |v| vary(&setup, dusk, v, &"x".into());
        let b = |p: &Palette| Oklab::from(p.slot(Slot::Foreground)).b;
        assert!(b(&made(Variation::Warmer)) > b(dusk) && b(&made(Variation::Cooler)) < b(dusk));
        let c = |p: &Palette| Oklch::from(p.slot(Slot::Cyan)).c;
        assert!(c(&made(Variation::Softer)) < c(dusk) && c(&made(Variation::Sharper)) > c(dusk));
        for variation in Variation::ALL {
            let palette = made(variation);
            assert_eq!(palette.slot(Slot::Red), dusk.slot(Slot::Red));
            assert_eq!(unreadable(&palette), 0, "{variation:?}");
        }
    }

    #[test]
    fn an_image_gives_its_hues() {
        let setup = setup(DUSK);
        let cluster = |hex, share| Cluster {
            color: Rgb::from_u32(hex),
            share,
        };
        let found = [
            cluster(0x1a_2a40, 0.5),
            cluster(0xd0_7030, 0.2),
            cluster(0x50_8a50, 0.2),
            cluster(0xf0_e8d8, 0.1),
        ];
        let dark = from_image(&setup, &"x".into(), &found, Variant::Dark);
        let light = from_image(&setup, &"x".into(), &found, Variant::Light);
        let near = |p: &Palette, slot, hex: u32| {
            let (a, b) = (Oklch::from(p.slot(slot)), Oklch::from(Rgb::from_u32(hex)));
            assert!(apart(a.h, b.h) < 8.0, "{slot:?} {a:?} {b:?}");
        };
        near(&dark, Slot::Green, 0x50_8a50);
        near(&light, Slot::Green, 0x50_8a50);
        near(&dark, Slot::Background, 0x1a_2a40);
        assert_eq!(unreadable(&dark) + unreadable(&light), 0);
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]
        #[test]
        fn any_seed_gives_a_palette(a in 0u32..0x100_0000, b in 0u32..0x100_0000, dark in any::<bool>()) {
            let setup = setup(DUSK);
            let variant = if dark { Variant::Dark } else { Variant::Light };
            let seeds = [Rgb::from_u32(a), Rgb::from_u32(b)];
            let palette = from_seeds(&setup, &"x".into(), &seeds, variant);
            prop_assert_eq!(unreadable(&palette), 0);
            prop_assert!(is_in_order(&palette), "{:?}", palette.slots);
            let other = counterpart(&setup, &palette, &"y".into());
            prop_assert!(is_in_order(&other), "{:?}", other.slots);
            prop_assert!(is_in_order(&counterpart(&setup, &other, &"z".into())));
            prop_assert_eq!(&palette, &from_seeds(&setup, &"x".into(), &seeds, variant));
        }
    }
}
