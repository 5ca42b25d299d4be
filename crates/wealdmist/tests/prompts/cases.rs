//! The situations that a shell is brought into, and what they come to on this machine.

use std::path::Path;

use wealdmist_core::prompt::{Counts, Repository, Situation};

use super::common::Scratch;

/// A situation in a real shell: what is typed to come into it.
pub struct Case {
    pub typed: &'static str,
    pub at: Situation,
}

/// The folders and repositories of the cases.
pub fn prepare(scratch: &Scratch) {
    for folder in [
        "src/marsh-gauge/stations/north/weir",
        "deep/a/b/c/d/e",
        // What stands beside them tells how short they may be.
        "deep/ab",
        "deep/a/b/ca",
        "src/marsh-gauge/star",
        "src/marsh-gauge/st*",
        "down/.tide/.ebb/$(x)/neap",
        "down/.tied",
        "down/.tide/.ebb/$[x]",
        "many",
        "漢字/ö",
    ] {
        std::fs::create_dir_all(scratch.home().join(folder)).unwrap();
    }
    for file in ["Cargo.toml", "package.json", "pyproject.toml"] {
        scratch.write(&format!("many/{file}"), "");
    }
    let git = r#"
        set -e
        g() { git -c user.name=warden -c user.email=w@heronry.invalid -c commit.gpgsign=false -c init.defaultBranch=main "$@"; }
        cd src/marsh-gauge; g init -q; echo a > a; echo b > b; g add .; g commit -qm one
        g checkout -q -b spring-tide; echo c > c; g add c; echo x > a; echo y > new
        cd ..; g init -q stuck; cd stuck; echo a > a; g add .; g commit -qm one
        g checkout -q -b neap; echo b > a; g commit -qam two; g checkout -q main; echo c > a; g commit -qam three
        g checkout -q neap; g rebase main >/dev/null 2>&1 || true
        cd ..; for n in tagged packed; do g init -q $n; cd $n; echo a > a; g add .; g commit -qm one; g tag -a v0.3 -m x; g tag v0.4
        echo b > a; g commit -qam two; g checkout -q v0.3; cd ..; done
        cd packed; g pack-refs --all; cd ..
        g init -q clean; cd clean; echo a > a; g add .; g commit -qm one
    "#;
    let done = scratch.command("bash").args(["-c", git]).output().unwrap();
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
}

pub fn cases() -> Vec<Case> {
    let home = here();
    let repository =
        |branch: &str, counts: Counts, operation: Option<(&str, (u32, u32))>, below| {
            Some(Repository {
                branch: branch.into(),
                operation: operation.map(|(o, n)| (o.to_owned(), Some(n))),
                counts: Some(counts),
                below,
                stale: false,
            })
        };
    let dirty = [0, 1, 1, 2, 1, 1, 0, 0, 0];
    let at = |folder: &str| Situation {
        folder: folder.into(),
        ..home.clone()
    };
    vec![
        Case {
            typed: "cd",
            at: at("~"),
        },
        Case {
            typed: "cd /",
            at: at("/"),
        },
        Case {
            typed: "cd /usr/lib",
            at: at("/usr/lib"),
        },
        Case {
            typed: "cd ~/deep/a/b/c/d/e",
            at: at("~/deep/a/b/c/d/e"),
        },
        Case {
            typed: "cd ~/down/.tide/.ebb/*x*/neap",
            at: at("~/down/.tide/.ebb/$(x)/neap"),
        },
        Case {
            typed: "cd ~/漢字/ö",
            at: at("~/漢字/ö"),
        },
        Case {
            typed: "cd ~/src/clean",
            at: Situation {
                repository: repository("main", [0; 9], None, 0),
                ..at("~/src/clean")
            },
        },
        Case {
            typed: "cd ~/src/marsh-gauge",
            at: Situation {
                repository: repository("spring-tide", dirty, None, 0),
                ..at("~/src/marsh-gauge")
            },
        },
        Case {
            typed: "cd stations/north/weir",
            at: Situation {
                repository: repository("spring-tide", dirty, None, 3),
                ..at("~/src/marsh-gauge/stations/north/weir")
            },
        },
        Case {
            typed: "cd ~/src/stuck",
            at: Situation {
                repository: repository(
                    "COMMIT",
                    [1, 0, 0, 4, 0, 0, 0, 0, 0],
                    Some(("rebase", (1, 1))),
                    0,
                ),
                ..at("~/src/stuck")
            },
        },
        Case {
            typed: "cd ~/src/tagged",
            at: Situation {
                repository: repository("v0.3", [0; 9], None, 0),
                ..at("~/src/tagged")
            },
        },
        Case {
            typed: "cd ~/src/packed",
            at: Situation {
                repository: repository("v0.3", [0; 9], None, 0),
                ..at("~/src/packed")
            },
        },
        Case {
            typed: "cd; sh -c 'exit 3'",
            at: Situation {
                statuses: vec![3],
                ..at("~")
            },
        },
        Case {
            typed: "cd; true | sh -c 'exit 1' | sh -c 'exit 130'",
            at: Situation {
                statuses: vec![0, 1, 130],
                ..at("~")
            },
        },
        Case {
            typed: "cd ~/many",
            at: Situation {
                files: ["Cargo.toml", "package.json", "pyproject.toml"]
                    .map(str::to_owned)
                    .into(),
                ..at("~/many")
            },
        },
        Case {
            typed: "cd; export VIRTUAL_ENV=/x/tide-env",
            at: Situation {
                variables: vec![("VIRTUAL_ENV".into(), "/x/tide-env".into())],
                ..at("~")
            },
        },
        Case {
            typed: "unset VIRTUAL_ENV; sleep 100 & CLEAR",
            at: Situation { jobs: 1, ..at("~") },
        },
        Case {
            typed: "{ kill %1; wait %1; } 2>/dev/null; cd; CLEAR",
            at: at("~"),
        },
    ]
}

