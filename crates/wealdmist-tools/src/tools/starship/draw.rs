//! What a format draws: its modules, their signs and styles, as pieces of a prompt.

use wealdmist_core::prompt::Style as Told;
use wealdmist_core::reading::{SourceFile, Value};

use super::format::{self, Node, Style};
use super::modules::{KNOWN, is_told, job};
use super::parts::{of_module, tells};
use super::pen::{Drawn, Pen, paint, repaint};
use super::read::{Config, Module};
use crate::evaluated::text::Text;
use crate::sourced::own::Piece;

/// The most ways in which something may have been drawn before.
const MOST: usize = 8;
/// The most cases of a style.
const CASES: usize = 32;
/// How much a format may draw before no more of it is followed.
const STEPS: usize = 10_000;

/// How deep formats may stand in one another.
const DEEPEST: usize = 16;

/// What draws a format.
pub struct Drawing<'a> {
    config: &'a mut Config,
    file: &'a SourceFile,
    /// What says colors, one behind the other, and before them the format itself.
    pub text: Text,
    /// The modules that are drawn where they are named.
    named: Vec<String>,
    /// The colors that what was drawn last may have; `None` where nothing was, or a line begins.
    before: Vec<Option<Pen>>,
    depth: usize,
    steps: usize,
}

/// The modules that formats name.
pub fn named(formats: &[&Text]) -> Vec<String> {
    fn all(nodes: &[Node], out: &mut Vec<String>) {
        for node in nodes {
            match node {
                Node::Variable(name) => out.push(name.clone()),
                Node::Group(inner, _) | Node::Maybe(inner) => all(inner, out),
                Node::Text(_) => {}
            }
        }
    }
    let mut out = Vec::new();
    for format in formats {
        all(&format::parse(format).unwrap_or_default(), &mut out);
    }
    out
}

impl<'a> Drawing<'a> {
    /// One of a format.
    pub fn new(
        config: &'a mut Config,
        file: &'a SourceFile,
        format: &Text,
        named: Vec<String>,
    ) -> Self {
        Self {
            config,
            file,
            text: format.clone(),
            named,
            before: vec![None],
            depth: 0,
            steps: 0,
        }
    }

    /// What the format draws.
    pub fn pieces(&mut self) -> Drawn {
        let format = self.text.clone();
        let mut out = Drawn::default();
        if let Some(nodes) = self.parsed(&format) {
            self.top(&nodes, &Pen::default(), &mut out);
        }
        if self.steps >= STEPS {
            self.config.tell_at(
                self.file,
                &format,
                "it draws too much to be followed; what comes after that is not read".to_owned(),
                "name each module once",
            );
        }
        out
    }

    /// Whether more can be followed.
    fn goes_on(&mut self) -> bool {
        self.steps += 1;
        self.steps < STEPS
    }

    fn parsed(&mut self, format: &Text) -> Option<Vec<Node>> {
        match format::parse(format) {
            Ok(nodes) => Some(nodes),
            Err(at) => {
                let place = format.part(at.min(format.bytes.len())..format.bytes.len());
                let place = if place.bytes.is_empty() {
                    format
                } else {
                    &place
                };
                self.config.tell_at(
                    self.file,
                    place,
                    "this format cannot be read from here on: nothing of it is drawn".to_owned(),
                    "write [text](style), $module or (…), and \\ before signs that are text",
                );
                None
            }
        }
    }

    /// What a format draws that names modules.
    fn top(&mut self, nodes: &[Node], pen: &Pen, out: &mut Drawn) {
        if self.depth >= DEEPEST {
            return;
        }
        self.depth += 1;
        for node in nodes {
            if !self.goes_on() {
                break;
            }
            match node {
                Node::Text(text) => self.say(text, pen, out),
                Node::Variable(name) => self.module_or_all(name, pen, out),
                Node::Maybe(inner) if !names_any(inner, &|name| self.is_drawn(name)) => {}
                Node::Maybe(inner) => {
                    let mut drawn = Drawn::default();
                    let earlier = self.before.clone();
                    self.top(inner, pen, &mut drawn);
                    self.perhaps(earlier);
                    out.held(drawn);
                }
                Node::Group(inner, style) => {
                    let new = self.style(style, None).pop().and_then(|(_, pen)| pen);
                    let new = new.unwrap_or_default();
                    out.paint(pen, &new);
                    if inner.is_empty() {
                        self.draw(&new, out, |_| {});
                    }
                    self.top(inner, &new, out);
                    out.paint(&new, pen);
                }
            }
        }
        self.depth -= 1;
    }

