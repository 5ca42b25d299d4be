//! The Font and Glyphs benches without a terminal.

use crossterm::event::KeyCode;
use wealdmist_core::character::SymbolLevel;
use wealdmist_core::color::Depth;
use wealdmist_core::demo::fonts;
use wealdmist_core::font::picture::Means;
use wealdmist_core::font::raster::{Grid, glyph};
use wealdmist_core::font::{Four, Typeface};
use wealdmist_core::terminal::TerminalRecord;

use super::screens::FACES;
use super::{assert_screen, clicked, find, key, of, press, screen, settle, with_font};
use crate::tui::app::{App, Effect, Message};
use crate::tui::bench::{
    Font, GlyphAnswer, Glyphs, Icons, LARGE, MARGIN, Page, View, map_of_icons, other_coverage,
};

fn glyphs(app: &App) -> &Glyphs {
    app.bench().unwrap()
}

fn type_in(app: &mut App, text: &str) {
    for c in text.chars() {
        app.update(key(KeyCode::Char(c)));
    }
    let effects = app.update(key(KeyCode::Enter));
    settle(app, effects);
}

fn on_fonts(size: (u16, u16)) -> (tempfile::TempDir, App) {
    let (folder, mut app) = with_font(size);
    let effects = press(&mut app, "4");
    settle(&mut app, effects);
    (folder, app)
}

fn stand_on(app: &mut App, family: &str) {
    let at = of::<Font>(app)
        .families
        .iter()
        .position(|f| f.name == family);
    let at = at.unwrap_or_else(|| panic!("{family} is not in {:?}", of::<Font>(app).families));
    let effects = app.update(clicked(at, None));
    settle(app, effects);
}

#[test]
fn faces_as_they_look() {
    let (_folder, mut app) = on_fonts((100, 30));
    app.ws.display.means = vec![Means::Dots, Means::Ascii];
    let effects = press(&mut app, "+");
    settle(&mut app, effects);
    assert_screen(&app, FACES);
}

#[test]
fn samples_fit_every_screen_and_means() {
    for size in [(80, 24), (140, 40), (250, 70)] {
        let (_folder, mut app) = on_fonts(size);
        for means in Means::ALL {
            app.ws.display.means = vec![means];
            let effects = press(&mut app, " s");
            settle(&mut app, effects);
            let unicode = means != Means::Ascii;
            let drawn = screen(&app, Depth::Ansi16, unicode);
            assert!(drawn.contains("Reedbed Mono NF Regular"), "{drawn}");
            assert!(unicode || drawn.is_ascii(), "{drawn}");
        }
    }
}

#[test]
fn a_family_is_chosen_with_its_styles_features_and_fallback() {
    let (_folder, mut app) = on_fonts((160, 47));
    stand_on(&mut app, "Reedbed Mono");
    let effects = app.update(key(KeyCode::Enter));
    settle(&mut app, effects);
    assert_eq!(
        app.ws.survey.doc.setup().font.family.as_deref(),
        Some("Reedbed Mono")
    );
    // The bold face of another family, which Reedbed Mono itself lacks.
    let effects = press(&mut app, "b");
    settle(&mut app, effects);
    assert_eq!(of::<Font>(&mut app).style, Four::Bold);
    assert!(
        of::<Font>(&mut app).panels[0].note.contains("no bold face"),
        "{:?}",
        of::<Font>(&mut app).panels[0].note
    );
    stand_on(&mut app, "Reedbed Mono NF");
    assert!(of::<Font>(&mut app).panels[0].title.ends_with("Bold"));
    let effects = app.update(key(KeyCode::Enter));
    settle(&mut app, effects);
    assert_eq!(
        app.ws.survey.doc.setup().font.bold.as_deref(),
        Some("Reedbed Mono NF Bold")
    );
    let effects = press(&mut app, "elh");
    settle(&mut app, effects);
    let font = app.ws.survey.doc.setup().font.clone();
    assert_eq!(font.fallback, ["Reedbed Mono NF"]);
    assert_eq!(
        (font.ligatures, font.line_height),
        (Some(false), Some(1.05))
    );
    // The plan writes all of it.
    let plan = app.ws.planned.plan.unified();
    for line in [
        "bold_font Reedbed Mono NF Bold",
        "disable_ligatures always",
        "modify_font cell_height 105%",
        "symbol_map U+",
    ] {
        assert!(plan.contains(line), "{line} is not in {plan}");
    }
}

