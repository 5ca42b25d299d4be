//! The terminal kitty: `kitty.conf` with its includes.
//!
//! Lines of `key value`, the last of a key wins, includes are read where they stand. Values have
//! no quotes and no trailing comments. Everything but the keys below is left alone.

mod fonts;

use std::path::PathBuf;

use wealdmist_core::color::{Rgb, parse_spec};
use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::plan::{FileEdit, Splice};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{
    Drawn, FileProblem, Paint, Reading, SourceFile, ToolId, ToolReport, Value,
};
use wealdmist_core::role::{RoleId, Slot, Usage, lookup};
use wealdmist_core::setup::Variant;
use wealdmist_core::text;

use super::fonts::FontSyntax;
use super::glyphs;
use super::shared::{self, Edits, Includer};
use super::{Adapter, Facts, Wanted};
use crate::access::Access;
use crate::document::lines::{self, Setting};

/// The tool's id.
pub const KITTY: ToolId = ToolId("kitty");

/// The adapter.
pub struct Kitty;

/// Keys whose value is a color, and the role each has.
const COLORS: &[(&str, &str)] = &[
    ("foreground", "foreground"),
    ("background", "background"),
    ("cursor", "cursor"),
    ("cursor_text_color", "cursor-text"),
    ("selection_background", "selection"),
    ("selection_foreground", "selection-text"),
    ("url_color", "url"),
    ("active_border_color", "border.active"),
    ("inactive_border_color", "border.inactive"),
    ("bell_border_color", "border.bell"),
    ("active_tab_foreground", "tab.active.text"),
    ("active_tab_background", "tab.active.ground"),
    ("inactive_tab_foreground", "tab.inactive.text"),
    ("inactive_tab_background", "tab.inactive.ground"),
    ("tab_bar_background", "tab.bar"),
];

/// Further color keys, which get roles of their own.
const OTHER_COLORS: &[&str] = &[
    "mark1_foreground",
    "mark1_background",
    "mark2_foreground",
    "mark2_background",
    "mark3_foreground",
    "mark3_background",
    "tab_bar_margin_color",
    "visual_bell_color",
];

/// Keys whose value is drawn as it is, beside the templates.
const DRAWN: [&[u8]; 3] = [b"tab_separator", b"tab_activity_symbol", b"bell_on_tab"];

/// The places the program looks for its file, the first that exists counts.
#[must_use]
pub fn candidates(access: &dyn Access) -> Vec<PathBuf> {
    if let Some(dir) = access.env("KITTY_CONFIG_DIRECTORY") {
        return vec![PathBuf::from(dir).join("kitty.conf")];
    }
    let mut out = vec![access.config_home().join("kitty/kitty.conf")];
    let usual = access.home().join(".config/kitty/kitty.conf");
    if !out.contains(&usual) {
        out.push(usual);
    }
    out
}

/// The job of a color key.
#[must_use]
pub fn role_of(key: &str) -> Option<RoleId> {
    if let Some((_, role)) = COLORS.iter().find(|(k, _)| *k == key) {
        return Some(RoleId::known(role));
    }
    if let Some(index) = key.strip_prefix("color") {
        let index: u8 = index.parse().ok().filter(|_| !index.starts_with('+'))?;
        return Some(match Slot::from_ansi(index) {
            Some(slot) => slot.into(),
            None => RoleId::new(format!("kitty.{key}.text")),
        });
    }
    let end = |k: &str| {
        if k.ends_with("background") {
            "ground"
        } else {
            "text"
        }
    };
    OTHER_COLORS
        .contains(&key)
        .then(|| RoleId::new(format!("kitty.{key}.{}", end(key))))
}

