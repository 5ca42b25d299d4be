//! Every reader of foreign bytes, given good input that was changed at random: it answers, or says
//! what is wrong, in time, and never panics.
//!
//! A run of the test suite takes the same few hundred inputs for each reader every time.
//! `WEALDMIST_FUZZ_SECONDS=600` makes it longer, `WEALDMIST_FUZZ=setup,fonts` picks readers, `WEALDMIST_SEED` another beginning. What is
//! found is kept below the temporary folder, so that it can become a case.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stderr)]

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use wealdmist_core::demo;
use wealdmist_core::font::{self, Typeface};
use wealdmist_core::glyph::{Syntax, scan};
use wealdmist_core::look::Look;
use wealdmist_core::setup::SetupDoc;
use wealdmist_host::{Home, Picture, open_source, read_palettes};
use wealdmist_tools::access::{MEMORY_HOME, MemoryAccess};
use wealdmist_tools::document::{commands, lua};
use wealdmist_tools::{exchange, plan, read_all};

/// A generator of numbers whose seed names the run.
struct Chance(u64);

impl Chance {
    fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }

    fn below(&mut self, n: usize) -> usize {
        (self.next() % n.max(1) as u64) as usize
    }
}

/// Pieces with a meaning in one language or another.
const WORDS: &[&[u8]] = &[
    b"[",
    b"]",
    b"{",
    b"}",
    b"(",
    b")",
    b"<",
    b">",
    b"\"",
    b"'",
    b"`",
    b"\\",
    b"$",
    b"#",
    b"%",
    b"=",
    b"\n",
    b"\r\n",
    b"\0",
    b"\xff",
    b"\xef\xbb\xbf",
    b"[[",
    b"]]",
    b"--",
    b"/*",
    b"*/",
    b"#{",
    b"#[",
    b"#(",
    b"fg=",
    b"bg=#112233",
    b"\\e[38;5;",
    b"\\u{e0b0}",
    b"\xee\x82\xb0",
    b"\xcc\x81",
    b"\xf0\x9f\x91\x8d",
    b"\xe2\x80\xae",
    b"include ",
    b"source-file ",
    b". ~/.bashrc\n",
    b"PS1=",
    b"set -g ",
    b"hi Normal guifg=",
    b"function() ",
    b"end ",
    b"mix = ['red','blue',0.5]",
    b"inf",
    b"nan",
    b"-1",
    b"99999999999999999999",
    b"1e999",
    b"&a",
    b"*a",
    b"<<: *a",
    b"<!ENTITY",
    b"<dict>",
    b"---\n",
    b"\t",
    b"\x7f\xff\xff\xff",
    b"\xff\xff\xff\xff",
    b"\x00\x00\x00\x00",
    b"\x80\x00",
];

fn changed(good: &[Vec<u8>], chance: &mut Chance) -> Vec<u8> {
    let mut bytes = good[chance.below(good.len())].clone();
    for _ in 0..1 + chance.below(6) {
        let at = chance.below(bytes.len() + 1);
        match chance.below(9) {
            0 => bytes.truncate(at),
            1 if at < bytes.len() => bytes[at] ^= 1 << chance.below(8),
            2 if at < bytes.len() => bytes[at] = chance.next() as u8,
            3 => {
                let word = WORDS[chance.below(WORDS.len())];
                bytes.splice(at..at, word.iter().copied());
            }
            4 => {
                let end = (at + 1 + chance.below(64)).min(bytes.len());
                bytes.drain(at.min(end)..end);
            }
            5 => {
                let end = (at + 1 + chance.below(200)).min(bytes.len());
                let piece = bytes[at.min(end)..end].to_vec();
                let times = 1 + chance.below(8);
                let to = chance.below(bytes.len() + 1);
                bytes.splice(to..to, piece.repeat(times));
            }
            6 => {
                let other = &good[chance.below(good.len())];
                let from = chance.below(other.len() + 1);
                let end = (from + chance.below(400)).min(other.len());
                bytes.splice(at..at, other[from..end].iter().copied());
            }
            7 => {
                let word = WORDS[chance.below(WORDS.len())];
                bytes.splice(at..at, word.repeat(1 + chance.below(300)));
            }
            _ if bytes.len() >= 4 => {
                // Numbers of binary formats: lengths, offsets, counts.
                let at = chance.below(bytes.len() - 3);
                let value = [
                    0u32,
                    1,
                    0x7fff_ffff,
                    0xffff_ffff,
                    0xffff,
                    0x8000,
                    chance.next() as u32,
                ][chance.below(7)];
                bytes[at..at + 4].copy_from_slice(&value.to_be_bytes());
            }
            _ => {}
        }
    }
    bytes.truncate(1 << 20);
    bytes
}

