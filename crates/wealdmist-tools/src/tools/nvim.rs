//! The editor Neovim: the colors of the theme in use and of the overrides in `init.lua` or
//! `init.vim`, and a theme file of our own generated from the roles.

use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::{Rgb, nearest_256};
use wealdmist_core::ledger::OUR_THEME;
use wealdmist_core::look::Look;
use wealdmist_core::plan::{Change, FileEdit, Splice};
use wealdmist_core::reading::{Drawn, FileProblem, Paint, SourceFile, ToolId, ToolReport, Value};
use wealdmist_core::role::{RoleId, Slot, Usage, lookup};
use wealdmist_core::text;

use super::shared::{self, Edits, Includer};
use super::{Adapter, Facts, Wanted};
use crate::access::Access;
use crate::document::lines;
use crate::document::lua::{self, Event, Value as Lua};

/// The tool's id.
pub const NVIM: ToolId = ToolId("nvim");

/// The adapter.
pub struct Nvim;

/// A highlight group: its name, the role of its text, the role of its ground, extra attributes.
struct GroupSpec(
    &'static str,
    Option<&'static str>,
    Option<&'static str>,
    &'static str,
);

const fn g(name: &'static str, text: &'static str) -> GroupSpec {
    GroupSpec(name, Some(text), None, "")
}

const fn gg(name: &'static str, text: &'static str, ground: &'static str) -> GroupSpec {
    GroupSpec(name, Some(text), Some(ground), "")
}

/// Every group we set. The first group with a role is the one its readings come from.
const GROUPS: &[GroupSpec] = &[
    gg("Normal", "foreground", "background"),
    gg("NormalFloat", "popup.text", "popup.ground"),
    gg("FloatBorder", "border.inactive", "popup.ground"),
    g("FloatTitle", "title"),
    gg("Cursor", "cursor-text", "cursor"),
    GroupSpec("CursorLine", None, Some("cursor-line"), ""),
    GroupSpec("CursorColumn", None, Some("cursor-line"), ""),
    GroupSpec("ColorColumn", None, Some("cursor-line"), ""),
    g("LineNr", "line-number"),
    gg("CursorLineNr", "line-number.current", "cursor-line"),
    g("SignColumn", "line-number"),
    gg("Folded", "folded", "cursor-line"),
    g("FoldColumn", "line-number"),
    g("WinSeparator", "border.inactive"),
    gg("StatusLine", "status.text", "status.ground"),
    gg(
        "StatusLineNC",
        "status.inactive.text",
        "status.inactive.ground",
    ),
    gg("WinBar", "status.text", "background"),
    gg("WinBarNC", "status.inactive.text", "background"),
    gg("TabLine", "tab.inactive.text", "tab.inactive.ground"),
    gg("TabLineSel", "tab.active.text", "tab.active.ground"),
    GroupSpec("TabLineFill", None, Some("tab.bar"), ""),
    GroupSpec("Visual", None, Some("selection"), ""),
    gg("Search", "search.text", "search.ground"),
    gg("IncSearch", "search.current.text", "search.current.ground"),
    gg("CurSearch", "search.current.text", "search.current.ground"),
    gg("Substitute", "search.current.text", "search.current.ground"),
    GroupSpec("MatchParen", Some("match"), None, "bold = true"),
    gg("Pmenu", "popup.text", "popup.ground"),
    gg("PmenuSel", "popup.selected.text", "popup.selected.ground"),
    GroupSpec("PmenuSbar", None, Some("popup.ground"), ""),
    GroupSpec("PmenuThumb", None, Some("border.inactive"), ""),
    gg("WildMenu", "popup.selected.text", "popup.selected.ground"),
    g("NonText", "whitespace"),
    g("Whitespace", "whitespace"),
    g("SpecialKey", "whitespace"),
    g("EndOfBuffer", "whitespace"),
    g("Conceal", "whitespace"),
    g("Directory", "directory"),
    GroupSpec("Title", Some("title"), None, "bold = true"),
    g("ErrorMsg", "error"),
    g("WarningMsg", "warning"),
    g("MoreMsg", "success"),
    g("Question", "success"),
    g("ModeMsg", "foreground"),
    GroupSpec("SpellBad", None, None, "undercurl = true, sp = error"),
    GroupSpec("SpellCap", None, None, "undercurl = true, sp = warning"),
    GroupSpec("SpellRare", None, None, "undercurl = true, sp = hint"),
    GroupSpec("SpellLocal", None, None, "undercurl = true, sp = info"),
    g("Comment", "comment"),
    g("Constant", "constant"),
    g("String", "string"),
    g("Character", "string"),
    g("Number", "number"),
    g("Boolean", "constant"),
    g("Float", "number"),
    g("Identifier", "variable"),
    g("Function", "function"),
    g("Statement", "keyword"),
    g("Conditional", "keyword"),
    g("Repeat", "keyword"),
    g("Label", "keyword"),
    g("Keyword", "keyword"),
    g("Exception", "keyword"),
    g("Operator", "operator"),
    g("PreProc", "preprocessor"),
    g("Include", "preprocessor"),
    g("Define", "preprocessor"),
    g("Macro", "preprocessor"),
    g("PreCondit", "preprocessor"),
    g("Type", "type"),
    g("StorageClass", "keyword"),
    g("Structure", "type"),
    g("Typedef", "type"),
    g("Special", "special"),
    g("SpecialChar", "special"),
    g("Tag", "special"),
    g("SpecialComment", "special"),
    g("Debug", "special"),
    g("Delimiter", "punctuation"),
    GroupSpec("Underlined", Some("url"), None, "underline = true"),
    g("Error", "error"),
    GroupSpec("Todo", Some("todo"), None, "bold = true"),
    g("DiagnosticError", "error"),
    g("DiagnosticWarn", "warning"),
    g("DiagnosticInfo", "info"),
    g("DiagnosticHint", "hint"),
    g("DiagnosticOk", "success"),
    GroupSpec(
        "DiagnosticUnderlineError",
        None,
        None,
        "undercurl = true, sp = error",
    ),
    GroupSpec(
        "DiagnosticUnderlineWarn",
        None,
        None,
        "undercurl = true, sp = warning",
    ),
    GroupSpec(
        "DiagnosticUnderlineInfo",
        None,
        None,
        "undercurl = true, sp = info",
    ),
    GroupSpec(
        "DiagnosticUnderlineHint",
        None,
        None,
        "undercurl = true, sp = hint",
    ),
    gg("DiffAdd", "diff.added.text", "diff.added.ground"),
    gg("DiffDelete", "diff.removed.text", "diff.removed.ground"),
    gg("DiffChange", "diff.changed.text", "diff.changed.ground"),
    GroupSpec(
        "DiffText",
        Some("diff.changed.text"),
        Some("diff.changed.ground"),
        "bold = true",
    ),
    g("Added", "diff.added.text"),
    g("Removed", "diff.removed.text"),
    g("Changed", "diff.changed.text"),
    g("diffAdded", "diff.added.text"),
    g("diffRemoved", "diff.removed.text"),
    g("diffChanged", "diff.changed.text"),
];

