use proptest::prelude::*;

use super::*;
use crate::character::SymbolLevel;
use crate::icon;
use crate::setup::{SetupDoc, ShowUser};

/// The design that a `[prompt]` says, at a level.
fn design(toml: &str, level: SymbolLevel) -> Design {
    let mut lines = toml.lines();
    let head: Vec<&str> = lines.by_ref().take_while(|l| !l.starts_with('[')).collect();
    let rest = &toml[head
        .iter()
        .map(|l| l.len() + 1)
        .sum::<usize>()
        .min(toml.len())..];
    let text = format!("[palettes.a]\n\n[prompt]\n{}\n{rest}", head.join("\n"));
    let doc = SetupDoc::parse("s", text.as_bytes()).unwrap_or_else(|e| panic!("{e}\n{text}"));
    assert!(doc.warnings().is_empty(), "{:?}", doc.warnings());
    doc.setup().prompt_at(level)
}

fn text(pieces: &[Piece]) -> String {
    pieces.iter().map(|p| p.text.as_str()).collect()
}

/// The rows as text, what is on the right of the last one behind `‖`.
fn rows(design: &Design, at: &Situation) -> Vec<String> {
    let one = |row: &Row| match row.right.is_empty() {
        true => text(&row.left),
        false => format!("{}‖{}", text(&row.left), text(&row.right)),
    };
    draw(design, true, at).iter().map(one).collect()
}

fn situation(name: &str) -> Situation {
    let all = Situation::all();
    all.into_iter().find(|s| s.name == name).expect(name)
}

#[test]
fn the_plain_design_shows_what_matters() {
    let design = Design::default().at(SymbolLevel::Ascii, str::to_owned);
    let shown = |at: &Situation| rows(&design, at);
    assert_eq!(
        shown(&Situation::sample()),
        ["~/src/marsh-gauge  @ spring-tide *", "$ "]
    );
    assert_eq!(
        shown(&situation("failed command")),
        ["~/src/marsh-gauge  @ spring-tide *  x 2", "$ "]
    );
    assert_eq!(shown(&situation("root")), ["root on heronry /etc", "# "]);
    let one =
        Design::plain(false, ShowUser::Always, false, 2).at(SymbolLevel::Ascii, str::to_owned);
    assert_eq!(
        rows(&one, &situation("deep folder")),
        ["warden on heronry ../weir/2031 $ "]
    );
}

#[test]
fn long_paths_keep_their_end() {
    let shown = |path: &str, keep: u8, more: &str, letters: &[usize]| {
        let text = format!(
            "[[prompt.line]]\nleft=['folder','input']\n[prompt.parts.folder]\nfolders={keep}\n{more}"
        );
        let at = Situation {
            folder: path.into(),
            beginnings: letters.to_vec(),
            ..Situation::home()
        };
        let all = rows(&design(&text, SymbolLevel::Plain), &at);
        all[0].trim_end_matches(" $ ").to_owned()
    };
    assert_eq!(shown("~/a/b/c", 2, "", &[]), "…/b/c");
    assert_eq!(shown("~/a", 2, "", &[]), "~/a");
    assert_eq!(shown("/", 2, "", &[]), "/");
    assert_eq!(shown("/a/b/c", 0, "", &[]), "/a/b/c");
    assert_eq!(shown("/a/b/c", 1, "", &[]), "…/c");
    let begin =
        |path: &str, keep: u8, letters: &[usize]| shown(path, keep, "beginnings=true\n", letters);
    assert_eq!(
        begin("~/src/marsh-gauge/weir", 1, &[1, 2, 4, 1]),
        "~/sr/mars/weir"
    );
    assert_eq!(begin("~/.config/tide/ebb", 2, &[]), "~/.c/tide/ebb");
    assert_eq!(
        begin("/srv/tide/ebb/漢字/weir", 1, &[1, 9, 1, 1, 1]),
        "/s/tide/e/漢/weir"
    );
    assert_eq!(begin("~/src", 2, &[]), "~/src");
    assert_eq!(begin("/", 1, &[]), "/");
}

