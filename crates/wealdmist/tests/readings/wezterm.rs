//! The judge of settings that a Lua file returns: Lua itself runs files made by chance, with a stand-in for what the
//! terminal gives them, and says what they come to, value by value; before and after a plan was carried out.

use std::collections::BTreeMap;
use std::fmt::Write as _;

use wealdmist_core::look::Look;
use wealdmist_core::reading::Standing;
use wealdmist_core::setup::SetupDoc;
use wealdmist_tools::access::MemoryAccess;
use wealdmist_tools::{adapter, plan, read_all};

use super::common::{Scratch, have};
use super::dice::{Dice, judge, run};

/// Runs each file and prints what it returns, a line for each value that is no table.
const ASK: &str = r##"
package.preload.wezterm = function()
  return {
    config_builder = function() return {} end,
    font = function(it) return it end,
    font_with_fallback = function(all) return all end,
    on = function() end,
    target_triple = 'x86_64-unknown-linux-gnu',
  }
end
local function tell(path, value, depth)
  if type(value) == 'table' and depth < 12 then
    for key, inner in pairs(value) do
      local name = math.type(key) == 'integer' and tostring(key - 1) or tostring(key)
      tell(path == '' and name or path .. '/' .. name, inner, depth + 1)
    end
  elseif type(value) == 'number' then
    print(path .. '\t' .. string.format('%.6f', value))
  elseif type(value) ~= 'function' then
    print(path .. '\t' .. tostring(value))
  end
end
for n = 0, tonumber(arg[2]) - 1 do
  local run, why = loadfile(arg[1] .. '/' .. n .. '.lua')
  local fine, config
  if run then fine, config = pcall(run) else fine, config = false, why end
  print('@' .. n .. '\t' .. (fine and type(config) or 'wrong: ' .. tostring(config)))
  if fine and type(config) == 'table' then tell('', config, 0) end
end
"##;

fn color(dice: &mut Dice) -> String {
    let quote = dice.pick(&["'", "\"", "'", "\""]);
    match dice.below(8) {
        0 => format!("[[#{:06x}]]", dice.below(1 << 24)),
        1 => "marsh.reed".to_owned(),
        _ => format!("{quote}#{:06X}{quote}", dice.below(1 << 24)),
    }
}

fn list(dice: &mut Dice) -> String {
    let all: Vec<String> = (0..8).map(|_| color(dice)).collect();
    let end = dice.pick(&["", ",", " "]);
    format!("{{ {}{end} }}", all.join(dice.pick(&[", ", "; ", ",\n  "])))
}

/// A table of colors.
fn colors(dice: &mut Dice) -> String {
    let mut out = "{".to_owned();
    let between = dice.pick(&[" ", "\n    ", "\n  -- a comment, }\n  "]);
    for _ in 0..dice.below(5) {
        let key = dice.pick(&[
            "background",
            "foreground",
            "cursor_bg",
            "['selection_bg']",
            "split",
        ]);
        let _ = write!(out, "{between}{key} = {},", color(dice));
    }
    for key in ["ansi", "brights"] {
        if dice.percent(40) {
            let _ = write!(out, "{between}{key} = {},", list(dice));
        }
    }
    if dice.percent(20) {
        let _ = write!(
            out,
            "{between}tab_bar = {{ active_tab = {{ bg_color = {} }} }},",
            color(dice)
        );
    }
    out + dice.pick(&["}", "\n}", " }"])
}

fn font(dice: &mut Dice) -> String {
    dice.pick(&[
        "wezterm.font 'Reedbed Mono'",
        "wezterm.font(\"Sedge Mono\", { weight = 'Bold' })",
        "wezterm.font { family = 'Reedbed Mono', weight = 600 }",
        "wezterm.font_with_fallback { 'Reedbed Mono', 'Sedge Mono' }",
        "wezterm.font_with_fallback({ { family = 'Reedbed Mono' }, \"Sedge Mono\" })",
    ])
    .to_owned()
}

fn number(dice: &mut Dice) -> String {
    match dice.below(5) {
        0 => "10 + 2".to_owned(),
        1 => format!("{}.5", dice.below(30)),
        _ => dice.below(30).to_string(),
    }
}

