//! Published reference values, as tables.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

use wealdmist_core::Rgb;
use wealdmist_core::color::{
    Lab, Oklab, Oklch, Vision, ciede2000, contrast_ratio, indexed, nearest_256, relative_luminance,
};

fn rgb(hex: &str) -> Rgb {
    hex.parse().unwrap()
}

/// Relative luminance and ratios worked out by hand from the formula of WCAG 2.2, and the pairs
/// its understanding documents print.
#[test]
fn wcag_ratios() {
    for (a, b, ratio) in [
        ("#000000", "#ffffff", 21.0),
        ("#ffffff", "#000000", 21.0),
        ("#777777", "#ffffff", 4.48),
        ("#767676", "#ffffff", 4.54),
        ("#949494", "#ffffff", 3.03),
        ("#959595", "#ffffff", 2.99),
        ("#595959", "#ffffff", 7.00),
        ("#5a5a5a", "#ffffff", 6.90),
        ("#ff0000", "#ffffff", 4.00),
        ("#00ff00", "#ffffff", 1.37),
        ("#0000ff", "#ffffff", 8.59),
        ("#ffff00", "#000000", 19.56),
        ("#00ffff", "#000000", 16.75),
        ("#ff00ff", "#000000", 6.70),
        ("#808080", "#808080", 1.0),
    ] {
        let got = contrast_ratio(rgb(a), rgb(b));
        assert!(
            (got - ratio).abs() < 0.006,
            "{a} on {b}: {got} and not {ratio}"
        );
    }
    for (color, luminance) in [
        ("#ff0000", 0.2126),
        ("#00ff00", 0.7152),
        ("#0000ff", 0.0722),
        ("#808080", 0.215_860_5),
        ("#bcbcbc", 0.502_886_5),
    ] {
        let got = relative_luminance(rgb(color));
        assert!((got - luminance).abs() < 1e-4, "{color}: {got}");
    }
}

/// OKLab of the primaries and secondaries of sRGB, as the article that defines it and CSS
/// Color 4 give them.
#[test]
fn oklab_values() {
    for (hex, l, a, b) in [
        ("#ffffff", 1.0, 0.0, 0.0),
        ("#000000", 0.0, 0.0, 0.0),
        ("#ff0000", 0.627_96, 0.224_86, 0.125_85),
        ("#00ff00", 0.866_44, -0.233_89, 0.179_50),
        ("#0000ff", 0.452_01, -0.032_46, -0.311_53),
        ("#ffff00", 0.967_98, -0.071_37, 0.198_57),
        ("#00ffff", 0.905_40, -0.149_44, -0.039_40),
        ("#ff00ff", 0.701_67, 0.274_57, -0.169_16),
        ("#808080", 0.599_87, 0.0, 0.0),
    ] {
        let lab = Oklab::from(rgb(hex));
        assert!((lab.l - l).abs() < 3e-4, "{hex} {lab:?}");
        assert!((lab.a - a).abs() < 3e-4, "{hex} {lab:?}");
        assert!((lab.b - b).abs() < 3e-4, "{hex} {lab:?}");
    }
}

/// The edge of sRGB: the primaries lie on it, so a little more chroma is outside.
#[test]
fn the_edge_of_the_gamut() {
    for hex in [
        "#ff0000", "#00ff00", "#0000ff", "#ffff00", "#00ffff", "#ff00ff",
    ] {
        let lch = Oklch::from(rgb(hex));
        let most = Oklch::max_chroma(lch.l, lch.h);
        // At blue the gamut ends in a needle thinner than any step of the search.
        if hex != "#0000ff" {
            assert!((most - lch.c).abs() < 0.004, "{hex}: {most} and {}", lch.c);
        }
        let beyond = Oklch {
            c: lch.c + 0.03,
            ..lch
        };
        assert!(!beyond.in_gamut(), "{hex}");
        let back = Oklch::from(beyond.to_rgb());
        assert!((back.l - lch.l).abs() < 0.01, "{hex} {back:?}");
    }
    assert!(Oklch::max_chroma(0.0, 30.0) < 0.03);
    assert!(Oklch::max_chroma(1.0, 30.0) < 0.01);
}

/// Entries of the 256-color table as xterm prints them.
#[test]
fn the_indexed_table() {
    for (index, hex) in [
        (16, "#000000"),
        (17, "#00005f"),
        (21, "#0000ff"),
        (22, "#005f00"),
        (46, "#00ff00"),
        (51, "#00ffff"),
        (75, "#5fafff"),
        (88, "#870000"),
        (124, "#af0000"),
        (130, "#af5f00"),
        (160, "#d70000"),
        (196, "#ff0000"),
        (201, "#ff00ff"),
        (208, "#ff8700"),
        (226, "#ffff00"),
        (231, "#ffffff"),
        (232, "#080808"),
        (240, "#585858"),
        (244, "#808080"),
        (255, "#eeeeee"),
    ] {
        assert_eq!(indexed(index), Some(rgb(hex)), "{index}");
        assert_eq!(indexed(nearest_256(rgb(hex))), Some(rgb(hex)), "{hex}");
    }
    for index in 0..16 {
        assert_eq!(indexed(index), None);
    }
}

