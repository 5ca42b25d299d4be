//! Palettes from and to open formats and the color files of other programs.
//!
//! Reading gives every value that has a place in a palette, and names those that have none; a
//! file with a broken value gives its line and nothing else. Writing names what the format cannot
//! hold. One file per family of formats; each format is a row of [`FORMATS`].

mod escapes;
mod keyed;
mod lined;
mod nested;
mod schemes;

use std::borrow::Cow;
use std::collections::{BTreeMap, HashMap};
use std::path::Path;

use wealdmist_core::color::{Rgb, indexed, x11_color};
use wealdmist_core::guard::guarded_deep;
use wealdmist_core::quote::Name;
use wealdmist_core::reading::{Reading, Standing, Value};
use wealdmist_core::role::{RoleId, Slot, lookup};
use wealdmist_core::setup::{EditError, Palette, SetupDoc, Variant, adapted};

use crate::access::Access;
use crate::table::Table;
use crate::table::palette::{
    self as table, Colored, entries as palette_entries, place as palette_place,
    write as write_palette,
};

/// A format.
pub struct Format {
    /// The word on the command line.
    pub id: &'static str,
    /// What it is, for people.
    pub label: &'static str,
    /// The usual ending of a file.
    pub ending: &'static str,
    /// Whether a text looks like it.
    detect: fn(&str, &str) -> bool,
    codec: Codec,
    /// The slots it can hold.
    holds: fn(Slot) -> bool,
    /// Whether it can hold further named colors.
    holds_names: bool,
    /// Whether it holds the font of the window, too.
    pub holds_font: bool,
}

/// A font as such a file has it.
#[derive(Debug, Clone, PartialEq)]
pub struct FontUsed {
    /// The PostScript name of its face.
    pub face: String,
    /// Its size in points.
    pub size: f64,
}

/// How a format is read and written.
enum Codec {
    /// By the keys of the program's own settings file.
    Table(&'static Table),
    /// In a way of its own.
    Own {
        read: fn(&str) -> Result<Vec<Entry>, ImportError>,
        place: fn(&str) -> Place,
        color: fn(&str) -> Option<Rgb>,
        write: fn(&Palette, &str) -> Vec<u8>,
    },
}

impl Format {
    fn read(&self, text: &str) -> Result<Vec<Entry>, ImportError> {
        let table = match self.codec {
            Codec::Own { read, .. } => return read(text),
            Codec::Table(table) => table,
        };
        let found = palette_entries(table, text.as_bytes()).map_err(|damage| ImportError {
            line: wealdmist_core::text::line_number(text.as_bytes(), damage.at),
            message: damage.message,
            help: damage.help.to_owned(),
            is_empty: false,
        })?;
        let entry = |e: Colored| Entry {
            line: e.line,
            key: e.path,
            value: e.text,
            scheme: e.section.unwrap_or_default(),
        };
        Ok(schemes::told_apart(
            table,
            found.into_iter().map(entry).collect(),
        ))
    }

    /// Where the value of a key belongs, whatever case its letters are in.
    fn place(&self, key: &str) -> Place {
        match self.place_exactly(key) {
            Place::Nothing | Place::Elsewhere => match self.place_exactly(&key.to_lowercase()) {
                found @ Place::Slot(_) => found,
                _ => self.place_exactly(key),
            },
            found => found,
        }
    }

    fn place_exactly(&self, key: &str) -> Place {
        let table = match self.codec {
            Codec::Own { place, .. } => return place(key),
            Codec::Table(table) => table,
        };
        match palette_place(table, key) {
            table::Place::Numbered(n) => Slot::from_ansi(n).map_or(Place::Indexed(n), Place::Slot),
            table::Place::Role(role) => Slot::from_key(role).map_or(Place::Role(role), Place::Slot),
            table::Place::Own => Place::Elsewhere,
            table::Place::Nothing => Place::Nothing,
        }
    }

    fn color(&self, text: &str) -> Option<Rgb> {
        match self.codec {
            Codec::Own { color, .. } => color(text),
            Codec::Table(table) => (table.color.read)(text),
        }
    }

