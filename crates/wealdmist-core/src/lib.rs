//! The computation behind Wealdmist: color, contrast, fonts, glyphs, the setup, specimens,
//! findings and plans.
//!
//! This crate is pure. It opens no file, reads no clock and no environment, and knows nothing of
//! terminals as devices or of the interface: bytes and values in, values out. What a particular
//! program's dotfiles look like is known in `wealdmist-tools`, the machine in `wealdmist-host`.

#![cfg_attr(test, allow(clippy::disallowed_methods))]

pub mod character;
pub mod color;
pub mod condition;
pub mod demo;
pub mod escape;
pub mod finding;
pub mod first;
pub mod font;
pub mod glyph;
pub mod guard;
pub mod icon;
pub mod ledger;
pub mod limits;
pub mod look;
pub mod make;
pub mod meaning;
pub mod pair;
pub mod plan;
pub mod prompt;
pub mod property;
pub mod quote;
pub mod reading;
pub mod repair;
pub mod role;
pub mod setup;
pub mod specimen;
pub mod terminal;
pub mod text;
pub mod tokens;
pub mod width;

pub use color::Rgb;
pub use property::Property;
pub use role::{RoleId, Slot};
