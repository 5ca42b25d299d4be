use super::*;
use crate::color::{Depth, Oklch, Rounding, Vision, contrast_ratio};
use crate::condition::{Conditions, Sight};
use crate::look::Look;
use crate::role::Slot;
use crate::setup::SetupDoc;
use proptest::prelude::*;

fn doc(text: &str) -> SetupDoc {
    SetupDoc::parse("s", text.as_bytes()).unwrap()
}

fn run(doc: &SetupDoc, wishes: &[Wish], scope: &Scope, conditions: &Conditions) -> Repair {
    repair(&Request {
        setup: doc.setup(),
        palette: doc.setup().palette(),
        wishes,
        conditions,
        scope,
        meanings: false,
        background: Background::IfNeeded,
    })
}

const FAINT: &str = "[palettes.a]\nforeground='#d7d6cc'\nbackground='#0d191c'\nred='#7e3a36'\nblue='#2a4a7e'\nlocked=['background']\n[roles]\ncomment={mix=['background','foreground',0.3]}\n";

#[test]
fn the_whole_palette_can_be_read_afterwards_and_keeps_its_hues() {
    let doc = doc(FAINT);
    let wishes = usual_wishes(doc.setup());
    let repair = run(&doc, &wishes, &Scope::Palette, &Conditions::default());
    assert!(repair.failing_before(&wishes) > 3);
    assert!(repair.obstacles.is_empty(), "{:?}", repair.obstacles);
    let after = repair.carried_out(&doc, &"a".into()).unwrap();
    let (old, new) = (Look::new(doc.setup()), Look::new(after.setup()));
    for wish in &wishes {
        let ratio = contrast_ratio(new.color(&wish.text), new.color(&wish.ground));
        assert!(ratio >= wish.target, "{} {ratio}", wish.text);
    }
    assert_eq!(old.slot(Slot::Background), new.slot(Slot::Background));
    for slot in [Slot::Red, Slot::Blue] {
        let (a, b) = (Oklch::from(old.slot(slot)), Oklch::from(new.slot(slot)));
        assert!((a.h - b.h).abs() < 4.0, "{slot:?} {a:?} {b:?}");
        assert_ne!(old.slot(slot), new.slot(slot));
    }
    // What could be read already did not move.
    assert_eq!(old.slot(Slot::Foreground), new.slot(Slot::Foreground));
}

#[test]
fn one_color_or_one_role_moves_alone() {
    let doc = doc(FAINT);
    let wishes = usual_wishes(doc.setup());
    let plain = Conditions::default();
    let red = Scope::Color(Origin::Slot(Slot::Red));
    let repair = run(&doc, &wishes, &red, &plain);
    assert_eq!(repair.changes.len(), 1);
    assert_eq!(repair.changes[0].origin, Origin::Slot(Slot::Red));
    // A mix becomes a value of its own, and nothing it mixes moves.
    let comment = Scope::Role(RoleId::known("comment"));
    let repair = run(&doc, &wishes, &comment, &plain);
    assert_eq!(repair.changes.len(), 1);
    let after = repair.carried_out(&doc, &"a".into()).unwrap();
    assert!(matches!(
        after.setup().roles[&RoleId::known("comment")].color,
        Some(Expr::Value(_))
    ));
}

#[test]
fn what_cannot_be_done_is_said_with_what_stands_in_the_way() {
    let text = "[palettes.a]\nforeground='#888888'\nbackground='#777777'\nred='#7e3a36'\nlocked=['background','foreground']\n[roles]\ncomment='#787878'\n";
    let doc = doc(text);
    let wish = |text: &'static str, target| Wish {
        text: RoleId::known(text),
        ground: RoleId::known("background"),
        target,
        fade: 1.0,
        rounding: Rounding::Nearest,
    };
    let wishes = [
        wish("foreground", 4.5),
        wish("comment", 7.0),
        wish("red", 3.0),
    ];
    let repair = run(&doc, &wishes, &Scope::Palette, &Conditions::default());
    let why = |i: usize| {
        let found = repair.obstacles.iter().find(|o| o.wish == i);
        found.map(|o| o.why.as_str())
    };
    assert!(why(0).unwrap().contains("locked"), "{:?}", repair.obstacles);
    assert!(
        why(1).unwrap().contains("cannot reach 7:1"),
        "{:?}",
        repair.obstacles
    );
    assert_eq!(why(2), None);
}

