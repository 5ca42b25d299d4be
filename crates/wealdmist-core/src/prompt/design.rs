//! The design: lines of parts, how they join, and what each part has that is not usual for it.

use crate::character::SymbolLevel;
use crate::role::RoleId;
use crate::setup::ShowUser;

use super::draw::cells;
use super::kind::{Item, Kind, Known, elided};
use super::shape::Shape;

/// The design of the shell prompt.
#[derive(Debug, Clone, PartialEq)]
pub struct Design {
    /// The lines, the last of which is where one types.
    pub lines: Vec<Line>,
    /// What stands between parts without a ground of their own.
    pub gap: String,
    /// What the way from the left parts of a line to its right ones is drawn with: one character of
    /// one cell. Not on the line where one types.
    pub stretch: char,
    /// Where blocks meet.
    pub joint: Shape,
    /// Where a row of blocks begins.
    pub open: Shape,
    /// Where a row of blocks ends.
    pub close: Shape,
    /// Whether an empty line stands before the prompt.
    pub blank: bool,
    /// Whether the lines are tied together by a line down their left side.
    pub tie: bool,
    /// What remains of a prompt once its command was entered.
    pub past: Past,
    /// What a line begins with in which an unfinished command goes on, by symbol level: icons, plain, ASCII.
    pub more: [String; 3],
    /// The symbol level it is drawn at.
    pub level: SymbolLevel,
    /// What stands for folders left out, and for the end of what is cut.
    pub elided: String,
    /// The signs of kinds of changes, in the order of [`Item::ALL`].
    pub items: [String; 9],
}

/// A line of the design.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Line {
    /// From the left edge.
    pub left: Vec<Part>,
    /// Up to the right edge.
    pub right: Vec<Part>,
}

/// What remains of a prompt once its command was entered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Past {
    /// All of it.
    #[default]
    Whole,
    /// The line where one types.
    Line,
    /// The sign alone.
    Sign,
}

/// A part of the prompt.
#[derive(Debug, Clone, PartialEq)]
pub struct Part {
    /// Its name in the setup file.
    pub name: String,
    /// What it tells.
    pub kind: Kind,
    /// When it is shown, beside having something to tell.
    pub when: When,
    /// What stands before its value, by symbol level: icons, plain, ASCII.
    pub signs: [String; 3],
    /// The same after a command that failed, where it is another one. For the input alone.
    pub signs_failed: Option<[String; 3]>,
    /// The same for root, where it is another one. For the input alone.
    pub signs_root: Option<[String; 3]>,
    /// The same while the line editor is in its command mode, where it is another one. For the input alone.
    pub signs_command: Option<[String; 3]>,
    /// A text before the sign.
    pub before: String,
    /// A text behind the value.
    pub after: String,
    /// The role of its text.
    pub text: RoleId,
    /// The same after a command that failed.
    pub text_failed: Option<RoleId>,
    /// The same for root.
    pub text_root: Option<RoleId>,
    /// The same while the line editor is in its command mode.
    pub text_command: Option<RoleId>,
    /// The role of its ground; `None` for the terminal's own.
    pub ground: Option<RoleId>,
    /// Its place among those that give way where there is not enough room; the lower, the sooner.
    pub rank: u8,
    /// What it tells in particular.
    pub tells: Tells,
}

/// What a part tells in particular, and how short.
#[derive(Debug, Clone, PartialEq)]
pub struct Tells {
    /// How many folders of a path; 0 for all.
    pub folders: u8,
    /// Whether a path begins at its repository.
    pub within: bool,
    /// Whether folders that are left out are told by as many letters as tell them from their neighbours.
    pub beginnings: bool,
    /// Characters of a name that are shown at most.
    pub longest: u16,
    /// How changes and statuses are written.
    pub style: Style,
    /// What is below this is not shown: milliseconds of a duration, per cent of the memory,
    /// hundredths of a load, jobs, shells.
    pub above: u32,
    /// What is above this is not shown: per cent of a battery.
    pub below: u32,
    /// Whether a day has twice twelve hours.
    pub twelve: bool,
    /// Whether seconds are shown.
    pub seconds: bool,
    /// Whether a version is shown.
    pub version: bool,
    /// The files of which one shows a language.
    pub files: Vec<String>,
    /// What is asked for a version: a program and its arguments.
    pub asks: Vec<String>,
    /// The variable whose value is told.
    pub variable: String,
    /// The text that is told.
    pub says: String,
}

