//! What each part tells and in which color, in the words of shells of the Bourne family.

use wealdmist_core::prompt::{Design, Kind, Part, Style, UNKNOWN, When, place};
use wealdmist_core::quote::{Code, Quoting, quote};

use super::{Bourne, whole, word};
use crate::sourced::painted::Painted;
use crate::sourced::told::{Texts, Told, Writes, glued, named, signals, told_items, turns};

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
        When::Matters => Some("-n $__wm_matters"),
        When::Repository => Some("-n $__wm_branch"),
        When::Failed => Some("$__wm_status != 0"),
        When::Succeeded => Some("$__wm_status == 0"),
        When::Root => Some("$EUID == 0"),
        When::Remote => Some("-n $__wm_remote"),
    }
}

/// Whether the line editor is in its command mode.
const COMMAND: &str = "[[ ${__wm_mode-} == cmd ]]";

/// The lines that say what a part tells and in which color.
pub(super) fn part_code(shell: &Bourne, painted: &Painted<'_>, part: &Part, i: usize) -> Code {
    let design = &painted.design;
    let i = whole(i);
    let mut out = Code::of("  # {}\n", &[&Code::fixed(part.kind.label())]);
    let conditions: Vec<Code> = condition(part.when).into_iter().map(Code::fixed).collect();
    let told = told(shell, part, design);
    let texts = told.texts(part, design, &WRITES);
    let all: Vec<Code> = conditions.into_iter().chain(told.shown).collect();
    for line in &told.lines {
        out.push(&Code::of("  {}\n", &[line]));
    }
    let Texts { full, short, last } = texts;
    let mut set = Code::of("full[{}]={} short[{}]={}", &[&i, &full, &i, &short]);
    if let Some(last) = last {
        set.push(&Code::of(" last[{}]={}", &[&i, &last]));
    }
    match all.is_empty() {
        true => out.push(&Code::of("  {}\n", &[&set])),
        false => {
            let all = Code::join(&all, " && ");
            out.push(&Code::of("  if [[ {} ]]; then {}; fi\n", &[&all, &set]));
        }
    }
    out.push(&Code::of(
        "  __wm_ink[{}]=$__wm_{}",
        &[&i, &painted.text(&part.text)],
    ));
    out.push_fixed("\n");
    for (role, when) in [
        (&part.text_root, "((EUID == 0))"),
        (&part.text_failed, "((__wm_status != 0))"),
        (&part.text_command, COMMAND),
    ] {
        // Where the line editor draws its mode itself, the script does not know which it is.
        let known = when != COMMAND || shell.mode.lays.is_empty();
        if let Some(role) = role.as_ref().filter(|_| known) {
            out.push(&Code::of(
                "  {} && __wm_ink[{}]=$__wm_{}\n",
                &[&Code::fixed(when), &i, &painted.text(role)],
            ));
        }
    }
    out
}

