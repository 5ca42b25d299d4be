//! Examples, for the help of each command and the manual. A test runs each of them through the parser.

/// A line and what it is for.
pub type Example = (&'static str, &'static str);

/// Those of the whole program.
pub const GENERAL: &[Example] = &[
    ("wealdmist", "open the interface on this home"),
    ("wealdmist demo", "try it on a made-up home first"),
    (
        "wealdmist survey",
        "what the dotfiles say, and where they disagree",
    ),
    (
        "wealdmist check --fail-on warning",
        "problems as file:line:col, for editors and CI",
    ),
    (
        "wealdmist set comment '#8a9a9d'",
        "change one color of the setup",
    ),
    (
        "wealdmist import theme.conf --use",
        "take over a palette from another program's file",
    ),
    (
        "wealdmist repair --vision deutan",
        "the smallest change that lets everything be read",
    ),
    (
        "wealdmist font compare A B",
        "two faces on the same lines, also before installing them",
    ),
    (
        "wealdmist glyphs --mend",
        "put a substitute for every missing icon into the setup",
    ),
    ("wealdmist plan", "the exact edits as a diff"),
    ("wealdmist apply", "carry them out"),
    ("wealdmist undo", "take them back"),
];

/// Those of each command.
const OF: &[(&str, &[Example])] = &[
    (
        "demo",
        &[("wealdmist demo --tour", "the whole job in text")],
    ),
    (
        "init",
        &[(
            "wealdmist init",
            "the setup as a file, before anything is changed",
        )],
    ),
    (
        "survey",
        &[
            ("wealdmist survey --all", "every row, also where all agree"),
            ("wealdmist survey --ask", "and what the programs say of it"),
        ],
    ),
    (
        "check",
        &[(
            "wealdmist check --fail-on error",
            "fail only where something cannot be read at all",
        )],
    ),
    (
        "contrast",
        &[
            (
                "wealdmist contrast --opacity 0.85",
                "through a window over any wallpaper",
            ),
            (
                "wealdmist contrast comment background",
                "one pair of the setup",
            ),
            ("wealdmist contrast '#8a9a9d' '#0d191c'", "any two colors"),
        ],
    ),
    (
        "repair",
        &[
            ("wealdmist repair --dry-run", "only say what would move"),
            (
                "wealdmist repair comment --opacity 0.9",
                "one color, as it is seen through the window",
            ),
        ],
    ),
    (
        "import",
        &[
            (
                "wealdmist import mist.css --name mist --use",
                "and put it to use",
            ),
            (
                "wealdmist import --terminal --dry-run",
                "what this terminal has now",
            ),
        ],
    ),
    (
        "export",
        &[("wealdmist export css -o mist.css", "as custom properties")],
    ),
    (
        "prompt",
        &[("wealdmist prompt", "the prompt in all its situations")],
    ),
    (
        "prompt show",
        &[(
            "wealdmist prompt show Sluice --width 60",
            "how a ready design would look, also where it is narrow",
        )],
    ),
    (
        "prompt list",
        &[("wealdmist prompt list", "the ready designs, each drawn")],
    ),
    (
        "prompt use",
        &[(
            "wealdmist prompt use Causeway --in zsh",
            "take one for a shell; `wealdmist apply` writes it",
        )],
    ),
    (
        "prompt cost",
        &[(
            "wealdmist prompt cost zsh --folder ~/src/marsh-gauge",
            "what the prompt takes there, part by part",
        )],
    ),
    (
        "prompt code",
        &[("wealdmist prompt code bash", "what the shell would run")],
    ),
    ("palette", &[]),
    (
        "palette list",
        &[("wealdmist palette list", "with their sides")],
    ),
    (
        "palette use",
        &[("wealdmist palette use morning", "then `wealdmist apply`")],
    ),
    (
        "palette image",
        &[(
            "wealdmist palette image marsh.jpg --dry-run",
            "only show what it gives",
        )],
    ),
    (
        "palette seeds",
        &[(
            "wealdmist palette seeds teal 'oklch(0.8 0.1 80)' --name tide",
            "from two colors",
        )],
    ),
    (
        "palette counterpart",
        &[(
            "wealdmist palette counterpart --name morning",
            "the light side of a dark palette",
        )],
    ),
    (
        "palette vary",
        &[(
            "wealdmist palette vary softer --dry-run",
            "less chroma and contrast",
        )],
    ),
    (
        "appearance",
        &[(
            "wealdmist appearance light",
            "the light side, applied and reloaded",
        )],
    ),
    ("font", &[]),
    (
        "font list",
        &[(
            "wealdmist font list mono",
            "families with that in their name",
        )],
    ),
    (
        "font show",
        &[(
            "wealdmist font show 'Reedbed Mono NF'",
            "facts, and its name in each tool",
        )],
    ),
    (
        "font compare",
        &[(
            "wealdmist font compare 'Reedbed Mono NF' fonts.zip --sample icons",
            "before installing it",
        )],
    ),
    (
        "font coverage",
        &[(
            "wealdmist font coverage 'Reedbed Mono NF'",
            "by icon range and block",
        )],
    ),
    (
        "font spell",
        &[(
            "wealdmist font spell",
            "the lines that select the setup's font",
        )],
    ),
    (
        "font choose",
        &[(
            "wealdmist font choose 'Reedbed Mono NF' --size 13 --feature ss01",
            "with one stylistic set",
        )],
    ),
    (
        "font install",
        &[(
            "wealdmist font install fonts.zip --face Regular",
            "one face of an archive",
        )],
    ),
    (
        "glyphs",
        &[(
            "wealdmist glyphs --open",
            "only those that are missing, moved or too wide",
        )],
    ),
    (
        "icons",
        &[("wealdmist icons branch", "by what they are used for")],
    ),
    (
        "symbols",
        &[("wealdmist symbols plain --tool tmux", "for one tool alone")],
    ),
    (
        "terminal",
        &[(
            "wealdmist terminal --measure",
            "how wide this terminal draws each glyph",
        )],
    ),
    (
        "set",
        &[
            (
                "wealdmist set comment 'oklch(0.7 0.02 200)' --apply",
                "a color in any notation, written at once",
            ),
            (
                "wealdmist set comment 'lighter 0.05'",
                "from what it is now",
            ),
            ("wealdmist set font.size 13", "what is no color"),
            (
                "wealdmist set tools.nvim.generate true",
                "let a theme be generated",
            ),
        ],
    ),
    (
        "adopt",
        &[(
            "wealdmist adopt border.active tmux --apply",
            "what tmux has, everywhere",
        )],
    ),
    (
        "except",
        &[(
            "wealdmist except border.active tmux --reason 'projector'",
            "tmux may differ there",
        )],
    ),
    (
        "plan",
        &[
            ("wealdmist plan --only 1.2", "one change of the first file"),
            ("wealdmist plan --json", "for a program"),
        ],
    ),
    (
        "apply",
        &[
            ("wealdmist apply --skip 2", "leave the second file out"),
            (
                "wealdmist apply --ask",
                "ask the programs first what the dotfiles come to",
            ),
        ],
    ),
    ("undo", &[("wealdmist undo 3", "the apply of that number")]),
    (
        "allow",
        &[(
            "wealdmist allow /etc/bash.bashrc",
            "a file outside the home may be edited",
        )],
    ),
    (
        "history",
        &[("wealdmist history", "what was applied and undone")],
    ),
    ("reload", &[("wealdmist reload tmux", "one tool")]),
    ("verify", &[("wealdmist verify --json", "for a program")]),
    ("trial", &[("wealdmist trial", "until Enter is pressed")]),
    (
        "draw",
        &[(
            "wealdmist draw pairs -o pairs.svg --vision protan",
            "as it is seen with that deficiency",
        )],
    ),
    (
        "pack",
        &[(
            "wealdmist pack -o saltmarsh.tar",
            "setup, generated files and a picture",
        )],
    ),
    (
        "completions",
        &[(
            "wealdmist completions bash",
            "to be sourced by the shell when it starts",
        )],
    ),
    ("man", &[("wealdmist man", "to be read with `man -l -`")]),
];

