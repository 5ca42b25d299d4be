//! What bash has of its own in the script that draws the prompt.

use super::BASH;
use crate::sourced::bourne::{Bourne, Mode};

/// Texts from outside (folder, branch, host) and signs only ever reach `PS1` by reference, so bash expands
/// them once and never runs them; control characters and marks of direction in them become `?`. Colors
/// stand between `\\[` and `\\]`, which keeps line editing right. Nothing in it asks for a variable that may
/// be unset.
pub const SHELL: Bourne = Bourne {
    id: BASH.id,
    first: 0,
    template: include_str!("prompt.bash"),
    puts: [
        "\\${__wm_shown[$i]}",
        "\\${__wm_gap}",
        "__wm_fill+=(\"$fill\")
      __wm_add \"$__wm_c_between\" \"\\${__wm_fill[$((${#__wm_fill[@]} - 1))]}\"",
    ],
    jobs: "local jobs='\\j'; jobs=${jobs@P}",
    supplies: "/sys/class/power_supply/*/capacity",
    times: [
        "local time; printf -v time '%(%H:%M)T' -1",
        "local time; printf -v time '%(%H:%M:%S)T' -1",
        "local time half=pm; printf -v time '%(%H)T %(:%M)T' -1 -1",
        "local time half=pm; printf -v time '%(%H)T %(:%M:%S)T' -1 -1",
        "local date; printf -v date '%(%Y-%m-%d)T' -1",
    ],
    like: "all=(\"$real/${name:0:$n}\"*/)",
    all: "mapfile -t all < \"$1\"",
    reads: "IFS= read -r -n 4096",
    numbers: "local -i",
    at_once: AT_ONCE,
    beside: BESIDE,
    harmless: HARMLESS,
    version: VERSION,
    starts: STARTS,
    ties: TIES,
    joins: "  printf -v PS1 '%s\\\\n' \"${rows[@]}\"\n  PS1=${PS1%'\\n'}\n",
    goes_on: GOES_ON,
    blank: "  PS1=\"\\\\n$PS1\"\n",
    past: [PAST_LINE, PAST_SIGN],
    enters: ENTERS,
    mode: Mode {
        // What stands for it takes as many cells as either word.
        asks: "  __wm_mode=''\n  [[ ! -o vi ]] || __wm_mode=$'\\x1d\\x1e\\x1f'\n",
        follows: KEYS,
        lays: "  __wm_modes {} '{}'\n",
    },
};

/// Asks git in a substitution: what the person last ran beside the shell stays what `$!` says.
const AT_ONCE: &str = r#"__wm_at_once() {
  local said
  said=$(
    __wm_hears @BUDGET@ < <(__wm_asks)
    # What was not read to its end is not waited for.
    { kill "$!"; } 2>/dev/null
    printf '%s ' "${__wm_dirty:-0}"@SAYS@ "${__wm_head-}"
  )
  IFS=' ' read -r __wm_dirty@NAMES@ __wm_head <<< "$said"
  [[ $__wm_dirty != 0 ]] || __wm_dirty=''
}
"#;

/// Asks git beside the prompt; the next one takes the answer.
const BESIDE: &str = r#"  # shellcheck disable=SC2016
  (__wm_asks sh -c '@LATER@' sh "$kept" > /dev/null &)
"#;

