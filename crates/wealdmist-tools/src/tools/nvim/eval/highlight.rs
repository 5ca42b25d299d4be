//! Highlight groups: what is set of them, what they link to, what they are by themselves.

use std::cell::Cell;
use std::sync::Arc;

use super::flow::{Run, Stop};
use super::groups::{color, groups, is_linked, known, settings};
use super::parts::{Part, SHOWN};
use super::value::Value;
use super::{Editor, KNOWN};
use crate::document::vim::Line;
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;

/// The background that the program's own groups are for.
pub(super) const BASE: &str = "\0base";

/// What something says.
pub(super) enum What {
    /// A group's text or ground.
    Group(String, bool),
    Scheme,
    Depth,
    Font,
}

/// Something that the person's files say.
pub(super) struct Write {
    pub(super) what: What,
    pub(super) text: Text,
}

/// Where it is kept which script made the program say its own again.
pub(super) const MADE_BY: &str = "\0made by";

/// Where it is kept what others have of Normal, once that is cleared.
const OF_NORMAL: [(Part, &str); 2] = [
    (Part::Text, "\0text of Normal"),
    (Part::Ground, "\0ground of Normal"),
];

/// When a group's default counts, and when not.
pub(super) fn alone(group: &str) -> [Why; 2] {
    [
        format!("depending on whether {group} is set before").into(),
        format!("depending on whether {group} is set before, otherwise").into(),
    ]
}

/// Where what stands behind a word of a line begins.
fn behind_word(line: &Line, word: &Line) -> usize {
    let end = word.map.last().map_or(0, |m| m + 1);
    line.map
        .iter()
        .position(|m| *m >= end)
        .unwrap_or(line.bytes.len())
}

/// The text that a value is, whatever it depends on.
pub(super) fn one_text(value: Value) -> Value {
    match &value {
        Value::Either(all) => match all.first() {
            Some((_, Value::Text(first)))
                if all
                    .iter()
                    .all(|(_, v)| matches!(v, Value::Text(t) if t.bytes == first.bytes)) =>
            {
                Value::Text(first.clone())
            }
            _ => value,
        },
        _ => value,
    }
}

/// Where the word of Normal is kept that a side was given.
const fn word_of(part: Part) -> Option<Part> {
    match part {
        Part::Text => Some(Part::TextOf),
        Part::Ground => Some(Part::GroundOf),
        _ => None,
    }
}

/// The other side, where a color is that of Normal.
pub(super) fn of_normal(value: &Value) -> Option<Part> {
    match value {
        Value::Text(text) => side_of_normal(&text.bytes),
        _ => None,
    }
}

/// The same of a word.
fn side_of_normal(word: &[u8]) -> Option<Part> {
    let is_one_of = |words: [&str; 2]| {
        let mut words = words.iter();
        words.any(|w| word.eq_ignore_ascii_case(w.as_bytes()))
    };
    if is_one_of(["fg", "foreground"]) {
        return Some(Part::Text);
    }
    is_one_of(["bg", "background"]).then_some(Part::Ground)
}

