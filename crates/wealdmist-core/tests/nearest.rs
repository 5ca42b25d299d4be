//! Repairs beside the best there is, found by going through all colors: `WEALDMIST_PALETTES` says how many.

#![allow(
    clippy::disallowed_methods,
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs
)]

mod common;

use common::{Chance, asked, how_many};
use wealdmist_core::color::{
    Oklch, Rgb, Rounding, Vision, contrast_ratio, difference, oklab_distance,
};
use wealdmist_core::condition::{Behind, Conditions, Sight};
use wealdmist_core::look::{Look, Origin};
use wealdmist_core::pair::GROUNDS_APART;
use wealdmist_core::repair::{Repair, Wish, repair};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::SetupDoc;

fn any_color(chance: &mut Chance) -> Rgb {
    let (l, c) = (chance.next(), chance.within(0.0, 0.15));
    let h = chance.next() * 360.0;
    Oklch { l, c, h }.to_rgb()
}

fn wish(text: &'static str, ground: &'static str, target: f64) -> Wish {
    Wish {
        text: RoleId::known(text),
        ground: RoleId::known(ground),
        target,
        fade: 1.0,
        rounding: Rounding::Nearest,
    }
}

/// The best there is for a few colors, found by going through all of them: each text on a still ground by
/// itself, at every lightness and chroma of its hue.
fn best_by_hand(text: Rgb, grounds: &[(Rgb, f64)]) -> Option<f64> {
    let from = Oklch::from(text);
    let passes = |color: Rgb| grounds.iter().all(|(g, t)| contrast_ratio(color, *g) >= *t);
    if passes(text) {
        return Some(0.0);
    }
    let mut best: Option<f64> = None;
    for l in 0..=400 {
        for c in 0..=60 {
            let (l, c) = (f64::from(l) / 400.0, from.c * f64::from(c) / 60.0);
            let color = Oklch { l, c, h: from.h };
            if !color.in_gamut() || !passes(color.to_rgb()) {
                continue;
            }
            let cost = oklab_distance(text, color.to_rgb()).powi(2);
            best = Some(best.map_or(cost, |b| b.min(cost)));
        }
    }
    best
}

#[test]
fn a_repair_is_about_as_near_as_the_best_of_all_colors() {
    let mut chance = Chance(9);
    let mut shares = Vec::new();
    let mut unmet = (0, 0);
    for _ in 0..how_many(40) {
        let mut color = || {
            let (c, h) = (chance.within(0.0, 0.15), chance.next() * 360.0);
            let l = chance.next();
            Oklch { l, c, h }.to_rgb()
        };
        // Any ground, and texts that have nothing to do with one another.
        let (ground, bar) = (color(), color());
        let texts: Vec<Rgb> = (0..3).map(|_| color()).collect();
        let names = ["comment", "keyword", "string"];
        let mut text = format!(
            "[palettes.a]\nbackground='{ground}'\nforeground='#808080'\nlocked=['background','bar.ground']\n[roles]\n'bar.ground'='{bar}'\n"
        );
        let mut wishes = Vec::new();
        for (i, (name, color)) in names.iter().zip(&texts).enumerate() {
            text += &format!("{name}='{color}'\n");
            wishes.push(wish(name, "background", 4.5));
            // The first has to be read on both.
            if i == 0 {
                wishes.push(wish(name, "bar.ground", 3.0));
            }
        }
        let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
        let done = repair(&asked(&doc, &wishes, &Conditions::default()));
        for (i, (name, color)) in names.iter().zip(&texts).enumerate() {
            let mut grounds = vec![(ground, 4.5)];
            if i == 0 {
                grounds.push((bar, 3.0));
            }
            let best = best_by_hand(*color, &grounds);
            let origin = Origin::Role(RoleId::known(name));
            let ours = done.changes.iter().find(|c| c.origin == origin);
            let all_met = done
                .outcomes
                .iter()
                .zip(&wishes)
                .all(|(o, w)| o.met || w.text.as_str() != *name);
            unmet.0 += usize::from(!all_met);
            unmet.1 += usize::from(best.is_none());
            if let (Some(best), true) = (best, all_met) {
                let ours = ours.map_or(0.0, |c| oklab_distance(c.from, c.to).powi(2));
                if best > 0.0 {
                    shares.push((ours / best).sqrt());
                } else {
                    assert_eq!(ours, 0.0, "{text}");
                }
            }
        }
    }
    shares.sort_by(f64::total_cmp);
    let median = shares[shares.len() / 2];
    println!(
        "{} colors moved as far as {median:.3} times the nearest that passes (median), {:.3} at most; {} found no place, of which {} have none",
        shares.len(),
        shares[shares.len() - 1],
        unmet.0,
        unmet.1
    );
    assert!(median <= 1.02, "{median}");
    assert!(shares[shares.len() * 19 / 20] <= 1.05, "{shares:?}");
    assert_eq!(unmet.0, unmet.1);
}

