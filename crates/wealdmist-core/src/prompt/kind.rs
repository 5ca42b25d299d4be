//! What parts of a prompt can tell, each with what is usual for it.

use crate::character::SymbolLevel;

/// What a part tells.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Kind {
    /// The folder one is in.
    Folder,
    /// That the folder cannot be written to.
    Locked,
    /// The user's name.
    User,
    /// The host's name, up to its first point.
    Host,
    /// The branch of the repository, or the commit where none is checked out.
    Branch,
    /// What is not committed.
    Changes,
    /// What git is in the middle of.
    Operation,
    /// The exit status of the last command.
    Status,
    /// How long the last command ran.
    Duration,
    /// How many jobs run in the background.
    Jobs,
    /// The time of day.
    Time,
    /// The date.
    Date,
    /// What is left of the battery.
    Battery,
    /// How much of the memory is in use.
    Memory,
    /// The load of the last minute.
    Load,
    /// A language or tool, by files in the folder.
    Language,
    /// A variable of the environment, where it is set.
    Variable,
    /// That the shell was reached from another machine.
    Remote,
    /// That the shell runs in a container.
    Container,
    /// How many shells this one runs in.
    Nested,
    /// The mode of a line editor that has several.
    Mode,
    /// The operating system.
    System,
    /// A text of the person's own.
    Text,
    /// Where one types.
    Input,
}

impl Kind {
    /// What it is called.
    #[must_use]
    pub fn label(self) -> &'static str {
        match self {
            Self::Language => "language or tool",
            Self::Variable => "variable of the environment",
            _ => KNOWN
                .iter()
                .find(|k| k.kind == self)
                .map_or("part", |k| k.label),
        }
    }
}

/// A part with what is usual for it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Known {
    /// Its name in the setup file.
    pub name: &'static str,
    /// What it tells.
    pub kind: Kind,
    /// What it is called.
    pub label: &'static str,
    /// What stands before its value, by symbol level: icons, plain, ASCII.
    pub signs: [&'static str; 3],
    /// The role of its text.
    pub text: &'static str,
    /// Its place among those that give way; the lower, the sooner.
    pub rank: u8,
    /// The files of which one shows it, for a language.
    pub files: &'static [&'static str],
    /// What is asked for a version, for a language: a program and its arguments.
    pub version: &'static [&'static str],
    /// The variable whose value it tells.
    pub variable: &'static str,
}

const fn known(
    name: &'static str,
    kind: Kind,
    label: &'static str,
    signs: [&'static str; 3],
    text: &'static str,
    rank: u8,
) -> Known {
    Known {
        name,
        kind,
        label,
        signs,
        text,
        rank,
        files: &[],
        version: &[],
        variable: "",
    }
}

const fn language(
    name: &'static str,
    icon: &'static str,
    files: &'static [&'static str],
    version: &'static [&'static str],
) -> Known {
    Known {
        files,
        version,
        ..known(
            name,
            Kind::Language,
            name,
            [icon, "", ""],
            "prompt.language",
            4,
        )
    }
}

const fn variable(name: &'static str, variable: &'static str, label: &'static str) -> Known {
    Known {
        variable,
        ..known(
            name,
            Kind::Variable,
            label,
            ["", "", ""],
            "prompt.environment",
            5,
        )
    }
}

