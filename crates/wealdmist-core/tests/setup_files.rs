//! Setup files, good and bad, as tables: what is read, and what is said of what is wrong.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

use wealdmist_core::character::SymbolLevel;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::Design;
use wealdmist_core::reading::ToolId;
use wealdmist_core::role::{ROLES, RoleId, Slot, Usage};
use wealdmist_core::setup::{SetupDoc, Variant};

fn doc(text: &str) -> SetupDoc {
    SetupDoc::parse("setup.toml", text.as_bytes()).unwrap_or_else(|e| panic!("{text}\n{e}"))
}

/// A bad file, the place that must be named, and words that must be said.
const BAD: &[(&str, &str, &[&str])] = &[
    ("", "setup.toml:1:1", &["no palette", "[palettes.dusk]"]),
    ("palettes = 3\n", ":1:12", &["has to be a table"]),
    ("[palettes]\na = 3\n", ":2:5", &["'a' has to be a table"]),
    (
        "[palettes.a]\nred = 3\n",
        ":2:7",
        &["not a color for 'red'", "#rrggbb"],
    ),
    (
        "[palettes.a]\nred = \"#12\"\n",
        ":2:7",
        &["'#12' is not a color"],
    ),
    (
        "[palettes.a]\nvariant = \"dim\"\n",
        ":2:11",
        &["'dim' is no choice", "dark, light"],
    ),
    (
        "[palettes.a]\n[palettes.a.colors]\nred = \"#111111\"\n",
        ":3:7",
        &["name of a slot"],
    ),
    (
        "[palettes.a]\n[palettes.a.colors]\ncomment = \"#111111\"\n",
        ":3:11",
        &["slot or role"],
    ),
    (
        "palette = \"b\"\n[palettes.a]\n",
        ":1:11",
        &["no palette 'b'", "choose from a"],
    ),
    ("version = 2\n[palettes.a]\n", ":1:11", &["version"]),
    ("name = 3\n[palettes.a]\n", ":1:8", &["has to be a text"]),
    (
        "[palettes.a]\n[font]\nsize = 0\n",
        ":3:8",
        &["from 1 to 400"],
    ),
    (
        "[palettes.a]\n[font]\nsize = \"12\"\n",
        ":3:8",
        &["no number"],
    ),
    (
        "[palettes.a]\n[window]\nopacity = 1.5\n",
        ":3:11",
        &["from 0 to 1"],
    ),
    (
        "[palettes.a]\n[symbols]\nlevel = \"emoji\"\n",
        ":3:9",
        &["icons, plain, ascii"],
    ),
    (
        "[palettes.a]\n[prompt]\nlines = 3\n",
        ":3:9",
        &["from 1 to 2"],
    ),
    (
        "[palettes.a]\n[prompt]\ngit = \"yes\"\n",
        ":3:7",
        &["true or false"],
    ),
    (
        "[palettes.a]\n[prompt]\nuser = \"root\"\n",
        ":3:8",
        &["when-it-matters"],
    ),
    (
        "[palettes.a]\n[tools]\nkitty = 1\n",
        ":3:9",
        &["[tools.kitty]"],
    ),
    (
        "[palettes.a]\n[tools.kitty]\nadds = [1]\n",
        ":3:8",
        &["list of role names"],
    ),
    (
        "[palettes.a]\n[roles]\nred = \"blue\"\n",
        ":3:7",
        &["'red' is a slot"],
    ),
    (
        "[palettes.a]\n[roles]\ncomment = 3\n",
        ":3:11",
        &["neither a color nor a table"],
    ),
    (
        "[palettes.a]\n[roles]\ncomment = \"\"\n",
        ":3:11",
        &["empty"],
    ),
    (
        "[palettes.a]\n[roles]\ncomment = \"blu\"\n",
        ":3:11",
        &["unknown color 'blu'", "'blue'"],
    ),
    (
        "[palettes.a]\n[roles]\ncomment = { color = \"blue\", mix = [\"red\", \"blue\", 0.5] }\n",
        ":3:",
        &["either 'color' or 'mix'"],
    ),
    (
        "[palettes.a]\n[roles]\ncomment = { mix = [\"red\", \"blue\", 2] }\n",
        ":3:",
        &["0 to 1"],
    ),
    (
        "[palettes.a]\n[roles]\ncomment = { mix = [\"red\", 0.5] }\n",
        ":3:",
        &["two colors and an amount"],
    ),
    (
        "[palettes.a]\n[roles]\ncomment = { color = \"red\", bold = 1 }\n",
        ":3:",
        &["true or false"],
    ),
    (
        "[palettes.a]\n[roles]\nhint = \"info\"\ninfo = \"error\"\nerror = \"hint\"\n",
        ":",
        &["through itself"],
    ),
    (
        "[palettes.a]\n[roles]\ncomment = { mix = [\"comment\", \"red\", 0.5] }\n",
        ":3:",
        &["through itself"],
    ),
    (
        "[palettes.a]\n[[exceptions]]\ntool = \"tmux\"\n",
        ":2:",
        &["needs 'role'", "needs 'reason'"],
    ),
    ("[palettes.a]\n[exceptions]\n", ":2:", &["[[exceptions]]"]),
    (
        "[palettes.a]\nred = \"#111111\"\nred = \"#222222\"\n",
        ":3:",
        &["duplicate"],
    ),
    ("[palettes.a\n", ":1:", &["correct the TOML"]),
    (
        "[palettes.a]\nred = \"#111111\n",
        ":2:",
        &["correct the TOML"],
    ),
];

