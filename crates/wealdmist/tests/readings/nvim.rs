//! The editor itself, asked for its highlight groups under files made by chance.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::process::Command;

use wealdmist_core::Rgb;
use wealdmist_core::reading::{Reading, Standing, ToolId, ToolReport, Value};
use wealdmist_host::Home;
use wealdmist_tools::{Facts, Outer, adapter};

use crate::asked::Asked;
use crate::common::{Scratch, have};
use crate::dice::{Dice, judge, run};

/// Groups with the roles of their text and ground.
const GROUPS: [(&str, &str, &str); 16] = [
    ("Normal", "foreground", "background"),
    ("Comment", "comment", "nvim.Comment.ground"),
    ("String", "string", "nvim.String.ground"),
    ("Number", "number", "nvim.Number.ground"),
    ("Function", "function", "nvim.Function.ground"),
    ("Statement", "keyword", "nvim.Statement.ground"),
    ("Type", "type", "nvim.Type.ground"),
    ("LineNr", "line-number", "nvim.LineNr.ground"),
    ("Visual", "nvim.Visual.text", "selection"),
    ("Search", "search.text", "search.ground"),
    ("StatusLine", "status.text", "status.ground"),
    ("Pmenu", "popup.text", "popup.ground"),
    ("Constant", "constant", "nvim.Constant.ground"),
    ("Identifier", "variable", "nvim.Identifier.ground"),
    ("Mist", "nvim.Mist.text", "nvim.Mist.ground"),
    ("Tule", "nvim.Tule.text", "nvim.Tule.ground"),
];

fn group(dice: &mut Dice) -> &'static str {
    GROUPS[dice.below(GROUPS.len())].0
}

fn color(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    match dice.below(24) {
        0 => format!("#{r:02X}{g:02X}{b:02X}"),
        1 => dice
            .pick(&[
                "SlateBlue",
                "orange",
                "grey50",
                "DarkYellow",
                "Green",
                "purple",
            ])
            .to_owned(),
        2 => "NONE".to_owned(),
        3 => dice.pick(&["fg", "bg"]).to_owned(),
        _ => format!("#{r:02x}{g:02x}{b:02x}"),
    }
}

/// A color of six digits.
fn hex(dice: &mut Dice) -> String {
    let [r, g, b, ..] = dice.next().to_le_bytes();
    format!("#{r:02x}{g:02x}{b:02x}")
}

/// Attributes as `:highlight` takes them.
fn words(dice: &mut Dice) -> &'static str {
    dice.pick(&[
        "bold",
        "italic",
        "bold,italic",
        "underline",
        "undercurl",
        "NONE",
        "reverse",
        "Italic,inverse",
        "strikethrough,standout",
    ])
}

/// `:highlight` with what it is given.
fn highlight(dice: &mut Dice) -> String {
    let name = group(dice);
    let line = match dice.below(16) {
        0 => format!("hi link {name} {}", group(dice)),
        1 => format!("hi! link {name} {}", group(dice)),
        2 => format!("hi def link {name} {}", group(dice)),
        3 => format!("hi default {name} guifg={}", color(dice)),
        4 => format!("hi clear {name}"),
        5 => format!("hi! {name} guibg={} gui={}", color(dice), words(dice)),
        9 => format!("hi {name} gui={}", words(dice)),
        10 => format!(
            "hi {name} guifg={} gui={} guisp={}",
            color(dice),
            words(dice),
            hex(dice)
        ),
        6 => format!(
            "highlight {name} cterm=NONE ctermfg=3 guifg={} guibg={}",
            color(dice),
            color(dice)
        ),
        7 => format!(
            "hi {name} guifg={}",
            dice.pick(&["nosuch", "#12345", "#abc", "'slate blue'"])
        ),
        8 => format!("hi {name} NONE"),
        _ => format!("hi {name} guifg={} guibg={}", color(dice), color(dice)),
    };
    // What Normal has of itself is another in each version.
    match name {
        "Normal" => line.replace("=fg", "=NONE").replace("=bg", "=NONE"),
        _ => line,
    }
}

fn scheme(dice: &mut Dice) -> &'static str {
    dice.pick(&[
        "creek", "creek", "creek", "desert", "slate", "default", "koehler", "morning",
    ])
}

