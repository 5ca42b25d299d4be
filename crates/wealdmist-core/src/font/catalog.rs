//! The faces installed, and what names and characters select among them.

use std::collections::BTreeSet;
use std::path::PathBuf;
use std::sync::Arc;

use super::coverage::Share;
use super::{Coverage, FaceInfo};
use crate::character::is_private_use;
use crate::icon;
use crate::text::closest;

/// One of the four styles a terminal draws with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Four {
    /// Upright and regular.
    Regular,
    /// Bold.
    Bold,
    /// Italic.
    Italic,
    /// Bold and italic.
    BoldItalic,
}

impl Four {
    /// All, in their order.
    pub const ALL: [Self; 4] = [Self::Regular, Self::Bold, Self::Italic, Self::BoldItalic];

    /// What it is called.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Regular => "regular",
            Self::Bold => "bold",
            Self::Italic => "italic",
            Self::BoldItalic => "bold italic",
        }
    }

    /// The key in the setup file.
    #[must_use]
    pub const fn key(self) -> &'static str {
        match self {
            Self::Regular => "family",
            Self::Bold => "bold",
            Self::Italic => "italic",
            Self::BoldItalic => "bold-italic",
        }
    }

    /// Whether it is bold, whether it is italic.
    #[must_use]
    pub const fn is(self) -> (bool, bool) {
        match self {
            Self::Regular => (false, false),
            Self::Bold => (true, false),
            Self::Italic => (false, true),
            Self::BoldItalic => (true, true),
        }
    }
}

/// An installed face.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Entry {
    /// Its file.
    pub path: PathBuf,
    /// What identifies it.
    pub info: FaceInfo,
    /// Which characters it has.
    pub coverage: Arc<Coverage>,
}

impl Entry {
    /// What names the face: its file, and its number there.
    #[must_use]
    pub fn key(&self) -> (PathBuf, u32) {
        (self.path.clone(), self.info.index)
    }
}

/// Every installed face.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Catalog {
    /// The faces, in the order they were found: the person's own folders first.
    pub faces: Vec<Entry>,
}

/// The faces of a family for the four styles. A style the family lacks is `None`: the tool then
/// slants or thickens the regular one, or takes another style.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FourStyles<'a> {
    faces: [Option<&'a Entry>; 4],
}

impl<'a> FourStyles<'a> {
    /// The face of a style.
    #[must_use]
    pub fn face(&self, style: Four) -> Option<&'a Entry> {
        self.faces[style as usize]
    }
}

/// What a name selects.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NameIs {
    /// A family.
    Family,
    /// The full name of one face.
    Full,
    /// The PostScript name of one face.
    PostScript,
}

impl Catalog {
    /// The family names, each once, in the order of the alphabet.
    #[must_use]
    pub fn families(&self) -> Vec<&str> {
        let names: BTreeSet<&str> = self.faces.iter().map(|e| e.info.family()).collect();
        names.into_iter().filter(|n| !n.is_empty()).collect()
    }

    /// The faces of a family, in any case of its name.
    pub fn of_family<'a>(&'a self, name: &'a str) -> impl Iterator<Item = &'a Entry> {
        self.faces.iter().filter(move |e| e.info.has_family(name))
    }

    /// The best face a name selects, and what kind of name it is: family before full name before
    /// PostScript name; of a family the most regular face.
    #[must_use]
    pub fn find(&self, name: &str) -> Option<(&Entry, NameIs)> {
        let family = self.faces.iter().filter(|e| e.info.has_family(name));
        if let Some(entry) = family.min_by_key(|e| e.info.distance(false, false)) {
            return Some((entry, NameIs::Family));
        }
        let wanted = name.trim().to_lowercase();
        let full = |e: &&Entry| e.info.full_names.iter().any(|n| n.to_lowercase() == wanted);
        if let Some(entry) = self.faces.iter().find(full) {
            return Some((entry, NameIs::Full));
        }
        let postscript = |e: &&Entry| {
            e.info
                .postscript
                .as_ref()
                .is_some_and(|n| n.to_lowercase() == wanted)
        };
        Some((self.faces.iter().find(postscript)?, NameIs::PostScript))
    }

    /// The family whose name is nearest to one that selects nothing: the same but for spaces and
    /// signs, or nearly the same.
    #[must_use]
    pub fn nearest(&self, name: &str) -> Option<&str> {
        let families = self.families();
        let bare = |n: &str| {
            n.chars()
                .filter(|c| c.is_alphanumeric())
                .flat_map(char::to_lowercase)
                .collect::<String>()
        };
        let wanted = bare(name);
        let same = families.iter().find(|f| bare(f) == wanted);
        same.copied()
            .or_else(|| closest(name, families.iter().copied()))
    }

    /// The face of a family for one of the four styles, where it has one near enough.
    #[must_use]
    pub fn styled(&self, family: &str, style: Four) -> Option<&Entry> {
        let (bold, italic) = style.is();
        let own = self.faces.iter().filter(|e| e.info.has_family(family));
        let found = own.min_by_key(|e| (e.info.distance(bold, italic), e.info.variable))?;
        // A face far from what was asked for is no face of that style; an axis can reach it.
        let near = found.info.variable || found.info.distance(bold, italic) <= 250;
        near.then_some(found)
    }

