//! What each part tells and in which color.

use wealdmist_core::prompt::{Design, Kind, Part, SIGNALS, Style, UNKNOWN, When, place};
use wealdmist_core::quote::{Code, Quoting, quote};

use super::script::{whole, word};
use crate::sourced::painted::Painted;
use crate::sourced::told::{Told, Writes, named, told_items, turns};

/// How texts are written.
const WRITES: Writes = Writes {
    word,
    glued,
    sign: "$sign",
};

/// The condition under which a part is shown, beside having something to tell.
fn condition(when: When) -> Option<&'static str> {
    match when {
        When::Always => None,
        When::Matters => Some("($w.Remote -or $w.Root)"),
        When::Repository => Some("$w.Branch"),
        When::Failed => Some("$w.Status -ne 0"),
        When::Succeeded => Some("$w.Status -eq 0"),
        When::Root => Some("$w.Root"),
        When::Remote => Some("$w.Remote"),
    }
}

/// Texts one behind another.
fn glued(words: &[&Code]) -> Code {
    let words: Vec<&Code> = words
        .iter()
        .copied()
        .filter(|w| !w.is_empty() && w.lossy() != "''")
        .collect();
    match words.is_empty() {
        true => Code::fixed("''"),
        false => Code::join(words, " + "),
    }
}

/// The lines that say what a part tells and in which color.
pub(super) fn part_code(painted: &Painted<'_>, part: &Part, i: usize) -> Code {
    let design = &painted.design;
    let i = whole(i);
    let mut out = Code::of("    # {}\n", &[&Code::fixed(part.kind.label())]);
    let told = told(part, design);
    for line in &told.lines {
        out.push(&Code::of("    {}\n", &[line]));
    }
    let texts = told.texts(part, design, &WRITES);
    let mut set = vec![
        Code::of("$w.Full[{}] = {}", &[&i, &texts.full]),
        Code::of("$w.Short[{}] = {}", &[&i, &texts.short]),
    ];
    if let Some(last) = texts.last {
        set.push(Code::of("$w.Last[{}] = {}", &[&i, &last]));
    }
    set.push(Code::of(
        "$w.Ink[{}] = $w.{}",
        &[&i, &painted.text(&part.text)],
    ));
    for (role, when) in [
        (&part.text_root, "$w.Root"),
        (&part.text_failed, "$w.Status -ne 0"),
    ] {
        if let Some(role) = role {
            set.push(Code::of(
                "if ({}) { $w.Ink[{}] = $w.{} }",
                &[&Code::fixed(when), &i, &painted.text(role)],
            ));
        }
    }
    let conditions = condition(part.when).into_iter().map(Code::fixed);
    let all: Vec<Code> = conditions.chain(told.shown).collect();
    match all.is_empty() {
        true => out.push(&Code::of("    {}\n", &[&Code::join(&set, "\n    ")])),
        false => out.push(&Code::of(
            "    if ({}) {\n        {}\n    }\n",
            &[&Code::join(&all, " -and "), &Code::join(&set, "\n        ")],
        )),
    }
    out
}

/// The condition that a number is not below a value.
fn at_least(name: &'static str, least: u32) -> Code {
    Code::of("{} -ge {}", &[&Code::fixed(name), &Code::whole(least)])
}

fn told(part: &Part, design: &Design) -> Told {
    let tells = &part.tells;
    let cut = |name: &'static str| {
        let line = Code::of(
            "__wm_cut {} {}",
            &[&Code::fixed(name), &Code::whole(tells.longest)],
        );
        Told::fixed("$w.Text").first(line)
    };
    let nothing = || Told::fixed("''");
    let mut out = match part.kind {
        Kind::Folder => {
            let below = Code::fixed(if tells.within { "$w.Below" } else { "-1" });
            let begins = Code::fixed(if tells.beginnings { "$true" } else { "$false" });
            let line = Code::of(
                "__wm_folder {} {} {}",
                &[&Code::whole(tells.folders), &below, &begins],
            );
            let mut told = Told::fixed("$w.Dir").first(line);
            told.last = Some(Code::fixed("$w.DirLast"));
            told
        }
        Kind::Locked => nothing().when("-not (__wm_writable)"),
        Kind::User => cut("$w.Name"),
        Kind::Host => cut("$w.Machine"),
        Kind::Branch => cut("$w.Branch").when("$w.Branch"),
        Kind::Changes => changes(part, design),
        Kind::Operation => {
            let mut told = Told::fixed("$w.Doing + $w.Steps").when("$w.Doing");
            told.short = Code::fixed("$w.Doing");
            told
        }
        Kind::Status => status(tells.style),
        Kind::Duration => Told::fixed("$w.Text")
            .first(Code::fixed("__wm_span $w.Took"))
            .when("$w.Took -ge 0")
            .provided(at_least("$w.Took", tells.above)),
        Kind::Jobs => Told::fixed("\"$jobs\"")
            .first(Code::fixed("$jobs = @(Get-Job -State Running).Count"))
            .provided(at_least("$jobs", tells.above.max(1))),
        Kind::Time => {
            Told::fixed("$time").first(Code::fixed(match (tells.twelve, tells.seconds) {
                (false, false) => "$time = __wm_now 'HH:mm'",
                (false, true) => "$time = __wm_now 'HH:mm:ss'",
                (true, false) => "$time = __wm_now 'h:mm tt'",
                (true, true) => "$time = __wm_now 'h:mm:ss tt'",
            }))
        }
        Kind::Date => Told::fixed("$date").first(Code::fixed("$date = __wm_now 'yyyy-MM-dd'")),
        Kind::Battery => {
            let mut told = Told::fixed("$battery + '%'")
                .first(Code::fixed("$battery = __wm_battery"))
                .when("$battery");
            let below = Code::of("[int]$battery -le {}", &[&Code::whole(tells.below)]);
            told.shown.push(below);
            told
        }
        Kind::Memory => Told::fixed("\"$memory%\"")
            .first(Code::fixed("$memory = __wm_memory"))
            .provided(at_least("$memory", tells.above)),
        Kind::Load => Told::fixed("$load")
            .first(Code::fixed("$load = __wm_load"))
            .when("$load")
            .provided(at_least("[int]$load.Replace('.', '')", tells.above)),
        Kind::Language => language(part, design),
        Kind::Variable => {
            let Some(name) = quote(&tells.variable, &[Quoting::Word]) else {
                return nothing().when("$false");
            };
            let line = Code::of(
                "__wm_clean (\"${env:{}}\" -replace '^.*/', '')\n    __wm_cut $w.Text {}",
                &[&name, &Code::whole(tells.longest)],
            );
            Told::fixed("$w.Text").first(line).when("$w.Text")
        }
        Kind::Remote => nothing().when("$w.Remote"),
        Kind::Container => nothing()
            .when("([IO.File]::Exists('/run/.containerenv') -or [IO.File]::Exists('/.dockerenv'))"),
        Kind::Nested => Told::fixed("$env:SHLVL")
            .when("$env:SHLVL")
            .provided(Code::of(
                "[int]$env:SHLVL -ge {}",
                &[&Code::whole(tells.above.max(2))],
            )),
        // The editor does not tell when its mode changes without taking the prompt's place.
        Kind::Mode => nothing().when("$false"),
        Kind::System => cut("$w.System").when("$w.System"),
        Kind::Text => Told::of(word(&tells.says)),
        Kind::Input => nothing(),
    };
    if turns(part) {
        let at = place(design.level);
        let mut line = Code::of("$sign = {}", &[&word(&part.signs[at])]);
        for (signs, when) in [
            (&part.signs_root, "$w.Root"),
            (&part.signs_failed, "$w.Status -ne 0"),
        ] {
            if let Some(signs) = signs {
                line.push(&Code::of(
                    "\n    if ({}) { $sign = {} }",
                    &[&Code::fixed(when), &word(&signs[at])],
                ));
            }
        }
        out.lines.push(line);
    }
    out
}

