//! What a demand asks of two luminances where its colors are not seen as they are: a part of the text
//! taken by the ground, something behind the ground, or a vision besides.
//!
//! What is seen is put together channel by channel in encoded values. Over all colors of one luminance
//! the luminance of what comes of it is greatest for gray and least where each channel is full or empty
//! (Jensen's inequality: the sum is concave in linear light, as (a·x^(1/p) + b)^p is for p > 1), so the
//! least that is asked of the luminances of text and ground follows from those two. It is less than
//! what is needed, never more: what it rules out no colors can do.

use crate::color::{Rgb, Vision, contrast_ratio, decode, encode, over, relative_luminance};

/// What is left of a target, for the ends of the curve near black, 8 bits and the net.
const SURE: f64 = 0.98;
/// How many luminances of a ground are looked at.
const NET: usize = 128;

/// What a demand asks one way round, in logarithms of luminances (plus 0.05); an end that is not bounded is infinite.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Asked {
    /// The end of the text: the least where it is the lighter one, else the most.
    pub(super) text: f64,
    /// The end of the ground: the most where the text is the lighter one, else the least.
    pub(super) ground: f64,
    /// The least by which one is above the other.
    pub(super) apart: f64,
}

/// How a text on a ground is seen.
#[derive(Debug, Clone, Copy)]
pub(super) struct Seen<'a> {
    pub(super) target: f64,
    /// How much of the text is left, 0–1.
    pub(super) left: f64,
    /// How much of the ground is left, 0–1.
    pub(super) opacity: f64,
    /// What is behind the ground, all of which the text has to be read on.
    pub(super) behind: &'a [Rgb],
    pub(super) vision: Vision,
}

