//! The script that draws the prompt, made from the design's list of segments.

use wealdmist_core::color::nearest_256;
use wealdmist_core::glyph::replacement;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{self, Part, Segment, Turn, When};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::setup::{Setup, ShowUser};

use super::BASH;
use crate::sourced::repository;

/// The prompt's roles and the variables that hold their colors in the generated file.
pub const ROLES: &[(&str, &str)] = &[
    ("user", "prompt.user"),
    ("root", "prompt.root"),
    ("host", "prompt.host"),
    ("folder", "prompt.folder"),
    ("branch", "prompt.branch"),
    ("dirty", "prompt.dirty"),
    ("failure", "prompt.failure"),
    ("sign", "prompt.sign"),
];

/// Where signs stand in the generated file: in double quotes, in what becomes `PS1`.
const SIGN: [Quoting; 2] = [Quoting::PromptText, Quoting::Double];

/// Our signs as the setup wants them written. One whose replacement cannot stand there stays.
fn own_signs(setup: &Setup, text: &'static str) -> Code {
    let mut out = String::new();
    for c in text.chars() {
        let other = replacement(setup, BASH.id, c);
        match other.filter(|t| quote(t, &SIGN).is_some()) {
            Some(other) => out.push_str(&other),
            None => out.push(c),
        }
    }
    quote(&out, &SIGN).unwrap_or_else(|| Code::fixed(text))
}

pub fn script(setup: &Setup, look: &Look, path: &Code) -> Code {
    let signs = prompt::signs(setup.symbols_for(BASH.id));
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
    let mut drawn = Code::default();
    for (n, line) in prompt::segments(design, &signs).iter().enumerate() {
        if n > 0 {
            drawn.push_fixed("  out+='\\n'\n");
        }
        for segment in line {
            drawn.push(&drawn_segment(setup, segment));
        }
    }
    let parts = [
        ("@DEEP@", deep),
        ("@FLAT@", flat),
        ("@SHOW@", Code::fixed(show)),
        ("@GIT@", git),
        ("@KEEP@", Code::whole(design.folders)),
        ("@ELIDED@", sign(signs.elided)),
        ("@SEGMENTS@", drawn),
        ("@FILE@", path.clone()),
    ];
    Code::filled(TEMPLATE, &parts)
}

/// The lines that draw a segment.
fn drawn_segment(setup: &Setup, segment: &Segment) -> Code {
    let variable = |role: &str| {
        let found = ROLES.iter().find(|(_, r)| *r == role);
        Code::fixed(found.map_or("sign", |(name, _)| *name))
    };
    let mut out = Code::of("  color=$__wm_c_{}\n", &[&variable(segment.role)]);
    if let Some((turn, role)) = segment.turns {
        let condition = Code::fixed(match turn {
            Turn::Root => "((EUID == 0))",
            Turn::Failed => "((__wm_status != 0))",
        });
        out.push(&Code::of(
            "  {} && color=$__wm_c_{}\n",
            &[&condition, &variable(role)],
        ));
    }
    // By reference: what comes from outside is expanded once and never run.
    let shown = Code::fixed(match segment.part {
        Part::User => "\\${__wm_name}",
        Part::Host => "\\${__wm_machine}",
        Part::Folder => "\\${__wm_dir}",
        Part::Branch => "\\${__wm_branch}",
        Part::Changes => "",
        Part::Status => "\\${__wm_status}",
        Part::Input => "\\\\\\$",
    });
    let adds = |sign: Code| {
        Code::of(
            "out+=\"\\[\\e[${color}m\\]{}{}{}{}\\[\\e[0m\\]\"",
            &[
                &Code::fixed(segment.before),
                &sign,
                &shown,
                &Code::fixed(segment.after),
            ],
        )
    };
    let add = adds(own_signs(setup, segment.sign));
    let line = match segment.when {
        When::Always => Code::of("  {}\n", &[&add]),
        When::Matters => Code::of("  [[ -n $__wm_show ]] && {}\n", &[&add]),
        When::InRepository => Code::of("  [[ -n $__wm_branch ]] && {}\n", &[&add]),
        When::Failed => Code::of("  ((__wm_status != 0)) && {}\n", &[&add]),
        When::Changed => Code::of(
            "  [[ $__wm_dirty == 1 ]] && {}\n  [[ $__wm_dirty == u ]] && {}\n",
            &[&add, &adds(Code::fixed(repository::UNKNOWN))],
        ),
    };
    out.push(&line);
    out
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
  local out='' color
@SEGMENTS@  PS1=$out
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
