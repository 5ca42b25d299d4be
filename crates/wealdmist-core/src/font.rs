//! Font files: the names a face goes by, and which characters it has.
//!
//! Parsing is the business of `skrifa`; this module asks it the few things this crate needs.

use std::collections::BTreeSet;

use skrifa::raw::{FileRef, FontRef, TableProvider};
use skrifa::string::StringId;
use skrifa::{MetadataProvider, Tag};

/// A font file that cannot be used.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FontError {
    /// The file is no font, or a damaged one.
    #[error("not a usable font: {0}")]
    Unreadable(String),
    /// A table that every usable font has is missing or damaged.
    #[error("the table '{0}' is missing or damaged")]
    Table(Tag),
}

/// The names of a face and its pitch, enough to find it by name.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FaceInfo {
    /// The position in the file; 0 unless it is a collection.
    pub index: u32,
    /// Every family name in the file, legacy and typographic.
    pub families: BTreeSet<String>,
    /// The style, such as "Regular".
    pub style: String,
    /// Full names, as some tools want them.
    pub full_names: BTreeSet<String>,
    /// The PostScript name.
    pub postscript: Option<String>,
    /// Whether the font declares one width for all characters.
    pub fixed_pitch: bool,
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
}

/// The characters a face has, as sorted ranges without gaps between neighbours.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Coverage(Vec<(u32, u32)>);

impl Coverage {
    /// Whether the face has a glyph for a character.
    #[must_use]
    pub fn has(&self, c: char) -> bool {
        let c = c as u32;
        let after = self.0.partition_point(|(start, _)| *start <= c);
        after > 0 && self.0[after - 1].1 >= c
    }

    /// How many characters are covered.
    #[must_use]
    pub fn len(&self) -> usize {
        self.0.iter().map(|(a, b)| (b - a + 1) as usize).sum()
    }

    /// Whether nothing is covered.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    fn from_points(mut points: Vec<u32>) -> Self {
        points.sort_unstable();
        points.dedup();
        let mut ranges: Vec<(u32, u32)> = Vec::new();
        for point in points {
            match ranges.last_mut() {
                Some((_, end)) if *end + 1 == point => *end = point,
                _ => ranges.push((point, point)),
            }
        }
        Self(ranges)
    }
}

/// The faces in a font file.
///
/// # Errors
/// When the bytes are no font file.
pub fn faces(bytes: &[u8]) -> Result<Vec<FaceInfo>, FontError> {
    let fonts: Vec<FontRef> = match FileRef::new(bytes) {
        Ok(FileRef::Font(font)) => vec![font],
        Ok(FileRef::Collection(collection)) => collection.iter().filter_map(Result::ok).collect(),
        Err(e) => return Err(FontError::Unreadable(e.to_string())),
    };
    Ok(fonts
        .iter()
        .enumerate()
        .map(|(i, font)| info(font, i as u32))
        .collect())
}

fn info(font: &FontRef, index: u32) -> FaceInfo {
    let all = |ids: &[StringId]| -> BTreeSet<String> {
        let names = ids.iter().flat_map(|id| font.localized_strings(*id));
        names
            .map(|s| s.to_string())
            .filter(|s| !s.is_empty())
            .collect()
    };
    let one = |id: StringId| {
        font.localized_strings(id)
            .english_or_first()
            .map(|s| s.to_string())
    };
    FaceInfo {
        index,
        families: all(&[StringId::FAMILY_NAME, StringId::TYPOGRAPHIC_FAMILY_NAME]),
        style: one(StringId::TYPOGRAPHIC_SUBFAMILY_NAME)
            .or_else(|| one(StringId::SUBFAMILY_NAME))
            .unwrap_or_else(|| "Regular".into()),
        full_names: all(&[StringId::FULL_NAME]),
        postscript: one(StringId::POSTSCRIPT_NAME),
        fixed_pitch: font.post().is_ok_and(|post| post.is_fixed_pitch() != 0),
    }
}

/// The characters of one face.
///
/// # Errors
/// When the file is no font, has no such face, or no character map.
pub fn coverage(bytes: &[u8], index: u32) -> Result<Coverage, FontError> {
    let font =
        FontRef::from_index(bytes, index).map_err(|e| FontError::Unreadable(e.to_string()))?;
    let charmap = font.charmap();
    if !charmap.has_map() {
        return Err(FontError::Table(Tag::new(b"cmap")));
    }
    let points = charmap
        .mappings()
        .filter(|(_, glyph)| glyph.to_u32() != 0)
        .map(|(c, _)| c);
    // A damaged map can claim more characters than Unicode has.
    Ok(Coverage::from_points(points.take(0x11_0000).collect()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::fonts;

    #[test]
    fn names_and_characters_of_a_made_font() {
        let bytes = fonts::complete();
        let faces = faces(&bytes).unwrap();
        assert_eq!(faces.len(), 1);
        assert!(faces[0].answers_to("reedbed mono nf"), "{faces:?}");
        assert!(faces[0].answers_to("ReedbedMonoNF-Regular"), "{faces:?}");
        assert!(faces[0].fixed_pitch);
        let coverage = coverage(&bytes, 0).unwrap();
        assert!(coverage.has('A') && coverage.has('\u{e725}') && coverage.has('\u{f0001}'));
        assert!(!coverage.has('\u{f8ff}') && !coverage.has('字'));
    }

    #[test]
    fn damage_is_an_error_not_a_panic() {
        let good = fonts::complete();
        assert!(faces(b"").is_err());
        assert!(faces(&[0; 64]).is_err());
        for len in (0..good.len()).step_by(61) {
            let cut = &good[..len];
            if let Ok(found) = faces(cut) {
                for face in found {
                    let _ = coverage(cut, face.index);
                }
            }
        }
        for at in (0..good.len()).step_by(7) {
            let mut bad = good.clone();
            bad[at] ^= 0xff;
            let _ = faces(&bad);
            let _ = coverage(&bad, 0);
        }
    }

    #[test]
    fn ranges_hold_their_ends() {
        let coverage = Coverage::from_points(vec![65, 66, 67, 97, 66]);
        assert!(coverage.has('A') && coverage.has('C') && coverage.has('a'));
        assert!(!coverage.has('D') && !coverage.has('@') && !coverage.has('b'));
        assert_eq!(coverage.len(), 4);
    }
}
