//! What holds for every bench, and that a new one is a folder and a line.

use std::borrow::Cow;

use crossterm::event::KeyCode::{self, Char};
use wealdmist_core::color::Depth;
use wealdmist_core::specimen::Specimen;

use super::{app, display, find, key, of, press, screen, settle, with_font};
use crate::tui::app::{App, Effect, Message};
use crate::tui::bench::{AnyBench, Bench, Do, List, Question, Reply, benches, held};
use crate::tui::instrument::Tone;
use crate::tui::job::Job;
use crate::tui::keys::{Key, hint, key as bound};
use crate::tui::step::Step;
use crate::tui::view::{Hit, Hits, Pen};
use crate::tui::workspace::Workspace;

/// A bench that does a little of everything: it counts tides.
#[derive(Default)]
struct Tides {
    cursor: usize,
    named: String,
    counted: u32,
}

#[derive(Clone, Copy)]
enum Act {
    Name,
    Count,
    Over,
}

const STEP: Step = Step {
    name: "tides",
    label: "Tides",
    drawing: "specimen",
};

impl Bench for Tides {
    type Act = Act;
    type Ask = &'static str;
    type Answer = u32;

    const KEYS: &'static [Key<Act>] = &[
        hint(Char('n'), Act::Name, "n", "name it"),
        hint(Char('c'), Act::Count, "c", "count"),
        bound(Char('o'), Act::Over, "o", "lay another over it"),
    ];

    fn title(&self, _: &Workspace) -> Cow<'static, str> {
        format!("tides of {}", self.named).into()
    }

    fn command(&self, _: &Workspace) -> String {
        "wealdmist tides".to_owned()
    }

    fn draw(&self, _: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        for row in 0..3 {
            pen.text(
                row,
                1,
                &format!("tide {row}, {} counted", self.counted),
                Tone::Text,
            );
            hits.add(pen.place(row, 0..pen.width()), Hit::Row(row, None));
        }
    }

    fn act(&mut self, act: Act, _: &mut Workspace) -> Reply<Self> {
        match act {
            Act::Name => vec![Do::Ask(Question::new("its name", "weir"), "name")],
            Act::Count => {
                let more = self.counted + 1;
                vec![Do::Run(Job::new("counting", "counting tides", move || {
                    more
                }))]
            }
            Act::Over => vec![Do::Open(held(Self::default()))],
        }
    }

    fn typed(
        &mut self,
        ask: &Self::Ask,
        text: &str,
        _: &mut Workspace,
    ) -> Result<Reply<Self>, String> {
        assert_eq!(*ask, "name");
        if text.is_empty() {
            return Err("it has to have one".to_owned());
        }
        self.named = text.to_owned();
        Ok(Vec::new())
    }

    fn answered(&mut self, answer: u32, _: &mut Workspace) -> Reply<Self> {
        self.counted = answer;
        Vec::new()
    }

    fn list(&mut self, _: &Workspace) -> Option<List<'_>> {
        let cursor = &mut self.cursor;
        Some(List { cursor, len: 3 })
    }

    fn specimen(&self, ws: &Workspace, (width, _): (usize, usize)) -> Option<Specimen> {
        let setup = ws.doc().setup();
        Some(Specimen::draw(setup, ws.look(), width, 2, false))
    }

    fn open_count(&self, _: &Workspace) -> usize {
        3 - self.cursor
    }
}

/// The interface with three steps more.
fn ten_steps(size: (u16, u16)) -> (tempfile::TempDir, App) {
    let (folder, own) = app(size);
    let mut all = benches();
    all.push((STEP, held(Tides::default())));
    let step = Step {
        label: "Beacons",
        ..STEP
    };
    all.push((step, held(Tides::default())));
    let mut app = App::with(all, own.ws.survey, display(), size);
    let effects = app.begin();
    settle(&mut app, effects);
    (folder, app)
}

#[test]
fn a_new_bench_is_a_folder_and_a_line() {
    let (_folder, mut app) = ten_steps((160, 47));
    let before = app.ws.stage.specimen.height;
    press(&mut app, "9");
    assert_eq!((app.step().label, app.ws.number_of("tides")), ("Tides", 9));
    // Its specimen, its list, its count on the path.
    assert_eq!((app.ws.stage.specimen.height, before > 2), (2, true));
    app.update(key(KeyCode::Down));
    app.update(Message::Wheel(9));
    app.update(key(KeyCode::PageUp));
    app.update(Message::Clicked(Hit::Row(1, None)));
    assert_eq!(of::<Tides>(&mut app).cursor, 1);
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("9 Tides 2") && drawn.contains("c count"),
        "{drawn}"
    );
    // What is typed, refused and taken.
    press(&mut app, "n");
    app.update(key(KeyCode::Esc));
    press(&mut app, "n");
    for _ in 0..4 {
        app.update(key(KeyCode::Backspace));
    }
    app.update(key(KeyCode::Enter));
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("it has to have one"), "{drawn}");
    press(&mut app, "ebb");
    app.update(key(KeyCode::Enter));
    assert!(screen(&app, Depth::None, true).contains("tides of ebb"));
    // Slow work: what is asked for meanwhile waits, and only the latest counts.
    let mut effects = press(&mut app, "cc");
    assert_eq!((effects.len(), app.busy()), (1, Some("counting tides")));
    let Some(Effect::Start(started)) = effects.pop() else {
        panic!("nothing is started");
    };
    let next = app.update(Message::Done(started.ticket, Box::new(41_u32)));
    assert_eq!(of::<Tides>(&mut app).counted, 0, "it was asked again since");
    settle(&mut app, next);
    assert_eq!((of::<Tides>(&mut app).counted, app.busy()), (1, None));
    // What lies over it has the keys, and is left by going elsewhere.
    press(&mut app, "o");
    assert_eq!(of::<Tides>(&mut app).counted, 1);
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("0 counted"), "{drawn}");
    press(&mut app, "19");
    assert!(screen(&app, Depth::None, true).contains("1 counted"));
}

