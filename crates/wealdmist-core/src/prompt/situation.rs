//! What a shell knows when it draws its prompt.

use super::design::Part;
use super::kind::Kind;

/// A state the prompt is drawn in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Situation {
    /// What it is called, for people.
    pub name: &'static str,
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
    /// Whether the folder can be written to.
    pub writable: bool,
    /// The repository one is in.
    pub repository: Option<Repository>,
    /// The exit statuses of the commands of the last pipeline; the last counts.
    pub statuses: Vec<u8>,
    /// How long the last command ran, in milliseconds.
    pub duration: u64,
    /// Jobs in the background.
    pub jobs: u32,
    /// Hours, minutes and seconds.
    pub time: (u8, u8, u8),
    /// Year, month and day.
    pub date: (u16, u8, u8),
    /// Per cent left of the battery, where there is one.
    pub battery: Option<u8>,
    /// Per cent of the memory in use.
    pub memory: u8,
    /// Hundredths of the load.
    pub load: u32,
    /// How many letters of each folder of the path tell it from its neighbours; where that is not known, its first.
    pub beginnings: Vec<usize>,
    /// Files in the folder.
    pub files: Vec<String>,
    /// Versions of programs, by the program.
    pub versions: Vec<(String, String)>,
    /// Variables of the environment.
    pub variables: Vec<(String, String)>,
    /// Whether the shell runs in a container.
    pub container: bool,
    /// How many shells, this one included, run in one another.
    pub shells: u32,
    /// The mode of the line editor.
    pub mode: Mode,
    /// The operating system's short name.
    pub system: String,
    /// The terminal's width in cells.
    pub width: usize,
}

/// The mode of a line editor.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Mode {
    /// It has none.
    #[default]
    None,
    /// What is typed is inserted.
    Insert,
    /// What is typed are commands.
    Command,
}

/// How many changes there are of each kind, in the order of [`super::Item::ALL`].
pub type Counts = [u32; super::Item::ALL.len()];

/// What is known of a repository.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Repository {
    /// The branch, or what stands for it.
    pub branch: String,
    /// What git is in the middle of, with how far it has come.
    pub operation: Option<(String, Option<(u32, u32)>)>,
    /// Counts by kind. `None` where they could not be asked for.
    pub counts: Option<Counts>,
    /// Whether these are of before: it takes too long to ask.
    pub stale: bool,
    /// How many folders of the path lie below the repository's own.
    pub below: usize,
}

impl Situation {
    /// The plainest one: the home, nothing to tell.
    #[must_use]
    pub fn home() -> Self {
        Self {
            name: "home",
            user: "warden".into(),
            host: "heronry".into(),
            root: false,
            ssh: false,
            folder: "~".into(),
            writable: true,
            repository: None,
            statuses: vec![0],
            duration: 0,
            jobs: 0,
            time: (14, 20, 7),
            date: (2031, 3, 9),
            battery: Some(83),
            memory: 41,
            load: 62,
            beginnings: Vec::new(),
            files: Vec::new(),
            versions: vec![
                ("rustc".into(), "1.92.0".into()),
                ("python3".into(), "3.13.1".into()),
                ("node".into(), "24.2.0".into()),
            ],
            variables: Vec::new(),
            container: false,
            shells: 1,
            mode: Mode::None,
            system: "debian".into(),
            width: 80,
        }
    }

    /// The sample: a repository of the demo's scenario with changes.
    #[must_use]
    pub fn sample() -> Self {
        Self {
            name: "changed repository",
            folder: "~/src/marsh-gauge".into(),
            repository: Some(Repository {
                branch: "spring-tide".into(),
                operation: None,
                counts: Some([0, 1, 2, 14, 3, 1, 0, 1, 0]),
                below: 0,
                stale: false,
            }),
            files: vec!["Cargo.toml".into()],
            ..Self::home()
        }
    }