/// What is done with bytes.
type Read = Box<dyn Fn(&[u8])>;

/// A reader: its name, good input, and what is done with bytes.
struct Reader {
    name: &'static str,
    good: Vec<Vec<u8>>,
    read: Read,
}

/// A home in memory with the file put in a place.
fn planned(path: &str, bytes: &[u8]) {
    let mut access = MemoryAccess::with(&[
        ("x.conf", "color1 #aabbcc\n"),
        (".bashrc", "eval \"$(gauge ~/look.json ~/look.yaml)\"\n"),
        (
            ".config/konsolerc",
            "[Desktop Entry]\nDefaultProfile=Tide.profile\n",
        ),
        (
            ".local/share/konsole/Tide.profile",
            "[Appearance]\nColorScheme=Marsh\n",
        ),
    ]);
    access
        .files
        .insert(Path::new(MEMORY_HOME).join(path), bytes.to_vec());
    let reports = read_all(&access);
    let setup = "[palettes.a]\nforeground='#dddddd'\n[font]\nfamily='Reedbed Mono'\nfallback=['Sedge']\n[symbols]\nlevel='plain'\n[roles]\ncomment='#445566'\n";
    let doc = SetupDoc::parse("s", setup.as_bytes()).unwrap();
    let look = Look::new(doc.setup());
    let planned = plan(doc.setup(), &look, &reports, &access, None);
    for edit in &planned.edits {
        access.files.insert(edit.path.clone(), edit.after());
    }
    // What was written is read again, and nothing is planned twice but what was said to be left: two
    // tools that share a file may not both change one place at once.
    let again = plan(doc.setup(), &look, &read_all(&access), &access, None);
    assert!(
        again.is_empty() || !planned.left.is_empty(),
        "not settled:\n{}",
        again.unified()
    );
}

