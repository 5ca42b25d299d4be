//! Property lists of terminals of macOS: the profile of its own terminal, where each color is an archived object inside
//! a property list of its own, and the color presets of iTerm2, where it is three numbers.

use std::io::Cursor;

use plist::{Dictionary, Uid, Value};
use wealdmist_core::color::Rgb;
use wealdmist_core::role::Slot;
use wealdmist_core::setup::Palette;

use super::{Entry, FONT, FontUsed, ImportError, NAME, Place};

const ANSI: [&str; 16] = [
    "ANSIBlackColor",
    "ANSIRedColor",
    "ANSIGreenColor",
    "ANSIYellowColor",
    "ANSIBlueColor",
    "ANSIMagentaColor",
    "ANSICyanColor",
    "ANSIWhiteColor",
    "ANSIBrightBlackColor",
    "ANSIBrightRedColor",
    "ANSIBrightGreenColor",
    "ANSIBrightYellowColor",
    "ANSIBrightBlueColor",
    "ANSIBrightMagentaColor",
    "ANSIBrightCyanColor",
    "ANSIBrightWhiteColor",
];

const OTHERS: [(&str, Slot); 4] = [
    ("TextColor", Slot::Foreground),
    ("BackgroundColor", Slot::Background),
    ("CursorColor", Slot::Cursor),
    ("SelectionColor", Slot::Selection),
];

/// The colors of a preset beside the sixteen, which are numbered.
const OF_PRESETS: [(&str, Slot); 6] = [
    ("Foreground Color", Slot::Foreground),
    ("Background Color", Slot::Background),
    ("Cursor Color", Slot::Cursor),
    ("Cursor Text Color", Slot::CursorText),
    ("Selection Color", Slot::Selection),
    ("Selected Text Color", Slot::SelectionText),
];

const PARTS: [&str; 3] = ["Red Component", "Green Component", "Blue Component"];

/// The number of one of the sixteen in a preset.
fn numbered(key: &str) -> Option<u8> {
    let number = key.strip_prefix("Ansi ")?.strip_suffix(" Color")?;
    number.parse().ok().filter(|n| *n < 16)
}

pub(super) fn preset_place(key: &str) -> Place {
    if let Some(slot) = numbered(key).and_then(Slot::from_ansi) {
        return Place::Slot(slot);
    }
    let other = OF_PRESETS.iter().find(|(n, _)| *n == key);
    other.map_or(Place::Elsewhere, |(_, slot)| Place::Slot(*slot))
}

/// The color that three numbers from 0 to 1 say.
fn of_parts(color: &Dictionary) -> Option<Rgb> {
    let space = color.get("Color Space").and_then(Value::as_string);
    if space.is_some_and(|s| !matches!(s, "sRGB" | "Calibrated")) {
        return None;
    }
    let part = |name: &str| {
        let value = color.get(name)?;
        let number = value
            .as_real()
            .or_else(|| value.as_signed_integer().map(|n| n as f64));
        number.map(|n| (n.clamp(0.0, 1.0) * 255.0).round() as u8)
    };
    let [red, green, blue] = PARTS.map(part);
    Some(Rgb::new(red?, green?, blue?))
}

pub(super) fn write_preset(palette: &Palette, _: &str) -> Vec<u8> {
    let parts = |color: Rgb| {
        let mut out = Dictionary::new();
        out.insert("Color Space".into(), "sRGB".into());
        for (name, channel) in PARTS.iter().zip([color.r, color.g, color.b]) {
            out.insert((*name).into(), Value::Real(f64::from(channel) / 255.0));
        }
        Value::Dictionary(out)
    };
    let mut preset = Dictionary::new();
    for (n, color) in palette.ansi().into_iter().enumerate() {
        preset.insert(format!("Ansi {n} Color"), parts(color));
    }
    for (key, slot) in OF_PRESETS {
        preset.insert(key.into(), parts(palette.slot(slot)));
    }
    in_xml(preset)
}

