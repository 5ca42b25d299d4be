//! Fonts of the editor's graphical front ends: `guifont` with its fallbacks. In a terminal the
//! editor draws with the terminal's.

use wealdmist_core::font::Catalog;
use wealdmist_core::reading::Reading;
use wealdmist_core::setup::FontChoice;

use crate::tools::fonts::{FontSyntax, Misnamed, Spelled, unknown_name};
use crate::tools::shared;

/// How the front ends take fonts.
pub(super) struct GuiFonts;

impl FontSyntax for GuiFonts {
    fn spelled(&self, choice: &FontChoice, catalog: &Catalog) -> Vec<Spelled> {
        let Some(family) = &choice.family else {
            return Vec::new();
        };
        let size = size(choice.size);
        let all: Vec<String> = std::iter::once(family)
            .chain(&choice.fallback)
            .map(|name| format!("{}{size}", quoted(name, true)))
            .collect();
        let missing = catalog.find(family).is_none();
        vec![Spelled {
            line: format!("vim.o.guifont = \"{}\"", all.join(",")),
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

/// A size as it follows a family: `:h12`.
pub(super) fn size(points: Option<f64>) -> String {
    let text = points.map(|s| format!(":h{}", shared::number(s).trim_end_matches(".0")));
    text.unwrap_or_default()
}

/// A family as it stands in the option, in a string of Lua or behind `set guifont=`: a comma in the
/// name has a backslash, and in each language a backslash has its own.
pub(super) fn quoted(family: &str, lua: bool) -> String {
    let name = family.replace(',', "\\\\,");
    match lua {
        true => name,
        false => name.replace(' ', "\\ "),
    }
}

/// The family of one font of the option.
pub(super) fn family(font: &str) -> String {
    let name = font.split(':').next().unwrap_or_default();
    name.replace("\\ ", " ").replace('_', " ").trim().to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tools::testing::catalog;

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
