//! The script that draws the prompt in fish, made from the design part by part.

use wealdmist_core::color::Depth;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, FOR_TYPING, Kind, Line, Part, Past, ties};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::setup::Setup;

use super::FISH;
use super::git::asking;
use super::parts::part_code;
use crate::sourced::painted::{DEPTHS, Painted};
use crate::sourced::told::{joins, numbered};

/// A text of the design as a word of the shell.
pub(super) fn word(text: &str) -> Code {
    let text = quote(text, &[Quoting::Dollar]).unwrap_or_default();
    Code::of("'{}'", &[&text])
}

pub(super) fn whole(n: usize) -> Code {
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
    let [begin, begins] = match design.parts().any(|p| p.tells.beginnings) {
        true => [BEGIN, BEGINS],
        false => ["", ""],
    };
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
        ("@NARROW@", Code::fixed(NARROW)),
        ("@BEGIN@", Code::fixed(begin)),
        ("@BEGINS@", Code::fixed(begins)),
        (
            "@TIE@",
            Code::fixed(if is_tied(design) { " - 2" } else { "" }),
        ),
        ("@TYPING@", whole(FOR_TYPING)),
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
    let names = [
        "gap",
        "joint_right",
        "joint_left",
        "thin_right",
        "thin_left",
        "open",
        "close",
        "stretch",
    ];
    let mut out = Code::default();
    for (name, text) in names.into_iter().zip(joins(design, word)) {
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
    let tells_minutes =
        |p: &Part| p.kind == Kind::Date || (p.kind == Kind::Time && !p.tells.seconds);
    if design.parts().any(tells_minutes) {
        out.push_fixed(CLOCK);
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
    let (mut out, mut i) = (Code::default(), 1);
    for (n, line) in design.lines.iter().enumerate() {
        let lists = ["l{}", "r{}", "s{}"].map(|list| Code::of(list, &[&whole(n + 1)]));
        for list in &lists {
            out.push(&Code::of("    set -g __wm_{}\n", &[list]));
        }
        let [left, right, shorter] = &lists;
        let left = line.left.iter().map(|part| (part, left));
        for (part, list) in left.chain(line.right.iter().map(|part| (part, right))) {
            out.push(&part_code(painted, part, i, [list, shorter]));
            i += 1;
        }
    }
    out.push_fixed("    set -g __wm_shown $__wm_full\n");
    let mut first = 1;
    for (n, line) in design.lines.iter().enumerate() {
        let is_last = n + 1 == design.lines.len();
        out.push(&line_code(line, n + 1, first, is_last));
        first += line.left.len() + line.right.len();
    }
    if is_tied(design) {
        out.push(&Code::of(
            TIES,
            &ties(design.level).map(Code::fixed).each_ref(),
        ));
    }
    if design.blank {
        out.push_fixed("    set -g __wm_rows '' $__wm_rows\n");
    }
    out
}

fn is_tied(design: &Design) -> bool {
    design.tie && design.lines.len() > 1
}

/// Draws the tie between lines, of which there may be fewer than the design has: top, middle, bottom.
const TIES: &str = "    if set -q __wm_rows[2]
        set -l begin \"$__wm_a$__wm_c_between$__wm_m\"
        set -l rows $begin'{}'$__wm_rows[1]
        set -q __wm_rows[3]; and set -a rows $begin'{}'$__wm_rows[2..-2]
        set -g __wm_rows $rows $begin'{}'$__wm_rows[-1]
    end
";

/// Characters that take one cell for every program, as ranges of a pattern: letters of Latin, punctuation, arrows,
/// lines and shapes, and those of fonts.
const NARROW: &str = " -~\\xa1-\\xac\\xae-\\x{2ff}\\x{2010}-\\x{2027}\\x{2030}-\\x{205e}\\x{2190}-\\x{2319}\\x{2500}-\\x{25fc}\\x{270c}-\\x{2727}\\x{2758}-\\x{2794}\\x{e000}-\\x{f8ff}\\x{f0000}-\\x{ffffd}";

fn line_code(line: &Line, n: usize, first: usize, is_last: bool) -> Code {
    let [_, _, order] = numbered(line, first);
    let n = whole(n);
    let l = line.left.len();
    let room = Code::fixed(if is_last { "typing" } else { "wide" });
    let mut out = Code::of(
        "    set -g __wm_room $__wm_{}\n    set -g __wm_left $__wm_l{}\n    set -g __wm_right $__wm_r{}\n    set -g __wm_shorter $__wm_s{}\n    set -g __wm_order {}\n",
        &[&room, &n, &n, &n, &order],
    );
    match is_last {
        true => out.push(&Code::of(
            "    __wm_lay {}\n    set -g __wm_right_side $__wm_ro\n    set -ga __wm_rows \"$__wm_lo\"\n",
            &[&whole(first + l - 1)],
        )),
        false => out.push_fixed("    __wm_lay ''\n    __wm_stretched\n"),
    }
    out
}

/// Shortens the names of folders that are left out.
const BEGIN: &str = r#"# The names of what is left out, each by as many letters as tell it from those beside it.
function __wm_begin
    set -l left $argv[1]
    set -l out
    string match -qr "(?s)^(?<__wm_up>.*?)(?:/[^/]*){$argv[2]}\z" -- "$PWD"
    while test -n "$left" -a "$left" != '~'
        string match -qr '(?s)^(?<__wm_up>.*)/(?<__wm_base>[^/]*)\z' -- "$__wm_up"; or break
        set -l start $__wm_base
        set -l least 1
        string match -q '.*' -- "$__wm_base"; and set least 2
        if test -r "$__wm_up/"
            for n in (seq $least (string length -- "$__wm_base"))
                string match -qr "(?s)^(?<start>.{$n})" -- "$__wm_base"
                set -l all $__wm_up/$start*/
                set -q all[2]; or break
            end
        end
        __wm_clean "$start"
        set out "/$__wm_text$out"
        if not string match -q '*/*' -- "$left"
            string match -qr '^/(?<out>.*)' -- "$out"
            set left ''
            break
        end
        string match -qr '^(?<left>.*)/' -- "$left"
    end
    set -g __wm_text "$left$out"
end
"#;

/// Has them shortened.
const BEGINS: &str = r#"        if test -n "$argv[3]"
            set -l tail $__wm_tail
            __wm_begin "$__wm_rest" $argv[3]
            set shown "$__wm_text/$tail"
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

/// The time in minutes: the program that tells it is asked once in each.
const CLOCK: &str = r"set -g __wm_until 0
function __wm_clock
    set -l up; set -l rest
    test -r /proc/uptime; and read up rest </proc/uptime
    test -n $up; and test $up -lt $__wm_until; and return
    begin
        set -lx LC_ALL C
        date '+%H:%M %S %I:%M %p %Y-%m-%d' | read -l now seconds twelve half day
        set -g __wm_clock_24 $now
        set -g __wm_clock_12 (string replace -r '^0' '' -- $twelve) (string lower -- $half)
        set -g __wm_date $day
        set -g __wm_until 0
        test -z $up; or set -g __wm_until (math $up + 59 - $seconds)
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
        printf '%s ' $__wm_zero
        return
    end
"#;

const SHORT_SIGN: &str = r#"    if test -n "$__wm_past"
        # What is shorter leaves nothing of what was longer.
        printf '\e[J'
        __wm_run right {}
        set -g __wm_right_side ''
        printf '%s' "$__wm_out"
        printf '%s ' $__wm_zero
        return
    end
"#;

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::width::by_code_points;

    #[test]
    fn what_is_measured_by_counting_takes_a_cell_for_each_character() {
        // As the pattern has it: two characters, or escapes of them, with a sign between.
        let mut rest = NARROW;
        let mut end = || {
            let (written, left) = match rest.strip_prefix("\\x") {
                Some(braced) if braced.starts_with('{') => {
                    let (digits, left) = braced[1..].split_once('}').unwrap();
                    (u32::from_str_radix(digits, 16).unwrap(), left)
                }
                Some(two) => (u32::from_str_radix(&two[..2], 16).unwrap(), &two[2..]),
                None => (u32::from(*rest.as_bytes().first()?), &rest[1..]),
            };
            rest = left.strip_prefix('-').unwrap_or(left);
            char::from_u32(written)
        };
        let mut count = 0;
        while let (Some(first), Some(last)) = (end(), end()) {
            for c in first..=last {
                count += 1;
                assert_eq!(by_code_points(c.encode_utf8(&mut [0; 4])), 1, "{c:?}");
            }
        }
        assert!(count > 70_000, "{count}");
    }
}
