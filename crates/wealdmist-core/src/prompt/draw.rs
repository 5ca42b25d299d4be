//! The design drawn in a situation: what every shell must come out as, cell by cell.

use crate::character::SymbolLevel;
use crate::role::RoleId;

use super::design::{Design, Line, Part, Past, When, place};
use super::kind::Kind;
use super::told::{Told, told};

use super::situation::{Mode, Situation};

/// The colors a stretch of a prompt is drawn in.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Ink {
    /// The role of the text; `None` for the terminal's own.
    pub text: Option<RoleId>,
    /// The role of the ground; `None` for the terminal's own.
    pub ground: Option<RoleId>,
    /// Whether the text has its role's attributes.
    pub styled: bool,
}

/// A stretch of a prompt in one ink.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Piece {
    /// The text.
    pub text: String,
    /// Its colors.
    pub ink: Ink,
    /// The part it belongs to, by its place among [`Design::parts`].
    pub part: Option<usize>,
}

/// A line of a prompt as drawn.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Row {
    /// From the left edge, the stretch and what is on the right included where one does not type
    /// in this line.
    pub left: Vec<Piece>,
    /// What stands at the right edge of the line where one types.
    pub right: Vec<Piece>,
}

/// How many cells a text takes.
#[must_use]
pub fn cells(text: &str) -> usize {
    crate::width::by_code_points(text)
}

/// How many cells stretches take.
#[must_use]
pub fn cells_of(pieces: &[Piece]) -> usize {
    pieces.iter().map(|p| cells(&p.text)).sum()
}

/// The signs that tie lines: of the first, of those between, of the last.
#[must_use]
pub const fn ties(level: SymbolLevel) -> [&'static str; 3] {
    match level {
        SymbolLevel::Ascii => ["| ", "| ", "| "],
        _ => ["╷ ", "│ ", "╵ "],
    }
}

/// The role of what ties, stretches and stands between parts.
pub const BETWEEN: &str = "prompt.between";

/// Cells that are left for what is typed, behind the space that ends the prompt: this share of the line.
pub const FOR_TYPING: usize = 4;

/// What is shown where, and how.
struct Drawing<'a> {
    design: &'a Design,
    /// Whether there are colors, and so blocks.
    colored: bool,
    at: &'a Situation,
}

/// A part that is shown.
#[derive(Clone)]
struct Shown<'a> {
    part: &'a Part,
    index: usize,
    text: String,
}

/// The prompt in a situation, line by line. `colored` says whether there are colors; without them there
/// are no blocks.
#[must_use]
pub fn draw(design: &Design, colored: bool, at: &Situation) -> Vec<Row> {
    let drawing = Drawing {
        design,
        colored,
        at,
    };
    drawing.rows()
}

/// What remains of the prompt once its command was entered: what stood before the typed text, or the sign
/// alone.
#[must_use]
pub fn past(design: &Design, colored: bool, at: &Situation) -> Vec<Row> {
    match design.past {
        Past::Whole => draw(design, colored, at),
        Past::Line => {
            let last = draw(design, colored, at).pop();
            let left = last.map_or_else(Vec::new, |row| row.left);
            vec![Row {
                left,
                right: Vec::new(),
            }]
        }
        Past::Sign => {
            let inputs = design.lines.last().into_iter().flat_map(|l| &l.left);
            let line = Line {
                left: inputs.filter(|p| p.kind == Kind::Input).cloned().collect(),
                right: Vec::new(),
            };
            let sign = Design {
                lines: vec![line],
                blank: false,
                tie: false,
                ..design.clone()
            };
            draw(&sign, colored, at)
        }
    }
}

/// What a line begins with in which an unfinished command goes on.
#[must_use]
pub fn going_on(design: &Design) -> Row {
    let sign = Piece {
        text: design.more[place(design.level)].clone(),
        ink: Ink {
            text: Some(RoleId::known(BETWEEN)),
            ..Ink::default()
        },
        part: None,
    };
    Row {
        left: vec![sign, plain(" ")],
        right: Vec::new(),
    }
}

/// What stands left and right in each line, with every part of the design, whatever the room and whether it
/// has something to tell: for whoever works on the design.
#[must_use]
pub fn strip(design: &Design) -> Vec<[Vec<Piece>; 2]> {
    let at = Situation::home();
    let drawing = Drawing {
        design,
        colored: true,
        at: &at,
    };
    let mut index = 0;
    let mut run = |side: &[Part], rightward| {
        let shown: Vec<Shown<'_>> = (side.iter().zip(index..))
            .map(|(part, index)| Shown {
                part,
                index,
                text: example(part, design),
            })
            .collect();
        index += side.len();
        drawing.run(&shown, rightward)
    };
    let lines = design.lines.iter();
    lines
        .map(|l| [run(&l.left, true), run(&l.right, false)])
        .collect()
}

