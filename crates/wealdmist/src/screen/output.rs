//! Output for people: what comes from files and setups cannot act on the terminal.

use std::io::{self, IsTerminal, Write};
use std::sync::OnceLock;

use wealdmist_core::character::is_treacherous;
use wealdmist_core::color::{Depth, Rgb, nearest_16, nearest_256};
use wealdmist_core::setup::Attrs;

use super::ANSI;

/// How many colors output may have; nothing before it was said.
static DEPTH: OnceLock<Depth> = OnceLock::new();

/// Says how many colors output may have where a terminal shows it.
pub fn prefer(depth: Depth) {
    let _ = DEPTH.set(depth);
}

/// Standard output for people: text from files and setups cannot act on the terminal, and a
/// reader that went away is reported instead of causing a panic. On a terminal it may have colors.
pub fn out() -> Output<io::BufWriter<io::Stdout>> {
    let stdout = io::stdout();
    let depth = match stdout.is_terminal() {
        true => DEPTH.get().copied().unwrap_or(Depth::None),
        false => Depth::None,
    };
    Output {
        inner: io::BufWriter::new(stdout),
        depth,
    }
}

/// Writes bytes as they are to a reader that is no terminal, or what was made harmless before.
pub fn piped(bytes: &[u8]) -> io::Result<()> {
    let mut out = io::stdout();
    out.write_all(bytes)?;
    out.flush()
}

/// The same for a line at a time, so that what fails is known.
pub fn line_out() -> Output<io::Stdout> {
    Output {
        inner: io::stdout(),
        depth: Depth::None,
    }
}

/// Prints a line to the error output; see `warn!`.
pub fn warn(text: std::fmt::Arguments) {
    let text = format!("{text}\n");
    let mut out = io::stderr();
    let _ = out.write_all(&harmless(text.as_bytes()));
    let _ = out.flush();
}

/// How a text is marked on a terminal. Nothing depends on it: a sign or a word says it, too.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Mark {
    /// A heading.
    Strong,
    /// What is there to be looked up.
    Quiet,
    /// Something is wrong.
    Bad,
    /// Something is as it should be.
    Good,
}

/// A writer that lets no control character through but line ends, and sets colors of its own where it
/// may.
pub struct Output<W> {
    inner: W,
    depth: Depth,
}

impl<W: Write> Output<W> {
    /// Two cells of a color and a blank; blanks of the same width where there is none, and nothing where
    /// no color is shown.
    pub fn swatch(&mut self, color: Option<Rgb>) -> io::Result<()> {
        match (color, self.depth) {
            (_, Depth::None) => Ok(()),
            (None, _) => self.inner.write_all(b"   "),
            (Some(color), _) => {
                let ground = self.parameters(color, 48);
                write!(self.inner, "\x1b[{ground}m  \x1b[0m ")
            }
        }
    }

    /// A text in its color on its ground, and a blank; nothing where no color is shown.
    pub fn sample(&mut self, text: &str, color: Rgb, ground: Rgb) -> io::Result<()> {
        if self.depth == Depth::None {
            return Ok(());
        }
        let colors = format!(
            "{};{}",
            self.parameters(color, 38),
            self.parameters(ground, 48)
        );
        write!(self.inner, "\x1b[{colors}m")?;
        self.write_all(text.as_bytes())?;
        self.inner.write_all(b"\x1b[0m ")
    }

    /// A text in colors of its own, either of which may be the terminal's.
    pub fn painted(
        &mut self,
        text: &str,
        (color, ground): (Option<Rgb>, Option<Rgb>),
        attrs: Attrs,
    ) -> io::Result<()> {
        if self.depth == Depth::None {
            return self.write_all(text.as_bytes());
        }
        let mut all = vec!["0".to_owned()];
        let flags = [
            (attrs.bold, "1"),
            (attrs.italic, "3"),
            (attrs.underline, "4"),
        ];
        all.extend(flags.into_iter().filter(|f| f.0).map(|f| f.1.to_owned()));
        all.extend(color.map(|c| self.parameters(c, 38)));
        all.extend(ground.map(|c| self.parameters(c, 48)));
        write!(self.inner, "\x1b[{}m", all.join(";"))?;
        self.write_all(text.as_bytes())?;
        self.inner.write_all(b"\x1b[0m")
    }

    /// Text over columns that are only there with colors.
    pub fn unless_plain(&mut self, text: &str) -> io::Result<()> {
        match self.depth {
            Depth::None => Ok(()),
            _ => self.write_all(text.as_bytes()),
        }
    }

    /// A text with a mark.
    pub fn marked(&mut self, mark: Mark, text: &str) -> io::Result<()> {
        let parameter = match mark {
            Mark::Strong => "1",
            Mark::Quiet => "2",
            Mark::Bad => "31",
            Mark::Good => "32",
        };
        if self.depth == Depth::None {
            return self.write_all(text.as_bytes());
        }
        write!(self.inner, "\x1b[{parameter}m")?;
        self.write_all(text.as_bytes())?;
        self.inner.write_all(b"\x1b[0m")
    }

    /// The parameters of a color for text (38) or ground (48).
    fn parameters(&self, color: Rgb, layer: u8) -> String {
        match self.depth {
            Depth::TrueColor => format!("{layer};2;{};{};{}", color.r, color.g, color.b),
            Depth::Indexed256 => format!("{layer};5;{}", nearest_256(color)),
            _ => {
                let index = nearest_16(color, &ANSI);
                let bright = u8::from(index > 7) * 60;
                format!("{}", layer - 8 + bright + index % 8)
            }
        }
    }
}

impl<W: Write> Write for Output<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.inner.write_all(&harmless(bytes))?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.inner.flush()
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
    use super::*;

    fn written(depth: Depth, write: impl Fn(&mut Output<Vec<u8>>) -> io::Result<()>) -> String {
        let inner = Vec::new();
        let mut out = Output { inner, depth };
        write(&mut out).unwrap();
        String::from_utf8(out.inner).unwrap()
    }

    #[test]
    fn colors_are_shown_where_there_are_any_and_nothing_else_acts() {
        let red = Rgb::from_u32(0xff_0000);
        let swatch = |depth| written(depth, |out| out.swatch(Some(red)));
        assert_eq!(swatch(Depth::TrueColor), "\x1b[48;2;255;0;0m  \x1b[0m ");
        assert_eq!(swatch(Depth::Indexed256), "\x1b[48;5;196m  \x1b[0m ");
        let indexed = nearest_16(red, &ANSI) % 8;
        assert!(swatch(Depth::Ansi16).ends_with(&format!("{indexed}m  \x1b[0m ")));
        assert_eq!(swatch(Depth::None), "");
        assert_eq!(written(Depth::TrueColor, |out| out.swatch(None)), "   ");
        let foreign = |depth| written(depth, |out| out.marked(Mark::Bad, "a\x1b[0mb"));
        assert_eq!(foreign(Depth::Ansi16), "\x1b[31ma?[0mb\x1b[0m");
        assert_eq!(foreign(Depth::None), "a?[0mb");
    }

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
