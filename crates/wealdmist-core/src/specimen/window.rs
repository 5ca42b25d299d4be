//! The window of a terminal as it will be, drawn in cells of its own size: what does not fit is left out of the middle, and
//! everything at its edges is as wide as it will be.

use super::canvas::Canvas;
use super::{Cell, Specimen};
use crate::character::SymbolLevel;
use crate::look::Look;
use crate::property::{Edge, Property};
use crate::role::{RoleId, Slot};
use crate::setup::{Attrs, Setup};
use crate::window::{DESK, FRAME, Images, ON_FRAME, TABS, WindowLook};

/// The size of a cell that paddings are measured by, in points: that of text of 12 points.
pub const CELL: (f64, f64) = (7.5, 15.0);
/// The columns of a tab bar at a side.
const SIDE: usize = 12;

/// A rectangle of cells.
#[derive(Clone, Copy)]
struct Area {
    row: usize,
    column: usize,
    height: usize,
    width: usize,
}

impl Area {
    /// Takes rows off the top.
    fn top(&mut self, rows: usize) -> Self {
        let rows = rows.min(self.height);
        let taken = Self {
            height: rows,
            ..*self
        };
        self.row += rows;
        self.height -= rows;
        taken
    }

    /// Takes rows off the bottom.
    fn bottom(&mut self, rows: usize) -> Self {
        let rows = rows.min(self.height);
        self.height -= rows;
        Self {
            row: self.row + self.height,
            height: rows,
            ..*self
        }
    }

    /// Takes columns off the left.
    fn left(&mut self, columns: usize) -> Self {
        let columns = columns.min(self.width);
        let taken = Self {
            width: columns,
            ..*self
        };
        self.column += columns;
        self.width -= columns;
        taken
    }

    /// Takes columns off the right.
    fn right(&mut self, columns: usize) -> Self {
        let columns = columns.min(self.width);
        self.width -= columns;
        Self {
            column: self.column + self.width,
            width: columns,
            ..*self
        }
    }
}

impl Specimen {
    /// Draws a window over what is behind it. Its own ground is drawn whole: conditions let through what lies behind it.
    #[must_use]
    pub fn of_window(
        setup: &Setup,
        look: &Look,
        window: &WindowLook,
        images: &Images,
        (width, height): (usize, usize),
        icons: bool,
    ) -> Self {
        let mut canvas = Canvas::new(look, width.max(1), height.max(1));
        let desk = |row: usize, column: usize| {
            let known = images.wallpaper.as_ref().map(|k| &k.backdrop);
            known.map_or(DESK, |b| {
                b.cell(
                    row * b.rows / height.max(1),
                    column * b.columns / width.max(1),
                )
            })
        };
        for row in 0..height {
            for column in 0..width {
                canvas.paint(row, column, (DESK, desk(row, column)));
            }
        }
        let room = if width >= 40 { (1, 3) } else { (0, 1) };
        let mut area = Area {
            row: room.0,
            column: room.1,
            height: height.saturating_sub(2 * room.0),
            width: width.saturating_sub(2 * room.1),
        };
        // Small windows are drawn whole.
        let pads = |edge, cell: f64| (window.padding.at(edge) / cell).round() as usize;
        let across = [pads(Edge::Left, CELL.0), pads(Edge::Right, CELL.0)];
        let down = [pads(Edge::Top, CELL.1), pads(Edge::Bottom, CELL.1)];
        let has_tabs = window.tabs_shown != "never";
        let aside = has_tabs && matches!(&*window.tabs, "left" | "right");
        let bars = usize::from(window.framed) + usize::from(has_tabs && !aside);
        let whole = (
            window.size.1 + down[0] + down[1] + bars,
            window.size.0 + across[0] + across[1] + if aside { SIDE } else { 0 },
        );
        // It hangs a third down, as windows do.
        area.row += area.height.saturating_sub(whole.0) / 3;
        area.column += area.width.saturating_sub(whole.1) / 2;
        let is_cut = area.height < whole.0 || area.width < whole.1;
        area.height = area.height.min(whole.0);
        area.width = area.width.min(whole.1);
        if window.framed {
            title(&mut canvas, area.top(1), window, is_cut);
        }
        if has_tabs {
            tabs(&mut canvas, &mut area, window);
        }
        let sides = [
            area.top(down[0]),
            area.bottom(down[1]),
            area.left(across[0]),
            area.right(across[1]),
        ];
        let role = RoleId::from(Property::WindowPadding);
        for side in sides {
            for row in side.row..side.row + side.height {
                canvas.blank(row, side.column..side.column + side.width);
            }
            if side.height > 0 && side.width > 0 {
                let ground = Slot::Background.into();
                let (row, column) = (side.row + side.height / 2, side.column);
                canvas.spot(
                    row,
                    column..column + side.width,
                    (role.clone(), ground),
                    "padding",
                );
            }
        }
        let level = if icons {
            setup.symbols
        } else {
            setup.symbols.min(SymbolLevel::Plain)
        };
        let inside = Self::draw(setup, look, area.width.max(1), area.height.max(1), icons);
        if area.width > 0 && area.height > 0 {
            canvas.paste(area.row, area.column, &inside);
        }
        cursor(&mut canvas, look, window, level);
        canvas.finish()
    }
}

