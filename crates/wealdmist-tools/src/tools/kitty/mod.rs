//! The terminal kitty: `kitty.conf` with its includes.
//!
//! Lines of `key value`, the last of a key wins, includes are read where they stand. Values have
//! no quotes and no trailing comments. Everything but the keys below is left alone.

mod fonts;
mod sides;

use std::ops::Range;

use wealdmist_core::color::{Rgb, x11_color};
use wealdmist_core::property::{Edge, Property};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{ToolId, Value};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::terminal::Images;
use wealdmist_core::width::Counting;

use crate::document::settings::Settings;
use crate::table::{
    ANY_WORD, Blink, Compound, Defaults, End, Fonts, Includes, Key, Means, NotZero, Padding,
    Quirks, Scale, Sixteen, Spelling, Suffixed, Table, Term, Titles, Where, Wins, Word, Zero,
    color as color_key, key, name, number, own, path, scrollback, several, word,
};
use crate::{Answers, Live, Reload, Wanted};

const NOTATION: Settings = Settings {
    separator: None,
    written: " ",
    comment: "#",
    trailing: false,
    quotes: false,
    indexed: &[
        ("font_features", b' '),
        ("symbol_map", b' '),
        ("modify_font", b' '),
    ],
    main: None,
    quoting: Quoting::Line,
};

const PADDING: Padding = Padding {
    forms: &[
        &[Edge::All],
        &[Edge::Down, Edge::Across],
        &[Edge::Top, Edge::Across, Edge::Bottom],
        &[Edge::Top, Edge::Right, Edge::Bottom, Edge::Left],
    ],
    between: " ",
    pixels: false,
    behind: &[],
};
const COLUMNS: Suffixed = Suffixed(&[Property::WindowColumns], "c");
const ROWS: Suffixed = Suffixed(&[Property::WindowRows], "c");
/// What it takes for yes; all else is no.
const YES: &[(&str, Word)] = &[
    ("yes", Word::Says("on")),
    ("no", Word::Says("off")),
    ("true", Word::Says("on")),
    ("y", Word::Says("on")),
    (ANY_WORD, Word::Says("off")),
];

/// How many tabs there have to be for the tab bar to be seen.
struct Fewest;

impl Compound for Fewest {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let said = text.parse::<i64>().ok().map(|n| {
            let word = if n <= 1 { "always" } else { "several" };
            let value = Value::Text(word.to_owned());
            (Property::TabsShown.into(), value, 0..text.len())
        });
        said.into_iter().collect()
    }

    fn change(&self, text: &str, wanted: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        let code = match Property::TabsShown.of(wanted.setup)? {
            Value::Text(word) if word == "always" => Code::fixed("1"),
            Value::Text(word) if word == "several" => Code::fixed("2"),
            _ => return None,
        };
        Some(vec![(0..text.len(), code)])
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::TabsShown]
    }
}

const NONE: &[(&str, Word)] = &[("none", Word::Default)];
const NO_IMAGE: &[(&str, Word)] = &[("none", Word::Says("none"))];
const AUTO: &[(&str, Word)] = &[("auto", Word::Default)];

