//! How tools select fonts: whether a name in a dotfile selects what it says, and how a choice is
//! spelled for each.

use std::ops::RangeInclusive;

use wealdmist_core::finding::Severity;
use wealdmist_core::font::Catalog;
use wealdmist_core::property::Property;
use wealdmist_core::reading::{Reading, ToolReport, Value};
use wealdmist_core::setup::FontChoice;

/// One line that selects a font in a tool's dotfiles.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Spelled {
    /// The line as it is written there.
    pub line: String,
    /// What is to be known of it.
    pub note: Option<String>,
}

/// What is wrong with a name.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Misnamed {
    /// How much it matters.
    pub severity: Severity,
    /// What is wrong, and what the tool does instead.
    pub message: String,
    /// The right name, where there is one.
    pub mend: Option<String>,
}

/// A tool that selects fonts itself.
pub trait FontSyntax: Sync {
    /// The lines that select the fonts of a choice.
    fn spelled(&self, choice: &FontChoice, catalog: &Catalog) -> Vec<Spelled>;
    /// What is wrong with a font's name as a reading has it.
    fn check(&self, reading: &Reading, name: &str, catalog: &Catalog) -> Option<Misnamed>;
    /// What the program asks the system's font configuration for where its font lacks a character:
    /// a pattern as that takes it. `picture` tells that a picture in color is wanted.
    fn asks_for(&self, family: &str, picture: bool) -> String {
        asked_pattern(family, picture)
    }
    /// Code points its dotfiles take from a family of their own, whatever the font has, in the order
    /// of the lines: of several that hold one the last counts.
    fn maps(&self, _report: &ToolReport) -> Vec<(RangeInclusive<u32>, String)> {
        Vec::new()
    }
    /// Code points the program draws itself, whatever the font has.
    fn self_drawn(&self) -> Vec<RangeInclusive<u32>> {
        Vec::new()
    }
    /// Whether it gives an icon two cells where a blank follows it.
    fn widens(&self) -> bool {
        false
    }
}

/// Code points that a terminal draws itself as its dotfiles have it, or as the setup wants it.
#[must_use]
pub fn drawn_by_itself(
    syntax: &dyn FontSyntax,
    report: &ToolReport,
    wanted: Option<bool>,
) -> Vec<RangeInclusive<u32>> {
    let property = Property::FontOwnLines;
    let wanted = wanted.filter(|_| report.can.contains(&property));
    let said = report.effective(&property.into());
    let is_off = |r: &Reading| r.is_sure() && r.value == Value::switch(false);
    let draws = wanted.unwrap_or_else(|| !said.is_some_and(is_off));
    match draws {
        true => syntax.self_drawn(),
        false => Vec::new(),
    }
}

/// A family as a pattern of the system's font configuration.
#[must_use]
pub fn asked_pattern(family: &str, picture: bool) -> String {
    if picture {
        return "emoji".to_owned();
    }
    let mut out = String::new();
    for c in family.chars() {
        // These have a meaning in patterns.
        if matches!(c, '-' | ':' | ',' | '\\') {
            out.push('\\');
        }
        out.push(c);
    }
    out
}

/// A name nothing answers to: what the tool does, and the nearest right name.
#[must_use]
pub fn unknown_name(name: &str, instead: &str, catalog: &Catalog) -> Misnamed {
    Misnamed {
        severity: Severity::Warning,
        message: format!("no installed font answers to '{name}'; {instead}"),
        mend: catalog.nearest(name).map(|n| format!("write '{n}'")),
    }
}
