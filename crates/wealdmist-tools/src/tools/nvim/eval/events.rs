//! Autocommands: what is done on an event.

use std::rc::Rc;

use super::Editor;
use super::flow::{Run, Stop};
use super::script::Place;
use super::value::{Table, Value};
use crate::access::wildcard;
use crate::document::vim::{Command, Line};
use crate::evaluated::Ground;
use crate::evaluated::state::Why;
use crate::evaluated::text::Text;

/// What is done on an event.
#[derive(Clone)]
pub(super) struct Autocommand {
    pub(super) event: String,
    /// The names it is for, where it is for some.
    pub(super) patterns: Vec<String>,
    pub(super) group: String,
    pub(super) action: Action,
    pub(super) nested: bool,
    /// What it depends on that it was made.
    pub(super) why: Option<Why>,
}

#[derive(Clone)]
pub(super) enum Action {
    Commands(Rc<Text>, Ground, Table),
    Call(Value),
}

impl Editor<'_> {
    /// Does what waits for an event.
    pub(super) fn event(&mut self, event: &str, name: &str) -> Run<()> {
        if self.quiet {
            return Ok(());
        }
        let fits = |a: &&Autocommand| {
            let takes = |p: &String| p == "*" || wildcard(p, name);
            a.event == event && (a.patterns.is_empty() || a.patterns.iter().any(takes))
        };
        let of_event: Vec<&Autocommand> = self
            .autocommands
            .iter()
            .filter(|a| a.event == event)
            .collect();
        let known = of_event.len();
        let mut all: Vec<Autocommand> = self.autocommands.iter().filter(fits).cloned().collect();
        // What is added for the last pattern before that is reached is done as well.
        let last = of_event
            .last()
            .map(|a| (a.group.clone(), a.patterns.clone()));
        let same = |a: &Autocommand| {
            last.as_ref()
                .is_some_and(|l| a.group == l.0 && a.patterns == l.1)
        };
        let tail = all.iter().rev().take_while(|a| same(a)).count();
        let reached = all.len() - tail;
        let mut next = 0;
        while next < all.len() {
            if next == reached && tail > 0 {
                let of_event = self.autocommands.iter().filter(|a| a.event == event);
                let added = of_event.skip(known).take_while(|a| same(a));
                all.extend(added.cloned());
            }
            let one = all[next].clone();
            next += 1;
            let before = self.quiet;
            self.quiet = !one.nested;
            let base = self.parked.len();
            let outcome = self.perhaps(one.why.as_ref(), &mut |this| this.act(&one, name));
            self.errors_end(base);
            self.quiet = before;
            match outcome {
                Err(Stop::Error(_)) if self.trying == 0 => {}
                other => other?,
            }
        }
        Ok(())
    }

    fn act(&mut self, one: &Autocommand, name: &str) -> Run<()> {
        match &one.action {
            Action::Commands(text, ground, script) => {
                self.run_text(text, ground, false, Some(*script))
            }
            Action::Call(Value::Text(name)) => {
                let function = self.store.field(self.tables.functions, &name.lossy());
                self.call(&function, Vec::new()).map(|_| ())
            }
            Action::Call(function) => {
                let given = self.store.table();
                self.store.put(given, "match", Value::text(name));
                self.store.put(given, "event", Value::text(&one.event));
                self.call(function, vec![Value::Table(given)]).map(|_| ())
            }
        }
    }

    /// What happens only when something else does.
    pub(super) fn waiting(&mut self) {
        const DONE: [&str; 7] = [
            "vimenter",
            "bufwinenter",
            "bufenter",
            "uienter",
            "colorscheme",
            "colorschemepre",
            "sourcepost",
        ];
        let open: Vec<Autocommand> = self
            .autocommands
            .iter()
            .filter(|a| !DONE.contains(&a.event.as_str()))
            .cloned()
            .collect();
        for one in open {
            let why: Why = format!("when {} happens", one.event).into();
            let otherwise: Why = format!("before {} happens", one.event).into();
            let _ = self.fork(&[why, otherwise], &mut |this, side| match side {
                0 => this.act(&one, ""),
                _ => Ok(()),
            });
        }
    }
    pub(super) fn autocommand(&mut self, command: &Command, place: Place) {
        let words = command.given.words();
        let mut at = 0;
        let word = |at: usize| words.get(at).map(Line::text).unwrap_or_default();
        let mut group = self.augroup.clone();
        if self.augroups.contains(&word(at)) {
            group = word(at);
            at += 1;
        }
        let events: Vec<String> = word(at)
            .split(',')
            .map(str::to_ascii_lowercase)
            .filter(|e| !e.is_empty())
            .collect();
        let pattern = word(at + 1);
        let patterns: Vec<String> = pattern
            .split(',')
            .map(str::to_owned)
            .filter(|p| !p.is_empty())
            .collect();
        if command.bang {
            self.forget(&group, &events, &patterns);
        }
        at += 2;
        let mut nested = false;
        while matches!(word(at).as_str(), "nested" | "++nested" | "++once") {
            nested |= word(at).contains("nested");
            at += 1;
        }
        let Some(start) = words.get(at).and_then(|w| w.map.first()) else {
            return;
        };
        let behind = command
            .given
            .map
            .iter()
            .position(|m| m == start)
            .unwrap_or(0);
        let text = Rc::new(self.to_text(&command.given.behind(behind), place.ground));
        for event in events {
            self.autocommands.push(Autocommand {
                event,
                patterns: patterns.clone(),
                group: group.clone(),
                action: Action::Commands(Rc::clone(&text), place.ground.clone(), place.script),
                nested,
                why: self.whys.last().cloned(),
            });
        }
    }

    /// Takes back what waits for events.
    pub(super) fn forget(&mut self, group: &str, events: &[String], patterns: &[String]) {
        // What may be taken back or not stays.
        if !self.whys.is_empty() {
            return;
        }
        let any = events.is_empty() || events.iter().any(|e| e == "*");
        self.autocommands.retain(|a| {
            let event = any || events.contains(&a.event);
            let pattern = patterns.is_empty() || patterns.iter().any(|p| a.patterns.contains(p));
            !(a.group == group && event && pattern)
        });
    }
}