/// Colors as the program reads them: `#` with 3, 6, 9 or 12 digits, `rgb:r/g/b`, the names of
/// our own table of the most common ones.
#[must_use]
pub fn color(text: &str) -> Option<Rgb> {
    if let Some(digits) = text.strip_prefix('#') {
        if let Some(color) = Rgb::from_hex(text) {
            return Some(color);
        }
        let each = digits.len() / 3;
        if !matches!(digits.len(), 9 | 12) || !digits.bytes().all(|b| b.is_ascii_hexdigit()) {
            return None;
        }
        let channel = |i: usize| u8::from_str_radix(&digits[i * each..i * each + 2], 16).ok();
        return Some(Rgb::new(channel(0)?, channel(1)?, channel(2)?));
    }
    if text.starts_with("rgb:") {
        return parse_spec(text);
    }
    match text.to_ascii_lowercase().as_str() {
        "black" => Some(Rgb::new(0, 0, 0)),
        "white" => Some(Rgb::new(255, 255, 255)),
        "red" => Some(Rgb::new(255, 0, 0)),
        "green" => Some(Rgb::new(0, 255, 0)),
        "blue" => Some(Rgb::new(0, 0, 255)),
        "yellow" => Some(Rgb::new(255, 255, 0)),
        "cyan" => Some(Rgb::new(0, 255, 255)),
        "magenta" => Some(Rgb::new(255, 0, 255)),
        "gray" | "grey" => Some(Rgb::new(190, 190, 190)),
        _ => None,
    }
}

/// A key's value; `Err` says what would be wrong with it for the program.
fn value_of(key: &str, text: &str) -> Result<Option<(RoleId, Value)>, String> {
    if let Some(role) = role_of(key) {
        let special = match (key, text) {
            ("cursor_text_color", "background") => Some(Value::Slot(Slot::Background)),
            (
                "cursor" | "selection_foreground" | "selection_background" | "tab_bar_background",
                "none",
            )
            | ("tab_bar_margin_color" | "visual_bell_color", "none") => Some(Value::Default),
            _ => None,
        };
        return match special.or_else(|| color(text).map(Value::Color)) {
            Some(value) => Ok(Some((role, value))),
            // A name of the X11 table that is not in ours is fine for the program.
            None if text.chars().all(|c| c.is_ascii_alphanumeric() || c == ' ')
                && !text.is_empty()
                && text.chars().any(|c| c.is_ascii_alphabetic())
                && text.len() != 6 =>
            {
                Ok(Some((role, Value::Text(text.to_owned()))))
            }
            None => Err(format!("'{text}' is not a color for {key}")),
        };
    }
    let number = |role: &'static str, text: &str| -> Result<Option<(RoleId, Value)>, String> {
        let n: f64 = text
            .parse()
            .map_err(|_| format!("'{text}' is not a number for {key}"))?;
        Ok(Some((RoleId::known(role), Value::Number(n))))
    };
    match key {
        "font_family" => Ok(Some((
            RoleId::known("font.family"),
            Value::Text(text.to_owned()),
        ))),
        "font_size" => number("font.size", text),
        "background_opacity" => number("window.opacity", text),
        "inactive_text_alpha" => number("window.dimmed", text),
        "dim_opacity" => number("window.faint", text),
        // Up to four sides may be given; only a single value means one padding all round.
        "window_padding_width" if !text.contains(' ') => number("window.padding", text),
        _ => Ok(None),
    }
}

impl Adapter for Kitty {
    fn id(&self) -> ToolId {
        KITTY
    }

