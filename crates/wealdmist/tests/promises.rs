//! Promises that hold on homes of any colors: what is repaired stays repaired once it is written, and a
//! palette that goes out and comes back changes nothing.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;
#[path = "readings/dice.rs"]
#[allow(dead_code, clippy::print_stderr)]
mod dice;

use common::Scratch;
use dice::{Dice, run};
use wealdmist_tools::exchange::FORMATS;

/// A home of three tools in colors of chance, many of which cannot be read.
fn home(dice: &mut Dice) -> Scratch {
    let s = Scratch::new();
    let light = dice.percent(40);
    let mut color = |near: u8, far: u8| {
        let [r, g, b, ..] = dice.next().to_le_bytes();
        let one = |n: u8| near + (u16::from(n) * u16::from(far - near) / 255) as u8;
        format!("#{:02x}{:02x}{:02x}", one(r), one(g), one(b))
    };
    let (ground, text) = match light {
        true => (color(225, 255), color(0, 120)),
        false => (color(0, 40), color(120, 255)),
    };
    let mut kitty = format!("background {ground}\nforeground {text}\n");
    for i in 0..16 {
        kitty.push_str(&format!("color{i} {}\n", color(20, 235)));
    }
    kitty.push_str(&format!("selection_background {}\n", color(40, 210)));
    s.write(".config/kitty/kitty.conf", &kitty);
    let mut tmux = String::new();
    for option in [
        "status-style",
        "message-style",
        "window-status-current-style",
    ] {
        let (fg, bg) = (color(60, 255), color(0, 120));
        tmux.push_str(&format!("set -g {option} 'fg={fg},bg={bg}'\n"));
    }
    s.write(".tmux.conf", &tmux);
    let mut init = format!("set termguicolors\nhi Normal guifg={text} guibg={ground}\n");
    for group in [
        "Comment",
        "String",
        "Function",
        "Statement",
        "Type",
        "LineNr",
        "Visual",
    ] {
        let side = if group == "Visual" { "guibg" } else { "guifg" };
        init.push_str(&format!("hi {group} {side}={}\n", color(20, 235)));
    }
    s.write(".config/nvim/init.vim", &init);
    s
}

/// How many pairs stay below their target, as `repair` says.
fn left(said: &str) -> usize {
    let first = said.lines().next().unwrap();
    let word = first.split(", ").last().unwrap();
    word.split(' ').next().unwrap().parse().expect(first)
}

/// After a repair that says that every pair reaches its target, and an apply, a new look finds none below it.
/// The files that are generated draw pairs, too.
#[test]
fn what_was_repaired_is_not_found_again_once_it_is_written() {
    let (seed, rounds) = run(12);
    let mut dice = Dice::new(seed);
    let mut whole = 0;
    for round in 0..rounds {
        let s = home(&mut dice);
        s.said(&["init"], &[0]);
        if round.is_multiple_of(2) {
            s.said(&["set", "tools.nvim.generate", "true"], &[0]);
        }
        // One run after another, as long as each finds more to do.
        let mut open = usize::MAX;
        loop {
            let said = s.said(&["repair"], &[0, 1]);
            let now = left(&said);
            if now == 0 || now >= open {
                open = now;
                break;
            }
            open = now;
        }
        s.said(&["apply", "--no-reload"], &[0, 1]);
        let said = s.said(&["contrast", "--json"], &[0, 1]);
        let all: serde_json::Value = serde_json::from_str(&said).unwrap();
        let is_open = |pair: &&serde_json::Value| {
            let ratio = pair["now"]["ratio"].as_f64().unwrap();
            // What a program does by itself stands in no file that could be changed.
            ratio < pair["target"].as_f64().unwrap() && pair["by_itself"] == false
        };
        let failing: Vec<_> = all["pairs"]
            .as_array()
            .unwrap()
            .iter()
            .filter(is_open)
            .collect();
        assert!(
            open > 0 || failing.is_empty(),
            "seed {seed}, home {round}: {failing:#?}"
        );
        whole += usize::from(open == 0);
        s.said(&["plan"], &[0]);
    }
    assert!(
        whole * 4 > rounds,
        "{whole} of {rounds} homes were mended whole"
    );
}

/// A palette that is written in a format and read again changes no dotfile.
#[test]
fn a_palette_goes_through_every_format_and_back() {
    for format in FORMATS.iter().map(|f| f.id) {
        let s = Scratch::demo();
        s.said(&["init"], &[0]);
        let before = s.said(&["plan"], &[1]);
        s.said(&["export", format, "-o", "palette.out"], &[0]);
        let file = s.home().join("palette.out");
        let file = file.to_str().unwrap();
        s.said(
            &[
                "import", file, "--format", format, "--name", "again", "--use",
            ],
            &[0],
        );
        assert!(
            s.read(".config/wealdmist/setup.toml")
                .contains("palette = \"again\"")
        );
        assert_eq!(s.said(&["plan"], &[1]), before, "{format}");
    }
}
