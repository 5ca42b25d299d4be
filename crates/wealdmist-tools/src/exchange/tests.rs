use super::*;
use proptest::prelude::*;

fn palette() -> Palette {
    let mut slots = BTreeMap::new();
    for (i, slot) in Slot::ALL.into_iter().enumerate() {
        let i = i as u8;
        slots.insert(slot, Rgb::new(i * 11, 250 - i * 7, 40 + i * 3));
    }
    slots.insert(Slot::Background, Rgb::new(9, 20, 22));
    slots.insert(Slot::Foreground, Rgb::new(215, 214, 204));
    Palette {
        name: "dusk".into(),
        variant: Variant::Dark,
        slots,
        colors: vec![("reed".into(), Rgb::new(147, 151, 97))],
        locked: Vec::new(),
    }
}

fn used() -> FontUsed {
    FontUsed {
        face: "ReedbedMonoNF-Regular".to_owned(),
        size: 12.5,
    }
}

fn read(text: &str) -> Imported {
    import(None, "", text).unwrap_or_else(|e| panic!("{e}\n{text}"))
}

#[test]
fn every_format_is_recognised_and_gives_back_what_it_can_hold() {
    let palette = palette();
    for format in FORMATS {
        let written = export(format, &palette, "Salt marsh", Some(&used()));
        let text = String::from_utf8(written.bytes).unwrap();
        let found = detect("", &text).map(|f| f.id);
        assert_eq!(found, Some(format.id), "{text}");
        let back = read(&text);
        assert_eq!(back.font, format.holds_font.then(used), "{}", format.id);
        for slot in Slot::ALL {
            let want = (format.holds)(slot).then(|| palette.slot(slot));
            assert_eq!(
                back.slots.get(&slot).copied(),
                want,
                "{} {slot:?}",
                format.id
            );
        }
        let named = back.colors.iter().any(|c| c.1 == palette.colors[0].1);
        assert_eq!(named, format.holds_names, "{}", format.id);
        // Whatever is lost is said.
        let holds_all = Slot::ALL.into_iter().all(format.holds) && format.holds_names;
        assert_eq!(written.lost.is_empty(), holds_all, "{}", format.id);
        assert!(
            back.unmapped.is_empty() && back.roles.is_empty(),
            "{}",
            format.id
        );
        assert_eq!(back.palette("x").variant, Variant::Dark);
    }
}

#[test]
fn a_name_with_line_ends_adds_no_line_to_any_file() {
    let mut odd = palette();
    odd.name = "a\ncolor1 #ffffff\r\n*/ b".into();
    odd.colors[0].0 = "reed\nreboot".into();
    for format in FORMATS {
        let plain = export(format, &palette(), "t", None).bytes;
        let written = export(format, &odd, "t\nreboot\n", None).bytes;
        let lines = |bytes: &[u8]| bytes.iter().filter(|b| matches!(b, b'\n' | b'\r')).count();
        assert_eq!(lines(&plain), lines(&written), "{}", format.id);
        let text = String::from_utf8(written).unwrap();
        assert!(!text.lines().any(|l| l.starts_with("reboot")), "{text}");
    }
}

