//! What is to be said of a part: its values, each with the key that changes it, and what is wrong with it.

use wealdmist_core::character::{SymbolLevel, is_private_use};
use wealdmist_core::color::{contrast_ratio, ratio_shown};
use wealdmist_core::finding::SETUP_ITSELF;
use wealdmist_core::glyph::{Verdict, judge};
use wealdmist_core::prompt::{Design, Kind, Part, Past, Shape, Style, When, place, usage};
use wealdmist_core::reading::{GlyphUse, Place};
use wealdmist_core::role::RoleId;
use wealdmist_core::text::visible;

use super::or_own;
use crate::tui::bench::Question;
use crate::tui::instrument::Tone;
use crate::tui::workspace::Workspace;
use crate::work::prompt::{known_shells, shells, sign_shown};

/// A line of what is said.
#[derive(Debug, Clone)]
pub struct Fact {
    /// The key that changes it.
    pub key: &'static str,
    /// What it is.
    pub label: &'static str,
    /// Its value.
    pub value: String,
    /// What is worth knowing of it.
    pub remark: String,
    /// How the remark is said.
    pub tone: Tone,
}

fn fact(key: &'static str, label: &'static str, value: impl Into<String>) -> Fact {
    Fact {
        key,
        label,
        value: value.into(),
        remark: String::new(),
        tone: Tone::Quiet,
    }
}

/// What the verdict on a sign is in the chosen font and on this terminal; nothing for plain ASCII.
pub fn verdict(ws: &Workspace, sign: &str) -> Option<(String, Tone)> {
    let level = ws.doc().setup().symbols;
    let path = ws.doc().path();
    let judged = sign.chars().filter(|c| !c.is_ascii()).map(|character| {
        let used = GlyphUse {
            character,
            cluster: character.to_string(),
            escape: None,
            after: sign.chars().skip_while(|c| *c != character).nth(1),
            place: Place::nowhere_in(path),
            in_comment: false,
        };
        judge(
            &used,
            SETUP_ITSELF,
            ws.chosen_font(),
            level,
            ws.terminal_record(),
        )
    });
    let all: Vec<_> = judged.collect();
    let worst = all.iter().find(|j| j.is_problem()).or(all.first())?.worst();
    let tone = match worst {
        v if v.is_problem() => Tone::Loud,
        Verdict::NotKnown => Tone::Quiet,
        v if v.is_note() => Tone::Text,
        _ => Tone::Good,
    };
    Some((worst.label().to_owned(), tone))
}

/// The ratio of a text on a ground, and whether it reaches its target.
fn ratio(ws: &Workspace, text: &RoleId, ground: Option<&RoleId>) -> (f64, f64) {
    let (look, own) = (ws.look(), RoleId::known("background"));
    let ratio = contrast_ratio(look.color(text), look.color(or_own(ground, &own)));
    let target = usage(text).target();
    (ratio, target)
}

/// The same in words.
pub fn ratio_said(ws: &Workspace, text: &RoleId, ground: Option<&RoleId>) -> (String, Tone) {
    let (ratio, target) = ratio(ws, text, ground);
    let shown = ratio_shown(ratio);
    match ratio >= target {
        true => (format!("{shown}:1"), Tone::Good),
        false => (format!("! {shown}:1, {target}:1 wanted"), Tone::Loud),
    }
}

fn shown(text: &str) -> String {
    match text.is_empty() {
        true => "none".to_owned(),
        false => format!("'{}'", visible(text.as_bytes())),
    }
}