    /// The color that a value says; also one that the program itself would not take: by a name, in another notation, or with a
    /// comment behind it.
    fn said(&self, text: &str) -> Option<Rgb> {
        // Bare digits are what the program says they are, or a mistake.
        let is_name = |text: &str| text.chars().all(|c| c.is_ascii_alphabetic() || c == ' ');
        let other = |text: &str| match text {
            "" => None,
            name if is_name(name) => css_color(name).or_else(|| x11_color(name)),
            function if function.ends_with(')') => css_color(function),
            _ => None,
        };
        let any = |text: &str| self.color(text).or_else(|| other(text));
        let comment = [" #", "\t#", " ;", " //", "\t//", " !"]
            .iter()
            .filter_map(|sign| text.find(sign));
        let bare = || Some(text[..comment.min()?].trim()).filter(|t| !t.is_empty());
        any(text).or_else(|| any(bare()?))
    }

    fn write(&self, palette: &Palette, title: &str) -> Vec<u8> {
        match self.codec {
            Codec::Own { write, .. } => write(palette, title),
            Codec::Table(table) => write_palette(table, palette, title),
        }
    }

    /// A key for people.
    fn shown(&self, key: &str) -> String {
        let key = key.split('#').next().unwrap_or(key);
        match self.codec {
            Codec::Own { .. } => key.to_owned(),
            Codec::Table(table) => table.notation.shown(key),
        }
    }
}

/// One value in a file.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
struct Entry {
    /// Its line, from 1.
    line: usize,
    key: String,
    value: String,
    /// The part of the file it is of, which may be a scheme of its own; empty where it is of the whole.
    scheme: String,
}

/// Where a value belongs.
#[derive(Debug, Clone, PartialEq, Eq)]
enum Place {
    Slot(Slot),
    Role(&'static str),
    /// A further color with a name.
    Named(String),
    /// A color with no place in a palette.
    Elsewhere,
    /// One of the colors of the fixed table, which is only worth a word when it is another.
    Indexed(u8),
    /// No color, or one that only repeats another.
    Nothing,
}

/// A file that cannot be imported.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {message}; {help}")]
pub struct ImportError {
    /// The line, from 1.
    pub line: usize,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: String,
    /// Whether nothing is broken, but nothing was found.
    pub is_empty: bool,
}

/// A value without a place in a palette.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unmapped {
    /// Its line, from 1.
    pub line: usize,
    /// The setting, as in the file.
    pub key: String,
    /// Its color.
    pub color: Rgb,
}

/// What a file gave.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Imported {
    /// The name the file gives its palette.
    pub name: Option<String>,
    /// The slots it sets.
    pub slots: BTreeMap<Slot, Rgb>,
    /// Further named colors.
    pub colors: Vec<(String, Rgb)>,
    /// Colors of jobs beyond the slots.
    pub roles: Vec<(RoleId, Rgb)>,
    /// Colors without a place.
    pub unmapped: Vec<Unmapped>,
    /// The font it names.
    pub font: Option<FontUsed>,
    /// Which of several schemes of the file it is, by its name or its place; `None` where there is one.
    pub scheme: Option<String>,
}

impl Imported {
    /// The palette it makes, under a name. What it leaves out gets a plain color; dark or light is
    /// told by the ground.
    #[must_use]
    pub fn palette(&self, name: &str) -> Palette {
        let l = |slot, default: f64| {
            let found = self.slots.get(&slot).copied();
            found.map_or(default, |c| wealdmist_core::color::Oklch::from(c).l)
        };
        let light = l(Slot::Background, 0.0) > l(Slot::Foreground, 1.0);
        Palette {
            name: name.to_owned().into(),
            variant: if light { Variant::Light } else { Variant::Dark },
            slots: self.slots.clone(),
            colors: self.colors.clone(),
            locked: Vec::new(),
        }
    }

