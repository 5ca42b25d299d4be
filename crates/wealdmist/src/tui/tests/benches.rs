//! The Palette and Contrast benches without a terminal.

use crossterm::event::KeyCode;
use wealdmist_core::color::{Depth, Oklch, Rounding, Vision, contrast_ratio, indexed, ratio_shown};
use wealdmist_core::look::Origin;
use wealdmist_core::pair::Pair;
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Variant;
use wealdmist_core::specimen::Spot;
use wealdmist_core::{Rgb, Slot};

use super::{app, key, of, press, screen, settle, with_font};
use crate::tui::app::{App, Effect, Message};
use crate::tui::bench::{Chart, Contrast, Matter, Palette, Proposal};

fn enter(app: &mut App) -> Vec<Effect> {
    app.update(key(KeyCode::Enter))
}

/// Types into the line that is asked for.
fn typed(app: &mut App, text: &str) -> Vec<Effect> {
    assert!(app.line.is_some(), "nothing is asked");
    app.line.as_mut().unwrap().text.reset();
    app.update(Message::Pasted(text.into()));
    enter(app)
}

/// Why the line that is typed is not taken.
fn refused(app: &App) -> &str {
    let line = app.line.as_ref().expect("the line stays open");
    line.refused.as_deref().unwrap_or_default()
}

fn note(app: &App) -> &str {
    app.ws.note.as_ref().map_or("", |n| n.text.as_str())
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
        .ws
        .derived
        .pairs
        .iter()
        .position(|p| p.text.as_str() == text);
    of::<Contrast>(app).cursor = at.unwrap();
}

#[test]
fn a_repair_is_proposed_shown_and_only_then_taken() {
    let (_folder, mut app) = app((160, 47));
    let before = app.ws.survey.doc.text().to_owned();
    press(&mut app, "3r");
    let Some(proposal) = app.bench::<Proposal>() else {
        panic!("nothing is proposed: {}", note(&app));
    };
    assert!(matches!(proposal.matter, Matter::Repair(..)));
    assert_eq!(proposal.candidate().failing, 0);
    assert_eq!(app.ws.survey.doc.text(), before);
    // The specimen wears it, or the draft as it was.
    let line = RoleId::known("line-number");
    let ground = app.ws.worn_look().slot(Slot::Background);
    assert!(contrast_ratio(app.ws.worn_look().color(&line), ground) >= 3.0);
    press(&mut app, "b");
    assert_eq!(app.ws.worn_look(), &app.ws.derived.look);
    // q leaves the proposal, not the program.
    press(&mut app, "q");
    assert!(app.bench::<Proposal>().is_none() && !app.quit);
    assert_eq!(app.ws.survey.doc.text(), before);
    press(&mut app, "r");
    enter(&mut app);
    assert_eq!(app.ws.derived.counts.contrast, 0);
    press(&mut app, "u");
    assert_eq!(app.ws.survey.doc.text(), before);
}

#[test]
fn locked_colors_stay_and_the_person_is_told() {
    let (_folder, mut app) = app((160, 47));
    stand_on_pair(&mut app, "line-number");
    press(&mut app, "L");
    assert!(note(&app).contains("is locked"), "{}", note(&app));
    press(&mut app, "m");
    assert!(
        app.bench::<Proposal>().is_none() && note(&app).contains("locked"),
        "{}",
        note(&app)
    );
    press(&mut app, "r");
    let Some(proposal) = app.bench::<Proposal>() else {
        panic!("nothing is proposed");
    };
    let Matter::Repair(repairs) = &proposal.matter else {
        panic!("no repair");
    };
    let mut changes = repairs.ways.iter().flat_map(|way| &way.changes);
    assert!(changes.all(|c| app.ws.name_of(&c.origin) != "line-number"));
}

/// The colors that the repair shown moves, and those it holds.
fn repair_shown(app: &App) -> (Vec<String>, Vec<String>) {
    let Matter::Repair(repairs) = &app.bench::<Proposal>().unwrap().matter else {
        panic!("no repair");
    };
    let name = |color| app.ws.name_of(color);
    let moved = repairs.ways[0].changes.iter().map(|c| name(&c.origin));
    (moved.collect(), repairs.held.iter().map(name).collect())
}

