//! What holds for every row.

use std::path::Path;

use proptest::prelude::*;
use wealdmist_core::character::SymbolLevel;
use wealdmist_core::color::Rgb;
use wealdmist_core::look::Look;
use wealdmist_core::property::Property;
use wealdmist_core::reading::{ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::setup::SetupDoc;

use super::{Fonts, Key, Means, Part, Table, Word};
use crate::access::{MEMORY_HOME, MemoryAccess};
use crate::document::notation::{Datum, Spot, fresh};
use crate::exchange;
use crate::testing::{catalog, planned_with};
use crate::tools::alacritty::{ALACRITTY_TOML as ALACRITTY, ALACRITTY_YAML};
use crate::tools::foot::FOOT;
use crate::tools::ghostty::GHOSTTY;
use crate::tools::iterm::ITERM;
use crate::tools::kitty::KITTY;
use crate::tools::konsole::SCHEME;
use crate::tools::warp::WARP;
use crate::tools::wezterm::WEZTERM;
use crate::tools::windows_terminal::WINDOWS_TERMINAL;
use crate::tools::xfce_terminal::XFCE_TERMINAL;
use crate::tools::xterm::{URXVT, XTERM};
use crate::{Adapter, Facts, Reload, Wanted, adapters};

const ROWS: [&Table; 13] = [
    &KITTY,
    &ALACRITTY,
    &ALACRITTY_YAML,
    &FOOT,
    &GHOSTTY,
    &XTERM,
    &URXVT,
    &XFCE_TERMINAL,
    &WINDOWS_TERMINAL,
    &ITERM,
    &SCHEME,
    &WEZTERM,
    &WARP,
];

/// A file of the program that says nothing we know.
fn blank(table: &Table) -> &'static str {
    match table.id.0 {
        "xterm" => "XTerm.title: tide\n",
        "urxvt" => "URxvt.title: tide\n",
        _ => "\n",
    }
}

/// Whether it has a key for a role.
fn holds(table: &Table, role: &RoleId) -> bool {
    let says = |key: &Key| match key.means {
        Means::Several(compound) => compound.holds().iter().any(|p| RoleId::from(*p) == *role),
        _ => key.role(table.id, key.path).as_ref() == Some(role),
    };
    let is_ansi = Slot::from_key(role.as_str()).is_some_and(|slot| slot.ansi().is_some());
    is_ansi || table.keys.iter().any(says)
}

const SETUP: &str = "[palettes.a]\nforeground='#d0d1d2'\nbackground='#101112'\ncursor='#a0a1a2'\ncursor-text='#202122'\nselection='#303132'\nselection-text='#e0e1e2'\nred='#cc0001'\nbright-red='#ee0001'\nblack='#282800'\ngreen='#292901'\nyellow='#2a2a02'\nblue='#2b2b03'\nmagenta='#2c2c04'\ncyan='#2d2d05'\nwhite='#2e2e06'\nbright-black='#2f2f07'\nbright-green='#303008'\nbright-yellow='#313109'\nbright-blue='#323200'\nbright-magenta='#333301'\nbright-cyan='#343402'\nbright-white='#353503'\n[font]\nfamily='Reedbed Mono NF'\nbold='Reedbed Mono NF Bold'\nsize=13.5\nline-height=1.1\ncolumn-width=1.05\nfallback=['Sedge Mono NF']\n[window]\nopacity=0.85\npadding=6\nblur=true\ndecorations='none'\ncursor='bar'\ncursor-blink=true\nscrollback=20000\ncolumns=100\nrows=30\nremembered=false\nimage='~/reeds.png'\nimage-fit='stretch'\nimage-place='top-left'\ntitle='Marsh gauge'\ntab-title='{number}: {folder}'\ntitle-set=false\nimage-tint=0.9\ncursor-unfocused='hollow'\ncursor-thickness=2\ncursor-rate=500\ncursor-trail=3\ntabs='top'\ntabs-shown='several'\nbell-sound=false\nbell-flash=true\nmouse-hidden=true\nnotify='elsewhere'\ndimmed=0.7\nfolder='~/work'\n[roles]\nurl='#0000cc'\n";

