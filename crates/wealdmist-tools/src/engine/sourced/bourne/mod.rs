//! The script that draws the prompt in shells of the Bourne family, made from the design part by part.

pub mod eval;
mod git;
mod parts;

use wealdmist_core::color::{Depth, Rgb};
use wealdmist_core::escape::Escape;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, FOR_TYPING, Kind, Line, Part, Past, cells, place, ties};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::ToolId;
use wealdmist_core::setup::Setup;
use wealdmist_core::width::{nothing, wide};

use super::Written;
use super::painted::{DEPTHS, Painted, role_of};
use super::told::numbered;
use crate::document::sgr::{self, Layer, value_of};
use git::asking;
use parts::part_code;

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

/// A color as the numbers of an escape.
pub fn escape(color: Rgb, is_ground: bool) -> Code {
    let [r, g, b] = [color.r, color.g, color.b].map(Code::whole);
    let layer = Code::fixed(if is_ground { "48" } else { "38" });
    Code::of("{};2;{};{};{}", &[&layer, &r, &g, &b])
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
    /// Sets `all` to the folders of a folder whose names begin so.
    pub like: &'static str,
    /// Sets `all` to the lines of the file that the first argument names.
    pub all: &'static str,
    /// Reads a line that is not too long.
    pub reads: &'static str,
    /// Declares that what follows are numbers.
    pub numbers: &'static str,
    /// Asks git, as long as the prompt waits.
    pub at_once: &'static str,
    /// Asks it beside the prompt.
    pub beside: &'static str,
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
    /// Sets what further lines of a command begin with.
    pub goes_on: &'static str,
    /// Adds a blank line before them.
    pub blank: &'static str,
    /// Shortens prompts that are past, to their line and to their sign.
    pub past: [&'static str; 2],
    /// What both need.
    pub enters: &'static str,
    /// The mode of the line editor.
    pub mode: Mode,
}

/// What is said where a part does not turn with the mode of the line editor.
pub const STAYS: &str = "it stays as it is while the editor is in its command mode";

/// How a shell tells the mode of its line editor.
pub struct Mode {
    /// Asks which it is, before anything is drawn.
    pub asks: &'static str,
    /// Follows it.
    pub follows: &'static str,
    /// Has it drawn by the shell itself, once the line where one types is laid out; then it can only stand first
    /// there, on no ground. Empty where it is drawn as any part.
    pub lays: &'static str,
}

impl Mode {
    /// Whether a script has to know it.
    fn is_followed(&self, design: &Design) -> bool {
        design.has(Kind::Mode) || (self.lays.is_empty() && design.follows_mode())
    }

    /// Why a part is not drawn as a design says it.
    #[must_use]
    pub fn cannot(&self, part: &Part, design: &Design) -> Option<&'static str> {
        match part.kind {
            Kind::Mode if !self.can_stand(part, design) => {
                Some("the mode can only stand first in the line one types in, on no ground")
            }
            _ if part.turns_with_mode() && !self.lays.is_empty() => Some(STAYS),
            _ => None,
        }
    }

    /// Whether a part of a design can show it.
    fn can_stand(&self, part: &Part, design: &Design) -> bool {
        let first = design.lines.last().and_then(|line| line.left.first());
        let is_first = first.is_some_and(|first| std::ptr::eq(first, part));
        let is_tied = design.tie && design.lines.len() > 1;
        self.lays.is_empty() || (is_first && part.ground.is_none() && !is_tied)
    }
}

/// Whether a line gives a list another content, or none, without what was in it.
#[must_use]
pub fn loses(line: &str, list: &str) -> bool {
    let words = ["export ", "declare ", "typeset ", "-a ", "-g ", "-ga "];
    let mut rest = line;
    while let Some(other) = words.iter().find_map(|w| rest.strip_prefix(w)) {
        rest = other.trim_start();
    }
    if let Some(names) = rest.strip_prefix("unset ") {
        return names.split([' ', ';']).any(|name| name == list);
    }
    let value = rest.strip_prefix(list).and_then(|v| v.strip_prefix("=("));
    value.is_some_and(|v| !v.contains(list))
}