/// Every part that needs no more than its name, in the order they are offered.
pub const KNOWN: &[Known] = &[
    known(
        "folder",
        Kind::Folder,
        "folder",
        ["", "", ""],
        "prompt.folder",
        9,
    ),
    known(
        "locked",
        Kind::Locked,
        "folder that cannot be written to",
        ["\u{f023}", "⊘", "ro"],
        "prompt.failure",
        6,
    ),
    known("user", Kind::User, "user", ["", "", ""], "prompt.user", 7),
    known("host", Kind::Host, "host", ["", "", ""], "prompt.host", 7),
    known(
        "branch",
        Kind::Branch,
        "git branch",
        ["\u{e725} ", "↳ ", "@ "],
        "prompt.branch",
        6,
    ),
    known(
        "changes",
        Kind::Changes,
        "uncommitted changes",
        ["\u{f040}", "±", "*"],
        "prompt.dirty",
        6,
    ),
    known(
        "operation",
        Kind::Operation,
        "what git is in the middle of",
        ["", "", ""],
        "prompt.operation",
        7,
    ),
    known(
        "status",
        Kind::Status,
        "exit status",
        ["\u{f00d} ", "✗ ", "x "],
        "prompt.failure",
        8,
    ),
    known(
        "duration",
        Kind::Duration,
        "how long the command ran",
        ["\u{f252} ", "", ""],
        "prompt.duration",
        3,
    ),
    known(
        "jobs",
        Kind::Jobs,
        "background jobs",
        ["\u{f085} ", "⁕ ", "& "],
        "prompt.jobs",
        5,
    ),
    known(
        "time",
        Kind::Time,
        "time of day",
        ["", "", ""],
        "prompt.time",
        2,
    ),
    known("date", Kind::Date, "date", ["", "", ""], "prompt.time", 1),
    known(
        "battery",
        Kind::Battery,
        "battery",
        ["\u{f243} ", "", "bat "],
        "prompt.battery",
        4,
    ),
    known(
        "memory",
        Kind::Memory,
        "memory in use",
        ["\u{f2db} ", "mem ", "mem "],
        "prompt.load",
        1,
    ),
    known(
        "load",
        Kind::Load,
        "load",
        ["\u{f0e4} ", "load ", "load "],
        "prompt.load",
        1,
    ),
    language(
        "rust",
        "\u{e7a8} ",
        &["Cargo.toml"],
        &["rustc", "--version"],
    ),
    language(
        "python",
        "\u{e73c} ",
        &["pyproject.toml", "requirements.txt", "setup.py", "Pipfile"],
        &["python3", "--version"],
    ),
    language(
        "node",
        "\u{e718} ",
        &["package.json"],
        &["node", "--version"],
    ),
    language(
        "deno",
        "",
        &["deno.json", "deno.jsonc"],
        &["deno", "--version"],
    ),
    language("go", "\u{e627} ", &["go.mod"], &["go", "version"]),
    language(
        "java",
        "\u{e738} ",
        &["pom.xml", "build.gradle", "build.gradle.kts"],
        &[],
    ),
    language("ruby", "\u{e739} ", &["Gemfile"], &["ruby", "--version"]),
    language(
        "php",
        "\u{e73d} ",
        &["composer.json"],
        &["php", "--version"],
    ),
    language(
        "c",
        "\u{e61e} ",
        &["CMakeLists.txt", "meson.build", "configure.ac"],
        &[],
    ),
    language("make", "", &["Makefile", "GNUmakefile"], &[]),
    language("elixir", "\u{e62d} ", &["mix.exs"], &[]),
    language(
        "haskell",
        "\u{e777} ",
        &["stack.yaml", "cabal.project"],
        &["ghc", "--version"],
    ),
    language("swift", "\u{e755} ", &["Package.swift"], &[]),
    language("dart", "\u{e798} ", &["pubspec.yaml"], &[]),
    language("zig", "", &["build.zig"], &["zig", "version"]),
    language(
        "lua",
        "\u{e620} ",
        &[".luarc.json", "stylua.toml"],
        &["lua", "-v"],
    ),
    language("perl", "\u{e769} ", &["cpanfile", "Makefile.PL"], &[]),
    language("scala", "\u{e737} ", &["build.sbt"], &[]),
    language("julia", "", &["Project.toml"], &["julia", "--version"]),
    language("ocaml", "", &["dune-project"], &[]),
    language("nix", "", &["flake.nix", "shell.nix", "default.nix"], &[]),
    language(
        "docker",
        "\u{e7b0} ",
        &["Dockerfile", "compose.yaml", "docker-compose.yml"],
        &[],
    ),
    language("terraform", "", &["main.tf", ".terraform.lock.hcl"], &[]),
    variable("venv", "VIRTUAL_ENV", "Python environment"),
    variable("conda", "CONDA_DEFAULT_ENV", "package environment"),
    known(
        "remote",
        Kind::Remote,
        "reached from another machine",
        ["\u{f0c1}", "⇄", "ssh"],
        "prompt.host",
        7,
    ),
    known(
        "container",
        Kind::Container,
        "in a container",
        ["\u{f1b2}", "▣", "box"],
        "prompt.environment",
        6,
    ),
    known(
        "nested",
        Kind::Nested,
        "a shell in a shell",
        ["\u{f078} ", "⇊ ", "sh "],
        "prompt.environment",
        5,
    ),
    known(
        "mode",
        Kind::Mode,
        "mode of the line editor",
        ["", "", ""],
        "prompt.mode",
        8,
    ),
    known(
        "system",
        Kind::System,
        "operating system",
        ["\u{f17c} ", "", ""],
        "prompt.environment",
        2,
    ),
    known(
        "text",
        Kind::Text,
        "a text of yours",
        ["", "", ""],
        "prompt.text",
        3,
    ),
    known(
        "input",
        Kind::Input,
        "where one types",
        ["$", "$", "$"],
        "prompt.sign",
        10,
    ),
];

