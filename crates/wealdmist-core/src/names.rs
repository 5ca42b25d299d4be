//! The names that Unicode gives to characters, packed.
//!
//! `data/names.zlib` holds them as the Unicode Character Database does (names, and the computed ones
//! of ideographs and syllables). A block of 1,024 code points is one compressed text with a line
//! for each, empty where there is no name; `#` at the end stands for the code point itself in
//! hexadecimal. The file begins with the length of each block in bytes, four bytes each, the lowest
//! first.

use std::borrow::Cow;
use std::sync::OnceLock;

/// How many code points a block holds.
const BLOCK: usize = 1024;
/// How many blocks there are.
const BLOCKS: usize = 0x11_0000 / BLOCK;
/// The most that a block takes, in bytes.
const MOST: usize = 1 << 18;

static PACKED: &[u8] = include_bytes!("../data/names.zlib");

/// The text of a block, unpacked when it is first asked for.
fn block(index: usize) -> &'static str {
    static UNPACKED: [OnceLock<String>; BLOCKS] = [const { OnceLock::new() }; BLOCKS];
    UNPACKED[index].get_or_init(|| {
        let (lengths, packed) = PACKED.split_at(BLOCKS * 4);
        let mut lengths = lengths.chunks_exact(4).map(|bytes| {
            let bytes = <[u8; 4]>::try_from(bytes).unwrap_or_default();
            u32::from_le_bytes(bytes) as usize
        });
        let start: usize = lengths.by_ref().take(index).sum();
        let length = lengths.next().unwrap_or_default();
        packed
            .get(start..start + length)
            .and_then(|packed| {
                miniz_oxide::inflate::decompress_to_vec_zlib_with_limit(packed, MOST).ok()
            })
            .and_then(|plain| String::from_utf8(plain).ok())
            .unwrap_or_default()
    })
}

/// The name of a character in Unicode, in capitals; `None` for control characters, private use and
/// what is not assigned.
#[must_use]
pub fn unicode_name(c: char) -> Option<Cow<'static, str>> {
    let code = c as usize;
    let line = block(code / BLOCK).split('\n').nth(code % BLOCK)?;
    match line.strip_suffix('#') {
        Some(kind) => Some(Cow::Owned(format!("{kind}{code:X}"))),
        None if line.is_empty() => None,
        None => Some(Cow::Borrowed(line)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The file as the reference's names make it.
    fn packed() -> Vec<u8> {
        let (mut lengths, mut blocks) = (Vec::new(), Vec::new());
        for block in 0..BLOCKS {
            let lines = (block * BLOCK..(block + 1) * BLOCK).map(|code| {
                let name = u32::try_from(code).ok().and_then(char::from_u32);
                let name = name.and_then(unicode_names2::name);
                let name = name.map(|n| n.to_string()).unwrap_or_default();
                match name.strip_suffix(&format!("-{code:X}")) {
                    Some(kind) => format!("{kind}-#"),
                    None => name,
                }
            });
            let text = lines.collect::<Vec<_>>().join("\n");
            let text = match text.trim_end_matches('\n') {
                "" => Vec::new(),
                text => miniz_oxide::deflate::compress_to_vec_zlib(text.as_bytes(), 10),
            };
            lengths.extend(u32::try_from(text.len()).expect("short").to_le_bytes());
            blocks.extend(text);
        }
        lengths.extend(blocks);
        lengths
    }

    /// Written anew where `WEALDMIST_WRITE` is set.
    #[test]
    fn every_character_has_the_name_of_the_reference() {
        if std::env::var_os("WEALDMIST_WRITE").is_some() {
            let file = concat!(env!("CARGO_MANIFEST_DIR"), "/data/names.zlib");
            std::fs::write(file, packed()).expect("written");
            return;
        }
        let mut named = 0;
        for c in '\0'..=char::MAX {
            let expected = unicode_names2::name(c).map(|n| n.to_string());
            assert_eq!(unicode_name(c).as_deref(), expected.as_deref(), "{c:?}");
            named += usize::from(expected.is_some());
        }
        assert!(named > 140_000, "{named}");
    }
}