fn told(shell: &Bourne, part: &Part, design: &Design) -> Told {
    let tells = &part.tells;
    let cut = |name: &'static str| {
        let line = Code::of(
            "__wm_cut \"{}\" {}",
            &[&Code::fixed(name), &Code::whole(tells.longest)],
        );
        Told::fixed("$__wm_text").first(line)
    };
    let mut out = match part.kind {
        Kind::Folder => {
            let within = Code::fixed(if tells.within {
                "\"$__wm_below\""
            } else {
                "''"
            });
            let begins = Code::fixed(if tells.beginnings { "1" } else { "''" });
            let line = Code::of(
                "__wm_folder {} {} {}",
                &[&Code::whole(tells.folders), &within, &begins],
            );
            let mut told = Told::fixed("$__wm_dir").first(line);
            told.last = Some(Code::fixed("$__wm_dir_last"));
            told
        }
        Kind::Locked => Told::fixed("''").when("! -w $PWD"),
        Kind::User => cut("$__wm_name"),
        Kind::Host => cut("$__wm_machine"),
        Kind::Branch => cut("$__wm_branch").when("-n $__wm_branch"),
        Kind::Changes => changes(part, design),
        Kind::Operation => {
            let mut told = Told::fixed("$__wm_doing$__wm_steps").when("-n $__wm_doing");
            told.short = Code::fixed("$__wm_doing");
            told
        }
        Kind::Status => status(tells.style),
        Kind::Duration => {
            let line = Code::fixed("__wm_span \"$__wm_took\"");
            let mut told = Told::fixed("$__wm_text").first(line);
            told.shown
                .push(Code::of("$__wm_took -ge {}", &[&Code::whole(tells.above)]));
            told
        }
        Kind::Jobs => {
            let mut told = Told::fixed("$jobs").first(Code::fixed(shell.jobs));
            told.shown.push(Code::of(
                "$jobs -ge {}",
                &[&Code::whole(tells.above.max(1))],
            ));
            told
        }
        Kind::Time => {
            let told = Told::fixed("$time");
            match (tells.twelve, tells.seconds) {
                (false, false) => told.first(Code::fixed(shell.times[0])),
                (false, true) => told.first(Code::fixed(shell.times[1])),
                (true, seconds) => told
                    .first(Code::fixed(shell.times[if seconds { 3 } else { 2 }]))
                    .first(Code::fixed("((10#${time%% *} < 12)) && half=am"))
                    .first(Code::fixed(
                        "time=$(((10#${time%% *} + 11) % 12 + 1))${time#* }\" $half\"",
                    )),
            }
        }
        Kind::Date => Told::fixed("$date").first(Code::fixed(shell.times[4])),
        Kind::Battery => {
            let mut told = Told::fixed("$battery%")
                .first(Code::of(BATTERY, &[&Code::fixed(shell.supplies)]))
                .when("-n $battery");
            told.shown
                .push(Code::of("$battery -le {}", &[&Code::whole(tells.below)]));
            told
        }
        Kind::Memory => {
            let mut told = Told::fixed("$memory%")
                .first(Code::fixed(MEMORY))
                .when("-n $memory");
            told.shown
                .push(Code::of("$memory -ge {}", &[&Code::whole(tells.above)]));
            told
        }
        Kind::Load => {
            let mut told = Told::fixed("$load")
                .first(Code::fixed(LOAD))
                .when("-n $load");
            told.shown.push(Code::of(
                "$((10#${load/./})) -ge {}",
                &[&Code::whole(tells.above)],
            ));
            told
        }
        Kind::Language => language(part, design),
        Kind::Variable => {
            let Some(name) = quote(&tells.variable, &[Quoting::Word]) else {
                return Told::fixed("''").when("-n ''");
            };
            let line = Code::of(
                "__wm_clean \"${{}-}\"; __wm_cut \"${__wm_text##*/}\" {}",
                &[&name, &Code::whole(tells.longest)],
            );
            Told::fixed("$__wm_text").first(line).when("-n $__wm_text")
        }
        Kind::Remote => Told::fixed("''").when("-n $__wm_remote"),
        Kind::Container => Told::fixed("''").when("( -e /run/.containerenv || -e /.dockerenv )"),
        Kind::Nested => {
            let mut told = Told::fixed("$SHLVL");
            told.shown.push(Code::of(
                "${SHLVL-1} -ge {}",
                &[&Code::whole(tells.above.max(2))],
            ));
            told
        }
        Kind::Mode if shell.mode.can_stand(part, design) => {
            Told::fixed("$__wm_mode").when("-n ${__wm_mode-}")
        }
        Kind::Mode => Told::fixed("''").when("-n ''"),
        Kind::System => cut("$__wm_system").when("-n $__wm_system"),
        Kind::Text => Told::of(word(&tells.says)),
        Kind::Input => Told::fixed("''"),
    };
    if turns(part) {
        let at = place(design.level);
        let mut line = Code::of("local sign={}", &[&word(&part.signs[at])]);
        if let Some(signs) = &part.signs_root {
            line.push(&Code::of("; ((EUID)) || sign={}", &[&word(&signs[at])]));
        }
        if let Some(signs) = &part.signs_failed {
            line.push(&Code::of(
                "; ((__wm_status == 0)) || sign={}",
                &[&word(&signs[at])],
            ));
        }
        let command = part.signs_command.as_ref();
        if let Some(signs) = command.filter(|_| shell.mode.lays.is_empty()) {
            let sign = word(&signs[at]);
            line.push(&Code::of(
                "; {} && sign={}",
                &[&Code::fixed(COMMAND), &sign],
            ));
        }
        out.lines.push(line);
    }
    out
}