/// The fast search for the nearest index finds what looking at all of them finds.
#[test]
fn nearest_index_against_all_of_them() {
    use wealdmist_core::color::oklab_distance;
    for step in 0..2_000u32 {
        let color = Rgb::from_u32(step.wrapping_mul(2_654_435_761) >> 8);
        let found = indexed(nearest_256(color)).unwrap();
        let best = (16..=255)
            .filter_map(indexed)
            .map(|c| oklab_distance(color, c))
            .fold(f64::MAX, f64::min);
        let got = oklab_distance(color, found);
        assert!(
            got <= best * 1.35 + 0.012,
            "{color}: {found} at {got}, best {best}"
        );
    }
}

/// The pairs of Sharma, Wu and Dalal (2005), table 1: two CIELAB colors and their difference.
#[rustfmt::skip]
const CIEDE2000_PAIRS: [([f64; 3], [f64; 3], f64); 34] = [
    ([50.0000, 2.6772, -79.7751], [50.0000, 0.0000, -82.7485], 2.0425),
    ([50.0000, 3.1571, -77.2803], [50.0000, 0.0000, -82.7485], 2.8615),
    ([50.0000, 2.8361, -74.0200], [50.0000, 0.0000, -82.7485], 3.4412),
    ([50.0000, -1.3802, -84.2814], [50.0000, 0.0000, -82.7485], 1.0000),
    ([50.0000, -1.1848, -84.8006], [50.0000, 0.0000, -82.7485], 1.0000),
    ([50.0000, -0.9009, -85.5211], [50.0000, 0.0000, -82.7485], 1.0000),
    ([50.0000, 0.0000, 0.0000], [50.0000, -1.0000, 2.0000], 2.3669),
    ([50.0000, -1.0000, 2.0000], [50.0000, 0.0000, 0.0000], 2.3669),
    ([50.0000, 2.4900, -0.0010], [50.0000, -2.4900, 0.0009], 7.1792),
    ([50.0000, 2.4900, -0.0010], [50.0000, -2.4900, 0.0010], 7.1792),
    ([50.0000, 2.4900, -0.0010], [50.0000, -2.4900, 0.0011], 7.2195),
    ([50.0000, 2.4900, -0.0010], [50.0000, -2.4900, 0.0012], 7.2195),
    ([50.0000, -0.0010, 2.4900], [50.0000, 0.0009, -2.4900], 4.8045),
    ([50.0000, -0.0010, 2.4900], [50.0000, 0.0010, -2.4900], 4.8045),
    ([50.0000, -0.0010, 2.4900], [50.0000, 0.0011, -2.4900], 4.7461),
    ([50.0000, 2.5000, 0.0000], [50.0000, 0.0000, -2.5000], 4.3065),
    ([50.0000, 2.5000, 0.0000], [73.0000, 25.0000, -18.0000], 27.1492),
    ([50.0000, 2.5000, 0.0000], [61.0000, -5.0000, 29.0000], 22.8977),
    ([50.0000, 2.5000, 0.0000], [56.0000, -27.0000, -3.0000], 31.9030),
    ([50.0000, 2.5000, 0.0000], [58.0000, 24.0000, 15.0000], 19.4535),
    ([50.0000, 2.5000, 0.0000], [50.0000, 3.1736, 0.5854], 1.0000),
    ([50.0000, 2.5000, 0.0000], [50.0000, 3.2972, 0.0000], 1.0000),
    ([50.0000, 2.5000, 0.0000], [50.0000, 1.8634, 0.5757], 1.0000),
    ([50.0000, 2.5000, 0.0000], [50.0000, 3.2592, 0.3350], 1.0000),
    ([60.2574, -34.0099, 36.2677], [60.4626, -34.1751, 39.4387], 1.2644),
    ([63.0109, -31.0961, -5.8663], [62.8187, -29.7946, -4.0864], 1.2630),
    ([61.2901, 3.7196, -5.3901], [61.4292, 2.2480, -4.9620], 1.8731),
    ([35.0831, -44.1164, 3.7933], [35.0232, -40.0716, 1.5901], 1.8645),
    ([22.7233, 20.0904, -46.6940], [23.0331, 14.9730, -42.5619], 2.0373),
    ([36.4612, 47.8580, 18.3852], [36.2715, 50.5065, 21.2231], 1.4146),
    ([90.8027, -2.0831, 1.4410], [91.1528, -1.6435, 0.0447], 1.4441),
    ([90.9257, -0.5406, -0.9208], [88.6381, -0.8985, -0.7239], 1.5381),
    ([6.7747, -0.2908, -2.4247], [5.8714, -0.0985, -2.2286], 0.6377),
    ([2.0776, 0.0795, -1.1350], [0.9033, -0.0636, -0.5514], 0.9082),
];

