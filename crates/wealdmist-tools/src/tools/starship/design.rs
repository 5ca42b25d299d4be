//! Our design in the program's words: what its file can say of it, and what it cannot.

use wealdmist_core::look::Look;
use wealdmist_core::prompt::{BETWEEN, Design, Item, Kind, Part, Shape, Style, When, place, ties};
use wealdmist_core::role::RoleId;

use super::modules::LANGUAGES;
use super::write::{PALETTE, Said, Settings};

/// The settings that draw the design of a setup.
pub fn settings(look: &Look, design: &Design) -> Settings {
    let mut writer = Writer {
        look,
        design,
        out: Settings::default(),
        taken: Vec::new(),
    };
    writer.all();
    writer.out
}

struct Writer<'a> {
    look: &'a Look,
    design: &'a Design,
    out: Settings,
    /// The modules that have a format already.
    taken: Vec<String>,
}

/// A text as it stands in a format.
fn escaped(text: &str) -> String {
    let mut out = String::new();
    for c in text.chars() {
        if matches!(c, '[' | ']' | '(' | ')' | '$' | '\\') {
            out.push('\\');
        }
        out.push(c);
    }
    out
}

/// Whether the program draws a part when the design has it drawn.
const fn is_sayable(part: &Part) -> bool {
    matches!(
        (part.kind, part.when),
        (_, When::Always)
            | (Kind::User, When::Matters)
            | (Kind::Host, When::Matters | When::Remote)
            | (Kind::Remote, When::Remote)
            | (
                Kind::Branch | Kind::Changes | Kind::Operation,
                When::Repository
            )
            | (Kind::Status, When::Failed)
    )
}

/// How a role is called in the palette.
fn name(role: &RoleId) -> String {
    let plain = |c: char| match c {
        'a'..='z' | '0'..='9' | '.' | '-' | '_' => c,
        _ => '-',
    };
    role.as_str().to_lowercase().chars().map(plain).collect()
}

/// A module's format, with the text and the ground it stands on.
struct Drawn<'a> {
    part: &'a Part,
    /// The modules that are named, each with what stands for its value; none for what is text.
    modules: Vec<(String, String)>,
    /// That the folder cannot be written to, where the folder says so itself.
    locked: Option<&'a Part>,
}

impl<'a> Writer<'a> {
    fn all(&mut self) {
        let design = self.design;
        let last = design.lines.len().saturating_sub(1);
        let mut format = String::new();
        let mut right_format = String::new();
        for (n, line) in design.lines.iter().enumerate() {
            let mut drawn = String::new();
            if design.tie && last > 0 {
                let tie = ties(design.level)[match n {
                    0 => 0,
                    n if n == last => 2,
                    _ => 1,
                }];
                drawn.push_str(&self.between(tie));
            }
            let left = self.drawn(&line.left);
            let right = self.drawn(&line.right);
            drawn.push_str(&self.run(&left, true));
            let run = self.run(&right, false);
            if n == last {
                right_format = run;
                format.push_str(&drawn);
                format.push(' ');
                continue;
            }
            if !right.is_empty() {
                let blank = if design.stretch == ' ' { "" } else { " " };
                // The last column stays empty.
                drawn.push_str(&format!("{blank}$fill{blank}{run} "));
            }
            if !right.is_empty()
                && !right.iter().any(|one| one.part.is_always_shown())
                && design.stretch != ' '
            {
                let why = "it is drawn where nothing stands at the right edge, too";
                self.leave("the stretch of a line", why);
            }
            // A line is there where one of its parts is.
            let mut all = left.iter().chain(&right).peekable();
            format.push_str(&match all.peek().is_none() {
                true => String::new(),
                false if all.any(|one| one.part.is_always_shown()) => drawn + "$line_break",
                false => format!("({drawn}\n)"),
            });
        }
        let more = self.between(&design.more[place(design.level)]) + " ";
        let stretch = design.stretch.to_string();
        let between = RoleId::known(BETWEEN);
        let fill = self.style(Some(&between), None, false);
        let text = |text: &str| Said::Text(text.to_owned());
        let mut first = vec![
            ("palette".to_owned(), text(PALETTE)),
            ("format".to_owned(), Said::Text(format)),
            ("right_format".to_owned(), Said::Text(right_format)),
            ("continuation_prompt".to_owned(), Said::Text(more)),
            ("add_newline".to_owned(), Said::Is(design.blank)),
        ];
        first.append(&mut self.out.values);
        self.out.values = first;
        self.set("fill", "symbol", Said::Text(escaped(&stretch)));
        self.set("fill", "style", Said::Text(fill));
        if design.past != wealdmist_core::prompt::Past::Whole {
            self.leave("what remains of past prompts", "it draws the whole of them");
        }
    }

