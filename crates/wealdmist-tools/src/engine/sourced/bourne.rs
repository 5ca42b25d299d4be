//! The script that draws the prompt in shells of the Bourne family, made from the design part by part.

use wealdmist_core::color::Depth;
use wealdmist_core::escape::Escape;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{
    Design, FOR_TYPING, Item, Kind, Line, Part, Past, SIGNALS, Style, When, cells, giving_way,
    place, ties,
};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::setup::Setup;

use super::painted::{DEPTHS, Painted};
use super::{Written, painted::role_of, repository};
use crate::document::sgr::{self, Layer, value_of};
use wealdmist_core::reading::ToolId;
use wealdmist_core::width::{nothing, wide};

/// A text of the design as a word of the shell. What cannot be written is left out.
fn word(text: &str) -> Code {
    match text.contains(['\'', '\\']) {
        true => Code::of(
            "$'{}'",
            &[&quote(text, &[Quoting::Dollar]).unwrap_or_default()],
        ),
        false => Code::of(
            "'{}'",
            &[&quote(text, &[Quoting::Single]).unwrap_or_default()],
        ),
    }
}

fn whole(n: usize) -> Code {
    Code::whole(n as u64)
}

/// What one shell of the family has of its own.
pub struct Bourne {
    /// The tool it is.
    pub id: ToolId,
    /// The number of a list's first entry.
    pub first: usize,
    /// The script, with marks for what is made from the design.
    pub template: &'static str,
    /// How a part's text, what stands between parts, and a stretch are put into the prompt.
    pub puts: [&'static str; 3],
    /// Sets `jobs` to how many there are.
    pub jobs: &'static str,
    /// The files that tell what is left of batteries, where there are any.
    pub supplies: &'static str,
    /// Sets `time` or `date`: of twenty-four hours, with seconds, hours by themselves and the rest, with
    /// seconds, the date.
    pub times: [&'static str; 5],
    /// Reads a line that is not too long.
    pub reads: &'static str,
    /// Ends what git still says.
    pub ends: &'static str,
    /// Looks for what sets an end to git.
    pub limit: &'static str,
    /// Looks through a repository's configuration.
    pub harmless: &'static str,
    /// Finds a version out.
    pub version: &'static str,
    /// Notes when a command begins.
    pub starts: &'static str,
    /// Puts the lines together; with ties of three kinds.
    pub ties: &'static str,
    /// Puts the lines together without.
    pub joins: &'static str,
    /// Adds a blank line before them.
    pub blank: &'static str,
    /// Shortens prompts that are past, to their line and to their sign.
    pub past: [&'static str; 2],
    /// The condition under which the editor's mode is shown, and its word, where the shell tells it.
    pub mode: Option<[&'static str; 2]>,
    /// Follows that mode.
    pub keys: &'static str,
}

/// The script of a setup; `path` is the file it stands in.
#[must_use]
pub fn script(shell: &Bourne, setup: &Setup, look: &Look, path: &Code) -> Code {
    let painted = Painted::new(setup, look, shell.id);
    let design = &painted.design;
    let [deep, flat, few] = DEPTHS.map(|depth| colors(&painted, depth));
    let [part, gap, fill] = shell.puts.map(Code::fixed);
    let arrange = Code::filled(
        include_str!("arrange.sh"),
        &[
            ("@PART@", part),
            ("@GAP@", gap),
            ("@FILL@", fill),
            ("@ELIDED@", word(&design.elided)),
        ],
    );
    let parts = [
        ("@ARRANGE@", arrange),
        ("@FILE@", path.clone()),
        ("@DEEP@", deep),
        ("@FLAT@", flat),
        ("@FEW@", few),
        ("@NONE@", colors(&painted, Depth::None)),
        ("@PARTS@", static_parts(shell, &painted)),
        ("@SHAPES@", shapes(design)),
        ("@FACTS@", facts(shell, &painted)),
        ("@DRAWN@", drawn(shell, &painted)),
        ("@BEFORE@", before(&painted)),
        ("@STARTS@", starts(shell, design)),
        ("@PAST@", past(shell, design)),
        ("@ELIDED@", word(&design.elided)),
        ("@WIDE@", ranges(wide())),
        ("@NOTHING@", ranges(nothing())),
    ];
    Code::filled(shell.template, &parts)
}

/// Ranges of characters as they stand in a pattern, in escapes.
fn ranges(all: &[(char, char)]) -> Code {
    let mut out = Code::default();
    for (first, last) in all {
        let [first, last] = [*first, *last].map(|c| Code::escaped(c, Escape::Short));
        if let (Some(first), Some(last)) = (first, last) {
            out.push(&Code::of("{}-{}", &[&first, &last]));
        }
    }
    out
}

/// The colors at a depth, each in a variable.
fn colors(painted: &Painted<'_>, depth: Depth) -> Code {
    let mut out = Code::default();
    for (name, code) in painted.text_colors(depth) {
        out.push(&Code::of("  __wm_{}='{}'\n", &[&name, &code]));
    }
    if depth == Depth::None {
        out.push_fixed("  __wm_ground=() __wm_edge=() __wm_colors=''\n");
    } else {
        for (n, (ground, edge)) in painted.ground_colors(depth).into_iter().enumerate() {
            let n = whole(n + 1);
            let parts = [&n, &ground, &n, &edge];
            out.push(&Code::of(
                "  __wm_ground[{}]='{}' __wm_edge[{}]='{}'\n",
                &parts,
            ));
        }
    }
    out
}

/// What of each part stays as it is: which ground it has.
fn static_parts(shell: &Bourne, painted: &Painted<'_>) -> Code {
    let mut out = Code::default();
    let grounds = painted.design.parts().map(|p| painted.ground(p));
    let entries: Vec<Code> = grounds
        .enumerate()
        .filter(|(_, n)| *n > 0)
        .map(|(i, n)| {
            Code::of(
                "__wm_block[{}]={}",
                &[&whole(i + shell.first), &Code::whole(n)],
            )
        })
        .collect();
    if !entries.is_empty() {
        out.push(&Code::of(
            "if [[ -n $__wm_colors ]]; then {}; fi\n",
            &[&Code::join(&entries, " ")],
        ));
    }
    out
}

/// What joins parts.
fn shapes(design: &Design) -> Code {
    let level = design.level;
    let [right, left] = [true, false].map(|r| design.joint.joint(level, r));
    let open = design.open.joint(level, false).solid.trim();
    let close = design.close.joint(level, true).solid.trim();
    let mut stretch = [0; 4];
    let named = [
        ("gap", word(&design.gap), cells(&design.gap)),
        (
            "right",
            Code::of("'{}'", &[&Code::fixed(right.solid)]),
            cells(right.solid),
        ),
        (
            "left",
            Code::of("'{}'", &[&Code::fixed(left.solid)]),
            cells(left.solid),
        ),
        (
            "thin",
            Code::of("'{}'", &[&Code::fixed(right.thin)]),
            cells(right.thin),
        ),
        (
            "thinner",
            Code::of("'{}'", &[&Code::fixed(left.thin)]),
            cells(left.thin),
        ),
        ("open", Code::of("'{}'", &[&Code::fixed(open)]), cells(open)),
        (
            "close",
            Code::of("'{}'", &[&Code::fixed(close)]),
            cells(close),
        ),
    ];
    let mut out = Code::default();
    for (name, text, wide) in named {
        let name = Code::fixed(name);
        out.push(&Code::of(
            "__wm_{}={} __wm_{}_wide={}\n",
            &[&name, &text, &name, &whole(wide)],
        ));
    }
    out.push(&Code::of(
        "__wm_stretch={}\n",
        &[&word(design.stretch.encode_utf8(&mut stretch))],
    ));
    out
}

/// The functions that find out what parts tell.
fn facts(shell: &Bourne, painted: &Painted<'_>) -> Code {
    let design = &painted.design;
    let mut out = Code::default();
    if painted.asks_repository() {
        out.push(&asking(shell, painted));
    }
    if design
        .parts()
        .any(|p| p.tells.version && !p.tells.asks.is_empty())
    {
        out.push_fixed(shell.version);
    }
    out
}

/// What is found out before anything is drawn.
fn before(painted: &Painted<'_>) -> Code {
    let design = &painted.design;
    let mut out = Code::default();
    if painted.asks_repository() {
        out.push_fixed("  __wm_git\n");
    }
    if design.has(Kind::Duration) {
        out.push_fixed(TOOK);
    }
    out
}

/// What is done once, when the script is loaded.
fn starts(shell: &Bourne, design: &Design) -> Code {
    let mut out = Code::default();
    if design.has(Kind::Duration) {
        out.push_fixed(shell.starts);
        out.push_fixed(SPAN);
    }
    if design.has(Kind::System) {
        out.push_fixed(SYSTEM);
    }
    if design.has(Kind::Mode) {
        out.push_fixed(shell.keys);
    }
    out
}

/// What remains of a prompt that is past.
fn past(shell: &Bourne, design: &Design) -> Code {
    let input = design.lines.last().map_or(0, |l| l.left.len());
    let before: usize = design
        .lines
        .iter()
        .rev()
        .skip(1)
        .map(|l| l.left.len() + l.right.len())
        .sum();
    let place = whole((before + input).saturating_sub(1) + shell.first);
    match design.past {
        Past::Whole => Code::default(),
        Past::Line => Code::of(shell.past[0], &[&place]),
        Past::Sign => Code::of(shell.past[1], &[&place]),
    }
}

/// The lines of the design.
fn drawn(shell: &Bourne, painted: &Painted<'_>) -> Code {
    let design = &painted.design;
    let mut out = Code::default();
    let mut first = shell.first;
    for line in &design.lines {
        for part in line.left.iter().chain(&line.right) {
            out.push(&part_code(shell, painted, part, first));
            first += 1;
        }
    }
    let tied = design.tie && design.lines.len() > 1;
    let mut first = shell.first;
    for (n, line) in design.lines.iter().enumerate() {
        out.push(&line_code(line, first, n + 1 == design.lines.len(), tied));
        first += line.left.len() + line.right.len();
    }
    if tied {
        let [top, middle, bottom] = ties(design.level).map(Code::fixed);
        out.push(&Code::of(shell.ties, &[&top, &middle, &bottom]));
    }
    out.push_fixed(shell.joins);
    if design.blank {
        out.push_fixed(shell.blank);
    }
    out
}

/// The lines that lay out a line of the prompt.
fn line_code(line: &Line, first: usize, is_last: bool, tied: bool) -> Code {
    let numbers = |places: &mut dyn Iterator<Item = usize>| {
        let all: Vec<Code> = places.map(|i| whole(first + i)).collect();
        Code::join(&all, " ")
    };
    let (l, r) = (line.left.len(), line.right.len());
    let all: Vec<&Part> = line.left.iter().chain(&line.right).collect();
    let left = numbers(&mut (0..l));
    let right = numbers(&mut (l..l + r));
    let order = numbers(&mut giving_way(&all).into_iter());
    let tie = Code::fixed(if tied { " - 2" } else { "" });
    let mut out = Code::default();
    let room = match is_last {
        true => Code::of("columns - columns / {}{}", &[&whole(FOR_TYPING), &tie]),
        false => Code::of("columns - 1{}", &[&tie]),
    };
    out.push(&Code::of(
        "  __wm_line $(({})) '{}' '{}' '{}' {}\n",
        &[
            &room,
            &left,
            &right,
            &order,
            &Code::fixed(if is_last { "1" } else { "''" }),
        ],
    ));
    match is_last {
        true => {
            if !line.right.is_empty() {
                out.push_fixed("  __wm_beside\n");
            }
            out.push_fixed("  __wm_add '' ' '\n  rows+=(\"$__wm_out\")\n");
        }
        false => out.push(&Code::of(
            "  ((ln + rn)) && __wm_stretched $((columns - 1{}))\n",
            &[&tie],
        )),
    }
    out
}

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

/// The lines that say what a part tells and in which color.
fn part_code(shell: &Bourne, painted: &Painted<'_>, part: &Part, i: usize) -> Code {
    let design = &painted.design;
    let i = whole(i);
    let mut out = Code::of("  # {}\n", &[&Code::fixed(part.kind.label())]);
    let conditions: Vec<Code> = condition(part.when).into_iter().map(Code::fixed).collect();
    let told = told(shell, part, design);
    let all: Vec<Code> = conditions.into_iter().chain(told.shown).collect();
    for line in &told.lines {
        out.push(&Code::of("  {}\n", &[line]));
    }
    let (before, after) = (word(&part.before), word(&part.after));
    let sign = match told.signed {
        true => sign(part, design),
        false => Code::default(),
    };
    // Texts of nothing are left out.
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
    let mut set = Code::of("full[{}]={} short[{}]={}", &[&i, &full, &i, &short]);
    if let Some(last) = &told.last {
        set.push(&Code::of(" last[{}]={}", &[&i, &glue(&[&sign, last])]));
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
    ] {
        if let Some(role) = role {
            out.push(&Code::of(
                "  {} && __wm_ink[{}]=$__wm_{}\n",
                &[&Code::fixed(when), &i, &painted.text(role)],
            ));
        }
    }
    out
}

/// The sign of a part as a word; a variable where it turns.
fn sign(part: &Part, design: &Design) -> Code {
    if part.signs_failed.is_some() || part.signs_root.is_some() {
        return Code::fixed("$sign");
    }
    let sign = part.sign(design.level);
    word(match part.kind {
        Kind::Language => sign.trim_end(),
        _ => sign,
    })
}

/// How a part is told.
struct Told {
    /// What is done first.
    lines: Vec<Code>,
    /// What must hold.
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

    fn first(mut self, line: Code) -> Self {
        self.lines.push(line);
        self
    }
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
            let line = Code::of("__wm_folder {} {}", &[&Code::whole(tells.folders), &within]);
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
        Kind::Mode => match shell.mode {
            Some([shown, word]) => Told::fixed(word).when(shown),
            None => Told::fixed("''").when("-n ''"),
        },
        Kind::System => cut("$__wm_system").when("-n $__wm_system"),
        Kind::Text => Told::of(word(&tells.says)),
        Kind::Input => Told::fixed("''"),
    };
    if part.signs_failed.is_some() || part.signs_root.is_some() {
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
            "local changes=''; [[ $__wm_dirty == 1 ]] && changes={}; [[ $__wm_dirty == u ]] && changes='{}'",
            &[&sign, &Code::fixed(repository::UNKNOWN)],
        ));
        return told.when("-n $changes");
    }
    let mut told = Told::fixed("$changes");
    told.signed = false;
    told.short = Code::fixed("$each");
    told.lines.push(Code::fixed("local changes='' each=''"));
    let counted = part.tells.style == Style::Counts;
    for (item, sign) in Item::ALL.iter().zip(&design.items) {
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
        "[[ $__wm_dirty != u ]] || changes='{}' each='{}'",
        &[
            &Code::fixed(repository::UNKNOWN),
            &Code::fixed(repository::UNKNOWN),
        ],
    ));
    told.when("-n $changes")
}