    fn kind(&self) -> &'static str {
        "terminal"
    }

    fn fonts(&self) -> Option<&'static dyn FontSyntax> {
        Some(&fonts::KittyFonts)
    }

    fn arrives(&self) -> &'static str {
        "at once, by a signal to each running kitty of this home"
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        let of = |at: &usize| {
            let line = text::line_range(&file.bytes, *at);
            let head = file.bytes[line.start..*at].trim_ascii_start();
            let key = head
                .split(u8::is_ascii_whitespace)
                .next()
                .unwrap_or_default();
            let drawn = key.ends_with(b"_template") || DRAWN.contains(&key);
            Some(vec![if drawn {
                Quoting::Template
            } else {
                Quoting::Inert
            }])
        };
        places.iter().map(of).collect()
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        let mut reader = Reader {
            access,
            report: ToolReport::new(KITTY),
            assumed: Vec::new(),
            term: None,
        };
        for path in candidates(access) {
            if reader.file(&path, &[], false) {
                break;
            }
        }
        let mut report = reader.report;
        report.mark_last_effective();
        // A commented-out default only counts where no line sets the key.
        for mut reading in reader.assumed {
            if report.effective(&reading.role).is_none() {
                reading.assumed = true;
                report.readings.push(reading);
            }
        }
        if !report.files.is_empty() {
            facts.outer_term = Some(reader.term.unwrap_or_else(|| "xterm-kitty".to_owned()));
        }
        glyphs::collect(&mut report, &["#"], |_| Syntax::Raw, |_| false);
        report.drawn = drawn(&report);
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Vec<FileEdit> {
        let mut edits = Edits::default();
        for reading in report
            .readings
            .iter()
            .filter(|r| r.editable && wanted.differs(KITTY, r))
        {
            let Some(with) = written(wanted, &reading.role) else {
                continue;
            };
            if reading.assumed {
                uncomment(report, reading, &with, &mut edits);
            } else {
                edits.replace(reading, with);
            }
        }
        self.add_missing(wanted, report, access, &mut edits);
        let sides = side_files(wanted, report, access);
        let mut out = edits.finish(KITTY, report);
        out.extend(sides);
        out
    }
}

