//! The face a setup chooses, and what each terminal makes of it.

use std::collections::BTreeMap;
use std::ops::RangeInclusive;
use std::path::PathBuf;

use super::facts::Cell;
use super::fit::Ink;
use super::{Coverage, Elsewhere, Entry, FaceInfo};
use crate::reading::ToolId;
use crate::terminal::TerminalRecord;
use crate::width::Counting;

/// Code points that a tool's dotfiles take from a family of their own.
#[derive(Debug, Clone, PartialEq)]
pub struct Map {
    /// The code points.
    pub codes: RangeInclusive<u32>,
    /// The family as it is written there.
    pub family: String,
    /// Its face; `None` where it is not installed.
    pub face: Option<Entry>,
}

impl Map {
    /// Whether the face has a character.
    #[must_use]
    pub fn has(&self, c: char) -> bool {
        self.face.as_ref().is_some_and(|e| e.coverage.has(c))
    }
}

/// The face the setup chooses and what is needed to judge glyphs in it.
#[derive(Debug, Clone, PartialEq)]
pub struct ChosenFont {
    /// Its file.
    pub path: PathBuf,
    /// What identifies it.
    pub info: FaceInfo,
    /// The cell it asks for.
    pub cell: Cell,
    /// Which characters it has.
    pub coverage: Coverage,
    /// The ink of the characters in use and of those beside them.
    pub inks: BTreeMap<char, Ink>,
    /// What each terminal of the home draws beside it; of one that nothing is known of where there is
    /// none, so that there is always one.
    pub hosts: Vec<HostFont>,
}

/// Where a terminal takes characters from beside the chosen face.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct HostFont {
    /// The terminal; `None` where the home has none.
    pub host: Option<ToolId>,
    /// For characters in use that the face lacks: where they come from, as this terminal would choose.
    pub elsewhere: BTreeMap<char, Elsewhere>,
    /// Icons in use that come from a face with hardly any of their range: how many it has, and of how
    /// many.
    pub strangers: BTreeMap<char, (usize, usize)>,
    /// Code points the terminal draws itself, whatever the font has.
    pub self_drawn: Vec<RangeInclusive<u32>>,
    /// Code points its dotfiles take from other families, whatever the font has; of several that hold
    /// one the last counts.
    pub maps: Vec<Map>,
    /// Whether the terminal gives an icon two cells where a blank follows it.
    pub widens: bool,
    /// How it counts cells, as far as nothing was measured.
    pub counts: Counting,
    /// What was measured of it, and seen in it.
    pub measured: Option<TerminalRecord>,
}

impl HostFont {
    /// Whether the terminal draws a character itself.
    #[must_use]
    pub fn is_self_drawn(&self, c: char) -> bool {
        self.self_drawn.iter().any(|r| r.contains(&(c as u32)))
    }

    /// What the dotfiles say a character is taken from, where they do.
    #[must_use]
    pub fn map(&self, c: char) -> Option<&Map> {
        let mut maps = self.maps.iter().rev();
        let found = maps.find(|m| m.codes.contains(&(c as u32)));
        found.filter(|_| !self.is_self_drawn(c))
    }

    /// The face of a font's that a character is drawn from: its file, and its number there. `None`
    /// where none has it or the terminal draws it itself.
    #[must_use]
    pub fn source(&self, font: &ChosenFont, c: char) -> Option<(PathBuf, u32)> {
        if let Some(map) = self.map(c) {
            return map.face.as_ref().filter(|_| map.has(c)).map(Entry::key);
        }
        if self.is_self_drawn(c) {
            return None;
        }
        let other = self.elsewhere.get(&c).map(|e| (e.path.clone(), e.index));
        let own = || (font.path.clone(), font.info.index);
        other.or_else(|| font.coverage.has(c).then(own))
    }

    /// Whether this terminal shows a character without falling back: it draws it itself, or the face
    /// that it is taken from has it.
    #[must_use]
    pub fn covers(&self, font: &ChosenFont, c: char) -> bool {
        match self.map(c) {
            Some(map) => map.has(c),
            None => font.coverage.has(c) || self.is_self_drawn(c),
        }
    }
}

impl ChosenFont {
    /// Whether a character will be shown in every terminal: each draws it, or the face that it is
    /// taken from there has it.
    #[must_use]
    pub fn covers(&self, c: char) -> bool {
        self.hosts.iter().all(|host| host.covers(self, c))
    }

    /// The terminals in which what a tool draws is seen: itself where it is one, else all.
    #[must_use]
    pub fn seen_by(&self, tool: ToolId) -> &[HostFont] {
        match self.hosts.iter().position(|h| h.host == Some(tool)) {
            Some(at) => &self.hosts[at..=at],
            None => &self.hosts,
        }
    }

    /// What one terminal draws beside the face, or the first where that is none of this home.
    #[must_use]
    pub fn of_host(&self, host: Option<ToolId>) -> Option<&HostFont> {
        let named = self.hosts.iter().find(|h| h.host == host);
        named.or_else(|| self.hosts.first())
    }
}
