//! The edits that bring a table's files to the setup.

use std::collections::HashMap;
use std::path::{Path, PathBuf};

use wealdmist_core::ledger::{self, setup_value};
use wealdmist_core::plan::{Left, Plan, Splice};
use wealdmist_core::property::{NO_FILE, Property};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{Place, Reading, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::text;

use super::{Compound, Key, Means, Part, Sixteen, Table, Word, changed};
use crate::Wanted;
use crate::access::{Access, Loaded};
use crate::document::notation::{Datum, Entry, New, Spot};
use crate::shared::{Edits, Torn};

/// Something the setup asks for that no file says yet.
struct Missing {
    role: RoleId,
    spot: Spot,
    value: Code,
    /// Whether it goes beside what is like it; else to the end.
    beside: bool,
}

struct Writer<'a> {
    table: &'a Table,
    wanted: &'a Wanted<'a>,
    report: &'a ToolReport,
    /// What each file that was looked at says.
    entries: HashMap<PathBuf, Vec<Entry>>,
    edits: Edits,
    left: Vec<Left>,
}

impl Table {
    fn writer<'a>(&'a self, wanted: &'a Wanted<'a>, report: &'a ToolReport) -> Writer<'a> {
        let entries = |file: &wealdmist_core::reading::SourceFile| {
            let entries = self.notation.entries(&file.bytes).unwrap_or_default();
            (file.path.clone(), entries)
        };
        Writer {
            table: self,
            wanted,
            report,
            entries: report.files.iter().map(entries).collect(),
            edits: Edits::default(),
            left: Vec::new(),
        }
    }

    /// What stands there and differs.
    pub(super) fn changes(&self, wanted: &Wanted, report: &ToolReport) -> Plan {
        let mut writer = self.writer(wanted, report);
        writer.change();
        Plan {
            edits: writer.edits.finish(self.id, report),
            left: writer.left,
        }
    }

    pub(super) fn edits(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
        let mut writer = self.writer(wanted, report);
        writer.change();
        writer.add(access);
        let mut edits = writer.edits.finish(self.id, report);
        let left = writer.left;
        edits.extend((self.quirks.beside)(self, wanted, report, access));
        Plan { edits, left }
    }

    /// What the setup asks for that a report lacks: where it goes, as it is written, for which role.
    pub(super) fn lacking(
        &self,
        wanted: &Wanted,
        report: &ToolReport,
    ) -> Vec<(Spot, Code, RoleId)> {
        let writer = self.writer(wanted, report);
        let missing = writer.missing().into_iter();
        missing.map(|m| (m.spot, m.value, m.role)).collect()
    }

    /// A role's value as the program wants it, for one of its keys; `like` is what stands there.
    pub(super) fn written(
        &self,
        wanted: &Wanted,
        key: Option<&Key>,
        role: &RoleId,
        like: Option<&str>,
    ) -> Option<Datum> {
        let value = setup_value(wanted.setup, wanted.look, role)?;
        let word = |word: &str| {
            let words = key?.words.iter();
            let says = |w: &Word| matches!(w, Word::Says(ours) if *ours == word);
            let (theirs, _) = words.into_iter().find(|(_, w)| says(w))?;
            Some(Code::fixed(theirs))
        };
        Some(match (key.map(|k| k.means), value) {
            (_, Value::Color(color)) => Datum::Literal((self.color.write)(color, like)),
            (Some(Means::Number(_, scale)), Value::Number(n)) => Datum::Bare(scale.write(n)),
            (Some(Means::Word(_)), Value::Text(text)) => Datum::Literal(word(&text)?),
            (Some(Means::Flag(_)), Value::Text(text)) => Datum::Bare(word(&text)?),
            (Some(Means::Features), Value::Text(_)) => {
                Datum::Literal(features_text(&wanted.setup.font.features)?)
            }
            // Several fallbacks stand in places of their own: the first is that of one.
            (Some(_), Value::Text(_)) if *role == Property::FontFallback.into() => {
                Datum::Text(wanted.setup.font.fallback.first()?.clone())
            }
            (Some(Means::Path(_)), Value::Text(text)) if word(&text).is_some() => {
                Datum::Literal(word(&text)?)
            }
            (Some(Means::Path(_)), Value::Text(text)) if text == NO_FILE => return None,
            (Some(Means::Path(_)), Value::Text(text)) => {
                // Not every program knows what `~` is.
                let whole = crate::access::expand(wanted.home, &text);
                Datum::Text(whole.to_str()?.to_owned())
            }
            (Some(Means::Name(_) | Means::List(..)), Value::Text(text)) => {
                (self.quirks.face)(wanted, &text)?
            }
            _ => return None,
        })
    }
}

