//! What is wrong with a glyph in use: against the chosen face, its fallbacks, its cell, and those
//! who count cells.

use std::collections::BTreeSet;
use std::fmt;

use crate::character::{SymbolLevel, is_invisible, is_private_use, is_symbol, level};
use crate::font::fit::{Edge, Misfit, misfits};
use crate::font::{ChosenFont, HostFont};
use crate::icon::{self, State};
use crate::reading::{GlyphUse, ToolId};
use crate::terminal::TerminalRecord;
use crate::text::listed;
use crate::width;
use crate::width::Counting;

/// One thing true of a glyph in use.
#[derive(Debug, Clone, PartialEq)]
pub enum Verdict {
    /// The font has it, and it fits.
    There,
    /// The terminal draws it itself.
    SelfDrawn,
    /// It needs no glyph.
    Invisible,
    /// Only another installed font has it; tools that fall back draw it from that one.
    Fallback(String),
    /// It is an icon, and the face it comes from has hardly any icons of that range: how many, and of
    /// how many.
    Stranger(usize, usize),
    /// The dotfiles take it from a family of their own.
    Mapped {
        /// The family.
        family: String,
        /// Whether that is installed and has it.
        has: bool,
    },
    /// Nothing has it.
    Missing,
    /// Nothing has it here: it was an icon's place in an older release, which is now there.
    Moved(char),
    /// A private-use code point no known range explains.
    UnknownPrivate,
    /// It is above the symbol level that is set.
    AboveLevel(SymbolLevel),
    /// Terminal and shell count different cells.
    WidthDisputed {
        /// What the terminal takes.
        terminal: usize,
        /// What a shell that adds up code points counts.
        shell: usize,
    },
    /// It is a picture, drawn two cells wide.
    Emoji,
    /// Its ink leaves its cell: on the left and right, in cell widths.
    Leaves(f32, f32),
    /// Its ink reaches that of the next character.
    Touches(char),
    /// It stops short of an edge it must meet, by so much of the cell.
    Seam(Edge, f32),
    /// The person saw this terminal draw it wrongly.
    MarkedWrong,
    /// The font is not known.
    NotKnown,
}

impl Verdict {
    /// Whether something is to be done about it.
    #[must_use]
    pub const fn is_problem(&self) -> bool {
        !matches!(
            self,
            Self::There
                | Self::SelfDrawn
                | Self::Mapped { has: true, .. }
                | Self::Invisible
                | Self::NotKnown
                | Self::Fallback(_)
                | Self::Emoji
        )
    }

    /// Whether it needs attention at all.
    #[must_use]
    pub const fn is_note(&self) -> bool {
        matches!(self, Self::Fallback(_) | Self::Emoji)
    }

    /// In one or two words, for lists.
    #[must_use]
    pub const fn label(&self) -> &'static str {
        match self {
            Self::There => "there",
            Self::SelfDrawn => "terminal draws it",
            Self::Invisible => "not drawn",
            Self::Fallback(_) => "by fallback",
            Self::Stranger(..) => "doubtful",
            Self::Mapped { has: true, .. } => "mapped",
            Self::Mapped { .. } => "mapped wrong",
            Self::Missing => "missing",
            Self::Moved(_) => "moved",
            Self::UnknownPrivate => "unknown private",
            Self::AboveLevel(_) => "above the level",
            Self::WidthDisputed { .. } => "width disputed",
            Self::Emoji => "two cells",
            Self::Leaves(..) => "too wide",
            Self::Touches(_) => "touches next",
            Self::Seam(..) => "leaves a seam",
            Self::MarkedWrong => "marked wrong",
            Self::NotKnown => "not known",
        }
    }
}