#[test]
fn a_color_is_held_in_a_proposal_and_the_rest_repaired_again() {
    let (_folder, mut app) = app((160, 47));
    let before = app.ws.survey.doc.text().to_owned();
    press(&mut app, "3r");
    let (moved, none) = repair_shown(&app);
    assert!(moved.len() > 1 && none.is_empty(), "{moved:?}");
    // The second of them stays; it is shown below, and the pointer goes with it.
    press(&mut app, "jh");
    let (now, held) = repair_shown(&app);
    assert_eq!(held, [moved[1].clone()]);
    assert!(
        !now.contains(&moved[1]) && now.contains(&moved[0]),
        "{now:?}"
    );
    assert!(note(&app).contains("stays as it is"), "{}", note(&app));
    let screen = screen(&app, Depth::TrueColor, true);
    assert!(
        screen.contains("held: it stays as it is") && screen.contains("1 color held"),
        "{screen}"
    );
    let command = app.bench::<Proposal>().unwrap().candidate().command.clone();
    assert!(
        command.ends_with(&format!(" --hold {}", moved[1])),
        "{command}"
    );
    // Let go again, it is the repair of before.
    press(&mut app, "h");
    assert_eq!(repair_shown(&app), (moved.clone(), Vec::new()));
    assert_eq!(app.ws.survey.doc.text(), before);
    press(&mut app, "h");
    enter(&mut app);
    assert!(
        !app.ws.survey.doc.text().contains("locked"),
        "held for once, not locked"
    );
}

#[test]
fn conditions_are_switches_and_change_what_is_counted_and_shown() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "3");
    let plain = app.ws.derived.counts.contrast;
    let shown = app.ws.stage.seen.cells.clone();
    press(&mut app, "----");
    assert!(app.ws.conditions.opacity < 0.9);
    assert!(app.ws.derived.counts.contrast > plain);
    assert_ne!(app.ws.stage.seen.cells, shown);
    press(&mut app, "dbbvV");
    assert_eq!(app.ws.conditions.depth, Depth::Ansi16);
    assert!(app.ws.conditions.dimmed.is_some());
    assert_eq!(app.ws.conditions.vision, Vision::Protan(0.75));
    let drawn = screen(&app, Depth::TrueColor, true);
    assert!(drawn.contains("protanomaly 75%"), "{drawn}");
    press(&mut app, "c");
    assert!(app.ws.conditions.is_plain());
    assert_eq!(
        (app.ws.derived.counts.contrast, &app.ws.stage.seen.cells),
        (plain, &shown)
    );
}

#[test]
fn with_256_colors_the_specimen_and_the_thread_round_as_the_tools_do() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "3b");
    assert_eq!(app.ws.conditions.depth, Depth::Indexed256);
    let spots = app.ws.stage.specimen.spots.clone();
    let drawn_by = |app: &App, spot: &Spot| -> Vec<Pair> {
        let is_drawn = |p: &&Pair| p.text == spot.text && p.ground == spot.ground;
        let pairs = app.ws.derived.pairs.iter().filter(is_drawn);
        pairs.cloned().collect()
    };
    let by_cube =
        |pairs: &[Pair]| !pairs.is_empty() && pairs.iter().all(|p| p.rounding == Rounding::Cube);
    // A color that the tool takes otherwise than the nearest.
    let one = spots.iter().find(|spot| by_cube(&drawn_by(&app, spot)));
    let origin = Origin::Role(one.unwrap().text.clone());
    let mut colors = (0..0x0100_0000).step_by(0x01_2345).map(Rgb::from_u32);
    let color = colors.find(|c| Rounding::Cube.index(*c) != Rounding::Nearest.index(*c));
    let changed = app.ws.with_color(&origin, color.unwrap());
    assert!(app.ws.change(changed));
    app.ws.recompute();
    screen(&app, Depth::None, true);
    press(&mut app, "3");
    let look = app.ws.look().clone();
    let (mut otherwise, mut told) = (0, 0);
    for (i, spot) in spots.iter().enumerate() {
        let drawn = drawn_by(&app, spot);
        if !by_cube(&drawn) {
            continue;
        }
        let cell = spot.at.0 * app.ws.stage.seen.width + spot.at.1;
        let cell = &app.ws.stage.seen.cells[cell];
        for (role, seen) in [(&spot.text, cell.fg), (&spot.ground, cell.bg)] {
            let color = look.color(role);
            if !look.slots.0.contains(&color) {
                let wanted = indexed(Rounding::Cube.index(color)).unwrap();
                assert_eq!(seen, wanted, "{} {role}", spot.what);
                let nearest = indexed(Rounding::Nearest.index(color));
                otherwise += usize::from(nearest != Some(wanted));
            }
        }
        // What is told of it is what Contrast lists.
        app.ws.stage.spot = i;
        app.ws.stage.pointed = true;
        let ratio = ratio_shown(drawn[0].draft.ratio);
        if drawn
            .iter()
            .all(|p| !p.by_itself && p.draft == drawn[0].draft)
        {
            let shown = screen(&app, Depth::TrueColor, true);
            assert!(shown.contains(&ratio), "{}: {ratio}\n{shown}", spot.what);
            told += 1;
        }
    }
    assert!(otherwise > 0 && told > 0, "{otherwise} {told}");
}