const KEYS: &[Key] = &[
    color_key("foreground", "foreground"),
    color_key("background", "background"),
    color_key("cursor", "cursor").words(NONE),
    color_key("cursor_text_color", "cursor-text")
        .words(&[("background", Word::Slot(Slot::Background))]),
    color_key("selection_background", "selection").words(NONE),
    color_key("selection_foreground", "selection-text").words(NONE),
    color_key("url_color", "url"),
    color_key("active_border_color", "border.active").words(NONE),
    color_key("inactive_border_color", "border.inactive"),
    color_key("bell_border_color", "border.bell"),
    color_key("active_tab_foreground", "tab.active.text"),
    color_key("active_tab_background", "tab.active.ground"),
    color_key("inactive_tab_foreground", "tab.inactive.text"),
    color_key("inactive_tab_background", "tab.inactive.ground"),
    color_key("tab_bar_background", "tab.bar").words(NONE),
    own("mark1_foreground", End::Text),
    own("mark1_background", End::Ground),
    own("mark2_foreground", End::Text),
    own("mark2_background", End::Ground),
    own("mark3_foreground", End::Text),
    own("mark3_background", End::Ground),
    own("tab_bar_margin_color", End::Text).words(NONE),
    own("visual_bell_color", End::Text).words(NONE),
    name("font_family", Property::FontFamily),
    number("font_size", Property::FontSize)
        .scaled(Scale::Within(4, i32::MAX))
        .lenient(),
    number("background_opacity", Property::WindowOpacity).scaled(Scale::Within(0, 1)),
    several("window_padding_width", &PADDING),
    number("inactive_text_alpha", Property::WindowDimmed).scaled(Scale::Within(0, 1)),
    number("dim_opacity", Property::WindowFaint)
        .scaled(Scale::Within(0, 1))
        .read_only(),
    word(
        "cursor_shape",
        Property::Cursor,
        &[
            ("block", Word::Says("block")),
            ("beam", Word::Says("bar")),
            ("underline", Word::Says("underline")),
        ],
    ),
    several("cursor_blink_interval", &Blink),
    number("cursor_beam_thickness", Property::CursorThickness)
        .scaled(Scale::Within(0, i32::MAX))
        .lenient(),
    // Versions before 0.36 do not know the next three, nor 0.35 how much a cursor trails.
    word(
        "cursor_shape_unfocused",
        Property::CursorUnfocused,
        &[
            ("hollow", Word::Says("hollow")),
            ("unchanged", Word::Says("same")),
            ("block", Word::Says("block")),
            ("beam", Word::Says("bar")),
            ("underline", Word::Says("underline")),
        ],
    )
    .read_only(),
    number("cursor_trail", Property::CursorTrail)
        .scaled(Scale::Whole)
        .lenient()
        .read_only(),
    word(
        "notify_on_cmd_finish",
        Property::Notified,
        &[
            ("never", Word::Says("never")),
            ("unfocused", Word::Says("elsewhere")),
            ("always", Word::Says("always")),
            ("invisible", Word::Says("out of sight")),
        ],
    )
    .read_only(),
    several("initial_window_width", &COLUMNS),
    several("initial_window_height", &ROWS),
    word("remember_window_size", Property::WindowRemembered, YES),
    path("background_image", Property::Image).words(NO_IMAGE),
    word(
        "background_image_layout",
        Property::ImageFit,
        &[
            ("cscaled", Word::Says("cover")),
            ("scaled", Word::Says("stretch")),
            ("tiled", Word::Says("tile")),
            ("centered", Word::Says("center")),
            ("clamped", Word::Says("once")),
            ("mirror-tiled", Word::Says("mirrored tiles")),
        ],
    ),
    number("background_tint", Property::ImageTint).scaled(Scale::Within(0, 1)),
    word("enable_audio_bell", Property::BellSound, YES),
    several("visual_bell_duration", &Zero(&[Property::BellFlash], "0.1")),
    several("mouse_hide_wait", &NotZero(&[Property::MouseHidden], "3")),
    word(
        "tab_bar_edge",
        Property::TabPlace,
        &[
            ("top", Word::Says("top")),
            ("bottom", Word::Says("bottom")),
            (ANY_WORD, Word::Says("bottom")),
        ],
    ),
    several("tab_bar_min_tabs", &Fewest),
    several("tab_title_template", &TITLES),
    key("shell", Means::Name(Property::WindowShell))
        .words(&[(".", Word::Default)])
        .read_only(),
    scrollback("scrollback_lines"),
    word(
        "hide_window_decorations",
        Property::WindowDecorations,
        &[
            ("no", Word::Says("full")),
            ("yes", Word::Says("none")),
            ("false", Word::Says("full")),
            ("n", Word::Says("full")),
            ("true", Word::Says("none")),
            ("y", Word::Says("none")),
            ("titlebar-only", Word::Says("without a title")),
            (ANY_WORD, Word::Says("full")),
        ],
    ),
    // Versions before 0.35 do not know it.
    key(
        "background_blur",
        Means::Several(&Zero(&[Property::WindowBlur], "20")),
    )
    .read_only(),
    name("bold_font", Property::FontBold)
        .words(AUTO)
        .read_only(),
    name("italic_font", Property::FontItalic)
        .words(AUTO)
        .read_only(),
    name("bold_italic_font", Property::FontBoldItalic)
        .words(AUTO)
        .read_only(),
    key("disable_ligatures", Means::Word(Property::FontLigatures))
        .words(&[
            ("never", Word::Says("on")),
            ("always", Word::Says("off")),
            ("cursor", Word::Says("off at the cursor")),
        ])
        .read_only(),
    key("font_features/*", Means::Features),
    number("modify_font/cell_height", Property::FontLineHeight)
        .scaled(Scale::Percent)
        .lenient()
        .read_only(),
    name("symbol_map/*", Property::FontFallback),
];