fn title(canvas: &mut Canvas, area: Area, window: &WindowLook, is_cut: bool) {
    let of = window.host.map_or("terminal", |host| host.0);
    let (columns, rows) = window.size;
    let cut = if is_cut { ", edges to scale" } else { "" };
    let text = format!(" {of}   {columns} x {rows}{cut} ");
    let role = RoleId::from(Property::WindowDecorations);
    for column in area.column..area.column + area.width {
        canvas.paint(area.row, column, (ON_FRAME, FRAME));
    }
    let end = canvas.write(area.row, area.column, &text, area.width, (ON_FRAME, FRAME));
    let ground = role.clone();
    canvas.spot(area.row, area.column..end, (role, ground), "decorations");
}

fn tabs(canvas: &mut Canvas, area: &mut Area, window: &WindowLook) {
    let known = RoleId::known;
    let ink = |n: usize| match n {
        0 => (known("tab.active.text"), known("tab.active.ground")),
        _ => (known("tab.inactive.text"), known("tab.inactive.ground")),
    };
    let names = ["active tab", "inactive tab", "inactive tab"];
    let all = || TABS.iter().enumerate();
    match &*window.tabs {
        side @ ("left" | "right") => {
            let bar = match side {
                "left" => area.left(SIDE),
                _ => area.right(SIDE),
            };
            for row in bar.row..bar.row + bar.height {
                canvas.fill(row, bar.column..bar.column + bar.width, "tab.bar");
                canvas.write_blank(row, bar.column..bar.column + bar.width);
            }
            for (n, text) in all().take(bar.height) {
                let text = format!("{:<width$}", format!(" {text} "), width = bar.width);
                canvas.put_in(bar.row + n, bar.column, &text, ink(n), names[n]);
            }
        }
        place => {
            let bar = match place {
                "bottom" => area.bottom(1),
                _ => area.top(1),
            };
            canvas.fill(bar.row, bar.column..bar.column + bar.width, "tab.bar");
            canvas.write_blank(bar.row, bar.column..bar.column + bar.width);
            let mut at = bar.column;
            for (n, text) in all() {
                let text = format!(" {text} ");
                if at + text.len() > bar.column + bar.width {
                    break;
                }
                at = canvas.put_in(bar.row, at, &text, ink(n), names[n]);
            }
        }
    }
}

