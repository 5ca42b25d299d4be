//! What a frame changed, in escapes: each cell's style in one sequence (SGR, ECMA-48 8.3.117), and
//! only what differs from the cell before.

use std::fmt::{self, Write as _};
use std::io::{self, Write};

use crossterm::cursor::{Hide, MoveTo, Show};
use crossterm::terminal::{self, Clear};
use crossterm::{execute, queue};
use ratatui_core::backend::{Backend, ClearType, WindowSize};
use ratatui_core::buffer::Cell;
use ratatui_core::layout::{Position, Size};
use ratatui_core::style::{Color, Modifier};

/// The attributes with the parameter that switches each on and the one that switches it off. Where two
/// share the latter, what stays on is switched on again.
const ATTRIBUTES: [(Modifier, u8, u8); 9] = [
    (Modifier::BOLD, 1, 22),
    (Modifier::DIM, 2, 22),
    (Modifier::ITALIC, 3, 23),
    (Modifier::UNDERLINED, 4, 24),
    (Modifier::SLOW_BLINK, 5, 25),
    (Modifier::RAPID_BLINK, 6, 25),
    (Modifier::REVERSED, 7, 27),
    (Modifier::HIDDEN, 8, 28),
    (Modifier::CROSSED_OUT, 9, 29),
];

/// Which of the colors of a cell: the first parameter of a color, the one of the terminal's own, and
/// the first of the eight plain and of the eight bright ones, where there are such.
#[derive(Clone, Copy)]
struct Layer(u8, u8, Option<(u8, u8)>);

const FOREGROUND: Layer = Layer(38, 39, Some((30, 90)));
const BACKGROUND: Layer = Layer(48, 49, Some((40, 100)));
const UNDERLINE: Layer = Layer(58, 59, None);

/// What a cell looks like.
#[derive(Clone, Copy, PartialEq, Eq)]
struct Look {
    fg: Color,
    bg: Color,
    underline: Color,
    modifier: Modifier,
}

impl Look {
    /// The terminal's own.
    const PLAIN: Self = Self {
        fg: Color::Reset,
        bg: Color::Reset,
        underline: Color::Reset,
        modifier: Modifier::empty(),
    };

    const fn of(cell: &Cell) -> Self {
        Self {
            fg: cell.fg,
            bg: cell.bg,
            underline: cell.underline_color,
            modifier: cell.modifier,
        }
    }

    /// The parameters that lead from one look to another.
    fn since(self, before: Self) -> String {
        let mut out = String::new();
        let gone = before.modifier - self.modifier;
        let mut lost = Modifier::empty();
        for (attribute, _, off) in ATTRIBUTES {
            if gone.contains(attribute) && !lost.contains(attribute) {
                let also = ATTRIBUTES.iter().filter(|(_, _, o)| *o == off);
                also.for_each(|(attribute, ..)| lost |= *attribute);
                push(&mut out, format_args!("{off}"));
            }
        }
        let new = self.modifier - (before.modifier - lost);
        for (_, on, _) in ATTRIBUTES.iter().filter(|(a, ..)| new.contains(*a)) {
            push(&mut out, format_args!("{on}"));
        }
        for (now, then, layer) in [
            (self.fg, before.fg, FOREGROUND),
            (self.bg, before.bg, BACKGROUND),
            (self.underline, before.underline, UNDERLINE),
        ] {
            if now != then {
                layer.push(now, &mut out);
            }
        }
        out
    }
}

fn push(out: &mut String, parameter: fmt::Arguments) {
    let before = if out.is_empty() { "" } else { ";" };
    // Writing to memory does not fail.
    let _ = write!(out, "{before}{parameter}");
}

impl Layer {
    fn push(self, color: Color, out: &mut String) {
        let Self(first, own, sixteen) = self;
        let index = match color {
            Color::Reset => return push(out, format_args!("{own}")),
            // A terminal that does not know the third takes what follows for attributes, unless it is
            // part of it.
            Color::Rgb(r, g, b) if sixteen.is_none() => {
                return push(out, format_args!("{first}:2::{r}:{g}:{b}"));
            }
            Color::Rgb(r, g, b) => return push(out, format_args!("{first};2;{r};{g};{b}")),
            Color::Indexed(index) if sixteen.is_some() => {
                return push(out, format_args!("{first};5;{index}"));
            }
            Color::Indexed(index) => index,
            Color::Black => 0,
            Color::Red => 1,
            Color::Green => 2,
            Color::Yellow => 3,
            Color::Blue => 4,
            Color::Magenta => 5,
            Color::Cyan => 6,
            Color::Gray => 7,
            Color::DarkGray => 8,
            Color::LightRed => 9,
            Color::LightGreen => 10,
            Color::LightYellow => 11,
            Color::LightBlue => 12,
            Color::LightMagenta => 13,
            Color::LightCyan => 14,
            Color::White => 15,
        };
        match sixteen {
            Some((plain, _)) if index < 8 => push(out, format_args!("{}", plain + index)),
            Some((_, bright)) => push(out, format_args!("{}", bright + index - 8)),
            None => push(out, format_args!("{first}:5:{index}")),
        }
    }
}

