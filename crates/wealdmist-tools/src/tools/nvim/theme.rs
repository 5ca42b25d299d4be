//! The generated theme: every highlight group with the roles of its text and ground.

use std::collections::BTreeMap;

use wealdmist_core::color::nearest_256;
use wealdmist_core::look::Look;
use wealdmist_core::property::OUR_THEME;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::role::{RoleId, Slot};
use wealdmist_core::setup::{Palette, Setup, Variant};

use super::NVIM;
use crate::themed::Group;

const fn g(name: &'static str, text: &'static str) -> Group {
    more(name, Some(text), None, "")
}

const fn gg(name: &'static str, text: &'static str, ground: &'static str) -> Group {
    more(name, Some(text), Some(ground), "")
}

const fn more(
    name: &'static str,
    text: Option<&'static str>,
    ground: Option<&'static str>,
    more: &'static str,
) -> Group {
    Group {
        name,
        text,
        ground,
        more,
    }
}

/// Every group we set. The first group with a role is the one its readings come from.
pub const GROUPS: &[Group] = &[
    gg("Normal", "foreground", "background"),
    gg("NormalFloat", "popup.text", "popup.ground"),
    gg("FloatBorder", "border.inactive", "popup.ground"),
    g("FloatTitle", "title"),
    gg("Cursor", "cursor-text", "cursor"),
    more("CursorLine", None, Some("cursor-line"), ""),
    more("CursorColumn", None, Some("cursor-line"), ""),
    more("ColorColumn", None, Some("cursor-line"), ""),
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
    more("TabLineFill", None, Some("tab.bar"), ""),
    more("Visual", None, Some("selection"), ""),
    gg("Search", "search.text", "search.ground"),
    gg("IncSearch", "search.current.text", "search.current.ground"),
    gg("CurSearch", "search.current.text", "search.current.ground"),
    gg("Substitute", "search.current.text", "search.current.ground"),
    more("MatchParen", Some("match"), None, "bold = true"),
    gg("Pmenu", "popup.text", "popup.ground"),
    gg("PmenuSel", "popup.selected.text", "popup.selected.ground"),
    more("PmenuSbar", None, Some("popup.ground"), ""),
    more("PmenuThumb", None, Some("border.inactive"), ""),
    gg("WildMenu", "popup.selected.text", "popup.selected.ground"),
    g("NonText", "whitespace"),
    g("Whitespace", "whitespace"),
    g("SpecialKey", "whitespace"),
    g("EndOfBuffer", "whitespace"),
    g("Conceal", "whitespace"),
    g("Directory", "directory"),
    more("Title", Some("title"), None, "bold = true"),
    g("ErrorMsg", "error"),
    g("WarningMsg", "warning"),
    g("MoreMsg", "success"),
    g("Question", "success"),
    g("ModeMsg", "foreground"),
    more("SpellBad", None, None, "undercurl = true, sp = error"),
    more("SpellCap", None, None, "undercurl = true, sp = warning"),
    more("SpellRare", None, None, "undercurl = true, sp = hint"),
    more("SpellLocal", None, None, "undercurl = true, sp = info"),
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
    more("Underlined", Some("url"), None, "underline = true"),
    g("Error", "error"),
    more("Todo", Some("todo"), None, "bold = true"),
    g("DiagnosticError", "error"),
    g("DiagnosticWarn", "warning"),
    g("DiagnosticInfo", "info"),
    g("DiagnosticHint", "hint"),
    g("DiagnosticOk", "success"),
    more(
        "DiagnosticUnderlineError",
        None,
        None,
        "undercurl = true, sp = error",
    ),
    more(
        "DiagnosticUnderlineWarn",
        None,
        None,
        "undercurl = true, sp = warning",
    ),
    more(
        "DiagnosticUnderlineInfo",
        None,
        None,
        "undercurl = true, sp = info",
    ),
    more(
        "DiagnosticUnderlineHint",
        None,
        None,
        "undercurl = true, sp = hint",
    ),
    gg("DiffAdd", "diff.added.text", "diff.added.ground"),
    gg("DiffDelete", "diff.removed.text", "diff.removed.ground"),
    gg("DiffChange", "diff.changed.text", "diff.changed.ground"),
    more(
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
pub const CAPTURES: &[Group] = &[
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
    more("@comment.todo", Some("todo"), None, "bold = true"),
    g("@comment.error", "error"),
    g("@comment.warning", "warning"),
    more("@markup.heading", Some("title"), None, "bold = true"),
    more("@markup.link", Some("url"), None, "underline = true"),
    g("@markup.raw", "string"),
    g("@diff.plus", "diff.added.text"),
    g("@diff.minus", "diff.removed.text"),
    g("@diff.delta", "diff.changed.text"),
    g("@tag", "special"),
];

/// The mark that a theme file is ours.
const MARK: &str = "-- Generated by wealdmist from setup.toml";

/// The generated theme file. Where the setup has a dark and a light side and follows the desktop,
/// it holds both, and the editor takes the one of its `background`, which it follows by itself.
#[must_use]
pub fn generate(setup: &Setup, look: &Look) -> Code {
    let mut out = Code::default();
    let variant = Code::fixed(if look.dark { "dark" } else { "light" });
    let other = other_side(setup);
    out.push_fixed(MARK);
    out.push_fixed("; `wealdmist apply` writes it anew.\n-- Put colors of your own after the colorscheme line in your init file.\n");
    if other.is_none() {
        out.push(&Code::of(
            "if vim.o.background ~= \"{}\" then vim.o.background = \"{}\" end\n",
            &[&variant, &variant],
        ));
    }
    out.push_fixed("vim.cmd(\"hi clear\")\nif vim.fn.exists(\"syntax_on\") == 1 then vim.cmd(\"syntax reset\") end\n");
    out.push_fixed("local depth = vim.env.COLORTERM\nif (depth == \"truecolor\" or depth == \"24bit\") and not vim.o.termguicolors then\n  vim.o.termguicolors = true\nend\n");
    out.push(&Code::of(
        "vim.g.colors_name = \"{}\"\n\nlocal set = vim.api.nvim_set_hl\n",
        &[&Code::fixed(OUR_THEME)],
    ));
    match other {
        None => side(setup, look, &mut out),
        Some(palette) => {
            // The side in use stands last, as what counts where the file is read from the outside.
            let key = Code::fixed(palette.variant.key());
            let asks = Code::fixed(ASKS_SIDE);
            out.push(&Code::of("{}\"{}\" then\n", &[&asks, &key]));
            side(setup, &Look::with_palette(setup, palette), &mut out);
            out.push_fixed("else\n");
            side(setup, look, &mut out);
            out.push_fixed("end\n");
        }
    }
    out
}

/// How the theme asks which side the editor is on.
pub(super) const ASKS_SIDE: &str = "if vim.o.background == ";

/// The palette of the side that is not in use, where the tools follow the desktop.
fn other_side(setup: &Setup) -> Option<&Palette> {
    let (dark, light) = setup.followed()?;
    Some(match setup.palette().variant {
        Variant::Dark => light,
        Variant::Light => dark,
    })
}

/// The commands that set one side's colors.
fn side(setup: &Setup, look: &Look, out: &mut Code) {
    for spec in GROUPS {
        out.push(&set_line(spec, look));
    }
    for (name, roles) in own_groups(setup) {
        out.push(&own_line(&name, roles, setup, look));
    }
    out.push_fixed("\nif vim.fn.has(\"nvim-0.8\") == 1 then\n");
    for spec in CAPTURES {
        out.push_fixed("  ");
        out.push(&set_line(spec, look));
    }
    out.push_fixed("end\n\n");
    for (i, color) in (0u8..).zip(look.slots.ansi()) {
        let (i, color) = (Code::whole(i), Code::color(color));
        out.push(&Code::of(
            "vim.g.terminal_color_{} = \"{}\"\n",
            &[&i, &color],
        ));
    }
}

/// Groups that only the person's own files had: the setup keeps them as roles of this program. With each
/// the roles of its text and its ground.
fn own_groups(setup: &Setup) -> BTreeMap<Code, [Option<&RoleId>; 2]> {
    let mut groups: BTreeMap<Code, [Option<&RoleId>; 2]> = BTreeMap::new();
    for role in setup.roles.keys() {
        let name = role.as_str();
        let of_ours = name.strip_prefix(NVIM.id.0);
        let Some(rest) = of_ours.and_then(|rest| rest.strip_prefix('.')) else {
            continue;
        };
        let (group, side) = match (rest.strip_suffix(".text"), rest.strip_suffix(".ground")) {
            (Some(group), _) => (group, 0),
            (_, Some(group)) => (group, 1),
            _ => continue,
        };
        let is_name = |c: char| c.is_ascii_alphanumeric() || matches!(c, '_' | '.' | '@');
        // A part of a known group that had another color than its role has no group of that name.
        let known = NVIM.group(group).is_some() || group.contains(".own-");
        if known || group.is_empty() || !group.chars().all(is_name) {
            continue;
        }
        if let Some(name) = quote(group, &[Quoting::Inert, Quoting::LuaDouble]) {
            groups.entry(name).or_default()[side] = Some(role);
        }
    }
    groups
}

fn own_line(name: &Code, roles: [Option<&RoleId>; 2], setup: &Setup, look: &Look) -> Code {
    let colored = |role: &&RoleId| setup.roles.get(role).is_some_and(|s| s.color.is_some());
    let [text, ground] = roles.map(|role| role.filter(colored));
    let mut fields = colors([text, ground], look);
    if let Some(role) = roles[0] {
        for name in look.attrs(role).names() {
            fields.push(Code::of("{} = true", &[&Code::fixed(name)]));
        }
    }
    let fields = Code::join(&fields, ", ");
    Code::of("set(0, \"{}\", { {} })\n", &[name, &fields])
}

/// The fields of text and ground, for 24 bits and for fewer.
fn colors(roles: [Option<&RoleId>; 2], look: &Look) -> Vec<Code> {
    let mut fields = Vec::new();
    let keys = [("fg", "ctermfg"), ("bg", "ctermbg")];
    for (role, (gui, cterm)) in roles.into_iter().zip(keys) {
        let Some(role) = role else { continue };
        let color = look.color(role);
        fields.push(Code::of(
            "{} = \"{}\"",
            &[&Code::fixed(gui), &Code::color(color)],
        ));
        let index = match look.slot_of(role).and_then(Slot::ansi) {
            Some(index) => index,
            None => nearest_256(color),
        };
        // Without 24-bit color the terminal's own ground and text are the right ones.
        if !matches!(role.as_str(), "foreground" | "background") {
            fields.push(Code::of(
                "{} = {}",
                &[&Code::fixed(cterm), &Code::whole(index)],
            ));
        }
    }
    fields
}

fn set_line(spec: &Group, look: &Look) -> Code {
    let roles = [spec.text, spec.ground].map(|role| role.map(RoleId::known));
    let mut fields = colors([roles[0].as_ref(), roles[1].as_ref()], look);
    if let Some(role) = spec.text {
        let attrs = look.attrs(&RoleId::known(role));
        for name in attrs.names().filter(|name| !spec.more.contains(name)) {
            fields.push(Code::of("{} = true", &[&Code::fixed(name)]));
        }
    }
    match spec.more.split_once("sp = ") {
        Some((rest, role)) => {
            fields.push(Code::fixed(rest.trim_end_matches([',', ' '])));
            let role = RoleId::new(role);
            fields.push(Code::of("sp = \"{}\"", &[&Code::color(look.color(&role))]));
        }
        None if spec.more.is_empty() => {}
        None => fields.push(Code::fixed(spec.more)),
    }
    let fields = Code::join(&fields, ", ");
    Code::of(
        "set(0, \"{}\", { {} })\n",
        &[&Code::fixed(spec.name), &fields],
    )
}