    /// The faces of a family for the four styles.
    #[must_use]
    pub fn four(&self, family: &str) -> FourStyles<'_> {
        FourStyles {
            faces: Four::ALL.map(|style| self.styled(family, style)),
        }
    }

    /// The face a tool could fall back to for a character, where nothing tells which it takes: fonts
    /// of one width before others.
    #[must_use]
    pub fn fallback(&self, c: char, but: &str) -> Option<&Entry> {
        let has = |e: &&Entry| e.coverage.has(c) && !e.info.has_family(but);
        let order = |e: &&Entry| (!e.info.measured_fixed, e.info.distance(false, false));
        self.faces.iter().filter(has).min_by_key(order)
    }
}

/// Where a character comes from that the chosen font lacks, on a terminal that has opened no other
/// fallback yet: one that is open already may be taken again.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Elsewhere {
    /// The family that has it.
    pub family: String,
    /// The file of its face.
    pub path: PathBuf,
    /// The number of the face in the file.
    pub index: u32,
}

impl From<&Entry> for Elsewhere {
    fn from(entry: &Entry) -> Self {
        Self {
            family: entry.info.family().to_owned(),
            path: entry.path.clone(),
            index: entry.info.index,
        }
    }
}

/// How many icons a face with these shares of the icon ranges has of an icon's range, and of how many, where it is hardly an icon font and
/// may have a sign of its own at that place: one with fewer than 200 icons in all and less than half
/// of the range. Separators, which many fonts of letters have, are the usual ones.
#[must_use]
pub fn few_icons(c: char, shares: &[Share]) -> Option<(usize, usize)> {
    const ICONS: usize = 200;
    let range = icon::range_of(c).filter(|r| is_private_use(c) && !r.codes.contains(&0xe0b0))?;
    let share = shares.iter().find(|s| s.range == range.codes)?;
    let all: usize = shares.iter().map(|s| s.has).sum();
    (all < ICONS && share.has * 2 < share.of).then_some((share.has, share.of))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::fonts;
    use crate::font::coverage::by_icon_range;
    use crate::font::{coverage, faces};

    fn catalog() -> Catalog {
        let files = [
            ("a.ttf", fonts::without_icons()),
            ("b.ttf", fonts::complete()),
            ("c.ttf", fonts::bold()),
        ];
        let entry = |(path, bytes): (&str, Vec<u8>)| Entry {
            path: path.into(),
            info: faces(&bytes).unwrap().remove(0),
            coverage: Arc::new(coverage(&bytes, 0).unwrap()),
        };
        Catalog {
            faces: files.into_iter().map(entry).collect(),
        }
    }

    #[test]
    fn names_select_what_they_are() {
        let catalog = catalog();
        let kind = |name: &str| {
            catalog
                .find(name)
                .map(|(e, kind)| (e.path.to_str().unwrap().to_owned(), kind))
        };
        assert_eq!(
            kind("reedbed mono nf"),
            Some(("b.ttf".into(), NameIs::Family))
        );
        assert_eq!(
            kind("Reedbed Mono NF Bold"),
            Some(("c.ttf".into(), NameIs::Full))
        );
        assert_eq!(
            kind("ReedbedMonoNF-Bold"),
            Some(("c.ttf".into(), NameIs::PostScript))
        );
        assert_eq!(kind("Reedbed"), None);
        assert_eq!(catalog.nearest("ReedbedMonoNF"), Some("Reedbed Mono NF"));
        assert_eq!(catalog.nearest("Redbed Mono"), Some("Reedbed Mono"));
        assert_eq!(catalog.nearest("Something Else"), None);
        assert_eq!(catalog.families(), ["Reedbed Mono", "Reedbed Mono NF"]);
    }

    #[test]
    fn four_styles_are_those_there_are() {
        let catalog = catalog();
        let four = catalog.four("Reedbed Mono NF");
        let file = |style| four.face(style).map(|e| e.path.to_str().unwrap());
        assert_eq!(file(Four::Regular), Some("b.ttf"));
        assert_eq!(file(Four::Bold), Some("c.ttf"));
        assert_eq!((file(Four::Italic), file(Four::BoldItalic)), (None, None));
        assert_eq!(catalog.four("Reedbed Mono").face(Four::Bold), None);
    }

    #[test]
    fn the_fallback_is_another_family_that_has_it() {
        let catalog = catalog();
        let family = |c| {
            catalog
                .fallback(c, "Reedbed Mono")
                .map(|e| e.info.family().to_owned())
        };
        assert_eq!(family('\u{e0b0}').as_deref(), Some("Reedbed Mono NF"));
        assert_eq!(family('字'), None);
        assert_eq!(catalog.fallback('\u{e0b0}', "Reedbed Mono NF"), None);
    }

    #[test]
    fn an_icon_from_a_font_with_hardly_any_is_doubtful() {
        let icons = by_icon_range(&catalog().faces[1].coverage);
        assert_eq!(few_icons('\u{f43a}', &icons), None);
        let own = Coverage::from_points((0xf400..=0xf43f).chain([0xe0b0, 0x2717]).collect());
        let own = by_icon_range(&own);
        let (has, of) = few_icons('\u{f43a}', &own).unwrap();
        assert!(has > 50 && has < 65 && of > 300, "{has} of {of}");
        // Separators and signs of Unicode are what they are.
        assert_eq!(few_icons('\u{e0b0}', &own), None);
        assert_eq!(few_icons('✗', &own), None);
    }
}
