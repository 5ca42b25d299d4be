//! The state and the views without a terminal.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use wealdmist_core::Slot;
use wealdmist_core::color::Depth;
use wealdmist_core::role::RoleId;
use wealdmist_host::{Home, Survey, make_demo};

use super::app::{App, Effect, Message};
use super::instrument::Instrument;
use super::keys::Step;
use super::view;

pub(super) fn app(size: (u16, u16)) -> (tempfile::TempDir, App) {
    let folder = tempfile::tempdir().unwrap();
    let home = folder.path().join("home");
    make_demo(&home).unwrap();
    let home = Home::open(Some(&home)).unwrap();
    let survey = Survey::open(home, None, Some(("Saltmarsh", "dusk"))).unwrap();
    (folder, App::new(survey, false, size))
}

pub(super) fn key(code: KeyCode) -> Message {
    Message::Key(KeyEvent::new(code, KeyModifiers::NONE))
}

pub(super) fn press(app: &mut App, keys: &str) -> Vec<Effect> {
    keys.chars()
        .flat_map(|c| app.update(key(KeyCode::Char(c))))
        .collect()
}

pub(super) fn screen(app: &App, depth: Depth, unicode: bool) -> String {
    let mut terminal = Terminal::new(TestBackend::new(app.size.0, app.size.1)).unwrap();
    let instrument = Instrument::new(depth, unicode);
    terminal
        .draw(|frame| drop(view::draw(app, &instrument, frame)))
        .unwrap();
    let buffer = terminal.backend().buffer();
    let width = usize::from(buffer.area.width).max(1);
    let rows = buffer.content().chunks(width);
    rows.map(|r| {
        r.iter()
            .map(ratatui::buffer::Cell::symbol)
            .collect::<String>()
            + "\n"
    })
    .collect()
}

#[test]
fn steps_and_undo_go_to_and_fro() {
    let (_folder, mut app) = app((160, 47));
    let before = app.survey.doc.text().to_owned();
    press(&mut app, "2");
    assert_eq!(app.step, Step::Palette);
    for _ in 0..5 {
        app.update(key(KeyCode::Right));
    }
    let changed = app.survey.doc.text().to_owned();
    assert_ne!(changed, before);
    assert!(app.is_changed() && app.derived.counts.drift > 7);
    // Five small steps on one channel are one change.
    press(&mut app, "u");
    assert_eq!(app.survey.doc.text(), before);
    press(&mut app, "U");
    assert_eq!(app.survey.doc.text(), changed);
}

#[test]
fn a_typed_value_that_is_no_color_changes_nothing_and_says_so() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "2#");
    app.update(Message::Pasted("zz\x1b".into()));
    app.update(key(KeyCode::Enter));
    assert!(
        app.note
            .as_ref()
            .is_some_and(|n| n.bad && n.text.contains("#rrggbb"))
    );
    assert!(!app.is_changed());
}

#[test]
fn the_trial_is_worn_follows_the_draft_and_comes_off() {
    let (_folder, mut app) = app((160, 47));
    let worn = |effects: Vec<Effect>| match effects.as_slice() {
        [Effect::Wear(bytes)] => String::from_utf8(bytes.clone()).unwrap(),
        other => panic!("{other:?}"),
    };
    assert!(worn(press(&mut app, "t")).contains("\x1b]10;#d7d6cc\x1b\\"));
    press(&mut app, "2");
    let changed = worn(app.update(key(KeyCode::Right)));
    let color = app.derived.look.slot(Slot::Foreground);
    assert!(changed.contains(&format!("\x1b]10;{color}\x1b\\")));
    // Applying takes it off first: an override would hide what the file says.
    press(&mut app, "5");
    let effects = app.update(key(KeyCode::Enter));
    assert!(
        matches!(effects.as_slice(), [Effect::Wear(_), Effect::Apply(_)]),
        "{effects:?}"
    );
    assert!(!app.trial);
}

#[test]
fn enter_on_a_spot_stands_on_the_color_it_comes_from() {
    let (_folder, mut app) = app((160, 47));
    app.on_specimen = true;
    app.spot = app.specimen.find(&RoleId::known("keyword")).unwrap();
    app.update(key(KeyCode::Enter));
    let entry = app.entry().unwrap();
    assert_eq!(app.name_of(&entry.origin), "magenta");
    // A role without a color of its own in the setup is listed once it is gone to.
    app.on_specimen = true;
    app.spot = app.specimen.find(&RoleId::known("whitespace")).unwrap();
    app.update(key(KeyCode::Enter));
    let entry = app.entry().unwrap();
    assert_eq!(app.name_of(&entry.origin), "whitespace");
}

#[test]
fn aligning_a_silent_tool_adds_only_what_it_can_express() {
    let (_folder, mut app) = app((160, 47));
    let items = app.ledger.items(&app.derived.ledger);
    let at = |role: &str| {
        items.iter().position(|i| {
            matches!(i, super::app::Item::Row(r) if app.derived.ledger.rows[*r].role.as_str() == role)
        })
    };
    let (error, selected) = (at("error").unwrap(), at("selection-text").unwrap());
    app.ledger.cursor = error;
    app.ledger.column = 1;
    let before = app.survey.doc.text().to_owned();
    press(&mut app, "s");
    assert_eq!(
        app.survey.doc.text(),
        before,
        "tmux has no setting for errors"
    );
    assert!(app.note.as_ref().is_some_and(|n| n.bad));
    app.ledger.cursor = selected;
    app.ledger.column = 2;
    press(&mut app, "s");
    assert!(app.note.is_some());
}

/// A small generator, so that the same keys come every time.
struct Dice(u64);

impl Dice {
    fn roll(&mut self, sides: u64) -> u64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) % sides
    }
}

#[test]
fn any_keys_at_any_size_are_drawn() {
    let codes = [
        KeyCode::Up,
        KeyCode::Down,
        KeyCode::Left,
        KeyCode::Right,
        KeyCode::PageUp,
        KeyCode::PageDown,
        KeyCode::Home,
        KeyCode::End,
        KeyCode::Enter,
        KeyCode::Esc,
        KeyCode::Tab,
        KeyCode::Backspace,
    ];
    let letters: Vec<char> = "12345[]utzaseo lch#mp/x?:0fjk".chars().collect();
    for seed in 0..4 {
        let (_folder, mut app) = app((160, 47));
        let mut dice = Dice(seed);
        for _ in 0..400 {
            let message = match dice.roll(12) {
                0 => Message::Resized(dice.roll(230) as u16 + 1, dice.roll(80) as u16 + 1),
                1 => Message::ClickedRow(dice.roll(90) as usize, Some(dice.roll(6) as usize)),
                2 => Message::ClickedSpot(dice.roll(90) as usize),
                3 => Message::Wheel(dice.roll(7) as isize - 3),
                4..=6 => key(codes[dice.roll(codes.len() as u64) as usize]),
                _ => key(KeyCode::Char(
                    letters[dice.roll(letters.len() as u64) as usize],
                )),
            };
            app.update(message);
            let depth = [
                Depth::None,
                Depth::Ansi16,
                Depth::Indexed256,
                Depth::TrueColor,
            ][dice.roll(4) as usize];
            let plain = dice.roll(2) == 0;
            let drawn = screen(&app, depth, !plain);
            assert!(!plain || drawn.is_ascii(), "{drawn}");
        }
    }
}

