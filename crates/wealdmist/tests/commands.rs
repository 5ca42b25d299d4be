//! The command line on scratch homes: reports, exit codes, and bad input of every kind.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::fs;
use std::os::unix::fs::symlink;

use common::{Scratch, have, picture};
use wealdmist_tools::exchange::FORMATS;

#[test]
fn the_tour_runs_the_whole_job_and_restores_every_byte() {
    let s = Scratch::new();
    let said = s.said(&["demo", "--tour"], &[0]);
    for step in [
        "7 of 94 roles drift",
        "palette = \"dusk\"",
        "warning contrast",
        "--- ",
        "Applied: all files or none",
        "a second plan has 0 changes",
        "drift     6 → 0",
        "depth     1 → 0",
        "contrast  12 → 0",
        "coverage  4 → 0",
        "specimen.svg",
        "undo restored every byte of",
    ] {
        assert!(said.contains(step), "'{step}' is not in the tour");
    }
}

#[test]
fn check_prints_places_editors_can_jump_to_and_exit_codes_scripts_can_use() {
    let s = Scratch::demo();
    let said = s.said(&["check"], &[1]);
    let place = format!(
        "{}/.config/tmux/tmux.conf:12:37: warning drift",
        s.home().canonicalize().unwrap().display()
    );
    assert!(said.contains(&place), "{said}");
    assert!(
        said.contains("coverage: U+F64F") && said.contains("depth: colors are cut to 256"),
        "{said}"
    );
    s.said(&["check", "--fail-on", "never"], &[0]);
    s.said(&["check", "--fail-on", "sometimes"], &[2]);
    let json: serde_json::Value =
        serde_json::from_str(&s.said(&["check", "--json"], &[1])).unwrap();
    let findings = json["findings"].as_array().unwrap();
    assert!(
        findings
            .iter()
            .any(|f| f["kind"] == "contrast" && f["line"] == 11 && f["column"] == 42)
    );
    let json: serde_json::Value =
        serde_json::from_str(&s.said(&["survey", "--json"], &[1])).unwrap();
    assert_eq!(json["drift"], 7);
    let said = s.said(&["contrast", "#777777", "#ffffff"], &[1]);
    assert!(
        said.contains("4.47:1") && said.contains("text (4.5:1) no"),
        "{said}"
    );
}

#[test]
fn commands_that_cannot_be_carried_out_say_what_to_do() {
    let s = Scratch::demo();
    assert!(s.said(&["undo"], &[3]).contains("nothing to undo"));
    assert!(
        s.said(&["set", "coment", "#112233"], &[3])
            .contains("did you mean 'comment'")
    );
    assert!(
        s.said(&["set", "comment", "#11223"], &[3])
            .contains("#rrggbb")
    );
    assert!(
        s.said(&["set", "font.size", "big"], &[3])
            .contains("not a number")
    );
    assert!(
        s.said(&["adopt", "comment", "vi"], &[2])
            .contains("kitty, alacritty, ")
    );
    assert!(
        s.said(&["--home", "/nonexistent", "survey"], &[3])
            .contains("--home")
    );
    assert!(
        s.said(&["--setup", "nosuch.toml", "survey"], &[3])
            .contains("does not exist")
    );
    assert!(
        s.said(&["plan", "--skip", "99.1"], &[3])
            .contains("no change 99.1")
    );
    assert!(s.said(&["trial"], &[3]).contains("terminal"));
    s.said(&["nosuch"], &[2]);
    s.said(&["init"], &[0]);
    assert!(s.said(&["init"], &[3]).contains("exists already"));
    let setup = ".config/wealdmist/setup.toml";
    s.write(setup, &s.read(setup).replace("#d7d6cc", "#d7d6c"));
    let said = s.said(&["plan"], &[3]);
    assert!(
        said.contains("setup.toml:9") && said.contains("write \"#rrggbb\""),
        "{said}"
    );
}

#[test]
fn adopt_align_and_exceptions_do_what_they_say() {
    let s = Scratch::demo();
    s.said(&["adopt", "border.active", "tmux"], &[0]);
    let plan = s.said(&["plan"], &[1]);
    assert!(
        plan.contains("-active_border_color   #74c5c1\n+active_border_color   #528b8e"),
        "{plan}"
    );
    assert!(!plan.contains("-set -g pane-active-border-style"), "{plan}");
    s.said(
        &[
            "except",
            "border.active",
            "kitty",
            "--reason",
            "brighter there",
        ],
        &[0],
    );
    assert!(
        !s.said(&["plan"], &[1])
            .contains("active_border_color   #528b8e")
    );
    s.said(&["except", "border.active", "kitty", "--remove"], &[0]);
    assert!(
        s.said(&["plan"], &[1])
            .contains("active_border_color   #528b8e")
    );
    // Left out of one apply, still there for the next.
    let said = s.said(&["apply", "--no-reload", "--skip", "1.1"], &[0]);
    assert!(said.contains("applied as number 1"), "{said}");
    assert!(s.read(".config/kitty/kitty.conf").contains("#74c5c1"));
    s.said(&["apply", "--no-reload"], &[0]);
    assert!(s.said(&["plan"], &[0]).contains("0 changes"));
    assert!(s.said(&["history"], &[0]).contains("   2  "));
    // Undo of the first, older one keeps the second.
    s.said(&["undo", "1", "--no-reload"], &[0]);
    assert!(
        s.read(".config/kitty/kitty.conf")
            .contains("active_border_color   #528b8e")
    );
    assert!(
        s.said(&["undo", "1", "--no-reload"], &[3])
            .contains("no apply number 1")
    );
}

