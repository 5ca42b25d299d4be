//! The script that draws the prompt in fish, made from the design part by part.

use wealdmist_core::color::Depth;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{
    Design, FOR_TYPING, Item, Kind, Line, Part, Past, SIGNALS, Style, When, giving_way, place, ties,
};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::setup::Setup;

use super::FISH;
use crate::sourced::painted::{DEPTHS, Painted};
use crate::sourced::repository;

/// A text of the design as a word of the shell.
fn word(text: &str) -> Code {
    let text = quote(text, &[Quoting::Dollar]).unwrap_or_default();
    Code::of("'{}'", &[&text])
}

fn whole(n: usize) -> Code {
    Code::whole(n as u64)
}

/// The script of a setup; `path` is the file it stands in.
pub fn script(setup: &Setup, look: &Look, path: &Code) -> Code {
    let painted = Painted::new(setup, look, FISH.id);
    let design = &painted.design;
    let [deep, flat, few] = DEPTHS.map(|depth| colors(&painted, depth));
    let grounds: Vec<Code> = design
        .parts()
        .map(|p| Code::whole(painted.ground(p)))
        .collect();
    let none: Vec<Code> = design.parts().map(|_| Code::fixed("0")).collect();
    let parts = [
        ("@FILE@", path.clone()),
        ("@DEEP@", deep),
        ("@FLAT@", flat),
        ("@FEW@", few),
        ("@NONE@", colors(&painted, Depth::None)),
        ("@BLOCKS@", Code::join(&grounds, " ")),
        ("@NOBLOCKS@", Code::join(&none, " ")),
        ("@SHAPES@", shapes(design)),
        ("@FACTS@", facts(&painted)),
        ("@BEFORE@", before(&painted)),
        ("@DRAWN@", drawn(&painted)),
        ("@STARTS@", starts(design)),
        ("@SHORT@", short(design)),
        ("@ELIDED@", word(&design.elided)),
    ];
    Code::filled(include_str!("prompt.fish"), &parts)
}

/// The colors at a depth, each in a variable.
fn colors(painted: &Painted<'_>, depth: Depth) -> Code {
    let mut out = Code::default();
    for (name, code) in painted.text_colors(depth) {
        out.push(&Code::of("    set -g __wm_{} '{}'\n", &[&name, &code]));
    }
    match depth {
        Depth::None => out.push_fixed("    set -g __wm_colors ''\n"),
        _ => {
            for (ground, edge) in painted.ground_colors(depth) {
                out.push(&Code::of(
                    "    set -a __wm_ground '{}'; set -a __wm_edge '{}'\n",
                    &[&ground, &edge],
                ));
            }
        }
    }
    out
}

/// What joins parts.
fn shapes(design: &Design) -> Code {
    let level = design.level;
    let [right, left] = [true, false].map(|r| design.joint.joint(level, r));
    let mut stretch = [0; 4];
    let fixed = |text: &'static str| Code::of("'{}'", &[&Code::fixed(text)]);
    let named = [
        ("gap", word(&design.gap)),
        ("joint_right", fixed(right.solid)),
        ("joint_left", fixed(left.solid)),
        ("thin_right", fixed(right.thin)),
        ("thin_left", fixed(left.thin)),
        ("open", fixed(design.open.joint(level, false).solid.trim())),
        ("close", fixed(design.close.joint(level, true).solid.trim())),
        ("stretch", word(design.stretch.encode_utf8(&mut stretch))),
    ];
    let mut out = Code::default();
    for (name, text) in named {
        out.push(&Code::of(
            "set -g __wm_{} {}\n",
            &[&Code::fixed(name), &text],
        ));
    }
    out
}

/// The functions that find out what parts tell.
fn facts(painted: &Painted<'_>) -> Code {
    let design = &painted.design;
    let mut out = Code::default();
    if painted.asks_repository() {
        out.push(&asking(painted));
    }
    if design
        .parts()
        .any(|p| p.tells.version && !p.tells.asks.is_empty())
    {
        out.push_fixed(VERSION);
    }
    if design.has(Kind::Duration) {
        out.push_fixed(SPAN);
    }
    out
}

