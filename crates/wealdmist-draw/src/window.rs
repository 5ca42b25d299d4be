//! The window of a terminal to scale: frame, tab bar, padding and cursor as wide as they will be, over what is behind it.

use svg::Document;
use svg::node::element::{Group, Rectangle, Text, Title};
use wealdmist_core::color::{Rgb, over};
use wealdmist_core::condition::{Behind, Conditions};
use wealdmist_core::look::Look;
use wealdmist_core::property::Edge;
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::specimen::Specimen;
use wealdmist_core::window::{DESK, FRAME, Images, ON_FRAME, TABS, WindowLook};

use crate::page::fonts;
use crate::specimen::{CELL, MILLIMETRES, groups};

/// Pixels of 1/96 inch in a point.
const POINT: f64 = 96.0 / 72.0;
/// Between the window and the edge of the drawing.
const MARGIN: f64 = 24.0;
const TITLE: f64 = 28.0;
const TAB: (f64, f64) = (110.0, 24.0);
/// Into how many columns and rows a picture below a window is cut.
const MOSAIC: (usize, usize) = (96, 48);

/// A rectangle: left, top, width, height.
type Area = (f64, f64, f64, f64);

/// What a window is drawn with.
#[derive(Debug, Clone, Copy)]
pub struct Drawn<'a> {
    /// The setup resolved.
    pub look: &'a Look,
    /// The window.
    pub window: &'a WindowLook,
    /// The images it shows.
    pub images: &'a Images,
    /// What its text is seen through.
    pub conditions: &'a Conditions,
    /// What its cells show.
    pub inside: &'a Specimen,
    /// The font to ask for.
    pub family: Option<&'a str>,
    /// The width of the whole drawing for its height, where it is to fill something.
    pub aspect: Option<f64>,
}

fn rectangle((x, y, width, height): Area, color: Rgb) -> Rectangle {
    Rectangle::new()
        .set("x", x)
        .set("y", y)
        .set("width", width.max(0.0))
        .set("height", height.max(0.0))
        .set("fill", color.to_string())
}

fn label(text: &str, (x, y): (f64, f64), color: Rgb) -> Text {
    Text::new(text)
        .set("x", x)
        .set("y", y)
        .set("font-size", 13)
        .set("fill", color.to_string())
}

/// Colors by their place in an area, each as wide as the pieces of the mosaic.
fn mosaic(area: Area, color: impl Fn(f64, f64) -> Rgb) -> Group {
    let (columns, rows) = MOSAIC;
    let (wide, high) = (area.2 / columns as f64, area.3 / rows as f64);
    let mut out = Group::new().set("shape-rendering", "crispEdges");
    for row in 0..rows {
        let at = |column: usize| color(column as f64 / columns as f64, row as f64 / rows as f64);
        let mut start = 0;
        for column in 1..=columns {
            if column < columns && at(column) == at(start) {
                continue;
            }
            let x = area.0 + start as f64 * wide;
            let width = (column - start) as f64 * wide + 0.5;
            let y = area.1 + row as f64 * high;
            out = out.add(rectangle((x, y, width, high + 0.5), at(start)));
            start = column;
        }
    }
    out
}

