//! All adapters together on the sample home, in memory: what a plan does to a whole home.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

use std::path::Path;

use proptest::prelude::*;
use wealdmist_core::Rgb;
use wealdmist_core::first::first_setup;
use wealdmist_core::ledger::{Ledger, State};
use wealdmist_core::look::Look;
use wealdmist_core::plan::Plan;
use wealdmist_core::reading::ToolId;
use wealdmist_core::reading::Value;
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::setup::{Expr, SetupDoc};
use wealdmist_tools::access::{MEMORY_HOME, MemoryAccess};
use wealdmist_tools::{plan, read_all};

fn sample() -> MemoryAccess {
    let mut access = MemoryAccess::default();
    for file in wealdmist_core::demo::files() {
        access
            .files
            .insert(Path::new(MEMORY_HOME).join(file.path), file.bytes);
    }
    access
}

fn first(access: &MemoryAccess) -> SetupDoc {
    let text = first_setup("Saltmarsh", Some("dusk"), &read_all(access));
    SetupDoc::parse("setup.toml", text.as_bytes()).unwrap()
}

fn planned(access: &MemoryAccess, doc: &SetupDoc) -> Plan {
    plan(
        doc.setup(),
        &Look::new(doc.setup()),
        &read_all(access),
        access,
        None,
    )
}

fn applied(access: &MemoryAccess, plan: &Plan) -> MemoryAccess {
    let mut after = access.clone();
    for edit in &plan.edits {
        after.files.insert(edit.target.clone(), edit.after());
    }
    after
}

#[test]
fn applying_leaves_no_drift_but_what_cannot_be_mended() {
    let access = sample();
    let doc = first(&access);
    let after = applied(&access, &planned(&access, &doc));
    let reports = read_all(&after);
    let ledger = Ledger::new(doc.setup(), &Look::new(doc.setup()), &reports);
    let drifting: Vec<_> = ledger
        .rows
        .iter()
        .filter(|r| r.drifts())
        .map(|r| r.role.as_str())
        .collect();
    assert!(drifting.is_empty(), "{drifting:?}");
    assert!(planned(&after, &doc).is_empty(), "a second plan is empty");
    assert!(reports.iter().all(|r| r.problems.is_empty()));
}

#[test]
fn every_reading_stands_where_it_says() {
    for report in read_all(&sample()) {
        for reading in &report.readings {
            let file = report.file(&reading.place.path).unwrap();
            let written =
                String::from_utf8_lossy(&file.bytes[reading.place.span.clone()]).into_owned();
            if let Value::Color(color) = reading.value
                && reading.editable
                && written.starts_with('#')
            {
                assert_eq!(written, color.to_string(), "{reading:?}");
            }
            assert!(!reading.key.is_empty());
            assert!(reading.place.is_written() || reading.is_default());
        }
        for drawn in &report.drawn {
            for paint in [&drawn.text, &drawn.ground] {
                if let Some(i) = paint.reading {
                    assert_eq!(report.readings[i].role, paint.role, "{drawn:?}");
                    assert!(report.readings[i].effective, "{drawn:?}");
                }
            }
        }
    }
}

#[test]
fn a_tool_that_is_not_managed_is_left_alone() {
    let access = sample();
    let doc = first(&access);
    for tool in ["kitty", "tmux", "nvim", "bash"] {
        let text = format!("{}\n[tools.{tool}]\nmanage = false\n", doc.text());
        let doc = SetupDoc::parse("setup.toml", text.as_bytes()).unwrap();
        let doc = doc
            .with_slot(&"dusk".into(), Slot::Red, Rgb::new(1, 2, 3))
            .unwrap();
        assert!(
            planned(&access, &doc)
                .edits
                .iter()
                .all(|e| e.tool.0 != tool),
            "{tool}"
        );
    }
}