/// Captures of the syntax-tree highlighter, known from version 0.8 on.
const CAPTURES: &[GroupSpec] = &[
    g("@variable", "variable"),
    g("@variable.builtin", "special"),
    g("@constant", "constant"),
    g("@constant.builtin", "constant"),
    g("@module", "type"),
    g("@string", "string"),
    g("@string.escape", "special"),
    g("@string.special", "special"),
    g("@character", "string"),
    g("@boolean", "constant"),
    g("@number", "number"),
    g("@type", "type"),
    g("@type.builtin", "type"),
    g("@attribute", "preprocessor"),
    g("@property", "variable"),
    g("@function", "function"),
    g("@function.builtin", "function"),
    g("@function.macro", "preprocessor"),
    g("@constructor", "type"),
    g("@operator", "operator"),
    g("@keyword", "keyword"),
    g("@punctuation", "punctuation"),
    g("@comment", "comment"),
    GroupSpec("@comment.todo", Some("todo"), None, "bold = true"),
    g("@comment.error", "error"),
    g("@comment.warning", "warning"),
    GroupSpec("@markup.heading", Some("title"), None, "bold = true"),
    GroupSpec("@markup.link", Some("url"), None, "underline = true"),
    g("@markup.raw", "string"),
    g("@diff.plus", "diff.added.text"),
    g("@diff.minus", "diff.removed.text"),
    g("@diff.delta", "diff.changed.text"),
    g("@tag", "special"),
];

fn spec(group: &str) -> Option<&'static GroupSpec> {
    GROUPS
        .iter()
        .chain(CAPTURES)
        .find(|s| s.0.eq_ignore_ascii_case(group))
}

/// A highlight group with the colors it must have: text and ground.
pub type LiveGroup = (String, Option<Rgb>, Option<Rgb>);

