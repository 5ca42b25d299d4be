//! Arranging a design: its parts carried along, put in and taken out, its lines joined and parted. Parts are
//! known by their place among [`Design::parts`]. The part where one types stays where it belongs.

use super::design::{Design, Line, Part};
use super::kind::{Kind, Known};
use crate::limits;

/// Where a part stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Spot {
    /// The line.
    pub line: usize,
    /// Whether it is on the right.
    pub right: bool,
    /// The place on that side.
    pub place: usize,
}

/// A way along the design.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Way {
    Left,
    Right,
    Up,
    Down,
}

impl Design {
    /// Where a part stands.
    #[must_use]
    pub fn spot(&self, part: usize) -> Option<Spot> {
        let mut before = 0;
        for (line, l) in self.lines.iter().enumerate() {
            for (right, side) in [(false, &l.left), (true, &l.right)] {
                if let Some(place) = part.checked_sub(before).filter(|p| *p < side.len()) {
                    return Some(Spot { line, right, place });
                }
                before += side.len();
            }
        }
        None
    }

    /// The part that stands somewhere, by its place among all.
    #[must_use]
    pub fn index(&self, spot: Spot) -> usize {
        let lines = self.lines.iter().take(spot.line);
        let before: usize = lines.map(|l| l.left.len() + l.right.len()).sum();
        let left = self.lines.get(spot.line).map_or(0, |l| l.left.len());
        before + if spot.right { left } else { 0 } + spot.place
    }

    /// A part.
    #[must_use]
    pub fn part(&self, part: usize) -> Option<&Part> {
        self.parts().nth(part)
    }

    /// A part, to be changed.
    pub fn part_mut(&mut self, part: usize) -> Option<&mut Part> {
        let mut all = self.lines.iter_mut();
        let mut sides = all
            .by_ref()
            .flat_map(|l| l.left.iter_mut().chain(&mut l.right));
        sides.nth(part)
    }

    /// The part reached from another one by a step; the same where there is none.
    #[must_use]
    pub fn beside(&self, part: usize, way: Way) -> usize {
        let Some(at) = self.spot(part) else { return 0 };
        let line = match way {
            Way::Left | Way::Right => {
                let left = way == Way::Left;
                let to = if left {
                    part.checked_sub(1)
                } else {
                    Some(part + 1)
                };
                let same_line = |to: &usize| self.spot(*to).is_some_and(|s| s.line == at.line);
                return to.filter(same_line).unwrap_or(part);
            }
            Way::Up => at.line.checked_sub(1),
            Way::Down => Some(at.line + 1).filter(|l| *l < self.lines.len()),
        };
        let Some(line) = line else { return part };
        let (left, right) = (self.lines[line].left.len(), self.lines[line].right.len());
        let right_side = (at.right && right > 0) || left == 0;
        let len = if right_side { right } else { left };
        match len {
            0 => part,
            len => self.index(Spot {
                line,
                right: right_side,
                place: at.place.min(len - 1),
            }),
        }
    }

    /// How many parts of a side are before where one types.
    fn free(&self, line: usize, right: bool) -> usize {
        let l = &self.lines[line];
        match right {
            true => l.right.len(),
            false => l.left.iter().filter(|p| p.kind != Kind::Input).count(),
        }
    }

    fn side(&mut self, line: usize, right: bool) -> &mut Vec<Part> {
        let l = &mut self.lines[line];
        if right { &mut l.right } else { &mut l.left }
    }

    /// Takes a part from where it stands and puts it elsewhere, its line counted before lines that are left
    /// empty go. Where it stands then.
    fn moved(&mut self, from: Spot, to: Spot) -> usize {
        let part = self.side(from.line, from.right).remove(from.place);
        self.side(to.line, to.right).insert(to.place, part);
        let mut to = to;
        let is_empty = |l: &Line| l.left.is_empty() && l.right.is_empty();
        if is_empty(&self.lines[from.line]) {
            self.lines.remove(from.line);
            to.line -= usize::from(from.line < to.line);
        }
        self.index(to)
    }

    /// Carries a part one step: past its neighbour, across the stretch, to another line, above the first
    /// one to a new line. Where it stands then; `None` where it goes no further.
    pub fn carry(&mut self, part: usize, way: Way) -> Option<usize> {
        let from = self.spot(part)?;
        if self.part(part)?.kind == Kind::Input {
            return None;
        }
        let Spot { line, right, place } = from;
        let to = match way {
            Way::Left if place > 0 => Spot {
                place: place - 1,
                ..from
            },
            Way::Left if right => Spot {
                right: false,
                place: self.free(line, false),
                line,
            },
            Way::Right if place + 1 < self.free(line, right) => Spot {
                place: place + 1,
                ..from
            },
            Way::Right if !right => Spot {
                right: true,
                place: 0,
                line,
            },
            Way::Left | Way::Right => return None,
            Way::Up if line == 0 => {
                let alone = self.lines[0].left.len() + self.lines[0].right.len() == 1;
                if alone || self.lines.len() >= limits::PROMPT_LINES {
                    return None;
                }
                self.lines.insert(0, Line::default());
                let from = Spot { line: 1, ..from };
                let to = Spot {
                    line: 0,
                    right,
                    place: 0,
                };
                return Some(self.moved(from, to));
            }
            Way::Down if line + 1 == self.lines.len() => return None,
            Way::Up | Way::Down => {
                let line = if way == Way::Up { line - 1 } else { line + 1 };
                let place = place.min(self.free(line, right));
                Spot { line, right, place }
            }
        };
        Some(self.moved(from, to))
    }