/// What a part is like, line by line.
pub fn of_part(ws: &Workspace, design: &Design, index: usize) -> Vec<Fact> {
    let Some(part) = design.part(index) else {
        return Vec::new();
    };
    let level = ws.doc().setup().symbols;
    let icons = ws.display.icons;
    let mut out = Vec::new();
    let when = match part.when {
        When::Always => "always",
        When::Matters => "root or ssh",
        When::Repository => "repository",
        When::Failed => "failure",
        When::Succeeded => "no failure",
        When::Root => "root",
        When::Remote => "ssh",
    };
    out.push(fact("w", "shown", when));
    let mut sign = fact("i", "sign", sign_shown(part.sign(level), icons));
    if let Some((said, tone)) = verdict(ws, part.sign(level)) {
        (sign.remark, sign.tone) = (said, tone);
    }
    let others = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii];
    let others = others.into_iter().filter(|l| *l < level);
    let others: Vec<String> = others
        .map(|l| format!("{} {}", l.key(), sign_shown(part.sign(l), icons)))
        .collect();
    if !others.is_empty() {
        let text = others.join(", ");
        sign.remark = match sign.remark.is_empty() {
            true => text,
            false => format!("{}; {text}", sign.remark),
        };
    }
    out.push(sign);
    if part.kind == Kind::Input {
        let failed = part.signs_failed.as_ref();
        let value = failed.map_or_else(
            || "the same".to_owned(),
            |s| sign_shown(&s[place(level)], icons),
        );
        out.push(fact("I", "after a failure", value));
        let command = part.signs_command.as_ref();
        let value = command.map_or_else(
            || "the same".to_owned(),
            |s| sign_shown(&s[place(level)], icons),
        );
        out.push(fact("V", "in command mode", value));
    }
    if part.kind != Kind::Input {
        out.push(fact("b", "text before", shown(&part.before)));
        out.push(fact("n", "text behind", shown(&part.after)));
    }
    let mut text = fact("c", "text", part.text.as_str());
    (text.remark, text.tone) = ratio_said(ws, &part.text, part.ground.as_ref());
    out.push(text);
    for (key, name, role) in [
        ("C", "after a failure", &part.text_failed),
        ("E", "in command mode", &part.text_command),
    ] {
        if let Some(role) = role {
            let mut text = fact(key, name, role.as_str());
            (text.remark, text.tone) = ratio_said(ws, role, part.ground.as_ref());
            out.push(text);
        }
    }
    let ground = part.ground.as_ref();
    out.push(fact(
        "g",
        "ground",
        ground.map_or("the terminal's", RoleId::as_str),
    ));
    match part.kind {
        Kind::Changes => out.push(fact(
            "s",
            "written as",
            match part.tells.style {
                Style::One => "one sign for all",
                Style::Each => "the sign of each kind",
                Style::Counts => "signs with counts",
                Style::Lines => "lines added and removed",
            },
        )),
        Kind::Status => out.push(fact(
            "s",
            "written as",
            match part.tells.style {
                Style::One => "its number",
                Style::Each => "a signal by its name",
                Style::Counts | Style::Lines => "those of a pipeline",
            },
        )),
        Kind::Folder => {
            let folders = match part.tells.folders {
                0 => "all".to_owned(),
                1 => "the last one".to_owned(),
                n => format!("the last {n}"),
            };
            let others = match part.tells.beginnings && part.tells.folders > 0 {
                true => ", the others by their first letters",
                false => "",
            };
            out.push(fact("f", "folders", format!("{folders}{others}")));
        }
        Kind::Language => {
            let version = match (part.tells.asks.is_empty(), part.tells.version) {
                (true, _) => "no command tells it",
                (_, true) => "yes",
                (_, false) => "no",
            };
            out.push(fact("v", "version", version));
            out.push(fact("f", "by files", part.tells.files.join(" ")));
        }
        Kind::Time => out.push(fact(
            "h",
            "hours",
            match (part.tells.twelve, part.tells.seconds) {
                (true, true) => "12, with seconds",
                (true, false) => "12",
                (false, true) => "24, with seconds",
                (false, false) => "24",
            },
        )),
        _ => {}
    }
    if let Some((label, value)) = told(part) {
        out.push(fact("e", label, value));
    }
    if part.kind != Kind::Input {
        let line = design.spot(index).map(|s| &design.lines[s.line]);
        let mut fact = fact("- +", "gives way", part.rank.to_string());
        let others = line.into_iter().flat_map(|l| l.left.iter().chain(&l.right));
        let sooner = others
            .filter(|p| p.kind != Kind::Input && p.rank < part.rank)
            .count();
        fact.remark = match (sooner, part.kind) {
            (_, Kind::Folder) => "it is cut to its last part".to_owned(),
            (0, _) => "among the first of its line".to_owned(),
            (n, _) => format!("after {n} of its line"),
        };
        out.push(fact);
    }
    out
}

/// What is typed of a part: what it is called, and its value as it is typed.
fn told(part: &Part) -> Option<(&'static str, String)> {
    let tells = &part.tells;
    let number = |n: u32, unit: u32| {
        let text = format!("{:.2}", f64::from(n) / f64::from(unit));
        text.trim_end_matches('0').trim_end_matches('.').to_owned()
    };
    Some(match part.kind {
        Kind::Duration => ("from seconds", number(tells.above, 1000)),
        Kind::Load => ("from a load of", number(tells.above, 100)),
        Kind::Memory => ("from per cent", tells.above.to_string()),
        Kind::Jobs => ("from jobs", tells.above.to_string()),
        Kind::Nested => ("from shells", tells.above.to_string()),
        Kind::Battery => ("up to per cent", tells.below.to_string()),
        Kind::Text => ("says", tells.says.clone()),
        Kind::Variable => ("variable", tells.variable.clone()),
        Kind::Language => ("asked by", tells.asks.join(" ")),
        Kind::User | Kind::Host | Kind::Branch | Kind::Folder | Kind::System => {
            let longest = match tells.longest {
                0 => "all".to_owned(),
                n => n.to_string(),
            };
            ("characters shown", longest)
        }
        _ => return None,
    })
}

