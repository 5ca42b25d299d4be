//! What a terminal was found to do, which no file can tell: its idea of widths, and what a person
//! saw it draw wrongly.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use crate::character::SymbolLevel;
use crate::reading::ToolId;
use crate::{character, width};

/// What was measured of one terminal, by name and version.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct TerminalRecord {
    /// What it calls itself.
    pub name: String,
    /// Its version, as it says it.
    pub version: String,
    /// Which of the terminals we know it is; `None` for others, and for a multiplexer, which is seen in all of them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub host: Option<String>,
    /// The cells each cluster moved its cursor by.
    pub widths: BTreeMap<String, usize>,
    /// What a person saw it draw wrongly: characters, and what is drawn as one.
    pub wrong: BTreeSet<String>,
    /// What a person looked at and found right.
    pub right: BTreeSet<String>,
    /// The image protocol it answered to.
    pub images: Images,
}

/// How a terminal can be shown images.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Images {
    /// Not known, or not at all.
    #[default]
    None,
    /// By the terminal graphics protocol (APC `G`).
    Graphics,
    /// By sixels.
    Sixel,
}

/// One cluster whose width is not what is expected.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WidthRow {
    /// The cluster.
    pub cluster: String,
    /// What the terminal took.
    pub terminal: usize,
    /// What Unicode's rules give.
    pub unicode: usize,
    /// What shells that add up code points count.
    pub shell: usize,
}

impl WidthRow {
    /// Whether all three agree.
    #[must_use]
    pub const fn agrees(&self) -> bool {
        self.terminal == self.unicode && self.terminal == self.shell
    }
}

impl TerminalRecord {
    /// Whether what was measured holds in a terminal: in the one it was measured in, or, where nobody knows which
    /// either is, in any.
    #[must_use]
    pub fn holds_in(&self, host: Option<ToolId>) -> bool {
        let (Some(own), Some(host)) = (self.host.as_deref(), host) else {
            return true;
        };
        own == host.0
    }

    /// The measured width of a cluster.
    #[must_use]
    pub fn width(&self, cluster: &str) -> Option<usize> {
        self.widths.get(cluster).copied()
    }

    /// Whether a person saw it drawn wrongly.
    #[must_use]
    pub fn is_marked_wrong(&self, cluster: &str) -> bool {
        self.wrong.contains(cluster)
    }

    /// Marks what is drawn as one as drawn wrongly or rightly, or forgets the mark.
    pub fn mark(&mut self, cluster: &str, wrong: Option<bool>) {
        self.wrong.remove(cluster);
        self.right.remove(cluster);
        match wrong {
            Some(true) => self.wrong.insert(cluster.to_owned()),
            Some(false) => self.right.insert(cluster.to_owned()),
            None => false,
        };
    }

    /// What was measured beside what is expected, what differs first.
    #[must_use]
    pub fn rows(&self) -> Vec<WidthRow> {
        let row = |(cluster, terminal): (&String, &usize)| WidthRow {
            cluster: cluster.clone(),
            terminal: *terminal,
            unicode: width::by_cluster(cluster),
            shell: width::by_code_points(cluster),
        };
        let mut rows: Vec<WidthRow> = self.widths.iter().map(row).collect();
        rows.sort_by_key(WidthRow::agrees);
        rows
    }

    /// The highest symbol level that nothing measured or marked speaks against, with the reason
    /// where it is not the highest; `None` before anything was measured or marked.
    #[must_use]
    pub fn proposed_level(&self) -> Option<(SymbolLevel, String)> {
        if self.widths.is_empty() && self.wrong.is_empty() && self.right.is_empty() {
            return None;
        }
        // Pictures two cells wide, letters and keys say nothing of signs and icons.
        let sign = |cluster: &str| {
            let mut all = cluster.chars();
            let one = all.next().filter(|c| character::is_symbol(*c));
            let takes_one = all.next().is_none() && width::by_code_points(cluster) == 1;
            one.filter(|_| takes_one)
        };
        let mut level = SymbolLevel::Icons;
        let mut reason = "nothing measured or marked speaks against icons".to_owned();
        let seen = self.wrong.iter();
        let seen = seen.filter_map(|c| Some((sign(c)?, "was marked as drawn wrongly")));
        let sized = self.widths.iter().filter(|(_, cells)| **cells != 1);
        let sized = sized
            .filter_map(|(c, _)| Some((sign(c)?, "does not take the cells that shells count")));
        for (c, what) in seen.chain(sized) {
            let below = match character::level(c) {
                SymbolLevel::Icons => SymbolLevel::Plain,
                _ => SymbolLevel::Ascii,
            };
            if below < level {
                level = below;
                reason = format!("U+{:04X} {what}", c as u32);
            }
        }
        Some((level, reason))
    }
}

/// What is measured of a terminal beside the clusters in use: one of each kind that terminals are
/// known to treat differently.
pub const PROBES: [&str; 21] = [
    "a",
    "é",
    "字",
    "→",
    "─",
    "▌",
    "…",
    "\u{e0b0}",
    "\u{f07b}",
    "\u{f0150}",
    "⚡",
    "❤",
    "❤\u{fe0f}",
    "👨\u{200d}💻",
    "👍🏽",
    "🇩🇪",
    "1\u{fe0f}\u{20e3}",
    "⚡\u{fe0e}",
    "👨\u{200d}👩\u{200d}👧",
    "e\u{301}",
    "\u{1fae9}",
];

#[cfg(test)]
mod tests {
    use super::*;

    fn record(widths: &[(&str, usize)]) -> TerminalRecord {
        let widths = widths.iter().map(|(c, w)| ((*c).to_owned(), *w)).collect();
        TerminalRecord {
            widths,
            ..TerminalRecord::default()
        }
    }

    #[test]
    fn what_was_measured_and_marked_decides_the_level() {
        let level = |r: &TerminalRecord| r.proposed_level().map(|(level, _)| level);
        assert_eq!(level(&TerminalRecord::default()), None);
        let mut good = record(&[("a", 1), ("\u{e0b0}", 1), ("→", 1), ("❤\u{fe0f}", 2)]);
        assert_eq!(level(&good), Some(SymbolLevel::Icons));
        good.mark("\u{f07b}", Some(true));
        let (plain, reason) = good.proposed_level().unwrap();
        assert_eq!(plain, SymbolLevel::Plain);
        assert!(reason.contains("U+F07B"), "{reason}");
        good.mark("\u{f07b}", Some(false));
        assert_eq!(level(&good), Some(SymbolLevel::Icons));
        // A key is not the digit on it, and neither says anything of signs.
        good.mark("1\u{fe0f}\u{20e3}", Some(true));
        assert!(!good.is_marked_wrong("1"));
        assert_eq!(level(&good), Some(SymbolLevel::Icons));
        assert_eq!(level(&record(&[("→", 2)])), Some(SymbolLevel::Ascii));
        assert_eq!(
            level(&record(&[("\u{1fae9}", 1)])),
            Some(SymbolLevel::Icons),
            "a picture"
        );
        assert_eq!(level(&record(&[("\u{e0b0}", 2)])), Some(SymbolLevel::Plain));
    }

    #[test]
    fn rows_that_differ_come_first() {
        let rows = record(&[("a", 1), ("❤\u{fe0f}", 1)]).rows();
        assert_eq!(rows[0].cluster, "❤\u{fe0f}");
        assert_eq!(
            (rows[0].terminal, rows[0].unicode, rows[0].shell),
            (1, 2, 1)
        );
        assert!(!rows[0].agrees() && rows[1].agrees());
    }
}
