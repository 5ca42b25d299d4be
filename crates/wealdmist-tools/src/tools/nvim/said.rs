//! How the files of this editor are told apart, and the words of its option for 24-bit color.

use std::path::Path;

/// The option for 24-bit color.
pub(super) const TERMGUICOLORS: &str = "termguicolors";

/// The names of the option for 24-bit color in a `set`: those that switch it on, then off.
const SWITCHES: [&str; 4] = [TERMGUICOLORS, "tgc", "notermguicolors", "notgc"];

/// Whether what stands there is a switch of `set`, not a value.
pub(super) fn is_switch(bytes: &[u8]) -> bool {
    SWITCHES.iter().any(|s| s.as_bytes() == bytes)
}

/// Whether a file is one of Lua.
pub(super) fn is_lua(path: &Path) -> bool {
    path.extension().is_some_and(|e| e == "lua")
}
