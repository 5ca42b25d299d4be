//! What a prompt costs in the real shells: each design drawn many times, outside a repository, in one of
//! 1,000 and in one of 100,000 files, beside git's own answer and a call of nothing, in one run.
//!
//! `cargo bench -p wealdmist --bench prompt`

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stdout)]

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use wealdmist_core::look::Look;
use wealdmist_core::prompt::ready;
use wealdmist_core::setup::SetupDoc;
use wealdmist_tools::{Engine, adapters};

/// What git is asked when it is measured.
const GIT: [&str; 4] = [
    "--no-optional-locks",
    "status",
    "--porcelain=v2",
    "--branch",
];

/// How often a prompt is drawn.
const DRAWS: u32 = 60;

fn command(home: &Path, folder: &Path, program: &str) -> Command {
    let mut command = Command::new(program);
    command
        .env_clear()
        .env("PATH", std::env::var_os("PATH").unwrap_or_default())
        .env("HOME", home)
        .env("USER", "warden")
        .env("LANG", "C.UTF-8")
        .env("TERM", "xterm-256color")
        .env("COLORTERM", "truecolor")
        .env("COLUMNS", "80")
        .current_dir(folder)
        .stdin(Stdio::null())
        .stderr(Stdio::null())
        .stdout(Stdio::null());
    command
}

/// The time a shell takes for a line, the middle of five.
fn took(home: &Path, folder: &Path, shell: &str, line: &str) -> Duration {
    let mut times: Vec<Duration> = (0..5)
        .map(|_| {
            let begin = Instant::now();
            let done = command(home, folder, shell)
                .args(["-i", "-c", line])
                .status();
            assert!(done.is_ok());
            begin.elapsed()
        })
        .collect();
    times.sort();
    times[2]
}

/// The time git takes for its own answer, the middle of fifty.
fn git_alone(home: &Path, repository: &Path) -> Duration {
    let mut times: Vec<Duration> = (0..50)
        .map(|_| {
            let begin = Instant::now();
            let _ = command(home, repository, "git").args(GIT).status();
            begin.elapsed()
        })
        .collect();
    times.sort();
    times[25]
}

/// A repository of so many files, all of them as they were last committed.
fn repository(home: &Path, name: &str, files: u32) -> PathBuf {
    let repository = home.join(name);
    for n in 0..files {
        let path = repository.join(format!("{}/{}/file{n}", n % 20, n / 1000));
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, "x\n").unwrap();
    }
    // Files as old as the index would be read each time.
    std::thread::sleep(Duration::from_millis(1100));
    for arguments in [
        &["init", "-q"][..],
        &["add", "."],
        &[
            "-c",
            "user.name=w",
            "-c",
            "user.email=w@x.invalid",
            "commit",
            "-qm",
            "one",
        ],
    ] {
        let done = command(home, &repository, "git").args(arguments).status();
        assert!(done.is_ok_and(|d| d.success()), "git {arguments:?}");
    }
    repository
}

fn main() {
    let folder = tempfile::tempdir().unwrap();
    let home = folder.path();
    std::fs::create_dir_all(home.join(".local/share/fish/generated_completions")).unwrap();
    std::fs::create_dir_all(home.join(".config/wealdmist")).unwrap();
    let few = repository(home, "few", 1000);
    let many = repository(home, "many", 100_000);
    let ms = |d: Duration| d.as_secs_f64() * 1e3;
    println!(
        "{:<12} {:<10} {:>12} {:>16} {:>16}",
        "milliseconds", "", "outside", "in 1,000 files", "in 100,000"
    );
    let shells = adapters().into_iter().filter_map(|a| match a.engine() {
        Engine::Sourced(row) => Some((a, row)),
        _ => None,
    });
    for (adapter, row) in shells {
        let (shell, draws) = (row.program, row.drawing.ours);
        if Command::new(shell).arg("--version").output().is_err() {
            println!("{shell} is not installed");
            continue;
        }
        let [alone, large] = [&few, &many].map(|r| ms(git_alone(home, r)));
        println!(
            "{:<12} {:<10} {:>12} {alone:>16.2} {large:>16.2}",
            "git status", "alone", ""
        );
        // As the shell itself starts it and takes its answer.
        let asks = match shell {
            "fish" => format!("for n in (seq {DRAWS}); set x (git {}); end", GIT.join(" ")),
            _ => format!(
                "for ((n = 0; n < {DRAWS}; n++)); do x=$(git {}); done",
                GIT.join(" ")
            ),
        };
        let by_itself = ms(took(home, &few, shell, &asks)
            .saturating_sub(took(home, &few, shell, "true"))
            / DRAWS);
        println!(
            "{:<12} {:<10} {:>12} {by_itself:>16.2}",
            "git status", shell, ""
        );
        for ready in ready::ALL {
            let doc = SetupDoc::parse("s", b"[palettes.a]\n").unwrap();
            let doc = doc.with_prompt(ready.toml).unwrap();
            let made = adapter
                .generated(doc.setup(), &Look::new(doc.setup()))
                .unwrap();
            let path = home.join(".config/wealdmist").join(made.0);
            std::fs::write(&path, made.1.into_bytes()).unwrap();
            let load = format!(". {}", path.display());
            let one = |folder: &Path, times: u32| {
                let line = format!("{load}; {}", draws.replace("@N@", &times.to_string()));
                let whole = took(home, folder, shell, &line);
                let empty = took(home, folder, shell, &load);
                ms(whole.saturating_sub(empty) / times)
            };
            let (outside, inside) = (one(home, DRAWS), one(&few, DRAWS));
            let large = one(&many, 5);
            println!(
                "{shell:<12} {:<10} {outside:>12.2} {inside:>16.2} {large:>16.2}",
                ready.name
            );
        }
    }
}