fn status(style: Style) -> Told {
    match style {
        Style::One => Told::fixed("$__wm_status").when("$__wm_status != 0"),
        Style::Each => {
            let mut line = Code::fixed("local code=$__wm_status; case $code in ");
            for (n, name) in SIGNALS {
                line.push(&Code::of(
                    "{}) code={} ;; ",
                    &[&Code::whole(128 + n), &Code::fixed(name)],
                ));
            }
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
    let name = match part.sign(design.level).trim_end().is_empty() {
        true => word(&part.name),
        false => Code::fixed("''"),
    };
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

/// The function that asks git, with what `repository` says in this shell's words.
fn asking(shell: &Bourne, painted: &Painted<'_>) -> Code {
    let word = |text: &str| quote(text, &[Quoting::Double]).unwrap_or_default();
    let refused: Vec<Code> = repository::REFUSED
        .iter()
        .map(|text| Code::of("*\"{}\"*", &[&word(text)]))
        .collect();
    let environment: Vec<Code> = repository::ENVIRONMENT
        .iter()
        .map(|(name, value)| Code::of("{}=\"{}\"", &[&Code::fixed(name), &word(value)]))
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
                ("@READS@", Code::fixed(shell.reads)),
                ("@ENDS@", Code::fixed(shell.ends)),
                ("@SECONDS@", Code::whole(repository::SECONDS)),
                ("@ENVIRONMENT@", Code::join(&environment, " ")),
                ("@ARGUMENTS@", Code::join(&arguments, " ")),
                ("@QUESTION@", Code::fixed(question)),
                (
                    "@LINES@",
                    Code::fixed(if counts {
                        COUNTED
                    } else {
                        "        ?*) __wm_dirty=1; break ;;\n"
                    }),
                ),
            ],
        ),
        false => Code::default(),
    };
    let operation = match painted.design.has(Kind::Operation) {
        true => Code::filled(OPERATION, &[("@READS@", Code::fixed(shell.reads))]),
        false => Code::default(),
    };
    let parts = [
        (
            "@CONFIGURATION@",
            Code::whole(repository::MAX_CONFIGURATION),
        ),
        ("@REFUSED@", Code::join(&refused, " | ")),
        ("@ASKED@", asked),
        ("@OPERATION@", operation),
        ("@READS@", Code::fixed(shell.reads)),
    ];
    let mut out = Code::filled(shell.harmless, &parts);
    out.push(&Code::filled(GIT, &parts));
    out.push(&Code::filled(
        shell.limit,
        &[("@SECONDS@", Code::whole(repository::SECONDS))],
    ));
    out
}

