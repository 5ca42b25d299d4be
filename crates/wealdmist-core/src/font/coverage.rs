//! Which characters a face has, as a whole, by Unicode block and by range of icons.

use std::ops::RangeInclusive;

use serde::{Deserialize, Serialize};
use skrifa::{FontRef, GlyphId, MetadataProvider, Tag};
use unicode_properties::{GeneralCategory, UnicodeGeneralCategory};

use crate::guard::guarded;

use super::pretended::{has_shapes, without_pretended};
use super::{FontError, font_at};
use crate::icon;

/// The characters a face has, as sorted ranges without gaps between neighbours.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
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

    /// The ranges, first and last code point of each.
    #[must_use]
    pub fn ranges(&self) -> &[(u32, u32)] {
        &self.0
    }

    /// Whether characters for private use are covered, where icons are.
    #[must_use]
    pub fn has_private(&self) -> bool {
        let private = [0xe000..=0xf8ff, 0xf_0000..=0x10_fffd];
        private.iter().any(|range| self.count_in(range) > 0)
    }

    /// How many characters of a range are covered.
    #[must_use]
    pub fn count_in(&self, range: &RangeInclusive<u32>) -> usize {
        let first = self.0.partition_point(|(_, end)| end < range.start());
        let within = self.0[first..]
            .iter()
            .take_while(|(start, _)| start <= range.end());
        within
            .map(|(a, b)| (b.min(range.end()) - a.max(range.start()) + 1) as usize)
            .sum()
    }

    /// The characters covered, in order.
    pub fn characters(&self) -> impl Iterator<Item = char> + '_ {
        self.0
            .iter()
            .flat_map(|(a, b)| (*a..=*b).filter_map(char::from_u32))
    }

    /// Makes it from code points in any order.
    #[must_use]
    pub fn from_points(mut points: Vec<u32>) -> Self {
        points.sort_unstable();
        let mut ranges: Vec<(u32, u32)> = Vec::new();
        for point in points {
            match ranges.last_mut() {
                Some((_, end)) if *end >= point => {}
                Some((_, end)) if end.checked_add(1) == Some(point) => *end = point,
                _ => ranges.push((point, point)),
            }
        }
        Self(ranges)
    }
}

/// The characters of one face: those of its map, without icons that it only seems to have.
///
/// # Errors
/// When the file is no font, has no such face, no character map, or nothing that is drawn.
pub fn coverage(bytes: &[u8], index: u32) -> Result<Coverage, FontError> {
    let read = || {
        let font = font_at(bytes, index)?;
        if !has_shapes(&font) {
            return Err(FontError::Table(Tag::new(b"glyf")));
        }
        let map = mapped(&font)?;
        Ok(Coverage::from_points(without_pretended(&font, &map)))
    };
    guarded(read).unwrap_or_else(|failed| Err(FontError::Unreadable(failed.to_string())))
}

/// The characters that the map of a face names, whether they are drawn or not; no outlines are needed for it.
///
/// # Errors
/// When the file is no font, has no such face, or no character map.
pub fn character_map(bytes: &[u8], index: u32) -> Result<Coverage, FontError> {
    let read = || {
        let map = mapped(&font_at(bytes, index)?)?;
        let points = map.into_iter().map(|(point, _)| point);
        Ok(Coverage::from_points(points.collect()))
    };
    guarded(read).unwrap_or_else(|failed| Err(FontError::Unreadable(failed.to_string())))
}

fn mapped(font: &FontRef) -> Result<Vec<(u32, GlyphId)>, FontError> {
    let charmap = font.charmap();
    if !charmap.has_map() {
        return Err(FontError::Table(Tag::new(b"cmap")));
    }
    let points = charmap
        .mappings()
        .filter(|(c, glyph)| glyph.to_u32() != 0 && *c <= 0x10_ffff);
    // A damaged map can claim more characters than Unicode has.
    Ok(points.take(0x11_0000).collect())
}

/// How much of a named range a face has.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Share {
    /// The range's name.
    pub name: &'static str,
    /// Its first and last code point.
    pub range: RangeInclusive<u32>,
    /// How many of its characters the face has.
    pub has: usize,
    /// How many there are: assigned characters of a block, known icons of a range.
    pub of: usize,
}

