//! OpenType substitution features: which a face has, what they are called, what each changes.

use std::collections::{BTreeMap, BTreeSet};

use skrifa::Tag;
use skrifa::raw::tables::layout::FeatureParams;
use skrifa::raw::{FontRef, TableProvider};

use super::{FeatureSetting, Typeface, english};
use crate::limits;

/// A feature of a face.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FeatureFact {
    /// Its tag.
    pub tag: Tag,
    /// Its own name where the font gives one (stylistic sets, character variants), else the
    /// registered name of the tag.
    pub name: String,
    /// Whether the name is the font's own.
    pub own_name: bool,
    /// Whether it is on unless switched off.
    pub default: bool,
}

/// Registered features a person may want to switch, with their names (OpenType feature registry).
#[rustfmt::skip]
static REGISTERED: &[(&[u8; 4], &str)] = &[
    (b"aalt", "all alternates"), (b"c2sc", "small capitals from capitals"), (b"calt", "contextual alternates"),
    (b"case", "case-sensitive forms"), (b"ccmp", "composition"), (b"clig", "contextual ligatures"),
    (b"dlig", "discretionary ligatures"), (b"dnom", "denominators"), (b"frac", "fractions"),
    (b"hlig", "historical ligatures"), (b"liga", "standard ligatures"), (b"lnum", "lining figures"),
    (b"locl", "localized forms"), (b"numr", "numerators"), (b"onum", "old-style figures"),
    (b"ordn", "ordinals"), (b"ornm", "ornaments"), (b"pnum", "proportional figures"),
    (b"rlig", "required ligatures"), (b"rclt", "required contextual alternates"), (b"salt", "stylistic alternates"),
    (b"sinf", "scientific inferiors"), (b"smcp", "small capitals"), (b"subs", "subscript"),
    (b"sups", "superscript"), (b"swsh", "swash"), (b"titl", "titling"),
    (b"tnum", "tabular figures"), (b"zero", "slashed zero"),
];

/// Features that shapers apply unless they are switched off.
const BY_DEFAULT: [&[u8; 4]; 7] = [
    b"calt", b"ccmp", b"clig", b"liga", b"locl", b"rlig", b"rclt",
];

/// The features that make ligatures, in the wide sense of programming fonts.
pub const LIGATURES: [Tag; 4] = [
    Tag::new(b"liga"),
    Tag::new(b"calt"),
    Tag::new(b"clig"),
    Tag::new(b"dlig"),
];

/// The settings that draw every character by itself.
#[must_use]
pub fn ligatures_off() -> Vec<FeatureSetting> {
    LIGATURES
        .iter()
        .map(|tag| FeatureSetting::switch(*tag, false))
        .collect()
}

pub(super) fn tags(font: &FontRef) -> BTreeSet<String> {
    records(font)
        .iter()
        .map(|(tag, _)| tag.to_string())
        .collect()
}

/// Each tag once, with the name that its first feature gives it.
fn records(font: &FontRef) -> Vec<(Tag, Option<String>)> {
    let Ok(list) = font.gsub().and_then(|gsub| gsub.feature_list()) else {
        return Vec::new();
    };
    // A face may have a record of one tag for each of its scripts and languages.
    let mut out: BTreeMap<Tag, Option<String>> = BTreeMap::new();
    for record in list.feature_records() {
        let tag = record.feature_tag();
        let printable = tag.to_be_bytes().iter().all(u8::is_ascii_graphic);
        if !printable || out.contains_key(&tag) || out.len() >= limits::FEATURES {
            continue;
        }
        let feature = record.feature(list.offset_data()).ok();
        let name = feature.and_then(|f| match f.feature_params()?.ok()? {
            FeatureParams::StylisticSet(p) => english(font, p.ui_name_id()),
            FeatureParams::CharacterVariant(p) => english(font, p.feat_ui_label_name_id()),
            FeatureParams::Size(_) => None,
        });
        out.insert(tag, name);
    }
    out.into_iter().collect()
}

pub(super) fn facts(font: &FontRef) -> Vec<FeatureFact> {
    let fact = |(tag, own): (Tag, Option<String>)| FeatureFact {
        tag,
        own_name: own.is_some(),
        name: own.unwrap_or_else(|| registered_name(tag)),
        default: BY_DEFAULT.iter().any(|t| Tag::new(t) == tag),
    };
    records(font).into_iter().map(fact).collect()
}

