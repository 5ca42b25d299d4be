//! The terminals xterm and urxvt: resources of the X server, which a person keeps in `~/.Xresources`.
//!
//! Neither reads that file: a session gives it to the server, from which new windows take it. Lines for all
//! programs (`*color0: …`) are lines of each of them.

use std::ops::Range;

use wealdmist_core::color::{Rgb, parse_spec, x11_color};
use wealdmist_core::property::{Edge, Property};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{FileProblem, ToolId, ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::terminal::Images;
use wealdmist_core::text::visible;
use wealdmist_core::width::Counting;

use crate::access::{Access, Loaded};
use crate::document::resources::{self, INCLUDE, Resources};
use crate::table::{
    Compound, Defaults, End, FontFacts, Fonts, Includes, Means, Padding, Quirks, Sixteen, Size,
    Spelling, Table, Term, Where, Wins, Word, color, key, name, number, own, scrollback, several,
    spelling, word,
};
use crate::{Answers, Live, Reload, Wanted};

const OF_XTERM: Resources = Resources {
    program: ("xterm", "XTerm"),
    widget: Some(("vt100", "VT100")),
    classed: true,
    written: "XTerm*",
};

const OF_URXVT: Resources = Resources {
    program: ("urxvt", "URxvt"),
    widget: None,
    classed: false,
    written: "URxvt.",
};

const PLACES: &[Where] = &[Where::Home(".Xresources"), Where::Home(".Xdefaults")];

const INCLUDES: Option<Includes> = Some(Includes {
    keys: &[INCLUDE],
    patterns: &[],
    wins: Wins::WhereItStands,
    relative: true,
    told: true,
    optional: None,
});

const COLOR: Spelling = Spelling {
    any_case: false,
    read: any_color,
    write: like,
};

const ON: &[(&str, Word)] = &[
    ("true", Word::Says("on")),
    ("false", Word::Says("off")),
    ("on", Word::Says("on")),
    ("off", Word::Says("off")),
    ("yes", Word::Says("on")),
    ("no", Word::Says("off")),
];

/// The same, said of the opposite.
const NOT_ON: &[(&str, Word)] = &[
    ("true", Word::Says("off")),
    ("false", Word::Says("on")),
    ("on", Word::Says("off")),
    ("off", Word::Says("on")),
    ("yes", Word::Says("off")),
    ("no", Word::Says("on")),
];

/// What xterm does by itself.
const BY_ITSELF: [(&str, &str); 18] = [
    ("foreground", "black"),
    ("background", "white"),
    ("color0", "black"),
    ("color1", "red3"),
    ("color2", "green3"),
    ("color3", "yellow3"),
    ("color4", "blue2"),
    ("color5", "magenta3"),
    ("color6", "cyan3"),
    ("color7", "gray90"),
    ("color8", "gray50"),
    ("color9", "red"),
    ("color10", "green"),
    ("color11", "yellow"),
    ("color12", "rgb:5c/5c/ff"),
    ("color13", "magenta"),
    ("color14", "cyan"),
    ("color15", "white"),
];

/// What urxvt does by itself.
const URXVT_BY_ITSELF: [(&str, &str); 18] = [
    ("foreground", "black"),
    ("background", "white"),
    ("color0", "black"),
    ("color1", "red3"),
    ("color2", "green3"),
    ("color3", "yellow3"),
    ("color4", "blue3"),
    ("color5", "magenta3"),
    ("color6", "cyan3"),
    ("color7", "gray90"),
    ("color8", "gray30"),
    ("color9", "red"),
    ("color10", "green"),
    ("color11", "yellow"),
    ("color12", "blue"),
    ("color13", "magenta"),
    ("color14", "cyan"),
    ("color15", "white"),
];

const LIVE: Live = Live {
    answers: Answers::Escapes,
    merges: Some(&["xrdb", "-merge"]),
    ..Live::own(
        Reload::Escapes,
        "colors at once, by escapes to each window; the rest in new windows, from the X server's resources",
    )
};

/// The row of xterm.
pub static XTERM: Table = Table {
    id: ToolId("xterm"),
    kind: "terminal",
    program: "xterm",
    places: PLACES,
    notation: &OF_XTERM,
    includes: INCLUDES,
    keys: &[
        color("foreground", "foreground"),
        color("background", "background"),
        color("cursorColor", "cursor"),
        color("highlightColor", "selection"),
        color("highlightTextColor", "selection-text"),
        own("colorBD", End::Text),
        own("colorIT", End::Text),
        own("colorUL", End::Text),
        own("pointerColor", End::Text),
        key("faceName", Means::Several(&Face)),
        number("faceSize", Property::FontSize),
        several("internalBorder", &Padding::one(&[&[Edge::All]])),
        several("geometry", &Size),
        word("allowTitleOps", Property::TitleSet, ON),
        word("visualBell", Property::BellFlash, ON),
        word("cursorBlink", Property::CursorBlink, ON),
        scrollback("saveLines"),
    ],
    sixteen: Sixteen::Numbered("color"),
    color: COLOR,
    defaults: Defaults {
        known: &BY_ITSELF,
        shipped: None,
    },
    bad_value: "xterm takes black and white instead; write #rrggbb, a name the X server knows, or a number",
    fonts: Fonts::Facts(FontFacts {
        substitutes: "xterm takes another font without a word",
        families_only: true,
        proportional: true,
        own: &[
            (0x23ba, 0x23bd),
            (0x2500, 0x2500),
            (0x2502, 0x2502),
            (0x250c, 0x250c),
            (0x2510, 0x2510),
            (0x2514, 0x2514),
            (0x2518, 0x2518),
            (0x251c, 0x251c),
            (0x2524, 0x2524),
            (0x252c, 0x252c),
            (0x2534, 0x2534),
            (0x253c, 0x253c),
            (0x2592, 0x2592),
            (0x25c6, 0x25c6),
        ],
    }),
    term: Term {
        key: Some("termName"),
        own: "xterm",
        full_color: false,
        images: Images::None,
        counts: Counting::CodePoints,
    },
    live: LIVE,
    quirks: Quirks {
        is_its: |bytes| is_its(&OF_XTERM, bytes),
        named: resources::named,
        problems: |table, report, access| problems(&OF_XTERM, table, report, access),
        ..Quirks::NONE
    },
};

/// The row of urxvt.
pub static URXVT: Table = Table {
    id: ToolId("urxvt"),
    kind: "terminal",
    program: "urxvt",
    places: PLACES,
    notation: &OF_URXVT,
    includes: INCLUDES,
    keys: &[
        color("foreground", "foreground"),
        color("background", "background"),
        color("cursorColor", "cursor"),
        color("cursorColor2", "cursor-text"),
        color("highlightColor", "selection"),
        color("highlightTextColor", "selection-text"),
        own("colorBD", End::Text),
        own("colorIT", End::Text),
        own("colorUL", End::Text),
        own("underlineColor", End::Text),
        own("scrollColor", End::Text),
        own("borderColor", End::Ground),
        key("font", Means::Several(&Fontset)),
        several("internalBorder", &Padding::one(&[&[Edge::All]])),
        name("title", Property::Title),
        word("skipBuiltinGlyphs", Property::FontOwnLines, NOT_ON),
        several("geometry", &Size),
        word("visualBell", Property::BellFlash, ON),
        word("cursorBlink", Property::CursorBlink, ON),
        scrollback("saveLines"),
    ],
    sixteen: Sixteen::Numbered("color"),
    color: Spelling {
        read: |text| any_color(without_share(text)),
        ..COLOR
    },
    defaults: Defaults {
        known: &URXVT_BY_ITSELF,
        shipped: None,
    },
    bad_value: "urxvt draws pink instead; write #rrggbb, a name the X server knows, or a number",
    fonts: Fonts::Facts(FontFacts {
        substitutes: "urxvt takes another font without a word",
        families_only: true,
        proportional: true,
        own: &[(0x2500, 0x259f)],
    }),
    term: Term {
        key: Some("termName"),
        own: "rxvt-unicode-256color",
        full_color: false,
        images: Images::None,
        counts: Counting::CodePoints,
    },
    live: LIVE,
    quirks: Quirks {
        is_its: |bytes| is_its(&OF_URXVT, bytes),
        named: resources::named,
        problems: |table, report, access| problems(&OF_URXVT, table, report, access),
        ..Quirks::NONE
    },
};

/// Lines that reach nothing, and a file that is not read beside the other.
fn problems(
    resources: &Resources,
    table: &Table,
    report: &ToolReport,
    access: &dyn Access,
) -> Vec<FileProblem> {
    let mut out = Vec::new();
    for file in &report.files {
        out.extend(Resources::no_commands(&file.bytes).into_iter().map(|at| {
            let word = visible(&file.bytes[at.clone()]);
            FileProblem {
                path: file.path.clone(),
                at: Some(file.position(at.start)),
                message: format!("'#' begins a command to the preprocessor, and '{word}' is none"),
                help: "begin a comment with !".to_owned(),
                blocks_edits: false,
            }
        }));
        for (at, would) in resources.idle(&file.bytes) {
            let pattern = String::from_utf8_lossy(&file.bytes[at.clone()]);
            let key = would.rsplit('*').next().unwrap_or_default();
            if table.role_of(key).is_none() && table.keys.iter().all(|k| k.path != key) {
                continue;
            }
            out.push(FileProblem {
                path: file.path.clone(),
                at: Some(file.position(at.start)),
                message: format!("{pattern} reaches nothing of {}", table.program),
                help: format!("write {would}"),
                blocks_edits: false,
            });
        }
    }
    let [first, other] = [".Xresources", ".Xdefaults"].map(|name| access.home().join(name));
    let is_other = access.read(&other) != Loaded::Missing;
    if report.files.first().is_some_and(|file| file.path == first) && is_other {
        out.push(FileProblem {
            path: other,
            at: None,
            message:
                "programs do not read this file where a session gives ~/.Xresources to the X server"
                    .to_owned(),
            help: "keep all resources in ~/.Xresources".to_owned(),
            blocks_edits: false,
        });
    }
    out
}

/// Whether a file has a line for one of the programs.
fn is_its(resources: &Resources, bytes: &[u8]) -> bool {
    let text = String::from_utf8_lossy(bytes);
    let patterns = text.lines().filter_map(|line| line.split_once(':'));
    let mut patterns = patterns.map(|(pattern, _)| pattern.trim());
    patterns.any(|pattern| resources.names_it(pattern))
}

fn any_color(text: &str) -> Option<Rgb> {
    parse_spec(text).or_else(|| x11_color(text))
}

/// A color like the one that stood there, which may be less than whole to be seen.
fn like(color: Rgb, old: Option<&str>) -> Code {
    let Some(old) = old else {
        return Code::color(color);
    };
    let share = &old[..old.len() - without_share(old).len()];
    let rest = Some(without_share(old)).filter(|rest| rest.starts_with('#'));
    let said = spelling::like(color, rest);
    Code::join([&Code::kept(share.as_bytes()), &said], "")
}

/// A color without how much of it is to be seen: `[80]#102030`.
fn without_share(text: &str) -> &str {
    let share = text.strip_prefix('[').and_then(|rest| rest.split_once(']'));
    match share {
        Some((digits, color)) if digits.bytes().all(|b| b.is_ascii_digit()) => color,
        _ => text,
    }
}

/// The family at the begin of a font pattern, which may say whose font it is.
fn family(text: &str) -> Range<usize> {
    let rest = text.trim_start();
    let rest = rest.strip_prefix(SYSTEM).unwrap_or(rest);
    let start = text.len() - rest.len();
    let mut escaped = false;
    let end = text[start..].char_indices().find(|(_, c)| {
        let ends = matches!(c, ':' | ',' | '-') && !escaped;
        escaped = *c == '\\' && !escaped;
        ends
    });
    let end = end.map_or(text.len(), |(at, _)| start + at);
    start..start + text[start..end].trim_end().len()
}

/// A font pattern whose family is the font.
struct Face;

impl Compound for Face {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let at = family(text);
        let said = Value::Text(text[at.clone()].replace('\\', ""));
        match at.is_empty() {
            true => Vec::new(),
            false => vec![(Property::FontFamily.into(), said, at)],
        }
    }

    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>> {
        let chosen = wanted.setup.font.family.as_ref()?;
        let with = quote(chosen, &[Quoting::FontPattern, quoting])?;
        Some(vec![(family(text), with)])
    }

    fn holds(&self) -> &'static [Property] {
        &[Property::FontFamily]
    }
}

