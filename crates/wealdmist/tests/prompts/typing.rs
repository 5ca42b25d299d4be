//! What is typed at a generated prompt, and what it does meanwhile: slow commands, slow gits, modes, prompts that
//! are past. Nothing is left of what was drawn before, and nothing is shifted.

use super::cases::here;
use super::cells::{as_text, compared, drawn};
use super::common::{self, Scratch, have};
use super::shell::Shell;
use super::*;

/// A shell with a design, and how it is asked to show it at the top of its screen.
fn with_design(scratch: &Scratch, shell: usize, design: &str) -> Shell {
    let (name, arguments) = SHELLS[shell];
    let doc = setup(design, SymbolLevel::Plain);
    let load = install(scratch, name, doc.setup());
    let mut terminal = started(scratch, name, arguments, Depth::TrueColor, 60);
    terminal.types(&format!("{load}\n"));
    terminal
}

/// Waits for a row that is as wanted.
pub fn first_row(terminal: &Shell, what: &str, wanted: impl Fn(&str) -> bool) {
    let outcome = terminal.shows(|s| if wanted(&row(s, 0)) { Ok(()) } else { Err(()) });
    assert!(outcome.is_ok(), "{what}\n{}", terminal.text());
}

const CLEAR: &str = "printf '\\e[H\\e[2J'";

#[test]
fn a_slow_command_is_told_once() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name]) {
            continue;
        }
        let scratch = Scratch::new();
        let design =
            "[[prompt.line]]\nleft=['duration','input']\n[prompt.parts.duration]\nabove=1\n";
        let mut terminal = with_design(&scratch, n, design);
        terminal.types(&format!("sleep 1.2; {CLEAR}\n"));
        first_row(&terminal, name, |row| {
            let told = row.strip_suffix(" #").or(row.strip_suffix(" $"));
            let seconds = told
                .and_then(|t| t.strip_suffix('s'))
                .and_then(|t| t.parse().ok());
            seconds.is_some_and(|s: f64| (1.2..9.0).contains(&s))
        });
        terminal.types(&format!("{CLEAR}\n"));
        first_row(&terminal, name, |row| row == "#" || row == "$");
    }
}

#[test]
fn a_git_that_hangs_is_left() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name, "git"]) {
            continue;
        }
        for style in ["one", "lines"] {
            let scratch = Scratch::new();
            let make = "git init -q -b main stuck && rm -f stuck/.git/info/exclude && mkfifo stuck/.git/info/exclude";
            let made = scratch.command("sh").args(["-c", make]).status().unwrap();
            assert!(made.success());
            let design = format!(
                "[[prompt.line]]\nleft=['branch','changes','input']\n[prompt.parts.changes]\nas='{style}'\n"
            );
            let mut terminal = with_design(&scratch, n, &design);
            terminal.types(&format!("cd ~/stuck; {CLEAR}\n"));
            first_row(&terminal, name, |row| row.starts_with("↳ main ?"));
            let stuck = scratch.home().join("stuck");
            common::wait_for("git to be gone", || {
                scratch.no_git_asks(&stuck).then_some(())
            });
        }
    }
}

/// Puts a git before the real one that takes its time.
fn slow_git(scratch: &Scratch) {
    use std::os::unix::fs::PermissionsExt;
    let real = scratch
        .command("sh")
        .args(["-c", "command -v git"])
        .output();
    let real = String::from_utf8(real.unwrap().stdout).unwrap();
    let slow = scratch.home().join("bin/git");
    scratch.write(
        "bin/git",
        &format!("#!/bin/sh\nsleep 0.9\nexec {} \"$@\"\n", real.trim()),
    );
    std::fs::set_permissions(&slow, std::fs::Permissions::from_mode(0o755)).unwrap();
}

