//! The Palette and Contrast benches without a terminal.

use crossterm::event::KeyCode;
use wealdmist_core::Slot;
use wealdmist_core::color::{Depth, Oklch, Vision, contrast_ratio};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Variant;
use wealdmist_host::Picture;

use super::{app, key, press, screen};
use crate::tui::app::{App, Effect, Matter, Message};
use crate::tui::keys::Step;

fn enter(app: &mut App) -> Vec<Effect> {
    app.update(key(KeyCode::Enter))
}

/// Types into the line that is asked for.
fn typed(app: &mut App, text: &str) -> Vec<Effect> {
    assert!(app.input.is_some(), "nothing is asked");
    app.input.as_mut().unwrap().text.clear();
    app.update(Message::Pasted(text.into()));
    enter(app)
}

fn note(app: &App) -> &str {
    app.note.as_ref().map_or("", |n| n.text.as_str())
}

/// Opens the menu of ways to a palette and chooses one by its place.
fn way(app: &mut App, place: usize) -> Vec<Effect> {
    press(app, "2n");
    for _ in 0..place {
        app.update(key(KeyCode::Down));
    }
    enter(app)
}

/// Goes to Contrast and points at the pair of a text.
fn stand_on_pair(app: &mut App, text: &str) {
    press(app, "3");
    let at = app
        .derived
        .pairs
        .iter()
        .position(|p| p.text.as_str() == text);
    app.pair = at.unwrap();
}

#[test]
fn a_repair_is_proposed_shown_and_only_then_taken() {
    let (_folder, mut app) = app((160, 47));
    let before = app.survey.doc.text().to_owned();
    press(&mut app, "3r");
    let Some(proposal) = &app.proposal else {
        panic!("nothing is proposed: {}", note(&app));
    };
    assert!(matches!(proposal.matter, Matter::Repair(..)));
    assert_eq!(proposal.candidate().failing, 0);
    assert_eq!(app.survey.doc.text(), before);
    // The specimen wears it, or the draft as it was.
    let line = RoleId::known("line-number");
    let ground = app.worn_look().slot(Slot::Background);
    assert!(contrast_ratio(app.worn_look().color(&line), ground) >= 3.0);
    press(&mut app, "b");
    assert_eq!(app.worn_look(), &app.derived.look);
    // q leaves the proposal, not the program.
    press(&mut app, "q");
    assert!(app.proposal.is_none() && !app.quit);
    assert_eq!(app.survey.doc.text(), before);
    press(&mut app, "r");
    enter(&mut app);
    assert_eq!(app.derived.counts.contrast, 0);
    press(&mut app, "u");
    assert_eq!(app.survey.doc.text(), before);
}

#[test]
fn locked_colors_stay_and_the_person_is_told() {
    let (_folder, mut app) = app((160, 47));
    stand_on_pair(&mut app, "line-number");
    press(&mut app, "L");
    assert!(note(&app).contains("is locked"), "{}", note(&app));
    press(&mut app, "m");
    assert!(
        app.proposal.is_none() && note(&app).contains("locked"),
        "{}",
        note(&app)
    );
    press(&mut app, "r");
    let Some(proposal) = &app.proposal else {
        panic!("nothing is proposed");
    };
    let Matter::Repair(done, _) = &proposal.matter else {
        panic!("no repair");
    };
    assert!(
        done.changes
            .iter()
            .all(|c| app.name_of(&c.origin) != "line-number")
    );
}

#[test]
fn conditions_are_switches_and_change_what_is_counted_and_shown() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "3");
    let plain = app.derived.counts.contrast;
    let shown = app.seen.cells.clone();
    press(&mut app, "----");
    assert!(app.conditions.opacity < 0.9);
    assert!(app.derived.counts.contrast > plain);
    assert_ne!(app.seen.cells, shown);
    press(&mut app, "dbbvV");
    assert_eq!(app.conditions.depth, Depth::Ansi16);
    assert!(app.conditions.dimmed.is_some());
    assert_eq!(app.conditions.vision, Vision::Protan(0.75));
    let drawn = screen(&app, Depth::TrueColor, true);
    assert!(drawn.contains("protanomaly 75%"), "{drawn}");
    press(&mut app, "0");
    assert!(app.conditions.is_plain());
    assert_eq!(
        (app.derived.counts.contrast, &app.seen.cells),
        (plain, &shown)
    );
}

