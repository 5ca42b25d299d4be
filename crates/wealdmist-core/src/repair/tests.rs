use super::*;
use crate::color::{Oklch, Vision, contrast_ratio};
use crate::condition::Conditions;
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
    let after = repair.carried_out(&doc, "a").unwrap();
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
    let after = repair.carried_out(&doc, "a").unwrap();
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
    });
    let after = found.carried_out(&doc, "a").unwrap();
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
    #![proptest_config(ProptestConfig::with_cases(1000))]
    #[test]
    fn nothing_met_is_lost_and_nothing_locked_moves(text in random_setup()) {
        let doc = doc(&text);
        let wishes = usual_wishes(doc.setup());
        let begun = std::time::Instant::now();
        let repair = run(&doc, &wishes, &Scope::Palette, &Conditions::default());
        // A budget, generous for a slow and busy machine.
        prop_assert!(begun.elapsed().as_millis() < 2000);
        let after = repair.carried_out(&doc, "a").unwrap();
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