fn place(table: &Table) -> String {
    let path = table.candidates(&MemoryAccess::default()).remove(0);
    path.strip_prefix(MEMORY_HOME)
        .unwrap()
        .display()
        .to_string()
}

fn home(table: &Table, text: &str) -> MemoryAccess {
    MemoryAccess::with(&[(&place(table), text)])
}

fn read(table: &Table, text: &str) -> ToolReport {
    table.read(&home(table, text), &mut Facts::default())
}

/// The file after the plan; as it was where there is none.
fn after(table: &Table, text: &str, setup: &str) -> String {
    let changed = planned_with(table, &home(table, text), setup, Some(&catalog()));
    let changed = changed.into_iter().find(|f| f.0.ends_with(place(table)));
    changed.map_or_else(|| text.to_owned(), |f| f.1)
}

/// A value a key may have.
fn value(table: &Table, key: &Key) -> Datum {
    let color = |n| (table.color.write)(Rgb::from_u32(n), None);
    let code = |text: &'static str| wealdmist_core::quote::Code::fixed(text);
    let one = match key.means {
        Means::Color(_) | Means::Own(_) => {
            return Datum::Literal(match key.part {
                Part::Whole => color(0x01_0203),
                Part::Nth(..) => {
                    let both = [color(0x01_0203), color(0x04_0506)];
                    wealdmist_core::quote::Code::join(&both, " ")
                }
            });
        }
        Means::Number(_, super::Scale::Percent) => code("110%"),
        Means::Number(..) => return Datum::Bare(code("8")),
        Means::Name(_) | Means::List(..) => return Datum::Text("Reedbed Mono".into()),
        Means::Word(_) | Means::Flag(_) | Means::Told(_) => code(key.words[0].0),
        Means::Features => code("+ss01"),
        Means::Path(_) => return Datum::Text("/srv/reeds.png".into()),
        Means::Several(compound) => {
            let doc = SetupDoc::parse("s", SETUP.as_bytes()).unwrap();
            let (look, catalog) = (Look::new(doc.setup()), catalog());
            let wanted = Wanted {
                setup: doc.setup(),
                look: &look,
                catalog: Some(&catalog),
                home: Path::new(MEMORY_HOME),
            };
            let quoting = table.notation.text_quoting();
            let code = super::changed(compound, "", &wanted, quoting);
            // A face of its own has what it is called by where none is chosen.
            let text = || Datum::Text("Reedbed Mono".into());
            return code.map_or_else(text, |code| compound.datum(code));
        }
    };
    Datum::Literal(one)
}

/// What a file says, without what the program does by itself.
fn said_in_it(table: &Table, text: &str) -> Vec<Value> {
    let readings = read(table, text).readings.into_iter();
    let said = readings.filter(|r| !r.is_default());
    said.map(|r| r.value).collect()
}

#[test]
fn every_key_is_read() {
    for table in ROWS {
        for key in table.keys {
            let spot = match key.path.strip_suffix("/*") {
                None if key.path.starts_with("modify_font/") => Spot {
                    sub: Some(wealdmist_core::quote::Code::fixed("cell_height")),
                    ..Spot::of("modify_font")
                },
                None => Spot::of(key.path),
                Some(above) if above.contains('/') => Spot {
                    section: above,
                    name: wealdmist_core::quote::Code::fixed("x"),
                    sub: None,
                },
                Some(above) => Spot {
                    sub: Some(wealdmist_core::quote::Code::fixed("U+E0B0")),
                    ..Spot::of(above)
                },
            };
            let written = table.notation.value(&value(table, key)).unwrap();
            let text = fresh(table.notation, &[(spot, written)]).lossy();
            let report = read(table, &text);
            let is_old = table
                .quirks
                .renamed
                .iter()
                .any(|(old, _)| key.path.starts_with(old));
            assert!(
                report.problems.is_empty() || is_old,
                "{}: {text}: {:?}",
                table.id,
                report.problems
            );
            assert!(
                !said_in_it(table, &text).is_empty(),
                "{}: {} in\n{text}",
                table.id,
                key.path
            );
            for (word, means) in key.words {
                let literal = Datum::Literal(wealdmist_core::quote::Code::fixed(word));
                let written = table.notation.value(&literal).unwrap();
                let text = fresh(table.notation, &[(Spot::of(key.path), written)]).lossy();
                let said = said_in_it(table, &text).pop().unwrap();
                match means {
                    Word::Default => assert_eq!(said, Value::Default, "{text}"),
                    Word::Slot(slot) => assert_eq!(said, Value::Slot(*slot), "{text}"),
                    Word::Says(ours) => assert_eq!(said, Value::Text((*ours).into()), "{text}"),
                }
            }
        }
    }
}

