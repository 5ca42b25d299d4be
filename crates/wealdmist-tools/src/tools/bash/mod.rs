//! The shell bash: the colors of `PS1` in `.bashrc`, and a prompt script of our own with the one line
//! that loads it.

mod inputrc;
mod prompt;
mod script;

use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, Part};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{Reading, SourceFile, ToolId, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;
use wealdmist_core::text;

use crate::access::{Access, Loaded};
use crate::document::shell::Kin;
use crate::glyphs;
use crate::live::Live;
use crate::sourced::bourne::{self, eval};
use crate::sourced::own::Piece;
use crate::sourced::{ARRIVES, Dialect, Drawing, Ran, Sourced, Written};

/// The row.
pub static BASH: Sourced = Sourced {
    id: ToolId("bash"),
    program: "bash",
    file: |access| access.home().join(".bashrc"),
    ours: "prompt.bash",
    comment: "#",
    syntax: Syntax::Shell,
    live: Live {
        asking: Some(crate::live::Asking {
            program: "bash",
            arguments: &[
                "-ic",
                "for c in \"${PROMPT_COMMAND[@]}\"; do eval \"$c\"; done; printf '\\036%s' \"$PS1\"",
            ],
            script: None,
            ends: &[],
            dotfile: |said| {
                (
                    ".bashrc",
                    format!("PS1='{}'\n", said.replace('\'', "'\\''")),
                )
            },
        }),
        ..ARRIVES
    },
    drawing: Drawing {
        arguments: &["--norc", "--noprofile", "-i", "-c"],
        folders: &[],
        ours: "for ((n = 0; n < @N@; n++)); do __wm_seen; __wm_prompt; : \"${PS1@P}\"; done",
        own: "PS1='\\s-\\v\\$ '; for ((n = 0; n < @N@; n++)); do : \"${PS1@P}\"; done",
    },
    dialect: &Bash,
};

/// Its language.
struct Bash;

impl Dialect for Bash {
    fn keys(&self) -> (&'static str, &'static str) {
        ("PS1", "")
    }

    fn cannot(&self, part: &Part, design: &Design) -> Option<&'static str> {
        script::SHELL.mode.cannot(part, design)
    }

    fn pieces(&self, text: &[u8]) -> Vec<Piece> {
        prompt::pieces(text)
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let quotes = glyphs::shell_quotes(&file.bytes, places);
        let of = |(quotes, at): (Option<Quoting>, &usize)| {
            let line = text::line_range(&file.bytes, *at);
            let inner = match in_prompt(&file.bytes[line.start..*at])
                || sign_in_variable(&file.bytes, &line, *at)
            {
                true => Quoting::PromptText,
                false => Quoting::Inert,
            };
            Some(vec![inner, quotes?])
        };
        quotes.into_iter().zip(places).map(of).collect()
    }

    fn run(
        &self,
        access: &dyn Access,
        report: ToolReport,
        file: &Path,
        ours: &Path,
        terms: &[String],
    ) -> Ran {
        let mut ran = eval::run(Kin::Bash, access, report, file, ours, terms);
        inputrc::read(access, &mut ran);
        ran
    }

    fn others(&self, name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
        inputrc::others(name, text)
    }

    fn load(&self, word: &Code) -> Code {
        Code::of("[ -r {} ] && . {}  # the prompt", &[word, word])
    }

    fn login(&self, access: &dyn Access, word: &Code) -> Option<(PathBuf, Code)> {
        let names = [".bash_profile", ".bash_login", ".profile"];
        let files = names.map(|name| access.home().join(name));
        let file = files
            .into_iter()
            .find(|file| access.read(file) != Loaded::Missing)?;
        // Other shells may read it, too, and whoever starts the desktop.
        let line = Code::of(
            "[ -z \"$BASH_VERSION\" ] || [ ! -r {} ] || . {}  # the prompt",
            &[word, word],
        );
        Some((file, line))
    }

    fn spell(&self, color: Rgb, read: &Reading, _: Option<u8>, _: &[u8]) -> Code {
        bourne::escape(color, read.role.is_ground())
    }

    fn script(&self, setup: &Setup, look: &Look, word: &Code) -> Code {
        bourne::script(&script::SHELL, setup, look, word)
    }

    fn takes_away(&self, line: &str) -> bool {
        // A text alone takes the place of the list's first entry, which is not the one that draws.
        bourne::loses(line, "PROMPT_COMMAND")
    }

    fn written(&self, line: &str) -> Option<Written> {
        bourne::written(line)
    }
}

