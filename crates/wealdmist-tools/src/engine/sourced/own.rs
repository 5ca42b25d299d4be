//! A prompt of the person's own, whatever shell draws it: what it sets colors with, and what it draws in them.

use std::collections::HashMap;
use std::ops::Range;

use wealdmist_core::prompt::own::{Own, Stroke, Strokes, What};
use wealdmist_core::prompt::{Kind, Part, When};
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
    /// What a part tells is drawn.
    Tells(Box<Part>),
    /// A text is drawn.
    Says(String),
    /// Something is drawn that no part tells, as it is written.
    Unknown(String),
    /// The way to what stands at the right edge is drawn, with this.
    Stretch(String),
    /// One of these, each with the job that its colors have whatever is drawn in them.
    Either(Vec<(Option<&'static str>, Vec<Self>)>),
}

impl Piece {
    /// What a part tells that is shown whenever it has something to tell, as the person changes it.
    pub fn tells(name: &str, change: impl FnOnce(&mut Part)) -> Self {
        match Part::named(name) {
            Some(mut part) => {
                part.when = When::Always;
                // The person's own texts say it.
                if part.kind != Kind::Input {
                    part.signs = Default::default();
                }
                part.signs_root = None;
                part.text_failed = None;
                part.text_root = None;
                change(&mut part);
                Self::Tells(Box::new(part))
            }
            None => Self::Unknown(name.to_owned()),
        }
    }

    /// The job of what is drawn, where it is known, and whether there is ink in it.
    fn drawn(&self) -> Option<(Option<RoleId>, bool)> {
        match self {
            Self::Tells(part) => Some((Some(part.text.clone()), true)),
            Self::Says(text) => Some((None, !text.trim().is_empty())),
            Self::Unknown(_) => Some((None, true)),
            Self::Stretch(text) => Some((
                Some(RoleId::known("prompt.between")),
                !text.trim().is_empty(),
            )),
            Self::Paint { .. } | Self::Either(_) => None,
        }
    }
}

/// Adds a text to what is drawn.
pub fn say(out: &mut Vec<Piece>, text: &str) {
    match out.last_mut() {
        _ if text.is_empty() => {}
        Some(Piece::Says(so_far)) => so_far.push_str(text),
        _ => out.push(Piece::Says(text.to_owned())),
    }
}

/// The colors in force, with the job a condition gave them.
#[derive(Debug, Clone, Default, PartialEq)]
struct Pen {
    text: Option<(Value, Range<usize>)>,
    ground: Option<(Value, Range<usize>)>,
    job: Option<RoleId>,
}

/// The most states of the pen that are followed.
const MOST: usize = 8;

struct Reader<'a, 'b> {
    own: &'a OwnPrompt<'b>,
    key: &'static str,
    report: &'a mut ToolReport,
    stretches: &'a mut Vec<Stretch>,
    segments: usize,
    /// What the way of a choice is for that is drawn.
    way: Option<RoleId>,
    /// The readings that parts of the prompt have become.
    known: HashMap<Range<usize>, usize>,
    /// The readings of each role and place.
    there: HashMap<(RoleId, Range<usize>), Vec<usize>>,
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
        way: None,
        known: HashMap::new(),
        there: HashMap::new(),
    };
    for i in 0..reader.report.readings.len() {
        reader.take_up(i);
    }
    reader.all(pieces, vec![Pen::default()]);
}

