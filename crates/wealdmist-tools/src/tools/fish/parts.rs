//! What each part tells and in which color.

use wealdmist_core::prompt::{Design, Kind, Part, Style, UNKNOWN, When, place};
use wealdmist_core::quote::{Code, Quoting, quote};

use super::script::{whole, word};
use crate::sourced::painted::Painted;
use crate::sourced::told::{Texts, Told, Writes, glued, named, signals, told_items, turns};

/// How texts are written.
const WRITES: Writes = Writes {
    word,
    glued,
    sign: "\"$sign\"",
};

/// The condition under which a part is shown, beside having something to tell.
fn condition(when: When) -> Option<&'static str> {
    match when {
        When::Always => None,
        When::Matters => Some("test -n \"$__wm_matters\""),
        When::Repository => Some("test -n \"$__wm_branch\""),
        When::Failed => Some("test $__wm_status != 0"),
        When::Succeeded => Some("test $__wm_status = 0"),
        When::Root => Some("test -n \"$__wm_root\""),
        When::Remote => Some("test -n \"$__wm_remote\""),
    }
}

/// The lines that say what a part tells and in which color.
/// `list` is what the shown parts of its side of its line are numbered in, `shorter` those of the line that can be
/// told in fewer words.
pub(super) fn part_code(
    painted: &Painted<'_>,
    part: &Part,
    i: usize,
    [list, shorter]: [&Code; 2],
) -> Code {
    let design = &painted.design;
    let i = whole(i);
    let mut out = Code::of("    # {}\n", &[&Code::fixed(part.kind.label())]);
    let told = told(part, design);
    for line in &told.lines {
        out.push(&Code::of("    {}\n", &[line]));
    }
    let Texts { full, short, last } = told.texts(part, design, &WRITES);
    let mut set = vec![
        Code::of("set -ga __wm_{} {}", &[list, &i]),
        Code::of("set -g __wm_full[{}] {}", &[&i, &full]),
    ];
    // What is no shorter is taken as it is.
    if full != short {
        set.push(Code::of("set -g __wm_short[{}] {}", &[&i, &short]));
        set.push(Code::of("set -ga __wm_{} {}", &[shorter, &i]));
    }
    if let Some(last) = last {
        set.push(Code::of("set -g __wm_last[{}] {}", &[&i, &last]));
    }
    set.push(Code::of(
        "set -g __wm_ink[{}] \"$__wm_{}\"",
        &[&i, &painted.text(&part.text)],
    ));
    for (role, when) in [
        (&part.text_root, "test -n \"$__wm_root\""),
        (&part.text_failed, "test $__wm_status != 0"),
        (&part.text_command, "test \"$mode\" = cmd"),
    ] {
        if let Some(role) = role {
            set.push(Code::of(
                "{}; and set -g __wm_ink[{}] \"$__wm_{}\"",
                &[&Code::fixed(when), &i, &painted.text(role)],
            ));
        }
    }
    let conditions = condition(part.when).into_iter().map(Code::fixed);
    let all: Vec<Code> = conditions.chain(told.shown).collect();
    match all.is_empty() {
        true => out.push(&Code::of("    {}\n", &[&Code::join(&set, "\n    ")])),
        false => out.push(&Code::of(
            "    if {}\n        {}\n    end\n",
            &[&Code::join(&all, "; and "), &Code::join(&set, "\n        ")],
        )),
    }
    out
}

/// The condition that a variable of ours is not below a value.
fn at_least(name: &'static str, least: u32) -> Code {
    let parts = [&Code::fixed(name), &Code::whole(least)];
    Code::of("test $__wm_{} -ge {}", &parts)
}