#[test]
fn empty_benches_say_what_to_do() {
    let folder = tempfile::tempdir().unwrap();
    let home = Home::open(Some(folder.path())).unwrap();
    let survey = Survey::open(home, None, None).unwrap();
    let mut app = App::new(survey, false, (100, 30));
    for (keys, want) in [
        ("3", "No pair was found"),
        ("4", "plain ASCII"),
        ("5", "Nothing to apply"),
        ("1o", "No drift"),
    ] {
        press(&mut app, keys);
        let drawn = screen(&app, Depth::TrueColor, true);
        assert!(drawn.contains(want), "{drawn}");
    }
}

/// The screen as it should look, row by row, without what is blank at the end of a row.
fn assert_screen(app: &App, wanted: &[&str]) {
    let drawn = screen(app, Depth::None, true);
    let rows: Vec<&str> = drawn.lines().map(str::trim_end).collect();
    if std::env::var_os("SHOW_SCREENS").is_some() {
        let shown: String = rows.iter().map(|r| format!("        {r:?},\n")).collect();
        panic!("\n{shown}");
    }
    for (i, (row, want)) in rows.iter().zip(wanted).enumerate() {
        assert_eq!(row, want, "row {i} of\n{drawn}");
    }
    assert_eq!(rows.len(), wanted.len());
}

fn with_font(size: (u16, u16)) -> (tempfile::TempDir, App) {
    let (folder, mut app) = app(size);
    let family = app.survey.doc.setup().font.family.clone();
    app.update(Message::Font(wealdmist_host::find_font(
        &app.survey.home,
        family.as_deref(),
    )));
    (folder, app)
}

#[test]
fn the_ledger_as_it_looks() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "o");
    assert_screen(&app, LEDGER);
}

#[test]
fn the_ruler_as_it_looks() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "2");
    assert_screen(&app, RULER);
}

#[test]
fn the_pairs_as_they_look() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "3");
    assert_screen(&app, PAIRS);
}

#[test]
fn the_characters_as_they_look() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "4");
    assert_screen(&app, CHARACTERS);
}

#[test]
fn the_plan_as_it_looks() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "5");
    app.update(key(KeyCode::Down));
    assert_screen(&app, PLAN);
}

#[test]
fn the_specimen_as_it_looks() {
    let (_folder, mut app) = with_font((100, 30));
    app.update(key(KeyCode::Tab));
    app.update(key(KeyCode::Down));
    assert_screen(&app, SPECIMEN);
}

#[test]
fn the_keys_as_they_look() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "?");
    assert_screen(&app, KEYS);
}

#[test]
fn pairs_under_conditions_as_they_look() {
    let (_folder, mut app) = with_font((100, 40));
    press(&mut app, "3--vvd");
    app.update(key(KeyCode::Down));
    assert_screen(&app, CONDITIONS);
}

#[test]
fn a_repair_as_it_looks() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "3r");
    assert_screen(&app, REPAIR);
}

#[test]
fn variations_as_they_look() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "2n");
    app.update(key(KeyCode::Enter));
    app.update(key(KeyCode::Down));
    assert_screen(&app, VARIATIONS);
}

#[test]
fn the_chart_as_it_looks() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "2");
    app.update(key(KeyCode::Down));
    press(&mut app, "i");
    assert_screen(&app, CHART);
}

#[test]
fn the_keys_of_contrast_as_they_look() {
    let (_folder, mut app) = with_font((100, 45));
    press(&mut app, "3?");
    assert_screen(&app, CONTRAST_KEYS);
}

#[test]
fn the_ways_to_a_palette_as_they_look() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "2n");
    assert_screen(&app, WAYS);
}

#[test]
fn pairs_in_a_small_terminal_as_they_look() {
    let (_folder, mut app) = with_font((80, 24));
    press(&mut app, "3v");
    assert_screen(&app, PAIRS_SMALL);
}

#[test]
fn a_repair_in_a_small_terminal_as_it_looks() {
    let (_folder, mut app) = with_font((80, 24));
    press(&mut app, "3---r");
    assert_screen(&app, REPAIR_SMALL);
}

#[test]
fn the_ruler_in_a_small_terminal_as_it_looks() {
    let (_folder, mut app) = with_font((80, 24));
    press(&mut app, "2sL");
    assert_screen(&app, RULER_SMALL);
}

#[test]
fn the_chart_in_a_small_terminal_as_it_looks() {
    let (_folder, mut app) = with_font((80, 24));
    press(&mut app, "2i");
    assert_screen(&app, CHART_SMALL);
}

#[test]
fn pairs_beside_the_specimen_as_they_look() {
    let (_folder, mut app) = with_font((160, 47));
    press(&mut app, "3-b");
    app.update(key(KeyCode::Down));
    assert_screen(&app, PAIRS_LARGE);
}

#[test]
fn palettes_from_an_image_as_they_look() {
    let (_folder, mut app) = with_font((160, 47));
    let pixels = (0..64 * 40)
        .flat_map(|i| {
            if i % 64 < 20 {
                [30, 40, 60]
            } else {
                [200, 120, 60]
            }
        })
        .collect();
    let picture = wealdmist_host::Picture {
        width: 64,
        height: 40,
        pixels,
    };
    app.update(Message::ImageRead("weir".into(), Ok(picture)));
    press(&mut app, " ");
    app.update(key(KeyCode::Down));
    assert_screen(&app, IMAGE_LARGE);
}

#[rustfmt::skip]
const LEDGER: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── ledger: what your dotfiles say, beside the setup ────────────────────────────────────────────────",
    " role                       setup         kitty         tmux          nvim          bash",
    " ▾ General  3 drift",
    "   font                     Reedbed Mono… ·                           ≠ ReedbedMon…",
    "   color depth              24-bit                      ≠ 256 colors  ·",
    "   theme in use             wealdmist                                 ≠ creek       ≠ PS1 of its…",
    " ▾ Terminal colors  1 drift",
    "   selection                 #264346      ·             ·             ≠  #203a3d",
    " ▾ Window  2 drift",
    "   active pane border        #74c5c1      ·             ≠  #528b8e",
    "   inactive pane border      #2b393c      ·             ·             ≠  #33474a",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " font › nvim drifts",
    " ~/.config/nvim/init.lua:5:18",
    "   vim.o.guifont = \"ReedbedMono NF:h12\"",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " font › Reedbed Mono NF",
    " written in kitty kitty.conf:4 (Reedbed Mono NF)   nvim init.lua:5 (ReedbedMono NF)",
    " a take this value into the setup   s set this tool to the setup   e keep as exception",
];

