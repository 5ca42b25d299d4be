//! The colors that something is drawn in, and what is drawn in them.

use std::ops::Range;

use wealdmist_core::reading::Value;

use super::format::Before;
use super::parts::held;
use crate::document::sgr::Layer;
use crate::sourced::own::{Piece, say};

/// A color in force: which, and what says it.
pub type Ink = Option<(Value, Range<usize>)>;

/// The colors in force.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Pen {
    pub text: Ink,
    pub ground: Ink,
    pub text_before: Option<Before>,
    pub ground_before: Option<Before>,
}

impl Pen {
    /// What it comes to behind what was drawn in another, whose colors take the place of its own even where it has
    /// none.
    pub fn behind(&self, before: Option<&Self>) -> Self {
        let of = |which: Option<Before>, own: &Ink| match (which, before) {
            (Some(Before::Text), Some(before)) => before.text.clone(),
            (Some(Before::Ground), Some(before)) => before.ground.clone(),
            _ => own.clone(),
        };
        Self {
            text: of(self.text_before, &self.text),
            ground: of(self.ground_before, &self.ground),
            text_before: None,
            ground_before: None,
        }
    }

    pub const fn depends(&self) -> bool {
        self.text_before.is_some() || self.ground_before.is_some()
    }
}

/// What is drawn, in all its detail; and as the parts of a design, to which the texts of their modules belong.
#[derive(Default)]
pub struct Drawn {
    pub read: Vec<Piece>,
    pub design: Vec<Piece>,
}

impl Drawn {
    pub fn push(&mut self, piece: Piece) {
        self.design.push(piece.clone());
        self.read.push(piece);
    }

    pub fn say(&mut self, text: &str) {
        say(&mut self.read, text);
        say(&mut self.design, text);
    }

    pub fn paint(&mut self, from: &Pen, to: &Pen) {
        paint(&mut self.read, from, to);
        paint(&mut self.design, from, to);
    }

    /// The same for a job.
    pub fn paint_for(&mut self, from: &Pen, to: &Pen, job: Option<&'static str>) {
        let mut pieces = Vec::new();
        paint(&mut pieces, from, to);
        self.design.extend(pieces.iter().cloned());
        match job {
            _ if pieces.is_empty() => {}
            Some(job) => self.read.push(Piece::Either(vec![(Some(job), pieces)])),
            None => self.read.append(&mut pieces),
        }
    }

    /// What is drawn only together with a part.
    pub fn held(&mut self, mut inner: Self) {
        self.read.append(&mut inner.read);
        self.design.append(&mut held(inner.design));
    }
}

/// A side painted in a color, or as the terminal has it.
fn painted(layer: Layer, ink: &Ink) -> Piece {
    let (color, part) = match ink {
        Some((value, part)) => (Some(value.clone()), part.clone()),
        None => (None, 0..0),
    };
    Piece::Paint { layer, color, part }
}

/// From one pen to another.
pub fn paint(out: &mut Vec<Piece>, from: &Pen, to: &Pen) {
    let inks = [
        (Layer::Text, &from.text, &to.text),
        (Layer::Ground, &from.ground, &to.ground),
    ];
    let changed = inks.into_iter().filter(|(_, from, to)| from != to);
    out.extend(changed.map(|(layer, _, to)| painted(layer, to)));
}

/// A pen, whatever was painted before.
pub fn repaint(out: &mut Vec<Piece>, pen: &Pen) {
    out.push(painted(Layer::Text, &pen.text));
    out.push(painted(Layer::Ground, &pen.ground));
}
