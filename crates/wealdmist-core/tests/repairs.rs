//! Repairs of palettes of all kinds: what a person may rely on whatever the colors are.
//!
//! `WEALDMIST_PALETTES` says how many of each kind.

#![allow(
    clippy::disallowed_methods,
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs
)]

mod common;

use std::time::{Duration, Instant};

use common::{Chance, asked, how_many};
use wealdmist_core::color::{Depth, Oklch, Rgb, Rounding, Vision, contrast_ratio, difference};
use wealdmist_core::condition::Conditions;
use wealdmist_core::look::{Look, Origin};
use wealdmist_core::pair::{GROUNDS_APART, TOO_ALIKE};
use wealdmist_core::repair::{Repair, Wish, repair, usual_wishes};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::setup::SetupDoc;

const ROLES: [&str; 14] = [
    "comment",
    "keyword",
    "string",
    "function",
    "bar.ground",
    "bar.text",
    "search.ground",
    "prompt.folder",
    "line-number",
    "cursor-line",
    "status.ground",
    "popup.ground",
    "diff.added.ground",
    "diff.removed.ground",
];

/// How colors are chosen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Kind {
    /// Any.
    Any,
    /// As people choose them, some too near to the ground.
    Plausible,
    /// The texts as dark as the ground.
    DarkOnDark,
    /// Slots near to white on a light ground.
    NearWhite,
    /// Roles that repeat slots and named colors.
    Shared,
    /// A ground in the middle.
    Middle,
}

fn palette(kind: Kind, chance: &mut Chance) -> String {
    let dark = chance.next() < 0.5;
    let variant = if dark { "dark" } else { "light" };
    let ground = match kind {
        Kind::Any => chance.next(),
        Kind::DarkOnDark => chance.within(0.05, 0.25),
        Kind::NearWhite => chance.within(0.9, 1.0),
        Kind::Middle => chance.within(0.45, 0.7),
        _ if dark => chance.within(0.1, 0.25),
        _ => chance.within(0.88, 0.99),
    };
    let dark = ground < 0.6;
    let away = |l: f64| {
        if dark {
            ground + (1.0 - ground) * l
        } else {
            ground * (1.0 - l)
        }
    };
    let mut text = format!("[palettes.a]\nvariant='{variant}'\n");
    let mut locked = Vec::new();
    for slot in Slot::ALL {
        let far = match (kind, slot) {
            (_, Slot::Background | Slot::CursorText) => 0.0,
            (_, Slot::Selection) => chance.within(0.08, 0.3),
            (Kind::DarkOnDark | Kind::NearWhite, _) => chance.within(0.0, 0.4),
            (_, Slot::Foreground | Slot::SelectionText) => chance.within(0.7, 1.0),
            _ => chance.within(0.2, 0.9),
        };
        let l = match kind {
            Kind::Any => chance.next(),
            _ => away(far),
        };
        let c = match slot {
            Slot::Background | Slot::Selection | Slot::Foreground => chance.within(0.0, 0.04),
            _ => chance.within(0.02, 0.2),
        };
        let h = chance.next() * 360.0;
        text += &format!("{}='{}'\n", slot.key(), Oklch { l, c, h }.to_rgb());
        if slot.ansi().is_some() && chance.next() < 0.06 {
            locked.push(format!("'{}'", slot.key()));
        }
    }
    text += &format!("locked=[{}]\n[roles]\n", locked.join(","));
    for role in ROLES {
        if chance.next() < 0.4 {
            continue;
        }
        let is_ground = RoleId::known(role).is_ground();
        let value = match kind {
            Kind::Shared if !is_ground => {
                let slots = [Slot::Blue, Slot::Red, Slot::BrightBlack, Slot::Green];
                chance.one(&slots).key().to_owned()
            }
            Kind::Any => format!("#{:06x}", (chance.next() * 16_777_216.0) as u32),
            _ => {
                let far = match is_ground {
                    true => chance.within(0.03, 0.3),
                    false => chance.within(0.1, 0.9),
                };
                let (c, h) = (chance.within(0.0, 0.12), chance.next() * 360.0);
                let l = away(far);
                Oklch { l, c, h }.to_rgb().to_string()
            }
        };
        text += &format!("'{role}'='{value}'\n");
    }
    text
}

