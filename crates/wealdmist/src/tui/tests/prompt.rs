//! The Prompt bench: everyday tasks in their keys, parts carried by keys and by mouse, choices.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use wealdmist_core::color::Depth;
use wealdmist_core::prompt::{Design, Kind, Past, ready};
use wealdmist_core::role::RoleId;

use super::{app, of, press, screen, screens, settle};
use crate::tui::app::{App, Effect, Message};
use crate::tui::bench::Prompt;
use crate::tui::view::Hit;

/// Presses a key by its name; `S-` before it is with Shift.
fn presses(app: &mut App, name: &str) -> Vec<Effect> {
    let (held, plain) = match name.strip_prefix("S-") {
        Some(plain) => (KeyModifiers::SHIFT, plain),
        None => (KeyModifiers::NONE, name),
    };
    let code = match plain {
        "Left" => KeyCode::Left,
        "Right" => KeyCode::Right,
        "Up" => KeyCode::Up,
        "Down" => KeyCode::Down,
        "End" => KeyCode::End,
        "Enter" => KeyCode::Enter,
        "Esc" => KeyCode::Esc,
        "Backspace" => KeyCode::Backspace,
        "PgDn" => KeyCode::PageDown,
        one => KeyCode::Char(one.chars().next().unwrap()),
    };
    app.update(Message::Key(KeyEvent::new(code, held)))
}

/// The bench with a design that is ready, or the sample home's own.
fn bench(design: Option<&str>) -> (tempfile::TempDir, App) {
    let (folder, mut app) = app((160, 47));
    if let Some(name) = design {
        let changed = app.ws.doc().with_prompt(ready::named(name).unwrap().toml);
        assert!(app.ws.change(changed));
    }
    let effects = press(&mut app, "6");
    settle(&mut app, effects);
    (folder, app)
}

fn design(app: &App) -> Design {
    app.ws.doc().setup().prompt.clone()
}

fn names(app: &App) -> String {
    let side = |parts: &[wealdmist_core::prompt::Part]| {
        let all: Vec<&str> = parts.iter().map(|p| p.name.as_str()).collect();
        all.join(" ")
    };
    let all = design(app);
    let lines = all
        .lines
        .iter()
        .map(|l| format!("{} | {}", side(&l.left), side(&l.right)));
    lines.collect::<Vec<_>>().join(" / ")
}

fn all(app: &mut App, keys: &[&str]) {
    for name in keys {
        let effects = presses(app, name);
        settle(app, effects);
    }
}

#[test]
fn everyday_tasks_take_few_keys() {
    /// What is done: from which design on, in which keys, and what it comes to.
    type Task = (
        Option<&'static str>,
        &'static [&'static str],
        usize,
        fn(&Design) -> bool,
    );
    let tasks: [Task; 13] = [
        // One more language, with its version.
        (None, &["a", "Down", "Enter", "v"], 4, |d| {
            d.parts()
                .any(|p| p.kind == Kind::Language && p.tells.version)
        }),
        // Carried to the other side of the stretch.
        (None, &["Right", "o"], 3, |d| {
            d.lines[0].right.iter().any(|p| p.name == "host")
        }),
        // The word before it dropped.
        (None, &["Right", "Backspace"], 3, |d| {
            d.parts().all(|p| p.before != "on ")
        }),
        // Another sign after a failure than after a success.
        (None, &["End", "I", "×", "Enter"], 5, |d| {
            let input = d.parts().last().unwrap();
            input.signs_failed.as_ref().is_some_and(|s| s[1] == "×") && input.signs[1] == "$"
        }),
        // The host in another color.
        (None, &["Right", "c", "Down", "Enter"], 4, |d| {
            let host = d.parts().find(|p| p.kind == Kind::Host).unwrap();
            host.text != RoleId::known("prompt.host")
        }),
        // Two lines into one, and back.
        (None, &["l"], 1, |d| d.lines.len() == 1),
        (None, &["l", "l"], 2, |d| d.lines.len() == 2),
        // Dots in the stretch.
        (Some("Skerries"), &["S", "·", "Enter"], 3, |d| {
            d.stretch == '·'
        }),
        // The battery only under 30 per cent.
        (Some("Pebbles"), &["%", "3", "0", "Enter"], 5, |d| {
            d.parts()
                .any(|p| p.kind == Kind::Battery && p.tells.below == 30)
        }),
        // Twelve hours.
        (Some("Causeway"), &["h"], 2, |d| {
            d.parts().any(|p| p.tells.twelve)
        }),
        // Past prompts short.
        (None, &["p", "p"], 2, |d| d.past == Past::Sign),
        // Another design.
        (None, &["d", "Enter"], 2, |d| d.parts().count() == 2),
        // The living host for a stranger's written one.
        (Some("written"), &["Right", "m"], 2, |d| {
            d.parts().any(|p| p.kind == Kind::Host) && !d.has(Kind::Text)
        }),
    ];
    for (from, keys, most, is_done) in tasks {
        let (_folder, mut app) = bench(from.filter(|n| *n != "written"));
        if from == Some("written") {
            let toml = "[[prompt.line]]\nleft=['user','text','input']\n[prompt.parts.text]\nsays='fenhouse'\n";
            let changed = app.ws.doc().with_prompt(toml);
            assert!(app.ws.change(changed));
        }
        let before = app.ws.doc().text().to_owned();
        assert!(!is_done(&design(&app)) || keys == ["l", "l"], "{keys:?}");
        all(&mut app, keys);
        assert!(is_done(&design(&app)), "{keys:?}: {}", app.ws.doc().text());
        assert!(keys.len() <= most, "{keys:?}");
        // And back.
        for _ in 0..keys
            .iter()
            .filter(|k| ["l", "p"].contains(k))
            .count()
            .max(1)
        {
            press(&mut app, "u");
        }
        let back = app.ws.doc().text() == before || keys == ["a", "Down", "Enter", "v"];
        assert!(back, "{keys:?}");
    }
}