#[test]
fn a_git_that_takes_long_is_asked_beside_the_prompt() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name, "git"]) {
            continue;
        }
        for (style, told) in [("one", "±"), ("counts", "◦1"), ("lines", "+2 ◦1")] {
            let scratch = Scratch::new();
            let make = match style {
                "lines" => {
                    "git init -q -b main slow && cd slow && git -c user.name=w -c user.email=w@x.invalid commit -qm one --allow-empty && printf '1\n2\n' > a && git add a && touch new"
                }
                _ => "git init -q -b main slow && touch slow/new",
            };
            let made = scratch.command("sh").args(["-c", make]).status().unwrap();
            assert!(made.success());
            slow_git(&scratch);
            let design = format!(
                "[[prompt.line]]\nleft=['branch','changes','input']\n[prompt.parts.changes]\nas='{style}'\n"
            );
            let mut terminal = with_design(&scratch, n, &design);
            let path = match *name {
                "fish" => "set -gx PATH ~/bin $PATH",
                _ => "PATH=~/bin:$PATH",
            };
            terminal.types(&format!("{path}; cd ~/slow\n"));
            terminal.types(&format!("{CLEAR}\n"));
            // Had the prompt waited, it would know.
            first_row(&terminal, name, |row| row.starts_with("↳ main ?"));
            let now = format!("↳ main {told} ");
            if *name == "bash" {
                // It has no way to be told: the next prompt says it, with the sign that this was before.
                let before = format!("↳ main {told}? ");
                common::wait_for("what was before", || {
                    terminal.types(&format!("{CLEAR}\n"));
                    std::thread::sleep(std::time::Duration::from_millis(700));
                    row_is(&terminal, &before).then_some(())
                });
            } else {
                first_row(&terminal, name, |row| row.starts_with(&now));
                // What one types meanwhile stays.
                terminal.types("echo tide");
                first_row(&terminal, name, |row| row.ends_with("echo tide"));
                terminal.types("\x15");
            }
            // Once it is quick again the prompt says what is now.
            std::fs::remove_file(scratch.home().join("bin/git")).unwrap();
            common::wait_for("what is now", || {
                terminal.types(&format!("{CLEAR}\n"));
                std::thread::sleep(std::time::Duration::from_millis(300));
                row_is(&terminal, &now).then_some(())
            });
        }
    }
}

/// Whether the first row begins so.
fn row_is(terminal: &Shell, wanted: &str) -> bool {
    terminal.text().starts_with(wanted)
}

#[test]
fn what_was_last_run_beside_the_shell_stays_known() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name, "git"]) {
            continue;
        }
        let scratch = Scratch::new();
        let made = scratch
            .command("git")
            .args(["init", "-q", "-b", "main", "some"])
            .status();
        assert!(made.unwrap().success());
        let mut terminal = with_design(
            &scratch,
            n,
            "past='sign'\n[[prompt.line]]\nleft=['branch','changes','duration','jobs','input']\n",
        );
        let last = if *name == "fish" { "$last_pid" } else { "$!" };
        terminal.types("cd ~/some\n");
        terminal.types("sleep 97 &\n");
        terminal.types(&format!("{CLEAR}; true\n"));
        first_row(&terminal, name, |row| row.contains("main"));
        let note = if *name == "fish" { "set l " } else { "l=" };
        terminal.types(&format!("{note}{last}\n"));
        terminal.types(&format!("{CLEAR}; cat /proc/$l/cmdline | tr '\\0' ' '\n"));
        first_row(&terminal, name, |row| row.starts_with("sleep 97"));
        terminal.types("kill $l\n");
    }
}

#[test]
fn a_version_is_asked_once_and_kept() {
    use std::os::unix::fs::PermissionsExt;
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name]) {
            continue;
        }
        let scratch = Scratch::new();
        let program = scratch.home().join("gauge");
        let says = |version: &str| {
            let text = format!(
                "#!/bin/sh\necho x >> {}\necho gauge {version} of 2031\n",
                scratch.home().join("asked").display()
            );
            std::fs::write(&program, text).unwrap();
            std::fs::set_permissions(&program, std::fs::Permissions::from_mode(0o755)).unwrap();
        };
        says("3.2.1");
        scratch.write("tide.toml", "");
        let design = "[[prompt.line]]\nleft=['tide','input']\n[prompt.parts.tide]\nkind='rust'\nsign=''\nversion=true\nfiles=['tide.toml']\nasks=['gauge','--version']\n";
        let mut terminal = with_design(&scratch, n, design);
        let more = match *name {
            "fish" => "set -gx PATH ~ $PATH",
            _ => "PATH=~:$PATH",
        };
        terminal.types(&format!("{more}\n"));
        let shown = |terminal: &mut Shell, version: &str| {
            common::wait_for("the version", || {
                terminal.types(&format!("{CLEAR}\n"));
                std::thread::sleep(std::time::Duration::from_millis(50));
                terminal
                    .text()
                    .starts_with(&format!("tide {version} "))
                    .then_some(())
            });
        };
        shown(&mut terminal, "3.2.1");
        terminal.types(&format!("{CLEAR}\n"));
        first_row(&terminal, name, |row| row.starts_with("tide 3.2.1 "));
        assert_eq!(scratch.read("asked"), "x\n", "{name} asked more than once");
        // Another program of that name is asked anew.
        common::wait_for("the clock to go on", || {
            says("4.0.0");
            // Some shells know whole seconds alone.
            let second = |p: &str| {
                let changed = std::fs::metadata(scratch.home().join(p)).and_then(|m| m.modified());
                let since = changed.unwrap().duration_since(std::time::UNIX_EPOCH);
                since.unwrap().as_secs()
            };
            (second("gauge") > second(".cache/wealdmist/versions/gauge")).then_some(())
        });
        shown(&mut terminal, "4.0.0");
    }
}

