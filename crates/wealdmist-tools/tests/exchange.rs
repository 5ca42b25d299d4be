//! The files palettes are exported to, line by line.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

use wealdmist_core::setup::SetupDoc;
use wealdmist_tools::exchange::{FORMATS, export, format, import};

const SETUP: &str = r##"name = "Marsh"
[palettes.tide]
foreground = "#10e63c"
background = "#19de41"
cursor = "#22d646"
cursor-text = "#2bce4b"
selection = "#34c650"
selection-text = "#3dbe55"
black = "#46b65a"
red = "#4fae5f"
green = "#58a664"
yellow = "#619e69"
blue = "#6a966e"
magenta = "#738e73"
cyan = "#7c8678"
white = "#857e7d"
bright-black = "#8e7682"
bright-red = "#976e87"
bright-green = "#a0668c"
bright-yellow = "#a95e91"
bright-blue = "#b25696"
bright-magenta = "#bb4e9b"
bright-cyan = "#c446a0"
bright-white = "#cd3ea5"
[palettes.tide.colors]
reed = "#939761"
"##;

fn exported(id: &str) -> String {
    let doc = SetupDoc::parse("setup.toml", SETUP.as_bytes()).unwrap();
    let setup = doc.setup();
    let written = export(format(id).unwrap(), setup.palette(), &setup.name, None);
    String::from_utf8(written.bytes).unwrap()
}