#[test]
fn a_broken_value_gives_its_line_and_nothing_else() {
    for (text, line, said) in [
        (
            "foreground #dddddd\nbackground #12345\ncolor0 #000000\n",
            2,
            "#12345",
        ),
        (
            "! x\n*color0: #000000\n*color1: reddish-ish\n",
            3,
            "reddish-ish",
        ),
        (
            "GIMP Palette\nName: x\n#\n 10 20 30\tred\n 10 20 300\tblue\n",
            5,
            "10 20 300",
        ),
        (
            "{\n  \"brightBlack\": \"#333333\",\n  \"red\": \"#zz0000\"\n}",
            3,
            "#zz0000",
        ),
        (
            "{\n  \"brightBlack\": \"#333333\"\n  \"red\": 1\n}",
            2,
            "comma",
        ),
        (
            "[colors.primary]\nforeground = '#dddddd'\nbackground = 'dark'\n",
            3,
            "dark",
        ),
        ("[colors.primary\n", 1, ""),
        (
            "colors:\n  primary:\n    foreground: '0xdddddd'\n    background: '0xdddddd'\n  normal:\n    red: '0xgg0000'\n",
            6,
            "0xgg0000",
        ),
        ("colors:\n  primary: [\n", 3, ""),
        (
            ":root {\n  --red: #f00;\n  --blue:\n    blu;\n}\n",
            3,
            "blu",
        ),
        ("[colors]\nregular0=000000\nregular1=ff00\n", 3, "ff00"),
        ("[Color0]\nColor=0,0,0\n[Color1]\nColor=1,2\n", 4, "1,2"),
        (
            "printf '\\033]P0000000'\nprintf '\\033]P1ff00'\nprintf '\\033]P2aabbcc'",
            2,
            "#ff00",
        ),
        ("printf '\\033]4;1;#12\\033\\\\'\n", 1, "#12"),
    ] {
        let error = import(None, "", text).expect_err(text);
        assert_eq!(error.line, line, "{error} in\n{text}");
        assert!(error.message.contains(said), "{error}");
    }
    let nothing = import(None, "", "hello\nworld\n").unwrap_err();
    assert!(nothing.help.contains("known formats: tokens"), "{nothing}");
    assert!(import(format("kitty"), "", "font_size 12\n").is_err());
}

#[test]
fn what_has_no_place_is_named_and_what_has_another_job_is_a_role() {
    let found = read(
        "background #101010\ncolor0 #000000\nactive_border_color #334455\ncolor20 #123456\ncolor16 #000000\ncursor none\nfont_family X\n",
    );
    assert_eq!(
        found.roles,
        [(RoleId::known("border.active"), Rgb::from_u32(0x33_4455))]
    );
    assert_eq!(found.unmapped.len(), 1);
    assert_eq!(
        (found.unmapped[0].line, found.unmapped[0].key.as_str()),
        (4, "color20")
    );
    assert_eq!(found.slots.len(), 2);
}

/// Texts as real programs write them.
#[test]
fn files_written_by_real_programs_are_read() {
    for (name, text, slots, background) in [
        (
            "xrdb -query",
            include_str!("samples/xrdb-query.txt"),
            19,
            0x0d_191c,
        ),
        (
            "kitty @ get-colors",
            include_str!("samples/kitty-get-colors.txt"),
            22,
            0x0d_191c,
        ),
        (
            "plistlib",
            include_str!("samples/plistlib.terminal"),
            20,
            0x0d_191c,
        ),
        (
            "kwriteconfig",
            include_str!("samples/kwriteconfig.colorscheme"),
            18,
            0x0d_191c,
        ),
        (
            "alacritty migrate",
            include_str!("samples/alacritty-migrate.toml"),
            20,
            0x0d_191c,
        ),
    ] {
        let found = import(None, "", text).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert_eq!(found.slots.len(), slots, "{name}: {:?}", found.slots);
        assert_eq!(
            found.slots[&Slot::Background],
            Rgb::from_u32(background),
            "{name}"
        );
    }
}