fn readers() -> Vec<Reader> {
    let files = demo::files();
    let of = |end: &str| -> Vec<Vec<u8>> {
        let found = files.iter().filter(|f| f.path.ends_with(end));
        found.map(|f| f.bytes.clone()).collect()
    };
    let mut out = Vec::new();
    let mut add = |name: &'static str, good: Vec<Vec<u8>>, read: Read| {
        assert!(!good.is_empty(), "{name} has no good input");
        out.push(Reader { name, good, read });
    };
    let setups = vec![
        wealdmist_core::first::first_setup("Saltmarsh", Some("dusk"), &[]).into_bytes(),
        b"version = 1\nname = \"Saltmarsh\"\npalette = \"dusk\"\n[palettes.dusk]\nvariant = \"dark\"\nforeground = \"#dddddd\"\nlocked = [\"red\"]\n[palettes.dusk.colors]\nreed = \"#80a040\"\n[roles]\ncomment = { mix = [\"reed\", \"background\", 0.4], italic = true }\nhint = 'comment'\n[font]\nfamily = \"Reedbed Mono NF\"\nfeatures = [\"ss01\"]\nfallback = [\"Sedge\"]\n[symbols]\nlevel = \"icons\"\n[symbols.replace]\n\"U+F07B\" = \"x\"\n[[exceptions]]\ntool='tmux'\nrole='comment'\nreason='x'\n[contrast]\n".to_vec(),
    ];
    add(
        "setup",
        setups,
        Box::new(|bytes| {
            if let Ok(doc) = SetupDoc::parse("s", bytes) {
                let _ = Look::new(doc.setup());
                let _ = doc.with_text(&["font", "family"], "Sedge Mono");
            }
        }),
    );
    let terminal = [of(".conf"), vec![b"# color1 #aabbcc\nfont_family a\nsymbol_map U+E0A0-U+E0D7 X\ninclude x.conf\nfont_features A +ss01\n".to_vec()]].concat();
    add(
        "terminal",
        terminal,
        Box::new(|b| planned(".config/kitty/kitty.conf", b)),
    );
    let toml = vec![b"general.import = ['x.conf']\n[colors.primary]\nbackground = '0x101820' # mine\n[colors]\nnormal = { red = \"#ff0000\" }\n[font]\nsize = 11\nnormal.family = \"A\"\n[window.padding]\nx = 2\n".to_vec()];
    add(
        "terminal-toml",
        [of(".toml"), toml].concat(),
        Box::new(|b| planned(".config/alacritty/alacritty.toml", b)),
    );
    let yaml = vec![b"colors:\n  primary:\n    background: '0x101820' # mine\n  normal: { red: \"#ff0000\", blue: x }\nfont:\n  size: 11.0\n  normal:\n    family: A\nimport:\n  - ~/x.conf\nwindow:\n".to_vec()];
    add(
        "terminal-yaml",
        yaml,
        Box::new(|b| planned(".config/alacritty/alacritty.yml", b)),
    );
    let ini = vec![b"font=A:size=9:weight=bold, B\\-C:size=9\npad=2x2 center\ninclude=~/x.conf\n[colors]\nregular1 = FF0000 # mine\n# bright1=ffffff\nselection-foreground=ffffff\n[cursor]\ncolor=111111 eeeeee\n".to_vec()];
    add(
        "terminal-ini",
        ini,
        Box::new(|b| planned(".config/foot/foot.ini", b)),
    );
    let keyed = vec![b"palette = 1=#ff0000\nfont-family = \"A B\"\nfont-family = C\nconfig-file = ?x.conf\nbackground=101820\n# cursor-color = #ffffff\nwindow-padding-x = 2,4\n".to_vec()];
    add(
        "terminal-keyed",
        keyed,
        Box::new(|b| planned(".config/ghostty/config", b)),
    );
    let mux = vec![
        b"set -g status-left \"#[fg=#112233,bg=colour4]#{?client_prefix,#[fg=red],} x \xee\x82\xb0\"\nset -g @c '#aabbcc'\nset -ga status-style \"fg=#{@c}\"\nif-shell 'true' { set -g message-style fg=red }\n%if #{==:a,b}\nsource-file -q ~/x.conf\n%endif\n".to_vec(),
        b"setw -g window-status-format '#I #W' ; set -s terminal-features[3] 'x:RGB'\n".to_vec(),
    ];
    add(
        "multiplexer",
        mux.clone(),
        Box::new(|b| planned(".tmux.conf", b)),
    );
    add(
        "commands",
        mux,
        Box::new(|b| {
            let _ = commands::parse(b);
        }),
    );
    let lua_files = vec![
        b"local s = vim.api.nvim_set_hl\ns(0, 'Comment', { fg = '#667788', bold = true })\nvim.cmd([[hi Normal guifg=#ffffff]])\nvim.o.guifont = \"A\\\\, B:h12,C:h9\"\nvim.cmd.colorscheme('x')\nreturn {}\n".to_vec(),
        b"if a then b() elseif c then d() else e() end for i = 1, 2 do x = function() return not -#i .. 'a' end end\n".to_vec(),
        b"local c = { bg = '#101010', ['fg'] = \"#dddddd\" }\nlocal function p(g, o) vim.api.nvim_set_hl(0, g, o) end\nfor g, o in pairs({ Comment = { fg = c.fg }, Tag = { link = 'Comment' } }) do p(g, o) end\nif vim.env.X then vim.o.background = 'light' return else pcall(require, 'y') end\nvim.cmd(string.format('hi %s guifg=%s', 'Type', c.bg))\nvim.api.nvim_create_autocmd('ColorScheme', { callback = function() p('Title', c) end })\nwhile vim.g.z do break end\n".to_vec(),
    ];
    add(
        "lua",
        lua_files.clone(),
        Box::new(|b| {
            let _ = lua::parse(b);
        }),
    );
    add(
        "editor-lua",
        lua_files,
        Box::new(|b| planned(".config/nvim/init.lua", b)),
    );
    let vim = vec![b"set guifont=Old\\ Mono:h11,Other:h11\ncolorscheme x\nhi Comment guifg=#112233 guibg=NONE\nset termguicolors listchars=tab:\xe2\x86\x92\\ \n".to_vec(), b"let s:c = {'a': '#112233', 'b': [1, 2]}\nfunction! s:P(g) abort\n  exe 'hi' a:g 'guifg=' . s:c.a\nendfunction\nfor g in ['Tag', 'Type'] | call s:P(g) | endfor\nif exists('g:x') && &background ==# 'dark' | hi! link Tag Type | else | hi clear | endif\ntry\n  colorscheme y\ncatch /E185/\n  set bg=light\nendtry\nau ColorScheme * ++nested hi Title guifg=Red | hi Tag\n  \\ guibg=#445566\nlua << END\nvim.g.x = 1\nEND\n".to_vec()];
    add(
        "editor-vim",
        vim,
        Box::new(|b| planned(".config/nvim/init.vim", b)),
    );
    let shell = vec![b"PS1='\\[\\e[1;32m\\]\\u@\\h\\[\\e[0m\\] \\[\\e[38;5;75;48;2;1;2;3m\\]\\w\\[\\e[0m\\]\\$ \xee\x82\xb0'\n[ -f ~/.x ] && . ~/.x\nsep=$'\\ue0b0'\n".to_vec()];
    add("shell", shell, Box::new(|b| planned(".bashrc", b)));
    let zsh = vec![b"autoload -U colors && colors\nsetopt prompt_subst\ntypeset -A S\nS[a]='fg=#112233,bold'\nbranch() { echo \"%F{213}x%f\" }\nif [[ -o interactive ]] { PROMPT='%F{#102030}%~%f $(branch) %(?.%F{2}.%1F)%#%f ' } else { PS1=$'%{\\e[31m%}%n' }\nfor f (~/.z/*.zsh(N)) source $f\nzle_highlight=(region:bg=4)\nzstyle ':completion:*' list-colors 'di=1;34' ${(s.:.)LS}\nprecmd_functions+=(branch)\n() { local x=${0:h} } a\n".to_vec()];
    add("zsh", zsh, Box::new(|b| planned(".zshrc", b)));
    let fish = vec![b"set -g fish_color_command 112233 --bold\nset -a fish_color_end --background=brred\nif status is-interactive; and test \"$TERM\" != linux\n  source ~/.mist\nelse if set -q x[1]; or not true; set -e x; end\nfunction fish_prompt --on-event y -a z\n  set -l c (set_color -b 1a2b3c red)\n  echo -n -s $c (prompt_pwd) (set_color normal) {a,b}\\e\\x41 \"$(pwd)\"\n  switch $status; case 0 '*x'; printf '%s' \"$argv[1..-1]\"; end\nend\nfor i in a b; begin; eval \"set f $i\"; end; end\nfish_config theme choose mist\n".to_vec()];
    add(
        "fish",
        fish,
        Box::new(|b| planned(".config/fish/config.fish", b)),
    );
    let program = vec![b"palette = 'weald'\nformat = \"\"\"\n[a$directory](bg:reed fg:prev_bg)($git_status)\\\n  \\\\[${env_var.X}\\u00e9[x](none)$all$fill$character\"\"\"\n[directory]\nformat = '[$path]($style)[$read_only](bold $read_only_style)'\nstyle = \"#1a2b3c bg:208\"\nrepo_root_style = 'red'\n[character]\nsuccess_symbol = '[>](green)'\n[env_var.X]\n[custom.y]\nstyle = 3\n[palettes.weald]\nreed = '#80a040'\n".to_vec()];
    add(
        "prompt-program",
        program,
        Box::new(|b| planned(".config/starship.toml", b)),
    );
    let described = b"{ // c\n\"inks\": {\"reed\": \"#80a040\"}, \"rows\": [{\"shows\": \"git\", \"fg\": \"p:reed\", \"bgColor\": \"light_blue\", \"text\": \"<#ffffff on #000>\\u00e9\"}, 3,]}\n";
    add(
        "prompt-json",
        vec![described.to_vec()],
        Box::new(|b| planned("look.json", b)),
    );
    add(
        "prompt-yaml",
        vec![
            described[7..].to_vec(),
            b"rows:\n- shows: git\n  fg: &a '#102030'\n  back: *a\n- {text: x #fff, color: red}\n"
                .to_vec(),
        ],
        Box::new(|b| planned("look.yaml", b)),
    );
    let resources = vec![b"#define reed #80a040\n! c\n/* x */\n#include \"more\"\nXTerm*background: reed\n*VT100.color1:\\\n #123\nurxvt.font: xft:Reedbed Mono:size=9,[50]xft:Sedge,fixed\nURxvt*color2: [80]rgb:1/22/3\nXTerm*faceName: x:fixed\n#ifdef A\n*color3: red\n#endif\n".to_vec()];
    add(
        "resources",
        resources,
        Box::new(|b| planned(".Xresources", b)),
    );
    let gated = vec![b"# c\n[Configuration]\nColorForeground=#abc\nColorCursor=rgb(1,2,3)\nColorCursorUseDefault=FALSE\nColorPalette=#000000;#aa0000;red;;\nFontName=Reedbed Mono Bold 12\nBackgroundMode=TERMINAL_BACKGROUND_TRANSPARENT\nBackgroundDarkness=0.9\n".to_vec()];
    add(
        "gated",
        gated,
        Box::new(|b| planned(".config/xfce4/terminal/terminalrc", b)),
    );
    let windows = vec![
        b"// c\n{ \"defaultProfile\": \"{a}\", \"profiles\": { \"defaults\": { \"colorScheme\": { \"dark\": \"M\", \"light\": \"N\" }, \"font\": { \"face\": \"x\", \"size\": 9 }, }, \"list\": [ { \"guid\": \"{A}\", \"background\": \"#010203\" } /* d */ ] },\n \"schemes\": [ { \"name\": \"M\", \"red\": \"#abc\", \"brightBlack\": \"#aabbcc\" }, ] }\n".to_vec(),
        b"{\"profiles\": [{\"guid\": \"a\", \"fontFace\": \"x\"}], \"schemes\": []}".to_vec(),
    ];
    add(
        "windows",
        windows,
        Box::new(|b| planned("AppData/Local/Microsoft/Windows Terminal/settings.json", b)),
    );
    let parts = vec![b"{\n \"Profiles\": [ { \"Name\": \"M\", \"Guid\": \"m\", \"Ansi 1 Color\": { \"Color Space\": \"sRGB\", \"Red Component\": 0.5, \"Green Component\": 1, \"Blue Component\": 0 }, \"Normal Font\": \"X-Y 12\", \"Transparency\": 0.1, \"Use Separate Colors for Light and Dark Mode\": true, \"Cursor Color (Dark)\": {\"Red Component\": 0} } ] }".to_vec()];
    add(
        "numbered-parts",
        parts,
        Box::new(|b| {
            planned(
                "Library/Application Support/iTerm2/DynamicProfiles/a.json",
                b,
            )
        }),
    );
    let profile = vec![b"[Appearance]\nColorScheme=Marsh\nFont=Reedbed Mono,11,-1,5\n[Cursor Options]\nUseCustomCursorColor=true\nCustomCursorColor=1,2,3\n[General]\nTerminalMargin=4\n".to_vec()];
    add(
        "konsole-profile",
        profile,
        Box::new(|b| planned(".local/share/konsole/Tide.profile", b)),
    );
    let scheme = vec![
        b"[Background]\nColor=1, 2,3\n[Color0Intense]\nColor=#102030\n[General]\nOpacity=0.5\n"
            .to_vec(),
    ];
    add(
        "konsole-scheme",
        scheme,
        Box::new(|b| planned(".local/share/konsole/Marsh.colorscheme", b)),
    );
    let lua = vec![
        b"local w = require 'wezterm'\nlocal c = w.config_builder()\nlocal function f(t) t.font_size = 3 return '#010203' end\nc.colors = { background = f(c), ansi = { \"#000000\" }, -- d\n}\nc.colors.cursor_bg = [[#aabbcc]]\nif x then c.font = w.font 'A' end\nc.font = w.font_with_fallback { { family = 'A' }, 'B' }\nc.window_padding = { left = 2, top = '1cell' }\nreturn c\n".to_vec(),
        b"return { color_scheme = 'Its own', line_height = 1.1 }".to_vec(),
    ];
    add(
        "returned-lua",
        lua,
        Box::new(|b| planned(".wezterm.lua", b)),
    );
    let lasting = vec![b"# VERSION: 3.0\nSETUVAR __fish_initialized:3400\nSETUVAR --export fish_color_search_match:bryellow\\x1e\\x2d\\x2dbackground\\x3d112233\\u00e9\n".to_vec()];
    add(
        "fish-kept",
        lasting,
        Box::new(|b| planned(".config/fish/fish_variables", b)),
    );
    let palette = SetupDoc::parse("s", b"[palettes.dusk]\nforeground='#dddddd'\nbackground='#101010'\n[palettes.dusk.colors]\nreed='#80a040'\n").unwrap();
    let font = exchange::FontUsed {
        face: "ReedbedMono-Regular".to_owned(),
        size: 12.0,
    };
    let palettes: Vec<Vec<u8>> = exchange::FORMATS
        .iter()
        .map(|f| exchange::export(f, palette.setup().palette(), "Saltmarsh", Some(&font)).bytes)
        .collect();
    add(
        "palettes",
        palettes,
        Box::new(|b| {
            let text = String::from_utf8_lossy(b);
            for format in exchange::FORMATS {
                let _ = exchange::import(Some(format), "x", &text);
            }
            let _ = exchange::import(None, "x", &text);
        }),
    );
    add(
        "palette-file",
        vec![b"foreground #dddddd\nbackground #101010\n".to_vec()],
        Box::new(|b| {
            let home = Home::open(Some(&std::env::temp_dir())).unwrap();
            let _ = read_palettes(&home, &kept("palette", b), None);
        }),
    );
    let fonts = vec![
        demo::fonts::complete(),
        demo::fonts::wide_icons(),
        demo::fonts::without_icons(),
    ];
    add(
        "fonts",
        fonts.clone(),
        Box::new(|b| {
            for face in font::faces(b).unwrap_or_default() {
                let _ = font::coverage(b, face.index);
                let _ = font::facts::facts(b, face.index);
                if let Ok(face) = Typeface::open(b.to_vec().into(), face.index) {
                    let _ = face.shape("ab->!= \u{e0b0}e\u{301}", &[]);
                }
            }
        }),
    );
    add(
        "archives",
        archives(&fonts),
        Box::new(|b| {
            let _ = open_source(&kept("archive", b));
        }),
    );
    let images = ["png", "jpeg", "webp"].map(image).to_vec();
    add(
        "images",
        images,
        Box::new(|b| {
            let _ = Picture::open(&kept("image", b));
        }),
    );
    add(
        "signs",
        vec!["a\u{e0b0}\\ue0b0 \\xee\\x82\\xb0 e\u{301} \u{1f44d}\u{1f3fd}\u{200d}".into()],
        Box::new(|b| {
            for syntax in [
                Syntax::Raw,
                Syntax::Shell,
                Syntax::Lua,
                Syntax::Data,
                Syntax::Any,
            ] {
                let _ = scan(b, syntax);
            }
        }),
    );
    out
}

