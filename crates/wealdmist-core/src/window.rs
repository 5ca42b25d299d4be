//! The window of a terminal: what the setup and its dotfiles make of it.

use std::sync::Arc;

use crate::color::Rgb;
use crate::condition::{Backdrop, Behind, Conditions, Fit, Placing};
use crate::look::Look;
use crate::pair::pairs;
use crate::property::{NO_FILE, Property, Sides};
use crate::reading::{ToolId, ToolReport, Value};
use crate::role::RoleId;
use crate::setup::Setup;

/// A window as it will be.
#[derive(Debug, Clone, PartialEq)]
pub struct WindowLook {
    /// Whose window; `None` where no terminal is known.
    pub host: Option<ToolId>,
    /// Columns and rows of cells.
    pub size: (usize, usize),
    /// Between the cells and the edges.
    pub padding: Sides,
    /// How much of the ground is laid over what is behind the window, 0–1.
    pub opacity: f64,
    /// Whether it has a title bar and borders.
    pub framed: bool,
    /// The image on its ground.
    pub image: Option<ImageLook>,
    /// Where the tab bar is: `top`, `bottom`, `left`, `right`.
    pub tabs: String,
    /// When it is seen: `always`, `several`, `never`.
    pub tabs_shown: String,
    /// The cursor's shape: `block`, `bar`, `underline`.
    pub cursor: String,
    /// Whether it blinks.
    pub blinks: bool,
    /// How much of a text's color is left in an inactive pane, 0–1.
    pub dimmed: f64,
}

/// An image on the ground of a window.
#[derive(Debug, Clone, PartialEq)]
pub struct ImageLook {
    /// Its file, as the setup or the dotfile names it.
    pub path: String,
    /// How it fills the window: `cover`, `whole`, `stretch`, `tile`, `center`.
    pub fit: String,
    /// Where it stands: `center`, a side such as `top`, or a corner such as `top-left`.
    pub place: String,
    /// How much of the ground is laid over it, 0–1.
    pub tint: f64,
}

/// The frame of a drawn window, which is not the setup's, and what is written on it.
pub const FRAME: Rgb = Rgb::new(0xc4, 0xc6, 0xc8);
/// See [`FRAME`].
pub const ON_FRAME: Rgb = Rgb::new(0x20, 0x22, 0x24);
/// What is behind a drawn window where nobody says.
pub const DESK: Rgb = Rgb::new(0x5a, 0x5e, 0x62);
/// The tabs that are drawn, the active one first.
pub const TABS: [&str; 3] = ["gauge", "tide", "sluice"];

/// The size that terminals open with where nobody says.
const SIZE: (usize, usize) = (80, 24);

/// What a property comes to in a tool: by the setup where the tool can take it, else by its own dotfiles.
#[must_use]
pub fn comes_to(setup: &Setup, report: Option<&ToolReport>, property: Property) -> Option<Value> {
    let role = RoleId::from(property);
    let Some(report) = report else {
        return property.of(setup);
    };
    let kept = setup.exception(report.tool, &role).is_some();
    let wanted = property
        .of(setup)
        .filter(|value| !kept && report.can_say(property, value));
    wanted.or_else(|| said(report, property))
}

/// What a tool's own dotfiles say of a property; where several keys say parts of it, all of them together.
#[must_use]
pub fn said(report: &ToolReport, property: Property) -> Option<Value> {
    let role = RoleId::from(property);
    let last = report.effective(&role)?;
    if property != Property::WindowPadding || Sides::of_part(&last.value).is_none() {
        return Some(last.value.clone());
    }
    let all = report
        .readings
        .iter()
        .filter(|r| r.effective && r.role == role);
    let parts = all.filter_map(|r| Sides::edge_of(&r.value));
    let none = Sides::even(0.0);
    Some(
        parts
            .fold(none, |sides, (edge, n)| sides.with(edge, n))
            .value(),
    )
}

