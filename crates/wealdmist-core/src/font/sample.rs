//! The lines on which faces are compared.

use unicode_segmentation::UnicodeSegmentation;

use crate::width;

/// Lines of one subject.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Sample {
    /// What it shows.
    pub title: &'static str,
    /// The lines, each at most 30 cells wide.
    pub lines: &'static [&'static str],
}

/// Every sample, in the order in which they are shown.
pub static SAMPLES: &[Sample] = &[
    Sample {
        title: "code",
        lines: &[
            "fn level(mm: i64) -> Option<u8>",
            "if depth >= 0x1F && !dry { }",
            "const tide = (a) => a ?? 0.5;",
            "SELECT * FROM gauge WHERE id!=7",
        ],
    },
    Sample {
        title: "lookalikes",
        lines: &[
            "0O oO 1lI| i!j 5S 8B 2Z g9q",
            "`' \"\" '' ,. ;: rn m vv w cl d",
            "{} () [] -_ ~- @& %8 $S #",
        ],
    },
    Sample {
        title: "boxes that must join",
        lines: &[
            "┌──┬──┐ ╔══╗ █▓▒░ ▁▂▃▄▅▆▇█",
            "│  ├──┤ ║▀▄║ ▌▐▖▗ ━┳━┃╭╮╰╯",
            "└──┴──┘ ╚══╝ ████ ▏▎▍▌▋▊▉█",
        ],
    },
    Sample {
        title: "shapes that must meet",
        lines: &[
            "█\u{e0b0} █\u{e0b4} \u{e0b2}█ \u{e0b6}█ a\u{e0b1}b a\u{e0b3}b",
            "█\u{e0b8} \u{e0ba}█ █\u{e0bc} \u{e0be}█ \u{e0a0} \u{e0a2}",
        ],
    },
    Sample {
        title: "icons",
        lines: &[
            "\u{f07b} \u{f015} \u{e725} \u{f126} \u{f120} \u{f0e7} \u{f00c} \u{f00d} \u{f071}",
            "\u{f0026} \u{f0241} \u{f0150} \u{f024b} \u{e5fa} \u{f418} \u{ea84}",
        ],
    },
    Sample {
        title: "accents and signs",
        lines: &["äöüß àéîõ çñø ÅÆŒ šžł ğı", "→←↑↓ ✓✗ ≠≤≥ ∞ § € … “”"],
    },
    Sample {
        title: "ligatures",
        lines: &[
            "-> => == != === <= >= :: //",
            "|> <| ++ ** && || ... www fi",
        ],
    },
];

/// The sample of a title.
#[must_use]
pub fn sample(title: &str) -> Option<&'static Sample> {
    SAMPLES.iter().find(|s| s.title == title)
}

/// Every sample with its title.
#[must_use]
pub fn parts() -> Vec<(&'static str, Vec<&'static str>)> {
    SAMPLES
        .iter()
        .map(|s| (s.title, s.lines.to_vec()))
        .collect()
}

/// A text as lines of at most so many cells; clusters stay whole, and its own line ends end lines.
#[must_use]
pub fn broken(text: &str, cells: usize) -> Vec<String> {
    let mut out = Vec::new();
    for line in text.lines() {
        let (mut part, mut taken) = (String::new(), 0);
        for cluster in line.graphemes(true) {
            let wide = width::by_cluster(cluster);
            if taken + wide > cells && !part.is_empty() {
                out.push(std::mem::take(&mut part));
                taken = 0;
            }
            part.push_str(cluster);
            taken += wide;
        }
        out.push(part);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_lines_are_broken_between_clusters() {
        assert_eq!(broken("marsh", 3), ["mar", "sh"]);
        assert_eq!(broken("a字字b\n\nc", 4), ["a字", "字b", "", "c"]);
        assert_eq!(broken("ae\u{301}o", 2), ["ae\u{301}", "o"]);
        assert_eq!(broken("字", 1), ["字"], "what fits nowhere stands alone");
        let longest = parts().into_iter().flat_map(|p| p.1);
        assert!(longest.into_iter().all(|l| broken(l, 40).len() == 1));
    }
}
