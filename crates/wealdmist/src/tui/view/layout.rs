//! Where things are, from the terminal's size alone.

use ratatui_core::layout::Rect;

/// The smallest terminal the interface works in.
pub const SMALLEST: (u16, u16) = (80, 24);
/// From this width on, bench and specimen stand side by side.
const SIDE_BY_SIDE: u16 = 136;
/// The columns left of the specimen for the pointer, and one at its right.
const GUTTER: u16 = 2;

/// The parts of the screen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Layout {
    /// The setup, and how much is open.
    pub head: Rect,
    /// The steps.
    pub path: Rect,
    /// The rule below them.
    pub rule: Rect,
    /// The bench, where it is shown.
    pub bench: Option<Rect>,
    /// The specimen with its gutter, where it is shown.
    pub specimen: Option<Rect>,
    /// The column between them.
    pub divider: Option<u16>,
    /// The rule above the thread.
    pub lower_rule: Rect,
    /// What is under the pointer.
    pub thread: Rect,
    /// The keys, a word to the person, or what is typed.
    pub keys: Rect,
}

/// Which of bench and specimen have the room.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Room {
    /// Both, where there is room for both; else the bench.
    Bench,
    /// Both, where there is room for both; else the specimen.
    Specimen,
    /// The bench alone: samples drawn with characters need all the width there is.
    BenchAlone,
    /// The specimen alone.
    SpecimenAlone,
}

/// Lays out a screen.
#[must_use]
pub fn layout(size: (u16, u16), room: Room) -> Layout {
    let (width, height) = (size.0.max(SMALLEST.0), size.1.max(SMALLEST.1));
    let thread_rows = if height >= 30 { 2 } else { 1 };
    let row = |y: u16, rows: u16| Rect::new(0, y, width, rows);
    let body_end = height - thread_rows - 2;
    let body = Rect::new(0, 3, width, body_end.saturating_sub(3));
    let (bench, specimen, divider) = if room == Room::SpecimenAlone {
        (None, Some(body), None)
    } else if room == Room::BenchAlone {
        (Some(body), None, None)
    } else if width >= SIDE_BY_SIDE {
        let specimen_width = (width * 43 / 100).clamp(58, 100);
        let bench_width = width - specimen_width - 1;
        let bench = Rect {
            width: bench_width,
            ..body
        };
        let specimen = Rect {
            x: bench_width + 1,
            width: specimen_width,
            ..body
        };
        (Some(bench), Some(specimen), Some(bench_width))
    } else if room == Room::Specimen {
        (None, Some(body), None)
    } else {
        (Some(body), None, None)
    };
    Layout {
        head: row(0, 1),
        path: row(1, 1),
        rule: row(2, 1),
        bench,
        specimen,
        divider,
        lower_rule: row(body_end, 1),
        thread: row(body_end + 1, thread_rows),
        keys: row(height - 1, 1),
    }
}

/// How many icons stand in a row of the map.
#[must_use]
pub fn map_columns(size: (u16, u16)) -> usize {
    if size.0 < SMALLEST.0 || size.1 < SMALLEST.1 {
        return 1;
    }
    let bench = layout(size, Room::Bench).bench.unwrap_or_default();
    usize::from(bench.width).saturating_sub(4).clamp(1, 128)
}

/// The cells a specimen has.
#[must_use]
pub fn specimen_size(size: (u16, u16), filled: bool) -> (usize, usize) {
    if size.0 < SMALLEST.0 || size.1 < SMALLEST.1 {
        return (1, 1);
    }
    let room = if filled {
        Room::SpecimenAlone
    } else {
        Room::Specimen
    };
    let area = layout(size, room).specimen.unwrap_or_default();
    (
        usize::from(area.width.saturating_sub(GUTTER + 1)),
        usize::from(area.height),
    )
}

/// The cells of a specimen inside its area.
#[must_use]
pub fn specimen_cells(area: Rect) -> Rect {
    Rect {
        x: area.x + GUTTER,
        width: area.width.saturating_sub(GUTTER + 1),
        ..area
    }
}

/// The first row to show of a list so that the pointer is in view.
#[must_use]
pub fn scroll(cursor: usize, len: usize, height: usize) -> usize {
    if len <= height {
        return 0;
    }
    cursor.saturating_sub(height / 2).min(len - height)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_size_is_filled_without_overlap() {
        for width in SMALLEST.0..260 {
            for height in SMALLEST.1..90 {
                for room in [
                    Room::Bench,
                    Room::Specimen,
                    Room::BenchAlone,
                    Room::SpecimenAlone,
                ] {
                    let l = layout((width, height), room);
                    let body = l.bench.or(l.specimen).unwrap();
                    assert_eq!(l.rule.bottom(), body.y);
                    assert_eq!(body.bottom(), l.lower_rule.y);
                    assert_eq!(l.thread.bottom(), l.keys.y);
                    assert_eq!(l.keys.bottom(), height);
                    if let (Some(b), Some(s)) = (l.bench, l.specimen) {
                        assert_eq!((b.right() + 1, s.right()), (s.x, width));
                        assert!(b.width >= 76);
                    }
                }
            }
        }
    }

    #[test]
    fn the_pointer_is_always_in_view() {
        for len in 0..40 {
            for cursor in 0..len {
                let first = scroll(cursor, len, 10);
                assert!(first <= cursor && cursor < first + 10 && first + 10.min(len) <= len);
            }
        }
    }
}
