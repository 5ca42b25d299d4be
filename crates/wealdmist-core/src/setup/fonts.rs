//! The font and the symbols in the setup file: reading them, and the edits that change them.

use std::collections::BTreeMap;
use std::ops::Range;

use toml_edit::TableLike;

use super::edit::EditError;
use super::literal;
use super::read::{Reader, span};
use super::{FontChoice, SetupDoc, SymbolLevel};
use crate::font::{FeatureSetting, Four};
use crate::glyph::parts;
use crate::limits;
use crate::property::Property;
use crate::quote::Name;
use crate::reading::ToolId;
use crate::text::{cluster_of, code_points, visible_with};

impl Reader {
    pub(super) fn font(&mut self, root: &dyn TableLike) -> FontChoice {
        let Some(table) = self.table(root, "font") else {
            return FontChoice::default();
        };
        let known = [
            "family",
            "size",
            "bold",
            "italic",
            "bold-italic",
            "features",
            "ligatures",
            "line-height",
            "column-width",
            "own-lines",
            "fallback",
        ];
        self.unknown(table, "[font]", &known);
        let mut features = Vec::new();
        for (text, at) in self.texts(table, "features") {
            match text.parse::<FeatureSetting>() {
                Ok(feature) => features.push(feature),
                Err(why) => self.error(at, why, "features are four letters or digits"),
            }
        }
        let mut flag = |key| {
            let is_there = table.get(key).is_some();
            is_there.then(|| self.flag(table, key, true))
        };
        let (ligatures, own_lines) = (flag("ligatures"), flag("own-lines"));
        let fallback = self.texts(table, "fallback");
        FontChoice {
            family: self.name(table, "family"),
            size: self.property(table, "size", Property::FontSize),
            bold: self.name(table, "bold"),
            italic: self.name(table, "italic"),
            bold_italic: self.name(table, "bold-italic"),
            features,
            ligatures,
            own_lines,
            line_height: self.property(table, "line-height", Property::FontLineHeight),
            column_width: self.property(table, "column-width", Property::FontColumnWidth),
            fallback: fallback
                .into_iter()
                .filter(|(text, at)| match Name::new(text) {
                    Ok(_) => true,
                    Err(why) => {
                        let message = format!("this is no name of a font: {why}");
                        self.error(at.clone(), message, "give the family's name");
                        false
                    }
                })
                .map(|t| t.0)
                .collect(),
        }
    }

    /// The texts of a list, each with its place.
    fn texts(&mut self, table: &dyn TableLike, key: &str) -> Vec<(String, Range<usize>)> {
        let Some(item) = table.get(key) else {
            return Vec::new();
        };
        let array = item
            .as_array()
            .filter(|a| a.iter().all(|v| v.as_str().is_some()));
        let Some(array) = array else {
            let help = format!("write {key} = [\"…\", \"…\"]");
            self.error(
                span(item),
                format!("'{key}' has to be a list of texts"),
                help,
            );
            return Vec::new();
        };
        let text = |v: &toml_edit::Value| {
            Some((
                v.as_str()?.to_owned(),
                v.span().unwrap_or_else(|| span(item)),
            ))
        };
        array
            .iter()
            .filter_map(text)
            .take(limits::SETUP_LIST)
            .collect()
    }

    pub(super) fn symbols(
        &mut self,
        root: &dyn TableLike,
    ) -> (SymbolLevel, BTreeMap<String, String>) {
        let Some(table) = self.table(root, "symbols") else {
            return (SymbolLevel::default(), BTreeMap::new());
        };
        self.unknown(table, "[symbols]", &["level", "replace"]);
        let level = self.level(table, "level").unwrap_or_default();
        let mut replace = BTreeMap::new();
        if let Some(entries) = self.table(table, "replace") {
            for (key, item) in entries.iter() {
                let Some(cluster) = cluster_of(key) else {
                    let message = format!("'{}' is no character", visible_with(key, false));
                    self.error(
                        span(item),
                        message,
                        "write the code point, as in \"U+F07B\", or those of what is drawn as one, as in \"U+1F1E9 U+1F1EA\"",
                    );
                    continue;
                };
                if let Some(text) = self.string(entries, key) {
                    replace.insert(cluster, text);
                }
            }
        }
        (level, replace)
    }