#[test]
fn what_is_wrong_is_said_with_its_place() {
    for (text, place, words) in BAD {
        let said = match SetupDoc::parse("setup.toml", text.as_bytes()) {
            Ok(_) => panic!("{text:?} was read"),
            Err(error) => error.to_string(),
        };
        assert!(said.contains(place), "{text:?} is placed elsewhere: {said}");
        for word in *words {
            assert!(said.contains(word), "{text:?} lacks '{word}': {said}");
        }
    }
}

#[test]
fn everything_wrong_is_said_at_once() {
    let text = "[palettes.a]\nred = 1\nblue = 2\n[font]\nsize = 0\n[roles]\ncomment = 3\n";
    let error = SetupDoc::parse("setup.toml", text.as_bytes()).unwrap_err();
    assert_eq!(error.problems.len(), 4, "{error}");
}

#[test]
fn what_is_left_out_has_defaults() {
    let doc = doc("[palettes.a]\n");
    let setup = doc.setup();
    assert_eq!(
        (setup.name.as_str(), setup.active.as_str()),
        ("Unnamed", "a")
    );
    assert_eq!(setup.palette().variant, Variant::Dark);
    assert_eq!(setup.symbols, SymbolLevel::Plain);
    assert_eq!(setup.prompt, Design::default());
    assert!(setup.font.family.is_none() && setup.window.said.is_empty());
    let tool = setup.tool(ToolId("kitty"));
    assert!(tool.manage && !tool.generate && tool.adds.is_empty());
}

#[test]
fn dotted_and_quoted_names_are_the_same_role() {
    let quoted =
        doc("[palettes.a]\n[roles]\n\"border.active\" = \"red\"\n\"tab.active.text\" = \"blue\"\n");
    let dotted =
        doc("[palettes.a]\n[roles]\nborder.active = \"red\"\ntab.active.text = \"blue\"\n");
    let tables = doc(
        "[palettes.a]\n[roles.border]\nactive = \"red\"\n[roles.tab.active]\ntext = \"blue\"\n",
    );
    assert_eq!(quoted.setup().roles, dotted.setup().roles);
    assert_eq!(quoted.setup().roles, tables.setup().roles);
}

