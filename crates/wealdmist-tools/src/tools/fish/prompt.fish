# Drawn by fish itself and git; `wealdmist apply` writes this file anew.
status is-interactive; or exit 0
set -g __wm_file @FILE@
read -g __wm_line <$__wm_file; or exit 0
# The colors of the roles, by how many colors the terminal has.
set -g __wm_colors 1
set -g __wm_ground
set -g __wm_edge
if test -n "$NO_COLOR" -o "$TERM" = dumb
@NONE@else if contains -- "$COLORTERM" truecolor 24bit
@DEEP@else if string match -qr '^(linux|ansi|vt[0-9].*|.*-16color)$' -- "$TERM"
@FEW@else
@FLAT@end
# Which parts stand on which ground.
if test -n "$__wm_colors"
    set -g __wm_block @BLOCKS@
else
    set -g __wm_block @NOBLOCKS@
end
# What joins them.
@SHAPES@set -g __wm_remote "$SSH_CONNECTION$SSH_TTY"
set -g __wm_root ''
test (id -u) = 0; and set -g __wm_root 1
set -g __wm_matters "$__wm_remote$__wm_root"
# What a terminal would act on becomes a question mark.
function __wm_clean
    set -g __wm_text (string replace -ra '[\x01-\x1f\x7f-\x{9f}\x{61c}\x{200e}\x{200f}\x{2028}-\x{202e}\x{2066}-\x{2069}]' '?' -- "$argv[1]")
end
# The first so many characters of a text; 0 keeps all.
function __wm_cut
    set -g __wm_text "$argv[1]"
    test $argv[2] = 0; and return
    set -l short (string sub -l $argv[2] -- "$argv[1]")
    test "$short" = "$argv[1]"; or set -g __wm_text $short@ELIDED@
end
__wm_clean "$USER"
set -g __wm_name $__wm_text
__wm_clean (string replace -r '\..*' '' -- "$hostname")
set -g __wm_machine $__wm_text
# The folder: its last parts, or those below a repository, and its last alone.
function __wm_folder
    __wm_clean "$PWD"
    set -l shown $__wm_text
    __wm_clean "$HOME"
    if test -n "$HOME" -a "$shown" = "$__wm_text"
        set shown '~'
    else if test -n "$HOME" -a (string sub -l (math (string length -- "$__wm_text") + 1) -- "$shown") = "$__wm_text/"
        set shown "~"(string sub -s (math (string length -- "$__wm_text") + 1) -- "$shown")
    end
    set -l parts (string split -n / -- "$shown")
    set -g __wm_dir_last $parts[-1]
    test -n "$__wm_dir_last"; or set -g __wm_dir_last $shown
    set -l keep $argv[1]
    if test -n "$argv[2]"
        set parts $parts[(math (count $parts) - $argv[2])..-1]
        set shown (string join / -- $parts)
    end
    if test $keep -gt 0 -a (count $parts) -gt $keep
        set shown @ELIDED@/(string join / -- $parts[(math (count $parts) - $keep + 1)..-1])
    end
    set -g __wm_dir $shown
end
@FACTS@# Adds a text in a color.
function __wm_add
    set -g __wm_plain "$__wm_plain$argv[2]"
    if test -z "$__wm_colors"
        set -g __wm_out "$__wm_out$argv[2]"
    else if test -n "$argv[1]"
        set -g __wm_out "$__wm_out"\e"[0;$argv[1]m$argv[2]"
    else
        set -g __wm_out "$__wm_out"\e"[0m$argv[2]"
    end
end
# A row of parts with what joins them; the first word tells whether it begins at the left edge.
function __wm_run
    set -g __wm_out ''
    set -g __wm_plain ''
    set -l before ''
    set -l was 0
    for i in $argv[2..]
        set -l text "$__wm_shown[$i]"
        test -n "$text"; or continue
        set -l on $__wm_block[$i]
        if test $was = 0 -a $on = 0
            test -z "$before"; or __wm_add $__wm_c_between $__wm_gap
        else if test $was = 0
            test -z "$before"; or __wm_add '' ' '
            test -z "$__wm_open"; or __wm_add $__wm_edge[$on] $__wm_open
        else if test $on = 0
            test -z "$__wm_close"; or __wm_add $__wm_edge[$was] $__wm_close
            __wm_add '' ' '
        else if test "$__wm_joint_right" = ' '
            __wm_add '' ' '
        else if test $was = $on
            if test $argv[1] = right
                __wm_add "$__wm_ink[$i];$__wm_ground[$on]" $__wm_thin_right
            else
                __wm_add "$__wm_ink[$i];$__wm_ground[$on]" $__wm_thin_left
            end
        else if test $argv[1] = right
            test -z "$__wm_joint_right"; or __wm_add "$__wm_edge[$was];$__wm_ground[$on]" $__wm_joint_right
        else
            test -z "$__wm_joint_left"; or __wm_add "$__wm_edge[$on];$__wm_ground[$was]" $__wm_joint_left
        end
        if test $on = 0
            __wm_add "$__wm_ink[$i]" "$text"
        else
            __wm_add "$__wm_ink[$i];$__wm_ground[$on]" " $text "
        end
        set before $i
        set was $on
    end
    test $was = 0 -o -z "$__wm_close"; or __wm_add $__wm_edge[$was] $__wm_close
    set -g __wm_count (string length -V -- "$__wm_plain")
