//! A folder of this machine as a situation of the prompt. A repository is asked as generated prompts ask one:
//! nothing that it chooses is run.

use std::fs;
use std::io::Read;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Duration;

use wealdmist_core::prompt::{Counts, Item, Repository, Situation};
use wealdmist_tools::Access;
use wealdmist_tools::sourced::repository;

use crate::files::{open_regular, read_regular};
use crate::platform::{files, places, run};
use crate::{Home, limits};

/// What a shell in a folder would know there now. Times, loads and what else changes at every moment are those
/// of the sample.
///
/// # Errors
/// When there is no such folder.
pub fn situation(home: &Home, folder: &Path) -> Result<Situation, String> {
    let entries = fs::read_dir(folder).map_err(|e| format!("{}: {e}", folder.display()))?;
    let names = entries.flatten().take(limits::FOLDER_ENTRIES);
    let names = names.map(|e| e.file_name().to_string_lossy().into_owned());
    let sample = Situation::home();
    let root = files::user_number() == 0;
    let user = std::env::var("USER").unwrap_or_else(|_| sample.user.clone());
    Ok(Situation {
        name: "here",
        user: if root { "root".into() } else { user },
        host: places::host_name(),
        root,
        ssh: std::env::var_os("SSH_CONNECTION").is_some(),
        folder: home.contract(folder),
        beginnings: beginnings(home, folder),
        writable: files::can_write(folder),
        repository: repository_of(folder),
        battery: places::battery(),
        files: names.collect(),
        variables: std::env::vars_os()
            .filter_map(|(k, v)| Some((k.into_string().ok()?, v.into_string().ok()?)))
            .collect(),
        ..sample
    })
}

/// How many letters of each folder of a path, as it is shown, tell it from the folders beside it.
fn beginnings(home: &Home, folder: &Path) -> Vec<usize> {
    let parts = home.contract(folder);
    let parts = parts.split('/').filter(|p| !p.is_empty()).count();
    let tells = |folder: &Path| {
        let name = |path: &Path| Some(path.file_name()?.to_string_lossy().into_owned());
        let Some((own, beside)) = name(folder).zip(folder.parent()) else {
            return 1;
        };
        let Ok(entries) = fs::read_dir(beside) else {
            return own.chars().count();
        };
        let others: Vec<String> = entries
            .flatten()
            .take(limits::FOLDER_ENTRIES)
            .map(|entry| entry.path())
            .filter(|path| path != folder && path.is_dir())
            .filter_map(|path| name(&path))
            .collect();
        let letters: Vec<char> = own.chars().collect();
        let is_alone = |n: &usize| {
            let begin: String = letters[..*n].iter().collect();
            !others.iter().any(|other| other.starts_with(&begin))
        };
        (1..letters.len()).find(is_alone).unwrap_or(letters.len())
    };
    let mut out: Vec<usize> = folder.ancestors().take(parts).map(tells).collect();
    out.reverse();
    out
}

/// Per cent left of this machine's battery, where it has one.
#[must_use]
pub fn battery() -> Option<u8> {
    places::battery()
}

/// The first line of a small file.
fn first_line(path: &Path) -> Option<String> {
    let mut text = String::new();
    let file = open_regular(path).ok()??;
    file.take(limits::GIT_LINE).read_to_string(&mut text).ok()?;
    text.lines().next().map(str::to_owned)
}

fn repository_of(folder: &Path) -> Option<Repository> {
    let (below, top) = folder
        .ancestors()
        .enumerate()
        .find(|(_, f)| f.join(".git").exists())?;
    let mut git = top.join(".git");
    if git.is_file() {
        git = top.join(first_line(&git)?.strip_prefix("gitdir: ")?);
    }
    let head = first_line(&git.join("HEAD"))?;
    let branch = match head.strip_prefix("ref: ") {
        Some(name) => name.strip_prefix("refs/heads/").unwrap_or(name).to_owned(),
        None if head.chars().all(|c| c.is_ascii_hexdigit()) => match tag(&git, &head) {
            Some(tag) => tag,
            None => head.get(..8)?.to_owned(),
        },
        None => return None,
    };
    Some(Repository {
        branch,
        operation: operation(&git),
        counts: is_harmless(&git).then(|| counts(top, &git)).flatten(),
        below,
        stale: false,
    })
}