impl Known {
    /// The part of a name.
    #[must_use]
    pub fn named(name: &str) -> Option<&'static Self> {
        KNOWN.iter().find(|k| k.name == name)
    }

    /// Its sign at a level.
    #[must_use]
    pub const fn sign(&self, level: SymbolLevel) -> &'static str {
        match level {
            SymbolLevel::Icons => self.signs[0],
            SymbolLevel::Plain => self.signs[1],
            SymbolLevel::Ascii => self.signs[2],
        }
    }
}

/// What is not committed, by kind, in the order it is drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Item {
    Conflicts,
    Staged,
    Unstaged,
    Added,
    Removed,
    Untracked,
    Stash,
    Ahead,
    Behind,
}

impl Item {
    /// All of them.
    pub const ALL: [Self; 9] = [
        Self::Conflicts,
        Self::Staged,
        Self::Unstaged,
        Self::Added,
        Self::Removed,
        Self::Untracked,
        Self::Stash,
        Self::Ahead,
        Self::Behind,
    ];

    /// Whether it counts lines, and not files.
    #[must_use]
    pub const fn is_of_lines(self) -> bool {
        matches!(self, Self::Added | Self::Removed)
    }

    /// The sign of a kind of change.
    #[must_use]
    pub const fn sign(self, level: SymbolLevel) -> &'static str {
        let ascii = matches!(level, SymbolLevel::Ascii);
        match (self, ascii) {
            (Self::Conflicts, _) => "!",
            (Self::Staged | Self::Added, _) => "+",
            (Self::Unstaged, false) => "±",
            (Self::Unstaged, true) => "*",
            (Self::Removed, false) => "−",
            (Self::Removed, true) => "-",
            (Self::Untracked, false) => "◦",
            (Self::Untracked, true) => "%",
            (Self::Stash, false) => "▪",
            (Self::Stash, true) => "=",
            (Self::Ahead, false) => "↑",
            (Self::Ahead, true) => ">",
            (Self::Behind, false) => "↓",
            (Self::Behind, true) => "<",
        }
    }

    /// The name of the shells' variable that counts it.
    #[must_use]
    pub const fn variable(self) -> &'static str {
        match self {
            Self::Conflicts => "conflicts",
            Self::Staged => "staged",
            Self::Unstaged => "unstaged",
            Self::Added => "added",
            Self::Removed => "removed",
            Self::Untracked => "untracked",
            Self::Stash => "stash",
            Self::Ahead => "ahead",
            Self::Behind => "behind",
        }
    }
}

/// The sign where changes could not be asked for.
pub const UNKNOWN: &str = "?";

/// What stands for folders left out, and for the end of what is cut.
#[must_use]
pub const fn elided(level: SymbolLevel) -> &'static str {
    match level {
        SymbolLevel::Ascii => "..",
        _ => "…",
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::role::lookup;

    #[test]
    fn parts_have_names_of_their_own_and_roles_that_are_known() {
        for (i, known) in KNOWN.iter().enumerate() {
            assert!(
                !KNOWN[..i].iter().any(|k| k.name == known.name),
                "{}",
                known.name
            );
            assert!(
                lookup(&crate::role::RoleId::known(known.text)).is_some(),
                "{}",
                known.text
            );
            assert_eq!(known.kind == Kind::Language, !known.files.is_empty());
            assert_eq!(known.kind == Kind::Variable, !known.variable.is_empty());
        }
    }

    #[test]
    fn signs_stay_in_their_level() {
        for level in [SymbolLevel::Ascii, SymbolLevel::Plain, SymbolLevel::Icons] {
            let items = Item::ALL.map(|i| i.sign(level));
            let parts = KNOWN.iter().map(|k| k.sign(level));
            for c in parts
                .chain(items)
                .chain([elided(level)])
                .flat_map(str::chars)
            {
                assert!(crate::character::level(c) <= level, "{c} at {level:?}");
            }
        }
    }
}