end
function __wm_fits
    __wm_run right $__wm_left
    set -g __wm_lo $__wm_out
    set -g __wm_ln $__wm_count
    __wm_run left $__wm_right
    set -g __wm_ro $__wm_out
    set -g __wm_rn $__wm_count
    set -g __wm_out $__wm_lo
    if test $__wm_ln -gt 0 -a $__wm_rn -gt 0
        test (math $__wm_ln + $__wm_rn + 1) -le $__wm_room
    else
        test (math $__wm_ln + $__wm_rn) -le $__wm_room
    end
end
# Lays out a line; the word tells which part stays where one types.
function __wm_lay
    for i in $__wm_left $__wm_right
        set -g __wm_shown[$i] "$__wm_full[$i]"
    end
    __wm_fits; and return
    for i in $__wm_left $__wm_right
        set -g __wm_shown[$i] "$__wm_short[$i]"
    end
    for i in $__wm_order
        __wm_fits; and return
        set -g __wm_shown[$i] ''
    end
    __wm_fits; and return
    for i in $__wm_left $__wm_right
        test -z "$__wm_last[$i]"; or set -g __wm_shown[$i] "$__wm_last[$i]"
    end
    __wm_fits; and return
    for i in $__wm_right
        set -g __wm_shown[$i] ''
    end
    __wm_fits; and return
    for i in $__wm_left
        test "$i" = "$argv[1]"; or set -g __wm_shown[$i] ''
    end
    __wm_fits
end
# A line whose right part stands at the edge.
function __wm_stretched
    test (math $__wm_ln + $__wm_rn) -gt 0; or return
    set -g __wm_out $__wm_lo
    if test $__wm_rn -gt 0
        set -l room (math $argv[1] - $__wm_ln - $__wm_rn)
        if test "$__wm_stretch" = ' ' -o $room -lt 3
            __wm_add '' (string repeat -n $room ' ')
        else
            __wm_add '' ' '
            __wm_add $__wm_c_between (string repeat -n (math $room - 2) -- $__wm_stretch)
            __wm_add '' ' '
        end
        set -g __wm_out "$__wm_out$__wm_ro"
    end
    # A ground ends with its line.
    __wm_add '' ''
    set -g __wm_rows $__wm_rows "$__wm_out"
end
function __wm_draw
    set -l columns $COLUMNS
    test -n "$columns"; or set columns 80
    for name in full short last shown ink rows
        set -g __wm_$name
    end
    for name in branch dirty below doing steps
        set -g __wm_$name ''
    end
    for name in conflicts staged unstaged untracked stash ahead behind
        set -g __wm_$name 0
    end
    set -g __wm_right_side ''
@BEFORE@@DRAWN@end
function fish_prompt
    set -g __wm_statuses $pipestatus
    set -g __wm_status $__wm_statuses[-1]
    read -l new <$__wm_file 2>/dev/null
    if test -n "$new" -a "$new" != "$__wm_line"
        source $__wm_file
    end
@SHORT@    __wm_draw
    test -z "$__wm_colors"; or printf '\e[0m'
    printf '%s' (string join \n -- $__wm_rows | string collect)
    test -z "$__wm_colors"; or printf '\e[0m'
    printf ' '
end
function fish_right_prompt
    test -n "$__wm_right_side"; or return
    printf '%s' "$__wm_right_side"
    test -z "$__wm_colors"; or printf '\e[0m'
    printf ' '
end
function fish_mode_prompt
end
@STARTS@mkdir -p (string replace -r '^$' "$HOME/.local/state" -- "$XDG_STATE_HOME")/wealdmist/shells 2>/dev/null
begin
    printf '%s\n' $__wm_line >(string replace -r '^$' "$HOME/.local/state" -- "$XDG_STATE_HOME")/wealdmist/shells/$fish_pid
end 2>/dev/null
true
