//! Fonts as the system's font configuration spells them: `Family:size=12:weight=bold,Other:size=12`.
//!
//! Punctuation tells sizes and properties from the name, where a sign of it has to be escaped; the
//! comma of the list knows no escape.

use std::ops::Range;

use wealdmist_core::font::{FeatureSetting, Four};
use wealdmist_core::property::Property;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Value;
use wealdmist_core::role::RoleId;

use super::Compound;
use crate::Wanted;

/// A list of font patterns: the first is the font, the others are fallbacks.
#[derive(Debug, Clone, Copy)]
pub struct FontList(pub Four);

impl FontList {
    const fn property(&self) -> Property {
        match self.0 {
            Four::Regular => Property::FontFamily,
            Four::Bold => Property::FontBold,
            Four::Italic => Property::FontItalic,
            Four::BoldItalic => Property::FontBoldItalic,
        }
    }
}

/// The pieces of a text between signs, with their places.
fn split(text: &str, sign: char) -> impl Iterator<Item = Range<usize>> + '_ {
    let mut at = 0;
    text.split(sign).map(move |piece| {
        let start = at;
        at += piece.len() + sign.len_utf8();
        start..start + piece.len()
    })
}

/// The name of a pattern, and its options, each with its place in the text.
fn pattern(text: &str, range: Range<usize>) -> (Range<usize>, Vec<Range<usize>>) {
    let mut parts = Vec::new();
    let (mut start, mut escaped) = (range.start, false);
    for (at, c) in text[range.clone()].char_indices() {
        if c == ':' && !escaped {
            parts.push(start..range.start + at);
            start = range.start + at + 1;
        }
        escaped = c == '\\' && !escaped;
    }
    parts.push(start..range.end);
    let name = parts.remove(0);
    let trimmed = text[name.clone()].trim();
    let start = name.start + (text[name.clone()].len() - text[name].trim_start().len());
    (start..start + trimmed.len(), parts)
}

impl Compound for FontList {
    fn read(&self, text: &str) -> Vec<(RoleId, Value, Range<usize>)> {
        let plain = |name: &str| name.replace('\\', "");
        let mut out = Vec::new();
        for (i, range) in split(text, ',').enumerate() {
            let (name, options) = pattern(text, range);
            if name.is_empty() {
                continue;
            }
            let said = Value::Text(plain(&text[name.clone()]));
            if i > 0 {
                if self.0 == Four::Regular {
                    out.push((Property::FontFallback.into(), said, name));
                }
                continue;
            }
            let style = options
                .iter()
                .find_map(|o| text[o.clone()].strip_prefix("style="));
            let said = match (style, &said) {
                // A face by its family and its style.
                (Some(style), Value::Text(family)) if self.0 != Four::Regular => {
                    Value::Text(format!("{family} {style}"))
                }
                _ => said,
            };
            out.push((self.property().into(), said, name));
            for option in options.into_iter().filter(|_| self.0 == Four::Regular) {
                let Some((key, value)) = text[option.clone()].split_once('=') else {
                    continue;
                };
                let place = option.start + key.len() + 1..option.end;
                match (key.trim(), value.trim().parse::<f64>()) {
                    ("size", Ok(size)) => {
                        out.push((Property::FontSize.into(), Value::Number(size), place));
                    }
                    ("fontfeatures", _) => {
                        let features: Option<Vec<String>> = value
                            .split_whitespace()
                            .map(|t| Some(t.parse::<FeatureSetting>().ok()?.to_string()))
                            .collect();
                        if let Some(features) = features {
                            let said = Value::Text(features.join(" "));
                            out.push((Property::FontFeatures.into(), said, place));
                        }
                    }
                    _ => {}
                }
            }
        }
        out
    }

    fn change(
        &self,
        text: &str,
        wanted: &Wanted,
        quoting: Quoting,
    ) -> Option<Vec<(Range<usize>, Code)>> {
        let font = &wanted.setup.font;
        let mut fonts = split(text, ',');
        let first = fonts.next()?;
        let (name, options) = pattern(text, first.clone());
        let quoted = |text: &str| quote(text, &[Quoting::FontPattern, quoting]);
        let regular = self.0 == Four::Regular;
        let mut out: Vec<(Range<usize>, Code)> = Vec::new();
        // What is new stands behind the name.
        let mut behind = Code::default();
        match font.of(self.0) {
            None if name.is_empty() => return None,
            None => {}
            Some(chosen) => {
                let face = wanted.catalog.and_then(|c| c.find(chosen)).map(|f| f.0);
                let style = options
                    .iter()
                    .find(|o| text[(*o).clone()].starts_with("style="));
                let with = match face.filter(|_| !regular) {
                    Some(face) => {
                        let said = Code::of("style={}", &[&quoted(&face.info.style)?]);
                        match style {
                            Some(there) if *said == *text[there.clone()].as_bytes() => {}
                            Some(there) => out.push((there.clone(), said)),
                            None => behind.push(&Code::of(":{}", &[&said])),
                        }
                        quoted(face.info.family())?
                    }
                    None => quoted(chosen)?,
                };
                if *with != *text[name.clone()].as_bytes() {
                    out.push((name.clone(), with));
                }
            }
        }
        let mut option = |keys: [&'static str; 2], value: Option<Code>| {
            let Some(value) = value else { return };
            let said = Code::of("{}={}", &[&Code::fixed(keys[0]), &value]);
            // One size takes the place of the other.
            let there = options.iter().find(|o| {
                let key = text[(*o).clone()].split('=').next().map(str::trim);
                keys.iter().any(|k| key == Some(k))
            });
            match there {
                Some(there) if *said == *text[there.clone()].as_bytes() => {}
                Some(there) => out.push((there.clone(), said)),
                None => behind.push(&Code::of(":{}", &[&said])),
            }
        };
        option(["size", "pixelsize"], font.size.map(Code::short_number));
        if !font.features.is_empty() && regular {
            let one = |f: &FeatureSetting| quote(&f.to_string(), &[Quoting::Word]);
            let all: Option<Vec<Code>> = font.features.iter().map(one).collect();
            option(["fontfeatures"; 2], Some(Code::join(&all?, " ")));
        }
        if !behind.is_empty() {
            out.push((name.end..name.end, behind));
        }
        let now: Vec<String> = fonts
            .map(|range| text[pattern(text, range).0].replace('\\', ""))
            .collect();
        if regular && !font.fallback.is_empty() && now != font.fallback {
            let mut rest = Code::default();
            for family in &font.fallback {
                rest.push(&Code::of(",{}", &[&quoted(family)?]));
                if let Some(size) = font.size {
                    rest.push(&Code::of(":size={}", &[&Code::short_number(size)]));
                }
            }
            out.push((first.end..text.len(), rest));
        }
        out.sort_by_key(|c| (c.0.start, c.0.end));
        Some(out)
    }

    fn holds(&self) -> &'static [Property] {
        match self.0 {
            Four::Regular => &[
                Property::FontFamily,
                Property::FontSize,
                Property::FontFeatures,
                Property::FontFallback,
            ],
            Four::Bold => &[Property::FontBold],
            Four::Italic => &[Property::FontItalic],
            Four::BoldItalic => &[Property::FontBoldItalic],
        }
    }
}