#[test]
fn a_wallpaper_is_read_on_a_thread_and_seen_through() {
    let (folder, mut app) = with_font((160, 47));
    stand_on_pair(&mut app, "line-number");
    press(&mut app, "w");
    let home = folder.path().join("home");
    ::image::RgbImage::from_pixel(16, 8, ::image::Rgb([255; 3]))
        .save(home.join("wall.png"))
        .unwrap();
    let effects = typed(&mut app, "~/wall.png");
    assert!(app.ws.conditions.is_plain(), "nothing is read at a key");
    assert_eq!(app.busy(), Some("reading the image"));
    settle(&mut app, effects);
    assert!(app.ws.conditions.opacity < 1.0);
    let drawn = screen(&app, Depth::TrueColor, true);
    assert!(
        drawn.contains("over wall.png") && drawn.contains("worst at cell"),
        "{drawn}"
    );
    press(&mut app, "w");
    let effects = typed(&mut app, "/no/such.png");
    settle(&mut app, effects);
    // What was typed is still there, to be mended.
    assert!(refused(&app).contains("/no/such.png"));
    let text = app.line.as_ref().map(|line| line.text.value().to_owned());
    assert_eq!(text.as_deref(), Some("/no/such.png"));
}

#[test]
fn paths_are_completed_and_what_is_not_there_can_be_mended() {
    let (_folder, mut app) = app((160, 47));
    let home = app.ws.survey.home.home_path().to_owned();
    std::fs::create_dir(home.join("palettes")).unwrap();
    for name in ["mist.conf", "mist-dawn.conf"] {
        let text = "foreground #d0d0d0\nbackground #101010\n";
        std::fs::write(home.join("palettes").join(name), text).unwrap();
    }
    press(&mut app, "2nf");
    app.update(Message::Pasted("~/pal".into()));
    let text = |app: &App| app.line.as_ref().unwrap().text.value().to_owned();
    let complete = |app: &mut App| {
        let effects = app.update(key(KeyCode::Tab));
        settle(app, effects);
    };
    complete(&mut app);
    assert_eq!(text(&app), "~/palettes/");
    complete(&mut app);
    assert_eq!(text(&app), "~/palettes/mist");
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("mist-dawn.conf  mist.conf"), "{drawn}");
    app.update(Message::Pasted("y".into()));
    complete(&mut app);
    assert!(refused(&app).contains("nothing there begins so"));
    let effects = app.update(key(KeyCode::Enter));
    settle(&mut app, effects);
    assert_eq!(text(&app), "~/palettes/misty");
    let why = refused(&app);
    assert!(
        why.contains("there is no such file") && !why.contains(":1"),
        "{why}"
    );
    app.update(key(KeyCode::Backspace));
    app.update(Message::Pasted(".".into()));
    complete(&mut app);
    let effects = app.update(key(KeyCode::Enter));
    settle(&mut app, effects);
    assert!(app.line.is_none() && app.bench::<Proposal>().is_some());
}

