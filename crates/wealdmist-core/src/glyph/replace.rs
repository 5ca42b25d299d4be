//! What stands for a character in the dotfiles: as the setup says, and as would mend it.

use super::{Judged, Kind, parts, substitute, substitute_of};
use crate::character::{SymbolLevel, is_private_use, is_symbol, level};
use crate::font::ChosenFont;
use crate::reading::{GlyphUse, ToolId};
use crate::setup::Setup;

/// The widest ink of a sign that stands for another, in cell widths: an icon too wide for its cell is
/// not mended by another that is.
const WIDEST: f32 = 1.1;

/// What would mend every glyph of `rows` that is not right: what is drawn as one, each once, with the text that
/// stands for it.
#[must_use]
pub fn replacements<'a>(
    setup: &Setup,
    chosen: &ChosenFont,
    rows: impl IntoIterator<Item = (ToolId, &'a GlyphUse, &'a Judged)>,
) -> Vec<(String, String)> {
    let fits = |c: char| {
        chosen.covers(c)
            && chosen
                .inks
                .get(&c)
                .is_none_or(|i| i.right - i.left < WIDEST)
    };
    let mut out: Vec<(String, String)> = Vec::new();
    for (tool, used, judged) in rows {
        if used.in_comment
            || !judged.is_mended_by_a_sign()
            || out.iter().any(|(known, _)| *known == used.cluster)
            || replacement_of(setup, tool, &used.cluster).is_some()
        {
            continue;
        }
        // A letter that is written otherwise may stand in the name of a file: that is the person's to choose.
        let found = substitute_of(&used.cluster, setup.symbols, fits);
        if let Some(found) = found.filter(|found| found.kind != Kind::Composed) {
            out.push((used.cluster.clone(), found.text));
        }
    }
    out
}

/// What a tool's dotfiles shall say for what is drawn as one: the replacement chosen for it or for its parts, or a
/// sign of the tool's symbol level; `None` where it stays.
#[must_use]
pub fn replacement_of(setup: &Setup, tool: ToolId, cluster: &str) -> Option<String> {
    replacement_at(setup, setup.symbols_for(tool), cluster)
}

/// The same at a symbol level.
#[must_use]
pub fn replacement_at(setup: &Setup, most: SymbolLevel, cluster: &str) -> Option<String> {
    let allowed = |text: &str| text.chars().all(|c| level(c) <= most || !is_symbol(c));
    let chosen = |what: &str| setup.replace.get(what).filter(|t| allowed(t)).cloned();
    let one = |c: &char| {
        let below = || substitute(*c, most, |c| !is_private_use(c)).map(|s| s.text);
        let is_above = is_symbol(*c) && level(*c) > most;
        chosen(c.encode_utf8(&mut [0; 4])).or_else(|| is_above.then(below).flatten())
    };
    let by_parts = || {
        let parts = parts(cluster);
        // A letter with its marks is not that letter.
        let is_text = |c: &char| !is_symbol(*c) && cluster.chars().nth(1).is_some();
        if parts.iter().any(is_text) {
            return None;
        }
        let found: Vec<Option<String>> = parts.iter().map(one).collect();
        if found.iter().all(Option::is_none) {
            return None;
        }
        let both = parts.iter().zip(found);
        let text = both.map(|(c, with)| with.unwrap_or_else(|| c.to_string()));
        Some(text.collect::<String>())
    };
    let text = chosen(cluster).or_else(by_parts);
    text.filter(|text| text != cluster)
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
            replacement_of(setup, ToolId("kitty"), "\u{f64f}").as_deref(),
            Some("\u{f0150}")
        );
        assert_eq!(
            replacement_of(setup, ToolId("kitty"), "✗").as_deref(),
            Some("x")
        );
        assert_eq!(replacement_of(setup, ToolId("kitty"), "\u{f07b}"), None);
        // A tool of a lower level gets a sign of that level, whatever was chosen for the others.
        assert_eq!(
            replacement_of(setup, ToolId("tmux"), "\u{f64f}").as_deref(),
            Some("◷")
        );
        assert_eq!(
            replacement_of(setup, ToolId("tmux"), "\u{f07b}").as_deref(),
            Some("▸")
        );
        assert_eq!(replacement_of(setup, ToolId("tmux"), "é"), None);
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
        // What is said of the whole counts before what is said of its parts, and a letter with its mark is none of them.
        let text = "[palettes.a]\n[symbols.replace]\n\"U+1F1E9 U+1F1EA\"='de'\n\"U+1F1E9\"='D'\n\"e\u{301}\"='\u{e9}'\n'a'='b'\n";
        let doc = SetupDoc::parse("s.toml", text.as_bytes()).unwrap();
        let with = |cluster: &str| replacement_of(doc.setup(), ToolId("tmux"), cluster);
        assert_eq!(with("\u{1f1e9}\u{1f1ea}").as_deref(), Some("de"));
        assert_eq!(with("e\u{301}").as_deref(), Some("\u{e9}"));
        assert_eq!(with("a\u{301}"), None);
    }
}
