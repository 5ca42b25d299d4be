//! The interface's own colors and signs, which the draft never touches: the instrument is not
//! painted with the sample.

use ratatui_core::style::{Color, Modifier, Style};
use wealdmist_core::Rgb;

use crate::screen;
use wealdmist_core::color::{Depth, nearest_16, nearest_256};

/// What something in the interface is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Tone {
    /// Ordinary text.
    Text,
    /// Text that may be overlooked.
    Quiet,
    /// Lines and marks.
    Faint,
    /// Where one is, and headings.
    Strong,
    /// What can be done.
    Key,
    /// Something is wrong.
    Loud,
    /// Something is well.
    Good,
}

/// The signs of the interface.
#[derive(Debug, Clone, Copy)]
#[allow(missing_docs)]
pub struct Signs {
    pub horizontal: &'static str,
    pub vertical: &'static str,
    pub down: &'static str,
    pub up: &'static str,
    pub path: &'static str,
    pub drift: &'static str,
    pub agrees: &'static str,
    pub exception: &'static str,
    /// What may differ.
    pub may_differ: &'static str,
    /// A tool has no such thing.
    pub unable: &'static str,
    pub pointer: &'static str,
    pub open: &'static str,
    pub folded: &'static str,
    pub swatch: &'static str,
    pub bar: &'static str,
    pub mark: &'static str,
    pub on: &'static str,
    pub off: &'static str,
    pub dot: &'static str,
    pub more: &'static str,
    pub outside: &'static str,
    pub alike: &'static str,
    pub lock: &'static str,
    pub beside: &'static str,
    pub left: &'static str,
    pub right: &'static str,
}

const UNICODE: Signs = Signs {
    horizontal: "─",
    vertical: "│",
    down: "┬",
    up: "┴",
    path: "›",
    drift: "≠",
    agrees: "·",
    exception: "~",
    may_differ: "?",
    unable: "-",
    pointer: "▶",
    open: "▾",
    folded: "▸",
    swatch: "██",
    bar: "█",
    mark: "▲",
    on: "■",
    off: "□",
    dot: "·",
    more: "…",
    outside: "╱",
    alike: "≈ ",
    lock: "‡",
    beside: "◆",
    left: "‹ ",
    right: " ›",
};

const ASCII: Signs = Signs {
    horizontal: "-",
    vertical: "|",
    down: "+",
    up: "+",
    path: ">",
    drift: "!",
    agrees: ".",
    exception: "~",
    may_differ: "?",
    unable: "-",
    pointer: ">",
    open: "v",
    folded: ">",
    swatch: "##",
    bar: "#",
    mark: "^",
    on: "x",
    off: " ",
    dot: "-",
    more: "~",
    outside: "/",
    alike: "like ",
    lock: "=",
    beside: "o",
    left: "< ",
    right: " >",
};

/// The look of the interface in a terminal.
#[derive(Debug, Clone)]
pub struct Instrument {
    /// How many colors may be used.
    pub depth: Depth,
    /// The signs.
    pub signs: Signs,
    /// Whether the terminal takes characters beyond ASCII.
    pub unicode: bool,
}

/// The ASCII character that stands for another of the same width.
#[must_use]
pub fn ascii(c: char) -> char {
    match c {
        c if c.is_ascii() => c,
        '→' | '›' | '▸' | '▶' => '>',
        '←' => '<',
        '─' | '–' | '—' => '-',
        '│' => '|',
        '┼' => '+',
        '·' => '.',
        '…' => '~',
        '▇' | '█' => '#',
        '●' | '■' => '*',
        '±' => '*',
        '✗' => 'x',
        '↳' => '@',
        '≠' => '!',
        '°' => ' ',
        _ => '?',
    }
}

const GROUND: Rgb = Rgb::new(0x17, 0x19, 0x1c);
const CHOSEN: Rgb = Rgb::new(0x34, 0x3b, 0x46);

impl Instrument {
    /// An instrument for a depth; `unicode` says whether signs beyond ASCII may be used.
    #[must_use]
    pub const fn new(depth: Depth, unicode: bool) -> Self {
        Self {
            unicode,
            depth,
            signs: if unicode { UNICODE } else { ASCII },
        }
    }

    /// A color as this terminal can show it; `None` without color.
    #[must_use]
    pub fn color(&self, color: Rgb) -> Option<Color> {
        match self.depth {
            Depth::TrueColor => Some(Color::Rgb(color.r, color.g, color.b)),
            Depth::Indexed256 => Some(Color::Indexed(nearest_256(color))),
            Depth::Ansi16 => Some(Color::Indexed(nearest_16(color, &screen::ANSI))),
            Depth::None => None,
        }
    }

