//! Characters outside ASCII: where they stand, what they mean, what is wrong with them, and what
//! can stand in for one a font lacks.

mod replace;
pub mod scan;
pub mod substitute;
pub mod verdict;
pub mod width;

use crate::setup::SymbolLevel;

pub use replace::replacements;
pub use scan::{Escape, Hit, Syntax, scan};
pub use substitute::{Kind, Substitute, meanings_of, substitute, substitutes};
pub use verdict::{Judged, Verdict, judge};

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