const TITLES: Titles = Titles {
    words: &[
        ("{title}", "{title}"),
        ("{index}", "{number}"),
        ("{tab.active_wd}", "{folder}"),
    ],
    begins: &['{', '}'],
    literal: &[("{{", '{'), ("}}", '}')],
    quotes: &['\'', '"'],
};

/// What kitty 0.26.5 says of itself when it loads an empty file, as far as the keys above go; the
/// versions since change none of the colors.
const DEFAULTS: &[(&str, &str)] = &[
    ("cursor_shape", "block"),
    ("cursor_blink_interval", "-1"),
    ("cursor_beam_thickness", "1.5"),
    ("remember_window_size", "yes"),
    ("background_image", "none"),
    ("background_image_layout", "tiled"),
    ("background_tint", "0"),
    ("enable_audio_bell", "yes"),
    ("visual_bell_duration", "0"),
    ("mouse_hide_wait", "3"),
    ("tab_bar_edge", "bottom"),
    ("tab_bar_min_tabs", "2"),
    ("shell", "."),
    ("scrollback_lines", "2000"),
    ("hide_window_decorations", "no"),
    ("foreground", "#dddddd"),
    ("background", "#000000"),
    ("cursor", "#cccccc"),
    ("cursor_text_color", "#111111"),
    ("selection_background", "#fffacd"),
    ("selection_foreground", "#000000"),
    ("url_color", "#0087bd"),
    ("active_border_color", "#00ff00"),
    ("inactive_border_color", "#cccccc"),
    ("bell_border_color", "#ff5a00"),
    ("active_tab_foreground", "#000000"),
    ("active_tab_background", "#eeeeee"),
    ("inactive_tab_foreground", "#444444"),
    ("inactive_tab_background", "#999999"),
    ("tab_bar_background", "none"),
    ("mark1_foreground", "#000000"),
    ("mark1_background", "#98d3cb"),
    ("mark2_foreground", "#000000"),
    ("mark2_background", "#f2dcd3"),
    ("mark3_foreground", "#000000"),
    ("mark3_background", "#f274bc"),
    ("tab_bar_margin_color", "none"),
    ("visual_bell_color", "none"),
    ("font_family", "monospace"),
    ("font_size", "11"),
    ("background_opacity", "1"),
    ("window_padding_width", "0"),
    ("inactive_text_alpha", "1"),
    ("dim_opacity", "0.75"),
    ("bold_font", "auto"),
    ("italic_font", "auto"),
    ("bold_italic_font", "auto"),
    ("disable_ligatures", "never"),
    ("color0", "#000000"),
    ("color1", "#cc0403"),
    ("color2", "#19cb00"),
    ("color3", "#cecb00"),
    ("color4", "#0d73cc"),
    ("color5", "#cb1ed1"),
    ("color6", "#0dcdcd"),
    ("color7", "#dddddd"),
    ("color8", "#767676"),
    ("color9", "#f2201f"),
    ("color10", "#23fd00"),
    ("color11", "#fffd00"),
    ("color12", "#1a8fff"),
    ("color13", "#fd28ff"),
    ("color14", "#14ffff"),
    ("color15", "#ffffff"),
];

