//! How long it takes to read, judge and plan a thousand, ten thousand and a hundred thousand of
//! anything: ten times as many may take ten times as long.

#![allow(clippy::disallowed_methods, clippy::print_stdout)]

use std::path::Path;
use std::time::{Duration, Instant};

use wealdmist_core::condition::Conditions;
use wealdmist_core::first::first_setup;
use wealdmist_core::ledger::Ledger;
use wealdmist_core::look::Look;
use wealdmist_core::pair::pairs;
use wealdmist_core::setup::SetupDoc;
use wealdmist_tools::access::{MEMORY_HOME, MemoryAccess};
use wealdmist_tools::{plan, read_all};

/// One kind of input: its name, the file it is in, and its text for a number.
type Input = (&'static str, &'static str, fn(usize) -> String);

fn lines(n: usize, line: impl Fn(usize) -> String) -> String {
    (0..n).map(line).collect()
}

fn hex(i: usize) -> String {
    format!("#{:06x}", 0x10_0000 + i * 7 % 0xe0_0000)
}

const INPUTS: [Input; 15] = [
    ("colors of the terminal", ".config/kitty/kitty.conf", |n| {
        lines(n, |i| format!("color{} {}\n", i % 256, hex(i)))
    }),
    ("commented-out colors", ".config/kitty/kitty.conf", |n| {
        lines(n, |i| format!("# color{} {}\n", i % 256, hex(i)))
    }),
    ("resources", ".Xresources", |n| {
        lines(n, |i| {
            format!("/* c */\nXTerm*color{}: {}\n", i % 256, hex(i))
        })
    }),
    (
        "settings with gates",
        ".config/xfce4/terminal/terminalrc",
        |n| {
            lines(n, |i| {
                format!("[Configuration]\nColorCursor={}\nx{i}=1\n", hex(i))
            })
        },
    ),
    (
        "schemes in JSON",
        "AppData/Local/Microsoft/Windows Terminal/settings.json",
        |n| {
            let row = |i| format!("{{\"name\": \"s{i}\", \"red\": \"{}\"}},\n", hex(i));
            format!("{{\"schemes\": [{}]}}", lines(n, row))
        },
    ),
    (
        "colors as numbers",
        "Library/Application Support/iTerm2/DynamicProfiles/a.json",
        |n| {
            let row = |i| {
                format!(
                    "\"Ansi {i} Color\": {{\"Red Component\": 0.5, \"Green Component\": 0, \"Blue Component\": 1}},\n"
                )
            };
            format!("{{\"Profiles\": [{{{}\"Name\": \"x\"}}]}}", lines(n, row))
        },
    ),
    ("assignments in Lua", ".wezterm.lua", |n| {
        let row = |i| format!("c.colors.c{i} = '{}'\n", hex(i));
        format!("local c = {{ colors = {{}} }}\n{}return c\n", lines(n, row))
    }),
    ("described prompts", "look.json", |n| {
        let row = |i| format!("{{\"shows\": \"git\", \"fg\": \"{}\"}},\n", hex(i % 256));
        format!("[{}]", lines(n, row))
    }),
    ("user options", ".tmux.conf", |n| {
        lines(n, |i| format!("set -g @c{i} '{}'\n", hex(i)))
    }),
    ("styles in one string", ".tmux.conf", |n| {
        format!(
            "set -g status-left '{}'\n",
            lines(n, |i| format!("#[fg={}]x", hex(i)))
        )
    }),
    ("signs", ".tmux.conf", |n| {
        format!("set -g status-left '{}'\n", "\u{f07b} ".repeat(n))
    }),
    ("highlight groups", ".config/nvim/init.vim", |n| {
        lines(n, |i| format!("hi Group{i} guifg={}\n", hex(i)))
    }),
    ("escapes in a prompt", ".bashrc", |n| {
        format!(
            "PS1='{}'\n",
            lines(n, |i| format!("\\[\\e[38;5;{}m\\]x", i % 256))
        )
    }),
    ("roles of the setup", "setup.toml", |n| {
        format!(
            "[palettes.a]\n[roles]\n{}",
            lines(n, |i| format!(
                "r{i} = {{ mix = ['red', 'r{}', 0.5] }}\n",
                i + 1
            )) + &format!("r{n} = 'blue'\n")
        )
    }),
    ("named colors", "setup.toml", |n| {
        format!(
            "[palettes.a]\n[palettes.a.colors]\n{}",
            lines(n, |i| format!("c{i} = '{}'\n", hex(i)))
        )
    }),
];

