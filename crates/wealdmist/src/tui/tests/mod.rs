//! The state and the views without a terminal.

mod benches;
mod fonts;
mod house;
mod prompt;
mod screens;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui_core::backend::TestBackend;
use ratatui_core::terminal::Terminal;
use wealdmist_core::Slot;
use wealdmist_core::color::Depth;
use wealdmist_core::font::picture::Means;
use wealdmist_core::role::RoleId;
use wealdmist_host::{Home, Survey, make_demo};

use crate::tui::app::{App, Effect, Message};
use crate::tui::bench::{Item, Palette, Survey as Ledger};
use crate::tui::frame;
use crate::tui::instrument::Instrument;
use crate::tui::view::Hit;
use crate::tui::workspace::Display;
use screens::*;

pub(super) fn app(size: (u16, u16)) -> (tempfile::TempDir, App) {
    let folder = tempfile::tempdir().unwrap();
    let home = folder.path().join("home");
    make_demo(&home).unwrap();
    let home = Home::open(Some(&home)).unwrap();
    let survey = Survey::open(home, None, Some(("Saltmarsh", "dusk"))).unwrap();
    (folder, App::new(survey, display(), size))
}

/// A screen with every kind of characters, but no icons and no images.
pub(super) fn display() -> Display {
    Display {
        icons: false,
        log: None,
        means: Means::ALL.to_vec(),
        pixels: None,
    }
}

/// A bench, or what lies over one.
pub(super) fn of<B: 'static>(app: &mut App) -> &mut B {
    app.bench_mut().expect("a bench of this kind")
}

pub(super) fn clicked(row: usize, column: Option<usize>) -> Message {
    Message::Clicked(Hit::Row(row, column))
}

/// Does all the slow work asked for, until nothing more is; what else was asked for.
pub(super) fn settle(app: &mut App, effects: Vec<Effect>) -> Vec<Effect> {
    let mut others = Vec::new();
    let mut effects: std::collections::VecDeque<Effect> = effects.into();
    while let Some(effect) = effects.pop_front() {
        match effect {
            // The fonts of this machine are not looked for, only the home's.
            Effect::Start(started) if started.ticket.lane == "fonts" => {
                effects.extend(app.update(Message::Done(started.ticket, Box::new(()))));
                effects.extend(find(app));
            }
            Effect::Start(started) => {
                let answer = (started.job.work)();
                effects.extend(app.update(Message::Done(started.ticket, answer)));
            }
            other => others.push(other),
        }
    }
    others
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
    let mut terminal = Terminal::new(TestBackend::new(app.ws.size.0, app.ws.size.1)).unwrap();
    let instrument = Instrument::new(depth, unicode);
    terminal
        .draw(|f| drop(frame::draw(app, &instrument, f)))
        .unwrap();
    let buffer = terminal.backend().buffer();
    let width = usize::from(buffer.area.width).max(1);
    let rows = buffer.content().chunks(width);
    rows.map(|r| {
        r.iter()
            .map(ratatui_core::buffer::Cell::symbol)
            .collect::<String>()
            + "\n"
    })
    .collect()
}

#[test]
fn steps_and_undo_go_to_and_fro() {
    let (_folder, mut app) = app((160, 47));
    let before = app.ws.survey.doc.text().to_owned();
    press(&mut app, "2");
    assert_eq!(app.step().label, "Palette");
    for _ in 0..5 {
        app.update(key(KeyCode::Right));
    }
    let changed = app.ws.survey.doc.text().to_owned();
    assert_ne!(changed, before);
    assert!(app.ws.is_changed() && app.ws.derived.counts.drift > 7);
    // Five small steps on one channel are one change.
    press(&mut app, "u");
    assert_eq!(app.ws.survey.doc.text(), before);
    press(&mut app, "U");
    assert_eq!(app.ws.survey.doc.text(), changed);
}

#[test]
fn a_typed_value_that_is_no_color_changes_nothing_and_says_so() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "2#");
    app.update(Message::Pasted("zz\x1b".into()));
    app.update(key(KeyCode::Enter));
    // The line stays open, with the reason.
    let refused = app.line.as_ref().and_then(|l| l.refused.clone());
    assert!(refused.is_some_and(|why| why.contains("#rrggbb")));
    assert!(!app.ws.is_changed());
    app.update(key(KeyCode::Esc));
    assert!(app.line.is_none());
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
    let color = app.ws.derived.look.slot(Slot::Foreground);
    assert!(changed.contains(&format!("\x1b]10;{color}\x1b\\")));
    // Applying takes it off first: an override would hide what the file says.
    press(&mut app, "8");
    let effects = app.update(key(KeyCode::Enter));
    assert!(
        matches!(effects.as_slice(), [Effect::Wear(_), Effect::Start(_)]),
        "{effects:?}"
    );
    assert_eq!(app.trials(), (false, false));
}

