//! What scenes are drawn on: cells, and the spots that were written into them.

use std::collections::BTreeMap;

use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

use super::{Cell, Specimen, Spot};
use crate::color::Rgb;
use crate::look::Look;
use crate::role::RoleId;
use crate::setup::Attrs;

pub(super) struct Canvas<'a> {
    look: &'a Look,
    pub(super) width: usize,
    pub(super) height: usize,
    cells: Vec<Cell>,
    spots: Vec<Spot>,
}

/// Plain text.
pub(super) const TEXT: Ink = Ink("foreground", "background");

/// Text and ground of something drawn.
#[derive(Clone, Copy)]
pub(super) struct Ink(pub(super) &'static str, pub(super) &'static str);

impl<'a> Canvas<'a> {
    pub(super) fn new(look: &'a Look, width: usize, height: usize) -> Self {
        let cell = Cell {
            text: " ".into(),
            fg: look.color(&RoleId::known("foreground")),
            bg: look.color(&RoleId::known("background")),
            attrs: Attrs::default(),
            underline: None,
            spot: None,
        };
        Self {
            look,
            width,
            height,
            cells: vec![cell; width * height],
            spots: Vec::new(),
        }
    }

    /// Writes text as one spot and returns the column after it.
    pub(super) fn put(
        &mut self,
        row: usize,
        column: usize,
        text: &str,
        ink: Ink,
        what: &'static str,
    ) -> usize {
        let roles = (RoleId::known(ink.0), RoleId::known(ink.1));
        self.put_in(row, column, text, roles, what)
    }

    /// The same in any two roles.
    pub(super) fn put_in(
        &mut self,
        row: usize,
        column: usize,
        text: &str,
        (text_role, ground_role): (RoleId, RoleId),
        what: &'static str,
    ) -> usize {
        let colors = (self.look.color(&text_role), self.look.color(&ground_role));
        let attrs = self.look.attrs(&text_role);
        let spot = (row < self.height && column < self.width).then_some(self.spots.len());
        let mut at = column;
        for grapheme in text.graphemes(true) {
            let wide = grapheme.width().max(1);
            if row >= self.height || at + wide > self.width {
                break;
            }
            for (i, cell) in self.cells[row * self.width + at..][..wide]
                .iter_mut()
                .enumerate()
            {
                cell.text = if i == 0 {
                    grapheme.to_owned()
                } else {
                    String::new()
                };
                (cell.fg, cell.bg) = colors;
                cell.attrs = attrs;
                cell.spot = spot;
            }
            at += wide;
        }
        if spot.is_some() && at > column {
            let width = at - column;
            self.spots.push(Spot {
                what,
                text: text_role,
                ground: ground_role,
                at: (row, column),
                width,
            });
        }
        at
    }

    /// Colors the ground of a stretch without making a spot.
    pub(super) fn fill(
        &mut self,
        row: usize,
        columns: std::ops::Range<usize>,
        ground: &'static str,
    ) {
        let color = self.look.color(&RoleId::known(ground));
        for column in columns.start..columns.end.min(self.width) {
            if row < self.height {
                self.cells[row * self.width + column].bg = color;
            }
        }
    }

    /// Colors a cell, which makes no spot.
    pub(super) fn paint(&mut self, row: usize, column: usize, (fg, bg): (Rgb, Rgb)) {
        if row < self.height && column < self.width {
            let cell = &mut self.cells[row * self.width + column];
            (cell.fg, cell.bg, cell.spot) = (fg, bg, None);
            " ".clone_into(&mut cell.text);
            cell.attrs = Attrs::default();
        }
    }

    /// Writes text in colors of its own, as far as it fits into so many columns; gives the column after it.
    pub(super) fn write(
        &mut self,
        row: usize,
        column: usize,
        text: &str,
        most: usize,
        colors: (Rgb, Rgb),
    ) -> usize {
        let mut at = column;
        for c in text.chars().take(most) {
            if row >= self.height || at >= self.width {
                break;
            }
            self.paint(row, at, colors);
            self.cells[row * self.width + at].text = c.to_string();
            at += 1;
        }
        at
    }

    /// Takes away what is written, and leaves the ground.
    pub(super) fn write_blank(&mut self, row: usize, columns: std::ops::Range<usize>) {
        for column in columns.start..columns.end.min(self.width) {
            if row < self.height {
                let cell = &mut self.cells[row * self.width + column];
                " ".clone_into(&mut cell.text);
            }
        }
    }

    /// The terminal's own ground.
    pub(super) fn blank(&mut self, row: usize, columns: std::ops::Range<usize>) {
        let color = |role| self.look.color(&RoleId::known(role));
        let colors = (color("foreground"), color("background"));
        for column in columns {
            self.paint(row, column, colors);
        }
    }

    /// Makes a spot of a stretch as it is.
    pub(super) fn spot(
        &mut self,
        row: usize,
        columns: std::ops::Range<usize>,
        (text, ground): (RoleId, RoleId),
        what: &'static str,
    ) {
        let end = columns.end.min(self.width);
        if row >= self.height || columns.start >= end {
            return;
        }
        for column in columns.start..end {
            self.cells[row * self.width + column].spot = Some(self.spots.len());
        }
        self.spots.push(Spot {
            what,
            text,
            ground,
            at: (row, columns.start),
            width: end - columns.start,
        });
    }

    /// Puts another drawing over this one, with its spots.
    pub(super) fn paste(&mut self, row: usize, column: usize, other: &Specimen) {
        let before = self.spots.len();
        for y in 0..other.height.min(self.height.saturating_sub(row)) {
            for x in 0..other.width.min(self.width.saturating_sub(column)) {
                let mut cell = other.cells[y * other.width + x].clone();
                cell.spot = cell.spot.map(|spot| spot + before);
                self.cells[(row + y) * self.width + column + x] = cell;
            }
        }
        self.spots.extend(other.spots.iter().map(|spot| Spot {
            at: (spot.at.0 + row, spot.at.1 + column),
            ..spot.clone()
        }));
    }

    /// Changes the cells of a spot.
    pub(super) fn reshape(&mut self, what: &str, change: impl Fn(&mut Cell)) {
        let spots = &self.spots;
        let is_it = |cell: &&mut Cell| cell.spot.is_some_and(|s| spots[s].what == what);
        self.cells.iter_mut().filter(is_it).for_each(change);
    }

    /// Marks a stretch with a wavy line.
    pub(super) fn wave(&mut self, row: usize, columns: std::ops::Range<usize>, role: &'static str) {
        let color = self.look.color(&RoleId::known(role));
        for column in columns.start..columns.end.min(self.width) {
            if row < self.height {
                self.cells[row * self.width + column].underline = Some(color);
            }
        }
    }

    pub(super) fn finish(mut self) -> Specimen {
        // Spots in reading order, so that the first is at the top left.
        let mut order: Vec<usize> = (0..self.spots.len()).collect();
        order.sort_by_key(|i| self.spots[*i].at);
        let new_index: BTreeMap<usize, usize> = order
            .iter()
            .enumerate()
            .map(|(new, old)| (*old, new))
            .collect();
        for cell in &mut self.cells {
            cell.spot = cell.spot.and_then(|s| new_index.get(&s).copied());
        }
        let spots = order.iter().map(|i| self.spots[*i].clone()).collect();
        Specimen {
            width: self.width,
            height: self.height,
            cells: self.cells,
            spots,
        }
    }
}
