//! A prompt in its situations, below one another.

use super::Specimen;
use super::canvas::{Canvas, Ink, TEXT};
use super::shell::put_pieces;
use crate::look::Look;
use crate::prompt::{Design, Situation, cells_of, draw, past};

/// How a situation's name is written.
const NAME: Ink = Ink("comment", "background");

impl Specimen {
    /// Draws a design in situations, each below its name and as wide as its window, and last as it is once a
    /// command was entered. As high as that takes.
    #[must_use]
    pub fn of_situations(
        design: &Design,
        look: &Look,
        situations: &[Situation],
        width: usize,
    ) -> Self {
        let narrowed = |at: &Situation| Situation {
            width: at.width.min(width),
            ..at.clone()
        };
        let mut all: Vec<(&str, Situation, _)> = Vec::new();
        for at in situations {
            let at = narrowed(at);
            let rows = draw(design, true, &at);
            all.push((at.name, at, rows));
        }
        let at = narrowed(&Situation::sample());
        let rows = past(design, true, &at);
        all.push(("once a command was entered", at, rows));
        let height = all.iter().map(|(_, _, rows)| rows.len() + 2).sum::<usize>() - 1;
        let mut canvas = Canvas::new(look, width.max(1), height);
        let mut row = 0;
        for (name, at, rows) in &all {
            canvas.put(row, 0, name, NAME, "situation");
            row += 1;
            for (n, line) in rows.iter().enumerate() {
                let column = put_pieces(&mut canvas, row, 0, &line.left);
                if !line.right.is_empty() {
                    let from = (at.width.saturating_sub(1)).saturating_sub(cells_of(&line.right));
                    put_pieces(&mut canvas, row, from, &line.right);
                }
                if n + 1 == rows.len() {
                    canvas.put(row, column, "▏", TEXT, "where one types");
                }
                row += 1;
            }
            row += 1;
        }
        canvas.finish()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::prompt::ready;
    use crate::setup::SetupDoc;

    #[test]
    fn every_situation_is_drawn_with_its_name() {
        let doc = SetupDoc::parse("s", b"[palettes.a]\n").unwrap();
        for ready in ready::ALL {
            let doc = doc.with_prompt(ready.toml).unwrap();
            let design = doc.setup().prompt_at(doc.setup().symbols);
            let look = Look::new(doc.setup());
            let drawn = Specimen::of_situations(&design, &look, &Situation::all(), 76);
            let rows: Vec<String> = drawn
                .cells
                .chunks(drawn.width)
                .map(|r| r.iter().map(|c| c.text.as_str()).collect::<String>())
                .collect();
            for at in Situation::all() {
                assert!(rows.iter().any(|r| r.trim_end() == at.name), "{}", at.name);
            }
            assert_eq!(
                rows.iter().filter(|r| r.contains('▏')).count(),
                Situation::all().len() + 1
            );
        }
    }
}