/// The tag that is checked out, as the log says and where there is such a one.
fn tag(git: &Path, head: &str) -> Option<String> {
    let text = |path: PathBuf| {
        let mut text = String::new();
        let file = open_regular(&path).ok()??;
        file.take(limits::GIT_LOG).read_to_string(&mut text).ok()?;
        Some(text)
    };
    let log = text(git.join("logs/HEAD"))?;
    let last = log.lines().next_back()?;
    let (hashes, did) = last.split_once("\tcheckout: moving from ")?;
    let name = did.rsplit_once(" to ")?.1;
    (hashes.split(' ').nth(1)? == head).then_some(())?;
    let common = match first_line(&git.join("commondir")) {
        Some(path) => git.join(path),
        None => git.to_owned(),
    };
    let is_loose = common.join("refs/tags").join(name).is_file();
    let line = format!(" refs/tags/{name}");
    let packed = || text(common.join("packed-refs")).unwrap_or_default();
    (is_loose || packed().lines().any(|l| l.ends_with(&line))).then(|| name.to_owned())
}

/// What git is in the middle of there.
fn operation(git: &Path) -> Option<(String, Option<(u32, u32)>)> {
    let steps = |n: &str, of: &str| {
        let read = |name: &str| first_line(&git.join(name))?.parse().ok();
        Some((read(n)?, read(of)?))
    };
    let there = |name: &str| git.join(name).exists();
    let (word, steps) = if there("rebase-merge") {
        ("rebase", steps("rebase-merge/msgnum", "rebase-merge/end"))
    } else if there("rebase-apply/rebasing") {
        ("rebase", steps("rebase-apply/next", "rebase-apply/last"))
    } else if there("rebase-apply") {
        ("am", steps("rebase-apply/next", "rebase-apply/last"))
    } else {
        let found = [
            ("MERGE_HEAD", "merge"),
            ("CHERRY_PICK_HEAD", "pick"),
            ("REVERT_HEAD", "revert"),
            ("BISECT_LOG", "bisect"),
        ];
        (found.into_iter().find(|(file, _)| there(file))?.1, None)
    };
    Some((word.to_owned(), steps))
}

/// Whether a repository belongs to the person and its configuration says nothing that could run a program.
fn is_harmless(git: &Path) -> bool {
    use std::os::unix::fs::MetadataExt;
    let common = match first_line(&git.join("commondir")) {
        Some(line) => git.join(line),
        None => git.to_owned(),
    };
    let own = files::user_number();
    let is_own = |path: &Path| fs::metadata(path).is_ok_and(|m| m.uid() == own);
    let clean = |path: PathBuf| {
        let text = match read_regular(&path, u64::from(repository::MAX_CONFIGURATION)) {
            Ok(text) => text.unwrap_or_default(),
            Err(_) => return false,
        };
        let text = String::from_utf8_lossy(&text).to_lowercase();
        !repository::REFUSED.iter().any(|r| text.contains(r))
    };
    is_own(git)
        && is_own(&common)
        && clean(common.join("config"))
        && clean(git.join("config.worktree"))
}

fn counts(top: &Path, git: &Path) -> Option<Counts> {
    let said = asked(top, git, repository::QUESTION_OF_COUNTS)?;
    // Without a commit there is nothing that lines could be compared with.
    let lines = asked(top, git, repository::QUESTION_OF_LINES).unwrap_or_default();
    Some(counted(&(said + &lines)))
}

/// What git answers.
fn asked(top: &Path, git: &Path, question: &str) -> Option<String> {
    let mut command = Command::new("git");
    let words = repository::ARGUMENTS.iter().flat_map(|a| a.split(' '));
    command
        .args(words.chain(question.split(' ')))
        .envs(repository::ENVIRONMENT)
        .env("GIT_DIR", git)
        .env("GIT_WORK_TREE", top);
    for other in [
        "GIT_INDEX_FILE",
        "GIT_OBJECT_DIRECTORY",
        "GIT_ALTERNATE_OBJECT_DIRECTORIES",
        "GIT_COMMON_DIR",
        "GIT_NAMESPACE",
        "GIT_EXTERNAL_DIFF",
    ] {
        command.env_remove(other);
    }
    let said = run(
        &mut command,
        Duration::from_secs(u64::from(repository::SECONDS)),
    )?;
    said.status
        .success()
        .then(|| String::from_utf8_lossy(&said.stdout).into_owned())
}