/// The files by which the program (0.38 and newer) follows the desktop between dark and light:
/// one for each side, and one for a desktop without a preference. Older ones pass them over.
fn side_files(wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Vec<FileEdit> {
    let setup = wanted.setup;
    let side = |variant| setup.palette_named(setup.appearance.side(variant)?);
    let both = (side(Variant::Dark), side(Variant::Light));
    let (Some(dark), Some(light)) = both else {
        return Vec::new();
    };
    let folder = report.files.first().and_then(|f| f.path.parent());
    let Some(folder) = folder.filter(|_| setup.appearance.follow) else {
        return Vec::new();
    };
    [
        ("dark-theme.auto.conf", dark),
        ("light-theme.auto.conf", light),
        ("no-preference-theme.auto.conf", setup.palette()),
    ]
    .into_iter()
    .map(|(name, palette)| {
        let look = Look::with_palette(setup, palette);
        let mut code = Code::fixed(
            "# Generated by wealdmist from setup.toml; `wealdmist apply` writes it anew.\n",
        );
        for (key, role) in COLORS {
            let color = Code::color(look.color(&RoleId::known(role)));
            code.push(&Code::of("{} {}\n", &[&Code::fixed(key), &color]));
        }
        for i in 0..16u8 {
            if let Some(slot) = Slot::from_ansi(i) {
                let color = Code::color(look.slot(slot));
                code.push(&Code::of("color{} {}\n", &[&Code::whole(i), &color]));
            }
        }
        shared::own_file(KITTY, folder.join(name), access, code)
    })
    .collect()
}

/// A role's value as the program wants it; `None` also where it cannot be written safely.
fn written(wanted: &Wanted, role: &RoleId) -> Option<Code> {
    if let Some(text) = fonts::written(&wanted.setup.font, role) {
        return Some(text);
    }
    match wealdmist_core::ledger::setup_value(wanted.setup, wanted.look, role)? {
        Value::Color(color) => Some(Code::color(color)),
        Value::Text(text) => quote(&text, &[Quoting::Line]),
        Value::Number(n) => Some(Code::number(n)),
        Value::Slot(_) | Value::Default => None,
    }
}

/// Turns a commented-out default into a setting, in place.
fn uncomment(report: &ToolReport, reading: &Reading, with: &Code, edits: &mut Edits) {
    let Some(file) = report.file(&reading.place.path) else {
        return;
    };
    let line = text::line_range(&file.bytes, reading.place.span.start);
    let found = lines::settings(&file.bytes).find(|s| s.line.span.start == line.start);
    let Some(Setting {
        comment: Some(comment),
        value,
        ..
    }) = found
    else {
        return;
    };
    let kept = Code::kept(&file.bytes[comment.end..value.start]);
    edits.add(
        &reading.place.path,
        Splice {
            range: comment.start..value.end,
            why: format!(
                "{}: {} (the default) → {}",
                reading.role.label(),
                reading.value,
                text::visible(with)
            ),
            with: Code::join([&kept, with], ""),
            role: Some(reading.role.clone()),
            needs: None,
        },
    );
}

impl Kitty {
    /// Adds what the setup says and the dotfiles do not: the terminal colors always, since the
    /// whole palette stands on them; other roles where the setup asks for it.
    fn add_missing(
        &self,
        wanted: &Wanted,
        report: &ToolReport,
        access: &dyn Access,
        edits: &mut Edits,
    ) {
        let adds = wanted.setup.tool(KITTY.0).adds;
        let installed = access.has_program("kitty");
        let main = report.files.first().map(|f| f.path.clone());
        let Some(main) = main.or_else(|| installed.then(|| candidates(access)[0].clone())) else {
            return;
        };
        let slots = (0..16u8).filter_map(|i| {
            let key = Code::of("color{}", &[&Code::whole(i)]);
            Some((key, RoleId::from(Slot::from_ansi(i)?)))
        });
        let properties = [
            ("font_family", "font.family"),
            ("font_size", "font.size"),
            ("background_opacity", "window.opacity"),
            ("window_padding_width", "window.padding"),
        ];
        let named =
            |(key, role): &(&'static str, &'static str)| (Code::fixed(key), RoleId::known(role));
        let keys = COLORS.iter().map(named).chain(slots);
        let mut new_lines = Vec::new();
        for (key, role) in keys.chain(properties.iter().map(named)) {
            let stated = Slot::from_key(role.as_str()).is_some()
                || role.is_property()
                || adds.contains(&role);
            if !stated || report.effective(&role).is_some() {
                continue;
            }
            if wanted.setup.exception(KITTY.0, &role).is_some() {
                continue;
            }
            let Some(value) = written(wanted, &role) else {
                continue;
            };
            let why = new_why(&role, &value);
            match neighbour(report, &role) {
                Some(near) => self.add_below(report, near, &key, &value, why, edits),
                None => new_lines.push((Code::of("{} {}", &[&key, &value]), why)),
            }
        }
        for (role, key, value) in fonts::missing(&wanted.setup.font, report, wanted.catalog) {
            if wanted.setup.exception(KITTY.0, &role).is_none() {
                let why = new_why(&role, &value);
                new_lines.push((Code::of("{} {}", &[&key, &value]), why));
            }
        }
        let bytes = report.file(&main).map_or(&[][..], |f| &f.bytes[..]);
        for (i, (line, why)) in new_lines.into_iter().enumerate() {
            let mut splice = shared::append_line(bytes, &line, why);
            if i > 0 && !bytes.is_empty() && !bytes.ends_with(b"\n") {
                // Only the first of several lines has to end the file's last line.
                splice.with = Code::of("{}{}", &[&line, &Code::fixed(text::line_end(bytes))]);
            }
            edits.add(&main, splice);
        }
    }

    fn add_below(
        &self,
        report: &ToolReport,
        near: &Reading,
        key: &Code,
        value: &Code,
        why: String,
        edits: &mut Edits,
    ) {
        let Some(file) = report.file(&near.place.path) else {
            return;
        };
        let line = text::line_range(&file.bytes, near.place.span.start);
        let found = lines::settings(&file.bytes).find(|s| s.line.span.start == line.start);
        let Some(setting) = found else { return };
        // The neighbour's indentation and column are taken over.
        let start = setting
            .comment
            .as_ref()
            .map_or(setting.key.start, |c| c.start);
        let indent = Code::kept(&file.bytes[line.start..start]);
        let column = setting.value.start - setting.key.start;
        let gap = Code::blanks(column.saturating_sub(key.len()).max(1));
        let line_text = Code::join([&indent, key, &gap, value], "");
        edits.add(
            &near.place.path,
            shared::line_below(&file.bytes, near.place.span.start, &line_text, why),
        );
    }
}

/// What a new line does, for people.
fn new_why(role: &RoleId, value: &Code) -> String {
    format!(
        "{}: {} (not in the file yet)",
        role.label(),
        text::visible(value)
    )
}

/// The reading a new one belongs below: the nearest slot, or any reading of the same group.
fn neighbour<'a>(report: &'a ToolReport, role: &RoleId) -> Option<&'a Reading> {
    let readings = || report.readings.iter().filter(|r| r.effective && r.editable);
    if let Some(slot) = Slot::from_key(role.as_str()) {
        let position = slot as i32;
        return readings()
            .filter_map(|r| Some((Slot::from_key(r.role.as_str())? as i32, r)))
            .min_by_key(|(p, _)| ((p - position).abs(), *p > position))
            .map(|(_, r)| r);
    }
    readings().rfind(|r| r.role.group() == role.group())
}