impl fmt::Display for Verdict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let percent = |share: &f32| (share * 100.0).round();
        match self {
            Self::There => f.write_str("is in the font and fits"),
            Self::SelfDrawn => {
                f.write_str("is drawn by the terminal itself, whatever the font has")
            }
            Self::Invisible => f.write_str("is not drawn"),
            Self::Fallback(family) => write!(
                f,
                "is not in the chosen font but in '{family}', which tools fall back to"
            ),
            Self::Stranger(has, of) => write!(
                f,
                "comes from a font with {has} of the {of} icons of that range, so another sign may stand there"
            ),
            Self::Mapped { family, has: true } => {
                write!(f, "is taken from '{family}', as the dotfiles say")
            }
            Self::Mapped { family, .. } => write!(
                f,
                "is taken from '{family}' by the dotfiles, which is not installed or lacks it: a box is shown"
            ),
            Self::Missing => f.write_str("is in no installed font: a box is shown"),
            Self::Moved(to) => write!(
                f,
                "was an icon in an older release and is at U+{:04X} now",
                *to as u32
            ),
            Self::UnknownPrivate => {
                f.write_str("is private use, and no known range of icons explains it")
            }
            Self::AboveLevel(most) => write!(f, "is above the symbol level '{}'", most.key()),
            Self::WidthDisputed { terminal, shell } => write!(
                f,
                "takes {terminal} cell{} on the terminal, and {shell} by the code points that shells add up",
                if *terminal == 1 { "" } else { "s" }
            ),
            Self::Emoji => f.write_str("is a picture two cells wide"),
            Self::Leaves(left, right) => {
                f.write_str("has ink outside its cell:")?;
                if *left > 0.0 {
                    write!(f, " {} % of a cell on the left", percent(left))?;
                }
                if *right > 0.0 {
                    write!(f, " {} % of a cell on the right", percent(right))?;
                }
                Ok(())
            }
            Self::Touches(next) => write!(
                f,
                "touches the '{}' behind it",
                crate::text::visible_with(&next.to_string(), false)
            ),
            Self::Seam(edge, short) => write!(
                f,
                "stops {} % short of the {} edge it must meet: a seam shows",
                percent(short).max(1.0),
                edge.label()
            ),
            Self::MarkedWrong => f.write_str("was marked: this terminal draws it wrongly"),
            Self::NotKnown => f.write_str("cannot be looked up before the font is found"),
        }
    }
}

/// A verdict, and where it holds.
#[derive(Debug, Clone, PartialEq)]
pub struct Held {
    /// The verdict.
    pub verdict: Verdict,
    /// The terminals in which it holds; none where it holds in all.
    pub only: Vec<ToolId>,
}

impl fmt::Display for Held {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.verdict.fmt(f)?;
        if !self.only.is_empty() {
            let only: Vec<&str> = self.only.iter().map(|t| t.0).collect();
            write!(f, " (in {})", listed(&only))?;
        }
        Ok(())
    }
}

/// What is said of one glyph in use.
#[derive(Debug, Clone, PartialEq)]
pub struct Judged {
    /// Everything that holds, the worst first; at least one.
    pub verdicts: Vec<Held>,
    /// Something worth knowing beside it.
    pub note: Option<String>,
}

impl Judged {
    /// The worst.
    #[must_use]
    pub fn worst(&self) -> &Verdict {
        &self.verdicts[0].verdict
    }

    /// The worst in one terminal.
    #[must_use]
    pub fn worst_in(&self, host: ToolId) -> Option<&Verdict> {
        let holds = |h: &&Held| h.only.is_empty() || h.only.contains(&host);
        self.verdicts.iter().find(holds).map(|h| &h.verdict)
    }

    /// The terminals that differ.
    #[must_use]
    pub fn hosts(&self) -> BTreeSet<ToolId> {
        let all = self.verdicts.iter().flat_map(|h| &h.only);
        all.copied().collect()
    }

    /// Whether something is to be done.
    #[must_use]
    pub fn is_problem(&self) -> bool {
        self.worst().is_problem()
    }

    /// Whether another sign mends what is wrong, as it does not for a seam or a disputed width.
    #[must_use]
    pub fn is_mended_by_a_sign(&self) -> bool {
        use Verdict::{Leaves, MarkedWrong, Missing, Moved, UnknownPrivate};
        self.verdicts.iter().any(|h| {
            matches!(
                h.verdict,
                Missing | Moved(_) | UnknownPrivate | MarkedWrong | Leaves(..)
            )
        })
    }
}