/// The groups as the dotfiles have them, to tell a running editor or to ask it. `only` limits it
/// to what one file says.
#[must_use]
pub fn live_groups(report: &ToolReport, only: Option<&Path>) -> Vec<LiveGroup> {
    let mut out: Vec<LiveGroup> = Vec::new();
    for reading in report.readings.iter().filter(|r| r.effective) {
        let Value::Color(color) = reading.value else {
            continue;
        };
        if only.is_some_and(|p| *reading.place.path != *p) {
            continue;
        }
        let role = reading.role.as_str();
        let text = match spec(&reading.key) {
            Some(spec) if spec.1 == Some(role) => true,
            Some(spec) if spec.2 == Some(role) => false,
            _ => role.ends_with(".text"),
        };
        // Captures need a newer editor than some have; the groups they link to are asked.
        if reading.key.starts_with('@') {
            continue;
        }
        let i = out
            .iter()
            .position(|g| g.0 == reading.key)
            .unwrap_or_else(|| {
                out.push((reading.key.clone(), None, None));
                out.len() - 1
            });
        if text {
            out[i].1 = Some(color)
        } else {
            out[i].2 = Some(color)
        }
    }
    out
}

fn folder(access: &dyn Access) -> PathBuf {
    access.config_home().join("nvim")
}

fn theme_path(access: &dyn Access) -> PathBuf {
    folder(access)
        .join("colors")
        .join(format!("{OUR_THEME}.lua"))
}

/// The mark that a theme file is ours.
const MARK: &str = "-- Generated by wealdmist from setup.toml";

/// The generated theme file.
#[must_use]
pub fn generate(look: &Look) -> String {
    let mut out = String::with_capacity(16 << 10);
    let variant = if look.dark { "dark" } else { "light" };
    out.push_str(MARK);
    out.push_str("; `wealdmist apply` writes it anew.\n-- Put colors of your own after the colorscheme line in your init file.\n");
    out.push_str(&format!(
        "if vim.o.background ~= \"{variant}\" then vim.o.background = \"{variant}\" end\n"
    ));
    out.push_str("vim.cmd(\"hi clear\")\nif vim.fn.exists(\"syntax_on\") == 1 then vim.cmd(\"syntax reset\") end\n");
    out.push_str("local depth = vim.env.COLORTERM\nif (depth == \"truecolor\" or depth == \"24bit\") and not vim.o.termguicolors then\n  vim.o.termguicolors = true\nend\n");
    out.push_str(&format!(
        "vim.g.colors_name = \"{OUR_THEME}\"\n\nlocal set = vim.api.nvim_set_hl\n"
    ));
    for spec in GROUPS {
        out.push_str(&set_line(spec, look));
    }
    out.push_str("\nif vim.fn.has(\"nvim-0.8\") == 1 then\n");
    for spec in CAPTURES {
        out.push_str("  ");
        out.push_str(&set_line(spec, look));
    }
    out.push_str("end\n\n");
    for (i, color) in look.ansi.iter().enumerate() {
        out.push_str(&format!("vim.g.terminal_color_{i} = \"{color}\"\n"));
    }
    out
}

fn set_line(spec: &GroupSpec, look: &Look) -> String {
    let mut fields = Vec::new();
    for (role, gui, cterm) in [(spec.1, "fg", "ctermfg"), (spec.2, "bg", "ctermbg")] {
        let Some(role) = role.map(RoleId::known) else {
            continue;
        };
        let color = look.color(&role);
        fields.push(format!("{gui} = \"{color}\""));
        let index = match look.slot_of(&role).and_then(Slot::ansi) {
            Some(index) => index,
            None => nearest_256(color),
        };
        // Without 24-bit color the terminal's own ground and text are the right ones.
        if !matches!(role.as_str(), "foreground" | "background") {
            fields.push(format!("{cterm} = {index}"));
        }
    }
    if let Some(role) = spec.1 {
        let attrs = look.attrs(&RoleId::known(role));
        for (on, name) in [
            (attrs.bold, "bold"),
            (attrs.italic, "italic"),
            (attrs.underline, "underline"),
        ] {
            if on && !spec.3.contains(name) {
                fields.push(format!("{name} = true"));
            }
        }
    }
    match spec.3.split_once("sp = ") {
        Some((rest, role)) => {
            fields.push(rest.trim_end_matches([',', ' ']).to_owned());
            let role = RoleId::new(role);
            fields.push(format!("sp = \"{}\"", look.color(&role)));
        }
        None if spec.3.is_empty() => {}
        None => fields.push(spec.3.to_owned()),
    }
    format!("set(0, \"{}\", {{ {} }})\n", spec.0, fields.join(", "))
}

/// What one file says, in order.
#[derive(Debug, Clone)]
enum Said {
    Scheme {
        name: String,
        span: Range<usize>,
        at: usize,
    },
    Color {
        group: String,
        text: bool,
        value: Value,
        span: Range<usize>,
        at: usize,
    },
    Font {
        family: (String, Range<usize>),
        size: Option<(f64, Range<usize>)>,
        at: usize,
    },
    TrueColor {
        on: bool,
        span: Range<usize>,
        at: usize,
    },
}