    /// Brings a part to the other side of its line: to the end of the left, or the start of the right.
    pub fn to_other_side(&mut self, part: usize) -> Option<usize> {
        let from = self.spot(part)?;
        if self.part(part)?.kind == Kind::Input {
            return None;
        }
        let place = if from.right {
            self.free(from.line, false)
        } else {
            0
        };
        let to = Spot {
            right: !from.right,
            place,
            ..from
        };
        Some(self.moved(from, to))
    }

    /// Carries a part right before another one, or behind it where it comes from before it in the same
    /// run. Where it stands then.
    pub fn carry_to(&mut self, part: usize, other: usize) -> Option<usize> {
        let (from, mut to) = (self.spot(part)?, self.spot(other)?);
        if self.part(part)?.kind == Kind::Input || part == other {
            return None;
        }
        let same_run = (from.line, from.right) == (to.line, to.right);
        let room = self.free(to.line, to.right) - usize::from(same_run);
        to.place = to.place.min(room);
        Some(self.moved(from, to))
    }

    /// Puts a part in behind another one, or before where one types. Where it stands then.
    pub fn put_in(&mut self, after: usize, mut part: Part) -> usize {
        let mut at = self.spot(after).unwrap_or(Spot {
            line: 0,
            right: false,
            place: 0,
        });
        at.place = (at.place + 1).min(self.free(at.line, at.right));
        part.name = self.free_name(&part.name);
        self.side(at.line, at.right).insert(at.place, part);
        self.index(at)
    }

    /// A name like this one that no part has yet.
    #[must_use]
    pub fn free_name(&self, name: &str) -> String {
        let taken = |name: &str| self.parts().any(|p| p.name == name);
        let mut out = name.to_owned();
        for n in 2.. {
            if !taken(&out) {
                break;
            }
            out = format!("{name}-{n}");
        }
        out
    }

    /// Takes a part out. Where its neighbour stands then.
    pub fn take_out(&mut self, part: usize) -> Option<usize> {
        let at = self.spot(part)?;
        if self.part(part)?.kind == Kind::Input {
            return None;
        }
        self.side(at.line, at.right).remove(at.place);
        let line = &self.lines[at.line];
        if line.left.is_empty() && line.right.is_empty() {
            self.lines.remove(at.line);
        }
        let last = self.parts().count() - 1;
        Some(part.saturating_sub(usize::from(at.place > 0)).min(last))
    }

    /// Joins all lines into one; parts one line into two, the second to type in.
    pub fn join_or_part(&mut self) {
        let lines = std::mem::take(&mut self.lines);
        if lines.len() > 1 {
            let mut one = Line::default();
            for line in lines {
                one.left.extend(line.left);
                one.right.extend(line.right);
            }
            self.lines = vec![one];
            return;
        }
        let mut top = lines.into_iter().next().unwrap_or_default();
        let is_input = |p: &Part| p.kind == Kind::Input;
        let (input, rest) = top.left.into_iter().partition(is_input);
        top.left = rest;
        let below = Line {
            left: input,
            right: Vec::new(),
        };
        self.lines = match top.left.is_empty() && top.right.is_empty() {
            true => vec![below],
            false => vec![top, below],
        };
    }

