//! The fonts that the program carries are those that are made here.

use wealdmist_core::demo::fonts;

#[test]
fn the_carried_fonts_are_the_ones_made() {
    let carried = [
        fonts::complete(),
        fonts::bold(),
        fonts::italic(),
        fonts::without_icons(),
        fonts::icons_at_old_places(),
        fonts::wide_icons(),
        fonts::short_separators(),
        fonts::variable(),
    ];
    for ((name, made), carried) in wealdmist_fonts::all().into_iter().zip(carried) {
        assert!(
            made == carried,
            "{name} is not the one that is carried: cargo run -p wealdmist-fonts"
        );
    }
}