    fn say(&mut self, text: &Text, pen: &Pen, out: &mut Drawn) {
        self.draw(pen, out, |out| out.say(&text.lossy()));
    }

    /// Draws something in a pen, which may depend on what was drawn before.
    fn draw(&mut self, pen: &Pen, out: &mut Drawn, draws: impl FnOnce(&mut Drawn)) {
        if !pen.depends() {
            draws(out);
            self.before = vec![Some(pen.clone())];
            return;
        }
        let mut ways: Vec<Pen> = Vec::new();
        for before in &self.before {
            let way = pen.behind(before.as_ref());
            if !ways.contains(&way) {
                ways.push(way);
            }
        }
        let Some(last) = ways.last() else { return };
        let painted = |way: &Pen| {
            let mut pieces = Vec::new();
            paint(&mut pieces, pen, way);
            (None, pieces)
        };
        match ways.len() {
            1 => paint(&mut out.read, pen, last),
            _ => out
                .read
                .push(Piece::Either(ways.iter().map(painted).collect())),
        }
        paint(&mut out.design, pen, last);
        draws(out);
        out.paint(last, pen);
        if ways.len() > 1 {
            // What was painted in one of the ways is so no more.
            repaint(&mut out.read, pen);
        }
        self.before = ways.into_iter().map(Some).collect();
    }

    /// What was drawn last may be that, or what was drawn before it.
    fn perhaps(&mut self, earlier: Vec<Option<Pen>>) {
        for pen in earlier {
            if !self.before.contains(&pen) && self.before.len() < MOST {
                self.before.insert(0, pen);
            }
        }
    }

    fn module_or_all(&mut self, name: &str, pen: &Pen, out: &mut Drawn) {
        match name {
            "all" => {
                for name in &KNOWN.all {
                    let is_own = matches!(*name, "custom" | "env_var");
                    let spoken = self.config.speaks_of(name) || is_own || is_told(name);
                    let spoken = spoken || *name == "line_break";
                    if spoken && !self.named.iter().any(|n| n == name) {
                        self.module_or_all(name, pen, out);
                    }
                }
            }
            "custom" | "env_var" => {
                if name == "env_var" && self.config.speaks_of(name) {
                    self.module(name, pen, out);
                }
                for name in self.others(name) {
                    self.module(&name, pen, out);
                }
            }
            _ => self.module(name, pen, out),
        }
    }

    /// The modules of the person's own of a kind that are named nowhere.
    fn others(&self, kind: &str) -> Vec<String> {
        let is_it = |name: &&String| name.split('.').next() == Some(kind);
        let all = self.config.own.iter().filter(is_it);
        all.filter(|n| !self.named.contains(n)).cloned().collect()
    }

    /// Whether there is a module, and it is not switched off.
    fn is_drawn(&self, name: &str) -> bool {
        let others = || !self.others(name).is_empty() || self.config.speaks_of(name);
        let module = self.config.module(name);
        match name {
            "all" => true,
            "custom" | "env_var" => others(),
            _ => module.is_some_and(|module| {
                let format = module.text("format").unwrap_or_default();
                !module.is("disabled") && format::parse(&format).is_ok()
            }),
        }
    }