pub(super) fn place(key: &str) -> Place {
    // Bold text has a color of its own there; ours is that of all text.
    if key == "TextBoldColor" {
        return Place::Nothing;
    }
    if let Some(i) = ANSI.iter().position(|n| *n == key) {
        return Slot::from_ansi(i as u8).map_or(Place::Nothing, Place::Slot);
    }
    let other = OTHERS.iter().find(|(n, _)| *n == key);
    other.map_or(Place::Elsewhere, |(_, slot)| Place::Slot(*slot))
}

pub(super) fn read(text: &str) -> Result<Vec<Entry>, ImportError> {
    let line_of = |key: &str| {
        let at = text.find(&format!("<key>{key}</key>")).unwrap_or(0);
        wealdmist_core::text::position(text.as_bytes(), at).line
    };
    let value = Value::from_reader_xml(Cursor::new(text.as_bytes())).map_err(|e| {
        let line = text.lines().count().max(1);
        ImportError {
            line,
            message: e.to_string(),
            help: "the property list is damaged: export it again".to_owned(),
            is_empty: false,
        }
    })?;
    let Some(settings) = value.as_dictionary() else {
        return Ok(Vec::new());
    };
    let mut out = Vec::new();
    for (key, value) in settings {
        let line = line_of(key);
        match value {
            Value::String(name) if key == "name" => out.push(Entry {
                line,
                key: NAME.to_owned(),
                value: name.clone(),
                ..Entry::default()
            }),
            Value::Data(bytes) if key == "Font" => {
                let font = font(bytes);
                out.extend(font.map(|FontUsed { face, size }| Entry {
                    line,
                    key: FONT.to_owned(),
                    value: format!("{size} {face}"),
                    ..Entry::default()
                }));
            }
            Value::Data(bytes) if key.ends_with("Color") => out.push(Entry {
                line,
                key: key.clone(),
                value: color(bytes).map_or("no color of RGB or gray".to_owned(), |c| c.to_string()),
                ..Entry::default()
            }),
            Value::Dictionary(parts) if key.ends_with("Color") => out.push(Entry {
                line,
                key: key.clone(),
                value: of_parts(parts).map_or("no color of sRGB".to_owned(), |c| c.to_string()),
                ..Entry::default()
            }),
            _ => {}
        }
    }
    Ok(out)
}

/// A property list in its binary form as one in XML.
pub(super) fn in_words(bytes: &[u8]) -> Option<String> {
    let value = Value::from_reader(Cursor::new(bytes)).ok()?;
    let mut out = Vec::new();
    plist::to_writer_xml(&mut out, &value).ok()?;
    String::from_utf8(out).ok()
}

/// The color in an archive: components as text, of gray or of RGB, 0–1.
fn color(bytes: &[u8]) -> Option<Rgb> {
    let archive = Value::from_reader(Cursor::new(bytes)).ok()?;
    let objects = archive.as_dictionary()?.get("$objects")?.as_array()?;
    let object = objects
        .iter()
        .filter_map(Value::as_dictionary)
        .find(|o| o.contains_key("NSRGB") || o.contains_key("NSWhite"))?;
    let components = |key: &str| {
        let data = object.get(key)?.as_data()?;
        let text = String::from_utf8_lossy(data).replace('\0', "");
        let parts = text.split_whitespace().map(|p| p.parse::<f64>().ok());
        parts.collect::<Option<Vec<f64>>>()
    };
    let channel = |v: f64| (v.clamp(0.0, 1.0) * 255.0).round() as u8;
    // One that was chosen in sRGB has its components in that, too; the others are those of a calibrated space.
    let own = is_srgb(object, objects).then(|| components("NSComponents"));
    let own = own.flatten().filter(|c| c.len() >= 3);
    if let Some(rgb) = own.or_else(|| components("NSRGB").filter(|c| c.len() >= 3)) {
        return Some(Rgb::new(channel(rgb[0]), channel(rgb[1]), channel(rgb[2])));
    }
    let gray = channel(*components("NSWhite")?.first()?);
    Some(Rgb::new(gray, gray, gray))
}

