//! `wealdmist check`: what is wrong, with its place.

use std::io::Write;

use serde_json::json;
use wealdmist_core::finding::{Finding, Severity};
use wealdmist_core::role::RoleId;
use wealdmist_core::text;
use wealdmist_host::Survey;

use crate::cli::FailOn;
use crate::failure::{Failure, Outcome};
use crate::screen::{Mark, out, print_json};
use crate::work::glyphs::search;

pub fn run(survey: &Survey, as_json: bool, fail_on: FailOn) -> Outcome {
    let found = search(survey);
    let findings = survey.findings(&found.report);
    if as_json {
        print_json(&json!({"findings": findings.iter().map(to_json).collect::<Vec<_>>()}))?;
    } else {
        print(survey, &findings)?;
    }
    let least = match fail_on {
        FailOn::Note => Severity::Note,
        FailOn::Warning => Severity::Warning,
        FailOn::Error => Severity::Error,
        FailOn::Never => return Ok(0),
    };
    Ok(u8::from(findings.iter().any(|f| f.severity >= least)))
}

pub fn print(survey: &Survey, findings: &[Finding]) -> Result<(), Failure> {
    let mut out = out();
    for f in findings {
        // A whole path, so that an editor can jump to it from anywhere.
        let path = text::visible(f.path.to_string_lossy().as_bytes());
        let at = f.at.map_or_else(|| "1:1".to_owned(), |p| p.to_string());
        let message = text::visible(f.message.as_bytes());
        let mark = match f.severity {
            Severity::Error => Mark::Bad,
            Severity::Warning => Mark::Strong,
            Severity::Note => Mark::Quiet,
        };
        write!(out, "{path}:{at}: ")?;
        out.marked(mark, f.severity.key())?;
        writeln!(out, " {}: {message}", f.kind.key())?;
        if let Some(mend) = &f.mend {
            writeln!(out, "    {}", text::visible(mend.as_bytes()))?;
        }
    }
    let tools = survey
        .reports
        .iter()
        .filter(|r| !r.files.is_empty())
        .count();
    let (findings, tools) = (findings.len(), text::counted(tools, "tool"));
    writeln!(out, "{} in {tools}", text::counted(findings, "finding"))?;
    out.flush()?;
    Ok(())
}

fn to_json(f: &Finding) -> serde_json::Value {
    json!({
        "kind": f.kind.key(), "severity": f.severity.key(), "tool": f.tool.0, "path": f.path,
        "line": f.at.map(|p| p.line), "column": f.at.map(|p| p.column),
        "role": f.role.as_ref().map(RoleId::as_str), "message": f.message, "mend": f.mend,
    })
}
