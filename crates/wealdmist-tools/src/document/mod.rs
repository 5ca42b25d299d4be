//! Document syntaxes: what stands where in a file, as spans of its bytes.
//!
//! Nothing here prints a document back: an edit is a splice of the original bytes, so whatever a
//! parser does not understand stays as it is.

pub mod commands;
pub mod fish;
pub mod gated;
pub mod json;
pub mod lines;
pub mod lua;
pub(crate) mod lua_words;
pub mod notation;
pub mod resources;
pub mod settings;
pub mod sgr;
pub mod shell;
pub mod sided;
pub mod toml;
pub mod view;
pub mod vim;
pub mod yaml;

/// Where a text nests deeper than any dotfile or palette does: brackets, or elements of XML. Those in strings
/// count too, which only makes it stricter.
#[must_use]
pub fn too_deep(text: &str) -> Option<usize> {
    const MOST: usize = 120;
    let (mut brackets, mut elements, mut line) = (0usize, 0usize, 1);
    let bytes = text.as_bytes();
    for (i, byte) in bytes.iter().enumerate() {
        match byte {
            b'\n' => line += 1,
            b'[' | b'{' => brackets += 1,
            b']' | b'}' => brackets = brackets.saturating_sub(1),
            b'<' => match bytes.get(i + 1) {
                Some(b'/') => elements = elements.saturating_sub(1),
                Some(b'?' | b'!') => {}
                _ => elements += 1,
            },
            b'/' if bytes.get(i + 1) == Some(&b'>') => elements = elements.saturating_sub(1),
            _ => {}
        }
        if brackets > MOST || elements > MOST {
            return Some(line);
        }
    }
    // A block of YAML is nested by blanks.
    let deep = |line: &str| line.len() - line.trim_start_matches([' ', '-']).len() > 8 * MOST;
    text.lines().position(deep).map(|n| n + 1)
}
