//! Values that say several things, as more than one program has them.

use std::ops::Range;

use wealdmist_core::property::{Edge, Property, Sides};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Value;
use wealdmist_core::role::RoleId;

use super::{Compound, any_number};
use crate::Wanted;
use crate::document::notation::Datum;

/// A switch that is a number: zero is off, and what it is where it is switched on; what is below zero the program takes for
/// zero.
pub struct Zero(pub &'static [Property; 1], pub &'static str);

/// The same, where what is below zero is on.
pub struct NotZero(pub &'static [Property; 1], pub &'static str);

impl Compound for NotZero {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        Zero(self.0, self.1)
            .read(text.trim_start_matches('-'))
            .into_iter()
            .map(|(role, value, _)| (role, value, 0..text.len()))
            .collect()
    }

    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>> {
        Zero(self.0, self.1).change(text, wanted, quoting)
    }

    fn holds(&self) -> &'static [Property] {
        self.0
    }
}

impl Compound for Zero {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let said =
            any_number(text).map(|n| (self.0[0].into(), Value::switch(n > 0.0), 0..text.len()));
        said.into_iter().collect()
    }

    fn change(&self, text: &str, wanted: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        let Value::Text(word) = self.0[0].of(wanted.setup)? else {
            return None;
        };
        let code = Code::fixed(if word == "on" { self.1 } else { "0" });
        Some(vec![(0..text.len(), code)])
    }

    fn holds(&self) -> &'static [Property] {
        self.0
    }

    fn datum(&self, code: Code) -> Datum {
        Datum::Bare(code)
    }
}

/// How often a cursor blinks, in seconds: zero is never, less than zero as often as the system has it.
pub struct Blink;

impl Compound for Blink {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let Some(n) = any_number(text) else {
            return Vec::new();
        };
        let (word, whole) = (if n == 0.0 { "off" } else { "on" }, 0..text.len());
        let blinks = Value::Text(word.to_owned());
        let mut out = vec![(Property::CursorBlink.into(), blinks, whole.clone())];
        let rate = match n {
            n if n > 0.0 && n.is_finite() => Value::Number((n * 1000.0).round()),
            n if n < 0.0 => Value::Text("the system's".to_owned()),
            _ => return out,
        };
        out.push((Property::CursorRate.into(), rate, whole));
        out
    }

    fn change(&self, text: &str, wanted: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        let rate = match Property::CursorRate.of(wanted.setup) {
            Some(Value::Number(n)) => Some(Code::number(n / 1000.0)),
            _ => None,
        };
        let blinks = Property::CursorBlink.of(wanted.setup);
        let blinks = blinks.map(|said| said == Value::switch(true));
        let now = any_number(text).filter(|n| *n != 0.0).is_some();
        let code = match (blinks, rate) {
            (Some(false), _) => Code::fixed("0"),
            (None, _) if !text.is_empty() && !now => return Some(Vec::new()),
            (_, Some(rate)) => rate,
            (Some(true), None) if now => return Some(Vec::new()),
            (Some(true), None) => Code::fixed("-1"),
            (None, None) => return None,
        };
        Some(vec![(0..text.len(), code)])
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::CursorBlink, Property::CursorRate]
    }
}

/// The padding of a window: how many numbers there may be, and of which sides each is.
pub struct Padding {
    /// The sides of each number, by how many there are.
    pub forms: &'static [&'static [Edge]],
    /// What stands between two.
    pub between: &'static str,
    /// Whether they count pixels of 1/96 inch; else points.
    pub pixels: bool,
    /// What may stand behind them, and stays.
    pub behind: &'static [&'static str],
}

