//! The dotfiles: lossless documents, and one adapter per tool. Text in, readings and edits out.
//!
//! This crate is pure: it never opens a file. What it needs of the machine it asks through
//! [`Access`], which `wealdmist-host` implements for a real home and tests implement in memory.
//! A tool's own vocabulary stays inside its adapter.

#![cfg_attr(test, allow(clippy::disallowed_methods))]

pub mod access;
pub mod document;
pub mod engine;
pub mod exchange;
pub mod fonts;
mod glyphs;
pub mod limits;
mod live;
mod shared;
#[cfg(test)]
pub(crate) mod testing;
mod tools;

pub use access::{Access, Loaded};
pub use engine::{Adapter, Engine, Facts, Outer, StatedOption, Wanted, sourced, table, themed};
pub use glyphs::used as glyphs_of;
pub use live::{Answers, Live, Reload, Told, osc_targets};
pub use tools::{
    adapter, adapters, generated, images_by_name, is_multiplexed, misnamed, places, plan, read_all,
    says_full_color,
};
