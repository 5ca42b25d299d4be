//! What the files come to, as readings.

use std::collections::HashMap;
use std::ops::Range;
use std::sync::Arc;

use wealdmist_core::property::Property;
use wealdmist_core::reading::{Attributes, Place, Reading, Standing, ToolReport, Value as Said};
use wealdmist_core::role::RoleId;

use super::Editor;
use super::groups::{color, is_linked, words};
use super::highlight::{What, Write};
use super::parts::Part;
use super::value::Value;
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;
use crate::shared::Includer;
use crate::themed::Group;
use crate::tools::nvim::{NVIM, TERMGUICOLORS, fonts};

/// Where the theme that was chosen is kept.
pub(super) const SCHEME: &str = "\0scheme";

/// A value that counts, and what it depends on.
type Final = (Option<Why>, Value);

fn alternatives(value: Value) -> Vec<Final> {
    match value {
        Value::Either(all) => all
            .iter()
            .map(|(why, v)| (Some(Arc::clone(why)), v.clone()))
            .collect(),
        Value::Nil => Vec::new(),
        other => vec![(None, other)],
    }
}

/// Whether it is certainly no color.
fn is_none(value: &Value) -> bool {
    match value {
        Value::Bool(false) => true,
        Value::Text(text) => text.unknown.is_none() && text.bytes.eq_ignore_ascii_case(b"none"),
        _ => false,
    }
}

/// How sure a value is.
fn standing(why: Option<&Why>, value: &Value) -> Standing {
    match (value, why) {
        (
            Value::Unknown(why)
            | Value::Text(Text {
                unknown: Some(why), ..
            }),
            _,
        ) => Standing::Unread(Arc::clone(why)),
        (_, Some(why)) => Standing::Conditional(Arc::clone(why)),
        _ => Standing::Certain,
    }
}

fn said(word: &str) -> Said {
    match color(word) {
        Some(color) => Said::Color(color),
        None if word.is_empty() || word.eq_ignore_ascii_case("none") => Said::Default,
        None => Said::Text(word.to_owned()),
    }
}