fn changes(part: &Part, design: &Design) -> Told {
    let mut told = Told::fixed("$changes").when("$changes");
    told.signed = false;
    let unknown = word(UNKNOWN);
    if part.tells.style == Style::One {
        let sign = word(part.sign(design.level));
        told.lines.push(Code::of(
            "$changes = ''\n    if ($w.Dirty -eq '1') { $changes = {} }",
            &[&sign],
        ));
    } else {
        let mut line = Code::fixed(
            "$changes = ''\n    $each = ''\n    if ($w.Branch -and $w.Dirty -ne 'u') {\n",
        );
        if part.tells.style == Style::Lines {
            line.push_fixed(
                "        if ($w.added + $w.removed -gt 0) { $w.staged = 0; $w.unstaged = 0 }\n",
            );
        }
        for (item, sign) in told_items(part, design) {
            let (name, sign) = (Code::fixed(item.variable()), word(sign));
            line.push(&match part.tells.style {
                Style::Counts | Style::Lines => Code::of(
                    "        if ($w.{} -gt 0) {\n            $each += {}\n            if ($changes) { $changes += ' ' }\n            $changes += {} + $w.{}\n        }\n",
                    &[&name, &sign, &sign, &name],
                ),
                _ => Code::of("        if ($w.{} -gt 0) { $each += {}; $changes = $each }\n", &[&name, &sign]),
            });
        }
        line.push_fixed("    }");
        told.lines.push(line);
        told.short = Code::fixed("$each");
        told.lines.push(Code::of(
            "if ($w.Dirty -eq 'u' -or $w.Stale) { $each += {} }",
            &[&unknown],
        ));
    }
    told.lines.push(Code::of(
        "if ($w.Dirty -eq 'u' -or $w.Stale) { $changes += {} }",
        &[&unknown],
    ));
    told
}

fn status(style: Style) -> Told {
    let told = Told::fixed("$code").when("$w.Status -ne 0");
    let mut line = Code::fixed("$code = \"$($w.Status)\"");
    if style == Style::Each {
        line.push_fixed("\n    $signals = @{ ");
        for (n, name) in SIGNALS {
            line.push(&Code::of(
                "{} = '{}'; ",
                &[&Code::whole(128 + n), &Code::fixed(name)],
            ));
        }
        line.push_fixed("}\n    if ($signals[$w.Status]) { $code = $signals[$w.Status] }");
    }
    told.first(line)
}

fn language(part: &Part, design: &Design) -> Told {
    let tells = &part.tells;
    let files: Vec<Code> = tells
        .files
        .iter()
        .map(|f| Code::of("(__wm_there {})", &[&word(f)]))
        .collect();
    let name = named(part, design, word);
    let mut told = Told::of(name.clone());
    if files.is_empty() {
        return told.when("$false");
    }
    told.shown
        .push(Code::of("({})", &[&Code::join(&files, " -or ")]));
    if tells.version
        && let Some((program, arguments)) = tells.asks.split_first()
    {
        let arguments: Vec<Code> = arguments.iter().map(|a| word(a)).collect();
        told.lines.push(Code::of(
            "__wm_version {} @({})",
            &[&word(program), &Code::join(&arguments, ", ")],
        ));
        told.full = match name.lossy() == "''" {
            true => Code::fixed("$w.Text"),
            false => Code::of("{} + $w.Text", &[&name]),
        };
    }
    told
}