#[rustfmt::skip]
const RULER: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── lightness ruler ─────────────────────────────────────────────────────────────────────────────────",
    " color                       0.0        0.2         0.4         0.6         0.8         1.0   ratio",
    " foreground        #d7d6cc               │                  ......:::::::=========▲========  12.26",
    " background        #0d191c               ▲",
    " cursor            #e4c973               │                  ......:::::::=======▲==========  11.00",
    " cursor-text       #0d191c   ============▲=========::::::......                 │            11.00",
    " selection         #264346               │         ▲",
    " selection-text    #ecebe4                         │                ......::::::::====▲====   8.90",
    " black             #1c292c               │   ▲",
    " red               #e7736e               │                   ......::::▲::=================   6.03",
    " green             #8bbc7b               │                 ......:::::::==▲================   8.17",
    " yellow            #dcb96b               │                  ......:::::::=====▲============   9.54",
    " blue              #62a7d3               │                  ......::::::▲==================   6.81",
    " magenta           #d185b5               │                   ......:::::▲:=================   6.59",
    " cyan              #74c5c1               │                 ......:::::::====▲==============   8.95",
    " white             #bfbeb6               │                  ......:::::::=====▲============   9.60",
    " bright-black      #455356               │             ▲    ......:::::::==================   2.24!",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " foreground  #d7d6cc   Level at the weir: 1.84 m   used by 5 roles",
    " l lightness      0.87  ╱-╱╱╱-----------------------------------------------------------▲--------╱",
    " c chroma        0.014  ---▲------------------------------------╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱",
    " h hue            102°  ---------------------▲----------------------------------------------------",
    " behind the colors: text reaches   below 3  .3:1  :4.5:1  =7:1   ╱ outside sRGB",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " typed command › foreground ›  #d7d6cc on  #0d191c › 12.26:1 (text needs 4.5)",
    " written in kitty dusk.conf:2 (#d7d6cc)   nvim creek.lua:5 (#d7d6cc)",
    " l lightness   c chroma   h hue   ← → change   # type a value   m mend contrast   n new palette",
];

#[rustfmt::skip]
const PAIRS: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── pairs, worst first ──────────────────────────────────────────────────────────────────────────────",
    " seen - + opacity 100%  w over black/white  d dimmed off  b 24-bit  v full vision",
    " as now     draft        now    draft  needs  tool    what",
    "  Aa 1.84 m  Aa 1.84 m !  1.68   1.48  3:1    nvim    Comment in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  1.94   1.94  3:1    nvim    LineNr",
    "  Aa 1.84 m  Aa 1.84 m !  2.02   2.02  3:1    tmux    window-status-style",
    "  Aa 1.84 m  Aa 1.84 m !  3.19   3.19  4.5:1  tmux    status-right",
    "  Aa 1.84 m  Aa 1.84 m !  2.24   2.24  3:1    kitty   bright black",
    "  Aa 1.84 m  Aa 1.84 m !  2.27   2.27  3:1    nvim    Comment on the current line",
    "  Aa 1.84 m  Aa 1.84 m !  4.08   3.58  4.5:1  nvim    DiagnosticError in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  2.49   2.49  3:1    nvim    Comment",
    "  Aa 1.84 m  Aa 1.84 m !  2.50   2.50  3:1    nvim    StatusLineNC",
    "  Aa 1.84 m  Aa 1.84 m !  4.46   3.92  4.5:1  nvim    Statement in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  4.61   4.05  4.5:1  nvim    Function in a selection",
    "  Aa 1.84 m  Aa 1.84 m    5.52   4.85  4.5:1  nvim    String in a selection",
    "  Aa 1.84 m  Aa 1.84 m    6.05   5.32  4.5:1  nvim    Type in a selection",
    "  Aa 1.84 m  Aa 1.84 m    5.50   5.50  4.5:1  nvim    DiagnosticError on the current line",
    "  Aa 1.84 m  Aa 1.84 m    6.46   5.67  4.5:1  nvim    Number in a selection",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " Comment in a selection  comment #4b5a5d on selection #264346  (secondary)",
    " 1.48:1 of 3:1: m mends this pair, r repairs all 11 that fail",
    " second opinion: lightness contrast 11 of 50, faint in thin strokes",
    "",
    " text in nvim creek.lua:6 (#4b5a5d)   ground in kitty dusk.conf:6 (#264346)   tmux bar.conf:12 (#2…",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " comment › comment = #4b5a5d ›  #4b5a5d on  #0d191c › 2.49:1 (secondary needs 3)",
    " written in nvim creek.lua:6 (#4b5a5d)",
    " m mend this pair   r repair all   Enter edit the text color   e keep as it is",
];

#[rustfmt::skip]
const CHARACTERS: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── characters in your dotfiles ─────────────────────────────────────────────────────────────────────",
    " Reedbed Mono NF  Regular, fixed pitch, 1905 characters   ~/.local/share/fonts/ReedbedMonoNF-Regul…",
    "",
    " sign    code point verdict                 instead           where",
    " icon    U+F64F     ! moved in newer fonts  U+F017            tmux bar.conf:6:35",
    " icon    U+F8FE     ! moved in newer fonts                    tmux bar.conf:6:56",
    " icon    U+E5FF     ! missing               U+F07B            bash .bashrc:7:18",
    " icon    U+F061A    ! missing               U+F2DB            bash .bashrc:7:62",
    " icon    U+F43A     in the font                               tmux bar.conf:5:91",
    " icon    U+F00E     in the font                               tmux bar.conf:8:92",
    " ✗       U+2717     in the font                               nvim init.lua:13:53",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " U+F64F was an icon in older fonts; newer ones keep it elsewhere",
    " ~/.config/tmux/bar.conf:6:35",
    "   set -g status-right \"#[fg=#687476]<U+F64F> %H:%M #[fg=#d7d6cc]<U+F8FE> heronry \"",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " Tab goes to the specimen: arrows hop from spot to spot.",
    "",
    " Tab bench / specimen   u undo   ? keys   q quit",
];

#[rustfmt::skip]
const PLAN: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── plan ────────────────────────────────────────────────────────────────────────────────────────────",
    " ~/.config/tmux/tmux.conf  tmux: at once, in every server of this home; color depth when a client …",
    "   ■ 24-bit colors for programs under xterm-256color",
    "   ■ active pane border: #528b8e → #74c5c1",
    " ~/.config/nvim/init.lua  nvim: at once, in every running Neovim of this home",
    "   ■ font: ReedbedMono NF → Reedbed Mono NF; choose the theme wealdmist instead of creek; inactive…",
    " ~/.config/nvim/colors/wealdmist.lua (new)  nvim: at once, in every running Neovim of this home",
    "   ■ written whole: the file is ours",
    " ~/.bashrc  bash: at each shell's next prompt; in shells without our prompt when they start again",
    "   ■ load the prompt",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " @@ -1,5 +1,6 @@",
    "  # tmux on heronry",
    "  set -g default-terminal \"tmux-256color\"",
    " +set -s 'terminal-features[80]' 'xterm-256color:RGB'",
    "  set -g mouse on",
    "  set -g base-index 1",
    "  setw -g mode-keys vi",
    "",
    "",
    "",
    "",
    "",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " Tab goes to the specimen: arrows hop from spot to spot.",
    "",
    " Space leave out / take in   Enter apply   x take back the last apply   r reload   v verify",
];

