//! Palettes that are made, color by color: what is made of the same things stays the same.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

use wealdmist_core::Rgb;
use wealdmist_core::make::{Cluster, Variation, counterpart, from_image, from_seeds, vary};
use wealdmist_core::role::Slot;
use wealdmist_core::setup::{Palette, Setup, SetupDoc, Variant};

const DUSK: &str = "[palettes.dusk]\nforeground='#d7d6cc'\nbackground='#0d191c'\ncursor='#e4c973'\nred='#e7736e'\ngreen='#8bbc7b'\nyellow='#dcb96b'\nblue='#62a7d3'\nmagenta='#d185b5'\ncyan='#7dc2aa'\n[palettes.dusk.colors]\nreed='#939761'\n[roles]\n'bar.text'='reed'\n";

fn setup() -> Setup {
    SetupDoc::parse("s", DUSK.as_bytes())
        .unwrap()
        .setup()
        .clone()
}

fn made(what: &str) -> Palette {
    let setup = setup();
    let dusk = setup.palette();
    let seeds = [Rgb::from_u32(0xc0_5a8a), Rgb::from_u32(0x3a_9a60)];
    let cluster = |color, share| Cluster {
        color: Rgb::from_u32(color),
        share,
    };
    let picture = [
        cluster(0x1a_2a40, 0.5),
        cluster(0xd0_7030, 0.2),
        cluster(0x50_8a50, 0.2),
        cluster(0xf0_e8d8, 0.1),
    ];
    match what {
        "two seeds, dark" => from_seeds(&setup, &"x".into(), &seeds, Variant::Dark),
        "one seed, light" => from_seeds(&setup, &"x".into(), &seeds[..1], Variant::Light),
        "image, dark" => from_image(&setup, &"x".into(), &picture, Variant::Dark),
        "image, light" => from_image(&setup, &"x".into(), &picture, Variant::Light),
        "counterpart" => counterpart(&setup, dusk, &"x".into()),
        "warmer" => vary(&setup, dusk, Variation::Warmer, &"x".into()),
        "cooler" => vary(&setup, dusk, Variation::Cooler, &"x".into()),
        "softer" => vary(&setup, dusk, Variation::Softer, &"x".into()),
        "sharper" => vary(&setup, dusk, Variation::Sharper, &"x".into()),
        _ => panic!("{what}"),
    }
}

#[test]
fn palettes_are_made_as_they_always_were() {
    for (what, colors) in MADE {
        let palette = made(what);
        let slots = Slot::ALL.map(|s| (s.key(), palette.slot(s)));
        let named = palette.colors.iter().map(|(n, c)| (n.as_str(), *c));
        let all: Vec<(&str, Rgb)> = slots.into_iter().chain(named).collect();
        assert_eq!(all.len(), colors.len());
        for ((name, color), (wanted, hex)) in all.iter().zip(*colors) {
            assert_eq!(name, wanted);
            assert_eq!(color.to_string(), *hex, "{what}: {name}");
        }
    }
}

