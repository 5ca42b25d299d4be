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

fn app(size: (u16, u16)) -> (tempfile::TempDir, App) {
    let folder = tempfile::tempdir().unwrap();
    let home = folder.path().join("home");
    make_demo(&home).unwrap();
    let home = Home::open(Some(&home)).unwrap();
    let survey = Survey::open(home, None, Some(("Saltmarsh", "dusk"))).unwrap();
    (folder, App::new(survey, false, size))
}

fn key(code: KeyCode) -> Message {
    Message::Key(KeyEvent::new(code, KeyModifiers::NONE))
}

fn press(app: &mut App, keys: &str) -> Vec<Effect> {
    keys.chars()
        .flat_map(|c| app.update(key(KeyCode::Char(c))))
        .collect()
}

fn screen(app: &App, depth: Depth, unicode: bool) -> String {
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