#[test]
fn a_file_that_says_nothing_gets_what_the_setup_says_once() {
    for table in ROWS {
        let once = after(table, blank(table), SETUP);
        assert_eq!(after(table, &once, SETUP), once, "{}", table.id);
        let report = read(table, &once);
        assert!(report.problems.is_empty(), "{once}");
        let said = |role: RoleId| {
            report
                .effective(&role)
                .unwrap_or_else(|| panic!("{}: {role} in\n{once}", table.id))
                .value
                .clone()
        };
        for slot in Slot::ALL.into_iter().filter(|s| holds(table, &(*s).into())) {
            assert!(matches!(said(slot.into()), Value::Color(_)), "{slot:?}");
        }
        assert_eq!(
            said(Slot::BrightRed.into()),
            Value::Color(Rgb::from_u32(0xee_0001))
        );
        let doc = SetupDoc::parse("s", SETUP.as_bytes()).unwrap();
        for property in Property::ALL.into_iter().filter(|p| p.is_set()) {
            // What only new versions know is read where it stands and not added.
            let of = |k: &&Key| match k.means {
                Means::Several(c) => c.holds().contains(&property),
                _ => k.role(table.id, k.path) == Some(property.into()),
            };
            let is_added = table.keys.iter().filter(of).any(|k| k.added);
            let Some(wanted) = property.of(doc.setup()).filter(|_| is_added) else {
                continue;
            };
            let said = said(property.into());
            let agrees = property.agrees(&said, &wanted, SymbolLevel::Icons);
            assert!(
                agrees,
                "{}: {property:?} is {said:?}, not {wanted:?} in\n{once}",
                table.id
            );
        }
    }
}

#[test]
fn export_and_import_give_the_same_colors() {
    let doc = SetupDoc::parse("s", SETUP.as_bytes()).unwrap();
    let palette = doc.setup().palette();
    for table in ROWS {
        let bytes = super::write_palette(table, palette, "Saltmarsh");
        let report = read(table, &String::from_utf8(bytes.clone()).unwrap());
        let held = || Slot::ALL.into_iter().filter(|s| holds(table, &(*s).into()));
        for slot in held() {
            let said = report.effective(&slot.into()).map(|r| r.value.clone());
            assert_eq!(
                said,
                Some(Value::Color(palette.slot(slot))),
                "{} {slot:?}",
                table.id
            );
        }
        let text = String::from_utf8(bytes).unwrap();
        let found = exchange::import(None, "", &text).unwrap();
        assert_eq!(found.slots.len(), held().count(), "{}", table.id);
    }
}

#[test]
fn only_one_program_is_told_by_a_signal_that_ends_others() {
    let signalled: Vec<_> = adapters()
        .into_iter()
        .filter(|a| matches!(a.live().reload, Reload::Signal(_)))
        .map(|a| a.id().0)
        .collect();
    assert_eq!(signalled, ["kitty"]);
}