/// A few colors that hang on one another.
struct Case {
    doc: SetupDoc,
    wishes: Vec<Wish>,
    conditions: Conditions,
    /// The colors that may move: one or two grounds, then texts.
    colors: Vec<Color>,
    grounds: usize,
    /// The grounds that stay.
    still: Vec<Rgb>,
}

/// A color with the roles it is of.
struct Color {
    color: Rgb,
    roles: Vec<&'static str>,
    /// In how many demands it has a part.
    weight: f64,
}

impl Color {
    fn is_of(&self, role: &RoleId) -> bool {
        self.roles.contains(&role.as_str())
    }
}

/// A color that is looked at, and what it costs.
struct Place {
    color: Rgb,
    cost: f64,
}

/// The colors of a hue, as `steps` divides lightness, and a tenth of them chroma; the nearest first.
fn places(from: &Color, steps: u16) -> Vec<Place> {
    let base = Oklch::from(from.color);
    let mut out = vec![Place {
        color: from.color,
        cost: 0.0,
    }];
    let part = |i: u16, of: u16| f64::from(i) / f64::from(of);
    for l in 0..=steps {
        for c in 0..=steps / 10 {
            let color = Oklch {
                l: part(l, steps),
                c: base.c * part(c, steps / 10),
                h: base.h,
            };
            if color.in_gamut() {
                let color = color.to_rgb();
                let cost = from.weight * oklab_distance(from.color, color).powi(2);
                out.push(Place { color, cost });
            }
        }
    }
    out.sort_by(|a, b| a.cost.total_cmp(&b.cost));
    out
}

/// Which places of a color pass, one bit each.
#[derive(Clone)]
struct Passing(Vec<u64>);

impl Passing {
    fn of(all: impl ExactSizeIterator<Item = bool>) -> Self {
        let mut out = vec![0; all.len().div_ceil(64)];
        for (i, passes) in all.enumerate() {
            out[i / 64] |= u64::from(passes) << (i % 64);
        }
        Self(out)
    }

    fn has(&self, i: usize) -> bool {
        self.0[i / 64] >> (i % 64) & 1 == 1
    }

    /// The first place at which both pass.
    fn first(&self, other: &Self) -> Option<usize> {
        let both = || self.0.iter().zip(&other.0).map(|(a, b)| a & b);
        let at = both().position(|bits| bits != 0)?;
        Some(at * 64 + both().nth(at)?.trailing_zeros() as usize)
    }
}

/// The distance that two grounds keep of the one they have.
fn kept(now: f64) -> f64 {
    match now {
        now if now < 1.0 => 0.0,
        now if now >= GROUNDS_APART - 0.1 => GROUNDS_APART - 0.1,
        now => (now / 0.2).floor() * 0.2,
    }
}

