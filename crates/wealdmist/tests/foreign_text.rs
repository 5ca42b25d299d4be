//! Text from outside never becomes code: hostile names and signs in setups, fonts and palettes are
//! written into dotfiles, and the programs that read those see what a harmless text would have
//! given them. A canary tells whether anything of it was run.

#![allow(clippy::disallowed_methods, clippy::unwrap_used, clippy::print_stderr)]

mod common;

use std::fmt::Write as _;
use std::fs;
use std::io::Write as _;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use common::{Scratch, have};
use wealdmist_core::character::is_treacherous;
use wealdmist_core::demo;
use wealdmist_core::font::{Catalog, Entry, coverage, faces};
use wealdmist_core::look::Look;
use wealdmist_core::plan::Plan;
use wealdmist_core::setup::SetupDoc;
use wealdmist_host::Home;
use wealdmist_tools::{plan, read_all};

/// Numbers for choosing: a linear congruential generator, so that a seed names its run.
struct Chance(u64);

impl Chance {
    fn below(&mut self, n: usize) -> usize {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        ((self.0 >> 33) as usize) % n
    }
}

/// A text that would run the canary somewhere, were it taken for code.
fn hostile(chance: &mut Chance, canary: &str) -> String {
    let run = format!("touch {canary}");
    let pieces = [
        format!("$({run})"),
        format!("`{run}`"),
        format!(";{run};"),
        format!("';{run};'"),
        format!("\";{run};\""),
        format!("\"..os.execute('{run}')..\""),
        format!("'..os.execute(\"{run}\")..'"),
        format!("]]..os.execute('{run}')..[["),
        format!("|call system('{run}')|\""),
        format!("' | call system('{run}') | '"),
        format!("|!{run}"),
        format!("#({run})"),
        format!("{{__import__('os').system('{run}')}}"),
        format!("%{{system('{run}')}}"),
        format!("&&{run}&&"),
        format!("<({run})"),
        format!("}} ; run-shell '{run}' ; {{"),
        format!("'; run-shell '{run}'"),
        format!("#[fg=red]#({run})"),
        "\\".into(),
        "'".into(),
        "\"".into(),
        "]]".into(),
        "[[".into(),
        "--".into(),
        "#".into(),
        ",".into(),
        ":".into(),
        "{".into(),
        "}".into(),
        "$".into(),
        "%".into(),
        "*/".into(),
        "-->".into(),
        "<x a='".into(),
        "&lt;".into(),
        " ".into(),
        "Mono".into(),
        "é".into(),
        "\u{f07b}".into(),
        "~".into(),
        "!".into(),
        "=".into(),
        "_".into(),
    ];
    let count = 1 + chance.below(4);
    (0..count)
        .map(|_| pieces[chance.below(pieces.len())].clone())
        .collect()
}

fn toml(text: &str) -> String {
    format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""))
}