#[test]
fn a_wallpaper_is_read_on_a_thread_and_seen_through() {
    let (folder, mut app) = app((160, 47));
    stand_on_pair(&mut app, "line-number");
    press(&mut app, "w");
    let effects = typed(&mut app, "~/wall.png");
    let home = folder.path().join("home");
    let path = home.canonicalize().unwrap().join("wall.png");
    assert_eq!(effects, [Effect::ReadWallpaper(path.clone())]);
    let white = vec![255; 16 * 8 * 3];
    let found = wealdmist_core::condition::Backdrop::new(&white, (16, 8), (4, 2)).unwrap();
    app.update(Message::WallpaperRead(path, Ok(found)));
    assert!(app.conditions.opacity < 1.0);
    let drawn = screen(&app, Depth::TrueColor, true);
    assert!(
        drawn.contains("over wall.png") && drawn.contains("worst at cell"),
        "{drawn}"
    );
    app.update(Message::WallpaperRead("x".into(), Err("no image".into())));
    assert!(
        app.note
            .as_ref()
            .is_some_and(|n| n.bad && n.text == "no image")
    );
}

#[test]
fn a_pair_can_be_kept_and_its_target_changed() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "3");
    let failing = app.derived.counts.contrast;
    press(&mut app, "e");
    typed(&mut app, "  ");
    assert!(note(&app).contains("needs a reason"));
    press(&mut app, "e");
    typed(&mut app, "seen often enough");
    assert_eq!(app.derived.counts.contrast, failing - 1);
    let kept = app
        .derived
        .pairs
        .iter()
        .position(|p| p.exception.is_some())
        .unwrap();
    let reason = app.derived.pairs[kept].exception.as_deref();
    assert_eq!(reason, Some("seen often enough"));
    app.pair = kept;
    press(&mut app, "e");
    assert_eq!(app.derived.counts.contrast, failing);
    app.pair = 0;
    press(&mut app, "n");
    typed(&mut app, "1.5");
    assert!(app.derived.counts.contrast < failing, "{}", note(&app));
    press(&mut app, "n");
    typed(&mut app, "99");
    assert!(app.note.as_ref().is_some_and(|n| n.bad), "{}", note(&app));
}

#[test]
fn palettes_are_made_in_every_way_and_shown_before_they_are_taken() {
    let (_folder, mut app) = app((160, 47));
    let before = app.survey.doc.text().to_owned();
    way(&mut app, 0);
    assert_eq!(app.proposal.as_ref().unwrap().candidates.len(), 4);
    app.update(key(KeyCode::Char(' ')));
    app.update(key(KeyCode::Down));
    assert!(app.second.is_some());
    let drawn = screen(&app, Depth::TrueColor, true);
    assert!(
        drawn.contains("above dusk cooler, below dusk warmer"),
        "{drawn}"
    );
    press(&mut app, "q");
    way(&mut app, 1);
    let light = app.proposal.as_ref().unwrap().candidate();
    assert_eq!(light.doc.setup().palette().variant, Variant::Light);
    press(&mut app, "q");
    way(&mut app, 2);
    typed(&mut app, "oklch(0.7 0.1 330) #3a9a60");
    assert_eq!(
        app.proposal.as_ref().unwrap().candidates.len(),
        2,
        "{}",
        note(&app)
    );
    press(&mut app, "q");
    way(&mut app, 2);
    typed(&mut app, "mud-ish");
    assert!(app.proposal.is_none() && note(&app).contains("'mud-ish' is not a color"));
    way(&mut app, 3);
    let effects = typed(&mut app, "/x/dusk.png");
    assert_eq!(effects, [Effect::ReadImage("/x/dusk.png".into())]);
    let pixels = (0..60 * 40)
        .flat_map(|i| [(i % 256) as u8, 90, 140])
        .collect();
    let picture = Picture {
        width: 60,
        height: 40,
        pixels,
    };
    app.update(Message::ImageRead("dusk".into(), Ok(picture)));
    assert!(screen(&app, Depth::TrueColor, true).contains("its colors"));
    press(&mut app, "q");
    way(&mut app, 5);
    app.update(Message::Pasted(
        "background #101010\nforeground #dd\n".into(),
    ));
    assert!(
        note(&app).contains("line 2: '#dd' is not a color"),
        "{}",
        note(&app)
    );
    assert!(app.proposal.is_none());
    way(&mut app, 5);
    app.update(Message::Pasted(
        "background #101010\nforeground #dddddd\ncolor20 #123456\n".into(),
    ));
    let remarks = &app.proposal.as_ref().unwrap().candidate().remarks;
    assert!(remarks.iter().any(|r| r.contains("color20")), "{remarks:?}");
    assert_eq!(app.survey.doc.text(), before);
    enter(&mut app);
    assert_eq!(app.survey.doc.setup().active, "pasted");
    assert_eq!(
        app.derived.look.slot(Slot::Background).to_string(),
        "#101010"
    );
}

