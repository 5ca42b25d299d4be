@BEGIN@# The folder: its last parts, or those below a repository, and its last alone.
__wm_dir_of=''
__wm_folder() {
  local shown=$PWD rest part keep=$1 below=$2 i
  # It is worked out once for each folder.
  [[ $PWD:${HOME-}:$* != "$__wm_dir_of" ]] || return 0
  __wm_dir_of=$PWD:${HOME-}:$*
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
    if [[ $rest == ?*/* || ( $rest == ?* && $i -ge $keep ) ]]; then
      shown=@ELIDED@$part
@BEGINS@    fi
  fi
  __wm_dir=$shown
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
      __wm_add "${__wm_ink[i]};${__wm_ground[on]}" " @PART@ "
      __wm_wide=$((__wm_wide + 2))
    else
      __wm_add "${__wm_ink[i]}" "@PART@"
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
    __wm_add "$__wm_c_between" "@GAP@"
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
      fill=${fill// /$__wm_stretch}
      __wm_add '' ' '
      @FILL@
      __wm_add '' ' '
    fi
    __wm_out+=$ro
  fi
  # A ground ends with its line.
  __wm_add '' ''
  rows+=("$__wm_out")
}