impl Seen<'_> {
    /// What is asked where the text is the lighter one, and where it is the darker one; `None` where no
    /// colors meet it so. The ground may be any color, or is one.
    pub(super) fn asked(&self, ground: Option<Rgb>) -> [Option<Asked>; 2] {
        [true, false].map(|lighter| match (self.vision.is_full(), ground) {
            (true, Some(ground)) => self.on_one(lighter, ground),
            (true, None) => self.on_any(lighter),
            (false, _) => self.with_vision(lighter, ground),
        })
    }

    /// A ground as it comes to be seen over each color behind it.
    fn grounds(&self, ground: Rgb) -> Vec<Rgb> {
        match self.behind {
            [] => vec![ground],
            all => all.iter().map(|b| over(ground, self.opacity, *b)).collect(),
        }
    }

    /// What is asked of a text on a ground that stays.
    fn on_one(&self, lighter: bool, ground: Rgb) -> Option<Asked> {
        let grounds = self.grounds(ground);
        let best = end(lighter);
        let reaches = |g: &Rgb| contrast_ratio(over(best, self.left, *g), *g) >= self.target;
        let range = |g: &Rgb| [relative_luminance(*g); 2];
        grounds.iter().all(reaches).then_some(())?;
        Some(Asked {
            text: log(self.text(lighter, grounds.iter().map(range))?),
            ground: open(lighter),
            apart: f64::NEG_INFINITY,
        })
    }

    /// What is asked where the ground may be any.
    fn on_any(&self, lighter: bool) -> Option<Asked> {
        let (black, step) = (log(0.0), 21.0_f64.ln() / NET as f64);
        let mut out: Option<Asked> = None;
        for i in 0..=NET {
            let ground = black + step * i as f64;
            let y = (ground.exp() - 0.05).clamp(0.0, 1.0);
            let ranges: Vec<[f64; 2]> = match self.behind {
                [] => vec![[y, y]],
                all => all.iter().map(|b| self.ground_over(y, *b)).collect(),
            };
            let Some(text) = self.text(lighter, ranges.into_iter()) else {
                continue;
            };
            let text = log(text);
            let apart = if lighter {
                text - ground
            } else {
                ground - text
            };
            let here = Asked {
                text,
                ground,
                apart,
            };
            let so_far = out.unwrap_or(here);
            let (near, far) = match lighter {
                true => (so_far.text.min(text), so_far.ground.max(ground)),
                false => (so_far.text.max(text), so_far.ground.min(ground)),
            };
            out = Some(Asked {
                text: near,
                ground: far,
                apart: so_far.apart.min(apart),
            });
        }
        // What is between two places of the net.
        let by = if lighter { step } else { -step };
        out.map(|a| Asked {
            text: a.text - by,
            ground: a.ground + by,
            apart: a.apart - 2.0 * step,
        })
    }

    /// The luminance a ground of a luminance has over a color: least and most.
    fn ground_over(&self, y: f64, behind: Rgb) -> [f64; 2] {
        let through = |x: f64, b: u8| {
            decode(self.opacity * encode(x) + (1.0 - self.opacity) * f64::from(b) / 255.0)
        };
        let channels = [behind.r, behind.g, behind.b];
        let ends = channels.map(|b| {
            let (gray, none, full) = (through(y, b), through(0.0, b), through(1.0, b));
            let split = none + (full - none) * y;
            [gray.min(split), gray.max(split)]
        });
        let [least, most] = [0, 1].map(|k| ends.map(|e| e[k]));
        [
            least.into_iter().fold(1.0, f64::min),
            most.into_iter().fold(0.0, f64::max),
        ]
    }

    /// The luminance a text must at least have (at most, where it is the darker one) to be read on all of some grounds, of
    /// each of which the luminance lies in a range.
    fn text(&self, lighter: bool, grounds: impl Iterator<Item = [f64; 2]>) -> Option<f64> {
        let mut out: f64 = if lighter { 0.0 } else { 1.0 };
        for range in grounds {
            let each = range.into_iter().filter_map(|g| self.text_on(lighter, g));
            out = match lighter {
                true => out.max(each.min_by(f64::total_cmp)?),
                false => out.min(each.max_by(f64::total_cmp)?),
            };
        }
        Some(out)
    }

    /// The same on a ground of one luminance.
    fn text_on(&self, lighter: bool, ground: f64) -> Option<f64> {
        let target = self.target * SURE;
        if self.left >= 1.0 {
            let text = match lighter {
                true => (target * (ground + 0.05) - 0.05).max(0.0),
                false => ((ground + 0.05) / target - 0.05).min(1.0),
            };
            return (0.0..=1.0).contains(&text).then_some(text);
        }
        let is_read = |text: f64| match lighter {
            true => self.most_left(text, ground) + 0.05 >= target * (ground + 0.05),
            false => (self.least_left(text, ground) + 0.05) * target <= ground + 0.05,
        };
        let (mut good, mut bad) = if lighter { (1.0, 0.0) } else { (0.0, 1.0) };
        if !is_read(good) {
            return None;
        }
        for _ in 0..16 {
            let middle = f64::midpoint(good, bad);
            match is_read(middle) {
                true => good = middle,
                false => bad = middle,
            }
        }
        Some(bad)
    }

    /// The most luminance that a text can have, of which the ground takes a part.
    fn most_left(&self, text: f64, ground: f64) -> f64 {
        decode(self.left * encode(text) + (1.0 - self.left) * encode(ground))
    }

    /// The least.
    fn least_left(&self, text: f64, ground: f64) -> f64 {
        // As many channels as can be are full in one of the two alone.
        let both = (text + ground - 1.0).max(0.0);
        let split =
            both + (text - both) * decode(self.left) + (ground - both) * decode(1.0 - self.left);
        split.min(self.most_left(text, ground))
    }

    /// The luminance that colors between two are seen with: no less and no more.
    fn range(&self, low: Rgb, high: Rgb) -> [f64; 2] {
        let (low, high) = (low.to_linear(), high.to_linear());
        let mut ends = [0.0; 2];
        for (row, weight) in self.vision.matrix().iter().zip([0.2126, 0.7152, 0.0722]) {
            let (mut least, mut most) = (0.0, 0.0);
            for i in 0..3 {
                let (a, b) = (row[i] * low[i], row[i] * high[i]);
                least += a.min(b);
                most += a.max(b);
            }
            ends[0] += weight * f64::clamp(least, 0.0, 1.0);
            ends[1] += weight * f64::clamp(most, 0.0, 1.0);
        }
        ends
    }

    /// What is asked of luminances as a vision has them: of the text alone.
    fn with_vision(&self, lighter: bool, ground: Option<Rgb>) -> Option<Asked> {
        let (black, white) = (Rgb::new(0, 0, 0), Rgb::new(255, 255, 255));
        let (low, high) = (ground.unwrap_or(black), ground.unwrap_or(white));
        let mut text: f64 = open(!lighter);
        for (low, high) in self.grounds(low).into_iter().zip(self.grounds(high)) {
            let ground = self.range(low, high);
            let left = self.range(over(black, self.left, low), over(white, self.left, high));
            let (log_ground, target) = (ground.map(log), (self.target * SURE).ln());
            let (needed, reached) = match lighter {
                true => (
                    log_ground[0] + target,
                    log(left[1]) >= log_ground[0] + target,
                ),
                false => (
                    log_ground[1] - target,
                    log(left[0]) <= log_ground[1] - target,
                ),
            };
            if !reached {
                return None;
            }
            if self.left >= 1.0 {
                text = if lighter {
                    text.max(needed)
                } else {
                    text.min(needed)
                };
            }
        }
        Some(Asked {
            text,
            ground: open(lighter),
            apart: f64::NEG_INFINITY,
        })
    }
}

