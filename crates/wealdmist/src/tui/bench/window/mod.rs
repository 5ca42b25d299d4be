//! The Window bench: what a window has, beside each terminal's own; the window itself is on the specimen.

mod view;

use std::borrow::Cow;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use crossterm::event::KeyCode::{Backspace, Char, Enter};
use wealdmist_core::property::{Property, Sides, Unit};
use wealdmist_core::reading::{ToolReport, Value};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::SetupDoc;
use wealdmist_core::specimen::Specimen;
use wealdmist_core::window::{DESK, WindowLook, comes_to, host, least_ground, said};

use wealdmist_draw::{Fonts, pixels};
use wealdmist_host::Picture;

use super::{Bench, Do, List, Question, Reply};
use crate::tui::job::Job;
use crate::tui::keys::{Key, also, hint, key};
use crate::tui::stage::Target;
use crate::tui::step::Step;
use crate::tui::view::layout::specimen_size;
use crate::tui::view::{Hits, Pen};
use crate::tui::workspace::Workspace;
use crate::work::{fonts_of, lines, window_of};

/// The step.
pub const STEP: Step = Step {
    name: "window",
    label: "Window",
    drawing: "window",
};

/// What the window has, in the order of the list; `None` stands between groups.
const ROWS: &[Option<Property>] = &[
    Some(Property::WindowOpacity),
    Some(Property::WindowBlur),
    Some(Property::Wallpaper),
    Some(Property::Image),
    Some(Property::ImageFit),
    Some(Property::ImagePlace),
    Some(Property::ImageTint),
    None,
    Some(Property::WindowPadding),
    Some(Property::WindowDecorations),
    Some(Property::WindowColumns),
    Some(Property::WindowRows),
    Some(Property::WindowRemembered),
    Some(Property::TabPlace),
    Some(Property::TabsShown),
    Some(Property::TabTitle),
    Some(Property::Title),
    Some(Property::TitleSet),
    None,
    Some(Property::Cursor),
    Some(Property::CursorBlink),
    Some(Property::CursorRate),
    Some(Property::CursorThickness),
    Some(Property::CursorTrail),
    Some(Property::CursorUnfocused),
    None,
    Some(Property::FontSize),
    Some(Property::FontLineHeight),
    Some(Property::FontColumnWidth),
    Some(Property::FontOwnLines),
    Some(Property::WindowDimmed),
    Some(Property::Scrollback),
    None,
    Some(Property::Follow),
    Some(Property::BellSound),
    Some(Property::BellFlash),
    Some(Property::MouseHidden),
    Some(Property::Notified),
    Some(Property::WindowFolder),
    Some(Property::WindowShell),
];

/// What its keys do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Act {
    Change,
    Less,
    More,
    Unset,
    Adopt,
    Host,
    Least,
}

/// The bench.
#[derive(Debug, Default)]
pub struct Window {
    /// The row pointed at, among those that say something.
    pub cursor: usize,
    /// The terminal pointed at, among those that are there.
    pub column: Option<usize>,
    /// The image that was asked for last, by what it shows.
    asked: Option<u64>,
    /// The image there is.
    painted: Option<(u64, Arc<Picture>)>,
    /// What its text is drawn with, once it was read.
    fonts: Option<Arc<Fonts>>,
}

/// The window as an image was drawn, or could not be.
pub struct Painted {
    wanted: u64,
    picture: Option<Arc<Picture>>,
    fonts: Arc<Fonts>,
}

impl Bench for Window {
    type Act = Act;
    type Ask = Property;
    type Answer = Painted;

