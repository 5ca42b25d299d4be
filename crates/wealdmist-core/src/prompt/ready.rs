//! Designs that are ready to be taken, each of another kind. They are written as a setup's `[prompt]`.

use std::sync::LazyLock;

use super::Design;
use crate::setup::{SetupDoc, ShowUser};

/// A design by its name.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Ready {
    /// Its name.
    pub name: &'static str,
    /// What it is like.
    pub says: &'static str,
    /// What stands in `[prompt]`.
    pub toml: &'static str,
}

/// All of them, the plainest first.
pub const ALL: &[Ready] = &[
    Ready {
        name: "Reed",
        says: "a bare sign",
        toml: r##"past = "sign"

[[prompt.line]]
left = ["folder", "input"]

[prompt.parts.folder]
folders = 1
when = "failed"
text = "prompt.failure"

[prompt.parts.input]
sign = "›"
sign-failed = "×"
"##,
    },
    Ready {
        name: "Ebb",
        says: "one quiet line",
        toml: r##"[[prompt.line]]
left = ["user", "host", "folder", "branch", "changes", "status", "input"]

[prompt.parts.host]
before = "on "

[prompt.parts.folder]
folders = 2

[prompt.parts.status]
sign = ""
"##,
    },
    Ready {
        name: "Causeway",
        says: "two lines, with a stretch of dots",
        toml: r##"stretch = "·"
blank = true
past = "sign"

[[prompt.line]]
left = ["folder", "locked", "branch", "changes", "operation"]
right = ["rust", "python", "node", "go", "venv", "duration", "time"]

[[prompt.line]]
left = ["jobs", "status", "input"]

[prompt.parts.changes]
as = "counts"

[prompt.parts.folder]
folders = 4

[prompt.parts.status]
as = "each"
"##,
    },
    Ready {
        name: "Sluice",
        says: "blocks with points",
        toml: r##"joint = "point"
close = "point"

[[prompt.line]]
left = ["user", "host", "folder", "branch", "changes", "status"]

[[prompt.line]]
left = ["input"]

[prompt.parts.user]
text = "background"
ground = "prompt.user"
text-root = "background"

[prompt.parts.host]
text = "background"
ground = "prompt.user"

[prompt.parts.folder]
text = "background"
ground = "prompt.folder"

[prompt.parts.branch]
text = "background"
ground = "prompt.branch"

[prompt.parts.changes]
as = "each"
text = "background"
ground = "prompt.dirty"

[prompt.parts.status]
text = "background"
ground = "prompt.failure"
"##,
    },
    Ready {
        name: "Pebbles",
        says: "bows, each by itself",
        toml: r##"joint = "none"
open = "bow"
close = "bow"
blank = true

[[prompt.line]]
left = ["folder", "branch", "changes"]
right = ["jobs", "duration", "battery"]

[[prompt.line]]
left = ["status", "input"]

[prompt.parts.folder]
text = "background"
ground = "prompt.folder"

[prompt.parts.branch]
ground = "selection"

[prompt.parts.changes]
as = "counts"
ground = "selection"

[prompt.parts.jobs]
ground = "selection"

[prompt.parts.duration]
ground = "selection"

[prompt.parts.battery]
text = "background"
ground = "prompt.battery"
"##,
    },
    Ready {
        name: "Mooring",
        says: "lines tied together",
        toml: r##"tie = true
gap = " - "

[[prompt.line]]
left = ["user", "host", "remote", "folder", "locked"]

[[prompt.line]]
left = ["branch", "changes", "operation"]

[[prompt.line]]
left = ["status", "duration", "input"]

[prompt.parts.user]
when = "always"

[prompt.parts.host]
when = "always"

[prompt.parts.folder]
folders = 0

[prompt.parts.changes]
as = "counts"
"##,
    },
    Ready {
        name: "Far shore",
        says: "everything on the right",
        toml: r##"[[prompt.line]]
left = ["input"]
right = ["status", "duration", "jobs", "changes", "branch", "folder"]

[prompt.parts.branch]
sign = ""

[prompt.parts.folder]
folders = 2
"##,
    },
    Ready {
        name: "Narrows",
        says: "very narrow",
        toml: r##"[[prompt.line]]
left = ["folder", "changes", "input"]

[prompt.parts.folder]
folders = 1
longest = 12

[prompt.parts.input]
text-failed = "prompt.failure"
"##,
    },
    Ready {
        name: "Skerries",
        says: "grounds that fade, on both sides",
        toml: r##"joint = "fade"
open = "fade"
close = "fade"
stretch = "─"

[[prompt.line]]
left = ["folder", "branch"]
right = ["changes", "duration", "time"]

[[prompt.line]]
left = ["status", "input"]

[prompt.parts.folder]
text = "background"
ground = "prompt.folder"

[prompt.parts.branch]
text = "background"
ground = "prompt.branch"

[prompt.parts.changes]
as = "each"
text = "background"
ground = "prompt.dirty"

[prompt.parts.duration]
ground = "selection"

[prompt.parts.time]
ground = "selection"
"##,
    },
];

/// The design of a name, in whatever case.
#[must_use]
pub fn named(name: &str) -> Option<&'static Ready> {
    ALL.iter()
        .find(|r| r.name.eq_ignore_ascii_case(name.trim()))
}

/// The ready design that a design is, if it is one.
#[must_use]
pub fn like(design: &Design) -> Option<&'static Ready> {
    static DESIGNS: LazyLock<Vec<Option<Design>>> = LazyLock::new(|| {
        let read = |ready: &Ready| {
            let text = format!("[palettes.a]\n[prompt]\n{}", ready.toml);
            let doc = SetupDoc::parse("ready", text.as_bytes()).ok()?;
            Some(doc.setup().prompt.clone())
        };
        ALL.iter().map(read).collect()
    });
    let at = DESIGNS.iter().position(|d| d.as_ref() == Some(design))?;
    ALL.get(at)
}

/// Whether a design is a ready one, or the plain one with what can be chosen of it: whoever takes another
/// loses nothing of their own.
#[must_use]
pub fn is_known(design: &Design) -> bool {
    let users = [ShowUser::WhenItMatters, ShowUser::Always, ShowUser::Never];
    let plain = |user: ShowUser| {
        (0..=9).any(|folders| {
            [true, false].into_iter().any(|lines| {
                let of = |git| Design::plain(lines, user, git, folders);
                *design == of(true) || *design == of(false)
            })
        })
    };
    like(design).is_some() || users.into_iter().any(plain)
}
