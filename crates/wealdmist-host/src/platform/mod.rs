//! The one door to what belongs to the operating system: processes and signals, terminals, files beyond
//! what the library offers, places that the system gives. Nothing outside this folder names any of it,
//! so that a second system is a file here and not a search.
//!
//! What stands here is for Linux. Paths, permission bits and local sockets as Unix has them may be used
//! elsewhere.

#[cfg(not(target_os = "linux"))]
compile_error!("this system has no files in crates/wealdmist-host/src/platform yet");

pub mod confine;
pub(crate) mod files;
pub(crate) mod link;
pub(crate) mod places;
mod process;
pub mod signals;
pub mod terminal;

pub(crate) use process::{Process, run};