/// The fields that `nvim_set_hl` takes.
fn fields(dice: &mut Dice, lua: &[&str]) -> String {
    let value = |dice: &mut Dice| match dice.below(8) {
        0 if !lua.is_empty() => dice.pick(lua).to_owned(),
        1 => {
            let n = hex(dice);
            format!("0x{}", &n[1..])
        }
        _ => format!("\"{}\"", color(dice)),
    };
    match dice.below(10) {
        0 => format!("{{ link = \"{}\" }}", group(dice)),
        1 => format!(
            "{{ fg = {}, {} = true, sp = \"{}\" }}",
            value(dice),
            dice.pick(&["italic", "underline", "undercurl", "strikethrough"]),
            hex(dice)
        ),
        2 => format!(
            "{{ bg = {}, bold = {} }}",
            value(dice),
            dice.pick(&["false", "true", "nil"])
        ),
        3 => format!(
            "{{ foreground = {}, background = {} }}",
            value(dice),
            value(dice)
        ),
        4 => format!("{{ fg = {}, default = true }}", value(dice)),
        5 => "{}".to_owned(),
        _ => format!(
            "{{ fg = {}, bg = {}, bold = true }}",
            value(dice),
            value(dice)
        ),
    }
}

const LUA_COLORS: [&str; 4] = ["c.bg", "c.accent", "c['deep']", "c.nosuch"];

fn lua_condition(dice: &mut Dice) -> String {
    dice.pick(&[
        "vim.env.SIDE == \"dark\"",
        "vim.env.SIDE ~= 'dark'",
        "vim.env.MOOD == \"calm\"",
        "vim.env.MOOD",
        "os.getenv(\"MOOD\")",
        "vim.env.NOSUCH",
        "vim.g.side == \"dark\"",
        "vim.g.side",
        "not vim.g.side",
        "vim.o.background == \"light\"",
        "vim.o.background == 'dark'",
        "vim.fn.has(\"nvim-0.8\") == 1",
        "vim.fn.has('nvim-0.5') == 1",
        "vim.fn.has(\"gui_running\") == 1",
        "vim.fn.exists('g:side') == 1",
        "vim.fn.filereadable(vim.fn.expand('~/.mist')) == 1",
        "vim.fn.executable(\"nosuchprogram\") == 1",
        "true",
        "false",
        "vim.o.termguicolors",
        "vim.env.SIDE == 'dark' and vim.g.side",
        "vim.env.NOSUCH or vim.env.MOOD",
        "vim.fn.has('mac') == 1",
        "type(vim.g.side) == 'string'",
    ])
    .to_owned()
}

