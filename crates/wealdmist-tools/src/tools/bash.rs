//! The shell bash: the colors of `PS1` in `.bashrc`, and a prompt file of our own with the one
//! line that loads it.

use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::{Rgb, indexed, nearest_256};
use wealdmist_core::glyph::{Syntax, replacement};
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Plan, Splice};
use wealdmist_core::prompt;
use wealdmist_core::property::{OUR_THEME, Property};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{Drawn, Paint, Reading, SourceFile, ToolId, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot, Usage};
use wealdmist_core::setup::{Setup, ShowUser};
use wealdmist_core::text;

use super::glyphs;
use super::repository;
use super::shared::{self, Edits, Includer};
use super::{Adapter, Facts, Live, Reload, Wanted, own_folder};
use crate::access::Access;
use crate::document::lines;
use crate::document::sgr::{self, Layer, SgrColor, SgrUse};

/// The tool's id.
pub const BASH: ToolId = ToolId("bash");

/// The adapter.
pub struct Bash;

/// The prompt's roles and the variables that hold their colors in the generated file.
const ROLES: &[(&str, &str)] = &[
    ("user", "prompt.user"),
    ("root", "prompt.root"),
    ("host", "prompt.host"),
    ("folder", "prompt.folder"),
    ("branch", "prompt.branch"),
    ("dirty", "prompt.dirty"),
    ("failure", "prompt.failure"),
    ("sign", "prompt.sign"),
];

/// Where the generated prompt is.
#[must_use]
pub fn prompt_path(access: &dyn Access) -> PathBuf {
    own_folder(access).join("prompt.bash")
}

/// The first line of a generated prompt: shells compare it to see whether theirs is the present
/// one.
#[must_use]
pub fn prompt_generation(bytes: &[u8]) -> Option<String> {
    let line = lines::lines(bytes).next()?;
    let text = std::str::from_utf8(&bytes[line.span]).ok()?;
    text.starts_with(MARK).then(|| text.to_owned())
}

const MARK: &str = "# wealdmist prompt ";

/// The generated prompt file.
#[must_use]
pub fn generate(setup: &Setup, look: &Look, path: &Code) -> Code {
    let body = body(setup, look, path);
    let mark = Code::hex(fingerprint(&body), 16);
    Code::of("{}{}\n{}", &[&Code::fixed(MARK), &mark, &body])
}

/// FNV-1a, 64 bits: enough to tell one generation of the file from the next.
fn fingerprint(bytes: &[u8]) -> u64 {
    bytes.iter().fold(0xcbf2_9ce4_8422_2325, |h, b| {
        (h ^ u64::from(*b)).wrapping_mul(0x0100_0000_01b3)
    })
}

/// Where signs stand in the generated file: in double quotes, in what becomes `PS1`.
const SIGN: [Quoting; 2] = [Quoting::PromptText, Quoting::Double];

/// Our signs as the setup wants them written. One whose replacement cannot stand there stays.
fn own_signs(setup: &Setup, text: &'static str) -> Code {
    let mut out = String::new();
    for c in text.chars() {
        let other = replacement(setup, BASH.0, c);
        match other.filter(|t| quote(t, &SIGN).is_some()) {
            Some(other) => out.push_str(&other),
            None => out.push(c),
        }
    }
    quote(&out, &SIGN).unwrap_or_else(|| Code::fixed(text))
}