#[test]
fn values_are_told_as_they_are_read() {
    let at = |toml: &str, name: &str| {
        rows(
            &design(&format!("[[prompt.line]]\n{toml}"), SymbolLevel::Ascii),
            &situation(name),
        )
    };
    let parts = |parts: &str, more: &str| format!("left = [{parts}, \"input\"]\n{more}");
    let changes = parts(
        "\"changes\", \"operation\"",
        "[prompt.parts.changes]\nas='counts'\n",
    );
    assert_eq!(
        at(&changes, "conflict in a rebase"),
        ["!2 *1 =1 >3 <2 rebase 2/5 $ "]
    );
    assert_eq!(at(&changes, "changes not known"), ["? $ "]);
    assert_eq!(at(&changes, "clean repository"), ["$ "]);
    let status = |style: &str| {
        parts(
            "\"status\"",
            &format!("[prompt.parts.status]\nas='{style}'\n"),
        )
    };
    let signal = "pipeline ended by a signal";
    assert_eq!(at(&status("one"), signal), ["x 130 $ "]);
    assert_eq!(at(&status("each"), signal), ["x INT $ "]);
    assert_eq!(at(&status("counts"), signal), ["x 0|1|130 $ "]);
    let time = parts(
        "\"date\", \"time\"",
        "[prompt.parts.time]\ntwelve=true\nseconds=true\n",
    );
    assert_eq!(at(&time, "home"), ["2031-03-09 2:20:07 pm $ "]);
    let languages = parts(
        "\"rust\", \"node\", \"venv\"",
        "[prompt.parts.rust]\nversion=true\n",
    );
    assert_eq!(
        at(&languages, "several languages"),
        ["rust 1.92.0 node env $ "]
    );
    let within = parts(
        "\"folder\"",
        "[prompt.parts.folder]\nwithin=true\nfolders=0\n",
    );
    assert_eq!(
        at(&within, "deep folder"),
        ["marsh-gauge/stations/north/weir/2031 $ "]
    );
    let all = parts(
        "\"battery\", \"jobs\", \"duration\", \"container\", \"nested\", \"locked\"",
        "",
    );
    assert_eq!(at(&all, "low battery"), ["bat 9% $ "]);
    assert_eq!(at(&all, "long-running command"), ["4m 24s $ "]);
    assert_eq!(
        at(&all, "in a container, a shell in a shell"),
        ["box sh 2 $ "]
    );
    assert_eq!(at(&all, "folder that cannot be written to"), ["ro $ "]);
    for (milliseconds, said) in [(4_250, "4.2s"), (42_999, "42s"), (7_380_000, "2h 3m")] {
        assert_eq!(span(milliseconds), said);
    }
}