/// Looks for the repository, and asks git once, only as `repository` allows.
const GIT: &str = r#"__wm_git() {
  local dir=$PWD git common line='' name='' rest below=0
  while [[ ! -e $dir/.git ]]; do
    [[ -z $dir || $dir == "${dir%/*}" ]] && return
    dir=${dir%/*} below=$((below + 1))
  done
  git=$dir/.git
  if [[ -f $git ]]; then
    @READS@ line < "$git"
    [[ $line == 'gitdir: '?* ]] || return
    git=${line#'gitdir: '}
    [[ $git == /* ]] || git=$dir/$git
  fi
  [[ -d $git && -f $git/HEAD && -r $git/HEAD ]] || return
  @READS@ line < "$git/HEAD"
  case $line in
    'ref: refs/heads/'?*) name=${line#'ref: refs/heads/'} ;;
    'ref: '?*) name=${line#'ref: '} ;;
    *[!0-9a-f]* | '') return ;;
    *) name=${line:0:8} ;;
  esac
  __wm_below=$below
@OPERATION@@ASKED@  __wm_clean "$name"
  __wm_branch=$__wm_text
}
"#;

/// Asks git for changes.
const ASKED: &str = r#"  common=$git
  if [[ -e $git/commondir || -L $git/commondir ]]; then
    line=''
    [[ -f $git/commondir ]] && @READS@ line < "$git/commondir"
    common=$line
    [[ $common == /* ]] || common=$git/$common
  fi
  __wm_dirty=u
  if [[ -O $dir && -O $git && -O $common ]] && __wm_harmless "$common/config" && __wm_harmless "$git/config.worktree"; then
    while IFS= read -r -t @SECONDS@ line; do
      case $line in
        '# branch.head '*)
          # Where branches are kept in another way, HEAD holds a name that is none.
          [[ $name == .invalid ]] && name=${line#'# branch.head '}
          __wm_dirty='' ;;
        '# branch.ab '*) rest=${line#'# branch.ab +'}; __wm_ahead=${rest%% *} __wm_behind=${rest##*-} ;;
        '# stash '*) __wm_stash=${line#'# stash '} ;;
        '#'*) ;;
@LINES@      esac
    done < <(
      export GIT_DIR="$git" GIT_WORK_TREE="$dir" @ENVIRONMENT@
      unset GIT_INDEX_FILE GIT_OBJECT_DIRECTORY GIT_ALTERNATE_OBJECT_DIRECTORIES GIT_COMMON_DIR GIT_NAMESPACE GIT_EXTERNAL_DIFF
      exec ${__wm_limit[@]+"${__wm_limit[@]}"} git @ARGUMENTS@ @QUESTION@ 2>/dev/null </dev/null
    )
@ENDS@  fi
"#;

/// Counts changes by their kind.
const COUNTED: &str = r#"        '? '*) __wm_untracked=$((__wm_untracked + 1)) ;;
        'u '*) __wm_conflicts=$((__wm_conflicts + 1)) ;;
        [12]' '*)
          [[ ${line:2:1} == . ]] || __wm_staged=$((__wm_staged + 1))
          [[ ${line:3:1} == . ]] || __wm_unstaged=$((__wm_unstaged + 1)) ;;
"#;

/// What git is in the middle of.
const OPERATION: &str = r#"  rest=''
  if [[ -d $git/rebase-merge ]]; then __wm_doing=rebase rest=rebase-merge/msgnum line=rebase-merge/end
  elif [[ -e $git/rebase-apply/rebasing ]]; then __wm_doing=rebase rest=rebase-apply/next line=rebase-apply/last
  elif [[ -d $git/rebase-apply ]]; then __wm_doing=am rest=rebase-apply/next line=rebase-apply/last
  elif [[ -e $git/MERGE_HEAD ]]; then __wm_doing=merge
  elif [[ -e $git/CHERRY_PICK_HEAD ]]; then __wm_doing=pick
  elif [[ -e $git/REVERT_HEAD ]]; then __wm_doing=revert
  elif [[ -e $git/BISECT_LOG ]]; then __wm_doing=bisect
  fi
  if [[ -n $rest && -f $git/$rest && -f $git/$line ]]; then
    @READS@ rest < "$git/$rest"
    @READS@ line < "$git/$line"
    [[ $rest$line == *[!0-9]* || -z $rest || -z $line ]] || __wm_steps=" $rest/$line"
  fi
"#;

/// How long the last command ran.
const TOOK: &str = r#"  __wm_took=-1
  if [[ -n ${__wm_begun-} ]]; then
    __wm_now
    __wm_took=$(((__wm_time - __wm_begun) / 1000)) __wm_begun=''
  fi
"#;

/// A duration in words.
const SPAN: &str = r#"__wm_span() {
  local s=$(($1 / 1000))
  if ((s < 10)); then __wm_text=$s.$(($1 % 1000 / 100))s
  elif ((s < 60)); then __wm_text=${s}s
  elif ((s < 3600)); then __wm_text="$((s / 60))m $((s % 60))s"
  else __wm_text="$((s / 3600))h $((s % 3600 / 60))m"; fi
}
"#;

/// The system's short name.
const SYSTEM: &str = r#"__wm_system=''
while IFS= read -r __wm_text; do
  [[ $__wm_text != ID=* ]] || { __wm_system=${__wm_text#ID=} && __wm_system=${__wm_system//\"/}; }
done 2>/dev/null < /etc/os-release
__wm_clean "$__wm_system" && __wm_system=$__wm_text
"#;

/// The color that a line of such a script sets.
#[must_use]
pub fn written(line: &str) -> Option<Written> {
    let (name, value) = line.trim().strip_prefix("__wm_c_")?.split_once("='")?;
    let start = line.find("='")? + 2;
    color_of(role_of(name)?, start, value.trim_end_matches('\''))
}

/// A color that stands as a code in a script, from a place of its line on.
pub(crate) fn color_of(role: &'static str, start: usize, value: &str) -> Option<Written> {
    let escape = format!("\\e[{value}m");
    let found = sgr::colors(escape.as_bytes(), 0..escape.len());
    let text = found.iter().find(|u| u.layer == Layer::Text)?;
    Some(Written {
        role,
        span: start..start + value.len(),
        value: value_of(text.color?)?,
    })
}
