//! The shell zsh: a prompt script of ours, and the one line of `.zshrc` that loads it.

mod prompt;
mod script;

use std::ops::Range;
use std::path::Path;

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::quote::Code;
use wealdmist_core::reading::{Reading, ToolId, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;

use crate::access::Access;
use crate::document::shell::Kin;
use crate::live::{Asking, Live};
use crate::sourced::bourne::{self, eval};
use crate::sourced::own::Piece;
use crate::sourced::{ARRIVES, Dialect, Drawing, Ran, Sourced, Written};

/// The row.
pub static ZSH: Sourced = Sourced {
    id: ToolId("zsh"),
    program: "zsh",
    file: |access| eval::zsh_folder(access).join(".zshrc"),
    ours: "prompt.zsh",
    comment: "#",
    syntax: Syntax::Shell,
    live: Live {
        asking: Some(Asking {
            program: "zsh",
            arguments: &["-ic", ASK],
            script: None,
            ends: &[],
            dotfile: |said| {
                let (prompt, right) = said.split_once('\u{1f}').unwrap_or((said, ""));
                let quoted = |text: &str| text.replace('\'', "'\\''");
                let (prompt, right) = (quoted(prompt), quoted(right));
                (".zshrc", format!("PROMPT='{prompt}'\nRPROMPT='{right}'\n"))
            },
        }),
        ..ARRIVES
    },
    drawing: Drawing {
        arguments: &["-f", "-i", "-c"],
        folders: &[],
        ours: "for ((n = 0; n < @N@; n++)); do __wm_prompt; : ${(%%)PROMPT}${(%%)RPROMPT}; done",
        own: "for ((n = 0; n < @N@; n++)); do : ${(%%)PROMPT}${(%%)RPROMPT}; done",
    },
    dialect: &Zsh,
};

/// Says what the prompts are, as they are drawn with.
const ASK: &str = r#"(( $+functions[precmd] )) && precmd
for f in $precmd_functions; do (( $+functions[$f] )) && $f; done
p=$PROMPT r=${RPROMPT:-$RPS1}
[[ -o promptsubst ]] && p=${(e)p} r=${(e)r}
printf '\036%s\037%s' "$p" "$r""#;

/// Its language.
struct Zsh;

impl Dialect for Zsh {
    fn keys(&self) -> (&'static str, &'static str) {
        ("PROMPT", "RPROMPT")
    }

    fn pieces(&self, text: &[u8]) -> Vec<Piece> {
        prompt::pieces(text)
    }

    fn others(&self, name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
        prompt::others(name, text)
    }

    fn run(
        &self,
        access: &dyn Access,
        report: ToolReport,
        file: &Path,
        ours: &Path,
        terms: &[String],
    ) -> Ran {
        eval::run(Kin::Zsh, access, report, file, ours, terms)
    }

    fn load(&self, word: &Code) -> Code {
        Code::of("[[ -r {} ]] && . {}  # the prompt", &[word, word])
    }

    fn spell(&self, color: Rgb, read: &Reading, before: Option<u8>, old: &[u8]) -> Code {
        let in_escape = matches!(before, Some(b'[' | b';'))
            || (read.key.ends_with(" list-colors") && before == Some(b'='));
        match old.last() {
            _ if in_escape => bourne::escape(color, read.role.is_ground()),
            // A number before the sign.
            Some(b'F') => Code::of("F{{}}", &[&Code::color(color)]),
            Some(b'K') => Code::of("K{{}}", &[&Code::color(color)]),
            _ => Code::color(color),
        }
    }

    fn adds(&self, all: &[(RoleId, Rgb)]) -> Vec<(RoleId, Code)> {
        let of = |(role, color): &(RoleId, Rgb)| {
            let name = role.as_str();
            let plain = name.strip_suffix(".ground").unwrap_or(name);
            let (_, place) = prompt::PLACES.iter().find(|(job, _)| *job == plain)?;
            let layer = match plain.len() < name.len() {
                true => "bg",
                false => "fg",
            };
            let [place, layer] = [place, layer].map(Code::fixed);
            let color = Code::color(*color);
            let line = Code::of("zle_highlight+=({}:{}={})", &[&place, &layer, &color]);
            Some((role.clone(), line))
        };
        all.iter().filter_map(of).collect()
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::testing;
    use crate::{Adapter, Facts};

    const RC: &str = "setopt prompt_subst\nPROMPT='%F{green}%n%f %F{31}%~%f %(?.%F{2}.%1F)%#%f '\nRPROMPT=$'%{\\e[1;35m%}%T'\nzle_highlight=(region:bg=#445566)\nzstyle ':completion:*' list-colors 'di=34'\nMIST_SUGGEST_STYLE='fg=8'\n";

    #[test]
    fn a_function_is_called_once_wherever_it_comes_from() {
        let rc = "fpath=(~/.z $fpath)\nautoload -Uz far\nnear() { PROMPT+='%n' }\nPROMPT='%~'\nnear\nfar\n";
        let access = MemoryAccess::with(&[(".zshrc", rc), (".z/far", "PROMPT+='%j'\n")]);
        let report = ZSH.read(&access, &mut Facts::default());
        let design = report.prompt.as_ref().expect("one").design(&report);
        let names: Vec<_> = design.parts().map(|p| p.name.as_str()).collect();
        assert_eq!(names, ["folder", "user", "jobs", "input"]);
    }

    #[test]
    fn a_prompt_that_the_shell_brings_is_told_and_is_no_design() {
        let rc = "autoload -Uz promptinit\npromptinit\nprompt mist\n";
        let access = MemoryAccess::with(&[(".zshrc", rc)]);
        let report = ZSH.read(&access, &mut Facts::default());
        assert!(report.readings.iter().all(|r| !r.is_sure()));
        assert_eq!(report.readings[0].place.at.line, 3);
        assert!(report.prompt.is_none());
    }

    #[test]
    fn colors_are_read_by_their_job_and_changed_where_they_stand() {
        let access = MemoryAccess::with(&[(".zshrc", RC)]);
        let report = ZSH.read(&access, &mut Facts::default());
        let of = |r: &Reading| format!("{}={}", r.role, r.value);
        let said: Vec<_> = report.readings.iter().map(of).collect();
        assert_eq!(
            said,
            [
                "theme=PROMPT of its own",
                "prompt.user=green",
                "prompt.folder=#0087af",
                "prompt.sign=green",
                "prompt.failure=red",
                "theme=RPROMPT of its own",
                "prompt.time=magenta",
                "shell.suggestion=bright-black",
                "shell.selection.ground=#445566",
                "completion.di=blue",
            ]
        );
        let setup = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\n'prompt.folder'='#0a0b0c'\n'prompt.failure'='#0a0b0d'\n'prompt.time'='#0a0b0e'\n'shell.selection.ground'='#0a0b0f'\n'completion.di'='#0a0b10'\n'shell.suggestion'='#0a0b11'\n";
        let edits = testing::planned(&ZSH, &access, setup);
        let text = &edits[0].1;
        for part in [
            "%F{#0a0b0c}%~%f",
            "%F{#0a0b0d})%#%f",
            "\\e[1;38;2;10;11;14m",
            "region:bg=#0a0b0f)",
            "'di=38;2;10;11;16'",
            "'fg=#0a0b11'",
        ] {
            assert!(text.contains(part), "{part}: {text}");
        }
    }
}