/// Those of a command, by its whole name: `wealdmist font list`.
pub fn of(name: &str) -> &'static [Example] {
    let name = name.strip_prefix("wealdmist ").unwrap_or(name);
    OF.iter().find(|o| o.0 == name).map_or(&[], |o| o.1)
}

/// Examples as they stand below a help.
pub fn text(examples: &[Example]) -> String {
    let wide = examples.iter().map(|e| e.0.chars().count()).max();
    let wide = wide.unwrap_or(0);
    let lines = examples.iter().map(|(line, what)| match wide > 50 {
        true => format!("  {line}\n      {what}"),
        false => format!("  {line:<wide$}  {what}"),
    });
    format!("Examples:\n{}", lines.collect::<Vec<_>>().join("\n"))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The words of a line as a shell takes them.
    fn words(line: &str) -> Vec<String> {
        let parts = line.split('\'').enumerate();
        let mut out = Vec::new();
        for (i, part) in parts {
            match i % 2 {
                1 => out.push(part.to_owned()),
                _ => out.extend(part.split_whitespace().map(str::to_owned)),
            }
        }
        out
    }

    #[test]
    fn every_command_has_examples_and_every_example_is_one_of_its_command() {
        fn names(command: &clap::Command, before: &str, out: &mut Vec<String>) {
            for sub in command.get_subcommands().filter(|s| s.get_name() != "help") {
                let name = format!("{before}{}", sub.get_name());
                names(sub, &format!("{name} "), out);
                out.push(name);
            }
        }
        let mut all = Vec::new();
        names(&crate::cli::command(), "", &mut all);
        for name in &all {
            let there = OF.iter().find(|o| o.0 == name);
            assert!(there.is_some(), "{name} has no example");
        }
        for (name, examples) in OF {
            assert!(all.iter().any(|n| n == name), "there is no {name}");
            for (line, _) in *examples {
                assert!(line.starts_with(&format!("wealdmist {name}")), "{line}");
            }
        }
        let all = OF.iter().flat_map(|o| o.1).chain(GENERAL);
        for (line, _) in all {
            let parsed = crate::cli::command().try_get_matches_from(words(line));
            assert!(parsed.is_ok(), "{line}: {}", parsed.unwrap_err());
        }
    }
}
