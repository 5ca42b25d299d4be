//! A prompt of the person's own as a design: what it draws, stroke by stroke, put together to parts. What no part
//! can tell is said.

use crate::character::SymbolLevel;
use crate::reading::ToolReport;
use crate::role::RoleId;

use super::draw::cells;
use super::{Design, Kind, Line, Part, Shape, When};

/// Something that a prompt draws, in colors that readings say.
#[derive(Debug, Clone, PartialEq)]
pub struct Stroke {
    /// What.
    pub what: What,
    /// The readings of its colors, by their place in the report.
    pub ink: Strokes,
    /// When it is drawn.
    pub when: When,
}

/// The readings of the colors of something drawn, by their place in the report.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Strokes {
    /// Of its text.
    pub text: Option<usize>,
    /// The same after a command that failed, where it is another one.
    pub failed: Option<usize>,
    /// The same for root.
    pub root: Option<usize>,
    /// Of its ground.
    pub ground: Option<usize>,
}

/// What a prompt draws.
#[derive(Debug, Clone, PartialEq)]
pub enum What {
    /// What a part tells.
    Tells(Box<Part>),
    /// A text.
    Says(String),
    /// What a part cannot tell, as it is written.
    Unknown(String),
    /// The way to what stands at the right edge.
    Stretch(String),
}

/// A design read from a prompt.
#[derive(Debug, Clone, PartialEq)]
pub struct Own {
    design: Design,
    /// The readings of the colors of each part, in their order.
    inks: Vec<Strokes>,
    /// What of the prompt is not in it, as it is written.
    pub left_out: Vec<String>,
}

/// The most strokes of which a design is made.
const MOST: usize = 200;

impl Own {
    /// Puts together what a prompt draws on the left and at the right edge; `None` where nothing is understood.
    #[must_use]
    pub fn new(left: &[Stroke], right: &[Stroke], mut left_out: Vec<String>) -> Option<Self> {
        if left.len() + right.len() > MOST {
            return None;
        }
        let mut lines: Vec<Vec<Stroke>> = vec![Vec::new()];
        for stroke in left {
            let What::Says(text) = &stroke.what else {
                lines.last_mut()?.push(stroke.clone());
                continue;
            };
            for (i, text) in text.split('\n').enumerate() {
                if i > 0 {
                    lines.push(Vec::new());
                }
                if !text.is_empty() {
                    let what = What::Says(text.to_owned());
                    lines.last_mut()?.push(Stroke {
                        what,
                        ..stroke.clone()
                    });
                }
            }
        }
        let mut shapes = Shapes::default();
        for line in &mut lines {
            shapes.take_from(line);
        }
        let mut right = right.to_vec();
        shapes.take_from(&mut right);
        let right = right.as_slice();
        let blank = lines.len() > 1 && lines[0].is_empty();
        if blank {
            lines.remove(0);
        }
        // What stands behind a stretch is at the right edge.
        let mut ends: Vec<Vec<Stroke>> = Vec::new();
        let mut stretch = None;
        for line in &mut lines {
            let is_stretch = |stroke: &Stroke| matches!(stroke.what, What::Stretch(_));
            let Some(at) = line.iter().position(is_stretch) else {
                ends.push(Vec::new());
                continue;
            };
            let mut end = line.split_off(at);
            if let What::Stretch(sign) = end.remove(0).what {
                stretch = stretch.or(sign.chars().next());
            }
            end.retain(|stroke| !is_stretch(stroke));
            ends.push(end);
        }
        if let Some(end) = ends.last_mut() {
            end.extend(right.iter().cloned());
        }
        let input = take_input(lines.last_mut()?);
        let mut own = Self {
            design: Design::of(Vec::new()),
            inks: Vec::new(),
            left_out: Vec::new(),
        };
        own.design.gap = String::new();
        own.design.stretch = stretch
            .filter(|c| cells(c.encode_utf8(&mut [0; 4])) == 1)
            .unwrap_or(own.design.stretch);
        own.design.blank = blank;
        own.design.open = shapes.open.unwrap_or_default();
        own.design.joint = shapes.joint.or(shapes.close).unwrap_or_default();
        own.design.close = shapes.close.unwrap_or_default();
        let last = lines.len() - 1;
        for (i, strokes) in lines.iter().enumerate() {
            own.design.lines.push(Line::default());
            own.run(strokes, false, &mut left_out);
            if i == last {
                let (part, ink) = input.clone();
                own.push(part, ink, false);
            }
            own.run(&ends[i], true, &mut left_out);
        }
        own.pad();
        // What is drawn otherwise in other cases is there all the same.
        let there: Vec<&str> = own.design.parts().map(|p| p.kind.label()).collect();
        for text in left_out {
            if !there.contains(&text.as_str()) && !own.left_out.contains(&text) {
                own.left_out.push(text);
            }
        }
        let told = own.design.parts().any(|p| p.kind != Kind::Text);
        told.then_some(own)
    }