fn body(setup: &Setup, look: &Look, path: &Code) -> Code {
    let signs = prompt::signs(setup.symbols_for(BASH.0));
    let sign = |text: &'static str| own_signs(setup, text);
    let design = &setup.prompt;
    let (mut deep, mut flat) = (Code::default(), Code::default());
    for (name, role) in ROLES {
        let role = RoleId::known(role);
        let attrs = look.attrs(&role);
        let mut lead = Code::default();
        for (on, code) in [
            (attrs.bold, "1;"),
            (attrs.italic, "3;"),
            (attrs.underline, "4;"),
        ] {
            if on {
                lead.push_fixed(code);
            }
        }
        let color = look.color(&role);
        let (true_color, indexed) = match look.slot_of(&role).and_then(Slot::ansi) {
            // A slot follows the terminal's palette, also while it is being tried out.
            Some(i) => {
                let code = Code::whole(if i < 8 { 30 + i } else { 82 + i });
                (code.clone(), code)
            }
            None => {
                let [r, g, b] = [color.r, color.g, color.b].map(Code::whole);
                let nearest = Code::whole(nearest_256(color));
                (
                    Code::of("38;2;{};{};{}", &[&r, &g, &b]),
                    Code::of("38;5;{}", &[&nearest]),
                )
            }
        };
        let name = Code::fixed(name);
        for (out, color) in [(&mut deep, true_color), (&mut flat, indexed)] {
            out.push(&Code::of("  __wm_c_{}='{}{}'\n", &[&name, &lead, &color]));
        }
    }
    let show = match design.user {
        ShowUser::Always => "__wm_show=1",
        ShowUser::Never => "__wm_show=",
        ShowUser::WhenItMatters => {
            "__wm_show=\n[[ $EUID == 0 || -n ${SSH_CONNECTION-}${SSH_TTY-} ]] && __wm_show=1"
        }
    };
    let git = match design.git {
        true => asking(),
        false => Code::fixed("__wm_git() { __wm_branch='' __wm_dirty=''; }\n"),
    };
    let newline = if design.lines == 2 { "\\n" } else { " " };
    let parts = [
        ("@DEEP@", deep),
        ("@FLAT@", flat),
        ("@SHOW@", Code::fixed(show)),
        ("@GIT@", git),
        ("@KEEP@", Code::whole(design.folders)),
        ("@ELIDED@", sign(signs.elided)),
        ("@BRANCH@", sign(signs.branch)),
        ("@DIRTY@", sign(signs.dirty)),
        ("@FAILURE@", sign(signs.failure)),
        ("@UNKNOWN@", Code::fixed(repository::UNKNOWN)),
        ("@NEWLINE@", Code::fixed(newline)),
        ("@FILE@", path.clone()),
    ];
    Code::filled(TEMPLATE, &parts)
}

/// The function that asks git, with what `repository` says in this shell's words.
fn asking() -> Code {
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
    let parts = [
        (
            "@CONFIGURATION@",
            Code::whole(repository::MAX_CONFIGURATION),
        ),
        ("@REFUSED@", Code::join(&refused, " | ")),
        ("@SECONDS@", Code::whole(repository::SECONDS)),
        ("@ENVIRONMENT@", Code::join(&environment, " ")),
        ("@ARGUMENTS@", Code::join(&arguments, " ")),
        ("@QUESTION@", Code::fixed(repository::QUESTION)),
    ];
    Code::filled(GIT, &parts)
}

