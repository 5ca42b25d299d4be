//! PowerShell: a prompt script of ours, and the one line of the profile that loads it.

mod parts;
mod read;
mod script;
mod words;

use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, Kind, Part, Style};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{Reading, SourceFile, ToolId, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;

use crate::access::{Access, Loaded};
use crate::shared;
use crate::sourced::own::Piece;
use crate::sourced::painted::role_of;
use crate::sourced::{ARRIVES, Dialect, Drawing, Ran, Sourced, Written, bourne};

/// The row.
pub static POWERSHELL: Sourced = Sourced {
    id: ToolId("powershell"),
    program: "pwsh",
    // What every host of the shell reads, and what its own reads behind that: where there is none the shell itself
    // names the second.
    file: |access| {
        let folder = folder(access);
        let [all, own] = FILES.map(|name| folder.join(name));
        match access.read(&own) == Loaded::Missing && access.read(&all) != Loaded::Missing {
            true => all,
            false => own,
        }
    },
    ours: "prompt.ps1",
    comment: "#",
    syntax: Syntax::Raw,
    live: ARRIVES,
    drawing: Drawing {
        arguments: &["-NoProfile", "-NonInteractive", "-Command"],
        folders: &[],
        ours: "for ($n = 0; $n -lt @N@; $n++) { $null = prompt }",
        own: "for ($n = 0; $n -lt @N@; $n++) { $null = prompt }",
    },
    dialect: &PowerShell,
};

/// The files of a home, in the order in which they are read.
const FILES: [&str; 2] = ["profile.ps1", "Microsoft.PowerShell_profile.ps1"];

fn folder(access: &dyn Access) -> PathBuf {
    let usual = access.config_home().join("powershell");
    shared::folder_of(access, usual, "Documents/PowerShell", &FILES)
}

/// Its language.
struct PowerShell;

impl Dialect for PowerShell {
    fn keys(&self) -> (&'static str, &'static str) {
        ("prompt", "")
    }

    fn cannot(&self, part: &Part, _: &Design) -> Option<&'static str> {
        match part.kind {
            Kind::Mode => Some("the mode of the editor is not told"),
            Kind::Status if part.tells.style == Style::Counts => Some("a pipeline has one status"),
            _ => part.turns_with_mode().then_some(bourne::STAYS),
        }
    }

    fn pieces(&self, text: &[u8]) -> Vec<Piece> {
        read::pieces(text)
    }

    fn others(&self, name: &str, text: &[u8]) -> Vec<(RoleId, Value, Range<usize>)> {
        read::others(name, text)
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        read::quoting(&file.bytes, places)
    }

    fn run(
        &self,
        access: &dyn Access,
        report: ToolReport,
        _: &Path,
        ours: &Path,
        _: &[String],
    ) -> Ran {
        let folder = folder(access);
        let files = FILES.map(|name| folder.join(name));
        read::run(access, report, &files, ours)
    }

    fn load(&self, word: &Code) -> Code {
        Code::of("if (Test-Path {}) { . {} }  # the prompt", &[word, word])
    }

    fn spell(&self, color: Rgb, read: &Reading, before: Option<u8>, _: &[u8]) -> Code {
        match before {
            Some(b'[' | b';') => bourne::escape(color, read.role.is_ground()),
            _ => Code::color(color),
        }
    }

    fn script(&self, setup: &Setup, look: &Look, word: &Code) -> Code {
        script::script(setup, look, word)
    }

    fn takes_away(&self, line: &str) -> bool {
        let line = line.to_lowercase();
        let mut words = line.split([' ', '{', '(']).filter(|w| !w.is_empty());
        let is_prompt = |name: &str| name.rsplit(':').next() == Some("prompt");
        words.next() == Some("function") && words.next().is_some_and(is_prompt)
    }

    fn written(&self, line: &str) -> Option<Written> {
        let (name, value) = line
            .trim()
            .strip_prefix("$global:__wm.c_")?
            .split_once(" = '")?;
        let start = line.find(" = '")? + 4;
        bourne::color_of(role_of(name)?, start, value.trim_end_matches('\''))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::testing;
    use crate::{Adapter, Facts};
    use wealdmist_core::character::SymbolLevel;
    use wealdmist_core::prompt::{KNOWN, ready};
    use wealdmist_core::setup::SetupDoc;

    const FILE: &str = ".config/powershell/Microsoft.PowerShell_profile.ps1";
    const PALETTE: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\n";

    fn said(profile: &str) -> Vec<String> {
        let report = POWERSHELL.read(
            &MemoryAccess::with(&[(FILE, profile)]),
            &mut Facts::default(),
        );
        let of = |r: &Reading| format!("{}={}", r.role, r.value);
        report.readings.iter().map(of).collect()
    }

    fn script_of(toml: &str, level: SymbolLevel) -> String {
        let text = format!(
            "[palettes.a]\nforeground='#dddddd'\n[symbols]\nlevel='{}'\n",
            level.key()
        );
        let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
        let doc = doc.with_prompt(toml).unwrap();
        let setup = doc.setup();
        let (_, code) = POWERSHELL.generated(setup, &Look::new(setup)).unwrap();
        code.lossy()
    }

    /// Where a parser of another maker finds that a script is none.
    fn wrong(code: &str) -> Vec<String> {
        let mut parser = tree_sitter::Parser::new();
        parser
            .set_language(&tree_sitter_powershell::LANGUAGE.into())
            .unwrap();
        let tree = parser.parse(code, None).unwrap();
        let mut out = Vec::new();
        let mut all = vec![tree.root_node()];
        while let Some(node) = all.pop() {
            if node.is_error() || node.is_missing() {
                let line = node.start_position().row;
                let text = code.lines().nth(line).unwrap_or_default();
                out.push(format!("line {}: {text}", line + 1));
            }
            let mut cursor = node.walk();
            all.extend(node.children(&mut cursor));
        }
        out
    }

    #[test]
    fn every_script_is_one_for_a_parser_of_another_maker() {
        assert!(wrong("$x = 'a' + \"b$(1)\"").is_empty());
        assert!(!wrong("if ($x { 'a' }").is_empty());
        for (n, ready) in ready::ALL.iter().enumerate() {
            let level = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii][n % 3];
            let code = script_of(ready.toml, level);
            assert_eq!(wrong(&code), [""; 0], "{}", ready.name);
            let mut marks = code.split('@').skip(1);
            let is_mark = |m: &str| !m.is_empty() && m.bytes().all(|b| b.is_ascii_uppercase());
            assert!(!marks.any(is_mark), "{}: a mark is left", ready.name);
        }
        let names: Vec<String> = KNOWN
            .iter()
            .filter(|k| k.name != "input")
            .map(|k| format!("\"{}\"", k.name))
            .collect();
        let all = format!(
            "tie=true\nblank=true\npast='sign'\ngap=\"'$(x)`’\\\\%\"\nstretch='%'\n[[prompt.line]]\nleft=[{}]\n[[prompt.line]]\nleft=['input']\n\
             [prompt.parts.rust]\nversion=true\nfiles=[\"it's $(x)\"]\n[prompt.parts.time]\ntwelve=true\n[prompt.parts.changes]\nas='counts'\n\
             [prompt.parts.status]\nas='each'\n[prompt.parts.folder]\nwithin=true\nbeginnings=true\nbefore=\"'\\\\ \\\"$x`\"\n[prompt.parts.input]\nsign-failed='!'\n",
            names.join(",")
        );
        let code = script_of(&all, SymbolLevel::Icons);
        assert_eq!(wrong(&code), [""; 0]);
        // What would end a text is doubled, also where it is a curved one.
        assert!(code.contains("Gap = '''$(x)`’’\\%'"), "{code}");
    }

    #[test]
    fn a_prompt_is_read_as_it_is_drawn_and_changed_where_it_stands() {
        let profile = "Import-Module Gauge\n$esc = [char]27\nfunction global:prompt {\n    $ok = $?\n    Write-Host \"$env:USERNAME \" -NoNewline -ForegroundColor DarkGreen\n    if (-not $ok) { $sign = \"`e[31m>\" } else { $sign = \"`e[1;38;2;16;32;48m>\" }\n    return \"$esc[36m$(Get-Location)`e[0m $sign`e[0m \"\n}\nSet-PSReadLineOption -Colors @{\n    Command = '#102030'\n    String = \"`e[33m\"; 'Comment' = 'Yellow'\n}\n";
        assert_eq!(
            said(profile),
            [
                "theme=prompt of its own",
                "prompt.user=green",
                "prompt.folder=cyan",
                "prompt.failure=red",
                "prompt.text=#102030",
                "shell.command=#102030",
                "shell.string=yellow",
                "shell.comment=bright-yellow",
            ]
        );
        let access = MemoryAccess::with(&[(FILE, profile)]);
        let setup = format!(
            "{PALETTE}'prompt.folder'='#0a0b0c'\n'prompt.failure'='#0a0b0d'\n'prompt.text'='#0a0b0e'\n'prompt.user'='#0a0b0f'\n'shell.command'='#0a0c0c'\n'shell.string'='#0a0c0d'\n'shell.comment'='#0a0c0e'\n"
        );
        let edits = testing::planned(&POWERSHELL, &access, &setup);
        let text = &edits[0].1;
        for part in [
            "\"$esc[38;2;10;11;12m$(Get-Location)",
            "$sign = \"`e[38;2;10;11;13m>\"",
            "$sign = \"`e[1;38;2;10;11;14m>\"",
            "-ForegroundColor DarkGreen",
            "Command = '#0a0c0c'",
            "String = \"`e[38;2;10;12;13m\"",
            "'Comment' = '#0a0c0e'",
        ] {
            assert!(text.contains(part), "{part}: {text}");
        }
        let again = MemoryAccess::with(&[(FILE, text.as_str())]);
        assert!(testing::planned(&POWERSHELL, &again, &setup).is_empty());
    }

    #[test]
    fn a_prompt_becomes_a_design() {
        let profile = "function prompt { \"[$env:COMPUTERNAME] $($PWD.Path) $(git branch --show-current)`n> \" }\n";
        let report = POWERSHELL.read(
            &MemoryAccess::with(&[(FILE, profile)]),
            &mut Facts::default(),
        );
        let design = report.prompt.as_ref().expect("one").design(&report);
        let names: Vec<&str> = design.parts().map(|p| p.name.as_str()).collect();
        assert_eq!(names, ["host", "folder", "branch", "input"]);
        assert_eq!(design.lines.len(), 2);
    }

    #[test]
    fn one_line_loads_our_script_and_what_is_behind_it_is_told() {
        const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[tools.powershell]\ngenerate=true\n[prompt]\n";
        let mut access = MemoryAccess::with(&[
            (".config/powershell/profile.ps1", "# all\r\n"),
            (FILE, "# mine\n"),
        ]);
        for (path, text) in testing::planned(&POWERSHELL, &access, SETUP) {
            access.files.insert(path, text.into_bytes());
        }
        let file = access.home().join(FILE);
        let text = String::from_utf8(access.files[&file].clone()).unwrap();
        assert_eq!(
            text,
            "# mine\nif (Test-Path \"$HOME/.config/wealdmist/prompt.ps1\") { . \"$HOME/.config/wealdmist/prompt.ps1\" }  # the prompt\n"
        );
        assert!(testing::planned(&POWERSHELL, &access, SETUP).is_empty());
        let report = POWERSHELL.read(&access, &mut Facts::default());
        let theme = report.effective(&RoleId::known("theme")).expect("ours");
        assert!(theme.value.to_string().contains("wealdmist"));
        assert!(report.effective(&RoleId::known("prompt.folder")).is_some());
        access.files.insert(
            file,
            format!("{text}function prompt {{ 'x' }}\n").into_bytes(),
        );
        let report = POWERSHELL.read(&access, &mut Facts::default());
        assert!(
            report
                .problems
                .iter()
                .any(|p| p.message.contains("behind ours"))
        );
        // What a program writes may set it.
        let access = MemoryAccess::with(&[(
            FILE,
            "function prompt { \"`e[31m$PWD\" }\nInvoke-Expression (&gauge init)\n",
        )]);
        let report = POWERSHELL.read(&access, &mut Facts::default());
        assert!(report.readings.iter().all(|r| !r.is_sure()));
    }

    proptest::proptest! {
        #[test]
        fn any_profile_is_read(text in "[$({@`'\"#=+.a-f \n\u{1b}\\[\\]})]{0,200}") {
            said(&text);
        }

        #[test]
        fn any_words_are_read(parts in proptest::collection::vec(proptest::sample::select(vec![
            "function prompt {", "if (", "} else {", "}", "\"$(", "\"", "$x = ", "\n", "Write-Host ", "-ForegroundColor ", "$PSStyle.Foreground.", "FromRgb(1,2,3)",
            "Set-PSReadLineOption -Colors @{", "@\"\n", "\n\"@", "`e[31m", ". ~/a.ps1", "iex", "return ", "$x", "'", ")", "(",
        ]), 0..60)) {
            said(&parts.concat());
        }
    }
}