/// Judges a glyph in use by a tool, in every terminal in which it is seen. `most` is the symbol level
/// of the tool; `measured` what is known of the terminal we are in, which holds where nothing was measured of one
/// itself.
#[must_use]
pub fn judge(
    used: &GlyphUse,
    tool: ToolId,
    font: Option<&ChosenFont>,
    most: SymbolLevel,
    measured: Option<&TerminalRecord>,
) -> Judged {
    let everywhere = |verdict| Held {
        verdict,
        only: Vec::new(),
    };
    if is_invisible(used.character) && used.cluster.chars().all(is_invisible) {
        return Judged {
            verdicts: vec![everywhere(Verdict::Invisible)],
            note: None,
        };
    }
    let mut verdicts = match font {
        None => {
            let mut out = vec![Verdict::NotKnown];
            drawn(used, measured, Counting::Clusters, &mut out);
            out.into_iter().map(everywhere).collect()
        }
        Some(font) => in_hosts(used, font, font.seen_by(tool), measured),
    };
    let mut common = Vec::new();
    let needed = used
        .cluster
        .chars()
        .filter(|c| is_symbol(*c))
        .map(level)
        .max();
    if needed.is_some_and(|n| n > most) {
        common.push(Verdict::AboveLevel(most));
    }
    verdicts.extend(common.into_iter().map(everywhere));
    verdicts.sort_by_key(|held| severity(&held.verdict));
    let note = note(used, font);
    Judged { verdicts, note }
}

/// What the font comes to in each terminal: what is said of several stands once.
fn in_hosts(
    used: &GlyphUse,
    font: &ChosenFont,
    hosts: &[HostFont],
    ours: Option<&TerminalRecord>,
) -> Vec<Held> {
    let mut out: Vec<Held> = Vec::new();
    // A terminal that has no dotfiles here may show all of them.
    let is_here = |record: &TerminalRecord| font.hosts.iter().any(|h| record.holds_in(h.host));
    for host in hosts {
        let ours = ours.filter(|record| record.holds_in(host.host) || !is_here(record));
        let mut verdicts = Vec::new();
        presence(used, font, host, &mut verdicts);
        if let Some((has, of)) = host.strangers.get(&used.character) {
            verdicts.push(Verdict::Stranger(*has, *of));
        }
        fit(used, font, host, &mut verdicts);
        let measured = host.measured.as_ref().or(ours);
        drawn(used, measured, host.counts, &mut verdicts);
        for verdict in verdicts {
            let only = host.host.into_iter();
            match out.iter_mut().find(|held| held.verdict == verdict) {
                Some(held) => held.only.extend(only),
                None => out.push(Held {
                    verdict,
                    only: only.collect(),
                }),
            }
        }
    }
    for held in out.iter_mut().filter(|h| h.only.len() == hosts.len()) {
        held.only.clear();
    }
    out
}

/// The order in which verdicts are told, the worst first.
fn severity(verdict: &Verdict) -> u8 {
    match verdict {
        Verdict::Missing | Verdict::Moved(_) | Verdict::Mapped { has: false, .. } => 0,
        Verdict::MarkedWrong => 1,
        Verdict::UnknownPrivate | Verdict::Stranger(..) => 2,
        Verdict::AboveLevel(_) => 3,
        Verdict::WidthDisputed { .. } => 4,
        Verdict::Leaves(..) => 5,
        Verdict::Seam(..) => 6,
        Verdict::Touches(_) => 7,
        Verdict::Fallback(_) => 8,
        Verdict::Emoji => 9,
        Verdict::NotKnown => 10,
        Verdict::SelfDrawn | Verdict::Mapped { .. } => 11,
        Verdict::There | Verdict::Invisible => 12,
    }
}

fn presence(used: &GlyphUse, font: &ChosenFont, host: &HostFont, out: &mut Vec<Verdict>) {
    let c = used.character;
    let all = used.cluster.chars().filter(|c| !is_invisible(*c));
    let known = !is_private_use(c) || !icon::at(c).is_empty();
    if host.is_self_drawn(c) {
        out.push(Verdict::SelfDrawn);
    } else if let Some(map) = host.map(c) {
        let (family, has) = (map.family.clone(), map.has(c));
        match icon::formerly_at(c).map(|i| i.state) {
            // An icon that has moved is missed at its old place, whoever is asked for it.
            Some(State::Moved(to)) if !has => out.push(Verdict::Moved(to)),
            _ => out.push(Verdict::Mapped { family, has }),
        }
    } else if all.clone().all(|c| font.coverage.has(c)) {
        out.push(Verdict::There);
        if !known {
            out.push(Verdict::UnknownPrivate);
        }
    } else if let Some(State::Moved(to)) = icon::formerly_at(c)
        .map(|i| i.state)
        .filter(|_| !host.elsewhere.contains_key(&c) || font.coverage.has(c))
    {
        out.push(Verdict::Moved(to));
    } else if let Some(elsewhere) = host.elsewhere.get(&c) {
        out.push(Verdict::Fallback(elsewhere.family.clone()));
    } else {
        out.push(Verdict::Missing);
        if !known {
            out.push(Verdict::UnknownPrivate);
        }
    }
}