    /// A setup with it, under a name: what roles need and the file lacks comes from the palette in use.
    ///
    /// # Errors
    /// When the setup cannot hold it.
    pub fn taken_into(&self, doc: &SetupDoc, name: &str) -> Result<SetupDoc, EditError> {
        let mut palette = self.palette(name);
        // A file with the palette in use, as far as its format goes, changes nothing of the rest.
        let now = doc.setup().palette();
        let is_same = self
            .slots
            .iter()
            .all(|(slot, color)| now.slot(*slot) == *color);
        let rest = |slot| match is_same {
            true => now.slot(slot),
            false => palette.slot(slot),
        };
        let filled = Slot::ALL.map(|slot| {
            (
                slot,
                self.slots.get(&slot).copied().unwrap_or_else(|| rest(slot)),
            )
        });
        palette.variant = if is_same {
            now.variant
        } else {
            palette.variant
        };
        palette.slots = filled.into();
        let doc = doc.with_role_colors_named()?;
        let setup = doc.setup();
        for (own, color) in &setup.palette().colors {
            if !palette.colors.iter().any(|c| c.0 == *own) {
                palette
                    .colors
                    .push((own.clone(), adapted(*color, setup.palette(), &palette)));
            }
        }
        // A named color must be no role, and TOML's keys must be unique.
        palette
            .colors
            .retain(|(n, _)| !setup.roles.keys().any(|r| r.as_str() == n));
        doc.with_palette(&palette)
    }
}

/// What was written, and what was lost.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Exported {
    /// The file.
    pub bytes: Vec<u8>,
    /// What the format cannot hold, for people; empty where nothing is lost.
    pub lost: Vec<String>,
}

const ALL: fn(Slot) -> bool = |_| true;
const NO_SELECTED_TEXT: fn(Slot) -> bool = |s| !matches!(s, Slot::CursorText | Slot::SelectionText);

