//! What tests of several adapters share.

use std::path::PathBuf;
use std::sync::OnceLock;

use wealdmist_core::demo::fonts;
use wealdmist_core::font::{Catalog, Entry, coverage, faces};
use wealdmist_core::look::Look;
use wealdmist_core::plan::FileEdit;
use wealdmist_core::setup::SetupDoc;

use crate::access::{Access, MemoryAccess};
use crate::{Adapter, Facts, Wanted, plan, read_all};

/// The files an adapter's plan changes for a setup, with their content afterwards.
pub fn planned(
    adapter: &dyn Adapter,
    access: &MemoryAccess,
    setup: &str,
) -> Vec<(PathBuf, String)> {
    planned_with(adapter, access, setup, None)
}

/// The same with fonts known.
pub fn planned_with(
    adapter: &dyn Adapter,
    access: &MemoryAccess,
    setup: &str,
    catalog: Option<&Catalog>,
) -> Vec<(PathBuf, String)> {
    let doc = SetupDoc::parse("s", setup.as_bytes()).unwrap();
    let look = Look::new(doc.setup());
    let report = adapter.read(access, &mut Facts::default());
    let wanted = Wanted {
        setup: doc.setup(),
        look: &look,
        catalog,
        home: access.home(),
    };
    changed(&adapter.plan(&wanted, &report, access).edits)
}

/// The files the plan of every tool changes.
pub fn whole_plan(access: &MemoryAccess, setup: &str) -> Vec<(PathBuf, String)> {
    let doc = SetupDoc::parse("s", setup.as_bytes()).unwrap();
    let look = Look::new(doc.setup());
    let reports = read_all(access);
    changed(&plan(doc.setup(), &look, &reports, access, None).edits)
}

fn changed(edits: &[FileEdit]) -> Vec<(PathBuf, String)> {
    let changed = edits
        .iter()
        .filter(|e| e.before.as_deref() != Some(&e.after()[..]));
    changed
        .map(|e| (e.path.clone(), String::from_utf8(e.after()).unwrap()))
        .collect()
}

/// The fonts of the sample home.
pub fn catalog() -> Catalog {
    static MADE: OnceLock<Catalog> = OnceLock::new();
    MADE.get_or_init(made).clone()
}

fn made() -> Catalog {
    let files = [
        fonts::complete(),
        fonts::bold(),
        fonts::without_icons(),
        fonts::wide_icons(),
        fonts::icons_at_old_places(),
    ];
    let entry = |bytes: Vec<u8>| Entry {
        path: "font".into(),
        info: faces(&bytes).unwrap().remove(0),
        coverage: coverage(&bytes, 0).unwrap().into(),
    };
    Catalog {
        faces: files.into_iter().map(entry).collect(),
    }
}