/// The row.
pub static KITTY: Table = Table {
    id: ToolId("kitty"),
    kind: "terminal",
    program: "kitty",
    places: &[
        Where::Only("KITTY_CONFIG_DIRECTORY", "kitty.conf"),
        Where::Config("kitty/kitty.conf"),
        Where::Home(".config/kitty/kitty.conf"),
        Where::Home("Library/Preferences/kitty/kitty.conf"),
    ],
    notation: &NOTATION,
    includes: Some(Includes {
        keys: &["include"],
        patterns: &["globinclude"],
        wins: Wins::WhereItStands,
        relative: true,
        told: true,
        optional: None,
    }),
    keys: KEYS,
    sixteen: Sixteen::Numbered("color"),
    color: Spelling {
        any_case: true,
        read: color,
        write: |color, _| Code::color(color),
    },
    defaults: Defaults {
        known: DEFAULTS,
        shipped: None,
    },
    bad_value: "kitty skips this line and shows an error window; write #rrggbb or a number",
    fonts: Fonts::Own(&fonts::KittyFonts),
    term: Term {
        key: Some("term"),
        own: "xterm-kitty",
        full_color: true,
        images: Images::Graphics,
        counts: Counting::Selectors,
    },
    live: Live {
        reload: Reload::Signal(crate::live::Told::User1),
        arrives: "at once, by a signal to each running kitty of this home",
        mark: Some("fast_data_types"),
        commands: &["+", "@"],
        inside: Some("KITTY_WINDOW_ID"),
        sockets: &[],
        file_options: &["--config", "-c"],
        value_options: &[
            "-o",
            "--override",
            "-T",
            "--title",
            "--class",
            "--name",
            "-d",
            "--directory",
            "--working-directory",
            "--session",
            "--instance-group",
            "--listen-on",
            "--start-as",
            "--watcher",
        ],
        answers: Answers::RemoteControl {
            variable: "KITTY_LISTEN_ON",
            request: "\x1bP@kitty-cmd{\"cmd\":\"get-colors\",\"version\":[0,26,0],\"no_response\":false,\"payload\":{\"configured\":false}}\x1b\\",
        },
        asking: Some(crate::live::Asking {
            program: "kitty",
            arguments: &[
                "+runpy",
                "import sys; exec(open(sys.argv[-1]).read(), {})",
                "{scratch}/ask.py",
            ],
            script: Some(("ask.py", include_str!("ask.py"))),
            ends: &[],
            dotfile: |said| (".config/kitty/kitty.conf", said.to_owned()),
        }),
        merges: None,
    },
    quirks: Quirks {
        missing: fonts::missing,
        beside: sides::files,
        more: sides::read,
        takes: &[Property::Follow],
        reads: |path| {
            // Drawn as they are, beside the templates.
            let drawn = ["tab_separator", "tab_activity_symbol", "bell_on_tab"];
            match path.ends_with("_template") || drawn.contains(&path) {
                true => Quoting::Template,
                false => Quoting::Inert,
            }
        },
        ..Quirks::NONE
    },
};

