//! How blocks meet, begin and end.

use crate::character::SymbolLevel;

/// A shape between blocks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Shape {
    /// One ground ends where the next begins.
    #[default]
    Upright,
    /// A point.
    Point,
    /// A bow.
    Bow,
    /// A slope.
    Slope,
    /// A ground that fades away.
    Fade,
    /// A cell of the terminal's ground.
    None,
}

/// What a shape is drawn with at a level, on one side of the line.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Joint {
    /// In the color of the block it points away from, on the ground of the other one. Empty where there
    /// is nothing to draw.
    pub solid: &'static str,
    /// Between two blocks of one ground.
    pub thin: &'static str,
}

impl Shape {
    /// All of them, with their words in the setup file.
    pub const ALL: [(&'static str, Self); 6] = [
        ("upright", Self::Upright),
        ("point", Self::Point),
        ("bow", Self::Bow),
        ("slope", Self::Slope),
        ("fade", Self::Fade),
        ("none", Self::None),
    ];

    /// Its word in the setup file.
    #[must_use]
    pub fn word(self) -> &'static str {
        Self::ALL
            .iter()
            .find(|(_, s)| *s == self)
            .map_or("upright", |(w, _)| w)
    }

    /// The shape as it is at a level: one that needs icons is upright without them.
    #[must_use]
    pub fn at(self, level: SymbolLevel) -> Self {
        match (self, level) {
            (Self::Upright | Self::None, _) | (_, SymbolLevel::Icons) => self,
            (Self::Fade, SymbolLevel::Plain) => self,
            _ => Self::Upright,
        }
    }

    /// What it is drawn with where it ends what stands on its left (`true`), or begins what stands
    /// on its right.
    #[must_use]
    pub fn joint(self, level: SymbolLevel, rightward: bool) -> Joint {
        let thin = match level {
            SymbolLevel::Ascii => "|",
            _ => "│",
        };
        let (right, left, right_thin, left_thin) = match self.at(level) {
            Self::Upright => ("", "", thin, thin),
            Self::None => (" ", " ", " ", " "),
            Self::Fade => ("▓▒░", "░▒▓", thin, thin),
            Self::Point => ("\u{e0b0}", "\u{e0b2}", "\u{e0b1}", "\u{e0b3}"),
            Self::Bow => ("\u{e0b4}", "\u{e0b6}", "\u{e0b5}", "\u{e0b7}"),
            Self::Slope => ("\u{e0bc}", "\u{e0ba}", "\u{e0bd}", "\u{e0bb}"),
        };
        match rightward {
            true => Joint {
                solid: right,
                thin: right_thin,
            },
            false => Joint {
                solid: left,
                thin: left_thin,
            },
        }
    }
}