#[test]
fn facts_and_features_are_pages_of_their_own() {
    let (_folder, mut app) = on_fonts((160, 47));
    stand_on(&mut app, "Reedbed Mono NF");
    let effects = press(&mut app, "f");
    settle(&mut app, effects);
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("font_family Reedbed Mono NF") && drawn.contains("one width, 600 units"),
        "{drawn}"
    );
    let effects = press(&mut app, "f");
    settle(&mut app, effects);
    assert_eq!(of::<Font>(&mut app).page, Page::Features);
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("Open nought") && drawn.contains("changes 0"),
        "{drawn}"
    );
    app.update(key(KeyCode::Down));
    app.update(key(KeyCode::Enter));
    assert_eq!(app.ws.survey.doc.setup().font.features_text(), "ss01");
    assert!(screen(&app, Depth::None, true).contains("on by the setup"));
    app.update(key(KeyCode::Enter));
    assert_eq!(app.ws.survey.doc.setup().font.features_text(), "");
}

#[test]
fn an_archive_is_looked_into_and_a_family_installed_from_it() {
    let (folder, mut app) = on_fonts((160, 47));
    let download = folder.path().join("download");
    std::fs::create_dir(&download).unwrap();
    let mut zip = Vec::new();
    {
        // A tar archive by its simplest means: one entry, written by the host's own reader's rules.
        let font = fonts::short_separators();
        let mut header = [0u8; 512];
        header[..8].copy_from_slice(b"New.ttf\0");
        header[100..107].copy_from_slice(b"0000644");
        let size = format!("{:011o}", font.len());
        header[124..135].copy_from_slice(size.as_bytes());
        header[156] = b'0';
        header[257..263].copy_from_slice(b"ustar\0");
        header[148..156].fill(b' ');
        let sum: u32 = header.iter().map(|b| u32::from(*b)).sum();
        header[148..155].copy_from_slice(format!("{sum:06o}\0").as_bytes());
        zip.extend_from_slice(&header);
        zip.extend_from_slice(&font);
        zip.resize(zip.len().div_ceil(512) * 512 + 1024, 0);
    }
    std::fs::write(download.join("new.tar"), zip).unwrap();
    std::fs::remove_file(
        app.ws
            .survey
            .home
            .home_path()
            .join(".local/share/fonts/BulrushNF-Regular.ttf"),
    )
    .unwrap();
    find(&mut app);
    press(&mut app, "o");
    type_in(&mut app, &download.join("new.tar").display().to_string());
    assert_eq!(of::<Font>(&mut app).families[0].name, "Bulrush NF");
    assert!(!of::<Font>(&mut app).families[0].installed);
    assert!(
        of::<Font>(&mut app).panels[0].raster.is_some(),
        "seen before it is installed"
    );
    app.update(key(KeyCode::Enter));
    assert!(
        app.ws
            .note
            .as_ref()
            .is_some_and(|n| n.text.contains("i installs"))
    );
    let effects = press(&mut app, "i");
    settle(&mut app, effects);
    assert!(
        of::<Font>(&mut app)
            .families
            .iter()
            .any(|f| f.name == "Bulrush NF" && f.installed),
        "{:?}",
        of::<Font>(&mut app).families
    );
    assert!(
        app.ws
            .survey
            .home
            .home_path()
            .join(".local/share/fonts/Bulrush NF/New.ttf")
            .exists()
    );
}

#[test]
fn substitutes_are_offered_taken_and_planned() {
    let (_folder, mut app) = with_font((160, 47));
    press(&mut app, "5");
    let open = app.ws.derived.counts.glyphs;
    assert!(open >= 3);
    let first = glyphs(&app).glyph_row(&app.ws).unwrap().found.character;
    assert!(!glyphs(&app).offered(&app.ws).is_empty());
    let offered = glyphs(&app).offered(&app.ws)[0].text.clone();
    press(&mut app, "s");
    assert_eq!(of::<Glyphs>(&mut app).choice, 1);
    press(&mut app, "s");
    of::<Glyphs>(&mut app).choice = 0;
    app.update(key(KeyCode::Enter));
    assert_eq!(
        app.ws.survey.doc.setup().replace.get(&first.to_string()),
        Some(&offered)
    );
    assert!(app.ws.derived.counts.glyphs < open);
    press(&mut app, "m");
    assert_eq!(
        app.ws.derived.counts.glyphs,
        0,
        "{:?}",
        app.ws.survey.doc.setup().replace
    );
    let code = format!("U+{:04X}", offered.chars().next().unwrap() as u32);
    assert!(
        app.ws.planned.plan.unified().contains(&code),
        "the plan replaces it"
    );
    press(&mut app, "uu");
    assert_eq!(app.ws.derived.counts.glyphs, open);
}