/// Every format but the property list, whose colors are archives.
const FILES: &[(&str, &str)] = &[
    (
        "tokens",
        r##"{
  "tide": {
    "$description": "dark palette",
    "$type": "color",
    "background": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.098,
          0.8706,
          0.2549
        ],
        "hex": "#19de41"
      }
    },
    "black": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.2745,
          0.7137,
          0.3529
        ],
        "hex": "#46b65a"
      }
    },
    "blue": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.4157,
          0.5882,
          0.4314
        ],
        "hex": "#6a966e"
      }
    },
    "bright-black": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.5569,
          0.4627,
          0.5098
        ],
        "hex": "#8e7682"
      }
    },
    "bright-blue": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.698,
          0.3373,
          0.5882
        ],
        "hex": "#b25696"
      }
    },
    "bright-cyan": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.7686,
          0.2745,
          0.6275
        ],
        "hex": "#c446a0"
      }
    },
    "bright-green": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.6275,
          0.4,
          0.549
        ],
        "hex": "#a0668c"
      }
    },
    "bright-magenta": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.7333,
          0.3059,
          0.6078
        ],
        "hex": "#bb4e9b"
      }
    },
    "bright-red": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.5922,
          0.4314,
          0.5294
        ],
        "hex": "#976e87"
      }
    },
    "bright-white": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.8039,
          0.2431,
          0.6471
        ],
        "hex": "#cd3ea5"
      }
    },
    "bright-yellow": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.6627,
          0.3686,
          0.5686
        ],
        "hex": "#a95e91"
      }
    },
    "cursor": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.1333,
          0.8392,
          0.2745
        ],
        "hex": "#22d646"
      }
    },
    "cursor-text": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.1686,
          0.8078,
          0.2941
        ],
        "hex": "#2bce4b"
      }
    },
    "cyan": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.4863,
          0.5255,
          0.4706
        ],
        "hex": "#7c8678"
      }
    },
    "foreground": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.0627,
          0.902,
          0.2353
        ],
        "hex": "#10e63c"
      }
    },
    "green": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.3451,
          0.651,
          0.3922
        ],
        "hex": "#58a664"
      }
    },
    "magenta": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.451,
          0.5569,
          0.451
        ],
        "hex": "#738e73"
      }
    },
    "red": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.3098,
          0.6824,
          0.3725
        ],
        "hex": "#4fae5f"
      }
    },
    "reed": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.5765,
          0.5922,
          0.3804
        ],
        "hex": "#939761"
      }
    },
    "selection": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.2039,
          0.7765,
          0.3137
        ],
        "hex": "#34c650"
      }
    },
    "selection-text": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.2392,
          0.7451,
          0.3333
        ],
        "hex": "#3dbe55"
      }
    },
    "white": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.5216,
          0.4941,
          0.4902
        ],
        "hex": "#857e7d"
      }
    },
    "yellow": {
      "$value": {
        "colorSpace": "srgb",
        "components": [
          0.3804,
          0.6196,
          0.4118
        ],
        "hex": "#619e69"
      }
    }
  }
}
"##,
    ),
    (
        "css",
        r##"/* Marsh · tide */
:root {
  --foreground: #10e63c;
  --background: #19de41;
  --cursor: #22d646;
  --cursor-text: #2bce4b;
  --selection: #34c650;
  --selection-text: #3dbe55;
  --black: #46b65a;
  --red: #4fae5f;
  --green: #58a664;
  --yellow: #619e69;
  --blue: #6a966e;
  --magenta: #738e73;
  --cyan: #7c8678;
  --white: #857e7d;
  --bright-black: #8e7682;
  --bright-red: #976e87;
  --bright-green: #a0668c;
  --bright-yellow: #a95e91;
  --bright-blue: #b25696;
  --bright-magenta: #bb4e9b;
  --bright-cyan: #c446a0;
  --bright-white: #cd3ea5;
  --named-reed: #939761;
}
"##,
    ),
    (
        "gimp",
        r##"GIMP Palette
Name: Marsh tide
Columns: 8
#
 16 230  60	foreground
 25 222  65	background
 34 214  70	cursor
 43 206  75	cursor-text
 52 198  80	selection
 61 190  85	selection-text
 70 182  90	black
 79 174  95	red
 88 166 100	green
 97 158 105	yellow
106 150 110	blue
115 142 115	magenta
124 134 120	cyan
133 126 125	white
142 118 130	bright-black
151 110 135	bright-red
160 102 140	bright-green
169  94 145	bright-yellow
178  86 150	bright-blue
187  78 155	bright-magenta
196  70 160	bright-cyan
205  62 165	bright-white
147 151  97	reed
"##,
    ),
    (
        "xresources",
        r##"! Marsh · tide
*foreground: #10e63c
*background: #19de41
*cursorColor: #22d646
*cursorColor2: #2bce4b
*highlightColor: #34c650
*highlightTextColor: #3dbe55
*color0: #46b65a
*color1: #4fae5f
*color2: #58a664
*color3: #619e69
*color4: #6a966e
*color5: #738e73
*color6: #7c8678
*color7: #857e7d
*color8: #8e7682
*color9: #976e87
*color10: #a0668c
*color11: #a95e91
*color12: #b25696
*color13: #bb4e9b
*color14: #c446a0
*color15: #cd3ea5
"##,
    ),
    (
        "ghostty",
        r##"# Marsh · tide
foreground = #10e63c
background = #19de41
cursor-color = #22d646
cursor-text = #2bce4b
selection-background = #34c650
selection-foreground = #3dbe55
palette = 0=#46b65a
palette = 1=#4fae5f
palette = 2=#58a664
palette = 3=#619e69
palette = 4=#6a966e
palette = 5=#738e73
palette = 6=#7c8678
palette = 7=#857e7d
palette = 8=#8e7682
palette = 9=#976e87
palette = 10=#a0668c
palette = 11=#a95e91
palette = 12=#b25696
palette = 13=#bb4e9b
palette = 14=#c446a0
palette = 15=#cd3ea5
"##,
    ),
    (
        "xfce4-terminal",
        r##"# Marsh · tide

[Configuration]
ColorForeground=#10e63c
ColorBackground=#19de41
ColorCursor=#22d646
ColorCursorUseDefault=FALSE
ColorCursorForeground=#2bce4b
ColorSelectionBackground=#34c650
ColorSelectionUseDefault=FALSE
ColorSelection=#3dbe55
ColorPalette=#46b65a;#4fae5f;#58a664;#619e69;#6a966e;#738e73;#7c8678;#857e7d;#8e7682;#976e87;#a0668c;#a95e91;#b25696;#bb4e9b;#c446a0;#cd3ea5
"##,
    ),
    (
        "warp",
        r##"# Marsh · tide
background: "#19de41"
foreground: "#10e63c"
cursor: "#22d646"
terminal_colors:
  normal:
    black: "#46b65a"
    red: "#4fae5f"
    green: "#58a664"
    yellow: "#619e69"
    blue: "#6a966e"
    magenta: "#738e73"
    cyan: "#7c8678"
    white: "#857e7d"
  bright:
    black: "#8e7682"
    red: "#976e87"
    green: "#a0668c"
    yellow: "#a95e91"
    blue: "#b25696"
    magenta: "#bb4e9b"
    cyan: "#c446a0"
    white: "#cd3ea5"
"##,
    ),
    (
        "wezterm",
        r##"-- Marsh · tide
local config = {}
config.colors = {
  foreground = "#10e63c",
  background = "#19de41",
  cursor_bg = "#22d646",
  cursor_fg = "#2bce4b",
  selection_bg = "#34c650",
  selection_fg = "#3dbe55",
  ansi = { "#46b65a", "#4fae5f", "#58a664", "#619e69", "#6a966e", "#738e73", "#7c8678", "#857e7d" },
  brights = { "#8e7682", "#976e87", "#a0668c", "#a95e91", "#b25696", "#bb4e9b", "#c446a0", "#cd3ea5" },
}
return config
"##,
    ),
    (
        "kitty",
        r##"# Marsh · tide
foreground #10e63c
background #19de41
cursor #22d646
cursor_text_color #2bce4b
selection_background #34c650
selection_foreground #3dbe55
color0 #46b65a
color1 #4fae5f
color2 #58a664
color3 #619e69
color4 #6a966e
color5 #738e73
color6 #7c8678
color7 #857e7d
color8 #8e7682
color9 #976e87
color10 #a0668c
color11 #a95e91
color12 #b25696
color13 #bb4e9b
color14 #c446a0
color15 #cd3ea5
"##,
    ),
    (
        "alacritty",
        r##"# Marsh · tide

[colors.primary]
foreground = "#10e63c"
background = "#19de41"

[colors.cursor]
cursor = "#22d646"
text = "#2bce4b"

[colors.selection]
background = "#34c650"
text = "#3dbe55"

[colors.normal]
black = "#46b65a"
red = "#4fae5f"
green = "#58a664"
yellow = "#619e69"
blue = "#6a966e"
magenta = "#738e73"
cyan = "#7c8678"
white = "#857e7d"

[colors.bright]
black = "#8e7682"
red = "#976e87"
green = "#a0668c"
yellow = "#a95e91"
blue = "#b25696"
magenta = "#bb4e9b"
cyan = "#c446a0"
white = "#cd3ea5"
"##,
    ),
    (
        "alacritty-yaml",
        r##"# Marsh · tide
colors:
  primary:
    foreground: "#10e63c"
    background: "#19de41"
  cursor:
    cursor: "#22d646"
    text: "#2bce4b"
  selection:
    background: "#34c650"
    text: "#3dbe55"
  normal:
    black: "#46b65a"
    red: "#4fae5f"
    green: "#58a664"
    yellow: "#619e69"
    blue: "#6a966e"
    magenta: "#738e73"
    cyan: "#7c8678"
    white: "#857e7d"
  bright:
    black: "#8e7682"
    red: "#976e87"
    green: "#a0668c"
    yellow: "#a95e91"
    blue: "#b25696"
    magenta: "#bb4e9b"
    cyan: "#c446a0"
    white: "#cd3ea5"
"##,
    ),
    (
        "foot",
        r##"# Marsh · tide

[cursor]
color=2bce4b 22d646

[colors]
foreground=10e63c
background=19de41
selection-background=34c650
selection-foreground=3dbe55
regular0=46b65a
regular1=4fae5f
regular2=58a664
regular3=619e69
regular4=6a966e
regular5=738e73
regular6=7c8678
regular7=857e7d
bright0=8e7682
bright1=976e87
bright2=a0668c
bright3=a95e91
bright4=b25696
bright5=bb4e9b
bright6=c446a0
bright7=cd3ea5
"##,
    ),
    (
        "windows",
        r##"{
  "background": "#19de41",
  "black": "#46b65a",
  "blue": "#6a966e",
  "brightBlack": "#8e7682",
  "brightBlue": "#b25696",
  "brightCyan": "#c446a0",
  "brightGreen": "#a0668c",
  "brightPurple": "#bb4e9b",
  "brightRed": "#976e87",
  "brightWhite": "#cd3ea5",
  "brightYellow": "#a95e91",
  "cursorColor": "#22d646",
  "cyan": "#7c8678",
  "foreground": "#10e63c",
  "green": "#58a664",
  "name": "Marsh tide",
  "purple": "#738e73",
  "red": "#4fae5f",
  "selectionBackground": "#34c650",
  "white": "#857e7d",
  "yellow": "#619e69"
}
"##,
    ),
    (
        "konsole",
        r##"[General]
Description=Marsh tide
Opacity=1

[Background]
Color=25,222,65

[Foreground]
Color=16,230,60

[BackgroundIntense]
Color=25,222,65

[ForegroundIntense]
Color=16,230,60

[Color0]
Color=70,182,90

[Color1]
Color=79,174,95

[Color2]
Color=88,166,100

[Color3]
Color=97,158,105

[Color4]
Color=106,150,110

[Color5]
Color=115,142,115

[Color6]
Color=124,134,120

[Color7]
Color=133,126,125

[Color0Intense]
Color=142,118,130

[Color1Intense]
Color=151,110,135

[Color2Intense]
Color=160,102,140

[Color3Intense]
Color=169,94,145

[Color4Intense]
Color=178,86,150

[Color5Intense]
Color=187,78,155

[Color6Intense]
Color=196,70,160

[Color7Intense]
Color=205,62,165
"##,
    ),
    (
        "console",
        r##"#!/bin/sh
# Marsh · tide
printf '\033]P046b65a'
printf '\033]P14fae5f'
printf '\033]P258a664'
printf '\033]P3619e69'
printf '\033]P46a966e'
printf '\033]P5738e73'
printf '\033]P67c8678'
printf '\033]P7857e7d'
printf '\033]P88e7682'
printf '\033]P9976e87'
printf '\033]PAa0668c'
printf '\033]PBa95e91'
printf '\033]PCb25696'
printf '\033]PDbb4e9b'
printf '\033]PEc446a0'
printf '\033]PFcd3ea5'
printf '\033[2J\033[H'
"##,
    ),
    (
        "osc",
        r##"#!/bin/sh
# Marsh · tide
printf '\033]4;0;#46b65a\033\\'
printf '\033]4;1;#4fae5f\033\\'
printf '\033]4;2;#58a664\033\\'
printf '\033]4;3;#619e69\033\\'
printf '\033]4;4;#6a966e\033\\'
printf '\033]4;5;#738e73\033\\'
printf '\033]4;6;#7c8678\033\\'
printf '\033]4;7;#857e7d\033\\'
printf '\033]4;8;#8e7682\033\\'
printf '\033]4;9;#976e87\033\\'
printf '\033]4;10;#a0668c\033\\'
printf '\033]4;11;#a95e91\033\\'
printf '\033]4;12;#b25696\033\\'
printf '\033]4;13;#bb4e9b\033\\'
printf '\033]4;14;#c446a0\033\\'
printf '\033]4;15;#cd3ea5\033\\'
printf '\033]10;#10e63c\033\\'
printf '\033]11;#19de41\033\\'
printf '\033]12;#22d646\033\\'
printf '\033]17;#34c650\033\\'
printf '\033]19;#3dbe55\033\\'
"##,
    ),
];