#[test]
fn details_of_single_formats() {
    // Macros, comments and other programs' resources.
    let x = read(
        "#define bg #0a0b0c\n! *color1: #ffffff\n*background: bg\nURxvt.color3: rgb:1/2/3\nXTerm*cursorColor: [90]#102030\n",
    );
    assert_eq!(x.slots[&Slot::Background], Rgb::from_u32(0x0a_0b0c));
    assert_eq!(x.slots[&Slot::Yellow], Rgb::from_u32(0x11_2233));
    assert_eq!(x.slots[&Slot::Cursor], Rgb::from_u32(0x10_2030));
    assert!(!x.slots.contains_key(&Slot::Red));
    // One value for both of the cursor's colors.
    let foot = read(
        "[cursor]\ncolor=111111 eeeeee\n[colors]\nregular0=000000\nbright7=ffffff # paper\nurls=0000ff\n",
    );
    assert_eq!(foot.slots[&Slot::CursorText], Rgb::from_u32(0x11_1111));
    assert_eq!(foot.slots[&Slot::Cursor], Rgb::from_u32(0xee_eeee));
    assert_eq!(foot.slots[&Slot::BrightWhite], Rgb::from_u32(0xff_ffff));
    assert_eq!(foot.roles.len(), 1);
    // A token's value as a text or as an object.
    let tokens = read(
        "{\"g\":{\"red\":{\"$value\":\"#f00\"},\"Bright Red\":{\"$value\":{\"hex\":\"#ff8080\"}},\"mud\":{\"$value\":\"#332211\"}}}",
    );
    assert_eq!(tokens.slots.len(), 2);
    assert_eq!(tokens.colors[0].0, "mud");
    // Several colors in one sequence, ended by BEL.
    let osc = read("printf '\\e]4;0;#000000;1;rgb:ff/00/00\\a\\e]11;?\\a'");
    assert_eq!(osc.slots.len(), 2);
    // Names of colors and every notation in CSS.
    let css = read(
        ":root { --color-red: hsl(0 100% 50%); --blue: navy; /* --green: bad */ --gap: 4px; }",
    );
    assert_eq!(css.slots[&Slot::Red], Rgb::from_u32(0xff_0000));
    assert_eq!(css.slots.len(), 2);
}

proptest! {
    #[test]
    fn any_text_is_read_or_refused(text in ".{0,200}", format in 0..FORMATS.len()) {
        let _ = import(Some(&FORMATS[format]), "", &text);
        let _ = import(None, "", &text);
    }

    #[test]
    fn any_damage_is_read_or_refused(format in 0..FORMATS.len(), at in 0usize..3000, with in any::<u8>()) {
        let mut bytes = export(&FORMATS[format], &palette(), "x", Some(&used())).bytes;
        let len = bytes.len();
        bytes[at % len] = with;
        let text = String::from_utf8_lossy(&bytes);
        if let Err(error) = import(Some(&FORMATS[format]), "", &text) {
            prop_assert!(error.line >= 1 && error.line <= text.lines().count() + 1);
        }
    }
}

