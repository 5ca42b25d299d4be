//! Font files: names, facts, coverage, outlines, shaping, rasters, and how glyphs fit their cells.
//!
//! Parsing is the business of `skrifa` and shaping that of `harfrust`; what is made of their
//! answers is ours. Lengths are font units unless a name says pixels or cells.

pub mod catalog;
pub mod chosen;
pub mod coverage;
pub mod facts;
pub mod features;
pub mod fit;
pub mod picture;
pub mod pretended;
pub mod raster;
pub mod sample;
mod typeface;

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use skrifa::attribute::Style;
use skrifa::raw::types::NameId;
use skrifa::raw::{FileRef, FontRef, TableProvider};
use skrifa::string::StringId;
use skrifa::{MetadataProvider, Tag};

use crate::character::is_treacherous;
use crate::guard::guarded;
use crate::limits;
use crate::quote::Name;

pub use catalog::{Catalog, Elsewhere, Entry, Four, FourStyles, few_icons};
pub use chosen::{ChosenFont, HostFont, Map};
pub use coverage::{Coverage, character_map, coverage};
pub use typeface::{FeatureSetting, Placed, Typeface};

/// A font file that cannot be used.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FontError {
    /// The file is no font, or a damaged one.
    #[error("not a usable font: {0}")]
    Unreadable(String),
    /// A table that every usable font has is missing or damaged.
    #[error("the table '{0}' is missing or damaged")]
    Table(Tag),
    /// The file has fewer faces.
    #[error("the file has no face number {0}")]
    NoFace(u32),
}

/// Upright or not.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub enum Slant {
    /// Upright.
    Upright,
    /// With letters of their own.
    Italic,
    /// Upright letters, slanted.
    Oblique,
}

impl Slant {
    /// The word for it.
    #[must_use]
    pub const fn label(self) -> &'static str {
        match self {
            Self::Upright => "upright",
            Self::Italic => "italic",
            Self::Oblique => "oblique",
        }
    }
}

/// What identifies a face, enough to find and choose it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FaceInfo {
    /// The position in the file; 0 unless it is a collection.
    pub index: u32,
    /// Every family name in the file, legacy and typographic, in every language.
    pub families: BTreeSet<String>,
    /// The legacy family name in English, which groups at most four styles.
    pub legacy_family: Option<String>,
    /// The typographic family name in English, where it differs.
    pub typographic_family: Option<String>,
    /// The style, such as "Regular".
    pub style: String,
    /// Full names, as some tools want them.
    pub full_names: BTreeSet<String>,
    /// The PostScript name.
    pub postscript: Option<String>,
    /// The weight, 1–1000; 400 is regular and 700 bold.
    pub weight: u16,
    /// The width in percent of normal, 50–200.
    pub width: u16,
    /// Upright or not.
    pub slant: Slant,
    /// Whether the font declares one width for all characters.
    pub fixed_pitch: bool,
    /// Whether letters have one width, whatever is declared.
    pub measured_fixed: bool,
    /// Whether it has variable axes.
    pub variable: bool,
    /// The tags of its substitution features, such as `liga`.
    pub features: BTreeSet<String>,
}

impl FaceInfo {
    /// Whether a name, in any case, selects this face: family, full or PostScript name.
    #[must_use]
    pub fn answers_to(&self, name: &str) -> bool {
        let wanted = name.trim().to_lowercase();
        let mut names = self
            .families
            .iter()
            .chain(&self.full_names)
            .chain(&self.postscript);
        names.any(|n| n.to_lowercase() == wanted)
    }

    /// Whether the family name is this, in any case.
    #[must_use]
    pub fn has_family(&self, name: &str) -> bool {
        let wanted = name.trim().to_lowercase();
        self.families.iter().any(|n| n.to_lowercase() == wanted)
    }

    /// The family name people know: the typographic one where there is one.
    #[must_use]
    pub fn family(&self) -> &str {
        let named = self
            .typographic_family
            .as_ref()
            .or(self.legacy_family.as_ref());
        named
            .or_else(|| self.families.first())
            .map_or("", String::as_str)
    }

    /// Family and style, such as "Reedbed Mono NF Bold".
    #[must_use]
    pub fn title(&self) -> String {
        format!("{} {}", self.family(), self.style)
    }