/// What is left of the battery.
const BATTERY: &str = "local battery='' supply
  for supply in {}; do
    [[ -r $supply ]] && { IFS= read -r battery < \"$supply\"; } 2>/dev/null && break
  done";

/// How much of the memory is in use.
const MEMORY: &str = "local memory='' name value total=0 rest
  while read -r name value rest; do
    case $name in
      MemTotal:) total=$value ;;
      MemAvailable:) ((total)) && memory=$(((total - value) * 100 / total)); break ;;
    esac
  done 2>/dev/null < /proc/meminfo";

/// The load.
const LOAD: &str = "local load='' rest
  { read -r load rest < /proc/loadavg; } 2>/dev/null";

fn changes(part: &Part, design: &Design) -> Told {
    if part.tells.style == Style::One {
        let mut told = Told::fixed("$changes");
        told.signed = false;
        let sign = word(part.sign(design.level));
        told.lines.push(Code::of(
            "local changes=''; [[ $__wm_dirty == 1 ]] && changes={}; [[ $__wm_dirty == u || -n ${__wm_stale-} ]] && changes+='{}'",
            &[&sign, &Code::fixed(UNKNOWN)],
        ));
        return told.when("-n $changes");
    }
    let mut told = Told::fixed("$changes");
    told.signed = false;
    told.short = Code::fixed("$each");
    told.lines.push(Code::fixed("local changes='' each=''"));
    let lines = part.tells.style == Style::Lines;
    let counted = lines || part.tells.style == Style::Counts;
    if lines {
        told.lines.push(Code::fixed(
            "((__wm_added + __wm_removed == 0)) || __wm_staged=0 __wm_unstaged=0",
        ));
    }
    for (item, sign) in told_items(part, design) {
        let name = Code::fixed(item.variable());
        let sign = word(sign);
        told.lines.push(match counted {
            true => Code::of(
                "((__wm_{})) && each+={} changes+=\" \"{}$__wm_{}",
                &[&name, &sign, &sign, &name],
            ),
            false => Code::of("((__wm_{})) && each+={}", &[&name, &sign]),
        });
    }
    told.lines.push(match counted {
        true => Code::fixed("changes=${changes# }"),
        false => Code::fixed("changes=$each"),
    });
    told.lines.push(Code::of(
        "[[ $__wm_dirty != u && -z ${__wm_stale-} ]] || changes+='{}' each+='{}'",
        &[&Code::fixed(UNKNOWN), &Code::fixed(UNKNOWN)],
    ));
    told.when("-n $changes")
}

fn status(style: Style) -> Told {
    match style {
        Style::One | Style::Lines => Told::fixed("$__wm_status").when("$__wm_status != 0"),
        Style::Each => {
            let mut line = Code::fixed("local code=$__wm_status; case $code in ");
            line.push(&signals("{}) code={} ;; "));
            line.push_fixed("esac");
            Told::fixed("$code").first(line).when("$__wm_status != 0")
        }
        Style::Counts => Told::fixed("$statuses")
            .first(Code::fixed(
                "local statuses; printf -v statuses '%s|' \"${__wm_statuses[@]}\"; statuses=${statuses%|}",
            ))
            .when("$statuses == *[1-9]*"),
    }
}

fn language(part: &Part, design: &Design) -> Told {
    let tells = &part.tells;
    let files: Vec<Code> = tells
        .files
        .iter()
        .map(|f| Code::of("-e {}", &[&word(f)]))
        .collect();
    let name = named(part, design, word);
    let mut told = Told::of(name.clone());
    if files.is_empty() {
        return told.when("-n ''");
    }
    told.shown
        .push(Code::of("( {} )", &[&Code::join(&files, " || ")]));
    if tells.version
        && let Some((program, arguments)) = tells.asks.split_first()
    {
        let arguments: Vec<Code> = arguments.iter().map(|a| word(a)).collect();
        told.lines.push(Code::of(
            "__wm_version {} {}",
            &[&word(program), &Code::join(&arguments, " ")],
        ));
        told.full = Code::of("{}${__wm_text:+ $__wm_text}", &[&name]);
    }
    told
}
