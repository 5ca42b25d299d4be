//! The editor Neovim: the colors of the theme in use and of the overrides in `init.lua` or
//! `init.vim`, and a theme file of our own generated from the roles.

mod eval;
mod fonts;
mod theme;

use std::ops::Range;
use std::path::Path;
use std::sync::OnceLock;

use wealdmist_core::glyph::Syntax;
use wealdmist_core::look::Look;
use wealdmist_core::plan::Splice;
use wealdmist_core::property::{OUR_THEME, Property};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::{Reading, SourceFile, ToolId, ToolReport};
use wealdmist_core::role::RoleId;
use wealdmist_core::setup::Setup;
use wealdmist_core::text;

use crate::Facts;
use crate::access::Access;
use crate::document::{lua, lua_words, vim};
use crate::glyphs;
use crate::live::{Live, Reload};
use crate::shared::{self, Edits};
use crate::themed::{Ground, Language, Themed};

use fonts::GuiFonts;
use theme::{CAPTURES, GROUPS};

/// The files that it may read first.
const FILES: [&str; 2] = ["init.lua", "init.vim"];

/// The row.
pub static NVIM: Themed = Themed {
    id: ToolId("nvim"),
    program: "nvim",
    folder: |access| {
        let usual = access.config_home().join("nvim");
        shared::folder_of(access, usual, "AppData/Local/nvim", &FILES)
    },
    files: &FILES,
    themes: &["colors/{}.vim", "colors/{}.lua"],
    ours: ("colors/wealdmist.lua", "wealdmist.lua"),
    by_name: OnceLock::new(),
    groups: &[GROUPS, CAPTURES],
    grounds: &[
        ground("CursorLine", "cursor-line", "on the current line", false),
        ground("Visual", "selection", "in a selection", false),
        ground("DiffAdd", "diff.added.ground", "on an added line", true),
        ground(
            "DiffDelete",
            "diff.removed.ground",
            "on a removed line",
            true,
        ),
        ground(
            "DiffChange",
            "diff.changed.ground",
            "on a changed line",
            true,
        ),
        ground("DiffText", "diff.changed.ground", "in changed text", true),
    ],
    comment: &["--", "\""],
    fonts: Some(&GuiFonts),
    live: Live {
        inside: Some("NVIM"),
        sockets: &[
            "{TMPDIR:/tmp}/nvim*/0",
            "{TMPDIR:/tmp}/nvim.*/*/nvim.*.0",
            "{XDG_RUNTIME_DIR:}/nvim.*.0",
        ],
        asking: Some(crate::live::Asking {
            program: "nvim",
            arguments: &[
                "--headless",
                "-i",
                "NONE",
                "-n",
                "-c",
                "luafile {scratch}/ask.lua",
            ],
            script: Some(("ask.lua", include_str!("ask.lua"))),
            ends: &[],
            dotfile: |said| (".config/nvim/init.vim", said.to_owned()),
        }),
        ..Live::own(
            Reload::Socket,
            "at once, in every running Neovim of this home",
        )
    },
    language: &Nvim,
};

const fn ground(
    group: &'static str,
    role: &'static str,
    place: &'static str,
    leaves_text: bool,
) -> Ground {
    Ground {
        group,
        role,
        place,
        leaves_text,
    }
}

/// The option for 24-bit color.
const TERMGUICOLORS: &str = "termguicolors";

/// The words that switch it in a `set`: on, then off.
const SWITCHES: [&str; 4] = [TERMGUICOLORS, "tgc", "notermguicolors", "notgc"];

/// Whether what stands there is a switch of `set`, not a value.
fn is_switch(bytes: &[u8]) -> bool {
    SWITCHES.iter().any(|s| s.as_bytes() == bytes)
}

/// Whether a file is one of Lua.
fn is_lua(path: &Path) -> bool {
    path.extension().is_some_and(|e| e == "lua")
}

/// Its languages.
struct Nvim;