#[test]
fn the_documented_example_is_read() {
    let page = include_str!("../../../docs/setup-file.md");
    let blocks: Vec<&str> = page
        .split("```")
        .skip(1)
        .step_by(2)
        .filter_map(|b| b.strip_prefix("toml"))
        .collect();
    assert_eq!(blocks.len(), 5);
    // The last is a prompt of another design.
    let doc = doc(&blocks[..4].concat());
    assert_eq!(doc.setup().contrast.exceptions.len(), 1);
    assert_eq!(doc.setup().appearance.light.as_deref(), Some("morning"));
    assert!(doc.warnings().is_empty(), "{:?}", doc.warnings());
    assert_eq!(doc.setup().exceptions.len(), 1);
    // Every role the page lists is one, and every role is listed.
    for known in ROLES.iter().filter(|k| Slot::from_key(k.id).is_none()) {
        assert!(
            page.contains(&format!("`{}`", known.id)),
            "{} is not in the page",
            known.id
        );
    }
}

#[test]
fn two_palettes_give_two_looks_of_one_setup() {
    let text = "palette='dusk'\n[palettes.dusk]\nbackground='#101010'\n[palettes.dusk.colors]\nreed='#98a040'\n[palettes.morning]\nvariant='light'\nbackground='#f0f0f0'\n[palettes.morning.colors]\nreed='#506000'\n[roles]\nstring='reed'\n";
    let doc = doc(text);
    let string = RoleId::known("string");
    let dusk = Look::new(doc.setup());
    let other = doc.with_text(&["palette"], "morning").unwrap();
    let morning = Look::new(other.setup());
    assert!(dusk.dark && !morning.dark);
    assert_eq!(dusk.color(&string).to_string(), "#98a040");
    assert_eq!(morning.color(&string).to_string(), "#506000");
    assert_eq!(
        other.text(),
        text.replace("palette='dusk'", "palette=\"morning\"")
    );
}

#[test]
fn edits_of_every_kind_keep_every_other_line() {
    let text = "# top\nname = \"N\"   # mine\n\n[palettes.a]   # colors\n  red   = \"#111111\"\n\n# roles\n[roles]\ncomment = \"red\"   # quiet\n\n[font]\n# none yet\n";
    let doc = doc(text);
    let edits = [
        doc.with_text(&["name"], "Other"),
        doc.with_number(&["font", "size"], 11.5),
        doc.with_slot(&"a".into(), Slot::Blue, "#222222".parse().unwrap()),
        doc.with_named(&"a".into(), "reed", "#333333".parse().unwrap()),
        doc.with_role(
            &RoleId::known("keyword"),
            &wealdmist_core::setup::Expr::Ref("red".into()),
        ),
        doc.with_exception(ToolId("kitty"), &RoleId::known("comment"), "why not"),
        doc.with_addition(ToolId("tmux"), &RoleId::known("comment")),
    ];
    for edit in edits {
        let new = edit.unwrap();
        let gone: Vec<&str> = text.lines().filter(|l| !new.text().contains(l)).collect();
        assert!(
            gone.len() <= 1 && gone.iter().all(|l| l.starts_with("name")),
            "{gone:?}\n{}",
            new.text()
        );
        assert_ne!(new.setup(), doc.setup());
    }
}

const TWO: &str = "[palettes.dusk]\nbackground = '#101418'\n[palettes.morning]\nvariant = 'light'\nbackground = '#f4f4f0'\n[palettes.dusk.colors]\nreed = '#889944'\n[palettes.morning.colors]\nreed = '#556622'\n[roles]\ncomment = '#667788'\n";

fn two() -> SetupDoc {
    SetupDoc::parse("s.toml", TWO.as_bytes()).unwrap()
}