impl Reader<'_, '_> {
    fn all(&mut self, pieces: &[Piece], mut pens: Vec<Pen>) -> Vec<Pen> {
        let mut at = 0;
        while let Some(piece) = pieces.get(at) {
            at += 1;
            match piece {
                Piece::Paint { layer, color, part } => {
                    let new = color.clone().map(|color| (color, part.clone()));
                    for pen in &mut pens {
                        match layer {
                            Layer::Text => {
                                pen.text.clone_from(&new);
                                pen.job.clone_from(&self.way);
                            }
                            Layer::Ground => pen.ground.clone_from(&new),
                        }
                    }
                }
                Piece::Tells(_) | Piece::Says(_) | Piece::Unknown(_) | Piece::Stretch(_) => {
                    // What is drawn in the same colors is one stretch.
                    let (mut job, mut ink) = piece.drawn().unwrap_or_default();
                    while let Some((more, inked)) = pieces.get(at).and_then(Piece::drawn) {
                        job = job.or(more);
                        ink |= inked;
                        at += 1;
                    }
                    self.drawn(job.as_ref(), ink, &pens);
                }
                Piece::Either(ways) => {
                    let mut after: Vec<Pen> = Vec::new();
                    for (job, pieces) in ways {
                        let before = pens.clone();
                        let outer = self.way.clone();
                        self.way = job.map(RoleId::known).or(outer.clone());
                        let mut pens = self.all(pieces, pens.clone());
                        self.way = outer;
                        for (pen, old) in pens.iter_mut().zip(&before) {
                            if pen.text != old.text {
                                pen.job = pen.job.take().or(job.map(RoleId::known));
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

    fn drawn(&mut self, job: Option<&RoleId>, ink: bool, pens: &[Pen]) {
        if pens.iter().any(|pen| pen.ground.is_some()) {
            self.segments += 1;
        }
        for pen in pens {
            let job = pen.job.as_ref().or(job);
            if job.is_none() && pen.ground.is_none() && !(ink && pen.text.is_some()) {
                continue;
            }
            let joins = job.is_none() && pen.ground.is_some();
            let text_role = match (job, joins) {
                (Some(job), _) => job.clone(),
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
        // One escape may color several stretches; it is one reading. What is said once and named twice may have two
        // jobs.
        if let Some(i) = self.known.get(part).filter(|_| !part.is_empty()) {
            return Some(*i);
        }
        let readings = &self.report.readings;
        let same = |r: &Reading| {
            (!reading.place.span.is_empty() || !reading.place.is_written())
                && r.role == reading.role
                && r.place == reading.place
                && r.value == reading.value
                && r.standing == reading.standing
        };
        let key = (reading.role.clone(), reading.place.span.clone());
        let there = self.there.get(&key).into_iter().flatten();
        let found = there.copied().find(|i| same(&readings[*i]));
        let at = found.unwrap_or_else(|| {
            self.report.readings.push(reading);
            self.take_up(self.report.readings.len() - 1)
        });
        self.known.entry(part.clone()).or_insert(at);
        Some(at)
    }

    /// Takes up a reading of the report, so that it is found by its role and place.
    fn take_up(&mut self, i: usize) -> usize {
        let reading = &self.report.readings[i];
        let key = (reading.role.clone(), reading.place.span.clone());
        self.there.entry(key).or_default().push(i);
        i
    }
}

/// The most pieces of a prompt that is made a design.
const LONGEST: usize = 200;

/// A prompt as a design: what is drawn on the left, and what at the right edge, each with the text it stands in.
pub fn design(
    left: (&OwnPrompt<'_>, &[Piece]),
    right: Option<(&OwnPrompt<'_>, &[Piece])>,
    report: &ToolReport,
) -> Option<Own> {
    // What is longer is not drawn by hand.
    let most = |pieces: &[Piece]| pieces.len() <= LONGEST;
    if !most(left.1) || right.is_some_and(|(_, pieces)| !most(pieces)) {
        return None;
    }
    let mut left_out = Vec::new();
    let mut strokes = |(own, pieces): (&OwnPrompt<'_>, &[Piece])| {
        let mut drawing = Drawing {
            own,
            report,
            out: Vec::new(),
            left_out: Vec::new(),
        };
        drawing.all(pieces, &mut Strokes::default(), When::Always);
        left_out.append(&mut drawing.left_out);
        drawing.out
    };
    let left = strokes(left);
    let right = right.map(strokes).unwrap_or_default();
    Own::new(&left, &right, left_out)
}

struct Drawing<'a, 'b> {
    own: &'a OwnPrompt<'b>,
    report: &'a ToolReport,
    out: Vec<Stroke>,
    left_out: Vec<String>,
}

impl Drawing<'_, '_> {
    /// The reading of a color, by where it is written.
    fn reading(&self, color: Option<&Value>, part: &Range<usize>) -> Option<usize> {
        let role = RoleId::known("prompt.text");
        let place = self
            .own
            .reading(role, "", color?.clone(), part.clone())?
            .place;
        let same = |r: &Reading| r.place == place && Some(&r.value) == color;
        self.report.readings.iter().position(same)
    }

    fn all(&mut self, pieces: &[Piece], ink: &mut Strokes, when: When) {
        for piece in pieces {
            let what = match piece {
                Piece::Paint { layer, color, part } => {
                    let found = self.reading(color.as_ref(), part);
                    match layer {
                        Layer::Text => {
                            ink.text = found;
                            (ink.failed, ink.root) = (None, None);
                        }
                        Layer::Ground => ink.ground = found,
                    }
                    continue;
                }
                Piece::Either(ways) => {
                    self.either(ways, ink, when);
                    continue;
                }
                Piece::Tells(part) => What::Tells(part.clone()),
                Piece::Says(text) => What::Says(text.clone()),
                Piece::Unknown(text) => What::Unknown(text.clone()),
                Piece::Stretch(text) => What::Stretch(text.clone()),
            };
            let ink = *ink;
            self.out.push(Stroke { what, ink, when });
        }
    }

    fn either(
        &mut self,
        ways: &[(Option<&'static str>, Vec<Piece>)],
        ink: &mut Strokes,
        when: When,
    ) {
        let draws = |pieces: &[Piece]| pieces.iter().any(|p| !matches!(p, Piece::Paint { .. }));
        let tagged = |job: &str| ways.iter().any(|(tag, _)| *tag == Some(job));
        let drawing = ways.iter().filter(|(_, pieces)| draws(pieces)).count();
        let mut after = *ink;
        let mut is_drawn = false;
        for (job, pieces) in ways {
            let mut pen = *ink;
            let own = match job {
                Some("prompt.failure") => When::Failed,
                Some("prompt.root") => When::Root,
                _ if tagged("prompt.failure") && drawing > 0 => When::Succeeded,
                _ => when,
            };
            if draws(pieces) {
                // Of what depends on something else the first is taken.
                if is_drawn && own == when {
                    self.left_out.extend(pieces.iter().filter_map(written));
                    continue;
                }
                is_drawn |= own == when;
                self.all(pieces, &mut pen, own);
                continue;
            }
            self.all(pieces, &mut pen, when);
            match job {
                Some("prompt.failure") => after.failed = pen.text,
                Some("prompt.root") => after.root = pen.text,
                _ if pen.text != ink.text || pen.ground != ink.ground => {
                    (after.text, after.ground) = (pen.text, pen.ground);
                }
                _ => {}
            }
        }
        *ink = after;
    }
}

/// What is drawn, as it is written.
fn written(piece: &Piece) -> Option<String> {
    match piece {
        Piece::Says(text) => Some(text.trim().to_owned()).filter(|text| !text.is_empty()),
        Piece::Unknown(text) => Some(text.clone()),
        Piece::Tells(part) => Some(part.kind.label().to_owned()),
        Piece::Paint { .. } | Piece::Either(_) | Piece::Stretch(_) => None,
    }
}