    const KEYS: &'static [Key<Act>] = &[
        hint(Enter, Act::Change, "Enter", "change it"),
        hint(Char('-'), Act::Less, "- +", "less, more"),
        also(Char('+'), Act::More),
        also(Char('='), Act::More),
        hint(Char('x'), Act::Unset, "x", "not chosen"),
        also(Backspace, Act::Unset),
        key(Char('a'), Act::Adopt, "a", "take this terminal's value"),
        hint(Char('m'), Act::Least, "m", "the least that text allows"),
        hint(Char('h'), Act::Host, "h", "the specimen is this terminal"),
    ];

    fn title(&self, ws: &Workspace) -> Cow<'static, str> {
        match self.shown(ws) {
            Some(report) => format!("window of {}", report.tool).into(),
            None => "window".into(),
        }
    }

    fn command(&self, ws: &Workspace) -> String {
        let property = self.property();
        let can_be_set =
            |value: &Value| property.is_set() && property.typed(&value.to_string()).is_ok();
        match self.now(property, ws).filter(can_be_set) {
            Some(value) => {
                let value = lines::word(&value.to_string());
                format!("wealdmist set {} {value}", property.key())
            }
            None => "wealdmist survey --all".to_owned(),
        }
    }

    fn draw(&self, ws: &Workspace, pen: &mut Pen, hits: &mut Hits) {
        view::draw(self, ws, pen, hits);
    }

    fn act(&mut self, act: Act, ws: &mut Workspace) -> Reply<Self> {
        let property = self.property();
        match act {
            _ if !property.is_set() && matches!(act, Act::Change | Act::Less | Act::More) => {
                ws.complain(
                    "what a terminal starts is not set by a setup: one received could run anything",
                );
            }
            Act::Change => return self.change(property, ws),
            Act::Less => self.step(property, -1.0, ws),
            Act::More => self.step(property, 1.0, ws),
            Act::Unset => {
                let changed = property.unset(ws.doc());
                if ws.change(changed) {
                    ws.tell(format!("{} is each terminal's own", property.label()));
                }
            }
            Act::Adopt => self.adopt(property, ws),
            Act::Host => self.stand_for(ws),
            Act::Least => self.least(ws),
        }
        Vec::new()
    }

    fn typed(
        &mut self,
        property: &Property,
        text: &str,
        ws: &mut Workspace,
    ) -> Result<Reply<Self>, String> {
        let changed = match text.trim() {
            "" => property.unset(ws.doc()),
            text => property.set(ws.doc(), &property.typed(text)?),
        };
        let changed = changed.map_err(|e| e.to_string())?;
        ws.change(Ok::<_, String>(changed));
        Ok(Vec::new())
    }

    fn list(&mut self, _: &Workspace) -> Option<List<'_>> {
        let len = properties().count();
        let cursor = &mut self.cursor;
        Some(List { cursor, len })
    }

    fn walk(&mut self, down: isize, right: isize, ws: &mut Workspace) {
        if let Some(mut list) = self.list(ws) {
            list.move_by(down);
        }
        let last = terminals(ws).count().saturating_sub(1);
        if right != 0 {
            let now = self.column_of(ws);
            self.column = Some(now.saturating_add_signed(right).min(last));
            ws.stage.stale = true;
        }
    }

    fn point(&mut self, row: usize, column: Option<usize>, ws: &mut Workspace) {
        if let Some(mut list) = self.list(ws) {
            list.go(row);
        }
        if column.is_some() {
            self.column = column;
            ws.stage.stale = true;
        }
    }

    fn stand_on(&mut self, role: &RoleId, _: &mut Workspace) {
        let property = Property::from_key(role.as_str());
        let at = properties().position(|p| Some(p) == property);
        self.cursor = at.unwrap_or(self.cursor);
    }

    fn target(&self, _: &Workspace) -> Option<Target> {
        let at = match self.property() {
            Property::Cursor
            | Property::CursorBlink
            | Property::CursorRate
            | Property::CursorThickness
            | Property::CursorTrail
            | Property::CursorUnfocused => RoleId::known("cursor-text"),
            Property::TabPlace | Property::TabsShown => RoleId::known("tab.active.text"),
            property => property.into(),
        };
        Some(at.into())
    }

    fn refresh(&mut self, ws: &mut Workspace) -> Reply<Self> {
        let Some(cell) = ws.display.pixels else {
            return Vec::new();
        };
        let (columns, rows) = specimen_size(ws.size, ws.stage.filled);
        let size = (columns as u32 * cell.0, rows as u32 * cell.1);
        let host = self.shown(ws).map(|r| r.tool);
        let label = format!("{size:?} {host:?} {}", ws.conditions.label());
        let mut hasher = DefaultHasher::new();
        (&label, ws.doc().text()).hash(&mut hasher);
        let wanted = hasher.finish();
        if self.asked == Some(wanted) || size.0 == 0 || size.1 == 0 {
            return Vec::new();
        }
        self.asked = Some(wanted);
        let aspect = f64::from(size.0) / f64::from(size.1);
        let (survey, fonts) = (ws.survey.clone(), self.fonts.clone());
        let (conditions, icons) = (ws.conditions.clone(), ws.display.icons);
        vec![Do::Run(Job::new(
            "window",
            "drawing the window",
            move || {
                let fonts = fonts.unwrap_or_else(|| Arc::new(fonts_of(&survey.home)));
                let report = survey.reports.iter().find(|r| Some(r.tool) == host);
                let svg = window_of(&survey, report, &conditions, icons, Some(aspect));
                let picture = pixels(&svg, &fonts, size, DESK).ok().map(|pixels| Picture {
                    width: size.0 as usize,
                    height: size.1 as usize,
                    pixels,
                });
                Painted {
                    wanted,
                    picture: picture.map(Arc::new),
                    fonts,
                }
            },
        ))]
    }

    fn answered(&mut self, answer: Painted, _: &mut Workspace) -> Reply<Self> {
        self.fonts = Some(answer.fonts);
        self.painted = answer.picture.map(|picture| (answer.wanted, picture));
        Vec::new()
    }

    fn picture(&self, ws: &Workspace) -> Option<Arc<Picture>> {
        let (wanted, picture) = self.painted.as_ref()?;
        let is_current = self.asked == Some(*wanted) && ws.stage.worn.is_none();
        is_current.then(|| Arc::clone(picture))
    }

    fn specimen(&self, ws: &Workspace, size: (usize, usize)) -> Option<Specimen> {
        let (setup, look) = (ws.worn_doc().setup(), ws.worn_look());
        let window = WindowLook::new(setup, self.shown(ws));
        let images = &ws.survey.images().images;
        Some(Specimen::of_window(
            setup,
            look,
            &window,
            images,
            size,
            ws.display.icons,
        ))
    }
}