fn lua_statement(dice: &mut Dice, depth: usize) -> String {
    match dice.below(40) {
        0..=6 => format!(
            "vim.api.nvim_set_hl(0, \"{}\", {})",
            group(dice),
            fields(dice, &LUA_COLORS)
        ),
        7..=9 => format!("hi(0, '{}', {})", group(dice), fields(dice, &LUA_COLORS)),
        10 => format!("paint(\"{}\", \"{}\")", group(dice), color(dice)),
        11 => format!(
            "paint(\"{}\", {})",
            group(dice),
            dice.pick(&LUA_COLORS[..3])
        ),
        12 => format!("vim.cmd(\"{}\")", highlight(dice)),
        13 => format!(
            "vim.cmd [[\n  {}\n  {}\n]]",
            highlight(dice),
            highlight(dice)
        ),
        14 => format!("vim.cmd('hi {} guifg=' .. c.accent)", group(dice)),
        15 => format!(
            "vim.cmd(string.format(\"hi %s guifg=%s guibg=%s\", '{}', c.deep, \"{}\"))",
            group(dice),
            hex(dice)
        ),
        16 | 17 => format!("vim.cmd(\"colorscheme {}\")", scheme(dice)),
        18 => format!(
            "pcall(vim.cmd, 'colorscheme {}')",
            dice.pick(&["creek", "nosuch", "slate"])
        ),
        19 if depth < 2 => format!(
            "if {} then\n  {}\nend",
            lua_condition(dice),
            lua_statements(dice, 2, depth + 1)
        ),
        20 if depth < 2 => format!(
            "if {} then {} else\n{}\nend",
            lua_condition(dice),
            lua_statement(dice, depth + 1),
            lua_statements(dice, 2, depth + 1)
        ),
        21 => format!(
            "local tint = {} and \"{}\" or '{}'\nhi(0, \"{}\", {{ fg = tint }})",
            lua_condition(dice),
            hex(dice),
            hex(dice),
            group(dice)
        ),
        22 => format!(
            "for name, look in pairs({{ Mist = {{ fg = '{}' }}, Type = {{ bg = '{}', bold = true }} }}) do vim.api.nvim_set_hl(0, name, look) end",
            hex(dice),
            hex(dice)
        ),
        23 => format!(
            "for _, name in ipairs({{ '{}', \"{}\" }}) do\n  hi(0, name, {{ fg = '{}' }})\nend",
            group(dice),
            group(dice),
            hex(dice)
        ),
        24 => format!(
            "local function later()\n  {}\nend\n{}",
            lua_statement(dice, 2),
            dice.pick(&["later()", "", "vim.schedule(later)"])
        ),
        25 => dice
            .pick(&[
                "require('look')",
                "pcall(require, 'look')",
                "local ok, m = pcall(require, \"nosuch\")\nif ok then m.setup() end",
                "require('look').paint()",
            ])
            .to_owned(),
        26 => format!(
            "vim.api.nvim_create_autocmd(\"ColorScheme\", {{ pattern = \"{}\", callback = function() {} end }})",
            dice.pick(&["*", "creek", "nosuch"]),
            lua_statement(dice, 2)
        ),
        27 => format!("vim.cmd(\"autocmd ColorScheme * {}\")", highlight(dice)),
        28 => format!(
            "vim.api.nvim_create_autocmd({{ '{}' }}, {{ command = \"{}\" }})",
            dice.pick(&["VimEnter", "InsertEnter", "BufEnter"]),
            highlight(dice)
        ),
        29 => dice
            .pick(&[
                "vim.g.side = \"dark\"",
                "vim.g.side = nil",
                "vim.g.side = 'light'",
            ])
            .to_owned(),
        30 => dice
            .pick(&[
                "vim.o.background = 'light'",
                "vim.opt.background = \"dark\"",
                "vim.cmd('set bg=light')",
            ])
            .to_owned(),
        31 => dice
            .pick(&[
                "vim.o.termguicolors = true",
                "vim.opt.termguicolors = true",
                "vim.cmd('set notgc')",
                "vim.opt.tgc = false",
            ])
            .to_owned(),
        32 => format!(
            "vim.o.guifont = \"{}\"",
            dice.pick(&["Reedbed Mono NF:h12", "Sedge:h9", "Bulrush NF"])
        ),
        33 => format!("-- {}", lua_statement(dice, 2).replace('\n', " ")),
        34 => format!(
            "do\n  local c = {{ bg = \"{}\", accent = '{}' }}\n  hi(0, '{}', {{ bg = c.bg, fg = c.accent }})\nend",
            hex(dice),
            hex(dice),
            group(dice)
        ),
        35 => format!("c.accent = '{}'", hex(dice)),
        36 => "vim.cmd('hi clear')".to_owned(),
        37 if dice.percent(15) => "vim.cmd.colorscheme('creek')".to_owned(),
        38 if dice.percent(15) => "local nothing = vim.g.nosuch.field".to_owned(),
        _ => format!("do (function() {} end)() end", lua_statement(dice, 2)),
    }
}

fn lua_statements(dice: &mut Dice, most: usize, depth: usize) -> String {
    dice.lines(most, depth, lua_statement)
}

fn lua_file(dice: &mut Dice, most: usize) -> String {
    let head = format!(
        "local c = {{ bg = \"{}\", accent = '{}', ['deep'] = \"{}\" }}\nlocal hi = vim.api.nvim_set_hl\nlocal function paint(group, fg) vim.api.nvim_set_hl(0, group, {{ fg = fg }}) end\n",
        hex(dice),
        hex(dice),
        hex(dice)
    );
    head + &lua_statements(dice, most, 0) + "\n"
}

