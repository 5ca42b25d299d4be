//! What the Font bench writes into the draft: faces, size, features, line height, fallbacks.

use wealdmist_core::font::{FeatureSetting, Four};

use super::Page;
use crate::tui::app::{App, Effect, Input, Purpose};

impl App {
    /// Chooses the family, or the face for the style shown.
    pub(in crate::tui::app) fn choose_font(&mut self) -> Vec<Effect> {
        let Some(family) = self.fonts.family().cloned() else {
            return Vec::new();
        };
        if self.fonts.page == Page::Features {
            return self.switch_feature();
        }
        if !family.installed {
            self.tell("it is not installed: i installs it");
            return Vec::new();
        }
        let style = self.fonts.style;
        let name = match style {
            Four::Regular => Some(family.name.clone()),
            _ => self
                .entry_of(&family.name, true, style)
                .filter(|e| e.1)
                .and_then(|e| e.0.info.full_names.first().cloned()),
        };
        let Some(name) = name else {
            self.tell(&format!("'{}' has no {} face", family.name, style.label()));
            return Vec::new();
        };
        let changed = self.survey.doc.with_face(style, &name);
        if !self.change(changed) {
            return Vec::new();
        }
        self.tell(&format!("{}: {name}", style.label()));
        if style != Four::Regular {
            return self.show_fonts();
        }
        self.busy = Some("looking for the font");
        vec![Effect::FindFont]
    }

    /// Adds the family to those that are fallen back to, or takes it out.
    pub(in crate::tui::app) fn switch_fallback(&mut self) -> Vec<Effect> {
        let Some(family) = self.fonts.family().filter(|f| f.installed).cloned() else {
            return Vec::new();
        };
        let mut families = self.survey.doc.setup().font.fallback.clone();
        let there = families.iter().position(|f| *f == family.name);
        match there {
            Some(at) => {
                families.remove(at);
            }
            None => families.push(family.name.clone()),
        }
        let changed = self.survey.doc.with_fallback(&families);
        if self.change(changed) {
            let list = if families.is_empty() {
                "none".to_owned()
            } else {
                families.join(", ")
            };
            self.tell(&format!("fallback, in this order: {list}"));
        }
        vec![Effect::FindFont]
    }

    /// Switches the feature pointed at: on, off, as the font has it.
    fn switch_feature(&mut self) -> Vec<Effect> {
        let Some(fact) = self
            .face_shown()
            .and_then(|o| o.facts.features.get(self.fonts.row))
            .cloned()
        else {
            return Vec::new();
        };
        let features = &self.survey.doc.setup().font.features;
        let now = features.iter().find(|f| f.tag == fact.tag).map(|f| f.value);
        let other = FeatureSetting::switch(fact.tag, !fact.default);
        let changed = self.survey.doc.with_feature(other, now.is_some());
        if self.change(changed) {
            let word = match (now.is_some(), fact.default) {
                (true, _) => "as the font has it",
                (_, true) => "off",
                (_, false) => "on",
            };
            self.tell(&format!("{} ({}): {word}", fact.name, fact.tag));
        }
        self.show_fonts()
    }

    /// Allows ligatures or not.
    pub(in crate::tui::app) fn switch_ligatures(&mut self) -> Vec<Effect> {
        let on = self.survey.doc.setup().font.ligatures.unwrap_or(true);
        let changed = self.survey.doc.with_ligatures(!on);
        if self.change(changed) {
            self.tell(if on { "ligatures off" } else { "ligatures on" });
        }
        self.show_fonts()
    }

    /// Sets lines further apart or closer together.
    pub(in crate::tui::app) fn change_line_height(&mut self, by: f64) -> Vec<Effect> {
        let now = self.survey.doc.setup().font.line_height.unwrap_or(1.0);
        let next = (((now + by) * 20.0).round() / 20.0).clamp(0.7, 2.0);
        let changed = self.survey.doc.with_number(&["font", "line-height"], next);
        if self.change(changed) {
            self.tell(&format!("line height {next}"));
        }
        self.show_fonts()
    }

    pub(in crate::tui::app) fn start_font_size(&mut self) {
        let size = self.survey.doc.setup().font.size;
        self.input = Some(Input {
            question: "font size in points".into(),
            text: size.map_or(String::new(), |s| s.to_string()),
            purpose: Purpose::FontSize,
        });
    }

    pub(in crate::tui::app) fn typed_font_size(&mut self, text: &str) {
        match text.trim().parse::<f64>() {
            Ok(size) => {
                let changed = self.survey.doc.with_number(&["font", "size"], size);
                self.change(changed);
            }
            Err(_) => self.complain(format!("'{text}' is no number of points")),
        }
    }
}