impl Padding {
    /// One number.
    #[must_use]
    pub const fn one(forms: &'static [&'static [Edge]; 1]) -> Self {
        Self {
            forms,
            between: " ",
            pixels: true,
            behind: &[],
        }
    }

    /// The numbers, and the sides of each.
    fn parts(&self, text: &str) -> Option<(Vec<f64>, &'static [Edge])> {
        let behind = self.behind.iter().find_map(|word| text.strip_suffix(word));
        let text = behind.unwrap_or(text);
        let between = self.between.trim();
        let words: Vec<&str> = match between {
            "" => text.split_whitespace().collect(),
            sign => text.split(sign).map(str::trim).collect(),
        };
        let mut out = Vec::new();
        for word in words {
            let n = any_number(word).filter(|n| n.is_finite())?.max(0.0);
            out.push(n * self.point());
        }
        let form = self.forms.iter().find(|form| form.len() == out.len())?;
        Some((out, form))
    }

    const fn point(&self) -> f64 {
        match self.pixels {
            true => 0.75,
            false => 1.0,
        }
    }

    fn code(&self, points: f64) -> Code {
        match self.pixels {
            true => Code::whole((points / 0.75).round().max(0.0) as u64),
            false => Code::number(points),
        }
    }

    fn sides(wanted: &Wanted) -> Option<Sides> {
        Sides::of(&Property::WindowPadding.of(wanted.setup)?)
    }
}

impl Compound for Padding {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let Some((numbers, form)) = self.parts(text) else {
            return Vec::new();
        };
        let covered: usize = form.iter().map(|edge| edge.count()).sum();
        let value = match (form, &numbers[..]) {
            ([edge], [n]) if self.forms.len() == 1 => Value::Text(edge.said(*n)),
            _ if covered == 4 => {
                let both = form.iter().zip(&numbers);
                let none = Sides::even(0.0);
                both.fold(none, |sides, (edge, n)| sides.with(*edge, *n))
                    .value()
            }
            // Of some of the sides: where they are the same, of all of these.
            _ if numbers.iter().all(|n| *n == numbers[0]) => {
                Value::Text(self.forms[0][0].said(numbers[0]))
            }
            _ => return Vec::new(),
        };
        vec![(Property::WindowPadding.into(), value, 0..text.len())]
    }

    fn change(&self, text: &str, wanted: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        let sides = Self::sides(wanted)?;
        let end = self.behind.iter().find(|word| text.ends_with(*word));
        let end = text.len() - end.map_or(0, |word| word.len());
        // The shortest form that says all, else the longest.
        let says = |form: &&&[Edge]| form.iter().all(|edge| sides.is_even(*edge));
        let form = self.forms.iter().find(says).or(self.forms.last())?;
        let codes: Vec<Code> = form.iter().map(|edge| self.code(sides.at(*edge))).collect();
        Some(vec![(0..end, Code::join(&codes, self.between))])
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::WindowPadding]
    }

    fn is_partial(&self) -> bool {
        let covered: usize = self.forms[0].iter().map(|edge| edge.count()).sum();
        covered < 4
    }

    fn datum(&self, code: Code) -> Datum {
        match self.forms {
            [[_]] => Datum::Bare(code),
            _ => Datum::Literal(code),
        }
    }

    fn unread(&self, text: &str) -> Option<&'static str> {
        match self.parts(text) {
            None => Some("it says something else than numbers of points or pixels"),
            Some(_) if self.read(text).is_empty() => Some("it says a number for each side"),
            Some(_) => None,
        }
    }
}

/// A whole number with a unit behind it.
pub struct Suffixed(pub &'static [Property; 1], pub &'static str);

impl Compound for Suffixed {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let said = text
            .strip_suffix(self.1)
            .and_then(|n| n.parse::<u32>().ok());
        let value = said.map(|n| (self.0[0].into(), Value::Number(n.into()), 0..text.len()));
        value.into_iter().collect()
    }

    fn change(&self, text: &str, wanted: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        let Value::Number(n) = self.0[0].of(wanted.setup)? else {
            return None;
        };
        let number = Code::whole(n.round().max(0.0) as u64);
        let code = Code::join(&[number, Code::fixed(self.1)], "");
        Some(vec![(0..text.len(), code)])
    }

    fn holds(&self) -> &'static [Property] {
        self.0
    }

    fn unread(&self, text: &str) -> Option<&'static str> {
        self.read(text)
            .is_empty()
            .then_some("it counts something else than cells")
    }
}

