//! `wealdmist contrast` and `repair`: pairs under conditions, and the smallest change that mends
//! them.

use std::io::Write;
use std::sync::Arc;

use serde_json::json;
use wealdmist_core::color::{
    Depth, Rgb, Rounding, THIN_TEXT, Vision, lightness_contrast, over, parse_with_alpha,
    ratio_shown,
};
use wealdmist_core::condition::{Behind, Conditions, Measured};
use wealdmist_core::look::origin;
use wealdmist_core::pair::{Pair, meanings, rounding_of};
use wealdmist_core::repair::{Background, Scope};
use wealdmist_core::role::{RoleId, Slot, lookup};
use wealdmist_core::setup::Setup;
use wealdmist_host::{Survey, read_backdrop};

use super::shown;
use crate::cli::{Colors, Seen, Sight};
use crate::failure::{Failure, Outcome};
use crate::screen::{Mark, out, print_json};
use crate::work::repair_of;

/// The conditions asked for.
pub fn conditions(survey: &Survey, seen: &Seen) -> Result<Conditions, Failure> {
    let own = survey.own_conditions();
    let severity = f64::from(seen.severity) / 100.0;
    Ok(Conditions {
        opacity: seen.opacity.map_or(own.opacity, |o| o.clamp(0.0, 1.0)),
        behind: match &seen.wallpaper {
            Some(path) => Behind::Image(Arc::new(read_backdrop(path)?)),
            None if seen.opacity.is_some() => Behind::Worst,
            None => own.behind,
        },
        dimmed: seen.dimmed.map(|d| d.clamp(0.0, 1.0)),
        depth: match seen.depth {
            Some(Colors::Indexed) => Depth::Indexed256,
            Some(Colors::Ansi) => Depth::Ansi16,
            _ => Depth::TrueColor,
        },
        vision: match seen.vision {
            None => Vision::Full,
            Some(Sight::Protan) => Vision::Protan(severity),
            Some(Sight::Deutan) => Vision::Deutan(severity),
            Some(Sight::Tritan) => Vision::Tritan(severity),
            Some(Sight::Gray) => Vision::Gray,
        },
    })
}

pub fn contrast(survey: &Survey, pair: &[String], seen: &Seen, as_json: bool) -> Outcome {
    let conditions = conditions(survey, seen)?;
    match pair {
        [text, ground] => one(survey, text, ground, &conditions, as_json),
        [] => all(survey, &conditions, as_json),
        _ => Err(Failure::Usage(
            "give a text color and a ground, or neither".into(),
        )),
    }
}

fn one(
    survey: &Survey,
    text: &str,
    ground: &str,
    conditions: &Conditions,
    as_json: bool,
) -> Outcome {
    let look = survey.look();
    let own = look.slot(Slot::Background);
    let roles = [text, ground].map(|word| RoleId::new(word.to_owned()));
    let rounding = match conditions.depth {
        Depth::Indexed256 => rounding_of(&survey.pairs(conditions), &roles[0], &roles[1]),
        _ => Rounding::Nearest,
    };
    let ((text, left), (ground, solid)) = (color(survey, text)?, color(survey, ground)?);
    // What lets something through lies over the terminal's own ground.
    let painted = over(ground, solid, own);
    let sight = wealdmist_core::condition::Sight {
        text,
        ground: painted,
        fade: left,
        in_pane: true,
        rounding,
    };
    // Terminals let only their own ground through.
    let is_held_back = conditions.opacity < 1.0 && painted != own;
    let conditions = &match is_held_back {
        true => Conditions {
            opacity: 1.0,
            ..conditions.clone()
        },
        false => conditions.clone(),
    };
    let measured: Measured = conditions.see(sight, &look);
    let ratio = measured.ratio;
    let lightness = lightness_contrast(measured.text, measured.ground);
    let mut notes = Vec::new();
    if left < 1.0 {
        notes.push(format!(
            "{:.0}% of the text's color over the ground",
            left * 100.0
        ));
    }
    if solid < 1.0 {
        let share = solid * 100.0;
        notes.push(format!(
            "{share:.0}% of the ground's color over the terminal's own {own}"
        ));
    }
    if is_held_back {
        notes.push(format!(
            "the opacity does not reach it: only the terminal's own ground {own} lets anything through"
        ));
    }
    if as_json {
        print_json(&json!({
            "text": text.to_string(), "ground": ground.to_string(),
            "text_alpha": left, "ground_alpha": solid, "notes": notes,
            "seen": {"text": measured.text.to_string(), "ground": measured.ground.to_string()},
            "conditions": conditions.label(), "ratio": ratio, "lightness_contrast": lightness,
            "text_4_5": ratio >= 4.5, "non_text_3": ratio >= 3.0,
        }))?;
    } else {
        let verdict = |good: bool| if good { "yes" } else { "no" };
        let mut out = out();
        out.sample(" text ", measured.text, measured.ground)?;
        writeln!(out, "{text} on {ground}: {}:1", ratio_shown(ratio))?;
        if (measured.text, measured.ground) != (text, ground) {
            writeln!(
                out,
                "  seen as {} on {}: {}",
                measured.text,
                measured.ground,
                conditions.label()
            )?;
        }
        for note in notes {
            writeln!(out, "  {note}")?;
        }
        writeln!(
            out,
            "  text (4.5:1) {}   large or secondary (3:1) {}   enhanced (7:1) {}",
            verdict(ratio >= 4.5),
            verdict(ratio >= 3.0),
            verdict(ratio >= 7.0)
        )?;
        writeln!(
            out,
            "  lightness contrast {lightness:.0}: thin text ({THIN_TEXT:.0}) {}",
            verdict(lightness >= THIN_TEXT)
        )?;
        out.flush()?;
    }
    Ok(u8::from(ratio < 4.5))
}

