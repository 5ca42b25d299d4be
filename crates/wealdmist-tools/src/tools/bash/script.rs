//! What bash has of its own in the script that draws the prompt.

use super::BASH;
use crate::sourced::bourne::Bourne;

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
    reads: "IFS= read -r -n 4096",
    opens: "",
    from: "",
    ends: r#"    done < <(
@QUERY@    )
    # What was not read to its end is not waited for.
    [[ -z $__wm_dirty ]] || { kill "$!"; } 2>/dev/null
"#,
    harmless: HARMLESS,
    version: VERSION,
    starts: STARTS,
    ties: TIES,
    joins: "  printf -v PS1 '%s\\\\n' \"${rows[@]}\"\n  PS1=${PS1%'\\n'}\n",
    goes_on: GOES_ON,
    blank: "  PS1=\"\\\\n$PS1\"\n",
    past: ["", ""],
    mode: None,
    keys: "",
};

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