impl Editor<'_> {
    pub(super) fn set_part(&mut self, group: &str, part: Part, value: Value) {
        if group.eq_ignore_ascii_case("normal")
            && let Some((_, kept)) = OF_NORMAL.iter().find(|k| k.0 == part)
        {
            self.store.put(self.tables.options, kept, Value::Nil);
        }
        let group = self.names.numbered(group);
        if let Some(word) = word_of(part) {
            self.store.set_part(group, word, Value::Nil);
        }
        self.store.set_part(group, part, value);
    }

    /// Has a side keep what it is, which a word of Normal says.
    pub(super) fn keep_said(&mut self, group: &str, part: Part, now: Value, said: Value) {
        self.set_part(group, part, now);
        if let Some(word) = word_of(part) {
            let group = self.names.numbered(group);
            self.store.set_part(group, word, said);
        }
    }

    /// What words of Normal say follows it again, once that is said as the editor's own command does.
    fn follow_normal(&mut self) {
        let mut said = Vec::new();
        for (group, parts) in self.store.groups() {
            for (word, value) in parts {
                let part = match word {
                    Part::TextOf => Part::Text,
                    Part::GroundOf => Part::Ground,
                    _ => continue,
                };
                if let Value::Text(_) = value {
                    said.push((group, part, value.clone()));
                }
            }
        }
        for (group, part, value) in said {
            let name = self.names.spelled(group).to_owned();
            self.set_part(&name, part, value);
        }
    }

    /// What is said of a part of a group; nil where nothing is.
    pub(super) fn said(&self, group: &str, part: Part) -> &Value {
        match self.names.number(group) {
            Some(number) => self.store.part(number, part),
            None => &Value::Nil,
        }
    }

    /// What is said of a part of a group, or what it is by itself.
    pub(super) fn part(&self, group: &str, part: Part) -> Value {
        self.said(group, part).map(&mut |said| match said {
            Value::Nil if part == Part::Link => self.linked_again(group),
            Value::Nil => self.by_itself(group, part),
            said => said.clone(),
        })
    }

    /// The link that a group has after it was cleared: the first that was made by default.
    fn linked_again(&self, group: &str) -> Value {
        match self.said(group, Part::Otherwise) {
            Value::Nil | Value::Bool(_) => self.by_itself(group, Part::Link),
            _ if known(group).is_some() => self.by_itself(group, Part::Link),
            link => link.clone(),
        }
    }

    /// What a part of a group is where nothing says anything: a color of the program's own, or `false`.
    fn by_itself(&self, group: &str, part: Part) -> Value {
        let Some(known) = known(group) else {
            return Value::Bool(false);
        };
        match part {
            Part::Link if known.link.is_empty() => Value::Bool(false),
            Part::Link => Value::Own(known.link.into()),
            Part::More => Value::Bool(known.link.is_empty() && known.name != "Normal"),
            Part::Set
            | Part::Was
            | Part::Back
            | Part::Otherwise
            | Part::Frozen
            | Part::TextOf
            | Part::GroundOf => Value::Bool(false),
            Part::Words if known.words.is_empty() => Value::Bool(false),
            Part::Words if self.version() == Some(KNOWN) => Value::Own(known.words.into()),
            Part::Words => Value::unknown("the attributes of another version"),
            Part::Special if known.words.contains("under") => {
                Value::unknown("the program's own underlines")
            }
            Part::Special => Value::Bool(false),
            Part::Text | Part::Ground => {
                let side = usize::from(part == Part::Ground);
                let has_none = known.colors.iter().all(|c| c[side].is_empty());
                if has_none || self.version() != Some(KNOWN) {
                    return Value::Bool(false);
                }
                let frozen = self.said(group, Part::Frozen);
                let base = frozen.map(&mut |frozen| match frozen {
                    Value::Nil => self.store.field(self.tables.options, BASE),
                    frozen => frozen.clone(),
                });
                base.map(&mut |base| {
                    let light = match base.lossy().as_deref() {
                        Some("light") => 1,
                        Some(_) => 0,
                        None => return base.clone(),
                    };
                    match known.colors[light][side] {
                        "" => Value::Bool(false),
                        color => Value::Own(color.into()),
                    }
                })
            }
        }
    }

    /// What the text and the ground of a group come to, `link` being its own, links followed; and whether they are
    /// another group's.
    pub(super) fn shown(&self, group: &str, link: &Value) -> [(Value, bool); 2] {
        [Part::Text, Part::Ground].map(|part| match link {
            Value::Bool(_) => (self.colored(group, part), false),
            _ => self.followed(group, part, 0, &Cell::new(0)),
        })
    }

    /// `ways` counts the links that may be followed or not.
    fn followed(&self, group: &str, part: Part, depth: usize, ways: &Cell<usize>) -> (Value, bool) {
        /// As the program does: where links go round, it stops at this one.
        const LINKS: usize = 100;
        /// Of links that go round in several ways not all can be followed.
        const WAYS: usize = 64;
        if depth == LINKS {
            return (self.colored(group, part), false);
        }
        match self.part(group, Part::Link) {
            Value::Own(_) if depth == 0 => (Value::Nil, false),
            Value::Own(target) => (self.followed(&target, part, depth + 1, ways).0, true),
            // A link to itself is none, though it is there.
            Value::Text(target) if target.lossy().eq_ignore_ascii_case(group) => {
                (self.colored(group, part), false)
            }
            Value::Text(target) => (
                self.followed(&target.lossy(), part, depth + 1, ways).0,
                true,
            ),
            Value::Unknown(why) => (Value::Unknown(why), true),
            Value::Either(all) => {
                let of = |(why, link): &(Why, Value)| {
                    ways.set(ways.get() + 1);
                    let value = match link {
                        Value::Own(_) | Value::Text(_) if ways.get() > WAYS => {
                            Value::Unknown("the ways that links go".into())
                        }
                        // A link to itself is none.
                        Value::Text(target) if target.lossy().eq_ignore_ascii_case(group) => {
                            self.colored(group, part)
                        }
                        Value::Own(target) => self.followed(target, part, depth + 1, ways).0,
                        Value::Text(target) => {
                            self.followed(&target.lossy(), part, depth + 1, ways).0
                        }
                        Value::Unknown(why) => Value::Unknown(Arc::clone(why)),
                        _ => self.colored(group, part),
                    };
                    (Arc::clone(why), value)
                };
                (Value::either(all.iter().map(of).collect()), true)
            }
            _ => (self.colored(group, part), false),
        }
    }

    /// What a color of Normal is for others.
    pub(super) fn normal(&self, part: Part) -> Value {
        let kept = OF_NORMAL.iter().find(|k| k.0 == part);
        let kept = kept.map(|k| self.store.field(self.tables.options, k.1));
        match kept {
            None | Some(Value::Nil) => self.part("Normal", part),
            Some(kept) => kept,
        }
    }

    pub(super) fn colored(&self, group: &str, part: Part) -> Value {
        let own = self.part(group, part);
        own.map(&mut |value| match of_normal(value) {
            Some(side) if group.eq_ignore_ascii_case("normal") && side == part => {
                Value::Bool(false)
            }
            Some(side) if !matches!(value, Value::Unknown(_)) => self.normal(side),
            _ => value.clone(),
        })
    }

    /// Whether anything is set of a group; `None` where that is not known.
    pub(super) fn has_settings(&self, group: &str, links: bool) -> Option<bool> {
        let truth = |value: Value| match value {
            Value::Bool(yes) => Some(yes),
            Value::Unknown(_) => None,
            Value::Either(_) => None,
            // No color is none, and no attributes are.
            Value::Text(text)
                if text.bytes.is_empty() || text.lossy().eq_ignore_ascii_case("none") =>
            {
                Some(false)
            }
            _ => Some(true),
        };
        // What a group is by itself is among what else is set of it.
        let said = |p: Part| self.said(group, p).clone();
        let parts = [
            said(Part::Text),
            said(Part::Ground),
            said(Part::Words),
            said(Part::Special),
            self.part(group, Part::More),
        ];
        let parts = parts.map(|value| match value {
            Value::Nil => Some(false),
            value => truth(value),
        });
        // Only a link that a script made counts.
        let link = match self.said(group, Part::Link) {
            Value::Nil => Some(false),
            said => truth(said.clone()),
        };
        let link = if links { link } else { Some(false) };
        let all: Vec<Option<bool>> = parts.into_iter().chain([link]).collect();
        if all.contains(&Some(true)) {
            return Some(true);
        }
        (!all.contains(&None)).then_some(false)
    }

    /// Takes a word for a color; what is none is as the version has it.
    fn taken(&self, text: Text) -> Option<Value> {
        let word = text.lossy();
        if text.unknown.is_some() {
            return Some(Value::Text(text));
        }
        if word.is_empty() || word.eq_ignore_ascii_case("none") {
            return Some(Value::Text(text));
        }
        if color(&word).is_some() || side_of_normal(&text.bytes).is_some() {
            return Some(Value::Text(text));
        }
        // The first versions forget the color, the later ones keep the one before.
        match self.version().is_some_and(|v| v < (0, 8)) {
            true => Some(Value::Bool(false)),
            false => None,
        }
    }

    pub(super) fn write(&mut self, group: &str, part: Part, text: Text) {
        // What Normal has of itself is another in each version.
        if group.eq_ignore_ascii_case("normal") && side_of_normal(&text.bytes).is_some() {
            self.set_part(group, part, Value::unknown("Normal's own other color"));
            return;
        }
        let Some(value) = self.taken(text.clone()) else {
            return;
        };
        if matches!(value, Value::Bool(_)) {
            // It has been said all the same.
            self.set_part(group, Part::More, Value::Bool(true));
        }
        self.set_part(group, part, value);
        if !self.shipped[self.here.0.visit()] {
            let what = What::Group(group.to_owned(), part == Part::Ground);
            self.writes.push(Write { what, text });
        }
    }

    /// A group whose colors are not known.
    pub(super) fn group_unknown(&mut self, group: &str, why: &Why) {
        for part in SHOWN {
            self.set_part(group, part, Value::Unknown(Arc::clone(why)));
        }
        self.set_part(group, Part::Link, Value::Bool(false));
    }

    /// The groups that anything is said of.
    pub(super) fn touched(&self) -> Vec<String> {
        let groups = self.store.groups();
        let said = groups.filter_map(|(group, mut parts)| parts.next().map(|_| group));
        said.map(|group| self.names.spelled(group).to_owned())
            .collect()
    }

    /// Whether anything is said of a group.
    pub(super) fn is_touched(&self, group: &str) -> bool {
        let number = self.names.number(group);
        number.is_some_and(|number| self.store.parts_of(number).next().is_some())
    }

    /// Everything is as it is by itself.
    pub(super) fn clear_all(&mut self) {
        let mut new = Vec::new();
        for (group, parts) in self.store.groups() {
            let mut was = false;
            for (part, _) in parts {
                was |= matches!(part, Part::Set | Part::Text | Part::Ground);
                if !matches!(part, Part::Otherwise | Part::Was) {
                    new.push((group, *part, Value::Nil));
                }
            }
            if was {
                new.push((group, Part::Was, Value::Bool(true)));
            }
        }
        for (group, part, value) in new {
            self.store.set_part(group, part, value);
        }
        for (_, kept) in OF_NORMAL {
            self.store.put(self.tables.options, kept, Value::Nil);
        }
        self.store.put(self.tables.g, "colors_name", Value::Nil);
        let now = self.store.field(self.tables.options, "background");
        self.store.put(self.tables.options, BASE, now);
        let script = self.script();
        self.store.put(self.tables.options, MADE_BY, script);
    }

    /// Nothing is known of the groups any more.
    pub(super) fn nothing_known(&mut self, why: &Why) {
        let mut names: Vec<String> = groups().values().map(|g| g.name.to_owned()).collect();
        for (group, mut parts) in self.store.groups() {
            if parts.any(|(part, _)| *part == Part::Text) {
                names.push(self.names.spelled(group).to_owned());
            }
        }
        for name in names {
            for part in SHOWN {
                self.set_part(&name, part, Value::Unknown(Arc::clone(why)));
            }
            self.set_part(&name, Part::Link, Value::Bool(false));
        }
    }

    /// `:highlight`
    pub(super) fn highlight(
        &mut self,
        bang: bool,
        given: &Line,
        to_text: &dyn Fn(&Line) -> Text,
    ) -> Run<()> {
        let words = given.words();
        let word = |i: usize| words.get(i).map(Line::text).unwrap_or_default();
        let mut at = 0;
        let default = super::script::is(&word(0), "default", 3);
        at += usize::from(default);
        match word(at).as_str() {
            "" => return Ok(()),
            "clear" if words.len() == at + 1 => {
                self.clear_all();
                return Ok(());
            }
            "clear" => {
                self.clear(&word(at + 1));
                return Ok(());
            }
            "link" => {
                let (from, to) = (word(at + 1), words.get(at + 2));
                if let Some(to) = to {
                    self.link(&from, to_text(to), default, bang);
                }
                return Ok(());
            }
            _ => {}
        }
        let group = word(at);
        if words.len() == at + 1 {
            return Ok(());
        }
        if default {
            match self.has_settings(&group, true) {
                Some(true) => return Ok(()),
                Some(false) => {}
                None => {
                    // Whether it counts depends on what else was set.
                    let plain = given.behind(behind_word(given, &words[at - 1]));
                    return self.fork(&alone(&group), &mut |this, side| match side {
                        0 => this.highlight(bang, &plain, to_text),
                        _ => Ok(()),
                    });
                }
            }
        }
        if word(at + 1).eq_ignore_ascii_case("none") && words.len() == at + 2 {
            self.clear(&group);
            self.set_part(&group, Part::Set, Value::Bool(true));
            return Ok(());
        }
        let rest = given.behind(behind_word(given, &words[at]));
        // A link ends where anything else is said.
        self.set_part(&group, Part::Link, Value::Bool(false));
        for (name, value) in settings(&rest)? {
            match name.to_ascii_lowercase().as_str() {
                "guifg" | "guibg" => {
                    self.keep_own(&group);
                    let part = if name.eq_ignore_ascii_case("guifg") {
                        Part::Text
                    } else {
                        Part::Ground
                    };
                    let text = to_text(&value);
                    let kept = word_of(part).map(|word| self.said(&group, word));
                    // The same word again changes nothing.
                    let same = matches!(kept, Some(Value::Text(kept)) if kept.bytes == text.bytes);
                    if group.eq_ignore_ascii_case("normal") {
                        self.follow_normal();
                    }
                    if !same {
                        self.write(&group, part, text);
                    }
                }
                "gui" | "guisp" => {
                    self.keep_own(&group);
                    let part = match name.eq_ignore_ascii_case("gui") {
                        true => Part::Words,
                        false => Part::Special,
                    };
                    self.set_part(&group, part, Value::Text(to_text(&value)));
                }
                "blend" => {
                    self.keep_own(&group);
                    self.set_part(&group, Part::More, Value::Bool(true));
                }
                "term" | "start" | "stop" | "font" => {}
                "cterm" | "ctermfg" | "ctermbg" | "ctermul" => {
                    self.set_part(&group, Part::More, Value::Bool(true));
                }
                _ => {
                    return Err(Stop::Error(
                        format!("'{name}' is nothing a group has").into(),
                    ));
                }
            }
        }
        Ok(())
    }

    /// What a group is by itself stays when the background changes, once anything is set of it.
    pub(super) fn keep_own(&mut self, group: &str) {
        let frozen = self.said(group, Part::Frozen);
        if matches!(frozen, Value::Nil) {
            let base = self.store.field(self.tables.options, BASE);
            self.set_part(group, Part::Frozen, base);
        }
        self.set_part(group, Part::Set, Value::Bool(true));
    }

    fn clear(&mut self, group: &str) {
        // What others have of Normal they keep.
        let kept = OF_NORMAL.map(|(part, _)| self.normal(part));
        for part in SHOWN.into_iter().chain([Part::More]) {
            self.set_part(group, part, Value::Bool(false));
        }
        let link = match known(group).is_some() {
            true => self.said(group, Part::Otherwise).clone(),
            false => Value::Nil,
        };
        if group.eq_ignore_ascii_case("normal") {
            for ((_, name), value) in OF_NORMAL.into_iter().zip(kept) {
                self.store.put(self.tables.options, name, value);
            }
        }
        self.set_part(group, Part::Back, Value::Bool(true));
        self.set_part(group, Part::Link, link);
    }

    /// The script that is run now, as the program counts them: all of Lua is one.
    pub(super) fn script(&self) -> Value {
        let visit = self.here.0.visit();
        let is_lua = self
            .visits
            .get(visit)
            .is_some_and(|v| super::is_lua(&v.file.path));
        Value::Number(if is_lua { -1.0 } else { visit as f64 })
    }

    /// Whether a group is linked so by itself, and was made so by this script.
    fn is_so_already(&self, from: &str, to: &Text) -> bool {
        let is_own = matches!(self.said(from, Part::Link), Value::Nil);
        let same =
            |a: &Value, b: &Value| matches!((a, b), (Value::Number(a), Value::Number(b)) if a == b);
        // What was set once is made so anew, though it looks so already.
        let was = self.said(from, Part::Was);
        is_own
            && matches!(was, Value::Nil)
            && matches!(self.part(from, Part::Link), Value::Own(now) if to.lossy().eq_ignore_ascii_case(&now))
            && same(
                &self.store.field(self.tables.options, MADE_BY),
                &self.script(),
            )
    }

    fn link(&mut self, from: &str, to: Text, default: bool, force: bool) {
        if self.is_so_already(from, &to) {
            return;
        }
        let first = matches!(self.said(from, Part::Otherwise), Value::Nil) && !is_linked(from);
        if default && (first || force) {
            self.set_part(from, Part::Otherwise, Value::Text(to.clone()));
        }
        if !force {
            match self.has_settings(from, default) {
                Some(true) => return,
                Some(false) => {}
                None => {
                    let now = self.part(from, Part::Link);
                    let [when, otherwise] = alone(from);
                    let link = Value::either(vec![(when, Value::Text(to)), (otherwise, now)]);
                    self.set_part(from, Part::Link, link);
                    return;
                }
            }
        }
        self.set_part(from, Part::Back, Value::Bool(false));
        match to.lossy().eq_ignore_ascii_case("none") {
            true => self.set_part(from, Part::Link, Value::Bool(false)),
            false => self.set_part(from, Part::Link, Value::Text(to)),
        }
    }

    /// What a part of a group comes to, links followed, `link` being its own, also where it is one by itself; and
    /// whether it is another group's.
    pub(super) fn followed_also_own(&self, group: &str, part: Part, link: &Value) -> (Value, bool) {
        match link {
            Value::Own(target) => (self.followed(target, part, 1, &Cell::new(0)).0, true),
            Value::Bool(_) => (self.colored(group, part), false),
            _ => self.followed(group, part, 0, &Cell::new(0)),
        }
    }

    /// The group that a link leads to, where that is certain.
    pub(super) fn target_of(link: &Value) -> Option<String> {
        match link {
            Value::Own(target) => Some(target.to_string()),
            Value::Text(target) if target.unknown.is_none() => Some(target.lossy()),
            _ => None,
        }
    }

    pub(super) fn fits(&self, word: &str) -> bool {
        word.is_empty()
            || word.eq_ignore_ascii_case("none")
            || color(word).is_some()
            // The colors of Normal are none where it has none.
            || side_of_normal(word.as_bytes()).is_some_and(|side| match self.normal(side) {
                Value::Text(text) => text.unknown.is_some() || color(&text.lossy()).is_some(),
                Value::Bool(_) => false,
                _ => true,
            })
    }

    /// A text with the place of the command that is done now, where it has none of its own.
    pub(super) fn placed(&self, text: &Text) -> Text {
        match text.nearest(0) {
            Some(_) => text.clone(),
            None => {
                let (ground, at) = &self.here;
                text.placed_at(ground.visit(), self.place(ground, *at))
            }
        }
    }
}