/// Colors as the program reads them: `#` with 3, 6, 9 or 12 digits, `rgb:r/g/b`, names of X11. Of
/// more than two digits it takes the first two, and a channel that is no number it leaves at 0.
#[must_use]
pub fn color(text: &str) -> Option<Rgb> {
    let is_hex = |t: &str| !t.is_empty() && t.bytes().all(|b| b.is_ascii_hexdigit());
    let channel = |digits: &str| match digits.len() {
        1 => u8::from_str_radix(digits, 16).ok().map(|d| d * 17),
        _ => u8::from_str_radix(digits.get(..2)?, 16).ok(),
    };
    if let Some(digits) = text.strip_prefix('#') {
        if !matches!(digits.chars().count(), 3 | 6 | 9 | 12) {
            return None;
        }
        // It looks for so many digits together, wherever they stand.
        let (each, mut at, mut found) = (digits.chars().count() / 3, 0, Vec::new());
        while at < digits.len() {
            match digits.get(at..at + each).filter(|d| is_hex(d)) {
                Some(one) => {
                    found.push(channel(one)?);
                    at += each;
                }
                None => at += 1,
            }
        }
        let one = |i: usize| found.get(i).copied().unwrap_or(0);
        return Some(Rgb::new(one(0), one(1), one(2)));
    }
    if let Some(channels) = text.get(..4).filter(|t| t.eq_ignore_ascii_case("rgb:")) {
        let mut channels = text[channels.len()..].split('/');
        let mut next = || channels.next().filter(|c| is_hex(c)).and_then(channel);
        let color = Rgb::new(next()?, next()?, next()?);
        return channels.next().is_none().then_some(color);
    }
    x11_color(text)
}

#[cfg(test)]
mod tests {
    use super::KITTY as Kitty;
    use super::*;
    use crate::access::{MEMORY_HOME, MemoryAccess};
    use crate::{Adapter, Facts};
    use proptest::prelude::*;
    use wealdmist_core::look::Look;
    use wealdmist_core::plan::FileEdit;
    use wealdmist_core::reading::{ToolReport, Value};
    use wealdmist_core::role::Usage;
    use wealdmist_core::setup::SetupDoc;

    fn read(access: &MemoryAccess) -> ToolReport {
        Kitty.read(access, &mut Facts::default())
    }