#[test]
fn the_design_goes_into_every_shell_in_three_keys() {
    let (folder, mut app) = bench(Some("Ebb"));
    let shells = crate::work::prompt::shells(&app.ws.survey);
    assert!(shells.iter().any(|(id, ours)| id.0 == "bash" && !ours));
    // Nothing of it is open before it is given to a shell.
    let count = |app: &App| app.path().find(|(s, _)| s.name == "prompt").unwrap().1;
    assert_eq!(count(&app), 0);
    all(&mut app, &["Enter", "8", "Enter"]);
    assert!(
        crate::work::prompt::shells(&app.ws.survey)
            .iter()
            .all(|(_, ours)| *ours)
    );
    let home = folder.path().join("home");
    let rc = std::fs::read_to_string(home.join(".bashrc")).unwrap();
    assert!(
        rc.contains("wealdmist/prompt.bash"),
        "{:?} {rc}",
        app.ws.note
    );
    // Taken back from them as it was given.
    all(&mut app, &["6", "Enter"]);
    assert!(
        crate::work::prompt::shells(&app.ws.survey)
            .iter()
            .all(|(_, ours)| !ours)
    );
}

#[test]
fn parts_are_carried_by_keys_and_by_the_mouse() {
    let (_folder, mut app) = bench(Some("Causeway"));
    let start = names(&app);
    assert!(
        start.starts_with("folder locked branch changes operation | rust"),
        "{start}"
    );
    all(&mut app, &["S-Right", "S-Right"]);
    assert!(names(&app).starts_with("locked branch folder changes operation |"));
    // The pointer stays on it, also where it is taken back.
    let pointed = |app: &mut App| {
        let part = of::<Prompt>(app).part;
        design(app).part(part).unwrap().name.clone()
    };
    assert_eq!(pointed(&mut app), "folder");
    press(&mut app, "u");
    assert_eq!(pointed(&mut app), "folder");
    all(&mut app, &["S-Up"]);
    assert!(
        names(&app).starts_with("folder |  / locked branch"),
        "{}",
        names(&app)
    );
    all(&mut app, &["u", "u"]);
    assert_eq!(names(&app), start);
    // Drawn with the mouse onto another part: it stands where that stood.
    app.update(Message::Clicked(Hit::Row(2, None)));
    assert_eq!(pointed(&mut app), "branch");
    app.update(Message::Released(Some(Hit::Row(0, None))));
    assert!(
        names(&app).starts_with("branch folder locked changes"),
        "{}",
        names(&app)
    );
    // Let go over nothing, or where it was taken, it stays.
    let now = names(&app);
    for over in [None, Some(Hit::Row(0, None)), Some(Hit::Step(1))] {
        app.update(Message::Clicked(Hit::Row(0, None)));
        app.update(Message::Released(over));
        assert_eq!(names(&app), now);
    }
    // Where one types stays at its place.
    all(&mut app, &["End", "S-Left", "S-Up", "o", "x"]);
    assert_eq!(names(&app), now);
}