#[test]
fn demands_that_contradict_one_another_are_named() {
    let doc = doc(
        "[palettes.a]\nforeground='#888888'\nbackground='#000000'\nlocked=['background','bar.ground']\n[roles]\ncomment='#c0c0c0'\n'bar.ground'='#ffffff'\n",
    );
    let wish = |ground: &'static str, target| Wish {
        text: RoleId::known("comment"),
        ground: RoleId::known(ground),
        target,
        fade: 1.0,
        rounding: Rounding::Nearest,
    };
    let wishes = [wish("background", 7.0), wish("bar.ground", 7.0)];
    let repair = run(&doc, &wishes, &Scope::Palette, &Conditions::default());
    assert!(repair.changes.is_empty(), "{:?}", repair.changes);
    let why = &repair.obstacles[0].why;
    assert_eq!(
        why,
        "contradicts comment on background (7:1) at any lightness, with background and bar.ground locked"
    );
}

#[test]
fn what_no_color_can_do_in_a_dimmed_pane_is_said() {
    let wish = Wish {
        text: RoleId::known("foreground"),
        ground: RoleId::known("background"),
        target: 4.5,
        fade: 1.0,
        rounding: Rounding::Nearest,
    };
    let conditions = Conditions {
        dimmed: Some(0.5),
        ..Conditions::default()
    };
    let text = |ground: &str| {
        format!(
            "[palettes.a]\nforeground='#9a9a9a'\nbackground='{ground}'\nlocked=['background']\n"
        )
    };
    let why = |ground: &str| {
        let repair = run(
            &doc(&text(ground)),
            std::slice::from_ref(&wish),
            &Scope::Palette,
            &conditions,
        );
        repair.obstacles.first().map(|o| o.why.clone())
    };
    let never = "foreground alone cannot reach 4.5:1 at any lightness";
    assert_eq!(why("#606060").as_deref(), Some(never));
    assert_eq!(why("#101010"), None);
}

/// The color that may move.
const MOVES: Rgb = Rgb::new(0x7a, 0x6f, 0x7a);

/// For conditions and some locked grounds with targets, of which the first is the terminal's own, what is said
/// against a color; and whether some color can be read on all of them, and on those as they are that it can be
/// read on now, by going through the grays and many others; and the same where a little less is enough.
fn said_and_true(
    conditions: &Conditions,
    fade: f64,
    grounds: &[(Rgb, f64)],
) -> (Vec<String>, [bool; 2]) {
    let names = ["background", "bar.ground", "selection"];
    let mut text = String::from(
        "[palettes.a]\nforeground='#777777'\nlocked=['background','selection','bar.ground']\n",
    );
    let mut roles = String::from("[roles]\ncomment='#7a6f7a'\n");
    for (name, (color, _)) in names.iter().zip(grounds) {
        match *name {
            "bar.ground" => roles.push_str(&format!("'bar.ground'='{color}'\n")),
            slot => text.push_str(&format!("{slot}='{color}'\n")),
        }
    }
    let wishes: Vec<Wish> = names
        .iter()
        .zip(grounds)
        .map(|(ground, (_, target))| Wish {
            text: RoleId::known("comment"),
            ground: RoleId::known(ground),
            target: *target,
            fade,
            rounding: Rounding::Cube,
        })
        .collect();
    let doc = doc(&(text + &roles));
    let origin = crate::look::Origin::Role(RoleId::known("comment"));
    let repair = run(&doc, &wishes, &Scope::Color(origin), conditions);
    let look = Look::new(doc.setup());
    let less = if conditions.vision.is_full() {
        0.9
    } else {
        0.98
    };
    let can = [1.0, less].map(|part| {
        let grays = (0..=255).map(|v| Rgb::new(v, v, v));
        let indexed = (16..=255).filter_map(crate::color::indexed);
        let others = (0..0x0100_0000).step_by(4099).map(Rgb::from_u32);
        let slots = Slot::ALL.map(|slot| look.slot(slot));
        let mut colors = grays.chain(indexed).chain(others).chain(slots);
        colors.any(|color| {
            grounds.iter().zip(&wishes).all(|((ground, target), wish)| {
                let sight = Sight {
                    text: color,
                    ground: *ground,
                    fade,
                    in_pane: true,
                    rounding: wish.rounding,
                };
                let is_own = *ground == look.slot(Slot::Background);
                let seen = |c: &Conditions, sight| c.see_on(sight, &look.slots, is_own).ratio;
                let before = Sight {
                    text: MOVES,
                    ..sight
                };
                let plain = Conditions::default();
                let was_plain = seen(&plain, before) >= *target;
                seen(conditions, sight) >= target * part
                    && (!was_plain || seen(&plain, sight) >= target * part)
            })
        })
    });
    let said = repair.obstacles.iter().map(|o| o.why.clone());
    (said.collect(), can)
}

