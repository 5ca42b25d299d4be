//! Writing on a part of the screen: text in tones, cut to fit, never outside the part.

use ratatui_core::buffer::Buffer;
use ratatui_core::layout::Rect;
use ratatui_core::style::Style;
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};
use wealdmist_core::Rgb;
use wealdmist_core::text::{line_range, visible};

use crate::tui::instrument::{Instrument, Signs, Tone, ascii};

/// A pen for one part of the screen. Rows and columns count from its top left.
pub struct Pen<'a> {
    buffer: &'a mut Buffer,
    /// The interface's look.
    pub instrument: &'a Instrument,
    /// The part, in cells of the screen.
    pub area: Rect,
}

impl<'a> Pen<'a> {
    /// A pen for a part of the screen.
    pub fn new(buffer: &'a mut Buffer, instrument: &'a Instrument, area: Rect) -> Self {
        let area = area.intersection(buffer.area);
        Self {
            buffer,
            instrument,
            area,
        }
    }

    /// A pen for another part of the screen.
    pub fn within(&mut self, area: Rect) -> Pen<'_> {
        Pen::new(self.buffer, self.instrument, area)
    }

    /// The signs.
    pub fn signs(&self) -> Signs {
        self.instrument.signs
    }

    /// The width in columns.
    pub fn width(&self) -> usize {
        usize::from(self.area.width)
    }

    /// The height in rows.
    pub fn height(&self) -> usize {
        usize::from(self.area.height)
    }

    /// Writes text in a tone; returns the column after it.
    pub fn text(&mut self, row: usize, column: usize, text: &str, tone: Tone) -> usize {
        let style = self.instrument.tone(tone);
        self.styled(row, column, text, style)
    }

    /// Writes text in a style; what does not fit is left off. Returns the column after it.
    pub fn styled(&mut self, row: usize, column: usize, text: &str, style: Style) -> usize {
        if row >= self.height() || column >= self.width() {
            return column;
        }
        let room = self.width() - column;
        let x = self.area.x + column as u16;
        let plain: String;
        let text = if self.instrument.unicode {
            text
        } else {
            plain = text.chars().map(ascii).collect();
            &plain
        };
        let (end, _) = self
            .buffer
            .set_stringn(x, self.area.y + row as u16, text, room, style);
        usize::from(end - self.area.x)
    }

    /// Writes text in at most `width` columns, with a sign where it was cut.
    pub fn cut(
        &mut self,
        row: usize,
        column: usize,
        text: &str,
        width: usize,
        tone: Tone,
    ) -> usize {
        let style = self.instrument.tone(tone);
        self.cut_styled(row, column, text, width, style)
    }

    /// Writes text in lines of at most `width` columns, broken at blanks; what does not fit `rows`
    /// lines is cut. Returns how many lines it took.
    pub fn paragraph(
        &mut self,
        row: usize,
        column: usize,
        text: &str,
        (width, rows): (usize, usize),
        tone: Tone,
    ) -> usize {
        let width = width.min(self.width().saturating_sub(column)).max(1);
        let lines = textwrap::wrap(text, width);
        let kept = lines.len().min(rows);
        for (i, line) in lines.iter().take(kept).enumerate() {
            // The last one kept has the rest behind it, to be cut.
            let rest: Vec<&str> = match i + 1 == kept {
                true => lines[i..].iter().map(AsRef::as_ref).collect(),
                false => vec![line],
            };
            self.cut(row + i, column, &rest.join(" "), width, tone);
        }
        kept
    }

    /// Like [`Self::cut`], in a style.
    pub fn cut_styled(
        &mut self,
        row: usize,
        column: usize,
        text: &str,
        width: usize,
        style: Style,
    ) -> usize {
        let width = width.min(self.width().saturating_sub(column));
        let shown = shorten(text, width, self.signs().more);
        self.styled(row, column, &shown, style)
    }

    /// Writes text that ends at a column.
    pub fn right(&mut self, row: usize, end: usize, text: &str, tone: Tone) {
        let start = end.saturating_sub(text.width());
        self.text(row, start, text, tone);
    }

    /// Draws a swatch two cells wide; returns the column after it. Without color it is left out.
    pub fn swatch(&mut self, row: usize, column: usize, color: Rgb) -> usize {
        let style = self.instrument.swatch(color);
        if self.instrument.color(color).is_none() {
            return column;
        }
        let swatch = self.signs().swatch;
        self.styled(row, column, swatch, style)
    }

    /// Changes the style of a stretch that has been written.
    pub fn restyle(
        &mut self,
        row: usize,
        columns: std::ops::Range<usize>,
        change: impl Fn(Style) -> Style,
    ) {
        let y = self.area.y + row as u16;
        for column in columns.start..columns.end.min(self.width()) {
            if row < self.height()
                && let Some(cell) = self.buffer.cell_mut((self.area.x + column as u16, y))
            {
                let style = change(cell.style());
                cell.set_style(style);
            }
        }
    }

    /// Marks a row as the one pointed at.
    pub fn choose_row(&mut self, row: usize, columns: std::ops::Range<usize>) {
        let instrument = self.instrument;
        self.restyle(row, columns, |s| instrument.chosen(s));
    }

    /// A rule from column to column.
    pub fn rule(&mut self, row: usize, columns: std::ops::Range<usize>) {
        let line = self.signs().horizontal.repeat(columns.len());
        self.text(row, columns.start, &line, Tone::Faint);
    }

    /// Clears the part.
    pub fn clear(&mut self) {
        let ground = self.instrument.ground();
        for position in self.area.positions() {
            if let Some(cell) = self.buffer.cell_mut(position) {
                cell.reset();
                cell.set_style(ground);
            }
        }
    }

    /// A rectangle of the part, in cells of the screen, for clicks.
    pub fn place(&self, row: usize, columns: std::ops::Range<usize>) -> Rect {
        let x = self.area.x + columns.start as u16;
        Rect::new(x, self.area.y + row as u16, columns.len() as u16, 1)
    }
}

