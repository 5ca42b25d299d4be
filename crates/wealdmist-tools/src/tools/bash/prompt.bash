# Drawn by bash itself and git; `wealdmist apply` writes this file anew.
# shellcheck shell=bash
# The colors of the roles, by how many colors the terminal has.
# shellcheck disable=SC2034,SC2154
[[ $- == *i* ]] || return 0
__wm_file=@FILE@
IFS= read -r __wm_line < "$__wm_file" || return 0
__wm_kept='' __wm_gone=''
__wm_colors=1 __wm_block=() __wm_ground=() __wm_edge=() __wm_ink=()
if [[ -n ${NO_COLOR-} || ${TERM-} == dumb ]]; then
@NONE@elif [[ ${COLORTERM-} == truecolor || ${COLORTERM-} == 24bit ]]; then
@DEEP@elif [[ ${TERM-} == linux || ${TERM-} == *-16color || ${TERM-} == ansi || ${TERM-} == vt[0-9]* ]]; then
@FEW@else
@FLAT@fi
# Which parts stand on which ground.
@PARTS@# What joins them.
@SHAPES@__wm_matters='' __wm_remote=''
[[ -z ${SSH_CONNECTION-}${SSH_TTY-} ]] || __wm_remote=1
[[ $EUID != 0 && -z $__wm_remote ]] || __wm_matters=1
# What a terminal would act on becomes a question mark.
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
# The first so many characters of a text; 0 keeps all.
__wm_cut() {
  __wm_text=$1
  (($2 == 0 || ${#1} <= $2)) || __wm_text=${1:0:$2}@ELIDED@
}
# How many cells a text takes: some characters take two, some none.
__wm_pairs=$'@WIDE@'
__wm_marks=$'@NOTHING@'
__wm_cells() {
  local text=$1
  if [[ $text == *[![:ascii:]]* ]]; then
    text=${text//[$__wm_pairs]/xx}
    text=${text//[$__wm_marks]/}
  fi
  __wm_wide=${#text}
}
__wm_name=${USER-}
[[ -z $__wm_name ]] && __wm_name='\u' && __wm_name=${__wm_name@P}
__wm_clean "$__wm_name" && __wm_name=$__wm_text
__wm_machine=${HOSTNAME-}
__wm_clean "${__wm_machine%%.*}" && __wm_machine=$__wm_text
@FACTS@@STARTS@# Adds a text in a color; what is added at the right edge takes no room for the shell.
__wm_add() {
  if [[ -z $__wm_colors ]]; then __wm_out+=$2
  elif [[ -n ${__wm_edge_only-} ]]; then __wm_out+="\\e[0${1:+;$1}m$2"
  else __wm_out+="\\[\\e[0${1:+;$1}m\\]$2"; fi
}
@ARRANGE@# The right part of the line where one types is put at the edge, and the cursor comes back.
__wm_beside() {
  ((rn)) || return
  local reset='\e[0m'
  [[ -n $__wm_colors ]] || reset=''
  __wm_out="\\[\\e7\\e[$((columns - rn))G$ro$reset\\e8\\]$__wm_out"
}
__wm_seen() {
  __wm_status=$? __wm_statuses=("${PIPESTATUS[@]}") __wm_fresh=1
  return "$__wm_status"
}
__wm_prompt() {
  local status=$? new='' IFS=$' \t\n'
  [[ -n ${__wm_fresh-} ]] || __wm_status=$status __wm_statuses=("$status")
  __wm_fresh=''
  if { IFS= read -r new < "$__wm_file"; } 2>/dev/null && [[ $new != "$__wm_line" ]]; then
    # shellcheck disable=SC1090
    . "$__wm_file"
  fi
  __wm_draw
  # What sets PS1 behind us comes before us from the next prompt on.
  [[ ${PROMPT_COMMAND[${#PROMPT_COMMAND[@]} - 1]-} == *__wm_prompt ]] || __wm_place
  return "$__wm_status"
}
@PAST@__wm_draw() {
  local full=() short=() last=() rows=() columns=${COLUMNS:-80} lo ro ln rn i tie tied=0
  local __wm_edge_only=''
  __wm_branch='' __wm_dirty='' __wm_below='' __wm_doing='' __wm_steps='' __wm_fill=() __wm_shown=()
@COUNTS@@BEFORE@@DRAWN@@KEEPS@  [[ -z $__wm_colors ]] || PS1="\\[\\e[0m\\]$PS1"
}
__wm_place() {
  if ((BASH_VERSINFO[0] * 100 + BASH_VERSINFO[1] >= 501)); then
    local one others=()
    for one in ${PROMPT_COMMAND[@]+"${PROMPT_COMMAND[@]}"}; do
      [[ $one == __wm_seen || $one == __wm_prompt || -z $one ]] || others+=("$one")
    done
    PROMPT_COMMAND=(__wm_seen ${others[@]+"${others[@]}"} __wm_prompt)
  else
    # Before it could be a list it was one text.
    # shellcheck disable=SC2128,SC2178
    local text=${PROMPT_COMMAND-}
    text=${text//$'__wm_seen\n'/} text=${text//$'\n__wm_prompt'/} text=${text//'__wm_prompt; '/}
    # shellcheck disable=SC2178
    PROMPT_COMMAND=$'__wm_seen\n'$text$'\n__wm_prompt'
  fi
}
__wm_place
# The window's width is known once a command has run.
[[ -n ${COLUMNS-} ]] || { shopt -s checkwinsize; (:); }
{ printf '%s\n' "$__wm_line" > "${XDG_STATE_HOME:-${HOME-}/.local/state}/wealdmist/shells/$$"; } 2>/dev/null
true
