//! The situations on the specimen.

use wealdmist_core::character::SymbolLevel;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, Mode, Situation};
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::specimen::{ENTERED, GOES_ON, Moment, Scene, Specimen};

use crate::tui::workspace::Workspace;
use crate::work::{prompt, side_of};

/// Stands before the name of a situation in which the part pointed at is to be seen.
pub const SHOWN: &str = "▪ ";

/// What the situations are drawn from: the draft worn, at several symbol levels and on both sides.
pub struct Scenes<'a> {
    /// What they are called.
    pub names: Vec<String>,
    look: &'a Look,
    designs: Vec<Design>,
    other: Option<Look>,
    /// Each with its design, the other side's look, and whether the moment.
    all: Vec<(Situation, usize, bool, Moment)>,
}

/// All situations: the person's own first, then those a design is judged by, past prompts and further lines, the other symbol
/// levels and the other side.
pub fn all<'a>(ws: &'a Workspace, own: &[Situation]) -> Scenes<'a> {
    let doc: &SetupDoc = ws.worn_doc();
    let setup = doc.setup();
    let level = prompt::level(setup, ws.display.icons);
    let below = [SymbolLevel::Plain, SymbolLevel::Ascii];
    let levels: Vec<SymbolLevel> = std::iter::once(level)
        .chain(below.into_iter().filter(|l| *l < level))
        .collect();
    let sample = Situation::sample();
    let mut names: Vec<String> = Vec::new();
    let mut all = Vec::new();
    let mut add = |name: &str, at: &Situation, design: usize, other: bool, moment| {
        names.push(name.to_owned());
        all.push((at.clone(), design, other, moment));
    };
    for at in own {
        let name = format!("{} here", at.folder);
        add(&name, at, 0, false, Moment::Now);
    }
    for at in Situation::all() {
        add(at.name, &at, 0, false, Moment::Now);
    }
    if setup.prompt.follows_mode() {
        let command = Situation {
            mode: Mode::Command,
            ..sample.clone()
        };
        add("the editor's command mode", &command, 0, false, Moment::Now);
    }
    add(ENTERED, &sample, 0, false, Moment::Entered);
    add(GOES_ON, &sample, 0, false, Moment::GoesOn);
    for (n, level) in levels.iter().enumerate().skip(1) {
        let name = match level {
            SymbolLevel::Ascii => "in ASCII",
            _ => "without icons",
        };
        add(name, &sample, n, false, Moment::Now);
    }
    let side = setup.palette().variant.other();
    let other = side_of(doc, side).ok().flatten();
    if other.is_some() {
        add(
            &format!("on the {} side", side.key()),
            &sample,
            0,
            true,
            Moment::Now,
        );
    }
    Scenes {
        names,
        look: ws.worn_look(),
        designs: levels.iter().map(|l| setup.prompt_at(*l)).collect(),
        other: other.map(|doc| Look::new(doc.setup())),
        all,
    }
}

impl Scenes<'_> {
    fn scene(&self, n: usize) -> Scene<'_> {
        let (at, design, other, moment) = &self.all[n];
        Scene {
            name: self.names[n].clone(),
            design: &self.designs[*design],
            look: self.other.as_ref().filter(|_| *other).unwrap_or(self.look),
            at: at.clone(),
            moment: *moment,
        }
    }

    /// In how many of them a part is to be seen.
    pub fn showing(&self, part: usize) -> usize {
        (0..self.all.len())
            .filter(|n| self.scene(*n).shows(part, usize::MAX / 4))
            .count()
    }

    /// From one of them on, as many as there is room for, those marked in which a part is to be seen.
    pub fn drawn(
        &self,
        first: usize,
        part: Option<usize>,
        (width, height): (usize, usize),
    ) -> Specimen {
        // The last page is a full one.
        let mut rest = 0;
        let heights = (0..self.all.len())
            .rev()
            .map(|n| self.scene(n).height(width));
        let fitting = heights.take_while(|h| {
            rest += h;
            rest <= height
        });
        let earliest = self.all.len() - fitting.count();
        let mut shown = Vec::new();
        let mut used = 0;
        for n in first.min(earliest)..self.all.len() {
            let mut scene = self.scene(n);
            used += scene.height(width);
            if used > height && !shown.is_empty() {
                break;
            }
            if part.is_some_and(|part| scene.shows(part, width)) {
                scene.name = format!("{SHOWN}{}", scene.name);
            }
            shown.push(scene);
        }
        Specimen::of_scenes(&shown, width, 0)
    }
}