#[test]
fn the_symbol_level_switches_everything_or_one_tool() {
    let (_folder, mut app) = with_font((160, 47));
    press(&mut app, "5");
    let before = app.ws.planned.plan.change_count();
    let tool = glyphs(&app).glyph_row(&app.ws).unwrap().tool;
    press(&mut app, "L");
    assert_eq!(
        app.ws.survey.doc.setup().symbols_for(tool),
        SymbolLevel::Plain
    );
    assert_eq!(app.ws.survey.doc.setup().symbols, SymbolLevel::Icons);
    let one = app.ws.planned.plan.change_count();
    assert!(one > before);
    press(&mut app, "l");
    assert_eq!(app.ws.survey.doc.setup().symbols, SymbolLevel::Plain);
    assert!(app.ws.planned.plan.change_count() > one);
}

#[test]
fn the_map_the_search_and_the_marks() {
    let (_folder, mut app) = with_font((160, 47));
    press(&mut app, "5v");
    assert_eq!(of::<Glyphs>(&mut app).view, View::Map);
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("separators (pl, ple)  U+E0A0  38 of 40"),
        "{drawn}"
    );
    app.update(key(KeyCode::Down));
    app.update(key(KeyCode::Right));
    assert!(
        glyphs(&app)
            .glyph_pointed(&app.ws)
            .is_some_and(|c| c as u32 > 0x2000)
    );
    // A search, and its answer taken for the glyph in use.
    press(&mut app, "vv");
    assert_eq!(of::<Glyphs>(&mut app).view, View::List);
    let wrong = glyphs(&app).glyph_row(&app.ws).unwrap().found.character;
    press(&mut app, "/");
    type_in(&mut app, "git branch");
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("pl-branch") && drawn.contains("in the font"),
        "{drawn}"
    );
    app.update(key(KeyCode::Enter));
    assert_eq!(
        app.ws
            .survey
            .doc
            .setup()
            .replace
            .get(&wrong.to_string())
            .map(String::as_str),
        Some("\u{e0a0}")
    );
    assert!(app.bench::<Icons>().is_none());
    // A mark lowers the level that is proposed, and is kept.
    press(&mut app, "x");
    let record = app.ws.terminal_record().unwrap();
    assert_eq!(record.wrong.len(), 1);
    assert_eq!(
        record.proposed_level().map(|l| l.0),
        Some(SymbolLevel::Plain)
    );
    press(&mut app, "g");
    assert_eq!(app.ws.survey.doc.setup().symbols, SymbolLevel::Plain);
}

/// Has this terminal measured, with what comes of it.
fn measured(app: &mut App, result: Result<TerminalRecord, &str>) {
    let mut effects = press(app, "w");
    let Some(Effect::Start(started)) = effects.pop() else {
        panic!("nothing is measured: {effects:?}");
    };
    assert!(
        started.job.at_terminal,
        "nothing else may read the terminal"
    );
    let answer = GlyphAnswer::Measured(result.map_err(str::to_owned));
    let effects = app.update(Message::Done(started.ticket, Box::new(answer)));
    settle(app, effects);
}

