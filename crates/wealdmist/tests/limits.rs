//! Input made to exhaust: it is told with its place, in little time and memory, and the program is
//! none the worse for it.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::fmt::Write as _;
use std::fs;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use common::{Scratch, have};

/// What a run came to: exit code, everything printed, time, and the most memory in MiB.
struct Run {
    code: i32,
    text: String,
    took: Duration,
    most: u64,
}

/// Builds without optimisation are slower.
const SLOW: u32 = if cfg!(debug_assertions) { 5 } else { 1 };

fn measured(s: &Scratch, arguments: &[&str]) -> Run {
    let begin = Instant::now();
    let out = s.tmp().join("out");
    let file = fs::File::create(&out).unwrap();
    let mut child = s
        .command(env!("CARGO_BIN_EXE_wealdmist"))
        .args(arguments)
        .stdout(file.try_clone().unwrap())
        .stderr(Stdio::from(file))
        .spawn()
        .unwrap();
    let status_of = format!("/proc/{}/status", child.id());
    let mut most = 0;
    let status = loop {
        let peak = fs::read_to_string(&status_of).unwrap_or_default();
        let peak = peak.lines().find_map(|l| l.strip_prefix("VmHWM:"));
        let peak = peak.and_then(|l| l.trim().trim_end_matches(" kB").parse::<u64>().ok());
        most = most.max(peak.unwrap_or(0) >> 10);
        if let Some(status) = child.try_wait().unwrap() {
            break status;
        }
        assert!(
            begin.elapsed() < Duration::from_secs(60),
            "{arguments:?} hangs"
        );
        std::thread::sleep(Duration::from_millis(3));
    };
    let text = String::from_utf8_lossy(&fs::read(&out).unwrap()).into_owned();
    assert!(!text.contains("panicked"), "{arguments:?}: {text}");
    Run {
        code: status.code().unwrap_or(-1),
        text,
        took: begin.elapsed(),
        most,
    }
}

fn is_little(run: &Run, what: &str) {
    assert!(
        run.took < Duration::from_secs(2) * SLOW,
        "{what} took {:?}",
        run.took
    );
    assert!(run.most < 200, "{what} took {} MiB", run.most);
}

#[test]
fn lua_that_no_parser_bears_is_a_finding_with_its_place() {
    for (text, place) in [
        ("vim.o.number = true\nx = `a`\n".to_owned(), "init.lua:2:5"),
        ("do ".repeat(5000), "init.lua:1:"),
        (format!("x = {}1", "(".repeat(5000)), "init.lua:1:"),
        (format!("x = {}1", "not ".repeat(5000)), "init.lua:1:"),
        (format!("x = {}1", "- ".repeat(50_000)), "init.lua:1:"),
        (format!("x = 1{}", " .. 1".repeat(50_000)), "init.lua:1:"),
        (format!("x = {}", "{".repeat(100_000)), "init.lua:1:"),
        (
            format!("x = {}", "function() return ".repeat(20_000)),
            "init.lua:1:",
        ),
        ("if a then ".repeat(30_000), "init.lua:1:"),
        ("x = [==[ never closed".to_owned(), "init.lua:"),
        ("x = \"never closed\n".to_owned(), "init.lua:"),
        ("\\ @ $ ? !".to_owned(), "init.lua:"),
    ] {
        let s = Scratch::new();
        s.write(".config/nvim/init.lua", &text);
        for arguments in [["survey"], ["check"], ["plan"]] {
            let run = measured(&s, &arguments);
            is_little(&run, &text[..text.len().min(40)]);
            assert!(run.code == 0 || run.code == 1, "{}", run.text);
            if arguments == ["check"] {
                assert!(
                    run.text.contains(place),
                    "{}: {}",
                    &text[..text.len().min(40)],
                    run.text
                );
            }
        }
        // The file is left alone.
        measured(&s, &["apply", "--no-reload"]);
        assert_eq!(s.read(".config/nvim/init.lua"), text);
    }
}

#[test]
fn includes_are_counted_by_reads() {
    let s = Scratch::new();
    for i in 0..16 {
        let next = format!("include f{}.conf\n", i + 1);
        s.write(&format!(".config/kitty/f{i}.conf"), &next.repeat(3));
        s.write(
            &format!(".tmux/f{i}"),
            &format!("source-file ~/.tmux/f{}\n", i + 1).repeat(3),
        );
        s.write(&format!(".b{i}"), &format!(". ~/.b{}\n", i + 1).repeat(3));
    }
    s.write(".config/kitty/kitty.conf", "include f0.conf\n");
    s.write(".tmux.conf", "source-file ~/.tmux/f0\n");
    s.write(".bashrc", ". ~/.b0\n");
    let run = measured(&s, &["survey"]);
    is_little(&run, "includes");
    let run = measured(&s, &["check", "--fail-on", "never"]);
    assert!(run.text.contains("too many includes"), "{}", run.text);
}