/// What is found out before anything is drawn.
fn before(painted: &Painted<'_>) -> Code {
    match painted.asks_repository() {
        true => Code::fixed("    __wm_git\n"),
        false => Code::default(),
    }
}

/// What is done once, when the script is loaded.
fn starts(design: &Design) -> Code {
    let mut out = Code::default();
    if design.has(Kind::Duration) {
        out.push_fixed(STARTS);
    }
    if design.has(Kind::System) {
        out.push_fixed(SYSTEM);
    }
    if design.past != Past::Whole {
        out.push_fixed(PAST);
    }
    out
}

/// A prompt that is past, where it is another one.
fn short(design: &Design) -> Code {
    let before: usize = (design.lines.iter().rev().skip(1))
        .map(|l| l.left.len() + l.right.len())
        .sum();
    let input = design.lines.last().map_or(0, |l| l.left.len());
    match design.past {
        Past::Whole => Code::default(),
        Past::Line => Code::fixed(SHORT_LINE),
        Past::Sign => Code::of(SHORT_SIGN, &[&whole(before + input)]),
    }
}

/// The lines of the design.
fn drawn(painted: &Painted<'_>) -> Code {
    let design = &painted.design;
    let mut out = Code::default();
    for (i, part) in design.parts().enumerate() {
        out.push(&part_code(painted, part, i + 1));
    }
    let tied = design.tie && design.lines.len() > 1;
    let mut first = 1;
    for (n, line) in design.lines.iter().enumerate() {
        let is_last = n + 1 == design.lines.len();
        out.push(&line_code(line, first, is_last, tied));
        first += line.left.len() + line.right.len();
    }
    if tied {
        let [top, middle, bottom] = ties(design.level).map(Code::fixed);
        out.push(&Code::of(TIES, &[&bottom, &top, &middle]));
    }
    if design.blank {
        out.push_fixed("    set -g __wm_rows '' $__wm_rows\n");
    }
    out
}

const TIES: &str = "    set -l n (count $__wm_rows)
    if test $n -gt 1
        for i in (seq $n)
            set -l tie '{}'
            test $i = 1; and set tie '{}'
            test $i -gt 1 -a $i -lt $n; and set tie '{}'
            set -g __wm_out ''
            __wm_add $__wm_c_between $tie
            set -g __wm_rows[$i] \"$__wm_out$__wm_rows[$i]\"
        end
    end
";