#[test]
fn one_key_goes_to_the_other_side_once_there_is_one() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "D");
    assert!(
        note(&app).contains("no light palette yet"),
        "{}",
        note(&app)
    );
    way(&mut app, 1);
    enter(&mut app);
    assert!(!app.derived.look.dark);
    press(&mut app, "D");
    assert!(app.derived.look.dark);
    press(&mut app, "D");
    assert!(!app.derived.look.dark);
}

#[test]
fn the_ruler_sorts_marks_what_is_too_alike_and_picks_colors_up() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "2s");
    let l: Vec<f64> = app
        .entries()
        .iter()
        .map(|e| Oklch::from(e.color).l)
        .collect();
    assert!(l.windows(2).all(|w| w[0] <= w[1]));
    press(&mut app, "ss");
    let stand = |app: &mut App, name: &str| {
        let at = app
            .entries()
            .iter()
            .position(|e| app.name_of(&e.origin) == name);
        app.palette.cursor = at.unwrap();
    };
    stand(&mut app, "green");
    press(&mut app, "#");
    let yellow = app.derived.look.slot(Slot::Yellow);
    typed(&mut app, &yellow.to_string());
    let entry = app.entry().unwrap();
    assert_eq!(app.too_alike(&entry), Some((Slot::Yellow, 0.0)));
    assert!(screen(&app, Depth::TrueColor, true).contains("≈ yellow 0.0"));
    // The eyedropper takes a spot's color for the one that is edited.
    app.on_specimen = true;
    app.spot = app.specimen.find(&RoleId::known("comment")).unwrap();
    press(&mut app, "y");
    let comment = app.derived.look.color(&RoleId::known("comment"));
    assert_eq!(app.derived.look.slot(Slot::Green), comment);
    // The chart gives an indexed color.
    app.on_specimen = false;
    press(&mut app, "i");
    app.palette.chart = Some(67);
    app.update(key(KeyCode::Right));
    app.update(key(KeyCode::Left));
    app.update(key(KeyCode::Down));
    assert_eq!(app.palette.chart, Some(73));
    enter(&mut app);
    assert_eq!(app.derived.look.slot(Slot::Green).to_string(), "#5fafaf");
    assert_eq!(app.step, Step::Palette);
}

#[test]
fn every_open_place_can_be_drawn_small_and_without_color() {
    for size in [(80, 24), (160, 47)] {
        let (_folder, mut app) = app(size);
        for keys in ["3", "3--v", "0r", "q2a", "i", "qn", "", "q?"] {
            press(&mut app, keys);
            for depth in [Depth::None, Depth::Ansi16, Depth::TrueColor] {
                for unicode in [true, false] {
                    let drawn = screen(&app, depth, unicode);
                    assert!(unicode || drawn.is_ascii(), "{keys}: {drawn}");
                }
            }
        }
    }
}

#[test]
fn a_drawing_is_asked_for_and_its_outcome_told() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "3P");
    let effects = typed(&mut app, "/tmp/x.pdf");
    assert_eq!(effects, [Effect::Draw(Step::Contrast, "/tmp/x.pdf".into())]);
    app.update(Message::Drawn(Ok("wrote /tmp/x.pdf".into())));
    assert_eq!(note(&app), "wrote /tmp/x.pdf");
}
