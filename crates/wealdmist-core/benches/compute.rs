//! The computations behind a frame: `cargo bench -p wealdmist-core`.

#![allow(clippy::unwrap_used, missing_docs)]

use criterion::{Criterion, criterion_group, criterion_main};
use std::hint::black_box;
use wealdmist_core::color::{Oklch, Rgb};
use wealdmist_core::look::Look;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::specimen::Specimen;
use wealdmist_core::{font, glyph, pair};

fn compute(c: &mut Criterion) {
    let text = wealdmist_core::setup::first_setup("Bench", None, &[]);
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
    let file = "set -g status-left '#[fg=#112233] \u{e0a0} x'\n".repeat(2_000);
    c.bench_function("scan 80 KB for glyphs", |b| {
        b.iter(|| glyph::scan(black_box(file.as_bytes())).count());
    });
    let bytes = wealdmist_core::demo::fonts::complete();
    c.bench_function("coverage of a font with 1900 glyphs", |b| {
        b.iter(|| font::coverage(black_box(&bytes), 0).unwrap());
    });
}

criterion_group!(benches, compute);
criterion_main!(benches);