impl Editor<'_> {
    /// Notes that an option was set.
    pub(super) fn noted(&mut self, name: &str, now: Value, at: Value) {
        let text = match (now, at) {
            (Value::Text(text), _) => text,
            (Value::Bool(_), Value::Text(text)) => text,
            _ => return,
        };
        if !self.shipped[self.here.0.visit()] {
            let what = match name {
                TERMGUICOLORS => What::Depth,
                _ => What::Font,
            };
            self.writes.push(Write { what, text });
        }
    }

    /// The report with all that was found.
    pub(super) fn finish(mut self) -> ToolReport {
        let writes = std::mem::take(&mut self.writes);
        let scheme = alternatives(self.store.field(self.tables.options, SCHEME));
        // The groups in the order they are told of, each with its place in it by its name in small letters.
        let mut groups: Vec<String> = Vec::new();
        let mut places: HashMap<String, usize> = HashMap::new();
        let mut add = |name: &str| {
            places.entry(name.to_ascii_lowercase()).or_insert_with(|| {
                groups.push(name.to_owned());
                groups.len() - 1
            });
        };
        for write in &writes {
            if let What::Group(name, _) = &write.what {
                add(name);
            }
        }
        for name in self.touched() {
            add(NVIM.group(&name).map_or(name.as_str(), |known| known.name));
        }
        // A theme of the person's own is what they see; what it leaves out is not listed.
        if !self.own_theme {
            for known in NVIM.groups.iter().flat_map(|list| list.iter()) {
                add(known.name);
            }
        }
        // What each part of each group comes to.
        let mut finals: Vec<[(Vec<Final>, bool); 2]> = Vec::with_capacity(groups.len());
        for name in &groups {
            let link = self.part(name, Part::Link);
            let shown = self.shown(name, &link);
            if self.is_touched(name) {
                let bare = [is_none(&shown[0].0), is_none(&shown[1].0)];
                let attributes = self.attributes_of(name, &link, bare);
                self.report.attributes.extend(attributes);
            }
            finals.push(shown.map(|(value, linked)| (alternatives(value), linked)));
        }
        let mut schemes = scheme;
        let depth = self.store.field(self.tables.options, TERMGUICOLORS);
        let mut depth_at = alternatives(
            self.store
                .field(self.tables.options, &format!("{TERMGUICOLORS}\0at")),
        );
        if !matches!(depth, Value::Bool(_) | Value::Either(_)) {
            depth_at.clear();
        }
        let mut fonts = alternatives(self.store.field(self.tables.options, "guifont"));
        let take = |all: &mut Vec<Final>, text: &Text| {
            let at = all
                .iter()
                .position(|(_, v)| matches!(v, Value::Text(t) if t == text))?;
            Some(all.remove(at))
        };
        for write in writes {
            match &write.what {
                What::Group(name, ground) => {
                    let entry = places
                        .get(&name.to_ascii_lowercase())
                        .map(|i| &mut finals[*i][usize::from(*ground)]);
                    let found = entry
                        .filter(|e| !e.1)
                        .and_then(|e| take(&mut e.0, &write.text));
                    let effective = found.is_some();
                    let (why, value) = found.unwrap_or((None, Value::Text(write.text)));
                    self.group_reading(name, *ground, why.as_ref(), &value, effective, true);
                }
                What::Scheme => {
                    let found = take(&mut schemes, &write.text);
                    let effective = found.is_some();
                    let (why, value) = found.unwrap_or((None, Value::Text(write.text)));
                    self.scheme_reading(why.as_ref(), &value, effective);
                }
                What::Depth => {
                    let found = take(&mut depth_at, &write.text);
                    let effective = found.is_some();
                    let (why, value) = found.unwrap_or((None, Value::Text(write.text)));
                    self.depth_reading(why.as_ref(), &value, effective);
                }
                What::Font => {
                    let found = take(&mut fonts, &write.text);
                    let effective = found.is_some();
                    let (why, value) = found.unwrap_or((None, Value::Text(write.text)));
                    self.font_readings(why.as_ref(), &value, effective);
                }
            }
        }
        for (why, value) in schemes {
            self.scheme_reading(why.as_ref(), &value, true);
        }
        for (why, value) in fonts {
            self.font_readings(why.as_ref(), &value, true);
        }
        for (name, sides) in groups.iter().zip(finals) {
            for (ground, (all, linked)) in [false, true].into_iter().zip(sides) {
                for (why, value) in all {
                    self.group_reading(name, ground, why.as_ref(), &value, true, !linked);
                }
            }
        }
        if self.endless {
            self.given_up();
        }
        self.report
    }

    /// Where the program gives up files that load themselves without end depends on how deep it is then,
    /// and what it does behind that on what it gave up: nothing is certain.
    fn given_up(&mut self) {
        let why: Why = "where the program gives up a file that loads itself again and again".into();
        for reading in &mut self.report.readings {
            if reading.effective && reading.is_sure() {
                reading.standing = Standing::Conditional(Arc::clone(&why));
                reading.editable = false;
            }
        }
        self.report.attributes.clear();
    }

    /// Where a part of a value is written; whether it can be changed there.
    fn written(&self, text: &Text, part: Range<usize>) -> (Place, Vec<Includer>, bool, bool) {
        let is_gap = |visit: usize, gap: Range<usize>| {
            let bytes = &self.visits[visit].file.bytes;
            gap.len() <= 2
                && bytes
                    .get(gap)
                    .is_some_and(|g| g.iter().all(|b| *b == b'\\'))
        };
        let file = |visit: usize| &self.visits[visit].file.bytes[..];
        let source = text.stretch(part.clone(), is_gap);
        let source = source.filter(|_| text.is_spelled(part.clone(), file));
        let editable = source.is_some() && text.unknown.is_none();
        let nearest = || text.nearest(part.start).map(|(v, at)| (v, at..at));
        match source.or_else(nearest) {
            Some((visit, span)) if !self.shipped[visit] => {
                let visit = &self.visits[visit];
                // What quotes the first sign belongs to it.
                let quotes = visit.file.bytes[..span.start].iter().rev();
                let quotes = quotes.take_while(|b| **b == b'\\').count();
                let span = span.start - if editable { quotes } else { 0 }..span.end;
                (
                    Place::new(&visit.file, span),
                    visit.chain.clone(),
                    editable,
                    false,
                )
            }
            found => {
                let main = self.report.files.first().map(|f| f.path.as_path());
                let place = Place::nowhere_in(main.unwrap_or(&self.folder));
                (place, Vec::new(), false, found.is_some())
            }
        }
    }

    fn push(
        &mut self,
        role: RoleId,
        key: &str,
        value: Said,
        (text, part): (&Text, Range<usize>),
        (standing, effective): (Standing, bool),
    ) {
        let (place, chain, editable, shipped) = self.written(text, part);
        let standing = match standing {
            Standing::Certain if shipped => Standing::Default,
            other => other,
        };
        self.report.readings.push(Reading {
            role,
            key: key.to_owned(),
            value,
            place,
            chain,
            effective,
            editable: editable && standing == Standing::Certain,
            standing,
            asked: None,
        });
    }

    fn group_reading(
        &mut self,
        name: &str,
        ground: bool,
        why: Option<&Why>,
        value: &Value,
        effective: bool,
        own: bool,
    ) {
        let known = NVIM.group(name);
        let role = known.and_then(|g| if ground { g.ground } else { g.text });
        let part = if ground { "ground" } else { "text" };
        let key = known.map_or(name, |g| g.name).to_owned();
        let own_role = || RoleId::new(format!("{}.{key}.{part}", NVIM.id));
        let standing = standing(why, value);
        match value {
            Value::Own(color_name) => {
                // What a group is by itself is only of interest where it is the one for a job.
                let first = |role: &str| {
                    let has = |g: &&Group| {
                        (if ground { g.ground } else { g.text }) == Some(role) && !is_linked(g.name)
                    };
                    NVIM.groups[0]
                        .iter()
                        .find(has)
                        .is_some_and(|g| g.name == key)
                };
                let role = match (own, role) {
                    (true, _) if self.own_theme => None,
                    (true, role) => role.filter(|role| first(role)).map(RoleId::known),
                    // The files link it to another.
                    (false, role) => Some(role.map_or_else(own_role, RoleId::known)),
                };
                let (Some(role), Some(color)) = (role, color(color_name)) else {
                    return;
                };
                let main = self.report.files.first().map(|f| f.path.as_path());
                let place = Place::nowhere_in(main.unwrap_or(&self.folder));
                self.report.readings.push(Reading {
                    role,
                    key,
                    value: Said::Color(color),
                    place,
                    chain: Vec::new(),
                    effective,
                    editable: false,
                    standing: match standing {
                        Standing::Certain => Standing::Default,
                        other => other,
                    },
                    asked: None,
                });
            }
            Value::Text(text) => {
                let value = said(&text.lossy());
                let role = role.map_or_else(own_role, RoleId::known);
                let before = self.report.readings.len();
                self.push(
                    role,
                    &key,
                    value,
                    (text, 0..text.bytes.len()),
                    (standing, effective),
                );
                if !own {
                    // It is another group's value, which is changed there.
                    self.report.readings[before].editable = false;
                }
            }
            Value::Unknown(_) => {
                let Some(role) = role else { return };
                let text = Text::default();
                self.push(
                    RoleId::known(role),
                    &key,
                    Said::Text("?".to_owned()),
                    (&text, 0..0),
                    (standing, effective),
                );
            }
            _ => {}
        }
    }

    /// What a group has beside its colors, where that is known.
    fn attributes_of(&self, name: &str, link: &Value, bare: [bool; 2]) -> Option<Attributes> {
        let (value, is_other) = self.followed_also_own(name, Part::Words, link);
        let special = self.followed_also_own(name, Part::Special, link).0;
        let link = Self::target_of(link);
        if is_other && link.is_none() {
            return None;
        }
        let (list, text) = match &value {
            Value::Bool(false) => (String::new(), None),
            Value::Own(list) => (list.to_string(), None),
            Value::Text(text) if text.unknown.is_none() => (text.lossy(), Some(text)),
            _ => return None,
        };
        let special = match special {
            Value::Text(text) if text.unknown.is_none() => color(&text.lossy()),
            _ => None,
        };
        let known = NVIM.group(name);
        let place = text.map(|text| self.written(text, 0..text.bytes.len()).0);
        Some(Attributes {
            key: known.map_or(name, |g| g.name).to_owned(),
            role: match known {
                Some(group) => group.text.map(RoleId::known),
                None => Some(RoleId::new(format!("{}.{name}.text", NVIM.id))),
            },
            words: words(&list)?,
            special,
            place: place.filter(Place::is_written),
            bare,
            link,
        })
    }

    fn scheme_reading(&mut self, why: Option<&Why>, value: &Value, effective: bool) {
        let role = RoleId::from(Property::Theme);
        let standing = standing(why, value);
        match value {
            Value::Text(text) => {
                let name = Said::Text(text.lossy());
                self.push(
                    role,
                    "colorscheme",
                    name,
                    (text, 0..text.bytes.len()),
                    (standing, effective),
                );
            }
            Value::Unknown(_) => {
                let text = Text::default();
                self.push(
                    role,
                    "colorscheme",
                    Said::Text("?".to_owned()),
                    (&text, 0..0),
                    (standing, effective),
                );
            }
            _ => {}
        }
    }

    fn depth_reading(&mut self, why: Option<&Why>, value: &Value, effective: bool) {
        let Value::Text(text) = value else { return };
        let word = text.lossy();
        let on = !(word.starts_with("no") || word == "false" || word == "0");
        let depth = if on { "24-bit" } else { "256 colors" };
        let role = RoleId::from(Property::Depth);
        let standing = standing(why, value);
        self.push(
            role,
            TERMGUICOLORS,
            Said::Text(depth.to_owned()),
            (text, 0..text.bytes.len()),
            (standing, effective),
        );
    }

    /// The fonts of the option: the first with its size, and those it falls back to.
    fn font_readings(&mut self, why: Option<&Why>, value: &Value, effective: bool) {
        let Value::Text(text) = value else { return };
        let raw = text.lossy();
        if raw.len() != text.bytes.len() {
            return;
        }
        let standing = standing(why, value);
        let key = "guifont";
        let first = fonts::list(&raw).next().unwrap_or_default().to_owned();
        let family = first.split(':').next().unwrap_or_default();
        // Behind a backslash at its end, a comma of ours would belong to the font.
        if family.is_empty() || first.ends_with('\\') {
            return;
        }
        let mut one = |property: Property, value: Said, part: Range<usize>| {
            self.push(
                RoleId::from(property),
                key,
                value,
                (text, part),
                (standing.clone(), effective),
            );
        };
        one(
            Property::FontFamily,
            Said::Text(fonts::family(family)),
            0..family.len(),
        );
        if raw.len() > first.len() + 1 {
            let part = first.len() + 1..raw.len();
            let families: Vec<String> =
                fonts::list(&raw[part.clone()]).map(fonts::family).collect();
            one(
                Property::FontFallback,
                Said::Text(families.join(", ")),
                part,
            );
        }
        let mut at = family.len();
        for part in first[family.len()..].split(':').skip(1) {
            at += 1;
            if let Some(digits) = part.strip_prefix('h')
                && let Ok(n) = digits.parse::<f64>()
            {
                one(Property::FontSize, Said::Number(n), at + 1..at + part.len());
            }
            at += part.len();
        }
    }
}