fn line_code(line: &Line, first: usize, is_last: bool, tied: bool) -> Code {
    let numbers = |places: &mut dyn Iterator<Item = usize>| {
        let all: Vec<Code> = places.map(|i| whole(first + i)).collect();
        Code::join(&all, " ")
    };
    let (l, r) = (line.left.len(), line.right.len());
    let all: Vec<&Part> = line.left.iter().chain(&line.right).collect();
    let tie = Code::fixed(if tied { " - 2" } else { "" });
    let room = match is_last {
        true => Code::of(
            "math $columns - floor \\($columns / {}\\){}",
            &[&whole(FOR_TYPING), &tie],
        ),
        false => Code::of("math $columns - 1{}", &[&tie]),
    };
    let mut out = Code::of(
        "    set -g __wm_room ({})\n    set -g __wm_left {}\n    set -g __wm_right {}\n    set -g __wm_order {}\n",
        &[
            &room,
            &numbers(&mut (0..l)),
            &numbers(&mut (l..l + r)),
            &numbers(&mut giving_way(&all).into_iter()),
        ],
    );
    match is_last {
        true => out.push(&Code::of(
            "    __wm_lay {}\n    set -g __wm_right_side $__wm_ro\n    set -g __wm_rows $__wm_rows \"$__wm_lo\"\n",
            &[&whole(first + l - 1)],
        )),
        false => out.push(&Code::of(
            "    __wm_lay ''\n    __wm_stretched (math $columns - 1{})\n",
            &[&tie],
        )),
    }
    out
}

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
fn part_code(painted: &Painted<'_>, part: &Part, i: usize) -> Code {
    let design = &painted.design;
    let i = whole(i);
    let mut out = Code::of("    # {}\n", &[&Code::fixed(part.kind.label())]);
    let told = told(part, design);
    for line in &told.lines {
        out.push(&Code::of("    {}\n", &[line]));
    }
    let sign = match told.signed {
        true => sign(part, design),
        false => Code::default(),
    };
    let (before, after) = (word(&part.before), word(&part.after));
    let glue = |parts: &[&Code]| {
        let parts: Vec<&Code> = parts
            .iter()
            .filter(|p| p.lossy() != "''")
            .copied()
            .collect();
        match parts.iter().all(|p| p.is_empty()) {
            true => Code::fixed("''"),
            false => Code::join(parts, ""),
        }
    };
    let full = glue(&[&before, &sign, &told.full, &after]);
    let short = glue(&[&sign, &told.short]);
    let mut set = Code::of(
        "set -g __wm_full[{}] {}; set -g __wm_short[{}] {}",
        &[&i, &full, &i, &short],
    );
    if let Some(last) = &told.last {
        let last = glue(&[&sign, last]);
        set.push(&Code::of("; set -g __wm_last[{}] {}", &[&i, &last]));
    }
    let conditions = condition(part.when).into_iter().map(Code::fixed);
    let all: Vec<Code> = conditions.chain(told.shown).collect();
    match all.is_empty() {
        true => out.push(&Code::of("    {}\n", &[&set])),
        false => out.push(&Code::of(
            "    if {}\n        {}\n    end\n",
            &[&Code::join(&all, "; and "), &set],
        )),
    }
    out.push(&Code::of(
        "    set -g __wm_ink[{}] \"$__wm_{}\"\n",
        &[&i, &painted.text(&part.text)],
    ));
    for (role, when) in [
        (&part.text_root, "test -n \"$__wm_root\""),
        (&part.text_failed, "test $__wm_status != 0"),
    ] {
        if let Some(role) = role {
            out.push(&Code::of(
                "    {}; and set -g __wm_ink[{}] \"$__wm_{}\"\n",
                &[&Code::fixed(when), &i, &painted.text(role)],
            ));
        }
    }
    out
}

fn sign(part: &Part, design: &Design) -> Code {
    if part.signs_failed.is_some() || part.signs_root.is_some() {
        return Code::fixed("\"$sign\"");
    }
    let sign = part.sign(design.level);
    word(match part.kind {
        Kind::Language => sign.trim_end(),
        _ => sign,
    })
}

/// How a part is told.
struct Told {
    lines: Vec<Code>,
    shown: Vec<Code>,
    full: Code,
    short: Code,
    last: Option<Code>,
    signed: bool,
}

impl Told {
    fn of(value: Code) -> Self {
        Self {
            lines: Vec::new(),
            shown: Vec::new(),
            short: value.clone(),
            full: value,
            last: None,
            signed: true,
        }
    }

    fn fixed(value: &'static str) -> Self {
        Self::of(Code::fixed(value))
    }

    fn when(mut self, shown: &'static str) -> Self {
        self.shown.push(Code::fixed(shown));
        self
    }

    fn at_least(mut self, name: &'static str, least: u32) -> Self {
        let parts = [&Code::fixed(name), &Code::whole(least)];
        self.shown.push(Code::of("test $__wm_{} -ge {}", &parts));
        self
    }