/// How changes and statuses are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Style {
    /// Changes: one sign for all. A status: its number.
    #[default]
    One,
    /// Changes: the sign of each kind there is. A status: the name of the signal, where there was one.
    Each,
    /// Changes: signs with counts. A status: those of all commands of a pipeline.
    Counts,
    /// Changes: the lines added and removed in place of the files; with the counts of the others.
    Lines,
}

/// When a part is shown, beside having something to tell.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum When {
    /// Always.
    #[default]
    Always,
    /// As root, or in a shell that was reached from elsewhere.
    Matters,
    /// In a repository.
    Repository,
    /// After a command that failed.
    Failed,
    /// Not after a command that failed.
    Succeeded,
    /// As root.
    Root,
    /// In a shell that was reached from elsewhere.
    Remote,
}

impl When {
    /// All of them, with their words in the setup file.
    pub const ALL: [(&'static str, Self); 7] = [
        ("always", Self::Always),
        ("matters", Self::Matters),
        ("repository", Self::Repository),
        ("failed", Self::Failed),
        ("succeeded", Self::Succeeded),
        ("root", Self::Root),
        ("remote", Self::Remote),
    ];
}

/// Milliseconds from which on a duration is shown.
const SLOW: u32 = 2000;
/// Per cent of a battery up to which it is shown.
const LOW: u32 = 20;

impl Part {
    /// A part as it usually is.
    #[must_use]
    pub fn usual(known: &Known) -> Self {
        let kind = known.kind;
        let strings = |texts: [&str; 3]| texts.map(str::to_owned);
        let is_input = kind == Kind::Input;
        Self {
            name: known.name.to_owned(),
            kind,
            when: match kind {
                Kind::User | Kind::Host => When::Matters,
                _ => When::Always,
            },
            signs: strings(known.signs),
            signs_failed: None,
            signs_root: is_input.then(|| strings(["#"; 3])),
            signs_command: None,
            before: String::new(),
            after: String::new(),
            text: RoleId::known(known.text),
            text_failed: is_input.then(|| RoleId::known("prompt.failure")),
            text_root: (kind == Kind::User).then(|| RoleId::known("prompt.root")),
            text_command: None,
            ground: None,
            rank: known.rank,
            tells: Tells {
                folders: 3,
                within: false,
                beginnings: false,
                longest: if kind == Kind::Folder { 0 } else { 32 },
                style: Style::One,
                above: match kind {
                    Kind::Duration => SLOW,
                    Kind::Memory => 80,
                    Kind::Load => 400,
                    Kind::Nested => 2,
                    _ => 1,
                },
                below: LOW,
                twelve: false,
                seconds: false,
                version: false,
                files: known.files.iter().map(|f| (*f).to_owned()).collect(),
                asks: known.version.iter().map(|f| (*f).to_owned()).collect(),
                variable: known.variable.to_owned(),
                says: String::new(),
            },
        }
    }

    /// The part of a name, as it usually is.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        Known::named(name).map(Self::usual)
    }

    /// Whether it is shown in every situation, where there is room.
    #[must_use]
    pub fn is_always_shown(&self) -> bool {
        let tells = match self.kind {
            Kind::Folder | Kind::User | Kind::Host | Kind::Time | Kind::Date | Kind::Input => true,
            Kind::Text => !self.tells.says.is_empty(),
            _ => false,
        };
        tells && self.when == When::Always
    }

    /// Whether it is drawn otherwise while the line editor is in its command mode.
    #[must_use]
    pub const fn turns_with_mode(&self) -> bool {
        self.signs_command.is_some() || self.text_command.is_some()
    }

    /// Its sign at a level.
    #[must_use]
    pub fn sign(&self, level: SymbolLevel) -> &str {
        &self.signs[place(level)]
    }

    /// What remains of its texts before and after where there is no room for words: signs that stand between
    /// parts, and a blank for words where parts have no gap.
    #[must_use]
    pub fn kept(&self, design: &Design) -> [String; 2] {
        [&self.before, &self.after].map(|text| {
            let has_words = text.chars().any(char::is_alphanumeric);
            match has_words {
                false => text.clone(),
                true if design.gap.is_empty() && text.contains(' ') => " ".to_owned(),
                true => String::new(),
            }
        })
    }

