//! Lines of the dotfiles with something marked in them, in the draft's colors.

use unicode_width::UnicodeWidthStr;

use super::Specimen;
use super::canvas::{Canvas, Ink, TEXT};
use crate::look::Look;

/// How a place is told.
const PLACE: Ink = Ink("comment", "background");
/// What is marked.
const MARKED: Ink = Ink("search.text", "search.ground");
/// What is to stand there.
const BECOMES: Ink = Ink("diff.added.text", "diff.added.ground");
/// The columns before a line.
const INDENT: usize = 2;

/// A line of a file with a part of it marked.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Excerpt {
    /// Where it is.
    pub place: String,
    /// What stands before the part.
    pub before: String,
    /// The part.
    pub part: String,
    /// What stands behind it.
    pub after: String,
    /// What is to stand in place of the part, where it is to change.
    pub becomes: Option<String>,
}

impl Specimen {
    /// Draws lines of files below one another, as many as find room. Texts are drawn as they are: they
    /// must hold no control characters.
    #[must_use]
    pub fn of_excerpts(look: &Look, width: usize, height: usize, excerpts: &[Excerpt]) -> Self {
        let mut canvas = Canvas::new(look, width.max(1), height.max(1));
        let mut row = 0;
        for (n, excerpt) in excerpts.iter().enumerate() {
            let rows = 2 + usize::from(excerpt.becomes.is_some());
            let rest = excerpts.len() - n;
            // The last row says what did not find room.
            if row + rows + usize::from(rest > 1) > canvas.height {
                let text = format!("and {rest} more");
                canvas.put(canvas.height - 1, 0, &text, PLACE, "what found no room");
                break;
            }
            canvas.put(row, 0, &excerpt.place, PLACE, "where it is written");
            line(&mut canvas, row + 1, excerpt, &excerpt.part, MARKED);
            if let Some(text) = &excerpt.becomes {
                line(&mut canvas, row + 2, excerpt, text, BECOMES);
            }
            row += rows + 1;
        }
        canvas.finish()
    }
}

/// Draws a line so that its part is seen.
fn line(canvas: &mut Canvas, row: usize, excerpt: &Excerpt, part: &str, ink: Ink) {
    let room = canvas.width.saturating_sub(INDENT + part.width());
    // A third of the room is left to what stands behind it.
    let before = tail(&excerpt.before, room - room / 3);
    let mut column = INDENT;
    if before.len() < excerpt.before.len() {
        column = canvas.put(row, column - 1, "…", PLACE, "the line goes on");
    }
    if !before.is_empty() {
        column = canvas.put(row, column, before, TEXT, "the line");
    }
    if !part.is_empty() {
        column = canvas.put(row, column, part, ink, "what is pointed at");
    }
    canvas.put(row, column, &excerpt.after, TEXT, "the line");
}

/// The end of a text that takes at most so many cells.
fn tail(text: &str, cells: usize) -> &str {
    let mut start = text.len();
    for (at, _) in text.char_indices().rev() {
        if text[at..].width() > cells {
            break;
        }
        start = at;
    }
    &text[start..]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::setup::SetupDoc;

    fn excerpt(before: &str, becomes: Option<&str>) -> Excerpt {
        Excerpt {
            place: "~/.bashrc:3".into(),
            before: before.into(),
            part: "↳".into(),
            after: " \\w'".into(),
            becomes: becomes.map(Into::into),
        }
    }

    fn rows(width: usize, height: usize, excerpts: &[Excerpt]) -> Vec<String> {
        let doc = SetupDoc::parse("s", b"[palettes.a]\n").unwrap();
        let drawn = Specimen::of_excerpts(&Look::new(doc.setup()), width, height, excerpts);
        let row = |cells: &[super::super::Cell]| {
            let text: String = cells.iter().map(|c| c.text.as_str()).collect();
            text.trim_end().to_owned()
        };
        drawn.cells.chunks(drawn.width).map(row).collect()
    }

    #[test]
    fn a_line_is_shown_with_what_it_becomes() {
        let shown = rows(40, 4, &[excerpt("PS1='", Some("@"))]);
        assert_eq!(shown, ["~/.bashrc:3", "  PS1='↳ \\w'", "  PS1='@ \\w'", ""]);
    }

    #[test]
    fn the_marked_part_is_seen_however_long_its_line() {
        let shown = rows(24, 2, &[excerpt(&"x".repeat(500), None)]);
        assert!(shown[1].starts_with(" …xxx"), "{shown:?}");
        assert!(shown[1].contains('↳'), "{shown:?}");
    }

    #[test]
    fn what_finds_no_room_is_counted() {
        let many = vec![excerpt("PS1='", None); 5];
        let shown = rows(40, 7, &many);
        assert_eq!(shown[6], "and 3 more");
        assert_eq!(rows(40, 14, &many)[13], "  PS1='↳ \\w'");
    }
}
