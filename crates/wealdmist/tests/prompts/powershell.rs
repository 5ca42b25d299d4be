//! A small stand-in for PowerShell, which cannot be had here: it runs what our script uses of the language, over a tree
//! that a parser of another maker finds, in a world that a situation describes.

use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet};
use std::rc::Rc;

use tree_sitter::{Node, Parser};
use wealdmist_core::prompt::{self, Situation};

/// A value.
#[derive(Debug, Clone)]
pub enum Value {
    Null,
    Bool(bool),
    Number(f64),
    Text(Rc<str>),
    List(Rc<RefCell<Vec<Value>>>),
    Table(Rc<RefCell<BTreeMap<String, Value>>>),
    Block(usize),
}

use Value::{Block, Bool, List, Null, Number, Table, Text};

fn text(text: &str) -> Value {
    Text(text.into())
}

fn list(all: Vec<Value>) -> Value {
    List(Rc::new(RefCell::new(all)))
}

fn table(all: &[(&str, Value)]) -> Value {
    let all = all.iter().map(|(k, v)| (k.to_lowercase(), v.clone()));
    Table(Rc::new(RefCell::new(all.collect())))
}

impl Value {
    fn is_true(&self) -> bool {
        match self {
            Null => false,
            Bool(yes) => *yes,
            Number(n) => *n != 0.0,
            Text(text) => !text.is_empty(),
            List(all) => match all.borrow().as_slice() {
                [] => false,
                [one] => one.is_true(),
                _ => true,
            },
            Table(_) | Block(_) => true,
        }
    }

    fn text(&self) -> String {
        match self {
            Null => String::new(),
            Bool(yes) => if *yes { "True" } else { "False" }.to_owned(),
            Number(n) => n.to_string(),
            Text(text) => text.to_string(),
            List(all) => all
                .borrow()
                .iter()
                .map(Self::text)
                .collect::<Vec<_>>()
                .join(" "),
            other => panic!("no text: {other:?}"),
        }
    }

    fn number(&self) -> f64 {
        match self {
            Number(n) => *n,
            Null => 0.0,
            other => other
                .text()
                .trim()
                .parse()
                .unwrap_or_else(|_| panic!("no number: {other:?}")),
        }
    }

    fn all(&self) -> Vec<Self> {
        match self {
            Null => Vec::new(),
            List(all) => all.borrow().clone(),
            one => vec![one.clone()],
        }
    }

    fn key(&self) -> String {
        self.text().to_lowercase()
    }
}

/// What a block of statements came to.
enum Flow {
    On,
    Next,
    Leave,
    Return,
}

/// The shell in a world.
pub struct Shell<'t> {
    source: &'t str,
    functions: BTreeMap<String, Node<'t>>,
    blocks: Vec<Node<'t>>,
    globals: BTreeMap<String, Value>,
    locals: Vec<BTreeMap<String, Value>>,
    files: BTreeMap<String, String>,
    folders: BTreeSet<String>,
    git: String,
    /// What it says of lines, and whether it is asked for them.
    lines: (String, bool),
    at: Situation,
    matches: Vec<String>,
}

/// What the script draws in a situation.
pub fn drawn(source: &str, at: &Situation, environment: &[(&str, &str)]) -> String {
    let mut parser = Parser::new();
    parser
        .set_language(&tree_sitter_powershell::LANGUAGE.into())
        .unwrap();
    let tree = parser.parse(source, None).unwrap();
    let mut shell = Shell::new(source, at, environment);
    let mut out = Vec::new();
    shell.statements(tree.root_node(), &mut out);
    // What is asked before the first command took no time.
    shell.globals.insert("?".into(), Bool(at.status() == 0));
    let before = shell.call("prompt", Vec::new());
    assert!(!before.text().is_empty());
    shell.at.statuses.push(at.status());
    shell.call("prompt", Vec::new()).text()
}