struct Reader<'a> {
    access: &'a dyn Access,
    report: ToolReport,
    assumed: Vec<Reading>,
    term: Option<String>,
}

impl Reader<'_> {
    /// Reads a file and its includes; whether it exists.
    fn file(&mut self, path: &std::path::Path, chain: &[Includer], must_exist: bool) -> bool {
        let Some(file) = shared::load(self.access, &mut self.report, path, chain, must_exist)
        else {
            return false;
        };
        for setting in lines::settings(&file.bytes) {
            self.setting(&file, chain, &setting);
        }
        true
    }

    fn setting(&mut self, file: &SourceFile, chain: &[Includer], setting: &Setting) {
        // Places within a value are places in the file only where it is text.
        let part = |r: std::ops::Range<usize>| String::from_utf8(file.bytes[r].to_vec()).ok();
        let both = part(setting.key.clone()).zip(part(setting.value.clone()));
        let Some((key, value)) = both.filter(|b| !b.1.is_empty()) else {
            return;
        };
        let live = setting.comment.is_none();
        if live {
            let mut deeper = chain.to_vec();
            deeper.push((file.path.clone(), setting.line.number));
            // Relative to the folder of the file as the program names it, not of a link's target.
            let base = file.path.parent().unwrap_or(&file.path).to_owned();
            match key.as_str() {
                "include" => {
                    let target = self.access.expand(&value, &base);
                    self.file(&target, &deeper, true);
                    return;
                }
                "globinclude" => {
                    for target in self.access.glob(&self.access.expand(&value, &base)) {
                        self.file(&target, &deeper, true);
                    }
                    return;
                }
                "term" => self.term = Some(value.clone()),
                _ => {}
            }
        }
        if let Some(found) = fonts::setting(&key, &value) {
            let start = setting.value.start;
            let span = start + found.span.start..start + found.span.end;
            let role = RoleId::known(found.role);
            let reading = shared::reading(file, chain, role, found.key, found.value, span);
            match live {
                true => self.report.readings.push(reading),
                false => self.assumed.push(reading),
            }
            return;
        }
        match value_of(&key, &value) {
            Ok(Some((role, v))) => {
                let reading = shared::reading(file, chain, role, key, v, setting.value.clone());
                if live {
                    self.report.readings.push(reading)
                } else {
                    self.assumed.push(reading)
                }
            }
            Err(message) if live => {
                let at = Some(file.position(setting.value.start));
                let help =
                    "kitty skips this line and shows an error window; write #rrggbb or a number"
                        .into();
                let path = file.path.clone();
                self.report.problems.push(FileProblem {
                    path,
                    at,
                    message,
                    help,
                    blocks_edits: false,
                });
            }
            _ => {}
        }
    }
}

