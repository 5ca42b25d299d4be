//! The replacements that would mend glyphs that are not right.

use super::{Judged, substitute};
use crate::font::ChosenFont;
use crate::reading::{GlyphUse, ToolId};
use crate::setup::Setup;

/// The widest ink of a sign that stands for another, in cell widths: an icon too wide for its cell is
/// not mended by another that is.
const WIDEST: f32 = 1.1;

/// What would mend every glyph of `rows` that is not right: each character once, with the text that
/// stands for it.
#[must_use]
pub fn replacements<'a>(
    setup: &Setup,
    chosen: &ChosenFont,
    rows: impl IntoIterator<Item = (ToolId, &'a GlyphUse, &'a Judged)>,
) -> Vec<(char, String)> {
    let fits = |c: char| {
        chosen.covers(c)
            && chosen
                .inks
                .get(&c)
                .is_none_or(|i| i.right - i.left < WIDEST)
    };
    let mut out: Vec<(char, String)> = Vec::new();
    for (tool, used, judged) in rows {
        let c = used.character;
        if used.in_comment
            || !judged.is_mended_by_a_sign()
            || out.iter().any(|(k, _)| *k == c)
            || setup.replacement(tool.0, c).is_some()
        {
            continue;
        }
        if let Some(found) = substitute(c, setup.symbols, fits) {
            out.push((c, found.text));
        }
    }
    out
}