#[test]
fn a_bundle_is_an_ordinary_archive_without_anything_of_the_machine() {
    if !have(&["tar"]) {
        return;
    }
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["pack", "-o", "look.tar"], &[0]);
    let list = s.command("tar").args(["-tf", "look.tar"]).output().unwrap();
    let list = String::from_utf8(list.stdout).unwrap();
    assert_eq!(
        list,
        "setup.toml\npalette.tokens.json\nspecimen.svg\ngenerated/nvim/wealdmist.lua\ngenerated/bash/prompt.bash\ngenerated/zsh/prompt.zsh\ngenerated/fish/prompt.fish\ngenerated/powershell/prompt.ps1\ngenerated/starship/starship.toml\n"
    );
    let bytes = fs::read(s.home().join("look.tar")).unwrap();
    let text = String::from_utf8_lossy(&bytes);
    for private in [
        "demo-not-a-secret",
        &*s.home().display().to_string(),
        "GAUGE_TOKEN",
    ] {
        assert!(!text.contains(private), "{private}");
    }
    s.said(&["pack", "-o", "again.tar"], &[0]);
    assert_eq!(
        bytes,
        fs::read(s.home().join("again.tar")).unwrap(),
        "the same setup, the same archive"
    );
    assert!(s.said(&["draw", "-o", "x.gif"], &[2]).contains(".svg"));
    s.said(&["draw", "-o", "x.svg"], &[0]);
    assert!(s.read("x.svg").starts_with("<svg"));
}

#[test]
fn help_manual_and_completions_are_there() {
    let s = Scratch::new();
    let help = s.said(&["--help"], &[0]);
    assert!(
        help.contains("Examples:") && help.contains("Exit codes"),
        "{help}"
    );
    let help = s.said(&["font", "choose", "--help"], &[0]);
    assert!(
        help.contains("Examples:") && help.contains("--feature ss01"),
        "{help}"
    );
    let formats = s.said(&["import", "--help"], &[0]);
    assert!(
        formats.contains("css") && formats.contains("kitty"),
        "{formats}"
    );
}

/// The manual names no page that is not there, and has everything on one.
#[test]
fn the_manual_is_whole() {
    let s = Scratch::new();
    let page = s.said(&["man"], &[0]);
    assert!(page.contains(".TH wealdmist 1"), "{page}");
    for section in [
        "COMMANDS",
        "FILES",
        "ENVIRONMENT",
        "EXIT STATUS",
        "EXAMPLES",
    ] {
        assert!(
            page.contains(&format!("\n.SH {section}\n").replace("EXIT STATUS", "\"EXIT STATUS\"")),
            "{section}"
        );
    }
    for part in [
        "wealdmist font choose",
        "\\-\\-line\\-height",
        "NO_COLOR",
        "setup.toml",
    ] {
        assert!(page.contains(part), "{part} in {page}");
    }
    let names_page = |line: &str| line.contains("(1)") && !line.starts_with(".TH");
    assert!(!page.lines().any(names_page), "{page}");
}

/// What a shell offers at the end of a line.
fn offered(s: &Scratch, line: &str) -> Vec<String> {
    let script = "source <(wealdmist completions bash); COMP_WORDS=($1); [[ $1 == *' ' ]] && COMP_WORDS+=(''); COMP_CWORD=$((${#COMP_WORDS[@]} - 1)); COMP_LINE=$1; COMP_POINT=${#1}; COMP_TYPE=9; _clap_complete_wealdmist wealdmist \"${COMP_WORDS[COMP_CWORD]}\" \"${COMP_WORDS[COMP_CWORD-1]}\"; printf '%s\\n' \"${COMPREPLY[@]}\"";
    let program = std::path::Path::new(env!("CARGO_BIN_EXE_wealdmist"));
    let path = std::env::join_paths(
        std::iter::once(program.parent().unwrap().to_owned())
            .chain(std::env::split_paths(&std::env::var_os("PATH").unwrap())),
    );
    let out = s
        .command("bash")
        .env("PATH", path.unwrap())
        .args(["--norc", "-c", script, "bash", line])
        .output()
        .unwrap();
    let errors = String::from_utf8_lossy(&out.stderr);
    assert_eq!(errors, "", "{line}");
    let text = String::from_utf8_lossy(&out.stdout).into_owned();
    text.lines().map(|l| l.trim().to_owned()).collect()
}