#[test]
fn blocks_meet_in_their_shape_and_take_their_neighbours_colors() {
    let toml = "joint='point'\nopen='bow'\nclose='slope'\n[[prompt.line]]\nleft=['user', 'folder', 'branch', 'input']\nright=['time', 'date']\n\
        [prompt.parts.user]\nwhen='always'\nground='red'\n[prompt.parts.folder]\nground='blue'\n[prompt.parts.branch]\nground='blue'\n\
        [prompt.parts.time]\nground='red'\n[prompt.parts.date]\nground='blue'\n";
    let drawn = draw(
        &design(toml, SymbolLevel::Icons),
        true,
        &Situation::sample(),
    );
    assert_eq!(
        text(&drawn[0].left),
        "\u{e0b6} warden \u{e0b0} ~/src/marsh-gauge \u{e0b1} \u{e725} spring-tide \u{e0bc} $ "
    );
    assert_eq!(text(&drawn[0].right), "\u{e0b6} 14:20 \u{e0bc}");
    let wide = Situation {
        width: 120,
        ..Situation::sample()
    };
    let drawn = draw(&design(toml, SymbolLevel::Icons), true, &wide);
    assert_eq!(
        text(&drawn[0].right),
        "\u{e0b6} 14:20 \u{e0b2} 2031-03-09 \u{e0bc}"
    );
    let colors = |row: &[Piece], n: usize| {
        let name = |r: &Option<crate::role::RoleId>| r.as_ref().map(ToString::to_string);
        (name(&row[n].ink.text), name(&row[n].ink.ground))
    };
    let some = |t: &str| Some(t.to_owned());
    assert_eq!(colors(&drawn[0].left, 0), (some("red"), None));
    assert_eq!(colors(&drawn[0].left, 2), (some("red"), some("blue")));
    assert_eq!(
        colors(&drawn[0].left, 4),
        (some("prompt.branch"), some("blue"))
    );
    assert_eq!(colors(&drawn[0].left, 6), (some("blue"), None));
    // On the right, a joint belongs to the block behind it.
    assert_eq!(colors(&drawn[0].right, 2), (some("blue"), some("red")));
    let plain = draw(
        &design(toml, SymbolLevel::Plain),
        true,
        &Situation::sample(),
    );
    assert_eq!(
        text(&plain[0].left),
        " warden  ~/src/marsh-gauge │ ↳ spring-tide  $ "
    );
    let colorless = draw(
        &design(toml, SymbolLevel::Icons),
        false,
        &Situation::sample(),
    );
    assert_eq!(
        text(&colorless[0].left),
        "warden ~/src/marsh-gauge \u{e725} spring-tide $ "
    );
}

#[test]
fn things_give_way_in_their_order() {
    let toml = "stretch='.'\n[[prompt.line]]\nleft=['user', 'folder', 'branch']\nright=['rust', 'time']\n[[prompt.line]]\nleft=['input']\n\
        [prompt.parts.user]\nwhen='always'\nafter=' is in'\n[prompt.parts.rust]\nversion=true\n";
    let design = design(toml, SymbolLevel::Ascii);
    let at = |width| {
        let at = Situation {
            width,
            ..Situation::sample()
        };
        rows(&design, &at)[0].clone()
    };
    assert_eq!(
        at(70),
        "warden is in ~/src/marsh-gauge @ spring-tide ...... rust 1.92.0 14:20"
    );
    // Words and versions, the time, the language, the branch, the user.
    assert_eq!(
        at(60),
        "warden ~/src/marsh-gauge @ spring-tide ......... rust 14:20"
    );
    assert_eq!(at(48), "warden ~/src/marsh-gauge @ spring-tide ... rust");
    assert_eq!(at(41), "warden ~/src/marsh-gauge @ spring-tide");
    assert_eq!(at(30), "warden ~/src/marsh-gauge");
    assert_eq!(at(20), "~/src/marsh-gauge");
    assert_eq!(at(14), "marsh-gauge");
    assert_eq!(
        at(9),
        "$ ",
        "a line for which there is no room is not there"
    );
}

#[test]
fn past_prompts_are_short() {
    let with = |past: &str| {
        design(
            &format!(
                "past='{past}'\n{}",
                "[[prompt.line]]\nleft=['folder']\n[[prompt.line]]\nleft=['jobs', 'input']\n"
            ),
            SymbolLevel::Ascii,
        )
    };
    let at = situation("background jobs");
    let shown = |past: &str| past_text(&with(past), &at);
    assert_eq!(shown("whole"), ["~", "& 2 $ "]);
    assert_eq!(shown("line"), ["& 2 $ "]);
    assert_eq!(shown("sign"), ["$ "]);
}

#[test]
fn a_past_line_is_the_one_that_stood_there() {
    let tied = "past='line'\ntie=true\n[[prompt.line]]\nleft=['folder']\n[[prompt.line]]\nleft=['jobs', 'input']\nright=['time']\n";
    let design = design(tied, SymbolLevel::Plain);
    assert_eq!(
        past_text(&design, &situation("background jobs")),
        ["╵ ⁕ 2 $ "]
    );
}