impl Language for Nvim {
    /// Lua, or the editor's own language.
    fn syntax(&self, path: &Path) -> Syntax {
        if is_lua(path) {
            Syntax::Lua
        } else {
            Syntax::Shell
        }
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

    fn run(
        &self,
        access: &dyn Access,
        facts: &Facts,
        init: &Path,
        report: ToolReport,
    ) -> ToolReport {
        let folder = (NVIM.folder)(access);
        eval::run(access, &folder, init, facts, report)
    }

    fn statement(&self, file: &SourceFile, at: usize) -> usize {
        let begins: Vec<usize> = match is_lua(&file.path) {
            true => {
                let block = lua::parse(&file.bytes).unwrap_or_default();
                block.iter().map(|s| s.at).collect()
            }
            false => vim::parse(&file.bytes).iter().map(vim::Node::at).collect(),
        };
        let inside = begins.partition_point(|begin| *begin <= at);
        let begin = inside.checked_sub(1).map_or(at, |i| begins[i]);
        text::line_range(&file.bytes, begin).start
    }

    fn choose(&self, path: &Path, bytes: &[u8], before: Option<usize>, why: String) -> Splice {
        let line = if is_lua(path) {
            Code::of("vim.cmd(\"colorscheme {}\")", &[&Code::fixed(OUR_THEME)])
        } else {
            Code::of("colorscheme {}", &[&Code::fixed(OUR_THEME)])
        };
        // Nothing may stand after a file's last `return`.
        let last = || last_return(bytes).filter(|_| is_lua(path));
        match before.or_else(last) {
            Some(at) => Splice {
                range: at..at,
                with: Code::of("{}{}", &[&line, &Code::fixed(text::line_end(bytes))]),
                why,
                role: None,
                needs: None,
            },
            None => shared::append_line(bytes, &line, why),
        }
    }

    fn property(
        &self,
        property: Property,
        reading: &Reading,
        file: &SourceFile,
        setup: &Setup,
    ) -> Option<Code> {
        match property {
            Property::Depth => {
                let switch = is_switch(&file.bytes[reading.place.span.clone()]);
                Some(Code::fixed(if switch { TERMGUICOLORS } else { "true" }))
            }
            Property::FontFamily => {
                let (_, places) = font_option(file, reading.place.span.start)?;
                quote(setup.font.family.as_ref()?, &places)
            }
            Property::FontSize => setup.font.size.map(Code::short_number),
            // Fallbacks are written behind the font, also where there are none yet.
            _ => None,
        }
    }

    fn more(&self, setup: &Setup, file: &SourceFile, report: &ToolReport, edits: &mut Edits) {
        fallbacks(setup, file, report, edits);
    }

    fn sides(&self, theme: &[u8]) -> Option<Range<usize>> {
        let is_line = |at: &usize| *at == 0 || theme[at - 1] == b'\n';
        let asks = theme::ASKS_SIDE.as_bytes();
        let mut places = theme.windows(asks.len()).enumerate();
        let at = places.find_map(|(at, some)| (some == asks && is_line(&at)).then_some(at))?;
        Some(at..at + asks.len())
    }

    fn theme(&self, setup: &Setup, look: &Look) -> Code {
        theme::generate(setup, look)
    }

    fn attribute(&self, asked: &str) -> Option<&'static str> {
        eval::attribute(asked)
    }

    fn is_known_to_all(&self, group: &str) -> bool {
        // Captures need a newer editor than some have; the groups they link to are asked.
        !group.starts_with('@')
    }
}

/// Writes the fallbacks behind the font that graphical front ends are told, where one is.
fn fallbacks(setup: &Setup, file: &SourceFile, report: &ToolReport, edits: &mut Edits) {
    let is_font = |r: &&Reading| {
        r.effective
            && r.editable
            && r.role == RoleId::from(Property::FontFamily)
            && *r.place.path == *file.path
    };
    let font = report.readings.iter().rev().find(is_font);
    let Some(font) = font.filter(|_| !setup.font.fallback.is_empty()) else {
        return;
    };
    let Some((all, quoting)) = font_option(file, font.place.span.start) else {
        return;
    };
    let option = String::from_utf8_lossy(&file.bytes[all.clone()]);
    let first = fonts::list(&option).next().unwrap_or_default();
    let now = first
        .split(':')
        .skip(1)
        .find_map(|p| p.strip_prefix('h')?.parse().ok());
    let rest = all.start + first.len()..all.end;
    let size = setup.font.size.or(now);
    let Some(list) = fonts::written(setup.font.fallback.iter(), size, &quoting) else {
        return;
    };
    let with = Code::of(",{}", &[&list]);
    if file.bytes[rest.clone()] != *with {
        let splice = Splice {
            range: rest,
            why: format!("fallback font: {}", setup.font.fallback.join(", ")),
            with,
            role: Some(RoleId::from(Property::FontFallback)),
            needs: None,
        };
        edits.add(&file.path, splice);
    }
}

