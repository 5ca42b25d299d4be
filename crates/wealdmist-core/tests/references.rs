//! Published reference values, as tables.

#![allow(clippy::unwrap_used)]

use wealdmist_core::Rgb;
use wealdmist_core::color::{
    Oklab, Oklch, contrast_ratio, indexed, nearest_256, relative_luminance,
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
