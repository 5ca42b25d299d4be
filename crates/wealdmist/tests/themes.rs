//! The editor: what is applied it shows, at once and when it starts anew, with all that stood in the
//! person's own theme and overrides.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use std::path::Path;

use common::editor::{ask_nvim, nvim, sockets};
use common::{Scratch, have, wait_for};

#[test]
fn neovim_shows_what_was_applied() {
    if !have(&["nvim"]) {
        return;
    }
    let s = Scratch::demo();
    let (_editor, socket) = nvim(&s);
    let group = |name: &str, part: &str| {
        ask_nvim(
            &s,
            &socket,
            &format!("synIDattr(hlID('{name}'), '{part}#', 'gui')"),
        )
    };
    assert_eq!(group("Comment", "fg"), "#4b5a5d");
    s.said(&["init"], &[0]);
    s.said(&["set", "tools.nvim.generate", "true"], &[0]);
    s.said(&["set", "comment", "#8899aa"], &[0]);
    s.said(&["set", "line-number", "#778899"], &[0]);
    let said = s.said(&["apply"], &[0]);
    assert!(
        said.lines()
            .any(|l| l.contains("nvim (") && l.contains("shows what is written")),
        "{said}"
    );
    assert_eq!(group("Comment", "fg"), "#8899aa");
    assert_eq!(
        group("LineNr", "fg"),
        "#778899",
        "the override after the theme"
    );
    assert_eq!(group("DiffAdd", "bg").len(), 7);
    assert_eq!(ask_nvim(&s, &socket, "g:colors_name"), "wealdmist");
    // A color changed behind our back is noticed.
    ask_nvim(&s, &socket, "execute('highlight Comment guifg=#010203')");
    let said = s.said(&["verify", "nvim"], &[1]);
    assert!(said.contains("Comment text is #010203"), "{said}");
    // A fresh editor reads the generated file without a word of complaint.
    let output = s
        .command("nvim")
        .args(["--headless", "+qa"])
        .output()
        .unwrap();
    assert_eq!(String::from_utf8_lossy(&output.stderr), "");
}

#[test]
fn neovim_waiting_for_a_key_is_said_to_wait() {
    if !have(&["nvim", "tmux"]) {
        return;
    }
    let s = Scratch::demo();
    s.said(&["init"], &[0]);
    s.said(&["apply", "--no-reload"], &[0]);
    s.tmux(&["new-session", "-d", "-x", "100", "-y", "30", "nvim"]);
    wait_for("the editor", || {
        (!sockets(&s.tmp()).is_empty()).then_some(())
    });
    wait_for("its screen", || s.screen("0").contains('~').then_some(()));
    s.tmux(&["send-keys", "-t", "0", "\""]);
    let said = wait_for("the answer", || {
        let said = s.said(&["verify", "nvim"], &[0, 1]);
        said.contains("waits for a key").then_some(said)
    });
    assert!(said.contains("press Enter there"), "{said}");
}

/// What a group has in a running editor: text, ground and what else is on.
fn group(s: &Scratch, socket: &Path, name: &str) -> String {
    let code = "function(name) local look, out = vim.api.nvim_get_hl_by_name(name, true), {} for key, value in pairs(look) do table.insert(out, key .. (type(value) == 'number' and string.format('=#%06x', value) or '')) end table.sort(out) return table.concat(out, ' ') end";
    ask_nvim(s, socket, &format!("luaeval(\"({code})(_A)\", '{name}')"))
}

/// The same in an editor that is started anew.
fn group_anew(s: &Scratch, name: &str) -> String {
    let (editor, socket) = nvim(s);
    let found = group(s, &socket, name);
    drop(editor);
    std::fs::remove_dir_all(socket.parent().unwrap()).unwrap();
    found
}

