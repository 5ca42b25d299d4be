//! What a prompt draws: which text on which ground.

use wealdmist_core::prompt::{BETWEEN, usage};
use wealdmist_core::reading::{Drawn, Paint, ToolReport};
use wealdmist_core::role::{RoleId, Usage, lookup};
use wealdmist_core::setup::Setup;

use super::{OF_OURS, Stretch};

/// What the prompt of a design draws: each of its parts on its ground, and where two grounds meet.
pub fn drawn_by_design(setup: &Setup) -> Vec<Drawn> {
    let design = &setup.prompt;
    let own = RoleId::known("background");
    let mut out: Vec<Drawn> = Vec::new();
    let mut add = |what: String, text: &RoleId, ground: &RoleId, usage: Usage| {
        let known = |d: &Drawn| d.text.role == *text && d.ground.role == *ground;
        if text == ground || out.iter().any(known) {
            return;
        }
        let paint = |role: &RoleId| Paint {
            role: role.clone(),
            reading: None,
        };
        out.push(Drawn {
            what,
            text: paint(text),
            ground: paint(ground),
            usage,
            fade: 1.0,
            fades_by: None,
        });
    };
    for part in design.parts() {
        let ground = part.ground.as_ref().unwrap_or(&own);
        for text in part.texts() {
            add(text.label(), text, ground, usage(text));
        }
    }
    // Parts between two blocks may not be there: whatever can meet is judged.
    for run in design.lines.iter().flat_map(|l| [&l.left, &l.right]) {
        for (i, from) in run.iter().enumerate() {
            for to in &run[i + 1..] {
                if let (Some(from), Some(to)) = (&from.ground, &to.ground) {
                    add("joint of two blocks".to_owned(), from, to, Usage::NonText);
                }
                if to.is_always_shown() {
                    break;
                }
            }
        }
    }
    let between = RoleId::known(BETWEEN);
    if design.tie || design.stretch != ' ' || !design.gap.trim().is_empty() {
        add(between.label(), &between, &own, Usage::NonText);
    }
    out
}

/// What the prompt draws: the person's own, stretch by stretch, or ours.
pub fn drawn(report: &ToolReport, stretches: &[Stretch]) -> Vec<Drawn> {
    let paint = |index: Option<usize>, default: &'static str| Paint {
        role: index.map_or(RoleId::known(default), |i| report.readings[i].role.clone()),
        reading: index,
    };
    let effective = |index: &Option<usize>| index.is_none_or(|i| report.readings[i].effective);
    let of_own = stretches
        .iter()
        .filter(|s| s.text.is_some() || s.ground.is_some())
        .filter(|s| effective(&s.text) && effective(&s.ground))
        .map(|s| {
            let text = paint(s.text, "foreground");
            let (what, usage) = if s.joins {
                ("prompt, joint of two segments".to_owned(), Usage::NonText)
            } else {
                (text.role.label(), Usage::Body)
            };
            Drawn {
                what,
                text,
                ground: paint(s.ground, "background"),
                usage,
                fade: 1.0,
                fades_by: None,
            }
        });
    let written = report
        .readings
        .iter()
        .enumerate()
        .filter(|(_, r)| r.effective && r.key == OF_OURS && r.role.as_str().starts_with("prompt."))
        .map(|(i, r)| Drawn {
            what: r.role.label(),
            text: paint(Some(i), "foreground"),
            ground: paint(None, "background"),
            usage: Usage::Body,
            fade: 1.0,
            fades_by: None,
        });
    let others = report.readings.iter().enumerate().filter_map(|(i, r)| {
        let name = r.role.as_str();
        if !r.effective || r.role.is_property() || name.starts_with("prompt.") || r.role.is_ground()
        {
            return None;
        }
        let stem = name.strip_suffix(".text").unwrap_or(name);
        let own = RoleId::new(format!("{stem}.ground"));
        let index = report.effective_index(&own);
        let known = lookup(&r.role);
        let default = known.map_or("background", |role| role.on);
        Some(Drawn {
            what: r.role.label(),
            text: paint(Some(i), "foreground"),
            ground: match index {
                Some(_) => paint(index, "background"),
                None => paint(None, default),
            },
            usage: known.map_or(Usage::Body, |role| role.usage),
            fade: 1.0,
            fades_by: None,
        })
    });
    of_own.chain(written).chain(others).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::setup::SetupDoc;

    #[test]
    fn whatever_can_meet_in_a_prompt_is_judged() {
        let drawn = |prompt: &str| {
            let doc = SetupDoc::parse("s", b"[palettes.a]\n").unwrap();
            let doc = doc.with_prompt(prompt).unwrap();
            let all = drawn_by_design(doc.setup());
            let pair = |d: Drawn| format!("{} on {} {:?}", d.text.role, d.ground.role, d.usage);
            all.into_iter().map(pair).collect::<Vec<_>>()
        };
        let blocks = |parts: &str, more: &str| {
            format!(
                "{more}[[prompt.line]]\nleft = [{parts}, 'input']\n[prompt.parts.user]\nwhen = 'always'\nground = 'red'\n[prompt.parts.branch]\nground = 'green'\n[prompt.parts.folder]\nground = 'blue'\n"
            )
        };
        // A branch may be missing: the blocks around it meet as well.
        let open = drawn(&blocks("'user', 'branch', 'folder'", ""));
        for pair in [
            "red on green NonText",
            "green on blue NonText",
            "red on blue NonText",
            "prompt.folder on blue Body",
            "prompt.sign on background Body",
        ] {
            assert!(open.contains(&pair.to_owned()), "{pair}: {open:?}");
        }
        // A folder never is: what stands around it does not.
        let closed = drawn(&blocks("'user', 'folder', 'branch'", "stretch = '.'\n"));
        assert!(
            !closed.contains(&"red on green NonText".to_owned()),
            "{closed:?}"
        );
        assert!(closed.contains(&"prompt.between on background NonText".to_owned()));
        assert!(!open.iter().any(|p| p.contains("between")), "{open:?}");
    }
}
