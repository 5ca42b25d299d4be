//! What zsh has of its own in the script that draws the prompt.

use super::ZSH;
use crate::sourced::bourne::{Bourne, Mode};

/// Texts from outside (folder, branch, host) and signs only ever reach the prompt through `psvar`, whose
/// values are shown and never expanded, whatever options are set; control characters and marks of direction
/// in them become `?`. Colors stand between `%{` and `%}`, which keeps line editing right.
pub const SHELL: Bourne = Bourne {
    id: ZSH.id,
    first: 1,
    template: include_str!("prompt.zsh"),
    puts: [
        "%${i}v",
        "${__wm_gap//\\%/%%}",
        "__wm_add \"$__wm_c_between\" \"${fill//\\%/%%}\"",
    ],
    jobs: "local jobs=${#jobstates}",
    supplies: "/sys/class/power_supply/*/capacity(N)",
    times: [
        "local time=${(%):-%D{%H:%M}}",
        "local time=${(%):-%D{%H:%M:%S}}",
        "local half=pm time=${(%):-%D{%H :%M}}",
        "local half=pm time=${(%):-%D{%H :%M:%S}}",
        "local date=${(%):-%D{%Y-%m-%d}}",
    ],
    like: "all=(\"$real/${name:0:$n}\"*(N-/))",
    all: "all=(\"${(@f)$(<$1)}\")",
    reads: "IFS= read -r",
    numbers: "typeset -gi",
    at_once: AT_ONCE,
    beside: BESIDE,
    harmless: HARMLESS,
    version: VERSION,
    starts: STARTS,
    ties: TIES,
    joins: "  PROMPT=${(F)rows}\n",
    goes_on: GOES_ON,
    blank: "  PROMPT=$'\\n'$PROMPT\n",
    past: [PAST_LINE, PAST_SIGN],
    enters: "",
    mode: Mode {
        asks: "",
        follows: KEYS,
        lays: "",
    },
};

/// Asks git. What stands behind a loop would be waited for.
const AT_ONCE: &str = r#"__wm_at_once() {
  local fd child
  exec {fd}< <(__wm_asks)
  child=${sysparams[procsubstpid]-}
  __wm_hears @BUDGET@ <&$fd
  exec {fd}<&-
  # What was not read to its end is not waited for.
  [[ -z $__wm_dirty ]] || { kill "$child" } 2>/dev/null
}
"#;