#[test]
fn fonts_are_spelled_as_each_takes_them() {
    let choice = SetupDoc::parse("s", SETUP.as_bytes())
        .unwrap()
        .setup()
        .font
        .clone();
    for (table, lines) in [
        (
            &ALACRITTY,
            "font.normal.family = \"Reedbed Mono NF\"|font.size = 13.5|font.bold.family = \"Reedbed Mono NF\"|font.bold.style = \"Bold\"",
        ),
        (
            &FOOT,
            "font=Reedbed Mono NF:size=13.5,Sedge Mono NF:size=13.5|font-bold=Reedbed Mono NF:style=Bold:size=13.5",
        ),
        (
            &GHOSTTY,
            "font-family = Reedbed Mono NF|font-family-bold = Reedbed Mono NF Bold|font-size = 13.5|font-family = Sedge Mono NF",
        ),
    ] {
        let spelled = Adapter::fonts(table).unwrap().spelled(&choice, &catalog());
        let said: Vec<String> = spelled.into_iter().map(|s| s.line).collect();
        assert_eq!(said.join("|"), lines);
        assert!(matches!(table.fonts, Fonts::Facts(_)));
    }
}

#[test]
fn an_edit_keeps_the_spelling_and_touches_only_the_value() {
    for (table, text, wanted) in [
        (
            &ALACRITTY,
            "# é\n[colors.normal]\nred = '0xFF0000' # mine\n\n[font]\nsize=11\nnormal = { family = \"Old\", style = \"Regular\" }\n",
            vec![
                "red = '0xCC0001' # mine\n",
                "size=13.5\n",
                "normal = { family = \"Reedbed Mono NF\", style = \"Regular\" }\n",
            ],
        ),
        (
            &ALACRITTY_YAML,
            "colors:\n  normal:\n    red:   \"#ff0000\" # mine\nfont:\n  normal:\n    family: Old Mono\n  size: 11.0\n",
            vec![
                "    red:   \"#cc0001\" # mine\n",
                "    family: \"Reedbed Mono NF\"\n",
                "  size: 13.5\n",
            ],
        ),
        (
            &FOOT,
            "font=Old Mono:size=9:weight=bold, Other:size=9\npad=2x2 center\n[colors]\nregular1 = FF0000 # mine\nselection-foreground=ffffff\n",
            vec![
                "font=Reedbed Mono NF:size=13.5:weight=bold,Sedge Mono NF:size=13.5\n",
                "pad=8x8 center\n",
                "regular1 = CC0001 # mine\n",
            ],
        ),
        (
            &GHOSTTY,
            "palette = 1=#ff0000\nfont-family = \"Old Mono\"\nfont-family = Other\nbackground-opacity=1\n",
            vec![
                "palette = 1=#cc0001\n",
                "font-family = \"Reedbed Mono NF\"\nfont-family = Sedge Mono NF\n",
                "background-opacity=0.85\n",
            ],
        ),
    ] {
        let out = after(table, text, SETUP);
        for piece in wanted {
            assert!(out.contains(piece), "{piece:?} is not in\n{out}");
        }
        assert_eq!(after(table, &out, SETUP), out);
    }
}

#[test]
fn of_two_values_the_one_counts_that_the_program_takes() {
    let include = |table: &Table, line: &str, color: &str, other: &str| {
        let main = place(table);
        let folder = Path::new(&main).parent().unwrap().join("other");
        let access = MemoryAccess::with(&[
            (&main, &format!("{line}\n{color}\n")),
            (folder.to_str().unwrap(), other),
        ]);
        let report = table.read(&access, &mut Facts::default());
        assert!(report.problems.is_empty(), "{:?}", report.problems);
        assert_eq!(report.files.len(), 2);
        report
            .effective(&Slot::Background.into())
            .unwrap()
            .value
            .to_string()
    };
    let ours = "background #010101";
    assert_eq!(
        include(&KITTY, "include other", ours, "background #020202"),
        "#010101"
    );
    let ours = "[colors.primary]\nbackground = '#010101'";
    let theirs = "[colors.primary]\nbackground = '#020202'";
    assert_eq!(
        include(&ALACRITTY, "general.import = ['other']", ours, theirs),
        "#010101"
    );
    let both = ("background = #010101", "background = #020202");
    assert_eq!(
        include(&GHOSTTY, "config-file = ?other", both.0, both.1),
        "#020202"
    );
    let path = format!("include={MEMORY_HOME}/.config/foot/other");
    let ours = "[colors]\nbackground=010101";
    assert_eq!(
        include(&FOOT, &path, ours, "[colors]\nbackground=020202"),
        "#010101"
    );
}

