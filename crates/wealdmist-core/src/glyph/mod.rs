//! Characters outside ASCII: where they stand, what they mean, what is wrong with them, and what
//! can stand in for one a font lacks.

mod replace;
pub mod scan;
pub mod substitute;
pub mod verdict;

pub use replace::{replacement_at, replacement_of, replacements};
pub use scan::{Hit, Syntax, scan};
pub use substitute::{
    Kind, Substitute, parts, substitute, substitute_of, substitutes, substitutes_of,
};
pub use verdict::{Held, Judged, Verdict, judge};
