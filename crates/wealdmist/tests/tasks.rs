//! Everyday tasks, done as a practised person does them: in the interface, from its first screen to the written
//! files, in no more keys than stand here.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)]

mod common;

use common::{Scratch, have, picture, wait_for};

/// Somebody at the interface, on the sample home.
struct Person {
    s: Scratch,
    keys: usize,
}

impl Person {
    fn sits_down() -> Self {
        let s = Scratch::demo();
        s.open_interface(160, 47, "");
        let person = Self { s, keys: 0 };
        person.sees("1 Survey");
        person
    }

    fn sees(&self, text: &str) {
        wait_for(text, || self.s.screen("0").contains(text).then_some(()));
    }

    /// Presses keys; each name is one.
    fn presses(&mut self, keys: &[&str]) {
        self.keys += keys.len();
        let mut all = vec!["send-keys", "-t", "0"];
        all.extend(keys);
        self.s.tmux(&all);
    }

    /// Types a text, a key for each character.
    fn types(&mut self, text: &str) {
        self.keys += text.chars().count();
        self.s.tmux(&["send-keys", "-t", "0", "-l", text]);
    }

    /// Pastes a text, which is one act.
    fn pastes(&mut self, text: &str) {
        self.keys += 1;
        self.s.tmux(&["send-keys", "-t", "0", "-l", text]);
    }

    /// Goes to the last step and applies.
    fn applies(&mut self) {
        self.presses(&["8"]);
        self.sees("take / leave out");
        self.presses(&["Enter"]);
        self.sees("applied as number");
    }

    fn reads(&self, file: &str) -> String {
        self.s.read(file)
    }

    /// The task is done; in how many keys it may be.
    fn is_done_in(&self, most: usize) {
        assert!(self.keys <= most, "{} keys, not {most}", self.keys);
    }
}

const KITTY: &str = ".config/kitty/kitty.conf";
const DUSK: &str = ".config/kitty/dusk.conf";
const ALACRITTY: &str = ".config/alacritty/alacritty.toml";
const TMUX: &str = ".config/tmux/tmux.conf";
const CREEK: &str = ".config/nvim/colors/creek.lua";

/// Whether everything can be tried here.
fn can() -> bool {
    have(&["tmux"])
}

#[test]
fn a_font_everywhere() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    p.presses(&["4"]);
    p.sees("Sedge Mono NF");
    p.presses(&["Down", "Enter"]);
    p.applies();
    let kitty = p.reads(KITTY);
    let line = kitty
        .lines()
        .find(|l| l.starts_with("font_family"))
        .unwrap();
    let family = line["font_family".len()..].trim();
    assert_ne!(family, "Reedbed Mono NF");
    assert!(
        p.reads(ALACRITTY)
            .contains(&format!("family = \"{family}\"")),
        "{family}"
    );
    p.is_done_in(5);
}

#[test]
fn a_font_size_and_only_that() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    p.presses(&["Down", "Enter"]);
    p.sees("font size, 1 to 400, now 12");
    p.types("14");
    p.presses(&["Enter"]);
    p.applies();
    assert!(p.reads(KITTY).contains("font_size        14"));
    assert!(p.reads(ALACRITTY).contains("size = 14"));
    assert!(p.reads(".config/nvim/init.lua").contains(":h14"));
    // What differed before is as it was.
    assert!(p.reads(TMUX).contains("#528b8e") && p.reads(ALACRITTY).contains("0xcfae61"));
    p.is_done_in(7);
}

#[test]
fn opacity_and_padding() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    p.presses(&["Down", "Down", "Enter"]);
    p.sees("opacity, 0 to 1, now 1");
    p.types(".9");
    p.presses(&["Enter"]);
    p.applies();
    assert!(
        p.reads(KITTY).contains("background_opacity   0.9"),
        "{}",
        p.reads(KITTY)
    );
    assert!(p.reads(ALACRITTY).contains("opacity = 0.9"));
    p.is_done_in(8);
    p.keys = 0;
    p.presses(&["1", "Down", "Enter"]);
    p.sees("padding, 0 to 1000, now 4");
    p.types("8");
    p.presses(&["Enter"]);
    p.applies();
    assert!(
        p.reads(KITTY).contains("window_padding_width 8"),
        "{}",
        p.reads(KITTY)
    );
    p.is_done_in(8);
}