/// What a part says where it has something to tell; its name where it never has.
#[must_use]
pub fn example(part: &Part, design: &Design) -> String {
    let shown = Part {
        when: When::Always,
        ..part.clone()
    };
    let told = told(&shown, &Situation::telling(part), design);
    told.map_or_else(|| part.name.clone(), |t| t.full)
}

impl<'a> Drawing<'a> {
    fn rows(&self) -> Vec<Row> {
        let design = self.design;
        let last = design.lines.len().saturating_sub(1);
        let mut first_part = 0;
        let mut fitted = Vec::new();
        for (n, line) in design.lines.iter().enumerate() {
            let (left, right) = self.fitted(line, first_part, n == last);
            first_part += line.left.len() + line.right.len();
            if n == last || !left.is_empty() || !right.is_empty() {
                fitted.push((left, right));
            }
        }
        let count = fitted.len();
        let mut rows: Vec<Row> = Vec::new();
        if design.blank {
            rows.push(Row::default());
        }
        for (n, (left, right)) in fitted.into_iter().enumerate() {
            let mut row = Row {
                left: self.run(&left, true),
                right: self.run(&right, false),
            };
            if design.tie && count > 1 {
                let tie = match n {
                    0 => 0,
                    n if n + 1 == count => 2,
                    _ => 1,
                };
                row.left.insert(0, self.between(ties(design.level)[tie]));
            }
            if n + 1 == count {
                row.left.push(plain(" "));
            } else if !row.right.is_empty() {
                let right = std::mem::take(&mut row.right);
                let used = cells_of(&row.left) + cells_of(&right);
                let room = self.at.width.saturating_sub(1 + used);
                self.stretch(&mut row.left, room);
                row.left.extend(right);
            }
            rows.push(row);
        }
        rows
    }

    /// The stretch, so many cells long.
    fn stretch(&self, row: &mut Vec<Piece>, room: usize) {
        let c = self.design.stretch;
        if c == ' ' || room < 3 {
            row.push(plain(&" ".repeat(room)));
            return;
        }
        let drawn: String = std::iter::repeat_n(c, room - 2).collect();
        row.extend([plain(" "), self.between(&drawn), plain(" ")]);
    }

    fn between(&self, text: &str) -> Piece {
        Piece {
            text: text.to_owned(),
            ink: Ink {
                text: Some(RoleId::known(BETWEEN)),
                ..Ink::default()
            },
            part: None,
        }
    }

