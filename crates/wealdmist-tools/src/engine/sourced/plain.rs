//! Startup files of shells whose language is not worked out: whether they load our prompt, and which lines set
//! one. What those come to is told as unread.

use std::path::Path;

use wealdmist_core::property::Property;
use wealdmist_core::reading::{Standing, ToolReport, Value};
use wealdmist_core::role::RoleId;

use super::Ran;
use crate::access::Access;
use crate::document::lines;
use crate::evaluated::Visit;
use crate::shared;

/// Reads a startup file. `sets` says what a line sets of the prompt, if anything.
pub fn run(
    access: &dyn Access,
    mut report: ToolReport,
    file: &Path,
    ours: &Path,
    sets: fn(&str) -> Option<&'static str>,
) -> Ran {
    let mut ran = Ran {
        visits: Vec::new(),
        prompts: Vec::new(),
        loaded: None,
        report: ToolReport::new(report.tool),
    };
    let found = shared::load(access, &mut report, file, &[], false);
    if let Some(file) = found {
        // The same file under another name of the home.
        let name = ours.strip_prefix(access.home()).unwrap_or(ours);
        let name = name.to_string_lossy();
        for line in lines::lines(&file.bytes) {
            let text = String::from_utf8_lossy(&file.bytes[line.span.clone()]);
            let text = text.trim();
            if text.starts_with('#') {
                continue;
            }
            if text.contains(&*name) {
                ran.loaded = Some((0, line.span.clone()));
            } else if let Some(key) = sets(text) {
                let theme = Value::Text(format!("{key} of its own"));
                let role = RoleId::from(Property::Theme);
                let mut r = shared::reading(&file, &[], role, key, theme, line.span.clone());
                r.editable = false;
                r.standing = Standing::Unread(
                    format!("what {} makes of its startup files", report.tool.0).into(),
                );
                report.readings.push(r);
            }
        }
        if ran.loaded.is_some() {
            report.readings.clear();
        }
        ran.visits.push(Visit {
            file,
            chain: Vec::new(),
        });
    }
    ran.report = report;
    ran
}
