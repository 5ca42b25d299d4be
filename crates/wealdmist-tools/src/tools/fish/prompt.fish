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
# How a text is put into a color.
set -g __wm_a \e'[0;'
set -g __wm_m m
set -g __wm_zero \e'[0m'
if test -z "$__wm_colors"
    set -g __wm_a ''
    set -g __wm_m ''
    set -g __wm_zero ''
end
# Characters that take a cell each, whatever stands beside them.
set -g __wm_narrow '@NARROW@'
test "$fish_ambiguous_width" != 2; or set -g __wm_narrow ' -~'
# A substitution costs as much as twenty other commands: texts are taken apart by groups with names.
# What a terminal would act on becomes a question mark.
set -g __wm_acts '[\x01-\x1f\x7f-\x{9f}\x{61c}\x{200e}\x{200f}\x{2028}-\x{202e}\x{2066}-\x{2069}]'
function __wm_clean
    set -g __wm_text "$argv[1]"
    string match -qr -- $__wm_acts "$__wm_text"
    and set -g __wm_text (string replace -ra $__wm_acts '?' -- "$__wm_text")
end
# The first so many characters of a text; 0 keeps all.
function __wm_cut
    set -g __wm_text "$argv[1]"
    test $argv[2] != 0
    and string match -qr "^(?<__wm_short_text>.{$argv[2]})." -- "$__wm_text"
    and set -g __wm_text "$__wm_short_text"@ELIDED@
end
__wm_clean "$USER"
set -g __wm_name $__wm_text
__wm_clean (string replace -r '\..*' '' -- "$hostname")
set -g __wm_machine $__wm_text
# What is worked out once for a folder and a width is worked out anew.
set -g __wm_dir_of
set -g __wm_columns
@BEGIN@# The folder: its last parts, or those below a repository, and its last alone.
function __wm_folder
    test "$PWD $HOME $argv" != "$__wm_dir_of"; or return
    set -g __wm_dir_of "$PWD $HOME $argv"
    __wm_clean "$PWD"
    set -l shown "$__wm_text"
    __wm_clean "$HOME"
    test -n "$HOME"
    and string match -qr '^'(string escape --style=regex -- "$__wm_text")'(?<__wm_rest>/.*)?$' -- "$shown"
    and set shown "~$__wm_rest"
    set -g __wm_dir_last "$shown"
    string match -qr '(?<__wm_tail>[^/]+)$' -- "$shown"; and set -g __wm_dir_last "$__wm_tail"
    test -n "$argv[2]"
    and string match -qr "(?<__wm_tail>$argv[2])\$" -- "$shown"
    and set shown "$__wm_tail"
    test -n "$argv[1]"
    and string match -qr "^(?<__wm_rest>.*[^/])/(?<__wm_tail>$argv[1])\$" -- "$shown"
    and begin
        set shown @ELIDED@/"$__wm_tail"
@BEGINS@    end
    set -g __wm_dir "$shown"
end
@FACTS@# Adds a text in a color.
function __wm_add
    set -g __wm_plain "$__wm_plain$argv[2]"
    set -g __wm_out "$__wm_out$__wm_a$argv[1]$__wm_m$argv[2]"
end
# Adds a text in none.
function __wm_bare
    set -g __wm_plain "$__wm_plain$argv[1]"
    set -g __wm_out "$__wm_out$__wm_zero$argv[1]"
end
# A row of parts with what joins them; the first word tells whether it begins at the left edge.
function __wm_run
    set -g __wm_out ''
    set -g __wm_plain ''
    set -l was 0
    for i in $argv[2..]
        set -l text "$__wm_shown[$i]"
        test -n "$text"; or continue
        set -l on $__wm_block[$i]
        if test $was$on = 00
            test -z "$__wm_plain"; or __wm_add $__wm_c_between $__wm_gap
            set -g __wm_plain "$__wm_plain$text"
            set -g __wm_out "$__wm_out$__wm_a$__wm_ink[$i]$__wm_m$text"
            continue
        else if test $was = 0
            test -z "$__wm_plain"; or __wm_bare ' '
            test -z "$__wm_open"; or __wm_add $__wm_edge[$on] $__wm_open
        else if test $on = 0
            test -z "$__wm_close"; or __wm_add $__wm_edge[$was] $__wm_close
            __wm_bare ' '
        else if test "$__wm_joint_right" = ' '
            __wm_bare ' '
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
        set was $on
    end
    test $was = 0 -o -z "$__wm_close"; or __wm_add $__wm_edge[$was] $__wm_close