#[test]
fn pipes_and_devices_where_files_are_expected_are_told() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["apply", "--no-reload"], &[0]);
    let fifo = |path: &str| {
        let path = s.home().join(path);
        let _ = fs::remove_file(&path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        assert!(
            Command::new("mkfifo")
                .arg(&path)
                .status()
                .unwrap()
                .success()
        );
    };
    // Our own notes and caches: they are made anew or passed over.
    for path in [
        ".local/state/wealdmist/allowed.json",
        ".local/state/wealdmist/tmux-stated.json",
        ".local/state/wealdmist/shells/1",
        ".cache/wealdmist/fonts.index",
        ".local/share/fonts/x.ttf",
        ".fonts/y.otf",
    ] {
        fifo(path);
    }
    for arguments in [
        vec!["survey"],
        vec!["check"],
        vec!["plan"],
        vec!["verify"],
        vec!["font", "list"],
        vec!["glyphs"],
        vec!["font", "list", "--from", ".local/share/fonts"],
    ] {
        let run = measured(&s, &arguments);
        is_little(&run, arguments[0]);
    }
    fifo(".config/wealdmist/prompt.bash");
    let run = measured(&s, &["set", "comment", "#445566"]);
    is_little(&run, "set");
    let run = measured(&s, &["set", "tools.bash.generate", "true"]);
    is_little(&run, "set");
    for arguments in [
        vec!["plan"],
        vec!["apply", "--no-reload"],
        vec!["undo", "--no-reload"],
    ] {
        let run = measured(&s, &arguments);
        is_little(&run, arguments[0]);
        // The file of our own is refused before anything is written.
        let refused = run.code == 3
            && run.text.contains("prompt.bash cannot be read")
            && run.text.contains("nothing was changed");
        let told = arguments[0] != "apply" || refused;
        assert!(told, "{arguments:?} {}: {}", run.code, run.text);
    }
    fifo(".config/wealdmist/setup.toml");
    let run = measured(&s, &["plan"]);
    assert_eq!(run.code, 3, "{}", run.text);
    assert!(run.text.contains("setup.toml"), "{}", run.text);
    for (i, arguments) in [
        vec!["import", "pipe"],
        vec!["palette", "image", "pipe"],
        vec!["font", "show", "pipe"],
        vec!["font", "list", "--from", "pipe"],
    ]
    .into_iter()
    .enumerate()
    {
        let t = Scratch::demo();
        assert!(
            Command::new("mkfifo")
                .arg(t.home().join("pipe"))
                .status()
                .unwrap()
                .success()
        );
        let run = measured(&t, &arguments);
        is_little(&run, arguments[0]);
        assert_eq!(run.code, 3, "{i}: {}", run.text);
    }
}

#[test]
fn archives_that_unpack_without_end_are_given_up() {
    if !have(&["python3"]) {
        return;
    }
    let s = Scratch::new();
    let make = r"
import lzma, gzip, zipfile, tarfile, io, sys, zlib, struct
out = sys.argv[1]
zeros = b'\0' * (1 << 20)
def tar(size):
    head = tarfile.TarInfo('a.ttf'); head.size = size
    return head.tobuf()
with lzma.open(out + '/bomb.tar.xz', 'wb', preset=0) as f:
    f.write(tar(400 << 20))
    for _ in range(400): f.write(zeros)
with gzip.open(out + '/bomb.tar.gz', 'wb', 1) as f:
    f.write(tar(400 << 20))
    for _ in range(400): f.write(zeros)
with zipfile.ZipFile(out + '/bomb.zip', 'w', zipfile.ZIP_DEFLATED) as z:
    for i in range(30):
        z.writestr('f%d.ttf' % i, zeros * 20)
with zipfile.ZipFile(out + '/many.zip', 'w') as z:
    for i in range(30000): z.writestr('%d/f.ttf' % i, b'')
def chunk(kind, data):
    return struct.pack('>I', len(data)) + kind + data + struct.pack('>I', zlib.crc32(kind + data))
def png(w, h, depth, color, raw):
    return b'\x89PNG\r\n\x1a\n' + chunk(b'IHDR', struct.pack('>IIBBBBB', w, h, depth, color, 0, 0, 0)) + chunk(b'IDAT', raw) + chunk(b'IEND', b'')
pack = zlib.compressobj(9)
raw = b''
for _ in range(1000): raw += pack.compress(b'\0' * 240001)
open(out + '/bomb.png', 'wb').write(png(30000, 16000, 16, 6, raw))
open(out + '/claim.png', 'wb').write(png(40000, 40000, 16, 6, b''))
text = zlib.compress(zeros * 300, 9)
open(out + '/text.png', 'wb').write(b'\x89PNG\r\n\x1a\n' + chunk(b'IHDR', struct.pack('>IIBBBBB', 2, 2, 8, 2, 0, 0, 0)) + chunk(b'zTXt', b'a\0\0' + text) + chunk(b'iCCP', b'a\0\0' + text) + chunk(b'IDAT', zlib.compress(b'\0' * 14)) + chunk(b'IEND', b''))
";
    let made = Command::new("python3")
        .args(["-c", make])
        .arg(s.tmp())
        .output()
        .unwrap();
    assert!(
        made.status.success(),
        "{}",
        String::from_utf8_lossy(&made.stderr)
    );
    let at = |name: &str| s.tmp().join(name).to_str().unwrap().to_owned();
    for name in ["bomb.tar.xz", "bomb.tar.gz", "bomb.zip", "many.zip"] {
        let run = measured(&s, &["font", "list", "--from", &at(name)]);
        is_little(&run, name);
        assert_eq!(run.code, 3, "{name}: {}", run.text);
        assert!(run.text.contains(name), "{name}: {}", run.text);
    }
    for name in ["bomb.png", "claim.png", "text.png"] {
        let run = measured(&s, &["palette", "image", &at(name)]);
        is_little(&run, name);
        assert!(run.code == 3 || name == "text.png", "{name}: {}", run.text);
    }
}

