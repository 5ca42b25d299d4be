//! A tool whose settings name another file, in which the rest of them stand: a profile, a color scheme.
//!
//! What is named may be the person's own, which is edited, or one that the program came with, which is only read:
//! where the setup wants something else, one of ours takes its place.

use std::path::{Path, PathBuf};

use wealdmist_core::plan::{Change, FileEdit, Plan, Splice};
use wealdmist_core::quote::{Code, Quoting};
use wealdmist_core::reading::{
    FileProblem, Place, SourceFile, Standing, ToolId, ToolReport, Value,
};
use wealdmist_core::role::{RoleId, lookup};

use super::able::lacks;
use super::read::Gathered;
use super::{Key, Means, Table};
use crate::access::{Access, Loaded};
use crate::document::notation::{Datum, Entry, New, Spot};
use crate::engine::Engine;
use crate::fonts::FontSyntax;
use crate::shared::Includer;
use crate::{Adapter, Facts, Live, Wanted};

/// The rows: that of the settings, and one for each file that is named, by the one before it.
pub struct Linked {
    /// The settings.
    pub main: &'static Table,
    /// What is named.
    pub links: &'static [Link],
    /// Whether what the settings say counts before what is named.
    pub main_wins: bool,
}

/// A file that is named.
pub struct Link {
    /// The key that names it.
    pub by: &'static str,
    /// Its row. The first of its places is where one of ours goes, and the folder of the person's.
    pub table: &'static Table,
    /// What its name has behind what the key says.
    pub ending: &'static str,
    /// Where those are that the program came with, below the folders for shared data.
    pub shared: Option<&'static str>,
    /// What is taken where nothing is named.
    pub usual: Option<&'static str>,
    /// What ours is called where it is named; `None` where what is missing goes into the settings themselves.
    pub ours: Option<&'static str>,
    /// What one of ours has to say beside what the setup does: key and value.
    pub begins: &'static [(&'static str, &'static str)],
}

impl Link {
    /// What is named by the files of the row before, in which line of which file, and where in that.
    fn named(&self, before: &Table, files: &[SourceFile]) -> Option<(String, Includer, usize)> {
        let mut name = None;
        for file in files {
            let entries = before.notation.entries(&file.bytes).unwrap_or_default();
            if let Some(entry) = naming(&entries, self.by) {
                let at = (file.path.clone(), entry.line);
                name = Some((entry.text.clone(), at, entry.value.start));
            }
        }
        name
    }

    /// The file of a name, in the person's folder. A name that leads out of it is none.
    fn own(&self, name: &str, access: &dyn Access) -> Option<PathBuf> {
        let ours = self.table.candidates(access).into_iter().next()?;
        Some(ours.parent()?.join(self.file_name(name)?))
    }

    fn file_name(&self, name: &str) -> Option<String> {
        if name.is_empty() || name.starts_with('.') || name.contains(['/', '\\', '\0']) {
            return None;
        }
        Some(match name.ends_with(self.ending) {
            true => name.to_owned(),
            false => format!("{name}{}", self.ending),
        })
    }

    /// What the program came with under a name.
    fn shared(&self, name: &str, access: &dyn Access) -> Option<PathBuf> {
        access.shared_data(&format!("{}/{}", self.shared?, self.file_name(name)?))
    }
}

/// The entry that names something.
fn naming<'a>(entries: &'a [Entry], by: &str) -> Option<&'a Entry> {
    let names = |e: &&Entry| e.off.is_none() && e.path == by && !e.text.is_empty();
    entries.iter().rfind(names)
}