#[test]
fn the_ground_moves_only_where_that_is_asked_for_or_needed() {
    // Nothing reaches 7:1 on a ground in the middle.
    let middle = "[palettes.a]\nforeground='#ffffff'\nbackground='#777777'\n";
    let dark = "[palettes.a]\nforeground='#9a9a9a'\nbackground='#303030'\n";
    let wishes = [Wish {
        text: RoleId::known("foreground"),
        ground: RoleId::known("background"),
        target: 7.0,
        fade: 1.0,
        rounding: Rounding::Nearest,
    }];
    let conditions = Conditions::default();
    let asked = |text: &str, background| {
        let doc = doc(text);
        repair(&Request {
            setup: doc.setup(),
            palette: doc.setup().palette(),
            wishes: &wishes,
            conditions: &conditions,
            scope: &Scope::Palette,
            meanings: false,
            background,
        })
    };
    let needed = asked(middle, Background::IfNeeded);
    assert!(needed.moves_background && needed.obstacles.is_empty());
    let stays = asked(middle, Background::Stays);
    assert!(!stays.moves_background && stays.obstacles.len() == 1);
    let why = &stays.obstacles[0].why;
    assert_eq!(why, "foreground alone cannot reach 7:1 at any lightness");
    let not_needed = asked(dark, Background::IfNeeded);
    assert!(!not_needed.moves_background && not_needed.obstacles.is_empty());
    let both = asked(dark, Background::Moves);
    assert!(both.moves_background && both.total < not_needed.total);
}

#[test]
fn meanings_are_told_apart_by_whoever_cannot_see_their_hues() {
    let text = "[palettes.a]\nforeground='#dddddd'\nbackground='#101416'\nred='#c06a50'\ngreen='#858a3c'\n";
    let doc = doc(text);
    let conditions = Conditions {
        vision: Vision::Deutan(1.0),
        ..Conditions::default()
    };
    let wishes = usual_wishes(doc.setup());
    let found = repair(&Request {
        setup: doc.setup(),
        palette: doc.setup().palette(),
        wishes: &wishes,
        conditions: &conditions,
        scope: &Scope::Palette,
        meanings: true,
        background: Background::IfNeeded,
    });
    let after = found.carried_out(&doc, &"a".into()).unwrap();
    let worst = |doc: &SetupDoc| {
        let look = Look::new(doc.setup());
        crate::pair::meanings(&look, &conditions)
            .into_iter()
            .find(|m| m.one.as_str() == "error" && m.other.as_str() == "success")
            .unwrap()
            .difference
    };
    assert!(worst(&doc) < crate::pair::TOLD_APART);
    assert!(
        worst(&after) >= crate::pair::TOLD_APART,
        "{}",
        worst(&after)
    );
    assert!(found.obstacles.is_empty(), "{:?}", found.obstacles);
}