fn kept(name: &str, bytes: &[u8]) -> PathBuf {
    let path = std::env::temp_dir().join(format!("wealdmist-fuzz-{}-{name}", std::process::id()));
    std::fs::write(&path, bytes).unwrap();
    path
}

fn archives(fonts: &[Vec<u8>]) -> Vec<Vec<u8>> {
    use std::io::Write;
    let mut tar = tar::Builder::new(Vec::new());
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (i, font) in fonts.iter().enumerate() {
        let name = format!("a/{i}.ttf");
        let mut header = tar::Header::new_ustar();
        header.set_size(font.len() as u64);
        tar.append_data(&mut header, &name, &font[..]).unwrap();
        zip.start_file(name, zip::write::SimpleFileOptions::default())
            .unwrap();
        zip.write_all(font).unwrap();
    }
    let tar = tar.into_inner().unwrap();
    let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    gzip.write_all(&tar).unwrap();
    let mut xz =
        lzma_rust2::XzWriter::new(Vec::new(), lzma_rust2::XzOptions::with_preset(0)).unwrap();
    xz.write_all(&tar).unwrap();
    vec![
        zip.finish().unwrap().into_inner(),
        gzip.finish().unwrap(),
        xz.finish().unwrap(),
        tar,
    ]
}

fn image(kind: &str) -> Vec<u8> {
    let picture =
        image::RgbImage::from_fn(37, 23, |x, y| image::Rgb([x as u8 * 5, y as u8 * 9, 77]));
    let format = image::ImageFormat::from_extension(kind).unwrap();
    let mut out = std::io::Cursor::new(Vec::new());
    picture.write_to(&mut out, format).unwrap();
    out.into_inner()
}