#[test]
fn further_lines_begin_as_core_says() {
    // fish has no prompt for them: it indents.
    for (n, (name, _)) in SHELLS.iter().enumerate().take(2) {
        if !have(&[name]) {
            continue;
        }
        for more in ["", "more=\"%'$(x)\\\\\"\n"] {
            let scratch = Scratch::new();
            let design = format!("{more}[[prompt.line]]\nleft=['input']\n");
            let doc = setup(&design, SymbolLevel::Plain);
            let mut terminal = with_design(&scratch, n, &design);
            terminal.types(&format!("{CLEAR}\n"));
            first_row(&terminal, name, |row| row == "#" || row == "$");
            terminal.types("echo \"tide\r");
            let row = prompt::going_on(&doc.setup().prompt_at(SymbolLevel::Plain));
            let look = Look::new(doc.setup());
            let (wanted, _) = drawn(&[row], &look, Depth::TrueColor, 60);
            let outcome = terminal.shows(|screen| cells::row_begins(screen, 1, &wanted[0]));
            assert!(outcome.is_ok(), "{name}: {outcome:?}\n{}", terminal.text());
            terminal.types("ebb\"\r");
            let done = terminal.shows(|s| match s.contents().contains("\ntide\nebb") {
                true => Ok(()),
                false => Err(s.contents()),
            });
            assert!(done.is_ok(), "{name}: {done:?}");
        }
    }
}

#[test]
fn the_mode_of_the_line_editor_is_shown() {
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name]) {
            continue;
        }
        let scratch = Scratch::new();
        let mut terminal = with_design(&scratch, n, "[[prompt.line]]\nleft=['mode','input']\n");
        let keys = match *name {
            "fish" => "fish_vi_key_bindings",
            "zsh" => "bindkey -v",
            _ => "set -o vi",
        };
        terminal.types(&format!("{CLEAR}\n"));
        first_row(&terminal, name, |row| row == "#" || row == "$");
        terminal.types(&format!("{keys}; {CLEAR}\n"));
        first_row(&terminal, name, |row| row.starts_with("ins "));
        terminal.types("\x1b");
        first_row(&terminal, name, |row| row.starts_with("cmd "));
        terminal.types("i");
        first_row(&terminal, name, |row| row.starts_with("ins "));
    }
}

#[test]
fn where_one_types_is_drawn_otherwise_in_command_mode() {
    let design = "[[prompt.line]]\nleft=['folder','input']\n[prompt.parts.input]\nsign='>'\nsign-root='>'\nsign-command='<'\ntext='green'\ntext-command='yellow'\n[prompt.parts.folder]\ntext-command='cyan'\n";
    for (n, (name, _)) in SHELLS.iter().enumerate() {
        if !have(&[name]) {
            continue;
        }
        let scratch = Scratch::new();
        let mut terminal = with_design(&scratch, n, design);
        let keys = match *name {
            "fish" => "fish_vi_key_bindings",
            "zsh" => "bindkey -v",
            _ => "set -o vi",
        };
        let doc = setup(design, SymbolLevel::Plain);
        let (look, design) = (
            Look::new(doc.setup()),
            doc.setup().prompt_at(SymbolLevel::Plain),
        );
        let sees = |terminal: &Shell, mode: Mode| {
            let at = Situation { mode, ..here() };
            let rows = prompt::draw(&design, true, &at);
            let (wanted, cursor) = drawn(&rows, &look, Depth::TrueColor, 80);
            let outcome = terminal.shows(|screen| compared(screen, &wanted, cursor));
            assert!(
                outcome.is_ok(),
                "{name}, {mode:?}: {outcome:?}\n{}",
                terminal.text()
            );
        };
        terminal.types(&format!("{keys}; {CLEAR}\n"));
        sees(&terminal, Mode::Insert);
        terminal.types("\x1b");
        // What this shell's editor does not tell stays as it is.
        let command = match *name {
            "bash" => Mode::Insert,
            _ => Mode::Command,
        };
        sees(&terminal, command);
        terminal.types("i");
        sees(&terminal, Mode::Insert);
    }
}

