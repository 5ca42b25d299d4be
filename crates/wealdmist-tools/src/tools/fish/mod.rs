//! The shell fish: a prompt script of ours, and the one line of `config.fish` that loads it.

mod git;
mod parts;
mod script;

use std::path::Path;

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::quote::Code;
use wealdmist_core::reading::{ToolId, ToolReport};
use wealdmist_core::setup::Setup;

use crate::access::Access;
use crate::sourced::painted::role_of;
use crate::sourced::{ARRIVES, Dialect, Drawing, Ran, Sourced, Written, bourne, plain};

/// The row.
pub static FISH: Sourced = Sourced {
    id: ToolId("fish"),
    program: "fish",
    file: |access| {
        let folder = match access.env("XDG_CONFIG_HOME") {
            Some(folder) if Path::new(&folder).is_absolute() => Path::new(&folder).to_owned(),
            _ => access.home().join(".config"),
        };
        folder.join("fish/config.fish")
    },
    ours: "prompt.fish",
    comment: "#",
    syntax: Syntax::Shell,
    live: ARRIVES,
    drawing: Drawing {
        arguments: &["-i", "-c"],
        folders: &[".local/share/fish/generated_completions"],
        ours: "for n in (seq @N@); fish_prompt >/dev/null; fish_right_prompt >/dev/null; end",
        own: "for n in (seq @N@); fish_prompt >/dev/null; end",
    },
    dialect: &Fish,
};

/// Its language.
struct Fish;

impl Dialect for Fish {
    fn variable(&self) -> &'static str {
        "fish_prompt"
    }

    fn run(
        &self,
        access: &dyn Access,
        report: ToolReport,
        file: &Path,
        ours: &Path,
        _terms: &[String],
    ) -> Ran {
        plain::run(access, report, file, ours, |line| {
            let rest = line.strip_prefix("function ")?;
            let name = rest.split_whitespace().next()?;
            ["fish_prompt", "fish_right_prompt"]
                .into_iter()
                .find(|n| *n == name)
        })
    }

    fn load(&self, word: &Code) -> Code {
        Code::of("test -r {}; and source {}  # the prompt", &[word, word])
    }

    fn spell(&self, color: Rgb, _: bool) -> Code {
        Code::color(color)
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