#[test]
fn what_was_measured_is_shown_beside_what_is_expected() {
    let (_folder, mut app) = with_font((160, 47));
    let effects = press(&mut app, "5");
    settle(&mut app, effects);
    let mut record = TerminalRecord {
        name: "reedterm".into(),
        ..TerminalRecord::default()
    };
    record.widths.insert("→".into(), 2);
    record.widths.insert("a".into(), 1);
    measured(&mut app, Ok(record));
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("reedterm") && drawn.contains("symbol level proposed: ascii"),
        "{drawn}"
    );
    // The bottom line offers what can be done here.
    assert!(!drawn.contains("replace by this"), "{drawn}");
    app.ws.note = None;
    assert!(screen(&app, Depth::None, true).contains("w measure this terminal"));
    // The glyph pointed at is drawn as the font has it; where nothing can be drawn that is not said.
    let c = glyphs(&app).glyph_pointed(&app.ws).unwrap();
    assert!(glyphs(&app).drawing(c).is_some(), "{c}");
    assert!(drawn.contains("beside it, what it should be"), "{drawn}");
    let mut record = TerminalRecord::default();
    record.widths.insert("字".into(), 2);
    measured(&mut app, Ok(record));
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("x marks it where that is wrong"), "{drawn}");
    // Several characters that are drawn as one are told of as a whole.
    let mut record = TerminalRecord::default();
    record.widths.insert("1\u{fe0f}\u{20e3}".into(), 1);
    measured(&mut app, Ok(record));
    let drawn = screen(&app, Depth::None, true);
    for said in [
        "U+0031 U+FE0F U+20E3  drawn as one: digit one + combining enclosing keycap",
        "x marks it where this terminal draws it wrongly: 1",
    ] {
        assert!(drawn.contains(said), "{said}\n{drawn}");
    }
    measured(&mut app, Err("no terminal"));
    assert!(app.ws.note.as_ref().is_some_and(|n| n.bad));
    assert_eq!(app.step().label, "Glyphs");
}

#[test]
fn every_view_is_drawn_at_every_size_and_depth() {
    for size in [(1, 1), (80, 24), (100, 30), (250, 70)] {
        let (_folder, mut app) = on_fonts(size);
        for keys in ["f", "f", "f", "b", "5", "v", "v", "v", "?"] {
            let effects = press(&mut app, keys);
            settle(&mut app, effects);
            for depth in [
                Depth::TrueColor,
                Depth::Indexed256,
                Depth::Ansi16,
                Depth::None,
            ] {
                screen(&app, depth, true);
            }
            if size.0 > 1 {
                app.ws.display.means = vec![Means::Ascii];
                let drawn = screen(&app, Depth::None, false);
                assert!(drawn.is_ascii(), "{keys}: {drawn}");
            }
        }
    }
}

#[test]
fn what_is_typed_is_taken_or_refused() {
    let (_folder, mut app) = on_fonts((160, 47));
    press(&mut app, "#");
    for _ in 0..6 {
        app.update(key(KeyCode::Backspace));
    }
    type_in(&mut app, "14");
    assert_eq!(app.ws.survey.doc.setup().font.size, Some(14.0));
    press(&mut app, "#");
    type_in(&mut app, "x");
    let refused = app.line.as_ref().and_then(|l| l.refused.clone());
    assert!(refused.is_some_and(|why| why.contains("no number")));
    assert_eq!(app.ws.survey.doc.setup().font.size, Some(14.0));
    app.update(key(KeyCode::Esc));
    press(&mut app, "o");
    type_in(&mut app, "/nonexistent");
    let refused = app.line.as_ref().and_then(|l| l.refused.clone());
    assert!(refused.is_some_and(|why| why.contains("/nonexistent")));
    app.update(key(KeyCode::Esc));
    press(&mut app, "/");
    type_in(&mut app, "nothing of the kind");
    assert!(of::<Font>(&mut app).families.is_empty());
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("No family's name holds"), "{drawn}");
    // A key pressed on an empty list does nothing.
    let effects = press(&mut app, " beifl");
    settle(&mut app, effects);
    app.update(key(KeyCode::Enter));
}