/// How much of each Unicode block a face has, blocks it has nothing of left out.
#[must_use]
pub fn by_block(coverage: &Coverage) -> Vec<Share> {
    let mut out: Vec<Share> = Vec::new();
    for (start, end) in coverage.ranges() {
        let mut at = *start;
        while at <= *end && at <= 0x10_ffff {
            let block = char::from_u32(at).and_then(unicode_blocks::find_unicode_block);
            let Some(block) = block else {
                at += 1;
                continue;
            };
            let range = block.start()..=block.end();
            if out.last().is_none_or(|s| s.range != range) {
                let of = range.clone().filter(|c| is_assigned(*c)).count();
                let characters = range.clone().filter_map(char::from_u32);
                let has = characters
                    .filter(|c| is_assigned(*c as u32) && coverage.has(*c))
                    .count();
                out.push(Share {
                    name: block.name(),
                    range,
                    has,
                    of,
                });
            }
            at = block.end().saturating_add(1);
        }
    }
    out
}

fn is_assigned(code: u32) -> bool {
    char::from_u32(code).is_some_and(|c| {
        !matches!(
            c.general_category(),
            GeneralCategory::Unassigned | GeneralCategory::Control
        )
    })
}

/// How much of each range of icons a face has, also of those it has nothing of.
#[must_use]
pub fn by_icon_range(coverage: &Coverage) -> Vec<Share> {
    icon::RANGES
        .iter()
        .map(|range| {
            let known = || icon::present().filter(|i| range.codes.contains(&(i.code as u32)));
            Share {
                name: range.name,
                range: range.codes.clone(),
                has: known().filter(|i| coverage.has(i.code)).count(),
                of: known().count(),
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::fonts;
    use proptest::prelude::*;
    use std::collections::BTreeSet;

    #[test]
    fn blocks_are_told_once_each_with_what_they_hold() {
        let coverage = Coverage::from_points((0x41..=0x5a).chain([0xe9, 0x2192, 0x2193]).collect());
        let blocks = by_block(&coverage);
        let told: Vec<(&str, usize)> = blocks.iter().map(|b| (b.name, b.has)).collect();
        assert_eq!(
            told,
            [
                ("Basic Latin", 26),
                ("Latin-1 Supplement", 1),
                ("Arrows", 2)
            ]
        );
        assert!(blocks.iter().all(|b| b.has <= b.of));
        assert!(by_block(&Coverage::default()).is_empty());
        // Code points beyond Unicode, as a damaged map has them, are borne.
        assert!(by_block(&Coverage::from_points(vec![0x10_ffff, 0x11_0000, u32::MAX])).len() <= 1);
    }

    #[test]
    fn every_range_of_icons_is_told_also_those_without_any() {
        let none = by_icon_range(&Coverage::default());
        assert_eq!(none.len(), icon::RANGES.len());
        assert!(none.iter().all(|s| s.has == 0 && s.of > 0));
        let full = coverage(&fonts::complete(), 0).unwrap();
        let some = by_icon_range(&full);
        assert!(some.iter().any(|s| s.has > 0) && some.iter().all(|s| s.has <= s.of));
    }

    proptest! {
        #[test]
        fn it_holds_exactly_what_it_was_made_from(points in proptest::collection::vec(0u32..3000, 0..300), probe in 0u32..3200) {
            let set: BTreeSet<u32> = points.iter().copied().collect();
            let coverage = Coverage::from_points(points);
            prop_assert_eq!(coverage.len(), set.len());
            prop_assert_eq!(coverage.is_empty(), set.is_empty());
            prop_assert_eq!(coverage.has(char::from_u32(probe).unwrap()), set.contains(&probe));
            let listed: BTreeSet<u32> = coverage.characters().map(|c| c as u32).collect();
            prop_assert_eq!(&listed, &set);
            for pair in coverage.ranges().windows(2) {
                prop_assert!(pair[0].1 + 1 < pair[1].0, "ranges are apart");
            }
        }

        #[test]
        fn counts_add_up(points in proptest::collection::vec(0u32..2000, 0..200), a in 0u32..2000, b in 0u32..2000) {
            let coverage = Coverage::from_points(points);
            let (low, high) = (a.min(b), a.max(b));
            let inside = coverage.count_in(&(low..=high));
            let direct = coverage.characters().filter(|c| (low..=high).contains(&(*c as u32))).count();
            prop_assert_eq!(inside, direct);
        }
    }
}
