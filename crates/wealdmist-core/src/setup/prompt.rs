//! Reading `[prompt]`.

use std::collections::BTreeMap;

use toml_edit::{Item, TableLike, Value};

use super::ShowUser;
use super::read::{Reader, span};
use crate::character::SymbolLevel;
use crate::limits;
use crate::prompt::{
    Design, KNOWN, Kind, Known, Line, Part, Past, Shape, Style, When, cells, place,
};
use crate::role::RoleId;
use crate::text::closest;

/// The keys of `[prompt]`.
const KEYS: [&str; 15] = [
    "lines", "user", "git", "folders", "line", "parts", "gap", "stretch", "joint", "open", "close",
    "blank", "tie", "past", "more",
];
/// The keys of a part.
const PART_KEYS: [&str; 28] = [
    "kind",
    "when",
    "sign",
    "sign-failed",
    "sign-root",
    "sign-command",
    "before",
    "after",
    "text",
    "text-failed",
    "text-root",
    "text-command",
    "ground",
    "gives-way",
    "folders",
    "within",
    "beginnings",
    "longest",
    "as",
    "above",
    "below",
    "twelve",
    "seconds",
    "version",
    "files",
    "asks",
    "variable",
    "says",
];
/// The ways a value may be written.
pub(super) const STYLES: [(&str, Style); 4] = [
    ("one", Style::One),
    ("each", Style::Each),
    ("counts", Style::Counts),
    ("lines", Style::Lines),
];

/// What may remain of a prompt.
pub(super) const PAST: [(&str, Past); 3] = [
    ("whole", Past::Whole),
    ("line", Past::Line),
    ("sign", Past::Sign),
];

impl Reader {
    pub(super) fn prompt(&mut self, root: &dyn TableLike) -> Design {
        let Some(table) = self.table(root, "prompt") else {
            return Design::default();
        };
        self.unknown(table, "[prompt]", &KEYS);
        let whole = |n: Option<f64>, other: u8| n.map_or(other, |n| n as u8);
        let lines = whole(self.number(table, "lines", (1.0, 2.0)), 2);
        let folders = whole(self.number(table, "folders", (0.0, 9.0)), 3);
        let git = self.flag(table, "git", true);
        let choices = [
            ("when-it-matters", ShowUser::WhenItMatters),
            ("always", ShowUser::Always),
            ("never", ShowUser::Never),
        ];
        let user = self.choice(table, "user", &choices).unwrap_or_default();
        let parts = self.prompt_parts(table);
        let mut design = match table.contains_key("line") {
            true => Design::of(self.prompt_lines(table, &parts)),
            false => Design::plain(lines == 2, user, git, folders),
        };
        if !table.contains_key("line") {
            for line in &mut design.lines {
                for part in line.left.iter_mut().chain(&mut line.right) {
                    if let Some(own) = parts.get(&part.name) {
                        part.clone_from(own);
                    }
                }
            }
        }
        if let Some(gap) = self.drawn(table, "gap") {
            design.gap = gap;
        }
        if let Some(text) = self.drawn(table, "stretch") {
            let mut characters = text.chars();
            match (characters.next(), characters.next()) {
                (Some(c), None) if cells(&text) == 1 => design.stretch = c,
                _ => self.error(
                    table.get("stretch").map_or(0..0, span),
                    "'stretch' has to be one character of one cell",
                    "such as \"·\" or \" \"",
                ),
            }
        }
        for (key, shape) in [
            ("joint", &mut design.joint),
            ("open", &mut design.open),
            ("close", &mut design.close),
        ] {
            if let Some(said) = self.choice(table, key, &Shape::ALL) {
                *shape = said;
            }
        }
        design.blank = self.flag(table, "blank", false);
        design.tie = self.flag(table, "tie", false);
        if let Some(more) = self.signs(table, "more", &design.more.clone()) {
            design.more = more;
        }
        design.past = self.choice(table, "past", &PAST).unwrap_or_default();
        design
    }

    /// A text that is drawn; blanks around it belong to it.
    fn drawn(&mut self, table: &dyn TableLike, key: &str) -> Option<String> {
        let text = self.string(table, key)?;
        if text.chars().count() > limits::NAME {
            let at = table.get(key).map_or(0..0, span);
            let message = format!("'{key}' has more than {} characters", limits::NAME);
            self.error(at, message, "write a shorter text");
            return None;
        }
        Some(text)
    }