/// Every format, the most telling first: the first that recognises a text reads it.
pub static FORMATS: &[Format] = &[
    Format {
        id: "tokens",
        label: "W3C design tokens",
        ending: "tokens.json",
        detect: |_, text| text.trim_start().starts_with('{') && text.contains("\"$value\""),
        codec: Codec::Own {
            read: nested::read_tokens,
            place: nested::token_place,
            color: css_color,
            write: nested::write_tokens,
        },
        holds: ALL,
        holds_names: true,
        holds_font: false,
    },
    Format {
        id: "windows",
        label: "Windows Terminal scheme",
        ending: "json",
        detect: |_, text| {
            let tells = ["\"brightBlack\"", "\"cursorColor\"", "\"schemes\""];
            tells.iter().any(|word| text.contains(word))
        },
        codec: Codec::Own {
            read: nested::read_json,
            place: nested::windows_place,
            color: hash,
            write: nested::write_windows,
        },
        holds: NO_SELECTED_TEXT,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "mac",
        label: "macOS terminal property list",
        ending: "terminal",
        detect: |_, text| text.contains("<plist") && !text.contains("Red Component"),
        codec: Codec::Own {
            read: keyed::read,
            place: keyed::place,
            color: hash,
            write: keyed::write,
        },
        holds: NO_SELECTED_TEXT,
        holds_names: false,
        holds_font: true,
    },
    Format {
        id: "preset",
        label: "iTerm2 color preset",
        ending: "itermcolors",
        detect: |_, text| text.contains("<plist") && text.contains("Red Component"),
        codec: Codec::Own {
            read: keyed::read,
            place: keyed::preset_place,
            color: hash,
            write: keyed::write_preset,
        },
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "gimp",
        label: "GIMP palette",
        ending: "gpl",
        detect: |_, text| text.starts_with("GIMP Palette"),
        codec: Codec::Own {
            read: lined::read_gimp,
            place: lined::gimp_place,
            color: lined::decimal,
            write: lined::write_gimp,
        },
        holds: ALL,
        holds_names: true,
        holds_font: false,
    },
    Format {
        id: "osc",
        label: "shell script of OSC sequences",
        ending: "sh",
        detect: |_, text| text.contains("]4;") || text.contains("]11;") || text.contains("]10;"),
        codec: Codec::Own {
            read: escapes::read_osc,
            place: escapes::osc_place,
            color: x11,
            write: escapes::write_osc,
        },
        holds: |s| s != Slot::CursorText,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "console",
        label: "Linux console escapes",
        ending: "console.sh",
        detect: |_, text| escapes::has_console(text),
        codec: Codec::Own {
            read: escapes::read_console,
            place: escapes::console_place,
            color: hash,
            write: escapes::write_console,
        },
        holds: |s| s.ansi().is_some(),
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "konsole",
        label: "Konsole color scheme",
        ending: "colorscheme",
        detect: |_, text| text.contains("[Color0") && text.contains("Color="),
        codec: Codec::Own {
            read: lined::read_konsole,
            place: lined::konsole_place,
            color: lined::konsole_color,
            write: lined::write_konsole,
        },
        holds: |s| s.ansi().is_some() || matches!(s, Slot::Foreground | Slot::Background),
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "foot",
        label: "foot",
        ending: "ini",
        detect: |_, text| text.contains("regular0") || text.contains("bright0"),
        codec: Codec::Table(&crate::tools::foot::FOOT),
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "alacritty",
        label: "Alacritty, TOML",
        ending: "toml",
        detect: |_, text| text.contains("[colors") || text.contains("colors."),
        codec: Codec::Table(&crate::tools::alacritty::ALACRITTY_TOML),
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "alacritty-yaml",
        label: "Alacritty, YAML",
        ending: "yml",
        detect: |_, text| lined::has_line(text, "colors:"),
        codec: Codec::Table(&crate::tools::alacritty::ALACRITTY_YAML),
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "css",
        label: "CSS custom properties",
        ending: "css",
        detect: |_, text| text.contains("--") && text.contains('{'),
        codec: Codec::Own {
            read: lined::read_css,
            place: lined::css_place,
            color: css_color,
            write: lined::write_css,
        },
        holds: ALL,
        holds_names: true,
        holds_font: false,
    },
    Format {
        id: "xresources",
        label: "X resources",
        ending: "Xresources",
        detect: |_, text| {
            text.contains("*color")
                || text.contains(".color")
                || text.contains("*foreground:")
                || text.contains("*background:")
        },
        codec: Codec::Own {
            read: lined::read_xresources,
            place: lined::xresources_place,
            color: x11,
            write: lined::write_xresources,
        },
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "ghostty",
        label: "Ghostty",
        ending: "ghostty",
        detect: |_, text| {
            let palette = |l: &str| {
                let rest = l.trim_start().strip_prefix("palette");
                rest.is_some_and(|r| r.trim_start().starts_with('='))
            };
            text.lines().any(palette)
        },
        codec: Codec::Table(&crate::tools::ghostty::GHOSTTY),
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "xfce4-terminal",
        label: "the terminal of Xfce",
        ending: "terminalrc",
        detect: |_, text| {
            text.lines()
                .any(|l| l.trim_start().starts_with("ColorPalette="))
        },
        codec: Codec::Table(&crate::tools::xfce_terminal::XFCE_TERMINAL),
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "warp",
        label: "Warp theme",
        ending: "yaml",
        detect: |_, text| text.contains("terminal_colors:"),
        codec: Codec::Table(&crate::tools::warp::WARP),
        holds: |s| !matches!(s, Slot::CursorText | Slot::Selection | Slot::SelectionText),
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "wezterm",
        label: "WezTerm settings",
        ending: "lua",
        detect: |_, text| text.contains("ansi") && text.contains("brights"),
        codec: Codec::Table(&crate::tools::wezterm::WEZTERM),
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "iterm2",
        label: "iTerm2 profile",
        ending: "json",
        detect: |_, text| text.contains("\"Ansi 0 Color\""),
        codec: Codec::Table(&crate::tools::iterm::ITERM),
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
    Format {
        id: "kitty",
        label: "kitty",
        ending: "conf",
        detect: |_, text| lined::has_word(text, "color0") || lined::has_word(text, "background"),
        codec: Codec::Table(&crate::tools::kitty::KITTY),
        holds: ALL,
        holds_names: false,
        holds_font: false,
    },
];

/// The text of a file's bytes: UTF-8, or UTF-16 that says so by its first character; a property list in its binary form as
/// the same in XML.
///
/// # Errors
/// The offset of the first byte that is no text.
pub fn text_of(bytes: &[u8]) -> Result<Cow<'_, str>, usize> {
    if bytes.starts_with(b"bplist") {
        return keyed::in_words(bytes).map(Cow::Owned).ok_or(0);
    }
    let wide = |of: fn([u8; 2]) -> u16| {
        let units: Vec<u16> = bytes[2..]
            .chunks_exact(2)
            .map(|two| of([two[0], two[1]]))
            .collect();
        String::from_utf16(&units).map(Cow::Owned).map_err(|_| 2)
    };
    match bytes {
        [0xff, 0xfe, ..] => wide(u16::from_le_bytes),
        [0xfe, 0xff, ..] => wide(u16::from_be_bytes),
        _ => {
            let text = std::str::from_utf8(bytes).map_err(|e| e.valid_up_to())?;
            Ok(Cow::Borrowed(text.strip_prefix('\u{feff}').unwrap_or(text)))
        }
    }
}