#[test]
fn ciede2000_to_the_printed_precision() {
    let lab = |v: [f64; 3]| Lab {
        l: v[0],
        a: v[1],
        b: v[2],
    };
    for (one, other, difference) in CIEDE2000_PAIRS {
        for (a, b) in [(one, other), (other, one)] {
            let got = ciede2000(lab(a), lab(b));
            assert!(
                (got - difference).abs() < 5.1e-5,
                "{a:?} {b:?}: {got} and not {difference}"
            );
        }
    }
}

/// CIELAB under D65 of some sRGB colors, worked out by an independent implementation.
#[test]
fn cielab_values() {
    for (hex, l, a, b) in [
        ("#ff0000", 53.233, 80.111, 67.224),
        ("#00ff00", 87.737, -86.183, 83.188),
        ("#0000ff", 32.303, 79.198, -107.850),
        ("#767676", 49.637, 0.004, 0.002),
        ("#123456", 21.043, 1.060, -24.099),
        ("#c0ffee", 95.538, -23.018, 1.745),
        ("#98a040", 63.497, -16.242, 47.841),
        ("#fedcba", 89.768, 6.821, 21.071),
        ("#ffffff", 100.0, 0.0, 0.0),
        ("#000000", 0.0, 0.0, 0.0),
    ] {
        let got = Lab::from(rgb(hex));
        for (got, want) in [(got.l, l), (got.a, a), (got.b, b)] {
            assert!((got - want).abs() < 0.025, "{hex}: {got} and not {want}");
        }
    }
}

/// Simulated deficiencies of some colors, worked out from the published matrices by an
/// independent implementation; between two published severities halfway.
#[test]
fn simulated_deficiencies() {
    for (color, vision, seen) in [
        ("#ff0000", Vision::Protan(1.0), "#6d5f00"),
        ("#ff0000", Vision::Protan(0.5), "#b45600"),
        ("#ff0000", Vision::Protan(0.75), "#925d00"),
        ("#ff0000", Vision::Deutan(1.0), "#a39000"),
        ("#ff0000", Vision::Deutan(0.5), "#c37600"),
        ("#ff0000", Vision::Deutan(0.75), "#b18500"),
        ("#ff0000", Vision::Tritan(1.0), "#ff000f"),
        ("#ff0000", Vision::Tritan(0.5), "#ff0013"),
        ("#ff0000", Vision::Tritan(0.75), "#ff0000"),
        ("#00c000", Vision::Protan(1.0), "#c4ac00"),
        ("#00c000", Vision::Protan(0.5), "#a1b200"),
        ("#00c000", Vision::Protan(0.75), "#b6af00"),
        ("#00c000", Vision::Deutan(1.0), "#b4a129"),
        ("#00c000", Vision::Deutan(0.5), "#99ac20"),
        ("#00c000", Vision::Deutan(0.75), "#a9a625"),
        ("#00c000", Vision::Tritan(1.0), "#00baa3"),
        ("#00c000", Vision::Tritan(0.5), "#20bc65"),
        ("#00c000", Vision::Tritan(0.75), "#00be86"),
        ("#1e90c8", Vision::Protan(1.0), "#7590cb"),
        ("#1e90c8", Vision::Protan(0.5), "#608ec9"),
        ("#1e90c8", Vision::Protan(0.75), "#6c8fca"),
        ("#1e90c8", Vision::Deutan(1.0), "#5e81c7"),
        ("#1e90c8", Vision::Deutan(0.5), "#5387c8"),
        ("#1e90c8", Vision::Deutan(0.75), "#5a84c7"),
        ("#1e90c8", Vision::Tritan(1.0), "#009ea3"),
        ("#1e90c8", Vision::Tritan(0.5), "#0094bb"),
        ("#1e90c8", Vision::Tritan(0.75), "#009ab2"),
        ("#c8a032", Vision::Protan(1.0), "#b39f20"),
        ("#c8a032", Vision::Protan(0.5), "#bba029"),
        ("#c8a032", Vision::Protan(0.75), "#b7a025"),
        ("#c8a032", Vision::Deutan(1.0), "#bdaa38"),
        ("#c8a032", Vision::Deutan(0.5), "#c0a634"),
        ("#c8a032", Vision::Deutan(0.75), "#bea836"),
        ("#c8a032", Vision::Tritan(1.0), "#d9928a"),
        ("#c8a032", Vision::Tritan(0.5), "#cb9d5f"),
        ("#c8a032", Vision::Tritan(0.75), "#d49674"),
        ("#ff0000", Vision::Gray, "#7f7f7f"),
        ("#1e90c8", Vision::Full, "#1e90c8"),
    ] {
        let got = vision.see(rgb(color));
        let want = rgb(seen);
        let off = [(got.r, want.r), (got.g, want.g), (got.b, want.b)];
        assert!(
            off.iter().all(|(a, b)| a.abs_diff(*b) <= 1),
            "{color} {vision:?}: {got} and not {want}"
        );
    }
}
