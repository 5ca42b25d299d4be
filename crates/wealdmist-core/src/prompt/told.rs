//! What a part says in a situation.

use crate::character::is_treacherous;

use super::design::{Design, Part, Style, When, place};
use super::kind::{Item, Kind, UNKNOWN};
use super::situation::{Mode, Repository, Situation};

/// What a part says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Told {
    /// With all that belongs to it.
    pub full: String,
    /// Without words before and after, versions and counts.
    pub short: String,
    /// For a folder: its last part alone.
    pub last: String,
}

/// What a part says; `None` where it says nothing.
#[must_use]
pub fn told(part: &Part, at: &Situation, design: &Design) -> Option<Told> {
    if !at.shows(part.when) {
        return None;
    }
    let value = value(part, at, design)?;
    let sign = match value.signed {
        true => sign(part, at, design),
        false => "",
    };
    let [before, after] = part.kept(design);
    let short = format!("{before}{sign}{}{after}", value.short);
    let full = format!("{}{sign}{}{}", part.before, value.full, part.after);
    let last = match value.last {
        Some(last) => format!("{before}{sign}{last}{after}"),
        None => short.clone(),
    };
    (!full.is_empty()).then_some(Told { full, short, last })
}

fn sign<'a>(part: &'a Part, at: &Situation, design: &Design) -> &'a str {
    let failed = part.signs_failed.as_ref().filter(|_| at.status() != 0);
    let root = part.signs_root.as_ref().filter(|_| at.root);
    let command = part.signs_command.as_ref();
    let command = command.filter(|_| at.mode == Mode::Command);
    let signs = command.or(failed).or(root).unwrap_or(&part.signs);
    let sign = &signs[place(design.level)];
    // A language's icon stands alone where there is no version behind it.
    match part.kind {
        Kind::Language => sign.trim_end(),
        _ => sign,
    }
}

/// What a value is with and without what may be left out.
struct Value {
    full: String,
    short: String,
    last: Option<String>,
    /// Whether the part's sign stands before it.
    signed: bool,
}

impl From<String> for Value {
    fn from(text: String) -> Self {
        Self {
            short: text.clone(),
            full: text,
            last: None,
            signed: true,
        }
    }
}

fn value(part: &Part, at: &Situation, design: &Design) -> Option<Value> {
    let tells = &part.tells;
    let cut = |text: &str| cut(&clean(text), tells.longest, &design.elided);
    let repository = at.repository.as_ref();
    let text = match part.kind {
        Kind::Folder => return Some(folder(part, at, design)),
        Kind::Locked => (!at.writable).then(String::new)?,
        Kind::User => cut(&at.user),
        Kind::Host => cut(at.host.split('.').next().unwrap_or_default()),
        Kind::Branch => cut(&repository?.branch),
        Kind::Changes => return changes(part, repository?, design),
        Kind::Operation => {
            let (word, steps) = repository?.operation.as_ref()?;
            let steps = steps.map_or(String::new(), |(n, of)| format!(" {n}/{of}"));
            return Some(Value {
                full: format!("{word}{steps}"),
                ..word.clone().into()
            });
        }
        Kind::Status => status(part, at)?,
        Kind::Duration => (at.duration >= u64::from(tells.above)).then(|| span(at.duration))?,
        Kind::Jobs => (at.jobs >= tells.above.max(1)).then(|| at.jobs.to_string())?,
        Kind::Time => time(part, at.time),
        Kind::Date => format!("{:04}-{:02}-{:02}", at.date.0, at.date.1, at.date.2),
        Kind::Battery => {
            let left = at.battery.filter(|left| u32::from(*left) <= tells.below)?;
            format!("{left}%")
        }
        Kind::Memory => (u32::from(at.memory) >= tells.above).then(|| format!("{}%", at.memory))?,
        Kind::Load => {
            (at.load >= tells.above).then(|| format!("{}.{:02}", at.load / 100, at.load % 100))?
        }
        Kind::Language => return language(part, at, design),
        Kind::Variable => {
            let found = at
                .variables
                .iter()
                .find(|(name, _)| *name == tells.variable);
            let value = found.map(|(_, value)| value.as_str())?;
            let last = value.rsplit('/').next().unwrap_or_default();
            (!last.is_empty()).then(|| cut(last))?
        }
        Kind::Remote => at.ssh.then(String::new)?,
        Kind::Container => at.container.then(String::new)?,
        Kind::Nested => (at.shells >= tells.above.max(2)).then(|| at.shells.to_string())?,
        Kind::Mode => match at.mode {
            Mode::None => return None,
            Mode::Insert => "ins".to_owned(),
            Mode::Command => "cmd".to_owned(),
        },
        Kind::System => cut(&at.system),
        Kind::Text => tells.says.clone(),
        Kind::Input => String::new(),
    };
    Some(text.into())
}