/// Why bytes are no text for [`text_of`], and what to do.
#[must_use]
pub fn no_text(bytes: &[u8]) -> (&'static str, &'static str) {
    match bytes.starts_with(b"bplist") {
        true => ("the binary property list is damaged", "export it again"),
        false => ("this is not text", "give a text file in UTF-8 or UTF-16"),
    }
}

/// The format of a name.
#[must_use]
pub fn format(id: &str) -> Option<&'static Format> {
    FORMATS.iter().find(|f| f.id == id)
}

/// The format a text is in, as far as its file's name and its content tell: of several that it looks like
/// the one that finds most in it.
#[must_use]
pub fn detect(name: &str, text: &str) -> Option<&'static Format> {
    let is_called_so = |f: &Format| name.ends_with(&format!(".{}", f.ending));
    let is_settings = |f: &Format| matches!(f.codec, Codec::Table(_)) && is_called_so(f);
    let fits = || {
        let all = FORMATS.iter();
        all.filter(|f| (f.detect)(name, text) || is_settings(f))
    };
    if fits().nth(1).is_none() {
        return fits().next();
    }
    let found = |f: &&Format| {
        let found = import(Some(f), name, text);
        let count = found.map_or(0, |i| i.slots.len() + i.colors.len() + i.roles.len());
        (count, (f.detect)(name, text), is_called_so(f))
    };
    // Of two that find the same the first is the more telling.
    fits().rev().max_by_key(found)
}

/// Reads a file in a format, `None` finding the format out, with what the file includes where the format is
/// a program's own.
///
/// # Errors
/// The line of the first value that is broken, or that nothing was found.
pub fn import_file(
    format: Option<&'static Format>,
    path: &Path,
    text: &str,
    access: &dyn Access,
) -> Result<Vec<Imported>, ImportError> {
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    let found = imports(format, &name, text);
    let format = format.or_else(|| detect(&name, text));
    let tables = FORMATS.iter().filter_map(|f| match (&f.codec, format) {
        (Codec::Table(table), None) if name.ends_with(&format!(".{}", f.ending)) => Some(*table),
        (Codec::Table(table), Some(format)) if format.id == f.id => Some(*table),
        _ => None,
    });
    let whole = tables.map(|table| table.read_file(path, access));
    let Some(report) = whole.max_by_key(|r| r.files.len()) else {
        return found;
    };
    if report.files.len() < 2 || report.problems.iter().any(|p| p.blocks_edits) {
        return found;
    }
    // What it says by itself, where it says anything.
    let mut out = match found {
        Err(why) if !why.is_empty => return Err(why),
        found => found.map(|mut all| all.remove(0)).unwrap_or_default(),
    };
    let sure = |r: &&Reading| r.effective && r.standing == Standing::Certain;
    for reading in report.readings.iter().filter(sure) {
        let Value::Color(color) = reading.value else {
            continue;
        };
        let role = &reading.role;
        match Slot::from_key(role.as_str()) {
            Some(slot) => {
                out.slots.insert(slot, color);
            }
            None if lookup(role).is_none() => {}
            None => match out.roles.iter_mut().find(|r| r.0 == *role) {
                Some(known) => known.1 = color,
                None => out.roles.push((role.clone(), color)),
            },
        }
    }
    match out.slots.is_empty() && out.colors.is_empty() {
        true => imports(format, &name, text),
        false => Ok(vec![out]),
    }
}