    /// The design, in the roles that the readings have.
    #[must_use]
    pub fn design(&self, report: &ToolReport) -> Design {
        let mut out = self.design.clone();
        let role = |index: Option<usize>| Some(report.readings.get(index?)?.role.clone());
        let parts = out
            .lines
            .iter_mut()
            .flat_map(|l| l.left.iter_mut().chain(&mut l.right));
        for (part, ink) in parts.zip(&self.inks) {
            part.text = role(ink.text).unwrap_or_else(|| RoleId::known("foreground"));
            part.text_failed = role(ink.failed).filter(|r| *r != part.text);
            part.text_root = role(ink.root).filter(|r| *r != part.text);
            part.ground = role(ink.ground);
        }
        out
    }

    /// Takes the blanks from the edges of blocks that a design has there by itself.
    fn pad(&mut self) {
        let parts = self
            .design
            .lines
            .iter_mut()
            .flat_map(|l| l.left.iter_mut().chain(&mut l.right));
        for (part, _) in parts
            .zip(&self.inks)
            .filter(|(_, ink)| ink.ground.is_some())
        {
            let (first, last) = match part.kind {
                Kind::Text => (&mut part.tells.says, None),
                _ => (&mut part.before, Some(&mut part.after)),
            };
            if first.starts_with(' ') {
                first.remove(0);
            }
            let last = last.unwrap_or(first);
            if last.ends_with(' ') {
                last.pop();
            }
        }
    }

    fn push(&mut self, mut part: Part, ink: Strokes, right: bool) {
        part.name = self.design.free_name(&part.name);
        if let Some(line) = self.design.lines.last_mut() {
            match right {
                true => line.right.push(part),
                false => line.left.push(part),
            }
            self.inks.push(ink);
        }
    }

    /// The parts of one side of a line. A text belongs to the part before it, or behind it, that has its colors.
    fn run(&mut self, strokes: &[Stroke], right: bool, left_out: &mut Vec<String>) {
        let mut before: Option<(String, Strokes, When)> = None;
        let side = |own: &Self| {
            let line = own.design.lines.last();
            line.map_or(0, |l| if right { l.right.len() } else { l.left.len() })
        };
        let first = side(self);
        for stroke in strokes {
            match &stroke.what {
                What::Unknown(text) => left_out.push(text.clone()),
                What::Stretch(_) => {}
                What::Tells(part) => {
                    let mut part = (**part).clone();
                    if stroke.when != When::Always {
                        part.when = stroke.when;
                    }
                    if let Some((text, ink, when)) = before.take() {
                        if ink.text == stroke.ink.text && ink.ground == stroke.ink.ground {
                            part.before = text;
                        } else {
                            self.text(&text, ink, when, right);
                        }
                    }
                    self.push(part, stroke.ink, right);
                }
                What::Says(text) => {
                    let last = (side(self) > first)
                        .then(|| self.inks.last().copied())
                        .flatten();
                    let blank = text.trim().is_empty();
                    let same = |ink: Strokes| {
                        (blank || ink.text == stroke.ink.text) && ink.ground == stroke.ink.ground
                    };
                    let held = before.is_none() && last.is_some_and(same);
                    let line = self.design.lines.last_mut().filter(|_| held);
                    let part = line.and_then(|l| match right {
                        true => l.right.last_mut(),
                        false => l.left.last_mut(),
                    });
                    let part =
                        part.filter(|p| p.when == stroke.when || blank || p.kind == Kind::Text);
                    match part {
                        Some(part) if part.kind == Kind::Text => part.tells.says.push_str(text),
                        Some(part) => part.after.push_str(text),
                        None => match &mut before {
                            Some((so_far, ink, _)) if blank || same(*ink) => so_far.push_str(text),
                            _ => {
                                if let Some((text, ink, when)) = before.take() {
                                    self.text(&text, ink, when, right);
                                }
                                before = Some((text.clone(), stroke.ink, stroke.when));
                            }
                        },
                    }
                }
            }
        }
        if let Some((text, ink, when)) = before {
            self.text(&text, ink, when, right);
        }
    }

