//! Colors as terminals take them: 8-bit sRGB, the perceptual space they are edited in, the
//! indexed tables, and the escape sequences that set and ask them.
//!
//! Leaves to others: which color does which job (`role`, `setup`) and what pairs are drawn
//! (`pair`).

mod depth;
mod lab;
mod notation;
mod oklch;
mod osc;
mod rgb;
mod vision;
mod x11;

pub use depth::{Depth, Rounding, indexed, nearest_16, nearest_256};
pub use lab::{Lab, THIN_TEXT, ciede2000, ciede2000_at_least, difference, lightness_contrast};
pub use notation::{parse_any, parse_spec, parse_with_alpha, typed};
pub use oklch::{Oklab, Oklch, mix, oklab_distance};
pub(crate) use oklch::{is_shown, lightness_span};
pub use osc::{DYNAMIC, parse_reply, query, reset_all, set};
pub use rgb::{
    ParseColorError, Rgb, contrast_ratio, over, ratio_shown, ratio_to, relative_luminance,
};
pub(crate) use rgb::{decode, encode};
pub use vision::Vision;
pub use x11::x11_color;
