//! Fonts of the editor's graphical front ends: `guifont` with its fallbacks. In a terminal the
//! editor draws with the terminal's.

use wealdmist_core::font::Catalog;
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::reading::Reading;
use wealdmist_core::setup::FontChoice;

use crate::fonts::{FontSyntax, Misnamed, Spelled, unknown_name};

/// How the front ends take fonts.
pub(super) struct GuiFonts;

impl FontSyntax for GuiFonts {
    fn spelled(&self, choice: &FontChoice, catalog: &Catalog) -> Vec<Spelled> {
        let Some(family) = &choice.family else {
            return Vec::new();
        };
        let all = std::iter::once(family).chain(&choice.fallback);
        let written = written(all, choice.size, &[Quoting::FontList, Quoting::LuaDouble]);
        let Some(all) = written else {
            return Vec::new();
        };
        let missing = catalog.find(family).is_none();
        vec![Spelled {
            line: Code::of("vim.o.guifont = \"{}\"", &[&all]).lossy(),
            note: Some(match missing {
                true => "not installed: front ends fall back to a font of their own".to_owned(),
                false => "for graphical front ends; in a terminal, and in its own terminal there, the terminal's font is drawn".to_owned(),
            }),
        }]
    }

    fn check(&self, _reading: &Reading, name: &str, catalog: &Catalog) -> Option<Misnamed> {
        catalog.find(name).is_none().then(|| {
            unknown_name(
                name,
                "graphical front ends take a font of their own instead",
                catalog,
            )
        })
    }
}

/// Families with one size as the option lists them, written for where they stand; `None` where
/// one of them cannot be.
pub(super) fn written<'a>(
    families: impl Iterator<Item = &'a String>,
    points: Option<f64>,
    places: &[Quoting],
) -> Option<Code> {
    let size = match points {
        Some(points) => Code::of(":h{}", &[&Code::short_number(points)]),
        None => Code::default(),
    };
    let one = |name: &String| Some(Code::join([&quote(name, places)?, &size], ""));
    let all: Option<Vec<Code>> = families.map(one).collect();
    Some(Code::join(&all?, ","))
}

/// The fonts of the option: a comma with a backslash before it belongs to a name.
pub(super) fn list(option: &str) -> impl Iterator<Item = &str> {
    let mut rest = Some(option);
    std::iter::from_fn(move || {
        let text = rest?;
        let bytes = text.as_bytes();
        let end =
            (0..bytes.len()).find(|i| bytes[*i] == b',' && (*i == 0 || bytes[i - 1] != b'\\'));
        rest = end.map(|end| &text[end + 1..]);
        Some(&text[..end.unwrap_or(text.len())])
    })
}

/// The family of one font of the option.
pub(super) fn family(font: &str) -> String {
    let name = font.split(':').next().unwrap_or_default();
    // No name holds a backslash: each belongs to a language around it.
    name.replace('\\', "").replace('_', " ").trim().to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::testing::catalog;

    #[test]
    fn family_size_and_fallback_are_one_option() {
        let choice = FontChoice {
            family: Some("Reedbed Mono NF".into()),
            size: Some(12.0),
            fallback: vec!["Sedge, Mono".into()],
            ..FontChoice::default()
        };
        let lines = GuiFonts.spelled(&choice, &catalog());
        assert_eq!(
            lines[0].line,
            "vim.o.guifont = \"Reedbed Mono NF:h12,Sedge\\\\, Mono:h12\""
        );
        assert!(
            GuiFonts
                .spelled(&FontChoice::default(), &catalog())
                .is_empty()
        );
    }
}