    fn first(mut self, line: Code) -> Self {
        self.lines.push(line);
        self
    }
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
            let line = Code::of("__wm_folder {} {}", &[&Code::whole(tells.folders), &within]);
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
            .first(Code::fixed("__wm_span $__wm_took"))
            .at_least("took", tells.above),
        Kind::Jobs => Told::fixed("$__wm_jobs")
            .first(Code::fixed(
                "set -g __wm_jobs (jobs -g 2>/dev/null | string match -r '^[0-9]+$' | count)",
            ))
            .at_least("jobs", tells.above.max(1)),
        Kind::Time => {
            let format = match (tells.twelve, tells.seconds) {
                (false, false) => "set -l time (date '+%H:%M')",
                (false, true) => "set -l time (date '+%H:%M:%S')",
                (true, false) => {
                    "set -l time (env LC_ALL=C date '+%I:%M %p' | string lower | string replace -r '^0' '')"
                }
                (true, true) => {
                    "set -l time (env LC_ALL=C date '+%I:%M:%S %p' | string lower | string replace -r '^0' '')"
                }
            };
            Told::fixed("\"$time\"").first(Code::fixed(format))
        }
        Kind::Date => Told::fixed("\"$date\"").first(Code::fixed("set -l date (date '+%Y-%m-%d')")),
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
            .at_least("memory", tells.above),
        Kind::Load => Told::fixed("\"$load\"")
            .first(Code::fixed(LOAD))
            .at_least("load", tells.above),
        Kind::Language => language(part, design),
        Kind::Variable => {
            let Some(name) = quote(&tells.variable, &[Quoting::Word]) else {
                return Told::fixed("''").when("false");
            };
            let line = Code::of(
                "__wm_clean \"${}\"; set -l one (string replace -r '.*/' '' -- \"$__wm_text\"); __wm_cut \"$one\" {}",
                &[&name, &Code::whole(tells.longest)],
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
    if part.signs_failed.is_some() || part.signs_root.is_some() {
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
        out.lines.push(line);
    }
    out
}

const BATTERY: &str = "set -l battery
    set -l supplies /sys/class/power_supply/*/capacity
    test -z \"$supplies[1]\"; or read battery <$supplies[1] 2>/dev/null";
const MEMORY: &str = r"set -g __wm_memory 0
    set -l memory (string match -rg '^Mem(?:Total|Available):\s+([0-9]+)' </proc/meminfo)
    test (count $memory) = 2; and set -g __wm_memory (math -s 0 \( $memory[1] - $memory[2] \) x 100 / $memory[1])";
const LOAD: &str = r"set -l load (string match -r '^\S+' </proc/loadavg)
    set -g __wm_load (string replace . '' -- $load | string replace -r '^0+(?=.)' '')";
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
    let unknown = Code::fixed(repository::UNKNOWN);
    let mut told = Told::fixed("\"$changes\"");
    told.signed = false;
    if part.tells.style == Style::One {
        let sign = word(part.sign(design.level));
        told.lines.push(Code::of(
            "set -l changes; test \"$__wm_dirty\" = 1; and set changes {}; test \"$__wm_dirty\" = u; and set changes '{}'",
            &[&sign, &unknown],
        ));
        return told.when("test -n \"$changes\"");
    }
    told.short = Code::fixed("\"$each\"");
    told.lines.push(Code::fixed("set -l changes; set -l each"));
    for (item, sign) in Item::ALL.iter().zip(&design.items) {
        let (name, sign) = (Code::fixed(item.variable()), word(sign));
        told.lines.push(Code::of(
            "test $__wm_{} = 0; or begin; set each \"$each\"{}; set -a changes {}$__wm_{}; end",
            &[&name, &sign, &sign, &name],
        ));
    }
    told.lines.push(match part.tells.style {
        Style::Counts => Code::fixed("set changes (string join ' ' -- $changes)"),
        _ => Code::fixed("set changes $each"),
    });
    told.lines.push(Code::of(
        "test \"$__wm_dirty\" != u; or begin; set changes '{}'; set each '{}'; end",
        &[&unknown, &unknown],
    ));
    told.when("test -n \"$changes\"")
}

fn status(style: Style) -> Told {
    match style {
        Style::One => Told::fixed("$__wm_status").when("test $__wm_status != 0"),
        Style::Each => {
            let mut line = Code::fixed("set -l code $__wm_status; switch $code;");
            for (n, name) in SIGNALS {
                line.push(&Code::of(
                    " case {}; set code {};",
                    &[&Code::whole(128 + n), &Code::fixed(name)],
                ));
            }
            line.push_fixed(" end");
            Told::fixed("$code")
                .first(line)
                .when("test $__wm_status != 0")
        }
        Style::Counts => Told::fixed("\"$codes\"")
            .first(Code::fixed(
                "set -l codes (string join '|' -- $__wm_statuses)",
            ))
            .when("string match -qr '[1-9]' -- $codes"),
    }
}

fn language(part: &Part, design: &Design) -> Told {
    let tells = &part.tells;
    let files: Vec<Code> = tells
        .files
        .iter()
        .map(|f| Code::of("test -e {}", &[&word(f)]))
        .collect();
    let name = match part.sign(design.level).trim_end().is_empty() {
        true => word(&part.name),
        false => Code::fixed("''"),
    };
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

/// The function that asks git, with what `repository` says in this shell's words.
fn asking(painted: &Painted<'_>) -> Code {
    let refused: Vec<Code> = repository::REFUSED
        .iter()
        .map(|text| match text.strip_prefix('[') {
            Some(rest) => Code::of(
                "\\[{}",
                &[&quote(rest, &[Quoting::Inert]).unwrap_or_default()],
            ),
            None => quote(text, &[Quoting::Inert]).unwrap_or_default(),
        })
        .collect();
    let environment: Vec<Code> = repository::ENVIRONMENT
        .iter()
        .map(|(name, value)| {
            let value = quote(value, &[Quoting::Inert]).unwrap_or_default();
            Code::of("{}={}", &[&Code::fixed(name), &value])
        })
        .collect();
    let arguments: Vec<Code> = repository::ARGUMENTS.map(Code::fixed).into();
    let counts = painted.counts_changes();
    let question = match counts {
        true => repository::QUESTION_OF_COUNTS,
        false => repository::QUESTION,
    };
    let asked = match painted.asks_changes() {
        true => Code::filled(
            ASKED,
            &[
                ("@SECONDS@", Code::whole(repository::SECONDS)),
                ("@ENVIRONMENT@", Code::join(&environment, " ")),
                ("@ARGUMENTS@", Code::join(&arguments, " ")),
                ("@QUESTION@", Code::fixed(question)),
                ("@LINES@", Code::fixed(if counts { COUNTED } else { DIRTY })),
            ],
        ),
        false => Code::default(),
    };
    let operation = match painted.design.has(Kind::Operation) {
        true => Code::fixed(OPERATION),
        false => Code::default(),
    };
    let parts = [
        (
            "@CONFIGURATION@",
            Code::whole(repository::MAX_CONFIGURATION),
        ),
        ("@REFUSED@", Code::join(&refused, "|")),
        ("@ASKED@", asked),
        ("@OPERATION@", operation),
    ];
    Code::filled(GIT, &parts)
}

/// Looks for the repository, and asks git once, only as `repository` allows.
const GIT: &str = r#"function __wm_harmless
    test -e $argv[1] -o -L $argv[1]; or return 0
    test -f $argv[1] -a -r $argv[1]; or return 1
    begin
        read -z -n @CONFIGURATION@ -l text
        # What goes on behind a zero or beyond the limit is not looked through.
        read -z -n 1 -l more; and return 1
    end <$argv[1]
    not string match -qir '@REFUSED@' -- "$text"
end
function __wm_git
    set -l dir $PWD
    set -l below 0
    while not test -e "$dir/.git"
        test -n "$dir"; and string match -q '*/*' -- "$dir"; or return
        set dir (string replace -r '/[^/]*\z' '' -- "$dir" | string collect --allow-empty)
        set below (math $below + 1)
    end
    set -l git $dir/.git
    set -l line
    if test -f $git
        read -n 4096 line <$git
        string match -q 'gitdir: ?*' -- "$line"; or return
        set git (string replace 'gitdir: ' '' -- "$line")
        string match -q '/*' -- "$git"; or set git $dir/$git
    end
    test -d "$git" -a -f "$git/HEAD" -a -r "$git/HEAD"; or return
    read -n 4096 line <$git/HEAD
    set -l name (string replace -r '^ref: (refs/heads/)?(?=.)' '' -- "$line")
    if test "$name" = "$line"
        string match -qr '^[0-9a-f]+$' -- "$line"; or return
        set name (string sub -l 8 -- $line)
    end
    set -g __wm_below $below
@OPERATION@@ASKED@    __wm_clean "$name"
    set -g __wm_branch $__wm_text
end
# An end is set to git also when this shell is gone.
"#;

/// Asks git for changes.
const ASKED: &str = r#"    set -l common $git
    if test -e $git/commondir -o -L $git/commondir
        set line ''
        test -f $git/commondir; and read -n 4096 line <$git/commondir
        set common "$line"
        string match -q '/*' -- "$common"; or set common $git/$common
    end
    set -g __wm_dirty u
    if test -O $dir -a -O $git -a -O $common; and __wm_harmless $common/config; and __wm_harmless $git/config.worktree
        set -l limit
        command -q timeout; and set limit timeout -k 1 @SECONDS@
        for line in (env -u GIT_INDEX_FILE -u GIT_OBJECT_DIRECTORY -u GIT_ALTERNATE_OBJECT_DIRECTORIES -u GIT_COMMON_DIR -u GIT_NAMESPACE -u GIT_EXTERNAL_DIFF GIT_DIR=$git GIT_WORK_TREE=$dir @ENVIRONMENT@ $limit git @ARGUMENTS@ @QUESTION@ 2>/dev/null </dev/null)
            switch $line
                case '# branch.head *'
                    # Where branches are kept in another way, HEAD holds a name that is none.
                    test "$name" = .invalid; and set name (string replace '# branch.head ' '' -- $line)
                    set -g __wm_dirty ''
                case '# branch.ab *'
                    set -l both (string match -rg '\+([0-9]+) -([0-9]+)' -- $line)
                    test (count $both) = 2; and set -g __wm_ahead $both[1]; and set -g __wm_behind $both[2]
                case '# stash *'
                    set -g __wm_stash (string replace '# stash ' '' -- $line)
                case '#*'
@LINES@            end
        end
    end
"#;

const DIRTY: &str = "                case '?*'
                    set -g __wm_dirty 1
                    break
";

/// Counts changes by their kind.
const COUNTED: &str = r"                case '\? *'
                    set -g __wm_untracked (math $__wm_untracked + 1)
                case 'u *'
                    set -g __wm_conflicts (math $__wm_conflicts + 1)
                case '1 *' '2 *'
                    string match -qr '^..\.' -- $line; or set -g __wm_staged (math $__wm_staged + 1)
                    string match -qr '^...\.' -- $line; or set -g __wm_unstaged (math $__wm_unstaged + 1)
";

/// What git is in the middle of.
const OPERATION: &str = r#"    set -l steps
    if test -d $git/rebase-merge
        set -g __wm_doing rebase
        set steps rebase-merge/msgnum rebase-merge/end
    else if test -e $git/rebase-apply/rebasing
        set -g __wm_doing rebase
        set steps rebase-apply/next rebase-apply/last
    else if test -d $git/rebase-apply
        set -g __wm_doing am
        set steps rebase-apply/next rebase-apply/last
    else if test -e $git/MERGE_HEAD
        set -g __wm_doing merge
    else if test -e $git/CHERRY_PICK_HEAD
        set -g __wm_doing pick
    else if test -e $git/REVERT_HEAD
        set -g __wm_doing revert
    else if test -e $git/BISECT_LOG
        set -g __wm_doing bisect
    end
    if test -n "$steps"; and test -f $git/$steps[1] -a -f $git/$steps[2]
        read -n 9 -l at <$git/$steps[1]
        read -n 9 -l of <$git/$steps[2]
        string match -qr '^[0-9]+/[0-9]+$' -- "$at/$of"; and set -g __wm_steps " $at/$of"
    end
"#;

/// A program's version, kept until the program is another one; asked for in the background.
const VERSION: &str = r#"function __wm_version
    set -g __wm_text ''
    set -l path (command -s $argv[1]); or return
    set -l folder (string replace -r '^$' "$HOME/.cache" -- "$XDG_CACHE_HOME")/wealdmist/versions
    set -l kept $folder/$argv[1]
    if test -f $kept
        read -n 64 -l line <$kept
        __wm_clean "$line"
    end
    # A program that has not answered yet is not asked again.
    set -l asked $argv[1]-(path mtime $path)
    contains -- $asked $__wm_asked; and return
    if not test -f $kept; or test (path mtime $path) -gt (path mtime $kept)
        set -ga __wm_asked $asked
        sh -c 'mkdir -p "$1" && "$3" "$4" 2>&1 </dev/null | grep -oE "[0-9]+([.][0-9]+)+" | head -n 1 >"$2.$$" && mv -f "$2.$$" "$2"' sh $folder $kept $path $argv[2] >/dev/null 2>&1 &
        disown 2>/dev/null
    end
end
"#;

/// A duration in words.
const SPAN: &str = r"function __wm_span
    set -g __wm_text ''
    test $argv[1] -ge 0; or return
    set -l s (math -s 0 $argv[1] / 1000)
    if test $s -lt 10
        set -g __wm_text $s.(math -s 0 $argv[1] % 1000 / 100)s
    else if test $s -lt 60
        set -g __wm_text {$s}s
    else if test $s -lt 3600
        set -g __wm_text (math -s 0 $s / 60)m' '(math $s % 60)s
    else
        set -g __wm_text (math -s 0 $s / 3600)h' '(math -s 0 $s % 3600 / 60)m
    end
end
";

/// Notes how long a command ran, once.
const STARTS: &str = "set -g __wm_took -1
function __wm_ran --on-event fish_postexec
    set -g __wm_took $CMD_DURATION
    set -g __wm_fresh 1
end
function __wm_again --on-event fish_prompt
    test -n \"$__wm_fresh\"; or set -g __wm_took -1
    set -g __wm_fresh ''
end
";

/// The system's short name.
const SYSTEM: &str = r#"__wm_clean (string match -rg '^ID="?([^"]*)' </etc/os-release 2>/dev/null)[1]
set -g __wm_system $__wm_text
"#;

/// Has Enter draw the prompt again before the command runs.
const PAST: &str = r"function __wm_enter
    if commandline --paging-mode
        commandline -f execute
        return
    end
    if commandline --is-valid; or test -z (commandline | string collect)
        set -g __wm_past 1
        commandline -f repaint
    end
    commandline -f execute
end
function __wm_anew --on-event fish_prompt
    set -g __wm_past ''
end
for mode in default insert
    bind -M $mode \r __wm_enter
    bind -M $mode \n __wm_enter
end
";

const SHORT_LINE: &str = r#"    if test -n "$__wm_past"
        # What is shorter leaves nothing of what was longer.
        printf '\e[J'
        set -g __wm_right_side ''
        printf '%s' $__wm_rows[-1]
        test -z "$__wm_colors"; or printf '\e[0m'
        printf ' '
        return
    end
"#;
const SHORT_SIGN: &str = r#"    if test -n "$__wm_past"
        # What is shorter leaves nothing of what was longer.
        printf '\e[J'
        __wm_run right {}
        set -g __wm_right_side ''
        printf '%s' "$__wm_out"
        test -z "$__wm_colors"; or printf '\e[0m'
        printf ' '
        return
    end
"#;
