//! The Font and Glyphs benches without a terminal.

use crossterm::event::KeyCode;
use wealdmist_core::color::Depth;
use wealdmist_core::demo::fonts;
use wealdmist_core::font::picture::Means;
use wealdmist_core::font::raster::{Grid, glyph};
use wealdmist_core::font::{Four, Typeface};
use wealdmist_core::setup::SymbolLevel;
use wealdmist_core::terminal::TerminalRecord;

use super::screens::FACES;
use super::{assert_screen, find, key, press, screen, with_font};
use crate::tui::app::fonts::{self as bench, Page};
use crate::tui::app::glyphs as bench_glyphs;
use crate::tui::app::{App, Effect, GlyphView, Message};
use crate::tui::keys::Step;

/// Carries out what the bench asked for, until it asks for nothing more.
pub(super) fn settle(app: &mut App, mut effects: Vec<Effect>) {
    while let Some(effect) = effects.pop() {
        let message = match effect {
            Effect::OpenFace(wanted) => {
                let opened = bench::open(&wanted).map(Box::new);
                Message::FaceOpened(wanted.key, opened)
            }
            Effect::ReadFontSource(path) => {
                let read = wealdmist_host::open_source(&path);
                Message::FontSourceRead(read.map(Box::new).map_err(|e| e.to_string()))
            }
            Effect::Install(plan) => Message::Installed(bench::carry_out(&app.survey.home, &plan)),
            Effect::OpenGlyphFace(key) => {
                let catalog = &app.font.as_ref().unwrap().catalog;
                Message::GlyphFaceOpened(key.clone(), bench_glyphs::open(catalog, &key))
            }
            Effect::FindFont => find(app),
            other => panic!("{other:?}"),
        };
        effects.extend(app.update(message));
    }
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
    let at = app.fonts.families.iter().position(|f| f.name == family);
    let at = at.unwrap_or_else(|| panic!("{family} is not in {:?}", app.fonts.families));
    let effects = app.update(Message::ClickedRow(at, None));
    settle(app, effects);
}

#[test]
fn faces_as_they_look() {
    let (_folder, mut app) = on_fonts((100, 30));
    app.fonts.means_are(vec![Means::Dots, Means::Ascii], None);
    let effects = press(&mut app, "+");
    settle(&mut app, effects);
    assert_screen(&app, FACES);
}

#[test]
fn samples_fit_every_screen_and_means() {
    for size in [(80, 24), (140, 40), (250, 70)] {
        let (_folder, mut app) = on_fonts(size);
        for means in Means::ALL {
            app.fonts.means_are(vec![means], None);
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
        app.survey.doc.setup().font.family.as_deref(),
        Some("Reedbed Mono")
    );
    // The bold face of another family, which Reedbed Mono itself lacks.
    let effects = press(&mut app, "b");
    settle(&mut app, effects);
    assert_eq!(app.fonts.style, Four::Bold);
    assert!(
        app.fonts.panels[0].note.contains("no bold face"),
        "{:?}",
        app.fonts.panels[0].note
    );
    stand_on(&mut app, "Reedbed Mono NF");
    assert!(app.fonts.panels[0].title.ends_with("Bold"));
    let effects = app.update(key(KeyCode::Enter));
    settle(&mut app, effects);
    assert_eq!(
        app.survey.doc.setup().font.bold.as_deref(),
        Some("Reedbed Mono NF Bold")
    );
    let effects = press(&mut app, "elh");
    settle(&mut app, effects);
    let font = app.survey.doc.setup().font.clone();
    assert_eq!(font.fallback, ["Reedbed Mono NF"]);
    assert_eq!(
        (font.ligatures, font.line_height),
        (Some(false), Some(1.05))
    );
    // The plan writes all of it.
    let plan = app.plan.unified();
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
    assert_eq!(app.fonts.page, Page::Features);
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("Open nought") && drawn.contains("changes 0"),
        "{drawn}"
    );
    app.update(key(KeyCode::Down));
    app.update(key(KeyCode::Enter));
    assert_eq!(app.survey.doc.setup().font.features_text(), "ss01");
    assert!(screen(&app, Depth::None, true).contains("on by the setup"));
    app.update(key(KeyCode::Enter));
    assert_eq!(app.survey.doc.setup().font.features_text(), "");
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
        app.survey
            .home
            .home_path()
            .join(".local/share/fonts/BulrushNF-Regular.ttf"),
    )
    .unwrap();
    app.update(find(&app));
    press(&mut app, "o");
    type_in(&mut app, &download.join("new.tar").display().to_string());
    assert_eq!(app.fonts.families[0].name, "Bulrush NF");
    assert!(!app.fonts.families[0].installed);
    assert!(
        app.fonts.panels[0].raster.is_some(),
        "seen before it is installed"
    );
    app.update(key(KeyCode::Enter));
    assert!(
        app.note
            .as_ref()
            .is_some_and(|n| n.text.contains("i installs"))
    );
    let effects = press(&mut app, "i");
    settle(&mut app, effects);
    assert!(
        app.fonts
            .families
            .iter()
            .any(|f| f.name == "Bulrush NF" && f.installed),
        "{:?}",
        app.fonts.families
    );
    assert!(
        app.survey
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
    let open = app.derived.counts.glyphs;
    assert!(open >= 3);
    let first = app.glyph_row().unwrap().found.character;
    assert!(!app.offered().is_empty());
    let offered = app.offered()[0].text.clone();
    press(&mut app, "s");
    assert_eq!(app.glyphs.choice, 1);
    press(&mut app, "s");
    app.glyphs.choice = 0;
    app.update(key(KeyCode::Enter));
    assert_eq!(app.survey.doc.setup().replace.get(&first), Some(&offered));
    assert!(app.derived.counts.glyphs < open);
    press(&mut app, "m");
    assert_eq!(
        app.derived.counts.glyphs,
        0,
        "{:?}",
        app.survey.doc.setup().replace
    );
    let code = format!("U+{:04X}", offered.chars().next().unwrap() as u32);
    assert!(app.plan.unified().contains(&code), "the plan replaces it");
    press(&mut app, "uu");
    assert_eq!(app.derived.counts.glyphs, open);
}

