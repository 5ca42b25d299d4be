//! The shell fish: a prompt script of ours, and the one line of `config.fish` that loads it.

mod script;

use std::path::Path;

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{SourceFile, ToolId, ToolReport};
use wealdmist_core::setup::Setup;

use crate::access::Access;
use crate::glyphs;
use crate::live::{Live, Reload};
use crate::sourced::painted::role_of;
use crate::sourced::{Dialect, OwnPrompt, Ran, Sourced, Stretch, Written, bourne, plain};

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
    live: Live::own(
        Reload::NextPrompt,
        "at each shell's next prompt; in shells without our prompt when they start again",
    ),
    dialect: &Fish,
};

/// Its language.
struct Fish;

impl Dialect for Fish {
    fn variable(&self) -> &'static str {
        "fish_prompt"
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let quotes = glyphs::shell_quotes(&file.bytes, places);
        let inert = |quotes: Option<Quoting>| Some(vec![Quoting::Inert, quotes?]);
        quotes.into_iter().map(inert).collect()
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

    fn word(&self, access: &dyn Access, path: &Path) -> Option<Code> {
        plain::word(access, path)
    }

    fn load(&self, word: &Code) -> Code {
        Code::of("test -r {}; and source {}  # the prompt", &[word, word])
    }

    fn anywhere(&self, ours: &'static str) -> Code {
        Code::of("\"$HOME/.config/wealdmist/{}\"", &[&Code::fixed(ours)])
    }

    fn prompt(&self, _: &OwnPrompt<'_>, _: &mut ToolReport, _: &mut Vec<Stretch>) {}

    fn spell(&self, color: Rgb, _: bool) -> Code {
        Code::color(color)
    }

    fn script(&self, setup: &Setup, look: &Look, word: &Code) -> Code {
        script::script(setup, look, word)
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
