//! What icons are used for, and the signs that mean the same at every symbol level.

/// A meaning with its signs.
#[derive(Debug)]
pub struct Meaning {
    /// Words that are said of it.
    pub words: &'static str,
    /// Its icons, the present code point first.
    pub icons: &'static [char],
    /// A sign that ordinary fonts have.
    pub plain: &'static str,
    /// The same in ASCII; empty where there is none.
    pub ascii: &'static str,
}

/// Common jobs of icons in prompts and bars. Code points are those of the icon table; plain signs
/// are ones that ordinary monospace fonts have.
#[rustfmt::skip]
pub static MEANINGS: &[Meaning] = &[
    Meaning { words: "branch git fork", icons: &['\u{e0a0}', '\u{e725}', '\u{f126}', '\u{f418}', '\u{f062c}'], plain: "↳", ascii: "@" },
    Meaning { words: "folder directory", icons: &['\u{f07b}', '\u{f07c}', '\u{e5ff}', '\u{f024b}'], plain: "▸", ascii: "/" },
    Meaning { words: "home", icons: &['\u{f015}', '\u{f46d}', '\u{f02dc}', '\u{eb06}'], plain: "⌂", ascii: "~" },
    Meaning { words: "edit modified changed pencil dirty", icons: &['\u{f040}', '\u{f044}', '\u{f03eb}'], plain: "±", ascii: "*" },
    Meaning { words: "error cross close failed no", icons: &['\u{f00d}', '\u{f467}', '\u{f0156}'], plain: "✗", ascii: "x" },
    Meaning { words: "check ok done yes", icons: &['\u{f00c}', '\u{f42e}', '\u{f012c}'], plain: "✓", ascii: "+" },
    Meaning { words: "warning alert attention", icons: &['\u{f071}', '\u{f421}', '\u{f0026}'], plain: "!", ascii: "!" },
    Meaning { words: "info hint note", icons: &['\u{f05a}', '\u{f449}', '\u{f02fc}'], plain: "i", ascii: "i" },
    Meaning { words: "clock time duration", icons: &['\u{f017}', '\u{f43a}', '\u{f0150}'], plain: "◷", ascii: "" },
    Meaning { words: "calendar date day", icons: &['\u{f073}', '\u{f455}', '\u{f00ed}'], plain: "▦", ascii: "" },
    Meaning { words: "terminal console prompt shell", icons: &['\u{f120}', '\u{e795}', '\u{f489}', '\u{f018d}'], plain: "▶", ascii: ">" },
    Meaning { words: "power bolt battery charge", icons: &['\u{f0e7}', '\u{f0241}'], plain: "↯", ascii: "!" },
    Meaning { words: "bell activity notification", icons: &['\u{f0f3}', '\u{f009a}'], plain: "◉", ascii: "!" },
    Meaning { words: "lock readonly private root", icons: &['\u{f023}', '\u{f456}', '\u{f033e}'], plain: "⊘", ascii: "^" },
    Meaning { words: "zoom search magnify find", icons: &['\u{f00e}', '\u{f002}', '\u{f034a}', '\u{f0349}'], plain: "◎", ascii: "Z" },
    Meaning { words: "cpu processor load", icons: &['\u{f2db}', '\u{f4bc}', '\u{f061a}'], plain: "▣", ascii: "" },
    Meaning { words: "disk drive storage", icons: &['\u{f0a0}', '\u{f02ca}'], plain: "▤", ascii: "" },
    Meaning { words: "water level drop", icons: &['\u{f043}', '\u{e373}', '\u{f058c}'], plain: "◆", ascii: "~" },
    Meaning { words: "solid separator right", icons: &['\u{e0b0}', '\u{e0b4}', '\u{e0b8}', '\u{e0bc}', '\u{e0c0}', '\u{e0c6}', '\u{e0c8}'], plain: "▌", ascii: "" },
    Meaning { words: "solid separator left", icons: &['\u{e0b2}', '\u{e0b6}', '\u{e0ba}', '\u{e0be}', '\u{e0c2}', '\u{e0c7}', '\u{e0ca}'], plain: "▐", ascii: "" },
    Meaning { words: "thin separator", icons: &['\u{e0b1}', '\u{e0b3}', '\u{e0b5}', '\u{e0b7}', '\u{e0b9}', '\u{e0bb}', '\u{e0bd}', '\u{e0bf}'], plain: "│", ascii: "|" },
];

/// The icons of every meaning that all words speak of.
pub fn meanings_of<'a>(words: &'a [&str]) -> impl Iterator<Item = Vec<char>> + 'a {
    let answers = move |m: &&Meaning| {
        words.iter().all(|w| {
            m.words
                .split(' ')
                .any(|own| own == *w || (w.len() > 3 && own.starts_with(w)))
        })
    };
    MEANINGS.iter().filter(answers).map(|m| m.icons.to_vec())
}
