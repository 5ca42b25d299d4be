//! The prompt program starship itself, drawing prompts under files made by chance.

use std::collections::BTreeSet;
use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::process::Command;

use wealdmist_core::character::SymbolLevel;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, Kind, Part, Style, When, draw, ready};
use wealdmist_core::reading::{Paint, ToolId, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::SetupDoc;
use wealdmist_host::Home;
use wealdmist_tools::{Facts, adapter};

use crate::chance;
use crate::common::{Scratch, have_starship};
use crate::dice::{Dice, judge, run};

/// The modules that the situations draw.
const MODULES: [&str; 12] = [
    "directory",
    "username",
    "git_branch",
    "git_status",
    "cmd_duration",
    "jobs",
    "status",
    "time",
    "character",
    "env_var.GAUGE",
    "custom.tide",
    "shlvl",
];

fn color(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    match dice.below(16) {
        0 => dice
            .pick(&["red", "BLUE", "bright-cyan", "purple", "bright-black"])
            .to_owned(),
        1 => dice.below(256).to_string(),
        2 | 3 => dice.pick(&["reed", "Reed", "silt", "green"]).to_owned(),
        4 => dice
            .pick(&["#abc", "nosuch", "300", "bright_red", "orange", "-1", "+7"])
            .to_owned(),
        _ => format!("#{r:02x}{g:02x}{b:02x}"),
    }
}

fn style(dice: &mut Dice) -> String {
    let mut words: Vec<String> = Vec::new();
    for _ in 0..=dice.below(3) {
        words.push(match dice.below(14) {
            0 => dice
                .pick(&["bold", "Italic", "underline", "dimmed", "inverted"])
                .to_owned(),
            1 => dice
                .pick(&["none", "fg:none", "bg:none", "fg:", "bold,red"])
                .to_owned(),
            2 => dice
                .pick(&["prev_bg", "fg:prev_bg", "bg:prev_fg", "bg:prev_bg"])
                .to_owned(),
            3..=5 => format!("bg:{}", color(dice)),
            6 | 7 => format!("fg:{}", color(dice)),
            _ => color(dice),
        });
    }
    let between = dice.pick(&[" ", " ", "  "]);
    words.join(between)
}

/// A format that names what `names` says.
fn format(dice: &mut Dice, names: &[&str], depth: usize) -> String {
    let mut out = String::new();
    for _ in 0..=dice.below(3) {
        match dice.below(if depth > 2 { 5 } else { 9 }) {
            0 | 1 => out.push_str(dice.pick(&["a", " ", "gauge ", ">", "\\\\[", "\\\\$", "é"])),
            2..=4 => {
                let _ = write!(out, "${{{}}}", dice.pick(names));
            }
            5 => {
                let _ = write!(out, "({})", format(dice, names, depth + 1));
            }
            _ => {
                let inner = format(dice, names, depth + 1);
                let style = match dice.below(6) {
                    0 | 1 => "$style".to_owned(),
                    2 => format!("{} $style", style(dice)),
                    _ => style(dice),
                };
                let _ = write!(out, "[{inner}]({style})");
            }
        }
    }
    if dice.below(80) == 0 {
        out.push_str(dice.pick(&["[", "$", "]", "\\\\a", "[x] (red)"]));
    }
    out
}

/// A value as it stands in the file.
fn quoted(dice: &mut Dice, text: &str) -> String {
    match dice.below(4) {
        // What is escaped for the format needs no escapes there.
        0 => format!("'{}'", text.replace("\\\\", "\\")),
        1 => format!("\"\"\"\n{text}\"\"\""),
        2 if text.len() > 4 && text.is_ascii() && !text[..4].contains('\\') => {
            format!("\"\"\"{}\\\n    {}\"\"\"", &text[..3], &text[3..])
                .replace("\\\n     ", "\\\n    \\u0020")
        }
        _ => format!("\"{text}\""),
    }
}

fn module(dice: &mut Dice, name: &str) -> String {
    let mut out = format!("[{name}]\n");
    let names: &[&str] = match name {
        "directory" => &["path"],
        "username" => &["user"],
        "git_branch" => &["symbol", "branch"],
        "git_status" => &["all_status", "ahead_behind", "modified", "untracked"],
        "cmd_duration" => &["duration"],
        "jobs" => &["symbol", "number"],
        "status" => &["symbol", "status"],
        "time" => &["time"],
        "character" => &["symbol"],
        "env_var.GAUGE" => &["symbol", "env_value"],
        "custom.tide" => &["symbol", "output"],
        _ => &["symbol", "shlvl"],
    };
    let mut say = |dice: &mut Dice, key: &str, text: String| {
        let value = quoted(dice, &text);
        let _ = writeln!(out, "{key} = {value}");
    };
    if dice.percent(60) {
        let text = format(dice, names, 0);
        say(dice, "format", text);
    }
    let styles: &[&str] = match name {
        "username" => &["style_user", "style_root"],
        "character" => &[],
        "directory" => &["style", "read_only_style", "repo_root_style"],
        _ => &["style"],
    };
    // The tests may run as root, who has another style: the same one here.
    let of_user = style(dice);
    for key in styles {
        if name == "username" || dice.percent(if *key == "style" { 80 } else { 40 }) {
            let text = match name {
                "username" => of_user.clone(),
                _ => style(dice),
            };
            say(dice, key, text);
        }
    }
    let signs: &[&str] = match name {
        "character" => &["success_symbol", "error_symbol", "vimcmd_symbol"],
        "git_status" => &["modified", "untracked", "conflicted"],
        "directory" | "username" | "cmd_duration" | "time" => &[],
        _ => &["symbol"],
    };
    for key in signs {
        // The program has signs of its own for each mode.
        if dice.percent(60) || *key == "vimcmd_symbol" || name.starts_with("env_var") {
            let text = match dice.below(3) {
                0 => "*".to_owned(),
                1 => format!("[*]({})", style(dice)),
                _ => format!("[*]({})x", style(dice)),
            };
            say(dice, key, text);
        }
    }
    out.push_str(match name {
        "username" => "show_always = true\n",
        "status" | "time" | "shlvl" => "disabled = false\n",
        "cmd_duration" => "min_time = 1\n",
        "custom.tide" => "command = 'echo low'\nwhen = true\n",
        _ => "",
    });
    if name == "shlvl" {
        out.push_str("threshold = 1\n");
    }
    if dice.below(40) == 0 {
        out.push_str(dice.pick(&["disabled = true\n", "threshold = 'x'\n", "nosuch = 1\n"]));
        if out.matches("disabled").count() > 1 {
            out = out.replace("disabled = false\n", "");
        }
        if out.matches("threshold").count() > 1 {
            out = out.replace("threshold = 1\n", "");
        }
    }
    out
}

pub fn file(dice: &mut Dice) -> String {
    let mut out = String::new();
    if dice.percent(80) {
        out.push_str(dice.pick(&[
            "palette = 'weald'\n",
            "palette = 'weald'\n",
            "palette = 'none'\n",
        ]));
    }
    let mut names: Vec<&str> = MODULES.to_vec();
    names.extend(["line_break", "all", "custom", "env_var", "nosuch"]);
    if dice.percent(85) {
        let text = format(dice, &names, 0) + &format(dice, &names, 0);
        let value = quoted(dice, &text);
        let _ = writeln!(out, "format = {value}");
    }
    if dice.percent(30) {
        let text = format(dice, &MODULES, 0);
        let value = quoted(dice, &text);
        let _ = writeln!(out, "right_format = {value}");
    }
    for name in MODULES {
        if dice.percent(70) || name == "character" {
            out.push_str(&module(dice, name));
        }
    }
    if dice.percent(60) {
        for (before, plain) in [("prev_bg", "reed"), ("prev_fg", "silt")] {
            out = out.replace(before, plain);
        }
    }
    // Whether the tests run in one is no matter here.
    out.push_str("[container]\ndisabled = true\n[palettes.weald]\n");
    for name in ["reed", "silt", "Reed", "green"] {
        if dice.percent(60) {
            let _ = writeln!(out, "{name} = '{}'", color(dice));
        }
    }
    out
}

/// Text and ground of something drawn.
type Pair = (String, String);

/// What stands behind escapes of color: the colors of each ink, or of whatever is drawn.
fn pairs(text: &str, blank: bool) -> BTreeSet<Pair> {
    let (mut out, mut pen) = (BTreeSet::new(), [String::new(), String::new()]);
    for part in text.split('\u{1b}') {
        let Some((codes, ink)) = part.strip_prefix('[').and_then(|p| p.split_once('m')) else {
            continue;
        };
        let mut codes = codes.split(';');
        while let Some(code) = codes.next() {
            let number: usize = code.parse().unwrap_or(0);
            let slot = |base: usize| (number - base).to_string();
            match number {
                0 => pen = Default::default(),
                30..=37 => pen[0] = slot(30),
                90..=97 => pen[0] = slot(82),
                40..=47 => pen[1] = slot(40),
                100..=107 => pen[1] = slot(92),
                38 | 48 => {
                    let mut next = || codes.next().unwrap_or_default().parse::<u8>().unwrap_or(0);
                    pen[usize::from(number == 48)] = match next() {
                        5 => indexed(next()),
                        _ => format!("#{:02x}{:02x}{:02x}", next(), next(), next()),
                    };
                }
                _ => {}
            }
        }
        if (blank || !ink.trim().is_empty()) && pen != [String::new(), String::new()] {
            out.insert((pen[0].clone(), pen[1].clone()));
        }
    }
    out
}

fn indexed(n: u8) -> String {
    let fixed = wealdmist_core::color::indexed(n).filter(|_| n > 15);
    fixed.map_or_else(|| n.to_string(), |color| color.to_string())
}

fn ours(report: &ToolReport) -> BTreeSet<Pair> {
    let color = |paint: &Paint| match paint.reading.map(|i| &report.readings[i].value) {
        Some(Value::Slot(slot)) => slot.ansi().map_or_else(String::new, |n| n.to_string()),
        Some(Value::Color(color)) => color.to_string(),
        _ => String::new(),
    };
    let drawn = report.drawn.iter();
    drawn.map(|d| (color(&d.text), color(&d.ground))).collect()
}

/// A repository with changes, ahead of another branch, and a folder in it.
fn repository(scratch: &Scratch) -> PathBuf {
    let folder = scratch.home().join("work/marsh");
    std::fs::create_dir_all(folder.join("sub")).unwrap();
    let git = |args: &[&str]| {
        let mut git = Command::new("git");
        git.args(["-c", "user.name=x", "-c", "user.email=x@example.org"]);
        git.args(args)
            .current_dir(&folder)
            .env("HOME", scratch.home());
        assert!(git.output().unwrap().status.success(), "{args:?}");
    };
    std::fs::write(folder.join("a"), "1\n").unwrap();
    git(&["init", "-q", "-b", "spring"]);
    git(&["add", "a"]);
    git(&["commit", "-q", "-m", "x"]);
    // A branch elsewhere that this one is ahead of.
    git(&["branch", "far"]);
    git(&["branch", "-q", "-u", "far"]);
    git(&["commit", "-q", "--allow-empty", "-m", "y"]);
    std::fs::write(folder.join("a"), "2\n").unwrap();
    std::fs::write(folder.join("new"), "2\n").unwrap();
    folder
}

/// What the program draws in a folder.
fn drawn_in(
    program: &Path,
    scratch: &Scratch,
    folder: &Path,
    shell: &str,
    more: &[&str],
) -> String {
    let mut command = Command::new(program);
    command
        .env_clear()
        .env("PATH", std::env::var_os("PATH").unwrap_or_default())
        .env("HOME", scratch.home())
        .env("STARSHIP_SHELL", shell)
        .env("STARSHIP_CACHE", scratch.home().join("cache"))
        .env("STARSHIP_LOG", "error")
        .env("GAUGE", "low")
        .env("SHLVL", "4")
        .env("TERM", "xterm-256color")
        .args(["prompt", "--terminal-width", "100"])
        .arg("--path")
        .arg(folder)
        .arg("--logical-path")
        .arg(folder)
        .args(more)
        .current_dir(folder);
    let output = command.output().expect("it runs");
    String::from_utf8_lossy(&output.stdout).into_owned()
}

#[test]
fn the_prompt_program_draws_what_we_read() {
    let Some(program) = have_starship() else {
        return;
    };
    let (seed, rounds) = run(150);
    let mut dice = Dice::new(seed);
    let (mut wrong, mut compared) = (Vec::new(), 0);
    let scratch = Scratch::new();
    let folder = repository(&scratch).join("sub");
    for n in 0..rounds {
        let text = file(&mut dice);
        let path = scratch.home().join(".config/starship.toml");
        scratch.write(".config/starship.toml", &text);
        let (mut theirs, mut drawn) = (BTreeSet::new(), BTreeSet::new());
        let mut said = String::new();
        for (status, keymap, side) in [
            ("3", "", ""),
            ("0", "", "--right"),
            ("3", "", "--right"),
            ("0", "", ""),
            ("3", "vicmd", "--right"),
            ("0", "vicmd", ""),
        ] {
            let vi = ["--keymap", keymap];
            let more = if keymap.is_empty() { &[][..] } else { &vi[..] };
            let side = if side.is_empty() {
                &[][..]
            } else {
                &[side][..]
            };
            let times = ["--status", status, "--cmd-duration", "9000", "--jobs", "3"];
            let shell = if keymap.is_empty() { "sh" } else { "zsh" };
            let shown = drawn_in(
                &program,
                &scratch,
                &folder,
                shell,
                &[&times[..], more, side].concat(),
            );
            let shown = shown.replace("%{", "").replace("%}", "");
            theirs.append(&mut pairs(&shown, false));
            drawn.extend(pairs(&shown, true).into_iter().flat_map(|(a, b)| [a, b]));
            let _ = writeln!(said, "{}", shown.replace('\u{1b}', "^"));
        }
        let home = Home::open(Some(&scratch.home())).expect("a home");
        let report = adapter("starship")
            .expect("ours")
            .read(&crate::asked::Asked(&home, &[]), &mut Facts::default());
        assert!(report.file(&path).is_some());
        let ours = ours(&report);
        compared += theirs.len();
        for pair in theirs.difference(&ours) {
            wrong.push(format!(
                "{n}: {pair:?} is drawn, not read, in\n{text}\n{said}"
            ));
        }
        // What is read is drawn in one of the situations, but for what belongs to others.
        for reading in report.readings.iter().filter(|r| r.effective) {
            let other = [
                "read_only",
                "style_user",
                "style_root",
                "conflicted",
                "vimcmd",
                "palettes",
            ];
            let is_other = other.iter().any(|part| reading.key.contains(part));
            let value = match &reading.value {
                Value::Color(color) => color.to_string(),
                _ => continue,
            };
            compared += 1;
            // What takes its color from what is before it may stand where nothing is.
            let is_other = is_other || text.contains("prev_");
            // A repository has another format then.
            let is_other =
                is_other || (reading.key == "directory.format" && text.contains("repo_root_style"));
            // There are more signs of changes than these situations have.
            let is_other = is_other || reading.key.starts_with("git_status");
            if !reading.is_default() && !is_other && !drawn.contains(&value) {
                wrong.push(format!(
                    "{n}: {value} of {} is read, not drawn, in\n{text}\n{said}",
                    reading.key
                ));
            }
        }
    }
    judge("starship", seed, rounds, &wrong, compared);
}

/// What is drawn in one cell: the character, its colors, its attributes.
type Cell = (char, String, String, String);

/// The cells of lines with escapes of color, without blanks at their ends.
fn cells(text: &str) -> Vec<Vec<Cell>> {
    let mut rows = vec![Vec::new()];
    let (mut fg, mut bg, mut attrs) = (String::new(), String::new(), String::new());
    for (i, part) in text.split('\u{1b}').enumerate() {
        let (codes, ink) = match part.strip_prefix('[').and_then(|p| p.split_once('m')) {
            Some((codes, ink)) if i > 0 => (codes, ink),
            _ => ("", part),
        };
        let all: Vec<u8> = codes.split(';').filter_map(|c| c.parse().ok()).collect();
        let mut at = 0;
        while at < all.len() {
            match all[at..] {
                [0, ..] => (fg, bg, attrs) = Default::default(),
                [1, ..] => attrs.push('b'),
                [3, ..] => attrs.push('i'),
                [4, ..] => attrs.push('u'),
                [layer @ (38 | 48), 2, r, g, b, ..] => {
                    let color = format!("#{r:02x}{g:02x}{b:02x}");
                    match layer {
                        38 => fg = color,
                        _ => bg = color,
                    }
                    at += 4;
                }
                _ => {}
            }
            at += 1;
        }
        for c in ink.chars() {
            match c {
                '\n' => rows.push(Vec::new()),
                _ => rows
                    .last_mut()
                    .unwrap()
                    .push((c, fg.clone(), bg.clone(), attrs.clone())),
            }
        }
    }
    ends(rows)
}

/// Without what nobody sees: blanks at the ends of lines, the color of a blank's text.
fn ends(mut rows: Vec<Vec<Cell>>) -> Vec<Vec<Cell>> {
    for row in &mut rows {
        for cell in row.iter_mut().filter(|c| c.0 == ' ') {
            cell.1.clear();
            cell.3.clear();
        }
        while row.last().is_some_and(|c| c.0 == ' ' && c.2.is_empty()) {
            row.pop();
        }
    }
    rows
}

/// The same of what a design draws.
fn ours_drawn(rows: &[wealdmist_core::prompt::Row], look: &Look) -> [Vec<Vec<Cell>>; 2] {
    let of = |pieces: &[wealdmist_core::prompt::Piece]| {
        let mut out = Vec::new();
        for piece in pieces {
            let color = |role: &Option<RoleId>| {
                role.as_ref()
                    .map_or_else(String::new, |r| look.color(r).to_string())
            };
            let attrs = piece.ink.text.as_ref().filter(|_| piece.ink.styled);
            let attrs = attrs.map(|r| look.attrs(r)).unwrap_or_default();
            let words = [
                (attrs.bold, 'b'),
                (attrs.italic, 'i'),
                (attrs.underline, 'u'),
            ];
            let attrs: String = words.iter().filter(|w| w.0).map(|w| w.1).collect();
            let (fg, bg) = (color(&piece.ink.text), color(&piece.ink.ground));
            out.extend(
                piece
                    .text
                    .chars()
                    .map(|c| (c, fg.clone(), bg.clone(), attrs.clone())),
            );
        }
        out
    };
    let left = rows.iter().map(|row| of(&row.left)).collect();
    let right = rows.last().map(|row| of(&row.right)).unwrap_or_default();
    [ends(left), ends(vec![right])]
}

/// A design without what the program's file cannot say, which is told elsewhere.
fn sayable(design: &Design) -> Design {
    let mut design = design.clone();
    let is_said = |part: &Part| {
        let usual = matches!(part.kind, Kind::User | Kind::Host);
        let never = matches!(
            part.kind,
            Kind::Date | Kind::Load | Kind::Mode | Kind::Battery
        );
        !never && (usual || part.when == When::Always)
    };
    let last = design.lines.len() - 1;
    for (n, line) in design.lines.iter_mut().enumerate() {
        line.left.retain(is_said);
        line.right.retain(is_said);
        let mut all = line.left.iter().chain(&line.right);
        if n < last && !all.any(Part::is_always_shown) {
            design.tie = false;
            line.right.clear();
        }
    }
    let stretch = design.stretch;
    for (n, line) in design.lines.iter_mut().enumerate() {
        // A stretch is drawn whatever is behind it.
        if n < last && stretch != ' ' && !line.right.iter().any(Part::is_always_shown) {
            line.right.clear();
        }
        // Blocks that are joined to one that may be missing, or to one behind what may be missing.
        for side in [&mut line.left, &mut line.right] {
            let all_there = side.iter().all(Part::is_always_shown);
            let blocks = side.iter().all(|part| part.ground.is_some());
            let first = side.first().is_some_and(Part::is_always_shown);
            let grounds: BTreeSet<_> = side.iter().map(|part| part.ground.clone()).collect();
            let differ = grounds.len() == side.len();
            // Nothing there is sure to stand beside the gap.
            if side.len() > 1 && !side.iter().any(Part::is_always_shown) {
                design.gap = String::new();
            }
            if !(all_there || (blocks && first && differ)) {
                side.iter_mut().for_each(|part| part.ground = None);
            }
        }
    }
    let lines = design.lines.iter_mut();
    for part in lines.flat_map(|l| l.left.iter_mut().chain(&mut l.right)) {
        part.signs_root = None;
        match part.kind {
            Kind::User => {
                part.when = When::Always;
                part.tells.longest = 0;
            }
            Kind::Host => {
                part.when = When::Remote;
                part.tells.longest = 0;
            }
            Kind::Branch => part.tells.longest = 0,
            Kind::Folder if part.tells.folders > 0 => {
                part.tells.within = false;
                part.tells.beginnings = false;
            }
            Kind::Changes => part.tells.style = Style::Each,
            Kind::Status => part.tells.style = Style::One,
            Kind::Time => part.tells.seconds = false,
            _ => {}
        }
        if part.kind != Kind::User {
            part.text_root = None;
        }
        if !matches!(part.kind, Kind::Input | Kind::Status) {
            part.text_failed = None;
        }
    }
    design
}

/// Lets the program draw a design in two situations: what it draws otherwise than the design has it.
fn compared(
    program: &Path,
    scratch: &Scratch,
    folder: &Path,
    prompt: &str,
    level: SymbolLevel,
) -> (usize, Option<String>) {
    let home = Home::open(Some(&scratch.home())).expect("a home");
    let doc = SetupDoc::parse("setup.toml", b"[palettes.dusk]\n").unwrap();
    let doc = doc.with_prompt(prompt).unwrap();
    let design = sayable(&doc.setup().prompt);
    let doc = doc.with_design(&design).unwrap();
    let doc = doc.with_symbols(Some(ToolId("starship")), level).unwrap();
    let look = Look::new(doc.setup());
    let (_, code) = adapter("starship")
        .unwrap()
        .generated(doc.setup(), &look)
        .expect("a file");
    scratch.write(".config/starship.toml", &code.lossy());
    let mut compared = 0;
    for (status, below) in [(0, ""), (3, "sub")] {
        let here = folder.join(below);
        let mut at = wealdmist_host::situation(&home, &here).unwrap();
        at.width = 100;
        at.statuses = vec![status];
        at.duration = 42_000;
        at.jobs = 2;
        at.user = user();
        at.variables.clear();
        at.time = now();
        let status = status.to_string();
        let more = [
            "--status",
            &status,
            "--cmd-duration",
            "42000",
            "--jobs",
            "2",
        ];
        let theirs = [&[][..], &["--right"]].map(|side| {
            let all = [&more[..], side].concat();
            cells(&drawn_in(program, scratch, &here, "sh", &all))
        });
        if now() != at.time {
            continue;
        }
        let rows = draw(&doc.setup().prompt_at(level), true, &at);
        let ours = ours_drawn(&rows, &look);
        let [theirs, ours] = [theirs, ours].map(|mut sides| {
            // A gap before the first thing at the right edge is not seen.
            for row in &mut sides[1] {
                let is_blank = |cell: &&Cell| cell.0 == ' ' && cell.2.is_empty();
                let count = row.iter().take_while(is_blank).count();
                row.drain(..count);
            }
            sides.map(|rows| {
                let seen = rows.into_iter().filter(|row| !row.is_empty());
                seen.collect::<Vec<_>>()
            })
        });
        let text = |rows: &[Vec<Cell>]| -> String {
            let row = |row: &Vec<Cell>| row.iter().map(|c| c.0).collect::<String>();
            rows.iter().map(row).collect::<Vec<_>>().join("\n")
        };
        for (theirs, ours) in theirs.iter().zip(&ours) {
            compared += 1;
            if theirs == ours {
                continue;
            }
            let mut said = format!("drawn\n{}\nmeant\n{}\n", text(theirs), text(ours));
            let pairs = theirs.iter().flatten().zip(ours.iter().flatten());
            if let Some((a, b)) = pairs.into_iter().find(|(a, b)| a != b) {
                let _ = writeln!(said, "first {a:?}, not {b:?}");
            }
            return (compared, Some(said + &code.lossy()));
        }
    }
    (compared, None)
}

#[test]
fn the_prompt_program_draws_our_designs() {
    let Some(program) = have_starship() else {
        return;
    };
    let scratch = Scratch::new();
    let folder = repository(&scratch);
    let (mut count, mut wrong) = (0, Vec::new());
    let levels = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii];
    for ready in ready::ALL {
        for level in levels {
            let (n, said) = compared(&program, &scratch, &folder, ready.toml, level);
            count += n;
            wrong.extend(said.map(|said| format!("{} {level:?}: {said}", ready.name)));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    let (seed, rounds) = run(40);
    let mut dice = Dice::new(seed);
    for n in 0..rounds {
        let prompt = chance::design(&mut dice);
        let level = levels[dice.below(3)];
        let (compared, said) = compared(&program, &scratch, &folder, &prompt, level);
        count += compared;
        wrong.extend(said.map(|said| format!("{n}: {said}\nof\n{prompt}")));
    }
    judge("starship", seed, rounds, &wrong, count);
}

/// Who runs the tests.
fn user() -> String {
    let said = Command::new("id").arg("-un").output().unwrap();
    String::from_utf8_lossy(&said.stdout).trim().to_owned()
}

/// The time of day, to the minute.
fn now() -> (u8, u8, u8) {
    let said = Command::new("date").arg("+%H %M").output().unwrap();
    let said = String::from_utf8_lossy(&said.stdout).into_owned();
    let mut numbers = said.split_whitespace().map(|n| n.parse().unwrap());
    (numbers.next().unwrap(), numbers.next().unwrap(), 0)
}