    fn module(&mut self, name: &str, pen: &Pen, out: &mut Drawn) {
        if !self.goes_on() {
            return;
        }
        let Some(module) = self.config.module(name) else {
            return;
        };
        if module.is("disabled") {
            return;
        }
        match name {
            "line_break" => {
                out.paint(pen, &Pen::default());
                out.say("\n");
                out.paint(&Pen::default(), pen);
                self.before = vec![None];
                return;
            }
            "fill" => {
                let sign = module.text("symbol").unwrap_or_default();
                let style = module.text("style").unwrap_or_default();
                let style = self.resolved(&style).unwrap_or_else(|| pen.clone());
                out.paint_for(pen, &style, job(name));
                self.draw(&style, out, |out| out.push(Piece::Stretch(sign.lossy())));
                out.paint(&style, pen);
                self.before = vec![None];
                return;
            }
            "vcs" => {
                let format = module.text("git_modules").unwrap_or_default();
                if let Some(nodes) = self.parsed(&format) {
                    self.top(&nodes, pen, out);
                }
                return;
            }
            _ => {}
        }
        // In a repository the folder may have another format.
        let formats: &[&str] = match module.says("repo_root_style") {
            true => &["format", "repo_root_format"],
            false => &["format"],
        };
        let mut ways: Vec<Drawn> = Vec::new();
        let earlier = self.before.clone();
        let mut after = Vec::new();
        for key in formats {
            let mut drawn = Drawn::default();
            self.before.clone_from(&earlier);
            let format = module.text(key).unwrap_or_default();
            if let Some(nodes) = self.parsed(&format) {
                let inside = Inside {
                    name,
                    module: &module,
                    outer: pen,
                };
                self.inside(&nodes, &inside, pen, &mut drawn);
            }
            ways.push(drawn);
            after.append(&mut self.before);
        }
        self.before = Vec::new();
        self.perhaps(after);
        if !matches!(name, "directory" | "character") {
            self.perhaps(earlier);
        }
        let design = std::mem::take(&mut ways[0].design);
        out.design.append(&mut of_module(&module, name, design));
        match ways.as_mut_slice() {
            [only] => out.read.append(&mut only.read),
            _ => {
                let ways = ways.into_iter().map(|way| (None, way.read));
                out.read.push(Piece::Either(ways.collect()));
            }
        }
    }

    /// What stands in a module's format.
    fn inside(&mut self, nodes: &[Node], of: &Inside<'_>, pen: &Pen, out: &mut Drawn) {
        for node in nodes {
            if !self.goes_on() {
                break;
            }
            match node {
                Node::Text(text) => self.say(text, pen, out),
                Node::Maybe(inner) if !names_any(inner, &stands) => {}
                Node::Maybe(inner) => {
                    let mut drawn = Drawn::default();
                    let earlier = self.before.clone();
                    self.inside(inner, of, pen, &mut drawn);
                    self.perhaps(earlier);
                    out.held(drawn);
                }
                Node::Variable(name) => self.variable(name, of, pen, out),
                Node::Group(inner, style) => {
                    let ways = self.style(style, Some(of));
                    let job = match () {
                        () if of.name == "directory"
                            && names_any(inner, &|name| name == "read_only") =>
                        {
                            Some("prompt.failure")
                        }
                        // A text is no part of what the module tells.
                        () if !names_any(inner, &|_| true) => None,
                        () => job(&of.module.kind),
                    };
                    let mut all: Vec<Drawn> = Vec::new();
                    let mut painted = Vec::new();
                    let (earlier, mut after) = (self.before.clone(), Vec::new());
                    let mut last = of.outer.clone();
                    for (tag, style) in ways {
                        self.before.clone_from(&earlier);
                        let new = style.unwrap_or_else(|| of.outer.clone());
                        let mut drawn = Drawn::default();
                        drawn.paint_for(pen, &new, tag.or(job));
                        painted.push((tag.or(job), std::mem::take(&mut drawn.design)));
                        if inner.is_empty() {
                            self.draw(&new, &mut drawn, |_| {});
                        }
                        self.inside(inner, of, &new, &mut drawn);
                        paint(&mut drawn.read, &new, pen);
                        after.append(&mut self.before);
                        all.push(drawn);
                        last = new;
                    }
                    self.before = Vec::new();
                    self.perhaps(after);
                    // A design has what is drawn once, in the colors of each case.
                    match painted.as_mut_slice() {
                        [(_, only)] => out.design.append(only),
                        _ => out.design.push(Piece::Either(painted)),
                    }
                    if let Some(drawn) = all.last_mut() {
                        out.design.append(&mut drawn.design);
                    }
                    match all.as_mut_slice() {
                        [only] => {
                            paint(&mut out.design, &last, pen);
                            out.read.append(&mut only.read);
                        }
                        _ => {
                            repaint(&mut out.design, pen);
                            let ways = all.into_iter().map(|drawn| (None, drawn.read));
                            out.read.push(Piece::Either(ways.collect()));
                        }
                    }
                }
            }
        }
    }

