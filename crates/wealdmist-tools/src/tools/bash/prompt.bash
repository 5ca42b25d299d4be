# Drawn by bash itself and git; `wealdmist apply` writes this file anew.
# shellcheck shell=bash
# The colors of the roles, by how many colors the terminal has.
# shellcheck disable=SC2034,SC2154
[[ $- == *i* ]] || return 0
__wm_file=@FILE@
IFS= read -r __wm_line < "$__wm_file" || return 0
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
# The folder: its last parts, or those below a repository, and its last alone.
__wm_folder() {
  local shown=$PWD rest part keep=$1 below=$2 i
  if [[ -z ${HOME-} ]]; then :
  elif [[ $shown == "$HOME" ]]; then shown='~'
  elif [[ $shown == "$HOME"/* ]]; then shown="~${shown#"$HOME"}"; fi
  __wm_clean "$shown"
  shown=$__wm_text
  __wm_dir_last=${shown##*/}
  [[ -n $__wm_dir_last ]] || __wm_dir_last=$shown
  if [[ -n $below ]]; then
    rest=$shown part=''
    for ((i = 0; i <= below; i++)); do
      part=${rest##*/}${part:+/}$part
      [[ $rest == */* ]] || break
      rest=${rest%/*}
    done
    shown=$part
  fi
  if ((keep > 0)); then
    rest=$shown part=''
    for ((i = 0; i < keep; i++)); do
      [[ $rest == */* ]] || break
      part=/${rest##*/}$part rest=${rest%/*}
    done
    [[ $rest == ?*/* || ($rest == ?* && $i -ge keep) ]] && shown=@ELIDED@$part
  fi
  __wm_dir=$shown
}
@FACTS@@STARTS@# Adds a text in a color; what is added at the right edge takes no room for the shell.
__wm_add() {
  if [[ -z $__wm_colors ]]; then __wm_out+=$2
  elif [[ -n ${__wm_edge_only-} ]]; then __wm_out+="\\e[0${1:+;$1}m$2"
  else __wm_out+="\\[\\e[0${1:+;$1}m\\]$2"; fi
}
# A row of parts with what joins them; the second word tells whether it begins at the left edge.
__wm_run() {
  local i before='' on='' was=''
  __wm_out='' __wm_count=0
  for i in $1; do
    [[ -n ${__wm_shown[i]-} ]] || continue
    on=${__wm_block[i]-}
    if [[ -n $before || -n $on ]]; then __wm_join "$2"; fi
    __wm_cells "${__wm_shown[i]}"
    if [[ -n $on ]]; then
      __wm_add "${__wm_ink[i]};${__wm_ground[on]}" " \${__wm_shown[$i]} "
      __wm_wide=$((__wm_wide + 2))
    else
      __wm_add "${__wm_ink[i]}" "\${__wm_shown[$i]}"
    fi
    __wm_count=$((__wm_count + __wm_wide)) before=$i was=$on
  done
  if [[ -n $was ]]; then
    __wm_add "${__wm_edge[was]}" "$__wm_close"
    __wm_count=$((__wm_count + __wm_close_wide))
  fi
}
# What stands between two parts, or before the first.
__wm_join() {
  local wide=1
  if [[ -n $before && -z $was && -z $on ]]; then
    __wm_add "$__wm_c_between" "\${__wm_gap}"
    wide=$__wm_gap_wide
  elif [[ -z $was ]]; then
    wide=$__wm_open_wide
    if [[ -n $before ]]; then __wm_add '' ' '; wide=$((wide + 1)); fi
    __wm_add "${__wm_edge[on]}" "$__wm_open"
  elif [[ -z $on ]]; then
    __wm_add "${__wm_edge[was]}" "$__wm_close"
    __wm_add '' ' '
    wide=$((__wm_close_wide + 1))
  elif [[ $__wm_right == ' ' ]]; then
    __wm_add '' ' '
  elif [[ $was == "$on" ]]; then
    wide=$__wm_thin_wide
    if [[ -n $1 ]]; then __wm_add "${__wm_ink[i]};${__wm_ground[on]}" "$__wm_thin"
    else __wm_add "${__wm_ink[i]};${__wm_ground[on]}" "$__wm_thinner"; fi
  elif [[ -n $1 ]]; then
    __wm_add "${__wm_edge[was]};${__wm_ground[on]}" "$__wm_right"
    wide=$__wm_right_wide
  else
    __wm_add "${__wm_edge[on]};${__wm_ground[was]}" "$__wm_left"
    wide=$__wm_left_wide
  fi
  __wm_count=$((__wm_count + wide))
}
__wm_fits() {
  __wm_run "$2" 1
  lo=$__wm_out ln=$__wm_count
  local __wm_edge_only=$4
  __wm_run "$3" ''
  ro=$__wm_out rn=$__wm_count __wm_out=$lo
  ((ln + rn + (ln > 0 && rn > 0) <= $1))
}
# Lays out a line: its room, what is on the left and on the right, the order in which parts give way.
__wm_line() {
  local i
  for i in $2 $3; do __wm_shown[i]=${full[i]-}; done
  __wm_fits "$1" "$2" "$3" "$5" && return
  for i in $2 $3; do __wm_shown[i]=${short[i]-}; done
  for i in $4; do
    __wm_fits "$1" "$2" "$3" "$5" && return
    __wm_shown[i]=''
  done
  __wm_fits "$1" "$2" "$3" "$5" && return
  for i in $2 $3; do [[ -z ${last[i]-} ]] || __wm_shown[i]=${last[i]}; done
  __wm_fits "$1" "$2" "$3" "$5" && return
  for i in $3; do __wm_shown[i]=''; done
  __wm_fits "$1" "$2" "$3" "$5" && return
  # Where one types stays.
  for i in $2; do [[ -n $5 && $i == "${2##* }" ]] || __wm_shown[i]=''; done
  __wm_fits "$1" "$2" "$3" "$5"
}
# A line whose right part stands at the edge.
__wm_stretched() {
  local fill room=$(($1 - ln - rn))
  __wm_out=$lo
  if ((rn)); then
    if [[ $__wm_stretch == ' ' ]] || ((room < 3)); then
      printf -v fill '%*s' "$room" ''
      __wm_add '' "$fill"
    else
      printf -v fill '%*s' "$((room - 2))" ''
      __wm_fill+=("${fill// /$__wm_stretch}")
      __wm_add '' ' '
      __wm_add "$__wm_c_between" "\${__wm_fill[$((${#__wm_fill[@]} - 1))]}"
      __wm_add '' ' '
    fi
    __wm_out+=$ro
  fi
  # A ground ends with its line.
  __wm_add '' ''
  rows+=("$__wm_out")
}
# The right part of the line where one types is put at the edge, and the cursor comes back.
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
__wm_draw() {
  local full=() short=() last=() rows=() columns=${COLUMNS:-80} lo ro ln rn i tie
  local __wm_edge_only=''
  __wm_branch='' __wm_dirty='' __wm_below='' __wm_doing='' __wm_steps='' __wm_fill=() __wm_shown=()
  __wm_conflicts=0 __wm_staged=0 __wm_unstaged=0 __wm_untracked=0 __wm_stash=0 __wm_ahead=0 __wm_behind=0
@BEFORE@@DRAWN@@PAST@  [[ -z $__wm_colors ]] || PS1="\\[\\e[0m\\]$PS1"
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
