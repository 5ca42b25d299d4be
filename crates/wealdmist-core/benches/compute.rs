//! The computations behind a frame: `cargo bench -p wealdmist-core`.

#![allow(
    clippy::disallowed_methods,
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs
)]

use criterion::{Criterion, criterion_group, criterion_main};
use std::hint::black_box;
use wealdmist_core::color::{Depth, Oklch, Rgb, Vision};
use wealdmist_core::condition::{Behind, Conditions};
use wealdmist_core::look::{Look, Origin};
use wealdmist_core::repair::{Background, Request, Scope, repair, usual_wishes};
use wealdmist_core::role::{ROLES, RoleId, Slot};
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::specimen::Specimen;
use wealdmist_core::{font, glyph, pair};

fn compute(c: &mut Criterion) {
    let text = wealdmist_core::first::first_setup("Bench", None, &[]);
    let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
    let look = Look::new(doc.setup());
    c.bench_function("read a setup file", |b| {
        b.iter(|| SetupDoc::parse("s", black_box(text.as_bytes())).unwrap());
    });
    c.bench_function("resolve a look", |b| {
        b.iter(|| Look::new(black_box(doc.setup())))
    });
    c.bench_function("draw a specimen of 70 by 42", |b| {
        b.iter(|| Specimen::draw(doc.setup(), &look, 70, 42, true));
    });
    c.bench_function("mend one color", |b| {
        b.iter(|| pair::mend(black_box(Rgb::new(64, 80, 96)), Rgb::new(13, 25, 28), 4.5));
    });
    c.bench_function("gamut-map one color", |b| {
        b.iter(|| {
            black_box(Oklch {
                l: 0.7,
                c: 0.39,
                h: 200.0,
            })
            .to_rgb()
        });
    });
    repairs(c);
    let file = "set -g status-left '#[fg=#112233] \u{e0a0} x'\n".repeat(2_000);
    c.bench_function("scan 80 KB for glyphs", |b| {
        b.iter(|| glyph::scan(black_box(file.as_bytes()), glyph::Syntax::Shell).len());
    });
    let bytes = wealdmist_core::demo::fonts::complete();
    c.bench_function("coverage of a font with 1900 glyphs", |b| {
        b.iter(|| font::coverage(black_box(&bytes), 0).unwrap());
    });
}

/// A whole palette of 40 colors whose hues are as bright as the ground is dark by half, so that
/// about half of its 80 pairs have to move.
fn repairs(c: &mut Criterion) {
    let mut text = String::from("[palettes.a]\n");
    let color = |l: f64, i: usize| {
        Oklch {
            l,
            c: 0.09,
            h: i as f64 * 47.0,
        }
        .to_rgb()
    };
    for (i, slot) in Slot::ALL.iter().enumerate() {
        let l = match slot {
            Slot::Background | Slot::CursorText => 0.2,
            Slot::Foreground | Slot::SelectionText => 0.88,
            Slot::Selection => 0.32,
            _ => 0.42 + (i % 5) as f64 * 0.09,
        };
        text.push_str(&format!("{}='{}'\n", slot.key(), color(l, i)));
    }
    text.push_str("[roles]\n");
    let own = ROLES
        .iter()
        .filter(|k| Slot::from_key(k.id).is_none())
        .step_by(4);
    for (i, known) in own.enumerate().take(18) {
        let ground = RoleId::known(known.id).is_ground();
        let l = if ground {
            0.27
        } else {
            0.4 + (i % 4) as f64 * 0.12
        };
        text.push_str(&format!("'{}'='{}'\n", known.id, color(l, i + 3)));
    }
    let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
    let wishes: Vec<_> = usual_wishes(doc.setup()).into_iter().take(80).collect();
    let plain = Conditions::default();
    let one = Scope::Color(Origin::Slot(Slot::Red));
    let under = |name: &str, conditions| {
        let name = format!("repair 80 pairs of 40 colors, {name}");
        (name, Scope::Palette, conditions)
    };
    let see = |vision| Conditions {
        vision,
        ..plain.clone()
    };
    let see_through = Conditions {
        opacity: 0.95,
        ..plain.clone()
    };
    let dimmed = Conditions {
        dimmed: Some(0.8),
        ..plain.clone()
    };
    let indexed = Conditions {
        depth: Depth::Indexed256,
        ..plain.clone()
    };
    let all = Conditions {
        opacity: see_through.opacity,
        behind: Behind::Worst,
        dimmed: dimmed.dimmed,
        depth: Depth::Indexed256,
        vision: Vision::Deutan(0.6),
    };
    for (name, scope, conditions) in [
        under("plain", plain.clone()),
        ("repair one color".to_owned(), one, plain.clone()),
        under("see-through", see_through),
        under("dimmed", dimmed),
        under("256 colors", indexed),
        under("protanopia", see(Vision::Protan(1.0))),
        under("deuteranopia", see(Vision::Deutan(1.0))),
        under("tritanopia", see(Vision::Tritan(1.0))),
        under("grayscale", see(Vision::Gray)),
        under("all conditions at once", all),
    ] {
        let request = Request {
            setup: doc.setup(),
            palette: doc.setup().palette(),
            wishes: &wishes,
            conditions: &conditions,
            scope: &scope,
            meanings: true,
            background: Background::IfNeeded,
        };
        let done = repair(&request);
        let failing = done.failing_before(&wishes);
        println!(
            "{name}: {} pairs, {failing} below their target, {} after, {} colors move",
            wishes.len(),
            done.obstacles.len(),
            done.changes.len()
        );
        c.bench_function(&name, |b| b.iter(|| repair(black_box(&request))));
    }
}

criterion_group!(benches, compute);
criterion_main!(benches);