/// What came of many repairs.
#[derive(Default)]
struct Sum {
    palettes: usize,
    failing: usize,
    unmet: usize,
    moved: usize,
    again: usize,
    needless: usize,
    times: Vec<Duration>,
}

impl std::fmt::Display for Sum {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let mut times = self.times.clone();
        times.sort();
        let at =
            |share: f64| times[((times.len() - 1) as f64 * share) as usize].as_secs_f64() * 1e3;
        write!(
            f,
            "{} palettes: {} pairs below their target, {} after; {} colors moved, {} for nothing; {} found more in a second run; {:.1} ms (median), {:.1} ms (most)",
            self.palettes,
            self.failing,
            self.unmet,
            self.moved,
            self.needless,
            self.again,
            at(0.5),
            at(1.0)
        )
    }
}

/// The roles whose grounds a setup gives a color or something is drawn on.
fn grounds(wishes: &[Wish]) -> Vec<RoleId> {
    let mut all: Vec<RoleId> = wishes.iter().map(|w| w.ground.clone()).collect();
    all.extend(
        ROLES
            .map(RoleId::known)
            .into_iter()
            .filter(RoleId::is_ground),
    );
    all.sort();
    all.dedup();
    all
}

/// The pairs of colors that are to stay apart, with how far.
fn apart(look: &Look, wishes: &[Wish]) -> Vec<(RoleId, RoleId, f64)> {
    let slots: Vec<RoleId> = (0..16)
        .map(|i| RoleId::from(Slot::from_ansi(i).unwrap()))
        .collect();
    let grounds = grounds(wishes);
    let twos = |all: &[RoleId], most: f64| {
        let mut out = Vec::new();
        for (i, one) in all.iter().enumerate() {
            for other in &all[i + 1..] {
                let now = difference(look.color(one), look.color(other));
                out.push((one.clone(), other.clone(), now.min(most)));
            }
        }
        out
    };
    let mut out = twos(&slots, TOO_ALIKE);
    out.extend(
        twos(&grounds, GROUNDS_APART)
            .into_iter()
            .filter(|t| t.2 >= 1.0),
    );
    out
}

/// Repairs a palette and holds what came of it against what a person may rely on.
fn hold(text: &str, conditions: &Conditions, sum: &mut Sum) -> Result<(), String> {
    let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
    let wishes = usual_wishes(doc.setup());
    let begun = Instant::now();
    let done = repair(&asked(&doc, &wishes, conditions));
    sum.times.push(begun.elapsed());
    let after = done.carried_out(&doc, &"a".into()).unwrap();
    let (old, new) = (Look::new(doc.setup()), Look::new(after.setup()));
    let ratio = |look: &Look, wish: &Wish, conditions: &Conditions| {
        let sight = wealdmist_core::condition::Sight {
            text: look.color(&wish.text),
            ground: look.color(&wish.ground),
            fade: wish.fade,
            rounding: Rounding::Nearest,
            in_pane: wish.text.stands_in_pane(),
        };
        conditions.see(sight, look).ratio
    };
    for (wish, outcome) in wishes.iter().zip(&done.outcomes) {
        let (before, now) = (ratio(&old, wish, conditions), ratio(&new, wish, conditions));
        let name = format!("{} on {}", wish.text, wish.ground);
        if (before - outcome.before).abs() > 1e-9 || (now - outcome.after).abs() > 1e-9 {
            return Err(format!("{name}: {before} {now}, said {outcome:?}"));
        }
        if before >= wish.target && now < wish.target {
            return Err(format!("{name} is lost: {before} {now}"));
        }
        let plainly =
            |look: &Look| contrast_ratio(look.color(&wish.text), look.color(&wish.ground));
        if plainly(&old) >= wish.target && plainly(&new) < wish.target {
            return Err(format!("{name} is lost without conditions"));
        }
    }
    let kept = apart(&old, &wishes);
    for (one, other, least) in &kept {
        let now = difference(new.color(one), new.color(other));
        if now < least - 0.21 {
            return Err(format!("{one} and {other}: {least} {now}"));
        }
    }
    for name in &doc.setup().palette().locked {
        let role = RoleId::new(name.clone());
        if old.color(&role) != new.color(&role) {
            return Err(format!("{name} is locked"));
        }
    }
    let again = repair(&asked(&after, &wishes, conditions));
    if !again.changes.is_empty() {
        sum.again += 1;
    }
    // Each color by itself goes back: something is lost then.
    let met = |look: &Look| -> Vec<bool> {
        let all = wishes.iter();
        all.map(|w| ratio(look, w, conditions) >= w.target)
            .collect()
    };
    let (met_before, met_after) = (met(&old), met(&new));
    let plainly = |look: &Look, w: &Wish| {
        contrast_ratio(look.color(&w.text), look.color(&w.ground)) >= w.target
    };
    for change in &done.changes {
        let back = Repair {
            changes: done
                .changes
                .iter()
                .filter(|c| c.origin != change.origin)
                .cloned()
                .collect(),
            ..done.clone()
        };
        if matches!(change.origin, Origin::Role(_)) || change.from == change.to {
            continue;
        }
        let without = Look::new(back.carried_out(&doc, &"a".into()).unwrap().setup());
        let fewer = met(&without).iter().zip(&met_after).any(|(a, b)| !a && *b);
        let lost = wishes
            .iter()
            .any(|w| plainly(&old, w) && !plainly(&without, w));
        let nearer = kept.iter().any(|(one, other, least)| {
            difference(without.color(one), without.color(other)) < least - 0.1
        });
        if !fewer && !lost && !nearer {
            sum.needless += 1;
        }
    }
    sum.palettes += 1;
    sum.failing += met_before.iter().filter(|m| !**m).count();
    sum.unmet += met_after.iter().filter(|m| !**m).count();
    sum.moved += done.changes.len();
    Ok(())
}