impl WindowLook {
    /// The window of a terminal, or of none in particular, as the setup has it.
    #[must_use]
    pub fn new(setup: &Setup, report: Option<&ToolReport>) -> Self {
        let value = |property| comes_to(setup, report, property);
        let number = |property| match value(property) {
            Some(Value::Number(n)) => Some(n),
            _ => None,
        };
        let word = |property, or: &str| match value(property) {
            Some(Value::Text(text)) => text,
            _ => or.to_owned(),
        };
        let count = |property, or: usize| number(property).map_or(or, |n| n as usize);
        let share = |property, or| number(property).unwrap_or(or).clamp(0.0, 1.0);
        let padding = value(Property::WindowPadding);
        let tabs = [Property::TabPlace, Property::TabsShown];
        let can_tab = report.is_none_or(|r| tabs.iter().any(|p| r.takes(*p)));
        let file = word(Property::Image, NO_FILE);
        Self {
            host: report.map(|r| r.tool),
            size: (
                count(Property::WindowColumns, SIZE.0).clamp(1, 2000),
                count(Property::WindowRows, SIZE.1).clamp(1, 2000),
            ),
            padding: padding
                .and_then(|p| Sides::of(&p).or_else(|| Sides::of_part(&p)))
                .unwrap_or(Sides::even(0.0)),
            opacity: share(Property::WindowOpacity, 1.0),
            framed: word(Property::WindowDecorations, "full") == "full",
            image: (file != NO_FILE).then(|| ImageLook {
                path: file,
                fit: word(Property::ImageFit, "cover"),
                place: word(Property::ImagePlace, "center"),
                tint: share(Property::ImageTint, 0.0),
            }),
            tabs: word(Property::TabPlace, "top"),
            tabs_shown: word(
                Property::TabsShown,
                if can_tab { "several" } else { "never" },
            ),
            cursor: word(Property::Cursor, "block"),
            blinks: word(Property::CursorBlink, "on") == "on",
            dimmed: share(Property::WindowDimmed, 1.0),
        }
    }

    /// What its text is seen through: the image under its tint, the window's own opacity over what is behind it, or both.
    #[must_use]
    pub fn conditions(&self, images: &Images) -> Conditions {
        let wallpaper = images.wallpaper.as_ref().map(|k| &k.backdrop);
        let ground = self.ground(images);
        let behind = match self.known_image(images) {
            Some((image, known)) => {
                let placed = known.backdrop.placed(image.placing());
                Behind::Image(Arc::new(if self.opacity < 1.0 {
                    let share = (self.opacity - ground) / (1.0 - ground);
                    placed.over(share, wallpaper)
                } else {
                    placed
                }))
            }
            None => wallpaper.map_or(Behind::Worst, |w| Behind::Image(Arc::clone(w))),
        };
        Conditions {
            opacity: ground,
            behind,
            ..Conditions::default()
        }
    }

    /// Its image, where that was read.
    fn known_image<'a>(&'a self, images: &'a Images) -> Option<(&'a ImageLook, &'a Known)> {
        let image = self.image.as_ref()?;
        let known = images.image.as_ref().filter(|k| k.path == image.path)?;
        Some((image, known))
    }

    /// How much of its ground is seen, 0–1: ground and image together are as opaque as the window.
    fn ground(&self, images: &Images) -> f64 {
        let tint = self
            .known_image(images)
            .map_or(1.0, |(image, _)| image.tint);
        self.opacity * tint
    }
}

impl ImageLook {
    /// How it lies in its window.
    #[must_use]
    pub fn placing(&self) -> Placing {
        let fit = match &*self.fit {
            "whole" => Fit::Whole,
            "stretch" => Fit::Stretch,
            "tile" => Fit::Tile,
            "center" => Fit::Center,
            _ => Fit::Cover,
        };
        let along = |start: &str, end: &str| match &*self.place {
            place if place.contains(start) => 0.0,
            place if place.contains(end) => 1.0,
            _ => 0.5,
        };
        Placing {
            fit,
            at: (along("left", "right"), along("top", "bottom")),
        }
    }
}