#[test]
fn ten_steps_fit_every_width() {
    for width in [80, 100, 120, 160, 250] {
        let (_folder, mut app) = ten_steps((width, 30));
        for (digit, label) in [("1", "1 Survey"), ("5", "5 Glyphs"), ("0", "10 Beacons")] {
            press(&mut app, digit);
            let drawn = screen(&app, Depth::None, true);
            let path = drawn.lines().nth(1).unwrap();
            assert!(path.contains(label), "{width}: {path}");
            // The last step is whole, or its number and count.
            let ends = ["10 Beacons 3", " 10 3"];
            let path = path.trim_end();
            assert!(ends.iter().any(|e| path.ends_with(e)), "{width}: {path}");
        }
    }
}

#[test]
fn files_and_what_of_them_is_unreadable_are_a_key_away() {
    let (_folder, mut app) = app((160, 47));
    let home = app.ws.survey.home.home_path().to_owned();
    std::fs::write(home.join(".config/nvim/init.lua"), "local x = = 1\n").unwrap();
    app.ws.survey.refresh();
    let survey = app.ws.survey.clone();
    let sent = survey.doc.text().to_owned();
    app.ws.read_again(survey, &sent, false);
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("1 unreadable (w)"), "{drawn}");
    press(&mut app, "w");
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("! ~/.config/nvim/init.lua:1:"), "{drawn}");
    assert!(
        drawn.contains("from ~/.config/kitty/kitty.conf:2"),
        "{drawn}"
    );
    app.update(key(KeyCode::Esc));
    assert!(screen(&app, Depth::None, true).contains("ledger:"));
}

/// What the interface says does the same on the command line is a command line.
#[test]
fn every_command_that_is_shown_can_be_typed() {
    let (_folder, mut app) = app((160, 47));
    let effects = find(&mut app);
    settle(&mut app, effects);
    let mut seen = std::collections::BTreeSet::new();
    let mut look = |app: &App| {
        for line in app.top().command(&app.ws).split("   ·   ") {
            seen.insert(line.to_owned());
        }
    };
    for (step, keys) in [
        ("1", ""),
        ("2", ""),
        ("2", "nv"),
        ("2", "nc"),
        ("3", ""),
        ("3", "-dbv"),
        ("3", "m"),
        ("3", "r"),
        ("4", ""),
        ("4", "b"),
        ("4", "ff"),
        ("5", ""),
        ("6", ""),
        ("6", "a"),
        ("6", "r"),
        ("7", ""),
        ("8", ""),
        ("8", " "),
    ] {
        press(&mut app, step);
        let effects = press(&mut app, keys);
        settle(&mut app, effects);
        for _ in 0..40 {
            look(&app);
            press(&mut app, "jl");
        }
    }
    assert!(seen.len() > 60, "{seen:?}");
    for line in seen {
        let parts = line.split('\'').enumerate();
        let words = parts.flat_map(|(i, part)| match i % 2 {
            1 => vec![part.to_owned()],
            _ => part.split_whitespace().map(str::to_owned).collect(),
        });
        let typed = crate::cli::command().try_get_matches_from(words);
        assert!(typed.is_ok(), "{line}: {}", typed.unwrap_err());
        let stands_for_another = line
            .split(' ')
            .any(|w| w.len() > 2 && w.chars().all(|c| c.is_ascii_uppercase()));
        assert!(!stands_for_another, "{line} is not yet a command");
    }
}

#[test]
fn no_key_has_two_meanings_in_one_table_and_every_shown_one_is_explained() {
    let all = benches()
        .into_iter()
        .map(|(step, bench)| (step.name, bench));
    let over = |keys: &str| {
        let (folder, mut app) = with_font((160, 47));
        press(&mut app, keys);
        (folder, app)
    };
    let check = |name: &str, bench: &dyn AnyBench| {
        for on_specimen in [false, true] {
            let told = bench.told(on_specimen);
            for (i, one) in told.iter().enumerate() {
                let twice = told[..i].iter().any(|k| k.is_key_of(one));
                assert!(!twice, "{name}: {:?} twice", one.code);
                assert_eq!(
                    one.shown.is_empty(),
                    one.label.is_empty(),
                    "{name}: {one:?}"
                );
                assert!(!one.hint || !one.shown.is_empty(), "{name}: {one:?}");
            }
        }
    };
    for (name, bench) in all {
        check(name, bench.as_ref());
    }
    for keys in ["2n", "2i", "3r", "6a", "6d", "6r"] {
        let (_folder, app) = over(keys);
        check(keys, app.top());
    }
}

#[test]
fn nothing_is_read_of_the_disk_at_a_key() {
    let walk = |app: &mut App| {
        let keys = "2ls#3-v-cr";
        let mut shown = Vec::new();
        for c in keys.chars().chain("\u{1b}4fsb5vvl6jcxo7 1os2n".chars()) {
            let code = match c {
                '\u{1b}' => KeyCode::Esc,
                c => Char(c),
            };
            app.update(key(code));
            if app.line.is_some() {
                app.update(key(KeyCode::Esc));
            }
            app.update(key(KeyCode::Down));
            shown.push(screen(app, Depth::TrueColor, true));
        }
        shown
    };
    let (_there, mut with_home) = with_font((160, 47));
    let (folder, mut without) = with_font((160, 47));
    drop(folder);
    assert!(!without.ws.survey.home.home_path().exists());
    for (one, other) in walk(&mut with_home).into_iter().zip(walk(&mut without)) {
        assert_eq!(one, other);
    }
}
