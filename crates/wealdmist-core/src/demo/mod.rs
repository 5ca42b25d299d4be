//! The sample home: the machine of a made-up developer who looks after water-level gauges in a
//! salt marsh. Its dotfiles are real ones for real programs, with mistakes planted in them.

pub mod fonts;

use std::path::PathBuf;

/// One file of the sample home.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DemoFile {
    /// The path below the home.
    pub path: PathBuf,
    /// Its content.
    pub bytes: Vec<u8>,
}

/// The name given to the first setup of the sample home.
pub const SETUP_NAME: &str = "Saltmarsh";
/// The name given to its palette.
pub const PALETTE_NAME: &str = "dusk";

/// Every file of the sample home, fonts included.
#[must_use]
pub fn files() -> Vec<DemoFile> {
    let text = |path: &str, content: &str| DemoFile {
        path: path.into(),
        bytes: content.into(),
    };
    let font = |name: &str, bytes: Vec<u8>| DemoFile {
        path: PathBuf::from(".local/share/fonts").join(name),
        bytes,
    };
    vec![
        text(".config/kitty/kitty.conf", KITTY),
        text(".config/kitty/dusk.conf", KITTY_COLORS),
        text(".config/alacritty/alacritty.toml", ALACRITTY),
        text(".config/foot/foot.ini", FOOT),
        text(".Xresources", RESOURCES),
        text(".config/wezterm/wezterm.lua", WEZTERM),
        text(".config/tmux/tmux.conf", TMUX),
        text(".config/tmux/bar.conf", TMUX_BAR),
        text(".config/nvim/init.lua", NVIM),
        text(".config/nvim/colors/creek.lua", NVIM_THEME),
        text(".bashrc", BASHRC),
        text(".config/fish/config.fish", FISH),
        text(".config/starship.toml", STARSHIP),
        text("src/marsh-gauge/gauge.rs", GAUGE),
        font("ReedbedMonoNF-Regular.ttf", fonts::complete()),
        font("ReedbedMonoNF-Bold.ttf", fonts::bold()),
        font("ReedbedMonoNF-Italic.ttf", fonts::italic()),
        font("ReedbedMono-Regular.ttf", fonts::without_icons()),
        font("SedgeMonoNF-Regular.ttf", fonts::icons_at_old_places()),
        font("CordgrassNF-Regular.ttf", fonts::wide_icons()),
        font("BulrushNF-Regular.ttf", fonts::short_separators()),
    ]
}

const KITTY: &str = r"# kitty on heronry
include dusk.conf

font_family      Reedbed Mono NF
font_size        12.0
# xterm-kitty is not known on the gauge loggers
term             xterm-256color

window_padding_width 4
background_opacity   1.0
cursor_blink_interval 0
enable_audio_bell no

# borders
active_border_color   #74c5c1
inactive_border_color #2b393c
bell_border_color     #e7736e

# tabs
tab_bar_style           separator
active_tab_foreground   #0d191c
active_tab_background   #74c5c1
inactive_tab_foreground #8d9694
inactive_tab_background #19272a
tab_bar_background      #131f22
url_color               #62a7d3

map ctrl+shift+enter new_window_with_cwd
";

const KITTY_COLORS: &str = "# Saltmarsh dusk
foreground            #d7d6cc
background            #0d191c
cursor                #e4c973
cursor_text_color     #0d191c
selection_background  #264346
selection_foreground  #ecebe4

color0   #1c292c
color1   #e7736e
color2   #8bbc7b
color3   #dcb96b
color4   #62a7d3
color5   #d185b5
color6   #74c5c1
color7   #bfbeb6
color8   #455356
color9   #f7958c
color10  #a5d48f
color11  #eed286
color12  #81c0e7
color13  #e2a4cd
color14  #94dad5
color15  #f1f0ea
";

const ALACRITTY: &str = r##"# alacritty on heronry, for the second screen
[font]
size = 12.0
normal = { family = "Reedbed Mono NF", style = "Regular" }

[window]
opacity = 1.0
padding = { x = 5, y = 5 }

[colors.primary]
foreground = "#d7d6cc"
background = "#0d191c"

[colors.cursor]
cursor = "#e4c973"
text = "#0d191c"

[colors.selection]
background = "#264346"
text = "#ecebe4"

[colors.normal]
black = "#1c292c"
red = "#e7736e"
green = "#8bbc7b"
# still as on the old laptop
yellow = "0xcfae61"
blue = "#62a7d3"
magenta = "#d185b5"
cyan = "#74c5c1"
white = "#bfbeb6"

