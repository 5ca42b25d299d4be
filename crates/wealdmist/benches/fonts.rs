//! Reading fonts and searching files for glyphs, whole processes beside another program's in one
//! run: `wealdmist font list` and fontconfig's scan of the same folder, `wealdmist glyphs` and a
//! fast grep for bytes outside ASCII in the same tree.
//!
//! `cargo bench -p wealdmist --bench fonts`; needs `fc-scan`, and `rg` or `grep`. The more fonts
//! are installed below /usr/share/fonts the more the first tells.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stdout)]

use std::fs;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use wealdmist_host::{FontIndex, Home, glyphs_in, index_path};

const RUNS: usize = 7;
const FONTS: &str = "/usr/share/fonts";

fn median(mut run: impl FnMut()) -> Duration {
    let mut times: Vec<Duration> = (0..RUNS)
        .map(|_| {
            let begin = Instant::now();
            run();
            begin.elapsed()
        })
        .collect();
    times.sort();
    times[RUNS / 2]
}

fn quiet(mut command: Command) -> bool {
    let status = command
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .status();
    status.is_ok_and(|s| s.code().is_some())
}

fn ours(home: &Path, arguments: &[&str]) {
    let mut command = Command::new(env!("CARGO_BIN_EXE_wealdmist"));
    command.arg("--home").arg(home).args(arguments);
    assert!(quiet(command));
}

fn main() {
    // `cargo test --benches` runs this too; only `cargo bench` is meant.
    if !std::env::args().any(|a| a == "--bench") {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("home");
    fs::create_dir(&path).unwrap();
    let home = Home::open(Some(&path)).unwrap();
    index(&home, &path);
    scan(&path, &folder.path().join("tree"));
}

fn index(home: &Home, path: &Path) {
    let faces = FontIndex::open(home).catalog().faces.len();
    println!("{faces} faces below {FONTS}, median of {RUNS}");
    let cold = median(|| {
        let _ = fs::remove_file(index_path(home));
        ours(path, &["font", "list", "--all"]);
    });
    println!(
        "  ours, cold                 {:8.1} ms",
        cold.as_secs_f64() * 1e3
    );
    let warm = median(|| ours(path, &["font", "list", "--all"]));
    println!(
        "  ours, from the index       {:8.1} ms",
        warm.as_secs_f64() * 1e3
    );
    let inside = median(|| {
        let _ = fs::remove_file(index_path(home));
        let _ = FontIndex::open(home).catalog();
    });
    println!(
        "  the index alone, cold      {:8.1} ms",
        inside.as_secs_f64() * 1e3
    );
    let inside = median(|| {
        let _ = FontIndex::open(home).catalog();
    });
    println!(
        "  the index alone, warm      {:8.1} ms",
        inside.as_secs_f64() * 1e3
    );
    let mut command = Command::new("fc-scan");
    command.args(["--format", "%{family} %{style}\n", FONTS]);
    if quiet(command) {
        let theirs = median(|| {
            let mut command = Command::new("fc-scan");
            command.args(["--format", "%{family} %{style}\n", FONTS]);
            quiet(command);
        });
        println!(
            "  fontconfig's scan          {:8.1} ms   {:.1} times ours",
            theirs.as_secs_f64() * 1e3,
            theirs.as_secs_f64() / cold.as_secs_f64()
        );
    } else {
        println!("  fc-scan is not here: nothing to compare with");
    }
}

/// A tree of dotfiles: mostly plain settings, a few signs and escapes.
fn scan(home: &Path, tree: &Path) {
    let plain = "# a comment of usual length, as people write them\nset -g status-style 'fg=#112233,bg=#445566'\nbind-key -n M-h select-pane -L\n";
    let signs = "set -g status-left '\u{e0b0} \\ue0a0 \u{2192}'\n";
    for i in 0..2_000 {
        let file = tree.join(format!("{}/{i}.conf", i % 40));
        fs::create_dir_all(file.parent().unwrap()).unwrap();
        let mut text = plain.repeat(80);
        if i % 10 == 0 {
            text.push_str(signs);
        }
        text.push_str(&plain.repeat(10));
        fs::write(file, text).unwrap();
    }
    let roots = [tree.to_owned()];
    let found = glyphs_in(&roots).len();
    println!("2000 files, 26 MB, {found} glyphs, median of {RUNS}");
    let inside = median(|| {
        let _ = glyphs_in(&roots);
    });
    println!(
        "  the search alone           {:8.1} ms",
        inside.as_secs_f64() * 1e3
    );
    let text = tree.display().to_string();
    let whole = median(|| ours(home, &["glyphs", &text, "--json"]));
    println!(
        "  ours, the whole command    {:8.1} ms",
        whole.as_secs_f64() * 1e3
    );
    let greps: [(&str, &[&str]); 2] = [
        ("rg", &["-uuu", "-c", "[^\\x00-\\x7F]"]),
        ("grep", &["-rcP", "[^\\x00-\\x7F]"]),
    ];
    for (program, arguments) in greps {
        let search = || {
            let mut command = Command::new(program);
            command.args(arguments).arg(tree);
            quiet(command)
        };
        if search() {
            let theirs = median(|| {
                search();
            });
            println!(
                "  {program:<4} for bytes above 7F    {:8.1} ms",
                theirs.as_secs_f64() * 1e3
            );
        }
    }
}
