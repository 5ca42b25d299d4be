//! The background, and what follows it: the groups that nothing sets, and the theme.

use std::sync::Arc;

use super::Editor;
use super::flow::Run;
use super::groups::{ALIKE, WHOLE, groups};
use super::highlight::{BASE, MADE_BY, What, one_text};
use super::parts::Part;
use super::value::Value;
use crate::evaluated::state::Why;

impl Editor<'_> {
    /// The background is another: the groups that nothing sets follow it, and a theme is loaded again.
    pub(super) fn background(&mut self, value: &Value) -> Run<()> {
        let own;
        let value = match value {
            // What it is by itself.
            Value::Nil => {
                own = self.side();
                &own
            }
            value => value,
        };
        let before = self.store.field(self.tables.options, "background");
        self.store
            .put(self.tables.options, "background", value.clone());
        let same =
            matches!((&before, value), (Value::Text(a), Value::Text(b)) if a.bytes == b.bytes);
        // The first versions do all of it also where it stays what it is.
        if same && self.version().is_none_or(|v| v >= (0, 8)) {
            return Ok(());
        }
        self.background_follows(value)
    }

    /// The groups, or the theme, follow the background.
    fn background_follows(&mut self, value: &Value) -> Run<()> {
        let name = one_text(self.store.field(self.tables.g, "colors_name"));
        // Which theme it is depends on something.
        if let Value::Either(all) = &name {
            let whys: Vec<Why> = all.iter().map(|(why, _)| Arc::clone(why)).collect();
            return self.fork(&whys, &mut |this, side| {
                let name = all[side].1.clone();
                this.store.put(this.tables.g, "colors_name", name);
                this.background_follows(value)
            });
        }
        // A theme that is being loaded is not loaded again.
        if self.choosing && matches!(name, Value::Text(_)) {
            return Ok(());
        }
        self.follow(value);
        if let Value::Text(name) = name
            && !self.choosing
            && name.unknown.is_none()
        {
            let chosen = self
                .store
                .field(self.tables.options, super::readings::SCHEME);
            let first = self.writes.len();
            let outcome = self.choose(&name);
            if self
                .writes
                .get(first)
                .is_some_and(|w| matches!(w.what, What::Scheme))
            {
                self.writes.remove(first);
            }
            self.store
                .put(self.tables.options, super::readings::SCHEME, chosen);
            let now = self.store.field(self.tables.options, "background");
            let same =
                matches!((&now, value), (Value::Text(a), Value::Text(b)) if a.bytes == b.bytes);
            if !same {
                // A theme that wants the other side is forgotten.
                self.store.put(self.tables.g, "colors_name", Value::Nil);
                self.store
                    .put(self.tables.options, "background", value.clone());
                self.follow(value);
            }
            return outcome;
        }
        Ok(())
    }

    /// The groups that nothing sets are those of a background.
    fn follow(&mut self, value: &Value) {
        for known in groups().values() {
            let touched = [Part::Text, Part::Ground, Part::More]
                .iter()
                .any(|p| !matches!(self.said(known.name, *p), Value::Nil));
            if !touched {
                continue;
            }
            let set = self.part(known.name, Part::Set);
            let light = usize::from(matches!(value, Value::Text(t) if t.bytes == b"light"));
            let again = known.colors[0] != known.colors[1] || ALIKE.contains(&known.name);
            let whole = WHOLE.contains(&known.name);
            // A link that came back when the group was cleared gives way to what is said again.
            let said = |p: Part| self.said(known.name, p);
            let came_back = match (said(Part::Link), said(Part::Otherwise)) {
                (Value::Text(a), Value::Text(b)) => a.bytes == b.bytes,
                _ => false,
            };
            let came_back = came_back && matches!(said(Part::Back), Value::Bool(true));
            if (again || whole)
                && came_back
                && !matches!(set, Value::Bool(true))
                && known.link.is_empty()
            {
                self.set_part(known.name, Part::Link, Value::Nil);
            }
            // A group that a command set keeps what it had, and takes what is said for terminals of few colors.
            let mut say = |part: Part, kept: Option<Value>| {
                let now = self.said(known.name, part).clone();
                let kept = kept.unwrap_or(now);
                let new = set.map(&mut |set| match set {
                    Value::Bool(true) => kept.clone(),
                    _ => Value::Nil,
                });
                self.set_part(known.name, part, new);
            };
            say(Part::More, (again || whole).then_some(Value::Bool(true)));
            for (side, part) in [(0, Part::Text), (1, Part::Ground)] {
                if whole || again && !known.colors[light][side].is_empty() {
                    say(part, None);
                }
            }
            // Of this one group it says no attributes.
            let says_words = whole && known.name != "Search";
            if says_words || again && !known.words.is_empty() {
                say(Part::Words, None);
            }
        }
        self.store.put(self.tables.options, BASE, value.clone());
        let script = self.script();
        self.store.put(self.tables.options, MADE_BY, script);
    }
}
