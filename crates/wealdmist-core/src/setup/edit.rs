//! Changing `setup.toml` by splices: only the bytes of the value that changes are touched, and
//! a new entry goes to the end of the table it belongs to.

use std::ops::Range;

use toml_edit::{Document, Item, Table};

use super::splice::{after_header, find, line_break};
use super::{Expr, Palette, PaletteName, Setup, SetupDoc, Style};
use super::{literal, splice};
use crate::color::Rgb;
use crate::prompt::Design;
use crate::reading::ToolId;
use crate::role::{RoleId, Slot};
use crate::text;

/// A change the setup file cannot take.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum EditError {
    /// The file as changed could not be read again; it is left as it was.
    #[error("the change would break the setup file: {0}")]
    Breaks(String),
    /// There is nothing at the place to change.
    #[error("there is no '{0}' in the setup file")]
    Missing(String),
}

impl SetupDoc {
    /// The setup with one palette slot changed.
    ///
    /// # Errors
    /// When the palette cannot be written at its place.
    pub fn with_slot(
        &self,
        palette: &PaletteName,
        slot: Slot,
        color: Rgb,
    ) -> Result<Self, EditError> {
        self.with_value(
            &["palettes", palette, slot.key()],
            &literal::text(&color.to_string()),
        )
    }

    /// The setup with one named color of a palette changed or added.
    ///
    /// # Errors
    /// As for [`Self::with_slot`].
    pub fn with_named(
        &self,
        palette: &PaletteName,
        name: &str,
        color: Rgb,
    ) -> Result<Self, EditError> {
        self.with_value(
            &["palettes", palette, "colors", name],
            &literal::text(&color.to_string()),
        )
    }

