//! The judge of X resources: the preprocessor and the X library say what two terminals would get, value by value.

use std::collections::BTreeMap;
use std::fmt::Write as _;

use wealdmist_core::reading::Value;
use wealdmist_host::Home;
use wealdmist_tools::read_all;

use super::common::{Scratch, have, screen};
use super::dice::{Dice, judge, run};

/// Answers for each file with what both programs get, and what the server makes of it as a color.
const ASK: &str = r#"
import ctypes, json, os, subprocess, sys
x = ctypes.CDLL('libX11.so.6')
x.XOpenDisplay.restype = ctypes.c_void_p
x.XrmGetStringDatabase.restype = ctypes.c_void_p
x.XDefaultColormap.restype = ctypes.c_ulong
class Value(ctypes.Structure):
    _fields_ = [('size', ctypes.c_uint), ('address', ctypes.c_char_p)]
class Color(ctypes.Structure):
    _fields_ = [('pixel', ctypes.c_ulong), ('r', ctypes.c_ushort), ('g', ctypes.c_ushort), ('b', ctypes.c_ushort), ('flags', ctypes.c_char), ('pad', ctypes.c_char)]
x.XrmInitialize()
display = ctypes.c_void_p(x.XOpenDisplay(None))
colors = x.XDefaultColormap(display, 0)
keys = sys.argv[3].split()
for n in range(int(sys.argv[2])):
    path = os.path.join(sys.argv[1], str(n), '.Xresources')
    said = subprocess.run(['xrdb', '-n', path], capture_output=True)
    db = ctypes.c_void_p(x.XrmGetStringDatabase(said.stdout))
    out = {}
    for program, names, classes, classed in [('xterm', 'xterm.vt100.', 'XTerm.VT100.', True), ('urxvt', 'urxvt.', 'URxvt.', False)]:
        for key in keys:
            of = key[0].upper() + key[1:] if classed else key
            kind, value = ctypes.c_char_p(), Value()
            found = x.XrmGetResource(db, (names + key).encode(), (classes + of).encode(), ctypes.byref(kind), ctypes.byref(value))
            if found:
                text, color = value.address, Color()
                good = x.XParseColor(display, ctypes.c_ulong(colors), text, ctypes.byref(color))
                out[program + ' ' + key] = '#%02x%02x%02x' % (color.r >> 8, color.g >> 8, color.b >> 8) if good else text.decode('utf-8', 'replace')
            else:
                out[program + ' ' + key] = None
    print('@' + json.dumps(out))
"#;

const KEYS: [&str; 7] = [
    "foreground",
    "background",
    "cursorColor",
    "highlightColor",
    "color1",
    "color2",
    "color12",
];

fn pattern(dice: &mut Dice) -> String {
    let before = dice.pick(&[
        "*",
        "XTerm*",
        "xterm*",
        "XTerm.",
        "XTerm*vt100.",
        "XTerm*VT100*",
        "xterm.vt100.",
        "?.vt100.",
        "*?.",
        "URxvt*",
        "URxvt.",
        "urxvt*",
        "urxvt.",
        "UXTerm*",
        "*vt100*",
        "*VT100.",
        "Emacs*",
        "XTerm*vt100*",
        "XTerm..",
        "*.",
        "XTerm.*",
        "Rxvt.",
    ]);
    let key = dice.pick(&KEYS).to_owned();
    let key = match dice.percent(25) {
        true => key[..1].to_uppercase() + &key[1..],
        false => key,
    };
    format!("{before}{key}")
}

fn value(dice: &mut Dice) -> String {
    match dice.below(9) {
        0 => dice
            .pick(&["red", "navy blue", "LightGoldenrod", "gray50", "nothing"])
            .to_owned(),
        1 => format!("#{:03x}", dice.below(1 << 12)),
        2 => format!(
            "rgb:{:x}/{:02x}/{:x}",
            dice.below(16),
            dice.below(256),
            dice.below(16)
        ),
        3 | 4 => dice.pick(&["reed", "moss", "clay", "sedge"]).to_owned(),
        5 => format!("#{:06x}{:06x}", dice.below(1 << 24), dice.below(1 << 24)),
        _ => format!("#{:06x}", dice.below(1 << 24)),
    }
}