#[test]
fn every_reader_bears_changed_input() {
    let number = |name: &str| std::env::var(name).ok().and_then(|v| v.parse::<u64>().ok());
    /// How many inputs each reader gets in a run of the test suite.
    const INPUTS: u64 = 300;
    let seconds = number("WEALDMIST_FUZZ_SECONDS");
    let seed = number("WEALDMIST_SEED").unwrap_or(0x5eed);
    let only = std::env::var("WEALDMIST_FUZZ").unwrap_or_default();
    let slowest_allowed = Duration::from_secs(if cfg!(debug_assertions) { 20 } else { 4 });
    for reader in readers() {
        if !only.is_empty() && !only.split(',').any(|o| o == reader.name) {
            continue;
        }
        let mut chance = Chance(seed | 1);
        let begin = Instant::now();
        let (mut count, mut slowest) = (0u64, Duration::ZERO);
        let more = |count: u64| match seconds {
            Some(seconds) => begin.elapsed() < Duration::from_secs(seconds),
            None => count < INPUTS,
        };
        while more(count) {
            let bytes = match count {
                n if (n as usize) < reader.good.len() => reader.good[n as usize].clone(),
                _ => changed(&reader.good, &mut chance),
            };
            let started = Instant::now();
            let fine = catch_unwind(AssertUnwindSafe(|| (reader.read)(&bytes)));
            let took = started.elapsed();
            if fine.is_err() || took > slowest_allowed {
                let path = std::env::temp_dir().join(format!("wealdmist-found-{}", reader.name));
                std::fs::write(&path, &bytes).unwrap();
                panic!(
                    "{} (seed {seed}, input {count}, {took:?}): see {}",
                    reader.name,
                    path.display()
                );
            }
            slowest = slowest.max(took);
            count += 1;
        }
        eprintln!(
            "{:<14} {count:>9} inputs, the slowest {slowest:?}",
            reader.name
        );
    }
    for name in ["palette", "archive", "image"] {
        let _ = std::fs::remove_file(
            std::env::temp_dir().join(format!("wealdmist-fuzz-{}-{name}", std::process::id())),
        );
    }
}