impl Said {
    const fn at(&self) -> usize {
        match self {
            Self::Scheme { at, .. }
            | Self::Color { at, .. }
            | Self::Font { at, .. }
            | Self::TrueColor { at, .. } => *at,
        }
    }
}

fn color(text: &str) -> Option<Value> {
    if text.eq_ignore_ascii_case("none") {
        return Some(Value::Default);
    }
    Rgb::from_hex(text)
        .filter(|_| text.len() == 7)
        .map(Value::Color)
}

/// Reads a Lua file.
fn said_in_lua(bytes: &[u8]) -> Result<Vec<Said>, lua::Problem> {
    let mut out = Vec::new();
    for event in lua::events(bytes)? {
        match event {
            Event::Call {
                name,
                arguments,
                at,
            } => lua_call(&name, &arguments, at, &mut out),
            Event::Assign { name, value, at } => lua_assign(&name, &value, at, &mut out),
        }
    }
    Ok(out)
}

fn lua_call(name: &str, arguments: &[Lua], at: usize, out: &mut Vec<Said>) {
    match (name, arguments) {
        (
            "vim.cmd" | "vim.api.nvim_command" | "vim.api.nvim_exec" | "vim.api.nvim_exec2",
            [Lua::Text { raw, span }, ..],
        ) => {
            vim_lines(raw.as_bytes(), span.start, at, out);
        }
        ("vim.cmd.colorscheme", [Lua::Text { raw, span }, ..]) => {
            out.push(Said::Scheme {
                name: raw.clone(),
                span: span.clone(),
                at,
            });
        }
        // nvim_set_hl under whatever local name it has: a number, a group, a table of colors.
        (
            _,
            [
                Lua::Other { .. },
                Lua::Text { raw: group, .. },
                Lua::Table(fields),
            ],
        ) => {
            for (key, value) in fields {
                let text = match key.as_str() {
                    "fg" | "foreground" => true,
                    "bg" | "background" => false,
                    _ => continue,
                };
                if let Lua::Text { raw, span } = value
                    && let Some(value) = color(raw)
                {
                    out.push(Said::Color {
                        group: group.clone(),
                        text,
                        value,
                        span: span.clone(),
                        at,
                    });
                }
            }
        }
        _ => {}
    }
}

fn lua_assign(name: &str, value: &Lua, at: usize, out: &mut Vec<Said>) {
    let option = ["vim.o.", "vim.opt.", "vim.go."]
        .iter()
        .find_map(|p| name.strip_prefix(p));
    match (option, value) {
        (Some("guifont"), Lua::Text { raw, span }) => font(raw, span.start, at, out),
        (Some("termguicolors"), Lua::Other { text, span }) if !span.is_empty() => {
            out.push(Said::TrueColor {
                on: text == "true",
                span: span.clone(),
                at,
            });
        }
        _ => {}
    }
}

/// A font as the graphical front ends take it: `Family:h12`, further fonts after a comma.
fn font(raw: &str, start: usize, at: usize, out: &mut Vec<Said>) {
    let first = raw.split(',').next().unwrap_or_default();
    let family = first.split(':').next().unwrap_or_default();
    if family.is_empty() {
        return;
    }
    let mut offset = family.len();
    let mut size = None;
    for part in first[family.len()..].split(':').skip(1) {
        offset += 1;
        if let Some(digits) = part.strip_prefix('h')
            && let Ok(n) = digits.parse::<f64>()
        {
            size = Some((n, start + offset + 1..start + offset + part.len()));
        }
        offset += part.len();
    }
    let name = family.replace("\\ ", " ").replace('_', " ");
    out.push(Said::Font {
        family: (name, start..start + family.len()),
        size,
        at,
    });
}

