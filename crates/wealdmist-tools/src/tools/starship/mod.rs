//! The prompt program starship: `starship.toml`, whose formats and styles say what a prompt draws.
//!
//! It is started for every prompt and reads its file each time. The file may say a style in four places: in a
//! format, as a style of a module, in a sign, and as a color of a palette that the others name.

mod design;
mod draw;
mod format;
mod modules;
mod parts;
mod pen;
mod read;
mod write;

use std::path::{Path, PathBuf};

use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Left, Plan};
use wealdmist_core::property::{OUR_THEME, Property};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{
    Drawn, FileProblem, Place, Reading, SourceFile, Standing, ToolId, ToolReport, Value,
};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;
use wealdmist_core::text::Position;

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
use crate::sourced::{self, OF_OURS, OwnPrompt, drawn};
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
        if !read_ours(&file, &entries, &mut report) {
            prompts(&file, &entries, &mut report);
        }
        glyphs::collect(&mut report, &[Toml.comment()], |_| Syntax::Raw, |_| false);
        report
    }

    fn generated(&self, setup: &Setup, look: &Look) -> Option<(&'static str, Code)> {
        let settings = design::settings(look, &setup.prompt_at(setup.symbols_for(ID)));
        Some(("starship.toml", settings.change(b"", look)??.with))
    }

    fn drawn_when_generated(&self, setup: &Setup) -> Option<Vec<Drawn>> {
        Some(sourced::drawn_by_design(setup))
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let mut plan = Plan::default();
        if wanted.generates(ID) {
            ours(wanted, report, access, &mut plan);
            return plan;
        }
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

/// Brings the file to say our design.
fn ours(wanted: &Wanted, report: &ToolReport, access: &dyn Access, plan: &mut Plan) {
    let path = Starship::path(access);
    let file = report.file(&path);
    if (file.is_none() && !access.has_program("starship"))
        || report.problems.iter().any(|p| p.blocks_edits)
    {
        return;
    }
    let design = wanted.setup.prompt_at(wanted.setup.symbols_for(ID));
    let settings = design::settings(wanted.look, &design);
    let bytes = file.map_or(&[][..], |f| &f.bytes[..]);
    let left = |what: String, why| Left {
        tool: ID,
        place: Place {
            path: path.as_path().into(),
            span: 0..0,
            at: Position { line: 1, column: 1 },
        },
        what,
        why,
    };
    let all = settings.left.iter();
    plan.left
        .extend(all.map(|(what, why)| left(what.clone(), *why)));
    let Some(change) = settings.change(bytes, wanted.look) else {
        let what = "the prompt's design".to_owned();
        plan.left
            .push(left(what, "there is no place for it that would be sure"));
        return;
    };
    let mut edits = Edits::default();
    if let Some(splice) = change {
        edits.add(&path, splice);
    }
    plan.edits = edits.finish(ID, report);
}

/// Reads the colors back that our design has in the file.
fn read_ours(file: &SourceFile, entries: &[Entry], report: &mut ToolReport) -> bool {
    let palette = entries.iter().rfind(|e| e.path == "palette");
    let Some(palette) = palette.filter(|e| e.text == write::PALETTE) else {
        return false;
    };
    let theme = Value::Text(OUR_THEME.to_owned());
    let role = RoleId::from(Property::Theme);
    let mut reading = shared::reading(file, &[], role, OF_OURS, theme, palette.inner.clone());
    reading.editable = false;
    report.readings.push(reading);
    for entry in entries {
        let name = entry.path.strip_prefix("palettes/");
        let name = name.and_then(|rest| rest.strip_prefix(write::PALETTE)?.strip_prefix('/'));
        let color = format::color(&entry.text.to_lowercase());
        let (Some(name), Some(color)) = (name, color) else {
            continue;
        };
        let role = RoleId::new(name.to_owned());
        let span = entry.inner.clone();
        report
            .readings
            .push(shared::reading(file, &[], role, OF_OURS, color, span));
    }
    report.drawn = drawn(report, &[]);
    true
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::MemoryAccess;
    use wealdmist_core::plan::FileEdit;
    use wealdmist_core::setup::SetupDoc;

    const FILE: &str = ".config/starship.toml";

    fn planned(text: &str, setup: &str) -> (String, Plan) {
        let home = MemoryAccess::with(&[(FILE, text)]);
        let report = Starship.read(&home, &mut Facts::default());
        let doc = SetupDoc::parse("setup.toml", setup.as_bytes()).unwrap();
        let look = Look::new(doc.setup());
        let wanted = Wanted {
            setup: doc.setup(),
            look: &look,
            catalog: None,
            home: std::path::Path::new(crate::access::MEMORY_HOME),
        };
        let plan = Starship.plan(&wanted, &report, &home);
        let edit = plan.edits.first();
        let after = edit.map_or_else(|| text.into(), FileEdit::after);
        (String::from_utf8(after).unwrap(), plan)
    }

    #[test]
    fn colors_are_changed_where_they_are_said() {
        let before = r##"palette = 'p' # mine
format = """
[a\u0020](#111111)$directory\
  $git_branch$time"""
[palettes.p]
reed = '#222222'
[directory]
style = "bold REED bg:#333333"
[git_branch]
style = 'fg:reed'
[time]
disabled = false
style = "\u0023444444"
"##;
        let setup = r"[palettes.a]
[palettes.a.colors]
one='#aaaaaa'
two='#bbbbbb'
[roles]
'prompt.text'='one'
'prompt.folder'='two'
'prompt.branch'='two'
'prompt.time'='one'
'prompt.1.ground'='one'
'prompt.2.ground'='one'
";
        let (after, plan) = planned(before, setup);
        // What is escaped is left; what two jobs share is changed where both want the same.
        let wanted = before
            .replace("#111111", "#aaaaaa")
            .replace("#222222", "#bbbbbb")
            .replace("#333333", "#aaaaaa");
        assert_eq!(after, wanted);
        assert!(plan.left.is_empty(), "{:?}", plan.left);
        let torn = setup.replace("'prompt.branch'='two'", "'prompt.branch'='one'");
        let (after, plan) = planned(before, &torn);
        assert!(after.contains("reed = '#222222'"));
        assert_eq!(plan.left.len(), 2, "{:?}", plan.left);
    }

    #[test]
    fn formats_that_draw_without_end_are_given_up() {
        let deep = format!("{}$user{}", "[".repeat(30), "]($style)".repeat(30));
        let wide = "$all".repeat(20_000);
        for text in [
            format!("format = '$username'\n[username]\nformat = '{deep}'\n"),
            format!("format = '{wide}'\n"),
            "format = '$vcs'\n[vcs]\ngit_modules = '$vcs$vcs$vcs$vcs'\n".to_owned(),
        ] {
            let home = MemoryAccess::with(&[(FILE, text.as_str())]);
            let report = Starship.read(&home, &mut Facts::default());
            let is_told = |p: &FileProblem| p.message.contains("too much");
            assert!(report.problems.iter().any(is_told), "{text:.60}");
        }
    }

    #[test]
    fn our_design_is_said_once() {
        let setup = "[palettes.a]\n[tools.starship]\ngenerate = true\n";
        for before in [
            "\n",
            "# mine\nformat = '''\n$all'''\n[directory]\nstyle = 'red' # c\ntruncation_length = 1\n[python]\ndetect_files = []\n",
            "[palettes.wealdmist]\n'prompt.folder' = 'red'\n",
        ] {
            let (after, plan) = planned(before, setup);
            assert_eq!(plan.edits.len(), 1, "{before}");
            let comments = |text: &str| text.matches('#').count();
            assert!(comments(&after) >= comments(before), "{after}");
            let (again, plan) = planned(&after, setup);
            assert!(plan.edits.is_empty(), "{}", plan.unified());
            assert_eq!(again, after);
            let home = MemoryAccess::with(&[(FILE, after.as_str())]);
            let report = Starship.read(&home, &mut Facts::default());
            let theme = report.effective(&RoleId::from(Property::Theme)).unwrap();
            assert_eq!(theme.value, Value::Text(OUR_THEME.to_owned()));
            let folder = RoleId::known("prompt.folder");
            assert!(report.effective(&folder).is_some());
        }
        // What could not be found there again is not written.
        let (after, plan) = planned("palette.x = 'y'\n", setup);
        assert!(plan.edits.is_empty() && !plan.left.is_empty(), "{after}");
    }
}
