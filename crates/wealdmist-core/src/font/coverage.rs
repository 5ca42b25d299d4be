//! Which characters a face has, as a whole, by Unicode block and by range of icons.

use std::ops::RangeInclusive;

use serde::{Deserialize, Serialize};
use skrifa::{MetadataProvider, Tag};
use unicode_properties::{GeneralCategory, UnicodeGeneralCategory};

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
                Some((_, end)) if *end + 1 == point => *end = point,
                _ => ranges.push((point, point)),
            }
        }
        Self(ranges)
    }
}

/// The characters of one face.
///
/// # Errors
/// When the file is no font, has no such face, or no character map.
pub fn coverage(bytes: &[u8], index: u32) -> Result<Coverage, FontError> {
    let font = font_at(bytes, index)?;
    let charmap = font.charmap();
    if !charmap.has_map() {
        return Err(FontError::Table(Tag::new(b"cmap")));
    }
    let points = charmap
        .mappings()
        .filter(|(c, glyph)| glyph.to_u32() != 0 && *c <= 0x10_ffff)
        .map(|(c, _)| c);
    // A damaged map can claim more characters than Unicode has.
    Ok(Coverage::from_points(points.take(0x11_0000).collect()))
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
        while at <= *end {
            let block = char::from_u32(at).and_then(unicode_blocks::find_unicode_block);
            let Some(block) = block else {
                at += 1;
                continue;
            };
            let range = block.start()..=block.end();
            if out.last().is_none_or(|s| s.range != range) {
                let of = range.clone().filter(|c| is_assigned(*c)).count();
                let has = coverage.count_in(&range);
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
