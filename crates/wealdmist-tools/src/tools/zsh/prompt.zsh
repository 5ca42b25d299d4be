# Drawn by zsh itself and git; `wealdmist apply` writes this file anew.
# shellcheck shell=bash disable=all
[[ -o interactive ]] || return 0
typeset -g __wm_file=@FILE@ __wm_line=''
IFS= read -r __wm_line < "$__wm_file" || return 0
zmodload zsh/datetime zsh/parameter zsh/system 2>/dev/null
# What a terminal would act on becomes a question mark.
__wm_clean() {
  emulate -L zsh
  local set=${LC_ALL:-${LC_CTYPE:-${LANG-}}}
  typeset -g __wm_text=$1
  [[ $1 == *[^\ -~]* ]] || return 0
  setopt no_multibyte
  __wm_text=${__wm_text//[$'\x01'-$'\x1f'$'\x7f']/?}
  __wm_text=${__wm_text//$'\xc2'[$'\x80'-$'\x9f']/?}
  __wm_text=${__wm_text//$'\xd8\x9c'/?}
  __wm_text=${__wm_text//$'\xe2\x80'[$'\x8e'$'\x8f'$'\xa8'-$'\xae']/?}
  __wm_text=${__wm_text//$'\xe2\x81'[$'\xa6'-$'\xa9']/?}
  [[ $set == *[Uu][Tt][Ff]* ]] || __wm_text=${__wm_text//[$'\x80'-$'\x9f']/?}
}
# The first so many characters of a text; 0 keeps all.
__wm_cut() {
  typeset -g __wm_text=$1
  (($2 == 0 || ${#1} <= $2)) || __wm_text=${1[1,$2]}@ELIDED@
}
# How many cells a text takes.
__wm_cells() {
  typeset -gi __wm_wide=${(m)#1}
}
@FACTS@# Adds a text in a color. What the texts hold is shown as it is, never expanded.
__wm_add() {
  if [[ -z $__wm_colors ]]; then __wm_out+=$2
  else __wm_out+="%{"$'\e'"[0${1:+;$1}m%}$2"; fi
}
@ARRANGE@# The right part of the line where one types.
__wm_beside() {
  ((rn)) && right=$ro
}
__wm_prompt() {
  typeset -g __wm_status=$? __wm_statuses=("${pipestatus[@]}")
  emulate -L zsh
  setopt sh_word_split
  local new=''
  if { IFS= read -r new < "$__wm_file" } 2>/dev/null && [[ $new != "$__wm_line" ]]; then
    . "$__wm_file"
  fi
  (($+functions[__wm_keys_first])) && __wm_keys_first
  __wm_draw
  # What sets the prompt behind us comes before us from the next prompt on.
  [[ ${precmd_functions[-1]-} == __wm_prompt ]] || precmd_functions=(${precmd_functions:#__wm_prompt} __wm_prompt)
  return $__wm_status
}
__wm_draw() {
  local lo ro ln rn i tie right='' columns=${COLUMNS:-80}
  local -a full short last rows
  typeset -ga __wm_shown=()
  typeset -g __wm_out __wm_count
  typeset -g __wm_branch='' __wm_dirty='' __wm_below='' __wm_doing='' __wm_steps=''
@COUNTS@@BEFORE@@DRAWN@  psvar=("${__wm_shown[@]}")
  [[ -z $__wm_colors ]] || PROMPT="%{"$'\e'"[0m%}$PROMPT"
  RPROMPT=$right
  [[ -z $__wm_colors || -z $right ]] || RPROMPT+="%{"$'\e'"[0m%}"
}
@PAST@() {
  emulate -L zsh
# The colors of the roles, by how many colors the terminal has.
typeset -g __wm_colors=1
typeset -ga __wm_block=() __wm_ground=() __wm_edge=() __wm_ink=()
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
__wm_clean "${USER-}"
[[ -n $__wm_text ]] || __wm_clean "${(%):-%n}"
__wm_name=$__wm_text
__wm_clean "${HOST%%.*}"
__wm_machine=$__wm_text
@STARTS@}
ZLE_RPROMPT_INDENT=1
typeset -ga precmd_functions
precmd_functions=(${precmd_functions:#__wm_prompt} __wm_prompt)
{ printf '%s\n' "$__wm_line" > "${XDG_STATE_HOME:-${HOME-}/.local/state}/wealdmist/shells/$$" } 2>/dev/null
true