#[test]
fn targets_and_exceptions_are_read_and_written_in_place() {
    let text = format!(
        "{TWO}[contrast]\ntext = 7\n[contrast.roles]\ncomment = 4.5\n[[contrast.exceptions]]\ntext = 'url'\nreason = 'underlined'\n"
    );
    let doc = SetupDoc::parse("s.toml", text.as_bytes()).unwrap();
    assert!(doc.warnings().is_empty(), "{:?}", doc.warnings());
    let contrast = &doc.setup().contrast;
    let role = RoleId::known;
    assert_eq!(contrast.target(&role("keyword"), Usage::Body), 7.0);
    assert_eq!(contrast.target(&role("comment"), Usage::Secondary), 4.5);
    assert_eq!(contrast.target(&role("line-number"), Usage::Secondary), 3.0);
    assert_eq!(
        contrast.exception(&role("url"), &role("background")),
        Some("underlined")
    );
    let (text, ground) = (role("comment"), role("background"));
    let more = doc
        .with_contrast_exception(&text, &ground, "\"quoted\"")
        .unwrap();
    assert_eq!(
        more.setup().contrast.exception(&text, &ground),
        Some("\"quoted\"")
    );
    assert!(more.text().starts_with(doc.text()));
    let back = more.without_contrast_exception(&text, &ground).unwrap();
    assert_eq!(back.text(), doc.text());
    for (bad, said) in [
        ("[contrast]\ntext = 22\n", "from 1 to 21"),
        ("[contrast]\ntxet = 4\n", ""),
        ("[[contrast.exceptions]]\ntext = 'url'\n", "needs 'reason'"),
        ("[contrast]\nexceptions = 3\n", "list of tables"),
    ] {
        match SetupDoc::parse("s.toml", format!("{TWO}{bad}").as_bytes()) {
            Ok(doc) => assert_eq!((doc.warnings().len(), said), (1, ""), "{bad}"),
            Err(error) => assert!(error.to_string().contains(said), "{error}"),
        }
    }
}

#[test]
fn the_sides_of_a_look_are_found_or_named() {
    let doc = two();
    let sides = &doc.setup().appearance;
    assert_eq!(sides.side(Variant::Dark), Some(&"dusk".into()));
    assert_eq!(sides.side(Variant::Light), Some(&"morning".into()));
    assert_eq!(sides.follow, None);
    let wrong = format!("{TWO}[appearance]\nlight = 'dusk'\n");
    let error = SetupDoc::parse("s.toml", wrong.as_bytes())
        .unwrap_err()
        .to_string();
    assert!(error.contains("the palette 'dusk' is dark"), "{error}");
    let missing = format!("{TWO}[appearance]\ndark = 'noon'\n");
    let error = SetupDoc::parse("s.toml", missing.as_bytes())
        .unwrap_err()
        .to_string();
    assert!(error.contains("no palette 'noon'"), "{error}");
}

#[test]
fn palettes_are_added_whole_and_colors_locked() {
    let doc = two();
    let mut palette = doc.setup().palette().clone();
    palette.name = "late \"dusk\".2".into();
    let added = doc.with_palette(&palette).unwrap();
    assert!(added.text().starts_with(doc.text()));
    let found = added.setup().palette_named(&palette.name).unwrap();
    for slot in Slot::ALL {
        assert_eq!(found.slot(slot), palette.slot(slot));
    }
    // The same name again sets what is there.
    palette.slots.insert(Slot::Red, "#123456".parse().unwrap());
    let again = added.with_palette(&palette).unwrap();
    assert_eq!(again.setup().palettes.len(), 3);
    assert_eq!(
        again
            .setup()
            .palette_named(&palette.name)
            .unwrap()
            .slot(Slot::Red),
        "#123456".parse().unwrap()
    );
    let locked = doc.with_lock(&"dusk".into(), "red", true).unwrap();
    assert_eq!(locked.setup().palette().locked, ["red"]);
    let free = locked.with_lock(&"dusk".into(), "red", false).unwrap();
    assert!(free.setup().palette().locked.is_empty());
    assert!(doc.with_lock(&"noon".into(), "red", true).is_err());
}

#[test]
fn a_roles_own_color_becomes_one_of_each_palette() {
    let doc = two();
    let named = doc.with_role_colors_named().unwrap();
    let comment = RoleId::known("comment");
    let look = |doc: &SetupDoc, name: &str| {
        let setup = doc.setup();
        Look::with_palette(setup, setup.palette_named(&name.into()).unwrap()).color(&comment)
    };
    assert_eq!(look(&named, "dusk"), look(&doc, "dusk"));
    assert_ne!(look(&named, "morning"), look(&doc, "morning"));
    assert_eq!(named.with_role_colors_named().unwrap().text(), named.text());
}
