//! The terminal this program runs in: what it can show, what is printed on it, and giving it back as it
//! was however the program ends.

mod backend;
mod give_back;
pub mod guardian;
pub mod image;
mod means;
mod output;
mod terminal;

pub use guardian::Guardian;
pub use means::{ANSI, depth, means, unicode_locale};
pub use output::{Mark, Output, harmless, line_out, out, piped, prefer, print_json, warn};
pub use terminal::{Kept, Screen, take_colors_back_on_signals};