fn all(survey: &Survey, conditions: &Conditions, as_json: bool) -> Outcome {
    let pairs = survey.pairs(conditions);
    let told = meanings(&survey.look(), conditions);
    if as_json {
        let measured = |m: &Measured| json!({"text": m.text.to_string(), "ground": m.ground.to_string(), "ratio": m.ratio, "lightness_contrast": lightness_contrast(m.text, m.ground)});
        let rows: Vec<_> = pairs
            .iter()
            .map(|p| {
                json!({
                    "tool": p.tool.0, "also": p.also.iter().map(|t| t.0).collect::<Vec<_>>(), "what": p.what, "usage": p.usage.label(), "target": p.target,
                    "text": p.text.as_str(), "ground": p.ground.as_str(),
                    "now": measured(&p.now), "draft": measured(&p.draft), "exception": p.exception,
                    "path": p.place.as_ref().map(|p| p.path.to_path_buf()), "line": p.place.as_ref().filter(|p| p.is_written()).map(|p| p.at.line),
                    "by_itself": p.by_itself,
                })
            })
            .collect();
        let told: Vec<_> = told
            .iter()
            .map(|m| json!({"what": m.what, "difference": m.difference, "told_apart": m.fine()}))
            .collect();
        print_json(&json!({"conditions": conditions.label(), "pairs": rows, "meanings": told}))?;
    } else {
        let mut out = out();
        if !conditions.is_plain() {
            writeln!(out, "seen: {}", conditions.label())?;
        }
        let tool = |p: &Pair| match &p.also[..] {
            [] => p.tool.to_string(),
            [one] => format!("{}, {one}", p.tool),
            several => format!("{} and {} more", p.tool, several.len()),
        };
        let wide = pairs
            .iter()
            .map(|p| tool(p).len())
            .max()
            .unwrap_or(0)
            .max(6);
        write!(out, "  now   setup  needs  ")?;
        out.unless_plain("       ")?;
        writeln!(out, "{:<wide$} what", "tool")?;
        for p in &pairs {
            let sign = if p.fine() { ' ' } else { '!' };
            let place = match &p.place {
                Some(at) if at.is_written() => {
                    format!("  {}:{}", shown(&survey.home, &at.path), at.at.line)
                }
                Some(_) => format!("  what {} does by itself", p.tool),
                None => String::new(),
            };
            let kept = p.exception.as_ref().map_or(String::new(), |reason| {
                format!(
                    "  kept: {}",
                    wealdmist_core::text::visible(reason.as_bytes())
                )
            });
            match sign {
                '!' => out.marked(Mark::Bad, "!")?,
                _ => write!(out, " ")?,
            }
            write!(
                out,
                " {:>5} {:>5}  {:4}   ",
                ratio_shown(p.now.ratio),
                ratio_shown(p.draft.ratio),
                p.target
            )?;
            out.sample(" text ", p.draft.text, p.draft.ground)?;
            write!(out, "{:<wide$} {} ({})", tool(p), p.what, p.usage.label())?;
            out.marked(Mark::Quiet, &place)?;
            writeln!(out, "{kept}")?;
        }
        for m in told.iter().filter(|m| !m.fine()) {
            writeln!(
                out,
                "! {} are hard to tell apart: {} and {}, difference {:.1}",
                m.what, m.seen.0, m.seen.1, m.difference
            )?;
        }
        out.flush()?;
    }
    Ok(u8::from(pairs.iter().any(|p| !p.fine())))
}