impl<'t> Shell<'t> {
    fn new(source: &'t str, at: &Situation, environment: &[(&str, &str)]) -> Self {
        let home = "/home/warden";
        let folder = match at.folder.strip_prefix('~') {
            Some(rest) => format!("{home}{rest}"),
            None => at.folder.clone(),
        };
        let mut files = BTreeMap::new();
        let mut file = |path: String, text: &str| files.insert(path, text.to_owned());
        file(
            format!("{home}/.config/wealdmist/prompt.ps1"),
            source.lines().next().unwrap_or_default(),
        );
        for name in &at.files {
            file(format!("{folder}/{name}"), "x");
        }
        for (program, version) in &at.versions {
            file(format!("/bin/{program}"), "x");
            file(
                format!("{home}/.cache/wealdmist/versions/{program}"),
                &format!("{version}\n"),
            );
        }
        file(
            "/proc/meminfo".into(),
            &format!(
                "MemTotal: 1000 kB\nMemFree: 1 kB\nMemAvailable: {} kB\n",
                1000 - 10 * u32::from(at.memory)
            ),
        );
        file(
            "/proc/loadavg".into(),
            &format!("{}.{:02} 0 0\n", at.load / 100, at.load % 100),
        );
        file(
            "/etc/os-release".into(),
            &format!("NAME=x\nID={}\n", at.system),
        );
        if let Some(left) = at.battery {
            file(
                "/sys/class/power_supply/BAT0/capacity".into(),
                &format!("{left}\n"),
            );
        }
        if at.container {
            file("/run/.containerenv".into(), "");
        }
        let mut git = String::new();
        let mut lines = String::new();
        if let Some(repository) = &at.repository {
            let mut top = folder.clone();
            for _ in 0..repository.below {
                top.truncate(top.rfind('/').unwrap_or_default());
            }
            file(
                format!("{top}/.git/HEAD"),
                &format!("ref: refs/heads/{}\n", repository.branch),
            );
            if let Some((what, steps)) = &repository.operation {
                assert_eq!(what, "rebase");
                let (n, of) = steps.unwrap_or((1, 1));
                file(format!("{top}/.git/rebase-merge/msgnum"), &format!("{n}\n"));
                file(format!("{top}/.git/rebase-merge/end"), &format!("{of}\n"));
            }
            match repository.counts {
                None => {
                    file(format!("{top}/.git/config"), "[filter \"x\"]\n");
                }
                Some(
                    [
                        conflicts,
                        staged,
                        unstaged,
                        added,
                        removed,
                        untracked,
                        stash,
                        ahead,
                        behind,
                    ],
                ) => {
                    git = format!(
                        "# branch.oid 1\n# branch.head {}\n# branch.ab +{ahead} -{behind}\n# stash {stash}\n",
                        repository.branch
                    );
                    for (n, line) in [
                        (conflicts, "u UU x"),
                        (staged, "1 M. x"),
                        (unstaged, "1 .M x"),
                        (untracked, "? x"),
                    ] {
                        git.push_str(&format!("{line}\n").repeat(n as usize));
                    }
                    lines =
                        format!(" 1 file changed, {added} insertions(+), {removed} deletions(-)\n");
                }
            }
        }
        let mut folders: BTreeSet<String> = BTreeSet::from(["/".to_owned(), folder.clone()]);
        for path in files
            .keys()
            .cloned()
            .chain([folder.clone() + "/x"])
            .collect::<Vec<_>>()
        {
            let mut path = path.as_str();
            while let Some(i) = path.rfind('/') {
                path = &path[..i];
                folders.insert(path.to_owned());
            }
        }
        let mut globals: BTreeMap<String, Value> = [
            ("home", text(home)),
            ("true", Bool(true)),
            ("false", Bool(false)),
            ("null", Null),
            ("iswindows", Bool(false)),
            ("pid", Number(7.0)),
            ("error", list(Vec::new())),
            ("lastexitcode", Number(f64::from(at.status()))),
            ("env:path", text("/usr/bin:/bin")),
            ("env:shlvl", Number(f64::from(at.shells))),
            ("env:ssh_connection", text(if at.ssh { "x" } else { "" })),
        ]
        .map(|(k, v)| (k.to_owned(), v))
        .into();
        for (name, value) in environment
            .iter()
            .copied()
            .chain(at.variables.iter().map(|(k, v)| (k.as_str(), v.as_str())))
        {
            globals.insert(format!("env:{}", name.to_lowercase()), text(value));
        }
        let location = table(&[("ProviderPath", text(&folder)), ("Path", text(&folder))]);
        let path = table(&[("CurrentLocation", location)]);
        globals.insert(
            "executioncontext".into(),
            table(&[("SessionState", table(&[("Path", path)]))]),
        );
        let size = table(&[("Width", Number(at.width as f64))]);
        let screen = table(&[("WindowSize", size), ("type", text("screen"))]);
        globals.insert("host".into(), table(&[("UI", table(&[("RawUI", screen)]))]));
        Self {
            source,
            functions: BTreeMap::new(),
            blocks: Vec::new(),
            globals,
            locals: Vec::new(),
            files,
            folders,
            git,
            lines: (lines, false),
            at: Situation {
                statuses: Vec::new(),
                ..at.clone()
            },
            matches: Vec::new(),
        }
    }