/// The columns and rows of a window, with an `x` between them; what stands behind stays.
pub struct Size;

impl Size {
    fn parts(text: &str) -> Option<[Range<usize>; 2]> {
        let (columns, rest) = text.split_once(['x', 'X'])?;
        let rows = rest.len() - rest.trim_start_matches(|c: char| c.is_ascii_digit()).len();
        let at = columns.len() + 1;
        let is_number = |range: &Range<usize>| text[range.clone()].parse::<u16>().is_ok();
        let parts = [0..columns.len(), at..at + rows];
        let behind = text.as_bytes().get(at + rows);
        let ends = behind.is_none_or(|b| matches!(b, b'+' | b'-'));
        (ends && parts.iter().all(is_number)).then_some(parts)
    }
}

impl Compound for Size {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let both = Self::parts(text).into_iter().flatten().zip(self.holds());
        both.filter_map(|(at, property)| {
            let n: f64 = text[at.clone()].parse().ok()?;
            Some(((*property).into(), Value::Number(n), at))
        })
        .collect()
    }

    fn change(&self, text: &str, wanted: &Wanted, _: Quoting) -> Option<Vec<(Range<usize>, Code)>> {
        let said = |property: &Property| match property.of(wanted.setup) {
            Some(Value::Number(n)) => Some(Code::whole(n.round().max(1.0) as u64)),
            _ => None,
        };
        let [columns, rows] = [said(&Property::WindowColumns), said(&Property::WindowRows)];
        if text.is_empty() {
            let both = [columns?, rows?];
            return Some(vec![(0..0, Code::join(&both, "x"))]);
        }
        let both = Self::parts(text)?.into_iter().zip([columns, rows]);
        Some(both.filter_map(|(at, code)| Some((at, code?))).collect())
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::WindowColumns, Property::WindowRows]
    }

    fn unread(&self, text: &str) -> Option<&'static str> {
        let none = Self::parts(text).is_none();
        none.then_some("it says no number of columns and rows")
    }
}

/// Where a family stands, and where a size does.
pub type Parts = (Range<usize>, Option<Range<usize>>);

/// A font as a toolkit describes it: its family, its size, and what nobody changes by hand.
pub struct Described {
    /// The family, and the size where one is said.
    pub parts: fn(&str) -> Parts,
    /// What stands between family and size.
    pub between: &'static str,
}

impl Compound for Described {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let (family, size) = (self.parts)(text);
        let mut out = Vec::new();
        if !family.is_empty() {
            let said = Value::Text(text[family.clone()].to_owned());
            out.push((Property::FontFamily.into(), said, family));
        }
        let size = size.and_then(|at| Some((text[at.clone()].parse::<f64>().ok()?, at)));
        if let Some((size, at)) = size.filter(|(size, _)| size.is_finite() && *size > 0.0) {
            out.push((Property::FontSize.into(), Value::Number(size), at));
        }
        out
    }

    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>> {
        let (family, size) = (self.parts)(text);
        let font = &wanted.setup.font;
        let mut out = Vec::new();
        match &font.family {
            // Nothing tells a comma in a name from the one behind it.
            Some(chosen) if self.between == "," && chosen.contains(',') => return None,
            Some(chosen) if *chosen != text[family.clone()] => {
                out.push((family.clone(), quote(chosen, &[quoting])?));
            }
            None if family.is_empty() => return None,
            _ => {}
        }
        match (font.size.map(Code::short_number), size) {
            (Some(code), Some(at)) if *code != *text[at.clone()].as_bytes() => out.push((at, code)),
            (Some(code), None) => {
                let end = text.trim_end().len();
                let code = Code::join([&Code::fixed(self.between), &code], "");
                out.push((end..end, code));
            }
            _ => {}
        }
        Some(out)
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::FontFamily, Property::FontSize]
    }
}