/// What a terminal makes of it, whatever the font: how it looked, and the cells it takes.
fn drawn(
    used: &GlyphUse,
    measured: Option<&TerminalRecord>,
    counts: Counting,
    out: &mut Vec<Verdict>,
) {
    if measured.is_some_and(|m| m.is_marked_wrong(&used.cluster)) {
        out.push(Verdict::MarkedWrong);
    }
    let shell = width::by_code_points(&used.cluster);
    let terminal = measured
        .and_then(|m| m.width(&used.cluster))
        .unwrap_or_else(|| counts.cells(&used.cluster));
    if terminal != shell {
        out.push(Verdict::WidthDisputed { terminal, shell });
    }
    if terminal > 1 && width::is_emoji_presentation(&used.cluster) {
        out.push(Verdict::Emoji);
    }
}

fn fit(used: &GlyphUse, font: &ChosenFont, host: &HostFont, out: &mut Vec<Verdict>) {
    let c = used.character;
    let Some(ink) = font
        .inks
        .get(&c)
        .filter(|_| !host.is_self_drawn(c) && host.map(c).is_none())
    else {
        return;
    };
    let next = used.after.filter(|n| !is_invisible(*n));
    let mut cells = host.counts.cells(&used.cluster).max(1);
    if host.widens
        && is_private_use(c)
        && used.after == Some(' ')
        && crate::font::fit::must_meet(c).is_none()
    {
        cells = cells.max(2);
    }
    let beside = next.and_then(|n| Some((n, font.inks.get(&n)?)));
    for misfit in misfits(c, ink, cells, beside) {
        out.push(match misfit {
            Misfit::Leaves { left, right } => Verdict::Leaves(left, right),
            Misfit::Touches(next) => Verdict::Touches(next),
            Misfit::Seam(edge, short) => Verdict::Seam(edge, short),
        });
    }
}

