//! Roles: the jobs colors do, with what each is drawn on and what it is when nobody says.
//!
//! The standard terminal colors (slots) are roles too, so that one ledger holds everything. Roles
//! found in dotfiles that fit no known job get an id of their own (`tmux.status-left.2.text`).

use std::borrow::Cow;
use std::fmt;
use std::sync::LazyLock;

use foldhash::HashMap;

use crate::property::Property;

/// Attributes of text.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Attrs {
    /// Bold.
    pub bold: bool,
    /// Italic.
    pub italic: bool,
    /// Underlined.
    pub underline: bool,
}

impl Attrs {
    /// Those it has, by name.
    pub fn names(self) -> impl Iterator<Item = &'static str> {
        let all = [
            ("bold", self.bold),
            ("italic", self.italic),
            ("underline", self.underline),
        ];
        all.into_iter().filter(|a| a.1).map(|a| a.0)
    }
}

/// The name of a role, such as `comment` or `border.active`.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct RoleId(Cow<'static, str>);

impl RoleId {
    /// Whether a role is drawn inside panes, which are dimmed when inactive, and not in bars, tabs
    /// and borders.
    #[must_use]
    pub fn stands_in_pane(&self) -> bool {
        let name = self.as_str();
        self.group() != Group::Bar && !name.starts_with("border.") && !name.starts_with("tab.")
    }

    /// A role by its well-known name.
    #[must_use]
    pub const fn known(name: &'static str) -> Self {
        Self(Cow::Borrowed(name))
    }

    /// A role by a name made at run time.
    #[must_use]
    pub fn new(name: impl Into<String>) -> Self {
        Self(Cow::Owned(name.into()))
    }

    /// The name.
    #[must_use]
    pub fn as_str(&self) -> &str {
        &self.0
    }

    /// Whether this is one of the rows that are not colors (font, symbols, depth …).
    #[must_use]
    pub fn is_property(&self) -> bool {
        Property::from_key(self.as_str()).is_some()
    }

    /// What the role is shown as.
    #[must_use]
    pub fn label(&self) -> String {
        if let Some(known) = lookup(self) {
            return known.label.to_owned();
        }
        if let Some(property) = Property::from_key(self.as_str()) {
            return property.label().to_owned();
        }
        self.as_str().replace('.', " ")
    }

    /// The group the role stands in.
    #[must_use]
    pub fn group(&self) -> Group {
        if let Some(known) = lookup(self) {
            known.group
        } else if self.is_property() {
            Group::General
        } else {
            Group::Other
        }
    }

    /// Whether this color is a ground others are drawn on rather than something drawn.
    #[must_use]
    pub fn is_ground(&self) -> bool {
        let name = self.as_str();
        name.ends_with(".ground")
            || matches!(
                name,
                "background" | "selection" | "cursor-line" | "tab.bar" | "cursor"
            )
    }
}

impl fmt::Display for RoleId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

impl From<Property> for RoleId {
    fn from(property: Property) -> Self {
        Self::known(property.key())
    }
}

impl From<Slot> for RoleId {
    fn from(slot: Slot) -> Self {
        Self::known(slot.key())
    }
}

/// The parts of the ledger.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Group {
    /// Font, symbol level, color depth, window.
    General,
    /// The standard terminal colors.
    Slots,
    /// Window borders, tabs, links.
    Window,
    /// The multiplexer's bar and messages.
    Bar,
    /// The shell prompt.
    Prompt,
    /// Source code.
    Syntax,
    /// The editor's own interface.
    Editor,
    /// Diagnostics.
    Diagnostics,
    /// Differences.
    Diff,
    /// What is typed in a shell, and what completes it.
    Shell,
    /// Found in dotfiles, with no known job.
    Other,
}

impl Group {
    /// The heading shown to people.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::General => "General",
            Self::Slots => "Terminal colors",
            Self::Window => "Window",
            Self::Bar => "Bar",
            Self::Prompt => "Prompt",
            Self::Shell => "Command line",
            Self::Syntax => "Syntax",
            Self::Editor => "Editor",
            Self::Diagnostics => "Diagnostics",
            Self::Diff => "Differences",
            Self::Other => "Other colors found",
        }
    }
}

