//! Reading `setup.toml`: the whole file is looked at and everything wrong is reported at once.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::ops::Range;
use std::path::PathBuf;

use toml_edit::{Document, Item, TableLike, Value};

use super::{
    Attrs, Exception, Expr, Palette, PaletteName, Problem, Setup, SetupDoc, SetupError, Severity,
    Style, ToolOptions,
};
use crate::character::is_treacherous;
use crate::color::Rgb;
use crate::guard::guarded;
use crate::limits;
use crate::property::Property;
use crate::quote::Name;
use crate::role::{ROLES, RoleId, Slot, lookup};
use crate::text::closest;

pub(super) fn parse(path: PathBuf, bytes: &[u8]) -> Result<SetupDoc, SetupError> {
    let fail = |text: &str, message: String, help: &str, span: Range<usize>| SetupError {
        path: path.clone(),
        text: text.to_owned(),
        problems: vec![Problem {
            severity: Severity::Error,
            message,
            help: help.into(),
            span,
        }],
    };
    if bytes.len() > limits::SETUP {
        let message = format!("the file has {} bytes", bytes.len());
        return Err(fail(
            "",
            message,
            "a setup file has at most 4 MiB: is this the right file?",
            0..0,
        ));
    }
    let text = match std::str::from_utf8(bytes) {
        Ok(text) => text,
        Err(e) => {
            let good = String::from_utf8_lossy(&bytes[..e.valid_up_to()]).into_owned();
            let at = e.valid_up_to();
            let message = format!("the byte 0x{:02x} is not UTF-8", bytes[at]);
            return Err(fail(&good, message, "save the file as UTF-8", at..at));
        }
    };
    let parsed = guarded(|| Document::parse(text)).map_err(|failed| {
        let help = "look for what is not TOML in it";
        fail(text, failed.to_string(), help, 0..0)
    })?;
    let document = parsed.map_err(|e| {
        let span = e.span().unwrap_or(0..0);
        let message = e.message().lines().collect::<Vec<_>>().join(", ");
        fail(text, message, "correct the TOML at this place", span)
    })?;
    let mut reader = Reader {
        problems: Vec::new(),
    };
    let setup = reader.setup(document.as_table());
    let failed = reader
        .problems
        .iter()
        .any(|p| p.severity == Severity::Error);
    match setup {
        Some(setup) if !failed => Ok(SetupDoc {
            path,
            text: text.to_owned(),
            setup,
            warnings: reader.problems,
        }),
        _ => Err(SetupError {
            path,
            text: text.to_owned(),
            problems: reader.problems,
        }),
    }
}

pub(super) struct Reader {
    problems: Vec<Problem>,
}

pub(super) fn span(item: &Item) -> Range<usize> {
    item.span().unwrap_or(0..0)
}

impl Reader {
    pub(super) fn error(
        &mut self,
        span: Range<usize>,
        message: impl Into<String>,
        help: impl Into<String>,
    ) {
        let (message, help) = (message.into(), help.into());
        self.problems.push(Problem {
            severity: Severity::Error,
            message,
            help,
            span,
        });
    }

    fn warn(&mut self, span: Range<usize>, message: impl Into<String>, help: impl Into<String>) {
        let (message, help) = (message.into(), help.into());
        self.problems.push(Problem {
            severity: Severity::Warning,
            message,
            help,
            span,
        });
    }

    /// Warns of keys that mean nothing here.
    pub(super) fn unknown(&mut self, table: &dyn TableLike, place: &str, known: &[&str]) {
        for (key, item) in table.iter() {
            if !known.contains(&key) {
                let at = table
                    .key(key)
                    .and_then(toml_edit::Key::span)
                    .unwrap_or_else(|| span(item));
                let help = match closest(key, known.iter().copied()) {
                    Some(near) => format!("did you mean '{near}'?"),
                    None => format!("known here: {}", known.join(", ")),
                };
                self.warn(
                    at,
                    format!("'{key}' is not known in {place}, and is left alone"),
                    help,
                );
            }
        }
    }