    fn set(&mut self, module: &str, key: &str, said: Said) {
        self.out.values.push((format!("{module}/{key}"), said));
    }

    fn leave(&mut self, what: &str, why: &'static str) {
        self.out.left.push((what.to_owned(), why));
    }

    fn style(&mut self, text: Option<&RoleId>, ground: Option<&RoleId>, styled: bool) -> String {
        let mut words = Vec::new();
        if let (Some(role), true) = (text, styled) {
            let attrs = self.look.attrs(role);
            let all = [
                (attrs.bold, "bold"),
                (attrs.italic, "italic"),
                (attrs.underline, "underline"),
            ];
            words.extend(all.into_iter().filter(|a| a.0).map(|a| a.1.to_owned()));
        }
        for (role, sign) in [(text, "fg"), (ground, "bg")] {
            if let Some(role) = role {
                words.push(format!("{sign}:{}", self.color(role)));
            }
        }
        words.join(" ")
    }

    fn color(&mut self, role: &RoleId) -> String {
        let name = name(role);
        self.out.colors.insert(name.clone(), role.clone());
        name
    }

    fn between(&mut self, text: &str) -> String {
        let between = RoleId::known(BETWEEN);
        match text.trim().is_empty() {
            true => text.to_owned(),
            false => format!(
                "[{}]({})",
                escaped(text),
                self.style(Some(&between), None, false)
            ),
        }
    }

