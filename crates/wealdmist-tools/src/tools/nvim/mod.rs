//! The editor Neovim: the colors of the theme in use and of the overrides in `init.lua` or
//! `init.vim`, and a theme file of our own generated from the roles.

mod fonts;
mod said;
mod theme;

use std::ops::Range;
use std::path::{Path, PathBuf};

use wealdmist_core::color::Rgb;
use wealdmist_core::glyph::Syntax;
use wealdmist_core::plan::{Plan, Splice};
use wealdmist_core::property::{OUR_THEME, Property};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{Drawn, FileProblem, Paint, SourceFile, ToolId, ToolReport, Value};
use wealdmist_core::role::{Group, RoleId, Usage, lookup};
use wealdmist_core::setup::Setup;
use wealdmist_core::text;

use super::glyphs;
use super::shared::{self, Edits, Includer};
use super::{Adapter, Facts, Live, Reload, Wanted};
use crate::access::Access;
use crate::document::lua_words;

use super::fonts::FontSyntax;
use fonts::GuiFonts;
use said::{Said, is_lua, said_in_lua, vim_lines};
use theme::{GROUPS, spec};

pub use theme::generate;

/// The tool's id.
pub const NVIM: ToolId = ToolId("nvim");

/// The adapter.
pub struct Nvim;

/// The escapes of a file: Lua, or the editor's own language.
fn syntax(path: &Path) -> Syntax {
    if is_lua(path) {
        Syntax::Lua
    } else {
        Syntax::Shell
    }
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

impl Adapter for Nvim {
    fn id(&self) -> ToolId {
        NVIM
    }

    fn kind(&self) -> &'static str {
        "editor"
    }

    fn fonts(&self) -> Option<&dyn FontSyntax> {
        Some(&GuiFonts)
    }

    fn live(&self) -> &Live {
        const LIVE: Live = Live::own(
            Reload::Socket,
            "at once, in every running Neovim of this home",
        );
        &LIVE
    }

    fn syntax(&self, path: &Path) -> Syntax {
        syntax(path)
    }

    fn quoting(&self, file: &SourceFile, places: &[usize]) -> Vec<Option<Vec<Quoting>>> {
        if !is_lua(&file.path) {
            let of = |at: &usize| match one_character(&file.bytes, *at) {
                true => Some(vec![Quoting::OneCharacter, Quoting::Word]),
                false => Some(vec![Quoting::Inert, Quoting::Word]),
            };
            return places.iter().map(of).collect();
        }
        let mut strings: Vec<(Range<usize>, Quoting, bool)> = Vec::new();
        let mut handed = false;
        for word in lua_words::words(&file.bytes) {
            match word.kind {
                lua_words::Kind::Comment => continue,
                lua_words::Kind::Text(quoting, true) => strings.push((word.inner, quoting, handed)),
                _ => {}
            }
            // What is handed to a function as it stands may be run by it.
            handed = matches!(
                word.kind,
                lua_words::Kind::Name | lua_words::Kind::Sign(b'(')
            );
        }
        let of = |at: &usize| {
            let next = strings.partition_point(|s| s.0.start <= *at);
            let (inner, quoting, handed) = &strings[next.checked_sub(1)?];
            let alone = || glyphs::is_sign_alone(&file.bytes, inner, *at);
            let reads = if one_character(&file.bytes, *at) {
                Quoting::OneCharacter
            } else if !handed && alone() {
                Quoting::BarText
            } else {
                Quoting::Inert
            };
            inner.contains(at).then(|| vec![reads, *quoting])
        };
        places.iter().map(of).collect()
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
            let line = init.position(*at).line;
            self.theme(access, &mut report, name, (init.path.clone(), line));
            let value = Value::Text(name.clone());
            report.readings.push(shared::reading(
                &init,
                &[],
                RoleId::from(Property::Theme),
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
        glyphs::collect(&mut report, &["--", "\""], syntax, |p| p == ours);
        report.drawn = drawn(&report);
        report
    }

    fn plan(&self, wanted: &Wanted, report: &ToolReport, access: &dyn Access) -> Plan {
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
                    Code::fixed(match reading.key.as_str() {
                        "termguicolors" => "true",
                        _ => "termguicolors",
                    }),
                ),
                "font.family" => {
                    let places = init.and_then(|f| self.font_quoting(f, reading.place.span.start));
                    let family = wanted.setup.font.family.as_ref().zip(places);
                    if let Some(with) = family.and_then(|(name, places)| quote(name, &places)) {
                        edits.replace(reading, with);
                    }
                }
                "font.size" => {
                    if let Some(size) = wanted.setup.font.size {
                        edits.replace(reading, Code::short_number(size));
                    }
                }
                // Written below, also where there are none yet.
                "font.fallback" => {}
                // With a theme of our own, the colors of the one it replaces are of no account.
                _ if generate_theme && !in_init => {}
                _ => edits.replace(reading, Code::color(wanted.look.color(&reading.role))),
            }
        }
        if let Some(file) = init {
            self.fallbacks(wanted.setup, file, &mut edits);
        }
        if !generate_theme {
            return edits.finish(NVIM, report).into();
        }
        self.choose_theme(report, access, &ours, &mut edits);
        let mut out = edits.finish(NVIM, report);
        let text = generate(wanted.setup, wanted.look);
        out.push(shared::own_file(NVIM, ours, access, text));
        out.into()
    }
}