[colors.bright]
black = "#455356"
red = "#f7958c"
green = "#a5d48f"
yellow = "#eed286"
blue = "#81c0e7"
magenta = "#e2a4cd"
cyan = "#94dad5"
white = "#f1f0ea"
"##;

const FOOT: &str = "# foot on the tablet in the boat
font=Reedbed Mono NF:size=12
# dpi-aware=no
pad=5x5

[scrollback]
lines=20000

[cursor]
style=beam
color=0d191c e4c973

[colors]
background=0d191c
foreground=d7d6cc
selection-background=264346
selection-foreground=ecebe4
# alpha=1.0

regular0=1c292c
regular1=e7736e
regular2=8bbc7b
regular3=dcb96b
regular4=62a7d3
regular5=d185b5
regular6=74c5c1
regular7=bfbeb6

bright0=455356
bright1=f7958c
bright2=a5d48f
bright3=eed286
bright4=81c0e7
bright5=e2a4cd
bright6=94dad5
bright7=f1f0ea
";

const RESOURCES: &str = "! xterm, for the gauge loggers
#define reed #d7d6cc
#define mud  #0d191c

XTerm*faceName: Reedbed Mono NF
XTerm*faceSize: 12
XTerm*saveLines: 4000
XTerm*internalBorder: 5

*foreground: reed
*background: mud
XTerm*cursorColor: #e4c973
XTerm*highlightColor: #264346
XTerm*highlightTextColor: #ecebe4

*color0: #1c292c
*color1: #e7736e
*color2: #8bbc7b
*color3: #dcb96b
*color4: #62a7d3
*color5: #d185b5
*color6: #74c5c1
*color7: #bfbeb6
*color8: #455356
*color9: #f7958c
*color10: #a5d48f
*color11: #eed286
! brighter on the old panels
XTerm*color12: #9fd0f0
*color12: #81c0e7
*color13: #e2a4cd
*color14: #94dad5
*color15: #f1f0ea
";

const WEZTERM: &str = r##"-- wezterm on the laptop of the field station
local wezterm = require 'wezterm'
local config = wezterm.config_builder()

local mud = '#0d191c'
config.font = wezterm.font_with_fallback { 'Reedbed Mono NF', 'Bulrush NF' }
config.font_size = 12.0
config.window_padding = { left = 5, right = 5, top = 5, bottom = 5 }
config.hide_tab_bar_if_only_one_tab = true
config.colors = {
  foreground = '#d7d6cc',
  background = mud,
  cursor_bg = '#e4c973',
  cursor_fg = mud,
  selection_bg = '#264346',
  selection_fg = '#ecebe4',
  ansi = {
    '#1c292c', '#e7736e', '#8bbc7b', '#dcb96b',
    '#62a7d3', '#d185b5', '#74c5c1', '#bfbeb6',
  },
  brights = {
    '#455356', '#f7958c', '#a5d48f', '#eed286',
    '#81c0e7', '#e2a4cd', '#94dad5', '#f1f0ea',
  },
  tab_bar = {
    background = '#131f22',
    active_tab = { bg_color = '#74c5c1', fg_color = mud },
    inactive_tab = { bg_color = '#19272a', fg_color = '#8d9694' },
  },
}

return config
"##;

const TMUX: &str = r#"# tmux on heronry
set -g default-terminal "tmux-256color"
set -g mouse on
set -g base-index 1
setw -g mode-keys vi
set -g status-interval 15

source-file ~/.config/tmux/bar.conf

# borders; the active one was copied from the old laptop
set -g pane-border-style "fg=#2b393c"
set -g pane-active-border-style "fg=#528b8e"

bind r source-file ~/.config/tmux/tmux.conf \; display "read again"
"#;

const TMUX_BAR: &str = "# the bar\nset -g status-style \"bg=#19272a,fg=#d7d6cc\"\nset -g status-left-length 32\nset -g status-right-length 60\nset -g status-left \"#{?client_prefix,#[fg=#0d191c#,bg=#dcb96b],#[fg=#8bbc7b#,bg=#19272a]} \u{f43a} #S #[default] \"\nset -g status-right \"#[fg=#687476]\u{f64f} %H:%M #[fg=#d7d6cc]\u{f8fe} heronry \"\nsetw -g window-status-format \" #I #W#{?window_bell_flag,!,} \"\nsetw -g window-status-current-format \"#[fg=#0d191c,bg=#74c5c1] #I #W#{?window_zoomed_flag, \u{f00e},} #[default]\"\nsetw -g window-status-style \"fg=#4a5658\"\nsetw -g window-status-bell-style \"fg=#dcb96b,bold\"\nset -g message-style \"bg=#dcb96b,fg=#0d191c\"\nsetw -g mode-style \"bg=#264346,fg=#ecebe4\"\n";

