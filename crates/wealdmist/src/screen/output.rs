//! Output for people: what comes from files and setups cannot act on the terminal.

use std::io::{self, Write};

use wealdmist_core::character::is_treacherous;

/// Standard output for people: text from files and setups cannot act on the terminal, and a
/// reader that went away is reported instead of causing a panic.
pub fn out() -> io::BufWriter<Harmless> {
    io::BufWriter::new(Harmless(io::stdout()))
}

/// Writes bytes as they are to a reader that is no terminal, or what was made harmless before.
pub fn piped(bytes: &[u8]) -> io::Result<()> {
    let mut out = io::stdout();
    out.write_all(bytes)?;
    out.flush()
}

/// The same for a line at a time, so that what fails is known.
pub fn line_out() -> Harmless {
    Harmless(io::stdout())
}

/// Prints a line to the error output; see `warn!`.
pub fn warn(text: std::fmt::Arguments) {
    let text = format!("{text}\n");
    let mut out = io::stderr();
    let _ = out.write_all(&harmless(text.as_bytes()));
    let _ = out.flush();
}

/// A writer that lets no control character through but line ends.
pub struct Harmless(io::Stdout);

impl Write for Harmless {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.write_all(&harmless(bytes))?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}

/// The same bytes with a `?` for each byte of a control character or a mark of direction, so that
/// places stay.
pub fn harmless(bytes: &[u8]) -> Vec<u8> {
    let mut out = bytes.to_vec();
    for i in 0..out.len() {
        // C1 controls are two bytes in UTF-8: 0xc2 and 0x80 to 0x9f.
        let second = i > 0 && bytes[i - 1] == 0xc2 && (0x80..=0x9f).contains(&bytes[i]);
        if second {
            out[i - 1] = b'?';
        }
        let marks = marks_of_direction(&bytes[i..]);
        out[i..i + marks].fill(b'?');
        if second || bytes[i] == 0x7f || (bytes[i] < 0x20 && !matches!(bytes[i], b'\n' | b'\t')) {
            out[i] = b'?';
        }
    }
    out
}

/// How many bytes a mark of direction has that these begin with; 0 where they begin with none.
fn marks_of_direction(bytes: &[u8]) -> usize {
    match bytes {
        [0xd8, 0x9c, ..] => 2,
        [0xe2, 0x80, 0x8e | 0x8f | 0xa8..=0xae, ..] | [0xe2, 0x81, 0xa6..=0xa9, ..] => 3,
        _ => 0,
    }
}

/// Prints JSON, in which what a terminal would act on is escaped.
pub fn print_json(value: &serde_json::Value) -> io::Result<()> {
    let mut out = out();
    let mut text = String::new();
    for c in format!("{value:#}").chars() {
        match c {
            '\n' => text.push(c),
            c if is_treacherous(c) => text.push_str(&format!("\\u{:04x}", c as u32)),
            c => text.push(c),
        }
    }
    writeln!(out, "{text}")?;
    out.flush()?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::harmless;

    #[test]
    fn nothing_a_terminal_acts_on_is_let_through() {
        assert_eq!(
            harmless("a\x1b[31m\u{9b}é\n\t\r".as_bytes()),
            "a?[31m??é\n\t?".as_bytes()
        );
        assert_eq!(
            harmless("a\u{202e}b\u{61c}é\u{2066}".as_bytes()),
            "a???b??é???".as_bytes()
        );
    }
}
