//! Formats of one value a line: X resources, kitty, foot, Konsole, GIMP palettes, CSS custom
//! properties.

use std::collections::HashMap;
use std::fmt::Write;

use wealdmist_core::color::Rgb;
use wealdmist_core::role::Slot;
use wealdmist_core::setup::Palette;

use super::{Entry, ImportError, NAME, Place, numbered, numbered_place};

/// Whether a line of the text begins so.
pub(super) fn has_line(text: &str, start: &str) -> bool {
    text.lines().any(|l| l.trim_end() == start)
}

/// Whether a line's first word is this one.
pub(super) fn has_word(text: &str, word: &str) -> bool {
    text.lines()
        .any(|l| l.split_whitespace().next() == Some(word))
}

fn entry(line: usize, key: &str, value: &str) -> Entry {
    Entry {
        line,
        key: key.trim().to_owned(),
        value: value.trim().to_owned(),
        ..Entry::default()
    }
}

/// The slot of `color3`, `color11`, …; `None` above 15.
fn numbered_slot(key: &str, prefix: &str) -> Option<Slot> {
    let digits = key.strip_prefix(prefix)?;
    let plain = !digits.is_empty() && digits.bytes().all(|b| b.is_ascii_digit());
    Slot::from_ansi(digits.parse().ok().filter(|_| plain)?)
}

/// X resources, with the macros of the preprocessor that `xrdb` runs over them.
pub(super) fn read_xresources(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut macros: HashMap<&str, &str> = HashMap::new();
    let mut out = Vec::new();
    for (number, line) in numbered(text) {
        let line = line.trim();
        if let Some(define) = line.strip_prefix("#define") {
            let mut words = define.split_whitespace();
            if let (Some(name), Some(value)) = (words.next(), words.next()) {
                macros.insert(name, value);
            }
            continue;
        }
        if line.starts_with(['!', '#']) {
            continue;
        }
        if let Some((key, value)) = line.split_once(':') {
            let mut value = value.trim();
            for _ in 0..8 {
                match macros.get(value) {
                    Some(meant) => value = meant,
                    None => break,
                }
            }
            // `URxvt*foreground` and `*.foreground`: the last part says what it is, the first whose.
            let name = key.rsplit(['*', '.']).next().unwrap_or(key);
            let whose = key.split(['*', '.']).next().filter(|w| *w != key);
            out.push(Entry {
                scheme: whose.unwrap_or_default().to_lowercase(),
                ..entry(number, name, value)
            });
        }
    }
    Ok(out)
}

pub(super) fn xresources_place(key: &str) -> Place {
    if let Some(place) = key.strip_prefix("color").and_then(numbered_place) {
        return place;
    }
    match key {
        "foreground" => Place::Slot(Slot::Foreground),
        "background" => Place::Slot(Slot::Background),
        "cursorColor" => Place::Slot(Slot::Cursor),
        "cursorColor2" => Place::Slot(Slot::CursorText),
        "highlightColor" => Place::Slot(Slot::Selection),
        "highlightTextColor" => Place::Slot(Slot::SelectionText),
        _ => Place::Elsewhere,
    }
}

pub(super) fn write_xresources(palette: &Palette, title: &str) -> Vec<u8> {
    let mut out = format!("! {title} · {}\n", palette.name);
    for (key, slot) in [
        ("foreground", Slot::Foreground),
        ("background", Slot::Background),
        ("cursorColor", Slot::Cursor),
        ("cursorColor2", Slot::CursorText),
        ("highlightColor", Slot::Selection),
        ("highlightTextColor", Slot::SelectionText),
    ] {
        let _ = writeln!(out, "*{key}: {}", palette.slot(slot));
    }
    for (i, color) in palette.ansi().into_iter().enumerate() {
        let _ = writeln!(out, "*color{i}: {color}");
    }
    out.into_bytes()
}

/// Sections of `key=value`; keys come out as `section/key`.
pub(super) fn read_ini(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut section = String::new();
    let mut out = Vec::new();
    for (number, line) in numbered(text) {
        let line = line.trim();
        if let Some(name) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
            name.clone_into(&mut section);
        } else if !line.starts_with(['#', ';'])
            && let Some((key, value)) = line.split_once('=')
        {
            // A comment may follow a value after a blank.
            let value = value.split(" #").next().unwrap_or(value);
            out.push(entry(number, &format!("{section}/{}", key.trim()), value));
        }
    }
    Ok(out)
}