fn vim_condition(dice: &mut Dice) -> String {
    dice.pick(&[
        "$SIDE ==# 'dark'",
        "$SIDE != \"dark\"",
        "$MOOD == 'calm'",
        "!empty($MOOD)",
        "!empty($NOSUCH)",
        "exists('g:side') && g:side ==# 'dark'",
        "exists('g:side')",
        "get(g:, 'side', 'light') == 'dark'",
        "&background == 'light'",
        "&bg ==# 'dark'",
        "has('nvim-0.8')",
        "has('nvim')",
        "has('gui_running') || has('nvim-0.5')",
        "has(\"termguicolors\")",
        "filereadable(expand('~/.mist'))",
        "!exists('$NOSUCH')",
        "executable('nosuchprogram')",
        "1",
        "0",
        "&termguicolors",
        "$SIDE =~# 'ar'",
        "$SIDE =~ '^light\\|^day'",
        "has('mac')",
    ])
    .to_owned()
}

fn vim_command(dice: &mut Dice, depth: usize) -> String {
    match dice.below(38) {
        0..=9 => highlight(dice),
        10 => format!(
            "hi {}\n  \\ guifg={}\n  \\ guibg={}",
            group(dice),
            color(dice),
            color(dice)
        ),
        11 => format!("exe 'hi {} guifg=' . s:c.accent", group(dice)),
        12 => format!(
            "execute \"hi {} guibg=\" .. s:c['deep'] 'gui=bold'",
            group(dice)
        ),
        13 => format!(
            "exe 'hi' '{}' 'guifg=' . (a ? '#111111' : '{}')",
            group(dice),
            hex(dice)
        )
        .replace("(a ?", &format!("({} ?", vim_condition(dice))),
        14 | 15 => format!("colorscheme {}", scheme(dice)),
        16 => format!(
            "silent! colorscheme {}",
            dice.pick(&["creek", "nosuch", "slate"])
        ),
        17 => format!(
            "try\n  colorscheme {}\ncatch /E185/\n  {}\nendtry",
            dice.pick(&["creek", "nosuch"]),
            vim_command(dice, 2)
        ),
        18 if depth < 2 => format!(
            "if {}\n  {}\nendif",
            vim_condition(dice),
            vim_commands(dice, 2, depth + 1)
        ),
        19 if depth < 2 => format!(
            "if {}\n{}\nelse\n  {}\nendif",
            vim_condition(dice),
            vim_command(dice, depth + 1),
            vim_commands(dice, 2, depth + 1)
        ),
        20 if depth < 2 => format!("if {} | {} | endif", vim_condition(dice), highlight(dice)),
        21 => format!(
            "function! s:Later() abort\n  {}\nendfunction\n{}",
            highlight(dice),
            dice.pick(&["call s:Later()", "", "au ColorScheme * call s:Later()"])
        ),
        22 => format!(
            "for g in ['{}', '{}']\n  exe 'hi ' . g . ' guifg={}'\nendfor",
            group(dice),
            group(dice),
            hex(dice)
        ),
        23 => dice
            .pick(&[
                "source ~/.config/nvim/extra.vim",
                "runtime extra.vim",
                "source $HOME/.config/nvim/extra.vim",
                "execute 'source ' . fnamemodify($MYVIMRC, ':p:h') . '/extra.vim'",
                "lua require('look')",
            ])
            .to_owned(),
        24 => format!(
            "augroup fog\n  autocmd!\n  autocmd ColorScheme {} {} | {}\naugroup END",
            dice.pick(&["*", "creek", "nosuch"]),
            highlight(dice),
            highlight(dice)
        ),
        25 => format!(
            "au {} * {}",
            dice.pick(&["VimEnter", "InsertEnter", "ColorScheme"]),
            highlight(dice)
        ),
        26 => dice
            .pick(&[
                "let g:side = 'dark'",
                "unlet! g:side",
                "let side = \"light\"",
                "let $SIDE = 'light'",
            ])
            .to_owned(),
        27 => dice
            .pick(&[
                "set background=light",
                "set bg=dark",
                "let &background = 'light'",
            ])
            .to_owned(),
        28 => dice
            .pick(&[
                "set termguicolors",
                "set tgc number",
                "set notgc",
                "let &termguicolors = 1",
            ])
            .to_owned(),
        29 => format!(
            "set guifont={}",
            dice.pick(&["Reedbed\\ Mono\\ NF:h12", "Sedge:h9", "Bulrush\\ NF"])
        ),
        30 => format!("\" {}", highlight(dice)),
        31 => format!("lua << EOF\n{}\nEOF", lua_file(dice, 3)),
        32 => format!(
            "lua vim.api.nvim_set_hl(0, '{}', {})",
            group(dice),
            fields(dice, &[])
        ),
        33 => format!("{} \" mine", highlight(dice)),
        34 => format!("let s:c.accent = '{}'", hex(dice)),
        35 => "hi clear".to_owned(),
        36 => format!("command! Paint {}\nPaint", highlight(dice)),
        _ => format!("{} | {}", highlight(dice), highlight(dice)),
    }
}