    /// The parts of a line that find room, with their texts.
    fn fitted(
        &self,
        line: &'a Line,
        first: usize,
        types: bool,
    ) -> (Vec<Shown<'a>>, Vec<Shown<'a>>) {
        let all: Vec<&Part> = line.left.iter().chain(&line.right).collect();
        let told: Vec<Option<Told>> = all.iter().map(|p| told(p, self.at, self.design)).collect();
        let width = self.at.width;
        let mut room = match types {
            true => width.saturating_sub(1 + width / FOR_TYPING),
            false => width.saturating_sub(1),
        };
        if self.design.tie && self.design.lines.len() > 1 {
            room = room.saturating_sub(2);
        }
        let mut texts: Vec<Option<String>> = told
            .iter()
            .map(|t| t.as_ref().map(|t| t.full.clone()))
            .collect();
        let split = |texts: &[Option<String>]| {
            let shown = |range: std::ops::Range<usize>| -> Vec<Shown<'a>> {
                range
                    .filter_map(|i| {
                        let text = texts[i].clone().filter(|t| !t.is_empty())?;
                        let (part, index) = (all[i], first + i);
                        Some(Shown { part, index, text })
                    })
                    .collect()
            };
            (shown(0..line.left.len()), shown(line.left.len()..all.len()))
        };
        let fits = |texts: &[Option<String>]| {
            let (left, right) = split(texts);
            let (l, r) = (
                cells_of(&self.run(&left, true)),
                cells_of(&self.run(&right, false)),
            );
            l + r + usize::from(l > 0 && r > 0) <= room
        };
        // What may be left out of the texts.
        if !fits(&texts) {
            texts = told
                .iter()
                .map(|t| t.as_ref().map(|t| t.short.clone()))
                .collect();
        }
        // Parts by their rank.
        for i in giving_way(&all) {
            if fits(&texts) {
                break;
            }
            texts[i] = None;
        }
        // The folder's last part.
        if !fits(&texts) {
            for (i, part) in all.iter().enumerate() {
                if part.kind == Kind::Folder {
                    texts[i] = told[i].as_ref().map(|t| t.last.clone());
                }
            }
        }
        // What is on the right.
        if !fits(&texts) {
            texts[line.left.len()..].fill(None);
        }
        // Everything but the sign.
        if !fits(&texts) {
            for (i, part) in all.iter().enumerate() {
                if part.kind != Kind::Input {
                    texts[i] = None;
                }
            }
        }
        split(&texts)
    }

    fn ground<'p>(&self, part: &'p Part) -> Option<&'p RoleId> {
        part.ground.as_ref().filter(|_| self.colored)
    }

    /// A row of parts with what joins them.
    fn run(&self, shown: &[Shown<'a>], rightward: bool) -> Vec<Piece> {
        let mut out = Vec::new();
        let mut before: Option<&Shown<'a>> = None;
        for one in shown {
            self.join(before, Some(one), rightward, &mut out);
            let ground = self.ground(one.part);
            let text = match ground {
                Some(_) => format!(" {} ", one.text),
                None => one.text.clone(),
            };
            out.push(Piece {
                text,
                ink: Ink {
                    text: Some(self.text_role(one.part).clone()),
                    ground: ground.cloned(),
                    styled: true,
                },
                part: Some(one.index),
            });
            before = Some(one);
        }
        if before.is_some() {
            self.join(before, None, rightward, &mut out);
        }
        out
    }

    /// What stands between two parts, before the first and behind the last.
    fn join(
        &self,
        before: Option<&Shown<'a>>,
        after: Option<&Shown<'a>>,
        rightward: bool,
        out: &mut Vec<Piece>,
    ) {
        let ground = |one: Option<&Shown<'a>>| one.and_then(|o| self.ground(o.part)).cloned();
        let (from, to) = (ground(before), ground(after));
        let is_thin = from.is_some() && from == to;
        let mut draw = |text: &str, text_role: Option<RoleId>, ground: Option<RoleId>| {
            if !text.is_empty() {
                out.push(Piece {
                    text: text.to_owned(),
                    ink: Ink {
                        text: text_role,
                        ground,
                        styled: is_thin,
                    },
                    part: None,
                });
            }
        };
        let (design, level) = (self.design, self.design.level);
        match (from, to) {
            (None, None) => {
                if before.is_some() && after.is_some() {
                    draw(&design.gap, Some(RoleId::known(BETWEEN)), None);
                }
            }
            (Some(from), Some(to)) => {
                let joint = design.joint.joint(level, rightward);
                if joint.solid == " " {
                    draw(" ", None, None);
                } else if is_thin {
                    let role = after.map(|a| self.text_role(a.part).clone());
                    draw(joint.thin, role, Some(to));
                } else if rightward {
                    draw(joint.solid, Some(from), Some(to));
                } else {
                    draw(joint.solid, Some(to), Some(from));
                }
            }
            (Some(from), None) => {
                let solid = design.close.joint(level, true).solid;
                draw(solid.trim(), Some(from), None);
                if after.is_some() {
                    draw(" ", None, None);
                }
            }
            (None, Some(to)) => {
                if before.is_some() {
                    draw(" ", None, None);
                }
                let solid = design.open.joint(level, false).solid;
                draw(solid.trim(), Some(to), None);
            }
        }
    }

    fn text_role<'p>(&self, part: &'p Part) -> &'p RoleId {
        let failed = part.text_failed.as_ref().filter(|_| self.at.status() != 0);
        let root = part.text_root.as_ref().filter(|_| self.at.root);
        let command = part.text_command.as_ref();
        let command = command.filter(|_| self.at.mode == Mode::Command);
        command.or(failed).or(root).unwrap_or(&part.text)
    }
}

/// Parts of a line by their places, in the order they give way. Where one types, and the folder, are not
/// among them.
#[must_use]
pub fn giving_way(parts: &[&Part]) -> Vec<usize> {
    let mut order: Vec<usize> = (0..parts.len())
        .filter(|i| !matches!(parts[*i].kind, Kind::Input | Kind::Folder))
        .collect();
    order.sort_by_key(|i| (parts[*i].rank, std::cmp::Reverse(*i)));
    order
}

fn plain(text: &str) -> Piece {
    Piece {
        text: text.to_owned(),
        ink: Ink::default(),
        part: None,
    }
}