#[test]
fn shells_complete_what_the_home_has() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["palette", "seeds", "teal", "--name", "tide"], &[0]);
    s.said(&["apply", "--no-reload"], &[0]);
    for (line, wanted) in [
        ("wealdmist ver", "verify"),
        ("wealdmist set bor", "border.active"),
        ("wealdmist set tools.nv", "tools.nvim.generate"),
        ("wealdmist adopt border.active tm", "tmux"),
        ("wealdmist export c", "css"),
        ("wealdmist draw op", "opacity"),
        ("wealdmist draw g", "glyphs"),
        ("wealdmist palette use t", "tide"),
        ("wealdmist undo ", "1"),
        ("wealdmist font show Reed", "Reedbed"),
    ] {
        let found = offered(&s, line);
        assert!(
            found.iter().any(|f| f.contains(wanted)),
            "{line}: {found:?}"
        );
    }
    for shell in ["zsh", "fish", "elvish", "powershell"] {
        let script = s.said(&["completions", shell], &[0]);
        assert!(script.contains("WEALDMIST_COMPLETE"), "{shell}: {script}");
    }
}

#[test]
fn colors_are_typed_in_any_notation_or_from_what_they_are() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["set", "comment", "oklch(0.6 0.02 200)"], &[0]);
    let said = |s: &Scratch| {
        let text = s.read(".config/wealdmist/setup.toml");
        let mut lines = text.lines();
        let line = lines.find(|l| l.starts_with("comment ="));
        line.unwrap().to_owned()
    };
    let first = said(&s);
    s.said(&["set", "comment", "lighter 0.1"], &[0]);
    assert_ne!(said(&s), first);
    s.said(&["set", "comment", "darker 0.1"], &[0]);
    assert_eq!(said(&s), first);
    s.said(&["set", "comment", "cyan"], &[0]);
    assert!(
        said(&s).contains("\"cyan\""),
        "a slot before a color of that name"
    );
    s.said(&["set", "red", "hsl(0 60% 60%)"], &[0]);
    let why = s.said(&["set", "comment", "mistier"], &[3]);
    assert!(why.contains("lighter 0.05"), "{why}");
}

/// Every dotfile of the sample home is replaced by something bad; nothing panics, nothing is
/// lost, and what is wrong is told with the file's name.
#[test]
fn bad_dotfiles_are_told_and_left_alone() {
    let files = [
        ".config/kitty/kitty.conf",
        ".config/kitty/dusk.conf",
        ".config/tmux/tmux.conf",
        ".config/tmux/bar.conf",
        ".config/nvim/init.lua",
        ".config/nvim/colors/creek.lua",
        ".bashrc",
    ];
    let bad: [(&str, Vec<u8>); 6] = [
        (
            "not UTF-8",
            b"\xff\xfe\x00c\x00o\x00l\n\x80\x81 #\xc3".to_vec(),
        ),
        ("NUL bytes", b"color1 #\x00\x00\x00\nset -g \x00\n".to_vec()),
        (
            "half a quote",
            b"set -g status-left \"#{?client_prefix,#[fg=\nvim.cmd(\"colo".to_vec(),
        ),
        ("braces", b"if-shell x {\n}}}}{{{{ #{#{#{".to_vec()),
        ("one long line", vec![b'#'; 300 << 10]),
        ("nothing", Vec::new()),
    ];
    for file in files {
        for (what, bytes) in &bad {
            let s = Scratch::demo();
            let path = s.home().join(file);
            fs::write(&path, bytes).unwrap();
            s.said(&["check"], &[0, 1]);
            let before = picture(&s.home());
            let said = s.said(&["apply", "--no-reload"], &[0, 1]);
            assert_eq!(
                said.contains("not changed:"),
                said.contains("until then"),
                "{said}"
            );
            s.said(&["undo", "--no-reload"], &[0]);
            assert_eq!(&fs::read(&path).unwrap(), bytes, "{file}: {what}");
            for (path, bytes) in before {
                assert_eq!(
                    fs::read(&path).unwrap(),
                    bytes,
                    "{}: {what}",
                    path.display()
                );
            }
        }
    }
}