/// What git's answers come to.
fn counted(said: &str) -> Counts {
    let mut out = [0; Item::ALL.len()];
    let mut add = |item: Item, n: u32| {
        if let Some(at) = Item::ALL.iter().position(|one| *one == item) {
            out[at] += n;
        }
    };
    for line in said.lines() {
        if let Some(lines) = line.strip_prefix(' ') {
            for (n, what) in lines.split(", ").filter_map(|part| part.split_once(' ')) {
                let n = n.parse().unwrap_or(0);
                match what {
                    _ if what.starts_with("insertion") => add(Item::Added, n),
                    _ if what.starts_with("deletion") => add(Item::Removed, n),
                    _ => {}
                }
            }
            continue;
        }
        let mut words = line.split(' ');
        match (words.next(), words.next()) {
            (Some("u"), _) => add(Item::Conflicts, 1),
            (Some("1" | "2"), Some(kinds)) => {
                let changed =
                    |at: usize| u32::from(kinds.as_bytes().get(at).is_some_and(|b| *b != b'.'));
                add(Item::Staged, changed(0));
                add(Item::Unstaged, changed(1));
            }
            (Some("?"), _) => add(Item::Untracked, 1),
            (Some("#"), Some("stash")) => {
                let n = words.next().and_then(|n| n.parse().ok());
                add(Item::Stash, n.unwrap_or(0));
            }
            (Some("#"), Some("branch.ab")) => {
                for (item, word) in [Item::Ahead, Item::Behind].into_iter().zip(words) {
                    add(item, word[1..].parse().unwrap_or(0));
                }
            }
            _ => {}
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn answers_are_counted_by_kind() {
        let said = "# branch.oid 1\n# branch.head tide\n# branch.ab +3 -2\n# stash 4\n1 M. N... a\n1 .M N... b\n1 MM N... c\nu UU N... d\n? e\n? f\n 3 files changed, 12 insertions(+), 1 deletion(-)\n";
        assert_eq!(counted(said), [1, 2, 2, 12, 1, 2, 4, 3, 2]);
    }

    #[test]
    fn a_folder_is_seen_as_a_shell_sees_it() {
        let folder = tempfile::tempdir().unwrap();
        let home = folder.path().join("home");
        let deep = home.join("src/tide/deep");
        fs::create_dir_all(&deep).unwrap();
        let home = Home::open(Some(&home)).unwrap();
        assert!(situation(&home, &deep).unwrap().repository.is_none());
        assert!(situation(&home, &deep.join("none")).is_err());
        let git = |words: &[&str]| {
            let mut command = Command::new("git");
            command.args(words).current_dir(deep.parent().unwrap());
            assert!(
                run(&mut command, Duration::from_secs(10))
                    .unwrap()
                    .status
                    .success()
            );
        };
        git(&["init", "-q", "-b", "spring-tide"]);
        fs::write(deep.join("Cargo.toml"), "").unwrap();
        let at = situation(&home, &deep).unwrap();
        assert_eq!(at.folder, "~/src/tide/deep");
        assert!(at.files.contains(&"Cargo.toml".to_owned()) && at.writable);
        let there = at.repository.unwrap();
        assert_eq!((there.branch.as_str(), there.below), ("spring-tide", 1));
        assert_eq!(there.counts, Some([0, 0, 0, 0, 0, 1, 0, 0, 0]));
        // A tag that is checked out, as long as there is one.
        let beside = deep.parent().unwrap().join("deer");
        fs::create_dir_all(beside).unwrap();
        let who = [
            "-c",
            "user.name=warden",
            "-c",
            "user.email=w@heronry.invalid",
        ];
        git(&[&who[..], &["commit", "-q", "--allow-empty", "-m", "one"]].concat());
        git(&[&who[..], &["tag", "-a", "v0.3", "-m", "x"]].concat());
        git(&["checkout", "-q", "v0.3"]);
        let branch = || situation(&home, &deep).unwrap().repository.unwrap().branch;
        assert_eq!(branch(), "v0.3");
        git(&["pack-refs", "--all"]);
        assert_eq!(branch(), "v0.3");
        git(&["tag", "-d", "v0.3"]);
        assert_eq!(branch().len(), 8);
        let at = situation(&home, &deep).unwrap();
        assert_eq!(at.beginnings[1..], [1, 1, 4]);
        // What could run a program is not asked.
        git(&["config", "filter.tide.clean", "touch ran"]);
        assert_eq!(
            situation(&home, &deep).unwrap().repository.unwrap().counts,
            None
        );
    }
}