/// Reads lines of the editor's own command language, each at its place in the file.
fn vim_lines(source: &[u8], offset: usize, base: usize, out: &mut Vec<Said>) {
    for line in lines::lines(source) {
        let words: Vec<Range<usize>> = words(source, line.span.clone());
        let text = |r: &Range<usize>| std::str::from_utf8(&source[r.clone()]).unwrap_or_default();
        let Some(first) = words.first() else { continue };
        let at = if offset == 0 { line.span.start } else { base };
        let place = |r: &Range<usize>| offset + r.start..offset + r.end;
        let command = text(first)
            .trim_start_matches([':', ' '])
            .trim_end_matches('!');
        let is = |full: &str, least: usize| command.len() >= least && full.starts_with(command);
        if is("colorscheme", 4) {
            if let Some(name) = words.get(1) {
                let name_text = text(name).to_owned();
                out.push(Said::Scheme {
                    name: name_text,
                    span: place(name),
                    at,
                });
            }
        } else if is("highlight", 2) {
            let mut rest = words[1..].iter();
            let Some(group) = rest.next().map(text) else {
                continue;
            };
            for word in rest {
                let Some((key, value)) = text(word).split_once('=') else {
                    continue;
                };
                let is_text = match key.to_ascii_lowercase().as_str() {
                    "guifg" => true,
                    "guibg" => false,
                    _ => continue,
                };
                if let Some(found) = color(value) {
                    let span = word.end - value.len()..word.end;
                    let group = group.to_owned();
                    out.push(Said::Color {
                        group,
                        text: is_text,
                        value: found,
                        span: place(&span),
                        at,
                    });
                }
            }
        } else if is("set", 2) || command == "setglobal" {
            for word in &words[1..] {
                let option = text(word);
                if let Some(value) = option.strip_prefix("guifont=") {
                    font(value, offset + word.end - value.len(), at, out);
                } else if matches!(
                    option,
                    "termguicolors" | "tgc" | "notermguicolors" | "notgc"
                ) {
                    out.push(Said::TrueColor {
                        on: !option.starts_with("no"),
                        span: place(word),
                        at,
                    });
                }
            }
        }
    }
}

/// The words of a line; a backslash keeps the blank after it in the word.
fn words(bytes: &[u8], line: Range<usize>) -> Vec<Range<usize>> {
    let mut out: Vec<Range<usize>> = Vec::new();
    let mut at = line.start;
    while at < line.end {
        while at < line.end && lines::is_blank(bytes[at]) {
            at += 1;
        }
        let start = at;
        while at < line.end && !lines::is_blank(bytes[at]) {
            at += if bytes[at] == b'\\' { 2 } else { 1 };
        }
        let end = at.min(line.end);
        if end > start {
            out.push(start..end);
        }
        at = end;
    }
    out
}

fn is_lua(path: &Path) -> bool {
    path.extension().is_some_and(|e| e == "lua")
}

impl Adapter for Nvim {
    fn id(&self) -> ToolId {
        NVIM
    }

    fn kind(&self) -> &'static str {
        "editor"
    }

    fn arrives(&self) -> &'static str {
        "at once, in every running Neovim of this home"
    }

    fn read(&self, access: &dyn Access, _: &mut Facts) -> ToolReport {
        let mut report = ToolReport::new(NVIM);
        let dir = folder(access);
        let (lua, vim) = (dir.join("init.lua"), dir.join("init.vim"));
        let file = shared::load(access, &mut report, &lua, &[], false)
            .or_else(|| shared::load(access, &mut report, &vim, &[], false));
        let Some(init) = file else { return report };
        if is_lua(&init.path) && !matches!(access.read(&vim), crate::access::Loaded::Missing) {
            report.problems.push(FileProblem {
                path: vim,
                at: None,
                message: "both init.lua and init.vim are here; Neovim reads only init.lua".into(),
                help: "remove one of them".into(),
                blocks_edits: false,
            });
        }
        let said = self.said(&init, &mut report);
        let scheme = said.iter().rev().find_map(|s| match s {
            Said::Scheme { name, span, at } => Some((name.clone(), span.clone(), *at)),
            _ => None,
        });
        if let Some((name, span, at)) = &scheme {
            let line = text::position(&init.bytes, *at).line;
            self.theme(access, &mut report, name, (init.path.clone(), line));
            let value = Value::Text(name.clone());
            report.readings.push(shared::reading(
                &init,
                &[],
                RoleId::known("theme"),
                "colorscheme",
                value,
                span.clone(),
            ));
        }
        let chosen_at = scheme.map_or(0, |s| s.2);
        for one in &said {
            // What stands before the theme is chosen is lost when the theme is.
            let lost = matches!(one, Said::Color { .. }) && one.at() < chosen_at;
            self.reading(&init, &[], one, !lost, &mut report);
        }
        self.only_last_counts(&mut report);
        let ours = theme_path(access);
        shared::collect_glyphs(&mut report, &["--", "\""], |p| p == ours);
        report.drawn = drawn(&report);
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Vec<FileEdit> {
        let mut edits = Edits::default();
        let generate_theme = wanted.setup.tool(NVIM.0).generate
            && (!report.files.is_empty() || access.has_program("nvim"));
        let ours = theme_path(access);
        let init = report.files.first();
        for reading in report
            .readings
            .iter()
            .filter(|r| r.editable && wanted.differs(NVIM, r))
        {
            let in_init = init.is_some_and(|f| *reading.place.path == *f.path);
            match reading.role.as_str() {
                "theme" | "symbols" => {}
                "depth" => edits.replace(
                    reading,
                    if reading.key == "termguicolors" {
                        "true"
                    } else {
                        "termguicolors"
                    },
                ),
                "font.family" => {
                    if let Some(family) = &wanted.setup.font.family {
                        let vim =
                            reading.key == "guifont" && !init.is_some_and(|f| is_lua(&f.path));
                        let with = if vim {
                            family.replace(' ', "\\ ")
                        } else {
                            family.clone()
                        };
                        edits.replace(reading, &with);
                    }
                }
                "font.size" => {
                    if let Some(size) = wanted.setup.font.size {
                        edits.replace(reading, shared::number(size).trim_end_matches(".0"));
                    }
                }
                // With a theme of our own, the colors of the one it replaces are of no account.
                _ if generate_theme && !in_init => {}
                _ => edits.replace(reading, &wanted.look.color(&reading.role).to_string()),
            }
        }
        if !generate_theme {
            return edits.finish(NVIM, report);
        }
        self.choose_theme(report, access, &ours, &mut edits);
        let mut out = edits.finish(NVIM, report);
        let now = match access.read(&ours) {
            crate::access::Loaded::File { target, bytes } => Some((target, bytes)),
            _ => None,
        };
        let target = now.as_ref().map_or_else(|| ours.clone(), |n| n.0.clone());
        out.push(FileEdit {
            tool: NVIM,
            path: ours,
            target,
            before: now.map(|n| n.1),
            change: Change::Whole(generate(wanted.look).into_bytes()),
        });
        out
    }
}

