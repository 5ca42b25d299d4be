//! The shell prompt's design drawn in its situations.
//!
//! This is what specimens show. The code for a particular shell, in `wealdmist-tools`, follows
//! the same order of segments and takes its signs from [`Signs`].

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
    let run = |text: String, role: &'static str| Run {
        text,
        role: RoleId::known(role),
    };
    let mut top = Vec::new();
    let matters = at.root || at.ssh;
    let shown = match design.user {
        ShowUser::Always => true,
        ShowUser::Never => false,
        ShowUser::WhenItMatters => matters,
    };
    if shown {
        let role = if at.root {
            "prompt.root"
        } else {
            "prompt.user"
        };
        top.push(run(at.user.clone(), role));
        top.push(run(format!(" on {} ", at.host), "prompt.host"));
    }
    top.push(run(
        shorten(&at.folder, design.folders, signs.elided),
        "prompt.folder",
    ));
    if let Some(branch) = at.branch.as_ref().filter(|_| design.git) {
        top.push(run(format!("  {}{branch}", signs.branch), "prompt.branch"));
        if at.dirty {
            top.push(run(format!(" {}", signs.dirty), "prompt.dirty"));
        }
    }
    if at.status != 0 {
        top.push(run(
            format!("  {}{}", signs.failure, at.status),
            "prompt.failure",
        ));
    }
    let sign = run(
        if at.root { "# ".into() } else { "$ ".into() },
        if at.status == 0 {
            "prompt.sign"
        } else {
            "prompt.failure"
        },
    );
    if design.lines == 2 {
        vec![top, vec![sign]]
    } else {
        top.push(run(" ".into(), "prompt.sign"));
        top.push(sign);
        vec![top]
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