/// What the list has, without what stands between.
pub fn properties() -> impl Iterator<Item = Property> {
    ROWS.iter().filter_map(|row| *row)
}

/// The terminals that are there.
pub fn terminals(ws: &Workspace) -> impl Iterator<Item = &ToolReport> {
    let all = ws.survey.reports.iter();
    all.filter(|r| r.is_terminal && r.is_present())
}

impl Window {
    /// What is pointed at.
    pub fn property(&self) -> Property {
        properties()
            .nth(self.cursor)
            .unwrap_or(Property::WindowOpacity)
    }

    /// Which of the terminals is pointed at: to begin with the one the specimen stands for.
    pub fn column_of(&self, ws: &Workspace) -> usize {
        let last = terminals(ws).count().saturating_sub(1);
        let chosen = || {
            let host = host(ws.doc().setup(), &ws.survey.reports)?;
            terminals(ws).position(|r| r.tool == host.tool)
        };
        self.column.or_else(chosen).unwrap_or(0).min(last)
    }

    /// The terminal whose window is drawn.
    pub fn shown<'a>(&self, ws: &'a Workspace) -> Option<&'a ToolReport> {
        terminals(ws).nth(self.column_of(ws))
    }

    /// What it comes to now.
    fn now(&self, property: Property, ws: &Workspace) -> Option<Value> {
        comes_to(ws.doc().setup(), self.shown(ws), property)
    }

    fn change(&self, property: Property, ws: &mut Workspace) -> Reply<Self> {
        let now = self.now(property, ws).map(|v| v.to_string());
        if let Some(words) = property.words() {
            let chosen = property.of(ws.doc().setup()).map(|v| v.to_string());
            let at = words
                .iter()
                .position(|w| Some(*w) == chosen.as_deref().or(now.as_deref()));
            let next = words[at.map_or(0, |at| (at + 1) % words.len())];
            let changed = property.set(ws.doc(), &Value::Text(next.to_owned()));
            ws.change(changed);
            return Vec::new();
        }
        let label = property.label();
        let what = match (property.unit(), property.range()) {
            (Unit::Path, _) => {
                return vec![Do::Ask(
                    Question::path(
                        format!("{label} (empty: not chosen)"),
                        now.unwrap_or_default(),
                    ),
                    property,
                )];
            }
            (Unit::Sides, Some((least, most))) => {
                format!(
                    "{label} in points, {least} to {most}: all, down across, or top right bottom left"
                )
            }
            (unit, Some((least, most))) => format!("{label}{}, {least} to {most}", unit_said(unit)),
            _ => label.to_owned(),
        };
        vec![Do::Ask(
            Question::new(what, now.unwrap_or_default()),
            property,
        )]
    }

    /// Changes a number by a step, or a word to the next or the one before.
    fn step(&self, property: Property, by: f64, ws: &mut Workspace) {
        let now = self.now(property, ws);
        if let Some(words) = property.words() {
            let said = now.map(|v| v.to_string());
            let at = words.iter().position(|w| Some(*w) == said.as_deref());
            let count = words.len() as isize;
            let next = at.map_or(0, |at| (at as isize + by as isize).rem_euclid(count));
            let changed = property.set(ws.doc(), &Value::Text(words[next as usize].to_owned()));
            ws.change(changed);
            return;
        }
        let Some((least, most)) = property.range() else {
            ws.complain(format!(
                "{} is no number: Enter changes it",
                property.label()
            ));
            return;
        };
        let step = by
            * match property.unit() {
                Unit::Share | Unit::Factor => 0.05,
                Unit::Lines => 1000.0,
                Unit::Milliseconds => 50.0,
                _ if property == Property::CursorThickness || property == Property::FontSize => 0.5,
                _ => 1.0,
            };
        let moved = |n: f64| (((n + step) / step.abs()).round() * step.abs()).clamp(least, most);
        let value = match &now {
            Some(value) if property.unit() == Unit::Sides => {
                let sides = Sides::of(value).or_else(|| Sides::of_part(value));
                let all = sides.map_or([0.0; 4], |s| s.all).map(moved);
                Sides { all }.value()
            }
            Some(Value::Number(n)) => Value::Number((moved(*n) * 100.0).round() / 100.0),
            _ => {
                ws.complain(format!(
                    "no terminal says what {} is: Enter sets it",
                    property.label()
                ));
                return;
            }
        };
        let run = format!("step {}", property.key());
        let changed: Result<SetupDoc, _> = property.set(ws.doc(), &value);
        ws.change_in_run(run, Some(changed));
    }

    /// Takes the value of the terminal pointed at into the setup.
    fn adopt(&self, property: Property, ws: &mut Workspace) {
        let said = self
            .shown(ws)
            .and_then(|r| Some((r.tool, said(r, property)?)));
        let Some((tool, value)) = said else {
            ws.complain("this terminal says nothing of it");
            return;
        };
        let changed = property.set(ws.doc(), &value);
        if ws.change(changed) {
            ws.tell(format!("{} is {value} now, as in {tool}", property.label()));
        }
    }

    /// Has the specimen stand for the terminal pointed at.
    fn stand_for(&self, ws: &mut Workspace) {
        let Some(tool) = self.shown(ws).map(|r| r.tool) else {
            ws.complain("no terminal has dotfiles here");
            return;
        };
        let changed = Property::Host.set(ws.doc(), &Value::Text(tool.0.to_owned()));
        if ws.change(changed) {
            ws.tell(format!("the specimen stands for {tool}"));
        }
    }

    /// Lets as much through as can be while all text is as readable as on the full ground.
    fn least(&self, ws: &mut Workspace) {
        let setup = ws.doc().setup();
        let shown = WindowLook::new(setup, self.shown(ws));
        let (property, now) = match &shown.image {
            Some(image) => (Property::ImageTint, image.tint),
            None => (Property::WindowOpacity, shown.opacity),
        };
        let images = &ws.survey.images().images;
        let with = |share: f64| {
            let mut window = shown.clone();
            match &mut window.image {
                Some(image) => image.tint = share,
                None => window.opacity = share,
            }
            window.conditions(images)
        };
        let found = least_ground(setup, ws.look(), &ws.survey.reports, now, with);
        let Some(least) = found else {
            ws.tell(
                "nothing that shows through makes any text worse than it is on the full ground",
            );
            return;
        };
        let changed = property.set(ws.doc(), &Value::Number(least));
        if ws.change(changed) {
            ws.conditions_chosen = false;
            ws.recompute();
            ws.tell(format!(
                "{} is {least}: the least at which no text fails for it",
                property.label()
            ));
        }
    }
}

/// What numbers count, for a question.
fn unit_said(unit: Unit) -> &'static str {
    match unit {
        Unit::Points => " in points",
        Unit::Cells => " in cells",
        Unit::Lines => " in lines",
        Unit::Milliseconds => " in thousandths of a second",
        _ => "",
    }
}
