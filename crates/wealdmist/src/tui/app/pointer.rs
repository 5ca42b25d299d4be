//! Where the pointer is on each bench, what it points at, and where moving and Enter lead.

use wealdmist_core::look::{Origin, origin};
use wealdmist_core::role::RoleId;
use wealdmist_core::specimen::Direction;

use super::fonts::Page;
use super::{App, GlyphView, Way};
use crate::tui::keys::Step;
use crate::tui::view::layout;

impl App {
    pub(super) fn go(&mut self, step: Step) {
        self.step = step;
        self.on_specimen = false;
        self.filled = false;
        self.draw_specimen();
        self.moved();
    }

    pub(super) fn go_by(&mut self, by: isize) {
        let at = Step::ALL.iter().position(|s| *s == self.step).unwrap_or(0) as isize;
        let to = (at + by).rem_euclid(Step::ALL.len() as isize) as usize;
        self.go(Step::ALL[to]);
    }

    pub(super) fn page(&self) -> isize {
        isize::from(self.size.1 as i16).saturating_sub(14).max(3)
    }

    /// How many rows the present bench's list has.
    pub(super) fn list_len(&self) -> usize {
        if self.menu.is_some() {
            return Way::ALL.len();
        }
        match self.step {
            Step::Survey => self.ledger.items(&self.derived.ledger).len(),
            Step::Palette => self.entries().len(),
            Step::Contrast => self.derived.pairs.len(),
            Step::Font if self.fonts.page == Page::Samples => self.fonts.families.len(),
            Step::Font => self.face_shown().map_or(0, |o| match self.fonts.page {
                Page::Features => o.facts.features.len(),
                _ => 400,
            }),
            Step::Glyphs => self.derived.glyphs.len(),
            Step::Apply => self.apply.rows(&self.plan).len(),
        }
    }

    pub(super) fn move_by(&mut self, by: isize) {
        if self.proposal.is_some() && !self.on_specimen {
            return self.walk(by);
        }
        if self.at().in_chart && !self.on_specimen {
            return self.move_in_chart(by.clamp(-20, 20), 0);
        }
        if self.on_specimen {
            let direction = if by < 0 {
                Direction::Up
            } else {
                Direction::Down
            };
            for _ in 0..by.unsigned_abs().min(99) {
                self.spot = self.specimen.hop(self.spot, direction);
            }
            return;
        }
        if self.step == Step::Glyphs && self.move_in_glyphs(by, 0, layout::map_columns(self.size)) {
            return;
        }
        self.glyphs.choice = 0;
        let last = self.list_len().saturating_sub(1);
        let cursor = self.cursor_mut();
        *cursor = (*cursor).min(last).saturating_add_signed(by).min(last);
        self.moved();
    }

    pub(super) fn cursor_mut(&mut self) -> &mut usize {
        if let Some(cursor) = &mut self.menu {
            return cursor;
        }
        match self.step {
            Step::Survey => &mut self.ledger.cursor,
            Step::Palette => &mut self.palette.cursor,
            Step::Contrast => &mut self.pair,
            Step::Font if self.fonts.page == Page::Samples => &mut self.fonts.cursor,
            Step::Font => &mut self.fonts.row,
            Step::Glyphs => &mut self.glyph,
            Step::Apply => &mut self.apply.cursor,
        }
    }

    pub(super) fn point_at(&mut self, row: usize, column: Option<usize>) {
        if let Some(proposal) = &self.proposal {
            let by = row as isize - proposal.cursor as isize;
            return self.walk(by);
        }
        if self.at().in_chart {
            self.palette.chart = Some(row.min(255));
            return;
        }
        if self.step == Step::Glyphs {
            self.glyphs.choice = 0;
            match (&mut self.glyphs.search, self.glyphs.view) {
                (Some(search), _) => search.cursor = row.min(search.found.len().saturating_sub(1)),
                (_, GlyphView::Map) => self.glyphs.at = row,
                (_, GlyphView::Terminal) => self.glyphs.row = row,
                (_, GlyphView::List) => {
                    self.glyph = row.min(self.derived.glyphs.len().saturating_sub(1))
                }
            }
            return;
        }
        let last = self.list_len().saturating_sub(1);
        *self.cursor_mut() = row.min(last);
        if let Some(column) = column {
            self.ledger.column = column.min(self.derived.ledger.tools.len().saturating_sub(1));
        }
        self.moved();
    }