#[test]
fn a_palette_from_a_file() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    let text = "*foreground: #d0d4d8\n*background: #101418\n*color1: #e07070\n";
    p.s.write("night.Xresources", text);
    p.presses(&["2", "n"]);
    p.sees("a new palette, from");
    p.presses(&["f"]);
    p.sees("palette file");
    p.pastes("~/night.Xresources");
    p.presses(&["Enter"]);
    p.sees("take it");
    p.presses(&["Enter"]);
    p.applies();
    assert!(p.reads(DUSK).contains("#101418"), "{}", p.reads(DUSK));
    assert!(p.reads(CREEK).contains("#101418"));
    p.is_done_in(9);
}

#[test]
fn the_worst_pair_and_all_pairs() {
    if !can() {
        return;
    }
    for (key, most) in [("m", 5), ("r", 5)] {
        let mut p = Person::sits_down();
        let before = (p.reads(DUSK), p.reads(CREEK));
        p.presses(&["3"]);
        p.sees("mend this pair");
        p.presses(&[key]);
        p.sees("take it");
        p.presses(&["Enter"]);
        p.applies();
        assert_ne!(before, (p.reads(DUSK), p.reads(CREEK)), "{key}");
        p.is_done_in(most);
    }
}

#[test]
fn a_missing_icon() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    let before = p.reads(".config/tmux/bar.conf");
    p.presses(&["5"]);
    p.sees("replace by this");
    p.presses(&["Enter"]);
    p.applies();
    assert_ne!(before, p.reads(".config/tmux/bar.conf"));
    p.is_done_in(6);
}

#[test]
fn a_lighter_comment() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    let before = p.reads(CREEK);
    p.presses(&["/"]);
    p.types("com");
    p.presses(&["Enter", "Enter"]);
    p.sees("lightness");
    p.presses(&["S-Right"]);
    p.applies();
    let after = p.reads(CREEK);
    let comment = |text: &str| {
        text.lines()
            .find(|l| l.contains("\"Comment\""))
            .unwrap()
            .to_owned()
    };
    assert_ne!(comment(&before), comment(&after));
    p.is_done_in(9);
}

#[test]
fn the_last_apply_taken_back() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    let of_home = |p: &Person| {
        let mut all = picture(&p.s.home());
        let own = [".local", ".cache", ".config/wealdmist"].map(|f| p.s.home().join(f));
        all.retain(|path, _| !own.iter().any(|o| path.starts_with(o)));
        all
    };
    let before = of_home(&p);
    p.presses(&["8", "a"]);
    p.presses(&["Enter"]);
    p.sees("applied as number");
    assert_ne!(before, of_home(&p));
    p.keys = 0;
    p.presses(&["8", "x"]);
    p.sees("is taken back");
    assert_eq!(before, of_home(&p));
    p.is_done_in(2);
}

#[test]
fn an_exception_with_its_reason() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    p.presses(&["e"]);
    p.sees("why may nvim differ in font?");
    p.types("old spelling");
    p.presses(&["Enter"]);
    p.sees("1 Survey 6");
    p.applies_all();
    assert!(p.reads(".config/nvim/init.lua").contains("ReedbedMono NF"));
    assert!(
        p.reads(".config/wealdmist/setup.toml")
            .contains("old spelling")
    );
    p.is_done_in(18);
}

impl Person {
    /// Takes everything that differs and applies it.
    fn applies_all(&mut self) {
        self.presses(&["8"]);
        self.sees("take / leave out");
        self.presses(&["a", "Enter"]);
        self.sees("applied as number");
    }
}

#[test]
fn one_file_only() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    let before = (p.reads(ALACRITTY), p.reads(CREEK));
    p.presses(&["8"]);
    p.sees("0 of 10 taken");
    p.presses(&["Down", "Down", "Down", "Down", "Down", "o", "Enter"]);
    p.sees("applied as number");
    assert!(p.reads(TMUX).contains("#74c5c1"));
    assert_eq!(before, (p.reads(ALACRITTY), p.reads(CREEK)));
    p.is_done_in(13);
}