/// What is the same in every situation of a test: the machine it runs on.
pub fn here() -> Situation {
    let read = |path: &str| std::fs::read_to_string(path).unwrap_or_default();
    let uid = std::fs::metadata("/proc/self").map(|m| std::os::unix::fs::MetadataExt::uid(&m));
    Situation {
        host: read("/proc/sys/kernel/hostname").trim().to_owned(),
        root: uid.ok() == Some(0),
        battery: None,
        container: Path::new("/.dockerenv").exists() || Path::new("/run/.containerenv").exists(),
        ..Situation::home()
    }
}

/// What a case comes to on this machine, at a width and a time.
pub fn now(at: &Situation, scratch: &Scratch, width: usize) -> Situation {
    let mut at = Situation {
        width,
        ..at.clone()
    };
    let out = scratch
        .command("date")
        .arg("+%H %M %S %Y %m %d")
        .output()
        .unwrap();
    let out = String::from_utf8(out.stdout).unwrap();
    let n: Vec<u16> = out.split_whitespace().map(|w| w.parse().unwrap()).collect();
    at.time = (n[0] as u8, n[1] as u8, n[2] as u8);
    at.date = (n[3], n[4] as u8, n[5] as u8);
    if let Some(repository) = &mut at.repository
        && repository.branch == "COMMIT"
    {
        let head = std::fs::read_to_string(scratch.home().join("src/stuck/.git/HEAD")).unwrap();
        head[..8].clone_into(&mut repository.branch);
    }
    at.beginnings = beginnings(&at.folder, scratch);
    // Root may write everywhere.
    at.writable = at.root || at.folder.starts_with('~');
    at
}

/// How many letters of each folder of a path tell it from those beside it: found by what is there.
fn beginnings(path: &str, scratch: &Scratch) -> Vec<usize> {
    let mut folder = match path.starts_with('~') {
        true => scratch.home().parent().unwrap().to_owned(),
        false => "/".into(),
    };
    let mut out = Vec::new();
    for name in path.split('/').filter(|p| !p.is_empty()) {
        let next = match name {
            "~" => scratch.home(),
            _ => folder.join(name),
        };
        let beside = std::fs::read_dir(&folder).unwrap().flatten();
        let beside = beside
            .map(|e| e.path())
            .filter(|p| p.is_dir() && *p != next);
        let beside: Vec<String> = beside
            .map(|p| p.file_name().unwrap().to_string_lossy().into_owned())
            .collect();
        let all = name.chars().count();
        let is_alone = |n: &usize| {
            let begin: String = name.chars().take(*n).collect();
            beside.iter().all(|other| !other.starts_with(&begin))
        };
        out.push((1..all).find(is_alone).unwrap_or(all));
        folder = next;
    }
    out
}