#[test]
fn conditions_are_met_too() {
    let doc = doc(FAINT);
    let wishes = usual_wishes(doc.setup());
    let through = Conditions {
        opacity: 0.93,
        ..Conditions::default()
    };
    let indexed = Conditions {
        depth: crate::color::Depth::Indexed256,
        ..Conditions::default()
    };
    for conditions in [through, indexed] {
        let repair = run(&doc, &wishes, &Scope::Palette, &conditions);
        let unmet = repair.outcomes.iter().filter(|o| !o.met).count();
        assert!(
            unmet * 10 <= wishes.len(),
            "{}: {unmet}",
            conditions.label()
        );
        assert!(repair.failing_before(&wishes) > unmet + 3);
    }
}

/// A setup with random colors; some of them locked.
fn random_setup() -> impl Strategy<Value = String> {
    let color = 0u32..0x100_0000;
    (
        proptest::collection::vec(color.clone(), 22),
        proptest::collection::vec(color, 8),
        proptest::collection::vec(any::<bool>(), 22),
        any::<bool>(),
    )
        .prop_map(|(slots, roles, locked, dark)| {
            let mut text = format!(
                "[palettes.a]\nvariant='{}'\n",
                if dark { "dark" } else { "light" }
            );
            let mut names = Vec::new();
            for ((slot, color), lock) in Slot::ALL.iter().zip(slots).zip(locked) {
                text.push_str(&format!("{}='#{color:06x}'\n", slot.key()));
                if lock && slot.ansi().is_some_and(|i| i % 3 == 0) {
                    names.push(format!("'{}'", slot.key()));
                }
            }
            text.push_str(&format!("locked=[{}]\n[roles]\n", names.join(",")));
            let known = [
                "comment",
                "keyword",
                "string",
                "function",
                "bar.ground",
                "search.ground",
                "prompt.folder",
                "line-number",
            ];
            for (role, color) in known.iter().zip(roles) {
                text.push_str(&format!("'{role}'='#{color:06x}'\n"));
            }
            text
        })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn what_is_said_to_contradict_under_conditions_does(
        vision in 0usize..8,
        opacity in prop_oneof![Just(1.0), 0.5..1.0_f64],
        dimmed in proptest::option::of(0.5..1.0_f64),
        fade in prop_oneof![Just(1.0), 0.5..1.0_f64],
        is_indexed in any::<bool>(),
        grounds in proptest::collection::vec((0u32..0x0100_0000, 2.0..6.0_f64), 1..4),
    ) {
        let vision = match vision {
            0 => Vision::Protan(1.0),
            1 => Vision::Deutan(0.7),
            2 => Vision::Tritan(1.0),
            3 => Vision::Gray,
            _ => Vision::Full,
        };
        let conditions = Conditions {
            vision,
            opacity,
            dimmed,
            depth: if is_indexed { Depth::Indexed256 } else { Depth::TrueColor },
            ..Conditions::default()
        };
        let grounds: Vec<(Rgb, f64)> =
            grounds.into_iter().map(|(c, t)| (Rgb::from_u32(c), t)).collect();
        let (said, can) = said_and_true(&conditions, fade, &grounds);
        let stays_plain = |(ground, target): &(Rgb, f64)| contrast_ratio(MOVES, *ground) >= *target;
        // What a color is plainly and what it looks like hang together in more than is proved, as do a text and what a
        // ground leaves of it; and what 256 colors lack is not looked at.
        let is_whole = fade >= 1.0 && dimmed.is_none() && !is_indexed;
        let is_all_proved = is_whole
            && match vision {
                Vision::Full | Vision::Gray => opacity >= 1.0 || vision.is_full(),
                _ => opacity >= 1.0 && !grounds.iter().any(stays_plain),
            };
        let is_proved = |why: &String| why.contains("at any lightness");
        match can {
            // Where all can be read at once, nothing is said to contradict.
            [true, _] => prop_assert!(!said.iter().any(is_proved), "{said:?}"),
            [_, false] if is_all_proved => prop_assert!(said.iter().any(is_proved), "{said:?}"),
            _ => {}
        }
    }
    #[test]
    fn nothing_met_is_lost_and_nothing_locked_moves(text in random_setup()) {
        let doc = doc(&text);
        let wishes = usual_wishes(doc.setup());
        let begun = std::time::Instant::now();
        let repair = run(&doc, &wishes, &Scope::Palette, &Conditions::default());
        // Milliseconds as a rule; generous, since a busy machine may stop us for a while.
        prop_assert!(begun.elapsed().as_secs() < 20);
        let after = repair.carried_out(&doc, &"a".into()).unwrap();
        let (old, new) = (Look::new(doc.setup()), Look::new(after.setup()));
        for (wish, outcome) in wishes.iter().zip(&repair.outcomes) {
            let ratio = |look: &Look| contrast_ratio(look.color(&wish.text), look.color(&wish.ground));
            prop_assert!((ratio(&old) - outcome.before).abs() < 1e-9);
            prop_assert!((ratio(&new) - outcome.after).abs() < 1e-9, "{} on {}: {} {}", wish.text, wish.ground, ratio(&new), outcome.after);
            prop_assert!(ratio(&old) < wish.target || ratio(&new) >= wish.target, "{} on {}", wish.text, wish.ground);
        }
        for name in &doc.setup().palette().locked {
            let role = RoleId::new(name.clone());
            prop_assert_eq!(old.color(&role), new.color(&role), "{}", name);
        }
        if text.len() % 8 == 0 {
            let again = run(&doc, &wishes, &Scope::Palette, &Conditions::default());
            prop_assert_eq!(&repair, &again);
        }
    }
}