    fn planned(access: &MemoryAccess, setup: &str) -> Vec<(String, String)> {
        let setup = SetupDoc::parse("s", setup.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        let report = read(access);
        let wanted = Wanted {
            setup: &setup,
            look: &look,
            catalog: None,
            home: std::path::Path::new(crate::access::MEMORY_HOME),
        };
        let after = |e: &FileEdit| String::from_utf8(e.after()).unwrap();
        let name = |e: &FileEdit| {
            e.path
                .strip_prefix(MEMORY_HOME)
                .unwrap()
                .display()
                .to_string()
        };
        Kitty
            .plan(&wanted, &report, access)
            .edits
            .iter()
            .map(|e| (name(e), after(e)))
            .collect()
    }

    #[test]
    fn both_sides_are_written_where_the_setup_follows_the_desktop() {
        let conf = "foreground #dddddd\nbackground #101010\n";
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", conf)]);
        let setup = "[palettes.a]\nbackground='#101010'\n[palettes.b]\nvariant='light'\nbackground='#f0f0f0'\n[appearance]\nfollow=true\n";
        let files = planned(&access, setup);
        let side = |files: &[(String, String)], name: &str| {
            let found = files.iter().find(|f| f.0.ends_with(name));
            found.unwrap_or_else(|| panic!("{files:?}")).1.clone()
        };
        assert!(side(&files, "/dark-theme.auto.conf").contains("\nbackground #101010\n"));
        assert!(side(&files, "/light-theme.auto.conf").contains("\nbackground #f0f0f0\n"));
        assert!(side(&files, "/no-preference-theme.auto.conf").contains("\nbackground #101010\n"));
        let off = setup.replace("follow=true", "follow=false");
        let alone = planned(&access, &off);
        assert!(
            alone.iter().all(|f| !f.0.contains("auto.conf")),
            "{alone:?}"
        );
        // Those that were written once would be taken still: they get the colors in use.
        let mut all = vec![(".config/kitty/kitty.conf".to_owned(), conf.to_owned())];
        all.extend(files.into_iter().filter(|f| f.0.contains("auto.conf")));
        let written: Vec<(&str, &str)> = all.iter().map(|(p, t)| (&**p, &**t)).collect();
        let access = MemoryAccess::with(&written);
        let follows = |access: &MemoryAccess| {
            let report = read(access);
            report
                .effective(&Property::Follow.into())
                .map(|r| r.value.to_string())
        };
        assert_eq!(follows(&access).as_deref(), Some("on"));
        for off in [off, setup.replace("[appearance]\nfollow=true\n", "")] {
            let files = planned(&access, &off);
            assert!(side(&files, "/light-theme.auto.conf").contains("\nbackground #101010\n"));
        }
        assert!(read(&access).problems.is_empty(), "they are ours");
    }

    #[test]
    fn sides_of_the_persons_own_are_told_and_left_until_the_setup_says() {
        let conf = ".config/kitty/kitty.conf";
        let (dark, light) = (
            ".config/kitty/dark-theme.auto.conf",
            ".config/kitty/light-theme.auto.conf",
        );
        let own = [
            (conf, "background #101010\n"),
            (dark, "background #202020\n"),
            (light, "background #eeeeee\n"),
        ];
        let access = MemoryAccess::with(&own);
        let report = read(&access);
        let told = &report.problems[0];
        assert!(
            told.path.ends_with("dark-theme.auto.conf") && told.message.contains("0.38"),
            "{told:?}"
        );
        let setup = "[palettes.a]\nbackground='#303030'\n";
        let of_sides = |setup: &str| {
            let files = planned(&access, setup).into_iter();
            files
                .filter(|f| f.0.contains("auto.conf"))
                .collect::<Vec<_>>()
        };
        assert!(of_sides(setup).is_empty());
        let off = of_sides(&format!("{setup}[appearance]\nfollow=false\n"));
        assert_eq!(off.len(), 2, "{off:?}");
        assert!(off.iter().all(|f| f.1.contains("\nbackground #303030\n")));
    }

    #[test]
    fn selected_and_faded_text_are_pairs_of_their_own() {
        let drawn = |conf: &str| {
            let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", conf)]);
            read(&access).drawn
        };
        let own = drawn(
            "foreground #dddddd\nbackground #101010\ncolor1 #cc4444\nselection_background #334455\nselection_foreground none\ninactive_text_alpha 0.6\ndim_opacity 0.5\n",
        );
        let has = |what: &str| own.iter().find(|d| d.what == what);
        assert_eq!(
            has("red, selected").unwrap().ground.role,
            Slot::Selection.into()
        );
        assert_eq!(has("red, in an inactive window").unwrap().fade, 0.6);
        assert_eq!(has("faint text").unwrap().usage, Usage::Secondary);
        // A selection with a text color of its own draws nothing else.
        let one = drawn(
            "foreground #dddddd\nbackground #101010\ncolor1 #cc4444\nselection_background #334455\nselection_foreground #ffffff\n",
        );
        assert!(
            one.iter().all(|d| !d.what.ends_with(", selected")),
            "{one:?}"
        );
    }

    #[test]
    fn the_last_value_counts_wherever_it_stands() {
        let access = MemoryAccess::with(&[
            (
                ".config/kitty/kitty.conf",
                "color1 #111111\ninclude a/x.conf\ncolor2 #020202\n",
            ),
            (
                ".config/kitty/a/x.conf",
                "color1 #222222\r\ncolor2 rgb:1/2/3\r\ninclude y.conf\n",
            ),
            (".config/kitty/a/y.conf", "font_size 9\nbackground sharp\n"),
        ]);
        let report = read(&access);
        let red = report.effective(&Slot::Red.into()).unwrap();
        assert_eq!(red.value, Value::Color(Rgb::from_u32(0x22_2222)));
        assert_eq!(
            red.chain,
            [("/home/warden/.config/kitty/kitty.conf".into(), 2)]
        );
        let green = report.effective(&Slot::Green.into()).unwrap();
        assert_eq!(green.value, Value::Color(Rgb::from_u32(0x02_0202)));
        assert_eq!(green.place.at.line, 3);
        assert_eq!(report.problems.len(), 1);
        assert_eq!(report.problems[0].at.unwrap().line, 2);
    }

    #[test]
    fn circles_and_missing_includes_are_told_with_their_line() {
        let access = MemoryAccess::with(&[(
            ".config/kitty/kitty.conf",
            "\ninclude kitty.conf\ninclude nosuch.conf\ncolor1 #010101\n",
        )]);
        let report = read(&access);
        let lines: Vec<_> = report.problems.iter().map(|p| p.at.unwrap().line).collect();
        assert_eq!(lines, [2, 3]);
        assert!(report.effective(&Slot::Red.into()).is_some());
    }

    const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\nred='#cc0000'\ngreen='#00cc00'\n[font]\nfamily='Reedbed Mono NF'\n";

    #[test]
    fn an_edit_touches_only_the_value() {
        let text = "# mine\n  color1\t #ff0000  \nmap f1 x\n";
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", text)]);
        let after = &planned(&access, SETUP)[0].1;
        assert!(
            after.starts_with("# mine\n  color1\t #cc0000  \n"),
            "{after}"
        );
        assert!(
            after.contains("\n  color2\t #00cc00") || after.contains("\n  color2  #00cc00"),
            "{after}"
        );
        assert!(after.contains("map f1 x\n"), "{after}");
        assert!(after.contains("font_family Reedbed Mono NF\n"), "{after}");
    }

    #[test]
    fn a_commented_default_is_uncommented_in_place() {
        let text = "#: Colors\r\n# color1 #cc0403\r\n# color2 #00cc00\r\n";
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", text)]);
        let report = read(&access);
        assert!(report.effective(&Slot::Red.into()).unwrap().is_default());
        let after = &planned(&access, SETUP)[0].1;
        assert!(
            after.starts_with("#: Colors\r\ncolor1 #cc0000\r\n"),
            "{after}"
        );
        assert!(
            after.contains("\r\n# color2 #00cc00\r\n"),
            "what agrees stays: {after}"
        );
    }

    #[test]
    fn a_missing_last_newline_is_kept_apart_from_new_lines() {
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", "map f1 x")]);
        let after = &planned(&access, SETUP)[0].1;
        assert!(
            after.starts_with("map f1 x\nbackground #101010\n"),
            "{after}"
        );
        assert!(!after.contains("\n\n"), "{after}");
    }

    #[test]
    fn nothing_is_made_for_a_program_that_is_not_there() {
        assert!(planned(&MemoryAccess::default(), SETUP).is_empty());
        let mut access = MemoryAccess::default();
        access.programs.push("kitty".into());
        assert_eq!(planned(&access, SETUP)[0].0, ".config/kitty/kitty.conf");
    }

    proptest! {
        #[test]
        fn applying_gives_what_was_wanted(body in proptest::collection::vec(prop_oneof![
            Just("color1 #123456"), Just("# color3 #030303"), Just("background  #000000"), Just("map a b"),
            Just("include x.conf"), Just("  foreground rgb:ff/ff/ff"), Just("#: prose"), Just(""), Just("color1 bad"),
        ], 0..12), crlf in any::<bool>()) {
            let text = body.join(if crlf { "\r\n" } else { "\n" });
            let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", &text), (".config/kitty/x.conf", "color1 #999999\n")]);
            let mut changed = access.clone();
            for (path, after) in planned(&access, SETUP) {
                changed.files.insert(std::path::Path::new(MEMORY_HOME).join(path), after.into_bytes());
            }
            prop_assert!(planned(&changed, SETUP).is_empty(), "a second plan is empty");
            let report = read(&changed);
            let red = report.effective(&Slot::Red.into()).unwrap().value.clone();
            prop_assert_eq!(red, Value::Color(Rgb::from_u32(0xcc_0000)));
        }

        #[test]
        fn any_bytes_are_read(bytes in proptest::collection::vec(any::<u8>(), 0..300)) {
            let mut access = MemoryAccess::default();
            access.files.insert("/home/warden/.config/kitty/kitty.conf".into(), bytes);
            let report = read(&access);
            for r in &report.readings {
                prop_assert!(r.place.span.end <= report.files[0].bytes.len());
            }
        }
    }
}
