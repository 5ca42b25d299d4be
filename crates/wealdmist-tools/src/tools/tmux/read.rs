//! What the options come to, as readings: roles of colors, the chain of 24-bit color, what is drawn on
//! what.

use std::cell::RefCell;
use std::collections::HashMap;
use std::path::Path;

use wealdmist_core::color::Rounding;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::property::Property;
use wealdmist_core::reading::{Drawn, Paint, Place, Reading, Standing, ToolReport, Value};
use wealdmist_core::role::{RoleId, Usage, lookup};

use super::eval::Evaluation;
use super::format::{self, Context};
use super::style::{self, Found, Style, When, styles};
use super::{SINGLE, STYLED, TMUX, vocabulary};
use crate::access::{Access, wildcard};
use crate::evaluated::state::{Alternative, Why};
use crate::evaluated::text::Text;
use crate::glyphs;
use crate::shared::Includer;
use crate::tools::says_full_color;
use crate::{Facts, Outer};

/// A style that was read, for working out what is drawn on what.
struct Block {
    option: &'static str,
    text: Option<usize>,
    ground: Option<usize>,
    when: When,
    part: usize,
}

pub(super) struct Reader<'a> {
    access: &'a dyn Access,
    run: Evaluation<'a>,
    report: ToolReport,
    blocks: Vec<Block>,
}

impl<'a> Reader<'a> {
    pub(super) fn new(access: &'a dyn Access) -> Self {
        Self {
            access,
            run: Evaluation::new(access, ToolReport::new(TMUX)),
            report: ToolReport::new(TMUX),
            blocks: Vec::new(),
        }
    }

    pub(super) fn file(&mut self, path: &Path) {
        self.run.file(path, &[], false);
    }

    pub(super) fn finish(mut self, facts: &Facts) -> ToolReport {
        self.run.end();
        self.report = std::mem::replace(&mut self.run.report, ToolReport::new(TMUX));
        if !self.report.files.is_empty() {
            for known in STYLED {
                self.option(known);
            }
            for (option, role) in SINGLE {
                self.single(option, role);
            }
            self.override_bar();
        }
        let mut terms: Vec<&str> = Vec::new();
        for outer in &facts.terminals {
            if !terms.contains(&outer.term.as_str()) {
                terms.push(&outer.term);
                self.depth_reading(outer);
            }
        }
        self.report.drawn = self.drawn();
        self.report.stated = self.stated();
        let mut report = self.report;
        report.rounding = Rounding::Cube;
        glyphs::collect(&mut report, &["#"], |_| Syntax::Shell, |_| false);
        report
    }

    fn context<T>(&self, with: impl FnOnce(&Context) -> T) -> T {
        with(&Context {
            access: self.access,
            state: &self.run.state,
            default: &vocabulary::default,
            file: "",
        })
    }

    /// Everything an option may be, with the values of the person's own options put in.
    fn values(&self, option: &'static str) -> Vec<(Text, Standing)> {
        let mut out = Vec::new();
        for Alternative { value, why } in self.run.state.get(option) {
            let standing = match (value, why) {
                (_, Some(why)) => Standing::Conditional(Why::clone(why)),
                (Some(_), None) => Standing::Certain,
                (None, None) => Standing::Default,
            };
            let default = || Text::nowhere(vocabulary::default(option).unwrap_or_default());
            let text = value.clone().unwrap_or_else(default);
            for (text, why) in self.inlined(&text) {
                let standing = match why {
                    Some(why) if standing == Standing::Certain => Standing::Conditional(why),
                    _ => standing.clone(),
                };
                out.push((text, standing));
            }
        }
        out
    }