/// Whether an archived color has a space of its own which is sRGB: by its number, or by what its profile calls itself.
fn is_srgb(color: &Dictionary, objects: &[Value]) -> bool {
    /// The number of sRGB among the system's spaces.
    const NUMBER: i64 = 7;
    const NAME: &[u8] = b"sRGB";
    // What is referred to stands among the objects.
    let there = |value: &'_ Value| match value {
        Value::Uid(at) => objects.get(usize::try_from(at.get()).ok()?).cloned(),
        other => Some(other.clone()),
    };
    let space = color.get("NSCustomColorSpace").and_then(there);
    let Some(space) = space.as_ref().and_then(Value::as_dictionary) else {
        return false;
    };
    let number = space.get("NSID").and_then(Value::as_signed_integer);
    let profile = space.get("NSICC").and_then(there);
    let profile = profile.as_ref().and_then(|p| match p {
        Value::Dictionary(data) => data.get("NS.data")?.as_data(),
        data => data.as_data(),
    });
    // Names stand there in ASCII, or in UTF-16 from the big end.
    let wide: Vec<u8> = NAME.iter().flat_map(|b| [0, *b]).collect();
    let is_called = |profile: &[u8]| {
        let has = |name: &[u8]| profile.windows(name.len()).any(|w| w == name);
        has(NAME) || has(&wide)
    };
    number == Some(NUMBER) || profile.is_some_and(is_called)
}

/// The font in an archive.
fn font(bytes: &[u8]) -> Option<FontUsed> {
    let archive = Value::from_reader(Cursor::new(bytes)).ok()?;
    let objects = archive.as_dictionary()?.get("$objects")?.as_array()?;
    let mut all = objects.iter().filter_map(Value::as_dictionary);
    let object = all.find(|o| o.contains_key("NSName") && o.contains_key("NSSize"))?;
    let face = match object.get("NSName")? {
        Value::Uid(at) => objects.get(usize::try_from(at.get()).ok()?)?.as_string()?,
        other => other.as_string()?,
    };
    let size = object.get("NSSize")?;
    let whole = || size.as_signed_integer().map(|n| n as f64);
    let size = size.as_real().or_else(whole)?;
    let fine = size.is_finite() && size > 0.0 && !face.is_empty();
    fine.then(|| FontUsed {
        face: face.to_owned(),
        size,
    })
}

/// A color as an archived object, in device RGB.
fn archived(color: Rgb) -> Vec<u8> {
    let part = |c: u8| format!("{:.6}", f64::from(c) / 255.0);
    let text = format!("{} {} {}", part(color.r), part(color.g), part(color.b));
    let mut object = Dictionary::new();
    object.insert("NSRGB".into(), Value::Data(text.into_bytes()));
    object.insert("NSColorSpace".into(), Value::Integer(2.into()));
    archive("NSColor", object, None)
}

/// A profile with the font in it, as an archived object.
pub(super) fn with_font(profile: &[u8], font: &FontUsed) -> Vec<u8> {
    let Ok(Value::Dictionary(mut settings)) = Value::from_reader_xml(Cursor::new(profile)) else {
        return profile.to_vec();
    };
    let mut object = Dictionary::new();
    object.insert("NSSize".into(), Value::Real(font.size));
    object.insert("NSfFlags".into(), Value::Integer(16.into()));
    object.insert("NSName".into(), Value::Uid(Uid::new(3)));
    let archived = archive("NSFont", object, Some(font.face.as_str().into()));
    settings.insert("Font".into(), Value::Data(archived));
    in_xml(settings)
}