fn told(part: &Part, design: &Design) -> Told {
    let tells = &part.tells;
    let cut = |name: &'static str| {
        let line = Code::of(
            "__wm_cut \"{}\" {}",
            &[&Code::fixed(name), &Code::whole(tells.longest)],
        );
        Told::fixed("\"$__wm_text\"").first(line)
    };
    let mut out = match part.kind {
        Kind::Folder => {
            let within = Code::fixed(if tells.within {
                "\"$__wm_below\""
            } else {
                "''"
            });
            let kept = match tells.folders {
                0 => Code::fixed("''"),
                n => Code::of("'(?:[^/]+/){{}}[^/]+'", &[&Code::whole(n - 1)]),
            };
            let begins = match tells.beginnings {
                true => Code::of(" {}", &[&Code::whole(tells.folders)]),
                false => Code::default(),
            };
            let line = Code::of("__wm_folder {} {}{}", &[&kept, &within, &begins]);
            let mut told = Told::fixed("\"$__wm_dir\"").first(line);
            told.last = Some(Code::fixed("\"$__wm_dir_last\""));
            told
        }
        Kind::Locked => Told::fixed("''").when("not test -w $PWD"),
        Kind::User => cut("$__wm_name"),
        Kind::Host => cut("$__wm_machine"),
        Kind::Branch => cut("$__wm_branch").when("test -n \"$__wm_branch\""),
        Kind::Changes => changes(part, design),
        Kind::Operation => {
            let mut told =
                Told::fixed("\"$__wm_doing$__wm_steps\"").when("test -n \"$__wm_doing\"");
            told.short = Code::fixed("\"$__wm_doing\"");
            told
        }
        Kind::Status => status(tells.style),
        Kind::Duration => Told::fixed("\"$__wm_text\"")
            .first(Code::of(
                "{}; and __wm_span $__wm_took",
                &[&at_least("took", tells.above)],
            ))
            .provided(at_least("took", tells.above)),
        Kind::Jobs => Told::fixed("$__wm_jobs")
            .first(Code::fixed(
                "set -g __wm_jobs 0; jobs -q; and set -g __wm_jobs (jobs -g 2>/dev/null | string match -r '^[0-9]+$' | count)",
            ))
            .provided(at_least("jobs", tells.above.max(1))),
        Kind::Time => {
            let (line, time) = match (tells.twelve, tells.seconds) {
                (false, false) => ("__wm_clock", "\"$__wm_clock_24\""),
                (true, false) => ("__wm_clock", "\"$__wm_clock_12\""),
                (false, true) => ("set -l time (date '+%H:%M:%S')", "\"$time\""),
                (true, true) => (
                    "set -l time (env LC_ALL=C date '+%I:%M:%S %p' | string lower | string replace -r '^0' '')",
                    "\"$time\"",
                ),
            };
            Told::fixed(time).first(Code::fixed(line))
        }
        Kind::Date => Told::fixed("\"$__wm_date\"").first(Code::fixed("__wm_clock")),
        Kind::Battery => {
            let mut told = Told::fixed("\"$battery%\"")
                .first(Code::fixed(BATTERY))
                .when("test -n \"$battery\"");
            told.shown.push(Code::of(
                "test $battery -le {}",
                &[&Code::whole(tells.below)],
            ));
            told
        }
        Kind::Memory => Told::fixed("\"$__wm_memory%\"")
            .first(Code::fixed(MEMORY))
            .provided(at_least("memory", tells.above)),
        Kind::Load => Told::fixed("\"$load\"")
            .first(Code::fixed(LOAD))
            .provided(at_least("load", tells.above)),
        Kind::Language => language(part, design),
        Kind::Variable => {
            let Some(name) = quote(&tells.variable, &[Quoting::Word]) else {
                return Told::fixed("''").when("false");
            };
            let line = Code::of(
                "set -g __wm_text ''
    if test -n \"${}\"
        __wm_clean \"${}\"
        string match -qr '(?<__wm_rest>[^/]*)$' -- \"$__wm_text\"
        __wm_cut \"$__wm_rest\" {}
    end",
                &[&name, &name, &Code::whole(tells.longest)],
            );
            Told::fixed("\"$__wm_text\"")
                .first(line)
                .when("test -n \"$__wm_text\"")
        }
        Kind::Remote => Told::fixed("''").when("test -n \"$__wm_remote\""),
        Kind::Container => {
            Told::fixed("''").when("begin; test -e /run/.containerenv; or test -e /.dockerenv; end")
        }
        Kind::Nested => {
            let mut told = Told::fixed("$SHLVL").when("test -n \"$SHLVL\"");
            told.shown.push(Code::of(
                "test $SHLVL -ge {}",
                &[&Code::whole(tells.above.max(2))],
            ));
            told
        }
        Kind::Mode => Told::fixed("\"$mode\"")
            .first(Code::fixed(MODE))
            .when("test -n \"$mode\""),
        Kind::System => cut("$__wm_system").when("test -n \"$__wm_system\""),
        Kind::Text => Told::of(word(&tells.says)),
        Kind::Input => Told::fixed("''"),
    };
    if part.turns_with_mode() {
        out.lines.push(Code::fixed(MODE));
    }
    if turns(part) {
        let at = place(design.level);
        let mut line = Code::of("set -l sign {}", &[&word(&part.signs[at])]);
        if let Some(signs) = &part.signs_root {
            line.push(&Code::of(
                "; test -z \"$__wm_root\"; or set sign {}",
                &[&word(&signs[at])],
            ));
        }
        if let Some(signs) = &part.signs_failed {
            line.push(&Code::of(
                "; test $__wm_status = 0; or set sign {}",
                &[&word(&signs[at])],
            ));
        }
        if let Some(signs) = &part.signs_command {
            line.push(&Code::of(
                "; test \"$mode\" != cmd; or set sign {}",
                &[&word(&signs[at])],
            ));
        }
        out.lines.push(line);
    }
    out
}