    fn prompt_lines(&mut self, table: &dyn TableLike, parts: &BTreeMap<String, Part>) -> Vec<Line> {
        let mut out = Vec::new();
        let mut used: Vec<String> = Vec::new();
        for line in self.tables(table, "line", "[[prompt.line]]") {
            self.unknown(line, "[[prompt.line]]", &["left", "right"]);
            let mut side = |reader: &mut Self, key: &str| {
                let mut found = Vec::new();
                let Some(item) = line.get(key) else {
                    return found;
                };
                for (name, at) in reader.names(item, key) {
                    if used.contains(&name) {
                        reader.error(
                            at,
                            format!("the part '{name}' stands in the prompt twice"),
                            format!("give the second a name of its own: [prompt.parts.NAME] with kind = \"{name}\""),
                        );
                        continue;
                    }
                    match parts.get(&name).cloned().or_else(|| Part::named(&name)) {
                        Some(part) => found.push(part),
                        None => reader.no_such_part(&name, at),
                    }
                    used.push(name);
                }
                found
            };
            let left = side(self, "left");
            let right = side(self, "right");
            out.push(Line { left, right });
        }
        let at = table.get("line").map_or(0..0, span);
        if out.len() > limits::PROMPT_LINES {
            let message = format!("the prompt has more than {} lines", limits::PROMPT_LINES);
            self.error(at.clone(), message, "leave some out");
        }
        let inputs = out.iter().map(|l| {
            let input = |p: &&Part| p.kind == Kind::Input;
            (
                l.left.iter().filter(input).count(),
                l.right.iter().filter(input).count(),
            )
        });
        let inputs: Vec<(usize, usize)> = inputs.collect();
        let sound = inputs.iter().enumerate().all(|(n, (left, right))| {
            *right == 0 && (*left == 0 || (*left == 1 && n + 1 == inputs.len()))
        });
        let typed = out.last().and_then(|l| l.left.last());
        if !sound || typed.is_none_or(|p| p.kind != Kind::Input) {
            self.error(
                at,
                "one types behind the part 'input', and nothing else in the prompt",
                "let 'input' be the last part on the left of the last line",
            );
        }
        out
    }

    fn no_such_part(&mut self, name: &str, at: std::ops::Range<usize>) {
        let help = match closest(name, KNOWN.iter().map(|k| k.name)) {
            Some(near) => format!("did you mean '{near}'?"),
            None => format!(
                "describe it in [prompt.parts.{name}], or choose from {}",
                KNOWN.iter().map(|k| k.name).collect::<Vec<_>>().join(", ")
            ),
        };
        self.error(at, format!("there is no part '{name}'"), help);
    }

    /// A list of texts with their places.
    fn names(&mut self, item: &Item, key: &str) -> Vec<(String, std::ops::Range<usize>)> {
        let texts = item
            .as_array()
            .filter(|a| a.iter().all(|v| v.as_str().is_some()));
        let Some(array) = texts else {
            let message = format!("'{key}' has to be a list of texts");
            self.error(span(item), message, format!("write {key} = [\"folder\"]"));
            return Vec::new();
        };
        if array.len() > limits::PROMPT_PARTS {
            let message = format!("'{key}' has more than {}", limits::PROMPT_PARTS);
            self.error(span(item), message, "leave some out");
            return Vec::new();
        }
        let texts = array.iter().filter_map(|v| {
            Some((
                Value::as_str(v)?.to_owned(),
                v.span().unwrap_or_else(|| span(item)),
            ))
        });
        let texts: Vec<_> = texts.collect();
        texts
            .into_iter()
            .filter(|(t, at)| self.harmless(t, at.clone()))
            .collect()
    }

    fn prompt_parts(&mut self, table: &dyn TableLike) -> BTreeMap<String, Part> {
        let mut out = BTreeMap::new();
        let Some(tables) = self.table(table, "parts") else {
            return out;
        };
        for (name, item) in tables.iter() {
            let place = format!("[prompt.parts.{name}]");
            let Some(part) = item.as_table_like() else {
                let message = format!("'{name}' has to be a table");
                self.error(span(item), message, format!("write {place}"));
                continue;
            };
            self.unknown(part, &place, &PART_KEYS);
            let kind = self.string(part, "kind");
            let named = kind.as_deref().unwrap_or(name);
            let Some(known) = Known::named(named) else {
                match kind {
                    Some(kind) => {
                        let at = part.get("kind").map_or(0..0, span);
                        self.no_such_part(&kind, at);
                    }
                    None => self.error(
                        span(item),
                        format!("there is no part '{name}', and no kind is said"),
                        "add kind = \"text\", \"rust\" or another part's name",
                    ),
                }
                continue;
            };
            let mut one = Part::usual(known);
            name.clone_into(&mut one.name);
            self.part(part, &mut one);
            out.insert(name.to_owned(), one);
        }
        out
    }