impl Linked {
    fn rows(&self) -> impl DoubleEndedIterator<Item = &'static Table> + Clone {
        std::iter::once(self.main).chain(self.links.iter().map(|l| l.table))
    }

    /// The row of a file, by the ending that its places have.
    fn of(&self, path: &Path) -> &'static Table {
        let ending = path.extension();
        let has =
            |table: &&'static Table| table.endings().any(|e| ending.is_some_and(|own| own == e));
        let named = self.links.iter().map(|l| l.table).find(has);
        named.unwrap_or(self.main)
    }

    /// What a report has of one row's files.
    fn part(&self, table: &'static Table, report: &ToolReport) -> ToolReport {
        let is_its = |path: &Path| std::ptr::eq(self.of(path), table);
        let mut part = ToolReport {
            is_terminal: report.is_terminal,
            ..ToolReport::new(report.tool)
        };
        part.files = report
            .files
            .iter()
            .filter(|f| is_its(&f.path))
            .cloned()
            .collect();
        let keys = |r: &&wealdmist_core::reading::Reading| match r.is_default() {
            // What the program does by itself stands in no file.
            true => table.holds(&r.role),
            false => is_its(&r.place.path),
        };
        part.readings = report.readings.iter().filter(keys).cloned().collect();
        part
    }
}

impl Table {
    /// Whether one of its keys, or of the sixteen, says a role.
    fn holds(&self, role: &RoleId) -> bool {
        let says = |key: &Key| match key.means {
            Means::Several(compound) => compound.holds().iter().any(|p| RoleId::from(*p) == *role),
            _ => key.role(self.id, key.path).as_ref() == Some(role),
        };
        let sixteen =
            (0..16).any(|n| self.role_of(&self.sixteen.spot(n).path()).as_ref() == Some(role));
        sixteen || self.keys.iter().any(says)
    }

    /// Which of its values a path is, in the order of its keys, the sixteen behind them.
    fn order(&self, path: &str) -> usize {
        let key = self.keys.iter().position(|k| k.path == path);
        let sixteen = || Some(usize::from(self.sixteen.index(path)?));
        key.or_else(|| Some(self.keys.len() + sixteen()?))
            .unwrap_or(usize::MAX)
    }

    /// Where a role's value stands, as it is written.
    fn kept(&self, role: &RoleId, value: &Value) -> Option<(Spot, Code)> {
        let Value::Color(color) = value else {
            return None;
        };
        let written = Datum::Literal((self.color.write)(*color, None));
        let written = self.notation.value(&written)?;
        let numbered = (0..16).map(|n| self.sixteen.spot(n));
        let mut spots = numbered.chain(self.keys.iter().map(|k| Spot::of(k.path)));
        let spot = spots.find(|s| self.role_of(&s.path()).as_ref() == Some(role))?;
        Some((spot, written))
    }
}

impl Adapter for Linked {
    fn id(&self) -> ToolId {
        self.main.id
    }