#[test]
fn palettes_nested_without_end_are_refused_with_their_line() {
    let s = Scratch::demo();
    for (name, text) in [
        ("a.json", format!("\n{}", "[".repeat(200_000))),
        ("b.json", format!("\n{}", "{\"a\":".repeat(200_000))),
        ("c.toml", format!("\na = {}", "[".repeat(200_000))),
        ("d.yml", format!("\ncolors: {}", "[".repeat(200_000))),
        (
            "e.yml",
            (0..3000).fold("colors:\n".to_owned(), |mut t, i| {
                let _ = writeln!(t, "{}a:", " ".repeat(i));
                t
            }),
        ),
        (
            "f.terminal",
            format!(
                "<?xml version=\"1.0\"?>\n<plist><dict>{}",
                "<key>a</key><dict>".repeat(100_000)
            ),
        ),
        (
            "g.terminal",
            format!(
                "<?xml version=\"1.0\"?>\n<!DOCTYPE x [{}]><plist/>",
                (0..30).fold("<!ENTITY a0 'x'>".to_owned(), |mut t, i| {
                    let _ = write!(t, "<!ENTITY a{} '&a{i};&a{i};'>", i + 1);
                    t
                })
            ),
        ),
        (
            "h.css",
            format!(":root {{ --color: {} }}", "calc(".repeat(100_000)),
        ),
    ] {
        let path = s.tmp().join(name);
        fs::write(&path, text).unwrap();
        let run = measured(&s, &["import", path.to_str().unwrap()]);
        is_little(&run, name);
        assert_eq!(run.code, 3, "{name}: {}", run.text);
        assert!(
            run.text.contains(&format!("{name}:")),
            "{name}: {}",
            run.text
        );
    }
}