/// White or black.
fn end(white: bool) -> Rgb {
    let c = if white { 255 } else { 0 };
    Rgb::new(c, c, c)
}

/// No bound above, or below.
fn open(above: bool) -> f64 {
    if above {
        f64::INFINITY
    } else {
        f64::NEG_INFINITY
    }
}

/// The logarithm of a luminance as contrast has it.
pub(super) fn log(luminance: f64) -> f64 {
    (luminance + 0.05).ln()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn color() -> impl Strategy<Value = Rgb> {
        let mixed = (0u32..0x0100_0000).prop_map(Rgb::from_u32);
        let channel = prop_oneof![Just(0u8), Just(255u8), any::<u8>()];
        let ends = proptest::array::uniform3(channel).prop_map(|[r, g, b]| Rgb::new(r, g, b));
        prop_oneof![mixed, ends]
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(800))]

        #[test]
        fn colors_that_can_be_read_have_what_is_asked(
            colors in (color(), color()),
            behind in proptest::collection::vec(color(), 0..3),
            opacity in 0.1..1.0_f64,
            left in prop_oneof![Just(1.0), 0.3..1.0_f64],
            vision in 0usize..5,
            is_still in any::<bool>(),
        ) {
            let vision = [
                Vision::Full,
                Vision::Full,
                Vision::Protan(1.0),
                Vision::Tritan(0.6),
                Vision::Gray,
            ][vision];
            let (text, ground) = colors;
            let mut seen = Seen { target: 1.0, left, opacity, behind: &behind, vision };
            // What the pair reaches is what is asked for.
            let pairs = seen.grounds(ground).into_iter().map(|g| {
                let [t, g] = [over(text, left, g), g].map(|c| vision.see(c));
                (contrast_ratio(t, g), relative_luminance(t) >= relative_luminance(g))
            });
            let pairs: Vec<(f64, bool)> = pairs.collect();
            let lighter = pairs[0].1;
            prop_assume!(pairs.iter().all(|p| p.1 == lighter));
            seen.target = pairs.iter().map(|p| p.0).fold(f64::MAX, f64::min);
            let [up, down] = seen.asked(is_still.then_some(ground));
            let asked = if lighter { up } else { down };
            let asked = asked.ok_or_else(|| TestCaseError::fail("said that no colors can do it"))?;
            let [t, g] = [text, ground].map(|c| log(relative_luminance(vision.see(c))));
            let sign = if lighter { 1.0 } else { -1.0 };
            prop_assert!(sign * (t - asked.text) >= 0.0, "text {t} of {asked:?}");
            if vision.is_full() {
                prop_assert!(sign * (asked.ground - g) >= 0.0, "ground {g} of {asked:?}");
                prop_assert!(sign * (t - g) >= asked.apart, "apart {} of {asked:?}", t - g);
            }
        }

        #[test]
        fn what_is_asked_is_about_what_is_needed(
            ground in color(),
            opacity in 0.4..1.0_f64,
            left in prop_oneof![Just(1.0), 0.5..1.0_f64],
            target in 1.5..7.0_f64,
        ) {
            let behind = [Rgb::new(0, 0, 0), Rgb::new(255, 255, 255)];
            let seen = Seen { target, left, opacity, behind: &behind, vision: Vision::Full };
            let grays = (0..=255).map(|c| Rgb::new(c, c, c));
            let can = |lighter: bool, ground: Rgb, share: f64| {
                grays.clone().any(|text| {
                    seen.grounds(ground).into_iter().all(|g| {
                        let t = over(text, left, g);
                        (relative_luminance(t) > relative_luminance(g)) == lighter
                            && contrast_ratio(t, g) >= target * share
                    })
                })
            };
            for (lighter, asked) in [true, false].into_iter().zip(seen.asked(Some(ground))) {
                prop_assert_eq!(asked.is_some(), can(lighter, ground, 1.0));
            }
            // Where any ground would do, what is ruled out for all is about what none of them can.
            for (lighter, asked) in [true, false].into_iter().zip(seen.asked(None)) {
                let some = grays.clone().any(|ground| can(lighter, ground, 0.9));
                prop_assert!(asked.is_none() || some, "{lighter} {asked:?}");
            }
        }
    }
}