impl Nvim {
    fn said(&self, file: &SourceFile, report: &mut ToolReport) -> Vec<Said> {
        if !is_lua(&file.path) {
            let mut out = Vec::new();
            vim_lines(&file.bytes, 0, 0, &mut out);
            return out;
        }
        match said_in_lua(&file.bytes) {
            Ok(said) => said,
            Err(problem) => {
                report.problems.push(FileProblem {
                    path: file.path.clone(),
                    at: Some(text::position(&file.bytes, problem.at)),
                    message: problem.message,
                    help: "correct this place; the file is left alone until then".into(),
                    blocks_edits: true,
                });
                Vec::new()
            }
        }
    }

    /// Reads the theme in use, if its file is one of the person's own.
    fn theme(&self, access: &dyn Access, report: &mut ToolReport, name: &str, from: Includer) {
        if name.is_empty() || name.contains(['/', '\0']) {
            return;
        }
        let chain = [from];
        for end in ["vim", "lua"] {
            let path = folder(access).join("colors").join(format!("{name}.{end}"));
            if let Some(file) = shared::load(access, report, &path, &chain, false) {
                for one in self.said(&file, report) {
                    if matches!(one, Said::Color { .. }) {
                        self.reading(&file, &chain, &one, true, report);
                    }
                }
                return;
            }
        }
    }

    fn reading(
        &self,
        file: &SourceFile,
        chain: &[Includer],
        said: &Said,
        counts: bool,
        report: &mut ToolReport,
    ) {
        let mut push = |role: RoleId, key: &str, value: Value, span: &Range<usize>| {
            let mut r = shared::reading(file, chain, role, key, value, span.clone());
            r.effective = counts;
            report.readings.push(r);
        };
        match said {
            Said::Color {
                group,
                text,
                value,
                span,
                ..
            } => {
                let known = spec(group).and_then(|s| if *text { s.1 } else { s.2 });
                let role = match known {
                    Some(role) => RoleId::known(role),
                    None => RoleId::new(format!(
                        "nvim.{group}.{}",
                        if *text { "text" } else { "ground" }
                    )),
                };
                push(role, group, value.clone(), span);
            }
            Said::Font { family, size, .. } => {
                push(
                    RoleId::known("font.family"),
                    "guifont",
                    Value::Text(family.0.clone()),
                    &family.1,
                );
                if let Some((n, span)) = size {
                    push(
                        RoleId::known("font.size"),
                        "guifont",
                        Value::Number(*n),
                        span,
                    );
                }
            }
            Said::TrueColor { on, span, .. } => {
                let depth = if *on { "24-bit" } else { "256 colors" };
                let key = if is_lua(&file.path) {
                    "termguicolors"
                } else {
                    "set termguicolors"
                };
                push(
                    RoleId::known("depth"),
                    key,
                    Value::Text(depth.to_owned()),
                    span,
                );
            }
            Said::Scheme { .. } => {}
        }
    }

