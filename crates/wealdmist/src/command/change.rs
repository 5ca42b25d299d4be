//! Commands that change the setup file, and the trial.

use std::io::{self, BufRead, IsTerminal, Write};

use wealdmist_core::color::{reset_all, typed};
use wealdmist_core::look::Look;
use wealdmist_core::property::Property;
use wealdmist_core::role::{RoleId, Slot, lookup};
use wealdmist_core::setup::{EditError, Expr, SetupDoc};
use wealdmist_core::text::{self, closest};
use wealdmist_host::Survey;

use super::{shown, tool as known_tool, write};
use crate::cli::Then;
use crate::failure::{Failure, Outcome};
use crate::screen::{Guardian, take_colors_back_on_signals};
use crate::work::trial_sequences;

pub fn init(mut survey: Survey) -> Outcome {
    if survey.stored {
        let path = shown(&survey.home, survey.doc.path());
        return Err(Failure::Other(format!(
            "{path} exists already; edit it, or move it away first"
        )));
    }
    survey.save()?;
    say!("wrote {}", shown(&survey.home, survey.doc.path()));
    Ok(0)
}

pub fn set(mut survey: Survey, role: &str, value: &str, then: Then) -> Outcome {
    let before = survey.clone();
    survey.doc = with_value(&survey.doc, role, value)?;
    survey.save()?;
    if then.apply {
        say!("{role} is {value}");
        return write::follow(survey, before, !then.no_reload);
    }
    let plan = survey.plan();
    say!(
        "{role} is {value}; {} would follow (wealdmist plan)",
        plan.counted()
    );
    Ok(0)
}

/// The setup with a slot, role, named color or property set to a typed value.
pub fn with_value(doc: &SetupDoc, name: &str, value: &str) -> Result<SetupDoc, Failure> {
    if let Some(changed) = switched(doc, name, value) {
        return changed;
    }
    let role = RoleId::new(name);
    if let Some(property) = Property::from_key(name) {
        let value = property.typed(value).map_err(Failure::Other)?;
        return property.set(doc, &value).map_err(|e| match e {
            EditError::Missing(_) => Failure::Other(format!("'{name}' is found out, not set")),
            other => other.into(),
        });
    }
    let changed = match name {
        "palette" => doc.with_text(&["palette"], value),
        _ => {
            let setup = doc.setup();
            let named = setup.palette().colors.iter().any(|(n, _)| n == name);
            let of_palette = |n: &str| setup.palette().colors.iter().find(|(name, _)| name == n);
            let is_said = |n: &str| {
                let role = RoleId::new(n);
                Slot::from_key(n).is_some()
                    || of_palette(n).is_some()
                    || lookup(&role).is_some()
                    || setup.roles.contains_key(&role)
            };
            let now = of_palette(name).map_or_else(|| Look::new(setup).color(&role), |c| c.1);
            let expr = match typed(value, now) {
                _ if is_said(value) => Expr::Ref(value.to_owned()),
                Some(color) => Expr::Value(color),
                None => {
                    return Err(Failure::Other(format!(
                        "'{value}' is neither a color (#rrggbb, any notation of CSS, or from what it is now: \
                         'lighter 0.05') nor a slot, color or role of the setup"
                    )));
                }
            };
            match (Slot::from_key(name), &expr) {
                (Some(slot), Expr::Value(color)) => doc.with_slot(&setup.active, slot, *color),
                (Some(_), _) => {
                    return Err(Failure::Other(format!(
                        "{name} is a slot: give it a color, such as #rrggbb"
                    )));
                }
                (None, Expr::Value(color)) if named => doc.with_named(&setup.active, name, *color),
                _ if lookup(&role).is_some() || setup.roles.contains_key(&role) => {
                    doc.with_role(&role, &expr)
                }
                _ => return Err(unknown(name)),
            }
        }
    };
    Ok(changed?)
}

