//! `wealdmist glyphs`, `icons`, `symbols` and `terminal`: characters in use and what becomes of
//! them.

use std::collections::BTreeMap;
use std::io::Write;

use serde_json::json;
use wealdmist_core::character::SymbolLevel;
use wealdmist_core::finding::FontState;
use wealdmist_core::glyph::{Judged, Verdict, substitute_of};
use wealdmist_core::icon::{self, State};
use wealdmist_core::reading::{GlyphUse, ToolId};
use wealdmist_core::text;
use wealdmist_core::window::host;
use wealdmist_host::{
    FontSearch, Survey, Terminals, glyphs_in, measure_terminal, own_terminal, unknown_terminal,
};

use super::shown;
use crate::cli::{GlyphOptions, LevelName, TerminalOptions};
use crate::failure::{Failure, Outcome};
use crate::screen::{out, print_json};
use crate::work::glyphs::{in_use, judged, mended, search, sheet};
use crate::work::write_svg;

pub fn glyphs(mut survey: Survey, options: &GlyphOptions) -> Outcome {
    let found = search(&survey);
    let extra = glyphs_in(&options.paths);
    if !options.paths.is_empty() && extra.is_empty() {
        say!("no character outside ASCII in these files");
        return Ok(0);
    }
    if options.mend {
        return mend(&mut survey, &found, &extra);
    }
    let mut rows = judged(&survey, &found, &extra);
    rows.retain(|(_, g, j)| !options.open || (!g.in_comment && j.is_problem()));
    let open = rows.iter().any(|(_, g, j)| !g.in_comment && j.is_problem());
    if let Some(path) = &options.output {
        let svg = sheet(&survey, &found, &rows);
        write_svg(&survey, &svg, path)?;
        say!("wrote {}", path.display());
        return Ok(0);
    }
    if options.json {
        let rows: Vec<_> = rows
            .iter()
            .map(|(tool, g, j)| row_json(&survey, &found, *tool, g, j))
            .collect();
        print_json(&json!({"font": survey.doc.setup().font.family, "glyphs": rows}))?;
        return Ok(u8::from(open));
    }
    let mut out = out();
    writeln!(out, "{}", heading(&survey, &found))?;
    for (tool, g, judged) in &rows {
        let comment = if g.in_comment { " (in a comment)" } else { "" };
        let points = text::code_points(&g.cluster);
        let sign = text::visible_with(&g.cluster, false);
        let said: Vec<String> = judged.verdicts.iter().map(ToString::to_string).collect();
        writeln!(
            out,
            "{}:{}: {} {sign} {tool}: {}{comment}",
            shown(&survey.home, &g.place.path),
            g.place.at,
            points,
            said.join("; ")
        )?;
        if let Some(note) = &judged.note {
            writeln!(out, "    {note}")?;
        }
        if judged.is_problem() && !g.in_comment {
            let chosen = found.chosen();
            let covers = |c| chosen.is_none_or(|f| f.covers(c));
            if let Some(s) =
                substitute_of(&g.cluster, survey.doc.setup().symbols_for(*tool), covers)
            {
                let to = text::code_points(&s.text);
                writeln!(
                    out,
                    "    instead: {} {} ({})",
                    text::visible_with(&s.text, false),
                    to,
                    s.kind.label()
                )?;
            }
        }
    }
    let problems = rows
        .iter()
        .filter(|(_, g, j)| !g.in_comment && j.is_problem())
        .count();
    writeln!(out, "{} glyphs, {problems} to be looked at", rows.len())?;
    out.flush()?;
    Ok(u8::from(open))
}