pub(super) fn read_konsole(text: &str) -> Result<Vec<Entry>, ImportError> {
    let entries = read_ini(text)?.into_iter();
    Ok(entries
        .map(|e| match e.key.as_str() {
            "General/Description" => Entry {
                key: NAME.to_owned(),
                ..e
            },
            _ => e,
        })
        .collect())
}

pub(super) fn konsole_place(key: &str) -> Place {
    let Some((section, "Color")) = key.split_once('/') else {
        return Place::Nothing;
    };
    if let Some(slot) = numbered_slot(section, "Color").filter(|s| s.ansi() < Some(8)) {
        return Place::Slot(slot);
    }
    let intense = section.strip_suffix("Intense").and_then(|s| {
        let n = numbered_slot(s, "Color")?.ansi().filter(|n| *n < 8)?;
        Slot::from_ansi(n + 8)
    });
    match (section, intense) {
        (_, Some(slot)) => Place::Slot(slot),
        ("Foreground", _) => Place::Slot(Slot::Foreground),
        ("Background", _) => Place::Slot(Slot::Background),
        // Bold and faint text have colors of their own there; ours follow from the others.
        ("ForegroundIntense" | "BackgroundIntense", _) => Place::Nothing,
        (faint, _) if faint.ends_with("Faint") => Place::Nothing,
        _ => Place::Elsewhere,
    }
}

/// `r,g,b` in decimal, perhaps with an opacity behind; or `#rrggbb`.
pub(super) fn konsole_color(text: &str) -> Option<Rgb> {
    if text.starts_with('#') {
        return Rgb::from_hex(text);
    }
    let mut parts = text.split(',').map(|p| p.trim().parse::<u8>().ok());
    let color = Rgb::new(parts.next()??, parts.next()??, parts.next()??);
    parts.all(|p| p.is_some()).then_some(color)
}

pub(super) fn write_konsole(palette: &Palette, title: &str) -> Vec<u8> {
    let mut out = format!(
        "[General]\nDescription={title} {}\nOpacity=1\n",
        palette.name
    );
    let mut section = |name: &str, color: Rgb| {
        let Rgb { r, g, b } = color;
        let _ = write!(out, "\n[{name}]\nColor={r},{g},{b}\n");
    };
    for intense in ["", "Intense"] {
        section(
            &format!("Background{intense}"),
            palette.slot(Slot::Background),
        );
        section(
            &format!("Foreground{intense}"),
            palette.slot(Slot::Foreground),
        );
    }
    for (i, color) in palette.ansi().into_iter().enumerate() {
        let intense = if i < 8 { "" } else { "Intense" };
        section(&format!("Color{}{intense}", i % 8), color);
    }
    out.into_bytes()
}

/// `r g b name`, after a header.
pub(super) fn read_gimp(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut out = Vec::new();
    for (number, line) in numbered(text).skip(1) {
        let line = line.trim();
        if let Some(name) = line.strip_prefix("Name:") {
            out.push(entry(number, NAME, name));
        } else if line.is_empty() || line.starts_with('#') || line.starts_with("Columns:") {
        } else {
            let mut words = line.split_whitespace();
            let color: Vec<&str> = words.by_ref().take(3).collect();
            let name: Vec<&str> = words.collect();
            // An editor writes "Untitled" for a color without a name.
            let name = match name.join(" ") {
                n if n.is_empty() || n == "Untitled" => format!("color {}", out.len()),
                n => n,
            };
            out.push(entry(number, &name, &color.join(" ")));
        }
    }
    Ok(out)
}

pub(super) fn gimp_place(key: &str) -> Place {
    let name = key.to_lowercase().replace([' ', '_'], "-");
    match Slot::from_key(&name) {
        Some(slot) => Place::Slot(slot),
        None => Place::Named(plain_name(&name)),
    }
}

/// A name that can stand in a setup file beside slots and roles.
pub(super) fn plain_name(name: &str) -> String {
    let plain: String = name
        .chars()
        .map(|c| {
            if c.is_alphanumeric() || c == '-' {
                c
            } else {
                '-'
            }
        })
        .collect();
    let plain = plain.trim_matches('-').to_owned();
    let taken = |n: &str| {
        let role = wealdmist_core::role::RoleId::new(n);
        wealdmist_core::role::lookup(&role).is_some() || Slot::from_key(n).is_some()
    };
    match plain.as_str() {
        "" => "color".to_owned(),
        n if taken(n) => format!("{n}-color"),
        _ => plain,
    }
}