#[test]
fn past_prompts_shrink_whatever_was_typed() {
    let (columns, name) = (60, SHELLS[0].0);
    if !have(&[name]) {
        return;
    }
    let scratch = Scratch::new();
    let design = "past='sign'\n[[prompt.line]]\nleft=['folder']\nright=['host']\n[[prompt.line]]\nleft=['shell','status','input']\nright=['text']\n[prompt.parts.host]\nwhen='always'\n[prompt.parts.shell]\nkind='text'\nsays='tide'\n[prompt.parts.text]\nsays='right'\n";
    let mut terminal = with_design(&scratch, 0, design);
    let sign = match scratch
        .command("id")
        .arg("-u")
        .output()
        .unwrap()
        .stdout
        .as_slice()
    {
        b"0\n" => "#",
        _ => "$",
    };
    let wraps = |text: &str| -> Vec<String> {
        let all: Vec<char> = text.chars().collect();
        let rows = all.chunks(columns).map(|row| row.iter().collect());
        rows.map(|row: String| row.trim_end().to_owned()).collect()
    };
    // What is typed, what the screen shows of it and of what it says, and the status that the next prompt tells.
    let xs = |n: usize| "x".repeat(n);
    let mut cases: Vec<(String, Vec<String>, &str)> = Vec::new();
    // The edge of the window is met, by the command and by the line as it was typed behind the whole prompt.
    for n in (36..58).chain([100, 108, 109, 110, 111, 112, 113, 114, 115]) {
        let rows = [wraps(&format!("{sign} : {}", xs(n))), vec![]].concat();
        cases.push((format!(": {}", xs(n)), rows, ""));
    }
    cases.push(("false".into(), vec![format!("{sign} false")], "✗ 1 "));
    cases.push((
        "echo 漢字".into(),
        vec![format!("{sign} echo 漢字"), "漢字".into()],
        "",
    ));
    // A command pasted in several lines, one that goes on by itself, and a search in what was.
    let pasted = "\x1b[200~for n in a b; do\necho $n\ndone\x1b[201~";
    let shown = ["for n in a b; do", "echo $n", "done", "a", "b"];
    let mut rows: Vec<String> = shown.map(str::to_owned).into();
    rows[0] = format!("{sign} {}", rows[0]);
    cases.push((pasted.into(), rows, ""));
    let document = vec![
        format!("{sign} cat <<E"),
        "… ebb".into(),
        "… E".into(),
        "ebb".into(),
    ];
    cases.push(("cat <<E\rebb\rE".into(), document, ""));
    cases.push((
        "\x12漢".into(),
        vec![format!("{sign} echo 漢字"), "漢字".into()],
        "",
    ));
    for (typed, rows, told) in cases {
        terminal.types(&format!("{CLEAR}\r"));
        let at_top = |s: &vt100::Screen| row(s, 0).starts_with('~') && row(s, 1).ends_with("right");
        let outcome = terminal.shows(|s| if at_top(s) { Ok(()) } else { Err(()) });
        assert!(outcome.is_ok(), "before {typed:?}\n{}", terminal.text());
        terminal.types(&format!("{typed}\r"));
        let next = format!("tide {told}{sign}");
        let outcome = terminal.shows(|s| {
            let n = rows.len() as u16;
            let drawn: Vec<String> = (0..n).map(|i| row(s, i)).collect();
            let whole = row(s, n).starts_with('~') && row(s, n + 1).starts_with(&next);
            if drawn == rows && whole {
                Ok(())
            } else {
                Err(())
            }
        });
        assert!(
            outcome.is_ok(),
            "{typed:?}: not\n{}\nbut\n{}",
            rows.join("\n"),
            terminal.text()
        );
    }
    // Noting what is typed leaves the status as it was.
    terminal.types(&format!("{CLEAR}; false\r"));
    let told = |text: &'static str| {
        move |s: &vt100::Screen| {
            if s.contents().contains(text) {
                Ok(())
            } else {
                Err(s.contents())
            }
        }
    };
    assert_eq!(terminal.shows(told("tide ✗ 1")), Ok(()));
    terminal.types("echo is $?\r");
    assert_eq!(terminal.shows(told("\nis 1\n")), Ok(()));
    // What the shell itself says more of, and what is given up, stays as it is.
    for (typed, ends, says) in [
        ("echo !$", "\r", "\necho 漢字\n漢字\n~"),
        ("echo x", "\x03", "tide ✗ 130"),
    ] {
        terminal.types(&format!("{CLEAR}; : 漢字\r"));
        let at_top = |s: &vt100::Screen| {
            let is_empty = row(s, 2).is_empty() && row(s, 1).ends_with("right");
            if is_empty { Ok(()) } else { Err(()) }
        };
        assert_eq!(terminal.shows(at_top), Ok(()), "{}", terminal.text());
        terminal.types(typed);
        assert_eq!(terminal.shows(told(typed)), Ok(()));
        terminal.types(ends);
        assert_eq!(terminal.shows(told(says)), Ok(()));
        assert!(terminal.text().starts_with('~'), "{}", terminal.text());
    }
}