#[test]
fn odd_files_are_told_apart() {
    let s = Scratch::demo();
    let conf = s.home().join(".config/kitty/dusk.conf");
    fs::remove_file(&conf).unwrap();
    assert!(
        s.said(&["survey"], &[1])
            .contains("kitty.conf:2:1 the included file")
    );
    fs::create_dir(&conf).unwrap();
    assert!(s.said(&["survey"], &[1]).contains("it is a folder"));
    fs::remove_dir(&conf).unwrap();
    symlink("dusk.conf", &conf).unwrap();
    assert!(s.said(&["survey"], &[1]).contains("circle"));
    fs::remove_file(&conf).unwrap();
    symlink("nowhere", &conf).unwrap();
    assert!(s.said(&["survey"], &[1]).contains("leads nowhere"));
    fs::remove_file(&conf).unwrap();
    fs::File::create(&conf).unwrap().set_len(50 << 20).unwrap();
    assert!(s.said(&["survey"], &[1]).contains("50 MiB"));
    fs::remove_file(&conf).unwrap();
    s.write(
        ".config/kitty/dusk.conf",
        "include kitty.conf\ncolor1 #010101\n",
    );
    assert!(s.said(&["survey"], &[1]).contains("includes itself"));
    // Escape sequences in a file never reach the terminal.
    s.write(
        ".config/kitty/dusk.conf",
        "font_family \x1b]0;evil\x07\ncolor1 \x1b[31m\n",
    );
    for command in ["survey", "check", "plan"] {
        assert!(!s.said(&[command], &[0, 1]).contains('\x1b'), "{command}");
    }
}

#[test]
fn what_a_person_asks_for_is_what_is_written() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    let others = |s: &Scratch| {
        [".config/tmux/tmux.conf", ".bashrc", ".config/nvim/init.lua"].map(|f| s.read(f))
    };
    let before = others(&s);
    let said = s.said(&["set", "font.size", "14", "--apply", "--no-reload"], &[0]);
    assert!(
        said.contains("applied as number 1: 6 changes in 6 files"),
        "{said}"
    );
    assert!(said.contains("other changes wait"), "{said}");
    let kitty = s.read(".config/kitty/kitty.conf");
    let is_set = |l: &str| l.starts_with("font_size") && l.ends_with(" 14.0");
    assert!(kitty.lines().any(is_set), "{kitty}");
    assert!(
        s.read(".config/alacritty/alacritty.toml")
            .contains("size = 14")
    );
    let after = others(&s);
    assert_eq!((&after[0], &after[1]), (&before[0], &before[1]));
    // The family, which drifts there, is left.
    assert_eq!(after[2], before[2].replace(":h12", ":h14"));
    let said = s.said(&["set", "prompt.lines", "1", "--apply"], &[0]);
    assert!(said.contains("no dotfile has to change"), "{said}");
    s.said(&["set", "red", "#ff0000", "--no-reload"], &[2]);
}

#[test]
fn a_theme_and_a_prompt_are_replaced_only_where_that_is_chosen() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    let plan = |s: &Scratch| s.said(&["plan"], &[0, 1]);
    let ours = |said: &str| {
        (
            said.contains("colors/wealdmist.lua"),
            said.contains("prompt.bash"),
        )
    };
    assert_eq!(ours(&plan(&s)), (false, false));
    s.said(&["set", "tools.nvim.generate", "on"], &[0]);
    assert_eq!(ours(&plan(&s)), (true, false));
    // An exception keeps the person's, on this row as on any other.
    s.said(&["except", "theme", "nvim", "--reason", "mine"], &[0]);
    assert_eq!(ours(&plan(&s)), (false, false));
    s.said(&["except", "theme", "nvim", "--remove"], &[0]);
    assert_eq!(ours(&plan(&s)), (true, false));
    s.said(&["adopt", "theme", "nvim"], &[0]);
    assert_eq!(ours(&plan(&s)), (false, false));
    s.said(&["set", "tools.bash.generate", "true"], &[0]);
    assert_eq!(ours(&plan(&s)), (false, true));
    s.said(&["set", "prompt.lines", "1"], &[0]);
    s.said(&["set", "prompt.git", "off"], &[0]);
    let setup = s.read(".config/wealdmist/setup.toml");
    assert!(
        setup.contains("lines = 1") && setup.contains("git = false"),
        "{setup}"
    );
    let said = s.said(&["set", "tools.bash.generates", "true"], &[3]);
    assert!(said.contains("did you mean 'generate'"), "{said}");
    s.said(&["set", "tools.bash.manage", "perhaps"], &[3]);
    s.said(&["set", "prompt.lines", "9"], &[3]);
}

#[test]
fn a_setup_file_in_a_linked_folder_is_written_where_it_is() {
    let s = Scratch::demo();
    let real = s.home().join("dotfiles/wealdmist");
    fs::create_dir_all(&real).unwrap();
    symlink(&real, s.home().join(".config/wealdmist")).unwrap();
    s.said(&["init"], &[0]);
    s.said(&["set", "tools.bash.generate", "true"], &[0]);
    s.said(&["apply", "--no-reload"], &[0]);
    assert!(real.join("setup.toml").is_file() && real.join("prompt.bash").is_file());
    assert!(s.home().join(".config/wealdmist").is_symlink());
}