impl Case {
    fn by_chance(chance: &mut Chance, conditions: Conditions) -> Self {
        let (background, selection) = (any_color(chance), any_color(chance));
        let grounds: &[&str] = chance.one(&[&["bar.ground"][..], &["bar.ground", "popup.ground"]]);
        let texts = ["keyword", "string", "comment", "function"];
        let texts = &texts[..chance.one(&[2, 3, 4])];
        let color = |role, color| Color {
            color,
            roles: vec![role],
            weight: 0.0,
        };
        let of_grounds = grounds.iter().map(|role| color(*role, any_color(chance)));
        let mut colors: Vec<Color> = of_grounds.collect();
        let mut wishes = Vec::new();
        for name in texts {
            let mut on: Vec<&str> = grounds.iter().copied().chain(["background"]).collect();
            // Some texts have the color that is a ground elsewhere.
            if chance.next() < 0.15 {
                colors[0].roles.push(name);
                on.remove(0);
            } else {
                colors.push(color(name, any_color(chance)));
            }
            let first = chance.one(&on);
            let target = chance.one(&[3.0, 4.5, 4.5, 7.0]);
            on.retain(|ground| *ground == first || chance.next() < 0.3);
            wishes.extend(on.into_iter().map(|ground| wish(name, ground, target)));
        }
        let mut text = format!(
            "[palettes.a]\nbackground='{background}'\nselection='{selection}'\nlocked=['background','selection']\n[palettes.a.colors]\n"
        );
        for (i, color) in colors.iter().enumerate() {
            text += &format!("own{i}='{}'\n", color.color);
        }
        text += "[roles]\n";
        for (i, color) in colors.iter().enumerate() {
            for role in &color.roles {
                text += &format!("'{role}'='own{i}'\n");
            }
        }
        let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
        let look = Look::new(doc.setup());
        for color in &mut colors {
            let own = wishes
                .iter()
                .filter(|w| color.is_of(&w.text) || color.is_of(&w.ground));
            // What can be read plainly has to stay so under other conditions: that counts, too.
            let counts = own.map(|w| 1 + usize::from(!conditions.is_plain() && was_met(w, &look)));
            color.weight = counts.sum::<usize>().max(1) as f64;
        }
        Self {
            doc,
            wishes,
            conditions,
            colors,
            grounds: grounds.len(),
            still: vec![background, selection],
        }
    }

    /// What a repair costs.
    fn cost(&self, done: &Repair) -> f64 {
        let costs = done.changes.iter().map(|change| {
            let own = self.colors.iter().find(|c| c.color == change.from);
            own.unwrap().weight * oklab_distance(change.from, change.to).powi(2)
        });
        costs.sum()
    }

    fn passes(&self, wish: &Wish, look: &Look, text: Rgb, ground: Rgb) -> bool {
        let sight = Sight {
            text,
            ground,
            fade: wish.fade,
            in_pane: wish.text.stands_in_pane(),
            rounding: wish.rounding,
        };
        let stays = !was_met(wish, look) || contrast_ratio(text, ground) >= wish.target;
        stays && self.conditions.see(sight, look).ratio >= wish.target
    }

    /// Whether two grounds are as far apart as they have to be.
    fn apart(&self, was: [Rgb; 2], now: [Rgb; 2]) -> bool {
        let views = [Vision::Full, self.conditions.vision];
        views.iter().all(|view| {
            let far = |two: [Rgb; 2]| difference(view.see(two[0]), view.see(two[1]));
            far(now) >= kept(far(was))
        })
    }

    /// Whether a color passes beside what stays.
    fn passes_alone(&self, i: usize, look: &Look, place: Rgb) -> bool {
        let color = &self.colors[i];
        let moves = |role: &RoleId| self.colors.iter().any(|c| c.is_of(role));
        let mut own = self.wishes.iter();
        let read = own.all(|w| {
            let is_about = color.is_of(&w.text) && !moves(&w.ground);
            !is_about || self.passes(w, look, place, look.color(&w.ground))
        });
        let mut still = self.still.iter();
        read && (i >= self.grounds || still.all(|s| self.apart([color.color, *s], [place, *s])))
    }