    fn text(&mut self, text: &str, ink: Strokes, when: When, right: bool) {
        if let Some(mut part) = Part::named("text") {
            part.tells.says = text.to_owned();
            part.when = when;
            self.push(part, ink, right);
        }
    }
}

/// The shapes that blocks are drawn with.
#[derive(Default)]
struct Shapes {
    open: Option<Shape>,
    joint: Option<Shape>,
    close: Option<Shape>,
}

impl Shapes {
    /// Takes the signs that are drawn as shapes out of a line: a design has its own.
    fn take_from(&mut self, line: &mut Vec<Stroke>) {
        let shape = |stroke: &Stroke| match &stroke.what {
            What::Says(text) => shape_of(text.trim()),
            _ => None,
        };
        let grounded = |stroke: &Stroke| stroke.ink.ground.is_some() && shape(stroke).is_none();
        let Some(first) = line.iter().position(grounded) else {
            return;
        };
        let last = line.iter().rposition(grounded).unwrap_or(first);
        for (i, stroke) in line.iter().enumerate() {
            let Some(shape) = shape(stroke) else { continue };
            match () {
                () if i < first => self.open = Some(shape),
                () if i > last => self.close = Some(shape),
                () => self.joint = Some(shape),
            }
        }
        line.retain(|stroke| shape(stroke).is_none());
    }
}

/// The shape that is drawn with a sign.
fn shape_of(text: &str) -> Option<Shape> {
    let of = |shape: Shape| {
        let drawn = [true, false].map(|rightward| shape.joint(SymbolLevel::Icons, rightward));
        let mut signs = drawn.iter().flat_map(|joint| [joint.solid, joint.thin]);
        signs.any(|sign| sign == text)
    };
    let all = [Shape::Point, Shape::Bow, Shape::Slope, Shape::Fade];
    all.into_iter().find(|shape| !text.is_empty() && of(*shape))
}

/// A sign at each symbol level.
fn signs(text: &str) -> [String; 3] {
    let plain = if text.is_ascii() { text } else { ">" };
    [text, text, plain].map(str::to_owned)
}