fn once(path: &str, text: &str) -> Duration {
    let mut access = MemoryAccess::default();
    if path.ends_with(".json") {
        access = MemoryAccess::with(&[(".bashrc", "eval \"$(gauge ~/look.json)\"\n")]);
    }
    let begin = Instant::now();
    let doc = match path {
        "setup.toml" => SetupDoc::parse("setup.toml", text.as_bytes()),
        _ => {
            access
                .files
                .insert(Path::new(MEMORY_HOME).join(path), text.as_bytes().to_vec());
            let first = first_setup("Bench", None, &read_all(&access));
            // What would be larger than a setup may be is read under one that says nothing.
            SetupDoc::parse("setup.toml", first.as_bytes())
                .or_else(|_| SetupDoc::parse("setup.toml", b"[palettes.a]\n"))
        }
    };
    let doc = doc.expect("a setup");
    let reports = read_all(&access);
    let look = Look::new(doc.setup());
    let _ = Ledger::new(doc.setup(), &look, &reports);
    let _ = pairs(doc.setup(), &look, &reports, &Conditions::default());
    let _ = plan(doc.setup(), &look, &reports, &access, None);
    begin.elapsed()
}

/// A long file: the tool it is of, its path, how it begins, and a line of it by its number.
type Long = (
    &'static str,
    &'static str,
    &'static str,
    fn(usize) -> String,
);

/// The largest file that is read in each language, read by the tool whose it is, and nothing else.
fn largest() {
    let files: [Long; 9] = [
        ("kitty", ".config/kitty/kitty.conf", "", |i| {
            format!("color{} {}\n", i % 256, hex(i))
        }),
        ("foot", ".config/foot/foot.ini", "[colors]\n", |i| {
            format!("{}={}\n", i % 256, &hex(i)[1..])
        }),
        ("ghostty", ".config/ghostty/config", "", |i| {
            format!("palette = {}={}\n", i % 256, hex(i))
        }),
        ("alacritty", ".config/alacritty/alacritty.toml", "", |i| {
            format!("[a{i}]\nc = \"{}\"\n", hex(i))
        }),
        (
            "alacritty",
            ".config/alacritty/alacritty.yml",
            "colors:\n",
            |i| format!("  c{i}: '{}'\n", hex(i)),
        ),
        ("xterm", ".Xresources", "", |i| {
            format!("XTerm*color{}: {}\n", i % 256, hex(i))
        }),
        (
            "xfce4-terminal",
            ".config/xfce4/terminal/terminalrc",
            "[Configuration]\n",
            |i| format!("x{i}={}\n", hex(i)),
        ),
        (
            "wezterm",
            ".wezterm.lua",
            "local c = { colors = {} }\n",
            |i| format!("c.colors.c{i} = '{}'\n", hex(i)),
        ),
        (
            "windows-terminal",
            "AppData/Local/Microsoft/Windows Terminal/settings.json",
            "// \n{\"a\": 1",
            |i| format!(",\n\"c{i}\": \"{}\"", hex(i)),
        ),
    ];
    println!("\n{:<20} {:>10}", "1 MiB, milliseconds", "read");
    for (tool, path, head, line) in files {
        let mut text = head.to_owned();
        for i in 0.. {
            text.push_str(&line(i));
            if text.len() as u64 > wealdmist_tools::limits::FILE - 1000 {
                break;
            }
        }
        text.push_str(match path.rsplit('.').next() {
            Some("json") => "\n}\n",
            Some("lua") => "return c\n",
            _ => "",
        });
        let access = MemoryAccess::with(&[(path, &text)]);
        let adapter = wealdmist_tools::adapter(tool).expect("ours");
        let begin = Instant::now();
        let report = adapter.read(&access, &mut wealdmist_tools::Facts::default());
        let took = begin.elapsed();
        let said = match (report.files.len(), report.problems.first()) {
            (_, Some(problem)) => format!("  ({})", problem.message),
            (0, None) => "  (no file of its own)".to_owned(),
            _ => String::new(),
        };
        println!(
            "{:<20} {:>10.1}{said}",
            format!("{tool} .{}", path.rsplit('.').next().unwrap_or("")),
            took.as_secs_f64() * 1e3
        );
    }
}

fn main() {
    // With a word only the inputs that have it in their name.
    let only = std::env::args().skip(1).find(|a| !a.starts_with('-'));
    if only.is_none() {
        largest();
    }
    println!(
        "{:<24} {:>12} {:>12} {:>12}",
        "", "1,000", "10,000", "100,000"
    );
    for (name, path, make) in INPUTS {
        if only.as_deref().is_some_and(|word| !name.contains(word)) {
            continue;
        }
        let mut row = format!("{name:<24}");
        for n in [1_000, 10_000, 100_000] {
            if only.is_some() && n > 10_000 {
                continue;
            }
            let text = make(n);
            let runs = if n > 10_000 { 1 } else { 5 };
            let best = (0..runs)
                .map(|_| once(path, &text))
                .min()
                .unwrap_or_default();
            row.push_str(&format!(" {:>9.1} ms", best.as_secs_f64() * 1000.0));
        }
        println!("{row}");
    }
}