#[test]
fn a_setup_from_a_stranger_cannot_act_on_the_terminal() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    let setup = ".config/wealdmist/setup.toml";
    let evil = "\\u001b]0;title\\u0007\\u001b[2J\\u009b5m";
    let text = s
        .read(setup)
        .replace("\"Saltmarsh\"", &format!("\"{evil}\""));
    let text = text
        + &format!(
            "[[exceptions]]\ntool = \"tmux\"\nrole = \"border.active\"\nreason = \"{evil}\"\n"
        );
    s.write(setup, &text);
    let fine = |said: &str| !said.contains(['\u{1b}', '\u{7}', '\u{9b}']);
    for command in [
        &["survey", "--all"][..],
        &["check"],
        &["plan"],
        &["apply", "--no-reload"],
        &["history"],
        &["undo", "--no-reload"],
    ] {
        let codes = if command == ["history"] { &[0] } else { &[3] };
        let said = s.said(command, codes);
        assert!(fine(&said.replace("\u{1b}[", "")), "{command:?} {said:?}");
        let told = said.contains("holds the character U+001B") || command == ["history"];
        assert!(told, "{command:?} {said:?}");
    }
    // Also when it is broken and its lines are shown.
    s.write(setup, &format!("{text}\nx = \u{1b}[31m\n"));
    let said = s.said(&["survey"], &[3]);
    assert!(
        said.contains("setup.toml") && fine(&said.replace("\u{1b}[", "")),
        "{said:?}"
    );
    assert!(!said.contains("x = \u{1b}"), "{said:?}");
}

#[test]
fn palettes_go_out_and_come_back_in_every_format() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    for format in FORMATS.iter().map(|f| f.id) {
        let file = format!("out.{format}");
        let said = s.said(&["export", format, "-o", &file], &[0]);
        assert!(said.contains("wrote"), "{said}");
        let said = s.said(&["import", &file, "--name", format], &[0]);
        assert!(
            said.contains(&format!("has the palette '{format}' now")),
            "{said}"
        );
        let said = s.said(&["export", "console", "--palette", format], &[0]);
        let first = s.said(&["export", "console", "--palette", "dark"], &[0]);
        let colors = |t: &str| {
            t.lines()
                .filter(|l| l.contains("]P"))
                .map(str::to_owned)
                .collect::<Vec<_>>()
        };
        assert_eq!(colors(&said), colors(&first), "{format}");
    }
    let said = s.said(&["export", "console"], &[0]);
    assert!(
        said.contains("Linux console escapes has no foreground"),
        "{said}"
    );
    let said = s.said(&["export", "sculpture"], &[2]);
    assert!(said.contains("there are tokens"), "{said}");
    let said = s.said(&["palette", "list"], &[0]);
    assert!(
        said.contains("* dark") && said.lines().count() == FORMATS.len() + 1,
        "{said}"
    );
}

#[test]
fn a_palette_that_went_out_and_came_back_changes_no_dotfile() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["apply"], &[0]);
    let setup = s.read(".config/wealdmist/setup.toml");
    for format in FORMATS.iter().map(|f| f.id) {
        s.said(&["export", format, "-o", "away"], &[0]);
        s.said(
            &[
                "import", "away", "--format", format, "--name", "back", "--use",
            ],
            &[0],
        );
        assert_ne!(s.read(".config/wealdmist/setup.toml"), setup);
        let plan = s.said(&["plan"], &[0]);
        assert!(
            plan.ends_with("# 0 changes in 0 files\n"),
            "{format}: {plan}"
        );
        s.write(".config/wealdmist/setup.toml", &setup);
    }
}