/// Shows the line of a file that holds a span, with the span marked. A long line is shown from
/// where the span can be seen.
pub fn draw_excerpt(bytes: &[u8], span: &std::ops::Range<usize>, pen: &mut Pen, row: usize) {
    let line = line_range(bytes, span.start);
    let start = span.start.clamp(line.start, line.end);
    let end = span.end.clamp(start, line.end);
    let head = visible(&bytes[line.start..start]);
    let marked = visible(&bytes[start..end]);
    let tail = visible(&bytes[end..line.end]);
    let head = head.trim_start();
    let needed = head.chars().count() + marked.chars().count() + 8;
    let head: String = head
        .chars()
        .skip(needed.saturating_sub(pen.width()))
        .collect();
    let column = pen.text(row, 3, &head, Tone::Quiet);
    let column = pen.text(row, column, &marked, Tone::Strong);
    pen.text(row, column, &tail, Tone::Quiet);
}

/// Text in at most `width` columns; what is cut off is marked by a sign at the end.
#[must_use]
pub fn shorten(text: &str, width: usize, more: &str) -> String {
    if text.width() <= width {
        return text.to_owned();
    }
    let keep = width.saturating_sub(more.width());
    let mut out = String::new();
    let mut used = 0;
    for c in text.chars() {
        let w = c.width().unwrap_or(0);
        if used + w > keep {
            break;
        }
        used += w;
        out.push(c);
    }
    if width > 0 {
        out.push_str(more);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn cut_text_says_so_and_fits() {
        assert_eq!(shorten("abcdef", 6, "…"), "abcdef");
        assert_eq!(shorten("abcdefg", 6, "…"), "abcde…");
        assert_eq!(shorten("字字字", 5, "…"), "字字…");
        assert_eq!(shorten("abc", 0, "…"), "");
    }
}
