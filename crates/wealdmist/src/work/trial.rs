//! What a terminal is told so that it wears a setup for a while.

use wealdmist_core::color::set as osc_set;
use wealdmist_core::look::Look;
use wealdmist_tools::osc_targets;

/// The escapes that put the setup's palette on a terminal.
pub fn sequences(look: &Look) -> Vec<u8> {
    let each = osc_targets()
        .into_iter()
        .map(|(target, slot)| osc_set(target, look.slot(slot)));
    each.collect::<String>().into_bytes()
}