/// A color as typed, a value or a role of the setup, and how much of it there is, 0–1.
fn color(survey: &Survey, typed: &str) -> Result<(Rgb, f64), Failure> {
    let role = RoleId::new(typed);
    let setup = survey.doc.setup();
    if let Some((_, color)) = setup.palette().colors.iter().find(|(n, _)| n == typed) {
        return Ok((*color, 1.0));
    }
    if lookup(&role).is_some() || setup.roles.contains_key(&role) {
        return Ok((survey.look().color(&role), 1.0));
    }
    parse_with_alpha(typed).ok_or_else(|| {
        Failure::Other(format!(
            "'{typed}' is neither a color (#rrggbb, or any notation of CSS) nor a role of the setup"
        ))
    })
}

/// Which colors a repair may move, by a name on the command line.
pub fn scope(setup: &Setup, only: Option<&str>) -> Result<Scope, Failure> {
    let Some(name) = only else {
        return Ok(Scope::Palette);
    };
    let role = RoleId::new(name);
    let named = setup.palette().colors.iter().any(|(n, _)| n == name);
    if !named && lookup(&role).is_none() && !setup.roles.contains_key(&role) {
        return Err(Failure::Other(format!(
            "there is no color or role '{name}' in the setup"
        )));
    }
    Ok(Scope::Color(origin(setup, setup.palette(), &role)))
}

pub fn mend(
    mut survey: Survey,
    only: Option<&str>,
    seen: &Seen,
    background: Background,
    hold: &[String],
    dry_run: bool,
) -> Outcome {
    let conditions = conditions(&survey, seen)?;
    let setup = survey.doc.setup().clone();
    let pairs = survey.pairs(&conditions);
    let only = scope(&setup, only)?;
    let held = hold.iter().map(|name| match scope(&setup, Some(name))? {
        Scope::Color(origin) => Ok(origin.to_string()),
        _ => Ok(name.clone()),
    });
    let held = held.collect::<Result<Vec<String>, Failure>>()?;
    let (done, wishes) = repair_of(&setup, &pairs, &conditions, &only, background, &held);
    let after = done.outcomes.iter().filter(|o| !o.met).count();
    let mut out = out();
    writeln!(
        out,
        "{} of {} pairs are below their target ({}), {after} after",
        done.failing_before(&wishes),
        wishes.len(),
        conditions.label()
    )?;
    if done.moves_background {
        let why = match background {
            Background::Moves => "as was asked for",
            _ => "more pairs can be read so than if it stays (--ground stays)",
        };
        writeln!(out, "the terminal's own ground moves: {why}")?;
    }
    for change in &done.changes {
        write!(out, "  {:<24} ", change.origin.to_string())?;
        out.swatch(Some(change.from))?;
        write!(out, "{} -> ", change.from)?;
        out.swatch(Some(change.to))?;
        writeln!(out, "{}   difference {:.1}", change.to, change.difference)?;
    }
    for obstacle in &done.obstacles {
        let (wish, outcome) = (&wishes[obstacle.wish], &done.outcomes[obstacle.wish]);
        out.marked(Mark::Bad, "!")?;
        writeln!(
            out,
            " {} on {} stays at {}:1, needs {}:1: {}",
            wish.text,
            wish.ground,
            ratio_shown(outcome.after),
            wish.target,
            obstacle.why
        )?;
    }
    out.flush()?;
    if !dry_run && !done.changes.is_empty() {
        survey.doc = done.carried_out(&survey.doc, &setup.active)?;
        survey.save()?;
        say!("the setup has them now (wealdmist plan)");
    }
    Ok(u8::from(after > 0))
}
