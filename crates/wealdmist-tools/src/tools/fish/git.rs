//! Finding the repository and asking git, as `repository` allows.

use wealdmist_core::prompt::Kind;
use wealdmist_core::quote::{Code, Quoting, quote};

use crate::sourced::painted::Painted;
use crate::sourced::repository;

/// The function that asks git, with what `repository` says in this shell's words.
pub(super) fn asking(painted: &Painted<'_>) -> Code {
    let refused: Vec<Code> = repository::REFUSED
        .iter()
        .map(|text| match text.strip_prefix('[') {
            Some(rest) => Code::of(
                "\\[{}",
                &[&quote(rest, &[Quoting::Inert]).unwrap_or_default()],
            ),
            None => quote(text, &[Quoting::Inert]).unwrap_or_default(),
        })
        .collect();
    let environment: Vec<Code> = repository::ENVIRONMENT
        .iter()
        .map(|(name, value)| {
            let value = quote(value, &[Quoting::Inert]).unwrap_or_default();
            Code::of("set -lx {} {}", &[&Code::fixed(name), &value])
        })
        .collect();
    let counted = painted.counted();
    let counts = !counted.is_empty();
    let marks =
        |own: Vec<(&'static str, Code)>| [repository::asked(&counted).to_vec(), own].concat();
    let (asks, asked) = match painted.asks_changes() {
        true => {
            let known = match counts {
                true => "    test \"$__wm_known\" = u; or set -g __wm_counted 1\n",
                false => "",
            };
            let mut lines = Code::fixed(if counts { COUNTED } else { DIRTY });
            if counted.iter().any(|item| item.is_of_lines()) {
                lines.push_fixed(COUNTED_LINES);
            }
            let own = vec![
                ("@ENVIRONMENT@", Code::join(&environment, "; ")),
                ("@LINES@", lines),
                ("@COUNTED@", Code::fixed(known)),
            ];
            (Code::filled(ASKS, &marks(own)), Code::fixed(ASKED))
        }
        false => (Code::default(), Code::default()),
    };
    let operation = match painted.design.has(Kind::Operation) {
        true => Code::fixed(OPERATION),
        false => Code::default(),
    };
    let mut nothing = Code::default();
    if painted.design.has(Kind::Operation) {
        nothing.push_fixed("    set -g __wm_doing ''\n    set -g __wm_steps ''\n");
    }
    if counts {
        nothing.push_fixed("    set -g __wm_counted ''\n");
    }
    let parts = marks(vec![
        ("@REFUSED@", Code::join(&refused, "|")),
        ("@ASKED@", asked),
        ("@OPERATION@", operation),
        ("@NOTHING@", nothing),
    ]);
    let mut out = asks;
    out.push(&Code::filled(GIT, &parts));
    out
}

/// Looks for the repository, and asks git once, only as `repository` allows.
const GIT: &str = r#"# Where no branch is checked out: the tag that was, as the log says and where there is such a one.
function __wm_tag
    test -f $argv[1]/logs/HEAD -a -r $argv[1]/logs/HEAD; or return
    read -z -l text <$argv[1]/logs/HEAD
    string match -qr '(?:^|\n)[0-9a-f]+ '$argv[2]' [^\n]*\tcheckout: moving from [^\n]* to (?<__wm_rest>[^ \n]+)\n*\z' -- "$text"
    or return
    set -g __wm_text "$__wm_rest"
    set -l common $argv[1]
    if test -f $argv[1]/commondir
        read -n 4096 common <$argv[1]/commondir
        string match -q '/*' -- "$common"; or set common $argv[1]/$common
    end
    test -f $common/refs/tags/$__wm_text; and return
    test -f $common/packed-refs -a -r $common/packed-refs; or return
    read -z text <$common/packed-refs
    string match -qr ' refs/tags/'(string escape --style=regex -- $__wm_text)'(?:\n|\z)' -- "$text"
end
function __wm_harmless
    test -e $argv[1] -o -L $argv[1]; or return 0
    test -f $argv[1] -a -r $argv[1]; or return 1
    begin
        read -z -n @CONFIGURATION@ -l text
        # What goes on behind a zero or beyond the limit is not looked through.
        read -z -n 1 -l more; and return 1
    end <$argv[1]
    not string match -qir '@REFUSED@' -- "$text"
end
function __wm_git
    set -g __wm_branch ''
    set -g __wm_dirty ''
    set -g __wm_below ''
@NOTHING@    set -l dir $PWD
    # What of the folder's parts lies below.
    set -l below '[^/]+'
    while not test -e "$dir/.git"
        string match -qr '(?s)^(?<__wm_up>.*)/' -- "$dir"; or return
        set dir "$__wm_up"
        set below "$below/[^/]+"
    end
    set -l git $dir/.git
    set -l line
    if test -f $git
        read -n 4096 line <$git
        string match -qr '^gitdir: (?<__wm_up>.+)' -- "$line"; or return
        set git "$__wm_up"
        string match -q '/*' -- "$git"; or set git $dir/$git
    end
    test -d "$git" -a -f "$git/HEAD" -a -r "$git/HEAD"; or return
    read -n 4096 line <$git/HEAD
    set -l name
    if string match -qr '^ref: (?:refs/heads/)?(?<__wm_up>.+)' -- "$line"
        set name "$__wm_up"
    else
        string match -qr '^(?=[0-9a-f]+$)(?<__wm_up>.{1,8})' -- "$line"; or return
        set name "$__wm_up"
        __wm_tag $git $line; and set name "$__wm_text"
    end
    set -g __wm_below "$below"
@OPERATION@@ASKED@    __wm_clean "$name"
    set -g __wm_branch $__wm_text
end
"#;

/// Asks git for changes.
const ASKED: &str = r#"    set -l common $git
    if test -e $git/commondir -o -L $git/commondir
        set line ''
        test -f $git/commondir; and read -n 4096 line <$git/commondir
        set common "$line"
        string match -q '/*' -- "$common"; or set common $git/$common
    end
    set -g __wm_dirty u
    set -g __wm_stale ''
    if test -O $dir -a -O $git -a -O $common; and __wm_harmless $common/config; and __wm_harmless $git/config.worktree
        if test "$__wm_known_of" != "$dir"
            set -g __wm_known_of $dir
            set -g __wm_known u
            set -g __wm_slow ''
        end
        test -n "$__wm_slow"; or __wm_hears (__wm_asks $git $dir)
        if test "$__wm_dirty" = u
            set -g __wm_slow 1
            __wm_later $git $dir
        end
        test "$name" != .invalid; or set name "$__wm_head"
    end
"#;

/// Asks git, as long as the prompt waits or beside it.
const ASKS: &str = r#"function __wm_asks
    set -lx GIT_DIR $argv[1]; set -lx GIT_WORK_TREE $argv[2]
    @ENVIRONMENT@
    set -lu GIT_INDEX_FILE; set -lu GIT_OBJECT_DIRECTORY; set -lu GIT_ALTERNATE_OBJECT_DIRECTORIES
    set -lu GIT_COMMON_DIR; set -lu GIT_NAMESPACE; set -lu GIT_EXTERNAL_DIFF
    set -l question @ASKS@
    if test -n "$argv[3]"
        # It says when it has an answer, unless the shell has become another program.
        sh -c '@LATER@; case $(cat /proc/$0/comm || ps -o comm= -p $0) in *fish) kill -USR1 $0 ;; esac' $fish_pid $argv[3] $question >/dev/null 2>&1 </dev/null &
        disown 2>/dev/null
    else
        set -l limit
        command -q timeout; and set limit timeout -k 1 @BUDGET@
        command $limit $question 2>/dev/null </dev/null
    end
end
# Reads what git says.
function __wm_hears
    string match -qr '^# branch.head (?<__wm_rest>.+)' -- $argv; or return
    # Where branches are kept in another way, the file that names them holds a name that is none.
    set -g __wm_head "$__wm_rest"
    set -g __wm_dirty ''
@LINES@    set -g __wm_known "$__wm_dirty"
end
# Where git takes long it is asked beside the prompt, which tells what it said last.
function __wm_later
    set -l kept (string replace -r '^$' "$HOME/.local/state" -- "$XDG_STATE_HOME")/wealdmist/shells/$fish_pid.git
    set -g __wm_dirty "$__wm_known"
@COUNTED@    if test -s $kept
        if test "$__wm_later_of" = "$argv[2]"
            read -z -l said <$kept
            __wm_hears (string split \n -- $said)
        end
        # It may have been slow but once.
        printf '' >$kept
        set -g __wm_slow ''
    end
    # What has just been answered, or not, is not asked again.
    test -n "$__wm_taken" -a "$__wm_later_of" = "$argv[2]"; and return 0
    test "$__wm_dirty" = u; or set -g __wm_stale 1
    test ! -e $kept.new; or return 0
    set -g __wm_later_of $argv[2]
    __wm_asks $argv $kept
end
function __wm_answered --on-signal SIGUSR1
    set -g __wm_taken 1
    commandline -f repaint
end
function __wm_asked_again --on-event fish_prompt
    set -g __wm_taken ''
end
"#;

const DIRTY: &str = "    string match -qv '#*' -- $argv; and set -g __wm_dirty 1
";

/// Counts changes by their kind.
const COUNTED: &str = r#"    set -g __wm_counted 1
    for name in conflicts staged unstaged untracked stash ahead behind
        set -g __wm_$name 0
    end
    string match -qr '^# branch.ab \+(?<__wm_up>[0-9]+) -(?<__wm_rest>[0-9]+)$' -- $argv
    and set -g __wm_ahead $__wm_up
    and set -g __wm_behind $__wm_rest
    string match -qr '^# stash (?<__wm_rest>[0-9]+)$' -- $argv; and set -g __wm_stash $__wm_rest
    for each in untracked:'^\? ' conflicts:'^u ' staged:'^[12] [^.]' unstaged:'^[12] .[^.]'
        string match -qr '(?<__wm_up>.*?):(?<__wm_rest>.*)' -- $each
        string match -qr $__wm_rest -- $argv
        and set -g __wm_$__wm_up (count (string match -r $__wm_rest -- $argv))
    end
"#;

/// Counts the lines added and removed.
const COUNTED_LINES: &str = r#"    for name in added removed
        set -g __wm_$name 0
    end
    string match -qr '^ .* (?<__wm_rest>[0-9]+) insertion' -- $argv; and set -g __wm_added $__wm_rest
    string match -qr '^ .* (?<__wm_rest>[0-9]+) deletion' -- $argv; and set -g __wm_removed $__wm_rest
"#;

/// What git is in the middle of.
const OPERATION: &str = r#"    set -l steps
    if test -d $git/rebase-merge
        set -g __wm_doing rebase
        set steps rebase-merge/msgnum rebase-merge/end
    else if test -e $git/rebase-apply/rebasing
        set -g __wm_doing rebase
        set steps rebase-apply/next rebase-apply/last
    else if test -d $git/rebase-apply
        set -g __wm_doing am
        set steps rebase-apply/next rebase-apply/last
    else if test -e $git/MERGE_HEAD
        set -g __wm_doing merge
    else if test -e $git/CHERRY_PICK_HEAD
        set -g __wm_doing pick
    else if test -e $git/REVERT_HEAD
        set -g __wm_doing revert
    else if test -e $git/BISECT_LOG
        set -g __wm_doing bisect
    end
    if test -n "$steps"; and test -f $git/$steps[1] -a -f $git/$steps[2]
        read -n 9 -l at <$git/$steps[1]
        read -n 9 -l of <$git/$steps[2]
        string match -qr '^[0-9]+/[0-9]+$' -- "$at/$of"; and set -g __wm_steps " $at/$of"
    end
"#;