/// An object of a class as an archive: it is the first, its class the second, and what it refers to the third.
fn archive(name: &str, mut object: Dictionary, more: Option<Value>) -> Vec<u8> {
    object.insert("$class".into(), Value::Uid(Uid::new(2)));
    let mut class = Dictionary::new();
    class.insert("$classname".into(), name.into());
    class.insert(
        "$classes".into(),
        Value::Array(vec![name.into(), "NSObject".into()]),
    );
    let mut top = Dictionary::new();
    top.insert("root".into(), Value::Uid(Uid::new(1)));
    let mut archive = Dictionary::new();
    archive.insert("$version".into(), Value::Integer(100_000.into()));
    archive.insert("$archiver".into(), "NSKeyedArchiver".into());
    archive.insert("$top".into(), Value::Dictionary(top));
    let own = [
        "$null".into(),
        Value::Dictionary(object),
        Value::Dictionary(class),
    ];
    let objects = own.into_iter().chain(more).collect();
    archive.insert("$objects".into(), Value::Array(objects));
    let mut out = Vec::new();
    // Writing to memory cannot fail.
    let _ = plist::to_writer_binary(&mut out, &Value::Dictionary(archive));
    out
}

/// Settings as a property list.
fn in_xml(settings: Dictionary) -> Vec<u8> {
    let mut out = Vec::new();
    let _ = plist::to_writer_xml(&mut out, &Value::Dictionary(settings));
    out.push(b'\n');
    out
}

pub(super) fn write(palette: &Palette, title: &str) -> Vec<u8> {
    let mut settings = Dictionary::new();
    settings.insert("name".into(), format!("{title} {}", palette.name).into());
    settings.insert("type".into(), "Window Settings".into());
    let others = OTHERS.map(|(key, slot)| (key, palette.slot(slot)));
    for (key, color) in ANSI.into_iter().zip(palette.ansi()).chain(others) {
        settings.insert(key.into(), Value::Data(archived(color)));
    }
    let bold = archived(palette.slot(Slot::Foreground));
    settings.insert("TextBoldColor".into(), Value::Data(bold));
    in_xml(settings)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A color with components in a calibrated space and in one of its own.
    fn in_two_spaces(space: Dictionary) -> Option<Rgb> {
        let text = |t: &str| Value::Data(t.as_bytes().to_vec());
        let mut object = Dictionary::new();
        object.insert("NSRGB".into(), text("0.5 0.25 0.125\0"));
        object.insert("NSComponents".into(), text("0.6 0.4 0.2 1"));
        object.insert("NSCustomColorSpace".into(), Value::Uid(Uid::new(3)));
        color(&archive("NSColor", object, Some(Value::Dictionary(space))))
    }

    #[test]
    fn a_color_chosen_in_srgb_is_read_in_that() {
        let (own, calibrated) = (Rgb::new(153, 102, 51), Rgb::new(128, 64, 32));
        let of = |key: &str, value: Value| {
            let mut space = Dictionary::new();
            space.insert(key.into(), value);
            in_two_spaces(space)
        };
        let profile = |name: &[u8]| Value::Data([b"..desc..", name, b"...."].concat());
        assert_eq!(of("NSID", Value::Integer(7.into())), Some(own));
        assert_eq!(of("NSICC", profile(b"sRGB IEC61966-2.1")), Some(own));
        assert_eq!(of("NSICC", profile(b"\0s\0R\0G\0B")), Some(own));
        assert_eq!(of("NSICC", profile(b"Generic RGB")), Some(calibrated));
        assert_eq!(of("NSID", Value::Integer(1.into())), Some(calibrated));
    }

    #[test]
    fn damaged_binary_lists_are_told_as_such() {
        let (why, help) = crate::exchange::no_text(b"bplist00 and no more");
        assert!(why.contains("binary property list") && help.contains("export"));
        assert!(crate::exchange::text_of(b"bplist00 and no more").is_err());
    }
}