/// Whether a repository's configuration says nothing of what is refused.
const HARMLESS: &str = r#"__wm_harmless() {
  local part text='' LC_ALL=C
  [[ -e $1 || -L $1 ]] || return 0
  [[ -f $1 && -r $1 ]] || return 1
  while IFS= read -r -d '' -n 16384 part || [[ -n $part ]]; do
    text+=$part
    ((${#text} <= @CONFIGURATION@)) || return 1
  done < "$1"
  case ${text,,} in @REFUSED@) return 1 ;; esac
}
"#;

const TIES: &str = r#"  if ((${#rows[@]} > 1)); then
    for ((i = 0; i < ${#rows[@]}; i++)); do
      tie='{}'
      ((i == 0)) || tie='{}'
      ((i + 1 < ${#rows[@]})) || tie='{}'
      __wm_out=''
      __wm_add "$__wm_c_between" "$tie"
      rows[i]=$__wm_out${rows[i]}
    done
    tied=2
  fi
"#;

/// What further lines of a command begin with.
const GOES_ON: &str = r#"  __wm_more=@MORE@ __wm_out=''
  __wm_add "$__wm_c_between" "\${__wm_more}"
  [[ -z $__wm_colors ]] || __wm_out+='\[\e[0m\]'
  PS2="$__wm_out "
"#;

/// A program's version, kept until the program is another one; asked for in the background.
const VERSION: &str = r#"declare -gA __wm_asked
__wm_version() {
  local path kept=${XDG_CACHE_HOME:-${HOME-}/.cache}/wealdmist/versions line=''
  __wm_text=''
  path=$(type -P "$1") && [[ -n $path ]] || return
  kept=$kept/$1
  if [[ -f $kept ]]; then
    IFS= read -r -n 64 line < "$kept"
    __wm_clean "$line"
    line=$__wm_text
  fi
  # A program that has not answered yet is not asked again at once.
  local asked=${__wm_asked[$1]-}
  if [[ ! -f $kept || $path -nt $kept ]] && [[ -z $asked || $((SECONDS - asked)) -ge 5 ]]; then
    __wm_asked[$1]=$SECONDS
    (
      mkdir -p "${kept%/*}"
      out=$("$path" "${@:2}" 2>&1 < /dev/null)
      [[ $out =~ [0-9]+(\.[0-9]+)+ ]] || exit
      printf '%s\n' "${BASH_REMATCH[0]}" > "$kept.$$" && mv -f "$kept.$$" "$kept"
    ) > /dev/null 2>&1 &
    disown
  fi
  __wm_text=$line
}
"#;

/// Notes when a command begins, in the shell itself.
const STARTS: &str = r#"__wm_now() {
  if [[ -n ${EPOCHREALTIME-} ]]; then __wm_time=${EPOCHREALTIME/[.,]/}; else __wm_time=${SECONDS}000000; fi
}
# Expanded when a command begins.
# shellcheck disable=SC2016
__wm_starts='${__wm_none[__wm_begun=${EPOCHREALTIME/[.,]/},0]-}'
# shellcheck disable=SC2016
[[ -n ${EPOCHREALTIME-} ]] || __wm_starts='${__wm_none[__wm_begun=${SECONDS}000000,0]-}'
[[ ${PS0-} == *__wm_begun* ]] || PS0=$__wm_starts${PS0-}
"#;

/// Keeps the line where one types.
const PAST_LINE: &str = r#"__wm_keep() {
  # The part {} is where one types; what stands at the edge is not kept.
  __wm_kept=${rows[${#rows[@]} - 1]/'\[\e7'*'\e8\]'/}
  __wm_note
}
"#;

/// Keeps the sign alone.
const PAST_SIGN: &str = r#"__wm_keep() {
  __wm_run {} 1
  __wm_add '' ' '
  __wm_kept=$__wm_out
  __wm_note
}
"#;

/// Draws prompts that are past again in their short form: what was typed is known where Enter is pressed, and the
/// shell draws a text of ours before a command runs.
const ENTERS: &str = r#"__wm_note() {
  [[ -z $__wm_colors ]] || __wm_kept+='\[\e[0m\]'
  __wm_kept=${__wm_kept@P}
  __wm_kept=${__wm_kept//[$'\001\002']/}
  __wm_gone='' __wm_typed='' __wm_at=$((ln + 1 + tied)) __wm_up=$((${#rows[@]} - 1 + @BLANK@))
}
# How many rows a text takes from a column on.
__wm_rows() {
  local text=$1 at=$2 i
  if [[ $text != *[![:ascii:]]* ]]; then
    at=$((at + ${#text}))
    __wm_count=$((at > 0 ? (at - 1) / COLUMNS + 1 : 1))
    return
  fi
  __wm_count=1
  for ((i = 0; i < ${#text}; i++)); do
    __wm_cells "${text:i:1}"
    if ((at + __wm_wide > COLUMNS)); then __wm_count=$((__wm_count + 1)) at=0; fi
    at=$((at + __wm_wide))
  done
}
__wm_entered() {
  local status=$? text=$READLINE_LINE begin='' at=$__wm_at
  # Not where more is said before the command runs, or what is typed is drawn in another way.
  if [[ $- == *H* && $text == *'!'* || ${text//$'\n'/} == *[[:cntrl:]]* ]]; then __wm_kept=''; fi
  if [[ -z $__wm_kept ]]; then
    __wm_gone=''
    return "$status"
  fi
  if [[ -n $__wm_typed ]]; then
    __wm_cells "$__wm_more"
    at=$((__wm_wide + 1)) begin=${PS2@P}
    begin=${begin//[$'\001\002']/}
  fi
  while :; do
    __wm_rows "${text%%$'\n'*}" "$at"
    __wm_up=$((__wm_up + __wm_count))
    [[ $text == *$'\n'* ]] || break
    text=${text#*$'\n'} at=0
  done
  __wm_typed+=$begin$READLINE_LINE$'\n'
  printf -v __wm_gone '\e[%dA\r\e[J%s%s' "$__wm_up" "$__wm_kept" "$__wm_typed"
  return "$status"
}
__wm_bind() {
  local map has
  has=$(bind -v; bind -p)
  [[ $has == *'"\C-m": accept-line'* ]] || return
  [[ $has != *'horizontal-scroll-mode on'* && $has != *'show-mode-in-prompt on'* ]] || return
  for map in emacs vi-insert vi-command; do
    bind -m "$map" -x '"\C-x\C-^1": __wm_entered'
    bind -m "$map" '"\C-x\C-^2": accept-line'
    bind -m "$map" '"\C-m": "\C-x\C-^1\C-x\C-^2"'
    bind -m "$map" '"\C-j": "\C-x\C-^1\C-x\C-^2"'
  done
  __wm_enters=1
}
[[ -n ${__wm_enters-} ]] || __wm_bind
# shellcheck disable=SC2016
[[ ${PS0-} == *__wm_gone* ]] || PS0='${__wm_gone-}'${PS0-}
"#;

/// Has the line editor draw its mode, which it does before all else of the line where one types.
const KEYS: &str = r#"__wm_modes() {
  local with=$lo shown=${__wm_shown[$1]-} head=''
  if [[ -n $__wm_mode && -n $shown ]]; then
    __wm_shown[$1]=''
    __wm_run "$2" 1
    __wm_shown[$1]=$shown
    # What is left on its own stands behind the mode.
    lo=$__wm_out head=${with%"$lo"}
    head=${head@P}
    head=${head//\\/\\\\} head=${head//\"/\\\"}
    bind 'set emacs-mode-string ""'
    bind "set vi-ins-mode-string \"${head//"$__wm_mode"/ins}\""
    bind "set vi-cmd-mode-string \"${head//"$__wm_mode"/cmd}\""
    [[ -n ${__wm_shows-} ]] || bind 'set show-mode-in-prompt on'
    __wm_shows=1
  elif [[ -n ${__wm_shows-} ]]; then
    bind 'set show-mode-in-prompt off'
    __wm_shows=''
  fi
}
"#;