#[test]
fn the_symbol_level_switches_everything_or_one_tool() {
    let (_folder, mut app) = with_font((160, 47));
    press(&mut app, "5");
    let before = app.plan.change_count();
    let tool = app.glyph_row().unwrap().tool.0;
    press(&mut app, "L");
    assert_eq!(app.survey.doc.setup().symbols_for(tool), SymbolLevel::Plain);
    assert_eq!(app.survey.doc.setup().symbols, SymbolLevel::Icons);
    let one = app.plan.change_count();
    assert!(one > before);
    press(&mut app, "l");
    assert_eq!(app.survey.doc.setup().symbols, SymbolLevel::Plain);
    assert!(app.plan.change_count() > one);
}

#[test]
fn the_map_the_search_and_the_marks() {
    let (_folder, mut app) = with_font((160, 47));
    press(&mut app, "5v");
    assert_eq!(app.glyphs.view, GlyphView::Map);
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("separators (pl, ple)  U+E0A0  38 of 40"),
        "{drawn}"
    );
    app.update(key(KeyCode::Down));
    app.update(key(KeyCode::Right));
    assert!(app.glyph_pointed().is_some_and(|c| c as u32 > 0x2000));
    // A search, and its answer taken for the glyph in use.
    press(&mut app, "vv");
    assert_eq!(app.glyphs.view, GlyphView::List);
    let wrong = app.glyph_row().unwrap().found.character;
    press(&mut app, "/");
    type_in(&mut app, "git branch");
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("pl-branch") && drawn.contains("in the font"),
        "{drawn}"
    );
    app.update(key(KeyCode::Enter));
    assert_eq!(
        app.survey
            .doc
            .setup()
            .replace
            .get(&wrong)
            .map(String::as_str),
        Some("\u{e0a0}")
    );
    assert!(app.glyphs.search.is_none());
    // A mark lowers the level that is proposed, and is kept.
    press(&mut app, "x");
    let record = app.terminal_record().unwrap();
    assert_eq!(record.wrong.len(), 1);
    assert_eq!(
        record.proposed_level().map(|l| l.0),
        Some(SymbolLevel::Plain)
    );
    press(&mut app, "g");
    assert_eq!(app.survey.doc.setup().symbols, SymbolLevel::Plain);
}