    fn part(&mut self, table: &dyn TableLike, part: &mut Part) {
        if let Some(when) = self.choice(table, "when", &When::ALL) {
            part.when = when;
        }
        if let Some(signs) = self.signs(table, "sign", &part.signs.clone()) {
            part.signs = signs;
        }
        let usual = part.signs.clone();
        if let Some(signs) = self.signs(table, "sign-failed", &usual) {
            part.signs_failed = Some(signs);
        }
        if let Some(signs) = self.signs(table, "sign-root", &usual) {
            part.signs_root = Some(signs);
        }
        if let Some(signs) = self.signs(table, "sign-command", &usual) {
            part.signs_command = Some(signs);
        }
        for (key, text) in [
            ("before", &mut part.before),
            ("after", &mut part.after),
            ("says", &mut part.tells.says),
        ] {
            if let Some(said) = self.drawn(table, key) {
                *text = said;
            }
        }
        let role = |reader: &mut Self, key: &str| {
            let name = reader.name(table, key)?;
            Some(RoleId::new(name))
        };
        if let Some(text) = role(self, "text") {
            part.text = text;
            // A color of the person's own holds for root as well, unless they say another.
            part.text_root = None;
        }
        if let Some(text) = role(self, "text-failed") {
            part.text_failed = Some(text);
        }
        if let Some(text) = role(self, "text-root") {
            part.text_root = Some(text);
        }
        if let Some(text) = role(self, "text-command") {
            part.text_command = Some(text);
        }
        if let Some(ground) = role(self, "ground") {
            part.ground = Some(ground).filter(|g| g.as_str() != "background");
        }
        let tells = &mut part.tells;
        let mut whole = |key: &str, most: f64| self.number(table, key, (0.0, most));
        if let Some(n) = whole("gives-way", 99.0) {
            part.rank = n as u8;
        }
        if let Some(n) = whole("folders", 9.0) {
            tells.folders = n as u8;
        }
        if let Some(n) = whole("longest", 1000.0) {
            tells.longest = n as u16;
        }
        // Written in seconds and in whole loads; kept in thousandths and hundredths.
        let unit = match part.kind {
            Kind::Duration => 1000.0,
            Kind::Load => 100.0,
            _ => 1.0,
        };
        if let Some(n) = whole("above", 1e6) {
            tells.above = (n * unit).round() as u32;
        }
        if let Some(n) = whole("below", 100.0) {
            tells.below = n as u32;
        }
        tells.within = self.flag(table, "within", false);
        tells.beginnings = self.flag(table, "beginnings", false);
        tells.twelve = self.flag(table, "twelve", false);
        tells.seconds = self.flag(table, "seconds", false);
        tells.version = self.flag(table, "version", false);
        if let Some(style) = self.choice(table, "as", &STYLES) {
            tells.style = style;
        }
        for (key, list) in [("files", &mut tells.files), ("asks", &mut tells.asks)] {
            if let Some(item) = table.get(key) {
                *list = self.names(item, key).into_iter().map(|(t, _)| t).collect();
                let bad = list
                    .iter()
                    .find(|t| t.is_empty() || (key == "files" && t.contains('/')));
                if let Some(bad) = bad {
                    let message = format!("'{bad}' cannot stand in '{key}'");
                    self.error(span(item), message, "write names without a folder");
                }
            }
        }
        if let Some(name) = self.name(table, "variable") {
            let plain = |c: char| c.is_ascii_alphanumeric() || c == '_';
            match name.chars().all(plain) && !name.starts_with(|c: char| c.is_ascii_digit()) {
                true => tells.variable = name,
                false => self.error(
                    table.get("variable").map_or(0..0, span),
                    format!("'{name}' is no name of a variable"),
                    "letters, digits and _",
                ),
            }
        }
    }

    /// Signs: one for every level, or a table with one for each.
    fn signs(
        &mut self,
        table: &dyn TableLike,
        key: &str,
        usual: &[String; 3],
    ) -> Option<[String; 3]> {
        let item = table.get(key)?;
        let Some(levels) = item.as_table_like() else {
            let sign = self.drawn(table, key)?;
            return Some([sign.clone(), sign.clone(), sign]);
        };
        let words = [SymbolLevel::Icons, SymbolLevel::Plain, SymbolLevel::Ascii];
        self.unknown(levels, key, &words.map(SymbolLevel::key));
        let mut out = usual.clone();
        for level in words {
            if let Some(sign) = self.drawn(levels, level.key()) {
                out[place(level)] = sign;
            }
        }
        Some(out)
    }
}
