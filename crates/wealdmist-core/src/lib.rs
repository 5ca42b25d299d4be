//! The computation behind Wealdmist: color, contrast, fonts, glyphs, the setup, specimens,
//! findings and plans.
//!
//! This crate is pure. It opens no file, reads no clock and no environment, and knows nothing of
//! terminals as devices or of the interface: bytes and values in, values out. What a particular
//! program's dotfiles look like is known in `wealdmist-tools`, the machine in `wealdmist-host`.
//!
//! What comes from outside is bounded ([`limits`]); what is larger or deeper is refused with its place.
//! A parser of others that panics is an error ([`guard`]).
//!
//! ```
//! use wealdmist_core::color::contrast_ratio;
//! use wealdmist_core::look::Look;
//! use wealdmist_core::setup::SetupDoc;
//! use wealdmist_core::{RoleId, Slot};
//!
//! // A setup, and what its roles come to.
//! let text = b"[palettes.dusk] # mine\nbackground = '#0d191c'\nforeground = '#d7d6cc'\n";
//! let doc = SetupDoc::parse("setup.toml", text)?;
//! let look = Look::new(doc.setup());
//! let ratio = contrast_ratio(look.color(&RoleId::known("foreground")), look.slot(Slot::Background));
//! assert_eq!(format!("{ratio:.2}"), "12.26");
//!
//! // A change is a splice of its text: all else stays, comments too.
//! let changed = doc.with_slot(&"dusk".into(), Slot::Background, "#102024".parse()?)?;
//! assert!(changed.text().starts_with("[palettes.dusk] # mine\nbackground = \"#102024\"\n"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#![warn(missing_docs)]
#![cfg_attr(test, allow(clippy::disallowed_methods))]

pub mod asked;
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
pub mod names;
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
pub mod window;

pub use color::Rgb;
pub use property::Property;
pub use role::{RoleId, Slot};