/// Whether a line has come to text of a prompt: behind `PS1=`, in the same word, and not in a
/// command whose output stands there.
fn in_prompt(head: &[u8]) -> bool {
    let assigns = |i: &usize| {
        let rest = &head[*i..];
        let named = rest.len() > 4 && rest.starts_with(b"PS") && rest[2].is_ascii_digit();
        named && rest[3] == b'=' && (*i == 0 || matches!(head[i - 1], b' ' | b'\t' | b';'))
    };
    let Some(at) = (0..head.len()).rfind(assigns) else {
        return false;
    };
    let value = &head[at + 4..];
    let mut quote = None;
    let mut i = 0;
    while i < value.len() {
        match (quote, value[i]) {
            (_, b'`') => return false,
            (_, b'$' | b'<' | b'>') if value.get(i + 1) == Some(&b'(') => return false,
            (None | Some(b'"'), b'\\') => i += 1,
            (None, b' ' | b'\t' | b';' | b'&' | b'|') => return false,
            (None, b @ (b'"' | b'\'')) => quote = Some(b),
            (Some(q), b) if q == b => quote = None,
            _ => {}
        }
        i += 1;
    }
    true
}

/// Whether a place is a sign that a variable holds alone: `name='…'`.
fn sign_in_variable(bytes: &[u8], line: &Range<usize>, at: usize) -> bool {
    let head = &bytes[line.start..at];
    let Some(open) = head.iter().rposition(|b| matches!(b, b'"' | b'\'')) else {
        return false;
    };
    let inner = line.start + open + 1;
    let close = bytes[at..line.end].iter().position(|b| *b == head[open]);
    let before = head[..open].strip_suffix(b"$").unwrap_or(&head[..open]);
    let Some(name) = before.strip_suffix(b"=") else {
        return false;
    };
    let plain = name
        .trim_ascii()
        .iter()
        .all(|b| b.is_ascii_alphanumeric() || *b == b'_');
    plain && close.is_some_and(|n| glyphs::is_sign_alone(bytes, &(inner..at + n), at))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::path::PathBuf;

    use crate::access::MemoryAccess;
    use crate::sourced::generation;
    use crate::testing;
    use crate::{Adapter, Facts};
    use wealdmist_core::color::indexed;
    use wealdmist_core::role::{Slot, Usage};
    use wealdmist_core::setup::SetupDoc;

    fn read(access: &MemoryAccess) -> ToolReport {
        BASH.read(access, &mut Facts::default())
    }

    fn planned(access: &MemoryAccess, setup: &str) -> Vec<(PathBuf, String)> {
        testing::planned(&BASH, access, setup)
    }

    #[test]
    fn shells_in_which_one_logs_in_come_to_the_prompt_too() {
        const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[tools.bash]\ngenerate=true\n[prompt]\n";
        let line = "[ -z \"$BASH_VERSION\" ] || [ ! -r \"$HOME/.config/wealdmist/prompt.bash\" ] || . \"$HOME/.config/wealdmist/prompt.bash\"  # the prompt";
        for (files, apart) in [
            (&[(".profile", "umask 022\n")][..], Some(".profile")),
            (
                &[
                    (".bash_profile", "PATH=~/bin:$PATH\n"),
                    (".profile", ". ~/.bashrc\n"),
                ],
                Some(".bash_profile"),
            ),
            (
                &[(".bash_login", ". ~/.bashrc\n"), (".profile", "\n")],
                None,
            ),
            (
                &[(
                    ".profile",
                    "if [ -n \"$BASH_VERSION\" ]; then\n  if [ -f \"$HOME/.bashrc\" ]; then\n    . \"$HOME/.bashrc\"\n  fi\nfi\n",
                )],
                None,
            ),
            (&[], None),
        ] {
            let mut access = MemoryAccess::with(&[(".bashrc", "PS1='\\u '\n")]);
            for (path, text) in files {
                access
                    .files
                    .insert(access.home().join(path), text.as_bytes().to_vec());
            }
            let told = |access: &MemoryAccess| {
                let report = read(access);
                let told = report
                    .problems
                    .iter()
                    .find(|p| p.message.contains("logs in"));
                told.and_then(|p| Some(p.path.file_name()?.to_string_lossy().into_owned()))
            };
            assert_eq!(told(&access).as_deref(), apart, "{files:?}");
            let edits = planned(&access, SETUP);
            for (path, text) in &edits {
                let is_login = path.ends_with(apart.unwrap_or("none"));
                assert_eq!(text.contains(line), is_login, "{}: {text}", path.display());
            }
            assert_eq!(edits.len(), 2 + usize::from(apart.is_some()));
            for (path, text) in edits {
                access.files.insert(path, text.into_bytes());
            }
            assert_eq!(told(&access), None);
            assert!(planned(&access, SETUP).is_empty(), "{files:?}");
        }
    }

    const RC: &str = "# PS1='\\[\\e[31m\\]\\u'\nif true; then\n  PS1='\\[\\e[1;32m\\]\\u@\\h\\[\\e[0m\\] \\[\\e[38;5;75m\\]\\w\\[\\e[0m\\]\\$ '\nfi";
    #[test]
    fn prompt_segments_are_pairs_on_their_own_ground_and_so_are_their_joints() {
        let rc = r"PS1='\[\e[48;5;24;97m\] \u \[\e[38;5;24;48;5;31m\]>\[\e[97m\] \w \[\e[0m\]\$ '";
        let access = MemoryAccess::with(&[(".bashrc", rc)]);
        let report = BASH.read(&access, &mut Facts::default());
        let seen: Vec<(String, String, Usage)> = report
            .drawn
            .iter()
            .map(|d| (d.what.clone(), d.ground.role.to_string(), d.usage))
            .collect();
        assert_eq!(seen.len(), 3, "{seen:?}");
        assert_eq!(
            seen[0],
            ("user".into(), "prompt.1.ground".into(), Usage::Body)
        );
        assert_eq!(seen[1].2, Usage::NonText);
        assert_eq!(
            (seen[2].0.as_str(), seen[2].1.as_str()),
            ("folder", "prompt.2.ground")
        );
        let value = |i: usize| report.readings[i].value.clone();
        let ground = report.drawn[1].ground.reading.unwrap();
        assert_eq!(value(ground), Value::Color(indexed(31).unwrap()));
    }

    const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\n'prompt.folder'='#0a0b0c'\n";

    #[test]
    fn colors_of_a_prompt_are_read_by_their_job() {
        let report = read(&MemoryAccess::with(&[(".bashrc", RC)]));
        let said: Vec<_> = report
            .readings
            .iter()
            .map(|r| format!("{}={}", r.role, r.value))
            .collect();
        assert_eq!(
            said,
            [
                "theme=PS1 of its own",
                "prompt.user=green",
                "prompt.folder=#5fafff"
            ]
        );
        assert_eq!(report.readings[2].place.at.line, 3);
    }

    #[test]
    fn one_line_loads_the_prompt_and_its_colors_are_read_back() {
        let mut access = MemoryAccess::with(&[(".bashrc", RC)]);
        let ours = format!("{SETUP}[tools.bash]\ngenerate=true\n");
        let edits = planned(&access, &ours);
        assert_eq!(edits.len(), 2);
        let line = "[ -r \"$HOME/.config/wealdmist/prompt.bash\" ] && . \"$HOME/.config/wealdmist/prompt.bash\"  # the prompt\n";
        assert_eq!(edits[0].1, format!("{RC}\n{line}"));
        for (path, text) in edits {
            access.files.insert(path, text.into_bytes());
        }
        assert!(planned(&access, &ours).is_empty(), "a second plan is empty");
        let report = read(&access);
        let folder = report.effective(&RoleId::known("prompt.folder")).unwrap();
        assert_eq!(folder.value, Value::Color(Rgb::from_u32(0x0a_0b0c)));
        let user = report.effective(&RoleId::known("prompt.user")).unwrap();
        assert_eq!(user.value, Value::Slot(Slot::Yellow));
        let changed = ours.replace("#0a0b0c", "#0a0b0d");
        let again = planned(&access, &changed);
        assert_eq!(again.len(), 1, "only the generated file changes");
        let old = generation("#", &access.files[&BASH.path(&access)]).unwrap();
        assert_ne!(generation("#", again[0].1.as_bytes()).unwrap(), old);
    }

    #[test]
    fn without_generating_colors_change_in_place() {
        let access = MemoryAccess::with(&[(".bashrc", RC)]);
        let edits = planned(&access, SETUP);
        assert!(
            edits[0].1.contains("\\e[38;2;10;11;12m\\]\\w"),
            "{}",
            edits[0].1
        );
        assert_eq!(edits.len(), 1);
    }

    #[test]
    fn sourced_files_are_followed() {
        let access = MemoryAccess::with(&[
            (".bashrc", "[ -f ~/.x ] && . ~/.x\n"),
            (".x", "PS1='\\e[35m\\w '\n. ~/.x\n"),
        ]);
        let report = read(&access);
        assert_eq!(report.readings[1].role, RoleId::known("prompt.folder"));
        assert_eq!(report.readings[1].chain[0].1, 1);
        assert_eq!(report.problems.len(), 1, "the circle is told");
    }

    #[test]
    fn the_generated_prompt_has_the_signs_of_this_shell() {
        let generated = |more: &str| {
            let setup = SetupDoc::parse("s", format!("{SETUP}{more}").as_bytes()).unwrap();
            let file = Code::fixed("\"$HOME/p\"");
            BASH.generate(setup.setup(), &Look::new(setup.setup()), &file)
                .lossy()
        };
        let icons = generated("[symbols]\nlevel='icons'\n");
        assert!(icons.contains('\u{e725}'));
        let own = generated("[symbols]\nlevel='icons'\n[tools.bash]\nsymbols='ascii'\n");
        assert!(!own.contains('\u{e725}') && own.is_ascii());
        let replaced = generated("[symbols]\nlevel='icons'\n[symbols.replace]\n'U+E725'='>'\n");
        assert!(!replaced.contains('\u{e725}') && replaced.contains("> "));
        // A sign only reaches the prompt by reference: whatever it holds is drawn.
        for (text, written) in [("$(x)", "'$(x) '"), ("\\\\", "$'\\\\ '"), ("'", "$'\\' '")] {
            let drawn = generated(&format!(
                "[symbols]\nlevel='icons'\n[symbols.replace]\n'U+E725'=\"{text}\"\n"
            ));
            assert!(drawn.contains(written), "{text}: {drawn}");
        }
    }

    #[test]
    fn no_placeholder_is_left_in_the_generated_file() {
        for extra in [
            "",
            "[prompt]\ntie=true\nblank=true\npast='sign'\n[[prompt.line]]\nleft=['folder','system','jobs']\nright=['load','memory','battery','duration']\n[[prompt.line]]\nleft=['changes','operation','input']\n[prompt.parts.changes]\nas='counts'\n",
            "[prompt]\ngit=false\nlines=1\nuser='never'\n",
            "[symbols]\nlevel='icons'\n",
        ] {
            let setup = SetupDoc::parse("s", format!("{SETUP}{extra}").as_bytes()).unwrap();
            let file = Code::fixed("\"$HOME/p\"");
            let text = BASH
                .generate(setup.setup(), &Look::new(setup.setup()), &file)
                .lossy();
            let lines = text
                .lines()
                .filter(|l| l.contains("@A") || !l.contains("[@]"));
            for line in lines {
                let marks = line.split('@').skip(1).step_by(2);
                for mark in marks {
                    assert!(
                        !mark.bytes().all(|b| b.is_ascii_uppercase()) || mark.is_empty(),
                        "{line}"
                    );
                }
            }
        }
    }
}