#[test]
fn what_is_chosen_is_worn_by_the_specimen_and_taken_by_enter_alone() {
    let (_folder, mut app) = bench(None);
    let before = app.ws.doc().text().to_owned();
    let cells = |app: &App| app.ws.stage.specimen.cells.clone();
    for open in ["a", "d", "c", "g"] {
        let own = cells(&app);
        press(&mut app, open);
        all(&mut app, &["Down", "Down"]);
        assert_ne!(cells(&app), own, "{open}");
        assert_eq!(app.ws.doc().text(), before);
        all(&mut app, &["Esc"]);
        assert_eq!(cells(&app), own, "{open}");
    }
    // What is looked for is shown alone.
    press(&mut app, "a/batt");
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains(" battery ") && drawn.contains("1 of "),
        "{drawn}"
    );
    all(&mut app, &["Enter", "Enter"]);
    assert!(
        names(&app).starts_with("user battery host"),
        "{}",
        names(&app)
    );
    assert_eq!(of::<Prompt>(&mut app).part, 1, "what is new is pointed at");
    // Of one's own: a text, a variable, a tool.
    for (row, typed) in [
        ("a text", vec!["ebb tide"]),
        ("a variable", vec!["TIDE_TABLE"]),
        ("a tool", vec!["weir", "weir.toml Weirfile"]),
    ] {
        press(&mut app, "a/");
        press(&mut app, row);
        all(&mut app, &["Enter", "Enter"]);
        for text in typed {
            press(&mut app, text);
            all(&mut app, &["Enter"]);
        }
    }
    let made = design(&app);
    let of = |name: &str| {
        made.parts()
            .find(|p| p.name == name)
            .unwrap_or_else(|| panic!("{name}"))
    };
    assert_eq!(of("text").tells.says, "ebb tide");
    assert_eq!(of("tide-table").tells.variable, "TIDE_TABLE");
    assert_eq!(of("weir").tells.files, ["weir.toml", "Weirfile"]);
    // What cannot be held is refused where it is typed.
    press(&mut app, "a/a variable");
    all(&mut app, &["Enter", "Enter"]);
    press(&mut app, "9 lives");
    all(&mut app, &["Enter"]);
    assert!(app.line.is_some());
    all(&mut app, &["Esc", "Esc"]);
    assert_eq!(design(&app), made);
}

#[test]
fn an_icon_is_found_by_its_name() {
    let (_folder, mut app) = bench(Some("Pebbles"));
    let before = design(&app);
    let old = icon_of(&app, "branch");
    all(&mut app, &["Right", "N"]);
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("an icon for branch"), "{drawn}");
    // Other words are looked for anew, and what is pointed at is worn.
    press(&mut app, "/folder open");
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("U+F07C"), "{drawn}");
    all(&mut app, &["Enter"]);
    assert_eq!(design(&app), before, "nothing is taken yet");
    all(&mut app, &["Enter"]);
    assert_eq!(
        icon_of(&app, "branch"),
        "\u{f07c} ",
        "what stood behind {old:?} stays"
    );
    assert_eq!(design(&app).part(1).unwrap().signs[1], "↳ ");
    press(&mut app, "u");
    assert_eq!(design(&app), before);
    // What nothing answers to leaves the design alone.
    press(&mut app, "N/zzzz");
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("Nothing answers"), "{drawn}");
    all(&mut app, &["Enter", "Enter", "Esc"]);
    assert_eq!(design(&app), before);
}

/// The icon of a part.
fn icon_of(app: &App, name: &str) -> String {
    let all = design(app);
    let part = all.parts().find(|p| p.name == name).unwrap();
    part.signs[0].clone()
}