#[test]
fn damage_and_wrong_values_are_told_with_their_line() {
    for (table, text, line, blocks) in [
        (
            &ALACRITTY,
            "[colors.primary]\nbackground = '#123'\n",
            2,
            false,
        ),
        (&ALACRITTY, "a = 1\n[colors\n", 2, true),
        (
            &ALACRITTY_YAML,
            "colors:\n  primary:\n    background: #101010\n    foreground: 'x'\n",
            4,
            false,
        ),
        (&FOOT, "[colors]\nbackground=#101010\n", 2, false),
        (&FOOT, "[cursor]\ncolor=101010\n", 2, false),
        (&FOOT, "include=other.ini\n", 1, false),
        (&GHOSTTY, "background = #12\n", 1, false),
    ] {
        let report = read(table, text);
        let problem = report.problems.first().unwrap_or_else(|| panic!("{text}"));
        assert_eq!(problem.at.unwrap().line, line, "{text}");
        assert_eq!(problem.blocks_edits, blocks, "{text}");
        if blocks {
            assert_eq!(after(table, text, SETUP), text);
        }
    }
}

/// A line of a file of each kind.
fn lines(table: &Table) -> Vec<String> {
    let mut out: Vec<String> = vec![String::new(), "# prose".into()];
    if !table.defaults.is_unknown() {
        // Commented out, as the program ships its file.
        for key in table.keys.iter().filter(|k| !k.path.contains('*')) {
            let spot = Spot::of(key.path);
            let written = table.notation.value(&value(table, key)).unwrap();
            let whole = fresh(table.notation, &[(spot, written)]).lossy();
            let mut lines: Vec<String> = whole.lines().map(str::to_owned).collect();
            let last = lines.pop().unwrap();
            lines.push(format!("# {last}\n"));
            out.push(lines.join("\n"));
        }
    }
    for key in table.keys.iter().filter(|k| !k.path.ends_with("/*")) {
        let written = table.notation.value(&value(table, key)).unwrap();
        out.push(fresh(table.notation, &[(Spot::of(key.path), written)]).lossy());
    }
    for i in [1, 9] {
        let color = Datum::Literal((table.color.write)(Rgb::from_u32(0x0a_0b0c), None));
        let written = table.notation.value(&color).unwrap();
        out.push(fresh(table.notation, &[(table.sixteen.spot(i), written)]).lossy());
    }
    out
}

proptest! {
    #[test]
    fn a_second_plan_is_empty(row in 0usize..8, picks in proptest::collection::vec(any::<proptest::sample::Index>(), 0..8), crlf in any::<bool>()) {
        let table = ROWS[row];
        let all = lines(table);
        let mut text = blank(table).to_owned();
        text.extend(picks.iter().map(|i| all[i.index(all.len())].clone()));
        if crlf {
            text = text.replace('\n', "\r\n");
        }
        let damaged = table.notation.entries(text.as_bytes()).is_err();
        let once = after(table, &text, SETUP);
        if damaged {
            prop_assert_eq!(&once, &text);
        } else {
            prop_assert!(table.notation.entries(once.as_bytes()).is_ok(), "{}", once);
            prop_assert_eq!(after(table, &once, SETUP), once.clone(), "{} from {}", table.id, text);
            let report = read(table, &once);
            for slot in Slot::ALL.into_iter().filter(|s| holds(table, &(*s).into())) {
                prop_assert!(report.effective(&slot.into()).is_some(), "{} {:?} in {}", table.id, slot, once);
            }
        }
    }
}