/// Draws it.
#[must_use]
pub fn window_svg(drawn: &Drawn, title: &str) -> String {
    let Drawn { look, window, .. } = *drawn;
    let pad = |edge| window.padding.at(edge) * POINT;
    let cells = (
        drawn.inside.width as f64 * CELL.0,
        drawn.inside.height as f64 * CELL.1,
    );
    let framed = if window.framed { TITLE } else { 0.0 };
    let has_tabs = window.tabs_shown != "never";
    let aside = has_tabs && matches!(&*window.tabs, "left" | "right");
    let bar = if has_tabs && !aside { TAB.1 } else { 0.0 };
    let beside = if aside { TAB.0 } else { 0.0 };
    let inner = (
        pad(Edge::Left) + cells.0 + pad(Edge::Right),
        pad(Edge::Top) + cells.1 + pad(Edge::Bottom),
    );
    let size = (inner.0 + beside, inner.1 + framed + bar);
    let mut whole = (size.0 + 2.0 * MARGIN, size.1 + 2.0 * MARGIN);
    if let Some(aspect) = drawn.aspect.filter(|a| a.is_finite() && *a > 0.0) {
        whole = (whole.0.max(whole.1 * aspect), whole.1.max(whole.0 / aspect));
    }
    let desk = drawn.images.wallpaper.as_ref().map(|k| &k.backdrop);
    let on_desk = |x: f64, y: f64| {
        desk.map_or(DESK, |b| {
            b.cell(
                (y * b.rows as f64) as usize,
                (x * b.columns as f64) as usize,
            )
        })
    };
    let mut document = Document::new()
        .set(
            "viewBox",
            (0, 0, whole.0.ceil() as i64, whole.1.ceil() as i64),
        )
        .set("width", format!("{:.2}mm", whole.0 * MILLIMETRES))
        .set("height", format!("{:.2}mm", whole.1 * MILLIMETRES))
        .add(Title::new(title))
        .add(mosaic((0.0, 0.0, whole.0, whole.1), on_desk));
    let (left, mut top) = ((whole.0 - size.0) / 2.0, (whole.1 - size.1) / 3.0);
    top = top.max(MARGIN);
    let mut texts = Group::new().set("font-family", fonts(drawn.family));
    if window.framed {
        let of = window.host.map_or("terminal", |host| host.0);
        let said = format!("{of}   {} x {}", window.size.0, window.size.1);
        document = document.add(rectangle((left, top, size.0, TITLE), FRAME));
        texts = texts.add(label(&said, (left + 10.0, top + 19.0), ON_FRAME));
        top += TITLE;
    }
    let above = has_tabs && window.tabs == "top";
    let ground_at = (
        left + if window.tabs == "left" { beside } else { 0.0 },
        top + if above { bar } else { 0.0 },
    );
    let tabs = match &*window.tabs {
        "left" => (left, top, TAB.0, inner.1),
        "right" => (left + inner.0, top, TAB.0, inner.1),
        "bottom" => (left, top + inner.1, size.0, TAB.1),
        _ => (left, top, size.0, TAB.1),
    };
    if has_tabs {
        let color = |role| look.color(&RoleId::known(role));
        document = document.add(rectangle(tabs, color("tab.bar")));
        for (n, name) in TABS.into_iter().enumerate() {
            let state = if n == 0 { "active" } else { "inactive" };
            let (text, ground) = match state {
                "active" => (color("tab.active.text"), color("tab.active.ground")),
                _ => (color("tab.inactive.text"), color("tab.inactive.ground")),
            };
            let along = n as f64;
            let (x, y) = match aside {
                true => (tabs.0, tabs.1 + along * TAB.1),
                false => (tabs.0 + along * TAB.0, tabs.1),
            };
            document = document.add(rectangle((x, y, TAB.0, TAB.1), ground));
            texts = texts.add(label(name, (x + 12.0, y + 17.0), text));
        }
    }
    let ground = look.slot(Slot::Background);
    let on_desk_at = |x: f64, y: f64| {
        on_desk(
            (ground_at.0 + x * inner.0) / whole.0,
            (ground_at.1 + y * inner.1) / whole.1,
        )
    };
    let seen = |x: f64, y: f64| {
        let c = drawn.conditions;
        let behind = match &c.behind {
            _ if c.opacity >= 1.0 => return ground,
            Behind::Worst if x < 0.5 => Rgb::new(0, 0, 0),
            Behind::Worst => Rgb::new(255, 255, 255),
            Behind::Image(b) if b.lies_in_window() => match b.at((x, y), inner) {
                Some(color) => color,
                None => return over(ground, window.opacity, on_desk_at(x, y)),
            },
            // What is behind the window goes on below it.
            Behind::Image(_) if window.image.is_none() => on_desk_at(x, y),
            Behind::Image(b) => b.cell(
                (y * b.rows as f64) as usize,
                (x * b.columns as f64) as usize,
            ),
        };
        over(ground, c.opacity, behind)
    };
    document = document.add(mosaic((ground_at.0, ground_at.1, inner.0, inner.1), seen));
    let at = (ground_at.0 + pad(Edge::Left), ground_at.1 + pad(Edge::Top));
    let (grounds, inside) = groups(drawn.inside, drawn.family, Some(ground));
    let mut cells = Group::new()
        .set("transform", format!("translate({} {})", at.0, at.1))
        .add(grounds)
        .add(inside);
    if let Some(cursor) = cursor(drawn) {
        cells = cells.add(cursor);
    }
    format!("{}\n", document.add(texts).add(cells))
}

