//! What `plan` writes is a patch: the programs for patches make of a home what `apply` makes of it.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stderr)]

mod common;
#[path = "readings/dice.rs"]
#[allow(dead_code)]
mod dice;

use std::collections::BTreeMap;
use std::fs;
use std::io::Write as _;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use common::{Scratch, have};
use dice::Dice;

/// A line of a file of the terminal's, with what is hard on patches.
fn line(dice: &mut Dice) -> Vec<u8> {
    let color = format!("#{:06x}", dice.below(1 << 24));
    let name = dice.pick(&[
        "foreground",
        "background",
        "color1",
        "color2",
        "cursor",
        "url_color",
    ]);
    match dice.below(9) {
        0..=3 => format!("{name}\t{color}  ").into_bytes(),
        4 => format!("\t {name} {color}").into_bytes(),
        5 => b"# \xff\xfe raw \x1b[31m bytes".to_vec(),
        6 => "# \u{e0b0} private \u{a0} blanks ".as_bytes().to_vec(),
        7 => b"--- a/not/a/name\n+++ b/nor/this\n@@ -1,1 +1,1 @@".to_vec(),
        _ => b"\\ No newline at end of file".to_vec(),
    }
}

fn file(dice: &mut Dice) -> Vec<u8> {
    let end: &[u8] = if dice.percent(30) { b"\r\n" } else { b"\n" };
    let mut out = Vec::new();
    for _ in 0..3 + dice.below(30) {
        out.extend(line(dice));
        out.extend_from_slice(end);
    }
    out.extend_from_slice(b"foreground #010203");
    if dice.percent(60) {
        out.extend_from_slice(end);
    }
    out
}

/// The files below a folder that are not ours.
fn files(folder: &Path) -> BTreeMap<PathBuf, Vec<u8>> {
    let all = common::picture(folder).into_iter();
    let mut all: BTreeMap<PathBuf, Vec<u8>> = all
        .map(|(path, bytes)| (path.strip_prefix(folder).unwrap_or(&path).to_owned(), bytes))
        .collect();
    let own = [".config/wealdmist/setup.toml", ".local/state", ".cache"];
    all.retain(|path, _| !own.iter().any(|o| path.starts_with(o)));
    all
}

fn copy(from: &Path, to: &Path) {
    for (path, bytes) in common::picture(from) {
        let target = to.join(path.strip_prefix(from).unwrap_or(&path));
        fs::create_dir_all(target.parent().unwrap()).unwrap();
        fs::write(target, bytes).unwrap();
    }
}

#[test]
fn patch_programs_make_of_a_plan_what_apply_makes() {
    if !have(&["patch", "git"]) {
        return;
    }
    let mut dice = Dice::new(28);
    for round in 0..40 {
        let s = Scratch::new();
        let home = s.home();
        for name in [
            ".config/kitty/kitty.conf",
            ".config/kitty/with space.conf",
            ".config/kitty/a\"b.conf",
        ] {
            let mut text = file(&mut dice);
            if name.ends_with("kitty.conf") {
                let mut head = b"include with space.conf\ninclude a\"b.conf\n".to_vec();
                head.append(&mut text);
                text = head;
            }
            fs::create_dir_all(home.join(name).parent().unwrap()).unwrap();
            fs::write(home.join(name), text).unwrap();
        }
        s.write(".bashrc", "alias m='echo mist'\n");
        s.said(&["init"], &[0]);
        for slot in ["foreground", "background", "red", "green", "cursor", "blue"] {
            s.said(
                &["set", slot, &format!("#{:06x}", dice.below(1 << 24))],
                &[0],
            );
        }
        let plan = s.run(&["plan"]);
        assert_eq!(plan.status.code(), Some(1), "something is planned");
        let (patched, applied) = (s.tmp().join("patched"), s.tmp().join("applied"));
        for (folder, program) in [(&patched, "patch"), (&applied, "git")] {
            copy(&home, folder);
            let mut command = Command::new(program);
            match program {
                "patch" => command.args(["-p1", "--quiet"]),
                _ => command.args(["apply", "--whitespace=nowarn", "-"]),
            };
            let mut child = command
                .current_dir(folder)
                .env("GIT_CEILING_DIRECTORIES", s.tmp())
                .stdin(Stdio::piped())
                .stdout(Stdio::piped())
                .stderr(Stdio::piped())
                .spawn()
                .unwrap();
            child.stdin.take().unwrap().write_all(&plan.stdout).unwrap();
            let out = child.wait_with_output().unwrap();
            assert!(
                out.status.success(),
                "{round}: {program} says {}{}\n{}",
                String::from_utf8_lossy(&out.stdout),
                String::from_utf8_lossy(&out.stderr),
                String::from_utf8_lossy(&plan.stdout)
            );
        }
        s.said(&["apply"], &[0]);
        let wanted = files(&home);
        assert_eq!(files(&patched), wanted, "{round}: patch");
        assert_eq!(files(&applied), wanted, "{round}: git apply");
    }
}
