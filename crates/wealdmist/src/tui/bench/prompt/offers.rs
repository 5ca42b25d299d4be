//! What can be chosen from: parts that are not in the design, colors, whole designs.

use wealdmist_core::character::SymbolLevel;
use wealdmist_core::icon;
use wealdmist_core::prompt::{
    Design, Ink, KNOWN, Kind, Known, Part, Piece, Situation, cells_of, draw, place, ready, strip,
};
use wealdmist_core::reading::ToolId;
use wealdmist_core::role::{Group, ROLES, RoleId, Slot};
use wealdmist_core::setup::SetupDoc;
use wealdmist_tools::sourced::Sourced;

use super::choice::{Choice, Costs, Offer, Own};
use super::facts;
use crate::tui::bench::{Do, held};
use crate::tui::workspace::Workspace;
use crate::work::prompt::{level, own_prompts, shown};

/// Which of a part's colors is chosen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Of {
    Text,
    Failed,
    Command,
    Ground,
}

/// A part alone, as a design draws it.
fn alone(ws: &Workspace, design: &Design, part: usize) -> Vec<Piece> {
    let setup = ws.doc().setup();
    let level = level(setup, ws.display.icons);
    let at = design.at(level, |text| setup.signs_at(level, text));
    let rows = strip(&at);
    let mut pieces = rows.into_iter().flatten().flatten();
    pieces.by_ref().filter(|p| p.part == Some(part)).collect()
}