const NVIM: &str = r##"-- nvim on heronry
vim.o.number = true
vim.o.cursorline = true
vim.o.termguicolors = true
vim.o.guifont = "ReedbedMono NF:h12"

vim.cmd("colorscheme creek")

-- softer than the theme has them
vim.api.nvim_set_hl(0, "WinSeparator", { fg = "#33474a" })
vim.api.nvim_set_hl(0, "LineNr", { fg = "#3c4a4d" })

vim.fn.sign_define("DiagnosticSignError", { text = "✗", texthl = "DiagnosticSignError" })
"##;

const NVIM_THEME: &str = r##"-- creek: made by hand one winter, never finished
vim.cmd("hi clear")
vim.g.colors_name = "creek"
local set = vim.api.nvim_set_hl
set(0, "Normal", { fg = "#d7d6cc", bg = "#0d191c" })
set(0, "Comment", { fg = "#4b5a5d", italic = true })
set(0, "String", { fg = "#8bbc7b" })
set(0, "Number", { fg = "#dcb96b" })
set(0, "Function", { fg = "#62a7d3" })
set(0, "Statement", { fg = "#d185b5" })
set(0, "Type", { fg = "#74c5c1" })
set(0, "Visual", { bg = "#203a3d" })
set(0, "CursorLine", { bg = "#152225" })
set(0, "Search", { fg = "#0d191c", bg = "#dcb96b" })
set(0, "DiagnosticError", { fg = "#e7736e" })
set(0, "DiagnosticWarn", { fg = "#dcb96b" })
set(0, "StatusLine", { fg = "#d7d6cc", bg = "#2c3b3e" })
set(0, "StatusLineNC", { fg = "#566467", bg = "#19272a" })
"##;

const BASHRC: &str = "# ~/.bashrc on heronry\ncase $- in *i*) ;; *) return ;; esac\n\nHISTCONTROL=ignoreboth\nshopt -s checkwinsize\n\nPS1='\\[\\e[1;32m\\]\u{e5ff} \\u@\\h\\[\\e[0m\\] \\[\\e[38;5;75m\\]\\w\\[\\e[0m\\] \u{f061a}\\$ '\n\nalias ll='ls -l'\nexport GAUGE_TOKEN=demo-not-a-secret\nexport PATH=\"$HOME/bin:$PATH\"\n";

const FISH: &str = r#"# fish on heronry, for the long evenings
if status is-interactive
    set -g fish_greeting
    set -g fish_color_command 62a7d3
    set -g fish_color_error e7736e --bold
    set -g fish_color_quote 8bbc7b
    set -g fish_color_comment 566467
    # on the old laptop it could be read
    set -g fish_color_autosuggestion 2f4145
    set -g fish_color_selection ecebe4 --background=264346
    set -g fish_color_search_match 0d191c --background=dcb96b
    set -g fish_pager_color_prefix 74c5c1 --underline
    set -g fish_pager_color_progress 0d191c --background=74c5c1
end

function fish_prompt
    set -l last $status
    echo -n -s (set_color 8bbc7b) $USER (set_color normal) ' at ' (set_color 5fafff) (prompt_pwd) (set_color normal) (fish_git_prompt)
    if test $last -ne 0
        set_color e7736e
    end
    echo -n '> '
    set_color normal
end
"#;

const STARSHIP: &str = r##"# starship, as on the gauge loggers
palette = "creek"
format = """
$directory$git_branch$git_status$cmd_duration
$character"""

[palettes.creek]
water = "#5fafff"
reed = "#8bbc7b"
silt = "#8b9799"

[directory]
format = "[$path](water)"
truncation_length = 2

[git_branch]
format = " [on](silt) [$branch](bold purple)"

[git_status]
format = "( [$all_status$ahead_behind](#dcb96b))"

[cmd_duration]
format = " [$duration](silt)"

[character]
success_symbol = "[>](reed)"
error_symbol = "[>](#e7736e)"
"##;

const GAUGE: &str = "// Water level above datum, in metres.\nfn level(raw: u16) -> f64 {\n    f64::from(raw) * 0.0125\n}\n";

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_sample_home_stays_inside_itself() {
        let files = files();
        assert!(files.iter().all(|f| f.path.is_relative()));
        assert!(files.iter().any(|f| f.path.ends_with("kitty.conf")));
    }
}
