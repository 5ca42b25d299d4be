//! A tool whose file has another notation in other versions: a row for each.

use wealdmist_core::plan::Plan;
use wealdmist_core::quote::Quoting;
use wealdmist_core::reading::{SourceFile, ToolId, ToolReport};

use super::Table;
use crate::access::{Access, Loaded};
use crate::engine::Engine;
use crate::fonts::FontSyntax;
use crate::{Adapter, Facts, Live, Wanted};

/// The rows, that of present versions first: the first whose file is there counts.
pub struct Rows(pub &'static [&'static Table]);

impl Rows {
    fn present(&self) -> &'static Table {
        self.0[0]
    }

    /// The row whose file is there.
    fn here(&self, access: &dyn Access) -> &'static Table {
        let there = |table: &&&Table| {
            let places = table.candidates(access);
            places.iter().any(|p| access.read(p) != Loaded::Missing)
        };
        self.0
            .iter()
            .find(there)
            .copied()
            .unwrap_or_else(|| self.present())
    }

    /// The row of a file, by the ending that its places have.
    fn of(&self, file: &SourceFile) -> &'static Table {
        let ending = file.path.extension();
        let has = |table: &&&Table| table.endings().any(|e| ending.is_some_and(|own| own == e));
        self.0
            .iter()
            .find(has)
            .copied()
            .unwrap_or_else(|| self.present())
    }
}

impl Adapter for Rows {
    fn id(&self) -> ToolId {
        self.present().id
    }

    fn kind(&self) -> &'static str {
        self.present().kind
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        self.here(access).read(access, facts)
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let row = report.files.first().map(|file| self.of(file));
        let row = row.unwrap_or_else(|| self.here(access));
        row.plan(wanted, report, access)
    }

    fn live(&self) -> &Live {
        &self.present().live
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Tables(self.0.to_vec())
    }

    fn fonts(&self) -> Option<&dyn FontSyntax> {
        Some(self.present())
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        self.of(file).quoting(file, places)
    }
}