#[test]
fn every_format_is_written_line_by_line_as_its_program_wants_it() {
    // Three have too many lines to stand here.
    assert_eq!(FILES.len() + 3, FORMATS.len());
    for (id, wanted) in FILES {
        let got = exported(id);
        for (n, (got, wanted)) in got.lines().zip(wanted.lines()).enumerate() {
            assert_eq!(got, wanted, "{id}, line {}", n + 1);
        }
        assert_eq!(got, *wanted, "{id}");
    }
}

#[test]
fn each_of_them_is_read_back_to_the_same_colors() {
    let doc = SetupDoc::parse("setup.toml", SETUP.as_bytes()).unwrap();
    let palette = doc.setup().palette();
    for (id, text) in FILES {
        let found = import(format(id), "", text).unwrap();
        assert!(found.slots.len() >= 16, "{id}");
        for (slot, color) in &found.slots {
            assert_eq!(palette.slot(*slot), *color, "{id} {slot:?}");
        }
    }
}

#[test]
fn colors_in_three_numbers_are_read_back() {
    let doc = SetupDoc::parse("setup.toml", SETUP.as_bytes()).unwrap();
    let palette = doc.setup().palette();
    for (id, name) in [("preset", "x.itermcolors"), ("iterm2", "x.json")] {
        let text = exported(id);
        assert!(!text.contains("//") || id == "preset", "{text}");
        let found = import(None, name, &text).unwrap();
        assert_eq!((found.slots.len(), found.unmapped.len()), (22, 0), "{id}");
        for (slot, color) in &found.slots {
            assert_eq!(palette.slot(*slot), *color, "{id} {slot:?}");
        }
    }
}

#[test]
fn the_property_list_is_one_and_is_read_back() {
    let text = exported("mac");
    assert!(
        text.contains("<key>ANSIBrightCyanColor</key>")
            && text.contains("<string>Marsh tide</string>")
    );
    let found = import(None, "x.terminal", &text).unwrap();
    assert_eq!(
        (found.slots.len(), found.name.as_deref()),
        (20, Some("Marsh tide"))
    );
}