fn heading(survey: &Survey, found: &FontSearch) -> String {
    match &found.report.state {
        FontState::Found(font) => format!(
            "font {}  {}",
            text::visible(font.info.title().as_bytes()),
            shown(&survey.home, &font.path)
        ),
        FontState::NotFound { family, nearest } => {
            let near = nearest
                .as_ref()
                .map_or(String::new(), |n| format!("; did you mean '{n}'?"));
            format!(
                "font '{family}' is not installed ({} font files looked at){near}",
                found.files
            )
        }
        FontState::NotChosen => "no font is chosen: `wealdmist font choose NAME`".to_owned(),
    }
}

fn row_json(
    survey: &Survey,
    found: &FontSearch,
    tool: ToolId,
    g: &GlyphUse,
    judged: &Judged,
) -> serde_json::Value {
    let covers = |c| found.chosen().is_none_or(|f| f.covers(c));
    let instead = substitute_of(&g.cluster, survey.doc.setup().symbols_for(tool), covers);
    // As the terminal takes it that the window stands for.
    let host = host(survey.doc.setup(), &survey.reports).map(|r| r.tool);
    let shown = found.chosen().and_then(|f| f.of_host(host));
    let fallback = shown.and_then(|host| host.elsewhere.get(&g.character));
    let hosts = judged.hosts().into_iter();
    let hosts: BTreeMap<_, _> = hosts
        .map(|host| (host.0, judged.worst_in(host).map(Verdict::label)))
        .collect();
    json!({
        "tool": tool.0, "codepoint": format!("U+{:04X}", g.character as u32), "cluster": g.cluster,
        "name": icon::name(g.character), "escaped": g.escape.is_some(), "path": &*g.place.path,
        "line": g.place.at.line, "column": g.place.at.column, "comment": g.in_comment,
        "verdict": judged.worst().label(), "verdicts": judged.verdicts.iter().map(ToString::to_string).collect::<Vec<_>>(),
        "terminals": hosts, "fallback": fallback.map(|e| &e.family), "note": judged.note, "instead": instead.filter(|_| judged.is_problem()).map(|s| s.text),
    })
}

fn mend(survey: &mut Survey, found: &FontSearch, extra: &[GlyphUse]) -> Outcome {
    let Some(chosen) = found.chosen() else {
        return Err(Failure::Other(heading(survey, found)));
    };
    let rows = judged(survey, found, extra);
    let rows = rows
        .iter()
        .map(|(tool, used, judged)| (*tool, *used, judged));
    let (doc, list) = mended(&survey.doc, chosen, rows)?;
    if list.is_empty() {
        say!("nothing to mend");
        return Ok(0);
    }
    for (cluster, text) in &list {
        let shown = text::visible_with(text, false);
        say!(
            "{} → {shown} {}",
            text::code_points(cluster),
            text::code_points(text)
        );
    }
    survey.doc = doc;
    survey.save()?;
    say!(
        "wrote {}; `wealdmist apply` replaces them in all dotfiles",
        shown(&survey.home, survey.doc.path())
    );
    Ok(0)
}

pub fn icons(survey: &Survey, query: &str, as_json: bool) -> Outcome {
    let found = icon::search(query, 60);
    let font = search(survey);
    let has = |c: char| match font.chosen() {
        Some(chosen) if chosen.covers(c) => "in the font",
        Some(_) => "not in the font",
        None => "",
    };
    if as_json {
        let rows: Vec<_> = found.iter().map(|f| json!({"codepoint": format!("U+{:04X}", f.code as u32), "name": f.name, "inFont": font.chosen().map(|c| c.covers(f.code))})).collect();
        print_json(&json!({"found": rows}))?;
        return Ok(u8::from(found.is_empty()));
    }
    for f in &found {
        let state = match f.state {
            State::Present => String::new(),
            State::Moved(to) => format!(", now at U+{:04X}", to as u32),
            State::Gone => ", gone".to_owned(),
        };
        say!(
            "U+{:04X}  {}  {:<40} {}{state}",
            f.code as u32,
            f.code,
            f.name,
            has(f.code)
        );
    }
    if found.is_empty() {
        say!(
            "nothing answers to '{}'; search by words of a name, by meaning or by code point",
            text::visible(query.as_bytes())
        );
    }
    Ok(u8::from(found.is_empty()))
}