/// Features switched on with a plus sign, as several programs want them.
pub(crate) fn features_text(features: &[wealdmist_core::font::FeatureSetting]) -> Option<Code> {
    let one = |f: &wealdmist_core::font::FeatureSetting| {
        let written = quote(&f.to_string(), &[Quoting::Word])?;
        Some(match f.value {
            1 => Code::of("+{}", &[&written]),
            _ => written,
        })
    };
    let all: Option<Vec<Code>> = features.iter().map(one).collect();
    Some(Code::join(&all?, " "))
}

impl Writer<'_> {
    /// The entry that holds a place and says a role; what one text says may be said by the names of several.
    fn entry(&self, path: &Path, at: usize, role: &RoleId) -> Option<&Entry> {
        let entries = self.entries.get(path)?;
        let next = entries.partition_point(|e| e.value.start <= at);
        let last = &entries[next.checked_sub(1)?];
        let same = entries[..next].iter().rev();
        let mut same = same.take_while(|e| e.value.start == last.value.start);
        let says = |e: &&Entry| {
            let mut keys = self.table.keys_of(&e.path);
            self.table.role_of(&e.path).as_ref() == Some(role)
                || keys.any(|k| k.role(self.table.id, &e.path).as_ref() == Some(role))
        };
        let found = same.find(says).unwrap_or(last);
        (found.value.start <= at && at <= found.value.end).then_some(found)
    }

    /// Changes what differs where it stands.
    fn change(&mut self) {
        let differs = |r: &&Reading| r.editable && self.wanted.differs(self.table.id, r);
        let readings: Vec<&Reading> = self.report.readings.iter().filter(differs).collect();
        let torn = Torn::of(self.report, self.wanted);
        for reading in readings {
            if let Some(left) = torn.left(self.table.id, reading) {
                if !self.apart(reading) {
                    self.left.push(left);
                }
                continue;
            }
            let (path, at) = (&reading.place.path, reading.place.span.start);
            let (Some(entry), Some(file)) = (
                self.entry(path, at, &reading.role).cloned(),
                self.report.file(&reading.place.path),
            ) else {
                continue;
            };
            let keys = || self.table.keys_of(&entry.path);
            if let Some(compound) = keys().find_map(|k| compound_of(k, &reading.role)) {
                self.compound(&entry, reading, compound);
                continue;
            }
            let role = |k: &&Key| {
                let rest = matches!(k.means, Means::List(_, rest) if reading.role == rest.into());
                rest || k.role(self.table.id, &entry.path).as_ref() == Some(&reading.role)
            };
            let key = keys().find(role);
            let like = file.bytes.get(reading.place.span.clone());
            let like = like.and_then(|b| std::str::from_utf8(b).ok());
            let Some(datum) = self.table.written(self.wanted, key, &reading.role, like) else {
                continue;
            };
            let notation = self.table.notation;
            let (mut part, mut datum) = (reading.place.span.clone(), datum);
            if entry.off.is_some() && key.is_some_and(|k| k.part != Part::Whole) {
                // Uncommented, it is written with all of its words.
                let Some(words) = self.words(&entry) else {
                    continue;
                };
                (part, datum) = (entry.inner.clone(), words);
            }
            match notation.set(&file.bytes, &entry, &part, &datum) {
                Some((range, with)) => self.replace(reading, &entry, range, with, &datum),
                None => self.leave(reading, "it would not stay what it is there"),
            }
        }
    }

    /// Writes what one of several is to be where it names what they share; whether it does.
    fn apart(&mut self, reading: &Reading) -> bool {
        let (path, at) = (&reading.place.path, reading.place.span.start);
        let entry = self.entry(path, at, &reading.role).cloned();
        let (Some(entry), Some(file)) = (entry, self.report.file(path)) else {
            return false;
        };
        let mut keys = self.table.keys_of(&entry.path);
        let key = keys.find(|k| k.role(self.table.id, &entry.path).as_ref() == Some(&reading.role));
        let like = std::str::from_utf8(&file.bytes[entry.inner.clone()]).ok();
        let datum = self.table.written(self.wanted, key, &reading.role, like);
        let place = (self.table.quirks.named)(&file.bytes, &entry);
        let with = datum
            .as_ref()
            .and_then(|datum| self.table.notation.value(datum));
        let (Some(datum), Some(place), Some(with)) = (datum, place, with) else {
            return false;
        };
        self.replace(reading, &entry, place, with, &datum);
        true
    }

    /// All words of a value as the setup has them.
    fn words(&self, entry: &Entry) -> Option<Datum> {
        let words = self.table.keys_of(&entry.path).map(|key| {
            let role = key.role(self.table.id, &entry.path)?;
            let datum = self
                .table
                .written(self.wanted, Some(key), &role, Some(&entry.text))?;
            self.table.notation.value(&datum)
        });
        let words: Option<Vec<Code>> = words.collect();
        Some(Datum::Literal(Code::join(&words?, " ")))
    }

    fn replace(
        &mut self,
        reading: &Reading,
        entry: &Entry,
        range: std::ops::Range<usize>,
        with: Code,
        datum: &Datum,
    ) {
        let said = match datum {
            Datum::Text(text) => text::visible_with(text, false),
            Datum::Literal(code) | Datum::Bare(code) => text::visible(code),
        };
        let default = if entry.off.is_some() {
            " (the default)"
        } else {
            ""
        };
        self.edits.add(
            &reading.place.path,
            Splice {
                range,
                why: format!(
                    "{}: {}{default} → {said}",
                    reading.role.label(),
                    reading.value
                ),
                with,
                role: Some(reading.role.clone()),
                needs: None,
            },
        );
    }

    /// Writes a value anew that says several things.
    fn compound(&mut self, entry: &Entry, reading: &Reading, compound: &dyn Compound) {
        let Some(file) = self.report.file(&reading.place.path) else {
            return;
        };
        let notation = self.table.notation;
        let changes = match entry.plain {
            true => compound.change(&entry.text, self.wanted, entry.quoting),
            false => None,
        };
        let Some(mut changes) = changes else {
            return self.leave(reading, "it would not stay what it is there");
        };
        if entry.off.is_some() {
            // Uncommented, it is written as a whole.
            let whole = changed(compound, &entry.text, self.wanted, entry.quoting);
            changes = whole
                .map(|w| (0..entry.text.len(), w))
                .into_iter()
                .collect();
        }
        for (range, with) in changes {
            let part = entry.inner.start + range.start..entry.inner.start + range.end;
            let datum = compound.datum(with);
            if let Some((range, with)) = notation.set(&file.bytes, entry, &part, &datum) {
                self.replace(reading, entry, range, with, &datum);
            }
        }
    }

    fn leave(&mut self, reading: &Reading, why: &'static str) {
        self.left.push(Left {
            tool: self.table.id,
            place: reading.place.clone(),
            what: reading.role.label(),
            why,
        });
    }

    /// Adds what the setup says and the dotfiles do not: the terminal colors always, since the
    /// whole palette stands on them; other roles where the setup asks for it.
    fn add(&mut self, access: &dyn Access) {
        let installed = access.has_program(self.table.program);
        let main = self.report.files.first().map(|f| f.path.clone());
        // A file that is there and not read is not for this program.
        let is_free = |path: &PathBuf| access.read(path) == Loaded::Missing;
        let first = || {
            let first = self.table.candidates(access).into_iter().next();
            first.filter(|path| installed && is_free(path))
        };
        let Some(main) = main.or_else(first) else {
            return;
        };
        let mut by_file: Vec<(PathBuf, Vec<(New, RoleId)>)> = Vec::new();
        for missing in self.missing() {
            let why = format!(
                "{}: {} (not in the file yet)",
                missing.role.label(),
                text::visible(&missing.value)
            );
            let near = neighbour(self.report, &missing.role).filter(|_| missing.beside);
            let place = near.and_then(|near| {
                let entries = self.entries.get(&*near.place.path)?;
                let at = near.place.span.start;
                let found = entries
                    .partition_point(|e| e.value.start <= at)
                    .checked_sub(1)?;
                Some((near.place.path.to_path_buf(), found))
            });
            let (path, near) = match place {
                Some((path, near)) => (path, Some(near)),
                None => (main.clone(), None),
            };
            let new = New {
                spot: missing.spot,
                value: missing.value,
                near,
                why,
            };
            match by_file.iter_mut().find(|f| f.0 == path) {
                Some((_, all)) => all.push((new, missing.role)),
                None => by_file.push((path, vec![(new, missing.role)])),
            }
        }
        for (path, all) in by_file {
            self.insert(&path, all);
        }
    }

    fn insert(&mut self, path: &Path, mut all: Vec<(New, RoleId)>) {
        let bytes = self.report.file(path).map_or(&[][..], |f| &f.bytes[..]);
        let none = Vec::new();
        let entries = self.entries.get(path).unwrap_or(&none);
        let notation = self.table.notation;
        if bytes.is_empty() {
            all.sort_by_key(|(new, _)| !notation.comes_first(new.spot.section));
        }
        let new: Vec<New> = all.iter().map(|a| a.0.clone()).collect();
        let splices = notation.insert(bytes, entries, &new);
        // The program has to be able to read what comes out, and to find in it what was meant.
        let count = |all: &[Entry], path: &str| {
            let is = |e: &&Entry| e.path == path && e.off.is_none();
            all.iter().filter(is).count()
        };
        let comes_to = |splices: &[(usize, Splice)]| {
            let only: Vec<Splice> = splices.iter().map(|s| s.1.clone()).collect();
            let after = wealdmist_core::plan::splice(bytes, &only);
            notation.entries(&after).unwrap_or_default()
        };
        let said = |there: &[Entry], new: &New| {
            let path = new.spot.path();
            count(there, &path) > count(entries, &path)
        };
        // What is read of the file with them, where all of them are found in it.
        let read_with = |splices: &[(usize, Splice)]| {
            let there = comes_to(splices);
            let added = splices.iter().filter(|s| s.1.range.is_empty()).count();
            let mut placed = splices.iter().map(|s| said(&there, &all[s.0].0));
            let sound = placed.all(|is| is) && there.len() >= entries.len() + added;
            sound.then_some(there)
        };
        let (splices, there) = match read_with(&splices) {
            Some(there) => (splices, there),
            // What has no place takes that of nothing else: section by section, what fits stays.
            None => {
                let mut kept: (Vec<(usize, Splice)>, Vec<Entry>) = Default::default();
                let mut sections: Vec<&str> = Vec::new();
                for section in splices.iter().map(|s| all[s.0].0.spot.section) {
                    if !sections.contains(&section) {
                        sections.push(section);
                    }
                }
                for section in sections {
                    let of = |s: &&(usize, Splice)| all[s.0].0.spot.section == section;
                    let more = splices.iter().filter(of).cloned();
                    let with: Vec<_> = kept.0.iter().cloned().chain(more).collect();
                    if let Some(there) = read_with(&with) {
                        kept = (with, there);
                    }
                }
                kept
            }
        };
        for (i, (new, role)) in all.iter().enumerate() {
            // What stands in the line of another needs none of its own.
            let has_place = match splices.is_empty() {
                true => false,
                false => splices.iter().any(|s| s.0 == i) || said(&there, new),
            };
            if !has_place {
                self.left.push(Left {
                    tool: self.table.id,
                    place: Place {
                        path: path.into(),
                        span: 0..0,
                        at: text::Position { line: 1, column: 1 },
                    },
                    what: format!("{}: {}", role.label(), text::visible(&new.value)),
                    why: "there is no place for it that would be sure",
                });
            }
        }
        for (i, mut splice) in splices {
            splice.role = Some(all[i].1.clone());
            self.edits.add(path, splice);
        }
    }

    fn missing(&self) -> Vec<Missing> {
        let (table, setup) = (self.table, self.wanted.setup);
        let adds = setup.tool(table.id).adds;
        // What the program does by itself need not be said; what is commented out is changed there.
        let says = |role: &RoleId| {
            let reading = self.report.effective(role);
            reading.is_some_and(|r| {
                !r.is_default()
                    || r.editable
                    || ledger::agrees(setup, self.wanted.look, table.id, r)
            })
        };
        // A value that is written in parts, such as a color as three numbers, is there too.
        let in_parts = |spot: &Spot| {
            let above = format!("{}/", spot.path());
            let mut entries = self.entries.values().flatten();
            table.notation.nests() && entries.any(|e| e.path.starts_with(&above))
        };
        let allowed = |role: &RoleId| setup.exception(table.id, role).is_none();
        let palette = setup.palette();
        let asked = |role: &RoleId| match Slot::from_key(role.as_str()) {
            Some(slot) => palette.slots.contains_key(&slot),
            None => role.is_property() || adds.contains(role),
        };
        let mut out: Vec<Missing> = Vec::new();
        let mut add = |role: &RoleId, spot: Spot, value: Option<Code>| {
            if let Some(value) = value.filter(|_| !in_parts(&spot)) {
                let role = role.clone();
                let beside = true;
                out.push(Missing {
                    role,
                    spot,
                    value,
                    beside,
                });
            }
        };
        let written = |key: Option<&Key>, role: &RoleId| {
            let datum = table.written(self.wanted, key, role, None)?;
            table.notation.value(&datum)
        };
        let is_color = |k: &&Key| matches!(k.means, Means::Color(_));
        let added = || {
            table
                .keys
                .iter()
                .filter(|k| k.added && !k.path.ends_with("/*"))
        };
        let key_line = |key: &Key, add: &mut dyn FnMut(&RoleId, Spot, Option<Code>)| {
            if let Means::Several(compound) = key.means {
                let roles: Vec<RoleId> = compound.holds().iter().map(|p| (*p).into()).collect();
                let effective = |role: &RoleId| self.report.effective(role);
                let is_written = |role: &RoleId| effective(role).is_some_and(|r| !r.is_default());
                let is_wanted = |role: &&RoleId| {
                    let property = Property::from_key(role.as_str());
                    property.is_some_and(|p| p.of(setup).is_some())
                };
                let said = match compound.is_partial() {
                    // Another key says the rest.
                    true => {
                        let shown = table.notation.shown(key.path);
                        let mut here = self.report.readings.iter().filter(|r| r.key == shown);
                        here.any(|r| {
                            let agrees = ledger::agrees(setup, self.wanted.look, table.id, r);
                            !r.is_default() || r.editable || agrees
                        })
                    }
                    false => {
                        roles.iter().any(is_written) || roles.iter().filter(is_wanted).all(says)
                    }
                };
                if let Some(role) = roles.iter().find(|r| allowed(r)).filter(|_| !said) {
                    let quoting = table.notation.text_quoting();
                    let value = changed(compound, "", self.wanted, quoting);
                    let value = value.and_then(|v| table.notation.value(&compound.datum(v)));
                    add(role, Spot::of(key.path), value);
                }
                return;
            }
            let Some(role) = key.role(table.id, key.path) else {
                return;
            };
            if !asked(&role) || says(&role) || !allowed(&role) {
                return;
            }
            match key.part {
                Part::Whole => add(&role, Spot::of(key.path), written(Some(key), &role)),
                // All words of a value, or none.
                Part::Nth(0, _) => {
                    let words = table.keys.iter().filter(|k| k.path == key.path);
                    let all: Option<Vec<Code>> = words
                        .map(|k| written(Some(k), &k.role(table.id, k.path)?))
                        .collect();
                    add(&role, Spot::of(key.path), all.map(|a| Code::join(&a, " ")));
                }
                Part::Nth(..) => {}
            }
        };
        for key in added().filter(is_color) {
            key_line(key, &mut add);
        }
        for i in 0..16u8 {
            let Some(role) = Slot::from_ansi(i).map(RoleId::from) else {
                continue;
            };
            let somewhere = !matches!(table.sixteen, Sixteen::Nowhere);
            if somewhere && asked(&role) && !says(&role) && allowed(&role) {
                add(&role, table.sixteen.spot(i), written(None, &role));
            }
        }
        for key in added().filter(|k| !is_color(k)) {
            key_line(key, &mut add);
        }
        let more = (table.quirks.missing)(table, self.wanted, self.report).into_iter();
        let more = more.filter(|line| allowed(&line.role));
        out.extend(more.map(|line| Missing {
            role: line.role,
            spot: line.spot,
            value: line.value,
            beside: false,
        }));
        out
    }
}

fn compound_of(key: &Key, role: &RoleId) -> Option<&'static dyn Compound> {
    match key.means {
        Means::Several(compound) => {
            let holds = |p: &wealdmist_core::property::Property| RoleId::from(*p) == *role;
            compound.holds().iter().any(holds).then_some(compound)
        }
        _ => None,
    }
}

/// The reading a new one belongs below: the nearest slot, or any reading of the same group.
fn neighbour<'a>(report: &'a ToolReport, role: &RoleId) -> Option<&'a Reading> {
    let counts = |r: &&Reading| r.effective && r.editable && r.place.is_written();
    let readings = || report.readings.iter().filter(counts);
    if let Some(slot) = Slot::from_key(role.as_str()) {
        let position = slot as i32;
        return readings()
            .filter_map(|r| Some((Slot::from_key(r.role.as_str())? as i32, r)))
            .min_by_key(|(p, _)| ((p - position).abs(), *p > position))
            .map(|(_, r)| r);
    }
    readings().rfind(|r| r.role.group() == role.group())
}