#[test]
fn a_file_of_several_schemes_gives_each() {
    let all = |text: &str| -> Vec<(String, BTreeMap<Slot, Rgb>)> {
        let found = imports(None, "", text).unwrap().into_iter();
        found
            .map(|i| (i.scheme.unwrap_or_default(), i.slots))
            .collect()
    };
    let ground = |n: usize, all: &[(String, BTreeMap<Slot, Rgb>)]| {
        all[n].1.get(&Slot::Background).unwrap().to_string()
    };
    let windows = "{\"schemes\":[{\"name\":\"Reed\",\"background\":\"#101010\",\"red\":\"#aa0000\"},{\"name\":\"Sedge\",\"background\":\"#f0f0f0\",\"red\":\"#bb0000\"}]}";
    let found = all(windows);
    assert_eq!(
        (found[0].0.as_str(), found[1].0.as_str()),
        ("Reed", "Sedge")
    );
    assert_eq!(
        (ground(0, &found), ground(1, &found)),
        ("#101010".into(), "#f0f0f0".into())
    );
    // A thousand of them are as quickly told as one.
    let row = |n: usize| format!("{{\"name\":\"s{n}\",\"red\":\"#{n:06x}\"}}");
    let many: Vec<String> = (0..20_000).map(row).collect();
    let many = format!("{{\"schemes\":[{}]}}", many.join(","));
    let why = imports(None, "", &many).unwrap_err();
    assert!(why.message.contains("20000 schemes"), "{why}");
    // What stands for all is there in each that says something else of some.
    let css = ":root { --background: #f0f0f0; --red: #cc0000; }\n@media (prefers-color-scheme: dark) {\n  :root { --background: #101010; }\n}\n";
    let found = all(css);
    assert_eq!(found.len(), 2);
    assert_eq!(found[1].0, "dark");
    assert_eq!((found[1].1.len(), ground(1, &found)), (2, "#101010".into()));
    let css = "html[data-theme='mist'] { --red: #cc0000; }\n.dusk { --red: #ff8080; }\n.a .b { --red: #00ff00; }\n";
    let names: Vec<String> = all(css).into_iter().map(|f| f.0).collect();
    assert_eq!(names, ["mist", "dusk", ".a .b"]);
    let resources = "*background: #101010\nURxvt*background: #202020\nXTerm*background: #303030\n*color1: #aa0000\n";
    let names: Vec<String> = all(resources).into_iter().map(|f| f.0).collect();
    assert_eq!(names, ["of the whole", "urxvt", "xterm"]);
    // Parts that do not contradict one another are one.
    let one = "URxvt*background: #202020\n*color1: #aa0000\nXTerm*color2: #00aa00\n";
    assert_eq!(all(one).len(), 1);
    assert_eq!(all(one)[0].1.len(), 3);
    let tokens = "{\"day\":{\"$type\":\"color\",\"red\":{\"$value\":\"#aa0000\"}},\"night\":{\"$type\":\"color\",\"red\":{\"$value\":\"#ff8080\"}}}";
    let names: Vec<String> = all(tokens).into_iter().map(|f| f.0).collect();
    assert_eq!(names, ["day", "night"]);
}

/// Every form of a color that the format of design tokens allows: values by hand from the definitions of the color spaces.
#[test]
fn tokens_are_read_in_every_form() {
    let text = r##"{
      "base": {"$type": "color",
        "black": {"$value": {"colorSpace": "srgb", "components": [0.2, 0.4, 0.6]}},
        "red": {"$value": {"colorSpace": "hsl", "components": [0, 100, 50]}},
        "green": {"$value": {"colorSpace": "srgb-linear", "components": [0, 1, "none"]}},
        "blue": {"$value": {"colorSpace": "oklch", "components": [1, 0, 0]}},
        "yellow": {"$value": {"colorSpace": "srgb", "components": [0, 0, 0], "hex": "#ffcc00"}}},
      "background": {"$value": "{base.black}"},
      "foreground": {"$value": "{text.strong}"},
      "text": {"strong": {"$type": "color", "$value": "#eeeeee"}},
      "space": {"$type": "dimension", "small": {"$value": {"value": 4, "unit": "px"}}}
    }"##;
    let found = import(None, "a.json", text).unwrap();
    let slot = |slot: Slot| found.slots.get(&slot).map(ToString::to_string);
    for (at, color) in [
        (Slot::Black, "#336699"),
        (Slot::Red, "#ff0000"),
        (Slot::Green, "#00ff00"),
        (Slot::Blue, "#ffffff"),
        (Slot::Yellow, "#ffcc00"),
        (Slot::Background, "#336699"),
        (Slot::Foreground, "#eeeeee"),
    ] {
        assert_eq!(slot(at).as_deref(), Some(color), "{at:?}");
    }
    // Of a space that sRGB does not hold nothing is made up; a circle ends.
    let wide = r##"{"red": {"$type": "color", "$value": {"colorSpace": "display-p3", "components": [1, 0, 0]}}}"##;
    assert!(
        import(None, "a.json", wide)
            .unwrap_err()
            .message
            .contains("display-p3")
    );
    let circle = r##"{"red": {"$value": "{blue}"}, "blue": {"$value": "{red}"}, "green": {"$value": "#00ff00"}}"##;
    assert!(import(None, "a.json", circle).is_err());
}

