//! Escape sequences written out in shell scripts: the Linux console's `ESC ] P n rrggbb`, and the
//! OSC sequences of terminal emulators.

use std::fmt::Write;

use wealdmist_core::role::Slot;
use wealdmist_core::setup::Palette;

use super::{Entry, ImportError, Place, numbered, numbered_place};

/// Whether a text holds a console sequence: `]P`, a digit of the index and six of the color.
pub(super) fn has_console(text: &str) -> bool {
    text.match_indices("]P").any(|(i, _)| {
        let digits = text[i + 2..].bytes().take(7);
        digits.filter(u8::is_ascii_hexdigit).count() == 7
    })
}

pub(super) fn read_console(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut out = Vec::new();
    for (line, content) in numbered(text) {
        for (at, _) in content.match_indices("]P") {
            let digits: String = content[at + 2..]
                .chars()
                .take_while(char::is_ascii_hexdigit)
                .take(7)
                .collect();
            if !digits.is_empty() {
                out.push(Entry {
                    line,
                    key: digits[..1].to_ascii_lowercase(),
                    value: format!("#{}", &digits[1..]),
                    ..Entry::default()
                });
            }
        }
    }
    Ok(out)
}

pub(super) fn console_place(key: &str) -> Place {
    let index = u8::from_str_radix(key, 16).ok();
    index
        .and_then(Slot::from_ansi)
        .map_or(Place::Nothing, Place::Slot)
}

pub(super) fn write_console(palette: &Palette, title: &str) -> Vec<u8> {
    let mut out = header(palette, title);
    for (i, color) in palette.ansi().into_iter().enumerate() {
        let digits = color.to_string().replace('#', "");
        let _ = writeln!(out, "printf '\\033]P{i:X}{digits}'");
    }
    // What is on the screen takes the new colors only when it is drawn again.
    out.push_str("printf '\\033[2J\\033[H'\n");
    out.into_bytes()
}

fn header(palette: &Palette, title: &str) -> String {
    format!("#!/bin/sh\n# {} · {}\n", title, palette.name)
}

pub(super) fn read_osc(text: &str) -> Result<Vec<Entry>, ImportError> {
    let mut out = Vec::new();
    for (line, content) in numbered(text) {
        let mut rest = content;
        while let Some(at) = rest.find(']') {
            rest = &rest[at + 1..];
            let is_body = |c: char| {
                c.is_ascii_alphanumeric()
                    || matches!(c, ';' | ':' | '/' | '#' | '[' | ']' | '.' | ',')
            };
            let body: &str = rest.split(|c| !is_body(c)).next().unwrap_or_default();
            // The sequence ends in ESC \, BEL or a spelling of them.
            let body = body.trim_end_matches(';');
            let (number, spec) = match body.split_once(';') {
                Some((number, spec)) => (number, spec),
                None => continue,
            };
            if number == "4" {
                let mut fields = spec.split(';');
                while let (Some(index), Some(color)) = (fields.next(), fields.next()) {
                    push(&mut out, line, &format!("4;{index}"), color);
                }
            } else if matches!(number, "10" | "11" | "12" | "17" | "19") {
                push(&mut out, line, number, spec);
            }
        }
    }
    Ok(out)
}

fn push(out: &mut Vec<Entry>, line: usize, key: &str, value: &str) {
    if value != "?" {
        out.push(Entry {
            line,
            key: key.to_owned(),
            value: value.to_owned(),
            ..Entry::default()
        });
    }
}

pub(super) fn osc_place(key: &str) -> Place {
    if let Some(index) = key.strip_prefix("4;") {
        return numbered_place(index).unwrap_or(Place::Elsewhere);
    }
    match key {
        "10" => Place::Slot(Slot::Foreground),
        "11" => Place::Slot(Slot::Background),
        "12" => Place::Slot(Slot::Cursor),
        "17" => Place::Slot(Slot::Selection),
        "19" => Place::Slot(Slot::SelectionText),
        _ => Place::Nothing,
    }
}

pub(super) fn write_osc(palette: &Palette, title: &str) -> Vec<u8> {
    let mut out = header(palette, title);
    for (target, slot) in crate::osc_targets() {
        let color = palette.slot(slot);
        let _ = match target {
            Ok(index) => writeln!(out, "printf '\\033]4;{index};{color}\\033\\\\'"),
            Err(number) => writeln!(out, "printf '\\033]{number};{color}\\033\\\\'"),
        };
    }
    out.into_bytes()
}