#[test]
fn one_tools_value_for_all() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    // The first screen points at the first drift.
    p.presses(&["a"]);
    p.applies();
    assert!(p.reads(KITTY).contains("font_family      ReedbedMono NF"));
    p.is_done_in(3);
}

#[test]
fn a_tool_set_to_the_setup_and_no_other() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    p.presses(&["s"]);
    p.sees("taken: step 8");
    p.applies();
    assert!(
        p.reads(".config/nvim/init.lua")
            .contains("Reedbed Mono NF:h12")
    );
    assert!(p.reads(TMUX).contains("#528b8e"));
    p.is_done_in(3);
}

#[test]
fn the_light_side_and_back() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    let before = p.reads(DUSK);
    p.presses(&["2", "n"]);
    p.sees("counterpart");
    p.presses(&["c"]);
    p.sees("take it");
    p.presses(&["Enter"]);
    p.applies();
    assert_ne!(before, p.reads(DUSK));
    p.is_done_in(7);
    p.keys = 0;
    p.presses(&["D", "Enter"]);
    p.sees("applied as number 2");
    assert_eq!(before, p.reads(DUSK));
    p.is_done_in(2);
}

#[test]
fn a_bold_face_of_another_family() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    p.presses(&["4"]);
    p.sees("Sedge Mono NF");
    if !p.s.screen("0").contains("DejaVu Sans Mono") {
        common::skip("no family with a bold face is installed");
        return;
    }
    p.presses(&["b", "Home", "Down", "Down", "Enter"]);
    p.applies();
    let kitty = p.reads(KITTY);
    assert!(kitty.contains("\nbold_font"), "{kitty}");
    assert!(
        kitty.contains("font_family      Reedbed Mono NF"),
        "{kitty}"
    );
    p.is_done_in(8);
}

#[test]
fn everything_packed_to_be_shared() {
    if !can() {
        return;
    }
    let mut p = Person::sits_down();
    p.presses(&["8", "p"]);
    p.sees("pack into");
    p.presses(&["Enter"]);
    p.sees("packed into ~/");
    let packed = std::fs::read_dir(p.s.home()).unwrap().flatten();
    let is_tar = |e: &std::fs::DirEntry| e.path().extension().is_some_and(|e| e == "tar");
    assert_eq!(packed.filter(is_tar).count(), 1);
    p.is_done_in(8);
}

#[test]
fn a_prompt_of_ones_own_in_every_shell() {
    if !have(&["tmux", "bash", "zsh", "fish"]) {
        return;
    }
    let mut p = Person::sits_down();
    let before = picture(&p.s.home());
    p.presses(&["6"]);
    p.sees("the whole prompt");
    // Another design, its branch carried to the other side, dots in the stretch, past prompts short.
    p.presses(&["d"]);
    p.sees("nothing is taken before Enter");
    p.presses(&["Down", "Down", "Down", "Enter"]);
    p.sees("Sluice");
    p.presses(&["Right", "Right", "Right", "o", "S"]);
    p.types("·");
    p.presses(&["Enter", "p", "p"]);
    p.sees("the sign alone");
    p.presses(&["Enter"]);
    p.applies();
    p.is_done_in(18);
    let setup = p.reads(".config/wealdmist/setup.toml");
    assert!(setup.contains("right = [\"branch\"]"), "{setup}");
    for (file, line) in [
        (".bashrc", "wealdmist/prompt.bash"),
        (".zshrc", "wealdmist/prompt.zsh"),
        (".config/fish/config.fish", "wealdmist/prompt.fish"),
    ] {
        assert!(p.reads(file).contains(line), "{file}");
    }
    p.presses(&["x"]);
    p.sees("is taken back");
    for (path, bytes) in before {
        assert_eq!(
            std::fs::read(p.s.home().join(&path)).ok(),
            Some(bytes),
            "{}",
            path.display()
        );
    }
}
