//! The shell prompt: its design as lines of parts, and the same drawn in a situation.
//!
//! There is one list of parts. [`draw`] is the truth: specimens and drawings show it, and the code for a
//! particular shell, which `wealdmist-tools` makes from the same list, must come out as it, cell by cell.
//! What a part tells is in [`Kind`], what it says in a [`Situation`] in [`told`].
//!
//! Where there is not enough room, things give way in one order, in every shell: the words before and
//! behind, versions and counts; whole parts by their rank; all of the folder but its last part; what is
//! on the right; everything but the sign. A quarter of the line is left for typing.

mod arrange;
mod design;
mod draw;
mod ink;
mod kind;
pub mod own;
pub mod ready;
mod shape;
mod situation;
mod told;

pub use arrange::{Spot, Way};
pub use design::{Design, Line, Part, Past, Style, Tells, When, place};
pub use draw::{
    BETWEEN, FOR_TYPING, Ink, Piece, Row, cells, cells_of, draw, example, giving_way, going_on,
    past, strip, ties,
};
pub use ink::{Hue, ground, hue, usage};
pub use kind::{Item, KNOWN, Kind, Known, UNKNOWN, elided};
pub use shape::{Joint, Shape};
pub use situation::{Counts, Mode, Repository, Situation};
pub use told::{SIGNALS, Told, clean, cut, span, told};

#[cfg(test)]
pub(crate) mod tests;