#[test]
fn a_broken_palette_file_imports_nothing() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    let before = s.read(".config/wealdmist/setup.toml");
    s.write("broken.conf", "foreground #dddddd\nbackground #12345\n");
    let said = s.said(&["import", "broken.conf"], &[3]);
    assert!(
        said.contains("broken.conf:2: '#12345' is not a color for background"),
        "{said}"
    );
    for (arguments, wanted) in [
        (
            vec!["import", "nosuch.conf"],
            "nosuch.conf: there is no such file",
        ),
        (vec!["import", "."], "not a regular file"),
        (vec!["import"], "--terminal"),
        (vec!["import", "--terminal"], "terminal"),
        (vec!["palette", "use", "noon"], "there are dark"),
        (vec!["palette", "image", "broken.conf"], "PNG, JPEG or WebP"),
        (vec!["palette", "seeds", "mud"], "'mud' is not a color"),
        (vec!["repair", "nosuch"], "no color or role 'nosuch'"),
        (
            vec!["contrast", "--wallpaper", "broken.conf"],
            "cannot be read",
        ),
        (vec!["draw", "statue", "-o", "x.svg"], "there are palette"),
        (vec!["draw", "palette", "-o", "x.gif"], ".svg, .pdf or .png"),
        (vec!["appearance", "light"], "has no light palette"),
    ] {
        // What no command takes is wrong usage; what could not be done is not.
        let usage = [
            "there are tokens",
            "--terminal",
            "'mud'",
            "there are palette",
            ".svg, .pdf",
        ];
        let code = if usage.iter().any(|u| wanted.starts_with(u)) {
            2
        } else {
            3
        };
        let said = s.said(&arguments, &[code]);
        assert!(said.contains(wanted), "{arguments:?}: {said}");
    }
    for wrong in ["2", "nan", "-0.1", "x", "inf"] {
        let said = s.said(&["contrast", &format!("--opacity={wrong}")], &[2]);
        assert!(said.contains("--opacity"), "{said}");
        s.said(&["contrast", &format!("--dimmed={wrong}")], &[2]);
    }
    s.said(&["verify", "nope"], &[2]);
    s.said(&["reload", "nope"], &[2]);
    assert_eq!(s.read(".config/wealdmist/setup.toml"), before);
}

#[test]
fn of_several_schemes_in_a_file_one_is_picked() {
    let s = Scratch::new();
    s.write("both.css", ":root { --background: #f0f0f0; --foreground: #101010; }\n@media (prefers-color-scheme: dark) { :root { --background: #101010; --foreground: #e0e0e0; } }\n");
    s.said(&["init"], &[0]);
    let file = s.home().join("both.css");
    let file = file.to_str().unwrap();
    let listed = s.said(&["import", file, "--list"], &[0]);
    assert_eq!(listed, "of the whole: 2 slots\ndark: 2 slots\n");
    let before = s.read(".config/wealdmist/setup.toml");
    s.said(&["import", file], &[3]);
    s.said(&["import", file, "--scheme", "dusk"], &[3]);
    assert_eq!(
        s.read(".config/wealdmist/setup.toml"),
        before,
        "nothing is guessed"
    );
    let said = s.said(
        &["import", file, "--scheme", "dark", "--name", "night"],
        &[0],
    );
    assert!(said.contains("background      #101010"), "{said}");
    let setup = s.read(".config/wealdmist/setup.toml");
    assert!(setup.contains("[palettes.night]"), "{setup}");
}

#[test]
fn what_lets_something_through_is_measured_as_it_is_seen() {
    let s = Scratch::new();
    s.write(
        ".config/kitty/kitty.conf",
        "background #101820\nforeground #d0d0d0\n",
    );
    s.said(&["init"], &[0]);
    // Half of white on black is a gray, and half of black over the terminal's own ground is that, darker.
    let said = s.said(&["contrast", "#FFF8", "#000"], &[0]);
    assert!(said.contains("seen as #888888 on #000000"), "{said}");
    assert!(said.contains(" 5.92:1"), "{said}");
    let said = s.said(&["contrast", "#fff", "rgb(0 0 0 / 50%)"], &[0]);
    assert!(
        said.contains("on #080c10") && said.contains("50% of the ground's color"),
        "{said}"
    );
    // An opacity reaches only the terminal's own ground, and says where it does not.
    let said = s.said(&["contrast", "#fff", "#203040", "--opacity", "0.5"], &[0]);
    assert!(
        said.contains("opacity does not reach it") && !said.contains("50% opaque"),
        "{said}"
    );
    let said = s.said(
        &["contrast", "#fff", "background", "--opacity", "0.5"],
        &[0, 1],
    );
    assert!(said.contains("50% opaque over any wallpaper"), "{said}");
}

#[test]
fn a_pair_of_roles_is_rounded_as_the_tool_does_that_draws_it() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    let said = s.said(&["contrast", "--json", "--depth", "256"], &[1]);
    let json: serde_json::Value = serde_json::from_str(&said).unwrap();
    let mut pairs = json["pairs"].as_array().unwrap().iter();
    let pair = pairs.find(|p| p["what"] == "status-right").unwrap();
    let named = |of: &serde_json::Value, key: &str| of[key].as_str().unwrap().to_owned();
    let (text, ground) = (named(pair, "text"), named(pair, "ground"));
    let draft = &pair["draft"];
    let seen = format!(
        "seen as {} on {}",
        named(draft, "text"),
        named(draft, "ground")
    );
    let roles = s.said(&["contrast", &text, &ground, "--depth", "256"], &[0, 1]);
    assert!(roles.contains(&seen), "{seen}: {roles}");
    // The same colors that no tool is said to draw are rounded otherwise.
    let colors: Vec<&str> = roles
        .split([' ', ':'])
        .filter(|w| w.starts_with('#'))
        .collect();
    let plain = s.said(
        &["contrast", colors[0], colors[1], "--depth", "256"],
        &[0, 1],
    );
    assert!(
        plain.contains(colors[0]) && !plain.contains(&seen),
        "{plain}"
    );
}