#[test]
fn what_was_measured_is_shown_beside_what_is_expected() {
    let (_folder, mut app) = with_font((160, 47));
    let effects = press(&mut app, "5");
    settle(&mut app, effects);
    assert!(matches!(press(&mut app, "w").as_slice(), [Effect::Measure(list)] if !list.is_empty()));
    let mut record = TerminalRecord {
        name: "reedterm".into(),
        ..TerminalRecord::default()
    };
    record.widths.insert("→".into(), 2);
    record.widths.insert("a".into(), 1);
    let effects = app.update(Message::Measured(Ok(record)));
    settle(&mut app, effects);
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("reedterm") && drawn.contains("symbol level proposed: ascii"),
        "{drawn}"
    );
    // The glyph pointed at is drawn as the font has it; where nothing can be drawn that is not said.
    let c = app.glyph_pointed().unwrap();
    assert!(app.large_glyph(c).is_some(), "{c}");
    assert!(drawn.contains("beside it, what it should be"), "{drawn}");
    let mut record = TerminalRecord::default();
    record.widths.insert("字".into(), 2);
    app.update(Message::Measured(Ok(record)));
    let drawn = screen(&app, Depth::None, true);
    assert!(drawn.contains("x marks it where that is wrong"), "{drawn}");
    app.update(Message::Measured(Err("no terminal".into())));
    assert!(app.note.as_ref().is_some_and(|n| n.bad));
    assert_eq!(app.step, Step::Glyphs);
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
                app.fonts.means_are(vec![Means::Ascii], None);
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
    assert_eq!(app.survey.doc.setup().font.size, Some(14.0));
    press(&mut app, "#");
    type_in(&mut app, "x");
    assert!(app.note.as_ref().is_some_and(|n| n.bad), "{:?}", app.note);
    assert_eq!(app.survey.doc.setup().font.size, Some(14.0));
    press(&mut app, "o");
    type_in(&mut app, "/nonexistent");
    assert!(
        app.note
            .as_ref()
            .is_some_and(|n| n.bad && n.text.contains("/nonexistent"))
    );
    press(&mut app, "/");
    type_in(&mut app, "nothing of the kind");
    assert!(app.fonts.families.is_empty());
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
    let c = app.glyph_row().unwrap().found.character;
    press(&mut app, "n");
    type_in(&mut app, ">>");
    assert_eq!(
        app.survey.doc.setup().replace.get(&c).map(String::as_str),
        Some(">>")
    );
    let row = app
        .derived
        .glyphs
        .iter()
        .find(|r| r.found.character == c)
        .unwrap();
    assert_eq!(row.becomes.as_deref(), Some(">>"));
    app.glyph = app
        .derived
        .glyphs
        .iter()
        .position(|r| r.found.character == c)
        .unwrap();
    press(&mut app, "k");
    assert!(app.survey.doc.setup().replace.is_empty());
    app.glyph = 0;
    let effects = press(&mut app, "y");
    assert!(
        matches!(effects.as_slice(), [Effect::Copy(text)] if text.chars().count() == 1),
        "{effects:?}"
    );
    // Nothing typed: it is left out.
    press(&mut app, "n");
    type_in(&mut app, "");
    assert!(
        app.survey
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
    assert_eq!(app.other_coverage().map(|o| o.0), Some("Sedge Mono NF"));
    press(&mut app, "5v");
    let drawn = screen(&app, Depth::None, true);
    assert!(
        drawn.contains("only Reedbed Mono NF") && drawn.contains("only Sedge Mono NF"),
        "{drawn}"
    );
    assert!(drawn.contains("<<<<"), "most are in the one alone: {drawn}");
    // A click on the map points at an icon.
    app.update(Message::ClickedRow(30, None));
    assert_eq!(app.glyph_pointed(), App::map().get(30).copied());
    press(&mut app, "vv");
    assert_eq!(app.glyphs.view, GlyphView::List);
}

#[test]
fn a_glyph_is_drawn_from_the_font_it_will_come_from() {
    let (_folder, mut app) = with_font((160, 47));
    let bare = app
        .survey
        .doc
        .with_text(&["font", "family"], "Reedbed Mono")
        .unwrap();
    app.survey.doc = bare;
    app.update(find(&app));
    press(&mut app, "5");
    let home = app.survey.home.home_path().to_owned();
    let elsewhere = app.chosen_font().unwrap().elsewhere.clone();
    let from_home = |c: char| elsewhere.get(&c).filter(|e| e.path.starts_with(&home));
    let rows = app.derived.glyphs.iter();
    let at = rows
        .clone()
        .position(|r| from_home(r.found.character).is_some())
        .expect("an icon that only another font of the home has");
    let c = app.derived.glyphs[at].found.character;
    let effects = app.update(Message::ClickedRow(at, None));
    assert!(app.large_glyph(c).is_none(), "no file is read at a key");
    settle(&mut app, effects);
    let drawn = app.large_glyph(c).expect("a drawing").clone();
    let from = from_home(c).unwrap();
    let bytes = std::fs::read(&from.path).unwrap();
    let face = Typeface::open(std::sync::Arc::new(bytes), from.index).unwrap();
    let grid = Grid::of_width(&face.cell(), bench_glyphs::LARGE);
    let expected = glyph(&face, c, &grid, bench_glyphs::MARGIN).unwrap();
    assert_eq!(drawn, expected);
    // The chosen font has nothing to draw it from.
    assert!(!app.chosen_font().unwrap().coverage.has(c));
}