fn vim_commands(dice: &mut Dice, most: usize, depth: usize) -> String {
    dice.lines(most, depth, vim_command)
}

fn vim_file(dice: &mut Dice, most: usize) -> String {
    format!(
        "let s:c = {{'bg': '{}', 'accent': \"{}\", 'deep': '{}'}}\n",
        hex(dice),
        hex(dice),
        hex(dice)
    ) + &vim_commands(dice, most, 0)
        + "\n"
}

/// The files of a home, by their path below the program's folder.
pub fn files(dice: &mut Dice) -> Vec<(&'static str, String)> {
    let mut out = Vec::new();
    match dice.percent(55) {
        true => out.push(("init.lua", lua_file(dice, 9))),
        false => out.push(("init.vim", vim_file(dice, 11))),
    }
    let theme = match dice.percent(50) {
        true => (
            "colors/creek.lua",
            format!(
                "vim.cmd('hi clear')\nvim.g.colors_name = 'creek'\n{}",
                lua_file(dice, 5)
            ),
        ),
        false => {
            let side = dice.pick(&["", "set background=dark\n", "set background=light\n"]);
            (
                "colors/creek.vim",
                format!(
                    "{side}hi clear\nif exists('syntax_on') | syntax reset | endif\nlet g:colors_name = 'creek'\n{}",
                    vim_file(dice, 5)
                ),
            )
        }
    };
    out.push(theme);
    out.push((
        "lua/look.lua",
        lua_file(dice, 3) + "return { paint = function() hi(0, 'Mist', { fg = c.bg }) end }\n",
    ));
    out.push(("extra.vim", vim_file(dice, 3)));
    if dice.percent(25) {
        out.push(("plugin/fog.vim", vim_file(dice, 2)));
    }
    if dice.percent(15) {
        out.push(("after/plugin/fog.lua", lua_file(dice, 2)));
    }
    out
}

/// What the editor is asked with: each group's colors, whether it is a link, the options.
const ASK: &str = r##"
local function ask()
  local out = {}
  for _, name in ipairs(vim.split(vim.env.WEALDMIST_GROUPS, ",")) do
    local ok, look = pcall(vim.api.nvim_get_hl_by_name, name, true)
    look = ok and look or {}
    local raw = vim.fn.execute("silent! hi " .. name):gsub("%s+", " ")
    local link = raw:match("links to (%S+)") or ""
    local hex = function(n) return n and string.format("#%06x", n) or "" end
    local on = {}
    for word, is in pairs(look) do if is == true then table.insert(on, word) end end
    table.sort(on)
    local words, special = table.concat(on, ","), hex(look.special)
    table.insert(out, table.concat({ name, hex(look.foreground), hex(look.background), link, words, special }, "\t"))
  end
  table.insert(out, "&\t" .. tostring(vim.o.termguicolors) .. "\t" .. vim.o.guifont .. "\t" .. vim.o.background .. "\t\t")
  vim.fn.writefile(out, vim.env.WEALDMIST_ANSWER)
  vim.cmd("qa!")
end
-- What waits for the start comes first.
vim.api.nvim_create_autocmd("VimEnter", { callback = function() vim.defer_fn(ask, 15) end })
"##;

/// What the editor answers: each group's text, ground, link, attributes and the color of its underlines.
type Answer = BTreeMap<String, [String; 5]>;