#[test]
fn values_are_read_as_people_write_them() {
    let text = "Foreground #d0d0d0   # mine\nBACKGROUND dark slate gray\ncolor1 rebeccapurple\n";
    let found = import(None, "mist.conf", text).unwrap();
    let all: Vec<String> = found.slots.values().map(ToString::to_string).collect();
    assert_eq!(all, ["#d0d0d0", "#2f4f4f", "#663399"]);
}

/// The schemes of a file, each with its ground.
fn grounds(name: &str, text: &str) -> Vec<(Option<String>, String)> {
    let all = imports(None, name, text).unwrap_or_else(|e| panic!("{e}\n{text}"));
    let one = |i: &Imported| {
        let ground = i.slots.get(&Slot::Background);
        (
            i.scheme.clone(),
            ground.map_or_else(String::new, ToString::to_string),
        )
    };
    all.iter().map(one).collect()
}

fn named(scheme: &str, ground: &str) -> (Option<String>, String) {
    (Some(scheme.to_owned()), ground.to_owned())
}

#[test]
fn schemes_beside_one_another_in_a_programs_own_file_are_told_apart() {
    let of = |ground: &str, text: &str| {
        format!(
            "primary: {{background: '{ground}', foreground: '{text}'}}\n    normal: &n {{black: '#202830', red: '#e06060'}}\n    bright: {{<<: *n, black: '#606870'}}\n"
        )
    };
    let (dusk, dawn) = (of("#101820", "#d0d8e0"), of("#f0f0e8", "#202830"));
    let yaml = format!("schemes:\n  dawn:\n    {dawn}  dusk: &dusk\n    {dusk}colors: *dusk\n");
    // The one in use is the first, by its own name.
    let all = [
        named("schemes.dusk", "#101820"),
        named("schemes.dawn", "#f0f0e8"),
    ];
    assert_eq!(grounds("a.yml", &yaml), all);
    let first = import(None, "a.yml", &yaml).unwrap();
    let slot = |slot| first.slots.get(&slot).map(ToString::to_string);
    assert_eq!(slot(Slot::BrightRed).as_deref(), Some("#e06060"), "merged");
    assert_eq!(slot(Slot::BrightBlack).as_deref(), Some("#606870"));
    let chosen = yaml.replace(
        "colors: *dusk",
        &format!(
            "colors:\n    {}",
            of("#000000", "#ffffff")
                .replace("&n", "&o")
                .replace("*n", "*o")
        ),
    );
    let found = grounds("a.yml", &chosen);
    assert_eq!(found[0], named("colors", "#000000"));
    assert_eq!(found.len(), 3);
    // Only one, at another place than the program looks.
    let one = format!("schemes:\n  dusk:\n    {dusk}");
    assert_eq!(grounds("a.yml", &one), [(None, "#101820".to_owned())]);

    let section = |name: &str, ground: &str, red: &str| {
        format!(
            "[{name}]\nforeground=d0d8e0\nbackground={ground}\nregular0=202830\nregular1={red}\n"
        )
    };
    let ini = section("colors", "101820", "e06060") + &section("colors2", "f0f0e8", "a03030");
    assert_eq!(
        grounds("foot.ini", &ini),
        [named("colors", "#101820"), named("colors2", "#f0f0e8")]
    );
    let lua = "return { color_schemes = { dusk = { background = '#101820', foreground = '#d0d8e0', ansi = { '#202830', '#e06060' }, brights = { '#606870' } }, dawn = { background = '#f0f0e8', foreground = '#202830', ansi = { '#202830', '#a03030' }, brights = { '#606870' } } } }";
    let found = grounds("wezterm.lua", lua);
    assert_eq!(
        found,
        [
            named("color_schemes.dusk", "#101820"),
            named("color_schemes.dawn", "#f0f0e8")
        ]
    );
}
