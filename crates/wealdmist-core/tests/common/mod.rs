//! What tests of repairs have in common.

use wealdmist_core::condition::Conditions;
use wealdmist_core::repair::{Background, Request, Scope, Wish};
use wealdmist_core::setup::SetupDoc;

/// Numbers by chance, the same on every run.
pub struct Chance(pub u64);

impl Chance {
    pub fn next(&mut self) -> f64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as f64 / (1u64 << 31) as f64
    }

    pub fn within(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.next()
    }

    pub fn one<T: Copy>(&mut self, all: &[T]) -> T {
        all[((self.next() * all.len() as f64) as usize).min(all.len() - 1)]
    }
}

/// How many palettes are gone through: `WEALDMIST_PALETTES`, or as many as usual.
pub fn how_many(usual: usize) -> usize {
    let said = std::env::var("WEALDMIST_PALETTES");
    said.ok().and_then(|n| n.parse().ok()).unwrap_or(usual)
}

/// The repair of a whole palette.
pub fn asked<'a>(doc: &'a SetupDoc, wishes: &'a [Wish], conditions: &'a Conditions) -> Request<'a> {
    Request {
        setup: doc.setup(),
        palette: doc.setup().palette(),
        wishes,
        conditions,
        scope: &Scope::Palette,
        meanings: false,
        background: Background::IfNeeded,
    }
}
