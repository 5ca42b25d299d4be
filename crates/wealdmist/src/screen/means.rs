//! What the terminal can show: colors, characters, pixels.

use wealdmist_core::color::{Depth, Rgb};
use wealdmist_core::font::picture::Means;
use wealdmist_tools::says_full_color;

use crate::cli::Colors;

/// How many colors the interface may use: as asked for, else as the environment says.
pub fn depth(asked: Option<Colors>) -> Depth {
    match asked {
        Some(Colors::Truecolor) => return Depth::TrueColor,
        Some(Colors::Indexed) => return Depth::Indexed256,
        Some(Colors::Ansi) => return Depth::Ansi16,
        Some(Colors::None) => return Depth::None,
        None => {}
    }
    let get = |name: &str| std::env::var(name).unwrap_or_default();
    if !get("NO_COLOR").is_empty() {
        return Depth::None;
    }
    let (term, color) = (get("TERM"), get("COLORTERM"));
    match (color.as_str(), term.as_str()) {
        ("truecolor" | "24bit", _) => Depth::TrueColor,
        (_, t) if says_full_color(t) => Depth::TrueColor,
        (_, t) if t.contains("256color") => Depth::Indexed256,
        (_, "dumb" | "") => Depth::None,
        _ => Depth::Ansi16,
    }
}

/// The 16 colors as most terminals have them, to find the nearest when there are no more.
pub const ANSI: [Rgb; 16] = [
    Rgb::new(0, 0, 0),
    Rgb::new(170, 0, 0),
    Rgb::new(0, 170, 0),
    Rgb::new(170, 85, 0),
    Rgb::new(0, 0, 170),
    Rgb::new(170, 0, 170),
    Rgb::new(0, 170, 170),
    Rgb::new(170, 170, 170),
    Rgb::new(85, 85, 85),
    Rgb::new(255, 85, 85),
    Rgb::new(85, 255, 85),
    Rgb::new(255, 255, 85),
    Rgb::new(85, 85, 255),
    Rgb::new(255, 85, 255),
    Rgb::new(85, 255, 255),
    Rgb::new(255, 255, 255),
];

/// The means of drawing pixels with characters that a terminal has, the best first.
pub fn means(depth: Depth, unicode: bool) -> Vec<Means> {
    let shades = matches!(depth, Depth::TrueColor | Depth::Indexed256);
    let all = Means::ALL.into_iter();
    all.filter(|m| match m {
        Means::Quadrants => unicode && shades,
        Means::Dots => unicode,
        Means::Ascii => true,
    })
    .collect()
}

/// Whether the terminal takes characters beyond ASCII.
pub fn unicode_locale() -> bool {
    let set = ["LC_ALL", "LC_CTYPE", "LANG"]
        .iter()
        .find_map(|n| std::env::var(n).ok().filter(|v| !v.is_empty()));
    set.is_some_and(|v| v.to_ascii_lowercase().replace('-', "").contains("utf8"))
}