/// The cursor in its own shape.
fn cursor(canvas: &mut Canvas, look: &Look, window: &WindowLook, level: SymbolLevel) {
    let ascii = level == SymbolLevel::Ascii;
    let sign = match &*window.cursor {
        "bar" => Some(if ascii { "|" } else { "▏" }),
        "underline" => Some(if ascii { "_" } else { "▁" }),
        _ => None,
    };
    let shape = look.slot(Slot::Cursor);
    let ground = look.slot(Slot::Background);
    canvas.reshape("cursor", |cell: &mut Cell| {
        if let Some(sign) = sign {
            sign.clone_into(&mut cell.text);
            (cell.fg, cell.bg) = (shape, ground);
            cell.attrs = Attrs::default();
        }
    });
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::color::Rgb;
    use crate::setup::SetupDoc;
    use proptest::prelude::*;

    fn drawn(window: &str, size: (usize, usize)) -> Specimen {
        let text = format!("[palettes.a]\nbackground='#101010'\n[window]\n{window}");
        let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
        let look = Look::new(doc.setup());
        let window = WindowLook::new(doc.setup(), None);
        Specimen::of_window(doc.setup(), &look, &window, &Images::default(), size, false)
    }

    fn row(specimen: &Specimen, row: usize) -> String {
        let cells = &specimen.cells[row * specimen.width..][..specimen.width];
        cells.iter().map(|c| c.text.as_str()).collect()
    }

    #[test]
    fn what_the_window_has_is_where_it_will_be() {
        let s = drawn("padding=15\ncolumns=40\nrows=10\n", (80, 30));
        let first = (0..30)
            .find(|n| row(&s, *n).contains("terminal   40 x 10"))
            .unwrap();
        assert!(
            row(&s, first + 1).contains(" gauge  tide "),
            "{}",
            row(&s, first + 1)
        );
        // 15 points are a row and two columns: forty columns and two paddings.
        let ground = Rgb::new(0x10, 0x10, 0x10);
        let frame = (0..80).filter(|c| s.cell(first, *c).unwrap().bg == FRAME);
        let columns: Vec<usize> = frame.collect();
        assert_eq!(columns.len(), 44);
        assert_eq!(s.cell(first + 2, columns[1]).unwrap().bg, ground);
        assert!(row(&s, first + 2).trim().is_empty());
        assert_eq!(s.cell(first, columns[43] + 1).unwrap().bg, DESK);
        let rows = (0..30).filter(|n| s.cell(*n, columns[0]).unwrap().bg != DESK);
        assert_eq!(rows.count(), 1 + 1 + 10 + 2);
        let spots: Vec<&str> = s.spots.iter().map(|spot| spot.what).collect();
        assert!(spots.contains(&"padding") && spots.contains(&"decorations"));
        let s = drawn(
            "decorations='none'\ntabs='bottom'\ncolumns=40\nrows=10\n",
            (80, 30),
        );
        let last = (0..30)
            .rfind(|n| s.cell(*n, 40).unwrap().bg != DESK)
            .unwrap();
        assert!(row(&s, last).contains(" gauge "), "{}", row(&s, last));
        let s = drawn("tabs-shown='never'\ncursor='bar'\n", (80, 30));
        assert!((0..30).all(|n| !row(&s, n).contains(" gauge ")));
        let cursor = s
            .spots
            .iter()
            .position(|spot| spot.what == "cursor")
            .unwrap();
        let cell = s.cells.iter().find(|c| c.spot == Some(cursor)).unwrap();
        assert_eq!((cell.text.as_str(), cell.bg), ("▏", ground));
        // What does not fit says so.
        let s = drawn("columns=200\n", (80, 30));
        assert!((0..30).any(|n| row(&s, n).contains("200 x 24, edges to scale")));
    }

    proptest! {
        #[test]
        fn any_window_is_drawn_in_any_room(
            width in 0usize..200, height in 0usize..60, columns in 1usize..300, rows in 1usize..100,
            sides in prop::array::uniform4(0.0f64..200.0), tabs in 0usize..4, framed: bool,
        ) {
            let place = ["top", "bottom", "left", "right"][tabs];
            let frame = if framed { "full" } else { "none" };
            let s = drawn(
                &format!("padding={sides:?}\ncolumns={columns}\nrows={rows}\ntabs='{place}'\ndecorations='{frame}'\n"),
                (width, height),
            );
            prop_assert_eq!(s.cells.len(), width.max(1) * height.max(1));
            for spot in &s.spots {
                prop_assert!(spot.at.0 < s.height && spot.at.1 + spot.width <= s.width);
            }
        }
    }
}