    /// A text with what `#{@…}` stands for, for each of the values that it may have.
    fn inlined(&self, text: &Text) -> Vec<(Text, Option<Why>)> {
        const MOST: usize = 8;
        let bytes = &text.bytes;
        let mut out = vec![(Text::default(), None)];
        let mut at = 0;
        while let Some(found) = memchr::memmem::find(&bytes[at..], b"#{").map(|i| at + i) {
            let inner = found + 2;
            let (start, end) = (
                inner + 2 * usize::from(bytes[inner..].starts_with(b"E:")),
                format::skip(bytes, inner, b"}"),
            );
            let name = bytes.get(start..end).filter(|n| n.starts_with(b"@"));
            let name = name.and_then(|n| std::str::from_utf8(n).ok());
            let Some(name) = name.filter(|n| !n.contains(['#', ',', ':'])) else {
                for one in &mut out {
                    one.0.push(&text.part(at..inner));
                }
                at = inner;
                continue;
            };
            let before = text.part(at..found);
            let all = self.user_option(name);
            let mut next = Vec::new();
            for (so_far, why) in &out {
                for alternative in &all {
                    let mut text = so_far.clone();
                    text.push(&before);
                    if let Some(value) = &alternative.value {
                        text.push(value);
                    }
                    let why = why.clone().or_else(|| alternative.why.clone());
                    next.push((text, why));
                }
            }
            next.truncate(MOST);
            out = next;
            at = (end + 1).min(bytes.len());
        }
        for one in &mut out {
            one.0.push(&text.part(at..bytes.len()));
        }
        out
    }

    /// What an option of the person's own may be, in whatever scope it is found first.
    fn user_option(&self, name: &str) -> Vec<Alternative> {
        let scopes = [format!("-s {name}"), format!("-w {name}"), name.to_owned()];
        let set = |key: &&String| self.run.state.sure(key) != Some(None);
        let key = scopes.iter().find(set).unwrap_or(&scopes[2]);
        self.run.state.get(key).to_vec()
    }

    /// The place of a part of a value; whether it can be changed there.
    fn place(&self, text: &Text, part: std::ops::Range<usize>) -> (Place, Vec<Includer>, bool) {
        let file = |visit: usize| &self.run.visits[visit].file.bytes[..];
        let source = text.source(part.clone());
        let source = source.filter(|_| text.is_spelled(part.clone(), file));
        let editable = source.is_some();
        let nearest = || text.nearest(part.start).map(|(v, at)| (v, at..at));
        match source.or_else(nearest) {
            Some((visit, span)) => {
                let visit = &self.run.visits[visit];
                let place = Place::new(&visit.file, span);
                (place, visit.chain.clone(), editable)
            }
            None => {
                let main = self.report.files.first().map(|f| f.path.as_path());
                let place = Place::nowhere_in(main.unwrap_or(Path::new("")));
                (place, Vec::new(), false)
            }
        }
    }

    /// Adds a reading; its position.
    fn push(
        &mut self,
        role: RoleId,
        option: &str,
        text: &Text,
        found: &Found,
        standing: &Standing,
    ) -> usize {
        let (place, chain, editable) = self.place(text, found.range.clone());
        let mut standing = standing.clone();
        if let Value::Text(word) = &found.value {
            standing = Standing::Unread(format!("it depends on {word}").into());
        }
        self.report.readings.push(Reading {
            role,
            key: option.to_owned(),
            value: found.value.clone(),
            place,
            chain,
            effective: true,
            editable: editable && standing == Standing::Certain,
            standing,
            asked: None,
        });
        self.report.readings.len() - 1
    }