#[test]
fn a_pair_can_be_kept_and_its_target_changed() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "3");
    let failing = app.ws.derived.counts.contrast;
    press(&mut app, "e");
    typed(&mut app, "  ");
    assert!(refused(&app).contains("needs a reason"));
    typed(&mut app, "seen often enough");
    assert_eq!(app.ws.derived.counts.contrast, failing - 1);
    let kept = app
        .ws
        .derived
        .pairs
        .iter()
        .position(|p| p.exception.is_some())
        .unwrap();
    let reason = app.ws.derived.pairs[kept].exception.as_deref();
    assert_eq!(reason, Some("seen often enough"));
    of::<Contrast>(&mut app).cursor = kept;
    press(&mut app, "e");
    assert_eq!(app.ws.derived.counts.contrast, failing);
    of::<Contrast>(&mut app).cursor = 0;
    press(&mut app, "n");
    typed(&mut app, "1.5");
    assert!(app.ws.derived.counts.contrast < failing, "{}", note(&app));
    press(&mut app, "n");
    typed(&mut app, "99");
    assert!(!refused(&app).is_empty());
}

#[test]
fn palettes_are_made_in_every_way_and_shown_before_they_are_taken() {
    let (folder, mut app) = app((160, 47));
    let before = app.ws.survey.doc.text().to_owned();
    way(&mut app, 0);
    assert_eq!(app.bench::<Proposal>().unwrap().candidates.len(), 4);
    app.update(key(KeyCode::Char(' ')));
    app.update(key(KeyCode::Down));
    assert!(app.ws.stage.second.is_some());
    let drawn = screen(&app, Depth::TrueColor, true);
    assert!(
        drawn.contains("above dusk cooler, below dusk warmer"),
        "{drawn}"
    );
    press(&mut app, "q");
    way(&mut app, 1);
    let light = app.bench::<Proposal>().unwrap().candidate();
    assert_eq!(light.doc.setup().palette().variant, Variant::Light);
    press(&mut app, "q");
    way(&mut app, 2);
    typed(&mut app, "oklch(0.7 0.1 330) #3a9a60");
    assert_eq!(
        app.bench::<Proposal>().unwrap().candidates.len(),
        3,
        "{}",
        note(&app)
    );
    press(&mut app, "q");
    way(&mut app, 2);
    typed(&mut app, "mud-ish");
    assert!(app.bench::<Proposal>().is_none());
    assert!(refused(&app).contains("'mud-ish' is not a color"));
    // Once for the line, once for the menu it belongs to.
    app.update(key(KeyCode::Esc));
    app.update(key(KeyCode::Esc));
    way(&mut app, 3);
    let path = folder.path().join("dusk.png");
    ::image::RgbImage::from_fn(60, 40, |x, y| ::image::Rgb([(x + 60 * y) as u8, 90, 140]))
        .save(&path)
        .unwrap();
    let effects = typed(&mut app, &path.display().to_string());
    settle(&mut app, effects);
    assert!(screen(&app, Depth::TrueColor, true).contains("its colors"));
    press(&mut app, "q");
    way(&mut app, 5);
    app.update(Message::Pasted(
        "background #101010\nforeground #dd\n".into(),
    ));
    assert!(refused(&app).contains("line 2: '#dd' is not a color"));
    assert!(app.bench::<Proposal>().is_none());
    app.update(Message::Pasted(
        "background #101010\nforeground #dddddd\ncolor20 #123456\n".into(),
    ));
    let remarks = &app.bench::<Proposal>().unwrap().candidate().remarks;
    assert!(remarks.iter().any(|r| r.contains("color20")), "{remarks:?}");
    assert_eq!(app.ws.survey.doc.text(), before);
    enter(&mut app);
    assert_eq!(app.ws.survey.doc.setup().active, "pasted");
    assert_eq!(
        app.ws.derived.look.slot(Slot::Background).to_string(),
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
    assert!(!app.ws.derived.look.dark);
    press(&mut app, "D");
    assert!(app.ws.derived.look.dark);
    press(&mut app, "D");
    assert!(!app.ws.derived.look.dark);
}

#[test]
fn the_ruler_sorts_marks_what_is_too_alike_and_picks_colors_up() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "2s");
    let l: Vec<f64> = app
        .bench::<Palette>()
        .unwrap()
        .entries(&app.ws)
        .iter()
        .map(|e| Oklch::from(e.color).l)
        .collect();
    assert!(l.windows(2).all(|w| w[0] <= w[1]));
    press(&mut app, "ss");
    let stand = |app: &mut App, name: &str| {
        let at = app
            .bench::<Palette>()
            .unwrap()
            .entries(&app.ws)
            .iter()
            .position(|e| app.ws.name_of(&e.origin) == name);
        of::<Palette>(app).cursor = at.unwrap();
    };
    stand(&mut app, "green");
    press(&mut app, "#");
    let yellow = app.ws.derived.look.slot(Slot::Yellow);
    typed(&mut app, &yellow.to_string());
    assert!(screen(&app, Depth::TrueColor, true).contains("≈ yellow 0.0"));
    // The eyedropper takes a spot's color for the one that is edited.
    app.ws.stage.pointed = true;
    app.ws.stage.spot = app
        .ws
        .stage
        .specimen
        .find(&RoleId::known("comment"))
        .unwrap();
    press(&mut app, "y");
    let comment = app.ws.derived.look.color(&RoleId::known("comment"));
    assert_eq!(app.ws.derived.look.slot(Slot::Green), comment);
    // The chart gives an indexed color.
    app.ws.stage.pointed = false;
    press(&mut app, "i");
    of::<Chart>(&mut app).index = 67;
    app.update(key(KeyCode::Right));
    app.update(key(KeyCode::Left));
    app.update(key(KeyCode::Down));
    assert_eq!(of::<Chart>(&mut app).index, 73);
    enter(&mut app);
    assert_eq!(app.ws.derived.look.slot(Slot::Green).to_string(), "#5fafaf");
    assert_eq!(app.step().label, "Palette");
}