const KITTY: &str = "font_family Old Mono\nbold_font Old Bold\ntab_title_template \"\u{e0b0} {title}\"\ntab_separator \" \u{e0b0}\"\nenv X=a \u{e0b0} b\nmap ctrl+x launch sh -c \"echo \u{e0b0}\"\n";
const TMUX: &str = "set -g status-left \"a\u{e0b0}b #{?x,\u{e0b0},c} #(true \u{e0b0})\"\nset -g status-right '\u{e0b0}'\nset -g @sign \u{e0b0}\nset -g @cmd \"echo \u{e0b0}\"\nset -g window-status-format '#I\u{e0b0}#W'\nrun-shell \"true \u{e0b0}\"\nif-shell 'true \u{e0b0}' 'set -g @yes 1'\nset -g status-left-length 33\n";
const LUA: &str = "local icons = { a = '\u{e0b0}', b = \"\u{e0b0} \", c = [[\u{e0b0}]] }\nvim.o.guifont = 'Old Mono:h11,Other:h11'\nvim.cmd('let g:sign = \"\u{e0b0}\"')\nvim.cmd(\"set guifont=Old\\\\ Mono:h11\")\nvim.cmd([[let g:long = '\u{e0b0}']])\nos.execute('true \u{e0b0}')\nvim.g.sign2 = icons.a\nvim.g.last = 'reached'\n";
const VIM: &str = "set guifont=Old\\ Mono:h11,Other:h11\nlet g:sign = '\u{e0b0}'\nlet g:two = \"\u{e0b0}\"\nset fillchars=vert:\u{e0b0}\nautocmd VimEnter * let g:x = '\u{e0b0}'\ncall system('true \u{e0b0}')\nlet g:last = 'reached'\n";
const BASH: &str = "sep='\u{e0b0}'\nsign=\"\u{e0b0} \"\nPS1='\u{e0b0} \\w '\nPS2=\"\u{e0b0} $(true \u{e0b0})\"\nalias ll='true \u{e0b0}'\ntrue \u{e0b0}\nx=$(true \u{e0b0})\neval \"true \u{e0b0}\"\nPS3=$'\\ue0b0 \\xee\\x82\\xb0'\nPROMPT_COMMAND='true \u{e0b0}'\nlast=reached\n";

struct Case {
    scratch: Scratch,
    canary: PathBuf,
    text: String,
}

impl Case {
    fn home(&self, path: &str) -> PathBuf {
        self.scratch.home().join(path)
    }

    fn dry(&self, what: &str) {
        assert!(!self.canary.exists(), "{what} ran the text {:?}", self.text);
    }
}

/// A font file whose every name is this text.
fn font_file(text: &str) -> Vec<u8> {
    wealdmist_fonts::named(text, text, text)
}

/// The fonts of a system on which that font is installed.
fn catalog(text: &str) -> Catalog {
    let bytes = font_file(text);
    let entry = |info| Entry {
        path: "font".into(),
        coverage: coverage(&bytes, 0).unwrap().into(),
        info,
    };
    Catalog {
        faces: faces(&bytes).unwrap().into_iter().map(entry).collect(),
    }
}

fn planned(home: &Home, setup: &str, text: &str) -> Plan {
    let doc = SetupDoc::parse("setup.toml", setup.as_bytes()).unwrap_or_else(|e| panic!("{e:?}"));
    let reports = read_all(home);
    plan(
        doc.setup(),
        &Look::new(doc.setup()),
        &reports,
        home,
        Some(&catalog(text)),
    )
}

/// A home with dotfiles, and the text that tries its luck there.
fn bare(text: &str, lua: bool) -> Case {
    let scratch = Scratch::new();
    let canary = scratch.tmp().join("canary");
    let text = text.replace("CANARY", &canary.display().to_string());
    for (path, content) in [
        (".config/kitty/kitty.conf", KITTY),
        (".config/tmux/tmux.conf", TMUX),
        (editor_file(lua), if lua { LUA } else { VIM }),
        (".bashrc", BASH),
    ] {
        scratch.write(path, content);
    }
    Case {
        scratch,
        canary,
        text,
    }
}

const fn editor_file(lua: bool) -> &'static str {
    if lua {
        ".config/nvim/init.lua"
    } else {
        ".config/nvim/init.vim"
    }
}

