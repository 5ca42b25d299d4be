//! The shell prompt's design as a list of segments, and the same drawn in its situations.
//!
//! There is one list. Specimens draw it, and the code for a particular shell, in `wealdmist-tools`, is
//! made from it segment by segment.

use crate::character::SymbolLevel;
use crate::role::RoleId;
use crate::setup::{PromptDesign, ShowUser};

/// The signs a prompt uses at a symbol level.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Signs {
    /// Before the branch.
    pub branch: &'static str,
    /// After a branch with uncommitted changes.
    pub dirty: &'static str,
    /// Before an exit status.
    pub failure: &'static str,
    /// In place of folders left out.
    pub elided: &'static str,
}

/// The signs of a level.
#[must_use]
pub const fn signs(level: SymbolLevel) -> Signs {
    match level {
        SymbolLevel::Icons => Signs {
            branch: "\u{e725} ",
            dirty: "\u{f040}",
            failure: "\u{f00d} ",
            elided: "…",
        },
        SymbolLevel::Plain => Signs {
            branch: "↳ ",
            dirty: "±",
            failure: "✗ ",
            elided: "…",
        },
        SymbolLevel::Ascii => Signs {
            branch: "@ ",
            dirty: "*",
            failure: "x ",
            elided: "..",
        },
    }
}

/// What a segment shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// The user's name.
    User,
    /// The host's name.
    Host,
    /// The folder one is in.
    Folder,
    /// The git branch.
    Branch,
    /// Nothing but its sign, which tells of changes that are not committed; another sign where they
    /// could not be asked for.
    Changes,
    /// The exit status of the last command.
    Status,
    /// Where one types: another character for root.
    Input,
}

/// When a segment is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum When {
    /// Always.
    Always,
    /// As root, or in a shell that was reached from elsewhere.
    Matters,
    /// In a repository.
    InRepository,
    /// In a repository with changes, or with changes that could not be asked for.
    Changed,
    /// After a command that failed.
    Failed,
}

/// What makes a segment take another role.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Turn {
    /// The user is root.
    Root,
    /// The last command failed.
    Failed,
}

/// A segment of the prompt.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Segment {
    /// What it shows.
    pub part: Part,
    /// When.
    pub when: When,
    /// What stands before it: blanks and words.
    pub before: &'static str,
    /// Its sign, before what it shows.
    pub sign: &'static str,
    /// What stands behind it.
    pub after: &'static str,
    /// The role it is drawn in.
    pub role: &'static str,
    /// The role it takes instead, and when.
    pub turns: Option<(Turn, &'static str)>,
}

/// The segments of a design, line by line, in the order they are drawn.
#[must_use]
pub fn segments(design: &PromptDesign, signs: &Signs) -> Vec<Vec<Segment>> {
    let plain = |part, role| Segment {
        part,
        when: When::Always,
        before: "",
        sign: "",
        after: "",
        role,
        turns: None,
    };
    let who = match design.user {
        ShowUser::Always => Some(When::Always),
        ShowUser::WhenItMatters => Some(When::Matters),
        ShowUser::Never => None,
    };
    let mut top = Vec::new();
    if let Some(when) = who {
        top.push(Segment {
            when,
            turns: Some((Turn::Root, "prompt.root")),
            ..plain(Part::User, "prompt.user")
        });
        top.push(Segment {
            when,
            before: " on ",
            after: " ",
            ..plain(Part::Host, "prompt.host")
        });
    }
    top.push(plain(Part::Folder, "prompt.folder"));
    if design.git {
        top.push(Segment {
            when: When::InRepository,
            before: "  ",
            sign: signs.branch,
            ..plain(Part::Branch, "prompt.branch")
        });
        top.push(Segment {
            when: When::Changed,
            before: " ",
            sign: signs.dirty,
            ..plain(Part::Changes, "prompt.dirty")
        });
    }
    top.push(Segment {
        when: When::Failed,
        before: "  ",
        sign: signs.failure,
        ..plain(Part::Status, "prompt.failure")
    });
    let input = Segment {
        after: " ",
        turns: Some((Turn::Failed, "prompt.failure")),
        ..plain(Part::Input, "prompt.sign")
    };
    if design.lines == 2 {
        vec![top, vec![input]]
    } else {
        top.push(Segment {
            before: " ",
            ..input
        });
        vec![top]
    }
}

/// A state the prompt is drawn in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Situation {
    /// The user's name.
    pub user: String,
    /// The host's name.
    pub host: String,
    /// Whether the user is root.
    pub root: bool,
    /// Whether the shell was reached over ssh.
    pub ssh: bool,
    /// The folder, home written as `~`.
    pub folder: String,
    /// The git branch, in a repository.
    pub branch: Option<String>,
    /// Whether there are uncommitted changes.
    pub dirty: bool,
    /// The exit status of the last command.
    pub status: u8,
}