/// The standard terminal colors.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[repr(u8)]
#[allow(missing_docs)]
pub enum Slot {
    Foreground,
    Background,
    Cursor,
    CursorText,
    Selection,
    SelectionText,
    Black,
    Red,
    Green,
    Yellow,
    Blue,
    Magenta,
    Cyan,
    White,
    BrightBlack,
    BrightRed,
    BrightGreen,
    BrightYellow,
    BrightBlue,
    BrightMagenta,
    BrightCyan,
    BrightWhite,
}

impl Slot {
    /// All slots, in the order they are listed.
    pub const ALL: [Self; 22] = [
        Self::Foreground,
        Self::Background,
        Self::Cursor,
        Self::CursorText,
        Self::Selection,
        Self::SelectionText,
        Self::Black,
        Self::Red,
        Self::Green,
        Self::Yellow,
        Self::Blue,
        Self::Magenta,
        Self::Cyan,
        Self::White,
        Self::BrightBlack,
        Self::BrightRed,
        Self::BrightGreen,
        Self::BrightYellow,
        Self::BrightBlue,
        Self::BrightMagenta,
        Self::BrightCyan,
        Self::BrightWhite,
    ];

    /// The name in the setup file, which is also the slot's role.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::Foreground => "foreground",
            Self::Background => "background",
            Self::Cursor => "cursor",
            Self::CursorText => "cursor-text",
            Self::Selection => "selection",
            Self::SelectionText => "selection-text",
            Self::Black => "black",
            Self::Red => "red",
            Self::Green => "green",
            Self::Yellow => "yellow",
            Self::Blue => "blue",
            Self::Magenta => "magenta",
            Self::Cyan => "cyan",
            Self::White => "white",
            Self::BrightBlack => "bright-black",
            Self::BrightRed => "bright-red",
            Self::BrightGreen => "bright-green",
            Self::BrightYellow => "bright-yellow",
            Self::BrightBlue => "bright-blue",
            Self::BrightMagenta => "bright-magenta",
            Self::BrightCyan => "bright-cyan",
            Self::BrightWhite => "bright-white",
        }
    }

    /// The slot of a name.
    #[must_use]
    pub fn from_key(key: &str) -> Option<Self> {
        static BY_KEY: LazyLock<HashMap<&str, Slot>> =
            LazyLock::new(|| Slot::ALL.into_iter().map(|s| (s.key(), s)).collect());
        BY_KEY.get(key).copied()
    }

    /// The ANSI index 0–15, where the slot has one.
    #[must_use]
    pub const fn ansi(self) -> Option<u8> {
        let n = self as u8;
        if n >= Self::Black as u8 {
            Some(n - Self::Black as u8)
        } else {
            None
        }
    }

    /// The slot of an ANSI index; `None` above 15.
    #[must_use]
    pub fn from_ansi(index: u8) -> Option<Self> {
        Self::ALL
            .get(usize::from(index) + Self::Black as usize)
            .copied()
            .filter(|_| index < 16)
    }
}

/// How a text is used, which decides the contrast it needs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Usage {
    /// Read as text: 4.5:1 (WCAG 2.2, 1.4.3).
    Body,
    /// Read as text, but large (18 points, or 14 and bold): 3:1 (WCAG 2.2, 1.4.3).
    Large,
    /// Read now and then, secondary by intent (comments, line numbers): 3:1.
    Secondary,
    /// Not text, but needed to understand (borders, cursor): 3:1 (WCAG 2.2, 1.4.11).
    NonText,
    /// Decoration; no target.
    Decoration,
}

impl Usage {
    /// All, in the order of the setup file.
    pub const ALL: [Self; 5] = [
        Self::Body,
        Self::Large,
        Self::Secondary,
        Self::NonText,
        Self::Decoration,
    ];

