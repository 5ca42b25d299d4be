//! Values that say several things, as more than one program has them.

use std::ops::Range;

use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Value;
use wealdmist_core::role::RoleId;

use super::{Compound, any_number};
use crate::Wanted;

/// A switch that is a number: zero is off, and what it is where it is switched on.
pub struct Zero(pub &'static [Property; 1], pub &'static str);

impl Compound for Zero {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let said = any_number(text).map(|n| {
            let word = if n == 0.0 { "off" } else { "on" };
            (
                self.0[0].into(),
                Value::Text(word.to_owned()),
                0..text.len(),
            )
        });
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