    /// Text in one color on another, as a specimen or swatch needs it.
    #[must_use]
    pub fn paint(&self, text: Rgb, ground: Rgb) -> Style {
        let mut style = Style::new();
        if let (Some(fg), Some(bg)) = (self.color(text), self.color(ground)) {
            // Two colors that fall together would hide the text.
            if fg == bg && text != ground {
                let light = wealdmist_core::color::relative_luminance(ground) > 0.18;
                let other = if light {
                    Rgb::new(0, 0, 0)
                } else {
                    Rgb::new(255, 255, 255)
                };
                return style.fg(self.color(other).unwrap_or(fg)).bg(bg);
            }
            style = style.fg(fg).bg(bg);
        }
        style
    }

    /// The interface's own ground.
    #[must_use]
    pub fn ground(&self) -> Style {
        self.tone(Tone::Text)
    }

    /// The style of a tone on the interface's ground.
    #[must_use]
    pub fn tone(&self, tone: Tone) -> Style {
        let (color, ansi, modifier) = match tone {
            Tone::Text => (Rgb::new(0xd3, 0xd6, 0xda), 7, Modifier::empty()),
            Tone::Quiet => (Rgb::new(0x9a, 0xa1, 0xab), 7, Modifier::empty()),
            Tone::Faint => (Rgb::new(0x56, 0x5d, 0x68), 8, Modifier::DIM),
            Tone::Strong => (Rgb::new(0xff, 0xff, 0xff), 15, Modifier::BOLD),
            Tone::Key => (Rgb::new(0xb7, 0xc4, 0xff), 14, Modifier::empty()),
            Tone::Loud => (Rgb::new(0xff, 0x9a, 0x7a), 11, Modifier::BOLD),
            Tone::Good => (Rgb::new(0x9f, 0xd8, 0xa4), 10, Modifier::empty()),
        };
        match self.depth {
            Depth::None => Style::new().add_modifier(modifier),
            Depth::Ansi16 => {
                let bold = if modifier == Modifier::DIM {
                    Modifier::empty()
                } else {
                    modifier
                };
                Style::new()
                    .fg(Color::Indexed(ansi))
                    .bg(Color::Indexed(0))
                    .add_modifier(bold)
            }
            _ => {
                let style = self.paint(color, GROUND);
                if tone == Tone::Strong {
                    style.add_modifier(Modifier::BOLD)
                } else {
                    style
                }
            }
        }
    }

    /// A style as it looks on the chosen row or cell.
    #[must_use]
    pub fn chosen(&self, style: Style) -> Style {
        match self.depth {
            Depth::None => style.add_modifier(Modifier::REVERSED),
            Depth::Ansi16 => style.fg(Color::Indexed(15)).bg(Color::Indexed(4)),
            _ => match self.color(CHOSEN) {
                Some(bg) => style.bg(bg),
                None => style,
            },
        }
    }

    /// A swatch of a color: its own ground, so that it is seen even without text.
    #[must_use]
    pub fn swatch(&self, color: Rgb) -> Style {
        match self.color(color) {
            Some(c) => Style::new().fg(c).bg(c),
            None => Style::new(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::color::contrast_ratio;

    #[test]
    fn the_interface_can_be_read_whatever_the_depth() {
        let instrument = Instrument::new(Depth::TrueColor, true);
        for tone in [
            Tone::Text,
            Tone::Quiet,
            Tone::Strong,
            Tone::Key,
            Tone::Loud,
            Tone::Good,
        ] {
            let Some(Color::Rgb(r, g, b)) = instrument.tone(tone).fg else {
                panic!("{tone:?}")
            };
            for ground in [GROUND, CHOSEN] {
                let ratio = contrast_ratio(Rgb::new(r, g, b), ground);
                assert!(ratio >= 4.0, "{tone:?} {ratio}");
            }
        }
        let none = Instrument::new(Depth::None, false);
        assert_eq!(none.tone(Tone::Loud).fg, None);
        assert!(
            none.chosen(none.ground())
                .add_modifier
                .contains(Modifier::REVERSED)
        );
    }

    #[test]
    fn text_never_disappears_when_colors_fall_together() {
        let few = Instrument::new(Depth::Ansi16, true);
        let style = few.paint(Rgb::new(10, 10, 10), Rgb::new(12, 12, 12));
        assert_ne!(style.fg, style.bg);
    }
}