#[test]
fn an_exception_keeps_its_value_through_every_change() {
    let access = sample();
    let role = RoleId::known("border.active");
    let doc = first(&access)
        .with_exception(ToolId("tmux"), &role, "seen from afar")
        .unwrap();
    let doc = doc
        .with_slot(&"dusk".into(), Slot::Cyan, Rgb::new(9, 9, 9))
        .unwrap();
    let after = applied(&access, &planned(&access, &doc));
    let conf = &after.files[&Path::new(MEMORY_HOME).join(".config/tmux/tmux.conf")];
    assert!(String::from_utf8_lossy(conf).contains("pane-active-border-style \"fg=#528b8e\""));
    let reports = read_all(&after);
    let ledger = Ledger::new(doc.setup(), &Look::new(doc.setup()), &reports);
    let row = ledger.row(&role).unwrap();
    let state = |tool: &str| {
        let column = ledger.tools.iter().position(|t| t.0 == tool).unwrap();
        row.cells[column].state.clone()
    };
    assert_eq!(state("tmux"), State::Exception("seen from afar".into()));
    assert_eq!(state("kitty"), State::Agrees);
}

#[test]
fn line_ends_of_every_kind_survive() {
    for (name, change) in [
        (
            "CRLF",
            (|t| t.replace('\n', "\r\n")) as fn(String) -> String,
        ),
        ("no last line end", |t| t.trim_end().to_owned()),
    ] {
        let mut access = sample();
        for path in [
            ".config/kitty/kitty.conf",
            ".config/kitty/dusk.conf",
            ".config/alacritty/alacritty.toml",
            ".config/foot/foot.ini",
            ".Xresources",
            ".config/wezterm/wezterm.lua",
            ".config/nvim/init.lua",
            ".bashrc",
            ".config/fish/config.fish",
        ] {
            let path = Path::new(MEMORY_HOME).join(path);
            let text = String::from_utf8(access.files[&path].clone()).unwrap();
            access.files.insert(path, change(text).into_bytes());
        }
        let doc = first(&access)
            .with_slot(&"dusk".into(), Slot::Cyan, Rgb::new(1, 2, 3))
            .unwrap();
        let plan = planned(&access, &doc);
        let after = applied(&access, &plan);
        assert!(planned(&after, &doc).is_empty(), "{name}");
        for edit in plan.edits.iter().filter(|e| e.before.is_some()) {
            let text = String::from_utf8(edit.after()).unwrap();
            let (bare, full) = (text.matches('\n').count(), text.matches("\r\n").count());
            let crlf = name == "CRLF"
                && !edit.path.ends_with("tmux.conf")
                && !edit.path.ends_with("bar.conf")
                && !edit.path.ends_with("creek.lua");
            assert_eq!(
                full,
                if crlf { bare } else { 0 },
                "{name} {}",
                edit.path.display()
            );
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Whatever colors are chosen, one apply is enough, and only values change.
    #[test]
    fn one_apply_is_enough(changes in proptest::collection::vec((0usize..22, 0u32..0x100_0000), 1..8)) {
        let access = sample();
        let mut doc = first(&access);
        for (slot, color) in &changes {
            doc = doc.with_slot(&"dusk".into(), Slot::ALL[*slot], Rgb::from_u32(*color)).unwrap();
        }
        let plan = planned(&access, &doc);
        let after = applied(&access, &plan);
        prop_assert!(planned(&after, &doc).is_empty());
        for edit in plan.edits.iter().filter(|e| e.before.is_some()) {
            let (before, now) = (edit.before.as_deref().unwrap(), edit.after());
            let lines = |b: &[u8]| b.iter().filter(|c| **c == b'\n').count();
            // At most the line that loads the prompt is new, or those that keep 24-bit color, one
            // for each of four terminals.
            prop_assert!(lines(&now) - lines(before) <= 4, "{}", edit.path.display());
        }
    }

    /// A role set to any color comes back as that color from every tool that writes it.
    #[test]
    fn a_role_reads_back_as_it_was_set(color in 0u32..0x100_0000, which in 0usize..5) {
        let role = RoleId::known(["comment", "border.active", "bar.left.text", "prompt.folder", "status.ground"][which]);
        let access = sample();
        let color = Rgb::from_u32(color);
        let doc = first(&access).with_role(&role, &Expr::Value(color)).unwrap();
        let after = applied(&access, &planned(&access, &doc));
        let mut seen = 0;
        for report in read_all(&after) {
            for reading in report.readings.iter().filter(|r| r.effective && r.role == role) {
                prop_assert_eq!(&reading.value, &Value::Color(color));
                seen += 1;
            }
        }
        prop_assert!(seen > 0);
    }
}