#[test]
fn repair_and_conditions_from_the_command_line() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    let said = s.said(
        &[
            "contrast",
            "--opacity",
            "0.7",
            "--vision",
            "deutan",
            "--severity",
            "60",
        ],
        &[1],
    );
    assert!(
        said.contains("seen: 70% opaque over any wallpaper, deuteranomaly 60%"),
        "{said}"
    );
    let json: serde_json::Value =
        serde_json::from_str(&s.said(&["contrast", "--json", "--vision", "deutan"], &[1])).unwrap();
    let told = json["meanings"].as_array().unwrap();
    assert!(
        told.iter()
            .any(|m| m["what"] == "error and success" && m["told_apart"] == false)
    );
    let one: serde_json::Value = serde_json::from_str(&s.said(
        &[
            "contrast",
            "--json",
            "oklch(0.9 0 0)",
            "background",
            "--dimmed",
            "0.5",
        ],
        &[0, 1],
    ))
    .unwrap();
    assert_eq!(one["conditions"], "dimmed to 50%");
    let before = s.read(".config/wealdmist/setup.toml");
    let said = s.said(&["repair", "--dry-run"], &[0]);
    assert!(
        said.contains("pairs are below their target (as it is), 0 after"),
        "{said}"
    );
    let moved = |said: &str| -> Vec<String> {
        let of = |line: &str| {
            Some(
                line.split_once(" -> ")?
                    .0
                    .split_whitespace()
                    .next()?
                    .to_owned(),
            )
        };
        said.lines().filter_map(of).collect()
    };
    for held in moved(&said) {
        let said = s.said(&["repair", "--dry-run", "--hold", &held], &[0, 1]);
        assert!(!moved(&said).contains(&held), "{said}");
    }
    let output = s.run(&["repair", "--hold", "brackish"]);
    let told = String::from_utf8_lossy(&output.stderr);
    assert!(
        told.contains("there is no color or role 'brackish'"),
        "{told}"
    );
    assert_eq!(s.read(".config/wealdmist/setup.toml"), before);
    s.said(&["repair"], &[0]);
    s.said(&["contrast"], &[0]);
    let said = s.said(&["repair"], &[0]);
    assert!(said.starts_with("0 of "), "{said}");
    let alone = Scratch::demo();
    alone.said(&["init"], &[0]);
    let said = alone.said(&["repair", "comment"], &[0, 1]);
    assert_eq!(
        said.lines().filter(|l| l.contains(" -> ")).count(),
        1,
        "{said}"
    );
}

#[test]
fn the_other_side_is_one_command() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["palette", "counterpart", "--name", "morning"], &[0]);
    let said = s.said(&["appearance"], &[0]);
    assert!(said.contains("the light side, morning"), "{said}");
    let kitty = s.read(".config/kitty/dusk.conf");
    assert!(
        !kitty.contains("background #0d191c") && !kitty.contains("background  #0d191c"),
        "{kitty}"
    );
    s.said(&["appearance", "dark"], &[0]);
    assert!(s.read(".config/kitty/dusk.conf").contains("#0d191c"));
}

#[test]
fn drawings_have_text_that_can_be_selected() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    for kind in ["palette", "ruler", "pairs", "opacity", "vision", "specimen"] {
        for ending in ["svg", "pdf", "png"] {
            let file = format!("{kind}.{ending}");
            s.said(&["draw", kind, "-o", &file], &[0]);
            let bytes = fs::read(s.home().join(&file)).unwrap();
            let head: &[u8] = match ending {
                "svg" => b"<svg",
                "pdf" => b"%PDF",
                _ => b"\x89PNG",
            };
            assert!(bytes.starts_with(head), "{file}");
        }
    }
    if have(&["pdftotext"]) {
        let output = s
            .command("pdftotext")
            .args(["-layout", "palette.pdf", "-"])
            .output()
            .unwrap();
        let text = String::from_utf8_lossy(&output.stdout).into_owned();
        assert!(
            text.contains("bright-magenta") && text.contains("#e7736e"),
            "{text}"
        );
    }
}

#[test]
fn the_readme_has_a_row_for_every_tool() {
    let readme = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md"));
    let readme = readme.unwrap().to_lowercase();
    let rows: Vec<&str> = readme.lines().filter(|l| l.starts_with("| ")).collect();
    for adapter in wealdmist_tools::adapters() {
        let name = match adapter.id().0 {
            "nvim" => "neovim",
            name => name,
        };
        let start = format!("| {name} |");
        assert!(
            rows.iter().any(|r| r.starts_with(&start)),
            "{name} has no row"
        );
    }
}

