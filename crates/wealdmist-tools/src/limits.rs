//! Bounds on the dotfiles: what is larger or deeper is not read, and that is said.

/// The largest dotfile that is read, in bytes. Real ones have a few thousand lines, about a tenth of this; more is
/// a wrong file. One as large as this takes up to 0.4 s.
pub const FILE: u64 = 1 << 20;

/// How deep includes may lead.
pub const INCLUDES: usize = 16;

/// How many times one tool's files may be read, each of several includes of a file counted.
pub const READS: usize = 256;

/// How many commands of a startup file are looked at, those of functions and loops each time.
pub const STEPS: usize = 20_000;

/// How many statements and expressions of an editor's files are looked at, those of functions and
/// loops each time.
pub const EDITOR_STEPS: usize = 400_000;

/// How deep calls, blocks and expressions of an editor's files may nest.
pub const EDITOR_DEPTH: usize = 300;

/// How often an editor's files may put off what they do.
pub const EDITOR_TURNS: usize = 12;

/// How many things they may put off each time.
pub const EDITOR_PUT_OFF: usize = 200;

/// How many values a YAML file may come to with what its aliases stand for.
pub const YAML: usize = 200_000;

/// How deep braces may nest.
pub const BLOCKS: usize = 64;

/// The largest Lua file that is parsed, in bytes; a hand-written one has a few thousand lines.
pub const LUA: usize = 512 << 10;

/// How deep blocks and brackets may nest; hand-written files nest a dozen deep.
pub const LUA_NESTING: usize = 150;

/// How many operators one expression may have.
pub const LUA_OPERATORS: usize = 1000;

/// How many signs may stand before one operand.
pub const LUA_SIGNS: usize = 100;