/// Asks git once, only inside a repository, and only as `repository` allows.
const GIT: &str = r#"__wm_harmless() {
  local part text='' LC_ALL=C
  [[ -e $1 || -L $1 ]] || return 0
  [[ -f $1 && -r $1 ]] || return 1
  while IFS= read -r -d '' -n 16384 part || [[ -n $part ]]; do
    text+=$part
    ((${#text} <= @CONFIGURATION@)) || return 1
  done < "$1"
  case ${text,,} in @REFUSED@) return 1 ;; esac
}
__wm_git() {
  __wm_branch='' __wm_dirty=''
  local dir=$PWD git common line='' name='' rest
  while [[ ! -e $dir/.git ]]; do
    [[ -z $dir || $dir == "${dir%/*}" ]] && return
    dir=${dir%/*}
  done
  git=$dir/.git
  if [[ -f $git ]]; then
    IFS= read -r -n 4096 line < "$git"
    [[ $line == 'gitdir: '?* ]] || return
    git=${line#'gitdir: '}
    [[ $git == /* ]] || git=$dir/$git
  fi
  [[ -d $git && -f $git/HEAD && -r $git/HEAD ]] || return
  IFS= read -r -n 4096 line < "$git/HEAD"
  case $line in
    'ref: refs/heads/'?*) name=${line#'ref: refs/heads/'} ;;
    'ref: '?*) name=${line#'ref: '} ;;
    *[!0-9a-f]* | '') return ;;
    *) name='(detached)' ;;
  esac
  common=$git
  if [[ -e $git/commondir || -L $git/commondir ]]; then
    line=''
    [[ -f $git/commondir ]] && IFS= read -r -n 4096 line < "$git/commondir"
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
        '#'*) ;;
        ?*) __wm_dirty=1; break ;;
      esac
    done < <(
      export GIT_DIR="$git" GIT_WORK_TREE="$dir" @ENVIRONMENT@
      unset GIT_INDEX_FILE GIT_OBJECT_DIRECTORY GIT_ALTERNATE_OBJECT_DIRECTORIES GIT_COMMON_DIR GIT_NAMESPACE GIT_EXTERNAL_DIFF
      exec ${__wm_limit[@]+"${__wm_limit[@]}"} git @ARGUMENTS@ @QUESTION@ 2>/dev/null </dev/null
    )
    # What was not read to its end is not waited for.
    [[ -z $__wm_dirty ]] || { kill "$!"; } 2>/dev/null
  fi
  __wm_clean "$name"
  __wm_branch=$__wm_text
}
# An end is set to git also when this shell is gone.
if hash timeout 2>/dev/null; then __wm_limit=(timeout -k 1 @SECONDS@); else __wm_limit=(); fi
"#;

/// The prompt. Names from outside (folder, branch, host) only ever reach `PS1` by reference, so
/// bash expands them once and never runs them; control characters and marks of direction in them
/// become `?`. Colors stand between `\[` and `\]`, which keeps line editing right. Nothing in it
/// asks for a variable that may be unset.
const TEMPLATE: &str = r#"# Drawn by bash itself and git; `wealdmist apply` writes this file anew.
# shellcheck shell=bash
[[ $- == *i* ]] || return 0
__wm_file=@FILE@
IFS= read -r __wm_line < "$__wm_file" || return 0
if [[ -n ${NO_COLOR-} || ${TERM-} == dumb ]]; then
  __wm_c_user='' __wm_c_root='' __wm_c_host='' __wm_c_folder='' __wm_c_branch=''
  __wm_c_dirty='' __wm_c_failure='' __wm_c_sign=''
elif [[ ${COLORTERM-} == truecolor || ${COLORTERM-} == 24bit ]]; then
@DEEP@else
@FLAT@fi
@SHOW@
__wm_clean() {
  local set=${LC_ALL:-${LC_CTYPE:-${LANG-}}} LC_ALL=C
  __wm_text=$1
  [[ $1 == *[!\ -~]* ]] || return 0
  __wm_text=${__wm_text//[$'\x01'-$'\x1f'$'\x7f']/?}
  __wm_text=${__wm_text//$'\xc2'[$'\x80'-$'\x9f']/?}
  __wm_text=${__wm_text//$'\xd8\x9c'/?}
  __wm_text=${__wm_text//$'\xe2\x80'[$'\x8e\x8f\xa8'-$'\xae']/?}
  __wm_text=${__wm_text//$'\xe2\x81'[$'\xa6'-$'\xa9']/?}
  [[ $set == *[Uu][Tt][Ff]* ]] || __wm_text=${__wm_text//[$'\x80'-$'\x9f']/?}
}
__wm_name=${USER-}
[[ -z $__wm_name ]] && __wm_name='\u' && __wm_name=${__wm_name@P}
__wm_clean "$__wm_name" && __wm_name=$__wm_text
__wm_machine=${HOSTNAME-}
__wm_clean "${__wm_machine%%.*}" && __wm_machine=$__wm_text
__wm_folder() {
  local shown=$PWD rest part keep=@KEEP@ i
  if [[ -z ${HOME-} ]]; then :
  elif [[ $shown == "$HOME" ]]; then shown='~'
  elif [[ $shown == "$HOME"/* ]]; then shown="~${shown#"$HOME"}"; fi
  if ((keep > 0)); then
    rest=$shown part=''
    for ((i = 0; i < keep; i++)); do
      [[ $rest == */* ]] || break
      part=/${rest##*/}$part rest=${rest%/*}
    done
    [[ $rest == ?*/* || ($rest == ?* && $rest != '~') ]] && shown="@ELIDED@$part"
  fi
  __wm_clean "$shown"
  __wm_dir=$__wm_text
}
@GIT@__wm_seen() {
  __wm_status=$? __wm_fresh=1
  return "$__wm_status"
}
__wm_prompt() {
  local status=$? new=''
  [[ -n ${__wm_fresh-} ]] || __wm_status=$status
  __wm_fresh=''
  if { IFS= read -r new < "$__wm_file"; } 2>/dev/null && [[ $new != "$__wm_line" ]]; then
    # shellcheck disable=SC1090
    . "$__wm_file"
  fi
  __wm_folder
  __wm_git
  local out='' sign=$__wm_c_sign
  if [[ -n $__wm_show ]]; then
    local user=$__wm_c_user
    ((EUID == 0)) && user=$__wm_c_root
    out+="\[\e[${user}m\]\${__wm_name}\[\e[0m\]\[\e[${__wm_c_host}m\] on \${__wm_machine} \[\e[0m\]"
  fi
  out+="\[\e[${__wm_c_folder}m\]\${__wm_dir}\[\e[0m\]"
  if [[ -n $__wm_branch ]]; then
    out+="  \[\e[${__wm_c_branch}m\]@BRANCH@\${__wm_branch}\[\e[0m\]"
    case $__wm_dirty in
      1) out+=" \[\e[${__wm_c_dirty}m\]@DIRTY@\[\e[0m\]" ;;
      u) out+=" \[\e[${__wm_c_dirty}m\]@UNKNOWN@\[\e[0m\]" ;;
    esac
  fi
  if ((__wm_status != 0)); then
    sign=$__wm_c_failure
    out+="  \[\e[${__wm_c_failure}m\]@FAILURE@\${__wm_status}\[\e[0m\]"
  fi
  PS1="$out@NEWLINE@\[\e[${sign}m\]\\\$\[\e[0m\] "
  # What sets PS1 behind us comes before us from the next prompt on.
  [[ ${PROMPT_COMMAND[${#PROMPT_COMMAND[@]} - 1]-} == *__wm_prompt ]] || __wm_place
  return "$__wm_status"
}
__wm_place() {
  if ((BASH_VERSINFO[0] * 100 + BASH_VERSINFO[1] >= 501)); then
    local one others=()
    for one in ${PROMPT_COMMAND[@]+"${PROMPT_COMMAND[@]}"}; do
      [[ $one == __wm_seen || $one == __wm_prompt || -z $one ]] || others+=("$one")
    done
    PROMPT_COMMAND=(__wm_seen ${others[@]+"${others[@]}"} __wm_prompt)
  else
    local others=${PROMPT_COMMAND-}
    others=${others//$'__wm_seen\n'/} others=${others//$'\n__wm_prompt'/} others=${others//'__wm_prompt; '/}
    PROMPT_COMMAND=$'__wm_seen\n'$others$'\n__wm_prompt'
  fi
}
__wm_place
{ printf '%s\n' "$__wm_line" > "${XDG_STATE_HOME:-${HOME-}/.local/state}/wealdmist/shells/$$"; } 2>/dev/null
true
"#;

/// A path as a word of the shell: `$HOME` for the home, quoted. `None` where it cannot be written.
fn shell_word(access: &dyn Access, path: &Path) -> Option<Code> {
    let written = |path: &Path| quote(path.to_str()?, &[Quoting::Double]);
    match path.strip_prefix(access.home()) {
        Ok(rest) => Some(Code::of("\"$HOME/{}\"", &[&written(rest)?])),
        Err(_) => Some(Code::of("\"{}\"", &[&written(path)?])),
    }
}

/// Whether a line has come to text of a prompt: behind `PS1=`, in the same word, and not in a
/// command whose output stands there.
fn in_prompt(head: &[u8]) -> bool {
    let assigns = |i: &usize| {
        let rest = &head[*i..];
        let named = rest.len() > 4 && rest.starts_with(b"PS") && rest[2].is_ascii_digit();
        named && rest[3] == b'=' && (*i == 0 || matches!(head[i - 1], b' ' | b'\t' | b';'))
    };
    let Some(at) = (0..head.len()).rfind(assigns) else {
        return false;
    };
    let value = &head[at + 4..];
    let mut quote = None;
    let mut i = 0;
    while i < value.len() {
        match (quote, value[i]) {
            (_, b'`') => return false,
            (_, b'$' | b'<' | b'>') if value.get(i + 1) == Some(&b'(') => return false,
            (None | Some(b'"'), b'\\') => i += 1,
            (None, b' ' | b'\t' | b';' | b'&' | b'|') => return false,
            (None, b @ (b'"' | b'\'')) => quote = Some(b),
            (Some(q), b) if q == b => quote = None,
            _ => {}
        }
        i += 1;
    }
    true
}

/// Whether a place is a sign that a variable holds alone: `name='…'`.
fn sign_in_variable(bytes: &[u8], line: &Range<usize>, at: usize) -> bool {
    let head = &bytes[line.start..at];
    let Some(open) = head.iter().rposition(|b| matches!(b, b'"' | b'\'')) else {
        return false;
    };
    let inner = line.start + open + 1;
    let close = bytes[at..line.end].iter().position(|b| *b == head[open]);
    let before = head[..open].strip_suffix(b"$").unwrap_or(&head[..open]);
    let Some(name) = before.strip_suffix(b"=") else {
        return false;
    };
    let plain = name
        .trim_ascii()
        .iter()
        .all(|b| b.is_ascii_alphanumeric() || *b == b'_');
    plain && close.is_some_and(|n| glyphs::is_sign_alone(bytes, &(inner..at + n), at))
}

impl Adapter for Bash {
    fn id(&self) -> ToolId {
        BASH
    }

    fn kind(&self) -> &'static str {
        "shell prompt"
    }

    fn live(&self) -> &Live {
        const LIVE: Live = Live::own(
            Reload::NextPrompt,
            "at each shell's next prompt; in shells without our prompt when they start again",
        );
        &LIVE
    }

    fn syntax(&self, _path: &Path) -> Syntax {
        Syntax::Shell
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let quotes = glyphs::shell_quotes(&file.bytes, places);
        let of = |(quotes, at): (Option<Quoting>, &usize)| {
            let line = text::line_range(&file.bytes, *at);
            let inner = match in_prompt(&file.bytes[line.start..*at])
                || sign_in_variable(&file.bytes, &line, *at)
            {
                true => Quoting::PromptText,
                false => Quoting::Inert,
            };
            Some(vec![inner, quotes?])
        };
        quotes.into_iter().zip(places).map(of).collect()
    }

    fn read(&self, access: &dyn Access, _: &mut Facts) -> ToolReport {
        let mut reader = Reader {
            access,
            report: ToolReport::new(BASH),
            ours: prompt_path(access),
            stretches: Vec::new(),
        };
        reader.file(&access.home().join(".bashrc"), &[]);
        let ours = reader.ours.clone();
        let stretches = std::mem::take(&mut reader.stretches);
        let mut report = reader.report;
        if report
            .effective(&RoleId::from(Property::Theme))
            .is_some_and(|r| r.value == Value::Text(OUR_THEME.into()))
        {
            // Our prompt sets PS1 itself: what the file set before is of no account.
            for reading in report.readings.iter_mut().filter(|r| r.key == "PS1") {
                reading.effective = false;
            }
        } else {
            // A later PS1 takes the place of an earlier one.
            report.mark_last_effective();
        }
        glyphs::collect(&mut report, &["#"], |_| Syntax::Shell, |p| p == ours);
        report.drawn = drawn(&report, &stretches);
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let mut edits = Edits::default();
        let rc = access.home().join(".bashrc");
        if !wanted.setup.tool(BASH.0).generate {
            for reading in report
                .readings
                .iter()
                .filter(|r| r.editable && wanted.differs(BASH, r))
            {
                let color = wanted.look.color(&reading.role);
                let [r, g, b] = [color.r, color.g, color.b].map(Code::whole);
                if reading.role.as_str().starts_with("prompt.") {
                    let layer = Code::fixed(if reading.role.is_ground() { "48" } else { "38" });
                    edits.replace(reading, Code::of("{};2;{};{};{}", &[&layer, &r, &g, &b]));
                }
            }
            return edits.finish(BASH, report).into();
        }
        if report.files.is_empty() && !access.has_program("bash") {
            return Plan::default();
        }
        let ours = prompt_path(access);
        let Some(word) = shell_word(access, &ours) else {
            return Plan::default();
        };
        let loaded = report
            .effective(&RoleId::from(Property::Theme))
            .is_some_and(|r| r.value == Value::Text(OUR_THEME.into()));
        if !loaded {
            let bytes = report.file(&rc).map_or(&[][..], |f| &f.bytes[..]);
            let line = Code::of("[ -r {} ] && . {}  # the prompt", &[&word, &word]);
            let mut splice: Splice = shared::append_line(bytes, &line, "load the prompt".into());
            splice.role = Some(RoleId::from(Property::Theme));
            splice.needs = Some(ours.clone());
            edits.add(&rc, splice);
        }
        let mut out = edits.finish(BASH, report);
        let text = generate(wanted.setup, wanted.look, &word);
        out.push(shared::own_file(BASH, ours, access, text));
        out.into()
    }
}

struct Reader<'a> {
    access: &'a dyn Access,
    report: ToolReport,
    ours: PathBuf,
    stretches: Vec<Stretch>,
}

impl Reader<'_> {
    fn file(&mut self, path: &Path, chain: &[Includer]) {
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, false) else {
            return;
        };
        for line in lines::lines(&file.bytes) {
            let text = lines::trim(&file.bytes, line.span.clone());
            if file.bytes[text.clone()].starts_with(b"#") {
                continue;
            }
            self.sourced(&file, chain, &text, line.number);
            self.prompt(&file, chain, &text);
        }
    }

    /// Follows `. FILE` and `source FILE` where the file is written plainly.
    fn sourced(
        &mut self,
        file: &SourceFile,
        chain: &[Includer],
        text: &Range<usize>,
        number: usize,
    ) {
        // Places within a line are places in the file only where it is text.
        let Ok(line) = std::str::from_utf8(&file.bytes[text.clone()]) else {
            return;
        };
        let words: Vec<&str> = line.split_whitespace().collect();
        let Some(i) = words.iter().rposition(|w| matches!(*w, "." | "source")) else {
            return;
        };
        let starts_command = i == 0 || matches!(words[i - 1], "&&" | "then" | "||" | "{" | ";");
        let Some(written) = words.get(i + 1).filter(|_| starts_command) else {
            return;
        };
        let written = written.trim_matches(['"', '\'', ';']);
        let path = self.access.expand(written, self.access.home());
        if path == self.ours {
            let at = text.start + line.find(written).unwrap_or(0);
            let value = Value::Text(OUR_THEME.to_owned());
            let span = at..at + written.len();
            let mut r = shared::reading(
                file,
                chain,
                RoleId::from(Property::Theme),
                "prompt",
                value,
                span,
            );
            r.editable = false;
            self.report.readings.push(r);
            self.our_prompt(file, number, chain);
        } else if !written.contains(['$', '*', '`', '(']) {
            let mut deeper = chain.to_vec();
            deeper.push((file.path.clone(), number));
            self.file(&path, &deeper);
        }
    }

    /// Reads the colors back from the generated file.
    fn our_prompt(&mut self, from: &SourceFile, line: usize, chain: &[Includer]) {
        let mut deeper = chain.to_vec();
        deeper.push((from.path.clone(), line));
        let path = self.ours.clone();
        let Some(file) = shared::load(self.access, &mut self.report, &path, &deeper, true) else {
            return;
        };
        let mut seen = Vec::new();
        for line in lines::lines(&file.bytes) {
            let Ok(text) = std::str::from_utf8(&file.bytes[line.span.clone()]) else {
                continue;
            };
            let Some((name, value)) = text
                .trim()
                .strip_prefix("__wm_c_")
                .and_then(|t| t.split_once("='"))
            else {
                continue;
            };
            let Some((_, role)) = ROLES.iter().find(|(n, _)| *n == name) else {
                continue;
            };
            // The first list is the one for 24-bit terminals.
            if seen.contains(&name.to_owned()) {
                continue;
            }
            let start = line.span.start + text.find("='").unwrap_or(0) + 2;
            let end = start + value.trim_end_matches('\'').len();
            let escape = format!("\\e[{}m", value.trim_end_matches('\''));
            let found = sgr::colors(escape.as_bytes(), 0..escape.len());
            let text = found.iter().find(|u| u.layer == Layer::Text);
            if let Some(color) = text.and_then(|u| value_of(u.color?)) {
                seen.push(name.to_owned());
                let role = RoleId::known(role);
                let mut r = shared::reading(&file, &deeper, role, "prompt", color, start..end);
                r.editable = false;
                self.report.readings.push(r);
            }
        }
    }

    /// Reads the colors of a `PS1=` on this line.
    fn prompt(&mut self, file: &SourceFile, chain: &[Includer], text: &Range<usize>) {
        let line = &file.bytes[text.clone()];
        let assigns = |i: usize| {
            line[i..].starts_with(b"PS1=") && (i == 0 || matches!(line[i - 1], b' ' | b'\t' | b';'))
        };
        let Some(i) = (0..line.len()).find(|i| assigns(*i)) else {
            return;
        };
        let value = text.start + i + 4..text.end;
        let theme = Value::Text("PS1 of its own".to_owned());
        let span = text.start + i..text.start + i + 3;
        let mut r = shared::reading(
            file,
            chain,
            RoleId::from(Property::Theme),
            "PS1",
            theme,
            span,
        );
        r.editable = false;
        self.report.readings.push(r);
        let uses = sgr::colors(&file.bytes, value.clone());
        // The colors in force: the uses that set them.
        let (mut text, mut ground): (Option<&SgrUse>, Option<&SgrUse>) = (None, None);
        let mut segments = 0;
        for (n, found) in uses.iter().enumerate() {
            match found.layer {
                Layer::Text => text = Some(found).filter(|u| u.color.is_some()),
                Layer::Ground => ground = Some(found).filter(|u| u.color.is_some()),
            }
            let next = uses.get(n + 1);
            // Escapes that follow one another at once color the same stretch.
            let end = next.map_or(value.end, |next| next.span.start);
            if next.is_some_and(|next| next.end == found.end) || found.end >= end {
                continue;
            }
            let colored = String::from_utf8_lossy(&file.bytes[found.end..end]).into_owned();
            if next.is_some() && is_only_escape(&colored) {
                continue;
            }
            let job = role_of(&colored);
            if job.is_none() && ground.is_none() {
                continue;
            }
            segments += usize::from(ground.is_some());
            let text_role = job.unwrap_or_else(|| RoleId::new(format!("prompt.{segments}.text")));
            let joins = text_role.as_str().ends_with(".text");
            let mut add = |found: Option<&SgrUse>, role: RoleId| {
                let (found, color) = found.and_then(|f| Some((f, value_of(f.color?)?)))?;
                let span = found.span.clone();
                let readings = &mut self.report.readings;
                // One escape may color several stretches; it is one reading.
                let same = |r: &Reading| r.place.span == span && *r.place.path == *file.path;
                if let Some(i) = readings.iter().position(same) {
                    return Some(i);
                }
                readings.push(shared::reading(file, chain, role, "PS1", color, span));
                Some(readings.len() - 1)
            };
            let text = add(text, text_role);
            let ground = add(ground, RoleId::new(format!("prompt.{segments}.ground")));
            self.stretches.push(Stretch {
                text,
                ground,
                joins,
            });
        }
    }
}

/// A stretch of `PS1` in one text color on one ground: the readings that say them.
struct Stretch {
    text: Option<usize>,
    ground: Option<usize>,
    /// Whether it is a shape between two segments rather than text.
    joins: bool,
}

/// Whether nothing is drawn: the end of one escape and the beginning of another.
fn is_only_escape(text: &str) -> bool {
    let mut rest = text.replace("\\[", "").replace("\\]", "");
    for introducer in sgr::INTRODUCERS {
        rest = rest.replace(&*String::from_utf8_lossy(introducer), "");
    }
    rest.is_empty()
}

fn value_of(color: SgrColor) -> Option<Value> {
    match color {
        SgrColor::Slot(i) => Slot::from_ansi(i).map(Value::Slot),
        SgrColor::Index(i) => indexed(i).map(Value::Color),
        SgrColor::Rgb(r, g, b) => Some(Value::Color(Rgb::new(r, g, b))),
    }
}

/// The job of a stretch of `PS1`, by the first escape in it that says one.
fn role_of(colored: &str) -> Option<RoleId> {
    const JOBS: [(&str, &str); 7] = [
        ("\\u", "prompt.user"),
        ("\\h", "prompt.host"),
        ("\\H", "prompt.host"),
        ("\\w", "prompt.folder"),
        ("\\W", "prompt.folder"),
        ("git", "prompt.branch"),
        ("\\$", "prompt.sign"),
    ];
    let found = JOBS
        .iter()
        .filter_map(|(mark, role)| Some((colored.find(mark)?, *role)));
    found
        .min_by_key(|(at, _)| *at)
        .map(|(_, role)| RoleId::known(role))
}

fn drawn(report: &ToolReport, stretches: &[Stretch]) -> Vec<Drawn> {
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
            }
        });
    let written = report
        .readings
        .iter()
        .enumerate()
        .filter(|(_, r)| r.effective && r.key != "PS1" && r.role.as_str().starts_with("prompt."))
        .map(|(i, r)| Drawn {
            what: r.role.label(),
            text: paint(Some(i), "foreground"),
            ground: paint(None, "background"),
            usage: Usage::Body,
            fade: 1.0,
        });
    of_own.chain(written).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::tools::testing;
    use wealdmist_core::setup::SetupDoc;

    fn read(access: &MemoryAccess) -> ToolReport {
        Bash.read(access, &mut Facts::default())
    }

    fn planned(access: &MemoryAccess, setup: &str) -> Vec<(PathBuf, String)> {
        testing::planned(&Bash, access, setup)
    }

    const RC: &str = "# PS1='\\[\\e[31m\\]\\u'\nif x; then\n  PS1='\\[\\e[1;32m\\]\\u@\\h\\[\\e[0m\\] \\[\\e[38;5;75m\\]\\w\\[\\e[0m\\]\\$ '\nfi";
    #[test]
    fn prompt_segments_are_pairs_on_their_own_ground_and_so_are_their_joints() {
        let rc = r"PS1='\[\e[48;5;24;97m\] \u \[\e[38;5;24;48;5;31m\]>\[\e[97m\] \w \[\e[0m\]\$ '";
        let access = MemoryAccess::with(&[(".bashrc", rc)]);
        let report = Bash.read(&access, &mut Facts::default());
        let seen: Vec<(String, String, Usage)> = report
            .drawn
            .iter()
            .map(|d| (d.what.clone(), d.ground.role.to_string(), d.usage))
            .collect();
        assert_eq!(seen.len(), 3, "{seen:?}");
        assert_eq!(
            seen[0],
            ("user".into(), "prompt.1.ground".into(), Usage::Body)
        );
        assert_eq!(seen[1].2, Usage::NonText);
        assert_eq!(
            (seen[2].0.as_str(), seen[2].1.as_str()),
            ("folder", "prompt.2.ground")
        );
        let value = |i: usize| report.readings[i].value.clone();
        let ground = report.drawn[1].ground.reading.unwrap();
        assert_eq!(value(ground), Value::Color(indexed(31).unwrap()));
    }

    const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\n'prompt.folder'='#0a0b0c'\n";

    #[test]
    fn colors_of_a_prompt_are_read_by_their_job() {
        let report = read(&MemoryAccess::with(&[(".bashrc", RC)]));
        let said: Vec<_> = report
            .readings
            .iter()
            .map(|r| format!("{}={}", r.role, r.value))
            .collect();
        assert_eq!(
            said,
            [
                "theme=PS1 of its own",
                "prompt.user=green",
                "prompt.folder=#5fafff"
            ]
        );
        assert_eq!(report.readings[2].place.at.line, 3);
    }

    #[test]
    fn one_line_loads_the_prompt_and_its_colors_are_read_back() {
        let mut access = MemoryAccess::with(&[(".bashrc", RC)]);
        let edits = planned(&access, SETUP);
        assert_eq!(edits.len(), 2);
        let line = "[ -r \"$HOME/.config/wealdmist/prompt.bash\" ] && . \"$HOME/.config/wealdmist/prompt.bash\"  # the prompt\n";
        assert_eq!(edits[0].1, format!("{RC}\n{line}"));
        for (path, text) in edits {
            access.files.insert(path, text.into_bytes());
        }
        assert!(planned(&access, SETUP).is_empty(), "a second plan is empty");
        let report = read(&access);
        let folder = report.effective(&RoleId::known("prompt.folder")).unwrap();
        assert_eq!(folder.value, Value::Color(Rgb::from_u32(0x0a_0b0c)));
        let user = report.effective(&RoleId::known("prompt.user")).unwrap();
        assert_eq!(user.value, Value::Slot(Slot::Yellow));
        let changed = SETUP.replace("#0a0b0c", "#0a0b0d");
        let again = planned(&access, &changed);
        assert_eq!(again.len(), 1, "only the generated file changes");
        let old = prompt_generation(&access.files[&prompt_path(&access)]).unwrap();
        assert_ne!(prompt_generation(again[0].1.as_bytes()).unwrap(), old);
    }

    #[test]
    fn without_generating_colors_change_in_place() {
        let access = MemoryAccess::with(&[(".bashrc", RC)]);
        let edits = planned(&access, &format!("{SETUP}[tools.bash]\ngenerate=false\n"));
        assert!(
            edits[0].1.contains("\\e[38;2;10;11;12m\\]\\w"),
            "{}",
            edits[0].1
        );
        assert_eq!(edits.len(), 1);
    }

    #[test]
    fn sourced_files_are_followed() {
        let access = MemoryAccess::with(&[
            (".bashrc", "[ -f ~/.x ] && . ~/.x\n"),
            (".x", "PS1='\\e[35m\\w '\n. ~/.x\n"),
        ]);
        let report = read(&access);
        assert_eq!(report.readings[1].role, RoleId::known("prompt.folder"));
        assert_eq!(report.readings[1].chain[0].1, 1);
        assert_eq!(report.problems.len(), 1, "the circle is told");
    }

    #[test]
    fn the_generated_prompt_has_the_signs_of_this_shell() {
        let generated = |more: &str| {
            let setup = SetupDoc::parse("s", format!("{SETUP}{more}").as_bytes()).unwrap();
            let file = Code::fixed("\"$HOME/p\"");
            generate(setup.setup(), &Look::new(setup.setup()), &file).lossy()
        };
        let icons = generated("[symbols]\nlevel='icons'\n");
        assert!(icons.contains('\u{e725}'));
        let own = generated("[symbols]\nlevel='icons'\n[tools.bash]\nsymbols='ascii'\n");
        assert!(!own.contains('\u{e725}') && own.is_ascii());
        let replaced = generated("[symbols]\nlevel='icons'\n[symbols.replace]\n'U+E725'='>'\n");
        assert!(!replaced.contains('\u{e725}') && replaced.contains("> "));
        // What the shell would expand once more cannot stand there: the sign stays.
        for text in ["$(x)", "`x`", "\\\\"] {
            let kept = generated(&format!(
                "[symbols]\nlevel='icons'\n[symbols.replace]\n'U+E725'=\"{text}\"\n"
            ));
            assert!(kept.contains('\u{e725}'), "{text}");
        }
        let quote = generated("[symbols]\nlevel='icons'\n[symbols.replace]\n'U+E725'='\"'\n");
        assert!(
            !quote.contains('\u{e725}') && quote.contains("\\\" \\${__wm_branch}"),
            "{quote}"
        );
    }

    #[test]
    fn no_placeholder_is_left_in_the_generated_file() {
        for extra in [
            "",
            "[prompt]\ngit=false\nlines=1\nuser='never'\n",
            "[symbols]\nlevel='icons'\n",
        ] {
            let setup = SetupDoc::parse("s", format!("{SETUP}{extra}").as_bytes()).unwrap();
            let file = Code::fixed("\"$HOME/p\"");
            let text = generate(setup.setup(), &Look::new(setup.setup()), &file).lossy();
            for name in [
                "DEEP", "FLAT", "SHOW", "GIT", "KEEP", "ELIDED", "BRANCH", "DIRTY", "FAILURE",
                "NEWLINE", "FILE",
            ] {
                assert!(!text.contains(&format!("@{name}@")), "{name}");
            }
        }
    }
}
