//! Bounds on what is taken from outside: fonts, setups, names that somebody else has written. Beyond
//! them it is refused or cut, and said.

/// How long a name may be, in characters.
pub const NAME: usize = 200;

/// The largest setup file that is read, in bytes; a real one has a few thousand.
pub const SETUP: usize = 4 << 20;

/// How deep tables are looked into; those with a meaning end at the fifth.
pub const SETUP_DEPTH: usize = 64;

/// How many features or fallback families are taken.
pub const SETUP_LIST: usize = 64;

/// How deep references may go; the reader refuses circles, this bounds everything else.
pub const MIX_DEPTH: u8 = 24;

/// The largest file of ours whose lines are compared, in bytes. One that is larger is not what we
/// wrote, and comparing it takes long.
pub const COMPARED: usize = 256 << 10;

/// How many faces of one collection are read.
pub const FACES: u32 = 256;

/// How many axes, instances and names are listed.
pub const FONT_RECORDS: usize = 256;

/// How many different features of a face are looked at.
pub const FEATURES: usize = 512;

/// How many of the things a feature changes are listed.
pub const FEATURE_SAMPLES: usize = 40;

/// How long a text may be that is shaped at once, in bytes.
pub const SHAPED: usize = 64 << 10;

/// How many outline commands one glyph may have; damaged fonts can ask for millions.
pub const OUTLINE: usize = 200_000;

/// The largest raster, in pixels on a side.
pub const RASTER_SIDE: u32 = 8192;

/// How many lines a prompt may have.
pub const PROMPT_LINES: usize = 8;

/// How many parts a side of a prompt's line may have, and a part's lists entries.
pub const PROMPT_PARTS: usize = 64;