#[test]
fn every_open_place_can_be_drawn_small_and_without_color() {
    for size in [(80, 24), (160, 47)] {
        let (_folder, mut app) = app(size);
        for keys in ["3", "3--v", "cr", "q2a", "i", "qn", "", "q?"] {
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
    let (folder, mut app) = app((160, 47));
    press(&mut app, "3P");
    let path = folder.path().join("x.pdf").display().to_string();
    let effects = typed(&mut app, &path);
    settle(&mut app, effects);
    assert_eq!(note(&app), format!("wrote {path}"));
    let written = std::fs::read(path).unwrap();
    assert!(written.starts_with(b"%PDF"));
}

fn shown(app: &App) -> String {
    screen(app, wealdmist_core::color::Depth::TrueColor, true)
}

#[test]
fn the_specimen_shows_what_the_step_changes() {
    let (_folder, mut app) = app((160, 47));
    press(&mut app, "2");
    assert!(shown(&app).contains("specimen: your draft"));
    // The lines in which the glyph stands: another one stands elsewhere.
    press(&mut app, "5");
    let rows = app.ws.derived.glyphs.clone();
    assert!(rows.len() > 1);
    for row in &rows[..2] {
        let shown = &app.ws.stage.specimen;
        let first: String = shown.cells[..shown.width]
            .iter()
            .map(|c| &*c.text)
            .collect();
        let place = format!("{}:{}", row.found.place.file_name(), row.found.place.at);
        assert!(first.trim_end().ends_with(&place), "{first:?}, not {place}");
        app.update(key(KeyCode::Down));
    }
    // What is planned, above the look that the dotfiles have among them.
    press(&mut app, "8");
    let before = (app.ws.stage.second.as_ref()).map(|(_, s)| s.cells.clone());
    assert!(before.is_some() && shown(&app).contains("below as your dotfiles have it"));
    let palette = app.ws.doc().setup().palette().name.clone();
    let red = wealdmist_core::color::Rgb::from_u32(0x12_3456);
    let changed = app.ws.doc().with_slot(&palette, Slot::Red, red);
    assert!(app.ws.change(changed));
    press(&mut app, "28");
    let (above, below) = (
        &app.ws.stage.specimen,
        app.ws.stage.second.as_ref().unwrap(),
    );
    let wears = |cells: &[wealdmist_core::specimen::Cell]| cells.iter().any(|c| c.fg == red);
    assert!(wears(&above.cells) && !wears(&below.1.cells));
    assert_eq!(before.unwrap(), below.1.cells);
}

#[test]
fn a_property_of_few_words_goes_on_to_the_next() {
    use crate::tui::bench::Survey;
    use wealdmist_core::property::Property;

    let (_folder, mut app) = app((160, 47));
    press(&mut app, "1");
    let role = RoleId::from(Property::CursorBlink);
    let at = |app: &mut App| {
        for _ in 0..200 {
            let ledger = app.ws.derived.ledger.clone();
            if of::<Survey>(app).role(&ledger).as_ref() == Some(&role) {
                return;
            }
            app.update(key(KeyCode::Down));
        }
        panic!("no row for it");
    };
    at(&mut app);
    let said = |app: &App| {
        Property::CursorBlink
            .of(app.ws.doc().setup())
            .map(|v| v.to_string())
    };
    assert_eq!(said(&app), None);
    for wanted in ["on", "off", "on"] {
        enter(&mut app);
        assert_eq!(said(&app).as_deref(), Some(wanted));
    }
    // It is one change each, and goes into the plan.
    let text = app.ws.survey.doc.text().to_owned();
    assert!(text.contains("cursor-blink = true"), "{text}");
    press(&mut app, "u");
    assert_eq!(said(&app).as_deref(), Some("off"));
}

#[test]
fn the_window_is_changed_beside_what_each_terminal_has() {
    use wealdmist_core::property::Property;
    use wealdmist_core::reading::Value;

    let (_folder, mut app) = app((160, 47));
    press(&mut app, "7");
    let said = |app: &App, property: Property| property.of(app.ws.doc().setup());
    assert!(shown(&app).contains("window of kitty"), "{}", shown(&app));
    // Less of the ground: contrast follows at once, and the plan.
    let (failing, planned) = (
        app.ws.derived.counts.contrast,
        app.ws.planned.change_count(),
    );
    press(&mut app, "---");
    assert_eq!(
        said(&app, Property::WindowOpacity),
        Some(Value::Number(0.85))
    );
    assert!(app.ws.derived.counts.contrast > failing);
    assert_eq!(app.ws.planned.change_count(), planned + 4);
    assert!(shown(&app).contains("85% opaque over any wallpaper"));
    // The least that text allows, and all three steps back at once.
    press(&mut app, "m");
    let Some(Value::Number(least)) = said(&app, Property::WindowOpacity) else {
        panic!("no opacity");
    };
    assert!(least > 0.85 && least <= 1.0, "{least}");
    assert_eq!(app.ws.derived.counts.contrast, failing);
    press(&mut app, "uu");
    assert_eq!(
        said(&app, Property::WindowOpacity),
        Some(Value::Number(1.0))
    );
    // Sides of their own, typed; a wrong value keeps the line open with the reason.
    for _ in 0..7 {
        app.update(key(KeyCode::Down));
    }
    enter(&mut app);
    typed(&mut app, "6 wide");
    assert_eq!(refused(&app), "'6 wide' is not a number");
    typed(&mut app, "6 12");
    assert_eq!(
        said(&app, Property::WindowPadding),
        Some(Value::Text("6 12".into()))
    );
    assert!(app.ws.doc().text().contains("padding = [6.0, 12.0]"));
    // Another terminal: its own window, which has no tabs.
    let tabs = |app: &App| {
        app.ws
            .stage
            .specimen
            .spots
            .iter()
            .any(|s| s.what == "active tab")
    };
    assert!(tabs(&app));
    app.update(key(KeyCode::Right));
    assert!(shown(&app).contains("window of alacritty") && !tabs(&app));
    press(&mut app, "h");
    assert_eq!(
        said(&app, Property::Host),
        Some(Value::Text("alacritty".into()))
    );
    // A few words go on to the next; what is not chosen is each terminal's own.
    app.update(key(KeyCode::Down));
    enter(&mut app);
    assert_eq!(
        said(&app, Property::WindowDecorations),
        Some(Value::Text("full".into()))
    );
    press(&mut app, "x");
    assert_eq!(said(&app, Property::WindowDecorations), None);
    // From a spot of the drawing to its row.
    press(&mut app, "1");
    press(&mut app, "7");
    let spots = &app.ws.stage.specimen.spots;
    let spot = spots.iter().position(|s| s.what == "padding").unwrap();
    app.update(Message::Clicked(crate::tui::view::Hit::Spot(spot)));
    enter(&mut app);
    assert!(
        shown(&app).contains("padding  0 to 1000"),
        "{}",
        shown(&app)
    );
}