pub(super) fn decimal(text: &str) -> Option<Rgb> {
    let mut parts = text.split_whitespace().map(|p| p.parse::<u8>().ok());
    Some(Rgb::new(parts.next()??, parts.next()??, parts.next()??))
}

pub(super) fn write_gimp(palette: &Palette, title: &str) -> Vec<u8> {
    let mut out = format!(
        "GIMP Palette\nName: {title} {}\nColumns: 8\n#\n",
        palette.name
    );
    let slots = Slot::ALL.map(|s| (s.key(), palette.slot(s)));
    let named = palette.colors.iter().map(|(n, c)| (n.as_str(), *c));
    for (name, Rgb { r, g, b }) in slots.into_iter().chain(named) {
        let _ = writeln!(out, "{r:3} {g:3} {b:3}\t{name}");
    }
    out.into_bytes()
}

/// `--name: value;` wherever it stands. Comments are left out.
pub(super) fn read_css(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut plain = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(start) = rest.find("/*") {
        plain.push_str(&rest[..start]);
        let end = rest[start..]
            .find("*/")
            .map_or(rest.len(), |e| start + e + 2);
        // Line ends stay, so that lines keep their numbers.
        plain.extend(rest[start..end].chars().filter(|c| *c == '\n'));
        rest = &rest[end..];
    }
    plain.push_str(rest);
    let mut out = Vec::new();
    let mut line = 1;
    // What the blocks are for that are open here, the document itself left out.
    let mut open: Vec<String> = Vec::new();
    for piece in plain.split_inclusive([';', '{', '}']) {
        let lead = piece.len() - piece.trim_start().len();
        let at = line + piece[..lead].matches('\n').count();
        line += piece.matches('\n').count();
        let declared = piece.trim().trim_end_matches([';', '}']);
        if let Some((key, value)) = declared.strip_prefix("--").and_then(|d| d.split_once(':')) {
            let blocks = open
                .iter()
                .filter(|b| !matches!(&***b, ":root" | "html" | "body" | "*"));
            out.push(Entry {
                scheme: blocks.map(|b| called(b)).collect::<Vec<_>>().join(" "),
                ..entry(at, key, value)
            });
        }
        if let Some(header) = piece.strip_suffix('{') {
            let words: Vec<&str> = header.split_whitespace().collect();
            open.push(words.join(" "));
        } else if piece.ends_with('}') {
            open.pop();
        }
    }
    Ok(out)
}

/// What a block is for, in a word where it says one: a side, a class, the value of an attribute.
fn called(block: &str) -> &str {
    let side = block.split_once("prefers-color-scheme:");
    let side = side.and_then(|(_, rest)| rest.split(')').next());
    let attribute = || {
        let inner = block.split_once('[')?.1.split_once('=')?.1;
        let value = inner.split(']').next()?;
        Some(value.trim_matches(['"', '\'']))
    };
    let class = || {
        block
            .strip_prefix('.')
            .filter(|c| !c.contains([' ', '.', ',']))
    };
    let found = side.or_else(attribute).or_else(class).map(str::trim);
    found.filter(|word| !word.is_empty()).unwrap_or(block)
}

pub(super) fn css_place(key: &str) -> Place {
    let name = key.strip_prefix("color-").unwrap_or(key);
    if let Some(own) = key.strip_prefix("named-") {
        return Place::Named(plain_name(own));
    }
    match Slot::from_key(name) {
        Some(slot) => Place::Slot(slot),
        // A property need not be a color at all.
        None => Place::Elsewhere,
    }
}

pub(super) fn write_css(palette: &Palette, title: &str) -> Vec<u8> {
    let title = title.replace("*/", "");
    let name = palette.name.replace("*/", "");
    let mut out = format!("/* {title} · {name} */\n:root {{\n");
    for slot in Slot::ALL {
        let _ = writeln!(out, "  --{}: {};", slot.key(), palette.slot(slot));
    }
    for (name, color) in &palette.colors {
        let _ = writeln!(out, "  --named-{}: {color};", plain_name(name));
    }
    out.push_str("}\n");
    out.into_bytes()
}
