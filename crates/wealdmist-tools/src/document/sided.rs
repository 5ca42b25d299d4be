//! Settings that newer versions of a program have once for each side of the desktop: a view of a file in which those
//! of the side in use stand where older versions have them.

use wealdmist_core::plan::Splice;
use wealdmist_core::quote::{Code, Quoting};

use super::notation::{Damage, Datum, Entry, New, Notation, Spot};
use super::settings::{Settings, spelled_as_settings};

/// The settings, with sections for each side.
#[derive(Debug, Clone, Copy)]
pub struct Sided {
    /// The file itself.
    pub settings: Settings,
    /// The section of older versions, which newer ones take as that of the dark side.
    pub section: &'static str,
    /// What each side's sections are called, the dark first.
    pub sides: [&'static [&'static str]; 2],
    /// The setting that says which side is in use, with its section.
    pub by: &'static str,
    /// What it says for the light side.
    pub light: &'static [&'static str],
}

/// What the section of a value ends in that does not count.
const SHUT: &str = " (not in use)";

impl Sided {
    /// The section that is in use, where there is one for a side.
    fn used(&self, entries: &[Entry]) -> Option<&'static str> {
        let of = |entry: &&Entry, section: &str| {
            let rest = entry.path.strip_prefix(section);
            rest.is_some_and(|rest| rest.starts_with('/'))
        };
        let there = |section: &&&str| entries.iter().any(|e| of(&e, section));
        let mut says = entries.iter().rev().filter(|e| e.off.is_none());
        let said = says.find(|e| e.path == self.by).map(|e| e.text.as_str());
        let is_light = said.is_some_and(|said| self.light.contains(&said));
        let [dark, light] = self.sides.map(|names| names.iter().find(there).copied());
        match (is_light, dark, light) {
            (true, _, light) => light,
            (false, Some(dark), _) => Some(dark),
            // What stands for both sides counts.
            (false, None, _) => None,
        }
    }
}

impl Notation for Sided {
    fn entries(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        let mut all = self.settings.entries(bytes)?;
        let Some(used) = self.used(&all) else {
            return Ok(all);
        };
        let is_dark = self.sides[0].contains(&used);
        for entry in &mut all {
            let Some((section, rest)) = entry.path.split_once('/') else {
                continue;
            };
            if section == used {
                entry.path = format!("{}/{rest}", self.section);
            } else if section == self.section && !is_dark {
                entry.path = format!("{section}{SHUT}/{rest}");
            }
        }
        Ok(all)
    }

    fn imported(&self, bytes: &[u8]) -> Result<Vec<Entry>, Damage> {
        self.settings.entries(bytes)
    }

    fn insert(&self, bytes: &[u8], _: &[Entry], new: &[New]) -> Vec<(usize, Splice)> {
        let Ok(entries) = self.settings.entries(bytes) else {
            return Vec::new();
        };
        let mut new = new.to_vec();
        if let Some(used) = self.used(&entries) {
            let of_side = new.iter_mut().filter(|n| n.spot.section == self.section);
            of_side.for_each(|new| new.spot.section = used);
        }
        self.settings.insert(bytes, &entries, &new)
    }

    spelled_as_settings!();
}