#[rustfmt::skip]
const SPECIMEN: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── specimen: your draft (Tab: bench) ───────────────────────────────────────────────────────────────",
    "  ~/src/marsh-gauge  ↳ spring-tide",
    "▶ $ ./gauge --station weir",
    "  station weir  1.84 m rising  gauge.invalid/weir",
    "  error: sensor 7 is silent since 04:10",
    "  ~/src/marsh-gauge  ↳ spring-tide ±  ✗ 2",
    "  $ grep selected text",
    "  ─────────────────────────────────────────────────────────────────────────────────────────────────",
    "    36 const DATUM_OFFSET: f64 = 1.25;",
    "    37 static STATION: &str = \"weir\";",
    "    38",
    "    39 // Water level above datum, in metres.  level datum",
    "    40 #[derive(Clone)]",
    "    41 pub struct Gauge {                                                           datum    f64",
    "    42     datum: f64,                                                              depth    f64",
    "    43 }                                                                            drain()",
    "    44",
    "    45 fn level(raw: u16) {",
    "  ● 46     let unit = \"metre\\n\";",
    "  ● 47     raw * 0.0125 + DATUM  unknown name",
    "    48 }  // TODO calibrate",
    "   gauge.rs  47:12                                 notes.md",
    "  copied 3 lines  info: saved  see docs/",
    "   marsh  1 notes  2 gauge+  3 log!   prefix                                       heronry · 14:20",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " typed command › foreground ›  #d7d6cc on  #0d191c › 12.26:1 (text needs 4.5)",
    " written in kitty dusk.conf:2 (#d7d6cc)   nvim creek.lua:5 (#d7d6cc)",
    " Enter edit this color   arrows hop from spot to spot   m mend contrast   y pick this color up",
];

#[rustfmt::skip]
const KEYS: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── ledger: what your dotfiles say, beside the setup ────────────────────────────────────────────────",
    " role                       setup         kitty         tmux          nvim          bash",
    " ▾ General  3 drift",
    "   font                     Reedbed Mono… ·                           ≠ ReedbedMon…",
    "   f── keys here: Survey ───────────────────────────────────────────────────────────────────────",
    "   s│         a   take this value into the setup           z   specimen fills the screen       │",
    "   c│         s   set this tool to the setup             1–5   go to a step                    │",
    "   t│         e   keep as exception                      [ ]   step back, step on              │…",
    "   o│         o   only drift                               u   undo                            │",
    "   p│     Space   fold group                               U   redo                            │",
    " ▾ T│         /   show only some roles                     D   dark / light                    │",
    "   f│     Enter   edit this color                          P   draw this to a file             │",
    "   b│       ↑ ↓   move                                     T   try on running tmux and Neovim  │",
    "   c│ PgUp PgDn   a page                                   t   try on this terminal            │",
    "   t│  Home End   first, last                              :   the same as a command           │",
    "   s│                                                      ?   keys                            │",
    "   s│       Tab   bench / specimen                         q   quit                            │",
    "   b│                                                                                          │",
    "   r│                                                                                          │",
    "────│ The mouse points, too. Any key closes this.                                              │────",
    " fon────────────────────────────────────────────────────────────────────────────────────────────",
    " ~/.config/nvim/init.lua:5:18",
    "   vim.o.guifont = \"ReedbedMono NF:h12\"",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " font › Reedbed Mono NF",
    " written in kitty kitty.conf:4 (Reedbed Mono NF)   nvim init.lua:5 (ReedbedMono NF)",
    " a take this value into the setup   s set this tool to the setup   e keep as exception",
];

#[rustfmt::skip]
const CONDITIONS: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   35 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 35 › 4 Glyphs 4 › 5 Apply 8",
    "── pairs, worst first ──────────────────────────────────────────────────────────────────────────────",
    " seen - + opacity 90%  w over black/white  d dimmed 70%  b 24-bit  v deuteranopia",
    " as now     draft        now    draft  needs  tool    what",
    "  Aa 1.84 m  Aa 1.84 m !  1.30   1.30  3:1    nvim    LineNr",
    "  Aa 1.84 m  Aa 1.84 m !  1.45   1.31  3:1    nvim    Comment in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  1.45   1.45  3:1    kitty   bright black",
    "  Aa 1.84 m  Aa 1.84 m !  1.55   1.55  3:1    nvim    Comment",
    "  Aa 1.84 m  Aa 1.84 m !  1.74   1.74  3:1    nvim    Comment on the current line",
    "  Aa 1.84 m  Aa 1.84 m !  2.97   2.68  4.5:1  nvim    DiagnosticError in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  2.97   2.70  4.5:1  nvim    Function in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  3.12   2.81  4.5:1  nvim    Statement in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  1.89   1.89  3:1    nvim    StatusLineNC",
    "  Aa 1.84 m  Aa 1.84 m !  2.02   2.02  3:1    tmux    window-status-style",
    "  Aa 1.84 m  Aa 1.84 m !  3.17   3.17  4.5:1  kitty   blue",
    "  Aa 1.84 m  Aa 1.84 m !  3.17   3.17  4.5:1  nvim    Function",
    "  Aa 1.84 m  Aa 1.84 m !  3.18   3.18  4.5:1  tmux    status-right",
    "  Aa 1.84 m  Aa 1.84 m !  3.55   3.22  4.5:1  nvim    String in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  3.23   3.23  4.5:1  kitty   red",
    "  Aa 1.84 m  Aa 1.84 m !  3.23   3.23  4.5:1  nvim    DiagnosticError",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " bright black  bright-black #455356 on background #0d191c  (secondary)",
    " 1.45:1 of 3:1: m mends this pair, r repairs all 35 that fail",
    " second opinion: lightness contrast 11 of 50, faint in thin strokes",
    " seen as #43464c on #2c2d33: 90% opaque over black or white, dimmed to 70%, deuteranopia",
    " text in kitty dusk.conf:17 (#455356)   ground in kitty dusk.conf:3 (#0d191c)   nvim creek.lua:5 (…",
    "── ratio against the window's opacity ──────────────────── told apart by color ─────────────────────",
    "   3                                                       !  5 error and success",
    "   3 ─────────────────────────────────────────────────     !  5 removed and added lines",
    "                                                           !  5 prompt sign and exit status",
    "                                                           !  8 warning and success",
    "     ▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄                    ▄▄       11 error and warning",
    "                                ▀▀▄▄▄         ▄▄▄▀▀▀         32 error and information",
    "   1                                 ▀▀▀▄▄▄▀▀▀               50 active and other borders",
    "     0                       50%                ▲ 100%    below 10: taken for one another",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " terminal color › bright-black ›  #455356 on  #0d191c › 1.45:1 (secondary needs 3)",
    " written in kitty dusk.conf:17 (#455356)",
    " m mend this pair   r repair all   Enter edit the text color   e keep as it is",
];