    /// Of the readings of one group's text or ground, the last counts.
    fn only_last_counts(&self, report: &mut ToolReport) {
        let mut seen = std::collections::HashSet::new();
        for reading in report.readings.iter_mut().rev().filter(|r| r.effective) {
            reading.effective = seen.insert((reading.key.clone(), reading.role.clone()));
        }
    }

    /// The one line that chooses our theme: the name in the line there is, or a new last line.
    fn choose_theme(
        &self,
        report: &ToolReport,
        access: &dyn Access,
        ours: &Path,
        edits: &mut Edits,
    ) {
        let why = format!("choose the theme {OUR_THEME}");
        let role = RoleId::known("theme");
        if let Some(reading) = report.effective(&role) {
            if reading.value != Value::Text(OUR_THEME.to_owned()) {
                edits.add(
                    &reading.place.path,
                    Splice {
                        range: reading.place.span.clone(),
                        with: OUR_THEME.as_bytes().to_vec(),
                        why: format!("{why} instead of {}", reading.value),
                        role: Some(role),
                        needs: Some(ours.to_owned()),
                    },
                );
            }
            return;
        }
        let (path, bytes) = match report.files.first() {
            Some(file) => (file.path.clone(), &file.bytes[..]),
            None => (folder(access).join("init.lua"), &[][..]),
        };
        let line = if is_lua(&path) {
            format!("vim.cmd(\"colorscheme {OUR_THEME}\")")
        } else {
            format!("colorscheme {OUR_THEME}")
        };
        let mut splice = shared::append_line(bytes, &line, why);
        splice.role = Some(role);
        splice.needs = Some(ours.to_owned());
        edits.add(&path, splice);
    }
}