    pub(super) fn table<'a>(
        &mut self,
        parent: &'a dyn TableLike,
        key: &str,
    ) -> Option<&'a dyn TableLike> {
        let item = parent.get(key)?;
        let table = item.as_table_like();
        if table.is_none() {
            self.error(
                span(item),
                format!("'{key}' has to be a table"),
                format!("write [{key}]"),
            );
        }
        table
    }

    pub(super) fn string(&mut self, table: &dyn TableLike, key: &str) -> Option<String> {
        let item = table.get(key)?;
        let text = item.as_str();
        if text.is_none() {
            self.error(
                span(item),
                format!("'{key}' has to be a text"),
                "put it in double quotes",
            );
        }
        self.harmless(text?, span(item))
            .then(|| text.map(str::to_owned))?
    }

    /// Whether a text holds nothing that ends lines, controls a terminal or changes the direction
    /// of what stands around it; reported if it does.
    pub(super) fn harmless(&mut self, text: &str, at: Range<usize>) -> bool {
        let bad = text.chars().find(|c| is_treacherous(*c));
        if let Some(c) = bad {
            let message = format!("this text holds the character U+{:04X}", c as u32);
            let help =
                "names and texts hold no line ends, control characters or marks of direction";
            self.error(at, message, help);
        }
        bad.is_none()
    }

    /// A name: a text that is not empty and not too long.
    pub(super) fn name(&mut self, table: &dyn TableLike, key: &str) -> Option<String> {
        let text = self.string(table, key)?;
        match Name::new(&text) {
            Ok(_) => Some(text),
            Err(why) => {
                let at = table.get(key).map_or(0..0, span);
                self.error(
                    at,
                    format!("'{key}' is no name: {why}"),
                    "give the name as the font or palette has it",
                );
                None
            }
        }
    }

    /// Reports keys that no text of a setup may be, wherever they stand.
    fn keys(&mut self, table: &dyn TableLike, depth: usize) {
        for (key, item) in table.iter() {
            let at = table.key(key).and_then(toml_edit::Key::span);
            self.harmless(key, at.unwrap_or_else(|| span(item)));
            if depth == 0 {
                continue;
            }
            if let Some(inner) = item.as_table_like() {
                self.keys(inner, depth - 1);
            } else if let Some(tables) = item.as_array_of_tables() {
                for inner in tables {
                    self.keys(inner, depth - 1);
                }
            }
        }
    }

    pub(super) fn property(
        &mut self,
        table: &dyn TableLike,
        key: &str,
        property: Property,
    ) -> Option<f64> {
        self.number(table, key, property.range()?)
    }

    pub(super) fn number(
        &mut self,
        table: &dyn TableLike,
        key: &str,
        range: (f64, f64),
    ) -> Option<f64> {
        let item = table.get(key)?;
        let number = item
            .as_float()
            .or_else(|| item.as_integer().map(|i| i as f64));
        match number {
            Some(n) if n >= range.0 && n <= range.1 => Some(n),
            _ => {
                let help = format!("give a number from {} to {}", range.0, range.1);
                self.error(
                    span(item),
                    format!("'{key}' is out of range or no number"),
                    help,
                );
                None
            }
        }
    }

    pub(super) fn flag(&mut self, table: &dyn TableLike, key: &str, default: bool) -> bool {
        let Some(item) = table.get(key) else {
            return default;
        };
        item.as_bool().unwrap_or_else(|| {
            self.error(
                span(item),
                format!("'{key}' has to be true or false"),
                "without quotes",
            );
            default
        })
    }

    pub(super) fn choice<T: Copy>(
        &mut self,
        table: &dyn TableLike,
        key: &str,
        choices: &[(&str, T)],
    ) -> Option<T> {
        let word = self.string(table, key)?;
        let found = choices
            .iter()
            .find(|(name, _)| *name == word)
            .map(|(_, v)| *v);
        if found.is_none() {
            let names: Vec<_> = choices.iter().map(|(n, _)| *n).collect();
            let at = table.get(key).map_or(0..0, span);
            self.error(
                at,
                format!("'{word}' is no choice for '{key}'"),
                format!("choose from {}", names.join(", ")),
            );
        }
        found
    }

    fn setup(&mut self, root: &dyn TableLike) -> Option<Setup> {
        const KEYS: [&str; 13] = [
            "version",
            "name",
            "palette",
            "palettes",
            "appearance",
            "roles",
            "contrast",
            "font",
            "symbols",
            "window",
            "prompt",
            "tools",
            "exceptions",
        ];
        self.keys(root, limits::SETUP_DEPTH);
        self.unknown(root, "the setup", &KEYS);
        if let Some(item) = root.get("version")
            && item.as_integer() != Some(1)
        {
            self.error(
                span(item),
                "this version of the setup file is not known",
                "write version = 1, or use a newer wealdmist",
            );
        }
        let palettes = self.palettes(root);
        let Some(first) = palettes.first() else {
            self.error(
                0..0,
                "the setup has no palette",
                "add a table such as [palettes.dusk] with foreground and background",
            );
            return None;
        };
        let active = self
            .string(root, "palette")
            .map_or_else(|| first.name.clone(), PaletteName::from);
        if !palettes.iter().any(|p| p.name == active) {
            let names: Vec<_> = palettes.iter().map(|p| p.name.as_str()).collect();
            let at = root.get("palette").map_or(0..0, span);
            self.error(
                at,
                format!("there is no palette '{active}'"),
                format!("choose from {}", names.join(", ")),
            );
        }
        let name = self
            .string(root, "name")
            .unwrap_or_else(|| "Unnamed".into());
        let (font, window) = (self.font(root), self.window(root));
        let (symbols, replace) = self.symbols(root);
        let roles = self.roles(root, &palettes);
        let prompt = self.prompt(root);
        let tools = self.tools(root);
        let exceptions = self.exceptions(root);
        let contrast = self.contrast(root);
        let appearance = self.appearance(root, &palettes);
        Some(Setup {
            name,
            active,
            palettes,
            roles,
            font,
            symbols,
            replace,
            window,
            prompt,
            tools,
            exceptions,
            contrast,
            appearance,
        })
    }

    fn tools(&mut self, root: &dyn TableLike) -> BTreeMap<String, ToolOptions> {
        let mut out = BTreeMap::new();
        let Some(tables) = self.table(root, "tools") else {
            return out;
        };
        for (name, item) in tables.iter() {
            let Some(table) = item.as_table_like() else {
                self.error(
                    span(item),
                    format!("'{name}' has to be a table"),
                    format!("write [tools.{name}]"),
                );
                continue;
            };
            self.unknown(
                table,
                &format!("[tools.{name}]"),
                &["manage", "generate", "adds", "symbols"],
            );
            let manage = self.flag(table, "manage", true);
            let generate = self.flag(table, "generate", false);
            let symbols = self.level(table, "symbols");
            let mut adds = Vec::new();
            if let Some(item) = table.get("adds") {
                match item.as_array() {
                    Some(array) if array.iter().all(|v| v.as_str().is_some()) => {
                        let texts: Vec<&str> = array.iter().filter_map(Value::as_str).collect();
                        if texts.iter().all(|t| self.harmless(t, span(item))) {
                            adds.extend(texts.into_iter().map(RoleId::new));
                        }
                    }
                    _ => self.error(
                        span(item),
                        "'adds' has to be a list of role names",
                        "write adds = [\"comment\"]",
                    ),
                }
            }
            out.insert(
                name.to_owned(),
                ToolOptions {
                    manage,
                    generate,
                    adds,
                    symbols,
                },
            );
        }
        out
    }

    /// The tables of a list, each reported if it is none.
    pub(super) fn tables<'a>(
        &mut self,
        parent: &'a dyn TableLike,
        key: &str,
        written: &str,
    ) -> Vec<&'a toml_edit::Table> {
        let Some(item) = parent.get(key) else {
            return Vec::new();
        };
        match item.as_array_of_tables() {
            Some(tables) => tables.iter().collect(),
            None => {
                let message = format!("'{key}' has to be a list of tables");
                self.error(span(item), message, format!("write {written}"));
                Vec::new()
            }
        }
    }

    /// A text that must be there.
    pub(super) fn required(
        &mut self,
        table: &toml_edit::Table,
        key: &str,
        help: &str,
    ) -> Option<String> {
        if table.get(key).is_none() {
            let at = table.span().unwrap_or(0..0);
            self.error(at, format!("an exception needs '{key}'"), help);
        }
        self.string(table, key)
    }

    fn exceptions(&mut self, root: &dyn TableLike) -> Vec<Exception> {
        let mut out = Vec::new();
        for table in self.tables(root, "exceptions", "[[exceptions]]") {
            self.unknown(table, "[[exceptions]]", &["tool", "role", "reason"]);
            let mut want = |key: &str| self.required(table, key, "give tool, role and reason");
            if let (Some(tool), Some(role), Some(reason)) =
                (want("tool"), want("role"), want("reason"))
            {
                out.push(Exception {
                    tool,
                    role: RoleId::new(role),
                    reason,
                });
            }
        }
        out
    }

    fn roles(&mut self, root: &dyn TableLike, palettes: &[Palette]) -> BTreeMap<RoleId, Style> {
        let mut out = BTreeMap::new();
        if let Some(table) = self.table(root, "roles") {
            self.role_table(table, "", &mut out);
        }
        self.check_refs(root, &out, palettes);
        out
    }

    /// Reads `[roles]`; nested tables without style keys are the dotted spelling of longer names.
    fn role_table(
        &mut self,
        table: &dyn TableLike,
        prefix: &str,
        out: &mut BTreeMap<RoleId, Style>,
    ) {
        const STYLE: [&str; 5] = ["color", "mix", "bold", "italic", "underline"];
        for (key, item) in table.iter() {
            let name = format!("{prefix}{key}");
            let id = RoleId::new(name.clone());
            if Slot::from_key(&name).is_some() {
                self.error(
                    span(item),
                    format!("'{name}' is a slot"),
                    "set it in the palette",
                );
                continue;
            }
            if let Some(text) = item.as_str() {
                if let Some(color) = self.expr_text(text, span(item)) {
                    out.insert(
                        id,
                        Style {
                            color: Some(color),
                            attrs: Attrs::default(),
                        },
                    );
                }
                continue;
            }
            let Some(inner) = item.as_table_like() else {
                self.error(
                    span(item),
                    format!("the role '{name}' is neither a color nor a table"),
                    "write a color name, \"#rrggbb\", or { color = …, bold = true }",
                );
                continue;
            };
            if !inner.iter().any(|(k, _)| STYLE.contains(&k)) && !inner.is_empty() {
                self.role_table(inner, &format!("{name}."), out);
                continue;
            }
            self.unknown(inner, &format!("role '{name}'"), &STYLE);
            let color = self.style_color(inner);
            let attrs = Attrs {
                bold: self.flag(inner, "bold", false),
                italic: self.flag(inner, "italic", false),
                underline: self.flag(inner, "underline", false),
            };
            out.insert(id, Style { color, attrs });
        }
    }

    fn style_color(&mut self, table: &dyn TableLike) -> Option<Expr> {
        match (table.get("color"), table.get("mix")) {
            (Some(_), Some(mix)) => {
                self.error(
                    span(mix),
                    "a role has either 'color' or 'mix'",
                    "remove one of them",
                );
                None
            }
            (Some(color), None) => match color.as_str() {
                Some(text) => self.expr_text(text, span(color)),
                None => {
                    self.error(
                        span(color),
                        "'color' has to be a text",
                        "write a color name or \"#rrggbb\"",
                    );
                    None
                }
            },
            (None, Some(mix)) => self.mix(mix),
            (None, None) => None,
        }
    }

    fn expr_text(&mut self, text: &str, at: Range<usize>) -> Option<Expr> {
        if text.starts_with('#') {
            let color = Rgb::from_hex(text);
            if color.is_none() {
                self.error(at, format!("'{text}' is not a color"), "write #rrggbb");
            }
            return color.map(Expr::Value);
        }
        if text.is_empty() {
            self.error(at, "the color is empty", "write a color name or #rrggbb");
            return None;
        }
        Some(Expr::Ref(text.to_owned()))
    }

    fn mix(&mut self, item: &Item) -> Option<Expr> {
        let parts = item.as_array().filter(|a| a.len() == 3);
        let number = parts.and_then(|a| {
            let v = a.get(2)?;
            v.as_float().or_else(|| v.as_integer().map(|i| i as f64))
        });
        let texts = parts.and_then(|a| Some((a.get(0)?.as_str()?, a.get(1)?.as_str()?)));
        match (texts, number) {
            (Some((a, b)), Some(amount)) if (0.0..=1.0).contains(&amount) => {
                let a = self.expr_text(a, span(item))?;
                let b = self.expr_text(b, span(item))?;
                Some(Expr::Mix(Box::new(a), Box::new(b), amount))
            }
            _ => {
                self.error(
                    span(item),
                    "'mix' has to be two colors and an amount from 0 to 1",
                    "write mix = [\"background\", \"blue\", 0.2]",
                );
                None
            }
        }
    }

    /// Every name used has to exist in every palette or be a role, and roles must not go round.
    fn check_refs(
        &mut self,
        root: &dyn TableLike,
        roles: &BTreeMap<RoleId, Style>,
        palettes: &[Palette],
    ) {
        let round = circles(roles);
        let named: Vec<HashSet<&str>> = palettes
            .iter()
            .map(|p| p.colors.iter().map(|c| c.0.as_str()).collect())
            .collect();
        for (id, style) in roles {
            let Some(expr) = &style.color else { continue };
            let at = role_span(root, id).unwrap_or(0..0);
            let mut names = Vec::new();
            collect_refs(expr, &mut names);
            for name in names {
                let role = RoleId::new(name.clone());
                let fine = Slot::from_key(&name).is_some()
                    || roles.contains_key(&role)
                    || lookup(&role).is_some()
                    || named.iter().all(|names| names.contains(name.as_str()));
                if !fine {
                    let named = palettes
                        .iter()
                        .flat_map(|p| p.colors.iter().map(|(n, _)| n.as_str()));
                    let all = Slot::ALL
                        .iter()
                        .map(|s| s.key())
                        .chain(named)
                        .chain(ROLES.iter().map(|k| k.id));
                    let help = match closest(&name, all) {
                        Some(near) => format!(
                            "did you mean '{near}'? A named color has to be in every palette"
                        ),
                        None => "name a slot, a role, or a color that every palette has".to_owned(),
                    };
                    self.error(
                        at.clone(),
                        format!("the role '{id}' uses the unknown color '{name}'"),
                        help,
                    );
                }
            }
            if round.contains(id) {
                self.error(
                    at,
                    format!("the role '{id}' is defined through itself"),
                    "give one of the roles in the circle a color of its own",
                );
            }
        }
    }
}