#[test]
fn what_is_taken_for_something_else_is_told() {
    for (path, text, line, said) in [
        (
            ".config/alacritty/alacritty.yml",
            "colors:\n  primary:\n    background: #0d191c\n    foreground: '#d7d6cc' # mine\n",
            3,
            "'#0d191c' is a comment",
        ),
        (
            ".config/ghostty/config",
            "palette = 1:#ff0000\npalette = 2=#00ff00\n",
            1,
            "'1:#ff0000' is not a number and a color",
        ),
        (
            ".Xresources",
            "#define mud #101010\n# xterm, mostly\n/*\n# no\n*/\n#\n# 12\nXTerm*background: mud\n",
            2,
            "'xterm' is none",
        ),
    ] {
        let reports = crate::read_all(&MemoryAccess::with(&[(path, text)]));
        let problems: Vec<_> = reports.iter().flat_map(|r| &r.problems).collect();
        assert_eq!(problems.len(), 1, "{path}: {problems:?}");
        assert_eq!(problems[0].at.map(|at| at.line), Some(line), "{path}");
        assert!(problems[0].message.contains(said), "{problems:?}");
    }
}

#[test]
fn whether_it_follows_the_desktop_is_read() {
    let profile = |more: &str| {
        format!("{{\"Profiles\": [{{\"Name\": \"Mooring\", \"Guid\": \"m-1\", {more}}}]}}")
    };
    let settings =
        |scheme: &str| format!("{{\"profiles\": {{\"defaults\": {{\"colorScheme\": {scheme}}}}}}}");
    let both = "Use Separate Colors for Light and Dark Mode";
    let cases: [(&Table, String, Option<bool>); 9] = [
        (
            &GHOSTTY,
            "theme = light:dawn,dark:dusk\n".into(),
            Some(true),
        ),
        (
            &GHOSTTY,
            "theme = dark:dusk , light:dawn\n".into(),
            Some(true),
        ),
        (&GHOSTTY, "theme = dusk\n".into(), Some(false)),
        (&GHOSTTY, "theme = light:dawn\n".into(), Some(false)),
        (&ITERM, profile(&format!("\"{both}\": true")), Some(true)),
        (&ITERM, profile(&format!("\"{both}\": false")), Some(false)),
        (
            &WINDOWS_TERMINAL,
            settings("{\"dark\": \"dusk\", \"light\": \"dawn\"}"),
            Some(true),
        ),
        (&WINDOWS_TERMINAL, settings("\"dusk\""), Some(false)),
        (&WINDOWS_TERMINAL, "{\"profiles\": {}}".into(), None),
    ];
    for (table, text, follows) in cases {
        let report = read(table, &text);
        let said = report.effective(&Property::Follow.into());
        let said = said.filter(|r| !r.is_default()).map(|r| &r.value);
        let wanted = follows.map(Value::switch);
        assert_eq!(said, wanted.as_ref(), "{}: {text}", table.id.0);
    }
}

#[test]
fn words_it_cannot_say_are_known() {
    let lacks = |table: &Table, property, word| {
        let report = read(table, blank(table));
        report.takes(property) && !report.can_say(property, &Value::Text(word))
    };
    let said = |table: &Table, property: Property| {
        let words = property.words().unwrap_or_default().iter();
        let lacking = words.filter(|word| lacks(table, property, (**word).to_owned()));
        lacking.copied().collect::<Vec<_>>()
    };
    assert_eq!(said(&KITTY, Property::ImageFit), ["whole"]);
    assert_eq!(said(&ITERM, Property::ImageFit), ["center"]);
    assert_eq!(said(&WINDOWS_TERMINAL, Property::ImageFit), ["tile"]);
    assert_eq!(said(&KITTY, Property::ImagePlace), [] as [&str; 0]);
    // What a program has no key for is not a word it lacks.
    assert_eq!(said(&FOOT, Property::ImageFit), [] as [&str; 0]);
}