/// What the terminal draws.
fn drawn(report: &ToolReport) -> Vec<Drawn> {
    let paint = |role: RoleId| Paint {
        reading: report.effective_index(&role),
        role,
    };
    let mut out = Vec::new();
    if report.files.is_empty() {
        return out;
    }
    let slots = Slot::ALL.iter().map(|s| s.key());
    for id in slots.chain(COLORS.iter().map(|c| c.1)) {
        let role = RoleId::known(id);
        let Some(known) = lookup(&role).filter(|k| k.usage != Usage::Decoration) else {
            continue;
        };
        let pair = Drawn {
            what: known.label.to_owned(),
            text: paint(role),
            ground: paint(RoleId::known(known.on)),
            usage: known.usage,
            fade: 1.0,
        };
        let said = pair.text.reading.is_some() || pair.ground.reading.is_some();
        if said && !out.contains(&pair) {
            out.push(pair);
        }
    }
    out.extend(selected(report, &out));
    out.extend(faded(report, &out));
    out
}

/// The colors that keep their own in a selection, where the selection has no text color.
fn selected(report: &ToolReport, drawn: &[Drawn]) -> Vec<Drawn> {
    let value = |role: &'static str| report.effective(&RoleId::known(role)).map(|r| &r.value);
    if value("selection-text") != Some(&Value::Default)
        || !matches!(value("selection"), Some(Value::Color(_)))
    {
        return Vec::new();
    }
    let role = RoleId::known("selection");
    let ground = Paint {
        reading: report.effective_index(&role),
        role,
    };
    text_on_ground(drawn)
        .map(|d| Drawn {
            what: format!("{}, selected", d.what),
            ground: ground.clone(),
            ..d.clone()
        })
        .collect()
}

/// Text that is drawn with less of its color: in inactive windows, and what programs ask to be
/// faint.
fn faded(report: &ToolReport, drawn: &[Drawn]) -> Vec<Drawn> {
    let number = |role: &'static str| match report.effective(&RoleId::known(role)).map(|r| &r.value)
    {
        Some(Value::Number(n)) if (0.0..1.0).contains(n) => Some(*n),
        _ => None,
    };
    let inactive = number("window.dimmed").map(|fade| {
        text_on_ground(drawn).map(move |d| Drawn {
            what: format!("{}, in an inactive window", d.what),
            fade,
            ..d.clone()
        })
    });
    let faint = number("window.faint").map(|fade| {
        let foreground = text_on_ground(drawn).filter(|d| d.text.role == Slot::Foreground.into());
        foreground.map(move |d| Drawn {
            what: "faint text".to_owned(),
            usage: Usage::Secondary,
            fade,
            ..d.clone()
        })
    });
    inactive
        .into_iter()
        .flatten()
        .chain(faint.into_iter().flatten())
        .collect()
}

/// What was found to be drawn as text in a terminal color on the terminal's own ground.
fn text_on_ground(drawn: &[Drawn]) -> impl Iterator<Item = &Drawn> {
    drawn.iter().filter(|d| {
        let is_text = matches!(d.usage, Usage::Body | Usage::Secondary);
        let slot = Slot::from_key(d.text.role.as_str());
        is_text && d.ground.role == Slot::Background.into() && slot.is_some()
    })
}

