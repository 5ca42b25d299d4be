//! The shell fish: a prompt script of ours, and the one line of `config.fish` that loads it.

mod eval;
mod git;
mod parts;
mod prompt;
mod script;

use std::ops::Range;
use std::path::Path;

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{Reading, ToolId, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;

use crate::access::Access;
use crate::live::{Asking, Live};
use crate::sourced::own::Piece;
use crate::sourced::painted::role_of;
use crate::sourced::{ARRIVES, Dialect, Drawing, Ran, Sourced, Written, bourne};

/// The row.
pub static FISH: Sourced = Sourced {
    id: ToolId("fish"),
    program: "fish",
    file: |access| access.config_home().join("fish/config.fish"),
    ours: "prompt.fish",
    comment: "#",
    syntax: Syntax::Shell,
    live: Live {
        asking: Some(Asking {
            program: "fish",
            arguments: &["-ic", ASK],
            script: None,
            ends: &[],
            dotfile: |said| (".config/fish/config.fish", said.to_owned()),
        }),
        ..ARRIVES
    },
    drawing: Drawing {
        arguments: &["-i", "-c"],
        folders: &[".local/share/fish/generated_completions"],
        ours: "for n in (seq @N@); fish_prompt >/dev/null; fish_right_prompt >/dev/null; end",
        own: "for n in (seq @N@); fish_prompt >/dev/null; end",
    },
    dialect: &Fish,
};

/// Says what the variables hold, as commands. What a prompt draws does not say what each part of it tells.
const ASK: &str = r#"set -g fish_term24bit 1
emit fish_prompt 2>/dev/null
set -l names (set -n | string match 'fish_color_*') (set -n | string match 'fish_pager_color_*')
printf '\036'
for name in $names
    string match -q 'fish_color_hg_*' $name; or echo "set -g $name" (string escape -- $$name)
end"#;

/// Its language.
struct Fish;

impl Dialect for Fish {
    fn keys(&self) -> (&'static str, &'static str) {
        ("fish_prompt", "fish_right_prompt")
    }

    fn pieces(&self, text: &[u8]) -> Vec<Piece> {
        prompt::pieces(text)
    }

    fn others(&self, name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
        prompt::others(name, text)
    }

    fn sets(&self, name: &str, value: &[u8]) -> Option<Code> {
        let name = quote(name, &[Quoting::Inert, Quoting::Bare])?;
        let mut words = Vec::new();
        for word in value.split(|b| *b == eval::BETWEEN) {
            let word = std::str::from_utf8(word).ok()?;
            // No word of a color has other signs: the program leaves it out, too.
            if !word.is_ascii() {
                continue;
            }
            words.push(quote(word, &[Quoting::Inert, Quoting::Bare])?);
        }
        let words = Code::join(words.iter(), " ");
        Some(Code::of("set -g {} {}", &[&name, &words]))
    }

    fn adds(&self, all: &[(RoleId, Rgb)]) -> Vec<(RoleId, Code)> {
        let mut lines: Vec<(&'static str, RoleId, Code)> = Vec::new();
        for (role, color) in all {
            let Some((name, is_ground)) = prompt::variable(role) else {
                continue;
            };
            let color = Code::hex(color.to_u32().into(), 6);
            let word = match is_ground {
                true => Code::of("--background={}", &[&color]),
                false => color,
            };
            match lines.iter_mut().find(|(known, ..)| *known == name) {
                Some((_, _, line)) => *line = Code::of("{} {}", &[line, &word]),
                None => {
                    let line = Code::of("set -g {} {}", &[&Code::fixed(name), &word]);
                    lines.push((name, role.clone(), line));
                }
            }
        }
        lines
            .into_iter()
            .map(|(_, role, line)| (role, line))
            .collect()
    }

    fn keeps(&self, path: &Path) -> bool {
        path.ends_with("fish/fish_variables")
    }

    fn run(
        &self,
        access: &dyn Access,
        report: ToolReport,
        file: &Path,
        ours: &Path,
        terms: &[String],
    ) -> Ran {
        eval::run(access, report, file, ours, terms)
    }

    fn load(&self, word: &Code) -> Code {
        Code::of("test -r {}; and source {}  # the prompt", &[word, word])
    }

    fn spell(&self, color: Rgb, read: &Reading, before: Option<u8>, _: &[u8]) -> Code {
        match before {
            Some(b'[' | b';') => bourne::escape(color, read.role.is_ground()),
            // A sign before the digits would begin a comment.
            _ => Code::hex(color.to_u32().into(), 6),
        }
    }

    fn script(&self, setup: &Setup, look: &Look, word: &Code) -> Code {
        script::script(setup, look, word)
    }

    fn takes_away(&self, line: &str) -> bool {
        let mut words = line.split([' ', ';']).filter(|w| !w.is_empty());
        let about = |mut rest: std::str::Split<'_, [char; 2]>| rest.any(|w| w == "fish_prompt");
        match words.next() {
            Some("function") => words.next() == Some("fish_prompt"),
            Some("functions") => line.contains(" -e") && about(line.split([' ', ';'])),
            _ => false,
        }
    }

    fn written(&self, line: &str) -> Option<Written> {
        let (name, value) = line
            .trim()
            .strip_prefix("set -g __wm_c_")?
            .split_once(" '")?;
        let start = line.find(" '")? + 2;
        bourne::color_of(role_of(name)?, start, value.trim_end_matches('\''))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::testing;
    use crate::{Adapter, Facts};

    const FILE: &str = ".config/fish/config.fish";
    const KEPT: &str = ".config/fish/fish_variables";
    const CONFIG: &str = "set -g fish_color_command 102030 --bold\nfunction fish_prompt\n    echo -n -s (set_color green) (prompt_pwd) (set_color normal) ' '\n    if test $status -ne 0\n        set_color red\n    end\n    echo -n '> '\nend\n";
    const PALETTE: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\n";

    fn said(access: &MemoryAccess) -> Vec<String> {
        let report = FISH.read(access, &mut Facts::default());
        let of = |r: &Reading| format!("{}={}", r.role, r.value);
        let certain = report.readings.iter().filter(|r| !r.is_default());
        certain.map(of).collect()
    }

    #[test]
    fn a_prompt_is_read_as_it_is_drawn_and_changed_where_it_stands() {
        let access = MemoryAccess::with(&[(FILE, CONFIG)]);
        assert_eq!(
            said(&access),
            [
                "theme=fish_prompt of its own",
                "prompt.folder=green",
                "prompt.failure=red",
                "shell.command=#102030",
            ]
        );
        let setup = format!(
            "{PALETTE}'prompt.folder'='#0a0b0c'\n'prompt.failure'='#0a0b0d'\n'shell.command'='#0a0b0e'\n"
        );
        let edits = testing::planned(&FISH, &access, &setup);
        for part in [
            "(set_color 0a0b0c) (prompt_pwd)",
            "set_color 0a0b0d\n",
            "fish_color_command 0a0b0e --bold\n",
        ] {
            assert!(edits[0].1.contains(part), "{part}: {}", edits[0].1);
        }
    }

    #[test]
    fn a_prompt_becomes_a_design_as_it_usually_is() {
        let config = "function fish_prompt\n  set -l sign '#'\n  if not fish_is_root_user\n    set sign '>'\n  end\n  if fish_is_root_user\n    set end '!'\n  else\n    set end ')'\n  end\n  echo -n $USER' '(prompt_pwd) $end$sign ' '\nend\n";
        let access = MemoryAccess::with(&[(FILE, config)]);
        let report = FISH.read(&access, &mut Facts::default());
        let design = report.prompt.as_ref().expect("one").design(&report);
        let said: Vec<_> = design
            .parts()
            .map(|p| format!("{}|{}|{}", p.name, p.after, p.signs[0]))
            .collect();
        assert_eq!(said, ["user| |", "folder| |", "input||)>"]);
    }

    #[test]
    fn what_the_shell_keeps_is_set_in_the_persons_own_file() {
        let kept = "SETUVAR __fish_initialized:3400\nSETUVAR fish_color_search_match:bryellow\\x1e\\x2d\\x2dbackground\\x3d102030\n";
        let mut access = MemoryAccess::with(&[(FILE, "\n"), (KEPT, kept)]);
        assert_eq!(
            said(&access),
            ["shell.match=bright-yellow", "shell.match.ground=#102030"]
        );
        let setup = format!("{PALETTE}'shell.match'='#0a0b0c'\n'shell.match.ground'='#0a0b0d'\n");
        let edits = testing::planned(&FISH, &access, &setup);
        let line = "\nset -g fish_color_search_match 0a0b0c --background=0a0b0d\n";
        assert_eq!(edits.len(), 1, "the shell's own file is left alone");
        assert_eq!(edits[0].1, line);
        for (path, text) in edits {
            access.files.insert(path, text.into_bytes());
        }
        assert!(testing::planned(&FISH, &access, &setup).is_empty());
    }

    #[test]
    fn what_the_shell_does_by_itself_is_known_and_changed_when_it_is_asked_for() {
        let access = MemoryAccess::with(&[(FILE, "\n")]);
        let report = FISH.read(&access, &mut Facts::default());
        let suggestion = RoleId::known("shell.suggestion");
        let read = report.effective(&suggestion).expect("a default");
        assert!(read.is_default() && read.value.to_string() == "#555555");
        assert!(testing::planned(&FISH, &access, PALETTE).is_empty());
        let setup = format!(
            "{PALETTE}'shell.suggestion'='#0a0b0c'\n[tools.fish]\nadds=['shell.suggestion']\n"
        );
        let edits = testing::planned(&FISH, &access, &setup);
        assert_eq!(
            edits[0].1,
            "\nset -g fish_color_autosuggestion 0a0b0c brblack\n"
        );
        // What nobody says, the shell not even by itself.
        let setup = format!(
            "{PALETTE}'shell.keyword'='#0a0b0c'\n[tools.fish]\nadds=['shell.keyword', 'shell.path.ground']\n'"
        );
        let edits = testing::planned(&FISH, &access, setup.trim_end_matches('\''));
        assert!(
            edits[0].1.contains(
                "\nset -g fish_color_keyword 0a0b0c\nset -g fish_color_valid_path --background="
            ),
            "{}",
            edits[0].1
        );
    }
}