    /// What a name in a module's format stands for.
    fn variable(&mut self, name: &str, of: &Inside<'_>, pen: &Pen, out: &mut Drawn) {
        let module = of.module;
        let signs: &[(&str, Option<&'static str>)] = match (module.kind.as_str(), name) {
            ("character", "symbol") => {
                let all = [
                    ("success_symbol", None),
                    ("error_symbol", Some("prompt.failure")),
                    ("vimcmd_symbol", Some("prompt.mode")),
                    ("vimcmd_visual_symbol", Some("prompt.mode")),
                    ("vimcmd_replace_symbol", Some("prompt.mode")),
                    ("vimcmd_replace_one_symbol", Some("prompt.mode")),
                ];
                // Of the modes only what the person says: the program has one for each.
                let said = |key: &str| module.says(key) || !key.starts_with("vimcmd");
                let ways = all.into_iter().filter(|(key, _)| said(key));
                let ways: Vec<_> = ways.collect();
                return self.either(&ways, of, pen, out);
            }
            ("battery", "symbol") => &[
                ("full_symbol", None),
                ("charging_symbol", None),
                ("discharging_symbol", None),
                ("unknown_symbol", None),
                ("empty_symbol", None),
            ],
            ("shell", "indicator") => {
                let keys = KNOWN.modules.get("shell");
                let keys = keys.into_iter().flat_map(|keys| keys.keys());
                let mut ways: Vec<_> = keys
                    .filter(|key| key.ends_with("_indicator") && module.says(key))
                    .map(|key| (*key, None))
                    .collect();
                ways.sort_unstable();
                self.draw(pen, out, |out| out.push(Piece::Unknown("shell".to_owned())));
                return self.either(&ways, of, pen, out);
            }
            ("status", "symbol") => &[
                ("symbol", None),
                ("not_executable_symbol", None),
                ("not_found_symbol", None),
                ("sigint_symbol", None),
                ("signal_symbol", None),
                ("success_symbol", None),
            ],
            _ => &[],
        };
        if !signs.is_empty() {
            // Of what depends on the case the program's own signs have no colors.
            let ways: Vec<_> = signs
                .iter()
                .enumerate()
                .filter(|(i, (key, _))| *i == 0 || module.says(key))
                .map(|(_, way)| *way)
                .collect();
            return self.either(&ways, of, pen, out);
        }
        if self.changes(name, of, pen, out) {
            return;
        }
        if let Some(piece) = tells(of, name) {
            self.draw(pen, out, |out| out.push(piece));
            return;
        }
        if name.ends_with("symbol") {
            if let Some(sign) = module.text(name) {
                self.meta(&sign, of, pen, out);
            }
            return;
        }
        let earlier = self.before.clone();
        self.draw(pen, out, |out| out.push(Piece::Unknown(of.name.to_owned())));
        self.perhaps(earlier);
    }

    /// What stands for changes of a repository: signs, each a format of its own.
    fn changes(&mut self, name: &str, of: &Inside<'_>, pen: &Pen, out: &mut Drawn) -> bool {
        const STATUS: [&str; 8] = [
            "conflicted",
            "stashed",
            "deleted",
            "renamed",
            "modified",
            "typechanged",
            "staged",
            "untracked",
        ];
        const DISTANCE: [&str; 4] = ["ahead", "behind", "diverged", "up_to_date"];
        if of.module.kind != "git_status" {
            return false;
        }
        let one = [name];
        let keys: &[&str] = match name {
            "all_status" => &STATUS,
            "ahead_behind" => &DISTANCE,
            _ if STATUS.contains(&name) || DISTANCE.contains(&name) => &one,
            _ => return false,
        };
        let earlier = self.before.clone();
        let piece = Piece::tells("changes", |part| part.tells.style = Told::Each);
        self.draw(pen, out, |out| out.push(piece));
        // Signs that the person gives may have colors of their own, else those of what they stand in.
        let of = &Inside { outer: pen, ..*of };
        for key in keys.iter().filter(|key| of.module.says(key)) {
            if let Some(sign) = of.module.text(key) {
                let mut drawn = Drawn::default();
                let so_far = self.before.clone();
                self.perhaps(earlier.clone());
                self.meta(&sign, of, pen, &mut drawn);
                self.perhaps(so_far);
                if drawn.read.iter().any(|p| matches!(p, Piece::Either(_))) {
                    let ways = vec![(None, Vec::new()), (None, drawn.read)];
                    out.read.push(Piece::Either(ways));
                }
            }
        }
        self.perhaps(earlier);
        true
    }

    fn either(
        &mut self,
        keys: &[(&str, Option<&'static str>)],
        of: &Inside<'_>,
        pen: &Pen,
        out: &mut Drawn,
    ) {
        let (mut ways, mut design) = (Vec::new(), Vec::new());
        let earlier = self.before.clone();
        let mut after = Vec::new();
        for (key, tag) in keys {
            let mut drawn = Drawn::default();
            self.before.clone_from(&earlier);
            if let Some(sign) = of.module.text(key) {
                let job = tag.or_else(|| job(&of.module.kind));
                self.meta_for(&sign, of, pen, job, &mut drawn);
            }
            ways.push((*tag, drawn.read));
            design.push((*tag, drawn.design));
            after.append(&mut self.before);
        }
        self.before = Vec::new();
        self.perhaps(after);
        match ways.as_mut_slice() {
            [] => {}
            [(_, only)] => {
                out.read.append(only);
                out.design.append(&mut design[0].1);
            }
            _ => {
                out.read.push(Piece::Either(ways));
                out.design.push(Piece::Either(design));
            }
        }
    }

    fn meta(&mut self, sign: &Text, of: &Inside<'_>, pen: &Pen, out: &mut Drawn) {
        self.meta_for(sign, of, pen, job(&of.module.kind), out);
    }

    /// A text that stands for a name and is a format itself.
    fn meta_for(
        &mut self,
        sign: &Text,
        of: &Inside<'_>,
        pen: &Pen,
        job: Option<&'static str>,
        out: &mut Drawn,
    ) {
        let Some(nodes) = self.parsed(sign) else {
            return;
        };
        self.signs(&nodes, of, pen, job, out);
    }

    fn signs(
        &mut self,
        nodes: &[Node],
        of: &Inside<'_>,
        pen: &Pen,
        job: Option<&'static str>,
        out: &mut Drawn,
    ) {
        for node in nodes {
            if !self.goes_on() {
                break;
            }
            match node {
                Node::Text(text) => self.say(text, pen, out),
                Node::Variable(_) => {}
                Node::Maybe(inner) if !names_any(inner, &stands) => {}
                Node::Maybe(inner) => self.signs(inner, of, pen, job, out),
                Node::Group(inner, style) => {
                    let new = self.style(style, Some(of)).pop().and_then(|(_, pen)| pen);
                    let new = new.unwrap_or_else(|| of.outer.clone());
                    out.paint_for(pen, &new, job);
                    if inner.is_empty() {
                        self.draw(&new, out, |_| {});
                    }
                    self.signs(inner, of, &new, job, out);
                    out.paint(&new, pen);
                }
            }
        }
    }

    /// What a style comes to, in each case there is.
    fn style(
        &mut self,
        nodes: &[Node],
        of: Option<&Inside<'_>>,
    ) -> Vec<(Option<&'static str>, Option<Pen>)> {
        let mut ways: Vec<(Option<&'static str>, Text)> = vec![(None, Text::default())];
        for node in nodes {
            let said: Vec<(Option<&'static str>, Text)> = match node {
                Node::Text(text) => vec![(None, text.clone())],
                Node::Variable(name) => of.map(|of| of.styles(name)).unwrap_or_default(),
                _ => Vec::new(),
            };
            if said.is_empty() {
                continue;
            }
            let mut next = Vec::new();
            for (tag, so_far) in &ways {
                for (more, text) in &said {
                    let mut all = so_far.clone();
                    all.push(text);
                    next.push((tag.or(*more), all));
                }
            }
            ways = next;
            ways.truncate(CASES);
        }
        let resolved = |(tag, text): (Option<&'static str>, Text)| (tag, self.resolved(&text));
        ways.into_iter().map(resolved).collect()
    }

    fn resolved(&mut self, text: &Text) -> Option<Pen> {
        let style = match format::style(text, &|name| self.config.color(name)) {
            Ok(style) => style?,
            Err(wrong) => {
                self.config.tell_at(
                    self.file,
                    &wrong.0,
                    format!(
                        "'{}' is no word of a style: nothing of the style is drawn",
                        wrong.0.lossy()
                    ),
                    "write a color as #rrggbb, a number or a name, or an attribute",
                );
                return None;
            }
        };
        Some(self.pen(style))
    }

    fn pen(&mut self, style: Style) -> Pen {
        let mut ink = |said: Option<(Value, Text)>| {
            let (value, source) = said?;
            let from = self.text.bytes.len();
            self.text.push(&source);
            Some((value, from..self.text.bytes.len()))
        };
        Pen {
            text: ink(style.text),
            ground: ink(style.ground),
            text_before: style.text_before,
            ground_before: style.ground_before,
        }
    }
}

/// A module whose format is drawn.
pub struct Inside<'a> {
    pub name: &'a str,
    pub module: &'a Module,
    /// What has no style has that around the module.
    outer: &'a Pen,
}

impl Inside<'_> {
    /// What a name in a style stands for, in each case there is.
    fn styles(&self, name: &str) -> Vec<(Option<&'static str>, Text)> {
        let module = self.module;
        let all = |keys: &[(&str, Option<&'static str>)]| -> Vec<(Option<&'static str>, Text)> {
            let of = |(key, tag): &(&str, Option<&'static str>)| Some((*tag, module.text(key)?));
            keys.iter().filter_map(of).collect()
        };
        match (module.kind.as_str(), name) {
            ("username", "style") => all(&[
                ("style_root", Some("prompt.root")),
                ("style_user", Some("prompt.user")),
            ]),
            ("battery", "style") => {
                let of = |i: usize| Some((None, module.text(&format!("display/{i}/style"))?));
                let said: Vec<_> = (0..).map_while(of).collect();
                match said.is_empty() {
                    true => vec![(None, Text::nowhere("red bold"))],
                    false => said,
                }
            }
            ("golang" | "nodejs", "style") if module.says("not_capable_style") => {
                all(&[("style", None), ("not_capable_style", None)])
            }
            ("directory", "repo_root_style" | "before_repo_root_style") => {
                let own = all(&[(name, None)]);
                match own.is_empty() {
                    true => all(&[("style", None)]),
                    false => own,
                }
            }
            _ if name.contains("style") => all(&[(name, None)]),
            _ => Vec::new(),
        }
    }
}

/// Whether a format names anything for which it is drawn in brackets.
fn names_any(nodes: &[Node], stands: &dyn Fn(&str) -> bool) -> bool {
    nodes.iter().any(|node| match node {
        Node::Variable(name) => stands(name),
        Node::Group(inner, _) | Node::Maybe(inner) => names_any(inner, stands),
        Node::Text(_) => false,
    })
}

/// Whether a name in a module's format stands for something that is told: signs are none.
fn stands(name: &str) -> bool {
    !name.ends_with("symbol") && !name.ends_with("indicator")
}