fn asked(scratch: &Scratch, clean: bool, before: &str, mood: bool) -> Option<Answer> {
    let answer = scratch.home().join("answer");
    let ask = scratch.home().join("ask.lua");
    std::fs::write(&ask, ASK).ok()?;
    let _ = std::fs::remove_file(&answer);
    let names: Vec<&str> = GROUPS.iter().map(|g| g.0).collect();
    let mut command = Command::new("timeout");
    command.args(["20", "nvim", "--headless", "-i", "NONE", "-n"]);
    if clean {
        command.arg("--clean");
    }
    command
        .args(["-c", before, "-c", &format!("luafile {}", ask.display())])
        .env_clear()
        .env("HOME", scratch.home())
        .env("TMPDIR", scratch.home())
        .env("PATH", std::env::var_os("PATH").unwrap_or_default())
        .env("TERM", "xterm-256color")
        .env("SIDE", "dark")
        .env("WEALDMIST_GROUPS", names.join(","))
        .env("WEALDMIST_ANSWER", &answer)
        .current_dir(scratch.home())
        .stdin(std::process::Stdio::null())
        .stdout(std::process::Stdio::null())
        .stderr(std::process::Stdio::null());
    if mood {
        command.env("MOOD", "calm");
    }
    command.status().ok()?;
    let text = std::fs::read_to_string(&answer).ok()?;
    let of = |line: &str| {
        let mut parts = line.split('\t').map(str::to_owned);
        let name = parts.next()?;
        let mut next = || parts.next();
        Some((name, [next()?, next()?, next()?, next()?, next()?]))
    };
    Some(text.lines().filter_map(of).collect())
}

/// What we read of a part of a group.
fn read<'a>(report: &'a ToolReport, group: &str, role: &str) -> Vec<&'a Reading> {
    let fits =
        |r: &&Reading| r.effective && r.key == group && (r.role.as_str() == role || own(r, role));
    report.readings.iter().filter(fits).collect()
}

/// Whether a reading has a role of its own, which what is said twice for two jobs gets.
fn own(reading: &Reading, role: &str) -> bool {
    let ground = role.ends_with("ground") || role == "selection" || role == "background";
    reading.role.as_str().contains(".own-")
        && reading
            .role
            .as_str()
            .ends_with(if ground { ".ground" } else { ".text" })
}

