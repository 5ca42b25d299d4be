//! `wealdmist check`, `contrast` and `glyphs`: what is wrong, with its place.

use std::io::Write;

use serde_json::json;
use wealdmist_core::finding::{Finding, FontState, Severity};
use wealdmist_core::role::RoleId;
use wealdmist_core::{glyph, text};
use wealdmist_host::{Survey, find_font};

use super::{Outcome, out, print_json, shown};
use crate::cli::FailOn;
use crate::failure::Failure;

pub fn run(survey: &Survey, as_json: bool, fail_on: FailOn) -> Outcome {
    let font = find_font(&survey.home, survey.doc.setup().font.family.as_deref());
    let findings = survey.findings(&font.state);
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
        writeln!(
            out,
            "{path}:{at}: {} {}: {message}",
            f.severity.key(),
            f.kind.key()
        )?;
        if let Some(mend) = &f.mend {
            writeln!(out, "    {}", text::visible(mend.as_bytes()))?;
        }
    }
    let tools = survey
        .reports
        .iter()
        .filter(|r| !r.files.is_empty())
        .count();
    writeln!(out, "{} findings in {tools} tools", findings.len())?;
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

pub fn glyphs(survey: &Survey, as_json: bool) -> Outcome {
    let font = find_font(&survey.home, survey.doc.setup().font.family.as_deref());
    let verdict = |c: char| match &font.state {
        FontState::Found(coverage) if coverage.has(c) => "there",
        FontState::Found(_) if glyph::is_moved_range(c) => "missing (an older release's place)",
        FontState::Found(_) => "missing",
        FontState::NotFound { .. } => "font not found",
        FontState::NotChosen => "no font chosen",
    };
    let uses = || {
        survey
            .reports
            .iter()
            .flat_map(|r| r.glyphs.iter().map(move |g| (r.tool, g)))
    };
    if as_json {
        let rows: Vec<_> = uses()
            .map(|(tool, g)| {
                json!({"tool": tool.0, "codepoint": format!("U+{:04X}", g.character as u32), "path": &*g.place.path, "line": g.place.at.line, "column": g.place.at.column, "comment": g.in_comment, "verdict": verdict(g.character)})
            })
            .collect();
        print_json(&json!({"font": survey.doc.setup().font.family, "glyphs": rows}))?;
    } else {
        let mut out = out();
        match (&font.file, &survey.doc.setup().font.family) {
            (Some((path, face)), _) => {
                writeln!(
                    out,
                    "font {} {}  {}",
                    face.families.iter().next().map_or("", String::as_str),
                    face.style,
                    shown(&survey.home, path)
                )?;
            }
            (None, Some(family)) => writeln!(
                out,
                "font '{family}' is not installed ({} font files looked at)",
                font.files
            )?,
            (None, None) => writeln!(out, "no font is chosen: `wealdmist set font.family NAME`")?,
        }
        for (tool, g) in uses() {
            let comment = if g.in_comment { " (comment)" } else { "" };
            let sign = text::visible_with(&g.character.to_string(), false);
            writeln!(
                out,
                "{}:{}: U+{:04X} {sign} {tool}: {}{comment}",
                shown(&survey.home, &g.place.path),
                g.place.at,
                g.character as u32,
                verdict(g.character)
            )?;
        }
        out.flush()?;
    }
    let missing = uses().any(|(_, g)| !g.in_comment && verdict(g.character).starts_with("missing"));
    Ok(u8::from(missing))
}