const THEME: &str = r##"local set = vim.api.nvim_set_hl
vim.cmd("hi clear")
vim.g.colors_name = "creek"
set(0, "Normal", { fg = "#d0d4d8", bg = "#101418" })
set(0, "Comment", { fg = "#708090", italic = true })
set(0, "Function", { fg = "#90b0d0", bold = true })
set(0, "String", { fg = "#a0c090", strikethrough = true })
set(0, "Visual", { bg = "#203040", italic = true })
set(0, "MarshGauge", { fg = "#c0a070", underline = true })
set(0, "MarshTide", { bg = "#302010" })
vim.cmd("hi link MarshLevel Comment")
"##;

/// What a person's theme has beside the colors of known groups comes along where a generated one takes its
/// place, and what does not is told.
#[test]
fn a_generated_theme_has_what_the_one_before_it_had() {
    if !have(&["nvim"]) {
        return;
    }
    let s = Scratch::new();
    s.write(".config/nvim/colors/creek.lua", THEME);
    let init = "vim.o.termguicolors = true\nvim.cmd('colorscheme creek')\nvim.cmd('hi LineNr guifg=#556677 gui=bold')\n";
    s.write(".config/nvim/init.lua", init);
    let groups = [
        "Comment",
        "Function",
        "MarshGauge",
        "MarshTide",
        "MarshLevel",
        "LineNr",
        "Normal",
    ];
    let before = groups.map(|name| group_anew(&s, name));
    s.said(&["init"], &[0]);
    let setup = s.read(".config/wealdmist/setup.toml");
    assert!(
        setup.contains("italic = true") && setup.contains("bold = true"),
        "{setup}"
    );
    s.said(&["plan"], &[0]);
    s.said(&["set", "tools.nvim.generate", "true"], &[0]);
    let plan = s.said(&["plan"], &[1]);
    let lost = |what: &str| {
        plan.lines()
            .any(|l| l.contains("creek.lua:") && l.contains(what))
    };
    assert!(
        lost("strikethrough of String") && lost("italic of Visual"),
        "{plan}"
    );
    assert!(
        !plan.contains("of Comment:") && !plan.contains("of LineNr:"),
        "{plan}"
    );
    s.said(&["apply"], &[0]);
    let after = groups.map(|name| group_anew(&s, name));
    assert_eq!(after, before);
    s.said(&["undo"], &[0]);
    assert_eq!(groups.map(|name| group_anew(&s, name)), before);
}

/// A running editor is left as one that is started anew would be, overrides with their attributes included.
#[test]
fn overrides_keep_their_attributes_when_a_running_editor_is_told() {
    if !have(&["nvim"]) {
        return;
    }
    let s = Scratch::new();
    s.write(".config/nvim/colors/creek.lua", THEME);
    let init = "set termguicolors\ncolorscheme creek\nhi Comment guifg=#667788 gui=italic,bold\nhi Function gui=NONE\nhi SpellBad gui=undercurl guisp=#c05050\nhi Visual guibg=NONE gui=reverse\nhi clear String\n";
    s.write(".config/nvim/init.vim", init);
    s.said(&["init"], &[0]);
    let groups = [
        "Comment",
        "Function",
        "String",
        "SpellBad",
        "Visual",
        "MarshGauge",
    ];
    let (_editor, socket) = nvim(&s);
    let shown = || groups.map(|name| group(&s, &socket, name));
    let before = shown();
    assert!(
        before[0].contains("bold") && before[0].contains("italic"),
        "{before:?}"
    );
    let said = s.said(&["set", "comment", "#8899aa", "--apply"], &[0]);
    assert!(said.contains("shows what is written"), "{said}");
    let changed = shown();
    assert_eq!(changed[0], before[0].replace("#667788", "#8899aa"));
    assert_eq!(changed[1..], before[1..]);
    s.said(&["undo"], &[0]);
    assert_eq!(shown(), before);
    // What an editor shows otherwise than its files say is seen.
    ask_nvim(&s, &socket, "execute('highlight Comment gui=underline')");
    let said = s.said(&["verify", "nvim"], &[1]);
    assert!(
        said.contains("Comment style is underline, written is bold italic"),
        "{said}"
    );
    s.said(&["reload", "nvim"], &[0]);
    assert_eq!(shown(), before);
}