#[test]
fn every_property_is_changed_by_its_key_and_shown() {
    let (_folder, mut app) = bench(Some("Pebbles"));
    let shows = |app: &App, text: &str| {
        let drawn = screen(app, Depth::None, true);
        assert!(drawn.contains(text), "{text}\n{drawn}");
    };
    for (keys, text) in [
        ("w", "root or ssh"),
        ("f", "the last 4"),
        ("bin ", ""),
        ("e12", ""),
        ("-", "8"),
        ("g", "the ground of folder"),
    ] {
        press(&mut app, keys);
        if app.line.is_some() {
            all(&mut app, &["Enter"]);
        }
        shows(&app, text);
    }
    all(&mut app, &["Esc"]);
    shows(&app, "'in '");
    shows(&app, "characters shown   12");
    all(&mut app, &["Right", "Right", "s"]);
    shows(&app, "+14 −3 ◦1");
    all(&mut app, &["s"]);
    shows(&app, "one sign for all");
    for (key, text) in [
        ("y", "lines tied"),
        ("B", "blank line before"),
        ("j", "upright"),
        ("(", "slope"),
        (")", "slope"),
    ] {
        let before = design(&app);
        press(&mut app, key);
        assert_ne!(design(&app), before, "{key}");
        shows(&app, text);
    }
    // A sign by its code point; one that is none is refused.
    press(&mut app, "i");
    for _ in 0..4 {
        all(&mut app, &["Backspace"]);
    }
    press(&mut app, "U+2713");
    all(&mut app, &["Enter"]);
    let part = of::<Prompt>(&mut app).part;
    let signs = design(&app).part(part).unwrap().signs.clone();
    assert_eq!(
        (signs[0].as_str(), signs[1].as_str(), signs[2].as_str()),
        ("✓", "✓", "*")
    );
    press(&mut app, "S");
    press(&mut app, "ab");
    all(&mut app, &["Enter"]);
    assert!(app.line.as_ref().is_some_and(|l| l.refused.is_some()));
    all(&mut app, &["Esc"]);
    // The code, shell by shell.
    press(&mut app, "r");
    shows(&app, "bash");
    all(&mut app, &["Right", "PgDn", "Esc"]);
    shows(&app, "the whole prompt");
    // More situations.
    let first = app.ws.stage.specimen.cells.clone();
    all(&mut app, &["PgDn"]);
    assert_ne!(app.ws.stage.specimen.cells, first);
    // Where one types in the editor's command mode: a sign, a color, and a situation that shows them.
    all(&mut app, &["End"]);
    press(&mut app, "V<");
    all(&mut app, &["Enter"]);
    shows(&app, "in command mode    <");
    press(&mut app, "E/prompt.mode");
    all(&mut app, &["Enter", "Enter"]);
    let input = design(&app).parts().last().cloned().unwrap();
    assert_eq!(input.text_command, Some(RoleId::known("prompt.mode")));
    assert_eq!(input.signs_command.unwrap()[2], "<");
    all(&mut app, &["PgDn", "PgDn"]);
    shows(&app, "the editor's command mode");
}

#[test]
fn a_folder_of_ones_own_is_a_situation() {
    let (folder, mut app) = bench(Some("Ebb"));
    let weir = folder.path().join("home/src/weir");
    std::fs::create_dir_all(&weir).unwrap();
    press(&mut app, "/");
    press(&mut app, "src/weir");
    all(&mut app, &["Enter"]);
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("~/src/weir here"), "{drawn}");
    press(&mut app, "/");
    press(&mut app, "nowhere");
    all(&mut app, &["Enter"]);
    assert!(
        app.ws
            .note
            .as_ref()
            .is_some_and(|n| n.bad && n.text.contains("nowhere"))
    );
}

#[test]
fn signs_of_a_prompt_that_is_given_to_a_shell_are_judged_with_the_others() {
    let (_folder, mut app) = bench(Some("Ebb"));
    let effects = app.begin();
    settle(&mut app, effects);
    let judged = |app: &App, c: char| app.ws.derived.glyphs.iter().any(|g| g.found.character == c);
    all(&mut app, &["i"]);
    press(&mut app, "U+F0150");
    all(&mut app, &["Enter"]);
    let shells = crate::work::prompt::shells(&app.ws.survey);
    if shells.is_empty() {
        return;
    }
    assert!(!judged(&app, '\u{e725}'), "nothing of it is drawn yet");
    all(&mut app, &["Enter"]);
    assert!(judged(&app, '\u{e725}') && judged(&app, '\u{f0150}'));
    all(&mut app, &["Right", "Right", "Right", "i"]);
    for _ in 0..4 {
        all(&mut app, &["Backspace"]);
    }
    press(&mut app, "U+F126");
    all(&mut app, &["Enter"]);
    assert!(judged(&app, '\u{f126}') && !judged(&app, '\u{e725}'));
}

/// The bench's screen from the strip on: what is above it depends on which shells are installed.
fn assert_below(app: &App, wanted: &[&str]) {
    let drawn = screen(app, Depth::None, true);
    let rows: Vec<&str> = drawn.lines().skip(4).map(str::trim_end).collect();
    if std::env::var_os("SHOW_SCREENS").is_some() {
        let shown: String = rows.iter().map(|r| format!("    {r:?},\n")).collect();
        eprintln!("ROWS\n{shown}END");
        return;
    }
    for (i, (row, want)) in rows.iter().zip(wanted).enumerate() {
        assert_eq!(row, want, "row {i} of\n{drawn}");
    }
    assert_eq!(rows.len(), wanted.len());
}

#[test]
fn the_design_as_it_looks() {
    let (_folder, mut app) = bench(Some("Causeway"));
    all(&mut app, &["Right"]);
    assert_below(&app, screens::PROMPT);
    app.update(Message::Resized(80, 24));
    assert_below(&app, screens::PROMPT_SMALL);
    // In a terminal of plain characters nothing else is drawn.
    let drawn = screen(&app, Depth::None, false);
    assert!(drawn.is_ascii(), "{drawn}");
}