fn past_text(design: &Design, at: &Situation) -> Vec<String> {
    past(design, true, at)
        .iter()
        .map(|r| text(&r.left))
        .collect()
}

#[test]
fn lines_are_tied_where_there_are_several() {
    let toml = "tie=true\n[[prompt.line]]\nleft=['branch']\n[[prompt.line]]\nleft=['folder']\n[[prompt.line]]\nleft=['input']\n";
    let tied = design(toml, SymbolLevel::Plain);
    assert_eq!(rows(&tied, &Situation::home()), ["╷ ~", "╵ $ "]);
    assert_eq!(
        rows(&tied, &Situation::sample()),
        ["╷ ↳ spring-tide", "│ ~/src/marsh-gauge", "╵ $ "]
    );
}

#[test]
fn ready_designs_are_of_different_kinds_and_fit_everywhere() {
    let mut seen = Vec::new();
    for ready in ready::ALL {
        for level in [SymbolLevel::Ascii, SymbolLevel::Plain, SymbolLevel::Icons] {
            let design = design(ready.toml, level);
            for at in Situation::all() {
                for row in draw(&design, true, &at) {
                    let cells = cells_of(&row.left) + cells_of(&row.right);
                    assert!(cells < at.width, "{} in {}: {row:?}", ready.name, at.name);
                    let signs = row
                        .left
                        .iter()
                        .chain(&row.right)
                        .flat_map(|p| p.text.chars());
                    assert!(
                        signs.clone().all(|c| crate::character::level(c) <= level),
                        "{row:?}"
                    );
                }
            }
            if level == SymbolLevel::Icons {
                seen.push(rows(&design, &Situation::sample()));
            }
        }
    }
    let mut different = seen.clone();
    different.sort();
    different.dedup();
    assert_eq!(different.len(), ready::ALL.len());
    assert!(ready::named("far SHORE").is_some() && ready::named("nowhere").is_none());
}

#[test]
fn icons_of_parts_are_icons_that_fonts_have() {
    for known in KNOWN {
        for c in known.signs[0].chars().filter(|c| !c.is_ascii()) {
            assert!(icon::name(c).is_some(), "{} U+{:04X}", known.name, c as u32);
        }
    }
}

#[test]
fn what_is_wrong_in_a_design_is_said_with_its_place() {
    let said = |toml: &str| {
        let text = format!("[palettes.a]\n[prompt]\n{toml}");
        SetupDoc::parse("s.toml", text.as_bytes())
            .unwrap_err()
            .to_string()
    };
    for (toml, wrong) in [
        (
            "[[prompt.line]]\nleft=['foldr', 'input']",
            "did you mean 'folder'",
        ),
        (
            "[[prompt.line]]\nleft=['folder']",
            "one types behind the part 'input'",
        ),
        (
            "[[prompt.line]]\nleft=['input', 'folder']",
            "one types behind",
        ),
        (
            "[[prompt.line]]\nleft=['folder', 'folder', 'input']",
            "stands in the prompt twice",
        ),
        ("stretch='ab'", "one character of one cell"),
        ("stretch='漢'", "one character of one cell"),
        ("joint='wavy'", "joint"),
        ("[prompt.parts.tide]\nsays='x'", "there is no part 'tide'"),
        (
            "[prompt.parts.venv]\nvariable='A-B'",
            "no name of a variable",
        ),
        (
            "[prompt.parts.rust]\nfiles=['a/b']",
            "cannot stand in 'files'",
        ),
        ("[prompt.parts.text]\nsays=\"a\\u001b\"", "U+001B"),
    ] {
        let said = said(toml);
        assert!(said.contains(wrong), "{toml}: {said}");
    }
}