    /// The setup with a whole palette added, or every color of the one of that name set.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_palette(&self, palette: &Palette) -> Result<Self, EditError> {
        if self.setup.palette_named(&palette.name).is_some() {
            let mut out = self.clone();
            for slot in Slot::ALL {
                out = out.with_slot(&palette.name, slot, palette.slot(slot))?;
            }
            for (name, color) in &palette.colors {
                out = out.with_named(&palette.name, name, *color)?;
            }
            let path = ["palettes", palette.name.as_str(), "variant"];
            return out.with_text(&path, palette.variant.key());
        }
        let end = text::line_end(self.text.as_bytes());
        let name = literal::key(&palette.name);
        let mut block = format!("{end}[palettes.{name}]{end}");
        let variant = literal::text(palette.variant.key());
        block.push_str(&format!("variant = {variant}{end}"));
        for slot in Slot::ALL {
            let color = literal::text(&palette.slot(slot).to_string());
            block.push_str(&format!("{} = {color}{end}", slot.key()));
        }
        if !palette.colors.is_empty() {
            block.push_str(&format!("{end}[palettes.{name}.colors]{end}"));
            for (own, color) in &palette.colors {
                let color = literal::text(&color.to_string());
                block.push_str(&format!("{} = {color}{end}", literal::key(own)));
            }
        }
        self.appended(&block)
    }

    /// The setup with every color that a role has for itself made a named color of each palette,
    /// so that it can differ from palette to palette. Nothing looks different under the palette
    /// in use; in the others each takes the color it comes to there.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_role_colors_named(&self) -> Result<Self, EditError> {
        let setup = &self.setup;
        let from = setup.palette();
        let mut out = self.clone();
        for (role, style) in &setup.roles {
            let Some(Expr::Value(color)) = style.color else {
                continue;
            };
            let plain = format!("{}-color", role.as_str().replace('.', "-"));
            let taken = |n: &str| {
                setup
                    .palettes
                    .iter()
                    .any(|p| p.colors.iter().any(|c| c.0 == n))
            };
            let mut name = plain.clone();
            let mut number = 2;
            while taken(&name) {
                name = format!("{plain}-{number}");
                number += 1;
            }
            for palette in &setup.palettes {
                let color = if palette.name == from.name {
                    color
                } else {
                    super::adapted(color, from, palette)
                };
                out = out.with_named(&palette.name, &name, color)?;
            }
            out = out.with_role(role, &Expr::Ref(name))?;
        }
        Ok(out)
    }

    /// The setup with a name added to those of a palette that repairs must not move, or taken out.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_lock(
        &self,
        palette: &PaletteName,
        name: &str,
        locked: bool,
    ) -> Result<Self, EditError> {
        let found = self.setup.palette_named(palette);
        let mut names = found
            .ok_or_else(|| EditError::Missing(palette.to_string()))?
            .locked
            .clone();
        names.retain(|n| n != name);
        if locked {
            names.push(name.to_owned());
        }
        let list: Vec<String> = names.iter().map(|n| literal::text(n)).collect();
        let literal = format!("[{}]", list.join(", "));
        self.with_value(&["palettes", palette, "locked"], &literal)
    }

    /// The setup with a pair allowed to stay below its target, for a reason.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_contrast_exception(
        &self,
        text: &RoleId,
        ground: &RoleId,
        reason: &str,
    ) -> Result<Self, EditError> {
        let end = text::line_end(self.text.as_bytes());
        let without = self.without_contrast_exception(text, ground)?;
        without.appended(&format!(
            "{end}[[contrast.exceptions]]{end}text = {}{end}ground = {}{end}reason = {}{end}",
            literal::text(text.as_str()),
            literal::text(ground.as_str()),
            literal::text(reason)
        ))
    }

    /// The setup without the exception for a pair, if there is one.
    ///
    /// # Errors
    /// When the file cannot be changed there.
    pub fn without_contrast_exception(
        &self,
        text: &RoleId,
        ground: &RoleId,
    ) -> Result<Self, EditError> {
        self.without_table(&["contrast", "exceptions"], |t| {
            let own = |k: &str| t.get(k).and_then(Item::as_str);
            let on = own("ground").is_none_or(|g| g == ground.as_str());
            own("text") == Some(text.as_str()) && on
        })
    }

    /// The setup with a role's color changed or stated; its attributes stay.
    ///
    /// # Errors
    /// When the expression names something unknown.
    pub fn with_role(&self, role: &RoleId, color: &Expr) -> Result<Self, EditError> {
        let attrs = self
            .setup
            .roles
            .get(role)
            .map(|s| s.attrs)
            .unwrap_or_default();
        let style = Style {
            color: Some(color.clone()),
            attrs,
        };
        let literal = literal::style(&style);
        let document = self.document()?;
        // The name may stand as one quoted key or as a dotted path; write where it stands.
        let quoted_key = ["roles", role.as_str()];
        let dotted: Vec<&str> = std::iter::once("roles")
            .chain(role.as_str().split('.'))
            .collect();
        let stands_dotted = find(document.as_table(), &quoted_key).is_none()
            && find(document.as_table(), &dotted).is_some();
        let path: &[&str] = if stands_dotted { &dotted } else { &quoted_key };
        if let Some(Item::Table(table)) = find(document.as_table(), path) {
            // A table of its own: only the color's line changes.
            let old = ["color", "mix"].into_iter().find_map(|k| {
                let key = table.key(k)?.span()?;
                Some(key.start..table.get(k)?.span()?.end)
            });
            if let Some(span) = old {
                return self.spliced(span, &literal::color(color));
            }
            let at = after_header(&self.text, table).ok_or(EditError::Missing(role.to_string()))?;
            let end = text::line_end(self.text.as_bytes());
            return self.spliced(at..at, &format!("{}{end}", literal::color(color)));
        }
        self.with_value(path, &literal)
    }

    /// The setup with an exception added or its reason changed.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_exception(
        &self,
        tool: ToolId,
        role: &RoleId,
        reason: &str,
    ) -> Result<Self, EditError> {
        let without = self.without_exception(tool, role)?;
        let end = text::line_end(self.text.as_bytes());
        let block = format!(
            "{end}[[exceptions]]{end}tool = {}{end}role = {}{end}reason = {}{end}",
            literal::text(tool.0),
            literal::text(role.as_str()),
            literal::text(reason)
        );
        without.appended(&block)
    }

    /// The setup without the exception for a role in a tool, if there is one.
    ///
    /// # Errors
    /// When the file cannot be changed there.
    pub fn without_exception(&self, tool: ToolId, role: &RoleId) -> Result<Self, EditError> {
        self.without_table(&["exceptions"], |t| {
            let own = |k: &str| t.get(k).and_then(Item::as_str);
            own("tool") == Some(tool.0) && own("role") == Some(role.as_str())
        })
    }

    /// The setup without the first table of a list that matches, if one does.
    fn without_table(
        &self,
        list: &[&str],
        matches: impl Fn(&Table) -> bool,
    ) -> Result<Self, EditError> {
        let document = self.document()?;
        let tables = find(document.as_table(), list).and_then(Item::as_array_of_tables);
        let Some(table) = tables.and_then(|t| t.iter().find(|t| matches(t))) else {
            return Ok(self.clone());
        };
        let header = table
            .span()
            .ok_or_else(|| EditError::Missing(list.join(".")))?;
        let last = table
            .iter()
            .filter_map(|(_, i)| i.span())
            .map(|s| s.end)
            .max();
        let bytes = self.text.as_bytes();
        let mut start = text::line_range(bytes, header.start).start;
        let mut end = text::line_range(bytes, last.unwrap_or(header.end)).end;
        end += line_break(bytes, end);
        // One blank line before the block goes with it.
        if start >= 1 && text::line_range(bytes, start - 1).is_empty() {
            start = text::line_range(bytes, start - 1).start;
        }
        self.spliced(start..end, "")
    }

    /// The setup with a role added to those written to a tool that does not say it yet.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_addition(&self, tool: ToolId, role: &RoleId) -> Result<Self, EditError> {
        let mut adds = self.setup.tool(tool).adds;
        if adds.contains(role) {
            return Ok(self.clone());
        }
        adds.push(role.clone());
        let list: Vec<String> = adds.iter().map(|r| literal::text(r.as_str())).collect();
        self.with_value(
            &["tools", tool.0, "adds"],
            &format!("[{}]", list.join(", ")),
        )
    }

    /// The setup with a text changed, such as `["font", "family"]`.
    ///
    /// # Errors
    /// When the value is not allowed there.
    pub fn with_text(&self, path: &[&str], value: &str) -> Result<Self, EditError> {
        self.with_value(path, &literal::text(value))
    }

    /// The setup with a word for yes or no changed, such as `["tools", "nvim", "manage"]`.
    ///
    /// # Errors
    /// When the value is not allowed there.
    pub fn with_flag(&self, path: &[&str], value: bool) -> Result<Self, EditError> {
        self.with_value(path, if value { "true" } else { "false" })
    }

    /// The setup in which a tool's theme or prompt is ours, or the person's own again.
    ///
    /// # Errors
    /// When the file cannot take it.
    pub fn with_generated(&self, tool: ToolId, ours: bool) -> Result<Self, EditError> {
        self.with_flag(&["tools", tool.0, "generate"], ours)
    }

    /// The setup with another design of the prompt: `toml` is what stands in `[prompt]`. Tables of the one
    /// before go, with what stands in them.
    ///
    /// # Errors
    /// When the file cannot take it, or says something of the prompt outside of tables.
    pub fn with_prompt(&self, toml: &str) -> Result<Self, EditError> {
        let end = text::line_end(self.text.as_bytes());
        let (mut kept, mut inside) = (String::with_capacity(self.text.len()), false);
        for line in self.text.split_inclusive('\n') {
            let head = line.trim_start();
            if head.starts_with('[') {
                let name = head.trim_start_matches('[').trim_start();
                let name = name.trim_start_matches(['"', '\'']);
                let rest = name
                    .strip_prefix("prompt")
                    .map(|r| r.trim_start_matches(['"', '\'', ' ']));
                inside = rest.is_some_and(|r| r.starts_with([']', '.']));
            }
            if !inside {
                kept.push_str(line);
            }
        }
        let without = Self::parse(self.path.clone(), kept.as_bytes())
            .map_err(|e| EditError::Breaks(e.to_string()))?;
        let bare = Setup {
            prompt: Design::default(),
            ..self.setup.clone()
        };
        if without.setup != bare {
            return Err(EditError::Breaks(
                "what it says of the prompt stands beside other things: move it into [prompt]"
                    .into(),
            ));
        }
        let toml = toml.trim_end().replace('\n', end);
        without.appended(&format!("{end}[prompt]{end}{toml}{end}"))
    }

    /// The setup with a number changed, such as `["font", "size"]`.
    ///
    /// # Errors
    /// When the value is not allowed there.
    pub fn with_number(&self, path: &[&str], value: f64) -> Result<Self, EditError> {
        self.with_value(path, &literal::float(value))
    }

    /// The same, written as a whole number.
    pub(super) fn with_whole(&self, path: &[&str], value: f64) -> Result<Self, EditError> {
        self.with_value(path, &format!("{value:.0}"))
    }

    /// The setup with the TOML `literal` at `path`, replaced where it stands or added.
    pub(super) fn with_value(&self, path: &[&str], literal: &str) -> Result<Self, EditError> {
        self.rewritten(&splice::put(&self.text, path, literal)?)
    }

    /// The setup without the entry at `path`: its whole line goes. Without such an entry nothing
    /// changes.
    pub(super) fn without(&self, path: &[&str]) -> Result<Self, EditError> {
        match splice::taken_out(&self.text, path)? {
            Some(text) => self.rewritten(&text),
            None => Ok(self.clone()),
        }
    }

    pub(super) fn document(&self) -> Result<Document<&str>, EditError> {
        splice::document(&self.text)
    }

    fn appended(&self, block: &str) -> Result<Self, EditError> {
        self.rewritten(&splice::appended(&self.text, block))
    }

    fn spliced(&self, span: Range<usize>, with: &str) -> Result<Self, EditError> {
        self.rewritten(&splice::spliced(&self.text, span, with))
    }

    /// The setup of another text in the same file.
    pub(super) fn rewritten(&self, text: &str) -> Result<Self, EditError> {
        Self::parse(self.path.clone(), text.as_bytes())
            .map_err(|e| EditError::Breaks(e.to_string()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const TEXT: &str = "# mine\r\npalette = \"a\" # in use\r\n\r\n[palettes.a] # first\r\n  red = \"#f00000\"   # keep\r\n\r\n[roles]\r\ncomment = { mix = [\"background\", \"red\", 0.5], italic = true } # soft\r\nborder.active = \"red\"\r\n[roles.keyword]\r\nbold = true\r\ncolor = \"blue\" # k\r\n";

    fn doc() -> SetupDoc {
        SetupDoc::parse("s.toml", TEXT.as_bytes()).unwrap()
    }

    #[test]
    fn a_value_changes_where_it_stands() {
        let color = Rgb::new(1, 2, 3);
        let new = doc().with_slot(&"a".into(), Slot::Red, color).unwrap();
        assert_eq!(new.text(), TEXT.replace("#f00000", "#010203"));
        let new = doc()
            .with_role(&RoleId::known("border.active"), &Expr::Value(color))
            .unwrap();
        assert_eq!(new.text(), TEXT.replace("= \"red\"\r", "= \"#010203\"\r"));
        let new = doc()
            .with_role(&RoleId::known("keyword"), &Expr::Ref("red".into()))
            .unwrap();
        assert_eq!(
            new.text(),
            TEXT.replace("color = \"blue\"", "color = \"red\"")
        );
        let new = doc()
            .with_role(&RoleId::known("comment"), &Expr::Value(color))
            .unwrap();
        assert!(
            new.text()
                .contains("comment = { color = \"#010203\", italic = true } # soft")
        );
    }

    #[test]
    fn new_entries_go_to_their_table_in_its_manner() {
        let new = doc()
            .with_slot(&"a".into(), Slot::Blue, Rgb::new(1, 2, 3))
            .unwrap();
        assert!(
            new.text()
                .contains("# keep\r\n  blue = \"#010203\"\r\n\r\n[roles]"),
            "{}",
            new.text()
        );
        let new = doc().with_number(&["font", "size"], 12.0).unwrap();
        assert!(
            new.text().ends_with("\r\n[font]\r\nsize = 12.0\r\n"),
            "{}",
            new.text()
        );
        let new = doc().with_text(&["name"], "N").unwrap();
        assert!(
            new.text().contains("# in use\r\nname = \"N\"\r\n"),
            "{}",
            new.text()
        );
        let new = doc()
            .with_addition(ToolId("tmux"), &RoleId::known("comment"))
            .unwrap();
        assert_eq!(new.setup().tool(ToolId("tmux")).adds.len(), 1);
    }

    #[test]
    fn exceptions_come_and_go_without_a_trace() {
        let role = RoleId::known("comment");
        let with = doc()
            .with_exception(ToolId("tmux"), &role, "say \"why\"")
            .unwrap();
        assert_eq!(with.setup().exceptions[0].reason, "say \"why\"");
        let with2 = with.with_exception(ToolId("kitty"), &role, "b").unwrap();
        let back = with2.without_exception(ToolId("kitty"), &role).unwrap();
        assert_eq!(back.text(), with.text());
        assert_eq!(
            back.without_exception(ToolId("tmux"), &role)
                .unwrap()
                .text(),
            TEXT
        );
    }

    #[test]
    fn another_design_takes_the_place_of_the_one_before() {
        let text = "[palettes.a]\r\n[prompt]\r\nlines = 1\r\n[prompt.parts.user]\r\nwhen = 'root'\r\n# mine\r\n[window]\r\nopacity = 0.5\r\n";
        let doc = SetupDoc::parse("s", text.as_bytes()).unwrap();
        for ready in crate::prompt::ready::ALL {
            let with = doc.with_prompt(ready.toml).unwrap();
            assert!(
                with.text()
                    .starts_with("[palettes.a]\r\n[window]\r\nopacity = 0.5\r\n"),
                "{}",
                with.text()
            );
            assert!(!with.text().replace("\r\n", "").contains('\n'));
            assert_eq!(
                with.with_prompt("lines = 1\n")
                    .unwrap()
                    .setup()
                    .prompt
                    .lines
                    .len(),
                1
            );
        }
        let dotted = SetupDoc::parse("s", b"prompt.lines = 1\n[palettes.a]\n").unwrap();
        assert!(dotted.with_prompt("lines = 2\n").is_err());
    }

    #[test]
    fn a_change_that_would_break_the_file_is_refused() {
        let bad = doc().with_role(&RoleId::known("hint"), &Expr::Ref("nosuch".into()));
        assert!(matches!(bad, Err(EditError::Breaks(m)) if m.contains("nosuch")));
    }

    proptest! {
        #[test]
        fn only_the_color_changes(v in 0u32..0x100_0000, slot in 0usize..22) {
            let slot = Slot::ALL[slot];
            let color = Rgb::from_u32(v);
            let new = doc().with_slot(&"a".into(), slot, color).unwrap();
            prop_assert_eq!(new.setup().palette().slot(slot), color);
            let again = new.with_slot(&"a".into(), slot, Rgb::new(0, 0, 0)).unwrap();
            prop_assert_eq!(again.text().len(), new.text().len());
            for line in TEXT.split("\r\n").filter(|l| !l.contains("red = ")) {
                prop_assert!(new.text().contains(line));
            }
        }
    }
}