    /// Keeps the specimen's pointer with the bench's.
    pub(super) fn moved(&mut self) {
        self.last_change = None;
        self.palette.held = None;
        let role = match self.step {
            Step::Survey => self.ledger.role(&self.derived.ledger),
            Step::Contrast => self.pair().map(|p| p.text.clone()),
            Step::Palette => self.entry().map(|e| self.role_of(&e.origin)),
            Step::Apply => self.apply.role(&self.plan),
            Step::Font | Step::Glyphs => None,
        };
        let found = match (self.step, self.pair()) {
            // The spot that shows the very pair, before one that only shows its text.
            (Step::Contrast, Some(pair)) => self
                .specimen
                .spots
                .iter()
                .position(|s| s.text == pair.text && s.ground == pair.ground)
                .or_else(|| self.specimen.find(&pair.text)),
            _ => role.and_then(|r| self.specimen.find(&r)),
        };
        self.spot_follows = found.is_some();
        self.spot = found.unwrap_or(self.spot);
    }

    /// The spot to show as pointed at, if any.
    pub fn pointed(&self) -> Option<usize> {
        (self.on_specimen || self.spot_follows).then_some(self.spot)
    }

    /// A role drawn in the color of an origin, preferably that very one.
    pub(super) fn role_of(&self, origin_wanted: &Origin) -> RoleId {
        let setup = self.survey.doc.setup();
        let same = |role: &&RoleId| origin(setup, setup.palette(), role) == *origin_wanted;
        let direct = match origin_wanted {
            Origin::Slot(slot) => RoleId::from(*slot),
            Origin::Named(name) => RoleId::new(name.clone()),
            Origin::Role(role) => role.clone(),
        };
        let drawn = self
            .specimen
            .spots
            .iter()
            .flat_map(|s| [&s.text, &s.ground]);
        if self.specimen.find(&direct).is_some() {
            return direct;
        }
        drawn.into_iter().find(same).cloned().unwrap_or(direct)
    }

    pub(super) fn sideways(&mut self, by: isize, far: bool) {
        if !self.on_specimen && self.menu.is_some() {
            return;
        }
        if !self.on_specimen && self.proposal.is_some() {
            return self.walk(by);
        }
        if self.on_specimen {
            let direction = if by < 0 {
                Direction::Left
            } else {
                Direction::Right
            };
            self.spot = self.specimen.hop(self.spot, direction);
            return;
        }
        match self.step {
            Step::Survey => {
                let last = self.derived.ledger.tools.len().saturating_sub(1);
                self.ledger.column = self.ledger.column.saturating_add_signed(by).min(last);
            }
            Step::Glyphs => {
                self.move_in_glyphs(0, by, layout::map_columns(self.size));
            }
            Step::Palette if self.at().in_chart => self.move_in_chart(0, by),
            Step::Palette => self.adjust(by as f64 * if far { 5.0 } else { 1.0 }),
            _ => {}
        }
    }

    /// Goes to where the color under the pointer is changed.
    pub(super) fn enter(&mut self) {
        let role = if self.on_specimen {
            self.specimen.spots.get(self.spot).map(|s| s.text.clone())
        } else {
            match self.step {
                Step::Survey => {
                    if self.ledger.on_group(&self.derived.ledger) {
                        self.ledger.fold(&self.derived.ledger);
                        return;
                    }
                    self.ledger.role(&self.derived.ledger)
                }
                Step::Contrast => self.derived.pairs.get(self.pair).map(|p| p.text.clone()),
                _ => None,
            }
        };
        let Some(role) = role else { return };
        if role.is_property() {
            self.tell(&format!(
                "`wealdmist set {role} VALUE` changes this; `a` takes a tool's value over"
            ));
            return;
        }
        self.stand_on(&role);
    }

    /// Shows the Palette bench on the color a role comes from.
    pub(super) fn stand_on(&mut self, role: &RoleId) {
        let setup = self.survey.doc.setup();
        let wanted = origin(setup, setup.palette(), role);
        self.palette.extra = Some(wanted.clone());
        let spot = self.spot;
        self.go(Step::Palette);
        let at = self.entries().iter().position(|e| e.origin == wanted);
        self.palette.cursor = at.unwrap_or(0);
        self.moved();
        // The pointer stays on the spot one came from.
        if self
            .specimen
            .spots
            .get(spot)
            .is_some_and(|s| s.text == *role)
        {
            self.spot = spot;
        }
    }
}