#[test]
fn a_replacement_is_typed_kept_back_and_copied() {
    let (_folder, mut app) = with_font((160, 47));
    press(&mut app, "5");
    let c = glyphs(&app).glyph_row(&app.ws).unwrap().found.character;
    press(&mut app, "n");
    type_in(&mut app, ">>");
    assert_eq!(
        app.ws
            .survey
            .doc
            .setup()
            .replace
            .get(&c.to_string())
            .map(String::as_str),
        Some(">>")
    );
    let row = app
        .ws
        .derived
        .glyphs
        .iter()
        .find(|r| r.found.character == c)
        .unwrap();
    assert_eq!(row.becomes.as_deref(), Some(">>"));
    of::<Glyphs>(&mut app).cursor = app
        .ws
        .derived
        .glyphs
        .iter()
        .position(|r| r.found.character == c)
        .unwrap();
    press(&mut app, "k");
    assert!(app.ws.survey.doc.setup().replace.is_empty());
    of::<Glyphs>(&mut app).cursor = 0;
    let effects = press(&mut app, "y");
    assert!(
        matches!(effects.as_slice(), [Effect::Copy(text)] if text.chars().count() == 1),
        "{effects:?}"
    );
    // Nothing typed: it is left out.
    press(&mut app, "n");
    type_in(&mut app, "");
    assert!(
        app.ws
            .survey
            .doc
            .setup()
            .replace
            .values()
            .any(String::is_empty)
    );
    assert!(screen(&app, Depth::None, true).contains("left out"));
}

#[test]
fn two_fonts_are_told_apart_on_the_map() {
    let (_folder, mut app) = on_fonts((160, 47));
    stand_on(&mut app, "Sedge Mono NF");
    press(&mut app, " ");
    assert_eq!(other_coverage(&app.ws).map(|o| o.0), Some("Sedge Mono NF"));
    press(&mut app, "5v");
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("only Reedbed Mono NF") && drawn.contains("only Sedge Mono NF"),
        "{drawn}"
    );
    assert!(drawn.contains("<<<<"), "most are in the one alone: {drawn}");
    // A click on the map points at an icon.
    app.update(clicked(30, None));
    assert_eq!(
        glyphs(&app).glyph_pointed(&app.ws),
        map_of_icons().get(30).copied()
    );
    press(&mut app, "vv");
    assert_eq!(of::<Glyphs>(&mut app).view, View::List);
}

#[test]
fn the_icons_in_use_are_drawn_below_their_list() {
    let (_folder, mut app) = with_font((160, 47));
    let effects = press(&mut app, "5");
    let sheet = |app: &App| {
        let drawn = screen(app, Depth::TrueColor, true);
        let below = drawn.split("as the font draws them").nth(1);
        below.expect("a sheet").to_owned()
    };
    assert_eq!(
        sheet(&app).matches("none").count(),
        app.ws.derived.glyphs.len()
    );
    settle(&mut app, effects);
    let drawn = sheet(&app);
    let missing = drawn.matches("none").count();
    assert!(
        missing > 0 && missing < app.ws.derived.glyphs.len(),
        "{drawn}"
    );
    for row in &app.ws.derived.glyphs {
        let code = format!("{:04X}", row.found.character as u32);
        assert!(drawn.contains(&code), "{code}: {drawn}");
    }
}

#[test]
fn a_glyph_is_drawn_from_the_font_it_will_come_from() {
    let (_folder, mut app) = with_font((160, 47));
    let bare = app
        .ws
        .survey
        .doc
        .with_text(&["font", "family"], "Reedbed Mono")
        .unwrap();
    app.ws.survey.doc = bare;
    find(&mut app);
    let mut effects = press(&mut app, "5");
    let home = app.ws.survey.home.home_path().to_owned();
    let elsewhere = app.ws.font_shown().unwrap().1.elsewhere.clone();
    let from_home = |c: char| elsewhere.get(&c).filter(|e| e.path.starts_with(&home));
    let rows = app.ws.derived.glyphs.iter();
    let at = rows
        .clone()
        .position(|r| from_home(r.found.character).is_some())
        .expect("an icon that only another font of the home has");
    let c = app.ws.derived.glyphs[at].found.character;
    effects.extend(app.update(clicked(at, None)));
    assert!(
        glyphs(&app).drawing(c).is_none(),
        "no file is read at a key"
    );
    settle(&mut app, effects);
    let drawn = glyphs(&app).drawing(c).expect("a drawing").clone();
    let from = from_home(c).unwrap();
    let bytes = std::fs::read(&from.path).unwrap();
    let face = Typeface::open(std::sync::Arc::new(bytes), from.index).unwrap();
    let grid = Grid::of_width(&face.cell(), LARGE);
    let expected = glyph(&face, c, &grid, MARGIN).unwrap();
    assert_eq!(drawn, expected);
    // The chosen font has nothing to draw it from.
    assert!(!app.ws.chosen_font().unwrap().coverage.has(c));
}