    fn kind(&self) -> &'static str {
        self.main.kind
    }

    fn read(&self, access: &dyn Access, facts: &mut Facts) -> ToolReport {
        let first = self.main.gather(&self.main.candidates(access), &[], access);
        let (mut report, mut term) = (first.report, first.term);
        let is_present = !report.files.is_empty();
        let (mut before, mut files, mut chain) = (self.main, report.files.clone(), Vec::new());
        for link in self.links.iter().filter(|_| is_present) {
            let named = link.named(before, &files);
            let mut part = link.table.gather(&[], &chain, access).report;
            let name = match &named {
                Some((name, at, _)) => {
                    chain.push(at.clone());
                    Some(name.as_str())
                }
                None => link.usual,
            };
            if let Some(path) = name.and_then(|n| link.own(n, access)) {
                let gathered = link.table.gather(&[path], &chain, access);
                (part, term) = (gathered.report, term.or(gathered.term));
            }
            let shared = name.and_then(|n| link.shared(n, access));
            if part.files.is_empty()
                && part.problems.is_empty()
                && let Some(main) = report.files.first().map(|f| f.path.clone())
            {
                if let Some(shared) = &shared {
                    let said = link
                        .table
                        .gather(std::slice::from_ref(shared), &chain, access);
                    part.readings = said.report.readings;
                    for reading in &mut part.readings {
                        reading.standing = Standing::Default;
                        reading.editable = false;
                        reading.place = Place::nowhere_in(&main);
                    }
                } else if let (Some((name, (path, _), at)), Some(_)) = (&named, link.shared) {
                    let file = files.iter().find(|f| f.path == *path);
                    report.problems.push(FileProblem {
                        path: path.clone(),
                        at: file.map(|f| f.position(*at)),
                        message: format!("'{name}' names nothing that is there"),
                        help: "name one that is, or create it".to_owned(),
                        blocks_edits: false,
                    });
                }
            }
            (before, files) = (link.table, part.files.clone());
            report.files.extend(part.files);
            report.problems.extend(part.problems);
            report.glyphs.extend(part.glyphs);
            report.reads += part.reads;
            let at = if self.main_wins {
                0
            } else {
                report.readings.len()
            };
            report.readings.splice(at..at, part.readings);
        }
        report
            .can
            .extend(self.links.iter().flat_map(|l| l.table.properties()));
        report.lacks = lacks(self.rows().flat_map(|t| t.keys));
        report.mark_last_effective();
        let last = self.links.last().map_or(self.main, |l| l.table);
        last.finished(Gathered { report, term }, facts)
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let mut plan = Plan::default();
        // What the row before has to name, and the file that this is.
        let mut names: Option<(&Link, PathBuf)> = None;
        let before = std::iter::once(None).chain(self.links.iter().map(Some));
        let rows: Vec<_> = before.zip(self.rows()).collect();
        for (link, table) in rows.into_iter().rev() {
            let mut part = self.part(table, report);
            if link.is_none() && self.links.iter().all(|l| l.ours.is_none()) {
                // What is said by what is named is not missing.
                part.readings = report.readings.clone();
            }
            let Some(first) = part.files.first() else {
                // What is there and cannot be read is not known to be in need of another.
                let is_unread = report.problems.iter().any(|p| p.blocks_edits);
                if is_unread || link.is_some_and(|l| l.ours.is_none()) {
                    continue;
                }
                let lacking = table.lacking(wanted, &part);
                if lacking.is_empty() && names.is_none() {
                    continue;
                }
                let may = !report.files.is_empty() || access.has_program(self.main.program);
                let ours = table.candidates(access).into_iter().next();
                let Some(ours) = ours.filter(|p| may && access.read(p) == Loaded::Missing) else {
                    continue;
                };
                let edit = self.new_file(table, link, &ours, &part, &lacking, names.take());
                plan.edits.push(edit);
                names = link.map(|link| (link, ours));
                continue;
            };
            let path = first.path.clone();
            let mut own = match link {
                // What is missing is not added to a scheme where the settings can say it.
                Some(Link { ours: None, .. }) => table.changes(wanted, &part),
                _ => table.edits(wanted, &part, access),
            };
            if let Some((link, file)) = names.take() {
                let splices = naming_splices(table, link, first, &file);
                match own.edits.iter_mut().find(|e| e.path == path) {
                    Some(FileEdit {
                        change: Change::Splices(all),
                        ..
                    }) => {
                        all.extend(splices);
                        all.sort_by_key(|s| s.range.start);
                    }
                    _ => own.edits.push(FileEdit {
                        tool: table.id,
                        also: Vec::new(),
                        target: first.target.clone(),
                        before: Some(first.bytes.clone()),
                        path,
                        change: Change::Splices(splices),
                    }),
                }
            }
            plan.edits.extend(own.edits);
            plan.left.extend(own.left);
        }
        plan.edits.reverse();
        plan
    }

    fn live(&self) -> &Live {
        &self.main.live
    }

    fn engine(&self) -> Engine<'_> {
        Engine::Tables(self.rows().collect())
    }

    fn fonts(&self) -> Option<&dyn FontSyntax> {
        let family = RoleId::known("font.family");
        let has = self.rows().find(|t| t.holds(&family));
        Some(has.unwrap_or(self.main))
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        self.of(&file.path).quoting(file, places)
    }
}

