//! Two of us in one home at a time.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::process::{Child, Stdio};

use common::Scratch;

fn start(s: &Scratch, arguments: &[&str]) -> Child {
    s.command(env!("CARGO_BIN_EXE_wealdmist"))
        .args(arguments)
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap()
}

fn ended(child: Child) -> (i32, String) {
    let out = child.wait_with_output().unwrap();
    let text = String::from_utf8_lossy(&out.stdout).into_owned();
    let errors = String::from_utf8_lossy(&out.stderr).into_owned();
    (out.status.code().unwrap_or(-1), text + &errors)
}

#[test]
fn changes_of_two_at_once_are_both_kept() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    for round in 0..25u32 {
        let (a, b) = (
            format!("#{:06x}", 0x10_0000 + round),
            format!("#{:06x}", 0x20_0000 + round),
        );
        let both = [
            start(&s, &["set", "comment", &a]),
            start(&s, &["set", "string", &b]),
        ];
        for one in both {
            let (code, text) = ended(one);
            assert_eq!(code, 0, "{text}");
        }
        let setup = s.read(".config/wealdmist/setup.toml");
        assert!(
            setup.contains(&a) && setup.contains(&b),
            "round {round}: {setup}"
        );
    }
}

#[test]
fn apply_beside_undo_never_leaves_a_half() {
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    let files = [
        ".config/kitty/kitty.conf",
        ".config/tmux/tmux.conf",
        ".config/nvim/init.lua",
        ".bashrc",
    ];
    let picture = |s: &Scratch| files.map(|f| s.read(f));
    let old = picture(&s);
    s.said(&["apply", "--no-reload"], &[0]);
    let new = picture(&s);
    assert_ne!(old, new);
    for round in 0..25 {
        let both = [
            start(&s, &["undo", "--no-reload"]),
            start(&s, &["apply", "--no-reload"]),
        ];
        for one in both {
            let (code, text) = ended(one);
            assert!(matches!(code, 0 | 3), "round {round}: {text}");
        }
        let now = picture(&s);
        assert!(now == old || now == new, "round {round} left a mixture");
        if now == old {
            s.said(&["apply", "--no-reload"], &[0]);
            assert_eq!(picture(&s), new);
        }
    }
}