/// Reads a text in a format; `None` finds the format out. Of several schemes in it the first; [`imports`] gives all.
///
/// # Errors
/// The line of the first value that is broken, or that nothing was found.
pub fn import(format: Option<&Format>, name: &str, text: &str) -> Result<Imported, ImportError> {
    imports(format, name, text).map(|mut all| all.remove(0))
}

/// Reads every scheme of a text in a format; `None` finds the format out. There are several where parts of it say different
/// colors for one slot; what is of no part belongs to each.
///
/// # Errors
/// The line of the first value that is broken, or that nothing was found.
pub fn imports(
    format: Option<&Format>,
    name: &str,
    text: &str,
) -> Result<Vec<Imported>, ImportError> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let broken = |line, message: &str, help: String| ImportError {
        line,
        message: message.to_owned(),
        help,
        is_empty: false,
    };
    let empty = |message: &str, help| ImportError {
        is_empty: true,
        ..broken(1, message, help)
    };
    let known = || {
        let ids: Vec<&str> = FORMATS.iter().map(|f| f.id).collect();
        format!("known formats: {}", ids.join(", "))
    };
    let Some(format) = format.or_else(|| detect(name, text)) else {
        return Err(empty("no known palette format is recognised", known()));
    };
    if let Some(line) = crate::document::too_deep(text) {
        return Err(broken(line, "it is nested too deeply to be read", known()));
    }
    let read = guarded_deep(|| format.read(text));
    let entries = read.map_err(|failed| {
        let help = format!("look for what is unusual in it; read as {}", format.label);
        broken(1, &failed.to_string(), help)
    })??;
    schemes::of(format, entries, |own| {
        gathered(format, own, &broken, &empty, &known)
    })
    .map_err(|why| match why {
        schemes::Wrong::Import(error) => error,
        schemes::Wrong::TooMany(count) => {
            let message = format!("it holds {count} schemes, too many to choose from");
            broken(1, &message, format!("give at most {}", schemes::MOST))
        }
    })
}

/// What entries give together.
fn gathered(
    format: &Format,
    entries: Vec<Entry>,
    broken: &impl Fn(usize, &str, String) -> ImportError,
    empty: &impl Fn(&str, String) -> ImportError,
    known: &impl Fn() -> String,
) -> Result<Imported, ImportError> {
    let mut out = Imported::default();
    let mut named: HashMap<String, usize> = HashMap::new();
    for entry in entries {
        if entry.key == NAME {
            if entry.value.trim().is_empty() {
                continue;
            }
            match Name::new(&entry.value) {
                Ok(name) => out.name = Some(name.as_str().to_owned()),
                Err(why) => {
                    let message = format!("the palette's name cannot be used: {why}");
                    return Err(broken(entry.line, &message, "give it another".to_owned()));
                }
            }
            continue;
        }
        if entry.key == FONT {
            out.font = entry.value.split_once(' ').and_then(|(size, face)| {
                Some(FontUsed {
                    face: face.to_owned(),
                    size: size.parse().ok()?,
                })
            });
            continue;
        }
        let place = format.place(&entry.key);
        let color = format.said(entry.value.trim());
        let color = match (&place, color) {
            (Place::Nothing, _) | (Place::Elsewhere, None) => continue,
            (_, Some(color)) => color,
            (Place::Indexed(_), None) => continue,
            (_, None) if is_reference(&entry.value) => continue,
            (_, None) => {
                let shown = wealdmist_core::text::visible(entry.value.as_bytes());
                return Err(broken(
                    entry.line,
                    &format!("'{shown}' is not a color for {}", format.shown(&entry.key)),
                    format!("correct it, or remove the line; read as {}", format.label),
                ));
            }
        };
        match place {
            Place::Slot(slot) => {
                out.slots.insert(slot, color);
            }
            Place::Role(role) => out.roles.push((RoleId::known(role), color)),
            Place::Named(name) => match named.get(&name) {
                Some(i) => out.colors[*i].1 = color,
                None => {
                    named.insert(name.clone(), out.colors.len());
                    out.colors.push((name, color));
                }
            },
            Place::Indexed(n) if indexed(n) == Some(color) => {}
            Place::Elsewhere | Place::Indexed(_) => out.unmapped.push(Unmapped {
                line: entry.line,
                key: format.shown(&entry.key),
                color,
            }),
            Place::Nothing => {}
        }
    }
    if out.slots.is_empty() && out.colors.is_empty() {
        let message = format!("read as {}, but no color was found", format.label);
        return Err(empty(&message, known()));
    }
    Ok(out)
}

