//! The colors of an image: clusters in OKLab.
//!
//! A histogram of 5 bits a channel, whose cells keep the mean of their pixels, stands for the
//! image; so the work after one pass over the pixels no longer depends on its size. Its cells are
//! clustered by k-means (S. P. Lloyd, "Least squares quantization in PCM", 1982), started
//! deterministically at the heaviest cell and then at whichever is furthest from all centers,
//! weighted by its pixels.

use crate::color::{Oklab, Rgb};

/// One of the colors of an image.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cluster {
    /// Its mean color.
    pub color: Rgb,
    /// How much of the image it is, 0–1.
    pub share: f64,
}

/// Rounds of moving centers; they rarely move after half of them.
const ROUNDS: usize = 16;

struct Point {
    at: [f64; 3],
    weight: f64,
}

/// The colors of an image, at most `count`, the largest share first. `pixels` are 8-bit sRGB, three
/// bytes each; what is left over at the end is ignored. The same pixels in any order give the same
/// clusters.
#[must_use]
pub fn clusters(pixels: &[u8], count: usize) -> Vec<Cluster> {
    let points = histogram(pixels);
    if points.is_empty() || count == 0 {
        return Vec::new();
    }
    let total: f64 = points.iter().map(|p| p.weight).sum();
    let mut centers = start(&points, count);
    let mut nearest = vec![0usize; points.len()];
    let mut weights = vec![0.0; centers.len()];
    for _ in 0..ROUNDS {
        let mut sums = vec![[0.0; 3]; centers.len()];
        weights.fill(0.0);
        let mut moved = false;
        for (point, own) in points.iter().zip(&mut nearest) {
            let best = closest(point.at, &centers);
            moved |= best != *own;
            *own = best;
            for (sum, at) in sums[best].iter_mut().zip(point.at) {
                *sum += at * point.weight;
            }
            weights[best] += point.weight;
        }
        for ((center, sum), weight) in centers.iter_mut().zip(&sums).zip(&weights) {
            if *weight > 0.0 {
                *center = sum.map(|s| s / weight);
            }
        }
        if !moved {
            break;
        }
    }
    let found = centers.into_iter().zip(weights).filter(|(_, w)| *w > 0.0);
    let mut out: Vec<Cluster> = without_twins(found.collect())
        .into_iter()
        .map(|([l, a, b], weight)| Cluster {
            color: Rgb::from_linear(Oklab { l, a, b }.to_linear()),
            share: weight / total,
        })
        .collect();
    out.sort_by(|a, b| b.share.total_cmp(&a.share).then(a.color.cmp(&b.color)));
    out
}

/// How near two colors may come in OKLab before a person takes them for one.
const TWINS: f64 = 0.03;

/// Centers with the nearest two made one, as long as two are that near.
fn without_twins(mut centers: Vec<([f64; 3], f64)>) -> Vec<([f64; 3], f64)> {
    loop {
        let pairs = (0..centers.len()).flat_map(|a| (a + 1..centers.len()).map(move |b| (a, b)));
        let apart = |(a, b): &(usize, usize)| distance(centers[*a].0, centers[*b].0);
        let nearest = pairs.min_by(|x, y| apart(x).total_cmp(&apart(y)));
        let Some((a, b)) = nearest.filter(|pair| apart(pair) < TWINS * TWINS) else {
            return centers;
        };
        let (one, more) = centers.swap_remove(b);
        let (other, weight) = centers[a];
        let both = weight + more;
        let mean = std::array::from_fn(|i| (other[i] * weight + one[i] * more) / both);
        centers[a] = (mean, both);
    }
}

fn histogram(pixels: &[u8]) -> Vec<Point> {
    /// Sums of the channels, and how many pixels.
    #[derive(Clone, Copy, Default)]
    struct Bin {
        sum: [u64; 3],
        count: u64,
    }
    let mut bins = vec![Bin::default(); 1 << 15];
    for pixel in pixels.chunks_exact(3) {
        let [r, g, b] = [pixel[0], pixel[1], pixel[2]];
        let index = usize::from(r >> 3) << 10 | usize::from(g >> 3) << 5 | usize::from(b >> 3);
        let bin = &mut bins[index];
        bin.sum[0] += u64::from(r);
        bin.sum[1] += u64::from(g);
        bin.sum[2] += u64::from(b);
        bin.count += 1;
    }
    bins.iter()
        .filter(|b| b.count > 0)
        .map(|bin| {
            let mean = bin.sum.map(|s| ((s + bin.count / 2) / bin.count) as u8);
            let Oklab { l, a, b } = Rgb::new(mean[0], mean[1], mean[2]).into();
            Point {
                at: [l, a, b],
                weight: bin.count as f64,
            }
        })
        .collect()
}