    fn option(&mut self, known: &(&'static str, &'static str, &'static str)) {
        let (option, text_role, ground_role) = *known;
        let is_format = !option.ends_with("-style");
        for (text, standing) in self.values(option) {
            let standing = match self.letters_mistaken(option, &text) {
                Some(why) if standing == Standing::Certain => Standing::Unread(why),
                _ => standing,
            };
            let knows = |condition: &[u8]| {
                let mut format = Text::nowhere("#{?");
                format.push(&Text::nowhere(&String::from_utf8_lossy(condition)));
                format.push(&Text::nowhere(",1,0}"));
                let worked = self.context(|c| c.expand(&format)).ok();
                worked.map(|t| format::is_true(&t))
            };
            let mut all = styles(&text.bytes, is_format, &knows);
            if is_format {
                // The ground of the option itself is nothing that the format says.
                for style in &mut all {
                    let own = |f: &Found| f.value != Value::Default;
                    style.ground = style.ground.take().filter(own);
                    style.text = style.text.take().filter(own);
                }
            }
            // What is seen gives the option its roles; what only separates does not.
            let usual = |s: &&Style| s.when == When::Always;
            let any_seen = all.iter().filter(usual).any(|s| s.seen);
            for (part, style) in all.iter().enumerate() {
                let main = !is_format || style.seen || !any_seen;
                let mut block = Block {
                    option,
                    text: None,
                    ground: None,
                    when: style.when,
                    part,
                };
                for (is_text, found) in [(true, &style.text), (false, &style.ground)] {
                    let Some(found) = found else { continue };
                    let base = if is_text { text_role } else { ground_role };
                    let role = self.role_for(option, base, is_text, style.when, main, found, part);
                    let index = self.push(role, option, &text, found, &standing);
                    match is_text {
                        true => block.text = Some(index),
                        false => block.ground = Some(index),
                    }
                }
                self.blocks.push(block);
            }
        }
    }

    /// Where a style has a format in it, the whole of it is one: a color such as `#F0F0F0` then begins
    /// with what stands for something else, and the style is none any more.
    fn letters_mistaken(&self, option: &str, text: &Text) -> Option<Why> {
        let is_style = option.ends_with("-style");
        let whole = self.run.state.get(option).iter();
        let mut written = whole.filter_map(|a| a.value.as_ref());
        let has_format = written.any(|t| memchr::memmem::find(&t.bytes, b"#{").is_some());
        let letter = |pair: &&[u8]| pair[0] == b'#' && b"DFHIPSTW".contains(&pair[1]);
        let found = text.bytes.windows(2).find(letter)?;
        let letter = char::from(found[1]);
        let why = format!("#{letter} stands for something else where a format is");
        (is_style && has_format).then(|| why.into())
    }

    fn single(&mut self, option: &'static str, base: &'static str) {
        for (text, standing) in self.values(option) {
            let Some(value) = style::color(&text.lossy()) else {
                continue;
            };
            // The bar's own style counts where these two say nothing.
            let silent = ["default", "none"].contains(&text.lossy().as_str());
            if silent && option.starts_with("status-") {
                continue;
            }
            let range = 0..text.bytes.len();
            let found = Found { value, range };
            let is_text = !RoleId::known(base).is_ground();
            let shares = self.report.effective(&RoleId::known(base));
            let other = shares.is_some_and(|r| r.value != found.value && r.key != option);
            let overrides = option.starts_with("status-");
            let role = match other && !overrides {
                true => own_role(option, None, is_text),
                false => RoleId::known(base),
            };
            self.push(role, option, &text, &found, &standing);
        }
    }

    /// The bar's own colors are hidden by those of two older options.
    fn override_bar(&mut self) {
        for (option, role) in [("status-fg", "bar.text"), ("status-bg", "bar.ground")] {
            let sure = |r: &Reading| r.key == option && r.standing == Standing::Certain;
            if self.report.readings.iter().any(sure) {
                for reading in &mut self.report.readings {
                    if reading.key == "status-style" && reading.role.as_str() == role {
                        reading.effective = false;
                    }
                }
            }
        }
    }

    /// The role of a color in an option: the option's own for its first style and for equal
    /// colors, one for the pressed prefix, and roles of their own for what is different.
    #[allow(clippy::too_many_arguments)]
    fn role_for(
        &self,
        option: &'static str,
        base: &'static str,
        is_text: bool,
        when: When,
        main: bool,
        found: &Found,
        part: usize,
    ) -> RoleId {
        match when {
            When::Prefix if is_text => return RoleId::known("bar.prefix.text"),
            When::Prefix => return RoleId::known("bar.prefix.ground"),
            When::Sometimes => return own_role(option, Some(part), is_text),
            When::Always => {}
        }
        let role = RoleId::known(base);
        let mut earlier = self.report.readings.iter();
        let earlier = earlier.find(|r| r.effective && r.role == role && r.is_sure());
        match earlier {
            Some(earlier) if earlier.value == found.value => role,
            // The default of another option says nothing about this one.
            Some(earlier) if earlier.key == option => own_role(option, Some(part), is_text),
            Some(_) => {
                let own = own_role(option, None, is_text);
                let mut there = self.report.readings.iter().filter(|r| r.effective);
                match there.find(|r| r.role == own) {
                    None if main => own,
                    Some(same) if same.value == found.value => own,
                    _ => own_role(option, Some(part), is_text),
                }
            }
            None if main => role,
            None => own_role(option, Some(part), is_text),
        }
    }

    /// Walks the chain from the terminal: does a program inside still get 24-bit colors?
    fn depth_reading(&mut self, outer: &Outer) {
        let Some(main) = self.report.files.iter().find(|f| f.included_from.is_none()) else {
            return;
        };
        let main = main.path.clone();
        let by_itself = says_full_color(&outer.term);
        let says = |alternative: &&Alternative| {
            let text = alternative
                .value
                .as_ref()
                .map(Text::lossy)
                .unwrap_or_default();
            let mut parts = text.split(':');
            let pattern = parts.next().unwrap_or_default();
            wildcard(pattern, &outer.term) && parts.any(|p| matches!(p, "RGB" | "rgb" | "Tc"))
        };
        let lists = ["terminal-features", "terminal-overrides"];
        let entries = || lists.iter().flat_map(|list| self.run.state.list(list));
        let stated = entries()
            .filter(says)
            .min_by_key(|a| a.why.is_some())
            .cloned();
        let (value, text, why) = match &stated {
            Some(Alternative { value, why }) => ("24-bit", value.clone(), why.clone()),
            None => {
                let terminal = self.run.state.get("default-terminal");
                let value = if by_itself { "24-bit" } else { "256 colors" };
                (value, terminal.first().and_then(|a| a.value.clone()), None)
            }
        };
        let (place, chain) = match text.as_ref() {
            Some(text) => {
                let (place, chain, _) = self.place(text, 0..text.bytes.len());
                (place, chain)
            }
            None => (Place::nowhere_in(&main), Vec::new()),
        };
        let standing = match (why, stated.is_some()) {
            (Some(why), _) if !by_itself => Standing::Conditional(why),
            (_, true) => Standing::Certain,
            (_, false) => Standing::Default,
        };
        self.report.readings.push(Reading {
            role: RoleId::from(Property::Depth),
            key: format!("terminal-features for {}", outer.term),
            value: Value::Text(value.to_owned()),
            place,
            chain,
            effective: true,
            editable: stated.is_none(),
            standing,
            asked: None,
        });
    }

    fn drawn(&self) -> Vec<Drawn> {
        let report = &self.report;
        let effective = |index: Option<usize>| index.filter(|i| report.readings[*i].effective);
        let style_of = |option: &str, is_text: bool| {
            let blocks = self.blocks.iter().rev();
            let mut own = blocks.filter(|b| b.option == option && b.when == When::Always);
            own.find_map(|b| effective(if is_text { b.text } else { b.ground }))
        };
        let inherited = |option: &str, is_text: bool| -> Paint {
            // A part of the bar without a color of its own has its option's style, else the bar's.
            let styles: &[&str] = match option {
                "status-left" => &["status-left-style", "status-style"],
                "status-right" => &["status-right-style", "status-style"],
                "window-status-format" => &["window-status-style", "status-style"],
                "window-status-current-format" => &["window-status-current-style", "status-style"],
                o if o.starts_with("window-status") || o.starts_with("status-") => {
                    &["status-style"]
                }
                _ => &[],
            };
            let bar = |style: &str| {
                let older = if is_text { "status-fg" } else { "status-bg" };
                let mut all = report.readings.iter();
                let found = all.rposition(|r| r.effective && r.key == older);
                found.filter(|_| style == "status-style")
            };
            let own = styles.iter().filter(|s| **s != option);
            let found = own
                .clone()
                .find_map(|s| bar(s).or_else(|| style_of(s, is_text)));
            let default = match (styles.is_empty(), is_text) {
                (true, true) => "foreground",
                (true, false) => "background",
                (false, true) => "bar.text",
                (false, false) => "bar.ground",
            };
            let role = found.map_or_else(
                || RoleId::known(default),
                |i| report.readings[i].role.clone(),
            );
            Paint {
                role,
                reading: found,
            }
        };
        // It is the same for all parts of an option.
        let known: RefCell<HashMap<(&str, bool), Paint>> = RefCell::default();
        let inherit = |block: &Block, is_text: bool| -> Paint {
            let key = (block.option, is_text);
            let paint = || inherited(block.option, is_text);
            known.borrow_mut().entry(key).or_insert_with(paint).clone()
        };
        let mut out: Vec<Drawn> = Vec::new();
        for block in &self.blocks {
            let (text, ground) = (effective(block.text), effective(block.ground));
            if text.is_none() && ground.is_none() {
                continue;
            }
            let unread = |i: Option<usize>| {
                i.is_some_and(|i| matches!(report.readings[i].standing, Standing::Unread(_)))
            };
            if unread(text) || unread(ground) {
                continue;
            }
            let paint = |index: Option<usize>, is_text: bool| match index {
                Some(i) => Paint {
                    role: report.readings[i].role.clone(),
                    reading: Some(i),
                },
                None => inherit(block, is_text),
            };
            let (text, ground) = (paint(text, true), paint(ground, false));
            let known = lookup(&text.role);
            let border = block.option.contains("border");
            let usage = match known {
                Some(k) if border => k.usage,
                Some(k) if k.usage != Usage::Decoration => k.usage,
                _ if border => Usage::Decoration,
                _ => Usage::Body,
            };
            let what = match block.when {
                When::Prefix => format!("{}, prefix pressed", block.option),
                _ if block.part > 0 => format!("{}, part {}", block.option, block.part + 1),
                _ => block.option.to_owned(),
            };
            // A border stands between two panes, which may have grounds of their own.
            if border && block.ground.is_none() {
                for (option, beside) in PANE_STYLES {
                    if let Some(i) = style_of(option, false) {
                        out.push(Drawn {
                            what: format!("{what}, beside {beside}"),
                            text: text.clone(),
                            ground: paint(Some(i), false),
                            usage,
                            fade: 1.0,
                            fades_by: None,
                        });
                    }
                }
            }
            out.push(Drawn {
                what,
                text,
                ground,
                usage,
                fade: 1.0,
                fades_by: None,
            });
        }
        out
    }

    /// The options with styles that the files set, with what a running server must show for each.
    fn stated(&self) -> Vec<(String, bool, String)> {
        let of = |known: &(&'static str, &str, &str)| {
            let value = self.run.state.sure(known.0)??;
            let window = vocabulary::option(known.0)?.scope == vocabulary::Scope::Window;
            Some((known.0.to_owned(), window, value.lossy()))
        };
        STYLED.iter().filter_map(of).collect()
    }
}

/// A role of an option's own.
fn own_role(option: &str, part: Option<usize>, is_text: bool) -> RoleId {
    let end = if is_text { "text" } else { "ground" };
    RoleId::new(match part {
        Some(part) => format!("tmux.{option}.{}.{end}", part + 1),
        None => format!("tmux.{option}.{end}"),
    })
}

/// The options that give panes a ground of their own.
const PANE_STYLES: [(&str, &str); 2] = [
    ("window-style", "inactive panes"),
    ("window-active-style", "the active pane"),
];