/// What the commands say of the sample home, line by line. `WEALDMIST_WRITE=1` writes it anew, when
/// what is said is meant to change.
#[test]
fn what_is_said_of_the_sample_home_changes_only_where_meant() {
    let s = Scratch::demo();
    let home = s.home().canonicalize().unwrap().display().to_string();
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/said");
    for (name, arguments, code) in [
        ("survey", &["survey", "--all"][..], 1),
        ("plan", &["plan"], 1),
        ("contrast", &["contrast"], 1),
    ] {
        let said = s.said(arguments, &[0, code]).replace(&home, "~");
        let path = folder.join(format!("{name}.txt"));
        if std::env::var_os("WEALDMIST_WRITE").is_some() {
            std::fs::create_dir_all(&folder).unwrap();
            std::fs::write(&path, &said).unwrap();
        }
        let wanted = std::fs::read_to_string(&path).unwrap();
        for (i, (said, wanted)) in said.lines().zip(wanted.lines()).enumerate() {
            assert_eq!(said, wanted, "{name}, line {}", i + 1);
        }
        assert_eq!(said.lines().count(), wanted.lines().count(), "{name}");
    }
}

#[test]
fn the_log_says_what_was_done_and_nothing_of_what_files_hold() {
    let s = Scratch::demo();
    let secret = "hunter-of-herons";
    s.write(".bashrc", &format!("export TOKEN={secret}\n"));
    let path = s.tmp().join("log");
    let log = path.to_str().unwrap();
    s.said(&["apply", "--log", log, "--log-level", "trace"], &[0]);
    let mode = std::os::unix::fs::PermissionsExt::mode(&path.metadata().unwrap().permissions());
    assert_eq!(mode & 0o777, 0o600);
    let said = std::fs::read_to_string(&path).unwrap();
    for what in [
        "INFO wealdmist::log: started",
        ".config/kitty/kitty.conf\" bytes=",
        "tool=\"tmux\" files=2",
        "planned files=",
        "written id=1",
        "answer=\"not running\"",
    ] {
        assert!(said.contains(what), "{what} is not in\n{said}");
    }
    for held in [secret, "#d7d6cc", "TOKEN"] {
        assert!(!said.contains(held), "{held} is in\n{said}");
    }
    // The same by the environment; what is there stays. What ends a command stands at its end.
    let mut undo = s.command(env!("CARGO_BIN_EXE_wealdmist"));
    undo.args(["undo", "77"]).env("WEALDMIST_LOG", log);
    assert_eq!(undo.output().unwrap().status.code(), Some(3));
    let more = std::fs::read_to_string(&path).unwrap();
    assert!(more.starts_with(&said));
    let last = more.lines().last().unwrap();
    assert!(last.contains("ERROR") && last.contains("77"), "{last}");
    // Where it cannot be written, nothing is done.
    let wrong = s.said(&["apply", "--log", "/no/such/log"], &[3]);
    assert!(wrong.contains("/no/such/log cannot be written"), "{wrong}");
}

#[test]
fn what_lies_outside_the_home_is_marked() {
    let s = Scratch::new();
    let outside = s.tmp().join("shared.conf");
    std::fs::write(&outside, "foreground #112233\n").unwrap();
    s.write(
        ".config/kitty/kitty.conf",
        &format!("include {}\nbackground #000000\n", outside.display()),
    );
    let survey = s.said(&["survey"], &[0, 1]);
    let marked: Vec<&str> = survey
        .lines()
        .filter(|l| l.contains("outside this home"))
        .collect();
    assert_eq!(marked.len(), 1, "{survey}");
    assert!(marked[0].contains("shared.conf"), "{survey}");
    let json: serde_json::Value =
        serde_json::from_str(&s.said(&["survey", "--json"], &[0, 1])).unwrap();
    let files = json["tools"][0]["files"].as_array().unwrap();
    let is_outside: Vec<_> = files
        .iter()
        .map(|f| f["outside"].as_bool().unwrap())
        .collect();
    assert_eq!(is_outside, [false, true]);
    // Its value is wanted otherwise: it is left, and told, until the file is allowed.
    s.said(&["set", "foreground", "#445566"], &[0]);
    assert!(s.said(&["plan"], &[0, 1]).contains("left as it is"));
    s.said(&["allow", &outside.display().to_string()], &[0]);
    assert!(!s.said(&["survey"], &[0, 1]).contains("outside this home"));
    s.said(&["apply", "--no-reload"], &[0]);
    assert_eq!(
        std::fs::read_to_string(&outside).unwrap(),
        "foreground #445566\n"
    );
}