#[test]
fn what_is_typed_leaves_nothing_behind() {
    for (n, (name, arguments)) in SHELLS.iter().enumerate() {
        if !have(&[name]) {
            continue;
        }
        for ready in ready::ALL {
            let scratch = Scratch::new();
            let doc = setup(ready.toml, SymbolLevel::Plain);
            let load = install(&scratch, name, doc.setup());
            let mut terminal = started(&scratch, name, arguments, Depth::TrueColor, 50);
            terminal.types(&format!("{load}\n"));
            let what = |step: &str| format!("{name}, {}: {step}", ready.name);
            let (look, design) = (
                Look::new(doc.setup()),
                doc.setup().prompt_at(SymbolLevel::Plain),
            );
            let whole = |terminal: &Shell, width: usize, step: &str| {
                let looks = |screen: &vt100::Screen, right: bool| {
                    let mut at = now(&here(), &scratch, width);
                    if *name == "fish" {
                        at.user = user(&scratch);
                    }
                    let mut rows = prompt::draw(&design, true, &at);
                    if !right && let Some(last) = rows.last_mut() {
                        last.right.clear();
                    }
                    let (wanted, cursor) = drawn(&rows, &look, Depth::TrueColor, width);
                    compared(screen, &wanted, cursor)
                        .map_err(|e| format!("{e}\nwanted\n{}", as_text(&wanted)))
                };
                // What stands at the right edge of the line one types in is gone in one shell once it is typed over.
                let outcome = terminal.shows(|screen| {
                    looks(screen, true).or_else(|e| match n {
                        0 => looks(screen, false),
                        _ => Err(e),
                    })
                });
                assert!(
                    outcome.is_ok(),
                    "{}: {outcome:?}\nthere is\n{}",
                    what(step),
                    terminal.text()
                );
            };
            // What stands behind the prompt, over the edge of the window.
            let typed = |terminal: &Shell, text: &str, step: &str| {
                let outcome = terminal.shows(|screen| {
                    let shown: String = screen.contents().split('\n').collect();
                    let plain: String = screen.rows(0, 50).collect();
                    match shown.contains(text) || plain.contains(text) {
                        true => Ok(()),
                        false => Err(()),
                    }
                });
                assert!(outcome.is_ok(), "{}\n{}", what(step), terminal.text());
            };
            terminal.types(&format!(": tide; {CLEAR}\n"));
            whole(&terminal, 50, "at first");
            let long = "x".repeat(130);
            terminal.types(&long);
            typed(&terminal, &long, "over the edge");
            terminal.types("\x01y");
            typed(&terminal, &format!("y{long}"), "at the line's begin");
            terminal.types("\x05\x15");
            whole(&terminal, 50, "after it was taken back");
            // A search in what was typed, given up.
            terminal.types("\x12tid");
            typed(&terminal, ": tide", "a search");
            terminal.types(if *name == "fish" { "\x1b" } else { "\x07" });
            std::thread::sleep(std::time::Duration::from_millis(60));
            terminal.types("\x15");
            whole(&terminal, 50, "after a search");
            // A command in several lines, given up, and one that is interrupted.
            terminal.types("for n in a b\r");
            if *name != "fish" {
                typed(&terminal, "…", "a line that goes on");
            }
            std::thread::sleep(std::time::Duration::from_millis(100));
            terminal.types("\x03");
            std::thread::sleep(std::time::Duration::from_millis(100));
            terminal.types(&format!(":; {CLEAR}\r"));
            whole(&terminal, 50, "after lines that were given up");
            for columns in [70, 33, 50] {
                terminal.resize(columns);
                terminal.types(&format!(":; {CLEAR}\r"));
                whole(&terminal, usize::from(columns), "in another width");
            }
        }
    }
}

/// Who a shell belongs to, whatever the variable says.
fn user(scratch: &Scratch) -> String {
    let said = scratch.command("id").arg("-un").output().unwrap().stdout;
    String::from_utf8(said).unwrap().trim().to_owned()
}