end
# Whether left and right have room beside one another.
function __wm_fits
    set -g __wm_right_plain ''
    set -g __wm_ro ''
    if test -n "$__wm_right"
        __wm_run left $__wm_right
        set -g __wm_right_plain "$__wm_plain"
        set -g __wm_ro "$__wm_out"
    end
    __wm_run right $__wm_left
    set -g __wm_lo "$__wm_out"
    set -l both "$__wm_plain$__wm_right_plain"
    test -z "$__wm_plain" -o -z "$__wm_right_plain"; or set both "$both "
    if string match -qr "^[$__wm_narrow]*\$" -- "$both"
        string match -qr "^.{0,$__wm_room}\$" -- "$both"
    else
        test (string length -V -- "$both") -le $__wm_room
    end
end
# Lays out a line; the word tells which part stays where one types.
function __wm_lay
    __wm_fits; and return
    for i in $__wm_shorter
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
    test -n "$__wm_plain$__wm_right_plain"; or return
    if test -n "$__wm_right_plain"
        set -l both "$__wm_plain$__wm_right_plain"
        set -l fill ''
        if string match -qr "^[$__wm_narrow]*\$" -- "$both"
            # Of as many as a line holds, those that stand before the last so many.
            string match -qr "(?=.{$__wm_wider}\$)(?<__wm_rest>[^\\x01]*)\\x01" -- "$__wm_fill"\x01"$both"
            and set fill "$__wm_rest"
        else
            set -l room (math $__wm_wide - (string length -V -- "$both"))
            test $room -le 0; or set fill (string repeat -n $room -- $__wm_stretch)
        end
        if test "$__wm_stretch" = ' '
            __wm_bare "$fill"
        else if string match -qr '^..(?<__wm_rest>.+)' -- "$fill"
            __wm_bare ' '
            __wm_add $__wm_c_between "$__wm_rest"
            __wm_bare ' '
        else
            # Too few to be a stretch.
            test "$fill" = ''; or set fill (string replace -a -- $__wm_stretch ' ' "$fill")
            __wm_bare "$fill"
        end
        set -g __wm_out "$__wm_out$__wm_ro"
    end
    # A ground ends with its line.
    set -g __wm_out "$__wm_out$__wm_zero"
    set -ga __wm_rows "$__wm_out"
end
# What follows from how wide the window is.
function __wm_measure
    set -g __wm_columns $COLUMNS
    test -n "$__wm_columns"; or set -g __wm_columns 80
    set -g __wm_wide (math $__wm_columns - 1@TIE@)
    set -g __wm_typing (math $__wm_columns - floor \($__wm_columns / @TYPING@\) - 1@TIE@)
    test $__wm_wide -ge 0; or set -g __wm_wide 0
    test $__wm_typing -ge 0; or set -g __wm_typing 0
    set -g __wm_wider (math $__wm_wide + 1)
    set -g __wm_fill (string repeat -n $__wm_wide -- $__wm_stretch)
end
function __wm_draw
    test "$COLUMNS" = "$__wm_columns"; or __wm_measure
    set -g __wm_full
    set -g __wm_short
    set -g __wm_last
    set -g __wm_ink
    set -g __wm_rows
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
    printf '%s' $__wm_zero
    set -q __wm_rows[2]; and printf '%s\n' $__wm_rows[1..-2]
    printf '%s%s ' $__wm_rows[-1] "$__wm_zero"
end
function fish_right_prompt
    test -z "$__wm_right_side"; or printf '%s%s ' "$__wm_right_side" "$__wm_zero"
end
function fish_mode_prompt
end
@STARTS@mkdir -p (string replace -r '^$' "$HOME/.local/state" -- "$XDG_STATE_HOME")/wealdmist/shells 2>/dev/null
begin
    printf '%s\n' $__wm_line >(string replace -r '^$' "$HOME/.local/state" -- "$XDG_STATE_HOME")/wealdmist/shells/$fish_pid
end 2>/dev/null
true