    /// The word in the setup file.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::Body => "text",
            Self::Large => "large",
            Self::Secondary => "secondary",
            Self::NonText => "non-text",
            Self::Decoration => "decoration",
        }
    }

    /// The use of a text of this size, in points.
    #[must_use]
    pub fn at_size(self, points: Option<f64>, bold: bool) -> Self {
        let large = points.is_some_and(|p| p >= 18.0 || (bold && p >= 14.0));
        if self == Self::Body && large {
            Self::Large
        } else {
            self
        }
    }
    /// The ratio the usage needs unless the setup says otherwise, 1 where there is no target.
    #[must_use]
    pub const fn target(self) -> f64 {
        match self {
            Self::Body => 4.5,
            Self::Large | Self::Secondary | Self::NonText => 3.0,
            Self::Decoration => 1.0,
        }
    }

    /// The word shown to people.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Large => "large text",
            other => other.key(),
        }
    }
}

/// What is known about a role beforehand.
#[derive(Debug, Clone, Copy)]
pub struct Known {
    /// The name.
    pub id: &'static str,
    /// Where it stands in the ledger.
    pub group: Group,
    /// What it is shown as.
    pub label: &'static str,
    /// Its color when the setup does not say: a name, or `a+b@n`, a mix with n percent of b.
    pub default: &'static str,
    /// The role it is drawn on.
    pub on: &'static str,
    /// How it is used there.
    pub usage: Usage,
}

impl Known {
    /// Its color when the setup does not say: a name, and where it is a mix the other name and how much of that,
    /// 0–1.
    #[must_use]
    pub fn by_default(&self) -> (&'static str, Option<(&'static str, f64)>) {
        let Some((pair, percent)) = self.default.split_once('@') else {
            return (self.default, None);
        };
        let (one, other) = pair.split_once('+').unwrap_or((pair, pair));
        let amount = percent.parse::<f64>().unwrap_or(50.0) / 100.0;
        (one, Some((other, amount)))
    }
}

/// The known role of a name.
#[must_use]
pub fn lookup(role: &RoleId) -> Option<&'static Known> {
    static BY_NAME: LazyLock<HashMap<&str, &Known>> = LazyLock::new(|| {
        // Of two with one name the first counts.
        ROLES.iter().rev().map(|k| (k.id, k)).collect()
    });
    BY_NAME.get(role.as_str()).copied()
}

const fn role(
    id: &'static str,
    group: Group,
    label: &'static str,
    default: &'static str,
    on: &'static str,
    usage: Usage,
) -> Known {
    Known {
        id,
        group,
        label,
        default,
        on,
        usage,
    }
}

use Group as G;
use Usage as U;