impl Situation {
    /// The sample: a dirty repository of the demo's scenario.
    #[must_use]
    pub fn sample() -> Self {
        Self {
            user: "warden".into(),
            host: "heronry".into(),
            root: false,
            ssh: false,
            folder: "~/src/marsh-gauge".into(),
            branch: Some("spring-tide".into()),
            dirty: true,
            status: 0,
        }
    }
}

/// A stretch of prompt text in one role.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Run {
    /// The text.
    pub text: String,
    /// The role it is drawn in.
    pub role: RoleId,
}

/// The prompt's lines in a situation, the last without the typed command.
#[must_use]
pub fn draw(design: &PromptDesign, level: SymbolLevel, at: &Situation) -> Vec<Vec<Run>> {
    let signs = signs(level);
    let line = |segments: Vec<Segment>| {
        let shown = segments.into_iter().filter(|s| at.shows(s.when));
        shown.map(|s| at.run(&s, design, &signs)).collect()
    };
    segments(design, &signs).into_iter().map(line).collect()
}

impl Situation {
    fn shows(&self, when: When) -> bool {
        match when {
            When::Always => true,
            When::Matters => self.root || self.ssh,
            When::InRepository => self.branch.is_some(),
            When::Changed => self.branch.is_some() && self.dirty,
            When::Failed => self.status != 0,
        }
    }

    fn run(&self, segment: &Segment, design: &PromptDesign, signs: &Signs) -> Run {
        let shown = match segment.part {
            Part::User => self.user.clone(),
            Part::Host => self.host.clone(),
            Part::Folder => shorten(&self.folder, design.folders, signs.elided),
            Part::Branch => self.branch.clone().unwrap_or_default(),
            Part::Changes => String::new(),
            Part::Status => self.status.to_string(),
            Part::Input => if self.root { "#" } else { "$" }.to_owned(),
        };
        let role = match segment.turns {
            Some((Turn::Root, other)) if self.root => other,
            Some((Turn::Failed, other)) if self.status != 0 => other,
            _ => segment.role,
        };
        Run {
            text: [segment.before, segment.sign, &shown, segment.after].concat(),
            role: RoleId::known(role),
        }
    }
}

/// The last `keep` parts of a path, with a mark for what is left out; 0 keeps all.
#[must_use]
pub fn shorten(folder: &str, keep: u8, elided: &str) -> String {
    let parts: Vec<&str> = folder.split('/').filter(|p| !p.is_empty()).collect();
    let keep = usize::from(keep);
    if keep == 0 || parts.len() <= keep {
        return folder.to_owned();
    }
    format!("{elided}/{}", parts[parts.len() - keep..].join("/"))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn text(lines: &[Vec<Run>]) -> Vec<String> {
        lines
            .iter()
            .map(|l| l.iter().map(|r| r.text.as_str()).collect())
            .collect()
    }

    #[test]
    fn situations_show_what_matters() {
        let design = PromptDesign::default();
        let sample = Situation::sample();
        let draw = |at: &Situation| text(&draw(&design, SymbolLevel::Ascii, at));
        assert_eq!(draw(&sample), ["~/src/marsh-gauge  @ spring-tide *", "$ "]);
        let failed = Situation {
            status: 2,
            dirty: false,
            ..sample.clone()
        };
        assert_eq!(
            draw(&failed),
            ["~/src/marsh-gauge  @ spring-tide  x 2", "$ "]
        );
        let root = Situation {
            root: true,
            user: "root".into(),
            branch: None,
            ..sample
        };
        assert_eq!(draw(&root), ["root on heronry ~/src/marsh-gauge", "# "]);
    }

    #[test]
    fn long_paths_keep_their_end() {
        assert_eq!(shorten("~/a/b/c", 2, "…"), "…/b/c");
        assert_eq!(shorten("~/a", 2, "…"), "~/a");
        assert_eq!(shorten("/", 2, "…"), "/");
        assert_eq!(shorten("/a/b/c", 0, "…"), "/a/b/c");
    }

    #[test]
    fn levels_stay_in_their_range() {
        for level in [SymbolLevel::Ascii, SymbolLevel::Plain, SymbolLevel::Icons] {
            let s = signs(level);
            let all = [s.branch, s.dirty, s.failure, s.elided].concat();
            assert!(all.chars().all(|c| crate::character::level(c) <= level));
        }
    }
}