    /// One in which a part has something to tell.
    #[must_use]
    pub fn telling(part: &Part) -> Self {
        let above = part.tells.above;
        let version = part
            .tells
            .asks
            .first()
            .map(|p| (p.clone(), "2.4.0".to_owned()));
        let mut versions = Self::home().versions;
        versions.extend(version);
        Self {
            repository: Some(Repository {
                operation: Some(("rebase".into(), Some((2, 5)))),
                ..Self::sample().repository.unwrap_or_default()
            }),
            writable: false,
            ssh: true,
            statuses: vec![if part.kind == Kind::Input { 0 } else { 2 }],
            duration: u64::from(above).max(8_400),
            jobs: above.max(2),
            battery: Some(part.tells.below.min(18) as u8),
            memory: above.clamp(86, 100) as u8,
            load: above.max(512),
            files: part.tells.files.clone(),
            versions,
            variables: vec![(part.tells.variable.clone(), "estuary".into())],
            container: true,
            shells: above.max(3),
            mode: match part.kind {
                Kind::Mode => Mode::Command,
                _ => Mode::None,
            },
            ..Self::sample()
        }
    }

    /// The exit status that counts.
    #[must_use]
    pub fn status(&self) -> u8 {
        self.statuses.last().copied().unwrap_or_default()
    }

    /// The situations a design is judged by.
    #[must_use]
    pub fn all() -> Vec<Self> {
        let sample = Self::sample();
        let repository = |branch: &str, counts, operation| {
            Some(Repository {
                branch: branch.into(),
                operation,
                counts,
                below: 0,
                stale: false,
            })
        };
        let clean = || repository("main", Some([0; 9]), None);
        vec![
            Self::home(),
            Self {
                name: "deep folder",
                folder: "~/src/marsh-gauge/stations/north/weir/2031".into(),
                repository: Some(Repository {
                    below: 4,
                    stale: false,
                    ..clean().unwrap_or_default()
                }),
                ..Self::home()
            },
            Self {
                name: "folder that cannot be written to",
                folder: "/usr/share/tides".into(),
                writable: false,
                ..Self::home()
            },
            Self {
                name: "clean repository",
                folder: "~/src/marsh-gauge".into(),
                repository: clean(),
                ..Self::home()
            },
            sample.clone(),
            Self {
                name: "conflict in a rebase",
                repository: repository(
                    "spring-tide",
                    Some([2, 0, 1, 9, 0, 0, 1, 3, 2]),
                    Some(("rebase".into(), Some((2, 5)))),
                ),
                ..sample.clone()
            },
            Self {
                name: "changes not known",
                repository: repository("borrowed", None, None),
                ..sample.clone()
            },
            Self {
                name: "failed command",
                statuses: vec![2],
                ..sample.clone()
            },
            Self {
                name: "pipeline ended by a signal",
                statuses: vec![0, 1, 130],
                ..Self::home()
            },
            Self {
                name: "long-running command",
                duration: 264_000,
                ..sample.clone()
            },
            Self {
                name: "background jobs",
                jobs: 2,
                ..Self::home()
            },
            Self {
                name: "root",
                root: true,
                user: "root".into(),
                folder: "/etc".into(),
                ..Self::home()
            },
            Self {
                name: "over ssh",
                ssh: true,
                ..sample.clone()
            },
            Self {
                name: "several languages",
                files: vec![
                    "Cargo.toml".into(),
                    "package.json".into(),
                    "pyproject.toml".into(),
                ],
                variables: vec![(
                    "VIRTUAL_ENV".into(),
                    "/home/warden/src/marsh-gauge/env".into(),
                )],
                ..sample.clone()
            },
            Self {
                name: "low battery",
                battery: Some(9),
                ..Self::home()
            },
            Self {
                name: "in a container, a shell in a shell",
                container: true,
                shells: 2,
                ..Self::home()
            },
            Self {
                name: "40 columns",
                width: 40,
                statuses: vec![2],
                duration: 8_400,
                ..sample.clone()
            },
            Self {
                name: "20 columns",
                width: 20,
                statuses: vec![2],
                ..sample
            },
        ]
    }
}