impl Linked {
    /// A file of ours: what it has to say, what the setup asks for, and what stood in the one whose place it takes.
    fn new_file(
        &self,
        table: &'static Table,
        link: Option<&Link>,
        path: &Path,
        part: &ToolReport,
        lacking: &[(Spot, Code, RoleId)],
        names: Option<(&Link, PathBuf)>,
    ) -> FileEdit {
        let fixed = |(key, value): &(&'static str, &'static str)| {
            (Spot::of(key), Code::fixed(value), None, None)
        };
        let mut lines: Vec<(Spot, Code, Option<RoleId>, Option<PathBuf>)> = link
            .map_or(&[][..], |l| l.begins)
            .iter()
            .map(fixed)
            .collect();
        if let Some((named, file)) = names {
            let literal = Datum::Literal(Code::fixed(named.ours.unwrap_or_default()));
            let written = table.notation.value(&literal);
            lines.extend(written.map(|w| (Spot::of(named.by), w, None, Some(file))));
        }
        // All that the other said stays, but for what is of this program alone: that suited the rest of it.
        let is_said = |role: &RoleId| lacking.iter().any(|l| l.2 == *role);
        let kept = part
            .readings
            .iter()
            .filter(|r| r.is_default() && !is_said(&r.role));
        let kept = kept.filter_map(|r| {
            lookup(&r.role)?;
            let (spot, code) = table.kept(&r.role, &r.value)?;
            Some((spot, code, r.role.clone()))
        });
        let mut said: Vec<_> = kept.chain(lacking.iter().cloned()).collect();
        said.sort_by_key(|(spot, ..)| table.order(&spot.path()));
        lines.extend(
            said.into_iter()
                .map(|(spot, code, role)| (spot, code, Some(role), None)),
        );
        // Sections stand together, in the order in which they came.
        let sections: Vec<&str> = lines.iter().map(|l| l.0.section).collect();
        let order = |section: &str| sections.iter().position(|s| *s == section);
        lines.sort_by_key(|l| order(l.0.section));
        let new: Vec<New> = lines
            .iter()
            .map(|(spot, value, role, _)| New {
                spot: spot.clone(),
                value: value.clone(),
                near: None,
                why: match role {
                    Some(role) => format!("{}: {}", role.label(), value.lossy()),
                    None => format!(
                        "{} of a file of its own",
                        table.notation.shown(&spot.path())
                    ),
                },
            })
            .collect();
        let splices = table.notation.insert(b"", &[], &new).into_iter();
        let splices = splices.map(|(i, splice)| Splice {
            role: lines[i].2.clone(),
            needs: lines[i].3.clone(),
            ..splice
        });
        FileEdit {
            tool: table.id,
            also: Vec::new(),
            target: path.to_owned(),
            before: None,
            path: path.to_owned(),
            change: Change::Splices(splices.collect()),
        }
    }
}

/// What lets a file name one of ours.
fn naming_splices(table: &Table, link: &Link, file: &SourceFile, ours: &Path) -> Vec<Splice> {
    let entries = table.notation.entries(&file.bytes).unwrap_or_default();
    let literal = Datum::Literal(Code::fixed(link.ours.unwrap_or_default()));
    let why = format!("{} is a file of ours", table.notation.shown(link.by));
    let with_needs = |splice: Splice| Splice {
        needs: Some(ours.to_owned()),
        why: why.clone(),
        ..splice
    };
    if let Some(entry) = naming(&entries, link.by) {
        let change = table
            .notation
            .set(&file.bytes, entry, &entry.inner, &literal);
        let splice = change.map(|(range, with)| Splice {
            range,
            with,
            why: String::new(),
            role: None,
            needs: None,
        });
        return splice.into_iter().map(with_needs).collect();
    }
    let Some(value) = table.notation.value(&literal) else {
        return Vec::new();
    };
    let new = New {
        spot: Spot::of(link.by),
        value,
        near: None,
        why: String::new(),
    };
    let splices = table.notation.insert(&file.bytes, &entries, &[new]);
    splices.into_iter().map(|(_, s)| with_needs(s)).collect()
}
