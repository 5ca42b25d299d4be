//! The dotfiles: lossless documents, and one adapter per tool. Text in, readings and edits out.
//!
//! This crate is pure: it never opens a file. What it needs of the machine it asks through
//! [`Access`], which `wealdmist-host` implements for a real home and tests implement in memory.
//! A tool's own vocabulary stays inside its adapter.
//!
//! Dotfiles are bounded ([`limits`]): what is larger, or includes more, is not read, and that is said. What
//! cannot be edited safely where it stands is left as it is, with the reason.
//!
//! ```
//! use wealdmist_core::look::Look;
//! use wealdmist_core::setup::SetupDoc;
//! use wealdmist_tools::access::MemoryAccess;
//! use wealdmist_tools::{plan, read_all};
//!
//! // A home with one dotfile, and a setup that wants another background.
//! let home = MemoryAccess::with(&[(".config/kitty/kitty.conf", "background #101010 \n")]);
//! let text = b"[palettes.dusk]\nbackground = '#0d191c'\nforeground = '#d7d6cc'\n";
//! let setup = SetupDoc::parse("setup.toml", text)?;
//!
//! let reports = read_all(&home);
//! let look = Look::new(setup.setup());
//! let plan = plan(setup.setup(), &look, &reports, &home, None);
//! assert!(plan.edits[0].after().starts_with(b"background #0d191c \n"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#![warn(missing_docs)]
#![cfg_attr(test, allow(clippy::disallowed_methods))]

pub mod access;
pub mod document;
pub mod engine;
mod evaluated;
pub mod exchange;
pub mod fonts;
mod glyphs;
mod hidden;
pub mod limits;
mod live;
mod shared;
mod shell_test;
#[cfg(test)]
pub(crate) mod testing;
mod tools;

pub use access::{Access, Loaded};
pub use engine::{Adapter, Engine, Facts, Outer, StatedOption, Wanted, sourced, table, themed};
pub use glyphs::used as glyphs_of;
pub use live::{Answers, Asking, Live, Reload, Told, osc_targets};
pub use tools::{
    adapter, adapters, as_generated, generated, images_by_name, is_multiplexed, misnamed, places,
    plan, read_all, says_full_color,
};
