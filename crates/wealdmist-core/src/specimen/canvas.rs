//! What scenes are drawn on: cells, and the spots that were written into them.

use std::collections::BTreeMap;

use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

use super::{Cell, Specimen, Spot};
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