/// The question for what is typed of a part. A number is typed anew.
pub fn question(part: &Part) -> Option<Question> {
    let (label, value) = told(part)?;
    let text = format!("{}: {label}", part.name);
    Some(match part.kind {
        Kind::Text | Kind::Variable | Kind::Language => Question::new(text, value),
        _ => Question::new(format!("{text} ({value} now)"), ""),
    })
}

/// Takes what was typed of a part.
///
/// # Errors
/// When it is not what is asked for.
pub fn tell(part: &mut Part, text: &str) -> Result<(), String> {
    let tells = &mut part.tells;
    let number = |least: f64, most: f64, unit: f64| {
        let read: Option<f64> = text.trim().trim_end_matches('%').parse().ok();
        let read = read.filter(|n| (least..=most).contains(n));
        let read = read.map(|n| (n * unit).round() as u32);
        read.ok_or_else(|| format!("a number from {least} to {most}"))
    };
    match part.kind {
        Kind::Duration => tells.above = number(0.0, 1e6, 1000.0)?,
        Kind::Load => tells.above = number(0.0, 1e6, 100.0)?,
        Kind::Memory => tells.above = number(0.0, 100.0, 1.0)?,
        Kind::Jobs | Kind::Nested => tells.above = number(1.0, 1e6, 1.0)?,
        Kind::Battery => tells.below = number(0.0, 100.0, 1.0)?,
        Kind::Text => text.clone_into(&mut tells.says),
        Kind::Variable => text.trim().clone_into(&mut tells.variable),
        Kind::Language => {
            tells.asks = text.split_whitespace().map(str::to_owned).collect();
            tells.version = !tells.asks.is_empty();
        }
        _ => tells.longest = number(0.0, 1000.0, 1.0)? as u16,
    }
    Ok(())
}

/// What the whole design is like.
pub fn of_design(ws: &Workspace, design: &Design) -> Vec<Fact> {
    let level = crate::work::prompt::level(ws.doc().setup(), ws.display.icons);
    let shape = |key, label, shape: Shape| {
        let mut fact = fact(key, label, shape.word());
        let drawn = shape.joint(ws.doc().setup().symbols, true).solid;
        if shape.at(level) != shape {
            fact.remark = format!("{} here", shape.at(level).word());
        } else if let Some((said, tone)) =
            verdict(ws, drawn).filter(|_| drawn.chars().any(is_private_use))
        {
            (fact.remark, fact.tone) = (said, tone);
        }
        fact
    };
    let yes = |on: bool| if on { "yes" } else { "no" };
    let stretch = match design.stretch {
        ' ' => "blanks".to_owned(),
        c => format!("'{c}'"),
    };
    vec![
        shape("j", "joints", design.joint),
        fact("l", "lines", design.lines.len().to_string()),
        shape("(", "openings", design.open),
        fact("S", "stretch", stretch),
        shape(")", "closings", design.close),
        fact("G", "between parts", shown(&design.gap)),
        fact("y", "lines tied", yes(design.tie)),
        fact(
            "p",
            "past prompts",
            match design.past {
                Past::Whole => "stay whole",
                Past::Line => "the last line",
                Past::Sign => "the sign alone",
            },
        ),
        fact("B", "blank line before", yes(design.blank)),
        fact(
            "M",
            "lines that go on",
            sign_shown(
                &design.more[place(ws.doc().setup().symbols)],
                ws.display.icons,
            ),
        ),
    ]
}

/// What is wrong with parts of the design: which one, and what.
pub fn problems(ws: &Workspace) -> Vec<(usize, String)> {
    let setup = ws.doc().setup();
    let mut out = Vec::new();
    for (index, part) in setup.prompt.parts().enumerate() {
        let mut say = |what: String| out.push((index, what));
        for text in part.texts() {
            let (ratio, target) = ratio(ws, text, part.ground.as_ref());
            if ratio < target {
                say(format!("{} of {target}:1", (ratio * 100.0).floor() / 100.0));
            }
        }
        if let Some((said, Tone::Loud)) = verdict(ws, part.sign(setup.symbols)) {
            say(format!("its sign: {said}"));
        }
        for (shell, _) in shells(&ws.survey).into_iter().filter(|(_, ours)| *ours) {
            let row = known_shells().find(|(id, _)| *id == shell);
            if let Some(why) = row.and_then(|(_, row)| row.dialect.cannot(part, &setup.prompt)) {
                say(format!("in {shell} {why}"));
            }
        }
    }
    out
}