/// Draws on a terminal that is written to.
pub struct Escapes<W: Write>(W);

impl<W: Write> Escapes<W> {
    pub const fn new(out: W) -> Self {
        Self(out)
    }
}

impl<W: Write> Write for Escapes<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.write(bytes)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}

impl<W: Write> Backend for Escapes<W> {
    type Error = io::Error;

    fn draw<'a, I>(&mut self, content: I) -> io::Result<()>
    where
        I: Iterator<Item = (u16, u16, &'a Cell)>,
    {
        let mut worn = Look::PLAIN;
        let mut next = None;
        for (x, y, cell) in content {
            // A wide character takes the cursor further than the next column, which is not drawn.
            if next != Some((x, y)) {
                queue!(self.0, MoveTo(x, y))?;
            }
            next = x.checked_add(1).map(|x| (x, y));
            let look = Look::of(cell);
            if look != worn {
                write!(self.0, "\x1b[{}m", look.since(worn))?;
                worn = look;
            }
            self.0.write_all(cell.symbol().as_bytes())?;
        }
        if worn == Look::PLAIN {
            return Ok(());
        }
        self.0.write_all(b"\x1b[0m")
    }

    fn hide_cursor(&mut self) -> io::Result<()> {
        execute!(self.0, Hide)
    }

    fn show_cursor(&mut self) -> io::Result<()> {
        execute!(self.0, Show)
    }

    fn get_cursor_position(&mut self) -> io::Result<Position> {
        crossterm::cursor::position().map(Position::from)
    }

    fn set_cursor_position<P: Into<Position>>(&mut self, position: P) -> io::Result<()> {
        let Position { x, y } = position.into();
        execute!(self.0, MoveTo(x, y))
    }

    fn clear(&mut self) -> io::Result<()> {
        self.clear_region(ClearType::All)
    }

    fn clear_region(&mut self, region: ClearType) -> io::Result<()> {
        execute!(
            self.0,
            Clear(match region {
                ClearType::All => terminal::ClearType::All,
                ClearType::AfterCursor => terminal::ClearType::FromCursorDown,
                ClearType::BeforeCursor => terminal::ClearType::FromCursorUp,
                ClearType::CurrentLine => terminal::ClearType::CurrentLine,
                ClearType::UntilNewLine => terminal::ClearType::UntilNewLine,
            })
        )
    }

    fn size(&self) -> io::Result<Size> {
        terminal::size().map(Size::from)
    }

    fn window_size(&mut self) -> io::Result<WindowSize> {
        let size = terminal::window_size()?;
        Ok(WindowSize {
            columns_rows: Size::new(size.columns, size.rows),
            pixels: Size::new(size.width, size.height),
        })
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ratatui_core::style::Style;

    fn drawn(cells: &[(u16, u16, &'static str, Style)]) -> String {
        let cells: Vec<_> = cells
            .iter()
            .map(|(x, y, text, style)| {
                let mut cell = Cell::new(text);
                cell.set_style(*style);
                (*x, *y, cell)
            })
            .collect();
        let mut out = Escapes::new(Vec::new());
        out.draw(cells.iter().map(|(x, y, cell)| (*x, *y, cell)))
            .expect("memory");
        String::from_utf8(out.0).expect("text")
    }

    #[test]
    fn a_style_is_one_sequence_and_is_said_once() {
        let style = Style::new().fg(Color::Rgb(1, 2, 3)).bg(Color::Indexed(200));
        let bold = style.add_modifier(Modifier::BOLD);
        assert_eq!(
            drawn(&[(4, 2, "a", bold), (5, 2, "b", bold), (9, 2, "c", style)]),
            "\x1b[3;5H\x1b[1;38;2;1;2;3;48;5;200mab\x1b[3;10H\x1b[22mc\x1b[0m"
        );
        assert_eq!(drawn(&[(0, 0, "a", Style::new())]), "\x1b[1;1Ha");
    }

    #[test]
    fn what_shares_a_switch_stays_on() {
        let both = Style::new().add_modifier(Modifier::BOLD | Modifier::DIM);
        let dim = Style::new().add_modifier(Modifier::DIM);
        assert_eq!(
            drawn(&[(0, 0, "a", both), (1, 0, "b", dim)]),
            "\x1b[1;1H\x1b[1;2ma\x1b[22;2mb\x1b[0m"
        );
    }

    #[test]
    fn the_sixteen_have_their_own_parameters_but_under_lines() {
        let style = |color| Style::new().fg(color).bg(color).underline_color(color);
        assert_eq!(
            drawn(&[
                (0, 0, "a", style(Color::Gray)),
                (1, 0, "b", style(Color::White))
            ]),
            "\x1b[1;1H\x1b[37;47;58:5:7ma\x1b[97;107;58:5:15mb\x1b[0m"
        );
        assert_eq!(
            drawn(&[(0, 0, "a", style(Color::Red)), (1, 0, "b", Style::reset())]),
            "\x1b[1;1H\x1b[31;41;58:5:1ma\x1b[39;49;59mb"
        );
    }
}