pub fn symbols(mut survey: Survey, level: LevelName, tool: Option<&str>) -> Outcome {
    let tool = tool.map(super::tool).transpose()?;
    let level = match level {
        LevelName::Icons => SymbolLevel::Icons,
        LevelName::Plain => SymbolLevel::Plain,
        LevelName::Ascii => SymbolLevel::Ascii,
    };
    survey.doc = survey.doc.with_symbols(tool, level)?;
    survey.save()?;
    let plan = survey.plan();
    say!(
        "wrote {}; {} would follow, `wealdmist plan` shows them",
        shown(&survey.home, survey.doc.path()),
        plan.counted()
    );
    Ok(0)
}

pub fn terminal(mut survey: Survey, options: &TerminalOptions) -> Outcome {
    let (name, version) = own_terminal();
    let mut known = Terminals::open(&survey.home);
    let mut record = known
        .find(&name, &version)
        .cloned()
        .unwrap_or_else(unknown_terminal);
    if options.measure {
        let fail = |e: wealdmist_host::TtyError| {
            Failure::Other(format!("this terminal could not be measured: {e}"))
        };
        record = measure_terminal(&in_use(&survey), Some(&record)).map_err(fail)?;
    }
    for (codes, wrong) in [(&options.wrong, true), (&options.right, false)] {
        for code in codes {
            let named = || Some(icon::search(code, 1).first()?.code.to_string());
            let marked = text::cluster_of(code)
                .or_else(named)
                .ok_or_else(|| Failure::Other(format!("'{code}' is no character; write U+F07B")))?;
            record.mark(&marked, Some(wrong));
        }
    }
    if options.measure || !options.wrong.is_empty() || !options.right.is_empty() {
        known.keep(&survey.home, record.clone())?;
    }
    let proposed = record.proposed_level();
    if options.r#use {
        let Some((level, _)) = &proposed else {
            return Err(Failure::Other(
                "nothing is known of this terminal yet: add --measure".into(),
            ));
        };
        survey.doc = survey.doc.with_symbols(None, *level)?;
        survey.save()?;
        say!("wrote {}", shown(&survey.home, survey.doc.path()));
    }
    if options.json {
        let rows: Vec<_> = record.rows().iter().map(|r| json!({"cluster": r.cluster, "terminal": r.terminal, "unicode": r.unicode, "shell": r.shell})).collect();
        print_json(
            &json!({"name": record.name, "version": record.version, "images": record.images, "widths": rows, "wrong": record.wrong, "right": record.right, "level": proposed.as_ref().map(|p| p.0.key())}),
        )?;
        return Ok(0);
    }
    say!(
        "terminal {} {}",
        text::visible(record.name.as_bytes()),
        text::visible(record.version.as_bytes())
    );
    if record.widths.is_empty() {
        say!("its widths have not been measured: `wealdmist terminal --measure` does it");
    }
    let rows = record.rows();
    for row in rows.iter().filter(|r| !r.agrees()) {
        let points = text::code_points(&row.cluster);
        say!(
            "  {:<24} {} cells here, {} by Unicode, {} as shells add up",
            points,
            row.terminal,
            row.unicode,
            row.shell
        );
    }
    let agree = rows.iter().filter(|r| r.agrees()).count();
    if !rows.is_empty() {
        say!("  {agree} of {} measured agree everywhere", rows.len());
    }
    for (list, word) in [(&record.wrong, "wrong"), (&record.right, "right")] {
        if !list.is_empty() {
            let points: Vec<String> = list.iter().map(|c| text::code_points(c)).collect();
            say!("  marked {word}: {}", points.join(", "));
        }
    }
    if let Some((level, reason)) = proposed {
        say!("symbol level proposed: {} ({reason})", level.key());
    }
    Ok(0)
}