#[test]
fn one_pair_through_a_translucent_window_is_mended_for_good() {
    let doc =
        doc("[palettes.a]\nforeground='#d7d6cc'\nbackground='#0d191c'\nbright-black='#455356'\n");
    let wishes = [Wish {
        text: RoleId::known("bright-black"),
        ground: RoleId::known("background"),
        target: 3.0,
        fade: 1.0,
        rounding: Rounding::Nearest,
    }];
    for opacity in [0.95, 0.85, 0.7] {
        let through = Conditions {
            opacity,
            ..Conditions::default()
        };
        let repair = run(&doc, &wishes, &Scope::Palette, &through);
        assert!(repair.outcomes[0].met, "{opacity} {repair:?}");
        assert!(repair.outcomes[0].after < 3.2, "{opacity} {repair:?}");
    }
}

/// Palettes as people make them: a ground, and colors around the circle, a few of them too near
/// to the ground in lightness. The same on every run.
fn palettes() -> Vec<String> {
    let mut state = 12_345u64;
    let mut next = move || {
        state = state
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as f64 / (1u64 << 31) as f64
    };
    let mut out = Vec::new();
    for i in 0..40 {
        let dark = i % 2 == 0;
        let flip = |l: f64| if dark { l } else { 1.0 - l };
        let hue = next() * 360.0;
        let mut text = format!(
            "[palettes.a]\nvariant='{}'\n",
            if dark { "dark" } else { "light" }
        );
        for slot in Slot::ALL {
            let (l, c, h) = match slot {
                Slot::Background => (flip(0.12 + 0.1 * next()), 0.02, hue),
                Slot::Selection => (flip(0.3 + 0.1 * next()), 0.03, hue),
                Slot::Foreground => (flip(0.85), 0.02, hue),
                _ => (
                    flip(0.45 + 0.35 * next()),
                    0.05 + 0.1 * next(),
                    next() * 360.0,
                ),
            };
            let color = Oklch { l, c, h }.to_rgb();
            text.push_str(&format!("{}='{color}'\n", slot.key()));
        }
        out.push(text);
    }
    out
}