    /// How far the face is from an upright regular one, or from another of the four styles; the
    /// least is the best. Weight counts first among equals in slant.
    #[must_use]
    pub fn distance(&self, bold: bool, italic: bool) -> u32 {
        let slant = match (italic, self.slant) {
            (false, Slant::Upright) | (true, Slant::Italic) => 0,
            (true, Slant::Oblique) => 200,
            _ => 5_000,
        };
        let weight = self.weight.abs_diff(if bold { 700 } else { 400 });
        slant + u32::from(weight) + u32::from(self.width.abs_diff(100)) * 20
    }
}

/// The faces in a font file.
///
/// # Errors
/// When the bytes are no font file, or none of its faces can be read.
pub fn faces(bytes: &[u8]) -> Result<Vec<FaceInfo>, FontError> {
    let read = || {
        let fonts = fonts(bytes)?;
        Ok(fonts.iter().map(|(i, font)| info(font, *i)).collect())
    };
    guarded(read).unwrap_or_else(|failed| Err(FontError::Unreadable(failed.to_string())))
}

/// The readable faces of a file with their positions.
fn fonts(bytes: &[u8]) -> Result<Vec<(u32, FontRef<'_>)>, FontError> {
    let unreadable = |e: skrifa::raw::ReadError| FontError::Unreadable(e.to_string());
    match FileRef::new(bytes).map_err(unreadable)? {
        FileRef::Font(font) => Ok(vec![(0, font)]),
        FileRef::Collection(collection) => {
            let count = collection.len().min(limits::FACES);
            let found: Vec<_> = (0..count)
                .filter_map(|i| Some((i, collection.get(i).ok()?)))
                .collect();
            if found.is_empty() {
                return Err(FontError::Unreadable("the collection holds no face".into()));
            }
            Ok(found)
        }
    }
}

fn font_at(bytes: &[u8], index: u32) -> Result<FontRef<'_>, FontError> {
    FontRef::from_index(bytes, index).map_err(|e| match e {
        skrifa::raw::ReadError::InvalidCollectionIndex(i) => FontError::NoFace(i),
        e => FontError::Unreadable(e.to_string()),
    })
}

/// A name as text. One that holds what no name may hold counts as not given: it could not be
/// written anywhere. Closing zeros, which some tools leave in the table, are not part of it.
fn clean(text: impl Iterator<Item = char>) -> Option<String> {
    let text: String = text.take(limits::NAME + 1).collect();
    let name = Name::new(text.trim_end_matches('\0')).ok()?;
    Some(name.as_str().to_owned())
}

/// A text from a font for people: cut to a bearable length, on one line.
fn legible(text: impl Iterator<Item = char>) -> String {
    let kept = text.filter(|c| !is_treacherous(*c)).take(limits::NAME);
    kept.collect::<String>().trim().to_owned()
}

fn all_names(font: &FontRef, id: NameId) -> impl Iterator<Item = String> {
    let names = font.localized_strings(id);
    names
        .filter_map(|s| clean(s.chars()))
        .collect::<Vec<_>>()
        .into_iter()
}

fn english(font: &FontRef, id: StringId) -> Option<String> {
    let name = font.localized_strings(id).english_or_first()?;
    clean(name.chars())
}

fn info(font: &FontRef, index: u32) -> FaceInfo {
    let attributes = font.attributes();
    let legacy = english(font, StringId::FAMILY_NAME);
    let typographic = english(font, StringId::TYPOGRAPHIC_FAMILY_NAME);
    FaceInfo {
        index,
        families: all_names(font, StringId::FAMILY_NAME)
            .chain(all_names(font, StringId::TYPOGRAPHIC_FAMILY_NAME))
            .collect(),
        typographic_family: typographic.filter(|t| Some(t) != legacy.as_ref()),
        legacy_family: legacy,
        style: english(font, StringId::TYPOGRAPHIC_SUBFAMILY_NAME)
            .or_else(|| english(font, StringId::SUBFAMILY_NAME))
            .unwrap_or_else(|| "Regular".into()),
        full_names: all_names(font, StringId::FULL_NAME).collect(),
        postscript: english(font, StringId::POSTSCRIPT_NAME),
        weight: attributes.weight.value().clamp(1.0, 1000.0) as u16,
        width: (attributes.stretch.ratio() * 100.0).clamp(1.0, 1000.0) as u16,
        slant: match attributes.style {
            Style::Normal => Slant::Upright,
            Style::Italic => Slant::Italic,
            Style::Oblique(_) => Slant::Oblique,
        },
        fixed_pitch: font.post().is_ok_and(|post| post.is_fixed_pitch() != 0),
        measured_fixed: facts::letters_share_a_width(font),
        variable: !font.axes().is_empty(),
        features: features::tags(font),
    }
}

#[cfg(test)]
mod tests;