/// A home whose dotfiles a plan with the text in every field has been written into.
fn case(text: &str, lua: bool) -> Case {
    let case = bare(text, lua);
    let text = &case.text;
    let (written, color) = (toml(text), toml(&format!("c{text}")));
    let mut setup = format!(
        "name = {written}\npalette = {written}\n[palettes.{written}]\nforeground = '#d0d0d0'\n[palettes.{written}.colors]\n{color} = '#102030'\n[font]\nfamily = {written}\nbold = {written}\nfallback = [{written}, 'Other']\nsize = 12\nfeatures = ['ss01']\n"
    );
    let _ = writeln!(
        setup,
        "[symbols]\nlevel = 'icons'\n[symbols.replace]\n'U+E0B0' = {written}\n'U+E725' = {written}\n[roles]\nvariable = {{ mix = ['red', {color}, 0.5] }}\n[tools.nvim]\ngenerate = false\n[window]\nimage = {image}\nfolder = {image}\n",
        image = toml(&format!("/srv/{text}")),
    );
    let home = Home::open(Some(&case.scratch.home())).unwrap();
    for edit in planned(&home, &setup, text).edits {
        fs::create_dir_all(edit.path.parent().unwrap()).unwrap();
        fs::write(&edit.path, edit.after()).unwrap();
    }
    // What is written is what is read again: nothing is planned twice.
    let again = planned(&home, &setup, text);
    let what = again.unified();
    assert!(again.is_empty(), "{text:?} is not settled:\n{what}");
    case
}

fn said(output: &Output) -> String {
    format!(
        "{}{}",
        String::from_utf8_lossy(&output.stdout),
        String::from_utf8_lossy(&output.stderr)
    )
}

fn run(command: &mut Command) -> String {
    said(&command.output().unwrap())
}

fn editor_is_fine(case: &Case, init: &str) {
    let out = run(case.scratch.command("nvim").args(["--headless", "-i", "NONE", "-n", "-u"]).arg(case.home(init)).args([
        "-c",
        "verbose echo 'errors<' . v:errmsg . '> last<' . get(g:, 'last', '') . '> font<' . &guifont . '>'",
        "-c",
        "qall!",
    ]));
    case.dry("the editor");
    assert!(
        out.contains("errors<>") && out.contains("last<reached>"),
        "{:?}: {out}\n{}",
        case.text,
        fs::read_to_string(case.home(init)).unwrap()
    );
    let escaped = case.text.replace(',', "\\,");
    let font = out
        .split("font<")
        .nth(1)
        .unwrap_or_default()
        .split(":h")
        .next()
        .unwrap_or_default()
        .to_owned();
    assert!(
        font == escaped || font == "Old Mono",
        "{:?} became {font:?}",
        case.text
    );
}

fn shell_is_fine(case: &Case) {
    let rc = case.home(".bashrc");
    let checked = run(case.scratch.command("bash").arg("-n").arg(&rc));
    assert_eq!(
        checked,
        "",
        "{:?}\n{}",
        case.text,
        fs::read_to_string(&rc).unwrap()
    );
    // The prompt is expanded as the shell does it, and our own is drawn.
    let script = "for p in \"$PS1\" \"$PS2\" \"$sep\" \"$sign\"; do : \"${p@P}\"; done; eval ll; for f in \"${PROMPT_COMMAND[@]}\"; do eval \"$f\"; done; : \"${PS1@P}\"; echo \"$last\"";
    let out = run(case
        .scratch
        .command("bash")
        .args(["--rcfile"])
        .arg(&rc)
        .args(["-i", "-c", script]));
    case.dry("the shell");
    assert!(out.contains("reached"), "{:?}: {out}", case.text);
}

fn multiplexer_is_fine(case: &Case) {
    let conf = case.home(".config/tmux/tmux.conf");
    let socket = case.scratch.tmp().join("s");
    let tmux = || {
        let mut command = case.scratch.command("tmux");
        command.arg("-S").arg(&socket).arg("-f").arg(&conf);
        command
    };
    let out = run(tmux().args([
        "new-session",
        "-d",
        "-x",
        "80",
        "-y",
        "20",
        "sleep 60",
        ";",
        "show-options",
        "-g",
        "status-left-length",
        ";",
        "show-options",
        "-gv",
        "status-right",
    ]));
    // Formats are worked out, with what they would run.
    let shown = run(tmux().args([
        "display-message",
        "-p",
        "#{E:status-left}#{E:status-right}#{E:window-status-format}",
    ]));
    run(tmux().args(["kill-server"]));
    case.dry("the multiplexer");
    assert!(
        out.contains("status-left-length 33"),
        "{:?}: {out} {shown}\n{}",
        case.text,
        fs::read_to_string(&conf).unwrap()
    );
}

