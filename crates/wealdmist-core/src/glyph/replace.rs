//! What stands for a character in the dotfiles: as the setup says, and as would mend it.

use super::{Judged, substitute};
use crate::character::{SymbolLevel, is_private_use, is_symbol, level};
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
            || replacement(setup, tool, c).is_some()
        {
            continue;
        }
        if let Some(found) = substitute(c, setup.symbols, fits) {
            out.push((c, found.text));
        }
    }
    out
}

/// What a tool's dotfiles shall say for a character: the replacement chosen for it, or a sign
/// of the tool's symbol level; `None` where it stays.
#[must_use]
pub fn replacement(setup: &Setup, tool: ToolId, c: char) -> Option<String> {
    replacement_at(setup, setup.symbols_for(tool), c)
}

/// The same at a symbol level.
#[must_use]
pub fn replacement_at(setup: &Setup, most: SymbolLevel, c: char) -> Option<String> {
    let allowed = |text: &str| text.chars().all(|c| level(c) <= most || !is_symbol(c));
    if let Some(text) = setup.replace.get(&c).filter(|t| allowed(t)) {
        return Some(text.clone());
    }
    if is_symbol(c) && level(c) > most {
        return substitute(c, most, |c| !is_private_use(c)).map(|s| s.text);
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::setup::SetupDoc;

    const TEXT: &str = "[palettes.a]\nbackground='#101010'\n\n[symbols]\nlevel = \"icons\"\n[symbols.replace]\n\"U+F64F\" = \"\\U000f0150\"\n\"✗\" = \"x\"\n\n[tools.tmux]\nsymbols = \"plain\"\n";

    #[test]
    fn characters_are_replaced_by_choice_and_by_level() {
        let doc = SetupDoc::parse("s.toml", TEXT.as_bytes()).unwrap();
        let setup = doc.setup();
        assert_eq!(
            replacement(setup, ToolId("kitty"), '\u{f64f}').as_deref(),
            Some("\u{f0150}")
        );
        assert_eq!(
            replacement(setup, ToolId("kitty"), '✗').as_deref(),
            Some("x")
        );
        assert_eq!(replacement(setup, ToolId("kitty"), '\u{f07b}'), None);
        // A tool of a lower level gets a sign of that level, whatever was chosen for the others.
        assert_eq!(
            replacement(setup, ToolId("tmux"), '\u{f64f}').as_deref(),
            Some("◷")
        );
        assert_eq!(
            replacement(setup, ToolId("tmux"), '\u{f07b}').as_deref(),
            Some("▸")
        );
        assert_eq!(replacement(setup, ToolId("tmux"), 'é'), None);
    }
}
