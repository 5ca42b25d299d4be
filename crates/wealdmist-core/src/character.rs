//! What kind a character is: a letter, a sign, an icon, or something that should not be there.

/// Which kinds of symbols the setup uses.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
pub enum SymbolLevel {
    /// ASCII only.
    Ascii,
    /// Unicode signs every common font has.
    #[default]
    Plain,
    /// Icons of a Nerd Font (private-use code points).
    Icons,
}

impl SymbolLevel {
    /// All, the highest first.
    pub const ALL: [Self; 3] = [Self::Icons, Self::Plain, Self::Ascii];

    /// The word in the setup file.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::Ascii => "ascii",
            Self::Plain => "plain",
            Self::Icons => "icons",
        }
    }
}

/// Whether a character is private-use: it means nothing without a particular font.
#[must_use]
pub const fn is_private_use(c: char) -> bool {
    matches!(c as u32, 0xe000..=0xf8ff | 0xf_0000..=0xf_fffd | 0x10_0000..=0x10_fffd)
}

/// The symbol level a character needs.
#[must_use]
pub const fn level(c: char) -> SymbolLevel {
    if c.is_ascii() {
        SymbolLevel::Ascii
    } else if is_private_use(c) {
        SymbolLevel::Icons
    } else {
        SymbolLevel::Plain
    }
}

/// Whether a character is a sign that a lower symbol level replaces. Letters and digits of any
/// script are text and stay.
#[must_use]
pub fn is_symbol(c: char) -> bool {
    !c.is_ascii() && !is_invisible(c) && (is_private_use(c) || !c.is_alphanumeric())
}

/// Characters that are not drawn and need no glyph.
#[must_use]
pub fn is_invisible(c: char) -> bool {
    c.is_whitespace()
        || c.is_control()
        || matches!(c as u32, 0xad | 0x200b..=0x200f | 0x2028..=0x202e | 0x2060..=0x2064 | 0xfe00..=0xfe0f | 0xfeff | 0xe_0100..=0xe_01ef)
}

/// Whether a character ends lines, controls a terminal, or changes how its neighbours are read:
/// controls, line and paragraph separators, directional marks, overrides and isolates.
#[must_use]
pub fn is_treacherous(c: char) -> bool {
    c.is_control()
        || matches!(c as u32,
            0x061c | 0x200e | 0x200f | 0x2028 | 0x2029 | 0x202a..=0x202e | 0x2066..=0x2069)
}