fn distance(a: [f64; 3], b: [f64; 3]) -> f64 {
    (0..3).map(|i| (a[i] - b[i]).powi(2)).sum()
}

fn closest(at: [f64; 3], centers: &[[f64; 3]]) -> usize {
    let mut best = (f64::MAX, 0);
    for (i, center) in centers.iter().enumerate() {
        let d = distance(at, *center);
        if d < best.0 {
            best = (d, i);
        }
    }
    best.1
}

fn start(points: &[Point], count: usize) -> Vec<[f64; 3]> {
    let mut reach = vec![f64::MAX; points.len()];
    let mut centers: Vec<[f64; 3]> = Vec::new();
    while centers.len() < count.min(points.len()) {
        let pull = |i: usize| {
            let far = if centers.is_empty() { 1.0 } else { reach[i] };
            points[i].weight.sqrt() * far
        };
        let next = (0..points.len()).max_by(|a, b| pull(*a).total_cmp(&pull(*b)).then(b.cmp(a)));
        let Some(next) = next.filter(|n| pull(*n) > 0.0) else {
            break;
        };
        centers.push(points[next].at);
        for (point, reach) in points.iter().zip(&mut reach) {
            *reach = reach.min(distance(point.at, points[next].at));
        }
    }
    centers
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::color::difference;
    use proptest::prelude::*;

    #[test]
    fn flat_areas_are_found_with_their_shares() {
        let mut pixels = Vec::new();
        for (hex, count) in [(0x10_2030u32, 600), (0xd0_8040, 300), (0xf0_f0e0, 100)] {
            let c = Rgb::from_u32(hex);
            for _ in 0..count {
                pixels.extend([c.r, c.g, c.b]);
            }
        }
        let found = clusters(&pixels, 8);
        assert_eq!(found.len(), 3);
        assert!(difference(found[0].color, Rgb::from_u32(0x10_2030)) < 0.5);
        assert!((found[1].share - 0.3).abs() < 1e-9);
        assert_eq!(clusters(&pixels, 2).len(), 2);
        assert!(clusters(&[], 4).is_empty() && clusters(&pixels, 0).is_empty());
    }

    #[test]
    fn near_twins_are_one_color_of_the_image() {
        // A sky that fades, and a strip of land.
        let pixels: Vec<u8> = (0..2000u32)
            .flat_map(|i| match i {
                0..1800 => [0x60 + (i / 300) as u8, 0x90, 0xc0],
                _ => [0x40, 0x50, 0x20],
            })
            .collect();
        let found = clusters(&pixels, 16);
        assert_eq!(found.len(), 2, "{found:?}");
        assert!((found[0].share - 0.9).abs() < 1e-9);
    }

    proptest! {
        #[test]
        fn the_order_of_pixels_does_not_matter(
            pixels in proptest::collection::vec(any::<[u8; 3]>(), 1..200), count in 1usize..20,
        ) {
            let one: Vec<u8> = pixels.iter().flatten().copied().collect();
            let other: Vec<u8> = pixels.iter().rev().flatten().copied().collect();
            let found = clusters(&one, count);
            prop_assert_eq!(&found, &clusters(&other, count));
            prop_assert!((found.iter().map(|c| c.share).sum::<f64>() - 1.0).abs() < 1e-9);
            prop_assert!(found.len() <= count);
            let all = || found.iter().map(|c| Oklab::from(c.color)).map(|c| [c.l, c.a, c.b]);
            // Colors are rounded to 8 bits.
            let near = |(i, a)| all().skip(i + 1).any(|b| distance(a, b).sqrt() < TWINS - 0.01);
            prop_assert!(!all().enumerate().any(near));
        }
    }
}