/// Ten thousand of anything are read, judged and planned in a time a person waits for.
#[test]
fn ten_thousand_of_anything_are_no_matter() {
    let lines = |n: usize, line: &dyn Fn(usize) -> String| (0..n).map(line).collect::<String>();
    let hex = |i: usize| format!("#{:06x}", 0x10_0000 + i * 7);
    let n = 10_000;
    type Make<'a> = Box<dyn Fn(&Scratch) + 'a>;
    let cases: Vec<(&str, Make)> = vec![
        (
            "colors of the terminal",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/kitty/kitty.conf",
                    &lines(n, &|i| format!("color{} {}\n", i % 256, hex(i))),
                )
            }),
        ),
        (
            "commented colors",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/kitty/kitty.conf",
                    &lines(n, &|i| format!("# color{} {}\n", i % 256, hex(i))),
                )
            }),
        ),
        (
            "user options",
            Box::new(|s: &Scratch| {
                s.write(
                    ".tmux.conf",
                    &lines(n, &|i| {
                        format!(
                            "set -g @c{i} '{}'\nset -g status-style 'fg=#{{@c{i}}}'\n",
                            hex(i)
                        )
                    }),
                )
            }),
        ),
        (
            "styles in one string",
            Box::new(|s: &Scratch| {
                s.write(
                    ".tmux.conf",
                    &format!(
                        "set -g status-left '{}'\n",
                        lines(n, &|i| format!("#[fg={}]x", hex(i)))
                    ),
                )
            }),
        ),
        (
            "styles in many",
            Box::new(|s: &Scratch| {
                s.write(
                    ".tmux.conf",
                    &lines(n, &|i| format!("set -g status-style 'fg={}'\n", hex(i))),
                )
            }),
        ),
        (
            "highlight groups",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/nvim/init.vim",
                    &lines(n, &|i| {
                        format!("hi Group{i} guifg={} guibg={}\n", hex(i), hex(i + 3))
                    }),
                )
            }),
        ),
        (
            "highlight calls",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/nvim/init.lua",
                    &lines(n, &|i| {
                        format!("vim.api.nvim_set_hl(0, 'G{i}', {{ fg = '{}' }})\n", hex(i))
                    }),
                )
            }),
        ),
        (
            "prompts",
            Box::new(|s: &Scratch| {
                s.write(
                    ".bashrc",
                    &lines(n, &|i| {
                        format!("PS1='\\[\\e[38;5;{}m\\]\\u\\[\\e[0m\\] '\n", i % 256)
                    }),
                )
            }),
        ),
        (
            "escapes in one prompt",
            Box::new(|s: &Scratch| {
                s.write(
                    ".bashrc",
                    &format!(
                        "PS1='{}'\n",
                        lines(n, &|i| format!("\\[\\e[38;5;{}m\\]x", i % 256))
                    ),
                )
            }),
        ),
        (
            "signs",
            Box::new(|s: &Scratch| {
                s.write(
                    ".tmux.conf",
                    &format!(
                        "set -g status-left '{}'\n{}",
                        "\u{f07b} ".repeat(n),
                        "set -g @x '\u{f64f}'\n".repeat(n)
                    ),
                )
            }),
        ),
        (
            "unknown keys of the setup",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/wealdmist/setup.toml",
                    &format!(
                        "[palettes.a]\n{}",
                        lines(n, &|i| format!("unknown-key-number-{i} = 1\n"))
                    ),
                )
            }),
        ),
        (
            "roles that refer to roles",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/wealdmist/setup.toml",
                    &format!(
                        "[palettes.a]\n[roles]\nr0 = 'red'\n{}",
                        lines(n, &|i| format!(
                            "r{} = {{ mix = ['r{i}', 'r{i}', 0.5] }}\n",
                            i + 1
                        ))
                    ),
                )
            }),
        ),
        (
            "named colors",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/wealdmist/setup.toml",
                    &format!(
                        "[palettes.a]\n[palettes.a.colors]\n{}[roles]\n{}",
                        lines(n, &|i| format!("c{i} = '{}'\n", hex(i))),
                        lines(n, &|i| format!("r{i} = 'c{i}'\n"))
                    ),
                )
            }),
        ),
        (
            "replaced signs",
            Box::new(|s: &Scratch| {
                s.write(
                    ".tmux.conf",
                    &format!("set -g status-left '{}'\n", "\u{f07b} ".repeat(n)),
                );
                s.write(
                    ".config/wealdmist/setup.toml",
                    &format!(
                        "[palettes.a]\n[symbols]\nlevel = 'icons'\n[symbols.replace]\n{}",
                        lines(6000, &|i| format!("\"U+{:04X}\" = 'x'\n", 0xe000 + i))
                    ),
                )
            }),
        ),
        (
            "a long name",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/wealdmist/setup.toml",
                    &format!(
                        "[palettes.a]\n{} = 1\n[roles]\nx = '{}'\n",
                        "k".repeat(100_000),
                        "c".repeat(100_000)
                    ),
                )
            }),
        ),
        (
            "a large file of ours",
            Box::new(|s: &Scratch| {
                s.write(".bashrc", ". ~/.config/wealdmist/prompt.bash\n");
                s.write(
                    ".config/wealdmist/prompt.bash",
                    &lines(n * 20, &|i| format!("# line {i} that is not ours\n")),
                )
            }),
        ),
        (
            "one long line",
            Box::new(|s: &Scratch| {
                s.write(
                    ".config/kitty/kitty.conf",
                    &format!("font_family {}\n", "x".repeat(1_000_000)),
                )
            }),
        ),
        (
            "quotes that never end",
            Box::new(|s: &Scratch| {
                s.write(
                    ".tmux.conf",
                    &lines(n, &|_| "set -g @a \"\n\u{f07b} '\n".into()),
                )
            }),
        ),
    ];
    let mut too_much = Vec::new();
    for (what, make) in cases {
        let s = Scratch::new();
        make(&s);
        for arguments in [
            vec!["survey"],
            vec!["check", "--fail-on", "never"],
            vec!["plan"],
        ] {
            let run = measured(&s, &arguments);
            let slow = run.took > Duration::from_secs(2) * SLOW || run.most > 400;
            if slow {
                too_much.push(format!(
                    "{what}: {} took {:?} and {} MiB",
                    arguments[0], run.took, run.most
                ));
            }
        }
    }
    assert!(too_much.is_empty(), "{too_much:#?}");
}