/// A statement that gives something to the settings, by their name.
fn gives(dice: &mut Dice, of: &str) -> String {
    match dice.below(12) {
        0 => format!("{of}.colors = {}", colors(dice)),
        1 => format!(
            "if {of}.colors then {of}.colors.background = {} end",
            color(dice)
        ),
        2 => format!("{of}.font = {}", font(dice)),
        3 => format!("{of}['font_size'] = {}", number(dice)),
        4 => format!(
            "{of}.window_padding = {{ left = {}, top = '1cell', }}",
            dice.below(9)
        ),
        5 => format!("{of}.window_background_opacity = 0.{}", 1 + dice.below(9)),
        6 => format!(
            "{of}.font_size, {of}.line_height = {}, 1.{}",
            number(dice),
            dice.below(9)
        ),
        7 => format!("{of}.keys = {{ {{ key = 'x', mods = 'CTRL', action = 'y' }} }}"),
        8 => format!("{of}.colors = made()"),
        9 => format!("{of}.font_size = marsh.size"),
        10 => format!("{of}.enable_tab_bar = {}", dice.pick(&["true", "false"])),
        _ => format!("{of}.font_size = {}", number(dice)),
    }
}

fn statement(dice: &mut Dice, depth: usize) -> String {
    let end = dice.pick(&["", "", ";", " -- said"]);
    match dice.below(if depth > 1 { 10 } else { 18 }) {
        0 => "-- config.font_size = 3".to_owned(),
        1 => format!("marsh.reed = {}", color(dice)),
        10 => {
            let asked = dice.pick(&["os.getenv('TIDE')", "marsh.size > 3", "true", "false"]);
            format!("if {asked} then\n  {}\nend", statement(dice, depth + 1))
        }
        11 => format!("do\n  local c = config\n  {}\nend", gives(dice, "c")),
        12 => format!(
            "for _ = 1, {} do\n  {}\nend",
            dice.below(3),
            gives(dice, "config")
        ),
        13 => format!(
            "local function apply(c)\n  {}\nend\napply(config)",
            gives(dice, "c")
        ),
        14 => format!(
            "wezterm.on('x', function()\n  {}\nend)",
            gives(dice, "config")
        ),
        15 => format!("local function later()\n  {}\nend", gives(dice, "config")),
        16 => "local also = config".to_owned(),
        17 => format!("(also or config).line_height = 1.{}", dice.below(9)),
        _ => gives(dice, "config") + end,
    }
}

/// A file by chance.
pub fn file(dice: &mut Dice) -> String {
    let mut out = "local wezterm = require 'wezterm'\nlocal marsh = { reed = '#0a0b0c', size = 11 }\nlocal function made() return { background = '#000001' } end\nlocal also\n".to_owned();
    if dice.percent(15) {
        let _ = write!(
            out,
            "return {{\n  font_size = {},\n  colors = {},\n  font = {},\n}}\n",
            number(dice),
            colors(dice),
            font(dice)
        );
        return out;
    }
    out.push_str(match dice.below(4) {
        0 => "local config = {}\n",
        1 => "local config = {\n  font_size = 9,\n  colors = { background = '#010203' },\n}\n",
        _ => "local config = wezterm.config_builder()\n",
    });
    for _ in 0..dice.below(9) {
        out.push_str(&statement(dice, 0));
        out.push('\n');
    }
    out + dice.pick(&["return config\n", "return config", "\nreturn config;\n"])
}