#[test]
fn enter_on_a_spot_stands_on_the_color_it_comes_from() {
    let (_folder, mut app) = app((160, 47));
    app.ws.stage.pointed = true;
    app.ws.stage.spot = app
        .ws
        .stage
        .specimen
        .find(&RoleId::known("keyword"))
        .unwrap();
    app.update(key(KeyCode::Enter));
    let entry = of::<Palette>(&mut app).clone().entry(&app.ws).unwrap();
    assert_eq!(app.ws.name_of(&entry.origin), "magenta");
    // A role without a color of its own in the setup is listed once it is gone to.
    app.ws.stage.pointed = true;
    app.ws.stage.spot = app
        .ws
        .stage
        .specimen
        .find(&RoleId::known("whitespace"))
        .unwrap();
    app.update(key(KeyCode::Enter));
    let entry = of::<Palette>(&mut app).clone().entry(&app.ws).unwrap();
    assert_eq!(app.ws.name_of(&entry.origin), "whitespace");
}

#[test]
fn aligning_a_silent_tool_adds_only_what_it_can_express() {
    let (_folder, mut app) = app((160, 47));
    let items = app.bench::<Ledger>().unwrap().items(&app.ws.derived.ledger);
    let at = |role: &str| {
        items.iter().position(
            |i| matches!(i, Item::Row(r) if app.ws.derived.ledger.rows[*r].role.as_str() == role),
        )
    };
    let (error, selected) = (at("error").unwrap(), at("selection-text").unwrap());
    of::<Ledger>(&mut app).cursor = error;
    of::<Ledger>(&mut app).column = 1;
    let before = app.ws.survey.doc.text().to_owned();
    press(&mut app, "s");
    assert_eq!(
        app.ws.survey.doc.text(),
        before,
        "tmux has no setting for errors"
    );
    assert!(app.ws.note.as_ref().is_some_and(|n| n.bad));
    of::<Ledger>(&mut app).cursor = selected;
    of::<Ledger>(&mut app).column = 2;
    press(&mut app, "s");
    assert!(app.ws.note.is_some());
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
                1 => clicked(dice.roll(90) as usize, Some(dice.roll(6) as usize)),
                2 => Message::Clicked(Hit::Spot(dice.roll(90) as usize)),
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
    let mut app = App::new(survey, display(), (100, 30));
    for (keys, want) in [
        ("3", "No pair was found"),
        ("5", "plain ASCII"),
        ("8", "Nothing to apply"),
        ("1o", "No drift"),
    ] {
        press(&mut app, keys);
        let drawn = screen(&app, Depth::TrueColor, true);
        assert!(drawn.contains(want), "{drawn}");
    }
}

/// The screen as it should look, row by row, without what is blank at the end of a row.
pub(super) fn assert_screen(app: &App, wanted: &[&str]) {
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

/// Looks for a home's fonts alone, so that a screen does not depend on the machine's.
pub(super) fn find(app: &mut App) -> Vec<Effect> {
    let mut found = wealdmist_host::find_font(&app.ws.survey, None);
    let mut catalog = found.catalog.as_ref().clone();
    let home = app.ws.survey.home.home_path();
    catalog.faces.retain(|e| e.path.starts_with(home));
    found.catalog = catalog.into();
    app.ws.fonts_found(found);
    app.update(Message::Wheel(0))
}

pub(super) fn with_font(size: (u16, u16)) -> (tempfile::TempDir, App) {
    let (folder, mut app) = app(size);
    let effects = app.begin();
    settle(&mut app, effects);
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
    let effects = press(&mut app, "5");
    settle(&mut app, effects);
    assert_screen(&app, CHARACTERS);
}

#[test]
fn the_plan_as_it_looks() {
    let (_folder, mut app) = with_font((100, 30));
    press(&mut app, "8");
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
    let (folder, mut app) = with_font((160, 47));
    let shade = |x: u32| match x {
        0..20 => [30, 40, 60],
        _ => [200, 120, 60],
    };
    let picture = ::image::RgbImage::from_fn(64, 40, |x, _| ::image::Rgb(shade(x)));
    let path = folder.path().join("weir.png");
    picture.save(&path).unwrap();
    press(&mut app, "2n");
    for _ in 0..3 {
        app.update(key(KeyCode::Down));
    }
    app.update(key(KeyCode::Enter));
    app.update(Message::Pasted(path.display().to_string()));
    let effects = app.update(key(KeyCode::Enter));
    settle(&mut app, effects);
    press(&mut app, " ");
    app.update(key(KeyCode::Down));
    assert_screen(&app, IMAGE_LARGE);
}