const BATTERY: &str = "set -l battery
    set -l supplies /sys/class/power_supply/*/capacity
    test -z \"$supplies[1]\"; or read battery <$supplies[1] 2>/dev/null";

const MEMORY: &str = r"set -g __wm_memory 0
    read -z -l memory </proc/meminfo 2>/dev/null
    string match -qr '(?s)MemTotal:\s+(?<__wm_whole>[0-9]+).*MemAvailable:\s+(?<__wm_rest>[0-9]+)' -- $memory
    and set -g __wm_memory (math -s 0 \( $__wm_whole - $__wm_rest \) x 100 / $__wm_whole)";

const LOAD: &str = r"set -g __wm_load 0; set -l load; set -l rest
    read load rest </proc/loadavg 2>/dev/null
    string match -qr '^0*(?<__wm_whole>[0-9]*)[.](?<__wm_rest>[0-9]+)' -- $load
    and set -g __wm_load $__wm_whole$__wm_rest";

const MODE: &str = "set -l mode
    if string match -q '*vi*' -- \"$fish_key_bindings\"
        switch \"$fish_bind_mode\"
            case insert
                set mode ins
            case '*'
                set mode cmd
        end
    end";

fn changes(part: &Part, design: &Design) -> Told {
    let unknown = Code::fixed(UNKNOWN);
    let mut told = Told::fixed("\"$changes\"");
    told.signed = false;
    if part.tells.style == Style::One {
        let sign = word(part.sign(design.level));
        told.lines.push(Code::of(
            "set -l changes; test \"$__wm_dirty\" = 1; and set changes {}; test \"$__wm_dirty\" != u -a -z \"$__wm_stale\"; or set changes \"$changes\"'{}'",
            &[&sign, &unknown],
        ));
        return told.when("test -n \"$changes\"");
    }
    told.short = Code::fixed("\"$each\"");
    let mut line = Code::fixed("set -l changes; set -l each\n    if test -n \"$__wm_counted\"\n");
    if part.tells.style == Style::Lines {
        line.push_fixed(
            "        test $__wm_added$__wm_removed = 00; or begin; set __wm_staged 0; set __wm_unstaged 0; end\n",
        );
    }
    for (item, sign) in told_items(part, design) {
        let (name, sign) = (Code::fixed(item.variable()), word(sign));
        line.push(&Code::of(
            "        test $__wm_{} = 0; or begin; set each \"$each\"{}; set -a changes {}$__wm_{}; end\n",
            &[&name, &sign, &sign, &name],
        ));
    }
    line.push_fixed(match part.tells.style {
        Style::Counts | Style::Lines => "        set changes \"$changes\"\n    end",
        _ => "        set changes $each\n    end",
    });
    told.lines.push(line);
    told.lines.push(Code::of(
        "test \"$__wm_dirty\" != u -a -z \"$__wm_stale\"; or begin; set changes \"$changes\"'{}'; set each \"$each\"'{}'; end",
        &[&unknown, &unknown],
    ));
    told.when("test -n \"$changes\"")
}

fn status(style: Style) -> Told {
    match style {
        Style::One | Style::Lines => Told::fixed("$__wm_status").when("test $__wm_status != 0"),
        Style::Each => {
            let mut line = Code::fixed("set -l code $__wm_status; test $code = 0; or switch $code;");
            line.push(&signals(" case {}; set code {};"));
            line.push_fixed(" end");
            Told::fixed("$code")
                .first(line)
                .when("test $__wm_status != 0")
        }
        Style::Counts => Told::fixed("\"$codes\"")
            .first(Code::fixed(
                "set -l codes; string match -qr '[1-9]' -- $__wm_statuses; and set codes (string join '|' -- $__wm_statuses)",
            ))
            .when("test -n \"$codes\""),
    }
}

fn language(part: &Part, design: &Design) -> Told {
    let tells = &part.tells;
    let files: Vec<Code> = tells
        .files
        .iter()
        .map(|f| Code::of("test -e {}", &[&word(f)]))
        .collect();
    let name = named(part, design, word);
    let mut told = Told::of(name.clone());
    if files.is_empty() {
        return told.when("false");
    }
    told.shown
        .push(Code::of("begin; {}; end", &[&Code::join(&files, "; or ")]));
    if tells.version
        && let Some((program, arguments)) = tells.asks.split_first()
    {
        let arguments: Vec<Code> = arguments.iter().map(|a| word(a)).collect();
        told.lines.push(Code::of(
            "__wm_version {} {}",
            &[&word(program), &Code::join(&arguments, " ")],
        ));
        told.lines.push(Code::fixed(
            "test -z \"$__wm_text\"; or set -g __wm_text \" $__wm_text\"",
        ));
        told.full = Code::of("{}\"$__wm_text\"", &[&name]);
    }
    told
}