    /// The parts of a side that the file can say.
    fn drawn(&mut self, parts: &'a [Part]) -> Vec<Drawn<'a>> {
        let mut out: Vec<Drawn<'a>> = Vec::new();
        for part in parts {
            if part.kind == Kind::Locked {
                let folder = out.last().filter(|d| d.part.kind == Kind::Folder);
                if folder.is_none() {
                    self.leave(&part.name, "it says that beside the folder alone");
                    continue;
                }
                let sign = [&part.before, part.sign(self.design.level), &part.after].concat();
                self.set("directory", "read_only", Said::Text(sign));
                if let Some(folder) = out.last_mut() {
                    folder.locked = Some(part);
                }
                continue;
            }
            if let Some(modules) = self.modules(part) {
                out.push(Drawn {
                    part,
                    modules,
                    locked: None,
                });
            }
        }
        out
    }

    /// The parts of a side with what joins them. What stands between two goes with the one that may not be there.
    fn run(&mut self, all: &[Drawn<'a>], rightward: bool) -> String {
        let has_ground = |d: &Drawn<'a>| d.part.ground.is_some();
        // Blocks that stand together are one.
        let together = |a: &Drawn<'a>, b: &Drawn<'a>| has_ground(a) && has_ground(b);
        let groups: Vec<&[Drawn<'a>]> = all.chunk_by(together).collect();
        // Where anything of a repository is, its branch is.
        let of_branch = |d: &Drawn<'a>| matches!(d.part.kind, Kind::Changes | Kind::Operation);
        let first = (0..groups.len()).find(|i| {
            let others = || groups[i + 1..].iter().flat_map(|group| group.iter());
            groups[*i].iter().any(|d| {
                d.part.is_always_shown() || (d.part.kind == Kind::Branch && others().all(of_branch))
            })
        });
        let mut out = String::new();
        for (i, group) in groups.iter().enumerate() {
            let mut between = |other: Option<&&[Drawn<'a>]>| match other {
                None => String::new(),
                Some(other) if has_ground(&group[0]) || has_ground(&other[0]) => " ".to_owned(),
                Some(_) => self.between(&self.design.gap.clone()),
            };
            let (mut head, mut tail) = (String::new(), String::new());
            match first {
                Some(first) if i > first => head = between(i.checked_sub(1).map(|i| &groups[i])),
                Some(first) if i == first => {}
                // What is missing at the right edge leaves no gap there.
                None if !rightward => head = between(i.checked_sub(1).map(|i| &groups[i])),
                _ => tail = between(groups.get(i + 1)),
            }
            out.push_str(&match has_ground(&group[0]) {
                false => self.part(&group[0], &head, &tail),
                true => self.blocks(group, &head, &tail, rightward),
            });
        }
        out
    }

    /// Blocks that stand together; what opens and closes them is there where one of them is.
    fn blocks(&mut self, group: &[Drawn<'a>], head: &str, tail: &str, rightward: bool) -> String {
        let mut out = String::new();
        for (i, one) in group.iter().enumerate() {
            let before = i.checked_sub(1).map(|i| group[i].part);
            let joined = self.head(before, one.part, rightward);
            out.push_str(&self.part(one, &joined, ""));
        }
        let close = self
            .design
            .close
            .joint(self.design.level, true)
            .solid
            .trim();
        if !close.is_empty() {
            out.push_str(&format!("[{}](fg:prev_bg)", escaped(close)));
        }
        // Brackets without a name in them are never drawn.
        match group.iter().all(|one| one.modules.is_empty()) {
            true => format!("{head}{out}{tail}"),
            false => format!("({head}{out}{tail})"),
        }
    }

    /// What stands before a part as it joins the one before it.
    fn head(&mut self, before: Option<&Part>, part: &Part, rightward: bool) -> String {
        let Some(to) = part.ground.as_ref() else {
            return String::new();
        };
        let (design, level) = (self.design, self.design.level);
        let Some(from) = before.and_then(|b| b.ground.as_ref()) else {
            let open = design.open.joint(level, false).solid.trim();
            let style = self.style(Some(to), None, false);
            return match open.is_empty() {
                true => String::new(),
                false => format!("[{}]({style})", escaped(open)),
            };
        };
        let joint = design.joint.joint(level, rightward);
        if design.joint.at(level) == Shape::None {
            return " ".to_owned();
        }
        if from == to {
            let style = self.style(Some(&part.text), Some(to), true);
            return format!("[{}]({style})", escaped(joint.thin));
        }
        let own = self.color(to);
        match (joint.solid.is_empty(), rightward) {
            (true, _) => String::new(),
            (false, true) => format!("[{}](fg:prev_bg bg:{own})", escaped(joint.solid)),
            (false, false) => format!("[{}](fg:{own} bg:prev_bg)", escaped(joint.solid)),
        }
    }

    /// A part: its modules named, and their formats said.
    fn part(&mut self, one: &Drawn<'a>, head: &str, tail: &str) -> String {
        let part = one.part;
        let blank = if part.ground.is_some() { " " } else { "" };
        let [before, after] = [&part.before, &part.after].map(|text| escaped(text));
        let sign = match part.kind {
            Kind::Changes if part.tells.style != Style::One => String::new(),
            Kind::Language => escaped(part.sign(self.design.level).trim_end()),
            Kind::Input => String::new(),
            _ => escaped(part.sign(self.design.level)),
        };
        if part.kind == Kind::Text {
            let style = self.style(Some(&part.text), part.ground.as_ref(), true);
            let says = escaped(&part.tells.says);
            return format!("{head}[{blank}{before}{sign}{says}{after}{blank}]({style}){tail}");
        }
        let mut out = String::new();
        for (module, value) in &one.modules {
            let failed = part.text_failed.as_ref();
            let text = failed.filter(|_| part.kind == Kind::Status);
            let text = text.unwrap_or(&part.text);
            let style = self.style(Some(text), part.ground.as_ref(), true);
            let style = match part.kind {
                Kind::User if part.text_root.is_some() => "$style".to_owned(),
                _ => style,
            };
            let format = match part.kind {
                Kind::Changes => {
                    format!("({head}[{blank}{before}{value}{after}{blank}]({style}){tail})")
                }
                Kind::Input => format!("{head}{value}{tail}"),
                _ => {
                    let locked = one.locked.map(|part| self.locked(part)).unwrap_or_default();
                    format!(
                        "{head}[{blank}{before}{sign}{value}{after}{blank}]({style}){locked}{tail}"
                    )
                }
            };
            self.set(module, "format", Said::Text(format));
            match module.split_once('/') {
                Some((kind, name)) => out.push_str(&format!("${{{kind}.{name}}}")),
                None => out.push_str(&format!("${module}")),
            }
        }
        out
    }

    fn locked(&mut self, part: &Part) -> String {
        let ground = part.ground.as_ref();
        let style = self.style(Some(&part.text), ground, true);
        let gap = match ground {
            Some(_) => String::new(),
            None => self.between(&self.design.gap.clone()),
        };
        let blank = if ground.is_some() { " " } else { "" };
        format!("({gap}[{blank}${{read_only}}{blank}]({style}))")
    }

    /// The modules of a part, each with what stands for its value, and what else they have to say. `None` where
    /// the file cannot say it.
    fn modules(&mut self, part: &Part) -> Option<Vec<(String, String)>> {
        let name = &part.name;
        if !is_sayable(part) {
            self.leave(name, "it cannot say when to draw it");
            return None;
        }
        if part.kind == Kind::Host && part.when == When::Matters {
            self.leave(
                name,
                "for root it is drawn only in a shell that was reached from elsewhere",
            );
        }
        let tells = &part.tells;
        let known: (&str, &str) = match part.kind {
            Kind::Folder => ("directory", "${path}"),
            Kind::User => ("username", "${user}"),
            Kind::Host => ("hostname", "${hostname}"),
            Kind::Branch => ("git_branch", "${branch}"),
            Kind::Changes => ("git_status", ""),
            Kind::Operation => (
                "git_state",
                "${state}( ${progress_current}/${progress_total})",
            ),
            Kind::Status => ("status", "${int}"),
            Kind::Duration => ("cmd_duration", "${duration}"),
            Kind::Jobs => ("jobs", "${number}"),
            Kind::Time => ("time", "${time}"),
            Kind::Battery => ("battery", "${percentage}"),
            Kind::Memory => ("memory_usage", "${ram_pct}"),
            Kind::Container => ("container", ""),
            Kind::Nested => ("shlvl", "${shlvl}"),
            Kind::System => ("os", "${name}"),
            Kind::Input => ("character", "${symbol}"),
            Kind::Text => return Some(Vec::new()),
            Kind::Language => return self.language(part),
            Kind::Variable => return self.variable(part, &tells.variable.clone(), "${env_value}"),
            Kind::Remote => return self.variable(part, "SSH_CONNECTION", ""),
            Kind::Date | Kind::Load | Kind::Mode | Kind::Locked => {
                self.leave(name, "it has nothing that says so");
                return None;
            }
        };
        let (module, value) = known;
        if self.taken.iter().any(|taken| taken == module) {
            self.leave(name, "it draws each of its modules in one way alone");
            return None;
        }
        self.taken.push(module.to_owned());
        self.details(part, module);
        let mut value = value.to_owned();
        if part.kind == Kind::Changes {
            value = "${conflicted}${staged}${renamed}${modified}${deleted}${typechanged}${untracked}${stashed}${ahead_behind}".to_owned();
        }
        let mut out = vec![(module.to_owned(), value)];
        if part.kind == Kind::Branch {
            // Where no branch is checked out the commit stands for it.
            out.push(("git_commit".to_owned(), "${hash}".to_owned()));
        }
        Some(out)
    }

    /// What a module has to say beside its format.
    fn details(&mut self, part: &Part, module: &str) {
        let tells = &part.tells;
        let name = part.name.as_str();
        let is = Said::Is;
        let text = |text: &str| Said::Text(text.to_owned());
        self.set(module, "disabled", is(false));
        if part.text_failed.is_some() && !matches!(part.kind, Kind::Input | Kind::Status) {
            self.leave(name, "it has no color of its own after a failure");
        }
        if part.text_root.is_some() && part.kind != Kind::User {
            self.leave(name, "it has no color of its own for root");
        }
        match part.kind {
            Kind::Folder => {
                self.set(
                    module,
                    "truncation_length",
                    Said::Number(tells.folders.into()),
                );
                self.set(module, "truncate_to_repo", is(tells.within));
                // What leads to a repository is no folder that is left out.
                let elided = match tells.within || tells.beginnings {
                    true => String::new(),
                    false => format!("{}/", self.design.elided),
                };
                self.set(module, "truncation_symbol", Said::Text(elided));
                if tells.within && tells.folders > 0 {
                    self.leave(name, "what is left out within a repository has no mark");
                }
                let begins = tells.beginnings && tells.folders > 0;
                if begins {
                    self.leave(
                        name,
                        "names are cut to one letter, whatever stands beside them",
                    );
                }
                self.set(
                    module,
                    "fish_style_pwd_dir_length",
                    Said::Number(u32::from(begins)),
                );
            }
            Kind::User => {
                self.set(module, "show_always", is(part.when == When::Always));
                if let Some(root) = &part.text_root {
                    let ground = part.ground.as_ref();
                    let user = self.style(Some(&part.text), ground, true);
                    let root = self.style(Some(root), ground, true);
                    self.set(module, "style_user", Said::Text(user));
                    self.set(module, "style_root", Said::Text(root));
                }
            }
            Kind::Host => {
                self.set(module, "ssh_only", is(part.when != When::Always));
                self.set(module, "trim_at", text("."));
            }
            Kind::Branch => {
                self.set(module, "only_attached", is(true));
                if tells.longest > 0 {
                    self.set(
                        module,
                        "truncation_length",
                        Said::Number(tells.longest.into()),
                    );
                    let elided = self.design.elided.clone();
                    if elided.chars().count() > 1 {
                        self.leave(name, "what is cut ends in one sign");
                    }
                    self.set(module, "truncation_symbol", Said::Text(elided));
                }
                self.set("git_commit", "disabled", is(false));
                self.set("git_commit", "only_detached", is(true));
            }
            Kind::Changes => self.changes(part),
            Kind::Operation => {
                for (key, word) in [
                    ("rebase", "rebase"),
                    ("merge", "merge"),
                    ("revert", "revert"),
                    ("cherry_pick", "cherry-pick"),
                    ("bisect", "bisect"),
                    ("am", "am"),
                    ("am_or_rebase", "rebase"),
                ] {
                    self.set(module, key, text(word));
                }
            }
            Kind::Status => {
                if tells.style != Style::One {
                    self.leave(name, "it draws the number alone");
                }
                self.set(module, "pipestatus", is(false));
            }
            Kind::Duration => {
                self.set(module, "min_time", Said::Number(tells.above));
                self.set(module, "show_milliseconds", is(false));
            }
            Kind::Jobs => {
                let least = tells.above.max(1);
                self.set(module, "threshold", Said::Number(least));
                self.set(module, "number_threshold", Said::Number(least));
            }
            Kind::Time => {
                let format = match (tells.twelve, tells.seconds) {
                    (false, false) => "%H:%M",
                    (false, true) => "%H:%M:%S",
                    (true, false) => "%-I:%M %P",
                    (true, true) => "%-I:%M:%S %P",
                };
                self.set(module, "time_format", text(format));
            }
            Kind::Battery if tells.below != 10 => {
                self.leave("what a battery is low by", "it is shown from 10 % on");
            }
            Kind::Memory => self.set(module, "threshold", Said::Number(tells.above)),
            Kind::Nested => self.set(module, "threshold", Said::Number(tells.above.max(2))),
            Kind::Input => self.input(part),
            _ => {}
        }
    }

    fn changes(&mut self, part: &Part) {
        let counted = matches!(part.tells.style, Style::Counts | Style::Lines);
        match part.tells.style {
            Style::One => self.leave(&part.name, "it has a sign for each kind of change"),
            Style::Lines => self.leave(&part.name, "its lines are a module of their own"),
            Style::Each | Style::Counts => {}
        }
        let keys: [(&str, Item); 12] = [
            ("conflicted", Item::Conflicts),
            ("staged", Item::Staged),
            ("renamed", Item::Staged),
            ("modified", Item::Unstaged),
            ("deleted", Item::Unstaged),
            ("typechanged", Item::Unstaged),
            ("untracked", Item::Untracked),
            ("stashed", Item::Stash),
            ("ahead", Item::Ahead),
            ("behind", Item::Behind),
            ("diverged", Item::Ahead),
            ("up_to_date", Item::Ahead),
        ];
        for (key, item) in keys {
            let of = |item: Item| {
                let at = Item::ALL
                    .iter()
                    .position(|i| *i == item)
                    .unwrap_or_default();
                escaped(&self.design.items[at])
            };
            let text = match (key, counted) {
                ("up_to_date", _) => String::new(),
                ("diverged", true) => {
                    format!(
                        "{}$ahead_count {}$behind_count ",
                        of(item),
                        of(Item::Behind)
                    )
                }
                ("diverged", false) => of(item) + &of(Item::Behind),
                (_, true) => format!("{}${{count}} ", of(item)),
                _ => of(item),
            };
            self.set("git_status", key, Said::Text(text));
        }
    }

    fn input(&mut self, part: &Part) {
        let level = place(self.design.level);
        let signs = &part.signs[level];
        let failed = part.signs_failed.as_ref().map_or(signs, |s| &s[level]);
        let root = part.signs_root.as_ref().map_or(signs, |s| &s[level]);
        if root != signs {
            self.leave(&part.name, "it has no sign of its own for root");
        }
        let ground = part.ground.as_ref();
        let blank = if ground.is_some() { " " } else { "" };
        let [before, after] = [&part.before, &part.after].map(|text| escaped(text));
        for (key, sign, role) in [
            ("success_symbol", signs, &part.text),
            (
                "error_symbol",
                failed,
                part.text_failed.as_ref().unwrap_or(&part.text),
            ),
            (
                "vimcmd_symbol",
                part.signs_command.as_ref().map_or(signs, |s| &s[level]),
                part.text_command.as_ref().unwrap_or(&part.text),
            ),
        ] {
            let style = self.style(Some(role), ground, true);
            let sign = escaped(sign);
            let text = format!("[{blank}{before}{sign}{after}{blank}]({style})");
            self.set("character", key, Said::Text(text));
        }
    }

    fn language(&mut self, part: &Part) -> Option<Vec<(String, String)>> {
        let module = LANGUAGES
            .iter()
            .find(|(module, own)| *own == part.name && !self.taken.iter().any(|t| t == module));
        let Some((module, _)) = module else {
            self.leave(&part.name, "it has nothing that says so");
            return None;
        };
        self.taken.push((*module).to_owned());
        self.details(part, module);
        self.set(module, "detect_files", Said::List(part.tells.files.clone()));
        for key in ["detect_extensions", "detect_folders"] {
            self.set(module, key, Said::List(Vec::new()));
        }
        if *module == "python" {
            self.set(module, "detect_env_vars", Said::List(Vec::new()));
        }
        let signless = part.sign(self.design.level).trim_end().is_empty();
        let name = if signless {
            escaped(&part.name)
        } else {
            String::new()
        };
        let mut value = name;
        if part.tells.version {
            self.set(module, "version_format", Said::Text("${raw}".to_owned()));
            value.push_str("( ${version})");
        }
        Some(vec![((*module).to_owned(), value)])
    }

    fn variable(
        &mut self,
        part: &Part,
        variable: &str,
        value: &str,
    ) -> Option<Vec<(String, String)>> {
        let module = format!("env_var/{variable}");
        let is_name = |c: char| c.is_ascii_alphanumeric() || c == '_';
        let twice = self.taken.contains(&module) || !variable.chars().all(is_name);
        if twice || variable.is_empty() {
            self.leave(&part.name, "it draws each of its modules in one way alone");
            return None;
        }
        self.taken.push(module.clone());
        self.details(part, &module);
        Some(vec![(module, value.to_owned())])
    }
}