    /// The least cost at which everything is met, by going through all places of the grounds, each text
    /// taking its nearest; `None` where there is no way.
    fn best(&self) -> Option<f64> {
        let look = Look::new(self.doc.setup());
        let all: Vec<Vec<Place>> = (0..self.colors.len())
            .map(|i| {
                let steps = if i < self.grounds && self.grounds > 1 {
                    50
                } else {
                    100
                };
                places(&self.colors[i], steps)
            })
            .collect();
        let alone: Vec<Passing> = (0..all.len())
            .map(|i| {
                let passes = |p: &Place| self.passes_alone(i, &look, p.color);
                Passing::of(all[i].iter().map(passes))
            })
            .collect();
        // For a text and a ground the places of the text that pass, for each of the ground's.
        let table = |text: usize, ground: usize| -> Vec<Passing> {
            let (t, g) = (&self.colors[text], &self.colors[ground]);
            let wishes = self
                .wishes
                .iter()
                .filter(|w| t.is_of(&w.text) && g.is_of(&w.ground));
            let wishes: Vec<&Wish> = wishes.collect();
            let on = |(k, place): (usize, &Place)| {
                if wishes.is_empty() || !alone[ground].has(k) {
                    return alone[text].clone();
                }
                Passing::of(all[text].iter().enumerate().map(|(j, t)| {
                    let mut wishes = wishes.iter();
                    alone[text].has(j)
                        && wishes.all(|w| self.passes(w, &look, t.color, place.color))
                }))
            };
            all[ground].iter().enumerate().map(on).collect()
        };
        let last = self.grounds - 1;
        let tables: Vec<[Vec<Passing>; 2]> = (0..all.len())
            .map(|text| {
                let other = match last {
                    0 => vec![alone[text].clone(); all[0].len()],
                    _ => table(text, last),
                };
                [table(text, 0), other]
            })
            .collect();
        let mut best = f64::MAX;
        for (i, one) in all[0].iter().enumerate().filter(|(i, _)| alone[0].has(*i)) {
            let others = if last == 0 {
                i..i + 1
            } else {
                0..all[last].len()
            };
            for j in others {
                let other = &all[last][j];
                let grounds = one.cost + if last == 0 { 0.0 } else { other.cost };
                if grounds >= best {
                    break;
                }
                let was = [self.colors[0].color, self.colors[last].color];
                let together = last == 0
                    || (self.apart(was, [one.color, other.color])
                        && tables[0][1][j].has(i)
                        && tables[last][0][i].has(j));
                if !alone[last].has(j) || !together {
                    continue;
                }
                let texts = (self.grounds..all.len()).map(|text| {
                    let first = tables[text][0][i].first(&tables[text][1][j])?;
                    Some(all[text][first].cost)
                });
                let texts: Option<f64> = texts.sum();
                best = best.min(texts.map_or(f64::MAX, |texts| grounds + texts));
            }
        }
        (best < f64::MAX).then_some(best)
    }
}

fn was_met(wish: &Wish, look: &Look) -> bool {
    contrast_ratio(look.color(&wish.text), look.color(&wish.ground)) >= wish.target
}

/// Colors that hang together, under a condition.
fn holds_beside_all_colors(conditions: &Conditions) {
    let mut chance = Chance(5);
    let mut shares = Vec::new();
    let (mut missed, mut without) = (0, 0);
    for _ in 0..how_many(16) {
        let case = Case::by_chance(&mut chance, conditions.clone());
        let done = repair(&asked(&case.doc, &case.wishes, conditions));
        let is_met = done.outcomes.iter().all(|o| o.met);
        match case.best() {
            Some(best) if is_met && best > 0.0 => shares.push((case.cost(&done) / best).sqrt()),
            Some(_) if is_met => assert!(done.changes.is_empty(), "{:?}", done.changes),
            Some(_) => missed += 1,
            None => without += 1,
        }
    }
    shares.sort_by(f64::total_cmp);
    let [median, most] = [shares.len() / 2, shares.len() * 19 / 20].map(|i| shares[i]);
    println!(
        "{}: {} repairs are {median:.3} times as far as the nearest (median), {most:.3} (of 95 in 100), {:.3} (most); {missed} missed, {without} without a way",
        conditions.label(),
        shares.len(),
        shares[shares.len() - 1],
    );
    assert!(median <= 1.02, "{median}");
    assert!(most <= 1.15, "{shares:?}");
    assert!(missed <= how_many(16) / 50, "{missed}");
}

#[test]
fn colors_that_hang_together_go_about_as_far_as_the_best_of_all_would() {
    holds_beside_all_colors(&Conditions::default());
}

#[test]
fn colors_that_hang_together_go_no_further_for_other_visions() {
    for vision in [Vision::Protan(1.0), Vision::Tritan(1.0), Vision::Gray] {
        holds_beside_all_colors(&Conditions {
            vision,
            ..Conditions::default()
        });
    }
}

#[test]
fn colors_that_hang_together_go_no_further_where_they_are_seen_through_something() {
    holds_beside_all_colors(&Conditions {
        dimmed: Some(0.7),
        ..Conditions::default()
    });
    holds_beside_all_colors(&Conditions {
        opacity: 0.9,
        behind: Behind::Worst,
        ..Conditions::default()
    });
}
