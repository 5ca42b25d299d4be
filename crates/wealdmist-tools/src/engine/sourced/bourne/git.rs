//! Finding the repository and asking git, as `repository` allows, in the words of shells of the Bourne family.

use wealdmist_core::prompt::{Item, Kind};
use wealdmist_core::quote::{Code, Quoting, quote};

use super::Bourne;
use crate::sourced::painted::Painted;
use crate::sourced::repository;

/// A text for each kind that is counted, with its name in it.
pub(super) fn each(counted: &[Item], text: &'static str) -> Code {
    let all = counted
        .iter()
        .map(|item| Code::of(text, &[&Code::fixed(item.variable())]));
    Code::join(all.collect::<Vec<_>>().iter(), "")
}

/// The function that asks git, with what `repository` says in this shell's words.
pub(super) fn asking(shell: &Bourne, painted: &Painted<'_>) -> Code {
    let word = |text: &str| quote(text, &[Quoting::Double]).unwrap_or_default();
    let refused: Vec<Code> = repository::REFUSED
        .iter()
        .map(|text| Code::of("*\"{}\"*", &[&word(text)]))
        .collect();
    let environment: Vec<Code> = repository::ENVIRONMENT
        .iter()
        .map(|(name, value)| Code::of("{}=\"{}\"", &[&Code::fixed(name), &word(value)]))
        .collect();
    let counted = painted.counted();
    let marks =
        |own: Vec<(&'static str, Code)>| [repository::asked(&counted).to_vec(), own].concat();
    let environment = ("@ENVIRONMENT@", Code::join(&environment, " "));
    let lines = match counted.as_slice() {
        [] => Code::fixed("      '#'*) ;;\n      ?*) __wm_dirty=1; break ;;\n"),
        all => {
            let of_lines = all.iter().any(|item| item.is_of_lines());
            let lines = Code::fixed(if of_lines { COUNTED_LINES } else { "" });
            Code::filled(COUNTED, &[("@LINES@", lines)])
        }
    };
    let asking = marks(vec![
        environment,
        ("@LINES@", lines),
        ("@NAMES@", each(&counted, " __wm_{}")),
        ("@SAYS@", each(&counted, " \"$__wm_{}\"")),
    ]);
    let (asks, asked) = match painted.asks_changes() {
        true => {
            let mut asks = Code::filled(QUERY, &asking);
            asks.push(&Code::filled(HEARS, &asking));
            asks.push(&Code::filled(shell.at_once, &asking));
            let beside = ("@BESIDE@", Code::filled(shell.beside, &asking));
            let known = ("@KNOWN@", each(&counted, " $__wm_{}"));
            let names = ("@NAMES@", each(&counted, " __wm_{}"));
            asks.push(&Code::filled(LATER, &[beside, known, names]));
            let known = ("@KNOWN@", each(&counted, " $__wm_{}"));
            let reads = ("@READS@", Code::fixed(shell.reads));
            (asks, Code::filled(ASKED, &[known, reads]))
        }
        false => (Code::default(), Code::default()),
    };
    let operation = match painted.design.has(Kind::Operation) {
        true => Code::filled(OPERATION, &[("@READS@", Code::fixed(shell.reads))]),
        false => Code::default(),
    };
    let parts = marks(vec![
        ("@REFUSED@", Code::join(&refused, " | ")),
        ("@ASKED@", asked),
        ("@OPERATION@", operation),
        ("@READS@", Code::fixed(shell.reads)),
    ]);
    let mut out = Code::filled(
        TAG,
        &[
            ("@READS@", Code::fixed(shell.reads)),
            ("@ALL@", Code::fixed(shell.all)),
        ],
    );
    out.push(&Code::filled(shell.harmless, &parts));
    out.push(&asks);
    out.push(&Code::filled(GIT, &parts));
    out
}

/// Where no branch is checked out: the tag that was, as the log says and where there is such a one.
const TAG: &str = r#"__wm_lines() {
  all=()
  [[ ! -f $1 || ! -r $1 ]] || @ALL@
}
__wm_tag() {
  local all line='' to common=$git
  __wm_lines "$git/logs/HEAD"
  for line in ${all[@]+"${all[@]}"}; do :; done
  [[ $line == [0-9a-f]*" $1 "*$'\tcheckout: moving from '*' to '?* ]] || return 0
  to=${line##* to }
  if [[ -f $git/commondir ]]; then
    @READS@ common < "$git/commondir"
    [[ $common == /* ]] || common=$git/$common
  fi
  if [[ -f $common/refs/tags/$to ]]; then
    name=$to
    return
  fi
  __wm_lines "$common/packed-refs"
  for line in ${all[@]+"${all[@]}"}; do
    [[ $line != *" refs/tags/$to" ]] || name=$to
  done
}
"#;

/// Looks for the repository, and asks git once, only as `repository` allows.
const GIT: &str = r#"__wm_git() {
  local dir=$PWD git common line='' name='' below=0
  while [[ ! -e $dir/.git ]]; do
    [[ -z $dir || $dir == "${dir%/*}" ]] && return
    dir=${dir%/*} below=$((below + 1))
  done
  git=$dir/.git
  if [[ -f $git ]]; then
    @READS@ line < "$git"
    [[ $line == 'gitdir: '?* ]] || return
    git=${line#'gitdir: '}
    [[ $git == /* ]] || git=$dir/$git
  fi
  [[ -d $git && -f $git/HEAD && -r $git/HEAD ]] || return
  @READS@ line < "$git/HEAD"
  case $line in
    'ref: refs/heads/'?*) name=${line#'ref: refs/heads/'} ;;
    'ref: '?*) name=${line#'ref: '} ;;
    *[!0-9a-f]* | '') return ;;
    *) name=${line:0:8} && __wm_tag "$line" ;;
  esac
  __wm_below=$below
@OPERATION@@ASKED@  __wm_clean "$name"
  __wm_branch=$__wm_text
}
"#;

/// Asks git for changes.
const ASKED: &str = r#"  common=$git
  if [[ -e $git/commondir || -L $git/commondir ]]; then
    line=''
    [[ -f $git/commondir ]] && @READS@ line < "$git/commondir"
    common=$line
    [[ $common == /* ]] || common=$git/$common
  fi
  __wm_dirty=u __wm_stale=''
  if [[ -O $dir && -O $git && -O $common ]] && __wm_harmless "$common/config" && __wm_harmless "$git/config.worktree"; then
    [[ ${__wm_known_of-} == "$dir" ]] || __wm_known_of=$dir __wm_known='' __wm_slow=''
    if [[ -z $__wm_slow ]]; then __wm_at_once; fi
    if [[ $__wm_dirty != u ]]; then
      __wm_known="${__wm_dirty:-0}@KNOWN@"
    else
      __wm_slow=1
      __wm_later
    fi
    [[ $name != .invalid ]] || name=${__wm_head-}
  fi
"#;

/// Git's one call, by what is named before it, in a shell of its own.
const QUERY: &str = r#"__wm_asks() {
  export GIT_DIR="$git" GIT_WORK_TREE="$dir" @ENVIRONMENT@
  unset GIT_INDEX_FILE GIT_OBJECT_DIRECTORY GIT_ALTERNATE_OBJECT_DIRECTORIES GIT_COMMON_DIR GIT_NAMESPACE GIT_EXTERNAL_DIFF
  exec "$@" @ASKS@ 2>/dev/null </dev/null
}
"#;

/// Reads what git says, from where it says it and for how long.
const HEARS: &str = r#"__wm_hears() {
  local line rest asked=$SECONDS
  while IFS= read -r -t "$1" line; do
    ((SECONDS - asked <= 1)) || break
    case $line in
      # Where branches are kept in another way, the file that names them holds a name that is none.
      '# branch.head '*) __wm_head=${line#'# branch.head '} __wm_dirty='' ;;
@LINES@    esac
  done
}
"#;

/// Asks beside the prompt, and tells what was said last.
const LATER: &str = r#"# Where git takes long it is asked beside the prompt, which tells what it said last.
__wm_later() {
  local kept=${XDG_STATE_HOME:-${HOME-}/.local/state}/wealdmist/shells/$$.git known=$__wm_known
  if [[ -s $kept ]]; then
    if [[ ${__wm_later_of-} == "$dir" ]]; then
      __wm_hears 1 < "$kept"
      __wm_known="${__wm_dirty:-0}@KNOWN@"
    fi
    # It may have been slow but once.
    : >| "$kept"
    __wm_slow=''
  elif [[ -n $known ]]; then
    IFS=' ' read -r __wm_dirty@NAMES@ <<< "$known"
    [[ $__wm_dirty != 0 ]] || __wm_dirty=''
  fi
  # What has just been answered, or not, is not asked again.
  [[ -z ${__wm_taken-} || ${__wm_later_of-} != "$dir" ]] || return 0
  [[ $__wm_dirty == u ]] || __wm_stale=1
  [[ ! -e $kept.new ]] || return 0
  __wm_later_of=$dir
@BESIDE@}
"#;

/// Counts changes by their kind.
const COUNTED: &str = r#"      '# branch.ab '*) rest=${line#'# branch.ab +'}; __wm_ahead=${rest%% *} __wm_behind=${rest##*-} ;;
      '# stash '*) __wm_stash=${line#'# stash '} ;;
@LINES@      '? '*) __wm_untracked=$((__wm_untracked + 1)) ;;
      'u '*) __wm_conflicts=$((__wm_conflicts + 1)) ;;
      [12]' '*)
        [[ ${line:2:1} == . ]] || __wm_staged=$((__wm_staged + 1))
        [[ ${line:3:1} == . ]] || __wm_unstaged=$((__wm_unstaged + 1)) ;;
"#;

/// Counts the lines added and removed.
const COUNTED_LINES: &str = r#"      ' '*changed*)
        [[ $line != *insertion* ]] || { rest=${line%% insertion*}; __wm_added=${rest##* }; }
        [[ $line != *deletion* ]] || { rest=${line%% deletion*}; __wm_removed=${rest##* }; } ;;
"#;

/// What git is in the middle of.
const OPERATION: &str = r#"  local rest=''
  if [[ -d $git/rebase-merge ]]; then __wm_doing=rebase rest=rebase-merge/msgnum line=rebase-merge/end
  elif [[ -e $git/rebase-apply/rebasing ]]; then __wm_doing=rebase rest=rebase-apply/next line=rebase-apply/last
  elif [[ -d $git/rebase-apply ]]; then __wm_doing=am rest=rebase-apply/next line=rebase-apply/last
  elif [[ -e $git/MERGE_HEAD ]]; then __wm_doing=merge
  elif [[ -e $git/CHERRY_PICK_HEAD ]]; then __wm_doing=pick
  elif [[ -e $git/REVERT_HEAD ]]; then __wm_doing=revert
  elif [[ -e $git/BISECT_LOG ]]; then __wm_doing=bisect
  fi
  if [[ -n $rest && -f $git/$rest && -f $git/$line ]]; then
    @READS@ rest < "$git/$rest"
    @READS@ line < "$git/$line"
    [[ $rest$line == *[!0-9]* || -z $rest || -z $line ]] || __wm_steps=" $rest/$line"
  fi
"#;