fn role_span(root: &dyn TableLike, id: &RoleId) -> Option<Range<usize>> {
    let roles = root.get("roles")?.as_table_like()?;
    if let Some(item) = roles.get(id.as_str()) {
        return item.span();
    }
    let mut table = roles;
    let mut found = None;
    for part in id.as_str().split('.') {
        let item = table.get(part)?;
        found = item.span();
        if let Some(next) = item.as_table_like() {
            table = next;
        }
    }
    found
}

fn collect_refs(expr: &Expr, out: &mut Vec<String>) {
    match expr {
        Expr::Value(_) => {}
        Expr::Ref(name) => out.push(name.clone()),
        Expr::Mix(a, b, _) => {
            collect_refs(a, out);
            collect_refs(b, out);
        }
    }
}

/// Whether following a role's references comes back to it.
/// The roles that are defined through themselves, in time that grows with their number alone: what
/// leads nowhere or to a color is taken away again and again, then what nothing leads to.
fn circles(roles: &BTreeMap<RoleId, Style>) -> HashSet<&RoleId> {
    let used = |id: &RoleId| {
        let mut names = Vec::new();
        match roles.get(id).and_then(|s| s.color.as_ref()) {
            Some(expr) => collect_refs(expr, &mut names),
            None => {
                if let Some(known) = lookup(id).filter(|k| Slot::from_key(k.id).is_none()) {
                    collect_refs(&Expr::default_of(known), &mut names);
                }
            }
        }
        names
    };
    let known = ROLES.iter().map(|k| RoleId::known(k.id));
    let all: Vec<RoleId> = roles.keys().cloned().chain(known).collect();
    let index: HashMap<&str, usize> = all.iter().map(RoleId::as_str).zip(0..).collect();
    let uses: Vec<Vec<usize>> = all
        .iter()
        .map(|id| {
            let names = used(id).into_iter();
            let role = |n: String| {
                index
                    .get(n.as_str())
                    .copied()
                    .filter(|_| Slot::from_key(&n).is_none())
            };
            names.filter_map(role).collect()
        })
        .collect();
    let mut users = vec![Vec::new(); all.len()];
    for (from, to) in uses.iter().enumerate() {
        for to in to {
            users[*to].push(from);
        }
    }
    let mut alive = vec![true; all.len()];
    for (edges, back) in [(&uses, &users), (&users, &uses)] {
        let mut left: Vec<usize> = edges
            .iter()
            .map(|e| e.iter().filter(|i| alive[**i]).count())
            .collect();
        let mut open: Vec<usize> = (0..all.len())
            .filter(|i| alive[*i] && left[*i] == 0)
            .collect();
        while let Some(i) = open.pop() {
            alive[i] = false;
            for user in back[i].iter().copied().filter(|u| alive[*u]) {
                left[user] -= 1;
                if left[user] == 0 {
                    open.push(user);
                }
            }
        }
    }
    let round = |id: &&RoleId| index.get(id.as_str()).is_some_and(|i| alive[*i]);
    roles.keys().filter(round).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const GOOD: &str = r##"
name = "Test"
palette = "dusk"
[palettes.dusk]
foreground = "#d0d0d0"
background = "#101010"
[palettes.dusk.colors]
reed = "#98a040"
[roles]
comment = { mix = ["background", "foreground", 0.5], italic = true }
border.active = "reed"
"line-number" = "bright-black"
[[exceptions]]
tool = "tmux"
role = "border.active"
reason = "easier to see"
"##;

    fn problem(text: &str) -> String {
        SetupDoc::parse("s.toml", text.as_bytes())
            .unwrap_err()
            .to_string()
    }

    #[test]
    fn a_good_file_is_read_and_kept() {
        let doc = SetupDoc::parse("s.toml", GOOD.as_bytes()).unwrap();
        assert_eq!(doc.text(), GOOD);
        assert!(doc.warnings().is_empty(), "{:?}", doc.warnings());
        let setup = doc.setup();
        assert_eq!(setup.roles.len(), 3);
        assert_eq!(
            setup.roles[&RoleId::known("border.active")].color,
            Some(Expr::Ref("reed".into()))
        );
        assert_eq!(setup.exceptions[0].reason, "easier to see");
    }

    #[test]
    fn problems_name_line_cause_and_mend() {
        let bad = GOOD.replace("#101010", "#10101");
        let said = problem(&bad);
        assert!(
            said.contains("s.toml:6:14") && said.contains("#rrggbb"),
            "{said}"
        );
        let said = problem(&GOOD.replace("\"reed\"\n", "\"reeed\"\n"));
        assert!(said.contains("did you mean 'reed'"), "{said}");
        let said = problem("palette = 3\n[palettes.a]\n");
        assert!(said.contains("s.toml:1:11"), "{said}");
        assert!(problem("").contains("no palette"));
        assert!(problem("[palettes.a\n").contains("s.toml:1:"));
        let circle = format!(
            "{}\n[roles]\nhint = \"info\"\ninfo = \"hint\"\n",
            "[palettes.a]"
        );
        assert!(problem(&circle).contains("through itself"));
    }

    #[test]
    fn bytes_that_are_not_text_are_placed() {
        let said = SetupDoc::parse("s.toml", b"name = \"a\"\nx = \"\xff\"")
            .unwrap_err()
            .to_string();
        assert!(
            said.contains("s.toml:2:6") && said.contains("0xff"),
            "{said}"
        );
    }

    #[test]
    fn unknown_keys_only_warn() {
        let doc = SetupDoc::parse("s.toml", format!("nmae = \"x\"\n{GOOD}").as_bytes()).unwrap();
        assert_eq!(doc.warnings().len(), 1);
        assert!(doc.warnings()[0].help.contains("'name'"));
    }

    proptest! {
        #[test]
        fn any_bytes_are_read_or_refused(bytes in proptest::collection::vec(any::<u8>(), 0..300)) {
            let _ = SetupDoc::parse("s.toml", &bytes);
        }

        #[test]
        fn any_damage_is_read_or_refused(at in 0usize..400, with in any::<u8>()) {
            let mut bytes = GOOD.as_bytes().to_vec();
            if at < bytes.len() {
                bytes[at] = with;
            }
            let _ = SetupDoc::parse("s.toml", &bytes);
        }
    }
}