/// What the terminal's own reader makes of its file: the names of fonts, and how many settings.
const READER: &str = "import sys, json
from kitty.config import load_config
for path in sys.argv[1:]:
    bad = []
    o = load_config(path, accumulate_bad_lines=bad)
    print(json.dumps({'bad': len(bad), 'family': str(o.font_family), 'bold': str(o.bold_font), 'maps': sorted(set(map(str, o.symbol_map.values()))), 'env': o.env, 'keys': len(o.map), 'shell': o.shell, 'image': o.background_image}))
";

fn terminal_is_fine(cases: &[Case]) {
    let paths: Vec<PathBuf> = cases
        .iter()
        .map(|c| c.home(".config/kitty/kitty.conf"))
        .collect();
    let output = Command::new("kitty")
        .arg("+runpy")
        .arg(READER)
        .args(&paths)
        .output()
        .unwrap();
    let out = said(&output);
    let lines: Vec<serde_json::Value> = out
        .lines()
        .filter_map(|l| serde_json::from_str(l).ok())
        .collect();
    assert_eq!(lines.len(), cases.len(), "{out}");
    for (case, seen) in cases.iter().zip(lines) {
        let conf = fs::read_to_string(case.home(".config/kitty/kitty.conf")).unwrap();
        assert_eq!(seen["bad"], 0, "{:?}: {conf}", case.text);
        let family = seen["family"].as_str().unwrap();
        assert!(
            family == case.text || family == "Old Mono",
            "{:?} became {family:?}",
            case.text
        );
        for map in seen["maps"].as_array().unwrap() {
            assert!(
                map == case.text.as_str() || map == "Other",
                "{:?} became {map}",
                case.text
            );
        }
        // The reader puts variables in; nothing else becomes of the path of an image.
        let image = seen["image"].as_str();
        let whole = format!("/srv/{}", case.text);
        assert!(
            image.is_none_or(|image| image == whole || whole.contains('$')),
            "{:?} became {image:?}",
            case.text
        );
        assert_eq!(seen["shell"], ".", "{:?}: {conf}", case.text);
        assert_eq!(
            seen["env"].as_object().unwrap().len(),
            1,
            "{:?}: {conf}",
            case.text
        );
        case.dry("the terminal");
    }
}

#[test]
fn hostile_names_stay_names_in_every_dotfile() {
    if !have(&["nvim", "bash", "tmux", "kitty"]) {
        return;
    }
    let seed = std::env::var("WEALDMIST_SEED")
        .ok()
        .and_then(|s| s.parse().ok())
        .unwrap_or(11);
    let count: usize = std::env::var("WEALDMIST_CASES")
        .ok()
        .and_then(|s| s.parse().ok())
        .unwrap_or(40);
    eprintln!("seed {seed}, {count} texts");
    let mut chance = Chance(seed);
    let known = [
        "Dad's Mono",
        "a\"b",
        "A, B Mono",
        "$HOME `x`",
        "Ünï Mono",
        "]] Mono",
    ];
    let mut cases = Vec::new();
    for i in 0..count {
        let text = match known.get(i) {
            Some(text) => (*text).to_owned(),
            None => hostile(&mut chance, "CANARY").trim().to_owned(),
        };
        if text.is_empty() || text.len() > 100 {
            continue;
        }
        let lua = i % 2 == 0;
        let case = case(&text, lua);
        editor_is_fine(&case, editor_file(lua));
        shell_is_fine(&case);
        multiplexer_is_fine(&case);
        cases.push(case);
    }
    terminal_is_fine(&cases);
}

