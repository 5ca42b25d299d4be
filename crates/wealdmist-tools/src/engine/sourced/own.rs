//! A prompt of the person's own, whatever shell draws it: what it sets colors with, and what it draws in them.

use std::ops::Range;

use wealdmist_core::property::Property;
use wealdmist_core::reading::{Reading, ToolReport, Value};
use wealdmist_core::role::RoleId;

use crate::document::sgr::Layer;
use crate::sourced::{OwnPrompt, Stretch};

/// What a prompt is made of, in its order.
#[derive(Debug, Clone, PartialEq)]
pub enum Piece {
    /// From here on text or ground has a color.
    Paint {
        /// Which of the two.
        layer: Layer,
        /// The color; `None` where it goes back to the terminal's.
        color: Option<Value>,
        /// What says it, in the prompt's text.
        part: Range<usize>,
    },
    /// Something is drawn.
    Drawn {
        /// What it tells, where that is known.
        job: Option<&'static str>,
        /// Whether there is ink in it.
        ink: bool,
    },
    /// One of these, each with the job that its colors have whatever is drawn in them.
    Either(Vec<(Option<&'static str>, Vec<Self>)>),
}

/// The colors in force, with the job a condition gave them.
#[derive(Debug, Clone, Default, PartialEq)]
struct Pen {
    text: Option<(Value, Range<usize>)>,
    ground: Option<(Value, Range<usize>)>,
    job: Option<&'static str>,
}

/// The most states of the pen that are followed.
const MOST: usize = 8;

struct Reader<'a, 'b> {
    own: &'a OwnPrompt<'b>,
    key: &'static str,
    report: &'a mut ToolReport,
    stretches: &'a mut Vec<Stretch>,
    segments: usize,
}

/// Reads the colors of a prompt, which is that of a key.
pub fn read(
    own: &OwnPrompt<'_>,
    key: &'static str,
    pieces: &[Piece],
    report: &mut ToolReport,
    stretches: &mut Vec<Stretch>,
) {
    let theme = Value::Text(format!("{key} of its own"));
    let role = RoleId::from(Property::Theme);
    // What nobody wrote is the shell's own.
    let Some(mut r) = own.reading(role, key, theme, 0..0) else {
        return;
    };
    r.editable = false;
    report.readings.push(r);
    let mut reader = Reader {
        own,
        key,
        report,
        stretches,
        segments: 0,
    };
    reader.all(pieces, vec![Pen::default()]);
}

impl Reader<'_, '_> {
    fn all(&mut self, pieces: &[Piece], mut pens: Vec<Pen>) -> Vec<Pen> {
        for piece in pieces {
            match piece {
                Piece::Paint { layer, color, part } => {
                    let new = color.clone().map(|color| (color, part.clone()));
                    for pen in &mut pens {
                        match layer {
                            Layer::Text => {
                                pen.text.clone_from(&new);
                                pen.job = None;
                            }
                            Layer::Ground => pen.ground.clone_from(&new),
                        }
                    }
                }
                Piece::Drawn { job, ink } => self.drawn(*job, *ink, &pens),
                Piece::Either(ways) => {
                    let mut after: Vec<Pen> = Vec::new();
                    for (job, pieces) in ways {
                        let before = pens.clone();
                        let mut pens = self.all(pieces, pens.clone());
                        for (pen, old) in pens.iter_mut().zip(&before) {
                            if pen.text != old.text {
                                pen.job = pen.job.or(*job);
                            }
                        }
                        after.extend(pens);
                    }
                    pens = Vec::new();
                    for pen in after {
                        if !pens.contains(&pen) && pens.len() < MOST {
                            pens.push(pen);
                        }
                    }
                }
            }
        }
        pens
    }

    fn drawn(&mut self, job: Option<&'static str>, ink: bool, pens: &[Pen]) {
        if pens.iter().any(|pen| pen.ground.is_some()) {
            self.segments += 1;
        }
        for pen in pens {
            let job = pen.job.or(job);
            if job.is_none() && pen.ground.is_none() && !(ink && pen.text.is_some()) {
                continue;
            }
            let joins = job.is_none() && pen.ground.is_some();
            let text_role = match (job, joins) {
                (Some(job), _) => RoleId::known(job),
                (None, true) => RoleId::new(format!("prompt.{}.text", self.segments)),
                (None, false) => RoleId::known("prompt.text"),
            };
            let ground_role = RoleId::new(format!("prompt.{}.ground", self.segments));
            let text = self.add(pen.text.as_ref(), text_role);
            let ground = self.add(pen.ground.as_ref(), ground_role);
            self.stretches.push(Stretch {
                text,
                ground,
                joins,
            });
        }
    }

    fn add(&mut self, found: Option<&(Value, Range<usize>)>, role: RoleId) -> Option<usize> {
        let (color, part) = found?;
        let reading = self
            .own
            .reading(role, self.key, color.clone(), part.clone())?;
        let readings = &mut self.report.readings;
        // One escape may color several stretches; it is one reading.
        let same = |r: &Reading| {
            !reading.place.span.is_empty()
                && r.place == reading.place
                && r.value == reading.value
                && r.standing == reading.standing
        };
        if let Some(i) = readings.iter().position(same) {
            return Some(i);
        }
        readings.push(reading);
        Some(readings.len() - 1)
    }
}