/// What each way gives: names and colors.
#[rustfmt::skip]
const MADE: &[(&str, &[(&str, &str)])] = &[
    ("two seeds, dark", &[
        ("foreground", "#ded5d8"),
        ("background", "#1e1418"),
        ("cursor", "#ee83b3"),
        ("cursor-text", "#1e1418"),
        ("selection", "#4a373e"),
        ("selection-text", "#f4ecef"),
        ("black", "#30252a"),
        ("red", "#f78387"),
        ("green", "#64c285"),
        ("yellow", "#d7a129"),
        ("blue", "#74acff"),
        ("magenta", "#ee83b3"),
        ("cyan", "#02c1cf"),
        ("white", "#cac1c5"),
        ("bright-black", "#7d7075"),
        ("bright-red", "#ffafaf"),
        ("bright-green", "#8edca7"),
        ("bright-yellow", "#eec066"),
        ("bright-blue", "#a5c9ff"),
        ("bright-magenta", "#ffaace"),
        ("bright-cyan", "#51deeb"),
        ("bright-white", "#f8f1f4"),
        ("reed", "#a09f52"),
    ]),
    ("one seed, light", &[
        ("foreground", "#30292c"),
        ("background", "#f6f3f4"),
        ("cursor", "#9c3a6b"),
        ("cursor-text", "#f6f3f4"),
        ("selection", "#e4cdd6"),
        ("selection-text", "#1e191b"),
        ("black", "#291e22"),
        ("red", "#a43942"),
        ("green", "#37700a"),
        ("yellow", "#7f5c04"),
        ("blue", "#2961b2"),
        ("magenta", "#9c3a6b"),
        ("cyan", "#017179"),
        ("white", "#4d4548"),
        ("bright-black", "#86797e"),
        ("bright-red", "#822b32"),
        ("bright-green", "#2b5b07"),
        ("bright-yellow", "#644701"),
        ("bright-blue", "#1e4b8d"),
        ("bright-magenta", "#7b2b53"),
        ("bright-cyan", "#00585f"),
        ("bright-white", "#676263"),
        ("reed", "#5b5926"),
    ]),
    ("image, dark", &[
        ("foreground", "#d1d8e2"),
        ("background", "#0f1823"),
        ("cursor", "#e38143"),
        ("cursor-text", "#0f1823"),
        ("selection", "#2f3e53"),
        ("selection-text", "#e9eff7"),
        ("black", "#212936"),
        ("red", "#f18e50"),
        ("green", "#81bd80"),
        ("yellow", "#c1aa57"),
        ("blue", "#93add1"),
        ("magenta", "#d092cc"),
        ("cyan", "#46bec9"),
        ("white", "#bec5ce"),
        ("bright-black", "#6b7584"),
        ("bright-red", "#ffb388"),
        ("bright-green", "#a4d7a2"),
        ("bright-yellow", "#dac782"),
        ("bright-blue", "#b2c9e9"),
        ("bright-magenta", "#e9b3e4"),
        ("bright-cyan", "#7bd9e2"),
        ("bright-white", "#eff4fb"),
        ("reed", "#93a26c"),
    ]),
    ("image, light", &[
        ("foreground", "#2f2b24"),
        ("background", "#f5f4f2"),
        ("cursor", "#b05303"),
        ("cursor-text", "#f5f4f2"),
        ("selection", "#e0d3ba"),
        ("selection-text", "#1d1a15"),
        ("black", "#272115"),
        ("red", "#9b4801"),
        ("green", "#366f37"),
        ("yellow", "#7c5e04"),
        ("blue", "#4d6585"),
        ("magenta", "#8b4975"),
        ("cyan", "#017270"),
        ("white", "#4b473f"),
        ("bright-black", "#847c6e"),
        ("bright-red", "#7a3700"),
        ("bright-green", "#2b592b"),
        ("bright-yellow", "#624900"),
        ("bright-blue", "#3b4e69"),
        ("bright-magenta", "#6d375c"),
        ("bright-cyan", "#015957"),
        ("bright-white", "#66635d"),
        ("reed", "#585a2a"),
    ]),
    ("counterpart", &[
        ("foreground", "#2d2c24"),
        ("background", "#f2f5f6"),
        ("cursor", "#403200"),
        ("cursor-text", "#edf6f9"),
        ("selection", "#bfcbce"),
        ("selection-text", "#2d2c24"),
        ("black", "#11181b"),
        ("red", "#9e3132"),
        ("green", "#2e5a1d"),
        ("yellow", "#503b00"),
        ("blue", "#146089"),
        ("magenta", "#7f3b68"),
        ("cyan", "#045642"),
        ("white", "#282f30"),
        ("bright-black", "#7b8488"),
        ("bright-red", "#631e1c"),
        ("bright-green", "#004618"),
        ("bright-yellow", "#483600"),
        ("bright-blue", "#063a67"),
        ("bright-magenta", "#5a1b56"),
        ("bright-cyan", "#014245"),
        ("bright-white", "#313838"),
        ("reed", "#585a28"),
    ]),
    ("warmer", &[
        ("foreground", "#dfd4c1"),
        ("background", "#151813"),
        ("cursor", "#ecc662"),
        ("cursor-text", "#151813"),
        ("selection", "#38372f"),
        ("selection-text", "#dfd4c1"),
        ("black", "#302d27"),
        ("red", "#ee6e5d"),
        ("green", "#97ba6b"),
        ("yellow", "#e4b659"),
        ("blue", "#71a6c6"),
        ("magenta", "#d982a8"),
        ("cyan", "#8bc09d"),
        ("white", "#c9c7be"),
        ("bright-black", "#78746b"),
        ("bright-red", "#ffac9c"),
        ("bright-green", "#99d88a"),
        ("bright-yellow", "#ecbd4e"),
        ("bright-blue", "#a1c8f4"),
        ("bright-magenta", "#f7a5de"),
        ("bright-cyan", "#62dad8"),
        ("bright-white", "#f1f3ec"),
        ("reed", "#a89e58"),
    ]),
    ("cooler", &[
        ("foreground", "#d0d7d6"),
        ("background", "#041924"),
        ("cursor", "#ddcb82"),
        ("cursor-text", "#041924"),
        ("selection", "#253a46"),
        ("selection-text", "#d0d7d6"),
        ("black", "#1e303c"),
        ("red", "#e0777d"),
        ("green", "#7fbe8a"),
        ("yellow", "#d4bb7b"),
        ("blue", "#53a7df"),
        ("magenta", "#ca87c2"),
        ("cyan", "#70c3b7"),
        ("white", "#b8cad5"),
        ("bright-black", "#637786"),
        ("bright-red", "#f9adaf"),
        ("bright-green", "#7fdba5"),
        ("bright-yellow", "#ddc273"),
        ("bright-blue", "#96c9ff"),
        ("bright-magenta", "#eaa8f4"),
        ("bright-cyan", "#31dcee"),
        ("bright-white", "#e5f5fc"),
        ("reed", "#90a177"),
    ]),
    ("softer", &[
        ("foreground", "#c7c7c0"),
        ("background", "#151d1f"),
        ("cursor", "#cebc81"),
        ("cursor-text", "#151d1f"),
        ("selection", "#2f3637"),
        ("selection-text", "#c7c7c0"),
        ("black", "#272d2f"),
        ("red", "#cd7974"),
        ("green", "#89ac7e"),
        ("yellow", "#c6ae78"),
        ("blue", "#6b9ab9"),
        ("magenta", "#b983a5"),
        ("cyan", "#82b1a0"),
        ("white", "#b4babb"),
        ("bright-black", "#686e70"),
        ("bright-red", "#e1a59f"),
        ("bright-green", "#90c698"),
        ("bright-yellow", "#cdb475"),
        ("bright-blue", "#96bae1"),
        ("bright-magenta", "#d6a2d1"),
        ("bright-cyan", "#6ec7cc"),
        ("bright-white", "#dbe2e2"),
        ("reed", "#9ea279"),
    ]),
    ("sharper", &[
        ("foreground", "#e7e6d9"),
        ("background", "#061519"),
        ("cursor", "#f9d664"),
        ("cursor-text", "#061519"),
        ("selection", "#2f3c3e"),
        ("selection-text", "#e7e6d9"),
        ("black", "#273135"),
        ("red", "#ff736f"),
        ("green", "#8dcc78"),
        ("yellow", "#f1c55d"),
        ("blue", "#58b3eb"),
        ("magenta", "#e787c5"),
        ("cyan", "#78d2b4"),
        ("white", "#ccd8d9"),
        ("bright-black", "#727e82"),
        ("bright-red", "#ffc0ba"),
        ("bright-green", "#88ed99"),
        ("bright-yellow", "#facc4b"),
        ("bright-blue", "#b0d6ff"),
        ("bright-magenta", "#ffb4f8"),
        ("bright-cyan", "#01eef8"),
        ("bright-white", "#ffffff"),
        ("reed", "#9da25c"),
    ]),
];
