//! What the command line and the interface both do: each once, below both. Nothing here knows how it is
//! asked for or shown.

mod apply;
pub mod ask;
mod drawings;
pub mod fonts;
pub mod glyphs;
pub mod lines;
mod palettes;
pub mod prompt;
mod trial;

pub use apply::carry_out;
pub use drawings::{bundle_parts, draw_to, fonts_of, window_of, write_svg};
pub use palettes::{IMAGE_COLORS, counterpart_of, repair_of, side_of};
pub use trial::sequences as trial_sequences;