/// An image that was read, and the name it was read by.
#[derive(Debug, Clone, PartialEq)]
pub struct Known {
    /// As the setup or a dotfile names it.
    pub path: String,
    /// What it shows.
    pub backdrop: Arc<Backdrop>,
}

/// The images that windows show, as far as they were read.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Images {
    /// On the ground of the windows.
    pub image: Option<Known>,
    /// Behind the windows.
    pub wallpaper: Option<Known>,
}

/// The terminal that the specimen stands for: the one the setup names, else the first that has dotfiles.
#[must_use]
pub fn host<'a>(setup: &Setup, reports: &'a [ToolReport]) -> Option<&'a ToolReport> {
    let mut there = reports.iter().filter(|r| r.is_terminal && r.is_present());
    let named = match Property::Host.of(setup) {
        Some(Value::Text(name)) => Some(name),
        _ => None,
    };
    let chosen = there.clone().find(|r| named.as_deref() == Some(r.tool.0));
    chosen.or_else(|| there.next())
}

/// The windows of all terminals that have dotfiles, or one of none in particular.
#[must_use]
pub fn windows(setup: &Setup, reports: &[ToolReport]) -> Vec<WindowLook> {
    let there = reports.iter().filter(|r| r.is_terminal && r.is_present());
    let mut out: Vec<WindowLook> = there.map(|r| WindowLook::new(setup, Some(r))).collect();
    if out.is_empty() {
        out.push(WindowLook::new(setup, None));
    }
    out
}

/// What text is seen through in the person's own windows: in that which lets the most through.
#[must_use]
pub fn own_conditions(setup: &Setup, reports: &[ToolReport], images: &Images) -> Conditions {
    let all = windows(setup, reports);
    let seen = |w: &&WindowLook| w.ground(images);
    let least = all.iter().min_by(|a, b| seen(a).total_cmp(&seen(b)));
    // What lies behind an image that lets something through is worked out for this one alone.
    least.map(|w| w.conditions(images)).unwrap_or_default()
}