/// What Lua says of each of the files: what it comes to, or what is wrong.
fn asked(scratch: &Scratch, files: &[String]) -> Vec<Result<BTreeMap<String, String>, String>> {
    for (n, text) in files.iter().enumerate() {
        scratch.write(&format!("{n}.lua"), text);
    }
    scratch.write("ask.lua", ASK);
    let done = scratch
        .command("lua5.4")
        .arg(scratch.home().join("ask.lua"))
        .arg(scratch.home())
        .arg(files.len().to_string())
        .output()
        .expect("it starts");
    let said = String::from_utf8_lossy(&done.stdout);
    let mut out: Vec<Result<BTreeMap<String, String>, String>> = Vec::new();
    for line in said.lines() {
        let (name, value) = line.split_once('\t').unwrap_or((line, ""));
        if name.starts_with('@') {
            out.push(match value {
                "table" => Ok(BTreeMap::new()),
                why => Err(why.to_owned()),
            });
        } else if let Some(Ok(all)) = out.last_mut() {
            all.insert(name.to_owned(), value.to_owned());
        }
    }
    assert_eq!(
        out.len(),
        files.len(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    out
}

/// Compares what we read of a file with what it comes to.
fn compared(
    text: &str,
    theirs: &BTreeMap<String, String>,
    wrong: &mut Vec<String>,
    n: usize,
) -> usize {
    let tables = adapter("wezterm").expect("a tool").tables();
    let entries = match tables[0].notation.entries(text.as_bytes()) {
        Ok(entries) => entries,
        Err(damage) => {
            wrong.push(format!("{n}: {} in\n{text}", damage.message));
            return 0;
        }
    };
    let below = |path: &str, above: &str| {
        path == above || path.strip_prefix(above).is_some_and(|r| r.starts_with('/'))
    };
    let doubtful: Vec<&str> = entries
        .iter()
        .filter(|e| e.standing != Standing::Certain)
        .map(|e| e.path.as_str())
        .collect();
    // A table that only counts sometimes leaves open what counts else.
    let is_open = |path: &str| {
        doubtful.iter().any(|d| {
            below(path, d) || below(d, path) || {
                let first = |p: &str| p.split('/').next().unwrap_or_default().to_owned();
                d.contains('/') && first(d) == first(path)
            }
        })
    };
    let same = |ours: &str, theirs: &str| match (ours.parse::<f64>(), theirs.parse::<f64>()) {
        (Ok(a), Ok(b)) => (a - b).abs() < 1e-5,
        _ => ours == theirs,
    };
    let mut count = 0;
    for (path, value) in theirs {
        if is_open(path) {
            continue;
        }
        count += 1;
        let ours = entries
            .iter()
            .rfind(|e| e.path == *path)
            .map(|e| e.text.as_str());
        if !ours.is_some_and(|ours| same(ours, value)) {
            wrong.push(format!("{n}: {path} is {value}, not {ours:?} in\n{text}"));
        }
    }
    for entry in entries.iter().filter(|e| !is_open(&e.path)) {
        if !theirs.contains_key(&entry.path) {
            wrong.push(format!("{n}: {} is not there in\n{text}", entry.path));
        }
    }
    count
}

const SETUP: &str = "[palettes.a]\nforeground='#d0d1d2'\nbackground='#101112'\ncursor='#a0a1a2'\nselection='#303132'\nred='#cc0001'\nbright-red='#ee0001'\nblack='#282800'\ngreen='#292901'\nyellow='#2a2a02'\nblue='#2b2b03'\nmagenta='#2c2c04'\ncyan='#2d2d05'\nwhite='#2e2e06'\nbright-black='#2f2f07'\nbright-green='#303008'\nbright-yellow='#313109'\nbright-blue='#323200'\nbright-magenta='#333301'\nbright-cyan='#343402'\nbright-white='#353503'\n[font]\nfamily='Reedbed Mono'\nsize=13.5\n[window]\nopacity=0.85\npadding=6\n";

#[test]
fn lua_comes_to_the_settings_that_we_read() {
    if !have(&["lua5.4"]) {
        return;
    }
    let (seed, rounds) = run(400);
    let mut dice = Dice::new(seed);
    let files: Vec<String> = (0..rounds).map(|_| file(&mut dice)).collect();
    let scratch = Scratch::new();
    let (mut wrong, mut count) = (Vec::new(), 0);
    let doc = SetupDoc::parse("setup.toml", SETUP.as_bytes()).expect("a setup");
    let look = Look::new(doc.setup());
    // What the plan makes of each is Lua, and comes to what we read of it; a second plan finds nothing.
    let planned = |text: &str| {
        let home = MemoryAccess::with(&[(".wezterm.lua", text)]);
        let plan = plan(doc.setup(), &look, &read_all(&home), &home, None);
        let edit = plan
            .edits
            .into_iter()
            .find(|e| e.path.ends_with(".wezterm.lua"));
        edit.map_or_else(
            || text.to_owned(),
            |e| String::from_utf8(e.after()).expect("text"),
        )
    };
    let after: Vec<String> = files.iter().map(|text| planned(text)).collect();
    let mut changed = 0;
    // What does not run before says nothing; what does has to run afterwards, too.
    let ran: Vec<bool> = asked(&scratch, &files).iter().map(Result::is_ok).collect();
    for all in [&files, &after] {
        for (n, answer) in asked(&scratch, all).iter().enumerate() {
            match answer {
                Ok(theirs) => count += compared(&all[n], theirs, &mut wrong, n),
                Err(why) if ran[n] => {
                    wrong.push(format!("{n}: {why}\n{}\nmade of\n{}", all[n], files[n]));
                }
                Err(_) => {}
            }
        }
    }
    for (n, text) in after.iter().enumerate() {
        changed += usize::from(*text != files[n]);
        let again = planned(text);
        if again != *text {
            wrong.push(format!("{n}: a second plan changes\n{text}\nto\n{again}"));
        }
    }
    judge("wezterm", seed, rounds, &wrong, count);
    assert!(changed * 2 > rounds, "{changed} of {rounds} changed");
}
