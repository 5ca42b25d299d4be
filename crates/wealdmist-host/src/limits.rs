//! Bounds on what is read of the disk, of running programs and of files that somebody else has made, in
//! bytes unless said otherwise; and how long others may take.

use std::time::Duration;

/// The largest setup file, in bytes.
pub const SETUP: u64 = 8 << 20;

/// How large the file of records may be, in bytes.
pub const TERMINALS: u64 = 8 << 20;

/// The largest file that is changed or kept, in bytes. Fonts are the largest ones.
pub const JOURNALED: u64 = 64 << 20;

/// The largest record, in bytes.
pub const RECORD: u64 = 16 << 20;

/// The largest palette file that is read, in bytes.
pub const PALETTE: u64 = 4 << 20;

/// How many files of a folder are looked at.
pub const PALETTES: usize = 2000;

/// The most memory that an image may take while it is decoded and turned into 8-bit colors, in
/// bytes: enough for 60 megapixels of a photograph.
pub const IMAGE_MEMORY: u64 = 190 << 20;

/// The most memory that a decoder may take beside the image itself, in bytes: for texts and color
/// profiles in the file.
pub const IMAGE_BESIDE: usize = 16 << 20;

/// The most pixels on a side.
pub const IMAGE_SIDE: usize = 40_000;

/// Font files larger than this are passed over, in bytes.
pub const FONT: u64 = 64 << 20;

/// The largest index that is read, in bytes; one of 10,000 faces has a tenth of it.
pub const FONT_INDEX: u64 = 64 << 20;

/// How many entries of an archive are looked at.
pub const ARCHIVE_ENTRIES: usize = 20_000;

/// How many bytes all fonts of a source may have together, unpacked; all are kept in memory.
pub const ARCHIVE_FONTS: u64 = 160 << 20;

/// How many bytes are unpacked of an archive before it is given up, those of entries that are not
/// taken counted too: so many times its own size, and at least and at most these. Fonts shrink to a
/// quarter or a tenth.
pub const ARCHIVE_RATIO: u64 = 64;

/// How much is unpacked of an archive at the least, however small it is.
pub const ARCHIVE_LEAST: u64 = 16 << 20;

/// How much is unpacked of an archive at the most, however large it is.
pub const ARCHIVE_UNPACKED: u64 = 320 << 20;

/// How much memory the dictionary of an xz archive may take, in KiB.
pub const ARCHIVE_DICTIONARY: u32 = 72 << 10;

/// How large a licence file may be, in bytes.
pub const LICENCE: u64 = 256 << 10;

/// The largest file of the font configuration that is read, in bytes.
pub const FONT_CONFIGURATION: u64 = 1 << 20;

/// How deep font folders are searched.
pub const FONT_FOLDERS_DEPTH: usize = 8;

/// How many font files are looked at.
pub const FONT_FILES: usize = 20_000;

/// How many configuration files are read.
pub const FONT_CONFIGURATIONS: usize = 500;

/// How long the system's font configuration may take for an answer: reading a large folder for the
/// first time takes a while.
pub const FONT_ORDER_TIME: Duration = Duration::from_secs(20);

/// The largest note of which options were stated, in bytes.
pub const STATED_NOTE: u64 = 1 << 20;

/// How long a server may take for an answer, also on a busy machine.
pub const OPTIONS_TIME: Duration = Duration::from_secs(4);

/// How long one editor may take for all its answers, also on a busy machine.
pub const GROUPS_TIME: Duration = Duration::from_secs(6);

/// How long it may take for the first.
pub const GROUPS_FIRST_TIME: Duration = Duration::from_secs(3);

/// The largest note a shell leaves, in bytes.
pub const SHELL_NOTE: u64 = 4096;

/// The most that is read of one answer, in bytes.
pub const ANSWER: u64 = 4 << 20;

/// The most a file's attributes can have, in bytes (the kernel's own limit).
pub const ATTRIBUTES: usize = 64 << 10;

/// How long a program may take that is started to be asked.
pub const ASKED: Duration = Duration::from_secs(10);

/// How many entries of a folder are looked at to tell its languages.
pub const FOLDER_ENTRIES: usize = 4096;

/// The longest line that is read of git's own files, in bytes.
pub const GIT_LINE: u64 = 4096;

/// How much is read of git's log of what is checked out and of its packed names, in bytes.
pub const GIT_LOG: u64 = 16 << 20;

/// The largest file in which the system tells one fact, in bytes: it says that each has a page.
pub const SYSTEM_FACT: u64 = 4096;

/// How often a prompt is drawn to measure it, and how often that is done.
pub const COST_DRAWS: u32 = 40;
/// Runs of which the middle counts.
pub const COST_RUNS: usize = 5;

/// How long one run may take.
pub const COST_TIME: Duration = Duration::from_secs(60);