#[rustfmt::skip]
const REPAIR: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── proposal ────────────────────────────────────────────────────────────────────────────────────────",
    " repair of the whole palette                          the specimen shows it; nothing is changed yet",
    " 11 of 69 pairs below their target, 0 after; 9 colors move; seen: as it is",
    "",
    " color                  before        after         moves   least ratio, before and after",
    " comment                 #4b5a5d       #668085      14.2     Aa  1.48 to 3.01 of 3",
    " line-number             #3c4a4d       #51686d      10.5     Aa  1.94 to 3.03 of 3",
    " bar.right.text          #687476       #788b8e       8.8     Aa  3.19 to 4.52 of 4.5",
    " bar.window.text         #4a5658       #5b6e71       8.7     Aa  2.02 to 3.00 of 3",
    " bright-black            #455356       #53676b       7.1     Aa  2.24 to 3.00 of 3",
    " selection               #264346       #1e3739       3.8     Aa  1.48 to 3.01 of 3",
    " status.inactive.text    #566467       #5d6e71       3.7     Aa  2.50 to 3.02 of 3",
    " red                     #e7736e       #ec7973       1.7     Aa  3.58 to 4.55 of 4.5",
    " dark-gray               #19272a       #162326       1.3     Aa  2.02 to 3.00 of 3",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " comment › comment = #4b5a5d ›  #668085 on  #0d191c › 4.26:1 (secondary needs 3)",
    " written in nvim creek.lua:6 (#4b5a5d)",
    " Enter take it   Esc leave it   b before / after   Space keep beside to compare",
];

#[rustfmt::skip]
const VARIATIONS: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── proposal ────────────────────────────────────────────────────────────────────────────────────────",
    " variations of the palette                            the specimen shows it; nothing is changed yet",
    "",
    "   dusk warmer               every pair reaches its target",
    "    Level 1.84 m  0  1  2  3  4  5  6  7  8  9  10 11 12 13 14 15",
    "",
    "   dusk cooler               every pair reaches its target",
    "    Level 1.84 m  0  1  2  3  4  5  6  7  8  9  10 11 12 13 14 15",
    "",
    "   dusk softer               every pair reaches its target",
    "    Level 1.84 m  0  1  2  3  4  5  6  7  8  9  10 11 12 13 14 15",
    "",
    "   dusk sharper              every pair reaches its target",
    "    Level 1.84 m  0  1  2  3  4  5  6  7  8  9  10 11 12 13 14 15",
    "",
    "",
    "",
    "── 2 of 4 ──────────────────────────────────────────────────────────────────────────────────────────",
    " Enter adds the palette to the draft and puts it to use; u takes that back.",
    "",
    "",
    "",
    "",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " typed command › foreground ›  #d0d7d6 on  #041924 › 12.29:1 (text needs 4.5)",
    " written in kitty dusk.conf:2 (#d7d6cc)   nvim creek.lua:5 (#d7d6cc)",
    " Enter take it   Esc leave it   b before / after   Space keep beside to compare",
];

#[rustfmt::skip]
const CHART: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── the 256 indexed colors ──────────────────────────────────────────────────────────────────────────",
    " for background  #0d191c",
    "",
    "  0   1   2   3   4   5   6   7   8   9   10  11  12  13  14  15",
    "  16  17  18  19  20  21   52  53  54  55  56  57   88  89  90  91  92  93",
    "  22  23  24  25  26  27   58  59  60  61  62  63   94  95  96  97  98  99",
    "  28  29  30  31  32  33   64  65  66  67  68  69  100 101 102 103 104 105",
    "  34  35  36  37  38  39   70  71  72  73  74  75  106 107 108 109 110 111",
    "  40  41  42  43  44  45   76  77  78  79  80  81  112 113 114 115 116 117",
    "  46  47  48  49  50  51   82  83  84  85  86  87  118 119 120 121 122 123",
    " 124 125 126 127 128 129  160 161 162 163 164 165  196 197 198 199 200 201",
    " 130 131 132 133 134 135  166 167 168 169 170 171  202 203 204 205 206 207",
    " 136 137 138 139 140 141  172 173 174 175 176 177  208 209 210 211 212 213",
    " 142 143 144 145 146 147  178 179 180 181 182 183  214 215 216 217 218 219",
    " 148 149 150 151 152 153  184 185 186 187 188 189  220 221 222 223 224 225",
    " 154 155 156 157 158 159  190 191 192 193 194 195  226 227 228 229 230 231",
    " 232 >233234 235 236 237 238 239 240 241 242 243",
    " 244 245 246 247 248 249 250 251 252 253 254 255",
    " index 233  #121212  1.05:1 on its ground  difference from now 6.3",
    "",
    "",
    "",
    "",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " prompt, folder › prompt.folder = #5fafff ›  #5fafff on  #0d191c › 7.73:1 (text needs 4.5)",
    " written in bash .bashrc:7 (#5fafff)",
    " Enter take this color   Esc leave the chart   Tab bench / specimen   u undo   ? keys",
];

#[rustfmt::skip]
const CONTRAST_KEYS: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── pairs, worst first ──────────────────────────────────────────────────────────────────────────────",
    " seen - + opacity 100%  w over black/white  d dimmed off  b 24-bit  v full vision",
    " as now     draft ── keys here: Contrast ─────────────────────────────────────────",
    "  Aa 1.84 m  Aa 1.│            m   mend this pair                                │",
    "  Aa 1.84 m  Aa 1.│            r   repair all                                    │",
    "  Aa 1.84 m  Aa 1.│        Enter   edit the text color                           │",
    "  Aa 1.84 m  Aa 1.│            g   edit the ground                               │",
    "  Aa 1.84 m  Aa 1.│            e   keep as it is                                 │",
    "  Aa 1.84 m  Aa 1.│            n   ratio it needs                                │",
    "  Aa 1.84 m  Aa 1.│            L   lock the text's color                         │on",
    "  Aa 1.84 m  Aa 1.│          - +   window's opacity                              │",
    "  Aa 1.84 m  Aa 1.│            w   what is behind the window                     │",
    "  Aa 1.84 m  Aa 1.│            d   dimmed pane                                   │",
    "  Aa 1.84 m  Aa 1.│            b   24-bit, 256, 16 colors                        │",
    "  Aa 1.84 m  Aa 1.│            v   color vision                                  │",
    "  Aa 1.84 m  Aa 1.│            V   how strong the deficiency is                  │",
    "  Aa 1.84 m  Aa 1.│            0   as it is                                      │nt line",
    "  Aa 1.84 m  Aa 1.│          ↑ ↓   move                                          │",
    "  Aa 1.84 m  Aa 1.│    PgUp PgDn   a page                                        │n",
    "  Aa 1.84 m  Aa 1.│     Home End   first, last                                   │e",
    "  Aa 1.84 m  Aa 1.│                                                              │",
    "  Aa 1.84 m  Aa 1.│          Tab   bench / specimen                              │",
    "  Aa 1.84 m  Aa 1.│            z   specimen fills the screen                     │",
    "  Aa 1.84 m  Aa 1.│          1–5   go to a step                                  │",
    "──────────────────│          [ ]   step back, step on                            │──────────────────",
    " Comment in a sele│            u   undo                                          │",
    " 1.48:1 of 3:1: m │            U   redo                                          │",
    " second opinion: l│            D   dark / light                                  │",
    "                  │            P   draw this to a file                           │",
    " text in nvim cree│            T   try on running tmux and Neovim                │ bar.conf:12 (#2…",
    "── ratio against t│            t   try on this terminal                          │──────────────────",
    " painted by the pr│            :   the same as a command                         │s",
    "                  │            ?   keys                                          │",
    "                  │            q   quit                                          │ion",
    "                  │                                                              │",
    "                  │                                                              │lines",
    "                  │ The mouse points, too. Any key closes this.                  │it status",
    "                  ────────────────────────────────────────────────────────────────orders",
    "                                                          below 10: taken for one another",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " comment › comment = #4b5a5d ›  #4b5a5d on  #0d191c › 2.49:1 (secondary needs 3)",
    " written in nvim creek.lua:6 (#4b5a5d)",
    " m mend this pair   r repair all   Enter edit the text color   e keep as it is",
];