/// Every text of the 16 on the ground and on the selection.
fn text_wishes() -> Vec<Wish> {
    let grounds = [Slot::Background, Slot::Selection];
    let texts = Slot::ALL
        .into_iter()
        .filter(|s| s.ansi().is_some_and(|i| i % 8 != 0));
    texts
        .flat_map(|text| {
            grounds.map(|ground| Wish {
                text: text.into(),
                ground: ground.into(),
                target: if ground == Slot::Selection { 3.0 } else { 4.5 },
                fade: 1.0,
                rounding: Rounding::Nearest,
            })
        })
        .collect()
}

/// What a person does by hand: each color is made lighter or darker until its worst pair passes.
fn pushed(palette: &Palette, wishes: &[Wish]) -> Palette {
    let mut out = palette.clone();
    for slot in Slot::ALL {
        let own: Vec<&Wish> = wishes.iter().filter(|w| w.text == slot.into()).collect();
        let passes = |color: Rgb| {
            own.iter().all(|w| {
                let ground = palette.slot(Slot::from_key(w.ground.as_str()).unwrap());
                contrast_ratio(color, ground) >= w.target
            })
        };
        let from = Oklch::from(palette.slot(slot));
        let away = (1..=200).map(|i| f64::from(i) / 200.0);
        let steps = std::iter::once(0.0).chain(away);
        let found = steps
            .flat_map(|d| [from.l + d, from.l - d])
            .filter(|l| (0.0..=1.0).contains(l))
            .map(|l| {
                if l == from.l {
                    palette.slot(slot)
                } else {
                    Oklch { l, ..from }.to_rgb()
                }
            })
            .find(|c| passes(*c));
        out.slots.insert(slot, found.unwrap_or(palette.slot(slot)));
    }
    out
}

#[test]
fn a_repair_changes_less_than_pushing_each_color_alone() {
    let wishes = text_wishes();
    let (mut ours, mut by_hand, mut merged, mut unmet) = (0.0, 0.0, 0, 0);
    for text in palettes() {
        let doc = doc(&text);
        let palette = doc.setup().palette();
        let repair = run(&doc, &wishes, &Scope::Palette, &Conditions::default());
        unmet += repair.obstacles.len();
        let pushed = pushed(palette, &wishes);
        // The same measure for both: every pair's two colors, squared.
        let weight = |s: Slot| {
            let drawn = wishes
                .iter()
                .filter(|w| w.text == s.into() || w.ground == s.into());
            drawn.count().max(1) as f64
        };
        let total: f64 = Slot::ALL
            .into_iter()
            .map(|s| weight(s) * oklab_distance(palette.slot(s), pushed.slot(s)).powi(2))
            .sum();
        ours += repair.total;
        by_hand += total;
        // By hand colors end up alike; a repair keeps them apart.
        let alike = |p: &Palette| {
            let all = p.ansi();
            let twos = (0..16).flat_map(|i| (i + 1..16).map(move |j| (i, j)));
            twos.filter(|(i, j)| difference(all[*i], all[*j]) < crate::pair::TOO_ALIKE - 0.1)
                .count()
        };
        let after = repair.carried_out(&doc, &"a".into()).unwrap();
        let kept = after.setup().palette();
        assert!(
            alike(kept) <= alike(palette),
            "{} and not {}",
            alike(kept),
            alike(palette)
        );
        merged += alike(&pushed).saturating_sub(alike(palette));
    }
    println!(
        "total change over 40 palettes: {ours:.2}; pushing each color alone {by_hand:.2}, and {merged} times two of the 16 end up too alike"
    );
    println!(
        "{unmet} of {} pairs found no place apart from the others",
        40 * wishes.len()
    );
    assert!(unmet <= 8, "{unmet}");
    assert!(ours < by_hand * 0.9, "{ours:.3} and not {by_hand:.3}");
}