/// The script of a setup; `path` is the file it stands in.
#[must_use]
pub fn script(shell: &Bourne, setup: &Setup, look: &Look, path: &Code) -> Code {
    let painted = Painted::new(setup, look, shell.id);
    let design = &painted.design;
    let [deep, flat, few] = DEPTHS.map(|depth| colors(&painted, depth));
    let [part, gap, fill] = shell.puts.map(Code::fixed);
    let like = [("@LIKE@", Code::fixed(shell.like))];
    let [begin, begins] = match design.parts().any(|p| p.tells.beginnings) {
        true => [Code::filled(BEGIN, &like), Code::fixed(BEGINS)],
        false => [Code::default(), Code::default()],
    };
    let arrange = Code::filled(
        include_str!("arrange.sh"),
        &[
            ("@PART@", part),
            ("@GAP@", gap),
            ("@FILL@", fill),
            ("@ELIDED@", word(&design.elided)),
            ("@BEGIN@", begin),
            ("@BEGINS@", begins),
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
        ("@BEFORE@", before(shell, &painted)),
        ("@STARTS@", starts(shell, design)),
        ("@COUNTS@", counts(shell, &painted)),
        ("@PAST@", past(shell, design)),
        (
            "@KEEPS@",
            Code::fixed(match design.past {
                Past::Whole => "",
                Past::Line | Past::Sign => "  __wm_keep\n",
            }),
        ),
        ("@ELIDED@", word(&design.elided)),
        ("@WIDE@", ranges(wide())),
        ("@NOTHING@", ranges(nothing())),
    ];
    Code::filled(shell.template, &parts)
}

/// Begins to count changes.
fn counts(shell: &Bourne, painted: &Painted<'_>) -> Code {
    let counted = painted.counted();
    let begin = git::each(&counted, " __wm_{}=0");
    match counted.is_empty() {
        true => begin,
        false => Code::of("  {}{}\n", &[&Code::fixed(shell.numbers), &begin]),
    }
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
fn before(shell: &Bourne, painted: &Painted<'_>) -> Code {
    let design = &painted.design;
    let mut out = Code::default();
    if painted.asks_repository() {
        out.push_fixed("  __wm_git\n");
    }
    if design.has(Kind::Duration) {
        out.push_fixed(TOOK);
    }
    if shell.mode.is_followed(design) {
        out.push_fixed(shell.mode.asks);
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
    if shell.mode.is_followed(design) {
        out.push_fixed(shell.mode.follows);
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
    let mut out = match design.past {
        Past::Whole => return Code::default(),
        Past::Line => Code::of(shell.past[0], &[&place]),
        Past::Sign => Code::of(shell.past[1], &[&place]),
    };
    let blank = whole(usize::from(design.blank));
    out.push(&Code::filled(shell.enters, &[("@BLANK@", blank)]));
    out
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
        let is_last = n + 1 == design.lines.len();
        out.push(&line_code(shell, design, line, first, is_last));
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
    let more = word(&design.more[place(design.level)]);
    out.push(&Code::filled(shell.goes_on, &[("@MORE@", more)]));
    out
}

/// The lines that lay out a line of the prompt.
fn line_code(shell: &Bourne, design: &Design, line: &Line, first: usize, is_last: bool) -> Code {
    let [left, right, order] = numbered(line, first);
    let tied = design.tie && design.lines.len() > 1;
    let tie = Code::fixed(if tied { " - 2" } else { "" });
    let mut out = Code::default();
    let room = match is_last {
        true => Code::of("columns - columns / {} - 1{}", &[&whole(FOR_TYPING), &tie]),
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
            let mode = line.left.first().filter(|part| part.kind == Kind::Mode);
            if mode.is_some_and(|part| shell.mode.can_stand(part, design)) {
                out.push(&Code::of(shell.mode.lays, &[&whole(first), &left]));
            }
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

/// Shortens the names of folders that are left out.
const BEGIN: &str = r#"# The names of what is left out, each by as many letters as tell it from those beside it.
__wm_begin() {
  local left=$1 out='' real=$PWD name n all
  for ((n = 0; n < $2; n++)); do real=${real%/*}; done
  while [[ -n $left && $left != '~' ]]; do
    name=${real##*/} real=${real%/*}
    n=1
    [[ $name != .?* ]] || n=2
    for ((; n < ${#name}; n++)); do
      [[ -r ${real:-/} ]] || { n=${#name}; break; }
      @LIKE@
      ((${#all[@]} != 1)) || break
    done
    __wm_clean "${name:0:$n}"
    out=/$__wm_text$out
    if [[ $left != */* ]]; then
      out=${out#/} left=''
      break
    fi
    left=${left%/*}
  done
  __wm_text=$left$out
}
"#;

/// Has them shortened.
const BEGINS: &str = r#"      if [[ -n $3 ]]; then
        __wm_begin "$rest" "$keep"
        shown=$__wm_text$part
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