#[rustfmt::skip]
const WAYS: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color    7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── new palette ─────────────────────────────────────────────────────────────────────────────────────",
    " a new palette, from",
    "",
    "   variations     warmer, cooler, softer, sharper",
    "   counterpart    the same hues on the other ground",
    "   seed colors    one or two, in any notation",
    "   image          a photograph or a wallpaper",
    "   file           an open format, or another program's",
    "   paste          the text of such a file",
    "   folder         walk through every palette in it",
    "",
    "   Each is shown on the specimen first and changes nothing until it is taken.",
    "   `wealdmist import --terminal` asks a running terminal for its colors.",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "",
    "────────────────────────────────────────────────────────────────────────────────────────────────────",
    " typed command › foreground ›  #d7d6cc on  #0d191c › 12.26:1 (text needs 4.5)",
    " written in kitty dusk.conf:2 (#d7d6cc)   nvim creek.lua:5 (#d7d6cc)",
    " Enter choose   Esc leave   Tab bench / specimen   u undo   ? keys",
];

#[rustfmt::skip]
const PAIRS_SMALL: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color",
    " 1 Survey 7 › 2 Palette › 3 Contrast 12 › 4 Glyphs 4 › 5 Apply 8",
    "── pairs, worst first ──────────────────────────────────────────────────────────",
    " seen - + opacity 100%  w over black/white  d dimmed off  b 24-bit  v protanopia",
    " as now     draft        now    draft  needs  tool    what",
    "  Aa 1.84 m  Aa 1.84 m !  1.67   1.46  3:1    nvim    Comment in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  3.26   2.84  4.5:1  nvim    DiagnosticError in a sel…",
    "  Aa 1.84 m  Aa 1.84 m !  1.97   1.97  3:1    nvim    LineNr",
    "  Aa 1.84 m  Aa 1.84 m !  2.03   2.03  3:1    tmux    window-status-style",
    "  Aa 1.84 m  Aa 1.84 m !  3.19   3.19  4.5:1  tmux    status-right",
    "  Aa 1.84 m  Aa 1.84 m !  2.27   2.27  3:1    kitty   bright black",
    "  Aa 1.84 m  Aa 1.84 m !  2.29   2.29  3:1    nvim    Comment on the current l…",
    "  Aa 1.84 m  Aa 1.84 m !  3.97   3.46  4.5:1  nvim    Statement in a selection",
    "  Aa 1.84 m  Aa 1.84 m !  2.51   2.51  3:1    nvim    StatusLineNC",
    "  Aa 1.84 m  Aa 1.84 m !  2.53   2.53  3:1    nvim    Comment",
    "────────────────────────────────────────────────────────────────────────────────",
    " Comment in a selection  comment #4b5a5d on selection #264346  (secondary)",
    " 1.46:1 of 3:1: m mends this pair, r repairs all 12 that fail",
    " second opinion: lightness contrast 10 of 50, faint in thin strokes",
    " seen as #57595d on #3f4146: protanopia",
    " text in nvim creek.lua:6 (#4b5a5d)   ground in kitty dusk.conf:6 (#264346)   …",
    "────────────────────────────────────────────────────────────────────────────────",
    " comment ›  #4b5a5d on  #0d191c › 2.53:1 (needs 3)  written in nvim creek.lua:…",
    " seen: protanopia",
];

#[rustfmt::skip]
const REPAIR_SMALL: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color",
    " 1 Survey 7 › 2 Palette › 3 Contrast 17 › 4 Glyphs 4 › 5 Apply 8",
    "── proposal ────────────────────────────────────────────────────────────────────",
    " repair of the whole palette      the specimen shows it; nothing is changed yet",
    " 17 of 69 pairs below their target, 0 after; 10 colors move; seen: 85% opaque …",
    "",
    " color                  before        after         moves   least ratio, befor…",
    " line-number             #3c4a4d       #64838a      20.7     Aa  1.23 to 3.01 …",
    " bright-black            #455356       #668389      17.8     Aa  1.42 to 3.02 …",
    " comment                 #4b5a5d       #678388      15.4     Aa  1.48 to 3.03 …",
    " bar.right.text          #687476       #788b8e       8.8     Aa  3.19 to 4.52 …",
    " bar.window.text         #4a5658       #5b6e71       8.7     Aa  2.02 to 3.00 …",
    " status.inactive.text    #566467       #5d6e71       3.7     Aa  2.50 to 3.02 …",
    " selection               #264346       #20393c       3.2     Aa  1.48 to 3.03 …",
    " red                     #e7736e       #ee7b76       2.3     Aa  3.58 to 4.52 …",
    " background              #0d191c       #071417       1.6     Aa  1.23 to 3.01 …",
    " dark-gray               #19272a       #162326       1.3     Aa  2.02 to 3.00 …",
    "",
    "",
    "",
    "",
    "────────────────────────────────────────────────────────────────────────────────",
    " comment ›  #678388 on  #071417 › 3.02:1 (needs 3)  written in nvim creek.lua:…",
    " Enter take it   Esc leave it   b before / after",
];