/// The parts that are not in the design, those that tell something on this machine first.
/// What each costs is measured while they are looked at.
pub fn parts<K, W>(
    after: usize,
    battery: bool,
    shell: Option<(ToolId, &'static Sourced)>,
    ws: &mut Workspace,
) -> Vec<Do<K, W>> {
    let design = &ws.doc().setup().prompt;
    let survey = &ws.survey;
    let is_here = |known: &Known| match known.version.first() {
        _ if known.kind == Kind::Battery => battery,
        Some(program) => survey.has_program(program),
        None => !matches!(known.kind, Kind::Language | Kind::Variable),
    };
    let absent = |known: &&Known| {
        let again = known.kind == Kind::Text;
        known.kind != Kind::Input && (again || !design.parts().any(|p| p.name == known.name))
    };
    let mut known: Vec<&Known> = KNOWN.iter().filter(absent).collect();
    let languages = |k: &Known| k.kind == Kind::Language;
    // Languages of this machine, what else there is, then the rest.
    known.sort_by_key(|k| (!is_here(k), !languages(k)));
    let mut offers: Vec<Offer> = Vec::new();
    for known in known {
        let mut design = design.clone();
        let part = design.put_in(after, Part::usual(known));
        let says = match is_here(known) {
            true => String::new(),
            false => "not on this machine".to_owned(),
        };
        offers.push(Offer {
            name: known.label.to_owned(),
            says,
            rows: vec![alone(ws, &design, part)],
            alone: (known.kind != Kind::Text).then(|| Part::usual(known)),
            design,
            asks: (known.kind == Kind::Text).then_some(Own::Text),
        });
    }
    for (name, own) in [
        ("a variable of yours", Own::Variable),
        ("a tool of yours", Own::Tool),
    ] {
        offers.push(Offer {
            name: name.to_owned(),
            says: String::new(),
            rows: Vec::new(),
            alone: None,
            design: design.clone(),
            asks: Some(own),
        });
    }
    let mut choice = Choice::new("a part to be added", offers, 0, after);
    choice.costs = shell.map(|shell| Costs::of(shell, ws));
    vec![Do::Open(held(choice))]
}

/// The most icons that are offered at once.
const ICONS: usize = 200;

/// Icons that answer to what a part is called, each as its sign.
pub fn icons<K, W>(part: usize, ws: &mut Workspace) -> Vec<Do<K, W>> {
    let Some(one) = ws.doc().setup().prompt.part(part) else {
        return Vec::new();
    };
    let (name, offers) = (one.name.clone(), icons_of(ws, part, &one.name));
    let mut choice = Choice::new(format!("an icon for {name}"), offers, 0, part);
    choice.again = Some(icons_of);
    vec![Do::Open(held(choice))]
}

/// The same for other words.
fn icons_of(ws: &Workspace, part: usize, words: &str) -> Vec<Offer> {
    let setup = ws.doc().setup();
    let Some(now) = setup.prompt.part(part) else {
        return Vec::new();
    };
    // What stands between a sign and what it is the sign of stays.
    let old = &now.signs[place(SymbolLevel::Icons)];
    let gap = match old.is_empty() {
        true if now.kind != Kind::Input => " ",
        _ => &old[old.trim_end().len()..],
    };
    let of = |found: icon::Found| {
        let mut design = setup.prompt.clone();
        let part = design.part_mut(part)?;
        part.signs = super::with_sign(&part.signs, &format!("{}{gap}", found.code));
        let says = match ws.chosen_font() {
            Some(font) if font.covers(found.code) => "in the font",
            Some(_) => "! not in the font",
            None => "",
        };
        let at = part_of(&design, &now.name);
        Some(Offer {
            name: format!("U+{:04X} {}", found.code as u32, found.name),
            says: says.to_owned(),
            rows: vec![alone(ws, &design, at)],
            alone: None,
            design,
            asks: None,
        })
    };
    let mut out: Vec<Offer> = icon::search(words, ICONS)
        .into_iter()
        .filter_map(of)
        .collect();
    // Those that can be seen come first.
    out.sort_by_key(|offer| offer.says.starts_with('!'));
    out
}

/// The colors that a part can have, each drawn as it would look.
pub fn colors<K, W>(part: usize, of: Of, ws: &mut Workspace) -> Vec<Do<K, W>> {
    let design = &ws.doc().setup().prompt;
    let Some(one) = design.part(part) else {
        return Vec::new();
    };
    let (name, now) = (
        one.name.clone(),
        match of {
            Of::Text => Some(&one.text),
            Of::Failed => one.text_failed.as_ref(),
            Of::Command => one.text_command.as_ref(),
            Of::Ground => one.ground.as_ref(),
        },
    );
    let named = ws.doc().setup().palette().colors.iter();
    let prompt = ROLES.iter().filter(|r| r.group == Group::Prompt);
    let all = (prompt.map(|r| RoleId::known(r.id)))
        .chain(Slot::ALL.map(RoleId::from))
        .chain(named.map(|(n, _)| RoleId::new(n.clone())));
    let mut choices: Vec<Option<RoleId>> = all.map(Some).collect();
    if of != Of::Text {
        choices.insert(0, None);
    }
    let mut offers = Vec::new();
    for role in choices {
        let mut design = design.clone();
        let Some(part) = design.part_mut(part) else {
            continue;
        };
        let label = match (&role, of) {
            (Some(role), _) => role.as_str().to_owned(),
            (None, Of::Ground) => "the terminal's own".to_owned(),
            (None, _) => "as otherwise".to_owned(),
        };
        match of {
            Of::Text => part.text = role.unwrap_or_else(|| part.text.clone()),
            Of::Failed => part.text_failed = role,
            Of::Command => part.text_command = role,
            Of::Ground => part.ground = role,
        }
        let text = match of {
            Of::Failed => part.text_failed.as_ref().unwrap_or(&part.text),
            Of::Command => part.text_command.as_ref().unwrap_or(&part.text),
            _ => &part.text,
        };
        let (says, _) = facts::ratio_said(ws, text, part.ground.as_ref());
        offers.push(Offer {
            name: label,
            says,
            rows: vec![shown_in(ws, &design, part_of(&design, &name), of)],
            alone: None,
            design,
            asks: None,
        });
    }
    let at = offers
        .iter()
        .position(|o| now.is_some_and(|r| o.name == r.as_str()));
    let title = match of {
        Of::Text => format!("the color of {name}"),
        Of::Failed => format!("the color of {name} after a failure"),
        Of::Command => format!("the color of {name} in command mode"),
        Of::Ground => format!("the ground of {name}"),
    };
    let choice = Choice::new(title, offers, at.unwrap_or(0), part);
    vec![Do::Open(held(choice))]
}

fn part_of(design: &Design, name: &str) -> usize {
    design.parts().position(|p| p.name == name).unwrap_or(0)
}

/// A part in the color that is chosen.
fn shown_in(ws: &Workspace, design: &Design, part: usize, of: Of) -> Vec<Piece> {
    let mut pieces = alone(ws, design, part);
    let turned = design.part(part).and_then(|p| match of {
        Of::Failed => p.text_failed.clone(),
        Of::Command => p.text_command.clone(),
        Of::Text | Of::Ground => None,
    });
    for piece in &mut pieces {
        piece.ink.text = turned.clone().or_else(|| piece.ink.text.take());
    }
    pieces
}

/// A design in the sample's situation, row by row.
fn whole(design: &Design) -> Vec<Vec<Piece>> {
    let sample = Situation {
        width: 60,
        ..Situation::sample()
    };
    let rows = draw(design, true, &sample).into_iter();
    let rows = rows.filter(|r| !r.left.is_empty()).map(|row| {
        let used = cells_of(&row.left) + cells_of(&row.right) + 1;
        let way = Piece {
            text: " ".repeat(sample.width.saturating_sub(used)),
            ink: Ink::default(),
            part: None,
        };
        row.left.into_iter().chain([way]).chain(row.right).collect()
    });
    rows.collect()
}

/// The designs that are ready, and the person's own where it is none of them.
pub fn designs<K, W>(ws: &mut Workspace) -> Vec<Do<K, W>> {
    let setup = ws.doc().setup();
    let mut offers = Vec::new();
    let mut of = |name: &str, says: &str, design: &Design, doc: &SetupDoc| {
        offers.push(Offer {
            name: name.to_owned(),
            says: says.to_owned(),
            rows: whole(&shown(doc.setup(), ws.display.icons)),
            alone: None,
            design: design.clone(),
            asks: None,
        });
    };
    let all: Vec<_> = ready::ALL
        .iter()
        .filter_map(|r| Some((r, ws.doc().with_prompt(r.toml).ok()?)))
        .collect();
    let here = all
        .iter()
        .position(|(_, doc)| doc.setup().prompt == setup.prompt);
    if here.is_none() {
        of("yours", "as it is now", &setup.prompt, ws.doc());
    }
    // What the shells have now.
    for (report, own) in own_prompts(&ws.survey.reports) {
        let design = own.design(report);
        if let Ok(doc) = ws.doc().with_design(&design) {
            let says = match own.left_out.len() {
                0 => "what it has now".to_owned(),
                n => format!("what it has now, but for {n} that no part tells"),
            };
            of(report.tool.0, &says, &doc.setup().prompt, &doc);
        }
    }
    for (ready, doc) in &all {
        of(ready.name, ready.says, &doc.setup().prompt, doc);
    }
    // The pointer is on the first ready one that is another one.
    let ready = offers.len() - all.len();
    let first = ready + usize::from(here == Some(0));
    let choice = Choice::new("a design to be taken", offers, first, 0);
    vec![Do::Open(held(choice))]
}

/// A part of the person's own, put in behind another one.
pub fn own(
    ws: &Workspace,
    after: usize,
    kind: &str,
    name: &str,
    change: impl FnOnce(&mut Part),
) -> Result<Design, String> {
    let known = Known::named(kind).ok_or("no such part")?;
    let mut part = Part {
        name: name.to_owned(),
        ..Part::usual(known)
    };
    change(&mut part);
    let mut design = ws.doc().setup().prompt.clone();
    design.put_in(after, part);
    let held = ws.doc().with_design(&design);
    held.map(|_| design).map_err(|e| e.to_string())
}
