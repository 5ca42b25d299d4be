//! A prompt in its situations, below one another.

use super::canvas::{Canvas, Ink, TEXT};
use super::shell::put_pieces;
use super::{Cell, Specimen, Spot};
use crate::look::Look;
use crate::prompt::{Design, Row, Situation, cells_of, draw, going_on, past};

/// What the situation is called in which a command was entered.
pub const ENTERED: &str = "once a command was entered";

/// The same where a command goes on in a further line.
pub const GOES_ON: &str = "a command that goes on";

/// How a situation's name is written.
const NAME: Ink = Ink("prompt.time", "background");

/// Which prompt of a design it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Moment {
    /// The one where a command is typed.
    #[default]
    Now,
    /// What remains of it once the command was entered.
    Entered,
    /// What stands before a further line of an unfinished command.
    GoesOn,
}

/// A design in a situation.
#[derive(Debug, Clone)]
pub struct Scene<'a> {
    /// What it is called.
    pub name: String,
    /// The design, at a symbol level.
    pub design: &'a Design,
    /// The look it is drawn in.
    pub look: &'a Look,
    /// The situation.
    pub at: Situation,
    /// Which of its prompts it is.
    pub moment: Moment,
}

impl Scene<'_> {
    /// The situation in a window of at most so many columns.
    fn narrowed(&self, width: usize) -> Situation {
        Situation {
            width: self.at.width.min(width),
            ..self.at.clone()
        }
    }

    /// Its lines in a window of at most so many columns.
    #[must_use]
    pub fn rows(&self, width: usize) -> Vec<Row> {
        let at = self.narrowed(width);
        match self.moment {
            Moment::Now => draw(self.design, true, &at),
            Moment::Entered => past(self.design, true, &at),
            Moment::GoesOn => vec![going_on(self.design)],
        }
    }

    /// Whether a part of the design is to be seen in it.
    #[must_use]
    pub fn shows(&self, part: usize, width: usize) -> bool {
        let rows = self.rows(width);
        let mut pieces = rows.iter().flat_map(|r| r.left.iter().chain(&r.right));
        pieces.any(|p| p.part == Some(part))
    }

    /// How many rows it takes, its name included.
    #[must_use]
    pub fn height(&self, width: usize) -> usize {
        1 + self.rows(width).len()
    }

    fn drawn(&self, width: usize) -> Specimen {
        let (at, rows) = (self.narrowed(width), self.rows(width));
        let mut canvas = Canvas::new(self.look, width.max(1), rows.len() + 1);
        canvas.put(0, 0, &self.name, NAME, "situation");
        for (n, line) in rows.iter().enumerate() {
            let row = n + 1;
            let column = put_pieces(&mut canvas, row, 0, &line.left);
            if !line.right.is_empty() {
                let from = (at.width.saturating_sub(1)).saturating_sub(cells_of(&line.right));
                put_pieces(&mut canvas, row, from, &line.right);
            }
            if n + 1 == rows.len() {
                canvas.put(row, column, "▏", TEXT, "where one types");
            }
        }
        canvas.finish()
    }
}

impl Specimen {
    /// Draws designs in situations, each below its name and as wide as its window, with so many rows
    /// between them. As high as that takes.
    #[must_use]
    pub fn of_scenes(scenes: &[Scene<'_>], width: usize, between: usize) -> Self {
        let mut all: Vec<Self> = Vec::new();
        for scene in scenes {
            if !all.is_empty() && between > 0 {
                all.push(Canvas::new(scene.look, width.max(1), between).finish());
            }
            all.push(scene.drawn(width));
        }
        Self::stacked(all, width.max(1))
    }

    /// Specimens of one width below one another.
    fn stacked(all: Vec<Self>, width: usize) -> Self {
        let mut out = Self {
            width,
            height: 0,
            cells: Vec::new(),
            spots: Vec::new(),
        };
        for one in all {
            let (before, row) = (out.spots.len(), out.height);
            out.cells.extend(one.cells.into_iter().map(|cell| Cell {
                spot: cell.spot.map(|s| s + before),
                ..cell
            }));
            out.spots.extend(one.spots.into_iter().map(|spot| Spot {
                at: (spot.at.0 + row, spot.at.1),
                ..spot
            }));
            out.height += one.height;
        }
        out
    }

    /// Draws a design in situations, and last as it is once a command was entered.
    #[must_use]
    pub fn of_situations(
        design: &Design,
        look: &Look,
        situations: &[Situation],
        width: usize,
    ) -> Self {
        let scene = |name: &str, at: &Situation, moment| Scene {
            name: name.to_owned(),
            design,
            look,
            at: at.clone(),
            moment,
        };
        let mut all: Vec<Scene<'_>> = (situations.iter())
            .map(|at| scene(at.name, at, Moment::Now))
            .collect();
        let sample = Situation::sample();
        all.push(scene(ENTERED, &sample, Moment::Entered));
        all.push(scene(GOES_ON, &sample, Moment::GoesOn));
        Self::of_scenes(&all, width, 1)
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
                Situation::all().len() + 2
            );
        }
    }
}
