//! Drawings: specimens as documents. Nothing about color or fonts is computed here.

mod specimen;

pub use specimen::specimen_svg;
