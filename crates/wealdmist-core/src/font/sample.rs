//! The lines on which faces are compared.

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