#[rustfmt::skip]
const RULER_SMALL: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── lightness ruler ─────────────────────────────────────────────────────────────",
    " color                       0.0    0.2     0.4     0.6     0.8     1.0   ratio",
    " bright-magenta    #e2a4cd           │             ...:::::==▲=========   8.89",
    " yellow            #dcb96b           │            ....:::::===▲========   9.54",
    " white             #bfbeb6           │            ....:::::===▲========   9.60",
    " bright-green      #a5d48f           │            ....::::=====▲=======  10.58",
    " bright-cyan       #94dad5           │            ....::::=====▲=======  11.30",
    " cursor            #e4c973           │            ....:::::====▲=======  11.00",
    " bright-yellow     #eed286           │            ....:::::======▲=====  12.10",
    "‡foreground        #d7d6cc           │            ....:::::======▲=====  12.26",
    " selection-text    #ecebe4                  │          .....:::::==▲===   8.90",
    " bright-white      #f1f0ea           │            ....:::::=========▲==  15.68",
    "────────────────────────────────────────────────────────────────────────────────",
    " foreground  #d7d6cc   Level at the weir: 1.84 m   used by 5 roles",
    " l lightness      0.87  ╱-╱╱------------------------------------------▲------╱",
    " c chroma        0.014  --▲--------------------------╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱╱",
    " h hue            102°  ---------------▲--------------------------------------",
    " behind the colors: text reaches   below 3  .3:1  :4.5:1  =7:1   ╱ outside sRGB",
    "",
    "────────────────────────────────────────────────────────────────────────────────",
    " foreground ›  #d7d6cc on  #0d191c › 12.26:1 (needs 4.5)  written in kitty dus…",
    " foreground is locked: repairs leave it",
];

#[rustfmt::skip]
const CHART_SMALL: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── the 256 indexed colors ──────────────────────────────────────────────────────",
    " for foreground  #d7d6cc",
    "",
    "  0   1   2   3   4   5   6   7   8   9   10  11  12  13  14  15",
    "  16  17  18  19  20  21   52  53  54  55  56  57   88  89  90  91  92  93",
    "  22  23  24  25  26  27   58  59  60  61  62  63   94  95  96  97  98  99",
    "  28  29  30  31  32  33   64  65  66  67  68  69  100 101 102 103 104 105",
    "  34  35  36  37  38  39   70  71  72  73  74  75  106 107 108 109 110 111",
    "  40  41  42  43  44  45   76  77  78  79  80  81  112 113 114 115 116 117",
    "  46  47  48  49  50  51   82  83  84  85  86  87  118 119 120 121 122 123",
    " 124 125 126 127 128 129  160 161 162 163 164 165  196 197 198 199 200 201",
    " 130 131 132 133 134 135  166 167 168 169 170 171  202 203 204 205 206 207",
    " 136 137 138 139 140 141  172 173 174 175 176 177  208 209 210 211 212 213",
    " 142 143 144 145 146 147  178 179 180 181 182 183  214 215 216 217 218 219",
    " 148 149 150 151 152 153  184 185 186 187 >188189  220 221 222 223 224 225",
    " 154 155 156 157 158 159  190 191 192 193 194 195  226 227 228 229 230 231",
    " 232 233 234 235 236 237 238 239 240 241 242 243",
    " 244 245 246 247 248 249 250 251 252 253 254 255",
    " index 188  #d7d7d7  12.44:1 on its ground (needs 4.5)  difference from now 4.9",
    "────────────────────────────────────────────────────────────────────────────────",
    " foreground ›  #d7d6cc on  #0d191c › 12.26:1 (needs 4.5)  written in kitty dus…",
    " Enter take this color   Esc leave the chart   Tab bench / specimen   u undo",
];

#[rustfmt::skip]
const PAIRS_LARGE: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color                                                                7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── pairs, worst first ─────────────────────────────────────────────────────────────────────┬── specimen: your draft, 95% opaque over black or white, 256 colo… ─",
    " seen - + opacity 95%  w over black/white  d dimmed off  b 256 colors  v full vision       │  ~/src/marsh-gauge  ↳ spring-tide",
    " as now     draft        now    draft  needs  tool    what                                 │  $ ./gauge --station weir",
    "  Aa 1.84 m  Aa 1.84 m !  1.60   1.50  3:1    nvim    Comment in a selection               │  station weir  1.84 m rising  gauge.invalid/weir",
    "  Aa 1.84 m  Aa 1.84 m !  1.61   1.61  3:1    nvim    LineNr                               │  error: sensor 7 is silent since 04:10",
    "  Aa 1.84 m  Aa 1.84 m !  1.97   1.97  3:1    kitty   bright black                         │  ~/src/marsh-gauge  ↳ spring-tide ±  ✗ 2",
    "  Aa 1.84 m  Aa 1.84 m !  2.13   2.13  3:1    tmux    window-status-style                  │  $ grep selected text",
    "  Aa 1.84 m  Aa 1.84 m !  2.21   2.21  3:1    nvim    Comment                              │  root on heronry /etc/gauge",
    "  Aa 1.84 m  Aa 1.84 m !  3.33   3.33  4.5:1  tmux    status-right                         │  # ls",
    "  Aa 1.84 m  Aa 1.84 m !  3.83   3.58  4.5:1  nvim    DiagnosticError in a selection       │  stations  datum.toml  weir.log",
    "  Aa 1.84 m  Aa 1.84 m !  2.40   2.40  3:1    nvim    Comment on the current line          │",
    "  Aa 1.84 m  Aa 1.84 m !  2.48   2.48  3:1    nvim    StatusLineNC                         │  @@ -12,4 +12,4 @@ fn level",
    "  Aa 1.84 m  Aa 1.84 m !  4.19   3.92  4.5:1  nvim    Statement in a selection             │  -    let mean = sum / 12;",
    "  Aa 1.84 m  Aa 1.84 m !  4.33   4.05  4.5:1  nvim    Function in a selection              │  +    let mean = sum / samples.len();",
    "  Aa 1.84 m  Aa 1.84 m    5.19   4.85  4.5:1  nvim    String in a selection                │       mean + self.datum",
    "  Aa 1.84 m  Aa 1.84 m    5.30   5.30  4.5:1  kitty   red                                  │",
    "  Aa 1.84 m  Aa 1.84 m    5.30   5.30  4.5:1  nvim    DiagnosticError                      │  ▇▇ 0    ▇▇ 1    ▇▇ 2    ▇▇ 3    ▇▇ 4    ▇▇ 5    ▇▇ 6    ▇▇ 7",
    "  Aa 1.84 m  Aa 1.84 m    5.69   5.32  4.5:1  nvim    Type in a selection                  │  ▇▇ 8    ▇▇ 9    ▇▇ 10   ▇▇ 11   ▇▇ 12   ▇▇ 13   ▇▇ 14   ▇▇ 15",
    "  Aa 1.84 m  Aa 1.84 m    6.06   5.67  4.5:1  nvim    Number in a selection                │  ─────────────────────────────────────────────────────────────────",
    "  Aa 1.84 m  Aa 1.84 m    6.06   5.67  4.5:1  nvim    DiagnosticWarn in a selection        │▶   31 # Marsh gauge",
    "  Aa 1.84 m  Aa 1.84 m    5.74   5.74  4.5:1  nvim    DiagnosticError on the current line  │    32 ··+-- 14 lines: licence",
    "  Aa 1.84 m  Aa 1.84 m    5.79   5.79  4.5:1  kitty   magenta                              │    33 use std::fmt;",
    "  Aa 1.84 m  Aa 1.84 m    5.79   5.79  4.5:1  nvim    Statement                            │    34",
    "  Aa 1.84 m  Aa 1.84 m    5.98   5.98  4.5:1  kitty   blue                                 │    35 /// Metres between zero and the datum.",
    "  Aa 1.84 m  Aa 1.84 m    5.98   5.98  4.5:1  nvim    Function                             │    36 const DATUM_OFFSET: f64 = 1.25;",
    "  Aa 1.84 m  Aa 1.84 m    6.28   6.28  4.5:1  nvim    Statement on the current line        │    37 static STATION: &str = \"weir\";",
    "───────────────────────────────────────────────────────────────────────────────────────────│    38",
    " LineNr  line-number #3c4a4d on background #0d191c  (secondary)                            │    39 // Water level above datum, in metres.  level datum",
    " 1.61:1 of 3:1: m mends this pair, r repairs all 11 that fail                              │    40 #[derive(Clone)]",
    " second opinion: lightness contrast 15 of 50, faint in thin strokes                        │    41 pub struct Gauge {                           datum    f64",
    " seen as #444444 on #192527: 95% opaque over black or white, 256 colors                    │    42     datum: f64,                              depth    f64",
    " text in nvim init.lua:11 (#3c4a4d)   ground in kitty dusk.conf:3 (#0d191c)   nvim creek.… │    43 }                                            drain()",
    "── ratio against the window's opacity ─────────────── told apart by color ─────────────────│    44",
    "   3                                                    23 warning and success             │    45 fn level(raw: u16) {",
    "   3 ────────────────────────────────────────────       34 error and warning               │  ● 46     let unit = \"metre\\n\";",
    "                                                        46 error and information           │  ● 47     raw * 0.0125 + DATUM  unknown name",
    "     ▀▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄▄                        53 error and success               │    48 }  // TODO calibrate",
    "                                ▀▄            ▄▄▀       53 removed and added lines         │  ~",
    "                                  ▀▀▄      ▄▄▀          53 prompt sign and exit status     │   gauge.rs  47:12                 notes.md",
    "   1                                 ▀▀▄▄▀▀             54 active and other borders        │  copied 3 lines  info: saved  see docs/",
    "     0                    50%                1▲0%    below 10: taken for one another       │   marsh  1 notes  2 gauge+  3 log!   prefix       heronry · 14:20",
    "───────────────────────────────────────────────────────────────────────────────────────────┴────────────────────────────────────────────────────────────────────",
    " line number › line-number = #3c4a4d ›  #3c4a4d on  #0d191c › 1.61:1 (secondary needs 3)",
    " written in nvim init.lua:11 (#3c4a4d)",
    " m mend this pair   r repair all   Enter edit the text color   e keep as it is   - + window's opacity   v color vision   Tab bench / specimen   u undo",
];

