//! Taking 16 colors from a 12-megapixel image, whole processes side by side in one run:
//! `wealdmist palette image` and ImageMagick's quantisation of the same file to as many colors.
//!
//! `cargo bench -p wealdmist --bench extract`; needs ImageMagick (`convert`), which also makes
//! the images.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stdout)]

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

const RUNS: usize = 5;

/// ImageMagick itself, not a stand-in of the same name that may come first on the path.
fn convert() -> Command {
    let usual = "/usr/bin/convert";
    Command::new(if Path::new(usual).exists() {
        usual
    } else {
        "convert"
    })
}

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

fn main() {
    // `cargo test --benches` runs this too; only `cargo bench` is meant.
    if !std::env::args().any(|a| a == "--bench") {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let home = folder.path().join("home");
    std::fs::create_dir(&home).unwrap();
    println!("median of {RUNS}, 4000 by 3000 pixels, 16 colors");
    for ending in ["jpg", "png"] {
        let image = folder.path().join(format!("picture.{ending}"));
        let made = convert()
            .args([
                "-seed",
                "7",
                "-size",
                "4000x3000",
                "plasma:tomato-steelblue",
                "-quality",
                "90",
            ])
            .arg(&image)
            .status();
        if !made.is_ok_and(|s| s.success()) {
            println!("ImageMagick is not here: nothing to compare with");
            return;
        }
        let ours = || {
            let output = Command::new(env!("CARGO_BIN_EXE_wealdmist"))
                .arg("--home")
                .arg(&home)
                .args(["palette", "image", "--dry-run"])
                .arg(&image)
                .stderr(Stdio::null())
                .output()
                .unwrap();
            assert!(output.status.success());
            output.stdout
        };
        assert_eq!(ours(), ours(), "the same image gives the same colors");
        let own = median(|| drop(ours()));
        let theirs = median(|| {
            let output = convert()
                .arg(&image)
                .args(["-colors", "16", "-unique-colors", "txt:-"])
                .output()
                .unwrap();
            assert!(output.status.success());
        });
        println!(
            "{ending}: wealdmist {} ms, ImageMagick {} ms",
            own.as_millis(),
            theirs.as_millis()
        );
    }
}