    fn of(&self, node: Node<'t>) -> &'t str {
        &self.source[node.byte_range()]
    }

    fn named(node: Node<'t>) -> Vec<Node<'t>> {
        let mut cursor = node.walk();
        node.named_children(&mut cursor).collect()
    }

    fn child(node: Node<'t>, kind: &str) -> Option<Node<'t>> {
        Self::named(node).into_iter().find(|n| n.kind() == kind)
    }

    fn statements(&mut self, node: Node<'t>, out: &mut Vec<Value>) -> Flow {
        for child in Self::named(node) {
            let flow = match child.kind() {
                "statement_list" | "script_block" | "script_block_body" | "statement_block" => {
                    self.statements(child, out)
                }
                _ => self.statement(child, out),
            };
            if !matches!(flow, Flow::On) {
                return flow;
            }
        }
        Flow::On
    }

    fn statement(&mut self, node: Node<'t>, out: &mut Vec<Value>) -> Flow {
        match node.kind() {
            "comment" | "empty_statement" | "param_block" => {}
            "function_statement" => {
                let name = self.of(Self::child(node, "function_name").unwrap());
                let name = name.rsplit(':').next().unwrap_or_default().to_lowercase();
                self.functions.insert(name, node);
            }
            "if_statement" => {
                let parts = Self::named(node);
                if self.value(parts[0]).is_true() {
                    return self.statements(parts[1], out);
                }
                for more in &parts[2..] {
                    match more.kind() {
                        "elseif_clauses" => {
                            for clause in Self::named(*more) {
                                let parts = Self::named(clause);
                                if self.value(parts[0]).is_true() {
                                    return self.statements(parts[1], out);
                                }
                            }
                        }
                        _ => {
                            return self
                                .statements(Self::child(*more, "statement_block").unwrap(), out);
                        }
                    }
                }
            }
            "foreach_statement" => {
                let parts = Self::named(node);
                let name = self.of(parts[0]).trim_start_matches('$').to_lowercase();
                for one in self.value(parts[1]).all() {
                    self.set(&name, one);
                    match self.statements(parts[2], out) {
                        Flow::Leave => break,
                        Flow::Return => return Flow::Return,
                        Flow::On | Flow::Next => {}
                    }
                }
            }
            "while_statement" => {
                let parts = Self::named(node);
                while self.value(parts[0]).is_true() {
                    match self.statements(parts[1], out) {
                        Flow::Leave => break,
                        Flow::Return => return Flow::Return,
                        Flow::On | Flow::Next => {}
                    }
                }
            }
            "for_statement" => {
                let parts = Self::named(node);
                let [begin, asked, step, body] = parts.as_slice() else {
                    panic!("{}", self.of(node));
                };
                self.value(*begin);
                while self.value(*asked).is_true() {
                    match self.statements(*body, out) {
                        Flow::Leave => break,
                        Flow::Return => return Flow::Return,
                        Flow::On | Flow::Next => {}
                    }
                    self.value(*step);
                }
            }
            "try_statement" => {
                return self.statements(Self::child(node, "statement_block").unwrap(), out);
            }
            "flow_control_statement" => {
                if let Some(value) = Self::named(node).first() {
                    out.extend(self.value(*value).all());
                }
                return match self.of(node).split_whitespace().next() {
                    Some("return") => Flow::Return,
                    Some("break") => Flow::Leave,
                    _ => Flow::Next,
                };
            }
            "pipeline" => {
                // An assignment says nothing, nor does what counts on by itself.
                let is_quiet = node
                    .named_child(0)
                    .is_some_and(|n| n.kind() == "assignment_expression")
                    || self.of(node).ends_with("++");
                let value = self.value(node);
                if !is_quiet {
                    out.extend(value.all());
                }
            }
            other => panic!("{other}: {}", self.of(node)),
        }
        Flow::On
    }

    fn one(mut out: Vec<Value>) -> Value {
        match out.len() {
            0 => Null,
            1 => out.remove(0),
            _ => list(out),
        }
    }

    fn call(&mut self, name: &str, arguments: Vec<Value>) -> Value {
        let node = *self
            .functions
            .get(name)
            .unwrap_or_else(|| panic!("no function {name}"));
        let mut own = BTreeMap::new();
        let mut arguments = arguments.into_iter();
        if let Some(declared) = Self::child(node, "function_parameter_declaration") {
            for parameter in Self::named(Self::child(declared, "parameter_list").unwrap()) {
                let variable = Self::child(parameter, "variable").unwrap();
                let kind = Self::child(parameter, "attribute_list")
                    .map_or("", |n| self.of(n))
                    .to_lowercase();
                let value = arguments.next().unwrap_or(Null);
                let value = match kind.as_str() {
                    "[string]" => text(&value.text()),
                    "[int]" => Number(value.number().round()),
                    "[bool]" => Bool(value.is_true()),
                    _ => value,
                };
                own.insert(
                    self.of(variable).trim_start_matches('$').to_lowercase(),
                    value,
                );
            }
        }
        assert!(arguments.next().is_none(), "{name} is given too much");
        self.locals.push(own);
        let mut out = Vec::new();
        let body = Self::child(node, "script_block");
        if let Some(body) = body {
            self.statements(body, &mut out);
        }
        self.locals.pop();
        Self::one(out)
    }

    fn set(&mut self, name: &str, value: Value) {
        match name.strip_prefix("global:") {
            Some(name) => self.globals.insert(name.to_owned(), value),
            None => match self.locals.last_mut() {
                Some(own) => own.insert(name.to_owned(), value),
                None => self.globals.insert(name.to_owned(), value),
            },
        };
    }

    fn get(&self, name: &str) -> Value {
        let name = name.trim_start_matches("global:");
        // What a caller has is seen by what it calls.
        let own = self.locals.iter().rev().find_map(|own| own.get(name));
        own.or_else(|| self.globals.get(name))
            .cloned()
            .unwrap_or(Null)
    }

    fn assign(&mut self, place: Node<'t>, value: Value) {
        match place.kind() {
            "variable" => {
                let name = self.of(place).trim_start_matches('$').to_lowercase();
                self.set(&name, value);
            }
            "member_access" | "element_access" => {
                let parts = Self::named(place);
                let of = self.value(parts[0]);
                let key = match parts[1].kind() {
                    "member_name" => text(self.of(parts[1])),
                    _ => self.value(parts[1]),
                };
                match of {
                    Table(all) => {
                        all.borrow_mut().insert(key.key(), value);
                    }
                    List(all) => all.borrow_mut()[key.number() as usize] = value,
                    other => panic!("{}: {other:?}", self.of(place)),
                }
            }
            _ => self.assign(place.named_child(0).unwrap(), value),
        }
    }

    fn value(&mut self, node: Node<'t>) -> Value {
        let parts = Self::named(node);
        match node.kind() {
            "assignment_expression" => {
                let value = self.value(parts[2]);
                let value = match self.of(parts[1]) {
                    "=" => value,
                    "+=" => {
                        let before = self.value(parts[0]);
                        Self::added(&before, &value)
                    }
                    other => panic!("{other}"),
                };
                self.assign(parts[0], value);
                Null
            }
            "command" => self.command(node),
            "variable" => {
                let name = self.of(node).trim_start_matches('$').to_lowercase();
                let name = name
                    .trim_start_matches('{')
                    .trim_end_matches('}')
                    .to_owned();
                if name == "matches" {
                    return list(self.matches.iter().map(|m| text(m)).collect());
                }
                self.get(&name)
            }
            "string_literal" => self.string(parts[0]),
            "decimal_integer_literal" => Number(self.of(node).parse().unwrap()),
            "array_expression" | "sub_expression" => {
                let mut out = Vec::new();
                self.statements(node, &mut out);
                match node.kind() {
                    "array_expression" => list(out),
                    _ => Self::one(out),
                }
            }
            "hash_literal_expression" => {
                let mut all = BTreeMap::new();
                let entries = Self::child(node, "hash_literal_body")
                    .map(Self::named)
                    .unwrap_or_default();
                for entry in entries {
                    let parts = Self::named(entry);
                    let key = self.of(parts[0]).to_lowercase();
                    let value = self.value(parts[1]);
                    all.insert(key, value);
                }
                Table(Rc::new(RefCell::new(all)))
            }
            "script_block_expression" => {
                self.blocks.push(node);
                Block(self.blocks.len() - 1)
            }
            "member_access" => {
                let name = self.of(parts[1]).to_lowercase();
                match parts[0].kind() {
                    "type_literal" => self.of_type(self.of(parts[0]), &name, &[]),
                    _ => {
                        let of = self.value(parts[0]);
                        self.member(&of, &name)
                    }
                }
            }
            "element_access" => {
                let of = self.value(parts[0]);
                let at = self.value(parts[1]);
                match (&of, &at) {
                    (Table(all), key) => all.borrow().get(&key.key()).cloned().unwrap_or(Null),
                    (Text(of), at) => of
                        .chars()
                        .nth(at.number() as usize)
                        .map_or(Null, |c| text(&c.to_string())),
                    (of, at) => {
                        let all = of.all();
                        let one = |n: f64| {
                            let n = if n < 0.0 { n + all.len() as f64 } else { n };
                            all.get(n as usize).cloned().unwrap_or(Null)
                        };
                        match at {
                            List(many) => {
                                list(many.borrow().iter().map(|n| one(n.number())).collect())
                            }
                            n => one(n.number()),
                        }
                    }
                }
            }
            "invokation_expression" => {
                let arguments = Self::child(node, "argument_list");
                let arguments = arguments.and_then(|n| Self::child(n, "argument_expression_list"));
                let arguments: Vec<Value> = arguments
                    .map(Self::named)
                    .unwrap_or_default()
                    .into_iter()
                    .map(|n| self.value(n))
                    .collect();
                let name = self.of(parts[1]).to_lowercase();
                match parts[0].kind() {
                    "type_literal" => self.of_type(self.of(parts[0]), &name, &arguments),
                    _ => {
                        let of = self.value(parts[0]);
                        self.method(&of, &name, &arguments)
                    }
                }
            }
            "cast_expression" => {
                let value = self.value(parts[1]);
                match self.of(parts[0]).to_lowercase().as_str() {
                    "[int]" | "[long]" => Number(value.number().round()),
                    other => panic!("{other}"),
                }
            }
            "expression_with_unary_operator"
                if parts.len() == 1 && !self.of(node).ends_with("++") =>
            {
                if matches!(
                    parts[0].kind(),
                    "cast_expression" | "post_increment_expression"
                ) {
                    return self.value(parts[0]);
                }
                let value = self.value(parts[0]);
                let sign = self.of(node).chars().next();
                match sign {
                    Some(',') => list(vec![value]),
                    _ if self.of(node).to_lowercase().starts_with("-not") => Bool(!value.is_true()),
                    Some('-') => Number(-value.number()),
                    _ => panic!("{}", self.of(node)),
                }
            }
            "post_increment_expression" => {
                let value = Number(self.value(parts[0]).number() + 1.0);
                self.assign(parts[0], value);
                Null
            }
            "post_decrement_expression" => {
                let value = Number(self.value(parts[0]).number() - 1.0);
                self.assign(parts[0], value);
                Null
            }
            "array_literal_expression" if parts.len() > 1 => {
                let all = parts.into_iter().map(|n| self.value(n)).collect();
                list(all)
            }
            "command_argument_sep" => Null,
            _ => match parts.as_slice() {
                [] => panic!("{}: {}", node.kind(), self.of(node)),
                [one] => self.value(*one),
                _ => self.operation(node, &parts),
            },
        }
    }

    /// What is put between two values.
    fn operation(&mut self, node: Node<'t>, parts: &[Node<'t>]) -> Value {
        let (first, last) = (parts[0], parts[parts.len() - 1]);
        let sign = self.source[first.end_byte()..last.start_byte()]
            .trim()
            .to_lowercase();
        let left = self.value(first);
        match sign.as_str() {
            "-and" => return Bool(left.is_true() && self.value(last).is_true()),
            "-or" => return Bool(left.is_true() || self.value(last).is_true()),
            _ => {}
        }
        let right = self.value(last);
        let (a, b) = (&left, &right);
        let same = |exact: bool| match (a, b) {
            (Number(a), b) => {
                matches!(b, Null) == a.is_nan() && !matches!(b, Null) && *a == b.number()
            }
            (Null, b) => matches!(b, Null),
            (Bool(a), b) => *a == b.is_true(),
            (a, b) if exact => a.text() == b.text(),
            (a, b) => a.text().to_lowercase() == b.text().to_lowercase(),
        };
        match sign.as_str() {
            "+" => Self::added(a, b),
            "-" => Number(a.number() - b.number()),
            "*" => match a {
                Text(t) => text(&t.repeat(b.number() as usize)),
                _ => Number(a.number() * b.number()),
            },
            "/" => Number(a.number() / b.number()),
            "%" => Number(a.number() % b.number()),
            ".." => {
                let (a, b) = (a.number() as i64, b.number() as i64);
                let all: Vec<i64> = if a <= b {
                    (a..=b).collect()
                } else {
                    (b..=a).rev().collect()
                };
                list(all.into_iter().map(|n| Number(n as f64)).collect())
            }
            "-eq" => Bool(same(false)),
            "-ne" => Bool(!same(false)),
            "-ceq" => Bool(same(true)),
            "-cne" => Bool(!same(true)),
            "-gt" => Bool(a.number() > b.number()),
            "-ge" => Bool(a.number() >= b.number()),
            "-lt" => Bool(a.number() < b.number()),
            "-le" => Bool(a.number() <= b.number()),
            "-band" => Number(((a.number() as i64) & (b.number() as i64)) as f64),
            "-contains" => Bool(a.all().iter().any(|one| one.text() == b.text())),
            "-join" => text(
                &a.all()
                    .iter()
                    .map(Value::text)
                    .collect::<Vec<_>>()
                    .join(&b.text()),
            ),
            "-match" | "-cmatch" | "-notmatch" => {
                let case = if sign == "-cmatch" { "" } else { "(?i)" };
                let pattern = regex::Regex::new(&format!("{case}{}", b.text())).unwrap();
                let subject = a.text();
                let found = pattern.captures(&subject);
                if let Some(found) = &found {
                    self.matches = found
                        .iter()
                        .map(|m| m.map_or("", |m| m.as_str()).to_owned())
                        .collect();
                }
                Bool(found.is_some() != (sign == "-notmatch"))
            }
            "-replace" => {
                let [pattern, new] = [&b.all()[0], &b.all()[1]].map(Value::text);
                let pattern = pattern
                    .replace("\\u", "\\x")
                    .replace("\\x", "\\x{")
                    .split("\\x{")
                    .enumerate()
                    .map(|(i, part)| {
                        let digits = part.chars().take_while(char::is_ascii_hexdigit).count();
                        if i == 0 {
                            part.to_owned()
                        } else {
                            format!("\\x{{{}}}{}", &part[..digits], &part[digits..])
                        }
                    })
                    .collect::<String>();
                text(
                    &regex::Regex::new(&pattern)
                        .unwrap()
                        .replace_all(&a.text(), new.as_str()),
                )
            }
            other => panic!("{other}: {}", self.of(node)),
        }
    }

    fn added(a: &Value, b: &Value) -> Value {
        match a {
            List(_) => list([a.all(), b.all()].concat()),
            Number(a) => Number(a + b.number()),
            Null => b.clone(),
            _ => text(&format!("{}{}", a.text(), b.text())),
        }
    }

    fn string(&mut self, node: Node<'t>) -> Value {
        let raw = self.of(node);
        if node.kind() == "verbatim_string_characters" {
            let inner = &raw[1..raw.len() - 1];
            // A curved quote that stands twice is one, too.
            let mut out = String::new();
            let mut all = inner.chars().peekable();
            while let Some(c) = all.next() {
                out.push(c);
                if matches!(c, '\'' | '\u{2018}'..='\u{201b}') {
                    assert_eq!(all.next(), Some(c), "{raw}");
                }
            }
            return text(&out);
        }
        let (mut out, mut at) = (String::new(), node.start_byte() + 1);
        let end = node.end_byte() - 1;
        let plain = |from: usize, to: usize| {
            let piece = &self.source[from..to];
            piece
                .replace("`e", "\u{1b}")
                .replace("`n", "\n")
                .replace("\"\"", "\"")
        };
        let mut pieces: Vec<(String, Option<Node<'t>>)> = Vec::new();
        for part in Self::named(node) {
            pieces.push((plain(at, part.start_byte()), Some(part)));
            at = part.end_byte();
        }
        pieces.push((plain(at, end), None));
        for (before, part) in pieces {
            out.push_str(&before);
            if let Some(part) = part {
                out.push_str(&self.value(part).text());
            }
        }
        text(&out)
    }

    fn command(&mut self, node: Node<'t>) -> Value {
        let name = self
            .of(Self::child(node, "command_name").unwrap_or_else(|| panic!("{}", self.of(node))))
            .to_lowercase();
        let mut arguments = Vec::new();
        let elements = Self::child(node, "command_elements")
            .map(Self::named)
            .unwrap_or_default();
        for element in elements {
            match element.kind() {
                "command_argument_sep" | "command_parameter" => {}
                "generic_token" => arguments.push(text(self.of(element))),
                _ => arguments.push(self.value(element)),
            }
        }
        if self.functions.contains_key(&name) {
            return self.call(&name, arguments);
        }
        match name.as_str() {
            "id" => text(if self.at.root { "0" } else { "1000" }),
            "get-module" => Null,
            "get-history" => {
                let id = self.at.statuses.len();
                let took = self.at.duration as f64;
                let all = [
                    ("Id", Number(id as f64 + 1.0)),
                    ("StartExecutionTime", Number(0.0)),
                    ("EndExecutionTime", Number(took)),
                ];
                table(&all)
            }
            "get-job" => list((0..self.at.jobs).map(|n| Number(f64::from(n))).collect()),
            "get-item" => {
                let mode = if self.at.writable { 0o755 } else { 0o555 };
                let owner = text(if self.at.root { "0" } else { "1000" });
                table(&[(
                    "UnixStat",
                    table(&[
                        ("UserId", owner),
                        ("GroupId", text("5")),
                        ("Mode", Number(f64::from(mode))),
                    ]),
                )])
            }
            other => panic!("no command {other}"),
        }
    }

    fn member(&mut self, of: &Value, name: &str) -> Value {
        match (of, name) {
            (Table(all), _) => all.borrow().get(name).cloned().unwrap_or(Null),
            (List(all), "length" | "count") => Number(all.borrow().len() as f64),
            (Text(text), "length") => Number(text.encode_utf16().count() as f64),
            (Number(_), "totalmilliseconds") => of.clone(),
            (Null, _) => Null,
            (of, name) => panic!("{of:?}.{name}"),
        }
    }

    fn method(&mut self, of: &Value, name: &str, arguments: &[Value]) -> Value {
        let first = arguments.first().cloned().unwrap_or(Null);
        let kind = match of {
            Table(all) => all.borrow().get("type").map_or(String::new(), Value::text),
            _ => String::new(),
        };
        match (kind.as_str(), name) {
            ("screen", "lengthinbuffercells") => Number(prompt::cells(&first.text()) as f64),
            ("reader", "readline") => {
                let of = self.member(of, "text").text();
                of.lines().next().map_or(Null, text)
            }
            ("words", "add") => {
                self.lines.1 |= first.text().starts_with("alias.both=!");
                Null
            }
            (_, "dispose" | "close") => Null,
            ("environment", "remove") => Bool(true),
            ("process", "waitforexit") => Bool(true),
            ("said", "readtoendasync") => {
                let lines = if self.lines.1 { &self.lines.0 } else { "" };
                table(&[("Result", text(&format!("{}{lines}", self.git)))])
            }
            ("now", "tostring") => {
                let ((h, m, s), (year, month, day)) = (self.at.time, self.at.date);
                let twelve = if h % 12 == 0 { 12 } else { h % 12 };
                text(&match first.text().as_str() {
                    "HH:mm" => format!("{h:02}:{m:02}"),
                    "HH:mm:ss" => format!("{h:02}:{m:02}:{s:02}"),
                    "h:mm tt" => format!("{twelve}:{m:02} {}", if h < 12 { "AM" } else { "PM" }),
                    "h:mm:ss tt" => format!(
                        "{twelve}:{m:02}:{s:02} {}",
                        if h < 12 { "AM" } else { "PM" }
                    ),
                    "yyyy-MM-dd" => format!("{year:04}-{month:02}-{day:02}"),
                    other => panic!("{other}"),
                })
            }
            (_, "where") => {
                let Block(block) = first else {
                    panic!("{first:?}")
                };
                let body = Self::child(self.blocks[block], "script_block").unwrap();
                let kept = of.all().into_iter().filter(|one| {
                    self.set("_", one.clone());
                    let mut out = Vec::new();
                    self.statements(body, &mut out);
                    Self::one(out).is_true()
                });
                let kept: Vec<Value> = kept.collect();
                list(kept)
            }
            (_, _) => {
                let of = of.text();
                match name {
                    "startswith" => Bool(of.starts_with(&first.text())),
                    "substring" => {
                        let units: Vec<u16> = of.encode_utf16().collect();
                        let from = first.number() as usize;
                        let to = arguments
                            .get(1)
                            .map_or(units.len(), |n| from + n.number() as usize);
                        text(&String::from_utf16(&units[from..to]).unwrap())
                    }
                    "replace" => text(&of.replace(&first.text(), &arguments[1].text())),
                    "split" => {
                        let keeps = arguments.len() < 2;
                        let between = first.text();
                        let all = of.split(&between).filter(|p| keeps || !p.is_empty());
                        list(all.map(text).collect())
                    }
                    "enumeraterunes" => list(of.chars().map(|c| text(&c.to_string())).collect()),
                    "trim" => text(of.trim()),
                    "tolowerinvariant" => text(&of.to_lowercase()),
                    other => panic!("{of}.{other}"),
                }
            }
        }
    }

    fn of_type(&mut self, kind: &str, name: &str, arguments: &[Value]) -> Value {
        let first = arguments.first().map_or(String::new(), |v| match v {
            Table(_) | List(_) => String::new(),
            v => v.text(),
        });
        let numbers = || arguments.iter().map(Value::number);
        let reader =
            |text: &str| table(&[("type", Text("reader".into())), ("text", Text(text.into()))]);
        match (kind.to_lowercase().as_str(), name) {
            ("[math]", "max") => Number(numbers().fold(f64::MIN, f64::max)),
            ("[math]", "floor") => Number(numbers().next().unwrap_or_default().floor()),
            ("[io.path]", "combine") => {
                let mut out = String::new();
                for part in arguments.iter().map(Value::text) {
                    out = match part.starts_with('/') || out.is_empty() {
                        true => part,
                        false => format!("{}/{part}", out.trim_end_matches('/')),
                    };
                }
                text(&out)
            }
            ("[io.path]", "getdirectoryname") => match first.rfind('/') {
                Some(0) if first.len() > 1 => text("/"),
                Some(0) | None => Null,
                Some(i) => text(&first[..i]),
            },
            ("[io.path]", "getfilename") => text(first.rsplit('/').next().unwrap_or_default()),
            ("[io.path]", "pathseparator") => text(":"),
            ("[io.file]", "exists") => Bool(self.files.contains_key(&first)),
            ("[io.file]", "readalltext") => text(&self.files[&first]),
            ("[io.file]", "writealltext") => Null,
            ("[io.file]", "getlastwritetimeutc") => {
                Number(if first.contains("/.cache/") { 2.0 } else { 1.0 })
            }
            ("[io.directory]", "exists") => Bool(self.folders.contains(&first)),
            ("[io.directory]", "createdirectory") => Null,
            ("[io.directory]", "getdirectories" | "enumeratedirectories") => {
                let head = format!("{}/", first.trim_end_matches('/'));
                let below = self.folders.iter().filter(|f| {
                    f.strip_prefix(&head)
                        .is_some_and(|r| !r.is_empty() && !r.contains('/'))
                });
                list(below.map(|f| text(f)).collect())
            }
            ("[io.streamreader]", "new") => reader(&self.files[&first]),
            ("[io.fileinfo]", "new") => {
                let length = self.files.get(&first).map_or(0, String::len);
                table(&[
                    ("Exists", Bool(self.files.contains_key(&first))),
                    ("Length", Number(length as f64)),
                ])
            }
            ("[environment]", "username") => text(&self.at.user),
            ("[environment]", "machinename") => text(&self.at.host),
            ("[datetime]", "now") => table(&[("type", text("now"))]),
            ("[globalization.cultureinfo]" | "[stringcomparison]" | "[stringsplitoptions]", _) => {
                text(name)
            }
            ("[diagnostics.processstartinfo]", "new") => table(&[
                ("ArgumentList", table(&[("type", text("words"))])),
                ("Environment", table(&[("type", text("environment"))])),
            ]),
            ("[diagnostics.process]", "start") => table(&[
                ("type", text("process")),
                ("HasExited", Bool(true)),
                ("StandardInput", table(&[])),
                ("StandardOutput", table(&[("type", text("said"))])),
            ]),
            ("[diagnostics.stopwatch]", "startnew") => table(&[]),
            (kind, name) => panic!("{kind}::{name}"),
        }
    }
}