fn folder(part: &Part, at: &Situation, design: &Design) -> Value {
    let folder = clean(&at.folder);
    let parts: Vec<&str> = folder.split('/').filter(|p| !p.is_empty()).collect();
    let below = at.repository.as_ref().map(|r| r.below);
    let below = below.filter(|_| part.tells.within);
    let from = below.map_or(0, |below| parts.len().saturating_sub(below + 1));
    let keep = usize::from(part.tells.folders);
    let shown = match keep > 0 && parts.len() - from > keep {
        false if below.is_none() => folder.clone(),
        false => parts[from..].join("/"),
        true => {
            let kept = parts.len() - keep;
            let rest = parts[kept..].join("/");
            match part.tells.beginnings {
                false => format!("{}/{rest}", design.elided),
                true => {
                    let begin = |i: usize| -> String {
                        let least = if parts[i].starts_with('.') { 2 } else { 1 };
                        let letters = at.beginnings.get(i).copied().unwrap_or(1);
                        parts[i].chars().take(letters.max(least)).collect()
                    };
                    let left_out: Vec<String> = (from..kept).map(begin).collect();
                    let root = match below.is_none() && folder.starts_with('/') {
                        true => "/",
                        false => "",
                    };
                    format!("{root}{}/{rest}", left_out.join("/"))
                }
            }
        }
    };
    let last = folder.rsplit('/').next().filter(|l| !l.is_empty());
    Value {
        last: Some(last.unwrap_or(&folder).to_owned()),
        ..shown.into()
    }
}

fn changes(part: &Part, repository: &Repository, design: &Design) -> Option<Value> {
    let counts = repository.counts.unwrap_or_default();
    let mark = match repository.counts.is_none() || repository.stale {
        true => UNKNOWN,
        false => "",
    };
    let kinds = Item::ALL.iter().zip(counts).zip(&design.items);
    let lines = part.tells.style == Style::Lines;
    let of_lines = |(item, n): (&Item, u32)| item.is_of_lines() && n > 0;
    // What has no lines that could be counted, as pictures have none, is told as a file.
    let has_lines = lines && Item::ALL.iter().zip(counts).any(of_lines);
    let is_told = |item: &Item| match item {
        Item::Staged | Item::Unstaged => !has_lines,
        _ => lines || !item.is_of_lines(),
    };
    let there = kinds.filter(|((item, n), _)| *n > 0 && is_told(item));
    let there = there.map(|((_, n), sign)| (sign, n));
    let each: String = there.clone().map(|(sign, _)| sign.as_str()).collect();
    let (full, short) = match part.tells.style {
        Style::One => {
            let of_files = |item: &Item| {
                use Item::{Conflicts, Staged, Unstaged, Untracked};
                matches!(item, Conflicts | Staged | Unstaged | Untracked)
            };
            let all = Item::ALL.iter().zip(counts);
            let uncommitted = all.into_iter().any(|(item, n)| n > 0 && of_files(item));
            let sign = if uncommitted {
                part.sign(design.level)
            } else {
                ""
            };
            (sign.to_owned(), sign.to_owned())
        }
        Style::Counts | Style::Lines => {
            let counted: Vec<String> = there.map(|(sign, n)| format!("{sign}{n}")).collect();
            (counted.join(" "), each)
        }
        Style::Each => (each.clone(), each),
    };
    let [full, short] = [full, short].map(|text| text + mark);
    (!full.is_empty()).then(|| Value {
        full,
        signed: false,
        ..short.into()
    })
}