/// What a person may want to know although nothing is wrong.
fn note(used: &GlyphUse, font: Option<&ChosenFont>) -> Option<String> {
    let c = used.character;
    let has = font.is_some_and(|f| f.covers(c));
    if let (Some(old), Some(now), true) = (icon::formerly_at(c), icon::present_at(c), has) {
        return Some(format!(
            "this is '{}' today; until release 2 of the icons '{}' was here{}",
            now.name,
            old.name,
            match old.state {
                State::Moved(to) => format!(", which is at U+{:04X} now", to as u32),
                _ => String::new(),
            }
        ));
    }
    width::is_ambiguous(c)
        .then(|| "terminals set for East Asian text draw it two cells wide".to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::fonts;
    use crate::font::{Elsewhere, Entry, Map, Typeface, coverage, faces, fit};
    use crate::reading::Place;
    use crate::text::Position;
    use std::ops::RangeInclusive;
    use std::path::Path;
    use std::sync::Arc;

    const SHELL: ToolId = ToolId("shell");

    fn chosen(bytes: &[u8]) -> ChosenFont {
        let face = Typeface::open(Arc::new(bytes.to_vec()), 0).unwrap();
        let cell = face.cell();
        let coverage = coverage(bytes, 0).unwrap();
        ChosenFont {
            path: "f".into(),
            info: faces(bytes).unwrap().remove(0),
            inks: fit::inks(&face, &cell, coverage.characters()),
            cell,
            coverage,
            hosts: vec![HostFont {
                host: None,
                elsewhere: ['字', '\u{f1ff}']
                    .map(|c| {
                        let elsewhere = Elsewhere {
                            family: "Marsh Sans".to_owned(),
                            path: "/f/marsh.ttf".into(),
                            index: 0,
                        };
                        (c, elsewhere)
                    })
                    .into(),
                strangers: [('\u{f1ff}', (3, 768))].into(),
                self_drawn: vec![0x2500..=0x257f],
                maps: Vec::new(),
                widens: true,
                measured: None,
                counts: Counting::Clusters,
            }],
        }
    }

    fn used(cluster: &str, after: Option<char>) -> GlyphUse {
        let at = Position { line: 1, column: 1 };
        GlyphUse {
            character: cluster.chars().find(|c| !c.is_ascii()).unwrap(),
            cluster: cluster.to_owned(),
            place: Place {
                path: Path::new("/f").into(),
                span: 0..1,
                at,
            },
            escape: None,
            after,
            in_comment: false,
        }
    }

    fn labels(cluster: &str, after: Option<char>, font: &ChosenFont) -> Vec<&'static str> {
        let judged = judge(
            &used(cluster, after),
            SHELL,
            Some(font),
            SymbolLevel::Icons,
            None,
        );
        judged.verdicts.iter().map(|h| h.verdict.label()).collect()
    }

    #[test]
    fn what_was_seen_in_one_terminal_holds_in_that_one() {
        let (one, other) = (ToolId("kitty"), ToolId("foot"));
        let mut font = chosen(&fonts::complete());
        let mut second = font.hosts[0].clone();
        font.hosts[0].host = Some(one);
        second.host = Some(other);
        font.hosts.push(second);
        let wrong = |host: Option<ToolId>| TerminalRecord {
            host: host.map(|h| h.0.to_owned()),
            wrong: ["\u{e725}".to_owned()].into(),
            widths: [("\u{e725}".to_owned(), 2)].into(),
            ..TerminalRecord::default()
        };
        let only = |font: &ChosenFont, ours: Option<TerminalRecord>| {
            let icon = used("\u{e725}", None);
            let said = judge(&icon, SHELL, Some(font), SymbolLevel::Icons, ours.as_ref());
            let held = |label: &str| {
                let found = said.verdicts.iter().find(|h| h.verdict.label() == label);
                found.map(|h| h.only.clone())
            };
            let both = held("marked wrong");
            assert_eq!(both, held("width disputed"), "seen and measured at once");
            both
        };
        assert_eq!(only(&font, None), None);
        assert_eq!(only(&font, Some(wrong(Some(one)))), Some(vec![one]));
        assert_eq!(
            only(&font, Some(wrong(None))),
            Some(vec![]),
            "nobody knows where"
        );
        let elsewhere = wrong(Some(ToolId("konsole")));
        assert_eq!(
            only(&font, Some(elsewhere)),
            Some(vec![]),
            "it has no dotfiles here"
        );
        // What was measured of a terminal itself counts, wherever we are now.
        font.hosts[1].measured = Some(wrong(Some(other)));
        assert_eq!(only(&font, None), Some(vec![other]));
    }

    #[test]
    fn each_fault_has_its_verdict() {
        let good = chosen(&fonts::complete());
        assert_eq!(labels("\u{e725}", None, &good), ["there"]);
        assert_eq!(labels("字", None, &good), ["by fallback"]);
        let bare = chosen(&fonts::without_icons());
        assert_eq!(labels("\u{f1ff}", None, &bare), ["doubtful", "by fallback"]);
        assert_eq!(labels("ж", None, &good), ["missing"]);
        assert_eq!(labels("─", None, &good), ["terminal draws it"]);
        assert_eq!(labels("\u{f64f}", None, &good), ["moved"]);
        assert_eq!(
            labels("\u{e9ff}", None, &good),
            ["missing", "unknown private"]
        );
        assert_eq!(
            labels("❤\u{fe0f}", None, &good)[..2],
            ["missing", "width disputed"]
        );
        assert_eq!(labels("\u{a0}", None, &good), ["not drawn"]);
        let judged = judge(
            &used("\u{e725}", None),
            SHELL,
            None,
            SymbolLevel::Plain,
            None,
        );
        assert_eq!(judged.worst(), &Verdict::AboveLevel(SymbolLevel::Plain));
    }

    #[test]
    fn what_the_dotfiles_map_is_taken_from_there_or_from_nowhere() {
        let complete = fonts::complete();
        let entry = Entry {
            path: "/f/complete.ttf".into(),
            info: faces(&complete).unwrap().remove(0),
            coverage: Arc::new(coverage(&complete, 0).unwrap()),
        };
        let map = |codes, family: &str, face| Map {
            codes,
            family: family.to_owned(),
            face,
        };
        let mut font = chosen(&fonts::without_icons());
        font.hosts[0].maps = vec![
            map(0xe000..=0xf8ff, "Nobody", None),
            map(0xe700..=0xe8ef, "Reedbed Mono NF", Some(entry.clone())),
        ];
        assert_eq!(labels("\u{e725}", None, &font), ["mapped"]);
        assert!(font.covers('\u{e725}') && !font.covers('\u{f07b}'));
        assert_eq!(labels("\u{f07b}", None, &font), ["mapped wrong"]);
        assert_eq!(labels("\u{f64f}", None, &font), ["moved"]);
        // The last line counts, what the terminal draws itself is not asked for, and a font that has
        // the glyph does not help.
        let mut font = chosen(&complete);
        font.hosts[0].maps = vec![
            map(0xe700..=0xe8ef, "Reedbed Mono NF", Some(entry)),
            map(0x2500..=0xffff, "Nobody", None),
        ];
        assert_eq!(labels("\u{e725}", None, &font), ["mapped wrong"]);
        assert_eq!(labels("─", None, &font), ["terminal draws it"]);
        let judged = judge(
            &used("\u{e725}", None),
            SHELL,
            Some(&font),
            SymbolLevel::Icons,
            None,
        );
        assert!(judged.is_problem());
        assert_eq!(
            judged.worst().to_string(),
            "is taken from 'Nobody' by the dotfiles, which is not installed or lacks it: a box is shown"
        );
    }

    #[test]
    fn each_terminal_has_its_own_verdict() {
        let mut font = chosen(&fonts::without_icons());
        let host = |host, self_drawn: &[RangeInclusive<u32>]| HostFont {
            host: Some(ToolId(host)),
            self_drawn: self_drawn.to_vec(),
            ..HostFont::default()
        };
        font.hosts = vec![
            host("marsh", &[0xe0b0..=0xe0bf]),
            host("fen", &[]),
            host("bog", &[]),
        ];
        let judged = judge(
            &used("\u{e0b0}", None),
            SHELL,
            Some(&font),
            SymbolLevel::Icons,
            None,
        );
        let said: Vec<String> = judged.verdicts.iter().map(ToString::to_string).collect();
        assert_eq!(
            said,
            [
                "is in no installed font: a box is shown (in fen and bog)",
                "is drawn by the terminal itself, whatever the font has (in marsh)"
            ]
        );
        assert_eq!(judged.worst_in(ToolId("marsh")), Some(&Verdict::SelfDrawn));
        assert_eq!(judged.worst_in(ToolId("bog")), Some(&Verdict::Missing));
        assert!(judged.is_problem() && !font.covers('\u{e0b0}'));
        // What a terminal's own dotfiles draw is seen in it alone.
        let own = judge(
            &used("\u{e0b0}", None),
            ToolId("marsh"),
            Some(&font),
            SymbolLevel::Icons,
            None,
        );
        assert_eq!(own.worst(), &Verdict::SelfDrawn);
        assert!(own.hosts().is_empty());
        // Where all agree none is named.
        let all = judge(
            &used("ж", None),
            SHELL,
            Some(&font),
            SymbolLevel::Icons,
            None,
        );
        assert!(all.verdicts.iter().all(|h| h.only.is_empty()), "{all:?}");
    }

    #[test]
    fn ink_is_measured_against_its_cells() {
        let wide = chosen(&fonts::wide_icons());
        assert_eq!(labels("\u{e725}", Some('x'), &wide), ["too wide", "there"]);
        assert_eq!(labels("\u{e725}", None, &wide)[0], "too wide");
        // Followed by a blank the terminal gives it two cells, to which it is then centred on one:
        // the left side still leaves its cell.
        let judged = judge(
            &used("\u{f07b}", Some(' ')),
            SHELL,
            Some(&wide),
            SymbolLevel::Icons,
            None,
        );
        assert!(
            matches!(judged.worst(), Verdict::Leaves(left, right) if *left > 0.2 && *right == 0.0),
            "{judged:?}"
        );
        let narrow = chosen(&fonts::short_separators());
        let seam = judge(
            &used("\u{e0b0}", None),
            SHELL,
            Some(&narrow),
            SymbolLevel::Icons,
            None,
        );
        assert!(
            seam.verdicts
                .iter()
                .any(|h| matches!(h.verdict, Verdict::Seam(Edge::Left, _))),
            "{seam:?}"
        );
        assert_eq!(
            labels("\u{e0b0}", Some('x'), &chosen(&fonts::complete())),
            ["there"]
        );
    }

    #[test]
    fn an_old_place_that_has_another_icon_now_is_told() {
        let font = chosen(&fonts::icons_at_old_places());
        let judged = judge(
            &used("\u{f503}", None),
            SHELL,
            Some(&font),
            SymbolLevel::Icons,
            None,
        );
        assert!(
            judged
                .note
                .as_deref()
                .is_some_and(|n| n.contains("mdi-account") && n.contains("U+F0004")),
            "{judged:?}"
        );
    }
}