/// The setup with what it says of one tool, or of the prompt, set to a typed value; `None` where the name is
/// of neither.
fn switched(doc: &SetupDoc, name: &str, value: &str) -> Option<Result<SetupDoc, Failure>> {
    let parts: Vec<&str> = name.split('.').collect();
    let flag = |path: &[&str]| match value {
        "true" | "on" | "yes" => Ok(doc.with_flag(path, true)?),
        "false" | "off" | "no" => Ok(doc.with_flag(path, false)?),
        _ => Err(Failure::Other(format!(
            "{name} is true or false, not '{value}'"
        ))),
    };
    let number = |path: &[&str]| match value.parse() {
        Ok(n) => Ok(doc.with_number(path, n)?),
        Err(_) => Err(Failure::Other(format!("'{value}' is not a number"))),
    };
    Some(match parts.as_slice() {
        ["tools", tool, key] => match (known_tool(tool), *key) {
            (Err(failure), _) => Err(failure),
            (_, "manage" | "generate") => flag(&parts),
            (_, "symbols") => doc.with_text(&parts, value).map_err(Into::into),
            (_, other) => {
                let hint = closest(other, ["manage", "generate", "symbols"]);
                let hint = hint.map_or(String::new(), |h| format!("; did you mean '{h}'?"));
                Err(Failure::Other(format!("a tool has no '{other}'{hint}")))
            }
        },
        ["prompt", "git" | "blank" | "tie"] => flag(&parts),
        [
            "prompt",
            "gap" | "stretch" | "joint" | "open" | "close" | "past",
        ] => doc.with_text(&parts, value).map_err(Into::into),
        ["prompt", "parts", _, key] => match *key {
            "within" | "beginnings" | "twelve" | "seconds" | "version" => flag(&parts),
            "gives-way" | "folders" | "longest" | "above" | "below" => number(&parts),
            _ => doc.with_text(&parts, value).map_err(Into::into),
        },
        ["prompt", "lines" | "folders"] => number(&parts),
        // When the user's name is shown; else its color is meant.
        ["prompt", "user"] if matches!(value, "when-it-matters" | "always" | "never") => {
            doc.with_text(&parts, value).map_err(Into::into)
        }
        _ => return None,
    })
}

fn unknown(name: &str) -> Failure {
    let all = wealdmist_core::role::ROLES
        .iter()
        .map(|k| k.id)
        .chain(Property::ALL.map(Property::key));
    let hint = closest(name, all).map_or(String::new(), |n| format!("; did you mean '{n}'?"));
    Failure::Other(format!("there is no role '{name}'{hint}"))
}

pub fn adopt(mut survey: Survey, role: &str, tool: &str, then: Then) -> Outcome {
    let before = survey.clone();
    let role = RoleId::new(role);
    let tool = known_tool(tool)?;
    let reading = survey
        .reports
        .iter()
        .find(|r| r.tool == tool)
        .and_then(|r| r.effective(&role));
    let Some(reading) = reading else {
        return Err(Failure::Other(format!(
            "{tool}'s dotfiles say nothing of {role}"
        )));
    };
    let value = reading.value.clone();
    if role == RoleId::from(Property::Theme) {
        survey.doc = survey.doc.with_generated(tool, false)?;
        survey.save()?;
        say!("{tool} keeps its own: {value}");
    } else {
        survey.doc = survey.doc.adopting(&role, &value)?;
        survey.save()?;
        say!("{role} is {value} now, as in {tool}");
    }
    if then.apply {
        return write::follow(survey, before, !then.no_reload);
    }
    Ok(0)
}

pub fn except(mut survey: Survey, role: &str, tool: &str, reason: Option<&str>) -> Outcome {
    let tool = known_tool(tool)?;
    let role = RoleId::new(role);
    let said = survey
        .reports
        .iter()
        .any(|r| r.readings.iter().any(|x| x.role == role));
    if lookup(&role).is_none() && !role.is_property() && !said {
        return Err(unknown(role.as_str()));
    }
    survey.doc = match reason {
        Some(reason) => survey.doc.with_exception(tool, &role, reason)?,
        None => survey.doc.without_exception(tool, &role)?,
    };
    survey.save()?;
    match reason {
        Some(reason) => say!("{tool} may differ in {role}: {reason}"),
        None => say!("{tool} follows the setup in {role} again"),
    }
    Ok(0)
}

/// Takes the trial colors back however the command ends.
struct TakeBack(Guardian);

impl Drop for TakeBack {
    fn drop(&mut self) {
        let mut out = io::stdout();
        let _ = out.write_all(&reset_all());
        let _ = out.flush();
        self.0.dismiss();
    }
}

pub fn trial(survey: &Survey) -> Outcome {
    let mut out = io::stdout();
    if !out.is_terminal() {
        return Err(Failure::Other(
            "a trial needs a terminal: run it in the one to be tried on".into(),
        ));
    }
    let guardian = Guardian::start();
    take_colors_back_on_signals(&guardian)?;
    let _back = TakeBack(guardian);
    out.write_all(&trial_sequences(&survey.look()))?;
    let name = text::visible(survey.doc.setup().name.as_bytes());
    write!(
        out,
        "This terminal wears {name}. Press Enter to take it back. "
    )?;
    out.flush()?;
    let mut line = String::new();
    io::stdin().lock().read_line(&mut line)?;
    Ok(0)
}
