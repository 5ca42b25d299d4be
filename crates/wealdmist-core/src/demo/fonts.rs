//! The font files of the sample home, as `wealdmist-fonts` made them, with the faults people meet:
//! icons missing, icons at the places they had in older releases, icons wider than their cell,
//! separators that leave a seam. One family has bold and italic faces, ligatures and a stylistic
//! set.

use std::sync::OnceLock;

/// The most that the files take, in bytes.
const MOST: usize = 8 << 20;

/// All of them, in the order in which they were packed.
fn all() -> &'static [Vec<u8>] {
    static ALL: OnceLock<Vec<Vec<u8>>> = OnceLock::new();
    ALL.get_or_init(|| {
        let packed = include_bytes!("fonts.zlib");
        let plain = miniz_oxide::inflate::decompress_to_vec_zlib_with_limit(packed, MOST);
        let plain = plain.unwrap_or_default();
        let mut rest = &plain[..];
        let mut out = Vec::new();
        while let Some((length, more)) = rest.split_first_chunk::<4>() {
            let length = u32::from_le_bytes(*length) as usize;
            out.push(more[..length.min(more.len())].to_vec());
            rest = more.get(length..).unwrap_or_default();
        }
        out
    })
}

fn file(index: usize) -> Vec<u8> {
    all().get(index).cloned().unwrap_or_default()
}

/// *Reedbed Mono NF*: letters, signs, ligatures, and icons at their present places.
#[must_use]
pub fn complete() -> Vec<u8> {
    file(0)
}

/// Its bold face.
#[must_use]
pub fn bold() -> Vec<u8> {
    file(1)
}

/// Its italic face.
#[must_use]
pub fn italic() -> Vec<u8> {
    file(2)
}

/// *Reedbed Mono*: the same without any icon.
#[must_use]
pub fn without_icons() -> Vec<u8> {
    file(3)
}

/// *Sedge Mono NF*: icons at the places of an older release.
#[must_use]
pub fn icons_at_old_places() -> Vec<u8> {
    file(4)
}

/// *Cordgrass NF*: icons whose ink is wider than their cell.
#[must_use]
pub fn wide_icons() -> Vec<u8> {
    file(5)
}

/// *Bulrush NF*: separators that stop short of the edges of their cell.
#[must_use]
pub fn short_separators() -> Vec<u8> {
    file(6)
}

/// *Cattail VF*: a weight axis with two named places; for tests of how such files are read.
#[must_use]
pub fn variable() -> Vec<u8> {
    file(7)
}