#[test]
fn a_repair_is_whole_and_loses_nothing() {
    let mut wrong = Vec::new();
    for kind in [
        Kind::Any,
        Kind::Plausible,
        Kind::DarkOnDark,
        Kind::NearWhite,
        Kind::Shared,
        Kind::Middle,
    ] {
        let mut chance = Chance(77);
        let mut sum = Sum::default();
        for i in 0..how_many(12) {
            let text = palette(kind, &mut chance);
            if let Err(why) = hold(&text, &Conditions::default(), &mut sum) {
                wrong.push(format!("{kind:?} {i}: {why}"));
            }
        }
        println!("{kind:?}: {sum}");
        if sum.again > 0 || sum.needless > 0 {
            wrong.push(format!("{kind:?}: {sum}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn what_can_be_read_plainly_stays_so_under_every_condition() {
    let plain = Conditions::default();
    let vision = |vision| Conditions {
        vision,
        ..Conditions::default()
    };
    let all = [
        Conditions {
            dimmed: Some(0.6),
            ..plain.clone()
        },
        Conditions {
            opacity: 0.85,
            ..plain.clone()
        },
        Conditions {
            depth: Depth::Indexed256,
            ..plain.clone()
        },
        vision(Vision::Protan(1.0)),
        vision(Vision::Deutan(1.0)),
        vision(Vision::Tritan(1.0)),
        vision(Vision::Gray),
        Conditions {
            opacity: 0.95,
            dimmed: Some(0.8),
            vision: Vision::Deutan(0.6),
            ..plain
        },
    ];
    let mut wrong = Vec::new();
    for conditions in all {
        let mut chance = Chance(5);
        let mut sum = Sum::default();
        for i in 0..how_many(5) {
            let kind = chance.one(&[Kind::Plausible, Kind::Shared, Kind::NearWhite]);
            let text = palette(kind, &mut chance);
            if let Err(why) = hold(&text, &conditions, &mut sum) {
                wrong.push(format!("{} {i}: {why}", conditions.label()));
            }
        }
        println!("{}: {sum}", conditions.label());
        if sum.again > 0 {
            wrong.push(format!("{}: {sum}", conditions.label()));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn a_dark_blue_that_roles_share_becomes_light_and_the_ground_stays() {
    let text = "[palettes.a]\nforeground='#d0d4d0'\nbackground='#101418'\nblue='#000080'\n[roles]\nfunction='blue'\nurl='blue'\n";
    let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
    let wishes = usual_wishes(doc.setup());
    let plain = Conditions::default();
    let done = repair(&asked(&doc, &wishes, &plain));
    assert!(done.obstacles.is_empty(), "{:?}", done.obstacles);
    assert!(!done.moves_background);
    let blue = done
        .changes
        .iter()
        .find(|c| c.origin == Origin::Slot(Slot::Blue));
    let blue: Rgb = blue.unwrap().to;
    assert!(contrast_ratio(blue, Rgb::from_u32(0x10_1418)) >= 4.5);
}