/// Fonts one of which has a character, each with `xft:` before it; what has none is a font of the X server.
struct Fontset;

/// What says that a font is one of the system's.
const SYSTEM: &str = "xft:";

impl Fontset {
    /// The fonts, each without what says whose it is.
    fn fonts(text: &str) -> Vec<Range<usize>> {
        let mut out = Vec::new();
        let mut at = 0;
        for piece in text.split(',') {
            let blanks = piece.len() - piece.trim_start().len();
            let start = at + blanks;
            let end = at + piece.len();
            // Before it stands at most a share of what is to be seen.
            let rest = without_share(text[start..end].trim_end());
            if let Some(font) = rest.strip_prefix(SYSTEM) {
                let start = start + text[start..end].find(SYSTEM).unwrap_or(0) + SYSTEM.len();
                out.push(start..start + font.len());
            }
            at = end + 1;
        }
        out
    }

    /// The size in a pattern.
    fn size(text: &str, font: &Range<usize>) -> Option<Range<usize>> {
        let at = text[font.clone()].find(":size=")? + font.start + ":size=".len();
        let rest = &text[at..font.end];
        Some(at..at + rest.find(':').unwrap_or(rest.len()))
    }
}

impl Compound for Fontset {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let mut out = Vec::new();
        let fonts = Self::fonts(text);
        if fonts.is_empty() {
            // A font of the server's.
            let said = Value::Text(text.to_owned());
            return vec![(Property::FontFamily.into(), said, 0..text.len())];
        }
        for (i, font) in fonts.into_iter().enumerate() {
            let own = family(&text[font.clone()]);
            let at = font.start + own.start..font.start + own.end;
            let role = match i {
                0 => Property::FontFamily,
                _ => Property::FontFallback,
            };
            let said = text[at.clone()].replace('\\', "");
            out.push((role.into(), Value::Text(said), at));
            if let Some(at) = Self::size(text, &font).filter(|_| i == 0)
                && let Ok(size) = text[at.clone()].parse()
            {
                out.push((Property::FontSize.into(), Value::Number(size), at));
            }
        }
        out
    }

    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>> {
        let font = &wanted.setup.font;
        let quoted = |text: &str| quote(text, &[Quoting::FontPattern, quoting]);
        let fonts = Self::fonts(text);
        let Some(first) = fonts.first() else {
            // A font of the server's cannot be drawn in another size: a list of its own takes its place.
            let mut out = Code::of("xft:{}", &[&quoted(font.family.as_ref()?)?]);
            if let Some(size) = font.size {
                out.push(&Code::of(":size={}", &[&Code::short_number(size)]));
            }
            for family in &font.fallback {
                out.push(&Code::of(",xft:{}", &[&quoted(family)?]));
            }
            return Some(vec![(0..text.len(), out)]);
        };
        let mut out = Vec::new();
        let own = family(&text[first.clone()]);
        if let Some(chosen) = &font.family {
            let at = first.start + own.start..first.start + own.end;
            out.push((at, quoted(chosen)?));
        }
        if let Some(size) = font.size.map(Code::short_number) {
            match Self::size(text, first) {
                Some(at) => out.push((at, size)),
                None => out.push((first.end..first.end, Code::of(":size={}", &[&size]))),
            }
        }
        let now: Vec<String> = fonts[1..]
            .iter()
            .map(|f| text[f.clone()][family(&text[f.clone()])].replace('\\', ""))
            .collect();
        if !font.fallback.is_empty() && now != font.fallback {
            let mut rest = Code::default();
            for family in &font.fallback {
                rest.push(&Code::of(",xft:{}", &[&quoted(family)?]));
            }
            out.push((first.end..text.len(), rest));
        }
        out.retain(|(at, with)| **with != *text[at.clone()].as_bytes());
        out.sort_by_key(|c| (c.0.start, c.0.end));
        Some(out)
    }

    fn holds(&self) -> &'static [Property] {
        &[
            Property::FontFamily,
            Property::FontSize,
            Property::FontFallback,
        ]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use crate::testing::{catalog, planned_with};

    fn after(text: &str, setup: &str) -> String {
        let home = MemoryAccess::with(&[(".Xresources", text)]);
        let changed = planned_with(&XTERM, &home, setup, Some(&catalog()));
        let changed = changed.into_iter().find(|f| f.0.ends_with(".Xresources"));
        changed.map_or_else(|| text.to_owned(), |f| f.1)
    }

    #[test]
    fn what_several_share_is_written_where_each_names_it() {
        let text = "#define base #101010\n#define ink #d0d0d0\nXTerm*background: base\n*color0:\tbase\nXTerm*foreground: ink\n";
        let setup = "[palettes.a]\nbackground='#101010'\nblack='#202020'\nforeground='#c0c0c0'\n";
        let out = after(text, setup);
        let begin = "#define base #101010\n#define ink #c0c0c0\nXTerm*background: base\n*color0:\t#202020\nXTerm*foreground: ink\n";
        assert!(out.starts_with(begin), "{out}");
        assert_eq!(after(&out, setup), out);
        // Where both want the same, it is changed once.
        let setup = setup.replace("'#101010'", "'#202020'");
        let begin = begin
            .replace("base #101010", "base #202020")
            .replace("\t#202020", "\tbase");
        let out = after(text, &setup);
        assert!(out.starts_with(&begin), "{out}");
    }

    #[test]
    fn what_reaches_nothing_is_told() {
        let text = "XTerm.background: #101010\nXTerm.title: x\nXTerm*color1: #a04040 ! c\n";
        let home = MemoryAccess::with(&[(".Xresources", text), (".Xdefaults", "")]);
        let report = crate::Adapter::read(&XTERM, &home, &mut crate::Facts::default());
        let line = |p: &FileProblem| p.at.map(|at| at.line);
        let lines: Vec<_> = report.problems.iter().map(line).collect();
        assert_eq!(lines, [Some(3), Some(1), None], "{:?}", report.problems);
        assert_eq!(report.problems[1].help, "write XTerm*background");
        // Without a part between it is right for the other program.
        let text = "URxvt.background: #101010\n";
        let home = MemoryAccess::with(&[(".Xresources", text)]);
        let report = crate::Adapter::read(&URXVT, &home, &mut crate::Facts::default());
        assert!(report.problems.is_empty(), "{:?}", report.problems);
    }

    #[test]
    fn fonts_are_changed_in_their_patterns() {
        let setup = "[palettes.a]\n[font]\nfamily='Reedbed Mono'\nsize=13\n";
        let text = "XTerm*faceName: xft:DejaVu Sans Mono:style=Book\nXTerm*faceSize: 9\n";
        let out = after(text, setup);
        let wanted = "XTerm*faceName: xft:Reedbed Mono:style=Book\nXTerm*faceSize: 13.0\n";
        assert!(out.starts_with(wanted), "{out}");
        for (text, wanted) in [
            (
                "xft:Old Mono:size=9:bold,[60]xft:Sedge",
                "xft:Reedbed Mono:size=13:bold,[60]xft:Sedge",
            ),
            ("[90]xft:Old", "[90]xft:Reedbed Mono:size=13"),
            ("fixed", "xft:Reedbed Mono:size=13"),
        ] {
            let home = MemoryAccess::with(&[(".Xresources", &format!("URxvt.font: {text}\n"))]);
            let changed = planned_with(&URXVT, &home, setup, Some(&catalog()));
            let line = format!("URxvt.font: {wanted}\n");
            assert!(changed[0].1.starts_with(&line), "{}", changed[0].1);
        }
    }
}