/// The escape targets of the palette: slots and dynamic colors.
#[must_use]
pub fn osc_targets() -> Vec<(Result<u8, u16>, Slot)> {
    let slots = (0..16u8).filter_map(|i| Some((Ok(i), Slot::from_ansi(i)?)));
    let dynamic = [
        (Err(10), Slot::Foreground),
        (Err(11), Slot::Background),
        (Err(12), Slot::Cursor),
        (Err(17), Slot::Selection),
        (Err(19), Slot::SelectionText),
    ];
    slots.chain(dynamic).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::{MEMORY_HOME, MemoryAccess};
    use proptest::prelude::*;
    use wealdmist_core::setup::SetupDoc;

    fn read(access: &MemoryAccess) -> ToolReport {
        Kitty.read(access, &mut Facts::default())
    }

    fn planned(access: &MemoryAccess, setup: &str) -> Vec<(String, String)> {
        let setup = SetupDoc::parse("s", setup.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        let report = read(access);
        let wanted = Wanted {
            setup: &setup,
            look: &look,
            catalog: None,
        };
        let after = |e: &FileEdit| String::from_utf8(e.after()).unwrap();
        let name = |e: &FileEdit| {
            e.path
                .strip_prefix(MEMORY_HOME)
                .unwrap()
                .display()
                .to_string()
        };
        Kitty
            .plan(&wanted, &report, access)
            .iter()
            .map(|e| (name(e), after(e)))
            .collect()
    }

    #[test]
    fn both_sides_are_written_where_the_setup_follows_the_desktop() {
        let conf = "foreground #dddddd\nbackground #101010\n";
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", conf)]);
        let setup = "[palettes.a]\nbackground='#101010'\n[palettes.b]\nvariant='light'\nbackground='#f0f0f0'\n[appearance]\nfollow=true\n";
        let files = planned(&access, setup);
        let side = |name: &str| {
            let found = files.iter().find(|f| f.0.ends_with(name));
            found.unwrap_or_else(|| panic!("{files:?}")).1.clone()
        };
        assert!(side("/dark-theme.auto.conf").contains("\nbackground #101010\n"));
        assert!(side("/light-theme.auto.conf").contains("\nbackground #f0f0f0\n"));
        assert!(side("/no-preference-theme.auto.conf").contains("\nbackground #101010\n"));
        let alone = planned(&access, &setup.replace("follow=true", "follow=false"));
        assert!(
            alone.iter().all(|f| !f.0.contains("auto.conf")),
            "{alone:?}"
        );
    }

    #[test]
    fn selected_and_faded_text_are_pairs_of_their_own() {
        let drawn = |conf: &str| {
            let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", conf)]);
            read(&access).drawn
        };
        let own = drawn(
            "foreground #dddddd\nbackground #101010\ncolor1 #cc4444\nselection_background #334455\nselection_foreground none\ninactive_text_alpha 0.6\ndim_opacity 0.5\n",
        );
        let has = |what: &str| own.iter().find(|d| d.what == what);
        assert_eq!(
            has("red, selected").unwrap().ground.role,
            Slot::Selection.into()
        );
        assert_eq!(has("red, in an inactive window").unwrap().fade, 0.6);
        assert_eq!(has("faint text").unwrap().usage, Usage::Secondary);
        // A selection with a text color of its own draws nothing else.
        let one = drawn(
            "foreground #dddddd\nbackground #101010\ncolor1 #cc4444\nselection_background #334455\nselection_foreground #ffffff\n",
        );
        assert!(
            one.iter().all(|d| !d.what.ends_with(", selected")),
            "{one:?}"
        );
    }

    #[test]
    fn the_last_value_counts_wherever_it_stands() {
        let access = MemoryAccess::with(&[
            (
                ".config/kitty/kitty.conf",
                "color1 #111111\ninclude a/x.conf\ncolor2 #020202\n",
            ),
            (
                ".config/kitty/a/x.conf",
                "color1 #222222\r\ncolor2 rgb:1/2/3\r\ninclude y.conf\n",
            ),
            (
                ".config/kitty/a/y.conf",
                "font_size 9\nbackground #gggggg\n",
            ),
        ]);
        let report = read(&access);
        let red = report.effective(&Slot::Red.into()).unwrap();
        assert_eq!(red.value, Value::Color(Rgb::from_u32(0x22_2222)));
        assert_eq!(
            red.chain,
            [("/home/warden/.config/kitty/kitty.conf".into(), 2)]
        );
        let green = report.effective(&Slot::Green.into()).unwrap();
        assert_eq!(green.value, Value::Color(Rgb::from_u32(0x02_0202)));
        assert_eq!(green.place.at.line, 3);
        assert_eq!(report.problems.len(), 1);
        assert_eq!(report.problems[0].at.unwrap().line, 2);
    }

    #[test]
    fn circles_and_missing_includes_are_told_with_their_line() {
        let access = MemoryAccess::with(&[(
            ".config/kitty/kitty.conf",
            "\ninclude kitty.conf\ninclude nosuch.conf\ncolor1 #010101\n",
        )]);
        let report = read(&access);
        let lines: Vec<_> = report.problems.iter().map(|p| p.at.unwrap().line).collect();
        assert_eq!(lines, [2, 3]);
        assert!(report.effective(&Slot::Red.into()).is_some());
    }

    const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\nred='#cc0000'\ngreen='#00cc00'\n[font]\nfamily='Reedbed Mono NF'\n";

    #[test]
    fn an_edit_touches_only_the_value() {
        let text = "# mine\n  color1\t #ff0000  \nmap f1 x\n";
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", text)]);
        let after = &planned(&access, SETUP)[0].1;
        assert!(
            after.starts_with("# mine\n  color1\t #cc0000  \n"),
            "{after}"
        );
        assert!(
            after.contains("\n  color2\t #00cc00") || after.contains("\n  color2  #00cc00"),
            "{after}"
        );
        assert!(after.contains("map f1 x\n"), "{after}");
        assert!(after.contains("font_family Reedbed Mono NF\n"), "{after}");
    }

    #[test]
    fn a_commented_default_is_uncommented_in_place() {
        let text = "#: Colors\r\n# color1 #cc0403\r\n# color2 #00cc00\r\n";
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", text)]);
        let report = read(&access);
        assert!(report.effective(&Slot::Red.into()).unwrap().assumed);
        let after = &planned(&access, SETUP)[0].1;
        assert!(
            after.starts_with("#: Colors\r\ncolor1 #cc0000\r\n"),
            "{after}"
        );
        assert!(
            after.contains("\r\n# color2 #00cc00\r\n"),
            "what agrees stays: {after}"
        );
    }

    #[test]
    fn a_missing_last_newline_is_kept_apart_from_new_lines() {
        let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", "map f1 x")]);
        let after = &planned(&access, SETUP)[0].1;
        assert!(
            after.starts_with("map f1 x\nforeground #dddddd\n"),
            "{after}"
        );
        assert!(!after.contains("\n\n"), "{after}");
    }

    #[test]
    fn nothing_is_made_for_a_program_that_is_not_there() {
        assert!(planned(&MemoryAccess::default(), SETUP).is_empty());
        let mut access = MemoryAccess::default();
        access.programs.push("kitty".into());
        assert_eq!(planned(&access, SETUP)[0].0, ".config/kitty/kitty.conf");
    }

    proptest! {
        #[test]
        fn applying_gives_what_was_wanted(body in proptest::collection::vec(prop_oneof![
            Just("color1 #123456"), Just("# color3 #030303"), Just("background  #000000"), Just("map a b"),
            Just("include x.conf"), Just("  foreground rgb:ff/ff/ff"), Just("#: prose"), Just(""), Just("color1 bad"),
        ], 0..12), crlf in any::<bool>()) {
            let text = body.join(if crlf { "\r\n" } else { "\n" });
            let access = MemoryAccess::with(&[(".config/kitty/kitty.conf", &text), (".config/kitty/x.conf", "color1 #999999\n")]);
            let mut changed = access.clone();
            for (path, after) in planned(&access, SETUP) {
                changed.files.insert(std::path::Path::new(MEMORY_HOME).join(path), after.into_bytes());
            }
            prop_assert!(planned(&changed, SETUP).is_empty(), "a second plan is empty");
            let report = read(&changed);
            let red = report.effective(&Slot::Red.into()).unwrap().value.clone();
            prop_assert_eq!(red, Value::Color(Rgb::from_u32(0xcc_0000)));
        }

        #[test]
        fn any_bytes_are_read(bytes in proptest::collection::vec(any::<u8>(), 0..300)) {
            let mut access = MemoryAccess::default();
            access.files.insert("/home/warden/.config/kitty/kitty.conf".into(), bytes);
            let report = read(&access);
            for r in &report.readings {
                prop_assert!(r.place.span.end <= report.files[0].bytes.len());
            }
        }
    }
}