/// An archive with these files, their names as they are.
fn archive(members: &[(String, Vec<u8>)]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, bytes) in members {
        let options = zip::write::SimpleFileOptions::default();
        zip.start_file(name.clone(), options).unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

/// Everything a person does with a font from elsewhere: looked at, installed, chosen, written.
#[test]
fn hostile_fonts_and_archives_run_nothing_and_stay_in_their_folder() {
    if !have(&["nvim", "bash", "tmux", "kitty"]) {
        return;
    }
    let mut chance = Chance(29);
    let mut cases = Vec::new();
    for i in 0..8 {
        let text = format!("{}x", hostile(&mut chance, "CANARY").trim());
        let case = bare(&text, i % 2 == 0);
        let (scratch, text) = (&case.scratch, &case.text);
        let treacherous = format!("{text}\n\u{1b}[31m\u{202e}");
        let members = [
            (format!("{text}.ttf"), font_file(text)),
            (format!("../../../{text}.ttf"), demo::fonts::bold()),
            (format!("/{treacherous}.ttf"), font_file(&treacherous)),
            (format!("fonts/../..//{text}/OFL.txt"), b"free".to_vec()),
        ];
        let path = scratch.tmp().join("foreign.zip");
        fs::write(&path, archive(&members)).unwrap();
        let path = path.to_str().unwrap();
        let before = common::picture(scratch.dir.path());
        for arguments in [
            &["font", "list", path][..],
            &["font", "show", path],
            &["font", "coverage", path],
            &["font", "install", path],
            &["font", "list"],
            &["init"],
            &["font", "choose", "--", text],
            &["font", "spell"],
            &["plan"],
            &["apply"],
        ] {
            let out = scratch.run(arguments);
            let told = said(&out);
            assert!(
                out.status.code().is_some_and(|c| c < 2),
                "{arguments:?} {told}"
            );
            let calm = |c: char| c == '\n' || c == '\t' || !is_treacherous(c);
            assert!(told.chars().all(calm), "{arguments:?} {told:?}");
            case.dry(arguments[0]);
        }
        let own = scratch.home().join(".local/share/fonts");
        let after = common::picture(scratch.dir.path());
        let new = after.keys().filter(|path| !before.contains_key(*path));
        let is_font = |path: &&PathBuf| {
            path.ends_with("OFL.txt") || path.extension().is_some_and(|e| e == "ttf")
        };
        let fonts: Vec<&PathBuf> = new.filter(is_font).collect();
        assert!(!fonts.is_empty(), "{text:?}");
        assert!(fonts.iter().all(|f| f.starts_with(&own)), "{fonts:?}");
        editor_is_fine(&case, editor_file(i % 2 == 0));
        shell_is_fine(&case);
        multiplexer_is_fine(&case);
        cases.push(case);
    }
    terminal_is_fine(&cases);
}

/// The exported palettes and the drawings, as other parsers see them.
const PARSERS: &str = "import sys, json, plistlib, xml.dom.minidom, tomllib, configparser
for path in sys.argv[1:]:
    data = open(path, 'rb').read()
    end = path.rsplit('.', 1)[1]
    if end == 'json': json.loads(data)
    elif end in ('plist', 'terminal'): plistlib.loads(data)
    elif end == 'svg': xml.dom.minidom.parseString(data)
    elif end == 'toml': tomllib.loads(data.decode())
    elif end == 'ini': configparser.RawConfigParser(strict=True, interpolation=None).read_string(data.decode())
    print('fine', path)
";

#[test]
fn hostile_names_stay_names_in_what_is_shared() {
    if !have(&["python3", "bash"]) {
        return;
    }
    let scratch = Scratch::demo();
    let canary = scratch.tmp().join("canary");
    let mut chance = Chance(5);
    for i in 0..12 {
        let text = format!(
            "{}x",
            hostile(&mut chance, &canary.display().to_string()).trim()
        );
        let written = toml(&text);
        let setup = scratch.home().join("hostile.toml");
        fs::write(&setup, format!("name = {written}\n[palettes.{written}]\nforeground = '#d0d0d0'\nbackground = '#101010'\n[palettes.{written}.colors]\n{written} = '#102030'\n[font]\nfamily = {written}\n")).unwrap();
        let setup = setup.to_str().unwrap();
        let mut files: Vec<PathBuf> = Vec::new();
        for (format, end) in [
            ("tokens", "json"),
            ("css", "css"),
            ("gimp", "gpl"),
            ("xresources", "txt"),
            ("kitty", "conf"),
            ("alacritty", "toml"),
            ("foot", "ini"),
            ("windows", "json"),
            ("mac", "terminal"),
            ("konsole", "ini"),
            ("osc", "sh"),
        ] {
            let path = scratch.tmp().join(format!("{i}-{format}.{end}"));
            let out = scratch.run(&[
                "--setup",
                setup,
                "export",
                format,
                "-o",
                path.to_str().unwrap(),
            ]);
            assert!(out.status.success(), "{format} {text:?}: {}", said(&out));
            files.push(path);
        }
        for kind in ["specimen", "palette", "pairs"] {
            let path = scratch.tmp().join(format!("{i}-{kind}.svg"));
            let out = scratch.run(&["--setup", setup, "draw", kind, "-o", path.to_str().unwrap()]);
            assert!(out.status.success(), "{kind} {text:?}: {}", said(&out));
            files.push(path);
        }
        let out = run(Command::new("python3").arg("-c").arg(PARSERS).args(&files));
        assert_eq!(
            out.lines().filter(|l| l.starts_with("fine")).count(),
            files.len(),
            "{text:?}: {out}"
        );
        let script = scratch.tmp().join(format!("{i}-osc.sh"));
        run(Command::new("bash").arg(&script));
        let css = fs::read_to_string(scratch.tmp().join(format!("{i}-css.css"))).unwrap();
        assert_eq!(css.matches("*/").count(), 1, "{css}");
        assert!(!canary.exists(), "{text:?} was run");
        for path in files {
            assert!(
                is_plain(&path),
                "{} holds a control character",
                path.display()
            );
        }
    }
}

fn is_plain(path: &Path) -> bool {
    let bytes = fs::read(path).unwrap();
    path.extension().is_some_and(|e| e == "sh")
        || !bytes.iter().any(|b| *b < 0x20 && !b"\n\t".contains(b))
}

#[test]
fn names_that_are_none_are_refused_where_they_stand() {
    let scratch = Scratch::new();
    for (i, text) in ["a\\nb", "a\\u001bb", "a\\u009bb", "a\\u202eb", "a\\u2028b"]
        .iter()
        .enumerate()
    {
        for (setup, line) in [
            (format!("name = \"{text}\"\n[palettes.a]\n"), 1),
            (format!("[palettes.a]\n[font]\nfamily = \"{text}\"\n"), 3),
            (
                format!("[palettes.a]\n[font]\nfallback = [\"{text}\"]\n"),
                3,
            ),
            (format!("[palettes.\"{text}\"]\n"), 1),
            (
                format!("[palettes.a]\n[symbols.replace]\n'U+E0B0' = \"{text}\"\n"),
                3,
            ),
            (
                format!("[palettes.a]\n[tools.tmux]\nadds = [\"{text}\"]\n"),
                3,
            ),
            (
                format!("[palettes.a]\n[[exceptions]]\ntool='a'\nrole='b'\nreason=\"{text}\"\n"),
                5,
            ),
        ] {
            let path = format!("s{i}.toml");
            scratch.write(&path, &setup);
            let out = scratch.run(&[
                "--setup",
                scratch.home().join(&path).to_str().unwrap(),
                "plan",
            ]);
            let told = said(&out);
            assert_eq!(out.status.code(), Some(3), "{setup}: {told}");
            assert!(told.contains(&format!("{path}:{line}:")), "{setup}: {told}");
            assert!(
                told.contains("U+") && !told.contains('\u{1b}') && !told.contains('\u{202e}'),
                "{told}"
            );
        }
    }
}