/// What a tag is called where the font gives no name.
#[must_use]
pub fn registered_name(tag: Tag) -> String {
    if let Some((_, name)) = REGISTERED.iter().find(|(t, _)| Tag::new(t) == tag) {
        return (*name).to_owned();
    }
    let text = tag.to_string();
    let number = text.get(2..).and_then(|n| n.parse::<u8>().ok());
    match (text.get(..2), number) {
        (Some("ss"), Some(n)) => format!("stylistic set {n}"),
        (Some("cv"), Some(n)) => format!("character variant {n}"),
        _ => super::legible(text.chars()),
    }
}

/// What a feature changes of ordinary text: characters that are drawn otherwise, and sequences
/// that are drawn as one or differently beside each other. Found by shaping, so that it is true of
/// chained and contextual rules as well.
#[must_use]
pub fn changes(face: &Typeface, tag: Tag) -> Vec<String> {
    let mut plain = ligatures_off();
    let before = shaped(face, &plain);
    plain.retain(|f| f.tag != tag);
    plain.push(FeatureSetting::switch(tag, true));
    let after = shaped(face, &plain);
    let mut out: Vec<String> = Vec::new();
    for ((text, before), (_, after)) in before.iter().zip(&after) {
        // What a shorter sample shows already is not repeated by longer ones that contain it.
        let told = || out.iter().any(|o| text.contains(o.as_str()));
        if before != after && out.len() < limits::FEATURE_SAMPLES && !told() {
            out.push(text.clone());
        }
    }
    out
}

/// The samples and the glyphs each is drawn with.
fn shaped(face: &Typeface, features: &[FeatureSetting]) -> Vec<(String, Vec<(u32, i32)>)> {
    let samples = samples();
    let text = samples.join(" ");
    let glyphs = face.shape(&text, features);
    let mut start = 0;
    samples
        .into_iter()
        .map(|sample| {
            let end = start + sample.len();
            let own = glyphs.iter().filter(|g| (start..end).contains(&g.cluster));
            let drawn = own.map(|g| (g.glyph.to_u32(), g.offset.0 as i32)).collect();
            start = end + 1;
            (sample, drawn)
        })
        .collect()
}

/// Single characters, then pairs and triples of signs as programs have them.
fn samples() -> Vec<String> {
    let singles = ('!'..='~').chain('¡'..='ÿ').map(String::from);
    let signs = "!#$%&*+-./:;<=>?@\\^_|~()[]{}";
    let pairs = signs
        .chars()
        .flat_map(|a| signs.chars().map(move |b| format!("{a}{b}")));
    let longer = [
        "===", "!==", "<=>", "<->", "-->", "<--", "==>", "<==", "...", "..<", "..=", "<!--",
        "-->>", "<<-", "->>", ">>=", "<<=", "<|>", "|||", "///", "**", "***", "&&&", "+++", "###",
        "####", ":::", "<~>", "~~>", "<$>", "<*>", "<+>", "0x1", "0xFF", "www", "fi", "fl", "ff",
        "ffi", "Fl", "Tl", "ij",
    ];
    singles
        .chain(pairs)
        .chain(longer.into_iter().map(str::to_owned))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A font that has features and nothing else: a record for each tag.
    fn with_records(tags: &[&[u8; 4]]) -> Vec<u8> {
        let mut table = vec![0, 1, 0, 0, 0, 0, 0, 10, 0, 0];
        table.extend((tags.len() as u16).to_be_bytes());
        let feature = (2 + tags.len() * 6) as u16;
        for tag in tags {
            table.extend(*tag);
            table.extend(feature.to_be_bytes());
        }
        table.extend([0; 4]);
        let mut font = vec![0, 1, 0, 0, 0, 1, 0, 16, 0, 0, 0, 0];
        font.extend(b"GSUB");
        for number in [0, 28, table.len() as u32] {
            font.extend(number.to_be_bytes());
        }
        font.extend(table);
        font
    }

    #[test]
    fn a_tag_counts_once_however_many_records_it_has() {
        let mut tags = vec![b"liga"; limits::FEATURES + 90];
        tags.push(b"ss01");
        let font = with_records(&tags);
        let names: Vec<String> = facts(&FontRef::new(&font).unwrap())
            .into_iter()
            .map(|fact| fact.name)
            .collect();
        assert_eq!(names, ["standard ligatures", "stylistic set 1"]);
    }
}
