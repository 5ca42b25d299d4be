//! The sides of a window, as a padding says them.

use std::fmt;

use crate::reading::Value;

/// Which sides one number speaks of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Edge {
    /// All four, in a program that has one number for them.
    All,
    /// Left and right.
    Across,
    /// Top and bottom.
    Down,
    /// One of them.
    Top,
    /// One of them.
    Right,
    /// One of them.
    Bottom,
    /// One of them.
    Left,
}

impl Edge {
    const ALL: [(Self, &'static str); 7] = [
        (Self::All, "all"),
        (Self::Across, "across"),
        (Self::Down, "down"),
        (Self::Top, "top"),
        (Self::Right, "right"),
        (Self::Bottom, "bottom"),
        (Self::Left, "left"),
    ];

    /// The sides of it, by their place in [`Sides::all`].
    const fn sides(self) -> &'static [usize] {
        match self {
            Self::All => &[0, 1, 2, 3],
            Self::Across => &[1, 3],
            Self::Down => &[0, 2],
            Self::Top => &[0],
            Self::Right => &[1],
            Self::Bottom => &[2],
            Self::Left => &[3],
        }
    }

    /// How many sides it is.
    #[must_use]
    pub const fn count(self) -> usize {
        self.sides().len()
    }

    /// What is said of these sides alone, as a value of the ledger.
    #[must_use]
    pub fn said(self, points: f64) -> String {
        let word = Self::ALL.iter().find(|(edge, _)| *edge == self);
        format!("{} {}", word.map_or("", |w| w.1), number(points))
    }
}

/// A number for each side, in typographic points.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sides {
    /// Top, right, bottom, left.
    pub all: [f64; 4],
}

/// Below this two paddings are the same: some count points and others whole pixels, of which half
/// a one is none.
const HALF_A_PIXEL: f64 = 0.38;

impl Sides {
    /// The same on all sides.
    #[must_use]
    pub const fn even(points: f64) -> Self {
        Self { all: [points; 4] }
    }

    /// From one number, two (down and across), three (top, across, bottom) or four (top, right, bottom, left).
    #[must_use]
    pub fn new(numbers: &[f64]) -> Option<Self> {
        let all = match *numbers {
            [all] => [all; 4],
            [down, across] => [down, across, down, across],
            [top, across, bottom] => [top, across, bottom, across],
            [top, right, bottom, left] => [top, right, bottom, left],
            _ => return None,
        };
        Some(Self { all })
    }

    /// Reads what is written of sides: one, two or four numbers.
    #[must_use]
    pub fn parse(text: &str) -> Option<Self> {
        let numbers: Option<Vec<f64>> = text.split(' ').map(|n| n.parse().ok()).collect();
        Self::new(&numbers?)
    }

    /// The numbers it takes to say it: one, two or four.
    #[must_use]
    pub fn numbers(&self) -> Vec<f64> {
        let [top, right, bottom, left] = self.all;
        match (top == bottom, right == left) {
            (true, true) if top == right => vec![top],
            (true, true) => vec![top, right],
            _ => self.all.to_vec(),
        }
    }

    /// What one number says best of these sides: that of the widest.
    #[must_use]
    pub fn at(&self, edge: Edge) -> f64 {
        edge.sides()
            .iter()
            .map(|side| self.all[*side])
            .fold(0.0, f64::max)
    }

    /// What a value of a setup or a tool says, where it speaks of all sides.
    #[must_use]
    pub fn of(value: &Value) -> Option<Self> {
        match value {
            Value::Number(n) => Some(Self::even(*n)),
            Value::Text(text) => Self::parse(text),
            _ => None,
        }
    }

    /// Which sides a value speaks of, and what it says of them.
    #[must_use]
    pub fn edge_of(value: &Value) -> Option<(Edge, f64)> {
        let Value::Text(text) = value else {
            return None;
        };
        let (word, n) = text.split_once(' ')?;
        let edge = Edge::ALL.iter().find(|(_, known)| *known == word)?.0;
        Some((edge, n.parse().ok()?))
    }

    /// What a value says of some sides, where the others have none.
    #[must_use]
    pub fn of_part(value: &Value) -> Option<Self> {
        let (edge, n) = Self::edge_of(value)?;
        Some(Self::even(0.0).with(edge, n))
    }

    /// As a value.
    #[must_use]
    pub fn value(&self) -> Value {
        match self.numbers()[..] {
            [n] => Value::Number(n),
            _ => Value::Text(self.to_string()),
        }
    }

    /// As TOML has it.
    pub(crate) fn literal(&self) -> String {
        let numbers: Vec<String> = self.numbers().iter().map(|n| format!("{n:?}")).collect();
        match &numbers[..] {
            [n] => n.clone(),
            all => format!("[{}]", all.join(", ")),
        }
    }

    /// Whether one number says all of these sides.
    #[must_use]
    pub fn is_even(&self, edge: Edge) -> bool {
        edge.sides()
            .iter()
            .all(|side| self.all[*side] == self.at(edge))
    }

    /// The same with other numbers there.
    #[must_use]
    pub fn with(mut self, edge: Edge, points: f64) -> Self {
        for side in edge.sides() {
            self.all[*side] = points;
        }
        self
    }

    /// Whether what a tool says is this: in whole, or of the sides it speaks of.
    #[must_use]
    pub fn agrees(&self, said: &str) -> bool {
        let same = |a: f64, b: f64| (a - b).abs() < HALF_A_PIXEL;
        if let Some(other) = Self::parse(said) {
            return self.all.iter().zip(other.all).all(|(a, b)| same(*a, b));
        }
        let part = said.split_once(' ').and_then(|(word, n)| {
            let edge = Edge::ALL.iter().find(|(_, known)| *known == word)?.0;
            Some((edge, n.parse::<f64>().ok()?))
        });
        part.is_some_and(|(edge, n)| same(self.at(edge), n))
    }
}

impl fmt::Display for Sides {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let numbers: Vec<String> = self.numbers().into_iter().map(number).collect();
        f.write_str(&numbers.join(" "))
    }
}

/// A number as short as it can be said, to a hundredth.
fn number(points: f64) -> String {
    let text = format!("{points:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sides_are_said_as_shortly_as_they_can_be() {
        for (numbers, said) in [
            (&[6.0][..], "6"),
            (&[6.0, 6.0, 6.0, 6.0], "6"),
            (&[6.0, 8.5], "6 8.5"),
            (&[6.0, 8.0, 6.0], "6 8"),
            (&[6.0, 8.0, 4.0], "6 8 4 8"),
        ] {
            let sides = Sides::new(numbers).unwrap();
            assert_eq!(sides.to_string(), said);
            assert_eq!(Sides::parse(said), Some(sides));
        }
        assert_eq!(Sides::new(&[]), None);
        assert_eq!(Sides::parse("6 wide"), None);
    }

    #[test]
    fn a_tool_agrees_in_what_it_can_say() {
        let sides = Sides::new(&[6.0, 8.0, 6.0, 4.0]).unwrap();
        for said in [
            "6 8 6 4",
            "6.2 8 6 4",
            "down 6",
            "across 8",
            "left 4",
            "all 8",
        ] {
            assert!(sides.agrees(said), "{said}");
        }
        for said in ["6", "6 8", "across 4", "left 8", "all 6", "inside 6", ""] {
            assert!(!sides.agrees(said), "{said}");
        }
        assert_eq!(Edge::Across.said(4.5), "across 4.5");
        assert!(sides.is_even(Edge::Down) && !sides.is_even(Edge::Across));
        assert_eq!(sides.with(Edge::All, 3.0), Sides::even(3.0));
    }
}
