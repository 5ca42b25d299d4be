//! `wealdmist check`, `contrast` and `glyphs`: what is wrong, with its place.

use std::io::Write;

use serde_json::json;
use wealdmist_core::color::Rgb;
use wealdmist_core::condition::Conditions;
use wealdmist_core::finding::{Finding, FontState, Severity};
use wealdmist_core::pair::Measured;
use wealdmist_core::role::{RoleId, lookup};
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

pub fn contrast(survey: &Survey, pair: &[String], as_json: bool) -> Outcome {
    if let [text, ground] = pair {
        let measured = Measured::new(color(survey, text)?, color(survey, ground)?);
        let ratio = measured.ratio;
        if as_json {
            print_json(
                &json!({"text": measured.text.to_string(), "ground": measured.ground.to_string(), "ratio": ratio, "text_4_5": ratio >= 4.5, "non_text_3": ratio >= 3.0}),
            )?;
        } else {
            let verdict = |target: f64| if ratio >= target { "yes" } else { "no" };
            let mut out = out();
            writeln!(
                out,
                "{} on {}: {ratio:.2}:1",
                measured.text, measured.ground
            )?;
            writeln!(
                out,
                "  text (4.5:1) {}   large or secondary (3:1) {}   enhanced (7:1) {}",
                verdict(4.5),
                verdict(3.0),
                verdict(7.0)
            )?;
            out.flush()?;
        }
        return Ok(u8::from(ratio < 4.5));
    }
    if !pair.is_empty() {
        return Err(Failure::Other(
            "give a text color and a ground, or neither".into(),
        ));
    }
    let pairs = survey.pairs(&Conditions::default());
    if as_json {
        let rows: Vec<_> = pairs
            .iter()
            .map(|p| {
                json!({
                    "tool": p.tool.0, "what": p.what, "usage": p.usage.label(), "target": p.target,
                    "text": p.text.as_str(), "ground": p.ground.as_str(),
                    "now": {"text": p.now.text.to_string(), "ground": p.now.ground.to_string(), "ratio": p.now.ratio},
                    "draft": {"text": p.draft.text.to_string(), "ground": p.draft.ground.to_string(), "ratio": p.draft.ratio},
                    "path": p.place.as_ref().map(|p| p.path.to_path_buf()), "line": p.place.as_ref().map(|p| p.at.line),
                })
            })
            .collect();
        print_json(&json!({"pairs": rows}))?;
    } else {
        let mut out = out();
        writeln!(out, "  now   setup  needs  tool   what")?;
        for p in &pairs {
            let sign = if p.fine() { ' ' } else { '!' };
            let place = p.place.as_ref().map_or(String::new(), |p| {
                format!("  {}:{}", shown(&survey.home, &p.path), p.at.line)
            });
            writeln!(
                out,
                "{sign} {:5.2} {:5.2}  {:4}   {:<6} {} ({}){place}",
                p.now.ratio,
                p.draft.ratio,
                p.target,
                p.tool.0,
                p.what,
                p.usage.label()
            )?;
        }
        out.flush()?;
    }
    Ok(u8::from(pairs.iter().any(|p| !p.fine())))
}

/// A color as typed: a value, or a role of the setup.
fn color(survey: &Survey, typed: &str) -> Result<Rgb, Failure> {
    if typed.starts_with('#') {
        return typed
            .parse::<Rgb>()
            .map_err(|e| Failure::Other(e.to_string()));
    }
    let role = RoleId::new(typed);
    let setup = survey.doc.setup();
    if let Some((_, color)) = setup.palette().colors.iter().find(|(n, _)| n == typed) {
        return Ok(*color);
    }
    if lookup(&role).is_none() && !setup.roles.contains_key(&role) {
        return Err(Failure::Other(format!(
            "'{typed}' is neither #rrggbb nor a role of the setup"
        )));
    }
    Ok(survey.look().color(&role))
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