#[rustfmt::skip]
const IMAGE_LARGE: &[&str] = &[
    " Saltmarsh · dusk   Reedbed Mono NF 12   no color                                                                7 drift   11 contrast   4 glyphs   8 unapplied",
    " 1 Survey 7 › 2 Palette › 3 Contrast 11 › 4 Glyphs 4 › 5 Apply 8",
    "── proposal ───────────────────────────────────────────────────────────────────────────────┬── specimen: weir light ────────────────────────────────────────────",
    " from an image                               the specimen shows it; nothing is changed yet │  ~/src/marsh-gauge  ↳ spring-tide",
    "                                                                                           │  $ ./gauge --station weir",
    " = weir dark                 every pair reaches its target                                 │  station weir  1.84 m rising  gauge.invalid/weir",
    "    Level 1.84 m  0  1  2  3  4  5  6  7  8  9  10 11 12 13 14 15                          │  error: sensor 7 is silent since 04:10",
    "                                                                                           │  ~/src/marsh-gauge  ↳ spring-tide ±  ✗ 2",
    "   weir light                every pair reaches its target                                 │  $ grep selected text",
    "    Level 1.84 m  0  1  2  3  4  5  6  7  8  9  10 11 12 13 14 15                          │  ─────────────────────────────────────────────────────────────────",
    "                                                                                           │    40 #[derive(Clone)]",
    "                                                                                           │    41 pub struct Gauge {                           datum    f64",
    "                                                                                           │    42     datum: f64,                              depth    f64",
    "                                                                                           │    43 }                                            drain()",
    "                                                                                           │    44",
    "                                                                                           │    45 fn level(raw: u16) {",
    "                                                                                           │  ● 46     let unit = \"metre\\n\";",
    "                                                                                           │  ● 47     raw * 0.0125 + DATUM  unknown name",
    "                                                                                           │    48 }  // TODO calibrate",
    "                                                                                           │   gauge.rs  47:12                 notes.md",
    "                                                                                           │  copied 3 lines  info: saved  see docs/",
    "                                                                                           │   marsh  1 notes  2 gauge+  3 log!   prefix       heronry · 14:20",
    "── 2 of 2 ─────────────────────────────────────────────────────────────────────────────────│  ── above weir light, below weir dark ────────────────────────────",
    "                                               its colors                                  │  ~/src/marsh-gauge  ↳ spring-tide",
    "                                                #c8783c 68.8%                              │  $ ./gauge --station weir",
    "                                                #1e283c 31.2%                              │  station weir  1.84 m rising  gauge.invalid/weir",
    "                                                                                           │  error: sensor 7 is silent since 04:10",
    "                                                                                           │  ~/src/marsh-gauge  ↳ spring-tide ±  ✗ 2",
    "                                                                                           │  $ grep selected text",
    "                                                                                           │  ─────────────────────────────────────────────────────────────────",
    "                                                                                           │    40 #[derive(Clone)]",
    "                                                                                           │    41 pub struct Gauge {                           datum    f64",
    "                                                                                           │    42     datum: f64,                              depth    f64",
    "                                                                                           │    43 }                                            drain()",
    "                                                                                           │    44",
    "                                                                                           │    45 fn level(raw: u16) {",
    "                                                                                           │  ● 46     let unit = \"metre\\n\";",
    "                                                                                           │  ● 47     raw * 0.0125 + DATUM  unknown name",
    "                                                                                           │    48 }  // TODO calibrate",
    "                                                                                           │   gauge.rs  47:12                 notes.md",
    "                                                                                           │  copied 3 lines  info: saved  see docs/",
    "                                                                                           │   marsh  1 notes  2 gauge+  3 log!   prefix       heronry · 14:20",
    "                                                                                           │",
    "───────────────────────────────────────────────────────────────────────────────────────────┴────────────────────────────────────────────────────────────────────",
    " font › Reedbed Mono NF",
    " written in kitty kitty.conf:4 (Reedbed Mono NF)   nvim init.lua:5 (ReedbedMono NF)",
    " Enter take it   Esc leave it   b before / after   Space keep beside to compare   Tab bench / specimen   ? keys",
];
