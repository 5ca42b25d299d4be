//! The prompt program starship: `starship.toml`, whose formats and styles say what a prompt draws.
//!
//! It is started for every prompt and reads its file each time. The file may say a style in four places: in a
//! format, as a style of a module, in a sign, and as a color of a palette that the others name.

mod draw;
mod format;
mod modules;
mod read;

use std::path::{Path, PathBuf};

use wealdmist_core::glyph::Syntax;
use wealdmist_core::plan::Plan;
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{
    FileProblem, Place, Reading, SourceFile, Standing, ToolId, ToolReport, Value,
};
use wealdmist_core::role::RoleId;

use crate::access::Access;
use crate::document::notation::{Entry, Notation};
use crate::document::toml::Toml;
use crate::engine::{Adapter, Engine, Facts, Wanted};
use crate::evaluated::Visit;
use crate::evaluated::text::Text;
use crate::glyphs;
use crate::live::{Live, Reload};
use crate::shared::{self, Edits, Torn};
use crate::sourced::own::{self, Piece};
use crate::sourced::{OwnPrompt, drawn};
use read::Config;

/// The program.
pub struct Starship;

const ID: ToolId = ToolId("starship");

static LIVE: Live = Live::own(Reload::NextPrompt, "at the next prompt of every shell");

impl Starship {
    /// Where its file is.
    fn path(access: &dyn Access) -> PathBuf {
        match access
            .env("STARSHIP_CONFIG")
            .filter(|path| !path.is_empty())
        {
            Some(path) => access.home().join(path),
            None => access.home().join(".config/starship.toml"),
        }
    }
}

impl Adapter for Starship {
    fn id(&self) -> ToolId {
        ID
    }

    fn kind(&self) -> &'static str {
        "prompt program"
    }

    fn live(&self) -> &Live {
        &LIVE
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Started
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let entries = Toml.entries(&file.bytes).unwrap_or_default();
        let of = |at: &usize| {
            let entry = entries.iter().find(|e| e.inner.contains(at));
            let own = entry.filter(|e| !e.bare).map(|e| e.quoting);
            Some([Quoting::Inert].into_iter().chain(own).collect())
        };
        places.iter().map(of).collect()
    }

    fn read(&self, access: &dyn Access, _: &mut Facts) -> ToolReport {
        let mut report = ToolReport::new(ID);
        let path = Self::path(access);
        let Some(file) = shared::load(access, &mut report, &path, &[], false) else {
            return report;
        };
        let entries = match Toml.entries(&file.bytes) {
            Ok(entries) => entries,
            Err(damage) => {
                report.problems.push(FileProblem {
                    path,
                    at: Some(file.position(damage.at)),
                    message: damage.message,
                    help: damage.help.to_owned(),
                    blocks_edits: true,
                });
                return report;
            }
        };
        prompts(&file, &entries, &mut report);
        glyphs::collect(&mut report, &[Toml.comment()], |_| Syntax::Raw, |_| false);
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, _: &dyn Access) -> Plan {
        let mut plan = Plan::default();
        let mut edits = Edits::default();
        let torn = Torn::of(report, wanted);
        let differs = |r: &&Reading| r.editable && !r.role.is_property() && wanted.differs(ID, r);
        for reading in report.readings.iter().filter(differs) {
            match torn.left(ID, reading) {
                Some(one) => plan.left.push(one),
                None => edits.replace(reading, Code::color(wanted.look.color(&reading.role))),
            }
        }
        plan.edits = edits.finish(ID, report);
        plan
    }
}

/// Reads what the file makes the program draw.
fn prompts(file: &SourceFile, entries: &[Entry], report: &mut ToolReport) {
    let mut config = Config::of(file, entries);
    let visits = [Visit {
        file: file.clone(),
        chain: Vec::new(),
    }];
    let left = config
        .top("format")
        .unwrap_or_else(|| Text::nowhere("$all"));
    let right = config.top("right_format").unwrap_or_default();
    let named = draw::named(&[&left, &right]);
    let mut stretches = Vec::new();
    let mut designs: Vec<(Text, Vec<Piece>)> = Vec::new();
    let more = config.top("continuation_prompt").unwrap_or_default();
    let all = [
        ("format", left),
        ("right_format", right),
        ("continuation_prompt", more),
    ];
    for (key, format) in all {
        let mut drawing = draw::Drawing::new(&mut config, file, &format, named.clone());
        let mut pieces = drawing.pieces();
        let text = drawing.text;
        if key == "format" && config.top_value("add_newline") != Some("false") {
            pieces.design.insert(0, Piece::Says("\n".to_owned()));
        }
        let own = OwnPrompt {
            text: &text,
            standing: Standing::Certain,
            visits: &visits,
            by_itself: Some(&file.path),
        };
        if key == "format" || !format.bytes.is_empty() {
            own::read(&own, key, &pieces.read, report, &mut stretches);
        }
        designs.push((text, pieces.design));
    }
    report.problems.append(&mut config.problems);
    let role = RoleId::from(Property::Theme);
    if report.effective(&role).is_none() {
        // A file that says nothing of its looks: the prompt is the program's own.
        report.readings.push(Reading {
            role,
            key: "format".to_owned(),
            value: Value::Text("format of its own".to_owned()),
            place: Place::nowhere_in(&file.path),
            chain: Vec::new(),
            effective: true,
            editable: false,
            standing: Standing::Certain,
            asked: None,
        });
    }
    let prompt = |i: usize| OwnPrompt {
        text: &designs[i].0,
        standing: Standing::Certain,
        visits: &visits,
        by_itself: Some(&file.path),
    };
    let (left, right) = (prompt(0), prompt(1));
    let right = (!designs[1].1.is_empty()).then_some((&right, designs[1].1.as_slice()));
    report.prompt = own::design((&left, &designs[0].1), right, report).map(Box::new);
    report.drawn = drawn(report, &stretches);
    keys(file, entries, &mut report.readings);
}

/// Calls readings by the keys of the file that say them.
fn keys(file: &SourceFile, entries: &[Entry], readings: &mut [Reading]) {
    for reading in readings.iter_mut().filter(|r| is_in(&r.place, &file.path)) {
        let at = reading.place.span.start;
        let next = entries.partition_point(|e| e.value.start <= at);
        let entry = next.checked_sub(1).map(|i| &entries[i]);
        if let Some(entry) = entry.filter(|e| at < e.value.end && !reading.role.is_property()) {
            reading.key = Toml.shown(&entry.path);
        }
    }
}

fn is_in(place: &Place, path: &Path) -> bool {
    place.is_written() && *place.path == *path
}