/// The cursor, where it is no block, over the cell it stands in.
fn cursor(drawn: &Drawn) -> Option<Group> {
    let inside = drawn.inside;
    let spot = inside.spots.iter().position(|s| s.what == "cursor")?;
    let cell = inside.cells.iter().position(|c| c.spot == Some(spot))?;
    let (x, y) = (
        (cell % inside.width) as f64 * CELL.0,
        (cell / inside.width) as f64 * CELL.1,
    );
    let shape = match &*drawn.window.cursor {
        "bar" => (x, y, 2.0, CELL.1),
        "underline" => (x, y + CELL.1 - 2.0, CELL.0, 2.0),
        _ => return None,
    };
    let ground = drawn.look.slot(Slot::Background);
    let color = drawn.look.slot(Slot::Cursor);
    Some(
        Group::new()
            .add(rectangle((x, y, CELL.0, CELL.1), ground))
            .add(rectangle(shape, color)),
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use wealdmist_core::setup::SetupDoc;

    fn drawn(window: &str) -> String {
        let text = format!("[palettes.a]\nbackground='#101010'\n[window]\n{window}");
        let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
        let look = Look::new(doc.setup());
        let window = WindowLook::new(doc.setup(), None);
        let images = Images::default();
        let inside = Specimen::draw(doc.setup(), &look, 80, 24, false);
        let conditions = window.conditions(&images);
        let drawn = Drawn {
            look: &look,
            window: &window,
            images: &images,
            conditions: &conditions,
            inside: &inside,
            family: None,
            aspect: None,
        };
        window_svg(&drawn, "a window")
    }

    #[test]
    fn everything_is_as_wide_as_it_will_be() {
        let size = |svg: &str| {
            let at = svg.find("viewBox=\"0 0 ").unwrap() + 13;
            let both: Vec<i64> = svg[at..]
                .split(['"', ' '])
                .take(2)
                .map(|n| n.parse().unwrap())
                .collect();
            (both[0], both[1])
        };
        let plain = size(&drawn("decorations='none'\ntabs-shown='never'\n"));
        assert_eq!(plain, (80 * 9 + 48, 24 * 19 + 48));
        // Fifteen points are twenty pixels.
        let padded = size(&drawn(
            "decorations='none'\ntabs-shown='never'\npadding=[15, 30]\n",
        ));
        assert_eq!(padded, (plain.0 + 80, plain.1 + 40));
        assert_eq!(
            size(&drawn("tabs-shown='never'\n")),
            (plain.0, plain.1 + 28)
        );
        assert_eq!(
            size(&drawn("decorations='none'\ntabs='left'\n")),
            (plain.0 + 110, plain.1)
        );
        let svg = drawn("opacity=0.5\ncursor='bar'\n");
        // Half the ground over black, and over white.
        assert!(svg.contains("#080808") && svg.contains("#888888"), "{svg}");
        assert!(svg.contains("width=\"2\""));
    }
}