/// Every known role, in the order of the ledger.
#[rustfmt::skip]
pub static ROLES: &[Known] = &[
    role("foreground", G::Slots, "foreground", "foreground", "background", U::Body),
    role("background", G::Slots, "background", "background", "background", U::Decoration),
    role("cursor", G::Slots, "cursor", "cursor", "background", U::NonText),
    role("cursor-text", G::Slots, "text under the cursor", "cursor-text", "cursor", U::Body),
    role("selection", G::Slots, "selection", "selection", "background", U::Decoration),
    role("selection-text", G::Slots, "selected text", "selection-text", "selection", U::Body),
    role("black", G::Slots, "black", "black", "background", U::Decoration),
    role("red", G::Slots, "red", "red", "background", U::Body),
    role("green", G::Slots, "green", "green", "background", U::Body),
    role("yellow", G::Slots, "yellow", "yellow", "background", U::Body),
    role("blue", G::Slots, "blue", "blue", "background", U::Body),
    role("magenta", G::Slots, "magenta", "magenta", "background", U::Body),
    role("cyan", G::Slots, "cyan", "cyan", "background", U::Body),
    role("white", G::Slots, "white", "white", "background", U::Body),
    role("bright-black", G::Slots, "bright black", "bright-black", "background", U::Secondary),
    role("bright-red", G::Slots, "bright red", "bright-red", "background", U::Body),
    role("bright-green", G::Slots, "bright green", "bright-green", "background", U::Body),
    role("bright-yellow", G::Slots, "bright yellow", "bright-yellow", "background", U::Body),
    role("bright-blue", G::Slots, "bright blue", "bright-blue", "background", U::Body),
    role("bright-magenta", G::Slots, "bright magenta", "bright-magenta", "background", U::Body),
    role("bright-cyan", G::Slots, "bright cyan", "bright-cyan", "background", U::Body),
    role("bright-white", G::Slots, "bright white", "bright-white", "background", U::Body),

    role("url", G::Window, "link", "cyan", "background", U::NonText),
    role("border.active", G::Window, "active pane border", "cyan", "background", U::NonText),
    role("border.inactive", G::Window, "inactive pane border", "background+foreground@25", "background", U::Decoration),
    role("border.bell", G::Window, "border after a bell", "red", "background", U::NonText),
    role("tab.active.text", G::Window, "active tab", "background", "tab.active.ground", U::Body),
    role("tab.active.ground", G::Window, "active tab ground", "cyan", "tab.bar", U::NonText),
    role("tab.inactive.text", G::Window, "other tabs", "background+foreground@72", "tab.inactive.ground", U::Secondary),
    role("tab.inactive.ground", G::Window, "other tabs ground", "background+foreground@10", "tab.bar", U::Decoration),
    role("tab.bar", G::Window, "tab bar ground", "background+foreground@6", "background", U::Decoration),

    role("bar.text", G::Bar, "bar text", "foreground", "bar.ground", U::Body),
    role("bar.ground", G::Bar, "bar ground", "background+foreground@10", "background", U::Decoration),
    role("bar.left.text", G::Bar, "bar, left part", "bar.text", "bar.left.ground", U::Body),
    role("bar.left.ground", G::Bar, "bar, left ground", "bar.ground", "bar.ground", U::Decoration),
    role("bar.right.text", G::Bar, "bar, right part", "bar.text", "bar.right.ground", U::Body),
    role("bar.right.ground", G::Bar, "bar, right ground", "bar.ground", "bar.ground", U::Decoration),
    role("bar.window.text", G::Bar, "other windows", "background+foreground@72", "bar.window.ground", U::Secondary),
    role("bar.window.ground", G::Bar, "other windows ground", "bar.ground", "bar.ground", U::Decoration),
    role("bar.current.text", G::Bar, "current window", "tab.active.text", "bar.current.ground", U::Body),
    role("bar.current.ground", G::Bar, "current window ground", "tab.active.ground", "bar.ground", U::NonText),
    role("bar.last.text", G::Bar, "last window", "bar.window.text", "bar.window.ground", U::Secondary),
    role("bar.alert.text", G::Bar, "window with an alert", "yellow", "bar.ground", U::Body),
    role("bar.prefix.text", G::Bar, "prefix pressed", "background", "bar.prefix.ground", U::Body),
    role("bar.prefix.ground", G::Bar, "prefix pressed, ground", "yellow", "bar.ground", U::NonText),
    role("bar.flag.text", G::Bar, "window flags", "bar.current.text", "bar.current.ground", U::Body),
    role("message.text", G::Bar, "message", "background", "message.ground", U::Body),
    role("message.ground", G::Bar, "message ground", "yellow", "background", U::Decoration),

    role("prompt.user", G::Prompt, "user", "yellow", "background", U::Body),
    role("prompt.host", G::Prompt, "host", "yellow", "background", U::Body),
    role("prompt.root", G::Prompt, "user when root", "bright-red", "background", U::Body),
    role("prompt.folder", G::Prompt, "folder", "blue", "background", U::Body),
    role("prompt.branch", G::Prompt, "git branch", "magenta", "background", U::Body),
    role("prompt.dirty", G::Prompt, "uncommitted changes", "yellow", "background", U::Body),
    role("prompt.failure", G::Prompt, "exit status", "red", "background", U::Body),
    role("prompt.sign", G::Prompt, "prompt sign", "green", "background", U::Body),
    role("prompt.operation", G::Prompt, "git operation under way", "bright-red", "background", U::Body),
    role("prompt.duration", G::Prompt, "duration of a command", "yellow", "background", U::Body),
    role("prompt.jobs", G::Prompt, "background jobs", "cyan", "background", U::Body),
    role("prompt.time", G::Prompt, "time and date", "background+foreground@72", "background", U::Secondary),
    role("prompt.battery", G::Prompt, "battery", "red", "background", U::Body),
    role("prompt.load", G::Prompt, "load and memory", "yellow", "background", U::Body),
    role("prompt.language", G::Prompt, "languages", "cyan", "background", U::Body),
    role("prompt.environment", G::Prompt, "environments", "green", "background", U::Body),
    role("prompt.mode", G::Prompt, "mode of the line editor", "magenta", "background", U::Body),
    role("prompt.text", G::Prompt, "text of yours", "foreground", "background", U::Body),
    role("prompt.between", G::Prompt, "between the parts", "background+foreground@50", "background", U::NonText),

    role("comment", G::Syntax, "comment", "background+foreground@60", "background", U::Secondary),
    role("keyword", G::Syntax, "keyword", "magenta", "background", U::Body),
    role("string", G::Syntax, "string", "green", "background", U::Body),
    role("number", G::Syntax, "number", "yellow", "background", U::Body),
    role("constant", G::Syntax, "constant", "yellow", "background", U::Body),
    role("function", G::Syntax, "function", "blue", "background", U::Body),
    role("type", G::Syntax, "type", "cyan", "background", U::Body),
    role("variable", G::Syntax, "variable", "foreground", "background", U::Body),
    role("operator", G::Syntax, "operator", "background+foreground@85", "background", U::Body),
    role("punctuation", G::Syntax, "punctuation", "background+foreground@75", "background", U::Secondary),
    role("preprocessor", G::Syntax, "preprocessor", "bright-magenta", "background", U::Body),
    role("special", G::Syntax, "special", "bright-cyan", "background", U::Body),
    role("title", G::Syntax, "title", "bright-blue", "background", U::Body),
    role("todo", G::Syntax, "to-do mark", "bright-yellow", "background", U::Body),

    role("line-number", G::Editor, "line number", "background+foreground@50", "background", U::Secondary),
    role("line-number.current", G::Editor, "current line number", "yellow", "cursor-line", U::Body),
    role("cursor-line", G::Editor, "current line ground", "background+foreground@7", "background", U::Decoration),
    role("search.text", G::Editor, "search match", "background", "search.ground", U::Body),
    role("search.ground", G::Editor, "search match ground", "yellow", "background", U::Decoration),
    role("search.current.text", G::Editor, "current match", "background", "search.current.ground", U::Body),
    role("search.current.ground", G::Editor, "current match ground", "bright-red", "background", U::Decoration),
    role("match", G::Editor, "matching bracket", "bright-cyan", "background", U::Body),
    role("popup.text", G::Editor, "menu", "foreground", "popup.ground", U::Body),
    role("popup.ground", G::Editor, "menu ground", "background+foreground@12", "background", U::Decoration),
    role("popup.selected.text", G::Editor, "menu, selected", "selection-text", "popup.selected.ground", U::Body),
    role("popup.selected.ground", G::Editor, "menu, selected ground", "selection", "popup.ground", U::Decoration),
    role("status.text", G::Editor, "editor status line", "bar.text", "status.ground", U::Body),
    role("status.ground", G::Editor, "editor status ground", "background+foreground@18", "background", U::Decoration),
    role("status.inactive.text", G::Editor, "status line, inactive", "background+foreground@60", "status.inactive.ground", U::Secondary),
    role("status.inactive.ground", G::Editor, "status ground, inactive", "background+foreground@10", "background", U::Decoration),
    role("whitespace", G::Editor, "whitespace signs", "background+foreground@25", "background", U::Decoration),
    role("folded", G::Editor, "folded lines", "background+foreground@70", "cursor-line", U::Secondary),
    role("directory", G::Editor, "folder name", "blue", "background", U::Body),

    role("error", G::Diagnostics, "error", "red", "background", U::Body),
    role("warning", G::Diagnostics, "warning", "yellow", "background", U::Body),
    role("info", G::Diagnostics, "information", "blue", "background", U::Body),
    role("hint", G::Diagnostics, "hint", "cyan", "background", U::Body),
    role("success", G::Diagnostics, "success", "green", "background", U::Body),

    role("diff.added.text", G::Diff, "added", "green", "diff.added.ground", U::Body),
    role("diff.added.ground", G::Diff, "added ground", "background+green@14", "background", U::Decoration),
    role("diff.removed.text", G::Diff, "removed", "red", "diff.removed.ground", U::Body),
    role("diff.removed.ground", G::Diff, "removed ground", "background+red@14", "background", U::Decoration),
    role("diff.changed.text", G::Diff, "changed", "yellow", "diff.changed.ground", U::Body),
    role("diff.changed.ground", G::Diff, "changed ground", "background+yellow@14", "background", U::Decoration),
    role("shell.typed", G::Shell, "what is typed", "foreground", "background", U::Body),
    role("shell.command", G::Shell, "command", "blue", "background", U::Body),
    role("shell.keyword", G::Shell, "keyword", "keyword", "background", U::Body),
    role("shell.parameter", G::Shell, "argument", "foreground", "background", U::Body),
    role("shell.option", G::Shell, "option", "cyan", "background", U::Body),
    role("shell.string", G::Shell, "quoted text", "string", "background", U::Body),
    role("shell.escape", G::Shell, "escapes and variables", "magenta", "background", U::Body),
    role("shell.operator", G::Shell, "operator", "operator", "background", U::Body),
    role("shell.redirection", G::Shell, "redirection", "magenta", "background", U::Body),
    role("shell.end", G::Shell, "end of a command", "operator", "background", U::Body),
    role("shell.path", G::Shell, "path that is there", "foreground", "background", U::Body),
    role("shell.error", G::Shell, "what is no command", "red", "background", U::Body),
    role("shell.comment", G::Shell, "typed comment", "comment", "background", U::Secondary),
    role("shell.suggestion", G::Shell, "suggested text", "comment", "background", U::Secondary),
    role("shell.cancel", G::Shell, "given up line", "red", "background", U::Body),
    role("shell.selection", G::Shell, "selected while typing", "selection-text", "shell.selection.ground", U::Body),
    role("shell.selection.ground", G::Shell, "ground of what is selected", "selection", "background", U::Decoration),
    role("shell.match", G::Shell, "match in the history", "background", "shell.match.ground", U::Body),
    role("shell.match.ground", G::Shell, "ground of a match", "yellow", "background", U::Decoration),
    role("completion.text", G::Shell, "completion", "foreground", "background", U::Body),
    role("completion.prefix", G::Shell, "typed part of a completion", "cyan", "background", U::Body),
    role("completion.description", G::Shell, "description of a completion", "comment", "background", U::Secondary),
    role("completion.progress", G::Shell, "place in the list", "yellow", "background", U::Body),
    role("completion.heading", G::Shell, "heading of completions", "yellow", "background", U::Body),
    role("completion.selected", G::Shell, "completion, selected", "selection-text", "completion.selected.ground", U::Body),
    role("completion.selected.ground", G::Shell, "ground of the selected completion", "selection", "background", U::Decoration),
];

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    #[test]
    fn every_row_is_consistent() {
        let names: BTreeSet<_> = ROLES.iter().map(|k| k.id).collect();
        assert_eq!(names.len(), ROLES.len(), "a role is listed twice");
        for known in ROLES {
            assert!(
                names.contains(known.on),
                "{} is drawn on unknown {}",
                known.id,
                known.on
            );
            let refs = known.default.split('@').next().unwrap().split('+');
            for name in refs {
                assert!(
                    names.contains(name),
                    "{} refers to unknown {name}",
                    known.id
                );
            }
            if known.usage == Usage::Body {
                assert!(
                    !RoleId::known(known.id).is_ground(),
                    "{} is a ground",
                    known.id
                );
            }
        }
    }

    #[test]
    fn slots_and_indices_agree() {
        for slot in Slot::ALL {
            assert_eq!(Slot::from_key(slot.key()), Some(slot));
            if let Some(index) = slot.ansi() {
                assert_eq!(Slot::from_ansi(index), Some(slot));
            }
        }
        assert_eq!(Slot::from_ansi(0), Some(Slot::Black));
        assert_eq!(Slot::from_ansi(16), None);
    }
}