/// Asks git beside the prompt, which is drawn again once it has said something.
const BESIDE: &str = r#"  exec {__wm_fd}< <(__wm_asks sh -c '@LATER@' sh "$kept")
  zle -F $__wm_fd __wm_answered
}
__wm_answered() {
  emulate -L zsh
  setopt sh_word_split
  local fd=$1 __wm_taken=1
  zle -F $fd
  exec {fd}<&-
  __wm_draw
  zle reset-prompt
"#;

/// Whether a repository's configuration says nothing of what is refused.
const HARMLESS: &str = r#"__wm_harmless() {
  emulate -L zsh
  setopt no_multibyte
  local text=''
  [[ -e $1 || -L $1 ]] || return 0
  [[ -f $1 && -r $1 ]] || return 1
  sysread -s @CONFIGURATION@ text < "$1" 2>/dev/null
  # What fills all of it may go on.
  ((? <= 5 && ${#text} < @CONFIGURATION@)) || return 1
  case ${(L)text} in @REFUSED@) return 1 ;; esac
  return 0
}
"#;

const TIES: &str = r#"  if (($#rows > 1)); then
    for ((i = 1; i <= $#rows; i++)); do
      tie='{}'
      ((i == 1)) || tie='{}'
      ((i < $#rows)) || tie='{}'
      __wm_out=''
      __wm_add "$__wm_c_between" "$tie"
      rows[i]=$__wm_out${rows[i]}
    done
  fi
"#;

/// What further lines of a command begin with, and what asks for a choice and about spelling.
const GOES_ON: &str = r#"  local more=@MORE@ reset="%{"$'\e'"[0m%}"
  [[ -n $__wm_colors ]] || reset=''
  __wm_out=''
  __wm_add "$__wm_c_between" "${more//\%/%%}"
  PROMPT2="$__wm_out$reset "
  __wm_out=''
  __wm_add "$__wm_c_between" '?#'
  PROMPT3="$__wm_out$reset "
  __wm_out=''
  __wm_add "$__wm_c_between" "zsh: '%R' or '%r'? [nyae]"
  SPROMPT="$__wm_out$reset "
"#;

/// A program's version, kept until the program is another one; asked for in the background.
const VERSION: &str = r#"typeset -gA __wm_asked
__wm_version() {
  local program=${commands[$1]-} kept=${XDG_CACHE_HOME:-${HOME-}/.cache}/wealdmist/versions/$1 line=''
  typeset -g __wm_text=''
  [[ -n $program ]] || return
  if [[ -f $kept ]]; then
    IFS= read -r line < "$kept"
    __wm_clean "${line[1,64]}"
    line=$__wm_text
  fi
  # A program that has not answered yet is not asked again at once.
  local asked=${__wm_asked[$1]-}
  if [[ ! -f $kept || $program -nt $kept ]] && [[ -z $asked || $((SECONDS - asked)) -ge 5 ]]; then
    __wm_asked[$1]=$SECONDS
    (
      mkdir -p "${kept:h}"
      out=$("$program" "${@:2}" 2>&1 < /dev/null)
      [[ $out =~ '[0-9]+(\.[0-9]+)+' ]] || exit
      printf '%s\n' "$MATCH" >| "$kept.$$" && mv -f "$kept.$$" "$kept"
    ) > /dev/null 2>&1 &!
  fi
  __wm_text=$line
}
"#;

/// Notes when a command begins.
const STARTS: &str = r#"__wm_now() { typeset -g __wm_time=$((EPOCHREALTIME * 1000000)); __wm_time=${__wm_time%.*}; }
__wm_begin() { __wm_now; typeset -g __wm_begun=$__wm_time; }
typeset -ga preexec_functions
preexec_functions=(${preexec_functions:#__wm_begin} __wm_begin)
"#;

/// Keeps the line where one types.
const PAST_LINE: &str = r"# A prompt whose command was entered keeps its last line.
__wm_end() {
  emulate -L zsh
  local whole=$PROMPT right=$RPROMPT
  PROMPT=${PROMPT##*$'\n'} RPROMPT=''
  zle reset-prompt
  zle -R
  PROMPT=$whole RPROMPT=$right
}
zle -N zle-line-finish __wm_end
# The part {} is where one types.
";

/// Keeps the sign alone.
const PAST_SIGN: &str = r"# A prompt whose command was entered keeps its sign.
__wm_end() {
  emulate -L zsh
  local whole=$PROMPT right=$RPROMPT __wm_out='' __wm_count=0
  __wm_run {} 1
  __wm_add '' ' '
  PROMPT=$__wm_out RPROMPT=''
  zle reset-prompt
  zle -R
  PROMPT=$whole RPROMPT=$right
}
zle -N zle-line-finish __wm_end
";

/// Follows the mode of the line editor.
const KEYS: &str = r#"# The mode of the line editor, where it has some.
__wm_keys_first() {
  typeset -g __wm_mode=''
  [[ $(bindkey -lL main) != *viins* ]] || __wm_mode=ins
}
__wm_keys() {
  emulate -L zsh
  setopt sh_word_split
  [[ -n $__wm_mode ]] || return 0
  __wm_mode=ins
  [[ $KEYMAP != vicmd ]] || __wm_mode=cmd
  __wm_draw
  zle reset-prompt
}
zle -N zle-keymap-select __wm_keys
"#;