    /// The roles its text may be drawn in.
    pub fn texts(&self) -> impl Iterator<Item = &RoleId> {
        [
            Some(&self.text),
            self.text_failed.as_ref(),
            self.text_root.as_ref(),
            self.text_command.as_ref(),
        ]
        .into_iter()
        .flatten()
    }
}

/// The place of a level among signs.
#[must_use]
pub const fn place(level: SymbolLevel) -> usize {
    match level {
        SymbolLevel::Icons => 0,
        SymbolLevel::Plain => 1,
        SymbolLevel::Ascii => 2,
    }
}

impl Design {
    /// The plain design: who, where and what of a repository, and a sign, in one line or two.
    #[must_use]
    pub fn plain(two_lines: bool, user: ShowUser, git: bool, folders: u8) -> Self {
        let mut top = Vec::new();
        let mut add = |name: &str, before: &str| {
            let mut part = Part::named(name)?;
            before.clone_into(&mut part.before);
            part.tells.folders = folders;
            if matches!(part.kind, Kind::User | Kind::Host) && user == ShowUser::Always {
                part.when = When::Always;
            }
            top.push(part);
            Some(())
        };
        if user != ShowUser::Never {
            add("user", "");
            add("host", "on ");
        }
        add("folder", "");
        if git {
            add("branch", " ");
            add("changes", "");
        }
        add("status", " ");
        let input = Part::named("input");
        let mut lines = vec![Line {
            left: top,
            right: Vec::new(),
        }];
        match two_lines {
            true => lines.push(Line {
                left: input.into_iter().collect(),
                right: Vec::new(),
            }),
            false => lines[0].left.extend(input),
        }
        Self::of(lines)
    }

    /// A design of lines, joined as is usual.
    #[must_use]
    pub fn of(lines: Vec<Line>) -> Self {
        Self {
            lines,
            gap: " ".into(),
            stretch: ' ',
            joint: Shape::Upright,
            open: Shape::Upright,
            close: Shape::Upright,
            blank: false,
            tie: false,
            past: Past::Whole,
            more: [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii]
                .map(|level| elided(level).to_owned()),
            level: SymbolLevel::Plain,
            elided: elided(SymbolLevel::Plain).to_owned(),
            items: Item::ALL.map(|i| i.sign(SymbolLevel::Plain).to_owned()),
        }
    }

    /// The design as a tool draws it: at a symbol level, each of its signs and texts written as
    /// `written` says.
    #[must_use]
    pub fn at(&self, level: SymbolLevel, written: impl Fn(&str) -> String) -> Self {
        let mut out = self.clone();
        out.level = level;
        out.elided = written(elided(level));
        out.items = Item::ALL.map(|i| written(i.sign(level)));
        out.gap = written(&self.gap);
        let more = written(&self.more[place(level)]);
        out.more = std::array::from_fn(|_| more.clone());
        let mut stretch = [0; 4];
        let drawn = written(self.stretch.encode_utf8(&mut stretch));
        let mut one = drawn.chars();
        out.stretch = match (one.next(), one.next()) {
            (Some(c), None) if cells(&drawn) == 1 => c,
            _ => ' ',
        };
        for line in &mut out.lines {
            for part in line.left.iter_mut().chain(&mut line.right) {
                let signs = [
                    Some(&mut part.signs),
                    part.signs_failed.as_mut(),
                    part.signs_root.as_mut(),
                    part.signs_command.as_mut(),
                ];
                for signs in signs.into_iter().flatten() {
                    let sign = written(&signs[place(level)]);
                    *signs = std::array::from_fn(|_| sign.clone());
                }
                for text in [&mut part.before, &mut part.after, &mut part.tells.says] {
                    *text = written(text);
                }
            }
        }
        out
    }

    /// Whether it has to be known which mode the line editor is in.
    #[must_use]
    pub fn follows_mode(&self) -> bool {
        let follows = |p: &Part| p.kind == Kind::Mode || p.turns_with_mode();
        self.parts().any(follows)
    }

    /// Every part, line by line, those on the left first.
    pub fn parts(&self) -> impl Iterator<Item = &Part> {
        self.lines
            .iter()
            .flat_map(|l| l.left.iter().chain(&l.right))
    }

    /// Whether a part of a kind is in it.
    #[must_use]
    pub fn has(&self, kind: Kind) -> bool {
        self.parts().any(|p| p.kind == kind)
    }
}

impl Default for Design {
    fn default() -> Self {
        Self::plain(true, ShowUser::WhenItMatters, true, 3)
    }
}