/// Any arrangement of parts, each with a ground or none.
pub fn any_design() -> impl Strategy<Value = Design> {
    let part = (
        0..KNOWN.len(),
        prop::option::of(0usize..4),
        0u8..12,
        "[a-z% ]{0,6}",
    );
    let side = prop::collection::vec(part, 0..6);
    let line = (side.clone(), side);
    (
        prop::collection::vec(line, 1..4),
        0usize..6,
        any::<bool>(),
        any::<bool>(),
    )
        .prop_map(|(lines, shape, tie, blank)| {
            let grounds = ["red", "blue", "selection", "prompt.user"];
            let mut count = 0;
            let mut make = |parts: Vec<(usize, Option<usize>, u8, String)>| -> Vec<Part> {
                let parts = parts.into_iter().filter(|p| KNOWN[p.0].kind != Kind::Input);
                parts
                    .map(|(known, ground, rank, before)| {
                        count += 1;
                        Part {
                            name: format!("p{count}"),
                            ground: ground.map(|g| crate::role::RoleId::known(grounds[g])),
                            rank,
                            before,
                            ..Part::usual(&KNOWN[known])
                        }
                    })
                    .collect()
            };
            let mut lines: Vec<Line> = lines
                .into_iter()
                .map(|(left, right)| Line {
                    left: make(left),
                    right: make(right),
                })
                .collect();
            if let Some(last) = lines.last_mut() {
                last.left.extend(Part::named("input"));
            }
            let shape = Shape::ALL[shape].1;
            Design {
                joint: shape,
                open: shape,
                close: shape,
                tie,
                blank,
                ..Design::of(lines)
            }
        })
}

#[test]
fn the_strip_has_every_part_that_is_known() {
    let all = KNOWN.iter().filter(|k| k.kind != Kind::Input);
    let mut line = Line {
        left: all.map(Part::usual).collect(),
        right: Vec::new(),
    };
    line.right = line.left.split_off(20);
    line.left.extend(Part::named("input"));
    let design = Design::of(vec![line]);
    let [[left, right]] = &strip(&design)[..] else {
        panic!()
    };
    let shown: Vec<usize> = left.iter().chain(right).filter_map(|p| p.part).collect();
    assert_eq!(shown, (0..KNOWN.len()).collect::<Vec<_>>());
    // Nothing is told by its name that has something to tell.
    for part in design.parts() {
        let at = Situation::telling(part);
        let shown = Part {
            when: When::Always,
            ..part.clone()
        };
        let is_empty_text = part.kind == Kind::Text;
        assert_eq!(
            told(&shown, &at, &design).is_none(),
            is_empty_text,
            "{}",
            part.name
        );
    }
}

proptest! {
    #[test]
    fn no_line_is_longer_than_the_window(design in any_design(), width in 6usize..120, n in 0usize..18) {
        let design = design.at(SymbolLevel::Icons, str::to_owned);
        let at = Situation { width, ..Situation::all()[n].clone() };
        for row in draw(&design, true, &at) {
            let cells = cells_of(&row.left) + cells_of(&row.right);
            prop_assert!(cells < width, "{} of {}: {:?}", cells, width, row);
        }
    }
}

#[test]
fn the_documented_design_is_read_and_names_every_part() {
    let page = include_str!("../../../../docs/setup-file.md");
    let (_, rest) = page.split_once("## The prompt").unwrap();
    let example = rest
        .split("```")
        .nth(1)
        .unwrap()
        .trim_start_matches("toml\n");
    let text = format!("[palettes.a]\n{example}");
    let doc = SetupDoc::parse("s", text.as_bytes()).unwrap_or_else(|e| panic!("{e}"));
    assert!(doc.warnings().is_empty(), "{:?}", doc.warnings());
    let at = doc.setup().prompt_at(SymbolLevel::Plain);
    assert_eq!(rows(&at, &Situation::sample()).len(), 3);
    for known in KNOWN {
        assert!(
            rest.contains(&format!("`{}`", known.name)),
            "{}",
            known.name
        );
    }
}