    /// Puts the living host in place of a text in which one is written.
    pub fn make_living(&mut self, part: usize) -> Option<()> {
        let name = self.free_name("host");
        let part = self.part_mut(part).filter(|p| p.kind == Kind::Text)?;
        let host = Part::usual(Known::named("host")?);
        *part = Part {
            name,
            before: std::mem::take(&mut part.before),
            after: std::mem::take(&mut part.after),
            ground: part.ground.take(),
            text: part.text.clone(),
            when: part.when,
            ..host
        };
        Some(())
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::super::tests::any_design;
    use super::*;
    use crate::setup::SetupDoc;

    fn design(lines: &[(&str, &str)]) -> Design {
        let side = |names: &str| names.split_whitespace().filter_map(Part::named).collect();
        let lines = lines.iter().map(|(left, right)| Line {
            left: side(left),
            right: side(right),
        });
        Design::of(lines.collect())
    }

    fn told(design: &Design) -> String {
        let names = |side: &[Part]| {
            side.iter()
                .map(|p| p.name.clone())
                .collect::<Vec<_>>()
                .join(" ")
        };
        let lines = design.lines.iter();
        let all: Vec<String> = lines
            .map(|l| format!("{} | {}", names(&l.left), names(&l.right)))
            .collect();
        all.join(" / ")
    }

    #[test]
    fn a_part_is_carried_across_everything() {
        let mut d = design(&[("folder branch", "time"), ("input", "")]);
        let mut at = 0;
        let mut steps = Vec::new();
        for way in [
            Way::Right,
            Way::Right,
            Way::Right,
            Way::Down,
            Way::Left,
            Way::Up,
            Way::Up,
        ] {
            at = d.carry(at, way).unwrap_or(at);
            steps.push(told(&d));
            assert_eq!(d.part(at).map(|p| p.name.as_str()), Some("folder"));
        }
        assert_eq!(
            steps,
            [
                "branch folder | time / input | ",
                "branch | folder time / input | ",
                "branch | time folder / input | ",
                "branch | time / input | folder",
                "branch | time / folder input | ",
                "folder branch | time / input | ",
                "folder |  / branch | time / input | ",
            ]
        );
        assert_eq!(d.carry(0, Way::Up), None);
        // Where one types stays, and nothing goes behind it on the left.
        let input = d.parts().count() - 1;
        assert!(
            [Way::Left, Way::Right, Way::Up, Way::Down]
                .iter()
                .all(|w| d.carry(input, *w).is_none())
        );
    }

    #[test]
    fn lines_are_joined_and_parted_again() {
        let mut d = design(&[("folder branch", "time"), ("input", "")]);
        let before = d.clone();
        d.join_or_part();
        assert_eq!(told(&d), "folder branch input | time");
        d.join_or_part();
        assert_eq!(d, before);
        let mut bare = design(&[("input", "")]);
        bare.join_or_part();
        assert_eq!(told(&bare), "input | ");
    }

    #[test]
    fn parts_come_and_go() {
        let mut d = design(&[("folder", "time"), ("input", "")]);
        let text = Part::named("text").unwrap();
        let at = d.put_in(2, text.clone());
        assert_eq!(
            (told(&d).as_str(), at),
            ("folder | time / text input | ", 2)
        );
        let at = d.put_in(at, text);
        assert_eq!(
            (told(&d).as_str(), at),
            ("folder | time / text text-2 input | ", 3)
        );
        assert_eq!(d.to_other_side(at), Some(4));
        assert_eq!(told(&d), "folder | time / text input | text-2");
        assert_eq!(d.carry_to(4, 0), Some(0));
        assert_eq!(told(&d), "text-2 folder | time / text input | ");
        assert_eq!(d.take_out(0), Some(0));
        assert_eq!((d.take_out(0), d.take_out(0)), (Some(0), Some(0)));
        assert_eq!(told(&d), "text input | ");
        d.part_mut(0).unwrap().before = "at ".into();
        d.make_living(0).unwrap();
        assert_eq!(
            (told(&d).as_str(), d.part(0).unwrap().before.as_str()),
            ("host input | ", "at ")
        );
        assert_eq!((d.take_out(1), d.make_living(1)), (None, None));
    }

    proptest! {
        #[test]
        fn whatever_is_done_a_setup_can_hold_it(design in any_design(), acts in prop::collection::vec((0u8..9, 0usize..20, 0usize..20), 0..12)) {
            let mut d = design;
            for (act, a, b) in acts {
                let count = d.parts().count();
                let (a, b) = (a % count, b % count);
                let names = |d: &Design| {
                    let mut all: Vec<String> = d.parts().map(|p| p.name.clone()).collect();
                    all.sort();
                    all
                };
                let before = names(&d);
                let ways = [Way::Left, Way::Right, Way::Up, Way::Down];
                match act {
                    0..4 => {
                        let name = d.part(a).map(|p| p.name.clone());
                        if let Some(to) = d.carry(a, ways[usize::from(act)]) {
                            prop_assert_eq!(d.part(to).map(|p| p.name.clone()), name);
                        }
                    }
                    4 => drop(d.to_other_side(a)),
                    5 => drop(d.carry_to(a, b)),
                    6 => d.join_or_part(),
                    7 => drop(d.take_out(a)),
                    _ => drop(d.put_in(a, Part::named("jobs").unwrap())),
                }
                if act < 7 {
                    prop_assert_eq!(names(&d), before);
                }
                for way in ways {
                    prop_assert!(d.beside(a, way) < d.parts().count());
                }
                for i in 0..d.parts().count() {
                    prop_assert_eq!(d.index(d.spot(i).unwrap()), i);
                }
            }
            let doc = SetupDoc::parse("s", b"[palettes.a]\n").unwrap();
            prop_assert!(doc.with_design(&d).is_ok());
        }
    }
}