/// The least share of the ground, over an image or over what is behind the window, at which nothing fails that would not
/// fail on the full ground, in hundredths from `now` on; `None` where nothing fails for it. `with` says what is seen
/// through at a share.
#[must_use]
pub fn least_ground(
    setup: &Setup,
    look: &Look,
    reports: &[ToolReport],
    now: f64,
    with: impl Fn(f64) -> Conditions,
) -> Option<f64> {
    let failing = |conditions: &Conditions| {
        let all = pairs(setup, look, reports, conditions);
        all.iter().filter(|p| !p.fine()).count()
    };
    let fails_at = |hundredths: u32| failing(&with(f64::from(hundredths) / 100.0));
    let anyway = failing(&Conditions::default());
    let (mut fails, mut holds) = ((now * 100.0).floor() as u32, 100);
    if fails >= 100 || fails_at(fails) <= anyway {
        return None;
    }
    while holds - fails > 1 {
        let middle = u32::midpoint(fails, holds);
        match fails_at(middle) <= anyway {
            true => holds = middle,
            false => fails = middle,
        }
    }
    Some(f64::from(holds) / 100.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::color::over;
    use crate::reading::Reading;
    use crate::setup::SetupDoc;

    fn setup(window: &str) -> Setup {
        let text = format!("[palettes.a]\nbackground='#101010'\n[window]\n{window}");
        SetupDoc::parse("s", text.as_bytes())
            .unwrap()
            .setup()
            .clone()
    }

    fn terminal(tool: &'static str, takes: &[Property], says: &[(Property, Value)]) -> ToolReport {
        let mut report = ToolReport::new(ToolId(tool));
        report.is_terminal = true;
        report.can = takes.to_vec();
        report.problems.push(crate::reading::FileProblem {
            path: "a".into(),
            at: None,
            message: String::new(),
            help: String::new(),
            blocks_edits: false,
        });
        for (property, value) in says {
            report
                .readings
                .push(Reading::of(property.key(), value.clone(), 1));
        }
        report
    }

    #[test]
    fn a_window_is_by_the_setup_where_its_terminal_can_take_it() {
        let setup = setup("opacity=0.8\npadding=[6, 8]\ndecorations='none'\nhost='marsh'\n");
        let both = [Property::WindowOpacity, Property::WindowPadding];
        let able = terminal("reed", &both, &[]);
        let other = terminal(
            "marsh",
            &[],
            &[
                (Property::WindowOpacity, Value::Number(0.5)),
                (Property::WindowPadding, Value::Text("across 4".into())),
            ],
        );
        let look = WindowLook::new(&setup, Some(&able));
        assert_eq!(
            (look.opacity, look.padding.to_string()),
            (0.8, "6 8".into())
        );
        assert!(look.framed, "it cannot be told");
        let look = WindowLook::new(&setup, Some(&other));
        assert_eq!(
            (look.opacity, look.padding.to_string()),
            (0.5, "0 4".into())
        );
        assert!(!WindowLook::new(&setup, None).framed);
        let reports = [able, other];
        assert_eq!(host(&setup, &reports).unwrap().tool.0, "marsh");
        // The one that lets the most through is judged.
        let seen = own_conditions(&setup, &reports, &Images::default());
        assert_eq!((seen.opacity, seen.behind), (0.5, Behind::Worst));
    }

    #[test]
    fn what_a_terminal_has_no_word_for_is_not_in_its_window() {
        let setup = setup("image='~/reeds.png'\nimage-fit='tile'\n");
        let both = [Property::Image, Property::ImageFit];
        let says = [(Property::ImageFit, Value::Text("whole".into()))];
        let mut host = terminal("reed", &both, &says);
        let fit = |host: &ToolReport| WindowLook::new(&setup, Some(host)).image.unwrap().fit;
        assert_eq!(fit(&host), "tile");
        host.lacks.push((Property::ImageFit, "tile"));
        assert_eq!(fit(&host), "whole", "as its own file has it");
        host.readings.clear();
        assert_eq!(fit(&host), "cover");
    }

    #[test]
    fn an_image_that_was_read_is_seen_under_its_tint() {
        let setup = setup("image='~/reeds.png'\nimage-tint=0.9\nopacity=0.7\n");
        let pixels = [200, 100, 0].repeat(4);
        let backdrop = Arc::new(Backdrop::new(&pixels, (2, 2), (2, 2)).unwrap());
        let known = |path: &str| Images {
            image: Some(Known {
                path: path.to_owned(),
                backdrop: Arc::clone(&backdrop),
            }),
            wallpaper: None,
        };
        // Seven tenths are the window's: of these nine are its ground and one is the image; three are what is behind it.
        let seen = own_conditions(&setup, &[], &known("~/reeds.png"));
        assert!((seen.opacity - 0.63).abs() < 1e-9);
        let Behind::Image(both) = &seen.behind else {
            panic!("an image")
        };
        let through = 0.07 / 0.37;
        for (column, behind) in [(0, 0), (1, 255)] {
            let wanted = over(
                Rgb::new(200, 100, 0),
                through,
                Rgb::new(behind, behind, behind),
            );
            assert_eq!(both.cell(0, column), wanted);
        }
        let closed = self::setup("image='~/reeds.png'\nimage-tint=0.9\n");
        let seen = own_conditions(&closed, &[], &known("~/reeds.png"));
        assert_eq!(seen.opacity, 0.9);
        let seen = own_conditions(&setup, &[], &known("~/other.png"));
        assert_eq!((seen.opacity, &seen.behind), (0.7, &Behind::Worst));
    }
}