    /// A symbol level under a key.
    pub(super) fn level(&mut self, table: &dyn TableLike, key: &str) -> Option<SymbolLevel> {
        table.get(key)?;
        self.choice(table, key, &SymbolLevel::ALL.map(|l| (l.key(), l)))
    }
}

impl SetupDoc {
    /// The setup with a face chosen for a style: the family for the regular one, the full name of
    /// a face for the others.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_face(&self, style: Four, name: &str) -> Result<Self, EditError> {
        self.with_text(&["font", style.key()], name)
    }

    /// The setup without anything said of a style beside the regular one.
    ///
    /// # Errors
    /// When the file cannot be changed so.
    pub fn without_face(&self, style: Four) -> Result<Self, EditError> {
        self.without(&["font", style.key()])
    }

    /// The setup with a feature set; a value it has by itself is forgotten when `value` is `None`.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_feature(&self, setting: FeatureSetting, forget: bool) -> Result<Self, EditError> {
        let mut features = self.setup().font.features.clone();
        features.retain(|f| f.tag != setting.tag);
        if !forget {
            features.push(setting);
            features.sort_unstable();
        }
        let list: Vec<String> = features
            .iter()
            .map(|f| literal::text(&f.to_string()))
            .collect();
        self.with_value(&["font", "features"], &format!("[{}]", list.join(", ")))
    }

    /// The setup with these features and no others: a text such as `ss01 -calt`.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_features(&self, features: &str) -> Result<Self, EditError> {
        let list: Vec<String> = features.split_whitespace().map(literal::text).collect();
        self.with_value(&["font", "features"], &format!("[{}]", list.join(", ")))
    }

    /// The setup with ligatures allowed or not.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_ligatures(&self, on: bool) -> Result<Self, EditError> {
        self.with_value(&["font", "ligatures"], if on { "true" } else { "false" })
    }

    /// The setup with families to fall back to.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_fallback(&self, families: &[String]) -> Result<Self, EditError> {
        let list: Vec<String> = families.iter().map(|f| literal::text(f)).collect();
        self.with_value(&["font", "fallback"], &format!("[{}]", list.join(", ")))
    }

    /// The setup with a symbol level, for everything or for one tool.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_symbols(
        &self,
        tool: Option<ToolId>,
        level: SymbolLevel,
    ) -> Result<Self, EditError> {
        match tool {
            None => self.with_text(&["symbols", "level"], level.key()),
            Some(tool) => self.with_text(&["tools", tool.0, "symbols"], level.key()),
        }
    }

    /// The setup with what is drawn as one, a character mostly, replaced by a text in every dotfile; no longer
    /// replaced when there is no text.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_replacement(&self, cluster: &str, text: Option<&str>) -> Result<Self, EditError> {
        let document = self.document()?;
        let entries = document.get("symbols").and_then(|s| s.get("replace"));
        let entries = entries.and_then(toml_edit::Item::as_table_like);
        let mut keys = entries
            .into_iter()
            .flat_map(|e| e.iter())
            .map(|(key, _)| key);
        // It stays spelled as it is.
        let spelled = keys.find(|key| cluster_of(key).as_deref() == Some(cluster));
        if text.is_none() && spelled.is_none() && cluster.chars().nth(1).is_some() {
            // It is by its parts that it is replaced.
            let mut parts = parts(cluster).into_iter();
            return parts.try_fold(self.clone(), |doc, part| {
                doc.with_replacement(part.encode_utf8(&mut [0; 4]), None)
            });
        }
        let key = spelled.map_or_else(|| code_points(cluster), str::to_owned);
        match text {
            Some(text) => self.with_value(&["symbols", "replace", &key], &basic(text)),
            None => self.without(&["symbols", "replace", &key]),
        }
    }
}