/// Takes the sign from the end of the line where one types: what the shell itself has for it, or the last text.
fn take_input(line: &mut Vec<Stroke>) -> (Part, Strokes) {
    let mut part = Part::named("input").expect("it is one of the known");
    part.signs_root = None;
    part.text_failed = None;
    // Blanks behind the sign are the design's own.
    while matches!(line.last(), Some(Stroke { what: What::Says(text), .. }) if text.trim().is_empty())
    {
        line.pop();
    }
    if let Some(Stroke {
        what: What::Tells(told),
        ink,
        ..
    }) = line.last()
        && told.kind == Kind::Input
    {
        let (told, ink) = ((**told).clone(), *ink);
        line.pop();
        return (told, ink);
    }
    let says = |stroke: Option<&Stroke>| match stroke {
        Some(Stroke {
            what: What::Says(text),
            ink,
            when,
        }) => Some((text.trim().to_owned(), *ink, *when)),
        _ => None,
    };
    // One sign for success and one for failure.
    let last = says(line.last());
    let other = line.len().checked_sub(2).and_then(|i| says(line.get(i)));
    if let (Some((a, a_ink, a_when)), Some((b, b_ink, b_when))) = (&other, &last) {
        let both = [(*a_when, a, a_ink), (*b_when, b, b_ink)];
        let of = |when: When| both.iter().find(|one| one.0 == when);
        if let (Some(well), Some(failed)) = (of(When::Succeeded), of(When::Failed)) {
            part.signs = signs(well.1);
            if failed.1 != well.1 {
                part.signs_failed = Some(signs(failed.1));
            }
            let ink = Strokes {
                failed: failed.2.text,
                ..*well.2
            };
            line.truncate(line.len() - 2);
            return (part, ink);
        }
        if let (Some(root), Some(others)) = (of(When::Root), of(When::Always)) {
            part.signs = signs(others.1);
            part.signs_root = Some(signs(root.1));
            let ink = Strokes {
                root: root.2.text,
                ..*others.2
            };
            line.truncate(line.len() - 2);
            return (part, ink);
        }
    }
    // The last word of the last text.
    if let Some(Stroke {
        what: What::Says(text),
        ink,
        ..
    }) = line.last_mut()
    {
        let ink = *ink;
        let trimmed = text.trim_end();
        let from = trimmed.rfind(char::is_whitespace).map_or(0, |i| {
            i + trimmed[i..].chars().next().map_or(1, char::len_utf8)
        });
        part.signs = signs(&trimmed[from..]);
        let rest = trimmed[..from].to_owned();
        match rest.is_empty() {
            true => drop(line.pop()),
            false => *text = rest,
        }
        return (part, ink);
    }
    part.signs = signs("");
    (part, Strokes::default())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::reading::ToolId;

    fn tells(name: &str) -> What {
        let mut part = Part::named(name).unwrap();
        part.when = When::Always;
        What::Tells(Box::new(part))
    }

    fn stroke(what: What) -> Stroke {
        Stroke {
            what,
            ink: Strokes::default(),
            when: When::Always,
        }
    }

    fn says(text: &str) -> Stroke {
        stroke(What::Says(text.to_owned()))
    }

    #[test]
    fn texts_belong_to_the_parts_beside_them() {
        let left = [
            says("\n["),
            stroke(tells("user")),
            says("@"),
            stroke(tells("host")),
            says("]\n"),
            stroke(tells("folder")),
            says(" > "),
        ];
        let own = Own::new(&left, &[stroke(tells("time"))], vec!["$(x)".into()]).unwrap();
        let design = own.design(&ToolReport::new(ToolId("t")));
        assert!(design.blank);
        let texts: Vec<_> = design
            .parts()
            .map(|p| format!("{}|{}|{}|{}", p.name, p.before, p.after, p.signs[1]))
            .collect();
        assert_eq!(
            texts,
            [
                "user|[|@|",
                "host||]|",
                "folder|| |",
                "input|||>",
                "time|||"
            ]
        );
        assert_eq!(design.lines.len(), 2);
        assert_eq!(own.left_out, ["$(x)"]);
        assert!(Own::new(&[], &[], Vec::new()).is_some(), "a bare sign");
    }

    #[test]
    fn signs_between_blocks_are_their_shapes() {
        let on = |text: Option<usize>, ground: Option<usize>, what: What| Stroke {
            what,
            ink: Strokes {
                text,
                ground,
                ..Strokes::default()
            },
            when: When::Always,
        };
        let say = |text: &str| What::Says(text.to_owned());
        let left = [
            on(Some(0), Some(1), say(" ")),
            on(Some(0), Some(1), tells("user")),
            on(Some(0), Some(1), say(" ")),
            on(Some(1), Some(2), say("\u{e0b4}")),
            on(Some(0), Some(2), say(" in ")),
            on(Some(0), Some(2), tells("folder")),
            on(Some(0), Some(2), say(" ")),
            on(Some(2), None, say("\u{e0b0} ")),
            stroke(tells("input")),
        ];
        let own = Own::new(&left, &[], Vec::new()).unwrap();
        assert_eq!(
            (own.design.joint, own.design.close),
            (Shape::Bow, Shape::Point)
        );
        let texts: Vec<_> = own
            .design
            .parts()
            .map(|p| format!("{}|{}|{}", p.name, p.before, p.after))
            .collect();
        assert_eq!(texts, ["user||", "folder|in |", "input||"]);
    }

    #[test]
    fn a_sign_may_be_another_one_after_a_failure() {
        let ink = |text| Strokes {
            text: Some(text),
            ..Strokes::default()
        };
        let sign = |text: &str, at: usize, when: When| Stroke {
            what: What::Says(text.to_owned()),
            ink: ink(at),
            when,
        };
        let left = [
            stroke(tells("folder")),
            sign("+ ", 1, When::Succeeded),
            sign("- ", 2, When::Failed),
        ];
        let own = Own::new(&left, &[], Vec::new()).unwrap();
        let input = &own.design.lines[0].left[1];
        assert_eq!(input.signs[0], "+");
        assert_eq!(input.signs_failed.as_ref().unwrap()[0], "-");
        assert_eq!(own.inks[1].failed, Some(2));
    }
}