#[test]
fn the_editor_has_the_groups_that_we_read() {
    if !have(&["nvim", "timeout"]) {
        return;
    }
    let (seed, rounds) = run(300);
    let mut dice = Dice::new(seed);
    let (mut wrong, mut compared, mut unsure, mut answers) = (Vec::new(), 0, 0, 0);
    let mut known = 0;
    let clean = Scratch::new();
    let by_itself: Vec<Answer> = ["set bg=dark", "set bg=light"]
        .into_iter()
        .map(|side| asked(&clean, true, side, false).expect("the editor answers"))
        .collect();
    for n in 0..rounds {
        let scratch = Scratch::new();
        let mut text = String::new();
        for (name, content) in files(&mut dice) {
            scratch.write(&format!(".config/nvim/{name}"), &content);
            let _ = write!(text, "--- {name}\n{content}");
        }
        if dice.percent(40) {
            scratch.write(".mist", "x\n");
        }
        let mood = n.is_multiple_of(2);
        let Some(theirs) = asked(&scratch, false, "", mood) else {
            continue;
        };
        answers += 1;
        let home = Home::open(Some(&scratch.home())).expect("a home");
        let outer = Outer {
            tool: ToolId("t"),
            term: "xterm-256color".to_owned(),
            ground: Some(Rgb::from_u32(0)),
        };
        let mut facts = Facts {
            terminals: vec![outer],
            ..Facts::default()
        };
        let report = adapter("nvim")
            .expect("ours")
            .read(&Asked(&home, &["VIMRUNTIME"]), &mut facts);
        // Files that load themselves without end: all that is said is that nothing is certain.
        let endless = |r: &Reading| {
            r.standing
                .why()
                .is_some_and(|w| w.contains("again and again"))
        };
        if report.readings.iter().any(endless) {
            compared += 2 * GROUPS.len() + 2;
            unsure += 2 * GROUPS.len() + 2;
            let sure = |r: &&Reading| r.effective && r.is_sure();
            if let Some(one) = report.readings.iter().find(sure) {
                wrong.push(format!(
                    "{n}: {one:?} of endless files is certain, in\n{text}"
                ));
            }
            continue;
        }
        let side = usize::from(theirs["&"][2] == "light");
        for (group, text_role, ground_role) in GROUPS {
            let [fg, bg, link, words, special] = &theirs[group];
            let [own_fg, own_bg, own_link, ..] = &by_itself[side][group];
            let attributes = report.attributes.iter().filter(|a| a.key == group);
            for ours in attributes {
                known += 1;
                let mut read = ours.words.clone();
                read.sort_unstable();
                let bare = [fg, bg].map(String::is_empty);
                let other = ours.special.is_some_and(|s| s.to_string() != *special);
                let colored = (0..2).any(|side| ours.bare[side] && !bare[side]);
                if read.join(",") != *words || other || colored {
                    wrong.push(format!(
                        "{n}: {group} has {words:?} {special} {bare:?}, read as {ours:?}, in\n{text}"
                    ));
                }
            }
            let other = &by_itself[1 - side][group];
            for (role, shown, default, other) in [
                (text_role, fg, own_fg, &other[0]),
                (ground_role, bg, own_bg, &other[1]),
            ] {
                let ours = read(&report, group, role);
                compared += 1;
                let same = |r: &&&Reading| match &r.value {
                    Value::Color(color) => color.to_string().eq_ignore_ascii_case(shown),
                    Value::Default => shown.is_empty(),
                    _ => shown.is_empty(),
                };
                match ours.as_slice() {
                    [] => {
                        let linked = link == own_link && !link.is_empty();
                        // A group that only some of the files' ways set.
                        if !linked && !shown.is_empty() && shown != default && shown != other {
                            wrong.push(format!(
                                "{n}: {group} ({role}) is {shown:?}, not read, in\n{text}"
                            ));
                        }
                    }
                    all if all.iter().all(|r| r.is_sure()) => {
                        if all.len() != 1 || !all.iter().all(|r| same(&r)) {
                            let ours: Vec<String> = all
                                .iter()
                                .map(|r| format!("{} {}", r.value, r.place))
                                .collect();
                            wrong.push(format!(
                                "{n}: {group} ({role}) is {shown:?}, read as {ours:?}, in\n{text}"
                            ));
                        }
                    }
                    all => {
                        unsure += 1;
                        // One of what it may be is what it is, or nothing is.
                        let unread = all
                            .iter()
                            .any(|r| matches!(r.standing, Standing::Unread(_)));
                        if !unread
                            && !shown.is_empty()
                            && shown != default
                            && shown != other
                            && !all.iter().any(|r| same(&r))
                        {
                            let ours: Vec<String> =
                                all.iter().map(|r| format!("{}", r.value)).collect();
                            wrong.push(format!(
                                "{n}: {group} ({role}) is {shown:?}, none of {ours:?}, in\n{text}"
                            ));
                        }
                    }
                }
            }
        }
        let one = |role: &str| {
            let fits = |r: &&Reading| r.effective && r.role.as_str() == role;
            let all: Vec<&Reading> = report.readings.iter().filter(fits).collect();
            match all.as_slice() {
                [] => Some(None),
                [one] if one.is_sure() => Some(Some(one.value.to_string())),
                _ => None,
            }
        };
        compared += 2;
        let [depth, font, ..] = &theirs["&"];
        if let Some(ours) = one("depth") {
            let on = ours.as_deref() == Some("24-bit");
            if on != (depth == "true") {
                wrong.push(format!(
                    "{n}: termguicolors is {depth}, read as {ours:?}, in\n{text}"
                ));
            }
        }
        if let Some(ours) = one("font.family") {
            let family = font.split(':').next().unwrap_or_default();
            if ours.unwrap_or_default() != family {
                wrong.push(format!("{n}: guifont is {font}, in\n{text}"));
            }
        }
    }
    eprintln!("nvim: {unsure} of {compared} values are unsure; attributes of {known} groups");
    assert!(known > 3 * answers, "{known} groups with attributes");
    assert!(answers * 10 > rounds * 9, "{answers} of {rounds} answered");
    judge("nvim", seed, rounds, &wrong, compared);
    assert!(unsure * 10 < compared, "{unsure} of {compared} are unsure");
}