/// Writes a palette in a format, and the font where that holds one. `title` is the name of the setup.
#[must_use]
pub fn export(
    format: &Format,
    palette: &Palette,
    title: &str,
    font: Option<&FontUsed>,
) -> Exported {
    let mut lost = Vec::new();
    let left_out: Vec<&str> = Slot::ALL
        .into_iter()
        .filter(|s| !(format.holds)(*s))
        .map(Slot::key)
        .collect();
    if !left_out.is_empty() {
        lost.push(format!("{} has no {}", format.label, left_out.join(", ")));
    }
    if !format.holds_names && !palette.colors.is_empty() {
        let names: Vec<&str> = palette.colors.iter().map(|c| c.0.as_str()).collect();
        lost.push(format!(
            "{} has no further named colors: {}",
            format.label,
            names.join(", ")
        ));
    }
    // Names stand in comments and headers: one with a line end in it must not add a line.
    let one_line = |text: &str| text.replace(char::is_control, " ");
    let palette = Palette {
        name: one_line(&palette.name).into(),
        colors: palette
            .colors
            .iter()
            .map(|(n, c)| (one_line(n), *c))
            .collect(),
        ..palette.clone()
    };
    let mut bytes = format.write(&palette, &one_line(title));
    if let Some(font) = font.filter(|_| format.holds_font) {
        bytes = keyed::with_font(&bytes, font);
    }
    Exported { bytes, lost }
}

/// The key under which readers give the palette's name.
const NAME: &str = "\0name";

/// The key under which readers give the font: its size, a blank, the face.
const FONT: &str = "\0font";

/// A value that says: as another color, or none.
fn is_reference(value: &str) -> bool {
    matches!(
        value.trim().to_ascii_lowercase().as_str(),
        "none" | "default" | "background" | "foreground" | "cellforeground" | "cellbackground"
    ) || value.trim_start().starts_with("var(")
}

/// The place of a color of the 256 by its number.
fn numbered_place(digits: &str) -> Option<Place> {
    let plain = !digits.is_empty() && digits.bytes().all(|b| b.is_ascii_digit());
    let index: u8 = digits.parse().ok().filter(|_| plain)?;
    Some(Slot::from_ansi(index).map_or(Place::Indexed(index), Place::Slot))
}

/// The lines of a text with their numbers, from 1.
fn numbered(text: &str) -> impl Iterator<Item = (usize, &str)> {
    text.lines().enumerate().map(|(i, l)| (i + 1, l))
}

/// `#rrggbb` and `#rgb` (each digit doubled).
fn hash(text: &str) -> Option<Rgb> {
    Rgb::from_hex(text)
}

/// What X servers and OSC sequences take: `#rrggbb` in 1 to 4 digits a channel, `rgb:r/g/b`,
/// `rgba:r/g/b/a` and an opacity in brackets before it, which is left out.
fn x11(text: &str) -> Option<Rgb> {
    let text = match text.strip_prefix('[') {
        Some(rest) => rest.split_once(']')?.1,
        None => text,
    };
    wealdmist_core::color::parse_spec(text)
}

/// Any notation of CSS Color 4.
fn css_color(text: &str) -> Option<Rgb> {
    wealdmist_core::color::parse_any(text)
}

#[cfg(test)]
mod tests;