/// What the editor draws: the groups whose colors stand in a file of the person's.
fn drawn(report: &ToolReport) -> Vec<Drawn> {
    let mut out: Vec<Drawn> = Vec::new();
    let index = |group: &str, role: &str| {
        report
            .readings
            .iter()
            .rposition(|r| r.effective && r.key == group && r.role.as_str() == role)
    };
    for spec in GROUPS {
        let Some(text) = spec.1 else { continue };
        let text_index = index(spec.0, text);
        let ground_index = spec.2.and_then(|g| index(spec.0, g));
        if text_index.is_none() && ground_index.is_none() {
            continue;
        }
        let role = RoleId::known(text);
        let known = lookup(&role);
        let usage = known.map_or(Usage::Body, |k| k.usage);
        // A group without a ground of its own stands on that of Normal.
        let normal = || index("Normal", "background");
        let ground = match (spec.2, ground_index) {
            (Some(g), Some(i)) => Paint {
                role: RoleId::known(g),
                reading: Some(i),
            },
            _ => Paint {
                role: RoleId::known("background"),
                reading: normal(),
            },
        };
        out.push(Drawn {
            what: spec.0.to_owned(),
            text: Paint {
                role,
                reading: text_index,
            },
            ground,
            usage,
        });
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::{MEMORY_HOME, MemoryAccess};
    use proptest::prelude::*;
    use wealdmist_core::setup::SetupDoc;

    fn access(name: &str, init: &str) -> MemoryAccess {
        MemoryAccess::with(&[
            (name, init),
            (
                ".config/nvim/colors/creek.lua",
                "local s = vim.api.nvim_set_hl\ns(0, \"Comment\", { fg = \"#445566\" })\ns(0, 'Normal', { fg = \"#dddddd\", bg = \"#101010\" })\n",
            ),
        ])
    }

    fn read(access: &MemoryAccess) -> ToolReport {
        Nvim.read(access, &mut Facts::default())
    }

    fn said(report: &ToolReport) -> Vec<String> {
        let row = |r: &wealdmist_core::reading::Reading| format!("{}={}", r.role, r.value);
        report
            .readings
            .iter()
            .filter(|r| r.effective)
            .map(row)
            .collect()
    }

    const LUA: &str = "vim.o.guifont = \"ReedbedMono NF:h12\"\nvim.api.nvim_set_hl(0, \"LineNr\", { fg = \"#010101\" })\nvim.cmd('colorscheme creek')\nvim.api.nvim_set_hl(0, \"LineNr\", { fg = \"#020202\" })\nvim.cmd [[hi Comment guifg=#030303 gui=italic]]\n";

    #[test]
    fn theme_then_overrides_count() {
        let access = access(".config/nvim/init.lua", LUA);
        let report = read(&access);
        assert_eq!(
            said(&report),
            [
                "foreground=#dddddd",
                "background=#101010",
                "theme=creek",
                "font.family=ReedbedMono NF",
                "font.size=12",
                "line-number=#020202",
                "comment=#030303",
            ]
        );
        for r in report
            .readings
            .iter()
            .filter(|r| matches!(r.value, Value::Color(_)))
        {
            let file = report.file(&r.place.path).unwrap();
            assert_eq!(
                String::from_utf8_lossy(&file.bytes[r.place.span.clone()]),
                r.value.to_string()
            );
        }
    }

    #[test]
    fn the_old_init_file_is_read_too() {
        let vim = "set number tgc\nset guifont=ReedbedMono\\ NF:h11\ncolo creek\nhi! LineNr guifg=#040404 guibg=NONE\n\" comment ✗\n";
        let report = read(&access(".config/nvim/init.vim", vim));
        assert_eq!(
            said(&report)[3..],
            [
                "theme=creek",
                "depth=24-bit",
                "font.family=ReedbedMono NF",
                "font.size=11",
                "line-number=#040404",
                "nvim.LineNr.ground=default"
            ]
        );
    }

    const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\ncomment={color='#999999', italic=true}\n'line-number'='#777777'\n[font]\nfamily='Reedbed Mono NF'\nsize=13\n";

    fn planned(access: &MemoryAccess, setup: &str) -> Vec<(PathBuf, String)> {
        let setup = SetupDoc::parse("s", setup.as_bytes())
            .unwrap()
            .setup()
            .clone();
        let look = Look::new(&setup);
        let report = read(access);
        let edits = Nvim.plan(
            &Wanted {
                setup: &setup,
                look: &look,
            },
            &report,
            access,
        );
        let changed = edits
            .iter()
            .filter(|e| e.before.as_deref() != Some(&e.after()[..]));
        changed
            .map(|e| (e.path.clone(), String::from_utf8(e.after()).unwrap()))
            .collect()
    }

    #[test]
    fn one_word_chooses_the_theme_and_overrides_follow() {
        let mut access = access(".config/nvim/init.lua", LUA);
        let edits = planned(&access, SETUP);
        let want = LUA
            .replace("ReedbedMono NF:h12", "Reedbed Mono NF:h13")
            .replace("colorscheme creek", "colorscheme wealdmist")
            .replace("#020202", "#777777")
            .replace("#030303", "#999999");
        assert_eq!(edits[0].1, want);
        let theme = &edits[1].1;
        assert!(
            theme.contains(
                "set(0, \"Comment\", { fg = \"#999999\", ctermfg = 247, italic = true })"
            ),
            "{theme}"
        );
        for (path, text) in edits {
            access.files.insert(path, text.into_bytes());
        }
        assert!(planned(&access, SETUP).is_empty(), "a second plan is empty");
        let report = read(&access);
        assert!(report.problems.is_empty(), "{:?}", report.problems);
        assert!(said(&report).contains(&"comment=#999999".to_owned()));
    }

    #[test]
    fn a_person_may_keep_their_theme() {
        let access = access(".config/nvim/init.lua", LUA);
        let keep = format!("{SETUP}[tools.nvim]\ngenerate=false\n");
        let edits = planned(&access, &keep);
        assert!(edits.iter().all(|(p, _)| !p.ends_with("wealdmist.lua")));
        assert!(edits[0].1.contains("colorscheme creek"));
    }

    #[test]
    fn a_new_line_is_added_where_none_chooses_a_theme() {
        let mut access = MemoryAccess::with(&[(".config/nvim/init.vim", "set number")]);
        assert_eq!(
            planned(&access, SETUP)[0].1,
            "set number\ncolorscheme wealdmist\n"
        );
        access.files.clear();
        assert!(planned(&access, SETUP).is_empty(), "not installed");
        access.programs.push("nvim".into());
        let init = Path::new(MEMORY_HOME).join(".config/nvim/init.lua");
        assert_eq!(planned(&access, SETUP)[0].0, init);
    }

    #[test]
    fn broken_lua_is_left_alone() {
        let report = read(&access(".config/nvim/init.lua", "vim.o = = 3\n"));
        assert!(report.problems[0].blocks_edits && report.problems[0].at.unwrap().line == 1);
    }

    proptest! {
        #[test]
        fn any_vim_lines_are_read(text in "(hi|set|colo)? ?[a-z =#\\\\:,0-9\n]{0,80}") {
            let mut out = Vec::new();
            vim_lines(text.as_bytes(), 0, 0, &mut out);
            for said in out {
                let span = match said {
                    Said::Scheme { span, .. } | Said::Color { span, .. } | Said::TrueColor { span, .. } => span,
                    Said::Font { family, .. } => family.1,
                };
                prop_assert!(span.end <= text.len());
            }
        }
    }
}