impl Nvim {
    fn said(&self, file: &SourceFile, report: &mut ToolReport) -> Vec<Said> {
        if !is_lua(&file.path) {
            let mut out = Vec::new();
            vim_lines(&file.bytes, &|at| at, None, &[], &mut out);
            return out;
        }
        match said_in_lua(&file.bytes) {
            Ok(said) => said,
            Err(problem) => {
                report.problems.push(FileProblem {
                    path: file.path.clone(),
                    at: Some(file.position(problem.at)),
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
            Said::Font {
                family, size, rest, ..
            } => {
                push(
                    RoleId::from(Property::FontFamily),
                    "guifont",
                    Value::Text(family.0.clone()),
                    &family.1,
                );
                // Behind the first font, after a comma each, stand those it falls back to.
                if rest.len() > 1 {
                    let text = String::from_utf8_lossy(&file.bytes[rest.start + 1..rest.end]);
                    let families: Vec<String> = fonts::list(&text).map(fonts::family).collect();
                    push(
                        RoleId::from(Property::FontFallback),
                        "guifont",
                        Value::Text(families.join(", ")),
                        &(rest.start + 1..rest.end),
                    );
                }
                if let Some((n, span)) = size {
                    push(
                        RoleId::from(Property::FontSize),
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
                    RoleId::from(Property::Depth),
                    key,
                    Value::Text(depth.to_owned()),
                    span,
                );
            }
            Said::Scheme { .. } => {}
        }
    }

    /// Writes the fallbacks behind the font that graphical front ends are told, where one is.
    fn fallbacks(&self, setup: &Setup, file: &SourceFile, edits: &mut Edits) {
        let said = self.said(file, &mut ToolReport::new(NVIM));
        let font = said.iter().rev().find_map(|one| match one {
            Said::Font {
                size,
                rest,
                quoting,
                ..
            } => Some((size.as_ref().map(|s| s.0), rest, quoting)),
            _ => None,
        });
        let Some((now, rest, quoting)) = font.filter(|_| !setup.font.fallback.is_empty()) else {
            return;
        };
        let size = setup.font.size.or(now);
        let Some(list) = fonts::written(setup.font.fallback.iter(), size, quoting) else {
            return;
        };
        let with = Code::of(",{}", &[&list]);
        if file.bytes[rest.clone()] != *with {
            let splice = Splice {
                range: rest.clone(),
                why: format!("fallback font: {}", setup.font.fallback.join(", ")),
                with,
                role: Some(RoleId::from(Property::FontFallback)),
                needs: None,
            };
            edits.add(&file.path, splice);
        }
    }

    /// What reads the text of the font option that stands at a place.
    fn font_quoting(&self, file: &SourceFile, at: usize) -> Option<Vec<Quoting>> {
        let said = self.said(file, &mut ToolReport::new(NVIM));
        said.into_iter().find_map(|one| match one {
            Said::Font {
                family, quoting, ..
            } if family.1.start == at => Some(quoting),
            _ => None,
        })
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
        let role = RoleId::from(Property::Theme);
        if let Some(reading) = report.effective(&role) {
            if reading.value != Value::Text(OUR_THEME.to_owned()) {
                edits.add(
                    &reading.place.path,
                    Splice {
                        range: reading.place.span.clone(),
                        with: Code::fixed(OUR_THEME),
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
            Code::of("vim.cmd(\"colorscheme {}\")", &[&Code::fixed(OUR_THEME)])
        } else {
            Code::of("colorscheme {}", &[&Code::fixed(OUR_THEME)])
        };
        let mut splice = match last_return(bytes).filter(|_| is_lua(&path)) {
            // Nothing may stand after a file's last `return`.
            Some(at) => Splice {
                range: at..at,
                with: Code::of("{}{}", &[&line, &Code::fixed(text::line_end(bytes))]),
                why,
                role: None,
                needs: None,
            },
            None => shared::append_line(bytes, &line, why),
        };
        splice.role = Some(role);
        splice.needs = Some(ours.to_owned());
        edits.add(&path, splice);
    }
}

/// Whether a place stands in an option that gives single characters jobs, where more than one is
/// an error when the editor starts.
fn one_character(bytes: &[u8], at: usize) -> bool {
    /// How far before it the option's name may stand, in bytes.
    const REACH: usize = 600;
    let head = &bytes[at.saturating_sub(REACH)..at];
    let names: [&[u8]; 4] = [b"listchars", b"fillchars", b"lcs=", b"fcs="];
    let last = names
        .iter()
        .filter_map(|n| memchr::memmem::rfind(head, n))
        .max();
    last.is_some_and(|i| {
        let between = &head[i..];
        // A table may go over lines, a list of the editor's own language with a backslash each.
        let open = between.contains(&b'{') && !between.contains(&b'}');
        open || between
            .split(|b| *b == b'\n')
            .skip(1)
            .all(|line| line.trim_ascii_start().starts_with(b"\\"))
    })
}

/// Where the line of a file's last `return` begins, if that is its last line with anything on it.
fn last_return(bytes: &[u8]) -> Option<usize> {
    let end = bytes.iter().rposition(|b| !b.is_ascii_whitespace())?;
    let line = text::line_range(bytes, end);
    let rest = bytes[line.clone()].strip_prefix(b"return")?;
    rest.first()
        .is_none_or(|b| !b.is_ascii_alphanumeric() && *b != b'_')
        .then_some(line.start)
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
    let paint = |role: &'static str, reading: Option<usize>| Paint {
        role: RoleId::known(role),
        reading,
    };
    // A group without a ground of its own stands on that of Normal.
    let normal = paint("background", index("Normal", "background"));
    for spec in GROUPS {
        let Some(text) = spec.1 else { continue };
        let text_index = index(spec.0, text);
        let ground_index = spec.2.and_then(|g| Some((g, index(spec.0, g)?)));
        // A group that only colors the ground leaves its text the colors it has: see below.
        let only_ground = text_index.is_none() && spec.0.starts_with("Diff");
        if (text_index.is_none() && ground_index.is_none()) || only_ground {
            continue;
        }
        let known = lookup(&RoleId::known(text));
        out.push(Drawn {
            what: spec.0.to_owned(),
            text: paint(text, text_index),
            ground: ground_index.map_or(normal.clone(), |(g, i)| paint(g, Some(i))),
            usage: known.map_or(Usage::Body, |k| k.usage),
            fade: 1.0,
        });
    }
    // Text as it is elsewhere, on the grounds that are laid behind whole lines of it.
    for (group, role, place) in LINE_GROUNDS {
        let Some(i) = index(group, role) else {
            continue;
        };
        if spec(group).and_then(|s| index(group, s.1?)).is_some() {
            continue;
        }
        let mut seen = Vec::new();
        let texts: Vec<Drawn> = out
            .iter()
            .filter(|d| {
                let once = !seen.contains(&d.text.role);
                let fits = d.ground == normal && is_code(&d.text.role) && d.text.reading.is_some();
                if once && fits {
                    seen.push(d.text.role.clone());
                }
                once && fits
            })
            .map(|d| Drawn {
                what: format!("{} {place}", d.what),
                ground: paint(role, Some(i)),
                ..d.clone()
            })
            .collect();
        out.extend(texts);
    }
    out
}

/// Groups that lay a ground behind text of any color: the group, its role, where that is.
const LINE_GROUNDS: [(&str, &str, &str); 5] = [
    ("CursorLine", "cursor-line", "on the current line"),
    ("Visual", "selection", "in a selection"),
    ("DiffAdd", "diff.added.ground", "on an added line"),
    ("DiffDelete", "diff.removed.ground", "on a removed line"),
    ("DiffChange", "diff.changed.ground", "on a changed line"),
];

/// Whether a role is drawn in the text that is edited.
fn is_code(role: &RoleId) -> bool {
    matches!(role.group(), Group::Syntax | Group::Diagnostics) || role.as_str() == "foreground"
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::{MEMORY_HOME, MemoryAccess};
    use crate::tools::testing;
    use proptest::prelude::*;

    #[test]
    fn lines_of_code_are_pairs_on_every_ground_behind_them() {
        let theme = "local s = vim.api.nvim_set_hl\ns(0, 'Normal', { fg = '#dddddd', bg = '#101010' })\ns(0, 'Comment', { fg = '#667788' })\ns(0, 'CursorLine', { bg = '#181c20' })\ns(0, 'Visual', { bg = '#203040' })\ns(0, 'DiffAdd', { bg = '#102810' })\ns(0, 'DiffDelete', { fg = '#ff8888', bg = '#281010' })\n";
        let access = MemoryAccess::with(&[(".config/nvim/init.lua", theme)]);
        let report = Nvim.read(&access, &mut Facts::default());
        let what: Vec<&str> = report.drawn.iter().map(|d| d.what.as_str()).collect();
        for wanted in [
            "Comment",
            "Comment on the current line",
            "Comment in a selection",
            "Comment on an added line",
            "Normal on the current line",
            "DiffDelete",
        ] {
            assert!(what.contains(&wanted), "{wanted} is not in {what:?}");
        }
        // A group with a text color of its own shows no other text.
        assert!(!what.contains(&"Comment on a removed line") && !what.contains(&"DiffAdd"));
    }

    #[test]
    fn the_theme_holds_both_sides_where_the_setup_follows_the_desktop() {
        let text = "[palettes.a]\nforeground='#d0d1d2'\n[palettes.b]\nvariant='light'\nforeground='#202122'\n[appearance]\nfollow=true\n";
        let setup = |text: &str| {
            let doc = wealdmist_core::setup::SetupDoc::parse("s", text.as_bytes()).unwrap();
            doc.setup().clone()
        };
        let both = setup(text);
        let look = wealdmist_core::look::Look::new(&both);
        let theme = generate(&both, &look).lossy();
        assert!(theme.contains("if vim.o.background == \"light\" then"));
        let (light, dark) = (
            theme.find("#202122").unwrap(),
            theme.rfind("#d0d1d2").unwrap(),
        );
        assert!(light < dark, "the side in use stands last");
        assert!(!theme.contains("vim.o.background = "));
        let one = generate(&setup(&text.replace("true", "false")), &look).lossy();
        assert!(one.contains("vim.o.background = \"dark\"") && !one.contains("#202122"));
    }

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
        testing::planned(&Nvim, access, setup)
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
    fn fallbacks_stand_behind_the_font() {
        let setup = format!("{SETUP}fallback=['Sedge Mono NF', 'Bulrush NF']\n");
        let files = [
            (
                ".config/nvim/init.lua",
                "vim.o.guifont = \"Reedbed Mono NF:h12\"\n",
                "vim.o.guifont = \"Reedbed Mono NF:h13,Sedge Mono NF:h13,Bulrush NF:h13\"\n",
            ),
            (
                ".config/nvim/init.lua",
                "vim.o.guifont = 'Reedbed Mono NF:h13,Cordgrass NF,X:h2' -- mine\n",
                "vim.o.guifont = 'Reedbed Mono NF:h13,Sedge Mono NF:h13,Bulrush NF:h13' -- mine\n",
            ),
            (
                ".config/nvim/init.vim",
                "set guifont=Reed\\ X:h11 number\n",
                "set guifont=Reedbed\\ Mono\\ NF:h13,Sedge\\ Mono\\ NF:h13,Bulrush\\ NF:h13 number\n",
            ),
        ];
        for (path, before, after) in files {
            let mut access = access(path, before);
            let edits = planned(&access, &setup);
            let edited = edits.iter().find(|(p, _)| p.ends_with(path)).unwrap();
            assert!(edited.1.starts_with(after), "{}", edited.1);
            for (path, text) in edits {
                access.files.insert(path, text.into_bytes());
            }
            assert!(
                planned(&access, &setup).is_empty(),
                "a second plan is empty"
            );
            let all = said(&read(&access));
            assert!(
                all.contains(&"font.fallback=Sedge Mono NF, Bulrush NF".to_owned()),
                "{all:?}"
            );
            // Where the setup names none, those there are stay.
            assert!(planned(&access, SETUP).is_empty());
        }
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
    fn nothing_is_put_after_a_last_return() {
        let access = MemoryAccess::with(&[(".config/nvim/init.lua", "local m = {}\nreturn m\n\n")]);
        let after = &planned(&access, SETUP)[0].1;
        assert_eq!(
            after,
            "local m = {}\nvim.cmd(\"colorscheme wealdmist\")\nreturn m\n\n"
        );
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
            vim_lines(text.as_bytes(), &|at| at, None, &[], &mut out);
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
