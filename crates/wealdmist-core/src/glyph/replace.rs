//! What stands for a character in the dotfiles: as the setup says, and as would mend it.

use super::{Judged, parts, substitute, substitute_of};
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
        if used.in_comment
            || !judged.is_mended_by_a_sign()
            || replacement_of(setup, tool, &used.cluster).is_some()
        {
            continue;
        }
        let Some(found) = substitute_of(&used.cluster, setup.symbols, fits) else {
            continue;
        };
        for (c, text) in parted(&used.cluster, &found.text) {
            if !out.iter().any(|(k, _)| *k == c) {
                out.push((c, text));
            }
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

/// What stands for a text that is drawn as one, in its parts: the letters of a flag each for themselves.
#[must_use]
pub fn parted(cluster: &str, text: &str) -> Vec<(char, String)> {
    match &parts(cluster)[..] {
        [one] => vec![(*one, text.to_owned())],
        several => {
            let letters = text.chars().map(String::from);
            several.iter().copied().zip(letters).collect()
        }
    }
}

/// What a tool's dotfiles shall say for what is drawn as one; `None` where it stays.
#[must_use]
pub fn replacement_of(setup: &Setup, tool: ToolId, cluster: &str) -> Option<String> {
    let one = |c: &char| replacement(setup, tool, *c);
    let parts = parts(cluster);
    let found: Vec<Option<String>> = parts.iter().map(one).collect();
    if found.iter().all(Option::is_none) {
        return None;
    }
    let both = parts.iter().zip(found);
    let text: String = both
        .map(|(c, with)| with.unwrap_or_else(|| c.to_string()))
        .collect();
    (text != cluster).then_some(text)
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

    #[test]
    fn what_is_drawn_as_one_is_replaced_as_one() {
        let text = "[palettes.a]\n[symbols]\nlevel='icons'\n[symbols.replace]\n\"U+1F1E9\"='D'\n\"U+1F1EA\"='E'\n\"U+2764\"='\u{2764}'\n";
        let doc = SetupDoc::parse("s.toml", text.as_bytes()).unwrap();
        let with = |cluster: &str| replacement_of(doc.setup(), ToolId("tmux"), cluster);
        assert_eq!(with("\u{1f1e9}\u{1f1ea}").as_deref(), Some("DE"));
        assert_eq!(with("\u{2764}\u{fe0f}").as_deref(), Some("\u{2764}"));
        // Where it stands so already, there is nothing to do.
        assert_eq!(with("\u{2764}"), None);
        assert_eq!(with("e\u{301}"), None);
    }
}
