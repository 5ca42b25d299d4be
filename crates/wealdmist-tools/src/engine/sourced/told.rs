//! How a shell's script tells a part: what every shell's has, whatever its words.

use wealdmist_core::prompt::{Design, Item, Kind, Line, Part, SIGNALS, Style, giving_way};
use wealdmist_core::quote::Code;

/// How a part is told.
pub struct Told {
    /// What is done first.
    pub lines: Vec<Code>,
    /// What must hold.
    pub shown: Vec<Code>,
    /// Its value with all that belongs to it, as a word of the shell.
    pub full: Code,
    /// The same without what may be left out.
    pub short: Code,
    /// Of a folder: its last part alone.
    pub last: Option<Code>,
    /// Whether the part's sign stands before it.
    pub signed: bool,
}

impl Told {
    /// A value.
    pub fn of(value: Code) -> Self {
        Self {
            lines: Vec::new(),
            shown: Vec::new(),
            short: value.clone(),
            full: value,
            last: None,
            signed: true,
        }
    }

    /// A value that is our own text.
    pub fn fixed(value: &'static str) -> Self {
        Self::of(Code::fixed(value))
    }

    /// It is shown only where this holds.
    pub fn when(self, shown: &'static str) -> Self {
        self.provided(Code::fixed(shown))
    }

    /// The same, with a value of the design in it.
    pub fn provided(mut self, shown: Code) -> Self {
        self.shown.push(shown);
        self
    }

    /// This is done first.
    pub fn first(mut self, line: Code) -> Self {
        self.lines.push(line);
        self
    }
}

/// The kinds by which a part tells changes, with their signs.
pub fn told_items<'a>(part: &Part, design: &'a Design) -> impl Iterator<Item = (Item, &'a str)> {
    let lines = part.tells.style == Style::Lines;
    let all = Item::ALL.into_iter().zip(&design.items);
    let told = all.filter(move |(item, _)| lines || !item.is_of_lines());
    told.map(|(item, sign)| (item, sign.as_str()))
}

/// How a shell writes texts.
pub struct Writes {
    /// A text as a word.
    pub word: fn(&str) -> Code,
    /// Words as one.
    pub glued: fn(&[&Code]) -> Code,
    /// The sign of a part where it turns, and the script decides.
    pub sign: &'static str,
}

/// What a part draws, each as a word of the shell.
pub struct Texts {
    /// With all that belongs to it.
    pub full: Code,
    /// Without what may be left out.
    pub short: Code,
    /// Of a folder: its last part alone.
    pub last: Option<Code>,
}

impl Told {
    /// The texts of a part, with its sign and what stands around it.
    pub fn texts(&self, part: &Part, design: &Design, writes: &Writes) -> Texts {
        let Writes { word, glued, sign } = *writes;
        let sign = match self.signed {
            true => sign_of(part, design).map_or(Code::fixed(sign), word),
            false => Code::default(),
        };
        let (before, after) = (word(&part.before), word(&part.after));
        let kept = part.kept(design);
        let [first, end] = [word(&kept[0]), word(&kept[1])];
        let last = self.last.as_ref();
        Texts {
            full: glued(&[&before, &sign, &self.full, &after]),
            short: glued(&[&first, &sign, &self.short, &end]),
            last: last.map(|last| glued(&[&first, &sign, last, &end])),
        }
    }
}

/// What a language is called where it has no sign, as a word.
pub fn named(part: &Part, design: &Design, word: fn(&str) -> Code) -> Code {
    match part.sign(design.level).trim_end().is_empty() {
        true => word(&part.name),
        false => Code::fixed("''"),
    }
}

/// What joins parts, as words: what stands between them, a joint seen from the left and from the right, the same
/// between parts on one ground, what opens and what closes them, and the stretch.
pub fn joins(design: &Design, word: fn(&str) -> Code) -> [Code; 8] {
    let level = design.level;
    let [right, left] = [true, false].map(|r| design.joint.joint(level, r));
    let mut stretch = [0; 4];
    let fixed = |text: &'static str| Code::of("'{}'", &[&Code::fixed(text)]);
    [
        word(&design.gap),
        fixed(right.solid),
        fixed(left.solid),
        fixed(right.thin),
        fixed(left.thin),
        fixed(design.open.joint(level, false).solid.trim()),
        fixed(design.close.joint(level, true).solid.trim()),
        word(design.stretch.encode_utf8(&mut stretch)),
    ]
}

/// Words beside one another; those of nothing are left out.
pub fn glued(words: &[&Code]) -> Code {
    let words = words.iter().filter(|w| w.lossy() != "''");
    let words: Vec<&Code> = words.copied().collect();
    match words.iter().all(|w| w.is_empty()) {
        true => Code::fixed("''"),
        false => Code::join(words, ""),
    }
}

/// Whether the sign of a part turns with what the shell knows.
pub fn turns(part: &Part) -> bool {
    let all = [&part.signs_failed, &part.signs_root, &part.signs_command];
    all.into_iter().any(Option::is_some)
}

/// The sign of a part; `None` where it turns, and the script decides.
fn sign_of<'a>(part: &'a Part, design: &Design) -> Option<&'a str> {
    if turns(part) {
        return None;
    }
    let sign = part.sign(design.level);
    Some(match part.kind {
        Kind::Language => sign.trim_end(),
        _ => sign,
    })
}

/// The parts of a line by their numbers: those on the left, those on the right, and all that give way in the
/// order they do. `first` is the number of the line's first part.
pub fn numbered(line: &Line, first: usize) -> [Code; 3] {
    let numbers = |places: &[usize]| {
        let all: Vec<Code> = places
            .iter()
            .map(|i| Code::whole((first + i) as u64))
            .collect();
        Code::join(&all, " ")
    };
    let (l, r) = (line.left.len(), line.right.len());
    let all: Vec<&Part> = line.left.iter().chain(&line.right).collect();
    let (left, right): (Vec<usize>, Vec<usize>) = (0..l + r).partition(|i| *i < l);
    [numbers(&left), numbers(&right), numbers(&giving_way(&all))]
}

/// The names of signals, each in a branch of the shell: the status it comes to, its name.
pub fn signals(branch: &'static str) -> Code {
    let mut out = Code::default();
    for (n, name) in SIGNALS {
        out.push(&Code::of(
            branch,
            &[&Code::whole(128 + n), &Code::fixed(name)],
        ));
    }
    out
}