/// A file by chance.
fn file(dice: &mut Dice) -> String {
    let mut out = String::new();
    let mut open = 0;
    for _ in 0..dice.below(40) {
        let _ = match dice.below(14) {
            0 => writeln!(out, "! {}: {}", pattern(dice), value(dice)),
            1 | 2 => {
                let name = dice.pick(&["reed", "moss", "clay"]);
                let said = match dice.percent(30) {
                    true => dice.pick(&["reed", "moss"]).to_owned(),
                    false => format!("#{:06x}", dice.below(1 << 24)),
                };
                match name == said {
                    true => Ok(()),
                    false => writeln!(out, "#define {name} {said}"),
                }
            }
            3 if open == 0 => {
                open += 1;
                writeln!(out, "#ifdef NO_SUCH_THING")
            }
            4 if open > 0 => {
                open -= 1;
                writeln!(out, "#endif")
            }
            5 => writeln!(out, "/* {}: {} */", pattern(dice), value(dice)),
            6 => writeln!(
                out,
                "{}{}:\\\n{}",
                " ".repeat(dice.below(3)),
                pattern(dice),
                value(dice)
            ),
            7 => writeln!(out, "no line at all"),
            8 => writeln!(out),
            _ => {
                let blanks = " ".repeat(dice.below(3));
                writeln!(
                    out,
                    "{}{}:{blanks}{}",
                    " ".repeat(dice.below(2)),
                    pattern(dice),
                    value(dice)
                )
            }
        };
    }
    for _ in 0..open {
        out.push_str("#endif\n");
    }
    // Both programs are named, so that both are there.
    out + "XTerm*title: x\nURxvt*title: x\n"
}

/// What we read, by program and key.
fn ours(home: &Home) -> BTreeMap<String, String> {
    let mut out = BTreeMap::new();
    for report in read_all(home) {
        for reading in report
            .readings
            .iter()
            .filter(|r| r.effective && !r.is_default())
        {
            if let Value::Color(color) = reading.value {
                out.insert(
                    format!("{} {}", report.tool, reading.key),
                    color.to_string(),
                );
            }
        }
        // What is none for the program is told with its place.
        for problem in report
            .problems
            .iter()
            .filter(|p| p.message.contains("is not a color"))
        {
            let key = problem.message.rsplit(' ').next().unwrap_or_default();
            out.insert(format!("{} {key}", report.tool), "bad".to_owned());
        }
    }
    out
}

#[test]
fn terminals_get_the_resources_that_we_read() {
    if !have(&["Xvfb", "xrdb", "cpp", "python3"]) {
        return;
    }
    let (seed, rounds) = run(300);
    let mut dice = Dice::new(seed);
    let scratch = Scratch::new();
    let all: Vec<String> = (0..rounds).map(|_| file(&mut dice)).collect();
    for (n, text) in all.iter().enumerate() {
        scratch.write(&format!("{n}/.Xresources"), text);
    }
    let (_screen, display) = screen();
    let asked = scratch
        .command("python3")
        .args(["-c", ASK])
        .arg(scratch.home())
        .args([rounds.to_string(), KEYS.join(" ")])
        .env("DISPLAY", &display)
        .output()
        .expect("it starts");
    let said = String::from_utf8_lossy(&asked.stdout);
    let answers: Vec<&str> = said.lines().filter_map(|l| l.strip_prefix('@')).collect();
    let errors = String::from_utf8_lossy(&asked.stderr);
    assert_eq!(answers.len(), rounds, "{errors}");
    let (mut wrong, mut compared, mut said_any) = (Vec::new(), 0, 0);
    for (n, answer) in answers.into_iter().enumerate() {
        let theirs: BTreeMap<String, Option<String>> = serde_json::from_str(answer).expect("JSON");
        let ours = ours(&Home::open(Some(&scratch.home().join(n.to_string()))).expect("a home"));
        for (key, theirs) in &theirs {
            compared += 1;
            said_any += usize::from(theirs.is_some());
            let ours = ours.get(key).map(String::as_str);
            let same = match (ours, theirs.as_deref()) {
                (Some("bad"), Some(text)) => !text.starts_with('#') || text.len() != 7,
                (ours, theirs) => ours == theirs,
            };
            if !same {
                wrong.push(format!(
                    "{n}: {key} is {theirs:?}, read as {ours:?} in\n{}",
                    all[n]
                ));
            }
        }
    }
    assert!(said_any * 5 > compared, "{said_any} of {compared}");
    judge("X resources", seed, rounds, &wrong, compared);
}
