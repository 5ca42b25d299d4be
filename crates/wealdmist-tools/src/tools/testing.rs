//! What tests of several adapters share.

use std::path::PathBuf;

use wealdmist_core::look::Look;
use wealdmist_core::setup::SetupDoc;

use super::{Adapter, Facts, Wanted};
use crate::access::MemoryAccess;

/// The files an adapter's plan changes for a setup, with their content afterwards.
pub fn planned(
    adapter: &dyn Adapter,
    access: &MemoryAccess,
    setup: &str,
) -> Vec<(PathBuf, String)> {
    let doc = SetupDoc::parse("s", setup.as_bytes()).unwrap();
    let look = Look::new(doc.setup());
    let report = adapter.read(access, &mut Facts::default());
    let edits = adapter.plan(
        &Wanted {
            setup: doc.setup(),
            look: &look,
        },
        &report,
        access,
    );
    let changed = edits
        .iter()
        .filter(|e| e.before.as_deref() != Some(&e.after()[..]));
    changed
        .map(|e| (e.path.clone(), String::from_utf8(e.after()).unwrap()))
        .collect()
}
