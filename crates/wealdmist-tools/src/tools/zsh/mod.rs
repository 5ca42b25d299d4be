//! The shell zsh: a prompt script of ours, and the one line of `.zshrc` that loads it.

mod script;

use std::path::Path;

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::quote::Code;
use wealdmist_core::reading::{ToolId, ToolReport};
use wealdmist_core::setup::Setup;

use crate::access::Access;
use crate::sourced::{ARRIVES, Dialect, Drawing, Ran, Sourced, Written, bourne, plain};

/// The row.
pub static ZSH: Sourced = Sourced {
    id: ToolId("zsh"),
    program: "zsh",
    file: |access| match access.env("ZDOTDIR") {
        Some(folder) if Path::new(&folder).is_absolute() => Path::new(&folder).join(".zshrc"),
        _ => access.home().join(".zshrc"),
    },
    ours: "prompt.zsh",
    comment: "#",
    syntax: Syntax::Shell,
    live: ARRIVES,
    drawing: Drawing {
        arguments: &["-f", "-i", "-c"],
        folders: &[],
        ours: "for ((n = 0; n < @N@; n++)); do __wm_prompt; : ${(%%)PROMPT}${(%%)RPROMPT}; done",
        own: "for ((n = 0; n < @N@; n++)); do : ${(%%)PROMPT}${(%%)RPROMPT}; done",
    },
    dialect: &Zsh,
};

/// The variables that are its prompt.
const NAMES: [&str; 5] = ["PROMPT", "PS1", "RPROMPT", "RPS1", "prompt"];

/// Its language.
struct Zsh;

impl Dialect for Zsh {
    fn variable(&self) -> &'static str {
        "PROMPT"
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
            let line = line.strip_prefix("export ").unwrap_or(line);
            let (name, _) = line.split_once('=')?;
            let name = name.trim_end_matches('+');
            NAMES.into_iter().find(|n| *n == name)
        })
    }

    fn load(&self, word: &Code) -> Code {
        Code::of("[[ -r {} ]] && . {}  # the prompt", &[word, word])
    }

    fn spell(&self, color: Rgb, is_ground: bool) -> Code {
        let layer = Code::fixed(if is_ground { "%K" } else { "%F" });
        Code::of("{}{{}}", &[&layer, &Code::color(color)])
    }

    fn script(&self, setup: &Setup, look: &Look, word: &Code) -> Code {
        bourne::script(&script::SHELL, setup, look, word)
    }

    fn takes_away(&self, line: &str) -> bool {
        bourne::loses(line, "precmd_functions")
    }

    fn written(&self, line: &str) -> Option<Written> {
        bourne::written(line)
    }
}