/// A text as a basic string with private-use characters escaped, so that an editor without their
/// font still shows which they are.
fn basic(text: &str) -> String {
    let mut out = String::from("\"");
    for c in text.chars() {
        match c {
            '"' => out.push_str("\\\""),
            '\\' => out.push_str("\\\\"),
            c if crate::character::is_private_use(c) => {
                out.push_str(&crate::escape::Escape::Short.write(c))
            }
            c => out.push(c),
        }
    }
    out.push('"');
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use skrifa::Tag;

    const TEXT: &str = "[palettes.a]\nbackground='#101010'\n\n[font]\nfamily = \"Reedbed Mono NF\" # mine\nfeatures = [\"ss01\", \"-calt\", \"cv02=3\"]\nligatures = false\nline-height = 1.1\nfallback = [\"Sedge Mono NF\"]\nbold = \"Reedbed Mono NF Bold\"\n\n[symbols]\nlevel = \"icons\"\n[symbols.replace]\n\"U+F64F\" = \"\\U000f0150\"\n\"✗\" = \"x\"\n\n[tools.tmux]\nsymbols = \"plain\"\n";

    fn doc(text: &str) -> SetupDoc {
        SetupDoc::parse("s.toml", text.as_bytes()).unwrap()
    }

    #[test]
    fn everything_of_the_font_is_read() {
        let doc = doc(TEXT);
        let font = &doc.setup().font;
        assert_eq!(font.features_text(), "ss01 -calt cv02=3");
        assert_eq!((font.ligatures, font.line_height), (Some(false), Some(1.1)));
        assert_eq!(font.of(Four::Bold), Some("Reedbed Mono NF Bold"));
        assert_eq!(font.fallback, ["Sedge Mono NF"]);
        let off = font.shaping();
        assert!(off.contains(&FeatureSetting::switch(Tag::new(b"liga"), false)));
    }

    #[test]
    fn wrong_entries_are_told_with_their_line() {
        let text = TEXT
            .replace("\"ss01\"", "\"stylish\"")
            .replace("\"✗\" =", "\"no sign\" =")
            .replace("\"plain\"", "\"fancy\"");
        let error = SetupDoc::parse("s.toml", text.as_bytes())
            .unwrap_err()
            .to_string();
        assert!(
            error.contains("s.toml:6:13: 'stylish' is no feature"),
            "{error}"
        );
        assert!(
            error.contains("s.toml:16:") && error.contains("'no sign' is no character"),
            "{error}"
        );
        assert!(
            error.contains("s.toml:19:") && error.contains("icons, plain, ascii"),
            "{error}"
        );
    }

    #[test]
    fn edits_touch_only_what_they_change() {
        let doc = doc(TEXT);
        let tag = Tag::new(b"ss01");
        let off = doc
            .with_feature(FeatureSetting::switch(tag, false), false)
            .unwrap();
        assert_eq!(off.setup().font.features_text(), "-calt cv02=3 -ss01");
        assert!(off.text().contains("family = \"Reedbed Mono NF\" # mine\n"));
        let gone = off
            .with_feature(FeatureSetting::switch(tag, false), true)
            .unwrap();
        assert_eq!(gone.setup().font.features_text(), "-calt cv02=3");
        let back = doc.without_face(Four::Bold).unwrap();
        assert_eq!(back.setup().font.bold, None);
        assert_eq!(
            back.text(),
            TEXT.replace("bold = \"Reedbed Mono NF Bold\"\n", "")
        );
        let added = doc
            .with_replacement("\u{f07b}", Some("\u{f024b}\""))
            .unwrap();
        assert!(
            added.text().contains("\"U+F07B\" = \"\\U000f024b\\\"\"\n"),
            "{}",
            added.text()
        );
        let removed = added.with_replacement("\u{f07b}", None).unwrap();
        assert_eq!(removed.text(), TEXT);
        // As it is spelled in the file.
        let own = doc.with_replacement("✗", Some("*")).unwrap();
        assert_eq!(own.text(), TEXT.replace("\"✗\" = \"x\"", "\"✗\" = \"*\""));
        let flag = "\u{1f1e9}\u{1f1ea}";
        let letters = doc.with_replacement("\u{1f1e9}", Some("D")).unwrap();
        let stays = letters.with_replacement(flag, None).unwrap();
        assert_eq!(stays.text(), TEXT);
        let flag = doc.with_replacement(flag, Some("DE")).unwrap();
        assert!(
            flag.text().contains("\"U+1F1E9 U+1F1EA\" = \"DE\"\n"),
            "{}",
            flag.text()
        );
        let tool = doc
            .with_symbols(Some(ToolId("bash")), SymbolLevel::Ascii)
            .unwrap();
        assert_eq!(tool.setup().symbols_for(ToolId("bash")), SymbolLevel::Ascii);
        assert_eq!(
            tool.setup().symbols_for(ToolId("kitty")),
            SymbolLevel::Icons
        );
        assert_eq!(
            doc.with_fallback(&["A".into(), "B".into()])
                .unwrap()
                .setup()
                .font
                .fallback,
            ["A", "B"]
        );
    }
}