/// The names of the signals a command is usually ended by, by their number.
pub const SIGNALS: [(u8, &str); 15] = [
    (1, "HUP"),
    (2, "INT"),
    (3, "QUIT"),
    (4, "ILL"),
    (5, "TRAP"),
    (6, "ABRT"),
    (7, "BUS"),
    (8, "FPE"),
    (9, "KILL"),
    (10, "USR1"),
    (11, "SEGV"),
    (12, "USR2"),
    (13, "PIPE"),
    (14, "ALRM"),
    (15, "TERM"),
];

fn status(part: &Part, at: &Situation) -> Option<String> {
    let last = at.status();
    match part.tells.style {
        Style::Counts if at.statuses.len() > 1 => {
            let all: Vec<String> = at.statuses.iter().map(u8::to_string).collect();
            at.statuses.iter().any(|s| *s != 0).then(|| all.join("|"))
        }
        _ if last == 0 => None,
        Style::Each => {
            let signal = SIGNALS.iter().find(|(n, _)| last == 128 + n);
            Some(signal.map_or_else(|| last.to_string(), |(_, name)| (*name).to_owned()))
        }
        _ => Some(last.to_string()),
    }
}

/// A time a command took: `4.2s`, `42s`, `4m 24s`, `2h 3m`.
#[must_use]
pub fn span(milliseconds: u64) -> String {
    let seconds = milliseconds / 1000;
    match seconds {
        0..10 => format!("{seconds}.{}s", milliseconds % 1000 / 100),
        10..60 => format!("{seconds}s"),
        60..3600 => format!("{}m {}s", seconds / 60, seconds % 60),
        _ => format!("{}h {}m", seconds / 3600, seconds % 3600 / 60),
    }
}

fn time(part: &Part, (hours, minutes, seconds): (u8, u8, u8)) -> String {
    let tells = &part.tells;
    let seconds = match tells.seconds {
        true => format!(":{seconds:02}"),
        false => String::new(),
    };
    match tells.twelve {
        true => {
            let half = if hours < 12 { "am" } else { "pm" };
            let hours = if hours % 12 == 0 { 12 } else { hours % 12 };
            format!("{hours}:{minutes:02}{seconds} {half}")
        }
        false => format!("{hours:02}:{minutes:02}{seconds}"),
    }
}

fn language(part: &Part, at: &Situation, design: &Design) -> Option<Value> {
    let tells = &part.tells;
    if !tells.files.iter().any(|f| at.files.contains(f)) {
        return None;
    }
    let name = match part.sign(design.level).trim_end().is_empty() {
        true => part.name.clone(),
        false => String::new(),
    };
    let asked = tells.asks.first().filter(|_| tells.version);
    let version = asked.and_then(|program| {
        let found = at.versions.iter().find(|(name, _)| name == program)?;
        Some(format!(" {}", clean(&found.1)))
    });
    Some(Value {
        full: format!("{name}{}", version.unwrap_or_default()),
        ..name.into()
    })
}

impl Situation {
    /// Whether a condition holds.
    #[must_use]
    pub fn shows(&self, when: When) -> bool {
        match when {
            When::Always => true,
            When::Matters => self.root || self.ssh,
            When::Repository => self.repository.is_some(),
            When::Failed => self.status() != 0,
            When::Succeeded => self.status() == 0,
            When::Root => self.root,
            When::Remote => self.ssh,
        }
    }
}

/// A text from outside as it is drawn: what a terminal would act on becomes `?`.
#[must_use]
pub fn clean(text: &str) -> String {
    let one = |c: char| if is_treacherous(c) { '?' } else { c };
    text.chars().map(one).collect()
}

/// The first so many characters of a text, with a mark where more were there; 0 keeps all.
#[must_use]
pub fn cut(text: &str, longest: u16, elided: &str) -> String {
    match text.char_indices().nth(usize::from(longest)) {
        Some((end, _)) if longest > 0 => format!("{}{elided}", &text[..end]),
        _ => text.to_owned(),
    }
}