/// The text of the font option that begins at a place, and what reads it there.
fn font_option(file: &SourceFile, at: usize) -> Option<(Range<usize>, Vec<Quoting>)> {
    let bytes = &file.bytes;
    let in_set = ["guifont=", "gfn="]
        .iter()
        .any(|n| bytes[..at].ends_with(n.as_bytes()));
    let string = match is_lua(&file.path) {
        true => Some(lua_words::words(bytes).find_map(|word| match word.kind {
            lua_words::Kind::Text(quoting, true) if word.inner.contains(&at) => {
                Some((word.inner, quoting))
            }
            _ => None,
        })?),
        false => None,
    };
    let most = string.as_ref().map_or(bytes.len(), |s| s.0.end);
    let mut quoting = vec![Quoting::FontList];
    let end = match in_set {
        true => {
            quoting.push(Quoting::SetValue);
            // In quotes that take backslashes, each of them is two.
            let in_quotes = string.as_ref().is_some_and(|s| s.1 != Quoting::LuaLong);
            let mut end = at;
            // Other signs that are blanks elsewhere belong to the value.
            let ends = |rest: &[u8]| {
                matches!(rest, [b' ' | b'\t' | b'\n' | b'|', ..] | [b'\r', b'\n', ..])
            };
            while end < most && !ends(&bytes[end..most]) {
                end += match &bytes[end..most] {
                    [b'\\', b'\\', ..] if in_quotes => 3,
                    [b'\\', ..] => 2,
                    _ => 1,
                };
            }
            end.min(most)
        }
        // A text of the editor's own language is nothing that is written here.
        false => string.as_ref()?.0.end,
    };
    quoting.extend(string.map(|s| s.1));
    Some((at..end, quoting))
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

#[cfg(test)]
mod tests {
    use super::theme::generate;
    use super::*;
    use crate::access::{MEMORY_HOME, MemoryAccess};
    use crate::testing;
    use crate::{Adapter, Facts};
    use std::path::PathBuf;
    use wealdmist_core::reading::Value;

    #[test]
    fn a_value_that_ends_in_an_escape_is_not_changed_in_part() {
        for value in ["\"A\\9\"", "\"A\\t\"", "\"A\\065\"", "\"\\65\""] {
            let text = format!("vim.o.guifont = {value}\n");
            let access = MemoryAccess::with(&[(".config/nvim/init.lua", &text)]);
            let report = NVIM.read(&access, &mut Facts::default());
            let font = report
                .effective(&RoleId::from(Property::FontFamily))
                .unwrap();
            assert!(!font.editable, "{text}: {font:?}");
            assert_eq!(font.place.at.line, 1);
        }
    }

    #[test]
    fn signs_that_are_no_blanks_for_the_editor_belong_to_the_font() {
        for text in [
            "set guifont=Ol\r\\ Mono:h11,Othe\u{16}:h11\n",
            "set guifont=Ol\u{c}d:h11,Other\r\nset number\r\n",
        ] {
            let access = MemoryAccess::with(&[(".config/nvim/init.vim", text)]);
            let setup = "[palettes.a]\n[font]\nfamily='Reedbed Mono'\nfallback=['Sedge']\n";
            let after = testing::planned(&NVIM, &access, setup);
            let line = after[0].1.lines().next().unwrap_or_default();
            assert_eq!(
                line.trim_end(),
                "set guifont=Reedbed\\ Mono:h11,Sedge:h11",
                "{text:?}"
            );
        }
    }

    #[test]
    fn lines_of_code_are_pairs_on_every_ground_behind_them() {
        let theme = "local s = vim.api.nvim_set_hl\ns(0, 'Normal', { fg = '#dddddd', bg = '#101010' })\ns(0, 'Comment', { fg = '#667788' })\ns(0, 'CursorLine', { bg = '#181c20' })\ns(0, 'Visual', { bg = '#203040' })\ns(0, 'DiffAdd', { bg = '#102810' })\ns(0, 'DiffDelete', { fg = '#ff8888', bg = '#281010' })\n";
        let access = MemoryAccess::with(&[(".config/nvim/init.lua", theme)]);
        let report = NVIM.read(&access, &mut Facts::default());
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
    fn links_that_go_round_in_many_ways_end() {
        let names = ["Comment", "String", "Function", "Type", "Title", "Search"];
        let mut text = String::new();
        for (i, name) in names.iter().enumerate() {
            let to = |step: usize| names[(i + step) % names.len()];
            for step in 1..4 {
                let other = to(step);
                text +=
                    &format!("if strftime('%H') > {i}{step}\n  hi! link {name} {other}\nendif\n");
            }
        }
        let access = MemoryAccess::with(&[(".config/nvim/init.vim", text.as_str())]);
        let report = NVIM.read(&access, &mut Facts::default());
        let counts = |r: &&Reading| r.effective && r.key == "Comment";
        let mut all = report.readings.iter().filter(counts).peekable();
        assert!(all.peek().is_some() && !all.any(Reading::is_sure));
    }

    #[test]
    fn what_may_happen_many_times_leaves_nothing_out() {
        let clear = "au InsertEnter * hi clear Mist\n".repeat(12);
        let text = format!("set termguicolors\nhi Mist guifg=#112233\n{clear}");
        let access = MemoryAccess::with(&[(".config/nvim/init.vim", &text)]);
        let report = NVIM.read(&access, &mut Facts::default());
        let own = |r: &&Reading| r.effective && r.key == "Mist";
        let mut all = report.readings.iter().filter(own);
        let may_be = |r: &Reading| r.value.to_string() == "#112233" && !r.is_sure();
        assert!(all.any(may_be), "{:?}", report.readings);
    }

    #[test]
    fn a_word_of_normal_said_again_changes_nothing() {
        let text = |more: &str| {
            let lua = format!(
                "vim.o.termguicolors = true\nvim.cmd('hi Normal guifg=#111111')\nvim.cmd('hi Statement guifg=fg')\nvim.api.nvim_set_hl(0, 'Normal', {{ fg = '#222222' }})\n{more}\n"
            );
            let access = MemoryAccess::with(&[(".config/nvim/init.lua", &lua)]);
            let report = NVIM.read(&access, &mut Facts::default());
            let own = |r: &&Reading| r.effective && r.role.as_str() == "keyword";
            let found = report
                .readings
                .iter()
                .find(own)
                .map(|r| r.value.to_string());
            found.unwrap_or_default()
        };
        assert_eq!(text(""), "#111111");
        assert_eq!(text("vim.cmd('hi Statement guifg=fg')"), "#111111");
        assert_eq!(text("vim.cmd('hi Statement guifg=bg guifg=fg')"), "#222222");
        assert_eq!(text("vim.cmd('hi Normal guifg=#333333')"), "#333333");
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
        let asked = NVIM.language.sides(theme.as_bytes()).unwrap();
        assert!(theme[asked.end..].starts_with("\"light\" then"));
        let one = generate(&setup(&text.replace("true", "false")), &look).lossy();
        assert!(one.contains("vim.o.background = \"dark\"") && !one.contains("#202122"));
        assert_eq!(NVIM.language.sides(one.as_bytes()), None);
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
        NVIM.read(access, &mut Facts::default())
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
                "font.family=ReedbedMono NF",
                "font.size=12",
                "theme=creek",
                "foreground=#dddddd",
                "background=#101010",
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
            said(&report),
            [
                "depth=24-bit",
                "font.family=ReedbedMono NF",
                "font.size=11",
                "theme=creek",
                "comment=#445566",
                "foreground=#dddddd",
                "background=#101010",
                "line-number=#040404",
                "nvim.LineNr.ground=default"
            ]
        );
    }

    const SETUP: &str = "[palettes.a]\nforeground='#dddddd'\nbackground='#101010'\n[roles]\ncomment={color='#999999', italic=true}\n'line-number'='#777777'\n[tools.nvim]\ngenerate=true\n[font]\nfamily='Reedbed Mono NF'\nsize=13\n";

    fn planned(access: &MemoryAccess, setup: &str) -> Vec<(PathBuf, String)> {
        testing::planned(&NVIM, access, setup)
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
        let keep = SETUP.replace("generate=true", "generate=false");
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
    fn an_option_of_the_other_language_is_written_in_it() {
        let both = "vim.cmd('set notermguicolors')\nvim.o.termguicolors = false\n";
        let report = read(&access(".config/nvim/init.lua", both));
        let depth = report
            .readings
            .iter()
            .filter(|r| r.role == Property::Depth.into());
        let lines: Vec<(usize, bool)> = depth.map(|r| (r.place.at.line, r.effective)).collect();
        assert_eq!(lines, [(1, false), (2, true)]);
        for (before, after) in [
            ("vim.cmd('set notgc')\n", "vim.cmd('set termguicolors')\n"),
            (
                "vim.o.termguicolors = false\n",
                "vim.o.termguicolors = true\n",
            ),
        ] {
            let access = access(".config/nvim/init.lua", before);
            let (_, text) = planned(&access, SETUP).remove(0);
            assert!(text.contains(after), "{text}");
        }
    }

    #[test]
    fn broken_lua_is_left_alone() {
        let report = read(&access(".config/nvim/init.lua", "vim.o = = 3\n"));
        assert!(report.problems[0].blocks_edits && report.problems[0].at.unwrap().line == 1);
    }

    #[test]
    fn loops_conditions_and_functions_are_worked_out() {
        let init = "local c = vim.env.MOOD and '#010203' or '#040506'\nvim.api.nvim_set_hl(0, 'Comment', { fg = c })\nif vim.g.side then vim.api.nvim_set_hl(0, 'String', { fg = '#070809' }) end\nlocal function never() vim.api.nvim_set_hl(0, 'Type', { fg = '#0a0b0c' }) end\nfor _, name in ipairs({ 'Number', 'Todo' }) do vim.api.nvim_set_hl(0, name, { fg = '#0d0e0f' }) end\n";
        let mut home = access(".config/nvim/init.lua", init);
        home.vars.insert("MOOD".into(), "calm".into());
        let report = read(&home);
        assert_eq!(
            said(&report),
            ["comment=#010203", "number=#0d0e0f", "todo=#0d0e0f"]
        );
        assert!(report.readings.iter().all(Reading::is_sure));
    }

    #[test]
    fn a_theme_that_is_not_there_is_told_with_its_line() {
        let told = |init: &str| {
            let report = read(&access(".config/nvim/init.vim", init));
            let problems = report.problems.into_iter();
            let told: Vec<_> = problems.map(|p| (p.at.unwrap().line, p.message)).collect();
            told
        };
        let all = told("set tgc\ncolorscheme nosuch\nhi Comment guifg=#010203\n");
        assert_eq!(all.len(), 1);
        assert!(
            all[0].0 == 2 && all[0].1.contains("no theme 'nosuch'"),
            "{all:?}"
        );
        assert!(told("silent! colorscheme nosuch\n").is_empty());
        // Where folders are added that are not looked into, it may be there.
        for line in [
            "set rtp+=~/x",
            "set runtimepath^=~/x",
            "lua vim.opt.rtp:prepend('~/x')",
        ] {
            let init = format!("{line}\nhi Comment guifg=#010203\ncolorscheme nosuch\n");
            let report = read(&access(".config/nvim/init.vim", &init));
            assert!(report.problems.is_empty(), "{line}: {:?}", report.problems);
            let comment = report.effective(&RoleId::known("comment")).unwrap();
            assert!(!comment.is_sure(), "{line}: {comment:?}");
        }
    }

    #[test]
    fn an_error_ends_a_file_of_lua_and_is_told() {
        let init = "vim.api.nvim_set_hl(0, 'Comment', { fg = '#010203' })\nrequire('nosuch')\nvim.api.nvim_set_hl(0, 'String', { fg = '#040506' })\n";
        let report = read(&access(".config/nvim/init.lua", init));
        assert_eq!(said(&report), ["comment=#010203"]);
        let problem = &report.problems[0];
        assert!(problem.at.unwrap().line == 2 && !problem.blocks_edits);
        assert!(problem.message.contains("'nosuch'"), "{problem:?}");
    }

    #[test]
    fn links_that_go_round_and_sides_that_change_leave_what_the_program_leaves() {
        /// A home whose program says which version it is.
        struct Old(MemoryAccess);
        impl crate::access::Access for Old {
            fn read(&self, path: &std::path::Path) -> crate::access::Loaded {
                self.0.read(path)
            }
            fn glob(&self, pattern: &std::path::Path) -> Vec<PathBuf> {
                self.0.glob(pattern)
            }
            fn env(&self, _: &str) -> Option<String> {
                None
            }
            fn home(&self) -> &std::path::Path {
                self.0.home()
            }
            fn has_program(&self, _: &str) -> bool {
                true
            }
            fn version(&self, _: &str, _: &str) -> Option<String> {
                Some("NVIM v0.7.2".to_owned())
            }
        }
        let set = "vim.api.nvim_set_hl(0, ";
        let told = |lines: &str| {
            let init = lines.replace("set(", set);
            let report = NVIM.read(
                &Old(access(".config/nvim/init.lua", &init)),
                &mut Facts::default(),
            );
            let own = |r: &&Reading| r.effective && !r.is_default();
            let row = |r: &Reading| format!("{}={}", r.role, r.value);
            let all: Vec<String> = report.readings.iter().filter(own).map(row).collect();
            all
        };
        let around = "set('Type', { fg = '#010203' })\nset('Type', { link = 'Type' })\n";
        assert!(told(around).contains(&"type=#010203".to_owned()));
        // The light side takes the text of what is searched for, and of comments the ground.
        let light = "set('Search', { fg = '#010203', bold = true })\nset('Underlined', { bg = '#040506' })\nvim.o.background = 'light'\n";
        let all = told(light);
        assert!(!all.contains(&"search.text=#010203".to_owned()), "{all:?}");
        assert!(
            all.contains(&"nvim.Underlined.ground=#040506".to_owned()),
            "{all:?}"
        );
        // A color of Normal where that has none is an error, also in what counts only by default.
        let none =
            "set('Type', { fg = 'fg', default = true })\nset('Comment', { fg = '#010203' })\n";
        assert!(told(none).is_empty());
        // What perhaps set a group keeps it over a change of side as far as it did.
        let perhaps =
            "if vim.g.x then vim.cmd('hi Type guifg=#010203') end\nvim.o.background = 'dark'\n";
        assert!(told(perhaps).is_empty());
        let perhaps = perhaps.replace("vim.g.x", "vim.env.NOSUCH");
        assert!(told(&perhaps).contains(&"type=#010203".to_owned()));
        // What is a link to itself is linked: a default does not count any more.
        let itself = "set('Tule', { link = 'Tule' })\nvim.cmd('hi default Tule guifg=#010203')\n";
        assert!(told(itself).is_empty(), "{:?}", told(itself));
        // A theme with a mistake ends what chooses it where errors count.
        let mut torn = access(
            ".config/nvim/init.lua",
            "require('look')\nvim.api.nvim_set_hl(0, 'Comment', { fg = '#010203' })\n",
        );
        let mut file = |name: &str, text: &str| {
            let path = torn.home().join(".config/nvim").join(name);
            torn.files.insert(path, text.into());
        };
        file("lua/look.lua", "vim.cmd('colorscheme torn')\n");
        file("colors/torn.lua", "local x = {\n");
        assert_eq!(said(&read(&torn)), ["theme=torn"]);
    }

    #[test]
    fn an_error_ends_its_block_and_what_nothing_catches_all_files() {
        let told = |init: &str, more: &str| {
            let access = MemoryAccess::with(&[
                (".config/nvim/init.vim", init),
                (".config/nvim/x.vim", more),
            ]);
            said(&read(&access))
        };
        let tule = "hi Comment guifg=#010203\n";
        // In a script it ends the outermost condition or loop, in a function its line alone.
        for (init, more, lines) in [
            ("if 1\nif 1\nhi X guifg=\nHI\nendif\nHI\nendif\n", "", 0),
            ("for i in [1, 2]\nhi X guifg=\nHI\nendfor\n", "", 0),
            ("if 1\nhi X guifg=\nendif\nHI\n", "", 1),
            (
                "if 1\nsource ~/.config/nvim/x.vim\nHI\nendif\n",
                "hi X guifg=\n",
                1,
            ),
            (
                "func F()\nif 1\nhi X guifg=\nHI\nendif\nendfunc\ncall F()\n",
                "",
                1,
            ),
            ("if 1\nsilent! hi X guifg=\nHI\nendif\n", "", 1),
            (
                "source ~/.config/nvim/x.vim\nHI\n",
                "try\nthrow 'x'\nendtry\n",
                0,
            ),
            (
                "try\nsource ~/.config/nvim/x.vim\ncatch\nendtry\nHI\n",
                "try\nthrow 'x'\nendtry\n",
                1,
            ),
        ] {
            let found = told(&init.replace("HI\n", tule), more);
            assert_eq!(found.len(), lines, "{init}: {found:?}");
        }
        // What is added for the last pattern while an earlier one is done is done, too.
        let added = "au ColorScheme creek au ColorScheme * hi Comment guifg=#010203\nau ColorScheme * hi Type guifg=#040506\ncolorscheme creek\n";
        let access = MemoryAccess::with(&[
            (".config/nvim/init.vim", added),
            (
                ".config/nvim/colors/creek.vim",
                "let g:colors_name = 'creek'\n",
            ),
        ]);
        assert!(said(&read(&access)).contains(&"comment=#010203".to_owned()));
        // A link that is made again after its group was set is one that was set.
        let again = "hi Function guifg=#010203\nhi clear\nhi link Function Identifier\nhi default Function guifg=#040506\n";
        assert!(told(again, "").is_empty(), "{:?}", told(again, ""));
        let never = again.replacen("hi Function guifg=#010203\n", "", 1);
        assert_eq!(told(&never, ""), ["function=#040506"]);
    }

    #[test]
    fn the_theme_is_chosen_before_the_colors_that_it_would_wipe_out() {
        let access = MemoryAccess::with(&[(
            ".config/nvim/init.vim",
            "set number\nhi Comment guifg=#010203\n  \\ gui=italic\nhi Visual guibg=#040506\n",
        )]);
        let after = &planned(&access, SETUP)[0].1;
        assert!(
            after.starts_with("set number\ncolorscheme wealdmist\nhi Comment"),
            "{after}"
        );
    }

    #[test]
    fn a_value_of_several_jobs_is_left_where_they_differ() {
        let init = "local c = '#010203'\nvim.api.nvim_set_hl(0, 'Comment', { fg = c })\nvim.api.nvim_set_hl(0, 'LineNr', { fg = c })\n";
        let access = access(".config/nvim/init.lua", init);
        let keep = SETUP.replace("generate=true", "generate=false");
        assert!(planned(&access, &keep).is_empty());
        let same = keep.replace("'#777777'", "'#999999'");
        assert!(
            planned(&access, &same)[0]
                .1
                .starts_with("local c = '#999999'")
        );
    }

    #[test]
    fn nothing_is_certain_of_files_that_load_themselves_without_end() {
        let init =
            "hi Comment guifg=#010203\nsource ~/.config/nvim/init.vim\nhi Type guifg=#040506\n";
        let report = NVIM.read(
            &access(".config/nvim/init.vim", init),
            &mut Facts::default(),
        );
        let [problem] = report.problems.as_slice() else {
            panic!("{:?}", report.problems);
        };
        assert!(problem.message.contains("again and again"), "{problem:?}");
        assert_eq!(problem.at.map(|at| at.line), Some(2));
        let counts = |r: &&Reading| r.effective && (r.is_sure() || r.editable);
        assert_eq!(report.readings.iter().find(counts), None);
        let comment =
            (report.readings.iter()).find(|r| r.effective && r.role.as_str() == "comment");
        assert_eq!(
            comment.map(|r| r.value.to_string()).as_deref(),
            Some("#010203")
        );
    }
}
